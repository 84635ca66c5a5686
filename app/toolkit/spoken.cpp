// The factory of accessible interfaces for drawings, and plots in words.
#include "toolkit/spoken.h"

#include <QAccessible>
#include <QAccessibleWidget>
#include <algorithm>
#include <cmath>
#include <qcustomplot.h>

namespace {

// The axis' title, where the unit stands, with a value on it.
QString axis_words(const QCPAxis& axis, double value) {
  return axis.label().isEmpty() ? plot_figure(value) : QString("%1 %2").arg(axis.label(), plot_figure(value));
}

class DrawingInterface : public QAccessibleWidget {
 public:
  explicit DrawingInterface(QWidget* widget) : QAccessibleWidget(widget, QAccessible::Graphic) {}

  QString text(QAccessible::Text kind) const override {
    // Asked each time: while the widget is being destroyed it is no drawing any more.
    const auto* drawing = dynamic_cast<const SpokenDrawing*>(widget());
    const auto* plot = qobject_cast<const QCustomPlot*>(widget());
    const QString at = drawing ? drawing->at_cursor() : QString();
    if (kind == QAccessible::Value) return at;
    if (kind == QAccessible::Description)
      return drawing ? drawing->readings() : plot ? plot_readings(*plot) : QString();
    const QString whole = QAccessibleWidget::text(kind);
    return kind == QAccessible::Name && !at.isEmpty() ? whole + ": " + at : whole;
  }
};

QAccessibleInterface* drawing_interface(const QString&, QObject* object) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (!widget) return nullptr;
  const bool drawn = dynamic_cast<const SpokenDrawing*>(widget) || qobject_cast<const QCustomPlot*>(widget);
  return drawn ? new DrawingInterface(widget) : nullptr;
}

} // namespace

void install_spoken_drawings() {
  QAccessible::installFactory(drawing_interface); // the same one twice counts once
}

void tell_cursor(QWidget& drawing) {
  QAccessibleEvent event(&drawing, QAccessible::NameChanged);
  QAccessible::updateAccessibility(&event);
}

QString part_words(const QString& title, const QStringList& values, bool beyond_limit) {
  QStringList out = values;
  out.removeAll(QString());
  if (beyond_limit) out << "beyond its limit";
  return out.isEmpty() ? title : title + ": " + out.join(", ");
}

QString plot_figure(double value) {
  return QString::number(value, 'g', 4);
}

QString plot_readings(const QCustomPlot& plot) {
  QStringList out;
  for (int i = 0; i < plot.graphCount(); ++i) {
    const QCPGraph& graph = *plot.graph(i);
    bool any = false;
    const QCPRange range = graph.getValueRange(any);
    if (!any || !graph.visible()) continue;
    const QCPRange along = graph.getKeyRange(any);
    const QString axis = graph.valueAxis()->label();
    out << QString("%1%2, %3 to %4, over %5, %6 to %7")
               .arg(graph.name(), axis.isEmpty() ? QString() : " (" + axis + ")", plot_figure(range.lower),
                    plot_figure(range.upper), graph.keyAxis()->label(), plot_figure(along.lower),
                    plot_figure(along.upper));
  }
  return out.isEmpty() ? QString("nothing is drawn") : out.join("; ");
}

QString plot_readings_at(const QCustomPlot& plot, double x) {
  QStringList out{axis_words(*plot.xAxis, x)};
  for (int i = 0; i < plot.graphCount(); ++i) {
    const QCPGraph& graph = *plot.graph(i);
    if (!graph.visible() || graph.data()->isEmpty()) continue;
    auto at = graph.data()->findBegin(x, true);
    const auto next = std::min(at + 1, graph.data()->constEnd() - 1);
    if (std::abs(next->key - x) < std::abs(at->key - x)) at = next;
    out << graph.name() + " " + axis_words(*graph.valueAxis(), at->value);
  }
  return out.join(", ");
}

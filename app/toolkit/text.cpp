// The one place where the toolkit would guess whether a text is markup.
#include "toolkit/text.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QHeaderView>
#include <QHelpEvent>
#include <QTextDocument>
#include <QToolTip>

namespace {

QString as_it_is(const QString& text) {
  return Qt::mightBeRichText(text) ? Qt::convertFromPlainText(text) : text;
}

QString tip_of(const QWidget& widget, const QPoint& at) {
  const auto* view = qobject_cast<const QAbstractItemView*>(widget.parentWidget());
  if (!view || view->viewport() != &widget) return widget.toolTip();
  if (const auto* head = qobject_cast<const QHeaderView*>(view)) {
    const int section = head->logicalIndexAt(at);
    return section < 0 || !head->model()
               ? QString()
               : head->model()->headerData(section, head->orientation(), Qt::ToolTipRole).toString();
  }
  return view->indexAt(at).data(Qt::ToolTipRole).toString();
}

class PlainTooltips : public QObject {
 public:
  PlainTooltips(MoreOfTip more, QObject* parent) : QObject(parent), more_(std::move(more)) {}
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (event->type() != QEvent::ToolTip || !watched->isWidgetType()) return false;
    auto& widget = static_cast<QWidget&>(*watched);
    const auto& help = static_cast<const QHelpEvent&>(*event);
    QString tip = tip_of(widget, help.pos());
    if (const QString more = more_(widget, help.pos()); !more.isEmpty()) {
      // What would be told for a part of something is told still.
      for (const QWidget* each = &widget; tip.isEmpty() && !each->isWindow(); each = each->parentWidget())
        tip = each->parentWidget()->toolTip();
      tip += (tip.isEmpty() ? "" : "\n\n") + more;
    } else if (!Qt::mightBeRichText(tip))
      return false; // the toolkit does the same with it
    QToolTip::showText(help.globalPos(), as_it_is(tip), &widget);
    return true;
  }

 private:
  MoreOfTip more_;
};

} // namespace

QLabel* make_text(const QString& text, QWidget* parent) {
  auto* label = new QLabel(parent);
  label->setTextFormat(Qt::PlainText);
  label->setText(text);
  return label;
}

QLabel* make_marked_up(const QString& html, QWidget* parent) {
  auto* label = new QLabel(parent);
  label->setTextFormat(Qt::RichText);
  label->setText(html);
  return label;
}

void say(QWidget* parent, const QString& title, const QString& text) {
  MessageBox(QMessageBox::Warning, title, text, QMessageBox::Ok, parent).exec();
}

void install_plain_tooltips(MoreOfTip more) {
  static bool done = false;
  if (std::exchange(done, true)) return;
  qApp->installEventFilter(new PlainTooltips(std::move(more), qApp));
}

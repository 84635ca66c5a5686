// Plot styling.
#include "toolkit/plot.h"
#include "toolkit/file_dialogs.h"

#include <QBuffer>
#include <QPainter>
#include <QPixmap>
#include <QSvgGenerator>
#include <stdexcept>

void style_plot(QCustomPlot& plot, const Theme& theme) {
  plot.setBackground(theme.paper);
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis, plot.xAxis2, plot.yAxis2}) {
    axis->setBasePen(QPen(theme.second, 1));
    axis->setTickPen(QPen(theme.second, 1));
    axis->setSubTickPen(QPen(theme.hairline, 1));
    axis->setTickLabelColor(theme.second);
    axis->setLabelColor(theme.ink);
    axis->setTickLabelFont(type::font(type::caption));
    axis->setLabelFont(type::font(type::caption, QFont::Medium));
    axis->grid()->setPen(QPen(theme.hairline, 1, Qt::DotLine));
    axis->grid()->setZeroLinePen(Qt::NoPen);
  }
  plot.legend->setFont(type::font(type::caption));
  plot.legend->setTextColor(theme.ink);
  plot.legend->setBrush(theme.card);
  plot.legend->setBorderPen(QPen(theme.hairline));
}

void draw_focus_frame(QWidget& plot, const Theme& theme) {
  if (!plot.hasFocus()) return;
  QPainter painter(&plot);
  painter.setPen(QPen(theme.arc, 1, Qt::DotLine));
  painter.drawRect(plot.rect().adjusted(0, 0, -1, -1));
}

// In a row of its own over the axes, so that no curve runs below it.
void lay_legend_flat(QCustomPlot& plot) {
  constexpr int row_height = 20;
  QCPLayoutGrid* grid = plot.plotLayout();
  if (grid->rowCount() < 2) {
    plot.axisRect()->insetLayout()->take(plot.legend);
    auto* row = new QCPLayoutInset;
    row->addElement(plot.legend, Qt::AlignRight | Qt::AlignTop);
    grid->insertRow(0);
    grid->addElement(0, 0, row);
    grid->setRowSpacing(0);
    grid->setRowStretchFactor(0, 0.001);
    plot.legend->setFillOrder(QCPLegend::foColumnsFirst);
    plot.legend->setWrap(0);
    plot.legend->setIconSize(18, 10);
    plot.legend->setMargins({4, 1, 4, 1});
  }
  plot.legend->setBorderPen(Qt::NoPen);
  plot.legend->setBrush(Qt::NoBrush);
  QCPLayoutElement* row = grid->element(0, 0);
  const int height = plot.legend->visible() ? row_height : 0;
  row->setMinimumSize(0, height);
  row->setMaximumSize(QWIDGETSIZE_MAX, height);
}

void frame_curves(QCustomPlot& plot) {
  plot.rescaleAxes();
  const auto passes_zero = [](const QCPAxis* axis) { return axis->range().lower < 0 && axis->range().upper > 0; };
  const bool align = plot.yAxis2->visible() && passes_zero(plot.yAxis) && passes_zero(plot.yAxis2);
  for (QCPAxis* axis : {plot.yAxis, plot.yAxis2}) {
    if (align) {
      const double largest = std::max(-axis->range().lower, axis->range().upper);
      axis->setRange(-largest, largest);
    }
    axis->scaleRange(1.08);
  }
}

AxisUnit axis_unit(double typical, arc::Dimension dimension, arc::UnitSystem units) {
  // The printed form of a typical value names the unit; the factor follows from reading "1 unit" back.
  const QString printed = QString::fromStdString(arc::format_quantity(typical, dimension, units, 3));
  const QString symbol = printed.section(' ', 1);
  if (symbol.isEmpty() || symbol == "AWG") return {1, {}};
  const auto one = arc::parse_quantity(("1 " + symbol).toStdString(), dimension, units);
  const auto* factor = std::get_if<double>(&one);
  return factor ? AxisUnit{*factor, symbol} : AxisUnit{1, {}};
}

QString export_plot(QCustomPlot& plot, const QString& name, const std::function<std::string()>& csv,
                    const std::function<std::string()>& deck) {
  const QString path =
      file_dialogs::to_save(plot.window(), "Export the " + name, name + ".csv",
                            "Waveforms (*.csv);;Drawing (*.svg);;Picture (*.png);;SPICE deck (*.cir)");
  if (path.isEmpty()) return {};
  QString problem;
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  bool done = true;
  if (path.endsWith(".svg", Qt::CaseInsensitive)) {
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setSize(plot.size());
    svg.setViewBox(QRect({}, plot.size()));
    QCPPainter painter;
    done = painter.begin(&svg);
    if (done) plot.toPainter(&painter, plot.width(), plot.height());
    painter.end();
  } else if (path.endsWith(".png", Qt::CaseInsensitive)) {
    done = plot.toPixmap(0, 0, 2).save(&buffer, "PNG");
  } else {
    try {
      bytes = QByteArray::fromStdString(path.endsWith(".cir", Qt::CaseInsensitive) ? deck() : csv());
    } catch (const std::invalid_argument& refusal) { // a circuit that cannot be exported says why
      problem = QString::fromUtf8(refusal.what());
      done = false;
    }
  }
  done = done && write_whole_file(path, bytes, &problem);
  return done ? "Written to " + path : QString("Not written: %1").arg(problem.isEmpty() ? path : problem);
}

// Plot styling.
#include "widgets/plot.h"

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

AxisUnit axis_unit(double typical, arc::Dimension dimension, arc::UnitSystem units) {
  // The printed form of a typical value names the unit; the factor follows from reading "1 unit" back.
  const QString printed = QString::fromStdString(arc::format_quantity(typical, dimension, units, 3));
  const QString symbol = printed.section(' ', 1);
  if (symbol.isEmpty() || symbol == "AWG") return {1, {}};
  const auto one = arc::parse_quantity(("1 " + symbol).toStdString(), dimension, units);
  const auto* factor = std::get_if<double>(&one);
  return factor ? AxisUnit{*factor, symbol} : AxisUnit{1, {}};
}

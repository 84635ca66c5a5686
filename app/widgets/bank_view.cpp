// Drawing of the bank. Large banks show the first and last strings with a count between.
#include "widgets/bank_view.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace {
QString text(double si, arc::Dimension dimension, int digits = 3) {
  return QString::fromStdString(arc::format_quantity(si, dimension, arc::UnitSystem::metric, digits));
}
} // namespace

BankView::BankView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("bank");
  setMinimumHeight(220);
  connect(&workspace_.document, &Document::analysis_changed, this, [this] {
    const arc::Tank& tank = workspace_.document.design().tank;
    setAccessibleName(
        QString("Bank of %1 in series, %2 strings in parallel, %3")
            .arg(tank.units_in_series)
            .arg(tank.units_in_parallel)
            .arg(text(workspace_.document.analysis()->tank_capacitance_f, arc::Dimension::capacitance)));
    update();
  });
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void BankView::paint_unit(QPainter& painter, const QRectF& cell, const arc::Analysis& analysis) {
  const Theme& t = workspace_.theme();
  const arc::Tank& tank = workspace_.document.design().tank;
  const QRectF body(cell.center().x() - 34, cell.top() + cell.height() * 0.18, 40, cell.height() * 0.64);
  painter.setPen(QPen(t.ink, 1.3));
  painter.drawLine(QPointF(body.center().x(), cell.top()), QPointF(body.center().x(), body.top()));
  painter.drawLine(QPointF(body.center().x(), body.bottom()), QPointF(body.center().x(), cell.bottom()));
  painter.setBrush(t.card);
  painter.drawRoundedRect(body, 4, 4);
  painter.setPen(QPen(t.ink, 2));
  const double mid = body.center().y();
  painter.drawLine(QPointF(body.left() + 9, mid - 3), QPointF(body.right() - 9, mid - 3));
  painter.drawLine(QPointF(body.left() + 9, mid + 3), QPointF(body.right() - 9, mid + 3));

  if (tank.bleed_resistance_ohm) {
    const double x = body.left() - 12;
    painter.setPen(QPen(t.second, 1));
    painter.setBrush(Qt::NoBrush);
    const QRectF resistor(x - 3.5, mid - 11, 7, 22);
    painter.drawPolyline(QPolygonF{{body.center().x(), body.top() - 3}, {x, body.top() - 3}, {x, resistor.top()}});
    painter.drawPolyline(
        QPolygonF{{x, resistor.bottom()}, {x, body.bottom() + 3}, {body.center().x(), body.bottom() + 3}});
    painter.drawRect(resistor);
  }

  // Share of the rating: the bar's full height is the rating, the tick the 80 % limit.
  const QRectF bar(body.right() + 7, body.top(), 7, body.height());
  painter.setPen(QPen(t.second, 1));
  painter.setBrush(t.paper);
  painter.drawRect(bar);
  if (!tank.unit_voltage_v) return;
  const double used = analysis.unit_voltage_v / *tank.unit_voltage_v;
  const QColor colour = used > 1 ? t.stop : used > 0.8 ? t.warn : t.settled;
  const double high = bar.height() * std::min(used, 1.0);
  painter.fillRect(QRectF(bar.left() + 1, bar.bottom() - high, bar.width() - 1, high), colour);
  painter.setPen(QPen(t.ink, 1));
  painter.drawLine(QPointF(bar.left() - 2, bar.bottom() - 0.8 * bar.height()),
                   QPointF(bar.right() + 2, bar.bottom() - 0.8 * bar.height()));
  if (cell.height() < 46) return;
  painter.setFont(type::font(type::caption));
  painter.setPen(colour);
  painter.drawText(QRectF(bar.right() + 4, mid - 9, 46, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   QString("%1%").arg(used * 100, 0, 'f', 0));
}

void BankView::paintEvent(QPaintEvent*) {
  const Theme& t = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  const arc::Tank& tank = workspace_.document.design().tank;
  const int series = tank.unit_capacitance_f ? std::max(1, static_cast<int>(std::lround(tank.units_in_series))) : 1;
  const int parallel =
      tank.unit_capacitance_f ? std::max(1, static_cast<int>(std::lround(tank.units_in_parallel))) : 1;
  constexpr double cell_width = 128;
  const QRectF area = QRectF(rect()).adjusted(24, 44, -24, -30);
  const int columns = std::min(parallel, std::max(1, static_cast<int>(area.width() / cell_width)));
  const int rows = std::min(series, std::max(1, static_cast<int>(area.height() / 30)));
  const double cell_height = std::min(110.0, area.height() / rows);
  const double bank_width = columns * cell_width;
  const double left = area.center().x() - bank_width / 2;
  const double top = area.center().y() - rows * cell_height / 2;
  const double bottom = top + rows * cell_height;
  const double rail_left = left + cell_width / 2 - 40, rail_right = left + bank_width - cell_width / 2 + 28;

  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  painter.drawText(QRectF(0, top - 30, width(), 18), Qt::AlignCenter,
                   QString("to the gap, %1 when it fires")
                       .arg(text(workspace_.document.design().gap.firing_voltage_v, arc::Dimension::voltage)));
  painter.drawText(QRectF(0, bottom + 10, width(), 18), Qt::AlignCenter, "to the primary's inner end");
  painter.setPen(QPen(t.copper, 4, Qt::SolidLine, Qt::RoundCap));
  painter.drawLine(QPointF(rail_left, top), QPointF(rail_right, top));
  painter.drawLine(QPointF(rail_left, bottom), QPointF(rail_right, bottom));
  for (int c = 0; c < columns; ++c) {
    if (parallel > columns && c == columns - 1 && columns > 1) {
      painter.setPen(t.second);
      painter.drawText(QRectF(left + c * cell_width, top, cell_width, bottom - top), Qt::AlignCenter,
                       QString("and %1 more\nlike these").arg(parallel - columns + 1));
      continue;
    }
    for (int r = 0; r < rows; ++r) {
      const QRectF cell(left + c * cell_width, top + r * cell_height, cell_width, cell_height);
      if (series > rows && r == rows - 1 && rows > 1) {
        painter.setPen(QPen(t.second, 1.3, Qt::DotLine));
        painter.drawLine(QPointF(cell.center().x() - 14, cell.top()),
                         QPointF(cell.center().x() - 14, cell.bottom()));
        painter.setPen(t.second);
        painter.drawText(cell.adjusted(70, 0, 30, 0), Qt::AlignLeft | Qt::AlignVCenter,
                         QString("%1 more").arg(series - rows + 1));
      } else {
        paint_unit(painter, cell, *analysis);
      }
    }
  }
}

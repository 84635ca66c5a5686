// Colours, the level line by linear interpolation along the cells' edges, picking.
#include "toolkit/map_plot.h"

#include "toolkit/aged.h"
#include "toolkit/plot.h"

#include <QKeyEvent>
#include <array>
#include <cmath>
#include <limits>
#include <utility>

namespace {

std::size_t nearest(const std::vector<double>& all, double value) {
  const auto at = std::ranges::min_element(all, {}, [value](double each) { return std::abs(each - value); });
  return static_cast<std::size_t>(at - all.begin());
}

} // namespace

MapPlot::MapPlot(Workspace& workspace, const QString& name, const QString& words, QWidget* parent)
    : QCustomPlot(parent), workspace_(workspace) {
  setObjectName(name);
  setAccessibleName(words);
  setFocusPolicy(Qt::StrongFocus);
  veil_ = new Veil(workspace, this);
  connect(&workspace.document, &Document::design_changed, this, [this] { veil_->cover(true); });
  setToolTip("Pointer or arrow keys pick a place; the circled cross is where the design stands now");
  colours_ = new QCPColorMap(xAxis, yAxis);
  colours_->setInterpolate(false);
  auto* scale = new QCPColorScale(this);
  plotLayout()->addElement(0, 1, scale);
  colours_->setColorScale(scale);
  here_ = addGraph();
  mark_ = addGraph();
  for (QCPGraph* graph : {here_, mark_}) graph->setLineStyle(QCPGraph::lsNone);
  limit_ = new QCPCurve(xAxis, yAxis);
  legend->setVisible(false);
  connect(this, &QCustomPlot::mousePress, this, [this](QMouseEvent* event) {
    if (axisRect()->rect().contains(event->position().toPoint()))
      pick(xAxis->pixelToCoord(event->position().x()), yAxis->pixelToCoord(event->position().y()));
  });
}

void MapPlot::show(const MapPicture& picture, bool current) {
  veil_->cover(!current);
  const Theme& t = workspace_.theme();
  style_plot(*this, t);
  x_ = picture.x;
  y_ = picture.y;
  const auto columns = static_cast<int>(x_.size()), rows = static_cast<int>(y_.size());
  colours_->data()->setSize(columns, rows);
  colours_->data()->setRange({x_.front(), x_.back()}, {y_.front(), y_.back()});
  for (int row = 0; row < rows; ++row)
    for (int i = 0; i < columns; ++i)
      colours_->data()->setCell(i, row, picture.values[static_cast<std::size_t>(row * columns + i)]);
  QCPColorGradient gradient;
  gradient.clearColorStops();
  gradient.setColorStopAt(0, t.paper);
  gradient.setColorStopAt(0.5, t.copper);
  gradient.setColorStopAt(1, t.arc);
  gradient.setNanHandling(QCPColorGradient::nhNanColor);
  gradient.setNanColor(t.shade);
  colours_->setGradient(gradient);
  double least = 1e300, most = -1e300; // of what there is: the data's own bounds do not survive gaps
  for (const double value : picture.values)
    if (std::isfinite(value)) {
      least = std::min(least, value);
      most = std::max(most, value);
    }
  colours_->setDataRange(least < most ? QCPRange(least, most) : QCPRange(0, std::max(1.0, most)));
  QCPAxis* scale = colours_->colorScale()->axis();
  scale->setLabel(picture.unit);
  scale->setLabelColor(t.ink);
  scale->setTickLabelColor(t.ink);
  scale->setTickLabelFont(type::font(type::caption));
  scale->setLabelFont(type::font(type::caption));
  xAxis->setLabel(picture.across);
  yAxis->setLabel(picture.up);
  // Half a cell round: a cell's middle is its point.
  const double half_x = (x_[1] - x_[0]) / 2, half_y = (y_[1] - y_[0]) / 2;
  xAxis->setRange(x_.front() - half_x, x_.back() + half_x);
  yAxis->setRange(y_.front() - half_y, y_.back() + half_y);
  here_->setData({picture.here_x}, {picture.here_y});
  here_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCrossCircle, t.ink, 13));
  mark_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssSquare, QPen(t.ink, 1.6), QBrush(Qt::NoBrush), 11));
  draw_limit(picture);
  pick(picture.here_x, picture.here_y);
}

// Where the value passes 1 between neighbouring points, cell by cell.
void MapPlot::draw_limit(const MapPicture& picture) {
  QVector<double> order, x, y;
  const auto add = [&](double at_x, double at_y) {
    order << static_cast<double>(order.size());
    x << at_x;
    y << at_y;
  };
  const auto value = [&](std::size_t column, std::size_t row) {
    return picture.limited[row * x_.size() + column] - 1;
  };
  for (std::size_t row = 0; !picture.limited.empty() && row + 1 < y_.size(); ++row)
    for (std::size_t column = 0; column + 1 < x_.size(); ++column) {
      using Corner = std::pair<std::size_t, std::size_t>;
      const std::array<Corner, 5> round{
          {{column, row}, {column + 1, row}, {column + 1, row + 1}, {column, row + 1}, {column, row}}};
      int crossings = 0;
      for (std::size_t i = 0; i < 4; ++i) {
        const auto& [c1, r1] = round[i];
        const auto& [c2, r2] = round[i + 1];
        const double a = value(c1, r1), b = value(c2, r2);
        if (!(a * b < 0)) continue; // none, or not a number
        const double part = a / (a - b);
        add(std::lerp(x_[c1], x_[c2], part), std::lerp(y_[r1], y_[r2], part));
        ++crossings;
      }
      if (crossings > 0) {
        const double gap = std::numeric_limits<double>::quiet_NaN();
        add(gap, gap);
      }
    }
  limit_->setData(order, x, y, true);
  limit_->setPen(QPen(workspace_.theme().ink, 1.6, Qt::DashLine));
}

void MapPlot::pick(double x, double y) {
  if (x_.empty()) return;
  pick_cell(nearest(x_, x), nearest(y_, y));
}

void MapPlot::pick_cell(std::size_t column, std::size_t row) {
  picked_ = {column, row};
  mark_->setData({x_[column]}, {y_[row]});
  replot(rpQueuedReplot);
  tell_cursor(*this);
  Q_EMIT place_picked();
}

QString MapPlot::at_cursor() const {
  if (!picked_) return {};
  const double value = colours_->data()->cell(static_cast<int>(picked_->column), static_cast<int>(picked_->row));
  return QString("%1 %2, %3 %4, %5")
      .arg(xAxis->label(), plot_figure(x_[picked_->column]), yAxis->label(), plot_figure(y_[picked_->row]),
           std::isfinite(value) ? colours_->colorScale()->axis()->label() + " " + plot_figure(value)
                                : QString("nothing there"));
}

QString MapPlot::readings() const {
  if (x_.empty()) return "nothing is drawn";
  return QString("%1 from %2 to %3 over %4, %5 to %6, and %7, %8 to %9")
      .arg(colours_->colorScale()->axis()->label(), plot_figure(shown_range().lower),
           plot_figure(shown_range().upper), xAxis->label(), plot_figure(x_.front()), plot_figure(x_.back()),
           yAxis->label(), plot_figure(y_.front()), plot_figure(y_.back()));
}

void MapPlot::paintEvent(QPaintEvent* event) {
  QCustomPlot::paintEvent(event);
  draw_focus_frame(*this, workspace_.theme());
}

void MapPlot::keyPressEvent(QKeyEvent* event) {
  if (!picked_) return QCustomPlot::keyPressEvent(event);
  auto [column, row] = *picked_;
  switch (event->key()) {
  case Qt::Key_Left:
    if (column > 0) --column;
    break;
  case Qt::Key_Right:
    column = std::min(column + 1, x_.size() - 1);
    break;
  case Qt::Key_Down:
    if (row > 0) --row;
    break;
  case Qt::Key_Up:
    row = std::min(row + 1, y_.size() - 1);
    break;
  default:
    return QCustomPlot::keyPressEvent(event);
  }
  pick_cell(column, row);
}

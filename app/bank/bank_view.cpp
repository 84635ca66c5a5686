// Drawing of the bank. Large banks show the first and last strings with a count between.
#include "bank/bank_view.h"
#include "craft/kind.h"

#include "parts/bank.h"
#include "toolkit/common.h"

#include <QDragEnterEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace {

constexpr double cell_width = 112, least_cell_width = 78; // of a string

// What stands beside a unit moves closer when columns are narrow.
double squeeze(double width) {
  return std::clamp(width / 74, 0.4, 1.0);
}

// Left of the middle: the bar's figure stands on the right.
double axis_of(const QRectF& cell) {
  return cell.center().x() - 14 * squeeze(cell.width());
}

QString value(double si, arc::Dimension dimension) {
  return quantity_text(si, dimension, arc::UnitSystem::metric, 3);
}

int whole(double number) {
  return std::max(1, static_cast<int>(std::lround(number)));
}

} // namespace

BankView::BankView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("bank");
  setAccessibleName("Tank capacitor, as it would be bolted together");
  setMinimumHeight(190);
  setAcceptDrops(true);
  setFocusPolicy(Qt::StrongFocus);
  connect(&workspace_.document, &Document::analysis_changed, this, [this] {
    const auto sections = arc::bank_sections(workspace_.document.design().tank);
    if (chosen_ && *chosen_ >= sections.size()) choose(std::nullopt);
    update();
  });
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

const arc::Tank& BankView::tank() const {
  return preview_ ? *preview_ : workspace_.document.design().tank;
}

void BankView::choose(std::optional<std::size_t> section) {
  if (section == chosen_) return;
  chosen_ = section;
  update();
  tell_cursor(*this);
  Q_EMIT chosen_changed();
}

void BankView::preview(std::optional<arc::Tank> tank, std::optional<std::size_t> added,
                       std::optional<double> volts) {
  preview_ = std::move(tank);
  added_ = added;
  volts_ = volts;
  update();
}

double BankView::peak_v() const {
  return volts_ ? *volts_ : workspace_.document.analysis()->tank_peak_v;
}

QStringList BankView::section_words() const {
  if (!workspace_.document.analysis()) return {};
  const auto stress = arc::bank_stress(tank(), {peak_v(), 0, 0, 0});
  QStringList out;
  for (const arc::BankSection& s : arc::bank_sections(tank())) {
    const double used = stress[static_cast<std::size_t>(out.size())].voltage_used;
    out << QString("%1: %2 in series, %3 strings in parallel%4")
               .arg(s.name.empty() ? QString("units") : QString::fromStdString(s.name))
               .arg(s.in_series)
               .arg(s.in_parallel)
               .arg(used > 0 ? QString(", %1% of their rated volts").arg(used * 100, 0, 'f', 0) : QString());
  }
  return out;
}

// Empty as well where an edit has just taken the chosen string away.
QString BankView::at_cursor() const {
  return chosen_ ? section_words().value(static_cast<qsizetype>(*chosen_)) : QString();
}

QString BankView::readings() const {
  if (!workspace_.document.analysis()) return {};
  return QString("%1 peak across %2")
             .arg(value(peak_v(), arc::Dimension::voltage),
                  section_words().join(arc::is_stacked(tank()) ? ", stacked on " : ", beside ")) +
         (preview_ ? QString(", tried")
                   : ", " + value(workspace_.document.analysis()->tank_capacitance_f, arc::Dimension::capacitance));
}

void BankView::paint_unit(QPainter& painter, const QRectF& cell, std::size_t section, double used, bool ghost) {
  const Theme& t = workspace_.theme();
  const double narrow = squeeze(cell.width());
  const QRectF body(axis_of(cell) - 20 * narrow, cell.top() + cell.height() * 0.18, 40 * narrow,
                    cell.height() * 0.64);
  const Qt::PenStyle line = ghost ? Qt::DashLine : Qt::SolidLine;
  painter.setPen(QPen(t.ink, 1.3, line));
  painter.drawLine(QPointF(body.center().x(), cell.top()), QPointF(body.center().x(), body.top()));
  painter.drawLine(QPointF(body.center().x(), body.bottom()), QPointF(body.center().x(), cell.bottom()));
  const bool picked = chosen_ == section && !preview_;
  painter.setPen(QPen(picked ? t.arc : t.ink, picked ? 2.4 : 1.3, line));
  painter.setBrush(t.card);
  painter.drawRoundedRect(body, 4, 4);
  painter.setPen(QPen(t.ink, 2));
  const double mid = body.center().y();
  for (const double y : {mid - 3, mid + 3})
    painter.drawLine(QPointF(body.left() + 9 * narrow, y), QPointF(body.right() - 9 * narrow, y));

  if (tank().bleed_resistance_ohm) {
    const double x = body.left() - 12 * narrow;
    painter.setPen(QPen(t.second, 1));
    painter.setBrush(Qt::NoBrush);
    const QRectF resistor(x - 3.5 * narrow, mid - 11, 7 * narrow, 22);
    painter.drawPolyline(QPolygonF{{body.center().x(), body.top() - 3}, {x, body.top() - 3}, {x, resistor.top()}});
    painter.drawPolyline(
        QPolygonF{{x, resistor.bottom()}, {x, body.bottom() + 3}, {body.center().x(), body.bottom() + 3}});
    painter.drawRect(resistor);
  }

  // Share of the rating, tolerances at their worst: the bar's full height is the rating, the tick the 80 % limit.
  const QRectF bar(body.right() + 7 * narrow, body.top(), 7 * narrow, body.height());
  painter.setPen(QPen(t.second, 1));
  painter.setBrush(t.paper);
  painter.drawRect(bar);
  if (!(used > 0)) return;
  const QColor colour = used > 1 ? t.stop : used > arc::usual_rating_share ? t.warn : t.settled;
  const double high = bar.height() * std::min(used, 1.0);
  painter.fillRect(QRectF(bar.left() + 1, bar.bottom() - high, bar.width() - 1, high), colour);
  painter.setPen(QPen(t.ink, 1));
  const double limit = bar.bottom() - arc::usual_rating_share * bar.height();
  painter.drawLine(QPointF(bar.left() - 2, limit), QPointF(bar.right() + 2, limit));
  if (cell.height() < 46 || cell.right() < bar.right() + 36) return;
  painter.setFont(type::font(type::caption));
  painter.setPen(colour);
  painter.drawText(QRectF(bar.right() + 4, mid - 9, 46, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   QString("%1%").arg(used * 100, 0, 'f', 0));
}

namespace {

// Every section keeps at least one column; the rest of the room goes to those with many strings.
std::vector<int> columns_of(const std::vector<arc::BankSection>& all, const std::vector<std::size_t>& sections,
                            int room) {
  std::vector<int> columns(sections.size(), 1);
  for (int left = room - static_cast<int>(sections.size()); left > 0;) {
    bool grown = false;
    for (std::size_t i = 0; i < sections.size() && left > 0; ++i)
      if (columns[i] < whole(all[sections[i]].in_parallel)) {
        ++columns[i];
        --left;
        grown = true;
      }
    if (!grown) break;
  }
  return columns;
}

} // namespace

// Columns of the sections side by side between two rails.
void BankView::paint_row(QPainter& painter, const QRectF& area, const std::vector<std::size_t>& sections,
                         const std::vector<double>& used) {
  const Theme& t = workspace_.theme();
  const auto all = arc::bank_sections(tank());
  const int room = std::max(static_cast<int>(sections.size()), static_cast<int>(area.width() / least_cell_width));
  const std::vector<int> columns = columns_of(all, sections, room);
  const int total = std::accumulate(columns.begin(), columns.end(), 0);
  const double width = std::min(cell_width, area.width() / total);
  const double left = area.center().x() - total * width / 2;
  painter.setPen(QPen(t.copper, 4, Qt::SolidLine, Qt::RoundCap));
  for (const double y : {area.top(), area.bottom()})
    painter.drawLine(QPointF(left + width / 2 - 40, y), QPointF(left + total * width - width / 2 + 28, y));
  int column = 0;
  for (std::size_t i = 0; i < sections.size(); ++i) {
    const arc::BankSection& s = all[sections[i]];
    const int parallel = whole(s.in_parallel);
    const QRectF block(left + column * width, area.top(), columns[i] * width, area.height());
    strings_.emplace_back(block, sections[i]);
    if (all.size() > 1) {
      painter.setFont(type::font(type::caption));
      painter.setPen(t.second);
      const QString name = s.name.empty() ? "units of the bank" : QString::fromStdString(s.name);
      painter.drawText(
          QRectF(block.left(), area.bottom() + 3, block.width() - 4, 16), Qt::AlignCenter,
          painter.fontMetrics().elidedText(name, Qt::ElideMiddle, static_cast<int>(block.width()) - 6));
    }
    for (int c = 0; c < columns[i]; ++c, ++column) {
      const QRectF string(left + column * width, area.top(), width, area.height());
      if (parallel > columns[i] && c == columns[i] - 1 && columns[i] > 1) {
        painter.setPen(t.second);
        painter.drawText(string, Qt::AlignCenter,
                         QString("and %1 more\nlike these").arg(parallel - columns[i] + 1));
        continue;
      }
      paint_string(painter, string, s, sections[i], used[sections[i]]);
      if (columns[i] == 1 && parallel > 1) {
        painter.setPen(t.second);
        painter.setFont(type::font(type::caption));
        painter.drawText(QRectF(string.left(), area.bottom() - 20, width, 16), Qt::AlignRight,
                         QString("×%1").arg(parallel));
      }
    }
  }
}

// Units in series, as many as there is room for.
void BankView::paint_string(QPainter& painter, const QRectF& area, const arc::BankSection& s, std::size_t section,
                            double used) {
  const int series = whole(s.in_series);
  const int rows = std::min(series, std::max(1, static_cast<int>(area.height() / 30)));
  const double cell_height = area.height() / rows;
  for (int r = 0; r < rows; ++r) {
    const QRectF cell(area.left(), area.top() + r * cell_height, area.width(), cell_height);
    if (series > rows && r == rows - 1 && rows > 1) {
      painter.setPen(QPen(workspace_.theme().second, 1.3, Qt::DotLine));
      painter.drawLine(QPointF(axis_of(cell), cell.top()), QPointF(axis_of(cell), cell.bottom()));
      painter.setPen(workspace_.theme().second);
      painter.drawText(QRectF(axis_of(cell) + 6, cell.top(), cell.width(), cell.height()),
                       Qt::AlignLeft | Qt::AlignVCenter,
                       QString(squeeze(area.width()) < 1 ? "+%1" : "%1 more").arg(series - rows + 1));
    } else {
      paint_unit(painter, cell, section, used, preview_ && added_ == section);
    }
  }
}

void BankView::paintEvent(QPaintEvent*) {
  const Theme& t = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  if (!workspace_.document.analysis()) return;
  strings_.clear();
  const auto sections = arc::bank_sections(tank());
  const double volts = peak_v();
  std::vector<double> used;
  for (const arc::UnitStress& u : arc::bank_stress(tank(), {volts, 0, 0, 0})) used.push_back(u.voltage_used);
  const QRectF area = QRectF(rect()).adjusted(24, 34, -24, sections.size() > 1 ? -44 : -28);
  const bool stacked = arc::is_stacked(tank()) && sections.size() > 1;
  const int rows = stacked ? static_cast<int>(sections.size()) : 1;
  int longest = 0;
  for (const arc::BankSection& s : sections) longest = std::max(longest, whole(s.in_series));
  const double tall = std::min((area.height() - (stacked ? 22.0 * (rows - 1) : 0)) / rows,
                               stacked ? 110.0 : std::max(110.0, longest * 110.0));
  const double top = area.center().y() - rows * tall / 2;
  for (int r = 0; r < rows; ++r) {
    std::vector<std::size_t> line{static_cast<std::size_t>(r)};
    if (!stacked) {
      line.resize(sections.size());
      std::iota(line.begin(), line.end(), 0u);
    }
    paint_row(painter, {area.left(), top + r * tall + (r > 0 ? 20 : 0), area.width(), tall - (r > 0 ? 20 : 0)},
              line, used);
  }
  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  painter.drawText(
      QRectF(0, top - 28, width(), 18), Qt::AlignCenter,
      (volts_ ? QString("%1 peak across it") : text_of(arc::kind_of(workspace_.document.design()).tank_end))
          .arg(value(volts, arc::Dimension::voltage)));
  painter.drawText(QRectF(0, top + rows * tall + (sections.size() > 1 ? 22 : 8), width(), 18), Qt::AlignCenter,
                   "to the primary's inner end");
  if (hasFocus()) {
    painter.setPen(QPen(t.arc, 1, Qt::DotLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(rect().adjusted(2, 2, -3, -3));
  }
}

void BankView::mousePressEvent(QMouseEvent* event) {
  for (const auto& [box, section] : strings_)
    if (box.contains(event->position())) return choose(section);
  choose(std::nullopt);
}

void BankView::keyPressEvent(QKeyEvent* event) {
  const auto count = arc::bank_sections(workspace_.document.design().tank).size();
  if (event->key() == Qt::Key_Right || event->key() == Qt::Key_Left) {
    const std::size_t step = event->key() == Qt::Key_Right ? 1 : count - 1;
    choose(chosen_ ? (*chosen_ + step) % count : 0);
  } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
    Q_EMIT remove_requested();
  } else if (event->key() == Qt::Key_Plus || event->key() == Qt::Key_Minus) {
    Q_EMIT strings_wanted(event->key() == Qt::Key_Plus ? 1 : -1);
  } else {
    QWidget::keyPressEvent(event);
  }
}

void BankView::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasFormat(shelf_part_mime)) event->acceptProposedAction();
}

void BankView::dropEvent(QDropEvent* event) {
  event->acceptProposedAction();
  Q_EMIT part_dropped(event->mimeData()->data(shelf_part_mime).toInt());
}

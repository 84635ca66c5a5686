// The ruler's scale, marks and dragging.
#include "coil_views/resonance_ruler.h"

#include "evidence/tuning.h"
#include "parts/bank.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <functional>
#include <vector>

namespace {
constexpr double left_margin = 150;
constexpr double right_margin = 40;
constexpr double axis_y = 66;

QString hertz(double hz, int digits = 4) {
  return QString::fromStdString(
      arc::format_quantity(hz, arc::Dimension::frequency, arc::UnitSystem::metric, digits));
}
} // namespace

double ResonanceRuler::beside(double mark, double width, Span room, std::vector<Span> taken) {
  constexpr double gap = 5, clear = 3, from_mark = 12;
  taken.push_back({mark - from_mark + gap, mark + from_mark - gap});
  // Next to something, or at an end of the room: the nearest that is free.
  std::vector<double> places{room.low, room.high - width};
  for (const Span& s : taken) {
    places.push_back(s.high + gap);
    places.push_back(s.low - gap - width);
  }
  const auto away = [&](double x) { return std::max(x - mark, mark - x - width); };
  std::ranges::sort(places, {}, away);
  for (const double x : places)
    if (x >= room.low && x + width <= room.high &&
        std::ranges::none_of(taken, [&](const Span& s) { return s.low - clear < x + width && s.high + clear > x; }))
      return x;
  return std::clamp(mark + from_mark, room.low, std::max(room.low, room.high - width)); // on something, but whole
}

ResonanceRuler::ResonanceRuler(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("ruler");
  setAccessibleName("Resonance ruler");
  setFixedHeight(sizeHint().height());
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&workspace_.document, &Document::analysis_changed, this, [this] {
    if (!dragging_) choose_span();
    update();
  });
  connect(&workspace_.document, &Document::power_changed, this, [this] {
    if (has_tank()) return;
    choose_span();
    update();
  });
  connect(&workspace_.document, &Document::design_changed, this, qOverload<>(&QWidget::update)); // what is stale
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void ResonanceRuler::set_follows(Follows follows) {
  follows_ = follows;
  update();
  Q_EMIT follows_changed();
}

void ResonanceRuler::choose_span() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  std::vector<double> marks;
  for (const double hz : {analysis->has_tank ? analysis->tank_hz : driven_hz(),
                          analysis->resonator ? analysis->resonator->mode_1_hz : analysis->circuit.resonance_hz,
                          analysis->loaded_hz.low})
    if (hz > 0) marks.push_back(hz);
  for (const arc::Measurement& m : workspace_.document.design().measurements)
    if (m.frequency_hz > 0 && m.kind != "coil-with-capacitor") marks.push_back(m.frequency_hz);
  if (marks.empty()) return; // nothing is known yet: the scale stays where it is
  const auto [low, high] = std::ranges::minmax(marks);
  // Room for a third of an octave on either side, at least one octave in all.
  const double middle = std::sqrt(low * high);
  const double half = std::max(std::sqrt(2.0), std::sqrt(high / low) * 1.26);
  low_hz_ = middle / half;
  high_hz_ = middle * half;
}

double ResonanceRuler::driven_hz() const {
  const auto power = workspace_.document.power();
  return power && power->kind == workspace_.document.design().kind ? power->drive.frequency_hz : 0;
}

double ResonanceRuler::x_of(double hz) const {
  return left_margin +
         (width() - left_margin - right_margin) * std::log(hz / low_hz_) / std::log(high_hz_ / low_hz_);
}

double ResonanceRuler::hz_of(double x) const {
  return low_hz_ * std::pow(high_hz_ / low_hz_, (x - left_margin) / (width() - left_margin - right_margin));
}

bool ResonanceRuler::has_tank() const {
  const auto analysis = workspace_.document.analysis();
  return analysis && analysis->has_tank && analysis->tank_hz > 0;
}

QPointF ResonanceRuler::tank_place() const {
  const auto analysis = workspace_.document.analysis();
  return analysis ? QPointF(x_of(analysis->tank_hz), axis_y - 7) : QPointF();
}

QString ResonanceRuler::offset_sentence() const {
  const auto analysis = workspace_.document.analysis();
  if (analysis && !analysis->has_tank) return "the driver follows the coil";
  if (!analysis || analysis->target_hz <= 0)
    return analysis ? QString::fromStdString(analysis->problem) : QString();
  const double off = 100 * analysis->detuning(analysis->tank_hz);
  const QString target = hertz(analysis->target_hz);
  if (std::abs(off) < 0.3)
    return QString("in tune: %1 is %2").arg(target, QString::fromStdString(analysis->target_source));
  QString text = QString("%1 % %2 %3").arg(std::abs(off), 0, 'f', 1).arg(off > 0 ? "above" : "below", target);
  if (analysis->tuned_tap_turns && follows_ == Follows::clip) {
    const double move = *analysis->tuned_tap_turns - workspace_.document.design().primary.tap_turns;
    text += QString(": tap %1 %2 turn").arg(move > 0 ? "out" : "in").arg(std::abs(move), 0, 'f', 2);
  } else if (analysis->tuned_capacitance_f) {
    text += QString(": %1 would do")
                .arg(QString::fromStdString(arc::format_quantity(
                    *analysis->tuned_capacitance_f, arc::Dimension::capacitance, arc::UnitSystem::metric, 3)));
  }
  return text;
}

QString ResonanceRuler::readings() const {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return {};
  QStringList out;
  if (analysis->resonator) {
    out << "coil " + banded_text(coil_hz(*analysis), arc::Dimension::frequency, arc::UnitSystem::metric,
                                 analysis->band, "best_mode_1_hz");
    if (analysis->loaded_hz.low > 0)
      out << QString("with arcs %1 to %2").arg(hertz(analysis->loaded_hz.low), hertz(analysis->loaded_hz.high));
  }
  if (has_tank())
    out << "tank " + hertz(analysis->tank_hz);
  else if (driven_hz() > 0)
    out << "runs at " + hertz(driven_hz());
  if (const QString offset = offset_sentence(); !offset.isEmpty()) out << offset;
  const auto poles = poles_hz();
  for (std::size_t i = 0; i < poles.size(); ++i) out << QString("pole %1").arg(hertz(poles[i]));
  if (!poles.empty()) out << poles_sentence();
  for (const arc::Measurement& m : workspace_.document.design().measurements)
    if (const arc::MeasurementKind* kind = arc::measurement_kind(m.kind);
        kind && kind->mark != arc::MeasuredMark::none && m.frequency_hz > 0)
      out << QString("measured, %1: %2").arg(text_of(kind->title).toLower(), hertz(m.frequency_hz));
  return out.join("; ");
}

void ResonanceRuler::paintEvent(QPaintEvent*) {
  const Theme& t = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(t.ink);
  painter.setFont(type::font(type::strong, QFont::DemiBold));
  painter.drawText(20, 28, "Resonance");
  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  const auto analysis = workspace_.document.analysis();
  if (analysis && analysis->has_tank) painter.drawText(20, 48, "drag the tank mark:");
  if (!analysis) return;
  paint_scale(painter);
  std::vector<Span> taken; // by the coil's own marks, at the height of the tank's label
  if (analysis->resonator) paint_coil(painter, *analysis, taken);
  paint_measured(painter, taken);
  paint_poles(painter);
  const Span room{left_margin - 4, width() - 8.0};
  if (!analysis->has_tank)
    paint_driven(painter, [&](double x, double text) { return beside(x, text, room, taken); });
  else if (analysis->tank_hz > 0)
    paint_tank(painter, *analysis, taken);
}

void ResonanceRuler::paint_scale(QPainter& painter) {
  const Theme& t = workspace_.theme();
  painter.setPen(QPen(t.ink, 1.2));
  painter.drawLine(QPointF(left_margin, axis_y), QPointF(width() - right_margin, axis_y));
  // Ticks on round numbers: 1-2-5 labelled steps chosen by the span, five small ones between.
  const double raw = (high_hz_ - low_hz_) / 9;
  const double decade = std::pow(10, std::floor(std::log10(raw)));
  const double step = raw / decade < 1.5   ? decade
                      : raw / decade < 3.5 ? 2 * decade
                      : raw / decade < 7.5 ? 5 * decade
                                           : 10 * decade;
  painter.setFont(type::font(type::caption));
  double last_label = -100;
  for (double hz = std::ceil(low_hz_ / step * 5) * step / 5; hz <= high_hz_ * 1.0000001; hz += step / 5) {
    const double x = x_of(hz);
    const bool labelled = std::abs(hz / step - std::round(hz / step)) < 1e-6;
    painter.setPen(QPen(labelled ? t.ink : t.second, 1));
    painter.drawLine(QPointF(x, axis_y), QPointF(x, axis_y + (labelled ? 10 : 5)));
    if (!labelled || x - last_label < 64) continue;
    last_label = x;
    painter.setPen(t.second);
    painter.drawText(QRectF(x - 40, axis_y + 12, 80, 18), Qt::AlignCenter, hertz(hz, 3));
  }
}

void ResonanceRuler::paint_coil(QPainter& painter, const arc::Analysis& analysis, std::vector<Span>& taken) {
  const Theme& t = workspace_.theme();
  const double f = coil_hz(analysis);
  const QRectF loaded(x_of(analysis.loaded_hz.low), axis_y - 20,
                      x_of(analysis.loaded_hz.high) - x_of(analysis.loaded_hz.low), 20);
  const auto found = analysis.band.find("best_mode_1_hz");
  const double band = found != analysis.band.end() ? found->second : 0;
  const Span own{std::min(x_of(f - band), x_of(f) - 1), std::max(x_of(f + band), x_of(f) + 1)};
  taken.push_back(own);
  if (analysis.loaded_hz.low > 0) {
    painter.fillRect(loaded, t.arc_fill);
    taken.push_back({loaded.left(), loaded.right()});
    painter.setPen(t.arc);
    const double half = painter.fontMetrics().horizontalAdvance("with arcs") / 2.0;
    const double middle = std::min(loaded.center().x(), own.low - 6 - half); // left of the coil's line
    painter.drawText(QRectF(middle - 80, axis_y - 38, 160, 16), Qt::AlignCenter, "with arcs");
  }
  painter.fillRect(QRectF(own.low, axis_y - 24, own.high - own.low, 24), t.copper_fill);
  painter.setPen(QPen(t.copper, 2));
  painter.drawLine(QPointF(x_of(f), axis_y - 28), QPointF(x_of(f), axis_y));
  painter.setFont(type::font(type::caption, QFont::DemiBold));
  painter.drawText(QRectF(x_of(f) - 80, axis_y - 56, 160, 16), Qt::AlignCenter, "coil " + hertz(f));
}

void ResonanceRuler::paint_measured(QPainter& painter, std::vector<Span>& taken) {
  const Theme& t = workspace_.theme();
  for (const arc::Measurement& m : workspace_.document.design().measurements) {
    const arc::MeasuredMark mark = arc::measurement_kind(m.kind)->mark;
    if (mark == arc::MeasuredMark::none || m.frequency_hz < low_hz_ || m.frequency_hz > high_hz_) continue;
    const QPointF at(x_of(m.frequency_hz), axis_y - 10);
    taken.push_back({at.x() - 5, at.x() + 5});
    painter.setPen(QPen(t.settled, 1.4));
    painter.drawLine(at, QPointF(at.x(), axis_y));
    painter.setBrush(mark == arc::MeasuredMark::coil ? t.settled : t.paper);
    painter.drawEllipse(at, 3.6, 3.6);
  }
}

void ResonanceRuler::paint_tank(QPainter& painter, const arc::Analysis& analysis, std::vector<Span>& taken) {
  const Theme& t = workspace_.theme();
  const QPointF tank(x_of(analysis.tank_hz), axis_y);
  if (analysis.target_hz > low_hz_ && analysis.target_hz < high_hz_) { // what its offset is counted from
    painter.setPen(QPen(t.second, 1.2, Qt::DashLine));
    painter.drawLine(QPointF(x_of(analysis.target_hz), axis_y - 26), QPointF(x_of(analysis.target_hz), axis_y));
    taken.push_back({x_of(analysis.target_hz) - 2, x_of(analysis.target_hz) + 2});
  }
  const bool strong = dragging_ || hover_ || hasFocus();
  painter.setPen(QPen(strong ? t.arc : t.ink, 1.4));
  painter.setBrush(strong ? t.arc : t.ink);
  painter.drawPolygon(QPolygonF{tank, tank + QPointF(-7, -13), tank + QPointF(7, -13)});
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(tank + QPointF(0, -8), 12, 12);
  }
  painter.setFont(type::font(type::caption, QFont::DemiBold));
  painter.setPen(strong ? t.arc : t.ink);
  const QString label = QString("tank %1").arg(hertz(analysis.tank_hz));
  const QString detail = offset_sentence();
  const double label_width = painter.fontMetrics().horizontalAdvance(label);
  const double detail_width = QFontMetrics(type::font(type::caption)).horizontalAdvance(detail);
  const double whole = label_width + 10 + detail_width;
  const double x = beside(tank.x(), whole, {left_margin - 4, width() - 8.0}, taken);
  painter.drawText(QPointF(x, axis_y - 8), label);
  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  painter.drawText(QPointF(x + label_width + 10, axis_y - 8), detail);
}

std::vector<double> ResonanceRuler::poles_hz() const {
  const auto power = workspace_.document.power();
  if (!power || !power->part || power->kind != workspace_.document.design().kind) return {};
  const auto poles = power->part->poles_hz();
  return poles.size() > 1 ? poles : std::vector<double>();
}

QString ResonanceRuler::poles_sentence() const {
  const auto poles = poles_hz();
  if (poles.empty()) return {};
  const auto ridden = arc::ridden_pole(*workspace_.document.power());
  if (!ridden) return QString("poles %1 and %2").arg(hertz(poles.front()), hertz(poles.back()));
  return QString("rides the %1 pole")
      .arg(*ridden == 0                  ? "lower"
           : *ridden + 1 == poles.size() ? "upper"
                                         : "middle");
}

// From below the line, where primary and resonator can ring together: filled the one that the drive rides.
void ResonanceRuler::paint_poles(QPainter& painter) {
  const auto poles = poles_hz();
  if (poles.empty()) return;
  const Theme& t = workspace_.theme();
  const bool current = workspace_.document.power_is_current();
  const QColor ink = current ? t.ink : t.second;
  const auto ridden = arc::ridden_pole(*workspace_.document.power());
  painter.setPen(QPen(ink, 1.4));
  for (std::size_t i = 0; i < poles.size(); ++i) {
    if (poles[i] < low_hz_ || poles[i] > high_hz_) continue;
    const QPointF at(x_of(poles[i]), axis_y);
    painter.setBrush(ridden == i && current ? QBrush(ink) : QBrush(t.paper));
    painter.drawPolygon(QPolygonF{at, at + QPointF(-6, 11), at + QPointF(6, 11)});
  }
  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  painter.drawText(20, 102, "▲ " + poles_sentence());
}

// Where a coil without a tank really runs, as simulated.
void ResonanceRuler::paint_driven(QPainter& painter, const std::function<double(double, double)>& place) {
  const double hz = driven_hz();
  if (hz < low_hz_ || hz > high_hz_) return;
  const Theme& t = workspace_.theme();
  const QPointF at(x_of(hz), axis_y);
  const QColor ink = workspace_.document.power_is_current() ? t.ink : t.second;
  painter.setPen(QPen(ink, 1.4));
  painter.setBrush(workspace_.document.power_is_current() ? QBrush(ink) : QBrush(Qt::NoBrush));
  painter.drawPolygon(QPolygonF{at, at + QPointF(-7, -13), at + QPointF(7, -13)});
  painter.setFont(type::font(type::caption, QFont::DemiBold));
  const QString text = "runs at " + hertz(hz);
  painter.drawText(QPointF(place(at.x(), painter.fontMetrics().horizontalAdvance(text)), axis_y - 8), text);
}

bool ResonanceRuler::tune_to(double hz, const QString& gesture) {
  const arc::Design& d = workspace_.document.design();
  if (follows_ == Follows::clip) {
    const auto analysis = workspace_.document.analysis();
    const auto tap =
        arc::tap_for_frequency(d, analysis ? analysis->tank_rings_f : arc::tank_capacitance_f(d.tank), hz);
    if (!tap || *tap < 0.05) return false;
    workspace_.document.edit(
        "Tune by the tap", [&](arc::Design& e) { e.primary.tap_turns = std::round(*tap * 100) / 100; }, gesture);
    return true;
  }
  const double l = arc::tank_loop_inductance_h(d.primary, d.primary.tap_turns);
  const double c = arc::resonating_capacitance_f(l, hz);
  workspace_.document.edit(
      "Tune by the capacitance",
      [&](arc::Design& e) { arc::scale_tank(e.tank, c / arc::tank_capacitance_f(e.tank)); }, gesture);
  return true;
}

void ResonanceRuler::mousePressEvent(QMouseEvent* event) {
  const QPointF tank = tank_place();
  if (!has_tank() || event->button() != Qt::LeftButton ||
      std::hypot(event->position().x() - tank.x(), event->position().y() - tank.y()) > 14)
    return;
  dragging_ = true;
  ++gesture_;
  update();
}

void ResonanceRuler::mouseMoveEvent(QMouseEvent* event) {
  if (dragging_) {
    tune_to(hz_of(std::clamp(event->position().x(), left_margin, width() - right_margin)),
            QString("ruler %1").arg(gesture_));
    return;
  }
  const QPointF tank = tank_place();
  const bool over =
      has_tank() && std::hypot(event->position().x() - tank.x(), event->position().y() - tank.y()) < 14;
  if (over == hover_) return;
  hover_ = over;
  setCursor(over ? Qt::SizeHorCursor : Qt::ArrowCursor);
  update();
}

void ResonanceRuler::mouseReleaseEvent(QMouseEvent*) {
  dragging_ = false;
  choose_span();
  update();
}

void ResonanceRuler::keyPressEvent(QKeyEvent* event) {
  const auto analysis = workspace_.document.analysis();
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (way == 0 || !has_tank()) {
    QWidget::keyPressEvent(event);
    return;
  }
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.02 : 0.004;
  tune_to(analysis->tank_hz * (1 + way * step), QString("ruler keys %1").arg(gesture_));
}

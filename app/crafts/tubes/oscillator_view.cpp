// Parts, their words, and the drawing.
#include "crafts/tubes/oscillator_view.h"

#include "model/fields.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>
#include <algorithm>

namespace {

using enum arc::Dimension;
constexpr double drawing_wide = 620, drawing_high = 268; // of the drawing, in its own units
constexpr double coil_x = 338, second_x = 500, rail_y = 40, tube_y = 172;
constexpr double pair_left = 150, pair_right = 410, pair_middle = 280; // of a push-pull pair

// Draws in units of the drawing.
struct Ink {
  QPainter& p;
  double sx, sy;
  QPointF at(double x, double y) const { return {x * sx, y * sy}; }
  void line(double x1, double y1, double x2, double y2) const { p.drawLine(at(x1, y1), at(x2, y2)); }
  void dot(double x, double y) const {
    const QBrush before = p.brush();
    p.setBrush(p.pen().color());
    p.drawEllipse(at(x, y), 2, 2);
    p.setBrush(before);
  }
  void ground(double x, double y) const {
    const QPointF c = at(x, y);
    for (int i = 0; i < 3; ++i) p.drawLine(c + QPointF(-8 + 2.7 * i, 3.0 * i), c + QPointF(8 - 2.7 * i, 3.0 * i));
  }
  // Half turns downwards.
  void coil(double x, double y1, double y2, int turns) const {
    const QPointF from = at(x, y1), to = at(x, y2);
    const double each = (to.y() - from.y()) / turns;
    QPainterPath path(from);
    for (int i = 0; i < turns; ++i)
      path.arcTo(QRectF(from.x() - each / 2, from.y() + i * each, each, each), 90, -180);
    p.drawPath(path);
  }
  // Half turns to the right, humps upwards.
  void lying_coil(double x1, double x2, double y, int turns) const {
    const QPointF from = at(x1, y), to = at(x2, y);
    const double each = (to.x() - from.x()) / turns;
    QPainterPath path(from);
    for (int i = 0; i < turns; ++i)
      path.arcTo(QRectF(from.x() + i * each, from.y() - each / 2, each, each), 180, -180);
    p.drawPath(path);
  }
  void lying_capacitor(double x1, double x2, double y) const { // in a lead that goes to the right
    const QPointF a = at(x1, y), b = at(x2, y);
    const double middle = (a.x() + b.x()) / 2;
    p.drawLine(a, QPointF(middle - 3, a.y()));
    p.drawLine(QPointF(middle + 3, a.y()), b);
    p.drawLine(QPointF(middle - 3, a.y() - 10), QPointF(middle - 3, a.y() + 10));
    p.drawLine(QPointF(middle + 3, a.y() - 10), QPointF(middle + 3, a.y() + 10));
  }
  void capacitor(double x, double y1, double y2) const { // in a lead that goes down
    const QPointF a = at(x, y1), b = at(x, y2);
    const double middle = (a.y() + b.y()) / 2;
    p.drawLine(a, QPointF(a.x(), middle - 3));
    p.drawLine(QPointF(a.x(), middle + 3), b);
    p.drawLine(QPointF(a.x() - 10, middle - 3), QPointF(a.x() + 10, middle - 3));
    p.drawLine(QPointF(a.x() - 10, middle + 3), QPointF(a.x() + 10, middle + 3));
  }
  void resistor(double x, double y1, double y2) const {
    const QPointF a = at(x, y1), b = at(x, y2);
    const double half = std::min(11.0, 0.35 * (b.y() - a.y())), middle = (a.y() + b.y()) / 2;
    p.drawLine(a, QPointF(a.x(), middle - half));
    p.drawRect(QRectF(a.x() - 4, middle - half, 8, 2 * half));
    p.drawLine(QPointF(a.x(), middle + half), b);
  }
};

constexpr double tube_radius = 25;

// Its grid to the left, or mirrored.
void draw_tube(const Ink& k, double x, bool several, bool mirrored = false) {
  constexpr double r = tube_radius;
  k.p.save();
  k.p.translate(k.at(x, tube_y));
  if (mirrored) k.p.scale(-1, 1);
  const QPointF c(0, 0);
  k.p.drawEllipse(c, r, r);
  k.p.drawLine(c + QPointF(-12, -11), c + QPointF(12, -11)); // plate
  k.p.drawLine(c + QPointF(0, -11), c + QPointF(0, -r));
  QPen dashes = k.p.pen();
  dashes.setDashPattern({3, 2});
  const QPen whole = k.p.pen();
  k.p.setPen(dashes);
  k.p.drawLine(c + QPointF(-16, 0), c + QPointF(14, 0)); // grid
  k.p.setPen(whole);
  k.p.drawLine(c + QPointF(-r, 0), c + QPointF(-16, 0));
  QPainterPath cathode(c + QPointF(-10, 15)); // directly heated
  cathode.lineTo(c + QPointF(0, 9));
  cathode.lineTo(c + QPointF(10, 15));
  k.p.drawPath(cathode);
  k.p.drawLine(c + QPointF(10, 15), c + QPointF(10, r - 2));
  k.p.drawLine(c + QPointF(-10, 15), c + QPointF(-10, r - 2));
  if (several) k.p.drawEllipse(c, r + 4, r + 4); // side by side
  k.p.restore();
}

// The filament's two legs, joined by its decoupling capacitors, and the lead to `y`.
void draw_cathode(const Ink& k, double x, double y) {
  const QPointF legs = k.at(x, tube_y) + QPointF(0, tube_radius);
  k.p.drawLine(legs + QPointF(-10, -2), legs + QPointF(-10, 4));
  k.p.drawLine(legs + QPointF(10, -2), legs + QPointF(10, 4));
  k.p.drawLine(legs + QPointF(-10, 4), legs + QPointF(10, 4));
  k.p.drawLine(legs + QPointF(0, 4), k.at(x, y));
}

// From the coil's end to the tube's plate.
void draw_plate_lead(const Ink& k, double x, double from_y, bool trap, const QColor& copper) {
  constexpr double to_y = 144;
  if (!trap) {
    k.line(x, from_y, x, to_y);
    return;
  }
  const QPen ink = k.p.pen();
  k.resistor(x - 6, from_y, to_y);
  k.p.setPen(QPen(copper, 1.4));
  k.coil(x + 8, from_y + 4, to_y - 4, 4);
  k.p.setPen(ink);
  k.line(x - 6, from_y, x + 8, from_y);
  k.line(x + 8, from_y, x + 8, from_y + 4);
  k.line(x + 8, to_y - 4, x + 8, to_y);
  k.line(x - 6, to_y, x + 8, to_y);
}

void draw_lamp(const Ink& k, double x, double y) {
  const QPointF c = k.at(x, y);
  k.p.drawEllipse(c, 7, 7);
  k.p.drawLine(c + QPointF(-5, -5), c + QPointF(5, 5));
  k.p.drawLine(c + QPointF(-5, 5), c + QPointF(5, -5));
}

// Resonator, its top and its arc.
void draw_resonator(const Ink& k, const Theme& t) {
  k.p.setPen(QPen(t.copper, 1.8));
  k.coil(second_x, 42, 216, 17);
  k.p.setPen(QPen(t.ink, 1.4));
  k.p.setBrush(t.metal);
  k.p.drawEllipse(k.at(second_x, 34), 26, 8);
  k.p.setBrush(Qt::NoBrush);
  k.line(second_x, 216, second_x, 232);
  k.ground(second_x, 232);
  k.p.setPen(QPen(t.arc, 1.6));
  QPainterPath arc(k.at(second_x + 18, 30));
  for (const QPointF& to : {QPointF(546, 22), QPointF(556, 30), QPointF(574, 14), QPointF(588, 20)})
    arc.lineTo(k.at(to.x(), to.y()));
  k.p.drawPath(arc);
  k.p.setPen(QPen(t.ink, 1.4));
}

void draw_thyristor(const Ink& k, double x, double y) {
  const QPointF c = k.at(x, y);
  QPolygonF body;
  body << c + QPointF(-7, -6) << c + QPointF(7, -6) << c + QPointF(0, 6);
  k.p.drawPolygon(body);
  k.p.drawLine(c + QPointF(-7, 6), c + QPointF(7, 6));
  k.p.drawLine(c + QPointF(0, 6), c + QPointF(-10, 12)); // its gate
}

} // namespace

OscillatorView::OscillatorView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  grey_while_stale(workspace, this, true);
  setObjectName("oscillator circuit");
  setAccessibleName("The oscillator's circuit; arrow keys go from part to part, Enter to its field");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(420, 216);
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void OscillatorView::show(const arc::TubePower* t) {
  const arc::Design& d = workspace_.document.design();
  const arc::TubeOscillator& o = d.tube;
  const auto print = [&](double si, arc::Dimension dimension, int digits = 3) {
    return quantity_text(si, dimension, workspace_.units(), digits);
  };
  const bool there = t && t->problem.empty();
  const auto when = [&](const QString& text) { return there ? text : QString(); };
  const auto analysis = workspace_.document.analysis();
  const arc::TubeResult none{};
  const arc::TubeResult& r = there ? t->run : none;
  parts_.clear();
  if (arc::is_flame(d)) {
    show_flame(t);
    current_ = std::clamp(current_, 0, static_cast<int>(parts_.size()) - 1);
    update();
    return;
  }
  parts_.push_back({"supply",
                    "Supply",
                    there ? print(t->crest_v, voltage) : QString(),
                    when(print(r.plate_input_w, power)),
                    {},
                    "feed",
                    there && t->crest_v > o.tube.plate_voltage_v});
  if (!o.supply_voltage_v)
    parts_.push_back({"bypass", "Protection", print(o.bypass_f, capacitance), {}, "tube.bypass_f"});
  parts_.push_back({"tank", "Tank", analysis ? print(analysis->tank_capacitance_f, capacitance) : QString(),
                    when(QString("%1, %2").arg(print(r.tank_peak_v, voltage, 2), print(r.tank_rms_a, current, 2))),
                    "tank.unit_capacitance_f", "tank",
                    there && t->tank() &&
                        std::ranges::any_of(t->tank()->stress, [](const auto& u) { return !u.within_ratings; })});
  parts_.push_back({"plate coil", "Plate coil", there ? print(t->circuit.plate_h, inductance) : QString(),
                    QString("tap at %1").arg(arc::used_turns(d), 0, 'g', 4), "primary.tap_turns", "primary"});
  if (o.trap_ohm > 0)
    parts_.push_back({"trap", "Trap", print(o.trap_ohm, resistance),
                      when(r.trap_w > 1 ? print(r.trap_w, power, 2) : QString()), "tube.trap_ohm"});
  const double count = arc::tube_count(d);
  const QString each = count > 1 ? QString("%1 tubes").arg(count) : QString("Tube");
  parts_.push_back(
      {"tube", each,
       when(QString("%1 of %2")
                .arg(print(t ? t->worst_plate_w : 0, power, 2), print(o.tube.plate_dissipation_w, power))),
       when(QString("peak %1").arg(print(r.cathode_peak_a, current, 2))), "tube.perveance_a_per_v15", "oscillator",
       there && t->plate_time_s.has_value()});
  parts_.push_back({"feedback", "Feedback", QString("%1 turns").arg(d.feedback.turns, 0, 'g', 4),
                    when(print(r.feedback_rms_a, current, 2)), "feedback.turns", "oscillator",
                    there && t->grid_time_s.has_value()});
  parts_.push_back({"leak", "Grid leak", print(o.grid_leak_ohm, resistance),
                    when(QString("%1, %2").arg(print(r.grid_bias_v, voltage, 2), print(r.leak_w, power, 2))),
                    "tube.grid_leak_ohm", "oscillator", there && r.leak_w > o.grid_leak_rating_w});
  if (o.staccato)
    parts_.push_back({"thyristor", "Thyristor", when(print(r.thyristor_peak_a, current, 2)),
                      when(QString("holds off %1").arg(print(r.cathode_most_v, voltage, 2))),
                      "interrupter.phase_deg", "staccato",
                      there && (r.stays_on || r.cathode_most_v > o.thyristor_voltage_v)});
  parts_.push_back({"resonator", "Resonator", when(print(r.top_peak_v, voltage)),
                    when(print(r.secondary_power_w, power)), "secondary.turns", "resonator"});
  place_parts();
  current_ = std::clamp(current_, 0, static_cast<int>(parts_.size()) - 1);
  update();
}

// The flame coil's parts: plate coil and resonator in one line, the flame at supply volts.
void OscillatorView::show_flame(const arc::TubePower* t) {
  const arc::Design& d = workspace_.document.design();
  const auto print = [&](double si, arc::Dimension dimension, int digits = 3) {
    return quantity_text(si, dimension, workspace_.units(), digits);
  };
  const bool there = t && t->problem.empty();
  const auto when = [&](const QString& text) { return there ? text : QString(); };
  const arc::TubeResult none{};
  const arc::TubeResult& r = there ? t->run : none;
  const auto part = [&](const char* key, const QString& title, const QString& value, const QString& live,
                        const char* field, const char* stage, bool hot, QRectF box, QRectF words,
                        Qt::Alignment side) {
    parts_.push_back({key, title, value, live, field, stage, hot, box, words, side});
  };
  part("supply", "Supply", there ? print(t->crest_v, voltage) : QString(), when(print(r.plate_input_w, power)), "",
       "feed", there && t->crest_v > d.tube.tube.plate_voltage_v, {4, rail_y - 22, 92, 44},
       {6, rail_y - 22, 88, 44}, Qt::AlignCenter);
  part("plate coil", "Plate coil", there ? print(t->circuit.plate_h, inductance) : QString(),
       when(print(r.tank_rms_a, current, 2)), "primary.turns", "primary", false, {100, 44, 160, 76},
       {118, 60, 106, 44}, Qt::AlignRight);
  part("tube", "Tube",
       when(QString("%1 of %2")
                .arg(print(t ? t->worst_plate_w : 0, power, 2), print(d.tube.tube.plate_dissipation_w, power))),
       when(QString("peak %1").arg(print(r.cathode_peak_a, current, 2))), "tube.perveance_a_per_v15", "oscillator",
       there && t->plate_time_s.has_value(), {214, 144, 190, 58}, {276, 150, 130, 44}, Qt::AlignLeft);
  part("grid resistor", "Grid resistor", print(d.flame.grid_resistor_ohm, resistance),
       when(QString("%1, %2").arg(print(r.grid_bias_v, voltage, 2), print(r.leak_w, power, 2))),
       "flame.grid_resistor_ohm", "oscillator", there && r.leak_w > d.flame.grid_resistor_rating_w,
       {16, 184, 134, 66}, {8, 196, 106, 44}, Qt::AlignRight);
  part("feedback", "Feedback plate", print(d.flame.feedback_f, capacitance),
       when(QString("grid to %1").arg(print(r.grid_most_v, voltage, 2))), "flame.feedback_f", "oscillator",
       there && t->grid_time_s.has_value(), {10, 122, 146, 46}, {4, 122, 112, 44}, Qt::AlignRight);
  part("resonator", "Resonator", when(print(r.frequency_hz, frequency, 4)), when(print(r.secondary_power_w, power)),
       "secondary.turns", "resonator", false, {296, 44, 160, 78}, {316, 48, 130, 44}, Qt::AlignLeft);
  part("flame", "Flame, not isolated", when(print(r.top_peak_v, voltage)), "at plate volts too", "flame.flame_ohm",
       "oscillator", false, {460, 20, 156, 90}, {450, 118, 164, 44}, Qt::AlignLeft);
}

// Supply, plate coil, then the resonator lying to the right with its flame; the grid hears the hot end.
void OscillatorView::draw_flame(QPainter& p) const {
  const Theme& t = workspace_.theme();
  const Ink k{p, width() / drawing_wide, height() / drawing_high};
  constexpr double x = 240, far_y = 108, hot_x = 470;
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1.4));
  k.line(96, rail_y, x, rail_y);
  k.line(x, far_y, x, 146);
  k.dot(x, far_y);
  k.line(x, far_y, 300, far_y);
  p.setPen(QPen(t.copper, 1.8));
  k.coil(x, rail_y, far_y, 6);
  k.lying_coil(300, hot_x, far_y, 12);
  p.setPen(QPen(t.ink, 1.6));
  k.line(hot_x, far_y, hot_x + 10, far_y);
  k.line(hot_x + 10, far_y, hot_x + 10, 78);
  p.setPen(QPen(t.arc, 1.6));
  p.setBrush(t.arc_fill);
  QPainterPath flame(k.at(hot_x + 10, 76));
  flame.cubicTo(k.at(hot_x + 28, 64), k.at(hot_x + 22, 44), k.at(hot_x + 11, 20));
  flame.cubicTo(k.at(hot_x + 2, 44), k.at(hot_x - 6, 62), k.at(hot_x + 10, 76));
  p.drawPath(flame);
  p.setBrush(Qt::NoBrush);
  // The tube below, its grid to the left; the feedback plate hears the hot end through the air.
  p.setPen(QPen(t.ink, 1.4));
  draw_tube(k, x, false);
  const QPointF grid = k.at(x, tube_y) - QPointF(25, 0);
  p.drawLine(k.at(136, tube_y), grid);
  k.dot(136, tube_y);
  k.resistor(136, tube_y, 244);
  k.ground(136, 244);
  k.line(136, tube_y, 136, 146);
  const QPointF plate = k.at(136, 146);
  p.drawLine(plate - QPointF(12, 0), plate + QPointF(12, 0));
  p.setPen(QPen(t.second, 1, Qt::DashLine));
  QPainterPath field(plate - QPointF(0, 4));
  field.cubicTo(k.at(90, -50), k.at(400, -20), k.at(hot_x, 84));
  p.drawPath(field);
  p.setPen(QPen(t.ink, 1.4));
  draw_cathode(k, x, 244);
  k.ground(x, 244);
}

void OscillatorView::place_parts() {
  const arc::TubeOscillator& o = workspace_.document.design().tube;
  const bool hartley = o.circuit == arc::OscillatorCircuit::hartley;
  struct Place {
    const char* key;
    QRectF box, words;
    Qt::Alignment side;
  };
  const double tank_y = hartley ? 44 : 50;
  constexpr double l = pair_left, r = pair_right, m = pair_middle;
  const std::vector<Place> pair{
      {"supply", {4, rail_y - 22, 92, 44}, {6, rail_y - 22, 88, 44}, Qt::AlignCenter},
      {"bypass", {4, 66, 126, 42}, {4, 76, 96, 30}, Qt::AlignRight},
      {"tank", {l + 4, 58, m - l - 8, 54}, {l + 26, 56, m - l - 32, 44}, Qt::AlignRight},
      {"plate coil", {m + 4, 44, r - m - 8, 54}, {m + 8, 56, r - m - 16, 44}, Qt::AlignLeft},
      {"trap", {r - 14, 106, 84, 38}, {r + 18, 110, 66, 30}, Qt::AlignLeft},
      {"tube", {4, 144, 178, 58}, {4, 150, 112, 44}, Qt::AlignRight},
      {"feedback", {206, 114, 148, 66}, {206, 114, 148, 44}, Qt::AlignHCenter},
      {"leak", {l + 12, 211, r - l - 96, 50}, {l + 12, 212, m - l - 28, 44}, Qt::AlignRight},
      {"thyristor", {4, 210, 162, 48}, {4, 210, 130, 44}, Qt::AlignRight},
      {"resonator", {464, 8, 152, 236}, {second_x + 20, 70, 98, 44}, Qt::AlignLeft}};
  const std::vector<Place> places{
      {"supply", {4, rail_y - 22, 92, 44}, {6, rail_y - 22, 88, 44}, Qt::AlignCenter},
      {"bypass", {98, rail_y + 6, 122, 62}, {134, rail_y + 2, 92, 30}, Qt::AlignLeft},
      {"tank", {146, tank_y + 18, 162, 50}, {140, tank_y + 20, 136, 48}, Qt::AlignRight},
      {"plate coil", {312, rail_y + 4, 140, 64}, {coil_x + 20, rail_y + 12, 96, 44}, Qt::AlignLeft},
      {"trap", {312, 110, 130, 32}, {coil_x + 20, 108, 100, 30}, Qt::AlignLeft},
      {"tube", {308, tube_y - 28, 168, 56}, {coil_x + 36, tube_y - 22, 130, 44}, Qt::AlignLeft},
      {"feedback", hartley ? QRectF{120, 8, 190, 34} : QRectF{104, 156, 152, 50},
       hartley ? QRectF{122, 6, 108, 44} : QRectF{104, 160, 112, 44}, Qt::AlignRight},
      {"leak", {104, 208, 178, 52}, {104, 210, 112, 44}, Qt::AlignRight},
      {"thyristor", {312, 206, 140, 44}, {coil_x + 24, 206, 116, 44}, Qt::AlignLeft},
      {"resonator", {464, 8, 152, 236}, {second_x + 20, 70, 98, 44}, Qt::AlignLeft}};
  for (Part& part : parts_)
    for (const Place& place : o.push_pull && !hartley ? pair : places)
      if (part.key == place.key) {
        part.box = place.box;
        part.words = place.words;
        part.side = place.side;
      }
}

QPointF OscillatorView::at(double x, double y) const {
  return {x * width() / drawing_wide, y * height() / drawing_high};
}

QRectF OscillatorView::at(const QRectF& box) const {
  return {at(box.left(), box.top()), at(box.right(), box.bottom())};
}

int OscillatorView::part_at(QPointF place) const {
  for (std::size_t i = 0; i < parts_.size(); ++i)
    if (at(parts_[i].box).contains(place)) return static_cast<int>(i);
  return -1;
}

void OscillatorView::draw_wires(QPainter& p, bool hartley) const {
  const Theme& t = workspace_.theme();
  const arc::TubeOscillator& o = workspace_.document.design().tube;
  const Ink k{p, width() / drawing_wide, height() / drawing_high};
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1.4));
  const double far_y = 108;
  k.line(96, rail_y, coil_x, rail_y);
  k.dot(coil_x, rail_y);
  if (!o.supply_voltage_v) {
    k.dot(118, rail_y);
    k.capacitor(118, rail_y, rail_y + 56);
    k.ground(118, rail_y + 56);
  }
  // Plate coil with its tank; the plate's lead goes down from it.
  const double tank_x = 292, upper = hartley ? 12 : rail_y;
  if (!hartley) k.dot(tank_x, rail_y);
  if (hartley) k.line(tank_x, upper, coil_x, upper);
  k.capacitor(tank_x, upper, far_y);
  k.line(tank_x, far_y, coil_x, far_y);
  k.dot(coil_x, far_y);
  draw_plate_lead(k, coil_x, far_y, o.trap_ohm > 0, t.copper);
  draw_tube(k, coil_x, o.in_parallel > 1);
  p.setPen(QPen(t.copper, 1.8));
  k.coil(coil_x, rail_y, far_y, 7);
  if (hartley) k.coil(coil_x, upper, rail_y, 3);
  draw_resonator(k, t);
  // Grid.
  const double grid_x = 242;
  if (hartley) {
    k.line(tank_x, upper, grid_x, upper);
    k.dot(tank_x, upper);
    k.line(grid_x, upper, grid_x, 132);
    k.capacitor(grid_x, 132, tube_y);
    k.dot(grid_x, tube_y);
    k.resistor(grid_x, tube_y, 244);
  } else {
    p.setPen(QPen(t.copper, 1.8));
    k.coil(grid_x, tube_y, 208, 4);
    p.setPen(QPen(t.ink, 1.4));
    k.line(grid_x, 208, grid_x, 212);
    k.dot(grid_x, 212);
    k.resistor(grid_x, 212, 244);
    k.line(grid_x, 212, grid_x + 26, 212);
    k.capacitor(grid_x + 26, 212, 244);
    k.line(grid_x, 244, grid_x + 26, 244);
  }
  k.ground(grid_x, 244);
  if (o.lamp_hot_ohm > 0) { // in the grid's lead
    const QPointF c = k.at(276, tube_y);
    draw_lamp(k, 276, tube_y);
    p.drawLine(k.at(grid_x, tube_y), c - QPointF(7, 0));
    p.drawLine(c + QPointF(7, 0), k.at(coil_x, tube_y) - QPointF(25, 0));
  } else {
    p.drawLine(k.at(grid_x, tube_y), k.at(coil_x, tube_y) - QPointF(25, 0));
  }
  draw_cathode(k, coil_x, 248);
  if (o.staccato) draw_thyristor(k, coil_x, 228);
  k.ground(coil_x, 248);
}

// Plate coil between the two plates, feedback winding between the two grids; supply, tank and grid leak at the
// middles.
void OscillatorView::draw_push_pull(QPainter& p) const {
  const Theme& t = workspace_.theme();
  const arc::TubeOscillator& o = workspace_.document.design().tube;
  const Ink k{p, width() / drawing_wide, height() / drawing_high};
  constexpr double coil_y = 52, tank_y = 112, leak_y = 214, foot_y = 244;
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1.4));
  k.line(96, rail_y, pair_middle, rail_y);
  k.line(pair_middle, rail_y, pair_middle, tank_y);
  k.dot(pair_middle, coil_y);
  k.dot(pair_middle, tank_y);
  if (!o.supply_voltage_v) {
    k.dot(116, rail_y);
    k.capacitor(116, rail_y, rail_y + 60);
    k.ground(116, rail_y + 60);
  }
  constexpr double near = 44; // its plates stand near the ends, clear of the words
  k.lying_capacitor(pair_left, pair_left + near, tank_y);
  k.line(pair_left + near, tank_y, pair_right - near, tank_y);
  k.lying_capacitor(pair_right - near, pair_right, tank_y);
  for (const double x : {pair_left, pair_right}) {
    k.line(x, coil_y, x, tank_y);
    k.dot(x, tank_y);
    draw_plate_lead(k, x, tank_y, o.trap_ohm > 0, t.copper);
    draw_tube(k, x, o.in_parallel > 1, x < pair_middle);
  }
  const QPointF left = k.at(pair_left, tube_y) + QPointF(tube_radius, 0),
                right = k.at(pair_right, tube_y) - QPointF(tube_radius, 0);
  p.drawLine(left, k.at(216, tube_y));
  p.drawLine(k.at(344, tube_y), right);
  if (o.lamp_hot_ohm > 0) draw_lamp(k, 362, tube_y);
  k.line(pair_middle, tube_y, pair_middle, leak_y);
  k.resistor(pair_middle, leak_y, foot_y);
  k.dot(pair_middle, leak_y);
  k.line(pair_middle, leak_y, pair_middle + 26, leak_y);
  k.capacitor(pair_middle + 26, leak_y, foot_y);
  k.line(pair_middle, foot_y, pair_middle + 26, foot_y);
  k.ground(pair_middle, foot_y);
  constexpr double joined_y = 208;
  if (o.staccato) { // one thyristor for both cathodes
    draw_cathode(k, pair_right, joined_y);
    k.line(pair_left, joined_y, pair_right, joined_y);
    draw_thyristor(k, pair_left, 228);
  } else {
    draw_cathode(k, pair_right, foot_y);
    k.ground(pair_right, foot_y);
  }
  draw_cathode(k, pair_left, foot_y);
  k.ground(pair_left, foot_y);
  p.setPen(QPen(t.copper, 1.8));
  k.lying_coil(pair_left, pair_middle, coil_y, 7);
  k.lying_coil(pair_middle, pair_right, coil_y, 7);
  k.lying_coil(216, 344, tube_y, 12);
  draw_resonator(k, t);
}

void OscillatorView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  for (std::size_t i = 0; i < parts_.size(); ++i) {
    const bool current = static_cast<int>(i) == current_ && hasFocus();
    if (!current && static_cast<int>(i) != hovered_) continue;
    p.setPen(current ? QPen(t.arc, 1.4) : QPen(Qt::NoPen));
    p.setBrush(static_cast<int>(i) == hovered_ ? t.card : QColor(Qt::transparent));
    p.drawRoundedRect(at(parts_[i].box), 4, 4);
  }
  const arc::Design& design = workspace_.document.design();
  const bool hartley = design.tube.circuit == arc::OscillatorCircuit::hartley;
  if (arc::is_flame(design))
    draw_flame(p);
  else if (design.tube.push_pull && !hartley)
    draw_push_pull(p);
  else
    draw_wires(p, hartley);
  for (const Part& part : parts_) {
    const QRectF where = at(part.words);
    double y = where.top();
    const auto text = [&](const QString& words, const QColor& colour, QFont::Weight weight) {
      if (words.isEmpty()) return;
      const QFont font = type::font(type::caption, weight);
      p.setFont(font);
      p.setPen(colour);
      p.drawText(QRectF(where.left(), y, where.width(), 15), part.side | Qt::AlignVCenter,
                 QFontMetrics(font).elidedText(words, Qt::ElideRight, static_cast<int>(where.width())));
      y += 14;
    };
    text(part.title, t.second, QFont::Normal);
    text(part.hot ? part.value + "  !" : part.value, part.hot ? t.stop : t.ink, QFont::DemiBold);
    text(part.live, part.hot ? t.stop : t.second, QFont::Normal);
  }
}

void OscillatorView::go(int part) {
  const Part& p = parts_[static_cast<std::size_t>(part)];
  workspace_.go_to(p.stage, p.field);
}

void OscillatorView::mousePressEvent(QMouseEvent* event) {
  const int part = part_at(event->position());
  if (part < 0) return;
  current_ = part;
  go(part);
}

void OscillatorView::mouseMoveEvent(QMouseEvent* event) {
  const int part = part_at(event->position());
  if (part == hovered_) return;
  hovered_ = part;
  setCursor(part < 0 ? Qt::ArrowCursor : Qt::PointingHandCursor);
  if (part >= 0) {
    const Part& p = parts_[static_cast<std::size_t>(part)];
    setToolTip(QStringList{p.title, p.value, p.live}.join("\n"));
  }
  update();
}

void OscillatorView::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

void OscillatorView::keyPressEvent(QKeyEvent* event) {
  const int last = static_cast<int>(parts_.size()) - 1;
  switch (event->key()) {
  case Qt::Key_Right:
  case Qt::Key_Down:
    current_ = std::min(current_ + 1, last);
    break;
  case Qt::Key_Left:
  case Qt::Key_Up:
    current_ = std::max(current_ - 1, 0);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (last >= 0) go(current_);
    return;
  default:
    QWidget::keyPressEvent(event);
    return;
  }
  update();
  tell_cursor(*this);
}

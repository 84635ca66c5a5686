// Each circuit as wires and symbols on a grid.
#include "timing/timer_schematic.h"

#include <algorithm>

namespace arc {
namespace {

using enum SymbolKind;
using enum SchematicAnchor;
constexpr double width = 800, height = 430, rail = 40;

// Puts parts with their names and values on the sheet.
class Sheet {
 public:
  Sheet(const TimerCircuit& circuit, UnitSystem units)
      : circuit_(circuit), units_(units), out_{.width = width, .height = height, .title = circuit.title} {}

  void wire(std::vector<SchematicPoint> through) { out_.wire(std::move(through)); }
  void dot(double x, double y) { out_.dot(x, y); }
  void text(double x, double y, std::string_view words, SchematicAnchor anchor = start, int size = 12) {
    out_.texts.push_back({{x, y}, std::string(words), anchor, size});
  }
  void ground(double x, double y) { out_.ground(x, y); }
  void supply(double from, double to) {
    wire({{from, rail}, {to, rail}});
    text(from, rail - 8, "+ supply");
  }
  // Upright parts between two heights of a column, their name and value to the right.
  void resistor(std::string_view name, double x, double top, double bottom, bool variable = false,
                bool named_left = false) {
    out_.put(variable ? potentiometer : SymbolKind::resistor, {x, top}, {x, bottom}, std::string(name));
    const double middle_y = (top + bottom) / 2;
    if (named_left)
      label(name, x - 11, middle_y, end);
    else
      label(name, x + 17, middle_y);
  }
  // A resistor across the part between these heights, to its left; nothing where the circuit has none.
  void shunt(std::string_view name, double x, double top, double bottom) {
    if (!part(name)) return;
    constexpr double beside = 28, from_end = 4;
    resistor(name, x - beside, top + from_end, bottom - from_end, false, true);
    for (const double y : {top + from_end, bottom - from_end}) {
      wire({{x - beside, y}, {x, y}});
      dot(x, y);
    }
  }
  void capacitor(std::string_view name, double x, double top, double bottom) {
    out_.put(SymbolKind::capacitor, {x, top}, {x, bottom}, std::string(name));
    label(name, x + 17, (top + bottom) / 2);
  }
  void level_capacitor(std::string_view name, double left, double right, double y) {
    out_.put(SymbolKind::capacitor, {left, y}, {right, y}, std::string(name));
    text((left + right) / 2, y + 26, name, middle);
    text((left + right) / 2, y + 40, value_of(name), middle);
  }
  // Its ring at `ring_y`.
  void diode(std::string_view name, double x, double anode_y, double ring_y) {
    out_.put(SymbolKind::diode, {x, anode_y}, {x, ring_y}, std::string(name));
    label(name, x + 13, (anode_y + ring_y) / 2);
  }
  // A timer with its pins on a box of 120 by 170; left 7, 6, 2 at 30, 80, 120 below its top, right 3 at 80.
  void timer(std::string_view name, double x, double y, bool turned) {
    out_.put(box, {x, y}, {x + 120, y + 170}, std::string(name));
    text(x + 60, y + 72, name, middle, 14);
    text(x + 60, y + 90, what_of(name), middle, 11);
    const double in = turned ? x + 120 : x;
    const SchematicAnchor side = turned ? end : start;
    const double inside = turned ? -6 : 6;
    text(in + inside, y + 34, "7", side, 11);
    text(in + inside, y + 84, "6", side, 11);
    text(x + 40, y + 14, "8", middle, 11);
    text(x + 80, y + 14, "4", middle, 11);
    text(x + 40, y + 164, "1", middle, 11);
    text(x + 80, y + 164, "5", middle, 11);
    for (const double pin : {40.0, 80.0}) {
      wire({{x + pin, y}, {x + pin, rail}});
      dot(x + pin, rail);
    }
    wire({{x + 40, y + 170}, {x + 40, y + 200}});
    ground(x + 40, y + 200);
  }
  void control(std::string_view name, double x, double y) { // pin 5 of a timer at x, y
    capacitor(name, x + 80, y + 170, y + 215);
    ground(x + 80, y + 215);
  }
  void output(double x, double y) {
    out_.put(arrow_right, {x, y});
    text(x - 4, y - 10, "to the driver's enable", end);
  }

  Schematic done() { return std::move(out_); }

 private:
  const TimerPart* part(std::string_view name) const {
    const auto it = std::ranges::find(circuit_.parts, name, &TimerPart::name);
    return it == circuit_.parts.end() ? nullptr : &*it;
  }
  std::string value_of(std::string_view name) const {
    const TimerPart* p = part(name);
    return p && p->value > 0 ? format_quantity(p->value, p->dimension, units_, 3) : "";
  }
  std::string what_of(std::string_view name) const {
    const TimerPart* p = part(name);
    return p ? p->what : "";
  }
  void label(std::string_view name, double x, double middle_y, SchematicAnchor anchor = start) {
    const std::string value = value_of(name);
    text(x, middle_y + (value.empty() ? 4 : -2), name, anchor);
    if (!value.empty()) text(x, middle_y + 12, value, anchor);
  }

  const TimerCircuit& circuit_;
  UnitSystem units_;
  Schematic out_;
};

// The timing column of an astable clock, and pins 7, 6 and 2 on it.
void draw_two_timers(Sheet& s) {
  constexpr double top = 110, clock_x = 170, shot_x = 480, left = 60, right = 680;
  s.supply(left, right + 40);
  s.resistor("R1", left, rail, rail + 50);
  s.dot(left, rail);
  s.resistor("P1", left, rail + 50, top + 30, true);
  s.wire({{left, top + 30}, {clock_x, top + 30}});
  s.dot(left, top + 30);
  s.resistor("R2", left, top + 30, top + 80);
  s.wire({{left, top + 80}, {clock_x, top + 80}});
  s.dot(left, top + 80);
  s.wire({{clock_x - 30, top + 80}, {clock_x - 30, top + 120}, {clock_x, top + 120}});
  s.dot(clock_x - 30, top + 80);
  s.text(clock_x + 6, top + 124, "2", start, 11);
  s.capacitor("C1", left, top + 80, top + 200);
  s.ground(left, top + 200);
  s.timer("U1", clock_x, top, false);
  s.control("C3", clock_x, top);
  // The fall of the clock's output triggers the one-shot.
  s.text(clock_x + 114, top + 84, "3", end, 11);
  s.level_capacitor("C4", clock_x + 120, clock_x + 180, top + 80);
  s.wire({{clock_x + 180, top + 80}, {shot_x, top + 80}});
  s.text(shot_x + 6, top + 84, "2", start, 11);
  s.resistor("R4", clock_x + 180, rail, top + 80);
  s.diode("D1", clock_x + 250, top + 80, rail);
  for (const double x : {clock_x + 180, clock_x + 250}) {
    s.dot(x, rail);
    s.dot(x, top + 80);
  }
  s.timer("U2", shot_x, top, true);
  s.control("C3", shot_x, top);
  s.resistor("R3", right, rail, rail + 50);
  s.dot(right, rail);
  s.resistor("P2", right, rail + 50, top + 30, true);
  s.shunt("R5", right, rail + 50, top + 30);
  s.wire({{shot_x + 120, top + 30}, {right, top + 30}});
  s.dot(right, top + 30);
  s.wire({{right, top + 30}, {right, top + 80}, {shot_x + 120, top + 80}});
  s.dot(right, top + 80);
  s.capacitor("C2", right, top + 80, top + 150);
  s.ground(right, top + 150);
  s.text(shot_x + 114, top + 144, "3", end, 11);
  s.wire(
      {{shot_x + 120, top + 140}, {shot_x + 150, top + 140}, {shot_x + 150, top + 260}, {right + 100, top + 260}});
  s.output(right + 100, top + 260);
}

void draw_steered(Sheet& s) {
  constexpr double top = 110, x = 330, left = 90, beside = 180;
  s.supply(left, x + 120);
  s.resistor("R1", left, rail, rail + 50);
  s.dot(left, rail);
  s.resistor("P1", left, rail + 50, top + 30, true);
  s.shunt("R3", left, rail + 50, top + 30);
  s.wire({{left, top + 30}, {x, top + 30}});
  s.dot(left, top + 30);
  s.dot(beside, top + 30);
  s.diode("D1", left, top + 30, top + 170);
  s.resistor("R2", beside, top + 30, top + 100);
  s.resistor("P2", beside, top + 100, top + 170, true);
  s.wire({{left, top + 170}, {x - 50, top + 170}, {x - 50, top + 80}, {x, top + 80}});
  s.wire({{x - 50, top + 120}, {x, top + 120}});
  s.dot(beside, top + 170);
  s.dot(left, top + 170);
  s.dot(x - 50, top + 120);
  s.text(x + 6, top + 124, "2", start, 11);
  s.capacitor("C1", left, top + 170, top + 250);
  s.ground(left, top + 250);
  s.timer("U1", x, top, false);
  s.control("C2", x, top);
  s.text(x + 114, top + 84, "3", end, 11);
  s.wire({{x + 120, top + 80}, {x + 340, top + 80}});
  s.output(x + 340, top + 80);
}

} // namespace

Schematic timer_schematic(const TimerCircuit& circuit, UnitSystem units) {
  Sheet sheet(circuit, units);
  if (circuit.key == "steered")
    draw_steered(sheet);
  else
    draw_two_timers(sheet);
  return sheet.done();
}

} // namespace arc

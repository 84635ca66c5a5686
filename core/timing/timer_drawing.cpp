// Each circuit as wires and symbols on a grid of pixels.
#include "timing/timer_drawing.h"

#include <algorithm>
#include <fmt/format.h>

namespace arc {
namespace {

constexpr double width = 800, height = 430, rail = 40;

std::string escaped(std::string_view text) {
  std::string out;
  for (const char c : text) out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : std::string(1, c);
  return out;
}

class Sheet {
 public:
  Sheet(const TimerCircuit& circuit, UnitSystem units, std::string_view ink, std::string_view paper)
      : circuit_(circuit), units_(units), ink_(ink), paper_(paper) {}

  void wire(std::initializer_list<std::pair<double, double>> corners) {
    std::string points;
    for (const auto& [x, y] : corners) points += fmt::format("{}{},{}", points.empty() ? "" : " ", x, y);
    add("<polyline points=\"{}\"/>", points);
  }
  void dot(double x, double y) { add("<circle cx=\"{}\" cy=\"{}\" r=\"2.6\" fill=\"{}\"/>", x, y, ink_); }
  void text(double x, double y, std::string_view words, std::string_view anchor = "start", int size = 12) {
    add("<text x=\"{}\" y=\"{}\" font-size=\"{}\" text-anchor=\"{}\" fill=\"{}\" stroke=\"none\">{}</text>", x, y,
        size, anchor, ink_, escaped(words));
  }
  void ground(double x, double y) {
    for (int i = 0; i < 3; ++i) wire({{x - 9 + 3 * i, y + 4 * i}, {x + 9 - 3 * i, y + 4 * i}});
  }
  void supply(double from, double to) {
    wire({{from, rail}, {to, rail}});
    text(from, rail - 8, "+ supply");
  }
  // Upright parts between two heights of a column, their name and value to the right.
  void resistor(std::string_view name, double x, double top, double bottom, bool variable = false,
                bool named_left = false) {
    const double middle = (top + bottom) / 2;
    wire({{x, top}, {x, middle - 16}});
    add("<rect x=\"{}\" y=\"{}\" width=\"12\" height=\"32\"/>", x - 6, middle - 16);
    wire({{x, middle + 16}, {x, bottom}});
    if (variable) {
      wire({{x - 13, middle + 13}, {x + 13, middle - 13}});
      wire({{x + 6, middle - 12}, {x + 13, middle - 13}, {x + 12, middle - 6}});
    }
    if (named_left)
      label(name, x - 11, middle, "end");
    else
      label(name, x + 17, middle);
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
    const double middle = (top + bottom) / 2;
    wire({{x, top}, {x, middle - 3}});
    wire({{x - 11, middle - 3}, {x + 11, middle - 3}});
    wire({{x - 11, middle + 3}, {x + 11, middle + 3}});
    wire({{x, middle + 3}, {x, bottom}});
    label(name, x + 17, middle);
  }
  void level_capacitor(std::string_view name, double left, double right, double y) {
    const double middle = (left + right) / 2;
    wire({{left, y}, {middle - 3, y}});
    wire({{middle - 3, y - 11}, {middle - 3, y + 11}});
    wire({{middle + 3, y - 11}, {middle + 3, y + 11}});
    wire({{middle + 3, y}, {right, y}});
    text(middle, y + 26, name, "middle");
    text(middle, y + 40, value_of(name), "middle");
  }
  // Its ring at `ring_y`.
  void diode(std::string_view name, double x, double anode_y, double ring_y) {
    const double middle = (anode_y + ring_y) / 2, way = ring_y > anode_y ? 1 : -1;
    wire({{x, anode_y}, {x, ring_y}});
    add("<polygon points=\"{},{} {},{} {},{}\" fill=\"{}\"/>", x - 7, middle - 6 * way, x + 7, middle - 6 * way, x,
        middle + 6 * way, paper_);
    wire({{x - 7, middle + 6 * way}, {x + 7, middle + 6 * way}});
    label(name, x + 13, middle);
  }
  // A timer with its pins on a box of 120 by 170; left 7, 6, 2 at 30, 80, 120 below its top, right 3 at 80.
  void timer(std::string_view name, double x, double y, bool turned) {
    add("<rect x=\"{}\" y=\"{}\" width=\"120\" height=\"170\"/>", x, y);
    text(x + 60, y + 72, name, "middle", 14);
    text(x + 60, y + 90, what_of(name), "middle", 11);
    const double in = turned ? x + 120 : x;
    const std::string_view side = turned ? "end" : "start";
    const double inside = turned ? -6 : 6;
    text(in + inside, y + 34, "7", side, 11);
    text(in + inside, y + 84, "6", side, 11);
    text(x + 40, y + 14, "8", "middle", 11);
    text(x + 80, y + 14, "4", "middle", 11);
    text(x + 40, y + 164, "1", "middle", 11);
    text(x + 80, y + 164, "5", "middle", 11);
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
    wire({{x - 8, y - 4}, {x, y}, {x - 8, y + 4}});
    text(x - 4, y - 10, "to the driver's enable", "end");
  }

  std::string done() const {
    return fmt::format("<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" viewBox=\"0 0 {0} {1}\" "
                       "width=\"{0}\" height=\"{1}\" font-family=\"sans-serif\">\n"
                       "<title>{2}</title>\n<rect width=\"{0}\" height=\"{1}\" fill=\"{3}\"/>\n"
                       "<g fill=\"none\" stroke=\"{4}\" stroke-width=\"1.4\">\n{5}</g>\n</svg>\n",
                       width, height, escaped(circuit_.title), paper_, ink_, body_);
  }

 private:
  template <typename... T>
  void add(fmt::format_string<T...> text, T&&... values) {
    body_ += fmt::format(text, std::forward<T>(values)...) + "\n";
  }
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
  void label(std::string_view name, double x, double middle, std::string_view anchor = "start") {
    const std::string value = value_of(name);
    text(x, middle + (value.empty() ? 4 : -2), name, anchor);
    if (!value.empty()) text(x, middle + 12, value, anchor);
  }

  const TimerCircuit& circuit_;
  UnitSystem units_;
  std::string_view ink_, paper_;
  std::string body_;
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
  s.text(clock_x + 6, top + 124, "2", "start", 11);
  s.capacitor("C1", left, top + 80, top + 200);
  s.ground(left, top + 200);
  s.timer("U1", clock_x, top, false);
  s.control("C3", clock_x, top);
  // The fall of the clock's output triggers the one-shot.
  s.text(clock_x + 114, top + 84, "3", "end", 11);
  s.level_capacitor("C4", clock_x + 120, clock_x + 180, top + 80);
  s.wire({{clock_x + 180, top + 80}, {shot_x, top + 80}});
  s.text(shot_x + 6, top + 84, "2", "start", 11);
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
  s.text(shot_x + 114, top + 144, "3", "end", 11);
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
  s.text(x + 6, top + 124, "2", "start", 11);
  s.capacitor("C1", left, top + 170, top + 250);
  s.ground(left, top + 250);
  s.timer("U1", x, top, false);
  s.control("C2", x, top);
  s.text(x + 114, top + 84, "3", "end", 11);
  s.wire({{x + 120, top + 80}, {x + 340, top + 80}});
  s.output(x + 340, top + 80);
}

} // namespace

std::string timer_svg(const TimerCircuit& circuit, UnitSystem units, std::string_view ink, std::string_view paper) {
  Sheet sheet(circuit, units, ink, paper);
  if (circuit.key == "steered")
    draw_steered(sheet);
  else
    draw_two_timers(sheet);
  return sheet.done();
}

} // namespace arc

// Designs with anything that the documented ranges allow, for tests of what must hold for all of them. Seeded.
#pragma once

#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "evidence/tolerance.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "support.h"

#include <cmath>
#include <random>

class AnyDesign {
 public:
  explicit AnyDesign(unsigned seed) : random_(seed) {}

  /// Numbers spread over their whole range by decades where the range has many; of the kind of `d`.
  arc::Design wild(arc::Design d = demo_design()) {
    for (const arc::FieldSpec& field : arc::design_fields())
      if (field.nullable && chance(0.5))
        field.set(d, std::nullopt);
      else if (chance(0.35))
        field.set(d, number(field.minimum, field.maximum, field.dimension));
    for (const arc::ChoiceSpec& choice : arc::design_choices())
      if (choice.key.starts_with("bridge") || choice.key.starts_with("interrupter") ||
          choice.key == "primary.shape" || choice.key == "gap.electrode_shape")
        choice.set(d, random_() % choice.choices.size());
    for (const arc::ToleranceInput& input : arc::tolerance_inputs())
      if (chance(0.3))
        d.tolerances[std::string(input.key)] = number(0, arc::largest_tolerance, arc::Dimension::number);
    if (chance(0.5)) d.topload = toploads(chance(0.5));
    if (chance(0.7)) d.feed = feed();
    if (chance(0.2)) d.runs.clear();
    d.tank.capacitance_f = arc::tank_capacitance_f(d.tank);
    return d;
  }

  /// A coil that somebody could have built, with a few things wrong.
  arc::Design plausible() {
    arc::Design d = demo_design();
    const auto vary = [&](double& value, double by) { value *= std::exp(uniform(-by, by)); };
    vary(d.secondary.turns, 0.15);
    d.secondary.turns = std::round(d.secondary.turns);
    vary(d.secondary.winding_length_m, 0.1);
    vary(d.secondary.wire_overall_diameter_m, 0.1);
    vary(d.primary.inner_radius_m, 0.15);
    vary(d.primary.pitch_m, 0.3);
    vary(d.primary.base_height_m, 0.15);
    d.primary.tap_turns = uniform(4, d.primary.turns);
    if (d.tank.unit_capacitance_f) vary(*d.tank.unit_capacitance_f, 0.6);
    if (d.tank.unit_voltage_v) vary(*d.tank.unit_voltage_v, 0.7);
    d.tank.units_in_series = std::round(uniform(5, 14));
    if (chance(0.3)) d.tank.bleed_resistance_ohm.reset();
    vary(d.gap.firing_voltage_v, 0.5);
    vary(d.gap.break_rate_hz, 0.6);
    if (chance(0.4)) d.breakout.point_length_m.reset();
    if (chance(0.3)) d.topload = toploads(true);
    for (arc::ToploadPart& part : d.topload) part.centre_above_winding_m += uniform(-0.06, 0.06);
    if (chance(0.3)) {
      d.gap.rotary_electrodes = std::round(uniform(4, 12));
      d.gap.rotor_speed_hz = uniform(10, 50);
      d.gap.rotor_clearance_m = std::exp(uniform(std::log(3e-4), std::log(2e-2)));
    }
    if (chance(0.4)) d.feed = feed();
    spoil(d.feed, 0.15);
    d.tank.capacitance_f = arc::tank_capacitance_f(d.tank);
    return d;
  }

  /// A bridge that somebody could have built, of the kind of `d`, with a few things wrong.
  arc::Design plausible_bridge(arc::Design d) {
    const auto vary = [&](double& value, double by) { value *= std::exp(uniform(-by, by)); };
    vary(d.secondary.turns, 0.1);
    d.secondary.turns = std::round(d.secondary.turns);
    vary(d.primary.base_height_m, 0.15);
    arc::Bridge& b = d.bridge;
    vary(b.dead_time_s, 0.7);
    vary(b.driver_slowest_s, 0.4);
    vary(b.gate_core_area_mm2, 0.8);
    vary(b.antenna_length_m, 1);
    vary(b.device.pulse_rating_a, 0.6);
    vary(b.device.voltage_rating_v, 0.3);
    b.gate_secondary_turns = std::round(uniform(7, 16));
    b.reversed = chance(0.15);
    if (chance(0.3)) b.current_limit_a.reset();
    vary(d.interrupter.rate_hz, 1);
    vary(d.interrupter.on_time_s, 0.4);
    if (chance(0.3)) d.feed.clear();
    for (std::size_t i = d.feed.size(); i-- > 0;)
      if (chance(0.08)) d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(i));
    spoil(d.feed, 0.2);
    if (arc::given(d, "tank")) d.tank.capacitance_f = arc::tank_capacitance_f(d.tank);
    return d;
  }

  /// A tube coil that somebody could have built, from a demo, with a few things wrong.
  arc::Design plausible_tube(arc::Design d) {
    const auto vary = [&](double& value, double by) { value *= std::exp(uniform(-by, by)); };
    vary(d.secondary.turns, 0.1);
    d.secondary.turns = std::round(d.secondary.turns);
    vary(d.primary.base_height_m, 0.05);
    vary(d.primary.tap_turns, 0.1);
    arc::TubeOscillator& t = d.tube;
    vary(t.grid_leak_ohm, 1);
    vary(t.grid_leak_f, 1);
    vary(t.grid_leak_rating_w, 2);
    vary(t.tube.plate_dissipation_w, 2);
    vary(t.tube.grid_dissipation_w, 2);
    vary(t.tube.perveance_a_per_v15, 0.2);
    vary(t.tube.plate_voltage_v, 0.4);
    vary(t.tube.cathode_peak_a, 1);
    if (t.filament.open_v) vary(*t.filament.open_v, 0.1);
    vary(t.bypass_f, 3);
    vary(t.thyristor_voltage_v, 2);
    if (chance(0.2)) t.trap_ohm = 0;
    if (chance(0.3)) t.staccato = !t.staccato;
    if (chance(0.2)) t.supply_voltage_v = uniform(500, 5000);
    t.reversed = chance(0.15);
    vary(d.feedback.turns, 0.7);
    vary(d.feedback.gap_m, 1);
    d.feedback.above = chance(0.3);
    vary(d.flame.feedback_f, 0.8);
    vary(d.flame.grid_resistor_rating_w, 3);
    if (chance(0.3)) d.flame.form = arc::FlameForm::plastic;
    d.interrupter.every_cycle = std::round(uniform(1, 3));
    vary(d.interrupter.phase_deg, 0.8);
    d.interrupter.phase_deg = std::min(d.interrupter.phase_deg, 300.0);
    if (chance(0.1)) d.feed.clear();
    spoil(d.feed, 0.15);
    if (arc::given(d, "tank")) d.tank.capacitance_f = arc::tank_capacitance_f(d.tank);
    return d;
  }

  bool chance(double p) { return uniform(0, 1) < p; }
  double uniform(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }

 private:
  // Some numbers of the blocks up to e times off.
  void spoil(arc::SharedList<arc::FeedBlock>& feed, double share) {
    for (arc::FeedBlock& block : feed)
      for (auto& [key, value] : block.values)
        if (chance(share) && value > 0)
          if (const arc::BlockNumber* n = number_of(block, key); n && n->dimension != arc::Dimension::count)
            value =
                std::clamp(value * std::exp(uniform(-1, 1)), std::max(n->minimum, n->least_above_zero), n->maximum);
  }

  const char* pick(std::initializer_list<const char*> list) { return list.begin()[random_() % list.size()]; }

  double number(double low, double high, arc::Dimension dimension) {
    double value = chance(0.1) ? (chance(0.5) ? low : high)
                   : low > 0   ? low * std::pow(high / low, uniform(0, 1))
                   : low == 0  ? high * std::pow(10, -uniform(0, 6))
                               : uniform(low, high);
    if (dimension == arc::Dimension::count) value = std::round(value);
    return std::clamp(value, low, high);
  }

  static const arc::BlockNumber* number_of(const arc::FeedBlock& block, const std::string& key) {
    for (const arc::BlockNumber& n : arc::block_kind(block.kind)->numbers)
      if (n.key == key) return &n;
    return nullptr;
  }

  std::vector<arc::ToploadPart> toploads(bool sensible) {
    std::vector<arc::ToploadPart> out(random_() % 3);
    for (arc::ToploadPart& part : out) {
      part.shape = pick({"toroid", "sphere", "disc", "cylinder"});
      const auto length = [&] {
        return sensible ? uniform(0.05, 0.4)
                        : number(arc::least_topload_length_m, arc::most_topload_length_m, arc::Dimension::length);
      };
      part.outer_diameter_m = length();
      part.tube_diameter_m = sensible ? part.outer_diameter_m * uniform(0.1, 0.45) : length();
      part.diameter_m = length();
      part.height_m = length();
      part.centre_above_winding_m = sensible ? uniform(0.02, 0.4) : uniform(-2, 2);
    }
    return out;
  }

  std::vector<arc::FeedBlock> feed() {
    arc::SharedList<arc::FeedBlock> out;
    const auto kinds = arc::block_kinds();
    const std::size_t count = random_() % 7;
    for (std::size_t i = 0; i < count; ++i) {
      arc::FeedBlock block = arc::make_block(kinds[random_() % kinds.size()].key);
      for (auto& [key, value] : block.values)
        if (const arc::BlockNumber* n = number_of(block, key); n && chance(0.3)) {
          value = number(n->minimum, n->maximum, n->dimension);
          if (value > 0 && value < n->least_above_zero) value = n->least_above_zero;
        }
      arc::add_block(out, std::move(block));
    }
    return out.get();
  }

  std::mt19937 random_;
};

/// How many designs a test of all of them tries: a few in everyday runs, more when HIGH_ARC_TRIALS says so.
inline int trials(int everyday) {
  const char* wish = std::getenv("HIGH_ARC_TRIALS");
  return wish ? std::max(1, std::atoi(wish)) : everyday;
}

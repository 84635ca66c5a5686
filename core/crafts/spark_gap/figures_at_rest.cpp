// What a spark gap says of its coil at rest, by the volts and the rate that were entered for it.
#include "crafts/spark_gap/spark_gap.h"
#include "simulation/figures.h"

#include "circuit/feed_network.h"

#include <array>
#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;

constexpr double v_per_m_in_kv_per_cm = 1e5;

std::vector<std::string> top_and_tank(const PowerView& o, UnitSystem u) {
  const auto print = [&](double volts) { return format_quantity(volts, voltage, u); };
  return {"Top at breakout " + print(top_voltage_v(o.analysis)),
          "Tank at its peak " + print(o.analysis.tank_peak_v)};
}

std::string times_resonant(const PowerView& o, UnitSystem) {
  const auto whole = mains_resonant_capacitance_f(o.design);
  return whole ? fmt::format("The tank is {:.2f} times that.", o.analysis.tank_capacitance_f / *whole)
               : std::string();
}

template <auto... Path>
std::optional<double> with_resonator(const PowerView& o) {
  return o.analysis.resonator ? resting<Path...>(o) : std::nullopt;
}

template <auto Member>
std::optional<double> in_kv_per_cm(const PowerView& o) {
  const auto field = with_resonator<Member>(o);
  return field ? std::optional(*field / v_per_m_in_kv_per_cm) : std::nullopt;
}

constexpr Figure stand_off(std::string_view key, std::string_view title, FigureValue value) {
  return {
      .key = key,
      .group = at_rest_group,
      .stage = "primary",
      .title = title,
      .value = value,
      .needs = Needs::tank,
      .formula = "Voltage over the shortest way through air: from the topload (or last turn) to the primary, and "
                 "from the winding to the primary at every height.",
      .more_inputs = top_and_tank,
      .assumes = "Mean fields in kV/cm, both windings at their peak at once. Streamers cross long gaps at about "
                 "5 kV/cm; between wires, 15 kV/cm is a limit with some margin.",
      .source = "CIGRE brochure 72 for long gaps (from memory); common practice between windings"};
}

constexpr Figure arc_row(std::string_view key, std::string_view title, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = length,
          .digits = 2,
          .value = value,
          .needs = Needs::tank,
          .formula = "60 to 100 % of 1.7 inch times the root of the power in watts.",
          .inputs = "power_w",
          .assumes = "A well-tuned coil with a topload; losses in the gap are inside the band.",
          .source = "Common practice, no source"};
}

constexpr std::array gap_rest_rows{
    Figure{.key = "strike_distance_m",
           .group = at_rest_group,
           .title = "Topload to primary",
           .dimension = length,
           .value = resting<&Analysis::strike_distance_m>,
           .needs = Needs::tank,
           .formula = "The shortest way through air from the topload, or the last turn, to the primary.",
           .inputs = "primary.inner_radius_m primary.pitch_m primary.turns primary.base_height_m "
                     "secondary.base_height_m secondary.winding_length_m",
           .assumes = "Straight lines between surfaces; the winding itself does not stand in the way.",
           .source = "Geometry"},
    stand_off("strike_field_kv_per_cm", "kV/cm, topload to primary", in_kv_per_cm<&Analysis::strike_field_v_per_m>),
    stand_off("primary_field_kv_per_cm", "kV/cm, winding to primary",
              in_kv_per_cm<&Analysis::primary_field_v_per_m>),
    Figure{
        .key = "mains_resonant_capacitance_f",
        .group = at_rest_group,
        .stage = "tank",
        .title = "Mains-resonant capacitance",
        .dimension = capacitance,
        .value = [](const PowerView& o) { return mains_resonant_capacitance_f(o.design); },
        .needs = Needs::tank,
        .formula = "The capacitance whose reactance at mains frequency is that of the leakage and ballast before "
                   "it: I / (2 pi f V) for a current-limited transformer.",
        .inputs = "site.mains_frequency_hz tank_capacitance_f",
        .assumes = "Constant leakage; a core near saturation has less. Schools: about equal, for most power while "
                   "the gap fires at every crest; 1.5 times it with a static gap, so that the voltage does not "
                   "run away when the gap misses (the default, for the capacitors' sake); 2 to 3 times with a "
                   "rotor locked to the mains.",
        .source = "Circuit theory; the ratios are common practice, no source",
        .by_hand = times_resonant},
    Figure{.key = "power_w",
           .group = at_rest_group,
           .stage = "tank",
           .title = "Tank power",
           .dimension = power,
           .value = resting<&Analysis::power_w>,
           .needs = Needs::tank,
           .formula = "Energy of the tank as the gap fires, times the breaks that were entered.",
           .inputs = "stored_energy_j gap.break_rate_hz",
           .assumes =
               "The gap fires so often and always at its volts; what the feed makes of it is simulated on Feed.",
           .source = "Circuit theory"},
    arc_row("expected_arc_low_m", "Expected arc length, from", resting<&Analysis::expected_arc_m, &Range::low>),
    arc_row("expected_arc_high_m", "Expected arc length, to", resting<&Analysis::expected_arc_m, &Range::high>),
    Figure{.key = "top_voltage_limit_v",
           .group = at_rest_group,
           .title = "Ideal top voltage, no losses",
           .dimension = voltage,
           .value = with_resonator<&Analysis::top_voltage_limit_v>,
           .needs = Needs::tank,
           .formula = "Firing voltage times the root of tank capacitance over resonator capacitance.",
           .inputs = "gap.firing_voltage_v tank_capacitance_f effective_capacitance_f",
           .assumes = "All energy crosses, nothing is lost, nothing breaks out: never reached in practice.",
           .source = "Energy balance"},
    Figure{.key = "turn_voltage_v",
           .group = at_rest_group,
           .stage = "resonator",
           .title = "Turn-to-turn voltage",
           .dimension = voltage,
           .value = with_resonator<&Analysis::turn_voltage_v>,
           .needs = Needs::tank,
           .formula = "The top's volts at breakout, or the ideal voltage without losses where that is lower, times "
                      "the steepest "
                      "step between turns of the field solution.",
           .inputs = "breakout_voltage_v top_voltage_limit_v",
           .assumes = breakout_limits,
           .source = breakout_source},
};

} // namespace

std::span<const Figure> spark_gap_figures_at_rest() {
  return gap_rest_rows;
}

} // namespace arc

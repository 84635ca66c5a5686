// Figures at rest of the tank, and of what arcs, air and wire do.
#include "simulation/figures_at_rest.h"

#include "craft/kind.h"

#include <array>
#include <cmath>

namespace arc {
namespace {

using enum Dimension;

constexpr std::string_view wire_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m "
    "site.air_temperature_c";
constexpr std::string_view loss_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m "
    "site.ground_resistance_ohm";
constexpr std::string_view tank_inputs = "tank_capacitance_f primary_inductance_h lead_inductance_h";
constexpr std::string_view clip_limits =
    "Found on the exact inductance curve of this primary to a thousandth of a turn; the band is the coil's.";
constexpr std::string_view energy_formula =
    "Half the capacitance times the voltage squared; charge is capacitance times voltage.";
constexpr std::string_view energy_limits = "All of the bank charged to the gap's firing voltage.";
constexpr std::string_view energy_source = "Circuit theory; hazard limit from IEC 61010-1 (from memory)";
constexpr std::string_view loaded_formula =
    "The resonance with streamer capacitance added at the top: half of a short arc's to all of a long one's.";
constexpr std::string_view loaded_limits = "About 1 pF for each 0.3 m of streamer.";
constexpr std::string_view practice = "Common practice, no source";
constexpr std::string_view loss_formula =
    "Stored energy times angular frequency over the power lost in the wire (skin and proximity, weighted with the "
    "current along the winding), in the ground and in the form.";
constexpr std::string_view loss_limits =
    "Ground resistance as entered; form loss taken as 0.04 % of the energy each radian; no arcs. The resistance is "
    "good to 20 %. A quality factor measured by ring-down replaces the estimate.";
constexpr std::string_view loss_source = "Skin effect exact; proximity after Medhurst 1947 (table from memory)";
constexpr std::string_view wire_formula =
    "Turns times the length of one turn of the helix; mass and resistance follow from the copper's cross-section.";
constexpr std::string_view wire_limits = "Solid copper at the site's air temperature; direct current.";
constexpr std::string_view wire_source = "IEC 60028 (resistivity, density)";

std::vector<std::string> clip_target(const PowerView& o, UnitSystem u) {
  return {input("Tune to", o.analysis.target_hz, frequency, u) + ", " + o.analysis.target_source};
}

std::vector<std::string> at_firing(const PowerView& o, UnitSystem u) {
  return {input("Tank at its peak", o.analysis.tank_peak_v, voltage, u)};
}

std::vector<std::string> skin_depth(const PowerView& o, UnitSystem u) {
  return {input("Skin depth", o.analysis.skin_depth_m, length, u)};
}

std::string loss_by_hand(const PowerView& o, UnitSystem) {
  return fmt::format("Wire alone: Q {:.0f}; wire, ground and form: Q {:.0f}", o.analysis.winding_q,
                     o.analysis.quality_estimate);
}

std::vector<std::string> hottest_spot(const PowerView& o, UnitSystem u) {
  if (!o.analysis.breakout) return {};
  const Breakout& b = *o.analysis.breakout;
  return {fmt::format("Hottest spot: {}, {} above the floor, {} from the axis", b.where,
                      print_at_rest(b.height_m, length, u, 3), print_at_rest(b.radius_m, length, u, 3))};
}

std::vector<std::string> arc_at_most(const PowerView& o, UnitSystem u) {
  return {input("Longest arc expected", o.analysis.expected_arc_m.high, length, u)};
}

// Only with the resonator solved, though the number would be there.
template <auto... Path>
std::optional<double> solved(const PowerView& o) {
  return o.analysis.resonator ? resting<Path...>(o) : std::nullopt;
}

constexpr Figure tuned_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = 4,
          .value = value,
          .needs = Needs::tank,
          .formula = "The tap, or the capacitance, at which the tank's frequency equals its target.",
          .inputs = tank_inputs,
          .more_inputs = clip_target,
          .assumes = clip_limits,
          .source = "See the tank frequency and the resonance"};
}

constexpr Figure energy_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .value = value,
          .needs = Needs::tank,
          .formula = energy_formula,
          .inputs = "tank_capacitance_f",
          .more_inputs = at_firing,
          .assumes = energy_limits,
          .source = energy_source};
}

constexpr Figure loaded_row(std::string_view key, std::string_view title, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = frequency,
          .value = value,
          .needs = Needs::tank,
          .formula = loaded_formula,
          .inputs = "mode_1_hz",
          .more_inputs = arc_at_most,
          .assumes = loaded_limits,
          .source = practice};
}

constexpr Figure loss_row(std::string_view key, std::string_view title, Dimension dimension,
                          std::string_view formula, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .value = value,
          .needs = Needs::winding,
          .formula = formula,
          .inputs = loss_inputs,
          .more_inputs = skin_depth,
          .assumes = loss_limits,
          .source = loss_source,
          .by_hand = loss_by_hand};
}

constexpr Figure wire_row(std::string_view key, std::string_view title, Dimension dimension, int digits,
                          FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = digits,
          .value = value,
          .needs = Needs::winding,
          .formula = wire_formula,
          .inputs = wire_inputs,
          .assumes = wire_limits,
          .source = wire_source};
}

constexpr std::array tank_and_wire_rows{
    Figure{.key = "tank_capacitance_f",
           .group = at_rest_group,
           .title = "Tank capacitance",
           .dimension = capacitance,
           .digits = 4,
           .value = resting<&Analysis::tank_capacitance_f>,
           .needs = Needs::tank,
           .formula = "As entered; of a bank, units in series divide and strings in parallel add.",
           .inputs = "tank.unit_capacitance_f tank.units_in_series tank.units_in_parallel",
           .assumes = "Every unit as marked, or as measured where it was.",
           .source = "Circuit theory"},
    Figure{.key = "tank_hz",
           .group = at_rest_group,
           .title = "Tank frequency",
           .dimension = frequency,
           .digits = 4,
           .value = resting<&Analysis::tank_hz>,
           .needs = Needs::tank,
           .formula = "One over two pi times the root of inductance times capacitance.",
           .inputs = tank_inputs,
           .assumes = "No loss; the gap and wiring add inductance unless it is entered as leads.",
           .source = "Thomson 1853"},
    tuned_row("tuned_tap_turns", "Tap at resonance", number, resting<&Analysis::tuned_tap_turns>),
    tuned_row("tuned_capacitance_f", "Tank C for resonance at this tap", capacitance,
              resting<&Analysis::tuned_capacitance_f>),
    energy_row("stored_energy_j", "Stored energy", energy, resting<&Analysis::stored_energy_j>),
    energy_row("stored_charge_c", "Stored charge", charge, resting<&Analysis::stored_charge_c>),
    Figure{.key = "peak_current_a",
           .group = at_rest_group,
           .title = "Peak primary current",
           .dimension = current,
           .value = resting<&Analysis::peak_current_a>,
           .needs = Needs::tank,
           .formula = "Firing voltage times the root of capacitance over inductance.",
           .inputs = "tank_capacitance_f primary_inductance_h",
           .more_inputs = at_firing,
           .assumes = "No gap loss and nothing taken by the secondary yet: an upper limit.",
           .source = "Circuit theory"},
    Figure{.key = "unit_voltage_v",
           .group = at_rest_group,
           .title = "Highest unit voltage",
           .dimension = voltage,
           .value = resting<&Analysis::unit_voltage_v>,
           .needs = Needs::tank,
           .formula = "The tank's peak volts over its units in series, or as unlike sections share them.",
           .inputs = "tank.units_in_series tank.units_in_parallel",
           .more_inputs = at_firing,
           .assumes = "Units of one section alike; what tolerances add is judged beside it.",
           .source = "Circuit theory"},
    Figure{.key = "bleed_time_s",
           .group = at_rest_group,
           .title = "Bleed time to 50 V",
           .dimension = time,
           .value = resting<&Analysis::bleed_time_s>,
           .needs = Needs::tank,
           .formula = "Resistance times capacitance times the logarithm of firing voltage over 50 V.",
           .inputs = "tank_capacitance_f tank.bleed_resistance_ohm",
           .more_inputs = at_firing,
           .assumes = "All bleeders intact. Dielectric absorption can bring voltage back: short the tank and leave "
                      "the clip on.",
           .source = "Circuit theory"},
    loaded_row("loaded_low_hz", "Resonance with long arcs", solved<&Analysis::loaded_hz, &Range::low>),
    loaded_row("loaded_high_hz", "Resonance with short arcs", solved<&Analysis::loaded_hz, &Range::high>),
    Figure{.key = "breakout_voltage_v",
           .group = at_rest_group,
           .title = "Breakout voltage",
           .dimension = voltage,
           .value = resting<&Analysis::breakout, &Breakout::voltage_v>,
           .needs = Needs::winding,
           .formula =
               "The top voltage at which the surface field of the field solution reaches the strength of air "
               "at that curvature.",
           .inputs = "site.air_temperature_c site.air_pressure_hpa breakout.roughness",
           .more_inputs = hottest_spot,
           .assumes = breakout_limits,
           .source = breakout_source},
    loss_row("quality_factor", "Quality factor", number, loss_formula, solved<&Analysis::quality_factor>),
    loss_row("winding_resistance_ohm", "Wire resistance at resonance", resistance,
             "The wire's resistance with skin and proximity effect, weighted with the square of the current along "
             "the winding.",
             solved<&Analysis::winding_resistance_ohm>),
    Figure{.key = "best_mode_1_hz",
           .group = at_rest_group,
           .beside = [](const PowerView& o) { return o.design.measurements.empty(); },
           .title = "Best resonance",
           .dimension = frequency,
           .digits = 4,
           .value =
               [](const PowerView& o) {
                 return o.design.measurements.empty() ? std::nullopt : solved<&Analysis::best_mode_1_hz>(o);
               },
           .needs = Needs::winding,
           .formula = "The computed resonance and all that was measured, each moved by its doubt until they agree "
                      "best.",
           .inputs = "mode_1_hz",
           .assumes = "Errors of inputs and instruments as their tolerances say, independent of each other; a "
                      "measurement that contradicts all of them has a finding.",
           .source = "Least squares"},
    wire_row("wire_length_m", "Secondary wire", length, 4, resting<&Analysis::wire_length_m>),
    wire_row("wire_mass_kg", "Copper mass", mass, 3, resting<&Analysis::wire_mass_kg>),
    wire_row("secondary_resistance_ohm", "Wire resistance, DC", resistance, 3,
             resting<&Analysis::secondary_resistance_ohm>),
    Figure{.key = "height_to_diameter",
           .group = at_rest_group,
           .title = "Height to diameter",
           .value = resting<&Analysis::height_to_diameter>,
           .needs = Needs::winding,
           .formula = "Length of the winding over the form's diameter.",
           .inputs = "secondary.winding_length_m secondary.form_diameter_m",
           .assumes = "Three to six is usual (common practice).",
           .source = practice},
};

} // namespace

std::span<const Figure> tank_and_wire_figures() {
  return tank_and_wire_rows;
}

} // namespace arc

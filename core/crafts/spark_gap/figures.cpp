// What the simulation of a spark-gap coil says, figure by figure.
#include "simulation/figures.h"
#include "crafts/spark_gap/spark_gap.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;

constexpr std::string_view shot_limits =
    "The resonator is its first three modes; the gap a constant drop and a resistance; a constant streamer from "
    "breakout "
    "on (1 pF for each 0.3 m behind 220 kilo-ohm: common practice, no source).";
constexpr std::string_view shot_source = "The network solved exactly between its events. Complete-transfer "
                                         "couplings within 0.3 %; a SPICE program agrees "
                                         "within 1 %";
constexpr std::string_view shot_doubts = "Tuning and coupling by their own bands, Q by 20 %, the arc's volts by 50 "
                                         "%: one at a time, both ways, summed in "
                                         "squares";
constexpr std::string_view charging_limits =
    "A variac is an ideal autotransformer, a transformer its open voltage behind one reactance; cores saturate in "
    "straight pieces; the tank is emptied at once when the gap fires.";
constexpr std::string_view charging_source = "The path solved exactly between its events; a SPICE program agrees "
                                             "within 0.2 % on the demo, 3 % on other feeds";
constexpr std::string_view charging_doubts = "The mains by 5 % (half of what EN 50160 allows; from memory), the "
                                             "gap by 10 %, the tank by its tolerance: one at a "
                                             "time, summed in squares";
constexpr std::string_view arc_volts =
    "Arc volts by Ayrton's form for the spacing unless a ring-down was entered; within half of it either way.";

const SparkGapPower& gap_of(const PowerView& o) {
  return *o.power.of<SparkGapPower>();
}
bool shot_there(const PowerView& o) {
  return gap_of(o).shot_problem.empty();
}
template <auto... Path>
std::optional<double> shot(const PowerView& o) {
  return shot_there(o) ? follow<&SparkGapPower::shot, Path...>(gap_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> charging(const PowerView& o) {
  return gap_of(o).charging_problem.empty() ? follow<&SparkGapPower::charging, Path...>(gap_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> both(const PowerView& o) {
  return follow<Path...>(gap_of(o));
}
const UnitStress* fullest(const PowerView& o) {
  return worst_unit(gap_of(o).duty, &UnitStress::voltage_used);
}
template <auto Member>
std::optional<double> fullest_unit(const PowerView& o) {
  const UnitStress* unit = fullest(o);
  return unit ? std::optional<double>(unit->*Member) : std::nullopt;
}

constexpr std::string_view on_switch = "switch", on_feed = "feed";

const Figure spark_gap_rows[]{
    {.key = "top_peak_v",
     .group = "shot",
     .stage = on_switch,
     .headline = true,
     .title = "Top, at its peak",
     .row = "Top",
     .dimension = voltage,
     .value = shot<&ShotResult::top_peak_v>,
     .band = "top_peak_v",
     .formula = "Largest volts of the winding's modes at its top, the streamer joined from breakout on.",
     .inputs = "gap.firing_voltage_v tank_capacitance_f coupling quality_factor breakout_voltage_v",
     .assumes = shot_limits,
     .source = shot_source,
     .doubts = shot_doubts},
    {.key = "breakout_used",
     .stage = on_switch,
     .headline = true,
     .title = "Top's peak over its breakout volts",
     .row = "Topload, of breakout",
     .dimension = fraction,
     .digits = 3,
     .value =
         [](const PowerView& o) {
           return when(shot_there(o) && o.analysis.breakout,
                       o.analysis.breakout ? gap_of(o).shot.top_peak_v / o.analysis.breakout->voltage_v : 0);
         },
     .formula = "Volts above, over those at which the field at the topload or its point breaks out.",
     .inputs = "top_peak_v breakout_voltage_v",
     .assumes = "Peek's field for the surface's curvature and roughness; held there once the streamer has joined.",
     .source = "Peek, Dielectric Phenomena in High Voltage Engineering, 1929"},
    arc_forecast_row(
        on_switch, "Arcs, forecast", {},
        "0.6 to 1 times 1.7 inch for each root of a watt that the breaks take, less where under 60 % of it cross "
        "to the resonator.",
        "tank_power_w secondary_peak_j breakout_voltage_v"),
    {.key = "primary_peak_a",
     .group = "shot",
     .stage = on_switch,
     .headline = true,
     .title = "Primary's peak current",
     .row = "Primary",
     .dimension = current,
     .value = shot<&ShotResult::primary_peak_a>,
     .band = "primary_peak_a",
     .formula = "Largest current of the primary, which gap and tank carry too.",
     .inputs = "gap.firing_voltage_v tank_capacitance_f primary_inductance_h",
     .assumes = shot_limits,
     .source = shot_source,
     .doubts = shot_doubts},
    {.key = "secondary_peak_j",
     .group = "shot",
     .stage = on_switch,
     .title = "Energy that crosses to the resonator",
     .row = "Energy in secondary",
     .dimension = energy,
     .value = shot<&ShotResult::secondary_peak_j>,
     .of = shot<&ShotResult::tank_energy_j>,
     .share = true,
     .band = "secondary_peak_j",
     .formula = "Largest electric energy of the resonator; beside it the share of the tank's.",
     .inputs = "tank_energy_j coupling tank_hz mode_1_hz",
     .assumes = shot_limits,
     .source = shot_source,
     .doubts = shot_doubts},
    {.key = "tank_energy_j",
     .group = "shot",
     .stage = on_switch,
     .title = "Energy of the tank as the gap fires",
     .row = "Tank",
     .dimension = energy,
     .value = shot<&ShotResult::tank_energy_j>,
     .formula = "Half the capacitance times the square of the firing volts.",
     .inputs = "tank_capacitance_f gap.firing_voltage_v",
     .assumes = "Nothing is left from the break before.",
     .source = "Textbook circuit theory"},
    {.key = "first_notch_s",
     .group = "shot",
     .stage = on_switch,
     .title = "First notch of the primary's envelope",
     .row = "First notch",
     .dimension = time,
     .value = shot<&ShotResult::first_notch_s>,
     .formula =
         "When the primary holds the least energy within the first three quarters of a beat: the first chance to "
         "quench.",
     .inputs = "coupling mode_1_hz tank_hz",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "quench_s",
     .group = "shot",
     .stage = on_switch,
     .title = "Gap opens after",
     .row = "Quench",
     .dimension = time,
     .value = shot<&ShotResult::quench_s>,
     .formula = "At the chosen notch, at the zero of current that leaves least in the primary; by itself once the "
                "drive is "
                "less than the gap's drop.",
     .inputs = "first_notch_s",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "top_peak_s",
     .group = "shot",
     .stage = on_switch,
     .title = "Time of the top's peak",
     .row = "Top reached after",
     .dimension = time,
     .value = shot<&ShotResult::top_peak_s>,
     .formula = "When the volts above are reached, from the gap's firing on.",
     .inputs = "top_peak_v coupling",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "breakout_s",
     .group = "shot",
     .stage = on_switch,
     .title = "Breaks out after",
     .dimension = time,
     .value = shot<&ShotResult::breakout_s>,
     .formula = "When the top first reaches its breakout volts.",
     .inputs = "breakout_voltage_v",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "base_peak_a",
     .group = "shot",
     .stage = on_switch,
     .title = "Peak current at the secondary's base",
     .row = "Base of the secondary",
     .dimension = current,
     .value = shot<&ShotResult::base_peak_a>,
     .formula = "Largest current of the winding's modes at its lower end: what the ground wire carries.",
     .inputs = "top_peak_v effective_capacitance_f",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "gap_loss_j",
     .group = "shot",
     .stage = on_switch,
     .title = "Heat in the gap, each break",
     .row = "Gap heat",
     .dimension = energy,
     .value = shot<&ShotResult::gap_loss_j>,
     .of = shot<&ShotResult::tank_energy_j>,
     .share = true,
     .band = "gap_loss_j",
     .formula = "Drop times the charge that passes either way, and the loss in its resistance, until it opens.",
     .inputs = "gap.arc_drop_v gap.arc_resistance_ohm gap.spacing_m gap.gaps_in_series quench_s",
     .assumes = arc_volts,
     .source = "H. Ayrton, The Electric Arc, 1902 (constants from memory)",
     .doubts = shot_doubts},
    {.key = "gap_loss_w",
     .stage = on_switch,
     .headline = true,
     .title = "Heat in the gap, on average",
     .row = "Gap heat, average",
     .dimension = power,
     .value = both<&SparkGapPower::gap_loss_w>,
     .formula = "Heat of each break times the break rate.",
     .inputs = "gap_loss_j break_rate_hz gap.break_rate_hz",
     .assumes = arc_volts,
     .source = "H. Ayrton, The Electric Arc, 1902 (constants from memory)"},
    {.key = "gap_charge_c",
     .group = "shot",
     .stage = on_switch,
     .title = "Charge through the gap, each break",
     .row = "Gap charge",
     .dimension = charge,
     .value = shot<&ShotResult::gap_charge_c>,
     .formula = "Integral of the current's size until the gap opens: electrodes wear by it.",
     .inputs = "primary_peak_a quench_s",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "gap_charge_c_per_s",
     .stage = on_switch,
     .title = "Charge through the gap, each second",
     .row = "… each second",
     .dimension = charge,
     .value = both<&SparkGapPower::gap_charge_c_per_s>,
     .formula = "Charge of each break times the break rate.",
     .inputs = "gap_charge_c break_rate_hz gap.break_rate_hz",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "gap_charge_c_per_h",
     .stage = on_switch,
     .title = "Charge through the gap, each hour",
     .row = "… each hour",
     .dimension = charge,
     .value = [](const PowerView& o) -> std::optional<double> { return 3600 * gap_of(o).gap_charge_c_per_s; },
     .formula = "Charge of each break times the breaks of an hour.",
     .inputs = "gap_charge_c break_rate_hz",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "gap_run_s",
     .stage = on_switch,
     .title = "Run time that the log holds",
     .row = "Run time on electrodes",
     .dimension = time,
     .digits = 2,
     .value = [](const PowerView& o) -> std::optional<double> { return 3600 * gap_of(o).gap_hours; },
     .formula =
         "Sum of the runs' durations. Clean the electrodes of oxide after each run; dress or turn them after some "
         "hours.",
     .assumes = "Runs that were logged with their time.",
     .source = "The record"},
    {.key = "dwell_s",
     .stage = on_switch,
     .title = "Dwell of a presentation",
     .row = "Dwell",
     .dimension = time,
     .digits = 2,
     .value = both<&SparkGapPower::dwell_s>,
     .quiet_zero = true,
     .formula = "Time of one presentation during which the rotor's distance would fire at the volts of a break.",
     .inputs = "gap.rotor_radius_m gap.rotor_speed_hz gap.rotor_clearance_m",
     .assumes = "Round electrodes that pass on a circle.",
     .source = "Geometry; Peek's field of two spheres"},
    {.key = "cut_s",
     .group = "shot",
     .stage = on_switch,
     .title = "Followed until",
     .dimension = time,
     .value = shot<&ShotResult::cut_s>,
     .formula = "So many reversals of the current that the rest was left out.",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "wider_gap_hz",
     .stage = on_switch,
     .title = "Break rate with a gap a tenth wider",
     .row = "Wider gap",
     .dimension = frequency,
     .value = both<&SparkGapPower::wider_gap, &WiderGap::break_rate_hz>,
     .of = charging<&ChargingResult::break_rate_hz>,
     .formula = "The same coil with a gap that fires a tenth higher, simulated again; beside it the rate of now.",
     .inputs = "break_rate_hz gap.firing_voltage_v",
     .assumes = charging_limits,
     .source = charging_source},
    {.key = "wider_gap_w",
     .stage = on_switch,
     .title = "Power from the line with a gap a tenth wider",
     .row = "… takes",
     .dimension = power,
     .value =
         [](const PowerView& o) {
           return when(gap_of(o).wider_gap.has_value() && gap_of(o).charging_problem.empty(),
                       gap_of(o).wider_gap ? gap_of(o).wider_gap->power_ratio * gap_of(o).charging.input_power_w
                                           : 0);
         },
     .of = charging<&FeedLoads::input_power_w>,
     .formula = "The same, its power from the line beside that of now.",
     .inputs = "input_power_w",
     .assumes = charging_limits,
     .source = charging_source},
    {.key = "wider_gap_unit_used",
     .stage = on_switch,
     .title = "Worst-loaded capacitor with a gap a tenth wider, of its rating",
     .row = "… its worst-loaded unit",
     .dimension = fraction,
     .digits = 2,
     .value = both<&SparkGapPower::wider_gap, &WiderGap::unit_used>,
     .quiet_zero = true,
     .formula = "Its share of the higher firing volts over its rating, tolerances at their worst.",
     .inputs = "tank.unit_voltage_v tank.units_in_series tank.unit_tolerance",
     .assumes = "Series units share inversely to their capacitance; one low and all others high.",
     .source = "Textbook circuit theory"},
    {.key = "unit_worst_v",
     .stage = on_switch,
     .headline = true,
     .title = "Worst-loaded capacitor, worst case",
     .row = "Capacitor",
     .dimension = voltage,
     .value = fullest_unit<&UnitStress::worst_v>,
     .of =
         [](const PowerView& o) {
           const UnitStress* unit = fullest(o);
           return when(unit && unit->voltage_used > 0, unit ? unit->worst_v / unit->voltage_used : 0);
         },
     .share = true,
     .formula = "Its share of the tank's peak, one unit low and all others high by their tolerance; beside it the "
                "share of its rating.",
     .inputs = "tank_peak_v tank.units_in_series tank.unit_tolerance",
     .assumes = "Series units share inversely to their capacitance.",
     .source = "Textbook circuit theory"},
    {.key = "tank_rms_a",
     .group = "shot",
     .stage = on_switch,
     .title = "Tank current over one break, RMS",
     .row = "Tank, RMS in one break",
     .dimension = current,
     .value = shot<&ShotResult::tank_rms_a>,
     .formula =
         "Root of the mean square over one break; times the root of its length and the break rate it is what the "
         "units carry.",
     .inputs = "primary_peak_a quench_s",
     .assumes = shot_limits,
     .source = shot_source},
    {.key = "tank_slope_v_per_s",
     .group = "shot",
     .stage = on_switch,
     .title = "Steepest change of the tank's volts",
     .row = "… steepest",
     .dimension = slope,
     .value = shot<&ShotResult::tank_slope_v_per_s>,
     .formula = "Peak current over the tank's capacitance.",
     .inputs = "primary_peak_a tank_capacitance_f",
     .assumes = shot_limits,
     .source = "Textbook circuit theory"},
    // From the wall to the tank.
    {.key = "break_rate_hz",
     .group = "charging",
     .stage = on_feed,
     .headline = true,
     .title = "Break rate",
     .row = "Breaks a second",
     .dimension = number,
     .value = charging<&ChargingResult::break_rate_hz>,
     .unit = "bps",
     .band = "break_rate_hz",
     .formula = "Breaks in the later half of the run over its time.",
     .inputs = "gap.firing_voltage_v gap.rotary_electrodes site.mains_frequency_hz",
     .assumes = charging_limits,
     .source = charging_source,
     .doubts = charging_doubts},
    {.key = "tank_peak_v",
     .group = "charging",
     .stage = on_feed,
     .headline = true,
     .title = "Tank, peak",
     .row = "Tank reaches",
     .dimension = voltage,
     .value = charging<&ChargingResult::tank_peak_v>,
     .formula = "Largest volts across the tank from switching on.",
     .inputs = "gap.firing_voltage_v mains_resonant_capacitance_f",
     .assumes = charging_limits,
     .source = charging_source},
    {.key = "tank_power_w",
     .group = "charging",
     .stage = on_feed,
     .headline = true,
     .title = "Power to the tank",
     .row = "To the tank",
     .dimension = power,
     .value = charging<&ChargingResult::tank_power_w>,
     .of = charging<&FeedLoads::input_power_w>,
     .share = true,
     .band = "tank_power_w",
     .formula = "Energy of the breaks in the later half of the run over its time.",
     .inputs = "break_rate_hz tank_capacitance_f gap.firing_voltage_v",
     .assumes = charging_limits,
     .source = charging_source,
     .doubts = charging_doubts},
    {.key = "line_current_a",
     .group = "charging",
     .stage = on_feed,
     .headline = true,
     .title = "Line current, RMS",
     .row = "Line",
     .dimension = current,
     .value = charging<&FeedLoads::line_current_a>,
     .band = "line_current_a",
     .formula = "Root of the mean square over the later half of the cycles.",
     .inputs = "site.mains_voltage_v tank_power_w",
     .assumes = charging_limits,
     .source = charging_source,
     .doubts = charging_doubts},
    {.key = "input_power_w",
     .group = "charging",
     .stage = on_feed,
     .headline = true,
     .title = "Power from the line",
     .row = "Line power",
     .dimension = power,
     .value = charging<&FeedLoads::input_power_w>,
     .band = "input_power_w",
     .formula =
         "Work of the line over the later half of the cycles; what is used up while a resonance gives more back "
         "than it takes.",
     .inputs = "tank_power_w",
     .assumes = charging_limits,
     .source = charging_source,
     .doubts = charging_doubts},
    power_factor_row("charging", charging_limits),
    reactive_row("charging", charging_limits),
    breaker_row("charging"),
};

} // namespace

std::span<const Figure> spark_gap_figures() {
  static const auto all = joined_figures({spark_gap_rows, spark_gap_figures_at_rest()});
  return all;
}

} // namespace arc

// What an exciter's simulation says, figure by figure.
#include "coil/figures.h"
#include "kinds/exciter/exciter.h"

#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;

constexpr std::string_view run_limits =
    "No breakdown of the collector, no fall of gain with current, junction parameters of 27 °C, a stiff supply up "
    "to "
    "its limit, no arc. At high quality or gain it may have more than one state.";
constexpr std::string_view run_source = "Transport model (Gummel and Poon, Bell Syst. Tech. J. 49 (1970) 827) or "
                                        "square law (Shichman and Hodges, IEEE J. "
                                        "Solid-State Circuits 3 (1968) 285), run in time. A solved circuit agrees "
                                        "within 0.1 %, decks in the SPICE program "
                                        "within 1 % (frequency) to 6 % (heat)";
constexpr std::string_view run_doubts = "Resonance and coupling by their own bands, Q by 20 %, gain by half or "
                                        "threshold by 0.5 V, supply by 2 %, resistor "
                                        "by 5 %: one at a time, both ways, summed in squares";
constexpr std::string_view heat_limits = "Junction, case and sink as a ladder; the heat is that of a 27 °C "
                                         "junction; a fan takes a sink to 0.35 of its kelvin "
                                         "per watt, case to sink is 0.5 K/W (common practice, no source).";
constexpr std::string_view heat_source = "Thermal Ohm's law and the ladder's eigenvalues";

const ExciterAnalysis& exciter_of(const PowerView& o) {
  return *o.power.of<ExciterAnalysis>();
}
template <auto... Path>
std::optional<double> with_run(const PowerView& o) {
  return exciter_of(o).problem.empty() ? follow<Path...>(exciter_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> run(const PowerView& o) {
  return with_run<&ExciterAnalysis::oscillation, Path...>(o);
}
template <auto Member>
std::optional<double> rated(const PowerView& o) {
  return follow<&Design::exciter, &Exciter::transistor, Member>(o.design);
}

constexpr std::string_view on_driver = "driver", oscillation = "oscillation";

const Figure exciter_rows[]{
    {.key = "frequency_hz",
     .group = oscillation,
     .stage = on_driver,
     .title = "Frequency",
     .dimension = frequency,
     .digits = 4,
     .value = run<&OscillationResult::frequency_hz>,
     .quiet_zero = true,
     .band = "frequency_hz",
     .formula = "Rising zeros of the current at the secondary's base over their time.",
     .inputs = "natural_hz exciter.base_stray_f",
     .assumes = run_limits,
     .source = run_source,
     .doubts = run_doubts},
    {.key = "natural_hz",
     .group = oscillation,
     .stage = on_driver,
     .title = "Frequency of the resonator by itself",
     .row = "… of the coil alone",
     .dimension = frequency,
     .digits = 4,
     .value = run<&OscillationResult::natural_hz>,
     .formula = "The resonator's own frequency, without transistor and primary.",
     .inputs = "mode_1_hz effective_inductance_h effective_capacitance_f",
     .assumes = run_limits,
     .source = "Equivalent circuit of the lowest mode"},
    {.key = "top_peak_v",
     .group = oscillation,
     .stage = on_driver,
     .title = "Top, at its peak",
     .row = "Top",
     .dimension = voltage,
     .value = run<&OscillationResult::top_peak_v>,
     .band = "top_peak_v",
     .formula = "Largest volts of the resonator in the steady swing.",
     .inputs = "exciter.supply_voltage_v coupling quality_factor",
     .assumes = run_limits,
     .source = run_source,
     .doubts = run_doubts},
    {.key = "other_top_v",
     .group = oscillation,
     .stage = on_driver,
     .title = "Top when it is started harder",
     .row = "Or else at",
     .dimension = voltage,
     .value = run<&OscillationResult::other_top_v>,
     .formula = "A second steady state that the same circuit settles in; named where it differs by more than 2 %.",
     .inputs = "top_peak_v quality_factor",
     .assumes = run_limits,
     .source = run_source},
    {.key = "start_s",
     .group = oscillation,
     .stage = on_driver,
     .title = "Time to start",
     .row = "… half of it within",
     .dimension = time,
     .value = run<&OscillationResult::start_s>,
     .quiet_zero = true,
     .formula = "Until half of the final swing.",
     .inputs = "quality_factor",
     .assumes = run_limits,
     .source = run_source},
    {.key = "collector_average_a",
     .group = oscillation,
     .stage = on_driver,
     .title = "Mean current of the collector",
     .row = "Mean current",
     .dimension = current,
     .value = run<&OscillationResult::collector_average_a>,
     .band = "collector_average_a",
     .formula = "Mean over whole cycles of the steady swing: what a meter in the supply's lead says.",
     .inputs = "exciter.supply_voltage_v exciter.bias_resistance_ohm primary_inductance_h",
     .assumes = run_limits,
     .source = run_source,
     .doubts = run_doubts},
    {.key = "collector_peak_a",
     .group = oscillation,
     .stage = on_driver,
     .title = "Peak current of the collector",
     .row = "Peak current",
     .dimension = current,
     .value = run<&OscillationResult::collector_peak_a>,
     .of = rated<&Transistor::current_rating_a>,
     .formula = "Largest current of the primary.",
     .inputs = "collector_average_a exciter.transistor_current_rating_a",
     .assumes = run_limits,
     .source = run_source},
    {.key = "collector_peak_v",
     .group = oscillation,
     .stage = on_driver,
     .title = "Collector, peak",
     .row = "Collector to",
     .dimension = voltage,
     .value = run<&OscillationResult::collector_peak_v>,
     .of = rated<&Transistor::voltage_rating_v>,
     .formula =
         "Largest volts from collector to emitter; breakdown is not simulated, beyond the rating it says nothing.",
     .inputs = "exciter.supply_voltage_v coupling exciter.transistor_voltage_rating_v",
     .assumes = run_limits,
     .source = run_source},
    {.key = "base_least_v",
     .group = oscillation,
     .stage = on_driver,
     .title = "Base's swing",
     .row = "Base",
     .dimension = voltage,
     .digits = 2,
     .value = run<&OscillationResult::base_least_v>,
     .to_key = "base_peak_v",
     .to = run<&OscillationResult::base_peak_v>,
     .formula = "Least and largest volts from base to emitter; the clamp holds the former.",
     .inputs = "exciter.clamp exciter.transistor_reverse_base_rating_v",
     .assumes = run_limits,
     .source = run_source},
    {.key = "foot_peak_a",
     .group = oscillation,
     .stage = on_driver,
     .title = "Peak current at the secondary's base",
     .row = "Base of the secondary",
     .dimension = current,
     .value = run<&OscillationResult::foot_peak_a>,
     .formula = "Largest current of the resonator, which drives the transistor.",
     .inputs = "top_peak_v effective_capacitance_f natural_hz",
     .assumes = run_limits,
     .source = run_source},
    {.key = "supply_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Power from the supply",
     .row = "Supply",
     .dimension = power,
     .value = run<&OscillationResult::supply_w>,
     .note =
         [](const PowerView& o, UnitSystem units) {
           const ExciterAnalysis& e = exciter_of(o);
           return e.problem.empty()
                      ? fmt::format(" at {}", format_quantity(e.oscillation.supply_v, voltage, units, 3))
                      : std::string();
         },
     .formula = "Supply volts times the mean of its current.",
     .inputs = "collector_average_a exciter.supply_limit_a",
     .assumes = run_limits,
     .source = run_source},
    {.key = "supply_v",
     .group = oscillation,
     .stage = on_driver,
     .title = "Volts that the supply gives",
     .row = "… gives",
     .dimension = voltage,
     .value = run<&OscillationResult::supply_v>,
     .of = [](const PowerView& o) -> std::optional<double> { return o.design.exciter.supply_voltage_v; },
     .formula =
         "As set; less where its limit holds it there: the volts at which it just gives its greatest current.",
     .inputs = "exciter.supply_voltage_v exciter.supply_limit_a",
     .assumes = run_limits,
     .source = run_source},
    {.key = "dissipation_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Heat in the transistor",
     .row = "Transistor",
     .dimension = power,
     .value = run<&OscillationResult::dissipation_w>,
     .band = "dissipation_w",
     .formula = "Mean of collector volts times current, and of what the base takes.",
     .inputs = "supply_w",
     .assumes = run_limits,
     .source = run_source,
     .doubts = run_doubts},
    {.key = "secondary_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Lost in the resonator",
     .row = "Resonator",
     .dimension = power,
     .value = run<&OscillationResult::secondary_w>,
     .formula = "Mean loss in the resistance that its quality factor gives.",
     .inputs = "foot_peak_a quality_factor",
     .assumes = run_limits,
     .source = run_source},
    {.key = "primary_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Lost in the primary",
     .row = "Primary",
     .dimension = power,
     .value = run<&OscillationResult::primary_w>,
     .formula = "Mean loss in its resistance.",
     .inputs = "collector_peak_a",
     .assumes = run_limits,
     .source = run_source},
    {.key = "bias_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Lost in the bias resistor",
     .row = "Bias",
     .dimension = power,
     .value = run<&OscillationResult::bias_w>,
     .formula = "Mean square of the volts across it over its resistance.",
     .inputs = "exciter.bias_resistance_ohm supply_v",
     .assumes = run_limits,
     .source = run_source},
    {.key = "clamp_w",
     .group = oscillation,
     .stage = on_driver,
     .title = "Lost in the clamp",
     .row = "Clamp",
     .dimension = power,
     .value = run<&OscillationResult::clamp_w>,
     .quiet_zero = true,
     .formula = "Mean of its volts times its current.",
     .inputs = "exciter.clamp",
     .assumes = run_limits,
     .source = run_source},
    {.key = "junction_c",
     .stage = on_driver,
     .title = "Junction, in the long run",
     .row = "Junction",
     .dimension = temperature,
     .value = with_run<&ExciterAnalysis::junction_c>,
     .of = rated<&Transistor::junction_limit_c>,
     .formula = "Air, and the heat times all thermal resistances from there on.",
     .inputs = "dissipation_w exciter.transistor_junction_k_per_w exciter.sink_k_per_w site.air_temperature_c",
     .assumes = heat_limits,
     .source = heat_source},
    {.key = "case_c",
     .stage = on_driver,
     .title = "Case, in the long run",
     .row = "Case",
     .dimension = temperature,
     .value = with_run<&ExciterAnalysis::case_c>,
     .formula = "Air, and the heat times the thermal resistances from the case on.",
     .inputs = "dissipation_w exciter.transistor_case_k_per_w exciter.sink_k_per_w",
     .assumes = heat_limits,
     .source = heat_source},
    {.key = "sink_c",
     .stage = on_driver,
     .title = "Sink, in the long run",
     .row = "Sink",
     .dimension = temperature,
     .value = with_run<&ExciterAnalysis::sink_c>,
     .formula = "Air, and the heat times the sink's kelvin per watt.",
     .inputs = "dissipation_w exciter.sink_k_per_w exciter.fan",
     .assumes = heat_limits,
     .source = heat_source},
    {.key = "run_time_s",
     .stage = on_driver,
     .title = "Junction at its limit after",
     .row = "At its limit after",
     .dimension = time,
     .digits = 2,
     .value = with_run<&ExciterAnalysis::run_time_s>,
     .formula = "From cold, until the junction is at its limit.",
     .inputs = "dissipation_w exciter.transistor_junction_limit_c exciter.sink_capacity_j_per_k",
     .assumes = heat_limits,
     .source = heat_source},
    {.key = "lamp_nearest_m",
     .stage = on_driver,
     .title = "Distance to which a small gas-filled lamp lights",
     .row = "Lamp lights to",
     .dimension = length,
     .digits = 2,
     .value =
         [](const PowerView& o) {
           return when(exciter_of(o).lamp_m.has_value(), exciter_of(o).lamp_m ? exciter_of(o).lamp_m->low : 0);
         },
     .to_key = "lamp_farthest_m",
     .to =
         [](const PowerView& o) {
           return when(exciter_of(o).lamp_m.has_value(), exciter_of(o).lamp_m ? exciter_of(o).lamp_m->high : 0);
         },
     .formula = "The resonator's charge as a point at its top, out to where its field is 8 to 2 kV/m at the peak.",
     .inputs = "top_peak_v effective_capacitance_f",
     .assumes = "Nothing else stands near; hand-held lamps light farther (common practice, no source).",
     .source = "Coulomb's law; the fields are common practice, no source"},
};

} // namespace

std::span<const Figure> exciter_figures() {
  return exciter_rows;
}

} // namespace arc

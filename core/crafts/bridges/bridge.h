// Half and full bridges, single and dual resonant, as kinds of coil share them: the circuit of one burst from the
// design, what the drive chain and its transformers do, losses and heat, what a single change would bring.
// Methods and limits: docs/methods/bridge.md.
#pragma once

#include "coil/tapped_primary.h"
#include "craft/kind.h"
#include "crafts/bridges/burst.h"
#include "crafts/bridges/mains.h"
#include "simulation/advice.h"
#include "simulation/power.h"
#include "simulation/stores.h"
#include "simulation/tank_duty.h"
#include "simulation/tried_map.h"
#include "timing/interrupter.h"

#include <algorithm>
#include <functional>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace arc {

/// Whether its kind's tank rings in series with the primary.
bool is_dual_resonant(const Design& design);

/// Volts of the bus at rest: as measured, else what the feed gives, see bus_of().
double bus_voltage_v(const Design& design);

/// Seconds from a zero of what the driver hears to the change at the gates, its lead not counted.
double chain_delay_s(const Bridge& bridge);

/// Hertz beyond which the chain swallows edges.
double chain_limit_hz(const Bridge& bridge);

/// Volts that the gate transformer puts on each gate.
double gate_voltage_v(const Bridge& bridge);

/// Lead at the driver's input with which the current still flows forward when the dead time is over, so that the
/// switches turn on without volts: tan(w (delay + dead time)) / w. Empty where no lead can do that.
std::optional<double> soft_lead_s(const Bridge& bridge, double frequency_hz);

/// The circuit of one burst of `on_s` seconds, from a bus that has `bus_share` of its volts at rest. Throws
/// std::invalid_argument with what is missing.
BurstCircuit burst_circuit(const Design& design, const Analysis& analysis, double on_s, bool lumped = false,
                           double bus_share = 1);

/// What the gate transformer does at `frequency_hz` (Hz). Faraday's law: flux density = volts x seconds / (turns x
/// area), swing from zero, half a period.
struct GateTransformer {
  double gate_v;             // at each gate
  double flux_t;             // peak
  double magnetising_a;      // peak, driver side
  double droop;              // share of the gate's volts that its magnetising current loses in the driver's
                             // resistance by the end of a half period
  double rise_s;             // gate charge through the gate resistor
  double power_w_per_switch; // while it runs, swung from one end to the other
};
GateTransformer gate_transformer(const Bridge& bridge, double frequency_hz);

/// What the switches break at the turn-offs of a burst; amperes forward, below zero where the diode carried them.
struct TurnOffs {
  double first_a = 0, worst_a = 0, last_a = 0;
  double worst_s = 0; // after the burst began
  /// On a switch at the worst: the bus and what the stray inductance adds, L I over the fall time, at most
  /// I sqrt(L / C) with its output capacitance.
  double peak_v = 0;
};
/// All zero for a burst without edges.
TurnOffs turn_offs(const Bridge& bridge, const BurstResult& burst, double bus_v);

/// The transformer that the drive or the current limit hears by: its primary one turn, the wire through the core.
struct CurrentTransformer {
  bool of_foot = false; // of the resonator's current; else of the primary's
  double primary_peak_a = 0, secondary_peak_a = 0;
  double burden_peak_v = 0;
  double burden_burst_w = 0, burden_average_w = 0;
  double flux_t = 0;                  // peak: V / (2 pi f N A)
  double lowest_hz = 0;               // below it the signal falls and leads: R / (2 pi L)
  double lead_s = 0;                  // by which its signal leads at the drive's frequency
  std::optional<double> comparator_v; // at which the current limit trips
};
struct BridgeAnalysis;
/// Empty where neither the drive nor a limit on the primary's current needs one, and while nothing is simulated.
std::optional<CurrentTransformer> current_transformer(const Design& design, const BridgeAnalysis& bridge);

/// Peak volts at the driver's input with `top_v` (V) and `foot_a`, `primary_a` (A) at their peaks: open-circuit
/// potential at the antenna from the charges of the field solution, divided between the rod's own capacitance and
/// the input's; or the transformer's secondary over its burden. Empty where it is not known.
std::optional<double> input_signal_v(const Design& design, const Analysis& analysis, double top_v, double foot_a,
                                     double primary_a);

/// Junction temperatures of the switch that is loaded most, degrees Celsius.
struct SwitchHeat {
  double on_s;                      // that a burst really lasts
  double burst_w;                   // in one switch, while it bursts
  double average_w;                 // in one switch
  double sink_c;                    // in the long run
  double junction_c;                // mean, in the long run
  double junction_peak_c;           // at the end of a burst, in the long run
  std::optional<double> run_time_s; // until the peak passes the limit; empty: never
};
SwitchHeat switch_heat(const Design& design, const BurstResult& burst, const PulsePlan& plan);
/// Peak junction temperature `after_s` seconds of running, from cold.
double junction_after_c(const Design& design, const SwitchHeat& heat, const PulsePlan& plan, double after_s);

/// What the coil's own runs say of its arcs: the middle of length over the root of the line's amperes, and half of
/// how far the runs are apart.
struct ArcByLog {
  double arc_m = 0, spread = 0; // the latter relative
  int runs = 0;
};
/// For `line_a` (A); empty below two runs that recorded both.
std::optional<ArcByLog> arc_by_log(const Design& design, double line_a);

/// What can be set at the drive chain, in seconds.
struct ChainSetting {
  double lead_s, blanking_s, dead_s;
  void set(Bridge& bridge) const {
    bridge.lead_s = lead_s;
    bridge.blanking_s = blanking_s;
    bridge.dead_time_s = dead_s;
  }
  bool operator==(const ChainSetting&) const = default;
};

struct BridgeAnalysis : KindPart {
  void simulate(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                const Work& work) override;
  Drive drive(const Design& design, const Analysis& analysis) const override;
  std::vector<Finding> findings(const Design& design, const Analysis& analysis, UnitSystem units) const override;
  BurstCircuit circuit;
  BurstResult burst;
  PulsePlan plan;
  std::string plan_problem;
  std::vector<double> poles;
  std::vector<double> poles_hz() const override; // those of a pair, less than an octave apart
  std::vector<std::string> to_another_pole() const override;
  double chain_hz = 0; // highest that the driver serves
  GateTransformer gate{};
  std::optional<double> signal_v;
  SwitchHeat heat{};
  TurnOffs turn_offs;
  double average_w = 0;      // from the bus, at the planned rate
  double peak_w = 0;         // while it bursts
  double line_a = 0;         // from the mains; without a feed at power factor 0.6 of a rectifier (common practice)
  std::string mains_problem; // why the feed cannot be simulated
  MainsLoad mains_load;      // what it was simulated under
  std::shared_ptr<const MainsResult> mains; // null without a feed
  double bus_share = 1;                     // of the bus at rest, at the beginning of a burst
  const FeedLoads* feed() const override { return mains.get(); }
  std::string unsolved(const Design& design) const override {
    if (!problem.empty()) return problem;
    return !plan_problem.empty() || design.feed.empty() ? plan_problem : mains_problem;
  }
  double full_w = 0; // as average_w, at full variac and in tune, at least
  std::optional<ArcBasis> arc_basis(const Design& design, const Analysis& analysis) const override;
  double longest_arc_m() const override;
  std::optional<ArcByLog> arc_by_log;
  TankDuty duty; // of the capacitor in the primary's lead, where that is a tank
  const TankDuty* tank() const override { return duty.stress.empty() ? nullptr : &duty; }
  /// In each snubber's resistor, while it bursts and in the long run: C V^2 once a cycle.
  struct Snubber {
    double burst_w = 0, average_w = 0;
  } snubber;
  std::optional<double> capacitor_a; // effective, of each split or of the blocking capacitor; empty: there is none
  double series_rms_a = 0;           // of whatever capacitor is there, in the long run
  // What may come as well within the bands of its parts, and is not in `band`.
  std::optional<double> other_pole_hz;
  struct Course {
    double end_s, top_peak_v, bus_j;
  };
  std::optional<Course> longer_burst;          // a limit that trips in a later cycle, or not at all
  std::optional<ChainSetting> cleaner, softer; // tried: a signal without disturbances, edges without hard switching
  std::optional<double> enough_turns;          // tried: of the primary, for the pulse rating of the switches
  std::optional<double> slow_enough_turns;     // tried: of the secondary, for what the chain serves
};

/// The least change of lead and blanking with which the drive locks without a disturbance, or at least locks where
/// it does not now; empty when none of those tried does.
std::optional<ChainSetting> cleaner_signal(const Design& design, const Analysis& analysis,
                                           const BridgeAnalysis& bridge, const Work& work);
/// Share of the turn-ons into volts that one may live with (common practice, no source).
inline constexpr double tolerable_hard_share = 0.5;
/// That share of a burst's edges, 0 to 1; 0 without edges.
double hard_share(const BurstResult& burst);
/// The most that the switches carry, within the burst or as its energy returns.
inline double switch_peak_a(const BurstResult& burst) {
  return std::max(burst.primary_peak_a, burst.return_peak_a);
}
/// Lead and dead time with which fewer edges are hard than that, on the same pole; empty when none of those tried
/// does it.
std::optional<ChainSetting> softer_edges(const Design& design, const Analysis& analysis,
                                         const BridgeAnalysis& bridge, const Work& work);
/// Turns of the primary, all of them used, with which its peak stays within the switches' pulse rating; empty when
/// none of those tried does it.
std::optional<double> turns_within_rating(const Design& design, const BridgeAnalysis& bridge, UnitSystem units,
                                          const Work& work);
/// Hertz that the drive must follow, and turns of the secondary, wound as close as now (see wind_longer), with
/// which it stays within what the chain serves; empty when none of those tried does it.
double wanted_hz(const Analysis& analysis, const BridgeAnalysis& bridge);
std::optional<double> turns_within_chain(const Design& design, const Analysis& analysis,
                                         const BridgeAnalysis& bridge, UnitSystem units, const Work& work);
/// So many turns as close as now, the form as long as they need.
void wind_longer(Design& design, double turns);
/// Seconds of the last zero of the primary's current before `before_s`, read off the waveform; empty without one.
std::optional<double> last_zero_s(const BurstResult& burst, double before_s);

/// By how much longer a train of full growth would be than one of this rate, for the same energy of a burst.
double burst_as_train(const BridgeAnalysis& bridge);

/// Joules that a burst has drawn by `on_s`, read off its waveform.
double burst_energy_by(const BurstResult& burst, const BurstCircuit& circuit, double on_s);

/// Bursts over primary turns and height around the present ones, the resonator as one circuit.
TriedMap bridge_map(const Design& design, const Analysis& analysis, double bus_share, int across, const Work& work);

// The kinds' rows are made of these.
void analyse_bridge(const Design& design, const TappedPrimary* primary, Analysis& out);
std::span<const FindingRule> bridge_rules();
std::span<const struct Figure> bridge_figures();
/// The craft's rows in the tables that all kinds share.
std::span<const FieldSpec> bridge_fields();
std::span<const ChoiceSpec> bridge_choices();
std::span<const struct RunField> bridge_run_fields();
/// What both kinds of bridge have in their rows.
CoilKind row_of_bridges();
bool vary_bridge(Design& design, CraftGenes genes, const VaryParts& parts);
bool vary_dual_resonant(Design& design, CraftGenes genes, const VaryParts& parts);
/// Pulses, limits that were hit, averages and timer parts of the design's interrupter.
Json interrupter_json(const Design& design, double seconds);
Json bridge_json(const struct PowerView& view);
std::vector<CheckItem> bridge_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                     UnitSystem units);
std::vector<std::string> bridge_steps_after(const Design& design, const Analysis& analysis,
                                            const PowerAnalysis* power, UnitSystem units);
void bridge_stores(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                   std::vector<Store>& out);
std::span<const FaultSymptom> bridge_symptoms();
std::span<const SimulationMode> bridge_modes();

} // namespace arc

// Vacuum-tube coils and flame coils, as their kinds share them: the circuit from the design, what it does on direct
// current and on its swinging supply, how long the plate stands it, its filament, and what a single change would
// bring. Methods and limits: docs/methods/tube.md.
#pragma once

#include "circuit/feed_loads.h"
#include "coil/geometry.h"
#include "coil/tapped_primary.h"
#include "craft/kind.h"
#include "crafts/tubes/tube_run.h"
#include "simulation/advice.h"
#include "simulation/power.h"
#include "simulation/stores.h"
#include "simulation/tank_duty.h"
#include "simulation/tried_map.h"
#include "timing/interrupter.h"

#include <algorithm>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace arc {

/// The feedback winding as a circuit; below zero where its ends are swapped.
struct FeedbackCircuit {
  double inductance_h = 0, resistance_ohm = 0, wire_m = 0;
  double plate_coupling = 0, secondary_coupling = 0;
  double halves_coupling = 0; // of its two halves; geometry, or usual
  double lowest_m = 0;        // surface of its lowest wire above the floor; geometry only
  std::vector<double> mode_h; // mutual with each mode of the resonator
};
/// Measured where it was measured, from the geometry elsewhere. Throws std::invalid_argument with what is missing.
FeedbackCircuit feedback_circuit(const Design& design, const Analysis& analysis,
                                 const std::vector<WindingMode>& modes);

/// How many tubes there are in all: side by side, and on both sides of a push-pull pair; one in a flame coil.
double tube_count(const Design& design);

/// The circuit of a design. Throws std::invalid_argument with what is missing.
TubeCircuit tube_circuit(const Design& design, const Analysis& analysis, bool lumped = false);

/// Whether the design's kind is the flame coil: plate coil and resonator joined, no tank.
bool is_flame(const Design& design);

/// Volts of a direct supply that stands for the feed; empty where none is entered.
std::optional<double> direct_supply_v(const Design& design);

/// The circuit of a flame coil. Plate coil and resonator share no field (they stand apart); the resonator is its
/// first mode, driven at its foot. Throws std::invalid_argument with what is missing.
TubeCircuit flame_circuit(const Design& design, const Analysis& analysis);

/// Of whichever kind the design is.
TubeCircuit circuit_of(const Design& design, const Analysis& analysis, bool lumped);

/// Share of the stored energy that the form takes in each radian: ceramic, plastic, none (common practice, no
/// source).
double form_loss(FlameForm form);

/// Resistance in ohms of the lamp in series with the feedback at `rms_a`: from cold to hot with the current to its
/// hot current, by the power 1.2 (a filament's ohms rise less than its watts; common practice, no source).
double lamp_ohm(const TubeOscillator& tube, double rms_a);

/// The filament's supply. Series circuit of winding, wiring, inductor and filament, the filament at its hot ohms.
struct FilamentPlan {
  double amps = 0;      // of all tubes
  double volts = 0;     // at the filament
  double off = 0;       // relative to its rating
  double cold_a = 0;    // switched on, soft start counted
  bool assumed = false; // no winding was entered: one that suits is taken
  double wanted_v = 0;  // that the winding must give, through the wiring and without inductor
  std::optional<double> volts_per_turn, turns; // of the core, from the trial; which give those volts
  std::optional<double> series_h; // inductor that brings today's winding down to it; empty when it is too low
  double soft_ohm = 0;            // that keeps switching on within twice the running current
};
inline constexpr double filament_band = 0.05; // either way (common practice, no source)
FilamentPlan filament_plan(const Design& design);

/// What runs through at one setting of a number, by the first-harmonic balance at the supply's crest.
struct TubePoint {
  double value;
  bool oscillates = false;
  double frequency_hz = 0, output_w = 0, plate_w = 0, top_v = 0;
};
/// One number swept around its present value.
struct TubeSweep {
  std::string key;   // of the field
  std::string title; // "Tank capacitance"
  Dimension dimension = Dimension::number;
  double now = 0;
  std::vector<TubePoint> points;
};

/// What a thyristor's firings come to.
struct Firings {
  int fired = 0;
  int let_go = 0;      // as its gate's pulse ended: they did not latch
  double let_go_s = 0; // the longest of those
};
struct FiredRun {
  TubeResult run;
  Firings firings;
  double duty = 1; // share of the time in which it is fired
};
/// The run; that of a thyristor which is not `locked` to a swinging supply over all parts of its wave: means of
/// powers, worst of peaks, waveforms of the highest. Throws as simulate_tube().
FiredRun run_fired(const TubeCircuit& circuit, bool locked, const TubeOptions& options, const Work& work);

inline constexpr double usual_efficiency = 0.45; // below it one asks why (common practice, no source)

/// What the meters say at a setting of the variac: moving-coil ones in plate and grid leads, a true RMS one in the
/// line.
struct TubeMeters {
  double setting = 0;      // of the variac, 0 to 1
  bool oscillates = false; // somewhere on the supply's swing
  double crest_v = 0;      // of the supply, unloaded
  double plate_a = 0, grid_a = 0, line_a = 0, input_w = 0;
};

struct TubePower : KindPart {
  void simulate(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                const Work& work) override;
  Drive drive(const Design& design, const Analysis& analysis) const override;
  std::vector<Finding> findings(const Design& design, const Analysis& analysis, UnitSystem units) const override;
  TubeCircuit circuit;
  double crest_v = 0; // of the supply, unloaded
  TubeStart start;    // there
  std::optional<TubeBalance> balance;
  TubeResult run; // whole cycles, or direct current
  Firings firings;
  bool on_mains = false;
  /// Highest volts of the supply: without load, or as leakage and capacitors ring in the run.
  double supply_most_v() const { return std::max(crest_v, run.rail_most_v); }
  double duty = 1;          // share of the cycles in which it is fired
  double worst_plate_w = 0; // in the tube that takes the most, uneven sharing counted
  double worst_grid_w = 0;
  std::optional<double> plate_time_s; // until the plate has warmed past what its rating would bring; empty: never
  std::optional<double> grid_time_s;
  FilamentPlan filament;
  double full_w = 0; // plate input while it is fired, at full variac and in tune, at least
  std::optional<ArcBasis> arc_basis(const Design& design, const Analysis& analysis) const override;
  double longest_arc_m() const override;
  double silent_top_v = 0; // that the top would reach without its arc, by the balance; 0 where that says nothing
  double form_w = 0;       // in what a flame coil's resonator is wound on
  TankDuty duty_of_tank;
  const TankDuty* tank() const override { return duty_of_tank.stress.empty() ? nullptr : &duty_of_tank; }
  std::shared_ptr<const FeedLoads> mains; // null without a feed
  std::string mains_problem;
  const FeedLoads* feed() const override { return mains.get(); }
  std::string unsolved(const Design& design) const override {
    return !problem.empty() || design.feed.empty() ? problem : mains_problem;
  }
  /// What wastes the most where little of the input comes out, by the balance with that one thing put right.
  struct Waste {
    std::string cause, cure; // "the tank is 30 % off", "tap at turn 29"
    double efficiency_then;
    std::function<void(Design&)> apply;
  };
  std::optional<Waste> waste;
  /// Share of the plate's input that reaches resonator and arc; 0 where it does not oscillate.
  double efficiency() const {
    return run.oscillates && run.plate_input_w > 0 ? run.secondary_power_w / run.plate_input_w : 0;
  }
  /// At 10, 25, 50, 75 and 100 % of a variac; empty without one and where nothing was simulated of it. By the
  /// balance along the supply's swing, scaled to agree with the run at the present setting: within a quarter of
  /// full runs between half and full setting.
  std::vector<TubeMeters> meters;
  /// A larger capacitor of the level shifter that gives more, tried on the path with the same load.
  struct BetterShifter {
    std::size_t block; // of the feed
    double farad, power_ratio;
  };
  std::optional<BetterShifter> better_shifter;
  std::vector<TubeSweep> sweeps;
  std::vector<TriedMap> maps;
  std::optional<double> other_pole_hz; // which it may take as well within the bands of its parts; not in `band`
};

/// The feed under a resistor that takes what the oscillator takes; see docs/methods/tube.md.
FeedLoads simulate_plate_feed(const std::vector<FeedBlock>& feed, const Site& site, double load_ohm,
                              double bypass_f, const std::atomic<bool>& cancelled);

/// Volts that can stand between a thyristor's gate and an instrument at ground: what the thyristor holds off while
/// it blocks, and the highest of the supply when the tube's plate strikes its cathode. `tube`: of the present
/// design, or null.
double gate_stands_off_v(const Design& design, const TubePower* tube);
/// Highest volts of the plate's supply, at rest or in the run; 0 where there is none yet.
double supply_at_most_v(const Design& design, const TubePower* tube);

/// Seconds until something that settles at `settled` times its limit and warms with `time_constant_s` passes it;
/// empty when it never does.
std::optional<double> time_to_limit_s(double settled, double time_constant_s);
/// Watts that would in the long run make the fullest plate as warm as it is after so many seconds from cold.
double plate_warmth_w(const Design& design, const TubePower& tube, double seconds);

void analyse_tube(const Design& design, const TappedPrimary* primary, Analysis& out);
/// Staccato ended where a feed that was just put never lets its thyristor go; the line's ratings by what the tube
/// then takes.
void suit_tube_to_feed(Design& design);
/// The first-harmonic balance at the supply's crest, as quick figures of either kind; empty where it says nothing.
std::optional<QuickDrive> quick_drive(const Design& design, const Analysis& analysis);
std::span<const FindingRule> tube_rules();
std::span<const struct Figure> tube_figures();
/// The craft's rows in the tables that all kinds share.
std::span<const FieldSpec> tube_fields();
std::span<const ChoiceSpec> tube_choices();
std::span<const struct RunField> tube_run_fields();
/// What tube and flame coils have in their rows.
CoilKind row_of_tubes();
bool vary_tube(Design& design, CraftGenes genes, const VaryParts& parts);
bool vary_flame(Design& design, CraftGenes genes, const VaryParts& parts);
std::vector<CheckItem> tube_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                   UnitSystem units);
std::vector<std::string> tube_steps_after(const Design& design, const Analysis& analysis,
                                          const PowerAnalysis* power, UnitSystem units);
void tube_stores(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                 std::vector<Store>& out);
std::span<const FaultSymptom> tube_symptoms();
std::span<const FindingRule> flame_rules();
std::vector<CheckItem> flame_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                    UnitSystem units);
std::span<const FaultSymptom> flame_symptoms();
Json tube_json(const struct PowerView& view);
/// What is asked of the thyristor, what it does over some seconds, and timers for its gate.
Json tube_interrupter_json(const Design& design, double seconds);
std::span<const SimulationMode> tube_modes();
std::span<const SimulationMode> flame_modes();
} // namespace arc

// The spark-gap coil: a tank charged from the feed fires through a gap into the primary.
#pragma once

#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "simulation/advice.h"
#include "simulation/power.h"
#include "simulation/tank_duty.h"

#include <functional>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace arc {

/// The shot's circuit from what is measured and computed of a coil. Source of the modal reduction:
/// docs/methods/simulation.md. Throws std::invalid_argument when the coil is not known or the circuit is not
/// physical (coupling of 1 and more).
ShotCircuit shot_circuit(const Design& design, const Analysis& analysis, const ShotOptions& options);

struct VariacPoint {
  double setting;
  ChargingResult charging; // without its samples
  std::string problem;     // why this setting could not be computed
  bool present = false;    // the design's own setting
};

/// What the shot does when the gap opens at this notch.
struct QuenchCase {
  int notch;
  double time_s;
  double caught_j; // in the resonator when the gap opens
  double gap_loss_j;
  double left_j; // still in tank and primary
};

/// What a gap that is a tenth wider would bring.
struct WiderGap {
  double arc_ratio, power_ratio; // over now: arc length for the same watts from the wall, watts from the wall
  double break_rate_hz;
  double unit_used; // share of the fullest capacitor's rating; 0 without ratings
};

/// Charging from the wall, the single shot, and what both ask of every part. Methods and limits:
/// docs/methods/simulation.md.
struct SparkGapPower : KindPart {
  void simulate(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                const Work& work) override;
  Drive drive(const Design& design, const Analysis& analysis) const override;
  std::vector<Finding> findings(const Design& design, const Analysis& analysis, UnitSystem units) const override;
  std::string shot_problem; // why there is no shot
  ShotCircuit circuit{};
  ShotResult shot;
  std::string charging_problem; // why the feed cannot charge the tank
  ChargingResult charging;
  std::vector<VariacPoint> variac;
  bool rate_from_feed = false; // break rate and load come from charging; else from what was entered
  double break_rate_hz = 0;
  TankDuty duty;
  const TankDuty* tank() const override { return &duty; }
  const FeedLoads* feed() const override { return charging_problem.empty() ? &charging : nullptr; }
  std::string unsolved(const Design& design) const override {
    return !shot_problem.empty() || design.feed.empty() ? shot_problem : charging_problem;
  }
  std::optional<ArcBasis> arc_basis(const Design& design, const Analysis& analysis) const override;
  double longest_arc_m() const override; // of the charging at any variac setting that was run
  double gap_loss_w = 0;
  double gap_charge_c_per_s = 0;
  double dwell_s = 0;   // of each presentation of a rotor
  double gap_hours = 0; // that the log holds
  std::vector<QuenchCase> quench;
  std::optional<double> steady_firing_v; // tried: the highest with which no mains cycle is without a break
  std::optional<WiderGap> wider_gap;     // by a tenth of its voltage
  /// Across the source's input, for a lagging power factor: which capacitor, what it then is, and the line's
  /// amperes.
  struct Correction {
    double capacitance_f, power_factor, line_a;
  };
  std::optional<Correction> correction;
};

/// Which notch to quench at, and how to get there.
std::string quench_advice(const SparkGapPower& power, const Design& design);

/// A judgement on the power path.
using PowerRule = std::optional<Finding> (*)(const Design&, const Analysis&, const SparkGapPower&, UnitSystem);
std::span<const PowerRule> power_rules();

/// What charging does with a changed design, or why it
/// cannot. Never throws.
struct ChargingTrial {
  ChargingResult charging;
  std::string problem;
};
ChargingTrial try_charging(const Design& design, const ChargingOptions& options, const Work& work);

const struct CoilKind& spark_gap_kind();
/// The craft's rows in the tables that all kinds share.
std::span<const FieldSpec> spark_gap_fields();
std::span<const ChoiceSpec> spark_gap_choices();
std::span<const struct RunField> spark_gap_run_fields();
std::span<const struct Figure> spark_gap_figures();
std::span<const struct Figure> spark_gap_figures_at_rest(); // part of it
/// Tank, expectations, target, clip in tune and stand-off; what needs a primary or a tank stays empty without.
void analyse_spark_gap(const Design& design, const class TappedPrimary* primary, Analysis& out);
std::span<const FindingRule> spark_gap_rules();
std::vector<CheckItem> spark_gap_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                        UnitSystem units);
std::vector<std::string> spark_gap_steps_after(const Design& design, const Analysis& analysis,
                                               const PowerAnalysis* power, UnitSystem units);
void spark_gap_stores(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                      std::vector<struct Store>& out);
std::span<const struct FaultSymptom> spark_gap_symptoms();

} // namespace arc

// The power path, simulated: charging from the wall, the single shot, and what both ask of every part. Computed
// after analyse() and much slower than it (a few tenths of a second), so that it runs behind the views and can be
// cancelled. A pure function like analyse(). Methods and limits: docs/methods/simulation.md.
#pragma once

#include "circuit/charging.h"
#include "circuit/shot.h"
#include "design/analysis.h"
#include "parts/bank.h"

#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace arc {

struct PowerOptions {
  int quench_notch = 1; // as in ShotOptions
  bool lumped = false;
  int cycles = 10;
  bool advice = true; // trial changes, quench cases, bands, trials of remedies
  bool variac = true; // other settings of the variac
  bool operator==(const PowerOptions&) const = default;
};

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

/// A single change, tried by simulation.
struct TrialChange {
  std::string title;  // "Move the clip out 0.39 turn"
  double arc_ratio;   // arc length for the same watts from the wall, against now
  double power_ratio; // watts from the wall
  double break_rate_hz;
  double tank_peak_v;
  double unit_used; // share of the fullest capacitor's rating; 0 without ratings
  std::function<void(Design&)> apply;
};

struct PowerAnalysis {
  std::string shot_problem; // why there is no shot
  ShotCircuit circuit{};
  ShotResult shot;
  std::string charging_problem; // why the feed cannot charge the tank
  ChargingResult charging;
  std::vector<VariacPoint> variac;
  bool rate_from_feed = false; // break rate and load come from charging; else from what was entered
  double break_rate_hz = 0;
  BankLoad load;
  std::vector<UnitStress> stress; // of each section of the tank
  double gap_loss_w = 0;
  double gap_charge_c_per_s = 0;
  double dwell_s = 0;   // of each presentation of a rotor
  double gap_hours = 0; // that the log holds
  std::vector<QuenchCase> quench;
  std::vector<TrialChange> changes;     // longest arc for the same watts first
  std::optional<TrialChange> wider_gap; // by a tenth of its voltage
  std::map<std::string, double> band;   // half-widths of the figures in kinds/spark_gap/power_bands.h
  std::vector<Finding> findings;        // worst first
  /// Remedies of the coil's findings that would bring a stop into the power path, by the findings' ids.
  std::vector<std::string> unwise_remedies;
  double driven_hz = 0; // where a coil without a tank really runs; 0 when it does not, and for coils with one
  /// Of an exciter, which has nothing of the above but its findings; null for other kinds.
  std::shared_ptr<const struct ExciterAnalysis> exciter;
};

/// `progress` is called now and then with the share done, 0 to 1. When `cancelled` becomes true the result holds
/// what was done until then.
PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const std::atomic<bool>& cancelled,
                            const std::function<void(double)>& progress = {});

inline constexpr double long_run_s = 1800; // for which a capacitor's warming is judged

/// In words: whether the tank's capacitors stand half an hour of this, by what is stated of them.
std::string long_run_verdict(const PowerAnalysis& power, UnitSystem units);

/// Which notch to quench at, and how to get there.
std::string quench_advice(const PowerAnalysis& power, const Design& design);

/// A judgement on the power path.
using PowerRule = std::optional<Finding> (*)(const Design&, const Analysis&, const PowerAnalysis&, UnitSystem);
std::span<const PowerRule> power_rules();
std::vector<Finding> find_in_power(const Design& design, const Analysis& analysis, const PowerAnalysis& power,
                                   UnitSystem units);

/// Findings on the feed alone can be had without the rest: what charging does with a changed design, or why it
/// cannot. Never throws.
struct ChargingTrial {
  ChargingResult charging;
  std::string problem;
};
ChargingTrial try_charging(const Design& design, const ChargingOptions& options,
                           const std::atomic<bool>& cancelled);

/// Power findings and findings together, worst first; remedies that the power path forbids are taken away.
/// `same_design` is false while the power path is that of an earlier design.
std::vector<Finding> all_findings(const Analysis& analysis, const PowerAnalysis* power, bool same_design = true);

} // namespace arc

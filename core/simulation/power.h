// The power path, simulated, whatever the kind of coil: what every kind has, its findings, and the kind's own part.
// Computed after analyse() and much slower than it (a few tenths of a second), so that it runs behind the views and
// can be cancelled. A pure function like analyse().
#pragma once

#include "analysis/findings.h"
#include "coil/analysis.h"
#include "quantity/kept.h"
#include "simulation/changes.h"
#include "simulation/forecast.h"

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
  bool advice = true;    // trial changes, quench cases, bands, trials of remedies
  bool variac = true;    // other settings of the feed: the variac's, a power-factor capacitor
  bool waveforms = true; // beside the figures
  bool operator==(const PowerOptions&) const = default;
};

/// How a long computation is run: what ends it early, whom it tells the share done (0 to 1), and what it may take
/// over from earlier ones.
struct Work {
  const std::atomic<bool>& cancelled;
  const std::function<void(double)>& progress;
  Kept& kept;
  void tell(double share) const {
    if (progress) progress(share);
  }
};

/// What a simulation says of any kind of coil. Zero where it says nothing.
struct Drive {
  double frequency_hz = 0; // at which the coil is driven
  double input_w = 0;      // from the wall or the supply
  double primary_peak_v = 0;
  double primary_peak_a = 0;
  double top_peak_v = 0;
};

/// The part of a simulation that only its kind has; each kind derives its own.
struct TankDuty;
struct FeedLoads;
struct KindPart {
  virtual ~KindPart() = default;
  /// Simulates the design into itself. What it throws as std::invalid_argument becomes `problem`.
  virtual void simulate(const Design& design, const Analysis& analysis, const PowerOptions& options,
                        UnitSystem units, const Work& work) = 0;
  /// What was simulated, in the terms of every kind.
  virtual Drive drive(const Design& design, const Analysis& analysis) const = 0;
  /// What its rules say of it, `problem` or not.
  virtual std::vector<Finding> findings(const Design& design, const Analysis& analysis, UnitSystem units) const = 0;
  std::string problem;              // why there is no simulation
  std::vector<TriedChange> changes; // single ones, best first; empty without advice
  /// Half-widths by the key that the figure's row names (simulation/figures.h); empty without advice. What makes
  /// them up is said there too.
  std::map<std::string, double> band;
  virtual const TankDuty* tank() const { return nullptr; } // of the kinds that have one
  /// What the feed carries, where there is one that could be simulated; one joint for each block, then its end.
  virtual const FeedLoads* feed() const { return nullptr; }
  /// What the forecast of its arcs goes by; empty for kinds that have none, and where nothing was simulated.
  virtual std::optional<ArcBasis> arc_basis(const Design&, const Analysis&) const { return {}; }
  /// Metres of the longest arc that the rule of its watts allows, at full variac and in tune whatever the setting;
  /// 0 where it says nothing.
  virtual double longest_arc_m() const { return 0; }
  /// Hertz at which primary and resonator can ring together, rising; empty where the kind does not ask.
  virtual std::vector<double> poles_hz() const { return {}; }
  /// Titles of the single changes tried with which it would run on another of its poles.
  virtual std::vector<std::string> to_another_pole() const { return {}; }
  /// Why some of it is not known, of what the design gives; empty when all is.
  virtual std::string unsolved(const Design&) const { return problem; }
};

struct PowerAnalysis {
  std::string kind; // of the design
  Drive drive;
  std::shared_ptr<const KindPart> part; // null when cancelled before there was one
  std::vector<Finding> findings;        // worst first
  std::optional<ArcForecast> arc;       // of kinds that make arcs
  /// Remedies of the coil's findings that would bring a stop into the power path, by the findings' ids.
  std::vector<std::string> unwise_remedies;
  /// The kind's part, when it is of this type.
  template <typename Part>
  const Part* of() const {
    return dynamic_cast<const Part*>(part.get());
  }
};

/// Place among its poles of the one that the coil runs on; empty where there are fewer than two, or it does not
/// run.
std::optional<std::size_t> ridden_pole(const PowerAnalysis& power);
/// Which of its poles it rides, where the next clip would put them, and which single changes take it to another, as
/// sentences behind others; empty where no pole is ridden.
std::string poles_words(const Design& design, const Analysis& analysis, const PowerAnalysis& power,
                        UnitSystem units);

/// The kind's part of a simulation; null without one, and for another kind's.
template <typename Part>
const Part* part_of(const PowerAnalysis* power) {
  return power ? power->of<Part>() : nullptr;
}

/// `progress` is called now and then with the share done, 0 to 1. When `cancelled` becomes true the result holds
/// what was done until then.
PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const std::atomic<bool>& cancelled,
                            const std::function<void(double)>& progress = {});

/// All findings of a changed design, coil and power path, without trials.
Judge whole_judge(const PowerOptions& options, UnitSystem units, const Work& work);

/// The same, taking over from `work.kept` whatever does not differ from what was computed before.
PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const Work& work);

/// Power findings and findings together, worst first; remedies that the power path forbids are taken away.
/// `same_design` is false while the power path is that of an earlier design.
std::vector<Finding> all_findings(const Analysis& analysis, const PowerAnalysis* power, bool same_design = true);

/// Why figures of the design are not known though both computations ended: it lacks what they need, or has no
/// solution. Empty when they are known.
std::string not_computed(const Design& design, const Analysis& analysis, const PowerAnalysis& power);

/// The stop that stands for figures that are not there: `what` is "analysis" or "simulation", `why` what became of
/// it.
Finding unfinished(const std::string& what, const std::string& why);

} // namespace arc

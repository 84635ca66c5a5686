// What a kind of coil is: one row of data and functions. Everything that asks "which kind is it?" asks this row; to
// add a kind, write its folder beside spark_gap/ and exciter/ and add its row in kinds.cpp (docs/architecture.md).
#pragma once

#include "design/analysis.h"
#include "design/power.h"
#include "design/tapped_primary.h"
#include "workshop/checklist.h"
#include "workshop/first_fault.h"

#include <span>
#include <string_view>

namespace arc {

/// One way to simulate the kind from the command line: "--shot".
struct SimulationMode {
  std::string_view flag;
  std::string_view text; // one line of help
};

/// A column of the record of runs.
struct RunColumn {
  std::string_view key;  // of run_fields()
  std::string_view head; // short
};

struct CoilKind {
  std::string_view key;     // as written in files
  std::string_view title;   // as shown
  std::string_view purpose; // one line: what it is for
  std::string_view needs;   // one line: what it takes
  double coupling_low;      // usual coupling coefficient band (common practice, no source)
  double coupling_high;
  bool tank;                                // a tank capacitor makes a resonant circuit of the primary
  bool clip;                                // part of the primary is used, up to a clip
  std::span<const std::string_view> groups; // of the file that count for this kind and must be given
  std::span<const SimulationMode> modes;
  std::span<const RunColumn> run_columns; // what the table of runs shows, all five
  /// The kind's own figures of the coil at rest; winding, resonator and primary are there. The primary's sums are
  /// null where it is not given.
  void (*analyse)(const Design&, const TappedPrimary*, Analysis&);
  /// Its own rules on the coil at rest, beside those of every winding and primary.
  std::span<const FindingRule> (*rules)();
  /// The power path or oscillation, with its findings; slower than analyse(), cancellable.
  PowerAnalysis (*simulate)(const Design&, const Analysis&, const PowerOptions&, UnitSystem,
                            const std::atomic<bool>& cancelled, const std::function<void(double)>& progress);
  std::vector<CheckItem> (*checks_before_power)(const Design&, const Analysis&, UnitSystem);
  std::vector<std::string> (*steps_after_power)(const Design&, const Analysis&, UnitSystem);
  std::span<const FaultSymptom> (*symptoms)(); // of the first-fault walk
};

std::span<const CoilKind> coil_kinds();
/// nullptr when the kind is not known to this version.
const CoilKind* coil_kind(std::string_view key);
/// The row of a design's kind; a design never holds one that is not known.
const CoilKind& kind_of(const Design& design);

} // namespace arc

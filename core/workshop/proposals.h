// From a brief to whole designs worth building: designs of each kind are varied by the craft's own rules, those
// that keep the limits are analysed with the field solution and simulated from the wall to the arc, and the best of
// different character are proposed. Seeded: the same brief and seed give the same proposals. What is proposed has
// no stop by the same rules as any design. docs/methods/proposals.md has the search and its limits.
#pragma once

#include "workshop/whole_coil.h"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace arc {

struct OwnedPart {
  std::string group, name;
  int count = 1;
};

struct PartToBuy {
  std::string group, what;
  int count = 1;
  std::optional<double> price; // of all of them
};

struct Proposal {
  std::string name, character, reason;
  Design design;
  CoilFigures figures;
  std::vector<OwnedPart> owned;
  std::vector<PartToBuy> buy;
  int stops = 0, warnings = 0;
};

/// A limit that stands against others: how near designs of these kinds came, and what lets one through. `relax_to`
/// was tried: with it alone the brief has proposals.
struct BriefRefusal {
  std::string limit; // a key of the brief's limits or site, a group of only_shelf, or "must_use"
  std::vector<std::string> kinds;
  std::optional<double> nearest, relax_to;
};

struct Proposals {
  std::vector<Proposal> proposals;   // the first serves the aim best
  std::vector<BriefRefusal> refused; // when there are none
  int tried = 0;                     // designs that were simulated
  std::string few;                   // why there are fewer than three, empty when there are not
};

struct ProposeOptions {
  std::uint64_t seed = 1;
  int count = 5;       // 1 to 6
  double effort = 1;   // of the usual work
  bool rolled = false; // every design anew, none varied from a good one: what the search is measured against
};

/// Who hears of a search while it goes on, from the thread that searches.
struct SearchListener {
  std::function<void(double)> progress = {}; // share done, 0 to 1
  /// What would be proposed if it ended now: simulated, but not judged in full, so that a stop may still be found.
  std::function<void(const Proposals&)> preview = {};
};

/// Throws std::invalid_argument for a brief with an unusable part. When cancelled: what was found until then.
Proposals propose(const Brief& brief, const ProposeOptions& options, const std::atomic<bool>& cancelled,
                  const SearchListener& listener = {});

/// As docs/file-format.md has it.
Json proposals_json(const Proposals& proposals, const ProposeOptions& options, double seconds);

} // namespace arc

// A brief: what is wanted of a coil not yet designed, within which limits, and from which parts. JSON, SI units,
// all but the format optional, unknown keys survive. Contract: docs/file-format.md.
#pragma once

#include "workshop/shelf.h"

#include <map>
#include <span>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// What designs are compared by.
struct BriefAim {
  std::string_view key;
  std::string_view title;              // "Longest arc"
  std::vector<std::string_view> kinds; // that serve it; empty: all
  bool needs_arcs = true;              // a coil from which nothing breaks out does not serve it
};
std::span<const BriefAim> brief_aims();

/// A number that a design must stay below, or reach.
struct BriefLimit {
  std::string_view key;
  std::string_view title; // "Line current"
  Dimension dimension;
  bool least = false; // it must be reached
};
std::span<const BriefLimit> brief_limits();
/// nullptr when there is none with this key.
const BriefLimit* brief_limit(std::string_view key);

struct WantedPart {
  std::string group, name;
  bool operator==(const WantedPart&) const = default;
};

struct Brief {
  std::string name = "Brief";
  std::vector<std::string> kinds; // of coil; empty: any
  std::string aim = "longest-arc";
  std::map<std::string, double> site;   // keys of the design's site
  std::map<std::string, double> limits; // by brief_limits()
  std::vector<WantedPart> must_use;     // each is on the shelf, in a group that a search can use
  std::vector<std::string> only_shelf;  // groups that nothing is bought of
  Shelf shelf;
  Extras unknown;
};

/// What is wrong with a brief: where, and what would be right.
class BriefError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};
/// Throws BriefError; for a part of its shelf too.
Brief read_brief(std::string_view text);
std::string write_brief(const Brief& brief);

/// Groups of the shelf from which a search takes parts.
std::span<const std::string_view> groups_of_proposals();

/// Empty when the shelf has every part that must be used and the search can use it; else what is wrong.
std::string unusable_part(const Brief& brief);

} // namespace arc

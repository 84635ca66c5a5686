// What a design may hold, in one place for typing, dragging, remedies, importing and reading. Two limits for every
// number: its range, within which High Arc computes, and a far wider one, within which a file is still read: a
// design outside of its ranges opens with a finding at each such number and nothing is computed until they are
// settled. Whatever a Design can hold after an edit can be written and read back.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <optional>
#include <string>
#include <vector>

namespace arc {

inline constexpr std::size_t most_topload_parts = 50;
inline constexpr std::size_t most_measurements = 1000;
inline constexpr std::size_t most_marks = 1000; // dismissed findings, and confirmed stages
inline constexpr std::size_t most_runs = 100000;
inline constexpr std::size_t most_text_bytes = 100000; // of any one text in a design

/// A number outside of its range.
struct RangeProblem {
  std::string path;  // in the file, "secondary.turns"
  std::string field; // of the window's entry field; empty where a number has none
  std::string label;
  Dimension dimension;
  double value;
  double nearest; // in range
  double minimum, maximum;

  /// One sentence with the value, the range and the unit.
  std::string text(UnitSystem units) const;
};

/// All numbers of a design outside of their range, in file order.
std::vector<RangeProblem> numbers_out_of_range(const Design& design);

/// Sets the number at `path`; nothing when there is none.
void set_number(Design& design, const std::string& path, double value);

/// Where a design cannot be kept in a file, and why.
struct Unreadable {
  std::string path;
  std::string text; // what would be right
};

/// Empty when write_design() of this design can be read back: every number is finite and not absurd, every list and
/// text within its bound.
std::optional<Unreadable> unreadable(const Design& design);

/// After an edit: what follows from other numbers follows, and what is given now is no longer absent.
void settle_edit(const Design& before, Design& after);

/// Why an edit from `before` to `after` cannot be taken: it would leave a design that cannot be kept, or bring a
/// number out of its range that was in range before. Empty when it can; otherwise one sentence.
std::string edit_problem(const Design& before, const Design& after, UnitSystem units);

} // namespace arc

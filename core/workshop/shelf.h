// The shelf: parts on hand in one workshop, kept in a file of its own beside the designs. JSON, SI units, unknown
// keys survive; each group also as CSV. Groups of parts are a registry: capacitors, which the bank search uses, and
// all that can be put into a design, from wire and pipe to tubes and switches.
#pragma once

#include "model/design.h"
#include "quantity/quantity.h"

#include <map>
#include <optional>
#include <span>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct ShelfPart {
  std::string name;
  std::map<std::string, double> values; // by the columns of its group, SI
  Extras unknown;
  bool invented = false; // of the starter shelf: an example until somebody edits it
  bool operator==(const ShelfPart&) const = default;
};

struct ShelfColumn {
  std::string_view key; // in the file
  std::string_view label;
  Dimension dimension;
  double minimum, maximum;
  bool required;
};

/// A kind of part. To add a group, add its row in shelf.cpp.
struct ShelfGroup {
  std::string_view key;   // list in the file
  std::string_view title; // "Wire"
  std::string_view one;   // "spool"
  std::vector<ShelfColumn> columns;
  /// Puts a part to its usual use in a design; says in words what was done. Null: the group has a view of its own.
  std::string (*use)(const ShelfPart&, Design&);
  /// How many such parts a design takes as it is, 0 where its kind of coil has no place for one, and what it takes
  /// in words. Null for groups of material: how much of it a coil takes follows from its sizes.
  int (*takes)(const Design&) = nullptr;
  std::string (*taken)(const Design&) = nullptr;
};
/// All groups, in file order.
std::span<const ShelfGroup> shelf_groups();
/// Throws std::out_of_range for an unknown key.
const ShelfGroup& shelf_group(std::string_view key);

struct Shelf {
  std::string name = "Shelf";
  std::map<std::string, std::vector<ShelfPart>> parts; // by group
  bool invented_count = false;                         // invented parts are offered as if they were owned
  Extras unknown;

  bool owned(const ShelfPart& part) const { return !part.invented || invented_count; }

  std::vector<ShelfPart>& of(std::string_view group) { return parts[std::string(group)]; }
  const std::vector<ShelfPart>& of(std::string_view group) const;
};

inline constexpr std::size_t most_shelf_parts = 10000; // of one group

/// A number of a part, if it is stated.
std::optional<double> part_value(const ShelfPart& part, std::string_view key);
/// Pieces on hand; 1 when not stated.
int part_count(const ShelfPart& part);

/// A capacitor as the bank search sees it.
struct ShelfCapacitor {
  std::string name;
  double capacitance_f = 0; // measured when there is a measurement, else the marking
  double voltage_v = 0;     // rated peak: for pulses where that is stated, else the marking
  int count = 1;
  double tolerance = usual_capacitor_tolerance; // of the marking, or of the meter
  bool polarised = false;
  UnitRatings ratings;
  std::optional<double> price;
};
inline constexpr double meter_tolerance = 0.01; // of a capacitance meter (common practice, no source)
/// `unstated_tolerance` counts for parts that state none and were not measured.
ShelfCapacitor shelf_capacitor(const ShelfPart& part, double unstated_tolerance = usual_capacitor_tolerance);
/// Those that are owned, or count as owned.
std::vector<ShelfCapacitor> shelf_capacitors(const Shelf& shelf,
                                             double unstated_tolerance = usual_capacitor_tolerance);

/// What is wrong with a shelf file: where, and what would be right.
class ShelfError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// A shelf file and back: read_shelf(write_shelf(s)) == s; unknown keys are kept. Reading throws ShelfError.
Shelf read_shelf(std::string_view text);
std::string write_shelf(const Shelf& shelf);

/// The shelf `theirs` with the change that led from `before` to `after` made to it as well: parts added, removed
/// and replaced. For two windows on one shelf file.
Shelf merged_shelf(const Shelf& before, const Shelf& after, const Shelf& theirs);

/// One group as a table: name and the group's columns.
std::vector<ShelfPart> parts_from_csv(std::string_view text, const ShelfGroup& group);
std::string parts_to_csv(const std::vector<ShelfPart>& parts, const ShelfGroup& group);

/// A generic starter shelf of common surplus values, every part marked as invented.
Shelf starter_shelf();
/// Takes all invented parts off.
void remove_invented(Shelf& shelf);

/// Whether a capacitor is a thousand times off what `wanted_f` asks for, singly or in any bank of up to 30: its
/// marking deserves a question.
bool doubtful_marking(const ShelfCapacitor& part, double wanted_f);
/// Whether the measured value is about a thousand times off the marking, or outside of three tolerances.
bool measured_off_marking(const ShelfPart& part);

} // namespace arc

// The shelf: parts on hand in one workshop, kept in a file of its own beside the designs. JSON, SI units, unknown
// keys survive; capacitors also as CSV.
#pragma once

#include "design/design.h"

#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct ShelfCapacitor {
  std::string name;
  double capacitance_f = 0; // measured value when there is one, else the marking
  double voltage_v = 0;     // rated peak
  int count = 1;
  double tolerance = 0.1; // relative, of the marking
  std::optional<double> rms_current_a;
  std::optional<double> slope_v_per_s;      // rated dV/dt
  std::optional<double> dissipation_factor; // tan delta
  std::optional<double> price;              // of one, any currency
  Json unknown = Json::object();
};

struct Shelf {
  std::string name = "Shelf";
  std::vector<ShelfCapacitor> capacitors;
  Json unknown = Json::object(); // other groups of parts and keys this version does not know
};

/// What is wrong with a shelf file: where, and what would be right.
class ShelfError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

Shelf read_shelf(std::string_view text);
std::string write_shelf(const Shelf& shelf);

/// Columns name, capacitance_f, voltage_v, count and any of the optional ones.
Shelf shelf_from_csv(std::string_view text);
std::string shelf_to_csv(const Shelf& shelf);

/// A generic starter shelf, invented: common surplus values.
Shelf starter_shelf();

/// Names of capacitors a thousand times off what `wanted_f` asks for, singly or in any bank of up to 30: their
/// markings deserve a question.
std::vector<std::string> doubtful_markings(const Shelf& shelf, double wanted_f);

} // namespace arc

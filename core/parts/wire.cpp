// Winding wire; the formulas and their sources are stated in the header.
#include "parts/wire.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace arc {
namespace {

struct EnamelRow {
  double bare_mm;
  double grade_1_mm;
  double grade_2_mm;
};

// Maximum overall diameters after IEC 60317-0-1 (from memory).
constexpr std::array<EnamelRow, 19> enamel_table{{{0.020, 0.024, 0.027},
                                                  {0.050, 0.060, 0.066},
                                                  {0.071, 0.084, 0.091},
                                                  {0.100, 0.117, 0.125},
                                                  {0.150, 0.171, 0.182},
                                                  {0.200, 0.226, 0.239},
                                                  {0.250, 0.281, 0.297},
                                                  {0.315, 0.349, 0.367},
                                                  {0.400, 0.439, 0.459},
                                                  {0.500, 0.544, 0.566},
                                                  {0.630, 0.684, 0.706},
                                                  {0.800, 0.861, 0.885},
                                                  {1.000, 1.068, 1.094},
                                                  {1.250, 1.325, 1.351},
                                                  {1.600, 1.683, 1.711},
                                                  {2.000, 2.092, 2.120},
                                                  {2.500, 2.601, 2.631},
                                                  {3.150, 3.265, 3.296},
                                                  {5.000, 5.136, 5.169}}};

double increase_mm(const EnamelRow& row, EnamelGrade grade) {
  return (grade == EnamelGrade::grade_1 ? row.grade_1_mm : row.grade_2_mm) - row.bare_mm;
}

} // namespace

double overall_diameter_m(double bare_diameter_m, EnamelGrade grade) {
  const double bare_mm = bare_diameter_m * 1e3;
  const auto above =
      std::ranges::find_if(enamel_table, [&](const EnamelRow& row) { return row.bare_mm >= bare_mm; });
  if (above == enamel_table.begin()) return bare_diameter_m + increase_mm(enamel_table.front(), grade) * 1e-3;
  if (above == enamel_table.end()) return bare_diameter_m + increase_mm(enamel_table.back(), grade) * 1e-3;
  const EnamelRow& below = *(above - 1);
  const double t = std::log(bare_mm / below.bare_mm) / std::log(above->bare_mm / below.bare_mm);
  const double increase =
      std::exp((1 - t) * std::log(increase_mm(below, grade)) + t * std::log(increase_mm(*above, grade)));
  return bare_diameter_m + increase * 1e-3;
}

double turns_from_length(double length_m, double overall_diameter_m, double allowance) {
  return length_m / overall_diameter_m * (1 - allowance);
}

double length_from_turns(double turns, double overall_diameter_m, double allowance) {
  return turns * overall_diameter_m / (1 - allowance);
}

double helix_wire_length_m(double mean_diameter_m, double turns, double winding_length_m) {
  return std::hypot(turns * std::numbers::pi * mean_diameter_m, winding_length_m);
}

double wire_mass_kg(double bare_diameter_m, double wire_length_m) {
  return copper_density_kg_m3 * std::numbers::pi / 4 * bare_diameter_m * bare_diameter_m * wire_length_m;
}

double wire_length_of_mass_m(double bare_diameter_m, double mass_kg) {
  return mass_kg / wire_mass_kg(bare_diameter_m, 1);
}

double wire_resistance_ohm(double bare_diameter_m, double wire_length_m, double temperature_c) {
  const double area = std::numbers::pi / 4 * bare_diameter_m * bare_diameter_m;
  return copper_resistivity_ohm_m * (1 + copper_temperature_coefficient_per_k * (temperature_c - 20)) *
         wire_length_m / area;
}

} // namespace arc

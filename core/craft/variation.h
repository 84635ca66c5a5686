// How a craft varies a design that is being proposed: it sets its own numbers by genes, shares from 0 to 1, from
// parts that exist. The coil's geometry is set before, and the tap is tuned after it.
#pragma once

#include "model/design.h"

#include <cstddef>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// A transformer that limits its own current. Without a name it has to be bought.
struct SourcePart {
  double rated_mains_v = 0, output_v = 0, short_circuit_a = 0;
  std::optional<double> resistance_ohm = {};
  std::string name = {};
};

/// Capacitors of a kind for banks.
struct BankUnit {
  double capacitance_f = 0, voltage_v = 0;
  double tolerance = usual_capacitor_tolerance;
  int count = 1; // that there are
  UnitRatings ratings = {};
  std::string name = {};
};

struct VaryParts {
  std::vector<SourcePart> sources;
  std::vector<BankUnit> units;
  double resonance_hz = 0; // of the coil, by the handbook
};

inline constexpr std::size_t craft_genes = 6;
using CraftGenes = std::span<const double, craft_genes>;

/// The share of a range that a gene stands for; the second evenly in the logarithm.
double between(double gene, double low, double high);
double log_between(double gene, double low, double high);

/// The part that a gene stands for; there is at least one.
template <typename Part>
const Part& picked(const std::vector<Part>& parts, double gene) {
  return parts[std::min(parts.size() - 1, static_cast<std::size_t>(gene * static_cast<double>(parts.size())))];
}

/// Makes the tank of equal units that hold `peak_v` at two thirds of their rating, near `farad`, as far as there
/// are units; false where there are too few for one string.
bool fill_bank(Tank& tank, const BankUnit& unit, double peak_v, double farad);

/// Oven transformers kill at once and are not proposed unasked: a plate transformer of the same volts in their
/// place, which limits its current to `amperes`.
void replace_ovens(Design& design, double amperes);

} // namespace arc

// Finds banks of shelf capacitors for a wanted capacitance and voltage. A bank is parallel strings; each string is
// units of one kind in series. Strings of different kinds may stand side by side; every string holds the whole
// voltage with the margin, its units sharing by their worst-case tolerance. The search over all such banks that the
// shelf can fill is exact for up to three kinds at once.
#pragma once

#include "parts/shelf.h"

#include <string>
#include <vector>

namespace arc {

struct BankString {
  std::size_t part = 0; // in the shelf
  int in_series = 1;
  int in_parallel = 1;
};

struct BankWish {
  double capacitance_f = 0;
  double voltage_v = 0;       // peak across the bank
  double margin = 0.8;        // largest share of a unit's rating
  double largest_miss = 0.25; // relative, of the capacitance
  std::size_t limit = 10;
};

struct BankProposal {
  std::vector<BankString> strings;
  double capacitance_f = 0;
  double voltage_v = 0;  // largest peak at the margin, tolerances at their worst
  double unit_share = 0; // largest share of a unit's rating at the wished voltage
  int units = 0;
  double price = 0;   // of the units that have one
  std::string layout; // "2 strings of 10 film pulse 120n"
};

/// Best first: close to the wished capacitance, then few units, then voltage to spare. Empty when the shelf cannot
/// do it. Throws std::invalid_argument for a wish that is not positive.
std::vector<BankProposal> find_banks(const Shelf& shelf, const BankWish& wish);

/// Largest share of a string's voltage on one of its units when it is low and all others are high by `tolerance`.
double worst_share(int in_series, double tolerance);

/// Stress on one unit of a string in a running coil.
struct UnitStress {
  double peak_v;
  double rms_a;
  double slope_v_per_s;
  double dissipation_w; // tan delta times reactive power; 0 when the loss is not known
  bool within_ratings;  // of everything that the shelf states
};
/// From the whole bank's RMS current and slope; `frequency_hz` is the tank's.
UnitStress unit_stress(const Shelf& shelf, const BankProposal& bank, const BankString& string, double peak_v,
                       double rms_a, double slope_v_per_s, double frequency_hz, double margin);

} // namespace arc

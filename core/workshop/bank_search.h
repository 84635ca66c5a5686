// Finds banks of shelf capacitors for a wanted capacitance and voltage. A bank is parallel strings, each of units
// of one kind in series; strings of up to three kinds may stand side by side. Or it is two groups of different
// units, each side by side, stacked in series. Every unit keeps its rating at the margin with tolerances at their
// worst. Polarised units stand back to back. The search over side-by-side banks that the shelf can fill is
// exhaustive for the shortest string of each kind and two longer ones, on shelves of ordinary size.
#pragma once

#include "parts/bank.h"
#include "workshop/shelf.h"

#include <atomic>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

struct BankString {
  std::size_t part = 0; // in the shelf's capacitors
  int in_series = 1;
  int in_parallel = 1;
};

struct BankWish {
  double capacitance_f = 0;
  double voltage_v = 0;               // peak across the bank
  double margin = usual_rating_share; // largest share of a unit's rating
  double largest_miss = 0.25;         // relative, of the capacitance
  std::size_t limit = 10;
  std::string_view order = "overall"; // a key of bank_orders()
};

struct BankProposal {
  std::vector<BankString> strings;
  bool stacked = false; // the strings stand in series
  double capacitance_f = 0;
  double voltage_v = 0;  // largest peak at the margin, tolerances at their worst
  double unit_share = 0; // largest share of a unit's rating at the wished voltage
  int units = 0;
  int left = 0;       // units of the same kinds that stay on the shelf
  double price = 0;   // of the units that have one
  int unpriced = 0;   // units that have none
  std::string layout; // "2 strings of 10 film pulse 120n"
  /// How far its capacitance is above the wished one, as a share of it.
  double miss(const BankWish& wish) const { return capacitance_f / wish.capacitance_f - 1; }
};

/// What banks may be ordered by. The least score comes first; among equals the overall judgement decides.
struct BankOrder {
  std::string_view key;
  std::string_view label;
  double (*score)(const BankProposal& bank, const BankWish& wish);
};
/// The overall judgement first: close to the wished capacitance, few units, voltage to spare.
std::span<const BankOrder> bank_orders();

/// Best first in the wished order. Empty when the shelf cannot do it. The work is bounded: on a very large shelf
/// banks of one kind come first, then of two, then of three, and `left_out` (may be null) tells that not all were
/// looked at. Stops within a few milliseconds of `cancelled`. Throws std::invalid_argument for a wish that is not
/// positive and an order that is not known.
std::vector<BankProposal> find_banks(const std::vector<ShelfCapacitor>& parts, const BankWish& wish,
                                     const std::atomic<bool>* cancelled = nullptr, bool* left_out = nullptr);

/// Shelf capacitors as a section of a bank.
BankSection bank_section(const ShelfCapacitor& part, double in_series, double in_parallel);

/// A proposal as the tank of a design; bleeders and what was typed for other ways of giving it stay as in `before`.
Tank tank_of(const std::vector<ShelfCapacitor>& parts, const BankProposal& bank, const Tank& before);

/// One or more units of a part laid across the present tank's rails.
struct LaidAcross {
  std::size_t part;
  Tank tank;            // as it would be
  double capacitance_f; // of it
  std::size_t section;  // of that tank, in which they stand
  int units;            // that it takes: as many in series as the voltage asks for
};
/// What each part could add as one more string at `voltage_v` peak and `margin`; parts with too few pieces left
/// beside those in the tank's sections are left out. A tank of stacked sections is taken as one unit.
std::vector<LaidAcross> lay_across(const std::vector<ShelfCapacitor>& parts, const Tank& tank, double voltage_v,
                                   double margin = usual_rating_share);

} // namespace arc

// Bank search: all strings that hold the voltage, then all ways to fill the capacitance with up to three kinds of
// them.
#include "parts/bank_search.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {

double worst_share(int in_series, double tolerance) {
  if (in_series <= 1) return 1;
  // Series capacitors share inversely to their capacitance: the low one takes 1/(1-t), the others 1/(1+t).
  const double low = 1 / (1 - std::min(tolerance, 0.95)), high = 1 / (1 + tolerance);
  return low / (low + (in_series - 1) * high);
}

namespace {

struct Candidate { // one string of a kind
  std::size_t part;
  int in_series;
  int most; // strings that the shelf can fill
  double capacitance_f;
  double voltage_v; // at the margin
};

void consider(const Shelf& shelf, const BankWish& wish, const std::vector<Candidate>& chosen,
              const std::vector<int>& counts, std::vector<BankProposal>& out) {
  BankProposal bank;
  bank.voltage_v = 1e300;
  for (std::size_t i = 0; i < chosen.size(); ++i) {
    const Candidate& c = chosen[i];
    const ShelfCapacitor& part = shelf.capacitors[c.part];
    bank.strings.push_back({c.part, c.in_series, counts[i]});
    bank.capacitance_f += counts[i] * c.capacitance_f;
    bank.voltage_v = std::min(bank.voltage_v, c.voltage_v);
    bank.units += counts[i] * c.in_series;
    bank.price += counts[i] * c.in_series * part.price.value_or(0);
    bank.unit_share = std::max(bank.unit_share, wish.voltage_v * wish.margin / c.voltage_v);
    bank.layout += fmt::format("{}{} {} of {} {}", i ? " + " : "", counts[i], counts[i] == 1 ? "string" : "strings",
                               c.in_series, part.name);
  }
  if (std::abs(bank.capacitance_f / wish.capacitance_f - 1) <= wish.largest_miss) out.push_back(std::move(bank));
}

// Strings for the last kind: the counts on either side of what is missing.
void finish(const Shelf& shelf, const BankWish& wish, std::vector<Candidate>& chosen, std::vector<int>& counts,
            double so_far, const Candidate& last, int most, std::vector<BankProposal>& out) {
  const int exact =
      std::min(static_cast<int>(std::floor((wish.capacitance_f - so_far) / last.capacitance_f)), most);
  for (const int count : {exact, exact + 1}) { // all that there are, when that is still too little
    if (count < 1 || count > most) continue;
    chosen.push_back(last);
    counts.push_back(count);
    consider(shelf, wish, chosen, counts, out);
    chosen.pop_back();
    counts.pop_back();
  }
}

// Units of a part that strings chosen before leave over.
int left_over(const Shelf& shelf, const std::vector<Candidate>& chosen, const std::vector<int>& counts,
              const Candidate& next) {
  int used = 0;
  for (std::size_t i = 0; i < chosen.size(); ++i)
    if (chosen[i].part == next.part) used += counts[i] * chosen[i].in_series;
  return (shelf.capacitors[next.part].count - used) / next.in_series;
}

double rank(const BankProposal& bank, const BankWish& wish) {
  // A per cent of tune weighs like five more units or a tenth of the rating.
  return 100 * std::abs(bank.capacitance_f / wish.capacitance_f - 1) + 0.2 * bank.units +
         3 * static_cast<double>(bank.strings.size()) + 10 * bank.unit_share;
}

} // namespace

std::vector<BankProposal> find_banks(const Shelf& shelf, const BankWish& wish) {
  if (!(wish.capacitance_f > 0)) throw std::invalid_argument("the wanted capacitance must be above zero");
  if (!(wish.voltage_v > 0)) throw std::invalid_argument("the wanted voltage must be above zero");
  if (!(wish.margin > 0 && wish.margin <= 1)) throw std::invalid_argument("the margin must be between 0 and 1");
  std::vector<Candidate> candidates;
  for (std::size_t p = 0; p < shelf.capacitors.size(); ++p) {
    const ShelfCapacitor& part = shelf.capacitors[p];
    int series = 1;
    while (series <= part.count &&
           part.voltage_v * wish.margin / worst_share(series, part.tolerance) < wish.voltage_v * (1 - 1e-12))
      ++series;
    // The shortest string that holds, and two longer ones: more voltage, finer steps of capacitance.
    for (int s = series; s <= std::min(part.count, series + 2); ++s)
      candidates.push_back({p, s, part.count / s, part.capacitance_f / s,
                            part.voltage_v * wish.margin / worst_share(s, part.tolerance)});
  }
  std::vector<BankProposal> found;
  std::vector<Candidate> chosen;
  std::vector<int> counts;
  const double most_f = wish.capacitance_f * (1 + wish.largest_miss);
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    finish(shelf, wish, chosen, counts, 0, candidates[i], candidates[i].most, found);
    for (int a = 1; a <= candidates[i].most && a * candidates[i].capacitance_f < most_f; ++a) {
      chosen = {candidates[i]};
      counts = {a};
      const double first = a * candidates[i].capacitance_f;
      for (std::size_t j = i + 1; j < candidates.size(); ++j) {
        const int most_j = left_over(shelf, chosen, counts, candidates[j]);
        finish(shelf, wish, chosen, counts, first, candidates[j], most_j, found);
        for (int b = 1; b <= most_j && first + b * candidates[j].capacitance_f < most_f; ++b) {
          chosen.push_back(candidates[j]);
          counts.push_back(b);
          for (std::size_t k = j + 1; k < candidates.size(); ++k)
            finish(shelf, wish, chosen, counts, first + b * candidates[j].capacitance_f, candidates[k],
                   left_over(shelf, chosen, counts, candidates[k]), found);
          chosen.pop_back();
          counts.pop_back();
        }
      }
      chosen.clear();
      counts.clear();
    }
    if (found.size() > 20000) { // keep the work in bounds: only the best can be shown anyway
      std::ranges::sort(found, {}, [&](const BankProposal& b) { return rank(b, wish); });
      found.resize(2000);
    }
  }
  std::ranges::sort(found, {}, [&](const BankProposal& b) { return rank(b, wish); });
  if (found.size() > wish.limit) found.resize(wish.limit);
  return found;
}

UnitStress unit_stress(const Shelf& shelf, const BankProposal& bank, const BankString& string, double peak_v,
                       double rms_a, double slope_v_per_s, double frequency_hz, double margin) {
  const ShelfCapacitor& part = shelf.capacitors.at(string.part);
  const double share = worst_share(string.in_series, part.tolerance);
  UnitStress out{};
  out.peak_v = peak_v * share;
  out.rms_a = rms_a * part.capacitance_f / string.in_series / bank.capacitance_f;
  out.slope_v_per_s = slope_v_per_s * share;
  if (part.dissipation_factor)
    out.dissipation_w = *part.dissipation_factor * out.rms_a * out.rms_a /
                        (2 * std::numbers::pi * frequency_hz * part.capacitance_f);
  out.within_ratings = out.peak_v <= margin * part.voltage_v * (1 + 1e-9) &&
                       (!part.rms_current_a || out.rms_a <= *part.rms_current_a) &&
                       (!part.slope_v_per_s || out.slope_v_per_s <= *part.slope_v_per_s);
  return out;
}

} // namespace arc

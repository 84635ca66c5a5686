// Bank search: all strings that hold the voltage, then all ways to fill the capacitance with up to three kinds of
// them.
#include "parts/bank_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>
#include <utility>

namespace arc {

namespace {

struct Candidate { // one string of a kind
  std::size_t part;
  int in_series;
  int most; // strings that the shelf can fill
  double capacitance_f;
  double voltage_v; // at the margin
};

using Parts = std::vector<ShelfCapacitor>;

// Units of a string that hold the voltage together: half of them when they stand back to back.
double sharing(const ShelfCapacitor& part, int in_series) {
  return part.polarised ? in_series / 2.0 : in_series;
}

double miss(const BankProposal& bank, const BankWish& wish) {
  return std::abs(bank.capacitance_f / wish.capacitance_f - 1);
}

void consider(const Parts& parts, const BankWish& wish, const std::vector<Candidate>& chosen,
              const std::vector<int>& counts, std::vector<BankProposal>& out) {
  BankProposal bank;
  bank.voltage_v = 1e300;
  for (std::size_t i = 0; i < chosen.size(); ++i) {
    const Candidate& c = chosen[i];
    const ShelfCapacitor& part = parts[c.part];
    bank.strings.push_back({c.part, c.in_series, counts[i]});
    bank.capacitance_f += counts[i] * c.capacitance_f;
    bank.voltage_v = std::min(bank.voltage_v, c.voltage_v);
    bank.units += counts[i] * c.in_series;
    bank.price += counts[i] * c.in_series * part.price.value_or(0);
    bank.unpriced += part.price ? 0 : counts[i] * c.in_series;
    bank.unit_share = std::max(bank.unit_share, wish.voltage_v * wish.margin / c.voltage_v);
    bank.layout +=
        fmt::format("{}{} {} of {} {}{}", i ? " + " : "", counts[i], counts[i] == 1 ? "string" : "strings",
                    c.in_series, part.name, part.polarised ? ", back to back" : "");
    // Kinds may come twice, with strings of different length: count what stays of each once.
    bool last_of_kind = true;
    for (std::size_t j = i + 1; j < chosen.size(); ++j) last_of_kind &= chosen[j].part != c.part;
    bank.left += (last_of_kind ? part.count : 0) - counts[i] * c.in_series;
  }
  if (miss(bank, wish) <= wish.largest_miss) out.push_back(std::move(bank));
}

// Strings for the last kind: every count that comes near enough.
void finish(const Parts& parts, const BankWish& wish, std::vector<Candidate>& chosen, std::vector<int>& counts,
            double so_far, const Candidate& last, int most, std::vector<BankProposal>& out) {
  const auto strings = [&](double share) { return (share * wish.capacitance_f - so_far) / last.capacitance_f; };
  const double fewest = std::max(1.0, std::ceil(strings(1 - wish.largest_miss)));
  const double enough = std::min<double>(most, std::floor(strings(1 + wish.largest_miss)));
  for (int count = static_cast<int>(std::min(fewest, most + 1.0)); count <= enough; ++count) {
    chosen.push_back(last);
    counts.push_back(count);
    consider(parts, wish, chosen, counts, out);
    chosen.pop_back();
    counts.pop_back();
  }
}

// Units of a part that strings chosen before leave over.
int left_over(const Parts& parts, const std::vector<Candidate>& chosen, const std::vector<int>& counts,
              const Candidate& next) {
  int used = 0;
  for (std::size_t i = 0; i < chosen.size(); ++i)
    if (chosen[i].part == next.part) used += counts[i] * chosen[i].in_series;
  return (parts[next.part].count - used) / next.in_series;
}

// Volts that a string may see at the margin.
double allowed_v(const ShelfCapacitor& part, int in_series, double margin) {
  return part.voltage_v * margin / worst_share(sharing(part, in_series), part.tolerance);
}

// Two groups of different units in series, each group side by side: for every size of the first, the sizes of the
// second on either side of what is wanted.
void stack(const Parts& parts, const BankWish& wish, std::vector<BankProposal>& out) {
  for (std::size_t p = 0; p < parts.size(); ++p)
    for (std::size_t q = 0; q < parts.size(); ++q) {
      if (p == q || parts[p].polarised || parts[q].polarised) continue;
      for (int a = 1; a <= parts[p].count; ++a) {
        const double first = a * parts[p].capacitance_f;
        if (first <= wish.capacitance_f) continue;
        const double second = wish.capacitance_f * first / (first - wish.capacitance_f);
        const int exact = static_cast<int>(std::floor(second / parts[q].capacitance_f));
        for (const int b : {exact, exact + 1}) {
          if (b < 1 || b > parts[q].count || (p > q && a * parts[p].capacitance_f == b * parts[q].capacitance_f))
            continue;
          BankProposal bank;
          bank.stacked = true;
          bank.strings = {{p, 1, a}, {q, 1, b}};
          const Tank tank = tank_of(parts, bank, {});
          bank.capacitance_f = tank_capacitance_f(tank);
          bank.voltage_v = *tank_voltage_limit_v(tank, wish.margin);
          if (bank.voltage_v < wish.voltage_v * (1 - 1e-12) || miss(bank, wish) > wish.largest_miss) continue;
          bank.unit_share = wish.voltage_v * wish.margin / bank.voltage_v;
          bank.units = a + b;
          bank.left = parts[p].count - a + parts[q].count - b;
          bank.price = a * parts[p].price.value_or(0) + b * parts[q].price.value_or(0);
          bank.unpriced = (parts[p].price ? 0 : a) + (parts[q].price ? 0 : b);
          bank.layout = fmt::format("{} {} in series with {} {}", a, parts[p].name, b, parts[q].name);
          out.push_back(std::move(bank));
        }
      }
    }
}

double overall(const BankProposal& bank, const BankWish& wish) {
  // A per cent of tune weighs like five more units or a tenth of the rating.
  return 100 * miss(bank, wish) + 0.2 * bank.units + 3 * static_cast<double>(bank.strings.size()) +
         10 * bank.unit_share;
}

// Those with units of unknown price come after all others.
double money(const BankProposal& bank, const BankWish&) {
  return bank.unpriced > 0 ? 1e12 + bank.unpriced : bank.price;
}

} // namespace

std::span<const BankOrder> bank_orders() {
  static constexpr std::array<BankOrder, 6> orders{{
      {"overall", "All together", overall},
      {"tune", "Closest in tune", miss},
      {"margin", "Most margin", [](const BankProposal& bank, const BankWish&) { return bank.unit_share; }},
      {"units", "Fewest units", [](const BankProposal& bank, const BankWish&) { return double(bank.units); }},
      {"price", "Lowest price", money},
      {"left", "Fewest left over", [](const BankProposal& bank, const BankWish&) { return double(bank.left); }},
  }};
  return orders;
}

std::vector<BankProposal> find_banks(const Parts& parts, const BankWish& wish) {
  if (!(wish.capacitance_f > 0)) throw std::invalid_argument("the wanted capacitance must be above zero");
  if (!(wish.voltage_v > 0)) throw std::invalid_argument("the wanted voltage must be above zero");
  if (!(wish.margin > 0 && wish.margin <= 1)) throw std::invalid_argument("the margin must be between 0 and 1");
  const auto order = std::ranges::find(bank_orders(), wish.order, &BankOrder::key);
  if (order == bank_orders().end()) throw std::invalid_argument(fmt::format("no order is called {}", wish.order));
  const auto best_first = [&](const BankProposal& b) { return std::pair(order->score(b, wish), overall(b, wish)); };
  std::vector<Candidate> candidates;
  for (std::size_t p = 0; p < parts.size(); ++p) {
    const ShelfCapacitor& part = parts[p];
    const int step = part.polarised ? 2 : 1;
    int series = step;
    while (series <= part.count && allowed_v(part, series, wish.margin) < wish.voltage_v * (1 - 1e-12))
      series += step;
    // The shortest string that holds, and two longer ones: more voltage, finer steps of capacitance.
    for (int s = series; s <= std::min(part.count, series + 2 * step); s += step)
      candidates.push_back({p, s, part.count / s, part.capacitance_f / s, allowed_v(part, s, wish.margin)});
  }
  std::vector<BankProposal> found;
  std::vector<Candidate> chosen;
  std::vector<int> counts;
  const double most_f = wish.capacitance_f * (1 + wish.largest_miss);
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    finish(parts, wish, chosen, counts, 0, candidates[i], candidates[i].most, found);
    for (int a = 1; a <= candidates[i].most && a * candidates[i].capacitance_f < most_f; ++a) {
      chosen = {candidates[i]};
      counts = {a};
      const double first = a * candidates[i].capacitance_f;
      for (std::size_t j = i + 1; j < candidates.size(); ++j) {
        const int most_j = left_over(parts, chosen, counts, candidates[j]);
        finish(parts, wish, chosen, counts, first, candidates[j], most_j, found);
        for (int b = 1; b <= most_j && first + b * candidates[j].capacitance_f < most_f; ++b) {
          chosen.push_back(candidates[j]);
          counts.push_back(b);
          for (std::size_t k = j + 1; k < candidates.size(); ++k)
            finish(parts, wish, chosen, counts, first + b * candidates[j].capacitance_f, candidates[k],
                   left_over(parts, chosen, counts, candidates[k]), found);
          chosen.pop_back();
          counts.pop_back();
        }
      }
      chosen.clear();
      counts.clear();
    }
    if (found.size() > 20000) { // keep the work in bounds: only the best can be shown anyway
      std::ranges::nth_element(found, found.begin() + 2000, {}, best_first);
      found.resize(2000);
    }
  }
  stack(parts, wish, found);
  std::ranges::sort(found, {}, best_first);
  if (found.size() > wish.limit) found.resize(wish.limit);
  return found;
}

BankSection bank_section(const ShelfCapacitor& part, double in_series, double in_parallel) {
  BankSection s;
  s.name = part.name;
  s.capacitance_f = part.capacitance_f;
  s.voltage_v = part.voltage_v;
  s.in_series = in_series;
  s.in_parallel = in_parallel;
  s.tolerance = part.tolerance;
  s.back_to_back = part.polarised;
  s.ratings = part.ratings;
  return s;
}

Tank tank_of(const Parts& parts, const BankProposal& bank, const Tank& before) {
  Tank tank;
  tank.bleed_resistance_ohm = before.bleed_resistance_ohm;
  tank.sections_in_series = bank.stacked;
  for (const BankString& s : bank.strings)
    tank.sections.push_back(bank_section(parts.at(s.part), s.in_series, s.in_parallel));
  tank.capacitance_f = tank_capacitance_f(tank);
  const BankSection& first = tank.sections.front();
  if (tank.sections.size() > 1 || first.back_to_back) return tank;
  tank.unit_capacitance_f = first.capacitance_f; // equal units: as they are typed by hand
  tank.unit_voltage_v = first.voltage_v;
  tank.units_in_series = first.in_series;
  tank.units_in_parallel = first.in_parallel;
  tank.unit_tolerance = first.tolerance;
  tank.unit_ratings = first.ratings;
  tank.sections.clear();
  return tank;
}

std::vector<LaidAcross> lay_across(const Parts& parts, const Tank& tank, double voltage_v, double margin) {
  std::vector<LaidAcross> out;
  for (std::size_t p = 0; p < parts.size(); ++p) {
    const ShelfCapacitor& part = parts[p];
    const int step = part.polarised ? 2 : 1;
    double free = part.count; // not yet in the tank
    for (const BankSection& s : tank.sections)
      if (s.name == part.name) free -= s.in_series * s.in_parallel;
    int series = step;
    while (series <= free && allowed_v(part, series, margin) < voltage_v * (1 - 1e-12)) series += step;
    if (series > free) continue;
    Tank laid = tank;
    laid.sections = bank_sections(tank);
    if (tank.sections_in_series && laid.sections.size() > 1) { // as one unit with the rating that it has together
      BankSection whole;
      whole.name = "the stacked bank";
      whole.capacitance_f = tank_capacitance_f(tank);
      whole.voltage_v = tank_voltage_limit_v(tank, 1);
      laid.sections = {whole};
      laid.sections_in_series = false;
    }
    const auto same = std::ranges::find_if(laid.sections, [&](const BankSection& s) {
      return s.name == part.name && s.in_series == series && s.capacitance_f == part.capacitance_f;
    });
    const auto section = static_cast<std::size_t>(same - laid.sections.begin());
    if (same != laid.sections.end())
      same->in_parallel += 1;
    else
      laid.sections.push_back(bank_section(part, series, 1));
    laid.unit_capacitance_f.reset();
    laid.capacitance_f = tank_capacitance_f(laid);
    out.push_back({p, laid, laid.capacitance_f, section, series});
  }
  return out;
}

} // namespace arc

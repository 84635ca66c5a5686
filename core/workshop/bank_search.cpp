// Bank search: all strings that hold the voltage, then all ways to fill the capacitance with up to three kinds of
// them.
#include "workshop/bank_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>
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
  return std::abs(bank.miss(wish));
}

// The search in progress: what is wished, what was found, and how much work is left to spend.
class Search {
 public:
  Search(const Parts& parts, const BankWish& wish, const std::atomic<bool>* cancelled)
      : parts_(parts), wish_(wish), cancelled_(cancelled),
        order_(*std::ranges::find(bank_orders(), wish.order, &BankOrder::key)) {}

  /// False when the search must end: cancelled, or the work is spent.
  bool goes_on() {
    if (--left_ <= 0 || (cancelled_ && *cancelled_)) ended_ = true;
    return !ended_;
  }
  bool ended() const { return ended_; }
  const Parts& parts() const { return parts_; }
  const BankWish& wish() const { return wish_; }

  void found(BankProposal bank) {
    found_.push_back(std::move(bank));
    if (found_.size() < 20000) return; // only the best can be shown anyway
    std::ranges::nth_element(found_, found_.begin() + 2000, {}, best_first());
    found_.resize(2000);
  }
  std::vector<BankProposal> best() {
    std::ranges::sort(found_, {}, best_first());
    if (found_.size() > wish_.limit) found_.resize(wish_.limit);
    return std::move(found_);
  }

 private:
  std::function<std::pair<double, double>(const BankProposal&)> best_first() const;

  static constexpr long most_steps = 3'000'000;
  const Parts& parts_;
  const BankWish& wish_;
  const std::atomic<bool>* cancelled_;
  const BankOrder& order_;
  std::vector<BankProposal> found_;
  long left_ = most_steps;
  bool ended_ = false;
};

void consider(Search& search, const std::vector<Candidate>& chosen, const std::vector<int>& counts) {
  const BankWish& wish = search.wish();
  double capacitance = 0;
  for (std::size_t i = 0; i < chosen.size(); ++i) capacitance += counts[i] * chosen[i].capacitance_f;
  if (std::abs(capacitance / wish.capacitance_f - 1) > wish.largest_miss) return;
  BankProposal bank;
  bank.capacitance_f = capacitance;
  bank.voltage_v = 1e300;
  for (std::size_t i = 0; i < chosen.size(); ++i) {
    const Candidate& c = chosen[i];
    const ShelfCapacitor& part = search.parts()[c.part];
    bank.strings.push_back({c.part, c.in_series, counts[i]});
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
  search.found(std::move(bank));
}

// Strings for the last kind: every count that comes near enough.
void finish(Search& search, std::vector<Candidate>& chosen, std::vector<int>& counts, double so_far,
            const Candidate& last, int most) {
  const BankWish& wish = search.wish();
  const auto strings = [&](double share) { return (share * wish.capacitance_f - so_far) / last.capacitance_f; };
  const double fewest = std::max(1.0, std::ceil(strings(1 - wish.largest_miss)));
  const double enough = std::min<double>(most, std::floor(strings(1 + wish.largest_miss)));
  for (int count = static_cast<int>(std::min(fewest, most + 1.0)); count <= enough && search.goes_on(); ++count) {
    chosen.push_back(last);
    counts.push_back(count);
    consider(search, chosen, counts);
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
void stack(Search& search) {
  const Parts& parts = search.parts();
  const BankWish& wish = search.wish();
  for (std::size_t p = 0; p < parts.size() && !search.ended(); ++p)
    for (std::size_t q = 0; q < parts.size() && search.goes_on(); ++q) {
      if (p == q || parts[p].polarised || parts[q].polarised) continue;
      for (int a = 1; a <= parts[p].count && search.goes_on(); ++a) {
        const double first = a * parts[p].capacitance_f;
        if (first <= wish.capacitance_f) continue;
        const double second = wish.capacitance_f * first / (first - wish.capacitance_f);
        // First and wanted nearly alike ask for more than anybody has.
        const double wanted = std::min(std::floor(second / parts[q].capacitance_f), parts[q].count + 1.0);
        const int exact = static_cast<int>(wanted);
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
          search.found(std::move(bank));
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

std::function<std::pair<double, double>(const BankProposal&)> Search::best_first() const {
  return [this](const BankProposal& b) { return std::pair(order_.score(b, wish_), overall(b, wish_)); };
}

// All strings that hold the voltage: the shortest of each kind, and two longer ones for more voltage and finer
// steps.
std::vector<Candidate> strings_that_hold(Search& search) {
  const BankWish& wish = search.wish();
  std::vector<Candidate> out;
  for (std::size_t p = 0; p < search.parts().size(); ++p) {
    const ShelfCapacitor& part = search.parts()[p];
    const int step = part.polarised ? 2 : 1;
    int series = step;
    while (series <= part.count && allowed_v(part, series, wish.margin) < wish.voltage_v * (1 - 1e-12)) {
      if (!search.goes_on()) return out;
      series += step;
    }
    for (int s = series; s <= std::min(part.count, series + 2 * step); s += step)
      out.push_back({p, s, part.count / s, part.capacitance_f / s, allowed_v(part, s, wish.margin)});
  }
  return out;
}

// Adds `more` kinds, each later in the list than the ones before, to those chosen.
void combine(Search& search, const std::vector<Candidate>& candidates, std::size_t from, int more,
             std::vector<Candidate>& chosen, std::vector<int>& counts, double so_far) {
  const double most_f = search.wish().capacitance_f * (1 + search.wish().largest_miss);
  for (std::size_t i = from; i < candidates.size() && search.goes_on(); ++i) {
    const Candidate& next = candidates[i];
    const int most = left_over(search.parts(), chosen, counts, next);
    if (more == 1) {
      finish(search, chosen, counts, so_far, next, most);
      continue;
    }
    for (int n = 1; n <= most && so_far + n * next.capacitance_f < most_f && search.goes_on(); ++n) {
      chosen.push_back(next);
      counts.push_back(n);
      combine(search, candidates, i + 1, more - 1, chosen, counts, so_far + n * next.capacitance_f);
      chosen.pop_back();
      counts.pop_back();
    }
  }
}

} // namespace

std::span<const BankOrder> bank_orders() {
  static constexpr std::array<BankOrder, 6> orders{{
      {"overall", "Best overall", overall},
      {"tune", "Closest in tune", miss},
      {"margin", "Most margin", [](const BankProposal& bank, const BankWish&) { return bank.unit_share; }},
      {"units", "Fewest units", [](const BankProposal& bank, const BankWish&) { return double(bank.units); }},
      {"price", "Lowest price", money},
      {"left", "Least stock left", [](const BankProposal& bank, const BankWish&) { return double(bank.left); }},
  }};
  return orders;
}

std::vector<BankProposal> find_banks(const Parts& parts, const BankWish& wish, const std::atomic<bool>* cancelled,
                                     bool* left_out) {
  if (!(wish.capacitance_f > 0)) throw std::invalid_argument("the wanted capacitance must be above zero");
  if (!(wish.voltage_v > 0)) throw std::invalid_argument("the wanted voltage must be above zero");
  if (!(wish.margin > 0 && wish.margin <= 1)) throw std::invalid_argument("the margin must be between 0 and 1");
  if (std::ranges::find(bank_orders(), wish.order, &BankOrder::key) == bank_orders().end())
    throw std::invalid_argument(fmt::format("no order is called {}", wish.order));
  Search search(parts, wish, cancelled);
  const std::vector<Candidate> candidates = strings_that_hold(search);
  std::vector<Candidate> chosen;
  std::vector<int> counts;
  combine(search, candidates, 0, 1, chosen, counts, 0);
  stack(search);
  for (const int kinds : {2, 3}) combine(search, candidates, 0, kinds, chosen, counts, 0);
  if (left_out) *left_out = search.ended();
  return search.best();
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
  Tank tank = before; // what was typed for other ways of giving it stays
  std::vector<BankSection> sections;
  for (const BankString& s : bank.strings)
    sections.push_back(bank_section(parts.at(s.part), s.in_series, s.in_parallel));
  const BankSection& first = sections.front();
  if (tank_given(before) == TankGiven::one_value) tank.single_capacitance_f = before.capacitance_f;
  if (sections.size() > 1 || first.back_to_back) {
    tank.given_as = TankGiven::mixed_bank;
    tank.sections_in_series = bank.stacked;
    tank.sections = sections;
  } else { // equal units: as they are typed by hand
    tank.given_as = TankGiven::equal_units;
    tank.unit_capacitance_f = first.capacitance_f;
    tank.unit_voltage_v = first.voltage_v;
    tank.units_in_series = first.in_series;
    tank.units_in_parallel = first.in_parallel;
    tank.unit_tolerance = first.tolerance;
    tank.unit_ratings = first.ratings;
  }
  tank.capacitance_f = tank_capacitance_f(tank);
  return tank;
}

std::vector<LaidAcross> lay_across(const Parts& parts, const Tank& tank, double voltage_v, double margin) {
  std::vector<LaidAcross> out;
  for (std::size_t p = 0; p < parts.size(); ++p) {
    const ShelfCapacitor& part = parts[p];
    const int step = part.polarised ? 2 : 1;
    double free = part.count; // not yet in the tank
    const auto present = bank_sections(tank);
    for (const BankSection& s : present)
      if (s.name == part.name) free -= s.in_series * s.in_parallel;
    int series = step;
    while (series <= free && allowed_v(part, series, margin) < voltage_v * (1 - 1e-12)) series += step;
    if (series > free) continue;
    Tank laid = tank;
    if (tank_given(tank) == TankGiven::one_value) laid.single_capacitance_f = tank.capacitance_f;
    laid.given_as = TankGiven::mixed_bank;
    laid.sections = present;
    laid.sections_in_series = is_stacked(tank);
    if (laid.sections_in_series && laid.sections.size() > 1) { // as one unit with the rating that it has together
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
    if (laid.sections.size() > most_bank_sections) continue;
    laid.capacitance_f = tank_capacitance_f(laid);
    out.push_back({p, laid, laid.capacitance_f, section, series});
  }
  return out;
}

} // namespace arc

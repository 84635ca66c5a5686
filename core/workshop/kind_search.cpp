// Bounded by counts, not by the clock, so that a seed always gives the same.
#include "workshop/kind_search.h"

#include "analysis/analyse.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <nlopt.h>
#include <random>

namespace arc {

class Dice {
 public:
  Dice(std::uint64_t seed, std::uint64_t index) : engine_(seed * 0x9e3779b97f4a7c15ULL + index) {}
  double roll() { return static_cast<double>(engine_() >> 11) * 0x1p-53; }

 private:
  std::mt19937_64 engine_;
};

namespace {

constexpr std::size_t parents = 8;
constexpr int screenings = 300;

Genes rolled(Dice& dice) {
  Genes out{};
  for (double& gene : out) gene = dice.roll();
  return out;
}

// Some genes of a good one, moved; now and then one anew.
Genes varied(const Genes& from, Dice& dice, double by) {
  Genes out = from;
  for (double& gene : out) {
    const double what = dice.roll(), move = dice.roll() + dice.roll() + dice.roll() - 1.5;
    if (what < 0.5) gene = std::clamp(gene + by * move, 0.0, 1.0);
    if (what > 0.96) gene = dice.roll();
  }
  return out;
}

} // namespace

void KindSearch::run(int rounds, const std::atomic<bool>& cancelled, const std::function<void()>& tell) {
  if (!designs_.empty_groups().empty()) return;
  const std::size_t batch_size = quick() ? 16 : kind_.flame_at_tip ? 4 : 8; // a flame takes longest
  const int polishing = rolled_ ? 0 : rounds / 4, generations = rounds - polishing;
  for (int round = 0; round < generations && !cancelled; ++round) {
    std::vector<CoilCandidate> batch(batch_size);
    std::vector<const CoilCandidate*> best = rolled_ ? std::vector<const CoilCandidate*>{} : ranked();
    if (best.size() > parents) best.resize(parents);
    parallel_for(batch.size(), [&](std::size_t i) {
      if (cancelled) return;
      const auto index = static_cast<std::uint64_t>(round) * batch_size + i + 1;
      Dice dice(seed_, index * 64 + static_cast<std::uint64_t>(kind_.key.size()));
      batch[i] = screened(dice, best, round, generations);
      Kept kept(4);
      if (batch[i].misses.empty() && batch[i].trouble.empty()) evaluate(batch[i], kept, cancelled);
    });
    std::ranges::move(batch, std::back_inserter(seen_));
    if (tell) tell();
  }
  for (int round = 0; round < polishing && !cancelled; ++round) {
    constexpr std::size_t at_once = 4;
    polish(at_once, static_cast<int>(2 * batch_size / at_once), cancelled);
    if (tell) tell();
  }
}

void KindSearch::polish(std::size_t of, int evaluations, const std::atomic<bool>& cancelled) {
  std::vector<CoilCandidate> starts;
  for (const CoilCandidate* c : ranked()) {
    const auto same_coil = [&](const CoilCandidate& other) {
      return std::equal(c->genes.begin(), c->genes.begin() + shape_genes, other.genes.begin());
    };
    if (c->good() && starts.size() < of && std::ranges::none_of(starts, same_coil)) starts.push_back(*c);
  }
  std::vector<std::vector<CoilCandidate>> found(starts.size());
  parallel_for(starts.size(), [&](std::size_t i) { found[i] = polished(starts[i], evaluations, cancelled); });
  for (auto& one : found) std::ranges::move(one, std::back_inserter(seen_));
}

std::vector<CoilCandidate> KindSearch::polished(const CoilCandidate& start, int evaluations,
                                                const std::atomic<bool>& cancelled) const {
  struct Task {
    const KindSearch& search;
    const CoilCandidate& start;
    const std::atomic<bool>& cancelled;
    Kept kept{8}; // the coil's field solution serves all of them
    std::vector<CoilCandidate> seen{};

    double worth(const double* genes) {
      CoilCandidate c;
      c.genes = start.genes;
      std::copy(genes, genes + craft_genes, c.genes.begin() + shape_genes);
      search.designs_.build(c);
      if (c.misses.empty() && c.trouble.empty()) search.evaluate(c, kept, cancelled);
      const double worth = c.good() ? c.merit / start.merit : -c.distance();
      if (c.simulated) seen.push_back(std::move(c));
      return worth;
    }
  } task{*this, start, cancelled};
  const std::unique_ptr<nlopt_opt_s, decltype(&nlopt_destroy)> optimiser(
      nlopt_create(NLOPT_LN_SBPLX, craft_genes), &nlopt_destroy); // T. H. Rowan, thesis, Austin 1990
  nlopt_opt opt = optimiser.get();
  nlopt_set_lower_bounds1(opt, 0);
  nlopt_set_upper_bounds1(opt, 1);
  nlopt_set_initial_step1(opt, 0.15);
  nlopt_set_maxeval(opt, evaluations);
  nlopt_set_max_objective(
      opt,
      [](unsigned, const double* genes, double*, void* data) {
        auto& of = *static_cast<Task*>(data);
        return of.cancelled ? 0 : of.worth(genes);
      },
      &task);
  std::array<double, craft_genes> genes{};
  std::copy_n(start.genes.begin() + shape_genes, craft_genes, genes.begin());
  double best = 0;
  nlopt_optimize(opt, genes.data(), &best);
  return std::move(task.seen);
}

void KindSearch::judge(CoilCandidate& c, const std::atomic<bool>& cancelled) const {
  if (kind_.suit_feed) kind_.suit_feed(c.design);
  c.misses.clear();
  c.figures = {};
  c.owned.clear();
  c.buy.clear();
  Kept fresh(4);
  evaluate(c, fresh, cancelled);
  if (!c.good() || !quick()) return;
  Kept kept(4);
  const Analysis analysis = analyse(c.design, UnitSystem::metric, kept);
  const PowerOptions options{.variac = false, .waveforms = false};
  const std::function<void(double)> nobody;
  const PowerAnalysis power =
      analyse_power(c.design, analysis, options, UnitSystem::metric, {cancelled, nobody, kept});
  count_findings(c, all_findings(analysis, &power));
}

std::vector<const CoilCandidate*> KindSearch::ranked() const {
  std::vector<const CoilCandidate*> out;
  for (const CoilCandidate& c : seen_)
    if (c.simulated) out.push_back(&c);
  std::ranges::stable_sort(out, [](const CoilCandidate* a, const CoilCandidate* b) {
    const double da = a->distance(), db = b->distance();
    return da != db ? da < db : a->merit > b->merit;
  });
  if (brief_.aim == "calmest") prefer_arcs(out);
  return out;
}

// Calm is what makes a third of the longest arc: while that is being found, arcs come first.
void KindSearch::prefer_arcs(std::vector<const CoilCandidate*>& best) {
  const double enough_m = enough_arc_m(best);
  std::stable_partition(best.begin(), best.end(),
                        [&](const CoilCandidate* c) { return c->figures.arc_high_m >= enough_m; });
  if (const auto longest = std::ranges::max_element(
          best, {}, [](const CoilCandidate* c) { return c->good() ? c->figures.arc_high_m : 0; });
      longest != best.end())
    std::rotate(best.begin(), longest, longest + 1);
}

// Tries genes until sizes and handbook let them through; the nearest where none do.
CoilCandidate KindSearch::screened(Dice& dice, const std::vector<const CoilCandidate*>& best, int round,
                                   int rounds) const {
  CoilCandidate nearest;
  const std::string untried = "untried";
  nearest.trouble = untried;
  const double by = 0.35 * (1 - 0.8 * round / std::max(1, rounds));
  // Where size is the aim the sizes alone tell: once there are good ones, often the smallest of several goes on.
  constexpr int several = 12;
  const bool by_size = brief_.aim == "smallest" && !best.empty() && dice.roll() < 0.5;
  const auto bulk = [](const CoilCandidate& c) {
    return c.figures.height_m * c.figures.floor_diameter_m * c.figures.floor_diameter_m;
  };
  CoilCandidate smallest;
  int passed = 0;
  for (int i = 0; i < screenings && passed < several; ++i) {
    CoilCandidate c;
    const bool anew = best.empty() || i % 4 == 3 || dice.roll() < 0.2;
    const auto parent = std::min(
        best.size() - 1, static_cast<std::size_t>(dice.roll() * dice.roll() * static_cast<double>(best.size())));
    c.genes = anew ? rolled(dice) : varied(best[parent]->genes, dice, by);
    designs_.build(c);
    if (c.misses.empty() && c.trouble.empty()) {
      if (!by_size) return c;
      if (passed++ == 0 || bulk(c) < bulk(smallest)) smallest = std::move(c);
      continue;
    }
    if (nearest.trouble == untried || c.distance() < nearest.distance()) nearest = std::move(c);
  }
  return passed > 0 ? smallest : nearest;
}

void KindSearch::evaluate(CoilCandidate& c, Kept& kept, const std::atomic<bool>& cancelled) const try {
  Analysis analysis;
  if (!designs_.tune(c, kept, analysis)) {
    c.trouble = "no tap tunes the tank";
    return;
  }
  if (!analysis.problem.empty() || !analysis.resonator) {
    c.trouble = analysis.problem.empty() ? "no resonance" : analysis.problem;
    return;
  }
  if (kind_.close_wound && (analysis.coupling < kind_.coupling_low || analysis.coupling > kind_.coupling_high)) {
    c.trouble = "coupling outside of what such coils have";
    return;
  }
  c.figures = figures_at_rest_of(c.design, analysis);
  c.misses = passed_at_rest(brief_, c.figures);
  const PowerOptions options{.advice = false, .variac = false, .waveforms = false};
  const std::function<void(double)> nobody;
  const PowerAnalysis power =
      analyse_power(c.design, analysis, options, UnitSystem::metric, {cancelled, nobody, kept});
  if (cancelled) return;
  c.simulated = true;
  count_findings(c, all_findings(analysis, &power));
  c.figures = figures_of_coil(c.design, analysis, power);
  if (power.arc && !power.arc->breaks_out && c.trouble.empty()) c.trouble = "nothing breaks out";
  designs_.list_parts(c, analysis);
  hold(c);
  constexpr double by_each_warning = 0.995;
  c.merit = merit(c) * std::pow(by_each_warning, c.warnings);
} catch (const std::exception& error) {
  c.trouble = error.what();
}

void KindSearch::count_findings(CoilCandidate& c, const std::vector<Finding>& findings) {
  c.stops = 0;
  c.warnings = 0;
  for (const Finding& finding : findings) {
    c.warnings += finding.severity == Severity::warning;
    if (finding.severity != Severity::stop) continue;
    if (c.stops++ == 0) c.trouble = finding.title;
  }
}

void KindSearch::hold(CoilCandidate& c) const {
  const CoilFigures& f = c.figures;
  c.misses.merge(passed_limits(brief_, c.design.site, f));
  if (brief_.limits.contains("price")) {
    if (f.price)
      hold_below(c.misses, brief_, "price", *f.price);
    else
      c.misses["price"] = 1; // it cannot be known to be kept
  }
  const auto aim = std::ranges::find(brief_aims(), brief_.aim, &BriefAim::key);
  constexpr double most_windings = 3.5; // beyond it arcs run along the winding (common practice, no source)
  if (c.trouble.empty() && f.arc_high_m > most_windings * c.design.secondary.winding_length_m)
    c.trouble = "arcs too long for its winding";
  if (aim->needs_arcs && c.trouble.empty() && f.arc_high_m <= 0) c.trouble = "nothing breaks out";
}

double KindSearch::merit(const CoilCandidate& c) const {
  const CoilFigures& f = c.figures;
  if (brief_.aim == "smallest") return 1 / (f.height_m * f.floor_diameter_m * f.floor_diameter_m);
  if (brief_.aim == "calmest") return 1 / std::max(f.line_current_a.value_or(f.power_w / 1000), 1e-6);
  if (brief_.aim == "cheapest") {
    double pieces = 0, price = 0;
    for (const PartToBuy& part : c.buy) {
      pieces += part.count;
      price += part.price.value_or(0);
    }
    return 1 / (1 + price + pieces + 100 * f.mass_kg);
  }
  if (brief_.aim == "most-from-shelf") return static_cast<double>(c.owned.size()) + f.arc_high_m / 10;
  if (brief_.aim == "lamp") return 1 / std::max(f.power_w, 1e-3);
  constexpr double in_doubt = 0.6; // it breaks out in the middle of its band only
  return f.arc_low_m > 0 ? f.arc_high_m + 0.1 * f.arc_low_m : in_doubt * f.arc_high_m;
}

} // namespace arc

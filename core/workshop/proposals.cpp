// The search: genes make a design by the rules of its craft; the handbook's sums and the sizes screen thousands;
// what passes is analysed, tuned and simulated in generations that vary the best so far. Bounded by counts, not by
// the clock, so that a seed always gives the same.
#include "workshop/proposals.h"

#include "analysis/analyse.h"
#include "circuit/feed_loads.h"
#include "craft/kind.h"
#include "field/handbook.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "quantity/parallel.h"
#include "quantity/say.h"
#include "workshop/start.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>
#include <set>
#include <stdexcept>

namespace arc {
namespace {

constexpr double never_known = -1;

// What the secondary can be wound on and with; without a name it has to be bought.
struct Form {
  double diameter_m;
  double longest_m;
  std::string name;
};
struct Spool {
  double bare_m, overall_m, longest_m;
  std::string name;
};

constexpr double far = 1e9;
constexpr std::array pipes_m{0.04, 0.05, 0.063, 0.075, 0.09, 0.11, 0.125, 0.16, 0.2, 0.25, 0.315}; // EN 1329-1
constexpr std::array wires_m{0.1,   0.125, 0.15, 0.18, 0.2,  0.224, 0.25, 0.28, 0.315,
                             0.355, 0.4,   0.45, 0.5,  0.56, 0.63,  0.71, 0.8,  1.0}; // mm, IEC 60317-0-1
constexpr std::array<SourcePart, 8> sources{{{0, 5000, 0.03},
                                             {0, 6000, 0.03},
                                             {0, 8000, 0.03},
                                             {0, 9000, 0.03},
                                             {0, 10000, 0.03},
                                             {0, 12000, 0.03},
                                             {0, 12000, 0.06},
                                             {0, 15000, 0.06}}}; // sign and burner classes (common practice)

constexpr std::size_t shape_genes = 8, all_genes = shape_genes + craft_genes;
using Genes = std::array<double, all_genes>;

class Dice {
 public:
  Dice(std::uint64_t seed, std::uint64_t index) : engine_(seed * 0x9e3779b97f4a7c15ULL + index) {}
  double roll() { return static_cast<double>(engine_() >> 11) * 0x1p-53; }

 private:
  std::mt19937_64 engine_;
};

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

using Misses = std::map<std::string, double>; // by which share each limit is passed

struct Candidate {
  Genes genes{};
  Design design;
  ProposalFigures figures;
  Misses misses;
  std::string trouble; // no limit: it cannot be built or simulated, or a stop
  int stops = 0, warnings = 0;
  bool simulated = false;
  double merit = never_known; // larger is better
  std::vector<OwnedPart> owned;
  std::vector<PartToBuy> buy;

  bool good() const { return simulated && misses.empty() && trouble.empty(); }
  double distance() const {
    double sum = trouble.empty() ? 0 : 2 + stops;
    for (const auto& [key, by] : misses) sum += by;
    return simulated ? sum : sum + 10;
  }
};

double in_steps(double value, double step) {
  return std::round(value / step) * step;
}

double up_to_step(double value, double step) {
  return std::ceil(value / step - 1e-9) * step;
}

bool asks_shelf(const Brief& brief, std::string_view group) {
  return std::ranges::count(brief.only_shelf, group) > 0;
}

// The parts of the group that a search may take: those that must be used, or all that there are.
std::vector<const ShelfPart*> allowed_parts(const Brief& brief, std::string_view group) {
  std::vector<const ShelfPart*> all, wanted;
  for (const ShelfPart& part : brief.shelf.of(group)) {
    if (!brief.shelf.owned(part)) continue;
    all.push_back(&part);
    for (const WantedPart& w : brief.must_use)
      if (w.group == group && w.name == part.name) wanted.push_back(&part);
  }
  return wanted.empty() ? all : wanted;
}

bool must_use(const Brief& brief, std::string_view group) {
  return std::ranges::count(brief.must_use, group, &WantedPart::group) > 0;
}

template <typename Candidates>
double enough_arc_m(const Candidates& among) {
  double longest_m = 0;
  for (const Candidate* c : among)
    if (c->good()) longest_m = std::max(longest_m, c->figures.arc_high_m);
  return longest_m / 3;
}

// Searches designs of one kind.
class KindSearch {
 public:
  KindSearch(const Brief& brief, const CoilKind& kind, const ProposeOptions& options)
      : brief_(brief), kind_(kind), seed_(options.seed) {
    const auto site = [&](const char* key, double usual) {
      const auto it = brief.site.find(key);
      return it == brief.site.end() ? usual : it->second;
    };
    const double volts = site("mains_voltage_v", 230), hertz = site("mains_frequency_hz", volts < 180 ? 60 : 50);
    base_ = new_design(kind, volts, hertz);
    take_examples(base_);
    if (brief.site.contains("ceiling_height_m")) base_.site.ceiling_height_m = brief.site.at("ceiling_height_m");
    if (brief.site.contains("wall_distance_m")) base_.site.wall_distance_m = brief.site.at("wall_distance_m");
    gather_forms();
    gather_wires();
    gather_craft_parts();
  }

  const CoilKind& kind() const { return kind_; }
  std::vector<Candidate>& seen() { return seen_; }
  /// Groups that nothing may be bought of and that have nothing that serves.
  const std::set<std::string>& empty_groups() const { return empty_; }

  void run(int rounds, const std::atomic<bool>& cancelled, const std::function<void()>& tell) {
    if (!empty_.empty()) return;
    for (int round = 0; round < rounds && !cancelled; ++round) {
      std::vector<Candidate> batch(batch_size);
      std::vector<const Candidate*> best = ranked();
      if (best.size() > parents) best.resize(parents);
      parallel_for(batch.size(), [&](std::size_t i) {
        if (cancelled) return;
        const auto index = static_cast<std::uint64_t>(round) * batch_size + i + 1;
        Dice dice(seed_, index * 64 + static_cast<std::uint64_t>(kind_.key.size()));
        batch[i] = screened(dice, best, round, rounds);
        if (batch[i].misses.empty() && batch[i].trouble.empty()) evaluate(batch[i], cancelled);
      });
      std::ranges::move(batch, std::back_inserter(seen_));
      if (tell) tell();
    }
  }

  /// Full judgement of a good one, with bands and trials where the kind is quick to simulate.
  void judge(Candidate& c, const std::atomic<bool>& cancelled) const {
    Kept kept(4);
    const Analysis analysis = analyse(c.design, UnitSystem::metric, kept);
    const PowerOptions options{.advice = quick(), .variac = false, .waveforms = false};
    const std::function<void(double)> nobody;
    const PowerAnalysis power =
        analyse_power(c.design, analysis, options, UnitSystem::metric, {cancelled, nobody, kept});
    count_findings(c, all_findings(analysis, &power));
  }

  /// Whether one simulation takes some tens of milliseconds and not half a second.
  bool quick() const { return kind_.key == "spark-gap" || kind_.feed_end == FeedEnd::bus; }

 private:
  static constexpr std::size_t batch_size = 16, parents = 8;
  static constexpr int screenings = 300;

  std::vector<const Candidate*> ranked() const {
    std::vector<const Candidate*> out;
    for (const Candidate& c : seen_)
      if (c.simulated) out.push_back(&c);
    std::ranges::stable_sort(out, [](const Candidate* a, const Candidate* b) {
      const double da = a->distance(), db = b->distance();
      return da != db ? da < db : a->merit > b->merit;
    });
    if (brief_.aim == "calmest") prefer_arcs(out);
    return out;
  }

  // Calm is what makes a third of the longest arc: while that is being found, arcs come first.
  static void prefer_arcs(std::vector<const Candidate*>& best) {
    const double enough_m = enough_arc_m(best);
    std::ranges::stable_partition(best, [&](const Candidate* c) { return c->figures.arc_high_m >= enough_m; });
    if (const auto longest = std::ranges::max_element(
            best, {}, [](const Candidate* c) { return c->good() ? c->figures.arc_high_m : 0; });
        longest != best.end())
      std::rotate(best.begin(), longest, longest + 1);
  }

  // Tries genes until sizes and handbook let them through; the nearest where none do.
  Candidate screened(Dice& dice, const std::vector<const Candidate*>& best, int round, int rounds) const {
    Candidate nearest;
    nearest.trouble = "nothing";
    const double by = 0.35 * (1 - 0.8 * round / std::max(1, rounds));
    for (int i = 0; i < screenings; ++i) {
      Candidate c;
      const bool anew = best.empty() || i % 4 == 3 || dice.roll() < 0.2;
      const auto parent = std::min(
          best.size() - 1, static_cast<std::size_t>(dice.roll() * dice.roll() * static_cast<double>(best.size())));
      c.genes = anew ? rolled(dice) : varied(best[parent]->genes, dice, by);
      build(c);
      if (c.misses.empty() && c.trouble.empty()) return c;
      if (i == 0 || c.distance() < nearest.distance()) nearest = std::move(c);
    }
    return nearest;
  }

  void gather_forms() {
    const auto parts = allowed_parts(brief_, "pipes");
    for (const ShelfPart* part : parts)
      forms_.push_back(
          {part->values.at("outside_diameter_m"), part_value(*part, "length_m").value_or(far), part->name});
    if (!asks_shelf(brief_, "pipes") && !must_use(brief_, "pipes"))
      for (const double d : pipes_m) forms_.push_back({d, far, ""});
    // As wide as the kind is built: a spark gap on a pencil and an exciter on a drum are of no use to anybody.
    const double usual = base_.secondary.form_diameter_m;
    const std::vector<Form> all = forms_;
    std::erase_if(forms_, [&](const Form& f) { return f.diameter_m < 0.4 * usual || f.diameter_m > 2.3 * usual; });
    if (forms_.empty() && (asks_shelf(brief_, "pipes") || must_use(brief_, "pipes"))) forms_ = all;
    std::ranges::stable_sort(forms_, {}, &Form::diameter_m);
    if (forms_.empty()) empty_.insert("pipes");
  }

  void gather_wires() {
    for (const ShelfPart* part : allowed_parts(brief_, "wires"))
      spools_.push_back({part->values.at("bare_diameter_m"), part->values.at("overall_diameter_m"),
                         part_value(*part, "length_m").value_or(far), part->name});
    if (!asks_shelf(brief_, "wires") && !must_use(brief_, "wires"))
      for (const double mm : wires_m)
        spools_.push_back({mm / 1000, overall_diameter_m(mm / 1000, EnamelGrade::grade_1), far, ""});
    if (!kind_.close_wound)
      spools_ = {{base_.secondary.wire_bare_diameter_m, base_.secondary.wire_overall_diameter_m, far, ""}};
    std::ranges::stable_sort(spools_, {}, &Spool::bare_m);
    if (spools_.empty()) empty_.insert("wires");
  }

  void gather_craft_parts() {
    const bool tank = kind_.tank;
    for (const ShelfCapacitor& c : shelf_capacitors(brief_.shelf)) {
      const bool wanted = std::ranges::any_of(
          brief_.must_use, [&](const WantedPart& w) { return w.group == "capacitors" && w.name == c.name; });
      if (c.polarised || (must_use(brief_, "capacitors") && !wanted)) continue;
      parts_.units.push_back({c.capacitance_f, c.voltage_v, c.tolerance, c.count, c.ratings, c.name});
    }
    if (!asks_shelf(brief_, "capacitors") && !must_use(brief_, "capacitors") && base_.tank.unit_capacitance_f) {
      BankUnit usual{*base_.tank.unit_capacitance_f,
                     base_.tank.unit_voltage_v.value_or(2000),
                     base_.tank.unit_tolerance.value_or(usual_capacitor_tolerance),
                     1000,
                     base_.tank.unit_ratings,
                     ""};
      for (const double times : {1.0, 1.5, 0.68}) {
        BankUnit other = usual;
        other.capacitance_f = round_significant(times * usual.capacitance_f, 2);
        parts_.units.push_back(other);
      }
    }
    if (tank && parts_.units.empty()) empty_.insert("capacitors");
    for (const ShelfPart* part : allowed_parts(brief_, "transformers"))
      parts_.sources.push_back({part->values.at("rated_mains_v"), part->values.at("output_v"),
                                part->values.at("short_circuit_a"), part_value(*part, "resistance_ohm"),
                                part->name});
    if (!asks_shelf(brief_, "transformers") && !must_use(brief_, "transformers"))
      for (SourcePart source : sources) {
        source.rated_mains_v = base_.site.mains_voltage_v;
        parts_.sources.push_back(source);
      }
    const bool takes = kind_.feed_end == FeedEnd::tank;
    if (takes && parts_.sources.empty()) empty_.insert("transformers");
    if ((!takes && must_use(brief_, "transformers")) || (!tank && must_use(brief_, "capacitors")))
      empty_.insert("must_use");
    if (asks_shelf(brief_, "transformers") && kind_.feed_end == FeedEnd::plate) empty_.insert("transformers");
  }

  // The design that the genes stand for, screened by its sizes and the handbook.
  void build(Candidate& c) const {
    const auto& g = c.genes;
    Design& d = c.design = base_;
    const Form& form = picked(forms_, g[0]);
    const Spool& spool = picked(spools_, g[1]);
    const double usual_m = base_.secondary.form_diameter_m, scale = form.diameter_m / usual_m;
    d.secondary.form_diameter_m = form.diameter_m;
    d.secondary.base_height_m =
        std::max(0.05, in_steps(base_.secondary.base_height_m * std::max(0.12, g[7]) * std::min(1.0, scale), 0.01));
    shape_topload(d, scale, g);
    if (kind_.close_wound)
      wind(c, form, spool);
    else
      d.secondary.winding_length_m *= 1 + 0.1 * (g[2] - 0.5);
    if (d.secondary.form_length_m || form.longest_m < far)
      d.secondary.form_length_m = std::min(form.longest_m, d.secondary.winding_length_m + 0.04);
    shape_primary(d, scale, g);
    const Overall size = overall_size(d);
    c.figures.height_m = size.height_m;
    c.figures.floor_diameter_m = size.diameter_m;
    below(c, "height_m", size.height_m);
    below(c, "floor_diameter_m", size.diameter_m);
    if (d.site.ceiling_height_m && size.height_m > *d.site.ceiling_height_m)
      c.misses["ceiling_height_m"] = size.height_m / *d.site.ceiling_height_m - 1;
    if (d.site.wall_distance_m && size.diameter_m / 2 > *d.site.wall_distance_m)
      c.misses["wall_distance_m"] = size.diameter_m / 2 / *d.site.wall_distance_m - 1;
    constexpr double doubt = 1.25; // of the handbook's sum
    VaryParts parts = parts_;
    parts.resonance_hz = handbook_hz(d);
    c.figures.resonance_hz = parts.resonance_hz;
    below(c, "resonance_high_hz", parts.resonance_hz / doubt);
    above(c, "resonance_low_hz", parts.resonance_hz * doubt);
    if (!c.misses.empty()) return;
    const CraftGenes own(g.data() + shape_genes, craft_genes);
    if (kind_.vary && !kind_.vary(d, own, parts)) c.trouble = "too few capacitors for one string";
  }

  void below(Candidate& c, const char* key, double value) const {
    const auto it = brief_.limits.find(key);
    if (it != brief_.limits.end() && value > it->second) c.misses[key] = value / it->second - 1;
  }
  void above(Candidate& c, const char* key, double value) const {
    const auto it = brief_.limits.find(key);
    if (it != brief_.limits.end() && value < it->second) c.misses[key] = it->second / std::max(value, 1e-9) - 1;
  }

  // Close, by hand: three to six times as long as wide (common practice), as far as pipe, spool and height go.
  void wind(Candidate& c, const Form& form, const Spool& spool) const {
    constexpr double bare_ends_m = 0.024, packing = 1 - hand_winding_allowance, wire_to_spare = 0.98;
    Secondary& s = c.design.secondary;
    s.wire_bare_diameter_m = spool.bare_m;
    s.wire_overall_diameter_m = spool.overall_m;
    double long_m = between(c.genes[2], 3, 6) * form.diameter_m;
    const double on_pipe_m = form.longest_m - bare_ends_m;
    const double turn_m = std::numbers::pi * (form.diameter_m + spool.overall_m);
    const double off_spool_m = wire_to_spare * spool.longest_m / turn_m * spool.overall_m / packing;
    double room_m = far;
    if (const auto limit = brief_.limits.find("height_m"); limit != brief_.limits.end()) {
      const double over_m = overall_size(c.design).height_m - s.base_height_m - s.winding_length_m;
      room_m = limit->second - s.base_height_m - std::max(0.0, over_m);
    }
    const double least_m = 3 * form.diameter_m;
    long_m = std::min({long_m, on_pipe_m, off_spool_m, room_m});
    if (on_pipe_m < least_m && form.longest_m < far) c.misses["pipes"] = least_m / std::max(on_pipe_m, 1e-3) - 1;
    if (off_spool_m < least_m) c.misses["wires"] = least_m / std::max(off_spool_m, 1e-3) - 1;
    if (room_m < least_m) c.misses["height_m"] = (least_m - room_m) / brief_.limits.at("height_m");
    long_m = std::max(long_m, 0.5 * form.diameter_m);
    s.turns = std::max(10.0, std::floor(packing * long_m / spool.overall_m));
    s.winding_length_m = up_to_step(s.turns * spool.overall_m / packing, 0.0005);
  }

  void shape_topload(Design& d, double scale, const Genes& g) const {
    for (ToploadPart& part : d.topload.own()) {
      part.outer_diameter_m =
          std::max(0.05, in_steps(part.outer_diameter_m * scale * log_between(g[3], 0.55, 1.6), 0.01));
      part.tube_diameter_m = std::max(0.015, in_steps(part.outer_diameter_m * between(g[4], 0.18, 0.3), 0.005));
      part.centre_above_winding_m =
          in_steps(part.tube_diameter_m / 2 + 0.25 * scale * base_.secondary.form_diameter_m * 0.6, 0.005);
    }
  }

  void shape_primary(Design& d, double scale, const Genes& g) const {
    const Primary& usual = base_.primary;
    const double gentle = std::clamp(std::pow(scale, 0.7), 0.6, 1.7);
    const double clear_m = usual.inner_radius_m - base_.secondary.form_diameter_m / 2;
    d.primary.inner_radius_m =
        in_steps(d.secondary.form_diameter_m / 2 + clear_m * gentle * between(g[5], 0.8, 1.6), 0.001);
    d.primary.pitch_m = in_steps(usual.pitch_m * gentle, 0.0001);
    d.primary.conductor_diameter_m = std::max(0.001, in_steps(usual.conductor_diameter_m * gentle, 0.0005));
    d.primary.pitch_m = std::max(d.primary.pitch_m, 1.5 * d.primary.conductor_diameter_m);
    const double above_base_m = (usual.base_height_m - base_.secondary.base_height_m) * scale +
                                between(g[6], -0.4, 0.5) * d.secondary.form_diameter_m;
    d.primary.base_height_m = std::max(0.03, in_steps(d.secondary.base_height_m + above_base_m, 0.001));
  }

  // Of one circuit: current sheet's inductance, winding's and toploads' capacitances.
  static double handbook_hz(const Design& d) {
    const Secondary& s = d.secondary;
    const double across_m = s.form_diameter_m + s.wire_overall_diameter_m;
    const double henry = wheeler_helix_h(across_m / 2, s.turns, s.winding_length_m);
    double farad = medhurst_capacitance_f(s.winding_length_m, across_m);
    for (const ToploadPart& part : d.topload) {
      const ToploadShape* shape = topload_shape(part.shape);
      if (shape && shape->exact_capacitance_f)
        farad += 0.75 * shape->exact_capacitance_f(part).value_or(0); // near the winding
    }
    return 1 / (2 * std::numbers::pi * std::sqrt(henry * farad));
  }

  // The tap by the field solution; the primary ends a turn beyond it.
  bool tune(Design& d, Kept& kept, Analysis& analysis) const {
    constexpr double least_turns = 3, spare = 1;
    const double most_turns = d.primary.shape == PrimaryShape::flat ? 22 : 60;
    d.primary.turns = most_turns;
    d.primary.tap_turns = most_turns / 2;
    for (int pass = 0; pass < 2; ++pass) {
      analysis = analyse_untried(d, UnitSystem::metric, false, kept);
      if (!analysis.tuned_tap_turns) return false;
      d.primary.tap_turns = in_steps(*analysis.tuned_tap_turns, 0.01);
      d.primary.turns = std::ceil(d.primary.tap_turns + spare);
      if (d.primary.tap_turns < least_turns || d.primary.turns > most_turns) return false;
    }
    analysis = analyse_untried(d, UnitSystem::metric, false, kept);
    if (!analysis.tuned_tap_turns) return false;
    d.primary.tap_turns = in_steps(*analysis.tuned_tap_turns, 0.01);
    analysis = analyse_untried(d, UnitSystem::metric, false, kept);
    return true;
  }

  void evaluate(Candidate& c, const std::atomic<bool>& cancelled) const try {
    Kept kept(4);
    Analysis analysis;
    if (kind_.suit_feed) kind_.suit_feed(c.design);
    if (kind_.tank) {
      if (!tune(c.design, kept, analysis)) {
        c.trouble = "no tap tunes the tank";
        return;
      }
    } else {
      analysis = analyse_untried(c.design, UnitSystem::metric, false, kept);
    }
    if (!analysis.problem.empty() || !analysis.resonator) {
      c.trouble = analysis.problem.empty() ? "no resonance" : analysis.problem;
      return;
    }
    ProposalFigures& f = c.figures;
    f.resonance_hz = analysis.best_mode_1_hz;
    const Overall size = overall_size(c.design);
    f.height_m = size.height_m;
    f.floor_diameter_m = size.diameter_m;
    below(c, "resonance_high_hz", f.resonance_hz);
    above(c, "resonance_low_hz", f.resonance_hz);
    below(c, "height_m", f.height_m);
    below(c, "floor_diameter_m", f.floor_diameter_m);
    const PowerOptions options{.advice = false, .variac = false, .waveforms = false};
    const std::function<void(double)> nobody;
    const PowerAnalysis power =
        analyse_power(c.design, analysis, options, UnitSystem::metric, {cancelled, nobody, kept});
    if (cancelled) return;
    c.simulated = true;
    count_findings(c, all_findings(analysis, &power));
    f.power_w = power.drive.input_w;
    f.drive_hz = power.drive.frequency_hz;
    f.highest_v = std::max(power.drive.primary_peak_v, analysis.tank_peak_v);
    if (power.arc && power.arc->breaks_out) {
      f.arc_low_m = power.arc->length_m.low;
      f.arc_high_m = power.arc->length_m.high;
    }
    if (const FeedLoads* loads = power.part ? power.part->feed() : nullptr; loads && loads->line_current_a > 0)
      f.line_current_a = loads->line_current_a;
    f.mass_kg = analysis.wire_mass_kg + primary_mass_kg(c.design, analysis);
    f.winding_hours = c.design.secondary.turns / turns_an_hour;
    list_parts(c, analysis);
    hold(c);
    c.merit = merit(c);
  } catch (const std::exception& error) {
    c.trouble = error.what();
  }

  // A conductor of 3 mm and more is tubing of 1 mm wall.
  static double primary_mass_kg(const Design& d, const Analysis& analysis) {
    const double mm = d.primary.conductor_diameter_m * 1000;
    const double whole_kg = wire_mass_kg(d.primary.conductor_diameter_m, analysis.primary_wire_length_m);
    return mm < 3 ? whole_kg : whole_kg * (1 - (mm - 2) * (mm - 2) / (mm * mm));
  }
  static constexpr double turns_an_hour = 1200; // by crank (common practice, no source)

  static void count_findings(Candidate& c, const std::vector<Finding>& findings) {
    c.stops = 0;
    c.warnings = 0;
    for (const Finding& finding : findings) {
      c.warnings += finding.severity == Severity::warning;
      if (finding.severity != Severity::stop) continue;
      if (c.stops++ == 0) c.trouble = finding.title;
    }
  }

  void hold(Candidate& c) const {
    const ProposalFigures& f = c.figures;
    if (f.line_current_a) below(c, "line_current_a", *f.line_current_a);
    below(c, "driver_high_hz", f.drive_hz);
    above(c, "driver_low_hz", f.drive_hz);
    below(c, "highest_voltage_v", f.highest_v);
    above(c, "arc_length_m", f.arc_low_m);
    if (brief_.limits.contains("price")) {
      if (f.price)
        below(c, "price", *f.price);
      else
        c.misses["price"] = 1; // it cannot be known to be kept
    }
    const Site& site = c.design.site;
    const auto beyond = [&](const char* key, const std::optional<double>& room_m, double taken_m) {
      if (room_m && taken_m + f.arc_high_m > *room_m) c.misses[key] = (taken_m + f.arc_high_m) / *room_m - 1;
    };
    beyond("ceiling_height_m", site.ceiling_height_m, f.height_m);
    beyond("wall_distance_m", site.wall_distance_m, f.floor_diameter_m / 2);
    const auto aim = std::ranges::find(brief_aims(), brief_.aim, &BriefAim::key);
    const bool makes_arcs = kind_.arc_of_winding > 0 || kind_.flame_at_tip;
    if (aim->needs_arcs && c.trouble.empty() && f.arc_high_m <= 0) c.trouble = "nothing breaks out";
    if (!aim->needs_arcs && makes_arcs && c.trouble.empty() && f.arc_high_m <= 0) c.trouble = "nothing breaks out";
  }

  double merit(const Candidate& c) const {
    const ProposalFigures& f = c.figures;
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
    return f.arc_high_m;
  }

  void list_parts(Candidate& c, const Analysis& analysis) const {
    const Secondary& s = c.design.secondary;
    const Form& form = picked(forms_, c.genes[0]);
    const Spool& spool = picked(spools_, c.genes[1]);
    take(c, "pipes", form.name, 1,
         fmt::format("pipe, {:.0f} mm outside, {:.2f} m", form.diameter_m * 1000, s.winding_length_m + 0.04));
    take(c, "wires", kind_.close_wound ? spool.name : "", 1,
         fmt::format("{:.3g} mm enamelled copper wire, {:.0f} m", s.wire_bare_diameter_m * 1000,
                     std::ceil(analysis.wire_length_m)));
    if (kind_.tank) {
      const Tank& tank = c.design.tank;
      const auto unit = std::ranges::find_if(parts_.units, [&](const BankUnit& u) {
        return u.capacitance_f == tank.unit_capacitance_f && u.voltage_v == tank.unit_voltage_v;
      });
      take(c, "capacitors", unit == parts_.units.end() ? "" : unit->name,
           static_cast<int>(tank.units_in_series * tank.units_in_parallel),
           fmt::format("{}, {}",
                       format_quantity(*tank.unit_capacitance_f, Dimension::capacitance, UnitSystem::metric, 3),
                       format_quantity(*tank.unit_voltage_v, Dimension::voltage, UnitSystem::metric, 3)));
    }
    for (const FeedBlock& block : c.design.feed) {
      if (block.kind != "transformer") continue;
      const auto source = std::ranges::find_if(parts_.sources, [&](const SourcePart& p) {
        return p.output_v == block_value(block, "output_v") &&
               p.short_circuit_a == block_value(block, "short_circuit_a");
      });
      take(c, "transformers", source == parts_.sources.end() ? "" : source->name, 1,
           fmt::format(
               "transformer, {} and {}",
               format_quantity(block_value(block, "output_v"), Dimension::voltage, UnitSystem::metric, 3),
               format_quantity(block_value(block, "short_circuit_a"), Dimension::current, UnitSystem::metric, 3)));
    }
    buy(c, "tubing",
        fmt::format("{:.3g} mm conductor of the primary, {:.1f} m", c.design.primary.conductor_diameter_m * 1000,
                    analysis.primary_wire_length_m),
        1);
    for (const ToploadPart& part : c.design.topload)
      buy(c, "toploads",
          fmt::format("toroid, {:.0f} by {:.0f} mm", part.outer_diameter_m * 1000, part.tube_diameter_m * 1000), 1);
    double sum = 0;
    bool known = true;
    for (const PartToBuy& part : c.buy) {
      known = known && part.price;
      sum += part.price.value_or(0);
    }
    if (known) c.figures.price = sum;
  }

  void take(Candidate& c, const char* group, const std::string& name, int count, const std::string& what) const {
    if (name.empty())
      buy(c, group, what, count);
    else
      c.owned.push_back({group, name, count});
  }
  static void buy(Candidate& c, const char* group, const std::string& what, int count) {
    c.buy.push_back({group, what, count, {}});
  }

  const Brief& brief_;
  const CoilKind& kind_;
  std::uint64_t seed_;
  Design base_;
  std::vector<Form> forms_;
  std::vector<Spool> spools_;
  VaryParts parts_;
  std::set<std::string> empty_;
  std::vector<Candidate> seen_;
};

// Figures by which two designs differ.
std::array<double, 8> figures_to_tell_apart(const Candidate& c) {
  const ProposalFigures& f = c.figures;
  return {f.height_m,
          f.floor_diameter_m,
          f.resonance_hz,
          f.line_current_a.value_or(1),
          f.arc_high_m,
          c.design.secondary.turns,
          c.design.secondary.form_diameter_m,
          f.power_w};
}

bool alike(const Candidate& a, const Candidate& b) {
  constexpr double different = 0.1; // relative; 8 % is asked
  if (a.design.kind != b.design.kind) return false;
  const auto of_a = figures_to_tell_apart(a), of_b = figures_to_tell_apart(b);
  for (std::size_t i = 0; i + 1 < of_a.size(); ++i) // the power follows from the others
    if (std::abs(std::log(std::max(of_a[i], 1e-9) / std::max(of_b[i], 1e-9))) >= different) return false;
  return true;
}

struct Character {
  const char* name;
  double (*worth)(const Candidate&); // the largest has it
  const char* because;
};

constexpr std::array<Character, 7> characters{
    {{"Longest arc", [](const Candidate& c) { return c.figures.arc_high_m; }, "no other reaches as far"},
     {"Smallest",
      [](const Candidate& c) {
        return -c.figures.height_m * c.figures.floor_diameter_m * c.figures.floor_diameter_m;
      },
      "no other takes as little room"},
     {"Least line current",
      [](const Candidate& c) { return -c.figures.line_current_a.value_or(c.figures.power_w / 1000); },
      "no other asks as little of the line"},
     {"Most from the shelf",
      [](const Candidate& c) { return static_cast<double>(c.owned.size()) - static_cast<double>(c.buy.size()); },
      "no other needs less to be bought"},
     {"Quickest to wind", [](const Candidate& c) { return -c.design.secondary.turns; },
      "no other has as few turns"},
     {"Most arc for its power",
      [](const Candidate& c) { return c.figures.arc_high_m / std::sqrt(std::max(c.figures.power_w, 1.0)); },
      "no other makes more arc of its watts"},
     {"Lowest frequency", [](const Candidate& c) { return -c.figures.resonance_hz; },
      "no other runs as low: calmer switching and wider parts"}}};

std::string said(const Candidate& c, const Character* character, const std::string& aim, std::size_t of) {
  const ProposalFigures& f = c.figures;
  const auto text = [](double value, Dimension dimension) {
    return format_quantity(value, dimension, UnitSystem::metric, 2);
  };
  std::string figures = text(f.height_m, Dimension::length) + " high";
  if (f.arc_high_m > 0)
    figures = fmt::format("arcs of {} to {}, {}", text(f.arc_low_m, Dimension::length),
                          text(f.arc_high_m, Dimension::length), figures);
  if (f.line_current_a) figures += fmt::format(", {} from the line", text(*f.line_current_a, Dimension::current));
  return fmt::format("Of {} designs that keep the brief, {}: {}.", of, character ? character->because : aim,
                     figures);
}

std::string words_of_aim(std::string_view key) {
  return std::string(std::ranges::find(brief_aims(), key, &BriefAim::key)->title);
}

// The best by the aim, then those of other character that differ from all before.
std::vector<std::pair<const Candidate*, const Character*>> chosen(const std::vector<Candidate*>& good, int count) {
  std::vector<std::pair<const Candidate*, const Character*>> out;
  const auto take = [&](const Candidate* c, const Character* character) {
    if (static_cast<int>(out.size()) >= count) return;
    if (std::ranges::none_of(out, [&](const auto& o) { return alike(*o.first, *c); }))
      out.emplace_back(c, character);
  };
  take(good.front(), nullptr);
  for (const Character& character : characters) {
    const auto best = std::ranges::max_element(good, {}, [&](const Candidate* c) { return character.worth(*c); });
    take(*best, &character);
  }
  for (const Candidate* c : good) take(c, nullptr);
  return out;
}

struct Searched {
  std::vector<std::unique_ptr<KindSearch>> searches;
  std::vector<Candidate*> good; // best by the aim first
  int tried = 0;
};

// `share` of the usual work.
Searched search(const Brief& brief, const ProposeOptions& options, double share, const std::atomic<bool>& cancelled,
                const std::function<void(double)>& progress) {
  const auto aim = std::ranges::find(brief_aims(), brief.aim, &BriefAim::key);
  Searched out;
  for (const CoilKind* kind : coil_kinds()) {
    const bool named = std::ranges::count(brief.kinds, kind->key) > 0;
    const bool serves = aim->kinds.empty() || std::ranges::count(aim->kinds, kind->key) > 0;
    if (brief.kinds.empty() ? serves && kind->vary : named)
      out.searches.push_back(std::make_unique<KindSearch>(brief, *kind, options));
  }
  const bool many = out.searches.size() > 2;
  std::vector<int> rounds;
  int all = 0, done = 0;
  for (const auto& one : out.searches) {
    constexpr int quick_rounds = 10, quick_of_many = 5, slow_rounds = 3;
    const int usual = one->quick() ? (many ? quick_of_many : quick_rounds) : (many ? 1 : slow_rounds);
    rounds.push_back(std::max(1, static_cast<int>(std::lround(share * usual))));
    all += rounds.back();
  }
  for (std::size_t i = 0; i < out.searches.size(); ++i)
    out.searches[i]->run(rounds[i], cancelled, [&] {
      if (progress) progress(static_cast<double>(++done) / all);
    });
  for (const auto& one : out.searches)
    for (Candidate& c : one->seen()) {
      out.tried += c.simulated;
      if (c.good()) out.good.push_back(&c);
    }
  if (brief.aim == "calmest") {
    const double enough_m = enough_arc_m(out.good);
    std::erase_if(out.good, [&](const Candidate* c) { return c->figures.arc_high_m < enough_m; });
  }
  std::ranges::stable_sort(out.good, std::ranges::greater{}, &Candidate::merit);
  return out;
}

// The figure that a limit is on.
std::optional<double> figure_under(const std::string& limit, const ProposalFigures& f) {
  const std::map<std::string, std::optional<double>> all{
      {"line_current_a", f.line_current_a},     {"height_m", f.height_m},
      {"floor_diameter_m", f.floor_diameter_m}, {"resonance_low_hz", f.resonance_hz},
      {"resonance_high_hz", f.resonance_hz},    {"driver_low_hz", f.drive_hz},
      {"driver_high_hz", f.drive_hz},           {"arc_length_m", f.arc_low_m},
      {"highest_voltage_v", f.highest_v},       {"price", f.price}};
  const auto it = all.find(limit);
  return it == all.end() ? std::nullopt : it->second;
}

// All that the brief asks for, each of which can be left out.
std::vector<std::string> asked(const Brief& brief) {
  std::vector<std::string> out;
  for (const auto& [key, value] : brief.limits) out.push_back(key);
  for (const std::string& group : brief.only_shelf) out.push_back(group);
  for (const char* key : {"ceiling_height_m", "wall_distance_m"})
    if (brief.site.contains(key)) out.emplace_back(key);
  if (!brief.must_use.empty()) out.emplace_back("must_use");
  return out;
}

Brief without(Brief brief, const std::string& limit) {
  brief.limits.erase(limit);
  std::erase(brief.only_shelf, limit);
  if (limit == "ceiling_height_m" || limit == "wall_distance_m") brief.site.erase(limit);
  if (limit == "must_use") brief.must_use.clear();
  return brief;
}

// What fights: the limits that a design comes free by, each tried; else all that the nearest designs pass.
std::vector<BriefRefusal> refusals(const Brief& brief, const ProposeOptions& options, const Searched& searched,
                                   const std::atomic<bool>& cancelled) {
  std::vector<std::string> kinds;
  std::set<std::string> missed;
  std::map<std::string, double> nearest;
  for (const auto& one : searched.searches) {
    kinds.emplace_back(one->kind().key);
    missed.insert(one->empty_groups().begin(), one->empty_groups().end());
    for (const Candidate& c : one->seen())
      for (const auto& [key, by] : c.misses) {
        missed.insert(key);
        const auto limit = brief.limits.find(key);
        if (limit == brief.limits.end()) continue;
        const bool least = brief_limit(key)->least;
        const double came = least ? limit->second / (1 + by) : limit->second * (1 + by);
        const auto [at, is_new] = nearest.emplace(key, came);
        if (!is_new) at->second = least ? std::max(at->second, came) : std::min(at->second, came);
      }
  }
  std::vector<BriefRefusal> freeing, passed;
  for (const std::string& limit : asked(brief)) {
    if (!missed.contains(limit) || cancelled) continue;
    BriefRefusal refusal{limit, kinds, {}, {}};
    if (nearest.contains(limit)) refusal.nearest = nearest.at(limit);
    const Searched free = search(without(brief, limit), options, 1, cancelled, {});
    if (free.good.empty()) {
      passed.push_back(refusal);
      continue;
    }
    if (const BriefLimit* row = brief_limit(limit)) {
      std::optional<double> to;
      for (const Candidate* c : free.good)
        if (const auto value = figure_under(limit, c->figures))
          to = !to ? *value : row->least ? std::max(*to, *value) : std::min(*to, *value);
      for (const double slack : {1.02, 1.2}) { // a search within it may end elsewhere
        if (!to || refusal.relax_to) break;
        Brief relaxed = brief;
        relaxed.limits[limit] = round_significant(row->least ? *to / slack : *to * slack, 3);
        if (!search(relaxed, options, 1, cancelled, {}).good.empty()) refusal.relax_to = relaxed.limits[limit];
      }
    }
    freeing.push_back(refusal);
  }
  if (!freeing.empty()) return freeing;
  if (!passed.empty()) return passed;
  for (const std::string& limit : asked(brief)) passed.push_back({limit, kinds, {}, {}});
  return passed;
}

} // namespace

Overall overall_size(const Design& design) {
  const Secondary& s = design.secondary;
  const double top_m = s.base_height_m + s.winding_length_m;
  Overall out{top_m, s.form_diameter_m};
  for (const ToploadPart& part : design.topload) {
    const Extent extent = topload_extent(part);
    out.height_m = std::max(out.height_m, top_m + extent.highest_m);
    out.diameter_m = std::max(out.diameter_m, 2 * extent.radius_m);
  }
  const Primary& p = design.primary;
  const double degrees = p.shape == PrimaryShape::flat ? 0 : p.shape == PrimaryShape::helix ? 90 : p.cone_angle_deg;
  const double outer_m = p.inner_radius_m + std::cos(degrees * std::numbers::pi / 180) * p.turns * p.pitch_m +
                         p.conductor_diameter_m / 2;
  out.diameter_m = std::max(out.diameter_m, 2 * outer_m);
  return out;
}

Proposals propose(const Brief& brief, const ProposeOptions& options, const std::atomic<bool>& cancelled,
                  const std::function<void(double)>& progress) {
  if (const std::string wrong = unusable_part(brief); !wrong.empty()) throw std::invalid_argument(wrong);
  Searched searched = search(brief, options, 1, cancelled, progress);
  Proposals out;
  out.tried = searched.tried;
  std::set<const Candidate*> judged;
  std::vector<std::pair<const Candidate*, const Character*>> picks;
  while (!searched.good.empty()) {
    picks = chosen(searched.good, options.count);
    std::vector<Candidate*> open;
    for (Candidate* c : searched.good)
      if (!judged.contains(c) && std::ranges::any_of(picks, [&](const auto& p) { return p.first == c; }))
        open.push_back(c);
    if (open.empty()) break;
    for (Candidate* c : open) {
      const auto of = std::ranges::find_if(searched.searches,
                                           [&](const auto& one) { return one->kind().key == c->design.kind; });
      (*of)->judge(*c, cancelled);
      judged.insert(c);
    }
    std::erase_if(searched.good, [](const Candidate* c) { return !c->good(); });
    picks.clear();
  }
  for (const auto& [c, character] : picks) {
    Proposal p{.name = {},
               .character = character ? character->name : words_of_aim(brief.aim),
               .reason = {},
               .design = c->design,
               .figures = c->figures,
               .owned = c->owned,
               .buy = c->buy,
               .stops = c->stops,
               .warnings = c->warnings};
    const auto same = std::ranges::count(out.proposals, p.character, &Proposal::character);
    if (same > 0) p.character = "Another way"; // as good, and different
    p.name = fmt::format("{}, {}", brief.name, p.character);
    p.reason = said(*c, character, "one of the best by the aim", searched.good.size());
    p.design.name = p.name;
    Json asked_for = Json::parse(write_brief(brief));
    asked_for.erase("format");
    asked_for.erase("version");
    asked_for.erase("shelf");
    p.design.unknown.set("brief", asked_for);
    out.proposals.push_back(std::move(p));
  }
  if (out.proposals.empty())
    out.refused = refusals(brief, options, searched, cancelled);
  else if (out.proposals.size() < 3)
    out.few = fmt::format("Of {} designs that keep the brief, {} differ by a tenth in any figure.",
                          searched.good.size(), out.proposals.size());
  return out;
}

Json proposals_json(const Proposals& proposals, const ProposeOptions& options, double seconds) {
  Json out{{"format", "high-arc-proposals"}, {"version", 1},
           {"seed", options.seed},           {"seconds", seconds},
           {"tried", proposals.tried},       {"proposals", Json::array()},
           {"refused", Json::array()}};
  const auto given = [](const std::optional<double>& value) { return value ? Json(*value) : Json(); };
  for (const Proposal& p : proposals.proposals) {
    const ProposalFigures& f = p.figures;
    Json one{{"name", p.name},
             {"character", p.character},
             {"reason", p.reason},
             {"design", Json::parse(write_design(p.design))},
             {"figures",
              {{"arc_low_m", f.arc_low_m},
               {"arc_high_m", f.arc_high_m},
               {"power_w", f.power_w},
               {"line_current_a", given(f.line_current_a)},
               {"height_m", f.height_m},
               {"floor_diameter_m", f.floor_diameter_m},
               {"resonance_hz", f.resonance_hz},
               {"price", given(f.price)},
               {"mass_kg", f.mass_kg},
               {"winding_hours", f.winding_hours}}},
             {"owned", Json::array()},
             {"buy", Json::array()},
             {"stops", p.stops},
             {"warnings", p.warnings}};
    for (const OwnedPart& part : p.owned)
      one["owned"].push_back({{"group", part.group}, {"name", part.name}, {"count", part.count}});
    for (const PartToBuy& part : p.buy)
      one["buy"].push_back({{"group", part.group},
                            {"what", part.what},
                            {"count", part.count},
                            {"price", given(part.price)},
                            {"unpriced", part.price ? 0 : part.count}});
    out["proposals"].push_back(std::move(one));
  }
  for (const BriefRefusal& r : proposals.refused)
    out["refused"].push_back(
        {{"limit", r.limit}, {"of", r.kinds}, {"nearest", given(r.nearest)}, {"relax_to", given(r.relax_to)}});
  if (!proposals.few.empty()) out["few"] = proposals.few;
  return out;
}

} // namespace arc

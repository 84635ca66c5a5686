// The coil from its genes.
#include "workshop/proposed_designs.h"

#include "analysis/analyse.h"
#include "field/handbook.h"
#include "file/examples.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "workshop/start.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {
namespace {

constexpr double far = 1e9;
constexpr std::array pipes_m{0.04, 0.05, 0.063, 0.075, 0.09, 0.11, 0.125, 0.16, 0.2, 0.25, 0.315}; // EN 1329-1
constexpr std::array wires_m{0.1,   0.125, 0.15, 0.18, 0.2,  0.224, 0.25, 0.28, 0.315,
                             0.355, 0.4,   0.45, 0.5,  0.56, 0.63,  0.71, 0.8,  1.0}; // mm, IEC 60317-0-1
const std::array<SourcePart, 8> sources{{{0, 5000, 0.03},
                                         {0, 6000, 0.03},
                                         {0, 8000, 0.03},
                                         {0, 9000, 0.03},
                                         {0, 10000, 0.03},
                                         {0, 12000, 0.03},
                                         {0, 12000, 0.06},
                                         {0, 15000, 0.06}}}; // sign and burner classes (common practice)

double in_steps(double value, double step) {
  return std::round(value / step) * step;
}

double up_to_step(double value, double step) {
  return std::ceil(value / step - 1e-9) * step;
}

bool asks_shelf(const Brief& brief, std::string_view group) {
  return std::ranges::count(brief.only_shelf, group) > 0;
}

bool must_use(const Brief& brief, std::string_view group) {
  return std::ranges::count(brief.must_use, group, &WantedPart::group) > 0;
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
  return must_use(brief, group) ? wanted : all;
}

} // namespace

ProposedDesigns::ProposedDesigns(const Brief& brief, const CoilKind& kind) : brief_(brief), kind_(kind) {
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
  gather_tubing_and_toploads();
  gather_craft_parts();
  gather_devices();
}

void ProposedDesigns::gather_forms() {
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

void ProposedDesigns::gather_wires() {
  for (const ShelfPart* part : allowed_parts(brief_, "wires"))
    spools_.push_back({part->values.at("bare_diameter_m"), part->values.at("overall_diameter_m"),
                       part_value(*part, "length_m").value_or(far), part->name});
  if (!asks_shelf(brief_, "wires") && !must_use(brief_, "wires"))
    for (const double mm : wires_m)
      spools_.push_back({mm / 1000, overall_diameter_m(mm / 1000, EnamelGrade::grade_1), far, ""});
  if (!kind_.close_wound) { // a few turns of stout wire
    constexpr double stout_m = 0.001;
    std::erase_if(spools_, [](const Spool& spool) { return spool.bare_m < stout_m || spool.name.empty(); });
    if (spools_.empty() && !asks_shelf(brief_, "wires"))
      spools_ = {{base_.secondary.wire_bare_diameter_m, base_.secondary.wire_overall_diameter_m, far, ""}};
  }
  std::ranges::stable_sort(spools_, {}, &Spool::bare_m);
  if (spools_.empty()) empty_.insert("wires");
}

// Of the shelf only where that is asked: else the primary and the topload are made for the coil.
void ProposedDesigns::gather_tubing_and_toploads() {
  if (asks_shelf(brief_, "tubing") || must_use(brief_, "tubing")) {
    for (const ShelfPart* part : allowed_parts(brief_, "tubing"))
      conductors_.push_back(
          {part->values.at("outside_diameter_m"), part_value(*part, "length_m").value_or(far), part->name});
    if (conductors_.empty()) empty_.insert("tubing");
  }
  if (asks_shelf(brief_, "toploads") || must_use(brief_, "toploads")) {
    for (const ShelfPart* part : allowed_parts(brief_, "toploads"))
      toroids_.push_back({part->values.at("outer_diameter_m"), part->values.at("tube_diameter_m"), part->name});
    const bool has_one = !base_.topload.empty();
    if (has_one && toroids_.empty()) empty_.insert("toploads");
    if (!has_one && must_use(brief_, "toploads")) empty_.insert("must_use");
  }
}

void ProposedDesigns::gather_craft_parts() {
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
  constexpr double least_rated = 0.85; // of the mains; less would be driven beyond what its core bears
  for (const ShelfPart* part : allowed_parts(brief_, "transformers"))
    if (part->values.at("rated_mains_v") >= least_rated * base_.site.mains_voltage_v)
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
  for (const std::string_view group : groups_of_proposals()) // a coil has one of each
    if (std::ranges::count(brief_.must_use, group, &WantedPart::group) > 1) empty_.insert("must_use");
  if (asks_shelf(brief_, "transformers") && kind_.feed_end == FeedEnd::plate) empty_.insert("transformers");
}

// Oven transformers kill at once: only where the brief names them.
void ProposedDesigns::gather_devices() {
  for (const ShelfGroup& group : shelf_groups()) {
    if (!group.takes) continue;
    const bool only = asks_shelf(brief_, group.key) || must_use(brief_, group.key);
    if (group.takes(base_) == 0) {
      if (must_use(brief_, group.key)) empty_.insert("must_use");
      continue;
    }
    if (group.key == "ovens" && !only) continue;
    DevicePool pool{&group, allowed_parts(brief_, group.key), !only};
    if (only && pool.owned.empty()) empty_.insert(std::string(group.key));
    devices_.push_back(std::move(pool));
  }
}

const ShelfPart* ProposedDesigns::device_of(const CoilCandidate& c, std::size_t pool) const {
  const DevicePool& from = devices_[pool];
  const double gene = c.genes[shape_genes + craft_genes + pool];
  const std::size_t there = from.owned.size() + (from.usual ? 1 : 0);
  const std::size_t at = std::min(there - 1, static_cast<std::size_t>(gene * static_cast<double>(there)));
  return at < from.owned.size() ? from.owned[at] : nullptr;
}

// The design that the genes stand for, screened by its sizes and the handbook.
void ProposedDesigns::build(CoilCandidate& c) const {
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
  else {
    d.secondary.wire_bare_diameter_m = spool.bare_m;
    d.secondary.wire_overall_diameter_m = spool.overall_m;
    d.secondary.winding_length_m *= 1 + 0.1 * (g[2] - 0.5);
  }
  if (d.secondary.form_length_m || form.longest_m < far)
    d.secondary.form_length_m = std::min(form.longest_m, d.secondary.winding_length_m + 0.04);
  shape_primary(d, scale, g);
  const Overall size = overall_size(d);
  c.figures.height_m = size.height_m;
  c.figures.floor_diameter_m = size.diameter_m;
  hold_below(c.misses, brief_, "height_m", size.height_m);
  hold_below(c.misses, brief_, "floor_diameter_m", size.diameter_m);
  if (d.site.ceiling_height_m && size.height_m > *d.site.ceiling_height_m)
    c.misses["ceiling_height_m"] = size.height_m / *d.site.ceiling_height_m - 1;
  if (d.site.wall_distance_m && size.diameter_m / 2 > *d.site.wall_distance_m)
    c.misses["wall_distance_m"] = size.diameter_m / 2 / *d.site.wall_distance_m - 1;
  constexpr double doubt = 1.25; // of the handbook's sum
  VaryParts parts = parts_;
  parts.resonance_hz = handbook_hz(d);
  c.figures.resonance_hz = parts.resonance_hz;
  hold_below(c.misses, brief_, "resonance_high_hz", parts.resonance_hz / doubt);
  hold_above(c.misses, brief_, "resonance_low_hz", parts.resonance_hz * doubt);
  if (!c.misses.empty()) return;
  const CraftGenes own(g.data() + shape_genes, craft_genes);
  if (kind_.vary && !kind_.vary(d, own, parts)) c.trouble = "too few capacitors for one string";
  for (std::size_t i = 0; i < devices_.size(); ++i)
    if (const ShelfPart* part = device_of(c, i)) {
      devices_[i].group->use(*part, d);
      if (part_count(*part) < devices_[i].group->takes(d))
        c.trouble = fmt::format("too few {}", devices_[i].group->title);
    }
}

void ProposedDesigns::wind(CoilCandidate& c, const Form& form, const Spool& spool) const {
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
  // Of bought wire as many turns as such coils have (common practice, no source).
  const double share = s.turns / base_.secondary.turns;
  if (spool.name.empty() && (share < 0.5 || share > 1.9)) c.trouble = "too few or too many turns";
  s.winding_length_m = up_to_step(s.turns * spool.overall_m / packing, 0.0005);
}

void ProposedDesigns::shape_topload(Design& d, double scale, const Genes& g) const {
  for (ToploadPart& part : d.topload.own()) {
    if (!toroids_.empty()) {
      const Toroid& owned = picked(toroids_, g[3]);
      part.outer_diameter_m = owned.outer_m;
      part.tube_diameter_m = owned.tube_m;
      part.centre_above_winding_m =
          in_steps(part.tube_diameter_m / 2 + 0.15 * scale * base_.secondary.form_diameter_m, 0.005);
      continue;
    }
    part.outer_diameter_m =
        std::max(0.05, in_steps(part.outer_diameter_m * scale * log_between(g[3], 0.55, 1.6), 0.01));
    part.tube_diameter_m = std::max(0.015, in_steps(part.outer_diameter_m * between(g[4], 0.18, 0.3), 0.005));
    part.centre_above_winding_m =
        in_steps(part.tube_diameter_m / 2 + 0.25 * scale * base_.secondary.form_diameter_m * 0.6, 0.005);
  }
}

void ProposedDesigns::shape_primary(Design& d, double scale, const Genes& g) const {
  const Primary& usual = base_.primary;
  const double gentle = std::clamp(std::pow(scale, 0.7), 0.6, 1.7);
  const double clear_m = usual.inner_radius_m - base_.secondary.form_diameter_m / 2;
  d.primary.inner_radius_m =
      in_steps(d.secondary.form_diameter_m / 2 + clear_m * gentle * between(g[5], 0.8, 1.6), 0.001);
  d.primary.pitch_m = in_steps(usual.pitch_m * gentle, 0.0001);
  d.primary.conductor_diameter_m = std::max(0.001, in_steps(usual.conductor_diameter_m * gentle, 0.0005));
  if (!conductors_.empty()) d.primary.conductor_diameter_m = picked(conductors_, g[8]).diameter_m;
  d.primary.pitch_m = std::max(d.primary.pitch_m, 1.5 * d.primary.conductor_diameter_m);
  const double above_base_m = (usual.base_height_m - base_.secondary.base_height_m) * scale; // then by its coupling
  d.primary.base_height_m = std::max(0.03, in_steps(d.secondary.base_height_m + above_base_m, 0.001));
}

// Of one circuit: current sheet's inductance, winding's and toploads' capacitances.
double ProposedDesigns::handbook_hz(const Design& d) {
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

// The height of the primary for a coupling, by secants of its logarithm; the analysis is of where it ends.
void ProposedDesigns::couple(Design& d, double wanted, Kept& kept, Analysis& analysis) const {
  constexpr double close_to = 0.04, first_step = 0.35, most_step = 0.6; // of the form's diameter
  constexpr int tries = 4;
  const double form_m = d.secondary.form_diameter_m;
  double slope = 1 / (first_step * form_m); // of the logarithm, for each metre
  for (int step = 0; step < tries; ++step) {
    if (!(analysis.coupling > 0)) return;
    const double short_of = std::log(wanted / analysis.coupling);
    if (std::abs(short_of) < close_to) return;
    const double before_m = d.primary.base_height_m, before = std::log(analysis.coupling);
    const double by_m = std::clamp(short_of / slope, -most_step * form_m, most_step * form_m);
    d.primary.base_height_m = std::max(0.03, in_steps(before_m + by_m, 0.001));
    const double moved_m = d.primary.base_height_m - before_m;
    if (moved_m == 0) return;
    analysis = analyse_untried(d, UnitSystem::metric, false, kept);
    if (!(analysis.coupling > 0)) return;
    const double found = (std::log(analysis.coupling) - before) / moved_m;
    if (found > 0) slope = found;
  }
}

bool ProposedDesigns::tune(CoilCandidate& c, Kept& kept, Analysis& analysis) const {
  Design& d = c.design;
  constexpr double least_turns = 3, spare = 1, inside = 0.04; // of the band of coupling
  const double most_turns = d.primary.shape == PrimaryShape::flat ? 22 : 60;
  const double low = kind_.coupling_low * (1 + inside), high = kind_.coupling_high * (1 - inside);
  const double wanted = between(c.genes[6], low, high);
  if (!kind_.tank) {
    analysis = analyse_untried(d, UnitSystem::metric, false, kept);
    if (kind_.close_wound) couple(d, wanted, kept, analysis);
    return true;
  }
  d.primary.turns = most_turns;
  d.primary.tap_turns = most_turns / 2;
  for (int pass = 0; pass < 3; ++pass) {
    analysis = analyse_untried(d, UnitSystem::metric, false, kept);
    if (pass == 1) couple(d, wanted, kept, analysis);
    if (!analysis.tuned_tap_turns) return false;
    d.primary.tap_turns = in_steps(*analysis.tuned_tap_turns, 0.01);
    d.primary.turns = std::ceil(d.primary.tap_turns + spare);
    if (d.primary.tap_turns < least_turns || d.primary.turns > most_turns) return false;
  }
  analysis = analyse_untried(d, UnitSystem::metric, false, kept);
  return true;
}

void ProposedDesigns::list_parts(CoilCandidate& c, const Analysis& analysis) const {
  const Secondary& s = c.design.secondary;
  const Form& form = picked(forms_, c.genes[0]);
  const Spool& spool = picked(spools_, c.genes[1]);
  take(c, "pipes", form.name, 1,
       fmt::format("pipe, {:.0f} mm outside, {:.2f} m", form.diameter_m * 1000, s.winding_length_m + 0.04));
  take(c, "wires", spool.name, 1,
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
  const Conductor made{0, far, ""};
  const Conductor& conductor = conductors_.empty() ? made : picked(conductors_, c.genes[8]);
  if (analysis.primary_wire_length_m > conductor.longest_m)
    c.misses["tubing"] = analysis.primary_wire_length_m / conductor.longest_m - 1;
  take(c, "tubing", conductor.name, 1,
       fmt::format("{:.3g} mm conductor of the primary, {:.1f} m", c.design.primary.conductor_diameter_m * 1000,
                   analysis.primary_wire_length_m));
  for (const ToploadPart& part : c.design.topload)
    take(c, "toploads", toroids_.empty() ? "" : picked(toroids_, c.genes[3]).name, 1,
         fmt::format("toroid, {:.0f} by {:.0f} mm", part.outer_diameter_m * 1000, part.tube_diameter_m * 1000));
  for (std::size_t i = 0; i < devices_.size(); ++i) {
    const ShelfGroup& group = *devices_[i].group;
    const ShelfPart* part = device_of(c, i);
    take(c, group.key, part ? part->name : std::string(), group.takes(c.design), group.taken(c.design));
  }
  double sum = 0;
  bool known = true;
  for (const PartToBuy& part : c.buy) {
    known = known && part.price;
    sum += part.price.value_or(0);
  }
  if (known) c.figures.price = sum;
}

void ProposedDesigns::take(CoilCandidate& c, std::string_view group, const std::string& name, int count,
                           const std::string& what) {
  if (name.empty())
    buy(c, group, what, count);
  else
    c.owned.push_back({std::string(group), name, count});
}
void ProposedDesigns::buy(CoilCandidate& c, std::string_view group, const std::string& what, int count) {
  c.buy.push_back({std::string(group), what, count, {}});
}

} // namespace arc

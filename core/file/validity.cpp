// Walks every number of a design with its range; the tables of fields, shapes, blocks, sections and measurements
// say what the ranges are.
#include "file/validity.h"

#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "file/design_file.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/profile_import.h"
#include "parts/topload.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <functional>
#include <set>
#include <type_traits>

namespace arc {
namespace {

// A number met on the walk. The path is made only when it is asked for.
struct Met {
  const std::function<std::string()>& path;
  const std::function<std::string()>& field;
  std::string_view label;
  Dimension dimension;
  double minimum, maximum;
  double value;
  const std::function<void(double)>& set;
  double least_above_zero = 0; // for numbers of which 0 means none
};

using Visit = std::function<void(const Met&)>;
using Name = std::function<std::string()>;

const Name no_field = [] { return std::string(); };

// Stores a value where the design may be changed.
template <typename Number>
void store(Number& number, double value) {
  if constexpr (!std::is_const_v<Number>) number = value;
}

// The walks serve designs that are looked at (const: lists stay shared) and designs that are changed.
template <typename Part>
void visit_part(Part& part, const std::string& where, const std::string& field, const Visit& visit) {
  const ToploadShape* shape = topload_shape(part.shape);
  if (!shape) return;
  const auto meet = [&](std::string_view key, std::string_view label, double low, double high, auto& value) {
    visit({[&] { return fmt::format("{}.{}", where, key); }, [&] { return fmt::format("{} {}", field, key); },
           label, Dimension::length, low, high, value, [&](double v) { store(value, v); }});
  };
  for (const ToploadLength& length : shape->lengths)
    meet(length.key, length.label, least_topload_length_m, most_topload_length_m, part.*length.member);
  meet("centre_above_winding_m", "Height above the winding", -most_topload_length_m, most_topload_length_m,
       part.centre_above_winding_m);
  for (std::size_t i = 0; i < part.points_m.size(); ++i)
    for (const int axis : {0, 1}) {
      auto& value = part.points_m[i][static_cast<std::size_t>(axis)];
      visit({[&] { return fmt::format("{}.points_m[{}]", where, i); }, no_field,
             axis == 0 ? "Radius of a point" : "Height of a point", Dimension::length,
             axis == 0 ? 0 : -most_topload_length_m, most_topload_length_m, value,
             [&](double v) { store(value, v); }});
    }
}

template <typename D>
void visit_lists(D& d, const Visit& visit) {
  for (std::size_t i = 0; i < d.topload.size(); ++i)
    visit_part(d.topload[i], fmt::format("topload[{}]", i), fmt::format("topload {}", i + 1), visit);
  for (std::size_t v = 0; v < d.topload_variants.size(); ++v)
    for (std::size_t i = 0; i < d.topload_variants[v].parts.size(); ++i)
      visit_part(d.topload_variants[v].parts[i], fmt::format("topload_variants[{}].parts[{}]", v, i), {}, visit);
  for (std::size_t i = 0; i < d.tank.sections.size(); ++i)
    for (const SectionNumber& number : section_numbers()) {
      auto& section = d.tank.sections[i];
      if (const auto value = number.get(section))
        visit({[&] { return fmt::format("tank.sections[{}].{}", i, number.key); }, no_field, number.label,
               number.dimension, number.minimum, number.maximum, *value,
               [&](double v) {
                 if constexpr (!std::is_const_v<D>) number.set(section, v);
               }});
    }
  for (std::size_t i = 0; i < d.feed.size(); ++i) {
    const BlockKind* kind = block_kind(d.feed[i].kind);
    if (!kind) continue;
    for (const BlockNumber& number : kind->numbers) {
      const auto it = d.feed[i].values.find(std::string(number.key));
      if (it == d.feed[i].values.end()) continue;
      visit({[&] { return fmt::format("feed[{}].{}", i, number.key); },
             [&] { return fmt::format("block {} {}", i + 1, number.key); }, number.label, number.dimension,
             number.minimum, number.maximum, it->second, [&](double v) { store(it->second, v); },
             number.least_above_zero});
    }
  }
  for (std::size_t i = 0; i < d.measurements.size(); ++i) {
    auto& m = d.measurements[i];
    const MeasurementKind* kind = measurement_kind(m.kind);
    if (!kind) continue;
    const auto meet = [&](const MeasuredNumber& n) {
      visit({[&] { return fmt::format("measurements[{}].{}", i, n.key); },
             [] { return std::string("measurements"); }, n.label, n.dimension, n.minimum, n.maximum, m.*n.member,
             [&](double v) { store(m.*n.member, v); }});
    };
    meet(kind->value);
    if (kind->given) meet(*kind->given);
  }
}

// Whether the tank's capacitance is a number of its own where it follows from its units or sections.
enum Derived { with_derived, typed_only };

template <typename D>
void visit_numbers(D& d, Derived derived, const Visit& visit) {
  const bool tank_too = derived == with_derived || tank_given(d.tank) == TankGiven::one_value;
  for (const FieldSpec& field : design_fields())
    if (const auto value = field.get(d); value && (tank_too || field.key != "tank.capacitance_f"))
      visit({[&] { return std::string(field.key); }, [&] { return std::string(field.key); }, field.label,
             field.dimension, field.minimum, field.maximum, *value,
             [&](double v) {
               if constexpr (!std::is_const_v<D>) field.set(d, v);
             }});
  visit_lists(d, visit);
  for (auto& entry : d.tolerances)
    visit({[&] { return "tolerances." + entry.first; }, [&] { return "tolerance " + entry.first; }, "Tolerance",
           Dimension::number, 0, largest_tolerance, entry.second, [&](double v) { store(entry.second, v); }});
}

constexpr double beyond = 1e3; // how many times out of its range a number may be and still be read

// Why a file with this number is refused; empty when it is read.
std::string absurdity(const Met& n) {
  const auto print = [&](double value) { return format_quantity(value, n.dimension); };
  if (!std::isfinite(n.value))
    return fmt::format("{} is not a number; expected {} to {}", n.label, print(n.minimum), print(n.maximum));
  const double low =
      n.minimum < 0 || n.dimension == Dimension::count ? -beyond * std::max(-n.minimum, n.maximum) : 0;
  if (n.value >= low && n.value <= beyond * n.maximum) return {};
  return range_problem(n.label, n.dimension, n.value, n.minimum, n.maximum);
}

bool in_range(const Met& n) {
  if (n.value > 0 && n.value < n.least_above_zero) return false;
  return range_problem(n.label, n.dimension, n.value, n.minimum, n.maximum).empty();
}

// Whether the number is of a group that another kind uses and this one does not: it cannot harm this coil.
bool of_another_kind(const Design& design, const std::string& path) {
  const auto dot = path.find('.');
  if (dot == std::string::npos) return false;
  const std::string_view group = std::string_view(path).substr(0, dot);
  const auto has = [&](const CoilKind& kind) { return std::ranges::count(kind.groups, group) > 0; };
  return !has(kind_of(design)) &&
         std::ranges::any_of(coil_kinds(), [&](const CoilKind* kind) { return has(*kind); });
}

// Farads behind a bleeder by its path; 0 where the path is none.
double bled_farad(const Design& d, const std::string& path) {
  if (path.find("bleed") == std::string::npos) return 0;
  if (path.starts_with("bridge.")) return d.bridge.reservoir_f;
  if (path.starts_with("tank.")) return tank_capacitance_f(d.tank);
  std::size_t i = 0;
  if (std::sscanf(path.c_str(), "feed[%zu]", &i) != 1 || i >= d.feed.size()) return 0;
  const auto& values = d.feed[i].values;
  for (const char* key : {"unit_capacitance_f", "capacitance_f"})
    if (values.contains(key)) return values.at(key);
  return 0;
}

} // namespace

std::vector<RangeProblem> numbers_out_of_range(const Design& design) {
  std::vector<RangeProblem> out;
  visit_numbers(design, with_derived, [&](const Met& n) {
    if (in_range(n) || of_another_kind(design, n.path())) return;
    double nearest = std::clamp(std::isfinite(n.value) ? n.value : n.minimum, n.minimum, n.maximum);
    if (n.dimension == Dimension::count) nearest = std::round(nearest);
    // The nearest number for a bleeder is a short circuit: what bleeds in time is meant.
    if (const double farad = bled_farad(design, n.path()); farad > 0)
      nearest = std::clamp(usual_bleeder_ohm(farad, n.maximum), n.minimum, n.maximum);
    if (nearest != 0 && std::abs(nearest) < std::max(least_quantity, n.least_above_zero)) nearest = 0;
    out.push_back({n.path(), n.field(), std::string(n.label), n.dimension, n.value, nearest,
                   std::max(n.minimum, n.least_above_zero), n.maximum});
  });
  return out;
}

std::string RangeProblem::text(UnitSystem units) const {
  const std::string why = range_problem(label, dimension, value, minimum, maximum, units);
  return fmt::format("{}: {}", path, why);
}

void set_number(Design& design, const std::string& path, double value) {
  visit_numbers(design, with_derived, [&](const Met& n) {
    if (n.path() == path) n.set(value);
  });
}

namespace {

std::optional<Unreadable> too_many(const std::string& path, std::size_t count, std::size_t most, const char* what) {
  if (count <= most) return {};
  return Unreadable{path, fmt::format("{} {}; at most {} can be kept", count, what, most)};
}

std::optional<Unreadable> too_long(const std::string& path, const std::string& text) {
  if (text.size() <= most_text_bytes) return {};
  return Unreadable{
      path, fmt::format("a text of {} kB; at most {} kB can be kept", text.size() / 1000, most_text_bytes / 1000)};
}

std::optional<Unreadable> bad_parts(const std::string& where, const SharedList<ToploadPart>& parts) {
  if (auto bad = too_many(where, parts.size(), most_topload_parts, "parts")) return bad;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const std::string path = fmt::format("{}[{}]", where, i);
    if (!topload_shape(parts[i].shape))
      return Unreadable{path + ".shape", fmt::format("“{}” is not a topload shape", parts[i].shape)};
    if (auto bad = too_many(path + ".points_m", parts[i].points_m.size(), most_profile_points, "points"))
      return bad;
  }
  return {};
}

std::optional<Unreadable> bad_run(const std::string& path, const arc::Run& run) {
  for (const auto* values : {&run.conditions, &run.observations})
    for (const auto& [key, value] : *values)
      if (!std::isfinite(value)) return Unreadable{path + "." + key, "is not a number"};
  for (const std::string* text : {&run.id, &run.when, &run.notes, &run.failed, &run.open_stops, &run.armed_despite})
    if (auto bad = too_long(path, *text)) return bad;
  for (const auto& [name, cell] : run.columns)
    for (const std::string* text : {&name, &cell})
      if (auto bad = too_long(path + ".columns", *text)) return bad;
  return {};
}

std::optional<Unreadable> bad_lists(const Design& d) {
  if (auto bad = bad_parts("topload", d.topload)) return bad;
  if (auto bad = too_many("topload_variants", d.topload_variants.size(), most_topload_variants, "kept toploads"))
    return bad;
  for (std::size_t i = 0; i < d.topload_variants.size(); ++i)
    if (auto bad = bad_parts(fmt::format("topload_variants[{}].parts", i), d.topload_variants[i].parts)) return bad;
  if (auto bad = too_many("tank.sections", d.tank.sections.size(), most_bank_sections, "sections")) return bad;
  if (auto bad = too_many("feed", d.feed.size(), most_feed_blocks, "blocks")) return bad;
  if (auto bad = too_many("measurements", d.measurements.size(), most_measurements, "measurements")) return bad;
  if (auto bad = too_many("dismissed", d.dismissed.size(), most_marks, "dismissed findings")) return bad;
  if (auto bad = too_many("confirmed", d.confirmed.size(), most_marks, "confirmed stages")) return bad;
  return too_many("runs", d.runs.size(), most_runs, "runs");
}

std::optional<Unreadable> bad_marks(const Design& d) {
  for (std::size_t i = 0; i < d.dismissed.size(); ++i) {
    const Dismissed& mark = d.dismissed[i];
    const std::string path = fmt::format("dismissed[{}]", i);
    if (!std::isfinite(mark.value)) return Unreadable{path + ".value", "is not a number"};
    if (!std::isfinite(mark.limit)) return Unreadable{path + ".limit", "is not a number"};
    for (const std::string* text : {&mark.id, &mark.field, &mark.reason, &mark.when})
      if (auto bad = too_long(path, *text)) return bad;
  }
  for (std::size_t i = 0; i < d.confirmed.size(); ++i)
    for (const std::string* text : {&d.confirmed[i].stage, &d.confirmed[i].when, &d.confirmed[i].inputs})
      if (auto bad = too_long(fmt::format("confirmed[{}]", i), *text)) return bad;
  return {};
}

// `runs` says whether the runs are looked at too; there may be thousands.
std::optional<Unreadable> unreadable(const Design& d, bool runs) {
  std::optional<Unreadable> out = bad_lists(d);
  if (!out)
    visit_numbers(d, typed_only, [&](const Met& n) {
      if (out) return;
      if (std::string problem = absurdity(n); !problem.empty()) out = Unreadable{n.path(), std::move(problem)};
    });
  if (!out) out = too_long("name", d.name);
  if (!out) out = bad_marks(d);
  for (std::size_t i = 0; !out && i < d.measurements.size(); ++i)
    out = too_long(fmt::format("measurements[{}].note", i), d.measurements[i].note);
  for (std::size_t i = 0; runs && !out && i < d.runs.size(); ++i)
    out = bad_run(fmt::format("runs[{}]", i), d.runs[i]);
  return out;
}

} // namespace

std::optional<Unreadable> unreadable(const Design& d) {
  return unreadable(d, true);
}

void settle_edit(const Design& before, Design& after) {
  note_given(before, after);
  after.tank.capacitance_f = tank_capacitance_f(after.tank); // a bank's value follows its units
  if (!after.tank.sections.empty() || after.tank.unit_capacitance_f || after.tank.single_capacitance_f)
    after.absent.erase("tank.capacitance_f"); // given another way
}

std::string edit_problem(const Design& before, const Design& after, UnitSystem units) {
  const bool runs = !after.runs.shares_with(before.runs);
  if (const auto bad = unreadable(after, runs)) return fmt::format("{}: {}", bad->path, bad->text);
  if (runs || !after.measurements.shares_with(before.measurements))
    if (std::string large = too_large_to_keep(after); !large.empty()) return large;
  const auto now = numbers_out_of_range(after);
  if (now.empty()) return {};
  std::set<std::string> known;
  for (const RangeProblem& p : numbers_out_of_range(before)) known.insert(p.path);
  for (const RangeProblem& p : now)
    if (!known.contains(p.path))
      return fmt::format("{} would be {}; it can be {} at the utmost", p.label,
                         format_quantity(p.value, p.dimension, units),
                         format_quantity(p.nearest, p.dimension, units));
  return {};
}

} // namespace arc

// Ranges of the numbers on the walk, and bounds of lists and texts.
#include "file/validity.h"

#include "craft/design_fields.h"
#include "craft/kind.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "file/number_walk.h"
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
  if (auto bad = too_many("variants", d.variants.size(), most_variants, "variants")) return bad;
  for (std::size_t i = 0; i < d.variants.size(); ++i) {
    const std::string path = fmt::format("variants[{}]", i);
    if (!d.variants[i].design.get()) return Unreadable{path + ".design", "has no design"};
    if (auto bad = too_long(path + ".name", d.variants[i].name)) return bad;
  }
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
  settle_examples(after);
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

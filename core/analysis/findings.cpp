// All findings on the coil at rest. Each rule is one small function: it looks at the design and its analysis and
// either has nothing to say or returns one finding with value, limit, reason and remedy. To add one, write it
// beside its like, in winding_findings.cpp, primary_findings.cpp or tuning_findings.cpp, and put it into the table
// there.
#include "analysis/findings.h"
#include "analysis/analyse.h"
#include "coil/analysis.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "file/validity.h"
#include "model/fields.h"
#include "quantity/listed.h"
#include "quantity/parallel.h"
#include "quantity/say.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {

namespace {

struct GroupWords {
  std::string_view group, stage, words, waits;
};
constexpr std::array<GroupWords, 3> group_words{
    {{"secondary", "resonator", "The secondary", "Everything but what was measured needs it."},
     {"primary", "primary", "The primary", "Inductance, coupling and every simulation wait for it."},
     {"tank", "tank", "The tank", "Its frequency, stored energy and every simulation wait for it."}}};

} // namespace

std::vector<Finding> not_given(const Design& design, const Analysis& analysis) {
  std::vector<Finding> out;
  const CoilKind& kind = kind_of(design);
  const auto& has = std::array{analysis.has_winding, analysis.has_primary || !analysis.has_winding,
                               analysis.has_tank || !kind.tank};
  for (std::size_t i = 0; i < group_words.size(); ++i) {
    const GroupWords& words = group_words[i];
    const auto needed = still_needed(design, words.group);
    if (has[i] || needed.empty() || std::ranges::count(kind.groups, words.group) == 0) continue;
    Finding f;
    f.id = fmt::format("not-given {}", words.group);
    f.severity = Severity::note;
    f.stage = words.stage;
    for (const FieldSpec& field : design_fields())
      if (f.field.empty() && field.key.starts_with(words.group) && design.absent.contains(field.key))
        f.field = field.key;
    f.title = fmt::format("{} is not given yet", words.words);
    f.text = fmt::format("Missing: {}. {}", listed(needed), words.waits);
    f.remedy = fmt::format("Enter it under {}", words.stage);
    f.value = static_cast<double>(needed.size());
    f.dimension = Dimension::count;
    out.push_back(std::move(f));
  }
  return out;
}

std::vector<Finding> find_all(const Design& design, const Analysis& analysis, UnitSystem units) {
  std::vector<Finding> out = not_given(design, analysis);
  if (!analysis.computed) {
    if (!analysis.has_winding) return out;
    if (auto finding = geometry_impossible(design, analysis, units)) out.push_back(std::move(*finding));
    return out;
  }
  const CoilKind& kind = kind_of(design);
  const auto run = [&](std::span<const FindingRule> rules) {
    for (const FindingRule rule : rules)
      if (auto finding = rule(design, analysis, units)) out.push_back(std::move(*finding));
  };
  run(winding_rules());
  if (analysis.has_primary) run(primary_rules());
  if (analysis.has_primary && (analysis.has_tank || !kind.tank)) run(kind.rules());
  sort_worst_first(out);
  return out;
}

std::vector<Finding> range_findings(const CoilKind& kind, const std::vector<RangeProblem>& problems,
                                    UnitSystem units) {
  constexpr std::size_t most = 12;
  const Say say{units};
  std::vector<Finding> out;
  for (const RangeProblem& p : problems) {
    if (out.size() == most) break;
    const std::string_view group = std::string_view(p.path).substr(0, p.path.find_first_of(".["));
    Finding f;
    f.id = "out-of-range " + p.path;
    f.severity = Severity::stop;
    f.stage = stage_of_group(kind, group);
    f.field = p.field;
    f.title = range_problem(p.label, p.dimension, p.value, p.minimum, p.maximum, units);
    f.text = fmt::format("Nothing is computed until {} is inside of its range.", p.path);
    f.remedy = fmt::format("Take {}", say(p.nearest, p.dimension, 6));
    f.value = p.value;
    f.limit = p.nearest;
    f.dimension = p.dimension;
    f.apply = [path = p.path, nearest = p.nearest](Design& d) { set_number(d, path, nearest); };
    out.push_back(std::move(f));
  }
  return out;
}

bool eased(const Finding& before, const std::vector<Finding>& after) {
  const auto now = std::ranges::find(after, before.id, &Finding::id);
  if (now == after.end() || now->severity > before.severity) return true;
  if (now->severity < before.severity) return false;
  return std::abs(now->value - now->limit) < 0.99 * std::abs(before.value - before.limit);
}

namespace {

enum class Outcome { helps, detunes, eases, useless };

Outcome try_remedy(const Design& design, const Finding& finding, const std::vector<Finding>& before,
                   const std::function<void(Design&)>& apply, const Judge& judge) {
  Design changed = design;
  apply(changed);
  if (changed == design || !edit_problem(design, changed, UnitSystem::metric).empty()) return Outcome::useless;
  const std::vector<Finding> after = judge(changed);
  bool detunes = false;
  for (const Finding& f : after) {
    if (f.severity != Severity::stop || f.id == finding.id) continue;
    const auto known = std::ranges::find(before, f.id, &Finding::id);
    if (known != before.end() && known->severity == Severity::stop) continue;
    if (f.id != "tank-off-tune" && f.id != "tank-cannot-tune") return Outcome::useless;
    detunes = true;
  }
  if (!eased(finding, after)) return Outcome::useless;
  const bool stands = std::ranges::any_of(
      after, [&](const Finding& f) { return f.id == finding.id && f.severity <= finding.severity; });
  if (stands && finding.severity != Severity::note) return Outcome::eases;
  return detunes ? Outcome::detunes : Outcome::helps;
}

// The clip where the changed coil is in tune; as it was when no clip is.
void retune(Design& design, Kept& kept) {
  if (const auto tap = analyse_untried(design, UnitSystem::metric, false, kept).tuned_tap_turns)
    design.primary.tap_turns = std::round(*tap * 1000) / 1000;
}

} // namespace

void keep_tried_remedies(const Design& design, std::vector<Finding>& findings, const Judge& judge, Kept& kept) {
  const std::vector<Finding> before = findings;
  parallel_for(findings.size(), [&](std::size_t i) {
    Finding& finding = findings[i];
    if (!finding.apply) return;
    Outcome outcome = try_remedy(design, finding, before, finding.apply, judge);
    if (outcome == Outcome::detunes) {
      Design changed = design;
      finding.apply(changed);
      retune(changed, kept);
      const auto both = [apply = finding.apply, clip = changed.primary.tap_turns](Design& d) {
        apply(d);
        d.primary.tap_turns = clip;
      };
      outcome = try_remedy(design, finding, before, both, judge);
      if (outcome == Outcome::helps) {
        finding.remedy += fmt::format("; the tap then goes to turn {:.2f}", changed.primary.tap_turns);
        finding.apply = both;
      }
    }
    if (outcome == Outcome::helps) return;
    finding.apply = nullptr;
    finding.remedy = fmt::format("Tried alone, this {} here: {}",
                                 outcome == Outcome::eases ? "does not suffice" : "does not help", finding.remedy);
  });
}

void sort_worst_first(std::vector<Finding>& findings) {
  std::ranges::stable_sort(findings, {}, [](const Finding& f) { return static_cast<int>(f.severity); });
}

std::string_view severity_name(Severity severity) {
  return severity == Severity::stop ? "stop" : severity == Severity::warning ? "warning" : "note";
}

} // namespace arc

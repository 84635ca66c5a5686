// Which simulation a design's kind takes, and all findings together.
#include "simulation/power.h"

#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "craft/kind.h"
#include "laws/circuit.h"
#include "simulation/ideas.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace arc {

namespace {

// Remedies of the power path's findings, tried on the whole of it; and those of the coil's, for what they do here.
void try_remedies(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                  const Work& work, PowerAnalysis& out) {
  const Judge judge = whole_judge(options, units, work);
  std::vector<Finding> all = analysis.findings;
  for (Finding& f : all)
    if (!f.apply) f.remedy.clear();
  const std::size_t of_coil = all.size();
  all.insert(all.end(), out.findings.begin(), out.findings.end());
  std::vector<Finding> tried = all;
  keep_tried_remedies(design, tried, judge, work.kept);
  if (work.cancelled) return;
  for (std::size_t i = 0; i < of_coil; ++i)
    if (all[i].apply && !tried[i].apply) out.unwise_remedies.push_back(all[i].id);
  out.findings.assign(tried.begin() + static_cast<std::ptrdiff_t>(of_coil), tried.end());
}

} // namespace

Judge whole_judge(const PowerOptions& options, UnitSystem units, const Work& work) {
  PowerOptions plain = options;
  plain.advice = plain.variac = plain.waveforms = false;
  return [plain, units, &work](const Design& changed) {
    if (work.cancelled) return std::vector<Finding>{};
    const Analysis a = analyse_untried(changed, units, false, work.kept);
    const std::function<void(double)> nobody;
    const PowerAnalysis p = analyse_power(changed, a, plain, units, {work.cancelled, nobody, work.kept});
    std::vector<Finding> all = a.findings;
    all.insert(all.end(), p.findings.begin(), p.findings.end());
    return all;
  };
}

PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const Work& work) {
  PowerAnalysis out;
  out.kind = design.kind;
  const std::shared_ptr<KindPart> part = kind_of(design).part();
  out.part = part;
  try {
    part->simulate(design, analysis, options, units, work);
  } catch (const std::invalid_argument& refusal) {
    part->problem = refusal.what();
  }
  if (work.cancelled) return out;
  out.drive = part->drive(design, analysis);
  out.findings = part->findings(design, analysis, units);
  if (options.advice) weigh_changes(design, analysis, out.findings, options, units, work, part->changes);
  if (analysis.computed)
    if (const std::string why = out.part->unsolved(design); !why.empty()) {
      Finding failed = unfinished("simulation", why);
      // A feed that is not there yet is work to do, no failure.
      if (design.feed.empty() && why == feed_problem(design.feed, kind_of(design).feed_end))
        failed.severity = Severity::note;
      out.findings.insert(out.findings.begin(), std::move(failed));
    }
  if (const auto basis = analysis.computed ? out.part->arc_basis(design, analysis) : std::nullopt) {
    out.arc = forecast_arc(*basis, design, analysis, units);
    if (auto none = nothing_breaks_out(*out.arc, design, units)) out.findings.push_back(std::move(*none));
  }
  for (Finding& finding : out.findings) finding.of_power = true;
  sort_worst_first(out.findings);
  const bool anything = analysis.computed || !out.findings.empty();
  if (options.advice && anything && !work.cancelled) try_remedies(design, analysis, options, units, work, out);
  return out;
}

PowerAnalysis analyse_power(const Design& design, const Analysis& analysis, const PowerOptions& options,
                            UnitSystem units, const std::atomic<bool>& cancelled,
                            const std::function<void(double)>& progress) {
  Kept kept;
  return analyse_power(design, analysis, options, units, {cancelled, progress, kept});
}

std::vector<Finding> all_findings(const Analysis& analysis, const PowerAnalysis* power, bool same_design) {
  std::vector<Finding> out = analysis.findings;
  if (power) {
    for (Finding& f : out)
      if (same_design && f.apply && std::ranges::count(power->unwise_remedies, f.id) > 0) {
        f.apply = nullptr;
        f.remedy = fmt::format("Tried alone, this does not help here: {}", f.remedy);
      }
    out.insert(out.end(), power->findings.begin(), power->findings.end());
  }
  sort_worst_first(out);
  return out;
}

std::string not_computed(const Design& design, const Analysis& analysis, const PowerAnalysis& power) {
  if (!analysis.computed || !analysis.resonator)
    return analysis.problem.empty() ? "the resonator is not known" : analysis.problem;
  return power.part ? power.part->unsolved(design) : "the coil as it runs cannot be simulated yet";
}

Finding unfinished(const std::string& what, const std::string& why) {
  Finding out;
  out.id = what + "-unfinished";
  out.severity = Severity::stop;
  out.stage = "fire";
  out.title = fmt::format("The {} gives nothing: {}", what, why);
  out.text = what == "simulation"
                 ? "Currents, voltages and heat of this design are not known, and neither is what they forbid."
                 : "Nothing that is shown belongs to this design.";
  out.remedy = "Change what it names, or let it run to its end: any change starts it again.";
  return out;
}

std::optional<std::size_t> ridden_pole(const PowerAnalysis& power) {
  const auto poles = power.part ? power.part->poles_hz() : std::vector<double>();
  if (poles.size() < 2 || !(power.drive.frequency_hz > 0)) return {};
  const auto off = [&](double hz) { return std::abs(std::log(hz / power.drive.frequency_hz)); };
  return static_cast<std::size_t>(std::ranges::min_element(poles, {}, off) - poles.begin());
}

std::string poles_words(const Design& design, const Analysis& analysis, const PowerAnalysis& power,
                        UnitSystem units) {
  const auto ridden = ridden_pole(power);
  if (!ridden || !analysis.resonator) return {};
  const auto hertz = [&](double hz) { return format_quantity(hz, Dimension::frequency, units, 4); };
  const auto poles = power.part->poles_hz();
  std::string words =
      fmt::format(". It runs at {}, on the {} pole; poles at {} and {}", hertz(power.drive.frequency_hz),
                  *ridden == 0 ? "lower" : "upper", hertz(poles.front()), hertz(poles.back()));
  constexpr double farther = 0.2; // of a turn: the next clip of the curve
  const double tap = used_turns(design);
  const auto out =
      std::ranges::find_if(analysis.tap_curve, [&](const TapPoint& p) { return p.turns > tap + farther; });
  if (out != analysis.tap_curve.end()) {
    const CoupledPoles then = coupled_poles(out->tank_hz, coil_hz(analysis), analysis.circuit.coupling);
    words += fmt::format(" (tap at {:.2f}: {} and {})", out->turns, hertz(then.lower_hz), hertz(then.upper_hz));
  }
  constexpr std::size_t most = 3;
  std::vector<std::string> takes = power.part->to_another_pole();
  if (takes.empty()) return words + ". None of the single changes takes it to the other.";
  takes.resize(std::min(takes.size(), most));
  for (std::string& title : takes) title = fmt::format("“{}”", title);
  return words + fmt::format(". To the other pole: {}.", fmt::join(takes, ", "));
}

} // namespace arc

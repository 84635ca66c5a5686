// A kind of coil that only these tests know, and the list with it: if one row is all that a kind takes, it stands
// in the program like any other. A coil on a generator, at its resonance.
#include "coil/figures.h"
#include "coil/kind.h"
#include "crafts/exciter/exciter.h"
#include "crafts/spark_gap/spark_gap.h"

#include <array>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace arc {
namespace {

struct GeneratorPart : KindPart {
  double top_v = 0;
  std::string unsolved(const Design&) const override { return {}; }
};

PowerAnalysis simulate(const Design&, const Analysis& analysis, const PowerOptions&, UnitSystem, const Work& work) {
  PowerAnalysis out;
  auto part = std::make_shared<GeneratorPart>();
  part->top_v = 10 * analysis.quality_factor;
  out.drive.frequency_hz = analysis.best_mode_1_hz;
  out.drive.top_peak_v = part->top_v;
  out.part = part;
  work.tell(1);
  return out;
}

std::optional<Finding> q_low(const Design&, const Analysis& analysis, UnitSystem) {
  if (analysis.quality_factor > 1e4) return {};
  return Finding{.id = "generator-q",
                 .stage = "tune",
                 .title = fmt::format("Q {:.0f} on the generator", analysis.quality_factor),
                 .text = "The generator sees it.",
                 .remedy = "Read it again"};
}
constexpr std::array<FindingRule, 1> rules{q_low};

constexpr std::array<Figure, 1> figures{
    {{.key = "generator_top_v",
      .stage = "resonator",
      .title = "Top on the generator",
      .dimension = Dimension::voltage,
      .value = [](const PowerView& view) -> std::optional<double> { return view.power.of<GeneratorPart>()->top_v; },
      .formula = "Ten volts times the quality factor.",
      .inputs = "quality_factor",
      .assumes = "A stiff generator.",
      .source = "Textbook circuit theory"}}};

std::vector<FaultStep> silent(const Design&, const Analysis& analysis, const PowerAnalysis*, UnitSystem) {
  return {{.question = fmt::format("Is the generator at {:.0f} Hz?", analysis.best_mode_1_hz),
           .how = "Read its dial.",
           .cure = "Set it there."}};
}
constexpr std::array<FaultSymptom, 1> symptoms{{{"silent", "Nothing at the top", silent}}};

constexpr std::array<SimulationOption, 1> options{
    {{.flag = "--volts", .text = "of the generator", .dimension = Dimension::voltage, .standard = 10}}};
Simulated sweep(const Design& design, const SimulationValues& values) {
  const Analysis a = analyse(design);
  return {[top = a.quality_factor * values.at("--volts"), hz = a.best_mode_1_hz] {
            return Json{{"results", {{"frequency_hz", hz}, {"top_peak_v", top}}}};
          },
          [] { return std::string("* nothing to export\n.end\n"); },
          [] { return std::string("frequency_hz\r\n"); }};
}
constexpr std::array<SimulationMode, 1> modes{
    {{"--sweep", "the resonance as a generator finds it", options, sweep}}};
constexpr std::array<std::string_view, 1> groups{"secondary"};
constexpr std::array<RunColumn, 5> columns{{{"resonance_hz", "Resonance"},
                                            {"coupling", "Coupling"},
                                            {"primary_height_m", "Height"},
                                            {"lamp_distance_m", "Lamp at"},
                                            {"duration_s", "Ran for"}}};

constexpr CoilKind generator{
    .key = "generator",
    .title = "Generator",
    .purpose = "The coil alone on the bench",
    .needs = "A generator and a lamp",
    .coupling_low = 0,
    .coupling_high = 1,
    .tank = false,
    .clip = false,
    .groups = groups,
    .modes = modes,
    .run_columns = columns,
    .achieved = "lamp_distance_m",
    .analyse = [](const Design&, const TappedPrimary*, Analysis&) {},
    .figures = []() -> std::span<const Figure> { return figures; },
    .power_json = [](const PowerView& view) { return group_json("", view); },
    .rules = []() -> std::span<const FindingRule> { return rules; },
    .simulate = simulate,
    .checks_before_power =
        [](const Design&, const Analysis&, const PowerAnalysis*, UnitSystem) {
          return std::vector<CheckItem>{{"generator-low", "The generator's output is turned down"}};
        },
    .steps_after_power = [](const Design&, const Analysis&, const PowerAnalysis*,
                            UnitSystem) { return std::vector<std::string>{"Turn the generator off"}; },
    .symptoms = []() -> std::span<const FaultSymptom> { return symptoms; }};

} // namespace

std::span<const CoilKind* const> coil_kinds() {
  static const std::array<const CoilKind*, 3> kinds{&spark_gap_kind(), &exciter_kind(), &generator};
  return kinds;
}

} // namespace arc

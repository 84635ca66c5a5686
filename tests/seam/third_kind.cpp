// A kind of coil that only these tests know, and the list with it: if its folder and a line in the list are all
// that a kind takes, it stands in the program like any other. A coil on a generator, at its resonance, with a
// number, a figure at rest, a tolerance and a column of the record of its own. Its stage is in third_window.cpp.
#include "analysis/analyse.h"
#include "coil/tapped_primary.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "crafts/exciter/exciter.h"
#include "crafts/spark_gap/spark_gap.h"
#include "evidence/tolerance.h"
#include "model/field_rows.h"
#include "simulation/figures.h"
#include "workshop/runs.h"

#include <array>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace arc {
namespace {

constexpr std::array generator_fields{
    own_field<"generator.output_ohm">("Output resistance", Dimension::resistance, 0, 1e4),
    own_field<"generator.level_v">("Level", Dimension::voltage, 0.01, 100)};

double volts(const Design& design) {
  return design_field("generator.level_v").get(design).value_or(10);
}

constexpr std::array generator_tolerances{
    ToleranceInput{.key = "generator_stand",
                   .label = "the generator's stand",
                   .advice = "measure the stand",
                   .standard = 0.05,
                   .nudge = [](Design& d, double m) { d.secondary.base_height_m += m; },
                   .moves_field = true}};

constexpr std::array generator_runs{RunField{.key = "generator_level_v",
                                             .label = "Generator at",
                                             .dimension = Dimension::voltage,
                                             .minimum = 0,
                                             .maximum = 100,
                                             .of = "generator.level_v",
                                             .group = "generator"}};

struct GeneratorPart : KindPart {
  double hz = 0, top_v = 0;
  void simulate(const Design& design, const Analysis& analysis, const PowerOptions&, UnitSystem,
                const Work& work) override {
    hz = analysis.best_mode_1_hz;
    top_v = volts(design) * analysis.quality_factor;
    work.tell(1);
  }
  Drive drive(const Design&, const Analysis&) const override {
    Drive out;
    out.frequency_hz = hz;
    out.top_peak_v = top_v;
    return out;
  }
  std::vector<Finding> findings(const Design&, const Analysis&, UnitSystem) const override { return {}; }
};

std::optional<Finding> q_low(const Design&, const Analysis& analysis, UnitSystem) {
  if (analysis.quality_factor > 1e4) return {};
  return Finding{.id = "generator-q",
                 .stage = "tune",
                 .title = fmt::format("Q {:.0f} on the generator", analysis.quality_factor),
                 .text = "The generator sees it.",
                 .remedy = "Read it again"};
}
constexpr std::array<FindingRule, 1> rules{q_low};

constexpr std::array<Figure, 2> figures{
    {{.key = "generator_load_ohm",
      .group = at_rest_group,
      .title = "Load on the generator",
      .dimension = Dimension::resistance,
      .value = [](const PowerView& view) { return above_zero(view.analysis.circuit.secondary_ohm); },
      .needs = Needs::winding,
      .formula = "What the resonator is at its base, at resonance.",
      .inputs = "quality_factor generator.output_ohm",
      .assumes = "No arcs.",
      .source = "Textbook circuit theory"},
     {.key = "generator_top_v",
      .stage = "generator",
      .title = "Top on the generator",
      .dimension = Dimension::voltage,
      .value = [](const PowerView& view) -> std::optional<double> { return view.power.of<GeneratorPart>()->top_v; },
      .formula = "The generator's volts times the quality factor.",
      .inputs = "quality_factor generator.level_v",
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
constexpr std::array<std::string_view, 2> groups{"secondary", "generator"};
constexpr std::array<GroupPlace, 1> places{{{"generator", "generator"}}};
constexpr std::array<RunColumn, 5> columns{{{"resonance_hz", "Resonance"},
                                            {"coupling", "Coupling"},
                                            {"primary_height_m", "Height"},
                                            {"lamp_distance_m", "Lamp at"},
                                            {"generator_level_v", "Level"}}};

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
    .part = []() -> std::shared_ptr<KindPart> { return std::make_shared<GeneratorPart>(); },
    .checks_before_power =
        [](const Design&, const Analysis&, const PowerAnalysis*, UnitSystem) {
          return std::vector<CheckItem>{{"generator-low", "The generator's output is turned down"}};
        },
    .steps_after_power = [](const Design&, const Analysis&, const PowerAnalysis*,
                            UnitSystem) { return std::vector<std::string>{"Turn the generator off"}; },
    .symptoms = []() -> std::span<const FaultSymptom> { return symptoms; },
    .fields = []() -> std::span<const FieldSpec> { return generator_fields; },
    .tolerances = []() -> std::span<const ToleranceInput> { return generator_tolerances; },
    .run_fields = []() -> std::span<const RunField> { return generator_runs; },
    .places = places};

} // namespace

std::span<const CoilKind* const> coil_kinds() {
  static const std::array<const CoilKind*, 3> kinds{&spark_gap_kind(), &exciter_kind(), &generator};
  return kinds;
}

} // namespace arc

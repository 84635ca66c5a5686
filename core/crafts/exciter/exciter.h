// The single-transistor exciter as a kind of coil: its circuit from the design, what it does, how long it stands
// it, and what a single change would bring. Method and limits: docs/methods/exciter.md.
#pragma once

#include "craft/variation.h"
#include "crafts/exciter/oscillation.h"
#include "model/fields.h"
#include "parts/heat_path.h"
#include "simulation/power.h"

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace arc {

struct CheckItem;

/// The circuit of a design: the coil measured or computed, the rest as entered. Throws std::invalid_argument with
/// what is missing.
ExciterCircuit exciter_circuit(const Design& design, const Analysis& analysis);

/// Junction, case and sink; two elements without a sink. A fan takes a sink to 0.35 of its kelvin per watt, a bare
/// case to 0.7 (common practice, no source).
HeatPath exciter_heat_path(const Exciter& exciter);

/// Peak field in which small gas-filled lamps still light, hardest and easiest (common practice, no source): a
/// band, not a rating of any lamp.
inline constexpr Range lamp_lights_v_per_m{8e3, 2e3};

/// What one supply voltage does.
struct SupplyPoint {
  double supply_v;
  bool oscillates;
  double dissipation_w, top_v, collector_average_a, collector_peak_v;
  double junction_c;                // in the long run
  std::optional<double> run_time_s; // until the junction is at its limit; empty: it never gets there
};

struct ExciterAnalysis : KindPart {
  void simulate(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                const Work& work) override;
  Drive drive(const Design& design, const Analysis& analysis) const override;
  std::vector<Finding> findings(const Design& design, const Analysis& analysis, UnitSystem units) const override;
  ExciterCircuit circuit;
  OscillationResult oscillation;
  double junction_c = 0, case_c = 0; // in the long run, at this supply
  std::optional<double> sink_c;
  std::optional<double> run_time_s;
  std::optional<Range> lamp_m;     // from the top, to where a lamp still lights; see lamp_lights_v_per_m
  std::vector<SupplyPoint> supply; // rising volts
};

/// Volts of the supply at which the collector reaches its rating, between the supplies that were run; breakdown is
/// not simulated, so that beyond it figures say nothing. Empty where none of them reaches it; the lowest supply
/// where that does already.
std::optional<double> supply_at_rating_v(const ExciterAnalysis& exciter, double rating_v);

const struct CoilKind& exciter_kind();
bool vary_exciter(Design& design, CraftGenes genes, const VaryParts& parts);
std::span<const struct Figure> exciter_figures();
/// The craft's rows in the tables that all kinds share.
std::span<const FieldSpec> exciter_fields();
std::span<const ChoiceSpec> exciter_choices();
std::span<const struct RunField> exciter_run_fields();
void analyse_exciter(const Design& design, const class TappedPrimary* primary, Analysis& out);
std::span<const FindingRule> exciter_rules();
std::vector<CheckItem> exciter_checks(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                      UnitSystem units);
std::vector<std::string> exciter_steps_after(const Design& design, const Analysis& analysis,
                                             const PowerAnalysis* power, UnitSystem units);

std::span<const struct FaultSymptom> exciter_symptoms();

/// "Runs for 40 s until the junction is at 150 °C" or that it can run on; never that it is safe.
std::string run_time_words(const ExciterAnalysis& exciter, const Design& design, UnitSystem units);

} // namespace arc

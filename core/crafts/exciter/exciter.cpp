// Circuit, run time over supply volts, single changes.
#include "crafts/exciter/exciter.h"

#include "coil/tapped_primary.h"
#include "file/validity.h"
#include "parts/topload.h"
#include "quantity/parallel.h"
#include "quantity/say.h"
#include "simulation/ideas.h"
#include "simulation/one_at_a_time.h"
#include "simulation/power.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double case_to_sink_k_per_w = 0.5; // with a pad or grease (common practice, no source)
constexpr double fan_on_sink = 0.35, fan_on_case = 0.7;

double air_c(const Design& design) {
  return design.site.air_temperature_c;
}

SupplyPoint point_of(const OscillationResult& r, const Design& design, const HeatPath& path) {
  SupplyPoint out{r.supply_v,
                  r.oscillates,
                  r.dissipation_w,
                  r.oscillates ? r.top_peak_v : 0,
                  r.collector_average_a,
                  r.collector_peak_v,
                  air_c(design) + final_rise_k(path, r.dissipation_w),
                  {}};
  out.run_time_s =
      time_to_rise_s(path, r.dissipation_w, design.exciter.transistor.junction_limit_c - air_c(design));
  return out;
}

// The resonator's charge taken as a point at its top: Coulomb's law turned round.
std::optional<Range> lamp_distance(const ExciterAnalysis& e) {
  if (!e.oscillation.oscillates) return {};
  const double charge_c = e.circuit.secondary_f * e.oscillation.top_peak_v;
  const auto distance = [&](double field) {
    return std::sqrt(charge_c / (4 * std::numbers::pi * eps0_f_per_m * field));
  };
  return Range{distance(lamp_lights_v_per_m.low), distance(lamp_lights_v_per_m.high)};
}

// Supplies to look at: the present one, and well beyond where the collector, which follows the supply, reaches its
// rating; what the rating could ever allow where nothing swings.
std::vector<double> supplies(const Exciter& e, const OscillationResult& now) {
  const double least = 1.6 * e.supply_voltage_v, most = std::max(least, 0.6 * e.transistor.voltage_rating_v);
  const double highest =
      now.oscillates
          ? std::clamp(1.5 * now.supply_v * e.transistor.voltage_rating_v / now.collector_peak_v, least, most)
          : most;
  constexpr int points = 8;
  std::vector<double> out{e.supply_voltage_v};
  for (int i = 1; i <= points; ++i) {
    const double volts = round_significant(highest * i / points, 2);
    if (std::abs(volts / e.supply_voltage_v - 1) > 0.03) out.push_back(volts);
  }
  std::ranges::sort(out);
  return out;
}

std::vector<Idea> ideas(const Design& d, UnitSystem units) {
  std::vector<Idea> out;
  const Exciter& e = d.exciter;
  const Say print{units, 2};
  for (const double factor : {0.5, 2.0}) {
    const double ohm = round_significant(e.bias_resistance_ohm * factor, 2);
    out.push_back({fmt::format("Bias resistor of {}", print(ohm, Dimension::resistance)),
                   [ohm](Design& x) { x.exciter.bias_resistance_ohm = ohm; }});
  }
  for (Idea& idea : primary_ideas(d, true, units)) out.push_back(std::move(idea));
  for (const double factor : {0.8, 1.25}) {
    const double volts = round_significant(e.supply_voltage_v * factor, 2);
    out.push_back({fmt::format("Supply of {}", print(volts, Dimension::voltage)),
                   [volts](Design& x) { x.exciter.supply_voltage_v = volts; }});
  }
  if (e.primary_reversed)
    out.push_back({"Swap the primary's two ends", [](Design& x) { x.exciter.primary_reversed = false; }});
  if (!d.topload.empty()) out.push_back({"No topload", [](Design& x) { x.topload.clear(); }});
  return out;
}

// Runs that are only compared with each other need not wait for the last per cent.
constexpr OscillationOptions quick{.coarse = true};

void try_changes(const Design& design, UnitSystem units, const Work& work, ExciterAnalysis& out) {
  const OscillationResult now = *simulate_oscillation(work.kept, out.circuit, quick, work.cancelled);
  const auto judge = [&](const Idea&, const Design& changed, const Analysis& analysis) {
    const OscillationResult r =
        *simulate_oscillation(work.kept, exciter_circuit(changed, analysis), quick, work.cancelled);
    // Where nothing swings now there is nothing to compare with: whatever starts it comes first.
    const double top = r.oscillates && now.oscillates ? r.top_peak_v / now.top_peak_v : 0;
    const double watts = now.dissipation_w > 0 ? r.dissipation_w / now.dissipation_w : 1;
    return TriedChange{.merit = !r.oscillates    ? 0
                                : now.oscillates ? top / std::sqrt(watts)
                                                 : 1e3,
                       .instead = top > 0        ? ""
                                  : r.oscillates ? "starts"
                                                 : "stops",
                       .ratios = {{"top_ratio", "Top", top}, {"watt_ratio", "heat in the transistor", watts}}};
  };
  out.changes = tried_ideas(design, ideas(design, units), units, work, judge);
  work.tell(0.7);
}

// The inputs' tolerances one at a time, on coarse runs.
void find_bands(const Analysis& analysis, const Work& work, ExciterAnalysis& out) {
  if (!out.oscillation.oscillates) return;
  const auto [detune, coupling] = circuit_doubt(analysis);
  constexpr double loss = 0.2, gain = 1.5, threshold_v = 0.5, supply = 0.02, resistor = 0.05;
  const auto run = [&](const ExciterCircuit& c) {
    const auto r = simulate_oscillation(work.kept, c, quick, work.cancelled);
    return FigureValues{{"frequency_hz", r->frequency_hz},
                        {"top_peak_v", r->oscillates ? r->top_peak_v : 0},
                        {"collector_average_a", r->collector_average_a},
                        {"dissipation_w", r->dissipation_w}};
  };
  const std::vector<std::function<void(ExciterCircuit&, double)>> inputs{
      [detune = detune](ExciterCircuit& c, double sign) { c.secondary_f *= std::exp(-2 * sign * detune); },
      [coupling = coupling](ExciterCircuit& c, double sign) { c.mutual_h *= std::exp(sign * coupling); },
      [&](ExciterCircuit& c, double sign) { c.secondary_ohm *= 1 + sign * loss; },
      [&](ExciterCircuit& c, double sign) { // the one that counts for its type
        c.transistor.forward_gain *= sign > 0 ? gain : 1 / gain;
        c.transistor.threshold_v += sign * threshold_v;
      },
      [&](ExciterCircuit& c, double sign) { c.supply_v *= 1 + sign * supply; },
      [&](ExciterCircuit& c, double sign) { c.bias_ohm *= 1 + sign * resistor; }};
  const FigureValues at = run(out.circuit);
  out.band = one_at_a_time<ExciterCircuit>(out.circuit, at, inputs, run, work.cancelled);
  work.tell(0.85);
}

void run_supplies(const Design& design, const HeatPath& path, const Work& work, ExciterAnalysis& out) {
  const std::vector<double> volts = supplies(design.exciter, out.oscillation);
  std::vector<std::optional<SupplyPoint>> points(volts.size());
  parallel_for(volts.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    ExciterCircuit c = out.circuit;
    c.supply_v = volts[i];
    c.supply_limit_a.reset(); // the plot says what the transistor stands, not what this supply gives
    try {
      points[i] = point_of(*simulate_oscillation(work.kept, c, quick, work.cancelled), design, path);
      points[i]->supply_v = volts[i];
    } catch (const std::invalid_argument&) { // this supply cannot be computed; the others can
    }
  });
  for (const std::optional<SupplyPoint>& point : points)
    if (point) out.supply.push_back(*point);
  work.tell(0.5);
}

} // namespace

ExciterCircuit exciter_circuit(const Design& design, const Analysis& analysis) {
  const CoilCircuit& coil = complete_circuit(analysis);
  const Exciter& e = design.exciter;
  ExciterCircuit out;
  out.supply_v = e.supply_voltage_v;
  out.supply_limit_a = e.supply_limit_a;
  out.bias_ohm = e.bias_resistance_ohm;
  out.primary_h = coil.primary_h + lead_inductance_h(design.primary);
  out.primary_ohm = coil.primary_ohm;
  out.mutual_h = (e.primary_reversed ? -1 : 1) * coil.coupling * std::sqrt(coil.primary_h * coil.secondary_h);
  out.secondary_h = coil.secondary_h;
  out.secondary_f = coil.secondary_f;
  out.secondary_ohm = coil.secondary_ohm;
  out.transistor = e.transistor;
  if (e.clamp != Clamp::none) out.clamp = e.clamp_diode;
  if (out.clamp && e.clamp != Clamp::zener) out.clamp->breakdown_v.reset();
  out.base_stray_f = e.base_stray_f;
  out.collector_stray_f = e.collector_stray_f;
  return out;
}

HeatPath exciter_heat_path(const Exciter& e) {
  const Transistor& t = e.transistor;
  if (e.sink_k_per_w)
    return {{t.junction_k_per_w, case_to_sink_k_per_w, *e.sink_k_per_w * (e.fan ? fan_on_sink : 1)},
            {t.junction_capacity_j_per_k, t.case_capacity_j_per_k, e.sink_capacity_j_per_k}};
  return {{t.junction_k_per_w, t.case_k_per_w * (e.fan ? fan_on_case : 1)},
          {t.junction_capacity_j_per_k, t.case_capacity_j_per_k}};
}

void analyse_exciter(const Design&, const TappedPrimary*, Analysis&) {
} // nothing is tuned: the coil's circuit says all there is at rest

void ExciterAnalysis::simulate(const Design& design, const Analysis& analysis, const PowerOptions& options,
                               UnitSystem units, const Work& work) {
  const HeatPath path = exciter_heat_path(design.exciter);
  circuit = exciter_circuit(design, analysis);
  OscillationOptions both;
  both.both_states = options.advice;
  oscillation = *simulate_oscillation(work.kept, circuit, both, work.cancelled);
  const double watts = oscillation.dissipation_w;
  const auto rises = final_rises_k(path, watts);
  junction_c = air_c(design) + rises[0];
  case_c = air_c(design) + rises[1];
  if (rises.size() > 2) sink_c = air_c(design) + rises[2];
  run_time_s = time_to_rise_s(path, watts, design.exciter.transistor.junction_limit_c - air_c(design));
  lamp_m = lamp_distance(*this);
  work.tell(0.2);
  if (options.variac) run_supplies(design, path, work, *this);
  if (!options.advice) return;
  try_changes(design, units, work, *this);
  find_bands(analysis, work, *this);
}

Drive ExciterAnalysis::drive(const Design&, const Analysis&) const {
  const OscillationResult& r = oscillation;
  return {r.frequency_hz, r.supply_w, r.collector_peak_v, r.collector_peak_a, r.top_peak_v};
}

std::string run_time_words(const ExciterAnalysis& e, const Design& design, UnitSystem units) {
  const std::string limit =
      format_quantity(design.exciter.transistor.junction_limit_c, Dimension::temperature, units, 3);
  if (!e.run_time_s)
    return fmt::format("The junction settles at {}, below its limit of {}.",
                       format_quantity(e.junction_c, Dimension::temperature, units, 3), limit);
  return fmt::format("Runs for {} until the junction is at {}.",
                     format_quantity(*e.run_time_s, Dimension::time, units, 2), limit);
}

std::optional<double> supply_at_rating_v(const ExciterAnalysis& e, double rating_v) {
  const SupplyPoint* before = nullptr;
  for (const SupplyPoint& p : e.supply) {
    if (p.oscillates && p.collector_peak_v > rating_v) {
      if (!before || !(p.collector_peak_v > before->collector_peak_v)) return p.supply_v;
      return std::lerp(before->supply_v, p.supply_v,
                       (rating_v - before->collector_peak_v) / (p.collector_peak_v - before->collector_peak_v));
    }
    before = &p;
  }
  return {};
}

} // namespace arc

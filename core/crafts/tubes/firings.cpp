// What a thyristor's firings do: those of the run, or, where it runs free of the mains, at every part of the wave.
#include "crafts/tubes/tube.h"
#include "quantity/parallel.h"

#include <algorithm>
#include <cmath>

namespace arc {
namespace {

constexpr double bare_hold_s = 0.5e-3; // beyond the gate's pulse: a thyristor that held no longer has not latched

double on_share(const TubeResult& r) {
  double on_s = 0;
  for (std::size_t i = 0; i < r.on_s.size(); ++i) on_s += (i < r.off_s.size() ? r.off_s[i] : r.to_s) - r.on_s[i];
  return std::clamp(on_s / std::max(r.to_s - r.from_s, 1e-9), 0.0, 1.0);
}

void tally(const TubeResult& r, const Staccato& s, Firings& out) {
  for (std::size_t i = 0; i < r.on_s.size(); ++i) {
    if (i >= r.off_s.size() && r.to_s - r.on_s[i] <= s.gate_s + bare_hold_s)
      continue; // too late in the run to tell
    ++out.fired;
    if (i >= r.off_s.size()) continue;
    const double held_s = r.off_s[i] - r.on_s[i];
    if (held_s > s.gate_s + bare_hold_s) continue;
    ++out.let_go;
    out.let_go_s = std::max(out.let_go_s, held_s);
  }
}

// Powers and currents as means over the phases, peaks at their worst; waveforms of the highest top volts.
TubeResult over_phases(const std::vector<std::shared_ptr<const TubeResult>>& runs, double share) {
  const auto highest = std::ranges::max_element(runs, {}, [](const auto& r) { return r->top_peak_v; });
  TubeResult out = **highest;
  const auto n = static_cast<double>(runs.size());
  for (double TubeResult::*mean :
       {&TubeResult::plate_input_w, &TubeResult::plate_dissipation_w, &TubeResult::grid_dissipation_w,
        &TubeResult::leak_w, &TubeResult::winding_w, &TubeResult::trap_w, &TubeResult::secondary_power_w,
        &TubeResult::thyristor_w, &TubeResult::arc_w, &TubeResult::stored_w, &TubeResult::balance_w,
        &TubeResult::plate_average_a, &TubeResult::grid_average_a}) {
    double sum = 0;
    for (const auto& r : runs) sum += (*r).*mean;
    out.*mean = share * sum / n;
  }
  for (double TubeResult::*rms : {&TubeResult::tank_rms_a, &TubeResult::feedback_rms_a, &TubeResult::line_rms_a,
                                  &TubeResult::thyristor_rms_a}) {
    double squares = 0;
    for (const auto& r : runs) squares += std::pow((*r).*rms, 2);
    out.*rms = std::sqrt(share * squares / n);
  }
  for (double TubeResult::*most :
       {&TubeResult::cathode_peak_a, &TubeResult::plate_most_v, &TubeResult::grid_most_v, &TubeResult::tank_peak_v,
        &TubeResult::rail_most_v, &TubeResult::cathode_most_v, &TubeResult::thyristor_peak_a})
    for (const auto& r : runs) out.*most = std::max(out.*most, (*r).*most);
  for (double TubeResult::*least : {&TubeResult::plate_least_v, &TubeResult::grid_least_v})
    for (const auto& r : runs) out.*least = std::min(out.*least, (*r).*least);
  out.oscillates = std::ranges::any_of(runs, [](const auto& r) { return r->oscillates; });
  out.stays_on = std::ranges::any_of(runs, [](const auto& r) { return r->stays_on; });
  return out;
}

} // namespace

FiredRun run_fired(const TubeCircuit& circuit, bool locked, const TubeOptions& options, const Work& work) {
  FiredRun out;
  if (!circuit.staccato || circuit.direct_v || locked) {
    out.run = *simulate_tube(work.kept, circuit, options, work.cancelled);
    if (!circuit.staccato) return out;
    tally(out.run, *circuit.staccato, out.firings);
    out.duty = on_share(out.run);
    return out;
  }
  // Free of the mains each firing meets another part of the wave, and over a beat all of them: the mean over evenly
  // spaced parts is that of the beat.
  constexpr std::size_t parts = 16;
  const double cycle_s = 1 / circuit.site.mains_frequency_hz, period_s = circuit.staccato->period_s;
  const double whole_s = std::ceil(period_s / cycle_s - 1e-6) * cycle_s;
  const bool alone = period_s > cycle_s; // one firing in a run of whole cycles
  std::vector<std::shared_ptr<const TubeResult>> runs(parts);
  parallel_for(parts, [&](std::size_t i) {
    TubeCircuit at = circuit;
    at.staccato->first_s = (static_cast<double>(i) + 0.5) / parts * std::min(cycle_s, period_s);
    if (alone) at.staccato->period_s = whole_s;
    runs[i] = simulate_tube(work.kept, at, options, work.cancelled);
  });
  if (work.cancelled) return out;
  const double share = alone ? whole_s / period_s : 1;
  out.run = over_phases(runs, share);
  out.duty = 0;
  for (const auto& r : runs) {
    tally(*r, *circuit.staccato, out.firings);
    out.duty += share * on_share(*r) / parts;
  }
  out.duty = std::min(out.duty, 1.0);
  return out;
}

} // namespace arc

// The bridge at rest and in its burst: figures, heat, single changes, bands, the map.
#include "analysis/tank_at_rest.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "crafts/bridges/bridge.h"
#include "field/resonator.h"
#include "file/validity.h"
#include "laws/circuit.h"
#include "parts/bank.h"
#include "quantity/parallel.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"
#include "simulation/ideas.h"
#include "simulation/one_at_a_time.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double tank_below = 0.05; // of the resonance, where arcs then pull it (common practice, no source)

// What the tank stands at most: at the over-current limit, or at the switches' pulse rating without one.
double tank_peak_v(const Design& design, double loop_h, double farad) {
  const double amps = design.bridge.current_limit_a.value_or(design.bridge.device.pulse_rating_a);
  return amps * std::sqrt(loop_h / farad);
}

// Arc length of a bridge: the rule of average power (1.7 inch x root of watts, an upper trend; common practice, no
// source) is met by coils of some hundred bursts a second; this share of it is an ordinary one.
constexpr double ordinary_arc = 0.4;

// At this many bursts a second arcs have grown as long as they will; more of them add light (common practice, no
// source). By energy a burst is taken as one of such a train.
constexpr double full_growth_hz = 120;

constexpr double rectifier_power_factor = 0.6; // of a reservoir straight behind a rectifier (common practice)

void add_tank_ideas(const Design& d, const Analysis& a, std::vector<Idea>& out) {
  if (!is_dual_resonant(d) || !a.resonator || d.equivalent.primary_inductance_h) return;
  for (const double below : {0.0, 0.03, 0.05, 0.08, 0.12}) {
    const double hz = a.resonator->mode_1_hz * (1 - below);
    const auto tap = tap_for_frequency(d, a.tank_rings_f, hz);
    if (!tap || std::abs(*tap - d.primary.tap_turns) < 0.02) continue;
    const double clip = std::round(*tap * 100) / 100;
    out.push_back({fmt::format("Tap at turn {:.2f}: tank {:.0f} % below the coil", clip, 100 * below),
                   [clip](Design& x) { x.primary.tap_turns = clip; }});
  }
}

std::vector<Idea> ideas(const Design& d, const Analysis& a, const BurstResult& now, UnitSystem units) {
  std::vector<Idea> out = primary_ideas(d, !is_dual_resonant(d), units);
  const Say print{units, 2};
  add_tank_ideas(d, a, out);
  const Bridge& b = d.bridge;
  if (b.feedback != Feedback::fixed) {
    out.push_back({b.reversed ? "Phase the right way round" : "Phase the other way round",
                   [](Design& x) { x.bridge.reversed = !x.bridge.reversed; }});
    if (const auto soft = soft_lead_s(b, now.frequency_hz)) {
      const double lead = round_significant(*soft, 2);
      if (std::abs(lead - b.lead_s) > 0.05 * lead)
        out.push_back({fmt::format("Phase lead of {}", print(lead, Dimension::time)),
                       [lead](Design& x) { x.bridge.lead_s = lead; }});
    }
    if (b.lead_s > 0) out.push_back({"No phase lead", [](Design& x) { x.bridge.lead_s = 0; }});
  } else if (a.circuit.resonance_hz <= 0) {
    return out;
  } else {
    const double k2 = a.circuit.coupling * a.circuit.coupling;
    const double pole = round_significant(a.circuit.resonance_hz / std::sqrt(1 - k2), 4);
    if (std::abs(pole / b.fixed_frequency_hz - 1) > 0.002 && !is_dual_resonant(d))
      out.push_back({fmt::format("Generator at {}", format_quantity(pole, Dimension::frequency, units, 4)),
                     [pole](Design& x) { x.bridge.fixed_frequency_hz = pole; }});
    out.push_back({"Take feedback from the secondary's base instead",
                   [](Design& x) { x.bridge.feedback = Feedback::foot_transformer; }});
  }
  for (const double factor : {0.6, 1.6}) {
    const double dead = round_significant(b.dead_time_s * factor, 2);
    out.push_back({fmt::format("Dead time of {}", print(dead, Dimension::time)),
                   [dead](Design& x) { x.bridge.dead_time_s = dead; }});
  }
  if (b.legs != BridgeLegs::full)
    out.push_back({"Full bridge", [](Design& x) { x.bridge.legs = BridgeLegs::full; }});
  if (!b.doubled && !b.bus_voltage_v && d.feed.empty())
    out.push_back({"Voltage doubler for the bus", [](Design& x) { x.bridge.doubled = true; }});
  const double longer = round_significant(d.interrupter.on_time_s * 1.3, 2);
  if (longer <= d.interrupter.longest_on_s)
    out.push_back({fmt::format("On-time of {}", print(longer, Dimension::time)),
                   [longer](Design& x) { x.interrupter.on_time_s = longer; }});
  return out;
}

std::shared_ptr<const BurstResult> figures_of(const Design& design, const Analysis& a, double bus_share,
                                              const Work& work) {
  return burst_figures(work.kept, burst_circuit(design, a, design.interrupter.on_time_s, true, bus_share),
                       work.cancelled);
}

// How much better the arc of a burst is: by what it gets, where both break out; else by the energy at the top,
// which goes as the square of its volts.
double arc_gain(const BurstResult& then, const BurstResult& now) {
  const double tops = now.top_peak_v > 0 ? then.top_peak_v / now.top_peak_v : 0;
  return then.breakout_s && now.breakout_s && now.streamer_j > 0 ? then.streamer_j / now.streamer_j : tops * tops;
}

void try_changes(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work,
                 BridgeAnalysis& out) {
  const auto now = figures_of(design, analysis, out.bus_share, work);
  const auto ratio = [](double then, double before) { return before > 0 ? then / before : then > 0 ? 1e3 : 1; };
  const auto judge = [&](const Idea&, const Design& changed, const Analysis& a) {
    const auto r = figures_of(changed, a, out.bus_share, work);
    const double loss = ratio(r->device_j() + r->edges_j(), now->device_j() + now->edges_j());
    TriedChange change{.merit = arc_gain(*r, *now) / std::sqrt(std::max(loss, 1e-3)),
                       .ratios = {{"top_ratio", "Top", ratio(r->top_peak_v, now->top_peak_v)},
                                  {"energy_ratio", "energy of a burst", ratio(r->bus_j, now->bus_j)},
                                  {"loss_ratio", "loss in the switches", loss}}};
    change.frequency_hz = r->frequency_hz;
    return change;
  };
  out.changes = tried_ideas(design, ideas(design, analysis, *now, units), units, work, judge);
}

// The inputs' tolerances one at a time: resonance and coupling by their bands, Q by 20 %, bus by 5 % (EN 50160
// allows the mains 10 %; value from memory), delay of the chain by 20 % (assumption), tank by its marking.
void find_bands(const Design& design, const Analysis& analysis, const Work& work, BridgeAnalysis& out) {
  const auto [detune, coupling] = circuit_doubt(analysis);
  const double tank = design.tank.unit_tolerance.value_or(usual_capacitor_tolerance) / 2;
  const auto run = [&](const BurstCircuit& c) {
    const auto r = burst_figures(work.kept, c, work.cancelled);
    FigureValues f{{"frequency_hz", r->frequency_hz},
                   {"primary_peak_a", r->primary_peak_a},
                   {"top_peak_v", r->top_peak_v},
                   {"bus_energy_j", r->bus_j},
                   {"device_loss_j", r->device_j() + r->edges_j()},
                   {"end_s", r->end_s}};
    if (c.series_f) f["tank_peak_v"] = r->series_peak_v;
    return f;
  };
  std::vector<std::function<void(BurstCircuit&, double)>> inputs{
      [detune = detune](BurstCircuit& c, double sign) {
        for (WindingMode& m : c.modes) m.capacitance_f *= std::exp(-2 * sign * detune);
      },
      [coupling = coupling](BurstCircuit& c, double sign) {
        for (WindingMode& m : c.modes) m.mutual_h *= std::exp(sign * coupling);
      },
      [](BurstCircuit& c, double sign) {
        for (WindingMode& m : c.modes) m.resistance_ohm *= 1 + 0.2 * sign;
      },
      [](BurstCircuit& c, double sign) { c.bus_v *= 1 + 0.05 * sign; },
      [](BurstCircuit& c, double sign) { c.delay_s *= 1 + 0.2 * sign; }};
  if (is_dual_resonant(design))
    inputs.emplace_back([tank](BurstCircuit& c, double sign) { *c.series_f *= 1 + tank * sign; });
  const FigureValues at = run(out.circuit);
  const double pole_hz = at.at("frequency_hz"), end_s = at.at("end_s");
  constexpr double later = 0.15; // the end of a burst that trips in the same cycle moves less
  OtherCourses others{[&](const FigureValues& way) {
                        return is_other_pole(way.at("frequency_hz"), pole_hz) ||
                               std::abs(way.at("end_s") / end_s - 1) > later;
                      },
                      {}};
  out.band = one_at_a_time<BurstCircuit>(out.circuit, at, inputs, run, work.cancelled,
                                         is_dual_resonant(design) ? &others : nullptr);
  out.band.erase("end_s");
  for (const FigureValues& way : others.ways) {
    if (is_other_pole(way.at("frequency_hz"), pole_hz)) out.other_pole_hz = way.at("frequency_hz");
    if (way.at("end_s") > end_s * (1 + later) &&
        (!out.longer_burst || way.at("top_peak_v") > out.longer_burst->top_peak_v))
      out.longer_burst = {way.at("end_s"), way.at("top_peak_v"), way.at("bus_energy_j")};
  }
}

// Of the path to the bus: the mains by 5 % as above, its reservoir by 20 % (usual of electrolytics, common
// practice, no source), a burst by the band of its energy.
void find_mains_bands(const Design& design, const Work& work, BridgeAnalysis& out) {
  if (!out.mains) return;
  const double energy =
      out.burst.bus_j > 0 && out.band.contains("bus_energy_j") ? out.band.at("bus_energy_j") / out.burst.bus_j : 0;
  const auto figures = [](const MainsResult& m) {
    return FigureValues{{"mains_bus_v", m.bus_v},           {"mains_ripple_v", m.ripple_v},
                        {"mains_droop_v", m.droop_v},       {"mains_line_a", m.line_current_a},
                        {"mains_input_w", m.input_power_w}, {"mains_inrush_a", m.inrush_a},
                        {"mains_limiter_j", m.limiter_j},   {"mains_reservoir_a", m.reservoir_a}};
  };
  const std::vector<std::function<void(Design&, double)>> inputs{
      [](Design& d, double sign) { d.site.mains_voltage_v *= 1 + 0.05 * sign; },
      [](Design& d, double sign) { scale_store(d, &StoreKeys::capacitance, 1 + 0.2 * sign); }};
  const auto bands = one_at_a_time<Design>(
      design, figures(*out.mains), inputs,
      [&](const Design& d) { return figures(simulate_mains(d.feed, d.site, out.mains_load, work.cancelled)); },
      work.cancelled);
  const auto by_load = one_at_a_time<MainsLoad>(
      out.mains_load, figures(*out.mains), {[energy](MainsLoad& load, double sign) {
        load.energy_j *= std::pow(1 + energy, sign); // a burst that may trip or not can have more than itself
        load.rms_a *= std::pow(1 + energy, sign / 2);
      }},
      [&](const MainsLoad& load) {
        return figures(simulate_mains(design.feed, design.site, load, work.cancelled));
      },
      work.cancelled);
  for (const auto& [key, band] : bands)
    if (const auto more = by_load.find(key); more != by_load.end()) out.band[key] = std::hypot(band, more->second);
}

// The burst as the interrupter's limits leave it: as long as asked, and again as long as is left of that.
void run_burst(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
               const Work& work, BridgeAnalysis& out) {
  out.circuit = burst_circuit(design, analysis, design.interrupter.on_time_s, options.lumped, out.bus_share);
  out.burst = *simulate_burst(work.kept, out.circuit, BurstOptions{}, work.cancelled);
  try {
    out.plan = plan_pulses(design.interrupter, design.site.mains_frequency_hz, units,
                           [&](double on_s) { return burst_energy_by(out.burst, out.circuit, on_s); });
  } catch (const std::invalid_argument& refusal) {
    out.plan_problem = refusal.what();
    return;
  }
  if (!(out.plan.on_s < 0.999 * out.burst.end_s)) return; // it tripped before, or nothing held it
  out.circuit = burst_circuit(design, analysis, out.plan.on_s, options.lumped, out.bus_share);
  out.burst = *simulate_burst(work.kept, out.circuit, BurstOptions{}, work.cancelled);
}

void find_cures(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work,
                BridgeAnalysis& out) {
  if (!is_dual_resonant(design) && switch_peak_a(out.burst) > design.bridge.device.pulse_rating_a)
    out.enough_turns = turns_within_rating(design, out, units, work);
  if (wanted_hz(analysis, out) > out.chain_hz)
    out.slow_enough_turns = turns_within_chain(design, analysis, out, units, work);
  if (design.bridge.feedback == Feedback::fixed || design.bridge.reversed || work.cancelled) return;
  if (!out.burst.locked || out.burst.glitches > 0)
    out.cleaner = cleaner_signal(design, analysis, out, work);
  else if (hard_share(out.burst) > tolerable_hard_share)
    out.softer = softer_edges(design, analysis, out, work);
}

// From the bus at full variac, tank in tune or generator on the pole, as long a burst.
double full_power_w(const Design& design, const Analysis& analysis, const Work& work, const BridgeAnalysis& b) {
  const FeedBlock* variac = find_block(design.feed, BlockRole::variac);
  const double rise =
      variac && !design.bridge.bus_voltage_v ? std::max(1.0, 1 / block_value(*variac, "setting")) : 1;
  double watts = b.average_w;
  BurstCircuit c = burst_circuit(design, analysis, b.circuit.on_s, true, b.bus_share);
  c.bus_v *= rise;
  const auto look = [&](const BurstCircuit& at) {
    const auto r = burst_figures(work.kept, at, work.cancelled);
    if (!work.cancelled) watts = std::max(watts, std::max(0.0, r->bus_net_j) * b.plan.rate_hz);
  };
  look(c);
  if (is_dual_resonant(design) && analysis.tuned_capacitance_f) c.series_f = *analysis.tuned_capacitance_f;
  if (c.signal == BurstSignal::fixed) c.frequency_hz = burst_poles_hz(c).front();
  look(c);
  return watts;
}

void find_averages(const Design& design, const Analysis& analysis, BridgeAnalysis& out) {
  const BurstResult& r = out.burst;
  out.average_w = std::max(0.0, r.bus_net_j) * out.plan.rate_hz;
  out.peak_w = r.end_s > 0 ? r.bus_j / r.end_s : 0;
  out.line_a = out.average_w / rectifier_power_factor / design.site.mains_voltage_v;
  out.series_rms_a = std::sqrt(r.primary_a2s * out.plan.rate_hz);
  out.heat = switch_heat(design, r, out.plan);
  out.turn_offs = turn_offs(design.bridge, r, out.circuit.bus_v);
  out.snubber.burst_w = design.bridge.snubber_f * out.circuit.bus_v * out.circuit.bus_v * r.mean_hz;
  out.snubber.average_w = out.snubber.burst_w * std::min(1.0, r.end_s * out.plan.rate_hz);
  if (design.bridge.legs == BridgeLegs::half_split)
    out.capacitor_a = out.series_rms_a / 2;
  else if (design.bridge.legs == BridgeLegs::half_blocking && !is_dual_resonant(design))
    out.capacitor_a = out.series_rms_a;
  if (is_dual_resonant(design)) {
    const double hz = r.frequency_hz > 0 ? r.frequency_hz : out.poles.front();
    out.duty.load = {r.series_peak_v, out.series_rms_a, 2 * std::numbers::pi * hz * r.series_peak_v, hz};
    out.duty.stress = bank_stress(design.tank, out.duty.load);
    out.duty.rate_hz = out.plan.rate_hz;
    out.duty.what = "bursts";
  }
  out.signal_v = input_signal_v(design, analysis, r.top_peak_v, r.foot_peak_a, r.primary_peak_a);
}

// Share of the primary's current, effective and at its peak, that the reservoir gives: a half bridge returns it
// between two capacitors, each of which takes half; into a blocking capacitor it flows in every other half wave.
std::pair<double, double> share_of_bus(BridgeLegs legs) {
  switch (legs) {
  case BridgeLegs::half_split:
    return {0.5, 0.5};
  case BridgeLegs::half_blocking:
    return {1 / std::numbers::sqrt2, 1};
  case BridgeLegs::full:
    break;
  }
  return {1, 1};
}

MainsLoad mains_load(const Design& design, const BridgeAnalysis& b) {
  if (!b.plan_problem.empty()) return {};
  const auto [effective, peak] = share_of_bus(design.bridge.legs);
  MainsLoad load{b.average_w / b.plan.rate_hz, b.circuit.bus_v, b.burst.end_s, b.plan.rate_hz};
  load.first_s = design.interrupter.locked ? b.plan.first_s : 0;
  load.rms_a = effective * b.series_rms_a;
  load.peak_a = peak * b.burst.primary_peak_a;
  return load;
}

// The mains under the bursts, and the burst from the bus that is then there.
void load_the_bus(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                  const Work& work, BridgeAnalysis& b) {
  if (design.feed.empty()) return;
  try {
    b.mains_load = mains_load(design, b);
    b.mains = simulate_mains(work.kept, design, b.mains_load, work.cancelled);
  } catch (const std::invalid_argument& refusal) {
    b.mains_problem = refusal.what();
    return;
  }
  if (work.cancelled) return;
  if (!design.bridge.bus_voltage_v) { // else as measured, loaded
    b.bus_share = b.mains->start_v / b.mains->unloaded_v;
    run_burst(design, analysis, options, units, work, b);
    if (!b.plan_problem.empty() || work.cancelled) return;
    find_averages(design, analysis, b);
  }
  b.line_a = b.mains->line_current_a;
}

} // namespace

// What only blocks or splits the bus rings far below the coil: no pole that a drive takes.
std::vector<double> BridgeAnalysis::poles_hz() const {
  constexpr double octave = 2;
  return poles.size() > 1 && poles.back() < octave * poles.front() ? poles : std::vector<double>();
}

std::vector<std::string> BridgeAnalysis::to_another_pole() const {
  std::vector<std::string> out;
  if (poles_hz().empty() || !(burst.frequency_hz > 0)) return out;
  const double between_hz = std::sqrt(poles.front() * poles.back());
  for (const TriedChange& change : changes)
    if (change.frequency_hz > 0 && (change.frequency_hz > between_hz) != (burst.frequency_hz > between_hz) &&
        is_other_pole(change.frequency_hz, burst.frequency_hz))
      out.push_back(change.title);
  return out;
}

std::optional<ArcBasis> BridgeAnalysis::arc_basis(const Design&, const Analysis&) const {
  if (!problem.empty() || !plan_problem.empty()) return {};
  ArcBasis out;
  out.power_w = average_w;
  out.transferred = burst.bus_net_j > 0 ? (burst.secondary_j + burst.streamer_j) / burst.bus_net_j : 0;
  out.m_per_root_w = {ordinary_arc * arc::longest_arc_m(1), arc::longest_arc_m(1)};
  out.top_v = burst.top_peak_v;
  out.joined = burst.breakout_s.has_value();
  return out;
}

double burst_as_train(const BridgeAnalysis& b) {
  return b.plan.rate_hz > 0 ? std::sqrt(full_growth_hz / b.plan.rate_hz) : 1;
}

double BridgeAnalysis::longest_arc_m() const {
  return arc::longest_arc_m(std::max(full_w, plan.rate_hz > 0 ? full_w / plan.rate_hz * full_growth_hz : 0));
}

double burst_energy_by(const BurstResult& r, const BurstCircuit& c, double on_s) {
  if (r.samples.empty() || on_s >= r.end_s) return r.bus_j;
  const auto at = std::ranges::lower_bound(r.samples, on_s, {}, &BurstSample::time_s);
  const double v = at == r.samples.end() ? r.samples.back().bus_v : at->bus_v;
  return c.reservoir_f / 2 * (c.bus_v * c.bus_v - v * v);
}

std::optional<ArcByLog> arc_by_log(const Design& design, double line_a) {
  std::vector<double> each; // metres for the root of an ampere: of a watt, at one power factor
  for (const Run& run : design.runs) {
    const auto arc = run.observations.find("arc_length_m"), amps = run.observations.find("line_current_a");
    if (arc == run.observations.end() || amps == run.observations.end()) continue;
    if (arc->second > 0 && amps->second > 0) each.push_back(arc->second / std::sqrt(amps->second));
  }
  if (each.size() < 2 || !(line_a > 0)) return {};
  std::ranges::sort(each);
  const std::size_t n = each.size();
  const double middle = (each[(n - 1) / 2] + each[n / 2]) / 2;
  return ArcByLog{middle * std::sqrt(line_a), (each.back() - each.front()) / 2 / middle, static_cast<int>(n)};
}

void analyse_bridge(const Design& design, const TappedPrimary* primary, Analysis& out) {
  if (!out.has_tank) return;
  out.tank_capacitance_f = tank_capacitance_f(design.tank);
  out.tank_rings_f = out.tank_capacitance_f;
  if (design.bridge.legs == BridgeLegs::half_split) { // the current returns through both, side by side
    const double split_f = 2 * design.bridge.split_capacitance_f;
    out.tank_rings_f = out.tank_capacitance_f * split_f / (out.tank_capacitance_f + split_f);
  }
  if (!primary) return;
  const double loop_h = tank_loop_h(out);
  analyse_tank(design, *primary, tank_peak_v(design, loop_h, out.tank_capacitance_f), out);
  if (!out.resonator) return;
  const auto [silent, source] = silent_coil(design, out);
  out.target_hz = silent * (1 - tank_below);
  out.target_source = "5 % below " + source + ", where arcs pull it";
  // Arcs of half to the whole length of the winding, 1 pF for each 0.3 m (common practice, no source).
  const double own = out.resonator->effective_capacitance_f;
  const auto pulled = [&, silent = silent](double arc_m) { return loaded_by_arc_hz(silent, own, arc_m); };
  out.loaded_hz = {pulled(design.secondary.winding_length_m), pulled(design.secondary.winding_length_m / 2)};
  tune_tank(design, *primary, out);
}

void BridgeAnalysis::simulate(const Design& design, const Analysis& analysis, const PowerOptions& options,
                              UnitSystem units, const Work& work) {
  chain_hz = chain_limit_hz(design.bridge);
  run_burst(design, analysis, options, units, work, *this);
  poles = burst_poles_hz(circuit);
  gate = gate_transformer(design.bridge, burst.frequency_hz > 0 ? burst.frequency_hz : poles.back());
  if (plan_problem.empty() && !work.cancelled) find_averages(design, analysis, *this);
  work.tell(0.2);
  load_the_bus(design, analysis, options, units, work, *this);
  if (plan_problem.empty() && !work.cancelled) full_w = full_power_w(design, analysis, work, *this);
  if (plan_problem.empty()) arc_by_log = arc::arc_by_log(design, line_a);
  work.tell(0.3);
  if (!options.advice) return;
  try_changes(design, analysis, units, work, *this);
  work.tell(0.7);
  find_bands(design, analysis, work, *this);
  find_mains_bands(design, work, *this);
  find_cures(design, analysis, units, work, *this);
}

Drive BridgeAnalysis::drive(const Design&, const Analysis&) const {
  return {burst.frequency_hz, mains ? mains->input_power_w : average_w, circuit.bus_v, burst.primary_peak_a,
          burst.top_peak_v};
}

TriedMap bridge_map(const Design& design, const Analysis& analysis, double bus_share, int across,
                    const Work& work) {
  using enum Dimension;
  const Primary& p = design.primary;
  TriedMap out{.across = {"primary.turns", "Primary turns", number, p.turns, {}},
               .up = {"primary.base_height_m", "Lowest turn", length, p.base_height_m, {}},
               .quantities = {{"power_w", "Power in the burst", power},
                              {"primary_peak_a", "Primary current", current},
                              {"coupling", "Coupling", number},
                              {"loss_share", "Switches' share of the energy", fraction},
                              {"top_peak_v", "Top voltage", voltage}},
               .idle = "it does not lock",
               .apply = [](Design& d, double turns, double height_m) {
                 d.primary.turns = d.primary.tap_turns = std::max(1.0, std::round(turns * 2) / 2);
                 d.primary.base_height_m = std::round(height_m * 1000) / 1000;
               }};
  // From half to twice the turns, and 6 cm either way, above the floor and clear of nothing else: it is a map.
  const double low = std::max(1.0, std::floor(p.turns / 2)), high = std::max(low + 2, std::ceil(p.turns * 2));
  const double lowest_m = std::max(0.01, p.base_height_m - 0.06);
  for (int i = 0; i < across; ++i) {
    const double part = across > 1 ? static_cast<double>(i) / (across - 1) : 0;
    out.across.values.push_back(low + part * (high - low));
    out.up.values.push_back(std::lerp(lowest_m, p.base_height_m + 0.06, part));
  }
  const auto n = static_cast<std::size_t>(across);
  out.places.resize(n * n);
  Tally done;
  parallel_for(n * n, [&](std::size_t i) {
    const double turns = out.across.values[i % n];
    if (work.cancelled) return;
    Design changed = design;
    changed.primary.turns = changed.primary.tap_turns = turns;
    changed.primary.base_height_m = out.up.values[i / n];
    try {
      Analysis a = analysis; // the resonator stays; a moved primary changes inductance and coupling only
      const double own = primary_inductance_at_h(changed.primary, turns);
      const double mutual = coarse_mutual_h(work.kept, changed.primary, turns, design.secondary);
      a.circuit.primary_h = own;
      a.circuit.coupling = std::abs(mutual) / std::sqrt(own * analysis.secondary_inductance_h);
      a.circuit.primary_ohm *= turns / p.turns;
      const auto r = burst_figures(
          work.kept, burst_circuit(changed, a, design.interrupter.on_time_s, true, bus_share), work.cancelled);
      out.places[i] = {r->locked,
                       {r->end_s > 0 ? r->bus_j / r->end_s : 0, r->primary_peak_a, a.circuit.coupling,
                        r->bus_j > 0 ? (r->device_j() + r->edges_j()) / r->bus_j : 0, r->top_peak_v},
                       0};
    } catch (const std::invalid_argument&) { // a primary that cannot be
    }
    done.add([&](int so_far) { work.tell(static_cast<double>(so_far) / static_cast<double>(n * n)); });
  });
  return out;
}

} // namespace arc

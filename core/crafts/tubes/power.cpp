// A tube coil at rest and its run: heat, loads of tank and feed, bands.
#include "analysis/analyse.h"
#include "analysis/tank_at_rest.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "crafts/tubes/power_parts.h"
#include "crafts/tubes/tube.h"
#include "file/validity.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "quantity/parallel.h"
#include "simulation/feed_findings.h"
#include "simulation/ideas.h"
#include "simulation/one_at_a_time.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {

namespace {

// Of the resonance: output peaks where the tank meets the resonator as arcs load it, one to three per cent down; a
// little below that it keeps the lower pole (own runs of oscillators like those of tests/data/solved-tubes.json; no
// source).
constexpr double tank_below = 0.02;

constexpr double swing_over_supply =
    1.1; // of the tank, at most, at rest: a tube swings it nearly as far as its supply

// What ends at the plate, without a run: for the coil at rest.
double crest_at_rest_v(const Design& d) {
  TubeCircuit c;
  c.site = d.site;
  c.direct_v = direct_supply_v(d);
  if (!c.direct_v && !is_flame(d) && d.equivalent.supply_emf_v)
    c.shifter = ShifterSupply{*d.equivalent.supply_emf_v, 1, 1, 1, 1, 1};
  c.feed = d.feed;
  const bool known = c.direct_v || c.shifter || feed_problem(d.feed, FeedEnd::plate).empty();
  return known ? crest_supply_v(c) : 0;
}

// Metres of arc by the input while it is fired: 4 to 9 mm for each root of a watt, short and thick on a supply that
// runs through, longer in bursts (common practice, no source).
constexpr Range tube_arc_m_per_root_w{0.004, 0.009};

double silent_top_v(const TubePower& t) {
  TubeCircuit c = t.circuit;
  c.arc = ArcLoad::never;
  const auto b = tube_balance(c, t.crest_v);
  return b ? b->top_peak_v : 0;
}

} // namespace

std::optional<TubeBalance> balance_of(const Design& d, const Analysis& a) {
  const TubeCircuit c = circuit_of(d, a, true);
  return tube_balance(c, crest_supply_v(c));
}

namespace {

// One at a time on the balance, relative, then put on the full run's figures: resonance and coupling by their
// bands, Q by 20 %, the tube's perveance by 15 % and µ by 10 % (tubes of one type differ so; common practice, no
// source), grid leak by 5 %, tank by its marking, supply by 5 %.
void find_bands(const Design& design, const Analysis& analysis, const Work& work, TubePower& out) {
  const auto [detune, coupling] = circuit_doubt(analysis);
  const double tank = design.tank.unit_tolerance.value_or(usual_capacitor_tolerance) / 2;
  struct State {
    TubeCircuit c;
    double rail_v;
  };
  const State middle{circuit_of(design, analysis, true), out.crest_v};
  const auto run = [](const State& s) {
    const auto b = tube_balance(s.c, s.rail_v);
    if (!b) throw std::invalid_argument("it does not swing");
    return FigureValues{{"frequency_hz", b->frequency_hz},
                        {"plate_input_w", b->plate_input_w},
                        {"plate_dissipation_w", b->plate_dissipation_w},
                        {"secondary_power_w", b->secondary_power_w},
                        {"top_peak_v", b->top_peak_v}};
  };
  const std::vector<std::function<void(State&, double)>> inputs{
      [detune = detune](State& s, double sign) { s.c.modes.front().capacitance_f *= std::exp(-2 * sign * detune); },
      [coupling = coupling](State& s, double sign) { s.c.modes.front().mutual_h *= std::exp(sign * coupling); },
      [](State& s, double sign) { s.c.modes.front().resistance_ohm *= 1 + 0.2 * sign; },
      [](State& s, double sign) {
        s.c.law.perveance *= 1 + 0.15 * sign;
        s.c.law.grid_perveance *= 1 + 0.15 * sign;
      },
      [](State& s, double sign) { s.c.law.mu *= 1 + 0.1 * sign; },
      [](State& s, double sign) { s.c.grid_leak_ohm *= 1 + 0.05 * sign; },
      [tank](State& s, double sign) { s.c.tank_f *= 1 + tank * sign; },
      [](State& s, double sign) { s.rail_v *= 1 + 0.05 * sign; }};
  if (!tube_balance(middle.c, middle.rail_v)) return;
  const FigureValues at = run(middle);
  const FigureValues full{{"frequency_hz", out.run.frequency_hz},
                          {"plate_input_w", out.run.plate_input_w},
                          {"plate_dissipation_w", out.run.plate_dissipation_w},
                          {"secondary_power_w", out.run.secondary_power_w},
                          {"top_peak_v", out.run.top_peak_v}};
  const double pole_hz = at.at("frequency_hz");
  OtherCourses others{[pole_hz](const FigureValues& way) { return is_other_pole(way.at("frequency_hz"), pole_hz); },
                      {}};
  const FigureValues bands = one_at_a_time<State>(middle, at, inputs, run, work.cancelled, &others);
  if (!others.ways.empty()) out.other_pole_hz = others.ways.front().at("frequency_hz");
  for (const auto& [key, half] : bands)
    if (at.at(key) > 0) out.band[key] = half / at.at(key) * full.at(key);
}

// The tube that takes most of what several share, and how long plate and grid stand it.
void share_heat(const Design& d, TubePower& out) {
  const TubeOscillator& t = d.tube;
  const double count = tube_count(d), most = count > 1 ? 1 + t.sharing : 1;
  out.worst_plate_w = out.run.plate_dissipation_w / count * most;
  out.worst_grid_w = out.run.grid_dissipation_w / count * most;
  out.plate_time_s = time_to_limit_s(out.worst_plate_w / t.tube.plate_dissipation_w, t.tube.plate_heat_s);
  out.grid_time_s = time_to_limit_s(out.worst_grid_w / t.tube.grid_dissipation_w, t.tube.grid_heat_s);
}

void square_load(const Design& d, double ohm, const Work& work, TubePower& out) {
  try {
    FeedLoads loads = simulate_plate_feed(d.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    // Between firings, and as the oscillator lets go, leakage and capacitors ring the supply above what a resistor
    // lets it reach: diodes and joints behind the rectifier see that.
    for (DiodeLoad& diode : loads.diodes) diode.inverse_v = std::max(diode.inverse_v, out.run.rail_most_v);
    for (JointLoad& joint : loads.joints)
      if (!joint.mains && &joint >= &loads.joints.back() - 1)
        joint.peak_v = std::max(joint.peak_v, out.run.rail_most_v);
    out.mains = std::make_shared<const FeedLoads>(std::move(loads));
  } catch (const std::invalid_argument& refusal) {
    out.mains_problem = refusal.what();
  }
}

// In what a flame coil's resonator is wound on: by the mean square of its radio frequency, which stands on the
// supply's volts.
double lost_in_form_w(const Design& d, const TubePower& t) {
  const double peak_v = t.run.top_peak_v - (t.on_mains ? t.run.rail_most_v : t.crest_v);
  double square = peak_v * peak_v;
  if (t.on_mains && !t.run.samples.empty()) {
    square = 0;
    for (const TubeSample& s : t.run.samples) square += std::pow(std::max(0.0, s.top_v - s.rail_v), 2);
    square /= static_cast<double>(t.run.samples.size());
  }
  return form_loss(d.flame.form) * std::numbers::pi * t.run.frequency_hz * t.circuit.modes.front().capacitance_f *
         square;
}

// Watts while it is fired, at full variac and with the tank in tune: of the larger of the run, scaled as a supply's
// power goes with the square of its volts, and of the balance there.
double full_power_w(const Design& d, const Analysis& a, const TubePower& t) {
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  const double rise = variac ? std::max(1.0, 1 / block_value(*variac, "setting")) : 1;
  double watts = t.run.plate_input_w / std::max(t.duty, 1e-3) * rise * rise;
  TubeCircuit c = circuit_of(d, a, true);
  if (!is_flame(d) && a.tuned_capacitance_f) c.tank_f = *a.tuned_capacitance_f;
  if (const auto b = tube_balance(c, t.crest_v * rise)) {
    // On a swinging supply the mean is about half of what the crest's volts take: (sin^2).
    watts = std::max(watts, b->plate_input_w * (t.circuit.direct_v ? 1 : 0.5));
  }
  return watts;
}

// A small capacitor sags with every cycle, and a large one may ring less with the leakage than a middling one: the
// least that gives nearly what the best of those tried does.
void try_shifters(const Design& d, double ohm, const Work& work, TubePower& out) {
  const auto place = level_shifter_at(d);
  if (!place || !out.mains) return;
  constexpr std::array factors{1.0, 1.5, 2.2, 3.3, 4.7, 6.8, 10.0};
  constexpr double worth = 1.3, nearly = 0.9;
  const double now_f = block_value(d.feed[*place], "capacitance_f");
  std::array<double, factors.size()> square{}; // of the rail
  parallel_for(factors.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    Design tried = d;
    tried.feed[*place].values["capacitance_f"] = factors[i] * now_f;
    const FeedLoads loads = simulate_plate_feed(tried.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    square[i] = loads.joints.back().rms_v * loads.joints.back().rms_v;
  });
  if (work.cancelled || !(square[0] > 0)) return;
  const double best = *std::ranges::max_element(square);
  if (best < worth * square[0]) return;
  const auto enough = std::ranges::find_if(square, [&](double each) { return each >= nearly * best; });
  const auto i = static_cast<std::size_t>(enough - square.begin());
  out.better_shifter = {*place, round_significant(factors[i] * now_f, 2), square[i] / square[0]};
}

// The feed's load by the power that the run took of it.
void load_feed(const Design& d, const Work& work, TubePower& out) {
  if (out.circuit.feed.empty() || !(out.run.plate_input_w > 0)) return;
  if (!out.on_mains) { // at its crest: a resistor that takes this power there
    square_load(d, out.crest_v * out.crest_v / out.run.plate_input_w, work, out);
    return;
  }
  double square = 0;
  for (const TubeSample& s : out.run.samples)
    if (s.time_s >= out.run.from_s) square += s.rail_v * s.rail_v;
  const auto count =
      std::ranges::count_if(out.run.samples, [&](const TubeSample& s) { return s.time_s >= out.run.from_s; });
  if (count == 0) return;
  const double ohm = std::max(10.0, square / static_cast<double>(count) / out.run.plate_input_w);
  square_load(d, ohm, work, out);
  try_shifters(d, ohm, work, out);
}

} // namespace

double supply_at_most_v(const Design& design, const TubePower* tube) {
  return std::max(crest_at_rest_v(design), tube ? tube->supply_most_v() : 0);
}

double gate_stands_off_v(const Design& design, const TubePower* tube) {
  return std::max(
      {design.tube.thyristor_voltage_v, supply_at_most_v(design, tube), tube ? tube->run.cathode_most_v : 0});
}

double TubePower::longest_arc_m() const {
  return tube_arc_m_per_root_w.high * std::sqrt(full_w);
}

std::optional<ArcBasis> TubePower::arc_basis(const Design&, const Analysis&) const {
  if (!problem.empty() || !run.oscillates) return {};
  ArcBasis out;
  out.power_w = run.plate_input_w / std::max(duty, 1e-3); // while it is fired
  out.transferred = run.plate_input_w > 0 ? run.secondary_power_w / run.plate_input_w : 0;
  out.m_per_root_w = tube_arc_m_per_root_w;
  // With its arc on all the time the top stands lower than what broke out.
  out.top_v = circuit.arc == ArcLoad::always ? std::max(run.top_peak_v, silent_top_v) : run.top_peak_v;
  out.joined = run.breakout_s.has_value();
  return out;
}

std::optional<double> time_to_limit_s(double settled, double time_constant_s) {
  if (settled <= 1) return {};
  return -time_constant_s * std::log1p(-1 / settled);
}

double plate_warmth_w(const Design& design, const TubePower& tube, double seconds) {
  return tube.worst_plate_w * -std::expm1(-seconds / design.tube.tube.plate_heat_s);
}

std::optional<QuickDrive> quick_drive(const Design& design, const Analysis& analysis) {
  try {
    const auto b = balance_of(design, analysis);
    if (!b) return {};
    return QuickDrive{b->frequency_hz, b->plate_input_w, b->secondary_power_w, b->plate_dissipation_w,
                      b->top_peak_v};
  } catch (const std::invalid_argument&) { // the full run says why
    return {};
  }
}

void analyse_tube(const Design& design, const TappedPrimary* primary, Analysis& out) {
  out.quick = quick_drive(design, out);
  if (!out.has_tank) return;
  out.tank_capacitance_f = tank_capacitance_f(design.tank);
  if (!primary) return;
  const double halves = design.tube.push_pull ? 2 : 1; // of the plate coil, each swung by a tube
  analyse_tank(design, *primary, halves * swing_over_supply * crest_at_rest_v(design), out);
  if (!out.resonator) return;
  const auto [silent, source] = silent_coil(design, out);
  out.target_hz = silent * (1 - tank_below);
  out.target_source = "2 % below " + source + ", where arcs pull it";
  const double own = out.resonator->effective_capacitance_f;
  const auto pulled = [&, silent = silent](double arc_m) { return loaded_by_arc_hz(silent, own, arc_m); };
  out.loaded_hz = {pulled(design.secondary.winding_length_m), pulled(design.secondary.winding_length_m / 4)};
  tune_tank(design, *primary, out);
}

// The run: whole cycles on a swinging or fired supply, else direct current.
void run_it(const Design& design, const PowerOptions& options, const Work& work, TubePower& t) {
  TubeOptions run{.waveforms = options.waveforms};
  t.on_mains = !t.circuit.direct_v || t.circuit.staccato;
  run.mains = t.on_mains;
  // Enough for the supply to settle; a whole firing period where there is one.
  constexpr int settled = 4;
  if (run.mains && !t.circuit.staccato) run.cycles = settled;
  FiredRun fired = run_fired(t.circuit, design.interrupter.locked, run, work);
  t.run = std::move(fired.run);
  t.firings = fired.firings;
  t.duty = fired.duty;
}

void load_tank(const Design& design, TubePower& t) {
  TankDuty& duty = t.duty_of_tank;
  duty.rate_hz = design.site.mains_frequency_hz;
  duty.what = "swings of the supply";
  if (is_flame(design)) return;
  const double omega = 2 * std::numbers::pi * t.run.frequency_hz;
  duty.load = {t.run.tank_peak_v, t.run.tank_rms_a, omega * t.run.tank_peak_v, t.run.frequency_hz};
  duty.stress = bank_stress(design.tank, duty.load);
}

void TubePower::simulate(const Design& design, const Analysis& analysis, const PowerOptions& options,
                         UnitSystem units, const Work& work) {
  filament = filament_plan(design);
  circuit = circuit_of(design, analysis, options.lumped);
  crest_v = crest_supply_v(circuit);
  start = tube_start(circuit, crest_v);
  balance = tube_balance(circuit, crest_v);
  work.tell(0.1);
  run_it(design, options, work, *this);
  work.tell(0.5);
  share_heat(design, *this);
  silent_top_v = arc::silent_top_v(*this);
  load_tank(design, *this);
  full_w = full_power_w(design, analysis, *this);
  form_w = lost_in_form_w(design, *this);
  load_feed(design, work, *this);
  work.tell(0.6);
  if (options.variac) {
    sweep_numbers(design, analysis, work, *this);
    read_meters(design, analysis, work, *this);
  }
  if (!options.advice) return;
  try_changes(design, analysis, units, work, *this);
  find_waste(design, analysis, units, work, *this);
  if (balance && run.oscillates) find_bands(design, analysis, work, *this);
}

Drive TubePower::drive(const Design&, const Analysis&) const {
  return {run.frequency_hz, mains ? mains->input_power_w : run.plate_input_w, run.tank_peak_v,
          std::numbers::sqrt2 * run.tank_rms_a, run.top_peak_v};
}

} // namespace arc

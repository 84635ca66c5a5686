// Integration of the exciter's equations, and what its last cycles show.
#include "crafts/exciter/oscillation.h"

#include "circuit/stiff.h"
#include "circuit/waves.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>
#include <unsupported/Eigen/AutoDiff>

namespace arc {
namespace {

// Positions in the state: primary and foot current, volts of top, base, inner base (behind its resistance),
// collector.
enum Place { ip, is, vt, vx, vi, vc, places };
using Slopes = Eigen::Matrix<double, places, 1>;
using Dual = Eigen::AutoDiffScalar<Slopes>;

constexpr double kt = thermal_voltage_v;
constexpr double junction_v = 0.75, grading = 0.33, clamp_junction_v = 1, clamp_grading = 0.5;
constexpr double zener_knee_a = 1e-3;       // at the stated breakdown
constexpr double body_saturation_a = 1e-12; // of a field-effect transistor's own diode

// exp(x), continued straight where it would leave the range of numbers.
template <typename S>
S bounded_exp(const S& x) {
  constexpr double most = 60;
  if (x < most) return exp(x);
  return S(std::exp(most) * (1.0 + (x - most)));
}

// Charge of a depletion layer, as capacitance at `v` forward (SPICE's form, straight above half the junction's
// volts).
template <typename S>
S depletion_f(double zero_f, const S& v, double junction, double grade) {
  if (v < junction / 2) return S(zero_f * exp(-grade * log(1.0 - v / junction)));
  const double f2 = std::pow(0.5, 1 + grade), f3 = 1 - 0.5 * (1 + grade);
  return S(zero_f / f2 * (f3 + grade * v / junction));
}

template <typename S>
struct DeviceState {
  S base_a, collector_a; // into the device, without what charges it
  S base_emitter_f, base_collector_f;
};

template <typename S>
DeviceState<S> junction_device(const Transistor& t, const S& base, const S& base_collector) {
  const S forward = S(bounded_exp(S(base / kt))), backward = S(bounded_exp(S(base_collector / kt)));
  const S icc = S(t.saturation_current_a * (forward - 1.0)), iec = S(t.saturation_current_a * (backward - 1.0));
  return {S(icc / t.forward_gain + iec / t.reverse_gain), S(icc - iec - iec / t.reverse_gain),
          S(depletion_f(t.emitter_junction_f, base, junction_v, grading) +
            t.transit_time_s * t.saturation_current_a / kt * forward),
          S(depletion_f(t.collector_junction_f, base_collector, junction_v, grading) +
            t.reverse_transit_time_s * t.saturation_current_a / kt * backward)};
}

// Square law between drain and source, whichever is higher.
template <typename S>
S channel_a(const Transistor& t, const S& gate, const S& across) {
  const S above = S(gate - t.threshold_v);
  if (above <= 0.0) return S(0.0 * gate);
  if (across >= above) return S(t.transconductance_a_per_v2 / 2 * above * above);
  return S(t.transconductance_a_per_v2 * across * (above - across / 2));
}

template <typename S>
DeviceState<S> field_device(const Transistor& t, const S& gate, const S& gate_drain) {
  const S across = S(gate - gate_drain);
  const S channel = across >= 0.0 ? channel_a(t, gate, across) : S(-channel_a(t, gate_drain, S(-across)));
  const S body = S(body_saturation_a * (bounded_exp(S(-across / kt)) - 1.0));
  return {S(0.0 * gate), S(channel - body), S(t.gate_source_f + 0.0 * gate), S(t.gate_drain_f + 0.0 * gate)};
}

// Current from ground through the clamp into the base.
template <typename S>
S clamp_a(const ClampDiode& d, const S& base) {
  S out = S(d.saturation_current_a * (bounded_exp(S(-base / (d.emission * kt))) - 1.0));
  if (d.breakdown_v) out = S(out - zener_knee_a * bounded_exp(S((base - *d.breakdown_v) / kt)));
  return out;
}

template <typename S>
S clamp_f(const ClampDiode& d, const S& base) {
  const S forward = S(-base);
  return S(depletion_f(d.capacitance_f, forward, clamp_junction_v, clamp_grading) +
           d.transit_time_s * d.saturation_current_a / (d.emission * kt) *
               bounded_exp(S(forward / (d.emission * kt))));
}

// Slopes of the state. `get(place)` gives the state, `put(place, value)` takes a slope.
template <typename S, typename Get, typename Put>
void slopes_of(const ExciterCircuit& c, double supply_v, const Get& get, const Put& put) {
  const S ip_ = get(ip), is_ = get(is), vt_ = get(vt), vx_ = get(vx), vi_ = get(vi), vc_ = get(vc);
  const double det = c.primary_h * c.secondary_h - c.mutual_h * c.mutual_h;
  const S over_primary = S(supply_v - c.primary_ohm * ip_ - vc_);
  const S over_secondary = S(vx_ - vt_ - c.secondary_ohm * is_);
  put(ip, S((c.secondary_h * over_primary - c.mutual_h * over_secondary) / det));
  put(is, S((c.primary_h * over_secondary - c.mutual_h * over_primary) / det));
  put(vt, S(is_ / c.secondary_f));
  const Transistor& t = c.transistor;
  const DeviceState<S> q = t.type == TransistorType::mos ? field_device<S>(t, vi_, S(vi_ - vc_))
                                                         : junction_device<S>(t, vi_, S(vi_ - vc_));
  const S into_base = S((vx_ - vi_) / t.base_resistance_ohm);
  S at_base = S((supply_v - vx_) / c.bias_ohm - is_ - into_base);
  S base_f = S(c.base_stray_f + 0.0 * vx_);
  if (c.clamp) {
    at_base = S(at_base + clamp_a(*c.clamp, vx_));
    base_f = S(base_f + clamp_f(*c.clamp, vx_));
  }
  put(vx, S(at_base / base_f));
  const double out_f = c.collector_stray_f + (t.type == TransistorType::mos ? t.drain_source_f : 0);
  const S a = S(q.base_emitter_f + q.base_collector_f), b = q.base_collector_f, d = S(q.base_collector_f + out_f);
  const S charge_base = S(into_base - q.base_a), charge_collector = S(ip_ - q.collector_a);
  const S charges = S(a * d - b * b);
  put(vi, S((d * charge_base + b * charge_collector) / charges));
  put(vc, S((a * charge_collector + b * charge_base) / charges));
}

// One circuit as the integrator sees it.
struct Equations {
  const ExciterCircuit& circuit;
  double supply_v;
  void slopes(const Slopes& y, Slopes& out) const {
    slopes_of<double>(
        circuit, supply_v, [&](Place p) { return y(p); }, [&](Place p, double value) { out(p) = value; });
  }
  void jacobian(const Slopes& y, Eigen::Matrix<double, places, places>& out) const {
    slopes_of<Dual>(
        circuit, supply_v, [&](Place p) { return Dual(y(p), places, p); },
        [&](Place p, const Dual& value) { out.row(p) = value.derivatives().transpose(); });
  }
};
using Integration = StiffRun<places, Equations>;

Integration start_run(const ExciterCircuit& c, double supply_v, double top_v, double longest_step, bool coarse) {
  const double absolute = coarse ? 1e-4 : 1e-5, relative = 10 * absolute;
  Slopes start = Slopes::Zero();
  start(vt) = top_v;
  return {Equations{c, supply_v}, absolute, relative, longest_step, start};
}

constexpr int samples_a_cycle = 128;
constexpr int cycles_a_block = 24;

using State = std::array<double, places>;

struct Block {
  std::vector<State> states;
  double begin_s = 0, step_s = 0;
};

// What a block of cycles shows.
struct Seen {
  double from_s = 0, to_s = 0; // whole cycles
  int cycles = 0;
  double swing_v = 0; // half of what the top goes through
  double low_peak_v = 0, high_peak_v = 0;
  OscillationResult figures; // averages and peaks
};

double mean_between(const Block& b, double from, double to, const auto& value) {
  double sum = 0, weight = 0;
  for (std::size_t i = 0; i + 1 < b.states.size(); ++i) {
    const double at = static_cast<double>(i);
    const double part = std::min(at + 1, to) - std::max(at, from);
    if (part <= 0) continue;
    sum += part * (value(b.states[i]) + value(b.states[i + 1])) / 2;
    weight += part;
  }
  return weight > 0 ? sum / weight : 0;
}

Seen look_at(const Block& b, const ExciterCircuit& c, double supply_v) {
  Seen out;
  std::vector<double> crossings; // rising, of the foot's current, in samples
  for (std::size_t i = 0; i + 1 < b.states.size(); ++i)
    if (b.states[i][is] <= 0 && b.states[i + 1][is] > 0)
      crossings.push_back(static_cast<double>(i) + b.states[i][is] / (b.states[i][is] - b.states[i + 1][is]));
  double from = 0, to = static_cast<double>(b.states.size() - 1);
  if (crossings.size() > 3) {
    from = crossings.front();
    to = crossings.back();
    out.cycles = static_cast<int>(crossings.size()) - 1;
  }
  out.from_s = b.begin_s + from * b.step_s;
  out.to_s = b.begin_s + to * b.step_s;
  OscillationResult& f = out.figures;
  double lowest = b.states.front()[vt], highest = lowest;
  f.base_least_v = f.base_peak_v = b.states.front()[vx];
  for (const State& s : b.states) {
    lowest = std::min(lowest, s[vt]);
    highest = std::max(highest, s[vt]);
    f.collector_peak_a = std::max(f.collector_peak_a, s[ip]);
    f.collector_peak_v = std::max(f.collector_peak_v, s[vc]);
    f.base_least_v = std::min(f.base_least_v, s[vx]);
    f.base_peak_v = std::max(f.base_peak_v, s[vx]);
    f.foot_peak_a = std::max(f.foot_peak_a, std::abs(s[is]));
  }
  f.top_peak_v = std::max(highest, -lowest);
  out.swing_v = (highest - lowest) / 2;
  out.low_peak_v = out.high_peak_v = highest;
  for (std::size_t k = 0; k + 1 < crossings.size(); ++k) {
    double peak = 0;
    for (auto i = static_cast<std::size_t>(crossings[k]); i <= static_cast<std::size_t>(crossings[k + 1]); ++i)
      peak = std::max(peak, std::abs(b.states[i][vt]));
    out.low_peak_v = std::min(k == 0 ? peak : out.low_peak_v, peak);
    out.high_peak_v = std::max(k == 0 ? peak : out.high_peak_v, peak);
  }
  const auto mean = [&](const auto& value) { return mean_between(b, from, to, value); };
  f.collector_average_a = mean([](const State& s) { return s[ip]; });
  f.supply_w = supply_v * mean([&](const State& s) { return s[ip] + (supply_v - s[vx]) / c.bias_ohm; });
  f.dissipation_w = mean(
      [&](const State& s) { return s[vc] * s[ip] + s[vx] * (s[vx] - s[vi]) / c.transistor.base_resistance_ohm; });
  f.clamp_w = c.clamp ? mean([&](const State& s) { return -s[vx] * clamp_a<double>(*c.clamp, s[vx]); }) : 0;
  f.bias_w = mean([&](const State& s) { return std::pow(supply_v - s[vx], 2) / c.bias_ohm; });
  f.primary_w = c.primary_ohm * mean([](const State& s) { return s[ip] * s[ip]; });
  f.secondary_w = c.secondary_ohm * mean([](const State& s) { return s[is] * s[is]; });
  if (out.cycles > 0) f.frequency_hz = out.cycles / (out.to_s - out.from_s);
  return out;
}

constexpr std::array averages{&OscillationResult::collector_average_a,
                              &OscillationResult::supply_w,
                              &OscillationResult::dissipation_w,
                              &OscillationResult::clamp_w,
                              &OscillationResult::bias_w,
                              &OscillationResult::primary_w,
                              &OscillationResult::secondary_w};
constexpr std::array peaks{&OscillationResult::collector_peak_a, &OscillationResult::collector_peak_v,
                           &OscillationResult::base_peak_v, &OscillationResult::top_peak_v,
                           &OscillationResult::foot_peak_a};

// Averages and extremes over the second half of a run that swells and fades.
OscillationResult over_beats(const std::vector<Seen>& all) {
  OscillationResult out;
  double time_s = 0, cycles = 0;
  const auto first = all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2);
  out.top_low_v = all.empty() ? 0 : first->low_peak_v;
  for (auto it = first; it != all.end(); ++it) {
    const OscillationResult& f = it->figures;
    const double weight = it->to_s - it->from_s;
    time_s += weight;
    cycles += it->cycles;
    for (const auto member : averages) out.*member += weight * f.*member;
    for (const auto member : peaks) out.*member = std::max(out.*member, f.*member);
    out.base_least_v = std::min(out.base_least_v, f.base_least_v);
    out.top_low_v = std::min(out.top_low_v, it->low_peak_v);
    out.top_high_v = std::max(out.top_high_v, it->high_peak_v);
  }
  const double whole_s = std::max(time_s, 1e-30);
  for (const auto member : averages) out.*member /= whole_s;
  out.frequency_hz = cycles / whole_s;
  return out;
}

std::vector<OscillationSample> last_cycles(const Block& b, int cycles) {
  std::vector<OscillationSample> out;
  const std::size_t wanted = std::min(b.states.size(), static_cast<std::size_t>(cycles * samples_a_cycle));
  for (std::size_t i = b.states.size() - wanted; i < b.states.size(); ++i) {
    const State& s = b.states[i];
    out.push_back({static_cast<double>(out.size()) * b.step_s, s[vc], s[ip], s[vx], s[vt], s[is]});
  }
  return out;
}

// One run from one start, at one supply voltage.
OscillationResult run(const ExciterCircuit& c, double supply_v, double start_top_v,
                      const OscillationOptions& options, const std::atomic<bool>& cancelled) {
  const double natural_hz = 1 / (2 * std::numbers::pi * std::sqrt(c.secondary_h * c.secondary_f));
  const double quality = 2 * std::numbers::pi * natural_hz * c.secondary_h / c.secondary_ohm;
  const double step_s = 1 / (natural_hz * samples_a_cycle);
  // Six time constants of the ringing, so that what is left of the start is below a per cent of a per cent.
  // A ringing that takes longer is not followed to its end and then not called steady.
  const int most_blocks = std::max(8, options.most_cycles / cycles_a_block);
  const int least_blocks = static_cast<int>(
      std::clamp(std::ceil(2 * quality / cycles_a_block), 5.0, static_cast<double>(most_blocks - 2)));

  Integration integration = start_run(c, supply_v, start_top_v, 8 * step_s, options.coarse);
  std::vector<std::pair<double, double>> rising; // time and top voltage, each higher than all before
  Seen seen, before;
  std::vector<Seen> all;
  Block block;
  bool steady = false, quiet = false;
  for (int done = 0; done < most_blocks && !steady && !quiet && !cancelled; ++done) {
    before = seen;
    block = {{}, done * cycles_a_block * samples_a_cycle * step_s, step_s};
    for (int k = 0; k <= cycles_a_block * samples_a_cycle && !cancelled; ++k) {
      const double at = block.begin_s + k * step_s;
      State s;
      Slopes::Map(s.data()) = integration.at(at);
      if (std::abs(s[vt]) > (rising.empty() ? 0 : rising.back().second)) rising.emplace_back(at, std::abs(s[vt]));
      block.states.push_back(s);
    }
    if (cancelled) break;
    seen = look_at(block, c, supply_v);
    all.push_back(seen);
    if (done < least_blocks) continue;
    quiet = seen.swing_v < 1e-3 * supply_v;
    steady = quiet || (std::abs(seen.swing_v - before.swing_v) < 1e-3 * seen.swing_v &&
                       seen.high_peak_v - seen.low_peak_v < 2e-3 * seen.high_peak_v);
  }
  OscillationResult out = steady ? seen.figures : over_beats(all);
  out.natural_hz = natural_hz;
  out.supply_v = supply_v;
  out.oscillates = !quiet && seen.cycles > 0 && seen.swing_v > 0.02 * supply_v;
  out.steady = steady;
  if (!out.oscillates) out.frequency_hz = 0;
  if (steady) {
    out.top_low_v = seen.low_peak_v;
    out.top_high_v = seen.high_peak_v;
  }
  for (const auto& [time_s, top_v] : rising)
    if (out.oscillates && top_v >= out.top_peak_v / 2) {
      out.start_s = time_s;
      break;
    }
  out.samples = last_cycles(block, 6);
  return out;
}

double supply_a(const OscillationResult& r) {
  return r.supply_v > 0 ? r.supply_w / r.supply_v : 0;
}

// The voltage at which a supply with a limit just gives its greatest current, to 2 %, found by short runs;
// `whole_a` is drawn, too much, at the voltage that is set.
double limited_supply_v(const ExciterCircuit& c, double whole_a, const OscillationOptions& options,
                        const std::atomic<bool>& cancelled) {
  OscillationOptions search;
  search.most_cycles = 240;
  search.coarse = options.coarse;
  double now = c.supply_v, drawn = whole_a, high = now, low = 0;
  for (int step = 0; step < 8 && !cancelled; ++step) {
    if (step > 0) drawn = supply_a(run(c, now, 0, search, cancelled));
    if (std::abs(drawn / *c.supply_limit_a - 1) < 0.02) return now;
    (drawn > *c.supply_limit_a ? high : low) = now;
    const double guess = now * *c.supply_limit_a / drawn;
    now = guess > low && guess < high ? guess : (low + high) / 2;
  }
  return now;
}

} // namespace

std::string circuit_problem(const ExciterCircuit& c) {
  const auto need = [](double value, const char* what, Dimension dimension) {
    return value > 0 && std::isfinite(value)
               ? std::string()
               : fmt::format("{} must be above 0, not {}", what, format_quantity(value, dimension));
  };
  for (const auto& [value, what, dimension] :
       {std::tuple{c.supply_v, "the supply's voltage", Dimension::voltage},
        {c.bias_ohm, "the bias resistor", Dimension::resistance},
        {c.primary_h, "the primary's inductance", Dimension::inductance},
        {c.secondary_h, "the resonator's inductance", Dimension::inductance},
        {c.secondary_f, "the resonator's capacitance", Dimension::capacitance},
        {c.secondary_ohm, "the resonator's resistance", Dimension::resistance},
        {c.transistor.base_resistance_ohm, "the base's resistance", Dimension::resistance},
        {c.base_stray_f, "the stray capacitance at the base", Dimension::capacitance},
        {c.collector_stray_f, "the stray capacitance at the collector", Dimension::capacitance}})
    if (std::string problem = need(value, what, dimension); !problem.empty()) return problem;
  if (c.mutual_h * c.mutual_h >= c.primary_h * c.secondary_h)
    return "the coupling is 1 or more, which no pair of coils can have";
  return {};
}

OscillationResult simulate_oscillation(const ExciterCircuit& circuit, const OscillationOptions& options,
                                       const std::atomic<bool>& cancelled) {
  if (std::string problem = circuit_problem(circuit); !problem.empty()) throw std::invalid_argument(problem);
  try {
    double supply_v = circuit.supply_v;
    OscillationResult out = run(circuit, supply_v, options.start_top_v, options, cancelled);
    if (circuit.supply_limit_a && supply_a(out) > *circuit.supply_limit_a) {
      supply_v = limited_supply_v(circuit, supply_a(out), options, cancelled);
      out = run(circuit, supply_v, options.start_top_v, options, cancelled);
    }
    out.limited = supply_v < circuit.supply_v;
    const double scale =
        out.oscillates ? out.top_high_v : supply_v * std::sqrt(circuit.secondary_h / circuit.primary_h);
    for (const double start : {1.5 * scale, 4 * scale}) {
      if (!options.both_states || cancelled || out.other_top_v) break;
      OscillationOptions glance = options; // enough where it settles soon
      glance.most_cycles = std::min(options.most_cycles, 300);
      glance.coarse = true;
      OscillationResult other = run(circuit, supply_v, start, glance, cancelled);
      if (!other.steady) other = run(circuit, supply_v, start, options, cancelled); // still on its way
      const double here = out.oscillates ? out.top_high_v : 0, there = other.oscillates ? other.top_high_v : 0;
      const double apart = out.steady && other.steady ? 0.02 : 0.1; // beats are not the same from run to run
      if (std::abs(here - there) > apart * std::max(here, there)) out.other_top_v = there;
    }
    return out;
  } catch (const StiffProblem& problem) {
    throw std::invalid_argument(problem.what());
  }
}

std::string oscillation_csv(const OscillationResult& result) {
  return waves_csv<OscillationSample>(result.samples, {{"collector_v", &OscillationSample::collector_v},
                                                       {"collector_a", &OscillationSample::collector_a},
                                                       {"base_v", &OscillationSample::base_v},
                                                       {"top_v", &OscillationSample::top_v},
                                                       {"foot_a", &OscillationSample::foot_a}});
}

std::shared_ptr<const OscillationResult> simulate_oscillation(Kept& kept, const ExciterCircuit& circuit,
                                                              const OscillationOptions& options,
                                                              const std::atomic<bool>& cancelled) {
  const OscillationStep step{circuit, options};
  return kept.get(step, cancelled, [&] { return simulate_oscillation(circuit, options, cancelled); });
}

} // namespace arc

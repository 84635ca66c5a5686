// Shot: circuit from the analysis, simulation, netlist.
#include "circuit/shot.h"

#include "circuit/deck.h"
#include "field/loss.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "parts/wire.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double least_ohm = 1e-6; // stands for none

// Mutual inductance of the primary with a current that has this shape along the winding (1 at the base).
double shaped_mutual_h(const std::vector<Ring>& primary, const std::vector<Ring>& winding,
                       const std::vector<ProfilePoint>& profile) {
  double total = 0;
  std::size_t k = 1;
  for (const Ring& ring : winding) {
    while (k + 1 < profile.size() && profile[k].height_m < ring.height_m) ++k;
    const ProfilePoint &a = profile[k - 1], &b = profile[k];
    const double part = b.height_m > a.height_m
                            ? std::clamp((ring.height_m - a.height_m) / (b.height_m - a.height_m), 0.0, 1.0)
                            : 0;
    const double current = a.current + part * (b.current - a.current);
    total += current * coil_mutual_h(primary, std::vector<Ring>{ring});
  }
  return total;
}

// The primary's field cannot be caught by more than the whole of all modes.
void expect_physical(const ShotCircuit& c) {
  double caught = 0;
  for (const ShotMode& m : c.modes) caught += m.mutual_h * m.mutual_h / (c.loop_h * m.inductance_h);
  if (caught >= 1) throw std::invalid_argument("the coupling is 1 or more, which no pair of coils can have");
  constexpr double highest_hz = 50e6; // no gap drives anything near as fast, and following it would take minutes
  const ShotMode& first = c.modes.front();
  const double hz =
      std::max(resonance_hz(first.inductance_h, first.capacitance_f), resonance_hz(c.loop_h, c.tank_f));
  if (hz > highest_hz)
    throw std::invalid_argument(fmt::format("the shot would ring at {}; what a gap drives is followed up to {}",
                                            format_quantity(hz, Dimension::frequency),
                                            format_quantity(highest_hz, Dimension::frequency)));
}

// Difference of the two frequencies of tank and first mode when coupled.
double beat_hz(const ShotCircuit& c) {
  const ShotMode& m = c.modes.front();
  const double wp = 1 / (c.loop_h * c.tank_f), ws = 1 / (m.inductance_h * m.capacitance_f);
  const double k2 = m.mutual_h * m.mutual_h / (c.loop_h * m.inductance_h);
  const double middle = (wp + ws) / (2 * (1 - k2));
  const double spread = std::sqrt(std::max(0.0, middle * middle - wp * ws / (1 - k2)));
  return (std::sqrt(middle + spread) - std::sqrt(middle - spread)) / (2 * std::numbers::pi);
}

// The winding's own modes, each with its own coupling; a measured coupling scales them all.
void add_modes(const Design& design, const Analysis& a, ShotCircuit& c) {
  const auto winding = solenoid_rings(secondary_mean_radius_m(design.secondary), design.secondary.turns,
                                      design.secondary.winding_length_m, design.secondary.base_height_m);
  const auto primary = primary_rings(design.primary, used_turns(design));
  const double scale = design.equivalent.coupling ? *design.equivalent.coupling / a.coupling : 1;
  for (const ModeShape& mode : a.resonator->modes) {
    // For base current i: stored charge energy q^2/2C with q = Ces v_top, so C = Ces^2 / C_energy.
    const double omega = 2 * std::numbers::pi * mode.frequency_hz;
    const double capacitance =
        mode.effective_capacitance_f * mode.effective_capacitance_f / mode.energy_capacitance_f;
    const double inductance = 1 / (omega * omega * capacitance);
    // All modes share the first one's quality factor at their frequency, as skin loss grows with its root.
    const double q = a.quality_factor * std::sqrt(mode.frequency_hz / a.resonator->mode_1_hz);
    c.modes.push_back({inductance, capacitance, omega * inductance / q,
                       scale * shaped_mutual_h(primary, winding, mode.profile),
                       capacitance / mode.effective_capacitance_f});
  }
}

} // namespace

ShotCircuit shot_circuit(const Design& design, const Analysis& a, const ShotOptions& options) {
  const CoilCircuit& coil = a.circuit;
  if (!coil.complete())
    throw std::invalid_argument(a.problem.empty() ? "the coil is not given as a whole yet" : a.problem);
  const Equivalent& measured = design.equivalent;
  const bool resonator_measured = measured.secondary_inductance_h || measured.secondary_capacitance_f ||
                                  measured.secondary_resistance_ohm || !a.resonator;
  ShotCircuit c{};
  c.tank_f = tank_capacitance_f(design.tank);
  c.tank_v = options.tank_voltage_v.value_or(design.gap.firing_voltage_v);
  c.loop_h = coil.primary_h + lead_inductance_h(design.primary);
  const double mutual_h = coil.coupling * std::sqrt(coil.primary_h * coil.secondary_h);
  if (options.ideal) {
    c.loop_ohm = c.arc_ohm = least_ohm;
    c.modes = {{coil.secondary_h, coil.secondary_f, least_ohm, mutual_h, 1}};
  } else {
    c.loop_ohm = measured.primary_resistance_ohm || !a.has_primary
                     ? std::max(least_ohm, coil.primary_ohm)
                     : primary_resistance_ohm(design, a, resonance_hz(c.loop_h, c.tank_f));
    c.arc_ohm = std::max(least_ohm, design.gap.arc_resistance_ohm);
    c.arc_drop_v = arc_drop_v(design.gap);
    if (options.lumped || resonator_measured)
      c.modes = {{coil.secondary_h, coil.secondary_f, coil.secondary_ohm, mutual_h, 1}};
    else
      add_modes(design, a, c);
    if (a.breakout) c.breakout_v = a.breakout->voltage_v;
    // About 1 pF for each 0.3 m behind a few hundred kilo-ohms (common practice), at the middle of the expected
    // band.
    c.streamer_f = (a.expected_arc_m.low + a.expected_arc_m.high) / 2 / 0.3 * 1e-12;
    c.streamer_ohm = 220e3;
  }
  if (std::abs(c.tank_v) <= c.arc_drop_v)
    throw std::invalid_argument(fmt::format(
        "the burning gap would take {}, more than the {} it fires at: nothing passes it; check the arc drop",
        format_quantity(c.arc_drop_v, Dimension::voltage), format_quantity(c.tank_v, Dimension::voltage)));
  expect_physical(c);
  c.beat_s = 1 / std::max(beat_hz(c), 1 / options.duration_s / 50);
  return c;
}

namespace {

// The network and where things are in it.
struct Built {
  Network network;
  std::size_t tank = 0, primary = 0, gap = 0, arc = 0;
  std::vector<std::size_t> mode_capacitor, mode_inductor;
  std::optional<std::size_t> streamer;
};

Built build(const ShotCircuit& c) {
  Built out;
  Network& n = out.network;
  const Node top = n.add_node(), after_gap = n.add_node(), after_arc = n.add_node(), coil = n.add_node();
  out.tank = n.capacitors.size();
  n.capacitors.push_back({"tank", top, 0, c.tank_f, c.tank_v});
  out.gap = n.switches.size();
  n.switches.push_back({"gap", top, after_gap, c.arc_ohm, 1e9, false, true});
  out.arc = n.sources.size();
  n.sources.push_back({after_gap, after_arc, c.arc_drop_v, 0});
  n.resistors.push_back({after_arc, coil, c.loop_ohm});
  out.primary = n.inductors.size();
  n.inductors.push_back({"primary", coil, 0, c.loop_h});
  for (std::size_t k = 0; k < c.modes.size(); ++k) {
    const ShotMode& mode = c.modes[k];
    const Node inductor = n.add_node(), capacitor = n.add_node();
    out.mode_inductor.push_back(n.inductors.size());
    n.inductors.push_back({fmt::format("mode {}", k + 1), inductor, 0, mode.inductance_h});
    n.couplings.push_back({out.primary, out.mode_inductor.back(), mode.mutual_h});
    n.resistors.push_back({inductor, capacitor, mode.resistance_ohm});
    out.mode_capacitor.push_back(n.capacitors.size());
    n.capacitors.push_back({fmt::format("mode {}", k + 1), capacitor, 0, mode.capacitance_f});
    if (k > 0 || !(c.breakout_v > 0) || !(c.streamer_f > 0)) continue;
    // A load at the top seen from the mode's capacitor: impedances over the square of the voltage ratio.
    const double scale = mode.top_per_v * mode.top_per_v;
    const Node branch = n.add_node();
    out.streamer = n.switches.size();
    n.switches.push_back({"streamer", capacitor, branch, c.streamer_ohm / scale, 1e12, false, false});
    n.capacitors.push_back({"streamer", branch, 0, c.streamer_f * scale});
  }
  return out;
}

// The primary current's envelope, one half cycle at a time. A notch shows only once it has passed.
class NotchFinder {
 public:
  explicit NotchFinder(int wanted) : wanted_(wanted) {}

  /// A half cycle of this peak has ended with this energy in the primary. True when the wanted notch has passed.
  bool passed(double peak_a, double energy_j) {
    energies_j_.push_back(energy_j);
    largest_a_ = std::max(largest_a_, peak_a);
    if (falling_ && peak_a > before_a_ && before_a_ < 0.35 * largest_a_) {
      ++notches_;
      falling_ = false;
    }
    if (peak_a < before_a_) falling_ = true;
    before_a_ = peak_a;
    return notches_ >= wanted_;
  }
  /// The zero of the current, counted from 0, that left least in the primary at the notch just passed.
  std::size_t zero() const {
    const auto nearest = energies_j_.end() - std::min<std::ptrdiff_t>(3, std::ssize(energies_j_));
    return static_cast<std::size_t>(std::min_element(nearest, energies_j_.end()) - energies_j_.begin());
  }

 private:
  int wanted_, notches_ = 0;
  bool falling_ = false;
  double before_a_ = 0, largest_a_ = 0;
  std::vector<double> energies_j_; // at every zero
};

// What the gap does at a zero of its current.
enum class AtZero { burns_on, opens, stop_here };

// `at_zero` is asked with the peak of the half cycle that ends and the energy in the primary.
ShotResult run_shot(const ShotCircuit& c, const ShotOptions& options, const std::atomic<bool>& cancelled,
                    const std::function<AtZero(double, double)>& at_zero) {
  const Built built = build(c);
  Motion motion(built.network, options.step_s);
  ShotResult out;
  out.tank_energy_j = stored_energy_j(c.tank_f, c.tank_v);
  const auto top_v = [&](const Motion& m) {
    double v = 0;
    for (std::size_t k = 0; k < c.modes.size(); ++k)
      v += c.modes[k].top_per_v * m.capacitor_v(built.mode_capacitor[k]);
    return v;
  };
  const auto sample = [&] {
    ShotSample s{};
    s.time_s = motion.time_s();
    s.tank_v = motion.capacitor_v(built.tank);
    s.primary_a = motion.inductor_a(built.primary);
    s.top_v = top_v(motion);
    s.primary_j = stored_energy_j(c.tank_f, s.tank_v) + c.loop_h * s.primary_a * s.primary_a / 2;
    for (std::size_t k = 0; k < c.modes.size(); ++k) {
      const double i = motion.inductor_a(built.mode_inductor[k]);
      s.base_a += i;
      s.secondary_j += stored_energy_j(c.modes[k].capacitance_f, motion.capacitor_v(built.mode_capacitor[k])) +
                       c.modes[k].inductance_h * i * i / 2;
    }
    return s;
  };
  double sign = c.tank_v >= 0 ? 1 : -1; // of the primary current; the arc's drop opposes it
  motion.set_source_dc(built.arc, sign * c.arc_drop_v);
  bool conducting = true, streaming = false;
  double half_cycle_peak = 0, largest_peak = 0;
  double squares = 0, least_primary_j = out.tank_energy_j;
  const auto look_for_notch = [&](const ShotSample& s) { // what is left when the gap has opened only leaks away
    if (!conducting || s.time_s > 0.75 * c.beat_s || s.primary_j >= least_primary_j) return;
    least_primary_j = s.primary_j;
    out.first_notch_s = s.time_s;
  };
  // What ends a step early: the current's reversal in the gap, or breakout.
  enum class What { nothing, reversal, breakout } what = What::nothing;
  const auto event = [&](const Motion& m) {
    const double reversal = conducting ? -sign * m.inductor_a(built.primary) / std::max(largest_peak, 1e-9) : -1.0;
    const double breakout = built.streamer && !streaming ? std::abs(top_v(m)) / c.breakout_v - 1 : -1.0;
    what = reversal >= breakout ? What::reversal : What::breakout;
    return std::max(reversal, breakout);
  };
  out.samples.push_back(sample());
  const auto steps = static_cast<std::size_t>(std::llround(options.duration_s / options.step_s));
  out.samples.reserve(steps + 1);
  int events = 0;
  for (std::size_t k = 1; k <= steps && !cancelled && events < options.most_events; ++k) {
    int reversals = 0;
    while (events < options.most_events && !cancelled && motion.advance(event)) {
      ++events;
      event(motion);
      if (what == What::breakout) {
        streaming = true;
        out.breakout_s = motion.time_s();
        motion.set_switch(*built.streamer, true);
        continue;
      }
      // Reversing again and again at once means that the drive is less than the arc's drop: it goes out by itself.
      const bool starved = ++reversals > 3;
      const ShotSample then = sample();
      const AtZero gap = at_zero(half_cycle_peak, then.primary_j);
      half_cycle_peak = 0;
      if (gap == AtZero::stop_here) return out;
      if (starved || gap == AtZero::opens) {
        look_for_notch(then);
        conducting = false;
        out.quench_s = motion.time_s();
        out.left_in_tank_j = then.primary_j;
        out.caught_j = then.secondary_j;
        motion.set_switch(built.gap, false);
        motion.set_source_dc(built.arc, 0);
        continue;
      }
      sign = -sign;
      motion.set_source_dc(built.arc, sign * c.arc_drop_v);
    }
    const ShotSample s = sample();
    const ShotSample& last = out.samples.back();
    half_cycle_peak = std::max(half_cycle_peak, std::abs(s.primary_a));
    largest_peak = std::max(largest_peak, half_cycle_peak);
    if (std::abs(s.top_v) > out.top_peak_v) {
      out.top_peak_v = std::abs(s.top_v);
      out.top_peak_s = s.time_s;
    }
    out.primary_peak_a = std::max(out.primary_peak_a, std::abs(s.primary_a));
    double electric = 0;
    for (std::size_t m = 0; m < c.modes.size(); ++m)
      electric += stored_energy_j(c.modes[m].capacitance_f, motion.capacitor_v(built.mode_capacitor[m]));
    out.secondary_peak_j = std::max(out.secondary_peak_j, electric);
    look_for_notch(s);
    squares += s.primary_a * s.primary_a * options.step_s;
    out.base_peak_a = std::max(out.base_peak_a, std::abs(s.base_a));
    out.gap_charge_c += conducting ? std::abs(s.primary_a) * options.step_s : 0;
    out.gap_loss_j +=
        conducting ? (c.arc_drop_v * std::abs(s.primary_a) + c.arc_ohm * s.primary_a * s.primary_a) * options.step_s
                   : 0;
    out.tank_slope_v_per_s = std::max(out.tank_slope_v_per_s, std::abs(s.tank_v - last.tank_v) / options.step_s);
    out.samples.push_back(s);
  }
  if (events >= options.most_events) out.cut_s = motion.time_s();
  out.tank_rms_a = std::sqrt(squares / options.duration_s);
  return out;
}

} // namespace

ShotResult simulate_shot(const ShotCircuit& c, const ShotOptions& options, const std::atomic<bool>& cancelled) {
  if (options.ideal || options.quench_notch <= 0)
    return run_shot(c, options, cancelled, [](double, double) { return AtZero::burns_on; });
  // Once to find where the notch is, once more with the gap open from there.
  NotchFinder finder(options.quench_notch);
  bool found = false;
  ShotResult out = run_shot(c, options, cancelled, [&](double peak_a, double energy_j) {
    found = finder.passed(peak_a, energy_j);
    return found ? AtZero::stop_here : AtZero::burns_on;
  });
  if (!found) return out;
  std::size_t zero = 0;
  return run_shot(c, options, cancelled,
                  [&](double, double) { return zero++ == finder.zero() ? AtZero::opens : AtZero::burns_on; });
}

std::string shot_netlist(const ShotCircuit& c, const ShotOptions& options, std::optional<double> quench_s,
                         const std::string& title) {
  std::string deck = deck_title(title, "single shot");
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  line("Ctank tank 0 {:.12g} ic={:.12g}", c.tank_f, c.tank_v);
  line("Sgap tank a1 ctl 0 gap");
  line(".model gap sw(vt=0.5 vh=0 ron={:.6g} roff=1e9)", c.arc_ohm);
  if (quench_s)
    line("Vctl ctl 0 pwl(0 1 {:.10g} 1 {:.10g} 0)", *quench_s - 1e-9, *quench_s + 1e-9);
  else
    line("Vctl ctl 0 1");
  line("Vsense a1 a2 0");
  if (c.arc_drop_v > 0)
    line("Barc a2 a3 V={:.8g}*tanh(i(Vsense)*5)*v(ctl)", c.arc_drop_v);
  else
    line("Varc a2 a3 0");
  line("Rloop a3 p {:.8g}", c.loop_ohm);
  line("Lprim p 0 {:.12g} ic=0", c.loop_h);
  std::string top, primary_energy;
  for (std::size_t k = 0; k < c.modes.size(); ++k) {
    const ShotMode& m = c.modes[k];
    line("Lm{0} m{0} 0 {1:.12g} ic=0", k + 1, m.inductance_h);
    line("Km{0} Lprim Lm{0} {1:.12g}", k + 1, m.mutual_h / std::sqrt(c.loop_h * m.inductance_h));
    line("Rm{0} m{0} c{0} {1:.8g}", k + 1, m.resistance_ohm);
    line("Cm{0} c{0} 0 {1:.12g} ic=0", k + 1, m.capacitance_f);
    top += fmt::format("{}({:.12g})*v(c{})", k ? "+" : "", m.top_per_v, k + 1);
  }
  line("Btop top 0 V={}", top);
  line("Btopabs topabs 0 V=abs(v(top))");
  if (c.breakout_v > 0 && c.streamer_f > 0) {
    const double scale = c.modes[0].top_per_v * c.modes[0].top_per_v;
    line("Sstr c1 st topabs 0 streamer");
    line(".model streamer sw(vt=0 vh={:.8g} ron={:.8g} roff=1e12)", c.breakout_v, c.streamer_ohm / scale);
    line("Cstr st 0 {:.12g} ic=0", c.streamer_f * scale);
  }
  line("Bpri priabs 0 V=abs(i(Vsense))");
  line("Benergy energy 0 V=0.5*{:.12g}*v(tank)^2+0.5*{:.12g}*i(Vsense)^2", c.tank_f, c.loop_h);
  line(".options reltol=1e-5 method=trap");
  line(".tran {:.6g} {:.6g} 0 {:.6g} uic", options.step_s, options.duration_s, options.step_s);
  line(".meas tran top_peak_v max v(topabs)");
  line(".meas tran primary_peak_a max v(priabs)");
  line(".meas tran first_notch_s min_at v(energy) from=0 to={:.8g}",
       std::min({0.75 * c.beat_s, options.duration_s, quench_s.value_or(options.duration_s)}));
  line(".meas tran tank_energy_j find v(energy) at={:.6g}", options.step_s / 4);
  line(".end");
  return deck;
}

std::string shot_csv(const ShotResult& shot) {
  std::string out = "time_s,tank_v,primary_a,top_v,base_a,primary_j,secondary_j\r\n";
  for (const ShotSample& s : shot.samples)
    out += fmt::format("{:.9g},{:.7g},{:.7g},{:.7g},{:.7g},{:.7g},{:.7g}\r\n", s.time_s, s.tank_v, s.primary_a,
                       s.top_v, s.base_a, s.primary_j, s.secondary_j);
  return out;
}

std::vector<double> complete_transfer_couplings() {
  std::vector<double> out;
  for (int a = 1; a <= 40; ++a) out.push_back((2.0 * a + 1) / (2.0 * a * a + 2 * a + 1));
  return out;
}

} // namespace arc

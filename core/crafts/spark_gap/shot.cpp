// Shot: circuit from the analysis, simulation, netlist.
#include "crafts/spark_gap/shot.h"

#include "circuit/deck.h"
#include "circuit/motion.h"
#include "circuit/waves.h"
#include "laws/circuit.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <numbers>
#include <stdexcept>

namespace arc {
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
    const WindingMode& mode = c.modes[k];
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

// One run: a step, what ends it early, and what is gathered of it. `at_zero` is asked with the peak of the half
// cycle that ends and the energy in the primary.
class ShotRun {
 public:
  using AskAtZero = std::function<AtZero(double, double)>;

  ShotRun(const ShotCircuit& circuit, const ShotOptions& options, AskAtZero at_zero)
      : c_(circuit), options_(options), at_zero_(std::move(at_zero)), built_(build(circuit)),
        motion_(built_.network, options.step_s), sign_(circuit.tank_v >= 0 ? 1 : -1) {
    motion_.set_source_dc(built_.arc, sign_ * c_.arc_drop_v);
    out_.tank_energy_j = stored_energy_j(c_.tank_f, c_.tank_v);
    least_primary_j_ = out_.tank_energy_j;
  }

  ShotResult run(const std::atomic<bool>& cancelled) {
    const auto steps = static_cast<std::size_t>(std::llround(options_.duration_s / options_.step_s));
    out_.samples.reserve(steps + 1);
    out_.samples.push_back(sample());
    for (std::size_t k = 1; k <= steps && !cancelled && events_ < options_.most_events; ++k) {
      if (!step(cancelled)) return std::move(out_);
      gather();
    }
    if (events_ >= options_.most_events) out_.cut_s = motion_.time_s();
    out_.tank_rms_a = std::sqrt(squares_ / options_.duration_s);
    return std::move(out_);
  }

 private:
  enum class What { nothing, reversal, breakout };

  // ---- a step and its events

  // What ends a step early: the current's reversal in the gap, or breakout; above zero when it is there.
  double tension(const Motion& m, What& what) const {
    const double reversal =
        conducting_ ? -sign_ * m.inductor_a(built_.primary) / std::max(largest_peak_a_, 1e-9) : -1.0;
    const double breakout = built_.streamer && !streaming_ ? std::abs(top_v(m)) / c_.breakout_v - 1 : -1.0;
    what = reversal >= breakout ? What::reversal : What::breakout;
    return std::max(reversal, breakout);
  }

  // False when the run is to stop at a zero of the current.
  bool step(const std::atomic<bool>& cancelled) {
    What what = What::nothing;
    const auto event = [&](const Motion& m) { return tension(m, what); };
    int reversals = 0;
    while (events_ < options_.most_events && !cancelled && motion_.advance(event)) {
      ++events_;
      event(motion_);
      if (what == What::breakout)
        break_out();
      else if (!reverse(++reversals))
        return false;
    }
    return true;
  }

  void break_out() {
    streaming_ = true;
    out_.breakout_s = motion_.time_s();
    motion_.set_switch(*built_.streamer, true);
  }

  bool reverse(int reversals) {
    // Reversing again and again at once means that the drive is less than the arc's drop: it goes out by itself.
    const bool starved = reversals > 3;
    const ShotSample then = sample();
    const AtZero gap = at_zero_(half_cycle_peak_a_, then.primary_j);
    half_cycle_peak_a_ = 0;
    if (gap == AtZero::stop_here) return false;
    if (starved || gap == AtZero::opens) {
      look_for_notch(then);
      conducting_ = false;
      out_.quench_s = motion_.time_s();
      out_.left_in_tank_j = then.primary_j;
      out_.caught_j = then.secondary_j;
      motion_.set_switch(built_.gap, false);
      motion_.set_source_dc(built_.arc, 0);
      return true;
    }
    sign_ = -sign_;
    motion_.set_source_dc(built_.arc, sign_ * c_.arc_drop_v);
    return true;
  }

  // ---- what is gathered after each step

  double top_v(const Motion& m) const {
    double v = 0;
    for (std::size_t k = 0; k < c_.modes.size(); ++k)
      v += c_.modes[k].top_per_v * m.capacitor_v(built_.mode_capacitor[k]);
    return v;
  }

  ShotSample sample() const {
    ShotSample s{};
    s.time_s = motion_.time_s();
    s.tank_v = motion_.capacitor_v(built_.tank);
    s.primary_a = motion_.inductor_a(built_.primary);
    s.top_v = top_v(motion_);
    s.primary_j = stored_energy_j(c_.tank_f, s.tank_v) + c_.loop_h * s.primary_a * s.primary_a / 2;
    for (std::size_t k = 0; k < c_.modes.size(); ++k) {
      const double i = motion_.inductor_a(built_.mode_inductor[k]);
      s.base_a += i;
      s.secondary_j += stored_energy_j(c_.modes[k].capacitance_f, motion_.capacitor_v(built_.mode_capacitor[k])) +
                       c_.modes[k].inductance_h * i * i / 2;
    }
    return s;
  }

  void look_for_notch(const ShotSample& s) { // what is left when the gap has opened only leaks away
    if (!conducting_ || s.time_s > 0.75 * c_.beat_s || s.primary_j >= least_primary_j_) return;
    least_primary_j_ = s.primary_j;
    out_.first_notch_s = s.time_s;
  }

  void gather() {
    const ShotSample s = sample();
    const double amps = std::abs(s.primary_a), step_s = options_.step_s;
    half_cycle_peak_a_ = std::max(half_cycle_peak_a_, amps);
    largest_peak_a_ = std::max(largest_peak_a_, half_cycle_peak_a_);
    if (std::abs(s.top_v) > out_.top_peak_v) {
      out_.top_peak_v = std::abs(s.top_v);
      out_.top_peak_s = s.time_s;
    }
    out_.primary_peak_a = std::max(out_.primary_peak_a, amps);
    double electric_j = 0;
    for (std::size_t m = 0; m < c_.modes.size(); ++m)
      electric_j += stored_energy_j(c_.modes[m].capacitance_f, motion_.capacitor_v(built_.mode_capacitor[m]));
    out_.secondary_peak_j = std::max(out_.secondary_peak_j, electric_j);
    look_for_notch(s);
    squares_ += amps * amps * step_s;
    out_.base_peak_a = std::max(out_.base_peak_a, std::abs(s.base_a));
    if (conducting_) {
      out_.gap_charge_c += amps * step_s;
      out_.gap_loss_j += (c_.arc_drop_v * amps + c_.arc_ohm * amps * amps) * step_s;
    }
    out_.tank_slope_v_per_s =
        std::max(out_.tank_slope_v_per_s, std::abs(s.tank_v - out_.samples.back().tank_v) / step_s);
    out_.samples.push_back(s);
  }

  const ShotCircuit& c_;
  const ShotOptions& options_;
  const AskAtZero at_zero_;
  const Built built_;
  Motion motion_;
  double sign_; // of the primary current; the arc's drop opposes it
  bool conducting_ = true, streaming_ = false;
  int events_ = 0;
  double half_cycle_peak_a_ = 0, largest_peak_a_ = 0;
  double squares_ = 0, least_primary_j_ = 0;
  ShotResult out_;
};

} // namespace

ShotResult simulate_shot(const ShotCircuit& c, const ShotOptions& options, const std::atomic<bool>& cancelled) {
  if (options.ideal || options.quench_notch <= 0)
    return ShotRun(c, options, [](double, double) { return AtZero::burns_on; }).run(cancelled);
  // Once to find where the notch is, once more with the gap open from there.
  NotchFinder finder(options.quench_notch);
  bool found = false;
  ShotResult out = ShotRun(c, options, [&](double peak_a, double energy_j) {
                     found = finder.passed(peak_a, energy_j);
                     return found ? AtZero::stop_here : AtZero::burns_on;
                   }).run(cancelled);
  if (!found) return out;
  std::size_t zero = 0;
  return ShotRun(c, options,
                 [&](double, double) { return zero++ == finder.zero() ? AtZero::opens : AtZero::burns_on; })
      .run(cancelled);
}

std::shared_ptr<const ShotResult> simulate_shot(Kept& kept, const ShotCircuit& circuit, const ShotOptions& options,
                                                const std::atomic<bool>& cancelled) {
  const ShotStep step{circuit, options};
  return kept.get(step, cancelled, [&] { return simulate_shot(circuit, options, cancelled); });
}

namespace {

ShotResult without_waveforms(ShotResult shot) {
  shot.samples = {};
  return shot;
}

} // namespace

std::shared_ptr<const ShotResult> shot_figures(Kept& kept, const ShotCircuit& circuit, const ShotOptions& options,
                                               const std::atomic<bool>& cancelled) {
  const ShotStep all{circuit, options};
  if (auto found = kept.find(all)) return found;
  return kept.get(ShotFiguresStep{all}, cancelled,
                  [&] { return without_waveforms(simulate_shot(circuit, options, cancelled)); });
}

std::shared_ptr<const ShotResult> trial_shot(Kept& kept, const ShotCircuit& circuit, ShotOptions options,
                                             const std::atomic<bool>& cancelled) {
  options.step_s = trial_step_s;
  options.most_events = most_trial_events;
  return kept.get(TrialShotStep{{circuit, options}}, cancelled,
                  [&] { return without_waveforms(simulate_shot(circuit, options, cancelled)); });
}

std::string shot_netlist(const ShotCircuit& c, const ShotOptions& options, std::optional<double> quench_s,
                         const std::string& title) {
  std::string deck = deck_title(title, "one break");
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
    const WindingMode& m = c.modes[k];
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
  return waves_csv<ShotSample>(shot.samples, {{"tank_v", &ShotSample::tank_v},
                                              {"primary_a", &ShotSample::primary_a},
                                              {"top_v", &ShotSample::top_v},
                                              {"base_a", &ShotSample::base_a},
                                              {"primary_j", &ShotSample::primary_j},
                                              {"secondary_j", &ShotSample::secondary_j}});
}

std::vector<double> complete_transfer_couplings() {
  std::vector<double> out;
  for (int a = 1; a <= 40; ++a) out.push_back((2.0 * a + 1) / (2.0 * a * a + 2 * a + 1));
  return out;
}

} // namespace arc

// Timer parts from what they have to cover.
#include "timing/timer.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>
#include <span>
#include <stdexcept>

namespace arc {
namespace {

constexpr std::array<double, 12> e12{1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2};
constexpr std::array<double, 24> e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                                     3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
constexpr double diode_drop_v = 0.6;
constexpr double resistor_tolerance = 0.01, capacitor_tolerance = 0.05;
constexpr double least_ohm = 1e3, most_ohm = 2.2e6; // what the timer's pins drive and leak
// Trigger of the one-shot: a small capacitor and a pull-up, over within microseconds.
constexpr double trigger_farad = 470e-12, trigger_pull_ohm = 10e3;
// Values that potentiometers are sold in (common practice, no source).
constexpr std::array<double, 11> potentiometers{1e3,   2.2e3, 4.7e3, 10e3, 22e3, 47e3,
                                                100e3, 220e3, 470e3, 1e6,  2.2e6};

// A fixed resistor, a potentiometer in series, perhaps a resistor across that, and a capacitor, that give k (R) C
// from low to high seconds.
struct Sweep {
  double fixed_ohm, variable_ohm, farad;
  double shunt_ohm = 0; // 0: none
  double most_ohm() const {
    return fixed_ohm + (shunt_ohm > 0 ? variable_ohm * shunt_ohm / (variable_ohm + shunt_ohm) : variable_ohm);
  }
  double low_s(double per_rc) const { return per_rc * fixed_ohm * farad; }
  double high_s(double per_rc) const { return per_rc * most_ohm() * farad; }
};

// The next value of the series up, or down.
double e24_up(double value) {
  const double near = nearest_e_value(value, 24);
  return near >= value * (1 - 1e-9) ? near : nearest_e_value(near * 1.08, 24);
}
double e24_down(double value) {
  const double near = nearest_e_value(value, 24);
  return near <= value * (1 + 1e-9) ? near : nearest_e_value(near / 1.08, 24);
}

// Where the potentiometer goes beyond what may be: a resistor across it, so that its end is the limit.
void end_at_limit(Sweep& sweep, double limit_s, double per_rc, double extra_ohm) {
  constexpr double beyond = 1.01;
  const double allowed = limit_s / per_rc / sweep.farad - extra_ohm - sweep.fixed_ohm;
  if (sweep.variable_ohm <= beyond * allowed || !(allowed > 0)) return;
  sweep.shunt_ohm = e24_down(allowed * sweep.variable_ohm / (sweep.variable_ohm - allowed));
}

bool among(const std::vector<double>& values, double value) {
  return std::ranges::any_of(values, [&](double each) { return std::abs(each / value - 1) < 0.005; });
}

// Capacitors to try: usual ones, and those on hand.
std::vector<double> capacitors_of(const TimerTask& task) {
  std::vector<double> out;
  for (int decade = -10; decade <= -5; ++decade) // 100 pF to 47 uF
    for (const double digit : {1.0, 2.2, 4.7}) out.push_back(digit * std::pow(10, decade));
  for (const double farad : task.capacitors_f)
    if (farad >= 99e-12 && farad <= 48e-6 && !among(out, farad)) out.push_back(farad);
  return out;
}

// `low_is_limit`: nothing shorter may be set; else nothing longer.
Sweep sweep_for(const TimerTask& task, TimerRange seconds, double per_rc, double extra_ohm, bool low_is_limit,
                double usual_ohm = 50e3) {
  if (!(seconds.low > 0) || !(seconds.high >= seconds.low))
    throw std::invalid_argument("a range needs a least value above zero and a largest above that");
  std::optional<Sweep> best;
  double least_miss = 1e9;
  constexpr double hand_worth = 0.1; // of a miss, that a part on hand outweighs
  for (const double farad : capacitors_of(task)) {
    const double wanted = std::max(least_ohm, seconds.low / per_rc / farad - extra_ohm);
    std::vector<double> resistors{low_is_limit ? e24_up(wanted) : nearest_e_value(wanted, 24)};
    for (const double ohm : task.resistors_ohm)
      if (ohm >= least_ohm && std::abs(ohm / wanted - 1) < 0.1 && (!low_is_limit || ohm >= wanted))
        resistors.push_back(ohm);
    for (const double fixed : resistors)
      for (const double pot : potentiometers) {
        if (fixed < least_ohm || fixed + pot > 2 * most_ohm) continue;
        const Sweep s{fixed + extra_ohm, pot, farad};
        // Both ends must be reached; what goes beyond them makes it harder to set.
        const double low_miss = s.low_s(per_rc) / seconds.low, high_miss = s.high_s(per_rc) / seconds.high;
        if (low_miss > 1.12 || high_miss < 0.99) continue;
        const double miss = std::abs(std::log(low_miss)) + std::abs(std::log(high_miss)) +
                            0.02 * std::abs(std::log((fixed + pot) / usual_ohm)) -
                            hand_worth * (among(task.capacitors_f, farad) + among(task.resistors_ohm, fixed));
        if (miss < least_miss) {
          least_miss = miss;
          best = Sweep{fixed, pot, farad};
        }
      }
  }
  if (!best) throw std::invalid_argument("no usual resistor, potentiometer and capacitor cover this range");
  if (!low_is_limit) end_at_limit(*best, seconds.high, per_rc, extra_ohm);
  return *best;
}

TimerRange duty_range(const TimerRange& on, const TimerRange& rate) {
  return {on.low * rate.low, std::min(1.0, on.high * rate.high)};
}

void mark_on_hand(const TimerTask& task, TimerCircuit& circuit) {
  for (TimerPart& part : circuit.parts)
    part.on_hand =
        part.value > 0 && ((part.what.starts_with("capacitor") && among(task.capacitors_f, part.value)) ||
                           (part.what == "resistor" && among(task.resistors_ohm, part.value)));
}

// The resistor across a potentiometer, where there is one.
void add_shunt(const Sweep& sweep, const char* name, const char* potentiometer, TimerCircuit& circuit) {
  if (!(sweep.shunt_ohm > 0)) return;
  circuit.parts.push_back({name, "resistor", sweep.shunt_ohm, Dimension::resistance});
  circuit.connections.push_back(
      fmt::format("{} across {}: its end is the longest on-time that may be", name, potentiometer));
}

// What the circuit's own limits leave to say.
void add_notes(const TimerTask& task, double most_timing_ohm, TimerCircuit& circuit) {
  constexpr double bipolar_ohm = 1e6; // above it the timer's own input current counts (common practice, no source)
  const auto add = [&](const std::string& words) { circuit.note += (circuit.note.empty() ? "" : " ") + words; };
  if (most_timing_ohm > bipolar_ohm)
    add(fmt::format("Up to {} charge the capacitor: take a CMOS timer, whose inputs draw next to nothing.",
                    format_quantity(most_timing_ohm, Dimension::resistance, UnitSystem::metric, 2)));
  if (circuit.duty.high > 1.01 * task.largest_duty)
    add(fmt::format(
        "Both knobs at their ends give {:.0f} % of duty, more than the limit of {:.0f} %: the driver has to "
        "hold it.",
        100 * circuit.duty.high, 100 * task.largest_duty));
}

double worst(std::initializer_list<double> tolerances) {
  double sum = 0;
  for (const double t : tolerances) sum += t;
  return sum;
}

} // namespace

double nearest_e_value(double value, int series) {
  if (!(value > 0) || !std::isfinite(value)) throw std::invalid_argument("only values above zero have a neighbour");
  const std::span<const double> steps = series == 12 ? std::span<const double>(e12) : std::span<const double>(e24);
  const double decade = std::pow(10, std::floor(std::log10(value)));
  double best = steps.front() * decade;
  for (const double scale : {decade, 10 * decade})
    for (const double step : steps)
      if (std::abs(std::log(step * scale / value)) < std::abs(std::log(best / value))) best = step * scale;
  return best;
}

double astable_high_s(double ra_ohm, double rb_ohm, double farad) {
  return std::numbers::ln2 * (ra_ohm + rb_ohm) * farad;
}

double astable_low_s(double rb_ohm, double farad) {
  return std::numbers::ln2 * rb_ohm * farad;
}

double steered_high_s(double ra_ohm, double farad, double drop_v, double supply_v) {
  // From a third to two thirds of the supply, towards the supply less the diode's drop.
  const double left_low = supply_v * 2 / 3 - drop_v, left_high = supply_v / 3 - drop_v;
  if (!(left_high > 0)) throw std::invalid_argument("the timer's supply is too low for a steering diode");
  return ra_ohm * farad * std::log(left_low / left_high);
}

double one_shot_s(double ohm, double farad) {
  return std::log(3.0) * ohm * farad;
}

TimerCircuit two_timers(const TimerTask& task) {
  // The clock: low for a moment, through Rb, which triggers the one-shot; the rate by Ra and its potentiometer.
  const double trigger_ohm = least_ohm;
  const Sweep clock =
      sweep_for(task, {1 / task.rate_hz.high, 1 / task.rate_hz.low}, std::numbers::ln2, 2 * trigger_ohm, true);
  const Sweep shot = sweep_for(task, task.on_s, std::log(3.0), 0, false);
  TimerCircuit out;
  out.key = "two-timers";
  out.title = "Two timers: a clock and a one-shot";
  out.parts = {{"R1", "resistor", clock.fixed_ohm, Dimension::resistance},
               {"P1", "potentiometer, rate", clock.variable_ohm, Dimension::resistance},
               {"R2", "resistor", trigger_ohm, Dimension::resistance},
               {"C1", "capacitor, film", clock.farad, Dimension::capacitance},
               {"R3", "resistor", shot.fixed_ohm, Dimension::resistance},
               {"P2", "potentiometer, on-time", shot.variable_ohm, Dimension::resistance},
               {"C2", "capacitor, film", shot.farad, Dimension::capacitance},
               {"C3", "capacitor at the control pins, each", 10e-9, Dimension::capacitance},
               {"C4", "capacitor, trigger", trigger_farad, Dimension::capacitance},
               {"R4", "resistor", trigger_pull_ohm, Dimension::resistance},
               {"D1", "signal diode", 0, Dimension::number},
               {"U1", "timer, clock", 0, Dimension::number},
               {"U2", "timer, one-shot", 0, Dimension::number}};
  const auto period = [&](double variable) {
    return astable_high_s(clock.fixed_ohm + variable, trigger_ohm, clock.farad) +
           astable_low_s(trigger_ohm, clock.farad);
  };
  out.on_s = {one_shot_s(shot.fixed_ohm, shot.farad), one_shot_s(shot.most_ohm(), shot.farad)};
  out.rate_hz = {1 / period(clock.variable_ohm), 1 / period(0)};
  out.duty = duty_range(out.on_s, out.rate_hz);
  out.on_band = worst({resistor_tolerance, capacitor_tolerance});
  out.rate_band = out.on_band;
  out.connections = {"R1 and P1 in series: supply to U1 discharge (7)",
                     "R2: U1 discharge (7) to threshold and trigger (6, 2)",
                     "C1: U1 threshold and trigger (6, 2) to ground",
                     "C4: U1 output (3) to U2 trigger (2): a moment at each fall",
                     "R4, and D1 with its ring at the supply: U2 trigger (2) to supply",
                     "R3 and P2 in series: supply to U2 discharge and threshold (7, 6)",
                     "C2: U2 discharge and threshold (7, 6) to ground",
                     "C3: control (5) of each timer to ground",
                     "U2 output (3): to the driver's enable"};
  add_shunt(shot, "R5", "P2", out);
  add_notes(task, std::max(clock.most_ohm() + trigger_ohm, shot.most_ohm()), out);
  mark_on_hand(task, out);
  // The trigger must be over before the shortest on-time is.
  if (one_shot_s(trigger_pull_ohm, trigger_farad) > out.on_s.low)
    throw std::invalid_argument("the trigger lasts about 5 µs; a shorter on-time is not kept");
  return out;
}

TimerCircuit steered_timer(const TimerTask& task) {
  const double per_rc = steered_high_s(1, 1, diode_drop_v, task.supply_v);
  // One capacitor serves both halves: chosen for the on-time, the off-time's resistors follow.
  const Sweep on = sweep_for(task, task.on_s, per_rc, 0, false, least_ohm);
  // At the shortest on-time too it may not be faster.
  const TimerRange off{1 / task.rate_hz.high - on.low_s(per_rc), 1 / task.rate_hz.low - task.on_s.low};
  if (!(1 / task.rate_hz.high > task.on_s.high))
    throw std::invalid_argument("the longest on-time leaves no off-time at the highest rate");
  const double fixed = e24_up(std::max(least_ohm, off.low / std::numbers::ln2 / on.farad));
  const double wanted = off.high / std::numbers::ln2 / on.farad - fixed;
  auto pot = std::ranges::find_if(potentiometers, [&](double ohm) { return ohm >= 0.98 * wanted; });
  if (pot == potentiometers.end()) --pot; // the slowest that there is
  TimerCircuit out;
  out.key = "steered";
  out.title = "One timer with a steering diode";
  out.parts = {{"R1", "resistor", on.fixed_ohm, Dimension::resistance},
               {"P1", "potentiometer, on-time", on.variable_ohm, Dimension::resistance},
               {"D1", "signal diode", 0, Dimension::number},
               {"R2", "resistor", fixed, Dimension::resistance},
               {"P2", "potentiometer, off-time", *pot, Dimension::resistance},
               {"C1", "capacitor, film", on.farad, Dimension::capacitance},
               {"C2", "capacitor at the control pin", 10e-9, Dimension::capacitance},
               {"U1", "timer", 0, Dimension::number}};
  const auto high = [&](double variable) {
    return steered_high_s(on.fixed_ohm + variable, on.farad, diode_drop_v, task.supply_v);
  };
  const auto low = [&](double variable) { return astable_low_s(fixed + variable, on.farad); };
  const double longest_s = high(on.most_ohm() - on.fixed_ohm);
  out.on_s = {high(0), longest_s};
  out.rate_hz = {1 / (low(*pot) + longest_s), 1 / (low(0) + high(0))};
  out.duty = {high(0) / (high(0) + low(*pot)), longest_s / (longest_s + low(0))};
  if (out.rate_hz.low > 1.1 * task.rate_hz.low)
    out.note =
        "Its slowest is above what was asked: one capacitor serves both halves, and no larger potentiometer is "
        "usual. Two timers go lower.";
  out.on_band = worst({resistor_tolerance, capacitor_tolerance, 0.03}); // the last for the diode's drop
  out.rate_band = worst({resistor_tolerance, capacitor_tolerance});
  out.connections = {"R1 and P1 in series: supply to discharge (7)",
                     "D1: discharge (7) to threshold and trigger (6, 2), its ring there",
                     "R2 and P2 in series: across D1",
                     "C1: threshold and trigger (6, 2) to ground",
                     "C2: control (5) to ground",
                     "Output (3): to the driver's enable; high is on"};
  add_shunt(on, "R3", "P1", out);
  add_notes(task, std::max(on.most_ohm(), fixed + *pot), out);
  mark_on_hand(task, out);
  return out;
}

std::string timer_parts_csv(const TimerCircuit& circuit) {
  std::string out = "part,what,value,written\r\n";
  for (const TimerPart& part : circuit.parts)
    out += part.value > 0 ? fmt::format("{},\"{}\",{:.6g},{}\r\n", part.name, part.what, part.value,
                                        format_quantity(part.value, part.dimension, UnitSystem::metric, 3))
                          : fmt::format("{},\"{}\",,\r\n", part.name, part.what);
  return out;
}

} // namespace arc

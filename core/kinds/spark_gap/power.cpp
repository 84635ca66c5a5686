// Runs charging and shot, loads the bank with them, tries changes.
#include "kinds/spark_gap/spark_gap.h"

#include "circuit/feed.h"
#include "design/validity.h"
#include "kinds/spark_gap/power_bands.h"
#include "parts/gap.h"
#include "workshop/runs.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>
#include <stdexcept>

namespace arc {
namespace {

const std::vector<double> variac_settings{0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0};

ShotOptions shot_options(const PowerOptions& options) {
  ShotOptions out;
  out.quench_notch = options.quench_notch;
  out.lumped = options.lumped;
  return out;
}

// Energy that reaches the resonator for each joule from the wall.
struct Trial {
  double shot_part;   // of the tank's energy
  double charge_part; // of the wall's; 1 without a feed
  double input_w;
  double break_rate_hz;
  double tank_peak_v;
  double efficiency() const { return shot_part * charge_part; }
};

Trial try_shot(const Design& design, const Analysis& analysis, const PowerOptions& options,
               const std::atomic<bool>& cancelled) {
  const ShotOptions shot = shot_options(options);
  const ShotResult result = quick_shot(shot_circuit(design, analysis, shot), shot, cancelled);
  if (!(result.tank_energy_j > 0)) throw std::invalid_argument("the tank holds nothing");
  return {result.secondary_peak_j / result.tank_energy_j, 1, 0, design.gap.break_rate_hz,
          design.gap.firing_voltage_v};
}

void charge(Trial& trial, const ChargingResult& charging) {
  trial.input_w = charging.input_power_w;
  trial.charge_part = charging.input_power_w > 0 ? charging.tank_power_w / charging.input_power_w : 0;
  trial.break_rate_hz = charging.break_rate_hz;
  trial.tank_peak_v = charging.tank_peak_v;
}

struct Idea {
  std::string title;
  std::function<void(Design&)> apply;
  bool coil; // changes what analyse() finds
};

// Changes that builders try one at a time.
std::vector<Idea> ideas(const Design& d, const Analysis& a, UnitSystem units) {
  std::vector<Idea> out;
  const auto clip = [&](double turns, const std::string& why) {
    const double move = turns - d.primary.tap_turns;
    if (std::abs(move) < 0.02 || turns > d.primary.turns) return;
    out.push_back({fmt::format("Move the clip {} {:.2f} turn{}", move > 0 ? "out" : "in", std::abs(move), why),
                   [turns](Design& e) { e.primary.tap_turns = std::round(turns * 1000) / 1000; }, true});
  };
  if (a.tuned_tap_turns) clip(*a.tuned_tap_turns, "");
  if (a.resonator && a.target_hz > 0 && d.tune_target == TuneTarget::silent_coil) {
    const double pulled = (a.loaded_hz.low + a.loaded_hz.high) / 2 / a.resonator->mode_1_hz;
    if (const auto tap = tap_for_frequency(d, a.tank_capacitance_f, a.target_hz * pulled))
      clip(*tap, ", for the coil with arcs on it");
  }
  constexpr double lift = 0.01;
  const auto couplings = complete_transfer_couplings();
  const double nearest =
      *std::ranges::min_element(couplings, {}, [&](double k) { return std::abs(k - a.coupling); });
  const double rise = nearest > a.coupling ? lift : -lift;
  if (d.primary.base_height_m + rise > 0)
    out.push_back({fmt::format("{} the primary {}", rise > 0 ? "Raise" : "Lower",
                               format_quantity(lift, Dimension::length, units, 2)),
                   [rise](Design& e) { e.primary.base_height_m += rise; }, true});
  if (d.gap.gaps_in_series > 1)
    out.push_back({"One gap fewer, the others wider",
                   [fewer = d.gap.gaps_in_series - 1](Design& e) {
                     e.gap.gaps_in_series = fewer;
                     if (e.gap.spacing_m)
                       if (const auto wider = spacing_for_firing_m(e.gap, e.site, e.gap.firing_voltage_v))
                         e.gap.spacing_m = *wider;
                   },
                   false});
  if (d.site.ground_resistance_ohm > 1)
    out.push_back({"A ground of half the resistance", [](Design& e) { e.site.ground_resistance_ohm /= 2; }, true});
  if (a.lead_inductance_h > 0.02 * a.primary_inductance_h)
    out.push_back({"Leads half as long",
                   [](Design& e) {
                     if (e.primary.lead_length_m) *e.primary.lead_length_m /= 2;
                     e.primary.lead_inductance_h /= 2;
                   },
                   true});
  return out;
}

void widen(Design& e) {
  e.gap.firing_voltage_v *= 1.1;
  if (e.gap.spacing_m)
    if (const auto spacing = spacing_for_firing_m(e.gap, e.site, e.gap.firing_voltage_v))
      e.gap.spacing_m = *spacing;
}

TrialChange judged(std::string title, const Trial& trial, const Trial& now, const Design& changed,
                   std::function<void(Design&)> apply) {
  const auto limit = tank_voltage_limit_v(changed.tank, 1);
  return {std::move(title),
          // Arc length goes with the root of power. Where nothing crosses now there is nothing to compare with.
          now.efficiency() > 1e-9 ? std::sqrt(trial.efficiency() / now.efficiency()) : 0,
          now.input_w > 0 ? trial.input_w / now.input_w : 1, trial.break_rate_hz, trial.tank_peak_v,
          limit ? trial.tank_peak_v / *limit : 0, std::move(apply)};
}

void try_changes(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                 const std::atomic<bool>& cancelled, const std::function<void(double)>& progress,
                 PowerAnalysis& out) {
  const bool charges = out.charging_problem.empty();
  Trial now = try_shot(design, analysis, options, cancelled);
  if (charges) charge(now, out.charging);
  const auto all = ideas(design, analysis, units);
  for (std::size_t i = 0; i < all.size() && !cancelled; ++i) {
    Design changed = design;
    all[i].apply(changed);
    if (!edit_problem(design, changed, units).empty()) continue;
    try {
      Trial trial =
          try_shot(changed, all[i].coil ? analyse_untried(changed, units, false) : analysis, options, cancelled);
      if (charges) charge(trial, out.charging); // none of them changes how the tank charges
      out.changes.push_back(judged(all[i].title, trial, now, changed, all[i].apply));
    } catch (const std::invalid_argument&) { // a change that makes the coil impossible is no advice
    }
    if (progress) progress(0.5 + 0.5 * static_cast<double>(i + 1) / static_cast<double>(all.size() + 1));
  }
  std::ranges::sort(out.changes, std::greater{}, &TrialChange::arc_ratio);
  if (cancelled) return;
  Design wider = design;
  widen(wider);
  if (!edit_problem(design, wider, units).empty()) return;
  try {
    Trial trial = try_shot(wider, analysis, options, cancelled);
    if (charges) charge(trial, simulate_charging(wider, {options.cycles}, cancelled));
    out.wider_gap = judged("A gap a tenth wider", trial, now, wider, widen);
  } catch (const std::invalid_argument&) { // no figure rather than a wrong one
  }
}

void try_quench(const ShotCircuit& circuit, ShotOptions options, const std::atomic<bool>& cancelled,
                PowerAnalysis& out) {
  for (int notch = 1; notch <= 3 && !cancelled; ++notch) {
    options.quench_notch = notch;
    options.step_s = trial_step_s;
    options.most_events = most_trial_events;
    const ShotResult shot = simulate_shot(circuit, options, cancelled);
    if (!shot.quench_s) break;
    out.quench.push_back({notch, *shot.quench_s, shot.caught_j, shot.gap_loss_j, shot.left_in_tank_j});
  }
}

double logged_hours(const Design& design) {
  double seconds = 0;
  for (const Run& run : design.runs)
    if (const auto it = run.observations.find("duration_s"); it != run.observations.end()) seconds += it->second;
  return seconds / 3600;
}

} // namespace

ChargingTrial try_charging(const Design& design, const ChargingOptions& options,
                           const std::atomic<bool>& cancelled) {
  ChargingTrial out;
  try {
    out.charging = simulate_charging(design, options, cancelled);
  } catch (const std::invalid_argument& refusal) {
    out.problem = refusal.what();
  }
  return out;
}

namespace {

using Progress = std::function<void(double)>;

void run_shot(const Design& design, const Analysis& analysis, const ShotOptions& shot,
              const std::atomic<bool>& cancelled, PowerAnalysis& out) {
  try {
    out.circuit = shot_circuit(design, analysis, shot);
    out.shot = simulate_shot(out.circuit, shot, cancelled);
    if (!std::isfinite(out.shot.top_peak_v) || !(out.shot.tank_energy_j > 0))
      out.shot_problem = "the circuit is beyond what can be computed: its values lie too far apart";
  } catch (const std::invalid_argument& refusal) {
    out.shot_problem = refusal.what();
  }
}

void run_variac(const Design& design, const PowerOptions& options, const std::atomic<bool>& cancelled,
                const Progress& tell, PowerAnalysis& out) {
  Design turned = design;
  FeedBlock* variac = find_block(turned.feed, "variac");
  if (!variac) return;
  const double present = block_value(*variac, "setting");
  std::set<double> settings(variac_settings.begin(), variac_settings.end());
  settings.insert(present);
  for (const double setting : settings) {
    if (cancelled) return;
    VariacPoint point{setting, out.charging, out.charging_problem, setting == present};
    if (!point.present) {
      variac->values["setting"] = setting;
      ChargingTrial trial = try_charging(turned, {options.cycles}, cancelled);
      point.charging = std::move(trial.charging);
      point.problem = std::move(trial.problem);
    }
    point.charging.samples.clear();
    out.variac.push_back(std::move(point));
    tell(0.25 + 0.25 * static_cast<double>(out.variac.size()) / static_cast<double>(settings.size()));
  }
}

void load_bank(const Design& design, const Analysis& analysis, const ShotOptions& shot, PowerAnalysis& out) {
  out.rate_from_feed = out.charging_problem.empty() && out.charging.break_rate_hz > 0;
  out.break_rate_hz = out.rate_from_feed ? out.charging.break_rate_hz : design.gap.break_rate_hz;
  out.load.peak_v =
      std::max(design.gap.firing_voltage_v, out.charging_problem.empty() ? out.charging.tank_peak_v : 0);
  out.load.frequency_hz = analysis.tank_hz;
  if (out.shot_problem.empty()) {
    out.load.rms_a = out.shot.tank_rms_a * std::sqrt(shot.duration_s * out.break_rate_hz);
    out.load.slope_v_per_s = out.shot.tank_slope_v_per_s;
    out.gap_loss_w = out.shot.gap_loss_j * out.break_rate_hz;
    out.gap_charge_c_per_s = out.shot.gap_charge_c * out.break_rate_hz;
  }
  out.stress = bank_stress(design.tank, out.load);
  out.dwell_s = gap_model(design.gap, design.site)
                    .dwell_s(out.rate_from_feed ? out.charging.break_voltage_v : design.gap.firing_voltage_v);
  out.gap_hours = logged_hours(design);
}

} // namespace

PowerAnalysis simulate_spark_gap(const Design& design, const Analysis& analysis, const PowerOptions& options,
                                 UnitSystem units, const std::atomic<bool>& cancelled,
                                 const std::function<void(double)>& progress) {
  PowerAnalysis out;
  if (!analysis.computed) {
    out.shot_problem = out.charging_problem = analysis.problem;
    return out;
  }
  const Progress tell = [&](double share) {
    if (progress) progress(share);
  };
  const ShotOptions shot = shot_options(options);
  run_shot(design, analysis, shot, cancelled, out);
  try {
    out.charging = simulate_charging(design, {options.cycles}, cancelled,
                                     [&](int done) { tell(0.25 * done / options.cycles); });
  } catch (const std::invalid_argument& refusal) {
    out.charging_problem = refusal.what();
  }
  if (options.variac) run_variac(design, options, cancelled, tell, out);
  if (cancelled) return out;
  load_bank(design, analysis, shot, out);
  if (options.advice && out.shot_problem.empty()) {
    try_quench(out.circuit, shot, cancelled, out);
    out.band = shot_bands(analysis, out.circuit, shot, cancelled);
    try_changes(design, analysis, options, units, cancelled, progress, out);
  }
  if (options.advice && out.rate_from_feed)
    out.band.merge(charging_bands(design, out.charging, {options.cycles}, cancelled));
  if (cancelled) return out;
  out.findings = find_in_power(design, analysis, out, units);
  return out;
}

std::string long_run_verdict(const PowerAnalysis& power, UnitSystem units) {
  if (power.stress.empty()) return "No load is known yet.";
  const auto worst = std::ranges::max_element(power.stress, {}, [](const UnitStress& u) {
    return std::max({u.voltage_used, u.rms_used, u.slope_used});
  });
  std::string out;
  bool within = true;
  double rise = 0;
  bool known = true;
  std::vector<std::string> missing;
  for (const UnitStress& u : power.stress) {
    within = within && u.within_ratings;
    known = known && u.rise_k.has_value();
    rise = std::max(rise, u.rise_after_s(long_run_s));
    for (const std::string& name : u.missing)
      if (std::ranges::count(missing, name) == 0) missing.push_back(name);
  }
  const double limit = largest_capacitor_rise_k;
  if (!within)
    out = fmt::format(
        "A rating is exceeded: {:.0f} % of its volts, {:.0f} % of its RMS current, {:.0f} % of its dV/dt.",
        100 * worst->voltage_used, 100 * worst->rms_used, 100 * worst->slope_used);
  else if (known && rise > limit)
    out = fmt::format("No rating is exceeded, but a unit warms by {} in 30 min; {:.0f} K is the usual limit.",
                      format_quantity(rise, Dimension::number, units, 2) + " K", limit);
  else if (known)
    out = fmt::format("No stated rating is exceeded; a unit warms by {} K in 30 min of running{}.",
                      format_quantity(rise, Dimension::number, units, 2),
                      std::ranges::any_of(power.stress, &UnitStress::rise_estimated)
                          ? ", its K per watt estimated from its size"
                          : "");
  else
    out = "No stated rating is exceeded; how warm it gets is not known.";
  if (!missing.empty()) {
    out += " Not stated:";
    for (std::size_t i = 0; i < missing.size(); ++i) out += (i ? ", " : " ") + missing[i];
    out += ".";
  }
  return out;
}

std::string quench_advice(const PowerAnalysis& power, const Design& design) {
  if (power.quench.empty()) return "The gap does not open within the shot that is looked at.";
  const auto best = std::ranges::max_element(power.quench, {}, &QuenchCase::caught_j);
  const double energy = power.shot.tank_energy_j;
  std::string out;
  for (const QuenchCase& c : power.quench)
    out += fmt::format("{} {}: {:.0f} % caught, {:.0f} % lost in the gap", out.empty() ? "Notch" : "; notch",
                       c.notch, 100 * c.caught_j / energy, 100 * c.gap_loss_j / energy);
  out +=
      best->notch == 1
          ? ". Quench at the first: later the energy only crosses back and heats the gap. "
          : fmt::format(". Notch {} catches most here: coupling and tuning let little cross before. ", best->notch);
  out += design.gap.gaps_in_series < 4 ? "More, shorter gaps with moving air quench earlier."
                                       : "Moving air over the gaps quenches earlier.";
  return out;
}

} // namespace arc

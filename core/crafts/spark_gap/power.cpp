// Runs charging and shot, loads the bank with them, tries changes.
#include "crafts/spark_gap/spark_gap.h"

#include "analysis/analyse.h"
#include "analysis/tank_at_rest.h"
#include "circuit/feed.h"
#include "coil/streamer.h"
#include "crafts/spark_gap/power_bands.h"
#include "crafts/spark_gap/power_rules.h"
#include "file/validity.h"
#include "parts/gap.h"
#include "quantity/parallel.h"
#include "simulation/ideas.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
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

Trial try_shot(const Design& design, const Analysis& analysis, const PowerOptions& options, const Work& work) {
  const ShotOptions shot = shot_options(options);
  const ShotResult result = quick_shot(shot_circuit(design, analysis, shot), shot, work);
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

// Changes that builders try one at a time.
std::vector<Idea> ideas(const Design& d, const Analysis& a, UnitSystem units) {
  std::vector<Idea> out;
  const auto clip = [&](double turns, const std::string& why) {
    const double move = turns - d.primary.tap_turns;
    if (std::abs(move) < 0.02 || turns > d.primary.turns) return;
    out.push_back({fmt::format("Move the tap {} {:.2f} turn{}", move > 0 ? "out" : "in", std::abs(move), why),
                   [turns](Design& e) { e.primary.tap_turns = std::round(turns * 1000) / 1000; }});
  };
  if (a.tuned_tap_turns) clip(*a.tuned_tap_turns, "");
  if (a.resonator && a.target_hz > 0 && d.tune_target == TuneTarget::silent_coil) {
    const double pulled = (a.loaded_hz.low + a.loaded_hz.high) / 2 / silent_coil(d, a).hz;
    if (const auto tap = tap_for_frequency(d, a.tank_rings_f, a.target_hz * pulled))
      clip(*tap, ", for the coil with arcs on it");
  }
  constexpr double lift = 0.01;
  const auto couplings = complete_transfer_couplings();
  const double now = a.circuit.coupling;
  const double nearest = *std::ranges::min_element(couplings, {}, [&](double k) { return std::abs(k - now); });
  const double rise = nearest > now ? lift : -lift;
  const bool by_geometry = !d.equivalent.coupling && !d.equivalent.primary_inductance_h;
  if (by_geometry && d.primary.base_height_m + rise > 0)
    out.push_back({fmt::format("{} the primary {}", rise > 0 ? "Raise" : "Lower",
                               format_quantity(lift, Dimension::length, units, 2)),
                   [rise](Design& e) { e.primary.base_height_m += rise; }});
  if (d.gap.gaps_in_series > 1)
    out.push_back({"One gap fewer, the others wider", [fewer = d.gap.gaps_in_series - 1](Design& e) {
                     e.gap.gaps_in_series = fewer;
                     if (e.gap.spacing_m)
                       if (const auto wider = spacing_for_firing_m(e.gap, e.site, e.gap.firing_voltage_v))
                         e.gap.spacing_m = *wider;
                   }});
  if (d.site.ground_resistance_ohm > 1)
    out.push_back({"A ground of half the resistance", [](Design& e) { e.site.ground_resistance_ohm /= 2; }});
  if (a.lead_inductance_h > 0.02 * a.primary_inductance_h)
    out.push_back({"Leads half as long", [](Design& e) {
                     if (e.primary.lead_length_m) *e.primary.lead_length_m /= 2;
                     e.primary.lead_inductance_h /= 2;
                   }});
  return out;
}

void widen(Design& e) {
  set_firing_voltage(e, 1.1 * e.gap.firing_voltage_v);
}

// Arc length goes with the root of power. Where nothing crosses now there is nothing to compare with: 0.
double arc_ratio(const Trial& then, const Trial& now) {
  return now.efficiency() > 1e-9 ? std::sqrt(then.efficiency() / now.efficiency()) : 0;
}
double power_ratio(const Trial& then, const Trial& now) {
  return now.input_w > 0 ? then.input_w / now.input_w : 1;
}

void try_changes(const Design& design, const Analysis& analysis, const PowerOptions& options, UnitSystem units,
                 const Work& work, SparkGapPower& out) {
  const bool charges = out.charging_problem.empty();
  Trial now = try_shot(design, analysis, options, work);
  if (charges) charge(now, out.charging);
  const auto judge = [&](const Idea&, const Design& changed, const Analysis& a) {
    Trial then = try_shot(changed, a, options, work);
    if (charges) charge(then, out.charging); // none of them changes how the tank charges
    const double arcs = arc_ratio(then, now);
    return TriedChange{
        .title = {},
        .merit = arcs,
        .instead = arcs > 0 ? "" : "no arc",
        .more = arcs > 0 ? "" : "Nothing crosses to the resonator then, or nothing does now to compare with",
        .ratios = {{"arc_ratio", "", arcs}, {"power_ratio", "", power_ratio(then, now)}}};
  };
  out.changes = tried_ideas(design, ideas(design, analysis, units), units, work, judge);
  work.tell(0.9);
  if (work.cancelled) return;
  Design wider = design;
  widen(wider);
  if (!edit_problem(design, wider, units).empty()) return;
  try {
    Trial trial = try_shot(wider, analysis, options, work);
    if (charges) charge(trial, *charging_figures(work.kept, wider, {options.cycles}, work.cancelled));
    const auto limit = tank_voltage_limit_v(wider.tank, 1);
    out.wider_gap = WiderGap{arc_ratio(trial, now), power_ratio(trial, now), trial.break_rate_hz,
                             limit ? trial.tank_peak_v / *limit : 0};
  } catch (const std::invalid_argument&) { // no figure rather than a wrong one
  }
}

void try_quench(const ShotCircuit& circuit, const ShotOptions& options, const Work& work, SparkGapPower& out) {
  constexpr int notches = 3;
  std::array<std::shared_ptr<const ShotResult>, notches> shots;
  parallel_for(notches, [&](std::size_t i) {
    ShotOptions at = options;
    at.quench_notch = static_cast<int>(i) + 1;
    shots[i] = trial_shot(work.kept, circuit, at, work.cancelled);
  });
  for (int i = 0; i < notches && shots[static_cast<std::size_t>(i)]->quench_s; ++i) {
    const ShotResult& shot = *shots[static_cast<std::size_t>(i)];
    out.quench.push_back({i + 1, *shot.quench_s, shot.caught_j, shot.gap_loss_j, shot.left_in_tank_j});
  }
}

double logged_hours(const Design& design) {
  double seconds = 0;
  for (const Run& run : design.runs)
    if (const auto it = run.observations.find("duration_s"); it != run.observations.end()) seconds += it->second;
  return seconds / 3600;
}

} // namespace

std::optional<ArcBasis> SparkGapPower::arc_basis(const Design& design, const Analysis& a) const {
  if (!shot_problem.empty() || !(shot.tank_energy_j > 0)) return {};
  ArcBasis out;
  const bool charged = charging_problem.empty();
  out.power_w = charged ? charging.tank_power_w : a.power_w;
  out.transferred = shot.secondary_peak_j / shot.tank_energy_j;
  out.m_per_root_w = {0.6 * arc::longest_arc_m(1), arc::longest_arc_m(1)};
  // A rotor may fire at other volts than were entered.
  const double fired = charged && rate_from_feed ? charging.break_voltage_v / design.gap.firing_voltage_v : 1;
  const double silent_v =
      a.circuit.secondary_f > 0 ? std::sqrt(2 * shot.secondary_peak_j / a.circuit.secondary_f) : 0;
  out.top_v = fired * std::max(shot.top_peak_v, silent_v);
  out.joined = shot.breakout_s.has_value() && fired > 0.95;
  return out;
}

double SparkGapPower::longest_arc_m() const {
  double watts = charging_problem.empty() ? charging.tank_power_w : 0;
  for (const VariacPoint& point : variac)
    if (point.problem.empty()) watts = std::max(watts, point.charging.tank_power_w);
  return arc::longest_arc_m(watts);
}

ChargingTrial try_charging(const Design& design, const ChargingOptions& options, const Work& work) {
  ChargingTrial out;
  try {
    out.charging = *charging_figures(work.kept, design, options, work.cancelled);
  } catch (const std::invalid_argument& refusal) {
    out.problem = refusal.what();
  }
  return out;
}

namespace {

void run_shot(const Design& design, const Analysis& analysis, const ShotOptions& shot, bool waveforms,
              const Work& work, SparkGapPower& out) {
  try {
    out.circuit = shot_circuit(design, analysis, shot);
    out.shot = waveforms ? *simulate_shot(work.kept, out.circuit, shot, work.cancelled)
                         : *shot_figures(work.kept, out.circuit, shot, work.cancelled);
    if (!std::isfinite(out.shot.top_peak_v) || !(out.shot.tank_energy_j > 0))
      out.shot_problem = "the circuit is beyond what can be computed: its values lie too far apart";
  } catch (const std::invalid_argument& refusal) {
    out.shot_problem = refusal.what();
  }
}

void run_charging(const Design& design, const PowerOptions& options, const Work& work, SparkGapPower& out) {
  try {
    const auto charge = [&](int cycles) {
      const ChargingOptions run{cycles};
      out.charging = options.waveforms ? *simulate_charging(work.kept, design, run, work.cancelled,
                                                            [&](int done) { work.tell(0.25 * done / cycles); })
                                       : *charging_figures(work.kept, design, run, work.cancelled);
    };
    charge(options.cycles);
    // A gap that is silent once the start has died away is waited for: a second of settled supply.
    const int patient = 2 * static_cast<int>(std::ceil(design.site.mains_frequency_hz));
    if (out.charging.break_rate_hz <= 0 && options.cycles < patient && !work.cancelled) charge(patient);
  } catch (const std::invalid_argument& refusal) {
    out.charging_problem = refusal.what();
  }
}

void run_variac(const Design& design, const PowerOptions& options, const Work& work, SparkGapPower& out) {
  const FeedBlock* variac = find_block(design.feed, BlockRole::variac);
  if (!variac) return;
  const double present = block_value(*variac, "setting");
  std::set<double> settings(variac_settings.begin(), variac_settings.end());
  settings.insert(present);
  for (const double setting : settings)
    out.variac.push_back({setting, out.charging, out.charging_problem, setting == present});
  Tally done;
  parallel_for(out.variac.size(), [&](std::size_t i) {
    VariacPoint& point = out.variac[i];
    if (!point.present && !work.cancelled) {
      Design turned = design;
      find_block(turned.feed, BlockRole::variac)->values["setting"] = point.setting;
      ChargingTrial trial = try_charging(turned, {options.cycles}, work);
      point.charging = std::move(trial.charging);
      point.problem = std::move(trial.problem);
    }
    point.charging.samples.clear();
    done.add([&](int so_far) { work.tell(0.25 + 0.25 * so_far / static_cast<double>(out.variac.size())); });
  });
  if (work.cancelled) out.variac.clear();
}

void load_bank(const Design& design, const Analysis& analysis, const ShotOptions& shot, SparkGapPower& out) {
  out.rate_from_feed = out.charging_problem.empty() && out.charging.break_rate_hz > 0;
  out.break_rate_hz = out.charging_problem.empty() ? out.charging.break_rate_hz : design.gap.break_rate_hz;
  out.duty.load.peak_v =
      std::max(design.gap.firing_voltage_v, out.charging_problem.empty() ? out.charging.tank_peak_v : 0);
  out.duty.load.frequency_hz = analysis.tank_hz;
  if (out.shot_problem.empty()) {
    out.duty.load.rms_a = out.shot.tank_rms_a * std::sqrt(shot.duration_s * out.break_rate_hz);
    out.duty.load.slope_v_per_s = out.shot.tank_slope_v_per_s;
    out.gap_loss_w = out.shot.gap_loss_j * out.break_rate_hz;
    out.gap_charge_c_per_s = out.shot.gap_charge_c * out.break_rate_hz;
  }
  out.duty.stress = bank_stress(design.tank, out.duty.load);
  out.duty.rate_hz = out.break_rate_hz;
  out.duty.rate_from = out.rate_from_feed ? "by the feed" : "as entered";
  out.dwell_s = gap_model(design.gap, design.site)
                    .dwell_s(out.rate_from_feed ? out.charging.break_voltage_v : design.gap.firing_voltage_v);
  out.gap_hours = logged_hours(design);
}

// The fundamental's reactive power taken away in whole or in part: each size is run, the best of them kept.
void try_correction(const Design& design, const Work& work, SparkGapPower& out) {
  const ChargingResult& now = out.charging;
  if (!power_factor_is_low(design, out) || now.reactive_va <= 0) return;
  const bool chopped = std::ranges::any_of(design.feed, [](const FeedBlock& b) {
    const BlockKind* kind = block_kind(b.kind);
    return b.kind == "dimmer" || (kind && kind->ballast); // behind them a capacitor corrects nothing
  });
  if (chopped) return;
  const auto source = std::ranges::find_if(design.feed, [](const FeedBlock& b) { return is_source(b.kind); });
  const auto before = source - design.feed.begin(); // a variac there changes what the capacitor sees
  const double volts =
      before > 0 ? now.joints[static_cast<std::size_t>(before - 1)].rms_v : design.site.mains_voltage_v;
  double best_factor = now.power_factor;
  for (const double share : {0.5, 0.75, 1.0}) {
    const double farad = round_significant(
        share * now.reactive_va / (2 * std::numbers::pi * design.site.mains_frequency_hz * volts * volts), 2);
    if (!(farad >= 1e-7 && farad <= 1e-3)) continue;
    Design trial = design;
    add_correction(trial, farad);
    const ChargingTrial tried = try_charging(trial, {}, work);
    if (!tried.problem.empty() || tried.charging.power_factor <= best_factor + 0.02) continue;
    constexpr double worth = 0.9; // of the line's amperes
    if (tried.charging.line_current_a > worth * now.line_current_a) continue;
    best_factor = tried.charging.power_factor;
    out.correction = {farad, best_factor, tried.charging.line_current_a};
  }
}

// Where some mains cycles pass without a break: the first lower voltage with which none does.
void try_lower_gap(const Design& design, const Work& work, SparkGapPower& out) {
  if (!skips_cycles(design, out)) return;
  for (const double share : {0.9, 0.8, 0.7, 0.6}) {
    Design lower = design;
    lower.gap.firing_voltage_v = std::floor(share * design.gap.firing_voltage_v / 100) * 100;
    if (work.cancelled || !(lower.gap.firing_voltage_v > 0)) return;
    const ChargingTrial tried = try_charging(lower, {.cycles = 50}, work);
    if (!tried.problem.empty() || tried.charging.idle_cycles > 0) continue;
    out.steady_firing_v = lower.gap.firing_voltage_v;
    return;
  }
}

} // namespace

Drive SparkGapPower::drive(const Design& design, const Analysis& analysis) const {
  Drive out;
  if (!analysis.computed) return out;
  out.frequency_hz = analysis.tank_hz;
  out.input_w = rate_from_feed ? charging.input_power_w : 0;
  out.primary_peak_v = design.gap.firing_voltage_v;
  out.primary_peak_a = shot.primary_peak_a;
  out.top_peak_v = shot.top_peak_v;
  return out;
}

void SparkGapPower::simulate(const Design& design, const Analysis& analysis, const PowerOptions& options,
                             UnitSystem units, const Work& work) {
  if (!analysis.computed) {
    shot_problem = charging_problem = analysis.problem;
    return;
  }
  const ShotOptions by = shot_options(options);
  parallel_for(2, [&](std::size_t i) { // they know nothing of each other
    if (i == 0) run_shot(design, analysis, by, options.waveforms, work, *this);
    if (i == 1) run_charging(design, options, work, *this);
  });
  if (options.variac) run_variac(design, options, work, *this);
  if (work.cancelled) return;
  load_bank(design, analysis, by, *this);
  if (options.advice && shot_problem.empty()) {
    try_quench(circuit, by, work, *this);
    band = shot_bands(analysis, circuit, by, work);
    try_changes(design, analysis, options, units, work, *this);
  }
  if (options.advice && rate_from_feed) band.merge(charging_bands(design, charging, {options.cycles}, work));
  if (options.variac && charging_problem.empty()) try_correction(design, work, *this);
  if (options.advice) try_lower_gap(design, work, *this);
}

std::string quench_advice(const SparkGapPower& power, const Design& design) {
  if (power.quench.empty()) return "The gap does not open within the simulated time.";
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

// The run of an oscillator: what is looked at, sums, and when a run has said what it can.
#include "crafts/tubes/tube_step.h"

namespace arc {
namespace tube_motion {

template <int Tubes>
void TubeRun<Tubes>::thyristor(double weight_s) {
  const Staccato& s = *c_.staccato;
  Network::Switch& device = net_.switches[*parts_.thyristor];
  const double volts = read(cathode_v), amps = volts / (device.on ? device.on_ohm : device.off_ohm);
  filtered_a_ += (amps - filtered_a_) * -std::expm1(-weight_s / s.off_s);
  sums_.thyristor_peak_a = std::max(sums_.thyristor_peak_a, device.on ? amps : 0);
  sums_.thyristor_a2s += weight_s * amps * amps;
  sums_.thyristor_j += weight_s * amps * volts;
  const double since = time_s_ - s.first_s;
  gate_ = since >= 0 && since - std::floor(since / s.period_s) * s.period_s < s.gate_s;
  const bool on = gate_ || (device.on && filtered_a_ > s.hold_a);
  if (on == device.on) return;
  device.on = on;
  (on ? out_.on_s : out_.off_s).push_back(time_s_);
  present_ = &topology();
  read_tube();
}

template <int Tubes>
void TubeRun<Tubes>::look(double weight_s) {
  read_all();
  const double rail = read(rail_v), leak = read(leak_v), line = read(line_a);
  const double top = top_v();
  const double plate_coil_a = winding_a(parts_.plate_coils), feedback_a = winding_a(parts_.feedback_coils);
  sums_.time_s += weight_s;
  sums_.input_j += (last_rail_v_ + rail) / 2 * charge_c_;
  last_rail_v_ = rail;
  charge_c_ = 0;
  book_heat(weight_s, leak);
  if (parts_.arc) book_arc(weight_s, top);
  sums_.line_a2s += weight_s * line * line;
  sums_.tank_a2s += weight_s * plate_coil_a * plate_coil_a;
  sums_.feedback_a2s += weight_s * feedback_a * feedback_a;
  sums_.rail_most_v = std::max(sums_.rail_most_v, rail);
  sums_.over_rail_v = std::max(sums_.over_rail_v, tubes_.front().va - rail);
  sums_.cathode_most_v = std::max(sums_.cathode_most_v, read(cathode_v));
  see_peaks(top);
  count_period(top, rail);
  fill_bin(weight_s, top);
  if (parts_.thyristor) thyristor(weight_s);
  const bool switched = fix_switches(), bent = fix_cores();
  if (!switched && !bent) return;
  present_ = &topology();
  read_tube();
}

// In everything that is a resistor.
template <int Tubes>
void TubeRun<Tubes>::book_heat(double weight_s, double leak) {
  sums_.leak_j += weight_s * leak * leak / net_.resistors[parts_.leak].ohm;
  sums_.winding_j +=
      weight_s * (winding_w(parts_.plate_coils, c_.plate_ohm) + winding_w(parts_.feedback_coils, c_.feedback_ohm));
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[i];
    if (tube.stopper) {
      const double volts = read(i > 0 ? stopper_2_v : stopper_v);
      sums_.winding_j += weight_s * volts * volts / net_.resistors[*tube.stopper].ohm;
    }
    if (tube.trap) {
      const double volts = read(i > 0 ? trap_2_v : trap_v);
      sums_.trap_j += weight_s * volts * volts / net_.resistors[*tube.trap].ohm;
    }
  }
  for (std::size_t i = 0; i < parts_.mode_caps.size(); ++i) {
    const double amps = inductor_a(parts_.mode_coils[i]);
    sums_.foot_j += weight_s * amps * amps * c_.modes[i].resistance_ohm;
  }
}

// In the arc, which joins where the top is high enough.
template <int Tubes>
void TubeRun<Tubes>::book_arc(double weight_s, double top) {
  Network::Switch& arc = net_.switches[*parts_.arc];
  const double volts = read(arc_v);
  if (arc.on) sums_.arc_j += weight_s * volts * volts / arc.on_ohm;
  if (!arc.on && c_.breakout_v > 0 && std::abs(top) > c_.breakout_v) {
    arc.on = true;
    out_.breakout_s = time_s_;
    present_ = &topology();
    read_tube();
  }
}

template <int Tubes>
void TubeRun<Tubes>::see_peaks(double top) {
  sums_.top.see(time_s_, top);
  double tank = 0;
  for (const std::size_t i : parts_.tanks) tank += x_.data()[i];
  sums_.tank.see(time_s_, std::abs(tank));
  const TubeAt& tube = tubes_.front();
  sums_.plate.see(time_s_, tube.va);
  sums_.plate_low.see(time_s_, -tube.va);
  sums_.grid.see(time_s_, tube.vg);
  sums_.grid_low.see(time_s_, -tube.vg);
}

template <int Tubes>
void TubeRun<Tubes>::count_period(double top, double rail) {
  // A flame coil's top stands at the supply's volts as well; radio frequency is what is above them.
  const double swing = c_.wiring == TubeWiring::flame ? top - rail : top;
  swing_v_ = std::max(swing_v_, std::abs(swing));
  if (last_top_v_ < 0 && swing >= 0) {
    const double at = last_top_s_ + (time_s_ - last_top_s_) * last_top_v_ / (last_top_v_ - swing);
    if (last_rise_s_ > 0) sums_.periods.push_back({at - last_rise_s_, swing_on_s_, swing_v_});
    ++rises_;
    last_rise_s_ = at;
    swing_v_ = swing_on_s_ = 0;
  }
  last_top_v_ = swing;
  last_top_s_ = time_s_;
}

// Of the waveform that is shown.
template <int Tubes>
void TubeRun<Tubes>::fill_bin(double weight_s, double top) {
  bin_.time_s += weight_s;
  bin_.rail += weight_s * read(rail_v);
  bin_.bias += weight_s * read(leak_v);
  bin_.line += weight_s * read(line_a) * read(line_a);
  bin_.top = std::max(bin_.top, std::abs(top));
  if (bin_.time_s >= bin_s_) {
    const double t = bin_.time_s;
    out_.samples.push_back(
        {time_s_ - t / 2, bin_.rail / t, bin_.top, bin_.plate / t, bin_.bias / t, std::sqrt(bin_.line / t)});
    bin_ = {};
  }
}

template <int Tubes>
void TubeRun<Tubes>::step() {
  if (c_.direct_v) x_.data()[states_ - 3] = std::min(1.0, (time_s_ + h_ / 2) / c_.rise_s);
  if (since_look_ == 0 && stride()) {
    look(look_every * h_);
  } else {
    small_step();
    if (++since_look_ == look_every) {
      since_look_ = 0;
      look(look_every * h_);
    }
  }
  if (time_s_ >= wave_from_s_ && time_s_ <= wave_to_s_)
    out_.wave.push_back(
        {time_s_, tubes_[0].va, tubes_[0].vg, tubes_[0].takes.plate_a, tubes_[0].takes.grid_a, top_v()});
}

template <int Tubes>
void TubeRun<Tubes>::run_until(double until_s, const std::atomic<bool>& cancelled) {
  for (int count = 0; time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
  if (!std::isfinite(x_.data()[0] + tubes_.front().va + tubes_.front().vg))
    throw std::invalid_argument("the oscillator's numbers run away: a part is far from anything real");
}

template <int Tubes>
void TubeRun<Tubes>::spend() {
  constexpr int most_thousands = 4000; // some seconds
  if (++thousands_ > most_thousands)
    throw std::invalid_argument(
        "tank, resonator and supply are too far apart to be followed: see that the tank is near "
        "the resonator");
}

template <int Tubes>
void TubeRun<Tubes>::begin_sums() {
  sums_ = Sums{};
  sums_stored_j_ = stored_j();
}

template <int Tubes>
void TubeRun<Tubes>::conclude(TubeResult& out) const {
  const Sums& s = sums_;
  const double t = s.time_s > 0 ? s.time_s : 1;
  out.from_s = std::max(0.0, time_s_ - s.time_s);
  out.to_s = time_s_;
  out.plate_input_w = s.input_j / t;
  out.plate_dissipation_w = s.plate_j / t;
  out.grid_dissipation_w = s.grid_j / t;
  out.leak_w = s.leak_j / t;
  out.winding_w = s.winding_j / t;
  out.trap_w = s.trap_j / t;
  out.arc_w = s.arc_j / t;
  out.secondary_power_w = (s.foot_j + s.arc_j) / t;
  out.thyristor_w = s.thyristor_j / t;
  out.stored_w = (stored_j() - sums_stored_j_) / t;
  out.balance_w = out.plate_input_w - out.plate_dissipation_w - out.grid_dissipation_w - out.leak_w -
                  out.winding_w - out.trap_w - out.secondary_power_w - out.thyristor_w - out.stored_w;
  out.plate_average_a = s.plate_c / t;
  out.grid_average_a = s.grid_c / t;
  out.grid_bias_v = s.grid_vs / t;
  out.cathode_peak_a = s.cathode_peak_a;
  out.plate_most_v = s.plate.most();
  out.plate_least_v = -s.plate_low.most();
  out.grid_most_v = s.grid.most();
  out.grid_least_v = -s.grid_low.most();
  out.top_peak_v = s.top.most();
  out.crest_s = s.top.at_s();
  out.tank_peak_v = s.tank.most();
  out.tank_rms_a = std::sqrt(s.tank_a2s / t);
  out.feedback_rms_a = std::sqrt(s.feedback_a2s / t);
  out.line_rms_a = std::sqrt(s.line_a2s / t);
  out.rail_most_v = s.rail_most_v;
  out.cathode_most_v = s.cathode_most_v;
  out.thyristor_peak_a = s.thyristor_peak_a;
  out.thyristor_rms_a = std::sqrt(s.thyristor_a2s / t);
  constexpr double full = 0.9; // of the top volts: a period that counts as oscillation at its height
  double length_s = 0, conducts_s = 0, count = 0;
  double most_v = 0;
  for (const Sums::Period& p : s.periods) most_v = std::max(most_v, p.top_v);
  for (const Sums::Period& p : s.periods)
    if (p.top_v > full * most_v) {
      length_s += p.length_s;
      conducts_s += p.conducts_s;
      ++count;
    }
  if (!(count > 0)) return;
  out.frequency_hz = count / length_s;
  out.conduction_deg = 360 * conducts_s / length_s;
}

// To the end of so many periods of the top volts, or of that time where nothing swings.
template <int Tubes>
void TubeRun<Tubes>::run_periods(int periods, const std::atomic<bool>& cancelled) {
  const std::int64_t last = rises_ + periods;
  const double until_s = time_s_ + 1.5 * periods / slow_hz_;
  for (int count = 0; rises_ < last && time_s_ < until_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    step();
  }
}

// Blocks of periods until they no longer differ, or it is clear that nothing swings, or that it stops and starts by
// its own grid leak.
template <int Tubes>
TubeResult TubeRun<Tubes>::direct(const std::atomic<bool>& cancelled) {
  constexpr int periods = 40, most_blocks = 60;
  constexpr double still_share = 0.02, nothing_share = 1e-3; // of the rail, of the swing
  const double rail = *c_.direct_v, block_s = periods / slow_hz_, leak_s = c_.grid_leak_ohm * c_.grid_leak_f;
  bin_s_ = (c_.wiring == TubeWiring::flame ? 1 : 0.5) / slow_hz_; // an envelope
  run_until(c_.rise_s + 2 / slow_hz_, cancelled);
  TubeResult before{};
  double last_swing = 0, swing = 0;
  const double most_s = std::max(most_blocks * block_s, std::min(20 * leak_s, 0.1));
  int alike = 0, dying = 0;
  while (!cancelled && time_s_ < most_s) {
    run_periods(1, cancelled);
    begin_sums();
    run_periods(periods, cancelled);
    TubeResult now{};
    conclude(now);
    swing = (now.plate_most_v - now.plate_least_v) / 2;
    const auto near = [](double a, double b) {
      return std::abs(a - b) <= 2e-3 * std::max(std::abs(a), std::abs(b));
    };
    const bool swings = swing > still_share * rail;
    const bool same =
        near(now.top_peak_v, before.top_peak_v) && near(now.plate_dissipation_w, before.plate_dissipation_w);
    alike = swings && same ? alike + 1 : 0;
    // Held by a charged grid leak it only waits.
    const bool waits = read(leak_v) < -0.05 * rail / c_.law.mu;
    dying = !swings && !waits && (swing < last_swing || swing < nothing_share * rail) ? dying + 1 : 0;
    last_swing = swing;
    before = now;
    // Where the leak is slower than a block, it must have had time to move.
    if ((alike >= 2 && time_s_ > 6 * leak_s) || dying >= 3) break;
    if (time_s_ > std::max(12 * block_s, 8 * leak_s) && stops_and_starts()) break;
  }
  out_.steady = alike >= 2 || dying >= 3;
  out_.oscillates = dying < 3 && swing > nothing_share * rail;
  out_.intermittent = !out_.steady && stops_and_starts();
  if (out_.intermittent) whole_bursts(std::max(10 * block_s, 8 * leak_s), cancelled);
  conclude(out_);
  const double nine_tenths = 0.9 * out_.top_peak_v;
  for (const TubeSample& s : out_.samples)
    if (s.top_v >= nine_tenths) {
      out_.start_s = s.time_s;
      break;
    }
  if (options_.waveforms && !cancelled) {
    wave_from_s_ = time_s_;
    wave_to_s_ = time_s_ + 3 / slow_hz_;
    run_until(wave_to_s_, cancelled);
  }
  return std::move(out_);
}

// Whether the top was at rest and at its height within the later half of the run.
template <int Tubes>
bool TubeRun<Tubes>::stops_and_starts() const {
  constexpr double rest = 0.2;
  double least = 1e300, most = 0;
  const auto& all = out_.samples;
  constexpr std::size_t together = 4;
  for (std::size_t i = all.size() / 2; i + together < all.size(); i += together / 2) {
    double top = 0;
    for (std::size_t k = i; k < i + together; ++k) top = std::max(top, all[k].top_v);
    least = std::min(least, top);
    most = std::max(most, top);
  }
  return most > 0 && least < rest * most;
}

// Goes on for whole bursts by the falls of the grid leak's volts through their middle, at least for `least_s`.
template <int Tubes>
void TubeRun<Tubes>::whole_bursts(double least_s, const std::atomic<bool>& cancelled) {
  double low = 0, high = -1e300;
  for (std::size_t i = out_.samples.size() / 2; i < out_.samples.size(); ++i) {
    low = std::min(low, out_.samples[i].bias_v);
    high = std::max(high, out_.samples[i].bias_v);
  }
  // A fall counts once it has risen near its top: radio frequency makes it cross the middle more than once.
  const double middle = (low + high) / 2, rested = low + 0.9 * (high - low), from_s = time_s_;
  bool armed = false;
  const auto fell = [&](std::size_t seen) {
    if (out_.samples.size() == seen) return false;
    const double volts = out_.samples.back().bias_v;
    armed = armed || volts > rested;
    if (!armed || volts > middle) return false;
    armed = false;
    return true;
  };
  int falls = 0;
  double first_s = 0;
  for (int count = 0; time_s_ < from_s + 4 * least_s; ++count) {
    if (count % 4096 == 0 && (spend(), cancelled)) return;
    const std::size_t seen = out_.samples.size();
    step();
    if (!fell(seen)) continue;
    if (falls++ == 0) {
      first_s = time_s_;
      begin_sums();
    } else {
      out_.burst_s = (time_s_ - first_s) / (falls - 1);
      if (time_s_ - from_s > least_s) return;
    }
  }
}

// Fired in every cycle it is on again before a run of one cycle could tell: what is on at the end is followed,
// beside the figures, until it has been off once or has stood through a whole swing of the supply.
template <int Tubes>
void TubeRun<Tubes>::watch_turn_off(double cycle_s, const std::atomic<bool>& cancelled) {
  constexpr double swing = 1.2; // cycles
  const std::size_t seen = out_.samples.size(), fired = out_.on_s.size(), ended = out_.off_s.size();
  if (fired <= ended) return;
  run_until(std::max(time_s_, out_.on_s.back() + swing * cycle_s), cancelled);
  out_.stays_on = out_.off_s.size() == ended;
  out_.samples.resize(seen);
  out_.on_s.resize(fired);
  out_.off_s.resize(ended);
}

// Bursts that neither the mains nor the thyristor ends: from height to rest to height again within a small part of
// a cycle.
template <int Tubes>
void TubeRun<Tubes>::find_own_bursts(std::size_t first, double cycle_s) {
  constexpr double rest = 0.1, height = 0.3; // of the highest top volts
  const double longest_s = 0.3 * cycle_s;    // of the mains' own coming and going
  double most_v = 0;
  for (std::size_t i = first; i < out_.samples.size(); ++i) most_v = std::max(most_v, out_.samples[i].top_v);
  bool swings = false;
  double began_s = -1, apart_s = 0;
  int own = 0;
  for (std::size_t i = first; i < out_.samples.size(); ++i) {
    const TubeSample& s = out_.samples[i];
    if (swings && s.top_v < rest * most_v) {
      swings = false;
    } else if (!swings && s.top_v > height * most_v) {
      const bool turned_off =
          std::ranges::any_of(out_.off_s, [&](double t) { return t > began_s && t < s.time_s; });
      if (began_s > 0 && s.time_s - began_s < longest_s && !turned_off) {
        ++own;
        apart_s += s.time_s - began_s;
      }
      swings = true;
      began_s = s.time_s;
    }
  }
  constexpr int surely = 2;
  if (own < surely) return;
  out_.intermittent = true;
  out_.burst_s = apart_s / own;
}

// Whole cycles; the figures are those of the last one, or of a whole firing period from the start.
template <int Tubes>
TubeResult TubeRun<Tubes>::mains(const std::atomic<bool>& cancelled) {
  const double cycle_s = 1 / c_.site.mains_frequency_hz;
  constexpr int longest_period = 12; // cycles, beyond which a pause is taken to go on as it is
  int cycles = options_.cycles, counted = 1;
  double pause_s = 0; // of the firing period, not run
  if (c_.staccato) {
    const double whole = std::ceil(c_.staccato->period_s / cycle_s - 1e-6);
    const int period = static_cast<int>(std::clamp(whole, 1.0, 1.0 * longest_period));
    if (cycles == 0) cycles = period;
    counted = std::min(cycles, period);
    if (counted == period) pause_s = std::max(0.0, whole - period) * cycle_s;
  } else if (cycles == 0)
    cycles = 2;
  bin_s_ = cycle_s / 1000;
  run_until((cycles - counted) * cycle_s, cancelled);
  begin_sums();
  const std::size_t first = out_.samples.size();
  if (options_.waveforms) { // radio frequency near the supply's first crest
    const double crest = parts_.start_deg < 0 ? 0.5 : 0.25;
    wave_from_s_ = (cycles - counted + crest) * cycle_s;
    wave_to_s_ = wave_from_s_ + 3 / slow_hz_;
  }
  run_until(cycles * cycle_s, cancelled);
  if (parts_.thyristor && !net_.switches[*parts_.thyristor].on) sums_.time_s += pause_s;
  conclude(out_);
  const double nine_tenths = 0.9 * out_.top_peak_v;
  for (std::size_t i = first; i < out_.samples.size(); ++i)
    if (out_.samples[i].top_v >= nine_tenths) {
      out_.start_s = out_.samples[i].time_s;
      break;
    }
  out_.oscillates = out_.top_peak_v > 0 && sums_.over_rail_v > 0.05 * out_.rail_most_v;
  find_own_bursts(first, cycle_s);
  if (parts_.thyristor) watch_turn_off(cycle_s, cancelled);
  out_.steady = true;
  return std::move(out_);
}

} // namespace tube_motion

using tube_motion::TubeRun;

TubeResult simulate_tube(const TubeCircuit& circuit, const TubeOptions& options,
                         const std::atomic<bool>& cancelled) {
  if (options.mains && !circuit.direct_v && circuit.wiring == TubeWiring::flame)
    return simulate_envelope(circuit, options, cancelled);
  TubeCircuit c = circuit;
  if (!options.mains || c.direct_v) {
    c.direct_v = crest_supply_v(circuit);
    if (!(c.rise_s > 0)) c.rise_s = 2e-6;
    if (!options.mains) c.staccato.reset();
  }
  const auto run = [&](auto&& tubes) { return options.mains ? tubes.mains(cancelled) : tubes.direct(cancelled); };
  return c.push_pull ? run(TubeRun<2>(c, options)) : run(TubeRun<1>(c, options));
}

std::shared_ptr<const TubeResult> simulate_tube(Kept& kept, const TubeCircuit& circuit, const TubeOptions& options,
                                                const std::atomic<bool>& cancelled) {
  const TubeStep step{circuit, options};
  return kept.get(step, cancelled, [&] { return simulate_tube(circuit, options, cancelled); });
}

std::string tube_csv(const TubeResult& result) {
  return waves_csv<TubeSample>(result.samples, {{"supply_v", &TubeSample::rail_v},
                                                {"top_v", &TubeSample::top_v},
                                                {"plate_w", &TubeSample::plate_w},
                                                {"grid_leak_v", &TubeSample::bias_v},
                                                {"line_a", &TubeSample::line_a}});
}

} // namespace arc

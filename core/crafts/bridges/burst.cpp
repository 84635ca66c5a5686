// The burst: its events, the drive's logic, and the books of where the energy went.
#include "crafts/bridges/burst_motion.h"

namespace arc {
namespace burst_motion {

// Whether anything must change its state.
template <int modes>
bool Burst<modes>::violated(const State& x) const {
  for (std::size_t d = 0; d < legs_; ++d) {
    const double v = volts(d, x);
    if (diode_turns(d, v) || knee_turns(d, v)) return true;
  }
  return comparator_turns(x) || limiter_turns(x) || breaks_out(x);
}

// Changes what must change; true when anything did.
template <int modes>
bool Burst<modes>::settle() {
  const std::uint32_t before = topology_.key();
  bool moved = false;
  for (std::size_t d = 0; d < legs_; ++d) {
    const double v = volts(d, x_);
    if (diode_turns(d, v)) topology_.diode[d] = !topology_.diode[d];
    if (knee_turns(d, v)) topology_.knee[d] = !topology_.knee[d];
  }
  if (comparator_turns(x_)) {
    heard_ = !heard_;
    deaf_until_ = now_ + ticks(c_.blanking_s);
    comparator_.emplace_back(now_ + ticks(c_.delay_s), heard_);
    moved = true;
  }
  if (limiter_turns(x_)) {
    over_ = !over_;
    limiter_.emplace_back(now_ + ticks(c_.limit_delay_s), over_);
    moved = true;
  }
  if (breaks_out(x_)) {
    topology_.streamer = true;
    out_.breakout_s = time_s(now_);
  }
  if (topology_.key() != before) present_ = nullptr;
  return moved || topology_.key() != before;
}

template <int modes>
void Burst<modes>::switch_on(std::size_t device, double load_a) {
  const double v = volts(device, x_), bus = x_(vb);
  topology_.gate[device] = true;
  topology_.knee[device] = c_.device.type == SwitchType::igbt && v > c_.device.knee_v;
  const double taken = std::max(0.0, load_a);
  if (v > 0) out_.dumped_j += c_.device.output_f * v * v; // both output capacitances of the leg
  discharged_ = now_ + discharge_;
  if (v <= 0.1 * bus) {
    ++out_.soft;
    return;
  }
  ++out_.hard;
  out_.on_j += v * taken * c_.device.rise_s / 2;
  if (v > 0.98 * bus) out_.recovery_j += bus * taken * c_.device.recovery_s / 2;
}

// The gates as the drive wants them now: off at once, on after the dead time.
template <int modes>
void Burst<modes>::set_gates() {
  const bool enabled = now_ < burst_end_ && !tripped_;
  const bool waited = now_ - drive_since_ >= dead_;
  const std::array<bool, devices> wanted{enabled && drive_ && waited, enabled && !drive_ && waited,
                                         c_.full && enabled && !drive_ && waited,
                                         c_.full && enabled && drive_ && waited};
  const std::array<double, devices> load{x_(ip), -x_(ip), -x_(ip), x_(ip)};
  for (std::size_t d = 0; d < legs_; ++d) {
    if (wanted[d] || !topology_.gate[d]) continue;
    const double amps = device_a(d, x_);
    if (amps > 0) out_.off_j += x_(vb) * amps * c_.device.fall_s / 2;
    if (d == high_1) out_.edges.push_back({time_s(now_), x_(ip)});
    topology_.gate[d] = topology_.knee[d] = false;
    present_ = nullptr;
  }
  for (std::size_t d = 0; d < legs_; ++d)
    if (wanted[d] && !topology_.gate[d]) {
      switch_on(d, load[d]);
      present_ = nullptr;
    }
}

template <int modes>
void Burst<modes>::set_drive(bool high) {
  if (high == drive_) return;
  drive_ = high;
  drive_since_ = now_;
  if (high && drive_end_ == never) ++drive_rises_;
  if (high && tripped_ && c_.limit_skips && !delayed_over_) tripped_ = false;
}

template <int modes>
std::int64_t Burst<modes>::next_event() const {
  std::int64_t next = std::min(end_, (now_ / whole + 1) * whole);
  const auto at = [&](std::int64_t when) {
    if (when > now_) next = std::min(next, when);
  };
  at(burst_end_);
  at(kick_end_);
  at(deaf_until_);
  at(drive_since_ + dead_);
  if (!comparator_.empty()) at(comparator_.front().first);
  if (!limiter_.empty()) at(limiter_.front().first);
  if (c_.signal == BurstSignal::fixed) at(ticks(static_cast<double>(half_cycles_ + 1) / (2 * c_.frequency_hz)));
  return next;
}

template <int modes>
void Burst<modes>::handle_due() {
  while (!comparator_.empty() && comparator_.front().first <= now_) {
    delayed_ = comparator_.front().second;
    comparator_.erase(comparator_.begin());
  }
  if (c_.signal == BurstSignal::fixed) {
    while (ticks(static_cast<double>(half_cycles_ + 1) / (2 * c_.frequency_hz)) <= now_) {
      ++half_cycles_;
      set_drive(half_cycles_ % 2 == 0);
    }
  } else if (now_ >= kick_end_) {
    set_drive(delayed_);
  }
  while (!limiter_.empty() && limiter_.front().first <= now_) {
    delayed_over_ = limiter_.front().second;
    limiter_.erase(limiter_.begin());
    if (!delayed_over_ || tripped_ || now_ >= burst_end_) continue;
    tripped_ = true;
    ++out_.trips;
    if (!out_.trip_s) out_.trip_s = time_s(now_);
  }
  const bool over = now_ >= burst_end_ || (tripped_ && !c_.limit_skips);
  if (over && drive_end_ == never) {
    drive_end_ = now_;
    bus_at_end_ = x_(vb);
    out_.end_s = time_s(now_);
  }
  set_gates();
}

// Resistances, switches and extremes over one exact step; the step is short against a cycle.
template <int modes>
void Burst<modes>::book_motion(const State& before, const State& after, double seconds) {
  const double square = (before(ip) * before(ip) + after(ip) * after(ip)) / 2 * seconds;
  out_.primary_j += c_.primary_ohm * square;
  out_.primary_a2s += square;
  if (drive_end_ == never) square_a_ += square;
  for (int k = 0; k < modes; ++k)
    out_.secondary_j += c_.modes[static_cast<std::size_t>(k)].resistance_ohm *
                        (before(is + k) * before(is + k) + after(is + k) * after(is + k)) / 2 * seconds;
  if (topology_.streamer) {
    const double a = top_v(before) - before(vst), b = top_v(after) - after(vst);
    out_.streamer_j += (a * a + b * b) / 2 / c_.streamer_ohm * seconds;
  }
  book_switches(before, after, seconds);
  count(before, after, seconds);
  look();
}

// While output capacitances are dumped into a switch, which is booked by formula, the rest of its loss is taken to
// be what it is afterwards.
template <int modes>
void Burst<modes>::book_switches(const State& before, const State& after, double seconds) {
  unbooked_s_ += seconds;
  if (now_ < discharged_) return;
  const bool waited = now_ - ticks(seconds) < discharged_;
  const double watts = device_w(after);
  out_.conduction_j += waited ? watts * unbooked_s_ : (device_w(before) + watts) / 2 * seconds;
  unbooked_s_ = 0;
}

template <int modes>
void Burst<modes>::count(const State& before, const State& after, double seconds) {
  if (drive_end_ != never) return;
  const bool primary = c_.signal == BurstSignal::primary;
  const double a = primary ? before(ip) : foot_a(before), b = primary ? after(ip) : foot_a(after);
  if (a < 0 && b >= 0) rises_.push_back(time_s(now_) - seconds * b / (b - a));
}

template <int modes>
void Burst<modes>::look() {
  const double amps = std::abs(x_(ip)), top = std::abs(top_v(x_));
  if (drive_end_ == never) out_.primary_peak_a = std::max(out_.primary_peak_a, amps);
  if (drive_end_ == never || time_s(now_) <= out_.end_s + after_glance_s) {
    out_.return_peak_a = std::max(out_.return_peak_a, amps);
    out_.foot_peak_a = std::max(out_.foot_peak_a, std::abs(foot_a(x_)));
    if (top > out_.top_peak_v) {
      out_.top_peak_v = top;
      out_.top_peak_s = time_s(now_);
    }
  }
  out_.series_peak_v = std::max(out_.series_peak_v, std::abs(x_(vx)));
  out_.bus_least_v = std::min(out_.bus_least_v, x_(vb));
}

template <int modes>
void Burst<modes>::sample() {
  if (!options_.waveforms) return;
  out_.samples.push_back(
      {time_s(now_), x_(vb), x_(va) - x_(vc), x_(ip), foot_a(x_), top_v(x_), x_(vx), device_w(x_)});
}

template <int modes>
BurstResult Burst<modes>::run(const std::atomic<bool>& cancelled) {
  handle_due();
  sample();
  while (now_ < end_) {
    if (cancelled) break;
    while (settle()) {
      if (++events_ > options_.most_events) break;
    }
    if (events_ > options_.most_events) {
      out_.cut_s = time_s(now_);
      break;
    }
    if (!present_) present_ = &steps();
    std::int64_t left = next_event() - now_;
    int level = std::min(levels, static_cast<int>(std::bit_width(static_cast<std::uint64_t>(left))) - 1);
    bool searching = false, found = false;
    while (left > 0 && !found && level >= 0) {
      const std::int64_t size_of = std::int64_t{1} << level;
      if (size_of > left) {
        --level;
        continue;
      }
      const State next = (*present_)[static_cast<std::size_t>(level)] * x_;
      if (violated(next)) {
        searching = true;
        if (level > 0) {
          --level;
          continue;
        }
        found = true;
      }
      const State before = x_;
      x_ = next;
      now_ += size_of;
      left -= size_of;
      book_motion(before, x_, time_s(size_of));
      if (searching) --level;
    }
    if (!x_.allFinite())
      throw std::invalid_argument("the burst grows without bounds: check inductances and coupling");
    if (now_ % whole == 0) sample();
    handle_due();
  }
  finish();
  return std::move(out_);
}

double middle_of(std::vector<double> values) {
  if (values.empty()) return 0;
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::ranges::nth_element(values, middle);
  return *middle;
}

// Rises that follow another by less than half of a usual period are no cycle's: an edge rang into the signal. They
// are taken out of the rises and returned.
template <int modes>
std::vector<double> Burst<modes>::drop_strays() {
  std::vector<double> strays;
  if (rises_.size() < 5) return strays;
  std::vector<double> periods;
  for (std::size_t i = 1; i < rises_.size(); ++i) periods.push_back(rises_[i] - rises_[i - 1]);
  const double whole_s = 1 / fastest_hz(c_); // no cycle is shorter than that of the fastest pole
  const double least_s = 0.5 * std::max(middle_of(periods), 0.8 * whole_s);
  std::vector<double> kept{rises_.front()};
  for (std::size_t i = 1; i < rises_.size(); ++i)
    (rises_[i] - kept.back() < least_s ? strays : kept).push_back(rises_[i]);
  if (strays.size() > kept.size() / 4) return {}; // chatter throughout is no glitch
  rises_ = std::move(kept);
  return strays;
}

// The lock is counted over the last ten cycles, when the start-up has died away.
template <int modes>
void Burst<modes>::finish() {
  if (drive_end_ == never) {
    bus_at_end_ = x_(vb);
    out_.end_s = time_s(now_);
  }
  out_.droop_v = c_.bus_v - out_.bus_least_v;
  out_.bus_j = c_.reservoir_f / 2 * (c_.bus_v * c_.bus_v - bus_at_end_ * bus_at_end_);
  out_.bus_net_j = c_.reservoir_f / 2 * (c_.bus_v * c_.bus_v - x_(vb) * x_(vb));
  out_.stored_j = stored_j() - stored_start_;
  out_.balance_j =
      out_.bus_net_j - out_.primary_j - out_.secondary_j - out_.streamer_j - out_.device_j() - out_.stored_j;
  if (out_.end_s > 0) out_.primary_rms_a = std::sqrt(square_a_ / out_.end_s);
  const std::size_t offs = out_.edges.size();
  out_.cycles = static_cast<double>(offs);
  if (offs > 0) out_.turn_off_a = out_.edges[offs / 2].off_a;
  std::erase_if(rises_, [](double t) { return t < 1e-6; });
  const std::vector<double> strays = drop_strays();
  const std::size_t to = rises_.size();
  const std::size_t from = to > 10 ? to - 10 : std::min<std::size_t>(1, to);
  const auto period_s = [&](std::size_t i) { return rises_[i] - rises_[i - 1]; };
  std::vector<double> periods;
  for (std::size_t i = 1; i < to; ++i) periods.push_back(period_s(i));
  const double usual_s = middle_of(periods);
  const auto even = [&](std::size_t i) { return period_s(i) > 0.75 * usual_s && period_s(i) < 1.4 * usual_s; };
  double even_s = 0;
  std::size_t row = 0, longest = 0, last = to; // even cycles that follow each other, the last longest of them
  for (std::size_t i = from; i >= 1 && i < to; ++i) {
    even_s += even(i) ? period_s(i) : 0;
    out_.glitches += even(i) ? 0 : 1;
    row = even(i) ? row + 1 : 0;
    if (row >= longest) longest = row, last = i + 1;
  }
  if (to > from && from >= 1) {
    constexpr std::size_t few = 3;
    const std::size_t end = longest < few ? to : last, begin = longest < few ? from : last - longest;
    out_.frequency_hz = static_cast<double>(end - begin) / (rises_[end - 1] - rises_[begin - 1]);
    out_.counted_cycles = static_cast<int>(end - begin);
    out_.counted_from_s = rises_[begin - 1] - 0.25 / out_.frequency_hz;
  }
  if (rises_.size() > 1) out_.mean_hz = static_cast<double>(rises_.size() - 1) / (rises_.back() - rises_.front());
  if (from >= 1 && from < to)
    out_.glitches +=
        static_cast<int>(std::ranges::count_if(strays, [&](double t) { return t > rises_[from - 1]; }));
  // Most of its last cycles alike, as many of the drive, and the switches take part in them.
  const auto cycles = static_cast<double>(rises_.size());
  const bool alike = to > from && from >= 1 && even_s > 0.5 * (rises_[to - 1] - rises_[from - 1]) &&
                     drive_rises_ < 1.3 * cycles + 2 && drive_rises_ > 0.7 * cycles - 2 &&
                     static_cast<double>(offs) > 0.25 * cycles &&
                     out_.frequency_hz < 1.5 * burst_poles_hz(c_).back();
  out_.locked = to > from + 2 ? alike : out_.trip_s.has_value(); // too few to tell: it has rung up, at least
}

double coupling_square(const BurstCircuit& c) {
  double out = 0;
  for (const WindingMode& m : c.modes) out += m.mutual_h * m.mutual_h / (c.primary_h * m.inductance_h);
  return out;
}

void check(const BurstCircuit& c) {
  const auto need = [](bool right, const char* words) {
    if (!right) throw std::invalid_argument(words);
  };
  need(c.modes.size() == 1 || c.modes.size() == 3, "the resonator is one circuit or three modes");
  need(c.bus_v > 0, "the bus has no voltage");
  need(c.reservoir_f > 0, "there is no reservoir to draw a burst from");
  need(c.on_s > 0, "the burst has no length");
  need(c.primary_h > 0, "the primary has no inductance");
  need(coupling_square(c) < 1, "the coupling is 1 or more, which no pair of coils can have");
  need(c.device.output_f > 0, "the switches need an output capacitance");
  need(c.signal != BurstSignal::fixed || c.frequency_hz > 0, "a fixed drive needs its frequency");
}

// Fastest frequency that has to be resolved, the higher modes aside.
double fastest_hz(const BurstCircuit& c) {
  const WindingMode& m = c.modes.front();
  double hz = resonance_hz(m.inductance_h, m.capacitance_f);
  for (const double pole : burst_poles_hz(c)) hz = std::max(hz, pole);
  if (c.signal == BurstSignal::fixed) hz = std::max(hz, c.frequency_hz);
  return hz;
}

} // namespace burst_motion

using burst_motion::Burst;

std::vector<double> burst_poles_hz(const BurstCircuit& c) {
  const WindingMode& m = c.modes.front();
  const double k2 = m.mutual_h * m.mutual_h / (c.primary_h * m.inductance_h);
  const double ws = 1 / (m.inductance_h * m.capacitance_f);
  double series = c.series_f.value_or(0);
  if (!c.full && c.split_f) { // both of them lie in series with the primary
    const double both = 2 * *c.split_f;
    series = series > 0 ? series * both / (series + both) : both;
  }
  const double wp = series > 0 ? 1 / (c.primary_h * series) : 0;
  const double middle = (wp + ws) / (2 * (1 - k2));
  const double spread = std::sqrt(std::max(0.0, middle * middle - wp * ws / (1 - k2)));
  const auto hz = [](double w2) { return std::sqrt(w2) / (2 * std::numbers::pi); };
  if (wp == 0) return {hz(2 * middle)};
  return {hz(middle - spread), hz(middle + spread)};
}

BurstResult simulate_burst(const BurstCircuit& c, const BurstOptions& options, const std::atomic<bool>& cancelled) {
  burst_motion::check(c);
  constexpr double highest_hz = 20e6;
  const double hz = burst_motion::fastest_hz(c);
  if (hz > highest_hz)
    throw std::invalid_argument(
        fmt::format("the coil would ring at {:.3g} MHz; what a bridge drives is followed up "
                    "to {:.0f} MHz",
                    hz / 1e6, highest_hz / 1e6));
  if (c.signal == BurstSignal::fixed && c.dead_s >= 0.5 / c.frequency_hz)
    throw std::invalid_argument("the dead time is longer than half a period: no switch would ever turn on");
  if (c.on_s * hz > 20000)
    throw std::invalid_argument(fmt::format("a burst of {:.0f} cycles is followed up to 20000", c.on_s * hz));
  const double cycle_s = options.step_s > 0 ? options.step_s * burst_motion::steps_in_cycle : 1 / hz;
  if (c.modes.size() == 1) return Burst<1>(c, options, cycle_s).run(cancelled);
  return Burst<3>(c, options, cycle_s).run(cancelled);
}

std::shared_ptr<const BurstResult> simulate_burst(Kept& kept, const BurstCircuit& circuit,
                                                  const BurstOptions& options, const std::atomic<bool>& cancelled) {
  return kept.get(BurstStep{circuit, options}, cancelled,
                  [&] { return simulate_burst(circuit, options, cancelled); });
}

std::shared_ptr<const BurstResult> burst_figures(Kept& kept, const BurstCircuit& circuit,
                                                 const std::atomic<bool>& cancelled) {
  BurstOptions options;
  options.waveforms = false;
  BurstFiguresStep step;
  step.circuit = circuit;
  step.options = options;
  return kept.get(step, cancelled, [&] { return simulate_burst(circuit, options, cancelled); });
}

std::string burst_csv(const BurstResult& r) {
  return waves_csv<BurstSample>(r.samples, {{"bus_v", &BurstSample::bus_v},
                                            {"bridge_v", &BurstSample::bridge_v},
                                            {"primary_a", &BurstSample::primary_a},
                                            {"foot_a", &BurstSample::foot_a},
                                            {"top_v", &BurstSample::top_v},
                                            {"series_v", &BurstSample::series_v},
                                            {"device_w", &BurstSample::device_w}});
}

} // namespace arc

// The burst: its topologies, the motion between events, the drive's logic, and the books of where the energy went.
#include "crafts/bridges/burst.h"

#include "circuit/waves.h"
#include "laws/circuit.h"

#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <fmt/format.h>
#include <limits>
#include <memory>
#include <numbers>
#include <stdexcept>
#include <unordered_map>

namespace arc {
namespace {

constexpr int levels = 16; // halvings of a step down to a tick
constexpr std::int64_t whole = std::int64_t{1} << levels;
constexpr std::int64_t never = std::numeric_limits<std::int64_t>::max();
constexpr double steps_in_cycle = 128;
constexpr double slack_v = 1e-4;         // by which a characteristic's piece may be overrun
constexpr double after_glance_s = 20e-6; // how long after the drive the returned current is looked for

// High and low switch of the first leg, then of the second.
enum Device : std::size_t { high_1, low_1, high_2, low_2, devices };

struct Topology {
  std::array<bool, devices> gate{}, diode{}, knee{};
  bool streamer = false;
  std::uint32_t key() const {
    std::uint32_t out = streamer;
    for (std::size_t d = 0; d < devices; ++d)
      out = out << 3 | std::uint32_t{gate[d]} << 2 | std::uint32_t{diode[d]} << 1 | std::uint32_t{knee[d]};
    return out;
  }
};

// A device's current as a straight line: conductance times its volts, and a constant.
struct Line {
  double siemens, ampere;
};
Line line_of(const BridgeSwitch& s, bool gate, bool diode, bool knee) {
  Line out{gate ? 0 : s.leak_s, 0};
  if (gate && s.type == SwitchType::mos) out.siemens += 1 / s.on_ohm;
  if (gate && s.type == SwitchType::igbt && knee) {
    out.siemens += 1 / s.slope_ohm;
    out.ampere -= s.knee_v / s.slope_ohm;
  }
  if (diode) {
    out.siemens += 1 / s.diode_slope_ohm;
    out.ampere += s.diode_knee_v / s.diode_slope_ohm;
  }
  return out;
}

double fastest_hz(const BurstCircuit& c);

// State: primary current, series capacitor, bus, midpoints of the legs, streamer, currents and capacitors of the
// modes, and the constant 1.
template <int modes>
class Burst {
 public:
  static constexpr int size = 2 * modes + 7;
  static constexpr int ip = 0, vx = 1, vb = 2, va = 3, vc = 4, vst = 5, is = 6, vk = 6 + modes, one = size - 1;
  using State = Eigen::Matrix<double, size, 1>;
  using Row = Eigen::Matrix<double, 1, size>;
  using Matrix = Eigen::Matrix<double, size, size>;

  Burst(const BurstCircuit& circuit, const BurstOptions& options, double cycle_s)
      : c_(circuit), options_(options), step_s_(cycle_s / steps_in_cycle),
        tick_s_(step_s_ / static_cast<double>(whole)), legs_(circuit.full ? devices : std::size_t{2}) {
    x_.setZero();
    x_(vb) = c_.bus_v;
    x_(va) = c_.bus_v / 2;
    x_(vc) = c_.full || c_.split_f ? c_.bus_v / 2 : 0;
    x_(vx) = c_.series_start_v;
    x_(one) = 1;
    x_(c_.signal == BurstSignal::primary ? ip : is) = c_.noise_a;
    make_rows();
    dead_ = ticks(c_.dead_s);
    constexpr double time_constants = 40;
    const double channel_ohm = c_.device.type == SwitchType::mos ? c_.device.on_ohm : c_.device.slope_ohm;
    discharge_ = std::max<std::int64_t>(1, ticks(time_constants * 2 * c_.device.output_f * channel_ohm));
    end_ = ticks(c_.on_s + c_.after_s);
    burst_end_ = ticks(c_.on_s);
    kick_end_ = c_.signal == BurstSignal::fixed ? 0 : ticks(c_.kick_s);
    drive_since_ = -dead_; // the first switch does not wait
    stored_start_ = stored_j();
    out_.bus_least_v = c_.bus_v;
    out_.end_s = c_.on_s;
  }

  BurstResult run(const std::atomic<bool>& cancelled);

 private:
  std::int64_t ticks(double s) const { return std::llround(s / tick_s_); }
  double time_s(std::int64_t at) const { return static_cast<double>(at) * tick_s_; }

  void make_rows();
  const std::vector<Matrix>& steps();
  Matrix rates() const;
  double volts(std::size_t device, const State& x) const;
  double device_a(std::size_t device, const State& x) const;
  double device_w(const State& x) const;
  double stored_j() const;
  double top_v(const State& x) const { return top_ * x; }
  double foot_a(const State& x) const { return x.template segment<modes>(is).sum(); }

  bool diode_turns(std::size_t device, double v) const;
  bool knee_turns(std::size_t device, double v) const;
  bool comparator_turns(const State& x) const;
  bool limiter_turns(const State& x) const;
  bool breaks_out(const State& x) const;
  bool violated(const State& x) const;
  bool settle();
  void book_motion(const State& before, const State& after, double seconds);
  void book_switches(const State& before, const State& after, double seconds);
  void look();
  void count(const State& before, const State& after, double seconds);
  void sample();

  std::int64_t next_event() const;
  void handle_due();
  void set_drive(bool high);
  void set_gates();
  void switch_on(std::size_t device, double load_a);
  std::vector<double> drop_strays();
  void finish();

  const BurstCircuit& c_;
  const BurstOptions& options_;
  double step_s_, tick_s_;
  std::size_t legs_;
  State x_;
  Row signal_, top_;
  Topology topology_;
  const std::vector<Matrix>* present_ = nullptr;
  std::unordered_map<std::uint32_t, std::vector<Matrix>> cache_;

  // the drive
  std::int64_t now_ = 0, discharge_ = 1, dead_ = 0, end_ = 0, burst_end_ = 0, kick_end_ = 0, drive_since_ = 0;
  bool drive_ = true, heard_ = false, delayed_ = false, tripped_ = false, over_ = false, delayed_over_ = false;
  std::vector<std::pair<std::int64_t, bool>> comparator_, limiter_; // delayed edges, in order
  std::int64_t deaf_until_ = 0;
  std::int64_t half_cycles_ = 0;   // of a fixed drive
  std::int64_t drive_end_ = never; // of the drive, once it has ended
  std::int64_t discharged_ = 0;    // when the output capacitances have lost what they dump into a switch
  double unbooked_s_ = 0;          // of the switches, since then
  int events_ = 0;

  // the books
  BurstResult out_;
  std::vector<double> rises_; // of the current that is counted
  int drive_rises_ = 0;
  double square_a_ = 0, stored_start_ = 0, bus_at_end_ = 0;
};

template <int modes>
void Burst<modes>::make_rows() {
  top_.setZero();
  for (int k = 0; k < modes; ++k) top_(vk + k) = c_.modes[static_cast<std::size_t>(k)].top_per_v;
  const Matrix a = rates();
  signal_.setZero();
  const double sign = c_.reversed ? -1 : 1;
  if (c_.signal == BurstSignal::primary) {
    signal_(ip) = sign;
    signal_ += sign * c_.lead_s * a.row(ip);
  } else {
    for (int k = 0; k < modes; ++k) {
      signal_(is + k) = sign;
      signal_ += sign * c_.lead_s * a.row(is + k);
    }
  }
}

template <int modes>
typename Burst<modes>::Matrix Burst<modes>::rates() const {
  Matrix a = Matrix::Zero();
  // Coils: inductances times rates are what stands over them.
  Eigen::Matrix<double, modes + 1, modes + 1> l = Eigen::Matrix<double, modes + 1, modes + 1>::Zero();
  Eigen::Matrix<double, modes + 1, size> over = Eigen::Matrix<double, modes + 1, size>::Zero();
  l(0, 0) = c_.primary_h;
  over(0, va) = 1;
  over(0, vc) = -1;
  over(0, vx) = c_.series_f ? -1 : 0;
  over(0, ip) = -c_.primary_ohm;
  for (int k = 0; k < modes; ++k) {
    const WindingMode& m = c_.modes[static_cast<std::size_t>(k)];
    l(k + 1, k + 1) = m.inductance_h;
    l(0, k + 1) = l(k + 1, 0) = m.mutual_h;
    over(k + 1, vk + k) = -1;
    over(k + 1, is + k) = -m.resistance_ohm;
  }
  const Eigen::Matrix<double, modes + 1, size> rate = l.inverse() * over;
  a.row(ip) = rate.row(0);
  for (int k = 0; k < modes; ++k) a.row(is + k) = rate.row(k + 1);
  if (c_.series_f) a(vx, ip) = 1 / *c_.series_f;
  for (int k = 0; k < modes; ++k) {
    const WindingMode& m = c_.modes[static_cast<std::size_t>(k)];
    a(vk + k, is + k) = 1 / m.capacitance_f;
    if (!topology_.streamer) continue;
    a.row(vk + k) -= m.top_per_v / m.capacitance_f / c_.streamer_ohm * top_;
    a(vk + k, vst) += m.top_per_v / m.capacitance_f / c_.streamer_ohm;
  }
  if (topology_.streamer) {
    a.row(vst) = top_ / c_.streamer_ohm / c_.streamer_f;
    a(vst, vst) -= 1 / c_.streamer_ohm / c_.streamer_f;
  }
  // Bus and midpoints: capacitances times rates are the currents into them.
  const double coss = c_.device.output_f;
  const bool floating = c_.full || c_.split_f;
  const double beside = c_.full ? coss : c_.split_f.value_or(0);
  Eigen::Matrix3d f;
  f << c_.reservoir_f + coss + beside, -coss, -beside, -coss, 2 * coss, 0, -beside, 0, floating ? 2 * beside : 1;
  Eigen::Matrix<double, 3, size> into = Eigen::Matrix<double, 3, size>::Zero();
  into(1, ip) = -1;
  if (floating) into(2, ip) = 1;
  const auto add = [&](std::size_t device, int from, int to) { // nodes: 0 bus, 1 and 2 the midpoints, -1 ground
    const Line line = line_of(c_.device, topology_.gate[device], topology_.diode[device], topology_.knee[device]);
    Eigen::Matrix<double, 1, size> current = Eigen::Matrix<double, 1, size>::Zero();
    current(vb + from) += line.siemens;
    if (to >= 0) current(vb + to) -= line.siemens;
    current(one) += line.ampere;
    into.row(from) -= current;
    if (to >= 0) into.row(to) += current;
  };
  add(high_1, 0, 1);
  add(low_1, 1, -1);
  if (c_.full) {
    add(high_2, 0, 2);
    add(low_2, 2, -1);
  }
  a.template middleRows<3>(vb) = f.inverse() * into;
  if (!floating) a.row(vc).setZero();
  return a;
}

// exp(A tick) by its series, then squared up to a whole step.
template <int modes>
const std::vector<typename Burst<modes>::Matrix>& Burst<modes>::steps() {
  auto& made = cache_[topology_.key()];
  if (!made.empty()) return made;
  const Matrix a = rates() * tick_s_;
  const double norm = a.cwiseAbs().rowwise().sum().maxCoeff();
  const int halvings = std::max(0, static_cast<int>(std::ceil(std::log2(std::max(norm, 1e-300) * 4))));
  const Matrix small = a / std::ldexp(1.0, halvings);
  Matrix term = Matrix::Identity(), sum = Matrix::Identity();
  for (int k = 1; k <= 10; ++k) {
    term = term * small / k;
    sum += term;
  }
  for (int k = 0; k < halvings; ++k) sum = sum * sum;
  made.reserve(levels + 1);
  made.push_back(sum);
  for (int k = 0; k < levels; ++k) made.push_back(made.back() * made.back());
  return made;
}

template <int modes>
double Burst<modes>::volts(std::size_t device, const State& x) const {
  switch (device) {
  case high_1:
    return x(vb) - x(va);
  case low_1:
    return x(va);
  case high_2:
    return x(vb) - x(vc);
  default:
    return x(vc);
  }
}

template <int modes>
double Burst<modes>::device_a(std::size_t device, const State& x) const {
  const Line line = line_of(c_.device, topology_.gate[device], topology_.diode[device], topology_.knee[device]);
  return line.siemens * volts(device, x) + line.ampere;
}

template <int modes>
double Burst<modes>::device_w(const State& x) const {
  double watts = 0;
  for (std::size_t d = 0; d < legs_; ++d) watts += volts(d, x) * device_a(d, x);
  return watts;
}

// In everything but the reservoir.
template <int modes>
double Burst<modes>::stored_j() const {
  const double coss = c_.device.output_f;
  double sum = c_.primary_h * x_(ip) * x_(ip) + c_.series_f.value_or(0) * x_(vx) * x_(vx) +
               c_.streamer_f * x_(vst) * x_(vst) + coss * (std::pow(x_(vb) - x_(va), 2) + x_(va) * x_(va));
  if (c_.full || c_.split_f)
    sum += (c_.full ? coss : *c_.split_f) * (std::pow(x_(vb) - x_(vc), 2) + x_(vc) * x_(vc));
  for (int k = 0; k < modes; ++k) {
    const WindingMode& m = c_.modes[static_cast<std::size_t>(k)];
    sum += m.inductance_h * x_(is + k) * x_(is + k) + 2 * m.mutual_h * x_(ip) * x_(is + k) +
           m.capacitance_f * x_(vk + k) * x_(vk + k);
  }
  return sum / 2;
}

template <int modes>
bool Burst<modes>::diode_turns(std::size_t device, double v) const {
  const double beyond = -c_.device.diode_knee_v - v;
  return topology_.diode[device] ? beyond < -slack_v : beyond > slack_v;
}

template <int modes>
bool Burst<modes>::knee_turns(std::size_t device, double v) const {
  if (c_.device.type != SwitchType::igbt || !topology_.gate[device]) return false;
  const double over = v - c_.device.knee_v;
  return topology_.knee[device] ? over < -slack_v : over > slack_v;
}

template <int modes>
bool Burst<modes>::comparator_turns(const State& x) const {
  if (c_.signal == BurstSignal::fixed || now_ >= burst_end_ || now_ < deaf_until_) return false;
  const double u = signal_ * x;
  return heard_ ? u < -c_.hysteresis : u > c_.hysteresis;
}

template <int modes>
bool Burst<modes>::limiter_turns(const State& x) const {
  return c_.limit_a && now_ < burst_end_ && (std::abs(x(ip)) > *c_.limit_a) != over_;
}

template <int modes>
bool Burst<modes>::breaks_out(const State& x) const {
  return !topology_.streamer && c_.breakout_v > 0 && std::abs(top_v(x)) >= c_.breakout_v;
}

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

} // namespace

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
  check(c);
  constexpr double highest_hz = 20e6;
  const double hz = fastest_hz(c);
  if (hz > highest_hz)
    throw std::invalid_argument(
        fmt::format("the coil would ring at {:.3g} MHz; what a bridge drives is followed up "
                    "to {:.0f} MHz",
                    hz / 1e6, highest_hz / 1e6));
  if (c.signal == BurstSignal::fixed && c.dead_s >= 0.5 / c.frequency_hz)
    throw std::invalid_argument("the dead time is longer than half a period: no switch would ever turn on");
  if (c.on_s * hz > 20000)
    throw std::invalid_argument(fmt::format("a burst of {:.0f} cycles is followed up to 20000", c.on_s * hz));
  const double cycle_s = options.step_s > 0 ? options.step_s * steps_in_cycle : 1 / hz;
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

// A burst as an exact motion between events: its topologies, its state, what is read of it. Events, books and the
// run itself are in burst.cpp.
#pragma once

#include "circuit/waves.h"
#include "crafts/bridges/burst.h"
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

namespace arc::burst_motion {

inline constexpr int levels = 16; // halvings of a step down to a tick
inline constexpr std::int64_t whole = std::int64_t{1} << levels;
inline constexpr std::int64_t never = std::numeric_limits<std::int64_t>::max();
inline constexpr double steps_in_cycle = 128;
inline constexpr double slack_v = 1e-4;         // by which a characteristic's piece may be overrun
inline constexpr double after_glance_s = 20e-6; // how long after the drive the returned current is looked for

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
inline Line line_of(const BridgeSwitch& s, bool gate, bool diode, bool knee) {
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

} // namespace arc::burst_motion

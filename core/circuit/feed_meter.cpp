// The meter of a feed in motion.
#include "circuit/feed_meter.h"

#include "circuit/feed.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

namespace arc {
namespace {

double used_share(double value, double limit) {
  return limit > 0 ? value / limit : 0;
}

double volts_at(const Eigen::VectorXd& v, Node node) {
  return v(static_cast<Eigen::Index>(node));
}

} // namespace

double JointLoad::used() const {
  return std::max(used_share(peak_v, limit_v), used_share(rms_a, limit_a));
}

double DiodeLoad::used() const {
  return std::max(used_share(inverse_v, limit_v), used_share(average_a, limit_a));
}

double branch_a(const Network& n, const Motion& motion, const Eigen::VectorXd& v, const Branch& branch) {
  switch (branch.kind) {
  case Branch::Kind::resistor: {
    const auto& r = n.resistors[branch.index];
    return (volts_at(v, r.a) - volts_at(v, r.b)) / r.ohm;
  }
  case Branch::Kind::inductor:
    return motion.inductor_a(branch.index);
  case Branch::Kind::switched: {
    const auto& s = n.switches[branch.index];
    return motion.switch_a(branch.index, volts_at(v, s.a) - volts_at(v, s.b));
  }
  case Branch::Kind::none:
    break;
  }
  return 0;
}

void FeedMeter::Fundamental::add(double angle, double volts, double amps) {
  const double s = std::sin(angle), c = std::cos(angle);
  v_sin += volts * s, v_cos += volts * c, a_sin += amps * s, a_cos += amps * c;
}

FeedMeter::FeedMeter(const FeedNetwork& feed, const Site& site)
    : feed_(feed), mains_v_(site.mains_voltage_v), mains_hz_(site.mains_frequency_hz),
      joint_sums_(feed.joints.size()), diode_sums_(feed.diodes.size()), capacitor_sums_(feed.capacitors.size()) {
  for (const FeedJoint& j : feed.joints)
    out_.joints.push_back({j.title, j.mains, 0, 0, 0, 0, j.limit_v, j.limit_a, 0});
  for (const FeedDiode& d : feed.diodes) out_.diodes.push_back({d.title, d.block, 0, 0, d.limit_v, d.limit_a});
}

double FeedMeter::line_v(const Motion& motion, const Eigen::VectorXd& v) const {
  return feed_.driver
             ? mains_v_ * std::numbers::sqrt2 * std::sin(2 * std::numbers::pi * mains_hz_ * motion.time_s())
             : (volts_at(v, feed_.source_plus) - volts_at(v, feed_.source_minus)) / feed_.ratio;
}

double FeedMeter::line_a(const Motion& motion, const Eigen::VectorXd& v) const {
  return branch_a(feed_.network, motion, v, feed_.source_current) * feed_.ratio;
}

void FeedMeter::gather_joints(const Motion& motion, const Eigen::VectorXd& at, bool counts) {
  for (std::size_t i = 0; i < feed_.joints.size(); ++i) {
    const FeedJoint& j = feed_.joints[i];
    JointLoad& load = out_.joints[i];
    const double v = (volts_at(at, j.plus) - volts_at(at, j.minus)) / j.scale;
    const double a = branch_a(feed_.network, motion, at, j.current) * j.scale;
    load.peak_v = std::max(load.peak_v, std::abs(v));
    load.peak_a = std::max(load.peak_a, std::abs(a));
    if (j.winding)
      load.insulation_v =
          std::max({load.insulation_v, std::abs(volts_at(at, j.plus)), std::abs(volts_at(at, j.minus))});
    if (counts)
      joint_sums_[i] = {joint_sums_[i].squares + a * a, joint_sums_[i].volts + v * v, 0, joint_sums_[i].count + 1};
  }
}

void FeedMeter::gather_diodes(const Motion& motion, const Eigen::VectorXd& at, bool counts) {
  for (std::size_t i = 0; i < feed_.diodes.size(); ++i) {
    const auto& d = feed_.network.switches[feed_.diodes[i].switch_index];
    const double forward = volts_at(at, d.a) - volts_at(at, d.b);
    out_.diodes[i].inverse_v = std::max(out_.diodes[i].inverse_v, -forward);
    if (counts) diode_sums_[i] += std::max(0.0, motion.switch_a(feed_.diodes[i].switch_index, forward));
  }
}

void FeedMeter::gather_capacitors(const Motion& motion) {
  for (std::size_t i = 0; i < feed_.capacitors.size(); ++i) {
    CapacitorSums& sums = capacitor_sums_[i];
    const double v = motion.capacitor_v(feed_.capacitors[i].capacitor_index),
                 step_s = motion.time_s() - sums.last_s;
    if (sums.begun && step_s > 0) {
      const double a = feed_.capacitors[i].farad * (v - sums.last_v) / step_s;
      sums.a2s += a * a * step_s;
      sums.seconds += step_s;
    }
    sums.least_v = sums.begun ? std::min(sums.least_v, v) : v;
    sums.most_v = sums.begun ? std::max(sums.most_v, v) : v;
    sums.last_v = v;
    sums.last_s = motion.time_s();
    sums.begun = true;
  }
}

void FeedMeter::gather_line(const Motion& motion, const Eigen::VectorXd& at) {
  const double v = line_v(motion, at), a = line_a(motion, at);
  fundamental_.add(2 * std::numbers::pi * mains_hz_ * motion.time_s(), v, a);
  line_ = {line_.squares + a * a, line_.volts + v * v, line_.work + a * v, line_.count + 1};
  // What the driver gives: its output's resistance stands for leakage, which limits and does not burn.
  if (feed_.driver) driver_w_ += a * volts_at(at, feed_.network.resistors[feed_.source_current.index].b);
}

void FeedMeter::conclude_line(double step_s, double gained_j) {
  const double rms_v = std::sqrt(line_.volts / line_.count);
  out_.line_current_a = std::sqrt(line_.squares / line_.count);
  // A resonance that beats gives its energy back to the line for some cycles: then what is used up counts, which is
  // the work less what the stored energy grew by.
  const double gained_w = gained_j / (line_.count * step_s);
  const double work_w = line_.work / line_.count;
  out_.input_power_w = work_w >= 0 ? work_w : std::max(0.0, work_w - gained_w);
  if (feed_.driver) { // not simulated up to the wall
    out_.input_power_w = driver_w_ / line_.count / feed_.driver->efficiency;
    out_.line_current_a = out_.input_power_w / (feed_.driver->power_factor * mains_v_);
  }
  out_.power_factor = std::min(1.0, out_.input_power_w / std::max(out_.line_current_a * rms_v, 1e-12));
  out_.reactive_va = feed_.driver ? 0 : fundamental_.reactive_va(line_.count);
}

void FeedMeter::conclude_averages() {
  for (std::size_t i = 0; i < feed_.joints.size(); ++i) {
    const Sums& joint = joint_sums_[i];
    JointLoad& load = out_.joints[i];
    load.rms_v = std::sqrt(joint.volts / std::max(joint.count, 1.0));
    load.rms_a = std::sqrt(joint.squares / std::max(joint.count, 1.0));
    if (!feed_.driver || !feed_.joints[i].mains) continue;
    load.rms_v = mains_v_;
    load.rms_a = out_.line_current_a;
    load.peak_v = mains_v_ * std::numbers::sqrt2;
    load.peak_a = out_.line_current_a / feed_.driver->power_factor; // short pulses into its supply
  }
  for (std::size_t i = 0; i < feed_.diodes.size(); ++i) out_.diodes[i].average_a = diode_sums_[i] / line_.count;
  for (std::size_t i = 0; i < feed_.capacitors.size(); ++i) {
    const FeedCapacitor& c = feed_.capacitors[i];
    const CapacitorSums& sums = capacitor_sums_[i];
    if (!(sums.seconds > 0)) continue;
    const bool positive = std::abs(sums.most_v) >= std::abs(sums.least_v);
    out_.capacitors.push_back({c.title, c.block, c.farad, std::max(std::abs(sums.most_v), std::abs(sums.least_v)),
                               std::max(0.0, positive ? sums.least_v : -sums.most_v),
                               std::sqrt(sums.a2s / sums.seconds), c.limit_v, c.limit_a});
  }
}

FeedLoads FeedMeter::conclude(double step_s, double gained_j) {
  if (line_.count > 0) {
    conclude_line(step_s, gained_j);
    conclude_averages();
  }
  if (feed_.breaker_a > 0) {
    out_.breaker_used = out_.line_current_a / feed_.breaker_a;
    out_.breaker_trip_s = breaker_trip_s(feed_.breaker_a, out_.line_current_a, feed_.breaker_c);
  }
  return std::move(out_);
}

} // namespace arc

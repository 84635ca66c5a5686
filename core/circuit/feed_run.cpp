#include "circuit/feed_run.h"

#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {

double Triac::amperes(const Motion& m) const {
  const Network::Switch& s = feed_.network.switches[dimmer_.switch_index];
  return m.switch_a(dimmer_.switch_index, m.node_v(s.a) - m.node_v(s.b));
}

double Triac::tension(const Motion& m) const {
  if (lit_ && sign_ != 0) return 1e-3 - sign_ * amperes(m) / dimmer_.holds_a;
  const double half = 2 * feed_.network.source_hz * m.time_s();
  const double place = half - std::floor(half);
  const bool fired = place >= dimmer_.angle_share && place <= dimmer_.angle_share + triac_pulse_share;
  return fired == lit_ ? -1.0 : 1.0;
}

void Triac::turn(Motion& m) {
  lit_ = !lit_;
  sign_ = 0;
  m.set_switch(dimmer_.switch_index, lit_);
}

void Triac::look(const Motion& m) {
  if (!lit_ || sign_ != 0) return;
  if (const double a = amperes(m); std::abs(a) > dimmer_.holds_a) sign_ = a > 0 ? 1 : -1;
}

FeedRun::FeedRun(const FeedNetwork& feed, const Site& site, double step_s)
    : motion(feed.network, step_s), meter(feed, site), step_s_(step_s) {
  if (feed.dimmer) triac_.emplace(feed, *feed.dimmer);
}

bool FeedRun::advance(const std::function<double(const Motion&)>& event) {
  if (!triac_) return motion.advance(event);
  turn_triac(); // where an event of the owner fell on its moment
  const auto either = [&](const Motion& m) {
    const double own = triac_->tension(m);
    return event ? std::max(event(m), own) : own;
  };
  while (motion.advance(either)) {
    if (event && event(motion) >= 0) return true;
    turn_triac();
  }
  triac_->look(motion);
  return false;
}

void FeedRun::turn_triac() {
  if (triac_->tension(motion) >= 0) triac_->turn(motion);
}

bool FeedRun::at_step() const {
  const double steps = motion.time_s() / step_s_;
  return std::abs(steps - std::round(steps)) < 1e-6;
}

void FeedRun::gather() {
  const Eigen::VectorXd& at = motion.node_voltages();
  meter.gather_joints(motion, at, true);
  meter.gather_diodes(motion, at, true);
  meter.gather_line(motion, at);
  meter.gather_capacitors(motion);
}

std::string deck_source(const FeedNetwork& feed) {
  if (feed.dimmer)
    throw std::invalid_argument(
        "a feed with a dimmer cannot be exported as a deck: its triac is simulated here only");
  const Network::Source& source = feed.network.sources.front();
  if (feed.driver) return fmt::format("Vmains n{} n{} {:.10g}\n", source.a, source.b, source.dc_v);
  return fmt::format("Vmains n{} n{} sin(0 {:.10g} {:.8g})\n", source.a, source.b, source.amplitude_v,
                     feed.network.source_hz);
}

std::string deck_line(const FeedNetwork& feed, double from_s, double to_s) {
  const Network::Source& source = feed.network.sources.front();
  return fmt::format("Bline line 0 V=-i(Vmains)*{:.10g}\n"
                     "Bpower power 0 V=-i(Vmains)*(v(n{})-v(n{}))\n"
                     ".meas tran line_current_a rms v(line) from={:.8g} to={:.8g}\n"
                     ".meas tran input_power_w avg v(power) from={:.8g} to={:.8g}\n",
                     feed.ratio, source.a, source.b, from_s, to_s, from_s, to_s);
}

} // namespace arc

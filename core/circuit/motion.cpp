// State equations by nodal analysis: capacitors stand as voltage sources and inductors as current sources in the
// resistive network; their currents and voltages then give the rates.
#include "circuit/motion.h"

#include "quantity/matrix.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {

Motion::Motion(Network network, double step_s)
    : network_(std::move(network)), step_s_(step_s), tick_s_(step_s / static_cast<double>(whole)) {
  const auto c = static_cast<Eigen::Index>(network_.capacitors.size());
  const auto l = static_cast<Eigen::Index>(network_.inductors.size());
  state_ = Eigen::VectorXd::Zero(c + l + 3);
  for (Eigen::Index i = 0; i < c; ++i) state_(i) = network_.capacitors[static_cast<std::size_t>(i)].start_v;
  for (Eigen::Index i = 0; i < l; ++i) state_(c + i) = network_.inductors[static_cast<std::size_t>(i)].start_a;
  state_(c + l) = 1;     // constant
  state_(c + l + 2) = 1; // cosine; the sine starts at zero
  settle();
}

double Motion::inductor_a(std::size_t index) const {
  return state_(static_cast<Eigen::Index>(network_.capacitors.size() + index));
}

double Motion::node_v(Node node) const {
  return node == 0 ? 0 : present_->nodes.row(static_cast<Eigen::Index>(node) - 1).dot(state_);
}

const Eigen::VectorXd& Motion::node_voltages() {
  voltages_.resize(static_cast<Eigen::Index>(network_.nodes));
  voltages_(0) = 0;
  voltages_.tail(voltages_.size() - 1).noalias() = present_->nodes * state_;
  return voltages_;
}

double Motion::stored_j() const {
  double twice = 0;
  for (std::size_t i = 0; i < network_.capacitors.size(); ++i)
    twice += network_.capacitors[i].farad * capacitor_v(i) * capacitor_v(i);
  for (std::size_t i = 0; i < network_.inductors.size(); ++i) {
    const Network::Inductor& item = network_.inductors[i];
    const double amps = inductor_a(i);
    twice += item.henry * amps * amps;
    for (const Network::Knee& knee : item.knees)
      twice += std::pow(item.henry * std::max(0.0, std::abs(amps) - knee.linear_a), 2) / knee.henry;
  }
  for (const Network::Coupling& m : network_.couplings)
    twice += 2 * m.henry * inductor_a(m.first) * inductor_a(m.second);
  return twice / 2;
}

void Motion::set_source_dc(std::size_t index, double volts) {
  if (network_.sources[index].dc_v == volts) return;
  network_.sources[index].dc_v = volts;
  topology();
}

void Motion::set_switch(std::size_t index, bool on) {
  network_.switches[index].on = on;
  topology();
}

void Motion::set_resistance(std::size_t index, double ohm) {
  network_.resistors[index].ohm = ohm;
  topologies_.clear();
  topology();
}

std::vector<signed char> topology_key(const Network& network) {
  std::vector<signed char> key;
  for (const Network::Switch& s : network.switches) key.push_back(s.on);
  for (const Network::Source& s : network.sources) // few values in a run: the sign of an arc's drop
    key.push_back(static_cast<signed char>((s.dc_v > 0) - (s.dc_v < 0)));
  for (const Network::Inductor& l : network.inductors)
    if (!l.knees.empty()) key.push_back(static_cast<signed char>(l.level));
  return key;
}

Motion::Topology& Motion::topology() {
  std::vector<signed char> key = topology_key(network_);
  auto found = topologies_.find(key);
  if (found == topologies_.end()) found = topologies_.emplace(std::move(key), build()).first;
  present_ = &found->second;
  return *present_;
}

namespace {

// Of a node's sum of currents; below zero for the ground.
Eigen::Index row_of(Node node) {
  return static_cast<Eigen::Index>(node) - 1;
}

// What the inductors are to the equations: their matrix, the nodes that each lies across, and the amperes that they
// take out of the nodes, as columns `first` on of `b` (those of `offset` from the constant one).
struct Inductors {
  Eigen::MatrixXd inductance, across;

  Inductors(const Network& network, Eigen::Index first, Eigen::Index offset, Eigen::MatrixXd& b) {
    const auto l = static_cast<Eigen::Index>(network.inductors.size());
    inductance = Eigen::MatrixXd::Zero(l, l);
    across = Eigen::MatrixXd::Zero(l, static_cast<Eigen::Index>(network.nodes) - 1);
    for (Eigen::Index k = 0; k < l; ++k) {
      const auto& item = network.inductors[static_cast<std::size_t>(k)];
      const Eigen::Index i = row_of(item.a), j = row_of(item.b);
      // Current for each ampere of the unsaturated branch, and what its knees take off or add, constant while it
      // stays between two of them.
      double slope = 1, constant = 0;
      const int sign = item.level < 0 ? -1 : 1;
      for (int knee = 0; knee < std::abs(item.level); ++knee) {
        const Network::Knee& passed = item.knees[static_cast<std::size_t>(knee)];
        slope += item.henry / passed.henry;
        constant -= sign * passed.linear_a * item.henry / passed.henry;
      }
      if (i >= 0) b(i, first + k) -= slope, b(i, offset) -= constant, across(k, i) += 1;
      if (j >= 0) b(j, first + k) += slope, b(j, offset) += constant, across(k, j) -= 1;
      inductance(k, k) = item.henry;
    }
    for (const auto& m : network.couplings) {
      const auto i = static_cast<Eigen::Index>(m.first), j = static_cast<Eigen::Index>(m.second);
      inductance(i, j) = inductance(j, i) = m.henry;
    }
  }
};

} // namespace

StateSpace state_space(const Network& network, bool currents_in) {
  const auto n = static_cast<Eigen::Index>(network.nodes) - 1;
  const auto c = static_cast<Eigen::Index>(network.capacitors.size());
  const auto l = static_cast<Eigen::Index>(network.inductors.size());
  const auto v = static_cast<Eigen::Index>(network.sources.size());
  const Eigen::Index size = n + c + v, states = c + l + 3;
  Eigen::MatrixXd a = Eigen::MatrixXd::Zero(size, size), b = Eigen::MatrixXd::Zero(size, states);
  const auto conduct = [&](Node from, Node to, double ohm) {
    const Eigen::Index i = row_of(from), j = row_of(to);
    if (i >= 0) a(i, i) += 1 / ohm;
    if (j >= 0) a(j, j) += 1 / ohm;
    if (i >= 0 && j >= 0) a(i, j) -= 1 / ohm, a(j, i) -= 1 / ohm;
  };
  const auto branch = [&](Node from, Node to, Eigen::Index row) { // unknown current from `from` to `to`
    const Eigen::Index i = row_of(from), j = row_of(to);
    if (i >= 0) a(i, row) += 1, a(row, i) += 1;
    if (j >= 0) a(j, row) -= 1, a(row, j) -= 1;
  };
  for (const auto& r : network.resistors) conduct(r.a, r.b, r.ohm);
  for (const auto& s : network.switches) conduct(s.a, s.b, s.on ? s.on_ohm : s.off_ohm);
  for (Eigen::Index k = 0; k < c; ++k) {
    const auto& item = network.capacitors[static_cast<std::size_t>(k)];
    branch(item.a, item.b, n + k);
    b(n + k, k) = 1;
  }
  for (Eigen::Index k = 0; k < v; ++k) {
    const auto& item = network.sources[static_cast<std::size_t>(k)];
    branch(item.a, item.b, n + c + k);
    b(n + c + k, c + l) = item.dc_v;
    b(n + c + k, c + l + 1) = item.amplitude_v;
  }
  const Inductors coils(network, c, c + l, b);
  const FullLowerUpper lu(a);
  if (!lu.invertible())
    throw std::invalid_argument(
        "the circuit has no unique solution: a node hangs free, or sources and capacitors close a loop");
  const Eigen::MatrixXd solved = lu.solve(b);
  StateSpace out;
  out.nodes = solved.topRows(n);
  out.rate = Eigen::MatrixXd::Zero(states, states);
  const auto farad = [&](Eigen::Index k) { return network.capacitors[static_cast<std::size_t>(k)].farad; };
  for (Eigen::Index k = 0; k < c; ++k) out.rate.row(k) = solved.row(n + k) / farad(k);
  const Cholesky inductances(coils.inductance);
  if (l > 0 && !inductances.positive())
    throw std::invalid_argument("the circuit's couplings are not physical: coils together store less than nothing");
  if (l > 0) out.rate.middleRows(c, l) = inductances.solve(coils.across * out.nodes);
  const double omega = 2 * std::numbers::pi * network.source_hz;
  out.rate(c + l + 1, c + l + 2) = omega;
  out.rate(c + l + 2, c + l + 1) = -omega;
  if (!out.rate.allFinite()) throw std::invalid_argument("the circuit's couplings are not physical");
  if (!currents_in) return out;
  const Eigen::MatrixXd into = lu.solve(Eigen::MatrixXd::Identity(size, n));
  out.nodes_in = into.topRows(n);
  out.rate_in = Eigen::MatrixXd::Zero(states, n);
  for (Eigen::Index k = 0; k < c; ++k) out.rate_in.row(k) = into.row(n + k) / farad(k);
  if (l > 0) out.rate_in.middleRows(c, l) = inductances.solve(coils.across * out.nodes_in);
  return out;
}

Motion::Topology Motion::build() const {
  const StateSpace space = state_space(network_);
  Topology out;
  out.nodes = space.nodes;
  // A step is the next smaller one taken twice: a product where the error of a few doublings is all there is, a new
  // exponential every so often, so that they do not add up.
  constexpr int doublings = 6;
  out.steps.resize(levels + 1);
  for (int level = levels; level >= 0; --level) {
    Eigen::MatrixXd& step = out.steps[static_cast<std::size_t>(level)];
    if (level % doublings == 0)
      step = exponential(space.rate * std::ldexp(step_s_, -level));
    else
      step.noalias() =
          out.steps[static_cast<std::size_t>(level) + 1] * out.steps[static_cast<std::size_t>(level) + 1];
  }
  return out;
}

Eigen::VectorXd Motion::moved(Eigen::VectorXd state, std::int64_t ticks) const {
  for (int level = 0; level <= levels; ++level)
    if (ticks & (whole >> level)) state = present_->steps[static_cast<std::size_t>(level)] * state;
  return state;
}

Motion::Violation Motion::violation() const {
  constexpr double least_v = 0.02, least_a = 1e-6; // below, a diode stays as it is: no chatter from rounding
  Violation worst;
  for (std::size_t i = 0; i < network_.switches.size(); ++i) {
    const Network::Switch& s = network_.switches[i];
    if (!s.diode) continue;
    const double across = node_v(s.a) - node_v(s.b);
    const double wrong = s.on ? -across / s.on_ohm / least_a : across / least_v;
    if (wrong > worst.size) worst = {wrong, i, 0, 0};
  }
  constexpr double least_share = 1e-6; // of a knee's flux
  for (std::size_t k = 0; k < network_.inductors.size(); ++k) {
    const Network::Inductor& item = network_.inductors[k];
    if (item.knees.empty()) continue;
    const int sign = item.level < 0 ? -1 : 1, passed = std::abs(item.level);
    const double flux = item.level == 0 ? std::abs(inductor_a(k)) : sign * inductor_a(k);
    const auto look = [&](double beyond, int step) {
      if (beyond > worst.size) worst = {beyond, 0, k, step};
    };
    if (passed < static_cast<int>(item.knees.size())) {
      const double at = item.knees[static_cast<std::size_t>(passed)].linear_a;
      look((flux / at - 1) / least_share, item.level == 0 ? (inductor_a(k) < 0 ? -1 : 1) : sign);
    }
    if (passed > 0)
      look((1 - flux / item.knees[static_cast<std::size_t>(passed - 1)].linear_a) / least_share, -sign);
  }
  return worst;
}

void Motion::settle() {
  topology();
  std::size_t most = 4 * network_.switches.size() + 4;
  for (const Network::Inductor& item : network_.inductors) most += 2 * item.knees.size();
  for (std::size_t tries = 0; tries < most; ++tries) {
    const Violation v = violation();
    if (!(v.size > 1)) return;
    if (v.step != 0)
      network_.inductors[v.inductor].level += v.step;
    else
      network_.switches[v.diode].on = !network_.switches[v.diode].on;
    topology();
  }
}

bool Motion::advance(const std::function<double(const Motion&)>& event) {
  std::int64_t left = whole - ticks_ % whole;
  constexpr int most_pieces = 64; // a diode that changes ends a piece of the step; the next starts in the new state
  for (int pieces = 0; left > 0; ++pieces) {
    const bool may_fire = event && event(*this) < 0;
    const auto trouble = [&] {
      return (may_fire && event(*this) >= 0) || (pieces < most_pieces && violation().size > 1);
    };
    Eigen::VectorXd reached = state_;
    const std::int64_t start = ticks_; // time_s() is that of the trial while an event is looked for
    const auto go = [&](Eigen::VectorXd state, std::int64_t ticks) {
      state_ = std::move(state);
      ticks_ = start + ticks;
    };
    go(moved(reached, left), left);
    if (!trouble()) return false;
    // The longest way without trouble, by halves; then one tick into it.
    std::int64_t taken = 0;
    for (int level = 1; level <= levels; ++level) {
      const std::int64_t half = whole >> level;
      if (taken + half > left) continue;
      go(present_->steps[static_cast<std::size_t>(level)] * reached, taken + half);
      if (trouble()) continue;
      reached = state_;
      taken += half;
    }
    go(moved(reached, 1), taken + 1);
    left -= taken + 1;
    const bool fired = may_fire && event(*this) >= 0;
    settle();
    if (fired) return true;
  }
  return false;
}

} // namespace arc

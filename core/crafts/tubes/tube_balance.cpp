// Whether small signals grow, and the balance of first harmonics.
#include "circuit/feed_network.h"
#include "circuit/motion.h"
#include "crafts/tubes/tube_circuit.h"
#include "laws/circuit.h"
#include "quantity/matrix.h"
#include "quantity/quantity.h"
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>
#include <utility>

namespace arc {

namespace {

using Eigen::MatrixXcd;

using Eigen::MatrixXd;

using Eigen::VectorXd;

using Complex = std::complex<double>;

// The network on a constant rail, without thyristor, its arc joined: what start and balance look at. Ports are
// plate and grid of each tube, volts to the cathode.
struct Still {
  TubeNetwork parts;
  MatrixXd rate, in, out; // states by states, by amperes into the ports, ports by states
  MatrixXd in_turn;       // by amperes into the first tube's ports, the second's the same half a period later
  MatrixXd nodes;
  double rail_v = 0;

  Still(TubeCircuit c, double volts) : rail_v(volts) {
    c.direct_v = volts;
    c.staccato.reset();
    if (c.arc == ArcLoad::from_breakout) c.arc = ArcLoad::always;
    parts = tube_network(c);
    const StateSpace space = state_space(parts.network, true);
    const auto own = static_cast<Eigen::Index>(parts.network.capacitors.size() + parts.network.inductors.size());
    const auto port = [](Node node) { return static_cast<Eigen::Index>(node) - 1; };
    rate = space.rate.topLeftCorner(own, own);
    nodes = space.nodes;
    const auto ports = static_cast<Eigen::Index>(2 * parts.tubes.size());
    in.resize(own, ports);
    out.resize(ports, own);
    Eigen::Index i = 0;
    for (const TubeNetwork::Tube& tube : parts.tubes)
      for (const Node node : {tube.plate, tube.grid}) {
        in.col(i) = space.rate_in.col(port(node)).head(own);
        out.row(i++) = space.nodes.row(port(node)).head(own);
      }
    in_turn = in.leftCols(2);
    if (ports > 2) in_turn -= in.rightCols(2);
  }
  Eigen::Index capacitor(std::size_t i) const { return static_cast<Eigen::Index>(i); }
  Eigen::Index inductor(std::size_t i) const {
    return static_cast<Eigen::Index>(parts.network.capacitors.size() + i);
  }
};

// With the tube's slopes, weakened by a factor.
MatrixXd with_tube(const Still& still, const TubeCurrents& slope, double factor) {
  MatrixXd g = MatrixXd::Zero(still.out.rows(), still.out.rows()); // amperes that tubes take, by their volts
  for (Eigen::Index i = 0; i < g.rows(); i += 2)
    g.block<2, 2>(i, i) << slope.plate_by_va, slope.plate_by_vg, 0, slope.grid_by_vg;
  return still.rate - factor * still.in * g * still.out;
}

std::vector<TubeMode> modes_of(const MatrixXd& rate, double low_hz, double high_hz) {
  std::vector<TubeMode> out;
  for (const Complex& pole : eigenvalues(rate)) {
    const double hz = pole.imag() / (2 * std::numbers::pi);
    if (hz > low_hz && hz < high_hz) out.push_back({hz, pole.real()});
  }
  std::ranges::sort(out, std::greater{}, &TubeMode::growth_per_s);
  return out;
}

std::pair<double, double> band_of(const TubeCircuit& c) {
  const double tank = resonance_hz(c.plate_h, c.tank_f);
  const double coil = resonance_hz(c.modes.front().inductance_h, c.modes.front().capacitance_f);
  return {0.4 * std::min(tank, coil), 2.2 * std::max(tank, coil)};
}

// Averages and first harmonics of the tube's currents over a period, for these volts.
struct Harmonics {
  double plate_0 = 0, grid_0 = 0;
  Complex plate_1, grid_1;
  double plate_w = 0, grid_w = 0, peak_a = 0, on = 0;
};

Harmonics harmonics(const TubeLaw& law, double rail_v, double bias_v, Complex va, Complex vg) {
  constexpr int points = 192;
  constexpr double conducts_a = 0.01;
  Harmonics out;
  for (int i = 0; i < points; ++i) {
    const Complex turn = std::polar(1.0, 2 * std::numbers::pi * i / points);
    const double plate_v = rail_v + (va * turn).real(), grid_v = bias_v + (vg * turn).real();
    const TubeCurrents a = tube_currents(law, plate_v, grid_v);
    out.plate_0 += a.plate_a / points;
    out.grid_0 += a.grid_a / points;
    out.plate_1 += 2.0 / points * a.plate_a * std::conj(turn);
    out.grid_1 += 2.0 / points * a.grid_a * std::conj(turn);
    out.plate_w += a.plate_a * plate_v / points;
    out.grid_w += a.grid_a * grid_v / points;
    out.peak_a = std::max(out.peak_a, a.plate_a + a.grid_a);
    if (a.plate_a > conducts_a) out.on += 1.0 / points;
  }
  return out;
}

// Unknowns: plate swing (its phase is zero), grid phasor, bias, frequency; all scaled to the order of one.
struct Balance {
  const Still& still;
  const TubeCircuit& c;
  double middle_hz;
  using Unknowns = Eigen::Matrix<double, 5, 1>;

  double tubes() const { return static_cast<double>(still.parts.tubes.size()); }
  double hz(const Unknowns& u) const { return middle_hz * (1 + u(4)); }
  Complex plate(const Unknowns& u) const { return {-u(0) * still.rail_v, 0}; }
  Complex grid(const Unknowns& u) const { return Complex(u(1), u(2)) * still.rail_v; }
  double bias(const Unknowns& u) const { return u(3) * still.rail_v; }

  Eigen::VectorXcd state(const Unknowns& u, const Harmonics& h) const {
    const Complex s(0, 2 * std::numbers::pi * hz(u));
    MatrixXcd m = -still.rate.cast<Complex>();
    m.diagonal().array() += s;
    return arc::solve(m, still.in_turn.cast<Complex>() * Eigen::Vector2cd(-h.plate_1, -h.grid_1));
  }

  Unknowns residual(const Unknowns& u) const {
    const Harmonics h = harmonics(c.law, still.rail_v, bias(u), plate(u), grid(u));
    const Eigen::Vector2cd ports = still.out.topRows(2).cast<Complex>() * state(u, h);
    const Complex off_plate = (ports(0) - plate(u)) / still.rail_v, off_grid = (ports(1) - grid(u)) / still.rail_v;
    Unknowns r;
    r << off_plate.real(), off_plate.imag(), off_grid.real(), off_grid.imag(),
        (-c.grid_leak_ohm * tubes() * h.grid_0 - bias(u)) / still.rail_v;
    return r;
  }

  // Newton with halved steps; true when it has arrived.
  bool solve(Unknowns& u) const {
    Unknowns r = residual(u);
    for (int round = 0; round < 40; ++round) {
      if (r.norm() < 1e-7) return u(0) > 1e-3;
      Eigen::Matrix<double, 5, 5> slope;
      for (int k = 0; k < 5; ++k) {
        Unknowns moved = u;
        const double by = k == 4 ? 1e-7 : 1e-5;
        moved(k) += by;
        slope.col(k) = (residual(moved) - r) / by;
      }
      const Unknowns step = slope.partialPivLu().solve(-r);
      if (!step.allFinite()) return false;
      double share = std::min(1.0, 0.3 / std::max({std::abs(step(0)), std::abs(step(1)), 50 * std::abs(step(4))}));
      for (int halves = 0;; ++halves, share /= 2) {
        if (halves > 12) return false;
        const Unknowns next = u + share * step;
        const Unknowns there = residual(next);
        if (!there.allFinite() || (there.norm() > r.norm() && halves < 12)) continue;
        u = next;
        r = there;
        break;
      }
    }
    return false;
  }
};

} // namespace

TubeStart tube_start(const TubeCircuit& c, double rail_v) {
  const Still still(c, rail_v);
  if (!still.rate.allFinite())
    throw std::invalid_argument("the oscillator's parts are too far apart in size to be computed");
  const TubeCurrents slope = tube_currents(c.law, rail_v, 0);
  const std::pair<double, double> band = band_of(c);
  TubeStart out;
  out.modes = modes_of(with_tube(still, slope, 1), band.first, band.second);
  const auto grows = [&](double factor) {
    const auto modes = modes_of(with_tube(still, slope, factor), band.first, band.second);
    return !modes.empty() && modes.front().growth_per_s > 0;
  };
  // The strongest factor at which it just grows: a tube far too strong damps by its own plate resistance.
  double least = 1e-3, most = 1;
  while (!grows(most)) {
    least = most;
    if ((most *= 1.15) > 100) return out;
  }
  if (grows(least)) {
    out.margin = 1 / least;
    return out;
  }
  for (int halves = 0; halves < 30; ++halves) {
    const double middle = std::sqrt(least * most);
    (grows(middle) ? most : least) = middle;
  }
  out.margin = 1 / most;
  return out;
}

namespace {

// The balanced oscillation as figures.
TubeBalance figures_of(const Balance& balance, const Still& still, const TubeCircuit& c, double rail_v,
                       const Balance::Unknowns& u) {
  const Harmonics h = harmonics(c.law, rail_v, balance.bias(u), balance.plate(u), balance.grid(u));
  const Eigen::VectorXcd x = balance.state(u, h);
  TubeBalance out;
  out.frequency_hz = balance.hz(u);
  const double tubes = balance.tubes();
  out.plate_input_w = tubes * rail_v * h.plate_0;
  out.plate_dissipation_w = tubes * h.plate_w;
  out.grid_dissipation_w = tubes * h.grid_w;
  out.plate_average_a = tubes * h.plate_0;
  out.grid_average_a = tubes * h.grid_0;
  out.grid_bias_v = balance.bias(u);
  out.cathode_peak_a = h.peak_a;
  out.plate_swing_v = std::abs(balance.plate(u));
  out.grid_swing_v = std::abs(balance.grid(u));
  Complex top = 0;
  for (std::size_t i = 0; i < still.parts.mode_caps.size(); ++i) {
    top += c.modes[i].top_per_v * x(still.capacitor(still.parts.mode_caps[i]));
    out.secondary_power_w +=
        std::norm(x(still.inductor(still.parts.mode_coils[i]))) * c.modes[i].resistance_ohm / 2;
  }
  out.top_peak_v = std::abs(top) + (c.wiring == TubeWiring::flame ? rail_v : 0); // joined to the supply
  if (still.parts.arc) {
    const Network::Switch& arc = still.parts.network.switches[*still.parts.arc];
    const auto own = still.rate.rows();
    const Complex across = (still.nodes.row(static_cast<Eigen::Index>(arc.a) - 1).head(own) -
                            still.nodes.row(static_cast<Eigen::Index>(arc.b) - 1).head(own))
                               .cast<Complex>() *
                           x;
    out.secondary_power_w += std::norm(across) / arc.on_ohm / 2;
  }
  out.tank_a = std::abs(x(still.inductor(still.parts.plate_coils.front())));
  if (!still.parts.feedback_coils.empty())
    out.feedback_a = std::abs(x(still.inductor(still.parts.feedback_coils.front())));
  out.conduction_deg = 360 * h.on;
  return out;
}

} // namespace

std::optional<TubeBalance> tube_balance(const TubeCircuit& c, double rail_v) {
  const Still still(c, rail_v);
  const auto [low, high] = band_of(c);
  const TubeCurrents slope = tube_currents(c.law, rail_v, 0);
  const MatrixXd rate = with_tube(still, slope, 1);
  const GeneralModes found = general_modes(rate);
  Eigen::Index best = -1;
  for (Eigen::Index i = 0; i < rate.rows(); ++i) {
    const Complex pole = found.values(i);
    const double hz = pole.imag() / (2 * std::numbers::pi);
    if (hz < low || hz > high || pole.real() <= 0) continue;
    if (best < 0 || pole.real() > found.values(best).real()) best = i;
  }
  if (best < 0) return {};
  // The growing mode's own shape is where to start from.
  const Eigen::VectorXcd shape = found.vectors.col(best);
  const Eigen::Vector2cd ports = still.out.topRows(2).cast<Complex>() * shape;
  const Complex ratio = ports(1) / ports(0);
  const Balance balance{still, c, found.values(best).imag() / (2 * std::numbers::pi)};
  // Swing and bias to start from, over the supply and over the grid's swing.
  constexpr std::array<std::pair<double, double>, 12> starts{{{1.0, 0.6},
                                                              {1.1, 0.6},
                                                              {0.8, 0.6},
                                                              {0.5, 0.6},
                                                              {0.2, 0.6},
                                                              {0.05, 0.6},
                                                              {1.0, 0.3},
                                                              {1.0, 0.85},
                                                              {0.9, 0.45},
                                                              {1.15, 0.75},
                                                              {0.7, 0.3},
                                                              {0.6, 0.8}}};
  for (const auto& [swing, bias] : starts) {
    const Complex grid = -ratio * swing;
    Balance::Unknowns u;
    u << swing, grid.real(), grid.imag(), -bias * std::abs(grid), 0;
    if (!balance.solve(u)) continue;
    return figures_of(balance, still, c, rail_v, u);
  }
  return {};
}

} // namespace arc

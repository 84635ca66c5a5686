// Steps of an oscillator's run: topologies, switches and cores, the tubes' currents at a step's end.
#pragma once

#include "crafts/tubes/tube_motion.h"

namespace arc::tube_motion {

template <int Tubes>
Topology& TubeRun<Tubes>::topology() {
  const auto [at, is_new] = topologies_.try_emplace(topology_key(net_));
  if (is_new) build(at->second);
  return at->second;
}

// Volts of a node from the states.
inline RowVectorXd node_row(const StateSpace& space, Node node) {
  return node == 0 ? RowVectorXd::Zero(space.nodes.cols())
                   : RowVectorXd(space.nodes.row(static_cast<Index>(node) - 1));
}

// exp of [A B 0; 0 0 I; 0 0 0] h holds the step for currents that change evenly over it.
template <int Tubes>
void TubeRun<Tubes>::build(Topology& t) const {
  const StateSpace space = state_space(net_, true);
  const auto port = [](Node node) { return static_cast<Index>(node) - 1; };
  const Index n = states_;
  MatrixXd in(n, ports + 1); // by amperes that a tube takes at its plate and its grid, and that noise puts in
  const auto column = [&](Node node) -> VectorXd {
    return node == 0 ? VectorXd::Zero(n) : VectorXd(space.rate_in.col(port(node)));
  };
  for (Index i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[static_cast<std::size_t>(i)];
    in.col(2 * i) = column(parts_.cathode) - column(tube.plate);
    in.col(2 * i + 1) = column(parts_.cathode) - column(tube.grid);
  }
  in.col(ports) = column(parts_.tubes.front().plate);
  const auto row = [&](Node node) { return node_row(space, node); };
  // The charge into the coil and the grid's volt-seconds are carried along as two more states, so that they are
  // exact.
  const Index m = n + 2;
  constexpr Index inputs = ports + 1;
  MatrixXd all = MatrixXd::Zero(m + 2 * inputs, m + 2 * inputs);
  all.topLeftCorner(n, n) = space.rate * h_;
  all.block(n, 0, 1, n) = (row(parts_.rail) - row(parts_.coil)) / rail_ohm * h_;
  all.block(n + 1, 0, 1, n) = (row(parts_.tubes.front().grid) - row(parts_.cathode)) * h_;
  all.block(0, m, n, inputs) = in * h_;
  all.block(m, m + inputs, inputs, inputs) = MatrixXd::Identity(inputs, inputs);
  const MatrixXd moved = exponential(all);
  if (!moved.allFinite())
    throw std::invalid_argument("the oscillator's parts are too far apart in size to be computed");
  const MatrixXd phi = moved.topLeftCorner(m, m), end = moved.block(0, m + inputs, m, inputs),
                 begin = moved.block(0, m, m, inputs) - end;
  MatrixXd at_ports(ports, n);
  for (Index i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[static_cast<std::size_t>(i)];
    at_ports.row(2 * i) = row(tube.plate) - row(parts_.cathode);
    at_ports.row(2 * i + 1) = row(tube.grid) - row(parts_.cathode);
  }
  t.ports.template topLeftCorner<ports, ports>() = at_ports * end.topLeftCorner(n, ports);
  const auto store = [&](Aligned& to, const MatrixXd& moves) { // state, ports, integrals
    to.resize(static_cast<std::size_t>(wide_.rows) * static_cast<std::size_t>(moves.cols()));
    Eigen::Map<MatrixXd> view(to.data(), wide_.rows, moves.cols());
    view.topRows(n) = moves.topRows(n);
    view.middleRows(n, ports) = at_ports * moves.topRows(n);
    view.middleRows(n + ports, 2) = moves.bottomRows(2);
  };
  MatrixXd step(m, columns_);
  step.leftCols(n) = phi.leftCols(n);
  step.middleCols(n, ports) = begin.leftCols(ports);
  if (columns_ > n + ports) {
    step.col(n + ports) = begin.col(ports);
    step.col(n + ports + 1) = end.col(ports);
  }
  store(t.step, step);
  MatrixXd several = phi;
  for (int i = 1; i < look_every; ++i) several = several * phi;
  store(t.stride, several.leftCols(n));
  for (Index i = 0; i < ports; ++i) store(t.in[static_cast<std::size_t>(i)], end.col(i));
  t.nodes = space.nodes;
  build_reads(t, space);
}

// What is looked at between the steps, from the states.
template <int Tubes>
void TubeRun<Tubes>::build_reads(Topology& t, const StateSpace& space) const {
  const Index n = states_;
  const auto row = [&](Node node) { return node_row(space, node); };
  MatrixXd reads = MatrixXd::Zero(read_.rows, n);
  reads.row(rail_v) = row(parts_.rail);
  const auto across = [&](const auto& part) -> RowVectorXd { return row(part.a) - row(part.b); };
  reads.row(leak_v) = across(net_.resistors[parts_.leak]);
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeNetwork::Tube& tube = parts_.tubes[i];
    if (tube.trap) reads.row(i > 0 ? trap_2_v : trap_v) = across(net_.resistors[*tube.trap]);
    if (tube.stopper) reads.row(i > 0 ? stopper_2_v : stopper_v) = across(net_.resistors[*tube.stopper]);
  }
  if (parts_.arc) reads.row(arc_v) = across(net_.switches[*parts_.arc]);
  reads.row(cathode_v) = row(parts_.cathode);
  if (parts_.line_per_a > 0) {
    const Network::Resistor& r = net_.resistors[parts_.source_resistor];
    reads.row(line_a) = across(r) / r.ohm * parts_.line_per_a;
  }
  Index diode = signal_count;
  for (const Network::Switch& s : net_.switches)
    if (s.diode) reads.row(diode++) = across(s);
  t.reads.resize(static_cast<std::size_t>(read_.rows) * static_cast<std::size_t>(n));
  Eigen::Map<MatrixXd>(t.reads.data(), read_.rows, n) = reads;
}

template <int Tubes>
double TubeRun<Tubes>::top_v() const {
  double sum = 0;
  for (std::size_t i = 0; i < parts_.mode_caps.size(); ++i)
    sum += c_.modes[i].top_per_v * x_.data()[parts_.mode_caps[i]];
  return sum;
}

template <int Tubes>
double TubeRun<Tubes>::stored_j() const {
  double twice = 0;
  for (std::size_t i = parts_.first_own_capacitor; i < net_.capacitors.size(); ++i)
    twice += net_.capacitors[i].farad * x_.data()[i] * x_.data()[i];
  const std::size_t first_own = parts_.plate_coils.front();
  for (std::size_t i = first_own; i < net_.inductors.size(); ++i)
    twice += net_.inductors[i].henry * inductor_a(i) * inductor_a(i);
  for (const Network::Coupling& m : net_.couplings)
    if (m.first >= first_own) twice += 2 * m.henry * inductor_a(m.first) * inductor_a(m.second);
  return twice / 2;
}

template <int Tubes>
bool TubeRun<Tubes>::fix_switches() {
  bool changed = false;
  const double* across = seen_.data() + signal_count;
  for (Network::Switch& s : net_.switches)
    if (s.diode && set_diode(s, *across++)) changed = true;
  return changed;
}

template <int Tubes>
bool TubeRun<Tubes>::fix_cores() {
  bool changed = false;
  for (std::size_t k = 0; k < net_.inductors.size(); ++k)
    if (!net_.inductors[k].knees.empty() && set_level(net_.inductors[k], inductor_a(k))) changed = true;
  return changed;
}

template <int Tubes>
void TubeRun<Tubes>::settle() {
  present_ = &topology();
  for (int tries = 0; tries < 8; ++tries) {
    read_all();
    const bool switched = fix_switches(), bent = fix_cores();
    if (!switched && !bent) return;
    present_ = &topology();
  }
}

template <int Tubes>
void TubeRun<Tubes>::read_tube() {
  const auto volts = [&](Node node) {
    return node == 0 ? 0.0 : present_->nodes.row(static_cast<Index>(node) - 1).dot(state());
  };
  const double cathode = volts(parts_.cathode);
  for (std::size_t i = 0; i < Tubes; ++i) {
    TubeAt& tube = tubes_[i];
    tube.va = volts(parts_.tubes[i].plate) - cathode;
    tube.vg = volts(parts_.tubes[i].grid) - cathode;
    tube.takes = tube_currents(c_.law, tube.va, tube.vg);
  }
}

template <int Tubes>
typename TubeRun<Tubes>::Volts TubeRun<Tubes>::taken(const At& tubes) {
  Volts out;
  for (int i = 0; i < Tubes; ++i) {
    const TubeCurrents& takes = tubes[static_cast<std::size_t>(i)].takes;
    out(2 * i) = takes.plate_a;
    out(2 * i + 1) = takes.grid_a;
  }
  return out;
}

// Volts and currents at the step's end, where the ports stand at `free` volts without currents: by Newton, a move
// across a corner of the characteristic that leads away halved until it leads nearer. What does not converge so is
// bracketed; what is not solved then is an error, never a number.
template <int Tubes>
typename TubeRun<Tubes>::At TubeRun<Tubes>::balanced(const Volts& free) const {
  constexpr double solved_v = 1e-6;
  constexpr int most_rounds = 30, most_halvings = 12;
  const Ports by = Eigen::Map<const Ports, 0, Eigen::OuterStride<2 * most_tubes>>(present_->ports.data());
  const auto left_over = [&](const At& tubes) {
    Volts off = free;
    for (int i = 0; i < Tubes; ++i) {
      off(2 * i) -= tubes[static_cast<std::size_t>(i)].va;
      off(2 * i + 1) -= tubes[static_cast<std::size_t>(i)].vg;
    }
    off.noalias() += by * taken(tubes);
    return off;
  };
  At now = tubes_;
  Volts off = left_over(now);
  double left_v = off.template lpNorm<1>();
  bool nearer = true;
  for (int round = 0; nearer && round < most_rounds && !(left_v < solved_v); ++round) {
    Ports slope = Ports::Identity();
    for (int i = 0; i < Tubes; ++i) {
      const TubeCurrents& a = now[static_cast<std::size_t>(i)].takes;
      slope.col(2 * i) -= by.col(2 * i) * a.plate_by_va;
      slope.col(2 * i + 1) -= by.col(2 * i) * a.plate_by_vg + by.col(2 * i + 1) * a.grid_by_vg;
    }
    Volts move = slope.inverse() * off;
    nearer = false;
    for (int halving = 0; !nearer && halving < most_halvings; ++halving, move /= 2) {
      At then = now;
      for (int i = 0; i < Tubes; ++i) {
        TubeAt& tube = then[static_cast<std::size_t>(i)];
        tube.va += move(2 * i);
        tube.vg += move(2 * i + 1);
        tube.takes = tube_currents(c_.law, tube.va, tube.vg);
      }
      const Volts then_off = left_over(then);
      const double then_v = then_off.template lpNorm<1>();
      if (!(then_v < left_v)) continue;
      nearer = true;
      now = then;
      off = then_off;
      left_v = then_v;
    }
  }
  if (left_v < solved_v) return now;
  if (free.allFinite()) now = bracketed(free, by);
  if (!(left_over(now).template lpNorm<1>() < 1e3 * solved_v))
    throw std::invalid_argument(
        fmt::format("the tube's currents have no solution {:.4g} ms into the run: a part may be far from anything "
                    "real",
                    1e3 * time_s_));
  return now;
}

// One tube after the other, plate volts outside, grid volts within: each leaves less over the higher it is taken.
template <int Tubes>
typename TubeRun<Tubes>::At TubeRun<Tubes>::bracketed(const Volts& free, const Ports& by) const {
  const auto zero = [](const auto& left_over, double near) {
    double low = near - 1, high = near + 1;
    for (double wide = 2; left_over(low) < 0 && wide < 1e9; wide *= 2) low -= wide;
    for (double wide = 2; left_over(high) > 0 && wide < 1e9; wide *= 2) high += wide;
    if (!(left_over(low) >= 0 && left_over(high) <= 0)) return near;
    std::uintmax_t rounds = 200;
    const auto ends = boost::math::tools::toms748_solve(
        left_over, low, high, [](double a, double b) { return std::abs(a - b) < 1e-11 * (1 + std::abs(a)); },
        rounds);
    return std::midpoint(ends.first, ends.second);
  };
  At now = tubes_;
  constexpr int most_rounds = 50;
  for (int round = 0; round < (Tubes > 1 ? most_rounds : 1); ++round) {
    const At before = now;
    for (int i = 0; i < Tubes; ++i) {
      TubeAt& tube = now[static_cast<std::size_t>(i)];
      tube.takes = {};
      const Volts rest = free + by * taken(now); // what the other tube leaves
      const auto block = by.template block<2, 2>(2 * i, 2 * i);
      const auto at = [&](double va) {
        const auto grid = [&](double vg) {
          const TubeCurrents a = tube_currents(c_.law, va, vg);
          return rest(2 * i + 1) + block(1, 0) * a.plate_a + block(1, 1) * a.grid_a - vg;
        };
        const double vg = zero(grid, tube.vg);
        return TubeAt{va, vg, tube_currents(c_.law, va, vg)};
      };
      const auto plate = [&](double va) {
        const TubeAt a = at(va);
        return rest(2 * i) + block(0, 0) * a.takes.plate_a + block(0, 1) * a.takes.grid_a - va;
      };
      tube = at(zero(plate, tube.va));
    }
    if ((taken(now) - taken(before)).template lpNorm<1>() < 1e-15) break;
  }
  return now;
}

// One step: everything linear at once, then the tubes' currents at its end by Newton.
template <int Tubes>
void TubeRun<Tubes>::small_step() {
  const Topology& t = *present_;
  double* x = x_.data();
  double* y = next_.data();
  for (int i = 0; i < Tubes; ++i) {
    x[states_ + 2 * i] = tubes_[static_cast<std::size_t>(i)].takes.plate_a;
    x[states_ + 2 * i + 1] = tubes_[static_cast<std::size_t>(i)].takes.grid_a;
  }
  if (columns_ > states_ + ports) {
    x[states_ + ports] = c_.noise_a * noise_.imag();
    noise_ *= noise_step_;
    x[states_ + ports + 1] = c_.noise_a * noise_.imag();
  }
  // Once it swings, noise is nothing.
  const bool heard = columns_ > states_ + ports && std::abs(last_top_v_) < loud_v;
  wide_.over(t.step.data(), heard ? columns_ : states_ + ports, x, y);
  const std::array<TubeAt, Tubes> then = balanced(Eigen::Map<const Volts>(y + states_));
  const Volts takes = taken(then);
  charge_c_ += y[states_ + ports];
  sums_.grid_vs += y[states_ + ports + 1];
  if ((takes.array() != 0).any()) {
    const double* from = y;
    for (int i = 0; i < Tubes; ++i) { // plate and grid in one sweep over the state
      const double* p = t.in[static_cast<std::size_t>(2 * i)].data();
      const double* g = t.in[static_cast<std::size_t>(2 * i + 1)].data();
      const double plate_a = takes(2 * i), grid_a = takes(2 * i + 1);
      for (int k = 0; k < states_; ++k) x[k] = from[k] + p[k] * plate_a + g[k] * grid_a;
      charge_c_ += p[states_ + ports] * plate_a + g[states_ + ports] * grid_a;
      sums_.grid_vs += p[states_ + ports + 1] * plate_a + g[states_ + ports + 1] * grid_a;
      from = x;
    }
  } else {
    std::copy_n(y, states_, x);
  }
  const double half = h_ / 2;
  for (std::size_t i = 0; i < Tubes; ++i) {
    const TubeAt &from = tubes_[i], &to = then[i];
    const double plate_j = half * (from.takes.plate_a * from.va + to.takes.plate_a * to.va);
    sums_.plate_j += plate_j;
    bin_.plate += plate_j;
    sums_.grid_j += half * (from.takes.grid_a * from.vg + to.takes.grid_a * to.vg);
    sums_.plate_c += half * (from.takes.plate_a + to.takes.plate_a);
    sums_.grid_c += half * (from.takes.grid_a + to.takes.grid_a);
    sums_.cathode_peak_a = std::max(sums_.cathode_peak_a, to.takes.plate_a + to.takes.grid_a);
  }
  if (then.front().takes.plate_a > conducts_a) swing_on_s_ += h_;
  tubes_ = then;
  time_s_ += h_;
}

// Several steps at once while the tube is cut off at both ends; false when it would not stay so.
template <int Tubes>
bool TubeRun<Tubes>::stride() {
  for (const TubeAt& tube : tubes_)
    if (!tube.cut_off(c_.law)) return false;
  const Topology& t = *present_;
  double* y = next_.data();
  wide_.over(t.stride.data(), states_, x_.data(), y);
  std::array<TubeAt, Tubes> then;
  for (std::size_t i = 0; i < Tubes; ++i) {
    then[i] = {y[states_ + 2 * static_cast<int>(i)], y[states_ + 2 * static_cast<int>(i) + 1], {}};
    if (!then[i].cut_off(c_.law)) return false;
  }
  std::copy_n(y, states_, x_.data());
  noise_ *= noise_stride_;
  charge_c_ += y[states_ + ports];
  sums_.grid_vs += y[states_ + ports + 1];
  tubes_ = then;
  time_s_ += look_every * h_;
  return true;
}

} // namespace arc::tube_motion

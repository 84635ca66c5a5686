// The resonator as a distributed line: capacitance from boundary elements, inductance from turn rings, modes from
// the symmetric eigenproblem D' L^-1 D v = w^2 C v. Nodes sit at the centres of n equal pieces of the winding and
// on the topload; a branch owns the turns between two nodes. Since D is square and invertible, the largest
// eigenvalues of G' D^-1 L D^-T G (C = G G') are 1/w^2: no inverse of L is needed.
#include "field/boundary.h"
#include "field/loss.h"
#include "field/resonator.h"
#include "field/rings.h"
#include "field/stretches.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

// Grounded bodies: the primary's turns, ceiling and wall. With the strike ring they share one conductor that stays
// at 0 V.
void add_grounded(const FieldStep& step, std::size_t conductor, int cuts, std::vector<Piece>& pieces) {
  if (step.primary_grounded)
    for (const Ring& ring : primary_rings(step.primary, step.primary.turns))
      pieces.push_back({ring.radius_m, std::max(ring.height_m, step.primary.conductor_diameter_m), ring.radius_m,
                        std::max(ring.height_m, step.primary.conductor_diameter_m), conductor,
                        step.primary.conductor_diameter_m / 2, 0});
  if (step.ceiling_height_m) {
    const double height = *step.ceiling_height_m;
    for (int i = 0; i < cuts; ++i) {
      const double reach = step.wall_distance_m ? *step.wall_distance_m : 3 * height;
      const auto radius = [&](int k) { return reach * std::pow(static_cast<double>(k) / cuts, 1.5); };
      pieces.push_back({radius(i), height, radius(i + 1), height, conductor, 0, 0});
    }
  }
  if (step.wall_distance_m) {
    const double radius = *step.wall_distance_m;
    const double top = step.secondary.base_height_m + step.secondary.winding_length_m;
    const double height = step.ceiling_height_m.value_or(3 * (top + radius));
    for (int i = 0; i < cuts; ++i)
      pieces.push_back({radius, height * i / cuts, radius, height * (i + 1) / cuts, conductor, 0, 0});
  }
}

} // namespace

double secondary_mean_radius_m(const Secondary& secondary) {
  return (secondary.form_diameter_m + secondary.wire_overall_diameter_m) / 2;
}

StrikeRing strike_ring(const Primary& primary) {
  const auto rings = primary_rings(primary, primary.turns);
  double outermost = 0, highest = 0;
  for (const Ring& ring : rings) {
    outermost = std::max(outermost, ring.radius_m);
    highest = std::max(highest, ring.height_m);
  }
  const double tube = primary.conductor_diameter_m;
  return {outermost + primary.pitch_m, highest + std::max(0.04, 4 * tube), tube / 2};
}

double primary_rise_rad(const Primary& primary) {
  using std::numbers::pi;
  switch (primary.shape) {
  case PrimaryShape::flat:
    return 0;
  case PrimaryShape::helix:
    return pi / 2;
  case PrimaryShape::cone:
    return primary.cone_angle_deg * pi / 180;
  }
  return 0;
}

std::vector<Ring> primary_rings(const Primary& primary, double turns) {
  return spiral_rings(primary.inner_radius_m, primary.base_height_m, primary.pitch_m, primary_rise_rad(primary),
                      turns);
}

namespace {

// Pieces of the winding (one conductor each), the topload (the next one) and what is grounded (the last).
struct Conductors {
  std::vector<Piece> pieces;
  std::vector<double> curvature_m; // of each piece's surface; wire radius on the winding
  std::size_t winding = 0;         // pieces of the winding
  std::size_t nodes = 0;           // winding pieces and the topload, if there is one
};

// Radius of curvature at each piece of an outline: half the way to its neighbours over the angle turned there.
std::vector<double> curvatures(const std::vector<Piece>& pieces) {
  const auto direction = [&](std::size_t i) {
    return std::atan2(pieces[i].z2_m - pieces[i].z1_m, pieces[i].r2_m - pieces[i].r1_m);
  };
  const auto length = [&](std::size_t i) {
    return std::hypot(pieces[i].r2_m - pieces[i].r1_m, pieces[i].z2_m - pieces[i].z1_m);
  };
  const auto turned = [&](std::size_t i, std::size_t j) { // a rim that simply ends turns by half a circle
    const bool joined = std::hypot(pieces[i].r2_m - pieces[j].r1_m, pieces[i].z2_m - pieces[j].z1_m) < 1e-9;
    if (!joined) return pieces[i].r2_m > 1e-9 ? std::numbers::pi : 0.0;
    return std::abs(std::remainder(direction(j) - direction(i), 2 * std::numbers::pi));
  };
  std::vector<double> out;
  const std::size_t n = pieces.size();
  for (std::size_t i = 0; i < n; ++i) {
    const double angle = std::max(turned(i, (i + 1) % n), turned((i + n - 1) % n, i));
    out.push_back(angle > 1e-6 ? length(i) / angle : 1e3);
  }
  return out;
}

// Turns so far apart, and so few, that each carries its charge on its own wire. A sheet with the grid's excess
// knows nothing of the ends, where the last turns stand free.
bool is_spaced(const Secondary& coil) {
  constexpr double apart = 1.5; // pitch over wire
  constexpr double most_turns = 300;
  return coil.turns >= 2 && coil.turns <= most_turns &&
         coil.winding_length_m / coil.turns > apart * coil.wire_bare_diameter_m;
}

// A ring of wire for each turn.
void add_turns(const Secondary& coil, Conductors& out) {
  out.winding = static_cast<std::size_t>(std::floor(coil.turns));
  const double radius = secondary_mean_radius_m(coil), wire = coil.wire_bare_diameter_m / 2;
  for (std::size_t i = 0; i < out.winding; ++i) {
    const double height = coil.base_height_m +
                          (static_cast<double>(i) + 0.5) * coil.winding_length_m / static_cast<double>(out.winding);
    out.pieces.push_back({radius, height, radius, height, i, wire, 0});
  }
}

// Pieces of a sheet, with what a grid of wires has over it.
void add_sheet(const Secondary& coil, int most_pieces, Conductors& out) {
  const double radius = secondary_mean_radius_m(coil);
  out.winding = static_cast<std::size_t>(std::min<double>(most_pieces, std::floor(coil.turns)));
  const double height = coil.winding_length_m / static_cast<double>(out.winding);
  const double excess = wire_grid_excess(radius, coil.turns / static_cast<double>(out.winding),
                                         coil.winding_length_m / coil.turns, coil.wire_bare_diameter_m / 2);
  for (std::size_t i = 0; i < out.winding; ++i) {
    const double low = coil.base_height_m + static_cast<double>(i) * height;
    out.pieces.push_back({radius, low, radius, low + height, i, 0, excess});
  }
}

Conductors cut(const FieldStep& step) {
  const FieldResolution& resolution = step.resolution;
  const Secondary& coil = step.secondary;
  const double top_height = coil.base_height_m + coil.winding_length_m;
  Conductors out;
  if (is_spaced(coil))
    add_turns(coil, out);
  else
    add_sheet(coil, resolution.winding_pieces, out);
  out.curvature_m.assign(out.winding, coil.wire_bare_diameter_m / 2);
  for (const ToploadPart& part : step.topload)
    if (const ToploadShape* shape = topload_shape(part.shape)) {
      const auto more = outline_pieces(shape->outline(part, resolution.topload_pieces), top_height, out.winding);
      const auto bends = curvatures(more);
      out.pieces.insert(out.pieces.end(), more.begin(), more.end());
      out.curvature_m.insert(out.curvature_m.end(), bends.begin(), bends.end());
    }
  out.nodes = out.winding + (step.topload.empty() ? 0 : 1);
  // Plates far away need few pieces.
  add_grounded(step, out.nodes, std::max(6, resolution.winding_pieces / 6), out.pieces);
  return out;
}

// Branch b runs from node b-1 (ground for b = 0) to node b and owns the turns between their places.
Eigen::MatrixXd branch_inductances(const Secondary& coil, const Conductors& conductors, double internal,
                                   bool metal_floor) {
  Stretches stretches(secondary_mean_radius_m(coil), coil.turns, coil.winding_length_m,
                      coil.wire_bare_diameter_m / 2, internal);
  if (metal_floor)
    stretches.add_mirror(secondary_mean_radius_m(coil), coil.turns, coil.winding_length_m, coil.base_height_m);
  const auto n = static_cast<double>(conductors.winding);
  const auto m = static_cast<Eigen::Index>(conductors.nodes);
  const auto place = [&](Eigen::Index node) { // turns below a node
    return static_cast<double>(node) < n ? (static_cast<double>(node) + 0.5) * coil.turns / n : coil.turns;
  };
  Eigen::MatrixXd l(m, m);
  for (Eigen::Index a = 0; a < m; ++a)
    for (Eigen::Index b = 0; b <= a; ++b)
      l(a, b) = l(b, a) =
          stretches.mutual(a == 0 ? 0 : place(a - 1), place(a), b == 0 ? 0 : place(b - 1), place(b));
  return l;
}

// Natural frequencies and node voltages, lowest first.
struct Modes {
  std::vector<double> frequency_hz;
  Eigen::MatrixXd voltage; // nodes x modes
};

Modes solve_modes(const Eigen::MatrixXd& c, const Eigen::MatrixXd& l, Eigen::Index wanted) {
  // S = D^-1 L D^-T: both cumulative sums, since the voltage of a node is the sum of the branch drops below it.
  Eigen::MatrixXd s = l;
  for (Eigen::Index i = 1; i < s.rows(); ++i) s.row(i) += s.row(i - 1);
  for (Eigen::Index i = 1; i < s.cols(); ++i) s.col(i) += s.col(i - 1);
  const Cholesky cholesky(c);
  if (!cholesky.positive())
    throw std::invalid_argument("the capacitances are not physical; conductors touch or cross");
  const Eigen::MatrixXd g = cholesky.lower();
  const Eigen::MatrixXd symmetric = g.transpose() * s * g;
  const Eigen::Index count = std::min(wanted, s.rows());
  Modes out;
  out.voltage.resize(s.rows(), count);
  // Largest first; a winding of a turn or two has fewer modes than are asked for, the rest is rounding.
  const auto keep = [&](Eigen::Index k, double value, const Eigen::VectorXd& vector) {
    if (!(value > 0)) return;
    out.frequency_hz.push_back(1 / (2 * std::numbers::pi * std::sqrt(value)));
    out.voltage.col(k) = g.transpose().triangularView<Eigen::Upper>().solve(vector);
  };
  // Only the lowest modes are wanted: subspace iteration from quarter waves (sines of 1/4, 3/4, 5/4 ... of a period
  // along the line), which are close to them, is several times faster than solving for all.
  const Eigen::Index block = count + 4;
  if (2 * block < s.rows()) {
    Eigen::MatrixXd q(s.rows(), block);
    for (Eigen::Index k = 0; k < block; ++k)
      for (Eigen::Index i = 0; i < s.rows(); ++i)
        q(i, k) = std::sin((static_cast<double>(k) + 0.5) * std::numbers::pi * static_cast<double>(i + 1) /
                           static_cast<double>(s.rows()));
    q = g.transpose() * q;
    Eigen::VectorXd before = Eigen::VectorXd::Zero(count);
    for (int step = 0; step < 60; ++step) {
      q = orthonormal(q);
      const Eigen::MatrixXd moved = symmetric * q;
      const SymmetricModes ritz = symmetric_modes(q.transpose() * moved);
      const Eigen::VectorXd now = ritz.values.reverse().head(count);
      if (((now - before).array().abs() < 1e-13 * now.array().abs()).all()) {
        for (Eigen::Index k = 0; k < count; ++k) keep(k, now(k), q * ritz.vectors.col(block - 1 - k));
        return out;
      }
      before = now;
      q = moved * ritz.vectors;
    }
  }
  const SymmetricModes all = symmetric_modes(symmetric);
  for (Eigen::Index k = 0; k < count; ++k) {
    const Eigen::Index column = s.rows() - 1 - k;
    keep(k, all.values(column), all.vectors.col(column));
  }
  return out;
}

// Voltage and current along the winding for the node voltages v; current relative to the base's.
std::vector<ProfilePoint> profile_of(const Secondary& coil, const Conductors& conductors, const Eigen::MatrixXd& c,
                                     const Eigen::VectorXd& v) {
  const double step = coil.winding_length_m / static_cast<double>(conductors.winding);
  const Eigen::VectorXd leaving = c * v;
  const double base = leaving.sum();
  double current = base;
  std::vector<ProfilePoint> out{{coil.base_height_m, 0, 1}};
  for (std::size_t i = 0; i < conductors.winding; ++i) {
    const auto node = static_cast<Eigen::Index>(i);
    const double before = current;
    current -= leaving(node);
    out.push_back(
        {coil.base_height_m + (static_cast<double>(i) + 0.5) * step, v(node), (before + current) / 2 / base});
  }
  const bool loaded = conductors.nodes > conductors.winding;
  out.push_back({coil.base_height_m + coil.winding_length_m, v(v.size() - 1), loaded ? current / base : 0});
  return out;
}

void add_charges(const Secondary& coil, const Conductors& conductors, const Eigen::VectorXd& charge,
                 ResonatorResult& out) {
  for (std::size_t i = 0; i < conductors.pieces.size(); ++i) {
    const Piece& piece = conductors.pieces[i];
    const double q = charge(static_cast<Eigen::Index>(i));
    out.charges.push_back({piece, q});
    const bool last_turn = i + 1 == conductors.winding;
    if (!last_turn && piece.conductor != conductors.winding) continue;
    if (i >= conductors.curvature_m.size()) continue; // a grounded body
    double field = std::abs(q) / piece_area_m2(piece) / eps0_f_per_m;
    // Between the smooth sheet and the wires of a winding: pi/2 for touching wires, thin-wire field for spaced
    // ones.
    if (last_turn && piece.tube_radius_m == 0)
      field *= std::max(std::numbers::pi / 2,
                        coil.winding_length_m / coil.turns / (std::numbers::pi * coil.wire_bare_diameter_m));
    out.surface.push_back({(piece.r1_m + piece.r2_m) / 2, (piece.z1_m + piece.z2_m) / 2, field,
                           conductors.curvature_m[i], last_turn});
  }
}

double mean_square_current(const Secondary& coil, const std::vector<ProfilePoint>& profile) {
  double mean = 0;
  for (std::size_t i = 1; i < profile.size(); ++i) {
    const ProfilePoint& a = profile[i - 1];
    const ProfilePoint& b = profile[i];
    mean += (b.height_m - a.height_m) / coil.winding_length_m *
            (a.current * a.current + a.current * b.current + b.current * b.current) / 3;
  }
  return mean;
}

double steepest_turn_voltage(const Secondary& coil, const std::vector<ProfilePoint>& profile) {
  double steepest = 0;
  for (std::size_t i = 1; i < profile.size(); ++i) {
    const double share = (profile[i].height_m - profile[i - 1].height_m) / coil.winding_length_m;
    if (share > 0)
      steepest = std::max(steepest, std::abs(profile[i].voltage - profile[i - 1].voltage) / (share * coil.turns));
  }
  return steepest;
}

// Every mode by its largest place and as seen from the top.
void add_modes(const Secondary& secondary, const Conductors& conductors, const Eigen::MatrixXd& c,
               const Modes& modes, ResonatorResult& out) {
  for (std::size_t k = 0; k < modes.frequency_hz.size(); ++k) {
    Eigen::VectorXd shape = modes.voltage.col(static_cast<Eigen::Index>(k));
    Eigen::Index largest = 0;
    shape.cwiseAbs().maxCoeff(&largest);
    shape /= shape(largest);
    const Eigen::VectorXd of_top = shape / shape(shape.size() - 1);
    auto profile = profile_of(secondary, conductors, c, shape);
    const double mean_square = mean_square_current(secondary, profile);
    out.modes.push_back(
        {modes.frequency_hz[k], (c * of_top).sum(), of_top.dot(c * of_top), mean_square, std::move(profile)});
  }
}

ResonatorResult solve_field(const FieldStep& step, Kept& kept);

// What a topload holds alone depends on nothing else: a step of its own.
struct IsolatedTopload {
  using Result = double;
  static constexpr std::size_t kept = 16;
  SharedList<ToploadPart> topload;
  int pieces = 0;
  bool operator==(const IsolatedTopload&) const = default;
};

// The coil before a strike ring is added: with and without one it is the same system but for one piece.
struct CutCoil {
  Conductors conductors;
  FactoredPieces factored;
};
struct CutStep {
  using Result = CutCoil;
  static constexpr std::size_t kept = 2; // they are large
  FieldStep step;
  bool operator==(const CutStep&) const = default;
};

std::shared_ptr<const CutCoil> without_ring(FieldStep step, Kept& kept) {
  step.strike_ring = false;
  step.added_top_f = 0;
  step.metal_floor = false; // it changes inductances only
  if (!step.primary_grounded) step.primary = Primary{};
  const auto make = [&] {
    Conductors conductors = cut(step);
    FactoredPieces factored = factor(conductors.pieces, Ground::floor);
    return CutCoil{std::move(conductors), std::move(factored)};
  };
  if (step.resolution.frequency_only) return std::make_shared<const CutCoil>(make()); // small, and many
  return kept.get(CutStep{step}, make);
}

Piece ring_piece(const Primary& primary, std::size_t conductor) {
  const StrikeRing ring = strike_ring(primary);
  return {ring.radius_m, ring.height_m, ring.radius_m, ring.height_m, conductor, ring.tube_radius_m, 0};
}

} // namespace

FieldStep field_step(const Design& design, FieldResolution resolution, double added_top_f) {
  const auto grounded = [&](const char* name) {
    return std::ranges::count(design.site.grounded_conductors, name) > 0;
  };
  FieldStep step{design.secondary,
                 design.topload,
                 design.site.ceiling_height_m,
                 design.site.wall_distance_m,
                 grounded("primary"),
                 grounded("strike-ring"),
                 {},
                 resolution,
                 added_top_f};
  step.secondary.form_length_m.reset();
  if (step.primary_grounded || step.strike_ring) {
    step.primary = design.primary;
    step.primary.tap_turns = step.primary.lead_inductance_h = 0;
    step.primary.lead_length_m.reset();
    step.primary.lead_spacing_m.reset();
  }
  return step;
}

ResonatorResult field_resonator(const Design& design, FieldResolution resolution, double added_top_f) {
  return field_resonator(field_step(design, resolution, added_top_f));
}

std::shared_ptr<const ResonatorResult> field_resonator(Kept& kept, const FieldStep& step) {
  return kept.get(step, [&] { return solve_field(step, kept); });
}

std::shared_ptr<const ResonatorResult> field_resonator(Kept& kept, const Design& design, FieldResolution resolution,
                                                       double added_top_f) {
  return field_resonator(kept, field_step(design, resolution, added_top_f));
}

ResonatorResult field_resonator(const FieldStep& step) {
  Kept kept;
  return solve_field(step, kept);
}

double isolated_topload_f(Kept& kept, const FieldStep& step) {
  if (step.topload.empty() || step.resolution.frequency_only) return 0;
  const IsolatedTopload alone{step.topload, 2 * step.resolution.topload_pieces};
  return *kept.get(alone, [&] { return body_capacitance_f(alone.topload, alone.pieces, 0, Ground::none); });
}

namespace {

constexpr double usual_air_c = 20;

ResonatorResult solve_field(const FieldStep& step, Kept& kept) {
  const FieldResolution& resolution = step.resolution;
  const std::shared_ptr<const CutCoil> coil = without_ring(step, kept);
  Conductors conductors = coil->conductors;
  const std::size_t bodies = conductors.nodes + 1;
  if (step.strike_ring) conductors.pieces.push_back(ring_piece(step.primary, conductors.nodes));
  const CapacitanceSolution field = step.strike_ring
                                        ? solve_capacitance(coil->factored, bodies, conductors.pieces.back())
                                        : solve_capacitance(coil->factored, bodies);
  const auto m = static_cast<Eigen::Index>(conductors.nodes);
  Eigen::MatrixXd c = field.maxwell_f.topLeftCorner(m, m);
  c(m - 1, m - 1) += step.added_top_f;
  const Eigen::Index wanted = resolution.frequency_only ? 1 : 3;
  Modes modes = solve_modes(c, branch_inductances(step.secondary, conductors, 1, step.metal_floor), wanted);
  // In spaced turns what the wire itself stores counts: at these frequencies its current runs on its skin, and of
  // the internal inductance 2 depths over the radius are left (of a round wire with strong skin effect).
  if (is_spaced(step.secondary) && !modes.frequency_hz.empty()) {
    const double depth = skin_depth_m(modes.frequency_hz[0], usual_air_c);
    const double internal = std::min(1.0, 2 * depth / (step.secondary.wire_bare_diameter_m / 2));
    modes = solve_modes(c, branch_inductances(step.secondary, conductors, internal, step.metal_floor), wanted);
  }

  if (modes.frequency_hz.empty() || !std::isfinite(modes.frequency_hz[0]))
    throw std::invalid_argument("this winding is beyond the field model: its turns and measures lie too far apart");

  ResonatorResult out;
  out.method = "field solution";
  out.assumption = "distributed winding in still air over a conducting floor, uniform winding pitch, no loss";
  out.relative_accuracy = 0.01;
  out.mode_1_hz = modes.frequency_hz[0];
  if (modes.frequency_hz.size() > 1) out.mode_2_hz = modes.frequency_hz[1];
  if (modes.frequency_hz.size() > 2) out.mode_3_hz = modes.frequency_hz[2];
  const Eigen::VectorXd v = modes.voltage.col(0) / modes.voltage(m - 1, 0);
  const double omega = 2 * std::numbers::pi * out.mode_1_hz;
  const double base_charge = (c * v).sum(); // base current over angular frequency, for 1 V at the top
  out.effective_inductance_h = 1 / (omega * omega * base_charge);
  out.effective_capacitance_f = base_charge;
  out.energy_capacitance_f = v.dot(c * v);
  const bool loaded = conductors.nodes > conductors.winding;
  if (!(base_charge > 0) || !std::isfinite(base_charge))
    throw std::invalid_argument("this winding is beyond the field model: its turns and measures lie too far apart");
  if (loaded) out.topload_in_place_f = field.maxwell_f(m - 1, m - 1);
  if (resolution.frequency_only) return out;

  out.profile = profile_of(step.secondary, conductors, c, v);
  out.mean_square_current = mean_square_current(step.secondary, out.profile);
  out.steepest_turn_voltage = steepest_turn_voltage(step.secondary, out.profile);
  add_modes(step.secondary, conductors, c, modes, out);
  add_charges(step.secondary, conductors, field.charge_c.leftCols(m) * v, out);
  if (loaded) out.topload_isolated_f = isolated_topload_f(kept, step);
  return out;
}

} // namespace

} // namespace arc

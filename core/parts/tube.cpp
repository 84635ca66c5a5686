// The three-halves law, its derivatives, and its fit.
#include "parts/tube.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {

TubeLaw tube_law(const Tube& t, double count) {
  TubeLaw out{t.perveance_a_per_v15, t.grid_perveance_a_per_v15, t.mu, t.knee_v};
  switch (t.tie) {
  case GridTie::triode:
  case GridTie::screen_to_cathode:
    break;
  case GridTie::screen_fed:
    out.offset_v = t.screen_v / t.screen_mu;
    break;
  case GridTie::screen_to_plate:
    out.mu = 1 / (1 / t.mu + 1 / t.screen_mu);
    break;
  case GridTie::screen_to_grid: {
    const double both = 1 + 1 / t.screen_mu;
    out.perveance *= std::pow(both, 1.5);
    out.mu *= both;
    out.grid_perveance += t.screen_perveance_a_per_v15;
    break;
  }
  }
  out.perveance *= count;
  out.grid_perveance *= count;
  return out;
}

namespace {

struct FitStep {
  TubeLaw law{0, 0, 0, 0};
  double next_knee_v = 0; // that point 3 then asks for
  std::string problem;
};

// The law that goes through points 1 and 2 with this knee, and what point 3 says of it.
FitStep fit_with_knee(const std::array<CurvePoint, 3>& points, double grid_share, double knee_v) {
  const auto& [a, b, c] = points;
  FitStep out;
  TubeLaw& law = out.law;
  law.knee_v = knee_v;
  for (int round = 0; round < 100; ++round) {     // the grid's share of the current goes by what comes out
    const auto space = [&](const CurvePoint& p) { // cathode current by which the plate gets this
      return p.plate_a * (1 + knee_v / p.plate_v) + law.grid_perveance * std::pow(std::max(0.0, p.grid_v), 1.5);
    };
    const double u = std::pow(space(a), 2.0 / 3), w = std::pow(space(b), 2.0 / 3);
    // u/w = (vga + vaa/mu) / (vgb + vab/mu)
    const double over = a.plate_v * w - b.plate_v * u, under = b.grid_v * u - a.grid_v * w;
    const double inverse_mu = under / over;
    if (!(inverse_mu > 1e-5 && inverse_mu < 1)) {
      out.problem = "points 1 and 2 do not differ as a triode's do: take them at different grid volts, "
                    "beyond the knee";
      return out;
    }
    law.mu = 1 / inverse_mu;
    const double drive = a.grid_v + a.plate_v * inverse_mu;
    if (!(drive > 0)) {
      out.problem = "point 1: at these volts the tube would be cut off";
      return out;
    }
    law.perveance = space(a) / std::pow(drive, 1.5);
    // Equal volts v: Ik = G (v (1 + 1/mu))^1.5.
    const double grid = grid_share * law.perveance * std::pow(1 + inverse_mu, 1.5);
    const bool still = std::abs(grid - law.grid_perveance) <= 1e-14 * grid;
    law.grid_perveance = grid;
    if (still) break;
  }
  const double drive_c = c.grid_v + c.plate_v / law.mu;
  if (!(drive_c > 0)) {
    out.problem = "point 3: at these volts the tube would be cut off";
    return out;
  }
  const double full =
      law.perveance * std::pow(drive_c, 1.5) - law.grid_perveance * std::pow(std::max(0.0, c.grid_v), 1.5);
  out.next_knee_v = c.plate_v * (full / c.plate_a - 1);
  return out;
}

} // namespace

TubeLaw fit_tube(const std::array<CurvePoint, 3>& points, double grid_share) {
  for (std::size_t i = 0; i < points.size(); ++i)
    if (!(points[i].plate_a > 0) || !(points[i].plate_v > 0))
      throw std::invalid_argument(
          fmt::format("point {}: a curve's point has plate volts and amperes above zero", i + 1));
  if (!(grid_share > 0 && grid_share < 0.9))
    throw std::invalid_argument("the grid's share of the current at equal volts lies between 0 and 0.9");
  // The knee is where point 3 asks for the knee that points 1 and 2 were taken with: looked for from low to high,
  // then halved down to.
  const auto beyond = [&](double knee_v) { return fit_with_knee(points, grid_share, knee_v); };
  constexpr int steps = 400;
  // Points 1 and 2 lie beyond the knee, so that it is a part of their volts.
  const double least_v = 1e-3,
               most_v = std::min(20 * points[2].plate_v, 0.3 * std::min(points[0].plate_v, points[1].plate_v));
  constexpr double nothing = 1e-9; // a third point that says what the others say tells no knee
  if (!(most_v > least_v))
    throw std::invalid_argument("points 1 and 2: take them beyond the knee, at more plate volts");
  std::string problem = beyond(0).problem;
  double low = 0;
  bool low_there = problem.empty(), low_asks_more = low_there && beyond(0).next_knee_v > 0;
  for (int i = 0; i <= steps; ++i) {
    double high = least_v * std::pow(most_v / least_v, static_cast<double>(i) / steps);
    const FitStep at = beyond(high);
    const bool there = at.problem.empty() && std::abs(at.next_knee_v - high) > nothing * points[2].plate_v,
               asks_more = at.next_knee_v > high;
    if (there && low_there && asks_more != low_asks_more) {
      for (int k = 0; k < 200 && high - low > 1e-12 * high; ++k) {
        const double middle = (low + high) / 2;
        ((beyond(middle).next_knee_v > middle) == low_asks_more ? low : high) = middle;
      }
      const TubeLaw law = beyond((low + high) / 2).law;
      constexpr double most_perveance = 0.05; // several times that of large transmitting tubes
      if (law.perveance > most_perveance)
        throw std::invalid_argument(
            fmt::format("a perveance of {:.2g} A/V^1.5 is that of no tube: are the currents "
                        "milliamperes?",
                        law.perveance));
      return law;
    }
    low = high, low_there = there, low_asks_more = asks_more;
  }
  if (!problem.empty()) throw std::invalid_argument(problem);
  throw std::invalid_argument(
      "point 3 carries all that points 1 and 2 promise: take it at low plate volts, in the knee");
}

std::span<const TubeClass> tube_classes() {
  static const std::array<TubeClass, 7> classes{{
      {"Transmitting triode, 65 W plate",
       {.perveance_a_per_v15 = 0.0006,
        .grid_perveance_a_per_v15 = 0.000125,
        .mu = 160,
        .knee_v = 25,
        .grid_cathode_f = 6e-12,
        .grid_plate_f = 5.5e-12,
        .plate_cathode_f = 2e-12,
        .plate_dissipation_w = 65,
        .grid_dissipation_w = 16,
        .plate_heat_s = 5,
        .grid_heat_s = 1,
        .plate_voltage_v = 1500,
        .cathode_peak_a = 1.5,
        .filament_v = 6.3,
        .filament_a = 4}},
      {"Transmitting triode, 450 W plate", Tube{}},
      {"Transmitting triode, 100 W plate, low µ",
       {.perveance_a_per_v15 = 0.0002,
        .grid_perveance_a_per_v15 = 5e-5,
        .mu = 25,
        .knee_v = 40,
        .grid_cathode_f = 6e-12,
        .grid_plate_f = 6e-12,
        .plate_cathode_f = 1.5e-12,
        .plate_dissipation_w = 100,
        .grid_dissipation_w = 20,
        .plate_heat_s = 6,
        .grid_heat_s = 1,
        .plate_voltage_v = 2500,
        .cathode_peak_a = 1.5,
        .filament_v = 10,
        .filament_a = 3.25}},
      {"Transmitting pentode, 250 W plate",
       {.tie = GridTie::screen_to_grid,
        .perveance_a_per_v15 = 0.0012,
        .grid_perveance_a_per_v15 = 0.0002,
        .mu = 300,
        .knee_v = 80,
        .screen_mu = 5,
        .screen_perveance_a_per_v15 = 0.00015,
        .grid_cathode_f = 25e-12,
        .grid_plate_f = 10e-12,
        .plate_cathode_f = 12e-12,
        .plate_dissipation_w = 250,
        .grid_dissipation_w = 25,
        .plate_heat_s = 8,
        .grid_heat_s = 1.5,
        .plate_voltage_v = 3000,
        .cathode_peak_a = 4,
        .filament_v = 12.6,
        .filament_a = 5}},
      {"Beam tube, 35 W plate, screen to plate",
       {.tie = GridTie::screen_to_plate,
        .perveance_a_per_v15 = 0.0014,
        .grid_perveance_a_per_v15 = 0.0003,
        .mu = 180,
        .knee_v = 20,
        .screen_mu = 4.5,
        .screen_perveance_a_per_v15 = 0.0002,
        .grid_cathode_f = 24e-12,
        .grid_plate_f = 12e-12,
        .plate_cathode_f = 10e-12,
        .plate_dissipation_w = 35,
        .grid_dissipation_w = 4,
        .plate_heat_s = 6,
        .grid_heat_s = 1,
        .plate_voltage_v = 900,
        .cathode_peak_a = 1.2,
        .filament_v = 6.3,
        .filament_a = 2.5}},
      {"Transmitting pentode, 75 W plate, screen fed",
       {.tie = GridTie::screen_fed,
        .perveance_a_per_v15 = 0.0011,
        .grid_perveance_a_per_v15 = 0.0002,
        .mu = 300,
        .knee_v = 60,
        .screen_mu = 5,
        .screen_v = 120,
        .grid_cathode_f = 16e-12,
        .grid_plate_f = 0.12e-12,
        .plate_cathode_f = 9e-12,
        .plate_dissipation_w = 75,
        .grid_dissipation_w = 4,
        .plate_heat_s = 6,
        .grid_heat_s = 1,
        .plate_voltage_v = 2600,
        .cathode_peak_a = 1.5,
        .filament_v = 12.6,
        .filament_a = 1.6}},
      {"Industrial heating triode, 1 kW plate",
       {.perveance_a_per_v15 = 0.0011,
        .grid_perveance_a_per_v15 = 0.0002,
        .mu = 35,
        .knee_v = 90,
        .grid_cathode_f = 22e-12,
        .grid_plate_f = 18e-12,
        .plate_cathode_f = 2e-12,
        .plate_dissipation_w = 1000,
        .grid_dissipation_w = 100,
        .plate_heat_s = 12,
        .grid_heat_s = 2,
        .plate_voltage_v = 6000,
        .cathode_peak_a = 8,
        .filament_v = 6.3,
        .filament_a = 32}},
  }};
  return classes;
}

} // namespace arc

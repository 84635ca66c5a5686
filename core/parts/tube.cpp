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

TubeLaw fit_tube(const std::array<CurvePoint, 3>& points, double grid_share) {
  for (std::size_t i = 0; i < points.size(); ++i)
    if (!(points[i].plate_a > 0) || !(points[i].plate_v > 0))
      throw std::invalid_argument(
          fmt::format("point {}: a curve's point has plate volts and amperes above zero", i + 1));
  if (!(grid_share > 0 && grid_share < 0.9))
    throw std::invalid_argument("the grid's share of the current at equal volts lies between 0 and 0.9");
  const auto& [a, b, c] = points;
  // The knee couples all: mu and G for a knee, the knee for those, until nothing moves.
  TubeLaw out{0, 0, 0, 0};
  double knee = 0;
  for (int round = 0; round < 200; ++round) {
    const auto space = [&](const CurvePoint& p) { // cathode current by which the plate gets this
      return p.plate_a * (1 + knee / p.plate_v) + out.grid_perveance * std::pow(std::max(0.0, p.grid_v), 1.5);
    };
    const double u = std::pow(space(a), 2.0 / 3), w = std::pow(space(b), 2.0 / 3);
    // u/w = (vga + vaa/mu) / (vgb + vab/mu)
    const double over = a.plate_v * w - b.plate_v * u, under = b.grid_v * u - a.grid_v * w;
    const double inverse_mu = under / over;
    if (!(inverse_mu > 1e-5 && inverse_mu < 1))
      throw std::invalid_argument(
          "points 1 and 2 do not differ as a triode's do: take them at different grid volts, "
          "beyond the knee");
    out.mu = 1 / inverse_mu;
    const double drive = a.grid_v + a.plate_v * inverse_mu;
    if (!(drive > 0)) throw std::invalid_argument("point 1: at these volts the tube would be cut off");
    out.perveance = space(a) / std::pow(drive, 1.5);
    // Equal volts v: Ik = G (v (1 + 1/mu))^1.5.
    out.grid_perveance = grid_share * out.perveance * std::pow(1 + inverse_mu, 1.5);
    const double drive_c = c.grid_v + c.plate_v * inverse_mu;
    if (!(drive_c > 0)) throw std::invalid_argument("point 3: at these volts the tube would be cut off");
    const double full =
        out.perveance * std::pow(drive_c, 1.5) - out.grid_perveance * std::pow(std::max(0.0, c.grid_v), 1.5);
    const double next = c.plate_v * (full / c.plate_a - 1);
    if (!(next > 0))
      throw std::invalid_argument(
          "point 3 carries all that points 1 and 2 promise: take it at low plate volts, in the knee");
    const double moved = std::abs(next - knee);
    knee += 0.7 * (next - knee);
    if (moved < 1e-9 * next) {
      out.knee_v = knee;
      return out;
    }
  }
  throw std::invalid_argument("no triode goes through these three points");
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

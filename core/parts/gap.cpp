// Gap breakdown; sources in the header.
#include "parts/gap.h"

#include "parts/air.h"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace arc {

double gap_breakdown_v(double spacing_m, double electrode_diameter_m, double air_density, ElectrodeShape shape) {
  const double s = spacing_m * 100, r = electrode_diameter_m * 50; // centimetres
  const double uniform = 24.36e3 * air_density * s + 6.72e3 * std::sqrt(air_density * s);
  if (shape == ElectrodeShape::cylinders) {
    // Largest field over V/s of two cylinders of radius r with axes S = s + 2r apart.
    const double half = s / (2 * r) + 1;
    const double field_factor = std::sqrt(half * half - 1) / std::acosh(half);
    const double peek = 30e3 * air_density * (1 + 0.301 / std::sqrt(air_density * r)) * s;
    return std::max(peek, uniform) / field_factor;
  }
  const double x = s / r + 1;
  const double field_factor = (x + std::sqrt(x * x + 8)) / 4;
  const double peek = 27.2e3 * air_density * (1 + 0.54 / std::sqrt(air_density * r)) * s;
  return std::max(peek, uniform) / field_factor;
}

double series_gaps_v(double one_gap_v, double count) {
  return count > 1 ? 0.9 * count * one_gap_v : one_gap_v;
}

std::optional<double> computed_firing_v(const Gap& gap, const Site& site) {
  if (!gap.spacing_m || !gap.electrode_diameter_m) return {};
  return series_gaps_v(
      gap_breakdown_v(*gap.spacing_m, *gap.electrode_diameter_m, relative_air_density(site), gap.electrode_shape),
      gap.gaps_in_series);
}

std::optional<double> spacing_for_firing_m(const Gap& gap, const Site& site, double firing_v) {
  if (!gap.electrode_diameter_m) return {};
  const auto miss = [&](double spacing) {
    return series_gaps_v(
               gap_breakdown_v(spacing, *gap.electrode_diameter_m, relative_air_density(site), gap.electrode_shape),
               gap.gaps_in_series) -
           firing_v;
  };
  constexpr double least = 1e-5, most = 0.5;
  if (miss(least) > 0 || miss(most) < 0) return {};
  std::uintmax_t steps = 100;
  const auto bracket = boost::math::tools::toms748_solve(
      miss, least, most, [](double a, double b) { return b - a < 1e-7; }, steps);
  return (bracket.first + bracket.second) / 2;
}

std::optional<double> presentations_hz(const Gap& gap) {
  if (!gap.rotary_electrodes || !gap.rotor_speed_hz) return {};
  return *gap.rotary_electrodes * *gap.rotor_speed_hz;
}

namespace {

// H. Ayrton, The Electric Arc (1902): V = A + B l + (C + D l)/I. B, C and D as she measured between carbons (from
// memory); electrodes of metal fall less, 20 to 30 V.
double ayrton_v(double length_m, double amps) {
  constexpr double fall_v = 25, column_v_per_m = 2070, fall_w = 11.7, column_w_per_m = 10500;
  constexpr double least_a = 0.5; // below it no tank rings on
  return fall_v + column_v_per_m * length_m + (fall_w + column_w_per_m * length_m) / std::max(amps, least_a);
}

} // namespace

double arc_drop_v(const Gap& gap, double amps) {
  const bool rotary = presentations_hz(gap).has_value();
  const bool alone = rotary && (!gap.spacing_m || !gap.electrode_diameter_m);
  const double fixed = alone ? 0 : gap.gaps_in_series;
  const double turning = rotary ? 2 : 0; // a rotor's electrode passes two gaps, one on either side of it
  if (gap.arc_drop_v) return *gap.arc_drop_v * (fixed + turning);
  constexpr double breaks_v_per_m = 3e6; // where no spacing is given (common practice)
  const double spacing_m = gap.spacing_m.value_or(gap.firing_voltage_v / gap.gaps_in_series / breaks_v_per_m);
  return fixed * ayrton_v(spacing_m, amps) + turning * ayrton_v(gap.rotor_clearance_m, amps);
}

double GapModel::threshold_v(double time_s) const {
  if (!rotary()) return static_v;
  const double turns = (time_s - first_s) * rate_hz;
  const double away = (turns - std::floor(turns + 0.5)) / rate_hz * speed_m_per_s;
  return static_v + gap_breakdown_v(std::hypot(clearance_m, away), electrode_diameter_m, air_density);
}

double GapModel::dwell_s(double volts) const {
  if (!rotary() || threshold_v(first_s) > volts) return 0;
  double near = 0, far = 0.5 / rate_hz;
  if (threshold_v(first_s + far) <= volts) return 1 / rate_hz;
  for (int i = 0; i < 60; ++i) {
    const double middle = (near + far) / 2;
    (threshold_v(first_s + middle) <= volts ? near : far) = middle;
  }
  return 2 * near;
}

std::string GapModel::spice() const {
  if (!rotary()) return fmt::format("{:.10g}", static_v);
  const std::string turns = fmt::format("((time-{:.10g})*{:.10g})", first_s, rate_hz);
  const std::string away = fmt::format("(({0}-floor({0}+0.5))*{1:.10g})", turns, speed_m_per_s / rate_hz);
  const std::string s = fmt::format("(100*sqrt({:.10g}+{}*{}))", clearance_m * clearance_m, away, away);
  const double r = electrode_diameter_m * 50;
  const std::string x = fmt::format("({}/{:.10g}+1)", s, r);
  return fmt::format("{:.10g}+max({:.10g}*{},{:.10g}*{}+{:.10g}*sqrt({}))*4/({}+sqrt({}*{}+8))", static_v,
                     27.2e3 * air_density * (1 + 0.54 / std::sqrt(air_density * r)), s, 24.36e3 * air_density, s,
                     6.72e3 * std::sqrt(air_density), s, x, x, x);
}

GapModel gap_model(const Gap& gap, const Site& site) {
  GapModel out;
  out.air_density = relative_air_density(site);
  const auto rate = presentations_hz(gap);
  if (!rate) {
    out.static_v = gap.firing_voltage_v;
    return out;
  }
  out.rate_hz = *rate;
  // Locked to the mains: so many degrees after its zero; else anywhere, taken half a presentation after switching
  // on.
  out.first_s = gap.rotor_phase_deg ? *gap.rotor_phase_deg / 360 / site.mains_frequency_hz : 0.5 / *rate;
  out.speed_m_per_s = 2 * std::numbers::pi * gap.rotor_radius_m * *gap.rotor_speed_hz;
  out.clearance_m = gap.rotor_clearance_m;
  constexpr double rod_m = 6e-3;
  out.electrode_diameter_m = gap.electrode_diameter_m.value_or(rod_m);
  if (const auto fixed = computed_firing_v(gap, site)) out.static_v = *fixed;
  return out;
}

} // namespace arc

// Scaling and fitting of the magnetising branch; the shape of the curve is fixed in units of the first knee.
#include "circuit/magnetising.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

// Slopes beyond the knees: a fifth of the unsaturated inductance from the first on, a fiftieth from the second on.
struct Bend {
  double at;             // flux over that of the first knee
  double parallel_share; // of the unsaturated inductance
};
constexpr std::array<Bend, 2> bends{{{1, 1.0 / 4}, {1.2, 1.0 / 45}}};

// RMS current for a sine flux of this peak, both in units of the first knee.
double shape_rms(double peak) {
  constexpr int points = 256;
  double squares = 0;
  for (int i = 0; i < points; ++i) { // a quarter cycle stands for all four
    const double flux = peak * std::sin((i + 0.5) / points * std::numbers::pi / 2);
    double current = flux;
    for (const Bend& bend : bends) current += std::max(0.0, flux - bend.at) / bend.parallel_share;
    squares += current * current;
  }
  return std::sqrt(squares / points);
}

double peak_flux(double volts, double hz) {
  return std::numbers::sqrt2 * volts / (2 * std::numbers::pi * hz);
}

} // namespace

Magnetising magnetising_branch(const CoreData& core) {
  if (!(core.rated_v > 0 && core.rated_hz > 0 && core.idle_a > 0 && core.knee_share > 0))
    throw std::invalid_argument("a core needs rated volts, frequency, idle current and knee above zero");
  const double knee = core.knee_share * peak_flux(core.rated_v, core.rated_hz);
  const double reactive = core.idle_a * std::sqrt(std::max(0.01, 1 - core.loss_share * core.loss_share));
  Magnetising out;
  out.henry = knee * shape_rms(1 / core.knee_share) / reactive;
  for (const Bend& bend : bends) out.knees.push_back({bend.at * knee / out.henry, bend.parallel_share * out.henry});
  out.loss_ohm = core.rated_v / (std::max(0.01, core.loss_share) * core.idle_a);
  return out;
}

double idle_current_a(const Magnetising& branch, double volts, double hz) {
  const double knee_a = branch.knees.front().linear_a;
  const double reactive = knee_a * shape_rms(peak_flux(volts, hz) / (knee_a * branch.henry));
  return std::hypot(reactive, volts / branch.loss_ohm);
}

CoreData fit_core(CoreData core, const std::vector<IdleReading>& readings) {
  std::vector<IdleReading> good;
  for (const IdleReading& r : readings)
    if (r.volts > 0 && r.amps > 0) good.push_back(r);
  if (good.empty()) return core;
  const auto current = [&](const CoreData& c, double volts) {
    return idle_current_a(magnetising_branch(c), volts, c.rated_hz);
  };
  if (good.size() > 1 && std::abs(good[0].volts / good[1].volts - 1) > 0.05) {
    std::ranges::sort(good, {}, &IdleReading::volts);
    const double wanted = good.back().amps / good.front().amps; // the more, the sooner it saturates
    double early = 0.4, late = 3;
    for (int i = 0; i < 60; ++i) {
      core.knee_share = (early + late) / 2;
      (current(core, good.back().volts) / current(core, good.front().volts) > wanted ? early : late) =
          core.knee_share;
    }
  }
  core.idle_a *= good.back().amps / current(core, good.back().volts);
  return core;
}

} // namespace arc

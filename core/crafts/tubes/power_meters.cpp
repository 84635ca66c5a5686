// What a builder watches while the variac comes up.
#include "analysis/analyse.h"
#include "analysis/tank_at_rest.h"
#include "coil/streamer.h"
#include "coil/tapped_primary.h"
#include "crafts/tubes/power_parts.h"
#include "crafts/tubes/tube.h"
#include "file/validity.h"
#include "laws/circuit.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "quantity/parallel.h"
#include "simulation/feed_findings.h"
#include "simulation/ideas.h"
#include "simulation/one_at_a_time.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {

namespace {

// Means of plate and grid current over what the supply swings through, at `share` of its present crest: the balance
// at a dozen rail volts, straight between them.
struct MeterLaw {
  double crest_v = 0; // of the highest setting
  std::vector<double> plate_a, grid_a;
  std::vector<double> swing; // of the rail over its crest, along a period
  double oscillates_from_v = 0;

  TubeMeters at(double crest) const {
    TubeMeters out;
    out.crest_v = crest;
    const auto between = [&](const std::vector<double>& all, double volts) {
      const double place = std::clamp(volts / crest_v, 0.0, 1.0) * static_cast<double>(all.size() - 1);
      const auto low = std::min(static_cast<std::size_t>(place), all.size() - 2);
      const double part = place - static_cast<double>(low);
      return all[low] * (1 - part) + all[low + 1] * part;
    };
    for (const double share : swing) {
      const double volts = share * crest, plate = between(plate_a, volts);
      out.plate_a += plate / static_cast<double>(swing.size());
      out.grid_a += between(grid_a, volts) / static_cast<double>(swing.size());
      out.input_w += plate * volts / static_cast<double>(swing.size());
    }
    out.oscillates = oscillates_from_v > 0 && crest >= oscillates_from_v;
    return out;
  }
};

MeterLaw meter_law(const TubeCircuit& circuit, const TubePower& t, double crest_v, const Work& work) {
  constexpr std::size_t steps = 16;
  MeterLaw law;
  law.crest_v = crest_v;
  law.plate_a.assign(steps + 1, 0);
  law.grid_a.assign(steps + 1, 0);
  std::vector<char> swings(steps + 1, 0);
  parallel_for(steps, [&](std::size_t i) {
    if (work.cancelled) return;
    const double volts = crest_v * static_cast<double>(i + 1) / steps;
    if (const auto b = tube_balance(circuit, volts)) {
      law.plate_a[i + 1] = b->plate_average_a;
      law.grid_a[i + 1] = b->grid_average_a;
      swings[i + 1] = 1;
    } else { // what flows where nothing oscillates, the grid at the cathode's volts
      law.plate_a[i + 1] = tube_currents(circuit.law, volts, 0).plate_a;
    }
  });
  const auto first = std::ranges::find(swings, 1);
  if (first != swings.end()) law.oscillates_from_v = crest_v * static_cast<double>(first - swings.begin()) / steps;
  for (const TubeSample& s : t.run.samples)
    if (s.time_s >= t.run.from_s) law.swing.push_back(std::max(0.0, s.rail_v) / t.crest_v);
  if (law.swing.empty()) law.swing.push_back(1);
  return law;
}

} // namespace

// What a builder watches while the variac comes up.
void read_meters(const Design& d, const Analysis& a, const Work& work, TubePower& out) {
  const FeedBlock* variac = find_block(d.feed, BlockRole::variac);
  if (!variac || !out.on_mains || !out.mains || !out.run.oscillates || !(out.run.plate_average_a > 0)) return;
  const double now = block_value(*variac, "setting");
  if (!(now > 0)) return;
  constexpr std::array settings{0.1, 0.25, 0.5, 0.75, 1.0};
  const MeterLaw law = meter_law(circuit_of(d, a, true), out, out.crest_v * std::max(1.0, 1 / now), work);
  const TubeMeters here = law.at(out.crest_v);
  if (!(here.plate_a > 0) || !(here.input_w > 0)) return;
  double square = 0;
  for (const double share : law.swing) square += share * share / static_cast<double>(law.swing.size());
  std::vector<TubeMeters> meters(settings.size());
  parallel_for(settings.size(), [&](std::size_t i) {
    if (work.cancelled) return;
    TubeMeters& m = meters[i];
    m = law.at(out.crest_v * settings[i] / now);
    m.setting = settings[i];
    m.plate_a *= out.run.plate_average_a / here.plate_a;
    m.grid_a *= here.grid_a > 0 ? out.run.grid_average_a / here.grid_a : 1;
    m.input_w *= out.run.plate_input_w / here.input_w;
    Design turned = d;
    find_block(turned.feed, BlockRole::variac)->values["setting"] = settings[i];
    const double ohm = std::max(10.0, square * m.crest_v * m.crest_v / std::max(m.input_w, 1e-3));
    const FeedLoads loads = simulate_plate_feed(turned.feed, d.site, ohm, d.tube.bypass_f, work.cancelled);
    m.line_a = loads.line_current_a;
  });
  if (!work.cancelled) out.meters = std::move(meters);
}

} // namespace arc

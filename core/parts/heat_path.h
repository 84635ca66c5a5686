// A transistor's way of heat: junction, case, sink and the air, as a ladder of thermal resistances and capacities
// (electrical analogy; JESD51-14 in its Cauer form). Solved exactly for constant dissipation.
#pragma once

#include <optional>
#include <vector>

namespace arc {

/// Kelvin per watt to the next element outwards, the last one to the air, and joules per kelvin of each. One to
/// many elements, the junction first; all above zero.
struct HeatPath {
  std::vector<double> resistance_k_per_w;
  std::vector<double> capacity_j_per_k;
};

/// Kelvin above the air of every element after `time_s` seconds of `watts`, everything cold before.
std::vector<double> rise_after(const HeatPath& path, double watts, double time_s);

/// Kelvin above the air of every element in the long run: watts times the resistances from there outwards.
std::vector<double> final_rises_k(const HeatPath& path, double watts);

/// Of the junction alone.
double final_rise_k(const HeatPath& path, double watts);

/// Seconds until the junction has risen by `limit_k`, to 0.1 %; empty when it never does.
std::optional<double> time_to_rise_s(const HeatPath& path, double watts, double limit_k);

} // namespace arc

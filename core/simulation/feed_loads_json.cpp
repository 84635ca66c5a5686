// A feed's joints and diodes for scripts.
#include "simulation/feed_loads_json.h"

#include <nlohmann/json.hpp>

namespace arc {

Json joints_json(const FeedLoads& loads) {
  Json joints = Json::array();
  for (const JointLoad& j : loads.joints) {
    joints.push_back(
        {{"title", j.title}, {"rms_v", j.rms_v}, {"peak_v", j.peak_v}, {"rms_a", j.rms_a}, {"peak_a", j.peak_a}});
    if (j.insulation_v > 0) joints.back()["insulation_v"] = j.insulation_v;
    if (j.limit_v > 0) joints.back()["limit_v"] = j.limit_v;
    if (j.limit_a > 0) joints.back()["limit_a"] = j.limit_a;
  }
  return joints;
}

Json diodes_json(const FeedLoads& loads) {
  Json diodes = Json::array();
  for (const DiodeLoad& d : loads.diodes)
    diodes.push_back({{"title", d.title},
                      {"inverse_v", d.inverse_v},
                      {"limit_v", d.limit_v},
                      {"average_a", d.average_a},
                      {"limit_a", d.limit_a}});
  return diodes;
}

} // namespace arc

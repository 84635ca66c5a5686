// Proposals for scripts.
#include "file/design_file.h"
#include "quantity/json_text.h"
#include "workshop/proposals.h"

#include <nlohmann/json.hpp>

namespace arc {

Json proposals_json(const Proposals& proposals, const ProposeOptions& options, double seconds) {
  Json out{{"format", "high-arc-proposals"}, {"version", 1},
           {"seed", options.seed},           {"seconds", seconds},
           {"tried", proposals.tried},       {"proposals", Json::array()},
           {"refused", Json::array()}};
  const auto given = [](const std::optional<double>& value) { return value ? Json(*value) : Json(); };
  for (const Proposal& p : proposals.proposals) {
    const CoilFigures& f = p.figures;
    Json one{{"name", p.name},
             {"character", p.character},
             {"reason", p.reason},
             {"design", Json::parse(write_design(p.design))},
             {"figures",
              {{"arc_low_m", f.arc_low_m},
               {"arc_high_m", f.arc_high_m},
               {"power_w", f.power_w},
               {"line_current_a", given(f.line_current_a)},
               {"height_m", f.height_m},
               {"floor_diameter_m", f.floor_diameter_m},
               {"resonance_hz", f.resonance_hz},
               {"price", given(f.price)},
               {"mass_kg", f.mass_kg},
               {"winding_hours", f.winding_hours}}},
             {"owned", Json::array()},
             {"buy", Json::array()},
             {"stops", p.stops},
             {"warnings", p.warnings}};
    for (const OwnedPart& part : p.owned)
      one["owned"].push_back({{"group", part.group}, {"name", part.name}, {"count", part.count}});
    for (const PartToBuy& part : p.buy)
      one["buy"].push_back({{"group", part.group},
                            {"what", part.what},
                            {"count", part.count},
                            {"price", given(part.price)},
                            {"unpriced", part.price ? 0 : part.count}});
    out["proposals"].push_back(std::move(one));
  }
  for (const BriefRefusal& r : proposals.refused)
    out["refused"].push_back(
        {{"limit", r.limit}, {"of", r.kinds}, {"nearest", given(r.nearest)}, {"relax_to", given(r.relax_to)}});
  if (!proposals.few.empty()) out["few"] = proposals.few;
  return out;
}

} // namespace arc

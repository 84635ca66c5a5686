// High Arc against general-purpose programs: axisymmetric finite elements and full-wave wire antennas. The numbers
// are data made by scripts/make-references; `scripts/make-references --check` solves some of them anew.
#include "field/boundary.h"
#include "parts/topload.h"
#include "support.h"
#include <nlohmann/json.hpp>

using namespace arc;

namespace {

Json references() {
  return Json::parse(read_text(HIGH_ARC_TEST_DATA "/reference-programs.json"));
}

// Finite elements lie above the truth (they minimise energy from above), boundary elements below: 0.5 % holds both.
TEST(reference_programs, toploads_over_a_winding_agree_with_finite_elements) {
  int compared = 0;
  const Json all = references();
  for (const Json& item : all["capacitances"]) {
    ToploadPart part;
    part.shape = item["shape"];
    for (const ToploadLength& length : topload_shape(part.shape)->lengths)
      part.*length.member = item[std::string(length.key)];
    std::vector<Piece> pieces;
    constexpr int cuts = 80;
    const double low = item["winding_low_m"], high = item["winding_high_m"], radius = item["winding_radius_m"];
    for (int i = 0; i < cuts; ++i)
      pieces.push_back(
          {radius, low + (high - low) * i / cuts, radius, low + (high - low) * (i + 1) / cuts, 0, 0, 0});
    const auto body = outline_pieces(topload_shape(part.shape)->outline(part, 64), item["centre_height_m"], 1);
    pieces.insert(pieces.end(), body.begin(), body.end());
    const double computed = solve_capacitance(pieces, 2, Ground::floor).maxwell_f(1, 1);
    expect_close(computed, item["capacitance_f"], 0.005, item["name"]);
    EXPECT_LT(computed, item["capacitance_f"].get<double>());
    ++compared;
  }
  EXPECT_EQ(compared, 2);
}

// 1 %: the line model knows no radiation and no lead from the ground to the first turn. The disc is a net of wires
// in full wave: finer meshes lower it (23.75, 23.60, towards 23.5 MHz).
TEST(reference_programs, spaced_helices_agree_with_full_wave_within_one_percent) {
  int compared = 0;
  const Json all = references();
  for (const Json& item : all["helices"]) {
    Design d = demo_design();
    d.site = Site{};
    d.measurements.clear();
    d.secondary.wire_bare_diameter_m = item["wire_m"];
    d.secondary.wire_overall_diameter_m = item["wire_m"];
    d.secondary.form_diameter_m = 2 * item["radius_m"].get<double>() - item["wire_m"].get<double>();
    d.secondary.turns = item["turns"];
    d.secondary.winding_length_m = item["length_m"];
    d.secondary.base_height_m = item["base_m"];
    d.topload.clear();
    if (item.contains("disc_radius_m")) {
      ToploadPart disc;
      disc.shape = "disc";
      disc.diameter_m = 2 * item["disc_radius_m"].get<double>();
      disc.centre_above_winding_m = item["disc_above_m"];
      d.topload.push_back(disc);
    }
    FieldStep step = field_step(d);
    const double ordinary_hz = field_resonator(step).mode_1_hz;
    step.metal_floor = true; // the full wave's ground is one
    const double hz = field_resonator(step).mode_1_hz;
    EXPECT_GT(hz, ordinary_hz) << "currents in the floor take inductance away";
    RecordProperty(item["name"].get<std::string>(), std::to_string(hz));
    expect_close(hz, item["full_wave_hz"], 0.01, item["name"]);
    ++compared;
  }
  EXPECT_EQ(compared, 5);
}

} // namespace

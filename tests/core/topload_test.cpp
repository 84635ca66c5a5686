// Stacked, drawn and imported toploads, and the room around them.
#include "coil/geometry.h"
#include "parts/profile_import.h"
#include "parts/topload.h"
#include "support.h"

#include <nlohmann/json.hpp>
#include <numbers>

using namespace arc;
using testing::HasSubstr;

namespace {

ToploadPart toroid(double outer, double tube, double centre) {
  ToploadPart part;
  part.outer_diameter_m = outer;
  part.tube_diameter_m = tube;
  part.centre_above_winding_m = centre;
  return part;
}

ToploadPart sphere(double diameter, double centre) {
  ToploadPart part;
  part.shape = "sphere";
  part.diameter_m = diameter;
  part.centre_above_winding_m = centre;
  return part;
}

TEST(stack, parts_that_cross_are_named_and_the_remedy_parts_them) {
  Design d = demo_design();
  d.topload.push_back(sphere(0.2, 0.16));
  EXPECT_FALSE(crossing_parts(d.topload)) << "a ball in the hole of the ring does not cross it";
  d.topload.push_back(toroid(0.3, 0.08, 0.1));
  const Analysis a = analyse(d);
  const Finding* finding = find(a, "topload-parts-cross");
  ASSERT_NE(finding, nullptr);
  EXPECT_THAT(finding->title, HasSubstr("overlap"));
  ASSERT_TRUE(a.resonator) << "joined metal still has a capacitance";
}

TEST(stack, a_part_inside_another_counts_as_crossing) {
  EXPECT_TRUE(crossing_parts({sphere(0.4, 0.3), sphere(0.1, 0.3)}));
  EXPECT_FALSE(crossing_parts({sphere(0.4, 0.3), sphere(0.1, 0.5501)}));
}

TEST(stack, the_lift_is_where_two_balls_touch) { // centres one diameter apart; 48 straight pieces: 0.5 %
  const double lift = lift_to_clear(sphere(0.2, 0.3), sphere(0.2, 0.35));
  EXPECT_NEAR(0.35 + lift, 0.5, 1e-3);
  EXPECT_EQ(lift_to_clear(sphere(0.2, 0.3), sphere(0.2, 0.6)), 0);
}

TEST(stack, a_hidden_part_adds_no_capacitance) { // Faraday: inside of a conductor there is no field
  const double alone = body_capacitance_f({sphere(0.4, 0)}, 48, 2, Ground::floor);
  expect_close(body_capacitance_f({sphere(0.4, 0), sphere(0.1, 0)}, 48, 2, Ground::floor), alone, 1e-3);
}

TEST(stack, the_same_part_twice_is_refused_by_name) {
  Design d = demo_design();
  d.topload.push_back(d.topload[0]);
  EXPECT_THAT(geometry_problem(d, UnitSystem::metric), HasSubstr("parts 1 and 2 are in the same place"));
  EXPECT_FALSE(analyse(d).resonator);
}

TEST(room, what_reaches_into_the_wall_is_named) {
  Design d = demo_design();
  d.site.wall_distance_m = 0.21;
  EXPECT_THAT(geometry_problem(d, UnitSystem::metric), HasSubstr("the primary reaches into the wall"));
  d.primary.turns = 3;
  d.site.wall_distance_m = 0.19;
  EXPECT_THAT(geometry_problem(d, UnitSystem::metric), HasSubstr("the topload reaches into the wall"));
}

TEST(room, a_nearer_wall_or_ceiling_lowers_the_resonance) {
  Design d = demo_design();
  d.site.ceiling_height_m.reset();
  d.site.wall_distance_m.reset();
  double before = field_resonator(d).mode_1_hz;
  for (const double wall : {3.0, 1.5, 1.0, 0.7, 0.5}) {
    d.site.wall_distance_m = wall;
    const double now = field_resonator(d).mode_1_hz;
    EXPECT_LT(now, before) << wall;
    before = now;
  }
}

// A closed grounded can around a sphere: concentric spheres are 4 pi eps0 / (1/a - 1/b); a can of equal radius and
// half height holds between those of the inscribed and the circumscribed sphere.
TEST(room, a_can_around_a_ball_lies_between_two_concentric_spheres) {
  std::vector<Piece> pieces = outline_pieces(topload_shape("sphere")->outline(sphere(0.2, 0), 48), 1, 0);
  ToploadPart can;
  can.shape = "cylinder";
  can.diameter_m = 0.8;
  can.height_m = 0.8;
  const auto around = outline_pieces(topload_shape("cylinder")->outline(can, 96), 1, 1);
  pieces.insert(pieces.end(), around.begin(), around.end());
  const double c = solve_capacitance(pieces, 2, Ground::none).maxwell_f(0, 0);
  const auto concentric = [](double b) { return 4 * std::numbers::pi * eps0_f_per_m / (1 / 0.1 - 1 / b); };
  EXPECT_LT(c, concentric(0.4));
  EXPECT_GT(c, concentric(0.4 * std::numbers::sqrt2));
}

TEST(capacitance_of_coaxial_bodies, concentric_spheres_and_long_cylinders_are_exact) {
  std::vector<Piece> pieces = outline_pieces(topload_shape("sphere")->outline(sphere(0.2, 0), 48), 1, 0);
  const auto shell = outline_pieces(topload_shape("sphere")->outline(sphere(0.5, 0), 48), 1, 1);
  pieces.insert(pieces.end(), shell.begin(), shell.end());
  expect_close(-solve_capacitance(pieces, 2, Ground::none).maxwell_f(0, 1),
               4 * std::numbers::pi * eps0_f_per_m / (1 / 0.1 - 1 / 0.25), 3e-3);
  // Charge on the middle of a long coaxial pair: 2 pi eps0 / ln(b/a) per metre.
  std::vector<Piece> pair;
  constexpr int cuts = 120;
  for (const auto& [radius, body] : {std::pair{0.05, std::size_t{0}}, std::pair{0.15, std::size_t{1}}})
    for (int i = 0; i < cuts; ++i)
      pair.push_back({radius, 1 + 3.0 * i / cuts, radius, 1 + 3.0 * (i + 1) / cuts, body, 0, 0});
  const auto solved = solve_capacitance(pair, 2, Ground::none);
  const double middle = solved.charge_c(cuts / 2, 0) / (3.0 / cuts);
  expect_close(middle, 2 * std::numbers::pi * eps0_f_per_m / std::log(3.0), 3e-3);
}

TEST(profile, a_drawn_half_circle_is_a_sphere) {
  const char* drawing =
      R"(<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 A100 100 0 0 1 0 200"/></svg>)"; // 1 unit is 1 mm
  ToploadPart part;
  part.shape = "profile";
  part.points_m = profile_from_svg(drawing);
  part.centre_above_winding_m = 0.3;
  EXPECT_NEAR(part.points_m.front()[1], 0.2, 1e-9) << "the drawing's top comes first";
  EXPECT_NEAR(topload_extent(part).radius_m, 0.1, 5e-4);
  expect_close(body_capacitance_f({part}, 96, 1, Ground::none), sphere_capacitance_f(0.1), 5e-3);
}

TEST(profile, all_path_commands_are_read) {
  const auto points = profile_from_svg(
      R"(<svg xmlns="http://www.w3.org/2000/svg"><g><path d="m 0,0 h 40 v 10 l -10,10 q 5,5 0,10 c 0,4 -10,4 -10,8 H 0"/></g></svg>)");
  EXPECT_GT(points.size(), 6u);
  EXPECT_NEAR(points[1][0], 0.04, 1e-9);
  EXPECT_NEAR(points.back()[0], 0, 1e-9);
  EXPECT_NEAR(points.back()[1], 0, 1e-9) << "y runs down in a drawing: the last point is the lowest";
}

TEST(profile, a_table_of_points_takes_its_unit_from_the_header) {
  const auto mm = profile_from_csv("0,0\n50,0\n50,30\n0,30\n");
  const auto inches = profile_from_csv("radius_in,height_in\n0,0\n2,0\n2,1.5\n0,1.5\n");
  ASSERT_EQ(mm.size(), 4u);
  EXPECT_NEAR(mm[2][0], 0.05, 1e-12);
  EXPECT_NEAR(inches[2][0], 0.0508, 1e-12);
  EXPECT_NEAR(inches[2][1], 0.0381, 1e-12);
}

TEST(profile, points_on_a_line_are_thinned_out) {
  std::string text;
  for (int i = 0; i <= 200; ++i) text += std::to_string(10 + i * 0.5) + "," + std::to_string(i * 0.25) + "\n";
  EXPECT_EQ(profile_from_csv(text).size(), 2u);
}

TEST(profile, bad_files_say_what_is_wrong_and_where) {
  const auto complaint = [](auto&& read) -> std::string {
    try {
      read();
    } catch (const ProfileError& error) {
      return error.what();
    }
    return "accepted";
  };
  EXPECT_THAT(complaint([] { profile_from_csv("radius_ft,height_ft\n1,2\n"); }), HasSubstr("names no unit"));
  EXPECT_THAT(complaint([] { profile_from_csv("0,0\n10,abc\n"); }), HasSubstr("row 2"));
  EXPECT_THAT(complaint([] { profile_from_csv("0,0\n-10,5\n"); }), HasSubstr("left of the axis"));
  EXPECT_THAT(complaint([] { profile_from_csv("10,10\n"); }), HasSubstr("at least two points"));
  EXPECT_THAT(complaint([] { profile_from_csv("10,10\n10,10\n"); }), HasSubstr("the same"));
  EXPECT_THAT(complaint([] { profile_from_csv("\"10,10\n"); }), HasSubstr("quotation mark"));
  EXPECT_THAT(complaint([] { profile_from_svg("<svg></svg>"); }), HasSubstr("holds no path"));
  EXPECT_THAT(complaint([] { profile_from_svg("<svg><path d=\"M0 0 L"); }), HasSubstr("cannot be read"));
  EXPECT_THAT(complaint([] { profile_from_svg("<html></html>"); }), HasSubstr("not an SVG"));
  EXPECT_THAT(
      complaint([] { profile_from_svg("<svg><g transform=\"scale(2)\"><path d=\"M0 0 L9 9\"/></g></svg>"); }),
      HasSubstr("transforms"));
}

TEST(variants, kept_toploads_survive_a_round_trip_with_unknown_keys) {
  Design d = demo_design();
  d.topload_variants = {{"Ball", {sphere(0.25, 0.14)}, Json{{"mood", "hopeful"}}}};
  const Design back = read_design(write_design(d));
  EXPECT_EQ(back, d);
  EXPECT_EQ(back.topload_variants[0].unknown.json()["mood"], "hopeful");
}

} // namespace

// Stacked, drawn and imported toploads, and the room around them.
#include "analysis/analyse.h"
#include "coil/geometry.h"
#include "field/boundary.h"
#include "parts/path_data.h"
#include "parts/profile_import.h"
#include "parts/topload.h"
#include "support.h"

#include <cmath>
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

// A drawing of one path.
std::string drawn(const std::string& data) {
  return "<svg xmlns=\"http://www.w3.org/2000/svg\"><path d=\"" + data + "\"/></svg>";
}

// The grammar of SVG 1.1, section 8.3: a small letter counts from where the pen is.
TEST(profile, small_and_capital_letters_draw_the_same) {
  for (const auto& [capital, small] : std::vector<std::pair<const char*, const char*>>{
           {"M10 0 L40 5 20 30", "m10 0 l30 5 -20 25"},
           {"M10 0 H40 V30 H0", "m10 0 h30 v30 h-40"},
           {"M10 0 C20 0 40 10 40 20 S20 40 10 40", "m10,0c10,0 30,10 30,20s-20,20 -30,20"},
           {"M10 0 Q40 0 40 20 T10 50", "m10 0q30 0 30 20t-30 30"},
           {"M10 0 A20 15 30 1 1 30 25 L0 40", "m10 0a20 15 30 1120 25l-30 15"},
           {"M10 0 L40 20 L10 40 Z", "m10 0 30 20-30 20z"}}) {
    const auto a = profile_from_svg(drawn(capital)), b = profile_from_svg(drawn(small));
    ASSERT_EQ(a.size(), b.size()) << capital;
    for (std::size_t i = 0; i < a.size(); ++i) {
      EXPECT_NEAR(a[i][0], b[i][0], 1e-12) << capital;
      EXPECT_NEAR(a[i][1], b[i][1], 1e-12) << capital;
    }
  }
}

// Length of a flattened curve against its closed form: a circle's arc, and Simpson's rule on a cubic and a
// parabola.
// Sixteen chords of a curve are up to two thousandths shorter.
TEST(profile, curves_keep_their_length) {
  const auto length = [](const char* data) {
    const auto points = first_subpath(data, 20000);
    double sum = 0;
    for (std::size_t i = 1; i < points.size(); ++i)
      sum += std::hypot(points[i][0] - points[i - 1][0], points[i][1] - points[i - 1][1]);
    return sum;
  };
  constexpr double pi = std::numbers::pi;
  expect_close(length("M0 0 A50 50 0 0 1 100 0"), 50 * pi, 2e-3);  // half a circle
  expect_close(length("M0 0 A50 50 0 1 0 50 -50"), 75 * pi, 2e-3); // the long way round
  expect_close(length("M0 0 A50 50 0 0 1 50 -50"), 25 * pi, 2e-3); // the short one
  expect_close(length("M0 0 A1 1 0 0 1 100 0"), 50 * pi, 2e-3);    // a radius too small is made to reach
  expect_close(length("M0 0 A1e-200 1e-200 0 0 1 30 40"), 50, 1e-12);
  expect_close(length("M0 0 A0 9 0 0 1 30 40"), 50, 1e-12);          // no radius: a line
  expect_close(length("M0 0 A40 20 30 0 0 60 10 A40 20 30 0 0 0 0"), // an ellipse of which both arcs are seen
               length("M60 10 A40 20 30 0 0 0 0 A40 20 30 0 0 60 10"), 1e-9);
  const auto speed = [](auto at) {
    double sum = 0; // of the slope's length over the parameter
    constexpr int n = 2000;
    for (int i = 0; i <= n; ++i) sum += at(static_cast<double>(i) / n) * (i == 0 || i == n ? 1 : i % 2 ? 4 : 2);
    return sum / 3 / n;
  };
  expect_close(length("M0 0 Q60 0 60 60"), speed([](double t) { return 120 * std::hypot(1 - t, t); }), 2e-3);
  expect_close(length("M0 0 C60 0 60 30 0 30"),
               speed([](double t) { return std::hypot(180 * (1 - t) * (1 - t) - 180 * t * t, 180 * t * (1 - t)); }),
               2e-3);
  expect_close(length("M0 0 C60 0 60 30 0 30 S-60 60 0 60"), 2 * length("M0 0 C60 0 60 30 0 30"), 1e-9);
  expect_close(length("M0 0 Q60 0 60 60 T120 120"), 2 * length("M0 0 Q60 0 60 60"), 1e-9);
  expect_close(length("M0 0 A10 10 0 0 1 20 0 S40 0 50 0"), 10 * pi + 30, 2e-3); // an arc leaves no handle
}

TEST(profile, transforms_of_path_and_groups_are_applied_inner_first) {
  const auto place = [](const char* transform) { return transform_of(transform)({3, 4}); };
  using testing::DoubleNear;
  using testing::ElementsAre;
  const auto at = [](double x, double y) { return ElementsAre(DoubleNear(x, 1e-12), DoubleNear(y, 1e-12)); };
  EXPECT_THAT(place(""), at(3, 4));
  EXPECT_THAT(place("translate(10)"), at(13, 4));
  EXPECT_THAT(place("translate(10,-1)"), at(13, 3));
  EXPECT_THAT(place("scale(2)"), at(6, 8));
  EXPECT_THAT(place("scale(2 -1)"), at(6, -4));
  EXPECT_THAT(place("rotate(90)"), at(-4, 3));
  EXPECT_THAT(place("rotate(90, 3, 0)"), at(-1, 0));
  EXPECT_THAT(place("skewX(45)"), at(7, 4));
  EXPECT_THAT(place("skewY(45)"), at(3, 7));
  EXPECT_THAT(place("matrix(1 2 3 4 5 6)"), at(20, 28)) << "columns: a b, c d, e f";
  EXPECT_THAT(place("translate(10 0), scale(2)"), at(16, 8)) << "the last one first";
  EXPECT_THAT(place("matrix(6.1e-17 1 -1 6.1e-17 0 0)"), at(-4, 3))
      << "a quarter turn as drawing programs write it";
  const auto plain = profile_from_svg(drawn("M0 0 L40 0 L40 60 L0 60"));
  const auto moved = profile_from_svg(
      "<svg transform='translate(5 0)'><g transform='scale(2)'><path transform='translate(-2.5 7)' "
      "d='M0 0 L20 0 L20 30 L0 30'/></g></svg>");
  EXPECT_EQ(plain, moved);
}

TEST(profile, the_first_path_that_is_drawn_counts_whatever_stands_around_it) {
  const auto points = profile_from_svg(
      "<?xml version='1.0'?><!DOCTYPE svg><svg:svg xmlns:svg='http://www.w3.org/2000/svg'><svg:defs><svg:path "
      "d='M0 0 L1 1'/></svg:defs><!-- <path d='M0 0 L2 2'/> --><svg:path d=''/><svg:rect width='9'/><svg:g>"
      "<svg:path d='M5 5 M 0 0 H 30 V 20 H 0 M 9 9 L 50 50'/></svg:g></svg:svg>");
  ASSERT_EQ(points.size(), 4u) << "a move alone draws nothing, and the second subpath is another one";
  EXPECT_NEAR(points[1][0], 0.03, 1e-12);
}

// As deep as a file may be large: nothing walks the tree by calling itself.
TEST(profile, a_drawing_of_any_depth_opens) {
  for (const char* group : {"<g>", "<g id=\"/>\">", "<g transform=\"scale(1)\">"}) {
    const std::size_t depth = 4000000 / (std::string_view(group).size() + 4);
    std::string text = "<svg>";
    for (std::size_t i = 0; i < depth; ++i) text += group;
    text += "<path d='M0 0 L30 0 L30 20 L0 20'/>";
    for (std::size_t i = 0; i < depth; ++i) text += "</g>";
    EXPECT_EQ(profile_from_svg(text + "</svg>").size(), 4u) << group;
  }
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
      complaint([] { profile_from_svg("<svg><g transform=\"bend(2)\"><path d=\"M0 0 L9 9\"/></g></svg>"); }),
      HasSubstr("“bend”"));
  for (const char* wrong : {"L5 5", "M0 0 L5", "M0 0 L,5 5", "M0 0 X5", "M0 0 A5 5 0 2 0 9 9", "M0 0 L1e7 5"})
    EXPECT_THAT(complaint([&] { profile_from_svg(drawn(wrong)); }), HasSubstr("path cannot be read")) << wrong;
}

TEST(variants, kept_toploads_survive_a_round_trip_with_unknown_keys) {
  Design d = demo_design();
  d.topload_variants = {{"Ball", {sphere(0.25, 0.14)}, Json{{"mood", "hopeful"}}}};
  const Design back = read_design(write_design(d));
  EXPECT_EQ(back, d);
  EXPECT_EQ(back.topload_variants[0].unknown.json()["mood"], "hopeful");
}

} // namespace

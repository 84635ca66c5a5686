// Prints the verification table of docs/methods/verification.md: computed against exact, published or independently
// solved values. Run by scripts/make-verification-table; the core tests check the same things with tolerances.
#include "analysis/analyse.h"
#include "coil/analysis.h"
#include "evidence/tuning.h"
#include "field/boundary.h"
#include "field/handbook.h"
#include "file/design_file.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "quantity/gauge.h"
#include "simulation/figures.h"

#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>
#include <numbers>

using namespace arc;

namespace {

Json read_json(const std::string& path) {
  std::ifstream in(path);
  return Json::parse(std::string{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()});
}

void row(const std::string& what, double computed, double reference, double unit, const char* symbol,
         const std::string& source) {
  fmt::print("| {} | {:.5g} {} | {:.5g} {} | {:+.2f} % | {} |\n", what, computed / unit, symbol, reference / unit,
             symbol, (computed / reference - 1) * 100, source);
}

ToploadPart part(const char* shape, double size, double tube = 0) {
  ToploadPart p;
  p.shape = shape;
  p.outer_diameter_m = p.diameter_m = size;
  p.tube_diameter_m = tube;
  return p;
}

void bodies() {
  const auto alone = [](const ToploadPart& p) { return body_capacitance_f({p}, 64, 1, Ground::none); };
  row("sphere, 0.2 m", alone(part("sphere", 0.2)), sphere_capacitance_f(0.1), 1e-12, "pF", "4 pi eps0 R");
  row("thin disc, 0.4 m", alone(part("disc", 0.4)), disc_capacitance_f(0.2), 1e-12, "pF", "8 eps0 R");
  row("toroid, 0.8 m, tube 0.2 m", alone(part("toroid", 0.8, 0.2)), 34.4006e-12, 1e-12, "pF",
      "half-integer Legendre series");
  row("toroid, 0.2667 m, tube 0.0635 m", alone(part("toroid", 0.2667, 0.0635)), 11.3778e-12, 1e-12, "pF",
      "half-integer Legendre series");
  row("sphere, 0.2 m, centre 0.3 m over a plane", body_capacitance_f({part("sphere", 0.2)}, 64, 0.3, Ground::floor),
      13.3647e-12, 1e-12, "pF", "series of images");
}

void coils(const Json& cases) {
  for (const Json& item : cases) {
    const Design d = read_design(item["design"].dump());
    const Analysis a = analyse(d);
    const Json& expect = item["expect"];
    for (const char* key : {"mode_1_hz", "mode_2_hz", "coupling"}) {
      const Figure& figure = figure_at_rest(key);
      const bool hertz = figure.dimension == Dimension::frequency;
      row(fmt::format("{}: {}", d.name, figure.title), *figure_value(figure, at_rest(d, a)), expect[key],
          hertz ? 1e3 : 1, hertz ? "kHz" : "", "independent program");
    }
  }
}

// The full wave's ground carries currents.
FieldStep over_metal(const Design& design) {
  FieldStep step = field_step(design);
  step.metal_floor = true;
  return step;
}

void programs(const Json& stored) {
  for (const Json& item : stored["capacitances"]) {
    ToploadPart p;
    p.shape = item["shape"];
    for (const ToploadLength& length : topload_shape(p.shape)->lengths)
      p.*length.member = item[std::string(length.key)];
    std::vector<Piece> pieces;
    const double low = item["winding_low_m"], high = item["winding_high_m"], radius = item["winding_radius_m"];
    for (int i = 0; i < 80; ++i)
      pieces.push_back({radius, low + (high - low) * i / 80, radius, low + (high - low) * (i + 1) / 80, 0, 0, 0});
    const auto body = outline_pieces(topload_shape(p.shape)->outline(p, 64), item["centre_height_m"], 1);
    pieces.insert(pieces.end(), body.begin(), body.end());
    row(item["name"], solve_capacitance(pieces, 2, Ground::floor).maxwell_f(1, 1), item["capacitance_f"], 1e-12,
        "pF", "axisymmetric finite elements");
  }
  for (const Json& item : stored["helices"]) {
    Design d;
    d.secondary = {2 * item["radius_m"].get<double>() - item["wire_m"].get<double>(),
                   item["turns"],
                   item["length_m"],
                   item["wire_m"],
                   item["wire_m"],
                   item["base_m"],
                   {}};
    if (item.contains("disc_radius_m")) {
      d.topload = {part("disc", 2 * item["disc_radius_m"].get<double>())};
      d.topload[0].centre_above_winding_m = item["disc_above_m"];
    }
    row("helix, " + item["name"].get<std::string>(), field_resonator(over_metal(d)).mode_1_hz, item["full_wave_hz"],
        1e6, "MHz", "full-wave wire antenna code, pieces of the circle's area");
  }
}

} // namespace

int main() {
  fmt::print("# Verification\n\nMade by `scripts/make-verification-table`; do not edit. The tests hold the same "
             "comparisons to their tolerances.\n\n"
             "| what | High Arc | reference | off | reference from |\n|---|---|---|---|---|\n");
  for (const auto& [ratio, value] : {std::pair{0.2, 0.92009}, {0.5, 0.81814}, {1.0, 0.68842}, {2.0, 0.52551}})
    row(fmt::format("Nagaoka coefficient, D/l = {}", ratio), nagaoka_coefficient(ratio), value, 1, "",
        "Nagaoka 1909");
  row("28 AWG", awg_to_diameter_m(28), 0.3211e-3, 1e-3, "mm", "ASTM B258");
  bodies();
  coils(read_json(HIGH_ARC_TEST_DATA "/reference-coils.json"));
  programs(read_json(HIGH_ARC_TEST_DATA "/reference-programs.json"));
}

// Profile files. The drawing's XML is read by pugixml.
#include "parts/profile_import.h"

#include "parts/path_data.h"
#include "quantity/csv_rows.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <pugixml.hpp>
#include <string>

namespace arc {
namespace {

constexpr std::size_t most_drawn_points = 20000; // before thinning out
constexpr std::size_t largest_drawing_bytes = 4u << 20;

// Names may carry a prefix for their namespace.
bool is_called(const pugi::xml_node& node, std::string_view name) {
  const std::string_view whole = node.name();
  const std::size_t colon = whole.find(':');
  return whole.substr(colon == std::string_view::npos ? 0 : colon + 1) == name;
}

// The next element in the file's order; what stands in elements other than groups is not drawn where it stands.
pugi::xml_node next_element(pugi::xml_node node) {
  if (is_called(node, "svg") || is_called(node, "g"))
    if (const pugi::xml_node child = node.first_child()) return child;
  while (node && !node.next_sibling()) node = node.parent();
  return node.next_sibling();
}

// Points of the first path that has some, all transforms around it applied.
ProfilePoints drawn_points(const pugi::xml_node& root) {
  for (pugi::xml_node node = root; node; node = next_element(node)) {
    if (!is_called(node, "path")) continue;
    ProfilePoints points = first_subpath(node.attribute("d").value(), most_drawn_points);
    if (points.empty()) continue;
    Affine place;
    for (pugi::xml_node around = node; around; around = around.parent())
      if (const pugi::xml_attribute transform = around.attribute("transform"))
        place = transform_of(transform.value()) * place;
    for (auto& point : points) point = place(point);
    return points;
  }
  return {};
}

// The point between two that lies farthest from their line; the first one when all lie within `tolerance`.
std::size_t farthest(const ProfilePoints& points, std::size_t first, std::size_t last, double tolerance) {
  double worst = 0;
  std::size_t at = first;
  const double dx = points[last][0] - points[first][0], dy = points[last][1] - points[first][1];
  const double length = std::hypot(dx, dy);
  for (std::size_t i = first + 1; i < last; ++i) {
    const double x = points[i][0] - points[first][0], y = points[i][1] - points[first][1];
    const double distance = length > 0 ? std::abs(x * dy - y * dx) / length : std::hypot(x, y);
    if (distance > worst) {
      worst = distance;
      at = i;
    }
  }
  return worst <= tolerance ? first : at;
}

// Drops points that the line through their neighbours passes within `tolerance` (Douglas and Peucker 1973).
void thin_out(const ProfilePoints& points, double tolerance, std::vector<bool>& kept) {
  std::vector<std::pair<std::size_t, std::size_t>> open{{0, points.size() - 1}};
  while (!open.empty()) {
    const auto [first, last] = open.back();
    open.pop_back();
    const std::size_t at = farthest(points, first, last, tolerance);
    if (at == first) continue;
    kept[at] = true;
    open.emplace_back(first, at);
    open.emplace_back(at, last);
  }
}

ProfilePoints settled(ProfilePoints points) {
  if (points.size() < 2) throw ProfileError("the profile needs at least two points");
  if (points.size() > most_drawn_points)
    throw ProfileError(fmt::format("more than {} points; simplify the profile", most_drawn_points));
  for (const auto& [r, z] : points)
    if (!std::isfinite(r) || !std::isfinite(z) || std::max(std::abs(r), std::abs(z)) > 10)
      throw ProfileError("the profile is larger than 10 m; is its unit right?");
  double lowest = points.front()[1], highest = lowest, widest = 0;
  for (const auto& [r, z] : points) {
    lowest = std::min(lowest, z);
    highest = std::max(highest, z);
    widest = std::max(widest, r);
  }
  const double size = std::max(widest, highest - lowest);
  if (!(size > 0)) throw ProfileError("the profile has no size");
  for (std::size_t i = 0; i < points.size(); ++i) {
    if (points[i][0] < -1e-3 * size)
      throw ProfileError(
          fmt::format("point {} lies left of the axis; draw only the right half, with x = 0 on the axis", i + 1));
    points[i] = {std::max(0.0, points[i][0]), points[i][1] - lowest};
  }
  std::vector<bool> kept(points.size(), false);
  kept.front() = kept.back() = true;
  thin_out(points, 2e-3 * size, kept);
  ProfilePoints out;
  for (std::size_t i = 0; i < points.size(); ++i)
    if (kept[i] && (out.empty() || out.back() != points[i])) out.push_back(points[i]);
  if (out.size() < 2) throw ProfileError("all points of the profile are the same");
  if (out.size() > most_profile_points)
    throw ProfileError(fmt::format("{} points remain after thinning out; simplify the drawing to {}", out.size(),
                                   most_profile_points));
  return out;
}

} // namespace

ProfilePoints profile_from_svg(std::string_view text, double unit_m) {
  if (text.size() > largest_drawing_bytes)
    throw ProfileError(
        fmt::format("the drawing is larger than {} MB; save the outline alone", largest_drawing_bytes >> 20));
  pugi::xml_document document;
  const pugi::xml_parse_result read = document.load_buffer(text.data(), text.size());
  if (!read)
    throw ProfileError(fmt::format("the drawing cannot be read ({}); it may be cut off", read.description()));
  const pugi::xml_node root = document.document_element();
  if (!is_called(root, "svg")) throw ProfileError("this is not an SVG drawing; expected an <svg> element");
  ProfilePoints out;
  try {
    out = drawn_points(root);
  } catch (const PathProblem& problem) {
    throw ProfileError(fmt::format(
        "the drawing's path cannot be read: {}; draw it as one path of lines, curves and arcs", problem.what()));
  }
  if (out.empty()) throw ProfileError("the drawing holds no path; draw the right half of the outline as one path");
  for (auto& [x, y] : out) {
    x *= unit_m;
    y *= -unit_m;
  }
  return settled(std::move(out));
}

ProfilePoints profile_from_csv(std::string_view text) {
  CsvRows rows;
  try {
    rows = csv_rows(text);
  } catch (const CsvError& error) {
    throw ProfileError(error.what());
  }
  double unit = 1e-3;
  std::size_t first = 0;
  double ignored = 0;
  if (!rows.empty() && !rows[0].empty() && !csv_number(rows[0][0], ignored)) {
    first = 1;
    const std::string& head = rows[0][0];
    const std::string named = head.substr(
        std::min(head.size(), head.rfind('_') == std::string::npos ? head.size() : head.rfind('_') + 1));
    if (named == "m")
      unit = 1;
    else if (named == "cm")
      unit = 1e-2;
    else if (named == "mm")
      unit = 1e-3;
    else if (named == "in")
      unit = 0.0254;
    else
      throw ProfileError(fmt::format(
          "row 1: the column “{}” names no unit; expected radius_mm, radius_cm, radius_m or radius_in", head));
  }
  ProfilePoints out;
  for (std::size_t r = first; r < rows.size(); ++r) {
    double radius = 0, height = 0;
    if (rows[r].size() < 2 || !csv_number(rows[r][0], radius) || !csv_number(rows[r][1], height))
      throw ProfileError(fmt::format("row {}: expected two numbers, radius and height", r + 1));
    out.push_back({radius * unit, height * unit});
  }
  return settled(std::move(out));
}

} // namespace arc

// Profile files. SVG paths are parsed by SVG++ (Boost licence); only the flattening of its curves is here.
#include "parts/profile_import.h"

#include "quantity/csv_rows.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <string>

// SVG++ does not compile cleanly under the project's warnings.
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wshadow"
#pragma GCC diagnostic ignored "-Wconversion"
#pragma GCC diagnostic ignored "-Wpedantic"
#pragma GCC diagnostic ignored "-Wextra"
#pragma GCC diagnostic ignored "-Wall"
#include <rapidxml_ns/rapidxml_ns.hpp>
#include <svgpp/policy/xml/rapidxml_ns.hpp>
#include <svgpp/svgpp.hpp>
#pragma GCC diagnostic pop

namespace arc {
namespace {

constexpr std::size_t most_drawn_points = 20000; // before thinning out
constexpr std::size_t largest_drawing_bytes = 4u << 20;
constexpr int deepest_drawing = 60; // groups inside each other

// The XML reader and the path reader trust what they get: depth and numbers are looked at first.
void check_drawing(std::string_view text) {
  if (text.size() > largest_drawing_bytes)
    throw ProfileError(
        fmt::format("the drawing is larger than {} MB; save the outline alone", largest_drawing_bytes >> 20));
  int depth = 0;
  for (std::size_t at = text.find('<'); at != std::string_view::npos; at = text.find('<', at + 1)) {
    const char next = at + 1 < text.size() ? text[at + 1] : '\0';
    if (next == '?' || next == '!') continue;
    const auto end = text.find('>', at);
    if (next == '/')
      --depth;
    else if (end != std::string_view::npos && text[end - 1] != '/')
      ++depth;
    if (depth > deepest_drawing)
      throw ProfileError(fmt::format("elements nested more than {} deep; ungroup the path first", deepest_drawing));
  }
}

// Every number of the path data: within what a drawing can hold.
void check_numbers(std::string_view data) {
  constexpr double largest = 1e6, smallest = 1e-9;
  for (std::size_t at = 0; at < data.size();) {
    if (std::string_view("0123456789.").find(data[at]) == std::string_view::npos) {
      ++at;
      continue;
    }
    const std::size_t end = std::min(data.find_first_not_of("0123456789.", at), data.size());
    std::size_t stop = end;
    if (stop < data.size() && (data[stop] == 'e' || data[stop] == 'E'))
      stop = std::min(data.find_first_not_of("0123456789", std::min(stop + 2, data.size())), data.size());
    const double value = std::strtod(std::string(data.substr(at, stop - at)).c_str(), nullptr);
    if (!(value <= largest) || (value != 0 && value < smallest))
      throw ProfileError(fmt::format("the path holds the number {}; a drawing in millimetres needs none above {:g}",
                                     data.substr(at, std::min<std::size_t>(stop - at, 20)), largest));
    at = std::max(stop, at + 1);
  }
}

// Receives the path's commands and keeps the first subpath as points.
class PathPoints {
 public:
  void on_enter_element(svgpp::tag::element::any) {}
  void on_exit_element() {}
  void path_move_to(double x, double y, svgpp::tag::coordinate::absolute) {
    if (!points.empty()) done_ = true;
    add(x, y);
  }
  void path_line_to(double x, double y, svgpp::tag::coordinate::absolute) { add(x, y); }
  void path_cubic_bezier_to(double x1, double y1, double x2, double y2, double x, double y,
                            svgpp::tag::coordinate::absolute) {
    if (points.empty()) return;
    const auto [x0, y0] = points.back();
    constexpr int cuts = 16;
    for (int i = 1; i <= cuts; ++i) {
      const double t = static_cast<double>(i) / cuts, u = 1 - t;
      add(u * u * u * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t * t * t * x,
          u * u * u * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t * t * t * y);
    }
  }
  void path_close_subpath() {
    if (!done_ && !points.empty()) add(points.front()[0], points.front()[1]);
  }
  void path_exit() { done_ = done_ || !points.empty(); }

  std::vector<std::array<double, 2>> points;

 private:
  void add(double x, double y) {
    if (done_) return;
    if (points.size() >= most_drawn_points)
      throw ProfileError(fmt::format("the path has more than {} points; simplify the drawing", most_drawn_points));
    points.push_back({x, y});
  }
  bool done_ = false;
};

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
  if (text.find("transform=") != std::string_view::npos)
    throw ProfileError("the drawing uses transforms; apply them to the path in the drawing program first");
  check_drawing(text);
  PathPoints path;
  try {
    std::string copy(text);
    rapidxml_ns::xml_document<> document;
    document.parse<rapidxml_ns::parse_no_string_terminators>(copy.data());
    const auto* root = document.first_node("svg");
    if (!root) throw ProfileError("this is not an SVG drawing; expected an <svg> element");
    for (auto at = text.find(" d="); at != std::string_view::npos; at = text.find(" d=", at + 3)) {
      const auto open = text.find_first_of("\"'", at + 3);
      if (open == std::string_view::npos) break;
      check_numbers(text.substr(open + 1, std::min(text.find(text[open], open + 1), text.size()) - open - 1));
    }
    using Elements = boost::mpl::set<svgpp::tag::element::svg, svgpp::tag::element::g, svgpp::tag::element::path>;
    svgpp::document_traversal<svgpp::processed_elements<Elements>,
                              svgpp::processed_attributes<svgpp::traits::shapes_attributes_by_element>,
                              svgpp::path_policy<svgpp::policy::path::minimal>>::
        load_document(static_cast<const rapidxml_ns::xml_node<>*>(root), path);
  } catch (const ProfileError&) {
    throw;
  } catch (const rapidxml_ns::parse_error& error) {
    throw ProfileError(fmt::format("the drawing cannot be read ({}); it may be cut off", error.what()));
  } catch (const std::exception&) {
    throw ProfileError("the drawing's path cannot be read; draw it as one path of lines, curves and arcs");
  }
  if (path.points.empty())
    throw ProfileError("the drawing holds no path; draw the right half of the outline as one path");
  ProfilePoints out;
  for (const auto& [x, y] : path.points) out.push_back({x * unit_m, -y * unit_m});
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

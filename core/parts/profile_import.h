// Reads the outline of a turned or stacked topload from a drawing (SVG path) or a list of points (CSV).
// Limits: one path; curves are flattened to within 0.2 % of the drawing's size; at most 400 points are kept.
#pragma once

#include <array>
#include <stdexcept>
#include <string_view>
#include <vector>

namespace arc {

/// What is wrong with a profile file and what would be right.
class ProfileError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// [radius, height] in metres, heights counted from the lowest point.
using ProfilePoints = std::vector<std::array<double, 2>>;

inline constexpr std::size_t most_profile_points = 400;

/// The first path of an SVG file, as drawn: with the transforms of itself and of its groups. x is the radius (0 is
/// the axis), y runs down; one user unit is `unit_m` metres (1 mm by default), whatever size the page says.
ProfilePoints profile_from_svg(std::string_view text, double unit_m = 1e-3);

/// Rows of radius and height. The header names both and their unit: "radius_mm,height_mm" (m, cm, mm or in);
/// without a header the numbers are millimetres.
ProfilePoints profile_from_csv(std::string_view text);

} // namespace arc

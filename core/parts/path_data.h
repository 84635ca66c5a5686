// Path data of SVG (W3C, SVG 1.1, section 8.3) as points: lines, curves and arcs, absolute and relative.
#pragma once

#include <array>
#include <stdexcept>
#include <string_view>
#include <vector>

namespace arc {

/// What is wrong with path data.
struct PathProblem : std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// The first subpath that has a line or curve, in the drawing's units; a closed one ends where it began. Each cubic
/// or quadratic curve is cut in 16, an arc into cubics of less than a quarter turn first. Empty when there is none.
/// Throws PathProblem when the data breaks the grammar, holds a number beyond a million, or gives more than
/// `most_points` points.
std::vector<std::array<double, 2>> first_subpath(std::string_view data, std::size_t most_points);

/// x' = a x + c y + e, y' = b x + d y + f, as the attribute `transform` writes it.
struct Affine {
  double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
  std::array<double, 2> operator()(const std::array<double, 2>& p) const {
    return {a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f};
  }
};
/// The second one first.
Affine operator*(const Affine& outer, const Affine& inner);

/// matrix, translate, scale, rotate, skewX and skewY in any number (SVG 1.1, section 7.6). Throws PathProblem for
/// what is none of them.
Affine transform_of(std::string_view attribute);

} // namespace arc

// Registry of topload shapes: what each needs, its outline, and its exact capacitance where one is known.
// Sources: sphere 4 pi eps0 R; disc 8 eps0 R (Maxwell); torus by half-integer Legendre functions (Hicks 1881;
// Morse and Feshbach ch. 10). To add a shape, add one row to the table in topload.cpp.
#pragma once

#include "model/design.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

inline constexpr double eps0_f_per_m = 8.8541878128e-12; // CODATA 2018

/// Capacitance in farads of an isolated sphere of radius R (m).
double sphere_capacitance_f(double radius_m);
/// Capacitance in farads of an isolated thin disc of radius R (m).
double disc_capacitance_f(double radius_m);
/// Capacitance in farads of an isolated ring torus: centre circle radius R, tube radius r (m), R > r > 0.
double torus_capacitance_f(double centre_radius_m, double tube_radius_m);

struct OutlinePoint {
  double radius_m;
  double height_m; // above the winding's top
  bool operator==(const OutlinePoint&) const = default;
};

inline constexpr double least_topload_length_m = 1e-3, most_topload_length_m = 10; // of any one length

struct ToploadLength {
  std::string_view key;
  std::string_view label;
  double ToploadPart::*member;
};

struct ToploadShape {
  std::string_view key;
  std::string_view title;
  std::vector<ToploadLength> lengths; // beside centre_above_winding_m
  /// Half outline (radius >= 0), ordered; closed when the last point equals the first.
  std::vector<OutlinePoint> (*outline)(const ToploadPart&, int pieces);
  /// Exact isolated capacitance, if a closed form exists.
  std::optional<double> (*exact_capacitance_f)(const ToploadPart&);
  /// Empty when the part can exist; otherwise what is wrong and what would be right.
  std::string (*problem)(const ToploadPart&);
  double ToploadPart::*across = nullptr; // its outer diameter; null: its outline is drawn point by point
  double ToploadPart::*tube = nullptr;   // diameter of the tube that it is bent of
  bool is_drawn() const { return !across; }
};

/// All shapes, in the order in which they are offered.
std::span<const ToploadShape> topload_shapes();
/// nullptr when the shape is not known.
const ToploadShape* topload_shape(std::string_view key);

/// Largest radius, lowest and highest point of one part (m, heights above the winding's top).
struct Extent {
  double radius_m;
  double lowest_m;
  double highest_m;
};
Extent topload_extent(const ToploadPart& part);

/// Whether a point (radius, height above the winding's top; m) lies inside of a part.
bool inside_part(const ToploadPart& part, double radius_m, double height_m);

/// Two parts of a topload by their place in the list.
using PartPair = std::pair<std::size_t, std::size_t>;

/// The first two parts whose surfaces cross or of which one lies inside the other; they then act as one body.
/// Parts that only touch do not cross.
std::optional<PartPair> crossing_parts(const std::vector<ToploadPart>& parts);

/// The first two parts with the same outline in the same place: no field can be solved for them.
std::optional<PartPair> coinciding_parts(const std::vector<ToploadPart>& parts);

/// Height in metres by which `upper` must rise to clear `lower` (0 when it does).
double lift_to_clear(const ToploadPart& lower, const ToploadPart& upper);

} // namespace arc

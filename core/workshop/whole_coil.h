// What a whole coil comes to, in the figures that a brief speaks of, and which limits of a brief it passes. One sum
// for what is searched, for variants, for curves and for the finding that a design has left its brief.
#pragma once

#include "simulation/power.h"
#include "workshop/brief.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>

namespace arc {

struct CoilFigures {
  double arc_low_m = 0, arc_high_m = 0; // 0 where nothing breaks out
  double power_w = 0;
  std::optional<double> line_current_a; // RMS; none where nothing comes from the mains
  double height_m = 0, floor_diameter_m = 0;
  double resonance_hz = 0, drive_hz = 0;
  double highest_v = 0;        // at the primary or its tank
  std::optional<double> price; // of what must be bought; none where it is not known
  double mass_kg = 0;          // of the copper
  double winding_hours = 0;    // of the secondary, by crank
};

/// Those that need no simulation; but for the price, which only a search knows.
CoilFigures figures_at_rest_of(const Design& design, const Analysis& analysis);
/// All of them.
CoilFigures figures_of_coil(const Design& design, const Analysis& analysis, const PowerAnalysis& power);

/// Height above the floor and largest diameter of anything of a coil (m).
struct Overall {
  double height_m = 0, diameter_m = 0;
};
Overall overall_size(const Design& design);

/// By which share each limit of the brief, and the room, is passed, by key; but for the price. Empty: all hold.
using Misses = std::map<std::string, double>;
Misses passed_limits(const Brief& brief, const Site& site, const CoilFigures& figures);
/// What is not known before a simulation does not count.
Misses passed_at_rest(const Brief& brief, const CoilFigures& figures);

/// Notes by which share a limit of the brief is passed, when it is.
void hold_below(Misses& misses, const Brief& brief, const char* key, double value);
void hold_above(Misses& misses, const Brief& brief, const char* key, double value);

/// The figure that a limit is about; empty where it is not known.
std::optional<double> figure_under(std::string_view limit, const CoilFigures& figures);

/// The brief that a design was proposed from, kept in its file; empty where there is none, or none that can be
/// read.
std::optional<Brief> brief_of(const Design& design);
/// Says which limits of its brief a design passes by now, by how much; nothing where all hold or there is no brief.
/// `power`: null before there is a simulation.
std::optional<Finding> left_brief(const Design& design, const Analysis& analysis, const PowerAnalysis* power,
                                  UnitSystem units);

} // namespace arc

// The points of the drawn coil that can be dragged: where each stands and what moving it does to the design. Plain
// functions of the design, so that mouse, keyboard and tests share them.
#pragma once

#include "model/design.h"

#include <QPointF>
#include <QString>
#include <functional>
#include <vector>

struct CoilHandle {
  enum class Kind { square, clip };
  QString id;    // "winding-top", "clip", ...
  QString label; // spoken and shown as tip
  QString field; // the field it changes, for the status line
  QPointF world; // radius (negative on the left side), height above the floor, metres
  Kind kind = Kind::square;
  bool moves_sideways = false;
  bool moves_upward = false;
  double key_step_m = 0.001;
  /// Changes the design so that the handle comes to `world`, kept inside the fields' ranges and on whole `grid_m`.
  std::function<void(arc::Design&, QPointF world, double grid_m)> move;
  /// Points of a drawn profile can be taken away, or doubled halfway to the next one; empty for other handles.
  std::function<void(arc::Design&)> remove = {};
  std::function<void(arc::Design&)> insert = {};
};

/// Adds a point to the drawn profile whose outline passes within `reach_m` of `world`; false when none does.
bool add_profile_point(arc::Design& design, QPointF world, double reach_m);

/// Handles of the secondary and the topload.
std::vector<CoilHandle> resonator_handles(const arc::Design& design);
/// Handles of the primary, with the clip.
std::vector<CoilHandle> primary_handles(const arc::Design& design);

/// Height above the floor of the winding's upper end, in metres.
double winding_top(const arc::Design& design);

/// Place of turn `s` of the primary (s counted from the inner end): radius and height.
QPointF primary_point(const arc::Primary& primary, double s);

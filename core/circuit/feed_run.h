// A run from the wall, whatever the path ends in: the feed's motion in equal steps, its dimmer, what is gathered of
// it, and the lines that its decks share. The load is its owner's: switches that it turns, events that it names.
#pragma once

#include "circuit/feed_meter.h"
#include "circuit/feed_network.h"
#include "circuit/motion.h"

#include <functional>
#include <optional>
#include <string>

namespace arc {

/// The triac of a dimmer: fired for a moment from its angle of each half cycle on, out when its current falls below
/// what holds it, or with the moment if none came.
class Triac {
 public:
  Triac(const FeedNetwork& feed, const FeedDimmer& dimmer) : feed_(feed), dimmer_(dimmer) {}
  /// Above zero when it must turn.
  double tension(const Motion& motion) const;
  void turn(Motion& motion);
  /// After a step: which way it carries.
  void look(const Motion& motion);

 private:
  double amperes(const Motion& motion) const;

  const FeedNetwork& feed_;
  const FeedDimmer dimmer_;
  bool lit_ = false;
  double sign_ = 0; // of its current; 0: not known yet
};

class FeedRun {
 public:
  /// The feed must outlive it, and have its load.
  FeedRun(const FeedNetwork& feed, const Site& site, double step_s);

  /// To the end of the present step, or to where `event` (may be empty) rises through zero: then returns true, and
  /// the next call goes on from there. The dimmer turns on the way.
  bool advance(const std::function<double(const Motion&)>& event = {});
  /// Whether the motion stands at the end of a step, and not within one.
  bool at_step() const;

  /// Joints, diodes, line and capacitors after a step that counts.
  void gather();
  /// From here on the stored energy counts.
  void begin_books() { stored_j_ = motion.stored_j(); }
  /// What was gathered, the books of the energy since begin_books().
  FeedLoads conclude() { return meter.conclude(step_s_, motion.stored_j() - stored_j_); }

  Motion motion;
  FeedMeter meter;

 private:
  void turn_triac();

  double step_s_;
  std::optional<Triac> triac_;
  double stored_j_ = 0;
};

/// "Vmains …": the line's source in a deck. Throws std::invalid_argument for a feed with a dimmer, whose triac is
/// simulated here only.
std::string deck_source(const FeedNetwork& feed);
/// "Bline", "Bpower" and the measurements of the line between two instants.
std::string deck_line(const FeedNetwork& feed, double from_s, double to_s);

} // namespace arc

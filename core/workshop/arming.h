// Whether the coil may be powered: the one owner of the armed state, from the first tick to the discharged coil.
// Each way from one state to another stands in one table; what is in no row of it cannot happen.
//
//     disarmed --first tick--> checking --arm--> armed --start--> running --stop--> after --disarm--> disarmed
//
// It arms only with every check ticked, with the figures and findings of the present design there, and with a
// reason for every stop among them. A figure that was cancelled, failed or cannot be computed is a stop like any
// other.
#pragma once

#include "simulation/advice.h"

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <vector>

namespace arc {

enum class ArmState { disarmed, checking, armed, running, after };
std::string_view word_of(ArmState state); // for files and tests

enum class ArmEvent {
  ticked,      // a check was ticked
  all_open,    // the last tick went
  opened,      // a tick went, others are left
  changed,     // an input of the figures changed, or a stop came that nobody has answered
  arm,         // the builder arms
  start,       // the switch is on
  stop,        // the switch is off
  disarm,      // the steps after the run are done, or the builder thinks better of it
  another_coil // another design altogether
};

struct ArmStep {
  ArmState from;
  ArmEvent event;
  ArmState to;
};
/// All there are: whatever is not among them does not happen.
std::span<const ArmStep> arm_steps();

/// How far the figures of the present design are.
enum class Figures { outstanding, there };

/// What belongs to the run that is going on or not yet logged: kept beside the design until it is logged.
struct RunDraft {
  ArmState state = ArmState::disarmed;
  Run run;                           // conditions once it has begun; observations and words as typed so far
  bool begun = false;                // conditions are there
  std::vector<std::string> happened; // while it ran: goes into its notes
  bool empty() const;                // nothing to be lost
  bool operator==(const RunDraft&) const = default;
};

/// As it is kept beside unsaved work; null for a disarmed coil with nothing to be lost. Read back: throws
/// DesignFileError.
Json json_of(const RunDraft& draft);
RunDraft draft_of(const Json& json);

/// A finding that forbids to arm: known by its id, since its words change with the units.
struct StandingStop {
  std::string id;
  std::string title;
};

class Arming {
 public:
  ArmState state() const { return draft_.state; }
  bool powered() const {
    return state() == ArmState::running || state() == ArmState::after;
  } // perhaps still charged

  /// The design has this value now: edit, undo, another kind. Words, view and units change nothing.
  void look_at(const std::shared_ptr<const Design>& design);
  /// The checks of the design that was last looked at, in one unit system always: a tick belongs to the words that
  /// were read, and falls where they changed.
  void show_checks(const std::vector<CheckItem>& checks);
  /// All of it is computed; these are its stops.
  void figures_there(const std::vector<StandingStop>& stops);
  Figures figures() const { return figures_; }

  const std::vector<CheckItem>& checks() const { return checks_; }
  bool ticked(const std::string& key) const { return ticks_.contains(key); }
  int open_checks() const { return static_cast<int>(checks_.size() - ticks_.size()); }
  /// False where ticks mean nothing: a check that is not there, the coil running or still charged.
  bool tick(const std::string& key, bool on);

  const std::vector<StandingStop>& stops() const { return stops_; }
  /// Numbers of the design that nobody has typed: while one counts it is not armed.
  std::size_t examples() const { return examples_; }
  /// Why it cannot be armed, one sentence; empty when it can, over stops only with a reason.
  std::string hindrance() const;
  /// `reason`: why to go on in spite of stops(), at least three letters; kept with the run. The last run must have
  /// been logged, or given up.
  bool arm(const std::string& reason = {});
  static constexpr std::size_t shortest_reason = 3;

  /// `run`: the design's conditions at this moment (begin_run()). What was typed meanwhile stays.
  bool start(const Run& run);
  /// After `seconds` of running.
  bool stop(double seconds);
  /// All ticks go.
  bool disarm();
  /// Another design altogether; false, and nothing happens, while the coil is running or still charged.
  bool another_coil();

  /// What is typed of the run.
  void observe(const std::string& key, std::optional<double> value);
  void note(const std::string& notes, const std::string& failed);
  const RunDraft& draft() const { return draft_; }
  /// Something is typed, or a run was fired, that is not in the record.
  bool unlogged() const { return !draft_.empty(); }
  /// The run as it goes into the record; `now` are the present conditions, for one that was not timed here.
  Run logged(const Run& now) const;
  /// What was typed and timed goes: it is in the record, or not wanted.
  void give_up();
  /// What another window left: never armed. Whatever was armed or running is taken as still charged.
  void take_over(RunDraft draft);

  /// What happened that must be said loudly, since last asked.
  std::vector<std::string> take_notices();

 private:
  bool step(ArmEvent event);
  void fell(const std::string& why);
  std::string open_stops() const; // their titles

  RunDraft draft_;
  std::shared_ptr<const Design> seen_;
  Design inputs_; // of the design as it was seen
  Figures figures_ = Figures::outstanding;
  std::vector<CheckItem> checks_;
  std::set<std::string> ticks_;
  std::vector<StandingStop> stops_;
  std::size_t examples_ = 0;       // numbers that count and that nobody has typed
  std::set<std::string> answered_; // ids of stops for which a reason was given
  std::vector<std::string> notices_;
};

} // namespace arc

// The open design: its value, its undo history, its file, its autosave, and its latest analysis. Views read from
// here and change it only through edit(). The analysis runs on its own thread; the latest request wins. The slower
// simulation of the power path follows once edits pause. Every result belongs to one request: what an older one
// gave is shown as stale, and its remedies cannot be pressed.
#pragma once

#include "base/file_io.h"
#include "base/latest_job.h"
#include "base/recovery.h"
#include "coil/analysis.h"
#include "model/design.h"
#include "quantity/quantity.h"
#include "simulation/power.h"
#include "workshop/arming.h"

#include <QLockFile>
#include <QObject>
#include <QString>
#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <memory>

/// Now, as files hold it: local time, ISO 8601.
std::string present_time();

class Document : public QObject {
  Q_OBJECT
 public:
  using Edit = std::function<void(arc::Design&)>;

  /// Recovery files go to `recovery_folder`, locks of open files beside it (both made when needed).
  explicit Document(QString recovery_folder, QObject* parent = nullptr);
  ~Document() override;

  const arc::Design& design() const { return *design_; }
  const std::shared_ptr<const arc::Design>& shared_design() const { return design_; }
  /// From now on takes over what other documents have computed, and gives its own results to them.
  void share(std::shared_ptr<arc::Kept> kept) { kept_ = std::move(kept); }
  /// Latest finished analysis; never null once the first one is done.
  std::shared_ptr<const arc::Analysis> analysis() const { return analysis_; }
  /// The analysis shown is that of the design as it stands.
  bool analysis_is_current() const { return analysis_ && analysed_ == wanted_; }
  bool recomputing() const { return analysis_job_.running(); }
  /// Blocks until the analysis belongs to the present design (start-up, pictures, tests).
  void wait_for_analysis() { analysis_job_.wait(); }

  /// Latest finished simulation of the power path; null until the first one is done. It may belong to the design as
  /// it was before the last edits: see power_is_current().
  std::shared_ptr<const arc::PowerAnalysis> power() const { return power_; }
  /// Likewise for distances and stores: null when it is of another kind of coil.
  const arc::PowerAnalysis* power_of_kind() const {
    return power_ && power_->kind == design_->kind ? power_.get() : nullptr;
  }
  /// The part of it that only this kind of coil has; null as power() is, and for another kind.
  template <typename Part>
  std::shared_ptr<const Part> power_of() const {
    const Part* part = arc::part_of<Part>(power_.get());
    return part ? std::shared_ptr<const Part>(power_, part) : nullptr;
  }
  bool power_is_current() const { return power_ && simulated_ == wanted_; }
  bool simulating() const { return power_pending_; }
  double simulation_progress() const { return *power_progress_; }
  const arc::PowerOptions& power_options() const { return power_options_; }
  void set_power_options(const arc::PowerOptions& options);
  /// Stops the running simulation; the last finished one stays.
  void cancel_simulation();
  void wait_for_simulation();
  /// Of the analysis and of the power path, worst first; those that the builder has dismissed say so.
  const std::vector<arc::Finding>& findings() const { return findings_; }
  /// Whether a finding speaks of the design as it stands; the remedy of one that does not must not be carried out.
  bool is_current(const arc::Finding& finding) const {
    return finding.of_power ? power_is_current() : analysis_is_current();
  }
  /// All that can be known of the design as it stands is there: what was cancelled or has failed stands among the
  /// findings as a stop.
  bool figures_settled() const;
  /// Findings that forbid to arm the coil; those that may be stale count.
  std::vector<arc::Finding> stops() const;

  /// Applies one undoable edit. Edits with the same non-empty gesture that follow each other become one step.
  /// Refused, with refused() and false, when it would leave a design that cannot be kept or brings a number out of
  /// its range.
  bool edit(const QString& text, const Edit& change, const QString& gesture = {});
  /// Carries out a finding's remedy, as one edit; false when the finding is of an older design.
  bool remedy(const arc::Finding& finding);
  QUndoStack& history() { return history_; }

  void set_units(arc::UnitSystem units);
  arc::UnitSystem units() const { return units_; }

  /// Replaces everything with a new design that has no file yet.
  void start(arc::Design design, const QString& origin = {}, const FileStamp& stamp = {});
  /// Opens a file. On failure the document is unchanged and the message says what is wrong, where, and what would
  /// be right.
  bool open(const QString& path, QString* problem);
  /// Writes atomically. On failure nothing on disk has changed.
  bool save_as(const QString& path, QString* problem);
  QString path() const { return path_; }
  QString title() const;
  bool modified() const { return !history_.isClean(); }
  QString saved_at() const { return saved_at_; }
  /// Somebody else has changed or removed the file since it was read or written here.
  bool changed_on_disk() const { return !path_.isEmpty() && stamp_.differs(path_); }
  /// A claim that one window at a time can have, until it is destroyed; null while another window has it.
  std::unique_ptr<QLockFile> claim(const QString& what, const QByteArray& which);
  /// Another window has the same file open.
  bool open_elsewhere() const { return !path_.isEmpty() && !open_lock_; }

  /// Unsaved work that windows which no longer run have left behind.
  std::vector<RecoverableWork> recoverable() const { return recovery_.left_behind(); }
  /// Takes over a piece of work, with the file that it belongs to, as changes not yet saved. On failure everything
  /// is as it was.
  bool recover(const RecoverableWork& work, QString* problem);
  /// The unsaved work of this window is given up.
  void discard_recovery();
  /// What is going on at the coil and not logged yet: kept with the unsaved work, so that it outlives this window.
  void keep_draft(const arc::RunDraft& draft);
  const arc::RunDraft& draft() const { return draft_; }
  /// Writes the recovery file now (normally within a second and a half of the first unsaved edit).
  void autosave();

 Q_SIGNALS:
  void design_changed();   // the design has a new value
  void opened();           // another design altogether: what belonged to the last one goes
  void analysis_changed(); // analysis() is new, or the work on it ended
  void draft_found();      // draft() is what another window left
  void power_changed();    // power() is new, or simulating() has changed
  void file_changed();     // path, saved state or title
  void units_changed();
  void refused(const QString& reason); // an edit that was not made
  void work_failed(const QString& problem);
  void autosave_failed(const QString& problem);
  void autosave_works_again();

 private:
  friend class DesignEdit;
  using Shared = std::shared_ptr<const arc::Design>;
  template <typename Result>
  struct Answer { // to one request
    std::uint64_t request;
    std::shared_ptr<const Result> result;
  };

  void set_design(Shared design);
  void request_analysis();
  void request_power();
  void analysis_done(const Answer<arc::Analysis>& answer);
  void power_done(const Answer<arc::PowerAnalysis>& answer);
  void power_ended();
  void gather_findings();
  void take_file(const QString& path, const FileStamp& stamp);
  bool worth_keeping() const;

  Shared design_ = std::make_shared<const arc::Design>();
  std::shared_ptr<const arc::Analysis> analysis_;
  arc::UnitSystem units_ = arc::UnitSystem::metric;
  QUndoStack history_;
  QString path_;
  QString saved_at_;
  FileStamp stamp_;
  QString locks_folder_;
  std::unique_ptr<QLockFile> open_lock_;
  Recovery recovery_;
  arc::RunDraft draft_;
  bool autosave_fails_ = false;
  QTimer autosave_timer_;
  std::uint64_t wanted_ = 0;    // counts designs and unit systems that an analysis was asked for
  std::uint64_t analysed_ = 0;  // what analysis_ answers
  std::uint64_t simulated_ = 0; // what power_ answers
  std::shared_ptr<const arc::PowerAnalysis> power_;
  std::shared_ptr<arc::Kept> kept_ = std::make_shared<arc::Kept>(); // what both jobs take over from before
  std::vector<arc::Finding> findings_;
  QString analysis_problem_; // of the present design; empty while it may still come
  QString power_problem_;
  arc::PowerOptions power_options_;
  QTimer power_timer_; // edits pause
  bool power_pending_ = false;
  std::shared_ptr<std::atomic<double>> power_progress_ = std::make_shared<std::atomic<double>>(0.0);
  LatestJob<Answer<arc::Analysis>> analysis_job_;
  LatestJob<Answer<arc::PowerAnalysis>> power_job_;
};

// The open design: its value, its undo history, its file, its autosave, and its latest analysis. Views read from
// here and change it only through edit(). The analysis runs on its own thread; the latest request wins. The slower
// simulation of the power path follows once edits pause.
#pragma once

#include "design/analysis.h"
#include "design/design.h"
#include "design/power.h"
#include "quantity/quantity.h"
#include "widgets/latest_job.h"

#include <QFutureWatcher>
#include <QObject>
#include <QString>
#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <memory>

class Document : public QObject {
  Q_OBJECT
 public:
  using Edit = std::function<void(arc::Design&)>;

  /// Recovery files go to `recovery_folder` (made when needed).
  explicit Document(QString recovery_folder, QObject* parent = nullptr);
  ~Document() override;

  const arc::Design& design() const { return design_; }
  /// Latest finished analysis; never null once the first one is done.
  std::shared_ptr<const arc::Analysis> analysis() const { return analysis_; }
  bool recomputing() const { return running_ || stale_; }
  /// Blocks until the analysis belongs to the present design (start-up, pictures, tests).
  void wait_for_analysis();

  /// Latest finished simulation of the power path; null until the first one is done. It may belong to the design as
  /// it was before the last edits: see simulating().
  std::shared_ptr<const arc::PowerAnalysis> power() const { return power_; }
  bool simulating() const { return power_pending_; }
  double simulation_progress() const { return *power_progress_; }
  const arc::PowerOptions& power_options() const { return power_options_; }
  void set_power_options(const arc::PowerOptions& options);
  /// Stops the running simulation; the last finished one stays.
  void cancel_simulation();
  void wait_for_simulation();
  /// Of the analysis and of the power path, worst first.
  const std::vector<arc::Finding>& findings() const { return findings_; }

  /// Applies one undoable edit. Edits with the same non-empty gesture that follow each other become one step.
  void edit(const QString& text, const Edit& change, const QString& gesture = {});
  QUndoStack& history() { return history_; }

  void set_units(arc::UnitSystem units);
  arc::UnitSystem units() const { return units_; }

  /// Replaces everything with a new design that has no file yet.
  void start(arc::Design design, const QString& origin = {});
  /// Opens a file. On failure the document is unchanged and the message says what is wrong, where, and what would
  /// be right.
  bool open(const QString& path, QString* problem);
  /// Writes atomically. On failure nothing on disk has changed.
  bool save_as(const QString& path, QString* problem);
  QString path() const { return path_; }
  QString title() const;
  bool modified() const { return !history_.isClean(); }
  QString saved_at() const { return saved_at_; }

  /// Text of the recovery file left behind by a crash, empty when there is none.
  QString recoverable() const;
  bool recover(QString* problem);
  void discard_recovery();
  /// Writes the recovery file now (normally two seconds after an edit).
  void autosave();

 Q_SIGNALS:
  void design_changed();   // the design has a new value
  void analysis_changed(); // analysis() belongs to the present design
  void power_changed();    // power() is new, or simulating() has changed
  void file_changed();     // path, saved state or title
  void units_changed();
  void autosave_failed(const QString& problem);

 private:
  friend class DesignEdit;
  void set_design(const arc::Design& design);
  void request_analysis();
  void analysis_done();
  void request_power();
  void gather_findings();
  QString recovery_path() const;

  arc::Design design_;
  std::shared_ptr<const arc::Analysis> analysis_;
  arc::UnitSystem units_ = arc::UnitSystem::metric;
  QUndoStack history_;
  QString path_;
  QString saved_at_;
  QString recovery_folder_;
  QTimer autosave_timer_;
  QFutureWatcher<std::shared_ptr<const arc::Analysis>> watcher_;
  bool running_ = false;
  bool stale_ = false;
  std::shared_ptr<const arc::PowerAnalysis> power_;
  std::vector<arc::Finding> findings_;
  arc::PowerOptions power_options_;
  QTimer power_timer_; // edits pause
  bool power_pending_ = false;
  std::shared_ptr<std::atomic<double>> power_progress_ = std::make_shared<std::atomic<double>>(0.0);
  LatestJob<std::shared_ptr<const arc::PowerAnalysis>> power_job_;
};

/// Reads a whole file; false with the reason when it cannot be read or is too large for a design.
bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem);
/// Writes a whole file atomically; false with the reason, and the old file untouched, when it cannot.
bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem);

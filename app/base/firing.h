// The armed state in the window: hands the core's state machine what the document knows, keeps time of the run,
// holds the coil against other windows, and sees that a run that is not logged outlives the window.
#pragma once

#include "base/document.h"
#include "base/latest_job.h"
#include "workshop/arming.h"

#include <QElapsedTimer>
#include <QLockFile>
#include <deque>
#include <memory>

class Firing : public QObject {
  Q_OBJECT
 public:
  explicit Firing(Document& document, QObject* parent = nullptr);

  const arc::Arming& arming() const { return arming_; }
  arc::ArmState state() const { return arming_.state(); }
  /// Seconds that the present run takes, or the last one took.
  double seconds() const;
  /// Seconds since the run was stopped, or since this window took over a coil that may be live; 0 in other states.
  double since_stop_s() const;
  /// Why it cannot be armed; empty when it can, over stops only with a reason.
  QString hindrance() const { return QString::fromStdString(arming_.hindrance()); }
  /// What stands in the way of another coil in this window; empty when nothing does.
  QString holds() const;

  void tick(const std::string& key, bool on);
  /// False when it is not armed after all: another window holds the coil, or the figures have changed meanwhile. A
  /// run that is not logged yet is logged first.
  bool arm(const QString& reason = {});
  void start_run();
  void stop_run();
  void disarm();
  void observe(const std::string& key, std::optional<double> value);
  void note(const QString& notes, const QString& failed);
  /// Puts the run into the record; true when the design has it.
  bool log();
  void give_up();
  /// Works out what was simulated for logged runs that lack it, behind the views; joined to the step of the history
  /// that has logged or changed them, while it is the last.
  void simulate(const std::vector<std::string>& ids);
  bool simulating() const { return simulation_.running(); }
  /// For an edit of this run, that what is simulated of it joins.
  QString gesture_for(const std::string& id);

 Q_SIGNALS:
  void changed();
  void notice(const QString& text); // loud

 private:
  void look();
  void figures();
  void tell();
  void forget();
  arc::Run present_conditions() const;

  struct Simulated {
    arc::Run run; // as it was when it was asked
    std::map<std::string, double> figures;
  };
  void simulate_next();
  void simulated(const Simulated& done);

  Document& document_;
  arc::Arming arming_;
  std::unique_ptr<QLockFile> held_;
  QElapsedTimer watch_;
  QElapsedTimer stopped_;                   // runs in the state after
  std::map<std::string, QString> gestures_; // of the last edit of each run
  int edits_ = 0;
  std::deque<std::string> to_simulate_; // identities
  std::shared_ptr<arc::Kept> kept_ = std::make_shared<arc::Kept>();
  LatestJob<Simulated> simulation_;
};

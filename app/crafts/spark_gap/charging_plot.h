// What charging does, as a plot: waveforms over time, line current and power against the variac, or the breaker's
// trip curve. Shows the document's simulation; computes nothing.
#pragma once

#include "crafts/spark_gap/spark_gap.h"
#include "toolkit/cursor_plot.h"

#include <memory>
#include <optional>

class ChargingPlot : public CursorPlot {
  Q_OBJECT
 public:
  enum Shows { waveforms, against_variac, trip_curve };

  explicit ChargingPlot(Workspace& workspace, QWidget* parent = nullptr);

  Shows shown() const { return shown_; }
  void choose(Shows what);
  /// Draws the present run behind the next ones.
  void keep();
  void refresh();
  /// Asks where to, and says what came of it.
  void export_run();

 Q_SIGNALS:
  /// What is to be read beside the plot.
  void said(const QString& words);

 private:
  QString print(double si, arc::Dimension dimension, int digits = 3) const;
  QCPGraph* line(const QVector<double>& x, const QVector<double>& y, const QPen& pen, QCPAxis* axis = nullptr);
  void draw_waveforms(const arc::ChargingResult& now);
  void draw_variac(const arc::SparkGapPower& power);
  void draw_trip_curve(const arc::ChargingResult& now);
  void read_at(double x);
  void read_instant(const arc::ChargingResult& charging, double time_s);
  void read_setting(const arc::SparkGapPower& power, double setting);
  void read_trip(double current_a);

  void show_breaks();

  Shows shown_ = waveforms;
  QVector<double> breaks_;    // of the waveforms, ms
  QCPGraph* tank_ = nullptr;  // while waveforms are shown
  std::optional<bool> busy_;  // as it was last said
  QCPGraph* ticks_ = nullptr; // where it breaks, while it breaks more often than a curve can show
  std::shared_ptr<const arc::SparkGapPower> kept_;
};

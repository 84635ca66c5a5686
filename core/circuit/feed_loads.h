// What a feed in motion carries: volts and amperes at each joint, its diodes, and what it takes from the line.
// Gathered step by step of a run, whatever the feed ends in.
#pragma once

#include "circuit/feed_network.h"

#include <Eigen/Dense>
#include <cstddef>
#include <limits>
#include <string>
#include <vector>

namespace arc {

/// What one joint of the feed carries; amperes flow away from the wall. RMS over the later part of a run.
struct JointLoad {
  std::string title;
  bool mains = false;
  double rms_v = 0, peak_v = 0;
  double rms_a = 0, peak_a = 0;
  double limit_v = 0, limit_a = 0; // peak volts and RMS amperes, 0 when there is none
  double insulation_v =
      0; // of a winding that floats: the larger peak of its two ends against the tank's other rail
  /// Share of the nearer limit; 0 when there is none.
  double used() const;
};

struct DiodeLoad {
  std::string title;
  std::size_t block = 0; // of the feed, to which it belongs
  double inverse_v = 0, average_a = 0;
  double limit_v = 0, limit_a = 0;
  double used() const;
};

struct FeedLoads {
  std::vector<JointLoad> joints; // one for each block, then what the feed ends in
  std::vector<DiodeLoad> diodes;
  double input_power_w = 0;  // over whole cycles; while the feed gives back to the line, what it uses up
  double line_current_a = 0; // RMS
  double power_factor = 0;
  double reactive_va = 0;  // of the fundamental; positive when the current lags, negative when it leads
  double breaker_used = 0; // line current over the rating; 0 without a breaker
  double breaker_trip_s = std::numeric_limits<double>::infinity(); // infinite when it holds or there is none
};

/// Amperes through a branch, away from the wall, with these node voltages.
double branch_a(const Network& network, const Motion& motion, const Eigen::VectorXd& volts, const Branch& branch);

/// Gathers the loads of a run in equal steps. The feed must outlive it.
class FeedMeter {
 public:
  FeedMeter(const FeedNetwork& feed, const Site& site);

  double line_v(const Motion& motion, const Eigen::VectorXd& volts) const;
  double line_a(const Motion& motion, const Eigen::VectorXd& volts) const;

  /// Peaks of all joints, and with `counts` what is averaged.
  void gather_joints(const Motion& motion, const Eigen::VectorXd& volts, bool counts);
  void gather_diodes(const Motion& motion, const Eigen::VectorXd& volts, bool counts);
  void gather_line(const Motion& motion, const Eigen::VectorXd& volts);

  /// What was gathered, over steps of `step_s`; `gained_j` is what the stored energy grew by meanwhile.
  FeedLoads conclude(double step_s, double gained_j);

 private:
  struct Sums {
    double squares = 0, volts = 0, work = 0, count = 0;
  };
  // Fundamental of voltage and current.
  struct Fundamental {
    double v_sin = 0, v_cos = 0, a_sin = 0, a_cos = 0;
    void add(double angle, double volts, double amps);
    double reactive_va(double count) const { return 2 * (v_cos * a_sin - v_sin * a_cos) / (count * count); }
  };
  void conclude_line(double step_s, double gained_j);
  void conclude_averages();

  const FeedNetwork& feed_;
  const double mains_v_, mains_hz_;
  std::vector<Sums> joint_sums_;
  std::vector<double> diode_sums_;
  Sums line_;
  Fundamental fundamental_;
  double driver_w_ = 0;
  FeedLoads out_;
};

} // namespace arc

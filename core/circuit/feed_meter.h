// Gathers what a feed in motion carries, step by step of a run, whatever the feed ends in.
#pragma once

#include "circuit/feed_loads.h"
#include "circuit/feed_network.h"
#include "circuit/motion.h"

#include <vector>

namespace arc {

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
  /// Of the capacitors that double or shift.
  void gather_capacitors(const Motion& motion);

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
  struct CapacitorSums {
    double last_v = 0, last_s = 0, a2s = 0, seconds = 0, least_v = 0, most_v = 0;
    bool begun = false;
  };
  std::vector<CapacitorSums> capacitor_sums_;
  Sums line_;
  Fundamental fundamental_;
  double driver_w_ = 0;
  FeedLoads out_;
};

} // namespace arc

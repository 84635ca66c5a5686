// The feed as a network with an open end, referred to the source's output. Blocks add themselves through
// the builder (see the registry in circuit/feed.h); simulation and netlist read the result. Transformers and
// variacs draw magnetising current and saturate. Limits: constant leakage, no remanence; a driver above the audible
// range counts as rectified direct current.
#pragma once

#include "circuit/feed.h"
#include "circuit/magnetising.h"
#include "circuit/network.h"
#include "model/design.h"

#include <optional>
#include <string>
#include <vector>

namespace arc {

inline constexpr double diode_on_ohm = 20, diode_off_ohm = 2e9; // of high-voltage strings
inline constexpr double mains_diode_on_ohm = 0.03, mains_diode_off_ohm = 1e7;
inline constexpr double gap_off_ohm = 1e12;
inline constexpr double safety_gap_on_ohm = 1000;
inline constexpr double safety_gap_opens_v = 20;      // across it: an arc goes out below some 20 mA (assumption)
inline constexpr double safety_gap_stray_f = 100e-12; // of winding and leads across it (assumption)

/// A branch whose current can be read.
struct Branch {
  enum class Kind { none, resistor, inductor, switched } kind = Kind::none;
  std::size_t index = 0;
};

/// A block's output.
struct FeedJoint {
  std::string title;
  Node plus = 0, minus = 0;
  double scale = 1;   // volts in the network for one volt there
  Branch current;     // toward the tank
  double limit_v = 0; // peak, 0 when it has none
  double limit_a = 0; // RMS, 0 when it has none
  bool mains = false;
  bool winding = false; // its two ends are a winding's, which may float above the tank's other rail
};

struct FeedDiode {
  std::string title;
  std::size_t block; // to which it belongs
  std::size_t switch_index;
  double limit_v, limit_a; // inverse, and average
};

/// A capacitor that doubles or shifts.
struct FeedCapacitor {
  std::string title;
  std::size_t block; // to which it belongs
  std::size_t capacitor_index;
  double farad;
  double limit_v, limit_a; // peak and RMS; 0: not known
};

struct FeedGap {
  std::string title;
  std::size_t switch_index;
  Node a, b;
  double firing_v;
  double opens_v;
};

/// A triac that is fired at an angle of each half cycle and goes out when its current passes zero.
struct FeedDimmer {
  std::size_t switch_index;
  double angle_share; // of the half cycle
  double holds_a;     // in the network
};
inline constexpr double triac_pulse_share = 0.02; // of a half cycle during which it is fired

/// What limits the inrush of a path to a bus.
struct FeedLimiter {
  std::size_t resistor_index;
  std::size_t relay_index; // the switch that bridges it
  double relay_after_s;    // 0: never
  double scale;            // volts in the network for one volt there
  std::optional<Thermistor> thermistor;
};

/// A source of direct current made by a driver; what it takes from the wall is computed, not simulated.
struct DriverSource {
  double efficiency;
  double power_factor;
};

/// The blocks and their open end, behind which the kind of coil puts what it feeds.
struct FeedNetwork {
  Network network;
  Node end = 0;    // against ground
  Branch into_end; // all that flows there
  std::vector<FeedGap> safety_gaps;
  std::vector<FeedJoint> joints; // one for each block
  std::vector<FeedDiode> diodes;
  std::vector<FeedCapacitor> capacitors; // those that double or shift
  double ratio = 1; // source volts in the network for one volt at the wall, the variac's setting included
  Branch source_current;
  Node source_plus = 0, source_minus = 0;
  std::optional<DriverSource> driver;
  std::optional<FeedDimmer> dimmer;
  std::optional<FeedLimiter> limiter;
  std::optional<std::size_t> line_switch; // a path to a bus is switched on by it
  double breaker_a = 0;
  bool breaker_c = false;
};

/// Throws std::invalid_argument with feed_problem() or when a block's numbers contradict each other.
FeedNetwork feed_network(const std::vector<FeedBlock>& feed, const Site& site, FeedEnd end = FeedEnd::tank);

/// Farads of tank that resonate at mains frequency with all that is inductive before it: I / (2 pi f V) for a
/// current-limited transformer of open voltage V and short-circuit current I. Empty without a working feed, behind
/// a rectifier, and where nothing is inductive.
std::optional<double> mains_resonant_capacitance_f(const Design& design);

/// What blocks use to add themselves.
class FeedBuilder {
 public:
  FeedBuilder(const std::vector<FeedBlock>& feed, const Site& site, FeedEnd end);

  double square() const { return scale_ * scale_; } // impedances on the mains side, here, are seen times this
  double mains_hz() const { return out_.network.source_hz; }
  double mains_v() const { return mains_v_; }
  void series_resistor(double ohm);
  void series_inductor(const char* name, double henry);
  void series_capacitor(const char* name, double farad);
  void series_diode(const char* name, const FeedBlock& block);
  /// Across the path, to its other side here: the source's other end before a rectifier, ground behind it.
  /// `stays_full`: behind a rectifier, charged as long as it runs.
  void shunt_capacitor(const char* name, double farad, double joint_ohm, bool stays_full = false);
  void shunt_resistor(double ohm);
  /// A core across the path here, by what it draws on the mains side at this place; `count` of them in parallel.
  void magnetising(const char* name, const CoreData& core, double count);
  void bridge(const FeedBlock& block);
  void level_shifter(const FeedBlock& block, double farad);
  /// `bleed_ohm` across each capacitor; 0: none.
  void full_wave_doubler(const FeedBlock& block, double farad, double bleed_ohm);
  void driver(double volts, double ohm, const DriverSource& source);
  void safety_gap(const std::string& title, double firing_v);
  /// Across what was added since `from`, the node before it.
  void safety_gap_across(const std::string& title, Node from, double firing_v);
  void breaker(double rated_a, bool type_c);
  void dimmer(double angle_deg);
  void inrush_limiter(const FeedBlock& block);
  /// Something small in the line with a rating in amperes.
  void part_in_line(double ohm, double limit_a);
  double joint_ohm() const; // in series with shunt capacitors, so that none closes a loop with a source
  /// An ideal autotransformer: what stands before it is seen through its setting.
  void variac(double setting) { scale_ /= setting; }
  void limit_voltage(double volts) { limit_v_ = volts; }
  void limit_current(double amps) { limit_a_ = amps; }
  Node here() const { return at_; }

  void add(const FeedBlock& block);
  FeedNetwork open_end();

 private:
  void before_shunt(); // gives waiting joints a branch of their own, so that the shunt's current is not theirs
  void passed(Branch branch); // a series branch now stands behind all joints that wait for one
  std::size_t add_diode(const char* name, Node from, Node to, const FeedBlock& block);
  void add_capacitor(const char* name, Node from, Node to, double farad, double way, const FeedBlock& block);

  FeedNetwork out_;
  FeedEnd end_;
  bool past_source_ = false;
  Node at_ = 0, minus_ = 0;
  Node low_ = 0; // the path's other side at the present node
  double mains_v_ = 0;
  bool ballasted_ = false; // something in the path before here decides what flux the core sees
  double scale_ = 1;       // volts in the network for one volt on the mains side, at the present node
  double limit_v_ = 0, limit_a_ = 0;
  std::vector<std::size_t> waiting_; // joints whose current is that of the next series branch
};

} // namespace arc

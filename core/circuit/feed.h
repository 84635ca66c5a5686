// The registry of feed blocks: what stands between the wall and the tank, each with its numbers, its caution, and
// what it does to the network. A feed is a list of blocks in order; circuit/feed_network.h makes the network of it.
// To add a block, add its row in feed_blocks.cpp.
#pragma once

#include "circuit/magnetising.h"
#include "model/design.h"
#include "parts/diodes.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

class FeedBuilder;

inline constexpr std::size_t most_feed_blocks = 40;

struct BlockNumber {
  std::string_view key; // in the file, SI units
  std::string_view label;
  Dimension dimension;
  double minimum;
  double maximum;
  double standard;             // taken when the file does not say
  double least_above_zero = 0; // where 0 means none: the least that makes sense
  /// 0 or 1: something is there or not.
  bool is_switch() const { return dimension == Dimension::count && minimum == 0 && maximum == 1; }
};

/// Where a block belongs: before the source or rectifier, the source itself, behind it, or wherever it is put.
enum class BlockPlace { mains, source, behind, anywhere };

/// What a path ends in: the tank of a spark gap, behind a transformer; the bus of a bridge, rectified mains; the
/// plate coil of a tube, behind a transformer; or nothing, where the kind has no path from the wall.
enum class FeedEnd { none, tank, bus, plate };

/// The paths in which a block makes sense.
struct BlockEnds {
  bool tank = true, bus = true, plate = true;
};

/// What a block is to the rules that look for it, whichever row it comes from.
enum class BlockRole {
  other,
  breaker,
  variac,
  correction, // capacitor across the line
  transformer,
  ignition_coils,
  push_pull_driver,
  reservoir,
  charging_choke,
  safety_gap,
  inrush_limiter,
  rectifier,
  doubler,
  fuse,
  shunt
};

/// What stands before a block, as far as its own check asks.
struct FeedSoFar {
  bool direct = false;   // there is direct current
  bool shifted = false;  // a level shifter's output
  bool negative = false; // the rectifier's polarity
  int of_this_kind = 0;  // blocks of the same kind
};

/// What a block stores behind the rectifier, and what empties it.
struct Reservoir {
  double capacitance_f = 0;
  double bleed_ohm = 0; // infinite without a bleeder
  double limit_v = 0;   // 0: not stated
  double esr_ohm = 0;
  double ripple_a = 0; // RMS that it stands, 0: not stated
};

/// Keys of the numbers behind it, to scale the whole by; empty where a kind has none.
struct StoreKeys {
  std::string_view capacitance, bleeder, voltage, ripple;
};

struct BlockKind {
  std::string_view key;
  std::string_view title;
  std::string_view brief; // in one or two short words, under its symbol
  BlockPlace place;
  std::vector<BlockNumber> numbers;
  std::string_view danger;  // two or three words that always stand at the block
  std::string_view caution; // the whole sentence
  void (*build)(FeedBuilder&, const FeedBlock&);
  bool rectifies = false;    // makes direct current
  bool needs_direct = false; // makes sense behind a rectifier only
  int diode_strings = 0;     // of equal diodes
  bool doubles = false;      // its output is twice the peak
  bool shifts = false;       // its output swings between zero and twice the peak: no reservoir straight behind it
  CoreData (*core)(const FeedBlock&, double mains_v,
                   double mains_hz) = nullptr;        // usual for the kind; null: no core
  bool (*rectifies_when)(const FeedBlock&) = nullptr; // where that depends on its numbers
  double (*ratio)(const FeedBlock&) = nullptr;        // volts out for a volt in; null: as many
  bool two_ended = false;                             // neither end of what stands before it is ground
  bool own_supply = false;                            // brings its own direct current, see passes_driver
  bool passes_driver = false;                         // has an effect on what takes direct current
  bool ballast = false;                               // limits the mains current
  /// Why it cannot stand here, without its name; empty when it can.
  std::string (*problem)(const FeedBlock&, const FeedSoFar&) = nullptr;
  BlockRole role = BlockRole::other;
  BlockEnds ends{};
  Reservoir (*reservoir)(const FeedBlock&) = nullptr; // of those that store
  /// Share of the unloaded volts behind it that its capacitor keeps, which nothing entered empties; 0: it has none.
  double keeps_share = 0;
  StoreKeys store_keys{}; // likewise

  /// Whether it is among the blocks of a path to this end.
  bool serves(FeedEnd end) const {
    return end == FeedEnd::tank    ? ends.tank
           : end == FeedEnd::bus   ? ends.bus
           : end == FeedEnd::plate ? ends.plate
                                   : true;
  }
};

/// All kinds of block, in the order in which they are offered.
std::span<const BlockKind> block_kinds();
/// nullptr when the kind is not known.
const BlockKind* block_kind(std::string_view key);
/// Whether blocks of this kind stand where a path has its source; false for an unknown one.
bool is_source(std::string_view kind);

/// A block with the standard numbers of its kind. Throws std::out_of_range for an unknown kind.
FeedBlock make_block(std::string_view kind);
FeedBlock make_block(BlockRole role);

/// Puts a block where it belongs: mains-side blocks right before the source or rectifier, a source behind the mains
/// side, all others to the end.
void add_block(SharedList<FeedBlock>& feed, FeedBlock block);

/// What a block is to the rest of the path: that of its kind, `other` for an unknown one.
BlockRole role_of(const FeedBlock& block);
/// The first block of a role; null without one.
const FeedBlock* find_block(const std::vector<FeedBlock>& feed, BlockRole role);
FeedBlock* find_block(SharedList<FeedBlock>& feed, BlockRole role);

/// A number of a block, or the standard one of its kind.
double block_value(const FeedBlock& block, std::string_view key);

/// Whether a block's diodes are put in the other way round, for a negative tank.
bool is_reversed(const FeedBlock& block);

/// The key of today for a block's key in files of any age.
std::string_view current_block_key(std::string_view key);

/// Empty when the blocks make a path from the wall to this end; otherwise what is missing or out of order.
std::string feed_problem(const std::vector<FeedBlock>& feed, FeedEnd end = FeedEnd::tank);

/// All that stores behind the rectifier, side by side: capacitances added, bleeders in parallel, the lowest rating.
Reservoir reservoir_of(const std::vector<FeedBlock>& feed);

/// Place of the last block that stores; empty without one.
std::optional<std::size_t> last_store(const std::vector<FeedBlock>& feed);

/// Ohms of a bleeder across each unit of `farad` with which it falls below 50 V in about a minute, at most
/// `most_ohm`.
double usual_bleeder_ohm(double farad, double most_ohm);

/// Volts at the end of an unloaded path, peak: that of the mains, times the ratios before it, twice that behind a
/// doubler or a level shifter.
double unloaded_bus_v(const std::vector<FeedBlock>& feed, double mains_v);

/// A thermistor by what its block says of it: cold at 25 degrees Celsius, hot at its rated current in the long run.
/// R = cold exp(B (1/T - 1/T0)), B = 3000 K, its heat gone with a time constant of 80 s (generic values from
/// memory).
struct Thermistor {
  double cold_ohm, hot_ohm;
  double dissipation_w_per_k, heat_j_per_k;
  double ohm(double temperature_c) const;
  /// Ohms in the long run at `rms_a` (A).
  double settled_ohm(double rms_a) const;
};
inline constexpr double thermistor_b_k = 3000, thermistor_tau_s = 80, thermistor_cold_c = 25;
/// Empty for a plain resistor.
std::optional<Thermistor> thermistor_of(const FeedBlock& limiter);

/// Diodes of `inverse_v` and `average_a` each that hold and carry what the block's present string does.
DiodeString substitute_string(const FeedBlock& block, double inverse_v, double average_a);

/// Volts and amperes that a string of the block's diodes holds and carries, uneven sharing counted.
double string_voltage_v(const FeedBlock& block);
double string_current_a(const FeedBlock& block);

/// The core of a source or variac as its block describes it: what is known of its idle current, on the mains side,
/// of one of its transformers. Empty for blocks without a core. `mains_v` and `mains_hz` count where the block does
/// not say.
std::optional<CoreData> block_core(const FeedBlock& block, double mains_v, double mains_hz);

/// Hertz of a resonant circuit driven in push-pull, and peak volts on each switch: pi times the supply.
double driver_hz(double inductance_h, double capacitance_f);
double driver_switch_peak_v(double supply_v);

/// Seconds in which a charging choke fills the tank to twice the supply, pi sqrt(L C), and the largest choke that
/// does so before the next of `rate_hz` breaks. Textbook resonant charging, losses neglected.
double resonant_charge_s(double inductance_h, double capacitance_f);
double choke_for_rate_h(double rate_hz, double capacitance_f);

/// Seconds after which a thermal-magnetic breaker of type B or C trips at `current_a` (middle of the band of
/// IEC 60898-1: never below 1.13 times, within an hour at 1.45, 30 s at 2.55; at once above 4 or 7.5 times; the
/// curve between these points is from memory). Infinite when it holds.
double breaker_trip_s(double rated_a, double current_a, bool type_c);

/// Transformers in series at a low variac setting: what the reading says. `one_v` is the output of one of them
/// alone, `all_v` what was read over all `in_series`. Number of windings that oppose the others (0: all help); -1
/// when the reading fits no arrangement within a quarter of one winding.
int opposed_windings(double one_v, double all_v, int in_series);

} // namespace arc

// Feed blocks by key, the rules of their order, and the closed forms of their parts.
#include "circuit/feed.h"

#include "parts/bank.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <stdexcept>
#include <utility>

namespace arc {

using enum BlockPlace;

const BlockKind* block_kind(std::string_view key) {
  for (const BlockKind& kind : block_kinds())
    if (kind.key == key) return &kind;
  return nullptr;
}

bool is_source(std::string_view kind) {
  const BlockKind* row = block_kind(kind);
  return row && row->place == source;
}

FeedBlock make_block(std::string_view kind) {
  const BlockKind* row = block_kind(kind);
  if (!row) throw std::out_of_range(fmt::format("no feed block is called {}", kind));
  FeedBlock block;
  block.kind = std::string(kind);
  for (const BlockNumber& number : row->numbers) block.values[std::string(number.key)] = number.standard;
  return block;
}

FeedBlock make_block(BlockRole role) {
  return make_block(std::ranges::find(block_kinds(), role, &BlockKind::role)->key);
}

void add_block(SharedList<FeedBlock>& feed, FeedBlock block) {
  const BlockKind* kind = block_kind(block.kind);
  const auto place = [](const FeedBlock& b) {
    const BlockKind* row = block_kind(b.kind);
    return row ? row->place : behind;
  };
  auto at = feed.end();
  if (kind && kind->place == mains)
    at = std::ranges::find_if(feed, [&](const FeedBlock& b) { return place(b) == source || place(b) == behind; });
  else if (kind && kind->role == BlockRole::inrush_limiter)
    at = std::ranges::find_if(feed, [&](const FeedBlock& b) { return place(b) != mains; });
  else if (kind && kind->place == source)
    at = std::ranges::find_if(feed, [&](const FeedBlock& b) { return place(b) > source; });
  feed.insert(at, std::move(block));
}

BlockRole role_of(const FeedBlock& block) {
  const BlockKind* kind = block_kind(block.kind);
  return kind ? kind->role : BlockRole::other;
}

const FeedBlock* find_block(const std::vector<FeedBlock>& feed, BlockRole role) {
  const auto it = std::ranges::find(feed, role, role_of);
  return it == feed.end() ? nullptr : &*it;
}

FeedBlock* find_block(SharedList<FeedBlock>& feed, BlockRole role) {
  if (!find_block(feed.get(), role)) return nullptr;
  return &*std::ranges::find(feed, role, role_of);
}

double block_value(const FeedBlock& block, std::string_view key) {
  if (const auto it = block.values.find(std::string(key)); it != block.values.end()) return it->second;
  if (const BlockKind* kind = block_kind(block.kind))
    for (const BlockNumber& number : kind->numbers)
      if (number.key == key) return number.standard;
  throw std::out_of_range(fmt::format("block {} has no number {}", block.kind, key));
}

bool is_reversed(const FeedBlock& block) {
  const auto it = block.values.find("reversed");
  const BlockKind* kind = block_kind(block.kind);
  return kind && kind->diode_strings > 0 && it != block.values.end() && it->second > 0.5;
}

std::string_view current_block_key(std::string_view key) {
  return key == "doubler" ? "level-shifter" : key; // its name until it was told apart from the half-wave doubler
}

std::optional<CoreData> block_core(const FeedBlock& block, double mains_v, double mains_hz) {
  const BlockKind* kind = block_kind(block.kind);
  if (!kind || !kind->core) return {};
  CoreData core = kind->core(block, mains_v, mains_hz);
  const auto value = [&](const char* key) {
    const auto it = std::ranges::find(kind->numbers, key, &BlockNumber::key);
    return it == kind->numbers.end() ? 0.0 : block_value(block, key);
  };
  const double low_v = value("idle_low_v"), low_a = value("idle_low_a"), rated_a = value("idle_a");
  return fit_core(core, {{core.rated_v, rated_a}, {low_v, low_a}});
}

namespace {

// Why a block of this kind cannot stand behind what is before it, on the way to this end.
std::string place_problem(const BlockKind& row, const FeedSoFar& before, bool source_before, FeedEnd end) {
  if (!row.serves(end))
    return end == FeedEnd::bus     ? "has no place in a path to a bridge's bus; take it out"
           : end == FeedEnd::plate ? "has no place in a tube's supply; take it out"
                                   : "belongs to a bridge's bus; take it out";
  if (row.place == source && source_before)
    return "there is a transformer or another source already; use its series count";
  if (row.place == mains && source_before) return "belongs on the mains side, before the transformer";
  if (row.place == mains && end == FeedEnd::bus && before.direct)
    return "belongs on the mains side, before the rectifier";
  if (row.place == behind && end != FeedEnd::bus && !source_before) return "needs a transformer before it";
  if ((row.shifts && (before.direct || before.shifted)) || (row.rectifies && before.direct))
    return "there is a rectifier already";
  if (row.needs_direct && !before.direct && !before.shifted)
    return "needs direct current; put a bridge or a doubler before it";
  return {};
}

// What a path lacks as a whole.
std::string missing_from(const std::vector<FeedBlock>& feed, FeedEnd end, const FeedSoFar& last,
                         const BlockKind* source_row) {
  if (end == FeedEnd::tank) return source_row ? "" : "there is no transformer; add one before the tank";
  if (end == FeedEnd::plate) {
    if (!source_row) return "there is no transformer; add one before the plate coil";
    return last.negative ? "its diodes are reversed, so that the plate would be negative; turn them around" : "";
  }
  if (!last.direct) return "there is no rectifier; the bus needs direct current";
  if (last.negative) return "its diodes are reversed, so that the bus would be negative; turn them around";
  if (!(reservoir_of(feed).capacitance_f > 0))
    return "there is no reservoir to draw a burst from; add one behind "
           "the rectifier";
  return {};
}

} // namespace

std::string feed_problem(const std::vector<FeedBlock>& feed, FeedEnd end) {
  if (feed.empty())
    return end == FeedEnd::bus ? "there is no feed yet; add a rectifier to start with"
                               : "there is no feed yet; add a transformer to start with";
  FeedSoFar before;
  const BlockKind* source_row = nullptr;
  std::string without_effect; // on a source with its own supply
  for (std::size_t i = 0; i < feed.size(); ++i) {
    const FeedBlock& block = feed[i];
    const BlockKind* row = block_kind(block.kind);
    if (!row) return fmt::format("block {} is of the unknown kind “{}”", i + 1, block.kind);
    const std::string where = fmt::format("block {}, {}: ", i + 1, row->title);
    before.of_this_kind =
        static_cast<int>(std::count_if(feed.begin(), feed.begin() + static_cast<std::ptrdiff_t>(i),
                                       [&](const FeedBlock& b) { return b.kind == block.kind; }));
    std::string problem = place_problem(*row, before, source_row != nullptr, end);
    if (problem.empty() && row->problem) problem = row->problem(block, before);
    if (!problem.empty()) return where + problem;
    if (row->place == source) source_row = row;
    if (row->place == mains && !row->passes_driver && without_effect.empty())
      without_effect = where + "the driver has its own direct-current supply, on which it has no effect";
    if (row->rectifies || row->shifts) before.negative = is_reversed(block);
    before.shifted = before.shifted || row->shifts;
    before.direct = before.direct || row->rectifies || (row->rectifies_when && row->rectifies_when(block));
  }
  if (std::string missing = missing_from(feed, end, before, source_row); !missing.empty()) return missing;
  return source_row && source_row->own_supply ? without_effect : std::string();
}

Reservoir reservoir_of(const std::vector<FeedBlock>& feed) {
  Reservoir all;
  double bleed_s = 0, esr_s = 0;
  for (const FeedBlock& block : feed) {
    const BlockKind* row = block_kind(block.kind);
    if (!row || !row->reservoir) continue;
    const Reservoir one = row->reservoir(block);
    all.capacitance_f += one.capacitance_f;
    bleed_s += 1 / one.bleed_ohm;
    if (one.esr_ohm > 0) esr_s += 1 / one.esr_ohm;
    all.ripple_a += one.ripple_a;
    if (one.limit_v > 0) all.limit_v = all.limit_v > 0 ? std::min(all.limit_v, one.limit_v) : one.limit_v;
  }
  all.bleed_ohm = 1 / bleed_s;
  all.esr_ohm = esr_s > 0 ? 1 / esr_s : 0;
  return all;
}

std::optional<std::size_t> last_store(const std::vector<FeedBlock>& feed) {
  for (std::size_t i = feed.size(); i-- > 0;)
    if (const BlockKind* row = block_kind(feed[i].kind); row && row->reservoir) return i;
  return {};
}

double usual_bleeder_ohm(double farad, double most_ohm) {
  constexpr double time_constant_s = 18;
  return round_significant(std::clamp(time_constant_s / farad, 100.0, most_ohm), 2);
}

double unloaded_bus_v(const std::vector<FeedBlock>& feed, double mains_v) {
  double volts = std::numbers::sqrt2 * mains_v;
  for (const FeedBlock& block : feed) {
    const BlockKind* row = block_kind(block.kind);
    if (!row) continue;
    if (row->ratio) volts *= row->ratio(block);
    if (row->doubles) volts *= 2;
  }
  return volts;
}

namespace {

constexpr double zero_celsius_k = 273.15;

} // namespace

double Thermistor::ohm(double temperature_c) const {
  return cold_ohm * std::exp(thermistor_b_k *
                             (1 / (temperature_c + zero_celsius_k) - 1 / (thermistor_cold_c + zero_celsius_k)));
}

double Thermistor::settled_ohm(double rms_a) const {
  // Its heat less what leaves it falls with temperature from the first balance on.
  double low = thermistor_cold_c, high = 400;
  for (int i = 0; i < 60; ++i) {
    const double middle = (low + high) / 2;
    (rms_a * rms_a * ohm(middle) > dissipation_w_per_k * (middle - thermistor_cold_c) ? low : high) = middle;
  }
  return ohm(low);
}

std::optional<Thermistor> thermistor_of(const FeedBlock& block) {
  const double cold = block_value(block, "resistance_ohm"), hot = block_value(block, "hot_ohm");
  if (!(hot > 0) || hot >= cold) return {};
  const double amps = block_value(block, "rated_current_a");
  const double hot_c =
      1 / (1 / (thermistor_cold_c + zero_celsius_k) + std::log(hot / cold) / thermistor_b_k) - zero_celsius_k;
  if (!(hot_c > thermistor_cold_c)) return {}; // no temperature makes that of it
  const double per_k = amps * amps * hot / (hot_c - thermistor_cold_c);
  return Thermistor{cold, hot, per_k, per_k * thermistor_tau_s};
}

double string_voltage_v(const FeedBlock& block) {
  const double series = block_value(block, "diodes_in_series"), each = block_value(block, "inverse_voltage_v");
  return each * series * string_share(static_cast<int>(series), each, block_value(block, "sharing_ohm"));
}

double string_current_a(const FeedBlock& block) {
  const double parallel = block_value(block, "diodes_in_parallel");
  return block_value(block, "average_current_a") * parallel * (parallel > 1 ? diode_current_share : 1);
}

DiodeString substitute_string(const FeedBlock& block, double inverse_v, double average_a) {
  return diode_string(string_voltage_v(block), string_current_a(block), inverse_v, average_a,
                      block_value(block, "sharing_ohm"));
}

double driver_hz(double inductance_h, double capacitance_f) {
  return resonance_hz(inductance_h, capacitance_f);
}

double driver_switch_peak_v(double supply_v) {
  return std::numbers::pi * supply_v;
}

double resonant_charge_s(double inductance_h, double capacitance_f) {
  return std::numbers::pi * std::sqrt(inductance_h * capacitance_f);
}

double choke_for_rate_h(double rate_hz, double capacitance_f) {
  return 1 / (std::pow(std::numbers::pi * rate_hz, 2) * capacitance_f);
}

double breaker_trip_s(double rated_a, double current_a, bool type_c) {
  const double times = current_a / rated_a;
  const double magnetic = type_c ? 7.5 : 4;
  if (times < 1.13) return std::numeric_limits<double>::infinity();
  if (times >= magnetic) return 0.02;
  if (times > 2.55) return 30 * std::pow(2.55 / times, 2); // the same heat in the bimetal
  // Log-log line through an hour at 1.45 and 30 s at 2.55.
  const double steepness = std::log(30.0 / 3600) / std::log(2.55 / 1.45);
  return 3600 * std::pow(times / 1.45, steepness);
}

int opposed_windings(double one_v, double all_v, int in_series) {
  if (!(one_v > 0)) return -1;
  for (int opposed = 0; 2 * opposed <= in_series; ++opposed)
    if (std::abs(all_v / one_v - (in_series - 2 * opposed)) <= 0.25) return opposed;
  return -1;
}

} // namespace arc

// What the tables of figures of bridges share: where values come from, limits and sources.
#pragma once

#include "circuit/feed.h"
#include "crafts/bridges/bridge.h"
#include "parts/bank.h"
#include "simulation/figures.h"

#include <cmath>
#include <fmt/format.h>

#include <span>

namespace arc::bridge_figure {

using enum Dimension;

inline constexpr std::string_view burst_limits =
    "Switches are straight lines and their diodes hold no charge; the streamer is a constant resistor behind a "
    "constant capacitance; the reservoir is not recharged within the burst; the bus has no stray inductance.";
inline constexpr std::string_view burst_source =
    "One burst solved exactly between its events. Ten circuits solved by an independent program agree: amperes and "
    "volts 0.13 %, energies 0.1 %, losses 0.7 %";
inline constexpr std::string_view burst_doubts =
    "Resonance and coupling by their own bands, Q by 20 %, the bus by 5 %, "
    "delays by 20 %, the tank by its marking: "
    "one at a time, both ways, summed in squares";
inline constexpr std::string_view edge_limits =
    "By formula beside the waveform, from the data sheet's times: a straight fall or rise of the current against "
    "the whole bus.";
inline constexpr std::string_view textbook = "Textbook circuit theory";
inline constexpr std::string_view path_limits =
    "House wiring is 0.15 ohm without inductance, diodes 0.03 ohm without their knee; one instant of switching on; "
    "a burst's current is even over its time.";
inline constexpr std::string_view path_source =
    "The path solved exactly between its events; a SPICE program agrees within 3 %, the bus within 0.5 %";
inline constexpr std::string_view path_doubts =
    "The mains by 5 % (half of what EN 50160 allows; from memory), the reservoir by 20 %, a burst by its own band: "
    "one at a time, summed in squares";
inline constexpr std::string_view heat_limits =
    "Two thermal elements of the data sheet and the sink as one more; losses "
    "do not rise with temperature; the load "
    "is shared evenly.";
inline constexpr std::string_view heat_source =
    "Foster network of data sheets: a burst's rise and the geometric series of a train";
inline constexpr std::string_view gate_source = "Faraday's law; the gate's charge as its data sheet states it";

inline const BridgeAnalysis& bridge_of(const PowerView& o) {
  return *o.power.of<BridgeAnalysis>();
}
inline bool ran(const PowerView& o) {
  return bridge_of(o).problem.empty();
}
inline bool planned(const PowerView& o) {
  return ran(o) && bridge_of(o).plan_problem.empty() && bridge_of(o).plan.rate_hz > 0;
}

template <auto... Path>
std::optional<double> burst(const PowerView& o) {
  return ran(o) ? follow<&BridgeAnalysis::burst, Path...>(bridge_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> mains(const PowerView& o) {
  return follow<&BridgeAnalysis::mains, Path...>(bridge_of(o));
}
template <auto... Path>
std::optional<double> plan(const PowerView& o) {
  return planned(o) ? follow<Path...>(bridge_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> with_run(const PowerView& o) {
  return ran(o) ? follow<Path...>(bridge_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> rated(const PowerView& o) {
  return follow<&Design::bridge, Path...>(o.design);
}
template <auto... Path>
std::optional<double> rated_switch(const PowerView& o) {
  return rated<&Bridge::device, Path...>(o);
}
inline std::optional<double> drawn(const PowerView& o) { // from the bus, of which losses are a part
  return burst<&BurstResult::bus_j>(o);
}
inline std::optional<double> in_series(const PowerView& o, double value) {
  return when(ran(o) && bridge_of(o).circuit.series_f.has_value(), value);
}
inline std::optional<double> reservoir_f(const PowerView& o) {
  return when(bridge_of(o).mains != nullptr, reservoir_of(o.design.feed).capacitance_f);
}
inline const FeedBlock* shunt_of(const PowerView& o) {
  return bridge_of(o).mains ? find_block(o.design.feed, BlockRole::shunt) : nullptr;
}

inline constexpr std::string_view on_bridge = "bridge", on_gate = "gate", on_both = "bridge gate", on_feed = "feed";

std::span<const Figure> burst_rows();
std::span<const Figure> switches_rows();
std::span<const Figure> train_rows();
std::span<const Figure> path_rows();

} // namespace arc::bridge_figure

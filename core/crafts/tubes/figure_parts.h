// What the tables of figures of tube coils share: where values come from, limits and sources.
#pragma once

#include "crafts/tubes/tube.h"
#include "simulation/figures.h"

#include <cmath>
#include <fmt/format.h>

#include <span>

namespace arc::tube_figure {

using enum Dimension;

inline constexpr std::string_view run_limits =
    "Electrode capacitances are constant; no electron transit, no secondary emission from the grid; the arc is a "
    "constant resistor behind a constant capacitance on the first mode.";
inline constexpr std::string_view run_source =
    "Run in time, the tube after Child and Langmuir (Phys. Rev. 32 (1911) 492; 2 (1913) 450) with the textbook's "
    "equivalent diode voltage (Spangenberg, Vacuum Tubes, 1948, from memory). Nine solved circuits agree within "
    "0.2 %, "
    "decks in the SPICE program within 1.3 %";
inline constexpr std::string_view run_doubts =
    "Resonance and coupling by their own bands, Q by 20 %, perveance by 15 %, mu by 10 %, grid leak and supply by "
    "5 %, "
    "the tank by half its marking: by the balance, one at a time, summed in squares";
inline constexpr std::string_view path_limits =
    "A resistor takes the oscillator's power; house wiring is 0.15 ohm; diodes without a knee.";
inline constexpr std::string_view path_source =
    "The path solved exactly between its events; a SPICE program agrees within 3 %";
inline constexpr std::string_view warmth_limits = "Plate and grid warm with one time constant each; cold at first.";

inline const TubePower& tube_of(const PowerView& o) {
  return *o.power.of<TubePower>();
}
inline bool ran(const PowerView& o) {
  return tube_of(o).problem.empty();
}
template <auto... Path>
std::optional<double> run(const PowerView& o) {
  return ran(o) ? follow<&TubePower::run, Path...>(tube_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> with_run(const PowerView& o) {
  return ran(o) ? follow<Path...>(tube_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> mains(const PowerView& o) {
  return ran(o) ? follow<&TubePower::mains, Path...>(tube_of(o)) : std::nullopt;
}
template <auto... Path>
std::optional<double> rated(const PowerView& o) {
  return follow<&Design::tube, Path...>(o.design);
}
template <auto... Path>
std::optional<double> fired(const PowerView& o) { // by a thyristor
  return ran(o) && tube_of(o).circuit.staccato ? run<Path...>(o) : std::nullopt;
}
inline std::optional<double> input(const PowerView& o) {
  return run<&TubeResult::plate_input_w>(o);
}
inline std::optional<double> while_on(const PowerView& o) {
  return when(ran(o), tube_of(o).run.plate_input_w / std::max(tube_of(o).duty, 1e-3));
}
inline const CapacitorLoad* shifter(const PowerView& o) {
  const auto& m = tube_of(o).mains;
  return ran(o) && m && !m->capacitors.empty() ? &m->capacitors.front() : nullptr;
}
template <auto Member>
std::optional<double> of_shifter(const PowerView& o) {
  const CapacitorLoad* c = shifter(o);
  return c ? std::optional<double>(c->*Member) : std::nullopt;
}

inline constexpr std::string_view on_tube = "oscillator", on_gate = "staccato", on_both = "oscillator staccato",
                                  on_feed = "feed", on_tube_feed = "oscillator feed";

std::span<const Figure> run_rows();
std::span<const Figure> over_time_rows();
std::span<const Figure> path_rows();

} // namespace arc::tube_figure

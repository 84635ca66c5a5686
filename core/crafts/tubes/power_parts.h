// Steps of a tube coil's simulation beside its run: what is tried, swept and read for advice.
#pragma once

#include "crafts/tubes/tube.h"

namespace arc {

/// Single changes by the balance at the supply's crest, ranked by output for the same plate heat.
void try_changes(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work,
                 TubePower& out);
/// The one thing put right that betters the share of the input at the coil the most, at the supply's crest.
void find_waste(const Design& design, const Analysis& analysis, UnitSystem units, const Work& work, TubePower& out);
/// Each number of the oscillator alone, and pairs of them against each other, by the balance at the crest.
void sweep_numbers(const Design& design, const Analysis& analysis, const Work& work, TubePower& out);
/// What meters say while the variac comes up.
void read_meters(const Design& design, const Analysis& analysis, const Work& work, TubePower& out);
/// The balance at the crest of the design; empty where it does not swing.
std::optional<TubeBalance> balance_of(const Design& design, const Analysis& analysis);

} // namespace arc

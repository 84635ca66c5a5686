// What figures and findings come from, without the words beside it.
#pragma once

#include "model/design.h"

namespace arc {

/// The design with every example given.
Design without_examples(Design design);

/// The design with everything taken away that neither analyse() nor a simulation computes with: its name and those
/// of sections, notes, kept toploads, logged runs, what was dismissed or confirmed, what is an example, and keys
/// that this version does not know. Two designs are the same coil, electrically, when their inputs are equal.
Design inputs_of(Design design);

} // namespace arc

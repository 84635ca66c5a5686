// Whole designs kept beside the present one, by name: the same coil with another topload, or another coil. Each is
// an ordinary design; which of them is "the" design is the builder's choice.
#pragma once

#include "model/design.h"

#include <cstddef>
#include <string>
#include <string_view>

namespace arc {

/// "Wide top", or "Wide top 2" where another variant has that name. An empty one becomes "Variant".
std::string free_variant_name(const Design& design, std::string_view wanted);

/// Keeps `what` (usually the design as it is) as a variant behind the others, under the name or the next that is
/// free. Its runs, marks and variants stay out. False, and nothing done, where most_variants are kept already.
bool keep_variant(Design& design, const Design& what, std::string_view name);

/// Gives it another name, or the next that is free. These throw std::out_of_range where there is no such variant.
void rename_variant(Design& design, std::size_t index, std::string_view name);
void remove_variant(Design& design, std::size_t index);

/// The variant becomes the design, and what the design was stays in its place as "Before <name>" (and that one,
/// promoted, leaves "<name>"); runs, marks and the other variants stay. Confirmed stages fall where what was
/// confirmed is not what stands now.
void promote_variant(Design& design, std::size_t index);

} // namespace arc

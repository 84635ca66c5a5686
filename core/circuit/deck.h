// What every SPICE deck of this program has in common.
#pragma once

#include <string>
#include <string_view>

namespace arc {

/// A title as the first line of a deck: one comment line of plain letters, digits and a few marks, whatever was
/// typed. A line break in a name must never become a line of the deck.
std::string deck_title(std::string_view name, std::string_view what);

} // namespace arc

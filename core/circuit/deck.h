// What every SPICE deck of this program has in common.
#pragma once

#include "circuit/network.h"

#include <fmt/format.h>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace arc {

/// A title as the first line of a deck: one comment line of plain letters, digits and a few marks, whatever was
/// typed. A line break in a name must never become a line of the deck.
std::string deck_title(std::string_view name, std::string_view what);

/// A deck that is written line by line: line("R1 n1 0 {}", ohm).
struct Deck {
  std::string text;
  template <typename... T>
  void operator()(fmt::format_string<T...> form, T&&... values) {
    text += fmt::format(form, std::forward<T>(values)...) + "\n";
  }
};

/// Resistors, inductors (saturating ones by their flux) and their couplings, capacitors and diodes of a network,
/// nodes as n0, n1, ...; all diodes are alike. What its deck writes itself is left out: resistors and capacitors by
/// their place in the network.
std::string deck_parts(const Network& network, const std::vector<std::size_t>& own_resistors,
                       const std::vector<std::size_t>& own_capacitors);

} // namespace arc

// A number of a design is given, an example or absent. Examples stand in a new design so that something can be seen
// at once: nobody has typed them. They compute like any other, as a preview; the coil is not armed while one
// counts.
#pragma once

#include "craft/finding.h"
#include "model/design.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

inline constexpr std::size_t most_examples = 100000; // paths in a file

/// A path as this program writes it: "feed.2.key" as "feed[2].key".
std::string bracketed_path(const std::string& path);

/// Paths of all examples in file order: "secondary.turns", "feed[2].resistance_ohm".
std::vector<std::string> example_paths(const Design& design);
/// Those that count for this kind of coil: none of a group that only others use.
std::vector<std::string> counting_examples(const Design& design);
/// Whether the number at the path is one.
bool is_example(const Design& design, std::string_view path);

/// Every number that counts for the kind becomes an example, but for tolerances, measurements and kept toploads.
void mark_examples(Design& design);
void mark_examples(FeedBlock& block);
void mark_examples(ToploadPart& part);
/// make_block() with examples for numbers. Throws std::out_of_range as it does.
FeedBlock example_block(std::string_view kind);
/// Those at these paths do; paths of no number are left out, and given back. `feed.2.key` is read like
/// `feed[2].key`.
std::vector<std::string> mark_examples(Design& design, const std::vector<std::string>& paths);

/// Examples become given: all of them, or one.
void take_examples(Design& design);
void take_example(Design& design, std::string_view path);
/// Those whose value has been changed are given from now on.
void settle_examples(Design& design);

/// Says how many count, of which stages, with the remedy to take them all; nothing where none does.
std::optional<Finding> examples_finding(const Design& design);

} // namespace arc

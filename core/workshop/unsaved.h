// Work that is not saved yet, as it is kept until the builder decides: the design as it stands, the file that it
// belongs to, and what goes on at the coil. One JSON text with the design's own file inside.
#pragma once

#include "file/design_file.h"
#include "workshop/arming.h"

#include <string>
#include <string_view>

namespace arc {

struct Unsaved {
  Design design;
  std::string origin;  // path of the design's own file; empty when it was never saved
  std::string stamp;   // of that file as it was last read or written; empty when it is not known
  bool changed = true; // the design differs from that file
  RunDraft draft;
  bool operator==(const Unsaved&) const = default;
};

/// What can be offered without reading the whole.
struct UnsavedHead {
  std::string name, origin;
  bool changed = true;
  bool run = false; // going on or not logged
};

/// read_unsaved(write_unsaved(u)) == u for any design that can be kept.
std::string write_unsaved(const Unsaved& unsaved);
/// Both read what earlier versions left, a design's file alone, too. Throw DesignFileError.
Unsaved read_unsaved(std::string_view text);
UnsavedHead read_unsaved_head(std::string_view text);

/// Bytes that may stand beside the design in such a text.
inline constexpr std::size_t most_beside_design = 8u << 20;

} // namespace arc

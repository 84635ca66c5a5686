// Reads and writes a design as one UTF-8 JSON file (docs/file-format.md): SI units, names end in their unit, keys
// that this version does not know survive a round trip. A file is taken whole or not at all.
#pragma once

#include "model/design.h"

#include <span>
#include <stdexcept>
#include <string>
#include <string_view>

namespace arc {

/// What is wrong with a file: the key's path ("secondary.turns"), its line (0 when unknown), and what would be
/// right.
class DesignFileError : public std::runtime_error {
 public:
  DesignFileError(const std::string& message, std::string path, int line);
  const std::string& path() const { return path_; }
  int line() const { return line_; }

 private:
  std::string path_;
  int line_;
};

inline constexpr int design_file_version = 1;
inline constexpr std::size_t largest_design_file_bytes = 128u << 20;

/// Parses the text of a design file, migrating older versions. Throws DesignFileError.
Design read_design(std::string_view text);

/// The file's text, ready to store; ends with a newline. read_design(write_design(d)) == d. In lines, or in one
/// when only that is within the bound above.
std::string write_design(const Design& design);

/// Why a design cannot be kept in a file that is read again: its text would pass a bound. Empty when it can.
std::string too_large_to_keep(const Design& design);

/// What a design's file holds but for format, version, runs and their designs.
Json json_of(const Design& design);

/// One logged run alone, as it stands in a design's file. Throws DesignFileError with the key's path.
Json json_of(const Run& run);
Run run_of(const Json& json);

/// One step of the migration seam: changes a document of version `from` into version `from + 1`.
struct Migration {
  int from;
  void (*step)(Json& document);
};

/// Applies the steps that lead from the document's version to `target`. Throws DesignFileError when one is missing
/// or when the document is newer than `target`.
void migrate(Json& document, std::span<const Migration> steps, int target);

} // namespace arc

// JSON as it comes from files that anybody may have written: parsed whole or refused with the place and what would
// be right. Bounds depth and refuses keys that stand twice, so that nothing behind it needs to.
#pragma once

#include "quantity/extras.h"

#include <stdexcept>
#include <string>
#include <string_view>

namespace arc {

/// Objects and lists inside each other; no file of this program needs a quarter of it.
inline constexpr int deepest_json = 40;
inline constexpr std::size_t most_json_values = 4'000'000; // a hundred thousand runs hold three million
inline constexpr std::size_t most_json_keys = 1000;        // of one object

/// What is wrong with a text: the key's path (may be empty), its line (0 when unknown), and what would be right.
class JsonTextError : public std::runtime_error {
 public:
  JsonTextError(const std::string& message, std::string path, int line)
      : std::runtime_error(message), path_(std::move(path)), line_(line) {}
  const std::string& path() const { return path_; }
  int line() const { return line_; }

 private:
  std::string path_;
  int line_;
};

/// Parses a text. `what` names the kind of file for messages ("a High Arc design"). Throws JsonTextError when the
/// text is empty, not JSON, cut off, beyond the bounds above, holds a key twice in one object or a number beyond
/// what a double can hold. `wrapped`: levels by which a file of ours stands inside another. `values`, when given:
/// how many there are.
Json parse_json(std::string_view text, std::string_view what, int wrapped = 0, std::size_t* values = nullptr);

/// Line (from 1) of the value at `path` ("topload[1].shape"), or 0 when it is not there. `text` must be valid JSON.
int json_line_of(std::string_view text, std::string_view path);

/// A message with its place in front: "topload[1].shape (line 14): ...".
std::string with_place(const std::string& path, int line, const std::string& message);

/// A value as it may stand in a message: at most 40 characters.
std::string describe(const Json& value);

} // namespace arc

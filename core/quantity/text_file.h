// Files that anybody may have named: only ordinary ones are read, whole, and never more than fits.
#pragma once

#include <cstddef>
#include <stdexcept>
#include <string>

namespace arc {

/// What is wrong with a file, without its name: "cannot be opened: Permission denied".
class TextFileError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// Reads a whole file of at most `most_bytes`. What is looked at is what was opened: a file that another replaces
/// meanwhile makes no difference. Folders, pipes, devices, sockets and links in a circle are refused, without
/// waiting for them. Throws TextFileError.
std::string read_text_file(const std::string& path, std::size_t most_bytes);

/// Writes a whole file; throws TextFileError when it cannot be written to its end.
void write_text_file(const std::string& path, const std::string& text);

} // namespace arc

// By the system's own calls: only they tell what was opened.
#include "quantity/text_file.h"

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <memory>
#include <sys/stat.h>
#include <unistd.h>

namespace arc {
namespace {

struct Closed {
  explicit Closed(int handle) : fd(handle) {}
  ~Closed() {
    if (fd >= 0) close(fd);
  }
  Closed(const Closed&) = delete;
  Closed& operator=(const Closed&) = delete;
  int fd;
};

[[noreturn]] void fail(const char* what, int number) {
  throw TextFileError(fmt::format("{}: {}", what, std::strerror(number)));
}

void want_ordinary(const struct stat& found) {
  const auto refuse = [](const char* what) {
    throw TextFileError(fmt::format("is {}; choose an ordinary file", what));
  };
  if (S_ISDIR(found.st_mode)) throw TextFileError("is a folder; choose a file in it");
  if (S_ISFIFO(found.st_mode)) refuse("a pipe");
  if (S_ISSOCK(found.st_mode)) refuse("a socket");
  if (!S_ISREG(found.st_mode)) refuse("a device");
}

void want_fitting(std::size_t bytes, std::size_t most_bytes) {
  if (bytes > most_bytes)
    throw TextFileError(fmt::format("is {} MB; at most {} MB are read", bytes >> 20, most_bytes >> 20));
}

} // namespace

std::string read_text_file(const std::string& path, std::size_t most_bytes) {
  if (path.find('\0') != std::string::npos) throw TextFileError("has a name that no file can have");
  struct stat found = {};
  if (stat(path.c_str(), &found) != 0) fail("cannot be opened", errno);
  want_ordinary(found); // opening some devices does something
  const Closed file(open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC | O_NOCTTY));
  if (file.fd < 0) fail("cannot be opened", errno);
  if (fstat(file.fd, &found) != 0) fail("cannot be read", errno);
  want_ordinary(found);
  want_fitting(static_cast<std::size_t>(found.st_size), most_bytes);
  std::string text;
  text.reserve(static_cast<std::size_t>(found.st_size));
  char part[1 << 16];
  for (;;) {
    const ssize_t n = read(file.fd, part, sizeof part);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) fail("cannot be read", errno);
    if (n == 0) return text;
    text.append(part, static_cast<std::size_t>(n));
    want_fitting(text.size(), most_bytes); // it may grow, and some files say that they are empty
  }
}

void write_text_file(const std::string& path, const std::string& text) {
  const std::unique_ptr<std::FILE, int (*)(std::FILE*)> file(std::fopen(path.c_str(), "wb"), &std::fclose);
  errno = file ? 0 : errno;
  if (!file || std::fwrite(text.data(), 1, text.size(), file.get()) != text.size() || std::fflush(file.get()) != 0)
    fail("cannot be written", errno);
}

} // namespace arc

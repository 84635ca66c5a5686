// Walks the text once, keeping the path of the value it is in; no values are built.
#include "design/json_lines.h"

#include <fmt/format.h>
#include <string>

namespace arc {
namespace {

class Walker {
 public:
  Walker(std::string_view text, std::string_view wanted) : text_(text), wanted_(wanted) {}

  int find() {
    value("");
    return found_;
  }

 private:
  void skip_spaces() {
    while (at_ < text_.size() && std::string_view(" \t\r\n").find(text_[at_]) != std::string_view::npos) {
      if (text_[at_] == '\n') ++line_;
      ++at_;
    }
  }

  std::string string_token() {
    std::string out;
    for (++at_; at_ < text_.size() && text_[at_] != '"'; ++at_) {
      if (text_[at_] == '\\') ++at_;
      if (at_ < text_.size()) out.push_back(text_[at_]);
    }
    ++at_;
    return out;
  }

  bool take(char c) {
    skip_spaces();
    if (at_ >= text_.size() || text_[at_] != c) return false;
    ++at_;
    return true;
  }

  void value(const std::string& path) {
    skip_spaces();
    if (found_ == 0 && path == wanted_) found_ = line_;
    if (at_ >= text_.size() || found_ != 0) return;
    if (++depth_ > deepest) at_ = text_.size();
    if (at_ < text_.size() && text_[at_] == '"') {
      string_token();
    } else if (take('{')) {
      while (!take('}') && at_ < text_.size() && found_ == 0) {
        take(',');
        skip_spaces();
        const std::string key = string_token();
        take(':');
        value(path.empty() ? key : path + "." + key);
      }
    } else if (take('[')) {
      for (int index = 0; !take(']') && at_ < text_.size() && found_ == 0; ++index) {
        take(',');
        value(fmt::format("{}[{}]", path, index));
      }
    } else {
      while (at_ < text_.size() && std::string_view(",]} \t\r\n").find(text_[at_]) == std::string_view::npos) ++at_;
    }
    --depth_;
  }

  static constexpr int deepest = 500; // deeper than any design; guards the stack

  std::string_view text_;
  std::string_view wanted_;
  std::size_t at_ = 0;
  int line_ = 1;
  int depth_ = 0;
  int found_ = 0;
};

} // namespace

int json_line_of(std::string_view text, std::string_view path) {
  return Walker(text, path).find();
}

} // namespace arc

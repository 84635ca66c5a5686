// Two walks: one checks the text as it is parsed, one finds the line of a path and builds no values.
#include "quantity/json_text.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <set>
#include <vector>

namespace arc {
namespace {

// Follows the parser: where it is, how deep, and which keys each open object has had.
class Checker {
 public:
  Checker(std::string_view text, int wrapped, Json& out)
      : text_(text), deepest_(deepest_json + wrapped), maker_(out) {}

  std::size_t values() const { return values_; }

  bool null() { return value() && maker_.null(); }
  bool boolean(bool v) { return value() && maker_.boolean(v); }
  bool number_integer(Json::number_integer_t v) { return value() && maker_.number_integer(v); }
  bool number_unsigned(Json::number_unsigned_t v) { return value() && maker_.number_unsigned(v); }
  bool number_float(Json::number_float_t v, const std::string& s) { return value() && maker_.number_float(v, s); }
  bool string(std::string& v) { return value() && maker_.string(v); }
  bool binary(Json::binary_t& v) { return value() && maker_.binary(v); }
  bool start_object(std::size_t n) { return open(true) && maker_.start_object(n); }
  bool start_array(std::size_t n) { return open(false) && maker_.start_array(n); }
  bool end_object() { return maker_.end_object() && close(); }
  bool end_array() { return maker_.end_array() && close(); }
  bool key(std::string& name) {
    Level& level = levels_.back();
    if (!level.keys.insert(name).second) {
      const std::string where = path(name);
      const int line = json_line_of(text_, where);
      throw JsonTextError(with_place(where, line, "stands here twice; keep one of the two"), where, line);
    }
    level.key = name;
    if (level.keys.size() > most_json_keys) refuse(fmt::format("more than {} keys in one object", most_json_keys));
    return maker_.key(name);
  }
  bool parse_error(std::size_t position, const std::string&, const nlohmann::detail::exception& error) {
    const auto byte = std::min(position, text_.size());
    const int line = 1 + static_cast<int>(std::count(text_.begin(), text_.begin() + static_cast<long>(byte), '\n'));
    constexpr int number_overflow = 406; // of the JSON library
    const char* why =
        error.id == number_overflow ? "a number here is too large to be real"
        : position >= text_.size()
            ? "the file ends in the middle; it seems to be cut off"
            : "this is not valid JSON here (NaN, a stray comma or a missing quote are the usual causes)";
    throw JsonTextError(fmt::format("line {}: {}", line, why), "", line);
  }

 private:
  struct Level {
    bool object = false;
    std::set<std::string> keys;
    std::string key;
    std::size_t index = 0;
  };

  std::string path(const std::string& last) const {
    std::string out;
    for (std::size_t i = 0; i < levels_.size(); ++i) {
      const Level& level = levels_[i];
      const std::string& name = i + 1 == levels_.size() ? last : level.key;
      out += level.object ? (out.empty() ? name : "." + name) : fmt::format("[{}]", level.index);
    }
    return out;
  }
  [[noreturn]] void refuse(const std::string& why) const {
    const std::string where = levels_.empty() ? std::string() : levels_.front().key;
    throw JsonTextError(with_place(where, 0, why + "; no design or shelf has so many"), where, 0);
  }
  bool value() {
    if (++values_ > most_json_values) refuse(fmt::format("more than {} values", most_json_values));
    if (!levels_.empty() && !levels_.back().object) ++levels_.back().index;
    return true;
  }
  bool open(bool object) {
    if (static_cast<int>(levels_.size()) >= deepest_)
      refuse(fmt::format("lists or objects nested more than {} deep", deepest_));
    levels_.emplace_back().object = object;
    return true;
  }
  bool close() {
    levels_.pop_back();
    return value();
  }

  std::string_view text_;
  int deepest_;
  nlohmann::detail::json_sax_dom_parser<Json> maker_; // what the library makes of a text itself
  std::vector<Level> levels_;
  std::size_t values_ = 0;
};

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
    if (++depth_ > deepest_json + 1) at_ = text_.size();
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

  std::string_view text_;
  std::string_view wanted_;
  std::size_t at_ = 0;
  int line_ = 1;
  int depth_ = 0;
  int found_ = 0;
};

} // namespace

Json parse_json(std::string_view text, std::string_view what, int wrapped, std::size_t* values) {
  if (text.find_first_not_of(" \t\r\n") == std::string_view::npos)
    throw JsonTextError(fmt::format("the file is empty; expected {} (JSON)", what), "", 0);
  Json out;
  Checker checker(text, wrapped, out);
  Json::sax_parse(text, &checker);
  if (values) *values = checker.values();
  return out;
}

int json_line_of(std::string_view text, std::string_view path) {
  return Walker(text, path).find();
}

std::string with_place(const std::string& path, int line, const std::string& message) {
  if (path.empty()) return message;
  return line > 0 ? fmt::format("{} (line {}): {}", path, line, message) : fmt::format("{}: {}", path, message);
}

std::string describe(const Json& value) {
  std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
  if (text.size() > 40) text = text.substr(0, 37) + "...";
  return text;
}

} // namespace arc

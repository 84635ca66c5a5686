// Reading quantities as builders write them: a small hand-written scanner over code points.
#include "quantity/gauge.h"
#include "quantity/quantity.h"
#include "quantity/units.h"
#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <optional>
#include <utility>
#include <vector>

namespace arc {

using namespace units;

namespace {

std::u32string decode(std::string_view text) {
  std::u32string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto byte = static_cast<unsigned char>(text[i]);
    const int extra = byte < 0x80 ? 0 : (byte >> 5) == 6 ? 1 : (byte >> 4) == 14 ? 2 : (byte >> 3) == 30 ? 3 : -1;
    if (extra < 0 || i + static_cast<std::size_t>(extra) >= text.size()) {
      out.push_back(U'\uFFFD');
      ++i;
      continue;
    }
    char32_t code = extra == 0 ? byte : byte & (0x3FU >> extra);
    for (int k = 1; k <= extra; ++k) code = (code << 6) | (static_cast<unsigned char>(text[i + k]) & 0x3FU);
    out.push_back(code);
    i += static_cast<std::size_t>(extra) + 1;
  }
  return out;
}

std::string encode(char32_t c) {
  std::string out;
  if (c < 0x80) {
    out.push_back(static_cast<char>(c));
  } else if (c < 0x800) {
    out.push_back(static_cast<char>(0xC0 | (c >> 6)));
    out.push_back(static_cast<char>(0x80 | (c & 0x3F)));
  } else {
    out.push_back(static_cast<char>(0xE0 | (c >> 12)));
    out.push_back(static_cast<char>(0x80 | ((c >> 6) & 0x3F)));
    out.push_back(static_cast<char>(0x80 | (c & 0x3F)));
  }
  return out;
}

char32_t lower(char32_t c) {
  return c < 0x80 ? static_cast<char32_t>(std::tolower(static_cast<int>(c))) : c;
}

bool is_digit(char32_t c) {
  return c >= U'0' && c <= U'9';
}

bool is_space(char32_t c) {
  return c == U' ' || c == U'\t' || c == U'\u00A0' || c == U'\u2009' || c == U'\u202F';
}

class Scanner {
 public:
  Scanner(std::string_view text, Dimension dimension, UnitSystem units, double like)
      : text_(decode(text)), dimension_(dimension), units_(units), like_(like) {}

  ParseResult run() {
    skip_spaces();
    if (at_end()) return fail(fmt::format("nothing entered; expected {}", facts(dimension_).example));
    double sign = 1;
    if (peek() == U'-' || peek() == U'−') {
      sign = -1;
      ++at_;
    } else if (peek() == U'+') {
      ++at_;
    }
    skip_spaces();
    if (is_length(dimension_)) {
      if (auto gauge = leading_gauge()) return finish(sign * *gauge);
    }
    if (const auto marked = leading_letter()) return finish(sign * *marked);
    if (const auto coded = capacitor_code()) return finish(sign * *coded);
    double total = 0;
    bool any = false;
    while (!at_end()) {
      const std::size_t start = at_;
      const auto value = number();
      if (const auto* error = std::get_if<ParseError>(&value)) return *error;
      const auto scaled = with_unit(std::get<double>(value), any, start);
      if (const auto* error = std::get_if<ParseError>(&scaled)) return *error;
      total += std::get<double>(scaled);
      any = true;
      skip_spaces();
      if (!at_end() && !(is_length(dimension_) && last_unit_was_feet_)) return unexpected();
    }
    return finish(sign * total);
  }

 private:
  ParseResult finish(double value) {
    if (!std::isfinite(value)) return ParseError{0, "the number is too large to be real"};
    return value;
  }

  ParseError fail(std::string message) const { return {at_, std::move(message)}; }

  ParseError unexpected() const {
    return {at_, fmt::format("“{}” at character {} is not understood; expected something like {}",
                             encode(text_[at_]), at_ + 1, facts(dimension_).example)};
  }

  bool at_end() const { return at_ >= text_.size(); }
  char32_t peek(std::size_t ahead = 0) const { return at_ + ahead < text_.size() ? text_[at_ + ahead] : U'\0'; }
  void skip_spaces() {
    while (is_space(peek())) ++at_;
  }

  bool word_follows(std::u32string_view word) const {
    for (std::size_t i = 0; i < word.size(); ++i)
      if (lower(peek(i)) != lower(word[i])) return false;
    return true;
  }

  // "AWG 28" and "#28"
  std::optional<double> leading_gauge() {
    const std::size_t start = at_;
    if (word_follows(U"awg"))
      at_ += 3;
    else if (peek() == U'#')
      ++at_;
    else
      return std::nullopt;
    skip_spaces();
    const auto value = number();
    skip_spaces();
    if (const auto* gauge = std::get_if<double>(&value); gauge && at_end()) return awg_to_diameter_m(*gauge);
    at_ = start;
    return std::nullopt;
  }

  // "u15", "n47", "R22": the letter stands for the point, nothing before it.
  std::optional<double> leading_letter() {
    if (is_length(dimension_) || !takes_prefix(dimension_) || !is_digit(peek(1))) return std::nullopt;
    const bool ohms = dimension_ == Dimension::resistance && (peek() == U'R' || peek() == U'r');
    const auto factor = ohms ? std::optional(1.0) : prefix_factor(peek(), dimension_);
    std::size_t end = 1;
    while (is_digit(peek(end))) ++end;
    if (!factor || at_ + end != text_.size()) return std::nullopt;
    ++at_;
    std::string decimals = "0.";
    digits(decimals);
    return to_double(decimals) * *factor * (dimension_ == Dimension::mass ? 1e-3 : 1);
  }

  // "154J": two digits, a count of zeros, a letter of tolerance (IEC 60062); picofarads. 8 and 9 mean a hundredth
  // and a tenth. Letters that are also units or prefixes of farads in use (p, n, u, m, F) are not read so.
  std::optional<double> capacitor_code() {
    if (dimension_ != Dimension::capacitance || at_ + 4 != text_.size()) return std::nullopt;
    for (std::size_t i = 0; i < 3; ++i)
      if (!is_digit(peek(i))) return std::nullopt;
    if (std::u32string_view(U"BCDGJKMZjk").find(peek(3)) == std::u32string_view::npos) return std::nullopt;
    const auto digit = [&](std::size_t i) { return static_cast<double>(peek(i) - U'0'); };
    const double zeros = digit(2) == 8 ? -2 : digit(2) == 9 ? -1 : digit(2);
    const double value = (10 * digit(0) + digit(1)) * std::pow(10.0, zeros) * 1e-12;
    at_ = text_.size();
    return value;
  }

  std::optional<double> digits(std::string& out) {
    const std::size_t before = out.size();
    while (is_digit(peek())) out.push_back(static_cast<char>(text_[at_++]));
    return out.size() > before ? std::optional<double>(0) : std::nullopt;
  }

  static double to_double(const std::string& text) {
    double value = 0;
    const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
    return result.ec == std::errc::result_out_of_range ? HUGE_VAL : value;
  }

  static std::optional<double> vulgar_fraction(char32_t c) {
    switch (c) {
    case U'½':
      return 0.5;
    case U'¼':
      return 0.25;
    case U'¾':
      return 0.75;
    default:
      return std::nullopt;
    }
  }

  // Decimal number, whole number with fraction, plain fraction; leaves letter-for-point to with_unit().
  ParseResult number() {
    std::string text;
    const std::size_t start = at_;
    const bool whole = digits(text).has_value();
    const std::size_t whole_digits = text.size();
    if (whole && vulgar_fraction(peek())) return to_double(text) + *vulgar_fraction(text_[at_++]);
    if (!whole && vulgar_fraction(peek())) return *vulgar_fraction(text_[at_++]);
    if (peek() == U'.' || peek() == U',') {
      const bool comma = peek() == U',';
      const std::size_t mark = at_++;
      text.push_back('.');
      if (!digits(text) && !whole) {
        at_ = start;
        return unexpected();
      }
      const std::size_t decimals = text.size() - whole_digits - 1;
      if (peek() == U'.' || peek() == U',') return fail("two decimal marks in one number; write 1500.5 or 1500,5");
      if (comma && decimals == 3 && whole_digits > 0 && whole_digits <= 3 && text[0] != '0') {
        const std::string joined = text.substr(0, whole_digits) + text.substr(whole_digits + 1);
        return ParseError{mark,
                          fmt::format("“{},{}” could mean {} or {}; write it without the comma",
                                      text.substr(0, whole_digits), text.substr(whole_digits + 1), joined, text)};
      }
    } else if (!whole) {
      return unexpected();
    }
    if ((peek() == U'e' || peek() == U'E') &&
        (is_digit(peek(1)) || ((peek(1) == U'-' || peek(1) == U'+') && is_digit(peek(2))))) {
      text.push_back('e');
      ++at_;
      if (peek() == U'-' || peek() == U'+') {
        if (peek() == U'-') text.push_back('-');
        ++at_;
      }
      digits(text);
      return to_double(text);
    }
    return with_fraction(to_double(text), text.find('.') == std::string::npos);
  }

  // After a whole number: "/2" makes a fraction; " 1/2" adds one.
  ParseResult with_fraction(double whole, bool is_whole) {
    if (!is_whole) return whole;
    const std::size_t start = at_;
    if (peek() == U'/' && is_digit(peek(1))) {
      ++at_;
      std::string below;
      digits(below);
      const double divisor = to_double(below);
      if (divisor == 0) return ParseError{start + 1, "a fraction cannot be divided by 0"};
      return whole / divisor;
    }
    std::size_t ahead = 0;
    while (is_space(peek(ahead)) || peek(ahead) == U'-') ++ahead;
    if (ahead == 0 || !is_digit(peek(ahead))) {
      if (ahead > 0 && vulgar_fraction(peek(ahead))) {
        at_ += ahead;
        return whole + *vulgar_fraction(text_[at_++]);
      }
      return whole;
    }
    at_ += ahead;
    std::string above;
    digits(above);
    if (peek() != U'/' || !is_digit(peek(1))) {
      at_ = start;
      return whole;
    }
    ++at_;
    std::string below;
    digits(below);
    if (to_double(below) == 0) return fail("a fraction cannot be divided by 0");
    return whole + to_double(above) / to_double(below);
  }

  struct Match {
    double factor;
    std::size_t length;
    bool feet;
  };

  // Longest unit symbol at `from`, alone or after one prefix letter.
  std::optional<Match> match_unit() const {
    std::optional<Match> best;
    const auto consider = [&](const Unit& unit, std::size_t skip, double factor) {
      for (std::size_t i = 0; i < unit.symbol.size(); ++i)
        if (lower(peek(skip + i)) != lower(unit.symbol[i])) return;
      const std::size_t length = skip + unit.symbol.size();
      if (!best || length > best->length)
        best = Match{unit.factor * factor, length, unit.factor == 0.3048}; // feet may be followed by inches
    };
    for (const Unit& unit : facts(dimension_).units) {
      consider(unit, 0, 1);
      if (!unit.takes_prefix) continue;
      if (const auto factor = prefix_factor(peek(), dimension_)) consider(unit, 1, *factor);
    }
    return best;
  }

  // Letter for the decimal point: "4n7", "2R2", "1k5", "6V3".
  std::optional<double> letter_point(double whole) {
    if (!is_digit(peek(1)) || !takes_prefix(dimension_) || whole != std::floor(whole)) return std::nullopt;
    double factor = 0;
    const char32_t letter = peek();
    const std::string base(facts(dimension_).base);
    if (const auto prefix = prefix_factor(letter, dimension_); prefix && !is_length(dimension_))
      factor = *prefix;
    else if ((letter == U'R' || letter == U'r') && dimension_ == Dimension::resistance)
      factor = 1;
    else if (base.size() == 1 && lower(letter) == lower(static_cast<char32_t>(base[0])) && !is_length(dimension_))
      factor = 1;
    else
      return std::nullopt;
    ++at_;
    std::string decimals = "0.";
    digits(decimals);
    const double value = (whole + to_double(decimals)) * factor * (dimension_ == Dimension::mass ? 1e-3 : 1);
    skip_spaces();
    if (!at_end()) {
      for (const Unit& unit : facts(dimension_).units)
        if (word_follows(unit.symbol) && text_.size() - at_ == unit.symbol.size()) at_ = text_.size();
    }
    return value;
  }

  ParseResult with_unit(double value, bool is_second, std::size_t start) {
    last_unit_was_feet_ = false;
    if (const auto pointed = letter_point(value)) return *pointed;
    skip_spaces();
    if (at_end()) {
      if (is_second) return value * 0.0254; // 4' 6
      if (like_ != 0 && shown_unit(like_, dimension_, units_) == "AWG") return awg_to_diameter_m(value);
      return value * bare_factor();
    }
    if (is_length(dimension_) && word_follows(U"awg")) {
      at_ += 3;
      if (is_second) return ParseError{start, "a gauge cannot follow feet"};
      return awg_to_diameter_m(value);
    }
    if (is_length(dimension_) && word_follows(U"swg"))
      return fail("SWG is not known here; enter the bare diameter in mm or inches");
    if (const auto match = match_unit()) {
      const char32_t next = peek(match->length);
      if (next == U'\0' || is_space(next) || (match->feet && is_digit(next))) {
        at_ += match->length;
        last_unit_was_feet_ = match->feet && !is_second;
        return value * match->factor;
      }
    }
    if (const auto factor = prefix_factor(peek(), dimension_);
        factor && takes_prefix(dimension_) && at_ + 1 == text_.size() && !is_length(dimension_)) {
      ++at_;
      return value * *factor * (dimension_ == Dimension::mass ? 1e-3 : 1);
    }
    if (const auto other = unit_of_other_dimension()) return fail(*other);
    return unexpected();
  }

  std::optional<std::string> unit_of_other_dimension() const {
    struct Named {
      Dimension dimension;
      std::string_view name;
    };
    static constexpr std::array<Named, 7> named{{{Dimension::length, "a length"},
                                                 {Dimension::capacitance, "a capacitance"},
                                                 {Dimension::inductance, "an inductance"},
                                                 {Dimension::voltage, "a voltage"},
                                                 {Dimension::frequency, "a frequency"},
                                                 {Dimension::resistance, "a resistance"},
                                                 {Dimension::current, "a current"}}};
    const std::u32string rest = text_.substr(at_);
    for (const Named& other : named) {
      if (other.dimension == dimension_) continue;
      Scanner probe("", other.dimension, units_, 0);
      probe.text_ = rest;
      if (const auto match = probe.match_unit(); match && match->length == rest.size())
        return fmt::format("this is {}; expected something like {}", other.name, facts(dimension_).example);
    }
    return std::nullopt;
  }

  double bare_factor() const {
    if (like_ != 0) return unit_factor(shown_unit(like_, dimension_, units_));
    if (is_length(dimension_)) return units_ == UnitSystem::metric ? 1e-3 : 0.0254;
    if (dimension_ == Dimension::mass) return 1e-3;
    if (dimension_ == Dimension::slope) return 1e6;
    if (dimension_ == Dimension::fraction) return 0.01;
    return 1;
  }

  // SI value of one of a unit that format_quantity() prints.
  double unit_factor(const std::string& unit) const {
    if (unit.empty()) return 1;
    const ParseResult one = Scanner("1 " + unit, dimension_, units_, 0).run();
    const double* value = std::get_if<double>(&one);
    return value ? *value : 1;
  }

  std::u32string text_;
  Dimension dimension_;
  UnitSystem units_;
  double like_;
  std::size_t at_ = 0;
  bool last_unit_was_feet_ = false;
};

} // namespace

ParseResult parse_quantity(std::string_view text, Dimension dimension, UnitSystem units, double like) {
  return Scanner(text, dimension, units, like).run();
}

} // namespace arc

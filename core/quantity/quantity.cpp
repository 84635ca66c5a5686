// Reading: a small hand-written scanner over code points; each unit is one row of a table. Printing: engineering
// prefixes for electrical units, millimetres or inches for lengths. Gauge after ASTM B258 (see parts/wire.h).
#include "quantity/quantity.h"

#include "quantity/gauge.h"

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
namespace {

struct Unit {
  std::u32string_view symbol;
  double factor;
  bool takes_prefix;
};

struct DimensionFacts {
  std::string_view base;    // symbol printed after the prefix
  std::string_view example; // shown when an entry is not understood
  std::vector<Unit> units;
};

const DimensionFacts& facts(Dimension dimension) {
  static const DimensionFacts number{"", "12 or 9.5", {{U"turns", 1, false}, {U"turn", 1, false}}};
  static const DimensionFacts length{"m",
                                     "820 mm, 12 in or 4' 6\"",
                                     {{U"in", 0.0254, false},
                                      {U"inch", 0.0254, false},
                                      {U"inches", 0.0254, false},
                                      {U"\"", 0.0254, false},
                                      {U"″", 0.0254, false},
                                      {U"”", 0.0254, false},
                                      {U"''", 0.0254, false},
                                      {U"ft", 0.3048, false},
                                      {U"foot", 0.3048, false},
                                      {U"feet", 0.3048, false},
                                      {U"'", 0.3048, false},
                                      {U"′", 0.3048, false},
                                      {U"’", 0.3048, false},
                                      {U"yd", 0.9144, false},
                                      {U"mil", 2.54e-5, false},
                                      {U"thou", 2.54e-5, false},
                                      {U"m", 1, true}}};
  static const DimensionFacts wire{"m", "0.5 mm, 0.02 in or 24 AWG", length.units};
  static const DimensionFacts capacitance{"F",
                                          "4n7, 470p or 0.04 uF",
                                          {{U"F", 1, true},
                                           {U"mfd", 1e-6, false},
                                           {U"ufd", 1e-6, false},
                                           {U"mmf", 1e-12, false},
                                           {U"pfd", 1e-12, false}}};
  static const DimensionFacts inductance{"H", "39 uH or 69 mH", {{U"H", 1, true}}};
  static const DimensionFacts resistance{
      "Ω",
      "4k7, 2R2 or 10 Mohm",
      {{U"Ω", 1, true}, {U"Ω", 1, true}, {U"ohm", 1, true}, {U"ohms", 1, true}, {U"R", 1, false}}};
  static const DimensionFacts voltage{"V", "15 kV or 340V", {{U"V", 1, true}, {U"volts", 1, false}}};
  static const DimensionFacts current{"A", "30 mA or 8 A", {{U"A", 1, true}, {U"amps", 1, false}}};
  static const DimensionFacts frequency{
      "Hz", "108 kHz or 4.3 MHz", {{U"Hz", 1, true}, {U"c/s", 1, true}, {U"rpm", 1.0 / 60, false}}};
  static const DimensionFacts time{"s",
                                   "90 s, 150 us or 5 min",
                                   {{U"s", 1, true},
                                    {U"sec", 1, true},
                                    {U"min", 60, false},
                                    {U"h", 3600, false},
                                    {U"hour", 3600, false},
                                    {U"hours", 3600, false}}};
  static const DimensionFacts power{"W", "900 W or 1k5", {{U"W", 1, true}, {U"VA", 1, true}}};
  static const DimensionFacts energy{"J", "1.35 J or 350 mJ", {{U"J", 1, true}, {U"Ws", 1, true}}};
  static const DimensionFacts charge{"C", "180 uC", {{U"C", 1, true}, {U"As", 1, true}}};
  static const DimensionFacts mass{
      "g", "1.2 kg or 2 lb", {{U"g", 1e-3, true}, {U"lb", 0.45359237, false}, {U"oz", 0.028349523125, false}}};
  static const DimensionFacts temperature{"°C", "20 C", {{U"°C", 1, false}, {U"C", 1, false}}};
  static const DimensionFacts pressure{
      "hPa", "1013 hPa", {{U"hPa", 1, false}, {U"mbar", 1, false}, {U"kPa", 10, false}, {U"Pa", 0.01, false}}};
  static const DimensionFacts angle{"°", "30 deg", {{U"deg", 1, false}, {U"°", 1, false}}};
  static const DimensionFacts slope{"V/µs",
                                    "1500 V/us",
                                    {{U"V/us", 1e6, false},
                                     {U"V/µs", 1e6, false},
                                     {U"V/μs", 1e6, false},
                                     {U"kV/us", 1e9, false},
                                     {U"kV/µs", 1e9, false},
                                     {U"V/s", 1, false}}};
  static const DimensionFacts percent{"%", "80 %", {{U"%", 1, false}}};
  static const DimensionFacts fraction{"%", "5 %", {{U"%", 0.01, false}}};
  switch (dimension) {
  case Dimension::number:
  case Dimension::count:
    return number;
  case Dimension::length:
    return length;
  case Dimension::wire_diameter:
    return wire;
  case Dimension::capacitance:
    return capacitance;
  case Dimension::inductance:
    return inductance;
  case Dimension::resistance:
    return resistance;
  case Dimension::voltage:
    return voltage;
  case Dimension::current:
    return current;
  case Dimension::frequency:
    return frequency;
  case Dimension::time:
    return time;
  case Dimension::power:
    return power;
  case Dimension::energy:
    return energy;
  case Dimension::charge:
    return charge;
  case Dimension::mass:
    return mass;
  case Dimension::temperature:
    return temperature;
  case Dimension::pressure:
    return pressure;
  case Dimension::angle:
    return angle;
  case Dimension::slope:
    return slope;
  case Dimension::percent:
    return percent;
  case Dimension::fraction:
    return fraction;
  }
  return number;
}

bool is_length(Dimension d) {
  return d == Dimension::length || d == Dimension::wire_diameter;
}

bool takes_prefix(Dimension d) {
  return std::ranges::any_of(facts(d).units, [](const Unit& u) { return u.takes_prefix; });
}

struct Prefix {
  char32_t letter;
  double factor;
};
constexpr std::array<Prefix, 13> prefixes{{{U'f', 1e-15},
                                           {U'p', 1e-12},
                                           {U'n', 1e-9},
                                           {U'u', 1e-6},
                                           {U'µ', 1e-6},
                                           {U'μ', 1e-6},
                                           {U'm', 1e-3},
                                           {U'c', 1e-2},
                                           {U'd', 1e-1},
                                           {U'k', 1e3},
                                           {U'K', 1e3},
                                           {U'M', 1e6},
                                           {U'G', 1e9}}};

std::optional<double> prefix_factor(char32_t letter, Dimension d) {
  if ((letter == U'c' || letter == U'd') && !is_length(d)) return std::nullopt;
  if (letter == U'm' && d == Dimension::frequency) return 1e6; // nobody tunes a coil to millihertz
  for (const Prefix& p : prefixes)
    if (p.letter == letter) return p.factor;
  return std::nullopt;
}

// Prefix that a value is printed with. The value is rounded first, so that 999.96 pF prints as 1 nF.
std::pair<double, std::string_view> engineering_step(double value, int significant) {
  static constexpr std::array<std::pair<double, std::string_view>, 9> steps{{{1e9, "G"},
                                                                             {1e6, "M"},
                                                                             {1e3, "k"},
                                                                             {1, ""},
                                                                             {1e-3, "m"},
                                                                             {1e-6, "µ"},
                                                                             {1e-9, "n"},
                                                                             {1e-12, "p"},
                                                                             {1e-15, "f"}}};
  const double rounded = round_significant(std::abs(value), std::max(significant, 1));
  for (const auto& step : steps)
    if (rounded >= step.first * 0.9999999) return step;
  return steps.back();
}

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

std::string with_prefix(double value, std::string_view base, int significant) {
  if (value == 0) return fmt::format("0 {}", base);
  if (std::abs(value) < 1e-18) return fmt::format("{:.{}g} {}", value, significant, base); // no prefix goes so low
  const auto [factor, prefix] = engineering_step(value, significant);
  return fmt::format("{} {}{}", format_number(value / factor, significant), prefix, base);
}

} // namespace

ParseResult parse_quantity(std::string_view text, Dimension dimension, UnitSystem units, double like) {
  return Scanner(text, dimension, units, like).run();
}

std::string format_number(double value, int significant, bool keep_zeros) {
  if (!std::isfinite(value)) return std::isnan(value) ? "not a number" : (value > 0 ? "infinite" : "-infinite");
  if (value == 0) return "0";
  const double size = std::abs(value);
  if (size < 1e-4 || size >= 1e9) return fmt::format("{:.{}g}", value, significant);
  const int decimals = std::max(0, significant - 1 - static_cast<int>(std::floor(std::log10(size) + 1e-12)));
  std::string text = fmt::format("{:.{}f}", value, decimals);
  if (!keep_zeros && text.find('.') != std::string::npos) {
    text.erase(text.find_last_not_of('0') + 1);
    if (text.back() == '.') text.pop_back();
  }
  return text == "-0" ? "0" : text;
}

std::string format_quantity(double si, Dimension dimension, UnitSystem units, int significant) {
  const auto plain = [&](double value, std::string_view unit) {
    return fmt::format("{} {}", format_number(value, significant), unit);
  };
  // What no part has and no instrument of this work reads is the noise of arithmetic.
  constexpr double least_w = 1e-9;
  if ((dimension == Dimension::power || dimension == Dimension::energy) && std::abs(si) < least_w) si = 0;
  switch (dimension) {
  case Dimension::number:
    return format_number(si, significant);
  case Dimension::count:
    return fmt::format("{:.0f}", si);
  case Dimension::percent:
    return plain(si, "%");
  case Dimension::fraction:
    return plain(si * 100, "%");
  case Dimension::angle:
    return format_number(si, significant) + "°";
  case Dimension::temperature:
    return plain(si, "°C");
  case Dimension::pressure:
    return plain(si, "hPa");
  case Dimension::slope:
    return std::abs(si) < 1e10 ? plain(si * 1e-6, "V/µs") : plain(si * 1e-9, "kV/µs");
  case Dimension::mass:
    return std::abs(si) < 1 ? plain(si * 1e3, "g") : plain(si, "kg");
  case Dimension::time:
    if (std::abs(si) >= 120 && std::abs(si) < 7200) return plain(si / 60, "min");
    return std::abs(si) >= 7200 ? plain(si / 3600, "h") : with_prefix(si, "s", significant);
  case Dimension::wire_diameter:
    if (units == UnitSystem::inch) {
      const double gauge = diameter_m_to_awg(si);
      if (si > 0 && std::abs(gauge - std::round(gauge)) < 0.01 && gauge > -3.5 && gauge < 50.5)
        return fmt::format("{:.0f} AWG", std::abs(std::round(gauge)));
      return plain(si / 0.0254, "in");
    }
    return plain(si * 1e3, "mm");
  case Dimension::length:
    if (units == UnitSystem::inch)
      return std::abs(si) < 3.6576 ? plain(si / 0.0254, "in") : plain(si / 0.3048, "ft");
    return std::abs(si) < 0.99995 ? plain(si * 1e3, "mm") : plain(si, "m");
  default:
    return with_prefix(si, facts(dimension).base, significant);
  }
}

double round_significant(double value, int significant) {
  if (value == 0 || !std::isfinite(value)) return value;
  if (std::abs(value) < 1e-290) return 0; // beyond what the steps below can hold; no quantity is so small
  const double exponent = std::floor(std::log10(std::abs(value))) - significant + 1;
  const double power =
      std::pow(10.0, std::abs(exponent)); // whole powers are exact to 10^22, their inverses are not
  return exponent < 0 ? std::round(value * power) / power : std::round(value / power) * power;
}

namespace {

// The number in front of a printed quantity, and the unit behind it.
std::pair<std::string, std::string> split_unit(const std::string& text) {
  const auto end = text.find_first_not_of("0123456789.-+e");
  if (end == std::string::npos || end == 0) return {text, {}};
  const auto unit = text.find_first_not_of(' ', end);
  return {text.substr(0, end), unit == std::string::npos ? std::string() : text.substr(unit)};
}

// How many of the shown unit `si` is, taking the unit that `like` is shown with.
double in_unit_of(double si, double like, Dimension dimension, UnitSystem units, int digits) {
  const double shown = std::strtod(format_quantity(like, dimension, units, digits).c_str(), nullptr);
  const auto unit = split_unit(format_quantity(like, dimension, units, digits)).second;
  if (unit == "AWG" || shown == 0 || like == 0) return si;
  // The unit's size from the value as it is printed with all its digits: the rounding of fewer would tell.
  const double exact = std::strtod(format_quantity(like, dimension, units, 15).c_str(), nullptr);
  const bool same_unit = split_unit(format_quantity(like, dimension, units, 15)).second == unit;
  return si * (same_unit && exact != 0 ? exact : shown) / like;
}

} // namespace

std::string format_like(double si, double like, Dimension dimension, UnitSystem units, int significant) {
  return format_number(in_unit_of(si, like, dimension, units, 12), significant);
}

std::string shown_unit(double si, Dimension dimension, UnitSystem units) {
  return split_unit(format_entry(si, dimension, units)).second;
}

std::string format_entry(double si, Dimension dimension, UnitSystem units) {
  constexpr int typed_digits = 6;
  const std::string typed = format_quantity(si, dimension, units, typed_digits);
  const auto [number, unit] = split_unit(typed);
  if (unit == "AWG") return typed;
  const double shown = std::strtod(number.c_str(), nullptr);
  const double all = in_unit_of(si, si, dimension, units, typed_digits);
  if (shown != 0 && std::abs(all / shown - 1) < 1e-9) return typed;
  return format_quantity(si, dimension, units, field_digits);
}

BandedText format_banded(double si, double band, Dimension dimension, UnitSystem units, int most_digits) {
  const auto [number, unit] = split_unit(format_quantity(si, dimension, units, most_digits));
  if (!(band > 0) || !std::isfinite(band) || !std::isfinite(si) || si == 0 || unit == "AWG")
    return {format_quantity(si, dimension, units, std::min(most_digits, 4)), {}};
  const double shown = in_unit_of(si, si, dimension, units, most_digits);
  const double shown_band = in_unit_of(band, si, dimension, units, most_digits);
  const auto place = [](double x) { return static_cast<int>(std::floor(std::log10(std::abs(x)) + 1e-12)); };
  const int decimals = std::clamp(1 - place(shown_band), 0, std::max(0, most_digits - 1 - place(shown)));
  const double least = std::pow(10.0, -decimals); // of the last digit: a smaller band is shown as one of it
  const std::string space = unit.empty() || unit == "°" ? "" : " ";
  return {fmt::format("{:.{}f}{}{}", shown, decimals, space, unit),
          fmt::format("± {:.{}f}", std::max(shown_band, least), decimals)};
}

double quantity_step(double si, Dimension dimension, UnitSystem units) {
  if (dimension == Dimension::count) return 1;
  double scale = 1e-3;
  if (dimension == Dimension::number || dimension == Dimension::percent) scale = 1;
  if (dimension == Dimension::slope) scale = 1e6;
  if (dimension == Dimension::fraction) scale = 0.01;
  if (units == UnitSystem::inch && is_length(dimension)) scale = 0.0254;
  const double size = std::abs(si) > 0 ? std::abs(si) : scale;
  return std::pow(10.0, std::floor(std::log10(size / scale) + 1e-9) - 1) * scale;
}

} // namespace arc

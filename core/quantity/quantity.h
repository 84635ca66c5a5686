// Reads and prints engineering quantities as builders write them ("4n7", "12 in", "28 AWG", "4' 6\"").
// Every value inside the program is in SI units (temperatures in degrees Celsius, angles in degrees at the edge).
// Limits: a quantity is one finite real number; ranges of plausible values are the caller's business.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <variant>

namespace arc {

enum class Dimension {
  number,
  count, // a whole number
  length,
  wire_diameter, // a length that is also written as a gauge number
  capacitance,
  inductance,
  resistance,
  voltage,
  current,
  frequency,
  time,
  power,
  energy,
  charge,
  mass,
  temperature, // degrees Celsius
  pressure,    // hectopascal
  angle,       // degrees
  slope,       // volts per second, written in V/us
  percent,     // 12 means 12 %
  fraction     // 0.12 is written 12 %
};

/// Smaller sizes are no quantity of any coil: a slip, or a number that a file was spoilt with.
inline constexpr double least_quantity = 1e-30;

enum class UnitSystem { metric, inch };

/// The unit in which values of a dimension are held and written to files: "F", "V/s"; empty for plain numbers,
/// shares and counts.
std::string_view held_unit(Dimension dimension);

struct ParseError {
  std::size_t position = 0; // character (not byte) the reader stumbled over, counted from 0
  std::string message;      // what was wrong and what would be right
};

using ParseResult = std::variant<double, ParseError>;

/// Digits that an entry field shows of a value that was not typed with more.
inline constexpr int field_digits = 4;

/// Reads `text` as a quantity of `dimension`. A bare number takes the unit that format_entry() shows `like` with
/// (so that "15" typed over "12 nF" means 15 nF, and "3" over "2.5 min" three minutes); with `like` = 0 mm or inch
/// for lengths and elsewhere the plain unit. Understands decimal point or comma, exponents, fractions ("4 1/2 in"),
/// feet and inches, gauge ("28 AWG"), SI prefixes, the letter-for-point notation ("4n7", "2R2", "1k5", "6V3",
/// "u15"), the three-digit code of capacitors ("154J": 15 and four zeros, in picofarads) and "1500 rpm". Returns
/// the SI value, or the first offending character and what was expected. Never clamps.
ParseResult parse_quantity(std::string_view text, Dimension dimension, UnitSystem units = UnitSystem::metric,
                           double like = 0);

/// The unit in which a value is shown by format_entry(): "nF", "mm", "AWG"; empty for plain numbers.
std::string shown_unit(double si, Dimension dimension, UnitSystem units);

/// A value as an entry field shows it: with up to six digits when that is all there is to it, as typed values have;
/// else rounded to field_digits.
std::string format_entry(double si, Dimension dimension, UnitSystem units);

/// A value and its band ("0.1220", "± 0.0004"): both end at the digit that the band leaves meaningful, at most
/// `most_digits` of the value. The band has the unit of the value.
struct BandedText {
  std::string value;
  std::string band; // empty when there is none
};
BandedText format_banded(double si, double band, Dimension dimension, UnitSystem units, int most_digits = 5);

/// Prints an SI value with `significant` digits and the unit a builder expects ("39.2 pF", "820 mm", "24 AWG"; in
/// inch mode lengths of 3 to 20 feet as 4' 6.5").
/// What it prints, `parse_quantity` reads back to within the printed digits.
std::string format_quantity(double si, Dimension dimension, UnitSystem units = UnitSystem::metric,
                            int significant = 4);

/// The number alone of `si` in the unit that `like` is printed with: 0.00055 H like 24.6 mH gives "0.55".
std::string format_like(double si, double like, Dimension dimension, UnitSystem units, int significant = 2);

/// `value` rounded to `significant` digits: an estimate of 591 with two digits is 590.
double round_significant(double value, int significant);

/// Number with `significant` digits, no exponent between 1e-4 and 1e9, no trailing zeros unless `keep_zeros`.
std::string format_number(double value, int significant = 4, bool keep_zeros = false);

/// A sensible arrow-key step for `si`: one in the second significant digit of the displayed value.
double quantity_step(double si, Dimension dimension, UnitSystem units);

} // namespace arc

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

enum class UnitSystem { metric, inch };

struct ParseError {
  std::size_t position = 0; // character (not byte) the reader stumbled over, counted from 0
  std::string message;      // what was wrong and what would be right
};

using ParseResult = std::variant<double, ParseError>;

/// Reads `text` as a quantity of `dimension`. A bare number takes the unit of `units` for lengths (mm or inch) and
/// elsewhere the prefix that `like` would be printed with (so that "15" typed over "12 nF" means 15 nF); with
/// `like` = 0 the plain unit. Understands decimal point or comma, exponents, fractions ("4 1/2 in"), feet and
/// inches, gauge ("28 AWG"), SI prefixes and the letter-for-point notation ("4n7", "2R2", "1k5", "6V3").
/// Returns the SI value, or the first offending character and what was expected. Never clamps.
ParseResult parse_quantity(std::string_view text, Dimension dimension, UnitSystem units = UnitSystem::metric,
                           double like = 0);

/// Prints an SI value with `significant` digits and the unit a builder expects ("39.2 pF", "820 mm", "24 AWG").
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

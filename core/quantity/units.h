// Units of each dimension and the prefixes before them, as reading and printing of quantities share them.
#pragma once

#include "quantity/gauge.h"
#include "quantity/quantity.h"
#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <optional>
#include <utility>
#include <vector>

namespace arc::units {

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

/// Base unit, example and accepted units of a dimension; the same object each time.
inline const DimensionFacts& facts(Dimension dimension) {
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

/// Whether feet and inches are read as one, and centi and deci are prefixes of it.
inline bool is_length(Dimension d) {
  return d == Dimension::length || d == Dimension::wire_diameter;
}

/// Whether "k", "n" and the like may stand before one of its units.
inline bool takes_prefix(Dimension d) {
  return std::ranges::any_of(facts(d).units, [](const Unit& u) { return u.takes_prefix; });
}

struct Prefix {
  char32_t letter;
  double factor;
};

inline constexpr std::array<Prefix, 13> prefixes{{{U'f', 1e-15},
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

/// What a letter before the unit multiplies by; empty where it is none of this dimension.
inline std::optional<double> prefix_factor(char32_t letter, Dimension d) {
  if ((letter == U'c' || letter == U'd') && !is_length(d)) return std::nullopt;
  if (letter == U'm' && d == Dimension::frequency) return 1e6; // nobody tunes a coil to millihertz
  for (const Prefix& p : prefixes)
    if (p.letter == letter) return p.factor;
  return std::nullopt;
}

// Prefix that a value is printed with. The value is rounded first, so that 999.96 pF prints as 1 nF.
inline std::pair<double, std::string_view> engineering_step(double value, int significant) {
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

} // namespace arc::units

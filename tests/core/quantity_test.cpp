// Reading and printing of engineering quantities.
#include "parts/wire.h"
#include "quantity/gauge.h"
#include "quantity/quantity.h"

#include <array>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

using arc::Dimension;
using arc::parse_quantity;
using arc::UnitSystem;

namespace {

double value(std::string_view text, Dimension dimension, UnitSystem units = UnitSystem::metric, double like = 0) {
  const auto result = parse_quantity(text, dimension, units, like);
  if (const auto* error = std::get_if<arc::ParseError>(&result)) {
    ADD_FAILURE() << text << ": " << error->message;
    return NAN;
  }
  return std::get<double>(result);
}

arc::ParseError quantity_refusal(std::string_view text, Dimension dimension) {
  const auto result = parse_quantity(text, dimension);
  const auto* error = std::get_if<arc::ParseError>(&result);
  EXPECT_NE(error, nullptr) << text << " was read as " << std::get<double>(result);
  return error ? *error : arc::ParseError{};
}

struct Typed {
  friend void PrintTo(const Typed& typed, std::ostream* out) { *out << typed.text; }
  const char* text;
  Dimension dimension;
  double si;
};

class WhatBuildersType : public testing::TestWithParam<Typed> {};

TEST_P(WhatBuildersType, is_understood) {
  const Typed& typed = GetParam();
  EXPECT_NEAR(value(typed.text, typed.dimension), typed.si, 1e-12 * std::abs(typed.si)) << typed.text;
}

INSTANTIATE_TEST_SUITE_P(
    quantities, WhatBuildersType,
    testing::Values(Typed{"4n7", Dimension::capacitance, 4.7e-9}, Typed{"470p", Dimension::capacitance, 470e-12},
                    Typed{"0.04 uF", Dimension::capacitance, 0.04e-6},
                    Typed{"1.5 µF", Dimension::capacitance, 1.5e-6},
                    Typed{"1.5 μF", Dimension::capacitance, 1.5e-6},
                    Typed{"4,7 nF", Dimension::capacitance, 4.7e-9},
                    Typed{"0,470 uF", Dimension::capacitance, 470e-9},
                    Typed{"0.1 mfd", Dimension::capacitance, 1e-7}, Typed{"12e-9", Dimension::capacitance, 12e-9},
                    Typed{"1.2E-8 F", Dimension::capacitance, 1.2e-8}, Typed{"2R2", Dimension::resistance, 2.2},
                    Typed{"4k7", Dimension::resistance, 4700}, Typed{"10 Mohm", Dimension::resistance, 10e6},
                    Typed{"47 Ω", Dimension::resistance, 47}, Typed{"47 kΩ", Dimension::resistance, 47e3},
                    Typed{"34 kV", Dimension::voltage, 34000}, Typed{"340V", Dimension::voltage, 340},
                    Typed{"6.3 V", Dimension::voltage, 6.3}, Typed{"6V3", Dimension::voltage, 6.3},
                    Typed{"1k5", Dimension::power, 1500}, Typed{"4.3 mhz", Dimension::frequency, 4.3e6},
                    Typed{"108 kHz", Dimension::frequency, 108e3}, Typed{".5mm", Dimension::length, 0.5e-3},
                    Typed{"12 in", Dimension::length, 0.3048}, Typed{"12\"", Dimension::length, 0.3048},
                    Typed{"4' 6\"", Dimension::length, 1.3716}, Typed{"4'6", Dimension::length, 1.3716},
                    Typed{"4 ft 6 1/2 in", Dimension::length, 1.3843}, Typed{"4 1/2 in", Dimension::length, 0.1143},
                    Typed{"3/8\"", Dimension::length, 0.009525}, Typed{"½ in", Dimension::length, 0.0127},
                    Typed{"4½ in", Dimension::length, 0.1143}, Typed{"82 cm", Dimension::length, 0.82},
                    Typed{"5 thou", Dimension::length, 0.127e-3}, Typed{"-5 mm", Dimension::length, -0.005},
                    Typed{"5 min", Dimension::time, 300}, Typed{"150 us", Dimension::time, 150e-6},
                    Typed{"80 %", Dimension::percent, 80}, Typed{"5 %", Dimension::fraction, 0.05},
                    Typed{"7.5", Dimension::fraction, 0.075}, Typed{"1500 V/us", Dimension::slope, 1.5e9},
                    Typed{"6 kV/µs", Dimension::slope, 6e9}, Typed{"900", Dimension::slope, 9e8},
                    Typed{"1013 mbar", Dimension::pressure, 1013}, Typed{"20 °C", Dimension::temperature, 20},
                    Typed{"1480 turns", Dimension::number, 1480}, Typed{"820", Dimension::length, 0.82}));

TEST(quantity, a_gauge_number_is_its_standard_diameter) {
  for (const char* text : {"28 AWG", "28awg", "AWG 28", "#28"})
    EXPECT_DOUBLE_EQ(value(text, Dimension::wire_diameter), arc::awg_to_diameter_m(28)) << text;
}

TEST(quantity, a_bare_number_takes_the_unit_it_replaces) {
  EXPECT_DOUBLE_EQ(value("15", Dimension::capacitance, UnitSystem::metric, 12e-9), 15e-9);
  EXPECT_DOUBLE_EQ(value("15", Dimension::voltage, UnitSystem::metric, 14e3), 15e3);
  EXPECT_DOUBLE_EQ(value("4", Dimension::length, UnitSystem::inch), 0.1016);
}

TEST(quantity, an_error_names_the_character_and_what_was_expected) {
  const auto error = quantity_refusal("4x7", Dimension::capacitance);
  EXPECT_EQ(error.position, 1u);
  EXPECT_NE(error.message.find("“x” at character 2"), std::string::npos) << error.message;
  EXPECT_NE(error.message.find("4n7"), std::string::npos);
}

TEST(quantity, a_wrong_dimension_is_named) {
  EXPECT_NE(quantity_refusal("15 mm", Dimension::capacitance).message.find("this is a length"), std::string::npos);
  EXPECT_NE(quantity_refusal("12 kV", Dimension::length).message.find("this is a voltage"), std::string::npos);
}

TEST(quantity, an_ambiguous_thousands_comma_is_questioned_not_guessed) {
  const auto error = quantity_refusal("1,500", Dimension::number);
  EXPECT_NE(error.message.find("1500 or 1.500"), std::string::npos) << error.message;
}

TEST(quantity, nonsense_never_becomes_a_number) {
  for (const char* text : {"", " ", "nan", "inf", "--5", "1..2", "1.2.3", "5 furlongs", "1/0 in", "1e999", "abc",
                           "4 4 4", "µ", "\xff\xfe", "4n7x", "12 in in", "1 000 000 000 x"})
    quantity_refusal(text, Dimension::length);
}

TEST(quantity, what_is_printed_is_read_back) {
  std::mt19937 random(20);
  std::uniform_real_distribution<double> exponent(-14, 8), mantissa(1, 10);
  constexpr std::array dimensions{Dimension::capacitance, Dimension::inductance, Dimension::resistance,
                                  Dimension::voltage,     Dimension::current,    Dimension::frequency,
                                  Dimension::power,       Dimension::energy,     Dimension::charge};
  for (int i = 0; i < 3000; ++i) {
    const Dimension dimension = dimensions[static_cast<std::size_t>(i) % dimensions.size()];
    double si = mantissa(random) * std::pow(10, exponent(random));
    if (dimension == Dimension::frequency) si = std::max(si, 1.0);
    if (dimension == Dimension::power || dimension == Dimension::energy) si = std::max(si, 1e-9); // less is nothing
    const std::string text = arc::format_quantity(si, dimension, UnitSystem::metric, 8);
    EXPECT_NEAR(value(text, dimension), si, 1e-7 * si) << text;
  }
  for (int i = 0; i < 2000; ++i) {
    const double si = mantissa(random) * std::pow(10, std::uniform_real_distribution<double>(-5, 2)(random));
    for (const UnitSystem units : {UnitSystem::metric, UnitSystem::inch})
      for (const Dimension dimension : {Dimension::length, Dimension::wire_diameter}) {
        const std::string text = arc::format_quantity(si, dimension, units, 9);
        const double allowed =
            text.find("AWG") == std::string::npos ? 1e-7 : 2e-3; // a gauge is a name, not a measure
        EXPECT_NEAR(value(text, dimension), si, allowed * si) << text;
      }
  }
}

TEST(quantity, prefixes_round_up_cleanly) {
  EXPECT_EQ(arc::format_quantity(999.97e-12, Dimension::capacitance), "1 nF");
  EXPECT_EQ(arc::format_quantity(0.0689849, Dimension::inductance), "68.98 mH");
  EXPECT_EQ(arc::format_quantity(0, Dimension::voltage), "0 V");
  EXPECT_EQ(arc::round_significant(0.8999999999999999, 12), 0.9);
  EXPECT_EQ(arc::round_significant(1234567, 2), 1200000);
  EXPECT_EQ(arc::format_quantity(1.83e-14, Dimension::power), "0 W");
  EXPECT_EQ(arc::format_quantity(2e-6, Dimension::power), "2 µW");
  EXPECT_EQ(arc::format_quantity(arc::awg_to_diameter_m(24), Dimension::wire_diameter, UnitSystem::inch), "24 AWG");
  EXPECT_EQ(arc::format_quantity(0.82, Dimension::length, UnitSystem::inch), "32.28 in");
  EXPECT_EQ(arc::format_quantity(1.3843, Dimension::length, UnitSystem::inch), "4' 6.5\"");
  EXPECT_EQ(arc::format_quantity(-1.2192, Dimension::length, UnitSystem::inch), "-4' 0\"");
  EXPECT_EQ(arc::format_quantity(236.6, Dimension::length, UnitSystem::inch), "776.2 ft") << "a spool";
  EXPECT_EQ(arc::format_quantity(1.8287, Dimension::length, UnitSystem::inch, 3), "6' 0\"") << "not 5' 12";
  EXPECT_EQ(arc::format_entry(1.3843, Dimension::length, UnitSystem::inch), "4' 6.5\"");
  EXPECT_EQ(arc::shown_unit(1.3843, Dimension::length, UnitSystem::inch), "in") << "what a bare number takes";
}

TEST(quantity, arrow_keys_step_by_the_second_digit) {
  EXPECT_NEAR(arc::quantity_step(0.82, Dimension::length, UnitSystem::metric), 0.01, 1e-12);
  EXPECT_NEAR(arc::quantity_step(0.0254 * 32, Dimension::length, UnitSystem::inch), 0.0254, 1e-12);
  EXPECT_NEAR(arc::quantity_step(1480, Dimension::number, UnitSystem::metric), 100, 1e-9);
}

} // namespace

// Wire and capacitor banks against standards and bench facts.
#include "parts/bank.h"
#include "parts/wire.h"
#include "quantity/gauge.h"
#include "support.h"

using namespace arc;

namespace {

TEST(wire, gauge_follows_the_standard_table) { // ASTM B258 nominal diameters
  const double table[][2] = {{10, 2.588},  {18, 1.024},  {22, 0.6438}, {24, 0.5106},
                             {28, 0.3211}, {30, 0.2546}, {36, 0.1270}, {40, 0.0799}};
  for (const auto& [gauge, mm] : table) {
    EXPECT_NEAR(awg_to_diameter_m(gauge) * 1e3, mm, 0.0006) << gauge;
    EXPECT_NEAR(diameter_m_to_awg(awg_to_diameter_m(gauge)), gauge, 1e-9);
  }
  EXPECT_NEAR(awg_to_diameter_m(-3) * 1e3, 11.684, 1e-3) << "4/0";
}

TEST(wire, enamel_adds_what_the_grades_allow) {
  // IEC 60317-0-1 maximum overall diameters for 0.5 mm: 0.544 (grade 1), 0.566 (grade 2); from memory.
  EXPECT_NEAR(overall_diameter_m(0.5e-3, EnamelGrade::grade_1), 0.544e-3, 1e-9);
  EXPECT_NEAR(overall_diameter_m(0.5e-3, EnamelGrade::grade_2), 0.566e-3, 1e-9);
  for (double bare = 0.03e-3; bare < 4e-3; bare *= 1.07) {
    EXPECT_GT(overall_diameter_m(bare, EnamelGrade::grade_1), bare);
    EXPECT_GT(overall_diameter_m(bare, EnamelGrade::grade_2), overall_diameter_m(bare, EnamelGrade::grade_1));
  }
}

TEST(wire, forty_turns_on_four_inch_pipe_take_fifty_feet) { // common practice, no source
  const double length = helix_wire_length_m(0.1143 + 0.0016, 40, 40 * 0.003);
  EXPECT_GT(length, 14.2);
  EXPECT_LT(length, 15.24);
}

TEST(wire, a_hand_wound_coil_holds_fewer_turns_than_promised) { // common practice: about 1200, not 1330
  const double overall = 0.18e-3;
  EXPECT_NEAR(turns_from_length(0.240, overall, 0), 1333, 1);
  EXPECT_NEAR(turns_from_length(0.240, overall, 0.10), 1200, 5);
  EXPECT_NEAR(length_from_turns(turns_from_length(0.3, overall, 0.06), overall, 0.06), 0.3, 1e-12);
}

TEST(wire, resistance_and_mass_match_the_copper_standard) {
  // IEC 60028: 1.7241e-8 ohm m at 20 C. NBS Handbook 100: 24 AWG has 84.2 ohm/km and 1.82 kg/km.
  const double d = awg_to_diameter_m(24);
  expect_close(wire_resistance_ohm(d, 1000, 20), 84.2, 2e-3);
  expect_close(wire_mass_kg(d, 1000), 1.82, 3e-3);
  expect_close(wire_resistance_ohm(d, 1, 70) / wire_resistance_ohm(d, 1, 20), 1 + 50 * 0.00393, 1e-12);
}

TEST(bank, jumpers_make_the_values_builders_know) { // ten 400 pF 30 kV units; common practice, no source
  EXPECT_DOUBLE_EQ(bank_capacitance_f(400e-12, 2, 5), 1e-9);
  EXPECT_DOUBLE_EQ(bank_voltage_v(30e3, 2), 60e3);
  EXPECT_DOUBLE_EQ(bank_capacitance_f(400e-12, 1, 5), 2e-9);
  EXPECT_DOUBLE_EQ(bank_capacitance_f(400e-12, 1, 10), 4e-9);
  EXPECT_DOUBLE_EQ(bank_capacitance_f(400e-12, 1, 9), 3.6e-9);
  EXPECT_DOUBLE_EQ(bank_capacitance_f(400e-12, 1, 11), 4.4e-9);
  EXPECT_DOUBLE_EQ(bank_capacitance_f(1e-6, 2, 3), 1.5e-6);
  expect_close(bank_capacitance_f(330e-6, 28, 1), 11.8e-6, 2e-3); // two strings of fourteen, back to back
}

TEST(bank, seven_tenths_millihenry_at_four_point_three_megahertz_is_two_picofarads) { // common practice: 1.96 pF
  EXPECT_NEAR(resonating_capacitance_f(0.7e-3, 4.3e6) * 1e12, 1.96, 0.005);
}

TEST(bank, bleeding_follows_the_exponential) {
  const double t = bleed_time_s(10e6, 12e-9, 12500);
  EXPECT_NEAR(12500 * std::exp(-t / (10e6 * 12e-9)), 50, 1e-9);
  EXPECT_NEAR(bleed_resistance_ohm(12e-9, 12500, t), 10e6, 1e-3);
  EXPECT_EQ(bleed_time_s(10e6, 12e-9, 40), 0) << "already below the target";
}

TEST(bank, energy_is_conserved_into_the_peak_current) {
  const double c = 12e-9, v = 12500, l = 38e-6;
  const double i = peak_tank_current_a(v, c, l);
  expect_close(0.5 * l * i * i, stored_energy_j(c, v), 1e-12);
}

TEST(bank, units_rule_over_the_single_value) {
  Tank tank;
  tank.capacitance_f = 1;
  tank.unit_capacitance_f = 120e-9;
  tank.units_in_series = 10;
  tank.bleed_resistance_ohm = 10e6;
  EXPECT_DOUBLE_EQ(tank_capacitance_f(tank), 12e-9);
  EXPECT_DOUBLE_EQ(*tank_bleed_resistance_ohm(tank), 100e6);
}

} // namespace

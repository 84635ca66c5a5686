// The tank as a bank of capacitors in series and parallel: value, rating, the stress on every unit, stored energy,
// bleeding. Sources: circuit laws; hazardous stored energy and charge after IEC 61010-1 (limits from memory).
#pragma once

#include "laws/circuit.h"
#include "model/design.h"
#include "quantity/quantity.h"

#include <optional>
#include <span>
#include <string_view>

namespace arc {

inline constexpr double hazardous_energy_j = 0.350; // IEC 61010-1, above 15 kV (memory)
inline constexpr double hazardous_charge_c = 45e-6; // IEC 61010-1, up to 15 kV (memory)
inline constexpr double bled_target_v = 50;         // bleed times are given down to this voltage
inline constexpr double usual_rating_share = 0.8;   // largest share of a unit's voltage rating (common practice)
inline constexpr std::size_t most_bank_sections = 40;

/// One number of a bank's section: its key in the file, its range, and where it lives.
struct SectionNumber {
  std::string_view key;
  std::string_view label;
  Dimension dimension;
  double minimum, maximum;
  bool required;
  std::optional<double> (*get)(const BankSection&);
  void (*set)(BankSection&, double);
};
/// In the order of the file.
std::span<const SectionNumber> section_numbers();

/// The way of giving the tank that counts: the chosen one if there is something for it, else what there is.
TankGiven tank_given(const Tank& tank);
/// Its sections stand in series between the rails instead of side by side.
bool is_stacked(const Tank& tank);
/// Gives the tank another way. What was typed for that way before comes back; what was never typed starts from the
/// tank as it is.
void give_tank(Tank& tank, TankGiven way);

/// The tank as sections, whichever way it was entered: a single value is one section of one unit.
std::vector<BankSection> bank_sections(const Tank& tank);

/// The tank with `more` strings (fewer when negative) in one of its sections; a bank of equal units is one section.
/// A section of a mixed bank that would have none left is taken off. Empty where the tank is one value, has no such
/// section, or would be left without a string.
std::optional<Tank> with_strings(const Tank& tank, std::size_t section, int more);

/// Farads of `series` equal units in each of `parallel` strings.
double bank_capacitance_f(double unit_f, double series, double parallel);
double section_capacitance_f(const BankSection& section);

/// Farads of the tank: of its sections, of its equal units, or the single value.
double tank_capacitance_f(const Tank& tank);

/// Changes every capacitance of the way in which the tank is given by a factor.
void scale_tank(Tank& tank, double factor);

/// Volts the bank may see when each unit may see `unit_voltage_v` and shares evenly.
double bank_voltage_v(double unit_voltage_v, double series);

/// Largest share of a string's voltage on one of its units when it is low and all others are high by `tolerance`.
double worst_share(double in_series, double tolerance);

/// Part of the bank's voltage on one unit of each section: evenly, and with tolerances at their worst.
struct UnitShare {
  double even;
  double worst;
};
std::vector<UnitShare> unit_shares(const Tank& tank);

/// Peak volts across the tank at which the fullest unit reaches `share` of its rating, tolerances at their worst;
/// empty while a rating is not known.
std::optional<double> tank_voltage_limit_v(const Tank& tank, double share = usual_rating_share);

/// What a running coil asks of the whole bank.
struct BankLoad {
  double peak_v = 0;
  double rms_a = 0;         // over seconds, breaks and pauses together
  double slope_v_per_s = 0; // steepest
  double frequency_hz = 0;  // of the ringing
};

/// K per watt of a unit in still air that states none, from its size: film holds about 0.02 J in a cubic
/// centimetre, and a square metre gives 10 W for each kelvin (assumptions). 20 without a voltage rating.
double usual_thermal_k_per_w(double capacitance_f, std::optional<double> voltage_v);
inline constexpr double capacitor_thermal_time_s = 1200; // of the same (assumption)
inline constexpr double largest_capacitor_rise_k = 15;   // film pulse units (common practice, no source)
inline constexpr double bleeder_element_voltage_v = 500; // of one ordinary resistor (common practice, no source)

/// Stress on one unit of a section.
struct UnitStress {
  std::string name;
  double count = 0;
  double peak_v = 0;       // shares even
  double worst_v = 0;      // tolerances at their worst
  double voltage_used = 0; // worst over rating; 0 when the rating is not known, as the two below
  double rms_a = 0;
  double rms_used = 0;
  double slope_v_per_s = 0;
  double slope_used = 0;
  std::optional<double> dissipation_w; // tan delta times reactive power, or ESR times current squared
  std::optional<double> rise_k;        // once settled
  bool rise_estimated = false;         // its K per watt are not stated
  double rise_after_s(double seconds) const;
  double bleeder_ohm = 0;   // on each unit; 0 without bleeders
  double bleeder_w = 0;     // on each unit's bleeder at the peak held for good; 0 without bleeders
  int bleeder_elements = 0; // resistors in series so that each sees at most bleeder_element_voltage_v
  double element_ohm() const { return bleeder_elements > 0 ? bleeder_ohm / bleeder_elements : 0; } // of each
  double element_w() const { return bleeder_elements > 0 ? bleeder_w / bleeder_elements : 0; }
  bool within_ratings = true;       // of everything that is stated, at `margin` of the voltage
  std::vector<std::string> missing; // ratings that are not stated
};
std::vector<UnitStress> bank_stress(const Tank& tank, const BankLoad& load, double margin = usual_rating_share);

/// Seconds from `voltage_v` down to `target_v` through R: t = R C ln(V/V0); 0 when already below.
double bleed_time_s(double resistance_ohm, double capacitance_f, double voltage_v, double target_v = bled_target_v);

/// Ohms that discharge a capacitance from `voltage_v` to `target_v` in `seconds`.
double bleed_resistance_ohm(double capacitance_f, double voltage_v, double seconds,
                            double target_v = bled_target_v);

/// Ohms across the whole tank; empty without bleeders. The tank's bleeder is the one on each unit of the longest
/// string; shorter strings beside it have as much from rail to rail.
std::optional<double> tank_bleed_resistance_ohm(const Tank& tank);

} // namespace arc

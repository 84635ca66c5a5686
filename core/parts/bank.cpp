// Capacitor bank arithmetic; stated in the header.
#include "parts/bank.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <type_traits>

namespace arc {
namespace {

template <auto Member>
constexpr SectionNumber row(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                            double maximum, bool required = false) {
  return {key,
          label,
          dimension,
          minimum,
          maximum,
          required,
          [](const BankSection& s) -> std::optional<double> {
            if constexpr (std::is_same_v<std::remove_cvref_t<decltype(s.*Member)>, bool>)
              return s.*Member ? std::optional(1.0) : std::nullopt;
            else
              return s.*Member;
          },
          [](BankSection& s, double value) {
            if constexpr (std::is_same_v<std::remove_cvref_t<decltype(s.*Member)>, bool>)
              s.*Member = value > 0.5;
            else
              s.*Member = value;
          }};
}

template <auto Member>
constexpr SectionNumber rating(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                               double maximum) {
  return {key,
          label,
          dimension,
          minimum,
          maximum,
          false,
          [](const BankSection& s) { return s.ratings.*Member; },
          [](BankSection& s, double value) { s.ratings.*Member = value; }};
}

using enum Dimension;

const std::array numbers{
    row<&BankSection::capacitance_f>("capacitance_f", "Each unit", capacitance, 1e-14, 10, true),
    row<&BankSection::voltage_v>("voltage_v", "Unit rating", voltage, 1, 1e6),
    row<&BankSection::in_series>("in_series", "Units in series", count, 1, 100),
    row<&BankSection::in_parallel>("in_parallel", "Strings in parallel", count, 1, 100),
    row<&BankSection::tolerance>("tolerance", "Tolerance", fraction, 0, 0.9),
    row<&BankSection::back_to_back>("back_to_back", "Back to back", count, 0, 1),
    rating<&UnitRatings::rms_current_a>("rms_current_a", "RMS rating", current, 1e-6, 1e5),
    rating<&UnitRatings::slope_v_per_s>("slope_v_per_s", "dV/dt rating", slope, 1, 1e15),
    rating<&UnitRatings::dissipation_factor>("dissipation_factor", "Loss factor", number, 0, 1),
    rating<&UnitRatings::esr_ohm>("esr_ohm", "ESR", resistance, 0, 1e6),
    rating<&UnitRatings::thermal_k_per_w>("thermal_k_per_w", "Thermal resistance, K/W", number, 0.01, 1000),
};

// Ohms of the bleeder on each unit of a section: strings side by side are bled alike, however many units they have.
double unit_bleeder_ohm(const Tank& tank, const std::vector<BankSection>& sections, const BankSection& section) {
  if (is_stacked(tank)) return *tank.bleed_resistance_ohm;
  double longest = 1;
  for (const BankSection& s : sections) longest = std::max(longest, s.in_series);
  return *tank.bleed_resistance_ohm * longest / section.in_series;
}

// Units of a string that share the voltage in one direction.
double sharing(const BankSection& s) {
  return s.back_to_back ? std::max(1.0, s.in_series / 2) : s.in_series;
}

} // namespace

std::span<const SectionNumber> section_numbers() {
  return numbers;
}

TankGiven tank_given(const Tank& tank) {
  const bool sections = !tank.sections.empty(), units = tank.unit_capacitance_f.has_value();
  const TankGiven wish = tank.given_as.value_or(TankGiven::mixed_bank);
  if (wish == TankGiven::one_value) return wish;
  if (wish == TankGiven::mixed_bank && sections) return wish;
  return units ? TankGiven::equal_units : sections ? TankGiven::mixed_bank : TankGiven::one_value;
}

bool is_stacked(const Tank& tank) {
  return tank.sections_in_series && tank_given(tank) == TankGiven::mixed_bank;
}

void give_tank(Tank& tank, TankGiven way) {
  const TankGiven before = tank_given(tank);
  if (way == before) return;
  const double total = tank_capacitance_f(tank);
  const auto sections = bank_sections(tank);
  const auto holds_v = tank_voltage_limit_v(tank, 1);
  if (before == TankGiven::one_value) tank.single_capacitance_f = tank.capacitance_f;
  tank.given_as = way;
  if (way != TankGiven::mixed_bank && before == TankGiven::mixed_bank && !tank.unit_voltage_v)
    tank.unit_voltage_v = holds_v;
  switch (way) {
  case TankGiven::one_value:
    tank.capacitance_f = tank.single_capacitance_f.value_or(total);
    tank.single_capacitance_f.reset();
    return;
  case TankGiven::equal_units:
    if (tank.unit_capacitance_f) break;
    if (before == TankGiven::mixed_bank) tank.units_in_series = tank.units_in_parallel = 1;
    tank.unit_capacitance_f = total * tank.units_in_series / tank.units_in_parallel;
    break;
  case TankGiven::mixed_bank:
    if (!tank.sections.empty()) break;
    tank.sections = sections;
    if (tank.sections.front().name.empty()) tank.sections.front().name = "as before";
    break;
  }
  tank.capacitance_f = tank_capacitance_f(tank);
}

std::vector<BankSection> bank_sections(const Tank& tank) {
  const TankGiven given = tank_given(tank);
  if (given == TankGiven::mixed_bank) return tank.sections;
  BankSection one;
  one.capacitance_f = given == TankGiven::equal_units ? *tank.unit_capacitance_f : tank.capacitance_f;
  one.voltage_v = tank.unit_voltage_v;
  if (given == TankGiven::equal_units) {
    one.in_series = tank.units_in_series;
    one.in_parallel = tank.units_in_parallel;
  }
  one.tolerance = tank.unit_tolerance.value_or(usual_capacitor_tolerance);
  one.ratings = tank.unit_ratings;
  return {one};
}

std::optional<Tank> with_strings(const Tank& tank, std::size_t section, int more) {
  Tank out = tank;
  switch (tank_given(tank)) {
  case TankGiven::one_value:
    return std::nullopt;
  case TankGiven::equal_units:
    out.units_in_parallel += more;
    return section == 0 && out.units_in_parallel >= 1 ? std::optional(out) : std::nullopt;
  case TankGiven::mixed_bank:
    break;
  }
  if (section >= tank.sections.size()) return std::nullopt;
  out.sections[section].in_parallel += more;
  if (out.sections[section].in_parallel < 1) {
    if (out.sections.size() == 1) return std::nullopt;
    out.sections.erase(out.sections.begin() + static_cast<std::ptrdiff_t>(section));
  }
  return out;
}

double bank_capacitance_f(double unit_f, double series, double parallel) {
  return unit_f * parallel / series;
}

double section_capacitance_f(const BankSection& s) {
  return bank_capacitance_f(s.capacitance_f, s.in_series, s.in_parallel);
}

double tank_capacitance_f(const Tank& tank) {
  if (tank_given(tank) == TankGiven::one_value) return tank.capacitance_f;
  double side_by_side = 0, inverse = 0;
  for (const BankSection& s : bank_sections(tank)) {
    side_by_side += section_capacitance_f(s);
    inverse += 1 / section_capacitance_f(s);
  }
  const double total = is_stacked(tank) ? 1 / inverse : side_by_side;
  return std::isfinite(total) ? total : 0; // counts that make no bank
}

void scale_tank(Tank& tank, double factor) {
  tank.capacitance_f *= factor;
  const TankGiven given = tank_given(tank);
  if (given == TankGiven::equal_units) *tank.unit_capacitance_f *= factor;
  if (given == TankGiven::mixed_bank)
    for (BankSection& s : tank.sections) s.capacitance_f *= factor;
}

double bank_voltage_v(double unit_voltage_v, double series) {
  return unit_voltage_v * series;
}

double worst_share(double in_series, double tolerance) {
  if (in_series <= 1) return 1;
  // Series capacitors share inversely to their capacitance: the low one takes 1/(1-t), the others 1/(1+t).
  const double low = 1 / (1 - std::min(tolerance, 0.95)), high = 1 / (1 + tolerance);
  return low / (low + (in_series - 1) * high);
}

std::vector<UnitShare> unit_shares(const Tank& tank) {
  const auto sections = bank_sections(tank);
  const bool stacked = is_stacked(tank) && sections.size() > 1;
  std::vector<UnitShare> out;
  for (std::size_t i = 0; i < sections.size(); ++i) {
    const BankSection& s = sections[i];
    double even = 1, worst = 1;
    if (stacked) { // voltage divides inversely to capacitance; at worst this section is low and the others high
      const double own = 1 / section_capacitance_f(s), own_low = own / (1 - std::min(s.tolerance, 0.95));
      double all = own, all_worst = own_low;
      for (std::size_t j = 0; j < sections.size(); ++j)
        if (j != i) {
          all += 1 / section_capacitance_f(sections[j]);
          all_worst += 1 / section_capacitance_f(sections[j]) / (1 + sections[j].tolerance);
        }
      even = own / all;
      worst = own_low / all_worst;
    }
    out.push_back({even / sharing(s), worst * worst_share(sharing(s), s.tolerance)});
  }
  return out;
}

std::optional<double> tank_voltage_limit_v(const Tank& tank, double share) {
  const auto sections = bank_sections(tank);
  const auto shares = unit_shares(tank);
  double limit = 1e300;
  for (std::size_t i = 0; i < sections.size(); ++i) {
    if (!sections[i].voltage_v) return {};
    limit = std::min(limit, share * *sections[i].voltage_v / shares[i].worst);
  }
  return limit;
}

double usual_thermal_k_per_w(double capacitance_f, std::optional<double> voltage_v) {
  if (!voltage_v) return 20;
  constexpr double joules_per_m3 = 0.02e6, w_per_m2_k = 10;
  const double volume = stored_energy_j(capacitance_f, *voltage_v) / joules_per_m3;
  return std::clamp(1 / (w_per_m2_k * 6 * std::pow(volume, 2.0 / 3)), 0.5, 200.0); // a cube of that volume
}

double UnitStress::rise_after_s(double seconds) const {
  return rise_k.value_or(0) * (1 - std::exp(-seconds / capacitor_thermal_time_s));
}

std::vector<UnitStress> bank_stress(const Tank& tank, const BankLoad& load, double margin) {
  const auto sections = bank_sections(tank);
  const auto shares = unit_shares(tank);
  const double whole = tank_capacitance_f(tank);
  std::vector<UnitStress> out;
  for (std::size_t i = 0; i < sections.size(); ++i) {
    const BankSection& s = sections[i];
    UnitStress u;
    u.name = s.name;
    u.count = s.in_series * s.in_parallel;
    u.peak_v = load.peak_v * shares[i].even;
    u.worst_v = load.peak_v * shares[i].worst;
    u.slope_v_per_s = load.slope_v_per_s * shares[i].worst;
    u.rms_a = load.rms_a * (is_stacked(tank) ? 1 : section_capacitance_f(s) / whole) / s.in_parallel;
    if (s.ratings.esr_ohm)
      u.dissipation_w = *s.ratings.esr_ohm * u.rms_a * u.rms_a;
    else if (s.ratings.dissipation_factor && load.frequency_hz > 0)
      u.dissipation_w = *s.ratings.dissipation_factor * u.rms_a * u.rms_a /
                        (2 * std::numbers::pi * load.frequency_hz * s.capacitance_f);
    if (u.dissipation_w)
      u.rise_k = *u.dissipation_w *
                 s.ratings.thermal_k_per_w.value_or(usual_thermal_k_per_w(s.capacitance_f, s.voltage_v));
    u.rise_estimated = u.dissipation_w && !s.ratings.thermal_k_per_w;
    const auto used = [&](double value, const std::optional<double>& rating, const char* name, double limit) {
      if (!rating) {
        u.missing.emplace_back(name);
        return 0.0;
      }
      if (value > limit * *rating * (1 + 1e-9)) u.within_ratings = false;
      return value / *rating;
    };
    u.voltage_used = used(u.worst_v, s.voltage_v, "voltage", margin);
    u.rms_used = used(u.rms_a, s.ratings.rms_current_a, "RMS current", 1);
    u.slope_used = used(u.slope_v_per_s, s.ratings.slope_v_per_s, "dV/dt", 1);
    if (!u.dissipation_w) u.missing.emplace_back("loss factor");
    if (tank.bleed_resistance_ohm) {
      u.bleeder_ohm = unit_bleeder_ohm(tank, sections, s);
      u.bleeder_w = u.worst_v * u.worst_v / u.bleeder_ohm;
      u.bleeder_elements = static_cast<int>(std::ceil(u.worst_v / bleeder_element_voltage_v));
    }
    out.push_back(std::move(u));
  }
  return out;
}

double bleed_time_s(double resistance_ohm, double capacitance_f, double voltage_v, double target_v) {
  return voltage_v <= target_v ? 0 : resistance_ohm * capacitance_f * std::log(voltage_v / target_v);
}

double bleed_resistance_ohm(double capacitance_f, double voltage_v, double seconds, double target_v) {
  return seconds / (capacitance_f * std::log(voltage_v / target_v));
}

std::optional<double> tank_bleed_resistance_ohm(const Tank& tank) {
  if (!tank.bleed_resistance_ohm) return std::nullopt;
  double conductance = 0, resistance = 0;
  const auto sections = bank_sections(tank);
  for (const BankSection& s : sections) {
    const double ohm = unit_bleeder_ohm(tank, sections, s) * s.in_series / s.in_parallel;
    conductance += 1 / ohm;
    resistance += ohm;
  }
  return is_stacked(tank) ? resistance : 1 / conductance;
}

} // namespace arc

// Generic classes and laws from data sheets.
#include "parts/transistor.h"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double junction_v = 0.75, grading = 0.33; // of both junctions, usual values of silicon

constexpr Transistor power_npn{.saturation_current_a = 2e-12,
                               .forward_gain = 60,
                               .reverse_gain = 4,
                               .emitter_junction_f = 4e-10,
                               .collector_junction_f = 1.6e-10,
                               .transit_time_s = 5e-9,
                               .reverse_transit_time_s = 4e-7,
                               .base_resistance_ohm = 3,
                               .voltage_rating_v = 100,
                               .current_rating_a = 6,
                               .junction_k_per_w = 1.9,
                               .junction_capacity_j_per_k = 0.03,
                               .case_capacity_j_per_k = 1.2};
constexpr Transistor small_npn{.saturation_current_a = 1e-14,
                               .forward_gain = 200,
                               .reverse_gain = 4,
                               .emitter_junction_f = 2.2e-11,
                               .collector_junction_f = 9e-12,
                               .transit_time_s = 4.5e-10,
                               .reverse_transit_time_s = 5e-8,
                               .base_resistance_ohm = 20,
                               .voltage_rating_v = 40,
                               .reverse_base_rating_v = 6,
                               .current_rating_a = 0.6,
                               .junction_k_per_w = 80,
                               .case_k_per_w = 120,
                               .junction_capacity_j_per_k = 1e-3,
                               .case_capacity_j_per_k = 0.1};

Transistor of_type(Transistor t, TransistorType type) {
  t.type = type;
  return t;
}

Transistor mos(double volts, double ohm, double amperes, double gate_source_f, double gate_drain_f,
               double drain_source_f) {
  constexpr double threshold_v = 3.5;
  return {.type = TransistorType::mos,
          .threshold_v = threshold_v,
          .transconductance_a_per_v2 = 1 / (ohm * (10 - threshold_v)),
          .gate_source_f = gate_source_f,
          .gate_drain_f = gate_drain_f,
          .drain_source_f = drain_source_f,
          .base_resistance_ohm = 2,
          .voltage_rating_v = volts,
          .reverse_base_rating_v = 20,
          .current_rating_a = amperes,
          .junction_k_per_w = 1.2,
          .junction_capacity_j_per_k = 0.03,
          .case_capacity_j_per_k = 1.2};
}

void positive(std::initializer_list<std::pair<const char*, double>> values) {
  for (const auto& [name, value] : values)
    if (!(value > 0) || !std::isfinite(value))
      throw std::invalid_argument(fmt::format("{} must be above 0, not {:g}", name, value));
}

} // namespace

std::span<const TransistorClass> transistor_classes() {
  static const std::array<TransistorClass, 7> classes{{
      {"npn-medium", "NPN, 80 V 1.5 A, 200 MHz", Transistor{}},
      {"npn-small", "NPN, 40 V 0.6 A, 300 MHz, small signal", small_npn},
      {"npn-power", "NPN, 100 V 6 A, 30 MHz, power", power_npn},
      {"pnp-medium", "PNP, 80 V 1.5 A, 200 MHz", of_type(Transistor{}, TransistorType::pnp)},
      {"pnp-power", "PNP, 100 V 6 A, 30 MHz, power", of_type(power_npn, TransistorType::pnp)},
      {"mos-100", "MOS, 100 V 9 A, 0.2 Ω", mos(100, 0.2, 9, 3.1e-10, 2e-11, 1e-10)},
      {"mos-500", "MOS, 500 V 8 A, 0.8 Ω", mos(500, 0.8, 8, 1.2e-9, 4e-11, 1.3e-10)},
  }};
  return classes;
}

Transistor transistor_from_sheet(const Transistor& base, const JunctionSheet& sheet) {
  positive({{"Current gain", sheet.gain},
            {"Collector current", sheet.current_a},
            {"Base-emitter voltage", sheet.base_emitter_v},
            {"Transit frequency", sheet.transit_frequency_hz},
            {"Output capacitance", sheet.output_f},
            {"Input capacitance", sheet.input_f}});
  Transistor out = base;
  out.forward_gain = sheet.gain;
  // What the base's resistance takes of the stated volts is not the junction's.
  const double junction = sheet.base_emitter_v - base.base_resistance_ohm * sheet.current_a / sheet.gain;
  out.saturation_current_a = sheet.current_a * std::exp(-junction / thermal_voltage_v);
  const auto at_zero = [](double farad, double reverse_v) {
    return farad * std::pow(1 + reverse_v / junction_v, grading);
  };
  out.collector_junction_f = at_zero(sheet.output_f, std::max(0.0, sheet.output_at_v));
  out.emitter_junction_f = at_zero(sheet.input_f, 0.5);
  // Charge for each ampere is what the transit frequency leaves after both junctions, forward biased one doubled.
  const double conductance = sheet.current_a / thermal_voltage_v;
  const double junctions = (2 * out.emitter_junction_f + sheet.output_f) / conductance;
  out.transit_time_s = 1 / (2 * std::numbers::pi * sheet.transit_frequency_hz) - junctions;
  if (!(out.transit_time_s > 0))
    throw std::invalid_argument(fmt::format(
        "a transit frequency of {} cannot be: the capacitances alone allow {} at this current",
        format_quantity(sheet.transit_frequency_hz, Dimension::frequency, UnitSystem::metric, 3),
        format_quantity(1 / (2 * std::numbers::pi * junctions), Dimension::frequency, UnitSystem::metric, 3)));
  if (sheet.storage_time_s > 0) out.reverse_transit_time_s = sheet.storage_time_s;
  return out;
}

Transistor transistor_from_sheet(const Transistor& base, const FieldEffectSheet& sheet) {
  positive({{"On resistance", sheet.on_resistance_ohm},
            {"Threshold", sheet.threshold_v},
            {"Gate volts above the threshold", sheet.at_gate_v - sheet.threshold_v},
            {"Feedback capacitance", sheet.feedback_f},
            {"Input capacitance above the feedback's", sheet.input_f - sheet.feedback_f},
            {"Output capacitance above the feedback's", sheet.output_f - sheet.feedback_f}});
  Transistor out = base;
  out.type = TransistorType::mos;
  out.threshold_v = sheet.threshold_v;
  out.transconductance_a_per_v2 = 1 / (sheet.on_resistance_ohm * (sheet.at_gate_v - sheet.threshold_v));
  out.gate_drain_f = sheet.feedback_f;
  out.gate_source_f = sheet.input_f - sheet.feedback_f;
  out.drain_source_f = sheet.output_f - sheet.feedback_f;
  return out;
}

std::optional<ClampDiode> usual_clamp(Clamp kind) {
  switch (kind) {
  case Clamp::none:
    return {};
  case Clamp::diode:
    return ClampDiode{2.5e-9, 1.75, 4e-12, 5e-9, {}};
  case Clamp::led:
    return ClampDiode{};
  case Clamp::zener:
    return ClampDiode{1e-12, 1.2, 1.5e-10, 5e-8, 12.0};
  }
  return {};
}

double gain_at(const Transistor& part, double current_a, double frequency_hz) {
  const double omega = 2 * std::numbers::pi * frequency_hz;
  if (part.type == TransistorType::mos) {
    const double slope = std::sqrt(2 * part.transconductance_a_per_v2 * current_a);
    return slope / (omega * (part.gate_source_f + part.gate_drain_f));
  }
  const double conductance = current_a / thermal_voltage_v;
  const double charge =
      part.transit_time_s + (2 * part.emitter_junction_f + part.collector_junction_f) / conductance;
  return 1 / std::hypot(1 / part.forward_gain, omega * charge);
}

} // namespace arc

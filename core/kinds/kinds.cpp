// The rows. Only kinds whose whole path works are listed.
#include "kinds/kind.h"

#include "kinds/exciter/exciter.h"
#include "kinds/spark_gap/spark_gap.h"

#include <array>
#include <stdexcept>

namespace arc {
namespace {

constexpr std::array<std::string_view, 3> with_tank{"secondary", "primary", "tank"};
constexpr std::array<std::string_view, 3> of_exciter{"secondary", "primary", "exciter"};
constexpr std::array<SimulationMode, 2> spark_gap_modes{
    {{"--shot", "the single shot: tank, gap, primary, resonator"},
     {"--charging", "charging over mains cycles, the gap firing as it would"}}};
constexpr std::array<SimulationMode, 1> exciter_modes{
    {{"--oscillation", "the steady oscillation of transistor, primary and resonator"}}};

constexpr std::array<RunColumn, 5> spark_gap_columns{{{"tap_turns", "Clip"},
                                                      {"tank_capacitance_f", "Tank"},
                                                      {"coupling", "Coupling"},
                                                      {"variac_percent", "Variac"},
                                                      {"arc_length_m", "Arc"}}};
constexpr std::array<RunColumn, 5> exciter_columns{{{"supply_voltage_v", "Supply"},
                                                    {"supply_current_a", "Current"},
                                                    {"primary_turns", "Turns"},
                                                    {"lamp_distance_m", "Lamp at"},
                                                    {"duration_s", "Ran for"}}};

constexpr std::array<CoilKind, 2> kinds{{
    {.key = "spark-gap",
     .title = "Spark gap",
     .purpose = "Long arcs from a tank capacitor that a gap discharges into the primary",
     .needs = "High-voltage transformer, tank capacitors, gap; dangerous voltages throughout",
     .coupling_low = 0.10,
     .coupling_high = 0.15,
     .tank = true,
     .clip = true,
     .groups = with_tank,
     .modes = spark_gap_modes,
     .run_columns = spark_gap_columns,
     .analyse = analyse_spark_gap,
     .rules = spark_gap_rules,
     .simulate = simulate_spark_gap,
     .checks_before_power = spark_gap_checks,
     .steps_after_power = spark_gap_steps_after,
     .symptoms = spark_gap_symptoms},
    {.key = "exciter",
     .title = "Exciter",
     .purpose = "A first coil for an evening: lamps light near it, a small brush at the top",
     .needs = "One transistor, a resistor, a diode and a supply of 9 to 40 V",
     .coupling_low = 0.12,
     .coupling_high = 0.45,
     .tank = false,
     .clip = false,
     .groups = of_exciter,
     .modes = exciter_modes,
     .run_columns = exciter_columns,
     .analyse = analyse_exciter,
     .rules = exciter_rules,
     .simulate = simulate_exciter,
     .checks_before_power = exciter_checks,
     .steps_after_power = exciter_steps_after,
     .symptoms = exciter_symptoms},
}};

} // namespace

std::span<const CoilKind> coil_kinds() {
  return kinds;
}

const CoilKind* coil_kind(std::string_view key) {
  for (const CoilKind& kind : kinds)
    if (kind.key == key) return &kind;
  return nullptr;
}

const CoilKind& kind_of(const Design& design) {
  if (const CoilKind* kind = coil_kind(design.kind)) return *kind;
  throw std::invalid_argument("“" + design.kind + "” is not a kind of coil");
}

} // namespace arc

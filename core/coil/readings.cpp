// The table of readings and their explanations.
#include "coil/readings.h"

#include "coil/kind.h"

#include "circuit/feed_network.h"
#include "parts/bank.h"
#include "parts/topload.h"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>

namespace arc {
namespace {

using D = Dimension;

std::string print(double si, Dimension dimension, UnitSystem units, int digits = 4) {
  return format_quantity(si, dimension, units, digits);
}

std::string input(std::string_view label, double si, Dimension dimension, UnitSystem units) {
  return fmt::format("{} {}", label, print(si, dimension, units));
}

// "Wheeler 1928: 68.1 mH, 1.2 % below"
std::string beside(std::string_view name, double estimate, double exact, Dimension dimension, UnitSystem units,
                   std::string_view known_error) {
  const double off = (estimate / exact - 1) * 100;
  return fmt::format("{}: {}, {:.1f} % {} ({})", name, print(estimate, dimension, units), std::abs(off),
                     off < 0 ? "below" : "above", known_error);
}

std::vector<std::string> winding_inputs(const Design& d, UnitSystem u) {
  return {input("Form", d.secondary.form_diameter_m, D::length, u), input("Turns", d.secondary.turns, D::number, u),
          input("Winding length", d.secondary.winding_length_m, D::length, u),
          input("Bare wire", d.secondary.wire_bare_diameter_m, D::wire_diameter, u)};
}

std::vector<std::string> tank_inputs(const Analysis& a, UnitSystem u) {
  std::vector<std::string> out{input("Capacitance", a.tank_capacitance_f, D::capacitance, u),
                               input("Primary at the clip", a.primary_inductance_h, D::inductance, u)};
  if (a.lead_inductance_h > 0) out.push_back(input("Leads", a.lead_inductance_h, D::inductance, u));
  return out;
}

std::vector<std::string> firing_inputs(const Design&, const Analysis& a, UnitSystem u) {
  return {input("Capacitance", a.tank_capacitance_f, D::capacitance, u),
          input("Tank at its peak", a.tank_peak_v, D::voltage, u)};
}

const char* const field_source =
    "Boundary elements over a conducting floor and turn rings (Maxwell; Grover 1946), solved "
    "as a distributed line; checked against an independent program within 1 %";

Explanation explain_secondary_inductance(const Design& d, const Analysis& a, UnitSystem u) {
  return {"Every turn's own inductance plus its mutual inductance with every other turn, added up.",
          winding_inputs(d, u),
          "Uniform current, even pitch, current spread over the whole wire (low frequency).",
          "Maxwell 1873 in the elliptic-integral form; Grover, Inductance Calculations, 1946",
          beside("Wheeler 1928", a.secondary_inductance_estimate_h, a.secondary_inductance_h, D::inductance, u,
                 "good to 1 % for coils longer than 0.4 diameters"),
          {}};
}

Explanation explain_mode(const Design& d, const Analysis& a, UnitSystem u) {
  std::vector<std::string> inputs = winding_inputs(d, u);
  if (a.resonator) inputs.push_back(input("Topload in place", a.resonator->topload_in_place_f, D::capacitance, u));
  const double exact = a.resonator ? a.resonator->mode_1_hz : a.estimate.mode_1_hz;
  return {"The winding is cut into 80 pieces; the charge on every surface and the flux of every turn are solved "
          "together; "
          "the lowest natural frequency is this one.",
          inputs,
          a.resonator
              ? fmt::format(
                    "{}. Arcs, nearby objects and the form's plastic pull it lower. Model good to {:.0f} %; "
                    "finer cutting would move it by less than {:.2f} %.",
                    a.resonator->assumption, a.resonator->relative_accuracy * 100, a.resonator->cutting_error * 100)
              : a.problem,
          field_source,
          beside("Textbook sum (Medhurst self-capacitance + topload alone)", a.estimate.mode_1_hz, exact,
                 D::frequency, u, "it adds capacitances that shade each other: 5 to 20 % low on squat coils"),
          {}};
}

Explanation explain_effective(const Design& d, const Analysis& a, UnitSystem u) {
  return {
      "The one coil and one capacitor that behave like the resonator at its base: inductance is top voltage over "
      "angular frequency and base current, capacitance the reverse.",
      winding_inputs(d, u),
      a.resonator ? a.resonator->assumption : a.problem,
      field_source,
      fmt::format("Uniform-current inductance {}, textbook capacitance {}",
                  print(a.secondary_inductance_h, D::inductance, u),
                  print(a.estimate.effective_capacitance_f, D::capacitance, u)),
      {}};
}

Explanation explain_topload(const Design& d, const Analysis& a, UnitSystem u) {
  std::vector<std::string> inputs;
  for (const ToploadPart& part : d.topload) {
    const ToploadShape* shape = topload_shape(part.shape);
    if (!shape) continue;
    std::string text(shape->title);
    for (const ToploadLength& length : shape->lengths)
      text += fmt::format(", {} {}", length.label, print(part.*length.member, D::length, u));
    inputs.push_back(text);
  }
  std::string hand;
  if (d.topload.size() == 1 && a.resonator)
    if (const auto exact = topload_shape(d.topload.front().shape)->exact_capacitance_f(d.topload.front()))
      hand = beside("Closed form of the shape alone", *exact, a.resonator->topload_isolated_f, D::capacitance, u,
                    "exact for a single body");
  return {"Charge that the topload takes for each volt: alone in free space, and in place with the winding held at "
          "ground.",
          inputs,
          "Smooth conducting bodies of revolution; those in one list are joined together.",
          "Boundary elements; sphere, disc and torus have exact forms (Maxwell; Hicks 1881)",
          hand,
          {}};
}

Explanation explain_primary(const Design& d, const Analysis& a, UnitSystem u) {
  const Primary& p = d.primary;
  return {"Each turn is a ring at its mean radius and height; all self and mutual inductances up to the clip are "
          "added.",
          {input("Inner radius", p.inner_radius_m, D::length, u), input("Pitch", p.pitch_m, D::length, u),
           input("Conductor", p.conductor_diameter_m, D::wire_diameter, u),
           input("Clip at turn", p.tap_turns, D::number, u)},
          "Uniform current along the conductor, flowing in its skin; leads are counted apart.",
          "Maxwell 1873; Grover 1946",
          beside("Wheeler 1928 (spiral, helix, or both for a cone)", a.primary_inductance_estimate_h,
                 a.primary_inductance_h, D::inductance, u, "good to 5 % for many turns"),
          {}};
}

Explanation explain_skin(const Design& d, const Analysis& a, UnitSystem u) {
  return {
      "Each turn's skin is cut into filaments whose currents settle so that every filament of a turn sees the same "
      "voltage: at high frequency the current crowds to the inner edge.",
      {input("Conductor", d.primary.conductor_diameter_m, D::wire_diameter, u),
       input("Pitch", d.primary.pitch_m, D::length, u), input("Clip at turn", d.primary.tap_turns, D::number, u)},
      fmt::format(
          "Skin much thinner than the conductor. Crowding raises the loss {:.2f} times over evenly spread skin "
          "current. The tuning uses the even current; this says how much lower the inductance can read.",
          a.primary_crowding),
      "Filament method, Ruehli 1972; Maxwell's ring formula",
      beside("Even current", a.primary_inductance_h, a.primary_skin_h, D::inductance, u,
             "ignores how turns push each other's current aside"),
      {}};
}

Explanation explain_leads(const Design& d, const Analysis&, UnitSystem u) {
  const bool measured = d.primary.lead_length_m && d.primary.lead_spacing_m;
  std::vector<std::string> inputs{input("Entered", d.primary.lead_inductance_h, D::inductance, u)};
  if (measured)
    inputs = {input("Lead length", *d.primary.lead_length_m, D::length, u),
              input("Lead spacing", *d.primary.lead_spacing_m, D::length, u),
              input("Conductor", d.primary.conductor_diameter_m, D::wire_diameter, u)};
  return {measured
              ? "A go-and-return pair: mu0 times length over pi, times the logarithm of spacing over wire radius."
              : "The number entered; give length and spacing of the leads to have it computed.",
          inputs,
          "The pair is as thick as the primary's conductor and runs straight; the gap's own loop counts as lead.",
          "Grover 1946, ch. 5",
          "",
          {}};
}

Explanation explain_stand_off(const Design&, const Analysis& a, UnitSystem u) {
  return {"Voltage over the shortest way through air: from the topload (or last turn) to the primary, and from the "
          "winding "
          "to the primary at every height.",
          {input("Top at breakout", top_voltage_v(a), D::voltage, u),
           input("Tank at its peak", a.tank_peak_v, D::voltage, u)},
          "Mean fields in kV/cm, both windings at their peak at once. Streamers cross long gaps at about 5 kV/cm; "
          "between "
          "wires, 15 kV/cm is a limit with some margin.",
          "CIGRE brochure 72 for long gaps (from memory); common practice between windings",
          "",
          {}};
}

Explanation explain_coupling(const Design& d, const Analysis& a, UnitSystem u) {
  return {"Mutual inductance over the root of both inductances.",
          {input("Mutual inductance", a.mutual_inductance_h, D::inductance, u),
           input("Primary at the clip", a.primary_inductance_h, D::inductance, u),
           input("Secondary", a.secondary_inductance_h, D::inductance, u),
           input("Primary above floor", d.primary.base_height_m, D::length, u)},
          "Uniform current in both windings. The usual band for spark-gap coils is 0.10 to 0.15 (common practice).",
          "Maxwell 1873; Grover 1946",
          "",
          {}};
}

Explanation explain_tank_hz(const Design&, const Analysis& a, UnitSystem u) {
  return {"One over two pi times the root of inductance times capacitance.",
          tank_inputs(a, u),
          "No loss; the gap and wiring add inductance unless it is entered as leads.",
          "Thomson 1853",
          "",
          {}};
}

Explanation explain_tuned_tap(const Design&, const Analysis& a, UnitSystem u) {
  std::vector<std::string> inputs = tank_inputs(a, u);
  inputs.push_back(input("Tune to", a.target_hz, D::frequency, u));
  return {"The clip position at which the tank's frequency equals " + a.target_source + ".",
          inputs,
          "Found on the exact inductance curve of this primary to a thousandth of a turn; the band is the coil's.",
          "See the tank frequency and the resonance",
          "",
          {}};
}

Explanation explain_energy(const Design& d, const Analysis& a, UnitSystem u) {
  return {"Half the capacitance times the voltage squared; charge is capacitance times voltage.",
          firing_inputs(d, a, u),
          "All of the bank charged to the gap's firing voltage.",
          "Circuit theory; hazard limit from IEC 61010-1 (from memory)",
          "",
          {}};
}

Explanation explain_current(const Design& d, const Analysis& a, UnitSystem u) {
  auto inputs = firing_inputs(d, a, u);
  inputs.push_back(input("Primary at the clip", a.primary_inductance_h, D::inductance, u));
  return {"Firing voltage times the root of capacitance over inductance.",
          inputs,
          "No gap loss and nothing taken by the secondary yet: an upper limit.",
          "Circuit theory",
          "",
          {}};
}

Explanation explain_mains_resonance(const Design& d, const Analysis& a, UnitSystem u) {
  const auto whole = mains_resonant_capacitance_f(d);
  return {"The capacitance whose reactance at mains frequency is that of the leakage and ballast before it: "
          "I / (2 pi f V) for a current-limited transformer.",
          {input("Mains", d.site.mains_frequency_hz, D::frequency, u),
           input("Tank capacitance", a.tank_capacitance_f, D::capacitance, u)},
          "Constant leakage; a core near saturation has less. Schools: about equal, for most power while the gap "
          "fires at every crest; 1.5 times it with a static gap, so that the voltage does not run away when the "
          "gap misses (the default, for the capacitors' sake); 2 to 3 times with a rotor locked to the mains.",
          "Circuit theory; the ratios are common practice, no source",
          whole ? fmt::format("The tank is {:.2f} times that.", a.tank_capacitance_f / *whole) : "",
          {}};
}

Explanation explain_bleed(const Design& d, const Analysis& a, UnitSystem u) {
  auto inputs = firing_inputs(d, a, u);
  if (d.tank.bleed_resistance_ohm)
    inputs.push_back(input("Bleeder on each", *d.tank.bleed_resistance_ohm, D::resistance, u));
  return {
      "Resistance times capacitance times the logarithm of firing voltage over 50 V.",
      inputs,
      "All bleeders intact. Dielectric absorption can bring voltage back: short the tank and leave the clip on.",
      "Circuit theory",
      "",
      {}};
}

Explanation explain_arc(const Design& d, const Analysis& a, UnitSystem u) {
  return {"60 to 100 % of 1.7 inch times the root of the power in watts.",
          {input("Energy each break", a.stored_energy_j, D::energy, u),
           input("Breaks each second", d.gap.break_rate_hz, D::frequency, u)},
          "A well-tuned coil with a topload; losses in the gap are inside the band.",
          "Common practice, no source",
          "",
          {}};
}

Explanation explain_loaded(const Design& d, const Analysis& a, UnitSystem u) {
  return {"The resonance with streamer capacitance added at the top: half of a short arc's to all of a long one's.",
          {input("Expected arc, long", a.expected_arc_m.high, D::length, u),
           input("Breaks each second", d.gap.break_rate_hz, D::frequency, u)},
          "About 1 pF for each 0.3 m of streamer.",
          "Common practice, no source",
          "",
          {}};
}

Explanation explain_top_voltage(const Design& d, const Analysis& a, UnitSystem u) {
  auto inputs = firing_inputs(d, a, u);
  if (a.resonator)
    inputs.push_back(input("Resonator capacitance", a.resonator->effective_capacitance_f, D::capacitance, u));
  return {"Firing voltage times the root of tank capacitance over resonator capacitance.",
          inputs,
          "All energy crosses, nothing is lost, nothing breaks out: never reached in practice.",
          "Energy balance",
          "",
          {}};
}

Explanation explain_loss(const Design& d, const Analysis& a, UnitSystem u) {
  auto inputs = winding_inputs(d, u);
  inputs.push_back(input("Skin depth", a.skin_depth_m, D::length, u));
  inputs.push_back(input("Ground resistance", d.site.ground_resistance_ohm, D::resistance, u));
  return {"Stored energy times angular frequency over the power lost in the wire (skin and proximity, weighted "
          "with the "
          "current along the winding), in the ground and in the form.",
          inputs,
          "Ground resistance as entered; form loss taken as 0.04 % of the energy each radian; no arcs. The "
          "resistance is good to 20 %. A quality factor measured by ring-down replaces the estimate.",
          "Skin effect exact; proximity after Medhurst 1947 (table from memory)",
          fmt::format("Wire alone: Q {:.0f}; wire, ground and form: Q {:.0f}", a.winding_q, a.quality_estimate),
          {}};
}

Explanation explain_breakout(const Design& d, const Analysis& a, UnitSystem u) {
  std::vector<std::string> inputs{input("Air temperature", d.site.air_temperature_c, D::temperature, u),
                                  input("Air pressure", d.site.air_pressure_hpa, D::pressure, u),
                                  input("Surface factor", d.breakout.roughness, D::number, u)};
  if (a.breakout)
    inputs.push_back(fmt::format("Hottest spot: {}, {} above the floor, {} from the axis", a.breakout->where,
                                 print(a.breakout->height_m, D::length, u, 3),
                                 print(a.breakout->radius_m, D::length, u, 3)));
  return {"The top voltage at which the surface field of the field solution reaches the strength of air at that "
          "curvature.",
          inputs,
          "Clean dry air, no streamers yet; real coils scatter by 10 %.",
          "Peek 1929; half-ellipsoid for a breakout point (Kosmahl 1991)",
          "",
          {}};
}

Explanation explain_wire(const Design& d, const Analysis& a, UnitSystem u) {
  auto inputs = winding_inputs(d, u);
  inputs.push_back(input("Air temperature", d.site.air_temperature_c, D::temperature, u));
  return {"Turns times the length of one turn of the helix; mass and resistance follow from the copper's "
          "cross-section.",
          inputs,
          "Solid copper at the site's air temperature; direct current.",
          "IEC 60028 (resistivity, density)",
          "",
          {fmt::format("Height to diameter {:.2f}", a.height_to_diameter)}};
}

template <auto Member>
std::optional<double> of(const Design&, const Analysis& a) {
  return a.*Member;
}

template <auto Member>
std::optional<double> of_resonator(const Design&, const Analysis& a) {
  return a.resonator ? std::optional<double>((*a.resonator).*Member) : std::nullopt;
}

// Nothing is known of the coupling of coils that cross.
template <auto Member>
std::optional<double> of_coupled(const Design&, const Analysis& a) {
  return a.coupling > 0 ? std::optional<double>(a.*Member) : std::nullopt;
}

const std::array table{
    Reading{"secondary_inductance_h", "Winding inductance", D::inductance, 4, of<&Analysis::secondary_inductance_h>,
            explain_secondary_inductance},
    Reading{"mode_1_hz", "Resonance", D::frequency, 4, of_resonator<&ResonatorResult::mode_1_hz>, explain_mode},
    Reading{"mode_2_hz", "Second mode", D::frequency, 4, of_resonator<&ResonatorResult::mode_2_hz>, explain_mode},
    Reading{"mode_3_hz", "Third mode", D::frequency, 4, of_resonator<&ResonatorResult::mode_3_hz>, explain_mode},
    Reading{"lumped_hz", "Textbook resonance", D::frequency, 4,
            [](const Design&, const Analysis& a) -> std::optional<double> { return a.estimate.mode_1_hz; },
            explain_mode},
    Reading{"effective_inductance_h", "Effective inductance", D::inductance, 4,
            of_resonator<&ResonatorResult::effective_inductance_h>, explain_effective},
    Reading{"effective_capacitance_f", "Effective capacitance", D::capacitance, 4,
            of_resonator<&ResonatorResult::effective_capacitance_f>, explain_effective},
    Reading{"topload_isolated_capacitance_f", "Topload alone", D::capacitance, 3,
            [](const Design& d, const Analysis& a) -> std::optional<double> {
              if (!a.resonator || d.topload.empty()) return std::nullopt;
              return a.resonator->topload_isolated_f;
            },
            explain_topload},
    Reading{"topload_in_place_capacitance_f", "Topload in place", D::capacitance, 3,
            [](const Design& d, const Analysis& a) -> std::optional<double> {
              if (!a.resonator || d.topload.empty()) return std::nullopt;
              return a.resonator->topload_in_place_f;
            },
            explain_topload},
    Reading{"primary_inductance_h", "Primary at the clip", D::inductance, 4, of<&Analysis::primary_inductance_h>,
            explain_primary, Needs::primary},
    Reading{"primary_skin_inductance_h", "With crowded current", D::inductance, 4,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.primary_skin_h > 0 ? std::optional<double>(a.primary_skin_h) : std::nullopt;
            },
            explain_skin, Needs::primary},
    Reading{"lead_inductance_h", "Leads", D::inductance, 3, of<&Analysis::lead_inductance_h>, explain_leads,
            Needs::primary},
    Reading{"strike_distance_m", "Topload to primary", D::length, 3, of<&Analysis::strike_distance_m>,
            explain_stand_off, Needs::gap},
    Reading{"strike_field_kv_per_cm", "kV/cm, topload to primary", D::number, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.strike_field_v_per_m / 1e5) : std::nullopt;
            },
            explain_stand_off, Needs::gap},
    Reading{"primary_field_kv_per_cm", "kV/cm, winding to primary", D::number, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.primary_field_v_per_m / 1e5) : std::nullopt;
            },
            explain_stand_off, Needs::gap},
    Reading{"mutual_inductance_h", "Mutual inductance", D::inductance, 4,
            of_coupled<&Analysis::mutual_inductance_h>, explain_coupling, Needs::primary},
    Reading{"coupling", "Coupling k", D::number, 3, of_coupled<&Analysis::coupling>, explain_coupling,
            Needs::primary},
    Reading{"tank_capacitance_f", "Tank capacitance", D::capacitance, 4, of<&Analysis::tank_capacitance_f>,
            explain_tank_hz, Needs::tank},
    Reading{"tank_hz", "Tank frequency", D::frequency, 4, of<&Analysis::tank_hz>, explain_tank_hz, Needs::tank},
    Reading{"tuned_tap_turns", "Clip in tune", D::number, 4, of<&Analysis::tuned_tap_turns>, explain_tuned_tap,
            Needs::tank},
    Reading{"tuned_capacitance_f", "In tune at this clip", D::capacitance, 4, of<&Analysis::tuned_capacitance_f>,
            explain_tuned_tap, Needs::tank},
    Reading{"stored_energy_j", "Stored energy", D::energy, 3, of<&Analysis::stored_energy_j>, explain_energy,
            Needs::tank},
    Reading{"stored_charge_c", "Stored charge", D::charge, 3, of<&Analysis::stored_charge_c>, explain_energy,
            Needs::tank},
    Reading{"peak_current_a", "Peak primary current", D::current, 3, of<&Analysis::peak_current_a>, explain_current,
            Needs::tank},
    Reading{"unit_voltage_v", "Voltage on the fullest unit", D::voltage, 3, of<&Analysis::unit_voltage_v>,
            explain_energy, Needs::tank},
    Reading{"mains_resonant_capacitance_f", "Resonates with the mains", D::capacitance, 3,
            [](const Design& d, const Analysis&) { return mains_resonant_capacitance_f(d); },
            explain_mains_resonance, Needs::gap},
    Reading{"bleed_time_s", "Bleed time to 50 V", D::time, 3, of<&Analysis::bleed_time_s>, explain_bleed,
            Needs::tank},
    Reading{"power_w", "Power through the gap", D::power, 3, of<&Analysis::power_w>, explain_arc, Needs::gap},
    Reading{"expected_arc_low_m", "Expected arc, short", D::length, 2,
            [](const Design&, const Analysis& a) -> std::optional<double> { return a.expected_arc_m.low; },
            explain_arc, Needs::gap},
    Reading{"expected_arc_high_m", "Expected arc, long", D::length, 2,
            [](const Design&, const Analysis& a) -> std::optional<double> { return a.expected_arc_m.high; },
            explain_arc, Needs::gap},
    Reading{"loaded_low_hz", "Resonance with long arcs", D::frequency, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.loaded_hz.low) : std::nullopt;
            },
            explain_loaded, Needs::tank},
    Reading{"loaded_high_hz", "Resonance with short arcs", D::frequency, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.loaded_hz.high) : std::nullopt;
            },
            explain_loaded, Needs::tank},
    Reading{"top_voltage_limit_v", "Top voltage, lossless limit", D::voltage, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.top_voltage_limit_v) : std::nullopt;
            },
            explain_top_voltage, Needs::gap},
    Reading{"breakout_voltage_v", "Breakout voltage", D::voltage, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.breakout ? std::optional<double>(a.breakout->voltage_v) : std::nullopt;
            },
            explain_breakout},
    Reading{"turn_voltage_v", "Between neighbouring turns", D::voltage, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.turn_voltage_v) : std::nullopt;
            },
            explain_breakout, Needs::gap},
    Reading{"quality_factor", "Quality factor", D::number, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.quality_factor) : std::nullopt;
            },
            explain_loss},
    Reading{"winding_resistance_ohm", "Wire resistance at resonance", D::resistance, 3,
            [](const Design&, const Analysis& a) -> std::optional<double> {
              return a.resonator ? std::optional<double>(a.winding_resistance_ohm) : std::nullopt;
            },
            explain_loss},
    Reading{"best_mode_1_hz", "With measurements", D::frequency, 4,
            [](const Design& d, const Analysis& a) -> std::optional<double> {
              if (!a.resonator || d.measurements.empty()) return std::nullopt;
              return a.best_mode_1_hz;
            },
            explain_mode},
    Reading{"wire_length_m", "Secondary wire", D::length, 4, of<&Analysis::wire_length_m>, explain_wire},
    Reading{"wire_mass_kg", "Copper mass", D::mass, 3, of<&Analysis::wire_mass_kg>, explain_wire},
    Reading{"secondary_resistance_ohm", "Wire resistance, DC", D::resistance, 3,
            of<&Analysis::secondary_resistance_ohm>, explain_wire},
    Reading{"height_to_diameter", "Height to diameter", D::number, 3, of<&Analysis::height_to_diameter>,
            explain_wire},
};

} // namespace

std::span<const Reading> readings() {
  return table;
}

const Reading& reading(std::string_view key) {
  for (const Reading& r : table)
    if (r.key == key) return r;
  throw std::out_of_range(fmt::format("no reading is called {}", key));
}

namespace {

BandedText banded(const Reading& reading, double value, const Analysis& analysis, UnitSystem units) {
  const auto band = analysis.band.find(std::string(reading.key));
  return format_banded(value, band == analysis.band.end() ? 0 : band->second, reading.dimension, units,
                       std::max(reading.digits, 4));
}

} // namespace

bool belongs_to(const Reading& reading, const CoilKind& kind) {
  if (reading.needs == Needs::gap) return std::ranges::count(kind.groups, "gap") > 0;
  return reading.needs != Needs::tank || kind.tank;
}

std::optional<double> reading_value(const Reading& reading, const Design& design, const Analysis& analysis) {
  const bool there = analysis.computed && (reading.needs == Needs::winding || analysis.has_primary) &&
                     (reading.needs < Needs::tank || (analysis.has_tank && belongs_to(reading, kind_of(design))));
  const auto value = there ? reading.value(design, analysis) : std::nullopt;
  return value && std::isfinite(*value) ? value : std::nullopt;
}

std::string reading_text(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units) {
  const auto value = reading_value(reading, design, analysis);
  if (!value) return "–";
  const BandedText text = banded(reading, *value, analysis, units);
  return text.band.empty() ? format_quantity(*value, reading.dimension, units, reading.digits) : text.value;
}

std::string band_text(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units) {
  const auto value = reading_value(reading, design, analysis);
  return value ? banded(reading, *value, analysis, units).band : std::string();
}

Explanation explain(const Reading& reading, const Design& design, const Analysis& analysis, UnitSystem units) {
  Explanation out = reading.explain(design, analysis, units);
  const auto shares = analysis.influences.find(std::string(reading.key));
  if (shares != analysis.influences.end())
    for (std::size_t i = 0; i < std::min<std::size_t>(3, shares->second.size()); ++i)
      out.influences.push_back(
          fmt::format("{}: ± {}", shares->second[i].input,
                      format_quantity(std::abs(shares->second[i].change), reading.dimension, units, 2)));
  return out;
}

} // namespace arc

// Figures of the coil at rest that all kinds share; those of one kind alone stand in its own table.
#include "simulation/figures.h"

#include "craft/kind.h"
#include "parts/topload.h"

#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

using enum Dimension;

constexpr std::string_view winding_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m";
constexpr std::string_view resonator_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m "
    "topload_in_place_capacitance_f";
constexpr std::string_view wire_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m "
    "site.air_temperature_c";
constexpr std::string_view loss_inputs =
    "secondary.form_diameter_m secondary.turns secondary.winding_length_m secondary.wire_bare_diameter_m "
    "site.ground_resistance_ohm";
constexpr std::string_view field_source = "Boundary elements over a conducting floor and turn rings (Maxwell; "
                                          "Grover 1946), solved as a distributed line; "
                                          "checked against an independent program within 1 %";
constexpr std::string_view mode_formula = "The winding is cut into 80 pieces; the charge on every surface and the "
                                          "flux of every turn are solved together; "
                                          "the lowest natural frequency is this one.";
constexpr std::string_view effective_formula =
    "The one coil and one capacitor that behave like the resonator at its base: inductance is top voltage over "
    "angular frequency and base current, capacitance the reverse.";
constexpr std::string_view topload_formula =
    "Charge that the topload takes for each volt: alone in free space, and in place with the winding held at "
    "ground.";
constexpr std::string_view bodies =
    "Smooth conducting bodies of revolution; those in one list are joined together.";
constexpr std::string_view exact_bodies =
    "Boundary elements; sphere, disc and torus have exact forms (Maxwell; Hicks 1881)";
constexpr std::string_view rings_source = "Maxwell 1873; Grover 1946";
constexpr std::string_view coupling_formula = "Mutual inductance over the root of both inductances.";
constexpr std::string_view coupling_limits =
    "Uniform current in both windings. The usual band for spark-gap coils is 0.10 to 0.15 (common practice).";
constexpr std::string_view thomson_formula = "One over two pi times the root of inductance times capacitance.";
constexpr std::string_view thomson_limits =
    "No loss; the gap and wiring add inductance unless it is entered as leads.";
constexpr std::string_view tank_inputs = "tank_capacitance_f primary_inductance_h lead_inductance_h";
constexpr std::string_view clip_limits =
    "Found on the exact inductance curve of this primary to a thousandth of a turn; the band is the coil's.";
constexpr std::string_view energy_formula =
    "Half the capacitance times the voltage squared; charge is capacitance times voltage.";
constexpr std::string_view energy_limits = "All of the bank charged to the gap's firing voltage.";
constexpr std::string_view energy_source = "Circuit theory; hazard limit from IEC 61010-1 (from memory)";
constexpr std::string_view loaded_formula =
    "The resonance with streamer capacitance added at the top: half of a short arc's to all of a long one's.";
constexpr std::string_view loaded_limits = "About 1 pF for each 0.3 m of streamer.";
constexpr std::string_view practice = "Common practice, no source";
constexpr std::string_view loss_formula =
    "Stored energy times angular frequency over the power lost in the wire (skin and proximity, weighted with the "
    "current along the winding), in the ground and in the form.";
constexpr std::string_view loss_limits =
    "Ground resistance as entered; form loss taken as 0.04 % of the energy each radian; no arcs. The resistance is "
    "good to 20 %. A quality factor measured by ring-down replaces the estimate.";
constexpr std::string_view loss_source = "Skin effect exact; proximity after Medhurst 1947 (table from memory)";
constexpr std::string_view wire_formula =
    "Turns times the length of one turn of the helix; mass and resistance follow from the copper's cross-section.";
constexpr std::string_view wire_limits = "Solid copper at the site's air temperature; direct current.";
constexpr std::string_view wire_source = "IEC 60028 (resistivity, density)";

std::string print(double si, Dimension dimension, UnitSystem units, int digits = 4) {
  return format_quantity(si, dimension, units, digits);
}

std::string input(std::string_view label, double si, Dimension dimension, UnitSystem units, int digits = 4) {
  return fmt::format("{} {}", label, print(si, dimension, units, digits));
}

// "Wheeler 1928: 68.1 mH, 1.2 % below"
std::string beside(std::string_view name, double estimate, double exact, Dimension dimension, UnitSystem units,
                   std::string_view known_error) {
  const double off = (estimate / exact - 1) * 100;
  return fmt::format("{}: {}, {:.1f} % {} ({})", name, print(estimate, dimension, units), std::abs(off),
                     off < 0 ? "below" : "above", known_error);
}

std::string inductance_by_hand(const PowerView& o, UnitSystem u) {
  return beside("Wheeler 1928", o.analysis.secondary_inductance_estimate_h, o.analysis.secondary_inductance_h,
                inductance, u, "good to 1 % for coils longer than 0.4 diameters");
}

std::string mode_by_hand(const PowerView& o, UnitSystem u) {
  const Analysis& a = o.analysis;
  return beside("Textbook sum (Medhurst self-capacitance + topload alone)", a.estimate.mode_1_hz,
                a.resonator ? a.resonator->mode_1_hz : a.estimate.mode_1_hz, frequency, u,
                "it adds capacitances that shade each other: 5 to 20 % low on squat coils");
}

std::string mode_limits(const PowerView& o, UnitSystem) {
  const auto& r = o.analysis.resonator;
  if (!r) return o.analysis.problem;
  return fmt::format("{}. Arcs, nearby objects and the form's plastic pull it lower. Model good to {:.0f} %; "
                     "finer cutting would move it by less than {:.2f} %.",
                     r->assumption, r->relative_accuracy * 100, r->cutting_error * 100);
}

std::string effective_by_hand(const PowerView& o, UnitSystem u) {
  return fmt::format("Uniform-current inductance {}, textbook capacitance {}",
                     print(o.analysis.secondary_inductance_h, inductance, u),
                     print(o.analysis.estimate.effective_capacitance_f, capacitance, u));
}

std::string resonator_limits(const PowerView& o, UnitSystem) {
  return o.analysis.resonator ? o.analysis.resonator->assumption : o.analysis.problem;
}

std::vector<std::string> topload_parts(const PowerView& o, UnitSystem u) {
  std::vector<std::string> out;
  for (const ToploadPart& part : o.design.topload) {
    const ToploadShape* shape = topload_shape(part.shape);
    if (!shape) continue;
    std::string text(shape->title);
    for (const ToploadLength& each : shape->lengths)
      text += fmt::format(", {} {}", each.label, print(part.*each.member, length, u));
    out.push_back(text);
  }
  return out;
}

std::string topload_by_hand(const PowerView& o, UnitSystem u) {
  if (o.design.topload.size() != 1 || !o.analysis.resonator) return {};
  const ToploadPart& only_part = o.design.topload.front();
  const ToploadShape* shape = topload_shape(only_part.shape);
  const auto exact = shape ? shape->exact_capacitance_f(only_part) : std::nullopt;
  return exact ? beside("Closed form of the shape alone", *exact, o.analysis.resonator->topload_isolated_f,
                        capacitance, u, "exact for a single body")
               : std::string();
}

std::string primary_by_hand(const PowerView& o, UnitSystem u) {
  return beside("Wheeler 1928 (spiral, helix, or both for a cone)", o.analysis.primary_inductance_estimate_h,
                o.analysis.primary_inductance_h, inductance, u, "good to 5 % for many turns");
}

std::string skin_limits(const PowerView& o, UnitSystem) {
  return fmt::format("Skin much thinner than the conductor. Crowding raises the loss {:.2f} times over evenly "
                     "spread skin current. "
                     "The tuning uses the even current; this says how much lower the inductance can read.",
                     o.analysis.primary_crowding);
}

std::string skin_by_hand(const PowerView& o, UnitSystem u) {
  return beside("Even current", o.analysis.primary_inductance_h, o.analysis.primary_skin_h, inductance, u,
                "ignores how turns push each other's current aside");
}

std::vector<std::string> clip_target(const PowerView& o, UnitSystem u) {
  return {input("Tune to", o.analysis.target_hz, frequency, u) + ", " + o.analysis.target_source};
}

std::vector<std::string> at_firing(const PowerView& o, UnitSystem u) {
  return {input("Tank at its peak", o.analysis.tank_peak_v, voltage, u)};
}

std::vector<std::string> skin_depth(const PowerView& o, UnitSystem u) {
  return {input("Skin depth", o.analysis.skin_depth_m, length, u)};
}

std::string loss_by_hand(const PowerView& o, UnitSystem) {
  return fmt::format("Wire alone: Q {:.0f}; wire, ground and form: Q {:.0f}", o.analysis.winding_q,
                     o.analysis.quality_estimate);
}

std::vector<std::string> hottest_spot(const PowerView& o, UnitSystem u) {
  if (!o.analysis.breakout) return {};
  const Breakout& b = *o.analysis.breakout;
  return {fmt::format("Hottest spot: {}, {} above the floor, {} from the axis", b.where,
                      print(b.height_m, length, u, 3), print(b.radius_m, length, u, 3))};
}

std::vector<std::string> arc_at_most(const PowerView& o, UnitSystem u) {
  return {input("Longest arc expected", o.analysis.expected_arc_m.high, length, u)};
}

// Nothing is known of the coupling of coils that cross.
template <auto Member>
std::optional<double> of_coupled(const PowerView& o) {
  return when(o.analysis.coupling > 0, o.analysis.*Member);
}

template <auto Member>
std::optional<double> of_topload(const PowerView& o) {
  return o.design.topload.empty() ? std::nullopt : resting<&Analysis::resonator, Member>(o);
}

// Only with the resonator solved, though the number would be there.
template <auto... Path>
std::optional<double> solved(const PowerView& o) {
  return o.analysis.resonator ? resting<Path...>(o) : std::nullopt;
}

constexpr Figure mode_row(std::string_view key, std::string_view title, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = frequency,
          .digits = 4,
          .value = value,
          .needs = Needs::winding,
          .formula = mode_formula,
          .inputs = resonator_inputs,
          .assumes_here = mode_limits,
          .source = field_source,
          .by_hand = mode_by_hand};
}

constexpr Figure effective_row(std::string_view key, std::string_view title, Dimension dimension,
                               FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = 4,
          .value = value,
          .needs = Needs::winding,
          .formula = effective_formula,
          .inputs = winding_inputs,
          .assumes_here = resonator_limits,
          .source = field_source,
          .by_hand = effective_by_hand};
}

constexpr Figure topload_row(std::string_view key, std::string_view title, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = capacitance,
          .value = value,
          .needs = Needs::winding,
          .formula = topload_formula,
          .more_inputs = topload_parts,
          .assumes = bodies,
          .source = exact_bodies,
          .by_hand = topload_by_hand};
}

constexpr Figure coupling_row(std::string_view key, std::string_view title, Dimension dimension, int digits,
                              FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = digits,
          .value = value,
          .needs = Needs::primary,
          .formula = coupling_formula,
          .inputs = "mutual_inductance_h primary_inductance_h secondary_inductance_h primary.base_height_m",
          .assumes = coupling_limits,
          .source = rings_source};
}

constexpr Figure thomson_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = 4,
          .value = value,
          .needs = Needs::tank,
          .formula = thomson_formula,
          .inputs = tank_inputs,
          .assumes = thomson_limits,
          .source = "Thomson 1853"};
}

constexpr Figure tuned_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = 4,
          .value = value,
          .needs = Needs::tank,
          .formula = "The clip position, or the capacitance, at which the tank's frequency equals its target.",
          .inputs = tank_inputs,
          .more_inputs = clip_target,
          .assumes = clip_limits,
          .source = "See the tank frequency and the resonance"};
}

constexpr Figure energy_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .value = value,
          .needs = Needs::tank,
          .formula = energy_formula,
          .inputs = "tank_capacitance_f",
          .more_inputs = at_firing,
          .assumes = energy_limits,
          .source = energy_source};
}

constexpr Figure loaded_row(std::string_view key, std::string_view title, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = frequency,
          .value = value,
          .needs = Needs::tank,
          .formula = loaded_formula,
          .inputs = "mode_1_hz",
          .more_inputs = arc_at_most,
          .assumes = loaded_limits,
          .source = practice};
}

constexpr Figure loss_row(std::string_view key, std::string_view title, Dimension dimension, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .value = value,
          .needs = Needs::winding,
          .formula = loss_formula,
          .inputs = loss_inputs,
          .more_inputs = skin_depth,
          .assumes = loss_limits,
          .source = loss_source,
          .by_hand = loss_by_hand};
}

constexpr Figure wire_row(std::string_view key, std::string_view title, Dimension dimension, int digits,
                          FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = digits,
          .value = value,
          .needs = Needs::winding,
          .formula = wire_formula,
          .inputs = wire_inputs,
          .assumes = wire_limits,
          .source = wire_source};
}

constexpr std::array rest_rows{
    Figure{.key = "secondary_inductance_h",
           .group = at_rest_group,
           .title = "Winding inductance",
           .dimension = inductance,
           .digits = 4,
           .value = resting<&Analysis::secondary_inductance_h>,
           .needs = Needs::winding,
           .formula = "Every turn's own inductance plus its mutual inductance with every other turn, added up.",
           .inputs = winding_inputs,
           .assumes = "Uniform current, even pitch, current spread over the whole wire (low frequency).",
           .source = "Maxwell 1873 in the elliptic-integral form; Grover, Inductance Calculations, 1946",
           .by_hand = inductance_by_hand},
    mode_row("mode_1_hz", "Resonance", resting<&Analysis::resonator, &ResonatorResult::mode_1_hz>),
    mode_row("mode_2_hz", "Second mode", resting<&Analysis::resonator, &ResonatorResult::mode_2_hz>),
    mode_row("mode_3_hz", "Third mode", resting<&Analysis::resonator, &ResonatorResult::mode_3_hz>),
    mode_row("lumped_hz", "Textbook resonance", resting<&Analysis::estimate, &ResonatorResult::mode_1_hz>),
    effective_row("effective_inductance_h", "Effective inductance", inductance,
                  resting<&Analysis::resonator, &ResonatorResult::effective_inductance_h>),
    effective_row("effective_capacitance_f", "Effective capacitance", capacitance,
                  resting<&Analysis::resonator, &ResonatorResult::effective_capacitance_f>),
    topload_row("topload_isolated_capacitance_f", "Topload alone",
                of_topload<&ResonatorResult::topload_isolated_f>),
    topload_row("topload_in_place_capacitance_f", "Topload in place",
                of_topload<&ResonatorResult::topload_in_place_f>),
    Figure{.key = "primary_inductance_h",
           .group = at_rest_group,
           .title = "Primary at the clip",
           .dimension = inductance,
           .digits = 4,
           .value = resting<&Analysis::primary_inductance_h>,
           .needs = Needs::primary,
           .formula =
               "Each turn is a ring at its mean radius and height; all self and mutual inductances up to the "
               "clip are added.",
           .inputs = "primary.inner_radius_m primary.pitch_m primary.conductor_diameter_m primary.tap_turns",
           .assumes = "Uniform current along the conductor, flowing in its skin; leads are counted apart.",
           .source = rings_source,
           .by_hand = primary_by_hand},
    Figure{.key = "primary_skin_inductance_h",
           .group = at_rest_group,
           .title = "With crowded current",
           .dimension = inductance,
           .digits = 4,
           .value = [](const PowerView& o) { return above_zero(o.analysis.primary_skin_h); },
           .needs = Needs::primary,
           .formula =
               "Each turn's skin is cut into filaments whose currents settle so that every filament of a turn "
               "sees the same voltage: at high frequency the current crowds to the inner edge.",
           .inputs = "primary.conductor_diameter_m primary.pitch_m primary.tap_turns",
           .assumes_here = skin_limits,
           .source = "Filament method, Ruehli 1972; Maxwell's ring formula",
           .by_hand = skin_by_hand},
    Figure{.key = "lead_inductance_h",
           .group = at_rest_group,
           .title = "Leads",
           .dimension = inductance,
           .value = resting<&Analysis::lead_inductance_h>,
           .needs = Needs::primary,
           .formula = "A go-and-return pair: mu0 times length over pi, times the logarithm of spacing over wire "
                      "radius; without length and spacing, the number entered.",
           .inputs = "primary.lead_length_m primary.lead_spacing_m primary.conductor_diameter_m "
                     "primary.lead_inductance_h",
           .assumes =
               "The pair is as thick as the primary's conductor and runs straight; the gap's own loop counts "
               "as lead.",
           .source = "Grover 1946, ch. 5"},
    coupling_row("mutual_inductance_h", "Mutual inductance", inductance, 4,
                 of_coupled<&Analysis::mutual_inductance_h>),
    coupling_row("coupling", "Coupling k", number, 3, of_coupled<&Analysis::coupling>),
    thomson_row("tank_capacitance_f", "Tank capacitance", capacitance, resting<&Analysis::tank_capacitance_f>),
    thomson_row("tank_hz", "Tank frequency", frequency, resting<&Analysis::tank_hz>),
    tuned_row("tuned_tap_turns", "Clip in tune", number, resting<&Analysis::tuned_tap_turns>),
    tuned_row("tuned_capacitance_f", "In tune at this clip", capacitance, resting<&Analysis::tuned_capacitance_f>),
    energy_row("stored_energy_j", "Stored energy", energy, resting<&Analysis::stored_energy_j>),
    energy_row("stored_charge_c", "Stored charge", charge, resting<&Analysis::stored_charge_c>),
    Figure{.key = "peak_current_a",
           .group = at_rest_group,
           .title = "Peak primary current",
           .dimension = current,
           .value = resting<&Analysis::peak_current_a>,
           .needs = Needs::tank,
           .formula = "Firing voltage times the root of capacitance over inductance.",
           .inputs = "tank_capacitance_f primary_inductance_h",
           .more_inputs = at_firing,
           .assumes = "No gap loss and nothing taken by the secondary yet: an upper limit.",
           .source = "Circuit theory"},
    energy_row("unit_voltage_v", "Voltage on the fullest unit", voltage, resting<&Analysis::unit_voltage_v>),
    Figure{.key = "bleed_time_s",
           .group = at_rest_group,
           .title = "Bleed time to 50 V",
           .dimension = time,
           .value = resting<&Analysis::bleed_time_s>,
           .needs = Needs::tank,
           .formula = "Resistance times capacitance times the logarithm of firing voltage over 50 V.",
           .inputs = "tank_capacitance_f tank.bleed_resistance_ohm",
           .more_inputs = at_firing,
           .assumes = "All bleeders intact. Dielectric absorption can bring voltage back: short the tank and leave "
                      "the clip on.",
           .source = "Circuit theory"},
    loaded_row("loaded_low_hz", "Resonance with long arcs", solved<&Analysis::loaded_hz, &Range::low>),
    loaded_row("loaded_high_hz", "Resonance with short arcs", solved<&Analysis::loaded_hz, &Range::high>),
    Figure{.key = "breakout_voltage_v",
           .group = at_rest_group,
           .title = "Breakout voltage",
           .dimension = voltage,
           .value = resting<&Analysis::breakout, &Breakout::voltage_v>,
           .needs = Needs::winding,
           .formula =
               "The top voltage at which the surface field of the field solution reaches the strength of air "
               "at that curvature.",
           .inputs = "site.air_temperature_c site.air_pressure_hpa breakout.roughness",
           .more_inputs = hottest_spot,
           .assumes = breakout_limits,
           .source = breakout_source},
    loss_row("quality_factor", "Quality factor", number, solved<&Analysis::quality_factor>),
    loss_row("winding_resistance_ohm", "Wire resistance at resonance", resistance,
             solved<&Analysis::winding_resistance_ohm>),
    mode_row("best_mode_1_hz", "With measurements",
             [](const PowerView& o) {
               return o.design.measurements.empty() ? std::nullopt : solved<&Analysis::best_mode_1_hz>(o);
             }),
    wire_row("wire_length_m", "Secondary wire", length, 4, resting<&Analysis::wire_length_m>),
    wire_row("wire_mass_kg", "Copper mass", mass, 3, resting<&Analysis::wire_mass_kg>),
    wire_row("secondary_resistance_ohm", "Wire resistance, DC", resistance, 3,
             resting<&Analysis::secondary_resistance_ohm>),
    Figure{.key = "height_to_diameter",
           .group = at_rest_group,
           .title = "Height to diameter",
           .value = resting<&Analysis::height_to_diameter>,
           .needs = Needs::winding,
           .formula = "Length of the winding over the form's diameter.",
           .inputs = "secondary.winding_length_m secondary.form_diameter_m",
           .assumes = "Three to six is usual (common practice).",
           .source = practice},
};

} // namespace

std::span<const Figure> shared_figures() {
  return rest_rows;
}

} // namespace arc

// Figures of the coil at rest that all kinds share; those of one kind alone stand in its own table.
#include "simulation/figures_at_rest.h"

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
constexpr std::string_view field_source = "Boundary elements over a conducting floor and turn rings (Maxwell; "
                                          "Grover 1946), solved as a distributed line; "
                                          "checked against an independent program within 1 %";
constexpr std::string_view first_mode =
    "The winding is cut into 80 pieces; the charge on every surface and the flux "
    "of every turn are solved together; the lowest natural frequency is this one.";
constexpr std::string_view second_mode =
    "The winding is cut into 80 pieces; the charge on every surface and the flux "
    "of every turn are solved together; the second natural frequency is this one.";
constexpr std::string_view third_mode =
    "The winding is cut into 80 pieces; the charge on every surface and the flux "
    "of every turn are solved together; the third natural frequency is this one.";
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
constexpr std::string_view coupling_limits =
    "Uniform current in both windings. The usual band for spark-gap coils is 0.10 to 0.15 (common practice).";

// "Wheeler 1928: 68.1 mH, 1.2 % below"
std::string beside(std::string_view name, double estimate, double exact, Dimension dimension, UnitSystem units,
                   std::string_view known_error) {
  const double off = (estimate / exact - 1) * 100;
  return fmt::format("{}: {}, {:.1f} % {} ({})", name, print_at_rest(estimate, dimension, units), std::abs(off),
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
                     print_at_rest(o.analysis.secondary_inductance_h, inductance, u),
                     print_at_rest(o.analysis.estimate.effective_capacitance_f, capacitance, u));
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
      text += fmt::format(", {} {}", each.label, print_at_rest(part.*each.member, length, u));
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

// Nothing is known of the coupling of coils that cross.
template <auto Member>
std::optional<double> of_coupled(const PowerView& o) {
  return when(o.analysis.coupling > 0, o.analysis.*Member);
}

template <auto Member>
std::optional<double> of_topload(const PowerView& o) {
  return o.design.topload.empty() ? std::nullopt : resting<&Analysis::resonator, Member>(o);
}

bool measured(const PowerView& o) {
  return !o.design.measurements.empty();
}

constexpr Figure mode_row(std::string_view key, std::string_view title, std::string_view formula, FigureValue value,
                          std::string (*by_hand)(const PowerView&, UnitSystem) = nullptr,
                          bool (*beside)(const PowerView&) = nullptr) {
  return {.key = key,
          .group = at_rest_group,
          .beside = beside,
          .title = title,
          .dimension = frequency,
          .digits = 4,
          .value = value,
          .needs = Needs::winding,
          .formula = formula,
          .inputs = resonator_inputs,
          .assumes_here = mode_limits,
          .source = field_source,
          .by_hand = by_hand};
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
                              std::string_view formula, std::string_view inputs, FigureValue value) {
  return {.key = key,
          .group = at_rest_group,
          .title = title,
          .dimension = dimension,
          .digits = digits,
          .value = value,
          .needs = Needs::primary,
          .formula = formula,
          .inputs = inputs,
          .assumes = coupling_limits,
          .source = rings_source};
}

constexpr std::array winding_rows{
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
    mode_row("mode_1_hz", "Resonance", first_mode, resting<&Analysis::resonator, &ResonatorResult::mode_1_hz>,
             mode_by_hand, measured),
    mode_row("mode_2_hz", "Second mode", second_mode, resting<&Analysis::resonator, &ResonatorResult::mode_2_hz>),
    mode_row("mode_3_hz", "Third mode", third_mode, resting<&Analysis::resonator, &ResonatorResult::mode_3_hz>),
    Figure{.key = "lumped_hz",
           .group = at_rest_group,
           .beside = [](const PowerView&) { return true; },
           .title = "Textbook resonance",
           .dimension = frequency,
           .digits = 4,
           .value = resting<&Analysis::estimate, &ResonatorResult::mode_1_hz>,
           .needs = Needs::winding,
           .formula = "One over two pi times the root of the winding's inductance times the sum of Medhurst's "
                      "self-capacitance and the topload's alone.",
           .inputs = "secondary_inductance_h secondary.form_diameter_m secondary.winding_length_m "
                     "topload_isolated_capacitance_f",
           .assumes = "Even current; capacitances that shade each other are added whole: 5 to 20 % low on squat "
                      "coils. Stands beside the field solution, nothing goes by it.",
           .source = "Medhurst 1947 (table from memory); Thomson 1853"},
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
           .title = "Primary at the tap",
           .dimension = inductance,
           .digits = 4,
           .value = resting<&Analysis::primary_inductance_h>,
           .needs = Needs::primary,
           .formula =
               "Each turn is a ring at its mean radius and height; all self and mutual inductances up to the "
               "tap are added.",
           .inputs = "primary.inner_radius_m primary.pitch_m primary.conductor_diameter_m primary.tap_turns",
           .assumes = "Uniform current along the conductor, flowing in its skin; leads are counted apart.",
           .source = rings_source,
           .by_hand = primary_by_hand},
    Figure{.key = "primary_skin_inductance_h",
           .group = at_rest_group,
           .title = "Primary inductance at RF",
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
    coupling_row(
        "mutual_inductance_h", "Mutual inductance", inductance, 4,
        "Every turn of the primary up to the tap with every turn of the winding, as coaxial rings, added up.",
        "primary.inner_radius_m primary.pitch_m primary.tap_turns primary.base_height_m "
        "secondary.base_height_m secondary.turns",
        of_coupled<&Analysis::mutual_inductance_h>),
    coupling_row("coupling", "Coupling k", number, 3, "Mutual inductance over the root of both inductances.",
                 "mutual_inductance_h primary_inductance_h secondary_inductance_h primary.base_height_m",
                 of_coupled<&Analysis::coupling>),
};

} // namespace

std::span<const Figure> shared_figures() {
  static const std::vector<Figure> rows = joined_figures({winding_rows, tank_and_wire_figures()});
  return rows;
}

} // namespace arc

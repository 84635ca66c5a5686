// Findings on what a tube has to bear: watts, volts, amperes. Limits are common practice of builders (no source)
// unless a rating or a law is named.
#include "analysis/analyse.h"
#include "analysis/findings.h"
#include "crafts/tubes/rules.h"
#include "crafts/tubes/tube.h"
#include "field/resonator.h"
#include "quantity/say.h"
#include "simulation/feed_findings.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc::tube_rule {

namespace {

// By how many times the grid leak must grow so that what the balance says falls to this share of what it is now; 2
// where the balance says nothing of it.
double leak_grows(const TubePower& t, double TubeBalance::*what, double share) {
  constexpr double usual = 2, margin = 0.9;
  if (!t.balance || !(*t.balance.*what > 0)) return usual;
  for (const double factor : {1.5, 2.0, 3.0, 4.0, 6.0, 8.0}) {
    TubeCircuit c = t.circuit;
    c.grid_leak_ohm *= factor;
    const auto then = tube_balance(c, t.crest_v);
    if (then && *then.*what <= margin * share * *t.balance.*what) return factor;
  }
  return usual;
}

struct LeakRemedy {
  std::string words; // "Grid leak of 3 kOhm"
  std::function<void(Design&)> apply;
};

LeakRemedy larger_leak(const Design& d, double factor, const Say& say) {
  const bool flame = is_flame(d);
  const double ohm = round_significant(factor * (flame ? d.flame.grid_resistor_ohm : d.tube.grid_leak_ohm), 2);
  return {fmt::format("{} of {}", flame ? "Grid resistor" : "Grid leak", say(ohm, resistance)),
          [ohm, flame](Design& x) { (flame ? x.flame.grid_resistor_ohm : x.tube.grid_leak_ohm) = ohm; }};
}

// Of the feedback plate of a flame coil: nearer drives more, farther less.
LeakRemedy feedback_plate(const Design& d, double factor, const char* words, const Say& say) {
  const double farad = round_significant(factor * d.flame.feedback_f, 2);
  return {fmt::format("{}: a feedback plate of {}", words, say(farad, capacitance)),
          [farad](Design& x) { x.flame.feedback_f = farad; }};
}

// An electrode beyond its rating for good, of either kind of coil.
struct HotElectrode {
  const char *id, *name; // as a findings' id, and in words: "plate", "grid"
  double watts, rated, passes_s;
  std::string more; // of the text
};

Finding hot_electrode(const Design& d, const HotElectrode& e, const LeakRemedy& cure, const Say& say) {
  return Finding{.id = fmt::format("{}{}", is_flame(d) ? "flame-" : "", e.id),
                 .severity = Severity::stop,
                 .stage = "oscillator",
                 .field = is_flame(d) ? "flame.feedback_f" : "tube.grid_leak_ohm",
                 .title = fmt::format("{} in {} rated {}", say(e.watts, power), e.name, say(e.rated, power)),
                 .text = fmt::format("It passes its rating after {}{}", say(e.passes_s, time, 2), e.more),
                 .remedy = cure.words,
                 .value = e.watts,
                 .limit = e.rated,
                 .dimension = power,
                 .apply = cure.apply};
}

} // namespace

Maybe plate_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.plate_time_s || !t.run.oscillates) return {};
  const Say say{units};
  const double rated = d.tube.tube.plate_dissipation_w;
  LeakRemedy cure;
  if (is_flame(d)) {
    cure = feedback_plate(d, 1.5, "More drive", say);
  } else {
    cure = larger_leak(d, leak_grows(t, &TubeBalance::plate_dissipation_w, rated / t.worst_plate_w), say);
    cure.words += ": less heat for a little less output";
  }
  Finding out = hot_electrode(
      d,
      {"plate-too-hot", tube_count(d) > 1 ? "the fuller plate" : "a plate", t.worst_plate_w, rated, *t.plate_time_s,
       is_flame(d) ? ": builders overload such tubes for as long as that, and let them cool."
                   : "; a plate that glows where it should be dark shows it."},
      cure, say);
  if (*t.plate_time_s >= 2) out.severity = Severity::warning;
  return out;
}

// What builders look at first: how much of the input comes out.
Maybe efficiency_low(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double share = t.efficiency();
  if (!(share > 0) || share >= usual_efficiency || t.firings.let_go > 0) return {};
  const Say say{units};
  Finding f{.id = "efficiency-low",
            .severity = Severity::warning,
            .stage = "oscillator",
            .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
            .title = fmt::format("{:.0f} % of the input reaches resonator and arc", 100 * share),
            .text = fmt::format("{} goes in, {} heats the plate{}.", say(t.run.plate_input_w, power),
                                say(t.run.plate_dissipation_w, power), tube_count(d) > 1 ? "s" : ""),
            .remedy = "Look at the tank's tune, the grid leak and the coupling",
            .value = share,
            .limit = usual_efficiency,
            .dimension = fraction};
  if (!t.waste) return f;
  f.text += fmt::format(" Most is lost because {}: put right, {:.0f} % would come out at the supply's crest.",
                        t.waste->cause, 100 * t.waste->efficiency_then);
  f.remedy = t.waste->cure;
  f.apply = t.waste->apply;
  return f;
}

Maybe grid_too_hot(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  if (!t.grid_time_s) return {};
  const Say say{units};
  const double rated = d.tube.tube.grid_dissipation_w;
  LeakRemedy cure;
  if (is_flame(d)) {
    cure = feedback_plate(d, 0.6, "Less drive", say);
  } else {
    cure = larger_leak(d, leak_grows(t, &TubeBalance::grid_dissipation_w, rated / t.worst_grid_w), say);
    cure.words += ", or fewer feedback turns";
  }
  return hot_electrode(
      d, {"grid-too-hot", "a grid", t.worst_grid_w, rated, *t.grid_time_s, ", and a grid sags before it is seen."},
      cure, say);
}

Maybe cathode_over(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double side = is_flame(d) ? 1 : d.tube.in_parallel; // the run gives the peak of one side
  const double each = t.run.cathode_peak_a / side * (tube_count(d) > 1 ? 1 + d.tube.sharing : 1);
  const double rated = d.tube.tube.cathode_peak_a;
  if (each <= rated) return {};
  const Say say{units};
  const LeakRemedy leak = larger_leak(d, leak_grows(t, &TubeBalance::cathode_peak_a, rated / each), say);
  return Finding{.id = "cathode-over",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = is_flame(d) ? "flame.grid_resistor_ohm" : "tube.grid_leak_ohm",
                 .title =
                     fmt::format("Peaks of {} from a cathode rated {}", say(each, current), say(rated, current)),
                 .text = "More than its filament can give is drawn from the cathode's coating.",
                 .remedy = leak.words + ", fewer feedback turns, or one tube more",
                 .value = each,
                 .limit = rated,
                 .dimension = current,
                 .apply = leak.apply};
}

Maybe plate_over_volts(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const double rated = d.tube.tube.plate_voltage_v;
  const double most = t.supply_most_v();
  if (most <= rated) return {};
  const Say say{units};
  const bool far = most > 1.5 * rated;
  return Finding{
      .id = "plate-over-volts",
      .severity = far ? Severity::stop : Severity::warning,
      .stage = "feed",
      .title = fmt::format("The supply reaches {}, the tube is rated {}", say(most, voltage), say(rated, voltage)),
      .text = fmt::format(
          "{}; the plate swings to {} from the cathode. Builders go over by half and "
          "shorten the tube's life by it.",
          t.run.rail_most_v > 1.02 * t.crest_v
              ? fmt::format("Leakage and capacitors ring it above its crest of {}", say(t.crest_v, voltage))
              : "Without load",
          say(std::max(t.run.plate_most_v, most), voltage)),
      .remedy = "A lower variac setting, or fewer transformers in series",
      .value = most,
      .limit = rated,
      .dimension = voltage};
}

Maybe xrays(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  const double most = std::max(t.supply_most_v(), t.run.plate_most_v);
  if (most <= xray_v) return {};
  const Say say{units};
  return Finding{.id = "x-rays",
                 .severity = Severity::warning,
                 .stage = "feed",
                 .title = fmt::format("{} on a hard vacuum", say(most, voltage)),
                 .text =
                     "Above some ten kilovolts X-rays come out of a tube's glass. Distance, a metal screen, short "
                     "runs; ask somebody who may measure.",
                 .remedy = "Keep the plate's swing below it",
                 .value = most,
                 .limit = xray_v,
                 .dimension = voltage};
}

// Grid leak or grid resistor, by kind.
Maybe leak_over(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  const bool flame = is_flame(d);
  const double rated = flame ? d.flame.grid_resistor_rating_w : d.tube.grid_leak_rating_w;
  if (t.run.leak_w <= rated) return {};
  const Say say{units};
  const double watts = round_significant(2 * t.run.leak_w, 1);
  return Finding{.id = flame ? "grid-resistor-over" : "grid-leak-over",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = flame ? "flame.grid_resistor_rating_w" : "tube.grid_leak_rating_w",
                 .title = fmt::format("{} in a {} for {}", say(t.run.leak_w, power),
                                      flame ? "grid resistor" : "grid leak", say(rated, power)),
                 .text = "As it burns open the bias goes with it, and the plate after that.",
                 .remedy = fmt::format("Fit one for {}", say(watts, power)),
                 .value = t.run.leak_w,
                 .limit = rated,
                 .dimension = power,
                 .apply = [watts, flame](Design& x) {
                   (flame ? x.flame.grid_resistor_rating_w : x.tube.grid_leak_rating_w) = watts;
                 }};
}

// Of flame coils.
Maybe flame_not_isolated(const Design&, const Analysis&, const TubePower& t, UnitSystem units) {
  const Say say{units};
  return Finding{.id = "flame-not-isolated",
                 .severity = Severity::note,
                 .stage = "oscillator",
                 .title = fmt::format("The flame is at the plate supply's {}", say(t.supply_most_v(), voltage)),
                 .text =
                     "The hot end is joined to the plate, whatever floats: the flame carries the supply. Nothing "
                     "goes near it while it is on.",
                 .remedy = "A cage around it that opens the contactor",
                 .value = t.supply_most_v(),
                 .limit = 0,
                 .dimension = voltage};
}

Maybe form_chars(const Design& d, const Analysis&, const TubePower& t, UnitSystem units) {
  constexpr double most_w = 1; // in plastic, which softens and then chars along the field
  if (d.flame.form != FlameForm::plastic || t.form_w <= most_w) return {};
  const Say say{units};
  return Finding{.id = "form-chars",
                 .severity = Severity::warning,
                 .stage = "oscillator",
                 .field = "flame.form",
                 .title = fmt::format("{} in a plastic form", say(t.form_w, power)),
                 .text = "It softens where the field is strongest, chars, and then conducts.",
                 .remedy = "A ceramic form, or a self-supporting coil",
                 .value = t.form_w,
                 .limit = most_w,
                 .dimension = power,
                 .apply = [](Design& x) { x.flame.form = FlameForm::ceramic; }};
}

} // namespace arc::tube_rule

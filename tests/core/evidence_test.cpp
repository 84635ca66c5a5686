// Every kind of measurement as evidence, and the bands by sampling.
#include "analysis/analyse.h"
#include "analysis/sampling.h"
#include "circuit/feed.h"
#include "evidence/tolerance.h"
#include "parts/wire.h"
#include "simulation/one_at_a_time.h"
#include "support.h"

#include <mutex>
#include <nlohmann/json.hpp>
#include <thread>

using namespace arc;
using testing::HasSubstr;

namespace {

Design unmeasured() {
  Design d = demo_design();
  d.measurements.clear();
  return d;
}

TEST(evidence_kinds, each_kind_that_agrees_has_no_misfit_and_survives_the_file) {
  for (const MeasurementKind& kind : measurement_kinds()) {
    Design d = unmeasured();
    const auto& beside = kind.given;
    const double given = !beside                                       ? 0
                         : beside->dimension == Dimension::capacitance ? 20e-12
                         : beside->dimension == Dimension::voltage     ? 230
                                                                       : 9.5;
    d.measurements = {measured(kind.key, std::sqrt(kind.value.minimum * kind.value.maximum), given)};
    const double expected = analyse(d).evidence.at(0).expected;
    d.measurements = {measured(kind.key, expected, given)};
    const Analysis a = analyse(d);
    EXPECT_NEAR(a.evidence.at(0).misfit, 0, 1e-9) << kind.key;
    EXPECT_EQ(read_design(write_design(d)).measurements, d.measurements) << kind.key;
    const auto report = report_measurement(d, a, 0, UnitSystem::metric);
    EXPECT_NEAR(report.offset_percent, 0, 1e-6) << kind.key;
    EXPECT_FALSE(report.meaning.empty()) << kind.key;
    EXPECT_FALSE(kind.how.empty()) << kind.key;
  }
}

TEST(evidence_kinds, a_known_capacitor_pulls_the_coil_down_as_the_two_reading_method_says) {
  // Two resonances, without and with C added: effective C = Cadd / ((f0/f1)^2 - 1) (common practice for coils;
  // exact for one lumped capacitor). The distributed coil agrees within some per cent.
  Design d = unmeasured();
  const Analysis a = analyse(d);
  constexpr double added = 5e-12;
  const double f1 = field_resonator(d, {}, added).mode_1_hz;
  const double inferred = added / (std::pow(a.resonator->mode_1_hz / f1, 2) - 1);
  expect_close(inferred, a.resonator->effective_capacitance_f, 0.06);
}

TEST(evidence_kinds, the_resistance_of_the_winding_tells_its_turns_at_any_temperature) {
  // Copper gains 0.393 % for each kelvin (IEC 60028): the same winding read warm tells the same turns.
  Design d = unmeasured();
  const Analysis a = analyse(d);
  const double cold = wire_resistance_ohm(d.secondary.wire_bare_diameter_m, a.wire_length_m, 20);
  for (const double celsius : {0.0, 20.0, 35.0}) {
    const double warm = cold * (1 + 0.00393 * (celsius - 20));
    d.measurements = {measured("winding-resistance", warm, celsius)};
    Analysis read = analyse(d);
    EXPECT_NEAR(read.evidence[0].misfit, 0, 1e-6) << celsius;
    EXPECT_EQ(report_measurement(d, read, 0, UnitSystem::metric).meaning, "the turns are as entered");
    d.measurements = {measured("winding-resistance", 0.96 * warm, celsius)};
    read = analyse(d);
    EXPECT_EQ(report_measurement(d, read, 0, UnitSystem::metric).meaning,
              "fits " + std::to_string(std::lround(0.96 * d.secondary.turns)) + " turns; count again");
  }
}

TEST(evidence_kinds, resistance_and_weight_together_tell_turns_from_wire) {
  // Resistance goes with N / d^2, weight with N d^2: one alone leaves turns and wire open, both settle the turns.
  Design d = unmeasured();
  for (const ToleranceInput& input : tolerance_inputs()) d.tolerances[std::string(input.key)] = 0;
  d.tolerances["turns"] = 0.05;
  d.tolerances["wire"] = 0.05;
  const Analysis none = analyse(d);
  const Measurement ohm = measured("winding-resistance", none.secondary_resistance_ohm, d.site.air_temperature_c);
  const Measurement weight = measured("wire-weight", none.wire_mass_kg);
  const auto band = [&](std::initializer_list<Measurement> list) {
    d.measurements = list;
    return analyse(d).band.at("best_mode_1_hz") / none.band.at("best_mode_1_hz");
  };
  const double one = band({ohm}), other = band({weight}), both = band({ohm, weight});
  EXPECT_LT(both, 0.6 * std::min(one, other)) << one << " " << other << " " << both;
}

TEST(evidence_kinds, a_transformers_idle_current_is_compared_with_the_feeds) {
  Design d = unmeasured();
  const double volts = d.site.mains_voltage_v;
  d.measurements = {measured("idle-current", 1, volts)};
  const double expected = analyse(d).evidence.at(0).expected;
  ASSERT_GT(expected, 0);
  d.measurements = {measured("idle-current", 2 * expected, volts)};
  EXPECT_THAT(report_measurement(d, analyse(d), 0, UnitSystem::metric).meaning, HasSubstr("saturates earlier"));
  const auto source = std::ranges::find_if(d.feed.own(), [](const FeedBlock& b) { return is_source(b.kind); });
  source->values["idle_a"] = 2 * expected;
  source->values["rated_mains_v"] = volts;
  expect_close(analyse(d).evidence.at(0).expected, 2 * expected, 0.02, "entered at the transformer");
  d.feed.clear();
  const Analysis nothing = analyse(d);
  EXPECT_FALSE(nothing.evidence.at(0).used);
  EXPECT_THAT(report_measurement(d, nothing, 0, UnitSystem::metric).meaning, HasSubstr("nothing to compare"));
  EXPECT_FALSE(nothing.band.empty()) << "and the other bands stand";
}

TEST(evidence_kinds, a_measured_inductance_narrows_the_band_of_the_resonance) {
  Design d = unmeasured();
  d.tolerances["turns"] = 0.04;
  const Analysis before = analyse(d);
  d.measurements = {measured("winding-inductance", before.secondary_inductance_h)};
  EXPECT_LT(analyse(d).band.at("best_mode_1_hz"), 0.5 * before.band.at("best_mode_1_hz"));
}

TEST(evidence_kinds, a_wrong_turn_count_shows_in_the_inductance_and_is_flagged) {
  Design d = unmeasured();
  d.measurements = {measured("winding-inductance", 1.21 * analyse(d).secondary_inductance_h)};
  const Analysis a = analyse(d);
  EXPECT_GT(a.evidence[0].misfit, 3);
  ASSERT_NE(find(a, "measured-disagrees"), nullptr);
  EXPECT_THAT(find(a, "measured-disagrees")->title, HasSubstr("mH"));
  EXPECT_THAT(report_measurement(d, a, 0, UnitSystem::metric).meaning,
              HasSubstr("fits 1133 turns")); // root of 1.21
}

TEST(evidence_kinds, a_measured_quality_replaces_the_estimate_and_moves_nothing_else) {
  Design d = unmeasured();
  const Analysis before = analyse(d);
  d.measurements = {measured("ring-down", 180)};
  const Analysis after = analyse(d);
  EXPECT_EQ(after.quality_factor, 180);
  EXPECT_EQ(after.quality_estimate, before.quality_estimate);
  expect_close(after.best_mode_1_hz, before.resonator->mode_1_hz, 1e-12);
}

TEST(evidence_kinds, a_missing_or_absurd_number_is_refused_with_its_path) {
  const auto complaint = [](const char* measurement) -> std::string {
    Json json = Json::parse(write_design(unmeasured()));
    json["measurements"] = Json::array({Json::parse(measurement)});
    try {
      read_design(json.dump());
    } catch (const DesignFileError& error) {
      return error.what();
    }
    return "accepted";
  };
  EXPECT_THAT(complaint(R"({"kind":"ring-down"})"), HasSubstr("measurements[0].quality_factor"));
  EXPECT_THAT(complaint(R"({"kind":"winding-inductance","inductance_h":-1})"), HasSubstr("outside of"));
  EXPECT_THAT(complaint(R"({"kind":"coil-with-capacitor","frequency_hz":1e5})"), HasSubstr("capacitance_f"));
  EXPECT_THAT(complaint(R"({"kind":"smell"})"), HasSubstr("known: coil-with-topload"));
}

TEST(sampling, agrees_with_linear_propagation_for_every_result) {
  const Design d = unmeasured();
  const Analysis a = analyse(d);
  const SamplingResult sampled = sample_tolerances(d, 400, 5, 2, never);
  EXPECT_EQ(sampled.samples, 400);
  EXPECT_GE(sampled.bands.size(), 8u);
  for (const SampledBand& band : sampled.bands) {
    double linear = a.band.at(band.key);
    if (band.key == "mode_1_hz") linear = std::sqrt(linear * linear - std::pow(0.01 * a.resonator->mode_1_hz, 2));
    // A quantile of 400 samples scatters by 6 to 7 %: three times that.
    EXPECT_NEAR((band.high - band.low) / 2 / linear, 1, 0.2) << band.key;
  }
}

TEST(sampling, does_not_depend_on_the_number_of_threads_and_can_be_cancelled) {
  const Design d = unmeasured();
  std::atomic<bool> cancelled{false};
  const SamplingResult one = sample_tolerances(d, 40, 9, 1, cancelled);
  const SamplingResult three = sample_tolerances(d, 40, 9, 3, cancelled);
  for (std::size_t i = 0; i < one.bands.size(); ++i) EXPECT_EQ(one.bands[i].middle, three.bands[i].middle);
  std::mutex mutex;
  int calls = 0;
  const SamplingResult stopped = sample_tolerances(d, 5000, 9, 2, cancelled, [&](int) {
    const std::scoped_lock lock(mutex);
    if (++calls == 10) cancelled = true;
  });
  EXPECT_LT(stopped.samples, 100);
}

TEST(cutting, the_stated_cutting_error_covers_what_finer_cutting_changes) {
  Design d = unmeasured();
  for (const double length : {0.3, 0.47, 0.8}) {
    d.secondary.winding_length_m = length;
    d.secondary.turns = std::floor(length / 0.000439 * 0.95);
    const Analysis a = analyse(d);
    const double finer = field_resonator(d, {160, 80, true}).mode_1_hz;
    EXPECT_LT(std::abs(finer / a.resonator->mode_1_hz - 1), a.resonator->cutting_error) << length;
    EXPECT_LT(a.resonator->cutting_error, 0.01);
  }
}

TEST(stand_off, fields_across_the_air_follow_voltage_and_distance) {
  Design d = unmeasured();
  const Analysis a = analyse(d);
  expect_close(a.strike_field_v_per_m, top_voltage_v(a) / *a.strike_distance_m, 1e-12);
  d.primary.inner_radius_m += 0.02;
  EXPECT_LT(analyse(d).primary_field_v_per_m, a.primary_field_v_per_m) << "a wider primary stands off more";
  d = unmeasured();
  d.primary.base_height_m += 0.06;
  EXPECT_GT(analyse(d).primary_field_v_per_m, a.primary_field_v_per_m) << "higher turns carry more voltage";
}

TEST(one_at_a_time, sums_what_each_input_does_in_squares) {
  struct State {
    double x = 0, y = 0;
  };
  const std::atomic<bool> going{false}, stopped{true};
  const std::vector<std::function<void(State&, double)>> inputs{[](State& s, double sign) { s.x += sign; },
                                                                [](State& s, double sign) { s.y += 2 * sign; }};
  const auto run = [](const State& s) {
    return FigureValues{{"frequency_hz", 1000 + 3 * s.x + 2 * s.y}, {"bent", std::max(0.0, s.x) + s.y * s.y}};
  };
  const State middle;
  const FigureValues at = run(middle), half = one_at_a_time<State>(middle, at, inputs, run, going);
  EXPECT_DOUBLE_EQ(half.at("frequency_hz"), 5) << "3 and 4";
  EXPECT_DOUBLE_EQ(half.at("bent"), std::hypot(1.0, 4.0)) << "the larger of its two ways";
  EXPECT_TRUE(one_at_a_time<State>(middle, at, inputs, run, stopped).empty());
}

TEST(one_at_a_time, leaves_out_a_way_that_jumps_or_does_not_run_and_lets_the_other_speak) {
  const std::atomic<bool> going{false};
  const std::vector<std::function<void(double&, double)>> inputs{[](double& x, double sign) { x += sign; }};
  const auto jumps = [](const double& x) {
    return FigureValues{{"frequency_hz", x > 0.5 ? 1300.0 : 1000 + 7 * x}, {"top", x > 0.5 ? 90.0 : 10 + x}};
  };
  OtherCourses other{[](const FigureValues& way) { return is_other_pole(way.at("frequency_hz"), 1000); }, {}};
  FigureValues half = one_at_a_time<double>(0, jumps(0), inputs, jumps, going, &other);
  EXPECT_DOUBLE_EQ(half.at("frequency_hz"), 7);
  EXPECT_DOUBLE_EQ(half.at("top"), 1);
  ASSERT_EQ(other.ways.size(), 1U);
  EXPECT_DOUBLE_EQ(other.ways[0].at("top"), 90);
  EXPECT_DOUBLE_EQ((one_at_a_time<double>(0, jumps(0), inputs, jumps, going).at("top")), 80)
      << "where poles do not count";
  const auto stalls = [](const double& x) {
    if (x > 0.5) throw std::invalid_argument("it does not swing");
    return FigureValues{{"frequency_hz", 1000 + 7 * x}};
  };
  other.ways.clear();
  half = one_at_a_time<double>(0, stalls(0), inputs, stalls, going, &other);
  EXPECT_DOUBLE_EQ(half.at("frequency_hz"), 7);
  EXPECT_TRUE(other.ways.empty());
  EXPECT_FALSE(is_other_pole(1070, 1000)) << "as far as tolerances shift one";
  EXPECT_TRUE(is_other_pole(900, 1000));
  EXPECT_FALSE(is_other_pole(0, 1000)) << "it does not swing: no pole";
}

// A winding whose inductance and resistance fit has its turns; what is left to doubt is what capacitance comes
// from.
TEST(evidence, a_contradiction_is_looked_for_where_the_other_measurements_leave_room) {
  Design d = demo_design();
  d.measurements = {measured("coil-with-topload", 0.93 * analyse(d).resonator->mode_1_hz)};
  const Analysis alone = analyse(d);
  ASSERT_TRUE(find(alone, "measured-disagrees"));
  EXPECT_THAT(find(alone, "measured-disagrees")->remedy, HasSubstr("counts most"));
  d.measurements.push_back(measured("winding-inductance", alone.secondary_inductance_h));
  d.measurements.push_back(measured("winding-resistance", alone.secondary_resistance_ohm, 20));
  const Analysis after = analyse(d);
  const Finding* doubt = find(after, "measured-disagrees");
  ASSERT_TRUE(doubt);
  EXPECT_THAT(doubt->remedy, HasSubstr("leaves that open"));
  const auto& open = after.influences.at("evidence 0");
  for (const Influence& left : open)
    if (left.input.find("urn") != std::string::npos && left.input.find("count") != std::string::npos) {
      EXPECT_LT(left.change, 0.5 * open.front().change) << left.input << " is settled by the inductance";
    }
}

} // namespace

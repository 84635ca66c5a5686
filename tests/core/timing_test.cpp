// Interrupters and their timers: limits are never broken, parts give what is said, published formulas.
#include "random.h"
#include "schematics.h"
#include "timing/gate_drive.h"
#include "timing/interrupter.h"
#include "timing/timer_schematic.h"

#include "support.h"

#include <random>
#include <regex>
#include <set>
#include <sstream>

using namespace arc;
using testing::HasSubstr;

TEST(interrupter, no_pulse_ever_breaks_a_limit) {
  std::mt19937 random(5);
  const auto between = [&](double low, double high) {
    return std::exp(std::uniform_real_distribution(std::log(low), std::log(high))(random));
  };
  for (int i = 0; i < 2000; ++i) {
    Interrupter asked;
    asked.rate_hz = between(1, 5000);
    asked.on_time_s = between(1e-6, 5e-3);
    asked.locked = random() % 2 == 0;
    asked.every_cycle = 1 + static_cast<double>(random() % 8);
    asked.longest_on_s = between(1e-5, 1e-3);
    asked.largest_duty = between(0.001, 0.5);
    asked.highest_rate_hz = between(5, 2000);
    asked.least_off_s = between(1e-5, 1e-2);
    const double joules_per_s = between(10, 1e5);
    if (random() % 2 == 0) asked.largest_energy_j = between(1e-3, 10);
    const auto energy = [&](double on) { return joules_per_s * on; };
    const PulsePlan plan = plan_pulses(asked, 50, UnitSystem::metric, energy);
    constexpr double slack = 1 + 1e-9;
    EXPECT_LE(plan.on_s, asked.longest_on_s * slack);
    EXPECT_LE(plan.duty(), asked.largest_duty * slack);
    EXPECT_LE(plan.rate_hz, asked.highest_rate_hz * slack);
    EXPECT_GE(plan.off_s() * slack, asked.least_off_s);
    if (asked.largest_energy_j) {
      EXPECT_LE(energy(plan.on_s), *asked.largest_energy_j * slack);
    }
    if (asked.locked) {
      EXPECT_NEAR(std::remainder(50 / plan.rate_hz, 1), 0, 1e-6) << "still in step with the mains";
    }
    const bool as_asked = plan.on_s == asked.on_time_s && (asked.locked || plan.rate_hz == asked.rate_hz);
    EXPECT_EQ(as_asked && (!asked.locked || plan.rate_hz == 50 / asked.every_cycle), plan.hits.empty());
    for (const LimitHit& hit : plan.hits) EXPECT_THAT(hit.text, HasSubstr("is held at"));
  }
}

// |f_i - n f_mains|: 61 against 60 flash once a second, 14 off fourteen times (common practice, no source).
TEST(interrupter, beats_with_the_mains) {
  EXPECT_DOUBLE_EQ(mains_beat_hz(61, 60), 1);
  EXPECT_DOUBLE_EQ(mains_beat_hz(74, 60), 14);
  EXPECT_DOUBLE_EQ(mains_beat_hz(121, 60), 1);
  EXPECT_DOUBLE_EQ(mains_beat_hz(150, 50), 0);
}

TEST(interrupter, a_locked_one_begins_at_its_phase_every_so_many_cycles) {
  Interrupter asked;
  asked.locked = true;
  asked.phase_deg = 90;
  asked.every_cycle = 3;
  const PulsePlan plan = plan_pulses(asked, 50, UnitSystem::metric);
  const auto starts = burst_starts(plan, 0.2);
  ASSERT_EQ(starts.size(), 4u);
  EXPECT_NEAR(starts[0], 0.005, 1e-12);
  EXPECT_NEAR(starts[1] - starts[0], 0.06, 1e-12);
  EXPECT_EQ(plan.beat_hz, 0);
}

TEST(interrupter, limits_of_nothing_are_refused) {
  Interrupter asked;
  asked.longest_on_s = 0;
  EXPECT_THROW(plan_pulses(asked, 50, UnitSystem::metric), std::invalid_argument);
}

// IEC 60063: E12 and E24 are rounded powers of ten's twelfth and twenty-fourth roots.
TEST(timer, e_series_are_those_of_the_standard) {
  EXPECT_DOUBLE_EQ(nearest_e_value(4.6e3, 12), 4.7e3);
  EXPECT_DOUBLE_EQ(nearest_e_value(5.0e3, 24), 5.1e3);
  EXPECT_DOUBLE_EQ(nearest_e_value(9.7e-9, 24), 10e-9);
  EXPECT_DOUBLE_EQ(nearest_e_value(3.3, 12), 3.3);
  EXPECT_THROW(nearest_e_value(0, 12), std::invalid_argument);
  std::mt19937 random(1);
  for (int i = 0; i < 300; ++i) {
    const double value = std::pow(10, std::uniform_real_distribution(-9.0, 6.0)(random));
    EXPECT_LE(std::abs(std::log(nearest_e_value(value, 24) / value)), std::log(10) / 24) << value;
    EXPECT_LE(std::abs(std::log(nearest_e_value(value, 12) / value)), 1.3 * std::log(10) / 24) << value;
  }
}

// The timer's data sheets: f = 1.44 / ((Ra + 2 Rb) C), one shot 1.1 R C.
TEST(timer, formulas_are_those_of_the_data_sheet) {
  const double ra = 10e3, rb = 22e3, c = 100e-9;
  expect_close(1 / (astable_high_s(ra, rb, c) + astable_low_s(rb, c)), 1.44 / ((ra + 2 * rb) * c), 0.003);
  expect_close(one_shot_s(ra, c), 1.1 * ra * c, 0.002);
  // A drop of nothing is the plain law; a real one takes longer, as less is left to charge with.
  expect_close(steered_high_s(ra, c, 0, 12), astable_high_s(ra, 0, c), 1e-12);
  EXPECT_GT(steered_high_s(ra, c, 0.6, 12), steered_high_s(ra, c, 0, 12));
  EXPECT_THROW(steered_high_s(ra, c, 2, 5), std::invalid_argument);
}

TEST(timer, circuits_cover_what_was_asked_with_parts_that_exist) {
  for (const TimerTask& task :
       {TimerTask{}, TimerTask{{30e-6, 200e-6}, {50, 400}, 12}, TimerTask{{50e-6, 1e-3}, {5, 200}, 9}})
    for (const auto make : {two_timers, steered_timer}) {
      const TimerCircuit c = make(task);
      EXPECT_LE(c.on_s.low, task.on_s.low * 1.15) << c.key;
      EXPECT_GE(c.on_s.high, task.on_s.high * 0.9) << c.key;
      EXPECT_LE(c.on_s.high, task.on_s.high * 1.011) << c.key << ": a knob ends at the limit";
      EXPECT_LE(c.rate_hz.high, task.rate_hz.high * 1.001) << c.key << ": at any on-time";
      EXPECT_TRUE(c.rate_hz.low <= task.rate_hz.low * 1.15 || !c.note.empty()) << c.key;
      EXPECT_GT(c.rate_hz.high, c.rate_hz.low);
      EXPECT_GT(c.duty.high, c.duty.low);
      std::set<std::string> names;
      for (const TimerPart& part : c.parts) {
        EXPECT_TRUE(names.insert(part.name).second) << part.name;
        if (part.what == "resistor") {
          EXPECT_NEAR(nearest_e_value(part.value, 24) / part.value, 1, 1e-9);
        }
      }
      EXPECT_FALSE(c.connections.empty());
      const std::string csv = timer_parts_csv(c);
      EXPECT_EQ(static_cast<std::size_t>(std::ranges::count(csv, '\n')), c.parts.size() + 1);
    }
  EXPECT_THROW(two_timers({{0, 1e-4}, {20, 500}, 12}), std::invalid_argument);
  EXPECT_THROW(two_timers({{1e-6, 1e-4}, {20, 500}, 12}), std::invalid_argument) << "its trigger is longer";
  EXPECT_THROW(steered_timer({{1e-3, 3e-3}, {20, 500}, 12}), std::invalid_argument) << "no off-time is left";
}

TEST(timer, no_knob_goes_beyond_the_limits_and_what_together_does_is_said) {
  Random r(8);
  int drawn = 0, shunts = 0, told = 0;
  for (int i = 0; i < 300; ++i) {
    TimerTask task{{r.decade(10e-6, 60e-6), r.decade(100e-6, 2e-3)}, {r.decade(2, 40), r.decade(100, 1000)}, 12};
    task.largest_duty = r.between(0.05, 0.3);
    for (const auto make : {two_timers, steered_timer}) try {
        const TimerCircuit c = make(task);
        ++drawn;
        EXPECT_LE(c.on_s.high, 1.011 * task.on_s.high) << c.key;
        EXPECT_LE(c.rate_hz.high, 1.001 * task.rate_hz.high) << c.key;
        const bool over = c.duty.high > 1.01 * task.largest_duty;
        EXPECT_EQ(c.note.find("of duty, more than the limit") != std::string::npos, over) << c.note;
        told += over;
        double charges_ohm = 0;
        for (const TimerPart& part : c.parts)
          if (part.what.starts_with("potentiometer")) charges_ohm = std::max(charges_ohm, part.value);
        bool shunted = false;
        for (const std::string& wire : c.connections) shunted |= wire.find(" across P") != std::string::npos;
        shunts += shunted;
        if (charges_ohm > 1e6 && !shunted) {
          EXPECT_THAT(c.note, HasSubstr("CMOS")) << charges_ohm;
        }
      } catch (const std::invalid_argument&) { // beyond usual parts
      }
  }
  EXPECT_GT(drawn, 300);
  EXPECT_GT(shunts, 100);
  EXPECT_GT(told, 50);
}

// Each part of a circuit stands in its diagram by its name, with its value, and everything lies on the sheet.
TEST(timer, diagrams_show_every_part_with_its_value) {
  for (const auto make : {two_timers, steered_timer})
    for (const double longest : {150e-6, 300e-6, 900e-6}) {
      const TimerCircuit c = make({{20e-6, longest}, {20, 300}, 12});
      const Schematic s = timer_schematic(c, UnitSystem::metric);
      EXPECT_EQ(s.title, c.title);
      const auto says = [&](const std::string& words) {
        return std::ranges::count(s.texts, words, &SchematicText::words) > 0;
      };
      for (const TimerPart& part : c.parts) {
        EXPECT_TRUE(says(part.name)) << c.key << " " << part.name;
        EXPECT_GT(std::ranges::count(s.symbols, part.name, &SchematicSymbol::part), 0) << part.name;
        if (part.value > 0) {
          EXPECT_TRUE(says(format_quantity(part.value, part.dimension, UnitSystem::metric, 3))) << part.name;
        }
      }
      for (const SchematicWire& wire : s.wires)
        for (const SchematicPoint& p : wire.through)
          EXPECT_TRUE(p.x > 0 && p.x < s.width && p.y > 0 && p.y < s.height) << p.x << "," << p.y;
    }
}

TEST(timer, every_wire_of_a_diagram_ends_on_something) {
  for (const auto make : {two_timers, steered_timer}) {
    const TimerCircuit c = make({});
    // The supply's rail goes on past its last part.
    EXPECT_EQ(loose_ends(timer_schematic(c, UnitSystem::metric), [](SchematicPoint p) { return p.y == 40; }), "")
        << c.key;
  }
}

TEST(timer, parts_on_hand_are_taken_where_they_serve) {
  TimerTask task{{20e-6, 300e-6}, {20, 500}, 12};
  const TimerCircuit bought = two_timers(task);
  for (const TimerPart& part : bought.parts) EXPECT_FALSE(part.on_hand) << part.name;
  task.capacitors_f = {15e-9, 330e-9, 3.3e-3}; // the last serves nothing here
  task.resistors_ohm = {1e3, 1.3e3, 10e6};
  const TimerCircuit made = two_timers(task);
  int taken = 0;
  for (const TimerPart& part : made.parts) {
    taken += part.on_hand;
    if (part.on_hand && part.what.starts_with("capacitor")) {
      EXPECT_TRUE(part.value == 15e-9 || part.value == 330e-9) << part.value;
    }
  }
  EXPECT_GE(taken, 2);
  EXPECT_LE(made.on_s.low, 1.1 * task.on_s.low);
  EXPECT_GE(made.on_s.high, 0.98 * task.on_s.high);
  EXPECT_GE(made.rate_hz.high, 0.9 * task.rate_hz.high);
}

TEST(gate_drive, a_bench_generator_lights_a_coupler_through_an_e24_resistor) {
  // Common practice, no source: logic level of 5 V behind 50 ohm, ten milliamperes in the diode.
  const GateDrive d = gate_drive({});
  EXPECT_EQ(d.diode_ohm, 330);
  EXPECT_NEAR(d.diode_a, 0.010, 1e-6);
  EXPECT_NEAR(d.gate_a, 0.1, 0.006) << "twice the trigger current";
  EXPECT_TRUE(d.amplified) << "five milliamperes come out of it";
  EXPECT_EQ(d.isolation_v, 2000);
  EXPECT_FALSE(d.fibre);
  EXPECT_EQ(std::ranges::count(d.connections, ""), 0);
}

TEST(gate_drive, sensitive_gates_need_no_transistor_and_high_supplies_need_fibre) {
  GateDriveTask t;
  t.trigger_a = 200e-6;
  EXPECT_FALSE(gate_drive(t).amplified);
  t.stands_off_v = 5400;
  EXPECT_TRUE(gate_drive(t).fibre);
  EXPECT_THAT(gate_drive(t).parts.front().what, HasSubstr("fibre"));
}

TEST(gate_drive, says_what_cannot_work) {
  GateDriveTask low;
  low.source_v = 1;
  EXPECT_THROW(gate_drive(low), std::invalid_argument);
  GateDriveTask weak;
  weak.source_ohm = 5000;
  EXPECT_THROW(gate_drive(weak), std::invalid_argument);
  GateDriveTask flat;
  flat.gate_supply_v = 1.6;
  EXPECT_THROW(gate_drive(flat), std::invalid_argument);
}

TEST(gate_drive, currents_are_those_of_its_own_resistors) {
  Random r(31);
  for (int i = 0; i < 200; ++i) {
    GateDriveTask t;
    t.source_v = r.between(2.5, 15);
    t.source_ohm = r.between(1, 100);
    t.gate_supply_v = r.between(4, 15);
    t.trigger_a = r.decade(1e-3, 0.2);
    const GateDrive d = gate_drive(t);
    EXPECT_NEAR(d.diode_a * (d.diode_ohm + t.source_ohm), t.source_v - t.diode_v, 1e-9);
    EXPECT_NEAR(d.gate_a / t.trigger_a, 2, 0.16) << "within the E24 steps, 1.3 to 1.5 the widest";
    EXPECT_EQ(d.amplified, d.gate_a > d.coupler_a);
  }
}

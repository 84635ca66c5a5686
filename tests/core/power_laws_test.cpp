// Laws of the power path on random circuits: conservation, scaling, monotony, and searches against brute force.
#include "analysis/analyse.h"
#include "circuit/feed.h"
#include "circuit/motion.h"
#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "parts/bank.h"
#include "parts/gap.h"
#include "random.h"
#include "support.h"
#include "workshop/bank_search.h"
#include "workshop/shelf.h"

#include <numbers>
#include <random>

using namespace arc;
using testing::HasSubstr;

namespace {

// Two tuned or detuned circuits with loss, and how long to look at them.
ShotCircuit random_circuit(Random& random) {
  ShotCircuit c{};
  c.tank_f = random.decade(3e-9, 5e-8);
  c.tank_v = random.between(5e3, 2e4);
  c.loop_h = random.decade(1e-5, 1e-4);
  c.loop_ohm = random.between(0.01, 0.3);
  c.arc_ohm = random.between(0.1, 2);
  const double inductance = random.decade(5e-3, 0.1);
  const double detune = random.between(0.9, 1.1), k = random.between(0.08, 0.3);
  const double capacitance = c.loop_h * c.tank_f / inductance * detune;
  const double q = random.between(50, 400);
  c.modes = {
      {inductance, capacitance, std::sqrt(inductance / capacitance) / q, k * std::sqrt(c.loop_h * inductance), 1}};
  c.beat_s = 1 / (k * resonance_hz(c.loop_h, c.tank_f));
  return c;
}

ShotOptions looking_at(const ShotCircuit& c) {
  ShotOptions o;
  o.duration_s = 3 * c.beat_s;
  o.step_s = 1 / resonance_hz(c.loop_h, c.tank_f) / 100;
  o.quench_notch = 0;
  return o;
}

TEST(shot_laws, energy_never_grows) {
  Random random(201);
  for (int i = 0; i < 15; ++i) {
    const ShotCircuit c = random_circuit(random);
    const ShotResult shot = simulate_shot(c, looking_at(c), never);
    double before = shot.tank_energy_j * (1 + 1e-9);
    for (const ShotSample& s : shot.samples) {
      const double total = s.primary_j + s.secondary_j + c.modes[0].mutual_h * s.primary_a * s.base_a;
      EXPECT_LE(total, before * (1 + 1e-9) + 1e-12);
      before = total;
    }
    EXPECT_LT(shot.top_peak_v, c.tank_v * std::sqrt(c.tank_f / c.modes[0].capacitance_f) * 1.06);
  }
}

TEST(shot_laws, twice_the_voltage_gives_twice_of_everything_when_nothing_is_crooked) {
  Random random(202);
  for (int i = 0; i < 10; ++i) {
    ShotCircuit c = random_circuit(random);
    const ShotResult once = simulate_shot(c, looking_at(c), never);
    c.tank_v *= 2;
    const ShotResult twice = simulate_shot(c, looking_at(c), never);
    expect_close(twice.top_peak_v, 2 * once.top_peak_v, 1e-6);
    expect_close(twice.primary_peak_a, 2 * once.primary_peak_a, 1e-6);
    expect_close(twice.tank_energy_j, 4 * once.tank_energy_j, 1e-12);
    EXPECT_EQ(twice.first_notch_s, once.first_notch_s);
  }
}

TEST(shot_laws, the_arcs_drop_costs_voltage_at_the_top) {
  Random random(203);
  for (int i = 0; i < 8; ++i) {
    ShotCircuit c = random_circuit(random);
    double before = 1e12;
    for (const double drop : {0.0, 50.0, 150.0, 400.0}) {
      c.arc_drop_v = drop;
      const ShotResult shot = simulate_shot(c, looking_at(c), never);
      EXPECT_LT(shot.top_peak_v, before) << drop;
      before = shot.top_peak_v;
    }
  }
}

TEST(shot_laws, the_sign_of_the_charge_does_not_matter) {
  Random random(204);
  for (int i = 0; i < 6; ++i) {
    ShotCircuit c = random_circuit(random);
    c.arc_drop_v = 100;
    const ShotResult plus = simulate_shot(c, looking_at(c), never);
    c.tank_v = -c.tank_v;
    const ShotResult minus = simulate_shot(c, looking_at(c), never);
    expect_close(minus.top_peak_v, plus.top_peak_v, 1e-6);
    expect_close(minus.primary_peak_a, plus.primary_peak_a, 1e-6);
  }
}

TEST(shot_laws, finer_output_does_not_change_the_motion) {
  Random random(205);
  for (int i = 0; i < 6; ++i) {
    ShotCircuit c = random_circuit(random);
    c.arc_drop_v = 120;
    ShotOptions coarse = looking_at(c), fine = coarse;
    fine.step_s /= 4;
    const ShotResult a = simulate_shot(c, coarse, never), b = simulate_shot(c, fine, never);
    // The same instants: sample n of the coarse run is sample 4n of the fine one.
    for (std::size_t n = 0; n < a.samples.size(); n += 13)
      EXPECT_NEAR(b.samples[4 * n].tank_v, a.samples[n].tank_v, 2e-4 * c.tank_v) << n;
  }
}

TEST(shot_laws, a_shot_can_be_cancelled_and_keeps_what_is_done) {
  Random random(206);
  const ShotCircuit c = random_circuit(random);
  const std::atomic<bool> at_once{true};
  EXPECT_EQ(simulate_shot(c, looking_at(c), at_once).samples.size(), 1u);
}

TEST(shot_laws, a_coupling_of_one_is_refused) {
  Design d = demo_design();
  const Analysis a = analyse(d);
  Analysis impossible = a;
  impossible.circuit.coupling = 1;
  ShotOptions ideal;
  ideal.ideal = true;
  EXPECT_THROW(shot_circuit(d, impossible, ideal), std::invalid_argument);
}

TEST(shot_laws, the_deck_names_every_element_and_every_measurement) {
  const Design d = demo_design();
  const ShotOptions options;
  const ShotCircuit c = shot_circuit(d, analyse(d), options);
  const std::string deck = shot_netlist(c, options, 18e-6, d.name);
  for (const char* part : {"Ctank", "Lprim", "Lm1", "Lm3", "Km1", "Cm3", "Barc", "pwl", "top_peak_v",
                           "primary_peak_a", "first_notch_s", "tank_energy_j", ".end"})
    EXPECT_THAT(deck, HasSubstr(part));
}

TEST(network_laws, random_rc_ladders_settle_where_their_dividers_say) {
  Random random(207);
  for (int i = 0; i < 10; ++i) {
    Network n;
    const int sections = random.whole(1, 5);
    std::vector<double> ohms, loads;
    const Node source = n.add_node();
    n.sources.push_back({source, 0, random.between(1, 1000), 0});
    Node at = source;
    std::vector<Node> nodes;
    for (int k = 0; k < sections; ++k) {
      const Node next = n.add_node();
      ohms.push_back(random.decade(10, 1000));
      loads.push_back(random.decade(100, 1e5));
      n.resistors.push_back({at, next, ohms.back()});
      n.resistors.push_back({next, 0, loads.back()});
      n.capacitors.push_back({"c", next, 0, 1e-7});
      nodes.push_back(next);
      at = next;
    }
    const double volts = n.sources[0].dc_v;
    Motion motion(n, 1);
    motion.advance(); // one second: thousands of time constants
    // The ladder from its far end: resistance looking in, then the divider at each step.
    std::vector<double> looking_in(static_cast<std::size_t>(sections));
    for (int k = sections - 1; k >= 0; --k) {
      const auto at_k = static_cast<std::size_t>(k);
      const double rest = k + 1 < sections ? ohms[at_k + 1] + looking_in[at_k + 1] : 1e300;
      looking_in[at_k] = 1 / (1 / loads[at_k] + 1 / rest);
    }
    double expected = volts;
    for (int k = 0; k < sections; ++k) {
      const auto at_k = static_cast<std::size_t>(k);
      expected *= looking_in[at_k] / (looking_in[at_k] + ohms[at_k]);
      EXPECT_NEAR(motion.node_v(nodes[at_k]), expected, 1e-6 * volts);
    }
  }
}

TEST(network_laws, a_sine_through_a_low_pass_has_the_textbook_amplitude) {
  Random random(208);
  for (int i = 0; i < 8; ++i) {
    Network n;
    n.source_hz = random.decade(20, 2000);
    const double ohm = random.decade(100, 1e5), farad = random.decade(1e-9, 1e-6);
    const Node source = n.add_node(), out = n.add_node();
    n.sources.push_back({source, 0, 0, 100});
    n.resistors.push_back({source, out, ohm});
    n.capacitors.push_back({"c", out, 0, farad});
    const double period = 1 / n.source_hz;
    Motion motion(n, period / 400);
    const int settle = static_cast<int>(std::ceil(20 * ohm * farad / (period / 400))) + 400;
    for (int k = 0; k < std::min(settle, 200000); ++k) motion.advance();
    double peak = 0;
    for (int k = 0; k < 400; ++k) {
      motion.advance();
      peak = std::max(peak, std::abs(motion.capacitor_v(0)));
    }
    expect_close(peak, 100 / std::hypot(1, 2 * std::numbers::pi * n.source_hz * ohm * farad), 2e-4);
  }
}

TEST(charging_laws, a_bigger_tank_breaks_less_often_and_a_wider_gap_too) {
  Design d = demo_design();
  double before = 1e9;
  for (const double capacitance : {8e-9, 16e-9, 32e-9}) {
    d.tank.unit_capacitance_f.reset();
    d.tank.units_in_series = d.tank.units_in_parallel = 1;
    d.tank.capacitance_f = capacitance;
    const double rate = simulate_charging(d, {40, 20e-6}, never).break_rate_hz;
    EXPECT_LT(rate, before) << capacitance;
    before = rate;
  }
  d.tank.capacitance_f = 12e-9;
  before = 1e9;
  for (const double firing : {6e3, 9e3, 13e3}) {
    d.gap.firing_voltage_v = firing;
    const double rate = simulate_charging(d, {40, 20e-6}, never).break_rate_hz;
    EXPECT_LT(rate, before) << firing;
    before = rate;
  }
}

TEST(charging_laws, the_short_circuit_current_limits_the_line) {
  // However often the gap fires, the line cannot take more than the shorted transformer does: I times the ratio.
  Random random(209);
  for (int i = 0; i < 6; ++i) {
    Design d = demo_design();
    FeedBlock transformer = make_block("transformer");
    transformer.values["short_circuit_a"] = random.between(0.02, 0.2);
    transformer.values["output_v"] = random.between(6e3, 12e3);
    transformer.values["resistance_ohm"] = 500;
    d.feed = {transformer};
    d.gap.firing_voltage_v = random.between(1e3, 3e3); // fires all the time
    const double limit = transformer.values["short_circuit_a"] * transformer.values["output_v"] /
                         transformer.values["rated_mains_v"];
    EXPECT_LT(simulate_charging(d, {20, 20e-6}, never).line_current_a, 1.1 * limit);
  }
}

TEST(charging_laws, a_power_factor_capacitor_helps_a_lagging_transformer) {
  Design d = demo_design();
  d.gap.firing_voltage_v = 5e3;
  const auto factor = [&](double farad) {
    FeedBlock capacitor = make_block("power-factor-capacitor");
    capacitor.values["capacitance_f"] = farad;
    d.feed = {capacitor, make_block("transformer")};
    return simulate_charging(d, {40, 20e-6}, never).power_factor;
  };
  EXPECT_GT(factor(20e-6), factor(1e-7));
}

TEST(bank_laws, in_every_order_the_search_finds_what_brute_force_finds_with_two_kinds) {
  Random random(210);
  int compared = 0;
  for (int trial = 0; trial < 20; ++trial) {
    std::vector<ShelfCapacitor> parts;
    for (int p = 0; p < 2; ++p) {
      ShelfCapacitor part;
      part.name = p == 0 ? "a" : "b";
      part.capacitance_f = random.decade(1e-9, 2e-8);
      part.voltage_v = random.between(4e3, 1e4);
      part.count = random.whole(2, 8);
      part.price = random.between(1, 10);
      part.tolerance = 0;
      parts.push_back(part);
    }
    BankWish wish{random.decade(2e-9, 2e-8), random.between(5e3, 2e4), 1, 0.2, 10000};
    std::vector<double> best(bank_orders().size(), 1e9); // least score that any bank of the two has, by trying all
    const ShelfCapacitor &a = parts[0], &b = parts[1];
    const auto shortest = [&](const ShelfCapacitor& part) {
      return static_cast<int>(std::ceil(wish.voltage_v / part.voltage_v - 1e-9));
    };
    for (int sa = shortest(a); sa <= std::min(a.count, shortest(a) + 2); ++sa)
      for (int na = 0; na * sa <= a.count; ++na)
        for (int sb = shortest(b); sb <= std::min(b.count, shortest(b) + 2); ++sb)
          for (int nb = 0; nb * sb <= b.count; ++nb) {
            BankProposal bank;
            bank.capacitance_f = na * a.capacitance_f / sa + nb * b.capacitance_f / sb;
            if (std::abs(bank.capacitance_f / wish.capacitance_f - 1) > wish.largest_miss) continue;
            bank.strings.resize((na > 0) + (nb > 0));
            bank.units = na * sa + nb * sb;
            bank.left = (na > 0) * a.count + (nb > 0) * b.count - bank.units;
            bank.price = na * sa * *a.price + nb * sb * *b.price;
            bank.unit_share =
                wish.voltage_v / std::min(na > 0 ? sa * a.voltage_v : 1e9, nb > 0 ? sb * b.voltage_v : 1e9);
            for (std::size_t i = 0; i < best.size(); ++i)
              best[i] = std::min(best[i], bank_orders()[i].score(bank, wish));
          }
    for (std::size_t i = 0; i < best.size(); ++i) {
      if (best[i] >= 1e9) continue;
      wish.order = bank_orders()[i].key;
      const auto banks = find_banks(parts, wish);
      ASSERT_FALSE(banks.empty());
      ++compared;
      EXPECT_LE(bank_orders()[i].score(banks.front(), wish), best[i] + 1e-9) << wish.order << ", trial " << trial;
      EXPECT_TRUE(std::ranges::is_sorted(
          banks, {}, [&](const BankProposal& bank) { return bank_orders()[i].score(bank, wish); }));
    }
  }
  EXPECT_GT(compared, 40);
}

TEST(bank_laws, units_without_a_price_are_not_taken_for_cheap) {
  ShelfCapacitor gift;
  gift.name = "gift";
  gift.capacitance_f = 2e-9;
  gift.voltage_v = 20e3;
  gift.count = 6;
  ShelfCapacitor bought = gift;
  bought.name = "bought";
  bought.price = 30;
  const BankWish wish{12e-9, 12e3, 0.8, 0.1, 10, "price"};
  const auto banks = find_banks({gift, bought}, wish);
  ASSERT_GT(banks.size(), 1u);
  EXPECT_EQ(banks.front().unpriced, 0);
  EXPECT_EQ(banks.front().price, 6 * 30);
  EXPECT_GT(banks.back().unpriced, 0);
  EXPECT_THROW(find_banks({gift}, {12e-9, 12e3, 0.8, 0.1, 10, "colour"}), std::invalid_argument);
}

TEST(bank_laws, forty_parts_of_eight_kinds_are_searched_and_ranked) {
  auto parts = shelf_capacitors(owned_shelf());
  for (ShelfCapacitor& part : parts) part.count = 5;
  const auto banks = find_banks(parts, {12e-9, 12e3, 0.8, 0.25, 10});
  ASSERT_FALSE(banks.empty());
  EXPECT_LE(banks.size(), 10u);
  for (const BankProposal& bank : banks) {
    EXPECT_GE(bank.voltage_v, 12e3 * (1 - 1e-9));
    EXPECT_LE(bank.unit_share, 0.8 + 1e-9);
    EXPECT_FALSE(bank.layout.empty());
  }
}

TEST(bank_laws, currents_and_losses_of_strings_add_up_to_the_banks) {
  const auto parts = shelf_capacitors(owned_shelf());
  for (const BankProposal& bank : find_banks(parts, {13e-9, 12e3, 0.8, 0.25, 10})) {
    const Tank tank = tank_of(parts, bank, {});
    const auto sections = bank_sections(tank);
    const auto stress = bank_stress(tank, {12e3, 10, 1e9, 2e5});
    double current = 0;
    for (std::size_t i = 0; i < stress.size(); ++i) {
      current += stress[i].rms_a * sections[i].in_parallel;
      EXPECT_GE(stress[i].dissipation_w.value_or(0), 0);
      EXPECT_LE(stress[i].slope_v_per_s, 1e9);
    }
    expect_close(bank.stacked ? current / 2 : current, 10, 1e-9, "strings share the current as their capacitance");
  }
}

TEST(gap_laws, a_rotor_presents_its_electrodes_times_its_speed) {
  Gap gap;
  EXPECT_FALSE(presentations_hz(gap));
  gap.rotary_electrodes = 8;
  gap.rotor_speed_hz = 50;
  EXPECT_DOUBLE_EQ(*presentations_hz(gap), 400);
  gap.gaps_in_series = 5;
  gap.arc_drop_v = 30;
  EXPECT_DOUBLE_EQ(arc_drop_v(gap, 100), 2 * *gap.arc_drop_v) << "an electrode passes two gaps";
  gap.spacing_m = 1e-3;
  gap.electrode_diameter_m = 0.02;
  EXPECT_DOUBLE_EQ(arc_drop_v(gap, 100), 7 * *gap.arc_drop_v) << "and five static gaps in series with it";
}

// H. Ayrton, The Electric Arc (1902): 2.07 V for each millimetre, 11.7 W and 10.5 W/mm over the amperes (from
// memory); 20 to 30 V at electrodes of metal (common practice).
TEST(gap_laws, arc_volts_follow_ayrtons_form_and_are_nearly_constant_above_some_tens_of_amperes) {
  Gap gap;
  gap.gaps_in_series = 1;
  const auto volts = [&](double mm, double amps) {
    gap.spacing_m = mm * 1e-3;
    return arc_drop_v(gap, amps);
  };
  for (const double amps : {20.0, 100.0, 500.0}) {
    EXPECT_NEAR(volts(6, amps) - volts(5, amps), 2.07 + 10.5 / amps, 1e-9);
    EXPECT_NEAR(volts(5, 2 * amps) - volts(5, amps), -(11.7 + 5 * 10.5) / (2 * amps), 1e-9);
  }
  EXPECT_NEAR(volts(0, 1e6), 25, 5.1) << "metal";
  EXPECT_LT(volts(5, 50) / volts(5, 1000), 1.05);
  EXPECT_GT(volts(5, 1) / volts(5, 1000), 2);
  const double one = volts(4, 100);
  gap.gaps_in_series = 6;
  EXPECT_DOUBLE_EQ(volts(4, 100), 6 * one);
}

} // namespace

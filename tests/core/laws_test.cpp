// Laws that every coil obeys, tried on random coils: scaling, monotony, reciprocity, limits. Seeded; no single
// point.
#include "analysis/analyse.h"
#include "coil/geometry.h"
#include "field/boundary.h"
#include "field/breakout.h"
#include "field/field_map.h"
#include "field/handbook.h"
#include "parts/bank.h"
#include "parts/topload.h"
#include "parts/wire.h"
#include "support.h"

#include <numbers>
#include <random>

using namespace arc;

namespace {

// Random believable coils: form 40 to 300 mm, height 2 to 6 diameters, toroid 2 to 4 diameters, flat or conical
// primary.
class Coils {
 public:
  explicit Coils(unsigned seed) : random_(seed) {}

  double between(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }

  Design next() {
    Design d;
    Secondary& s = d.secondary;
    s.form_diameter_m = between(0.04, 0.3);
    s.winding_length_m = s.form_diameter_m * between(2, 6);
    s.wire_bare_diameter_m = between(0.2e-3, 0.8e-3);
    s.wire_overall_diameter_m = 1.1 * s.wire_bare_diameter_m;
    s.turns = std::floor(0.94 * s.winding_length_m / s.wire_overall_diameter_m);
    s.base_height_m = between(0.2, 0.6);
    ToploadPart ring;
    ring.outer_diameter_m = s.form_diameter_m * between(2, 4);
    ring.tube_diameter_m = ring.outer_diameter_m * between(0.15, 0.3);
    ring.centre_above_winding_m = ring.tube_diameter_m / 2 + between(0.02, 0.08);
    d.topload = {ring};
    Primary& p = d.primary;
    p.shape = between(0, 1) < 0.5 ? PrimaryShape::flat : PrimaryShape::cone;
    p.cone_angle_deg = p.shape == PrimaryShape::cone ? between(10, 40) : 0;
    p.inner_radius_m = s.form_diameter_m / 2 + between(0.03, 0.06);
    p.conductor_diameter_m = between(4e-3, 8e-3);
    p.pitch_m = p.conductor_diameter_m + between(5e-3, 10e-3);
    p.turns = std::floor(between(8, 14));
    p.tap_turns = between(3, p.turns);
    p.base_height_m = s.base_height_m + between(-0.02, 0.02);
    d.tank.capacitance_f = between(5e-9, 50e-9);
    return d;
  }

 private:
  std::mt19937 random_;
};

constexpr int tries = 12;

Design scaled(Design d, double by) {
  Secondary& s = d.secondary;
  for (double* length : {&s.form_diameter_m, &s.winding_length_m, &s.wire_bare_diameter_m,
                         &s.wire_overall_diameter_m, &s.base_height_m, &d.primary.inner_radius_m,
                         &d.primary.pitch_m, &d.primary.conductor_diameter_m, &d.primary.base_height_m})
    *length *= by;
  for (ToploadPart& part : d.topload)
    for (double ToploadPart::*length : {&ToploadPart::outer_diameter_m, &ToploadPart::tube_diameter_m,
                                        &ToploadPart::diameter_m, &ToploadPart::centre_above_winding_m})
      part.*length *= by;
  return d;
}

TEST(laws, all_lengths_scaled_scale_capacitance_and_inductance_and_divide_frequency) {
  Coils coils(101);
  for (int i = 0; i < tries; ++i) {
    const Design d = coils.next();
    const double by = coils.between(0.4, 3);
    const Analysis a = analyse(d), b = analyse(scaled(d, by));
    ASSERT_TRUE(a.resonator && b.resonator) << a.problem << b.problem;
    expect_close(b.resonator->mode_1_hz, a.resonator->mode_1_hz / by, 1e-7);
    expect_close(b.resonator->topload_in_place_f, a.resonator->topload_in_place_f * by, 1e-7);
    expect_close(b.secondary_inductance_h, a.secondary_inductance_h * by, 1e-9);
    expect_close(b.primary_inductance_h, a.primary_inductance_h * by, 1e-9);
    expect_close(b.primary_skin_h, a.primary_skin_h * by, 1e-9);
    expect_close(b.coupling, a.coupling, 1e-9, "a coupling has no length");
  }
}

TEST(laws, a_wider_topload_lowers_the_resonance_and_raises_its_capacitance) {
  Coils coils(102);
  for (int i = 0; i < tries; ++i) {
    Design d = coils.next();
    const ResonatorResult before = field_resonator(d);
    d.topload[0].outer_diameter_m *= coils.between(1.05, 1.5);
    const ResonatorResult after = field_resonator(d);
    EXPECT_LT(after.mode_1_hz, before.mode_1_hz);
    EXPECT_GT(after.topload_in_place_f, before.topload_in_place_f);
    EXPECT_GT(after.topload_isolated_f, before.topload_isolated_f);
  }
}

TEST(laws, more_turns_in_the_same_length_lower_the_resonance_in_proportion) {
  Coils coils(103);
  for (int i = 0; i < tries; ++i) {
    Design d = coils.next();
    const double before = field_resonator(d).mode_1_hz, turns = d.secondary.turns;
    d.secondary.turns = std::floor(turns * coils.between(0.6, 0.95));
    // Inductance goes with the square of the turns, capacitance hardly changes.
    expect_close(field_resonator(d).mode_1_hz, before * turns / d.secondary.turns, 0.01);
  }
}

TEST(laws, a_grounded_primary_or_ceiling_only_lowers_the_resonance) {
  Coils coils(104);
  for (int i = 0; i < tries; ++i) {
    Design d = coils.next();
    const double open = field_resonator(d).mode_1_hz;
    d.site.grounded_conductors = {"primary"};
    const double with_primary = field_resonator(d).mode_1_hz;
    EXPECT_LT(with_primary, open * (1 + 1e-9));
    d.site.grounded_conductors = {"primary", "strike-ring"};
    EXPECT_LT(field_resonator(d).mode_1_hz, with_primary * (1 + 1e-9));
    d.site.grounded_conductors.clear();
    d.site.ceiling_height_m =
        d.secondary.base_height_m + d.secondary.winding_length_m + 1.5 * d.topload[0].outer_diameter_m;
    EXPECT_LT(field_resonator(d).mode_1_hz, open);
  }
}

TEST(laws, modes_rise_and_the_first_profile_is_smooth_from_base_to_top) {
  Coils coils(105);
  for (int i = 0; i < tries; ++i) {
    const ResonatorResult r = field_resonator(coils.next());
    ASSERT_TRUE(r.mode_2_hz && r.mode_3_hz);
    EXPECT_LT(r.mode_1_hz, *r.mode_2_hz);
    EXPECT_LT(*r.mode_2_hz, *r.mode_3_hz);
    EXPECT_EQ(r.profile.front().voltage, 0);
    EXPECT_NEAR(r.profile.back().voltage, 1, 1e-9);
    std::size_t largest = 0;
    for (std::size_t k = 1; k < r.profile.size(); ++k) {
      EXPECT_GE(r.profile[k].voltage, r.profile[k - 1].voltage) << "voltage only rises in the first mode";
      if (r.profile[k].current > r.profile[largest].current) largest = k;
    }
    // Charge that the topload pushes onto the lowest turns can lift the current a little above the base, no
    // further.
    EXPECT_LT(largest, r.profile.size() / 2);
    EXPECT_LT(r.profile[largest].current, 1.25);
    for (std::size_t k = largest + 1; k < r.profile.size(); ++k)
      EXPECT_LE(r.profile[k].current, r.profile[k - 1].current + 1e-12)
          << "above its largest place current only falls";
  }
}

// What the charges store at one quarter of a period, the flux stores at the next: the energy of the mode's current
// in the turns' own and mutual inductances (rings, Maxwell), nothing of it from the line that was solved.
TEST(laws, energy_in_field_and_in_flux_are_equal_at_every_mode) {
  Coils coils(106);
  for (int i = 0; i < tries; ++i) {
    const Design d = coils.next();
    const ResonatorResult r = field_resonator(d);
    const Secondary& s = d.secondary;
    const double radius = secondary_mean_radius_m(s);
    const auto winding = solenoid_rings(radius, s.turns, s.winding_length_m, s.base_height_m);
    std::vector<double> apart{ring_self_h(radius, s.wire_bare_diameter_m / 2, CurrentDistribution::skin)};
    for (std::size_t n = 1; n < winding.size(); ++n)
      apart.push_back(ring_mutual_h(radius, radius, winding[n].height_m - winding[0].height_m));
    ASSERT_EQ(r.modes.size(), 3u);
    for (std::size_t m = 0; m < r.modes.size(); ++m) {
      const ModeShape& mode = r.modes[m];
      std::vector<double> current; // of each turn, relative to the base's
      std::size_t k = 1;
      for (const Ring& ring : winding) {
        while (k + 1 < mode.profile.size() && mode.profile[k].height_m < ring.height_m) ++k;
        const ProfilePoint &a = mode.profile[k - 1], &b = mode.profile[k];
        current.push_back(
            ring.weight *
            std::lerp(a.current, b.current,
                      std::clamp((ring.height_m - a.height_m) / (b.height_m - a.height_m), 0.0, 1.0)));
      }
      double flux_h = 0; // twice the energy of one ampere at the base
      for (std::size_t x = 0; x < current.size(); ++x)
        for (std::size_t y = 0; y < current.size(); ++y)
          flux_h += current[x] * current[y] * apart[x > y ? x - y : y - x];
      const double base_a = 2 * std::numbers::pi * mode.frequency_hz * mode.effective_capacitance_f; // for 1 V
      // Eighty pieces of winding: straight lines between their ends leave a little of the higher modes' bends.
      expect_close(flux_h * base_a * base_a, mode.energy_capacitance_f, m == 0 ? 0.004 : 0.02, std::to_string(m));
    }
  }
}

TEST(laws, mutual_inductance_is_the_same_both_ways_and_couplings_stay_below_one) {
  Coils coils(107);
  for (int i = 0; i < tries; ++i) {
    const Design d = coils.next();
    const auto primary = primary_rings(d.primary, d.primary.tap_turns);
    const auto winding = solenoid_rings(secondary_mean_radius_m(d.secondary), d.secondary.turns,
                                        d.secondary.winding_length_m, d.secondary.base_height_m);
    expect_close(coil_mutual_h(primary, winding), coil_mutual_h(winding, primary), 1e-12);
    const Analysis a = analyse(d);
    EXPECT_GT(a.coupling, 0);
    EXPECT_LT(a.coupling, 1);
  }
}

TEST(laws, a_primary_moved_away_couples_less) {
  Coils coils(108);
  for (int i = 0; i < tries; ++i) {
    Design d = coils.next();
    double before = analyse(d).coupling;
    for (int step = 0; step < 3; ++step) {
      d.primary.base_height_m -= 0.03;
      const double now = analyse(d).coupling;
      EXPECT_LT(now, before);
      before = now;
    }
  }
}

TEST(laws, the_tap_for_a_frequency_gives_that_frequency_back) {
  Coils coils(109);
  int found = 0;
  for (int i = 0; i < 40; ++i) {
    Design d = coils.next();
    d.primary.lead_length_m = coils.between(0.1, 1);
    d.primary.lead_spacing_m = 0.05;
    const double wanted =
        resonance_hz(tank_loop_inductance_h(d.primary, coils.between(1, d.primary.turns)), d.tank.capacitance_f);
    const auto tap = tap_for_frequency(d, d.tank.capacitance_f, wanted);
    if (!tap) continue;
    ++found;
    expect_close(resonance_hz(tank_loop_inductance_h(d.primary, *tap), d.tank.capacitance_f), wanted, 1e-6);
  }
  EXPECT_GT(found, 35);
}

TEST(laws, more_primary_turns_always_mean_more_inductance) {
  Coils coils(110);
  for (int i = 0; i < tries; ++i) {
    const Primary p = coils.next().primary;
    double before = 0;
    for (double turns = 0.25; turns <= p.turns; turns += 0.25) {
      const double now = primary_inductance_at_h(p, turns);
      EXPECT_GT(now, before) << turns;
      before = now;
    }
  }
}

TEST(laws, capacitance_matrices_are_symmetric_positive_definite_and_induce_the_other_sign) {
  Coils coils(111);
  for (int i = 0; i < 5; ++i) {
    const Design d = coils.next();
    const double radius = secondary_mean_radius_m(d.secondary),
                 top = d.secondary.base_height_m + d.secondary.winding_length_m;
    std::vector<Piece> pieces;
    constexpr std::size_t cuts = 10;
    for (std::size_t k = 0; k < cuts; ++k) {
      const double step = d.secondary.winding_length_m / cuts,
                   low = d.secondary.base_height_m + static_cast<double>(k) * step;
      pieces.push_back({radius, low, radius, low + step, k, 0, 0});
    }
    const auto body = outline_pieces(topload_shape("toroid")->outline(d.topload[0], 24), top, cuts);
    pieces.insert(pieces.end(), body.begin(), body.end());
    const Eigen::MatrixXd c = solve_capacitance(pieces, cuts + 1, Ground::floor).maxwell_f;
    EXPECT_LT((c - c.transpose()).norm(), 1e-12 * c.norm());
    EXPECT_GT(symmetric_modes(c).values.minCoeff(), 0);
    for (Eigen::Index row = 0; row < c.rows(); ++row) {
      EXPECT_GT(c.row(row).sum(), 0);
      for (Eigen::Index column = 0; column < row; ++column) EXPECT_LT(c(row, column), 0);
    }
  }
}

TEST(laws, the_charges_of_the_solution_make_the_potential_they_were_solved_for) {
  Coils coils(112);
  for (int i = 0; i < 4; ++i) {
    const Design d = coils.next();
    const ResonatorResult r = field_resonator(d);
    // On the topload's surface, between the places where the equations were met.
    const double top = d.secondary.base_height_m + d.secondary.winding_length_m;
    std::vector<double> radius, height;
    for (const OutlinePoint& p : topload_shape("toroid")->outline(d.topload[0], 13)) {
      radius.push_back(p.radius_m);
      height.push_back(top + p.height_m);
    }
    std::vector<double> volts(radius.size(), 0.0);
    for (const ChargedPiece& piece : r.charges)
      add_potential_v(piece.piece, piece.charge_c, Ground::floor, radius, height, volts);
    for (const double v : volts) EXPECT_NEAR(v, 1, 0.02);
    std::vector<double> floor_r{0.1, 0.5, 2}, floor_z{0, 0, 0}, floor_v(3, 0.0);
    for (const ChargedPiece& piece : r.charges)
      add_potential_v(piece.piece, piece.charge_c, Ground::floor, floor_r, floor_z, floor_v);
    for (const double v : floor_v) EXPECT_NEAR(v, 0, 1e-9) << "the floor stays at zero";
  }
}

TEST(laws, thin_air_and_rough_metal_break_out_sooner) {
  Coils coils(113);
  for (int i = 0; i < tries; ++i) {
    Design d = coils.next();
    const double sea = analyse(d).breakout->voltage_v;
    d.site.air_pressure_hpa = 800;
    EXPECT_LT(analyse(d).breakout->voltage_v, sea);
    d.site.air_pressure_hpa = 1013.25;
    d.breakout.roughness = 0.6;
    EXPECT_LT(analyse(d).breakout->voltage_v, sea);
  }
}

TEST(laws, wheelers_formulas_stay_within_their_stated_errors_on_random_coils) {
  Coils coils(114);
  for (int i = 0; i < 40; ++i) {
    const Secondary s = coils.next().secondary;
    const double radius = secondary_mean_radius_m(s);
    expect_close(wheeler_helix_h(radius, s.turns, s.winding_length_m),
                 solenoid_inductance_h(radius, s.turns, s.winding_length_m, s.wire_bare_diameter_m / 2,
                                       CurrentDistribution::uniform),
                 0.012);
  }
}

TEST(laws, the_textbook_sum_is_never_above_the_field_solution_with_a_topload) {
  Coils coils(115);
  for (int i = 0; i < tries; ++i) {
    const Analysis a = analyse(coils.next());
    EXPECT_LT(a.estimate.mode_1_hz, a.resonator->mode_1_hz * 1.02);
    EXPECT_GT(a.estimate.mode_1_hz, a.resonator->mode_1_hz * 0.75);
  }
}

TEST(laws, every_number_of_every_random_coil_is_finite_and_every_band_positive) {
  Coils coils(116);
  for (int i = 0; i < tries; ++i) {
    const Design d = coils.next();
    EXPECT_EQ(geometry_problem(d, UnitSystem::metric), "");
    const Analysis a = analyse(d);
    for (const auto& [key, band] : a.band) EXPECT_TRUE(std::isfinite(band) && band > 0) << key;
    for (const double value : {a.quality_factor, a.turn_voltage_v, a.peak_current_a, a.strike_field_v_per_m,
                               a.primary_field_v_per_m, a.loaded_hz.low, a.loaded_hz.high})
      EXPECT_TRUE(std::isfinite(value) && value > 0);
    for (const Finding& finding : a.findings)
      EXPECT_FALSE(finding.title.empty() || finding.text.empty()) << finding.id;
  }
}

TEST(coupled_poles, split_as_the_handbook_says_and_as_the_roots_of_the_pair) {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> share(0, 1);
  for (int i = 0; i < 200; ++i) {
    const double first = 1e5 * (0.5 + share(random)), second = 1e5 * (0.5 + share(random)), k = 0.6 * share(random);
    const CoupledPoles poles = coupled_poles(first, second, k);
    EXPECT_LE(poles.lower_hz, std::min(first, second) * (1 + 1e-12));
    EXPECT_GE(poles.upper_hz, std::max(first, second) * (1 - 1e-12));
    for (const double hz : {poles.lower_hz, poles.upper_hz}) { // (1 - a/f2)(1 - b/f2) = k2
      const double ff = hz * hz;
      EXPECT_NEAR((1 - first * first / ff) * (1 - second * second / ff), k * k, 1e-9);
    }
    const CoupledPoles alike = coupled_poles(first, first, k);
    EXPECT_NEAR(alike.lower_hz, first / std::sqrt(1 + k), 1e-6 * first);
    EXPECT_NEAR(alike.upper_hz, first / std::sqrt(1 - k), 1e-6 * first);
  }
}

} // namespace

// Laws of similarity, exact for every circuit whatever its parts: all impedances s times as large leave volts and
// times and divide amperes, watts and joules by s; all inductances, capacitances and times t times as large leave
// volts, amperes and watts and multiply times and joules by t. They hold for non-linear parts as well when their
// currents and charges go along. A constant with a unit that slipped into a simulation breaks them.
#include "analysis/analyse.h"
#include "crafts/bridges/bridge.h"
#include "crafts/exciter/exciter.h"
#include "crafts/spark_gap/shot.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/tubes/tube.h"
#include "crafts/tubes/tube_run.h"
#include "random.h"
#include "support.h"

namespace arc {
namespace {

Design example(const char* name) {
  return read_design(read_text(std::string(HIGH_ARC_EXAMPLES "/") + name + ".json"));
}

// How each unit goes along: ohms and henries with `impedance`, henries, farads and seconds with `time`.
struct Scale {
  double impedance = 1, time = 1;
  void ohm(double& x) const { x *= impedance; }
  void henry(double& x) const { x *= impedance * time; }
  void farad(double& x) const { x *= time / impedance; }
  void ampere(double& x) const { x /= impedance; }
  void second(double& x) const { x *= time; }
  void hertz(double& x) const { x /= time; }
  void mode(WindingMode& m) const {
    henry(m.inductance_h);
    farad(m.capacitance_f);
    ohm(m.resistance_ohm);
    henry(m.mutual_h);
  }
  double watts() const { return 1 / impedance; }
  double joules() const { return time / impedance; }
};

Scale some(Random& r) {
  return {r.decade(0.1, 10), r.decade(0.2, 5)};
}

TubeCircuit scaled(TubeCircuit c, const Scale& by) {
  for (double* x : {&c.plate_ohm, &c.feedback_ohm, &c.grid_leak_ohm, &c.stopper_ohm, &c.trap_ohm, &c.streamer_ohm})
    by.ohm(*x);
  for (double* x : {&c.plate_h, &c.feedback_h, &c.plate_feedback_h, &c.trap_h}) by.henry(*x);
  for (double& x : c.feedback_mode_h) by.henry(x);
  for (double* x : {&c.grid_cathode_f, &c.grid_plate_f, &c.plate_cathode_f, &c.tank_f, &c.feedback_f,
                    &c.grid_leak_f, &c.bypass_f, &c.streamer_f})
    by.farad(*x);
  for (double* x : {&c.law.perveance, &c.law.grid_perveance, &c.noise_a}) by.ampere(*x);
  for (WindingMode& m : c.modes) by.mode(m);
  by.second(c.rise_s);
  by.hertz(c.noise_hz);
  return c;
}

// The demo's oscillator on direct current, its parts drawn anew.
TubeCircuit some_oscillator(Random& r, const Design& design, const Analysis& analysis) {
  TubeCircuit c = tube_circuit(design, analysis, true);
  c.staccato.reset();
  c.direct_v = r.between(1500, 4000);
  c.rise_s = 2e-6;
  for (double* x : {&c.law.perveance, &c.law.mu, &c.grid_leak_ohm, &c.grid_leak_f, &c.modes.front().resistance_ohm})
    *x *= r.between(0.8, 1.3);
  c.tank_f *= r.between(1, 1.3);
  return c;
}

TEST(similarity, an_oscillators_volts_do_not_know_its_impedance_nor_its_speed) {
  const Design design = example("glass-willow");
  const Analysis analysis = analyse(design);
  Random r(61);
  int swinging = 0;
  for (int i = 0; i < 12; ++i) {
    const TubeCircuit c = some_oscillator(r, design, analysis);
    const Scale by = some(r);
    const TubeResult a = simulate_tube(c, {}, never), b = simulate_tube(scaled(c, by), {}, never);
    ASSERT_EQ(a.oscillates, b.oscillates) << i;
    if (!a.oscillates) continue;
    ++swinging;
    expect_close(b.frequency_hz * by.time, a.frequency_hz, 1e-4, "frequency");
    expect_close(b.top_peak_v, a.top_peak_v, 1e-3, "top");
    expect_close(b.grid_bias_v, a.grid_bias_v, 1e-3, "bias");
    expect_close(b.plate_input_w, a.plate_input_w * by.watts(), 1e-3, "input");
    expect_close(b.plate_dissipation_w, a.plate_dissipation_w * by.watts(), 1e-3, "plate heat");
    expect_close(b.secondary_power_w, a.secondary_power_w * by.watts(), 1e-3, "output");
    expect_close(b.cathode_peak_a * by.impedance, a.cathode_peak_a, 1e-3, "cathode's peak");
  }
  EXPECT_GT(swinging, 8);
}

TEST(similarity, of_the_quick_balance_and_of_the_start) {
  const Design design = example("glass-willow");
  const Analysis analysis = analyse(design);
  Random r(67);
  int balanced = 0;
  for (int i = 0; i < 30; ++i) {
    const TubeCircuit c = some_oscillator(r, design, analysis);
    const Scale by = some(r);
    const TubeCircuit d = scaled(c, by);
    expect_close(tube_start(d, *c.direct_v).margin, tube_start(c, *c.direct_v).margin, 1e-3, "margin");
    const auto a = tube_balance(c, *c.direct_v), b = tube_balance(d, *c.direct_v);
    ASSERT_EQ(a.has_value(), b.has_value()) << i;
    if (!a) continue;
    ++balanced;
    expect_close(b->frequency_hz * by.time, a->frequency_hz, 1e-5, "frequency");
    expect_close(b->top_peak_v, a->top_peak_v, 1e-4, "top");
    expect_close(b->plate_input_w, a->plate_input_w * by.watts(), 1e-4, "input");
    expect_close(b->plate_dissipation_w, a->plate_dissipation_w * by.watts(), 1e-4, "plate heat");
  }
  EXPECT_GT(balanced, 20);
}

BurstCircuit scaled(BurstCircuit c, const Scale& by) {
  for (std::optional<double>* x : {&c.split_f, &c.series_f})
    if (*x) by.farad(**x);
  for (double* x : {&c.reservoir_f, &c.streamer_f, &c.device.output_f}) by.farad(*x);
  for (double* x :
       {&c.primary_ohm, &c.streamer_ohm, &c.device.on_ohm, &c.device.slope_ohm, &c.device.diode_slope_ohm})
    by.ohm(*x);
  by.henry(c.primary_h);
  for (WindingMode& m : c.modes) by.mode(m);
  by.hertz(c.frequency_hz);
  for (double* x : {&c.delay_s, &c.lead_s, &c.dead_s, &c.blanking_s, &c.kick_s, &c.on_s, &c.after_s,
                    &c.limit_delay_s, &c.device.leak_s, &c.device.fall_s, &c.device.rise_s, &c.device.recovery_s})
    by.second(*x);
  for (double* x : {&c.noise_a, &c.hysteresis}) by.ampere(*x);
  if (c.limit_a) by.ampere(*c.limit_a);
  return c;
}

TEST(similarity, a_bursts_volts_do_not_know_its_impedance_nor_its_speed) {
  Random r(71);
  for (const char* name : {"copper-heron", "tin-orchard"}) {
    const Design design = example(name);
    const PowerAnalysis power =
        analyse_power(design, analyse(design), {.advice = false, .variac = false}, UnitSystem::metric, never);
    const BurstCircuit demo = power.of<BridgeAnalysis>()->circuit;
    for (int i = 0; i < 8; ++i) {
      BurstCircuit c = demo;
      c.bus_v *= r.between(0.6, 1.1);
      c.primary_h *= r.between(0.9, 1.2);
      c.delay_s *= r.between(0.5, 1.1);
      const Scale by = some(r);
      const BurstResult a = simulate_burst(c, {.waveforms = false}, never),
                        b = simulate_burst(scaled(c, by), {.waveforms = false}, never);
      ASSERT_EQ(a.locked, b.locked) << name << i;
      // Events are placed within the solver's slack, which the small joules in the switches feel.
      expect_close(b.mean_hz * by.time, a.mean_hz, 1e-6, "frequency");
      expect_close(b.top_peak_v, a.top_peak_v, 1e-4, "top");
      expect_close(b.primary_peak_a * by.impedance, a.primary_peak_a, 1e-4, "primary");
      expect_close(b.bus_j, a.bus_j * by.joules(), 1e-4, "from the bus");
      expect_close(b.streamer_j, a.streamer_j * by.joules(), 1e-4, "in the arc");
      expect_close(b.device_j(), a.device_j() * by.joules(), 5e-3, "in the switches");
      expect_close(b.edges_j(), a.edges_j() * by.joules(), 1e-3, "at the edges");
      expect_close(b.end_s, a.end_s * by.time, 1e-6, "its end");
      EXPECT_EQ(a.hard, b.hard);
      EXPECT_EQ(a.soft, b.soft);
      EXPECT_EQ(a.trips, b.trips);
    }
  }
}

TEST(similarity, a_shots_volts_do_not_know_its_impedance_nor_its_speed) {
  const Design design = example("quiet-lantern");
  const PowerAnalysis power =
      analyse_power(design, analyse(design), {.advice = false, .variac = false}, UnitSystem::metric, never);
  const ShotCircuit demo = power.of<SparkGapPower>()->circuit;
  Random r(73);
  for (int i = 0; i < 12; ++i) {
    ShotCircuit c = demo;
    c.tank_v *= r.between(0.5, 1.5);
    c.loop_h *= r.between(0.9, 1.1);
    if (r.coin()) c.breakout_v = 0.7 * c.tank_v * std::sqrt(c.tank_f / c.modes.front().capacitance_f);
    const Scale by = some(r);
    ShotCircuit d = c;
    for (double* x : {&d.tank_f, &d.streamer_f}) by.farad(*x);
    for (double* x : {&d.loop_ohm, &d.arc_ohm, &d.streamer_ohm}) by.ohm(*x);
    by.henry(d.loop_h);
    by.second(d.beat_s);
    for (WindingMode& m : d.modes) by.mode(m);
    ShotOptions fast, slow;
    fast.duration_s = 100e-6;
    slow = fast;
    by.second(slow.duration_s);
    by.second(slow.step_s);
    const ShotResult a = simulate_shot(c, fast, never), b = simulate_shot(d, slow, never);
    expect_close(b.top_peak_v, a.top_peak_v, 1e-6, "top");
    expect_close(b.primary_peak_a * by.impedance, a.primary_peak_a, 1e-6, "primary");
    expect_close(b.tank_energy_j, a.tank_energy_j * by.joules(), 1e-9, "energy");
    expect_close(b.secondary_peak_j, a.secondary_peak_j * by.joules(), 1e-6, "across");
    expect_close(b.gap_loss_j, a.gap_loss_j * by.joules(), 1e-6, "gap");
    expect_close(b.gap_charge_c, a.gap_charge_c * by.time / by.impedance, 1e-6, "charge");
    ASSERT_EQ(a.quench_s.has_value(), b.quench_s.has_value());
    if (a.quench_s) expect_close(*b.quench_s, *a.quench_s * by.time, 1e-6, "quench");
    ASSERT_EQ(a.breakout_s.has_value(), b.breakout_s.has_value());
  }
}

TEST(similarity, an_exciters_volts_do_not_know_its_impedance_nor_its_speed) {
  const Design design = example("paper-moth");
  const PowerAnalysis power =
      analyse_power(design, analyse(design), {.advice = false, .variac = false}, UnitSystem::metric, never);
  const ExciterCircuit demo = power.of<ExciterAnalysis>()->circuit;
  ASSERT_EQ(demo.transistor.type, TransistorType::npn);
  Random r(79);
  for (int i = 0; i < 6; ++i) {
    ExciterCircuit c = demo;
    c.supply_limit_a.reset();
    c.supply_v = r.between(6, 20);
    c.bias_ohm *= r.between(0.5, 1.5);
    if (c.clamp) c.clamp->breakdown_v.reset(); // its knee is at a stated current
    const Scale by = some(r);
    ExciterCircuit d = c;
    Transistor& t = d.transistor;
    for (double* x : {&d.bias_ohm, &d.primary_ohm, &d.secondary_ohm, &t.base_resistance_ohm}) by.ohm(*x);
    for (double* x : {&d.primary_h, &d.mutual_h, &d.secondary_h}) by.henry(*x);
    for (double* x :
         {&d.secondary_f, &d.base_stray_f, &d.collector_stray_f, &t.emitter_junction_f, &t.collector_junction_f})
      by.farad(*x);
    by.ampere(t.saturation_current_a);
    for (double* x : {&t.transit_time_s, &t.reverse_transit_time_s}) by.second(*x);
    if (d.clamp) {
      by.ampere(d.clamp->saturation_current_a);
      by.farad(d.clamp->capacitance_f);
      by.second(d.clamp->transit_time_s);
    }
    const OscillationResult a = simulate_oscillation(c, {}, never), b = simulate_oscillation(d, {}, never);
    ASSERT_EQ(a.oscillates, b.oscillates) << i;
    if (!a.oscillates) continue;
    expect_close(b.frequency_hz * by.time, a.frequency_hz, 1e-3, "frequency");
    expect_close(b.top_peak_v, a.top_peak_v, 5e-3, "top");
    expect_close(b.collector_average_a * by.impedance, a.collector_average_a, 5e-3, "collector");
    expect_close(b.dissipation_w, a.dissipation_w * by.watts(), 0.02, "heat");
  }
}

} // namespace
} // namespace arc

// Times of the core's main jobs on one core; run with: build/bin/bench-core
#include "analysis/analyse.h"
#include "analysis/sampling.h"
#include "coil/analysis.h"
#include "crafts/bridges/bridge.h"
#include "crafts/spark_gap/charging.h"
#include "crafts/spark_gap/shot.h"
#include "crafts/spark_gap/spark_gap.h"
#include "crafts/tubes/tube.h"
#include "evidence/tolerance.h"
#include "field/field_map.h"
#include "field/resonator.h"
#include "file/design_file.h"
#include "simulation/power.h"
#include "workshop/bank_search.h"
#include "workshop/proposals.h"
#include "workshop/shelf.h"

#include <atomic>
#include <benchmark/benchmark.h>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <memory>
#include <string>
#include <unistd.h>

namespace {

arc::Design example(const std::string& name) {
  std::ifstream in(HIGH_ARC_EXAMPLES "/" + name + ".json");
  return arc::read_design(std::string{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()});
}

arc::Design demo() {
  return example("quiet-lantern");
}

void analyse_demo(benchmark::State& state) {
  const arc::Design design = demo();
  for (auto _ : state) benchmark::DoNotOptimize(arc::analyse(design));
}
// The size that the speed aim of 25 ms names: 1500 turns, toroid, flat primary, bands.
void analyse_1500_turns(benchmark::State& state) {
  arc::Design design = demo();
  design.site = arc::Site{};
  design.secondary.turns = 1500;
  design.secondary.winding_length_m = 0.7;
  for (auto _ : state) benchmark::DoNotOptimize(arc::analyse(design));
}
BENCHMARK(analyse_1500_turns)->Unit(benchmark::kMillisecond);

void thousand_samples(benchmark::State& state) {
  const arc::Design design = demo();
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::sample_tolerances(design, 1000, 1, 2, never));
}
BENCHMARK(thousand_samples)->Unit(benchmark::kMillisecond)->UseRealTime();

void contour_field(benchmark::State& state) {
  const arc::ResonatorResult resonator = arc::field_resonator(demo());
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::field_map(resonator, 0.65, 1.2, 72, 110, never));
}
BENCHMARK(contour_field)->Unit(benchmark::kMillisecond);

BENCHMARK(analyse_demo)->Unit(benchmark::kMillisecond);

void resonator(benchmark::State& state) {
  const arc::Design design = demo();
  for (auto _ : state)
    benchmark::DoNotOptimize(arc::field_resonator(design, {static_cast<int>(state.range(0)), 40}));
}
BENCHMARK(resonator)->Arg(20)->Arg(40)->Arg(80)->Arg(120)->Unit(benchmark::kMillisecond);

void bands(benchmark::State& state) {
  const arc::Design design = demo();
  arc::Analysis analysis = arc::analyse(design);
  for (auto _ : state) {
    arc::Kept kept;
    analysis.evidence.clear();
    arc::propagate_tolerances(design, analysis, kept);
  }
}
BENCHMARK(bands)->Unit(benchmark::kMillisecond);

// Times the SPICE program on a deck.
void spice(benchmark::State& state, const std::string& text) {
  std::string deck = (std::filesystem::temp_directory_path() / "high-arc-deck-XXXXXX").string();
  const int file = mkstemp(deck.data());
  if (file < 0) return state.SkipWithError("no room for the deck");
  close(file);
  std::ofstream(deck) << text;
  const std::string command = "ngspice -b " + deck + " >/dev/null 2>&1";
  for (auto _ : state)
    if (std::system(command.c_str()) != 0) state.SkipWithError("ngspice failed");
  std::remove(deck.c_str());
}

// The 500 us shot at 20 ns output, beside the same circuit in the SPICE program: the aim is 20 times faster.
void shot_500_us(benchmark::State& state) {
  const arc::Design design = demo();
  const arc::ShotOptions options;
  const arc::ShotCircuit circuit = arc::shot_circuit(design, arc::analyse(design), options);
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::simulate_shot(circuit, options, never));
}
BENCHMARK(shot_500_us)->Unit(benchmark::kMillisecond)->UseRealTime();

void spice_of_the_same_deck(benchmark::State& state) {
  const arc::Design design = demo();
  const arc::ShotOptions options;
  const arc::ShotCircuit circuit = arc::shot_circuit(design, arc::analyse(design), options);
  const std::atomic<bool> never{false};
  spice(state,
        arc::shot_netlist(circuit, options, arc::simulate_shot(circuit, options, never).quench_s, design.name));
}
BENCHMARK(spice_of_the_same_deck)->Unit(benchmark::kMillisecond)->UseRealTime();

void ten_mains_cycles(benchmark::State& state) {
  const arc::Design design = demo();
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::simulate_charging(design, {10, 20e-6}, never));
}
BENCHMARK(ten_mains_cycles)->Unit(benchmark::kMillisecond);

// Everything behind Tank, Feed and Switch: the aim is below 0.3 s.
void whole_power_path(benchmark::State& state) {
  const arc::Design design = demo();
  const arc::Analysis analysis = arc::analyse(design);
  const std::atomic<bool> never{false};
  for (auto _ : state)
    benchmark::DoNotOptimize(arc::analyse_power(design, analysis, {}, arc::UnitSystem::metric, never));
}
BENCHMARK(whole_power_path)->Unit(benchmark::kMillisecond);

// Analysis and power path after one change, all steps computed against what the change leaves alone taken over.
// Aims: 5 times faster for the clip, twice for the topload.
void after_a_change(benchmark::State& state, void (*change)(arc::Design&), bool keep) {
  const std::atomic<bool> never{false};
  const std::function<void(double)> nobody;
  arc::Design design = demo();
  auto kept = std::make_unique<arc::Kept>();
  const auto whole = [&] {
    const arc::Analysis analysis = arc::analyse(design, arc::UnitSystem::metric, *kept);
    benchmark::DoNotOptimize(
        arc::analyse_power(design, analysis, {}, arc::UnitSystem::metric, {never, nobody, *kept}));
  };
  whole();
  for (auto _ : state) {
    state.PauseTiming();
    change(design);
    if (!keep) kept = std::make_unique<arc::Kept>();
    state.ResumeTiming();
    whole();
  }
}
void move_the_clip(arc::Design& design) {
  design.primary.tap_turns -= 0.003;
}
void change_the_topload(arc::Design& design) {
  design.topload[0].outer_diameter_m += 1e-4;
}
BENCHMARK_CAPTURE(after_a_change, clip_from_nothing, move_the_clip, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(after_a_change, clip_kept, move_the_clip, true)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(after_a_change, topload_from_nothing, change_the_topload, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(after_a_change, topload_kept, change_the_topload, true)->Unit(benchmark::kMillisecond);

void simulated_kind(benchmark::State& state, const char* name) {
  const arc::Design design = example(name);
  const arc::Analysis analysis = arc::analyse(design);
  const std::atomic<bool> never{false};
  for (auto _ : state)
    benchmark::DoNotOptimize(arc::analyse_power(design, analysis, {}, arc::UnitSystem::metric, never));
}
BENCHMARK_CAPTURE(simulated_kind, exciter, "paper-moth")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(simulated_kind, bridge, "copper-heron")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(simulated_kind, dual_resonant, "tin-orchard")->Unit(benchmark::kMillisecond)->UseRealTime();

// A burst of 300 us beside the same circuit in the SPICE program: the aims are below 10 ms, and 30 times faster.
arc::BurstCircuit long_burst() {
  const arc::Design design = example("copper-heron");
  return arc::burst_circuit(design, arc::analyse(design), 300e-6, true);
}

void burst_300_us(benchmark::State& state) {
  const arc::BurstCircuit circuit = long_burst();
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::simulate_burst(circuit, {}, never));
}
BENCHMARK(burst_300_us)->Unit(benchmark::kMillisecond)->UseRealTime();

void spice_of_the_same_burst(benchmark::State& state) {
  const arc::BurstCircuit circuit = long_burst();
  const std::atomic<bool> never{false};
  spice(state, arc::burst_netlist(circuit, arc::simulate_burst(circuit, {}, never), "benchmark"));
}
BENCHMARK(spice_of_the_same_burst)->Unit(benchmark::kMillisecond)->UseRealTime();

// From switching on, through a second of charging, to settled bursts.
void mains_of_a_bridge(benchmark::State& state) {
  const arc::Design design = example("tin-orchard");
  arc::MainsLoad load;
  load.energy_j = 0.7;
  load.at_v = 322;
  load.on_s = 75e-6;
  load.rate_hz = 120;
  const std::atomic<bool> never{false};
  for (auto _ : state) benchmark::DoNotOptimize(arc::simulate_mains(design.feed, design.site, load, never));
}
BENCHMARK(mains_of_a_bridge)->Unit(benchmark::kMillisecond)->UseRealTime();

// Four hundred bursts over turns and height: the aim is below 2 s.
void map_of_turns_and_height(benchmark::State& state) {
  const arc::Design design = example("copper-heron");
  const arc::Analysis analysis = arc::analyse(design);
  const std::atomic<bool> never{false};
  const std::function<void(double)> nobody;
  for (auto _ : state) {
    arc::Kept kept;
    benchmark::DoNotOptimize(arc::bridge_map(design, analysis, 1, 20, {never, nobody, kept}));
  }
}
BENCHMARK(map_of_turns_and_height)->Unit(benchmark::kMillisecond)->UseRealTime();

// One cycle of the mains of a 333 kHz oscillator: the aim is below 150 ms.
void mains_cycle_of_a_tube(benchmark::State& state) {
  arc::Design design = example("glass-willow");
  design.tube.staccato = false;
  const arc::TubeCircuit circuit = arc::tube_circuit(design, arc::analyse(design), true);
  const std::atomic<bool> never{false};
  for (auto _ : state)
    benchmark::DoNotOptimize(arc::simulate_tube(circuit, {.mains = true, .cycles = 1, .waveforms = false}, never));
}
BENCHMARK(mains_cycle_of_a_tube)->Unit(benchmark::kMillisecond)->UseRealTime();

// Steady state by first harmonics, as every drag of a handle needs it: the aim is below 5 ms.
void balance_of_a_tube(benchmark::State& state) {
  const arc::Design design = example("glass-willow");
  const arc::TubeCircuit circuit = arc::tube_circuit(design, arc::analyse(design), true);
  for (auto _ : state) benchmark::DoNotOptimize(arc::tube_balance(circuit, arc::crest_supply_v(circuit)));
}
BENCHMARK(balance_of_a_tube)->Unit(benchmark::kMillisecond)->UseRealTime();

void bank_of_forty_parts(benchmark::State& state) {
  auto parts = arc::shelf_capacitors(arc::starter_shelf());
  for (arc::ShelfCapacitor& part : parts) part.count = 5;
  for (auto _ : state) benchmark::DoNotOptimize(arc::find_banks(parts, {12e-9, 12e3, 0.8, 0.25, 10}));
}
BENCHMARK(bank_of_forty_parts)->Unit(benchmark::kMillisecond);

void winding_inductance(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(
        arc::solenoid_inductance_h(0.08, 1500, 0.8, 0.00025, arc::CurrentDistribution::uniform));
}
BENCHMARK(winding_inductance)->Unit(benchmark::kMicrosecond);

// A whole search of one kind on all processors; "first_s": until the first proposal could be looked at.
void proposals(benchmark::State& state, const char* kind) {
  arc::Brief brief;
  if (*kind) brief.kinds = {kind};
  brief.limits = {{"height_m", 1.2}};
  const std::atomic<bool> never{false};
  double first_s = 0;
  for (auto _ : state) {
    const auto begun = std::chrono::steady_clock::now();
    first_s = 0;
    const auto tell = [&](const arc::Proposals&) {
      if (first_s == 0) first_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    };
    benchmark::DoNotOptimize(arc::propose(brief, {}, never, {.preview = tell}));
  }
  state.counters["first_s"] = first_s;
}
BENCHMARK_CAPTURE(proposals, spark_gap, "spark-gap")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
BENCHMARK_CAPTURE(proposals, bridge, "bridge")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
BENCHMARK_CAPTURE(proposals, dual_resonant, "dual-resonant")
    ->Unit(benchmark::kSecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK_CAPTURE(proposals, tube, "tube")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
BENCHMARK_CAPTURE(proposals, exciter, "exciter")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
BENCHMARK_CAPTURE(proposals, flame, "flame")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
BENCHMARK_CAPTURE(proposals, any_kind, "")->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);

} // namespace

BENCHMARK_MAIN();

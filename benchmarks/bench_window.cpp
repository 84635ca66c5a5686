// Times of the window: from program start to the first painted window, and a frame while a handle is dragged, with
// the analysis running beside it. Run with: QT_QPA_PLATFORM=offscreen build/bin/bench-window
#include "coil_views/coil_view.h"
#include "crafts/bridges/pulse_view.h"
#include "stages/stage.h"
#include "window/main_window.h"

#include <QApplication>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <benchmark/benchmark.h>
#include <chrono>
#include <fstream>
#include <vector>

namespace {

double seconds_since(std::chrono::steady_clock::time_point start) {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

void first_painted_window(benchmark::State& state) {
  for (auto _ : state) {
    QTemporaryDir folder;
    MainWindow window(folder.path());
    window.open_demo();
    window.show();
    window.document().wait_for_analysis();
    window.grab();
  }
}
BENCHMARK(first_painted_window)->Unit(benchmark::kMillisecond);

// Aims over 600 frames: 99 of 100 under 16 ms, none above 33 ms, those that change the set of findings included.
void frame_while_dragging(benchmark::State& state) {
  QTemporaryDir folder;
  MainWindow window(folder.path());
  window.open_demo();
  window.resize(1280, 800);
  window.show();
  window.document().wait_for_analysis();
  window.document().wait_for_simulation();
  window.grab(); // the first picture is another benchmark
  auto* view = window.findChild<CoilView*>("coil");
  const QPoint start = view->handle_place("winding-top").toPoint();
  QTest::mousePress(view, Qt::LeftButton, {}, start);
  int step = 0;
  std::vector<double> frames_ms;
  for (auto _ : state) {
    const auto before = std::chrono::steady_clock::now();
    QTest::mouseMove(view, start + QPoint(0, (++step % 60) - 30));
    QApplication::processEvents();
    benchmark::DoNotOptimize(window.grab()); // the whole window, painted anew for certain
    frames_ms.push_back(1e3 * seconds_since(before));
  }
  QTest::mouseRelease(view, Qt::LeftButton, {}, start);
  window.document().wait_for_analysis();
  std::ranges::sort(frames_ms);
  state.counters["p99_ms"] = frames_ms[frames_ms.size() * 99 / 100];
  state.counters["worst_ms"] = frames_ms.back();
}

// Bursts dragged by their end, the simulation running behind. Aim: 60 frames a second.
void frame_while_dragging_a_burst(benchmark::State& state) {
  QTemporaryDir folder;
  MainWindow window(folder.path());
  window.open_demo("bridge");
  window.resize(1280, 800);
  window.show();
  window.document().wait_for_analysis();
  window.document().wait_for_simulation();
  const auto stage = std::ranges::find(stages(), QString("gate"), &StageSpec::key);
  window.show_stage(static_cast<int>(stage - stages().begin()));
  QApplication::processEvents();
  window.grab();
  auto* view = window.findChild<PulseView*>("pulse view");
  const QPoint start = view->edge_place().toPoint();
  QTest::mousePress(view, Qt::LeftButton, {}, start);
  int step = 0;
  std::vector<double> frames_ms;
  for (auto _ : state) {
    const auto before = std::chrono::steady_clock::now();
    QTest::mouseMove(view, start + QPoint((++step % 60) - 30, 0));
    QApplication::processEvents();
    benchmark::DoNotOptimize(window.grab());
    frames_ms.push_back(1e3 * seconds_since(before));
  }
  QTest::mouseRelease(view, Qt::LeftButton, {}, start);
  window.document().wait_for_simulation();
  std::ranges::sort(frames_ms);
  state.counters["p99_ms"] = frames_ms[frames_ms.size() * 99 / 100];
  state.counters["worst_ms"] = frames_ms.back();
}

double resident_mb() {
  std::ifstream in("/proc/self/statm");
  double all = 0, resident = 0;
  in >> all >> resident;
  return resident * 4096 / 1e6;
}

// 500 steps of undo with 2000 logged runs. Aim: under 60 MB more than the window without them.
void undo_of_500_steps(benchmark::State& state) {
  for (auto _ : state) {
    QTemporaryDir folder;
    Document document(folder.path() + "/recovery");
    document.wait_for_analysis();
    const double before = resident_mb();
    document.edit("Runs", [](arc::Design& d) {
      for (int i = 0; i < 2000; ++i) {
        arc::Run run;
        run.when = "2026-05-02T19:10:00";
        run.notes = "As before, the clip a quarter turn further out; longest strike to the wall of the shed.";
        for (const char* key : {"tap_turns", "coupling", "variac_percent", "power_w", "resonance_hz"})
          run.conditions[key] = i;
        run.observations["arc_length_m"] = 0.4;
        d.runs.push_back(run);
      }
    });
    for (int i = 0; i < 500; ++i) document.edit("Turns", [i](arc::Design& d) { d.secondary.turns = 900 + i; });
    document.wait_for_analysis();
    state.counters["more_mb"] = resident_mb() - before;
  }
}
BENCHMARK(undo_of_500_steps)->Unit(benchmark::kMillisecond)->Iterations(1);
// What the window does when an analysis arrives: readings, findings, ruler, without painting.
void views_follow_an_analysis(benchmark::State& state) {
  QTemporaryDir folder;
  MainWindow window(folder.path());
  window.open_demo();
  window.resize(1280, 800);
  window.show();
  window.document().wait_for_analysis();
  for (auto _ : state) {
    Q_EMIT window.document().analysis_changed();
    QApplication::processEvents();
  }
}
BENCHMARK(views_follow_an_analysis)->Unit(benchmark::kMillisecond);

BENCHMARK(frame_while_dragging_a_burst)->Unit(benchmark::kMillisecond)->Iterations(600);
BENCHMARK(frame_while_dragging)->Unit(benchmark::kMillisecond)->Iterations(600);

} // namespace

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setStyle("Fusion");
  type::load_fonts();
  QApplication::setFont(type::font(type::body));
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}

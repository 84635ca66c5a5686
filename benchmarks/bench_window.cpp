// Times of the window: from program start to the first painted window, and a frame while a handle is dragged, with
// the analysis running beside it. Run with: QT_QPA_PLATFORM=offscreen build/bin/bench-window
#include "main_window.h"
#include "widgets/coil_view.h"

#include <QApplication>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <benchmark/benchmark.h>
#include <chrono>

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

void frame_while_dragging(benchmark::State& state) {
  QTemporaryDir folder;
  MainWindow window(folder.path());
  window.open_demo();
  window.resize(1280, 800);
  window.show();
  window.document().wait_for_analysis();
  auto* view = window.findChild<CoilView*>("coil");
  const QPoint start = view->handle_place("winding-top").toPoint();
  QTest::mousePress(view, Qt::LeftButton, {}, start);
  int step = 0;
  double worst = 0;
  for (auto _ : state) {
    const auto before = std::chrono::steady_clock::now();
    QTest::mouseMove(view, start + QPoint(0, (++step % 60) - 30));
    QApplication::processEvents();
    benchmark::DoNotOptimize(window.grab()); // the whole window, painted anew for certain
    worst = std::max(worst, seconds_since(before));
  }
  QTest::mouseRelease(view, Qt::LeftButton, {}, start);
  window.document().wait_for_analysis();
  state.counters["worst_ms"] = worst * 1e3;
}
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

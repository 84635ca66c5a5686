// The document without its window: its jobs, its history, its recovery. Small enough to run under the thread
// sanitizer.
#include "base/document.h"

#include "analysis/analyse.h"
#include "file/design_file.h"

#include <QCoreApplication>
#include <QTemporaryDir>
#include <QTest>
#include <chrono>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <thread>

namespace {

arc::Design demo() {
  std::ifstream in(HIGH_ARC_EXAMPLES "/quiet-lantern.json", std::ios::binary);
  return arc::read_design(std::string{std::istreambuf_iterator<char>(in), {}});
}

TEST(document, edits_while_everything_is_computed_end_in_the_latest_results) {
  QTemporaryDir folder;
  Document document(folder.path());
  document.start(demo());
  for (int i = 0; i < 25; ++i) {
    ASSERT_TRUE(document.edit("Turns", [&](arc::Design& d) { d.secondary.turns = 900 + i; }));
    if (i % 3 == 0) document.history().undo();
    if (i % 5 == 0) document.set_units(i % 2 ? arc::UnitSystem::inch : arc::UnitSystem::metric);
    if (i % 7 == 0) document.cancel_simulation();
    QCoreApplication::processEvents(QEventLoop::AllEvents, 15);
    EXPECT_EQ(document.analysis_is_current(), !document.recomputing());
  }
  document.wait_for_simulation();
  EXPECT_TRUE(document.analysis_is_current());
  EXPECT_TRUE(document.power_is_current());
  const arc::Analysis expected = arc::analyse(document.design(), document.units());
  EXPECT_EQ(document.analysis()->secondary_inductance_h, expected.secondary_inductance_h);
}

TEST(document, a_document_that_goes_while_it_computes_waits_for_its_threads) {
  QTemporaryDir folder;
  for (int i = 0; i < 4; ++i) {
    Document document(folder.path());
    document.start(demo());
    document.edit("Turns", [&](arc::Design& d) { d.secondary.turns = 900 + i; });
    QCoreApplication::processEvents(QEventLoop::AllEvents, 40 * i);
  }
}

TEST(document, results_of_an_older_design_are_not_current) {
  QTemporaryDir folder;
  Document document(folder.path());
  document.start(demo());
  document.wait_for_simulation();
  ASSERT_TRUE(document.power_is_current());
  document.edit("Turns", [](arc::Design& d) { d.secondary.turns = 800; });
  EXPECT_FALSE(document.analysis_is_current());
  EXPECT_FALSE(document.power_is_current());
  for (const arc::Finding& f : document.findings()) {
    EXPECT_FALSE(document.is_current(f));
    EXPECT_FALSE(document.remedy(f));
  }
  document.wait_for_analysis();
  EXPECT_TRUE(document.analysis_is_current());
  EXPECT_FALSE(document.power_is_current()) << "the power path follows later";
}

TEST(latest_job, work_that_throws_ends_with_its_reason_and_the_next_one_runs) {
  QString problem;
  int result = 0;
  LatestJob<int> job([&](const int& value) { result = value; }, [&](const QString& why) { problem = why; });
  job.start([](const std::atomic<bool>&) -> int { throw std::runtime_error("out of copper"); });
  job.wait();
  EXPECT_EQ(problem, "out of copper");
  EXPECT_FALSE(job.running());
  job.start([](const std::atomic<bool>&) { return 7; });
  job.wait();
  EXPECT_EQ(result, 7);
}

TEST(latest_job, the_latest_request_wins_and_one_runs_at_a_time) {
  std::vector<int> results;
  std::atomic<int> at_once{0}, most{0};
  LatestJob<int> job([&](const int& value) { results.push_back(value); }, [](const QString&) {});
  for (int i = 0; i < 5; ++i)
    job.start([&, i](const std::atomic<bool>& cancelled) {
      most = std::max<int>(most, ++at_once);
      while (!cancelled && i < 4) std::this_thread::sleep_for(std::chrono::milliseconds(1));
      --at_once;
      return i;
    });
  job.wait();
  EXPECT_THAT(results, testing::ElementsAre(4));
  EXPECT_EQ(most, 1);
}

// Resident bytes of this process.
std::size_t resident() {
  std::ifstream in("/proc/self/statm");
  std::size_t all = 0, present = 0;
  in >> all >> present;
  return present * 4096;
}

TEST(undo, five_hundred_steps_over_two_thousand_runs_share_them) {
  QTemporaryDir folder;
  Document document(folder.path());
  arc::Design d;
  for (int i = 0; i < 2000; ++i) {
    arc::Run run;
    run.when = "2026-01-02T03:04:05";
    for (const char* key : {"tap_turns", "power_w", "coupling", "tank_hz", "resonance_hz"}) run.conditions[key] = i;
    run.observations["arc_length_m"] = 0.3;
    run.notes = std::string(200, 'n');
    d.runs.push_back(run);
  }
  document.start(std::move(d));
  document.wait_for_analysis();
  const auto before = static_cast<double>(resident());
  for (int i = 0; i < 500; ++i) {
    document.edit("Turns", [&](arc::Design& e) { e.secondary.turns = 800 + i; });
    document.wait_for_analysis();
  }
  EXPECT_LT(static_cast<double>(resident()) - before, 100u << 20) << "the runs are kept once";
  EXPECT_EQ(document.history().count(), 500);
}

TEST(undo, hours_of_editing_take_little_memory) {
  QTemporaryDir folder;
  Document document(folder.path());
  document.start(demo());
  const char* wish = std::getenv("HIGH_ARC_EDITS");
  const int edits = wish ? std::atoi(wish) : 600;
  std::size_t before = 0;
  for (int i = 0; i < edits; ++i) {
    document.edit("Turns", [&](arc::Design& e) { e.secondary.turns = 800 + i; });
    if (i % 4 == 0)
      document.edit("Block", [&](arc::Design& e) { e.feed[0].values["rated_current_a"] = 10 + i * 1e-3; });
    document.wait_for_analysis();
    if (i == 50) before = resident(); // once everything has its place
  }
  const double grown_mb = (static_cast<double>(resident()) - static_cast<double>(before)) / (1 << 20);
  std::printf("%d edits: %.1f MB more\n", edits, grown_mb);
  EXPECT_LT(grown_mb, 20);
}

} // namespace

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  QCoreApplication application(argc, argv);
  return RUN_ALL_TESTS();
}

// Shared by the core tests: example designs and relative comparison.
#pragma once

#include "coil/analysis.h"
#include "crafts/spark_gap/spark_gap.h"
#include "evidence/tuning.h"
#include "file/design_file.h"
#include "simulation/power.h"
#include "workshop/shelf.h"

#include <atomic>
#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <iterator>
#include <numbers>
#include <string>

inline constexpr double pi = std::numbers::pi;
inline const std::atomic<bool> never{false};

/// Work that nobody waits for.
inline arc::Work work_in(arc::Kept& kept, const std::atomic<bool>& cancelled = never) {
  static const std::function<void(double)> nobody;
  return {cancelled, nobody, kept};
}

inline std::string read_text(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  EXPECT_TRUE(in) << path;
  return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
}

inline arc::Design demo_design() {
  return arc::read_design(read_text(HIGH_ARC_EXAMPLES "/quiet-lantern.json"));
}

/// The starter shelf as if somebody owned it.
inline arc::Shelf owned_shelf() {
  arc::Shelf shelf = arc::starter_shelf();
  for (auto& [group, parts] : shelf.parts)
    for (arc::ShelfPart& part : parts) part.invented = false;
  return shelf;
}

/// A measurement of one kind; `given` is the clip or the added capacitor where the kind needs it.
inline arc::Measurement measured(std::string_view kind, double value, double given = 0) {
  const arc::MeasurementKind* row = arc::measurement_kind(kind);
  arc::Measurement m;
  m.kind = std::string(kind);
  m.*(row->value.member) = value;
  if (row->given) m.*(row->given->member) = given;
  return m;
}

/// `actual` within the relative tolerance of `expected`.
inline void expect_close(double actual, double expected, double tolerance, const std::string& what = "") {
  EXPECT_NEAR(actual, expected, tolerance * std::abs(expected))
      << what << ": off by " << (actual / expected - 1) * 100 << " %";
}

/// A simulation of a spark-gap coil with its findings, for short reading.
struct SparkGapRun : arc::SparkGapPower {
  SparkGapRun(const arc::PowerAnalysis& power)
      : SparkGapPower(*power.of<arc::SparkGapPower>()), findings(power.findings),
        unwise_remedies(power.unwise_remedies) {}
  std::vector<arc::Finding> findings;
  std::vector<std::string> unwise_remedies;
};

inline const arc::Finding* find(const arc::Analysis& analysis, const std::string& id) {
  for (const arc::Finding& finding : analysis.findings)
    if (finding.id == id) return &finding;
  return nullptr;
}

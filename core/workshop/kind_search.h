// The search among designs of one kind: generations of candidates, each screened by its sizes and the handbook,
// then analysed and simulated from the wall to the arc.
#pragma once

#include "simulation/power.h"
#include "workshop/proposed_designs.h"

#include <cstdint>
#include <functional>
#include <vector>

namespace arc {

class Dice;

class KindSearch {
 public:
  /// The brief must outlive it.
  KindSearch(const Brief& brief, const CoilKind& kind, const ProposeOptions& options)
      : brief_(brief), kind_(kind), seed_(options.seed), rolled_(options.rolled), designs_(brief, kind) {}

  const CoilKind& kind() const { return kind_; }
  /// All that it made, whatever became of it, in the order in which it was made.
  std::vector<CoilCandidate>& seen() { return seen_; }
  const std::set<std::string>& empty_groups() const { return designs_.empty_groups(); }
  /// Whether one simulation takes some tens of milliseconds and not half a second.
  bool quick() const { return kind_.key == "spark-gap" || kind_.feed_end == FeedEnd::bus; }

  /// So many generations, the last quarter of which goes into polishing the best; `tell` is called after each.
  void run(int rounds, const std::atomic<bool>& cancelled, const std::function<void()>& tell);
  /// Full judgement of a good one: with what suits its feed, all figures anew, bands, and trials where the kind is
  /// quick to simulate.
  void judge(CoilCandidate& c, const std::atomic<bool>& cancelled) const;

 private:
  std::vector<const CoilCandidate*> ranked() const;
  static void prefer_arcs(std::vector<const CoilCandidate*>& best);
  CoilCandidate screened(Dice& dice, const std::vector<const CoilCandidate*>& best, int round, int rounds) const;
  void evaluate(CoilCandidate& c, Kept& kept, const std::atomic<bool>& cancelled) const;
  /// The craft's numbers of the best ones, moved by an optimiser while the coil stays: so many evaluations of each.
  void polish(std::size_t of, int evaluations, const std::atomic<bool>& cancelled);
  std::vector<CoilCandidate> polished(const CoilCandidate& start, int evaluations,
                                      const std::atomic<bool>& cancelled) const;
  void hold(CoilCandidate& c) const;
  double merit(const CoilCandidate& c) const;
  static void count_findings(CoilCandidate& c, const std::vector<Finding>& findings);

  const Brief& brief_;
  const CoilKind& kind_;
  std::uint64_t seed_;
  bool rolled_;
  ProposedDesigns designs_;
  std::vector<CoilCandidate> seen_;
};

} // namespace arc

// Words go, numbers and choices stay.
#include "model/inputs.h"

#include <algorithm>
#include <utility>

namespace arc {
namespace {

template <typename Items>
void give_all(SharedList<Items>& items) {
  if (std::ranges::any_of(items.get(), [](const Items& item) { return !item.examples.empty(); }))
    for (Items& item : items.own()) item.examples.clear();
}

} // namespace

Design without_examples(Design design) {
  design.examples.clear();
  give_all(design.topload);
  give_all(design.feed);
  give_all(design.tank.sections);
  return design;
}

Design inputs_of(Design given) {
  Design design = without_examples(std::move(given));
  design.name.clear();
  design.topload_variants = {};
  design.variants = {};
  design.runs = {};
  design.dismissed = {};
  design.confirmed = {};
  design.unknown = {};
  for (ToploadPart& part : design.topload.own()) part.unknown = {};
  for (BankSection& section : design.tank.sections.own()) {
    section.name.clear();
    section.unknown = {};
  }
  for (FeedBlock& block : design.feed.own()) block.unknown = {};
  for (Measurement& measurement : design.measurements.own()) {
    measurement.note.clear();
    measurement.unknown = {};
  }
  return design;
}

} // namespace arc

// Words go, numbers and choices stay.
#include "model/inputs.h"

namespace arc {

Design inputs_of(Design design) {
  design.name.clear();
  design.topload_variants = {};
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

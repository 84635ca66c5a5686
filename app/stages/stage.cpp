// The table of stages.
#include "stages/stage.h"

#include "bank/shelf_sheet.h"
#include "base/craft_window.h"
#include "stages/run_record.h"

#include <QPainter>
#include <algorithm>
#include <iterator>
#include <vector>

namespace {

std::vector<StageSpec> before_crafts() {
  return {
      StageSpec{.key = "resonator",
                .title = "Resonator",
                .make = make_resonator_stage,
                .about = "The secondary with its topload: what the whole coil is tuned to. Enter the form, the "
                         "wire and the turns; "
                         "every number and the drawing follow. The resonance on the ruler below is what all later "
                         "stages aim at. "
                         "Measured values replace computed ones on the measuring stage.",
                .cautions = {"Keep every conductor outside of the form: a wire or bolt through the wall invites an "
                             "arc down the middle "
                             "that nobody sees.",
                             "Varnish and solvents: ventilate, no flames.",
                             "A running topload gives RF burns at a distance; it is never touched, nor approached.",
                             defer_to_codes}},
      StageSpec{
          .key = "primary",
          .title = "Primary",
          .make = make_primary_stage,
          .about = "The winding that feeds the secondary, or stands where it would. Its shape, turns and height "
                   "set inductance "
                   "and coupling; too high a coupling flashes over, too low a one starves the coil. Drag the "
                   "handles, or enter "
                   "what you built.",
          .cautions =
              {"The primary is at tank voltage, and directly connected to it. Move the tap only with the supply "
               "unplugged and the tank shorted.",
               "A strike from the topload lifts the primary and everything wired to it to the topload's voltage.",
               defer_to_codes}},
      StageSpec{
          .key = "tank",
          .title = "Tank",
          .make = make_tank_stage,
          .about = "The capacitors across the primary. Build the bank unit by unit, or let it be found from your "
                   "shelf, and "
                   "see what each unit has to hold: volts, amperes, heat, and how long it stays charged.",
          .cautions =
              {"Tank capacitors hold a charge that can kill, and recharge themselves after a discharge (dielectric "
               "absorption).",
               "Wait the bleed time, short with a long insulated grounding stick, and leave the clip on.",
               "A capacitor beyond its rating can burst: eye protection, and a cover over the bank.",
               defer_to_codes},
          .group = "tank"},
      StageSpec{
          .key = "feed",
          .title = "Feed",
          .make = make_feed_stage,
          .about = "From the wall to the tank, block after block: fuse, variac, transformer, choke, rectifier. Set "
                   "what you "
                   "have in the order in which it is wired; the simulation shows what arrives, and what each part "
                   "has to bear.",
          .cautions =
              {"Mains wiring kills: unplug before touching, and leave the mains side to licensed practice.",
               "Reservoirs and doublers stay charged and recharge themselves: wait, short, leave the clip on.",
               "Cores of series oven transformers sit at half the output: insulate them and keep away.",
               "Rectified high voltage on a hard vacuum makes X-rays above some ten kilovolts.", defer_to_codes},
          .group = "feed"}};
}

std::vector<StageSpec> after_crafts() {
  return {
      StageSpec{
          .key = "tune",
          .title = "Tune",
          .make = make_tune_stage,
          .about =
              "What an instrument says against what is computed. Enter each measurement with how it was made; the "
              "resonance, the tap and the findings go by it from then on.",
          .cautions =
              {"Tuning by instrument: tank shorted out of the circuit, supply unplugged; the generator is the only "
               "source.",
               "Tuning by eye means runs at power: every step of Fire applies to each of them.",
               "Keep measuring instruments isolated from anything that may carry the tank's voltage.",
               defer_to_codes},
          .title_without_tank = "Measure"},
      StageSpec{
          .key = "fire",
          .title = "Fire",
          .make = make_fire_stage,
          .about = "Before power, at power, after power. Tick every check to arm, time the run, note what was "
                   "seen, and keep "
                   "it in the record, where two runs are compared and the best setting is found again.",
          .cautions = {
              "People and pets back; nobody with a pacemaker or other implant near; phones, watches and hearing "
              "aids "
              "away.",
              "High voltage, RF burns, fire, ozone and nitrogen oxides, ultraviolet, noise, interference with "
              "equipment "
              "nearby.",
              "One person on the switch, one hand behind the back. A fire extinguisher for electrical fires within "
              "reach.",
              "After: off, unplugged, wait the bleed time, short the tank, leave the clip on.", defer_to_codes}}};
}

std::vector<StageSpec> places() {
  return {
      StageSpec{.key = "start",
                .title = "Start",
                .make = make_start_stage,
                .about = "Where a design begins: a new coil of any kind, a file, a file that was open lately, or a "
                         "finished coil to look at.",
                .cautions = {"Every kind of coil here can kill, burn or start a fire; each says what it takes.",
                             defer_to_codes},
                .place = RailPlace::top,
                .shortcut = "Alt+0"},
      StageSpec{.key = "shelf",
                .title = "Shelf",
                .make = make_shelf_parts,
                .about = "What you have: wires, pipes, capacitors, transformers. Banks are found from it, and "
                         "remedies say whether it holds what they take.",
                .cautions = {"Used capacitors may be charged: short them before they are sorted.", defer_to_codes},
                .place = RailPlace::bottom,
                .shortcut = "Alt+S"},
      StageSpec{.key = "record",
                .title = "Record",
                .make = make_run_record,
                .about = "All runs that were logged: what was set, what was seen. Two runs are compared, the best "
                         "setting is found again.",
                .cautions = {"What a run withstood once it need not withstand again: look over the parts first.",
                             defer_to_codes},
                .place = RailPlace::bottom,
                .shortcut = "Alt+9"}};
}

} // namespace

std::span<const StageSpec> stages() {
  static const std::vector<StageSpec> all = [] {
    std::vector<StageSpec> out = before_crafts();
    for (const CraftWindow* craft : craft_windows()) std::ranges::copy(craft->stages(), std::back_inserter(out));
    std::ranges::copy(after_crafts(), std::back_inserter(out));
    std::ranges::copy(places(), std::back_inserter(out));
    return out;
  }();
  return all;
}

bool belongs_to(const StageSpec& stage, const arc::CoilKind& kind) {
  return stage.group.isEmpty() || std::ranges::count(kind.groups, stage.group.toStdString()) > 0;
}

QString title_of(const StageSpec& stage, const arc::CoilKind& kind) {
  return kind.tank || stage.title_without_tank.isEmpty() ? stage.title : stage.title_without_tank;
}

void StagePanel::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), workspace_.theme().card);
  painter.setPen(workspace_.theme().hairline);
  painter.drawLine(0, 0, width(), 0);
}

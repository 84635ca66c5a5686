// The table of stages.
#include "stages/stage.h"

#include <QPainter>
#include <algorithm>
#include <array>

std::span<const StageSpec> stages() {
  static const QString defer =
      "Local electrical codes and licensed practice come before anything said here. No step is ever called safe.";
  static const std::array<StageSpec, 12> table{{
      {"resonator",
       "Resonator",
       make_resonator_stage,
       "The secondary with its topload: what the whole coil is tuned to. Enter the form, the wire and the turns; "
       "every number and the drawing follow. The resonance on the ruler below is what all later stages aim at. "
       "Measured values replace computed ones on the measuring stage.",
       {"Keep every conductor outside of the form: a wire or bolt through the wall invites an arc down the middle "
        "that nobody sees.",
        "Varnish and solvents: ventilate, no flames.",
        "A running topload gives RF burns at a distance; it is never touched, nor approached.", defer}},
      {"primary",
       "Primary",
       make_primary_stage,
       "The winding that feeds the secondary, or stands where it would. Its shape, turns and height set inductance "
       "and coupling; too high a coupling flashes over, too low a one starves the coil. Drag the handles, or enter "
       "what you built.",
       {"The primary is at tank voltage, and directly connected to it. Move the clip only with the supply "
        "unplugged and the tank shorted.",
        "A strike from the topload lifts the primary and everything wired to it to the topload's voltage.", defer}},
      {"tank",
       "Tank",
       make_tank_stage,
       "The capacitors across the primary. Build the bank unit by unit, or let it be found from your shelf, and "
       "see what each unit has to hold: volts, amperes, heat, and how long it stays charged.",
       {"Tank capacitors hold a charge that can kill, and recharge themselves after a discharge (dielectric "
        "absorption).",
        "Wait the bleed time, short with a long insulated grounding stick, and leave the clip on.",
        "A capacitor beyond its rating can burst: eye protection, and a cover over the bank.", defer},
       "tank"},
      {"feed",
       "Feed",
       make_feed_stage,
       "From the wall to the tank, block after block: fuse, variac, transformer, choke, rectifier. Set what you "
       "have in the order in which it is wired; the simulation shows what arrives, and what each part has to bear.",
       {"Mains wiring kills: unplug before touching, and leave the mains side to licensed practice.",
        "Reservoirs and doublers stay charged and recharge themselves: wait, short, leave the clip on.",
        "Cores of series oven transformers sit at half the output: insulate them and keep away.",
        "Rectified high voltage on a hard vacuum makes X-rays above some ten kilovolts.", defer},
       "feed"},
      {"switch",
       "Switch",
       make_switch_stage,
       "The spark gap that empties the tank into the primary. Distances, rotor and rate decide when it fires and "
       "how often; the firing voltage is what everything before it must hold.",
       {"A spark gap is bright in the ultraviolet and loud: eye and ear protection, and a cover.",
        "It makes ozone and nitrogen oxides: ventilate.",
        "Electrodes stay hot, and the tank may be charged: adjust the gap only unplugged and shorted.",
        "A rotor can throw its electrodes: a guard around it, and never in line with it.", defer},
       "gap"},
      {"driver",
       "Driver",
       make_driver_stage,
       "The small transistor oscillator of a bench coil. Choose the arrangement, the transistor and the supply; "
       "heat and drive are simulated as the coil really runs.",
       {"The collector, its heat sink and the primary swing to many times the supply, at radio frequency: they "
        "burn "
        "at a touch.",
        "A transistor that is too hot fails within seconds and can burst: eye protection, and raise the supply "
        "slowly.",
        "The supply stands between the mains and your hands: use one that is isolated and limits its current.",
        defer},
       "exciter"},
      {"bridge",
       "Bridge",
       make_bridge_stage,
       "The half or full bridge and its switches, driven at the coil's own frequency. See current, switching "
       "instant and heat over a burst, and what dead time and phase lead do to them.",
       {"The bridge, its driver's far side and the primary hang on the mains: nothing of it is touched, nor "
        "connected to "
        "a grounded instrument.",
        "The reservoir kills and stays charged: unplug, wait the bleed time, measure it before a hand goes near.",
        "Switches that fail can burst: eye protection, and a cover over the bridge.",
        "First power from an isolated supply of 20 to 30 V with a current limit.", defer},
       "bridge"},
      {"gate",
       "Gate",
       make_gate_stage,
       "When the bridge runs: bursts, rate, or music. Limits of the switches and of the coil are drawn over what "
       "is asked, so that what really happens can be seen before power.",
       {"Longer bursts and higher rates heat switches faster than a sink shows: the junction is hot long before.",
        "The interrupter's lead is an antenna at the coil: fibre, or an opto-isolator with its own battery.",
        "Loud at high rates: ear protection, and neighbours.", defer},
       "bridge",
       {},
       "Gate (bridges"},
      {"oscillator",
       "Oscillator",
       make_oscillator_stage,
       "The tube, its tank, its feedback winding and its grid leak, drawn as they are wired. Whether it starts, "
       "what it draws and how hot the plate gets is simulated; the quick figures follow every drag.",
       {"Plate coil, tank, trap and the tube's cap are at kilovolts, direct and radio frequency together: they "
        "kill, "
        "and burn at a distance.",
        "Supply and protection capacitors stay charged: off, unplugged, short, leave the clip on.",
        "A tube that does not oscillate turns its input into heat within seconds: watch the plate, one hand on the "
        "switch.",
        "Glass under vacuum bursts inwards, and is hot: eye protection. Above some ten kilovolts it makes X-rays.",
        defer},
       "tube"},
      {"staccato",
       "Gate",
       make_staccato_stage,
       "The interrupter in the cathode's return: which mains cycles run, and for how long. What is asked and what "
       "the thyristor makes of it are drawn over the supply.",
       {"The thyristor and its gate float at the cathode: isolate the interrupter by fibre or opto-coupler for two "
        "to "
        "four kilovolts.",
        "The snubber's capacitor stays charged.",
        "Flashing light at a few times a second troubles some people: ask who watches.", defer},
       "feedback",
       {},
       "Gate (tube"},
      {"tune",
       "Tune",
       make_tune_stage,
       "What an instrument says against what is computed. Enter each measurement with how it was made; the "
       "resonance, the clip and the findings go by it from then on.",
       {"Tuning by instrument: tank shorted out of the circuit, supply unplugged; the generator is the only "
        "source.",
        "Tuning by eye means runs at power: every step of Fire applies to each of them.",
        "Keep measuring instruments isolated from anything that may carry the tank's voltage.", defer},
       {},
       "Measure"},
      {"fire",
       "Fire",
       make_fire_stage,
       "Before power, at power, after power. Tick every check to arm, time the run, note what was seen, and keep "
       "it in the record, where two runs are compared and the best setting is found again.",
       {"People and pets back; nobody with a pacemaker or other implant near; phones, watches and hearing aids "
        "away.",
        "High voltage, RF burns, fire, ozone and nitrogen oxides, ultraviolet, noise, interference with equipment "
        "nearby.",
        "One person on the switch, one hand behind the back. A fire extinguisher for electrical fires within "
        "reach.",
        "After: off, unplugged, wait the bleed time, short the tank, leave the clip on.", defer}},
  }};
  return table;
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

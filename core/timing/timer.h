// Timer circuits for an interrupter, with bipolar timers of the common type: parts from the E series, the range of
// each potentiometer, and bands. Formulas: the timer's data sheets, t = ln 2 R C between a third and two thirds of
// the supply, 1.1 R C for one shot (ln 3 = 1.0986); with a steering diode its drop is counted. E series: IEC 60063.
#pragma once

#include "quantity/quantity.h"

#include <string>
#include <vector>

namespace arc {

/// The value of the E12 or E24 series nearest to `value` (by ratio); any decade. `series` is 12 or 24.
double nearest_e_value(double value, int series);

/// Seconds high of an astable timer without a diode, ln 2 (Ra + Rb) C, and low, ln 2 Rb C.
double astable_high_s(double ra_ohm, double rb_ohm, double farad);
double astable_low_s(double rb_ohm, double farad);
/// With a diode that takes Rb out of charging: seconds high. `drop_v` of the diode, `supply_v` of the timer.
double steered_high_s(double ra_ohm, double farad, double drop_v, double supply_v);
/// One shot.
double one_shot_s(double ohm, double farad);

struct TimerRange {
  double low, high;
};

/// What the timer has to cover. The longest on-time and the highest rate are limits: no knob goes beyond them.
struct TimerTask {
  TimerRange on_s{20e-6, 300e-6};
  TimerRange rate_hz{20, 500};
  double supply_v = 12;
  double largest_duty = 1;                             // that may be; said where the knobs together go beyond it
  std::vector<double> capacitors_f{}, resistors_ohm{}; // on hand: taken where they serve
};

struct TimerPart {
  std::string name; // "R1"
  std::string what; // "resistor", "potentiometer, linear", …
  double value = 0; // SI; 0 for parts without
  Dimension dimension = Dimension::number;
  bool on_hand = false;
};

/// A circuit with its parts and what they give. Bands: parts of `tolerance` each, worst case.
struct TimerCircuit {
  std::string key, title;
  std::vector<TimerPart> parts;
  TimerRange on_s{}, rate_hz{};         // with the potentiometers at their ends
  TimerRange duty{};                    // least and largest that can be set
  double on_band = 0, rate_band = 0;    // relative half-widths
  std::string note;                     // where it falls short of the task; empty where it does not
  std::vector<std::string> connections; // "R1: supply to discharge (7)"
};

/// One timer as a clock, one as a one-shot that sets the on-time. Throws std::invalid_argument when a range is
/// empty or no usual part covers it.
TimerCircuit two_timers(const TimerTask& task);
/// One timer; a diode takes charging past the resistors of discharging: on-time and off-time apart.
TimerCircuit steered_timer(const TimerTask& task);

/// Name, what, value (SI) and its text, as CSV (RFC 4180).
std::string timer_parts_csv(const TimerCircuit& circuit);

} // namespace arc

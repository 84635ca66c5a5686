// The design document: plain values that describe one coil, its site, its tank and what was measured and logged.
// A Design can be copied, compared and edited freely; nothing here computes. File form: docs/file-format.md.
// Units are in the names; positions are heights above the floor unless a name says otherwise.
#pragma once

#include "model/devices.h"
#include "quantity/extras.h"
#include "quantity/shared_list.h"

#include <array>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace arc {

struct Site {
  double mains_voltage_v = 230;
  double mains_frequency_hz = 50;
  double air_temperature_c = 20;
  double air_pressure_hpa = 1013.25;
  std::optional<double> ceiling_height_m;
  std::optional<double> wall_distance_m;        // from the coil's axis
  double ground_resistance_ohm = 3;             // of the secondary's own ground, an assumption until measured
  std::vector<std::string> grounded_conductors; // "primary", "strike-ring"
  bool operator==(const Site&) const = default;
};

struct Secondary {
  double form_diameter_m = 0.11;
  double turns = 1000;
  double winding_length_m = 0.5;
  double wire_bare_diameter_m = 0.0004;
  double wire_overall_diameter_m = 0.00044;
  double base_height_m = 0.3;          // lowest turn above the floor
  std::optional<double> form_length_m; // whole pipe; margins are what the winding leaves
  bool operator==(const Secondary&) const = default;
};

/// One body of revolution of the topload. Which lengths count depends on `shape`: see parts/topload.h.
/// Numbers of an owner that nobody has typed, by their key, with the value that stands for them as an example. A
/// number that has another value by now has been given.
using Examples = std::map<std::string, double, std::less<>>;

struct ToploadPart {
  std::string shape = "toroid";
  double outer_diameter_m = 0;
  double tube_diameter_m = 0;
  double diameter_m = 0;
  double height_m = 0;
  double centre_above_winding_m = 0;
  std::vector<std::array<double, 2>> points_m; // radius, height above the winding's top
  Extras unknown;
  Examples examples{};
  bool operator==(const ToploadPart&) const = default;
};

enum class PrimaryShape { flat, helix, cone };

struct Primary {
  PrimaryShape shape = PrimaryShape::flat;
  double inner_radius_m = 0.1;
  double pitch_m = 0.012;
  double turns = 10;
  double conductor_diameter_m = 0.006;
  double base_height_m = 0.3;
  double cone_angle_deg = 0;
  double tap_turns = 8;
  double lead_inductance_h = 0;         // counts when the leads' own measures below are not given
  std::optional<double> lead_length_m;  // of the pair from primary to gap and tank, one way
  std::optional<double> lead_spacing_m; // between their centres
  bool operator==(const Primary&) const = default;
};

inline constexpr double usual_capacitor_tolerance = 0.1; // relative, when no marking says better (common practice)

/// What a capacitor's maker states beside value and voltage; whatever is not given is not assumed.
struct UnitRatings {
  std::optional<double> rms_current_a;
  std::optional<double> slope_v_per_s; // rated dV/dt
  std::optional<double> dissipation_factor;
  std::optional<double> esr_ohm;
  std::optional<double> thermal_k_per_w; // of one unit, to the air
  bool operator==(const UnitRatings&) const = default;
};

/// Equal capacitors of a mixed bank: `in_series` of them in each of `in_parallel` strings.
struct BankSection {
  std::string name;
  double capacitance_f = 1e-8;     // of one unit
  std::optional<double> voltage_v; // rated peak of one unit
  double in_series = 1;
  double in_parallel = 1;
  double tolerance = usual_capacitor_tolerance;
  bool back_to_back = false; // polarised units, each string half one way and half the other
  UnitRatings ratings;
  Extras unknown;
  Examples examples{};
  bool operator==(const BankSection&) const = default;
};

/// How a tank is given: one capacitance, identical units in series and parallel, or a mixed bank of sections.
enum class TankGiven { one_value, equal_units, mixed_bank };

/// What was typed for each way of giving a tank stays when another is chosen. See parts/bank.h: tank_given() says
/// which counts, bank_sections() makes one of all three.
struct Tank {
  double capacitance_f = 1e-8;                // of the whole tank, however it is given
  std::optional<TankGiven> given_as;          // absent: by what there is, sections before units before one value
  std::optional<double> single_capacitance_f; // typed as one value, kept while the tank is given otherwise
  std::optional<double> unit_capacitance_f;
  std::optional<double> unit_voltage_v;
  double units_in_series = 1;
  double units_in_parallel = 1;
  std::optional<double> unit_tolerance;
  UnitRatings unit_ratings;
  std::optional<double> bleed_resistance_ohm; // across each unit (across the whole tank when it is one value)
  SharedList<BankSection> sections;
  bool sections_in_series = false; // stacked instead of side by side between the rails
  bool operator==(const Tank&) const = default;
};

enum class ElectrodeShape { rounded, cylinders }; // spheres or rounded ends; pipes side by side

struct Gap {
  double firing_voltage_v = 14000;
  double break_rate_hz = 100;
  double gaps_in_series = 1;
  ElectrodeShape electrode_shape = ElectrodeShape::rounded;
  std::optional<double> spacing_m;            // of each gap
  std::optional<double> electrode_diameter_m; // of the rounded electrodes
  std::optional<double> rotary_electrodes;    // presentations each turn of the rotor
  std::optional<double> rotor_speed_hz;       // turns each second
  std::optional<double> rotor_phase_deg;      // given: locked to the mains, presents so long after its zero
  double rotor_radius_m = 0.08;               // circle on which the electrodes run
  double rotor_clearance_m = 0.0008;          // between electrodes that face each other
  std::optional<double> arc_drop_v;         // burning voltage of each gap; absent: by its spacing, see parts/gap.h
  std::optional<double> arc_resistance_ohm; // of the whole gap while it conducts, beside it; absent: none
  bool operator==(const Gap&) const = default;
};

/// A single-transistor exciter: what drives the resonator by the current of its foot. See crafts/exciter/.
struct Exciter {
  double supply_voltage_v = 12;
  std::optional<double> supply_limit_a; // the supply gives no more on average
  double bias_resistance_ohm = 27e3;
  Transistor transistor;
  Clamp clamp = Clamp::led;
  ClampDiode clamp_diode;
  double base_stray_f = 2e-12;        // wiring at the base
  double collector_stray_f = 40e-12;  // wiring and primary at the collector
  bool primary_reversed = false;      // its ends swapped: the feedback then brakes
  std::optional<double> sink_k_per_w; // of the heat sink in still air; absent: no sink
  double sink_capacity_j_per_k = 90;  // 100 g of aluminium
  bool fan = false;
  bool operator==(const Exciter&) const = default;
};

/// How the primary's other end returns: between two capacitors across the bus, to ground through a blocking
/// capacitor, or to a second leg.
enum class BridgeLegs { half_split, half_blocking, full };
/// Where the driver hears the coil.
enum class Feedback { antenna, foot_transformer, primary_transformer, fixed };
/// What the over-current limit does.
enum class BridgeStart { first_pulse, noise }; // what rings the coil first
enum class LimitAction { end_burst, skip_cycles };

/// A half or full bridge with the chain that drives its gates. See crafts/bridges/.
struct Bridge {
  BridgeLegs legs = BridgeLegs::half_split;
  double split_capacitance_f = 1e-6;    // of each of the two
  double blocking_capacitance_f = 2e-6; // in the primary's lead
  std::optional<double> bus_voltage_v;  // as measured; absent: rectified mains
  bool doubled = false;                 // the rectifier is a voltage doubler
  double reservoir_f = 820e-6;
  double bleed_resistance_ohm = 33e3; // across it; 0: none
  BridgeSwitch device;
  // drive
  Feedback feedback = Feedback::antenna;
  bool reversed = false; // the primary's or one gate winding's ends swapped
  double fixed_frequency_hz = 200e3;
  double squarer_delay_s = 30e-9, logic_delay_s = 40e-9, driver_delay_s = 60e-9, gate_delay_s = 70e-9;
  double lead_s = 0; // by which a network at the input is ahead
  double dead_time_s = 150e-9;
  BridgeStart start = BridgeStart::first_pulse;
  double kick_s = 1e-6;
  double noise_a = 100e-6; // at its input, as amperes of what it hears
  double blanking_s = 0;   // after an edge the squarer hears nothing for so long
  double hysteresis_a = 0; // of the squarer, as amperes of the current it hears
  double gate_resistance_ohm = 4.7;
  double driver_resistance_ohm = 1.5; // of the driver's output, both of its ends (common practice)
  double stray_h = 40e-9;             // of the loop of bus, switch and return, that a turn-off rings with
  double driver_supply_v = 12;
  double driver_slowest_s = 1.25e-6; // half period below which the chain drops out
  // gate transformer
  double gate_primary_turns = 8, gate_secondary_turns = 12;
  double gate_core_area_mm2 = 60;
  double gate_core_limit_t = 0.2;
  double gate_core_al_h = 3e-6;   // inductance of one turn, A_L
  double gate_leakage_h = 150e-9; // seen at the gate
  // antenna and current transformer
  double antenna_length_m = 0.2, antenna_distance_m = 1;               // from the topload's axis
  double input_f = 100e-12, input_threshold_v = 1, input_limit_v = 15; // of the squarer, with its clamp's volts
  double transformer_turns = 50, burden_ohm = 100, burden_rating_w = 2;
  double transformer_area_mm2 = 60, transformer_limit_t = 0.2, transformer_al_h = 3e-6; // its core
  // over-current
  std::optional<double> current_limit_a;
  double limit_delay_s = 200e-9;
  LimitAction limit_action = LimitAction::end_burst;
  double snubber_f = 0, snubber_ohm = 10, snubber_rating_w = 2; // in series across each switch; 0: none
  std::optional<double> capacitor_rating_a; // effective, of each split or of the blocking capacitor
  double sink_k_per_w = 0.8;                // shared by all switches
  double sink_capacity_j_per_k = 300;
  bool operator==(const Bridge&) const = default;
};

enum class OscillatorCircuit { armstrong, hartley };
/// When arcs load the top: from the first breakout on, always, never.
enum class ArcLoad { from_breakout, always, never };

/// The winding that drives the grid: a helix below or above the plate coil, on the same axis. In a Hartley circuit
/// it carries the plate coil on beyond its tap.
struct FeedbackWinding {
  double turns = 12;
  double radius_m = 0.0575; // of its turns, to the wire's middle
  double pitch_m = 0.002;
  double conductor_diameter_m = 0.0015;
  double gap_m = 0.012; // between it and the plate coil, wire to wire
  bool above = false;   // of the plate coil; below is the default: fewer flash-overs to the secondary
  bool operator==(const FeedbackWinding&) const = default;
};

/// What lights the filament.
struct FilamentSupply {
  std::optional<double> open_v; // of its transformer's winding, loaded with the filament alone
  double series_h = 0;          // an inductor that brings it down; 0: none
  double wiring_ohm = 0.005;    // to the socket and back
  // Turns of a trial winding on its core, and what it gave; absent until one was wound.
  std::optional<double> trial_turns, trial_v;
  double soft_ohm = 0;           // in series while it warms; 0: none
  double soft_s = 10;            // until a switch bridges it
  double cold_ratio = 0.12;      // resistance of the filament cold over hot
  double decoupling_f = 0.01e-6; // from each leg to ground; 0: none
  bool operator==(const FilamentSupply&) const = default;
};

/// A vacuum-tube oscillator with what starts, loads and interrupts it. See crafts/tubes/.
struct TubeOscillator {
  OscillatorCircuit circuit = OscillatorCircuit::armstrong;
  bool reversed = false; // the feedback winding's ends swapped
  Tube tube;
  bool push_pull = false; // as many tubes again at the plate coil's other end, supply and leak at the middles
  double in_parallel = 1; // side by side; in push-pull on each side
  double sharing = 0.15;  // by which tubes share unevenly, either way
  double grid_leak_ohm = 1000, grid_leak_f = 2.2e-9;
  double grid_leak_rating_w = 100;
  double grid_stopper_ohm = 0;
  double lamp_cold_ohm = 0, lamp_hot_ohm = 0, lamp_a = 0.5; // in series with the feedback; 0 ohm: none
  double trap_ohm = 50, trap_h = 1e-6;                      // in the plate lead, side by side; 0 ohm: none
  double bypass_f = 4.7e-9;                                 // from the supply's end to ground
  std::optional<double> supply_voltage_v;                   // direct current; absent: what the feed gives
  double supply_rise_s = 2e-6;
  double noise_a = 100e-6, noise_hz = 350e3; // at the plate: what a swinging supply starts it from
  ArcLoad arc = ArcLoad::from_breakout;
  // staccato: a thyristor between cathode and ground
  bool staccato = false;
  double thyristor_on_ohm = 1, thyristor_off_ohm = 5e6;
  double thyristor_hold_a = 0.02, thyristor_off_s = 20e-6;
  double thyristor_voltage_v = 1200, thyristor_current_a = 16;
  double snubber_ohm = 47, snubber_f = 22e-9; // across it
  FilamentSupply filament;
  bool operator==(const TubeOscillator&) const = default;
};

enum class FlameForm { ceramic, plastic, air };

/// A flame coil: what it has beside tube and coils. See crafts/tubes/.
struct FlameCoil {
  double feedback_f = 0.3e-12;        // between the hot end's plate and the grid
  std::optional<double> plate_self_f; // of the plate coil; absent: by its size
  double grid_resistor_ohm = 10e3;
  double grid_resistor_rating_w = 100;
  std::optional<double> supply_voltage_v;      // direct current; absent: what the feed gives
  double flame_ohm = 200e3, flame_f = 0.3e-12; // the flame as a resistor behind a capacitance
  FlameForm form = FlameForm::ceramic;         // what the resonator is wound on
  bool operator==(const FlameCoil&) const = default;
};

/// Bursts of a drive, and the limits that they keep.
struct Interrupter {
  double rate_hz = 120;
  double on_time_s = 120e-6;
  bool locked = false;    // to the mains
  double phase_deg = 0;   // of the mains wave, where a locked burst begins
  double every_cycle = 1; // of the mains, when locked: one burst each so many cycles
  double longest_on_s = 300e-6, largest_duty = 0.1, highest_rate_hz = 500, least_off_s = 500e-6;
  std::optional<double> largest_energy_j; // of one burst
  bool operator==(const Interrupter&) const = default;
};

/// What an instrument said of the coil as a circuit. Whatever is given stands in for what the geometry gives, in
/// every simulation.
struct Equivalent {
  std::optional<double> primary_inductance_h; // at the clip, without leads
  std::optional<double> primary_resistance_ohm;
  std::optional<double> coupling;
  std::optional<double> secondary_inductance_h;  // of the one circuit that stands for the resonator
  std::optional<double> secondary_capacitance_f; //
  std::optional<double> secondary_resistance_ohm;
  std::optional<double> breakout_voltage_v{}; // at the top
  std::optional<double> streamer_capacitance_f{}, streamer_resistance_ohm{};
  // the feedback winding of a tube oscillator, and its coupling with plate coil and resonator
  std::optional<double> feedback_inductance_h{}, feedback_resistance_ohm{};
  std::optional<double> feedback_coupling{}, feedback_secondary_coupling{};
  // a level-shifted supply as seen from the coil: volts (RMS) and inductance of its winding, and the rest
  std::optional<double> supply_emf_v{}, supply_inductance_h{}, supply_resistance_ohm{};
  std::optional<double> shifter_capacitance_f{}, diode_on_ohm{}, diode_off_ohm{};
  bool operator==(const Equivalent&) const = default;
};

/// One value read from an instrument; which of the numbers count depends on `kind`, see evidence/tuning.h.
struct Measurement {
  std::string kind = "coil-with-topload";
  double frequency_hz = 0;
  double inductance_h = 0;
  double quality_factor = 0;
  double tap_turns = 0;     // of a tank measurement
  double capacitance_f = 0; // known capacitor between the top and ground
  double resistance_ohm = 0;
  double temperature_c = 20; // of the wire, while its resistance is read
  double mass_kg = 0;
  double current_a = 0; // RMS
  double voltage_v = 0; // RMS, applied while the current is read
  std::string note;
  Extras unknown;
  bool operator==(const Measurement&) const = default;
};

/// One logged run: numbers by key (see workshop/runs.h), conditions copied when it was fired, observations typed.
struct Design;

/// A design beside the present one, that a run was fired with or a variant holds: never changed, and shared by all
/// that have it. It has no runs, no kept toploads, no variants and no designs of its own.
class KeptDesign {
 public:
  KeptDesign() = default;
  /// Of a run, which is fired with numbers: its examples count as given.
  explicit KeptDesign(const Design& design);
  /// Its examples stay what they are.
  static KeptDesign as_it_is(Design design);
  const Design* get() const { return design_.get(); } // null: none
  bool operator==(const KeptDesign& other) const;

 private:
  std::shared_ptr<const Design> design_;
};

struct Run {
  std::string id;   // 12 hexadecimal digits, the first a letter; empty in records of earlier versions
  std::string when; // local time, ISO 8601
  std::map<std::string, double> conditions;
  std::map<std::string, double> observations;
  std::string notes;
  std::string failed;                         // what tripped or died, empty when nothing
  std::string open_stops;                     // findings that forbade to arm when it was fired or logged
  std::string armed_despite;                  // those when it was armed, and the builder's reason; empty when none
  std::map<std::string, std::string> columns; // the builder's own, of a table that was read in
  KeptDesign fired_with;
  Extras unknown;
  bool operator==(const Run&) const = default;
};

/// One block of the power path from the wall to the tank; its numbers by key, see circuit/feed.h.
struct FeedBlock {
  std::string kind;
  std::map<std::string, double> values;
  Extras unknown;
  Examples examples{};
  bool operator==(const FeedBlock&) const = default;
};

/// What decides where and when the topload breaks out.
struct BreakoutSurface {
  double roughness = 0.85; // 1 polished, 0.7 rough foil or ducting (common practice)
  std::optional<double> point_length_m;
  std::optional<double> point_tip_radius_m;
  bool operator==(const BreakoutSurface&) const = default;
};

/// A topload kept beside the present one, to be compared with it on the same coil.
inline constexpr std::size_t most_topload_variants = 3;
struct ToploadVariant {
  std::string name;
  SharedList<ToploadPart> parts;
  Extras unknown;
  bool operator==(const ToploadVariant&) const = default;
};

/// A whole design kept beside the present one, to be compared with it, or to take its place.
inline constexpr std::size_t most_variants = 24;
struct DesignVariant {
  std::string name;
  KeptDesign design; // never empty
  Extras unknown;
  bool operator==(const DesignVariant&) const = default;
};

/// A warning or note that the builder has read and put away, with why; see craft/dismissed.h.
struct Dismissed {
  std::string id;    // of the finding
  std::string field; // that it is on
  double value = 0;  // as it was then
  double limit = 0;
  std::string reason;
  std::string when; // local time, ISO 8601
  Extras unknown;
  bool operator==(const Dismissed&) const = default;
};

/// A stage that the builder has gone through and found right; it falls when an input of the stage changes.
struct Confirmed {
  std::string stage;
  std::string when;   // local time, ISO 8601
  std::string inputs; // of the stage, as they were: file/stage_inputs.h
  Extras unknown;
  bool operator==(const Confirmed&) const = default;
};

/// Builders differ on what the tank is matched to; the silent coil is the default because it can be measured.
enum class TuneTarget { silent_coil, loaded_coil };

struct Design {
  std::string name = "Untitled coil";
  std::string kind = "spark-gap";
  Site site;
  Secondary secondary;
  SharedList<ToploadPart> topload;
  SharedList<ToploadVariant> topload_variants;
  Primary primary;
  Tank tank;
  SharedList<FeedBlock> feed; // in order from the wall
  Gap gap;
  Exciter exciter;
  Bridge bridge;
  FeedbackWinding feedback;
  TubeOscillator tube;
  FlameCoil flame;
  Interrupter interrupter;
  Equivalent equivalent;
  BreakoutSurface breakout;
  std::map<std::string, double> tolerances; // by input (see evidence/tolerance.h); absent: the default of its kind
  TuneTarget tune_target = TuneTarget::silent_coil;
  SharedList<Measurement> measurements;
  SharedList<Run> runs;
  SharedList<DesignVariant> variants;
  SharedList<Dismissed> dismissed;
  SharedList<Confirmed> confirmed;
  /// Numbers of crafts whose groups have no member here, by the key of their row (model/field_rows.h).
  std::map<std::string, double, std::less<>> own;
  /// Keys of the fields that a design needs somewhere and that nobody has given yet: a secondary alone is a design.
  /// The members behind them hold stand-ins that nothing computes with.
  std::set<std::string, std::less<>> absent;
  /// Of the numbers in the table of fields; toploads, sections and blocks of the feed hold their own.
  Examples examples;
  Extras unknown; // keys of the file that this version does not know, kept for writing
  bool operator==(const Design&) const = default;
};

} // namespace arc

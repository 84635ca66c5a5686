// A tube oscillator as a SPICE deck in the common dialect.
#include "circuit/deck.h"
#include "crafts/tubes/tube_run.h"
#include "laws/circuit.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace arc {
namespace {

// What is measured: names of this program's results, over the same stretch of time.
struct Measured {
  const char* name;
  const char* how; // "avg v(...)"
};

// Writes the deck of a network with tubes, step by step.
class TubeDeck {
 public:
  TubeDeck(const TubeCircuit& circuit, const TubeOptions& how, const TubeResult& run, const std::string& title)
      : c(circuit), options(how), result(run), parts(tube_network(circuit)), n(parts.network),
        deck(deck_title(title, "vacuum-tube oscillator")) {}

  std::string written() {
    write_supply();
    write_tubes();
    write_arc();
    write_thyristor();
    write_readings();
    write_measurements();
    line(".end");
    return deck;
  }

 private:
  template <typename... T>
  void line(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  }
  static std::string node(Node i) { return fmt::format("n{}", i); }

  void write_supply() {
    const Network::Source& source = n.sources.front();
    if (c.direct_v)
      line("Vsupply n{} n{} pwl(0 0 {:.8g} {:.8g})", source.a, source.b, c.rise_s, *c.direct_v);
    else
      line("Vmains n{} n{} sin({:.10g} {:.10g} {:.8g} 0 0 {:.6g})", source.a, source.b, source.dc_v,
           source.amplitude_v, n.source_hz, parts.start_deg);
    line("Vzero n0 0 0");
    deck += deck_parts(n, {}, {});
  }

  void write_tubes() {
    const std::string k = node(parts.cathode);
    for (std::size_t i = 0; i < parts.tubes.size(); ++i) {
      const std::string own = i > 0 ? std::to_string(i + 1) : "";
      const std::string plate = node(parts.tubes[i].plate), grid = node(parts.tubes[i].grid);
      line("Bgrid{3} {0} gk{3} I={1:.8g}*pwr(max(0,v({0},{2})),1.5)", grid, c.law.grid_perveance, k, own);
      line("Vgrid{1} gk{1} {0} 0", k, own);
      line("Bplate{7} {0} ak{7} I=v({0},{1})>0 ? "
           "max(0,{2:.8g}*pwr(max(0,v({3},{1})+{6:.8g}+v({0},{1})/{4:.8g}),1.5)-i(Vgrid{7}))*v({0},{1})/"
           "(v({0},{1})+{5:.8g}) : 0",
           plate, k, c.law.perveance, grid, c.law.mu, c.law.knee_v, c.law.offset_v, own);
      line("Vplate{1} ak{1} {0} 0", k, own);
      const std::string amps = fmt::format("i(Vplate{0})+i(Vgrid{0})", own);
      heat += fmt::format("{}v({},{})*i(Vplate{})", i > 0 ? "+" : "", plate, k, own);
      grid_amps += fmt::format("{}i(Vgrid{})", i > 0 ? "+" : "", own);
      cathode = i > 0 ? fmt::format("max({},{})", cathode, amps) : amps;
    }
    if (c.noise_a > 0 && !c.direct_v)
      line("Inoise 0 {} sin(0 {:.8g} {:.8g})", node(parts.tubes.front().plate), c.noise_a, c.noise_hz);
  }

  void write_arc() {
    if (parts.arc) {
      const Network::Switch& s = n.switches[*parts.arc];
      if (s.on)
        line("Rarc n{} n{} {:.8g}", s.a, s.b, s.on_ohm);
      else {
        line("Bbreaks breaks 0 V=abs(v(n{}))/{:.8g}", s.a, c.breakout_v > 0 ? c.breakout_v : 1e9);
        line("Sarc n{} arcjoint breaks 0 arcswitch off", s.a);
        line(".model arcswitch sw(vt=0 vh=1 ron=1 roff=1e12)");
        line("Rarc arcjoint n{} {:.8g}", s.b, s.on_ohm);
      }
    }
  }

  void write_thyristor() {
    if (parts.thyristor) {
      const Staccato& s = *c.staccato;
      const double period_s = s.period_s > 1e6 ? 1e6 : s.period_s;
      line("Vthyristor {} thyristor 0", node(parts.cathode));
      line("Sthyristor thyristor 0 fires 0 thyristorswitch off");
      line(".model thyristorswitch sw(vt=1 vh=0.5 ron={:.8g} roff={:.8g})", s.on_ohm, s.off_ohm);
      line("Fmean 0 mean Vthyristor 1");
      line("Rmean mean 0 1");
      line("Cmean mean 0 {:.8g} ic=0", s.off_s);
      line("Vgate gate 0 pulse(0 1 {:.9g} 1e-7 1e-7 {:.9g} {:.9g})", s.first_s, s.gate_s, period_s);
      line("Bfires fires 0 V=3*v(gate)+max(-0.4,min(1.4,0.5*v(mean)/{:.8g}))", s.hold_a);
    }
  }

  // Loss resistors stand at their coil's far end: to ground, or to the plate coil.
  std::string what_is_lost() const {
    std::string lost;
    for (std::size_t i = 0; i < parts.mode_coils.size(); ++i) {
      const Node foot = n.inductors[parts.mode_coils[i]].b;
      const auto loss = std::ranges::find(n.resistors, foot, &Network::Resistor::a);
      lost += fmt::format("{0}v(n{1},n{2})*v(n{1},n{2})/{3:.10g}", i ? "+" : "", loss->a, loss->b, loss->ohm);
    }
    if (parts.arc) {
      const Network::Switch& s = n.switches[*parts.arc];
      const std::string across = s.on ? fmt::format("v(n{},n{})", s.a, s.b) : fmt::format("v(arcjoint,n{})", s.b);
      lost += fmt::format("+{0}*{0}/{1:.10g}", across, s.on_ohm);
    }
    return lost;
  }

  void write_readings() {
    std::string top;
    for (std::size_t i = 0; i < parts.mode_caps.size(); ++i)
      top +=
          fmt::format("{}{:.10g}*v(n{})", i ? "+" : "", c.modes[i].top_per_v, n.capacitors[parts.mode_caps[i]].a);
    line("Btop top 0 V={}", top);
    line("Btopabs topabs 0 V=abs(v(top))");
    line("Bswing swing 0 V=v(top)-{}*v(n{})", c.wiring == TubeWiring::flame ? 1 : 0, parts.rail);
    line("Bheat heat 0 V={}", heat);
    line("Binput input 0 V=v(n{0})*(v(n{0})-v(n{1}))/{2}", parts.rail, parts.coil, rail_ohm);
    line("Bcathode cathode 0 V={}", cathode);
    line("Bgridamps gridamps 0 V={}", grid_amps);
    line("Bbias bias 0 V=v({},{})", node(parts.tubes.front().grid), node(parts.cathode));
    line("Blost lost 0 V={}", what_is_lost());
    saved = "v(top) v(swing) v(topabs) v(heat) v(input) v(cathode) v(bias) v(lost) v(gridamps)";
    if (parts.line_per_a > 0) {
      const Network::Resistor& r = n.resistors[parts.source_resistor];
      line("Bline line 0 V=(v(n{})-v(n{}))/{:.10g}", r.a, r.b, r.ohm / parts.line_per_a);
      saved += " v(line)";
    }
  }

  void write_measurements() {
    const double hz = result.frequency_hz > 0
                          ? result.frequency_hz
                          : resonance_hz(c.modes.front().inductance_h, c.modes.front().capacitance_f);
    const double step_s = options.mains ? 1 / (hz * 80) : 1 / (hz * 600);
    line(".options method=trap reltol=1e-5 abstol=1e-7 vntol=1e-4 chgtol=1e-14 trtol=7 itl4=100");
    line(".save {}", saved);
    line(".tran {:.6g} {:.9g} {:.9g} {:.6g} uic", step_s, result.to_s, options.mains ? result.from_s : 0.0, step_s);
    constexpr Measured measured[] = {{"plate_input_w", "avg v(input)"},     {"plate_dissipation_w", "avg v(heat)"},
                                     {"grid_average_a", "avg v(gridamps)"}, {"grid_bias_v", "avg v(bias)"},
                                     {"cathode_peak_a", "max v(cathode)"},  {"top_peak_v", "max v(topabs)"},
                                     {"secondary_power_w", "avg v(lost)"}};
    for (const Measured& m : measured)
      line(".meas tran {} {} from={:.10g} to={:.10g}", m.name, m.how, result.from_s, result.to_s);
    if (parts.line_per_a > 0)
      line(".meas tran line_rms_a rms v(line) from={:.10g} to={:.10g}", result.from_s, result.to_s);
    if (result.oscillates) {
      const double from_s = options.mains ? std::max(result.from_s, result.crest_s - 10 / hz) : result.from_s;
      line(".meas tran ten_cycles trig v(swing) val=0 rise=1 td={0:.10g} targ v(swing) val=0 rise=11 td={0:.10g}",
           from_s);
      line(".meas tran frequency_hz param='10/ten_cycles'");
    }
  }

  const TubeCircuit& c;
  const TubeOptions& options;
  const TubeResult& result;
  TubeNetwork parts;
  Network& n;
  std::string deck, saved;
  std::string heat, grid_amps, cathode; // of all tubes; the greatest
};

} // namespace

std::string tube_netlist(const TubeCircuit& circuit, const TubeOptions& options, const TubeResult& result,
                         const std::string& title) {
  TubeCircuit c = circuit;
  if (!options.mains || c.direct_v) {
    c.direct_v = crest_supply_v(circuit);
    if (!(c.rise_s > 0)) c.rise_s = 2e-6;
    if (!options.mains) c.staccato.reset();
  }
  return TubeDeck(c, options, result, title).written();
}

} // namespace arc

// The exciter as a SPICE deck in the common dialect. A PNP is written as its mirror image, an NPN: volts and
// amperes are then magnitudes, as everywhere here.
#include "circuit/deck.h"
#include "crafts/exciter/oscillation.h"

#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

void write_transistor(const Transistor& t, const auto& line) {
  if (t.type != TransistorType::mos) {
    line("Q1 c b 0 qn");
    line(".model qn npn(is={:.8g} bf={:.8g} br={:.8g} rb={:.8g} cje={:.8g} vje=0.75 mje=0.33 cjc={:.8g} vjc=0.75 "
         "mjc=0.33 fc=0.5 tf={:.8g} tr={:.8g})",
         t.saturation_current_a, t.forward_gain, t.reverse_gain, t.base_resistance_ohm, t.emitter_junction_f,
         t.collector_junction_f, t.transit_time_s, t.reverse_transit_time_s);
    return;
  }
  line("Rgate b g {:.8g}", t.base_resistance_ohm);
  line("M1 c g 0 0 mn w=1 l=1");
  line(".model mn nmos(level=1 vto={:.8g} kp={:.8g})", t.threshold_v, t.transconductance_a_per_v2);
  line("Cgs g 0 {:.8g} ic=0", t.gate_source_f);
  line("Cgd g c {:.8g} ic=0", t.gate_drain_f);
  line("Cds c 0 {:.8g} ic=0", t.drain_source_f);
  line("Dbody 0 c dbody");
  line(".model dbody d(is=1e-12 n=1)");
}

} // namespace

std::string oscillation_netlist(const ExciterCircuit& c, const OscillationResult& result,
                                const std::string& title) {
  std::string deck = deck_title(title, "single-transistor exciter");
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  line(".options method=gear reltol=1e-4 abstol=1e-10 vntol=1e-7 chgtol=1e-16 itl4=200 temp=27 tnom=27");
  line("Vsupply s 0 {:.8g}", result.supply_v > 0 ? result.supply_v : c.supply_v);
  // The dot stands at the supply's end; connected the wrong way round, at the collector's.
  line("Lprim {} {:.12g} ic=0", c.mutual_h >= 0 ? "s x" : "x s", c.primary_h);
  line("Vip x x1 0");
  line("Rprim x1 c {:.8g}", std::max(c.primary_ohm, 1e-6));
  line("Cout c 0 {:.8g} ic=0", c.collector_stray_f);
  line("Vib bx b 0");
  write_transistor(c.transistor, line);
  if (c.clamp) {
    line("Dclamp 0 bx dclamp");
    const std::string breakdown =
        c.clamp->breakdown_v ? fmt::format(" bv={:.8g} ibv=1e-3", *c.clamp->breakdown_v) : "";
    line(".model dclamp d(is={:.8g} n={:.8g} cjo={:.8g} vj=1 m=0.5 fc=0.5 tt={:.8g}{})",
         c.clamp->saturation_current_a, c.clamp->emission, c.clamp->capacitance_f, c.clamp->transit_time_s,
         breakdown);
  }
  line("Cbase bx 0 {:.8g} ic=0", c.base_stray_f);
  line("Rbias s bx {:.8g}", c.bias_ohm);
  line("Vis bx s0 0");
  line("Rsec s0 s1 {:.8g}", c.secondary_ohm);
  line("Lsec s1 top {:.12g} ic=0", c.secondary_h);
  line("Ctop top 0 {:.12g} ic=0", c.secondary_f);
  line("K1 Lprim Lsec {:.12g}", std::abs(c.mutual_h) / std::sqrt(c.primary_h * c.secondary_h));
  line("Btop topabs 0 V=abs(v(top))");
  line("Bheat heat 0 V=v(c)*i(Vip)+v(bx)*i(Vib)");
  const double hz = result.oscillates ? result.frequency_hz : result.natural_hz;
  const double quality = 2 * 3.141592653589793 * hz * c.secondary_h / c.secondary_ohm;
  const double settled = std::max(result.start_s, std::max(130.0, 2 * quality) / hz);
  const double end = settled + 40 / hz, step = 1 / (hz * 400);
  line(".save v(c) v(bx) v(top) v(topabs) v(heat) i(Vip) i(Vis) i(Vib)");
  line(".tran {:.8g} {:.8g} 0 {:.8g} uic", step, end, step);
  line(".meas tran ten_cycles trig i(Vis) val=0 rise=1 td={0:.8g} targ i(Vis) val=0 rise=11 td={0:.8g}", settled);
  line(".meas tran frequency_hz param='10/ten_cycles'");
  line(".meas tran collector_average_a avg i(Vip) from={:.8g} to={:.8g}", settled, settled + 36 / hz);
  line(".meas tran collector_peak_a max i(Vip) from={:.8g} to={:.8g}", settled, settled + 36 / hz);
  line(".meas tran top_peak_v max v(topabs) from={:.8g} to={:.8g}", settled, settled + 36 / hz);
  line(".meas tran dissipation_w avg v(heat) from={:.8g} to={:.8g}", settled, settled + 36 / hz);
  line(".end");
  return deck;
}

} // namespace arc

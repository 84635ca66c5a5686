// The burst as a SPICE deck: the drive in the digital models of the common dialect, so that the deck finds its own
// frequency.
#include "circuit/deck.h"
#include "crafts/bridges/burst.h"
#include "quantity/matrix.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace arc {
namespace {

constexpr double start_s = 1e-6;        // of the burst: everything is quiet before
constexpr double model_delay_s = 1e-12; // the digital models take no delay of zero

// One switch between two nodes, opened and closed by `gate`; its current is that of its sense source.
void write_switch(Deck& line, const BridgeSwitch& s, const char* name, const char* from, const char* to,
                  const char* gate, double start_v) {
  line("V{0} {1} s{0} 0", name, from);
  if (s.type == SwitchType::mos)
    line("S{0} s{0} {1} {2} 0 swm", name, to, gate);
  else
    line("B{0}c s{0} {1} I = V({2})>0.5 ? (V(s{0},{1})>{3:.8g} ? (V(s{0},{1})-{3:.8g})/{4:.8g} : 0) : 0", name, to,
         gate, s.knee_v, s.slope_ohm);
  line("R{0} s{0} {1} {2:.8g}", name, to, 1 / std::max(s.leak_s, 1e-12));
  line("B{0}d {1} s{0} I = V({1},s{0})>{2:.8g} ? (V({1},s{0})-{2:.8g})/{3:.8g} : 0", name, to, s.diode_knee_v,
       s.diode_slope_ohm);
  line("C{0} s{0} {1} {2:.10g} ic={3:.8g}", name, to, s.output_f, start_v);
}

void write_bridge(Deck& line, const BurstCircuit& c) {
  const double half = c.bus_v / 2;
  line("Cres b 0 {:.10g} ic={:.10g}", c.reservoir_f, c.bus_v);
  if (c.device.type == SwitchType::mos) line(".model swm sw(vt=0.5 vh=0 ron={:.8g} roff=1e12)", c.device.on_ohm);
  write_switch(line, c.device, "h1", "b", "a", "gh", half);
  write_switch(line, c.device, "l1", "a", "0", "gl", half);
  if (c.full) {
    write_switch(line, c.device, "h2", "b", "c", "gl", half);
    write_switch(line, c.device, "l2", "c", "0", "gh", half);
  } else if (c.split_f) {
    line("Csp1 b c {:.10g} ic={:.8g}", *c.split_f, half);
    line("Csp2 c 0 {:.10g} ic={:.8g}", *c.split_f, half);
  } else {
    line("Vc c 0 0");
  }
}

void write_coil(Deck& line, const BurstCircuit& c) {
  line("Vip a a1 0");
  line("Rp a1 x1 {:.8g}", std::max(c.primary_ohm, 1e-6));
  if (c.series_f)
    line("Cx x1 x2 {:.12g} ic={:.8g}", *c.series_f, c.series_start_v);
  else
    line("Vx x1 x2 0");
  const bool primary_rings = c.signal == BurstSignal::primary;
  line("Lp x2 c {:.12g} ic={:.6g}", c.primary_h, primary_rings ? c.noise_a : 0);
  std::string top, foot;
  for (std::size_t k = 0; k < c.modes.size(); ++k) {
    const WindingMode& m = c.modes[k];
    line("Vis{0} 0 f{0} 0", k);
    line("Rs{0} f{0} g{0} {1:.10g}", k, std::max(m.resistance_ohm, 1e-6));
    line("Ls{0} g{0} t{0} {1:.12g} ic={2:.6g}", k, m.inductance_h, k == 0 && !primary_rings ? c.noise_a : 0);
    line("K{0} Lp Ls{0} {1:.12g}", k, m.mutual_h / std::sqrt(c.primary_h * m.inductance_h));
    line("Cs{0} t{0} 0 {1:.12g} ic=0", k, m.capacitance_f);
    top += fmt::format("{}{:.12g}*v(t{})", k ? "+" : "", m.top_per_v, k);
    foot += fmt::format("{}i(Vis{})", k ? "+" : "", k);
  }
  line("Btop top 0 V = {}", top);
  line("Bfoot foot 0 V = {}", foot);
  if (!(c.breakout_v > 0) || !(c.streamer_f > 0)) return;
  line("Bbr br 0 V = abs(v(top))/{:.10g} - 0.5", c.breakout_v);
  line("Abr [br] [brd] adc0");
  line("Ajn one brd zer zer jn nulljn dffm");
  line("Ajd [jn] [jna] dac0");
  line("Sj top st1 jna 0 swj");
  line(".model swj sw(vt=0.5 vh=0 ron=1 roff=1e13)");
  line("Vst st1 st2 0");
  line("Rst st2 st {:.8g}", c.streamer_ohm);
  line("Cst st 0 {:.10g} ic=0", c.streamer_f);
  for (std::size_t k = 0; k < c.modes.size(); ++k)
    line("Bst{0} t{0} 0 I = {1:.12g}*i(Vst)", k, c.modes[k].top_per_v);
}

// Lead times the rate of what is heard: rates are what stands over the coils, by the inverse of their inductances.
std::string lead_words(const BurstCircuit& c) {
  if (!(c.lead_s > 0)) return {};
  const auto n = static_cast<Eigen::Index>(c.modes.size()) + 1;
  Eigen::MatrixXd l = Eigen::MatrixXd::Zero(n, n);
  l(0, 0) = c.primary_h;
  std::vector<std::string> over{fmt::format("(v(a)-v(c)-v(x1,x2)-{:.8g}*i(Vip))", c.primary_ohm)};
  for (std::size_t k = 0; k < c.modes.size(); ++k) {
    const auto row = static_cast<Eigen::Index>(k) + 1;
    l(row, row) = c.modes[k].inductance_h;
    l(0, row) = l(row, 0) = c.modes[k].mutual_h;
    over.push_back(fmt::format("(-v(t{0})-{1:.8g}*i(Vis{0}))", k, c.modes[k].resistance_ohm));
  }
  const Eigen::MatrixXd inverse = LowerUpper(l).solve(Eigen::MatrixXd::Identity(n, n));
  const bool primary = c.signal == BurstSignal::primary;
  const Eigen::RowVectorXd rate =
      primary ? inverse.row(0).eval() : inverse.bottomRows(n - 1).colwise().sum().eval();
  std::string out;
  for (Eigen::Index k = 0; k < n; ++k)
    out += fmt::format("+({:.12g})*{}", c.lead_s * rate(k), over[static_cast<std::size_t>(k)]);
  return out;
}

// From what is heard to the comparator's edges, late and, with blanking, held after each.
void write_comparator(Deck& line, const BurstCircuit& c) {
  const bool primary = c.signal == BurstSignal::primary;
  line("Bsn sn 0 V = {}({}{})", c.reversed ? "-" : "", primary ? "i(Vip)" : "v(foot)", lead_words(c));
  const double delay = std::max(c.delay_s, model_delay_s);
  line(".model adcf adc_bridge(in_low={:.6g} in_high={:.6g} rise_delay={:.10g} fall_delay={:.10g})", -c.hysteresis,
       c.hysteresis, c.blanking_s > 0 ? model_delay_s : delay, c.blanking_s > 0 ? model_delay_s : delay);
  if (c.blanking_s > 0) { // a latch that holds for so long after each of its own edges
    line("Asn [sn] [raw] adcf");
    line(".model dlm d_dlatch(data_delay=1e-12 enable_delay=1e-12 set_delay=1e-12 reset_delay=1e-12 ic=0 "
         "rise_delay=1e-12 fall_delay=1e-12)");
    line(".model xorm d_xor(rise_delay=1e-12 fall_delay=1e-12)");
    line(".model deafm d_buffer(rise_delay={0:.10g} fall_delay={0:.10g})", c.blanking_s);
    line(".model latem d_buffer(rise_delay={0:.10g} fall_delay={0:.10g})", delay);
    line("Alatch raw hears zer zer held nheld dlm");
    line("Adeaf held old deafm");
    line("Axor [held old] deaf xorm");
    line("Ahear deaf hears invm");
    line("Alate held cmp latem");
  } else {
    line("Asn [sn] [cmp] adcf");
  }
}

// The current limit: it ends the burst, or leaves out a pulse.
void write_limit(Deck& line, const BurstCircuit& c) {
  line("Boc oc 0 V = abs(i(Vip))/{:.10g} - 0.5", *c.limit_a);
  line(".model adco adc_bridge(in_low=0.5 in_high=0.5 rise_delay={0:.10g} fall_delay={0:.10g})",
       std::max(c.limit_delay_s, model_delay_s));
  line("Aoc [oc] [ocd] adco");
  line("Aoce [ocd end0] oce andm");
  if (c.limit_skips) // set by the limit, cleared by the drive's next rise without it
    line("Atr oce d oce zer trip tripn dffm");
  else
    line("Atr one oce zer zer trip tripn dffm");
  line("Aenx [end0 tripn] ene andm");
  line("Atra [trip] [tripa] dac0");
}

void write_drive(Deck& line, const BurstCircuit& c) {
  line(".model adc0 adc_bridge(in_low=0.5 in_high=0.5 rise_delay=1e-12 fall_delay=1e-12)");
  line(".model dac0 dac_bridge(out_low=0 out_high=1 t_rise=1e-9 t_fall=1e-9)");
  for (const char* gate : {"orm d_or", "andm d_and", "invm d_inverter"})
    line(".model {}(rise_delay=1e-12 fall_delay=1e-12)", gate);
  line(".model dffm d_dff(clk_delay=1e-12 set_delay=1e-12 reset_delay=1e-12 ic=0 rise_delay=1e-12 "
       "fall_delay=1e-12)");
  line("Aone one pu");
  line(".model pu d_pullup");
  line("Azer zer pdn");
  line(".model pdn d_pulldown");
  const double end_s = start_s + c.on_s;
  line("Ven en 0 PWL(0 0 {:.12g} 0 {:.12g} 1 {:.12g} 1 {:.12g} 0)", start_s - 5e-10, start_s + 5e-10, end_s - 5e-10,
       end_s + 5e-10);
  line("Aen [en] [end0] adc0");
  if (c.signal == BurstSignal::fixed) {
    const double half = 0.5 / c.frequency_hz;
    line("Vfx fx 0 PULSE(1 0 {:.12g} 1e-9 1e-9 {:.12g} {:.12g})", start_s + half - 5e-10, half - 1e-9, 2 * half);
    line("Afx [fx] [d] adc0");
  } else {
    write_comparator(line, c);
    line("Vkk kk 0 PWL(0 1 {:.12g} 1 {:.12g} 0)", start_s + c.kick_s - 5e-10, start_s + c.kick_s + 5e-10);
    line("Akk [kk] [kkd] adc0");
    line("Aor [kkd cmp] d orm");
  }
  const double dead = std::max(c.dead_s, model_delay_s);
  line(".model dtm d_buffer(rise_delay={0:.10g} fall_delay={0:.10g})", dead);
  line("Adt d dd dtm");
  line("Ain d dn invm");
  line("Aid dd ddn invm");
  if (c.limit_a) write_limit(line, c);
  const char* enabled = c.limit_a ? "ene" : "end0";
  line("Agh [{} d dd] ghd andm", enabled);
  line("Agl [{} dn ddn] gld andm", enabled);
  line("Adg [ghd gld] [gh gl] dac0");
}

void write_measures(Deck& line, const BurstCircuit& c, const BurstResult& r) {
  const double end_s = start_s + r.end_s, last_s = start_s + c.on_s + c.after_s;
  const double glance_s = std::min(last_s, end_s + 20e-6);
  const char* counted = c.signal == BurstSignal::primary ? "i(Vip)" : "v(foot)";
  if (r.counted_cycles > 0) {
    line(".meas tran counted trig {0} val=0 td={1:.10g} rise=1 targ {0} val=0 td={1:.10g} rise={2}", counted,
         start_s + r.counted_from_s, r.counted_cycles + 1);
    line(".meas tran frequency_hz param='{}/counted'", r.counted_cycles);
  }
  line("Bpa pa 0 V = abs(i(Vip))");
  line("Bta ta 0 V = abs(v(top))");
  line(".meas tran primary_peak_a max v(pa) from={:.10g} to={:.10g}", start_s, end_s);
  line(".meas tran top_peak_v max v(ta) from={:.10g} to={:.10g}", start_s, glance_s);
  line(".meas tran bus_end_v find v(b) at={:.10g}", end_s);
  line(".meas tran bus_last_v find v(b) at={:.10g}", last_s - 4e-9);
  line(".meas tran bus_least_v min v(b)");
  line(".meas tran bus_energy_j param='0.5*{0:.10g}*({1:.10g}*{1:.10g}-bus_end_v*bus_end_v)'", c.reservoir_f,
       c.bus_v);
  line(".meas tran bus_net_energy_j param='0.5*{0:.10g}*({1:.10g}*{1:.10g}-bus_last_v*bus_last_v)'", c.reservoir_f,
       c.bus_v);
  line(".meas tran bus_droop_v param='{:.10g}-bus_least_v'", c.bus_v);
  line("Bpsw psw 0 V = v(b,a)*i(Vh1) + v(a)*i(Vl1){}", c.full ? " + v(b,c)*i(Vh2) + v(c)*i(Vl2)" : "");
  line(".meas tran device_loss_j integ v(psw) from=0 to={:.10g}", last_s - 4e-9);
  if (!r.edges.empty()) line(".meas tran turn_off_a find i(Vip) when v(gh)=0.5 fall={}", r.edges.size() / 2 + 1);
  if (c.series_f) {
    line("Bva va 0 V = abs(v(x1,x2))");
    line(".meas tran tank_peak_v max v(va) from=0 to={:.10g}", last_s);
    line(".meas tran tank_rms_a rms i(Vip) from={:.10g} to={:.10g}", start_s, end_s);
  }
  if (r.trip_s) {
    line(".meas tran tripped when v(tripa)=0.5 rise=1");
    line(".meas tran trip_s param='tripped-{:.10g}'", start_s);
  }
}

} // namespace

std::string burst_netlist(const BurstCircuit& c, const BurstResult& r, const std::string& title) {
  Deck line{deck_title(title, "burst of a bridge")};
  line(".options method=gear reltol=1e-4 abstol=1e-9 vntol=1e-6 chgtol=1e-15 trtol=7 itl4=100");
  write_bridge(line, c);
  write_coil(line, c);
  write_drive(line, c);
  const double hz = std::max(r.mean_hz, burst_poles_hz(c).back());
  const double step = std::min(4e-9, 1 / (hz * 1000));
  line(".tran {0:.6g} {1:.10g} 0 {0:.6g} uic", step, start_s + c.on_s + c.after_s);
  write_measures(line, c, r);
  line(".end");
  return line.text;
}

} // namespace arc

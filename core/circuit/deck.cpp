// The harmless first line.
#include "circuit/deck.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace arc {

std::string deck_title(std::string_view name, std::string_view what) {
  constexpr std::size_t longest = 80;
  std::string plain;
  for (const char c : name) {
    if (plain.size() == longest) break;
    const bool harmless = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                          std::string_view(" -_,()").find(c) != std::string_view::npos;
    plain += harmless ? c : ' ';
  }
  return fmt::format("* {}: {}, written by High Arc\n", plain, what);
}

std::string deck_parts(const Network& n, const std::vector<std::size_t>& own_resistors,
                       const std::vector<std::size_t>& own_capacitors) {
  std::string deck;
  const auto line = [&]<typename... T>(fmt::format_string<T...> text, T&&... values) {
    deck += fmt::format(text, std::forward<T>(values)...) + "\n";
  };
  for (std::size_t i = 0; i < n.resistors.size(); ++i)
    if (std::ranges::count(own_resistors, i) == 0)
      line("R{} n{} n{} {:.10g}", i, n.resistors[i].a, n.resistors[i].b, n.resistors[i].ohm);
  for (std::size_t i = 0; i < n.inductors.size(); ++i) {
    const Network::Inductor& item = n.inductors[i];
    if (item.knees.empty()) {
      line("L{} n{} n{} {:.10g} ic={:.10g}", i, item.a, item.b, item.henry, item.start_a);
      continue;
    }
    // The flux is the integral of the voltage, as a node of its own; the current follows from it, more beyond each
    // knee.
    line("Gflux{0} 0 flux{0} n{1} n{2} 1", i, item.a, item.b);
    line("Cflux{0} flux{0} 0 1 ic={1:.10g}", i, item.henry * item.start_a);
    line("Rflux{0} flux{0} 0 1e9", i);
    std::string current = fmt::format("v(flux{})/{:.10g}", i, item.henry);
    for (const Network::Knee& knee : item.knees)
      current += fmt::format("+max(0,abs(v(flux{0}))-{1:.10g})*sgn(v(flux{0}))/{2:.10g}", i,
                             item.henry * knee.linear_a, knee.henry);
    line("Bflux{0} n{1} n{2} I={3}", i, item.a, item.b, current);
  }
  for (std::size_t i = 0; i < n.couplings.size(); ++i) {
    const Network::Coupling& m = n.couplings[i];
    line("K{} L{} L{} {:.10g}", i, m.first, m.second,
         m.henry / std::sqrt(n.inductors[m.first].henry * n.inductors[m.second].henry));
  }
  for (std::size_t i = 0; i < n.capacitors.size(); ++i)
    if (std::ranges::count(own_capacitors, i) == 0)
      line("C{} n{} n{} {:.10g} ic={:.10g}", i, n.capacitors[i].a, n.capacitors[i].b, n.capacitors[i].farad,
           n.capacitors[i].start_v);
  const Network::Switch* diode = nullptr;
  for (std::size_t i = 0; i < n.switches.size(); ++i) { // as switches on their own voltage, as simulated
    if (!n.switches[i].diode) continue;
    diode = &n.switches[i];
    line("S{} n{} n{} n{} n{} diode", i, diode->a, diode->b, diode->a, diode->b);
  }
  if (diode) line(".model diode sw(vt=0 vh=0 ron={:.6g} roff={:.6g})", diode->on_ohm, diode->off_ohm);
  return deck;
}

} // namespace arc

// Looks over circuit diagrams: a wire ends on another, on a part or on a pin; nothing hangs in the air.
#pragma once

#include "circuit/schematic.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <string>
#include <vector>

struct SheetLine {
  arc::SchematicPoint a, b;
  bool touches(arc::SchematicPoint p) const {
    const double dx = b.x - a.x, dy = b.y - a.y, length2 = std::max(1e-9, dx * dx + dy * dy);
    const double t = std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / length2, 0.0, 1.0);
    return std::hypot(p.x - a.x - t * dx, p.y - a.y - t * dy) < 1.5;
  }
};

/// What a wire may end on beside other wires: leads of symbols, edges of boxes, rims of round ones.
inline std::vector<SheetLine> holders(const arc::SchematicSymbol& s) {
  using enum arc::SymbolKind;
  const auto around = [&](double r) {
    return std::vector<SheetLine>{{{s.from.x - r, s.from.y}, {s.from.x + r, s.from.y}},
                                  {{s.from.x, s.from.y - r}, {s.from.x, s.from.y + r}}};
  };
  switch (s.kind) {
  case box:
    return {{s.from, {s.to.x, s.from.y}},
            {{s.to.x, s.from.y}, s.to},
            {s.to, {s.from.x, s.to.y}},
            {{s.from.x, s.to.y}, s.from}};
  case tube:
    return around(28);
  case cathode:
    return {{s.from, s.to}};
  case lamp:
  case thyristor:
    return around(12);
  case top:
  case spark:
  case flame:
    return around(8);
  case dot:
  case field:
    return {};
  case ground:
  case arrow_right:
    return {{s.from, s.from}};
  default:
    return {{s.from, s.to}};
  }
}

/// "wire at 12, 34; …" of every end that nothing holds; empty where all are held.
inline std::string loose_ends(const arc::Schematic& sheet,
                              const std::function<bool(arc::SchematicPoint)>& allowed = {}) {
  std::string out;
  for (std::size_t i = 0; i < sheet.wires.size(); ++i)
    for (const arc::SchematicPoint p : {sheet.wires[i].through.front(), sheet.wires[i].through.back()}) {
      if (allowed && allowed(p)) continue;
      bool held = false;
      for (std::size_t j = 0; j < sheet.wires.size() && !held; ++j)
        for (std::size_t k = 1; j != i && k < sheet.wires[j].through.size(); ++k)
          held = held || SheetLine{sheet.wires[j].through[k - 1], sheet.wires[j].through[k]}.touches(p);
      for (const arc::SchematicSymbol& symbol : sheet.symbols)
        for (const SheetLine& line : holders(symbol)) held = held || line.touches(p);
      if (!held) out += fmt::format("wire at {}, {}; ", p.x, p.y);
    }
  return out;
}

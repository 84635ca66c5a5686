// A circuit diagram as a value: wires, symbols and words at their places, in the order in which they are drawn.
// What a symbol looks like is the window's (app/toolkit/schematic_painter.h), one set for all circuits.
#pragma once

#include <initializer_list>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace arc {

struct SchematicPoint {
  double x, y; // to the right and downwards, in units of the sheet
  bool operator==(const SchematicPoint&) const = default;
};

enum class SchematicInk { ink, copper, arc, faint };

struct SchematicWire {
  std::vector<SchematicPoint> through;
  SchematicInk ink = SchematicInk::ink;
};

/// What lies between two places stands in the lead that joins them, across or along the sheet.
enum class SymbolKind {
  resistor,
  potentiometer,
  capacitor,
  diode, // `from` its anode
  coil,  // half turns
  box,   // of an integrated circuit: opposite corners
  // at `from` alone:
  dot,
  ground,
  arrow_right,
  lamp,
  thyristor,
  tube,    // `mirrored`: its grid to the right; `several`: side by side
  cathode, // of a tube at `from`: its filament's legs, and the lead to `to`
  top,     // a topload
  spark,   // from a topload
  flame,
  field, // through air, dashed, from `from` to `to`
};

struct SchematicSymbol {
  SymbolKind kind;
  SchematicPoint from, to = {0, 0};
  SchematicInk ink = SchematicInk::ink;
  int turns = 0; // of a coil
  bool several = false, mirrored = false;
  std::string part = {}; // whose it is; empty: nobody's
};

enum class SchematicAnchor { start, middle, end };

struct SchematicText {
  SchematicPoint at; // of the baseline
  std::string words;
  SchematicAnchor anchor = SchematicAnchor::start;
  int size = 12;
};

/// A place of the sheet, `right` and `bottom` excluded.
struct SchematicBox {
  double left, top, width, height;
};

/// A part that can be pointed at, with what is known of it.
struct SchematicPart {
  std::string key;
  std::string title;      // "Grid leak"
  std::string value = {}; // "1.5 kΩ"
  std::string live = {};  // "2.8 W of 100 W"
  std::string field = {}; // key of its field, and the stage where that is
  std::string stage = {};
  bool hot = false;        // beyond a limit
  SchematicBox box = {};   // of symbol and words
  SchematicBox words = {}; // of title, value and live
  SchematicAnchor side = SchematicAnchor::start;
};

struct Schematic {
  double width = 1, height = 1;
  std::string title = {};
  std::vector<SchematicWire> wires = {};
  std::vector<SchematicSymbol> symbols = {};
  std::vector<SchematicText> texts = {};
  std::vector<SchematicPart> parts = {};

  void wire(std::vector<SchematicPoint> through, SchematicInk ink = SchematicInk::ink) {
    wires.push_back({std::move(through), ink});
  }
  void put(SymbolKind kind, SchematicPoint from, SchematicPoint to = {0, 0}, std::string part = {}) {
    symbols.push_back({.kind = kind, .from = from, .to = to, .part = std::move(part)});
  }
  void dot(double x, double y) { put(SymbolKind::dot, {x, y}); }
  void ground(double x, double y) { put(SymbolKind::ground, {x, y}); }
  void coil(SchematicPoint from, SchematicPoint to, int turns, std::string part = {}) {
    symbols.push_back({.kind = SymbolKind::coil,
                       .from = from,
                       .to = to,
                       .ink = SchematicInk::copper,
                       .turns = turns,
                       .part = std::move(part)});
  }
};

} // namespace arc

// Type, spacing and colours of the whole window: the one place where they are chosen. Two themes, daylight and dark
// room; text on its background keeps a contrast of 4.5:1 or more in both.
#pragma once

#include <QColor>
#include <QFont>
#include <QPalette>
#include <QString>

struct Theme {
  QString name;
  QColor paper;    // canvas
  QColor card;     // panels and entry fields
  QColor hairline; // rules and borders
  QColor shade;    // selected row, pressed button
  QColor ink;      // text and lines
  QColor second;   // captions
  QColor copper;   // windings and conductors
  QColor copper_fill;
  QColor metal; // toploads
  QColor arc;   // arcs, links, focus
  QColor arc_fill;
  QColor settled;
  QColor warn;
  QColor stop;

  static Theme daylight();
  static Theme dark_room();
};

namespace type {
inline constexpr int caption = 12; // pixels
inline constexpr int body = 13;
inline constexpr int strong = 15;
inline constexpr int heading = 17;
inline constexpr int bench = 24; // readable from the bench

/// The shipped text face at a pixel size.
QFont font(int pixels, QFont::Weight weight = QFont::Normal);
/// Loads the shipped fonts; false when a resource is missing.
bool load_fonts();
} // namespace type

namespace space {
inline constexpr int hair = 4;
inline constexpr int small = 8;
inline constexpr int medium = 12;
inline constexpr int large = 20;
} // namespace space

/// Palette and style sheet that carry a theme to the standard controls.
QPalette palette_of(const Theme& theme);
QString style_sheet(const Theme& theme);

/// Contrast ratio of two opaque colours, 1 to 21 (WCAG 2.1).
double contrast_ratio(const QColor& a, const QColor& b);

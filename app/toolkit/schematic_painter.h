// How a circuit diagram is drawn: one set of symbols for all circuits, after IEC 60617, and its export.
#pragma once

#include "base/theme.h"
#include "circuit/schematic.h"

#include <QPainter>
#include <QString>

/// Draws into `area`; symbols keep their size, places follow the area's. Words of parts are not drawn.
void draw_schematic(QPainter& painter, const arc::Schematic& schematic, const QRectF& area, const Theme& theme);

/// The diagram as a file on white paper, words of its parts included. False with the reason when it cannot be
/// written.
bool save_schematic(const arc::Schematic& schematic, const QString& path, QString* problem);

/// Where a place of the sheet lies in the area.
QPointF schematic_place(const arc::Schematic& schematic, const QRectF& area, arc::SchematicPoint place);
QRectF schematic_place(const arc::Schematic& schematic, const QRectF& area, const arc::SchematicBox& box);

/// Title, value and live figures of its parts, in their places.
void draw_part_words(QPainter& painter, const arc::Schematic& schematic, const QRectF& area, const Theme& theme);

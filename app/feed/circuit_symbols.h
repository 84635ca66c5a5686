// Circuit symbols after IEC 60617, in a box of 44 by 34 around a middle; what stands in
// the path has its ends at the middle of the left and right edge, what stands across it hangs from the path.
#pragma once

#include <QPainter>
#include <QPointF>
#include <QStringView>

inline constexpr double symbol_width = 44, symbol_height = 34;

/// Draws with the painter's pen and font. Names are those of feed blocks, and "source", "rectifier", "capacitor",
/// "half-bridge", "full-bridge", "primary", "resonator", "gate-transformer", "antenna", "driver", "gates",
/// "generator", "current-transformer", "gap-and-tank", "triode". What is not known is a plain box.
void draw_circuit_symbol(QPainter& painter, QStringView name, QPointF middle);

#include "toolkit/schematic_painter.h"

#include "base/file_io.h"
#include "toolkit/common.h"

#include <QBuffer>
#include <QPainterPath>
#include <QPolygonF>
#include <QSvgGenerator>
#include <algorithm>
#include <array>
#include <cmath>

namespace {

// Draws a symbol between two places of the area, along the line that joins them.
class SymbolPen {
 public:
  SymbolPen(QPainter& painter, QPointF from, QPointF to) : p_(painter), from_(from), to_(to) {
    const QPointF way = to - from;
    length_ = std::hypot(way.x(), way.y());
    along_ = length_ > 0 ? way / length_ : QPointF(0, 1);
    across_ = {-along_.y(), along_.x()};
  }
  double length() const { return length_; }
  QPointF at(double along, double across) const { return from_ + along_ * along + across_ * across; }
  void line(double a1, double c1, double a2, double c2) const { p_.drawLine(at(a1, c1), at(a2, c2)); }
  void shape(std::initializer_list<QPointF> places) const {
    QPolygonF polygon;
    for (const QPointF& place : places) polygon << at(place.x(), place.y());
    p_.drawPolygon(polygon);
  }

 private:
  QPainter& p_;
  QPointF from_, to_, along_, across_;
  double length_ = 0;
};

void draw_resistor(const SymbolPen& s, bool variable) {
  const double middle = s.length() / 2, half = std::min(16.0, 0.35 * s.length()), wide = half > 12 ? 6 : 4;
  s.line(0, 0, middle - half, 0);
  s.shape({{middle - half, -wide}, {middle - half, wide}, {middle + half, wide}, {middle + half, -wide}});
  s.line(middle + half, 0, s.length(), 0);
  if (!variable) return;
  s.line(middle + 13, 13, middle - 13, -13);
  s.line(middle - 12, -6, middle - 13, -13);
  s.line(middle - 6, -12, middle - 13, -13);
}

void draw_capacitor(const SymbolPen& s) {
  const double middle = s.length() / 2;
  s.line(0, 0, middle - 3, 0);
  s.line(middle + 3, 0, s.length(), 0);
  s.line(middle - 3, -10.5, middle - 3, 10.5);
  s.line(middle + 3, -10.5, middle + 3, 10.5);
}

void draw_diode(const SymbolPen& s) {
  const double middle = s.length() / 2;
  s.line(0, 0, s.length(), 0);
  s.shape({{middle - 6, -7}, {middle - 6, 7}, {middle + 6, 0}});
  s.line(middle + 6, -7, middle + 6, 7);
}

// Half turns: to the right of a lead that goes down, upwards on one that goes to the right.
void draw_coil(QPainter& p, QPointF from, QPointF to, int turns) {
  const bool down = std::abs(to.y() - from.y()) > std::abs(to.x() - from.x());
  const double each = (down ? to.y() - from.y() : to.x() - from.x()) / std::max(1, turns);
  QPainterPath path(from);
  for (int i = 0; i < turns; ++i) {
    if (down)
      path.arcTo(QRectF(from.x() - each / 2, from.y() + i * each, each, each), 90, -180);
    else
      path.arcTo(QRectF(from.x() + i * each, from.y() - each / 2, each, each), 180, -180);
  }
  p.drawPath(path);
}

constexpr double tube_radius = 25;

void draw_tube(QPainter& p, QPointF middle, bool several, bool mirrored) {
  constexpr double r = tube_radius;
  p.save();
  p.translate(middle);
  if (mirrored) p.scale(-1, 1);
  p.drawEllipse(QPointF(), r, r);
  p.drawLine(QPointF(-12, -11), QPointF(12, -11)); // plate
  p.drawLine(QPointF(0, -11), QPointF(0, -r));
  const QPen whole = p.pen();
  QPen dashes = whole;
  dashes.setDashPattern({3, 2});
  p.setPen(dashes);
  p.drawLine(QPointF(-16, 0), QPointF(14, 0)); // grid
  p.setPen(whole);
  p.drawLine(QPointF(-r, 0), QPointF(-16, 0));
  QPainterPath cathode(QPointF(-10, 15)); // directly heated
  cathode.lineTo(QPointF(0, 9));
  cathode.lineTo(QPointF(10, 15));
  p.drawPath(cathode);
  p.drawLine(QPointF(10, 15), QPointF(10, r - 2));
  p.drawLine(QPointF(-10, 15), QPointF(-10, r - 2));
  if (several) p.drawEllipse(QPointF(), r + 4, r + 4); // side by side
  p.restore();
}

// The filament's two legs, joined by its decoupling capacitors, and the lead on.
void draw_cathode(QPainter& p, QPointF tube, QPointF to) {
  const QPointF legs = tube + QPointF(0, tube_radius);
  p.drawLine(legs + QPointF(-10, -2), legs + QPointF(-10, 4));
  p.drawLine(legs + QPointF(10, -2), legs + QPointF(10, 4));
  p.drawLine(legs + QPointF(-10, 4), legs + QPointF(10, 4));
  p.drawLine(legs + QPointF(0, 4), to);
}

void draw_ground(QPainter& p, QPointF c) {
  for (int i = 0; i < 3; ++i) p.drawLine(c + QPointF(-8 + 2.7 * i, 3.5 * i), c + QPointF(8 - 2.7 * i, 3.5 * i));
}

void draw_thyristor(QPainter& p, QPointF c) {
  p.drawPolygon(QPolygonF{{c + QPointF(-7, -6), c + QPointF(7, -6), c + QPointF(0, 6)}});
  p.drawLine(c + QPointF(-7, 6), c + QPointF(7, 6));
  p.drawLine(c + QPointF(0, 6), c + QPointF(-10, 12)); // its gate
}

void draw_lamp(QPainter& p, QPointF c) {
  p.drawEllipse(c, 7, 7);
  p.drawLine(c + QPointF(-5, -5), c + QPointF(5, 5));
  p.drawLine(c + QPointF(-5, 5), c + QPointF(5, -5));
}

void draw_spark(QPainter& p, QPointF from, double sx, double sy) {
  QPainterPath path(from);
  for (const QPointF& step : {QPointF(28, -8), QPointF(38, 0), QPointF(56, -16), QPointF(70, -10)})
    path.lineTo(from + QPointF(step.x() * sx, step.y() * sy));
  p.drawPath(path);
}

void draw_flame(QPainter& p, QPointF foot, double sx, double sy) {
  const auto at = [&](double x, double y) { return foot + QPointF(x * sx, y * sy); };
  QPainterPath path(foot);
  path.cubicTo(at(18, -12), at(12, -32), at(1, -56));
  path.cubicTo(at(-8, -32), at(-16, -14), foot);
  p.drawPath(path);
}

struct Scale {
  QRectF area;
  double sx, sy;
  QPointF operator()(arc::SchematicPoint p) const { return {area.left() + p.x * sx, area.top() + p.y * sy}; }
};

Scale scale_of(const arc::Schematic& s, const QRectF& area) {
  return {area, area.width() / s.width, area.height() / s.height};
}

QColor colour_of(arc::SchematicInk ink, const Theme& t) {
  switch (ink) {
  case arc::SchematicInk::copper:
    return t.copper;
  case arc::SchematicInk::arc:
    return t.arc;
  case arc::SchematicInk::faint:
    return t.second;
  default:
    return t.ink;
  }
}

void draw_symbol(QPainter& p, const arc::SchematicSymbol& s, const Scale& scale, const Theme& t) {
  using enum arc::SymbolKind;
  const QPointF from = scale(s.from), to = scale(s.to);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(colour_of(s.ink, t), s.ink == arc::SchematicInk::copper ? 1.8 : 1.4));
  const SymbolPen pen(p, from, to);
  switch (s.kind) {
  case resistor:
  case potentiometer:
    return draw_resistor(pen, s.kind == potentiometer);
  case capacitor:
    return draw_capacitor(pen);
  case diode:
    return draw_diode(pen);
  case coil:
    return draw_coil(p, from, to, s.turns);
  case box:
    return p.drawRect(QRectF(from, to));
  case dot:
    p.setBrush(p.pen().color());
    return p.drawEllipse(from, 2.2, 2.2);
  case ground:
    return draw_ground(p, from);
  case arrow_right:
    p.drawLine(from + QPointF(-8, -4), from);
    return p.drawLine(from + QPointF(-8, 4), from);
  case lamp:
    return draw_lamp(p, from);
  case thyristor:
    return draw_thyristor(p, from);
  case tube:
    return draw_tube(p, from, s.several, s.mirrored);
  case cathode:
    return draw_cathode(p, from, to);
  case top:
    p.setBrush(t.metal);
    return p.drawEllipse(from, 26, 8);
  case spark:
    return draw_spark(p, from, scale.sx, scale.sy);
  case flame:
    p.setBrush(t.arc_fill);
    return draw_flame(p, from, scale.sx, scale.sy);
  case field:
    p.setPen(QPen(colour_of(s.ink, t), 1, Qt::DashLine));
    QPainterPath path(from);
    path.cubicTo(from + QPointF(-46 * scale.sx, -192 * scale.sy), to + QPointF(-70 * scale.sx, -104 * scale.sy),
                 to);
    return p.drawPath(path);
  }
}

} // namespace

QPointF schematic_place(const arc::Schematic& schematic, const QRectF& area, arc::SchematicPoint place) {
  return scale_of(schematic, area)(place);
}

QRectF schematic_place(const arc::Schematic& schematic, const QRectF& area, const arc::SchematicBox& box) {
  const Scale scale = scale_of(schematic, area);
  return {scale({box.left, box.top}), scale({box.left + box.width, box.top + box.height})};
}

void draw_schematic(QPainter& p, const arc::Schematic& schematic, const QRectF& area, const Theme& theme) {
  p.setRenderHint(QPainter::Antialiasing);
  const Scale scale = scale_of(schematic, area);
  for (const arc::SchematicWire& wire : schematic.wires) {
    p.setPen(QPen(colour_of(wire.ink, theme), 1.4));
    QPolygonF line;
    for (const arc::SchematicPoint& point : wire.through) line << scale(point);
    p.drawPolyline(line);
  }
  for (const arc::SchematicSymbol& symbol : schematic.symbols) draw_symbol(p, symbol, scale, theme);
  p.setPen(theme.ink);
  for (const arc::SchematicText& text : schematic.texts) {
    QFont font = type::font(type::caption);
    font.setPixelSize(text.size);
    p.setFont(font);
    const QString words = QString::fromStdString(text.words);
    const double wide = QFontMetricsF(font).horizontalAdvance(words);
    const double left = text.anchor == arc::SchematicAnchor::start    ? 0
                        : text.anchor == arc::SchematicAnchor::middle ? wide / 2
                                                                      : wide;
    p.drawText(scale(text.at) - QPointF(left, 0), words);
  }
}

void draw_part_words(QPainter& p, const arc::Schematic& schematic, const QRectF& area, const Theme& t) {
  constexpr double line_high = 14;
  for (const arc::SchematicPart& part : schematic.parts) {
    const QRectF where = schematic_place(schematic, area, part.words);
    const Qt::Alignment side = part.side == arc::SchematicAnchor::start ? Qt::AlignLeft
                               : part.side == arc::SchematicAnchor::end ? Qt::AlignRight
                                                                        : Qt::AlignHCenter;
    double y = where.top();
    const auto line = [&](const std::string& words, const QColor& colour, QFont::Weight weight) {
      if (words.empty()) return;
      const QFont font = type::font(type::caption, weight);
      p.setFont(font);
      p.setPen(colour);
      p.drawText(QRectF(where.left(), y, where.width(), line_high + 1), side | Qt::AlignVCenter,
                 QFontMetrics(font).elidedText(QString::fromStdString(words), Qt::ElideRight,
                                               static_cast<int>(where.width())));
      y += line_high;
    };
    line(part.title, t.second, QFont::Normal);
    line(part.hot ? part.value + "  !" : part.value, part.hot ? t.stop : t.ink, QFont::DemiBold);
    line(part.live, part.hot ? t.stop : t.second, QFont::Normal);
  }
}

bool save_schematic(const arc::Schematic& schematic, const QString& path, QString* problem) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  const QRectF area(0, 0, schematic.width, schematic.height);
  {
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setSize(area.size().toSize());
    svg.setViewBox(area);
    svg.setTitle(QString::fromStdString(schematic.title));
    QPainter painter(&svg);
    painter.fillRect(area, Qt::white);
    const Theme paper = Theme::daylight();
    draw_schematic(painter, schematic, area, paper);
    draw_part_words(painter, schematic, area, paper);
  }
  return write_whole_file(path, bytes, problem);
}

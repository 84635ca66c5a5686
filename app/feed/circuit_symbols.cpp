// Each symbol as a function of a small pen.
#include "feed/circuit_symbols.h"

#include <QPainterPath>
#include <QPolygonF>
#include <algorithm>
#include <array>

namespace {

// Draws around a middle.
struct Pen {
  QPainter& p;
  QPointF c;

  void line(double x1, double y1, double x2, double y2) const {
    p.drawLine(c + QPointF(x1, y1), c + QPointF(x2, y2));
  }
  void box(double x, double y, double w, double h) const { p.drawRect(QRectF(c.x() + x, c.y() + y, w, h)); }
  void words(double x, double y, double w, double h, const QString& text) const {
    p.drawText(QRectF(c.x() + x, c.y() + y, w, h), Qt::AlignCenter, text);
  }
  void shape(std::initializer_list<QPointF> points) const {
    QPolygonF polygon;
    for (const QPointF& point : points) polygon << c + point;
    p.drawPolygon(polygon);
  }
  void dot(double x, double y) const {
    const QBrush before = p.brush();
    p.setBrush(p.pen().color());
    p.drawEllipse(c + QPointF(x, y), 1.6, 1.6);
    p.setBrush(before);
  }
  // Half turns from left to right around the middle of `y`.
  void coil(double y, int turns, double size) const {
    QPainterPath path(c + QPointF(-turns * size / 2, y));
    for (int i = 0; i < turns; ++i)
      path.arcTo(QRectF(c.x() - turns * size / 2 + i * size, c.y() + y - size / 2, size, size), 180, -180);
    p.drawPath(path);
  }
  void wire(double from, double to) const { line(from, 0, to, 0); }
  void through() const { wire(-22, 22); }
  // What hangs from the path ends in the return.
  void foot(double y) const {
    line(-5, y, 5, y);
    line(-3, y + 2.5, 3, y + 2.5);
  }
  void wave(double x, double y, double size) const {
    QPainterPath path(c + QPointF(x - size, y));
    path.cubicTo(c + QPointF(x - size / 2, y - size), c + QPointF(x - size / 2.6, y - size / 1.6),
                 c + QPointF(x, y));
    path.cubicTo(c + QPointF(x + size / 2.6, y + size / 1.6), c + QPointF(x + size / 2, y + size),
                 c + QPointF(x + size, y));
    p.drawPath(path);
  }
  void diode(double x, double y) const {
    shape({{x - 5, y - 5}, {x - 5, y + 5}, {x + 4, y}});
    line(x + 4, y - 5, x + 4, y + 5);
  }
  // Two plates across a vertical lead.
  void plates(double x, double y, bool polarised) const {
    line(x - 8, y - 2, x + 8, y - 2);
    if (polarised)
      box(x - 8, y + 1, 16, 3);
    else
      line(x - 8, y + 2, x + 8, y + 2);
  }
  // Two balls that face each other.
  void gap(double x, double y, bool upright) const {
    const QPointF way = upright ? QPointF(0, 4) : QPointF(4, 0);
    p.drawEllipse(c + QPointF(x, y) - way, 2.6, 2.6);
    p.drawEllipse(c + QPointF(x, y) + way, 2.6, 2.6);
  }
};

void source(const Pen& s) {
  s.p.drawEllipse(s.c, 12, 12);
  s.wave(0, 0, 8);
}
void breaker(const Pen& s) {
  s.wire(-22, -8);
  s.line(-8, 0, 7, -8);
  s.wire(9, 22);
  s.line(6, -3, 12, 3);
  s.line(6, 3, 12, -3);
}
void contactor(const Pen& s) {
  s.wire(-22, -8);
  s.line(-8, 0, 7, -8);
  s.wire(9, 22);
  s.p.drawArc(QRectF(s.c.x() + 5, s.c.y() - 4, 8, 8), 90 * 16, 180 * 16);
  s.line(0, -4, 0, -9);
  s.box(-5, -16, 10, 7);
}
void variac(const Pen& s) {
  s.wire(-22, -14);
  s.line(-14, 0, -14, -8);
  QPainterPath path(s.c + QPointF(-14, -8));
  for (int i = 0; i < 4; ++i) path.arcTo(QRectF(s.c.x() - 14 + i * 7, s.c.y() - 11.5, 7, 7), 180, -180);
  s.p.drawPath(path);
  s.line(14, -8, 14, 12);
  s.foot(12);
  s.line(4, 5, 4, -4);
  s.line(1.5, -1, 4, -5);
  s.line(6.5, -1, 4, -5);
  s.line(4, 5, 22, 5);
  s.line(22, 5, 22, 0);
}
void inductor(const Pen& s) {
  s.wire(-22, -14);
  s.coil(0, 4, 7);
  s.wire(14, 22);
}
void iron_inductor(const Pen& s) {
  inductor(s);
  s.line(-14, -8, 14, -8);
  s.line(-14, -10.5, 14, -10.5);
}
void line_filter(const Pen& s) {
  s.box(-16, -12, 32, 24);
  s.wire(-22, -16);
  s.wire(16, 22);
  s.coil(-2, 3, 7);
  s.line(-8, 6, 8, 6);
  s.line(-8, 8.5, 8, 8.5);
}
void across_capacitor(const Pen& s, bool polarised) {
  s.through();
  s.dot(0, 0);
  s.line(0, 0, 0, 5);
  s.plates(0, 7, polarised);
  s.line(0, polarised ? 11 : 9, 0, 13);
  s.foot(13);
}
void series_capacitor(const Pen& s) {
  s.wire(-22, -3);
  s.wire(3, 22);
  s.line(-3, -9, -3, 9);
  s.line(3, -9, 3, 9);
}
void resistor(const Pen& s) {
  s.box(-12, -4.5, 24, 9);
  s.wire(-22, -12);
  s.wire(12, 22);
}
void limiter(const Pen& s) {
  resistor(s);
  s.line(-9, 9, 6, -9);
  s.line(-13, 9, -9, 9);
  s.words(4, 4, 16, 12, "−ϑ");
}
void triac(const Pen& s) {
  s.wire(-22, -8);
  s.wire(8, 22);
  s.line(-8, -10, -8, 10);
  s.line(8, -10, 8, 10);
  s.shape({{-8, -9}, {-8, -1}, {8, -5}});
  s.shape({{8, 1}, {8, 9}, {-8, 5}});
  s.line(8, 7, 14, 14);
}
void transformer(const Pen& s) {
  const auto winding = [&](double x, bool right) {
    QPainterPath path(s.c + QPointF(x, -12));
    for (int i = 0; i < 3; ++i)
      path.arcTo(QRectF(s.c.x() + x - 4, s.c.y() - 12 + 8 * i, 8, 8), 90, right ? 180 : -180);
    s.p.drawPath(path);
  };
  winding(-8, false);
  winding(8, true);
  s.line(-1.5, -12, -1.5, 12);
  s.line(1.5, -12, 1.5, 12);
  s.wire(-22, -4);
  s.line(-8, -12, -22, -12);
  s.line(8, -12, 22, -12);
  s.line(22, -12, 22, 0);
  s.line(-22, -12, -22, 0);
}
void two_transformers(const Pen& s) {
  for (const double y : {-8.0, 8.0}) {
    s.p.drawEllipse(s.c + QPointF(-4, y), 6, 6);
    s.p.drawEllipse(s.c + QPointF(4, y), 6, 6);
  }
  s.wire(-22, -12);
  s.wire(12, 22);
  s.line(-12, -8, -12, 8);
  s.line(12, -8, 12, 8);
  s.line(-12, -8, -10, -8);
  s.line(-12, 8, -10, 8);
  s.line(12, -8, 10, -8);
  s.line(12, 8, 10, 8);
}
void flyback(const Pen& s) {
  s.box(-20, -9, 14, 18);
  s.words(-20, -9, 14, 18, "G");
  s.p.drawEllipse(s.c + QPointF(4, 0), 7, 7);
  s.p.drawEllipse(s.c + QPointF(13, 0), 7, 7);
  s.wire(-6, -3);
  s.wire(20, 22);
}
void rectifier(const Pen& s) {
  s.box(-16, -12, 32, 24);
  s.diode(0, 0);
  s.wire(-22, -5);
  s.wire(4, 22);
}
void series_diode(const Pen& s) {
  s.diode(0, 0);
  s.wire(-22, -5);
  s.wire(4, 22);
}
void shifter(const Pen& s) {
  s.wire(-22, -12);
  s.line(-12, -7, -12, 7);
  s.line(-8, -7, -8, 7);
  s.wire(-8, 22);
  s.shape({{3, 9}, {13, 9}, {8, 2}});
  s.line(3, 2, 13, 2);
  s.line(8, 0, 8, 2);
  s.line(8, 9, 8, 13);
  s.foot(13);
}
void doubler(const Pen& s) {
  s.box(-16, -12, 32, 24);
  s.diode(-8, 0);
  s.words(0, -8, 15, 16, "2U");
  s.wire(-22, -16);
  s.wire(16, 22);
}
void safety_gap(const Pen& s) {
  s.through();
  s.dot(0, 0);
  s.line(0, 0, 0, 3);
  s.gap(0, 9.5, true);
  s.line(0, 16, 0, 15);
  s.foot(16);
}
void rc_filter(const Pen& s) {
  s.wire(-22, -18);
  s.box(-18, -4, 18, 8);
  s.wire(0, 22);
  s.dot(10, 0);
  s.line(10, 0, 10, 5);
  s.plates(10, 7, false);
  s.line(10, 9, 10, 13);
  s.line(5, 13, 15, 13);
}
void fuse(const Pen& s) {
  s.box(-12, -4.5, 24, 9);
  s.through();
}
void shunt(const Pen& s) {
  s.box(-12, -2, 24, 8);
  s.line(-22, 0, -12, 0);
  s.line(12, 0, 22, 0);
  s.line(-8, -2, -8, -9);
  s.line(8, -2, 8, -9);
  s.words(-7, -15, 14, 12, "V");
}
void capacitor(const Pen& s) {
  s.line(-12, -3, 12, -3);
  s.line(-12, 3, 12, 3);
  s.line(0, -15, 0, -3);
  s.line(0, 3, 0, 15);
}
void bridge(const Pen& s, int legs) {
  for (int leg = 0; leg < legs; ++leg) {
    const double x = legs == 1 ? 0 : leg == 0 ? -9 : 9;
    for (const double y : {-8.0, 8.0}) {
      s.line(x, y - 7, x, y - 3);
      s.line(x, y + 3, x, y + 7);
      s.line(x, y + 3, x + 5, y - 4); // an open contact
    }
    s.line(x, -1, x, 1);
  }
}
void resonator(const Pen& s) {
  s.coil(2, 5, 7);
  s.line(0, -6, 0, -14);
  s.line(-10, -14, 10, -14);
}
void gate_transformer(const Pen& s) {
  s.coil(-4, 3, 9);
  s.line(-14, -1, 14, -1);
  s.line(-14, 2, 14, 2);
  s.coil(9, 3, 9);
}
void antenna(const Pen& s) {
  s.line(0, 14, 0, -12);
  s.line(-9, -12, 9, -12);
  s.line(-9, -12, 0, -3);
  s.line(9, -12, 0, -3);
}
void gates(const Pen& s) {
  s.line(-8, -10, -8, 10);
  s.line(-3, -10, -3, 10);
  s.line(-3, -8, 10, -8);
  s.line(-3, 8, 10, 8);
  s.line(-18, 0, -8, 0);
}
void generator(const Pen& s) {
  s.box(-16, -11, 32, 22);
  s.words(-16, -11, 32, 22, "G");
}
void current_transformer(const Pen& s) {
  s.p.drawEllipse(s.c, 9, 9);
  s.line(-18, 0, 18, 0);
}
void triode(const Pen& k) { // its plate coil before it
  k.line(-22, 0, -20, 0);
  for (int i = 0; i < 3; ++i) k.p.drawArc(QRectF(k.c.x() - 20 + 6 * i, k.c.y() - 3, 6, 6), 0, 180 * 16);
  k.line(-2, 0, 3, 0);
  k.p.drawEllipse(k.c + QPointF(13, 2), 12, 12);
  k.line(3, 0, 7, 0);
  k.line(7, -6, 7, 10);
  for (const double y : {-6.0, -0.5, 5.0}) k.line(13, y, 13, y + 3.5);
  k.line(18, -4, 18, 8);
}

void gap_and_tank(const Pen& s) {
  s.wire(-22, -6);
  s.dot(-6, 0);
  s.line(-6, 0, -6, 3);
  s.gap(-6, 9.5, true);
  s.line(-11, 16, -1, 16);
  s.wire(-6, 6);
  s.line(6, -8, 6, 8);
  s.line(10, -8, 10, 8);
  s.wire(10, 18);
}

struct Row {
  QStringView name;
  void (*draw)(const Pen&);
};
constexpr std::array<Row, 43> symbol_rows{{
    {u"source", source},
    {u"breaker", breaker},
    {u"contactor", contactor},
    {u"variac", variac},
    {u"line-filter", line_filter},
    {u"power-factor-capacitor", [](const Pen& s) { across_capacitor(s, false); }},
    {u"ballast-inductor", iron_inductor},
    {u"ballast-capacitor", series_capacitor},
    {u"ballast-resistor", resistor},
    {u"dimmer", triac},
    {u"inrush-limiter", limiter},
    {u"transformer", transformer},
    {u"oven-transformers", two_transformers},
    {u"ignition-coils", two_transformers},
    {u"flyback-driver", flyback},
    {u"bridge", rectifier},
    {u"rectifier", rectifier},
    {u"diode-string", series_diode},
    {u"diode", series_diode},
    {u"level-shifter", shifter},
    {u"half-wave-doubler", doubler},
    {u"full-wave-doubler", doubler},
    {u"reservoir", [](const Pen& s) { across_capacitor(s, false); }},
    {u"electrolytics", [](const Pen& s) { across_capacitor(s, true); }},
    {u"filter-choke", iron_inductor},
    {u"charging-choke", iron_inductor},
    {u"safety-gap", safety_gap},
    {u"protection-filter", rc_filter},
    {u"fuse", fuse},
    {u"shunt", shunt},
    {u"capacitor", capacitor},
    {u"half-bridge", [](const Pen& s) { bridge(s, 1); }},
    {u"full-bridge", [](const Pen& s) { bridge(s, 2); }},
    {u"primary", [](const Pen& s) { s.coil(2, 3, 11); }},
    {u"resonator", resonator},
    {u"gate-transformer", gate_transformer},
    {u"antenna", antenna},
    {u"driver",
     [](const Pen& s) {
       s.shape({{-12, -12}, {-12, 12}, {13, 0}});
     }},
    {u"gates", gates},
    {u"generator", generator},
    {u"current-transformer", current_transformer},
    {u"gap-and-tank", gap_and_tank},
    {u"triode", triode},
}};

} // namespace

void draw_circuit_symbol(QPainter& painter, QStringView name, QPointF middle) {
  const Pen pen{painter, middle};
  const auto* row = std::ranges::find(symbol_rows, name, &Row::name);
  if (row != symbol_rows.end()) {
    row->draw(pen);
    return;
  }
  pen.box(-14, -9, 28, 18);
  pen.wire(-22, -14);
  pen.wire(14, 22);
}

// Parts of the path, their words, and their symbols after IEC 60617.
#include "kinds/bridges/bridge_path.h"

#include "model/fields.h"
#include "widgets/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace {

using enum arc::Dimension;
constexpr double title_height = 16, symbol_height = 34, margin = 10;

} // namespace

BridgePath::BridgePath(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("bridge path");
  setAccessibleName("Path of power from the wall to the arc");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(168);
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void BridgePath::show(const arc::BridgeAnalysis* b) {
  const arc::Design& d = workspace_.document.design();
  const arc::Bridge& s = d.bridge;
  const auto print = [&](double si, arc::Dimension dimension, int digits = 3) {
    return quantity_text(si, dimension, workspace_.units(), digits);
  };
  const auto choice = [&](const char* key) {
    const arc::ChoiceSpec& spec = arc::design_choice(key);
    return text_of(spec.choices[spec.get(d)].title);
  };
  const bool there = b && b->problem.empty();
  const auto when = [&](const QString& text) { return there ? text : QString("–"); };
  parts_.clear();
  parts_.push_back(
      {"bus", "Mains", print(d.site.mains_voltage_v, voltage), there ? print(b->line_a, current, 2) : QString()});
  parts_.push_back({"bus", "Rectifier",
                    s.bus_voltage_v ? "measured bus"
                    : s.doubled     ? "doubler"
                                    : "bridge",
                    print(arc::bus_voltage_v(d), voltage)});
  parts_.push_back({"bus", "Reservoir", print(s.reservoir_f, capacitance),
                    when(there ? QString("−%1 a burst").arg(print(b->burst.droop_v, voltage, 2)) : QString()),
                    false, there && b->burst.droop_v > 0.15 * b->circuit.bus_v});
  parts_.push_back(
      {"switches", s.legs == arc::BridgeLegs::full ? "Full bridge" : "Half bridge", choice("bridge.switch_type"),
       when(there ? QString("%1 of %2")
                        .arg(print(b->burst.primary_peak_a, current), print(s.device.pulse_rating_a, current, 2))
                  : QString()),
       false, there && b->burst.primary_peak_a > s.device.pulse_rating_a});
  if (arc::is_dual_resonant(d))
    parts_.push_back({"limit", "Tank", there ? print(*b->circuit.series_f, capacitance) : "–",
                      when(there ? print(b->burst.series_peak_v, voltage) : QString())});
  const auto analysis = workspace_.document.analysis();
  parts_.push_back({"limit", "Primary", analysis ? print(analysis->circuit.primary_h, inductance) : "–",
                    analysis ? QString("k %1").arg(analysis->circuit.coupling, 0, 'f', 3) : QString()});
  parts_.push_back({"feedback", "Resonator", when(there ? print(b->burst.frequency_hz, frequency, 4) : QString()),
                    when(there ? print(b->burst.top_peak_v, voltage) : QString())});
  // and back
  parts_.push_back(
      {"feedback", choice("bridge.feedback"), there && b->signal_v ? print(*b->signal_v, voltage) : QString(),
       s.feedback == arc::Feedback::fixed ? print(s.fixed_frequency_hz, frequency, 4)
                                          : QString("threshold %1").arg(print(s.input_threshold_v, voltage)),
       true});
  parts_.push_back({"drive", "Driver", print(arc::chain_delay_s(s), arc::Dimension::time),
                    QString("to %1").arg(print(arc::chain_limit_hz(s), frequency)), true,
                    there && b->burst.frequency_hz > b->chain_hz});
  const double gate_v = arc::gate_voltage_v(s);
  parts_.push_back({"gate", "Gate transformer",
                    QString("%1 : 2 × %2").arg(s.gate_primary_turns).arg(s.gate_secondary_turns),
                    when(there ? QString("%1 T").arg(b->gate.flux_t, 0, 'f', 2) : QString()), true,
                    there && b->gate.flux_t > s.gate_core_limit_t});
  parts_.push_back({"gate", "Gates", print(gate_v, voltage),
                    QString("dead %1").arg(print(s.dead_time_s, arc::Dimension::time)), true,
                    gate_v < 12 || gate_v > s.device.gate_limit_v});
  current_ = std::clamp(current_, 0, static_cast<int>(parts_.size()) - 1);
  update();
}

void BridgePath::choose(const QString& key) {
  if (current_ < static_cast<int>(parts_.size()) && parts_[static_cast<std::size_t>(current_)].key == key) return;
  const auto it = std::ranges::find(parts_, key, &Part::key);
  if (it != parts_.end()) current_ = static_cast<int>(it - parts_.begin());
  update();
}

QRectF BridgePath::box(std::size_t index) const {
  const auto in_row = [&](bool below) {
    return static_cast<double>(std::ranges::count(parts_, below, &Part::below));
  };
  const bool below = parts_[index].below;
  double place = 0;
  for (std::size_t i = 0; i < index; ++i)
    if (parts_[i].below == below) ++place;
  const double wide = (width() - 2 * margin) / std::max(in_row(below), 1.0), high = height() / 2.0;
  // The way back runs from right to left.
  const double x = below ? width() - margin - (place + 1) * wide : margin + place * wide;
  return {x, below ? high : 0, wide, high};
}

int BridgePath::at(QPointF place) const {
  for (std::size_t i = 0; i < parts_.size(); ++i)
    if (box(i).contains(place)) return static_cast<int>(i);
  return -1;
}

// Symbols in a box of 44 by 34 around the middle.
void BridgePath::draw_symbol(QPainter& p, const Part& part, QRectF where) const {
  const QPointF c = where.center();
  const auto line = [&](double x1, double y1, double x2, double y2) {
    p.drawLine(c + QPointF(x1, y1), c + QPointF(x2, y2));
  };
  const auto coil = [&](double y, int bumps, double size) {
    QPainterPath path(c + QPointF(-bumps * size / 2, y));
    for (int i = 0; i < bumps; ++i)
      path.arcTo(QRectF(c.x() - bumps * size / 2 + i * size, c.y() + y - size / 2, size, size), 180, -180);
    p.drawPath(path);
  };
  const auto block = [&](const QString& text) {
    p.drawRect(QRectF(c.x() - 16, c.y() - 11, 32, 22));
    p.drawText(QRectF(c.x() - 16, c.y() - 11, 32, 22), Qt::AlignCenter, text);
  };
  if (part.title == "Mains") {
    p.drawEllipse(c, 12, 12);
    QPainterPath wave(c + QPointF(-8, 0));
    wave.cubicTo(c + QPointF(-4, -9), c + QPointF(-3, -5), c);
    wave.cubicTo(c + QPointF(3, 5), c + QPointF(4, 9), c + QPointF(8, 0));
    p.drawPath(wave);
  } else if (part.title == "Rectifier") {
    p.drawRect(QRectF(c.x() - 16, c.y() - 12, 32, 24));
    p.drawPolygon(QPolygonF{c + QPointF(-6, -6), c + QPointF(-6, 6), c + QPointF(5, 0)});
    line(5, -6, 5, 6);
    line(-12, 0, -6, 0);
    line(5, 0, 12, 0);
  } else if (part.title == "Reservoir" || part.title == "Tank") {
    line(-12, -3, 12, -3);
    line(-12, 3, 12, 3);
    line(0, -15, 0, -3);
    line(0, 3, 0, 15);
    if (part.title == "Reservoir") p.drawText(c + QPointF(-20, -5), "+");
  } else if (part.title.endsWith("bridge")) {
    const int legs = part.title.startsWith("Full") ? 2 : 1;
    for (int leg = 0; leg < legs; ++leg) {
      const double x = legs == 1 ? 0 : leg == 0 ? -9 : 9;
      for (const double y : {-8.0, 8.0}) {
        line(x, y - 7, x, y - 3);
        line(x, y + 3, x, y + 7);
        line(x, y + 3, x + 5, y - 4); // an open contact
      }
      line(x, -1, x, 1);
    }
  } else if (part.title == "Primary") {
    coil(2, 3, 11);
  } else if (part.title == "Resonator") {
    coil(2, 5, 7);
    line(0, -6, 0, -14);
    line(-10, -14, 10, -14);
  } else if (part.title == "Gate transformer") {
    coil(-4, 3, 9);
    line(-14, -1, 14, -1);
    line(-14, 2, 14, 2);
    coil(9, 3, 9);
  } else if (part.title == "Antenna") {
    line(0, 14, 0, -12);
    line(-9, -12, 9, -12);
    line(-9, -12, 0, -3);
    line(9, -12, 0, -3);
  } else if (part.title == "Driver") {
    p.drawPolygon(QPolygonF{c + QPointF(-12, -12), c + QPointF(-12, 12), c + QPointF(13, 0)});
  } else if (part.title == "Gates") {
    line(-8, -10, -8, 10);
    line(-3, -10, -3, 10);
    line(-3, -8, 10, -8);
    line(-3, 8, 10, 8);
    line(-18, 0, -8, 0);
  } else if (part.title.startsWith("Generator")) {
    block("G");
  } else { // current transformer
    p.drawEllipse(c, 9, 9);
    line(-18, 0, 18, 0);
  }
}

void BridgePath::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  for (std::size_t i = 0; i < parts_.size(); ++i) {
    const Part& part = parts_[i];
    const QRectF where = box(i).adjusted(3, 3, -3, -3);
    const bool current = static_cast<int>(i) == current_;
    if (current || static_cast<int>(i) == hovered_) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(current ? t.shade : t.card);
      painter.drawRoundedRect(where, 4, 4);
    }
    if (current && hasFocus()) {
      painter.setPen(QPen(t.arc, 1.4));
      painter.setBrush(Qt::NoBrush);
      painter.drawRoundedRect(where, 4, 4);
    }
    const QRectF symbol(where.x(), where.y() + title_height, where.width(), symbol_height);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.hairline, 1.4));
    const double middle = symbol.center().y(), out = symbol.center().x();
    // Joined to its neighbours, but for the ends.
    if (i > 0 && parts_[i - 1].below == part.below)
      painter.drawLine(QPointF(part.below ? where.right() + 3 : where.left() - 3, middle),
                       QPointF(part.below ? out + 24 : out - 24, middle));
    if (i + 1 < parts_.size() && parts_[i + 1].below == part.below)
      painter.drawLine(QPointF(part.below ? where.left() - 3 : where.right() + 3, middle),
                       QPointF(part.below ? out - 24 : out + 24, middle));
    painter.setPen(QPen(part.title == "Primary" || part.title == "Resonator" ? t.copper : t.ink, 1.4));
    painter.setFont(type::font(type::caption, QFont::DemiBold));
    draw_symbol(painter, part, symbol);
    const auto text = [&](double y, const QString& words, const QColor& colour, QFont::Weight weight) {
      const QFont font = type::font(type::caption, weight);
      painter.setFont(font);
      painter.setPen(colour);
      painter.drawText(QRectF(where.x(), y, where.width(), 15), Qt::AlignCenter,
                       QFontMetrics(font).elidedText(words, Qt::ElideRight, static_cast<int>(where.width())));
    };
    text(where.y(), part.title, t.second, QFont::Normal);
    const QString value = part.hot ? part.value + "  !" : part.value;
    text(symbol.bottom(), value, part.hot ? t.stop : t.ink, QFont::DemiBold);
    text(symbol.bottom() + 14, part.joint, part.hot ? t.stop : t.second, QFont::Normal);
  }
}

void BridgePath::mousePressEvent(QMouseEvent* event) {
  const int part = at(event->position());
  if (part < 0) return;
  current_ = part;
  update();
  Q_EMIT chosen(parts_[static_cast<std::size_t>(part)].key);
}

void BridgePath::mouseMoveEvent(QMouseEvent* event) {
  const int part = at(event->position());
  if (part == hovered_) return;
  hovered_ = part;
  if (part >= 0) {
    const Part& p = parts_[static_cast<std::size_t>(part)];
    setToolTip(QStringList{p.title, p.value, p.joint}.join("\n"));
  }
  update();
}

void BridgePath::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

void BridgePath::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (way == 0 || parts_.empty()) {
    QWidget::keyPressEvent(event);
    return;
  }
  const int last = static_cast<int>(parts_.size()) - 1;
  current_ = std::clamp(current_ + (parts_[static_cast<std::size_t>(current_)].below ? -way : way), 0, last);
  update();
  Q_EMIT chosen(parts_[static_cast<std::size_t>(current_)].key);
}

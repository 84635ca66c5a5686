// Parts of the path, their words, and their symbols after IEC 60617.
#include "crafts/bridges/bridge_path.h"

#include "craft/design_fields.h"
#include "feed/circuit_symbols.h"
#include "model/fields.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace {

using enum arc::Dimension;
constexpr double title_height = 16, margin = 10;

const char* hears(arc::Feedback feedback) {
  return feedback == arc::Feedback::antenna ? "antenna"
         : feedback == arc::Feedback::fixed ? "generator"
                                            : "current-transformer";
}

} // namespace

BridgePath::BridgePath(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  grey_while_stale(workspace, this, true);
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
  const Print print{workspace_};
  const auto choice = [&](const char* key) {
    const arc::ChoiceSpec& spec = arc::design_choice(key);
    return text_of(spec.choices[spec.get(d)].title);
  };
  const auto share = [](const QString& part, const QString& whole) { // "29.3 of 80 A"
    const bool same_unit = part.section(' ', 1) == whole.section(' ', 1);
    return (same_unit ? part.section(' ', 0, 0) : part) + " of " + whole;
  };
  const bool there = b && b->problem.empty();
  const auto when = [&](const QString& text) { return there ? text : QString("–"); };
  parts_.clear();
  parts_.push_back({"source", "bus", "Mains", print(d.site.mains_voltage_v, voltage),
                    there ? print(b->line_a, current, 2) : QString()});
  const arc::Bus bus = arc::bus_of(d);
  parts_.push_back({"rectifier", "bus", "Rectifier",
                    s.bus_voltage_v ? "measured bus"
                    : bus.doubled   ? "doubler"
                                    : "bridge",
                    print(there ? b->circuit.bus_v : bus.volts, voltage)});
  parts_.push_back({"electrolytics", "bus", "Reservoir", print(bus.reservoir.capacitance_f, capacitance),
                    when(there ? QString("−%1 a burst").arg(print(b->burst.droop_v, voltage, 2)) : QString()),
                    false, there && b->burst.droop_v > 0.15 * b->circuit.bus_v});
  parts_.push_back(
      {s.legs == arc::BridgeLegs::full ? "full-bridge" : "half-bridge", "switches",
       s.legs == arc::BridgeLegs::full ? "Full bridge" : "Half bridge", choice("bridge.switch_type"),
       when(there ? share(print(b->burst.primary_peak_a, current), print(s.device.pulse_rating_a, current, 2))
                  : QString()),
       false, there && b->burst.primary_peak_a > s.device.pulse_rating_a});
  if (arc::is_dual_resonant(d))
    parts_.push_back({"capacitor", "limit", "Tank", there ? print(*b->circuit.series_f, capacitance) : "–",
                      when(there ? print(b->burst.series_peak_v, voltage) : QString())});
  const auto analysis = workspace_.document.analysis();
  parts_.push_back({"primary", "limit", "Primary", analysis ? print(analysis->circuit.primary_h, inductance) : "–",
                    analysis ? QString("k %1").arg(analysis->circuit.coupling, 0, 'f', 3) : QString()});
  parts_.push_back({"resonator", "feedback", "Resonator",
                    when(there ? print(b->burst.frequency_hz, frequency, 4) : QString()),
                    when(there ? print(b->burst.top_peak_v, voltage) : QString())});
  // and back
  parts_.push_back({hears(s.feedback), "feedback", choice("bridge.feedback"),
                    there && b->signal_v ? print(*b->signal_v, voltage) : QString(),
                    s.feedback == arc::Feedback::fixed
                        ? print(s.fixed_frequency_hz, frequency, 4)
                        : QString("threshold %1").arg(print(s.input_threshold_v, voltage)),
                    true});
  parts_.push_back({"driver", "drive", "Driver", print(arc::chain_delay_s(s), arc::Dimension::time),
                    QString("to %1").arg(print(arc::chain_limit_hz(s), frequency)), true,
                    there && b->burst.frequency_hz > b->chain_hz});
  const double gate_v = arc::gate_voltage_v(s);
  parts_.push_back({"gate-transformer", "gate", "Gate transformer",
                    QString("%1 : 2 × %2").arg(s.gate_primary_turns).arg(s.gate_secondary_turns),
                    when(there ? QString("%1 T").arg(b->gate.flux_t, 0, 'f', 2) : QString()), true,
                    there && b->gate.flux_t > s.gate_core_limit_t});
  parts_.push_back({"gates", "gate", "Gates", print(gate_v, voltage),
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
    draw_circuit_symbol(painter, part.symbol, symbol.center());
    const auto text = [&](double y, const QString& words, const QColor& colour, QFont::Weight weight) {
      QFont font = type::font(type::caption, weight);
      if (QFontMetrics(font).horizontalAdvance(words) >= static_cast<int>(where.width()))
        font.setStretch(85); // seven parts at 1024
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
  tell_cursor(*this);
  Q_EMIT chosen(parts_[static_cast<std::size_t>(current_)].key);
}

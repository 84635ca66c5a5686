// Draws the parts of the path; which there are, and their words, are core's.
#include "crafts/bridges/bridge_path.h"

#include "crafts/bridges/path.h"
#include "feed/circuit_symbols.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace {

constexpr double title_height = 16, margin = 10;

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

void BridgePath::show(const arc::BridgeAnalysis* bridge) {
  const auto analysis = workspace_.document.analysis();
  parts_.clear();
  for (const arc::PathPart& part :
       arc::bridge_path(workspace_.document.design(), analysis.get(), bridge, workspace_.units()))
    parts_.push_back({text_of(part.symbol), text_of(part.key), QString::fromStdString(part.title),
                      QString::fromStdString(part.value), QString::fromStdString(part.joint), part.below, part.hot,
                      part.wound});
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
    painter.setPen(QPen(part.wound ? t.copper : t.ink, 1.4));
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

// One block of the feed on its strip: its symbol and name, dragged along the wire.
#pragma once

#include "craft/kind.h"
#include "feed/circuit_symbols.h"
#include "feed/feed_ends.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "workshop/reservoir_offers.h"
#include <QAbstractButton>
#include <QCheckBox>
#include <QContextMenuEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

inline constexpr int name_height = 16, block_height = 60, joint_height = 45,
                     row_height = block_height + joint_height;
inline constexpr int wire_y = name_height + 2 + 20; // of a block, where the path runs
inline constexpr int wall_width = 52, end_width = 100, least_cell = 54, most_cell = 168;
inline constexpr int end_middle = 64; // of what the path ends in, behind the last joint

// A block's symbol on the path. Dragged it moves along the path.
class PathBlock : public QAbstractButton {
 public:
  PathBlock(Workspace& workspace, FeedStrip& strip, std::size_t index)
      : QAbstractButton(&strip), workspace_(workspace), strip_(strip), index_(index) {
    const arc::BlockKind& kind = *arc::block_kind(workspace.document.design().feed[index].kind);
    setObjectName(QString("block %1").arg(index + 1));
    setCheckable(true);
    setProperty("own enter", true); // goes to its numbers
    setText(text_of(kind.brief));
    symbol_ = text_of(kind.key);
    connect(this, &QAbstractButton::clicked, &strip, [this] { strip_.choose(index_); });
  }
  QSize sizeHint() const override { return {least_cell, block_height}; }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = workspace_.theme();
    const bool current = index_ == strip_.chosen();
    const QRectF whole = QRectF(rect()).adjusted(1.5, 0.5, -1.5, -0.5);
    if (current || underMouse() || dragged_) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(current ? t.shade : t.card);
      painter.drawRoundedRect(whole, 4, 4);
    }
    if (hasFocus()) {
      painter.setPen(QPen(t.arc, 1.6));
      painter.setBrush(Qt::NoBrush);
      painter.drawRoundedRect(whole, 4, 4);
    }
    const double middle = width() / 2.0;
    painter.setPen(QPen(t.copper, 1.6));
    painter.drawLine(QPointF(0, wire_y), QPointF(middle - symbol_width / 2, wire_y));
    painter.drawLine(QPointF(middle + symbol_width / 2, wire_y), QPointF(width(), wire_y));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.ink, 1.4));
    painter.setFont(type::font(type::caption, QFont::DemiBold));
    draw_circuit_symbol(painter, symbol_, {middle, wire_y});
    const QFont font = type::font(type::caption, current ? QFont::DemiBold : QFont::Normal);
    painter.setFont(font);
    painter.setPen(current ? t.ink : t.second);
    painter.drawText(QRectF(0, 1, width(), name_height), Qt::AlignCenter,
                     QFontMetrics(font).elidedText(text(), Qt::ElideRight, width()));
  }
  void mousePressEvent(QMouseEvent* event) override {
    start_ = event->position().toPoint();
    QAbstractButton::mousePressEvent(event);
  }
  void mouseMoveEvent(QMouseEvent* event) override {
    const QPoint at = event->position().toPoint();
    if (!(event->buttons() & Qt::LeftButton) || (!dragged_ && (at - start_).manhattanLength() < 8)) return;
    dragged_ = true;
    setCursor(Qt::ClosedHandCursor);
    strip_.show_place(mapToParent(at));
  }
  void mouseReleaseEvent(QMouseEvent* event) override {
    unsetCursor();
    strip_.show_place({-1, -1});
    if (!std::exchange(dragged_, false)) {
      QAbstractButton::mouseReleaseEvent(event);
      return;
    }
    setDown(false);
    update();
    strip_.move_block(index_, strip_.place_at(mapToParent(event->position().toPoint())));
  }
  void contextMenuEvent(QContextMenuEvent* event) override {
    strip_.choose(index_);
    strip_.show_menu(index_, event->reason() == QContextMenuEvent::Keyboard ? mapToGlobal(rect().bottomLeft())
                                                                            : event->globalPos());
  }
  void focusInEvent(QFocusEvent* event) override {
    QAbstractButton::focusInEvent(event);
    strip_.choose(index_);
  }
  void keyPressEvent(QKeyEvent* event) override {
    const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    const bool with_control = event->modifiers() & Qt::ControlModifier;
    const auto last = static_cast<int>(strip_.blocks_.size()) - 1, here = static_cast<int>(index_);
    if (way != 0 && with_control) {
      if (here + way >= 0 && here + way <= last)
        strip_.move_block(index_, static_cast<std::size_t>(way > 0 ? here + 2 : here - 1));
    } else if (way != 0) {
      strip_.focus_block(static_cast<std::size_t>(std::clamp(here + way, 0, last)));
    } else if (event->key() == Qt::Key_Home || event->key() == Qt::Key_End) {
      strip_.focus_block(event->key() == Qt::Key_Home ? 0 : static_cast<std::size_t>(last));
    } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
      strip_.remove_block(index_);
    } else if (event->key() == Qt::Key_Insert) {
      strip_.show_menu(index_, mapToGlobal(rect().bottomLeft()));
    } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
      strip_.edit_numbers();
    } else {
      QAbstractButton::keyPressEvent(event);
    }
  }

 private:
  Workspace& workspace_;
  FeedStrip& strip_;
  std::size_t index_;
  QString symbol_;
  QPoint start_;
  bool dragged_ = false;
};

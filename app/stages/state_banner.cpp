// Letters as large as both lines leave room for.
#include "stages/state_banner.h"

#include <QPainter>

StateBanner::StateBanner(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("state");
  setFixedHeight(66);
  setMinimumWidth(240);
  set_state("NOT ARMED", "tick every check to arm", false);
}

void StateBanner::set_state(const QString& word, const QString& detail, bool armed) {
  word_ = word;
  detail_ = detail;
  armed_ = armed;
  setAccessibleName(word + ", " + detail);
  setToolTip(detail);
  update();
}

void StateBanner::paintEvent(QPaintEvent*) {
  const Theme& t = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QColor colour = armed_ ? t.stop : t.ink;
  painter.setPen(QPen(colour, 2.5, armed_ ? Qt::SolidLine : Qt::DashLine));
  painter.setBrush(armed_ ? colour : t.card);
  painter.drawRoundedRect(QRectF(rect()).adjusted(2, 2, -2, -2), armed_ ? 2 : 12, armed_ ? 2 : 12);
  painter.setPen(armed_ ? t.paper : colour);
  const QRect room = rect().adjusted(16, 4, -12, -4);
  const auto put = [&](const QString& words, QFont::Weight weight, int most, int lines, const QRect& at) {
    int letters = most;
    const auto height = [&] {
      return QFontMetrics(type::font(letters, weight))
          .boundingRect(QRect(0, 0, at.width(), 1000), Qt::TextWordWrap, words)
          .height();
    };
    const auto line = [&] { return QFontMetrics(type::font(letters, weight)).height(); };
    while (letters > type::caption && (height() > at.height() || height() > lines * line() + 2)) --letters;
    painter.setFont(type::font(letters, weight));
    painter.drawText(at, Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, words);
  };
  const int split = room.top() + 34;
  put(word_, QFont::DemiBold, type::bench + 4, 1, QRect(room.left(), room.top(), room.width(), 34));
  put(detail_, QFont::Medium, type::heading, 2, QRect(room.left(), split, room.width(), room.bottom() - split));
}

// Wrapped link.
#include "toolkit/link_button.h"

#include <QPainter>

LinkButton::LinkButton(Workspace& workspace, const QString& text, QWidget* parent)
    : QAbstractButton(parent), workspace_(workspace) {
  setText(text);
  setFont(type::font(type::body, QFont::Medium));
  setCursor(Qt::PointingHandCursor);
  setAttribute(Qt::WA_Hover);
  QSizePolicy policy(QSizePolicy::Ignored, QSizePolicy::Minimum);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
}

int LinkButton::heightForWidth(int width) const {
  return fontMetrics().boundingRect(QRect(0, 0, std::max(20, width - 4), 1000), Qt::TextWordWrap, text()).height() +
         4;
}

void LinkButton::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(workspace_.theme().arc, 1));
  if (hasFocus()) painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  QFont face = font();
  face.setUnderline(underMouse());
  painter.setFont(face);
  painter.drawText(rect().adjusted(0, 2, 0, -2), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, text());
}

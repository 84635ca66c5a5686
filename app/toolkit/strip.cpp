// Words on the left, buttons on the right.
#include "toolkit/strip.h"

#include "toolkit/text.h"

#include <QStyle>

Strip::Strip(const QString& name, const QString& text_name, QWidget* parent)
    : QWidget(parent), row_(new QHBoxLayout(this)), words_(make_text(this)) {
  setObjectName(name);
  setAttribute(Qt::WA_StyledBackground);
  row_->setContentsMargins(space::large, 6, space::large, 6);
  words_->setObjectName(text_name);
  words_->setWordWrap(true);
  words_->setFont(type::font(type::body, QFont::Medium));
  row_->addWidget(words_, 1);
}

void Strip::set_loud(bool loud) {
  setProperty("loud", loud);
  words_->setFont(type::font(loud ? type::heading : type::body, loud ? QFont::DemiBold : QFont::Medium));
  for (QWidget* widget : {static_cast<QWidget*>(this), static_cast<QWidget*>(words_)}) {
    style()->unpolish(widget);
    style()->polish(widget);
  }
}

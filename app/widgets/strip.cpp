// Words on the left, buttons on the right.
#include "widgets/strip.h"

#include "widgets/text.h"

Strip::Strip(const QString& name, const QString& text_name, QWidget* parent)
    : QWidget(parent), row_(new QHBoxLayout(this)), words_(make_text(this)) {
  setObjectName(name);
  row_->setContentsMargins(space::large, 6, space::large, 6);
  words_->setObjectName(text_name);
  words_->setWordWrap(true);
  words_->setFont(type::font(type::body, QFont::Medium));
  row_->addWidget(words_, 1);
}

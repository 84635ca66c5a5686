// A strip across the window that says something and offers what to do about it.
#pragma once

#include "base/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

class Strip : public QWidget {
 public:
  /// `name` is its object name, `text_name` that of its words.
  Strip(const QString& name, const QString& text_name, QWidget* parent);

  QLabel& words() { return *words_; }
  /// In the colour of a stop, in larger letters: for what must be seen from the bench.
  void set_loud(bool loud);
  /// A button at its end, before those that come later.
  template <typename Action>
  QPushButton* add_button(const char* name, const char* words, const char* tip, Action action) {
    auto* button = new QPushButton(words, this);
    button->setObjectName(name);
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, action);
    row_->addWidget(button);
    return button;
  }

 private:
  QHBoxLayout* row_;
  QLabel* words_;
};

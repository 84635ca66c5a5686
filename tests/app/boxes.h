// Boxes, sheets and menus that stand in front of the window and wait for an answer.
#pragma once

#include <QAbstractButton>
#include <QApplication>
#include <QTimer>
#include <QWidget>
#include <gtest/gtest.h>

/// Calls `act` with the next of this type in front, as soon as it is there, however long that takes.
template <typename Box = QWidget, typename Act>
void in_next(Act act) {
  QTimer::singleShot(0, [act] {
    QWidget* front = QApplication::activePopupWidget();
    if (!front) front = QApplication::activeModalWidget();
    auto* box = qobject_cast<Box*>(front);
    if (box && box->isVisible())
      act(*box);
    else
      in_next<Box>(act);
  });
}

/// Presses the button with these words in the next box.
inline void answer_next_box(const QString& text) {
  in_next([text](QWidget& box) {
    for (QAbstractButton* button : box.findChildren<QAbstractButton*>())
      if (button->text().remove('&') == text) return button->click();
    ADD_FAILURE() << "no button " << text.toStdString();
    box.close();
  });
}

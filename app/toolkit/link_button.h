// A text that acts like a button: wrapped to the width it gets, underlined under the pointer, reachable by
// keyboard.
#pragma once

#include "base/workspace.h"

#include <QAbstractButton>

class LinkButton : public QAbstractButton {
 public:
  LinkButton(Workspace& workspace, const QString& text, QWidget* parent = nullptr);
  QSize sizeHint() const override { return {140, heightForWidth(200)}; }
  QSize minimumSizeHint() const override { return {60, 18}; }
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  Workspace& workspace_;
};

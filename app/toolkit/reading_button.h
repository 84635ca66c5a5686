// A result as it hangs beside its part: value, band and name; pressing it opens the "why".
#pragma once

#include "base/workspace.h"
#include "craft/kind.h"
#include "simulation/figures.h"
#include "toolkit/when_seen.h"

#include <QAbstractButton>

class ReadingButton : public QAbstractButton {
  Q_OBJECT
 public:
  ReadingButton(Workspace& workspace, std::string_view key, QWidget* parent = nullptr);
  QSize sizeHint() const override;
  QString value_text();
  /// Whether it says something of this kind of coil.
  bool says_of(const arc::CoilKind& kind) const { return arc::belongs_to(figure_, kind); }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void enterEvent(QEnterEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void refresh();
  void show_why();
  QString plain_value() const; // SI units
  QFont value_font() const;

  Workspace& workspace_;
  const arc::Figure& figure_;
  WhenSeen* seen_ = nullptr;
  bool beside_ = false; // another figure counts in its place
  QString value_;
  QString band_;
  QString title_;
};

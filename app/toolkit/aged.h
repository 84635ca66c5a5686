// What shows a simulation says whether it is current: from the edit on, before anything is computed, until figures
// of the design as it stands are there, it lies behind a thin sheet of paper.
#pragma once

#include "base/workspace.h"

#include <QEvent>
#include <QPainter>
#include <QWidget>

/// The sheet over a widget; keys and pointer go through it.
class Veil : public QWidget {
 public:
  Veil(Workspace& workspace, QWidget* over) : QWidget(over), workspace_(workspace) {
    setObjectName("stale");
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setFocusPolicy(Qt::NoFocus);
    over->installEventFilter(this);
    resize(over->size());
    hide();
  }
  void cover(bool stale) {
    if (stale == !isHidden()) return;
    setVisible(stale);
    if (stale) raise();
    parentWidget()->setAccessibleDescription(stale ? "of the design before the last change" : QString());
  }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (watched == parent() && event->type() == QEvent::Resize) resize(parentWidget()->size());
    return false;
  }
  void paintEvent(QPaintEvent*) override {
    constexpr int opacity = 140;
    QColor paper = workspace_.theme().paper;
    paper.setAlpha(opacity);
    QPainter(this).fillRect(rect(), paper);
  }

 private:
  Workspace& workspace_;
};

/// Greys words, a table or a drawing while the document's simulation is not of the design as it stands. What can be
/// chosen in it cannot be then, unless it `stays_alive`.
/// Once for each part, however often it is asked.
inline void grey_while_stale(Workspace& workspace, QWidget* part, bool stays_alive = false) {
  if (part->findChild<QWidget*>("stale", Qt::FindDirectChildrenOnly)) return;
  auto* veil = new Veil(workspace, part);
  const auto show = [&workspace, part, veil, stays_alive] {
    const bool current = workspace.document.power_is_current();
    if (!stays_alive) part->setEnabled(current);
    veil->cover(workspace.document.power() && !current);
  };
  QObject::connect(&workspace.document, &Document::design_changed, veil, show);
  QObject::connect(&workspace.document, &Document::power_changed, veil, show);
  show();
}

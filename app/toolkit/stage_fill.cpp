// What was hidden is remembered with the stage.
#include "toolkit/stage_fill.h"

#include <QList>
#include <QPointer>
#include <QVariant>
#include <QWidget>

namespace {

class Hidden : public QObject {
 public:
  explicit Hidden(QWidget* stage) : QObject(stage) { setObjectName("hidden by a fill"); }
  QList<QPointer<QWidget>> widgets;
};

Hidden* hidden_of(const QWidget& stage) {
  return static_cast<Hidden*>(stage.findChild<QObject*>("hidden by a fill", Qt::FindDirectChildrenOnly));
}

} // namespace

QWidget* stage_of(QWidget& part) {
  for (QWidget* w = &part; w->parentWidget(); w = w->parentWidget())
    if (w->parentWidget()->objectName() == "canvas") return w;
  return nullptr;
}

bool is_filled(const QWidget& stage) {
  return hidden_of(stage) != nullptr;
}

void fill_stage(QWidget& stage, QWidget& part) {
  if (is_filled(stage) || !stage.isAncestorOf(&part)) return;
  auto* hidden = new Hidden(&stage);
  for (QWidget* child = &part; child != &stage; child = child->parentWidget())
    for (QWidget* other : child->parentWidget()->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
      if (other == child || other->isHidden() || other->isWindow()) continue;
      hidden->widgets << other;
      other->hide();
    }
}

void unfill_stage(QWidget& stage) {
  Hidden* hidden = hidden_of(stage);
  if (!hidden) return;
  for (const QPointer<QWidget>& widget : hidden->widgets)
    if (widget) widget->show();
  delete hidden;
}

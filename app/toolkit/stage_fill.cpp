// What was hidden, and how wide the part and what holds it were let, is remembered with the stage.
#include "toolkit/stage_fill.h"

#include <QList>
#include <QPointer>
#include <QVariant>
#include <QWidget>
#include <utility>

namespace {

constexpr int enough = 560; // pixels for a list; every stage has them

class Filled : public QObject {
 public:
  explicit Filled(QWidget* stage) : QObject(stage) { setObjectName("what a fill has changed"); }
  QList<QPointer<QWidget>> hidden;
  QList<std::pair<QPointer<QWidget>, std::pair<int, int>>> widths; // least and most
};

Filled* filled_of(const QWidget& stage) {
  return static_cast<Filled*>(stage.findChild<QObject*>("what a fill has changed", Qt::FindDirectChildrenOnly));
}

} // namespace

QWidget* stage_of(QWidget& part) {
  for (QWidget* w = &part; w->parentWidget(); w = w->parentWidget())
    if (w->parentWidget()->objectName() == "canvas") return w;
  return nullptr;
}

bool is_filled(const QWidget& stage) {
  return filled_of(stage) != nullptr;
}

void fill_stage(QWidget& stage, QWidget& part) {
  if (is_filled(stage) || !stage.isAncestorOf(&part)) return;
  auto* filled = new Filled(&stage);
  for (QWidget* child = &part; child != &stage; child = child->parentWidget()) {
    filled->widths.emplace_back(child, std::pair(child->minimumWidth(), child->maximumWidth()));
    child->setMaximumWidth(QWIDGETSIZE_MAX);
    child->setMinimumWidth(enough); // the stretch of what is hidden would keep a side column narrow
    for (QWidget* other : child->parentWidget()->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
      if (other == child || other->isHidden() || other->isWindow()) continue;
      filled->hidden << other;
      other->hide();
    }
  }
}

void unfill_stage(QWidget& stage) {
  Filled* filled = filled_of(stage);
  if (!filled) return;
  for (const auto& [widget, width] : filled->widths) {
    if (!widget) continue;
    widget->setMinimumWidth(width.first);
    widget->setMaximumWidth(width.second);
  }
  for (const QPointer<QWidget>& widget : filled->hidden)
    if (widget) widget->show();
  delete filled;
}

// Offers the unsaved work that earlier windows left behind, one piece after the other, until the builder has
// decided about each. Stands apart from other notices, so that none hides the offer.
#pragma once

#include "base/workspace.h"
#include "toolkit/strip.h"

#include <functional>
#include <vector>

class RecoveryStrip : public Strip {
  Q_OBJECT
 public:
  /// `may_leave` is asked before the open design is replaced.
  RecoveryStrip(Workspace& workspace, std::function<bool()> may_leave, QWidget* parent = nullptr);

 Q_SIGNALS:
  void failed(const QString& problem);

 private:
  void offer();
  void recover();
  void discard();

  Workspace& workspace_;
  std::function<bool()> may_leave_;
  std::vector<RecoverableWork> works_;
  std::size_t at_ = 0;
  QPushButton* next_ = nullptr;
};

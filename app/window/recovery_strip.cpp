// The strip of recoverable work.
#include "window/recovery_strip.h"

#include <QFileInfo>

namespace {

QString age(const QDateTime& when) {
  const qint64 minutes = when.secsTo(QDateTime::currentDateTime()) / 60;
  if (minutes < 1) return "less than a minute ago";
  if (minutes < 120) return QString("%1 min ago").arg(minutes);
  if (minutes < 48 * 60) return QString("%1 h ago").arg(minutes / 60);
  return "of " + when.toString("yyyy-MM-dd");
}

} // namespace

RecoveryStrip::RecoveryStrip(Workspace& workspace, std::function<bool()> may_leave, QWidget* parent)
    : Strip("recovery", "recoverable", parent), workspace_(workspace), may_leave_(std::move(may_leave)) {
  add_button("recover", "Recover", "Opens it here, as changes not saved yet", [this] { recover(); });
  add_button("discard recovery", "Discard", "Deletes this piece of work for good", [this] { discard(); });
  next_ = add_button("next recovery", "Next", "Shows the next piece", [this] {
    at_ = (at_ + 1) % works_.size();
    offer();
  });
  add_button("later recovery", "Later", "Keeps everything; it is offered again at the next start",
             [this] { hide(); });
  works_ = workspace_.document.recoverable();
  offer();
}

void RecoveryStrip::offer() {
  setVisible(!works_.empty());
  if (works_.empty()) return;
  at_ = std::min(at_, works_.size() - 1);
  const RecoverableWork& work = works_[at_];
  QString text = QString("%1: “%2”, %3")
                     .arg(!work.run      ? "Unsaved work"
                          : work.changed ? "Unsaved work and a run that is not logged"
                                         : "A run that is not logged",
                          work.name, age(work.when));
  if (!work.origin.isEmpty()) text += QString(", of %1").arg(QFileInfo(work.origin).fileName());
  if (works_.size() > 1) text += QString(" (%1 of %2)").arg(at_ + 1).arg(works_.size());
  words().setText(text + ".");
  words().setToolTip(work.origin);
  next_->setVisible(works_.size() > 1);
}

void RecoveryStrip::recover() {
  if (!may_leave_()) return;
  const RecoverableWork work = works_[at_];
  QString problem;
  if (!workspace_.document.recover(work, &problem)) {
    Q_EMIT failed(QString("“%1” cannot be recovered: %2 It stays in %3.").arg(work.name, problem, work.file));
    return;
  }
  works_.erase(works_.begin() + static_cast<std::ptrdiff_t>(at_));
  offer();
}

void RecoveryStrip::discard() {
  Recovery::remove(works_[at_]);
  works_.erase(works_.begin() + static_cast<std::ptrdiff_t>(at_));
  offer();
}

// The workshop's shelf: one for all designs, kept in the data folder and written atomically at every change. Until
// there is a file it is the starter shelf.
#pragma once

#include "parts/shelf.h"

#include <QObject>
#include <QString>
#include <functional>
#include <vector>

class ShelfStore : public QObject {
  Q_OBJECT
 public:
  explicit ShelfStore(QString path, QObject* parent = nullptr);

  const arc::Shelf& shelf() const { return shelf_; }
  /// Still the invented starter shelf, untouched.
  bool starter() const { return starter_; }
  /// What went wrong when the shelf was read; empty when nothing did. The unreadable file is kept beside it.
  QString problem() const { return problem_; }

  void edit(const std::function<void(arc::Shelf&)>& change);
  bool can_undo() const { return !history_.empty(); }
  void undo();

 Q_SIGNALS:
  void changed();
  /// The shelf could not be read or written: why, and what now.
  void trouble(const QString& problem);

 private:
  void write();

  QString path_;
  arc::Shelf shelf_;
  std::vector<arc::Shelf> history_;
  bool starter_ = false;
  QString problem_;
};

// The workshop's shelf: one for all designs and all windows, kept in the data folder and written atomically at
// every change. Until there is a file it is the starter shelf. A change made in another window is taken in as it
// comes, and a change made here is made to what the file holds then.
#pragma once

#include "base/file_io.h"
#include "workshop/shelf.h"

#include <QFileSystemWatcher>
#include <QObject>
#include <QString>
#include <functional>
#include <vector>

class ShelfStore : public QObject {
  Q_OBJECT
 public:
  explicit ShelfStore(QString path, QObject* parent = nullptr);

  const arc::Shelf& shelf() const { return shelf_; }
  /// Still holds invented parts of the starter shelf.
  bool has_invented() const;
  /// What went wrong when the shelf was read at the start; empty when nothing did. The unreadable file is kept
  /// beside it.
  QString problem() const { return problem_; }

  void edit(const std::function<void(arc::Shelf&)>& change);
  bool can_undo() const { return !history_.empty(); }
  void undo();

 Q_SIGNALS:
  void changed();
  /// The shelf could not be read or written: why, and what now.
  void trouble(const QString& problem);

 private:
  bool read(arc::Shelf* shelf, QString* problem) const;
  void replace(const arc::Shelf& wanted);
  bool changed_elsewhere() const;
  void take_in();
  void watch();

  QString path_;
  arc::Shelf shelf_;
  std::vector<arc::Shelf> history_;
  QString problem_;
  FileStamp stamp_;
  QFileSystemWatcher watcher_;
};

// Unsaved work on disk: one file for each window, named after its design, kept until the builder decides. A lock
// beside each file tells whether the window that writes it still runs; what a running window keeps is nobody else's
// to offer.
#pragma once

#include "workshop/unsaved.h"

#include <QDateTime>
#include <QLockFile>
#include <QString>
#include <memory>
#include <vector>

/// One piece of work left behind by a window that ended without saving.
struct RecoverableWork {
  QString file;   // of the recovery folder
  QString name;   // of the design
  QString origin; // path of the design's own file; empty when it was never saved
  QDateTime when;
  bool changed = true; // the design was
  bool run = false;    // a run was going on or not logged
};

class Recovery {
 public:
  /// `folder` is made when something is first written to it.
  explicit Recovery(QString folder);
  ~Recovery();

  /// Keeps the work, for nobody else to read; false with the reason when it cannot.
  bool keep(const arc::Unsaved& work, QString* problem);
  /// This window's work is saved or given up: its file goes.
  void forget();

  /// What other windows left behind, newest first; without what running ones keep.
  std::vector<RecoverableWork> left_behind() const;
  /// Reads a piece of work; throws arc::DesignFileError or sets the reason when it cannot be read.
  static bool read(const RecoverableWork& work, arc::Unsaved* unsaved, QString* problem);
  /// The builder has taken it over or thrown it away.
  static void remove(const RecoverableWork& work);

 private:
  bool own_file(const QString& name, QString* problem);

  QString folder_;
  QString path_; // of this window's file, empty until something was kept
  std::unique_ptr<QLockFile> lock_;
};

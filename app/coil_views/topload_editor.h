// The parts of the topload as rows: shape, its lengths, its height; parts are added and taken away.
#pragma once

#include "base/workspace.h"

#include <QVBoxLayout>
#include <QWidget>

class QHBoxLayout;

class ToploadEditor : public QWidget {
  Q_OBJECT
 public:
  explicit ToploadEditor(Workspace& workspace, QWidget* parent = nullptr);

 private:
  void rebuild_if_needed();
  QWidget* row(std::size_t index);
  void add_shape(std::size_t index, QWidget* box, QHBoxLayout* first);
  void add_lengths(std::size_t index, QWidget* box, QHBoxLayout* layout);
  void add_links(std::size_t index, QWidget* box, QHBoxLayout* first);
  void add_remove(std::size_t index, QWidget* box, QHBoxLayout* first);
  void read_profile(std::size_t index);

  Workspace& workspace_;
  QVBoxLayout* rows_;
  QStringList shown_shapes_;
  bool built_ = false;
};

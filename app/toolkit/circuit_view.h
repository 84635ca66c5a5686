// A circuit diagram whose parts can be pointed at: what each is and the live volts, amperes and watts at it. A
// click on a part goes to its field; arrow keys go from part to part; its menu saves the diagram.
#pragma once

#include "base/workspace.h"
#include "circuit/schematic.h"
#include "toolkit/spoken.h"

#include <QWidget>

class CircuitView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  /// `name` is its object name, `words` what a screen reader says, `file` that of a saved diagram.
  CircuitView(Workspace& workspace, const QString& name, const QString& words, const QString& file,
              QWidget* parent = nullptr);

  void show(arc::Schematic schematic);
  const std::vector<arc::SchematicPart>& parts() const { return schematic_.parts; }
  QString readings() const override;
  QString at_cursor() const override;
  /// Asks for a file and writes the diagram to it.
  void save();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  QSize sizeHint() const override { return {600, 262}; }

 private:
  int part_at(QPointF place) const;
  void go(int part);

  Workspace& workspace_;
  const QString file_;
  arc::Schematic schematic_{.width = 1, .height = 1};
  int current_ = 0, hovered_ = -1;
};

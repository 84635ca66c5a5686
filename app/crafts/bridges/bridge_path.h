// The path of power at a glance: mains, rectifier, reservoir, switches, primary, resonator and arc in ordinary
// circuit symbols, with what stands at each; below them the way back, from what is heard to the gates. Choosing a
// part asks for its fields.
#pragma once

#include "base/workspace.h"
#include "crafts/bridges/bridge.h"
#include "toolkit/spoken.h"

#include <QWidget>
#include <memory>
#include <vector>

class BridgePath : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit BridgePath(Workspace& workspace, QWidget* parent = nullptr);

  struct Part {
    QString symbol;     // see feed/circuit_symbols.h
    QString key;        // page of fields that belongs to it
    QString title;      // "Reservoir"
    QString value;      // "820 µF"
    QString joint;      // what stands behind it: "325 V, −2.1 V in a burst"
    bool below = false; // on the way back
    bool hot = false;   // beyond a limit
    bool wound = false; // drawn in the coil's own colour
    QString said() const { return part_words(title, {value, joint}, hot); }
  };
  const std::vector<Part>& parts() const { return parts_; }
  QString readings() const override { return all_said(parts_); }
  QString at_cursor() const override { return said_at(parts_, current_); }
  void show(const arc::BridgeAnalysis* bridge);
  /// Marks the parts of a page as chosen.
  void choose(const QString& key);

 Q_SIGNALS:
  void chosen(const QString& key);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  QSize sizeHint() const override { return {900, 168}; }

 private:
  QRectF box(std::size_t index) const;
  int at(QPointF place) const;

  Workspace& workspace_;
  std::vector<Part> parts_;
  int current_ = 0, hovered_ = -1;
};

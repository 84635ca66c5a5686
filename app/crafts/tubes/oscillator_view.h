// The oscillator as a circuit in ordinary symbols (after IEC 60617), with what each part is and the live volts,
// amperes and watts at it. A click on a part goes to its field; arrow keys go from part to part.
#pragma once

#include "base/workspace.h"
#include "crafts/tubes/tube.h"
#include "toolkit/spoken.h"

#include <QPainter>
#include <QWidget>
#include <vector>

class OscillatorView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit OscillatorView(Workspace& workspace, QWidget* parent = nullptr);

  struct Part {
    QString key;
    QString title; // "Grid leak"
    QString value; // "1.5 kΩ"
    QString live;  // "2.8 W of 100 W"
    QString field; // its field, and the stage where that is
    QString stage = "oscillator";
    bool hot = false; // beyond a limit
    QRectF box = {};  // of symbol and words, in units of the drawing
    QRectF words = {};
    Qt::Alignment side = Qt::AlignLeft;
    QString said() const { return part_words(title, {value, live}, hot); }
  };
  const std::vector<Part>& parts() const { return parts_; }
  QString readings() const override { return all_said(parts_); }
  QString at_cursor() const override { return said_at(parts_, current_); }
  void show(const arc::TubePower* tube);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  QSize sizeHint() const override { return {600, 262}; }

 private:
  void place_parts();
  void show_flame(const arc::TubePower* tube);
  void draw_flame(QPainter& painter) const;
  void draw_wires(QPainter& painter, bool hartley) const;
  void draw_push_pull(QPainter& painter) const;
  QPointF at(double x, double y) const;
  QRectF at(const QRectF& box) const;
  int part_at(QPointF place) const;
  void go(int part);

  Workspace& workspace_;
  std::vector<Part> parts_;
  int current_ = 0, hovered_ = -1;
};

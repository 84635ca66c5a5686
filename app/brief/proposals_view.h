// Proposed coils side by side, to one scale, with what their arcs reach. One is chosen by pointer or arrow keys.
#pragma once

#include "base/workspace.h"
#include "toolkit/spoken.h"
#include "workshop/proposals.h"

#include <QWidget>
#include <vector>

class ProposalsView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit ProposalsView(Workspace& workspace, QWidget* parent = nullptr);

  /// In this order, the first chosen. `empty`: what is said where there are none.
  void show(const std::vector<arc::Proposal>& proposals, const QString& empty);
  void choose(int index);
  int chosen() const { return chosen_; }
  QString readings() const override;
  QString at_cursor() const override;

 Q_SIGNALS:
  void chosen_changed(int index);
  void pointed_at(int index);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  QSize sizeHint() const override { return {900, 220}; }

 private:
  QRectF box(int index) const;
  void take(int index);
  void paint_coil(QPainter& painter, const arc::Proposal& proposal, const QRectF& room, double pixels_per_m) const;
  QString said(const arc::Proposal& proposal) const;

  Workspace& workspace_;
  std::vector<arc::Proposal> proposals_;
  QString empty_;
  int chosen_ = -1;
};

// The tank capacitor as it would be wired: units in series and parallel between the two rails, each with a bar for
// its share of the voltage and its bleeder.
#pragma once

#include "workspace.h"

#include <QWidget>

class BankView : public QWidget {
  Q_OBJECT
 public:
  explicit BankView(Workspace& workspace, QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void paint_unit(QPainter& painter, const QRectF& cell, const arc::Analysis& analysis);
  Workspace& workspace_;
};

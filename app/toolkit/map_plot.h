// What two numbers do to a third, as colours over a plane, with a line at one level of a fourth, where the design
// stands now, and a place picked by pointer or arrow keys.
#pragma once

#include "base/workspace.h"
#include "toolkit/spoken.h"

#include <optional>
#include <qcustomplot.h>
#include <vector>

struct MapPicture {
  QString across, up;         // axes, with their units
  std::vector<double> x, y;   // evenly spaced, in those units; two or more
  std::vector<double> values; // by y, then by x; not a number where there is nothing to show
  QString unit;               // of the values
  double here_x = 0, here_y = 0;
  std::vector<double> limited; // like values: drawn as a line where it is 1, dashed; empty: none
};

class MapPlot : public QCustomPlot, public SpokenDrawing {
  Q_OBJECT
 public:
  /// `name` is its object name, `words` what a screen reader says.
  MapPlot(Workspace& workspace, const QString& name, const QString& words, QWidget* parent = nullptr);

  /// `current`: of the design as it stands.
  void show(const MapPicture& picture, bool current);
  /// The picked place: column and row of its nearest point.
  struct Place {
    std::size_t column, row;
    bool operator==(const Place&) const = default;
  };
  const std::optional<Place>& picked() const { return picked_; }
  void pick(double x, double y);
  /// Least and greatest of the values that are shown.
  QCPRange shown_range() const { return colours_->dataRange(); }
  QString readings() const override;
  QString at_cursor() const override;

 Q_SIGNALS:
  void place_picked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void pick_cell(std::size_t column, std::size_t row);
  void draw_limit(const MapPicture& picture);

  Workspace& workspace_;
  QCPColorMap* colours_;
  QCPGraph *here_, *mark_;
  QCPCurve* limit_;
  class Veil* veil_;
  std::vector<double> x_, y_;
  std::optional<Place> picked_;
};

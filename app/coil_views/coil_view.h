// The coil's elevation, to scale: form, winding, topload, primary with its clip, floor and ceiling. Handles are
// dragged or moved with the arrow keys; dimension lines carry entry fields; readings hang on leader lines at their
// part.
#pragma once

#include "coil_views/coil_handles.h"
#include "coil_views/field_overlay.h"
#include "toolkit/quantity_field.h"
#include "toolkit/reading_button.h"
#include "toolkit/spoken.h"

#include <QPainterPath>
#include <QPen>
#include <QWidget>

/// Ends of the form in heights above the floor: the winding in its middle, as far as the floor leaves room.
arc::Range form_ends(const arc::Design& design);

class CoilView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  enum class Part { topload, secondary, primary };
  struct ReadingGroup {
    Part part;
    QString title;
    std::vector<ReadingButton*> readings;
  };

  CoilView(Workspace& workspace, std::vector<CoilHandle> (*handles)(const arc::Design&), QWidget* parent = nullptr);

  /// `stage`: behind them come those at rest that only some kind has and this stage shows; empty: none.
  void add_group(Part part, const QString& title, std::vector<std::string_view> keys, std::string_view stage = {});
  /// Puts a field on a dimension line. The line is vertical, left of the coil, between two heights.
  void add_height_field(std::string_view key, double (*low_m)(const arc::Design&),
                        double (*high_m)(const arc::Design&));
  enum class Curve { voltage, current, modes };
  void set_curve_shown(Curve curve, bool shown);
  FieldOverlay& field() { return field_; }
  /// Enlarges or shrinks about a point of the screen; wheel and plus/minus keys do the same.
  void zoom_about(QPointF screen, double factor);
  void zoom_to_fit();

  /// Screen place of a handle, for tests and for the status line; null point when there is no such handle.
  QPointF handle_place(const QString& id) const;
  QString readings() const override;
  QString at_cursor() const override;
  std::vector<CoilHandle> handles() const { return handles_(workspace_.document.design()); }
  /// Screen lines from parts to the heads of their readings; no words of a curve lie across them.
  std::vector<QLineF> leaders() const;
  /// Boxes on the screen about form with winding, toploads and primary.
  std::vector<QRectF> part_places() const;
  /// Where the words of the curves shown were last painted; beside their curve, clear of leaders and of each other.
  const std::vector<QRectF>& curve_words() const { return curve_words_; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  bool focusNextPrevChild(bool next) override;
  void wheelEvent(QWheelEvent* event) override;

 private:
  struct HeightField {
    QuantityField* field;
    double (*low_m)(const arc::Design&);
    double (*high_m)(const arc::Design&);
  };

  void fit();
  void place_children();
  void refresh();
  QPointF to_screen(QPointF world) const;
  QPointF to_world(QPointF screen) const;
  int handle_at(QPointF screen) const;
  void move_handle(const CoilHandle& handle, QPointF world, double grid);
  void choose_handle(int index);
  void paint_floor(QPainter& painter);
  void paint_secondary(QPainter& painter);
  void paint_topload(QPainter& painter);
  void paint_primary(QPainter& painter);
  void paint_feedback(QPainter& painter);
  void paint_dimensions(QPainter& painter);
  struct ProfileCurve {
    QPainterPath path;
    QPen pen;
    QString words;
    int short_words; // so many of them do where there is little room
    double words_at; // share of its length
  };
  QPainterPath curve_path(const std::vector<arc::ProfilePoint>& points, double arc::ProfilePoint::*value) const;
  void paint_profile(QPainter& painter);
  void paint_curve_words(QPainter& painter, const std::vector<ProfileCurve>& curves);
  void paint_field(QPainter& painter);
  void paint_breakout(QPainter& painter);
  void paint_leaders(QPainter& painter);
  void paint_handles(QPainter& painter);
  QPointF anchor(Part part) const;

  Workspace& workspace_;
  std::vector<CoilHandle> (*handles_)(const arc::Design&);
  std::vector<ReadingGroup> groups_;
  std::vector<HeightField> height_fields_;
  double scale_ = 400; // pixels per metre
  double zoom_ = 1;    // 1 fits the whole coil
  QPointF pan_;
  QPointF origin_; // screen place of the axis at the floor
  int hover_ = -1;
  int chosen_ = -1; // handle with the keyboard
  int dragged_ = -1;
  QPointF grab_; // handle place minus pointer, world
  int gesture_ = 0;
  bool curve_shown_[3] = {true, false, false};
  std::vector<QRectF> curve_words_;
  FieldOverlay field_;
};

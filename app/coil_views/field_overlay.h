// The field around the coil as filled contours: computed in the background for the present analysis, the latest
// request wins, and turned into a picture in the theme's colours.
#pragma once

#include "base/latest_job.h"
#include "base/workspace.h"
#include "field/field_map.h"

#include <QImage>
#include <QObject>

class FieldOverlay : public QObject {
  Q_OBJECT
 public:
  enum class Kind { none, field, potential };

  explicit FieldOverlay(Workspace& workspace, QObject* parent = nullptr);

  void show(Kind kind);
  Kind kind() const { return kind_; }
  /// Area that the picture covers: radius 0 to width, height 0 to height (m). Null image while there is none.
  const QImage& image() const { return image_; }
  double width_m() const { return map_.width_m; }
  double height_m() const { return map_.height_m; }
  /// Limits between the bands, weakest first, and their unit, for the scale.
  static const std::vector<double>& levels(Kind kind);
  static QString level_text(Kind kind, double level);
  static QColor band_colour(const Theme& theme, std::size_t band, std::size_t bands);
  void wait() { job_.wait(); }

 Q_SIGNALS:
  void changed();

 private:
  void request();
  void paint_image();

  Workspace& workspace_;
  Kind kind_ = Kind::none;
  arc::FieldMap map_;
  QImage image_;
  LatestJob<arc::FieldMap> job_;
};

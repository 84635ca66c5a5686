// Field contours. Field strength is shown as it is when the topload breaks out (or at the lossless limit, if that
// is lower); potential in per cent of the top.
#include "coil_views/field_overlay.h"

#include "parts/topload.h"

#include <algorithm>
#include <cmath>

namespace {

constexpr int columns = 72;
constexpr int rows = 110;
constexpr int pixels_per_cell = 6;

} // namespace

FieldOverlay::FieldOverlay(Workspace& workspace, QObject* parent)
    : QObject(parent), workspace_(workspace),
      job_(
          [this](const arc::FieldMap& map) {
            map_ = map;
            paint_image();
          },
          [this](const QString& problem) { Q_EMIT workspace_.document.work_failed(problem); }) {
  connect(&workspace_.document, &Document::analysis_changed, this, &FieldOverlay::request);
  connect(&workspace_, &Workspace::theme_changed, this, &FieldOverlay::paint_image);
}

void FieldOverlay::show(Kind kind) {
  kind_ = kind;
  image_ = {};
  map_ = {};
  request();
  Q_EMIT changed();
}

void FieldOverlay::request() {
  job_.cancel();
  const auto analysis = workspace_.document.analysis();
  if (kind_ == Kind::none || !analysis || !analysis->resonator) return;
  const arc::Design& d = workspace_.document.design();
  const double top = d.secondary.base_height_m + d.secondary.winding_length_m;
  double high = top, wide = d.primary.inner_radius_m + d.primary.turns * d.primary.pitch_m;
  for (const arc::ToploadPart& part : d.topload) {
    const arc::Extent extent = arc::topload_extent(part);
    high = std::max(high, top + extent.highest_m);
    wide = std::max(wide, extent.radius_m);
  }
  job_.start([analysis, wide, high](const std::atomic<bool>& cancelled) {
    return arc::field_map(*analysis->resonator, 2.4 * wide, 1.12 * high, columns, rows, cancelled);
  });
}

const std::vector<double>& FieldOverlay::levels(Kind kind) {
  static const std::vector<double> field{3e4, 1e5, 3e5, 6e5, 1e6, 2e6}; // V/m
  static const std::vector<double> potential{0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.9};
  return kind == Kind::potential ? potential : field;
}

QString FieldOverlay::level_text(Kind kind, double level) {
  return kind == Kind::potential ? QString("%1 %").arg(level * 100) : QString::number(level / 1e5);
}

QColor FieldOverlay::band_colour(const Theme& theme, std::size_t band, std::size_t bands) {
  QColor colour = theme.arc;
  colour.setAlphaF(static_cast<float>(0.05 + 0.40 * static_cast<double>(band) / static_cast<double>(bands)));
  return colour;
}

void FieldOverlay::paint_image() {
  const auto analysis = workspace_.document.analysis();
  if (kind_ == Kind::none || map_.potential.empty() || !analysis) return;
  const auto& limits = levels(kind_);
  const auto& values = kind_ == Kind::potential ? map_.potential : map_.field;
  const double scale = kind_ == Kind::potential ? 1 : arc::top_voltage_v(*analysis);
  const int wide = (map_.columns - 1) * pixels_per_cell, high = (map_.rows - 1) * pixels_per_cell;
  std::vector<std::size_t> band(static_cast<std::size_t>(wide * high));
  for (int y = 0; y < high; ++y)
    for (int x = 0; x < wide; ++x) {
      const double u = static_cast<double>(x) / pixels_per_cell,
                   v = static_cast<double>(high - 1 - y) / pixels_per_cell;
      const int i = static_cast<int>(u), j = static_cast<int>(v);
      const auto at = [&](int column, int row) {
        return values[static_cast<std::size_t>(row * map_.columns + column)];
      };
      const double a = u - i, b = v - j;
      const double value = scale * ((1 - a) * (1 - b) * at(i, j) + a * (1 - b) * at(i + 1, j) +
                                    (1 - a) * b * at(i, j + 1) + a * b * at(i + 1, j + 1));
      band[static_cast<std::size_t>(y * wide + x)] =
          static_cast<std::size_t>(std::ranges::upper_bound(limits, value) - limits.begin());
    }
  image_ = QImage(wide, high, QImage::Format_ARGB32_Premultiplied);
  image_.fill(Qt::transparent);
  QColor line = workspace_.theme().arc;
  line.setAlphaF(0.45F);
  for (int y = 0; y + 1 < high; ++y)
    for (int x = 0; x + 1 < wide; ++x) {
      const std::size_t k = static_cast<std::size_t>(y * wide + x);
      if (band[k] == 0 && band[k + 1] == 0) continue;
      const bool edge = band[k] != band[k + 1] || band[k] != band[k + static_cast<std::size_t>(wide)];
      // The map ends somewhere, the field does not: fade out toward the rim instead of a straight edge.
      const double fade = std::min({1.0, 6.0 * (wide - x) / wide, 8.0 * y / high});
      QColor colour = edge ? line : band_colour(workspace_.theme(), band[k], limits.size());
      colour.setAlphaF(colour.alphaF() * static_cast<float>(fade));
      image_.setPixelColor(x, y, colour);
    }
  Q_EMIT changed();
}

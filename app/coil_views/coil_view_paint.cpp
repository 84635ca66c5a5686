// How the elevation is painted: floor, windings, topload, curves with their words, leaders, handles.
#include "coil/geometry.h"
#include "coil_views/coil_view.h"
#include "coil_views/topload_painter.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "field/resonator.h"
#include "model/fields.h"
#include "parts/topload.h"
#include "toolkit/common.h"
#include "toolkit/when_seen.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <optional>

namespace {

bool meets_line(const QRectF& place, const QLineF& line) {
  if (place.contains(line.p1()) || place.contains(line.p2())) return true;
  for (const QLineF& edge :
       {QLineF(place.topLeft(), place.bottomRight()), QLineF(place.topRight(), place.bottomLeft())})
    if (line.intersects(edge, nullptr) == QLineF::BoundedIntersection) return true;
  return false;
}

// The curve itself, not the area that a painter's path encloses.
bool meets_curve(const QRectF& place, const QPainterPath& path) {
  for (int i = 1; i < path.elementCount(); ++i)
    if (meets_line(place, QLineF(path.elementAt(i - 1), path.elementAt(i)))) return true;
  return false;
}

} // namespace

void CoilView::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  paint_field(painter);
  paint_floor(painter);
  paint_dimensions(painter);
  paint_secondary(painter);
  paint_topload(painter);
  paint_primary(painter);
  paint_profile(painter);
  paint_breakout(painter);
  paint_leaders(painter);
  paint_handles(painter);
}

void CoilView::paint_floor(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const double y = to_screen({0, 0}).y();
  const double left = 16, right = width() - 284; // the readings stand beyond
  painter.setPen(QPen(t.ink, 1.5));
  painter.drawLine(QPointF(left, y), QPointF(right, y));
  painter.setPen(QPen(t.hairline, 1));
  for (double x = left + 8; x < right; x += 12) painter.drawLine(QPointF(x, y + 1), QPointF(x - 7, y + 8));
  if (d.site.ceiling_height_m) {
    const double c = to_screen({0, *d.site.ceiling_height_m}).y();
    if (c > 4) {
      painter.setPen(QPen(t.second, 1, Qt::DashLine));
      painter.drawLine(QPointF(left, c), QPointF(right, c));
    }
  }
}

void CoilView::paint_secondary(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const double r = d.secondary.form_diameter_m / 2;
  const arc::Range form = form_ends(d);
  const double low = d.secondary.base_height_m;
  const double high = winding_top(d);
  painter.setPen(QPen(t.ink, 1.2));
  painter.setBrush(t.card);
  painter.drawRect(QRectF(to_screen({-r, form.high}), to_screen({r, form.low})));
  const double outside = r + d.secondary.wire_overall_diameter_m;
  const QRectF winding(to_screen({-outside, high}), to_screen({outside, low}));
  painter.fillRect(winding, t.copper_fill);
  painter.save();
  painter.setClipRect(winding);
  painter.setPen(QPen(t.copper, 1));
  // One stroke for each turn while they can be told apart, otherwise a fixed hatch that still says "winding".
  const double pitch = std::max(5.0, winding.height() / d.secondary.turns);
  for (double y = winding.top() + 2; y < winding.bottom(); y += pitch)
    painter.drawLine(QPointF(winding.left(), y + 2), QPointF(winding.right(), y));
  painter.restore();
  painter.setPen(QPen(t.copper, 1.5));
  painter.drawLine(winding.topLeft(), winding.bottomLeft());
  painter.drawLine(winding.topRight(), winding.bottomRight());
}

void CoilView::paint_topload(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  const double top = winding_top(d);
  paint_topload_parts(painter, t, d.topload, [&](double radius, double height) {
    return to_screen({radius, top + height});
  });
  if (!d.topload.empty()) { // post from the winding to the topload
    const double low = arc::topload_extent(d.topload.front()).lowest_m;
    if (low > 0) {
      painter.setPen(QPen(t.second, 1, Qt::DotLine));
      painter.drawLine(to_screen({0, top}), to_screen({0, top + low}));
    }
  }
}

void CoilView::paint_primary(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  if (!arc::given(d, "primary")) return;
  const double size = std::max(2.0, d.primary.conductor_diameter_m * scale_ / 2);
  const auto rings = arc::primary_rings(d.primary, d.primary.turns);
  for (std::size_t j = 0; j < rings.size(); ++j) {
    const bool used = static_cast<double>(j) + 0.5 <= arc::used_turns(d);
    painter.setPen(QPen(t.copper, 1.3));
    painter.setBrush(used ? QBrush(t.copper) : QBrush(t.paper));
    for (const double side : {-1.0, 1.0})
      painter.drawEllipse(to_screen({side * rings[j].radius_m, rings[j].height_m}), size, size);
  }
  paint_feedback(painter);
  if (std::ranges::count(d.site.grounded_conductors, "strike-ring") == 0) return;
  const arc::StrikeRing ring = arc::strike_ring(d.primary);
  painter.setPen(QPen(t.ink, 1.3));
  painter.setBrush(t.metal);
  for (const double side : {-1.0, 1.0})
    painter.drawEllipse(to_screen({side * ring.radius_m, ring.height_m}), size, size);
}

// The winding that drives a grid, of the kinds that have one: open rings, and its name.
void CoilView::paint_feedback(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  if (std::ranges::count(arc::kind_of(d).groups, "feedback") == 0) return;
  const double size = std::max(1.6, d.feedback.conductor_diameter_m * scale_ / 2);
  painter.setPen(QPen(t.ink, 1.1));
  painter.setBrush(t.metal);
  const auto rings = arc::feedback_rings(d.feedback, d.primary);
  double middle = 0;
  for (const arc::Ring& ring : rings) {
    middle += ring.height_m / static_cast<double>(rings.size());
    for (const double side : {-1.0, 1.0})
      painter.drawEllipse(to_screen({side * ring.radius_m, ring.height_m}), size, size);
  }
  painter.setFont(type::font(type::caption));
  painter.setPen(t.second);
  const QString words = QString("feedback, %1 turns").arg(d.feedback.turns, 0, 'g', 4);
  const double wide = painter.fontMetrics().horizontalAdvance(words) + 2.0;
  const QPointF at = to_screen({d.feedback.radius_m, middle});
  const bool room = at.x() + 12 + wide < width() - 272; // else to the left, the readings stand there
  const double left = room ? at.x() + 12 : to_screen({-d.feedback.radius_m, middle}).x() - 12 - wide;
  painter.drawText(QRectF(left, at.y() - 9, wide, 18), Qt::AlignLeft | Qt::AlignVCenter, words);
}

void CoilView::paint_dimensions(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const arc::Design& d = workspace_.document.design();
  for (const HeightField& item : height_fields_) {
    const double x = item.field->geometry().center().x();
    const QPointF low = to_screen({0, item.low_m(d)});
    const QPointF high = to_screen({0, item.high_m(d)});
    painter.setPen(QPen(t.second, 1));
    painter.drawLine(QPointF(x, low.y()), QPointF(x, high.y()));
    for (const double y : {low.y(), high.y()}) painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y));
    painter.setPen(QPen(t.hairline, 1, Qt::DashLine));
    for (const double y : {low.y(), high.y()})
      painter.drawLine(QPointF(x + 6, y), QPointF(origin_.x() - d.secondary.form_diameter_m / 2 * scale_, y));
  }
}

QPainterPath CoilView::curve_path(const std::vector<arc::ProfilePoint>& points,
                                  double arc::ProfilePoint::*value) const {
  const arc::Design& d = workspace_.document.design();
  const double start = arc::secondary_mean_radius_m(d.secondary) * scale_ + 8;
  const double room = 0.5 * std::max(40.0, width() - 270 - origin_.x() - start);
  double largest = 1;
  for (const arc::ProfilePoint& p : points) largest = std::max(largest, std::abs(p.*value));
  QPainterPath path;
  for (const arc::ProfilePoint& p : points) {
    const QPointF at(origin_.x() + start + room * p.*value / largest, to_screen({0, p.height_m}).y());
    if (path.elementCount() == 0)
      path.moveTo(at);
    else
      path.lineTo(at);
  }
  return path;
}

void CoilView::paint_profile(QPainter& painter) {
  curve_words_.clear();
  const auto analysis = workspace_.document.analysis();
  if (!analysis || !analysis->resonator || analysis->resonator->profile.size() < 2) return;
  const Theme& t = workspace_.theme();
  const arc::ResonatorResult& r = *analysis->resonator;
  std::vector<ProfileCurve> curves;
  const auto add = [&](const std::vector<arc::ProfilePoint>& points, double arc::ProfilePoint::*value,
                       const QPen& pen, const QString& words, int short_words, double words_at) {
    curves.push_back({curve_path(points, value), pen, words, short_words, words_at});
  };
  if (curve_shown_[0])
    add(r.profile, &arc::ProfilePoint::voltage, QPen(t.arc, 1.8), "voltage along the winding", 1, 0.35);
  if (curve_shown_[1])
    add(r.profile, &arc::ProfilePoint::current, QPen(t.copper, 1.8, Qt::DashLine), "current", 1, 0.6);
  for (std::size_t k = 1; curve_shown_[2] && k < r.modes.size(); ++k)
    add(r.modes[k].profile, &arc::ProfilePoint::voltage,
        QPen(t.second, 1.4, k == 1 ? Qt::DashDotLine : Qt::DotLine),
        QString::fromStdString(
            arc::format_quantity(r.modes[k].frequency_hz, arc::Dimension::frequency, workspace_.units(), 4)),
        2, k == 1 ? 0.2 : 0.92);
  painter.setBrush(Qt::NoBrush);
  for (const ProfileCurve& curve : curves) {
    painter.setPen(curve.pen);
    painter.drawPath(curve.path);
  }
  paint_curve_words(painter, curves);
}

// Beside its curve, as near to the place that suits it as leaders, parts, other words and other curves leave room;
// in a narrow drawing the short words, and across curves rather than across a leader, on paper of their own.
void CoilView::paint_curve_words(QPainter& painter, const std::vector<ProfileCurve>& curves) {
  painter.setFont(type::font(type::caption));
  const QFontMetricsF metrics = painter.fontMetrics();
  const std::vector<QLineF> lines = leaders();
  const std::vector<QRectF> parts = part_places();
  const double edge = width() - 272; // the readings stand beyond
  const auto taken = [&](const QRectF& place) {
    const auto meets = [&place](const QRectF& other) { return other.intersects(place); };
    return place.left() < parts.front().right() || place.right() > edge || !QRectF(rect()).contains(place) ||
           std::ranges::any_of(curve_words_, meets) || std::ranges::any_of(parts, meets) ||
           std::ranges::any_of(lines, [&](const QLineF& line) { return meets_line(place, line); });
  };
  const auto crossed = [&](const QRectF& place) {
    return std::ranges::any_of(curves, [&](const ProfileCurve& c) { return meets_curve(place, c.path); });
  };
  for (const ProfileCurve& curve : curves) {
    const auto free_place = [&](const QString& words, bool may_cross) -> std::optional<QRectF> {
      const QSizeF size(metrics.horizontalAdvance(words) + 4, metrics.height());
      for (const double gap : {8.0, 20.0, 36.0, 60.0})
        for (int step = 0; step <= 40; ++step) // nearest first, either way
          for (const double share : {curve.words_at + 0.025 * step, curve.words_at - 0.025 * step}) {
            if (share < 0 || share > 1) continue;
            const QPointF at = curve.path.pointAtPercent(share);
            for (const double left : {at.x() + gap, at.x() - gap - size.width()}) {
              const QRectF place({left, at.y() - size.height() / 2}, size);
              if (!taken(place) && (may_cross || !crossed(place))) return place;
            }
          }
      return std::nullopt;
    };
    for (const bool may_cross : {false, true}) {
      std::optional<QRectF> place;
      for (const QString& words : {curve.words, curve.words.section(' ', 0, curve.short_words - 1)}) {
        place = free_place(words, may_cross);
        if (!place) continue;
        if (may_cross) painter.fillRect(*place, workspace_.theme().paper);
        painter.setPen(curve.pen.color());
        painter.drawText(*place, Qt::AlignCenter, words);
        curve_words_.push_back(*place);
        break;
      }
      if (place) break;
    }
  }
}

void CoilView::paint_field(QPainter& painter) {
  if (field_.kind() == FieldOverlay::Kind::none || field_.image().isNull()) return;
  const Theme& t = workspace_.theme();
  const QRectF right(to_screen({0, field_.height_m()}), to_screen({field_.width_m(), 0}));
  const QRectF left(to_screen({-field_.width_m(), field_.height_m()}), to_screen({0, 0}));
  painter.save();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.setClipRect(QRectF(0, 0, width() - 284, to_screen({0, 0}).y()));
  painter.drawImage(right, field_.image());
  painter.drawImage(left, field_.image().mirrored(true, false));
  painter.restore();
  // Scale: one swatch for each band, its lower limit beside it.
  const auto& levels = FieldOverlay::levels(field_.kind());
  double y = to_screen({0, 0}).y() - 20;
  painter.setFont(type::font(type::caption));
  for (std::size_t k = 0; k < levels.size(); ++k, y -= 17) {
    painter.fillRect(QRectF(16, y, 22, 14), t.paper);
    painter.fillRect(QRectF(16, y, 22, 14), FieldOverlay::band_colour(t, k + 1, levels.size()));
    painter.setPen(t.ink);
    painter.drawText(QPointF(44, y + 11), FieldOverlay::level_text(field_.kind(), levels[k]));
  }
  painter.setPen(t.second);
  painter.drawText(QPointF(16, y + 8), field_.kind() == FieldOverlay::Kind::potential ? "potential, of the top"
                                                                                      : "kV/cm at breakout, above");
}

void CoilView::paint_breakout(QPainter& painter) {
  const auto analysis = workspace_.document.analysis();
  if (!analysis || !analysis->breakout) return;
  const Theme& t = workspace_.theme();
  const QPointF at = to_screen({-analysis->breakout->radius_m, analysis->breakout->height_m});
  painter.setPen(QPen(t.stop, 1.5));
  painter.setBrush(t.stop);
  // A short ray outward as well as a dot: the mark does not rest on colour alone.
  painter.drawEllipse(at, 3, 3);
  for (const double tilt : {-0.5, 0.0, 0.5})
    painter.drawLine(at + QPointF(-7, 7 * tilt), at + QPointF(-13, 13 * tilt));
}

std::vector<QRectF> CoilView::part_places() const {
  const arc::Design& d = workspace_.document.design();
  const auto about_axis = [this](double radius_m, double low_m, double high_m) {
    return QRectF(to_screen({-radius_m, high_m}), to_screen({radius_m, low_m}));
  };
  const arc::Range form = form_ends(d);
  std::vector<QRectF> out{about_axis(arc::secondary_mean_radius_m(d.secondary), form.low, form.high)};
  for (const arc::ToploadPart& part : d.topload) {
    const arc::Extent extent = arc::topload_extent(part);
    out.push_back(about_axis(extent.radius_m, winding_top(d) + extent.lowest_m, winding_top(d) + extent.highest_m));
  }
  const QPointF first = primary_point(d.primary, 0), last = primary_point(d.primary, d.primary.turns);
  const double thick = 0.006; // conductor and its clip
  out.push_back(about_axis(std::max(first.x(), last.x()), std::min(first.y(), last.y()) - thick,
                           std::max(first.y(), last.y()) + thick));
  return out;
}

std::vector<QLineF> CoilView::leaders() const {
  std::vector<QLineF> out;
  for (const ReadingGroup& group : groups_)
    if (!group.readings.empty())
      out.emplace_back(anchor(group.part),
                       QPointF(group.readings.front()->x() - 4, group.readings.front()->y() - 6));
  return out;
}

void CoilView::paint_leaders(QPainter& painter) {
  const Theme& t = workspace_.theme();
  painter.setFont(type::font(type::caption, QFont::Medium));
  std::size_t next = 0;
  const std::vector<QLineF> lines = leaders();
  for (const ReadingGroup& group : groups_) {
    if (group.readings.empty()) continue;
    const QLineF& line = lines[next++];
    painter.setPen(t.second);
    painter.drawText(line.p2() + QPointF(8, 2), group.title);
    painter.setPen(QPen(t.second, 1));
    painter.drawLine(line);
    painter.setBrush(t.second);
    painter.drawEllipse(line.p1(), 2.2, 2.2);
  }
}

void CoilView::paint_handles(QPainter& painter) {
  const Theme& t = workspace_.theme();
  const auto all = handles();
  for (int i = 0; i < static_cast<int>(all.size()); ++i) {
    const CoilHandle& handle = all[static_cast<std::size_t>(i)];
    const QPointF at = to_screen(handle.world);
    const bool strong = i == hover_ || i == dragged_ || (i == chosen_ && hasFocus());
    painter.setPen(QPen(strong ? t.arc : t.ink, strong ? 2.2 : 1.4));
    painter.setBrush(t.card);
    if (handle.kind == CoilHandle::Kind::clip) {
      const QPointF tip = at - QPointF(0, 5);
      painter.drawLine(at, tip - QPointF(0, 10));
      painter.drawEllipse(tip - QPointF(0, 14), 5, 5);
      painter.setFont(type::font(type::caption, QFont::Medium));
      painter.setPen(strong ? t.arc : t.ink);
      painter.drawText(QRectF(tip.x() - 50, tip.y() - 38, 100, 16), Qt::AlignCenter,
                       QString("tap %1").arg(workspace_.document.design().primary.tap_turns, 0, 'f', 2));
    } else {
      painter.drawRect(QRectF(at - QPointF(4.5, 4.5), QSizeF(9, 9)));
    }
    if (i == chosen_ && hasFocus()) {
      painter.setBrush(Qt::NoBrush);
      painter.setPen(QPen(t.arc, 1.2));
      painter.drawEllipse(at, 11, 11);
      painter.setFont(type::font(type::caption, QFont::Medium));
      // On a patch of its own, above the handle, inside the view: lines run everywhere here.
      QRectF patch = painter.fontMetrics().boundingRect(handle.label).adjusted(-6, -3, 6, 3);
      patch.moveBottomLeft(at + QPointF(12, -8));
      patch.moveRight(std::min(patch.right(), width() - 4.0));
      patch.moveTop(std::max(patch.top(), 4.0));
      painter.setBrush(t.card);
      painter.drawRoundedRect(patch, 3, 3);
      painter.drawText(patch, Qt::AlignCenter, handle.label);
    }
  }
}

// Drawing and direct handling of the coil.
#include "coil_views/coil_view.h"

#include "coil/geometry.h"
#include "coil/kind.h"
#include "coil_views/topload_painter.h"
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

constexpr double grab_radius = 11; // pixels
constexpr int reading_height = 22;

bool meets_line(const QRectF& place, const QLineF& line) {
  if (place.contains(line.p1()) || place.contains(line.p2())) return true;
  for (const QLineF& edge :
       {QLineF(place.topLeft(), place.bottomRight()), QLineF(place.topRight(), place.bottomLeft())})
    if (line.intersects(edge, nullptr) == QLineF::BoundedIntersection) return true;
  return false;
}

// Ends of the form, heights above the floor: the winding in its middle, as far as the floor leaves room.
arc::Range form_ends(const arc::Design& d) {
  const double over = d.secondary.form_length_m
                          ? std::max(0.0, (*d.secondary.form_length_m - d.secondary.winding_length_m) / 2)
                          : 0;
  return {std::max(0.0, d.secondary.base_height_m - over), winding_top(d) + over};
}

// The curve itself, not the area that a painter's path encloses.
bool meets_curve(const QRectF& place, const QPainterPath& path) {
  for (int i = 1; i < path.elementCount(); ++i)
    if (meets_line(place, QLineF(path.elementAt(i - 1), path.elementAt(i)))) return true;
  return false;
}

} // namespace

CoilView::CoilView(Workspace& workspace, std::vector<CoilHandle> (*make_handles)(const arc::Design&),
                   QWidget* parent)
    : QWidget(parent), workspace_(workspace), handles_(make_handles), field_(workspace) {
  connect(&field_, &FieldOverlay::changed, this, qOverload<>(&QWidget::update));
  setObjectName("coil");
  setAccessibleName("Coil, drawn to scale");
  setWhatsThis("Tab chooses a handle, arrow keys move it, Shift makes larger steps");
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(520, 260);
  (new WhenSeen(this, [this] { refresh(); }))->on(workspace_.document, &Document::design_changed);
  (new WhenSeen(this, [this] {
    place_children();
    update();
  }))->on(workspace_.document, &Document::analysis_changed);
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void CoilView::add_group(Part part, const QString& title, std::initializer_list<std::string_view> keys) {
  ReadingGroup group{part, title, {}};
  for (const std::string_view key : keys) group.readings.push_back(new ReadingButton(workspace_, key, this));
  groups_.push_back(std::move(group));
}

void CoilView::add_height_field(std::string_view key, double (*low_m)(const arc::Design&),
                                double (*high_m)(const arc::Design&)) {
  auto* field = make_design_field(workspace_, key, this);
  field->setAlignment(Qt::AlignCenter);
  field->setFixedWidth(88);
  field->setToolTip(field->role().label);
  height_fields_.push_back({field, low_m, high_m});
}

QString CoilView::at_cursor() const {
  const auto all = handles();
  if (chosen_ < 0 || chosen_ >= static_cast<int>(all.size())) return {};
  const CoilHandle& handle = all[static_cast<std::size_t>(chosen_)];
  if (handle.kind == CoilHandle::Kind::clip)
    return QString("%1, %2 turns").arg(handle.label).arg(workspace_.document.design().primary.tap_turns, 0, 'f', 2);
  const auto length = [this](double si) { return quantity_text(si, arc::Dimension::length, workspace_.units()); };
  QStringList out{handle.label};
  if (handle.moves_sideways) out << length(std::abs(handle.world.x())) + " from the axis";
  if (handle.moves_upward) out << length(handle.world.y()) + " above the floor";
  return out.join(", ");
}

QString CoilView::readings() const {
  QStringList out;
  for (const HeightField& item : height_fields_) out << item.field->role().label + " " + item.field->text();
  for (const ReadingGroup& group : groups_)
    for (const ReadingButton* reading : group.readings)
      if (reading->isVisible()) out << group.title + ": " + reading->accessibleName();
  return out.join("; ");
}

void CoilView::set_curve_shown(Curve curve, bool shown) {
  curve_shown_[static_cast<int>(curve)] = shown;
  update();
}

void CoilView::refresh() {
  if (dragged_ < 0) fit(); // while dragging the scale stays, so that the pointer stays on the handle
  place_children();
  update();
}

void CoilView::fit() {
  const arc::Design& d = workspace_.document.design();
  double top = form_ends(d).high;
  double wide = d.secondary.form_diameter_m / 2;
  for (const arc::ToploadPart& part : d.topload) {
    const arc::Extent extent = arc::topload_extent(part);
    top = std::max(top, winding_top(d) + extent.highest_m);
    wide = std::max(wide, extent.radius_m);
  }
  const QPointF last = primary_point(d.primary, d.primary.turns);
  wide = std::max(wide, last.x());
  top = std::max(top, last.y());
  constexpr double left = 130, right = 316, above = 56, below = 34;
  const double room_wide = std::max(120.0, width() - left - right);
  const double room_high = std::max(120.0, height() - above - below);
  scale_ = zoom_ * std::min(room_wide / (2 * wide), room_high / std::max(top, 0.01));
  origin_ = QPointF(left + room_wide / 2, height() - below) + pan_;
}

void CoilView::zoom_about(QPointF screen, double factor) {
  const double wanted = std::clamp(zoom_ * factor, 0.5, 20.0);
  const QPointF fixed = to_world(screen);
  zoom_ = wanted;
  fit();
  pan_ += screen - to_screen(fixed);
  if (zoom_ == 1) pan_ = {};
  refresh();
}

void CoilView::zoom_to_fit() {
  zoom_ = 1;
  pan_ = {};
  refresh();
}

void CoilView::wheelEvent(QWheelEvent* event) {
  zoom_about(event->position(), std::pow(1.0015, event->angleDelta().y()));
}

QPointF CoilView::to_screen(QPointF world) const {
  return {origin_.x() + world.x() * scale_, origin_.y() - world.y() * scale_};
}

QPointF CoilView::to_world(QPointF screen) const {
  return {(screen.x() - origin_.x()) / scale_, (origin_.y() - screen.y()) / scale_};
}

QPointF CoilView::handle_place(const QString& id) const {
  for (const CoilHandle& handle : handles())
    if (handle.id == id) return to_screen(handle.world);
  return {};
}

QPointF CoilView::anchor(Part part) const {
  const arc::Design& d = workspace_.document.design();
  switch (part) {
  case Part::topload:
    if (d.topload.empty()) return to_screen({d.secondary.form_diameter_m / 2, winding_top(d)});
    return to_screen({arc::topload_extent(d.topload.front()).radius_m,
                      winding_top(d) + d.topload.front().centre_above_winding_m});
  case Part::secondary:
    return to_screen({arc::secondary_mean_radius_m(d.secondary),
                      d.secondary.base_height_m + 0.62 * d.secondary.winding_length_m});
  case Part::primary:
    return to_screen(primary_point(d.primary, d.primary.turns));
  }
  return {};
}

void CoilView::place_children() {
  const arc::Design& d = workspace_.document.design();
  const int x = width() - 268;
  int total = 0;
  const arc::CoilKind& kind = arc::kind_of(d);
  for (const ReadingGroup& group : groups_)
    for (ReadingButton* reading : group.readings) reading->setVisible(reading->says_of(kind));
  const auto shown = [&kind](const ReadingGroup& group) {
    return static_cast<int>(std::ranges::count_if(
        group.readings, [&kind](const ReadingButton* reading) { return reading->says_of(kind); }));
  };
  for (const ReadingGroup& group : groups_) total += 20 + shown(group) * reading_height + 10;
  int next = x < 580 ? 44 : 12; // below the buttons where they reach this far
  for (const ReadingGroup& group : groups_) {
    const int needed = 20 + shown(group) * reading_height + 10;
    // Near its part, but never over the group before and leaving room for those after.
    const int wanted = static_cast<int>(anchor(group.part).y()) - needed / 2;
    int y = std::clamp(wanted, next, std::max(next, height() - total - 8));
    total -= needed;
    next = y + needed;
    y += 20;
    for (ReadingButton* reading : group.readings) {
      if (!reading->says_of(kind)) continue;
      reading->move(x, y);
      y += reading_height;
    }
  }
  double widest = d.secondary.form_diameter_m / 2;
  for (const arc::ToploadPart& part : d.topload) widest = std::max(widest, arc::topload_extent(part).radius_m);
  widest = std::max(widest, primary_point(d.primary, d.primary.turns).x());
  for (const HeightField& item : height_fields_) {
    const double middle = to_screen({0, (item.low_m(d) + item.high_m(d)) / 2}).y();
    const int left = std::max(8, static_cast<int>(to_screen({-widest, 0}).x()) - 100);
    item.field->move(left, std::clamp(static_cast<int>(middle) - 13, 4, height() - 30));
  }
}

void CoilView::resizeEvent(QResizeEvent*) {
  fit();
  place_children();
}

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
                       QString("clip %1").arg(workspace_.document.design().primary.tap_turns, 0, 'f', 2));
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

int CoilView::handle_at(QPointF screen) const {
  const auto all = handles();
  int best = -1;
  double nearest = grab_radius;
  for (std::size_t i = 0; i < all.size(); ++i) {
    QPointF at = to_screen(all[i].world);
    if (all[i].kind == CoilHandle::Kind::clip) at -= QPointF(0, 14);
    const double distance = std::hypot(at.x() - screen.x(), at.y() - screen.y());
    if (distance < nearest) {
      nearest = distance;
      best = static_cast<int>(i);
    }
  }
  return best;
}

void CoilView::move_handle(const CoilHandle& handle, QPointF world, double grid) {
  if (!handle.moves_sideways) world.setX(handle.world.x());
  if (!handle.moves_upward) world.setY(handle.world.y());
  workspace_.document.edit(
      handle.label, [&](arc::Design& design) { handle.move(design, world, grid); },
      QString("handle %1 %2").arg(handle.id).arg(gesture_));
}

void CoilView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  dragged_ = handle_at(event->position());
  if (dragged_ < 0) return;
  choose_handle(dragged_);
  ++gesture_;
  grab_ = handles()[static_cast<std::size_t>(dragged_)].world - to_world(event->position());
  update();
}

void CoilView::mouseDoubleClickEvent(QMouseEvent* event) {
  const QPointF world = to_world(event->position());
  workspace_.document.edit("Add a point to the profile",
                           [&](arc::Design& design) { add_profile_point(design, world, grab_radius / scale_); });
}

void CoilView::mouseMoveEvent(QMouseEvent* event) {
  if (dragged_ < 0) {
    const int now = handle_at(event->position());
    if (now == hover_) return;
    hover_ = now;
    const auto all = handles();
    setCursor(now < 0 ? Qt::ArrowCursor : Qt::SizeAllCursor);
    setToolTip(now < 0 ? QString() : all[static_cast<std::size_t>(now)].label);
    update();
    return;
  }
  const auto all = handles();
  if (dragged_ >= static_cast<int>(all.size())) return;
  const double grid = workspace_.units() == arc::UnitSystem::metric ? 0.001 : 0.0254 / 16;
  move_handle(all[static_cast<std::size_t>(dragged_)], to_world(event->position()) + grab_, grid);
}

void CoilView::mouseReleaseEvent(QMouseEvent*) {
  if (dragged_ < 0) return;
  dragged_ = -1;
  refresh();
}

void CoilView::leaveEvent(QEvent*) {
  hover_ = -1;
  update();
}

void CoilView::choose_handle(int index) {
  chosen_ = index;
  ++gesture_;
  update();
  tell_cursor(*this);
}

void CoilView::focusInEvent(QFocusEvent* event) {
  QWidget::focusInEvent(event);
  if (event->reason() == Qt::TabFocusReason)
    choose_handle(0);
  else if (event->reason() == Qt::BacktabFocusReason)
    choose_handle(static_cast<int>(handles().size()) - 1);
}

bool CoilView::focusNextPrevChild(bool next) {
  const int count = static_cast<int>(handles().size());
  const int wanted = chosen_ + (next ? 1 : -1);
  if (hasFocus() && wanted >= 0 && wanted < count) {
    choose_handle(wanted);
    return true;
  }
  return QWidget::focusNextPrevChild(next);
}

void CoilView::keyPressEvent(QKeyEvent* event) {
  const auto all = handles();
  QPointF way;
  const QPointF middle(origin_.x(), height() / 2.0);
  switch (event->key()) {
  case Qt::Key_Plus:
    zoom_about(middle, 1.25);
    return;
  case Qt::Key_Minus:
    zoom_about(middle, 0.8);
    return;
  case Qt::Key_0:
    zoom_to_fit();
    return;
  case Qt::Key_Delete:
  case Qt::Key_Insert:
    if (chosen_ >= 0 && chosen_ < static_cast<int>(all.size())) {
      const CoilHandle& handle = all[static_cast<std::size_t>(chosen_)];
      const bool removing = event->key() == Qt::Key_Delete;
      if (const auto& change = removing ? handle.remove : handle.insert)
        workspace_.document.edit(removing ? "Remove a point of the profile" : "Add a point to the profile", change);
    }
    return;
  case Qt::Key_Left:
    way = {-1, 0};
    break;
  case Qt::Key_Right:
    way = {1, 0};
    break;
  case Qt::Key_Up:
    way = {0, 1};
    break;
  case Qt::Key_Down:
    way = {0, -1};
    break;
  default:
    QWidget::keyPressEvent(event);
    return;
  }
  if (chosen_ < 0 || chosen_ >= static_cast<int>(all.size())) return;
  const CoilHandle& handle = all[static_cast<std::size_t>(chosen_)];
  const double step = handle.key_step_m * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
  move_handle(handle, handle.world + way * step, 0);
}

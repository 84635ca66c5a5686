// Drawing and direct handling of the coil.
#include "coil_views/coil_view.h"
#include "coil/geometry.h"
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

constexpr double grab_radius = 11; // pixels

constexpr int reading_height = 22;

} // namespace

arc::Range form_ends(const arc::Design& d) {
  const double over = d.secondary.form_length_m
                          ? std::max(0.0, (*d.secondary.form_length_m - d.secondary.winding_length_m) / 2)
                          : 0;
  return {std::max(0.0, d.secondary.base_height_m - over), winding_top(d) + over};
}

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

void CoilView::add_group(Part part, const QString& title, std::vector<std::string_view> keys,
                         std::string_view stage) {
  ReadingGroup group{part, title, {}};
  if (!stage.empty()) std::ranges::copy(arc::craft_figures_at_rest(stage), std::back_inserter(keys));
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
  int next = x < 580 ? 44 : 12; // below the buttons where they reach this far
  struct {
    int head = 20, step = reading_height, below = 10;
  } room;
  const auto needs = [&](const ReadingGroup& group) { return room.head + shown(group) * room.step + room.below; };
  const auto whole = [&] {
    total = 0;
    for (const ReadingGroup& group : groups_) total += needs(group);
  };
  whole();
  if (next + total > height()) { // a low window
    room = {16, reading_height - 2, 2};
    whole();
  }
  for (const ReadingGroup& group : groups_) {
    const int needed = needs(group);
    // Near its part, but never over the group before and leaving room for those after.
    const int wanted = static_cast<int>(anchor(group.part).y()) - needed / 2;
    int y = std::clamp(wanted, next, std::max(next, height() - total - 8));
    total -= needed;
    next = y + needed;
    y += room.head;
    for (ReadingButton* reading : group.readings) {
      if (!reading->says_of(kind)) continue;
      reading->move(x, y);
      y += room.step;
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

// Draws coils from the side.
#include "brief/proposals_view.h"

#include "coil_views/topload_painter.h"
#include "craft/kind.h"
#include "toolkit/common.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace {

constexpr double words_height = 52, floor_height = 8;

} // namespace

ProposalsView::ProposalsView(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("proposals view");
  setAccessibleName("Proposed coils to one scale");
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(150);
  setMouseTracking(true);
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void ProposalsView::show(const std::vector<arc::Proposal>& proposals, const QString& empty) {
  proposals_ = proposals;
  empty_ = empty;
  chosen_ = proposals_.empty() ? -1 : 0;
  update();
}

void ProposalsView::choose(int index) {
  if (index == chosen_ || index < 0 || index >= static_cast<int>(proposals_.size())) return;
  chosen_ = index;
  tell_cursor(*this);
  update();
}

void ProposalsView::take(int index) {
  if (index < 0 || index >= static_cast<int>(proposals_.size()) || index == chosen_) return;
  choose(index);
  Q_EMIT chosen_changed(index);
}

QString ProposalsView::said(const arc::Proposal& p) const {
  const Print print{workspace_};
  QString words = QString::fromStdString(p.character) + ": ";
  if (p.figures.arc_high_m > 0)
    words += QString("arcs up to %1, ").arg(print(p.figures.arc_high_m, arc::Dimension::length, 2));
  return words + print(p.figures.height_m, arc::Dimension::length, 3) + " high";
}

QString ProposalsView::readings() const {
  QStringList out;
  for (const arc::Proposal& p : proposals_) out << said(p);
  return out.isEmpty() ? empty_ : out.join("; ");
}

QString ProposalsView::at_cursor() const {
  return chosen_ < 0 ? QString() : said(proposals_[static_cast<std::size_t>(chosen_)]);
}

QRectF ProposalsView::box(int index) const {
  const double wide = width() / std::max(1.0, static_cast<double>(proposals_.size()));
  return {index * wide, 0, wide, static_cast<double>(height())};
}

void ProposalsView::paint_coil(QPainter& painter, const arc::Proposal& p, const QRectF& room,
                               double pixels_per_m) const {
  const Theme& t = workspace_.theme();
  const arc::Design& d = p.design;
  const double axis = room.center().x(), ground = room.bottom();
  const auto at = [&](double radius_m, double height_m) {
    return QPointF(axis + radius_m * pixels_per_m, ground - height_m * pixels_per_m);
  };
  const arc::Secondary& s = d.secondary;
  const double top_m = s.base_height_m + s.winding_length_m;
  painter.setPen(QPen(t.hairline, 1));
  painter.drawLine(QPointF(room.left() + 8, ground), QPointF(room.right() - 8, ground));
  const arc::Primary& primary = d.primary;
  painter.setPen(QPen(t.copper, std::max(1.5, primary.conductor_diameter_m * pixels_per_m)));
  const bool helix = primary.shape == arc::PrimaryShape::helix;
  for (int turn = 0; turn < static_cast<int>(primary.turns); ++turn) {
    const double along_m = (turn + 0.5) * primary.pitch_m;
    const double r = primary.inner_radius_m + (helix ? 0 : along_m),
                 z = primary.base_height_m + (helix ? along_m : 0);
    painter.drawPoint(at(r, z));
    painter.drawPoint(at(-r, z));
  }
  painter.setPen(QPen(t.copper, 1));
  painter.setBrush(t.card);
  painter.drawRect(QRectF(at(-s.form_diameter_m / 2, top_m), at(s.form_diameter_m / 2, s.base_height_m)));
  painter.setBrush(QBrush(t.copper, Qt::HorPattern));
  painter.drawRect(QRectF(at(-s.form_diameter_m / 2, top_m), at(s.form_diameter_m / 2, s.base_height_m)));
  paint_topload_parts(painter, t, d.topload, [&](double r, double z) { return at(r, top_m + z); });
  if (p.figures.arc_high_m <= 0) return;
  // From the edge of the top: what it reaches for certain, and what it may.
  double edge_m = s.form_diameter_m / 2, edge_z_m = top_m;
  for (const arc::ToploadPart& part : d.topload)
    if (part.outer_diameter_m / 2 > edge_m) {
      edge_m = part.outer_diameter_m / 2;
      edge_z_m = top_m + part.centre_above_winding_m;
    }
  constexpr double steep = 0.8; // radians
  const auto along = [&](double m) { return at(edge_m + m * std::cos(steep), edge_z_m + m * std::sin(steep)); };
  painter.setPen(QPen(t.arc, 1.2, Qt::DotLine));
  painter.drawLine(along(p.figures.arc_low_m), along(p.figures.arc_high_m));
  painter.setPen(QPen(t.arc, 1.8));
  painter.drawLine(along(0), along(p.figures.arc_low_m));
}

void ProposalsView::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  if (proposals_.empty()) {
    painter.setPen(t.second);
    painter.setFont(type::font(type::body));
    painter.drawText(rect().adjusted(24, 8, -24, -8), static_cast<int>(Qt::AlignCenter) | Qt::TextWordWrap, empty_);
    return;
  }
  double high_m = 0.1, wide_m = 0.1;
  for (const arc::Proposal& p : proposals_) {
    high_m = std::max(high_m, p.figures.height_m + 0.75 * p.figures.arc_high_m);
    wide_m =
        std::max({wide_m, p.figures.floor_diameter_m, p.figures.floor_diameter_m + 1.4 * p.figures.arc_high_m});
  }
  const double room_high = height() - words_height - floor_height, room_wide = box(0).width() - 16;
  const double scale = std::min(room_high / high_m, room_wide / wide_m);
  const Print print{workspace_};
  for (int i = 0; i < static_cast<int>(proposals_.size()); ++i) {
    const arc::Proposal& p = proposals_[static_cast<std::size_t>(i)];
    const QRectF all = box(i).adjusted(4, 2, -4, -2);
    if (i == chosen_) {
      painter.setPen(hasFocus() ? QPen(t.arc, 1.4) : QPen(Qt::NoPen));
      painter.setBrush(t.shade);
      painter.drawRoundedRect(all, 4, 4);
    }
    const auto line = [&](double y, const QString& words, QFont::Weight weight, const QColor& colour) {
      painter.setFont(type::font(type::caption, weight));
      painter.setPen(colour);
      const int room = static_cast<int>(all.width()) - 8;
      painter.drawText(QRectF(all.left() + 4, y, room, 16), Qt::AlignCenter,
                       QFontMetrics(painter.font()).elidedText(words, Qt::ElideRight, room));
    };
    line(all.top() + 2, QString::fromStdString(p.character), QFont::DemiBold, t.ink);
    line(all.top() + 17, text_of(arc::kind_of(p.design).title), QFont::Normal, t.second);
    line(all.top() + 32,
         p.figures.arc_high_m > 0 ? print(p.figures.arc_low_m, arc::Dimension::length, 2) + " to " +
                                        print(p.figures.arc_high_m, arc::Dimension::length, 2)
                                  : QString("no arcs"),
         QFont::Normal, t.ink);
    paint_coil(painter, p, QRectF(all.left(), words_height, all.width(), room_high - 2), scale);
  }
}

void ProposalsView::mousePressEvent(QMouseEvent* event) {
  for (int i = 0; i < static_cast<int>(proposals_.size()); ++i)
    if (box(i).contains(event->position())) take(i);
}

void ProposalsView::mouseMoveEvent(QMouseEvent* event) {
  for (int i = 0; i < static_cast<int>(proposals_.size()); ++i)
    if (box(i).contains(event->position())) Q_EMIT pointed_at(i);
}

void ProposalsView::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (way == 0) return QWidget::keyPressEvent(event);
  take(chosen_ + way);
}

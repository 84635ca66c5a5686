#include "toolkit/circuit_view.h"

#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/file_dialogs.h"
#include "toolkit/schematic_painter.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace {

QString said(const arc::SchematicPart& part) {
  return part_words(QString::fromStdString(part.title),
                    {QString::fromStdString(part.value), QString::fromStdString(part.live)}, part.hot);
}

} // namespace

CircuitView::CircuitView(Workspace& workspace, const QString& name, const QString& words, const QString& file,
                         QWidget* parent)
    : QWidget(parent), workspace_(workspace), file_(file) {
  grey_while_stale(workspace, this, true);
  setObjectName(name);
  setAccessibleName(words);
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(420, 216);
  connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
}

void CircuitView::show(arc::Schematic schematic) {
  schematic_ = std::move(schematic);
  current_ = std::clamp(current_, 0, std::max(0, static_cast<int>(parts().size()) - 1));
  update();
}

QString CircuitView::readings() const {
  QStringList out;
  for (const arc::SchematicPart& part : parts()) out << said(part);
  return out.join("; ");
}

QString CircuitView::at_cursor() const {
  return current_ < static_cast<int>(parts().size()) ? said(parts()[static_cast<std::size_t>(current_)])
                                                     : QString();
}

int CircuitView::part_at(QPointF place) const {
  for (std::size_t i = 0; i < parts().size(); ++i)
    if (schematic_place(schematic_, rect(), parts()[i].box).contains(place)) return static_cast<int>(i);
  return -1;
}

void CircuitView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  for (int i = 0; i < static_cast<int>(parts().size()); ++i) {
    const bool current = i == current_ && hasFocus();
    if (!current && i != hovered_) continue;
    p.setPen(current ? QPen(t.arc, 1.4) : QPen(Qt::NoPen));
    p.setBrush(i == hovered_ ? t.card : QColor(Qt::transparent));
    p.drawRoundedRect(schematic_place(schematic_, rect(), parts()[static_cast<std::size_t>(i)].box), 4, 4);
  }
  draw_schematic(p, schematic_, rect(), t);
  draw_part_words(p, schematic_, rect(), t);
}

void CircuitView::go(int part) {
  const arc::SchematicPart& p = parts()[static_cast<std::size_t>(part)];
  workspace_.go_to(QString::fromStdString(p.stage), QString::fromStdString(p.field));
}

void CircuitView::mousePressEvent(QMouseEvent* event) {
  const int part = part_at(event->position());
  if (part < 0 || event->button() != Qt::LeftButton) return;
  current_ = part;
  go(part);
}

void CircuitView::mouseMoveEvent(QMouseEvent* event) {
  const int part = part_at(event->position());
  if (part == hovered_) return;
  hovered_ = part;
  setCursor(part < 0 ? Qt::ArrowCursor : Qt::PointingHandCursor);
  if (part >= 0) {
    const arc::SchematicPart& p = parts()[static_cast<std::size_t>(part)];
    setToolTip(QString::fromStdString(p.title + "\n" + p.value + "\n" + p.live).trimmed());
  }
  update();
}

void CircuitView::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

void CircuitView::keyPressEvent(QKeyEvent* event) {
  const int last = static_cast<int>(parts().size()) - 1;
  switch (event->key()) {
  case Qt::Key_Right:
  case Qt::Key_Down:
    current_ = std::min(current_ + 1, last);
    break;
  case Qt::Key_Left:
  case Qt::Key_Up:
    current_ = std::max(current_ - 1, 0);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (last >= 0) go(current_);
    return;
  default:
    QWidget::keyPressEvent(event);
    return;
  }
  update();
  tell_cursor(*this);
}

void CircuitView::contextMenuEvent(QContextMenuEvent* event) {
  QMenu menu(this);
  QAction* action = menu.addAction("Save the circuit…", this, &CircuitView::save);
  action->setObjectName("save circuit");
  menu.exec(event->globalPos());
}

void CircuitView::save() {
  const QString path = file_dialogs::to_save(this, "Circuit", file_, "SVG (*.svg)");
  QString problem;
  if (!path.isEmpty() && !save_schematic(schematic_, path, &problem))
    Q_EMIT workspace_.document.work_failed("Not written: " + path + ": " + problem);
}

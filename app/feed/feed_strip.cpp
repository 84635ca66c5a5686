// The strip of feed blocks and the panel of the chosen one.
#include "feed/feed_strip.h"
#include "craft/kind.h"
#include "feed/circuit_symbols.h"
#include "feed/feed_ends.h"
#include "feed/path_block.h"
#include "file/examples.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "workshop/reservoir_offers.h"
#include <QAbstractButton>
#include <QCheckBox>
#include <QContextMenuEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

FeedStrip::FeedStrip(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("feed strip");
  setAccessibleName("Power path from the wall");
  QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
  insertion_ = new QFrame(this);
  insertion_->hide();
  auto* area = new QScrollArea(parent);
  area->setObjectName("feed block panel");
  area->setAccessibleName("Numbers of the chosen block");
  area->setFocusPolicy(Qt::NoFocus); // its fields scroll it
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* stack = new QWidget(area);
  page_column_ = new QVBoxLayout(stack); // as high as the one page that is seen
  page_column_->setContentsMargins(0, 0, 0, 0);
  area->setWidget(stack);
  panel_ = area;
  connect(&workspace, &Workspace::go_to_requested, this, &FeedStrip::go_to);
  connect(&workspace.document, &Document::opened, this, [this] { chosen_ = 0; });
}

QWidget* FeedStrip::make_tools(QWidget* parent) {
  auto* box = new QWidget(parent);
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(space::small);
  legend_ = caption_label(
      "At each joint: volts (a peak behind the source), amperes effective, share of the nearer limit", box);
  row->addWidget(legend_, 1);
  row->addStretch();
  const auto add = [&](const char* name, const char* text, const QString& says, auto change) {
    auto* button = new QPushButton(text, box);
    button->setObjectName(name);
    button->setAccessibleName(says);
    connect(button, &QPushButton::clicked, this, change);
    row->addWidget(button);
    return button;
  };
  earlier_ = add("earlier block", "←", "Move the chosen block toward the wall",
                 [this] { move_block(chosen_, chosen_ - 1); });
  later_ = add("later block", "→", "Move the chosen block away from the wall",
               [this] { move_block(chosen_, chosen_ + 2); });
  for (QPushButton* arrow : {earlier_, later_}) {
    arrow->setProperty("narrow", true);
    arrow->setFixedWidth(30);
  }
  add("remove block", "Remove", "Take the chosen block out", [this] {
    remove_block(chosen_);
  })->setToolTip("Take the chosen block out (Delete)");
  return box;
}

// ---- where things stand

FeedStrip::Grid FeedStrip::grid(int width) const {
  const int room = std::max(1, (width - wall_width - end_width) / least_cell);
  const int count = std::max<int>(1, static_cast<int>(shown_.size()));
  Grid out;
  out.rows = (count + room - 1) / room;
  out.across = (count + out.rows - 1) / out.rows;
  out.cell = std::clamp((width - wall_width - end_width) / static_cast<double>(out.across), 1.0 * least_cell,
                        1.0 * most_cell);
  return out;
}

QRect FeedStrip::cell_of(std::size_t index) const {
  const Grid g = grid(width());
  const auto across = static_cast<std::size_t>(g.across);
  const auto row = static_cast<int>(index / across), column = static_cast<int>(index % across);
  const int left = wall_width + static_cast<int>(std::round(column * g.cell)),
            right = wall_width + static_cast<int>(std::round((column + 1) * g.cell));
  return {left, row * row_height, right - left, block_height};
}

int FeedStrip::heightForWidth(int width) const {
  return grid(width).rows * row_height;
}

QSize FeedStrip::sizeHint() const {
  return {wall_width + end_width + 8 * least_cell, heightForWidth(std::max(width(), 500))};
}

void FeedStrip::lay_out() {
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const QRect cell = cell_of(i);
    blocks_[i]->setGeometry(cell);
    joints_[i]->setGeometry(cell.right() + 1 - cell.width() / 2, cell.bottom() + 1, cell.width(), joint_height);
  }
  if (wall_) wall_->setGeometry(0, block_height, wall_width, joint_height);
  if (end_ && !blocks_.empty()) {
    const QRect last = cell_of(blocks_.size() - 1);
    end_->setGeometry(last.right() + 1 + end_middle - 34, last.bottom() + 1, 68, joint_height);
  }
  setFixedHeight(heightForWidth(width()));
}

void FeedStrip::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  fit_panel(least_); // as wide as this is
  if (legend_) legend_->setVisible(!narrow());
  if (narrow() != built_narrow_ && wall_) rebuild(shown_);
  lay_out();
}

// Wall, joints, what it ends in; the blocks paint themselves.
void FeedStrip::paintEvent(QPaintEvent*) {
  if (blocks_.empty()) return;
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Theme& t = workspace_.theme();
  const FeedEndRow& end = feed_end_of(workspace_.document.design());
  const auto symbol = [&](const char* name, QPointF middle) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.ink, 1.4));
    draw_circuit_symbol(painter, QString(name), middle);
  };
  const auto words = [&](const QString& text, double left, double top, double wide) {
    painter.setFont(type::font(type::caption));
    painter.setPen(t.second);
    painter.drawText(QRectF(left, top + 1, wide, name_height), Qt::AlignCenter, text);
  };
  const auto wire = [&](double from, double to, double y) {
    painter.setPen(QPen(t.copper, 1.6));
    painter.drawLine(QPointF(from, y), QPointF(to, y));
  };
  words("Wall", 0, 0, wall_width - 4);
  symbol("source", {(wall_width - 4) / 2.0, wire_y});
  wire((wall_width - 4) / 2.0 + 12, wall_width, wire_y);
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const QRect cell = cell_of(i);
    const double y = cell.top() + wire_y, x = cell.right() + 1;
    const bool turns = i + 1 < blocks_.size() && cell_of(i + 1).top() != cell.top();
    if (turns) { // on to the next line
      wire(x, x + 10, y);
      const double below = cell_of(i + 1).top() + wire_y;
      wire(wall_width - 16, wall_width, below);
      painter.setBrush(t.copper);
      painter.setPen(Qt::NoPen);
      for (const QPointF tip : {QPointF(x + 15, y), QPointF(wall_width - 11, below)})
        painter.drawPolygon(QPolygonF{tip, tip + QPointF(-7, -4), tip + QPointF(-7, 4)});
    }
    painter.setBrush(t.copper);
    painter.setPen(Qt::NoPen);
    painter.drawEllipse(QPointF(x, y), 2.6, 2.6);
    painter.setPen(QPen(t.hairline, 1));
    painter.drawLine(QPointF(x, y + 5), QPointF(x, cell.bottom()));
  }
  const QRect last = cell_of(blocks_.size() - 1);
  const double left = last.right() + 1, y = last.top() + wire_y;
  wire(left, left + end_middle - symbol_width / 2, y);
  words(end.name, left + end_middle - 40, last.top(), 80);
  symbol(end.symbol, {left + end_middle, y});
}

// ---- what they say

void FeedStrip::refresh() {
  const auto& feed = workspace_.document.design().feed;
  QStringList kinds;
  for (const arc::FeedBlock& block : feed) kinds << QString::fromStdString(block.kind);
  if (kinds != shown_ || !wall_)
    rebuild(kinds);
  else
    choose(chosen_);
  wall_->setText(quantity_text(workspace_.document.design().site.mains_voltage_v, arc::Dimension::voltage,
                               workspace_.units()));
  for (const auto& update : switches_) update();
  for (std::size_t i = 0; i < joints_.size(); ++i) {
    const arc::BlockKind& kind = *arc::block_kind(feed[i].kind);
    const JointText text = joint_text(i);
    set_joint(joints_[i], "Behind " + text_of(kind.title), text);
    blocks_[i]->setAccessibleName(text_of(kind.title));
    blocks_[i]->setAccessibleDescription(text.whole + ". " + text_of(kind.danger));
    blocks_[i]->setToolTip(QString("%1: %2\n%3").arg(text_of(kind.title), text.whole, text_of(kind.danger)));
    blocks_[i]->update();
  }
  set_joint(end_, "At the end of the path", joint_text(joints_.size()));
  update();
}

void FeedStrip::set_joint(QLabel* label, const QString& name, const JointText& text) {
  const Theme& t = workspace_.theme();
  label->setText(text.brief);
  label->setAccessibleName(name + ": " + text.whole);
  label->setToolTip(name + ": " + text.whole);
  label->setStyleSheet(text.over ? QString("color: %1; font-weight: 600").arg(t.stop.name()) : QString());
}

// What these blocks carry; null while it is not known: a simulation of other blocks says nothing about them.
std::shared_ptr<const arc::FeedLoads> FeedStrip::loads() const {
  const auto power = workspace_.document.power();
  const arc::FeedLoads* found = power && power->part ? power->part->feed() : nullptr;
  const arc::Design& design = workspace_.document.design();
  if (!found || power->kind != design.kind || found->joints.size() != design.feed.size() + 1) return nullptr;
  return {power, found};
}

// Volts, amperes and margin behind a block; of rectifiers also the diodes'.
FeedStrip::JointText FeedStrip::joint_text(std::size_t index) const {
  const auto loads = this->loads();
  const auto& feed = workspace_.document.design().feed;
  if (!loads) return {"–\n–", "not simulated yet"};
  const arc::JointLoad& j = loads->joints[index];
  const Print print{workspace_};
  double used = j.used();
  QString of = "of its limit";
  if (index < feed.size() && arc::block_kind(feed[index].kind)->diode_strings > 0)
    for (const arc::DiodeLoad& d : loads->diodes)
      if (d.block == index && d.used() > used) {
        used = d.used();
        of = "of the diodes";
      }
  const QString volts = print(j.mains ? j.rms_v : j.peak_v, arc::Dimension::voltage),
                amps = print(j.rms_a, arc::Dimension::current),
                share = used > 0 ? QString("%1 %").arg(100 * used, 0, 'f', 0) : QString();
  JointText out{
      volts + "\n" + amps + "\n" + share,
      QString("%1%2, %3, %4")
          .arg(volts, j.mains ? "" : " peak", amps, used > 0 ? share + " " + of : QString("no limit stated")),
      used > 1};
  if (out.over) out.brief += " !";
  return out;
}

QLabel* FeedStrip::joint_label(const QString& name) {
  auto* label = caption_label({}, this);
  label->setObjectName(name);
  label->setAlignment(Qt::AlignHCenter | Qt::AlignTop);
  grey_while_stale(workspace_, label);
  label->show();
  return label;
}

void FeedStrip::rebuild(const QStringList& kinds) {
  shown_ = kinds;
  built_narrow_ = narrow();
  switches_.clear();
  const auto let_go = [](auto& widgets) {
    for (auto* widget : widgets) {
      widget->setObjectName({}); // its name is another's from now on
      widget->hide();
      widget->deleteLater();
    }
    widgets.clear();
  };
  const bool had_focus = std::ranges::any_of(
      blocks_, [](const PathBlock* block) { return static_cast<const QWidget*>(block)->hasFocus(); });
  let_go(joints_);
  let_go(blocks_);
  for (QWidget* page : pages_)
    for (QWidget* each : page->findChildren<QWidget*>()) each->setObjectName({});
  let_go(pages_);
  if (!wall_) {
    wall_ = joint_label("wall joint");
    end_ = joint_label("tank joint");
  }
  for (int i = 0; i < kinds.size(); ++i) {
    const auto index = static_cast<std::size_t>(i);
    blocks_.push_back(new PathBlock(workspace_, *this, index));
    blocks_.back()->show();
    joints_.push_back(joint_label(QString("joint %1").arg(i + 1)));
    pages_.push_back(page(index));
    page_column_->addWidget(pages_.back());
  }
  insertion_->raise();
  choose(std::min(chosen_, blocks_.empty() ? 0 : blocks_.size() - 1));
  lay_out();
  updateGeometry();
  if ((std::exchange(focus_next_, false) || had_focus) && !blocks_.empty()) focus_block(chosen_);
}

// ---- moving, adding, taking out

std::size_t FeedStrip::place_at(QPoint where) const {
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    const QRect cell = cell_of(i);
    if (where.y() >= cell.top() + row_height) continue;
    if (where.x() < cell.center().x()) return i;
    const bool last_in_row = i + 1 == blocks_.size() || cell_of(i + 1).top() != cell.top();
    if (last_in_row) return i + 1;
  }
  return blocks_.size();
}

void FeedStrip::show_place(QPoint where) {
  insertion_->setVisible(where.x() >= 0 && !blocks_.empty());
  if (!insertion_->isVisible()) return;
  const std::size_t place = place_at(where);
  const QRect cell = cell_of(std::min(place, blocks_.size() - 1));
  const int at = place < blocks_.size() ? cell.left() : cell.right() + 1;
  insertion_->setStyleSheet(QString("background: %1").arg(workspace_.theme().arc.name()));
  insertion_->setGeometry(at - 1, cell.top(), 3, block_height);
}

void FeedStrip::move_block(std::size_t from, std::size_t to) {
  if (to == from || to == from + 1) return; // where it was
  chosen_ = to > from ? to - 1 : to;
  workspace_.document.edit("Move a block", [from, to](arc::Design& d) {
    if (from >= d.feed.size() || to > d.feed.size()) return;
    const arc::FeedBlock moved = d.feed[from];
    d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(from));
    d.feed.insert(d.feed.begin() + static_cast<std::ptrdiff_t>(to > from ? to - 1 : to), moved);
  });
}

void FeedStrip::remove_block(std::size_t index) {
  workspace_.document.edit("Remove a block", [index](arc::Design& d) {
    if (index < d.feed.size()) d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(index));
  });
}

void FeedStrip::insert_block(std::size_t place, const arc::BlockKind& kind) {
  chosen_ = place;
  focus_next_ = true;
  workspace_.document.edit("Add " + text_of(kind.title), [&](arc::Design& d) {
    d.feed.insert(d.feed.begin() + static_cast<std::ptrdiff_t>(std::min(place, d.feed.size())),
                  arc::example_block(kind.key));
  });
}

void FeedStrip::fill_with_blocks(QMenu* menu, arc::FeedEnd end,
                                 const std::function<void(const arc::BlockKind&)>& add) {
  auto place = arc::BlockPlace::mains;
  for (const arc::BlockPlace each :
       {arc::BlockPlace::mains, arc::BlockPlace::source, arc::BlockPlace::behind, arc::BlockPlace::anywhere})
    for (const arc::BlockKind& kind : arc::block_kinds()) {
      if (kind.place != each || !kind.serves(end)) continue;
      if (each != place) menu->addSeparator();
      place = each;
      auto* action = menu->addAction(text_of(kind.title));
      action->setObjectName("add " + text_of(kind.key));
      QObject::connect(action, &QAction::triggered, menu, [add, &kind] { add(kind); });
    }
}

void FeedStrip::show_menu(std::size_t index, QPoint global) {
  auto* menu = new QMenu(this);
  menu->setObjectName("block menu");
  menu->setAttribute(Qt::WA_DeleteOnClose);
  const arc::FeedEnd end = arc::kind_of(workspace_.document.design()).feed_end;
  const std::size_t count = blocks_.size();
  fill_with_blocks(menu->addMenu("Add before it"), end,
                   [this, index](const arc::BlockKind& kind) { insert_block(index, kind); });
  fill_with_blocks(menu->addMenu("Add behind it"), end,
                   [this, index](const arc::BlockKind& kind) { insert_block(index + 1, kind); });
  menu->addSeparator();
  auto* earlier =
      menu->addAction("Move toward the wall\tCtrl+Left", this, [this, index] { move_block(index, index - 1); });
  earlier->setObjectName("menu earlier");
  earlier->setEnabled(index > 0);
  auto* later =
      menu->addAction("Move away from the wall\tCtrl+Right", this, [this, index] { move_block(index, index + 2); });
  later->setObjectName("menu later");
  later->setEnabled(index + 1 < count);
  menu->addSeparator();
  menu->addAction("Edit its numbers\tEnter", this, &FeedStrip::edit_numbers)->setObjectName("menu edit");
  menu->addAction("Remove\tDelete", this, [this, index] { remove_block(index); })->setObjectName("menu remove");
  menu->popup(global);
}

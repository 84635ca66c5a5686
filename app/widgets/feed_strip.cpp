// The strip of feed blocks.
#include "widgets/feed_strip.h"

#include "kinds/spark_gap/spark_gap.h"
#include "widgets/common.h"
#include "widgets/quantity_field.h"

#include <QCheckBox>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

// A block with the piece of the power path that runs over it: a copper line with an arrow toward the tank. Dragged
// by its head it moves along the path.
class PathBlock : public QWidget {
 public:
  PathBlock(Workspace& workspace, FeedStrip& strip, std::size_t index, QWidget* parent)
      : QWidget(parent), workspace_(workspace), strip_(strip), index_(index) {
    setCursor(Qt::OpenHandCursor);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QColor copper = workspace_.theme().copper;
    painter.setPen(QPen(copper, 3));
    painter.drawLine(0, 5, width(), 5);
    painter.setBrush(copper);
    painter.setPen(Qt::NoPen);
    painter.drawPolygon(QPolygonF{{8, 0}, {17, 5}, {8, 10}});
    if (dragged_) painter.fillRect(rect(), QColor(copper.red(), copper.green(), copper.blue(), 28));
  }
  void mousePressEvent(QMouseEvent* event) override { start_ = event->position().toPoint(); }
  void mouseMoveEvent(QMouseEvent* event) override {
    if ((event->position().toPoint() - start_).manhattanLength() < 8) return;
    dragged_ = true;
    setCursor(Qt::ClosedHandCursor);
    strip_.show_place(mapToParent(event->position().toPoint()).x());
    update();
  }
  void mouseReleaseEvent(QMouseEvent* event) override {
    setCursor(Qt::OpenHandCursor);
    strip_.show_place(-1);
    if (!std::exchange(dragged_, false)) return;
    update();
    strip_.move_block(index_, strip_.place_at(mapToParent(event->position().toPoint()).x()));
  }

 private:
  Workspace& workspace_;
  FeedStrip& strip_;
  std::size_t index_;
  QPoint start_;
  bool dragged_ = false;
};

FeedStrip::FeedStrip(Workspace& workspace, QWidget* parent) : QScrollArea(parent), workspace_(workspace) {
  setObjectName("feed strip");
  setAccessibleName("Power path from the wall to the tank");
  setWidgetResizable(true);
  strip_ = new QWidget(this);
  blocks_ = new QHBoxLayout(strip_);
  blocks_->setContentsMargins(0, 0, 0, 0);
  blocks_->setSpacing(0);
  setWidget(strip_);
  insertion_ = new QFrame(strip_);
  insertion_->setFixedWidth(3);
  insertion_->hide();
}

void FeedStrip::refresh() {
  const auto& feed = workspace_.document.design().feed;
  QStringList kinds;
  for (const arc::FeedBlock& block : feed) kinds << QString::fromStdString(block.kind);
  if (kinds != shown_ || !wall_) rebuild(kinds);
  wall_->setText("Wall\n" + quantity_text(workspace_.document.design().site.mains_voltage_v,
                                          arc::Dimension::voltage, workspace_.units()));
  for (const auto& update : switches_) update();
  const Theme& t = workspace_.theme();
  for (std::size_t i = 0; i < joints_.size(); ++i) {
    bool over = false;
    joints_[i]->setText(joint_text(i, &over));
    joints_[i]->setStyleSheet(over ? QString("color: %1").arg(t.stop.name()) : QString());
  }
  bool over = false;
  tank_->setText("Tank\n" + joint_text(joints_.size(), &over));
  tank_->setStyleSheet(over ? QString("color: %1").arg(t.stop.name()) : QString());
  for (QLabel* joint : joints_) joint->setEnabled(workspace_.document.power_is_current());
  tank_->setEnabled(workspace_.document.power_is_current());
}

// Volts, amperes and margin behind a block; of rectifiers also the diodes'.
QString FeedStrip::joint_text(std::size_t index, bool* over) const {
  const auto power = workspace_.document.power_of<arc::SparkGapPower>();
  // A simulation of a feed with other blocks says nothing about these.
  if (!power || !power->charging_problem.empty() ||
      power->charging.joints.size() != workspace_.document.design().feed.size() + 1)
    return "–\n–";
  const arc::JointLoad& j = power->charging.joints[index];
  const auto print = [&](double si, arc::Dimension d) { return quantity_text(si, d, workspace_.units(), 3); };
  QString text =
      (j.mains ? print(j.rms_v, arc::Dimension::voltage) : print(j.peak_v, arc::Dimension::voltage) + " peak") +
      ", " + print(j.rms_a, arc::Dimension::current) + "\n";
  double used = j.used();
  QString of = "of its limit";
  const auto& feed = workspace_.document.design().feed;
  if (index < feed.size() && arc::block_kind(feed[index].kind)->diode_strings > 0)
    for (const arc::DiodeLoad& d : power->charging.diodes)
      if (d.block == index && d.used() > used) {
        used = d.used();
        of = "of the diodes";
      }
  *over = used > 1;
  return text + (used > 0 ? QString("%1 % %2").arg(100 * used, 0, 'f', 0).arg(of) : QString("no limit stated"));
}

QLabel* FeedStrip::end_label() {
  auto* label = new QLabel(strip_);
  label->setFont(type::font(type::body, QFont::DemiBold));
  label->setAlignment(Qt::AlignCenter);
  label->setMinimumWidth(62);
  label->setContentsMargins(0, 12, 0, 0);
  return label;
}

void FeedStrip::rebuild(const QStringList& kinds) {
  shown_ = kinds;
  joints_.clear();
  switches_.clear();
  cards_.clear();
  while (QLayoutItem* item = blocks_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  blocks_->addWidget(wall_ = end_label(), 0, Qt::AlignTop);
  for (int i = 0; i < kinds.size(); ++i) {
    cards_.push_back(card(static_cast<std::size_t>(i)));
    blocks_->addWidget(cards_.back(), 0, Qt::AlignTop);
  }
  blocks_->addWidget(tank_ = end_label(), 0, Qt::AlignTop);
  tank_->setObjectName("tank joint");
  blocks_->addStretch();
  insertion_->raise();
  QTimer::singleShot(0, this, &FeedStrip::fit_height); // once the blocks have their fonts
}

void FeedStrip::fit_height() {
  int tallest = 0;
  for (const QWidget* card : cards_)
    tallest =
        std::max(tallest, card->layout()->hasHeightForWidth() ? card->layout()->totalHeightForWidth(card->width())
                                                              : card->sizeHint().height());
  setMaximumHeight(std::max(minimumHeight(), tallest + 16)); // and the scroll bar below
}

void FeedStrip::add_fields(QWidget* box, QLayout* column, std::size_t index) {
  const arc::BlockKind& kind = *arc::block_kind(workspace_.document.design().feed[index].kind);
  for (const arc::BlockNumber& number : kind.numbers) {
    if (number.is_switch()) {
      static_cast<QVBoxLayout*>(column)->addWidget(make_switch(box, index, number), 0, Qt::AlignLeft);
      continue;
    }
    QuantityRole role;
    role.name = QString("block %1 %2").arg(index + 1).arg(text_of(number.key));
    role.label = text_of(number.label);
    role.dimension = number.dimension;
    role.minimum = number.minimum;
    role.maximum = number.maximum;
    role.get = [this, index, &number]() -> std::optional<double> {
      const auto& feed = workspace_.document.design().feed;
      if (index >= feed.size() || !feed[index].values.contains(std::string(number.key))) return std::nullopt;
      return arc::block_value(feed[index], number.key);
    };
    role.set = [this, index, &number](std::optional<double> value, const QString& gesture) {
      workspace_.document.edit(
          text_of(number.label),
          [&](arc::Design& design) {
            if (value && index < design.feed.size()) design.feed[index].values[std::string(number.key)] = *value;
          },
          gesture);
    };
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    auto* label = caption_label(role.label, box);
    label->setWordWrap(true);
    auto* field = new QuantityField(workspace_, std::move(role), box);
    field->setFixedWidth(76);
    field->setCursor(Qt::IBeamCursor);
    label->setBuddy(field);
    line->addWidget(label, 1);
    line->addWidget(field);
    static_cast<QVBoxLayout*>(column)->addLayout(line);
  }
}

// Something that is there or not.
QWidget* FeedStrip::make_switch(QWidget* box, std::size_t index, const arc::BlockNumber& number) {
  auto* check = new QCheckBox(text_of(number.label), box);
  check->setObjectName(QString("block %1 %2").arg(index + 1).arg(text_of(number.key)));
  check->setCursor(Qt::ArrowCursor);
  connect(check, &QCheckBox::clicked, this, [this, index, &number](bool on) {
    workspace_.document.edit(text_of(number.label), [&](arc::Design& design) {
      if (index < design.feed.size()) design.feed[index].values[std::string(number.key)] = on ? 1 : 0;
    });
  });
  switches_.push_back([this, check, index, &number] {
    const auto& feed = workspace_.document.design().feed;
    if (index < feed.size()) check->setChecked(arc::block_value(feed[index], number.key) > 0.5);
  });
  return check;
}

QWidget* FeedStrip::card(std::size_t index) {
  const arc::BlockKind& kind = *arc::block_kind(workspace_.document.design().feed[index].kind);
  auto* box = new PathBlock(workspace_, *this, index, strip_);
  box->setObjectName(QString("block %1").arg(index + 1));
  box->setAccessibleName(text_of(kind.title));
  box->setFixedWidth(172);
  auto* column = new QVBoxLayout(box);
  column->setContentsMargins(space::small, 12, space::small, 0);
  column->setSpacing(2);
  auto* title = new QLabel(text_of(kind.title), box);
  title->setFont(type::font(type::body, QFont::DemiBold));
  title->setWordWrap(true);
  title->setFixedHeight(34);
  title->setAlignment(Qt::AlignLeft | Qt::AlignBottom);
  title->setToolTip("Drag to move the block along the path");
  column->addWidget(title);
  auto* joint = caption_label({}, box);
  joint->setObjectName(QString("joint %1").arg(index + 1));
  joint->setAccessibleName("Behind " + text_of(kind.title));
  column->addWidget(joint);
  joints_.push_back(joint);
  auto* danger = caption_label(text_of(kind.danger), box);
  danger->setObjectName(QString("danger %1").arg(index + 1));
  danger->setFont(type::font(type::caption, QFont::DemiBold));
  danger->setProperty("danger", true);
  danger->setToolTip(text_of(kind.caution));
  danger->setAccessibleDescription(text_of(kind.caution));
  danger->setWordWrap(true);
  column->addWidget(danger);
  add_fields(box, column, index);
  auto* row = new QHBoxLayout;
  row->setSpacing(space::small);
  const auto add = [&](const char* name, const char* text, const QString& tip, bool enabled, const QString& why_not,
                       auto change) {
    auto* button = new QPushButton(text, box);
    button->setObjectName(QString("%1 %2").arg(name).arg(index + 1));
    button->setAccessibleName(tip);
    button->setToolTip(enabled ? tip : why_not);
    button->setProperty("narrow", true);
    button->setFixedWidth(30);
    button->setEnabled(enabled);
    button->setCursor(Qt::ArrowCursor);
    connect(button, &QPushButton::clicked, this, [this, tip, change] { workspace_.document.edit(tip, change); });
    row->addWidget(button);
  };
  const std::size_t count = workspace_.document.design().feed.size();
  add("earlier block", "←", "Move toward the wall", index > 0, "It is the first block", [index](arc::Design& d) {
    if (index < d.feed.size()) std::swap(d.feed[index], d.feed[index - 1]);
  });
  add("later block", "→", "Move toward the tank", index + 1 < count, "It is the last block",
      [index](arc::Design& d) {
        if (index + 1 < d.feed.size()) std::swap(d.feed[index], d.feed[index + 1]);
      });
  add("remove block", "×", "Remove this block", true, {}, [index](arc::Design& d) {
    if (index < d.feed.size()) d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(index));
  });
  row->addStretch();
  column->addLayout(row);
  return box;
}

std::size_t FeedStrip::place_at(int x) const {
  std::size_t place = 0;
  while (place < cards_.size() && cards_[place]->geometry().center().x() < x) ++place;
  return place;
}

void FeedStrip::show_place(int x) {
  insertion_->setVisible(x >= 0 && !cards_.empty());
  if (!insertion_->isVisible()) return;
  const std::size_t place = place_at(x);
  const int at = place < cards_.size() ? cards_[place]->x() : cards_.back()->geometry().right();
  insertion_->setStyleSheet(QString("background: %1").arg(workspace_.theme().arc.name()));
  insertion_->setGeometry(at - 1, 0, 3, strip_->height());
}

void FeedStrip::move_block(std::size_t from, std::size_t to) {
  if (to == from || to == from + 1) return; // where it was
  workspace_.document.edit("Move a block", [from, to](arc::Design& d) {
    if (from >= d.feed.size() || to > d.feed.size()) return;
    const arc::FeedBlock moved = d.feed[from];
    d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(from));
    d.feed.insert(d.feed.begin() + static_cast<std::ptrdiff_t>(to > from ? to - 1 : to), moved);
  });
}

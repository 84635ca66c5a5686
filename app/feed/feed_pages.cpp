// The numbers of the chosen block below the strip.
#include "craft/kind.h"
#include "feed/circuit_symbols.h"
#include "feed/feed_ends.h"
#include "feed/feed_strip.h"
#include "feed/path_block.h"
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
#include <fmt/format.h>

// One of them is reached by Tab; the arrow keys go along the path.
void FeedStrip::choose(std::size_t index) {
  chosen_ = index;
  for (std::size_t i = 0; i < blocks_.size(); ++i) {
    blocks_[i]->setFocusPolicy(i == chosen_ ? Qt::StrongFocus : Qt::ClickFocus);
    blocks_[i]->setChecked(i == chosen_);
    blocks_[i]->update();
  }
  for (std::size_t i = 0; i < pages_.size(); ++i) pages_[i]->setVisible(i == index);
  fit_panel(least_);
  if (!earlier_) return;
  const bool first = index == 0, last = index + 1 >= blocks_.size();
  earlier_->setEnabled(!first);
  earlier_->setToolTip(first ? "It is the first block" : "Move it toward the wall (Ctrl+Left)");
  later_->setEnabled(!last);
  later_->setToolTip(last ? "It is the last block" : "Move it away from the wall (Ctrl+Right)");
}

void FeedStrip::fit_panel(int least) {
  least_ = least;
  int page = 0;
  if (chosen_ < pages_.size()) {
    const QLayout* layout = pages_[chosen_]->layout();
    page =
        layout->hasHeightForWidth() ? layout->heightForWidth(std::max(width(), 400)) : layout->sizeHint().height();
  }
  constexpr int around = 4;
  panel_->setMinimumHeight(least_);
  panel_->setMaximumHeight(std::max(least_, page + around));
}

void FeedStrip::focus_block(std::size_t index) {
  choose(index);
  blocks_[index]->setFocus(Qt::OtherFocusReason);
}

void FeedStrip::edit_numbers() {
  if (auto* field = pages_[chosen_]->findChild<QuantityField*>()) field->setFocus();
}

void FeedStrip::go_to(const QString& stage, const QString& field) {
  if (stage != "feed" || !field.startsWith("block ")) return;
  const auto index = field.section(' ', 1, 1).toUInt();
  if (index < 1 || index > blocks_.size()) return;
  choose(index - 1);
  if (auto* widget = pages_[chosen_]->findChild<QWidget*>(field)) widget->setFocus(Qt::ShortcutFocusReason);
}

// ---- the panel

void FeedStrip::add_fields(QWidget* box, std::size_t index) {
  const arc::BlockKind& kind = *arc::block_kind(workspace_.document.design().feed[index].kind);
  auto* grid = static_cast<QGridLayout*>(box->layout());
  const int across = narrow() ? 2 : 3;
  int place = 0;
  for (const arc::BlockNumber& number : kind.numbers) {
    const int row = place / across, column = 2 * (place % across);
    ++place;
    if (number.is_switch()) {
      grid->addWidget(make_switch(box, index, number), row, column, 1, 2, Qt::AlignLeft);
      continue;
    }
    QuantityRole role;
    role.name = QString("block %1 %2").arg(index + 1).arg(text_of(number.key));
    role.path = fmt::format("feed[{}].{}", index, number.key);
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
    auto* label = caption_label(role.label, box);
    label->setWordWrap(true);
    auto* field = new QuantityField(workspace_, std::move(role), box);
    field->setFixedWidth(80);
    label->setBuddy(field);
    grid->addWidget(label, row, column);
    grid->addWidget(field, row, column + 1);
  }
  if (kind.role == arc::BlockRole::reservoir) {
    grid->addWidget(make_shelf_button(box, index), place / across, 2 * (place % across), 1, 2, Qt::AlignLeft);
    ++place;
  }
  for (int i = 0; i < across; ++i) grid->setColumnStretch(2 * i, 1);
  grid->setRowStretch((place + across - 1) / across, 1);
}

// Something that is there or not.
QWidget* FeedStrip::make_switch(QWidget* box, std::size_t index, const arc::BlockNumber& number) {
  auto* check = new QCheckBox(text_of(number.label), box);
  check->setObjectName(QString("block %1 %2").arg(index + 1).arg(text_of(number.key)));
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

QWidget* FeedStrip::page(std::size_t index) {
  const arc::BlockKind& kind = *arc::block_kind(workspace_.document.design().feed[index].kind);
  auto* box = new QWidget(page_column_->parentWidget());
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(0, space::small, 0, 0);
  row->setSpacing(space::large);
  auto* said = new QWidget(box);
  said->setMaximumWidth(420);
  auto* words = new QVBoxLayout(said);
  words->setContentsMargins(0, 0, 0, 0);
  words->setSpacing(4);
  auto* title = make_text(text_of(kind.title), box);
  title->setFont(type::font(type::body, QFont::DemiBold));
  title->setWordWrap(true);
  words->addWidget(title);
  auto* danger = caption_label(text_of(kind.danger), box);
  danger->setObjectName(QString("danger %1").arg(index + 1));
  danger->setFont(type::font(type::caption, QFont::DemiBold));
  danger->setProperty("danger", true);
  words->addWidget(danger);
  auto* caution = caption_label(text_of(kind.caution), box);
  caution->setObjectName(QString("caution %1").arg(index + 1));
  caution->setWordWrap(true);
  words->addWidget(caution);
  words->addStretch();
  row->addWidget(said, 2);
  auto* fields = new QWidget(box);
  fields->setMaximumWidth(780); // labels stay near their fields
  auto* grid = new QGridLayout(fields);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(space::small);
  grid->setVerticalSpacing(4);
  add_fields(fields, index);
  row->addWidget(fields, 5);
  row->addStretch();
  return box;
}

// Capacitors that are there, as many as there are of each.
QWidget* FeedStrip::make_shelf_button(QWidget* box, std::size_t index) {
  auto* button = new QPushButton("From the shelf", box);
  button->setObjectName(QString("block %1 from shelf").arg(index + 1));
  auto* menu = new QMenu(button);
  button->setMenu(menu);
  connect(menu, &QMenu::aboutToShow, this, [this, menu, index] {
    menu->clear();
    const arc::Design& design = workspace_.document.design();
    const auto loads = this->loads();
    const double volts =
        loads ? loads->joints[index].peak_v : arc::unloaded_bus_v(design.feed, design.site.mains_voltage_v);
    const auto offers = arc::reservoir_offers(workspace_.shelf.shelf(), volts);
    for (const arc::ReservoirOffer& offer : offers) {
      const Print print{workspace_};
      auto* action = menu->addAction(QString("%1 for %2: %3 of %4, %5 in series, %6 in parallel")
                                         .arg(print(offer.capacitance_f, arc::Dimension::capacitance),
                                              print(offer.limit_v, arc::Dimension::voltage))
                                         .arg(offer.pieces())
                                         .arg(QString::fromStdString(offer.unit.name))
                                         .arg(offer.in_series)
                                         .arg(offer.in_parallel));
      connect(action, &QAction::triggered, this, [this, offer, index] {
        workspace_.document.edit("Reservoir from the shelf", [&](arc::Design& d) {
          if (index < d.feed.size()) offer.put_into(d.feed[index]);
        });
      });
    }
    if (offers.empty())
      menu->addAction(QString("Nothing on the shelf holds %1")
                          .arg(quantity_text(volts, arc::Dimension::voltage, workspace_.units(), 3)))
          ->setEnabled(false);
  });
  return button;
}

#include "toolkit/map_panel.h"

#include "toolkit/common.h"
#include "toolkit/plot.h"

#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

MapPanel::MapPanel(Workspace& workspace, const Names& names, std::function<void(const QString&)> say,
                   QWidget* parent)
    : QWidget(parent), workspace_(workspace), names_(names), say_(std::move(say)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(space::hair);
  auto* row = new QHBoxLayout;
  shown_ = new QComboBox(this);
  shown_->setObjectName(names.shows);
  shown_->setAccessibleName("What the map shows");
  connect(shown_, &QComboBox::activated, this, [this] { draw(); });
  row->addWidget(shown_);
  tools_ = new QHBoxLayout;
  row->addLayout(tools_, 1);
  take_ = new QPushButton(names.take_words, this);
  take_->setObjectName(names.take);
  take_->setEnabled(false);
  take_->setToolTip("Choose a place on the map first");
  connect(take_, &QPushButton::clicked, this, &MapPanel::take);
  row->addWidget(take_);
  column->addLayout(row);
  plot_ = new MapPlot(workspace, names.plot, names.plot_words, this);
  plot_->setMinimumHeight(96);
  connect(plot_, &MapPlot::place_picked, this, &MapPanel::read);
  column->addWidget(plot_, 1);
}

void MapPanel::show(const arc::TriedMap* map, bool current) {
  map_ = map;
  current_ = current;
  if (!map) return;
  QStringList titles, present;
  for (const arc::MapQuantity& quantity : map->quantities) titles << text_of(quantity.title);
  for (int i = 0; i < shown_->count(); ++i) present << shown_->itemText(i);
  if (titles != present) {
    shown_->clear();
    shown_->addItems(titles);
  }
  draw();
}

AxisUnit MapPanel::unit_of(const arc::MapAxis& axis) const {
  return axis_unit(axis.now, axis.dimension, workspace_.units());
}

void MapPanel::draw() {
  if (!map_) return;
  const auto quantity = static_cast<std::size_t>(std::max(0, shown_->currentIndex()));
  const arc::MapQuantity& shown = map_->quantities[quantity];
  const auto titled = [](std::string_view title, const QString& symbol) {
    return symbol.isEmpty() ? text_of(title) : QString("%1, %2").arg(text_of(title), symbol);
  };
  MapPicture picture;
  picture.across = titled(map_->across.title, unit_of(map_->across).symbol);
  picture.up = titled(map_->up.title, unit_of(map_->up).symbol);
  for (const double value : map_->across.values) picture.x.push_back(value / unit_of(map_->across).factor);
  for (const double value : map_->up.values) picture.y.push_back(value / unit_of(map_->up).factor);
  picture.here_x = map_->across.now / unit_of(map_->across).factor;
  picture.here_y = map_->up.now / unit_of(map_->up).factor;
  double most = 0;
  bool limited = false;
  for (const arc::TriedMap::Place& place : map_->places) {
    if (place.runs) most = std::max(most, std::abs(place.values[quantity]));
    limited = limited || place.limit > 0;
  }
  const AxisUnit unit = axis_unit(most, shown.dimension, workspace_.units());
  picture.unit = titled(shown.title, unit.symbol);
  for (const arc::TriedMap::Place& place : map_->places) {
    picture.values.push_back(place.runs ? place.values[quantity] / unit.factor : std::nan(""));
    if (limited) picture.limited.push_back(place.runs ? place.limit : std::nan(""));
  }
  plot_->show(picture, current_);
}

void MapPanel::read() {
  if (!map_ || !plot_->picked()) return;
  const auto [column, row] = *plot_->picked();
  const arc::TriedMap::Place& place = map_->at(column, row);
  take_->setEnabled(map_->apply && place.runs);
  take_->setToolTip(!map_->apply ? QString::fromStdString(map_->only_shown)
                    : !place.runs
                        ? QString("Nothing to take: ") + QString::fromStdString(map_->idle)
                        : QString("Both numbers, as near as the parts allow, as one step that can be undone"));
  say_(QString::fromStdString(map_->words(column, row, workspace_.units())));
}

void MapPanel::take() {
  if (!map_ || !map_->apply || !plot_->picked()) return;
  const auto [column, row] = *plot_->picked();
  const arc::TriedMap map = *map_; // the edit brings a new one
  workspace_.document.edit(names_.step, [&, column = column, row = row](arc::Design& d) {
    map.apply(d, map.across.values[column], map.up.values[row]);
  });
}

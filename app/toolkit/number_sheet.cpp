// Headings, grids and numbers of a sheet.
#include "toolkit/number_sheet.h"

#include "base/theme.h"
#include "toolkit/text.h"

#include <optional>

NumberSheet::NumberSheet(Workspace& workspace, const QString& name, const QString& title, int across,
                         QWidget* parent)
    : QDialog(parent), workspace_(workspace), column_(new QVBoxLayout(this)), name_(name), across_(across) {
  setObjectName(name + " sheet");
  setWindowTitle(title);
  setAttribute(Qt::WA_DeleteOnClose);
  column_->setContentsMargins(space::large, space::large, space::large, space::medium);
  column_->setSpacing(space::small);
}

QLabel* NumberSheet::heading(const QString& text) {
  auto* label = make_text(text, this);
  label->setFont(type::font(type::strong, QFont::DemiBold));
  return label;
}

QWidget* NumberSheet::grid_of(const std::vector<const char*>& keys) {
  auto* box = new QWidget(this);
  auto* grid = new QGridLayout(box);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(space::medium);
  for (std::size_t i = 0; i < keys.size(); ++i)
    grid->addWidget(labelled(make_design_field(workspace_, keys[i], box), box), static_cast<int>(i) / across_,
                    static_cast<int>(i) % across_, Qt::AlignTop);
  return box;
}

void NumberSheet::add_number(QGridLayout* grid, const QString& name, const char* label, arc::Dimension dimension,
                             double low, double high, double& value) {
  QuantityRole role;
  role.name = name_ + " " + name;
  role.label = label;
  role.dimension = dimension;
  role.minimum = low;
  role.maximum = high;
  role.get = [&value] { return std::optional(value); };
  role.set = [this, &value](std::optional<double> v, const QString&) {
    if (!v) return;
    value = *v;
    number_changed();
  };
  const int place = grid->count();
  grid->addWidget(labelled(new QuantityField(workspace_, std::move(role), this), this), place / across_,
                  place % across_, Qt::AlignTop);
}

QLabel* NumberSheet::make_problem() {
  auto* label = make_text(this);
  label->setProperty("problem", true);
  label->setObjectName(name_ + " problem");
  label->setWordWrap(true);
  return label;
}

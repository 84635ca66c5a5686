// Topload rows. The rows are rebuilt only when parts come, go or change shape, so that typing is never disturbed.
#include "coil_views/topload_editor.h"
#include "toolkit/file_dialogs.h"

#include "coil_views/topload_comparison.h"
#include "file/examples.h"
#include "parts/profile_import.h"
#include "parts/topload.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"

#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace {

QStringList shapes_of(const arc::Design& design) {
  QStringList out;
  for (const arc::ToploadPart& part : design.topload) out << QString::fromStdString(part.shape);
  return out;
}

// A part of the new shape of about the same size and place as the old one.
arc::ToploadPart reshaped(const arc::ToploadPart& old, const QString& shape) {
  arc::ToploadPart part = old;
  part.shape = shape.toStdString();
  const double size = std::max(0.02, 2 * arc::topload_extent(old).radius_m);
  if (part.outer_diameter_m <= 0) part.outer_diameter_m = size;
  if (part.tube_diameter_m <= 0) // what was typed for a shape before comes back as it was
    part.tube_diameter_m = part.outer_diameter_m * 0.22;
  if (part.diameter_m <= 0) part.diameter_m = size;
  if (part.height_m <= 0) part.height_m = size / 3;
  for (const arc::ToploadLength& length : arc::topload_shape(part.shape)->lengths)
    if (old.*length.member <= 0) part.examples[std::string(length.key)] = part.*length.member;
  if (arc::topload_shape(part.shape)->is_drawn() &&
      part.points_m.empty()) { // drawn by hand from here on: start from what stood there
    constexpr int corners = 12;
    for (const arc::OutlinePoint& p : arc::topload_shape(old.shape)->outline(old, corners))
      part.points_m.push_back({std::max(0.0, p.radius_m), p.height_m - old.centre_above_winding_m});
  }
  return part;
}

} // namespace

ToploadEditor::ToploadEditor(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("topload");
  rows_ = new QVBoxLayout(this);
  rows_->setContentsMargins(0, 0, 0, 0);
  rows_->setSpacing(space::hair);
  connect(&workspace_.document, &Document::design_changed, this, &ToploadEditor::rebuild_if_needed);
  rebuild_if_needed();
}

void ToploadEditor::rebuild_if_needed() {
  const QStringList shapes = shapes_of(workspace_.document.design());
  if (built_ && shapes == shown_shapes_) return;
  built_ = true;
  shown_shapes_ = shapes;
  while (QLayoutItem* item = rows_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  for (std::size_t i = 0; i < static_cast<std::size_t>(shapes.size()); ++i) rows_->addWidget(row(i));
  auto* add = new QPushButton(shapes.isEmpty() ? "Add a topload" : "Add a part", this);
  add->setObjectName("add topload part");
  add->setProperty("link", true);
  connect(add, &QPushButton::clicked, this, [this] {
    workspace_.document.edit("Add topload part", [](arc::Design& design) {
      arc::ToploadPart part;
      part.outer_diameter_m = 3 * design.secondary.form_diameter_m;
      part.tube_diameter_m = 0.22 * part.outer_diameter_m;
      double top = 0;
      for (const arc::ToploadPart& other : design.topload)
        top = std::max(top, arc::topload_extent(other).highest_m);
      part.centre_above_winding_m = top + part.tube_diameter_m / 2 + (design.topload.empty() ? 0.03 : 0.002);
      arc::mark_examples(part);
      design.topload.push_back(part);
    });
  });
  auto* links = new QWidget(this);
  auto* line = new QHBoxLayout(links);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(space::large);
  line->addWidget(add);
  auto* compare = new QPushButton("Compare toploads…", links);
  compare->setObjectName("compare toploads");
  compare->setProperty("link", true);
  compare->setToolTip("Keep this topload and try others on the same coil, beside each other");
  connect(compare, &QPushButton::clicked, this, [this] { show_topload_comparison(workspace_, window()); });
  line->addWidget(compare);
  line->addStretch();
  rows_->addWidget(links);
  rows_->addStretch();
}

void ToploadEditor::read_profile(std::size_t index) {
  const QString path = file_dialogs::to_open(this, "Read a profile", "Profiles (*.svg *.csv);;All files (*)");
  if (path.isEmpty()) return;
  QByteArray bytes;
  QString problem;
  if (read_whole_file(path, &bytes, &problem)) {
    try {
      const std::string_view text(bytes.constData(), static_cast<std::size_t>(bytes.size()));
      const arc::ProfilePoints points =
          path.endsWith(".csv", Qt::CaseInsensitive) ? arc::profile_from_csv(text) : arc::profile_from_svg(text);
      workspace_.document.edit("Read a profile",
                               [&](arc::Design& design) { design.topload.at(index).points_m = points; });
      return;
    } catch (const arc::ProfileError& error) {
      problem = QString::fromStdString(error.what());
    }
  }
  say(this, "The profile was not read",
      QString("%1: %2. Nothing was changed.").arg(QFileInfo(path).fileName(), problem));
}

QWidget* ToploadEditor::row(std::size_t index) {
  auto* box = new QWidget(this);
  auto* lines = new QVBoxLayout(box);
  lines->setContentsMargins(0, 0, 0, 0);
  lines->setSpacing(space::hair);
  auto* first = new QHBoxLayout;
  first->setSpacing(space::small);
  auto* layout = new QHBoxLayout;
  layout->setSpacing(space::small);
  lines->addLayout(first);
  lines->addLayout(layout);
  add_shape(index, box, first);
  add_lengths(index, box, layout);
  add_links(index, box, first);
  add_remove(index, box, first);
  first->addStretch();
  layout->addStretch();
  return box;
}

void ToploadEditor::add_shape(std::size_t index, QWidget* box, QHBoxLayout* first) {
  const arc::ToploadPart& part = workspace_.document.design().topload[index];
  auto* shape_label = make_text(index == 0 ? "Topload" : QString("Part %1").arg(index + 1), box);
  shape_label->setProperty("caption", true);
  shape_label->setFont(type::font(type::caption));
  auto* shape = new QComboBox(box);
  shape->setObjectName(QString("topload shape %1").arg(index + 1));
  shape->setAccessibleName(QString("Shape of topload part %1").arg(index + 1));
  shape_label->setBuddy(shape);
  shape->setFixedWidth(108);
  for (const arc::ToploadShape& known : arc::topload_shapes())
    shape->addItem(text_of(known.title), text_of(known.key));
  shape->setCurrentIndex(shape->findData(QString::fromStdString(part.shape)));
  connect(shape, &QComboBox::activated, this, [this, shape, index] {
    const QString key = shape->currentData().toString();
    workspace_.document.edit("Topload shape", [&](arc::Design& design) {
      if (index < design.topload.size()) design.topload[index] = reshaped(design.topload[index], key);
    });
  });
  first->addWidget(shape_label);
  first->addWidget(shape);
}

void ToploadEditor::add_lengths(std::size_t index, QWidget* box, QHBoxLayout* layout) {
  const arc::ToploadPart& part = workspace_.document.design().topload[index];
  const auto add_length = [&](const QString& key, const QString& label, double arc::ToploadPart::*member,
                              double low, double high) {
    QuantityRole role;
    role.name = QString("topload %1 %2").arg(index + 1).arg(key);
    role.path = QString("topload[%1].%2").arg(index).arg(key).toStdString();
    role.label = label;
    role.dimension = arc::Dimension::length;
    role.minimum = low;
    role.maximum = high;
    role.get = [this, index, member]() -> std::optional<double> {
      const auto& parts = workspace_.document.design().topload;
      return index < parts.size() ? std::optional<double>(parts[index].*member) : std::nullopt;
    };
    role.set = [this, index, member, label](std::optional<double> value, const QString& gesture) {
      workspace_.document.edit(
          label,
          [&](arc::Design& design) {
            if (index < design.topload.size() && value) design.topload[index].*member = *value;
          },
          gesture);
    };
    auto* field = new QuantityField(workspace_, std::move(role), box);
    field->setMaximumWidth(94);
    layout->addWidget(labelled(field, box));
  };
  for (const arc::ToploadLength& length : arc::topload_shape(part.shape)->lengths)
    add_length(text_of(length.key), text_of(length.label), length.member, arc::least_topload_length_m,
               arc::most_topload_length_m);
  add_length("centre_above_winding_m", "Above winding", &arc::ToploadPart::centre_above_winding_m,
             -arc::most_topload_length_m, arc::most_topload_length_m);
}

void ToploadEditor::add_links(std::size_t index, QWidget* box, QHBoxLayout* first) {
  const arc::ToploadPart& part = workspace_.document.design().topload[index];
  const auto add_link = [&](const QString& name, const QString& text, const QString& tip, auto action) {
    auto* button = new QPushButton(text, box);
    button->setObjectName(name + QString(" %1").arg(index + 1));
    button->setProperty("link", true);
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, action);
    first->addWidget(button);
  };
  if (arc::topload_shape(part.shape)->is_drawn())
    add_link("read profile", "File…",
             "An SVG drawing (one path, right half, 1 unit = 1 mm) or a CSV of radius and height.\n"
             "On the drawing: drag points, double-click the outline to add one, Delete takes the chosen one away.",
             [this, index] { read_profile(index); });
  if (index > 0)
    add_link("rest", "Rest below", "Lower or raise this part until it rests on the one before it", [this, index] {
      workspace_.document.edit("Set on the part below", [index](arc::Design& design) {
        if (index >= design.topload.size()) return;
        arc::ToploadPart& upper = design.topload[index];
        const arc::ToploadPart& lower = design.topload[index - 1];
        // From well above, down to where they would touch.
        upper.centre_above_winding_m += arc::topload_extent(lower).lowest_m - arc::topload_extent(upper).lowest_m;
        upper.centre_above_winding_m += arc::lift_to_clear(lower, upper);
      });
    });
}

void ToploadEditor::add_remove(std::size_t index, QWidget* box, QHBoxLayout* first) {
  auto* remove = new QPushButton("×", box);
  remove->setObjectName(QString("remove topload %1").arg(index + 1));
  remove->setAccessibleName(QString("Remove topload part %1").arg(index + 1));
  remove->setToolTip(remove->accessibleName());
  remove->setFixedWidth(30);
  remove->setProperty("narrow", true);
  remove->setFont(type::font(type::heading));
  connect(remove, &QPushButton::clicked, this, [this, index] {
    workspace_.document.edit("Remove topload part", [&](arc::Design& design) {
      if (index < design.topload.size())
        design.topload.erase(design.topload.begin() + static_cast<std::ptrdiff_t>(index));
    });
  });
  first->addWidget(remove);
}

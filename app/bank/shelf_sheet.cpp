// Editing the shelf.
#include "bank/shelf_sheet.h"
#include "toolkit/file_dialogs.h"

#include "model/fields.h"
#include "parts/wire.h"
#include "toolkit/common.h"
#include "toolkit/text.h"
#include "toolkit/whole_rows.h"

#include <QCheckBox>
#include <QDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace {

class ShelfParts : public QWidget {
 public:
  ShelfParts(Workspace& workspace, const QString& group, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("shelf");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_head());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    groups_ = new QListWidget(this);
    groups_->setObjectName("shelf groups");
    groups_->setAccessibleName("Groups of parts");
    groups_->setFixedWidth(168);
    show_whole_rows(groups_);
    middle->addWidget(groups_);
    table_ = make_table(this, "shelf parts", {});
    table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                            QAbstractItemView::AnyKeyPressed);
    table_->setSelectionBehavior(QAbstractItemView::SelectItems);
    middle->addWidget(table_, 1);
    column->addLayout(middle, 1);
    verdict_ = caption_label({}, this);
    verdict_->setObjectName("shelf verdict");
    verdict_->setWordWrap(true);
    column->addWidget(verdict_);
    column->addLayout(make_buttons());
    for (const arc::ShelfGroup& g : arc::shelf_groups()) groups_->addItem(text_of(g.title));
    connect(groups_, &QListWidget::currentRowChanged, this, [this] { fill(); });
    connect(table_, &QTableWidget::itemChanged, this, &ShelfParts::take_cell);
    connect(table_, &QTableWidget::currentCellChanged, this, [this] { tell(); });
    connect(&workspace_.shelf, &ShelfStore::changed, this, &ShelfParts::fill);
    const auto all = arc::shelf_groups();
    const auto at = std::ranges::find_if(all, [&](const auto& g) { return text_of(g.key) == group; });
    groups_->setCurrentRow(at == all.end() ? 0 : static_cast<int>(at - all.begin()));
    table_->setFocus();
  }

 private:
  const arc::ShelfGroup& group() const {
    return arc::shelf_groups()[static_cast<std::size_t>(std::max(0, groups_->currentRow()))];
  }
  const std::vector<arc::ShelfPart>& parts() const { return workspace_.shelf.shelf().of(group().key); }
  const arc::ShelfPart* chosen() const {
    const int row = table_->currentRow();
    return row >= 0 && row < static_cast<int>(parts().size()) ? &parts()[static_cast<std::size_t>(row)] : nullptr;
  }

  QLayout* make_head() {
    auto* row = new QHBoxLayout;
    name_ = make_text(this);
    name_->setObjectName("shelf name");
    name_->setWordWrap(true);
    name_->setFont(type::font(type::strong, QFont::DemiBold));
    row->addWidget(name_, 1);
    row->addWidget(make_invented_switch(workspace_, this));
    remove_invented_ =
        add_sheet_button(this, row, "remove invented", "Remove all examples", &ShelfParts::remove_invented);
    remove_invented_->setToolTip("Takes every invented part off the shelf; Undo brings them back");
    add_sheet_button(this, row, "import shelf", "Import…", &ShelfParts::import_file)
        ->setToolTip("A whole shelf (JSON), or a table of this group (CSV)");
    add_sheet_button(this, row, "export shelf", "Export…", &ShelfParts::export_file)
        ->setToolTip("The whole shelf (JSON), or this group as a table (CSV)");
    return row;
  }

  QLayout* make_buttons() {
    auto* row = new QHBoxLayout;
    add_sheet_button(this, row, "add part", "Add a part", &ShelfParts::add_part);
    remove_ = add_sheet_button(this, row, "remove part", "Remove", &ShelfParts::remove_part);
    undo_ = add_sheet_button(this, row, "undo shelf", "Undo", &ShelfParts::undo);
    row->addSpacing(space::large);
    use_ = add_sheet_button(this, row, "use part", "Use in this coil", &ShelfParts::use_part);
    row->addStretch();
    if (auto* sheet = qobject_cast<QDialog*>(window()))
      add_sheet_button(this, row, "close shelf", "Close", [sheet] { sheet->accept(); });
    return row;
  }

  void fill() {
    filling_ = true;
    const arc::ShelfGroup& g = group();
    const int row = table_->currentRow(), at = table_->currentColumn();
    QStringList heads{"Part"};
    for (const arc::ShelfColumn& column : g.columns) heads << text_of(column.label);
    table_->setColumnCount(static_cast<int>(heads.size()));
    table_->setHorizontalHeaderLabels(heads);
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setMinimumSectionSize(64);
    table_->setRowCount(static_cast<int>(parts().size()));
    for (int r = 0; r < table_->rowCount(); ++r) {
      const arc::ShelfPart& part = parts()[static_cast<std::size_t>(r)];
      table_->setItem(r, 0, new QTableWidgetItem(QString::fromStdString(part.name)));
      for (int c = 1; c < table_->columnCount(); ++c)
        table_->setItem(r, c, new QTableWidgetItem(cell_text(part, g.columns[static_cast<std::size_t>(c - 1)])));
      if (part.invented) table_->item(r, 0)->setText(QString::fromStdString(part.name) + "  (invented)");
      if (!note(part).isEmpty()) {
        table_->item(r, 0)->setForeground(workspace_.theme().warn);
        table_->item(r, 0)->setToolTip(note(part));
      }
    }
    if (table_->rowCount() > 0)
      table_->setCurrentCell(std::clamp(row, 0, table_->rowCount() - 1),
                             std::clamp(at, 0, table_->columnCount() - 1));
    for (int i = 0; i < groups_->count(); ++i) {
      const arc::ShelfGroup& each = arc::shelf_groups()[static_cast<std::size_t>(i)];
      groups_->item(i)->setText(
          QString("%1  (%2)").arg(text_of(each.title)).arg(workspace_.shelf.shelf().of(each.key).size()));
    }
    const bool invented = workspace_.shelf.has_invented();
    name_->setText(QString::fromStdString(workspace_.shelf.shelf().name) +
                   (invented ? ": parts marked “invented” are examples; editing one makes it yours" : ""));
    remove_invented_->setVisible(invented);
    filling_ = false;
    if (!workspace_.shelf.problem().isEmpty() && !told_problem_) {
      verdict_->setText("The kept shelf could not be read: " + workspace_.shelf.problem() +
                        ". It lies beside the new one as “unreadable”.");
      told_problem_ = true;
    }
    tell();
  }

  QString cell_text(const arc::ShelfPart& part, const arc::ShelfColumn& column) const {
    const auto value = arc::part_value(part, column.key);
    return value ? quantity_text(*value, column.dimension, workspace_.units()) : QString();
  }

  // What deserves a word about a part, beside this coil.
  QString note(const arc::ShelfPart& part) const {
    const auto analysis = workspace_.document.analysis();
    if (group().key == "capacitors") {
      if (arc::measured_off_marking(part))
        return "Measured far off its marking: is the marking read right, and is the unit sound?";
      if (analysis && analysis->tuned_capacitance_f &&
          arc::doubtful_marking(arc::shelf_capacitor(part), *analysis->tuned_capacitance_f))
        return "A thousand times off what this coil asks for: is the marking read right?";
    }
    const auto length = arc::part_value(part, "length_m");
    if (group().key == "wires" && analysis && length) {
      const arc::Secondary& s = workspace_.document.design().secondary;
      const double overall = part.values.at("overall_diameter_m");
      const double turns = arc::turns_from_length(s.winding_length_m, overall, arc::hand_winding_allowance);
      const double needed = arc::helix_wire_length_m(s.form_diameter_m + overall, turns, s.winding_length_m);
      if (*length * arc::part_count(part) < needed)
        return QString("Too short for this form: %1 of winding take %2.")
            .arg(quantity_text(s.winding_length_m, arc::Dimension::length, workspace_.units(), 3),
                 quantity_text(needed, arc::Dimension::length, workspace_.units(), 3));
    }
    return {};
  }

  void tell() {
    const arc::ShelfPart* part = chosen();
    remove_->setEnabled(part != nullptr);
    remove_->setToolTip(part ? QString() : "Choose a part first");
    undo_->setEnabled(workspace_.shelf.can_undo());
    undo_->setToolTip(workspace_.shelf.can_undo() ? QString() : "Nothing has been changed");
    use_->setEnabled(part && group().use);
    use_->setToolTip(group().key == "capacitors"
                         ? "In the level shifter or doubler of the path; banks for the tank are "
                           "found on Tank"
                         : "");
    if (!part || filling_) return;
    if (const QString words = note(*part); !words.isEmpty()) verdict_->setText(words);
  }

  void take_cell(QTableWidgetItem* item) {
    if (filling_) return;
    const auto row = static_cast<std::size_t>(item->row());
    const arc::ShelfGroup& g = group();
    const std::string key(g.key), typed = item->text().trimmed().toStdString();
    if (row >= parts().size()) return;
    if (item->column() == 0) {
      if (!typed.empty() && typed != parts()[row].name + "  (invented)")
        workspace_.shelf.edit([&](arc::Shelf& shelf) {
          shelf.of(key)[row].name = typed;
          shelf.of(key)[row].invented = false;
        });
      return;
    }
    const arc::ShelfColumn& column = g.columns[static_cast<std::size_t>(item->column() - 1)];
    const auto before = arc::part_value(parts()[row], column.key);
    const std::string name(column.key);
    const auto refuse = [&](const QString& reason) { // the entry stays, marked
      filling_ = true;
      item->setForeground(workspace_.theme().stop);
      item->setToolTip(reason);
      filling_ = false;
      verdict_->setText(reason + " The part keeps its old value.");
    };
    if (typed.empty()) {
      if (column.required) return refuse(text_of(column.label) + " is needed.");
      if (before) workspace_.shelf.edit([&](arc::Shelf& shelf) { shelf.of(key)[row].values.erase(name); });
      return;
    }
    auto parsed = arc::parse_quantity(typed, column.dimension, workspace_.units(), before.value_or(0));
    if (key == "wires" && column.key == "length_m") { // a spool is often known by its weight
      const auto mass = arc::parse_quantity(typed, arc::Dimension::mass, workspace_.units());
      if (std::holds_alternative<arc::ParseError>(parsed) && std::holds_alternative<double>(mass))
        parsed = arc::wire_length_of_mass_m(parts()[row].values.at("bare_diameter_m"), std::get<double>(mass));
    }
    if (const auto* error = std::get_if<arc::ParseError>(&parsed))
      return refuse(QString("“%1”: %2.").arg(item->text(), QString::fromStdString(error->message)));
    const double value = std::get<double>(parsed);
    if (const auto problem = arc::range_problem(column.label, column.dimension, value, column.minimum,
                                                column.maximum, workspace_.units());
        !problem.empty())
      return refuse(QString::fromStdString(problem) + ".");
    verdict_->clear();
    workspace_.shelf.edit([&](arc::Shelf& shelf) {
      shelf.of(key)[row].values[name] = value;
      shelf.of(key)[row].invented = false;
    });
  }

  // A part without ratings of any other: what is needed takes a usual value, all else stays blank until stated.
  void add_part() {
    const arc::ShelfGroup& g = group();
    arc::ShelfPart part;
    part.name = "new " + std::string(g.one);
    const arc::ShelfPart usual = arc::starter_shelf().of(g.key).front();
    for (const arc::ShelfColumn& column : g.columns)
      if (column.required) part.values[std::string(column.key)] = usual.values.at(std::string(column.key));
    workspace_.shelf.edit([&](arc::Shelf& shelf) { shelf.of(g.key).push_back(part); });
    table_->setCurrentCell(table_->rowCount() - 1, 0);
    table_->editItem(table_->currentItem());
    verdict_->setText("Put in what is printed on it. What stays blank counts as not stated.");
  }

  void remove_invented() {
    workspace_.shelf.edit(arc::remove_invented);
    verdict_->setText("All invented parts are off the shelf. Undo brings them back.");
  }

  void remove_part() {
    if (!chosen()) return;
    const int row = table_->currentRow();
    workspace_.shelf.edit([&](arc::Shelf& shelf) {
      auto& list = shelf.of(group().key);
      list.erase(list.begin() + row);
    });
    verdict_->setText("Taken off the shelf. Undo brings it back.");
  }

  void undo() { workspace_.shelf.undo(); }

  void use_part() {
    const arc::ShelfPart* part = chosen();
    if (!part || !group().use) return;
    std::string words;
    workspace_.document.edit("Use " + QString::fromStdString(part->name),
                             [&](arc::Design& design) { words = group().use(*part, design); });
    verdict_->setText(QString::fromStdString(part->name) + ": " + QString::fromStdString(words) +
                      ". Undo in the main window takes it back.");
  }

  void import_file() {
    const QString path =
        file_dialogs::to_open(this, "Import a shelf", "Shelves and tables (*.json *.csv);;All files (*)");
    if (path.isEmpty()) return;
    QByteArray bytes;
    QString problem;
    if (read_whole_file(path, &bytes, &problem)) {
      try {
        const std::string_view text(bytes.constData(), static_cast<std::size_t>(bytes.size()));
        if (path.endsWith(".csv", Qt::CaseInsensitive)) {
          const auto table = arc::parts_from_csv(text, group());
          workspace_.shelf.edit([&](arc::Shelf& shelf) { shelf.of(group().key) = table; });
        } else {
          const arc::Shelf read = arc::read_shelf(text);
          workspace_.shelf.edit([&](arc::Shelf& shelf) { shelf = read; });
        }
        verdict_->setText("Read from " + QFileInfo(path).fileName() + ". Undo brings the old shelf back.");
        return;
      } catch (const arc::ShelfError& error) {
        problem = QString::fromStdString(error.what());
      }
    }
    verdict_->setText(
        QString("%1 was not read: %2. The shelf is as it was.").arg(QFileInfo(path).fileName(), problem));
  }

  void export_file() {
    const QString path =
        file_dialogs::to_save(this, "Export the shelf", "shelf.json", "Shelf (*.json);;This group (*.csv)");
    if (path.isEmpty()) return;
    const std::string text = path.endsWith(".csv", Qt::CaseInsensitive)
                                 ? arc::parts_to_csv(parts(), group())
                                 : arc::write_shelf(workspace_.shelf.shelf());
    QString problem;
    verdict_->setText(write_whole_file(path, QByteArray::fromStdString(text), &problem)
                          ? "Written to " + path
                          : "Not written: " + problem);
  }

  Workspace& workspace_;
  QLabel* name_ = nullptr;
  QListWidget* groups_ = nullptr;
  QTableWidget* table_ = nullptr;
  QLabel* verdict_ = nullptr;
  QPushButton* remove_ = nullptr;
  QPushButton* undo_ = nullptr;
  QPushButton* use_ = nullptr;
  QPushButton* remove_invented_ = nullptr;
  bool filling_ = false;
  bool told_problem_ = false;
};

} // namespace

QWidget* make_invented_switch(Workspace& workspace, QWidget* parent) {
  auto* count = new QCheckBox("Examples count as mine", parent);
  count->setObjectName("invented count");
  count->setToolTip("Whether parts marked “invented” are offered as if you had them");
  const auto refresh = [&workspace, count] {
    count->setVisible(workspace.shelf.has_invented());
    count->setChecked(workspace.shelf.shelf().invented_count);
  };
  QObject::connect(count, &QCheckBox::clicked, count, [&workspace](bool on) {
    workspace.shelf.edit([on](arc::Shelf& shelf) { shelf.invented_count = on; });
  });
  QObject::connect(&workspace.shelf, &ShelfStore::changed, count, refresh);
  refresh();
  return count;
}

void show_shelf_sheet(Workspace& workspace, const QString& group, QWidget* parent) {
  auto* sheet = new QDialog(parent);
  sheet->setObjectName("shelf sheet");
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setWindowTitle("The shelf");
  open_large(*sheet, {1000, 600});
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(new ShelfParts(workspace, group, sheet));
  sheet->open();
}

QWidget* make_shelf_parts(Workspace& workspace, QWidget* parent) {
  return new ShelfParts(workspace, {}, parent);
}

// Fields as on the Run page, over a copy of the run.
#include "stages/run_sheet.h"

#include "craft/kind.h"
#include "toolkit/common.h"
#include "toolkit/text.h"
#include "toolkit/whole_rows.h"

#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace {

class RunSheet : public QDialog {
 public:
  RunSheet(Workspace& workspace, std::size_t index, QWidget* parent)
      : QDialog(parent), workspace_(workspace), before_(workspace.document.design().runs[index]), run_(before_),
        index_(index) {
    setObjectName("run sheet");
    setWindowTitle(QString("Run %1").arg(index + 1));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* holder = new QWidget(scroll);
    inner_ = new QVBoxLayout(holder);
    inner_->setContentsMargins(0, 0, space::small, 0);
    inner_->setSpacing(space::small);
    add_line("When", "run when", run_.when);
    add_heading("Observed");
    add_numbers(false);
    add_line("What failed", "run failed", run_.failed);
    notes_ = new QPlainTextEdit(QString::fromStdString(run_.notes), this);
    notes_->setObjectName("run notes");
    notes_->setAccessibleName("Notes");
    notes_->setTabChangesFocus(true);
    notes_->setFixedHeight(72);
    inner_->addWidget(captioned("Notes", notes_, this));
    for (auto& [name, cell] : run_.columns) add_line(QString::fromStdString(name), "run own column", cell);
    add_heading("As it was set");
    add_numbers(true);
    inner_->addStretch();
    scroll->setWidget(holder);
    column->addWidget(scroll, 1);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    add_sheet_button(this, buttons, "keep run", "Keep the changes", &RunSheet::keep)->setProperty("primary", true);
    add_sheet_button(this, buttons, "leave run", "Leave it as it was", &QDialog::reject);
    column->addLayout(buttons);
    open_large(*this, {720, 600});
  }

 private:
  void add_heading(const QString& text) {
    auto* label = make_text(text, this);
    label->setFont(type::font(type::strong, QFont::DemiBold));
    inner_->addWidget(label);
  }

  void add_line(const QString& caption, const QString& name, std::string& text) {
    auto* line = new QLineEdit(QString::fromStdString(text), this);
    line->setObjectName(name);
    line->setAccessibleName(caption);
    connect(line, &QLineEdit::textChanged, this, [&text](const QString& typed) { text = typed.toStdString(); });
    inner_->addWidget(captioned(caption, line, this));
  }

  // Those of the kind, and whatever else it records.
  void add_numbers(bool conditions) {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    grid->setVerticalSpacing(6);
    constexpr int across = 4;
    int place = 0;
    stop_columns(grid, across);
    const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
    for (const arc::RunField& field : arc::run_fields()) {
      if (arc::is_condition(field) != conditions) continue;
      if (!arc::belongs_to(field, kind) && !arc::run_value(run_, field)) continue;
      QuantityRole role = role_of(field, "run ");
      role.get = [this, &field] { return arc::run_value(run_, field); };
      role.set = [this, &field](std::optional<double> value, const QString&) {
        auto& values = arc::is_condition(field) ? run_.conditions : run_.observations;
        if (value)
          values[std::string(field.key)] = *value;
        else
          values.erase(std::string(field.key));
      };
      auto* box = new QuantityField(workspace_, std::move(role), this);
      fields_.push_back(box);
      QWidget* labelled_box = labelled(box, this);
      keep_together(labelled_box);
      grid->addWidget(labelled_box, place / across, place % across, Qt::AlignTop);
      ++place;
    }
    inner_->addLayout(grid);
  }

  void keep() {
    for (QuantityField* field : fields_)
      if (!field->commit()) {
        field->setFocus();
        return;
      }
    run_.notes = notes_->toPlainText().toStdString();
    if (run_ == before_) {
      accept();
      return;
    }
    if (run_.id.empty()) run_.id = arc::new_run_id();
    arc::settle_run(run_);
    Document& document = workspace_.document;
    const auto& runs = document.design().runs;
    if (index_ >= runs.size() || runs[index_] != before_) { // undone or removed meanwhile
      reject();
      return;
    }
    arc::share_design(run_, runs);
    if (!document.edit(
            "Change a run", [this](arc::Design& design) { design.runs[index_] = run_; },
            workspace_.firing.gesture_for(run_.id)))
      return;
    workspace_.firing.simulate({run_.id});
    accept();
  }

  Workspace& workspace_;
  const arc::Run before_;
  arc::Run run_;
  std::size_t index_;
  QVBoxLayout* inner_ = nullptr;
  QPlainTextEdit* notes_ = nullptr;
  std::vector<QuantityField*> fields_;
};

} // namespace

QuantityRole role_of(const arc::RunField& field, const QString& prefix) {
  QuantityRole role;
  role.name = prefix + text_of(field.key);
  role.label = text_of(field.label);
  role.dimension = field.dimension;
  role.minimum = field.minimum;
  role.maximum = field.maximum;
  role.nullable = true;
  return role;
}

void show_run_sheet(Workspace& workspace, std::size_t index, QWidget* parent) {
  (new RunSheet(workspace, index, parent))->open();
}

std::optional<std::vector<bool>> ask_whose_word(Workspace& workspace, const arc::RunImport& read, QWidget* parent) {
  QDialog sheet(parent);
  sheet.setObjectName("both changed");
  sheet.setWindowTitle("Runs that changed on both sides");
  auto* column = new QVBoxLayout(&sheet);
  column->setContentsMargins(space::large, space::large, space::large, space::medium);
  column->setSpacing(space::small);
  column->addWidget(
      caption_label("These were changed here since the table was written, and differ in it. Tick those "
                    "of which the table is right; the others stay as they are here.",
                    &sheet));
  auto* list = new QListWidget(&sheet);
  list->setObjectName("both changed runs");
  list->setAccessibleName("Runs that changed on both sides; tick where the table is right");
  list->setWordWrap(true);
  show_whole_rows(list);
  const auto& runs = workspace.document.design().runs;
  for (const arc::RunUpdate& update : read.both) {
    const arc::Run& ours = runs[update.index];
    QStringList lines{QString("Run %1, %2").arg(update.index + 1).arg(QString::fromStdString(ours.when))};
    for (const arc::RunDifference& d : arc::compare_runs(ours, update.run, workspace.units()))
      if (d.differs)
        lines << QString("%1: here %2, in the table %3")
                     .arg(QString::fromStdString(d.label), QString::fromStdString(d.first),
                          QString::fromStdString(d.second));
    if (ours.notes != update.run.notes)
      lines << QString("Notes: here “%1”, in the table “%2”")
                   .arg(QString::fromStdString(ours.notes), QString::fromStdString(update.run.notes));
    auto* item = new QListWidgetItem(lines.join('\n'), list);
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
    item->setCheckState(Qt::Unchecked);
  }
  list->setCurrentRow(0);
  column->addWidget(list, 1);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  add_sheet_button(&sheet, buttons, "import as ticked", "Import as ticked", &QDialog::accept)
      ->setProperty("primary", true);
  add_sheet_button(&sheet, buttons, "import nothing", "Import nothing", &QDialog::reject);
  column->addLayout(buttons);
  open_large(sheet, {620, 420});
  if (sheet.exec() != QDialog::Accepted) return {};
  std::vector<bool> theirs;
  for (int row = 0; row < list->count(); ++row) theirs.push_back(list->item(row)->checkState() == Qt::Checked);
  return theirs;
}

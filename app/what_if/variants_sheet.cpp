// Each variant is computed once: its design never changes, so that results are kept by the design.
#include "what_if/variants_sheet.h"

#include "base/latest_job.h"
#include "quantity/parallel.h"
#include "simulation/strip.h"
#include "toolkit/common.h"
#include "toolkit/text.h"
#include "workshop/compared_designs.h"
#include "workshop/moved_number.h"
#include "workshop/variants.h"
#include "workshop/whole_coil.h"

#include <QCheckBox>
#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <map>
#include <memory>
#include <set>

namespace {

using Shared = std::shared_ptr<const arc::Design>;

// What became of a design; `problem` where it cannot be computed.
struct Looked {
  Shared design; // held, so that its address stays its own
  std::shared_ptr<const arc::ComputedDesign> computed;
  std::vector<arc::Finding> findings;
  QString problem;
};
using AllLooked = std::map<const arc::Design*, Looked>;

Looked look_at(const Shared& design, arc::UnitSystem units, const std::atomic<bool>& cancelled) {
  Looked out{design, nullptr, {}, {}};
  try {
    out.computed = std::make_shared<const arc::ComputedDesign>(
        arc::compute(*design, arc::Computing::simulation, cancelled, units));
    const arc::ComputedDesign& now = *out.computed;
    out.findings = arc::all_findings(now.analysis, &now.power);
    out.problem = QString::fromStdString(arc::not_computed(now.design, now.analysis, now.power));
  } catch (const std::invalid_argument& refusal) {
    out.problem = refusal.what();
  }
  return out;
}

// "3 stops", "1 stop".
QString counted(std::ptrdiff_t number, const char* one) {
  return QString("%1 %2%3").arg(number).arg(one, number == 1 ? "" : "s");
}

class VariantsSheet : public QDialog {
 public:
  VariantsSheet(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_(
            [this](const AllLooked& looked) { take(looked); },
            [this](const QString& problem) { words_->setText("The comparison ended with an error: " + problem); }) {
    setObjectName("variants sheet");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Variants of this design");
    open_large(*this, {980, 640});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::medium, space::large, space::medium);
    column->setSpacing(space::small);
    auto* told = caption_label(
        "Whole designs kept in this file, each simulated from the wall to the arc. Keep the design as it is, "
        "change "
        "it, and see here what became different; make a variant the design when it is the better one.",
        this);
    told->setWordWrap(true);
    column->addWidget(told);
    table_ = make_table(this, "variants",
                        {"Name", "Kind", "Arc", "Power", "Line", "Height", "Resonance", "Weakest part", "Open"});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    connect(table_, &QTableWidget::itemSelectionChanged, this, [this] { refresh_choice(); });
    connect(table_, &QTableWidget::itemChanged, this, &VariantsSheet::rename);
    column->addWidget(table_, 2);
    column->addLayout(make_actions());
    words_ = caption_label({}, this);
    words_->setObjectName("variants words");
    words_->setWordWrap(true);
    column->addWidget(words_);
    compared_ = make_table(this, "compared variants", {"", "", ""});
    compared_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    compared_->setSelectionMode(QAbstractItemView::SingleSelection);
    column->addWidget(compared_, 3);
    auto* ends = new QHBoxLayout;
    only_ = new QCheckBox("Only what differs", this);
    only_->setObjectName("only differences");
    only_->setChecked(true);
    connect(only_, &QCheckBox::toggled, this, [this] { compare(); });
    ends->addWidget(only_);
    ends->addStretch();
    add_sheet_button(this, ends, "close variants", "Close", [this] { accept(); });
    column->addLayout(ends);
    connect(&workspace_.document, &Document::design_changed, this, &VariantsSheet::refresh);
    connect(&workspace_.document, &Document::units_changed, this, [this] {
      looked_.clear(); // findings speak in units
      refresh();
    });
    refresh();
  }

 private:
  const arc::Design& design() const { return workspace_.document.design(); }
  // The present one, then the variants.
  int count() const { return 1 + static_cast<int>(design().variants.size()); }
  Shared design_at(int row) const {
    if (row == 0) return workspace_.document.shared_design();
    const auto held = std::make_shared<arc::KeptDesign>(design().variants[index_of(row)].design);
    return {held, held->get()};
  }
  QString name_at(int row) const {
    return row == 0 ? QString("As it is") : QString::fromStdString(design().variants[index_of(row)].name);
  }
  const Looked* looked_at(int row) const {
    const auto it = looked_.find(design_at(row).get());
    return it == looked_.end() ? nullptr : &it->second;
  }

  QLayout* make_actions() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    keep_ = add_sheet_button(this, row, "keep variant", "Keep the design as it is", [this] {
      edit("Keep a variant", [](arc::Design& d) { arc::keep_variant(d, arc::Design(d), "Kept"); });
      table_->selectRow(count() - 1);
    });
    duplicate_ = add_sheet_button(this, row, "duplicate variant", "Duplicate", [this] {
      const int of = chosen();
      edit("Duplicate the variant", [&](arc::Design& d) {
        const arc::Design what = *design_at(of);
        arc::keep_variant(d, what, name_at(of).toStdString());
      });
      table_->selectRow(count() - 1);
    });
    rename_ = add_sheet_button(this, row, "rename variant", "Rename", [this] {
      if (QTableWidgetItem* item = table_->item(chosen(), 0)) table_->editItem(item);
    });
    remove_ = add_sheet_button(this, row, "remove variant", "Remove", [this] {
      const int of = chosen();
      edit("Remove the variant", [&](arc::Design& d) { arc::remove_variant(d, index_of(of)); });
      table_->selectRow(std::min(of, count() - 1));
    });
    promote_ = add_sheet_button(this, row, "promote variant", "Make it the design", [this] {
      const int of = chosen();
      edit("Make the variant the design", [&](arc::Design& d) { arc::promote_variant(d, index_of(of)); });
    });
    promote_->setProperty("primary", true);
    row->addStretch();
    return row;
  }

  static std::size_t index_of(int row) { return static_cast<std::size_t>(row - 1); }

  void edit(const QString& text, const Document::Edit& change) { workspace_.document.edit(text, change); }

  // The one that buttons act on: the last that was chosen; 0 the present one.
  int chosen() const { return std::clamp(table_->currentRow(), 0, count() - 1); }

  void refresh() {
    const int row = chosen();
    filling_ = true;
    table_->setRowCount(count());
    for (int r = 0; r < count(); ++r) fill(r);
    filling_ = false;
    const bool none = table_->selectedItems().isEmpty();
    if (none || table_->currentRow() < 0) table_->selectRow(std::min(row, count() - 1));
    refresh_choice();
    request();
  }

  void fill(int r) {
    const Print print{workspace_};
    const Looked* looked = looked_at(r);
    QStringList cells{name_at(r), text_of(arc::kind_of(*design_at(r)).title)};
    if (!looked) {
      while (cells.size() < table_->columnCount()) cells << QString("…");
    } else if (!looked->problem.isEmpty()) {
      while (cells.size() < table_->columnCount() - 1) cells << QString("–");
      cells << "not simulated";
    } else {
      using enum arc::Dimension;
      const arc::ComputedDesign& now = *looked->computed;
      const arc::CoilFigures f = arc::figures_of_coil(now.design, now.analysis, now.power);
      cells << (f.arc_high_m > 0 ? print(f.arc_low_m, length, 2) + " to " + print(f.arc_high_m, length, 2)
                                 : QString("none"))
            << print(f.power_w, power)
            << (f.line_current_a ? print(*f.line_current_a, current, 2) : QString("none"))
            << print(f.height_m, length) << print(f.resonance_hz, frequency, 4) << weakest(now)
            << open_words(*looked);
    }
    set_row(table_, r, cells);
    for (int c = 0; c < table_->columnCount(); ++c) {
      Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
      if (c == 0 && r > 0) flags |= Qt::ItemIsEditable;
      table_->item(r, c)->setFlags(flags);
      table_->item(r, c)->setToolTip(looked && !looked->problem.isEmpty() ? looked->problem : QString());
    }
  }

  QString weakest(const arc::ComputedDesign& now) const {
    const auto loads = arc::part_loads(now.view(), workspace_.units());
    if (loads.empty()) return "–";
    return QString("%1 %2 %").arg(QString::fromStdString(loads.front().part),
                                  QString::number(100 * loads.front().used, 'f', 0));
  }

  static QString open_words(const Looked& looked) {
    const auto number = [&](arc::Severity severity) {
      return std::ranges::count(looked.findings, severity, &arc::Finding::severity);
    };
    return counted(number(arc::Severity::stop), "stop") + ", " + counted(number(arc::Severity::warning), "warning");
  }

  void request() {
    std::vector<Shared> wanted;
    for (int r = 0; r < count(); ++r)
      if (!looked_at(r)) wanted.push_back(design_at(r));
    if (wanted.empty()) return;
    job_.start([wanted, units = workspace_.units()](const std::atomic<bool>& cancelled) {
      std::vector<Looked> found(wanted.size());
      arc::parallel_for(wanted.size(), [&](std::size_t i) {
        if (!cancelled) found[i] = look_at(wanted[i], units, cancelled);
      });
      AllLooked out;
      if (!cancelled)
        for (Looked& one : found) out[one.design.get()] = std::move(one);
      return out;
    });
  }

  void take(const AllLooked& looked) {
    std::set<const arc::Design*> there;
    for (int r = 0; r < count(); ++r) there.insert(design_at(r).get());
    for (const auto& [of, one] : looked) looked_[of] = one;
    std::erase_if(looked_, [&](const auto& entry) { return !there.contains(entry.first); });
    filling_ = true;
    for (int r = 0; r < count(); ++r) fill(r);
    filling_ = false;
    compare();
  }

  // The name that was typed in the table.
  void rename(QTableWidgetItem* item) {
    if (filling_ || item->column() != 0 || item->row() < 1 || item->row() >= count()) return;
    const std::string name = item->text().trimmed().toStdString();
    const std::size_t index = index_of(item->row());
    if (name == design().variants[index].name) return;
    if (name.empty())
      refresh(); // as it was
    else
      edit("Rename the variant", [&](arc::Design& d) { arc::rename_variant(d, index, name); });
  }

  void refresh_choice() {
    const bool full = design().variants.size() >= arc::most_variants, variant = chosen() > 0;
    const auto say = [](QPushButton* button, bool enabled, const QString& why) {
      button->setEnabled(enabled);
      button->setToolTip(enabled ? QString() : why);
    };
    const QString no_room = QString("%1 are kept already; remove one first").arg(arc::most_variants);
    say(keep_, !full, no_room);
    say(duplicate_, !full, no_room);
    for (QPushButton* button : {rename_, remove_, promote_}) say(button, variant, "Choose a variant first");
    compare();
  }

  // Two rows where two are chosen; else the present design and the one that is.
  std::pair<int, int> pair() const {
    std::set<int> rows;
    for (const QModelIndex& index : table_->selectionModel()->selectedRows()) rows.insert(index.row());
    if (rows.size() >= 2) return {*rows.begin(), *std::next(rows.begin())};
    const int one = chosen();
    return {0, one > 0 ? one : count() > 1 ? 1 : 0};
  }

  void compare() {
    const auto [a, b] = pair();
    compared_->setVisible(a != b);
    only_->setVisible(a != b);
    if (a == b) {
      words_->setText("Nothing is kept yet. Keep the design as it is, then change it: both stand here side by "
                      "side.");
      return;
    }
    std::vector<arc::ComparedRow> rows = arc::compare_inputs(*design_at(a), *design_at(b), workspace_.units());
    const Looked *first = looked_at(a), *second = looked_at(b);
    const bool ready = first && second && first->computed && second->computed;
    if (ready) {
      const auto figures =
          arc::compare_figures(first->computed->view(), second->computed->view(), workspace_.units());
      rows.insert(rows.end(), figures.begin(), figures.end());
    }
    arc::differences_first(rows);
    const auto differing = [&](bool computed) {
      return std::ranges::count_if(
          rows, [&](const arc::ComparedRow& row) { return row.differs && row.computed == computed; });
    };
    words_->setText(QString("“%1” beside “%2”, what differs: %3 entered, %4.")
                        .arg(name_at(a), name_at(b), counted(differing(false), "number"),
                             ready ? counted(differing(true), "figure") : QString("figures are being computed")));
    if (only_->isChecked()) std::erase_if(rows, [](const arc::ComparedRow& row) { return !row.differs; });
    compared_->setHorizontalHeaderLabels({"", name_at(a), name_at(b)});
    compared_->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const int r = static_cast<int>(i);
      set_row(compared_, r,
              {QString::fromStdString(rows[i].title), QString::fromStdString(rows[i].first),
               QString::fromStdString(rows[i].second)});
      for (int c = 0; c < 3; ++c) {
        QTableWidgetItem* item = compared_->item(r, c);
        item->setFont(
            type::font(type::body, rows[i].differs && !only_->isChecked() ? QFont::DemiBold : QFont::Normal));
        item->setToolTip(item->text());
      }
    }
  }

  Workspace& workspace_;
  QTableWidget *table_ = nullptr, *compared_ = nullptr;
  QPushButton *keep_ = nullptr, *duplicate_ = nullptr, *rename_ = nullptr, *remove_ = nullptr, *promote_ = nullptr;
  QCheckBox* only_ = nullptr;
  QLabel* words_ = nullptr;
  AllLooked looked_;
  bool filling_ = false;
  LatestJob<AllLooked> job_; // last: it works with the rest
};

} // namespace

void show_variants_sheet(Workspace& workspace, QWidget* parent) {
  (new VariantsSheet(workspace, parent->window()))->open();
}

// Runs as a table above, comparison and chart below.
#include "stages/run_record.h"
#include "stages/run_sheet.h"
#include "toolkit/file_dialogs.h"

#include "craft/kind.h"
#include "toolkit/common.h"
#include "toolkit/plot.h"
#include "toolkit/text.h"
#include "toolkit/when_seen.h"
#include "workshop/runs.h"

#include <QAbstractTableModel>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHash>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableView>
#include <QTableWidget>
#include <QTimer>
#include <QVBoxLayout>

namespace {

// Of the rows of kinds, which name only fields that are there.
const arc::RunField& run_field(std::string_view key) {
  return *arc::find_run_field(key);
}

const QString of_root = "root of "; // before a key: the square root of its watts, which arcs grow with

/// The runs as rows: a cell is made into words when it is drawn, not before.
class RunModel : public QAbstractTableModel {
 public:
  using QAbstractTableModel::QAbstractTableModel;

  void show(const arc::SharedList<arc::Run>& runs, const arc::CoilKind& kind, arc::UnitSystem units) {
    beginResetModel();
    runs_ = runs;
    kind_ = &kind;
    units_ = units;
    endResetModel();
  }

  /// What failed stands before the notes, where it has no column of its own.
  void join_failed(bool joined) {
    if (joined == joined_) return;
    beginResetModel();
    joined_ = joined;
    endResetModel();
  }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(runs_.size());
  }
  int columnCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() || !kind_ ? 0 : static_cast<int>(kind_->run_columns.size()) + 3;
  }
  QVariant data(const QModelIndex& index, int role) const override {
    if (!index.isValid() || (role != Qt::DisplayRole && role != Qt::ToolTipRole)) return {};
    const arc::Run& run = runs_[static_cast<std::size_t>(index.row())];
    const auto numbers = static_cast<int>(kind_->run_columns.size());
    if (index.column() == 0) return QString::fromStdString(run.when).replace('T', ' ').left(16);
    if (index.column() == numbers + 1) return QString::fromStdString(run.failed);
    if (index.column() > numbers)
      return QString::fromStdString(joined_ && !run.failed.empty() ? "Failed: " + run.failed + ". " + run.notes
                                                                   : run.notes);
    const arc::RunField& field = run_field(kind_->run_columns[static_cast<std::size_t>(index.column()) - 1].key);
    const auto value = arc::run_value(run, field);
    return value ? QString::fromStdString(arc::format_quantity(*value, field.dimension, units_, 3)) : QString("–");
  }
  QVariant headerData(int section, Qt::Orientation way, int role) const override {
    if (way != Qt::Horizontal || !kind_) return {};
    if (role == Qt::TextAlignmentRole) return sides_.value(section);
    if (role != Qt::DisplayRole) return {};
    const auto numbers = static_cast<int>(kind_->run_columns.size());
    if (section == 0) return "When";
    if (section > numbers) return section == numbers + 1 ? "Failed" : "Notes";
    return text_of(kind_->run_columns[static_cast<std::size_t>(section) - 1].head);
  }
  bool setHeaderData(int section, Qt::Orientation, const QVariant& value, int role) override {
    if (role == Qt::TextAlignmentRole) sides_[section] = value;
    return role == Qt::TextAlignmentRole;
  }

 private:
  arc::SharedList<arc::Run> runs_;
  const arc::CoilKind* kind_ = nullptr;
  arc::UnitSystem units_ = arc::UnitSystem::metric;
  QHash<int, QVariant> sides_;
  bool joined_ = false;
};

class RunRecord : public QWidget {
 public:
  RunRecord(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 10, space::medium, space::small);
    column->setSpacing(space::small);
    auto* row = new QHBoxLayout;
    hint_ = make_text(this);
    hint_->setProperty("caption", true);
    row->addWidget(hint_, 1);
    const auto add_button = [&](const char* name, const char* text, void (RunRecord::*action)()) {
      auto* button = new QPushButton(text, this);
      button->setObjectName(name);
      connect(button, &QPushButton::clicked, this, action);
      row->addWidget(button);
      return button;
    };
    edit_ = add_button("edit run", "Edit…", &RunRecord::edit_selected);
    back_ = add_button("back to design", "Back to its design", &RunRecord::back_to_design);
    remove_ = add_button("remove run", "Remove", &RunRecord::remove_selected);
    export_ = add_button("export runs", "Export CSV", &RunRecord::export_csv);
    add_button("import runs", "Import CSV", &RunRecord::import_csv);
    column->addLayout(row);
    make_list();
    column->addWidget(runs_, 1);
    column->addLayout(make_lower(), 1);
    connect(runs_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &RunRecord::compare);
    connect(runs_, &QTableView::activated, this, &RunRecord::edit_selected);
    (new WhenSeen(this, [this] { refresh(); }))
        ->on(workspace_.document, &Document::design_changed)
        .on(workspace_.document, &Document::units_changed);
    connect(&workspace_, &Workspace::theme_changed, this, &RunRecord::draw);
    refresh();
  }

 protected:
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    constexpr int laid_out_ms = 100; // from when on all rows are measured as they are drawn
    QTimer::singleShot(laid_out_ms, this, [this] {
      for (int column = 0; column < 6; ++column) runs_->resizeColumnToContents(column);
    });
    draw();
  }
  void resizeEvent(QResizeEvent* event) override {
    QWidget::resizeEvent(event);
    const bool narrow = width() < 900;
    model_->join_failed(narrow);
    runs_->setColumnHidden(6, narrow);
    runs_->setColumnWidth(6, width() < 1040 ? 120 : width() / 5); // what failed; the notes take the rest
    runs_->verticalHeader()->setMaximumSectionSize(narrow ? 144
                                                          : 72); // notes on four lines, twice that where narrow
  }

 private:
  static constexpr std::size_t most_measured = 200; // runs, of which each is looked at for sizes and labels

  const arc::SharedList<arc::Run>& runs() const { return workspace_.document.design().runs; }

  void make_list() {
    model_ = new RunModel(this);
    runs_ = new QTableView(this);
    model_->show({}, arc::kind_of(workspace_.document.design()), workspace_.units());
    runs_->setModel(model_);
    style_table(runs_, "runs");
    runs_->setWordWrap(true);
    runs_->verticalHeader()->setMinimumSectionSize(24);
    runs_->horizontalHeader()->setResizeContentsPrecision(int{most_measured});
    runs_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    runs_->horizontalHeader()->setSectionResizeMode(7, QHeaderView::Stretch);
    runs_->horizontalHeader()->setSectionResizeMode(6, QHeaderView::Fixed);
    runs_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  }

  // The comparison, and the chart beside it.
  QLayout* make_lower() {
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    differences_ = make_table(this, "run comparison", {{}, {}, {}});
    differences_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    wrap_column(differences_, 0);
    differences_->setMinimumWidth(400);
    lower->addWidget(differences_, 1);
    auto* chart = new QVBoxLayout;
    chart->setSpacing(space::hair);
    auto* against = new QHBoxLayout;
    against_ = make_text(this);
    against_->setProperty("caption", true);
    against->addWidget(against_);
    condition_ = new QComboBox(this);
    condition_->setObjectName("chart condition");
    connect(condition_, &QComboBox::currentIndexChanged, this, &RunRecord::draw);
    connect(condition_, &QComboBox::activated, this, [this] { chosen_ = true; });
    against->addWidget(condition_, 1);
    chart->addLayout(against);
    plot_ = new QCustomPlot(this);
    plot_->setMinimumSize(200, 140);
    plot_->setObjectName("run chart");
    plot_->setAccessibleName("Arc length of the logged runs");
    chart->addWidget(plot_, 1);
    lower->addLayout(chart, 1);
    return lower;
  }

  // What the chart can be drawn against; what varied most to begin with.
  void show_kind(const arc::CoilKind& kind) {
    shown_kind_ = kind.key;
    const QSignalBlocker quiet(condition_);
    condition_->clear();
    for (const arc::RunField& field : arc::run_fields()) {
      if (field.key == kind.achieved || !arc::belongs_to(field, kind)) continue;
      condition_->addItem(text_of(field.label), text_of(field.key));
      if (field.dimension == arc::Dimension::power)
        condition_->addItem("√ of " + text_of(field.label).toLower(), of_root + text_of(field.key));
    }
    const QString words = text_of(run_field(kind.achieved).label) + ", against";
    against_->setText(words);
    condition_->setAccessibleName(words);
    chosen_ = false;
  }

  void choose_condition(const arc::CoilKind& kind) {
    if (chosen_) return; // by the builder
    std::string_view key = arc::varied_most(runs(), run_field(kind.achieved), kind);
    if (key.empty()) key = kind.run_columns.front().key;
    const QSignalBlocker quiet(condition_);
    condition_->setCurrentIndex(std::max(0, condition_->findData(text_of(key))));
  }

  void refresh() {
    const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
    const bool another_kind = shown_kind_ != kind.key;
    if (another_kind) show_kind(kind);
    if (!another_kind && shown_ == runs() && shown_units_ == workspace_.units()) return;
    shown_ = runs();
    shown_units_ = workspace_.units();
    // A long record has one line for each run: measuring thousands of notes would take seconds.
    runs_->verticalHeader()->setSectionResizeMode(shown_.size() <= most_measured ? QHeaderView::ResizeToContents
                                                                                 : QHeaderView::Fixed);
    model_->show(shown_, kind, shown_units_);
    choose_condition(kind);
    for (QWidget* part : {static_cast<QWidget*>(differences_), static_cast<QWidget*>(plot_),
                          static_cast<QWidget*>(condition_), static_cast<QWidget*>(against_)})
      part->setVisible(!shown_.empty());                 // nothing to be compared or drawn yet
    if (const int rows = model_->rowCount(); rows > 1) { // the last two: what did the latest change do?
      const QItemSelection last(model_->index(rows - 2, 0), model_->index(rows - 1, model_->columnCount() - 1));
      runs_->selectionModel()->select(last, QItemSelectionModel::ClearAndSelect);
      runs_->scrollToBottom();
    }
    export_->setEnabled(!shown_.empty());
    export_->setToolTip(shown_.empty() ? "There is nothing to export yet" : "All runs, SI units");
    compare();
    draw();
  }

  std::vector<int> selected() const {
    std::vector<int> out;
    for (const QModelIndex& index : runs_->selectionModel()->selectedRows()) out.push_back(index.row());
    std::ranges::sort(out);
    return out;
  }

  void compare() {
    const auto rows = selected();
    remove_->setEnabled(!rows.empty());
    remove_->setToolTip(rows.empty() ? "Select a run first" : "Undo brings it back");
    const bool one = rows.size() == 1;
    edit_->setEnabled(one);
    edit_->setToolTip(one ? "Its numbers and words (Enter in the table)" : "Select one run first");
    const bool known = one && shown_[static_cast<std::size_t>(rows[0])].fired_with.get();
    back_->setEnabled(known);
    back_->setToolTip(known ? "The coil as it was when this run was fired; the record stays, undo comes back"
                      : one ? "This run was logged before runs kept their design"
                            : "Select one run first");
    hint_->setText(shown_.empty() ? "No runs yet: they are logged on the Run page, or imported."
                   : rows.size() == 2
                       ? "The two selected runs are compared below."
                       : "Select two runs to compare them (Ctrl or Shift with the arrow keys or a click).");
    differences_->setRowCount(0);
    if (rows.size() != 2) return;
    const arc::Run& first = shown_[static_cast<std::size_t>(rows[0])];
    const arc::Run& second = shown_[static_cast<std::size_t>(rows[1])];
    auto list = arc::compare_runs(first, second, workspace_.units());
    const auto computed = arc::compare_figures(first, second, workspace_.units(), kept_);
    list.insert(list.end(), computed.begin(), computed.end());
    differences_->setHorizontalHeaderLabels(
        {"", QString("Run %1").arg(rows[0] + 1), QString("Run %1").arg(rows[1] + 1)});
    for (const bool differing : {true, false})
      for (const arc::RunDifference& d : list) {
        if (d.differs != differing) continue;
        const int r = differences_->rowCount();
        differences_->insertRow(r);
        const QStringList cells{(d.differs ? "≠  " : "    ") + QString::fromStdString(d.label),
                                QString::fromStdString(d.first), QString::fromStdString(d.second)};
        for (int c = 0; c < 3; ++c) {
          auto* item = new QTableWidgetItem(cells[c]);
          item->setFont(type::font(type::body, d.differs ? QFont::DemiBold : QFont::Normal));
          if (!d.differs) item->setForeground(workspace_.theme().second);
          differences_->setItem(r, c, item);
        }
      }
  }

  void draw() {
    if (!isVisible()) return;
    const Theme& t = workspace_.theme();
    plot_->clearGraphs();
    plot_->clearItems();
    style_plot(*plot_, t);
    QString x_key = condition_->currentData().toString();
    const bool root = x_key.startsWith(of_root);
    if (root) x_key.remove(0, of_root.size());
    const arc::RunField& x_field = run_field(x_key.toStdString());
    const arc::RunField& y_field = run_field(arc::kind_of(workspace_.document.design()).achieved);
    std::vector<std::pair<double, double>> points;
    for (const arc::Run& run : shown_) {
      auto x = arc::run_value(run, x_field);
      if (x && root) x = std::sqrt(*x);
      const auto y = arc::run_value(run, y_field);
      if (x && y) points.emplace_back(*x, *y);
    }
    double x_max = 0, y_max = 0;
    for (const auto& [x, y] : points) {
      x_max = std::max(x_max, std::abs(x));
      y_max = std::max(y_max, y);
    }
    const AxisUnit xu =
        root ? AxisUnit{1, "√W"} : axis_unit(x_max > 0 ? x_max : 1, x_field.dimension, workspace_.units());
    const AxisUnit yu = axis_unit(y_max > 0 ? y_max : 0.5, y_field.dimension, workspace_.units());
    plot_->xAxis->setLabel(condition_->currentText() + (xu.symbol.isEmpty() ? "" : ", " + xu.symbol));
    plot_->yAxis->setLabel(text_of(y_field.label) + (yu.symbol.isEmpty() ? "" : ", " + yu.symbol));
    auto* dots = plot_->addGraph();
    dots->setLineStyle(QCPGraph::lsNone);
    dots->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, t.arc, t.arc, 8));
    for (std::size_t i = 0; i < points.size(); ++i) {
      dots->addData(points[i].first / xu.factor, points[i].second / yu.factor);
      if (points.size() > most_measured) continue; // numbers upon numbers say nothing
      auto* label = new QCPItemText(plot_);
      label->position->setCoords(points[i].first / xu.factor, points[i].second / yu.factor);
      label->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
      label->setText(QString(" %1").arg(i + 1));
      label->setFont(type::font(type::caption));
      label->setColor(t.second);
    }
    plot_->rescaleAxes();
    plot_->xAxis->scaleRange(1.25);
    if (root && points.size() > 1) draw_rule(points, yu, x_max);
    plot_->yAxis->setRange(0, std::max(1e-9, y_max / yu.factor * 1.25));
    if (points.empty()) {
      plot_->xAxis->setRange(0, 1);
      auto* none = new QCPItemText(plot_);
      none->position->setType(QCPItemPosition::ptAxisRectRatio);
      none->position->setCoords(0.5, 0.5);
      none->setText("no run records both");
      none->setFont(type::font(type::caption));
      none->setColor(t.second);
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  // Through nothing at no power: least squares of arc = a sqrt(P).
  void draw_rule(const std::vector<std::pair<double, double>>& points, const AxisUnit& y_unit, double x_max) {
    double xy = 0, xx = 0;
    for (const auto& [x, y] : points) {
      xy += x * y;
      xx += x * x;
    }
    if (xx <= 0) return;
    auto* rule = plot_->addGraph();
    rule->setPen(QPen(workspace_.theme().second, 1, Qt::DashLine));
    rule->setData({0, x_max}, {0, xy / xx * x_max / y_unit.factor});
    plot_->xAxis->setRange(0, 1.15 * x_max);
    plot_->xAxis->setLabel(plot_->xAxis->label() +
                           QString("   (dashed: %1 for each √W)")
                               .arg(quantity_text(xy / xx, arc::Dimension::length, workspace_.units(), 3)));
  }

  void edit_selected() {
    const auto rows = selected();
    if (rows.size() == 1) show_run_sheet(workspace_, static_cast<std::size_t>(rows[0]), window());
  }

  void back_to_design() {
    const auto rows = selected();
    if (rows.size() != 1) return;
    const arc::Run run = shown_[static_cast<std::size_t>(rows[0])];
    workspace_.document.edit(QString("Back to the design of run %1").arg(rows[0] + 1),
                             [&](arc::Design& design) { design = arc::design_of(run, design); });
  }

  void remove_selected() {
    const auto rows = selected();
    workspace_.document.edit("Remove runs", [&](arc::Design& design) {
      for (auto it = rows.rbegin(); it != rows.rend(); ++it) design.runs.erase(design.runs.begin() + *it);
    });
  }

  void export_csv() {
    const QString path = file_dialogs::to_save(window(), "Export runs", "runs.csv", "CSV (*.csv)");
    if (path.isEmpty()) return;
    QString problem;
    if (!write_whole_file(path, QByteArray::fromStdString(arc::runs_to_csv(runs())), &problem))
      say(window(), "Export runs", path + "\n" + problem);
  }

  void import_csv() {
    const QString path = file_dialogs::to_open(window(), "Import runs", "CSV (*.csv)");
    if (path.isEmpty()) return;
    QByteArray bytes;
    QString problem;
    if (read_whole_file(path, &bytes, &problem)) {
      try {
        const auto read = arc::read_runs({bytes.constData(), static_cast<std::size_t>(bytes.size())}, runs());
        std::vector<bool> theirs;
        if (!read.both.empty()) {
          const auto answer = ask_whose_word(workspace_, read, window());
          if (!answer) return;
          theirs = *answer;
        }
        take_in(read, theirs);
        return;
      } catch (const arc::RunFileError& error) {
        problem = error.what();
      }
    }
    say(window(), "Import runs", path + "\n" + problem);
  }

  void take_in(const arc::RunImport& read, const std::vector<bool>& theirs) {
    const auto after = arc::merged(runs(), read, theirs);
    if (!workspace_.document.edit("Import runs", [&](arc::Design& design) { design.runs = after; })) return;
    std::vector<std::string> changed;
    for (const auto* updates : {&read.updated, &read.both})
      for (const arc::RunUpdate& update : *updates) changed.push_back(update.run.id);
    workspace_.firing.simulate(changed);
    const auto taken = static_cast<std::size_t>(std::ranges::count(theirs, true));
    QStringList said;
    const auto count = [&](std::size_t n, const char* one, const char* more) {
      if (n > 0) said << QString(n == 1 ? one : more).arg(n);
    };
    count(read.added.size(), "%1 run imported", "%1 runs imported");
    count(read.updated.size() + taken, "%1 run changed", "%1 runs changed");
    count(read.both.size() - taken, "%1 run kept as it is here", "%1 runs kept as they are here");
    count(read.same, "%1 was in the record already", "%1 were in the record already");
    hint_->setText(said.isEmpty() ? "The table holds no runs." : said.join("; ") + ".");
  }

  Workspace& workspace_;
  QLabel* hint_ = nullptr;
  QPushButton* edit_ = nullptr;
  QPushButton* back_ = nullptr;
  arc::Kept kept_;      // of the designs that are compared
  bool chosen_ = false; // what the chart is drawn against, by the builder
  QPushButton* remove_ = nullptr;
  QPushButton* export_ = nullptr;
  RunModel* model_ = nullptr;
  QTableView* runs_ = nullptr;
  QTableWidget* differences_ = nullptr;
  QLabel* against_ = nullptr;
  QComboBox* condition_ = nullptr;
  QCustomPlot* plot_ = nullptr;
  arc::SharedList<arc::Run> shown_;
  std::string shown_kind_;
  arc::UnitSystem shown_units_ = arc::UnitSystem::metric;
};

} // namespace

QWidget* make_run_record(Workspace& workspace, QWidget* parent) {
  return new RunRecord(workspace, parent);
}

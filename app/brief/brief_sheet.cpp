#include "brief/brief_sheet.h"

#include "base/latest_job.h"
#include "brief/proposals_view.h"
#include "craft/kind.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "workshop/start.h"
#include "workshop/variants.h"

#include <QComboBox>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QProgressBar>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <mutex>
#include <utility>

namespace {

using enum arc::Dimension;

struct Size {
  const char* title;
  double height_m, diameter_m; // 0: no limit
};
constexpr std::array<Size, 4> sizes{
    {{"Any size", 0, 0}, {"On a table", 0.5, 0.45}, {"Beside the bench", 1.0, 0.9}, {"In a hall", 1.8, 1.5}}};

struct Effort {
  const char* title;
  double share; // of the usual work
};
constexpr std::array<Effort, 3> efforts{{{"Quick search", 0.25}, {"Usual search", 1}, {"Thorough search", 3}}};

struct Group {
  std::string_view key;
  QString title;
};

// Materials, then the devices that the shelf knows.
const std::vector<Group>& groups() {
  static const std::vector<Group> all = [] {
    std::vector<Group> out{{"pipes", "Form"},
                           {"wires", "Wire"},
                           {"tubing", "Primary tubing"},
                           {"toploads", "Topload"},
                           {"capacitors", "Capacitors"},
                           {"transformers", "Transformer"}};
    for (const arc::ShelfGroup& group : arc::shelf_groups())
      if (group.takes) out.push_back({group.key, text_of(group.title)});
    return out;
  }();
  return all;
}

// Whether a search for this kind of coil (empty: any) takes parts of the group.
bool serves(const Group& group, const QString& kind) {
  const arc::ShelfGroup& row = arc::shelf_group(group.key);
  if (!row.takes) return true;
  return std::ranges::any_of(arc::coil_kinds(), [&](const arc::CoilKind* one) {
    return (kind.isEmpty() || kind == text_of(one->key)) && row.takes(arc::new_design(*one)) > 0;
  });
}

// One group of a proposal, put into the design at hand.
struct PartOfDesign {
  const char* title;
  void (*take)(arc::Design& into, const arc::Design& from);
};
constexpr std::array<PartOfDesign, 5> parts_of_design{
    {{"Topload", [](arc::Design& into, const arc::Design& from) { into.topload = from.topload; }},
     {"Winding", [](arc::Design& into, const arc::Design& from) { into.secondary = from.secondary; }},
     {"Primary", [](arc::Design& into, const arc::Design& from) { into.primary = from.primary; }},
     {"Tank", [](arc::Design& into, const arc::Design& from) { into.tank = from.tank; }},
     {"Feed", [](arc::Design& into, const arc::Design& from) { into.feed = from.feed; }}}};

// What the search has found so far, handed over between threads; the latest counts.
class Early {
 public:
  void put(const arc::Proposals& found) {
    const std::scoped_lock lock(guard_);
    found_ = found;
  }
  std::optional<arc::Proposals> take() {
    const std::scoped_lock lock(guard_);
    return std::exchange(found_, std::nullopt);
  }

 private:
  std::mutex guard_;
  std::optional<arc::Proposals> found_;
};

class BriefSheet : public QDialog {
 public:
  BriefSheet(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const arc::Proposals& found) { show_found(found); },
             [this](const QString& problem) { end("The search ended with an error: " + problem); }) {
    setObjectName("brief sheet");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("A coil from a brief");
    open_large(*this, {1010, 660});
    const arc::Site& site = workspace_.document.design().site;
    brief_.site = {{"mains_voltage_v", site.mains_voltage_v}, {"mains_frequency_hz", site.mains_frequency_hz}};
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::medium, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_wishes());
    column->addLayout(make_shelf());
    column->addLayout(make_run());
    view_ = new ProposalsView(workspace_, this);
    column->addWidget(view_, 3);
    table_ = make_table(
        this, "proposals",
        {"Character", "Arc", "Power", "Line", "Height", "Diameter", "Resonance", "Turns", "To buy", "Warnings"});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    constexpr int line = 3, line_width = 92; // amperes beside milliamperes, at their decimal points
    table_->horizontalHeader()->setSectionResizeMode(line, QHeaderView::Fixed);
    table_->horizontalHeader()->resizeSection(line, line_width);
    table_->horizontalHeader()->setSectionsClickable(true);
    table_->setToolTip("Press a heading to sort by it");
    table_->setMinimumHeight(158); // five of them
    connect(table_->horizontalHeader(), &QHeaderView::sectionClicked, this, &BriefSheet::sort_by);
    connect(table_, &QTableWidget::itemSelectionChanged, this, [this] { choose(table_->currentRow()); });
    connect(view_, &ProposalsView::chosen_changed, this, [this](int index) { table_->selectRow(index); });
    connect(view_, &ProposalsView::pointed_at, this, &BriefSheet::mark_differences);
    table_->setMouseTracking(true);
    connect(table_, &QTableWidget::cellEntered, this, &BriefSheet::mark_differences);
    column->addWidget(table_, 2);
    reason_ = caption_label({}, this);
    reason_->setObjectName("proposal reason");
    reason_->setWordWrap(true);
    reason_->setMinimumHeight(3 * reason_->fontMetrics().lineSpacing());
    reason_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(reason_);
    column->addLayout(make_take());
    progress_timer_.setInterval(80);
    connect(&progress_timer_, &QTimer::timeout, this, [this] {
      progress_->setValue(static_cast<int>(100 * *share_));
      show_early();
    });
    connect(&workspace_.document, &Document::units_changed, this, [this] { show_rows(); });
    end({});
  }

 private:
  QComboBox* add_choice(const char* name, const QString& label, QHBoxLayout* row) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->setAccessibleName(label);
    row->addWidget(captioned(label, box, this));
    return box;
  }

  QuantityField* add_limit(const char* key, const char* label, arc::Dimension dimension, double low, double high,
                           std::map<std::string, double>& in) {
    QuantityRole role;
    role.name = QString("brief ") + key;
    role.label = label;
    role.dimension = dimension;
    role.minimum = low;
    role.maximum = high;
    role.nullable = true;
    role.empty = "any";
    role.get = [&in, key]() -> std::optional<double> {
      const auto it = in.find(key);
      return it == in.end() ? std::nullopt : std::optional(it->second);
    };
    role.set = [&in, key](std::optional<double> value, const QString&) {
      if (value)
        in[key] = *value;
      else
        in.erase(key);
    };
    auto* field = new QuantityField(workspace_, std::move(role), this);
    fields_.push_back(field);
    return field;
  }

  QLayout* make_wishes() {
    auto* column = new QVBoxLayout;
    auto* row = new QHBoxLayout;
    row->setSpacing(space::medium);
    kind_ = add_choice("brief kind", "Kind of coil", row);
    kind_->addItem("Any kind");
    for (const arc::CoilKind* kind : arc::coil_kinds()) kind_->addItem(text_of(kind->title), text_of(kind->key));
    aim_ = add_choice("brief aim", "What counts most", row);
    for (const arc::BriefAim& aim : arc::brief_aims()) aim_->addItem(text_of(aim.title), text_of(aim.key));
    size_ = add_choice("brief size", "Size", row);
    for (const Size& size : sizes) size_->addItem(size.title);
    for (QComboBox* box : {kind_, aim_, size_}) keep_words(box);
    connect(size_, &QComboBox::activated, this, &BriefSheet::take_size);
    const auto& own = workspace_.document.design().kind;
    kind_->setCurrentIndex(std::max(0, kind_->findData(QString::fromStdString(own))));
    row->addWidget(labelled(add_limit("mains_voltage_v", "Mains", voltage, 50, 480, brief_.site), this));
    row->addWidget(labelled(add_limit("ceiling_height_m", "Ceiling", length, 0.5, 50, brief_.site), this));
    row->addWidget(labelled(add_limit("wall_distance_m", "Nearest wall", length, 0.1, 50, brief_.site), this));
    row->addStretch();
    column->addLayout(row);
    auto* limits = new QHBoxLayout;
    limits->setSpacing(space::medium);
    const auto add = [&](const char* key, const char* label, arc::Dimension dimension, double low, double high) {
      limits->addWidget(labelled(add_limit(key, label, dimension, low, high, brief_.limits), this));
    };
    add("height_m", "Height, at most", length, 0.05, 20);
    add("floor_diameter_m", "Diameter, at most", length, 0.05, 20);
    add("line_current_a", "Line, at most", current, 0.05, 200);
    add("resonance_low_hz", "Resonance from", frequency, 1e3, 1e8);
    add("resonance_high_hz", "Resonance to", frequency, 1e3, 1e8);
    add("arc_length_m", "Arc, at least", length, 0.005, 20);
    column->addLayout(limits);
    return column;
  }

  QLayout* make_shelf() {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    grid->setVerticalSpacing(space::hair);
    for (const Group& group : groups()) {
      auto* box = new QComboBox(this);
      box->setObjectName("brief " + text_of(group.key));
      box->setAccessibleName(group.title);
      box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
      box->setMinimumContentsLength(7);
      box->addItem("Any");
      box->addItem("My shelf");
      const arc::Shelf& shelf = workspace_.shelf.shelf();
      for (const arc::ShelfPart& part : shelf.of(group.key))
        if (shelf.owned(part))
          box->addItem("Use " + QString::fromStdString(part.name), QString::fromStdString(part.name));
      box->setToolTip("Any: whatever there is to buy, and what you have. My shelf: nothing is bought. Or one part "
                      "that must be used");
      shelf_.push_back(box);
      shelf_places_.push_back(captioned(group.title, box, this));
    }
    shelf_grid_ = grid;
    show_groups();
    connect(kind_, &QComboBox::currentIndexChanged, this, [this] { show_groups(); });
    return grid;
  }

  // Those that this kind of coil can use, in rows; a choice that is not seen does not count.
  void show_groups() {
    constexpr int columns = 7;
    int place = 0;
    for (std::size_t i = 0; i < groups().size(); ++i) {
      const bool seen = serves(groups()[i], kind_->currentData().toString());
      shelf_grid_->removeWidget(shelf_places_[i]);
      shelf_places_[i]->setVisible(seen);
      if (!seen) continue;
      shelf_grid_->addWidget(shelf_places_[i], place / columns, place % columns);
      ++place;
    }
  }

  QLayout* make_run() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::medium);
    run_ = new QPushButton("Propose designs", this);
    run_->setObjectName("propose");
    run_->setProperty("primary", true);
    run_->setDefault(true);
    connect(run_, &QPushButton::clicked, this, &BriefSheet::run);
    row->addWidget(run_);
    effort_ = new QComboBox(this);
    effort_->setObjectName("brief effort");
    effort_->setAccessibleName("How long to search");
    for (const Effort& effort : efforts) effort_->addItem(effort.title);
    effort_->setCurrentIndex(1);
    keep_words(effort_);
    row->addWidget(effort_);
    cancel_ = new QPushButton("Cancel", this);
    cancel_->setObjectName("cancel proposals");
    cancel_->setAutoDefault(false);
    connect(cancel_, &QPushButton::clicked, this, [this] {
      job_.cancel();
      end("The search was stopped.");
    });
    row->addWidget(cancel_);
    progress_ = new QProgressBar(this);
    progress_->setObjectName("proposals progress");
    progress_->setTextVisible(false);
    progress_->setFixedWidth(160);
    row->addWidget(progress_);
    words_ = caption_label({}, this);
    words_->setObjectName("proposals words");
    words_->setWordWrap(true);
    row->addWidget(words_, 1);
    return row;
  }

  QLayout* make_take() {
    auto* row = new QHBoxLayout;
    take_ = new QPushButton("Take this design", this);
    take_->setObjectName("take proposal");
    take_->setAutoDefault(false);
    connect(take_, &QPushButton::clicked, this, [this] {
      if (const arc::Proposal* p = chosen()) {
        workspace_.offer(p->design);
        accept();
      }
    });
    row->addWidget(take_);
    keep_ = add_sheet_button(this, row, "keep proposal", "Keep as a variant", [this] {
      const arc::Proposal* p = chosen();
      if (!p) return;
      if (workspace_.document.edit("Keep a proposal as a variant", [&](arc::Design& design) {
            arc::keep_variant(design, p->design, p->character);
          }))
        words_->setText("Kept. Ctrl+L in the main window compares the variants of this design.");
      choose(table_->currentRow());
    });
    group_ = new QPushButton("Take only", this);
    group_->setObjectName("take group");
    group_->setAutoDefault(false);
    auto* menu = new QMenu(group_);
    for (const PartOfDesign& part : parts_of_design) {
      QAction* action = menu->addAction(part.title);
      action->setObjectName(QString("take ") + part.title);
      connect(action, &QAction::triggered, this, [this, &part] {
        const arc::Proposal* p = chosen();
        if (!p) return;
        workspace_.document.edit(QString("Take the proposed %1").arg(QString(part.title).toLower()),
                                 [&](arc::Design& design) { part.take(design, p->design); });
        words_->setText(QString("%1 taken. Undo in the main window brings the old one back.").arg(part.title));
      });
    }
    group_->setMenu(menu);
    row->addWidget(group_);
    row->addStretch();
    auto* close = new QPushButton("Close", this);
    close->setAutoDefault(false);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    row->addWidget(close);
    return row;
  }

  void take_size(int index) {
    const Size& size = sizes[static_cast<std::size_t>(index)];
    const auto limit = [&](const char* key, double value) {
      if (value > 0)
        brief_.limits[key] = value;
      else
        brief_.limits.erase(key);
    };
    limit("height_m", size.height_m);
    limit("floor_diameter_m", size.diameter_m);
    for (QuantityField* field : fields_) field->refresh();
  }

  void run() {
    for (QuantityField* field : fields_)
      if (!field->commit()) {
        field->setFocus();
        return;
      }
    brief_.name = "Proposed";
    brief_.kinds.clear();
    if (kind_->currentIndex() > 0) brief_.kinds = {kind_->currentData().toString().toStdString()};
    brief_.aim = aim_->currentData().toString().toStdString();
    brief_.shelf = workspace_.shelf.shelf();
    brief_.only_shelf.clear();
    brief_.must_use.clear();
    for (std::size_t i = 0; i < groups().size(); ++i) {
      if (shelf_places_[i]->isHidden()) continue;
      const std::string group(groups()[i].key);
      if (shelf_[i]->currentIndex() == 1) brief_.only_shelf.push_back(group);
      if (shelf_[i]->currentIndex() > 1)
        brief_.must_use.push_back({group, shelf_[i]->currentData().toString().toStdString()});
    }
    found_ = {};
    show_rows();
    view_->show({}, "Designs are varied, analysed and simulated …");
    *share_ = 0;
    progress_timer_.start();
    for (QWidget* w : std::initializer_list<QWidget*>{cancel_, progress_}) w->show();
    run_->setEnabled(false);
    run_->setToolTip("The search goes on");
    words_->clear();
    const double effort = efforts[static_cast<std::size_t>(effort_->currentIndex())].share;
    early_ = std::make_shared<Early>();
    job_.start([brief = brief_, effort, share = share_, early = early_](const std::atomic<bool>& cancelled) {
      return arc::propose(brief, {.effort = effort}, cancelled,
                          {.progress = [&](double done) { *share = done; },
                           .preview = [&](const arc::Proposals& found) { early->put(found); }});
    });
  }

  bool searching() const { return progress_timer_.isActive(); }

  // The best so far, to be looked at while the search goes on.
  void show_early() {
    const auto found = early_ ? early_->take() : std::nullopt;
    if (!found || !searching()) return;
    const int row = std::max(0, table_->currentRow());
    found_ = *found;
    view_->show(found_.proposals, {});
    show_rows();
    words_->setText(
        QString("%1 designs were simulated so far; these are not judged in full yet.").arg(found_.tried));
    table_->selectRow(std::min(row, table_->rowCount() - 1));
  }

  void end(const QString& words) {
    progress_timer_.stop();
    for (QWidget* w : std::initializer_list<QWidget*>{cancel_, progress_}) w->hide();
    run_->setEnabled(true);
    run_->setToolTip({});
    words_->setText(words);
    if (found_.proposals.empty())
      view_->show({}, words.isEmpty()
                          ? "Say what counts and what there is; leave open what does not matter. Designs of "
                            "different character are proposed, each simulated from the wall to the arc."
                          : QString());
    show_rows();
  }

  void show_found(const arc::Proposals& found) {
    found_ = found;
    view_->show(found_.proposals, {});
    QString words = found_.proposals.empty() ? refused_words()
                    : found_.few.empty()     ? QString("%1 designs were simulated.").arg(found_.tried)
                                             : QString::fromStdString(found_.few);
    end(words);
    if (found_.proposals.empty()) return;
    table_->selectRow(0);
    table_->setFocus();
  }

  // "Nothing keeps all of this. Height, at most 300 mm: the nearest has 470 mm; 480 mm lets one through."
  QString refused_words() const {
    QStringList out{"Nothing keeps all of this."};
    for (const arc::BriefRefusal& r : found_.refused) {
      const arc::BriefLimit* limit = arc::brief_limit(r.limit);
      const auto text = [&](double value) { return print(value, limit ? limit->dimension : number, 3); };
      QString one;
      if (limit)
        one = QString("%1 %2").arg(text_of(limit->title), text(brief_.limits.at(r.limit)));
      else if (r.limit == "must_use")
        one = "The part that must be used";
      else if (const auto it = brief_.site.find(r.limit); it != brief_.site.end())
        one = QString("%1 %2").arg(r.limit == "ceiling_height_m" ? "Ceiling" : "Nearest wall",
                                   print(it->second, length, 3));
      else
        one = QString("Of the shelf only: %1").arg(QString::fromStdString(r.limit));
      if (r.nearest) one += QString(", the nearest has %1").arg(text(*r.nearest));
      if (r.relax_to) one += QString(", %1 lets one through").arg(text(*r.relax_to));
      out << one + ".";
    }
    return out.join(" ");
  }

  // What a column shows of a proposal, and what it sorts by.
  struct Cell {
    QString text;
    double worth;
  };
  std::vector<Cell> cells(const arc::Proposal& p) const {
    const arc::CoilFigures& f = p.figures;
    int pieces = 0;
    for (const arc::PartToBuy& part : p.buy) pieces += part.count;
    return {
        {QString::fromStdString(p.character), 0},
        {f.arc_high_m > 0 ? print(f.arc_high_m, length, 2) : QString("none"), -f.arc_high_m},
        {print(f.power_w, power, 3), f.power_w},
        {f.line_current_a ? print(*f.line_current_a, current, 2) : QString("none"), f.line_current_a.value_or(0)},
        {print(f.height_m, length, 3), f.height_m},
        {print(f.floor_diameter_m, length, 3), f.floor_diameter_m},
        {print(f.resonance_hz, frequency, 4), f.resonance_hz},
        {QString::number(p.design.secondary.turns), p.design.secondary.turns},
        {QString::number(pieces), static_cast<double>(pieces)},
        {QString::number(p.warnings), static_cast<double>(p.warnings)}};
  }

  void show_rows() {
    table_->setRowCount(static_cast<int>(found_.proposals.size()));
    for (int r = 0; r < table_->rowCount(); ++r) {
      QStringList row;
      for (const Cell& cell : cells(found_.proposals[static_cast<std::size_t>(r)])) row << cell.text;
      set_row(table_, r, row);
    }
    table_->setVisible(table_->rowCount() > 0);
    choose(table_->currentRow());
  }

  // The cells of the one that is pointed at that differ from the chosen one by what sets designs apart.
  void mark_differences(int row) {
    const arc::Proposal* c = chosen();
    constexpr double apart = 0.08;
    for (int r = 0; r < table_->rowCount(); ++r) {
      const auto own = cells(found_.proposals[static_cast<std::size_t>(r)]);
      for (int column = 0; column < table_->columnCount(); ++column) {
        QTableWidgetItem* item = table_->item(r, column);
        if (!item) continue;
        bool differs = false;
        if (c && r == row && r != table_->currentRow()) {
          const double a = own[static_cast<std::size_t>(column)].worth,
                       b = cells(*c)[static_cast<std::size_t>(column)].worth;
          differs = std::abs(a - b) > apart * std::max(std::abs(a), std::abs(b));
        }
        item->setFont(type::font(type::body, differs ? QFont::Bold : QFont::Normal));
        item->setForeground(differs ? workspace_.theme().arc : workspace_.theme().ink);
      }
    }
  }

  void sort_by(int column) {
    if (searching()) return; // the order is that of the search
    const auto place = static_cast<std::size_t>(column);
    std::ranges::stable_sort(found_.proposals, {}, [&](const arc::Proposal& p) { return cells(p)[place].worth; });
    show_rows();
    view_->show(found_.proposals, {});
    table_->selectRow(0);
  }

  const arc::Proposal* chosen() const {
    const int row = table_->currentRow();
    return row >= 0 && row < static_cast<int>(found_.proposals.size())
               ? &found_.proposals[static_cast<std::size_t>(row)]
               : nullptr;
  }

  void choose(int row) {
    view_->choose(row);
    const arc::Proposal* p = chosen();
    for (QPushButton* button : {take_, keep_, group_}) {
      button->setEnabled(p && !searching());
      button->setToolTip(!p            ? QString("Choose a proposal first")
                         : searching() ? QString("It is not judged in full yet")
                                       : QString());
    }
    if (p && workspace_.document.design().variants.size() >= arc::most_variants) {
      keep_->setEnabled(false);
      keep_->setToolTip(QString("%1 variants are kept already; remove one first").arg(arc::most_variants));
    }
    if (p && p->design.kind != workspace_.document.design().kind) {
      group_->setEnabled(false);
      group_->setToolTip("It is another kind of coil than the design at hand");
    }
    if (!p) return reason_->clear();
    QStringList owned, buy;
    for (const arc::OwnedPart& part : p->owned)
      owned << (part.count > 1 ? QString("%1 × ").arg(part.count) : QString()) + QString::fromStdString(part.name);
    for (const arc::PartToBuy& part : p->buy)
      buy << (part.count > 1 ? QString("%1 × ").arg(part.count) : QString()) + QString::fromStdString(part.what);
    QString words = QString::fromStdString(p->reason);
    if (!owned.isEmpty()) words += " From the shelf: " + owned.join("; ") + ".";
    words += " To buy: " + (buy.isEmpty() ? QString("nothing") : buy.join("; ")) + ".";
    words += QString(" %1 of copper, some %2 h of winding by crank.")
                 .arg(print(p->figures.mass_kg, mass, 2))
                 .arg(p->figures.winding_hours, 0, 'f', 1);
    reason_->setText(words);
  }

  Workspace& workspace_;
  const Print print{workspace_};
  arc::Brief brief_;
  arc::Proposals found_;
  std::vector<QuantityField*> fields_;
  QComboBox *kind_ = nullptr, *aim_ = nullptr, *size_ = nullptr, *effort_ = nullptr;
  std::vector<QComboBox*> shelf_; // in the order of groups()
  std::vector<QWidget*> shelf_places_;
  QGridLayout* shelf_grid_ = nullptr;
  QPushButton *run_ = nullptr, *cancel_ = nullptr, *take_ = nullptr, *keep_ = nullptr, *group_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QLabel *words_ = nullptr, *reason_ = nullptr;
  ProposalsView* view_ = nullptr;
  QTableWidget* table_ = nullptr;
  std::shared_ptr<std::atomic<double>> share_ = std::make_shared<std::atomic<double>>(0);
  std::shared_ptr<Early> early_;
  QTimer progress_timer_;
  LatestJob<arc::Proposals> job_; // last: it works with the rest
};

} // namespace

void show_brief_sheet(Workspace& workspace, QWidget* parent) {
  (new BriefSheet(workspace, parent))->open();
}

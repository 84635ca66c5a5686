// Fire: the checks before power, a large armed state that opens only with all of them ticked, the run timer,
// what was observed, and the record of runs with comparison, chart and CSV.
#include "craft/kind.h"
#include "stages/after_power.h"
#include "stages/bench_list.h"
#include "stages/first_fault_sheet.h"
#include "stages/run_sheet.h"
#include "stages/stage.h"
#include "stages/state_banner.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "workshop/checklist.h"
#include "workshop/runs.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QStackedWidget>
#include <QTimer>
#include <algorithm>
#include <array>
#include <iterator>

namespace {

class FireStage : public QWidget {
 public:
  FireStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("fire");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 6, space::medium, space::hair);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->setSpacing(space::small);
    banner_ = new StateBanner(workspace_, this);
    head->addWidget(banner_, 1);
    add_buttons(head);
    column->addLayout(head);
    take_ = new QPushButton(this);
    take_->setObjectName("take examples");
    take_->setProperty("link", true);
    take_->setToolTip("The coil is armed with numbers of your own only. Takes what stands there (Ctrl+Shift+E).");
    connect(take_, &QPushButton::clicked, this, [this] { take_all_examples(workspace_); });
    column->addWidget(take_, 0, Qt::AlignLeft);
    column->addLayout(make_tabs());
    pages_->addWidget(make_checks());
    after_ = new AfterPower(workspace_, pages_);
    pages_->addWidget(after_);
    pages_->addWidget(make_notes_page());
    column->addWidget(pages_, 1);
    clock_.setInterval(100);
    connect(&clock_, &QTimer::timeout, this, &FireStage::show_state);
    connect(&workspace_.document, &Document::analysis_changed, this, &FireStage::refresh);
    connect(&workspace_.document, &Document::power_changed, this, &FireStage::refresh); // distances and stores
    connect(&workspace_.document, &Document::opened, this, &FireStage::show_draft);
    connect(&workspace_.document, &Document::draft_found, this, &FireStage::show_draft);
    connect(&workspace_.firing, &Firing::changed, this, &FireStage::show_state);
    connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
    refresh();
    show_draft();
  }

 protected:
  // Space ticks a check and goes on to the next that is open, at the end to Arm; the words beside a box tick it
  // too.
  bool eventFilter(QObject* watched, QEvent* event) override {
    const auto label = std::ranges::find(texts_, watched);
    if (label != texts_.end() && event->type() == QEvent::MouseButtonRelease)
      boxes_[static_cast<std::size_t>(label - texts_.begin())]->click();
    const auto box = std::ranges::find(boxes_, watched);
    if (box == boxes_.end() || event->type() != QEvent::KeyPress) return false;
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
      const auto next = box - boxes_.begin() + (key->key() == Qt::Key_Down ? 1 : -1);
      if (next >= 0 && next < std::ssize(boxes_)) boxes_[static_cast<std::size_t>(next)]->setFocus();
      return true;
    }
    if (key->key() != Qt::Key_Space) return false;
    if (key->isAutoRepeat()) return true; // a key that is held down ticks once
    (*box)->toggle();
    if ((*box)->isChecked()) go_on();
    return true;
  }

 private:
  using State = arc::ArmState;

  void go_on() {
    const auto open = std::ranges::find_if(boxes_, [](const QCheckBox* b) { return !b->isChecked(); });
    QWidget* next = open == boxes_.end() ? static_cast<QWidget*>(arm_) : *open;
    if (next->isEnabled()) next->setFocus();
  }

  enum Page { before, afterwards, notes };

  QLayout* make_tabs() {
    auto* tabs = new QHBoxLayout;
    tabs->setSpacing(space::hair);
    tabs_ = new QButtonGroup(this);
    pages_ = new QStackedWidget(this);
    constexpr std::array<std::array<const char*, 2>, 3> named{
        {{"Run", "Before power"}, {"After", "After power"}, {"Notes", "Notes"}}};
    for (const auto& [name, words] : named) {
      auto* button = new QPushButton(words, this);
      button->setObjectName(QString("fire page %1").arg(name));
      button->setCheckable(true);
      button->setChecked(tabs_->buttons().isEmpty());
      tabs_->addButton(button, static_cast<int>(tabs_->buttons().size()));
      tabs->addWidget(button);
    }
    connect(tabs_, &QButtonGroup::idClicked, pages_, &QStackedWidget::setCurrentIndex);
    auto* record = new QPushButton("Record", this);
    record->setObjectName("fire page Record");
    record->setToolTip("All runs that were logged (Alt+9)");
    connect(record, &QPushButton::clicked, this, [this] { workspace_.go_to("record", {}); });
    tabs->addWidget(record);
    tabs->addStretch();
    auto* fault = new QPushButton("Troubleshoot…", this);
    fault->setObjectName("first fault");
    fault->setProperty("link", true);
    fault->setToolTip("A walk through the usual faults in order, with this coil's numbers (Ctrl+F)");
    connect(fault, &QPushButton::clicked, this, [this] { show_first_fault_sheet(workspace_, this); });
    tabs->addWidget(fault);
    return tabs;
  }

  void turn_to(Page page) {
    tabs_->button(page)->setChecked(true);
    tabs_->button(page)->setFocusPolicy(Qt::StrongFocus); // the toolkit takes it from those that were not down
    pages_->setCurrentIndex(page);
  }

  QWidget* make_notes_page() {
    auto* page = new QWidget(this);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(space::small);
    column->addLayout(make_observed(page));
    make_notes(page);
    column->addWidget(failed_);
    column->addWidget(notes_, 1);
    column->addLayout(make_ends(page));
    return page;
  }

  QWidget* make_checks() {
    checks_ = new BenchList(this);
    checks_->setObjectName("checks");
    return checks_;
  }

  void add_buttons(QHBoxLayout* row) {
    const auto add_button = [&](const char* name, const char* text, const char* look, void (FireStage::*action)()) {
      auto* button = new QPushButton(text, this);
      button->setObjectName(name);
      button->setFixedHeight(62);
      button->setProperty("bench", true);
      if (*look) button->setProperty(look, true);
      connect(button, &QPushButton::clicked, this, action);
      row->addWidget(button);
      return button;
    };
    arm_ = add_button("arm", "Arm", "danger", &FireStage::arm);
    start_ = add_button("start run", "Start", "primary", &FireStage::start_run);
    stop_ = add_button("stop run", "Stop", "primary", &FireStage::stop_run);
    disarm_ = add_button("disarm", "Disarm", "", &FireStage::disarm);
  }

  QLayout* make_observed(QWidget* page) {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    grid->setVerticalSpacing(6);
    stop_columns(grid, 3);
    for (const arc::RunField& spec : arc::run_fields()) {
      if (arc::is_condition(spec)) continue;
      QuantityRole role = role_of(spec, "observed ");
      const std::string key(spec.key);
      role.get = [this, key]() -> std::optional<double> {
        const auto& typed = firing().arming().draft().run.observations;
        const auto it = typed.find(key);
        return it == typed.end() ? std::nullopt : std::optional<double>(it->second);
      };
      role.set = [this, key](std::optional<double> value, const QString&) { firing().observe(key, value); };
      auto* field = new QuantityField(workspace_, std::move(role), page);
      fields_.push_back(field);
      observations_.emplace_back(&spec, labelled(field, page));
      keep_together(observations_.back().second);
    }
    observed_grid_ = grid;
    return grid;
  }

  void make_notes(QWidget* page) {
    failed_ = new QLineEdit(page);
    failed_->setObjectName("observed failed");
    failed_->setAccessibleName("What failed");
    failed_->setPlaceholderText("what failed: what tripped, smelt or broke");
    notes_ = new QPlainTextEdit(page);
    notes_->setObjectName("observed notes");
    notes_->setAccessibleName("Notes");
    notes_->setPlaceholderText("notes: what was changed, heard and seen");
    notes_->setTabChangesFocus(true);
    notes_->setMinimumHeight(34);
    connect(failed_, &QLineEdit::textEdited, this, &FireStage::note);
    connect(notes_, &QPlainTextEdit::textChanged, this, &FireStage::note);
  }

  QLayout* make_ends(QWidget* page) {
    auto* ends = new QHBoxLayout;
    ends->setSpacing(space::small);
    ends->addStretch();
    give_up_ = new QPushButton("Clear", page);
    give_up_->setObjectName("clear run");
    give_up_->setToolTip("Takes away what is typed and timed here without logging it");
    connect(give_up_, &QPushButton::clicked, this, [this] {
      firing().give_up();
      show_draft();
    });
    ends->addWidget(give_up_);
    log_ = new QPushButton("Log this run", page);
    log_->setObjectName("log run");
    connect(log_, &QPushButton::clicked, this, &FireStage::log_run);
    ends->addWidget(log_);
    return ends;
  }

  // What is observed of this kind of coil; the checks are made anew.
  void show_kind(const arc::CoilKind& kind) {
    shown_kind_ = kind.key;
    int i = 0;
    for (const auto& [spec, widget] : observations_) {
      observed_grid_->removeWidget(widget);
      widget->setVisible(arc::belongs_to(*spec, kind));
      if (!arc::belongs_to(*spec, kind)) continue;
      observed_grid_->addWidget(widget, i / 3, i % 3, Qt::AlignTop);
      ++i;
    }
    show_checks({});
  }

  // A line for each check.
  void show_checks(const std::vector<arc::CheckItem>& items) {
    boxes_.clear();
    texts_.clear();
    check_keys_.clear();
    checks_->clear();
    for (const arc::CheckItem& item : items) {
      auto* box = new QCheckBox;
      box->setObjectName("check " + QString::fromStdString(item.key));
      box->setProperty("bench", true);
      box->installEventFilter(this);
      QLabel* text = checks_->add_line(box);
      text->setBuddy(box);
      text->installEventFilter(this);
      connect(box, &QCheckBox::toggled, this, [this, key = item.key](bool on) { firing().tick(key, on); });
      boxes_.push_back(box);
      texts_.push_back(text);
      check_keys_.push_back(item.key);
    }
    checks_->fit();
  }

  void refresh() {
    const auto analysis = workspace_.document.analysis();
    if (!analysis) return;
    const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
    if (shown_kind_ != kind.key) show_kind(kind);
    const auto items = arc::checks_before_power(workspace_.document.design(), *analysis,
                                                workspace_.document.power_of_kind(), workspace_.units());
    if (!std::ranges::equal(items, check_keys_, {}, &arc::CheckItem::key)) show_checks(items);
    for (std::size_t i = 0; i < items.size(); ++i) {
      const QString text = QString::fromStdString(items[i].text);
      texts_[i]->setText(text);
      boxes_[i]->setAccessibleName(text);
    }
    checks_->fit();
    after_->refresh();
    show_state();
  }

  // What is typed, as it is kept: of this coil from now on.
  void show_draft() {
    const arc::Run& run = firing().arming().draft().run;
    for (QuantityField* field : fields_) field->refresh();
    const QSignalBlocker quiet(notes_);
    failed_->setText(QString::fromStdString(run.failed));
    notes_->setPlainText(QString::fromStdString(run.notes));
    show_state();
  }
  void note() { firing().note(notes_->toPlainText(), failed_->text()); }

  void show_state() {
    const arc::Arming& arming = firing().arming();
    const State state = arming.state();
    if (state != shown_state_) {
      const bool over = shown_state_ == State::after && state == State::disarmed;
      shown_state_ = state;
      if (state >= State::running)
        turn_to(afterwards);
      else if (over)
        turn_to(notes);
    }
    const int open = arming.open_checks();
    const QString seconds = QString("%1 s").arg(firing().seconds(), 0, 'f', 1);
    for (std::size_t i = 0; i < boxes_.size(); ++i) {
      const QSignalBlocker quiet(boxes_[i]);
      boxes_[i]->setChecked(arming.ticked(check_keys_[i]));
      boxes_[i]->setEnabled(state <= State::armed);
      texts_[i]->setEnabled(arming.figures() == arc::Figures::there); // else of the design before the last change
    }
    after_->setEnabled(arming.figures() == arc::Figures::there || arming.powered());
    after_->show_state();
    const std::size_t examples = arming.powered() ? 0 : arming.examples();
    take_->setVisible(examples > 0);
    take_->setText(
        QString("Take %1 as given").arg(examples == 1 ? "the one example" : QString("%1 examples").arg(examples)));
    switch (state) {
    case State::disarmed:
    case State::checking:
      banner_->set_state(
          "NOT ARMED",
          arming.figures() == arc::Figures::outstanding ? "figures are being computed"
          : examples > 0 ? QString("%1 example%2 that nobody has typed").arg(examples).arg(examples == 1 ? "" : "s")
          : open > 0     ? QString("%1 of %2 checks open").arg(open).arg(boxes_.size())
                         : "all checks ticked",
          false);
      break;
    case State::armed:
      banner_->set_state("ARMED", "press Start when you switch on", true);
      break;
    case State::running:
      banner_->set_state("RUNNING  " + seconds, "Stop when the switch is off", true);
      break;
    case State::after:
      banner_->set_state(text_of(arc::kind_of(workspace_.document.design()).after_run),
                         arming.draft().run.observations.contains("duration_s")
                             ? "ran " + seconds + "; do the steps, then Disarm"
                             : "it was live when the window ended; do the steps, then Disarm",
                         true);
      break;
    }
    if (state == State::running)
      clock_.start();
    else
      clock_.stop();
    const auto set = [](QPushButton* button, bool on, const QString& why_not) {
      button->setEnabled(on);
      button->setToolTip(on ? QString() : why_not);
    };
    const QString hindrance = firing().hindrance();
    set(arm_, hindrance.isEmpty(), hindrance);
    set(start_, state == State::armed, "Arm first");
    set(stop_, state == State::running, "Nothing is running");
    set(disarm_, state == State::armed || state == State::after,
        state == State::running ? "Stop the run first" : "Not armed");
    const QString running = "Stop the run first";
    set(log_, (arming.draft().begun || !arming.draft().run.observations.empty()) && state != State::running,
        state == State::running ? running : "Enter at least one observation");
    set(give_up_, arming.unlogged() && state != State::running,
        state == State::running ? running : "Nothing is typed or timed");
  }

  void arm() {
    QString reason;
    if (!firing().arming().stops().empty() && !ask_despite_stops(&reason)) return;
    if (firing().arm(reason)) start_->setFocus();
    show_draft(); // a run that was not logged is in the record now
  }

  // While a stop stands the coil is armed only with a reason, which is kept with the run.
  bool ask_despite_stops(QString* why) {
    QDialog sheet(this);
    sheet.setObjectName("arm despite");
    sheet.setWindowTitle("Arming blocked by findings");
    auto* column = new QVBoxLayout(&sheet);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    QStringList titles;
    for (const arc::StandingStop& stop : firing().arming().stops()) titles << QString::fromStdString(stop.title);
    auto* list = make_text("•  " + titles.join("\n•  "), &sheet);
    list->setObjectName("standing stops");
    list->setWordWrap(true);
    list->setMinimumWidth(460);
    list->setFont(type::font(type::strong, QFont::Medium));
    column->addWidget(list);
    column->addWidget(
        caption_label("Fix these first, or give a reason. The reason is kept in the record of the run.", &sheet));
    auto* reason = new QLineEdit(&sheet);
    reason->setObjectName("arm reason");
    reason->setAccessibleName("Reason to arm anyway");
    reason->setPlaceholderText("reason to go on all the same");
    column->addWidget(reason);
    auto* row = new QHBoxLayout;
    auto* go_on = new QPushButton("Arm anyway", &sheet);
    go_on->setObjectName("arm in spite");
    go_on->setProperty("danger", true);
    go_on->setEnabled(false);
    go_on->setToolTip("Write the reason first");
    auto* back = new QPushButton("Back to the findings", &sheet);
    back->setObjectName("do not arm");
    back->setDefault(true);
    row->addWidget(go_on);
    row->addStretch();
    row->addWidget(back);
    column->addLayout(row);
    connect(reason, &QLineEdit::textChanged, go_on, [go_on](const QString& text) {
      go_on->setEnabled(text.trimmed().size() >= qsizetype{arc::Arming::shortest_reason});
      go_on->setToolTip(go_on->isEnabled() ? QString() : "Write the reason first");
    });
    connect(go_on, &QPushButton::clicked, &sheet, &QDialog::accept);
    connect(back, &QPushButton::clicked, &sheet, &QDialog::reject);
    if (sheet.exec() != QDialog::Accepted) return false;
    *why = reason->text();
    return true;
  }
  void start_run() {
    firing().start_run();
    stop_->setFocus();
  }
  void stop_run() {
    firing().stop_run();
    for (QuantityField* field : fields_) field->refresh();
    disarm_->setFocus();
  }
  void disarm() {
    firing().disarm();
    if (!fields_.empty()) fields_.front()->setFocus();
  }

  void log_run() {
    for (QuantityField* field : fields_)
      if (!field->commit()) {
        field->setFocus();
        return;
      }
    firing().log();
    show_draft();
  }

  Firing& firing() { return workspace_.firing; }

  Workspace& workspace_;
  QStackedWidget* pages_ = nullptr;
  StateBanner* banner_ = nullptr;
  BenchList* checks_ = nullptr;
  std::vector<QCheckBox*> boxes_;
  std::vector<QLabel*> texts_;
  std::vector<std::string> check_keys_; // of the boxes, in their order
  QPushButton* arm_ = nullptr;
  QPushButton* take_ = nullptr; // examples, while there are any
  QPushButton* start_ = nullptr;
  QPushButton* stop_ = nullptr;
  QPushButton* disarm_ = nullptr;
  QPushButton* log_ = nullptr;
  QPushButton* give_up_ = nullptr;
  AfterPower* after_ = nullptr;
  QButtonGroup* tabs_ = nullptr;
  QLineEdit* failed_ = nullptr;
  QPlainTextEdit* notes_ = nullptr;
  std::vector<QuantityField*> fields_;
  std::vector<std::pair<const arc::RunField*, QWidget*>> observations_;
  QGridLayout* observed_grid_ = nullptr;
  std::string shown_kind_;
  State shown_state_ = State::disarmed;
  QTimer clock_;
};

} // namespace

QWidget* make_fire_stage(Workspace& workspace, QWidget* parent) {
  return new FireStage(workspace, parent);
}

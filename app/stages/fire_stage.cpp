// Fire: the checks before power, a large armed state that opens only with all of them ticked, the run timer,
// what was observed, and the record of runs with comparison, chart and CSV.
#include "craft/kind.h"
#include "stages/first_fault_sheet.h"
#include "stages/run_record.h"
#include "stages/run_sheet.h"
#include "stages/stage.h"
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
#include <QLabel>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QStackedWidget>
#include <QTimer>
#include <algorithm>

namespace {

/// The banner that says SAFE or ARMED in letters readable from the bench, by word, shape and colour.
class StateBanner : public QWidget {
 public:
  StateBanner(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("state");
    setFixedHeight(74);
    set_state("NOT ARMED", "tick every check to arm", false);
  }
  void set_state(const QString& word, const QString& detail, bool armed) {
    word_ = word;
    detail_ = detail;
    armed_ = armed;
    setAccessibleName(word + ", " + detail);
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& t = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QColor colour = armed_ ? t.stop : t.settled;
    painter.setPen(QPen(colour, 2.5, armed_ ? Qt::SolidLine : Qt::DashLine));
    painter.setBrush(armed_ ? colour : t.card);
    painter.drawRoundedRect(QRectF(rect()).adjusted(2, 2, -2, -2), 8, 8);
    painter.setPen(armed_ ? t.paper : colour);
    painter.setFont(type::font(type::bench + 4, QFont::DemiBold));
    painter.drawText(rect().adjusted(20, 0, 0, -20), Qt::AlignLeft | Qt::AlignVCenter, word_);
    painter.setFont(type::font(type::strong, QFont::Medium));
    painter.drawText(rect().adjusted(20, 40, -10, 0), Qt::AlignLeft | Qt::AlignVCenter, detail_);
  }

 private:
  Workspace& workspace_;
  QString word_;
  QString detail_;
  bool armed_ = false;
};

// A text of several lines that no neighbour may squeeze.
class WholeText : public QLabel {
 public:
  explicit WholeText(QWidget* parent) : QLabel(parent) {
    setTextFormat(Qt::PlainText);
    setWordWrap(true);
  }
  QSize minimumSizeHint() const override { return {QLabel::minimumSizeHint().width(), heightForWidth(width())}; }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    QLabel::resizeEvent(event);
    updateGeometry();
  }
};

class FireStage : public QWidget {
 public:
  FireStage(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("fire");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 10, space::medium, space::small);
    column->setSpacing(space::small);
    auto* tabs = new QHBoxLayout;
    tabs->setSpacing(space::hair);
    auto* group = new QButtonGroup(this);
    pages_ = new QStackedWidget(this);
    for (const char* name : {"Run", "Record"}) {
      auto* button = new QPushButton(name, this);
      button->setObjectName(QString("fire page %1").arg(name));
      button->setCheckable(true);
      button->setChecked(group->buttons().isEmpty());
      group->addButton(button, static_cast<int>(group->buttons().size()));
      tabs->addWidget(button);
    }
    connect(group, &QButtonGroup::idClicked, pages_, &QStackedWidget::setCurrentIndex);
    tabs->addStretch();
    auto* fault = new QPushButton("It does not do what it should…", this);
    fault->setObjectName("first fault");
    fault->setProperty("link", true);
    fault->setToolTip("A walk through the usual faults in order, with this coil's numbers (Ctrl+F)");
    connect(fault, &QPushButton::clicked, this, [this] { show_first_fault_sheet(workspace_, this); });
    tabs->addWidget(fault);
    column->addLayout(tabs);
    pages_->addWidget(make_run_page());
    pages_->addWidget(make_run_record(workspace, this));
    column->addWidget(pages_, 1);
    clock_.setInterval(100);
    connect(&clock_, &QTimer::timeout, this, &FireStage::show_state);
    connect(&workspace_.document, &Document::analysis_changed, this, &FireStage::refresh);
    connect(&workspace_.document, &Document::opened, this, &FireStage::show_draft);
    connect(&workspace_.document, &Document::draft_found, this, &FireStage::show_draft);
    connect(&workspace_.firing, &Firing::changed, this, &FireStage::show_state);
    connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
    refresh();
    show_draft();
  }

 private:
  using State = arc::ArmState;

  QWidget* make_run_page() {
    auto* page = new QWidget(this);
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(space::large);
    row->addLayout(make_checks(page), 3);
    auto* right = new QVBoxLayout;
    right->setSpacing(4);
    right->addLayout(make_buttons(page));
    right->addWidget(heading("After power", page));
    after_ = new WholeText(page);
    after_->setObjectName("after power");
    right->addWidget(after_);
    right->addWidget(heading("Observed", page));
    right->addLayout(make_observed(page));
    make_notes(page);
    right->addWidget(failed_);
    auto* below = new QHBoxLayout;
    below->addWidget(notes_, 1);
    below->addLayout(make_ends(page));
    right->addLayout(below, 1);
    row->addLayout(right, 4);
    return page;
  }

  static QLabel* heading(const QString& words, QWidget* page) {
    auto* title = make_text(words, page);
    title->setFont(type::font(type::strong, QFont::DemiBold));
    return title;
  }

  QLayout* make_checks(QWidget* page) {
    auto* left = new QVBoxLayout;
    left->setSpacing(space::small);
    banner_ = new StateBanner(workspace_, page);
    left->addWidget(banner_);
    left->addWidget(heading("Before power", page));
    auto* scroll = new QScrollArea(page);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* holder = new QWidget(scroll);
    checks_ = new QVBoxLayout(holder);
    checks_->setContentsMargins(0, 0, space::small, 0);
    checks_->setSpacing(space::hair);
    scroll->setWidget(holder);
    left->addWidget(scroll, 1);
    return left;
  }

  QLayout* make_buttons(QWidget* page) {
    auto* buttons = new QGridLayout;
    buttons->setSpacing(space::small);
    const auto add_button = [&](const char* name, const char* text, const char* look, int r, int c,
                                void (FireStage::*action)()) {
      auto* button = new QPushButton(text, page);
      button->setObjectName(name);
      button->setMinimumHeight(42);
      if (*look) button->setProperty(look, true);
      connect(button, &QPushButton::clicked, this, action);
      buttons->addWidget(button, r, c);
      return button;
    };
    arm_ = add_button("arm", "Arm", "danger", 0, 0, &FireStage::arm);
    start_ = add_button("start run", "Start the run", "primary", 0, 1, &FireStage::start_run);
    stop_ = add_button("stop run", "Stop", "primary", 0, 2, &FireStage::stop_run);
    disarm_ = add_button("disarm", "Disarm", "", 0, 3, &FireStage::disarm);
    return buttons;
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
    failed_->setAccessibleName("What tripped, smelt or died");
    failed_->setPlaceholderText("what tripped, smelt or died");
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
    auto* ends = new QVBoxLayout;
    ends->setSpacing(space::hair);
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
    while (QLayoutItem* item = checks_->takeAt(0)) {
      delete item->widget();
      delete item;
    }
    for (const arc::CheckItem& item : items) {
      auto* line = new QWidget(this);
      auto* box = new QCheckBox(line);
      box->setObjectName("check " + QString::fromStdString(item.key));
      auto* row = new QHBoxLayout(line);
      row->setContentsMargins(0, 2, 0, 2);
      row->setSpacing(space::small);
      auto* text = make_text({}, line);
      text->setWordWrap(true);
      text->setBuddy(box);
      connect(box, &QCheckBox::toggled, this, [this, key = item.key](bool on) { firing().tick(key, on); });
      row->addWidget(box, 0, Qt::AlignTop);
      row->addWidget(text, 1);
      checks_->addWidget(line);
      boxes_.push_back(box);
      texts_.push_back(text);
      check_keys_.push_back(item.key);
    }
    if (!items.empty()) checks_->addStretch();
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
    QStringList after;
    for (const std::string& step : arc::steps_after_power(workspace_.document.design(), *analysis,
                                                          workspace_.document.power_of_kind(), workspace_.units()))
      after << QString("%1. %2").arg(after.size() + 1).arg(QString::fromStdString(step));
    after_->setText(after.join("\n"));
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
    const int open = arming.open_checks();
    const QString seconds = QString("%1 s").arg(firing().seconds(), 0, 'f', 1);
    for (std::size_t i = 0; i < boxes_.size(); ++i) {
      const QSignalBlocker quiet(boxes_[i]);
      boxes_[i]->setChecked(arming.ticked(check_keys_[i]));
      boxes_[i]->setEnabled(state <= State::armed);
      texts_[i]->setEnabled(arming.figures() == arc::Figures::there); // else of the design before the last change
    }
    after_->setEnabled(arming.figures() == arc::Figures::there || arming.powered());
    switch (state) {
    case State::disarmed:
    case State::checking:
      banner_->set_state("NOT ARMED",
                         arming.figures() == arc::Figures::outstanding ? "figures are being computed"
                         : open > 0 ? QString("%1 of %2 checks open").arg(open).arg(boxes_.size())
                                    : "all checks ticked",
                         false);
      break;
    case State::armed:
      banner_->set_state("ARMED", "coil may be powered; press Start when it is", true);
      break;
    case State::running:
      banner_->set_state("RUNNING  " + seconds, "Stop when the switch is off", true);
      break;
    case State::after:
      banner_->set_state(text_of(arc::kind_of(workspace_.document.design()).after_run),
                         arming.draft().run.observations.contains("duration_s")
                             ? "ran " + seconds + "; do the steps below, then Disarm"
                             : "it was live when the window ended; do the steps below, then Disarm",
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
    after_->setFont(type::font(type::body, state == State::after ? QFont::DemiBold : QFont::Normal));
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
    sheet.setWindowTitle("Findings forbid to arm");
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
    column->addWidget(caption_label(
        "Mend them first. If you know better, say why; it is kept in the record of the run.", &sheet));
    auto* reason = new QLineEdit(&sheet);
    reason->setObjectName("arm reason");
    reason->setAccessibleName("Reason to arm in spite of these findings");
    reason->setPlaceholderText("reason to go on all the same");
    column->addWidget(reason);
    auto* row = new QHBoxLayout;
    auto* go_on = new QPushButton("Arm in spite of them", &sheet);
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
  QVBoxLayout* checks_ = nullptr;
  std::vector<QCheckBox*> boxes_;
  std::vector<QLabel*> texts_;
  std::vector<std::string> check_keys_; // of the boxes, in their order
  QPushButton* arm_ = nullptr;
  QPushButton* start_ = nullptr;
  QPushButton* stop_ = nullptr;
  QPushButton* disarm_ = nullptr;
  QPushButton* log_ = nullptr;
  QPushButton* give_up_ = nullptr;
  QLabel* after_ = nullptr;
  QLineEdit* failed_ = nullptr;
  QPlainTextEdit* notes_ = nullptr;
  std::vector<QuantityField*> fields_;
  std::vector<std::pair<const arc::RunField*, QWidget*>> observations_;
  QGridLayout* observed_grid_ = nullptr;
  std::string shown_kind_;
  QTimer clock_;
};

} // namespace

QWidget* make_fire_stage(Workspace& workspace, QWidget* parent) {
  return new FireStage(workspace, parent);
}

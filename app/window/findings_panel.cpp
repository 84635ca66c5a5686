// Stops, then warnings, then what is folded: notes, and what the builder has dismissed.
#include "window/findings_panel.h"

#include "toolkit/common.h"
#include "toolkit/text.h"
#include "window/finding_card.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <algorithm>

namespace {

constexpr int wide = 318, wide_in_narrow_windows = 262, nothing_to_say = 132;

// Findings of one cause: on the same field of the same stage.
bool same_cause(const arc::Finding& a, const arc::Finding& b) {
  return !a.field.empty() && a.field == b.field && a.stage == b.stage && a.severity == b.severity;
}

// Those of one cause beside each other, at the place of the first.
std::vector<arc::Finding> grouped(const std::vector<arc::Finding>& findings) {
  std::vector<arc::Finding> out;
  for (const arc::Finding& finding : findings) {
    const auto last = std::find_if(out.rbegin(), out.rend(), [&](const auto& o) { return same_cause(o, finding); });
    out.insert(last == out.rend() ? out.end() : last.base(), finding);
  }
  return out;
}

} // namespace

FindingsPanel::FindingsPanel(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("findings");
  setAccessibleName("Findings");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(space::large, 14, space::small, space::medium);
  layout->setSpacing(space::small);
  layout->addLayout(make_head());
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFocusPolicy(Qt::NoFocus);
  list_ = new QWidget(scroll);
  cards_ = new QVBoxLayout(list_);
  cards_->setContentsMargins(0, 0, space::small, 0);
  cards_->setSpacing(space::small);
  scroll->setWidget(list_);
  layout->addWidget(scroll, 1);
  layout->addWidget(make_waiting());
  next_title_ = make_text("Measure next", this);
  next_title_->setFont(type::font(type::body, QFont::DemiBold));
  layout->addWidget(next_title_);
  next_ = make_text(this);
  next_->setObjectName("measure next");
  next_->setWordWrap(true);
  next_->setProperty("caption", true);
  next_->setFont(type::font(type::caption));
  next_->setContentsMargins(0, 0, space::medium, 0);
  layout->addWidget(next_);
  layout->addLayout(make_links());
  connect(&workspace_.document, &Document::analysis_changed, this, &FindingsPanel::refresh);
  connect(&workspace_.document, &Document::power_changed, this, &FindingsPanel::refresh);
  connect(&workspace_.document, &Document::design_changed, this, [this] {
    for (FindingCard* card : shown_) card->show_age();
  });
  connect(&workspace_, &Workspace::theme_changed, this, &FindingsPanel::refresh);
  refresh();
}

QLayout* FindingsPanel::make_head() {
  auto* head = new QHBoxLayout;
  title_ = make_text("Findings", this);
  QLabel* title = title_;
  title->setFont(type::font(type::strong, QFont::DemiBold));
  count_ = make_text(this);
  count_->setProperty("caption", true);
  count_->setContentsMargins(0, 0, space::medium, 0);
  head->addWidget(title);
  head->addWidget(count_);
  head->addStretch();
  auto* either = new QButtonGroup(this);
  const auto choice = [&](const char* name, const char* words, const char* tip) {
    auto* button = new QPushButton(words, this);
    button->setObjectName(name);
    button->setToolTip(tip);
    button->setCheckable(true);
    button->setProperty("narrow", true);
    button->setMinimumWidth(40);
    button->setFont(type::font(type::caption));
    either->addButton(button);
    head->addWidget(button);
    connect(button, &QPushButton::clicked, this, &FindingsPanel::refresh);
    return button;
  };
  all_ = choice("findings of all stages", "All", "Findings of every stage");
  here_ = choice("findings of this stage", "Here", "Findings of this stage, and every stop");
  all_->setChecked(true);
  return head;
}

// Most designs take tenths of a second; what takes longer is said, and can be ended.
QWidget* FindingsPanel::make_waiting() {
  waiting_ = new QWidget(this);
  auto* wait_row = new QHBoxLayout(waiting_);
  wait_row->setContentsMargins(0, 0, space::medium, 0);
  wait_text_ = make_text(waiting_);
  wait_text_->setObjectName("simulating");
  wait_text_->setProperty("caption", true);
  wait_row->addWidget(wait_text_, 1);
  auto* cancel = new QPushButton("Cancel", waiting_);
  cancel->setObjectName("cancel any simulation");
  cancel->setProperty("link", true);
  cancel->setToolTip(
      "Ends the simulation; what is not known then counts as a stop at Fire. Any change starts it again");
  connect(cancel, &QPushButton::clicked, this, [this] { workspace_.document.cancel_simulation(); });
  wait_row->addWidget(cancel);
  waiting_->hide();
  late_.setInterval(1000);
  connect(&late_, &QTimer::timeout, this, [this] {
    const auto done = static_cast<int>(100 * workspace_.document.simulation_progress());
    wait_text_->setText(QString("The coil is being simulated, %1 % done").arg(done));
    waiting_->show();
  });
  return waiting_;
}

QLayout* FindingsPanel::make_links() {
  auto* cautions = new QPushButton("Cautions", this);
  cautions->setObjectName("cautions");
  cautions->setProperty("link", true);
  cautions->setToolTip("What can hurt at this stage (Ctrl+K)");
  connect(cautions, &QPushButton::clicked, this, &FindingsPanel::cautions_requested);
  auto* about = new QPushButton("What is this?", this);
  about->setObjectName("about stage");
  about->setProperty("link", true);
  about->setToolTip("What this stage is for, and what to begin with (Ctrl+F1)");
  connect(about, &QPushButton::clicked, this, &FindingsPanel::about_requested);
  links_ = new QBoxLayout(QBoxLayout::LeftToRight);
  links_->addWidget(cautions);
  links_->addStretch();
  links_->addWidget(about);
  links_->setContentsMargins(0, 0, space::medium, 0);
  return links_;
}

void FindingsPanel::refresh() {
  if (!workspace_.document.simulating()) {
    late_.stop();
    waiting_->hide();
  } else if (!late_.isActive()) {
    late_.start();
  }
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  show_cards();
  fit(window_width_);
  next_title_->setVisible(analysis->next_measurement.has_value() && !stops_only_);
  next_->setVisible(analysis->next_measurement.has_value() && !stops_only_);
  if (const auto& next = analysis->next_measurement) {
    const auto hz = [&](double value) {
      return QString::fromStdString(arc::format_quantity(value, arc::Dimension::frequency, workspace_.units(), 2));
    };
    QString text = QString::fromStdString(next->advice);
    text[0] = text[0].toUpper();
    const bool worth_it = next->band_then_hz < 0.9 * next->band_now_hz;
    const bool contradicted = std::ranges::any_of(
        analysis->evidence, [](const arc::Evidence& e) { return std::abs(e.misfit) > 3; }); // as the finding says
    next_->setText(
        contradicted
            ? QString(
                  "A measurement does not fit: until that is cleared up no band of the resonance is to be trusted.")
        : worth_it
            ? QString("%1: the resonance would be known to ± %2 instead of ± %3.")
                  .arg(text, hz(next->band_then_hz), hz(next->band_now_hz))
            : QString("The resonance is known to ± %1; no single dimension measured better would narrow that much.")
                  .arg(hz(next->band_now_hz)));
  }
  show_count();
}

// Stops of all stages are always told; the rest as the builder has chosen, and on Fire not at all.
bool FindingsPanel::is_told(const arc::Finding& finding) const {
  if (finding.severity == arc::Severity::stop) return true;
  return !stops_only_ && (!here_->isChecked() || finding.stage == stage_);
}

void FindingsPanel::show_count() {
  const auto& findings = workspace_.document.findings();
  const auto open = std::ranges::count_if(
      findings, [this](const arc::Finding& f) { return f.dismissed.empty() && (!stops_only_ || is_told(f)); });
  count_->setText(open == 0 ? QString("none") : QString("%1 open").arg(open));
}

void FindingsPanel::show_stage(const QString& key, bool stops_only) {
  stage_ = key.toStdString();
  stops_only_ = stops_only;
  title_->setText(stops_only_ ? "Stops" : "Findings");
  refresh();
}

void FindingsPanel::fit(int window_width) {
  window_width_ = window_width;
  constexpr int narrow_window = 1180;
  const bool nothing =
      (stops_only_ ? shown_.empty() : workspace_.document.findings().empty()) && waiting_->isHidden();
  links_->setDirection(nothing ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
  for (QPushButton* choice : {all_, here_}) choice->setVisible(!nothing && !stops_only_);
  setFixedWidth(nothing ? nothing_to_say : window_width < narrow_window ? wide_in_narrow_windows : wide);
}

void FindingsPanel::enter() {
  const auto& findings = workspace_.document.findings();
  const auto open = std::ranges::find_if(findings, [](const arc::Finding& f) { return f.dismissed.empty(); });
  if (shown_.empty() && open != findings.end()) { // they are told at their stage
    all_->setChecked(true);
    workspace_.go_to(QString::fromStdString(open->stage), {});
  }
  if (!shown_.empty()) shown_.front()->take_focus();
}

FoldLine* FindingsPanel::add_fold(const QString& name, const QString& words, bool* open) {
  auto* fold = new FoldLine(workspace_, list_);
  fold->setObjectName(name);
  fold->setText(words);
  fold->setAccessibleName(words);
  fold->set_fold(true, *open);
  connect(fold, &QAbstractButton::clicked, this, [this, fold, open] {
    *open = !*open;
    fold->set_fold(true, *open);
    show_folds();
  });
  cards_->addWidget(fold);
  return fold;
}

// What is folded is not seen: notes, what is dismissed, and findings of the same cause as one that is folded.
void FindingsPanel::show_folds() {
  for (std::size_t i = 0; i < shown_.size(); ++i) {
    const arc::Finding& finding = shown_[i]->finding();
    bool seen = !finding.dismissed.empty()                ? dismissed_open_
                : finding.severity == arc::Severity::note ? notes_open_
                                                          : true;
    const bool follows = i > 0 && finding.dismissed.empty() && shown_[i - 1]->finding().dismissed.empty() &&
                         finding.severity != arc::Severity::stop && same_cause(shown_[i - 1]->finding(), finding);
    lead_[i] = follows ? lead_[i - 1] : i;
    if (follows) seen = seen && shown_[lead_[i]]->is_open();
    shown_[i]->setVisible(seen);
  }
  for (std::size_t i = 0; i < shown_.size(); ++i)
    shown_[i]->set_others(lead_[i] == i ? static_cast<int>(std::ranges::count(lead_, i)) - 1 : 0);
}

void FindingsPanel::show_cards() {
  std::vector<arc::Finding> told, notes, dismissed;
  for (const arc::Finding& finding : grouped(workspace_.document.findings()))
    if (is_told(finding))
      (!finding.dismissed.empty()                ? dismissed
       : finding.severity == arc::Severity::note ? notes
                                                 : told)
          .push_back(finding);
  const std::size_t first_note = told.size(), first_dismissed = first_note + notes.size();
  told.insert(told.end(), notes.begin(), notes.end());
  told.insert(told.end(), dismissed.begin(), dismissed.end());
  const bool same = !told.empty() && told.size() == shown_.size() && first_note_ == first_note &&
                    std::ranges::equal(shown_, told, [](const FindingCard* card, const arc::Finding& finding) {
                      return card->fits(finding);
                    });
  if (same) {
    for (std::size_t i = 0; i < told.size(); ++i) shown_[i]->tell(told[i]);
    return show_folds();
  }
  // Cards are made anew: the keyboard stays where it was.
  const QString focused =
      list_->focusWidget() && list_->focusWidget()->hasFocus() ? list_->focusWidget()->objectName() : QString();
  shown_.clear();
  first_note_ = first_note;
  while (QLayoutItem* item = cards_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  for (std::size_t i = 0; i < told.size(); ++i) {
    const auto count = [](std::size_t n, const char* what) {
      return QString("%1 %2%3").arg(n).arg(what, n == 1 ? "" : "s");
    };
    if (i == first_note && !notes.empty()) add_fold("fold notes", count(notes.size(), "note"), &notes_open_);
    if (i == first_dismissed)
      add_fold("fold dismissed", QString("%1 dismissed").arg(dismissed.size()), &dismissed_open_);
    add_card(told[i]);
  }
  lead_.assign(shown_.size(), 0);
  show_folds();
  if (told.empty()) {
    auto* none = make_text(stops_only_          ? "No stop stands."
                           : here_->isChecked() ? "None on this stage."
                                                : "No findings.",
                           list_);
    none->setWordWrap(true);
    none->setProperty("caption", true);
    cards_->addWidget(none);
  }
  cards_->addStretch();
  if (!focused.isEmpty())
    if (auto* again = list_->findChild<QWidget*>(focused); again && !again->isHidden()) again->setFocus();
}

void FindingsPanel::add_card(const arc::Finding& finding) {
  auto* card = new FindingCard(workspace_, finding, list_);
  if (finding.severity != arc::Severity::stop) card->set_open(unfolded_.contains(finding.id));
  connect(card, &FindingCard::folded, this, [this, id = finding.id](bool open) {
    if (open)
      unfolded_.insert(id);
    else
      unfolded_.erase(id);
    show_folds();
  });
  shown_.push_back(card);
  cards_->addWidget(card);
}

// Symptom, question, answer; ends in a cure or in what to measure next.
#include "stages/first_fault_sheet.h"

#include "craft/kind.h"
#include "toolkit/common.h"
#include "toolkit/text.h"
#include "workshop/first_fault.h"

#include <QComboBox>
#include <QDateTime>
#include <QDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace {

class FirstFaultSheet : public QDialog {
 public:
  FirstFaultSheet(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
    setObjectName("first fault sheet");
    setWindowTitle("Troubleshooting");
    setAttribute(Qt::WA_DeleteOnClose);
    resize(620, 400);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    symptom_ = new QComboBox(this);
    symptom_->setObjectName("symptom");
    symptom_->setAccessibleName("What is wrong");
    for (const arc::FaultSymptom& each : symptoms()) symptom_->addItem(text_of(each.title));
    connect(symptom_, &QComboBox::currentIndexChanged, this, &FirstFaultSheet::begin);
    column->addWidget(captioned("What is wrong", symptom_, this));
    column->addWidget(
        caption_label("Common practice, no source. Every step with the supply unplugged and everything "
                      "discharged unless it says otherwise; none is ever called safe.",
                      this));
    place_ = caption_label({}, this);
    place_->setObjectName("fault place");
    column->addWidget(place_);
    live_ = make_text(this);
    live_->setObjectName("fault live");
    live_->setFont(type::font(type::body, QFont::Bold));
    live_->setWordWrap(true);
    column->addWidget(live_);
    question_ = make_text(this);
    question_->setObjectName("fault question");
    question_->setFont(type::font(type::heading, QFont::DemiBold));
    question_->setWordWrap(true);
    column->addWidget(question_);
    how_ = make_text(this);
    how_->setObjectName("fault how");
    how_->setWordWrap(true);
    column->addWidget(how_);
    column->addStretch();
    auto* answers = new QHBoxLayout;
    yes_ = add_sheet_button(this, answers, "fault yes", "Yes", [this] { answer(arc::FaultAnswer::yes); });
    no_ = add_sheet_button(this, answers, "fault no", "No", [this] { answer(arc::FaultAnswer::no); });
    unknown_ = add_sheet_button(this, answers, "fault unknown", "Cannot tell",
                                [this] { answer(arc::FaultAnswer::cannot_tell); });
    apply_ = add_sheet_button(this, answers, "fault apply", "Do it in the design", [this] { apply(); });
    show_ = add_sheet_button(this, answers, "fault show", "Go to it", [this] { show_where(); });
    answers->addStretch();
    back_ = add_sheet_button(this, answers, "fault back", "Back", [this] {
      walk_.back();
      refresh();
    });
    column->addLayout(answers);
    auto* below = new QHBoxLayout;
    keep_ = add_sheet_button(this, below, "fault keep", "Keep in the record", [this] { keep(); });
    below->addStretch();
    add_sheet_button(this, below, "fault close", "Close", [this] { accept(); });
    column->addLayout(below);
    begin();
  }

  void choose(const QString& key) {
    for (std::size_t i = 0; i < symptoms().size(); ++i)
      if (text_of(symptoms()[i].key) == key) symptom_->setCurrentIndex(static_cast<int>(i));
  }

 private:
  std::span<const arc::FaultSymptom> symptoms() const {
    return arc::kind_of(workspace_.document.design()).symptoms();
  }

  void begin() {
    const auto analysis = workspace_.document.analysis();
    const std::size_t i = static_cast<std::size_t>(std::max(0, symptom_->currentIndex()));
    if (!analysis || i >= symptoms().size()) return;
    const arc::FaultSymptom& symptom = symptoms()[i];
    const auto power = workspace_.document.power_is_current() ? workspace_.document.power() : nullptr;
    walk_ = {std::string(symptom.title),
             symptom.steps(workspace_.document.design(), *analysis, power.get(), workspace_.units()),
             {}};
    refresh();
    yes_->setFocus();
  }

  void answer(arc::FaultAnswer given) {
    walk_.answer(given);
    refresh();
    if (walk_.now()) return;
    for (QPushButton* next : {apply_, show_, keep_}) // Enter goes on
      if (next->isVisible()) return next->setFocus();
  }

  void refresh() {
    const arc::FaultStep* now = walk_.now();
    const arc::FaultStep* fault = walk_.fault();
    for (QPushButton* button : {yes_, no_, unknown_}) button->setVisible(now != nullptr);
    apply_->setVisible(fault && fault->apply);
    show_->setVisible(fault && !fault->stage.empty());
    back_->setEnabled(!walk_.answers.empty());
    back_->setToolTip(back_->isEnabled() ? "Takes the last answer back" : "This is the first question");
    keep_->setEnabled(!walk_.answers.empty());
    keep_->setToolTip(keep_->isEnabled() ? "As a run without figures, with questions and answers as its notes"
                                         : "Nothing has been answered yet");
    live_->setVisible(now && now->live);
    if (now && now->live) {
      const auto analysis = workspace_.document.analysis();
      live_->setStyleSheet(QString("color: %1").arg(workspace_.theme().stop.name()));
      if (analysis)
        live_->setText(QString::fromStdString(arc::live_words(
            workspace_.document.design(), *analysis, workspace_.document.power_of_kind(), workspace_.units())));
    }
    if (now) {
      place_->setText(QString("Question %1 of %2").arg(walk_.answers.size() + 1).arg(walk_.steps.size()));
      question_->setText(QString::fromStdString(now->question));
      how_->setText(QString::fromStdString(now->how));
      return;
    }
    place_->setText(fault ? "Found" : "End of the walk");
    if (fault) {
      question_->setText(QString::fromStdString(fault->cure));
      how_->setText("Then try again. If it is not cured, go back and answer on.");
      return;
    }
    QStringList open;
    for (const arc::FaultStep* step : walk_.open()) open << "• " + QString::fromStdString(step->question);
    question_->setText(open.isEmpty() ? "Nothing of the usual was found" : "Measure next what could not be told");
    how_->setText(open.isEmpty() ? "Look at the findings on the right, and compare the last two runs of the record."
                                 : open.join("\n"));
  }

  void apply() {
    if (const arc::FaultStep* fault = walk_.fault(); fault && fault->apply)
      workspace_.document.edit(QString::fromStdString(fault->cure), fault->apply);
  }

  void show_where() {
    const arc::FaultStep* fault = walk_.fault();
    if (!fault) return;
    Q_EMIT workspace_.go_to_requested(QString::fromStdString(fault->stage), QString::fromStdString(fault->field));
    accept();
  }

  void keep() {
    const std::string when = QDateTime::currentDateTime().toString(Qt::ISODate).toStdString();
    workspace_.document.edit("First-fault walk", [&](arc::Design& design) {
      arc::Run run;
      run.when = when;
      run.notes = walk_.words();
      design.runs.push_back(run);
    });
    keep_->setEnabled(false);
    keep_->setToolTip("Kept");
  }

  Workspace& workspace_;
  arc::FaultWalk walk_;
  QComboBox* symptom_ = nullptr;
  QLabel* place_ = nullptr;
  QLabel* live_ = nullptr; // over a step that needs power, in the stop colour
  QLabel* question_ = nullptr;
  QLabel* how_ = nullptr;
  QPushButton* yes_ = nullptr;
  QPushButton* no_ = nullptr;
  QPushButton* unknown_ = nullptr;
  QPushButton* apply_ = nullptr;
  QPushButton* show_ = nullptr;
  QPushButton* back_ = nullptr;
  QPushButton* keep_ = nullptr;
};

} // namespace

void show_first_fault_sheet(Workspace& workspace, QWidget* parent, const QString& symptom) {
  auto* sheet = new FirstFaultSheet(workspace, parent);
  sheet->choose(symptom);
  sheet->open();
}

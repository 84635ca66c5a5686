// Findings as quiet cards under one another; severity by shape and word as well as colour.
#include "window/findings_panel.h"

#include "analysis/findings.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/link_button.h"
#include "toolkit/text.h"
#include "workshop/shelf_note.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <algorithm>

namespace {

/// Severity badge: octagon with "!" for stop, triangle for warning, ring for note.
class Badge : public QWidget {
 public:
  Badge(Workspace& workspace, arc::Severity severity, QWidget* parent)
      : QWidget(parent), workspace_(workspace), severity_(severity) {
    setFixedSize(20, 20);
    const auto name = arc::severity_name(severity);
    setAccessibleName(text_of(name));
    setToolTip(accessibleName());
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& theme = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QColor colour = severity_ == arc::Severity::stop      ? theme.stop
                          : severity_ == arc::Severity::warning ? theme.warn
                                                                : theme.second;
    painter.setPen(QPen(colour, 1.6));
    if (severity_ == arc::Severity::stop) {
      painter.setBrush(colour);
      painter.drawPolygon(QPolygonF{{7, 2}, {13, 2}, {18, 7}, {18, 13}, {13, 18}, {7, 18}, {2, 13}, {2, 7}});
      painter.setPen(theme.paper);
    } else if (severity_ == arc::Severity::warning) {
      painter.drawPolygon(QPolygonF{{10, 2}, {18.5, 17}, {1.5, 17}});
    } else {
      painter.drawEllipse(QRectF(3, 3, 14, 14));
    }
    painter.setFont(type::font(11, QFont::DemiBold));
    painter.drawText(severity_ == arc::Severity::warning ? rect().adjusted(0, 3, 0, 0) : rect(), Qt::AlignCenter,
                     severity_ == arc::Severity::note ? "i" : "!");
  }

 private:
  Workspace& workspace_;
  arc::Severity severity_;
};

} // namespace

// One finding. While its kind stays the same only its words change, so that dragging does not rebuild widgets.
class FindingCard : public QWidget {
 public:
  FindingCard(Workspace& workspace, const arc::Finding& finding, QWidget* parent)
      : QWidget(parent), workspace_(workspace) {
    const QString id = QString::fromStdString(finding.id);
    setObjectName("finding " + id);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 2, 0, 2);
    row->setSpacing(space::small);
    row->addWidget(new Badge(workspace_, finding.severity, this), 0, Qt::AlignTop);
    auto* column = new QVBoxLayout;
    column->setSpacing(2);
    const auto add_label = [&](int size, QFont::Weight weight) {
      auto* label = make_text(this);
      label->setWordWrap(true);
      label->setFont(type::font(size, weight));
      column->addWidget(label);
      return label;
    };
    title_ = add_label(type::body, QFont::DemiBold);
    text_ = add_label(type::caption, QFont::Normal);
    text_->setProperty("caption", true);
    if (finding.apply) {
      remedy_button_ = new LinkButton(workspace_, {}, this);
      remedy_button_->setObjectName("remedy " + id);
      remedy_button_->setAccessibleDescription("Carries out the remedy; can be undone");
      connect(remedy_button_, &QAbstractButton::clicked, this, [this] {
        const arc::Finding pressed = finding_; // the edit brings new findings, and with them the end of this card
        workspace_.document.remedy(pressed);
      });
      column->addWidget(remedy_button_);
    } else {
      remedy_label_ = add_label(type::caption, QFont::Medium);
    }
    auto* show = new QPushButton("Show where", this);
    show->setObjectName("show " + id);
    show->setProperty("link", true);
    show->setFont(type::font(type::caption));
    connect(show, &QPushButton::clicked, this, [this] {
      workspace_.go_to(QString::fromStdString(finding_.stage), QString::fromStdString(finding_.field));
    });
    column->addWidget(show, 0, Qt::AlignLeft);
    row->addLayout(column, 1);
    veil_ = new Veil(workspace, this);
    tell(finding);
  }

  bool fits(const arc::Finding& finding) const {
    return finding.id == finding_.id && finding.severity == finding_.severity &&
           static_cast<bool>(finding.apply) == static_cast<bool>(finding_.apply);
  }

  // Words of an earlier design are greyed, and their remedy cannot be pressed.
  void show_age() {
    const bool current = workspace_.document.is_current(finding_);
    for (QWidget* part : {static_cast<QWidget*>(title_), static_cast<QWidget*>(text_),
                          static_cast<QWidget*>(remedy_button_), static_cast<QWidget*>(remedy_label_)})
      if (part && part->isEnabled() != current) part->setEnabled(current);
    veil_->cover(!current && finding_.of_power); // the others are there again before it could be seen
    if (remedy_button_)
      remedy_button_->setToolTip(current ? QString() : "Being computed anew for the changed design");
  }

  // Whether the shelf has what the remedy takes.
  QString shelf_words(const arc::Finding& finding) const {
    if (!finding.apply) return {};
    const arc::Design& before = workspace_.document.design();
    arc::Design after = before;
    finding.apply(after);
    const std::string note = arc::shelf_note(before, after, workspace_.shelf.shelf(), workspace_.units());
    return note.empty() ? QString() : " " + QString::fromStdString(note);
  }

  void tell(const arc::Finding& finding) {
    finding_ = finding;
    title_->setText(QString::fromStdString(finding.title));
    text_->setText(QString::fromStdString(finding.text) + shelf_words(finding));
    const QString remedy = QString::fromStdString(finding.remedy);
    if (remedy_button_ && remedy_button_->text() != remedy) {
      remedy_button_->setText(remedy);
      remedy_button_->setAccessibleName(remedy);
      remedy_button_->updateGeometry();
    }
    if (remedy_label_) {
      remedy_label_->setText(remedy);
      remedy_label_->setVisible(!remedy.isEmpty());
    }
    show_age();
  }

 private:
  Workspace& workspace_;
  arc::Finding finding_;
  Veil* veil_ = nullptr;
  QLabel* title_ = nullptr;
  QLabel* text_ = nullptr;
  LinkButton* remedy_button_ = nullptr;
  QLabel* remedy_label_ = nullptr;
};

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
  auto* title = make_text("Findings", this);
  title->setFont(type::font(type::strong, QFont::DemiBold));
  count_ = make_text(this);
  count_->setProperty("caption", true);
  count_->setContentsMargins(0, 0, space::medium, 0);
  head->addWidget(title);
  head->addStretch();
  head->addWidget(count_);
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
      "Ends the simulation; what is not known then counts as a stop at Fire. Any change begins it anew");
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
  auto* links = new QHBoxLayout;
  links->addWidget(cautions);
  links->addStretch();
  links->addWidget(about);
  links->setContentsMargins(0, 0, space::medium, 0);
  return links;
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
  const auto& findings = workspace_.document.findings();
  show_cards(findings);
  next_title_->setVisible(analysis->next_measurement.has_value());
  next_->setVisible(analysis->next_measurement.has_value());
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
  count_->setText(findings.empty() ? QString("none") : QString("%1 open").arg(findings.size()));
}

void FindingsPanel::show_cards(const std::vector<arc::Finding>& findings) {
  const bool same = !findings.empty() && findings.size() == shown_.size() &&
                    std::ranges::equal(shown_, findings, [](const FindingCard* card, const arc::Finding& finding) {
                      return card->fits(finding);
                    });
  if (same) {
    for (std::size_t i = 0; i < findings.size(); ++i) shown_[i]->tell(findings[i]);
    return;
  }
  // Cards are rebuilt: keep the keyboard where it was.
  const QString focused =
      list_->focusWidget() && list_->focusWidget()->hasFocus() ? list_->focusWidget()->objectName() : QString();
  shown_.clear();
  while (QLayoutItem* item = cards_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  for (const arc::Finding& finding : findings) {
    shown_.push_back(new FindingCard(workspace_, finding, list_));
    cards_->addWidget(shown_.back());
  }
  if (findings.empty()) {
    auto* none = make_text("Nothing to report. Every rule that High Arc knows is content with this design.", list_);
    none->setWordWrap(true);
    none->setProperty("caption", true);
    cards_->addWidget(none);
  }
  cards_->addStretch();
  if (!focused.isEmpty())
    if (auto* again = list_->findChild<QWidget*>(focused)) again->setFocus();
}

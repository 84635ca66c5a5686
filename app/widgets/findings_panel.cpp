// Findings as quiet cards under one another; severity by shape and word as well as colour.
#include "widgets/findings_panel.h"

#include "widgets/common.h"

#include "widgets/link_button.h"

#include <QPainter>
#include <QPushButton>
#include <QScrollArea>

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

FindingsPanel::FindingsPanel(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("findings");
  setAccessibleName("Findings");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(space::large, 14, space::small, space::medium);
  layout->setSpacing(space::small);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel("Findings", this);
  title->setFont(type::font(type::strong, QFont::DemiBold));
  count_ = new QLabel(this);
  count_->setProperty("caption", true);
  count_->setContentsMargins(0, 0, space::medium, 0);
  head->addWidget(title);
  head->addStretch();
  head->addWidget(count_);
  layout->addLayout(head);
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
  next_title_ = new QLabel("Measure next", this);
  next_title_->setFont(type::font(type::body, QFont::DemiBold));
  layout->addWidget(next_title_);
  next_ = new QLabel(this);
  next_->setObjectName("measure next");
  next_->setWordWrap(true);
  next_->setProperty("caption", true);
  next_->setFont(type::font(type::caption));
  next_->setContentsMargins(0, 0, space::medium, 0);
  layout->addWidget(next_);
  auto* cautions = new QPushButton("Cautions for this stage", this);
  cautions->setObjectName("cautions");
  cautions->setProperty("link", true);
  connect(cautions, &QPushButton::clicked, this, &FindingsPanel::cautions_requested);
  layout->addWidget(cautions, 0, Qt::AlignLeft);
  connect(&workspace_.document, &Document::analysis_changed, this, &FindingsPanel::refresh);
  connect(&workspace_, &Workspace::theme_changed, this, &FindingsPanel::refresh);
  refresh();
}

void FindingsPanel::refresh() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  // Cards are rebuilt: keep the keyboard where it was.
  const QString focused =
      list_->focusWidget() && list_->focusWidget()->hasFocus() ? list_->focusWidget()->objectName() : QString();
  while (QLayoutItem* item = cards_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  int number = 0;
  for (const arc::Finding& finding : analysis->findings) cards_->addWidget(card(finding, ++number));
  if (analysis->findings.empty()) {
    auto* none =
        new QLabel("Nothing to report. Every rule that High Arc knows is content with this design.", list_);
    none->setWordWrap(true);
    none->setProperty("caption", true);
    cards_->addWidget(none);
  }
  cards_->addStretch();
  next_title_->setVisible(analysis->next_measurement.has_value());
  next_->setVisible(analysis->next_measurement.has_value());
  if (const auto& next = analysis->next_measurement) {
    const auto hz = [&](double value) {
      return QString::fromStdString(arc::format_quantity(value, arc::Dimension::frequency, workspace_.units(), 2));
    };
    QString text = QString::fromStdString(next->advice);
    text[0] = text[0].toUpper();
    const bool worth_it = next->band_then_hz < 0.9 * next->band_now_hz;
    next_->setText(
        worth_it
            ? QString("%1: the resonance would be known to ± %2 instead of ± %3.")
                  .arg(text, hz(next->band_then_hz), hz(next->band_now_hz))
            : QString("The resonance is known to ± %1; no single dimension measured better would narrow that much.")
                  .arg(hz(next->band_now_hz)));
  }
  count_->setText(number == 0 ? "none" : QString("%1 open").arg(number));
  if (!focused.isEmpty())
    if (auto* again = list_->findChild<QWidget*>(focused)) again->setFocus();
}

QWidget* FindingsPanel::card(const arc::Finding& finding, int) {
  auto* box = new QWidget(list_);
  const QString id = QString::fromStdString(finding.id);
  box->setObjectName("finding " + id);
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(0, 2, 0, 2);
  row->setSpacing(space::small);
  row->addWidget(new Badge(workspace_, finding.severity, box), 0, Qt::AlignTop);
  auto* column = new QVBoxLayout;
  column->setSpacing(2);
  // A wrapped, pressable title: the label draws the text, the button over it takes mouse and keyboard.
  auto* title = new QLabel(QString::fromStdString(finding.title), box);
  title->setWordWrap(true);
  title->setFont(type::font(type::body, QFont::DemiBold));
  column->addWidget(title);
  auto* text = new QLabel(QString::fromStdString(finding.text), box);
  text->setWordWrap(true);
  text->setProperty("caption", true);
  text->setFont(type::font(type::caption));
  column->addWidget(text);
  if (!finding.remedy.empty()) {
    const QString remedy = QString::fromStdString(finding.remedy);
    if (finding.apply) {
      auto* button = new LinkButton(workspace_, remedy, box);
      button->setObjectName("remedy " + id);
      button->setAccessibleDescription("Carries out the remedy; can be undone");
      connect(button, &QAbstractButton::clicked, this,
              [this, apply = finding.apply, remedy] { workspace_.document.edit(remedy, apply); });
      column->addWidget(button);
    } else {
      auto* label = new QLabel(remedy, box);
      label->setWordWrap(true);
      label->setFont(type::font(type::caption, QFont::Medium));
      column->addWidget(label);
    }
  }
  auto* show = new QPushButton("Show where", box);
  show->setObjectName("show " + id);
  show->setProperty("link", true);
  show->setFont(type::font(type::caption));
  connect(show, &QPushButton::clicked, this,
          [this, stage = QString::fromStdString(finding.stage), field = QString::fromStdString(finding.field)] {
            workspace_.go_to(stage, field);
          });
  column->addWidget(show, 0, Qt::AlignLeft);
  row->addLayout(column, 1);
  return box;
}

// The rail and its entries.
#include "window/stage_rail.h"

#include "stages/stage.h"

#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

namespace {

class RailEntry : public QAbstractButton {
 public:
  RailEntry(Workspace& workspace, const StageSpec& stage, QWidget* parent)
      : QAbstractButton(parent), workspace_(workspace), stage_(stage) {
    setCheckable(true);
    setAutoExclusive(true);
    setObjectName("stage " + stage.key);
    setFixedHeight(44);
    setCursor(Qt::PointingHandCursor);
    connect(&workspace_.document, &Document::analysis_changed, this, &RailEntry::refresh);
    connect(&workspace_.document, &Document::power_changed, this, &RailEntry::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
    refresh();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& t = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (isChecked() || underMouse()) painter.fillRect(rect().adjusted(0, 3, 0, -3), isChecked() ? t.shade : t.card);
    if (isChecked()) painter.fillRect(QRect(0, 3, 3, height() - 6), t.copper);
    if (hasFocus()) {
      painter.setPen(QPen(t.arc, 1.5));
      painter.setBrush(Qt::NoBrush);
      painter.drawRoundedRect(QRectF(rect()).adjusted(5, 4, -5, -4), 4, 4);
    }
    // The line that joins the marks.
    painter.setPen(QPen(t.hairline, 1.5));
    painter.drawLine(32, 0, 32, height());
    const QPointF centre(32, height() / 2.0);
    const QColor colour = stops_ > 0 ? t.stop : warnings_ > 0 ? t.warn : settled_ ? t.settled : t.second;
    if (simulating_) { // three dots beside the words: what it finds is still to come
      painter.setPen(Qt::NoPen);
      painter.setBrush(t.second);
      for (int i = 0; i < 3 && stops_ + warnings_ == 0; ++i)
        painter.drawEllipse(QPointF(width() - 26 + 7 * i, height() / 2.0), 1.8, 1.8);
    }
    painter.setPen(QPen(colour, 2));
    painter.setBrush(settled_ && stops_ + warnings_ == 0 ? colour : t.paper);
    painter.drawEllipse(centre, 6.5, 6.5);
    painter.setFont(type::font(type::body + 1, isChecked() ? QFont::DemiBold : QFont::Normal));
    painter.setPen(settled_ || isChecked() || stops_ + warnings_ > 0 ? t.ink : t.second);
    painter.drawText(rect().adjusted(52, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, text());
    if (stops_ + warnings_ > 0) {
      painter.setFont(type::font(type::caption, QFont::DemiBold));
      painter.setPen(colour);
      painter.drawText(rect().adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter,
                       QString::number(stops_ + warnings_));
    }
  }

 private:
  void refresh() {
    if (!workspace_.document.analysis()) return;
    const auto& findings = workspace_.document.findings();
    const auto count = [&](arc::Severity severity) {
      return static_cast<int>(std::ranges::count_if(findings, [&](const arc::Finding& f) {
        return f.severity == severity && f.stage == stage_.key.toStdString();
      }));
    };
    stops_ = count(arc::Severity::stop);
    warnings_ = count(arc::Severity::warning);
    const arc::Design& design = workspace_.document.design();
    static const QStringList electrical{"tank", "switch",     "feed",     "driver", "bridge",
                                        "gate", "oscillator", "staccato", "fire"};
    simulating_ = electrical.contains(stage_.key) && !workspace_.document.figures_settled();
    settled_ = !simulating_ && (stage_.key != "tune" || !design.measurements.empty()) &&
               (stage_.key != "fire" || !design.runs.empty()) && (stage_.key != "feed" || !design.feed.empty());
    const int open = stops_ + warnings_;
    setAccessibleName(QString("%1, %2").arg(text(), open > 0      ? QString("%1 findings").arg(open)
                                                    : simulating_ ? "being simulated"
                                                    : settled_    ? "settled"
                                                                  : "untouched"));
    update();
  }

  Workspace& workspace_;
  const StageSpec& stage_;
  int stops_ = 0;
  int warnings_ = 0;
  bool settled_ = false;
  bool simulating_ = false;
};

} // namespace

StageRail::StageRail(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("rail");
  setAccessibleName("Order of work");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 10, 0, 0);
  column->setSpacing(0);
  for (const StageSpec& stage : stages()) {
    auto* entry = new RailEntry(workspace, stage, this);
    const int index = static_cast<int>(entries_.size());
    connect(entry, &QAbstractButton::clicked, this, [this, index] { Q_EMIT chosen(index); });
    column->addWidget(entry);
    entries_.push_back(entry);
  }
  column->addStretch();
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  show_kind();
}

void StageRail::show_kind() {
  const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
  int place = 0;
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    const StageSpec& stage = stages()[i];
    entries_[i]->setVisible(belongs_to(stage, kind));
    if (!belongs_to(stage, kind)) continue;
    entries_[i]->setText(title_of(stage, kind));
    entries_[i]->setToolTip(QString("%1 (Alt+%2)").arg(entries_[i]->text()).arg(++place));
  }
}

void StageRail::set_current(int index) {
  entries_[static_cast<std::size_t>(index)]->setChecked(true);
}

void StageRail::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(workspace_.theme().hairline);
  painter.drawLine(width() - 1, 0, width() - 1, height());
}

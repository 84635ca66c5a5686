// The rail and its entries.
#include "window/stage_rail.h"

#include "stages/stage.h"
#include "workshop/start.h"

#include <QAbstractButton>
#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <initializer_list>
#include <map>
#include <tuple>

// What a mark says of a stage; each has its own shape.
enum class Mark { untouched, in_work, findings, stop, confirmed };

namespace {

void paint_mark(QPainter& painter, Mark mark, QPointF at, const Theme& t) {
  const auto polygon = [&](std::initializer_list<QPointF> points) {
    QPolygonF out;
    for (const QPointF& p : points) out << at + p;
    painter.drawPolygon(out);
  };
  painter.setBrush(t.paper);
  switch (mark) {
  case Mark::untouched:
  case Mark::in_work:
    painter.setPen(QPen(t.second, 1.6));
    painter.drawEllipse(at, 6.5, 6.5);
    if (mark == Mark::untouched) break;
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.second);
    painter.drawEllipse(at, 2.8, 2.8);
    break;
  case Mark::findings:
    painter.setPen(QPen(t.warn, 2));
    polygon({{0, -7.5}, {8, 6}, {-8, 6}});
    break;
  case Mark::stop:
    painter.setPen(QPen(t.stop, 2));
    painter.setBrush(t.stop);
    polygon({{-3, -7}, {3, -7}, {7, -3}, {7, 3}, {3, 7}, {-3, 7}, {-7, 3}, {-7, -3}});
    break;
  case Mark::confirmed:
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.settled);
    painter.drawEllipse(at, 8, 8);
    painter.setPen(QPen(t.paper, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(QPolygonF{at + QPointF(-3.5, 0), at + QPointF(-1, 3), at + QPointF(4, -3)});
    break;
  }
}

// What each stage of a new coil of this kind on these mains begins with.
const StageInputs& inputs_of_new(const arc::Design& design) {
  static std::map<std::tuple<std::string, double, double>, StageInputs> kept;
  const arc::Site& site = design.site;
  const auto [it, made] = kept.try_emplace({design.kind, site.mains_voltage_v, site.mains_frequency_hz});
  if (made)
    it->second =
        arc::stage_inputs(arc::new_design(arc::kind_of(design), site.mains_voltage_v, site.mains_frequency_hz));
  return it->second;
}

} // namespace

class RailEntry : public QAbstractButton {
 public:
  RailEntry(Workspace& workspace, const StageSpec& stage, QWidget* parent)
      : QAbstractButton(parent), workspace_(workspace), stage_(stage) {
    setCheckable(true);
    setAutoExclusive(true);
    setObjectName("stage " + stage.key);
    setFixedHeight(stage.place == RailPlace::work ? 44 : 34);
    setCursor(Qt::PointingHandCursor);
    connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  }

  void refresh(const StageInputs& inputs) {
    if (stage_.place != RailPlace::work) return setAccessibleName(text());
    const auto& findings = workspace_.document.findings();
    const auto count = [&](arc::Severity severity) {
      return static_cast<int>(std::ranges::count_if(findings, [&](const arc::Finding& f) {
        return f.severity == severity && f.dismissed.empty() && f.stage == stage_.key.toStdString();
      }));
    };
    const int stops = count(arc::Severity::stop);
    open_ = stops + count(arc::Severity::warning);
    const arc::Design& design = workspace_.document.design();
    static const QStringList electrical{"tank", "switch",     "feed",     "driver", "bridge",
                                        "gate", "oscillator", "staccato", "fire"};
    simulating_ = electrical.contains(stage_.key) && !workspace_.document.figures_settled();
    const std::string key = stage_.key.toStdString();
    mark_ = stops > 0                                                ? Mark::stop
            : open_ > 0                                              ? Mark::findings
            : !simulating_ && arc::is_confirmed(design, key, inputs) ? Mark::confirmed
            : is_untouched(design, key, inputs)                      ? Mark::untouched
                                                                     : Mark::in_work;
    setAccessibleName(QString("%1, %2").arg(text(), words()));
    update();
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
    if (stage_.place != RailPlace::work) {
      painter.setFont(type::font(type::body, isChecked() ? QFont::DemiBold : QFont::Normal));
      painter.setPen(t.ink);
      painter.drawText(rect().adjusted(24, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, text());
      return;
    }
    // The line that joins the marks.
    painter.setPen(QPen(t.hairline, 1.5));
    painter.drawLine(32, 0, 32, height());
    if (simulating_) { // three dots beside the words: what it finds is still to come
      painter.setPen(Qt::NoPen);
      painter.setBrush(t.second);
      for (int i = 0; i < 3 && open_ == 0; ++i)
        painter.drawEllipse(QPointF(width() - 26 + 7 * i, height() / 2.0), 1.8, 1.8);
    }
    paint_mark(painter, mark_, {32, height() / 2.0}, t);
    painter.setFont(type::font(type::body + 1, isChecked() ? QFont::DemiBold : QFont::Normal));
    painter.setPen(mark_ != Mark::untouched || isChecked() ? t.ink : t.second);
    painter.drawText(rect().adjusted(52, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, text());
    if (open_ > 0) {
      painter.setFont(type::font(type::caption, QFont::DemiBold));
      painter.setPen(mark_ == Mark::stop ? t.stop : t.warn);
      painter.drawText(rect().adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter, QString::number(open_));
    }
  }

 private:
  static bool is_untouched(const arc::Design& design, const std::string& key, const StageInputs& inputs) {
    if (key == "fire") return design.runs.empty();
    if (key == "feed" && design.feed.empty()) return true;
    const StageInputs& fresh = inputs_of_new(design);
    const auto now = inputs.find(key), then = fresh.find(key);
    return now == inputs.end() || (then != fresh.end() && now->second == then->second);
  }
  QString words() const {
    const QString counted = QString("%1 finding%2").arg(open_).arg(open_ == 1 ? "" : "s");
    if (mark_ == Mark::stop) return "stop, " + counted;
    if (mark_ == Mark::findings) return counted;
    if (simulating_) return "being simulated";
    return mark_ == Mark::confirmed ? "confirmed" : mark_ == Mark::untouched ? "untouched" : "in work";
  }

  Workspace& workspace_;
  const StageSpec& stage_;
  int open_ = 0; // stops and warnings
  Mark mark_ = Mark::untouched;
  bool simulating_ = false;
};

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
    entries_.push_back(entry);
  }
  const auto add = [&](RailPlace place) {
    for (std::size_t i = 0; i < entries_.size(); ++i)
      if (stages()[i].place == place) column->addWidget(entries_[i]);
  };
  add(RailPlace::top);
  add(RailPlace::work);
  column->addStretch();
  confirm_ = new QPushButton(this);
  confirm_->setObjectName("confirm stage");
  confirm_->setProperty("link", true);
  connect(confirm_, &QPushButton::clicked, this, &StageRail::confirm);
  column->addWidget(confirm_, 0, Qt::AlignHCenter);
  column->addSpacing(space::small);
  add(RailPlace::bottom);
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  connect(&workspace_.document, &Document::analysis_changed, this, &StageRail::refresh);
  connect(&workspace_.document, &Document::power_changed, this, &StageRail::refresh);
  connect(&workspace_.document, &Document::design_changed, this, &StageRail::refresh); // no green while computing
  show_kind();
  refresh();
}

void StageRail::refresh() {
  if (!workspace_.document.analysis()) return;
  for (RailEntry* entry : entries_) entry->refresh(inputs());
  show_confirm();
}

// Of one design once: marks are shown at the edit, after the analysis and after the simulation.
const StageInputs& StageRail::inputs() {
  if (const auto design = workspace_.document.shared_design(); design != inputs_of_) {
    inputs_of_ = design;
    inputs_ = arc::stage_inputs(*design);
  }
  return inputs_;
}

// The runs of Fire are its record: it is not confirmed.
void StageRail::show_confirm() {
  const std::string key = current_key();
  const bool confirmed = arc::is_confirmed(workspace_.document.design(), key, inputs());
  confirm_->setVisible(can_confirm());
  confirm_->setText(confirmed ? "Take back" : "Confirm stage");
  confirm_->setToolTip(confirmed ? "You have confirmed this stage; take that back (Ctrl+Shift+Return)"
                                 : "You have gone through this stage and found it right; the mark falls when "
                                   "something on it changes (Ctrl+Shift+Return)");
  confirm_->setAccessibleDescription(confirm_->toolTip());
}

std::string StageRail::current_key() const {
  return stages()[static_cast<std::size_t>(current_)].key.toStdString();
}

bool StageRail::can_confirm() const {
  return stages()[static_cast<std::size_t>(current_)].place == RailPlace::work && current_key() != "fire";
}

void StageRail::confirm() {
  if (!can_confirm()) return;
  const std::string key = current_key();
  const bool back = arc::is_confirmed(workspace_.document.design(), key, inputs());
  const std::string now = present_time();
  workspace_.document.edit(back ? "Take back a confirmation" : "Confirm a stage", [&](arc::Design& d) {
    if (back)
      arc::unconfirm_stage(d, key);
    else
      arc::confirm_stage(d, key, now);
  });
}

void StageRail::show_kind() {
  const arc::CoilKind& kind = arc::kind_of(workspace_.document.design());
  int place = 0;
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    const StageSpec& stage = stages()[i];
    entries_[i]->setVisible(belongs_to(stage, kind));
    if (!belongs_to(stage, kind)) continue;
    entries_[i]->setText(title_of(stage, kind));
    const QString keys = stage.place == RailPlace::work ? QString("Alt+%1").arg(++place) : stage.shortcut;
    entries_[i]->setToolTip(QString("%1 (%2)").arg(entries_[i]->text(), keys));
  }
  refresh();
}

void StageRail::set_current(int index) {
  current_ = index;
  entries_[static_cast<std::size_t>(index)]->setChecked(true);
  show_confirm();
}

void StageRail::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(workspace_.theme().hairline);
  painter.drawLine(width() - 1, 0, width() - 1, height());
}

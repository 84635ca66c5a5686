// The countdown begins when the run is stopped; it tells when to measure, never that something is safe.
#include "stages/after_power.h"

#include "simulation/stores.h"
#include "toolkit/common.h"
#include "toolkit/text.h"
#include "workshop/checklist.h"

#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace {

constexpr int clock_letters = 34;

QString minutes(double seconds) {
  const int whole = static_cast<int>(std::ceil(seconds));
  return QString("%1:%2").arg(whole / 60).arg(whole % 60, 2, 10, QChar('0'));
}

} // namespace

AfterPower::AfterPower(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("after");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(space::large, space::medium, space::large, space::medium);
  column->setSpacing(space::hair);
  countdown_ = make_text(this);
  countdown_->setObjectName("countdown");
  countdown_->setFont(type::font(clock_letters, QFont::DemiBold));
  column->addWidget(countdown_);
  why_ = make_text(this);
  why_->setObjectName("countdown of");
  why_->setWordWrap(true);
  why_->setFont(type::font(type::heading));
  column->addWidget(why_);
  column->addSpacing(space::small);
  steps_ = new BenchList(this);
  steps_->setObjectName("after power");
  column->addWidget(steps_, 1);
  constexpr int often = 250; // milliseconds
  clock_.setInterval(often);
  connect(&clock_, &QTimer::timeout, this, &AfterPower::count_down);
}

void AfterPower::refresh() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  const arc::Design& design = workspace_.document.design();
  const arc::PowerAnalysis* power = workspace_.document.power_of_kind();
  const auto steps = arc::steps_after_power(design, *analysis, power, workspace_.units());
  if (steps.size() != lines_.size()) {
    steps_->clear();
    lines_.clear();
    for (std::size_t i = 0; i < steps.size(); ++i)
      lines_.push_back(steps_->add_line(nullptr, QString("after power %1").arg(i + 1)));
  }
  for (std::size_t i = 0; i < steps.size(); ++i)
    lines_[i]->setText(QString("%1. %2").arg(i + 1).arg(QString::fromStdString(steps[i])));
  steps_->fit();
  const auto stores = arc::stores_of(design, *analysis, power);
  wait_s_ = arc::discharge_wait_s(stores);
  never_ = std::ranges::any_of(stores, [](const arc::Store& store) { return !std::isfinite(store.bleeds_s()); });
  const auto slowest = std::ranges::max_element(stores, {}, &arc::Store::bleeds_s);
  why_->setText(slowest == stores.end() ? QString("No store stays charged above 50 V.")
                : never_
                    ? QString("%1, %2: it has no bleeder.")
                          .arg(QString::fromStdString(slowest->title),
                               quantity_text(slowest->joule(), arc::Dimension::energy, workspace_.units(), 3))
                    : QString("Slowest: %1, %2, below 50 V after %3; the wait is three times that.")
                          .arg(QString::fromStdString(slowest->title),
                               quantity_text(slowest->joule(), arc::Dimension::energy, workspace_.units(), 3),
                               quantity_text(slowest->bleeds_s(), arc::Dimension::time, workspace_.units(), 3)));
  show_state();
}

void AfterPower::show_state() {
  const bool after = workspace_.firing.state() == arc::ArmState::after;
  steps_->set_weight(after ? QFont::DemiBold : QFont::Normal);
  count_down();
  if (after)
    clock_.start();
  else
    clock_.stop();
  update();
}

QString AfterPower::waiting_words() const {
  if (never_) return "Never empty by itself: short it";
  if (!wait_s_) return "No wait: still measure first";
  if (workspace_.firing.state() != arc::ArmState::after) return "Wait " + minutes(*wait_s_);
  const double left = *wait_s_ - workspace_.firing.since_stop_s();
  return left > 0 ? "Wait " + minutes(left) : QString("Now measure, then short");
}

void AfterPower::count_down() {
  const QString words = waiting_words();
  if (countdown_->text() == words) return;
  countdown_->setText(words);
}

// A frame in the colour of a stop while the coil may be charged.
void AfterPower::paintEvent(QPaintEvent*) {
  const Theme& theme = workspace_.theme();
  const bool after = workspace_.firing.state() == arc::ArmState::after;
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setBrush(theme.card);
  painter.setPen(QPen(after ? theme.stop : theme.hairline, after ? 3 : 1));
  painter.drawRoundedRect(QRectF(rect()).adjusted(2, 2, -2, -2), 8, 8);
}

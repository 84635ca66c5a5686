// Feed: the power path from the wall to the tank as a strip of blocks, what charging does at every joint, and what
// the breaker sees at each variac setting.
#include "circuit/charging.h"
#include "circuit/feed.h"
#include "stages/stage.h"
#include "widgets/common.h"
#include "widgets/latest_job.h"
#include "widgets/plot.h"
#include "widgets/quantity_field.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <cmath>

namespace {

constexpr int cycles_shown = 10;
const std::vector<double> variac_settings{0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0};

struct VariacRow {
  double setting;
  arc::ChargingResult charging;
};

struct FeedPicture {
  QString problem;
  arc::ChargingResult now;
  std::vector<VariacRow> rows;
};

// Charging as entered, and at every setting of the variac when there is one.
FeedPicture solve(const arc::Design& design, const std::atomic<bool>& cancelled) {
  FeedPicture out;
  try {
    out.now = arc::simulate_charging(design, {cycles_shown, 20e-6}, cancelled);
    const auto variac = std::ranges::find(design.feed, "variac", &arc::FeedBlock::kind);
    if (variac == design.feed.end()) return out;
    for (const double setting : variac_settings) {
      if (cancelled) return out;
      arc::Design set = design;
      set.feed[static_cast<std::size_t>(variac - design.feed.begin())].values["setting"] = setting;
      out.rows.push_back({setting, arc::simulate_charging(set, {cycles_shown, 20e-6}, cancelled)});
    }
  } catch (const std::invalid_argument& refusal) {
    out.problem = QString::fromStdString(refusal.what());
  }
  return out;
}

// A block with the piece of the power path that runs over it: a copper line with an arrow toward the tank.
class PathBlock : public QWidget {
 public:
  PathBlock(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {}

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QColor copper = workspace_.theme().copper;
    painter.setPen(QPen(copper, 3));
    painter.drawLine(0, 5, width(), 5);
    painter.setBrush(copper);
    painter.setPen(Qt::NoPen);
    painter.drawPolygon(QPolygonF{{8, 0}, {17, 5}, {8, 10}});
  }

 private:
  Workspace& workspace_;
};

class FeedStage : public QWidget {
 public:
  FeedStage(Workspace& workspace, QWidget* parent)
      : QWidget(parent), workspace_(workspace),
        job_([this](const FeedPicture& picture) { show_picture(picture); }) {
    setObjectName("feed");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, 12, space::medium, space::small);
    column->setSpacing(space::small);
    auto* head = new QHBoxLayout;
    verdict_ = new QLabel(this);
    verdict_->setObjectName("feed verdict");
    verdict_->setFont(type::font(type::heading, QFont::DemiBold));
    head->addWidget(verdict_, 1);
    head->addWidget(make_add_button());
    column->addLayout(head);
    reason_ = caption_label({}, this);
    reason_->setObjectName("feed reason");
    reason_->setWordWrap(true);
    column->addWidget(reason_);
    auto* scroll = new QScrollArea(this);
    scroll->setObjectName("feed strip");
    scroll->setWidgetResizable(true);
    scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFixedHeight(268);
    strip_ = new QWidget(scroll);
    blocks_ = new QHBoxLayout(strip_);
    blocks_->setContentsMargins(0, 0, 0, 0);
    blocks_->setSpacing(0);
    scroll->setWidget(strip_);
    column->addWidget(scroll);
    auto* lower = new QHBoxLayout;
    lower->setSpacing(space::medium);
    table_ = make_table(this, "variac table", {"Variac", "Line", "Power", "Factor", "Breaks", "Breaker"});
    table_->setFixedWidth(350);
    lower->addWidget(table_);
    plot_ = new QCustomPlot(this);
    plot_->setObjectName("charging plot");
    plot_->setAccessibleName("Tank voltage and line current while charging");
    plot_->setMinimumSize(200, 120);
    plot_->xAxis->ticker()->setTickCount(4);
    lower->addWidget(plot_, 1);
    column->addLayout(lower, 1);
    connect(&workspace_.document, &Document::design_changed, this, &FeedStage::refresh);
    connect(&workspace_.document, &Document::units_changed, this, &FeedStage::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, &FeedStage::refresh);
  }

 protected:
  void showEvent(QShowEvent* event) override {
    QWidget::showEvent(event);
    refresh();
  }

 private:
  QString print(double si, arc::Dimension dimension, int digits = 3) const {
    return quantity_text(si, dimension, workspace_.units(), digits);
  }

  QWidget* make_add_button() {
    auto* button = new QPushButton("Add a block", this);
    button->setObjectName("add block");
    auto* menu = new QMenu(button);
    for (const arc::BlockKind& kind : arc::block_kinds()) {
      auto* action = menu->addAction(text_of(kind.title));
      action->setObjectName("add " + text_of(kind.key));
      connect(action, &QAction::triggered, this, [this, &kind] {
        workspace_.document.edit("Add " + text_of(kind.title), [&](arc::Design& design) {
          // Mains-side blocks go before the transformer, all others to the end.
          const auto transformer = std::ranges::find_if(design.feed, [](const arc::FeedBlock& b) {
            return b.kind == "transformer" || b.kind == "oven-transformers";
          });
          const bool mains = kind.caution.starts_with("Mains side");
          design.feed.insert(mains ? transformer : design.feed.end(), arc::make_block(kind.key));
        });
      });
    }
    button->setMenu(menu);
    return button;
  }

  void refresh() {
    if (!isVisible()) return; // brought up to date when it is shown
    const auto& feed = workspace_.document.design().feed;
    QStringList kinds;
    for (const arc::FeedBlock& block : feed) kinds << QString::fromStdString(block.kind);
    if (kinds != shown_ || blocks_->count() == 0) rebuild(kinds);
    job_.start([design = workspace_.document.design()](const std::atomic<bool>& cancelled) {
      return solve(design, cancelled);
    });
  }

  void rebuild(const QStringList& kinds) {
    shown_ = kinds;
    joints_.clear();
    while (QLayoutItem* item = blocks_->takeAt(0)) {
      if (item->widget()) {
        item->widget()->hide();
        item->widget()->deleteLater();
      }
      delete item;
    }
    blocks_->addWidget(
        end_label("Wall\n" + print(workspace_.document.design().site.mains_voltage_v, arc::Dimension::voltage)));
    for (int i = 0; i < kinds.size(); ++i) blocks_->addWidget(card(static_cast<std::size_t>(i)), 0, Qt::AlignTop);
    blocks_->addWidget(end_label("Tank"));
    blocks_->addStretch();
  }

  QWidget* end_label(const QString& text) {
    auto* label = new QLabel(text, strip_);
    label->setFont(type::font(type::body, QFont::DemiBold));
    label->setAlignment(Qt::AlignCenter);
    label->setFixedWidth(62);
    return label;
  }

  QWidget* card(std::size_t index) {
    const arc::BlockKind& kind = *arc::block_kind(workspace_.document.design().feed[index].kind);
    auto* box = new PathBlock(workspace_, strip_);
    box->setObjectName(QString("block %1").arg(index + 1));
    box->setFixedWidth(178);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(space::small, 12, space::small, 0);
    column->setSpacing(2);
    auto* title = new QLabel(text_of(kind.title), box);
    title->setFont(type::font(type::body, QFont::DemiBold));
    title->setWordWrap(true);
    title->setFixedHeight(34);
    title->setAlignment(Qt::AlignLeft | Qt::AlignBottom);
    title->setToolTip(text_of(kind.caution));
    column->addWidget(title);
    auto* joint = caption_label({}, box);
    joint->setObjectName(QString("joint %1").arg(index + 1));
    joint->setWordWrap(true);
    column->addWidget(joint);
    joints_.push_back(joint);
    for (const arc::BlockNumber& number : kind.numbers) {
      QuantityRole role;
      role.name = QString("block %1 %2").arg(index + 1).arg(text_of(number.key));
      role.label = text_of(number.label);
      role.dimension = number.dimension;
      role.minimum = number.minimum;
      role.maximum = number.maximum;
      role.get = [this, index, &number]() -> std::optional<double> {
        const auto& feed = workspace_.document.design().feed;
        if (index >= feed.size() || !feed[index].values.contains(std::string(number.key))) return std::nullopt;
        return arc::block_value(feed[index], number.key);
      };
      role.set = [this, index, &number](std::optional<double> value, const QString& gesture) {
        workspace_.document.edit(
            text_of(number.label),
            [&](arc::Design& design) {
              if (value && index < design.feed.size()) design.feed[index].values[std::string(number.key)] = *value;
            },
            gesture);
      };
      auto* line = new QHBoxLayout;
      line->setSpacing(4);
      auto* label = caption_label(role.label, box);
      label->setWordWrap(true);
      auto* field = new QuantityField(workspace_, std::move(role), box);
      field->setFixedWidth(82);
      label->setBuddy(field);
      line->addWidget(label, 1);
      line->addWidget(field);
      column->addLayout(line);
    }
    column->addStretch();
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    const auto add = [&](const char* name, const char* text, const QString& tip, bool enabled, auto change) {
      auto* button = new QPushButton(text, box);
      button->setObjectName(QString("%1 %2").arg(name).arg(index + 1));
      button->setAccessibleName(tip);
      button->setToolTip(tip);
      button->setProperty("narrow", true);
      button->setFixedWidth(30);
      button->setEnabled(enabled);
      connect(button, &QPushButton::clicked, this, [this, tip, change] { workspace_.document.edit(tip, change); });
      row->addWidget(button);
    };
    const std::size_t count = workspace_.document.design().feed.size();
    add("earlier block", "←", "Move toward the wall", index > 0,
        [index](arc::Design& d) { std::swap(d.feed.at(index), d.feed.at(index - 1)); });
    add("later block", "→", "Move toward the tank", index + 1 < count,
        [index](arc::Design& d) { std::swap(d.feed.at(index), d.feed.at(index + 1)); });
    add("remove block", "×", "Remove this block", true,
        [index](arc::Design& d) { d.feed.erase(d.feed.begin() + static_cast<std::ptrdiff_t>(index)); });
    row->addStretch();
    column->addLayout(row);
    return box;
  }

  void show_picture(const FeedPicture& picture) {
    const arc::ChargingResult& now = picture.now;
    table_->setRowCount(static_cast<int>(picture.rows.size()));
    if (!picture.problem.isEmpty()) {
      verdict_->setText("This feed cannot charge the tank");
      reason_->setText(picture.problem);
      for (QLabel* joint : joints_) joint->clear();
      plot_->clearGraphs();
      plot_->replot();
      return;
    }
    verdict_->setText(now.break_times_s.empty() ? QString("The tank reaches %1 and the gap never fires")
                                                      .arg(print(now.tank_peak_v, arc::Dimension::voltage))
                                                : QString("%1 breaks each second, %2 to the tank")
                                                      .arg(now.break_rate_hz, 0, 'f', 0)
                                                      .arg(print(now.tank_power_w, arc::Dimension::power)));
    reason_->setText(
        QString("From the line %1 at power factor %2, %3. %4 Transformers do not saturate here; currents are RMS "
                "over the later cycles.")
            .arg(print(now.line_current_a, arc::Dimension::current))
            .arg(now.power_factor, 0, 'f', 2)
            .arg(print(now.input_power_w, arc::Dimension::power),
                 std::isinf(now.breaker_trip_s) ? QString("The breaker holds.")
                                                : QString("The breaker trips after %1.")
                                                      .arg(print(now.breaker_trip_s, arc::Dimension::time, 2))));
    // Stresses belong to the blocks from the transformer on, in order, and last to the tank.
    const std::size_t mains_blocks = joints_.size() + 1 - std::min(now.stresses.size(), joints_.size() + 1);
    for (std::size_t i = 0; i < joints_.size(); ++i) {
      if (i < mains_blocks) {
        joints_[i]->setText(print(now.line_current_a, arc::Dimension::current) + " RMS");
        continue;
      }
      const arc::BlockStress& stress = now.stresses[i - mains_blocks];
      QString text = print(stress.peak_v, arc::Dimension::voltage) + " peak";
      if (stress.limit_v > 0)
        text += QString(", %1 % of rating").arg(100 * stress.peak_v / stress.limit_v, 0, 'f', 0);
      joints_[i]->setText(text);
    }
    for (int r = 0; r < table_->rowCount(); ++r) {
      const VariacRow& row = picture.rows[static_cast<std::size_t>(r)];
      const arc::ChargingResult& c = row.charging;
      const QStringList cells{
          QString("%1 %").arg(row.setting * 100, 0, 'f', 0),
          print(c.line_current_a, arc::Dimension::current),
          print(c.input_power_w, arc::Dimension::power),
          QString::number(c.power_factor, 'f', 2),
          c.break_times_s.empty() ? QString("none") : QString("%1/s").arg(c.break_rate_hz, 0, 'f', 0),
          std::isinf(c.breaker_trip_s) ? QString("holds")
                                       : "trips " + print(c.breaker_trip_s, arc::Dimension::time, 2)};
      for (int k = 0; k < cells.size(); ++k) table_->setItem(r, k, new QTableWidgetItem(cells[k]));
    }
    draw(now);
  }

  void draw(const arc::ChargingResult& now) {
    const Theme& t = workspace_.theme();
    plot_->clearGraphs();
    style_plot(*plot_, t);
    plot_->xAxis->setLabel("Time, ms");
    plot_->yAxis->setLabel("Tank, kV");
    plot_->yAxis2->setLabel("Line current, A");
    plot_->yAxis2->setVisible(true);
    QVector<double> x, tank, line;
    for (const arc::ChargingSample& s : now.samples) {
      x << s.time_s * 1e3;
      tank << s.tank_v / 1e3;
      line << s.line_a;
    }
    auto* current = plot_->addGraph(plot_->xAxis, plot_->yAxis2);
    current->setPen(QPen(t.second, 1.2, Qt::DashLine));
    current->setData(x, line, true);
    auto* voltage = plot_->addGraph();
    voltage->setPen(QPen(t.arc, 1.6));
    voltage->setData(x, tank, true);
    plot_->rescaleAxes();
    const double last = x.isEmpty() ? 1 : x.last();
    plot_->xAxis->setRange(0.6 * last, last); // the start has died away; drag to see it
    plot_->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }

  Workspace& workspace_;
  QLabel* verdict_ = nullptr;
  QLabel* reason_ = nullptr;
  QWidget* strip_ = nullptr;
  QHBoxLayout* blocks_ = nullptr;
  QStringList shown_;
  std::vector<QLabel*> joints_;
  QTableWidget* table_ = nullptr;
  QCustomPlot* plot_ = nullptr;
  LatestJob<FeedPicture> job_;
};

} // namespace

QWidget* make_feed_stage(Workspace& workspace, QWidget* parent) {
  return new FeedStage(workspace, parent);
}

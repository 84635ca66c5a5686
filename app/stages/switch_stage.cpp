// Switch: the gap and the simulated shot, with cursors, an earlier shot kept for comparison, and export.
#include "circuit/shot.h"
#include "parts/gap.h"
#include "stages/stage.h"
#include "widgets/common.h"
#include "widgets/latest_job.h"
#include "widgets/plot.h"
#include "widgets/quantity_field.h"

#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSvgGenerator>
#include <QVBoxLayout>
#include <cmath>

namespace {

struct ShotPicture {
  QString problem;
  arc::ShotCircuit circuit{};
  arc::ShotResult shot;
};

class SwitchStage : public QWidget {
 public:
  SwitchStage(Workspace& workspace, QWidget* parent)
      : QWidget(parent), workspace_(workspace), job_([this](const ShotPicture& picture) {
          picture_ = picture;
          show_picture();
        }) {
    setObjectName("switch");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* upper = new QVBoxLayout;
    upper->setContentsMargins(space::large, 12, space::medium, space::small);
    upper->setSpacing(space::hair);
    verdict_ = new QLabel(this);
    verdict_->setObjectName("shot verdict");
    verdict_->setFont(type::font(type::heading, QFont::DemiBold));
    upper->addWidget(verdict_);
    reason_ = caption_label({}, this);
    reason_->setObjectName("shot reason");
    reason_->setWordWrap(true);
    upper->addWidget(reason_);
    upper->addLayout(make_tools());
    top_ = make_plot("top voltage plot", "Top voltage after the gap fires");
    bottom_ = make_plot("primary current plot", "Primary current and energies after the gap fires");
    upper->addWidget(top_, 1);
    upper->addWidget(bottom_, 1);
    column->addLayout(upper, 1);
    column->addWidget(make_panel());
    connect(&workspace_.document, &Document::analysis_changed, this, &SwitchStage::refresh);
    connect(&workspace_, &Workspace::theme_changed, this, &SwitchStage::show_picture);
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

  QCustomPlot* make_plot(const char* name, const char* words) {
    auto* plot = new QCustomPlot(this);
    plot->setObjectName(name);
    plot->setAccessibleName(words);
    plot->setMinimumHeight(90);
    plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plot->axisRect()->setRangeDrag(Qt::Horizontal);
    plot->axisRect()->setRangeZoom(Qt::Horizontal);
    plot->setToolTip("Drag and turn the wheel to look closer, double-click for all of it");
    connect(plot, &QCustomPlot::mouseMove, this,
            [this, plot](QMouseEvent* event) { read_at(plot->xAxis->pixelToCoord(event->position().x()) * 1e-6); });
    connect(plot, &QCustomPlot::mouseDoubleClick, this, [this] { show_picture(); });
    return plot;
  }

  QLayout* make_tools() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::small);
    quench_ = new QComboBox(this);
    quench_->setObjectName("quench notch");
    quench_->setAccessibleName("When the gap opens");
    quench_->addItems({"Gap opens by itself", "Quench at the first notch", "Quench at the second notch",
                       "Quench at the third notch"});
    quench_->setCurrentIndex(1);
    connect(quench_, &QComboBox::activated, this, &SwitchStage::refresh);
    row->addWidget(quench_);
    keep_ = new QPushButton("Keep for comparison", this);
    keep_->setObjectName("keep shot");
    keep_->setToolTip("Draws this shot in grey behind the next ones");
    connect(keep_, &QPushButton::clicked, this, [this] {
      kept_ = picture_.shot;
      show_picture();
    });
    row->addWidget(keep_);
    auto* save = new QPushButton("Export…", this);
    save->setObjectName("export shot");
    save->setToolTip("CSV of the waveforms, or a picture as SVG or PNG");
    connect(save, &QPushButton::clicked, this, &SwitchStage::export_shot);
    row->addWidget(save);
    cursor_ = caption_label({}, this);
    cursor_->setObjectName("shot cursor");
    row->addWidget(cursor_, 1, Qt::AlignRight);
    return row;
  }

  QWidget* make_panel() {
    auto* panel = new StagePanel(workspace_, this);
    auto* grid = new QGridLayout(panel);
    grid->setContentsMargins(space::large, 10, space::large, 10);
    grid->setHorizontalSpacing(space::medium);
    grid->setVerticalSpacing(6);
    int place = 0;
    for (const char* key : {"gap.gaps_in_series", "gap.spacing_m", "gap.electrode_diameter_m",
                            "gap.firing_voltage_v", "gap.break_rate_hz", "gap.rotary_electrodes",
                            "gap.rotor_speed_hz", "gap.arc_drop_v", "gap.arc_resistance_ohm"}) {
      QuantityField* field = make_design_field(workspace_, key, panel);
      // The tank stage has its own fields of these two names; a finding leads there.
      if (QString(key) == "gap.firing_voltage_v" || QString(key) == "gap.break_rate_hz")
        field->setObjectName(QString("switch ") + key);
      grid->addWidget(labelled(field, panel), place / 5, place % 5, Qt::AlignTop);
      ++place;
    }
    adopt_ = new QPushButton(panel);
    adopt_->setObjectName("adopt firing voltage");
    adopt_->setProperty("link", true);
    connect(adopt_, &QPushButton::clicked, this, [this] {
      workspace_.document.edit("Firing voltage from the gap", [](arc::Design& design) {
        if (const auto v = arc::computed_firing_v(design.gap, design.site))
          design.gap.firing_voltage_v = std::round(*v);
      });
    });
    grid->addWidget(adopt_, 1, 4, Qt::AlignBottom);
    return panel;
  }

  void refresh() {
    const auto analysis = workspace_.document.analysis();
    if (!analysis || !isVisible()) return;
    const auto computed =
        arc::computed_firing_v(workspace_.document.design().gap, workspace_.document.design().site);
    adopt_->setEnabled(computed.has_value());
    adopt_->setText(computed ? QString("Fires at %1: take it").arg(print(*computed, arc::Dimension::voltage))
                             : "Needs spacing and electrode");
    adopt_->setToolTip(
        "Cold gap in clean air, 3 %; a hot gap fires 10 to 30 % lower. Set a safety gap across the transformer "
        "so that it fires just above what the transformer alone reaches.");
    arc::ShotOptions options;
    options.quench_notch = quench_->currentIndex();
    job_.start([design = workspace_.document.design(), analysis, options](const std::atomic<bool>& cancelled) {
      ShotPicture out;
      try {
        out.circuit = arc::shot_circuit(design, *analysis, options);
        out.shot = arc::simulate_shot(out.circuit, options, cancelled);
      } catch (const std::invalid_argument& refusal) {
        out.problem = QString::fromStdString(refusal.what());
      }
      return out;
    });
  }

  QString advice() const {
    const arc::ShotResult& shot = picture_.shot;
    const auto analysis = workspace_.document.analysis();
    const auto couplings = arc::complete_transfer_couplings();
    const double k = analysis->coupling;
    const double nearest = *std::ranges::min_element(couplings, {}, [k](double c) { return std::abs(c - k); });
    QStringList out;
    out << QString("k %1; the nearest coupling of complete transfer is %2 (%3 the primary)")
               .arg(k, 0, 'f', 3)
               .arg(nearest, 0, 'f', 3)
               .arg(nearest > k ? "raise" : "lower");
    if (shot.quench_s && *shot.quench_s > 3 * shot.first_notch_s)
      out << "the gap burns through several notches: energy goes back into it each time; more, shorter gaps quench "
             "earlier";
    if (shot.gap_loss_j > 0.3 * shot.tank_energy_j)
      out << QString("the gap takes %1 % of the energy: fewer gaps, or more tank voltage with less capacitance")
                 .arg(100 * shot.gap_loss_j / shot.tank_energy_j, 0, 'f', 0);
    if (!shot.breakout_s) out << "nothing breaks out in this shot";
    return out.join("; ") + ".";
  }

  void show_picture() {
    if (!isVisible()) return;
    const arc::ShotResult& shot = picture_.shot;
    keep_->setEnabled(!shot.samples.empty());
    if (!picture_.problem.isEmpty() || shot.samples.empty()) {
      verdict_->setText("No shot can be simulated");
      reason_->setText(picture_.problem);
      for (QCustomPlot* plot : {top_, bottom_}) {
        plot->clearGraphs();
        plot->replot();
      }
      return;
    }
    verdict_->setText(
        QString("%1 at the top after %2, %3 % of the energy across")
            .arg(print(shot.top_peak_v, arc::Dimension::voltage), print(shot.top_peak_s, arc::Dimension::time))
            .arg(100 * shot.secondary_peak_j / shot.tank_energy_j, 0, 'f', 0));
    reason_->setText(
        QString("%1 from the tank; %2 primary peak; first notch at %3%4. %5")
            .arg(print(shot.tank_energy_j, arc::Dimension::energy),
                 print(shot.primary_peak_a, arc::Dimension::current),
                 print(shot.first_notch_s, arc::Dimension::time),
                 shot.quench_s ? ", gap opens at " + print(*shot.quench_s, arc::Dimension::time) : QString(),
                 advice()));
    const Theme& t = workspace_.theme();
    const double end_us = std::min(shot.samples.back().time_s, std::max(8 * shot.first_notch_s, 40e-6)) * 1e6;
    const auto fill = [&](QCustomPlot* plot, const arc::ShotResult& from, double arc::ShotSample::*member,
                          double unit, const QPen& pen, const QString& name, QCPAxis* axis = nullptr) {
      auto* graph = plot->addGraph(plot->xAxis, axis ? axis : plot->yAxis);
      QVector<double> x, y;
      for (const arc::ShotSample& s : from.samples) {
        x << s.time_s * 1e6;
        y << s.*member / unit;
      }
      graph->setData(x, y, true);
      graph->setPen(pen);
      graph->setName(name);
    };
    for (QCustomPlot* plot : {top_, bottom_}) {
      plot->clearGraphs();
      plot->clearItems();
      style_plot(*plot, t);
      plot->legend->setVisible(true);
      plot->axisRect()->insetLayout()->setInsetAlignment(0, Qt::AlignRight | Qt::AlignTop);
    }
    top_->yAxis->setLabel("Top, kV");
    bottom_->yAxis->setLabel("Primary, A");
    bottom_->yAxis2->setLabel("Energy, J");
    bottom_->yAxis2->setVisible(true);
    bottom_->xAxis->setLabel("Time after firing, µs");
    if (kept_) fill(top_, *kept_, &arc::ShotSample::top_v, 1e3, QPen(t.second, 1, Qt::DotLine), "kept");
    fill(top_, shot, &arc::ShotSample::top_v, 1e3, QPen(t.arc, 1.4), "now");
    if (kept_) fill(bottom_, *kept_, &arc::ShotSample::primary_a, 1, QPen(t.second, 1, Qt::DotLine), "kept");
    fill(bottom_, shot, &arc::ShotSample::primary_a, 1, QPen(t.copper, 1.2), "primary current");
    fill(bottom_, shot, &arc::ShotSample::primary_j, 1, QPen(t.ink, 1.4, Qt::DashLine),
         "energy in the tank circuit", bottom_->yAxis2);
    fill(bottom_, shot, &arc::ShotSample::secondary_j, 1, QPen(t.settled, 1.4, Qt::DashDotLine),
         "energy in the resonator", bottom_->yAxis2);
    for (QCustomPlot* plot : {top_, bottom_}) {
      plot->rescaleAxes();
      plot->xAxis->setRange(0, end_us);
      plot->replot(QCustomPlot::rpQueuedReplot);
    }
    read_at(shot.top_peak_s);
  }

  // All values at one instant, in words beside the plots.
  void read_at(double time_s) {
    const auto& samples = picture_.shot.samples;
    if (samples.empty()) return;
    const double step = samples.size() > 1 ? samples[1].time_s - samples[0].time_s : 1;
    const auto index = static_cast<std::size_t>(
        std::clamp(std::round(time_s / step), 0.0, static_cast<double>(samples.size() - 1)));
    const arc::ShotSample& s = samples[index];
    cursor_->setText(QString("at %1: top %2, primary %3, tank %4")
                         .arg(print(s.time_s, arc::Dimension::time), print(s.top_v, arc::Dimension::voltage),
                              print(s.primary_a, arc::Dimension::current),
                              print(s.tank_v, arc::Dimension::voltage)));
  }

  void export_shot() {
    const QString path = QFileDialog::getSaveFileName(this, "Export the shot", "shot.csv",
                                                      "Waveforms (*.csv);;Drawing (*.svg);;Picture (*.png)");
    if (path.isEmpty()) return;
    QString problem;
    bool done = false;
    if (path.endsWith(".svg", Qt::CaseInsensitive)) {
      QSvgGenerator svg;
      svg.setFileName(path);
      svg.setSize(top_->size());
      svg.setViewBox(QRect({}, top_->size()));
      QCPPainter painter;
      done = painter.begin(&svg);
      if (done) top_->toPainter(&painter, top_->width(), top_->height());
      painter.end();
    } else if (path.endsWith(".png", Qt::CaseInsensitive)) {
      done = top_->savePng(path, 0, 0, 2);
    } else {
      done = write_whole_file(path, QByteArray::fromStdString(arc::shot_csv(picture_.shot)), &problem);
    }
    cursor_->setText(done ? "written to " + path
                          : QString("not written: %1").arg(problem.isEmpty() ? path : problem));
  }

  Workspace& workspace_;
  QLabel* verdict_ = nullptr;
  QLabel* reason_ = nullptr;
  QLabel* cursor_ = nullptr;
  QComboBox* quench_ = nullptr;
  QPushButton* keep_ = nullptr;
  QPushButton* adopt_ = nullptr;
  QCustomPlot* top_ = nullptr;
  QCustomPlot* bottom_ = nullptr;
  ShotPicture picture_;
  std::optional<arc::ShotResult> kept_;
  LatestJob<ShotPicture> job_;
};

} // namespace

QWidget* make_switch_stage(Workspace& workspace, QWidget* parent) {
  return new SwitchStage(workspace, parent);
}

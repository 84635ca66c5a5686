// The sheet of tolerances with its sampling run.
#include "coil_views/tolerance_sheet.h"

#include "analysis/sampling.h"
#include "base/latest_job.h"
#include "evidence/tolerance.h"
#include "simulation/figures.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"

#include <QDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QProgressBar>
#include <QPushButton>
#include <QThread>
#include <QTimer>
#include <QVBoxLayout>
#include <atomic>

namespace {

constexpr int sample_count = 1000;
constexpr unsigned sample_seed = 1;

class ToleranceSheet : public QDialog {
 public:
  ToleranceSheet(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const arc::SamplingResult& result) { show_samples(result); },
             [this](const QString& problem) {
               show_idle();
               verdict_->setText("The samples ended with an error: " + problem);
             },
             LatestJob<arc::SamplingResult>::Overtaken::delivered) {
    setAttribute(Qt::WA_DeleteOnClose);
    setObjectName("tolerances");
    setWindowTitle("Tolerances");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    column->setSizeConstraint(QLayout::SetMinimumSize); // grows when the table of samples appears
    auto* words =
        caption_label("How well each input is known. Empty brings the default of its kind back; counted turns are "
                      "known to 1 %, inferred ones to 4 %.",
                      this);
    words->setWordWrap(true);
    words->setMinimumWidth(430);
    column->addWidget(words);
    column->addLayout(make_inputs());
    column->addLayout(make_sampling());
    results_ = make_table(this, "sampled bands", {"Result", "Middle", "Linear", "Sampled −", "Sampled +"});
    results_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    results_->setFixedHeight(9 * 24 + 34);
    results_->setMinimumWidth(540);
    results_->hide();
    column->addWidget(results_);
    auto* close = new QPushButton("Close", this);
    close->setAutoDefault(false);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    column->addWidget(close, 0, Qt::AlignRight);
    progress_timer_.setInterval(50);
    connect(&progress_timer_, &QTimer::timeout, this, [this] { progress_->setValue(*done_); });
    connect(&workspace_.document, &Document::design_changed, this, [this] {
      if (!job_.running()) verdict_->setText("The design has changed since; run the samples again.");
    });
  }

 private:
  QLayout* make_inputs() {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(space::medium);
    int place = 0;
    for (const arc::ToleranceInput& input : arc::tolerance_inputs()) {
      QuantityRole role;
      const std::string key(input.key);
      const double unit = input.relative ? 0.01 : 1;
      role.name = "tolerance " + QString::fromStdString(key);
      role.label = text_of(input.label);
      role.dimension = input.relative  ? arc::Dimension::percent
                       : key == "clip" ? arc::Dimension::number
                                       : arc::Dimension::length;
      role.maximum = arc::largest_tolerance / unit;
      role.nullable = true;
      role.get = [this, &input, unit] {
        return std::optional<double>(arc::tolerance_of(workspace_.document.design(), input) / unit);
      };
      role.set = [this, key, unit](std::optional<double> value, const QString& gesture) {
        workspace_.document.edit(
            "Tolerance",
            [&](arc::Design& design) {
              if (value)
                design.tolerances[key] = *value * unit;
              else
                design.tolerances.erase(key);
            },
            gesture);
      };
      grid->addWidget(labelled(new QuantityField(workspace_, std::move(role), this), this), place / 3, place % 3,
                      Qt::AlignTop);
      ++place;
    }
    return grid;
  }

  QLayout* make_sampling() {
    auto* row = new QHBoxLayout;
    run_ = new QPushButton(QString("Check with %1 samples").arg(sample_count), this);
    run_->setObjectName("run samples");
    run_->setAutoDefault(false);
    run_->setToolTip("Solves random coils within these tolerances, to see whether the bands hold");
    connect(run_, &QPushButton::clicked, this, &ToleranceSheet::run_or_cancel);
    row->addWidget(run_);
    progress_ = new QProgressBar(this);
    progress_->setObjectName("sampling progress");
    progress_->setAccessibleName("Samples done");
    progress_->setMaximum(sample_count);
    progress_->setTextVisible(false);
    progress_->setFixedHeight(8);
    progress_->hide();
    row->addWidget(progress_, 1);
    verdict_ = caption_label({}, this);
    verdict_->setObjectName("sampling verdict");
    verdict_->setWordWrap(true);
    row->addWidget(verdict_, 2);
    return row;
  }

  void run_or_cancel() {
    if (job_.running()) {
      *stop_ = true; // what is done by then is shown
      return;
    }
    stop_ = std::make_shared<std::atomic<bool>>(false);
    *done_ = 0;
    run_->setText("Cancel");
    progress_->show();
    verdict_->clear();
    progress_timer_.start();
    job_.start(
        [design = workspace_.document.design(), stop = stop_, done = done_](const std::atomic<bool>& closed) {
          return arc::sample_tolerances(design, sample_count, sample_seed, std::max(1, QThread::idealThreadCount()),
                                        *stop, [&](int now) {
                                          *done = now;
                                          if (closed) *stop = true;
                                        });
        });
  }

  void show_idle() {
    progress_timer_.stop();
    progress_->hide();
    run_->setText(QString("Check with %1 samples").arg(sample_count));
  }

  void show_samples(const arc::SamplingResult& result) {
    show_idle();
    const auto analysis = workspace_.document.analysis();
    if (!analysis || result.samples < 20) {
      verdict_->setText(*stop_ ? "Cancelled." : "Too few samples could be solved; see the findings.");
      return;
    }
    results_->show();
    results_->setRowCount(static_cast<int>(result.bands.size()));
    for (int r = 0; r < results_->rowCount(); ++r) {
      const arc::SampledBand& band = result.bands[static_cast<std::size_t>(r)];
      const arc::Figure& figure = arc::figure_at_rest(band.key);
      const auto like = [&](double value) {
        return QString::fromStdString(
            arc::format_like(value, band.middle, figure.dimension, workspace_.units(), 2));
      };
      const auto linear = analysis->band.find(band.key);
      const QStringList cells{text_of(figure.title),
                              quantity_text(band.middle, figure.dimension, workspace_.units()),
                              linear == analysis->band.end() ? "–" : "± " + like(linear->second),
                              "− " + like(band.middle - band.low), "+ " + like(band.high - band.middle)};
      set_row(results_, r, cells);
    }
    verdict_->setText(QString("%1 samples%2%3. The linear band of the resonance also holds the model's own 1 %.")
                          .arg(result.samples)
                          .arg(*stop_ ? ", then cancelled" : "")
                          .arg(result.refused > 0 ? QString(", %1 impossible").arg(result.refused) : QString()));
    QTimer::singleShot(0, this, [this] { resize(width(), sizeHint().height()); }); // once the texts have wrapped
  }

  Workspace& workspace_;
  QPushButton* run_ = nullptr;
  QProgressBar* progress_ = nullptr;
  QLabel* verdict_ = nullptr;
  QTableWidget* results_ = nullptr;
  QTimer progress_timer_;
  std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
  std::shared_ptr<std::atomic<int>> done_ = std::make_shared<std::atomic<int>>(0);
  LatestJob<arc::SamplingResult> job_;
};

} // namespace

void show_tolerance_sheet(Workspace& workspace, QWidget* parent) {
  (new ToleranceSheet(workspace, parent))->open();
}

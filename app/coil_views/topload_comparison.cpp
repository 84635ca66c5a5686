// Small multiples of toploads. Each panel holds the drawing to one common scale, the numbers that differ, and what
// can be done with it; the analyses run in the background, the latest request wins.
#include "coil_views/topload_comparison.h"

#include "analysis/analyse.h"
#include "base/latest_job.h"
#include "coil_views/topload_painter.h"
#include "parts/topload.h"
#include "simulation/figures.h"
#include "toolkit/common.h"
#include "toolkit/text.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace {

struct Candidate {
  QString name;
  arc::Design design;
  arc::Analysis analysis;
};

std::vector<Candidate> solve(const arc::Design& design, arc::UnitSystem units) {
  std::vector<Candidate> out;
  const auto add = [&](const QString& name, const std::vector<arc::ToploadPart>& parts) {
    arc::Design with = design;
    with.topload = parts;
    with.measurements.clear(); // they were taken on the present coil
    arc::Analysis analysis = arc::analyse(with, units);
    out.push_back({name, std::move(with), std::move(analysis)});
  };
  add("Now", design.topload);
  for (const arc::ToploadVariant& variant : design.topload_variants)
    add(QString::fromStdString(variant.name), variant.parts);
  return out;
}

class Picture : public QWidget {
 public:
  Picture(Workspace& workspace, const Candidate& candidate, double half_width_m, double low_m, double high_m,
          QWidget* parent)
      : QWidget(parent), workspace_(workspace), design_(candidate.design), breakout_(candidate.analysis.breakout),
        half_width_m_(half_width_m), low_m_(low_m), high_m_(high_m) {
    setMinimumSize(150, 130);
    setAccessibleName("Drawing of the topload " + candidate.name);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& t = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const double scale = std::min((width() - 16) / (2 * half_width_m_), (height() - 12) / (high_m_ - low_m_));
    const auto place = [&](double r, double z) {
      return QPointF(width() / 2.0 + r * scale, 6 + (high_m_ - z) * scale);
    };
    const double form = design_.secondary.form_diameter_m / 2;
    painter.fillRect(QRectF(place(-form, 0), place(form, low_m_)), t.copper_fill);
    painter.setPen(QPen(t.copper, 1.4));
    for (const double side : {-form, form}) painter.drawLine(place(side, 0), place(side, low_m_));
    painter.drawLine(place(-form, 0), place(form, 0));
    paint_topload_parts(painter, t, design_.topload, place);
    if (!breakout_) return;
    const double top = design_.secondary.base_height_m + design_.secondary.winding_length_m;
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.stop);
    painter.drawEllipse(place(breakout_->radius_m, breakout_->height_m - top), 3.5, 3.5);
  }

 private:
  Workspace& workspace_;
  arc::Design design_;
  std::optional<arc::Breakout> breakout_;
  double half_width_m_, low_m_, high_m_;
};

class Comparison : public QDialog {
 public:
  Comparison(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const std::vector<Candidate>& candidates) { show_result(candidates); },
             [this](const QString& problem) { Q_EMIT workspace_.document.work_failed(problem); }) {
    setObjectName("topload comparison");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Toploads on this coil");
    open_large(*this, {940, 520});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::medium);
    auto* words = caption_label(
        "All to one scale. The red dot is where each breaks out first; the tap is the one at resonance. "
        "Keep the present topload, change it on the drawing, and compare.",
        this);
    words->setWordWrap(true);
    column->addWidget(words);
    panels_ = new QHBoxLayout;
    panels_->setSpacing(space::large);
    column->addLayout(panels_, 1);
    auto* row = new QHBoxLayout;
    keep_ = new QPushButton("Keep the present one", this);
    keep_->setObjectName("keep topload");
    connect(keep_, &QPushButton::clicked, this, [this] {
      workspace_.document.edit("Keep this topload", [](arc::Design& design) {
        if (design.topload_variants.size() >= arc::most_topload_variants) return;
        std::string name;
        for (char letter = 'A'; name.empty(); ++letter) // the first letter that is free
          if (std::ranges::count(design.topload_variants, std::string("Kept ") + letter,
                                 &arc::ToploadVariant::name) == 0)
            name = std::string("Kept ") + letter;
        design.topload_variants.push_back({name, design.topload, {}});
      });
    });
    row->addWidget(keep_);
    row->addStretch();
    auto* close = new QPushButton("Close", this);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    row->addWidget(close);
    column->addLayout(row);
    connect(&workspace_.document, &Document::design_changed, this, &Comparison::request);
    request();
  }

 private:
  void request() {
    const bool full = workspace_.document.design().topload_variants.size() >= arc::most_topload_variants;
    keep_->setEnabled(!full);
    keep_->setToolTip(full ? "Three are kept already; remove one first" : "Stays in the design's file");
    job_.start([design = workspace_.document.design(), units = workspace_.units()](const std::atomic<bool>&) {
      return solve(design, units);
    });
  }

  void show_result(const std::vector<Candidate>& candidates) {
    while (QLayoutItem* item = panels_->takeAt(0)) {
      if (item->widget()) item->widget()->deleteLater();
      delete item;
    }
    double half = 0.05, high = 0.05, low = 0;
    for (const Candidate& candidate : candidates)
      for (const arc::ToploadPart& part : candidate.design.topload) {
        const arc::Extent extent = arc::topload_extent(part);
        half = std::max({half, extent.radius_m, candidate.design.secondary.form_diameter_m});
        high = std::max(high, extent.highest_m);
        low = std::min(low, extent.lowest_m);
      }
    low -= 0.4 * half;
    for (std::size_t i = 0; i < candidates.size(); ++i)
      panels_->addWidget(panel(candidates, i, half, low, high), 1);
  }

  QWidget* panel(const std::vector<Candidate>& candidates, std::size_t index, double half, double low,
                 double high) {
    const Candidate& candidate = candidates[index];
    auto* box = new QWidget(this);
    box->setObjectName(QString("candidate %1").arg(index));
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    auto* title = make_text(candidate.name, box);
    title->setFont(type::font(type::strong, QFont::DemiBold));
    column->addWidget(title);
    column->addWidget(new Picture(workspace_, candidate, half, low, high, box), 1);
    for (const char* key : {"mode_1_hz", "topload_in_place_capacitance_f", "breakout_voltage_v", "tuned_tap_turns",
                            "top_voltage_limit_v"}) {
      const arc::Figure& figure = arc::figure_at_rest(key);
      const arc::PowerView view = arc::at_rest(candidate.design, candidate.analysis);
      const auto value = arc::figure_value(figure, view);
      const auto base =
          arc::figure_value(figure, arc::at_rest(candidates.front().design, candidates.front().analysis));
      QString text = QString::fromStdString(arc::value_text(figure, view, workspace_.units()));
      if (index > 0 && value && base && *base != 0)
        text += QString("   %1%2 %").arg(*value >= *base ? "+" : "").arg((*value / *base - 1) * 100, 0, 'f', 1);
      auto* number = make_text(text, box);
      number->setObjectName(QString("candidate %1 %2").arg(index).arg(key));
      number->setFont(type::font(type::body, QFont::DemiBold));
      column->addWidget(number);
      column->addWidget(caption_label(text_of(figure.title).toLower(), box));
    }
    if (!candidate.analysis.problem.empty()) {
      auto* problem = make_text(QString::fromStdString(candidate.analysis.problem), box);
      problem->setProperty("problem", true);
      problem->setWordWrap(true);
      column->addWidget(problem);
    }
    auto* buttons = new QWidget(box);
    buttons->setFixedHeight(26); // on every panel, so that the drawings stay level
    column->addWidget(buttons);
    if (index == 0) return box;
    auto* row = new QHBoxLayout(buttons);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(space::large);
    const auto add = [&](const char* name, const char* text, auto change) {
      auto* button = new QPushButton(text, box);
      button->setObjectName(QString("%1 %2").arg(name).arg(index));
      button->setProperty("link", true);
      connect(button, &QPushButton::clicked, this,
              [this, text, change] { workspace_.document.edit(text, change); });
      row->addWidget(button);
    };
    // The present one takes the place of the one that is used, so that nothing is lost.
    add("use topload", "Swap in",
        [index](arc::Design& design) { std::swap(design.topload, design.topload_variants.at(index - 1).parts); });
    add("remove variant", "Remove", [index](arc::Design& design) {
      design.topload_variants.erase(design.topload_variants.begin() + static_cast<std::ptrdiff_t>(index - 1));
    });
    row->addStretch();
    return box;
  }

  Workspace& workspace_;
  QHBoxLayout* panels_ = nullptr;
  QPushButton* keep_ = nullptr;
  LatestJob<std::vector<Candidate>> job_;
};

} // namespace

void show_topload_comparison(Workspace& workspace, QWidget* parent) {
  (new Comparison(workspace, parent))->open();
}

// Fields above, figures of the latest simulation below.
#include "crafts/bridges/transformer_sheet.h"

#include "crafts/bridges/bridge.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/number_sheet.h"
#include "toolkit/text.h"

#include <QHBoxLayout>

namespace {

using enum arc::Dimension;

class TransformerSheet : public NumberSheet {
 public:
  TransformerSheet(Workspace& workspace, QWidget* parent)
      : NumberSheet(workspace, "current transformer", "Current transformer", 3, parent) {
    column_->addWidget(heading("Winding and burden; the wire goes through once"));
    column_->addWidget(grid_of({"bridge.transformer_turns", "bridge.burden_ohm", "bridge.burden_rating_w"}));
    column_->addWidget(heading("Core"));
    column_->addWidget(
        grid_of({"bridge.transformer_area_mm2", "bridge.transformer_limit_t", "bridge.transformer_al_h"}));
    figures_ = make_figures_table(this, "current transformer figures");
    figures_->setMinimumSize(460, 200);
    column_->addWidget(figures_, 1);
    words_ = caption_label({}, this);
    words_->setObjectName("current transformer words");
    words_->setWordWrap(true);
    column_->addWidget(words_);
    auto* row = new QHBoxLayout;
    row->addStretch();
    add_sheet_button(this, row, "close current transformer", "Close", [this] { accept(); });
    column_->addLayout(row);
    grey_while_stale(workspace, figures_);
    connect(&workspace.document, &Document::power_changed, this, [this] { refresh(); });
    connect(&workspace.document, &Document::units_changed, this, [this] { refresh(); });
    refresh();
  }

 private:
  void refresh() {
    const arc::Design& d = workspace_.document.design();
    const auto b = workspace_.document.power_of<arc::BridgeAnalysis>();
    const auto t = b ? arc::current_transformer(d, *b) : std::nullopt;
    if (!t) {
      figures_->setRowCount(0);
      words_->setText(b ? "The drive hears by another way and no current is limited: no transformer is needed."
                        : "Being simulated…");
      return;
    }
    const Print print{workspace_};
    std::vector<std::pair<QString, QString>> rows{
        {t->of_foot ? "Through it, from the base" : "Through it, of the primary",
         print(t->primary_peak_a, current)},
        {"In its winding", print(t->secondary_peak_a, current)},
        {"Across the burden", print(t->burden_peak_v, voltage)},
        {"Burden, on average",
         QString("%1 of %2").arg(print(t->burden_average_w, power), print(d.bridge.burden_rating_w, power))},
        {"Core", QString("%1 T of %2 T").arg(t->flux_t, 0, 'g', 2).arg(d.bridge.transformer_limit_t, 0, 'g', 2)},
        {"Serves from", print(t->lowest_hz, frequency)},
        {"Its signal leads by", print(t->lead_s, time)}};
    if (t->comparator_v)
      rows.push_back({QString("Comparator, for %1").arg(print(*d.bridge.current_limit_a, current)),
                      print(*t->comparator_v, voltage)});
    show_figures_in(figures_, rows);
    words_->setText(
        "Peak values of the simulated burst. The winding's resistance and stray capacitance are left out; "
        "set the comparator with a known current through the core before the coil.");
  }

  QTableWidget* figures_ = nullptr;
  QLabel* words_ = nullptr;
};

} // namespace

void show_transformer_sheet(Workspace& workspace, QWidget* parent) {
  (new TransformerSheet(workspace, parent))->open();
}

// The bank search over the workshop's shelf.
#include "bank/bank_finder.h"

#include "bank/bank_view.h"
#include "bank/shelf_sheet.h"
#include "base/latest_job.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"
#include "workshop/bank_search.h"
#include "workshop/shelf.h"

#include <QComboBox>
#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace {

struct Offer {
  arc::BankProposal bank;
  std::optional<double> tap;
};

struct Offers {
  std::vector<Offer> list;
  bool left_out = false; // not all banks of this shelf were looked at
};

class BankFinder : public QDialog {
 public:
  BankFinder(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const Offers& offers) { show_offers(offers); },
             [this](const QString& problem) { verdict_->setText("The search ended with an error: " + problem); }) {
    setObjectName("bank finder");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Banks from the shelf");
    open_large(*this, {1010, 660});
    const auto analysis = workspace_.document.analysis();
    wish_.capacitance_f =
        analysis && analysis->tuned_capacitance_f ? *analysis->tuned_capacitance_f : arc::Tank{}.capacitance_f;
    wish_.voltage_v = analysis ? analysis->tank_peak_v : workspace_.document.design().gap.firing_voltage_v;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_shelf_row());
    column->addLayout(make_wish_row());
    offers_ = make_table(this, "bank offers",
                         {"Bank", "Capacitance", "Rated voltage", "Units", "Left on shelf", "Price",
                          "Worst-loaded unit", "Tap at resonance"});
    offers_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    offers_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    connect(offers_, &QTableWidget::itemSelectionChanged, this, &BankFinder::update_take);
    column->addWidget(offers_, 3);
    picture_ = new BankView(workspace_, this);
    picture_->setObjectName("offered bank");
    picture_->setAcceptDrops(false);
    picture_->setFocusPolicy(Qt::NoFocus);
    column->addWidget(picture_, 2);
    verdict_ = caption_label({}, this);
    verdict_->setObjectName("bank verdict");
    verdict_->setWordWrap(true);
    column->addWidget(verdict_);
    auto* row = new QHBoxLayout;
    take_ = new QPushButton("Use this bank", this);
    take_->setObjectName("take bank");
    take_->setAutoDefault(false);
    connect(take_, &QPushButton::clicked, this, &BankFinder::take);
    row->addWidget(take_);
    row->addStretch();
    auto* close = new QPushButton("Close", this);
    close->setAutoDefault(false);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    row->addWidget(close);
    column->addLayout(row);
    connect(&workspace_.shelf, &ShelfStore::changed, this, &BankFinder::search);
    offers_->setFocus();
    search();
  }

 private:
  QLayout* make_shelf_row() {
    auto* row = new QHBoxLayout;
    name_ = make_text(this);
    name_->setObjectName("searched shelf");
    name_->setWordWrap(true);
    row->addWidget(name_, 1);
    examples_ = make_invented_switch(workspace_, this);
    row->addWidget(examples_);
    auto* edit = new QPushButton("The shelf…", this);
    edit->setAutoDefault(false);
    connect(edit, &QPushButton::clicked, this, [this] { show_shelf_sheet(workspace_, "capacitors", this); });
    row->addWidget(edit);
    return row;
  }

  QLayout* make_wish_row() {
    auto* row = new QHBoxLayout;
    row->setSpacing(space::medium);
    const auto add = [&](const char* name, const char* label, arc::Dimension dimension, double low, double high,
                         double unit, double& value) {
      QuantityRole role;
      role.name = name;
      role.label = label;
      role.dimension = dimension;
      role.minimum = low;
      role.maximum = high;
      role.get = [&value, unit] { return std::optional(value / unit); };
      role.set = [this, &value, unit](std::optional<double> v, const QString&) {
        if (v) value = *v * unit;
        search();
      };
      row->addWidget(labelled(new QuantityField(workspace_, std::move(role), this), this));
    };
    add("wanted capacitance", "Target C", arc::Dimension::capacitance, 1e-13, 1e-3, 1, wish_.capacitance_f);
    add("wanted voltage", "Peak across the bank", arc::Dimension::voltage, 1, 1e6, 1, wish_.voltage_v);
    add("wanted margin", "Load units to at most", arc::Dimension::percent, 10, 100, 0.01, wish_.margin);
    add("wanted nearness", "Off by at most", arc::Dimension::percent, 0.1, 90, 0.01, wish_.largest_miss);
    auto* order = new QComboBox(this);
    order->setObjectName("bank order");
    order->setAccessibleName("Best first by");
    for (const arc::BankOrder& each : arc::bank_orders()) order->addItem(text_of(each.label));
    connect(order, &QComboBox::activated, this, [this](int index) {
      wish_.order = arc::bank_orders()[static_cast<std::size_t>(index)].key;
      search();
    });
    row->addWidget(captioned("Best first by", order, this));
    row->addStretch();
    return row;
  }

  QString print(double si, arc::Dimension dimension) const {
    return quantity_text(si, dimension, workspace_.units(), 4);
  }

  void search() {
    parts_ = arc::shelf_capacitors(workspace_.shelf.shelf());
    int pieces = 0;
    QStringList doubtful;
    for (const arc::ShelfCapacitor& part : parts_) {
      pieces += part.count;
      if (arc::doubtful_marking(part, wish_.capacitance_f)) doubtful << QString::fromStdString(part.name);
    }
    name_->setText(QString("%1: %2 capacitors of %3 kinds%4.%5")
                       .arg(QString::fromStdString(workspace_.shelf.shelf().name))
                       .arg(pieces)
                       .arg(parts_.size())
                       .arg(workspace_.shelf.shelf().invented_count && workspace_.shelf.has_invented()
                                ? ", invented examples among them"
                                : "",
                            doubtful.isEmpty() ? ""
                                               : " A thousand times off, is the marking read right? " +
                                                     doubtful.join(", ") + "."));
    job_.start([parts = parts_, wish = wish_, design = workspace_.document.design(),
                target = workspace_.document.analysis() ? workspace_.document.analysis()->target_hz
                                                        : 0.0](const std::atomic<bool>& cancelled) {
      Offers out;
      for (arc::BankProposal& bank : arc::find_banks(parts, wish, &cancelled, &out.left_out)) {
        const auto tap = target > 0 ? arc::tap_for_frequency(design, bank.capacitance_f, target) : std::nullopt;
        out.list.push_back({std::move(bank), tap});
      }
      return out;
    });
  }

  void show_offers(const Offers& all) {
    const std::vector<Offer>& offers = all.list;
    found_ = offers;
    offers_->setRowCount(static_cast<int>(offers.size()));
    for (int r = 0; r < offers_->rowCount(); ++r) {
      const Offer& offer = offers[static_cast<std::size_t>(r)];
      const double off = 100 * offer.bank.miss(wish_);
      const QStringList cells{
          QString::fromStdString(offer.bank.layout),
          QString("%1  %2%3 %")
              .arg(print(offer.bank.capacitance_f, arc::Dimension::capacitance), off > 0 ? "+" : "")
              .arg(off, 0, 'f', 1),
          print(offer.bank.voltage_v, arc::Dimension::voltage),
          QString::number(offer.bank.units),
          QString::number(offer.bank.left),
          offer.bank.unpriced > 0 ? QString("not given") : QString::number(offer.bank.price, 'f', 2),
          QString("%1 % of rating").arg(offer.bank.unit_share * 100, 0, 'f', 0),
          offer.tap ? QString::number(*offer.tap, 'f', 2) : QString("none")};
      set_row(offers_, r, cells);
      offers_->item(r, 0)->setToolTip(cells[0]);
    }
    verdict_->setText(
        parts_.empty()
            ? !workspace_.shelf.shelf().of("capacitors").empty()
                  ? QString("The shelf holds invented examples only, and they do not count as yours. Put your "
                            "own there, or let the examples count.")
                  : QString("There are no capacitors on the shelf yet: put yours there first.")
        : offers.empty()
            ? QString("This shelf cannot make such a bank. Lower the voltage or the margin, or put more parts on "
                      "the shelf.")
            : "Best overall: close to what is wanted, few units, room in their ratings. Each unit is counted "
              "at the worst of its tolerance; every unit needs its bleeder. "
              "Capacitors recharge themselves: short them before and after work." +
                  QString(all.left_out ? " This shelf is so large that not every mixed bank was looked at." : ""));
    if (!offers.empty()) offers_->selectRow(0);
    update_take();
  }

  const Offer* chosen() const {
    const int row = offers_->currentRow();
    return row >= 0 && row < static_cast<int>(found_.size()) ? &found_[static_cast<std::size_t>(row)] : nullptr;
  }

  void update_take() {
    const Offer* offer = chosen();
    take_->setEnabled(offer != nullptr);
    picture_->setVisible(offer != nullptr);
    if (offer)
      picture_->preview(arc::tank_of(parts_, offer->bank, workspace_.document.design().tank), std::nullopt,
                        wish_.voltage_v);
    take_->setToolTip(!offer ? "Choose a bank first" : "Becomes the tank; Undo takes it back");
  }

  void take() {
    const Offer* offer = chosen();
    if (!offer) return;
    workspace_.document.edit("Take a bank from the shelf", [&](arc::Design& design) {
      design.tank = arc::tank_of(parts_, offer->bank, design.tank);
    });
    verdict_->setText("Bank applied. Undo in the main window brings the old tank back.");
  }

  Workspace& workspace_;
  std::vector<arc::ShelfCapacitor> parts_;
  arc::BankWish wish_;
  std::vector<Offer> found_;
  QLabel* name_ = nullptr;
  QWidget* examples_ = nullptr;
  QLabel* verdict_ = nullptr;
  QTableWidget* offers_ = nullptr;
  BankView* picture_ = nullptr;
  QPushButton* take_ = nullptr;
  LatestJob<Offers> job_;
};

} // namespace

void show_bank_finder(Workspace& workspace, QWidget* parent) {
  (new BankFinder(workspace, parent))->open();
}

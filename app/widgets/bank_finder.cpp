// The shelf as a table that can be edited, and the bank search beside it.
#include "widgets/bank_finder.h"

#include "parts/bank_search.h"
#include "parts/shelf.h"
#include "widgets/common.h"
#include "widgets/latest_job.h"
#include "widgets/quantity_field.h"

#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
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

class BankFinder : public QDialog {
 public:
  BankFinder(Workspace& workspace, QWidget* parent)
      : QDialog(parent), workspace_(workspace),
        job_([this](const std::vector<Offer>& offers) { show_offers(offers); }) {
    setObjectName("bank finder");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Banks from the shelf");
    resize(980, 620);
    const auto analysis = workspace_.document.analysis();
    wish_.capacitance_f =
        analysis && analysis->tuned_capacitance_f ? *analysis->tuned_capacitance_f : arc::Tank{}.capacitance_f;
    wish_.voltage_v = workspace_.document.design().gap.firing_voltage_v;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_shelf_row());
    parts_ = make_table(this, "shelf parts", {"Part", "Each", "Rating", "Count", "Tolerance", "Note"});
    parts_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    column->addWidget(parts_, 2);
    column->addLayout(make_wish_row());
    offers_ =
        make_table(this, "bank offers", {"Bank", "Capacitance", "Holds", "Units", "Fullest unit", "Clip in tune"});
    offers_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    offers_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    connect(offers_, &QTableWidget::itemSelectionChanged, this, &BankFinder::update_take);
    column->addWidget(offers_, 3);
    verdict_ = caption_label({}, this);
    verdict_->setObjectName("bank verdict");
    verdict_->setWordWrap(true);
    column->addWidget(verdict_);
    auto* row = new QHBoxLayout;
    take_ = new QPushButton("Take this bank", this);
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
    set_shelf(arc::starter_shelf(), "invented values: open your own");
  }

 private:
  QLayout* make_shelf_row() {
    auto* row = new QHBoxLayout;
    name_ = new QLabel(this);
    name_->setObjectName("shelf name");
    name_->setFont(type::font(type::body, QFont::DemiBold));
    row->addWidget(name_, 1);
    const auto add = [&](const char* name, const char* text, void (BankFinder::*action)()) {
      auto* button = new QPushButton(text, this);
      button->setObjectName(name);
      button->setAutoDefault(false);
      connect(button, &QPushButton::clicked, this, action);
      row->addWidget(button);
    };
    add("open shelf", "Open a shelf…", &BankFinder::open_shelf);
    add("save shelf", "Save the shelf…", &BankFinder::save_shelf);
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
    add("wanted capacitance", "Wanted", arc::Dimension::capacitance, 1e-13, 1e-3, 1, wish_.capacitance_f);
    add("wanted voltage", "Peak across the bank", arc::Dimension::voltage, 1, 1e6, 1, wish_.voltage_v);
    add("wanted margin", "Load units to at most", arc::Dimension::percent, 10, 100, 0.01, wish_.margin);
    row->addStretch();
    return row;
  }

  void set_shelf(arc::Shelf shelf, const QString& origin) {
    shelf_ = std::move(shelf);
    name_->setText(QString("%1 (%2)").arg(QString::fromStdString(shelf_.name), origin));
    search();
  }

  void open_shelf() {
    const QString path =
        QFileDialog::getOpenFileName(this, "Open a shelf", {}, "Shelves (*.json *.csv);;All files (*)");
    QByteArray bytes;
    QString problem;
    if (path.isEmpty()) return;
    if (read_whole_file(path, &bytes, &problem)) {
      try {
        const std::string_view text(bytes.constData(), static_cast<std::size_t>(bytes.size()));
        set_shelf(path.endsWith(".csv", Qt::CaseInsensitive) ? arc::shelf_from_csv(text) : arc::read_shelf(text),
                  QFileInfo(path).fileName());
        return;
      } catch (const arc::ShelfError& error) {
        problem = QString::fromStdString(error.what());
      }
    }
    verdict_->setText(
        QString("%1 was not opened: %2. The shelf is as it was.").arg(QFileInfo(path).fileName(), problem));
  }

  void save_shelf() {
    const QString path =
        QFileDialog::getSaveFileName(this, "Save the shelf", "shelf.json", "Shelves (*.json *.csv)");
    if (path.isEmpty()) return;
    const std::string text =
        path.endsWith(".csv", Qt::CaseInsensitive) ? arc::shelf_to_csv(shelf_) : arc::write_shelf(shelf_);
    QString problem;
    verdict_->setText(write_whole_file(path, QByteArray::fromStdString(text), &problem)
                          ? "Written to " + path
                          : "Not written: " + problem);
  }

  QString print(double si, arc::Dimension dimension) const {
    return quantity_text(si, dimension, workspace_.units(), 4);
  }

  void search() {
    const auto doubtful = arc::doubtful_markings(shelf_, wish_.capacitance_f);
    parts_->setRowCount(static_cast<int>(shelf_.capacitors.size()));
    for (int r = 0; r < parts_->rowCount(); ++r) {
      const arc::ShelfCapacitor& part = shelf_.capacitors[static_cast<std::size_t>(r)];
      const bool doubt = std::ranges::count(doubtful, part.name) > 0;
      const QStringList cells{QString::fromStdString(part.name),
                              print(part.capacitance_f, arc::Dimension::capacitance),
                              print(part.voltage_v, arc::Dimension::voltage),
                              QString::number(part.count),
                              QString("%1 %").arg(part.tolerance * 100),
                              doubt ? "a thousand times off: is the marking read right?" : ""};
      for (int c = 0; c < cells.size(); ++c) parts_->setItem(r, c, new QTableWidgetItem(cells[c]));
    }
    job_.start([shelf = shelf_, wish = wish_, design = workspace_.document.design(),
                target = workspace_.document.analysis() ? workspace_.document.analysis()->target_hz
                                                        : 0.0](const std::atomic<bool>&) {
      std::vector<Offer> out;
      for (arc::BankProposal& bank : arc::find_banks(shelf, wish)) {
        const auto tap = target > 0 ? arc::tap_for_frequency(design, bank.capacitance_f, target) : std::nullopt;
        out.push_back({std::move(bank), tap});
      }
      return out;
    });
  }

  void show_offers(const std::vector<Offer>& offers) {
    found_ = offers;
    offers_->setRowCount(static_cast<int>(offers.size()));
    for (int r = 0; r < offers_->rowCount(); ++r) {
      const Offer& offer = offers[static_cast<std::size_t>(r)];
      const double off = (offer.bank.capacitance_f / wish_.capacitance_f - 1) * 100;
      const QStringList cells{
          QString::fromStdString(offer.bank.layout),
          QString("%1  %2%3 %")
              .arg(print(offer.bank.capacitance_f, arc::Dimension::capacitance), off > 0 ? "+" : "")
              .arg(off, 0, 'f', 1),
          print(offer.bank.voltage_v, arc::Dimension::voltage),
          QString::number(offer.bank.units),
          QString("%1 % of rating").arg(offer.bank.unit_share * 100, 0, 'f', 0),
          offer.tap ? QString::number(*offer.tap, 'f', 2) : QString("none")};
      for (int c = 0; c < cells.size(); ++c) offers_->setItem(r, c, new QTableWidgetItem(cells[c]));
      offers_->item(r, 0)->setToolTip(cells[0]);
    }
    verdict_->setText(
        offers.empty()
            ? "This shelf cannot make such a bank. Lower the voltage or the margin, or put more parts on the shelf."
            : "Best first: close to what is wanted, few units, room in their ratings. Each unit is counted at the "
              "worst of its tolerance; every unit needs its bleeder. "
              "Capacitors recharge themselves: short them before and after work.");
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
    take_->setToolTip(!offer ? "Choose a bank first"
                      : offer->bank.strings.size() > 1
                          ? "Taken as one value with the bank's rating: its strings differ"
                          : "Becomes the tank; Undo takes it back");
  }

  void take() {
    const Offer* offer = chosen();
    if (!offer) return;
    workspace_.document.edit("Take a bank from the shelf", [&](arc::Design& design) {
      arc::Tank& tank = design.tank;
      const arc::BankString& first = offer->bank.strings.front();
      const arc::ShelfCapacitor& part = shelf_.capacitors[first.part];
      if (offer->bank.strings.size() == 1) {
        tank.unit_capacitance_f = part.capacitance_f;
        tank.unit_voltage_v = part.voltage_v;
        tank.units_in_series = first.in_series;
        tank.units_in_parallel = first.in_parallel;
      } else {
        tank.unit_capacitance_f.reset();
        tank.units_in_series = tank.units_in_parallel = 1;
        tank.capacitance_f = offer->bank.capacitance_f;
        tank.unit_voltage_v = offer->bank.voltage_v / wish_.margin;
      }
    });
    verdict_->setText("Taken. Undo in the main window brings the old tank back.");
  }

  Workspace& workspace_;
  arc::Shelf shelf_;
  arc::BankWish wish_;
  std::vector<Offer> found_;
  QLabel* name_ = nullptr;
  QLabel* verdict_ = nullptr;
  QTableWidget* parts_ = nullptr;
  QTableWidget* offers_ = nullptr;
  QPushButton* take_ = nullptr;
  LatestJob<std::vector<Offer>> job_;
};

} // namespace

void show_bank_finder(Workspace& workspace, QWidget* parent) {
  (new BankFinder(workspace, parent))->open();
}

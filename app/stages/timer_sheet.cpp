// The sheet of timer circuits.
#include "stages/timer_sheet.h"
#include "toolkit/file_dialogs.h"

#include "timing/timer_schematic.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/schematic_painter.h"
#include "toolkit/text.h"

#include <QComboBox>
#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QVBoxLayout>
#include <functional>
#include <optional>
#include <stdexcept>

namespace {

using enum arc::Dimension;

// The circuit as drawn.
class Drawing : public QWidget {
 public:
  Drawing(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName("timer drawing");
    setMinimumSize(480, 272);
  }
  void show_circuit(arc::Schematic schematic) {
    schematic_ = std::move(schematic);
    update();
  }
  const arc::Schematic& schematic() const { return schematic_; }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    QSizeF size(schematic_.width, schematic_.height);
    size.scale(QSizeF(width(), height()), Qt::KeepAspectRatio);
    draw_schematic(painter, schematic_, QRectF(QPointF((width() - size.width()) / 2, 0), size), workspace_.theme());
  }

 private:
  Workspace& workspace_;
  arc::Schematic schematic_{.width = 1, .height = 1};
};

class TimerSheet : public QDialog {
 public:
  TimerSheet(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
    setObjectName("timer sheet");
    setWindowTitle("Timer circuits");
    setAttribute(Qt::WA_DeleteOnClose);
    open_large(*this, {1000, 640});
    for (const arc::ShelfCapacitor& c : arc::shelf_capacitors(workspace.shelf.shelf()))
      if (!c.polarised) task_.capacitors_f.push_back(c.capacitance_f);
    for (const arc::ShelfPart& part : workspace.shelf.shelf().of("resistors"))
      if (workspace.shelf.shelf().owned(part)) task_.resistors_ohm.push_back(part.values.at("resistance_ohm"));
    const arc::Interrupter& i = workspace.document.design().interrupter;
    task_.largest_duty = i.largest_duty;
    task_.on_s = {std::min(20e-6, i.on_time_s / 2), i.longest_on_s};
    task_.rate_hz = {std::min(20.0, i.rate_hz / 2), std::max(i.highest_rate_hz, i.rate_hz)};
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::small);
    column->addLayout(make_controls());
    words_ = make_text(this);
    words_->setObjectName("timer words");
    words_->setWordWrap(true);
    column->addWidget(words_);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(space::medium);
    drawing_ = new Drawing(workspace, this);
    middle->addWidget(drawing_, 3);
    table_ = make_table(this, "timer parts", {"Part", "What", "Value", "On hand"});
    wrap_column(table_, 1);
    table_->setMinimumWidth(360);
    middle->addWidget(table_, 2);
    column->addLayout(middle, 1);
    wires_ = caption_label({}, this);
    wires_->setObjectName("timer wires");
    wires_->setWordWrap(true);
    column->addWidget(wires_);
    column->addLayout(make_buttons());
    refresh();
  }

 private:
  QLayout* make_controls() {
    auto* row = new QHBoxLayout;
    which_ = new QComboBox(this);
    which_->setObjectName("timer circuit");
    which_->setAccessibleName("Circuit");
    which_->addItems({"Two timers: a clock and a one-shot", "One timer with a steering diode"});
    connect(which_, &QComboBox::activated, this, [this] { refresh(); });
    row->addWidget(captioned("Circuit", which_, this), 2);
    add(row, "shortest on", "Shortest on-time", time, 1e-6, 0.1, task_.on_s.low);
    add(row, "longest on", "Longest", time, 1e-6, 0.1, task_.on_s.high);
    add(row, "lowest rate", "Lowest rate", frequency, 0.1, 20000, task_.rate_hz.low);
    add(row, "highest rate", "Highest", frequency, 0.1, 20000, task_.rate_hz.high);
    add(row, "timer supply", "Supply", voltage, 4.5, 16, task_.supply_v);
    return row;
  }

  QLayout* make_buttons() {
    auto* buttons = new QHBoxLayout;
    save_ = add_sheet_button(this, buttons, "save timer parts", "Parts list…", [this] {
      save("Parts list", "interrupter-parts.csv", "CSV (*.csv)", [this](const QString& path, QString* problem) {
        return write_whole_file(path, QByteArray::fromStdString(arc::timer_parts_csv(*circuit_)), problem);
      });
    });
    draw_ = add_sheet_button(this, buttons, "save timer drawing", "Drawing…", [this] {
      save("Drawing", "interrupter.svg", "SVG (*.svg)", [this](const QString& path, QString* problem) {
        return save_schematic(drawing_->schematic(), path, problem);
      });
    });
    buttons->addStretch();
    add_sheet_button(this, buttons, "close timer sheet", "Close", [this] { accept(); });
    return buttons;
  }

  void add(QHBoxLayout* row, const char* name, const char* label, arc::Dimension dimension, double low, double high,
           double& value) {
    QuantityRole role;
    role.name = QString("timer ") + name;
    role.label = label;
    role.dimension = dimension;
    role.minimum = low;
    role.maximum = high;
    role.get = [&value] { return std::optional(value); };
    role.set = [this, &value](std::optional<double> v, const QString&) {
      if (!v) return;
      value = *v;
      refresh();
    };
    row->addWidget(labelled(new QuantityField(workspace_, std::move(role), this), this), 1);
  }

  void refresh() {
    circuit_.reset();
    try {
      circuit_ = which_->currentIndex() == 0 ? arc::two_timers(task_) : arc::steered_timer(task_);
    } catch (const std::invalid_argument& refusal) {
      words_->setText(QString::fromUtf8(refusal.what()));
    }
    save_->setEnabled(circuit_.has_value());
    draw_->setEnabled(circuit_.has_value());
    drawing_->setVisible(circuit_.has_value());
    table_->setRowCount(circuit_ ? static_cast<int>(circuit_->parts.size()) : 0);
    wires_->clear();
    if (!circuit_) return;
    words_->setText(
        QString("On-time %1 to %2 (± %3 %), rate %4 to %5 (± %6 %), duty %7 to %8 %. Bands: resistors 1 %, "
                "film capacitors 5 %, all at their worst.")
            .arg(print(circuit_->on_s.low, time), print(circuit_->on_s.high, time))
            .arg(100 * circuit_->on_band, 0, 'f', 0)
            .arg(print(circuit_->rate_hz.low, frequency), print(circuit_->rate_hz.high, frequency))
            .arg(100 * circuit_->rate_band, 0, 'f', 0)
            .arg(100 * circuit_->duty.low, 0, 'g', 2)
            .arg(100 * circuit_->duty.high, 0, 'g', 2) +
        (circuit_->note.empty() ? QString() : " " + QString::fromStdString(circuit_->note)));
    int line = 0;
    for (const arc::TimerPart& part : circuit_->parts)
      set_row(table_, line++,
              {QString::fromStdString(part.name), QString::fromStdString(part.what),
               part.value > 0 ? print(part.value, part.dimension) : QString(), part.on_hand ? "yes" : ""});
    drawing_->show_circuit(arc::timer_schematic(*circuit_, workspace_.units()));
    drawing_->setAccessibleName("Circuit: " + QString::fromStdString(circuit_->title));
    QStringList wires;
    for (const std::string& wire : circuit_->connections) wires << QString::fromStdString(wire);
    wires_->setText(wires.join("\n"));
  }

  void save(const QString& title, const QString& name, const QString& filter,
            const std::function<bool(const QString& path, QString* problem)>& write) {
    const QString path = file_dialogs::to_save(this, title, name, filter);
    QString problem;
    if (!path.isEmpty() && !write(path, &problem)) words_->setText("Not written: " + path + ": " + problem);
  }

  Workspace& workspace_;
  const Print print{workspace_};
  arc::TimerTask task_;
  std::optional<arc::TimerCircuit> circuit_;
  QComboBox* which_ = nullptr;
  QLabel *words_ = nullptr, *wires_ = nullptr;
  QTableWidget* table_ = nullptr;
  QPushButton *save_ = nullptr, *draw_ = nullptr;
  Drawing* drawing_ = nullptr;
};

} // namespace

void show_timer_sheet(Workspace& workspace, QWidget* parent) {
  (new TimerSheet(workspace, parent))->open();
}

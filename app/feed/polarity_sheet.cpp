// Guided polarity test.
#include "feed/polarity_sheet.h"

#include "circuit/feed.h"
#include "toolkit/common.h"
#include "toolkit/quantity_field.h"
#include "toolkit/text.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <optional>

namespace {

constexpr double test_setting = 0.05; // of the variac: a meter's range, still not harmless

class PolaritySheet : public QDialog {
 public:
  PolaritySheet(Workspace& workspace, std::size_t block, QWidget* parent)
      : QDialog(parent), workspace_(workspace), block_(block) {
    setObjectName("polarity sheet");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle("Polarity test");
    resize(620, 380);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(space::large, space::large, space::large, space::medium);
    column->setSpacing(space::medium);
    where_ = caption_label({}, this);
    column->addWidget(where_);
    steps_ = new QStackedWidget(this);
    const arc::FeedBlock& oven = feed_block();
    const double one = arc::block_value(oven, "output_v") * workspace_.document.design().site.mains_voltage_v *
                       test_setting / arc::block_value(oven, "rated_mains_v");
    const auto volts = [&](double v) { return quantity_text(v, arc::Dimension::voltage, workspace_.units(), 3); };
    series_ = static_cast<int>(arc::block_value(oven, "in_series"));
    add_step(
        "Before you start",
        "Unplugged, everything discharged and shorted, the tank taken off. Cores on insulation, tied to the low "
        "end "
        "of their own windings. A meter rated for the voltage on clips, so that no hand holds a probe. One hand "
        "behind the back; local codes and licensed practice come first.",
        {});
    add_step(
        "One transformer alone",
        QString(
            "Primary on the variac, secondary on the meter. Variac at %1 %, then plug in. Expect about %2. Read, "
            "turn to zero, unplug.")
            .arg(100 * test_setting, 0, 'f', 0)
            .arg(volts(one)),
        make_field("one alone", "Read across one", one_v_));
    add_step(
        "All secondaries in series",
        QString("Primaries in parallel on the variac, secondaries in series, the meter across all %1. The same "
                "setting. Expect about %2 when every winding helps, and much less when one opposes.")
            .arg(series_)
            .arg(volts(series_ * one)),
        make_field("all in series", "Read across all", all_v_));
    verdict_ = make_text(this);
    verdict_->setObjectName("polarity verdict");
    verdict_->setWordWrap(true);
    verdict_->setFont(type::font(type::strong, QFont::Medium));
    add_step("What it means", "", verdict_);
    column->addWidget(steps_, 1);
    auto* row = new QHBoxLayout;
    back_ = add_sheet_button(this, row, "polarity back", "Back", [this] { go(steps_->currentIndex() - 1); });
    next_ = add_sheet_button(this, row, "polarity next", "Next", [this] { go(steps_->currentIndex() + 1); });
    row->addStretch();
    keep_ = add_sheet_button(this, row, "polarity keep", "Note it in the feed", [this] { keep(); });
    add_sheet_button(this, row, "polarity close", "Close", [this] { accept(); });
    column->addLayout(row);
    go(0);
  }

 private:
  const arc::FeedBlock& feed_block() const { return workspace_.document.design().feed.at(block_); }

  QWidget* make_field(const char* name, const char* label, std::optional<double>& value) {
    QuantityRole role;
    role.name = name;
    role.label = label;
    role.dimension = arc::Dimension::voltage;
    role.minimum = 0;
    role.maximum = 1e5;
    role.nullable = true;
    role.get = [&value] { return value; };
    role.set = [this, &value](std::optional<double> v, const QString&) {
      value = v;
      go(steps_->currentIndex());
    };
    return labelled(new QuantityField(workspace_, std::move(role), this), this);
  }

  void add_step(const QString& title, const QString& text, QWidget* below) {
    auto* page = new QWidget(steps_);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    auto* head = make_text(title, page);
    head->setFont(type::font(type::heading, QFont::DemiBold));
    column->addWidget(head);
    if (!text.isEmpty()) {
      auto* words = make_text(text, page);
      words->setWordWrap(true);
      words->setFont(type::font(type::strong));
      column->addWidget(words);
    }
    if (below) column->addWidget(below);
    column->addStretch();
    steps_->addWidget(page);
  }

  int opposed() const { return one_v_ && all_v_ ? arc::opposed_windings(*one_v_, *all_v_, series_) : -1; }

  void go(int step) {
    steps_->setCurrentIndex(std::clamp(step, 0, steps_->count() - 1));
    const int at = steps_->currentIndex(), last = steps_->count() - 1;
    where_->setText(QString("Step %1 of %2").arg(at + 1).arg(last + 1));
    back_->setEnabled(at > 0);
    back_->setToolTip(at > 0 ? "" : "This is the first step");
    const bool read = (at != 1 || one_v_) && (at != 2 || all_v_);
    next_->setEnabled(at < last && read);
    next_->setToolTip(at == last ? "This is the last step" : read ? "" : "Enter what the meter shows first");
    keep_->setEnabled(at == last && opposed() >= 0);
    keep_->setToolTip(keep_->isEnabled() ? "Sets the count of opposed windings in the block; can be undone"
                                         : "Only once both readings say something");
    const int wrong = opposed();
    verdict_->setText(
        wrong == 0 ? "All windings help each other. Leave the wiring so, and mark the leads."
        : wrong > 0
            ? QString("%1 of %2 windings works against the others. Unplug, discharge, swap the two leads of "
                      "one primary, and do this test again.")
                  .arg(wrong)
                  .arg(series_)
            : QString("These readings fit no arrangement of %1 equal windings. Check meter, setting and "
                      "wiring, unplugged, then read again.")
                  .arg(series_));
  }

  void keep() {
    const int wrong = opposed();
    workspace_.document.edit("Polarity test", [&](arc::Design& design) {
      if (block_ < design.feed.size()) design.feed[block_].values["reversed"] = wrong;
    });
    accept();
  }

  Workspace& workspace_;
  std::size_t block_;
  int series_ = 2;
  std::optional<double> one_v_, all_v_;
  QLabel* where_ = nullptr;
  QStackedWidget* steps_ = nullptr;
  QLabel* verdict_ = nullptr;
  QPushButton* back_ = nullptr;
  QPushButton* next_ = nullptr;
  QPushButton* keep_ = nullptr;
};

} // namespace

void show_polarity_sheet(Workspace& workspace, std::size_t block, QWidget* parent) {
  (new PolaritySheet(workspace, block, parent))->open();
}

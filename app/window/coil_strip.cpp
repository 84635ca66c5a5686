// Value over its name; the widths follow the words.
#include "window/coil_strip.h"

#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/why_sheet.h"
#include "workshop/moved_number.h"

#include <QAbstractButton>
#include <QHBoxLayout>
#include <QPainter>

namespace {

constexpr int strip_height = 40;
constexpr int beside = 10; // the words, within an entry

} // namespace

class StripButton : public QAbstractButton {
 public:
  StripButton(Workspace& workspace, QWidget* parent) : QAbstractButton(parent), workspace_(workspace) {
    setCursor(Qt::PointingHandCursor);
    setAttribute(Qt::WA_Hover);
    setFixedHeight(strip_height);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  }

  void tell(const arc::StripItem& item) {
    item_ = item;
    setObjectName("strip " + text_of(item.key));
    setText(QString::fromStdString(item.value));
    setAccessibleName(title() + ": " + text());
    setToolTip(QString::fromStdString(item.full));
    setVisible(!item.title.empty());
    updateGeometry();
    update();
  }
  const arc::StripItem& item() const { return item_; }
  QString title() const { return QString::fromStdString(item_.title); }

  QSize sizeHint() const override {
    const int value = QFontMetrics(value_font()).horizontalAdvance(text());
    const int below = QFontMetrics(title_font()).horizontalAdvance(title());
    return {std::max(value, below) + 2 * beside, strip_height};
  }
  QSize minimumSizeHint() const override { return {90, strip_height}; }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& theme = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (underMouse()) painter.fillRect(rect(), theme.shade);
    if (hasFocus()) {
      painter.setPen(QPen(theme.arc, 1.5));
      painter.drawRoundedRect(QRectF(rect()).adjusted(2, 3, -2, -3), 4, 4);
    }
    const auto put = [&](const QFont& font, const QColor& colour, const QString& words, int base) {
      painter.setFont(font);
      painter.setPen(colour);
      painter.drawText(beside, base,
                       QFontMetrics(font).elidedText(words, Qt::ElideRight, width() - 2 * beside + 2));
    };
    put(value_font(), item_.alarm ? theme.stop : theme.ink, text(), 18);
    put(title_font(), theme.second, title(), 34);
  }

 private:
  static QFont value_font() { return type::font(type::strong, QFont::DemiBold); }
  static QFont title_font() { return type::font(type::caption); }

  Workspace& workspace_;
  arc::StripItem item_;
};

CoilStrip::CoilStrip(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
  setObjectName("strip");
  setAccessibleName("The whole coil");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(space::small, 0, space::small, 0);
  row->setSpacing(0);
  for (std::size_t i = 0; i < arc::strip_places; ++i) {
    buttons_.push_back(new StripButton(workspace_, this));
    connect(buttons_.back(), &QAbstractButton::clicked, this, [this, i] { press(i); });
    row->addWidget(buttons_.back());
    row->addStretch();
    grey_while_stale(workspace_, buttons_.back(), true);
  }
  connect(&workspace_.document, &Document::analysis_changed, this, &CoilStrip::refresh);
  connect(&workspace_.document, &Document::power_changed, this, &CoilStrip::refresh);
  refresh();
}

arc::PowerView CoilStrip::view(const arc::Analysis& analysis) const {
  const arc::Design& design = workspace_.document.design();
  const arc::PowerAnalysis* power = workspace_.document.power_of_kind();
  return power ? arc::PowerView{design, analysis, *power} : arc::at_rest(design, analysis);
}

void CoilStrip::refresh() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  const auto items = arc::strip_of(view(*analysis), workspace_.document.findings(), workspace_.units());
  for (std::size_t i = 0; i < items.size(); ++i) buttons_[i]->tell(items[i]);
}

void CoilStrip::press(std::size_t place) {
  const StripButton& button = *buttons_[place];
  const arc::StripItem& item = button.item();
  if (item.key == arc::open_place) return Q_EMIT findings_requested();
  const auto analysis = workspace_.document.analysis();
  const arc::Explanation why =
      item.figure && analysis ? arc::explain(*item.figure, view(*analysis), workspace_.units()) : item.why;
  const QString stage = QString::fromStdString(item.stage);
  std::function<void()> go_to, solve;
  if (!stage.isEmpty()) go_to = [this, stage] { workspace_.go_to(stage, {}); };
  if (item.figure)
    solve = [this, name = QString::fromStdString(arc::name_of(*item.figure))] { workspace_.solve_for(name); };
  show_why(this, button.title(), QString::fromStdString(item.value), {}, why, go_to, solve);
}

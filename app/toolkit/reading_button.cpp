// Reading with its "why" sheet.
#include "toolkit/reading_button.h"

#include "toolkit/common.h"
#include "toolkit/why_sheet.h"
#include "workshop/moved_number.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>

ReadingButton::ReadingButton(Workspace& workspace, std::string_view key, QWidget* parent)
    : QAbstractButton(parent), workspace_(workspace), figure_(arc::figure_at_rest(key)),
      title_(text_of(figure_.title)) {
  setObjectName("reading " + text_of(key));
  setCursor(Qt::PointingHandCursor);
  setFocusPolicy(Qt::TabFocus);
  seen_ = new WhenSeen(this, [this] { refresh(); });
  seen_->on(workspace_.document, &Document::analysis_changed);
  connect(&workspace_, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  connect(this, &QAbstractButton::clicked, this, &ReadingButton::show_why);
  refresh();
}

QString ReadingButton::value_text() {
  seen_->catch_up();
  return value_;
}

void ReadingButton::refresh() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  const arc::PowerView view = arc::at_rest(workspace_.document.design(), *analysis);
  value_ = QString::fromStdString(arc::value_text(figure_, view, workspace_.units()));
  band_ = QString::fromStdString(arc::band_text(figure_, view, workspace_.units()));
  beside_ = figure_.beside && figure_.beside(view);
  setAccessibleName(QString("%1 %2 %3").arg(title_, value_, band_).trimmed());
  setAccessibleDescription("Press for how it was computed");
  setToolTip(title_ + ": why?");
  updateGeometry();
  resize(sizeHint());
  update();
}

// What counts stands large; what is told beside it does not.
QFont ReadingButton::value_font() const {
  return beside_ ? type::font(type::caption) : type::font(type::strong, QFont::DemiBold);
}

QSize ReadingButton::sizeHint() const {
  const QFontMetrics strong(value_font());
  const QFontMetrics caption(type::font(type::caption));
  return {strong.horizontalAdvance(value_) + caption.horizontalAdvance(band_) + caption.horizontalAdvance(title_) +
              28,
          22};
}

void ReadingButton::paintEvent(QPaintEvent*) {
  const Theme& theme = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  if (underMouse() || hasFocus()) {
    painter.setPen(hasFocus() ? QPen(theme.arc, 1.5) : QPen(Qt::NoPen));
    painter.setBrush(theme.shade);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 4, 4);
  }
  int x = 4;
  const auto put = [&](const QFont& font, const QColor& colour, const QString& text, int gap) {
    painter.setFont(font);
    painter.setPen(colour);
    painter.drawText(x, 16, text);
    x += QFontMetrics(font).horizontalAdvance(text) + gap;
  };
  put(value_font(), beside_ ? theme.second : theme.ink, value_, 8);
  if (!band_.isEmpty()) put(type::font(type::caption), theme.second, band_, 8);
  put(type::font(type::caption), theme.second, title_.left(1).toLower() + title_.mid(1), 0);
}

void ReadingButton::enterEvent(QEnterEvent* event) {
  QAbstractButton::enterEvent(event);
  update();
}

void ReadingButton::leaveEvent(QEvent* event) {
  QAbstractButton::leaveEvent(event);
  update();
}

QString ReadingButton::plain_value() const {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return {};
  const auto value = arc::figure_value(figure_, arc::at_rest(workspace_.document.design(), *analysis));
  return value ? QString::number(*value, 'g', 9) : QString();
}

void ReadingButton::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_C || !(event->modifiers() & Qt::ControlModifier))
    return QAbstractButton::keyPressEvent(event);
  QApplication::clipboard()->setText(event->modifiers() & Qt::ShiftModifier ? plain_value() : value_text());
}

void ReadingButton::contextMenuEvent(QContextMenuEvent* event) {
  QMenu menu(this);
  for (const QString& text : {value_text(), plain_value()})
    if (!text.isEmpty()) menu.addAction("Copy " + text, [text] { QApplication::clipboard()->setText(text); });
  menu.addAction("Why?", this, &ReadingButton::show_why);
  menu.exec(event->globalPos());
}

void ReadingButton::show_why() {
  const auto analysis = workspace_.document.analysis();
  if (!analysis) return;
  const arc::Explanation why =
      arc::explain(figure_, arc::at_rest(workspace_.document.design(), *analysis), workspace_.units());
  ::show_why(this, title_, value_, band_, why, {},
             [this] { workspace_.solve_for(QString::fromStdString(arc::name_of(figure_))); });
}

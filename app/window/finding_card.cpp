// While its kind stays the same only a card's words change, so that dragging does not rebuild widgets.
#include "window/finding_card.h"

#include "analysis/findings.h"
#include "craft/dismissed.h"
#include "toolkit/aged.h"
#include "toolkit/common.h"
#include "toolkit/link_button.h"
#include "toolkit/text.h"
#include "workshop/arming.h"
#include "workshop/shelf_note.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QShortcut>
#include <algorithm>

namespace {

constexpr int fold_mark = 14; // room for the triangle that says open or closed

/// Octagon with "!" for a stop, triangle for a warning, ring for a note.
class Badge : public QWidget {
 public:
  Badge(Workspace& workspace, arc::Severity severity, QWidget* parent)
      : QWidget(parent), workspace_(workspace), severity_(severity) {
    setFixedSize(20, 20);
    setAccessibleName(text_of(arc::severity_name(severity)));
    setToolTip(accessibleName());
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Theme& theme = workspace_.theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QColor colour = severity_ == arc::Severity::stop      ? theme.stop
                          : severity_ == arc::Severity::warning ? theme.warn
                                                                : theme.second;
    painter.setPen(QPen(colour, 1.6));
    if (severity_ == arc::Severity::stop) {
      painter.setBrush(colour);
      painter.drawPolygon(QPolygonF{{7, 2}, {13, 2}, {18, 7}, {18, 13}, {13, 18}, {7, 18}, {2, 13}, {2, 7}});
      painter.setPen(theme.paper);
    } else if (severity_ == arc::Severity::warning) {
      painter.drawPolygon(QPolygonF{{10, 2}, {18.5, 17}, {1.5, 17}});
    } else {
      painter.drawEllipse(QRectF(3, 3, 14, 14));
    }
    painter.setFont(type::font(11, QFont::DemiBold));
    painter.drawText(severity_ == arc::Severity::warning ? rect().adjusted(0, 3, 0, 0) : rect(), Qt::AlignCenter,
                     severity_ == arc::Severity::note ? "i" : "!");
  }

 private:
  Workspace& workspace_;
  arc::Severity severity_;
};

QPushButton* link(QWidget* parent, const QString& name, const QString& words) {
  auto* button = new QPushButton(words, parent);
  button->setObjectName(name);
  button->setProperty("link", true);
  button->setFont(type::font(type::caption));
  return button;
}

} // namespace

FoldLine::FoldLine(Workspace& workspace, QWidget* parent) : QAbstractButton(parent), workspace_(workspace) {
  setFont(type::font(type::body, QFont::DemiBold));
  setAttribute(Qt::WA_Hover);
  QSizePolicy policy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
  set_fold(true, false);
}

void FoldLine::set_fold(bool can, bool open) {
  can_ = can;
  open_ = open;
  setCursor(can ? Qt::PointingHandCursor : Qt::ArrowCursor);
  setAccessibleDescription(!can ? QString() : open ? "open; press to fold" : "folded; press to open");
  updateGeometry();
  update();
}

void FoldLine::set_more(int others) {
  others_ = others;
  update();
}

int FoldLine::line_height() const {
  return fontMetrics().height() + 3;
}

int FoldLine::text_width(int width) const {
  return std::max(20, width - 2 - (can_ ? fold_mark : 0));
}

QSize FoldLine::sizeHint() const {
  return {140, heightForWidth(width() > 60 ? width() : 250)};
}

int FoldLine::heightForWidth(int width) const {
  if (can_ && !open_) return line_height();
  return fontMetrics().boundingRect(QRect(0, 0, text_width(width), 1000), Qt::TextWordWrap, text()).height() + 3;
}

void FoldLine::paintEvent(QPaintEvent*) {
  const Theme& theme = workspace_.theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  if (hasFocus()) {
    painter.setPen(QPen(theme.arc, 1));
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  }
  painter.setPen(isEnabled() ? theme.ink : theme.second);
  QFont face = font();
  face.setUnderline(can_ && underMouse());
  painter.setFont(face);
  const QString more = others_ > 0 && !open_ ? QString("  +%1").arg(others_) : QString();
  const QRect room(1, 1, text_width(width()), height());
  if (can_ && !open_)
    painter.drawText(
        room, Qt::AlignLeft | Qt::AlignTop,
        fontMetrics().elidedText(text(), Qt::ElideRight, room.width() - fontMetrics().horizontalAdvance(more)) +
            more);
  else
    painter.drawText(room, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, text());
  if (!can_) return;
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.second);
  const QPointF at(width() - fold_mark / 2.0, line_height() / 2.0);
  if (open_)
    painter.drawPolygon(QPolygonF{at + QPointF(-4, -2.5), at + QPointF(4, -2.5), at + QPointF(0, 3)});
  else
    painter.drawPolygon(QPolygonF{at + QPointF(-2.5, -4), at + QPointF(3, 0), at + QPointF(-2.5, 4)});
}

FindingCard::FindingCard(Workspace& workspace, const arc::Finding& finding, QWidget* parent)
    : QWidget(parent), workspace_(workspace), finding_(finding) {
  const QString id = QString::fromStdString(finding.id);
  setObjectName("finding " + id);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 2, 0, 2);
  row->setSpacing(space::small);
  row->addWidget(new Badge(workspace_, finding.severity, this), 0, Qt::AlignTop);
  auto* column = new QVBoxLayout;
  column->setSpacing(2);
  line_ = new FoldLine(workspace_, this);
  line_->setObjectName("fold " + id);
  connect(line_, &QAbstractButton::clicked, this, [this] {
    if (finding_.severity == arc::Severity::stop) return;
    set_open(!open_);
    Q_EMIT folded(open_);
  });
  column->addWidget(line_);
  body_ = new QWidget(this);
  auto* inner = new QVBoxLayout(body_);
  inner->setContentsMargins(0, 0, 0, 0);
  inner->setSpacing(2);
  text_ = caption_label({}, body_);
  text_->setWordWrap(true);
  inner->addWidget(text_);
  dismissed_ = caption_label({}, body_);
  dismissed_->setWordWrap(true);
  inner->addWidget(dismissed_);
  add_remedy(inner);
  add_links(inner);
  add_reason(inner);
  column->addWidget(body_);
  row->addLayout(column, 1);
  veil_ = new Veil(workspace, this);
  set_open(finding.severity == arc::Severity::stop);
  tell(finding);
}

void FindingCard::add_remedy(QLayout* column) {
  const QString id = QString::fromStdString(finding_.id);
  if (finding_.apply) {
    remedy_button_ = new LinkButton(workspace_, {}, body_);
    remedy_button_->setObjectName("remedy " + id);
    remedy_button_->setAccessibleDescription("Carries out the remedy; can be undone");
    connect(remedy_button_, &QAbstractButton::clicked, this, [this] {
      const arc::Finding pressed = finding_; // the edit brings new findings, and with them the end of this card
      workspace_.document.remedy(pressed);
    });
    column->addWidget(remedy_button_);
    return;
  }
  remedy_label_ = caption_label({}, body_);
  remedy_label_->setWordWrap(true);
  remedy_label_->setFont(type::font(type::caption, QFont::Medium));
  column->addWidget(remedy_label_);
}

void FindingCard::add_links(QLayout* column) {
  const QString id = QString::fromStdString(finding_.id);
  auto* links = new QHBoxLayout;
  links->setSpacing(space::medium);
  auto* show = link(body_, "show " + id, "Go to it");
  show->setToolTip("The stage and the field that it is about");
  connect(show, &QPushButton::clicked, this, [this] {
    workspace_.go_to(QString::fromStdString(finding_.stage), QString::fromStdString(finding_.field));
  });
  links->addWidget(show);
  if (arc::dismissible(finding_)) {
    const bool back = !finding_.dismissed.empty();
    auto* dismiss = link(body_, (back ? "bring back " : "dismiss ") + id, back ? "Bring back" : "Dismiss…");
    dismiss->setToolTip(back ? "It counts again"
                             : "Dismisses it, with a reason; it is back when its value moves by 1 % or it "
                               "becomes a stop");
    connect(dismiss, &QPushButton::clicked, this, [this, back] {
      if (!back) {
        reason_->show();
        return reason_->setFocus();
      }
      const arc::Finding pressed = finding_;
      workspace_.document.edit("Bring a finding back", [&](arc::Design& d) { arc::bring_back(d, pressed); });
    });
    links->addWidget(dismiss);
  }
  links->addStretch();
  column->addItem(links);
}

// Typed where it is dismissed: Enter puts it away, Escape leaves it.
void FindingCard::add_reason(QLayout* column) {
  reason_ = new QLineEdit(body_);
  reason_->setObjectName("dismiss reason " + QString::fromStdString(finding_.id));
  reason_->setAccessibleName("Reason for which it is dismissed");
  reason_->setPlaceholderText("reason, then Enter");
  reason_->hide();
  connect(reason_, &QLineEdit::returnPressed, this, [this] {
    const std::string reason = reason_->text().trimmed().toStdString();
    if (reason.size() < arc::Arming::shortest_reason)
      return reason_->setPlaceholderText("a reason of three letters or more");
    const arc::Finding pressed = finding_;
    workspace_.document.edit("Dismiss a finding",
                             [&](arc::Design& d) { arc::dismiss(d, pressed, reason, present_time()); });
  });
  auto* leave = new QShortcut(Qt::Key_Escape, reason_);
  leave->setContext(Qt::WidgetShortcut);
  connect(leave, &QShortcut::activated, this, [this] {
    reason_->hide();
    line_->setFocus();
  });
  column->addWidget(reason_);
}

bool FindingCard::fits(const arc::Finding& finding) const {
  return finding.id == finding_.id && finding.severity == finding_.severity && finding.field == finding_.field &&
         finding.dismissed.empty() == finding_.dismissed.empty() &&
         static_cast<bool>(finding.apply) == static_cast<bool>(finding_.apply);
}

void FindingCard::set_open(bool open) {
  open_ = open;
  line_->set_fold(finding_.severity != arc::Severity::stop, open);
  body_->setVisible(open);
}

void FindingCard::show_age() {
  const bool current = workspace_.document.is_current(finding_);
  for (QWidget* part : {static_cast<QWidget*>(line_), static_cast<QWidget*>(text_),
                        static_cast<QWidget*>(remedy_button_), static_cast<QWidget*>(remedy_label_)})
    if (part && part->isEnabled() != current) part->setEnabled(current);
  veil_->cover(!current && finding_.of_power); // the others are there again before it could be seen
  if (remedy_button_) remedy_button_->setToolTip(current ? QString() : "Updating for the changed design");
}

// Whether the shelf has what the remedy takes.
QString FindingCard::shelf_words(const arc::Finding& finding) const {
  if (!finding.apply) return {};
  const arc::Design& before = workspace_.document.design();
  arc::Design after = before;
  finding.apply(after);
  const std::string note = arc::shelf_note(before, after, workspace_.shelf.shelf(), workspace_.units());
  return note.empty() ? QString() : " " + QString::fromStdString(note);
}

void FindingCard::tell(const arc::Finding& finding) {
  finding_ = finding;
  const QString title = QString::fromStdString(finding.title);
  if (line_->text() != title) {
    line_->setText(title);
    line_->setToolTip(title);
    line_->setAccessibleName(text_of(arc::severity_name(finding.severity)) + ": " + title);
    line_->updateGeometry();
  }
  text_->setText(QString::fromStdString(finding.text) + shelf_words(finding));
  dismissed_->setText("Dismissed: " + QString::fromStdString(finding.dismissed));
  dismissed_->setVisible(!finding.dismissed.empty());
  const QString remedy = QString::fromStdString(finding.remedy);
  if (remedy_button_ && remedy_button_->text() != remedy) {
    remedy_button_->setText(remedy);
    remedy_button_->setAccessibleName(remedy);
    remedy_button_->updateGeometry();
  }
  if (remedy_label_) {
    remedy_label_->setText(remedy);
    remedy_label_->setVisible(!remedy.isEmpty());
  }
  show_age();
}

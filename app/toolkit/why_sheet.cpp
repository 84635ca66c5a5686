// A column of short sections, as wide as a line is read with ease.
#include "toolkit/why_sheet.h"

#include "base/theme.h"
#include "toolkit/text.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

void show_why(QWidget* parent, const QString& title, const QString& value, const QString& band,
              const arc::Explanation& why, const std::function<void()>& go_to, const std::function<void()>& solve) {
  auto* sheet = new QDialog(parent->window());
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setObjectName("why");
  sheet->setWindowTitle("Why " + value + "?");
  auto* layout = new QVBoxLayout(sheet);
  layout->setContentsMargins(space::large, space::large, space::large, space::medium);
  layout->setSpacing(space::hair);
  const auto add = [&](const QString& text, int size, QFont::Weight weight, bool caption) {
    if (text.isEmpty()) return;
    auto* label = make_text(text, sheet);
    label->setFont(type::font(size, weight));
    label->setProperty("caption", caption);
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    label->setFixedWidth(440);
    label->setMinimumHeight(label->heightForWidth(440));
    layout->addWidget(label);
  };
  const auto section = [&](const QString& head, const QString& text) {
    if (text.isEmpty()) return;
    layout->addSpacing(space::hair);
    add(head, type::caption, QFont::Medium, true);
    add(text, type::body, QFont::Normal, false);
  };
  const auto lines = [](const std::vector<std::string>& items) {
    QStringList out;
    for (const std::string& item : items) out << QString::fromStdString(item);
    return out.join("\n");
  };
  add(title, type::body, QFont::Medium, true);
  add(band.isEmpty() ? value : value + "   " + band, type::heading, QFont::DemiBold, false);
  section("How", QString::fromStdString(why.formula));
  section("From", lines(why.inputs));
  section("Assumes", QString::fromStdString(why.assumption));
  section("Hand estimate", QString::fromStdString(why.hand_estimate));
  section("Uncertainty comes from", lines(why.influences));
  section("Source", QString::fromStdString(why.source));
  layout->addSpacing(space::small);
  auto* ends = new QHBoxLayout;
  const auto door = [&](const QString& name, const QString& words, const std::function<void()>& open) {
    if (!open) return;
    auto* button = new QPushButton(words, sheet);
    button->setObjectName(name);
    QObject::connect(button, &QPushButton::clicked, sheet, [sheet, open] {
      sheet->accept();
      open();
    });
    ends->addWidget(button);
  };
  door("go to it", "Go to it", go_to);
  door("solve for it", "Make it a value…", solve);
  ends->addStretch();
  auto* close = new QPushButton("Close", sheet);
  close->setDefault(true);
  ends->addWidget(close);
  layout->addLayout(ends);
  QObject::connect(close, &QPushButton::clicked, sheet, &QDialog::accept);
  sheet->open();
}

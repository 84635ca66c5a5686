// A part chosen by its class, or entered from a data sheet: one entry for each row of a table of classes, and a
// last one that opens the part's sheet.
#pragma once

#include "base/workspace.h"
#include "toolkit/common.h"
#include "toolkit/when_seen.h"

#include <QComboBox>
#include <QStyleOptionComboBox>
#include <QStylePainter>
#include <algorithm>
#include <functional>

/// What of a class's name is shown in `room` pixels: all of it, or from its first number on (“450 W plate”).
inline QString class_words(const QString& name, const QFontMetrics& metrics, int room) {
  if (metrics.horizontalAdvance(name) <= room) return name;
  const auto digit = std::ranges::find_if(name, [](QChar c) { return c.isDigit(); });
  return metrics.elidedText(digit == name.end() ? name : name.mid(digit - name.begin()), Qt::ElideRight, room);
}

class ClassBox : public QComboBox {
 public:
  struct Words {
    const char *name, *accessible, *edit; // object name; for a screen reader; what an edit is called
    int letters;                          // least width
  };

  /// `rows`, which outlive it, have a `title` and their part behind `part`; the design's is where `of` says, for a
  /// const Design& and for a Design&.
  template <typename Rows, typename Part, typename Of>
  ClassBox(Workspace& workspace, const Words& words, Rows rows, Part part, Of of, std::function<void()> sheet,
           QWidget* parent)
      : QComboBox(parent) {
    setObjectName(words.name);
    setAccessibleName(words.accessible);
    for (const auto& row : rows) addItem(text_of(row.title));
    addItem("From a data sheet");
    setMinimumContentsLength(words.letters);
    setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    const auto show = [this, &workspace, rows, part, of] {
      const auto it = std::ranges::find(rows, of(workspace.document.design()), part);
      setCurrentIndex(static_cast<int>(it - rows.begin()));
      setToolTip(currentText());
    };
    connect(this, &QComboBox::activated, this,
            [=, &workspace, edit = words.edit, sheet = std::move(sheet)](int index) {
              if (index >= static_cast<int>(rows.size())) {
                sheet();
                show();
                return;
              }
              workspace.document.edit(
                  edit, [&](arc::Design& design) { of(design) = rows[static_cast<std::size_t>(index)].*part; });
            });
    (new WhenSeen(this, show))->on(workspace.document, &Document::design_changed);
    show();
  }

 protected:
  // Classes differ in their numbers (“…, 450 W plate”): where there is no room, the words before them go.
  void paintEvent(QPaintEvent*) override {
    QStylePainter painter(this);
    QStyleOptionComboBox option;
    initStyleOption(&option);
    const QRect room = style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, this);
    option.currentText = class_words(currentText(), fontMetrics(), room.width() - 4);
    painter.drawComplexControl(QStyle::CC_ComboBox, option);
    painter.drawControl(QStyle::CE_ComboBoxLabel, option);
  }
};

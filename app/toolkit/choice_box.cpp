// One member's named values.
#include "toolkit/choice_box.h"

#include "craft/design_fields.h"
#include "toolkit/common.h"
#include "toolkit/when_seen.h"

ChoiceBox::ChoiceBox(Workspace& workspace, std::string_view key, QWidget* parent)
    : QComboBox(parent), workspace_(workspace), spec_(arc::design_choice(key)) {
  setObjectName(text_of(key));
  setAccessibleName(text_of(spec_.label));
  for (const arc::Choice& choice : spec_.choices) addItem(text_of(choice.title));
  setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  setMinimumContentsLength(8);
  connect(this, &QComboBox::activated, this, [this](int index) {
    workspace_.document.edit(text_of(spec_.label), [this, index](arc::Design& design) {
      spec_.set(design, static_cast<std::size_t>(index));
      if (also_) also_(design);
    });
  });
  (new WhenSeen(this, [this] { refresh(); }))->on(workspace_.document, &Document::design_changed);
  refresh();
}

void ChoiceBox::refresh() {
  setCurrentIndex(static_cast<int>(spec_.get(workspace_.document.design())));
  setToolTip(currentText());
}

ChoiceBox* whole_choice(Workspace& workspace, std::string_view key, QWidget* parent) {
  auto* box = new ChoiceBox(workspace, key, parent);
  keep_words(box);
  return box;
}

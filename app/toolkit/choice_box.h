// A box of the named values of one member of the design.
#pragma once

#include "base/workspace.h"
#include "model/fields.h"

#include <QComboBox>
#include <functional>
#include <string_view>

class ChoiceBox : public QComboBox {
 public:
  /// `key` is that of arc::design_choices(), and the object's name.
  ChoiceBox(Workspace& workspace, std::string_view key, QWidget* parent);
  /// What an edit changes beside the member itself.
  void also(std::function<void(arc::Design&)> change) { also_ = std::move(change); }

 private:
  void refresh();

  Workspace& workspace_;
  const arc::ChoiceSpec& spec_;
  std::function<void(arc::Design&)> also_;
};

/// One that is as wide as its longest words.
ChoiceBox* whole_choice(Workspace& workspace, std::string_view key, QWidget* parent);

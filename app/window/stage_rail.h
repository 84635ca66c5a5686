// The order of work on the left: one entry for each stage with a mark: untouched, in work, open
// findings, stop, confirmed by the builder. Nothing is green before somebody has confirmed it, nor while it
// computes.
#pragma once

#include "base/workspace.h"
#include "file/stage_inputs.h"

#include <QPushButton>
#include <QWidget>
#include <map>
#include <memory>
#include <string>
#include <vector>

class RailEntry;
using StageInputs = std::map<std::string, std::string, std::less<>>; // of stage_inputs()

class StageRail : public QWidget {
  Q_OBJECT
 public:
  explicit StageRail(Workspace& workspace, QWidget* parent = nullptr);
  void set_current(int index);
  /// The stages of the design's kind, under the names they have there.
  void show_kind();
  /// The builder has gone through the stage that is seen; or takes that back.
  void confirm();

 Q_SIGNALS:
  void chosen(int index);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void refresh();
  void show_confirm();
  const StageInputs& inputs();
  std::string current_key() const;
  bool can_confirm() const;

  Workspace& workspace_;
  std::vector<RailEntry*> entries_;
  QPushButton* confirm_ = nullptr;
  int current_ = 0;
  std::shared_ptr<const arc::Design> inputs_of_; // of which these are
  StageInputs inputs_;
};

// The registry of stages, in the order of work. A stage is one widget made from the workspace; to add a stage,
// write its widget and add one row: to the table in stage.cpp, or to that of the craft that alone has it.
#pragma once

#include "base/workspace.h"
#include "craft/kind.h"

#include <QString>
#include <QStringList>
#include <QWidget>
#include <span>

/// Property of a button: names of the fields in the sheet that it opens, which is made then.
inline constexpr const char* opens_fields = "opens fields";

/// The last caution of every stage.
inline const QString defer_to_codes =
    "Local electrical codes and licensed practice come before anything said here. No step is ever called safe.";

/// Where an entry of the rail stands: in the order of work, or a place that is none of its steps.
enum class RailPlace { work, top, bottom };

struct StageSpec {
  QString key; // also the `stage` of findings
  QString title;
  QWidget* (*make)(Workspace&, QWidget* parent);
  QString about; // what it is for and what to begin with, in a few sentences
  QStringList cautions;
  QString group = {}; // group of the file that a kind of coil must have for the stage to be its own; empty: all
  QString title_without_tank = {}; // where it is called otherwise without one
  QString help = {};               // how its heading in the guide begins; empty: as its title
  RailPlace place = RailPlace::work;
  QString shortcut = {}; // of a place; steps of the work are counted
};

/// Of all kinds, in the order of work.
std::span<const StageSpec> stages();

/// Whether the kind's work passes this stage, and what it is called there.
bool belongs_to(const StageSpec& stage, const arc::CoilKind& kind);
QString title_of(const StageSpec& stage, const arc::CoilKind& kind);

/// Shared look of a stage's lower panel: a card with a hairline above.
class StagePanel : public QWidget {
 public:
  explicit StagePanel(Workspace& workspace, QWidget* parent = nullptr) : QWidget(parent), workspace_(workspace) {
    connect(&workspace, &Workspace::theme_changed, this, qOverload<>(&QWidget::update));
  }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  Workspace& workspace_;
};

QWidget* make_start_stage(Workspace& workspace, QWidget* parent);
QWidget* make_resonator_stage(Workspace& workspace, QWidget* parent);
QWidget* make_primary_stage(Workspace& workspace, QWidget* parent);
QWidget* make_tank_stage(Workspace& workspace, QWidget* parent);
QWidget* make_feed_stage(Workspace& workspace, QWidget* parent);
QWidget* make_tune_stage(Workspace& workspace, QWidget* parent);
QWidget* make_fire_stage(Workspace& workspace, QWidget* parent);

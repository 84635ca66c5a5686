// What a simulation says, as a stage lists it: names and values of the kind's table of figures. Enter or a double
// click on one opens its "why".
#pragma once

#include "base/workspace.h"
#include "simulation/figures.h"

#include <QTableWidget>
#include <optional>
#include <utility>
#include <vector>

class FigureList : public QTableWidget {
  Q_OBJECT
 public:
  /// `stage` is the key of the stage whose figures it lists; arc::at_rest_group: all of the coil at rest.
  FigureList(Workspace& workspace, const char* stage, const QString& name, QWidget* parent);

  /// The figures of the document's simulation; none where there is none of this design's kind. `more` stands below:
  /// lists of parts, which are as long as the design has such.
  void refresh(const std::vector<std::pair<QString, QString>>& more = {});

  /// One of them in a sentence: its value and band.
  QString banded(const char* group, const char* key) const;
  /// The same as a share of what it is compared with, in whole percent.
  QString percent(const char* group, const char* key) const;

 protected:
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  /// What the document holds now, empty before it is computed; good until the next event.
  std::optional<arc::PowerView> view() const;
  std::vector<const arc::Figure*> rows_of(const arc::Design& design) const;
  void show_why_of(int row);

  Workspace& workspace_;
  std::string stage_;
  std::vector<const arc::Figure*> figures_; // by row; what is more has none
};

// What a simulation says, as a stage lists it: values and names of the kind's table of figures. Headlines stand
// always, each row whole; the rest comes by one key, in the whole of the stage. Enter or a double click on one
// opens its "why".
#pragma once

#include "base/workspace.h"
#include "simulation/figures.h"

#include <QPushButton>
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

  /// All rows in the whole of the stage, or the headlines alone again, at their full height.
  void toggle_all();
  bool shows_all() const { return all_; }
  QSize sizeHint() const override;

  /// One of them in a sentence: its value and band.
  QString banded(const char* group, const char* key) const;
  /// The same as a share of what it is compared with, in whole percent.
  QString percent(const char* group, const char* key) const;

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  /// What the document holds now, empty before it is computed; good until the next event.
  std::optional<arc::PowerView> view() const;
  std::vector<const arc::Figure*> rows_of(const arc::Design& design) const;
  void show_why_of(int row);
  void set_all(bool all);
  void fold();
  void show_rows();
  bool is_headline(int row) const;
  int below() const; // room for the link under the rows
  static constexpr int least_rows = 2;

  Workspace& workspace_;
  std::string stage_;
  std::vector<const arc::Figure*> figures_; // by row; what is more has none
  std::vector<int> heights_;                // of the rows, whether they are seen or not
  bool all_ = false;
  QPushButton* more_;
};

// An entry field for one quantity. It takes any unit or engineering notation, never clamps, and keeps an unreadable
// or impossible entry on the screen, marked, with the reason; the model then keeps its last good value. Arrow keys
// step.
#pragma once

#include "base/workspace.h"
#include "evidence/doubt.h"
#include "quantity/quantity.h"

#include <QLineEdit>
#include <QWheelEvent>
#include <functional>
#include <optional>

/// What a field shows and does, independent of where the value lives.
struct QuantityRole {
  QString name; // object name and accessible name, e.g. "secondary.turns"
  QString label;
  arc::Dimension dimension = arc::Dimension::number;
  double minimum = 0;
  double maximum = 1e12;
  bool nullable = false;       // empty means "not given"
  QString empty = "not given"; // what stands in it then
  /// A value of the size to expect where the field is empty: a bare number takes its unit. May be empty.
  std::function<double()> usual;
  /// What deserves a question about a value just typed. May be empty.
  std::function<std::optional<arc::Doubt>(double value)> doubt;
  /// Of the number in the file, "feed[2].resistance_ohm"; empty where it is none of the design. An example stands
  /// grey and slanted until it is changed, or Enter takes it.
  std::string path;
  std::function<std::optional<double>()> get;
  /// Stores a value in range; `gesture` joins steps made in one go.
  std::function<void(std::optional<double>, const QString& gesture)> set;
};

class QuantityField : public QLineEdit {
  Q_OBJECT
 public:
  QuantityField(Workspace& workspace, QuantityRole role, QWidget* parent = nullptr);

  const QuantityRole& role() const { return role_; }
  Workspace& workspace() const { return workspace_; }
  /// Reason why the present entry is not taken, empty when it is.
  QString problem() const { return problem_; }
  /// Whether what stands there has not been taken yet, or was refused.
  bool being_typed() const { return text() != shown_ || !problem_.isEmpty(); }
  /// Takes the entry now, as Enter or leaving the field does. True when it was taken.
  bool commit();
  /// Question about the value just taken, if there is one.
  const std::optional<arc::Doubt>& doubt() const { return doubt_; }
  /// Takes what was likely meant instead.
  void take_meant();
  /// Nobody has typed what stands there.
  bool is_example() const { return example_; }
  /// Shows the model's value again, unless an entry is being typed or was refused.
  void refresh();

 Q_SIGNALS:
  void problem_changed(const QString& problem);
  void doubt_changed();
  void entered(); // Enter once more, on what has been taken already

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void wheelEvent(QWheelEvent* event) override { event->ignore(); }

 private:
  void set_problem(const QString& problem);
  void set_doubt(std::optional<arc::Doubt> doubt);
  void show_example();
  void describe();
  void take();         // the example that stands there
  double like() const; // whose unit a bare number takes
  void step(double factor);

  /// What a bare number is taken by.
  struct Begun {
    arc::UnitSystem units;
    double like;
  };

  Workspace& workspace_;
  QuantityRole role_;
  std::optional<Begun> begun_; // while an entry is being typed
  QString problem_;
  std::optional<arc::Doubt> doubt_;
  double doubted_ = 0; // the value that the doubt is about
  bool example_ = false;
  QString shown_; // text as last put there by the model
  int visit_ = 0; // joins the steps of one stay in the field
};

/// The field of a row of arc::design_fields().
QuantityField* make_design_field(Workspace& workspace, std::string_view key, QWidget* parent = nullptr);

/// Every number that nobody has typed is taken as it stands, as one edit.
void take_all_examples(Workspace& workspace);

/// A label above a field, with the reason of a refused entry below it; stretches sideways.
QWidget* labelled(QuantityField* field, QWidget* parent = nullptr);

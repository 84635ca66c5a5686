// Quantity entry; parsing and ranges come from the core.
#include "toolkit/quantity_field.h"

#include "toolkit/common.h"
#include "toolkit/when_seen.h"

#include "craft/design_fields.h"
#include "file/examples.h"
#include "model/fields.h"
#include "toolkit/text.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QStyle>
#include <QVBoxLayout>
#include <cmath>

namespace {

// Of the size that is usual on a bench, for fields that are empty or zero.
double usual_size(arc::Dimension dimension) {
  switch (dimension) {
  case arc::Dimension::capacitance:
    return 1e-9;
  case arc::Dimension::inductance:
    return 1e-6;
  case arc::Dimension::frequency:
    return 1;
  default:
    return 0;
  }
}

QString unit_of(double like, arc::Dimension dimension, arc::UnitSystem units) {
  return like == 0 ? QString() : QString::fromStdString(arc::shown_unit(like, dimension, units));
}

} // namespace

QuantityField::QuantityField(Workspace& workspace, QuantityRole role, QWidget* parent)
    : QLineEdit(parent), workspace_(workspace), role_(std::move(role)) {
  setObjectName(role_.name);
  setAccessibleName(role_.label);
  setFont(type::font(type::body, QFont::Medium));
  setMinimumWidth(80);
  setMaximumWidth(150);
  (new WhenSeen(this, [this] { refresh(); }))
      ->on(workspace_.document, &Document::design_changed)
      .on(workspace_.document, &Document::units_changed);
  connect(this, &QLineEdit::textEdited, this, [this] {
    if (!begun_) begun_ = {workspace_.units(), like()};
    set_problem({});
  });
  refresh();
}

void QuantityField::refresh() {
  show_example();
  // An entry that was refused, or is being typed, stays until its owner settles it.
  if (!problem_.isEmpty() || (hasFocus() && text() != shown_)) return;
  begun_.reset();
  const auto value = role_.get();
  const QString unit = unit_of(like(), role_.dimension, workspace_.units());
  shown_ = !value ? QString()
           : *value == 0 && !unit.isEmpty()
               ? "0 " + unit
               : QString::fromStdString(arc::format_entry(*value, role_.dimension, workspace_.units()));
  if (role_.nullable) setPlaceholderText(unit.isEmpty() ? role_.empty : role_.empty + ", " + unit);
  if (doubt_ && value != doubted_) set_doubt({});
  if (text() != shown_) {
    setText(shown_);
    if (hasFocus())
      selectAll();
    else
      setCursorPosition(0);
  }
}

void QuantityField::set_problem(const QString& problem) {
  if (problem == problem_) return;
  problem_ = problem;
  setProperty("bad", !problem.isEmpty());
  style()->unpolish(this);
  style()->polish(this);
  describe();
  Q_EMIT problem_changed(problem);
}

// The reason of a refused entry, or that nobody has typed it.
void QuantityField::describe() {
  const QString words = !problem_.isEmpty() ? problem_
                        : example_          ? "An example: nobody has typed it. Type your own, or Enter takes it."
                                            : QString();
  setToolTip(words);
  setAccessibleDescription(words);
}

void QuantityField::take() {
  begun_.reset();
  if (example_)
    workspace_.document.edit("Take " + role_.label,
                             [&](arc::Design& design) { arc::take_example(design, role_.path); });
}

void QuantityField::show_example() {
  const bool is = !role_.path.empty() && arc::is_example(workspace_.document.design(), role_.path);
  if (is == example_) return;
  example_ = is;
  setProperty("example", is);
  style()->unpolish(this);
  style()->polish(this);
  describe();
}

void QuantityField::set_doubt(std::optional<arc::Doubt> doubt) {
  if (!doubt && !doubt_) return;
  doubt_ = std::move(doubt);
  Q_EMIT doubt_changed();
}

void QuantityField::take_meant() {
  if (!doubt_) return;
  const double meant = doubt_->meant;
  set_doubt({});
  role_.set(meant, {});
  refresh();
}

double QuantityField::like() const {
  const auto value = role_.get();
  if (value && *value != 0) return *value;
  return role_.usual ? role_.usual() : usual_size(role_.dimension);
}

bool QuantityField::commit() {
  const QString entry = text().trimmed();
  if (entry == shown_.trimmed() && problem_.isEmpty()) {
    if (begun_) take(); // typed as it stood
    return true;
  }
  if (entry.isEmpty() && role_.nullable) {
    set_problem({});
    shown_ = text();
    role_.set(std::nullopt, {});
    refresh();
    return true;
  }
  // A bare number has the unit that stood there when it was begun, whatever has changed since.
  const Begun begun = begun_.value_or(Begun{workspace_.units(), like()});
  const auto result = arc::parse_quantity(entry.toStdString(), role_.dimension, begun.units, begun.like);
  if (const auto* error = std::get_if<arc::ParseError>(&result)) {
    set_problem(QString::fromStdString(error->message));
    return false;
  }
  const double value = std::get<double>(result);
  const auto out_of_range = arc::range_problem(role_.label.toStdString(), role_.dimension, value, role_.minimum,
                                               role_.maximum, workspace_.units());
  if (!out_of_range.empty()) {
    set_problem(QString::fromStdString(out_of_range));
    return false;
  }
  set_problem({});
  shown_ = text(); // so that refresh() may replace the entry by its settled form
  const auto doubt = role_.doubt ? role_.doubt(value) : std::nullopt; // before the edit changes what is expected
  doubted_ = value;
  role_.set(value, {});
  refresh();
  set_doubt(doubt);
  return true;
}

void QuantityField::step(double factor) {
  if (!commit()) return;
  const auto value = role_.get();
  if (!value) return;
  const double next = *value + factor * arc::quantity_step(*value, role_.dimension, workspace_.units());
  if (next < role_.minimum || next > role_.maximum) return;
  role_.set(next, QString("%1 visit %2").arg(role_.name).arg(visit_));
  refresh();
}

void QuantityField::keyPressEvent(QKeyEvent* event) {
  const double size = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
  switch (event->key()) {
  case Qt::Key_Up:
    step(size);
    return;
  case Qt::Key_Down:
    step(-size);
    return;
  case Qt::Key_Return:
  case Qt::Key_Enter: {
    const bool known = !being_typed(); // what it was taken for has been seen
    if (!commit()) return;
    if (known) take();
    selectAll();
    if (known) Q_EMIT entered();
    return;
  }
  case Qt::Key_Escape:
    if (!being_typed()) { // nothing to take back: it is the sheet's
      event->ignore();
      return;
    }
    set_problem({});
    shown_ = text();
    refresh();
    selectAll();
    return;
  default:
    QLineEdit::keyPressEvent(event);
  }
}

void QuantityField::focusInEvent(QFocusEvent* event) {
  ++visit_;
  QLineEdit::focusInEvent(event);
  if (event->reason() != Qt::MouseFocusReason) selectAll();
}

void QuantityField::focusOutEvent(QFocusEvent* event) {
  QLineEdit::focusOutEvent(event);
  commit();
}

QuantityField* make_design_field(Workspace& workspace, std::string_view key, QWidget* parent) {
  const arc::FieldSpec& spec = arc::design_field(key);
  QuantityRole role;
  role.name = text_of(spec.key);
  role.path = spec.key;
  role.label = text_of(spec.label);
  role.dimension = spec.dimension;
  role.minimum = spec.minimum;
  role.maximum = spec.maximum;
  role.nullable = spec.nullable;
  // Capacitances go from a flame coil's picofarads to a reservoir's: the middle of the range tells.
  if (spec.dimension == arc::Dimension::capacitance && spec.minimum > 0)
    role.usual = [&spec] { return std::sqrt(spec.minimum * spec.maximum); };
  role.get = [&workspace, &spec] { return spec.get(workspace.document.design()); };
  role.set = [&workspace, &spec, label = role.label](std::optional<double> value, const QString& gesture) {
    workspace.document.edit(
        label, [&](arc::Design& design) { spec.set(design, value); }, gesture);
  };
  role.doubt = [&workspace, &spec](double value) -> std::optional<arc::Doubt> {
    const auto analysis = workspace.document.analysis();
    if (!analysis) return {};
    return arc::doubt_about(spec.key, spec.dimension, value, workspace.document.design(), *analysis,
                            workspace.units());
  };
  return new QuantityField(workspace, std::move(role), parent);
}

void take_all_examples(Workspace& workspace) {
  workspace.document.edit("Take all examples", [](arc::Design& design) { arc::take_examples(design); });
}

QWidget* labelled(QuantityField* field, QWidget* parent) {
  QWidget* box = captioned(field->role().label, field, parent);
  auto* problem = make_text(box);
  problem->setProperty("problem", true);
  problem->setFont(type::font(type::caption));
  problem->setWordWrap(true);
  problem->setMaximumWidth(220);
  problem->hide();
  QObject::connect(field, &QuantityField::problem_changed, problem, [problem](const QString& text) {
    problem->setText(text);
    problem->setVisible(!text.isEmpty());
  });
  box->layout()->addWidget(problem);
  auto* meant = new QPushButton(box);
  meant->setObjectName("meant " + field->role().name);
  meant->setProperty("link", true);
  meant->setFont(type::font(type::caption, QFont::Medium));
  meant->hide();
  QObject::connect(meant, &QPushButton::clicked, field, &QuantityField::take_meant);
  QObject::connect(field, &QuantityField::doubt_changed, meant, [field, meant, &workspace = field->workspace()] {
    const auto& doubt = field->doubt();
    meant->setVisible(doubt.has_value());
    if (!doubt) return;
    meant->setText(
        "Meant " +
        QString::fromStdString(arc::format_entry(doubt->meant, field->role().dimension, workspace.units())) + "?");
    meant->setToolTip(QString::fromStdString(doubt->text) + " Press to take this value instead.");
    meant->setAccessibleDescription(meant->toolTip());
  });
  box->layout()->addWidget(meant);
  return box;
}

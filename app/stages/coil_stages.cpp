// Resonator and Primary: the same elevation of the coil with the handles, readings and fields of the part in hand.
#include "coil_views/coil_view.h"
#include "coil_views/topload_editor.h"
#include "craft/design_fields.h"
#include "model/fields.h"
#include "parts/wire.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/figure_list.h"
#include "toolkit/text.h"
#include "toolkit/when_seen.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <algorithm>
#include <array>
#include <string_view>
#include <tuple>
#include <vector>

namespace {

double floor_level(const arc::Design&) {
  return 0;
}
double secondary_base(const arc::Design& d) {
  return d.secondary.base_height_m;
}
double secondary_top(const arc::Design& d) {
  return d.secondary.base_height_m + d.secondary.winding_length_m;
}
double primary_base(const arc::Design& d) {
  return d.primary.base_height_m;
}

struct CoilStage {
  QWidget* page;
  CoilView* view;
  QHBoxLayout* panel;
};

QWidget* field_grid(Workspace& workspace, QWidget* parent, const std::vector<std::string_view>& keys, int columns) {
  auto* box = new QWidget(parent);
  auto* grid = new QGridLayout(box);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(columns > 3 ? 6 : space::small);
  grid->setVerticalSpacing(6);
  int i = 0;
  for (const std::string_view key : keys) {
    QuantityField* field = make_design_field(workspace, key, box);
    // All in a row in the smallest window, and wires in inches whole.
    const bool fine = key.ends_with("_diameter_m") || key == "primary.pitch_m";
    field->setMinimumWidth(key == "secondary.wire_bare_diameter_m" ? 94 : fine ? 85 : columns > 3 ? 68 : 76);
    QWidget* whole = labelled(field, box);
    grid->addWidget(whole, i / columns, i % columns, Qt::AlignTop);
    if (key == "primary.tap_turns") { // only where there is a clip
      const auto show = [whole, &workspace] { whole->setVisible(arc::kind_of(workspace.document.design()).clip); };
      QObject::connect(&workspace.document, &Document::design_changed, whole, show);
      show();
    }
    ++i;
  }
  return box;
}

// Where the coil runs, in a sheet of its own: it is set once and seldom touched.
constexpr std::array room_fields{"site.ceiling_height_m",      "site.wall_distance_m", "site.air_temperature_c",
                                 "site.air_pressure_hpa",      "site.mains_voltage_v", "site.mains_frequency_hz",
                                 "site.ground_resistance_ohm", "breakout.roughness",   "breakout.point_length_m",
                                 "breakout.point_tip_radius_m"};

QDialog* make_room_sheet(Workspace& workspace, QWidget* parent) {
  auto* sheet = new QDialog(parent);
  sheet->setObjectName("room sheet");
  sheet->setWindowTitle("Room, air and breakout");
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(space::large, space::large, space::large, space::medium);
  column->addWidget(field_grid(workspace, sheet, {room_fields.begin(), room_fields.end()}, 2));
  auto* note =
      make_text("Empty means: nothing there. The floor counts as conducting; a wall counts as standing all around, "
                "which overstates a single one.",
                sheet);
  note->setWordWrap(true);
  note->setProperty("caption", true);
  column->addWidget(note);
  auto* close = new QPushButton("Close", sheet);
  close->setAutoDefault(false); // Enter belongs to the fields
  QObject::connect(close, &QPushButton::clicked, sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  return sheet;
}

// All that is known of the coil at rest, also what has no place at the drawing; each says why.
void show_all_figures(Workspace& workspace, QWidget* parent) {
  auto* sheet = new QDialog(parent);
  sheet->setObjectName("figures sheet");
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setWindowTitle("All figures of the coil at rest");
  auto* column = new QVBoxLayout(sheet);
  column->setContentsMargins(space::large, space::large, space::large, space::medium);
  auto* list = new FigureList(workspace, arc::at_rest_group.data(), "figures at rest", sheet);
  const auto up_to_date = [list] { list->refresh(); };
  QObject::connect(&workspace.document, &Document::analysis_changed, list, up_to_date);
  QObject::connect(&workspace.document, &Document::units_changed, list, up_to_date);
  column->addWidget(list, 1);
  auto* note =
      caption_label("Enter or a double click says how a figure was computed. Without arcs, at low power.", sheet);
  column->addWidget(note);
  auto* close = new QPushButton("Close", sheet);
  close->setObjectName("close figures");
  QObject::connect(close, &QPushButton::clicked, sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  open_large(*sheet, {460, 620});
  list->refresh();
  sheet->show();
}

// What can be laid over the drawing, and the sheets of the surroundings and of all figures.
void add_overlay_buttons(Workspace& workspace, const CoilStage& stage) {
  CoilView* view = stage.view;
  int x = 16;
  const auto add = [&](const char* name, const char* text, const char* tip, int wide) {
    auto* button = new QPushButton(text, view);
    button->setObjectName(name);
    button->setToolTip(tip);
    button->setProperty("narrow", true);
    button->setGeometry(x, 12, wide, 28);
    x += wide + 5;
    return button;
  };
  const auto add_curve = [&](const char* name, const char* text, const char* tip, int wide, CoilView::Curve curve,
                             bool on) {
    auto* button = add(name, text, tip, wide);
    button->setCheckable(true);
    button->setChecked(on);
    QObject::connect(button, &QPushButton::toggled, view,
                     [view, curve](bool shown) { view->set_curve_shown(curve, shown); });
  };
  add_curve("overlay voltage", "Voltage", "Voltage along the winding", 64, CoilView::Curve::voltage, true);
  add_curve("overlay current", "Current", "Current along the winding", 64, CoilView::Curve::current, false);
  add_curve("overlay modes", "Modes", "Voltage of the second and third mode", 58, CoilView::Curve::modes, false);
  auto* field = add("overlay field", "Field", "Field strength around the coil at breakout", 50);
  auto* potential = add("overlay potential", "Potential", "Equipotentials around the coil", 72);
  for (auto [button, other, kind] : {std::tuple{field, potential, FieldOverlay::Kind::field},
                                     std::tuple{potential, field, FieldOverlay::Kind::potential}}) {
    button->setCheckable(true);
    QObject::connect(button, &QPushButton::clicked, view, [view, other = other, kind = kind](bool on) {
      other->setChecked(false);
      view->field().show(on ? kind : FieldOverlay::Kind::none);
    });
  }
  auto* all = add("all figures", "Figures", "All figures of the coil at rest, each with its why", 62);
  QObject::connect(all, &QPushButton::clicked, stage.page,
                   [&workspace, page = stage.page] { show_all_figures(workspace, page); });
  auto* room = add("room", "Room", "Ceiling, wall, air, ground and breakout point", 56);
  room->setProperty(opens_fields, QStringList(room_fields.begin(), room_fields.end()));
  QObject::connect(room, &QPushButton::clicked, stage.page, [&workspace, page = stage.page] {
    auto* sheet = page->findChild<QDialog*>("room sheet");
    if (!sheet) sheet = make_room_sheet(workspace, page);
    sheet->show();
  });
}

CoilStage make_page(Workspace& workspace, QWidget* parent, const QString& name,
                    std::vector<CoilHandle> (*handles)(const arc::Design&)) {
  CoilStage stage{};
  stage.page = new QWidget(parent);
  stage.page->setObjectName(name);
  auto* column = new QVBoxLayout(stage.page);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  stage.view = new CoilView(workspace, handles, stage.page);
  column->addWidget(stage.view, 1);
  add_overlay_buttons(workspace, stage);
  auto* panel = new StagePanel(workspace, stage.page);
  stage.panel = new QHBoxLayout(panel);
  stage.panel->setContentsMargins(space::large, 10, space::large, 10);
  stage.panel->setSpacing(space::large);
  column->addWidget(panel);
  return stage;
}

// What builders know instead of a number: the enamel's grade, and that the winding fills its length.
QWidget* make_winding_helpers(Workspace& workspace, QWidget* parent) {
  auto* button = new QPushButton("Compute", parent);
  button->setObjectName("winding helpers");
  button->setProperty("narrow", true);
  button->setToolTip("Turns from the winding length, wire over enamel from the grade");
  auto* menu = new QMenu(button);
  const auto add = [&](const QString& name, const QString& text, const Document::Edit& change) {
    auto* action = menu->addAction(text);
    action->setObjectName(name);
    QObject::connect(action, &QAction::triggered, button,
                     [&workspace, text, change] { workspace.document.edit(text, change); });
  };
  const QString less = QString("%1 % less than close packing").arg(100 * arc::hand_winding_allowance, 0, 'f', 0);
  add("turns by hand", "Turns: hand-wound, " + less, [](arc::Design& d) {
    d.secondary.turns = std::floor(arc::turns_from_length(
        d.secondary.winding_length_m, d.secondary.wire_overall_diameter_m, arc::hand_winding_allowance));
  });
  add("length from turns", "Winding length: for these turns, hand-wound", [](arc::Design& d) {
    d.secondary.winding_length_m =
        arc::length_from_turns(d.secondary.turns, d.secondary.wire_overall_diameter_m, arc::hand_winding_allowance);
  });
  add("enamel grade 1", "Wire over enamel: grade 1, single build", [](arc::Design& d) {
    d.secondary.wire_overall_diameter_m =
        arc::overall_diameter_m(d.secondary.wire_bare_diameter_m, arc::EnamelGrade::grade_1);
  });
  add("enamel grade 2", "Wire over enamel: grade 2, heavy build", [](arc::Design& d) {
    d.secondary.wire_overall_diameter_m =
        arc::overall_diameter_m(d.secondary.wire_bare_diameter_m, arc::EnamelGrade::grade_2);
  });
  button->setMenu(menu);
  return button;
}

class ShapeChoice : public QComboBox {
 public:
  ShapeChoice(Workspace& workspace, QWidget* parent) : QComboBox(parent), workspace_(workspace) {
    setObjectName("primary.shape");
    setAccessibleName("Primary shape");
    for (const arc::Choice& choice : spec_.choices) addItem(text_of(choice.title));
    connect(this, &QComboBox::activated, this, [this] {
      workspace_.document.edit("Primary shape", [&](arc::Design& design) {
        spec_.set(design, static_cast<std::size_t>(currentIndex()));
        if (design.primary.shape == arc::PrimaryShape::cone && design.primary.cone_angle_deg == 0)
          design.primary.cone_angle_deg = 30;
      });
    });
    (new WhenSeen(this, [this] { refresh(); }))->on(workspace_.document, &Document::design_changed);
    refresh();
  }

 private:
  void refresh() { setCurrentIndex(static_cast<int>(spec_.get(workspace_.document.design()))); }
  Workspace& workspace_;
  const arc::ChoiceSpec& spec_ = arc::design_choice("primary.shape");
};

class GroundedConductor : public QCheckBox {
 public:
  GroundedConductor(Workspace& workspace, const QString& text, const QString& name, std::string key,
                    QWidget* parent)
      : QCheckBox(text, parent), workspace_(workspace), key_(std::move(key)) {
    setObjectName(name);
    connect(this, &QCheckBox::clicked, this, [this](bool on) {
      workspace_.document.edit(this->text(), [&](arc::Design& design) {
        std::erase(design.site.grounded_conductors, key_);
        if (on) design.site.grounded_conductors.push_back(key_);
      });
    });
    (new WhenSeen(this, [this] { refresh(); }))->on(workspace_.document, &Document::design_changed);
    refresh();
  }

 private:
  void refresh() {
    setChecked(std::ranges::count(workspace_.document.design().site.grounded_conductors, key_) > 0);
  }
  Workspace& workspace_;
  std::string key_;
};

} // namespace

QWidget* make_resonator_stage(Workspace& workspace, QWidget* parent) {
  CoilStage stage = make_page(workspace, parent, "resonator", resonator_handles);
  stage.view->add_group(CoilView::Part::topload, "Topload",
                        {"topload_in_place_capacitance_f", "topload_isolated_capacitance_f", "breakout_voltage_v"});
  stage.view->add_group(CoilView::Part::secondary, "Secondary",
                        {"mode_1_hz", "best_mode_1_hz", "lumped_hz", "secondary_inductance_h",
                         "effective_capacitance_f", "quality_factor", "wire_length_m"},
                        "resonator");
  stage.view->add_group(CoilView::Part::primary, "Primary", {"coupling"});
  stage.view->add_height_field("secondary.winding_length_m", secondary_base, secondary_top);
  stage.view->add_height_field("secondary.base_height_m", floor_level, secondary_base);
  QWidget* winding = field_grid(workspace, stage.page,
                                {"secondary.form_diameter_m", "secondary.turns", "secondary.form_length_m",
                                 "secondary.wire_bare_diameter_m", "secondary.wire_overall_diameter_m"},
                                3);
  winding->setMaximumWidth(390);
  stage.panel->addWidget(winding, 0, Qt::AlignTop);
  winding->layout()->addWidget(make_winding_helpers(workspace, winding));
  stage.panel->addWidget(vertical_rule(stage.page));
  auto* scroll = new QScrollArea(stage.page); // three or four parts must not push the drawing off the screen
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFocusPolicy(Qt::NoFocus);
  scroll->setWidget(new ToploadEditor(workspace, scroll));
  scroll->setMinimumWidth(312);
  scroll->widget()->setMaximumWidth(520);
  scroll->setMinimumHeight(132);
  scroll->setMaximumHeight(176);
  stage.panel->addWidget(scroll, 1);
  return stage.page;
}

QWidget* make_primary_stage(Workspace& workspace, QWidget* parent) {
  CoilStage stage = make_page(workspace, parent, "primary", primary_handles);
  stage.view->add_group(CoilView::Part::secondary, "Secondary", {"mode_1_hz"});
  stage.view->add_group(CoilView::Part::primary, "Primary",
                        {"primary_inductance_h", "primary_skin_inductance_h", "lead_inductance_h", "coupling",
                         "mutual_inductance_h", "tank_hz", "tuned_tap_turns"},
                        "primary");
  stage.view->add_height_field("primary.base_height_m", floor_level, primary_base);
  auto* shape = new QWidget(stage.page);
  auto* column = new QVBoxLayout(shape);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  column->addWidget(caption_label("Shape", shape));
  column->addWidget(new ShapeChoice(workspace, shape));
  column->addSpacing(4);
  auto* ground = new GroundedConductor(workspace, "Grounded", "grounded primary", "primary", shape);
  ground->setToolTip(
      "The primary holds the base of the secondary near ground potential and adds capacitance there");
  column->addWidget(ground);
  auto* ring = new GroundedConductor(workspace, "Strike ring", "strike ring", "strike-ring", shape);
  ring->setToolTip("A grounded open ring above the outer turn that catches strikes to the primary");
  column->addWidget(ring);
  column->addStretch();
  stage.panel->addWidget(shape);
  stage.panel->addWidget(vertical_rule(stage.page));
  stage.panel->addWidget(
      field_grid(workspace, stage.page,
                 {"primary.inner_radius_m", "primary.pitch_m", "primary.turns", "primary.conductor_diameter_m",
                  "primary.tap_turns", "primary.cone_angle_deg", "primary.lead_inductance_h",
                  "primary.lead_length_m", "primary.lead_spacing_m"},
                 5));
  stage.panel->addStretch();
  return stage.page;
}

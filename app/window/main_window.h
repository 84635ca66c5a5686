// The window: top bar, order-of-work rail, stage canvas, findings, resonance ruler; and the actions that act on the
// whole document, each with a shortcut.
#pragma once

#include "base/workspace.h"
#include "coil_views/resonance_ruler.h"
#include "craft/kind.h"
#include "toolkit/strip.h"
#include "window/coil_strip.h"
#include "window/findings_panel.h"
#include "window/first_steps.h"
#include "window/help_sheet.h"
#include "window/stage_rail.h"

#include <QLabel>
#include <QLineEdit>
#include <QMainWindow>
#include <QMenu>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <functional>

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  /// Settings, recent files and recovery live in `data_folder`.
  explicit MainWindow(const QString& data_folder, QWidget* parent = nullptr);

  ~MainWindow() override;

  Workspace& workspace() { return workspace_; }
  Document& document() { return workspace_.document; }

  /// Opens a file, or shows why it cannot be used and keeps what is open. True when opened.
  bool open_file(const QString& path);
  /// A new design of the present kind, for the mains of the design that is open.
  void new_design();
  /// The shipped demo, as a design without a file.
  bool open_demo(const std::string& kind = "spark-gap");
  /// The same design as another kind of coil, as one undoable edit; what was typed for the present one stays.
  void switch_kind(const std::string& key);
  /// The stage of that place in the table, if the kind of coil has it; it is made when first shown.
  void show_stage(int index);
  int stage() const { return canvas_->currentIndex(); }
  void set_dark(bool dark);
  void set_units(arc::UnitSystem units);
  /// Of text and everything with it, in per cent, 100 to 200: kept, and used from the next start on.
  int size_per_cent() const { return size_in(settings_); }
  static int size_in(const QSettings& settings);
  void set_size(int per_cent);
  /// What a screen of that size, not enlarged by the desktop, wants: 100, or more from 1800 pixels of height on.
  static int size_for(const QSize& screen);
  /// Starts the program anew with these arguments; without it a new size waits for the next start.
  void set_restart(std::function<void(const QStringList& arguments)> restart) { restart_ = std::move(restart); }
  /// What Tab goes through, in the order of reading: top bar, rail, stage, findings, ruler, whenever its controls
  /// were made. F6 stops at the first of each run of like controls, and after every sixth of a long one.
  std::vector<QWidget*> tab_stops() const;
  std::vector<std::size_t> group_starts(const std::vector<QWidget*>& stops) const;
  /// Every action with its shortcut, for the cheat sheet.
  const std::vector<QAction*>& all_actions() const { return actions_; }

 protected:
  void closeEvent(QCloseEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  bool focusNextPrevChild(bool next) override;

 private:
  QWidget* make_top_bar();
  QWidget* make_centre();
  void make_follows();
  void listen();
  void take_settings();
  void say_what_was_unreadable(const QString& data_folder);
  QWidget* make_notice();
  void make_actions();
  QAction* add_action(const QString& name, const QString& text, const QKeySequence& shortcut,
                      void (MainWindow::*action)());
  void new_of_kind(const std::string& key);
  void choose_kind();
  void refresh_kind();
  QAction* add_kind(QMenu& menu, const arc::CoilKind& kind);
  void choose_file();
  void take_wanted(Workspace::Want what, const QString& which);
  void take_offered(arc::Design design);
  bool save();
  bool save_as();
  void undo();
  void redo();
  void toggle_units();
  void toggle_theme();
  void step_size(int by);
  void enter_stage();
  void jump_group(bool forward);
  int part_of(const QWidget* widget) const;
  void fill_with_plot();
  void show_all_figures();
  void show_help();
  void show_words();
  void show_shortcuts();
  void show_about();
  void show_cautions();
  void show_about_stage();
  void offer_first_steps();
  void start_again();
  void show_tolerances();
  void show_variants();
  void show_curves();
  void show_solve(const QString& figure = {});
  void show_first_fault();
  void show_menu();
  enum class Leave { stay, go, keep };
  bool may_leave(); // for another design in this window
  Leave settle_run(bool quitting);
  Leave settle_changes();
  void go_to(const QString& stage, const QString& field);
  void remember(const QString& path);
  void refresh_title();
  bool write_to(const QString& path);
  void fit_to_screen();
  QWidget* page(int index);
  void notify(const QString& text);
  void show_text(const QString& title, const QString& html);

  Workspace workspace_;
  QSettings settings_;
  QSize fitted_; // to the screen, before the frame is known
  std::vector<QAction*> actions_;
  CoilStrip* strip_ = nullptr;
  StageRail* rail_ = nullptr;
  FindingsPanel* findings_ = nullptr;
  QStackedWidget* canvas_ = nullptr;
  std::vector<QWidget*> pages_; // made so far, by place in the table
  ResonanceRuler* ruler_ = nullptr;
  QLineEdit* name_ = nullptr;
  QPushButton* kind_button_ = nullptr;
  QPushButton* follows_ = nullptr;
  std::string shown_kind_;
  QLabel* saved_ = nullptr;
  QPushButton* metric_ = nullptr;
  QPushButton* inch_ = nullptr;
  QPushButton* theme_button_ = nullptr;
  QPushButton* undo_button_ = nullptr;
  QPushButton* redo_button_ = nullptr;
  QPushButton* menu_button_ = nullptr;
  Strip* notice_ = nullptr;
  QPushButton* start_again_ = nullptr; // in the notice of a new size
  FirstSteps* first_steps_ = nullptr;
  std::function<void(const QStringList&)> restart_;
  HelpSheet* help_ = nullptr; // made when it is first asked for
};

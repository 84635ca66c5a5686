// Tank, Feed, Switch, the shelf and the bank finder through the window.
#include "crafts/spark_gap/spark_gap.h"
#include "support.h"

#include "bank/bank_view.h"
#include "circuit/feed.h"
#include "feed/circuit_symbols.h"
#include "feed/feed_strip.h"
#include "parts/bank.h"
#include "toolkit/common.h"
#include "toolkit/cursor_plot.h"
#include "workshop/shelf.h"

#include <QContextMenuEvent>
#include <QDropEvent>
#include <QListWidget>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <qcustomplot.h>

using testing::HasSubstr;

namespace {

class Power : public WindowTest {
 protected:
  QString text(const char* label) { return get<QLabel>(label).text(); }
  void add_block(const char* kind) {
    window().findChild<QAction*>(QString("add ") + kind)->trigger();
    simulate();
  }
  void simulate() {
    document().wait_for_simulation();
    QApplication::processEvents();
  }
  void show(const char* stage) {
    show_stage(stage);
    simulate();
  }
  void count_examples() {
    window().workspace().shelf.edit([](arc::Shelf& shelf) { shelf.invented_count = true; });
    simulate();
  }
  std::size_t block_of(const char* kind) {
    const auto& feed = design().feed;
    return static_cast<std::size_t>(std::ranges::find(feed, kind, &arc::FeedBlock::kind) - feed.begin());
  }
  // Of a block that is chosen first, so that its panel is on the screen.
  QString field_of(const char* kind, const char* key) {
    get<FeedStrip>("feed strip").choose(block_of(kind));
    return QString("block %1 %2").arg(block_of(kind) + 1).arg(key);
  }
  void choose(const char* box, int index) {
    auto& combo = get<QComboBox>(box);
    combo.setCurrentIndex(index);
    Q_EMIT combo.activated(index);
    simulate();
  }
  std::string cell(const char* table, const QString& row, int column) {
    auto& t = get<QTableWidget>(table);
    for (int r = 0; r < t.rowCount(); ++r)
      if (t.item(r, 0)->text().startsWith(row)) return t.item(r, column)->text().toStdString();
    return "no row " + row.toStdString();
  }
};

TEST_F(Power, the_demo_feed_charges_the_tank_and_every_joint_says_what_it_carries) {
  show("feed");
  EXPECT_THAT(text("feed verdict").toStdString(), HasSubstr("bps"));
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("The breaker holds, at"));
  for (std::size_t i = 1; i <= design().feed.size(); ++i) {
    EXPECT_THAT(get<QLabel>(QString("joint %1").arg(i)).text().toStdString(), HasSubstr("A\n")) << i;
    EXPECT_FALSE(get<QLabel>(QString("danger %1").arg(i)).text().isEmpty()) << i;
    EXPECT_FALSE(get<QAbstractButton>(QString("block %1").arg(i)).accessibleName().isEmpty()) << i;
  }
  EXPECT_THAT(get<QLabel>("tank joint").text().toStdString(), HasSubstr(" %"));
  EXPECT_THAT(get<QLabel>("tank joint").accessibleName().toStdString(), HasSubstr("% of its limit"));
  auto& table = get<QTableWidget>("variac table");
  ASSERT_EQ(table.rowCount(), 7);
  EXPECT_LT(table.item(0, 2)->text().section(' ', 0, 0).toDouble(),
            table.item(6, 2)->text().section(' ', 0, 0).toDouble())
      << "a higher setting takes more power";
  EXPECT_EQ(get<QCustomPlot>("charging plot").graphCount(), 2);
}

TEST_F(Power, the_feed_plot_shows_waveforms_the_variac_or_the_trip_curve) {
  show("feed");
  choose("feed plot", 1);
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("breaker's rating"));
  EXPECT_EQ(get<QCustomPlot>("charging plot").graphCount(), 3);
  choose("feed plot", 2);
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("left of the curve it holds"));
  EXPECT_EQ(get<QCustomPlot>("charging plot").yAxis->scaleType(), QCPAxis::stLogarithmic);
  choose("feed plot", 0);
  auto& plot = get<QCustomPlot>("charging plot");
  EXPECT_EQ(plot.xAxis->numberFormat(), plot.yAxis2->numberFormat()) << "plain numbers again after the trip curve";
  EXPECT_EQ(plot.xAxis->numberPrecision(), plot.yAxis2->numberPrecision());
  QTest::mouseMove(&plot, plot.rect().center());
  EXPECT_TRUE(wait_until([&] { return text("charging cursor").contains("line"); }));
}

TEST_F(Power, longer_runs_show_progress_and_can_be_cancelled) {
  show("feed");
  const auto before = document().power();
  auto& cycles = get<QComboBox>("cycles");
  cycles.setCurrentIndex(2);
  Q_EMIT cycles.activated(2);
  ASSERT_TRUE(wait_until([&] { return get<QWidget>("simulation progress").isVisible(); }));
  press("cancel simulation");
  EXPECT_FALSE(document().simulating());
  EXPECT_FALSE(get<QWidget>("simulation progress").isVisible());
  EXPECT_EQ(document().power(), before) << "the last finished one stays";
  choose("cycles", 1);
  EXPECT_EQ(document().power_of<arc::SparkGapPower>()->charging.samples.size(), 60u * 1000 + 1);
}

TEST_F(Power, blocks_are_added_where_they_belong_moved_and_removed) {
  show("feed");
  const std::size_t before = design().feed.size();
  add_block("ballast-inductor");
  ASSERT_EQ(design().feed.size(), before + 1);
  EXPECT_TRUE(arc::feed_problem(design().feed).empty()) << "a ballast goes before the transformer";
  add_block("bridge");
  EXPECT_EQ(design().feed.back().kind, "bridge");
  press(QString("block %1").arg(design().feed.size()));
  press("remove block");
  EXPECT_EQ(design().feed.size(), before + 1);
  press("undo");
  press("undo");
  press("undo");
  EXPECT_EQ(design().feed.size(), before);
  const std::string first = design().feed[0].kind;
  press("block 1");
  EXPECT_FALSE(get<QPushButton>("earlier block").isEnabled());
  EXPECT_FALSE(get<QPushButton>("earlier block").toolTip().isEmpty()) << "and says why";
  press("later block");
  EXPECT_EQ(design().feed[1].kind, first);
  EXPECT_EQ(get<FeedStrip>("feed strip").chosen(), 1u) << "the choice goes with it";
}

TEST_F(Power, a_block_is_dragged_along_the_path) {
  show("feed");
  const std::string first = design().feed[0].kind, second = design().feed[1].kind;
  auto& block = get<QWidget>("block 1");
  auto& third = get<QWidget>("block 3");
  const QPoint from(30, 6), to = block.mapFrom(third.parentWidget(), third.pos()) + QPoint(20, 6);
  QTest::mousePress(&block, Qt::LeftButton, {}, from);
  QTest::mouseMove(&block, from + QPoint(40, 0));
  QTest::mouseMove(&block, to);
  QTest::mouseRelease(&block, Qt::LeftButton, {}, to);
  settle();
  EXPECT_EQ(design().feed[0].kind, second);
  EXPECT_EQ(design().feed[1].kind, first);
  press("undo");
  EXPECT_EQ(design().feed[0].kind, first);
}

TEST_F(Power, the_path_is_worked_by_keyboard_alone) {
  show("feed");
  const auto before = design().feed;
  const auto chosen = [&] { return get<FeedStrip>("feed strip").chosen(); };
  const auto key = [&](int code, Qt::KeyboardModifiers with = {}) {
    QTest::keyClick(QApplication::focusWidget(), static_cast<Qt::Key>(code), with);
    settle();
  };
  get<QAbstractButton>("block 1").setFocus();
  key(Qt::Key_Right);
  key(Qt::Key_Right);
  EXPECT_EQ(chosen(), 2u);
  EXPECT_TRUE(get<QAbstractButton>("block 3").hasFocus());
  key(Qt::Key_Left, Qt::ControlModifier);
  EXPECT_EQ(design().feed[1], before[2]) << "moved toward the wall";
  EXPECT_EQ(chosen(), 1u);
  EXPECT_TRUE(get<QAbstractButton>("block 2").hasFocus()) << "and the focus with it";
  key(Qt::Key_Right, Qt::ControlModifier);
  EXPECT_EQ(design().feed, before);
  key(Qt::Key_End);
  EXPECT_EQ(chosen(), before.size() - 1);
  key(Qt::Key_Delete);
  EXPECT_EQ(design().feed.size(), before.size() - 1);
  key(Qt::Key_Home);
  key(Qt::Key_Return);
  EXPECT_TRUE(get<QLineEdit>("block 1 rated_current_a").hasFocus()) << "Enter goes to its numbers";
  press("undo");
  EXPECT_EQ(design().feed.size(), before.size());
}

TEST_F(Power, the_path_is_worked_from_its_context_menu) {
  show("feed");
  const auto before = design().feed;
  const auto open_on = [&](const char* block) {
    auto& button = get<QAbstractButton>(block);
    QContextMenuEvent event(QContextMenuEvent::Keyboard, {10, 10}, button.mapToGlobal(QPoint(10, 10)));
    QApplication::sendEvent(&button, &event);
    QMenu* menu = nullptr;
    for (QMenu* each : window().findChildren<QMenu*>("block menu"))
      if (each->isVisible()) menu = each;
    return menu;
  };
  const auto take = [&](QMenu* menu, const char* name) {
    ASSERT_TRUE(menu) << name;
    QAction* action = menu->findChild<QAction*>(name);
    menu->hide(); // as choosing it does
    window().activateWindow();
    QApplication::processEvents();
    action->trigger();
    simulate();
  };
  take(open_on("block 2"), "add fuse"); // before it
  ASSERT_EQ(design().feed.size(), before.size() + 1);
  EXPECT_EQ(design().feed[1].kind, "fuse");
  EXPECT_TRUE(get<QAbstractButton>("block 2").hasFocus()) << "what was added is chosen";
  take(open_on("block 2"), "menu later");
  EXPECT_EQ(design().feed[2].kind, "fuse");
  take(open_on("block 3"), "menu edit");
  EXPECT_TRUE(get<QLineEdit>("block 3 rated_current_a").hasFocus());
  take(open_on("block 3"), "menu remove");
  EXPECT_EQ(design().feed, before);
  QMenu* first = open_on("block 1");
  ASSERT_TRUE(first);
  EXPECT_FALSE(first->findChild<QAction*>("menu earlier")->isEnabled());
  first->close();
}

TEST_F(Power, every_block_has_a_symbol_of_its_own_and_a_short_name) {
  const auto drawn = [](QStringView name) {
    QImage picture(48, 40, QImage::Format_ARGB32);
    picture.fill(Qt::white);
    QPainter painter(&picture);
    draw_circuit_symbol(painter, name, QPointF(24, 20));
    return picture;
  };
  const QImage unknown = drawn(u"nothing of the kind");
  for (const arc::BlockKind& kind : arc::block_kinds()) {
    EXPECT_NE(drawn(text_of(kind.key)), unknown) << kind.key;
    EXPECT_FALSE(kind.brief.empty()) << kind.key;
    EXPECT_LE(kind.brief.size(), 10u) << kind.key << ": it stands under its symbol";
  }
}

TEST_F(Power, only_blocks_that_serve_the_kind_are_offered) {
  show("feed");
  const auto offered = [&](const char* kind) {
    for (const QAction* action : get<QPushButton>("add block").menu()->actions())
      if (action->objectName() == QString("add ") + kind) return true;
    return false;
  };
  for (const arc::BlockKind& kind : arc::block_kinds())
    EXPECT_EQ(offered(std::string(kind.key).c_str()), kind.serves(arc::FeedEnd::tank)) << kind.key;
  window().open_demo("bridge");
  show("feed");
  for (const arc::BlockKind& kind : arc::block_kinds())
    EXPECT_EQ(offered(std::string(kind.key).c_str()), kind.serves(arc::FeedEnd::bus)) << kind.key;
}

// The bar of a path in view: every block and joint inside of the window, none over another, whatever its size.
TEST_F(Power, twelve_blocks_stand_in_view_with_every_joint_readable) {
  document().edit("Twelve", [](arc::Design& d) {
    d.feed.clear();
    for (const char* kind :
         {"breaker", "contactor", "variac", "line-filter", "power-factor-capacitor", "ballast-inductor",
          "oven-transformers", "full-wave-doubler", "reservoir", "filter-choke", "charging-choke", "safety-gap"})
      d.feed.push_back(arc::make_block(kind));
  });
  for (const QSize size : {QSize(1280, 800), QSize(1024, 700), QSize(1920, 1080)}) {
    window().resize(size);
    show("feed");
    auto& strip = get<FeedStrip>("feed strip");
    std::vector<QRect> places;
    for (int i = 1; i <= 12; ++i) {
      auto& block = get<QAbstractButton>(QString("block %1").arg(i));
      auto& joint = get<QLabel>(QString("joint %1").arg(i));
      for (QWidget* each : {static_cast<QWidget*>(&block), static_cast<QWidget*>(&joint)}) {
        EXPECT_TRUE(strip.rect().contains(each->geometry())) << i << " at " << size.width();
        EXPECT_TRUE(each->isVisible());
        EXPECT_FALSE(each->visibleRegion().isEmpty());
        EXPECT_EQ(each->visibleRegion().boundingRect(), each->rect()) << i << " at " << size.width();
      }
      EXPECT_GE(block.width(), block.fontMetrics().horizontalAdvance("12.5 kV"));
      const QRect needs = joint.fontMetrics().boundingRect(QRect(0, 0, 500, 500), 0, joint.text());
      EXPECT_GE(joint.width() + 2, needs.width()) << joint.text().toStdString() << " at " << size.width();
      EXPECT_GE(joint.height() + 2, needs.height());
      for (const QRect& other : places) EXPECT_FALSE(other.intersects(joint.geometry().adjusted(1, 0, -1, 0))) << i;
      places.push_back(joint.geometry());
      places.push_back(block.geometry());
    }
  }
}

TEST_F(Power, a_feed_that_cannot_work_says_why_and_keeps_every_number) {
  show("feed");
  const auto feed = design().feed;
  press(QString("block %1").arg(block_of("transformer") + 1));
  press("later block"); // the transformer behind the safety gap
  simulate();
  EXPECT_THAT(text("feed verdict").toStdString(), HasSubstr("cannot"));
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("needs a transformer before it"));
  EXPECT_THAT(get<QAbstractButton>("stage feed").accessibleName().toStdString(), HasSubstr("1 finding"));
  EXPECT_EQ(design().feed.size(), feed.size());
  press("undo");
  EXPECT_EQ(design().feed, feed);
}

TEST_F(Power, a_block_number_takes_any_notation_and_refuses_nonsense) {
  show("feed");
  const QString field = field_of("transformer", "output_v");
  type_into(field, "9k5");
  EXPECT_DOUBLE_EQ(design().feed[block_of("transformer")].values.at("output_v"), 9500);
  type_into(field, "-3 kV");
  EXPECT_DOUBLE_EQ(design().feed[block_of("transformer")].values.at("output_v"), 9500);
  EXPECT_FALSE(get<QuantityField>(field).problem().isEmpty());
}

TEST_F(Power, a_charging_run_is_kept_for_comparison_and_exported) {
  show("feed");
  press("keep charging");
  type_into(field_of("variac", "setting"), "0.5");
  simulate();
  EXPECT_EQ(get<QCustomPlot>("charging plot").graphCount(), 3);
  for (const char* name : {"charging.csv", "charging.svg", "charging.png", "charging.cir"}) {
    choose_file(path(name));
    press("export charging");
    EXPECT_GT(QFileInfo(path(name)).size(), 1000) << name;
  }
  choose_file(path("no/such/folder/charging.csv"));
  press("export charging");
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("Not written"));
}

TEST_F(Power, what_is_there_or_not_is_ticked) {
  show("feed");
  const QString box = field_of("breaker", "type_c");
  press(box);
  EXPECT_EQ(design().feed[0].values.at("type_c"), 1);
  EXPECT_TRUE(get<QCheckBox>(box).isChecked());
  press("undo");
  EXPECT_FALSE(get<QCheckBox>(box).isChecked()) << "and follows the design";
}

TEST_F(Power, the_present_setting_stands_out_in_the_variac_table_which_stands_beside_its_plot) {
  show("feed");
  type_into(field_of("variac", "setting"), "0.55");
  simulate();
  auto& table = get<QTableWidget>("variac table");
  ASSERT_EQ(table.rowCount(), 8);
  for (int r = 0; r < table.rowCount(); ++r)
    EXPECT_EQ(table.item(r, 1)->font().bold(), table.item(r, 0)->text() == "55 %") << r;
  const auto& figures = get<QTableWidget>("charging figures");
  window().resize(1280, 800);
  EXPECT_FALSE(table.isVisible());
  EXPECT_TRUE(figures.isVisible()) << "of now, beside the waveforms";
  window().resize(1024, 700);
  EXPECT_TRUE(figures.isVisible()) << "headlines stand always";
  choose("feed plot", 1);
  EXPECT_TRUE(table.isVisible());
  EXPECT_FALSE(figures.isVisible());
}

TEST_F(Power, plots_are_read_and_looked_into_from_the_keyboard) {
  show("switch");
  simulate();
  auto& top = get<CursorPlot>("top voltage plot");
  auto& bottom = get<CursorPlot>("primary current plot");
  EXPECT_NEAR(top.cursor(), document().power_of<arc::SparkGapPower>()->shot.top_peak_s * 1e6, 0.02)
      << "it stands at the peak";
  top.setFocus();
  const QString at_peak = text("shot cursor");
  const double before = top.cursor(), span = top.xAxis->range().size();
  for (int i = 0; i < 5; ++i) QTest::keyClick(&top, Qt::Key_Right);
  EXPECT_GT(top.cursor(), before);
  EXPECT_EQ(top.cursor(), bottom.cursor()) << "one instant in both";
  EXPECT_NE(text("shot cursor"), at_peak);
  QTest::keyClick(&top, Qt::Key_Left, Qt::ShiftModifier);
  EXPECT_LT(top.cursor(), before);
  QTest::keyClick(&top, Qt::Key_Plus);
  EXPECT_NEAR(top.xAxis->range().size(), 0.8 * span, 1e-9);
  EXPECT_EQ(bottom.xAxis->range(), top.xAxis->range());
  QTest::keyClick(&bottom, Qt::Key_Home);
  EXPECT_NEAR(top.xAxis->range().size(), span, 1e-9);

  show("feed");
  auto& plot = get<CursorPlot>("charging plot");
  for (const auto& [what, words] : std::map<int, const char*>{{0, "tank"}, {1, "line"}, {2, "it holds"}}) {
    choose("feed plot", what);
    QTest::keyClick(&plot, Qt::Key_Left, Qt::ShiftModifier);
    if (what == 2)
      for (int i = 0; i < 100; ++i) QTest::keyClick(&plot, Qt::Key_Left, Qt::ShiftModifier);
    EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr(words));
  }
  for (int i = 0; i < 100; ++i) QTest::keyClick(&plot, Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("trips after"));
}

TEST_F(Power, an_empty_feed_offers_the_usual_arrangements_and_never_a_blank_plot) {
  show("feed");
  EXPECT_FALSE(get<QWidget>("feed start").isVisible());
  const auto before = design().feed;
  document().edit("Empty", [](arc::Design& d) { d.feed.clear(); });
  simulate();
  EXPECT_TRUE(get<QWidget>("feed start").isVisible());
  EXPECT_FALSE(get<FeedStrip>("feed strip").isVisible());
  EXPECT_THAT(text("feed verdict").toStdString(), HasSubstr("Nothing feeds the tank"));
  for (const char* key : {"sign", "ovens", "direct", "ignition", "push-pull"}) {
    get<QPushButton>(QString("start ") + key).click();
    simulate();
    EXPECT_FALSE(design().feed.empty()) << key;
    EXPECT_TRUE(get<FeedStrip>("feed strip").isVisible()) << key;
    EXPECT_THAT(text("feed verdict").toStdString(), testing::AnyOf(HasSubstr("bps"), HasSubstr("reaches")));
    document().history().undo();
    simulate();
  }
  document().history().undo();
  EXPECT_EQ(design().feed, before);
}

TEST_F(Power, the_wall_follows_the_mains) {
  show("feed");
  document().edit("Mains", [](arc::Design& d) { d.site.mains_voltage_v = 120; });
  simulate();
  EXPECT_EQ(get<QLabel>("wall joint").text(), "120 V");
}

TEST_F(Power, a_block_that_says_nothing_has_the_standard_number_in_series) {
  document().edit("Oven transformers", [](arc::Design& d) {
    arc::FeedBlock block;
    block.kind = "oven-transformers";
    d.feed = {block};
  });
  show("feed");
  EXPECT_TRUE(get<QWidget>("polarity test").isVisible()) << "two in series, unless the file says otherwise";
}

TEST_F(Power, the_polarity_test_leads_through_its_steps_and_notes_what_was_read) {
  show("feed");
  EXPECT_FALSE(get<QWidget>("polarity test").isVisible()) << "nothing stands in series";
  document().edit("Oven transformers", [](arc::Design& d) { d.feed = {arc::make_block("oven-transformers")}; });
  simulate();
  press("polarity test");
  press("polarity next");
  EXPECT_FALSE(get<QPushButton>("polarity next").isEnabled()) << "not without a reading";
  type_into("one alone", "104 V");
  press("polarity next");
  type_into("all in series", "5 V");
  press("polarity next");
  EXPECT_THAT(text("polarity verdict").toStdString(), HasSubstr("swap the two leads of one primary"));
  press("polarity keep");
  simulate();
  EXPECT_EQ(design().feed[0].values.at("reversed"), 1);
  EXPECT_THAT(text("feed reason").toStdString(), HasSubstr("swap one primary"));
  press("polarity test");
  for (int i = 0; i < 4; ++i) {
    if (i == 1) type_into("one alone", "104 V");
    if (i == 2) type_into("all in series", "150 V");
    if (i < 3) press("polarity next");
  }
  EXPECT_THAT(text("polarity verdict").toStdString(), HasSubstr("fit no arrangement"));
  EXPECT_FALSE(get<QPushButton>("polarity keep").isEnabled());
  press("polarity back");
  type_into("all in series", "208 V");
  press("polarity next");
  EXPECT_THAT(text("polarity verdict").toStdString(), HasSubstr("All windings help"));
  press("polarity keep");
  EXPECT_EQ(design().feed[0].values.at("reversed"), 0);
}

TEST_F(Power, findings_on_the_power_path_stand_with_the_others_and_their_remedies_work) {
  simulate();
  ASSERT_FALSE(window().findChildren<QWidget*>("finding rate-differs").isEmpty());
  press("remedy rate-differs");
  EXPECT_GT(design().gap.break_rate_hz, 220);
  simulate();
  bool there = false;
  for (const QWidget* card : window().findChildren<QWidget*>("finding rate-differs"))
    there = there || card->isVisible();
  EXPECT_FALSE(there);
}

TEST_F(Power, the_shot_is_drawn_read_kept_and_exported) {
  show("switch");
  EXPECT_THAT(text("shot verdict").toStdString(), HasSubstr("at the top"));
  EXPECT_THAT(text("shot reason").toStdString(), HasSubstr("nearest coupling of complete transfer"));
  EXPECT_THAT(text("shot cursor").toStdString(), HasSubstr("top"));
  auto& plot = get<QCustomPlot>("top voltage plot");
  const int graphs = plot.graphCount();
  press("keep shot");
  EXPECT_EQ(plot.graphCount(), graphs + 1) << "the kept shot lies behind";
  for (const char* name : {"shot.csv", "shot.svg", "shot.png", "shot.cir"}) {
    choose_file(path(name));
    press("export shot");
    EXPECT_GT(QFileInfo(path(name)).size(), 1000) << name;
  }
}

TEST_F(Power, the_shots_figures_carry_bands_and_follow_quench_and_model) {
  show("switch");
  EXPECT_THAT(cell("shot figures", "Top", 1), HasSubstr("±"));
  EXPECT_THAT(cell("shot figures", "Capacitor", 1), HasSubstr("%"));
  EXPECT_THAT(cell("shot figures", "Wider gap", 1), HasSubstr(" of "));
  const std::string heat = cell("shot figures", "Gap heat", 1);
  choose("quench notch", 3);
  EXPECT_NE(cell("shot figures", "Gap heat", 1), heat) << "a later quench burns longer";
  const std::string top = cell("shot figures", "Top", 1);
  choose("resonator model", 1);
  EXPECT_NE(cell("shot figures", "Top", 1), top);
  EXPECT_EQ(document().power_of<arc::SparkGapPower>()->circuit.modes.size(), 1u);
}

TEST_F(Power, a_tried_change_is_made_and_can_be_undone) {
  show("switch");
  EXPECT_FALSE(get<QPushButton>("make change").isEnabled());
  const double before = design().primary.tap_turns;
  auto& changes = get<QTableWidget>("single changes");
  ASSERT_GT(changes.rowCount(), 2);
  EXPECT_THAT(changes.item(0, 0)->text().toStdString(), HasSubstr("Move the tap out"));
  changes.selectRow(0);
  press("make change");
  EXPECT_GT(design().primary.tap_turns, before);
  press("undo");
  EXPECT_EQ(design().primary.tap_turns, before);
}

TEST_F(Power, the_gap_computes_where_it_fires_and_the_design_takes_it) {
  show("switch");
  type_into("gap.spacing_m", "0.7 mm");
  EXPECT_THAT(get<QPushButton>("adopt firing voltage").text().toStdString(), HasSubstr("Fires at"));
  press("adopt firing voltage");
  EXPECT_GT(design().gap.firing_voltage_v, 8e3);
  EXPECT_LT(design().gap.firing_voltage_v, 14e3);
  const QString rounded = get<QPushButton>("adopt firing voltage").text();
  choose("electrode shape", 1);
  EXPECT_EQ(design().gap.electrode_shape, arc::ElectrodeShape::cylinders);
  EXPECT_NE(get<QPushButton>("adopt firing voltage").text(), rounded) << "pipes hold another voltage";
  type_into("gap.electrode_diameter_m", "");
  EXPECT_FALSE(get<QPushButton>("adopt firing voltage").isEnabled());
  type_into("gap.spacing_m", "0");
  EXPECT_FALSE(get<QuantityField>("gap.spacing_m").problem().isEmpty()) << "zero spacing is no gap";
}

TEST_F(Power, one_mains_cycle_comes_by_a_key_and_breaks_too_close_for_a_curve_are_ticks) {
  show("feed");
  auto& plot = get<CursorPlot>("charging plot");
  const double cycle_ms = 1e3 / design().site.mains_frequency_hz;
  EXPECT_NEAR(plot.xAxis->range().size(), 4 * cycle_ms, 1e-6);
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("C: one mains cycle"));
  QTest::keyClick(&plot, Qt::Key_C);
  EXPECT_NEAR(plot.xAxis->range().size(), cycle_ms, 1e-6);
  QTest::keyClick(&plot, Qt::Key_C);
  EXPECT_NEAR(plot.xAxis->range().size(), 4 * cycle_ms, 1e-6);
  document().edit("low gap", [](arc::Design& d) { d.gap.firing_voltage_v = 1500; });
  settle();
  simulate();
  plot.replot();
  EXPECT_THAT(text("charging cursor").toStdString(), HasSubstr("ticks: "));
  EXPECT_EQ(plot.graphCount(), 3);
  EXPECT_TRUE(plot.graph(2)->visible());
  for (int i = 0; i < 25; ++i) QTest::keyClick(&plot, Qt::Key_Plus);
  plot.replot();
  EXPECT_FALSE(plot.graph(2)->visible()) << "seen from close a curve tells more";
  EXPECT_THAT(text("charging cursor").toStdString(), testing::Not(HasSubstr("ticks")));
}

TEST_F(Power, a_rotor_is_entered_and_says_when_it_fires) {
  show("switch");
  EXPECT_EQ(text("rotor words"), "Static gap");
  EXPECT_FALSE(get<QLineEdit>("gap.rotary_electrodes").isVisible()) << "a static gap";
  press("rotary gap");
  EXPECT_TRUE(get<QLineEdit>("gap.rotary_electrodes").isVisible());
  type_into("gap.rotary_electrodes", "4");
  type_into("gap.rotor_speed_hz", "50");
  type_into("gap.spacing_m", "");
  EXPECT_THAT(text("rotor words").toStdString(), HasSubstr("200 presentations a second, free-running"));
  EXPECT_FALSE(get<QPushButton>("adopt firing voltage").isVisible()) << "there is no static gap to compute";
  type_into("gap.rotor_phase_deg", "80");
  EXPECT_THAT(text("rotor words").toStdString(), HasSubstr("locked to the mains"));
  simulate();
  EXPECT_GT(document().power_of<arc::SparkGapPower>()->dwell_s, 0);
  EXPECT_THAT(cell("shot figures", "Dwell", 1), HasSubstr("s"));
}

TEST_F(Power, what_every_unit_of_the_tank_sees_stands_below_it) {
  show("tank");
  auto& table = get<QTableWidget>("unit stress");
  ASSERT_EQ(table.rowCount(), 1);
  for (const int column : {1, 2, 3})
    EXPECT_THAT(table.item(0, column)->text().toStdString(), HasSubstr("%")) << column;
  EXPECT_THAT(text("tank verdict").toStdString(), HasSubstr("No stated rating is exceeded"));
  type_into("tank.unit_rms_current_a", "2 A");
  simulate();
  EXPECT_THAT(text("tank verdict").toStdString(), HasSubstr("A rating is exceeded"));
  EXPECT_THAT(get<QAbstractButton>("stage tank").accessibleName().toStdString(), HasSubstr("1 finding"));
}

TEST_F(Power, a_part_from_the_tray_is_tried_laid_across_and_taken_off) {
  show("tank");
  EXPECT_EQ(get<QListWidget>("part tray").count(), 0) << "invented examples are nobody's";
  count_examples();
  auto& tray = get<QListWidget>("part tray");
  ASSERT_GT(tray.count(), 3);
  EXPECT_FALSE(get<QPushButton>("lay across").isEnabled());
  const arc::Tank before = design().tank;
  tray.setCurrentRow(4);
  EXPECT_THAT(text("laid across").toStdString(), HasSubstr("Tuned with the tap at"));
  EXPECT_EQ(design().tank, before) << "only tried";
  press("lay across");
  ASSERT_EQ(design().tank.sections.size(), 2u);
  EXPECT_GT(analysis().tank_capacitance_f, 12e-9);
  EXPECT_EQ(get<QComboBox>("tank mode").currentIndex(), 2);
  // A second one, dropped onto the drawing.
  auto& bank = get<BankView>("bank");
  QMimeData part;
  part.setData(shelf_part_mime, "4");
  const QPoint middle = bank.rect().center();
  QDragEnterEvent enter(middle, Qt::CopyAction, &part, Qt::LeftButton, {});
  QApplication::sendEvent(&bank, &enter);
  QDropEvent drop(QPointF(middle), Qt::CopyAction, &part, Qt::LeftButton, {});
  QApplication::sendEvent(&bank, &drop);
  settle();
  EXPECT_EQ(design().tank.sections.back().in_parallel, 2);
  EXPECT_FALSE(get<QPushButton>("take off").isEnabled());
  bank.setFocus();
  QTest::keyClick(&bank, Qt::Key_Right);
  QTest::keyClick(&bank, Qt::Key_Right);
  EXPECT_EQ(bank.chosen(), 1u);
  press("take off");
  EXPECT_EQ(design().tank.sections.back().in_parallel, 1);
  QTest::keyClick(&bank, Qt::Key_Delete);
  settle();
  EXPECT_EQ(design().tank.sections.size(), 1u);
  EXPECT_FALSE(get<QPushButton>("take off").isEnabled()) << "the last string stays";
  choose("tank mode", 0);
  EXPECT_EQ(arc::tank_given(design().tank), arc::TankGiven::one_value);
  EXPECT_NEAR(analysis().tank_capacitance_f, 12e-9, 1e-12);
}

TEST_F(Power, banks_from_the_shelf_are_offered_drawn_and_taken) {
  show("tank");
  press("from shelf");
  EXPECT_TRUE(wait_until([&] { return text("bank verdict").contains("invented examples only"); }));
  get<QCheckBox>("invented count").click();
  auto& offers = get<QTableWidget>("bank offers");
  ASSERT_TRUE(wait_until([&] { return offers.rowCount() > 0; }));
  EXPECT_LE(offers.rowCount(), 10);
  EXPECT_TRUE(get<BankView>("offered bank").isVisible());
  type_into("wanted capacitance", "12n");
  type_into("wanted voltage", "15 kV");
  int mixed = -1;
  ASSERT_TRUE(wait_until([&] {
    for (int r = 0; r < offers.rowCount(); ++r)
      if (offers.item(r, 0)->text().contains('+')) mixed = r;
    return mixed >= 0;
  }));
  offers.selectRow(mixed);
  press("take bank");
  EXPECT_GT(design().tank.sections.size(), 1u) << "taken as it would be bolted together";
  ASSERT_TRUE(analysis().unit_used);
  EXPECT_LE(*analysis().unit_used, 0.8);
  EXPECT_NEAR(analysis().tank_capacitance_f, 12e-9, 3e-9);
  const auto least_units = [&] { return offers.rowCount() > 0 ? offers.item(0, 3)->text().toInt() : 1000; };
  const int before = least_units();
  choose("bank order", 3);
  ASSERT_TRUE(wait_until([&] { return least_units() < before; })) << "fewest units first";
  EXPECT_LE(least_units(), offers.item(offers.rowCount() - 1, 3)->text().toInt());
  type_into("wanted nearness", "1 %");
  EXPECT_TRUE(wait_until([&] {
    for (int r = 0; r < offers.rowCount(); ++r)
      if (!offers.item(r, 1)->text().contains(QRegularExpression("[+-](0\\.|1\\.0 )|  0"))) return false;
    return offers.rowCount() > 0;
  }));
  type_into("wanted voltage", "900 kV");
  EXPECT_TRUE(wait_until([&] { return text("bank verdict").contains("cannot make"); }));
  EXPECT_FALSE(get<QPushButton>("take bank").isEnabled());
  window().findChild<QDialog*>("bank finder")->close();
}

TEST_F(Power, an_empty_shelf_says_so) {
  window().workspace().shelf.edit([](arc::Shelf& shelf) { shelf.of("capacitors").clear(); });
  show("tank");
  EXPECT_THAT(text("laid across").toStdString(), HasSubstr("Nothing on the shelf"));
  press("from shelf");
  EXPECT_TRUE(wait_until([&] { return text("bank verdict").contains("no capacitors on the shelf yet"); }));
  window().findChild<QDialog*>("bank finder")->close();
}

class ShelfSheet : public Power {
 protected:
  void open_sheet() {
    show("tank");
    press("edit shelf");
  }
  QTableWidget& table() { return get<QTableWidget>("shelf parts"); }
  const arc::Shelf& shelf() { return window().workspace().shelf.shelf(); }
  void show_group(int row) {
    get<QListWidget>("shelf groups").setCurrentRow(row);
    QApplication::processEvents();
  }
};

TEST_F(ShelfSheet, cells_take_any_notation_keep_what_cannot_be_read_and_can_be_undone) {
  open_sheet();
  EXPECT_THAT(text("shelf name").toStdString(), HasSubstr("examples"));
  table().item(0, 1)->setText("0.22u");
  EXPECT_DOUBLE_EQ(shelf().of("capacitors")[0].values.at("capacitance_f"), 220e-9);
  table().item(0, 5)->setText("215 nF");
  EXPECT_DOUBLE_EQ(arc::shelf_capacitor(shelf().of("capacitors")[0]).capacitance_f, 215e-9)
      << "measured, not marked";
  table().item(0, 1)->setText("a lot");
  EXPECT_EQ(table().item(0, 1)->text(), "a lot") << "what was typed stays";
  EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("keeps its old value"));
  EXPECT_DOUBLE_EQ(shelf().of("capacitors")[0].values.at("capacitance_f"), 220e-9);
  table().item(0, 2)->setText("");
  EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("is needed"));
  press("undo shelf");
  press("undo shelf");
  EXPECT_EQ(arc::write_shelf(shelf()), arc::write_shelf(arc::starter_shelf()));
}

TEST_F(ShelfSheet, a_slipped_marking_is_questioned) {
  open_sheet();
  table().item(3, 1)->setText("470u");
  EXPECT_THAT(table().item(3, 0)->toolTip().toStdString(), HasSubstr("is the marking read right?"));
}

TEST_F(ShelfSheet, parts_are_added_removed_and_used_in_the_coil) {
  open_sheet();
  show_group(1);
  const int rows = table().rowCount();
  press("add part");
  EXPECT_EQ(table().rowCount(), rows + 1);
  press("remove part");
  EXPECT_EQ(table().rowCount(), rows);
  table().setCurrentCell(1, 0);
  press("use part");
  EXPECT_DOUBLE_EQ(design().secondary.wire_bare_diameter_m, 2.5e-4);
  EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("wound with it"));
  show_group(0);
  table().setCurrentCell(0, 0);
  press("use part");
  EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("banks for the tank are found on Tank"));
}

TEST_F(ShelfSheet, a_spool_that_is_too_short_says_so) {
  open_sheet();
  show_group(1);
  table().item(0, 3)->setText("20 m");
  EXPECT_THAT(table().item(0, 0)->toolTip().toStdString(), HasSubstr("Too short for this form"));
}

TEST_F(ShelfSheet, it_is_kept_between_sessions_and_an_unreadable_one_is_not_lost) {
  open_sheet();
  table().item(0, 0)->setText("my films");
  close_window();
  open_window();
  EXPECT_EQ(shelf().of("capacitors")[0].name, "my films");
  close_window();
  QFile file(path("shelf.json"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write("{\"format\":\"high-arc-shelf\"");
  file.close();
  open_window();
  EXPECT_THAT(window().workspace().shelf.problem().toStdString(), HasSubstr("cut off"));
  EXPECT_TRUE(QFileInfo::exists(path("shelf.json.unreadable")));
  EXPECT_FALSE(shelf().of("capacitors").empty());
}

TEST_F(ShelfSheet, files_go_out_and_come_in_and_bad_ones_change_nothing) {
  open_sheet();
  for (const char* name : {"shelf.json.out.json", "caps.csv"}) {
    choose_file(path(name));
    press("export shelf");
    EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("Written"));
    choose_file(path(name));
    press("import shelf");
    EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("Read from"));
    arc::Shelf expected = arc::starter_shelf();
    if (QString(name).endsWith(".csv")) // what somebody brings in as a table is somebody's
      for (arc::ShelfPart& part : expected.of("capacitors")) part.invented = false;
    EXPECT_EQ(arc::write_shelf(shelf()), arc::write_shelf(expected)) << name;
  }
  QFile bad(path("bad.json"));
  ASSERT_TRUE(bad.open(QIODevice::WriteOnly));
  bad.write("{\"format\":\"high-arc-shelf\"");
  bad.close();
  choose_file(bad.fileName());
  press("import shelf");
  EXPECT_THAT(text("shelf verdict").toStdString(), HasSubstr("was not read"));
}

} // namespace

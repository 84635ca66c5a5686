// The ten-minute start of docs/how-to.md, step by step through the window: what it says should be seen is seen.
#include "stages/stage.h"
#include "support.h"
#include "toolkit/reading_button.h"

#include <QFile>
#include <QImage>
#include <QRegularExpression>
#include <QTextBrowser>
#include <set>

namespace {

using testing::HasSubstr;

class TenMinutes : public WindowTest {
 protected:
  static QString page(const char* name) {
    QFile file(QString(":/help/") + name);
    EXPECT_TRUE(file.open(QIODevice::ReadOnly)) << name;
    return QString::fromUtf8(file.readAll()).simplified();
  }
  void enter(const char* stage, std::initializer_list<std::pair<QString, const char*>> values) {
    show_stage(stage);
    for (const auto& [field, text] : values) {
      EXPECT_TRUE(get<QLineEdit>(field).isVisible()) << field.toStdString();
      type_into(field, text);
    }
  }
  /// That the page tells this, and that the reading says it.
  void expect_seen(const char* reading, const char* text) {
    EXPECT_THAT(page("how-to.md").toStdString(), HasSubstr(text));
    EXPECT_EQ(get<ReadingButton>(QString("reading ") + reading).value_text().toStdString(), text) << reading;
  }
};

TEST_F(TenMinutes, a_newcomers_twelve_steps_lead_to_a_tuned_coil) {
  QTest::keyClick(&window(), Qt::Key_0, Qt::AltModifier);
  press("new spark-gap");
  enter("resonator", {{"secondary.form_diameter_m", "75 mm"},
                      {"secondary.turns", "1000"},
                      {"secondary.wire_bare_diameter_m", "0.28 mm"},
                      {"secondary.wire_overall_diameter_m", "0.315 mm"},
                      {"secondary.winding_length_m", "330 mm"}});
  EXPECT_THAT(get<ReadingButton>("reading secondary_inductance_h").value_text().toStdString(),
              testing::StartsWith("15.4"));
  expect_seen("wire_length_m", "236.6 m");
  enter("resonator", {{"topload 1 outer_diameter_m", "250 mm"},
                      {"topload 1 tube_diameter_m", "60 mm"},
                      {"topload 1 centre_above_winding_m", "50 mm"}});
  expect_seen("mode_1_hz", "362.8 kHz");
  enter("primary", {{"primary.inner_radius_m", "60 mm"},
                    {"primary.pitch_m", "10 mm"},
                    {"primary.turns", "14"},
                    {"primary.conductor_diameter_m", "6 mm"}});
  EXPECT_NEAR(analysis().circuit.coupling, 0.12, 0.002);
  enter("tank", {{"tank.unit_capacitance_f", "100 nF"},
                 {"tank.units_in_series", "12"},
                 {"tank.units_in_parallel", "1"},
                 {"tank.unit_voltage_v", "2 kV"},
                 {"tank.bleed_resistance_ohm", "10M"}});
  expect_seen("tank_capacitance_f", "8.333 nF");
  show_stage("feed");
  const auto& feed = design().feed.get();
  const auto block = std::ranges::find(feed, "transformer", &arc::FeedBlock::kind) - feed.begin() + 1;
  press(QString("block %1").arg(block));
  const auto named = [block](const char* number) { return QString("block %1 %2").arg(block).arg(number); };
  enter("feed",
        {{named("output_v"), "9 kV"}, {named("short_circuit_a"), "30 mA"}, {named("resistance_ohm"), "8k"}});
  enter("switch", {{"switch gap.firing_voltage_v", "11 kV"}});
  show_stage("tank");
  expect_seen("stored_energy_j", "504 mJ");
  document().wait_for_simulation();
  press("remedy tank-off-tune");
  EXPECT_NEAR(design().primary.tap_turns, 9.97, 0.01);
  document().wait_for_simulation();
  press("remedy rate-differs");
  EXPECT_NEAR(design().gap.break_rate_hz, 240, 0.5);
  document().wait_for_simulation();
  const QString told = page("how-to.md");
  EXPECT_THAT(told.toStdString(), HasSubstr("an arc of " + get<QAbstractButton>("strip arc").text().toStdString()));
  for (const QString& part : get<QAbstractButton>("strip power").text().split(", "))
    EXPECT_TRUE(told.contains(part)) << part.toStdString();
  EXPECT_TRUE(document().stops().empty());
  show_stage("primary");
  press("confirm stage");
  EXPECT_EQ(design().confirmed.size(), 1u);
}

TEST_F(TenMinutes, each_step_has_a_picture_cut_from_one_that_is_kept) {
  window().findChild<QAction*>("action help")->trigger();
  press("help tasks");
  auto& text = get<QTextBrowser>("help text");
  static const QRegularExpression named(R"(!\[[^\]]+\]\((screenshots/[^)#]+)#(\d+),(\d+),(\d+),(\d+)\))");
  QStringList seen;
  for (auto at = named.globalMatch(page("how-to.md")); at.hasNext();) {
    const auto found = at.next();
    const QString name = found.captured(0).section('(', 1).chopped(1);
    const auto picture = text.document()->resource(QTextDocument::ImageResource, QUrl(name)).value<QImage>();
    ASSERT_FALSE(picture.isNull()) << name.toStdString();
    EXPECT_LE(picture.width(), found.captured(4).toInt()) << name.toStdString();
    EXPECT_GT(picture.width(), 100) << name.toStdString();
    std::set<QRgb> colours;
    for (int x = 0; x < picture.width(); ++x)
      for (int y = 0; y < picture.height(); ++y) colours.insert(picture.pixel(x, y));
    EXPECT_GT(colours.size(), 20u) << "nothing is seen in " << name.toStdString();
    seen << name;
  }
  EXPECT_EQ(seen.size(), 12);
  seen.removeDuplicates();
  EXPECT_EQ(seen.size(), 12);
}

// Readers for whom English is a second language: short sentences, counted as they stand on the page.
TEST_F(TenMinutes, the_guide_tasks_and_words_are_told_in_short_sentences) {
  for (const char* name : {"guide.md", "how-to.md", "words.md"}) {
    QString text = page(name);
    text.remove(QRegularExpression("[*`#|]"));
    static const QRegularExpression end(R"([.!?]\s+)"), blank(R"(\s+)");
    int sentences = 0;
    qsizetype words = 0;
    for (const QString& sentence : text.split(end, Qt::SkipEmptyParts)) {
      ++sentences;
      words += sentence.split(blank, Qt::SkipEmptyParts).size();
    }
    ASSERT_GT(sentences, 50) << name;
    EXPECT_LE(words, 18 * sentences) << name;
  }
}

} // namespace

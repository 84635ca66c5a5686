// The two themes and what carries them to the controls.
#include "base/theme.h"

#include <QFontDatabase>
#include <algorithm>
#include <array>
#include <cmath>

Theme Theme::daylight() {
  return {"daylight", "#F6F3EC", "#FCFAF5", "#D9D3C7", "#ECE6D9", "#1E2A36", "#566573", "#A05520",
          "#F0DCC8",  "#DAD6CA", "#5546C9", "#DAD5F2", "#2B7354", "#8C5207", "#B3261E"};
}

Theme Theme::dark_room() {
  return {"dark room", "#14181D", "#1B2026", "#343C46", "#262D36", "#E8E3D8", "#A3ADB8", "#E09A5E",
          "#3E2E20",   "#3A3F45", "#A79CFF", "#2C2950", "#6CC79C", "#E9AE4F", "#FF8A80"};
}

namespace type {

QFont font(int pixels, QFont::Weight weight) {
  QFont out("High Arc Text");
  out.setPixelSize(pixels);
  out.setWeight(weight);
  return out;
}

bool load_fonts() {
  return std::ranges::all_of(std::array{"Regular", "Medium", "SemiBold"}, [](const char* style) {
    return QFontDatabase::addApplicationFont(QString(":/fonts/HighArcText-%1.otf").arg(style)) >= 0;
  });
}

} // namespace type

QPalette palette_of(const Theme& t) {
  QPalette p;
  p.setColor(QPalette::Window, t.paper);
  p.setColor(QPalette::WindowText, t.ink);
  p.setColor(QPalette::Base, t.card);
  p.setColor(QPalette::AlternateBase, t.paper);
  p.setColor(QPalette::Text, t.ink);
  p.setColor(QPalette::PlaceholderText, t.second);
  p.setColor(QPalette::Button, t.card);
  p.setColor(QPalette::ButtonText, t.ink);
  p.setColor(QPalette::ToolTipBase, t.card);
  p.setColor(QPalette::ToolTipText, t.ink);
  p.setColor(QPalette::Highlight, t.arc);
  p.setColor(QPalette::HighlightedText, t.paper);
  p.setColor(QPalette::Link, t.arc);
  p.setColor(QPalette::Disabled, QPalette::Text, t.second);
  p.setColor(QPalette::Disabled, QPalette::ButtonText, t.second);
  p.setColor(QPalette::Disabled, QPalette::WindowText, t.second);
  return p;
}

QString style_sheet(const Theme& t) {
  QString sheet = R"(
    QWidget { color: @ink; outline: none; }
    QMainWindow, QDialog, QMenu, QToolTip { background: @paper; }
    QWidget[loud="true"] { background: @stop; }
    QWidget[loud="true"] QLabel { color: @paper; }
    QToolTip { border: 1px solid @hairline; padding: 4px; color: @ink; background: @card; }
    QLineEdit, QPlainTextEdit, QComboBox, QSpinBox { background: @card; border: 1px solid @hairline; border-radius: 4px; padding: 3px 5px;
        selection-background-color: @arc; selection-color: @paper; }
    QLineEdit:hover, QComboBox:hover, QPlainTextEdit:hover { border-color: @second; }
    QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus { border: 2px solid @arc; padding: 2px 4px; }
    QLineEdit[bad="true"] { border: 2px solid @stop; padding: 2px 4px; }
    QLineEdit[example="true"] { color: @second; font-style: italic; }
    QLineEdit:disabled { color: @second; background: @paper; }
    QComboBox::drop-down { border: none; width: 20px; }
    QComboBox::down-arrow { image: url(:/chevron.svg); width: 12px; height: 12px; margin-right: 8px; }
    QComboBox QAbstractItemView { background: @card; border: 1px solid @hairline; selection-background-color: @shade; selection-color: @ink; outline: none; }
    QPushButton { background: @card; border: 1px solid @hairline; border-radius: 4px; padding: 5px 12px; }
    QPushButton:hover { border-color: @second; background: @shade; }
    QPushButton:pressed { background: @hairline; }
    QPushButton:focus { border: 2px solid @arc; padding: 4px 11px; }
    QPushButton:disabled { color: @second; background: @paper; border-style: dashed; }
    QPushButton:checked { background: @shade; font-weight: 600; }
    QPushButton[narrow="true"] { padding: 5px 0; }
    QPushButton[narrow="true"]:focus { padding: 4px 0; }
    QPushButton[link="true"] { background: transparent; border: none; color: @arc; padding: 2px 0; text-align: left; font-weight: 500; }
    QPushButton[link="true"]:hover { text-decoration: underline; }
    QPushButton[link="true"]:disabled { color: @second; }
    QPushButton[link="true"]:focus { border: 1px solid @arc; border-radius: 3px; padding: 1px; }
    QPushButton[primary="true"] { background: @arc; color: @paper; border-color: @arc; font-weight: 600; }
    QPushButton[primary="true"]:disabled, QPushButton[danger="true"]:disabled { background: @paper; color: @second; border: 1px dashed @hairline; font-weight: 400; }
    QPushButton[danger="true"] { background: @stop; color: @paper; border-color: @stop; font-weight: 600; }
    QPushButton[bench="true"] { font-size: 20px; font-weight: 600; padding: 5px 14px; }
    QPushButton[bench="true"]:focus { padding: 4px 13px; }
    QPushButton[bench="true"]:disabled { font-weight: 400; }
    QCheckBox { spacing: 8px; padding: 2px; }
    QCheckBox:focus { border: 1px solid @arc; border-radius: 3px; padding: 1px; }
    QCheckBox::indicator { width: 16px; height: 16px; border: 1.5px solid @second; border-radius: 3px; background: @card; }
    QCheckBox[bench="true"]::indicator { width: 20px; height: 20px; }
    QCheckBox::indicator:checked { background: @settled; border-color: @settled; image: url(:/tick.svg); }
    QTableView { background: @card; border: 1px solid @hairline; gridline-color: @hairline; selection-background-color: @shade; selection-color: @ink; }
    QTableView:focus { border: 1px solid @arc; }
    QListView { background: @card; border: 1px solid @hairline; selection-background-color: @shade; selection-color: @ink; outline: none; }
    QListView:focus { border: 1px solid @arc; }
    QListView::item { padding: 4px 6px; border-bottom: 1px solid @shade; }
    QListView::item:selected { background: @shade; color: @ink; }
    QListView::item:hover { background: @paper; }
    QHeaderView { background: @card; }
    QHeaderView::section { background: @card; color: @second; border: none; border-bottom: 1px solid @hairline; padding: 4px 6px; font-weight: 500; }
    QScrollArea { border: none; background: transparent; }
    QScrollArea > QWidget > QWidget { background: transparent; }
    QAbstractScrollArea::corner { background: transparent; border: none; }
    QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
    QScrollBar::handle:vertical { background: @hairline; border-radius: 4px; min-height: 30px; margin: 1px; }
    QScrollBar:horizontal { background: transparent; height: 10px; margin: 0; }
    QScrollBar::handle:horizontal { background: @hairline; border-radius: 4px; min-width: 30px; margin: 1px; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QMenu { border: 1px solid @hairline; padding: 4px; }
    QMenu::item { padding: 5px 24px 5px 12px; border-radius: 3px; }
    QMenu::item:selected { background: @shade; }
    QMenu::item:disabled { color: @second; }
    QLabel[caption="true"] { color: @second; }
    QLabel[danger="true"] { color: @warn; }
    QLabel[problem="true"] { color: @stop; }
    QWidget[row_cover="true"] { background: @card; }
    QFrame[rule="true"] { background: @hairline; border: none; }
  )";
  const std::array<std::pair<const char*, QColor>, 10> tokens{{{"@paper", t.paper},
                                                               {"@card", t.card},
                                                               {"@hairline", t.hairline},
                                                               {"@shade", t.shade},
                                                               {"@second", t.second},
                                                               {"@settled", t.settled},
                                                               {"@stop", t.stop},
                                                               {"@warn", t.warn},
                                                               {"@arc", t.arc},
                                                               {"@ink", t.ink}}};
  for (const auto& [token, colour] : tokens) sheet.replace(token, colour.name());
  return sheet;
}

double contrast_ratio(const QColor& a, const QColor& b) {
  const auto luminance = [](const QColor& c) {
    const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
  };
  const double la = luminance(a);
  const double lb = luminance(b);
  return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

// The tank capacitor as it would be bolted together: strings of units between two rails, or groups stacked, each
// unit with a bar for its share of its rating and its bleeder. A string of a mixed bank can be chosen and taken
// off; a part dragged onto the drawing is laid across the rails.
#pragma once

#include "base/workspace.h"
#include "toolkit/spoken.h"

#include <QWidget>
#include <optional>

class BankView : public QWidget, public SpokenDrawing {
  Q_OBJECT
 public:
  explicit BankView(Workspace& workspace, QWidget* parent = nullptr);

  /// Section of the string that is chosen; empty when none is.
  std::optional<std::size_t> chosen() const { return chosen_; }
  void choose(std::optional<std::size_t> section);
  /// A bank to draw instead, to try it; empty: the design's. `added`: the section with what is
  /// new, drawn in dashes. `volts`: peak across it, the gap's firing voltage when not given.
  void preview(std::optional<arc::Tank> tank, std::optional<std::size_t> added = {},
               std::optional<double> volts = {});
  QString readings() const override;
  QString at_cursor() const override;

 Q_SIGNALS:
  void chosen_changed();
  void remove_requested();
  void strings_wanted(int more); // + and - keys
  void part_dropped(int part);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

 private:
  const arc::Tank& tank() const;
  double peak_v() const;
  QStringList section_words() const;
  void paint_unit(QPainter& painter, const QRectF& cell, std::size_t section, double used, bool ghost);
  void paint_row(QPainter& painter, const QRectF& area, const std::vector<std::size_t>& sections,
                 const std::vector<double>& used);
  void paint_string(QPainter& painter, const QRectF& area, const arc::BankSection& s, std::size_t section,
                    double used);

  Workspace& workspace_;
  std::optional<arc::Tank> preview_;
  std::optional<std::size_t> added_;
  std::optional<double> volts_;
  std::optional<std::size_t> chosen_;
  std::vector<std::pair<QRectF, std::size_t>> strings_; // as last drawn
};

/// Drag data of a part of the shelf: its index among the capacitors.
inline constexpr const char* shelf_part_mime = "application/x-high-arc-shelf-part";

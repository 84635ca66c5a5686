// What assistive technology reads of drawings: each is a graphic whose name ends with what its cursor is at and
// whose description is all that is drawn, in words and numbers.
#pragma once

#include <QString>
#include <QStringList>

class QCustomPlot;
class QWidget;

/// A widget that draws what no control says.
class SpokenDrawing {
 public:
  virtual ~SpokenDrawing() = default;
  /// All that is drawn, with units; asked when it is read, so that it is never older than the picture.
  virtual QString readings() const = 0;
  /// What the keyboard or the pointer has chosen; empty where nothing is.
  virtual QString at_cursor() const { return {}; }
};

/// Once for the program: from then on drawings and plots are read so.
void install_spoken_drawings();
/// The cursor of a drawing has moved: it is read anew.
void tell_cursor(QWidget& drawing);

/// One part of a drawn circuit: "Grid leak: 1.5 kΩ, −180 V, beyond its limit".
QString part_words(const QString& title, const QStringList& values, bool beyond_limit);
/// Those of all parts, which have `said()`.
template <typename Parts>
QString all_said(const Parts& parts) {
  QStringList out;
  for (const auto& part : parts) out << part.said();
  return out.join("; ");
}

/// That of one part; empty where there is none.
template <typename Parts>
QString said_at(const Parts& parts, int index) {
  return index >= 0 && index < static_cast<int>(parts.size()) ? parts[static_cast<std::size_t>(index)].said()
                                                              : QString();
}

/// A number as it is read off a plot.
QString plot_figure(double value);
/// The axes of a plot and its curves with their ranges.
QString plot_readings(const QCustomPlot& plot);
/// Every curve of a plot at a place of its horizontal axis.
QString plot_readings_at(const QCustomPlot& plot, double x);

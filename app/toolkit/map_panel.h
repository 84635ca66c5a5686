// A map of two numbers tried against each other, whatever the craft: what of it is shown, the place that was picked
// in words, and taking it. Computes nothing; whoever has the map gives it.
#pragma once

#include "simulation/tried_map.h"
#include "toolkit/map_plot.h"
#include "toolkit/plot.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QWidget>
#include <functional>

class MapPanel : public QWidget {
 public:
  struct Names {
    const char *plot, *plot_words; // object name, what a screen reader says
    const char *shows, *take;      // object names
    const char *take_words, *step; // on the button, and of the edit that it makes
  };
  /// `say` is told the words of the picked place.
  MapPanel(Workspace& workspace, const Names& names, std::function<void(const QString&)> say, QWidget* parent);

  /// The map, of the design as it stands or not; null takes it away. It must live until the next call.
  void show(const arc::TriedMap* map, bool current);
  /// Left of the button: whatever making a map needs.
  QHBoxLayout* tools() { return tools_; }

 private:
  void draw();
  void read();
  void take();
  AxisUnit unit_of(const arc::MapAxis& axis) const;

  Workspace& workspace_;
  const Names names_;
  std::function<void(const QString&)> say_;
  const arc::TriedMap* map_ = nullptr;
  bool current_ = false;
  QHBoxLayout* tools_;
  QComboBox* shown_;
  QPushButton* take_;
  MapPlot* plot_;
};

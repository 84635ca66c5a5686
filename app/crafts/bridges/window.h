// What bridges add to the window.
#pragma once

struct CraftWindow;
class QWidget;
class Workspace;
class FeedView;
struct StageHead;

const CraftWindow& bridges_window();

QWidget* make_bridge_stage(Workspace& workspace, QWidget* parent);
QWidget* make_gate_stage(Workspace& workspace, QWidget* parent);
FeedView* make_bus_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent);

// What a spark gap adds to the window.
#pragma once

struct CraftWindow;
class QWidget;
class Workspace;
class FeedView;
struct StageHead;

const CraftWindow& spark_gap_window();

QWidget* make_switch_stage(Workspace& workspace, QWidget* parent);
FeedView* make_tank_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent);

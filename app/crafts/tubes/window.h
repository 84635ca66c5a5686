// What tube coils add to the window.
#pragma once

struct CraftWindow;
class QWidget;
class Workspace;
class FeedView;
struct StageHead;

const CraftWindow& tubes_window();

QWidget* make_oscillator_stage(Workspace& workspace, QWidget* parent);
QWidget* make_staccato_stage(Workspace& workspace, QWidget* parent);
FeedView* make_plate_feed_view(Workspace& workspace, const StageHead& head, QWidget* parent);

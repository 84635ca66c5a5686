// What an exciter adds to the window.
#pragma once

struct CraftWindow;
class QWidget;
class Workspace;

const CraftWindow& exciter_window();

QWidget* make_driver_stage(Workspace& workspace, QWidget* parent);

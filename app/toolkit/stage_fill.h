// One part of a stage, a plot or a list, in the whole of its room: by a key, and back by the same.
#pragma once

class QWidget;

/// The stage that a part lies in; null where it lies in none.
QWidget* stage_of(QWidget& part);
/// Whether a part fills this stage.
bool is_filled(const QWidget& stage);
/// Lets `part`, which lies within `stage`, take all of it: what lies beside it is hidden. Only while none does.
void fill_stage(QWidget& stage, QWidget& part);
/// Everything stands as before. Nothing happens while nothing fills it.
void unfill_stage(QWidget& stage);

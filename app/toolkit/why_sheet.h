// The sheet that says how a value came about: formula, inputs, assumption, band, source.
#pragma once

#include "simulation/figures.h"

#include <QString>
#include <functional>

class QWidget;

/// Opens it over the window of `parent`. `band` may be empty. With `go_to` a button leads to where it is shown,
/// with `solve` one to how it can be made another value.
void show_why(QWidget* parent, const QString& title, const QString& value, const QString& band,
              const arc::Explanation& why, const std::function<void()>& go_to = {},
              const std::function<void()>& solve = {});

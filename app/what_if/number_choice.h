// The choice of a number of the design, for what moves one.
#pragma once

#include "base/workspace.h"
#include "workshop/moved_number.h"

#include <QComboBox>

/// Fills the box with the numbers that can be moved, by path; the choice stays where it can, else it is the first
/// of `usual` that the design has.
void fill_numbers(QComboBox& box, const arc::Design& design, std::initializer_list<const char*> usual);

/// The one that is chosen; empty where there is none.
std::optional<arc::NumberPlace> chosen_number(const QComboBox& box, const arc::Design& design);

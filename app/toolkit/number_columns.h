// Numbers of a table aligned at their decimal points, with the heads above them.
#pragma once

#include <QTableWidget>

/// Keeps the table's columns of numbers (with or without units) aligned at the decimal point and to the right, and
/// their heads to the right; columns of words and their heads to the left. Follows whatever is filled in.
void align_numbers(QTableView* table);

/// Whether it is a number with at most a sign, a unit and a band: “13.45 µH”, “-4.8 %”, “226 kHz ± 1.1”.
bool is_number_cell(const QString& text);

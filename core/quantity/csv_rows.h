// Rows of a CSV text (RFC 4180), read with libcsv; what the rows mean is the caller's business.
#pragma once

#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// What is wrong with a CSV text: the row and what would be right.
class CsvError : public std::runtime_error {
  using std::runtime_error::runtime_error;
};

using CsvRows = std::vector<std::vector<std::string>>;

/// All rows; a byte-order mark is skipped. Throws CsvError when a quotation mark is misplaced or never closed.
CsvRows csv_rows(std::string_view text);

/// A text as a cell: quoted when it holds a comma, a quotation mark, a line end or outer spaces; with an apostrophe
/// in front where a spreadsheet would otherwise take it for a formula (= + - @, tab or return at its start).
std::string csv_cell(const std::string& text);
/// The text that csv_cell() wrote as this cell.
std::string csv_text(const std::string& cell);

/// Reads a cell as a finite number; false when it is anything else.
bool csv_number(const std::string& cell, double& value);

} // namespace arc

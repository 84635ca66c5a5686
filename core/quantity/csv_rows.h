// Rows of a CSV text (RFC 4180), read with libcsv; what the rows mean is the caller's business.
#pragma once

#include <optional>
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
CsvRows csv_rows(std::string_view text, char delimiter = ',');

/// A table as spreadsheets save it: commas, semicolons or tabs between the cells, a line "sep=;" before them,
/// UTF-8, UTF-16 with its mark, or Windows-1252.
struct SheetRows {
  CsvRows rows;
  bool decimal_comma = false; // some number in it can only be read so, or the delimiter leaves no doubt
};
/// Throws CsvError as csv_rows() does.
SheetRows sheet_rows(std::string_view text);

/// A number as spreadsheets write it: decimal point or comma, groups of three, a plus sign, spaces around it.
struct SheetNumber {
  double value = 0;
  int digits = 0; // that are written, without leading zeros
};
/// Empty for anything else, and where a single comma may stand before decimals as well as before thousands.
std::optional<SheetNumber> sheet_number(std::string cell, bool decimal_comma);

/// A text as a cell: quoted when it holds a comma, a quotation mark, a line end or outer spaces; with an apostrophe
/// in front where a spreadsheet would otherwise take it for a formula (= + - @, tab or return at its start).
std::string csv_cell(const std::string& text);
/// The text that csv_cell() wrote as this cell.
std::string csv_text(const std::string& cell);

/// Reads a cell as a finite number; false when it is anything else.
bool csv_number(const std::string& cell, double& value);

} // namespace arc

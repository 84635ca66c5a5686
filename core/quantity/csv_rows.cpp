// CSV by libcsv.
#include "quantity/csv_rows.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <csv.h>
#include <fmt/format.h>
#include <new>

namespace arc {
namespace {

struct RowCollector {
  CsvRows rows;
  std::vector<std::string> row;
};

} // namespace

CsvRows csv_rows(std::string_view text) {
  csv_parser parser;
  if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI) != 0) throw std::bad_alloc();
  const auto on_cell = [](void* cell, std::size_t size, void* collector) {
    static_cast<RowCollector*>(collector)->row.emplace_back(static_cast<const char*>(cell), size);
  };
  const auto on_row = [](int, void* collector) {
    auto& c = *static_cast<RowCollector*>(collector);
    c.rows.push_back(std::move(c.row));
    c.row.clear();
  };
  RowCollector out;
  if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
  const bool whole = csv_parse(&parser, text.data(), text.size(), on_cell, on_row, &out) == text.size() &&
                     csv_fini(&parser, on_cell, on_row, &out) == 0;
  csv_free(&parser);
  if (!whole)
    throw CsvError(fmt::format("row {}: a quotation mark is misplaced or never closed; the file may be cut off",
                               out.rows.size() + 1));
  return out.rows;
}

namespace {

// Apostrophes at the start of a text that would be a formula without them: none, or some.
bool formula_after_apostrophes(const std::string& text, std::size_t* apostrophes) {
  *apostrophes = std::min(text.find_first_not_of('\''), text.size());
  return *apostrophes < text.size() &&
         std::string_view("=+-@\t\r").find(text[*apostrophes]) != std::string_view::npos;
}

} // namespace

std::string csv_text(const std::string& cell) {
  std::size_t apostrophes = 0;
  return formula_after_apostrophes(cell, &apostrophes) && apostrophes > 0 ? cell.substr(1) : cell;
}

std::string csv_cell(const std::string& plain) {
  std::size_t apostrophes = 0;
  const std::string text = formula_after_apostrophes(plain, &apostrophes) ? "'" + plain : plain;
  const bool special = text.find_first_of(",\"\r\n") != std::string::npos;
  const bool padded = !text.empty() && (text.front() == ' ' || text.back() == ' ');
  if (!special && !padded) return text;
  std::string out(2 * text.size() + 2, '\0');
  out.resize(csv_write(out.data(), out.size(), text.data(), text.size()));
  return out;
}

bool csv_number(const std::string& cell, double& value) {
  const auto result = std::from_chars(cell.data(), cell.data() + cell.size(), value);
  return result.ec == std::errc() && result.ptr == cell.data() + cell.size() && std::isfinite(value);
}

} // namespace arc

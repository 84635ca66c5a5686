// CSV by libcsv.
#include "quantity/csv_rows.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <csv.h>
#include <fmt/format.h>
#include <iconv.h>
#include <new>

namespace arc {
namespace {

struct RowCollector {
  CsvRows rows;
  std::vector<std::string> row;
};

} // namespace

CsvRows csv_rows(std::string_view text, char delimiter) {
  csv_parser parser;
  if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI) != 0) throw std::bad_alloc();
  csv_set_delim(&parser, static_cast<unsigned char>(delimiter));
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

namespace {

std::string trimmed(const std::string& text) {
  constexpr std::string_view blank = " \t\r\n";
  const auto first = text.find_first_not_of(blank);
  return first == std::string::npos ? std::string() : text.substr(first, text.find_last_not_of(blank) - first + 1);
}

// Empty when the text is not of that encoding.
std::optional<std::string> to_utf8(std::string_view text, const char* encoding) {
  const iconv_t converter = iconv_open("UTF-8", encoding);
  if (converter == iconv_t(-1)) return {};
  std::string out(4 * text.size() + 4, '\0');
  char* in = const_cast<char*>(text.data()); // not written to
  char* at = out.data();
  std::size_t left = text.size(), room = out.size();
  const bool done = iconv(converter, &in, &left, &at, &room) != std::size_t(-1) && left == 0;
  iconv_close(converter);
  if (!done) return {};
  out.resize(out.size() - room);
  return out;
}

std::string decoded(std::string_view text) {
  std::optional<std::string> out;
  if (text.starts_with("\xFF\xFE")) out = to_utf8(text.substr(2), "UTF-16LE");
  if (text.starts_with("\xFE\xFF")) out = to_utf8(text.substr(2), "UTF-16BE");
  if (!out) out = to_utf8(text, "UTF-8");
  if (!out) out = to_utf8(text, "WINDOWS-1252");
  return out.value_or(std::string(text));
}

// The one of three that stands most often in the first line, outside of quotation marks.
char delimiter_of(std::string_view text) {
  constexpr std::string_view known = ",;\t";
  std::array<int, 3> counts{};
  bool quoted = false;
  for (const char c : text) {
    if (c == '"') quoted = !quoted;
    if (!quoted && (c == '\n' || c == '\r')) break;
    if (const auto k = known.find(c); !quoted && k != std::string_view::npos) ++counts[k];
  }
  return known[static_cast<std::size_t>(std::ranges::max_element(counts) - counts.begin())];
}

bool of_digits(std::string_view text) {
  return !text.empty() && text.find_first_not_of("0123456789") == std::string_view::npos;
}

struct Comma { // a number with one comma in it
  bool there = false;
  bool thousands = false; // it could stand before them
};
Comma comma_in(const std::string& cell) {
  const std::string text = trimmed(cell);
  const auto comma = text.find(',');
  if (comma == std::string::npos || text.find_first_of(",.", comma + 1) != std::string::npos ||
      text.find('.') != std::string::npos)
    return {};
  std::string_view whole(text.data(), comma);
  if (whole.starts_with('-') || whole.starts_with('+')) whole.remove_prefix(1);
  std::string_view part(text.data() + comma + 1);
  const bool exponent = part.find_first_of("eE") != std::string_view::npos;
  part = part.substr(0, part.find_first_of("eE"));
  if (!of_digits(whole) || !of_digits(part)) return {};
  return {true, !exponent && part.size() == 3 && whole.size() <= 3 && !whole.starts_with('0')};
}

} // namespace

SheetRows sheet_rows(std::string_view text) {
  std::string plain = decoded(text);
  if (plain.starts_with("\xEF\xBB\xBF")) plain.erase(0, 3);
  char delimiter = 0;
  if (plain.starts_with("sep=") && plain.size() > 4) {
    delimiter = plain[4];
    const auto end = plain.find('\n');
    plain.erase(0, end == std::string::npos ? plain.size() : end + 1);
  }
  if (delimiter == 0) delimiter = delimiter_of(plain);
  SheetRows out{csv_rows(plain, delimiter), delimiter != ','};
  for (const auto& row : out.rows)
    for (const std::string& cell : row)
      if (const Comma comma = comma_in(cell); comma.there && !comma.thousands) out.decimal_comma = true;
  return out;
}

std::optional<SheetNumber> sheet_number(std::string cell, bool decimal_comma) {
  cell = trimmed(cell);
  if (cell.starts_with('+')) cell.erase(0, 1);
  const auto points = std::ranges::count(cell, '.'), commas = std::ranges::count(cell, ',');
  char groups = 0; // what stands between groups of three
  if (points > 0 && commas > 0)
    groups = cell.rfind('.') > cell.rfind(',') ? ',' : '.';
  else if (commas > 1)
    groups = ',';
  else if (points > 1)
    groups = '.';
  else if (commas == 1 && !decimal_comma && comma_in(cell).thousands)
    return {};
  if (groups != 0) std::erase(cell, groups);
  std::ranges::replace(cell, ',', '.');
  SheetNumber out;
  if (!csv_number(cell, out.value)) return {};
  for (const char c : std::string_view(cell).substr(0, cell.find_first_of("eE")))
    if (c >= '0' && c <= '9' && (out.digits > 0 || c != '0')) ++out.digits;
  return out;
}

} // namespace arc

// Dates, identities and digits: what a spreadsheet changes without being asked.
#include "workshop/run_table.h"

#include "file/validity.h"
#include "quantity/csv_rows.h"
#include "quantity/quantity.h"
#include "workshop/runs.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <regex>
#include <set>

namespace arc {
namespace {

struct RunText {
  std::string_view key;
  std::string Run::*member;
};
constexpr std::array texts{RunText{"failed", &Run::failed}, RunText{"notes", &Run::notes},
                           RunText{"armed_despite", &Run::armed_despite}, RunText{"open_stops", &Run::open_stops}};
constexpr std::size_t most_own_columns = 100;

const RunText* find_text(std::string_view key) {
  const auto it = std::ranges::find(texts, key, &RunText::key);
  return it == texts.end() ? nullptr : &*it;
}

std::map<std::string, double>& values_of(Run& run, const RunField& field) {
  return is_condition(field) ? run.conditions : run.observations;
}

// Line ends as they are here; outer spaces go.
std::string plain(std::string text) {
  std::erase(text, '\r');
  const auto last = text.find_last_not_of(" \n\t");
  text.resize(last == std::string::npos ? 0 : last + 1);
  return text;
}

// ---- dates

enum class Order { unknown, day_first, month_first };

struct When {
  int year, month, day, hour, minute, second; // second: -1 when it is not said, hour as well
};

std::optional<When> iso(const std::string& text) {
  When w{0, 0, 0, -1, 0, -1};
  int used = 0;
  char between = 0;
  if (std::sscanf(text.c_str(), "%4d-%2d-%2d%n", &w.year, &w.month, &w.day, &used) < 3 || used < 10) return {};
  const char* rest = text.c_str() + used;
  if (*rest == 0) return w;
  used = 0;
  if (std::sscanf(rest, "%c%2d:%2d%n", &between, &w.hour, &w.minute, &used) < 3 || used == 0 ||
      (between != 'T' && between != ' '))
    return {};
  rest += used;
  if (*rest == ':') w.second = std::atoi(rest + 1);
  return w;
}

bool possible(const When& w) {
  return w.month >= 1 && w.month <= 12 && w.day >= 1 && w.day <= 31 && w.hour < 24 && w.minute >= 0 &&
         w.minute < 60 && w.second < 62;
}

// Three numbers with - . or / between them, then a time perhaps.
struct WrittenDate {
  std::array<int, 3> numbers{};
  std::size_t first_digits = 0;
  char between = 0;
  int hour = -1, minute = 0, second = -1;
  bool half_days = false; // am or pm
};

std::optional<WrittenDate> written_date(const std::string& text) {
  static const std::regex form(
      R"(\s*(\d{1,4})([-./])\s?(\d{1,2})\2\s?(\d{1,4})(?:[T, ]+(\d{1,2})[:.](\d{2})(?:[:.](\d{2})(?:[.,]\d+)?)?\s*([AaPp]\.?[Mm]\.?)?)?\s*)");
  std::smatch found;
  constexpr std::size_t longest = 60;
  if (text.size() > longest || !std::regex_match(text, found, form)) return {};
  const auto number = [&](std::size_t k) { return std::stoi(found[k].str()); };
  WrittenDate out{{number(1), number(3), number(4)}, found[1].str().size(), found[2].str()[0]};
  if (found[5].matched) out.hour = number(5), out.minute = number(6);
  if (found[7].matched) out.second = number(7);
  if (found[8].matched) {
    out.half_days = true;
    const bool afternoon = found[8].str()[0] == 'p' || found[8].str()[0] == 'P';
    out.hour = out.hour % 12 + (afternoon ? 12 : 0);
  }
  return out;
}

// Year first wherever it has four digits; the other order by the table.
std::optional<When> as_when(const WrittenDate& d, Order order) {
  constexpr std::size_t of_year = 4;
  constexpr int century = 2000, hundred = 100;
  When w{0, 0, 0, d.hour, d.minute, d.second};
  if (d.first_digits == of_year)
    w.year = d.numbers[0], w.month = d.numbers[1], w.day = d.numbers[2];
  else {
    w.year = d.numbers[2] < hundred ? century + d.numbers[2] : d.numbers[2];
    w.month = d.numbers[order == Order::month_first ? 0 : 1];
    w.day = d.numbers[order == Order::month_first ? 1 : 0];
  }
  return possible(w) ? std::optional(w) : std::nullopt;
}

std::string text_of(const When& w) {
  std::string out = fmt::format("{:04}-{:02}-{:02}", w.year, w.month, w.day);
  if (w.hour >= 0) out += fmt::format("T{:02}:{:02}", w.hour, w.minute);
  if (w.second >= 0) out += fmt::format(":{:02}", w.second);
  return out;
}

// A date that can be read in two ways is one where the table does not tell.
bool in_doubt(const WrittenDate& d) {
  constexpr int months = 12;
  return d.between == '/' && d.first_digits < 4 && !d.half_days && d.numbers[0] <= months &&
         d.numbers[1] <= months && d.numbers[0] != d.numbers[1];
}

// What of `ours` a spreadsheet still shows in `theirs`: the start of it.
bool says_same_time(const std::string& theirs, const std::string& ours) {
  const auto a = iso(theirs), b = iso(ours);
  if (!a || !b) return theirs == ours;
  return ours.starts_with(theirs) || text_of(*b).starts_with(text_of(*a)) || theirs.starts_with(text_of(*b));
}

// ---- what a run says, whatever the spreadsheet

std::string said(const Run& run) {
  constexpr std::size_t to_the_minute = 16;
  std::string out = run.when.substr(0, to_the_minute);
  for (const RunField& field : run_fields())
    if (const auto value = run_value(run, field)) out += fmt::format("|{}={:.6g}", field.key, *value);
  for (const RunText& text : texts) out += fmt::format("|{}", plain(run.*text.member));
  for (const auto& [name, cell] : run.columns) out += fmt::format("|{}={}", name, plain(cell));
  return out;
}

// FNV-1a (G. Fowler, L. C. Noll, K.-P. Vo; constants of its 64-bit form), folded; starts with a letter.
std::string fingerprint(const Run& run) {
  std::uint64_t hash = 0xcbf29ce484222325;
  for (const char c : said(run)) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3;
  const auto folded = static_cast<std::uint32_t>(hash ^ (hash >> 32));
  return fmt::format("{}{:07x}", static_cast<char>('a' + (folded >> 28) % 6), folded & 0xfffffff);
}

// ---- reading

struct Row {
  Run run;
  std::string exported;
  std::map<std::string, int> digits; // of its numbers, as they are written
};

struct Table {
  std::vector<std::string> header;
  std::vector<Row> rows;
  int most_digits = 0; // of any number
  bool has(std::string_view column) const { return std::ranges::find(header, column) != header.end(); }
};

bool known_column(std::string_view name) {
  return name == "when" || name == "id" || name == "exported" || find_text(name) || find_run_field(name);
}

std::vector<std::string> read_header(const CsvRows& rows) {
  if (rows.empty()) throw RunFileError("the file is empty; expected a header row with a column “when”");
  std::vector<std::string> header;
  std::size_t own = 0;
  for (const std::string& cell : rows.front()) {
    std::string name = plain(csv_text(cell));
    name.erase(0, std::min(name.find_first_not_of(" \t"), name.size()));
    const std::size_t column = header.size();
    if (name.empty() &&
        std::ranges::any_of(rows, [&](const auto& row) { return row.size() > column && !row[column].empty(); }))
      name = fmt::format("column {}", column + 1);
    if (!name.empty() && std::ranges::count(header, name) > 0)
      throw RunFileError(fmt::format("row 1: the column “{}” stands twice", name));
    if (!name.empty() && !known_column(name) && ++own > most_own_columns)
      throw RunFileError(fmt::format("row 1: more than {} columns of your own", most_own_columns));
    header.push_back(std::move(name));
  }
  if (std::ranges::none_of(header, [](const std::string& name) { return name == "when" || name == "id"; }))
    throw RunFileError(fmt::format("row 1: there is no column “when” among its {}; expected a table that High Arc "
                                   "exported, with commas, semicolons or tabs between the cells",
                                   header.size()));
  return header;
}

double read_number(const std::string& cell, const RunField& field, std::size_t row, bool decimal_comma,
                   int* digits) {
  const auto number = sheet_number(cell, decimal_comma);
  if (!number)
    throw RunFileError(fmt::format("row {}, column {}: “{}” is not a number{}", row, field.key, cell,
                                   sheet_number(cell, true) ? ", or it could be two; write it without “,”" : ""));
  if (number->value < field.minimum || number->value > field.maximum)
    throw RunFileError(fmt::format("row {}, column {}: {} is outside of {} to {}", row, field.key, cell,
                                   field.minimum, field.maximum));
  *digits = number->digits;
  return number->value;
}

Row read_row(const std::vector<std::string>& cells, const std::vector<std::string>& header, std::size_t number,
             bool decimal_comma) {
  Row row;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    if (c >= header.size() || header[c].empty()) {
      if (!cells[c].empty())
        throw RunFileError(
            fmt::format("row {}: {} cells where the header has {}", number, cells.size(), header.size()));
      continue;
    }
    const std::string& name = header[c];
    const std::string text = csv_text(cells[c]);
    if (name == "when")
      row.run.when = text;
    else if (name == "id")
      row.run.id = plain(text);
    else if (name == "exported")
      row.exported = plain(text);
    else if (const RunText* member = find_text(name))
      row.run.*member->member = plain(text);
    else if (const RunField* field = find_run_field(name)) {
      if (!cells[c].empty())
        values_of(row.run, *field)[name] = read_number(cells[c], *field, number, decimal_comma, &row.digits[name]);
    } else if (!text.empty()) {
      row.run.columns[name] = plain(text);
    }
  }
  return row;
}

using ById = std::map<std::string_view, std::size_t>;

// Day or month first: by a number above twelve, by "pm", or by runs whose date is known.
Order order_of(const std::vector<Row>& rows, const std::vector<Run>& record, const ById& by_id) {
  constexpr int months = 12;
  for (const Row& row : rows) {
    const auto date = written_date(row.run.when);
    if (!date || date->between != '/' || date->first_digits > 2) continue;
    if (date->numbers[0] > months) return Order::day_first;
    if (date->half_days || date->numbers[1] > months) return Order::month_first;
    const auto ours = by_id.find(row.run.id);
    if (ours == by_id.end() || date->numbers[0] == date->numbers[1]) continue;
    for (const Order order : {Order::day_first, Order::month_first})
      if (const auto when = as_when(*date, order);
          when && says_same_time(text_of(*when), record[ours->second].when))
        return order;
  }
  return Order::unknown;
}

void read_dates(std::vector<Row>& rows, const std::vector<Run>& record, const ById& by_id) {
  std::optional<Order> order;
  for (std::size_t r = 0; r < rows.size(); ++r) {
    std::string& when = rows[r].run.when;
    const auto ours = by_id.find(rows[r].run.id);
    if (ours != by_id.end() && record[ours->second].when == when) continue;
    constexpr std::size_t separator = 10;
    if (iso(when)) {
      if (when.size() > separator) when[separator] = 'T';
      continue;
    }
    const auto date = written_date(when);
    if (!date) continue; // the builder's own words
    if (!order) order = order_of(rows, record, by_id);
    if (*order == Order::unknown && in_doubt(*date))
      throw RunFileError(fmt::format("row {}, column when: “{}” can be two dates; write {} or {}", r + 2, when,
                                     text_of(*as_when(*date, Order::day_first)),
                                     text_of(*as_when(*date, Order::month_first))));
    if (const auto read = as_when(*date, *order)) when = text_of(*read);
  }
}

Table read_table(std::string_view text, const std::vector<Run>& record, const ById& by_id) {
  SheetRows sheet;
  try {
    sheet = sheet_rows(text);
  } catch (const CsvError& error) {
    throw RunFileError(error.what());
  }
  Table out{read_header(sheet.rows), {}, 0};
  if (sheet.rows.size() > most_runs + 1) throw RunFileError(fmt::format("more than {} runs", most_runs));
  for (std::size_t r = 1; r < sheet.rows.size(); ++r)
    if (std::ranges::any_of(sheet.rows[r], [](const std::string& cell) { return !cell.empty(); }))
      out.rows.push_back(read_row(sheet.rows[r], out.header, r + 1, sheet.decimal_comma));
  for (const Row& row : out.rows)
    for (const auto& [key, digits] : row.digits) out.most_digits = std::max(out.most_digits, digits);
  read_dates(out.rows, record, by_id);
  return out;
}

// ---- comparing

// `digits` of the cell, and `most` of any cell of the table: who writes six leaves zeros at the end away.
bool says_same(double theirs, double ours, int digits, int most) {
  constexpr int enough = 3;
  const int shown = digits >= enough ? digits : most;
  if (theirs == ours || shown < enough) return theirs == ours;
  constexpr double rounding = 0.01, least = 1e-300; // of the last digit
  const double step = std::pow(10.0, std::floor(std::log10(std::max(std::abs(theirs), least))) - shown + 1);
  return std::abs(theirs - ours) <= step / 2 * (1 + rounding);
}

// The run of the record with what the row says otherwise.
Run with_row(const Run& ours, const Row& row, const Table& table) {
  Run out = ours;
  if (table.has("when") && !says_same_time(row.run.when, ours.when)) out.when = row.run.when;
  for (const RunText& text : texts)
    if (table.has(text.key) && row.run.*text.member != plain(ours.*text.member))
      out.*text.member = row.run.*text.member;
  for (const RunField& field : run_fields()) {
    if (!table.has(field.key)) continue;
    const auto mine = run_value(ours, field), theirs = run_value(row.run, field);
    const std::string key(field.key);
    if (!theirs)
      values_of(out, field).erase(key);
    else if (!mine || !says_same(*theirs, *mine, row.digits.at(key), table.most_digits))
      values_of(out, field)[key] = *theirs;
  }
  for (const std::string& name : table.header) {
    if (name.empty() || known_column(name)) continue;
    const auto theirs = row.run.columns.find(name);
    if (theirs == row.run.columns.end())
      out.columns.erase(name);
    else if (const auto mine = out.columns.find(name);
             mine == out.columns.end() || plain(mine->second) != theirs->second)
      out.columns[name] = theirs->second;
  }
  return out;
}

} // namespace

std::string runs_to_csv(const std::vector<Run>& runs) {
  std::set<std::string> own;
  for (const Run& run : runs)
    for (const auto& [name, cell] : run.columns) own.insert(name);
  std::string out = "when,id";
  for (const RunField& field : run_fields()) out += fmt::format(",{}", field.key);
  for (const RunText& text : texts) out += fmt::format(",{}", text.key);
  out += ",exported";
  for (const std::string& name : own) out += "," + csv_cell(name);
  out += "\r\n";
  for (const Run& run : runs) {
    out += csv_cell(run.when) + "," + csv_cell(run.id);
    for (const RunField& field : run_fields()) {
      const auto value = run_value(run, field);
      out += value ? fmt::format(",{:.12g}", *value) : ",";
    }
    for (const RunText& text : texts) out += "," + csv_cell(run.*text.member);
    out += "," + fingerprint(run);
    for (const std::string& name : own) {
      const auto cell = run.columns.find(name);
      out += "," + (cell == run.columns.end() ? std::string() : csv_cell(cell->second));
    }
    out += "\r\n";
  }
  return out;
}

RunImport read_runs(std::string_view text, const std::vector<Run>& record) {
  ById by_id;
  for (std::size_t i = 0; i < record.size(); ++i)
    if (!record[i].id.empty()) by_id.emplace(record[i].id, i);
  Table table = read_table(text, record, by_id);
  RunImport out;
  std::set<std::string> seen;
  std::vector<bool> met(record.size());
  std::vector<Row*> unknown;
  for (Row& row : table.rows) {
    const auto ours = by_id.find(row.run.id);
    const bool copied = !row.run.id.empty() && !seen.insert(row.run.id).second; // from another row
    if (copied) row.run.id.clear();
    if (copied || ours == by_id.end()) {
      unknown.push_back(&row);
      continue;
    }
    met[ours->second] = true;
    const Run& mine = record[ours->second];
    Run changed = with_row(mine, row, table);
    if (changed == mine) {
      ++out.same;
      continue;
    }
    const bool here = row.exported != fingerprint(mine);
    if (here && row.exported == fingerprint(row.run)) {
      ++out.same;
      continue;
    }
    settle_run(changed);
    (here ? out.both : out.updated).push_back({ours->second, std::move(changed)});
  }
  if (unknown.empty()) return out;
  std::multiset<std::string> there; // what the runs say that no row names
  for (std::size_t i = 0; i < record.size(); ++i)
    if (!met[i]) there.insert(said(record[i]));
  for (Row* row : unknown) {
    if (const auto same = there.find(said(row->run)); same != there.end()) {
      there.erase(same);
      ++out.same;
      continue;
    }
    if (row->run.id.empty()) row->run.id = new_run_id();
    out.added.push_back(std::move(row->run));
  }
  return out;
}

std::vector<Run> merged(std::vector<Run> record, const RunImport& read, const std::vector<bool>& theirs) {
  const auto take = [&](const RunUpdate& update) {
    Run run = update.run;
    share_design(run, record);
    record.at(update.index) = std::move(run);
  };
  for (const RunUpdate& update : read.updated) take(update);
  for (std::size_t i = 0; i < read.both.size() && i < theirs.size(); ++i)
    if (theirs[i]) take(read.both[i]);
  record.insert(record.end(), read.added.begin(), read.added.end());
  return record;
}

} // namespace arc

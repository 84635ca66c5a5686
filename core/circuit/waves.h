// Waveforms as text: one head, one row for each sample, for spreadsheets and plotting programs.
#pragma once

#include <fmt/format.h>
#include <initializer_list>
#include <iterator>
#include <string>
#include <string_view>
#include <vector>

namespace arc {

/// A column: its name with its unit, and where a sample holds it.
template <typename Sample>
struct WaveColumn {
  std::string_view name;
  double Sample::*value;
};

/// Comma separated text (RFC 4180) of samples, "time_s" first: nine digits of it, seven of all else.
template <typename Sample>
std::string waves_csv(const std::vector<Sample>& samples, std::initializer_list<WaveColumn<Sample>> columns) {
  std::string out = "time_s";
  for (const WaveColumn<Sample>& column : columns) out.append(",").append(column.name);
  out += "\r\n";
  for (const Sample& sample : samples) {
    fmt::format_to(std::back_inserter(out), "{:.9g}", sample.time_s);
    for (const WaveColumn<Sample>& column : columns)
      fmt::format_to(std::back_inserter(out), ",{:.7g}", sample.*column.value);
    out += "\r\n";
  }
  return out;
}

} // namespace arc

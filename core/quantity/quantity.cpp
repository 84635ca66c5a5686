// Printing quantities: engineering prefixes, feet and inches, gauges.
#include "quantity/quantity.h"
#include "quantity/gauge.h"
#include "quantity/units.h"
#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <optional>
#include <utility>
#include <vector>

namespace arc {

using namespace units;

namespace {

std::string with_prefix(double value, std::string_view base, int significant) {
  if (value == 0) return fmt::format("0 {}", base);
  if (std::abs(value) < 1e-18) return fmt::format("{:.{}g} {}", value, significant, base); // no prefix goes so low
  const auto [factor, prefix] = engineering_step(value, significant);
  return fmt::format("{} {}{}", format_number(value / factor, significant), prefix, base);
}

} // namespace

std::string format_number(double value, int significant, bool keep_zeros) {
  if (!std::isfinite(value)) return std::isnan(value) ? "not a number" : (value > 0 ? "infinite" : "-infinite");
  if (value == 0) return "0";
  const double size = std::abs(value);
  if (size < 1e-4 || size >= 1e9) return fmt::format("{:.{}g}", value, significant);
  const int decimals = std::max(0, significant - 1 - static_cast<int>(std::floor(std::log10(size) + 1e-12)));
  std::string text = fmt::format("{:.{}f}", value, decimals);
  if (!keep_zeros && text.find('.') != std::string::npos) {
    text.erase(text.find_last_not_of('0') + 1);
    if (text.back() == '.') text.pop_back();
  }
  return text == "-0" ? "0" : text;
}

std::string_view held_unit(Dimension dimension) {
  if (dimension == Dimension::slope) return "V/s";
  return dimension == Dimension::fraction ? "" : facts(dimension).base;
}

namespace {

// A number and one unit behind it, as entry fields and bands want it.
std::string in_one_unit(double si, Dimension dimension, UnitSystem units, int significant) {
  const auto plain = [&](double value, std::string_view unit) {
    return fmt::format("{} {}", format_number(value, significant), unit);
  };
  // What no part has and no instrument of this work reads is the noise of arithmetic.
  constexpr double least_w = 1e-9;
  if ((dimension == Dimension::power || dimension == Dimension::energy) && std::abs(si) < least_w) si = 0;
  switch (dimension) {
  case Dimension::number:
    return format_number(si, significant);
  case Dimension::count:
    return fmt::format("{:.0f}", si);
  case Dimension::percent:
    return plain(si, "%");
  case Dimension::fraction:
    return plain(si * 100, "%");
  case Dimension::angle:
    return format_number(si, significant) + "°";
  case Dimension::temperature:
    return plain(si, "°C");
  case Dimension::pressure:
    return plain(si, "hPa");
  case Dimension::slope:
    return std::abs(si) < 1e10 ? plain(si * 1e-6, "V/µs") : plain(si * 1e-9, "kV/µs");
  case Dimension::mass:
    return std::abs(si) < 1 ? plain(si * 1e3, "g") : plain(si, "kg");
  case Dimension::time:
    if (std::abs(si) >= 120 && std::abs(si) < 7200) return plain(si / 60, "min");
    return std::abs(si) >= 7200 ? plain(si / 3600, "h") : with_prefix(si, "s", significant);
  case Dimension::wire_diameter:
    if (units == UnitSystem::inch) {
      const double gauge = diameter_m_to_awg(si);
      if (si > 0 && std::abs(gauge - std::round(gauge)) < 0.01 && gauge > -3.5 && gauge < 50.5)
        return fmt::format("{:.0f} AWG", std::abs(std::round(gauge)));
      return plain(si / 0.0254, "in");
    }
    return plain(si * 1e3, "mm");
  case Dimension::length:
    if (units == UnitSystem::inch)
      return std::abs(si) < 3.6576 ? plain(si / 0.0254, "in") : plain(si / 0.3048, "ft");
    return std::abs(si) < 0.99995 ? plain(si * 1e3, "mm") : plain(si, "m");
  default:
    return with_prefix(si, facts(dimension).base, significant);
  }
}

} // namespace

std::string format_quantity(double si, Dimension dimension, UnitSystem units, int significant) {
  constexpr double foot_m = 0.3048, inch_m = 0.0254, from_m = 3 * foot_m, to_m = 20 * foot_m;
  const double size_m = std::abs(si);
  if (dimension != Dimension::length || units != UnitSystem::inch || !(size_m >= from_m && size_m < to_m))
    return in_one_unit(si, dimension, units, significant);
  // As much of an inch as the digits say: 12 ft and over have one more before the point.
  const double inches = size_m / inch_m;
  const int decimals = std::max(0, significant - (inches < 100 ? 2 : 3));
  const double scale = std::pow(10.0, decimals);
  const double rounded = std::round(inches * scale) / scale;
  const double feet = std::floor(rounded / 12);
  return fmt::format("{}{:.0f}' {}\"", si < 0 ? "-" : "", feet,
                     format_number(std::round((rounded - 12 * feet) * scale) / scale, 12));
}

double round_significant(double value, int significant) {
  if (value == 0 || !std::isfinite(value)) return value;
  if (std::abs(value) < 1e-290) return 0; // beyond what the steps below can hold; no quantity is so small
  const double exponent = std::floor(std::log10(std::abs(value))) - significant + 1;
  const double power =
      std::pow(10.0, std::abs(exponent)); // whole powers are exact to 10^22, their inverses are not
  return exponent < 0 ? std::round(value * power) / power : std::round(value / power) * power;
}

namespace {

// The number in front of a printed quantity, and the unit behind it.
std::pair<std::string, std::string> split_unit(const std::string& text) {
  const auto end = text.find_first_not_of("0123456789.-+e");
  if (end == std::string::npos || end == 0) return {text, {}};
  const auto unit = text.find_first_not_of(' ', end);
  return {text.substr(0, end), unit == std::string::npos ? std::string() : text.substr(unit)};
}

// How many of the shown unit `si` is, taking the unit that `like` is shown with.
double in_unit_of(double si, double like, Dimension dimension, UnitSystem units, int digits) {
  const double shown = std::strtod(in_one_unit(like, dimension, units, digits).c_str(), nullptr);
  const auto unit = split_unit(in_one_unit(like, dimension, units, digits)).second;
  if (unit == "AWG" || shown == 0 || like == 0) return si;
  // The unit's size from the value as it is printed with all its digits: the rounding of fewer would tell.
  const double exact = std::strtod(in_one_unit(like, dimension, units, 15).c_str(), nullptr);
  const bool same_unit = split_unit(in_one_unit(like, dimension, units, 15)).second == unit;
  return si * (same_unit && exact != 0 ? exact : shown) / like;
}

} // namespace

std::string format_like(double si, double like, Dimension dimension, UnitSystem units, int significant) {
  return format_number(in_unit_of(si, like, dimension, units, 12), significant);
}

namespace {

// As many as were typed, up to six; else those of a field.
int digits_of_entry(double si, Dimension dimension, UnitSystem units) {
  constexpr int typed_digits = 6;
  const double shown = std::strtod(in_one_unit(si, dimension, units, typed_digits).c_str(), nullptr);
  const double all = in_unit_of(si, si, dimension, units, typed_digits);
  return shown != 0 && std::abs(all / shown - 1) < 1e-9 ? typed_digits : field_digits;
}

} // namespace

std::string shown_unit(double si, Dimension dimension, UnitSystem units) {
  return split_unit(in_one_unit(si, dimension, units, digits_of_entry(si, dimension, units))).second;
}

std::string format_entry(double si, Dimension dimension, UnitSystem units) {
  return format_quantity(si, dimension, units, digits_of_entry(si, dimension, units));
}

BandedText format_banded(double si, double band, Dimension dimension, UnitSystem units, int most_digits) {
  const auto [number, unit] = split_unit(in_one_unit(si, dimension, units, most_digits));
  if (!(band > 0) || !std::isfinite(band) || !std::isfinite(si) || si == 0 || unit == "AWG")
    return {in_one_unit(si, dimension, units, std::min(most_digits, 4)), {}};
  const double shown = in_unit_of(si, si, dimension, units, most_digits);
  const double shown_band = in_unit_of(band, si, dimension, units, most_digits);
  const auto place = [](double x) { return static_cast<int>(std::floor(std::log10(std::abs(x)) + 1e-12)); };
  const int decimals = std::clamp(1 - place(shown_band), 0, std::max(0, most_digits - 1 - place(shown)));
  const double least = std::pow(10.0, -decimals); // of the last digit: a smaller band is shown as one of it
  const std::string space = unit.empty() || unit == "°" ? "" : " ";
  return {fmt::format("{:.{}f}{}{}", shown, decimals, space, unit),
          fmt::format("± {:.{}f}", std::max(shown_band, least), decimals)};
}

double quantity_step(double si, Dimension dimension, UnitSystem units) {
  if (dimension == Dimension::count) return 1;
  double scale = 1e-3;
  if (dimension == Dimension::number || dimension == Dimension::percent) scale = 1;
  if (dimension == Dimension::slope) scale = 1e6;
  if (dimension == Dimension::fraction) scale = 0.01;
  if (units == UnitSystem::inch && is_length(dimension)) scale = 0.0254;
  const double size = std::abs(si) > 0 ? std::abs(si) : scale;
  return std::pow(10.0, std::floor(std::log10(size / scale) + 1e-9) - 1) * scale;
}

} // namespace arc

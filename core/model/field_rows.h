// Rows of the table of numeric fields, by the member that they stand for.
#pragma once

#include "model/fields.h"

#include <type_traits>
#include <utility>

namespace arc {

template <auto Group, auto Member>
constexpr FieldSpec field(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                          double maximum, bool required = false) {
  using Value = std::remove_cvref_t<decltype(std::declval<Design>().*Group.*Member)>;
  constexpr bool nullable = std::is_same_v<Value, std::optional<double>>;
  return {key,
          label,
          dimension,
          minimum,
          maximum,
          required,
          nullable,
          [](const Design& d) -> std::optional<double> { return d.*Group.*Member; },
          [](Design& d, std::optional<double> value) {
            if constexpr (nullable)
              d.*Group.*Member = value;
            else if (value)
              d.*Group.*Member = *value;
          }};
}

// A number of a struct inside a group.
template <auto Group, auto Inner, auto Member>
constexpr FieldSpec inner(std::string_view key, std::string_view label, Dimension dimension, double minimum,
                          double maximum) {
  using Value = std::remove_cvref_t<decltype(std::declval<Design>().*Group.*Inner.*Member)>;
  constexpr bool nullable = std::is_same_v<Value, std::optional<double>>;
  return {key,
          label,
          dimension,
          minimum,
          maximum,
          false,
          nullable,
          [](const Design& d) -> std::optional<double> { return d.*Group.*Inner.*Member; },
          [](Design& d, std::optional<double> value) {
            if constexpr (nullable)
              d.*Group.*Inner.*Member = value;
            else if (value)
              d.*Group.*Inner.*Member = *value;
          }};
}

template <auto Group, auto Member>
constexpr ChoiceSpec choice(std::string_view key, std::string_view label, std::span<const Choice> values) {
  using Value = std::remove_cvref_t<decltype(std::declval<Design>().*Group.*Member)>;
  return {key, label, values, [](const Design& d) { return static_cast<std::size_t>(d.*Group.*Member); },
          [](Design& d, std::size_t i) { d.*Group.*Member = static_cast<Value>(i); }};
}

/// Of the bridge and its interrupter.
std::span<const FieldSpec> bridge_fields();
/// Of the tube oscillator, its feedback winding and its filament.
std::span<const FieldSpec> tube_fields();
std::span<const ChoiceSpec> tube_choices();

} // namespace arc

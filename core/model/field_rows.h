// Rows of the table of numeric fields, by the member that they stand for.
#pragma once

#include "model/fields.h"

#include <algorithm>
#include <cstddef>
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

/// The name of a row that has no member in Design, as part of a type.
template <std::size_t Size>
struct RowKey {
  char text[Size];
  consteval RowKey(const char (&written)[Size]) { std::copy_n(written, Size, text); } // NOLINT: from a literal
  constexpr operator std::string_view() const { return {text, Size - 1}; }            // NOLINT: as a key
};

/// A number that Design holds under its key alone: of a craft whose group has no struct there.
template <RowKey Key>
constexpr FieldSpec own_field(std::string_view label, Dimension dimension, double minimum, double maximum) {
  return {Key,
          label,
          dimension,
          minimum,
          maximum,
          false,
          true,
          [](const Design& d) {
            const auto it = d.own.find(std::string_view(Key));
            return it == d.own.end() ? std::nullopt : std::optional<double>(it->second);
          },
          [](Design& d, std::optional<double> value) {
            if (value)
              d.own[std::string(std::string_view(Key))] = *value;
            else if (const auto it = d.own.find(std::string_view(Key)); it != d.own.end())
              d.own.erase(it);
          }};
}

} // namespace arc

// Every number of a design with its path, its range and whether somebody has typed it; the tables of fields,
// shapes, blocks, sections and measurements say what there is.
#pragma once

#include "circuit/feed.h"
#include "craft/design_fields.h"
#include "craft/kind.h"
#include "evidence/tolerance.h"
#include "evidence/tuning.h"
#include "model/fields.h"
#include "parts/bank.h"
#include "parts/topload.h"

#include <fmt/format.h>
#include <functional>
#include <string>
#include <type_traits>

namespace arc {

// A number met on the walk. The path is made only when it is asked for.
struct Met {
  const std::function<std::string()>& path;
  const std::function<std::string()>& field;
  std::string_view label;
  Dimension dimension;
  double minimum, maximum;
  double value;
  const std::function<void(double)>& set;
  double least_above_zero = 0;      // for numbers of which 0 means none
  std::string_view key = {};        // among those of its owner
  const Examples* listed = nullptr; // its owner's examples; null where it cannot be one
  Examples* examples = nullptr;     // the same, of a design that may be changed

  /// Nobody has typed it.
  bool is_example() const {
    const auto it = listed ? listed->find(key) : Examples::const_iterator();
    return listed && it != listed->end() && it->second == value;
  }
};

using Visit = std::function<void(const Met&)>;
using Name = std::function<std::string()>;

inline const Name no_field = [] { return std::string(); };

// Stores a value where the design may be changed.
template <typename Number>
void store(Number& number, double value) {
  if constexpr (!std::is_const_v<Number>) number = value;
}

template <typename Owner>
Examples* examples_of(Owner& owner) {
  if constexpr (std::is_const_v<Owner>)
    return nullptr;
  else
    return &owner.examples;
}

// The walks serve designs that are looked at (const: lists stay shared) and designs that are changed.
template <typename Part>
void visit_part(Part& part, const std::string& where, const std::string& field, const Visit& visit) {
  const ToploadShape* shape = topload_shape(part.shape);
  if (!shape) return;
  const auto meet = [&](std::string_view key, std::string_view label, double low, double high, auto& value) {
    visit({[&] { return fmt::format("{}.{}", where, key); }, [&] { return fmt::format("{} {}", field, key); },
           label, Dimension::length, low, high, value, [&](double v) { store(value, v); }, 0, key, &part.examples,
           examples_of(part)});
  };
  for (const ToploadLength& length : shape->lengths)
    meet(length.key, length.label, least_topload_length_m, most_topload_length_m, part.*length.member);
  meet("centre_above_winding_m", "Height above the winding", -most_topload_length_m, most_topload_length_m,
       part.centre_above_winding_m);
  for (std::size_t i = 0; i < part.points_m.size(); ++i)
    for (const int axis : {0, 1}) {
      auto& value = part.points_m[i][static_cast<std::size_t>(axis)];
      visit({[&] { return fmt::format("{}.points_m[{}]", where, i); }, no_field,
             axis == 0 ? "Radius of a point" : "Height of a point", Dimension::length,
             axis == 0 ? 0 : -most_topload_length_m, most_topload_length_m, value,
             [&](double v) { store(value, v); }});
    }
}

template <typename D>
void visit_lists(D& d, const Visit& visit) {
  for (std::size_t i = 0; i < d.topload.size(); ++i)
    visit_part(d.topload[i], fmt::format("topload[{}]", i), fmt::format("topload {}", i + 1), visit);
  for (std::size_t v = 0; v < d.topload_variants.size(); ++v)
    for (std::size_t i = 0; i < d.topload_variants[v].parts.size(); ++i)
      visit_part(d.topload_variants[v].parts[i], fmt::format("topload_variants[{}].parts[{}]", v, i), {}, visit);
  for (std::size_t i = 0; i < d.tank.sections.size(); ++i)
    for (const SectionNumber& number : section_numbers()) {
      auto& section = d.tank.sections[i];
      if (const auto value = number.get(section))
        visit({[&] { return fmt::format("tank.sections[{}].{}", i, number.key); }, no_field, number.label,
               number.dimension, number.minimum, number.maximum, *value,
               [&](double v) {
                 if constexpr (!std::is_const_v<D>) number.set(section, v);
               },
               0, number.key, &section.examples, examples_of(section)});
    }
  for (std::size_t i = 0; i < d.feed.size(); ++i) {
    auto& block = d.feed[i];
    const BlockKind* kind = block_kind(block.kind);
    if (!kind) continue;
    for (const BlockNumber& number : kind->numbers) {
      const auto it = block.values.find(std::string(number.key));
      if (it == block.values.end()) continue;
      visit({[&] { return fmt::format("feed[{}].{}", i, number.key); },
             [&] { return fmt::format("block {} {}", i + 1, number.key); }, number.label, number.dimension,
             number.minimum, number.maximum, it->second, [&](double v) { store(it->second, v); },
             number.least_above_zero, number.key, &block.examples, examples_of(block)});
    }
  }
  for (std::size_t i = 0; i < d.measurements.size(); ++i) {
    auto& m = d.measurements[i];
    const MeasurementKind* kind = measurement_kind(m.kind);
    if (!kind) continue;
    const auto meet = [&](const MeasuredNumber& n) {
      visit({[&] { return fmt::format("measurements[{}].{}", i, n.key); },
             [] { return std::string("measurements"); }, n.label, n.dimension, n.minimum, n.maximum, m.*n.member,
             [&](double v) { store(m.*n.member, v); }});
    };
    meet(kind->value);
    if (kind->given) meet(*kind->given);
  }
}

// Whether the tank's capacitance is a number of its own where it follows from its units or sections.
enum Derived { with_derived, typed_only };

template <typename D>
void visit_numbers(D& d, Derived derived, const Visit& visit) {
  const bool tank_too = derived == with_derived || tank_given(d.tank) == TankGiven::one_value;
  for (const FieldSpec& field : design_fields())
    if (const auto value = field.get(d); value && (tank_too || field.key != "tank.capacitance_f"))
      visit({[&] { return std::string(field.key); }, [&] { return std::string(field.key); }, field.label,
             field.dimension, field.minimum, field.maximum, *value,
             [&](double v) {
               if constexpr (!std::is_const_v<D>) field.set(d, v);
             },
             0, field.key, &d.examples, examples_of(d)});
  visit_lists(d, visit);
  for (auto& entry : d.tolerances)
    visit({[&] { return "tolerances." + entry.first; }, [&] { return "tolerance " + entry.first; }, "Tolerance",
           Dimension::number, 0, largest_tolerance, entry.second, [&](double v) { store(entry.second, v); }});
}

// Whether the number is of a group that another kind uses and this one does not: it cannot harm this coil.
inline bool of_another_kind(const Design& design, const std::string& path) {
  const auto dot = path.find('.');
  if (dot == std::string::npos) return false;
  const std::string_view group = std::string_view(path).substr(0, dot);
  const auto has = [&](const CoilKind& kind) { return std::ranges::count(kind.groups, group) > 0; };
  return !has(kind_of(design)) &&
         std::ranges::any_of(coil_kinds(), [&](const CoilKind* kind) { return has(*kind); });
}

} // namespace arc

// What belongs to the file and not to the coil (runs, marks, what is kept) stays with the design at every change.
#include "workshop/variants.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace arc {

std::string free_variant_name(const Design& design, std::string_view wanted) {
  const std::string base(wanted.empty() ? "Variant" : wanted);
  const auto taken = [&](const std::string& name) {
    return std::ranges::count(design.variants.get(), name, &DesignVariant::name) > 0;
  };
  std::string out = base;
  for (int i = 2; taken(out); ++i) out = fmt::format("{} {}", base, i);
  return out;
}

bool keep_variant(Design& design, const Design& what, std::string_view name) {
  if (design.variants.size() >= most_variants) return false;
  design.variants.push_back({free_variant_name(design, name), KeptDesign::as_it_is(what), {}});
  return true;
}

void rename_variant(Design& design, std::size_t index, std::string_view name) {
  DesignVariant& variant = design.variants.own().at(index);
  variant.name.clear(); // its own is free
  variant.name = free_variant_name(design, name);
}

void remove_variant(Design& design, std::size_t index) {
  auto& all = design.variants.own();
  (void)all.at(index);
  all.erase(all.begin() + static_cast<std::ptrdiff_t>(index));
}

void promote_variant(Design& design, std::size_t index) {
  const DesignVariant chosen = design.variants.get().at(index);
  Design promoted = *chosen.design.get();
  promoted.runs = design.runs;
  promoted.topload_variants = design.topload_variants;
  promoted.dismissed = design.dismissed;
  promoted.confirmed = design.confirmed;
  promoted.variants = design.variants;
  DesignVariant& left = promoted.variants.own().at(index);
  left.name.clear();
  constexpr std::string_view before = "Before "; // there and back again, the names are as they were
  left.name = free_variant_name(promoted, chosen.name.starts_with(before) ? chosen.name.substr(before.size())
                                                                          : std::string(before) + chosen.name);
  left.design = KeptDesign::as_it_is(std::move(design));
  design = std::move(promoted);
}

} // namespace arc

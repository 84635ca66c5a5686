// Marks at their owners, which keep them when they move in their lists.
#include "file/examples.h"

#include "file/number_walk.h"
#include "model/inputs.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <utility>

namespace arc {
namespace {

// Lists stay shared where nothing of them is to be changed.
bool any_listed(const Design& d) {
  const auto listed = [](const auto& owner) { return !owner.examples.empty(); };
  return listed(d) || std::ranges::any_of(d.topload, listed) || std::ranges::any_of(d.feed, listed) ||
         std::ranges::any_of(d.tank.sections, listed);
}

template <typename Owner>
void mark(Owner& owner, const Met& n) {
  if (n.listed == &owner.examples) owner.examples[std::string(n.key)] = n.value;
}

} // namespace

std::string bracketed_path(const std::string& path) {
  std::string out;
  for (std::size_t i = 0; i < path.size();) {
    std::size_t end = i + 1;
    while (end < path.size() && std::isdigit(static_cast<unsigned char>(path[end]))) ++end;
    if (path[i] == '.' && end > i + 1 && (end == path.size() || path[end] == '.')) {
      out += fmt::format("[{}]", path.substr(i + 1, end - i - 1));
      i = end;
    } else
      out += path[i++];
  }
  return out;
}

std::vector<std::string> example_paths(const Design& design) {
  std::vector<std::string> out;
  if (!any_listed(design)) return out;
  visit_numbers(design, typed_only, [&](const Met& n) {
    if (n.is_example()) out.push_back(n.path());
  });
  return out;
}

std::vector<std::string> counting_examples(const Design& design) {
  std::vector<std::string> out = example_paths(design);
  std::erase_if(out, [&](const std::string& path) { return of_another_kind(design, path); });
  return out;
}

bool is_example(const Design& design, std::string_view path) {
  if (!any_listed(design)) return false;
  // The table of fields is long, and asked for most: by its key at once.
  if (path.find('[') == std::string_view::npos) {
    const auto listed = design.examples.find(path);
    return listed != design.examples.end() && design_field(path).get(design) == listed->second;
  }
  return std::ranges::count(example_paths(design), path) > 0;
}

void mark_examples(Design& design) {
  visit_numbers(design, typed_only, [&](const Met& n) {
    if (n.examples && !of_another_kind(design, n.path())) n.examples->insert_or_assign(std::string(n.key), n.value);
  });
}

void mark_examples(FeedBlock& block) {
  block.examples.clear();
  for (const auto& [key, value] : block.values) block.examples[key] = value;
}

FeedBlock example_block(std::string_view kind) {
  FeedBlock block = make_block(kind);
  mark_examples(block);
  return block;
}

void mark_examples(ToploadPart& part) {
  visit_part(std::as_const(part), {}, {}, [&](const Met& n) { mark(part, n); });
}

std::vector<std::string> mark_examples(Design& design, const std::vector<std::string>& paths) {
  std::vector<std::string> wanted;
  for (const std::string& path : paths) wanted.push_back(bracketed_path(path));
  std::ranges::sort(wanted);
  std::vector<std::string> left = wanted;
  visit_numbers(design, typed_only, [&](const Met& n) {
    if (!n.examples) return;
    const std::string path = n.path();
    if (!std::ranges::binary_search(wanted, path)) return;
    n.examples->insert_or_assign(std::string(n.key), n.value);
    std::erase(left, path);
  });
  return left;
}

void take_examples(Design& design) {
  if (any_listed(design)) design = without_examples(std::move(design));
}

void take_example(Design& design, std::string_view path) {
  if (!is_example(design, path)) return;
  visit_numbers(design, typed_only, [&](const Met& n) {
    if (n.is_example() && n.path() == path) n.examples->erase(n.examples->find(n.key));
  });
}

void settle_examples(Design& design) {
  if (!any_listed(design)) return;
  const auto stale = [](const Met& n) { return n.listed && n.listed->contains(n.key) && !n.is_example(); };
  bool any = false;
  visit_numbers(std::as_const(design), typed_only, [&](const Met& n) { any = any || stale(n); });
  if (!any) return;
  visit_numbers(design, typed_only, [&](const Met& n) {
    if (stale(n)) n.examples->erase(n.examples->find(n.key));
  });
}

std::optional<Finding> examples_finding(const Design& design) {
  const auto paths = counting_examples(design);
  if (paths.empty()) return {};
  std::vector<std::pair<std::string_view, std::size_t>> stages; // in the order of the file
  for (const std::string& path : paths) {
    const auto stage = stage_of_group(kind_of(design), path.substr(0, path.find_first_of(".[")));
    const auto it = std::ranges::find(stages, stage, &std::pair<std::string_view, std::size_t>::first);
    if (it == stages.end())
      stages.emplace_back(stage, 1);
    else
      ++it->second;
  }
  std::vector<std::string> counts;
  for (const auto& [stage, count] : stages) counts.push_back(fmt::format("{} {}", stage, count));
  Finding f;
  f.id = "examples";
  f.severity = Severity::warning;
  f.stage = "fire"; // what they hinder
  f.title = paths.size() == 1 ? "1 number is still an example"
                              : fmt::format("{} numbers are still examples", paths.size());
  f.text = fmt::format(
      "Nobody has typed them. The figures are a preview: High Arc computes with them as with any number. The coil "
      "cannot be armed while one of them counts. Type your own in their place, or take them. "
      "By stage: {}.",
      fmt::join(counts, ", "));
  f.remedy = "Take all examples as given";
  f.value = static_cast<double>(paths.size());
  f.dimension = Dimension::count;
  f.apply = [](Design& d) { take_examples(d); };
  return f;
}

} // namespace arc

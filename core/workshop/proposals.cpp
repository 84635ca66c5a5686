// Searches of all kinds asked for, the choice among what they found, and what fights where they found nothing.
#include "workshop/proposals.h"

#include "quantity/json_text.h"
#include "quantity/parallel.h"
#include "workshop/kind_search.h"
#include "workshop/proposal_choice.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <memory>
#include <nlohmann/json.hpp>
#include <set>
#include <stdexcept>

namespace arc {
namespace {

std::string words_of_aim(std::string_view key) {
  return std::string(std::ranges::find(brief_aims(), key, &BriefAim::key)->title);
}

struct Searched {
  std::vector<std::unique_ptr<KindSearch>> searches;
  std::vector<CoilCandidate*> good; // best by the aim first
  int tried = 0;
};

// What was found until now, and the best of it by the aim first.
void sort_out(Searched& searched, const Brief& brief) {
  searched.good.clear();
  searched.tried = 0;
  for (const auto& one : searched.searches)
    for (CoilCandidate& c : one->seen()) {
      searched.tried += c.simulated;
      if (c.good()) searched.good.push_back(&c);
    }
  if (brief.aim == "calmest") {
    const double enough_m = enough_arc_m(searched.good);
    std::erase_if(searched.good, [&](const CoilCandidate* c) { return c->figures.arc_high_m < enough_m; });
  }
  std::ranges::stable_sort(searched.good, std::ranges::greater{}, &CoilCandidate::merit);
}

using Picks = std::vector<std::pair<const CoilCandidate*, const Character*>>;

Json kept_brief(const Brief& brief) {
  Json out = Json::parse(write_brief(brief));
  for (const char* key : {"format", "version", "shelf"}) out.erase(key);
  return out;
}

// `of`: how many keep the brief.
Proposals as_proposals(const Brief& brief, const Picks& picks, std::size_t of) {
  Proposals out;
  for (const auto& [c, character] : picks) {
    Proposal p{.name = {},
               .character = character ? character->name : words_of_aim(brief.aim),
               .reason = {},
               .design = c->design,
               .figures = c->figures,
               .owned = c->owned,
               .buy = c->buy,
               .stops = c->stops,
               .warnings = c->warnings};
    const auto same = std::ranges::count(out.proposals, p.character, &Proposal::character);
    if (same > 0) p.character = "Another way"; // as good, and different
    p.name = fmt::format("{}, {}", brief.name, p.character);
    p.reason = why_proposed(*c, character, "one of the best by the aim", of);
    p.design.name = p.name;
    p.design.unknown.set("brief", kept_brief(brief));
    out.proposals.push_back(std::move(p));
  }
  return out;
}

Searched search(const Brief& brief, const ProposeOptions& options, const std::atomic<bool>& cancelled,
                const SearchListener& listener) {
  const auto aim = std::ranges::find(brief_aims(), brief.aim, &BriefAim::key);
  Searched out;
  for (const CoilKind* kind : coil_kinds()) {
    const bool named = std::ranges::count(brief.kinds, kind->key) > 0;
    const bool serves = aim->kinds.empty() || std::ranges::count(aim->kinds, kind->key) > 0;
    if (brief.kinds.empty() ? serves && kind->vary : named)
      out.searches.push_back(std::make_unique<KindSearch>(brief, *kind, options));
  }
  const bool many = out.searches.size() > 2;
  std::vector<int> rounds;
  int all = 0, done = 0;
  for (const auto& one : out.searches) {
    constexpr int quick_rounds = 12, quick_of_many = 5, slow_rounds = 6;
    const int usual = one->quick() ? (many ? quick_of_many : quick_rounds) : (many ? 1 : slow_rounds);
    rounds.push_back(std::max(1, static_cast<int>(std::lround(options.effort * usual))));
    all += rounds.back();
  }
  for (std::size_t i = 0; i < out.searches.size(); ++i)
    out.searches[i]->run(rounds[i], cancelled, [&] {
      if (listener.progress) listener.progress(static_cast<double>(++done) / all);
      if (!listener.preview || done == all) return;
      sort_out(out, brief);
      if (out.good.empty()) return;
      Proposals early = as_proposals(brief, chosen(out.good, options.count), out.good.size());
      early.tried = out.tried;
      listener.preview(early);
    });
  sort_out(out, brief);
  return out;
}

// All that the brief asks for, each of which can be left out.
std::vector<std::string> asked(const Brief& brief) {
  std::vector<std::string> out;
  for (const auto& [key, value] : brief.limits) out.push_back(key);
  for (const std::string& group : brief.only_shelf) out.push_back(group);
  for (const char* key : {"ceiling_height_m", "wall_distance_m"})
    if (brief.site.contains(key)) out.emplace_back(key);
  if (!brief.must_use.empty()) out.emplace_back("must_use");
  return out;
}

Brief without(Brief brief, const std::string& limit) {
  brief.limits.erase(limit);
  std::erase(brief.only_shelf, limit);
  if (limit == "ceiling_height_m" || limit == "wall_distance_m") brief.site.erase(limit);
  if (limit == "must_use") brief.must_use.clear();
  return brief;
}

// What fights: the limits that a design comes free by, each tried; else all that the nearest designs pass.
std::vector<BriefRefusal> refusals(const Brief& brief, const ProposeOptions& options, const Searched& searched,
                                   const std::atomic<bool>& cancelled) {
  std::vector<std::string> kinds;
  std::set<std::string> missed;
  std::map<std::string, double> nearest;
  for (const auto& one : searched.searches) {
    kinds.emplace_back(one->kind().key);
    missed.insert(one->empty_groups().begin(), one->empty_groups().end());
    for (const CoilCandidate& c : one->seen())
      for (const auto& [key, by] : c.misses) {
        missed.insert(key);
        const auto limit = brief.limits.find(key);
        if (limit == brief.limits.end()) continue;
        const bool least = brief_limit(key)->least;
        const double came = least ? limit->second / (1 + by) : limit->second * (1 + by);
        const auto [at, is_new] = nearest.emplace(key, came);
        if (!is_new) at->second = least ? std::max(at->second, came) : std::min(at->second, came);
      }
  }
  std::vector<BriefRefusal> freeing, passed;
  for (const std::string& limit : asked(brief)) {
    if (!missed.contains(limit) || cancelled) continue;
    BriefRefusal refusal{limit, kinds, {}, {}};
    if (nearest.contains(limit)) refusal.nearest = nearest.at(limit);
    const Searched free = search(without(brief, limit), options, cancelled, {});
    if (free.good.empty()) {
      passed.push_back(refusal);
      continue;
    }
    if (const BriefLimit* row = brief_limit(limit)) {
      std::optional<double> to;
      for (const CoilCandidate* c : free.good)
        if (const auto value = figure_under(limit, c->figures))
          to = !to ? *value : row->least ? std::max(*to, *value) : std::min(*to, *value);
      for (const double slack : {1.02, 1.2}) { // a search within it may end elsewhere
        if (!to || refusal.relax_to) break;
        Brief relaxed = brief;
        relaxed.limits[limit] = round_significant(row->least ? *to / slack : *to * slack, 3);
        if (!search(relaxed, options, cancelled, {}).good.empty()) refusal.relax_to = relaxed.limits[limit];
      }
    }
    freeing.push_back(refusal);
  }
  if (!freeing.empty()) return freeing;
  if (!passed.empty()) return passed;
  for (const std::string& limit : asked(brief)) passed.push_back({limit, kinds, {}, {}});
  return passed;
}

} // namespace

Proposals propose(const Brief& brief, const ProposeOptions& options, const std::atomic<bool>& cancelled,
                  const SearchListener& listener) {
  if (const std::string wrong = unusable_part(brief); !wrong.empty()) throw std::invalid_argument(wrong);
  Searched searched = search(brief, options, cancelled, listener);
  std::set<const CoilCandidate*> judged;
  Picks picks;
  while (!searched.good.empty()) {
    picks = chosen(searched.good, options.count);
    std::vector<CoilCandidate*> open;
    for (CoilCandidate* c : searched.good)
      if (!judged.contains(c) && std::ranges::any_of(picks, [&](const auto& p) { return p.first == c; }))
        open.push_back(c);
    if (open.empty()) break;
    parallel_for(open.size(), [&](std::size_t i) {
      const auto of = std::ranges::find_if(
          searched.searches, [&](const auto& one) { return one->kind().key == open[i]->design.kind; });
      (*of)->judge(*open[i], cancelled);
    });
    judged.insert(open.begin(), open.end());
    std::erase_if(searched.good, [](const CoilCandidate* c) { return !c->good(); });
    picks.clear();
  }
  Proposals out = as_proposals(brief, picks, searched.good.size());
  out.tried = searched.tried;
  if (out.proposals.empty() && !cancelled)
    out.refused = refusals(brief, options, searched, cancelled);
  else if (!out.proposals.empty() && out.proposals.size() < 3)
    out.few = fmt::format("Of {} designs that keep the brief, {} differ by a tenth in any figure.",
                          searched.good.size(), out.proposals.size());
  return out;
}

} // namespace arc

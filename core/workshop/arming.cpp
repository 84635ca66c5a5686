// The table, and what lets each step happen.
#include "workshop/arming.h"

#include "craft/design_fields.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "model/fields.h"
#include "model/inputs.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>
#include <utility>

namespace arc {
namespace {

using S = ArmState;
using E = ArmEvent;

constexpr std::array steps{
    ArmStep{S::disarmed, E::ticked, S::checking},
    ArmStep{S::checking, E::ticked, S::checking},
    ArmStep{S::checking, E::opened, S::checking},
    ArmStep{S::checking, E::all_open, S::disarmed},
    ArmStep{S::checking, E::arm, S::armed},
    ArmStep{S::armed, E::opened, S::checking},
    ArmStep{S::armed, E::all_open, S::disarmed},
    ArmStep{S::armed, E::changed, S::checking}, // ticks whose words changed fall with the new figures
    ArmStep{S::armed, E::start, S::running},
    ArmStep{S::armed, E::disarm, S::disarmed},
    ArmStep{S::running, E::changed, S::running}, // no more to be helped: said loudly, kept with the run
    ArmStep{S::running, E::stop, S::after},
    ArmStep{S::after, E::disarm, S::disarmed},
    ArmStep{S::disarmed, E::another_coil, S::disarmed},
    ArmStep{S::checking, E::another_coil, S::disarmed},
    ArmStep{S::armed, E::another_coil, S::disarmed},
};

// The first number or choice that differs, in the builder's words.
std::string difference(const Design& before, const Design& after) {
  if (before.kind != after.kind) return "it is another kind of coil now";
  for (const FieldSpec& field : design_fields())
    if (field.get(before) != field.get(after)) return fmt::format("the design has changed ({})", field.label);
  for (const ChoiceSpec& choice : design_choices())
    if (choice.get(before) != choice.get(after)) return fmt::format("the design has changed ({})", choice.label);
  return "the design has changed";
}

void take_conditions(Run& to, const Run& from) {
  to.id = from.id;
  to.when = from.when;
  to.conditions = from.conditions;
  to.fired_with = from.fired_with;
}

const ArmStep* find(ArmState from, ArmEvent event) {
  const auto it = std::ranges::find_if(steps, [&](const ArmStep& s) { return s.from == from && s.event == event; });
  return it == steps.end() ? nullptr : it;
}

} // namespace

std::string_view word_of(ArmState state) {
  constexpr std::array<std::string_view, 5> words{"disarmed", "checking", "armed", "running", "after"};
  return words[static_cast<std::size_t>(state)];
}

std::span<const ArmStep> arm_steps() {
  return steps;
}

bool RunDraft::empty() const {
  return !begun && run.observations.empty() && run.notes.empty() && run.failed.empty() && happened.empty();
}

Json json_of(const RunDraft& draft) {
  if (draft.empty() && draft.state <= S::checking) return nullptr;
  return {{"state", word_of(draft.state)},
          {"begun", draft.begun},
          {"happened", draft.happened},
          {"run", json_of(draft.run)}};
}

RunDraft draft_of(const Json& json) {
  RunDraft out;
  if (json.is_null()) return out;
  if (!json.is_object() || !json.contains("run"))
    throw DesignFileError("the run that was kept is no run", "run", 0);
  const Json state = json.value("state", Json());
  for (const S each : {S::disarmed, S::checking, S::armed, S::running, S::after})
    if (state == word_of(each)) out.state = each;
  out.begun = json.value("begun", Json()) == true;
  if (const auto it = json.find("happened"); it != json.end() && it->is_array())
    for (const Json& words : *it)
      if (words.is_string()) out.happened.push_back(words.get<std::string>());
  out.run = run_of(json["run"]);
  return out;
}

bool Arming::step(ArmEvent event) {
  const ArmStep* found = find(state(), event);
  if (!found) return false;
  draft_.state = found->to;
  if (found->from == S::armed && found->to < S::armed) { // a reason is good for one arming
    answered_.clear();
    if (!draft_.begun) draft_.run.armed_despite.clear();
  }
  return true;
}

// An armed coil goes back; a running one cannot, and says so.
void Arming::fell(const std::string& why) {
  const ArmState before = state();
  if (!step(E::changed)) return;
  if (before == S::armed) {
    notices_.push_back(fmt::format("Not armed any more: {}.", why));
    return;
  }
  const std::string words = fmt::format("While it ran: {}.", why);
  if (std::ranges::count(draft_.happened, words) > 0) return;
  draft_.happened.push_back(words);
  notices_.push_back(words + " Switch off if that was not meant. It is kept with the run.");
}

void Arming::look_at(const std::shared_ptr<const Design>& design) {
  if (design == seen_) return;
  const bool first = !seen_;
  seen_ = design;
  examples_ = counting_examples(*design).size();
  if (examples_ > 0 && state() == S::armed) fell("numbers are examples again");
  Design inputs = inputs_of(*design);
  if (!first && inputs == inputs_) return;
  figures_ = Figures::outstanding;
  if (state() == S::armed || state() == S::running) fell(difference(inputs_, inputs));
  inputs_ = std::move(inputs);
}

void Arming::show_checks(const std::vector<CheckItem>& checks) {
  std::set<std::string> kept;
  for (const CheckItem& item : checks) {
    const auto before = std::ranges::find(checks_, item.key, &CheckItem::key);
    if (before != checks_.end() && before->text == item.text && ticks_.contains(item.key)) kept.insert(item.key);
  }
  checks_ = checks;
  if (powered()) return; // what was ticked stays as it was until it is disarmed
  const bool fewer = kept.size() < ticks_.size();
  if (fewer || kept.size() < checks.size()) fell("what the checks say has changed");
  ticks_ = std::move(kept);
  if (fewer) step(ticks_.empty() ? E::all_open : E::opened);
}

void Arming::figures_there(const std::vector<StandingStop>& stops) {
  figures_ = Figures::there;
  stops_ = stops;
  if (powered()) {
    for (const StandingStop& stop : stops_)
      if (answered_.insert(stop.id).second && state() == S::running) fell("a new stop, “" + stop.title + "”");
    return;
  }
  const auto unanswered =
      std::ranges::find_if(stops_, [&](const StandingStop& stop) { return !answered_.contains(stop.id); });
  if (state() == S::armed && unanswered != stops_.end()) fell("a new stop, “" + unanswered->title + "”");
}

bool Arming::tick(const std::string& key, bool on) {
  if (powered()) return false;
  if (std::ranges::find(checks_, key, &CheckItem::key) == checks_.end()) return false;
  if (on == ticks_.contains(key)) return true;
  if (on) {
    ticks_.insert(key);
    return step(E::ticked);
  }
  ticks_.erase(key);
  return step(ticks_.empty() ? E::all_open : E::opened);
}

std::string Arming::hindrance() const {
  if (state() == S::armed) return "Already armed";
  if (state() == S::running) return "It is running: stop it first";
  if (state() == S::after) return "Do the steps after power, then disarm";
  if (figures_ == Figures::outstanding) return "The figures of this design are not computed yet";
  if (checks_.empty()) return "There is nothing to fire yet: the design lacks what the checks are made of";
  if (examples_ > 0)
    return fmt::format("{} examples that nobody has typed: type your own numbers, or take them", examples_);
  return open_checks() > 0 ? "Tick every check first" : "";
}

bool Arming::arm(const std::string& reason) {
  if (!hindrance().empty() || draft_.begun) return false;
  if (!stops_.empty() && reason.size() < shortest_reason) return false;
  if (!step(E::arm)) return false;
  answered_.clear();
  for (const StandingStop& stop : stops_) answered_.insert(stop.id);
  draft_.run.armed_despite = stops_.empty() ? std::string() : fmt::format("{}. Reason: {}", open_stops(), reason);
  return true;
}

std::string Arming::open_stops() const {
  std::vector<std::string_view> titles;
  for (const StandingStop& stop : stops_) titles.push_back(stop.title);
  return fmt::format("{}", fmt::join(titles, "; "));
}

bool Arming::start(const Run& run) {
  if (!step(E::start)) return false;
  take_conditions(draft_.run, run);
  draft_.run.open_stops = open_stops();
  draft_.begun = true;
  return true;
}

bool Arming::stop(double seconds) {
  if (!step(E::stop)) return false;
  draft_.run.observations["duration_s"] = seconds;
  return true;
}

bool Arming::disarm() {
  if (!step(E::disarm)) return false;
  ticks_.clear();
  answered_.clear();
  if (!draft_.begun) draft_.run.armed_despite.clear(); // as another window left it
  return true;
}

bool Arming::another_coil() {
  if (!step(E::another_coil)) return false;
  *this = {};
  return true;
}

void Arming::observe(const std::string& key, std::optional<double> value) {
  if (value)
    draft_.run.observations[key] = *value;
  else
    draft_.run.observations.erase(key);
}

void Arming::note(const std::string& notes, const std::string& failed) {
  draft_.run.notes = notes;
  draft_.run.failed = failed;
}

Run Arming::logged(const Run& now) const {
  Run out = draft_.run;
  if (!draft_.begun) {
    take_conditions(out, now);
    out.open_stops = open_stops();
  }
  for (const std::string& words : draft_.happened) out.notes += (out.notes.empty() ? "" : "\n") + words;
  return out;
}

void Arming::give_up() {
  draft_ = {.state = state(), .run = {}, .begun = false, .happened = {}};
}

void Arming::take_over(RunDraft draft) {
  ticks_.clear();
  answered_.clear();
  if (draft.state == S::armed || draft.state == S::running)
    draft.state = S::after;
  else if (draft.state == S::checking)
    draft.state = S::disarmed;
  draft_ = std::move(draft);
}

std::vector<std::string> Arming::take_notices() {
  return std::exchange(notices_, {});
}

} // namespace arc

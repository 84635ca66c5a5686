// One way: the document changes, the machine looks, the views are told.
#include "base/firing.h"

#include "file/design_file.h"
#include "model/inputs.h"
#include "workshop/checklist.h"
#include "workshop/runs.h"

#include <algorithm>
#include <cmath>

Firing::Firing(Document& document, QObject* parent)
    : QObject(parent), document_(document),
      simulation_([this](const Simulated& done) { simulated(done); }, [this](const QString&) { simulate_next(); }) {
  connect(&document_, &Document::opened, this, &Firing::forget);
  connect(&document_, &Document::draft_found, this, [this] {
    arming_.take_over(document_.draft());
    tell();
  });
  connect(&document_, &Document::design_changed, this, &Firing::look);
  connect(&document_, &Document::analysis_changed, this, &Firing::figures);
  connect(&document_, &Document::power_changed, this, &Firing::figures);
  look();
}

double Firing::seconds() const {
  if (state() == arc::ArmState::running) return static_cast<double>(watch_.elapsed()) / 1000;
  const auto& observed = arming_.draft().run.observations;
  const auto it = observed.find("duration_s");
  return it == observed.end() ? 0 : it->second;
}

double Firing::since_stop_s() const {
  return stopped_.isValid() ? static_cast<double>(stopped_.elapsed()) / 1000 : 0;
}

QString Firing::holds() const {
  switch (state()) {
  case arc::ArmState::running:
    return "The coil is running. Stop it, do the steps after power and disarm first.";
  case arc::ArmState::after:
    return "The coil may still be charged. Do the steps after power and disarm first.";
  default:
    return {};
  }
}

void Firing::look() {
  arming_.look_at(document_.shared_design());
  tell();
}

void Firing::figures() {
  const auto analysis = document_.analysis();
  arming_.look_at(document_.shared_design());
  // With the distances and stores of the latest simulation; those of this design before it can be armed.
  if (analysis && (document_.analysis_is_current() || document_.figures_settled()))
    arming_.show_checks(arc::checks_before_power(document_.design(), *analysis, document_.power_of_kind(),
                                                 arc::UnitSystem::metric));
  if (analysis && document_.figures_settled()) {
    std::vector<arc::StandingStop> stops;
    for (const arc::Finding& stop : document_.stops()) stops.push_back({stop.id, stop.title});
    arming_.figures_there(stops);
  }
  tell();
}

// What the machine has to say, what must outlive the window, and who holds the coil.
void Firing::tell() {
  if (state() < arc::ArmState::armed) held_.reset();
  if (state() != arc::ArmState::after)
    stopped_.invalidate();
  else if (!stopped_.isValid())
    stopped_.start();
  document_.keep_draft(arming_.draft());
  for (const std::string& words : arming_.take_notices()) Q_EMIT notice(QString::fromStdString(words));
  Q_EMIT changed();
}

// Another coil: what was ticked, timed and noted belonged to the last one. One that is live stays live.
void Firing::forget() {
  arming_.another_coil();
  look();
}

arc::Run Firing::present_conditions() const {
  const std::string now = present_time();
  if (!document_.analysis_is_current()) document_.wait_for_analysis(); // some hundredths of a second
  if (const auto analysis = document_.analysis(); analysis && document_.analysis_is_current())
    return arc::begin_run(document_.design(), *analysis,
                          document_.power_is_current() ? document_.power_of_kind() : nullptr, now);
  arc::Run run;
  run.id = arc::new_run_id();
  run.when = now;
  run.fired_with = arc::KeptDesign(document_.design());
  return run;
}

void Firing::tick(const std::string& key, bool on) {
  arming_.tick(key, on);
  tell();
}

bool Firing::arm(const QString& reason) {
  if (arming_.draft().begun && !log()) return false;
  const QByteArray coil = document_.path().isEmpty()
                              ? QByteArray::fromStdString(arc::write_design(arc::inputs_of(document_.design())))
                              : file_identity(document_.path());
  auto held = document_.claim("armed", coil);
  if (!held) {
    Q_EMIT notice("This coil is armed in another window: one coil is armed in one window only. Disarm it there.");
    return false;
  }
  if (arming_.arm(reason.trimmed().toStdString())) held_ = std::move(held);
  tell();
  return state() == arc::ArmState::armed;
}

void Firing::start_run() {
  if (!arming_.start(present_conditions())) return;
  watch_.start();
  tell();
}

void Firing::stop_run() {
  arming_.stop(std::round(seconds() * 10) / 10);
  tell();
}

void Firing::disarm() {
  arming_.disarm();
  tell();
}

void Firing::observe(const std::string& key, std::optional<double> value) {
  arming_.observe(key, value);
  tell();
}

void Firing::note(const QString& notes, const QString& failed) {
  arming_.note(notes.toStdString(), failed.toStdString());
  tell();
}

bool Firing::log() {
  arc::Run run = arming_.logged(present_conditions());
  arc::settle_run(run);
  arc::share_design(run, document_.design().runs);
  if (!document_.edit(
          "Log a run", [&](arc::Design& design) { design.runs.push_back(run); }, gesture_for(run.id)))
    return false;
  give_up();
  simulate({run.id});
  return true;
}

QString Firing::gesture_for(const std::string& id) {
  return gestures_[id] = QString("run %1 %2").arg(QString::fromStdString(id)).arg(++edits_);
}

void Firing::simulate(const std::vector<std::string>& ids) {
  to_simulate_.insert(to_simulate_.end(), ids.begin(), ids.end());
  if (!simulation_.running()) simulate_next();
}

// One after the other; runs that know it already, and those that were removed meanwhile, are passed over.
void Firing::simulate_next() {
  while (!to_simulate_.empty()) {
    const std::string id = to_simulate_.front();
    to_simulate_.pop_front();
    const auto& runs = document_.design().runs;
    const auto run = std::ranges::find(runs, id, &arc::Run::id);
    if (run == runs.end() || !arc::lacks_simulation(*run)) continue;
    simulation_.start([run = *run, kept = kept_](const std::atomic<bool>& cancelled) {
      return Simulated{run, arc::simulate_run(run, {cancelled, {}, *kept})};
    });
    return;
  }
}

void Firing::simulated(const Simulated& done) {
  const auto& runs = document_.design().runs;
  const auto it = std::ranges::find(runs, done.run.id, &arc::Run::id);
  // What was logged may have been changed, or removed, meanwhile.
  if (it != runs.end() && it->fired_with == done.run.fired_with && !done.figures.empty()) {
    const auto index = static_cast<std::size_t>(it - runs.begin());
    document_.edit(
        "Simulated power of a run",
        [&](arc::Design& design) {
          for (const auto& [key, value] : done.figures) design.runs[index].conditions[key] = value;
        },
        gestures_[done.run.id]);
  }
  simulate_next();
}

void Firing::give_up() {
  arming_.give_up();
  tell();
}

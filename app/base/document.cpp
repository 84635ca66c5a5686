// The document: undo keeps whole designs, which share what they have in common.
#include "base/document.h"
#include "craft/dismissed.h"

#include "analysis/analyse.h"
#include "file/design_file.h"
#include "file/examples.h"
#include "file/validity.h"
#include "model/fields.h"
#include "model/inputs.h"
#include "parts/bank.h"
#include "workshop/whole_coil.h"

#include <QCoreApplication>
#include <QCryptographicHash>
#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QTime>
#include <QUndoCommand>
#include <algorithm>

namespace {
constexpr int autosave_ms = 1200;       // after the first unsaved edit, not after the last
constexpr int autosave_again_ms = 5000; // when it did not work

// What the builder has dismissed, confirmed or taken for given, and nothing that is computed with.
bool differ_in_marks_only(const arc::Design& before, const arc::Design& after) {
  const auto unmarked = [](const arc::Design& design) {
    arc::Design out = arc::without_examples(design);
    out.dismissed = {};
    out.confirmed = {};
    return out;
  };
  return unmarked(before) == unmarked(after);
}
} // namespace

std::string present_time() {
  return QDateTime::currentDateTime().toString(Qt::ISODate).toStdString();
}

/// One step of the history: the design before and after.
class DesignEdit : public QUndoCommand {
 public:
  DesignEdit(Document& document, const QString& text, Document::Shared before, Document::Shared after,
             QString gesture)
      : QUndoCommand(text), document_(document), before_(std::move(before)), after_(std::move(after)),
        gesture_(std::move(gesture)) {}

  void undo() override { document_.set_design(before_); }
  void redo() override { document_.set_design(after_); }
  int id() const override { return gesture_.isEmpty() ? -1 : 1; }
  bool mergeWith(const QUndoCommand* next) override {
    const auto* other = static_cast<const DesignEdit*>(next);
    if (other->gesture_ != gesture_) return false;
    after_ = other->after_;
    setObsolete(*before_ == *after_);
    return true;
  }

 private:
  Document& document_;
  Document::Shared before_;
  Document::Shared after_;
  QString gesture_;
};

Document::Document(QString recovery_folder, QObject* parent)
    : QObject(parent), locks_folder_(recovery_folder + "/../open"), recovery_(std::move(recovery_folder)),
      analysis_job_([this](const Answer<arc::Analysis>& answer) { analysis_done(answer); },
                    [this](const QString& problem) {
                      if (!analysis_job_.running()) analysis_problem_ = problem; // else a newer one may do
                      gather_findings();
                      Q_EMIT work_failed(problem);
                      Q_EMIT analysis_changed();
                    },
                    LatestJob<Answer<arc::Analysis>>::Overtaken::delivered),
      power_job_([this](const Answer<arc::PowerAnalysis>& answer) { power_done(answer); },
                 [this](const QString& problem) {
                   if (!power_job_.running()) power_problem_ = "it ended with an error, " + problem;
                   power_ended();
                   Q_EMIT work_failed(problem);
                 }) {
  power_timer_.setSingleShot(true);
  power_timer_.setInterval(60);
  connect(&power_timer_, &QTimer::timeout, this, &Document::request_power);
  autosave_timer_.setSingleShot(true);
  connect(&autosave_timer_, &QTimer::timeout, this, &Document::autosave);
  connect(&history_, &QUndoStack::cleanChanged, this, &Document::file_changed);
  request_analysis();
}

Document::~Document() = default;

bool Document::edit(const QString& text, const Edit& change, const QString& gesture) {
  arc::Design after = *design_;
  change(after);
  arc::settle_edit(*design_, after);
  if (after == *design_) return true;
  if (const std::string problem = arc::edit_problem(*design_, after, units_); !problem.empty()) {
    Q_EMIT refused(QString("%1: not done. %2.").arg(text, QString::fromStdString(problem)));
    return false;
  }
  history_.push(
      new DesignEdit(*this, text, design_, std::make_shared<const arc::Design>(std::move(after)), gesture));
  return true;
}

bool Document::remedy(const arc::Finding& finding) {
  if (!finding.apply || !is_current(finding)) return false;
  const auto apply = finding.apply; // the edit brings new findings, and with them the end of this one
  return edit(QString::fromStdString(finding.remedy), apply);
}

void Document::set_design(Shared design) {
  const bool marks_only = differ_in_marks_only(*design_, *design);
  design_ = std::move(design);
  if (!autosave_timer_.isActive()) autosave_timer_.start(autosave_ms);
  if (!marks_only) request_analysis();
  Q_EMIT design_changed();
  if (!marks_only) return; // nothing is to be computed
  gather_findings();
  Q_EMIT analysis_changed();
}

void Document::set_units(arc::UnitSystem units) {
  if (units == units_) return;
  units_ = units;
  request_analysis();
  Q_EMIT units_changed();
}

void Document::request_analysis() {
  ++wanted_;
  analysis_problem_.clear();
  power_problem_.clear();
  power_job_.cancel(); // of a design that is no more
  analysis_job_.start(
      [design = design_, units = units_, request = wanted_, kept = kept_](const std::atomic<bool>&) {
        return Answer<arc::Analysis>{request,
                                     std::make_shared<const arc::Analysis>(arc::analyse(*design, units, *kept))};
      });
}

void Document::analysis_done(const Answer<arc::Analysis>& answer) {
  analysis_ = answer.result;
  analysed_ = answer.request;
  gather_findings();
  if (analysis_is_current()) power_timer_.start();
  if (!power_pending_) {
    power_pending_ = true;
    *power_progress_ = 0;
    Q_EMIT power_changed();
  }
  Q_EMIT analysis_changed();
}

void Document::request_power() {
  if (!analysis_is_current()) return; // asked for again when the analysis is done
  power_pending_ = true;
  power_problem_.clear();
  *power_progress_ = 0;
  power_job_.start([design = design_, analysis = analysis_, options = power_options_, units = units_,
                    progress = power_progress_, request = wanted_,
                    kept = kept_](const std::atomic<bool>& cancelled) {
    const std::function<void(double)> tell = [&](double share) { *progress = share; };
    return Answer<arc::PowerAnalysis>{request, std::make_shared<const arc::PowerAnalysis>(arc::analyse_power(
                                                   *design, *analysis, options, units, {cancelled, tell, *kept}))};
  });
}

void Document::power_done(const Answer<arc::PowerAnalysis>& answer) {
  power_ = answer.result;
  simulated_ = answer.request;
  power_ended();
}

void Document::power_ended() {
  power_pending_ = false;
  gather_findings();
  Q_EMIT power_changed();
}

void Document::set_power_options(const arc::PowerOptions& options) {
  if (options == power_options_) return;
  power_options_ = options;
  request_power();
  Q_EMIT power_changed();
}

void Document::cancel_simulation() {
  power_timer_.stop();
  power_job_.cancel();
  if (!power_is_current()) power_problem_ = "it was cancelled";
  power_ended();
}

void Document::wait_for_simulation() {
  wait_for_analysis();
  if (power_timer_.isActive()) {
    power_timer_.stop();
    request_power();
  }
  while (power_pending_) QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 50);
}

void Document::gather_findings() {
  findings_ = analysis_ ? arc::all_findings(*analysis_, power_.get(), simulated_ == analysed_)
                        : std::vector<arc::Finding>{};
  if (!analysis_problem_.isEmpty())
    findings_.insert(findings_.begin(), arc::unfinished("analysis", analysis_problem_.toStdString()));
  else if (!power_problem_.isEmpty())
    findings_.insert(findings_.begin(), arc::unfinished("simulation", power_problem_.toStdString()));
  if (auto examples = arc::examples_finding(*design_)) {
    const auto notes = std::ranges::find(findings_, arc::Severity::note, &arc::Finding::severity);
    findings_.insert(notes, std::move(*examples)); // behind the other warnings
  }
  if (analysis_)
    if (auto left = arc::left_brief(*design_, *analysis_, simulated_ == analysed_ ? power_.get() : nullptr, units_))
      findings_.push_back(std::move(*left));
  arc::mark_dismissed(findings_, *design_);
}

bool Document::figures_settled() const {
  return !analysis_problem_.isEmpty() ||
         (analysis_is_current() && (power_is_current() || !power_problem_.isEmpty()));
}

std::vector<arc::Finding> Document::stops() const {
  std::vector<arc::Finding> out;
  std::ranges::copy_if(findings_, std::back_inserter(out),
                       [](const arc::Finding& f) { return f.severity == arc::Severity::stop; });
  if (analysis_is_current() && power_is_current())
    if (const std::string why = arc::not_computed(*design_, *analysis_, *power_); !why.empty())
      if (arc::Finding stop = arc::unfinished("simulation", why);
          std::ranges::count(out, stop.id, &arc::Finding::id) == 0)
        out.push_back(std::move(stop));
  return out;
}

void Document::start(arc::Design design, const QString& origin, const FileStamp& stamp) {
  arc::settle_edit(design, design);
  design_ = std::make_shared<const arc::Design>(std::move(design));
  power_.reset(); // of another coil
  draft_ = {};
  take_file(origin, stamp);
  saved_at_.clear();
  history_.clear();
  history_.setClean();
  discard_recovery();
  request_analysis();
  gather_findings();
  Q_EMIT opened();
  Q_EMIT design_changed();
  Q_EMIT file_changed();
}

// The file that the design belongs to from now on. A lock tells other windows that it is open here.
void Document::take_file(const QString& path, const FileStamp& stamp) {
  stamp_ = stamp;
  if (path == path_ && (open_lock_ || path.isEmpty())) return;
  path_ = path;
  open_lock_.reset();
  if (path.isEmpty()) return;
  open_lock_ = claim("open", file_identity(path));
}

std::unique_ptr<QLockFile> Document::claim(const QString& what, const QByteArray& which) {
  make_private_folder(locks_folder_);
  const QByteArray name = QCryptographicHash::hash(what.toUtf8() + '\n' + which, QCryptographicHash::Sha1).toHex();
  auto lock = std::make_unique<QLockFile>(QString("%1/%2.lock").arg(locks_folder_, QString::fromLatin1(name)));
  lock->setStaleLockTime(0);
  // Where no lock can be made at all (a folder that cannot be written) nothing is claimed about other windows.
  if (lock->tryLock(0) || lock->error() != QLockFile::LockFailedError) return lock;
  return nullptr;
}

bool Document::open(const QString& path, QString* problem) {
  QByteArray bytes;
  FileStamp stamp = FileStamp::before_reading(path);
  if (!read_whole_file(path, &bytes, problem)) return false;
  stamp.was_read(bytes);
  try {
    start(arc::read_design({bytes.constData(), static_cast<std::size_t>(bytes.size())}), path, stamp);
  } catch (const arc::DesignFileError& error) {
    *problem = QString::fromStdString(error.what());
    return false;
  }
  return true;
}

bool Document::save_as(const QString& path, QString* problem) {
  const QByteArray bytes = QByteArray::fromStdString(arc::write_design(*design_));
  if (!write_whole_file(path, bytes, problem)) return false;
  FileStamp stamp = FileStamp::before_reading(path);
  stamp.was_read(bytes);
  take_file(path, stamp);
  saved_at_ = QTime::currentTime().toString("hh:mm");
  history_.setClean();
  autosave(); // a run that is not logged stays kept
  Q_EMIT file_changed();
  return true;
}

QString Document::title() const {
  return QString::fromStdString(design_->name);
}

// More than what the file holds: changes, a run that is not logged, a coil that may be live.
bool Document::worth_keeping() const {
  return modified() || !draft_.empty() || draft_.state > arc::ArmState::checking;
}

void Document::keep_draft(const arc::RunDraft& draft) {
  if (draft == draft_) return;
  const bool step = draft.state != draft_.state;
  draft_ = draft;
  if (step)
    autosave(); // what is live is on disk before anything else happens
  else if (!autosave_timer_.isActive())
    autosave_timer_.start(autosave_ms);
}

void Document::autosave() {
  autosave_timer_.stop();
  if (!worth_keeping()) { // undone back to what is saved: there is nothing to recover
    recovery_.forget();
    return;
  }
  QString problem;
  if (recovery_.keep({*design_, path_.toStdString(), stamp_.text().toStdString(), modified(), draft_}, &problem)) {
    if (std::exchange(autosave_fails_, false)) Q_EMIT autosave_works_again();
    return;
  }
  log_warning("autosave failed: " + problem);
  autosave_timer_.start(autosave_again_ms);
  if (!std::exchange(autosave_fails_, true)) Q_EMIT autosave_failed(problem);
}

bool Document::recover(const RecoverableWork& work, QString* problem) {
  arc::Unsaved unsaved;
  if (!Recovery::read(work, &unsaved, problem)) return false;
  // What came into the file after this work was begun is asked about when it is saved.
  const FileStamp edited_from = FileStamp::from_text(QString::fromStdString(unsaved.stamp));
  const QString origin = QFileInfo::exists(work.origin) ? work.origin : QString();
  start(std::move(unsaved.design), origin,
        origin.isEmpty() || edited_from.known() ? edited_from : FileStamp::of(origin));
  if (unsaved.changed) history_.resetClean(); // it is not what the file holds
  draft_ = std::move(unsaved.draft);
  Q_EMIT draft_found();
  autosave(); // under this window's name, before the old file goes
  if (!autosave_fails_) Recovery::remove(work);
  Q_EMIT file_changed();
  return true;
}

void Document::discard_recovery() {
  autosave_timer_.stop();
  recovery_.forget();
}

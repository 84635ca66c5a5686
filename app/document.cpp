// The document: undo keeps whole designs; files are written through a temporary file and renamed.
#include "document.h"

#include "design/design_file.h"
#include "parts/bank.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <QTime>
#include <QUndoCommand>
#include <QtConcurrent>
#include <spdlog/spdlog.h>

/// One step of the history: the design before and after.
class DesignEdit : public QUndoCommand {
 public:
  DesignEdit(Document& document, const QString& text, arc::Design before, arc::Design after, QString gesture)
      : QUndoCommand(text), document_(document), before_(std::move(before)), after_(std::move(after)),
        gesture_(std::move(gesture)) {}

  void undo() override { document_.set_design(before_); }
  void redo() override { document_.set_design(after_); }
  int id() const override { return gesture_.isEmpty() ? -1 : 1; }
  bool mergeWith(const QUndoCommand* next) override {
    const auto* other = static_cast<const DesignEdit*>(next);
    if (other->gesture_ != gesture_) return false;
    after_ = other->after_;
    setObsolete(before_ == after_);
    return true;
  }

 private:
  Document& document_;
  arc::Design before_;
  arc::Design after_;
  QString gesture_;
};

Document::Document(QString recovery_folder, QObject* parent)
    : QObject(parent), recovery_folder_(std::move(recovery_folder)),
      power_job_([this](const std::shared_ptr<const arc::PowerAnalysis>& power) {
        power_ = power;
        power_pending_ = false;
        gather_findings();
        Q_EMIT power_changed();
      }) {
  power_timer_.setSingleShot(true);
  power_timer_.setInterval(60);
  connect(&power_timer_, &QTimer::timeout, this, &Document::request_power);
  autosave_timer_.setSingleShot(true);
  autosave_timer_.setInterval(2000);
  connect(&autosave_timer_, &QTimer::timeout, this, &Document::autosave);
  connect(&history_, &QUndoStack::cleanChanged, this, &Document::file_changed);
  connect(&watcher_, &QFutureWatcherBase::finished, this, &Document::analysis_done);
  request_analysis();
}

Document::~Document() {
  watcher_.waitForFinished();
}

void Document::edit(const QString& text, const Edit& change, const QString& gesture) {
  arc::Design after = design_;
  change(after);
  after.tank.capacitance_f = arc::tank_capacitance_f(after.tank); // a bank's value follows its units
  if (after == design_) return;
  history_.push(new DesignEdit(*this, text, design_, std::move(after), gesture));
}

void Document::set_design(const arc::Design& design) {
  design_ = design;
  autosave_timer_.start();
  request_analysis();
  Q_EMIT design_changed();
}

void Document::set_units(arc::UnitSystem units) {
  if (units == units_) return;
  units_ = units;
  request_analysis();
  Q_EMIT units_changed();
}

void Document::request_analysis() {
  power_job_.cancel(); // of a design that is no more
  if (running_) {
    stale_ = true;
    return;
  }
  running_ = true;
  stale_ = false;
  watcher_.setFuture(
      QtConcurrent::run([design = design_, units = units_]() -> std::shared_ptr<const arc::Analysis> {
        return std::make_shared<const arc::Analysis>(arc::analyse(design, units));
      }));
}

void Document::analysis_done() {
  if (!running_) return; // wait_for_analysis() has already taken it
  analysis_ = watcher_.result();
  running_ = false;
  gather_findings();
  if (stale_)
    request_analysis();
  else
    power_timer_.start();
  if (!power_pending_) {
    power_pending_ = true;
    *power_progress_ = 0;
    Q_EMIT power_changed();
  }
  Q_EMIT analysis_changed();
}

void Document::wait_for_analysis() {
  while (running_) {
    watcher_.waitForFinished();
    analysis_done();
  }
}

void Document::request_power() {
  if (!analysis_ || recomputing()) return; // asked for again when the analysis is done
  power_pending_ = true;
  *power_progress_ = 0;
  power_job_.start([design = design_, analysis = analysis_, options = power_options_, units = units_,
                    progress = power_progress_](const std::atomic<bool>& cancelled) {
    return std::make_shared<const arc::PowerAnalysis>(
        arc::analyse_power(design, *analysis, options, units, cancelled, [&](double share) { *progress = share; }));
  });
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
  power_pending_ = false;
  Q_EMIT power_changed();
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
  findings_ = analysis_ ? arc::all_findings(*analysis_, power_.get()) : std::vector<arc::Finding>{};
}

void Document::start(arc::Design design, const QString& origin) {
  design_ = std::move(design);
  power_.reset(); // of another coil
  path_ = origin;
  saved_at_.clear();
  history_.clear();
  history_.setClean();
  autosave_timer_.stop();
  request_analysis();
  Q_EMIT design_changed();
  Q_EMIT file_changed();
}

bool Document::open(const QString& path, QString* problem) {
  QByteArray bytes;
  if (!read_whole_file(path, &bytes, problem)) return false;
  try {
    start(arc::read_design({bytes.constData(), static_cast<std::size_t>(bytes.size())}), path);
  } catch (const arc::DesignFileError& error) {
    *problem = QString::fromStdString(error.what());
    return false;
  }
  return true;
}

bool Document::save_as(const QString& path, QString* problem) {
  if (!write_whole_file(path, QByteArray::fromStdString(arc::write_design(design_)), problem)) return false;
  path_ = path;
  saved_at_ = QTime::currentTime().toString("hh:mm");
  history_.setClean();
  discard_recovery();
  Q_EMIT file_changed();
  return true;
}

QString Document::title() const {
  return QString::fromStdString(design_.name);
}

QString Document::recovery_path() const {
  return recovery_folder_ + "/recovery.json";
}

QString Document::recoverable() const {
  return QFileInfo::exists(recovery_path()) ? recovery_path() : QString();
}

void Document::autosave() {
  if (!modified()) return;
  QString problem;
  if (!QDir().mkpath(recovery_folder_) ||
      !write_whole_file(recovery_path(), QByteArray::fromStdString(arc::write_design(design_)), &problem)) {
    spdlog::warn("autosave failed: {}", problem.toStdString());
    Q_EMIT autosave_failed(problem);
  }
}

bool Document::recover(QString* problem) {
  QByteArray bytes;
  if (!read_whole_file(recovery_path(), &bytes, problem)) return false;
  try {
    const arc::Design recovered = arc::read_design({bytes.constData(), static_cast<std::size_t>(bytes.size())});
    edit("Recover unsaved work", [&](arc::Design& design) { design = recovered; });
  } catch (const arc::DesignFileError& error) {
    *problem = QString::fromStdString(error.what());
    return false;
  }
  return true;
}

void Document::discard_recovery() {
  autosave_timer_.stop();
  QFile::remove(recovery_path());
}

bool read_whole_file(const QString& path, QByteArray* bytes, QString* problem) {
  QFile file(path);
  if (QFileInfo(path).isDir())
    *problem = "this is a folder; choose a file in it";
  else if (!file.open(QIODevice::ReadOnly))
    *problem = file.errorString();
  else if (file.size() > static_cast<qint64>(arc::largest_design_file_bytes))
    *problem = QString("the file is %1 MB; a design is never larger than %2 MB")
                   .arg(file.size() >> 20)
                   .arg(arc::largest_design_file_bytes >> 20);
  else {
    *bytes = file.readAll();
    if (file.error() == QFileDevice::NoError) return true;
    *problem = file.errorString();
  }
  return false;
}

bool write_whole_file(const QString& path, const QByteArray& bytes, QString* problem) {
  QSaveFile file(path);
  // commit() alone does not notice that the buffer could not be written: flush first.
  if (file.open(QIODevice::WriteOnly) && file.write(bytes) == bytes.size() && file.flush() && file.commit())
    return true;
  *problem = file.errorString();
  return false;
}

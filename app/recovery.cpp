// Recovery files: the design and the path that it belongs to, as JSON.
#include "recovery.h"

#include "coil/design_file.h"
#include "file_io.h"
#include "quantity/json_text.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QUuid>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace {

constexpr const char* format_name = "high-arc-recovery";
constexpr int longest_name = 40;

// A design's name as part of a file name.
QString slug(const std::string& name) {
  QString out;
  for (const QChar c : QString::fromStdString(name).toLower()) {
    if (out.size() == longest_name) break;
    if (c.isLetterOrNumber())
      out += c;
    else if (!out.endsWith('-') && !out.isEmpty())
      out += '-';
  }
  return out.isEmpty() ? "untitled" : out;
}

QString lock_of(const QString& file) {
  return file + ".lock";
}

std::unique_ptr<QLockFile> make_lock(const QString& file) {
  auto lock = std::make_unique<QLockFile>(lock_of(file));
  lock->setStaleLockTime(0); // a lock is stale only when its process is gone
  return lock;
}

// The wrapped design and what stands beside it; throws arc::DesignFileError.
arc::Json parsed(const QByteArray& bytes) {
  try {
    arc::Json json = arc::parse_json({bytes.constData(), static_cast<std::size_t>(bytes.size())}, "unsaved work");
    const arc::Json format = json.is_object() ? json.value("format", arc::Json()) : arc::Json();
    if (format == format_name && json.contains("design") && json["design"].is_object()) return json;
    if (format == "high-arc-design") // as earlier versions left it
      return {{"name", json.value("name", arc::Json("unnamed"))}, {"design", json}};
  } catch (const arc::JsonTextError& error) {
    throw arc::DesignFileError(error.what(), error.path(), error.line());
  }
  throw arc::DesignFileError("this is no unsaved work of High Arc", "", 0);
}

QString text_in(const arc::Json& json, const char* key) {
  const auto it = json.find(key);
  return it != json.end() && it->is_string() ? QString::fromStdString(it->get<std::string>()) : QString();
}

} // namespace

Recovery::Recovery(QString folder) : folder_(std::move(folder)) {}

Recovery::~Recovery() =
    default; // the file stays, the lock goes: a window that ends without deciding leaves its work

bool Recovery::own_file(const QString& name, QString* problem) {
  if (!path_.isEmpty()) return true;
  if (!QDir().mkpath(folder_)) {
    *problem = QString("the folder %1 cannot be made").arg(folder_);
    return false;
  }
  const QString path =
      QString("%1/%2-%3.json").arg(folder_, name, QUuid::createUuid().toString(QUuid::Id128).left(8));
  auto lock = make_lock(path);
  if (!lock->tryLock(0)) {
    *problem = QString("%1 cannot be locked").arg(path);
    return false;
  }
  path_ = path;
  lock_ = std::move(lock);
  return true;
}

bool Recovery::keep(const arc::Design& design, const QString& origin, QString* problem) {
  if (!own_file(slug(design.name), problem)) return false;
  // The design's own text is put in as it is: one way to write a design.
  const std::string text =
      fmt::format("{{\"format\":\"{}\",\"version\":1,\"name\":{},\"origin\":{},\"design\":{}}}\n", format_name,
                  arc::Json(design.name).dump(-1, ' ', false, arc::Json::error_handler_t::replace),
                  arc::Json(origin.toStdString()).dump(), arc::write_design(design));
  return write_whole_file(path_, QByteArray::fromStdString(text), problem);
}

void Recovery::forget() {
  if (path_.isEmpty()) return;
  QFile::remove(path_);
  lock_.reset(); // unlocks, and takes the lock file away
  path_.clear();
}

std::vector<RecoverableWork> Recovery::left_behind() const {
  std::vector<RecoverableWork> out;
  const QDir folder(folder_);
  for (const QFileInfo& info : folder.entryInfoList({"*.json"}, QDir::Files, QDir::Time)) {
    if (info.absoluteFilePath() == QFileInfo(path_).absoluteFilePath()) continue;
    const auto lock = make_lock(info.absoluteFilePath());
    if (!lock->tryLock(0)) continue; // a running window's
    RecoverableWork work{info.absoluteFilePath(), info.completeBaseName(), {}, info.lastModified()};
    QByteArray bytes;
    QString problem;
    if (read_whole_file(work.file, &bytes, &problem)) try {
        const arc::Json json = parsed(bytes);
        work.name = text_in(json, "name");
        work.origin = text_in(json, "origin");
      } catch (const arc::DesignFileError&) { // offered all the same: reading it says what is wrong
      }
    out.push_back(std::move(work));
  }
  return out;
}

bool Recovery::read(const RecoverableWork& work, arc::Design* design, QString* problem) {
  QByteArray bytes;
  if (!read_whole_file(work.file, &bytes, problem)) return false;
  try {
    *design = arc::read_design(parsed(bytes)["design"].dump(1));
    return true;
  } catch (const arc::DesignFileError& error) {
    *problem = QString::fromStdString(error.what());
    return false;
  }
}

void Recovery::remove(const RecoverableWork& work) {
  QFile::remove(work.file);
  QFile::remove(lock_of(work.file));
}

// Kept by spdlog.
#include "base/log.h"

#include "base/file_io.h"

#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/spdlog.h>

void start_log(const QString& folder) {
  try {
    spdlog::file_event_handlers handlers;
    handlers.after_open = [](const spdlog::filename_t& name, std::FILE*) {
      make_private(QString::fromStdString(name));
    };
    spdlog::set_default_logger(spdlog::rotating_logger_mt("high-arc", (folder + "/high-arc.log").toStdString(),
                                                          1 << 20, 2, false, handlers));
    spdlog::flush_on(spdlog::level::warn);
  } catch (const spdlog::spdlog_ex&) {
    spdlog::set_level(spdlog::level::off);
  }
}

void log_warning(const QString& what) {
  spdlog::warn(what.toStdString());
}

void log_error(const QString& what) {
  spdlog::error(what.toStdString());
}

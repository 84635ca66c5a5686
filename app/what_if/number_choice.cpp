#include "what_if/number_choice.h"

#include "toolkit/common.h"

#include <QSignalBlocker>

void fill_numbers(QComboBox& box, const arc::Design& design, std::initializer_list<const char*> usual) {
  const QSignalBlocker quiet(box);
  const QString before = box.currentData().toString();
  box.clear();
  for (const arc::NumberPlace& place : arc::movable_numbers(design))
    box.addItem(QString::fromStdString(place.title), QString::fromStdString(place.path));
  int chosen = box.findData(before);
  for (const char* path : usual)
    if (chosen < 0) chosen = box.findData(QString(path));
  box.setCurrentIndex(std::max(0, chosen));
  keep_words(&box);
}

std::optional<arc::NumberPlace> chosen_number(const QComboBox& box, const arc::Design& design) {
  const std::string path = box.currentData().toString().toStdString();
  for (arc::NumberPlace& place : arc::movable_numbers(design))
    if (place.path == path) return std::move(place);
  return {};
}

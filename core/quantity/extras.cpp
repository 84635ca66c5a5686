// The one place that compares and copies unknown keys.
#include "quantity/extras.h"

#include <nlohmann/json.hpp>

namespace arc {

Extras::Extras(const Json& object) {
  if (!object.empty()) json_ = std::make_shared<const Json>(object);
}

const Json& Extras::json() const {
  static const Json none = Json::object();
  return json_ ? *json_ : none;
}

void Extras::set(const std::string& key, const Json& value) {
  Json changed = json();
  changed[key] = value;
  json_ = std::make_shared<const Json>(std::move(changed));
}

bool Extras::operator==(const Extras& other) const {
  return json_ == other.json_ || json() == other.json();
}

} // namespace arc

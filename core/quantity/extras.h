// Keys of a file that this version does not know: kept untouched, to be written back. Copies share them. The JSON
// library stands in no other header of plain values, since it is costly to compile.
#pragma once

#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <string>

namespace arc {

using Json = nlohmann::ordered_json;

class Extras {
 public:
  Extras() = default;
  /// Takes the members of a JSON object.
  Extras(const Json& object);

  bool empty() const { return !json_; }
  /// An object, empty when there is nothing.
  const Json& json() const;
  void set(const std::string& key, const Json& value);
  bool operator==(const Extras& other) const;

 private:
  std::shared_ptr<const Json> json_; // null when empty
};

} // namespace arc

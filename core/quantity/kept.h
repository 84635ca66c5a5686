// Results of pure steps, kept by their inputs: a step whose inputs are unchanged is taken over instead of repeated.
// A moved clip so repeats no field solution and no charging run, and neither does a remedy that is tried.
#pragma once

#include <atomic>
#include <cstddef>
#include <list>
#include <memory>
#include <mutex>
#include <typeindex>
#include <unordered_map>
#include <utility>

namespace arc {

/// Keeps the results last asked for. A step is a type that holds all of its inputs as values:
///
///     struct FieldStep {
///       using Result = ResonatorResult;
///       static constexpr std::size_t kept = 48; // how many results
///       Secondary secondary; ...
///       bool operator==(const FieldStep&) const = default;
///     };
///
/// May be used from several threads at once; two that ask for the same at the same time both compute it.
class Kept {
 public:
  /// `room` times as many results as each step asks for: for several designs at once.
  explicit Kept(std::size_t room = 1) : room_(room) {}

  /// The result of `step`: as kept, else `make()`. What throws is not kept.
  template <typename Step, typename Make>
  std::shared_ptr<const typename Step::Result> get(const Step& step, const Make& make) {
    return get(step, never_, make);
  }
  /// The same for work that ends early, with what is done, when `cancelled` becomes true: that is not kept.
  template <typename Step, typename Make>
  std::shared_ptr<const typename Step::Result> get(const Step& step, const std::atomic<bool>& cancelled,
                                                   const Make& make) {
    if (auto kept = find(step)) return kept;
    Shelf<Step>& shelf = shelf_of<Step>();
    auto made = std::make_shared<const typename Step::Result>(make());
    const std::scoped_lock lock(guard_);
    ++shelf.made;
    if (cancelled) return made;
    shelf.items.emplace_front(step, made);
    if (shelf.items.size() > room_ * Step::kept) shelf.items.pop_back();
    return made;
  }
  /// The result of `step` as kept; null when it is not.
  template <typename Step>
  std::shared_ptr<const typename Step::Result> find(const Step& step) {
    Shelf<Step>& shelf = shelf_of<Step>();
    const std::scoped_lock lock(guard_);
    for (auto it = shelf.items.begin(); it != shelf.items.end(); ++it)
      if (it->first == step) {
        shelf.items.splice(shelf.items.begin(), shelf.items, it);
        return it->second;
      }
    return nullptr;
  }
  /// How many results of this step were computed rather than taken over.
  template <typename Step>
  std::size_t made() {
    Shelf<Step>& shelf = shelf_of<Step>();
    const std::scoped_lock lock(guard_);
    return shelf.made;
  }

 private:
  struct AnyShelf {
    virtual ~AnyShelf() = default;
  };
  template <typename Step>
  struct Shelf : AnyShelf {
    std::list<std::pair<Step, std::shared_ptr<const typename Step::Result>>> items; // latest first
    std::size_t made = 0;
  };
  template <typename Step>
  Shelf<Step>& shelf_of() {
    const std::scoped_lock lock(guard_);
    auto& shelf = shelves_[typeid(Step)];
    if (!shelf) shelf = std::make_unique<Shelf<Step>>();
    return static_cast<Shelf<Step>&>(*shelf);
  }

  const std::size_t room_;
  const std::atomic<bool> never_{false};
  std::mutex guard_;
  std::unordered_map<std::type_index, std::unique_ptr<AnyShelf>> shelves_;
};

} // namespace arc

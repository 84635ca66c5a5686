// A list whose copies share their items until one of them is changed. A design with thousands of runs can so be
// kept a thousand times by the undo history for the price of one.
#pragma once

#include <algorithm>
#include <initializer_list>
#include <memory>
#include <utility>
#include <vector>

namespace arc {

/// Reads as a vector; reading never copies. The first change of a list that is shared copies its items once.
/// Iterators and references of one list stay good until that list is changed.
template <typename T>
class SharedList {
 public:
  using value_type = T;
  using iterator = typename std::vector<T>::iterator;
  using const_iterator = typename std::vector<T>::const_iterator;

  SharedList() = default;
  SharedList(std::initializer_list<T> items) : SharedList(std::vector<T>(items)) {}
  SharedList(std::vector<T> items) : items_(std::make_shared<std::vector<T>>(std::move(items))) {}

  const std::vector<T>& get() const {
    static const std::vector<T> none;
    return items_ ? *items_ : none;
  }
  operator const std::vector<T>&() const { return get(); }
  /// The items to be changed; no longer shared.
  std::vector<T>& own() {
    if (!items_)
      items_ = std::make_shared<std::vector<T>>();
    else if (items_.use_count() > 1)
      items_ = std::make_shared<std::vector<T>>(*items_);
    return *items_;
  }

  bool empty() const { return get().empty(); }
  std::size_t size() const { return get().size(); }
  const T* data() const { return get().data(); }
  const_iterator begin() const { return get().begin(); }
  const_iterator end() const { return get().end(); }
  auto rbegin() const { return get().rbegin(); }
  auto rend() const { return get().rend(); }
  const T& operator[](std::size_t i) const { return get()[i]; }
  const T& at(std::size_t i) const { return get().at(i); }
  const T& front() const { return get().front(); }
  const T& back() const { return get().back(); }

  iterator begin() { return own().begin(); }
  iterator end() { return own().end(); }
  T& operator[](std::size_t i) { return own()[i]; }
  T& at(std::size_t i) { return own().at(i); }
  T& front() { return own().front(); }
  T& back() { return own().back(); }
  void push_back(T item) { own().push_back(std::move(item)); }
  iterator insert(iterator at, T item) { return own().insert(at, std::move(item)); }
  iterator erase(iterator at) { return own().erase(at); }
  void clear() { items_.reset(); }
  void resize(std::size_t n) { own().resize(n); }

  bool shares_with(const SharedList& other) const { return items_ == other.items_; }
  bool operator==(const SharedList& other) const { return items_ == other.items_ || get() == other.get(); }

 private:
  std::shared_ptr<std::vector<T>> items_;
};

} // namespace arc

// Seeded numbers for tests that sample.
#pragma once

#include <cmath>
#include <cstddef>
#include <random>

namespace arc {

class Random {
 public:
  explicit Random(unsigned seed) : random_(seed) {}
  double between(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }
  double decade(double low, double high) { return std::pow(10, between(std::log10(low), std::log10(high))); }
  int whole(int low, int high) { return std::uniform_int_distribution<int>(low, high)(random_); }
  std::size_t below(std::size_t count) { return std::uniform_int_distribution<std::size_t>(0, count - 1)(random_); }
  bool coin() { return below(2) == 1; }

 private:
  std::mt19937 random_;
};

} // namespace arc

// Integration of stiff, smooth equations: linearly implicit steps of order four with step control and values in
// between (Rosenbrock method of Shampine as in Boost.Odeint; Hairer and Wanner, Solving Ordinary Differential
// Equations II). For circuits with tubes and transistors; what is linear between events goes through network.h.
// Boost's matrices do not compile as C++20, so that only stiff.cpp, built as C++17, sees them.
#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <stdexcept>

namespace arc {

/// The equations cannot be followed: values lie too far apart or are not numbers.
struct StiffProblem : std::runtime_error {
  using std::runtime_error::runtime_error;
};

inline constexpr int most_steps_at_once = 20000, most_steps = 2000000;

class StiffRun {
 public:
  /// Writes the slopes of the `size` values at `y`.
  using Slopes = std::function<void(const double* y, double* slopes)>;
  /// Writes the derivatives of the slopes, row by row: [i * size + k] is that of slope i by value k.
  using Jacobian = std::function<void(const double* y, double* derivatives)>;

  /// Errors of one step stay below `absolute` plus `relative` times the value. No step is longer than
  /// `longest_step`. Starts at time 0.
  StiffRun(std::size_t size, Slopes slopes, Jacobian jacobian, double absolute, double relative,
           double longest_step, const double* start);
  ~StiffRun();

  /// Values at `time`, which must not be earlier than asked for before. Throws StiffProblem, also after
  /// most_steps_at_once steps towards it or most_steps altogether (some ten seconds for a small circuit).
  void at(double time, double* values);

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

} // namespace arc

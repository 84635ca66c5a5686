// Integration of stiff, smooth equations: linearly implicit steps of order four with step control and values in
// between. The method and its coefficients are the stiffly stable Rosenbrock method of six stages in Hairer and
// Wanner, Solving Ordinary Differential Equations II, chapter IV.7 (the numbers as in Boost.Odeint's rosenbrock4,
// whose general matrices take five times as long on a handful of values as the fixed ones here). For circuits with
// tubes and transistors; what is linear between events goes through network.h.
#pragma once

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <string>
#include <utility>

namespace arc {

/// The equations cannot be followed: values lie too far apart or are not numbers.
struct StiffProblem : std::runtime_error {
  using std::runtime_error::runtime_error;
};

inline constexpr int most_steps_at_once = 20000, most_steps = 2000000;

/// `Equations` of `Size` values y: slopes(y, out) writes their slopes, jacobian(y, out) the derivative of slope i
/// by value k at (i, k). The slopes do not depend on time itself.
template <int Size, typename Equations>
class StiffRun {
 public:
  using Vector = Eigen::Matrix<double, Size, 1>;
  using Matrix = Eigen::Matrix<double, Size, Size>;

  /// Errors of one step stay below `absolute` plus `relative` times the value. No step is longer than
  /// `longest_step`. Starts at time 0.
  StiffRun(Equations equations, double absolute, double relative, double longest_step, const Vector& start)
      : equations_(std::move(equations)), absolute_(absolute), relative_(relative), longest_(longest_step),
        step_s_(longest_step / 1000), now_(start), old_(start) {}

  /// Values at `time`, which must not be earlier than asked for before. Throws StiffProblem, also after
  /// most_steps_at_once steps towards it or most_steps altogether (a few seconds for a small circuit).
  Vector at(double time) {
    const int before = steps_;
    while (time_ < time) {
      if (steps_ - before > most_steps_at_once) throw StiffProblem("too many steps are needed");
      advance();
    }
    const double s = time_ > old_time_ ? (time - old_time_) / (time_ - old_time_) : 1;
    return old_ * (1 - s) + s * (now_ + (1 - s) * (third_ + s * fourth_));
  }

 private:
  void advance() {
    constexpr int most_tries = 200;
    for (int tries = 0; tries < most_tries; ++tries)
      if (try_step()) return;
    throw StiffProblem("the values lie too far apart to be followed in time, or grow beyond all bounds");
  }

  // True when the step was good enough to be taken.
  bool try_step() {
    if (++steps_ > most_steps) throw StiffProblem("too many steps are needed");
    const double h = step_s_;
    Vector error;
    const Vector next = stages(h, error);
    const Vector scale = (absolute_ + relative_ * now_.cwiseAbs().cwiseMax(next.cwiseAbs()).array()).matrix();
    const double off = std::sqrt(error.cwiseQuotient(scale).squaredNorm() / Size);
    constexpr double safe = 0.9, most_shrink = 5, most_growth = 1.0 / 6;
    double factor =
        std::isfinite(off) ? std::clamp(std::pow(off, 0.25) / safe, most_growth, most_shrink) : most_shrink;
    if (!(off <= 1)) {
      step_s_ = h / factor;
      rejected_ = true;
      return false;
    }
    if (last_off_ > 0) { // what the last two steps foretell of the next (Gustafsson, ACM TOMS 20 (1994) 496)
      const double foretold = last_h_ / h * std::pow(off * off / last_off_, 0.25) / safe;
      factor = std::max(factor, std::clamp(foretold, most_growth, most_shrink));
    }
    last_h_ = h;
    last_off_ = std::max(0.01, off);
    step_s_ = std::min(longest_, rejected_ ? std::min(h / factor, h) : h / factor);
    rejected_ = false;
    old_ = now_;
    old_time_ = time_;
    now_ = next;
    time_ += h;
    return true;
  }

  Vector slopes(const Vector& y) const {
    Vector out;
    equations_.slopes(y, out);
    return out;
  }

  Vector stages(double h, Vector& error) {
    constexpr double gamma = 0.25;
    Matrix system;
    equations_.jacobian(now_, system);
    system = -system;
    system.diagonal().array() += 1 / (gamma * h);
    const Eigen::PartialPivLU<Matrix> lu(system);
    const Vector g1 = lu.solve(slopes(now_));
    const Vector g2 = lu.solve(slopes(now_ + 1.544 * g1) - 5.6688 / h * g1);
    const Vector g3 = lu.solve(slopes(now_ + 0.9466785280815826 * g1 + 0.2557011698983284 * g2) +
                               (-2.430093356833875 * g1 - 0.2063599157091915 * g2) / h);
    const Vector g4 =
        lu.solve(slopes(now_ + 3.314825187068521 * g1 + 2.896124015972201 * g2 + 0.9986419139977817 * g3) +
                 (-0.1073529058151375 * g1 - 9.594562251023355 * g2 - 20.47028614809616 * g3) / h);
    Vector next =
        now_ + 1.221224509226641 * g1 + 6.019134481288629 * g2 + 12.53708332932087 * g3 - 0.6878860361058950 * g4;
    const Vector g5 = lu.solve(
        slopes(next) +
        (7.496443313967647 * g1 - 10.24680431464352 * g2 - 33.99990352819905 * g3 + 11.70890893206160 * g4) / h);
    next += g5;
    error = lu.solve(slopes(next) + (8.083246795921522 * g1 - 7.981132988064893 * g2 - 31.52159432874371 * g3 +
                                     16.31930543123136 * g4 - 6.058818238834054 * g5) /
                                        h);
    third_ = 10.12623508344586 * g1 - 7.487995877610167 * g2 - 34.80091861555747 * g3 - 7.992771707568823 * g4 +
             1.025137723295662 * g5;
    fourth_ = -0.6762803392801253 * g1 + 6.087714651680015 * g2 + 16.43084320892478 * g3 + 24.76722511418386 * g4 -
              6.594389125716872 * g5;
    return next + error;
  }

  Equations equations_;
  double absolute_, relative_, longest_, step_s_;
  double time_ = 0, old_time_ = 0;
  Vector now_, old_;
  Vector third_ = Vector::Zero(), fourth_ = Vector::Zero(); // of the last step, for values in between
  double last_h_ = 0, last_off_ = 0;                        // of the last step that was taken
  bool rejected_ = false;
  int steps_ = 0;
};

} // namespace arc

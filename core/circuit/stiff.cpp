// Boost.Odeint behind a plain face.
#define BOOST_UBLAS_NDEBUG // its checks repeat every product
#include "circuit/stiff.h"

#include <algorithm>
#include <boost/numeric/odeint/stepper/rosenbrock4.hpp>
#include <boost/numeric/odeint/stepper/rosenbrock4_controller.hpp>
#include <boost/numeric/odeint/stepper/rosenbrock4_dense_output.hpp>
#include <cmath>
#include <string>
#include <utility>

namespace arc {
namespace {

namespace odeint = boost::numeric::odeint;
using Vector = boost::numeric::ublas::vector<double>;
using Matrix = boost::numeric::ublas::matrix<double>;
using Controller = odeint::rosenbrock4_controller<odeint::rosenbrock4<double>>;

} // namespace

struct StiffRun::Inside {
  Slopes slopes;
  Jacobian jacobian;
  odeint::rosenbrock4_dense_output<Controller> stepper;
  Vector values;
  int steps = 0;

  void step() {
    if (++steps > most_steps) throw StiffProblem("too many steps are needed");
    const auto of_slopes = [this](const Vector& y, Vector& out, double) { slopes(&y(0), &out(0)); };
    const auto of_jacobian = [this](const Vector& y, Matrix& out, double, Vector& by_time) {
      jacobian(&y(0), &out(0, 0));
      std::fill(by_time.begin(), by_time.end(), 0.0);
    };
    stepper.do_step(std::make_pair(of_slopes, of_jacobian));
  }
};

StiffRun::StiffRun(std::size_t size, Slopes slopes, Jacobian jacobian, double absolute, double relative,
                   double longest_step, const double* start)
    : inside_(new Inside{std::move(slopes), std::move(jacobian),
                         odeint::rosenbrock4_dense_output<Controller>(Controller(absolute, relative, longest_step)),
                         Vector(size), 0}) {
  std::copy(start, start + size, inside_->values.begin());
  inside_->stepper.initialize(inside_->values, 0, longest_step / 1000);
}

StiffRun::~StiffRun() = default;

void StiffRun::at(double time, double* values) {
  try {
    const int before = inside_->steps;
    while (inside_->stepper.current_time() < time) {
      if (inside_->steps - before > most_steps_at_once) throw StiffProblem("too many steps are needed");
      inside_->step();
    }
    inside_->stepper.calc_state(time, inside_->values);
  } catch (const std::exception& error) {
    throw StiffProblem(std::string("the values lie too far apart to be followed in time (") + error.what() + ")");
  }
  for (std::size_t i = 0; i < inside_->values.size(); ++i) {
    values[i] = inside_->values(i);
    if (!std::isfinite(values[i])) throw StiffProblem("the values grow beyond all bounds");
  }
}

} // namespace arc

// Eigen's dense solvers, instantiated here and nowhere else.
#include "quantity/matrix.h"

#include <Eigen/Dense>
#include <unsupported/Eigen/MatrixFunctions>

namespace arc {

Eigen::MatrixXd exponential(const Eigen::MatrixXd& a) {
  return a.exp();
}

SymmetricModes symmetric_modes(const Eigen::MatrixXd& a) {
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(a);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

GeneralModes general_modes(const Eigen::MatrixXd& a) {
  const Eigen::EigenSolver<Eigen::MatrixXd> solver(a);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

Eigen::VectorXcd eigenvalues(const Eigen::MatrixXd& a) {
  return Eigen::EigenSolver<Eigen::MatrixXd>(a, false).eigenvalues();
}

Eigen::MatrixXd orthonormal(const Eigen::MatrixXd& a) {
  return Eigen::HouseholderQR<Eigen::MatrixXd>(a).householderQ() * Eigen::MatrixXd::Identity(a.rows(), a.cols());
}

struct LowerUpper::Factors : Eigen::PartialPivLU<Eigen::MatrixXd> {
  using Eigen::PartialPivLU<Eigen::MatrixXd>::PartialPivLU;
};
LowerUpper::LowerUpper(const Eigen::MatrixXd& a) : factors_(std::make_shared<const Factors>(a)) {}
Eigen::MatrixXd LowerUpper::solve(const Eigen::MatrixXd& right) const {
  return factors_->solve(right);
}

Eigen::VectorXcd solve(const Eigen::MatrixXcd& a, const Eigen::VectorXcd& right) {
  return a.partialPivLu().solve(right);
}

struct FullLowerUpper::Factors : Eigen::FullPivLU<Eigen::MatrixXd> {
  using Eigen::FullPivLU<Eigen::MatrixXd>::FullPivLU;
};
FullLowerUpper::FullLowerUpper(const Eigen::MatrixXd& a) : factors_(std::make_shared<const Factors>(a)) {}
bool FullLowerUpper::invertible() const {
  return factors_->isInvertible();
}
Eigen::MatrixXd FullLowerUpper::solve(const Eigen::MatrixXd& right) const {
  return factors_->solve(right);
}

struct Cholesky::Factors : Eigen::LLT<Eigen::MatrixXd> {
  using Eigen::LLT<Eigen::MatrixXd>::LLT;
};
Cholesky::Cholesky(const Eigen::MatrixXd& a) : factors_(std::make_shared<const Factors>(a)) {}
bool Cholesky::positive() const {
  return factors_->info() == Eigen::Success;
}
Eigen::MatrixXd Cholesky::lower() const {
  return factors_->matrixL();
}
Eigen::MatrixXd Cholesky::solve(const Eigen::MatrixXd& right) const {
  return factors_->solve(right);
}

} // namespace arc

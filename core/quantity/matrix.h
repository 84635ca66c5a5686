// Functions of matrices that are long to compile, compiled once: exponential, eigenvalues, factors. Thin names over
// Eigen's dense solvers, whose numbers they return unchanged. Matrices of a size known beforehand, which Eigen
// unrolls, stay with their users.
#pragma once

#include <Eigen/Core>
#include <memory>

namespace arc {

/// e to a square matrix, by scaling, Padé approximation and squaring (Higham, SIAM J. Matrix Anal. Appl. 26 (2005)
/// 1179); exact to rounding. Not finite where `a` is not.
Eigen::MatrixXd exponential(const Eigen::MatrixXd& a);

/// Of a symmetric matrix (its lower triangle is read): values rising, one orthonormal column for each.
struct SymmetricModes {
  Eigen::VectorXd values;
  Eigen::MatrixXd vectors;
};
SymmetricModes symmetric_modes(const Eigen::MatrixXd& a);

/// Of a square matrix, in no order; conjugate pairs stand together. Columns have the length 1.
struct GeneralModes {
  Eigen::VectorXcd values;
  Eigen::MatrixXcd vectors;
};
GeneralModes general_modes(const Eigen::MatrixXd& a);
Eigen::VectorXcd eigenvalues(const Eigen::MatrixXd& a);

/// Orthonormal columns that span those of `a`, of which there are no more than rows (Householder).
Eigen::MatrixXd orthonormal(const Eigen::MatrixXd& a);

/// A square matrix in factors, solved for many right sides: lower and upper, rows exchanged where it helps. A
/// singular matrix gives what is not finite.
class LowerUpper {
 public:
  explicit LowerUpper(const Eigen::MatrixXd& a);
  Eigen::MatrixXd solve(const Eigen::MatrixXd& right) const;

 private:
  struct Factors;
  std::shared_ptr<const Factors> factors_; // never change
};

/// The same for one right side of complex numbers.
Eigen::VectorXcd solve(const Eigen::MatrixXcd& a, const Eigen::VectorXcd& right);

/// Likewise with rows and columns exchanged: tells whether there is one solution.
class FullLowerUpper {
 public:
  explicit FullLowerUpper(const Eigen::MatrixXd& a);
  bool invertible() const;
  Eigen::MatrixXd solve(const Eigen::MatrixXd& right) const;

 private:
  struct Factors;
  std::shared_ptr<const Factors> factors_;
};

/// a = L L' of a symmetric matrix; `positive()` is false when it is not positive definite, nothing else then holds.
class Cholesky {
 public:
  explicit Cholesky(const Eigen::MatrixXd& a);
  bool positive() const;
  Eigen::MatrixXd lower() const;
  Eigen::MatrixXd solve(const Eigen::MatrixXd& right) const;

 private:
  struct Factors;
  std::shared_ptr<const Factors> factors_;
};

} // namespace arc

// The equations behind the constraints of a drawing; used by the solver only.
#pragma once
#include "outline/solver.h"
#include <Eigen/Sparse>
#include <functional>
#include <unordered_map>
#include <unsupported/Eigen/AutoDiff>

namespace lp {

/// Number with its derivatives with respect to at most twelve variables of one equation.
using Dual = Eigen::AutoDiffScalar<Eigen::Matrix<double, 12, 1>>;

struct Equation {
    DrawingId constraint = 0; ///< 0: what an arc is by itself
    std::vector<int> variables;
    std::function<Dual(const Dual*)> value; ///< mm; 0 when it holds
    /// Instead of `value`, for equations of many variables: takes them, fills in their derivatives.
    std::function<double(const double*, double*)> wide;
};

/// Variables and equations of a drawing. Signs (which side, which way round) are taken from the positions given.
class EquationSystem {
  public:
    EquationSystem(const Drawing& drawing, const DimensionValues& values);

    int rows() const { return int(equations_.size()); }
    int columns() const { return columns_; }
    const std::vector<Equation>& equations() const { return equations_; }
    Eigen::VectorXd& x() { return x_; }
    const Eigen::VectorXd& x() const { return x_; }
    int column(int variable) const { return column_[size_t(variable)]; }
    /// First of the two variables of a point; the radius variable of a circle or ellipse.
    int point_variable(DrawingId point) const { return points_.at(point); }
    std::optional<int> radius_variable(DrawingId element) const;
    /// New targets for the dimensions, the same signs.
    void set_values(const DimensionValues& values) { values_ = values; }
    Eigen::VectorXd residuals() const;
    Eigen::SparseMatrix<double> jacobian(Eigen::VectorXd& residuals) const;
    void write_back(Drawing& drawing) const;
    /// Variables of an element or point.
    std::vector<int> variables_of(const Drawing& drawing, DrawingId id) const;

  private:
    friend class EquationBuilder;
    std::vector<Equation> equations_;
    Eigen::VectorXd x_;
    std::vector<int> column_; ///< -1: fixed
    int columns_ = 0;
    std::unordered_map<DrawingId, int> points_, radii_;
    DimensionValues values_;
};

} // namespace lp

#include "outline/solver.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/equations.h"
#include <Eigen/QR>
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

/// Constraints hold to this; far below what the kernel calls one point (1e-7 mm).
constexpr double holds_mm = 1e-9;

/// One damped Gauss-Newton run from where the system stands. `ease`: how easily each column moves (1 as usual, small
/// for what is held by the pointer). Returns the largest residual left.
double relax(EquationSystem& system, const Eigen::VectorXd& ease, int most_rounds) {
    if (system.rows() == 0 || system.columns() == 0)
        return system.rows() ? system.residuals().cwiseAbs().maxCoeff() : 0;
    Eigen::VectorXd r;
    Eigen::SparseMatrix<double> j = system.jacobian(r);
    double error = r.squaredNorm(), damping = 1e-12;
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> factor;
    long analysed = -1; // entries of the pattern that was analysed
    Eigen::SparseMatrix<double> unit(system.rows(), system.rows());
    unit.setIdentity();
    for (int round = 0; round < most_rounds && r.cwiseAbs().maxCoeff() > holds_mm / 10; ++round) {
        // The smallest step (weighed by ease) that makes the linear equations true: S J' (J S J' + damping)^-1 r.
        Eigen::SparseMatrix<double> weighed = j * ease.asDiagonal();
        Eigen::SparseMatrix<double> normal = weighed * Eigen::SparseMatrix<double>(j.transpose());
        double scale = std::max(normal.diagonal().maxCoeff(), 1e-12);
        normal += unit * (damping * scale);
        if (analysed != normal.nonZeros()) factor.analyzePattern(normal), analysed = normal.nonZeros();
        factor.factorize(normal);
        Eigen::VectorXd step;
        if (factor.info() == Eigen::Success) {
            step = weighed.transpose() * factor.solve(r);
        } else { // too near singular for the quick way: rank-revealing QR
            Eigen::MatrixXd dense = j * ease.cwiseSqrt().asDiagonal();
            step = ease.cwiseSqrt().asDiagonal() * dense.completeOrthogonalDecomposition().solve(r);
        }
        if (!step.allFinite()) break;
        Eigen::VectorXd before = system.x();
        for (int variable = 0; variable < before.size(); ++variable)
            if (int column = system.column(variable); column >= 0) system.x()[variable] -= step[column];
        Eigen::VectorXd next_r;
        Eigen::SparseMatrix<double> next_j = system.jacobian(next_r);
        double next = next_r.allFinite() ? next_r.squaredNorm() : 1e300;
        if (next < error) {
            bool stuck = next > error * (1 - 1e-9) && r.cwiseAbs().maxCoeff() > 1e-6;
            r = next_r;
            j = next_j;
            error = next;
            damping = std::max(damping / 8, 1e-13);
            if (stuck) break;
        } else {
            system.x() = before;
            if (damping > 1e6) break;
            damping = std::max(damping * 20, 1e-10);
        }
    }
    return r.cwiseAbs().maxCoeff();
}

Eigen::VectorXd even(const EquationSystem& system) {
    return Eigen::VectorXd::Ones(system.columns());
}

std::string list_constraints(const Drawing& drawing, const std::vector<DrawingId>& ids) {
    std::string text;
    size_t shown = 0;
    for (DrawingId id : ids) {
        if (shown == 6) {
            text += " and " + std::to_string(ids.size() - shown) + " more";
            break;
        }
        ++shown;
        const Constraint* c = drawing.constraint(id);
        if (!c) continue;
        text += (text.empty() ? "" : ", ") + constraint_words(*c) + " of ";
        std::string of;
        for (DrawingId part : c->of) of += (of.empty() ? "" : " and ") + element_words(drawing, part);
        text += of;
    }
    return text;
}

/// Constraints whose equations are not met where the fit of all is best.
std::vector<DrawingId> quarrelling(const EquationSystem& system) {
    Eigen::VectorXd r = system.residuals();
    double worst = r.cwiseAbs().maxCoeff();
    std::vector<DrawingId> ids;
    for (int i = 0; i < r.size(); ++i) {
        DrawingId id = system.equations()[size_t(i)].constraint;
        if (id && std::fabs(r[i]) > 0.02 * worst && std::find(ids.begin(), ids.end(), id) == ids.end())
            ids.push_back(id);
    }
    return ids;
}

std::optional<Problem> vanished(const Drawing& d) {
    auto at = [&](DrawingId id) { return id == origin_id ? Vec2(0, 0) : d.points.at(id); };
    for (const Element& e : d.elements) {
        double size = 1;
        if (e.kind == ElementKind::Line || e.kind == ElementKind::Ellipse || e.kind == ElementKind::Arc)
            size = (at(e.points[1]) - at(e.points[0])).norm();
        if (e.kind == ElementKind::Circle || e.kind == ElementKind::Ellipse) size = std::min(size, e.radius);
        if (!(size >= 1e-6)) {
            Vec2 p = at(e.points[0]);
            return Problem{ProblemCode::Geometry,
                           "With these numbers " + element_words(d, e.id) + " has no size left.",
                           "Take the last number back, or remove the element.",
                           Vec3(p.x(), p.y(), 0),
                           {}};
        }
    }
    return std::nullopt;
}

/// Refused before equations are made: references of the wrong kind.
/// What each kind of constraint may be said of.
class Kinds {
  public:
    explicit Kinds(const Drawing& drawing) : d(drawing) {
        for (const Element& e : d.elements) elements[e.id] = &e;
    }
    bool fit(const Constraint& c) const {
        size_t n = c.of.size();
        bool p0 = n > 0 && d.is_point(c.of[0]), p1 = n > 1 && d.is_point(c.of[1]);
        bool l0 = n > 0 && is_line(c.of[0]), l1 = n > 1 && is_line(c.of[1]);
        bool r0 = n > 0 && is_round(c.of[0]), r1 = n > 1 && is_round(c.of[1]);
        switch (c.kind) {
        case ConstraintKind::Coincident:
        case ConstraintKind::DistanceX:
        case ConstraintKind::DistanceY:
            return n == 2 && p0 && p1 && c.of[0] != c.of[1];
        case ConstraintKind::On:
            return n == 2 && p0 && (l1 || is_round(c.of[1], true));
        case ConstraintKind::Horizontal:
        case ConstraintKind::Vertical:
            return (n == 1 && l0) || (n == 2 && p0 && p1);
        case ConstraintKind::Parallel:
        case ConstraintKind::Perpendicular:
            return n == 2 && l0 && l1;
        case ConstraintKind::Tangent:
            return n == 2 &&
                   ((l0 && r1) || (r0 && l1) || (r0 && r1) || touches(c.of[0], c.of[1]) || touches(c.of[1], c.of[0]));
        case ConstraintKind::Equal:
            return n == 2 && ((l0 && l1) || (r0 && r1));
        case ConstraintKind::Midpoint:
            return n == 2 && p0 && l1;
        case ConstraintKind::Symmetric:
            return n == 3 && p0 && p1 && is_line(c.of[2]);
        case ConstraintKind::Concentric:
            return n == 2 && (is_round(c.of[0], true) || p0) && (is_round(c.of[1], true) || p1);
        case ConstraintKind::Fixed:
            return n == 1 && (p0 || elements.count(c.of[0]));
        case ConstraintKind::Distance:
            return n == 2 && ((p0 && p1 && c.of[0] != c.of[1]) || (p0 && l1) || (l0 && p1) || (l0 && l1));
        case ConstraintKind::Length:
            return n == 1 && l0 && c.of[0] > y_axis_id;
        case ConstraintKind::Angle:
            return (n == 1 && l0) || (n == 2 && l0 && l1 && c.of[0] != c.of[1]);
        case ConstraintKind::Radius:
        case ConstraintKind::Diameter:
            return n == 1 && r0;
        case ConstraintKind::ArcLength:
            return n == 1 && r0 && elements.at(c.of[0])->kind == ElementKind::Arc;
        }
        return false;
    }

  private:
    bool is_line(DrawingId id) const {
        auto e = elements.find(id);
        return id == x_axis_id || id == y_axis_id || (e != elements.end() && e->second->kind == ElementKind::Line);
    }
    bool is_round(DrawingId id, bool with_ellipse = false) const {
        auto e = elements.find(id);
        return e != elements.end() && (e->second->kind == ElementKind::Arc || e->second->kind == ElementKind::Circle ||
                                       (with_ellipse && e->second->kind == ElementKind::Ellipse));
    }
    /// An ellipse with a line; an open spline with a line or arc it shares an end with.
    bool touches(DrawingId curve, DrawingId other) const {
        auto e = elements.find(curve);
        if (e == elements.end()) return false;
        if (e->second->kind == ElementKind::Ellipse) return is_line(other);
        auto o = elements.find(other);
        if (e->second->kind != ElementKind::Spline || e->second->closed || o == elements.end()) return false;
        if (o->second->kind != ElementKind::Line && o->second->kind != ElementKind::Arc) return false;
        for (size_t k = o->second->kind == ElementKind::Arc; k < o->second->points.size(); ++k)
            for (DrawingId end : {e->second->points.front(), e->second->points.back()}) {
                if (o->second->points[k] == end) return true;
                for (const Constraint& j : d.constraints)
                    if (j.kind == ConstraintKind::Coincident && j.of.size() == 2 &&
                        std::set<DrawingId>(j.of.begin(), j.of.end()) == std::set<DrawingId>{o->second->points[k], end})
                        return true;
            }
        return false;
    }

    const Drawing& d;
    std::map<DrawingId, const Element*> elements;
};

std::optional<Problem> check_kinds(const Drawing& d) {
    Kinds kinds(d);
    for (const Constraint& c : d.constraints) {
        if (kinds.fit(c)) continue;
        std::string of;
        for (DrawingId id : c.of) of += (of.empty() ? "" : " and ") + element_words(d, id);
        std::string kind = constraint_kind_name(c.kind);
        std::replace(kind.begin(), kind.end(), '_', ' ');
        return Problem{ProblemCode::Wording, "\"" + kind + "\" cannot be said of " + of + ".",
                       "Choose points, lines or round curves it is meant for."};
    }
    return std::nullopt;
}

} // namespace

Expected<DimensionValues> dimension_values(const Drawing& drawing, const ParameterValues& parameters) {
    DimensionValues values;
    for (const Constraint& c : drawing.constraints) {
        if (!is_dimension(c.kind)) continue;
        auto value = evaluate_expression(c.value, quantity_of(c.kind), parameters);
        if (!value) return pass_on(value);
        if (c.kind == ConstraintKind::Radius && is_told_as_diameter(c.value)) *value /= 2;
        std::string kind = constraint_kind_name(c.kind);
        std::replace(kind.begin(), kind.end(), '_', ' ');
        bool angle = c.kind == ConstraintKind::Angle;
        bool may_be_nothing = c.kind == ConstraintKind::DistanceX || c.kind == ConstraintKind::DistanceY || angle;
        if (!std::isfinite(*value) || (angle && std::fabs(*value) > 360) ||
            (!angle && (*value < (may_be_nothing ? 0 : 1e-6) || *value > tolerance::largest_mm)))
            return problem(ProblemCode::Range,
                           "A " + kind + " of " + format_quantity(*value, quantity_of(c.kind), 6) + " cannot be drawn.",
                           angle ? "An angle lies within one turn." : "It must be above 0 and below 100 m.");
        values[c.id] = *value;
    }
    return values;
}

double measured(const Drawing& drawing, const Constraint& dimension) {
    Drawing alone = drawing;
    alone.constraints = {dimension};
    if (check_kinds(alone)) return 0;
    DimensionValues zero{{dimension.id, 0}};
    EquationSystem system(alone, zero);
    Eigen::VectorXd r = system.residuals();
    for (int i = 0; i < r.size(); ++i)
        if (system.equations()[size_t(i)].constraint == dimension.id) {
            if (dimension.kind == ConstraintKind::Diameter) return 2 * r[i];
            if (dimension.kind != ConstraintKind::Angle) return r[i];
            // The equation is scaled by the length of the second line.
            Dual v[12];
            const auto& variables = system.equations()[size_t(i)].variables;
            for (size_t k = 0; k < variables.size(); ++k) v[k].value() = system.x()[variables[k]];
            double length = std::hypot(v[6].value() - v[4].value(), v[7].value() - v[5].value());
            return degrees(r[i] / std::max(length, 1e-3));
        }
    return 0;
}

Expected<Drawing> solve(const Drawing& drawing, const DimensionValues& values) {
    if (auto wrong = check_kinds(drawing)) return pass_on(*wrong);
    EquationSystem system(drawing, values);
    // From what the dimensions measure now to what is wanted, in steps of about a tenth: the figure follows
    // continuously.
    DimensionValues now;
    double largest = 0;
    for (const Constraint& c : drawing.constraints)
        if (is_dimension(c.kind)) {
            double m = measured(drawing, c), want = values.at(c.id);
            if (c.kind == ConstraintKind::Angle && std::fabs(want - m) > 180) m += want > m ? 360 : -360;
            now[c.id] = m;
            largest = std::max(largest, c.kind == ConstraintKind::Angle
                                            ? std::fabs(want - m) / 20
                                            : std::fabs(want - m) / std::max(0.15 * std::max(want, m), 1e-6));
        }
    int steps = std::clamp(int(std::ceil(largest)), 1, 24);
    Eigen::VectorXd ease = even(system);
    double error = 0;
    for (int attempt = 0; attempt < 2; ++attempt, steps *= 6) {
        if (attempt) {
            EquationSystem fresh(drawing, values);
            system.x() = fresh.x();
        }
        for (int k = 1; k <= steps; ++k) {
            DimensionValues between = values;
            for (auto& [id, value] : between) value = now[id] + (value - now[id]) * k / steps;
            system.set_values(between);
            error = relax(system, ease, k == steps ? 200 : 20);
        }
        if (error <= holds_mm) break;
    }
    Drawing solved = drawing;
    if (error > holds_mm) {
        auto ids = quarrelling(system);
        return problem(ProblemCode::Geometry, "These cannot all hold: " + list_constraints(drawing, ids) + ".",
                       "Remove or change one of them.");
    }
    system.write_back(solved);
    if (auto wrong = vanished(solved)) return pass_on(*wrong);
    return solved;
}

Freedom freedom(const Drawing& drawing, const DimensionValues& values) {
    Freedom result;
    if (check_kinds(drawing)) return result;
    EquationSystem system(drawing, values);
    Eigen::VectorXd r;
    Eigen::MatrixXd j = Eigen::MatrixXd(system.jacobian(r));
    long n = system.columns(), m = system.rows();
    Eigen::MatrixXd null = Eigen::MatrixXd::Identity(n, n);
    if (m > 0 && n > 0) {
        Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr(j);
        qr.setThreshold(1e-9);
        long rank = qr.rank();
        result.total = int(n - rank);
        // Null space from the triangular factor: R1 a + R2 b = 0.
        null.resize(n, n - rank);
        if (n > rank) {
            Eigen::MatrixXd top = qr.matrixR()
                                      .topLeftCorner(rank, rank)
                                      .template triangularView<Eigen::Upper>()
                                      .solve(Eigen::MatrixXd(qr.matrixR().topRightCorner(rank, n - rank)));
            Eigen::MatrixXd stacked(n, n - rank);
            stacked << -top, Eigen::MatrixXd::Identity(n - rank, n - rank);
            null = qr.colsPermutation() * stacked;
        }
        if (rank < m) {
            // Rows that depend on earlier ones: QR of the transpose without pivoting shows them as zero pivots in
            // order.
            Eigen::MatrixXd basis(n, 0);
            for (long i = 0; i < m; ++i) {
                Eigen::VectorXd row = j.row(i).transpose(), left = row;
                for (int again = 0; again < 2; ++again)
                    if (basis.cols()) left -= basis * (basis.transpose() * left);
                if (left.norm() > 1e-8 * std::max(row.norm(), 1e-12)) {
                    basis.conservativeResize(n, basis.cols() + 1);
                    basis.col(basis.cols() - 1) = left.normalized();
                } else if (DrawingId id = system.equations()[size_t(i)].constraint) {
                    if (std::find(result.redundant.begin(), result.redundant.end(), id) == result.redundant.end())
                        result.redundant.push_back(id);
                }
            }
        }
    } else {
        result.total = int(n);
    }
    auto count = [&](DrawingId id) {
        std::vector<long> columns;
        for (int variable : system.variables_of(drawing, id))
            if (int column = system.column(variable); column >= 0) columns.push_back(column);
        if (columns.empty() || null.cols() == 0) return 0;
        Eigen::MatrixXd rows(long(columns.size()), null.cols());
        for (size_t k = 0; k < columns.size(); ++k) rows.row(long(k)) = null.row(columns[k]);
        Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr(rows);
        if (rows.cwiseAbs().maxCoeff() < 1e-9) return 0;
        qr.setThreshold(1e-8);
        return int(qr.rank());
    };
    for (const auto& [id, p] : drawing.points) result.of[id] = count(id);
    for (const Element& e : drawing.elements) result.of[e.id] = count(e.id);
    return result;
}

Expected<Drawing> constrain(const Drawing& drawing, Constraint constraint, const ParameterValues& parameters) {
    Drawing next = drawing;
    if (constraint.id == 0) constraint.id = drawing.next_id();
    if (is_dimension(constraint.kind) && constraint.value.empty()) {
        Drawing with = drawing;
        with.constraints.push_back(constraint);
        if (auto wrong = check_kinds(with)) return pass_on(*wrong);
        double m = measured(drawing, constraint);
        constraint.value = format_quantity(std::fabs(m), quantity_of(constraint.kind), 4);
    }
    next.constraints.push_back(constraint);
    if (auto wrong = check_kinds(next)) return pass_on(*wrong);
    auto values = dimension_values(next, parameters);
    if (!values) return pass_on(values);
    auto solved = solve(next, *values);
    // Does it say anything new? Its rows against all the others', where the drawing stands.
    EquationSystem system(solved ? *solved : next, *values);
    Eigen::VectorXd r;
    Eigen::MatrixXd j = Eigen::MatrixXd(system.jacobian(r));
    std::vector<long> old_rows, new_rows;
    for (long i = 0; i < j.rows(); ++i)
        (system.equations()[size_t(i)].constraint == constraint.id ? new_rows : old_rows).push_back(i);
    Eigen::MatrixXd others(j.cols(), long(old_rows.size()));
    for (size_t k = 0; k < old_rows.size(); ++k) others.col(long(k)) = j.row(old_rows[k]).transpose();
    bool says_new = false;
    std::vector<DrawingId> same;
    // The first there is, or nothing that can move: there is nothing to decompose (Eigen crashes on empty matrices).
    if (!new_rows.empty() && old_rows.empty() && j.cols() > 0) says_new = true;
    if (!new_rows.empty() && !old_rows.empty() && j.cols() > 0) {
        auto qr = others.completeOrthogonalDecomposition();
        for (long row : new_rows) {
            Eigen::VectorXd mine = j.row(row).transpose(), y = qr.solve(mine);
            if (others.cols() == 0 || (others * y - mine).norm() > 1e-7 * std::max(mine.norm(), 1e-9)) {
                says_new = true;
                continue;
            }
            for (size_t k = 0; k < old_rows.size(); ++k) {
                DrawingId id = system.equations()[size_t(old_rows[k])].constraint;
                if (id && std::fabs(y[long(k)]) > 1e-6 && std::find(same.begin(), same.end(), id) == same.end())
                    same.push_back(id);
            }
        }
    }
    if (!solved && (says_new || same.empty())) return solved;
    if (says_new) return solved;
    std::string others_words = list_constraints(drawing, same);
    std::string mine = constraint_words(constraint);
    if (!solved)
        return problem(ProblemCode::Geometry,
                       "The " + mine + " contradicts " + (others_words.empty() ? "what is fixed" : others_words) + ".",
                       "Remove or change one of them first.");
    return problem(ProblemCode::Geometry,
                   "The " + mine + " only says again what follows from " +
                       (others_words.empty() ? "what is fixed" : others_words) + ".",
                   "It is not needed; remove one of those to use it instead.");
}

struct Drag::State {
    Drawing drawing;
    EquationSystem system;
    Eigen::VectorXd ease;
    std::vector<std::pair<int, Vec2>> points; ///< first variable and where it was
    std::optional<int> radius;
    Vec2 centre = Vec2::Zero(), from;
    Eigen::VectorXd good;
};

Drag::Drag(const Drawing& drawing, const DimensionValues& values, DrawingId what, const Vec2& from)
    : state_(new State{drawing, EquationSystem(drawing, values), {}, {}, {}, {}, from, {}}) {
    State& s = *state_;
    s.ease = even(s.system);
    s.good = s.system.x();
    auto hold = [&](int variable) {
        if (int column = s.system.column(variable); column >= 0) s.ease[column] = 1e-6;
    };
    const Element* e = drawing.element(what);
    if (e && e->kind == ElementKind::Circle) {
        s.radius = s.system.radius_variable(what);
        s.centre = s.system.x().segment<2>(s.system.point_variable(e->points[0]));
        hold(*s.radius);
        return;
    }
    std::vector<DrawingId> pulled = e ? e->points : std::vector<DrawingId>{what};
    for (DrawingId id : pulled) {
        int variable = s.system.point_variable(id);
        s.points.emplace_back(variable, s.system.x().segment<2>(variable));
        hold(variable);
        hold(variable + 1);
    }
}
Drag::~Drag() = default;

const Drawing& Drag::move(const Vec2& to) {
    State& s = *state_;
    Eigen::VectorXd before = s.good;
    s.system.x() = before;
    if (s.radius && s.system.column(*s.radius) >= 0) s.system.x()[*s.radius] = std::max(1e-3, (to - s.centre).norm());
    for (auto& [variable, was] : s.points)
        for (int k = 0; k < 2; ++k)
            if (s.system.column(variable + k) >= 0) s.system.x()[variable + k] = was[k] + to[k] - s.from[k];
    double error = relax(s.system, s.ease, 25);
    Drawing next = s.drawing;
    s.system.write_back(next);
    if (error <= 1e-7 && !vanished(next)) {
        s.good = s.system.x();
        s.drawing = std::move(next);
    } else {
        s.system.x() = before;
    }
    return s.drawing;
}

} // namespace lp

#include "formats/nurbs_curve.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

using Hom = Eigen::Vector3d; // x w, y w, w

/// de Boor's algorithm in homogeneous coordinates; value and first derivative at u in span k.
std::pair<Hom, Hom> de_boor(int p, const std::vector<double>& t, const std::vector<Hom>& c, size_t k, double u) {
    std::vector<Hom> d(c.begin() + long(k) - p, c.begin() + long(k) + 1);
    std::vector<Hom> before;
    for (int r = 1; r <= p; ++r) {
        if (r == p) before = d;
        for (int j = p; j >= r; --j) {
            double low = t[size_t(j) + k - size_t(p)], high = t[size_t(j) + 1 + k - size_t(r)];
            double a = high > low ? (u - low) / (high - low) : 0;
            d[size_t(j)] = (1 - a) * d[size_t(j) - 1] + a * d[size_t(j)];
        }
    }
    double span = t[k + 1] - t[k];
    Hom slope = p * (before[size_t(p)] - before[size_t(p) - 1]) / span;
    return {d[size_t(p)], slope};
}

} // namespace

std::optional<Curve> nurbs_curve(int degree, const std::vector<double>& knots, const std::vector<Vec2>& controls,
                                 const std::vector<double>& weights) {
    size_t n = controls.size();
    if (degree < 1 || degree > 11 || n < size_t(degree) + 1 || knots.size() != n + size_t(degree) + 1 ||
        weights.size() != n)
        return std::nullopt;
    if (!std::is_sorted(knots.begin(), knots.end())) return std::nullopt;
    std::vector<Hom> c;
    bool even = true;
    for (size_t i = 0; i < n; ++i) {
        if (!controls[i].allFinite() || !std::isfinite(weights[i]) || !(weights[i] > 0)) return std::nullopt;
        even = even && std::fabs(weights[i] - weights[0]) < 1e-12;
        c.push_back({controls[i].x() * weights[i], controls[i].y() * weights[i], weights[i]});
    }
    int parts = degree <= 3 && even ? 1 : 8;
    Curve curve;
    curve.kind = Curve::Kind::Cubics;
    for (size_t k = size_t(degree); k < n; ++k) {
        double low = knots[k], high = knots[k + 1];
        if (!(high > low)) continue;
        for (int part = 0; part < parts; ++part) {
            double a = low + (high - low) * part / parts, b = low + (high - low) * (part + 1) / parts;
            auto at = [&](double u) {
                auto [h, d] = de_boor(degree, knots, c, k, u);
                Vec2 p(h.x() / h.z(), h.y() / h.z());
                Vec2 v = (Vec2(d.x(), d.y()) - d.z() * p) / h.z();
                return std::pair(p, v);
            };
            auto [p0, v0] = at(a);
            auto [p1, v1] = at(b);
            if (curve.points.empty()) curve.points.push_back(p0);
            curve.points.push_back(p0 + v0 * (b - a) / 3);
            curve.points.push_back(p1 - v1 * (b - a) / 3);
            curve.points.push_back(p1);
        }
    }
    if (curve.points.size() < 4 || !curve.finite()) return std::nullopt;
    return curve;
}

} // namespace lp

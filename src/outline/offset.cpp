#include "outline/offset.h"
#include "base/hash.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/curve_meet.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

/// Sharp corners reach at most this many distances; beyond it they are rounded, as an endless spike helps nobody.
constexpr double longest_corner = 4;
/// Parts of the raw offset nearer than the distance by more than this lie on the wrong side of another part.
constexpr double slack_mm = 2e-4;

Vec2 left_of(const Vec2& d) {
    return Vec2(-d.y(), d.x()).normalized();
}

Vec2 start_direction(const Curve& c) {
    Vec2 d = c.derivative(0);
    return d.squaredNorm() > 1e-20 ? d.normalized() : (c.at(1e-4 * c.end()) - c.first()).normalized();
}
Vec2 end_direction(const Curve& c) {
    Vec2 d = c.derivative(c.end());
    return d.squaredNorm() > 1e-20 ? d.normalized() : (c.last() - c.at(c.end() * (1 - 1e-4))).normalized();
}

/// A curve moved to its left by d; nothing when an arc shrinks away.
std::optional<Curve> shifted(const Curve& c, double d) {
    if (c.kind == Curve::Kind::Line) {
        Vec2 n = left_of(c.points[1] - c.points[0]) * d;
        return Curve::line(c.points[0] + n, c.points[1] + n);
    }
    if (c.kind == Curve::Kind::Arc) {
        double r = c.sweep > 0 ? c.radius - d : c.radius + d;
        if (r < 1e-6) return std::nullopt;
        Curve result = c;
        result.radius = r;
        return result;
    }
    // Hermite cubics through stations: place and velocity of the moved curve, c' (1 - d k) with the bend k, are known
    // there.
    std::vector<double> t = c.stations(2e-3);
    Curve result;
    result.kind = Curve::Kind::Cubics;
    auto place = [&](double u) { return Vec2(c.at(u) + left_of(c.derivative(u)) * d); };
    auto velocity = [&](double u, double low, double high) {
        double h = 1e-4 * (high - low), before = std::max(low, u - h), after = std::min(high, u + h);
        Vec2 first = c.derivative(u), second = (c.derivative(after) - c.derivative(before)) / (after - before);
        double size = first.norm();
        return Vec2(first * (1 - d * cross2(first, second) / (size * size * size)));
    };
    for (size_t i = 0; i + 1 < t.size(); ++i) {
        // At a joint of the source the direction is that of the span on this side.
        double span = t[i + 1] - t[i], low = t[i], high = std::nextafter(t[i + 1], low) - 1e-12 * span;
        Vec2 a = place(low), b = place(high);
        if (result.points.empty()) result.points.push_back(a);
        result.points.push_back(a + velocity(low, low, high) * span / 3);
        result.points.push_back(b - velocity(high, low, high) * span / 3);
        result.points.push_back(b);
    }
    return result;
}

class Offsetter {
  public:
    Offsetter(const std::vector<Chain>& chains, const OffsetOptions& options) : options_(options) {
        for (const Chain& chain : chains)
            for (const Curve& c : chain.plain()) all_.push_back(c);
    }

    /// Raw offset of one chain to its left by d.
    void add(const Chain& chain, double d) {
        size_t n = chain.curves.size();
        for (size_t i = 0; i < n; ++i) {
            const SourcedCurve& c = chain.curves[i];
            if (auto moved = shifted(c.curve, d)) keep(*moved, Hasher(options_.key).add(c.key).value());
            if (i + 1 < n || (chain.closed && n >= 1)) corner(c, chain.curves[(i + 1) % n], d);
        }
    }

    std::vector<SourcedCurve>& raw() { return raw_; }
    const std::vector<Curve>& original() const { return all_; }

  private:
    void keep(const Curve& curve, SourceKey key) {
        SourcedCurve c;
        c.curve = curve;
        c.key = key;
        raw_.push_back(c);
    }

    void corner(const SourcedCurve& a, const SourcedCurve& b, double d) {
        Vec2 corner = a.curve.last(), u = end_direction(a.curve), v = start_direction(b.curve);
        double turn = std::atan2(cross2(u, v), u.dot(v));
        if (std::fabs(turn) < 1e-9) return;
        if ((turn > 0) == (d > 0)) return; // inside of the corner: the moved curves cross
        SourceKey key = Hasher(options_.key).add(a.key).add(b.key).value();
        Vec2 p = corner + left_of(u) * d, q = corner + left_of(v) * d;
        double reach = 1 / std::max(std::cos(turn / 2), 1e-9);
        if (options_.corners == Corners::Sharp && reach <= longest_corner) {
            Vec2 tip = corner + (left_of(u) + left_of(v)).normalized() * d * reach;
            keep(Curve::line(p, tip), Hasher(options_.key).add(a.key).value());
            keep(Curve::line(tip, q), Hasher(options_.key).add(b.key).value());
        } else {
            keep(Curve::arc_between(corner, p, q, d < 0), key);
        }
    }

    const OffsetOptions& options_;
    std::vector<Curve> all_;
    std::vector<SourcedCurve> raw_;
};

/// Every curve cut where it meets another or itself.
std::vector<SourcedCurve> cut_at_meetings(const std::vector<SourcedCurve>& curves) {
    std::vector<SourcedCurve> pieces;
    std::vector<std::vector<double>> cuts(curves.size());
    auto simple = [](const Curve& c) { return c.kind <= Curve::Kind::Arc; };
    std::vector<std::vector<std::pair<Curve, std::pair<double, double>>>> parts(curves.size());
    for (size_t i = 0; i < curves.size(); ++i) {
        const Curve& c = curves[i].curve;
        cuts[i] = {0, c.end()};
        if (simple(c)) {
            if (c.closed())
                parts[i] = {{c.part(0, 0.5), {0, 0.5}}, {c.part(0.5, 1), {0.5, 1}}};
            else
                parts[i] = {{c, {0, 1}}};
        } else {
            std::vector<double> t = c.stations(1e-3);
            for (size_t k = 0; k + 1 < t.size(); ++k)
                parts[i].push_back({Curve::line(c.at(t[k]), c.at(t[k + 1])), {t[k], t[k + 1]}});
        }
    }
    std::vector<std::vector<Box2>> boxes(curves.size());
    for (size_t i = 0; i < curves.size(); ++i)
        for (auto& [curve, span] : parts[i]) boxes[i].push_back(curve.box());
    for (size_t i = 0; i < curves.size(); ++i)
        for (size_t k = i; k < curves.size(); ++k) {
            if (!curves[i].curve.box().intersects(curves[k].curve.box())) continue;
            for (size_t a = 0; a < parts[i].size(); ++a)
                for (size_t b = k == i ? a + 1 : 0; b < parts[k].size(); ++b) {
                    Box2 grown(boxes[i][a].min() - Vec2(1e-6, 1e-6), boxes[i][a].max() + Vec2(1e-6, 1e-6));
                    if (!grown.intersects(boxes[k][b])) continue;
                    for (const Meeting& m : meetings(parts[i][a].first, parts[k][b].first, 1e-6)) {
                        auto [s0, s1] = parts[i][a].second;
                        auto [t0, t1] = parts[k][b].second;
                        cuts[i].push_back(s0 + m.s * (s1 - s0));
                        cuts[k].push_back(t0 + m.t * (t1 - t0));
                    }
                }
        }
    for (size_t i = 0; i < curves.size(); ++i) {
        std::sort(cuts[i].begin(), cuts[i].end());
        const Curve& c = curves[i].curve;
        for (size_t k = 0; k + 1 < cuts[i].size(); ++k) {
            if (cuts[i][k + 1] - cuts[i][k] < 1e-9 * c.end()) continue;
            SourcedCurve piece = curves[i];
            piece.curve = c.part(cuts[i][k], cuts[i][k + 1]);
            if (piece.curve.length() > 1e-7) pieces.push_back(std::move(piece));
        }
    }
    return pieces;
}

/// Lines of one source that follow each other are one line again.
void melt(std::vector<SourcedCurve>& curves) {
    std::vector<SourcedCurve> result;
    for (Chain& chain : chains_of(curves)) {
        std::vector<SourcedCurve> merged;
        auto joins = [](const SourcedCurve& a, const SourcedCurve& b) {
            if (a.key != b.key || a.curve.kind != b.curve.kind || a.curve.kind > Curve::Kind::Arc) return false;
            if (a.curve.kind == Curve::Kind::Line) {
                Vec2 u = a.curve.points[1] - a.curve.points[0], v = b.curve.points[1] - b.curve.points[0];
                return std::fabs(cross2(u, v)) < 1e-9 * u.norm() * v.norm() && u.dot(v) > 0;
            }
            return (a.curve.centre - b.curve.centre).norm() < 1e-9 &&
                   std::fabs(a.curve.radius - b.curve.radius) < 1e-9 && (a.curve.sweep > 0) == (b.curve.sweep > 0);
        };
        auto join = [](SourcedCurve& a, const SourcedCurve& b) {
            if (a.curve.kind == Curve::Kind::Line)
                a.curve.points[1] = b.curve.points[1];
            else
                a.curve.sweep += b.curve.sweep;
        };
        for (const SourcedCurve& c : chain.curves) {
            if (!merged.empty() && joins(merged.back(), c))
                join(merged.back(), c);
            else
                merged.push_back(c);
        }
        if (chain.closed && merged.size() > 1 && joins(merged.back(), merged.front())) {
            join(merged.back(), merged.front());
            merged.erase(merged.begin());
        }
        result.insert(result.end(), merged.begin(), merged.end());
    }
    curves = std::move(result);
}

} // namespace

Expected<std::vector<SourcedCurve>> offset_curves(const std::vector<SourcedCurve>& curves,
                                                  const OffsetOptions& options) {
    double distance = options.distance_mm;
    if (!std::isfinite(distance) || std::fabs(distance) > tolerance::largest_mm)
        return problem(ProblemCode::Range, "An offset by that distance is not possible.", "Use a length within 100 m.");
    if (curves.empty()) return problem(ProblemCode::Missing, "There is nothing to offset.", "Choose lines or curves.");
    if (std::fabs(distance) < 1e-9) return curves;
    std::vector<Chain> chains = chains_of(curves);
    bool any_open = std::any_of(chains.begin(), chains.end(), [](const Chain& c) { return !c.closed; });
    Offsetter offsetter(chains, options);
    std::vector<SourcedCurve> caps;
    for (size_t i = 0; i < chains.size(); ++i) {
        Chain chain = chains[i];
        if (!chain.closed) {
            offsetter.add(chain, distance);
            continue;
        }
        if (signed_area(chain.plain()) < 0) chain = reversed(chain);
        int depth = 0;
        // At no even share: the middles of round ones lie level with the ends of others about the same centre.
        Vec2 p = chain.curves[0].curve.at(chain.curves[0].curve.end() * 0.382);
        for (size_t k = 0; k < chains.size(); ++k)
            if (k != i && chains[k].closed && inside_loop(chains[k].plain(), p)) ++depth;
        // Counter-clockwise loops have their inside on the left: outward is to the right.
        offsetter.add(chain, depth % 2 ? distance : -distance);
    }
    std::vector<SourcedCurve> kept;
    double wanted = std::fabs(distance);
    for (SourcedCurve& piece : cut_at_meetings(offsetter.raw())) {
        double end = piece.curve.end();
        bool far = true;
        for (double share : {0.5, 0.27, 0.81})
            far = far && distance_to(offsetter.original(), piece.curve.at(share * end)) >= wanted - slack_mm;
        if (far) kept.push_back(std::move(piece));
    }
    melt(kept);
    if (kept.empty())
        return problem(ProblemCode::Geometry,
                       "An offset by " + format_quantity(distance, QuantityKind::Length) +
                           " leaves nothing: the outline is too narrow for it.",
                       "Use a smaller distance.");
    if (any_open && options.close_ends) {
        for (const Chain& chain : chains) {
            if (chain.closed) continue;
            Vec2 ends[2] = {chain.curves.front().curve.first(), chain.curves.back().curve.last()};
            Vec2 directions[2] = {start_direction(chain.curves.front().curve),
                                  end_direction(chain.curves.back().curve)};
            for (int k = 0; k < 2; ++k) {
                SourcedCurve cap;
                cap.curve = Curve::line(ends[k], ends[k] + left_of(directions[k]) * distance);
                cap.key = Hasher(options.key).add(k == 0 ? "start" : "end").value();
                caps.push_back(cap);
            }
        }
        kept.insert(kept.end(), caps.begin(), caps.end());
    }
    return kept;
}

} // namespace lp

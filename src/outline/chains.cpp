#include "outline/chains.h"
#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>

namespace lp {
namespace {
namespace bg = boost::geometry;
using Point = bg::model::point<double, 2, bg::cs::cartesian>;
using Box = bg::model::box<Point>;
using End = std::pair<Point, uint32_t>; ///< 2 i: first end of curve i, 2 i + 1: last
} // namespace

std::vector<Curve> Chain::plain() const {
    std::vector<Curve> result;
    for (const SourcedCurve& c : curves) result.push_back(c.curve);
    return result;
}

Chain reversed(const Chain& chain) {
    Chain result = chain;
    std::reverse(result.curves.begin(), result.curves.end());
    for (SourcedCurve& c : result.curves) c.curve = c.curve.reversed();
    return result;
}

std::vector<Chain> chains_of(const std::vector<SourcedCurve>& curves, double near_mm) {
    std::vector<Chain> chains;
    std::vector<End> ends;
    std::vector<bool> used(curves.size(), false);
    auto end_of = [&](uint32_t e) { return e & 1 ? curves[e / 2].curve.last() : curves[e / 2].curve.first(); };
    for (uint32_t i = 0; i < curves.size(); ++i) {
        if (curves[i].curve.closed()) {
            chains.push_back({{curves[i]}, true});
            used[i] = true;
            continue;
        }
        for (uint32_t e : {2 * i, 2 * i + 1}) {
            Vec2 p = end_of(e);
            ends.emplace_back(Point(p.x(), p.y()), e);
        }
    }
    bg::index::rtree<End, bg::index::quadratic<16>> tree(ends);
    // The one other end at this place; nothing at a loose end or a fork.
    auto partner = [&](uint32_t e) -> std::optional<uint32_t> {
        Vec2 p = end_of(e);
        std::vector<End> near;
        tree.query(bg::index::intersects(Box({p.x() - near_mm, p.y() - near_mm}, {p.x() + near_mm, p.y() + near_mm})),
                   std::back_inserter(near));
        std::optional<uint32_t> other;
        for (const End& n : near) {
            if (n.second == e) continue;
            if (other) return std::nullopt;
            other = n.second;
        }
        return other;
    };
    for (uint32_t i = 0; i < curves.size(); ++i) {
        if (used[i]) continue;
        used[i] = true;
        Chain chain{{curves[i]}, false};
        uint32_t tail = 2 * i + 1, head = 2 * i;
        for (auto next = partner(tail); next; next = partner(tail)) {
            if (*next / 2 == i) {
                chain.closed = *next == head;
                break;
            }
            if (used[*next / 2]) break;
            used[*next / 2] = true;
            SourcedCurve c = curves[*next / 2];
            if (*next & 1) c.curve = c.curve.reversed();
            chain.curves.push_back(c);
            tail = *next ^ 1;
        }
        if (!chain.closed)
            for (auto next = partner(head); next; next = partner(head)) {
                if (used[*next / 2]) break;
                used[*next / 2] = true;
                SourcedCurve c = curves[*next / 2];
                if (!(*next & 1)) c.curve = c.curve.reversed();
                chain.curves.insert(chain.curves.begin(), c);
                head = *next ^ 1;
            }
        chains.push_back(std::move(chain));
    }
    return chains;
}

std::optional<Chain> longest_open_chain(const std::vector<SourcedCurve>& curves) {
    std::optional<Chain> longest;
    double most = 0;
    for (Chain& chain : chains_of(curves)) {
        double length = 0;
        for (const SourcedCurve& c : chain.curves) length += c.curve.length();
        if (!chain.closed && length > most) most = length, longest = std::move(chain);
    }
    return longest;
}

} // namespace lp

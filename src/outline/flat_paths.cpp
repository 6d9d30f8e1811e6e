#include "outline/flat_paths.h"
#include "base/hash.h"
#include <map>

namespace lp {

FlatCurves curves_of(const FlatPaths& paths, std::optional<FillRule> over, SourceKey key, int first_contour) {
    FlatCurves result;
    std::map<int, int> set_of_painted;
    uint64_t number = 0;
    for (const FlatPath& path : paths.paths) {
        int set = -1;
        if (over || path.fill) {
            auto [known, fresh] = set_of_painted.emplace(over ? -1 : path.painted, int(result.rules.size()));
            if (fresh) result.rules.push_back(over ? *over : *path.fill);
            set = first_contour + known->second;
        }
        for (size_t k = 0; k < path.contours.size(); ++k) {
            bool closed = path.closed[k];
            closed ? ++result.closed_contours : ++result.open_paths;
            const auto& chain = path.contours[k];
            for (const Curve& curve : chain) {
                SourcedCurve c;
                c.curve = curve;
                c.key = Hasher(key).add(number++).value();
                c.contour = closed ? set : -1;
                result.curves.push_back(std::move(c));
            }
            if (closed && !chain.empty() && !(chain.size() == 1 && chain[0].closed()))
                if (Vec2 a = chain.back().last(), b = chain.front().first(); (a - b).norm() > 1e-9) {
                    SourcedCurve c;
                    c.curve = Curve::line(a, b);
                    c.key = Hasher(key).add(number++).value();
                    c.contour = set;
                    result.curves.push_back(std::move(c));
                }
        }
    }
    return result;
}

bool is_painted(const FlatRegion& region, const std::vector<FillRule>& rules, int first_contour) {
    for (auto [contour, number] : region.winding) {
        int index = contour - first_contour;
        if (index < 0 || size_t(index) >= rules.size()) continue;
        if (rules[size_t(index)] == FillRule::NonZero ? number != 0 : number % 2 != 0) return true;
    }
    return false;
}

} // namespace lp

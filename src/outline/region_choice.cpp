// Chosen regions: written as text, and found again after numbers changed.
#include "base/hash.h"
#include "base/quantity.h"
#include "outline/offset.h"
#include "outline/outline_shape.h"
#include <algorithm>
#include <charconv>
#include <polyclipping/clipper.hpp>

namespace lp {
namespace {

std::vector<std::pair<SourceKey, bool>> sides_of(const FlatRegion& region) {
    std::vector<std::pair<SourceKey, bool>> sides;
    auto add = [&](const BoundaryLoop& loop) {
        for (const BoundaryCurve& c : loop) sides.emplace_back(c.key, c.forward);
    };
    add(region.outer);
    for (const BoundaryLoop& hole : region.holes) add(hole);
    std::sort(sides.begin(), sides.end());
    sides.erase(std::unique(sides.begin(), sides.end()), sides.end());
    return sides;
}

double likeness(const std::vector<std::pair<SourceKey, bool>>& a, const std::vector<std::pair<SourceKey, bool>>& b) {
    std::vector<std::pair<SourceKey, bool>> common, all;
    std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
    std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(all));
    return all.empty() ? 0 : double(common.size()) / double(all.size());
}

bool holds(const FlatRegion& r, const Vec2& p) {
    if (!inside_loop(curves_of(r.outer), p)) return false;
    return std::none_of(r.holes.begin(), r.holes.end(),
                        [&](const BoundaryLoop& h) { return inside_loop(curves_of(h), p); });
}

std::string trimmed(std::string s) {
    s.erase(0, s.find_first_not_of(" \t\n"));
    s.erase(s.find_last_not_of(" \t\n") + 1);
    return s;
}

Expected<size_t> find_choice(const OutlineShape& outline, const RegionChoice& choice) {
    const auto& regions = outline.arrangement.regions;
    std::string where = format_number(choice.at.x(), 2) + ", " + format_number(choice.at.y(), 2) + " mm";
    if (choice.sides.empty()) { // a place only
        for (size_t i = 0; i < regions.size(); ++i)
            if (holds(regions[i], choice.at)) return i;
        Problem lost{ProblemCode::Missing,
                     "There is no closed region at " + where + ".",
                     "Click the regions again.",
                     Vec3(choice.at.x(), choice.at.y(), 0),
                     {}};
        return pass_on(lost);
    }
    double best = 0, second = 0;
    std::vector<size_t> equal;
    for (size_t i = 0; i < regions.size(); ++i) {
        double like = likeness(sides_of(regions[i]), choice.sides);
        if (like > best + 1e-9)
            second = best, best = like, equal = {i};
        else if (like > best - 1e-9)
            equal.push_back(i);
        else
            second = std::max(second, like);
    }
    if (equal.size() == 1 && (best > 0.99 || (best >= 0.5 && best > second + 0.15))) return equal[0];
    if (best >= 0.5) { // several alike: the place decides when it lies in exactly one of them
        std::vector<size_t> at;
        for (size_t i : equal)
            if (holds(regions[i], choice.at)) at.push_back(i);
        if (at.size() == 1) return at[0];
    }
    Problem lost{ProblemCode::Missing,
                 "A chosen region of the outline is lost: it was at " + where + ".",
                 "Click the regions again.",
                 Vec3(choice.at.x(), choice.at.y(), 0),
                 {}};
    return pass_on(lost);
}

} // namespace

Expected<std::vector<FlatRegion>> merged_regions(const Arrangement& arrangement, const std::vector<size_t>& chosen) {
    std::map<uint32_t, int> uses;
    auto each = [&](auto call) {
        for (size_t i : chosen) {
            const FlatRegion& r = arrangement.regions.at(i);
            for (const BoundaryCurve& c : r.outer) call(c);
            for (const BoundaryLoop& hole : r.holes)
                for (const BoundaryCurve& c : hole) call(c);
        }
    };
    each([&](const BoundaryCurve& c) { ++uses[c.edge]; });
    bool apart = std::all_of(uses.begin(), uses.end(), [](const auto& use) { return use.second == 1; });
    std::vector<FlatRegion> result;
    if (apart) {
        for (size_t i : chosen) result.push_back(arrangement.regions[i]);
        return result;
    }
    std::vector<SourcedCurve> border;
    each([&](const BoundaryCurve& c) {
        if (uses[c.edge] != 1) return;
        SourcedCurve s;
        s.curve = c.curve;
        s.key = c.key;
        s.group = c.group;
        border.push_back(std::move(s));
    });
    auto again = arrange(border, 1e-6);
    if (!again) return pass_on(again);
    for (FlatRegion& r : again->regions)
        if (std::any_of(chosen.begin(), chosen.end(),
                        [&](size_t i) { return holds(arrangement.regions[i], r.inside); }))
            result.push_back(std::move(r));
    return result;
}

namespace {

/// A region's loops with the names of their curves.
std::vector<SourcedCurve> curves_of_region(const FlatRegion& region) {
    std::vector<SourcedCurve> curves;
    auto add = [&](const BoundaryLoop& loop) {
        for (const BoundaryCurve& c : loop) {
            SourcedCurve s;
            s.curve = c.curve;
            s.key = c.key;
            curves.push_back(std::move(s));
        }
    };
    add(region.outer);
    for (const BoundaryLoop& hole : region.holes) add(hole);
    return curves;
}

Expected<std::vector<FlatRegion>> regions_within(const std::vector<SourcedCurve>& curves) {
    auto arrangement = arrange(curves, 1e-6);
    if (!arrangement) return pass_on(arrangement);
    std::vector<FlatRegion> result;
    for (FlatRegion& r : arrangement->regions)
        if (r.depth % 2 == 0) result.push_back(std::move(r));
    return result;
}

/// Whether so much is left as must be: what goes lies within the distance of the border, and a little more at corners.
bool holds_enough(const FlatRegion& region, const std::vector<FlatRegion>& moved, double by) {
    double length = 0, area = 0;
    size_t corners = 0;
    for (const SourcedCurve& c : curves_of_region(region)) {
        length += c.curve.length();
        ++corners;
    }
    for (const FlatRegion& r : moved) area += r.area_mm2;
    const double lost = by < 0 ? -by * length + 4 * by * by * double(corners) : 0;
    return area >= region.area_mm2 * (1 - 1e-6) - lost;
}

/// The second way, as polygons within a hundredth of a millimetre: curves that wave by less than the distance, as
/// traced ones do, can lose a piece on the first.
Expected<std::vector<FlatRegion>> grown_as_polygons(const FlatRegion& region, double by) {
    constexpr double grid = 1e5, within_mm = 0.01, longest_corner = 4;
    ClipperLib::Paths loops;
    auto add = [&](const BoundaryLoop& loop) {
        loops.emplace_back();
        for (const Vec2& p : flatten(curves_of(loop), within_mm / 2))
            loops.back().emplace_back(std::llround(p.x() * grid), std::llround(p.y() * grid));
    };
    add(region.outer);
    for (const BoundaryLoop& hole : region.holes) add(hole);
    ClipperLib::ClipperOffset offset(longest_corner, within_mm * grid);
    offset.AddPaths(loops, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    ClipperLib::Paths moved;
    offset.Execute(moved, by * grid);
    ClipperLib::CleanPolygons(moved, within_mm / 2 * grid);
    const std::vector<SourcedCurve> sources = curves_of_region(region);
    std::vector<SourcedCurve> lines;
    for (const ClipperLib::Path& path : moved) {
        for (size_t i = 0; path.size() > 2 && i < path.size(); ++i) {
            auto place = [&](size_t k) -> Vec2 {
                const auto& p = path[k % path.size()];
                return Vec2(double(p.X), double(p.Y)) / grid;
            };
            SourcedCurve line;
            line.curve = Curve::line(place(i), place(i + 1));
            // Named as the curve it runs along.
            const Vec2 middle = (place(i) + place(i + 1)) / 2;
            double nearest = 1e300;
            for (const SourcedCurve& s : sources)
                if (const double far = distance_to({s.curve}, middle); far < nearest) nearest = far, line.key = s.key;
            lines.push_back(std::move(line));
        }
    }
    if (lines.empty()) return std::vector<FlatRegion>{};
    return regions_within(lines);
}

} // namespace

Expected<std::vector<FlatRegion>> grown_regions(const std::vector<FlatRegion>& regions, double by) {
    if (std::fabs(by) < 1e-9) return regions;
    std::vector<FlatRegion> result;
    for (const FlatRegion& region : regions) {
        // The loops of one region: the offset takes holes the other way by itself.
        const std::vector<SourcedCurve> curves = curves_of_region(region);
        OffsetOptions options;
        options.distance_mm = by;
        auto moved = offset_curves(curves, options);
        if (!moved) return pass_on(moved);
        // Faces keep the names of the curves they grew from.
        std::map<SourceKey, SourceKey> name;
        for (const SourcedCurve& c : curves) name[Hasher(options.key).add(c.key).value()] = c.key;
        for (SourcedCurve& c : *moved)
            if (auto found = name.find(c.key); found != name.end()) c.key = found->second;
        auto grown = regions_within(*moved);
        if (!grown || !holds_enough(region, *grown, by)) grown = grown_as_polygons(region, by);
        if (!grown) return pass_on(grown);
        for (FlatRegion& r : *grown) result.push_back(std::move(r));
    }
    return result;
}

RegionChoice choice_of(const FlatRegion& region) {
    return {region.inside, sides_of(region)};
}

std::string choices_text(const std::vector<RegionChoice>& choices) {
    std::string text;
    for (const RegionChoice& c : choices) {
        if (!text.empty()) text.append("; ");
        text.push_back('(');
        text.append(format_number(c.at.x(), 3)).append(", ").append(format_number(c.at.y(), 3)).append(")");
        for (auto [key, left] : c.sides) text.append(" ").append(std::to_string(key)).append(left ? "l" : "r");
    }
    return text;
}

Expected<std::vector<RegionChoice>> choices_from_text(const std::string& text, const ParameterValues& parameters) {
    std::vector<RegionChoice> choices;
    auto wrong = [&](const std::string& part) {
        return problem(ProblemCode::Wording, "\"" + part + "\" does not say which region.",
                       "Write all, every, or places such as (12.5, 4); (3, 4).");
    };
    for (size_t from = 0; from < text.size();) {
        size_t to = std::min(text.find(';', from), text.size());
        std::string part = trimmed(text.substr(from, to - from));
        from = to + 1;
        if (part.empty()) continue;
        // The place ends at the bracket that closes the first one.
        size_t close = std::string::npos, comma = std::string::npos;
        int depth = 0;
        for (size_t i = 0; i < part.size() && close == std::string::npos; ++i) {
            if (part[i] == '(') ++depth;
            if (part[i] == ')' && --depth == 0) close = i;
            if (part[i] == ',' && depth == 1) comma = i;
        }
        if (part[0] != '(' || close == std::string::npos || comma == std::string::npos) return wrong(part);
        RegionChoice choice;
        std::string places[2] = {part.substr(1, comma - 1), part.substr(comma + 1, close - comma - 1)};
        for (int k = 0; k < 2; ++k) {
            auto value = evaluate_expression(trimmed(places[k]), QuantityKind::Length, parameters);
            if (!value) return pass_on(value);
            choice.at[k] = *value;
        }
        for (size_t i = close + 1; i < part.size();) {
            if (part[i] == ' ') {
                ++i;
                continue;
            }
            SourceKey key = 0;
            auto [end, error] = std::from_chars(part.data() + i, part.data() + part.size(), key);
            if (error != std::errc() || end == part.data() + part.size() || (*end != 'l' && *end != 'r'))
                return wrong(part);
            choice.sides.emplace_back(key, *end == 'l');
            i = size_t(end - part.data()) + 1;
        }
        std::sort(choice.sides.begin(), choice.sides.end());
        choices.push_back(std::move(choice));
    }
    if (choices.empty()) return wrong(text);
    return choices;
}

Expected<std::vector<size_t>> chosen_regions(const OutlineShape& outline, const std::string& raw) {
    std::string text = trimmed(raw);
    std::vector<size_t> chosen;
    const auto& regions = outline.arrangement.regions;
    if (text == "all" || text == "every" || text.empty()) {
        for (size_t i = 0; i < regions.size(); ++i)
            if (text == "every" || outline.filled[i]) chosen.push_back(i);
    } else {
        auto choices = choices_from_text(text, outline.parameters);
        if (!choices) return pass_on(choices);
        for (const RegionChoice& choice : *choices) {
            auto found = find_choice(outline, choice);
            if (!found) return pass_on(found);
            if (std::find(chosen.begin(), chosen.end(), *found) == chosen.end()) chosen.push_back(*found);
        }
    }
    if (!chosen.empty()) return chosen;
    // Why nothing is closed: the narrowest gap, or crossings.
    const OutlineGap* narrowest = nullptr;
    for (const OutlineGap& gap : outline.arrangement.gaps)
        if (!gap.closed && gap.size_mm > 0 && (!narrowest || gap.size_mm < narrowest->size_mm)) narrowest = &gap;
    if (narrowest) {
        Problem open{ProblemCode::Geometry,
                     "The outline is open: a gap of " + format_quantity(narrowest->size_mm, QuantityKind::Length) +
                         " at " + format_number(narrowest->at.x(), 2) + ", " + format_number(narrowest->at.y(), 2) +
                         " mm.",
                     "Join the ends there.",
                     Vec3(narrowest->at.x(), narrowest->at.y(), 0),
                     {}};
        return pass_on(open);
    }
    return problem(ProblemCode::Geometry, "The outline has no closed region.",
                   "Draw a closed line, such as a rectangle.");
}

} // namespace lp

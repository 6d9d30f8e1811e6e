// Revolve: regions of an outline turned about an axis in its plane.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/outlines/growing.h"
#include "steps/solids/profile_shape.h"
#include <charconv>

namespace lp {
namespace {

struct Axis {
    Vec2 origin = Vec2::Zero(), direction = Vec2::UnitY();
};

/// "y", "x", or "line 12" of the drawing.
Expected<Axis> find_axis(const OutlineShape& shape, const std::string& text) {
    if (text == "y" || text == "y axis") return Axis{};
    if (text == "x" || text == "x axis") return Axis{Vec2::Zero(), Vec2::UnitX()};
    std::string number = text.rfind("line ", 0) == 0 ? text.substr(5) : text;
    DrawingId id = 0;
    auto [end, error] = std::from_chars(number.data(), number.data() + number.size(), id);
    const Element* e =
        error == std::errc() && end == number.data() + number.size() ? shape.drawing.element(id) : nullptr;
    if (!e || e->kind != ElementKind::Line)
        return problem(ProblemCode::Missing, "\"" + text + "\" is no axis of the outline.",
                       "Use y, x, or a line of the drawing such as line 12.");
    auto at = [&](DrawingId p) { return p == origin_id ? Vec2(0, 0) : shape.drawing.points.at(p); };
    return Axis{at(e->points[0]), (at(e->points[1]) - at(e->points[0])).normalized()};
}

/// Where a region ends on its axis there is no surface to draw back from: it is led round on the axis's other side, so
/// that an inset leaves it there. `towards`: unit, from the axis to the drawing's side.
void reach_over_axis(FlatRegion& region, const Axis& axis, const Vec2& towards, double by) {
    BoundaryLoop loop;
    auto on_axis = [&](const Vec2& p) { return std::fabs((p - axis.origin).dot(towards)) < tolerance::same_mm; };
    for (const BoundaryCurve& c : region.outer) {
        Vec2 a = c.curve.first(), b = c.curve.last();
        if (c.curve.kind != Curve::Kind::Line || !on_axis(a) || !on_axis(b)) {
            loop.push_back(c);
            continue;
        }
        const Vec2 path[] = {a, a - by * towards, b - by * towards, b};
        for (int k = 0; k < 3; ++k) {
            loop.push_back(c);
            loop.back().curve = Curve::line(path[k], path[k + 1]);
        }
        region.area_mm2 += by * (b - a).norm();
    }
    region.outer = std::move(loop);
}

} // namespace

StepKind revolve_kind() {
    StepKind kind;
    kind.id = "revolve";
    kind.title = "Revolve";
    kind.purpose = "Turns regions of an outline about an axis in its plane.";
    kind.fields =
        growing_fields({{"axis", FieldKind::Text, "y", 0, 0, {}, "y, x, or a line of the drawing"},
                        {"angle", FieldKind::Angle, "360 deg", -360, 360, {}, "how far round"},
                        {"from", FieldKind::Angle, "0 deg", -360, 360, {}, "begins this far round from the drawing"}});
    kind.sentence = "Revolve {regions} of {outline} about {axis} by {angle}[, from {from}], {does}";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"lathe", "turn", "spin"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Region, .place = 30, .hint = "about the drawing's upright axis, or another"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto source = find_regions_to_grow(context);
        if (!source) return pass_on(source);
        std::vector<FlatRegion> regions = std::move(source->regions);
        const Transform& plane = source->outline->plane;
        auto axis = find_axis(*source->outline->shape, context.word("axis"));
        if (!axis) return pass_on(axis);
        double angle = context.number("angle"), g = context.growth_mm;
        if (g != 0) {
            if (std::fabs(angle) < 360 - 1e-9)
                return problem(ProblemCode::Geometry, "A body turned by less than 360° cannot carry a gap.",
                               "Turn it all the way, or cut with another shape.");
            // The side the drawing lies on; what grows over the axis is cut off there.
            Vec2 direction = axis->direction;
            for (const FlatRegion& r : regions)
                if (cross2(direction, r.inside - axis->origin) < 0) direction = -direction;
            if (g < 0)
                for (FlatRegion& r : regions)
                    reach_over_axis(r, *axis, Vec2(-direction.y(), direction.x()).normalized(), 1 - 2 * g);
            auto grown = grown_regions(regions, g);
            if (!grown) return pass_on(grown);
            auto kept = regions_beside_axis(*grown, axis->origin, direction);
            if (!kept) return pass_on(kept);
            regions = std::move(*kept);
        }
        auto made = revolved_body(regions, axis->origin, axis->direction, context.number("from"), angle, plane,
                                  context.source());
        if (!made) return pass_on(made);
        auto result = apply_solid(before, *made, context);
        if (result) result->place = StepPlace{plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp

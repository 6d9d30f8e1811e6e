// Solids from a fixed profile: half-sphere, wedge, pyramid, ring and dome.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/formula_curve.h"
#include "steps/profile_shape.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

const double far = tolerance::largest_mm;

StepField length(const char* name, const char* standard, const char* hint, double low = tolerance::smallest_mm) {
    return {name, FieldKind::Length, standard, low, far, {}, hint};
}

StepKind start(const char* id, const char* title, const char* purpose, std::vector<StepField> own, bool along = true) {
    StepKind kind;
    kind.id = id;
    kind.title = title;
    kind.purpose = purpose;
    kind.fields = std::move(own);
    for (const StepField& field : placing_fields())
        if (field.name != "from" && (along || field.name != "along")) kind.fields.push_back(field);
    return kind;
}

constexpr const char* placing = " at {at_x}, {at_y}, {at_z}[ on {on}], along {along}, {does}";

} // namespace

StepKind half_sphere_kind() {
    StepKind kind =
        start("half_sphere", "Half-sphere", "Half a ball on its flat side.", {length("diameter", "20 mm", "across")});
    kind.sentence = std::string("Half-sphere {diameter} across,") + placing;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double r = context.number("diameter") / 2;
        return place_solid(before, context, 0, [&](const Transform& at) {
            std::vector<Curve> profile{Curve::line({0, 0}, {r, 0}), Curve::arc({0, 0}, r, 0, std::numbers::pi / 2),
                                       Curve::line({0, r}, {0, 0})};
            return turned_profile(profile, context.growth_mm, at, {context.step_id, context.copy});
        });
    };
    return kind;
}

StepKind ring_kind() {
    StepKind kind =
        start("ring", "Ring", "A round ring: a torus, or flat with square edges.",
              {length("diameter", "30 mm", "outside, across"),
               length("thickness", "5 mm", "of the ring, outside to inside"),
               {"section", FieldKind::Choice, "round", 0, 0, {"round", "square"}, "of the ring when cut through"},
               length("height", "5 mm", "of a square section")});
    kind.sentence = std::string("Ring {diameter} across, {thickness} thick, {section}[, {height} high],") + placing;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double outer = context.number("diameter") / 2, t = context.number("thickness"), h = context.number("height");
        bool round = context.word("section") == "round";
        if (t > outer + 1e-9)
            return problem(ProblemCode::Range,
                           "The ring is " + format_quantity(t, QuantityKind::Length) + " thick and only " +
                               format_quantity(2 * outer, QuantityKind::Length) + " across.",
                           "Make it thinner, or wider across.");
        return place_solid(before, context, 0, [&](const Transform& at) {
            std::vector<Curve> profile;
            if (round) {
                profile = {Curve::circle({outer - t / 2, t / 2}, t / 2)};
            } else {
                double inner = outer - t;
                profile = {Curve::line({inner, 0}, {outer, 0}), Curve::line({outer, 0}, {outer, h}),
                           Curve::line({outer, h}, {inner, h}), Curve::line({inner, h}, {inner, 0})};
            }
            return turned_profile(profile, context.growth_mm, at, {context.step_id, context.copy});
        });
    };
    return kind;
}

StepKind dome_kind() {
    StepKind kind = start("dome", "Dome", "A paraboloid on its flat side.",
                          {length("diameter", "30 mm", "across at the foot"), length("height", "12 mm", "of its top")});
    kind.sentence = std::string("Dome {diameter} across, {height} high,") + placing;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double r = context.number("diameter") / 2, h = context.number("height");
        return place_solid(before, context, 0, [&](const Transform& at) {
            // z = h (1 - x^2 / r^2): a parabola is a quadratic Bezier curve, exactly.
            std::vector<Curve> profile{Curve::line({0, 0}, {r, 0}), Curve::quadratic({r, 0}, {r / 2, h}, {0, h}),
                                       Curve::line({0, h}, {0, 0})};
            return turned_profile(profile, context.growth_mm, at, {context.step_id, context.copy});
        });
    };
    return kind;
}

StepKind wedge_kind() {
    StepKind kind =
        start("wedge", "Wedge", "A block whose top is shorter on one side.",
              {length("size_x", "20 mm", "length of the foot"), length("size_y", "20 mm", "width"),
               length("size_z", "10 mm", "height"), length("top_x", "0 mm", "length of the top; 0 for an edge", 0)});
    kind.sentence = std::string("Wedge {size_x} by {size_y}, {size_z} high[, {top_x} long on top],") + placing;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double x = context.number("size_x"), y = context.number("size_y"), z = context.number("size_z"),
               top = context.number("top_x"), g = context.growth_mm;
        return place_solid(before, context, 0, [&](const Transform& at) -> Expected<Body> {
            // The side seen from the front, raised to the back by its width; the foot's middle is the local origin.
            std::vector<Vec2> p{{-x / 2, 0}, {x / 2, 0}};
            if (top >= tolerance::smallest_mm) p.push_back({-x / 2 + top, z});
            p.push_back({-x / 2, z});
            std::vector<Curve> side;
            for (size_t i = 0; i < p.size(); ++i) side.push_back(Curve::line(p[i], p[(i + 1) % p.size()]));
            auto regions = region_of(side);
            if (!regions) return tl::make_unexpected(regions.error());
            regions = grown_regions(*regions, g);
            if (!regions) return tl::make_unexpected(regions.error());
            Transform upright = at;
            upright.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
            return raised_body(*regions, -y / 2 - g, y / 2 + g, 0, upright, {context.step_id, context.copy});
        });
    };
    return kind;
}

StepKind pyramid_kind() {
    StepKind kind = start("pyramid", "Pyramid", "A foot with any number of sides, rising to a point or a smaller top.",
                          {{"sides", FieldKind::Count, "4", 3, 360, {}, "of the foot"},
                           length("across", "20 mm", "of the foot, over flats"),
                           length("height", "15 mm", "of the top"),
                           length("top_across", "0 mm", "of the top, over flats; 0 for a point", 0)});
    kind.sentence =
        std::string("Pyramid with {sides} sides, {across} across, {height} high[, {top_across} across on top],") +
        placing;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int sides = int(std::lround(context.number("sides")));
        double a = context.number("across") / 2, b = context.number("top_across") / 2, h = context.number("height"),
               g = context.growth_mm;
        if (b > a - 1e-6)
            return problem(ProblemCode::Range, "A pyramid is narrower on top than at its foot.",
                           "Use a prism, or turn it over.");
        return place_solid(before, context, 0, [&](const Transform& at) -> Expected<Body> {
            // Walls lean by this angle; growing moves them out along their normals and the flat ends along the axis.
            double lean = (a - b) / h, out = g * std::sqrt(1 + lean * lean), foot = a + lean * g + out;
            double full = foot / lean, wanted = h + 2 * g, height = b < 1e-9 && g <= 0 ? full : std::min(wanted, full);
            bool point = height >= full - 1e-6;
            Transform low = at;
            low.translate(Vec3(0, 0, -g));
            return make_pyramid(sides, foot, point ? 0 : foot - lean * height, point ? full : height, low,
                                {context.step_id, context.copy});
        });
    };
    return kind;
}

} // namespace lp

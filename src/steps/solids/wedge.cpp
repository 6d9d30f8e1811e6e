// A block whose top is shorter on one side.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind wedge_kind() {
    StepKind kind = profile_solid("wedge", "Wedge", "A block whose top is shorter on one side.",
                                  {solid_length("size_x", "20 mm", "length of the foot"),
                                   solid_length("size_y", "20 mm", "width"), solid_length("size_z", "10 mm", "height"),
                                   solid_length("top_x", "0 mm", "length of the top; 0 for an edge", 0)});
    kind.sentence =
        std::string("Wedge {size_x} by {size_y}, {size_z} high[, {top_x} long on top],") + profile_solid_place;
    kind.group = StepGroup::Solids;
    kind.synonyms = {"ramp"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double x = context.number("size_x"), y = context.number("size_y"), z = context.number("size_z"),
               top = context.number("top_x"), g = context.growth_mm;
        return place_solid(before, context, 0,
                           [&](const Transform& at) -> Expected<Body> {
                               // The side seen from the front, raised to the back by its width; the foot's middle is
                               // the local origin.
                               std::vector<Vec2> p{{-x / 2, 0}, {x / 2, 0}};
                               if (top >= tolerance::smallest_mm) p.push_back({-x / 2 + top, z});
                               p.push_back({-x / 2, z});
                               std::vector<Curve> side;
                               for (size_t i = 0; i < p.size(); ++i)
                                   side.push_back(Curve::line(p[i], p[(i + 1) % p.size()]));
                               auto regions = region_of(side);
                               if (!regions) return pass_on(regions);
                               regions = grown_regions(*regions, g);
                               if (!regions) return pass_on(regions);
                               Transform upright = at;
                               upright.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
                               return raised_body(*regions, -y / 2 - g, y / 2 + g, 0, upright, context.source());
                           },
                           {size_both_ways("size_x", Vec3::Zero(), Vec3::UnitX()),
                            size_both_ways("size_y", Vec3::Zero(), Vec3::UnitY()),
                            size_one_way("size_z", {-x / 2, 0, 0}, Vec3::UnitZ())});
    };
    return kind;
}

} // namespace lp

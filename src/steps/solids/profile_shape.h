// Regions of an outline as faces of the kernel, and the solids made of them. Included only by steps/*.cpp.
#pragma once
#include "outline/outline_shape.h"
#include "shape/exact_shape.h"
#include "shape/exact_solids.h"
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>

namespace lp {

struct ProfileEdge {
    TopoDS_Edge edge;
    SourceKey key = 0;
    Curve curve;
};
struct ProfileLoop {
    TopoDS_Wire wire;
    std::vector<ProfileEdge> edges;
};
struct ProfileFace {
    TopoDS_Face face; ///< in the plane z = 0, looking up
    ProfileLoop outer;
    std::vector<ProfileLoop> holes;
    double area_mm2 = 0;
    Box2 box;
};

/// One wire of a closed or open chain, on shared vertices.
ProfileLoop profile_loop(const BoundaryLoop& loop, bool closed);
/// Throws what the kernel throws: call it inside guard_kernel.
Expected<std::vector<ProfileFace>> profile_faces(const std::vector<FlatRegion>& regions);

/// A body of all solids with their tags; checked: closed, sound, and with a volume within `share` of the wanted one
/// when that is known.
Expected<Body> finish_profile_body(std::shared_ptr<ExactShape> shape, const Transform& plane,
                                   std::optional<double> volume_mm3, double share, const char* what);
/// Several solids as one compound with the tags of all.
std::shared_ptr<ExactShape> gather(const std::vector<ExactShape>& solids);

/// Straight up from z = low to z = high, walls leaning in by `draft_deg` from the plane z = 0.
Expected<Body> raised_body(const std::vector<FlatRegion>& regions, double low, double high, double draft_deg,
                           const Transform& plane, TagSource tags);
/// Turned about the axis through `origin` along `direction` in the plane, by angle degrees from `from_deg`. Regions
/// must lie on one side.
Expected<Body> revolved_body(const std::vector<FlatRegion>& regions, const Vec2& origin, const Vec2& direction,
                             double from_deg, double angle_deg, const Transform& plane, TagSource tags);
/// The one region inside a closed chain of curves.
Expected<std::vector<FlatRegion>> region_of(const std::vector<Curve>& curves);
/// A closed profile (x: radius, y: along the axis) turned about the z axis of `at`; with every face moved outward by
/// `growth_mm`, which is the exact envelope at that distance with mitred edges.
Expected<Body> turned_profile(const std::vector<Curve>& profile, double growth_mm, const Transform& at, TagSource tags);
/// Regions cut off at the axis: what lies to the left of it is kept.
Expected<std::vector<FlatRegion>> regions_beside_axis(const std::vector<FlatRegion>& regions, const Vec2& origin,
                                                      const Vec2& direction);

} // namespace lp

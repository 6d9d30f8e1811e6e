#include "steps/edges/face_border.h"
#include <polyclipping/clipper.hpp>

namespace lp {

Expected<std::vector<FlatRegion>> border_of_face(const Tessellation& t, size_t face, const Transform& frame,
                                                 double inset_mm) {
    constexpr double grid = 1e5;
    const Transform back = frame.inverse();
    ClipperLib::Clipper clipper;
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
        if (t.face_of[i] != face) continue;
        ClipperLib::Path path;
        for (int k = 0; k < 3; ++k) {
            const Vec3 p = back * t.mesh.corner(i, k);
            path.push_back({std::llround(p.x() * grid), std::llround(p.y() * grid)});
        }
        if (!ClipperLib::Orientation(path)) std::reverse(path.begin(), path.end());
        clipper.AddPath(path, ClipperLib::ptSubject, true);
    }
    ClipperLib::Paths border, moved;
    clipper.Execute(ClipperLib::ctUnion, border, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    ClipperLib::CleanPolygons(border, 2); // corners of facets along straight edges
    ClipperLib::ClipperOffset offset(4);
    offset.AddPaths(border, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    offset.Execute(moved, -inset_mm * grid);
    std::vector<SourcedCurve> curves;
    for (const ClipperLib::Path& path : moved)
        for (size_t i = 0; i < path.size(); ++i) {
            auto place = [&](size_t k) -> Vec2 { return Vec2(double(path[k].X), double(path[k].Y)) / grid; };
            SourcedCurve curve;
            curve.curve = Curve::line(place(i), place((i + 1) % path.size()));
            curve.key = curves.size() + 1;
            curves.push_back(curve);
        }
    if (curves.empty())
        return problem(ProblemCode::Range, "Inside that margin nothing is left of the face.", "Make it narrower.");
    auto drawn = arrange(curves);
    if (!drawn) return pass_on(drawn);
    std::vector<FlatRegion> regions;
    for (FlatRegion& region : drawn->regions)
        if (region.depth % 2 == 0) regions.push_back(std::move(region)); // between are its holes
    return regions;
}

} // namespace lp

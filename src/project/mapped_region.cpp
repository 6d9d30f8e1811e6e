#include "project/mapped_region.h"
#include "base/union_find.h"

namespace lp {

Box3 mapped_region(const std::vector<SurfaceMap>& maps, const Evaluation& evaluation, const Vec3& place) {
    Box3 best;
    double nearest = std::numeric_limits<double>::infinity();
    for (const SurfaceMap& map : maps) {
        const PartResult* part = evaluation.part(map.part);
        if (!part || !map.shape || !map.values) continue;
        const TriMesh& mesh = map.shape->mesh;
        auto faces_something = [&](size_t facet) {
            const float* gaps = map.values->data() + 3 * facet;
            return gaps[0] >= 0 || gaps[1] >= 0 || gaps[2] >= 0;
        };
        UnionFind joined(mesh.vertices.size());
        std::optional<uint32_t> here;
        const Vec3 at = part->place.inverse() * place;
        for (size_t i = 0; i < mesh.triangles.size() && 3 * i + 2 < map.values->size(); ++i) {
            if (!faces_something(i)) continue;
            const Triangle& t = mesh.triangles[i];
            joined.join(t[0], t[1]);
            joined.join(t[0], t[2]);
            double d = ((mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3 - at).norm();
            if (d >= nearest) continue;
            nearest = d;
            here = t[0];
        }
        if (!here) continue;
        best = Box3();
        for (size_t i = 0; i < mesh.triangles.size() && 3 * i + 2 < map.values->size(); ++i)
            if (faces_something(i) && joined.find(mesh.triangles[i][0]) == joined.find(*here))
                for (int k = 0; k < 3; ++k) best.extend(part->place * mesh.corner(i, k));
    }
    return best;
}

} // namespace lp

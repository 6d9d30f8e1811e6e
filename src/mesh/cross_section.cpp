#include "mesh/cross_section.h"
#include <algorithm>
#include <unordered_map>

namespace lp {

std::vector<std::vector<Vec2>> cross_section(const TriMesh& mesh, const Transform& plane) {
    const Transform to_plane = plane.inverse();
    std::vector<Vec3> flat;
    flat.reserve(mesh.vertices.size());
    for (const Vec3& v : mesh.vertices) flat.push_back(to_plane * v);
    // Every facet that crosses has one edge by which the outline comes in and one by which it leaves.
    auto key = [](uint32_t a, uint32_t b) { return uint64_t(std::min(a, b)) << 32 | std::max(a, b); };
    std::unordered_map<uint64_t, uint64_t> next;
    for (const Triangle& t : mesh.triangles) {
        uint64_t in = 0, out = 0;
        int crossed = 0;
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t a = t[k], b = t[(k + 1) % 3];
            const bool above_a = flat[a].z() >= 0, above_b = flat[b].z() >= 0;
            if (above_a == above_b) continue;
            ++crossed;
            (above_a ? in : out) = key(a, b);
        }
        if (crossed == 2) next[in] = out;
    }
    auto place = [&](uint64_t edge) {
        const Vec3 &a = flat[edge >> 32], &b = flat[uint32_t(edge)];
        const double t = a.z() / (a.z() - b.z());
        return Vec2((a + t * (b - a)).head<2>());
    };
    std::vector<std::vector<Vec2>> loops;
    while (!next.empty()) {
        const uint64_t start = next.begin()->first;
        std::vector<Vec2> loop;
        uint64_t at = start;
        do {
            const auto found = next.find(at);
            if (found == next.end()) break;
            loop.push_back(place(at));
            at = found->second;
            next.erase(found);
        } while (at != start);
        if (at == start && loop.size() > 2) loops.push_back(std::move(loop));
    }
    return loops;
}

} // namespace lp

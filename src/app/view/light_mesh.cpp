#include "app/view/light_mesh.h"
#include <unordered_map>

namespace lp {

LightMesh light_mesh(const Tessellation& shape, int cells) {
    LightMesh light;
    const TriMesh& mesh = shape.mesh;
    Box3 box;
    for (const Vec3& v : mesh.vertices)
        if (v.allFinite()) box.extend(v);
    if (box.isEmpty()) return light;
    const double cell = std::max(1e-9, box.sizes().maxCoeff() / cells);
    std::unordered_map<uint64_t, uint32_t> numbers; // of each cell with a corner in it
    std::vector<uint32_t> cell_of(mesh.vertices.size());
    std::vector<double> corners;
    for (size_t i = 0; i < mesh.vertices.size(); ++i) {
        const Vec3 v = mesh.vertices[i].allFinite() ? mesh.vertices[i] : box.min();
        const Vec3 at = (v - box.min()) / cell;
        const uint64_t key = (uint64_t(at.x()) << 42) | (uint64_t(at.y()) << 21) | uint64_t(at.z());
        auto [entry, fresh] = numbers.emplace(key, uint32_t(light.mesh.vertices.size()));
        if (fresh) {
            light.mesh.vertices.push_back(Vec3::Zero());
            corners.push_back(0);
        }
        cell_of[i] = entry->second;
        light.mesh.vertices[entry->second] += v;
        corners[entry->second] += 1;
    }
    for (size_t i = 0; i < corners.size(); ++i) light.mesh.vertices[i] /= corners[i];
    std::unordered_map<uint64_t, int> seen; // the same three cells once, whichever way round
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const auto& t = mesh.triangles[i];
        uint32_t a = cell_of[t[0]], b = cell_of[t[1]], c = cell_of[t[2]];
        if (a == b || b == c || c == a) continue;
        uint32_t sorted[] = {a, b, c};
        std::sort(sorted, sorted + 3);
        if (seen[(uint64_t(sorted[0]) << 42) ^ (uint64_t(sorted[1]) << 21) ^ sorted[2]]++) continue;
        light.mesh.triangles.push_back({a, b, c});
        light.face_of.push_back(shape.face_of[i]);
    }
    return light;
}

} // namespace lp

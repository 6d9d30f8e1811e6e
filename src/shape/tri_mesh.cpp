#include "shape/tri_mesh.h"
#include "base/hash.h"
#include <algorithm>
#include <cmath>
#include <cstring>

namespace lp {

MassProperties mass_properties(const TriMesh& mesh) {
    MassProperties result;
    if (mesh.empty()) return result;
    // Summed about the box's centre, so that a small part far from the origin keeps its digits.
    Vec3 base = bounding_box(mesh).center();
    Vec3 moment = Vec3::Zero(), surface_moment = Vec3::Zero();
    double six_volume = 0, two_area = 0;
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        Vec3 a = mesh.corner(i, 0) - base, b = mesh.corner(i, 1) - base, c = mesh.corner(i, 2) - base;
        double six = a.dot(b.cross(c));
        double two = (b - a).cross(c - a).norm();
        six_volume += six;
        two_area += two;
        moment += six * (a + b + c) / 4;
        surface_moment += two * (a + b + c) / 3;
    }
    result.volume_mm3 = six_volume / 6;
    result.area_mm2 = two_area / 2;
    if (std::fabs(six_volume) > 1e-12)
        result.centre = base + moment / six_volume;
    else if (two_area > 0)
        result.centre = base + surface_moment / two_area;
    else
        result.centre = base;
    return result;
}

Box3 bounding_box(const TriMesh& mesh) {
    Box3 box;
    for (const Triangle& t : mesh.triangles)
        for (uint32_t v : t) box.extend(mesh.vertices[v]);
    return box;
}

TriMesh transformed(const TriMesh& mesh, const Transform& move) {
    TriMesh result = mesh;
    for (Vec3& v : result.vertices) v = move * v;
    return result;
}

void append(TriMesh& mesh, const TriMesh& more) {
    bool tags = mesh.tags.size() == mesh.triangles.size() && more.tags.size() == more.triangles.size();
    auto base = static_cast<uint32_t>(mesh.vertices.size());
    mesh.vertices.insert(mesh.vertices.end(), more.vertices.begin(), more.vertices.end());
    // No exact reserve: of a hundred thousand small ones each would move all before it.
    for (const Triangle& t : more.triangles) mesh.triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
    if (tags)
        mesh.tags.insert(mesh.tags.end(), more.tags.begin(), more.tags.end());
    else
        mesh.tags.clear();
}

TriMesh welded(const TriMesh& mesh, std::vector<uint32_t>* old_to_new) {
    constexpr uint32_t none = ~0u;
    TriMesh result;
    result.tags = mesh.tags;
    std::vector<uint32_t> map(mesh.vertices.size(), none);
    // Open addressing on the bits of the coordinates: a third of the time of a node-based map at a million facets.
    size_t slots = 16;
    while (slots < mesh.vertices.size() * 2) slots *= 2;
    std::vector<uint32_t> table(slots, none);
    result.vertices.reserve(mesh.vertices.size() / 4 + 8);
    auto find = [&](uint32_t old) {
        if (map[old] != none) return map[old];
        Vec3 p = mesh.vertices[old];
        for (int k = 0; k < 3; ++k)
            if (p[k] == 0) p[k] = 0; // -0 and 0 are one place
        size_t slot = hash_bytes(p.data(), sizeof(double) * 3) & (slots - 1);
        while (table[slot] != none && std::memcmp(result.vertices[table[slot]].data(), p.data(), 24) != 0)
            slot = (slot + 1) & (slots - 1);
        if (table[slot] == none) {
            table[slot] = static_cast<uint32_t>(result.vertices.size());
            result.vertices.push_back(p);
        }
        return map[old] = table[slot];
    };
    result.triangles.reserve(mesh.triangles.size());
    for (const Triangle& t : mesh.triangles) {
        uint32_t a = find(t[0]), b = find(t[1]),
                 c = find(t[2]); // in this order: initialisers may be evaluated so, calls not
        result.triangles.push_back({a, b, c});
    }
    if (old_to_new) *old_to_new = std::move(map);
    return result;
}

TriMesh box_mesh(const Vec3& a, const Vec3& b) {
    TriMesh mesh;
    for (int i = 0; i < 8; ++i)
        mesh.vertices.push_back({i & 1 ? b.x() : a.x(), i & 2 ? b.y() : a.y(), i & 4 ? b.z() : a.z()});
    mesh.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4},
                      {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
    return mesh;
}

bool is_closed(const TriMesh& mesh) {
    std::vector<std::pair<uint64_t, int>> turns;
    turns.reserve(mesh.triangles.size() * 3);
    for (const Triangle& t : mesh.triangles)
        for (size_t k = 0; k < 3; ++k) {
            uint64_t a = t[k], b = t[(k + 1) % 3];
            turns.emplace_back(std::min(a, b) << 32 | std::max(a, b), a < b ? 1 : -1);
        }
    std::sort(turns.begin(), turns.end());
    for (size_t i = 0; i < turns.size();) {
        int sum = 0;
        uint64_t edge = turns[i].first;
        for (; i < turns.size() && turns[i].first == edge; ++i) sum += turns[i].second;
        if (sum) return false;
    }
    return true;
}

} // namespace lp

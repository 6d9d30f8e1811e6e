#include "mesh/refine.h"
#include <unordered_map>

namespace lp {

Expected<TriMesh> refined(const TriMesh& mesh,
                          const std::function<double(const Vec3& at, const Vec3& along)>& longest_mm,
                          const Task& task) {
    constexpr size_t most = 5'000'000;
    const auto too_many = [] {
        return problem(ProblemCode::Range, "This needs more than five million facets.",
                       "Use a smaller angle or body, or a coarser tolerance.");
    };
    // What cannot be done is refused before it is tried: facets with edges as long as allowed would fill the surface.
    double wanted = 0;
    for (size_t i = 0; i < mesh.triangles.size() && wanted < 4.0 * most; ++i) {
        double parts = 1;
        for (int k = 0; k < 3; ++k) {
            const Vec3 d = mesh.corner(i, (k + 1) % 3) - mesh.corner(i, k);
            const double limit =
                longest_mm((mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3, d.normalized());
            if (d.norm() > limit) parts *= std::max(1.0, std::sqrt(d.norm() / std::max(limit, 1e-9)));
        }
        wanted += parts;
    }
    if (wanted >= 4.0 * most) return too_many();
    TriMesh now = mesh;
    bool tagged = mesh.tags.size() == mesh.triangles.size(), torn = false;
    for (int round = 0; round < 24; ++round) {
        if (task.stopped()) return cancelled();
        std::unordered_map<uint64_t, uint32_t> middles;
        auto key = [](uint32_t a, uint32_t b) { return uint64_t(std::min(a, b)) << 32 | std::max(a, b); };
        auto middle = [&](uint32_t a, uint32_t b) -> uint32_t { // ~0u: the edge is short enough
            auto [it, fresh] = middles.try_emplace(key(a, b), ~0u);
            if (fresh) {
                // Both sides ask in the same order: the answer must not depend on it.
                const Vec3 &p = now.vertices[std::min(a, b)], &q = now.vertices[std::max(a, b)];
                Vec3 d = q - p;
                const double limit = longest_mm((p + q) / 2, d.normalized());
                // No tolerance asks for that: the map has a place it tears at, and halving would go on there.
                torn = torn || (limit < 1e-3 && d.norm() > limit);
                if (d.norm() > limit) {
                    it->second = uint32_t(now.vertices.size());
                    Vec3 m = (p + q) / 2;
                    now.vertices.push_back(m);
                }
            }
            return it->second;
        };
        std::vector<Triangle> triangles;
        std::vector<Tag> tags;
        triangles.reserve(now.triangles.size() * 2);
        bool parted = false;
        for (size_t i = 0; i < now.triangles.size(); ++i) {
            const Triangle t = now.triangles[i];
            uint32_t m[3];
            int count = 0;
            for (int k = 0; k < 3; ++k) {
                m[k] = middle(t[size_t(k)], t[size_t((k + 1) % 3)]);
                count += m[k] != ~0u;
            }
            auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
                triangles.push_back({a, b, c});
                if (tagged) tags.push_back(now.tags[i]);
            };
            parted = parted || count;
            if (count == 0) {
                add(t[0], t[1], t[2]);
            } else if (count == 3) {
                add(t[0], m[0], m[2]);
                add(m[0], t[1], m[1]);
                add(m[2], m[1], t[2]);
                add(m[0], m[1], m[2]);
            } else {
                // Turned so that the first edge is parted and, of two, the second as well.
                int k = 0;
                while (m[k] == ~0u || (count == 2 && m[(k + 1) % 3] == ~0u)) ++k;
                uint32_t a = t[size_t(k)], b = t[size_t((k + 1) % 3)], c = t[size_t((k + 2) % 3)], ab = m[k];
                if (count == 1) {
                    add(a, ab, c);
                    add(ab, b, c);
                } else {
                    uint32_t bc = m[(k + 1) % 3];
                    add(ab, b, bc);
                    // The shorter diagonal of what is left.
                    if ((now.vertices[a] - now.vertices[bc]).squaredNorm() <
                        (now.vertices[ab] - now.vertices[c]).squaredNorm()) {
                        add(a, ab, bc);
                        add(a, bc, c);
                    } else {
                        add(a, ab, c);
                        add(ab, bc, c);
                    }
                }
            }
        }
        now.triangles.swap(triangles);
        now.tags.swap(tags);
        if (!parted) return now;
        if (torn || now.triangles.size() > most) return too_many();
    }
    return now;
}

TriMesh parted_at(const TriMesh& mesh, int axis, double place) {
    TriMesh result;
    result.vertices = mesh.vertices;
    bool tagged = mesh.tags.size() == mesh.triangles.size();
    auto side = [&](uint32_t v) {
        double d = mesh.vertices[v][axis] - place;
        return std::fabs(d) < 1e-6 ? 0 : d < 0 ? -1 : 1;
    };
    std::unordered_map<uint64_t, uint32_t> crossings;
    auto crossing = [&](uint32_t a, uint32_t b) { // both facets of an edge get the same vertex
        if (a > b) std::swap(a, b);
        auto [it, fresh] = crossings.try_emplace(uint64_t(a) << 32 | b, uint32_t(result.vertices.size()));
        if (fresh) {
            const Vec3 &p = mesh.vertices[a], &q = mesh.vertices[b];
            Vec3 x = p + (place - p[axis]) / (q[axis] - p[axis]) * (q - p);
            x[axis] = place;
            result.vertices.push_back(x);
        }
        return it->second;
    };
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const Triangle& t = mesh.triangles[i];
        // Round the facet: its corners, and where it crosses; each side's share is convex and fanned.
        std::vector<uint32_t> low, high;
        for (size_t k = 0; k < 3; ++k) {
            uint32_t a = t[k], b = t[(k + 1) % 3];
            int s = side(a);
            if (s <= 0) low.push_back(a);
            if (s >= 0) high.push_back(a);
            if (s * side(b) < 0) {
                uint32_t x = crossing(a, b);
                low.push_back(x);
                high.push_back(x);
            }
        }
        const bool all_on = side(t[0]) == 0 && side(t[1]) == 0 && side(t[2]) == 0;
        for (const auto* share : {&low, &high}) {
            if (all_on && share == &high) break;
            for (size_t k = 2; k < share->size(); ++k) {
                result.triangles.push_back({(*share)[0], (*share)[k - 1], (*share)[k]});
                if (tagged) result.tags.push_back(mesh.tags[i]);
            }
        }
    }
    return result;
}

} // namespace lp

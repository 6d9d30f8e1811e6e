#include "project/surface_map.h"
#include "check/overhang.h"
#include "check/walls.h"
#include "mesh/refine.h"
#include <atomic>
#include <tbb/parallel_for.h>

namespace lp {

std::vector<SurfaceMap> gap_maps(const Evaluation& evaluation, const ContactResult& contact, const Task& task) {
    std::vector<SurfaceMap> maps;
    const PartResult* host = evaluation.part(contact.part_b);
    ContactLedger ledger;
    auto other = ledger.measured(evaluation, {contact.part_a, contact.body_a, contact.a});
    if (!host || !other) return maps;
    const double wanted = contact.wanted ? std::max(0.05, contact.wanted->gap_mm) : 0.3;
    const double reach = std::max(near_mm, 3 * wanted);
    for (size_t i = 0; i < host->bodies.size(); ++i) {
        if (contact.body_b && *contact.body_b != i) continue;
        const TriMesh& drawn = host->bodies[i].body.mesh();
        Box3 near = other->tree.box();
        near.min().array() -= reach;
        near.max().array() += reach;
        // Facets of about a third of a millimetre where the other side is near; the rest stays coarse.
        auto finer = refined(
            drawn,
            [&](const Vec3& at, const Vec3&) {
                Vec3 p = host->place * at;
                if (!near.contains(p)) return 1e9;
                double d = other->tree.closest(p, reach + 4).distance_mm;
                return d > reach + 4 ? 1e9 : d > reach ? 4.0 : 0.5;
            },
            task);
        if (!finer || task.stopped()) continue;
        SurfaceMap map;
        map.part = contact.part_b;
        map.body = i;
        auto shape = std::make_shared<Tessellation>(segment_mesh(std::move(*finer)));
        auto gaps = std::make_shared<std::vector<float>>(shape->mesh.triangles.size() * 3, -1.0f);
        std::atomic<bool> any{false};
        tbb::parallel_for(size_t(0), shape->mesh.triangles.size(), [&](size_t t) {
            Vec3 normal = host->place.linear() * shape->mesh.area_vector(t).normalized();
            for (int k = 0; k < 3; ++k) {
                Vec3 p = host->place * shape->mesh.corner(t, k);
                ClosestPoint hit = other->tree.closest(p, reach);
                if (hit.triangle == ~0u) continue;
                if ((hit.point - p).dot(normal) < 0.3 * hit.distance_mm && hit.distance_mm > 0.002) continue;
                (*gaps)[3 * t + size_t(k)] = float(hit.distance_mm);
                any = true;
            }
        });
        if (!any) continue;
        map.title = "Gap";
        map.unit = "mm";
        map.high = 2 * wanted;
        map.contour = map.high > 0.8 ? 0.1 : 0.05;
        map.shape = shape;
        map.values = gaps;
        maps.push_back(std::move(map));
    }
    return maps;
}

std::vector<SurfaceMap> hanging_maps(const PartResult& part, const Transform& pose, double limit_deg) {
    std::vector<SurfaceMap> maps;
    for (size_t i = 0; i < part.bodies.size(); ++i) {
        SurfaceMap map;
        map.part = part.part;
        map.body = i;
        map.shape = part.bodies[i].body.shared_tessellation();
        map.scale = SurfaceMap::Scale::Hanging;
        map.title = "Hangs";
        map.unit = "°";
        map.high = 90;
        map.contour = 0;
        map.limit = limit_deg;
        map.decimals = 0;
        auto values = std::make_shared<std::vector<float>>(map.shape->normals.size() * 3);
        for (size_t t = 0; t < map.shape->normals.size(); ++t)
            for (size_t k = 0; k < 3; ++k)
                (*values)[3 * t + k] = float(hang_angle_deg(pose.linear() * map.shape->normals[t][k]));
        map.values = values;
        maps.push_back(std::move(map));
    }
    return maps;
}

std::vector<SurfaceMap> wall_maps(const PartResult& part, double nozzle_mm, const Task& task) {
    constexpr double lines_shown = 8;
    std::vector<SurfaceMap> maps;
    for (size_t i = 0; i < part.bodies.size(); ++i) {
        task.tell("Measuring walls", double(i) / double(part.bodies.size()));
        const double high = lines_shown * nozzle_mm;
        auto walls = map_walls(part.bodies[i].body.mesh(),
                               {.cap_mm = std::max(6.0, 1.25 * high), .longest_facet_mm = 0.6}, task);
        if (!walls) return {};
        maps.push_back({.part = part.part,
                        .body = i,
                        .shape = std::make_shared<const Tessellation>(segment_mesh(std::move(walls->facets))),
                        .values = std::make_shared<const std::vector<float>>(std::move(walls->mm)),
                        .title = "Wall",
                        .unit = "mm",
                        .high = high,
                        .contour = nozzle_mm,
                        .limit = 2 * nozzle_mm});
    }
    return maps;
}

} // namespace lp

#include "app/view/picker.h"

namespace lp {

void Picker::set_scene(const Scene& scene) {
    entries_.clear();
    std::vector<PlacedShape> bodies;
    for (const SceneBody& b : scene.bodies) {
        if (only_looked_at(b)) continue;
        entries_.push_back({b.part, b.body, b.shape, b.place});
        bodies.push_back({b.shape, b.place});
    }
    rays_.set(std::move(bodies));
}

bool Picker::ready() const {
    return entries_.empty() || rays_.get();
}

void Picker::begin() const {
    rays_.begin();
}

std::vector<Pick> Picker::candidates(const Scene& scene, const Camera& camera, const QPointF& at,
                                     const QSize& size) const {
    std::vector<Pick> result;
    if (entries_.empty()) return result;
    const RayScene* rays = rays_.get();
    if (!rays) return result;
    Camera::Ray ray = camera.ray(at, size);
    double from = 0;
    if (scene.section) {
        Vec3 n = scene.section->head<3>();
        double here = n.dot(ray.origin) + scene.section->w(), speed = n.dot(ray.direction);
        if (here < 0) {
            if (speed <= 0) return result;
            from = -here / speed;
        }
    }
    RayHit hit = rays->cast(ray.origin, ray.direction, from);
    double face_depth = hit ? hit.t : 1e30;
    // Edges: nearest on the screen that is not behind the face under the pointer.
    constexpr double reach = 5;
    double best = reach;
    Pick edge;
    for (const Entry& entry : entries_)
        for (size_t e = 0; e < entry.shape->edges.size(); ++e) {
            const auto& points = entry.shape->edges[e].points;
            for (size_t k = 1; k < points.size(); ++k) {
                Vec3 a = entry.place * points[k - 1], b = entry.place * points[k];
                QPointF p = camera.project(a, size), q = camera.project(b, size);
                QPointF d = q - p;
                double l2 = QPointF::dotProduct(d, d);
                double t = l2 > 0 ? std::clamp(QPointF::dotProduct(at - p, d) / l2, 0.0, 1.0) : 0;
                QPointF off = p + d * t - at;
                double distance = std::hypot(off.x(), off.y());
                if (distance >= best) continue;
                Vec3 world = a + t * (b - a);
                if ((world - ray.origin).dot(ray.direction) > face_depth + 4 * camera.pixel_mm(size)) continue;
                if (scene.section && scene.section->head<3>().dot(world) + scene.section->w() < 0) continue;
                best = distance;
                edge = {Pick::Kind::Edge, entry.part, entry.body, e, entry.place.inverse() * world};
            }
        }
    if (edge) result.push_back(edge);
    for (int depth = 0; hit && depth < 3; ++depth) {
        const Entry& entry = entries_[hit.mesh];
        Vec3 point = entry.place.inverse() * Vec3(ray.origin + hit.t * ray.direction);
        if (!hit.from_inside) {
            result.push_back({Pick::Kind::Face, entry.part, entry.body, entry.shape->face_of[hit.triangle], point});
            if (depth == 0) result.push_back({Pick::Kind::Body, entry.part, entry.body, 0, point});
        }
        hit = rays->cast(ray.origin, ray.direction, hit.t + 1e-2);
    }
    return result;
}

} // namespace lp

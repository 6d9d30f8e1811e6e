#include "app/view/picker.h"
#include <thread>

namespace lp {

void Picker::set_scene(const Scene& scene) {
    std::vector<Entry> wanted;
    for (const SceneBody& b : scene.bodies)
        if (!b.support && !b.veil && !measured_map(b)) wanted.push_back({b.part, b.body, b.shape, b.place});
    bool same = wanted.size() == entries_.size();
    for (size_t i = 0; same && i < wanted.size(); ++i)
        same = wanted[i].shape == entries_[i].shape && wanted[i].part == entries_[i].part &&
               wanted[i].place.isApprox(entries_[i].place);
    if (same) return;
    entries_ = std::move(wanted);
    rays_.reset();
    // One that is still being built for the old bodies is thrown away when it is done.
    if (pending_.valid()) std::thread([old = std::move(pending_)]() mutable { old.wait(); }).detach();
    pending_ = {};
}

bool Picker::is_large() const {
    constexpr size_t at_once = 60'000; // facets: about 40 ms
    size_t facets = 0;
    for (const Entry& entry : entries_) facets += entry.shape->mesh.triangles.size();
    return facets > at_once;
}

bool Picker::ready() const {
    prepare();
    return rays_ || entries_.empty();
}

void Picker::begin() const {
    if (!rays_ && is_large()) prepare();
}

void Picker::prepare() const {
    if (rays_) return;
    if (pending_.valid()) {
        if (pending_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) rays_ = pending_.get();
        return;
    }
    auto build = [entries = entries_] {
        auto rays = std::make_unique<RayScene>();
        for (const Entry& entry : entries) rays->add(transformed(entry.shape->mesh, entry.place));
        rays->commit();
        return rays;
    };
    if (is_large())
        pending_ = std::async(std::launch::async, build);
    else
        rays_ = build();
}

std::vector<Pick> Picker::candidates(const Scene& scene, const Camera& camera, const QPointF& at,
                                     const QSize& size) const {
    std::vector<Pick> result;
    if (entries_.empty()) return result;
    prepare();
    if (!rays_) return result;
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
    RayHit hit = rays_->cast(ray.origin, ray.direction, from);
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
        hit = rays_->cast(ray.origin, ray.direction, hit.t + 1e-2);
    }
    return result;
}

} // namespace lp

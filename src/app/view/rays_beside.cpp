#include "app/view/rays_beside.h"
#include <thread>

namespace lp {

void RaysBeside::set(std::vector<PlacedShape> bodies) {
    const bool same = std::equal(
        bodies.begin(), bodies.end(), bodies_.begin(), bodies_.end(),
        [](const PlacedShape& a, const PlacedShape& b) { return a.shape == b.shape && a.place.isApprox(b.place); });
    if (same) return;
    bodies_ = std::move(bodies);
    rays_.reset();
    let_go();
}

void RaysBeside::let_go() {
    if (pending_.valid()) std::thread([old = std::move(pending_)]() mutable { old.wait(); }).detach();
    pending_ = {};
}

bool RaysBeside::is_large() const {
    constexpr size_t at_once = 60'000; // facets: about 40 ms
    size_t facets = 0;
    for (const PlacedShape& body : bodies_) facets += body.shape->mesh.triangles.size();
    return facets > at_once;
}

void RaysBeside::begin() {
    if (!rays_ && is_large()) get();
}

const RayScene* RaysBeside::get() {
    if (pending_.valid()) {
        if (pending_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) rays_ = pending_.get();
        return rays_.get();
    }
    if (rays_ || bodies_.empty()) return rays_.get();
    auto build = [bodies = bodies_] {
        auto rays = std::make_unique<RayScene>();
        for (const PlacedShape& body : bodies) rays->add(transformed(body.shape->mesh, body.place));
        rays->commit();
        return rays;
    };
    if (is_large())
        pending_ = std::async(std::launch::async, build);
    else
        rays_ = build();
    return rays_.get();
}

} // namespace lp

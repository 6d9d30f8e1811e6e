#include "steps/splitting/pin_places.h"
#include "mesh/cross_section.h"
#include <algorithm>

namespace lp {
namespace {

using Polygons = std::vector<std::vector<Vec2>>;

/// Distance to the outline where the place is inside, negative outside.
double depth_inside(const Polygons& polygons, const Vec2& p) {
    double nearest = 1e300;
    bool inside = false;
    for (const auto& polygon : polygons)
        for (size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
            const Vec2 &a = polygon[j], &b = polygon[i];
            const Vec2 along = b - a;
            const double length = along.squaredNorm();
            const double t = length > 0 ? std::clamp((p - a).dot(along) / length, 0.0, 1.0) : 0;
            nearest = std::min(nearest, (p - a - t * along).norm());
            if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < a.x() + along.x() * (p.y() - a.y()) / along.y())
                inside = !inside;
        }
    return inside ? nearest : -nearest;
}

struct Place {
    double depth = 0; ///< how far inside
    Vec3 at = Vec3::Zero();
    size_t plane = 0;
};

/// All places on a grid that are far enough inside, as deep as a pin reaches.
class Places {
  public:
    Places(const TriMesh& mesh, const PinRoom& room) : mesh_(mesh), room_(room) {}

    void look(const PinPlane& in, size_t number) {
        std::vector<Polygons> sections;
        for (double share : {0.0, -1.0, -0.5, 0.5, 1.0}) {
            Transform at = in.plane;
            at.translate(Vec3(0, 0, share * room_.deep_mm));
            sections.push_back(cross_section(mesh_, at));
        }
        Eigen::AlignedBox2d box;
        for (const auto& polygon : sections.front())
            for (const Vec2& p : polygon) box.extend(p);
        if (box.isEmpty()) return;
        box.min().x() = std::max(box.min().x(), in.from_mm);
        box.max().x() = std::min(box.max().x(), in.to_mm);
        if (box.isEmpty()) return;
        constexpr int most_steps = 60;
        const double step = std::max(0.25, box.sizes().maxCoeff() / most_steps);
        for (double x = box.center().x() - std::floor(box.sizes().x() / 2 / step) * step; x <= box.max().x(); x += step)
            for (double y = box.center().y() - std::floor(box.sizes().y() / 2 / step) * step; y <= box.max().y();
                 y += step) {
                double depth = std::min(x - in.from_mm, in.to_mm - x); // beside its ends is the other half
                for (const Polygons& section : sections)
                    if (depth > widest || depth >= room_.reach_mm)
                        depth = std::min(depth, depth_inside(section, Vec2(x, y)));
                widest = std::max(widest, depth);
                if (depth >= room_.reach_mm) found.push_back({depth, in.plane * Vec3(x, y, 0), number});
            }
    }

    std::vector<Place> found;
    double widest = 0;

  private:
    const TriMesh& mesh_;
    const PinRoom& room_;
};

} // namespace

std::vector<Transform> pin_frames(const TriMesh& mesh, const std::vector<PinPlane>& planes, const PinRoom& room,
                                  size_t count, double* widest_mm) {
    Places places(mesh, room);
    for (size_t i = 0; i < planes.size(); ++i) places.look(planes[i], i);
    if (widest_mm) *widest_mm = places.widest;
    std::vector<Transform> chosen;
    const std::vector<Place>& found = places.found;
    if (found.empty() || count == 0) return chosen;
    auto choose = [&](const Place& place) {
        chosen.push_back(planes[place.plane].plane);
        chosen.back().translation() = place.at;
    };
    const auto deepest =
        std::max_element(found.begin(), found.end(), [](const Place& a, const Place& b) { return a.depth < b.depth; });
    if (count == 1) {
        choose(*deepest);
        return chosen;
    }
    // The furthest from the deepest, and the furthest from that: nearly the two furthest of all.
    auto furthest = [&](auto distance) {
        return *std::max_element(found.begin(), found.end(),
                                 [&](const Place& a, const Place& b) { return distance(a.at) < distance(b.at); });
    };
    choose(furthest([&](const Vec3& p) { return (p - deepest->at).norm(); }));
    while (chosen.size() < count) {
        auto apart = [&](const Vec3& p) {
            double nearest = 1e300;
            for (const Transform& q : chosen) nearest = std::min(nearest, (p - q.translation()).norm());
            return nearest;
        };
        const Place next = furthest(apart);
        if (apart(next.at) < 2 * room.reach_mm) break; // no wall would be left between the holes
        choose(next);
    }
    return chosen;
}

std::vector<Vec2> pin_places(const TriMesh& mesh, const Transform& plane, const PinRoom& room, size_t count,
                             double* widest_mm) {
    std::vector<Vec2> places;
    for (const Transform& pin : pin_frames(mesh, {{plane}}, room, count, widest_mm))
        places.push_back((plane.inverse() * pin.translation()).head<2>());
    return places;
}

} // namespace lp

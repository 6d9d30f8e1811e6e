#include "shape/distance_field.h"
#include "shape/embree_scene.h"
#include "shape/mesh_distance.h"
#include <cmath>

namespace lp {

struct DistanceField::Engine : EmbreeScene {
    Vec3 middle = Vec3::Zero(); ///< it works round the origin
    std::vector<std::array<Vec3, 3>> corners;
};

namespace {
struct Search {
    const std::array<Vec3, 3>* corners;
    Vec3 at, foot;
    double distance, squared;
};

bool take_nearer(RTCPointQueryFunctionArguments* arguments) {
    auto& search = *static_cast<Search*>(arguments->userPtr);
    const auto& t = search.corners[arguments->primID];
    Vec3 foot = closest_on_triangle(search.at, t[0], t[1], t[2]);
    double squared = (foot - search.at).squaredNorm();
    if (squared >= search.squared) return false;
    search.squared = squared;
    search.distance = std::sqrt(squared);
    search.foot = foot;
    arguments->query->radius = float(search.distance * 1.000001 + 1e-5); // rounding of the boxes
    return true;
}
} // namespace

DistanceField::DistanceField(const TriMesh& mesh) : engine_(std::make_unique<Engine>()) {
    Box3 box = bounding_box(mesh);
    if (!box.isEmpty()) engine_->middle = box.center();
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        std::array<Vec3, 3> corners;
        for (int k = 0; k < 3; ++k) corners[k] = mesh.corner(i, k) - engine_->middle;
        engine_->corners.push_back(corners);
    }
    engine_->add(mesh, engine_->middle);
    rtcCommitScene(engine_->scene);
}
DistanceField::~DistanceField() = default;

DistanceField::Nearest DistanceField::nearest(const Vec3& at, double bound_mm) const {
    Search search{engine_->corners.data(), at - engine_->middle, Vec3::Zero(), bound_mm, bound_mm * bound_mm};
    RTCPointQuery query{};
    query.x = float(search.at.x());
    query.y = float(search.at.y());
    query.z = float(search.at.z());
    query.radius = std::isfinite(bound_mm) ? float(bound_mm * 1.000001 + 1e-5) : std::numeric_limits<float>::infinity();
    RTCPointQueryContext context;
    rtcInitPointQueryContext(&context);
    rtcPointQuery(engine_->scene, &query, &context, take_nearer, &search);
    return {search.distance, search.foot + engine_->middle};
}

int DistanceField::winding(const Vec3& at, const Vec3& direction) const {
    constexpr int most_crossings = 4000;
    int winding = 0;
    float from = 0;
    for (int i = 0; i < most_crossings; ++i) {
        RTCRayHit met = engine_->cast(at, direction, from, std::numeric_limits<float>::infinity());
        if (met.hit.geomID == RTC_INVALID_GEOMETRY_ID) break;
        winding += from_behind(met, direction) ? 1 : -1;
        from = std::nextafter(met.ray.tfar, std::numeric_limits<float>::infinity()) + 1e-6f;
    }
    return winding;
}

bool DistanceField::outside(const Vec3& at) const {
    static const Vec3 first = Vec3(0.5377, 0.8339, -0.1259).normalized(),
                      second = Vec3(-0.2256, 0.1862, 0.9566).normalized(),
                      third = Vec3(0.9218, -0.3439, 0.1787).normalized();
    Vec3 p = at - engine_->middle;
    bool a = winding(p, first) > 0, b = winding(p, second) > 0;
    if (a == b) return !a;
    return !(winding(p, third) > 0);
}

} // namespace lp

#include "check/footing.h"
#include "base/tolerance.h"
#include "base/turn_between.h"
#include <algorithm>

namespace lp {
namespace {

double cross(const Vec2& o, const Vec2& a, const Vec2& b) {
    return (a.x() - o.x()) * (b.y() - o.y()) - (a.y() - o.y()) * (b.x() - o.x());
}

/// Convex hull, counter-clockwise (Andrew's monotone chain).
std::vector<Vec2> hull(std::vector<Vec2> points) {
    std::sort(points.begin(), points.end(),
              [](const Vec2& a, const Vec2& b) { return a.x() != b.x() ? a.x() < b.x() : a.y() < b.y(); });
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) return points;
    std::vector<Vec2> chain;
    for (int side = 0; side < 2; ++side) {
        size_t start = chain.size();
        for (const Vec2& p : points) {
            while (chain.size() >= start + 2 && cross(chain[chain.size() - 2], chain.back(), p) <= 0) chain.pop_back();
            chain.push_back(p);
        }
        chain.pop_back();
        std::reverse(points.begin(), points.end());
    }
    return chain;
}

/// Least distance between two parallel lines that hold the hull: one of them lies along an edge (Freeman and Shapira,
/// 1975).
double least_width(const std::vector<Vec2>& outline) {
    if (outline.size() < 3) return 0;
    double least = std::numeric_limits<double>::infinity();
    const size_t n = outline.size();
    for (size_t i = 0, across = 1; i < n; ++i) { // the farthest corner goes round with the edge
        const Vec2 &a = outline[i], &b = outline[(i + 1) % n];
        while (cross(a, b, outline[(across + 1) % n]) > cross(a, b, outline[across])) across = (across + 1) % n;
        least = std::min(least, cross(a, b, outline[across]) / (b - a).norm());
    }
    return least;
}

} // namespace

Footing check_footing(const TriMesh& posed, const Vec3& centre, const Vec3& bed_mm) {
    Footing result;
    if (posed.empty()) return result;
    Box3 box = bounding_box(posed);
    double floor = box.min().z() + tolerance::on_bed_mm;
    std::vector<Vec2> touching;
    for (size_t i = 0; i < posed.triangles.size(); ++i) {
        bool lies = true;
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = posed.corner(i, k);
            if (p.z() <= floor)
                touching.push_back(p.head<2>());
            else
                lies = false;
        }
        if (lies) result.contact_area_mm2 += posed.area_vector(i).norm() / 2;
    }
    Vec2 middle = Vec2::Zero();
    for (const Vec2& p : touching) middle += p / double(touching.size());
    result.foot = {middle.x(), middle.y(), box.min().z()};
    auto outline = hull(touching);
    result.tips_over = outline.size() < 3;
    result.height_mm = box.sizes().z();
    result.foot_width_mm = least_width(outline);
    for (size_t i = 0; i < outline.size() && !result.tips_over; ++i)
        if (cross(outline[i], outline[(i + 1) % outline.size()], centre.head<2>()) < -1e-6) result.tips_over = true;
    Vec3 size = box.sizes();
    double slack = tolerance::on_bed_mm;
    bool straight = size.x() <= bed_mm.x() + slack && size.y() <= bed_mm.y() + slack;
    bool across = size.y() <= bed_mm.x() + slack && size.x() <= bed_mm.y() + slack;
    result.fits_bed = (straight || across) && size.z() <= bed_mm.z() + slack;
    return result;
}

Transform turned_up(const Vec3& up) {
    Transform turn = Transform::Identity();
    turn.linear() = turn_between(up, Vec3::UnitZ()).toRotationMatrix();
    return turn;
}

} // namespace lp

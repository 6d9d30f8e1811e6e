// Points, boxes and rigid moves, as Eigen types. Millimetres everywhere.
#pragma once
#include <Eigen/Geometry>
#include <numbers>

namespace lp {

using Vec3 = Eigen::Vector3d;
using Vec2 = Eigen::Vector2d;
using Transform = Eigen::Isometry3d; ///< rigid: turn and move, never scale
using Box3 = Eigen::AlignedBox3d;

inline double radians(double deg) {
    return deg * std::numbers::pi / 180.0;
}
inline double degrees(double rad) {
    return rad * 180.0 / std::numbers::pi;
}

} // namespace lp

#include "base/turn_between.h"

namespace lp {

Eigen::Quaterniond turn_between(const Vec3& from, const Vec3& to) {
    return Eigen::Quaterniond::FromTwoVectors(from, to);
}

Transform frame_along(const Vec3& axis) {
    Transform frame = Transform::Identity();
    if ((axis - Vec3::UnitZ()).norm() > 1e-12) frame.linear() = turn_between(Vec3::UnitZ(), axis).toRotationMatrix();
    return frame;
}

} // namespace lp

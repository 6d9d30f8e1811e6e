// Between our types and the kernel's. Included only inside shape/.
#pragma once
#include "base/geometry.h"
#include "shape/exact_shape.h"
#include <gp_Pnt.hxx>
#include <gp_Trsf.hxx>
#include <gp_Vec.hxx>
#include <memory>

namespace lp {

inline Vec3 to_vec(const gp_Pnt& p) {
    return {p.X(), p.Y(), p.Z()};
}
inline gp_Pnt to_pnt(const Vec3& p) {
    return {p.x(), p.y(), p.z()};
}
inline gp_Vec to_gp(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}
template <class Direction> Vec3 to_direction(const Direction& d) {
    return {d.X(), d.Y(), d.Z()};
}
gp_Trsf to_trsf(const Transform& move);
/// The shape turned and moved, with its tags.
std::shared_ptr<ExactShape> located(const ExactShape& shape, const Transform& move);

} // namespace lp

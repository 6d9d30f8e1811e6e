// Where the view looks from. Kept level: turning never rolls. Parallel as a rule, so that sizes compare; with depth
// when asked.
#pragma once
#include "base/geometry.h"
#include <QMatrix4x4>
#include <QPointF>
#include <QSize>
#include <optional>

namespace lp {

class Camera {
  public:
    Vec3 centre{0, 0, 20};
    double yaw_deg = -55, pitch_deg = 26;
    double half_height = 60; ///< mm from the middle to the top edge of the picture, at the centre's depth
    bool perspective = false;

    void orbit(double dx_deg, double dy_deg);
    /// Moves with the pointer, in pixels of a picture this high.
    void pan(const QPointF& pixels, int height);
    /// Nearer (factor < 1) or farther, keeping the place under the pointer.
    void zoom(double factor, const QPointF& at, const QSize& size);
    void fit(const Box3& box, const QSize& size);
    void look_along(const Vec3& direction); ///< square on; towards `direction`

    QMatrix4x4 view() const;
    QMatrix4x4 projection(const QSize& size) const;
    Vec3 forward() const;
    struct Ray {
        Vec3 origin, direction;
    };
    Ray ray(const QPointF& at, const QSize& size) const;
    QPointF project(const Vec3& p, const QSize& size, double* depth = nullptr) const;
    double eye_distance() const; ///< from the eye to the centre, mm; only with perspective
    double pixel_mm(const QSize& size) const { return 2 * half_height / std::max(1, size.height()); }
};

} // namespace lp

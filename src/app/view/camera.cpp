#include "app/view/camera.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {
constexpr double reach_mm = 5000; ///< depth before and behind the centre
constexpr double half_angle = 14; ///< degrees from the middle to the top edge, with perspective: a longish lens

Vec3 direction_of(double yaw, double pitch) {
    return {std::cos(radians(pitch)) * std::cos(radians(yaw)), std::cos(radians(pitch)) * std::sin(radians(yaw)),
            std::sin(radians(pitch))};
}
QVector3D q(const Vec3& v) {
    return {float(v.x()), float(v.y()), float(v.z())};
}
} // namespace

Vec3 Camera::forward() const {
    return -direction_of(yaw_deg, pitch_deg);
}

void Camera::orbit(double dx, double dy) {
    yaw_deg = std::fmod(yaw_deg - dx, 360.0);
    pitch_deg = std::clamp(pitch_deg + dy, -90.0, 90.0);
}

namespace {
void axes(const Camera& camera, Vec3& right, Vec3& up) {
    // From the yaw, not from a cross product with "up": stays defined when looking straight down.
    right = {-std::sin(radians(camera.yaw_deg)), std::cos(radians(camera.yaw_deg)), 0};
    up = right.cross(camera.forward()).normalized();
}
} // namespace

void Camera::pan(const QPointF& pixels, int height) {
    Vec3 right, up;
    axes(*this, right, up);
    double mm = 2 * half_height / std::max(1, height);
    centre += (-right * pixels.x() + up * pixels.y()) * mm;
}

void Camera::zoom(double factor, const QPointF& at, const QSize& size) {
    double before = half_height;
    half_height = std::clamp(half_height * factor, 0.05, 3000.0);
    Vec3 right, up;
    axes(*this, right, up);
    QPointF off = at - QPointF(size.width() / 2.0, size.height() / 2.0);
    double change = 2 * (before - half_height) / std::max(1, size.height());
    centre += (right * off.x() - up * off.y()) * change;
}

void Camera::fit(const Box3& box, const QSize& size) {
    if (box.isEmpty()) return;
    centre = box.center();
    Vec3 right, up;
    axes(*this, right, up);
    double high = 0, wide = 0;
    for (int i = 0; i < 8; ++i) {
        Vec3 corner = box.corner(Box3::CornerType(i)) - centre;
        high = std::max(high, std::fabs(corner.dot(up)));
        wide = std::max(wide, std::fabs(corner.dot(right)));
    }
    double aspect = double(size.width()) / std::max(1, size.height());
    half_height = std::max({high, wide / std::max(0.1, aspect), 1.0}) * 1.15;
}

void Camera::look_along(const Vec3& direction) {
    Vec3 d = -direction.normalized();
    pitch_deg = degrees(std::asin(std::clamp(d.z(), -1.0, 1.0)));
    if (std::hypot(d.x(), d.y()) > 1e-6)
        yaw_deg = degrees(std::atan2(d.y(), d.x()));
    else
        yaw_deg = -90;
}

double Camera::eye_distance() const {
    return half_height / std::tan(radians(half_angle));
}

QMatrix4x4 Camera::view() const {
    Vec3 right, up;
    axes(*this, right, up);
    QMatrix4x4 m;
    m.lookAt(q(centre - forward() * (perspective ? eye_distance() : reach_mm)), q(centre), q(up));
    return m;
}

QMatrix4x4 Camera::projection(const QSize& size) const {
    QMatrix4x4 m;
    float a = float(size.width()) / float(std::max(1, size.height())), h = float(half_height);
    if (perspective) {
        float eye = float(eye_distance());
        m.perspective(float(2 * half_angle), a, eye * 0.05f, eye + std::max(600.0f, h * 24));
        return m;
    }
    // The depth range hugs the scene: float depth over kilometres would flicker.
    float range = std::max(600.0f, h * 12);
    m.ortho(-h * a, h * a, -h, h, float(reach_mm) - range, float(reach_mm) + range);
    return m;
}

Camera::Ray Camera::ray(const QPointF& at, const QSize& size) const {
    Vec3 right, up;
    axes(*this, right, up);
    double mm = pixel_mm(size);
    Vec3 on = centre + right * (at.x() - size.width() / 2.0) * mm - up * (at.y() - size.height() / 2.0) * mm;
    if (perspective) {
        Vec3 eye = centre - forward() * eye_distance();
        return {eye, (on - eye).normalized()};
    }
    return {on - forward() * 2000, forward()};
}

QPointF Camera::project(const Vec3& p, const QSize& size, double* depth) const {
    Vec3 right, up;
    axes(*this, right, up);
    Vec3 d = p - centre;
    double mm = pixel_mm(size);
    double deep = d.dot(forward());
    if (depth) *depth = deep;
    if (perspective) mm *= std::max(0.05, (eye_distance() + deep) / eye_distance()); // farther things are smaller
    return {size.width() / 2.0 + d.dot(right) / mm, size.height() / 2.0 - d.dot(up) / mm};
}

} // namespace lp

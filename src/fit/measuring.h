// Measuring between two picked things, and how thick a wall is at a place.
#pragma once
#include "shape/body.h"

namespace lp {

/// A face or an edge of a body, or all of it, where its part stands.
struct Measurable {
    enum class Kind { Whole, Face, Edge };
    Body body;
    Kind kind = Kind::Whole;
    size_t index = 0; ///< of the tessellation's faces or edges
    Transform place = Transform::Identity();
};

struct Measured {
    double distance_mm = 0; ///< the smallest
    Vec3 at_a = Vec3::Zero(), at_b = Vec3::Zero();
    std::optional<double> angle_deg;   ///< between flat faces, axes and straight edges, 0 to 90
    std::optional<double> centres_mm;  ///< of round faces: between their axes when parallel, else their middles
    std::optional<double> diameter_mm; ///< of the one face, where its triangles stand for a cylinder or a ball
};

/// A face; one of triangles as the form it stands for, round where it is one.
FaceInfo recognised_face(const Body& body, size_t face);

/// Places are in the assembly. From triangles: exact for flat things, within the tessellation's deflection for round
/// ones.
Measured measure_between(const Measurable& a, const Measurable& b);

/// From a place on the surface straight through the material to where it ends; nothing when the ray leaves at once.
/// `point` in the body's own frame, on or near the face. Places of the answer too.
std::optional<Measured> thickness_at(const Body& body, size_t face, const Vec3& point);

} // namespace lp

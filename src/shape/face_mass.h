// What one exact face adds to the area, volume and centre of a body.
#pragma once
#include "base/geometry.h"
#include <TopoDS_Face.hxx>

namespace lp {

struct FaceMass {
    double area_mm2 = 0;
    double volume_mm3 = 0;      ///< of the cone from a place to the face, below 0 where the face looks at the place
    Vec3 moment = Vec3::Zero(); ///< of that cone about the place, mm4
};

/// Gauss's theorem makes the cone's volume and moment integrals over the face: a third of (x . n), a quarter of
/// x (x . n), x from the place. Green's theorem makes those integrals along its edges where one antiderivative is
/// known: for planes, cylinders, cones, balls, rings and curves moved straight or turned. Other faces by the kernel's
/// quadrature.
FaceMass face_mass(const TopoDS_Face& face, const Vec3& from);

/// The kernel's quadrature for any face: the slower way, and the one the other is tested against.
FaceMass face_mass_by_quadrature(const TopoDS_Face& face, const Vec3& from);

} // namespace lp

#include "shape/face_mass.h"
#include "shape/occt_convert.h"
#include <Adaptor3d_Curve.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Curve2d.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepGProp_Domain.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepGProp_Sinert.hxx>
#include <BRepGProp_Vinert.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom_BSplineCurve.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <boost/math/quadrature/gauss.hpp>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <optional>
#include <vector>

namespace lp {
namespace {

using Sums = Eigen::Matrix<double, 5, 1>; ///< area, volume, moment

/// Adds up along a stretch of an edge with eight points of Gauss and Legendre in each of `pieces`.
template <class Density> Sums gauss(const Density& density, double from, double to, int pieces) {
    using Rule = boost::math::quadrature::gauss<double, 8>;
    Sums sum = Sums::Zero();
    for (int k = 0; k < pieces; ++k) {
        double a = from + (to - from) * k / pieces, b = from + (to - from) * (k + 1) / pieces;
        double middle = (a + b) / 2, half = (b - a) / 2;
        for (size_t i = 0; i < Rule::abscissa().size(); ++i)
            for (double side : {-1.0, 1.0})
                sum += Rule::weights()[i] * half * density(middle + side * half * Rule::abscissa()[i]);
    }
    return sum;
}

/// The same, with twice the pieces until nothing changes any more.
template <class Density> Sums adaptive(const Density& density, double from, double to, int pieces) {
    Sums coarse = gauss(density, from, to, pieces);
    for (int round = 0; round < 6; ++round) {
        pieces *= 2;
        Sums fine = gauss(density, from, to, pieces);
        bool same = ((fine - coarse).array().abs() <= 1e-10 * (fine.array().abs() + 1e-3)).all();
        coarse = fine;
        if (same) break;
    }
    return coarse;
}

/// Places where a curve may have a kink: its ends and, for splines, its knots (of those that run round, in every
/// round).
template <class Curve> std::vector<double> stretches(const Curve& curve) {
    double a = curve.FirstParameter(), b = curve.LastParameter();
    std::vector<double> ends{a, b};
    if (curve.GetType() == GeomAbs_BSplineCurve) {
        const auto& spline = curve.BSpline();
        const double period = spline->IsPeriodic() ? spline->Period() : 0;
        const double first = spline->Knot(spline->FirstUKnotIndex());
        for (int round = period > 0 ? int(std::floor((a - first) / period)) : 0; first + round * period < b; ++round) {
            for (int i = spline->FirstUKnotIndex(); i <= spline->LastUKnotIndex(); ++i)
                if (double knot = spline->Knot(i) + round * period; knot > a + 1e-12 && knot < b - 1e-12)
                    ends.push_back(knot);
            if (period == 0) break;
        }
    }
    std::sort(ends.begin(), ends.end());
    ends.erase(std::unique(ends.begin(), ends.end(), [](double x, double y) { return y - x < 1e-12; }), ends.end());
    return ends;
}

/// Adds up along every edge of a face, in the way it runs with the material on its left.
template <class Add> std::optional<Sums> round_the_face(const TopoDS_Face& face, const Add& along) {
    Sums all = Sums::Zero();
    TopoDS_Face forward = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    for (TopExp_Explorer it(forward, TopAbs_EDGE); it.More(); it.Next()) {
        const TopoDS_Edge& edge = TopoDS::Edge(it.Current());
        if (edge.Orientation() != TopAbs_FORWARD && edge.Orientation() != TopAbs_REVERSED) continue;
        auto sums = along(edge, forward);
        if (!sums) return std::nullopt;
        all += (edge.Orientation() == TopAbs_REVERSED ? -1 : 1) * *sums;
    }
    return all;
}

/// Flat faces: with G = (x, x^2 / 2, x y) along the edges' own curves in space.
std::optional<FaceMass> flat_mass(const TopoDS_Face& face, const gp_Pln& plane, const Vec3& from) {
    const Vec3 o = to_vec(plane.Location()) - from, x = to_direction(plane.XAxis().Direction()),
               y = to_direction(plane.YAxis().Direction());
    auto sums = round_the_face(face, [&](const TopoDS_Edge& edge, const TopoDS_Face&) -> std::optional<Sums> {
        if (BRep_Tool::Degenerated(edge)) return Sums::Zero();
        BRepAdaptor_Curve curve(edge);
        auto density = [&](double t) -> Sums {
            gp_Pnt p;
            gp_Vec d;
            curve.D1(t, p, d);
            Vec3 at = to_vec(p) - from - o;
            double u = at.dot(x), v = at.dot(y), dv = Vec3(d.X(), d.Y(), d.Z()).dot(y);
            return Sums(u * dv, u * u / 2 * dv, u * v * dv, 0, 0);
        };
        if (curve.GetType() == GeomAbs_Line) return gauss(density, curve.FirstParameter(), curve.LastParameter(), 1);
        Sums sum = Sums::Zero();
        std::vector<double> ends = stretches(curve);
        for (size_t k = 1; k < ends.size(); ++k) sum += adaptive(density, ends[k - 1], ends[k], 1);
        return sum;
    });
    if (!sums) return std::nullopt;
    Vec3 normal = x.cross(y) * (face.Orientation() == TopAbs_REVERSED ? -1 : 1);
    double height = normal.dot(o), area = (*sums)[0];
    return FaceMass{area, area * height / 3, height / 4 * (area * o + (*sums)[1] * x + (*sums)[2] * y)};
}

/// A surface swept by a line or arc round an axis: at an angle u, radius(v) away from the axis and height(v) up.
struct Round {
    gp_Ax3 frame;
    GeomAbs_SurfaceType kind = GeomAbs_Cylinder;
    double radius = 0;                     ///< of the cylinder, ball, ring's middle line, cone at v = 0
    double other = 0;                      ///< the ring's tube; the cone's half angle
    Handle(Adaptor3d_Curve) meridian = {}; ///< what is turned, where it is none of these; in the frame's x-z plane

    bool bent() const { return kind == GeomAbs_Sphere || kind == GeomAbs_Torus; } ///< v is an angle
    /// Distance from the axis, height, and how both change with v.
    std::array<double, 4> at(double v) const {
        if (!meridian.IsNull()) {
            gp_Pnt p;
            gp_Vec d;
            meridian->D1(v, p, d);
            const gp_Vec out(frame.Location(), p), x(frame.XDirection()), z(frame.Direction());
            return {out.Dot(x), out.Dot(z), d.Dot(x), d.Dot(z)};
        }
        switch (kind) {
        case GeomAbs_Cone:
            return {radius + v * std::sin(other), v * std::cos(other), std::sin(other), std::cos(other)};
        case GeomAbs_Sphere:
            return {radius * std::cos(v), radius * std::sin(v), -radius * std::sin(v), radius * std::cos(v)};
        case GeomAbs_Torus:
            return {radius + other * std::cos(v), other * std::sin(v), -other * std::sin(v), other * std::cos(v)};
        default:
            return {radius, v, 0, 1};
        }
    }
};

std::optional<Round> round_surface(const Adaptor3d_Surface& surface);

/// An offset of a round surface is one as well, in the same parameters; a ring's tube may come out below 0, which the
/// integrals do not mind (seen where a shell's wall is a hair thicker than a round).
std::optional<Round> offset_surface(const Adaptor3d_Surface& surface) {
    auto basis = round_surface(*surface.BasisSurface());
    if (!basis || basis->kind == GeomAbs_Cone) return std::nullopt;
    double by = surface.OffsetValue() * (basis->frame.Direct() ? 1 : -1);
    (basis->kind == GeomAbs_Torus ? basis->other : basis->radius) += by;
    return basis->radius > 0 ? basis : std::nullopt;
}

/// A curve turned about an axis in its plane, u the angle and v along the curve.
std::optional<Round> turned_surface(const Adaptor3d_Surface& surface) {
    Round round;
    round.meridian = surface.BasisCurve();
    round.kind = GeomAbs_SurfaceOfRevolution;
    const gp_Ax1 axis = surface.AxeOfRevolution();
    const gp_Vec z(axis.Direction());
    const double a = round.meridian->FirstParameter(), b = round.meridian->LastParameter();
    if (!(b - a < 1e9)) return std::nullopt;
    gp_Vec x;
    for (double share : {0.5, 0.3, 0.8, 0.0, 1.0}) {
        gp_Vec out(axis.Location(), round.meridian->Value(a + (b - a) * share));
        out -= z * out.Dot(z);
        round.radius = std::max(round.radius, out.Magnitude());
        if (x.Magnitude() == 0 && out.Magnitude() > 1e-6) x = out.Normalized();
        if (x.Magnitude() > 0 && out.Crossed(x).Magnitude() > 1e-7) return std::nullopt; // out of its plane
    }
    if (x.Magnitude() == 0) return std::nullopt;
    round.frame = gp_Ax3(axis.Location(), axis.Direction(), gp_Dir(x));
    return round;
}

std::optional<Round> round_surface(const Adaptor3d_Surface& surface) {
    switch (surface.GetType()) {
    case GeomAbs_Cylinder:
        return Round{surface.Cylinder().Position(), GeomAbs_Cylinder, surface.Cylinder().Radius(), 0};
    case GeomAbs_Cone:
        return Round{surface.Cone().Position(), GeomAbs_Cone, surface.Cone().RefRadius(), surface.Cone().SemiAngle()};
    case GeomAbs_Sphere:
        return Round{surface.Sphere().Position(), GeomAbs_Sphere, surface.Sphere().Radius(), 0};
    case GeomAbs_Torus: {
        gp_Torus ring = surface.Torus();
        if (ring.MinorRadius() >= ring.MajorRadius()) return std::nullopt; // passes through its axis
        return Round{ring.Position(), GeomAbs_Torus, ring.MajorRadius(), ring.MinorRadius()};
    }
    case GeomAbs_OffsetSurface:
        return offset_surface(surface);
    case GeomAbs_SurfaceOfRevolution:
        return turned_surface(surface);
    default:
        return std::nullopt;
    }
}

/// Adds up an edge's density between all places where the edge or what was swept may have a kink. `of` says which of
/// the edge's two parameters runs along that curve: 0 for u, 1 for v.
template <class Density>
Sums between_kinks(const Adaptor3d_Curve& swept, int of, const BRepAdaptor_Curve2d& edge, std::vector<double> ends,
                   const Density& density) {
    auto along = [&](double t) {
        gp_Pnt2d p = edge.Value(t);
        return of ? p.Y() : p.X();
    };
    const std::vector<double> kinks = stretches(swept);
    Sums sum = Sums::Zero();
    for (size_t k = 1; k < ends.size(); ++k) {
        // Edges of such faces run along one parameter, or wander: then the stretches are simply halved until it shows
        // no more.
        std::vector<double> cuts{ends[k - 1], ends[k]};
        double from = along(ends[k - 1]), to = along(ends[k]);
        if (edge.GetType() == GeomAbs_Line && std::fabs(to - from) > 1e-12)
            for (double kink : kinks)
                if (double share = (kink - from) / (to - from); share > 1e-9 && share < 1 - 1e-9)
                    cuts.push_back(ends[k - 1] + share * (ends[k] - ends[k - 1]));
        std::sort(cuts.begin(), cuts.end());
        for (size_t i = 1; i < cuts.size(); ++i) sum += adaptive(density, cuts[i - 1], cuts[i], 1);
    }
    return sum;
}

template <class Density>
std::optional<Sums> along_meridian(const Round& round, const BRepAdaptor_Curve2d& edge, const std::vector<double>& ends,
                                   const Density& density) {
    if (edge.GetType() == GeomAbs_Line && edge.Value(ends.front()).Y() == edge.Value(ends.back()).Y())
        return Sums::Zero();
    return between_kinks(*round.meridian, 1, edge, ends, density);
}

/// A curve moved straight along a direction, u along the curve and v along the direction: (x . n) and the area do not
/// change with v, and the moment is linear in it.
std::optional<FaceMass> extruded_mass(const TopoDS_Face& face, const Adaptor3d_Surface& surface, const Vec3& from) {
    const Handle(Adaptor3d_Curve) basis = surface.BasisCurve();
    const Vec3 way = to_direction(surface.Direction());
    auto sums = round_the_face(face, [&](const TopoDS_Edge& edge, const TopoDS_Face& forward) -> std::optional<Sums> {
        double first, last;
        if (BRep_Tool::CurveOnSurface(edge, forward, first, last).IsNull()) return std::nullopt;
        BRepAdaptor_Curve2d curve(edge, forward);
        auto density = [&](double t) -> Sums {
            gp_Pnt2d uv;
            gp_Vec2d d;
            curve.D1(t, uv, d);
            gp_Pnt p;
            gp_Vec along;
            basis->D1(uv.X(), p, along);
            const Vec3 at = to_vec(p) - from, normal = Vec3(along.X(), along.Y(), along.Z()).cross(way);
            const double v = uv.Y(), height = at.dot(normal);
            Sums sums;
            sums << normal.norm() * v, height * v / 3, (at * v + way * (v * v / 2)) * height / 4;
            return sums * -d.X();
        };
        const std::vector<double> ends = stretches(curve);
        if (curve.GetType() == GeomAbs_Line && curve.Value(ends.front()).X() == curve.Value(ends.back()).X())
            return Sums::Zero();
        return between_kinks(*basis, 0, curve, ends, density);
    });
    if (!sums) return std::nullopt;
    const double side = face.Orientation() == TopAbs_REVERSED ? -1 : 1;
    return FaceMass{(*sums)[0], side * (*sums)[1], side * sums->tail<3>()};
}

std::optional<FaceMass> round_mass(const TopoDS_Face& face, const Round& round, const Vec3& from) {
    const Vec3 x = to_direction(round.frame.XDirection()), y = to_direction(round.frame.YDirection()),
               z = to_direction(round.frame.Direction()), o = to_vec(round.frame.Location()) - from;
    const double ox = o.dot(x), oy = o.dot(y), oz = o.dot(z);
    // At one v, (x . N) is q0 + qc cos u + qs sin u with N = dP/du x dP/dv; integrated over u from 0.
    auto over_u = [&](double u, double v) -> Sums {
        auto [r, h, dr, dh] = round.at(v);
        double c = std::cos(u), s = std::sin(u);
        double q0 = r * (r * dh - (oz + h) * dr), qc = r * dh * ox, qs = r * dh * oy;
        double cc = (u + s * c) / 2, ss = (u - s * c) / 2, sc = s * s / 2;
        double flat = q0 * u + qc * s - qs * c;
        Vec3 moment = (o + h * z) * flat + r * x * (q0 * s + qc * cc + qs * sc) + r * y * (-q0 * c + qc * sc + qs * ss);
        Sums sums;
        sums << r * std::hypot(dr, dh) * u, flat / 3, moment / 4;
        return sums;
    };
    Vec2 way = Vec2::Zero(); // closed loops come back in u and v, but for what vertices are wide
    auto sums = round_the_face(face, [&](const TopoDS_Edge& edge, const TopoDS_Face& forward) -> std::optional<Sums> {
        double first, last;
        if (BRep_Tool::CurveOnSurface(edge, forward, first, last).IsNull()) return std::nullopt;
        BRepAdaptor_Curve2d curve(edge, forward);
        std::vector<double> ends = stretches(curve);
        auto density = [&](double t) -> Sums {
            gp_Pnt2d p;
            gp_Vec2d d;
            curve.D1(t, p, d);
            return over_u(p.X(), p.Y()) * d.Y();
        };
        gp_Pnt2d a = curve.Value(ends.front()), b = curve.Value(ends.back());
        double sign = edge.Orientation() == TopAbs_REVERSED ? -1 : 1;
        way += sign * Vec2(b.X() - a.X(), b.Y() - a.Y());
        if (!round.meridian.IsNull()) return along_meridian(round, curve, ends, density);
        constexpr double eighth = 0.7854; // of a turn, and more: eight points are exact to 1e-13 there
        if (curve.GetType() == GeomAbs_Line) {
            if (a.Y() == b.Y()) return Sums::Zero();
            double turn = std::max(std::fabs(b.X() - a.X()), round.bent() ? std::fabs(b.Y() - a.Y()) : 0);
            return gauss(density, ends.front(), ends.back(), 1 + int(turn / eighth));
        }
        Sums sum = Sums::Zero();
        for (size_t k = 1; k < ends.size(); ++k) sum += adaptive(density, ends[k - 1], ends[k], 1);
        return sum;
    });
    constexpr double widest_mm = 2e-4;
    double u_mm = round.radius + round.other,
           v_mm = round.kind == GeomAbs_Torus ? std::fabs(round.other) : round.radius;
    double gap_mm = std::hypot(way.x() * u_mm, way.y() * (round.bent() ? v_mm : 1));
    if (!sums || gap_mm > widest_mm) return std::nullopt;
    double side = (face.Orientation() == TopAbs_REVERSED ? -1 : 1) * (round.frame.Direct() ? 1 : -1);
    return FaceMass{(*sums)[0], side * (*sums)[1], side * sums->tail<3>()};
}

/// Rational surfaces are no polynomials, and round faces whose bounds are no lines of the surface are cut unevenly: the
/// plain quadrature is up to 1 % off on them. The one that halves its error takes ten times as long.
bool needs_care(const TopoDS_Face& face) {
    BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() == GeomAbs_Plane) return false;
    // Seen along closed splines (0.4 % of the volume): the plain one takes too few places for swept and free surfaces.
    if (surface.GetType() > GeomAbs_Torus) return true;
    if (surface.GetType() == GeomAbs_BezierSurface) return true;
    if (surface.GetType() == GeomAbs_BSplineSurface && (surface.IsURational() || surface.IsVRational())) return true;
    for (TopExp_Explorer edge(face, TopAbs_EDGE); edge.More(); edge.Next())
        if (BRepAdaptor_Curve2d(TopoDS::Edge(edge.Current()), face).GetType() != GeomAbs_Line) return true;
    return false;
}

} // namespace

FaceMass face_mass_by_quadrature(const TopoDS_Face& face, const Vec3& from) {
    const gp_Pnt place(from.x(), from.y(), from.z());
    BRepGProp_Face in_volume(face), in_area(face);
    BRepGProp_Domain round_volume(face), round_area(face);
    bool careful = needs_care(face);
    auto area =
        careful ? BRepGProp_Sinert(in_area, round_area, place, 1e-7) : BRepGProp_Sinert(in_area, round_area, place);
    auto cones = careful ? BRepGProp_Vinert(in_volume, round_volume, place, 1e-7)
                         : BRepGProp_Vinert(in_volume, round_volume, place);
    return {area.Mass(), cones.Mass(), cones.Mass() * (to_vec(cones.CentreOfMass()) - from)};
}

FaceMass face_mass(const TopoDS_Face& face, const Vec3& from) {
    BRepAdaptor_Surface surface(face, false);
    std::optional<FaceMass> mass;
    if (surface.GetType() == GeomAbs_Plane)
        mass = flat_mass(face, surface.Plane(), from);
    else if (surface.GetType() == GeomAbs_SurfaceOfExtrusion)
        mass = extruded_mass(face, surface, from);
    else if (auto round = round_surface(surface))
        mass = round_mass(face, *round, from);
    return mass ? *mass : face_mass_by_quadrature(face, from);
}

} // namespace lp

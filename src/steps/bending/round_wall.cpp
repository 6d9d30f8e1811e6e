#include "steps/bending/round_wall.h"
#include "shape/occt_convert.h"
#include "steps/find_plane.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepTools.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>

namespace lp {
namespace {

std::optional<gp_Ax1> axis_of(const BRepAdaptor_Surface& surface) {
    switch (surface.GetType()) {
    case GeomAbs_Cylinder:
        return surface.Cylinder().Axis();
    case GeomAbs_Cone:
        return surface.Cone().Axis();
    case GeomAbs_Sphere:
        return gp_Ax1(surface.Sphere().Location(), surface.Sphere().Position().Direction());
    case GeomAbs_Torus:
        return surface.Torus().Axis();
    case GeomAbs_SurfaceOfRevolution:
        return surface.AxeOfRevolution();
    default:
        return std::nullopt;
    }
}

constexpr int samples = 256;

} // namespace

Vec3 RoundWall::at(double angle, double s, double out) const {
    Vec2 place, outward;
    size_t n = along.size();
    if (s <= along.front() || s >= along.back()) {
        bool low = s <= along.front();
        Vec2 way = low ? Vec2(line[1] - line[0]) : Vec2(line[n - 1] - line[n - 2]);
        place = low ? line.front() : line.back();
        place += (s - (low ? along.front() : along.back())) * way.normalized();
        outward = low ? normal.front() : normal.back();
    } else {
        size_t i = size_t(std::upper_bound(along.begin(), along.end(), s) - along.begin());
        double t = (s - along[i - 1]) / (along[i] - along[i - 1]);
        place = line[i - 1] + t * (line[i] - line[i - 1]);
        outward = (normal[i - 1] + t * (normal[i] - normal[i - 1])).normalized();
    }
    Vec2 p = place + out * outward;
    return axis * Vec3(p.x() * std::cos(angle), p.x() * std::sin(angle), p.y());
}

double RoundWall::radius_at(double s) const {
    Vec3 p = axis.inverse() * at(0, s, 0);
    return std::max(p.x(), 1e-3);
}

double RoundWall::smallest_radius() const {
    double r = 1e300;
    for (const Vec2& p : line) r = std::min(r, p.x());
    return std::max(r, 0.1);
}

double RoundWall::tightest_bend() const {
    double tightest = 1e6;
    for (size_t i = 1; i < normal.size(); ++i) {
        double turn = std::acos(std::clamp(normal[i - 1].dot(normal[i]), -1.0, 1.0));
        if (turn > 1e-9) tightest = std::min(tightest, (along[i] - along[i - 1]) / turn);
    }
    return tightest;
}

Expected<RoundWall> round_wall(const std::vector<StepBody>& before, const StepContext& context,
                               const FieldValue& value) {
    if (value.empty())
        return problem(ProblemCode::Missing, "It is not said which wall it lies on.",
                       "Click the face in the sentence and choose.");
    auto found = find_face(before, context, value, true);
    if (!found) return pass_on(found);
    const Body& body = before[found->body].body;
    if (!body.is_exact())
        return problem(ProblemCode::Geometry, "That wall is of triangles: its curve is not known.",
                       "Lay things on it before the step that made the body faceted.");
    return guard_kernel("reading a wall", [&]() -> Expected<RoundWall> {
        TopTools_IndexedMapOfShape faces;
        TopExp::MapShapes(body.exact()->shape, TopAbs_FACE, faces);
        TopoDS_Face face = TopoDS::Face(faces(int(found->face) + 1));
        BRepAdaptor_Surface surface(face);
        auto ax = axis_of(surface);
        if (!ax)
            return problem(ProblemCode::Geometry, "That face goes round no axis.",
                           "Choose a cylinder, a cone or another face that was turned.");
        RoundWall wall;
        wall.body = found->body;
        Vec3 z = to_direction(ax->Direction()), origin = to_vec(ax->Location());
        if (z.z() < -1e-9) z = -z; // up is up
        // Angle 0 looks along x where that is across the axis.
        Vec3 x = std::fabs(z.x()) < 0.9 ? Vec3(Vec3::UnitX()) : Vec3(Vec3::UnitY());
        x = (x - x.dot(z) * z).normalized();
        wall.axis.linear() << x, z.cross(x), z;
        wall.axis.translation() = origin;
        double u0, u1, v0, v1;
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        BRepGProp_Face normal_of(face);
        std::vector<std::pair<Vec2, Vec2>> sampled;
        for (int k = 0; k <= samples; ++k) {
            double v = v0 + (v1 - v0) * k / samples;
            gp_Pnt p;
            gp_Vec n;
            normal_of.Normal((u0 + u1) / 2, v, p, n);
            if (n.Magnitude() < 1e-12) continue; // a pole
            Vec3 q = wall.axis.inverse() * to_vec(p),
                 out = wall.axis.linear().transpose() * to_direction(n).normalized();
            Vec2 round = q.head<2>().normalized();
            sampled.emplace_back(Vec2(q.head<2>().norm(), q.z()), Vec2(out.head<2>().dot(round), out.z()));
        }
        if (sampled.size() < 2) return problem(ProblemCode::Geometry, "That wall has no height.", "Choose another.");
        if (sampled.back().first.y() < sampled.front().first.y()) std::reverse(sampled.begin(), sampled.end());
        for (const auto& [place, out] : sampled) {
            double step = wall.line.empty() ? 0 : (place - wall.line.back()).norm();
            if (!wall.line.empty() && step < 1e-9) continue;
            wall.along.push_back(wall.along.empty() ? 0 : wall.along.back() + step);
            wall.line.push_back(place);
            wall.normal.push_back(out.normalized());
        }
        return wall;
    });
}

} // namespace lp

#include "shape/exact_solids.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_shape.h"
#include "shape/occt_convert.h"
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepGProp.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrim_Cone.hxx>
#include <BRepPrim_Cylinder.hxx>
#include <BRepPrim_Sphere.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <numbers>

namespace lp {
namespace {

std::optional<Problem> check_size(const char* what, double value) {
    if (std::isfinite(value) && value >= tolerance::smallest_mm && value <= tolerance::largest_mm) return std::nullopt;
    std::string said = std::isfinite(value) ? format_quantity(value, QuantityKind::Length, 6) : "no number";
    return Problem{ProblemCode::Range, std::string("The ") + what + " is " + said + ".",
                   "It must lie between 0.001 mm and 100 m."};
}

class Tagger {
  public:
    Tagger(ExactShape& shape, TagSource source) : shape_(shape), source_(source) {}
    void tag(const TopoDS_Shape& face, FaceRole role, uint64_t element = 0) {
        if (!face.IsNull()) shape_.tags.Bind(face, {intern_tag({source_.step, role, element, source_.copy, 0})});
    }
    /// A flat face with the frame it is drawn on: origin, x axis, outward normal, size.
    void tag(const TopoDS_Shape& face, FaceRole role, uint64_t element, const Vec3& origin, const Vec3& x,
             const Vec3& normal, const Vec3& size) {
        tag(face, role, element);
        BirthFrame birth;
        birth.frame.linear() << x, normal.cross(x), normal;
        birth.frame.translation() = origin;
        birth.size = size;
        shape_.births[intern_tag({source_.step, role, element, source_.copy, 0})] = birth;
    }

  private:
    ExactShape& shape_;
    TagSource source_;
};

Expected<Body> place(std::shared_ptr<ExactShape> shape, const Transform& at) {
    return Body::from_exact(located(*shape, at));
}

} // namespace

Expected<Body> make_block(const Vec3& size, const Transform& at, TagSource tags) {
    const char* names[3] = {"width in x", "width in y", "height"};
    for (int k = 0; k < 3; ++k)
        if (auto wrong = check_size(names[k], size[k])) return pass_on(*wrong);
    return guard_kernel("a block", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeBox make(size.x(), size.y(), size.z());
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        // The kernel's names: back/front are x, left/right are y (architecture.md, trial "tags").
        // Standing faces: x along the edge that runs to the right as one looks at the face, y up, origin at the lower
        // left.
        const Vec3 x = Vec3::UnitX(), y = Vec3::UnitY(), z = Vec3::UnitZ();
        double a = size.x(), b = size.y(), c = size.z();
        tagger.tag(make.BackFace(), FaceRole::MinX, 0, {0, b, 0}, -y, -x, {b, c, 0});
        tagger.tag(make.FrontFace(), FaceRole::MaxX, 0, {a, 0, 0}, y, x, {b, c, 0});
        tagger.tag(make.LeftFace(), FaceRole::MinY, 0, {0, 0, 0}, x, -y, {a, c, 0});
        tagger.tag(make.RightFace(), FaceRole::MaxY, 0, {a, b, 0}, -x, y, {a, c, 0});
        tagger.tag(make.BottomFace(), FaceRole::Bottom, 0, {0, b, 0}, x, -z, {a, b, 0});
        tagger.tag(make.TopFace(), FaceRole::Top, 0, {0, 0, c}, x, z, {a, b, 0});
        return place(result, at);
    });
}

Expected<Body> make_cylinder(double radius, double height, const Transform& at, TagSource tags) {
    if (auto wrong = check_size("radius", radius)) return pass_on(*wrong);
    if (auto wrong = check_size("height", height)) return pass_on(*wrong);
    return guard_kernel("a cylinder", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeCylinder make(radius, height);
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        tagger.tag(make.Cylinder().LateralFace(), FaceRole::Side);
        tagger.tag(make.Cylinder().BottomFace(), FaceRole::Bottom, 0, Vec3::Zero(), Vec3::UnitX(), -Vec3::UnitZ(),
                   {2 * radius, 2 * radius, 0});
        tagger.tag(make.Cylinder().TopFace(), FaceRole::Top, 0, {0, 0, height}, Vec3::UnitX(), Vec3::UnitZ(),
                   {2 * radius, 2 * radius, 0});
        return place(result, at);
    });
}

Expected<Body> make_cone(double bottom, double top, double height, const Transform& at, TagSource tags) {
    if (std::fabs(bottom - top) < tolerance::same_mm) return make_cylinder((bottom + top) / 2, height, at, tags);
    if (bottom < 0 || top < 0 || !std::isfinite(bottom) || !std::isfinite(top))
        return problem(ProblemCode::Range, "A cone's diameter is below 0.", "Use 0 for a point.");
    if (auto wrong = check_size("larger radius", std::max(bottom, top))) return pass_on(*wrong);
    if (auto wrong = check_size("height", height)) return pass_on(*wrong);
    // Under the smallest size a disc would only be a sliver: make it a point.
    if (bottom < tolerance::smallest_mm) bottom = 0;
    if (top < tolerance::smallest_mm) top = 0;
    return guard_kernel("a cone", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeCone make(bottom, top, height);
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        tagger.tag(make.Cone().LateralFace(), FaceRole::Side);
        if (bottom > 0)
            tagger.tag(make.Cone().BottomFace(), FaceRole::Bottom, 0, Vec3::Zero(), Vec3::UnitX(), -Vec3::UnitZ(),
                       {2 * bottom, 2 * bottom, 0});
        if (top > 0)
            tagger.tag(make.Cone().TopFace(), FaceRole::Top, 0, {0, 0, height}, Vec3::UnitX(), Vec3::UnitZ(),
                       {2 * top, 2 * top, 0});
        return place(result, at);
    });
}

Expected<Body> make_sphere(double radius, const Transform& at, TagSource tags) {
    if (auto wrong = check_size("radius", radius)) return pass_on(*wrong);
    return guard_kernel("a sphere", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeSphere make(radius);
        result->shape = make.Solid();
        Tagger(*result, tags).tag(make.Sphere().LateralFace(), FaceRole::Side);
        return place(result, at);
    });
}

Expected<Body> make_prism(int sides, double apothem, double height, const Transform& at, TagSource tags) {
    if (sides < 3 || sides > 360)
        return problem(ProblemCode::Range, "A prism with " + std::to_string(sides) + " sides is not possible.",
                       "Use 3 to 360 sides.");
    if (auto wrong = check_size("half width across flats", apothem)) return pass_on(*wrong);
    if (auto wrong = check_size("height", height)) return pass_on(*wrong);
    return guard_kernel("a prism", [&]() -> Expected<Body> {
        double half = std::numbers::pi / sides, corner = apothem / std::cos(half);
        BRepBuilderAPI_MakePolygon polygon;
        std::vector<TopoDS_Edge> edges;
        for (int k = 0; k <= sides; ++k) {
            double angle = (2 * (k % sides) - 1) * half;
            if (k == sides)
                polygon.Close();
            else
                polygon.Add(gp_Pnt(corner * std::cos(angle), corner * std::sin(angle), 0));
            if (k > 0) edges.push_back(polygon.Edge());
        }
        TopoDS_Face face = BRepBuilderAPI_MakeFace(polygon.Wire(), true);
        BRepPrimAPI_MakePrism make(face, gp_Vec(0, 0, height));
        auto result = std::make_shared<ExactShape>();
        result->shape = make.Shape();
        Tagger tagger(*result, tags);
        for (int k = 0; k < sides; ++k)
            for (const TopoDS_Shape& wall : make.Generated(edges[k])) {
                double middle = 2 * k * half, width = 2 * apothem * std::tan(half);
                Vec3 out(std::cos(middle), std::sin(middle), 0), along(-std::sin(middle), std::cos(middle), 0);
                tagger.tag(wall, FaceRole::Side, uint64_t(k), Vec3(out * apothem - along * width / 2), along, out,
                           {width, height, 0});
            }
        tagger.tag(make.FirstShape(), FaceRole::Bottom, 0, Vec3::Zero(), Vec3::UnitX(), -Vec3::UnitZ(),
                   {2 * corner, 2 * corner, 0});
        tagger.tag(make.LastShape(), FaceRole::Top, 0, {0, 0, height}, Vec3::UnitX(), Vec3::UnitZ(),
                   {2 * corner, 2 * corner, 0});
        return place(result, at);
    });
}

Expected<Body> make_pyramid(int sides, double apothem, double top_apothem, double height, const Transform& at,
                            TagSource tags) {
    if (sides < 3 || sides > 360)
        return problem(ProblemCode::Range, "A pyramid with " + std::to_string(sides) + " sides is not possible.",
                       "Use 3 to 360 sides.");
    if (auto wrong = check_size("half width across flats", apothem)) return pass_on(*wrong);
    if (auto wrong = check_size("height", height)) return pass_on(*wrong);
    return guard_kernel("a pyramid", [&]() -> Expected<Body> {
        double half = std::numbers::pi / sides;
        auto polygon = [&](double a, double z) {
            BRepBuilderAPI_MakePolygon p;
            for (int k = 0; k < sides; ++k) {
                double angle = (2 * k - 1) * half, corner = a / std::cos(half);
                p.Add(gp_Pnt(corner * std::cos(angle), corner * std::sin(angle), z));
            }
            p.Close();
            return p.Wire();
        };
        BRepOffsetAPI_ThruSections walls(true, true);
        walls.AddWire(polygon(apothem, 0));
        if (top_apothem > tolerance::smallest_mm)
            walls.AddWire(polygon(top_apothem, height));
        else
            walls.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(0, 0, height)));
        walls.CheckCompatibility(false);
        walls.Build();
        auto result = std::make_shared<ExactShape>();
        result->shape = walls.Shape();
        Tagger tagger(*result, tags);
        for (TopExp_Explorer it(result->shape, TopAbs_FACE); it.More(); it.Next()) {
            GProp_GProps area;
            BRepGProp::SurfaceProperties(it.Current(), area);
            gp_Pnt c = area.CentreOfMass();
            if (c.Z() < 1e-9 * height)
                tagger.tag(it.Current(), FaceRole::Bottom, 0, Vec3::Zero(), Vec3::UnitX(), -Vec3::UnitZ(),
                           {2 * apothem, 2 * apothem, 0});
            else if (c.Z() > height * (1 - 1e-9))
                tagger.tag(it.Current(), FaceRole::Top, 0, {0, 0, height}, Vec3::UnitX(), Vec3::UnitZ(),
                           {2 * top_apothem, 2 * top_apothem, 0});
            else
                tagger.tag(it.Current(), FaceRole::Side,
                           uint64_t((std::lround(std::atan2(c.Y(), c.X()) / (2 * half)) + sides) % sides));
        }
        if (Body::from_exact(result)->mass().volume_mm3 < 0) result->shape.Reverse();
        return place(result, at);
    });
}

} // namespace lp

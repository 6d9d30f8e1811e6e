#include "shape/exact_solids.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_shape.h"
#include "shape/occt_convert.h"
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrim_Cone.hxx>
#include <BRepPrim_Cylinder.hxx>
#include <BRepPrim_Sphere.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <numbers>

namespace lp {
namespace {

std::optional<Problem> check_size(const char* what, double value) {
    if (std::isfinite(value) && value >= tolerance::smallest_mm && value <= tolerance::largest_mm) return std::nullopt;
    std::string said = std::isfinite(value) ? format_quantity(value, QuantityKind::Length, 6) : "no number";
    return Problem{ProblemCode::Range,
                   std::string("The ") + what + " is " + said + ".",
                   "It must lie between 0.001 mm and 100 m.",
                   {},
                   {}};
}

class Tagger {
  public:
    Tagger(ExactShape& shape, TagSource source) : shape_(shape), source_(source) {}
    void tag(const TopoDS_Shape& face, FaceRole role, uint32_t element = 0) {
        if (!face.IsNull()) shape_.tags.Bind(face, {intern_tag({source_.step, role, element, source_.copy, 0})});
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
        if (auto wrong = check_size(names[k], size[k])) return tl::make_unexpected(*wrong);
    return guard_kernel("a block", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeBox make(size.x(), size.y(), size.z());
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        // The kernel's names: back/front are x, left/right are y (architecture.md, trial "tags").
        tagger.tag(make.BackFace(), FaceRole::MinX);
        tagger.tag(make.FrontFace(), FaceRole::MaxX);
        tagger.tag(make.LeftFace(), FaceRole::MinY);
        tagger.tag(make.RightFace(), FaceRole::MaxY);
        tagger.tag(make.BottomFace(), FaceRole::Bottom);
        tagger.tag(make.TopFace(), FaceRole::Top);
        return place(result, at);
    });
}

Expected<Body> make_cylinder(double radius, double height, const Transform& at, TagSource tags) {
    if (auto wrong = check_size("radius", radius)) return tl::make_unexpected(*wrong);
    if (auto wrong = check_size("height", height)) return tl::make_unexpected(*wrong);
    return guard_kernel("a cylinder", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeCylinder make(radius, height);
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        tagger.tag(make.Cylinder().LateralFace(), FaceRole::Side);
        tagger.tag(make.Cylinder().BottomFace(), FaceRole::Bottom);
        tagger.tag(make.Cylinder().TopFace(), FaceRole::Top);
        return place(result, at);
    });
}

Expected<Body> make_cone(double bottom, double top, double height, const Transform& at, TagSource tags) {
    if (std::fabs(bottom - top) < tolerance::same_mm) return make_cylinder((bottom + top) / 2, height, at, tags);
    if (bottom < 0 || top < 0 || !std::isfinite(bottom) || !std::isfinite(top))
        return problem(ProblemCode::Range, "A cone's diameter is below 0.", "Use 0 for a point.");
    if (auto wrong = check_size("larger radius", std::max(bottom, top))) return tl::make_unexpected(*wrong);
    if (auto wrong = check_size("height", height)) return tl::make_unexpected(*wrong);
    // Under the smallest size a disc would only be a sliver: make it a point.
    if (bottom < tolerance::smallest_mm) bottom = 0;
    if (top < tolerance::smallest_mm) top = 0;
    return guard_kernel("a cone", [&]() -> Expected<Body> {
        auto result = std::make_shared<ExactShape>();
        BRepPrimAPI_MakeCone make(bottom, top, height);
        result->shape = make.Solid();
        Tagger tagger(*result, tags);
        tagger.tag(make.Cone().LateralFace(), FaceRole::Side);
        if (bottom > 0) tagger.tag(make.Cone().BottomFace(), FaceRole::Bottom);
        if (top > 0) tagger.tag(make.Cone().TopFace(), FaceRole::Top);
        return place(result, at);
    });
}

Expected<Body> make_sphere(double radius, const Transform& at, TagSource tags) {
    if (auto wrong = check_size("radius", radius)) return tl::make_unexpected(*wrong);
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
    if (auto wrong = check_size("half width across flats", apothem)) return tl::make_unexpected(*wrong);
    if (auto wrong = check_size("height", height)) return tl::make_unexpected(*wrong);
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
            for (const TopoDS_Shape& wall : make.Generated(edges[k])) tagger.tag(wall, FaceRole::Side, uint32_t(k));
        tagger.tag(make.FirstShape(), FaceRole::Bottom);
        tagger.tag(make.LastShape(), FaceRole::Top);
        return place(result, at);
    });
}

} // namespace lp

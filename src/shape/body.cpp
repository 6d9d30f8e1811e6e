#include "shape/body.h"
#include "base/tolerance.h"
#include "base/union_find.h"
#include "shape/occt_convert.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepGProp.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <mutex>

namespace lp {
namespace {

/// Pieces joined by shared vertices of a welded mesh.
int count_pieces(const TriMesh& mesh) {
    UnionFind joined(mesh.vertices.size());
    int pieces = 0;
    std::vector<bool> used(mesh.vertices.size(), false);
    for (const Triangle& t : mesh.triangles)
        for (int k = 0; k < 3; ++k) {
            if (!used[t[k]]) used[t[k]] = true, ++pieces;
            if (k > 0 && joined.join(t[0], t[k])) --pieces;
        }
    return pieces;
}

} // namespace

struct Body::Triangles {
    std::once_flag once;
    std::shared_ptr<const Tessellation> made = std::make_shared<const Tessellation>();
    std::optional<Problem> problem;
};

const std::shared_ptr<const Tessellation>& Body::shared_tessellation() const {
    std::call_once(triangles_->once, [this] {
        auto made = tessellate_shape(*exact_, tolerance::export_deflection_mm);
        if (!made) {
            triangles_->problem = made.error();
            return;
        }
        // The triangles must tell the same volume: a face gone missing or turned over shows here.
        double faceted = mass_properties(made->mesh).volume_mm3;
        double allowed = tolerance::boolean_volume * std::fabs(mass_.volume_mm3) +
                         2 * tolerance::export_deflection_mm * mass_.area_mm2;
        if (std::fabs(faceted - mass_.volume_mm3) <= allowed)
            triangles_->made = std::make_shared<const Tessellation>(std::move(*made));
        else
            triangles_->problem = Problem{ProblemCode::Geometry,
                                          "The triangles of this body do not enclose its volume.",
                                          "Change a size a little, or move the body by 0.01 mm.",
                                          {},
                                          {}};
    });
    return triangles_->made;
}

std::optional<Problem> Body::check_triangles() const {
    shared_tessellation();
    return triangles_->problem;
}

std::optional<BirthFrame> Body::birth(Tag tag) const {
    if (!exact_) return std::nullopt;
    auto found = exact_->births.find(tag);
    return found == exact_->births.end() ? std::nullopt : std::optional(found->second);
}

Expected<Body> Body::from_exact(std::shared_ptr<const ExactShape> shape, std::optional<Box3> box) {
    return guard_kernel("measuring a body", [&]() -> Expected<Body> {
        Body body;
        body.exact_ = shape;
        body.triangles_ = std::make_shared<Triangles>();
        GProp_GProps volume, surface;
        // Rational surfaces are no polynomials: the plain quadrature is up to 1 % off on them.
        bool free = false;
        for (TopExp_Explorer it(shape->shape, TopAbs_FACE); it.More() && !free; it.Next()) {
            BRepAdaptor_Surface face(TopoDS::Face(it.Current()), false);
            free = (face.GetType() == GeomAbs_BSplineSurface && (face.IsURational() || face.IsVRational())) ||
                   face.GetType() == GeomAbs_BezierSurface;
        }
        if (free) {
            BRepGProp::VolumeProperties(shape->shape, volume, 1e-7, false, false);
            BRepGProp::SurfaceProperties(shape->shape, surface, 1e-7, false);
        } else {
            BRepGProp::VolumeProperties(shape->shape, volume);
            BRepGProp::SurfaceProperties(shape->shape, surface);
        }
        body.mass_ = {volume.Mass(), surface.Mass(), to_vec(volume.CentreOfMass())};
        if (!box) {
            Bnd_Box bounds;
            BRepBndLib::AddOptimal(shape->shape, bounds, false, false);
            bounds.SetGap(0);
            Vec3 low, high;
            bounds.Get(low.x(), low.y(), low.z(), high.x(), high.y(), high.z());
            box = Box3(low, high);
        }
        body.box_ = *box;
        TopTools_IndexedMapOfShape solids;
        TopExp::MapShapes(shape->shape, TopAbs_SOLID, solids);
        body.pieces_ = solids.Extent();
        return body;
    });
}

Body Body::with_names(std::shared_ptr<const ExactShape> names) const {
    Body body = *this;
    body.exact_ = std::move(names);
    body.triangles_ = std::make_shared<Triangles>(); // these carry the names
    return body;
}

Body Body::from_mesh(TriMesh mesh) {
    Body body;
    body.mass_ = mass_properties(mesh);
    body.box_ = bounding_box(mesh);
    body.pieces_ = count_pieces(mesh);
    body.triangles_ = std::make_shared<Triangles>();
    std::call_once(body.triangles_->once, [&] {
        body.triangles_->made = std::make_shared<const Tessellation>(segment_mesh(std::move(mesh)));
    });
    return body;
}

Expected<Body> moved(const Body& body, const Transform& move) {
    if (!body.is_exact()) return Body::from_mesh(transformed(body.mesh(), move));
    return guard_kernel("moving a body",
                        [&]() -> Expected<Body> { return Body::from_exact(located(*body.exact(), move)); });
}

} // namespace lp

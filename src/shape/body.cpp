#include "shape/body.h"
#include "base/tolerance.h"
#include "base/union_find.h"
#include "shape/exact_box.h"
#include "shape/face_mass.h"
#include "shape/occt_convert.h"
#include <BRep_Tool.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>
#include <algorithm>
#include <atomic>
#include <mutex>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp {
namespace {

/// Pieces joined by shared vertices of a welded mesh. What looks inward is a cavity of one, not a piece.
int count_pieces(const TriMesh& mesh) {
    UnionFind joined(mesh.vertices.size());
    for (const Triangle& t : mesh.triangles)
        for (int k = 1; k < 3; ++k) joined.join(t[0], t[k]);
    std::unordered_map<uint32_t, double> volume;
    const Vec3 middle = mesh.vertices.empty() ? Vec3(0, 0, 0) : mesh.vertices.front();
    for (size_t i = 0; i < mesh.triangles.size(); ++i)
        volume[joined.find(mesh.triangles[i][0])] +=
            (mesh.corner(i, 0) - middle).dot((mesh.corner(i, 1) - middle).cross(mesh.corner(i, 2) - middle));
    auto outward = std::count_if(volume.begin(), volume.end(), [](const auto& one) { return one.second > 0; });
    return int(outward > 0 ? size_t(outward) : volume.size());
}

} // namespace

struct Body::Triangles {
    std::once_flag once;
    std::shared_ptr<const Tessellation> made = std::make_shared<const Tessellation>();
    std::optional<Problem> problem;
    std::atomic<size_t> count{0}; ///< triangles that are there; read by threads that do not ask for them
};

struct Body::Bounds {
    std::once_flag once;
    Box3 box;
};

namespace {

/// Face by face: the cones from one place to the faces add up to the volume. The place is near the middle, where the
/// error of a quadrature is least.
MassProperties exact_mass(const TopoDS_Shape& shape) {
    Vec3 middle = Vec3::Zero();
    int corners = 0;
    for (TopExp_Explorer it(shape, TopAbs_VERTEX); it.More(); it.Next(), ++corners)
        middle += to_vec(BRep_Tool::Pnt(TopoDS::Vertex(it.Current())));
    if (corners) middle /= corners;
    std::vector<TopoDS_Face> faces;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) faces.push_back(TopoDS::Face(it.Current()));
    std::vector<FaceMass> shares(faces.size());
    auto work_out = [&](size_t i) { shares[i] = face_mass(faces[i], middle); };
    if (faces.size() > 16)
        tbb::parallel_for(size_t(0), faces.size(), work_out);
    else
        for (size_t i = 0; i < faces.size(); ++i) work_out(i);
    MassProperties mass;
    Vec3 moment = Vec3::Zero();
    for (const FaceMass& s : shares) { // in order: the same sum whatever the threads did
        mass.area_mm2 += s.area_mm2;
        mass.volume_mm3 += s.volume_mm3;
        moment += s.moment;
    }
    mass.centre = mass.volume_mm3 != 0 ? Vec3(middle + moment / mass.volume_mm3) : middle;
    return mass;
}

} // namespace

const Box3& Body::box() const {
    static const Box3 none;
    if (!bounds_) return none;
    std::call_once(bounds_->once, [this] {
        if (!exact_) return;
        auto box = guard_kernel("measuring a body", [&]() -> Expected<Box3> { return exact_box(exact_->shape); });
        bounds_->box = box ? *box : bounding_box(mesh());
    });
    return bounds_->box;
}

const std::shared_ptr<const Tessellation>& Body::shared_tessellation() const {
    std::call_once(triangles_->once, [this] {
        // The triangles must tell the same volume: a face gone missing or turned over shows here, and the second way is
        // taken.
        for (bool surely : {false, true}) {
            TopoDS_Shape meshed;
            auto made = tessellate_shape(*exact_, tolerance::export_deflection_mm, surely, &meshed);
            if (!made) {
                triangles_->problem = made.error();
                continue;
            }
            double faceted = mass_properties(made->mesh).volume_mm3;
            double allowed = tolerance::boolean_volume * std::fabs(mass_.volume_mm3) +
                             2 * tolerance::export_deflection_mm * mass_.area_mm2;
            if (std::fabs(faceted - mass_.volume_mm3) <= allowed && is_closed(made->mesh)) {
                triangles_->made = std::make_shared<const Tessellation>(std::move(*made));
                triangles_->count = triangles_->made->mesh.triangles.size();
                triangles_->problem.reset();
                exact_->set_triangles(meshed);
                return;
            }
            triangles_->problem =
                Problem{ProblemCode::Geometry, "The triangles of this body do not enclose its volume.",
                        "Change a size a little, or move the body by 0.01 mm."};
        }
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

Expected<Body> Body::from_exact(std::shared_ptr<const ExactShape> shape, std::optional<Box3> box,
                                std::optional<MassProperties> mass) {
    return guard_kernel("measuring a body", [&]() -> Expected<Body> {
        Body body;
        body.exact_ = shape;
        body.triangles_ = std::make_shared<Triangles>();
        body.mass_ = mass ? *mass : exact_mass(shape->shape);
        body.bounds_ = std::make_shared<Bounds>();
        if (box) std::call_once(body.bounds_->once, [&] { body.bounds_->box = *box; });
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
    body.bounds_ = std::make_shared<Bounds>();
    body.bounds_->box = bounding_box(mesh);
    body.pieces_ = count_pieces(mesh);
    body.triangles_ = std::make_shared<Triangles>();
    std::call_once(body.triangles_->once, [&] {
        body.triangles_->made = std::make_shared<const Tessellation>(segment_mesh(std::move(mesh)));
        body.triangles_->count = body.triangles_->made->mesh.triangles.size();
    });
    return body;
}

Body::Weight Body::weight() const {
    // A triangle: its corners, normals and names here, and once more in the kernel's own. A face: surface, edges, the
    // edges' curves on it. An estimate: what counts is that much is seen as much.
    constexpr size_t a_triangle = 170, a_face = 6000;
    if (!triangles_) return {};
    return {triangles_.get(), triangles_->count * a_triangle + (exact_ ? size_t(exact_->tags.Extent()) * a_face : 0)};
}

Expected<Body> moved(const Body& body, const Transform& move) {
    if (!body.is_exact()) return Body::from_mesh(transformed(body.mesh(), move));
    return guard_kernel("moving a body", [&]() -> Expected<Body> {
        MassProperties mass = body.mass();
        mass.centre = move * mass.centre;
        return Body::from_exact(located(*body.exact(), move), {}, mass);
    });
}

} // namespace lp

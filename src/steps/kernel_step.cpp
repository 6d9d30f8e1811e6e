#include "steps/kernel_step.h"
#include "base/hash.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/carry_triangles.h"
#include "shape/edges_match.h"
#include "shape/exact_shape.h"
#include "shape/held_checks.h"
#include <BRepCheck_Analyzer.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>

namespace lp {
namespace {

/// Names for what a call made, from what it was made of.
class Namer {
  public:
    Namer(const ExactShape& source, const StepContext& context) : source_(source), context_(context) {
        TopExp::MapShapes(source.shape, TopAbs_FACE, faces_);
        TopExp::MapShapes(source.shape, TopAbs_EDGE, edges_);
        TopExp::MapShapes(source.shape, TopAbs_VERTEX, vertices_);
        TopExp::MapShapesAndAncestors(source.shape, TopAbs_EDGE, TopAbs_FACE, edge_faces_);
        TopExp::MapShapesAndAncestors(source.shape, TopAbs_VERTEX, TopAbs_FACE, vertex_faces_);
    }

    TagSet name(const std::vector<ElementOrigin>& origins) const {
        TagSet tags;
        for (const ElementOrigin& o : origins) {
            if (o.kind == ElementOrigin::Kind::Face) {
                const TagSet* own = source_.tags.Seek(faces_(o.index + 1));
                if (!own) continue;
                if (!o.made) {
                    add_tags(tags, *own);
                } else {
                    TagSet derived;
                    for (Tag tag : *own) add_tags(derived, {derive_tag(tag, context_.step_id, 0)});
                    add_tags(tags, derived);
                }
                continue;
            }
            add_tags(tags, {blend(o)});
        }
        return tags;
    }

  private:
    /// The tags around an edge or corner, as they are in the part that is not remade: the same for both.
    TagSet around(const TopTools_ListOfShape& faces) const {
        TagSet all;
        for (const TopoDS_Shape& face : faces)
            if (const TagSet* own = source_.tags.Seek(face))
                for (Tag tag : *own) add_tags(all, {tag_in_copy(tag, context_.copy)});
        return all;
    }

    Tag blend(const ElementOrigin& o) const {
        Hasher key(o.kind == ElementOrigin::Kind::Edge ? 0xed6e : 0xc04e);
        if (o.kind == ElementOrigin::Kind::Edge) {
            const TopoDS_Shape& edge = edges_(o.index + 1);
            for (Tag tag : around(edge_faces_.FindFromKey(edge))) key.add(tag);
            // Pieces between the same two faces differ by where they end.
            TagSet ends;
            TopTools_IndexedMapOfShape corners;
            TopExp::MapShapes(edge, TopAbs_VERTEX, corners);
            for (int i = 1; i <= corners.Extent(); ++i) add_tags(ends, around(vertex_faces_.FindFromKey(corners(i))));
            for (Tag tag : ends) key.add(tag);
        } else {
            for (Tag tag : around(vertex_faces_.FindFromKey(vertices_(o.index + 1)))) key.add(tag);
        }
        return intern_tag({context_.step_id, FaceRole::Blend, key.value(), context_.copy, 0});
    }

    const ExactShape& source_;
    const StepContext& context_;
    TopTools_IndexedMapOfShape faces_, edges_, vertices_;
    TopTools_IndexedDataMapOfShapeListOfShape edge_faces_, vertex_faces_;
};

} // namespace

Expected<Body> run_kernel_step(const Body& body, KernelCall call, const StepContext& context, const char* what,
                               double low, double high, double budget_s) {
    if (!body.is_exact())
        return problem(ProblemCode::Geometry, std::string(what) + " needs an exact body, and this one is triangles.",
                       "Do it before the step that made it faceted; cutting and joining work on triangles too.");
    TopoDS_Shape source = body.exact()->with_triangles();
    call.shapes.insert(call.shapes.begin(), source);
    auto answer = run_guarded(call, context.task, budget_s);
    if (!answer) return pass_on(answer);
    return guard_kernel("naming faces", [&]() -> Expected<Body> {
        carry_triangles(source, answer->shape, answer->kept);
        auto shape = std::make_shared<ExactShape>();
        shape->shape = answer->shape;
        shape->births = body.exact()->births;
        Namer namer(*body.exact(), context);
        TopTools_IndexedMapOfShape faces;
        TopExp::MapShapes(shape->shape, TopAbs_FACE, faces);
        for (int i = 1; i <= faces.Extent() && size_t(i) <= answer->origins.size(); ++i)
            if (TagSet tags = namer.name(answer->origins[size_t(i - 1)]); !tags.empty())
                shape->tags.Bind(faces(i), tags);
        auto unsound = [&](const std::string& why) {
            return problem(ProblemCode::Geometry, "The geometry kernel's result is not sound: " + why + ".",
                           "Change a size a little.");
        };
        if (faces.IsEmpty()) return unsound("nothing is left");
        auto result = Body::from_exact(shape);
        if (!result) return result;
        if (result->pieces() != body.pieces())
            return unsound("it is in " + std::to_string(result->pieces()) + " pieces");
        double volume = result->mass().volume_mm3, slack = tolerance::boolean_volume * body.mass().volume_mm3;
        if (!(volume > low - slack && volume < high + slack))
            return unsound("its volume came out as " + format_number(volume) + " mm³");
        auto check_surface = [made = *result, unsound]() -> std::optional<Problem> {
            auto valid = guard_kernel("checking a body", [&]() -> Expected<bool> {
                // Faces the call left as they were still have their triangles, and were looked at before.
                const TopoDS_Shape& shape = made.exact()->shape;
                return BRepCheck_Analyzer(faces_without_triangles(shape)).IsValid() && edges_match(shape);
            });
            if (valid && *valid) return std::nullopt;
            return valid ? unsound("its surface does not close").value() : valid.error();
        };
        auto check_triangles = [made = *result] { return made.check_triangles(); };
        if (auto wrong = check_or_hold({check_surface, check_triangles})) return pass_on(*wrong);
        return result;
    });
}

namespace {

/// Two faces at the middle piece of the edge between them.
struct Meeting {
    Vec3 at = Vec3::Zero();
    Vec3 normals[2], into[2]; ///< outward, and from the edge into each face
};

std::optional<Meeting> meeting_at(const Body& body, size_t edge) {
    const Tessellation& t = body.tessellation();
    const EdgeInfo& e = t.edges.at(edge);
    if (e.face_a < 0 || e.face_b < 0 || e.points.size() < 2) return std::nullopt;
    // The triangles on both sides of the edge's middle piece.
    size_t k = (e.points.size() - 1) / 2;
    const Vec3 &a = e.points[k], &b = e.points[k + 1];
    const Vec3 along = (b - a).normalized();
    Meeting m;
    m.at = (a + b) / 2;
    for (int side = 0; side < 2; ++side) {
        int face = side ? e.face_b : e.face_a;
        double nearest = 1e300;
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            if (t.face_of[i] != uint32_t(face)) continue;
            Vec3 p = t.mesh.corner(i, 0), q = t.mesh.corner(i, 1), r = t.mesh.corner(i, 2);
            double d = 0;
            for (const Vec3& end : {a, b}) d += std::min({(p - end).norm(), (q - end).norm(), (r - end).norm()});
            if (d >= nearest) continue;
            nearest = d;
            m.normals[side] = (q - p).cross(r - p).normalized();
            Vec3 away = (p + q + r) / 3 - m.at;
            m.into[side] = away - away.dot(along) * along;
        }
    }
    return m;
}

} // namespace

double angle_at_edge(const Body& body, size_t edge) {
    auto m = meeting_at(body, edge);
    if (!m) return 180;
    double turn = degrees(std::acos(std::clamp(m->normals[0].dot(m->normals[1]), -1.0, 1.0)));
    return m->normals[0].dot(m->into[1]) < 0 ? 180 - turn : 180 + turn; // the other face falls away: it stands out
}

std::optional<SizeHandle> handle_at_edge(const Body& body, size_t edge, const char* field,
                                         const std::function<double(double half)>& reach) {
    auto m = meeting_at(body, edge);
    if (!m) return std::nullopt;
    const double inside = angle_at_edge(body, edge), between = inside < 180 ? inside : 360 - inside;
    const Vec3 outward = m->normals[0] + m->normals[1];
    if (between > 175 || between < 5 || outward.norm() < 1e-6) return std::nullopt;
    const double far = reach(radians(between) / 2);
    if (!(far > 1e-3)) return std::nullopt;
    return SizeHandle{field, SizeHandle::Shape::Arrow, m->at, outward.normalized() * (inside < 180 ? -1 : 1), 1 / far};
}

} // namespace lp

#include "shape/copies.h"
#include "base/union_find.h"
#include "shape/occt_convert.h"
#include <BRepBuilderAPI_GTransform.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <algorithm>
#include <gp_GTrsf.hxx>
#include <map>

namespace lp {
namespace {

bool is_uniform(const Affine& map) {
    Eigen::Matrix3d square = map.linear().transpose() * map.linear();
    return (square - Eigen::Matrix3d::Identity() * square(0, 0)).cwiseAbs().maxCoeff() < 1e-12 * square(0, 0);
}

std::shared_ptr<ExactShape> mapped_shape(const ExactShape& shape, const Affine& map) {
    auto result = std::make_shared<ExactShape>();
    const auto& m = map.matrix();
    auto carry = [&](auto& transform) {
        result->shape = transform.Shape();
        for (FaceTags::Iterator it(shape.tags); it.More(); it.Next())
            result->tags.Bind(transform.ModifiedShape(it.Key()), it.Value());
    };
    if (is_uniform(map)) {
        gp_Trsf t;
        t.SetValues(m(0, 0), m(0, 1), m(0, 2), m(0, 3), m(1, 0), m(1, 1), m(1, 2), m(1, 3), m(2, 0), m(2, 1), m(2, 2),
                    m(2, 3));
        BRepBuilderAPI_Transform transform(shape.shape, t, true);
        carry(transform);
        double size = std::cbrt(std::fabs(map.linear().determinant()));
        bool turned_over = map.linear().determinant() < 0;
        for (const auto& [tag, birth] : shape.births) { // z stays outward, x with the drawing
            BirthFrame moved = birth;
            Eigen::Matrix3d axes = map.linear() * birth.frame.linear() / size;
            if (turned_over) axes.col(1) = -axes.col(1);
            moved.frame.linear() = axes;
            moved.frame.translation() = map * Vec3(birth.frame.translation());
            moved.size = birth.size * size;
            if (!turned_over) result->births.emplace(tag, moved);
        }
    } else {
        gp_GTrsf t;
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 4; ++c) t.SetValue(r + 1, c + 1, m(r, c));
        BRepBuilderAPI_GTransform transform(shape.shape, t, true);
        carry(transform);
    }
    return result;
}

} // namespace

Expected<Body> mapped(const Body& body, const Affine& map) {
    double share = map.linear().determinant();
    if (!(std::fabs(share) > 1e-12 && std::isfinite(share)))
        return problem(ProblemCode::Range, "A scale of 0 leaves nothing.", "Use a number above 0.");
    if (!body.is_exact()) {
        TriMesh mesh = body.mesh();
        for (Vec3& v : mesh.vertices) v = map * v;
        if (share < 0)
            for (Triangle& t : mesh.triangles) std::swap(t[1], t[2]);
        return Body::from_mesh(std::move(mesh));
    }
    return guard_kernel("placing a body", [&]() -> Expected<Body> {
        if (is_uniform(map)) { // what the map does to its measures is known
            MassProperties mass = body.mass();
            mass.volume_mm3 *= std::fabs(share);
            mass.area_mm2 *= std::pow(std::fabs(share), 2.0 / 3);
            mass.centre = map * mass.centre;
            return Body::from_exact(mapped_shape(*body.exact(), map), {}, mass);
        }
        auto result = Body::from_exact(mapped_shape(*body.exact(), map));
        double want = body.mass().volume_mm3 * std::fabs(share);
        if (result && std::fabs(result->mass().volume_mm3 - want) > 1e-4 * want)
            return problem(ProblemCode::Geometry, "The geometry kernel lost material while placing this body.",
                           "Change a number a little.");
        return result;
    });
}

Body renamed_copy(const Body& body, StepId step, uint64_t copy) {
    if (!body.is_exact()) {
        TriMesh mesh = body.mesh();
        std::map<Tag, Tag> names;
        for (Tag& tag : mesh.tags) {
            auto [at, fresh] = names.try_emplace(tag, 0);
            if (fresh) at->second = derive_tag(tag, step, copy);
            tag = at->second;
        }
        return Body::from_mesh(std::move(mesh));
    }
    auto shape = std::make_shared<ExactShape>();
    shape->shape = body.exact()->shape;
    for (FaceTags::Iterator it(body.exact()->tags); it.More(); it.Next()) {
        TagSet tags;
        for (Tag tag : it.Value()) add_tags(tags, {derive_tag(tag, step, copy)});
        shape->tags.Bind(it.Key(), tags);
    }
    for (const auto& [tag, birth] : body.exact()->births) shape->births.emplace(derive_tag(tag, step, copy), birth);
    return body.with_names(shape);
}

Expected<std::vector<Body>> separate_pieces(const Body& body) {
    std::vector<Body> pieces;
    if (body.is_exact()) {
        for (TopExp_Explorer it(body.exact()->shape, TopAbs_SOLID); it.More(); it.Next()) {
            auto shape = std::make_shared<ExactShape>();
            shape->shape = it.Current();
            shape->births = body.exact()->births;
            TopTools_IndexedMapOfShape faces;
            TopExp::MapShapes(shape->shape, TopAbs_FACE, faces);
            for (int i = 1; i <= faces.Extent(); ++i)
                if (const TagSet* tags = body.exact()->tags.Seek(faces(i))) shape->tags.Bind(faces(i), *tags);
            auto piece = Body::from_exact(shape);
            if (!piece) return pass_on(piece);
            pieces.push_back(*piece);
        }
    } else {
        const TriMesh& mesh = body.mesh();
        UnionFind joined(mesh.vertices.size());
        for (const Triangle& t : mesh.triangles) joined.join(t[0], t[1]), joined.join(t[1], t[2]);
        std::map<size_t, TriMesh> shells;
        bool tagged = mesh.tags.size() == mesh.triangles.size();
        for (size_t i = 0; i < mesh.triangles.size(); ++i) {
            TriMesh& shell = shells[joined.find(mesh.triangles[i][0])];
            Triangle t;
            for (int k = 0; k < 3; ++k) {
                t[size_t(k)] = uint32_t(shell.vertices.size());
                shell.vertices.push_back(mesh.corner(i, k));
            }
            shell.triangles.push_back(t);
            if (tagged) shell.tags.push_back(mesh.tags[i]);
        }
        std::vector<TriMesh> outer, inner;
        for (auto& [root, shell] : shells) {
            TriMesh one = welded(shell);
            (mass_properties(one).volume_mm3 < 0 ? inner : outer).push_back(std::move(one));
        }
        for (const TriMesh& cavity : inner) { // to the smallest piece whose box holds it
            TriMesh* round = nullptr;
            Box3 box = bounding_box(cavity);
            for (TriMesh& shell : outer)
                if (bounding_box(shell).contains(box) &&
                    (!round || bounding_box(shell).volume() < bounding_box(*round).volume()))
                    round = &shell;
            if (round) append(*round, cavity);
        }
        for (TriMesh& shell : outer) pieces.push_back(Body::from_mesh(std::move(shell)));
    }
    std::stable_sort(pieces.begin(), pieces.end(), [](const Body& a, const Body& b) {
        return a.mass().volume_mm3 > b.mass().volume_mm3 * (1 + 1e-9);
    });
    return pieces;
}

} // namespace lp

// Bodies from a file. A mesh as it came: open, flipped or doubled facets stay until a mend step cures them.
#include "steps/meshes/bring_in.h"
#include "base/hash.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_shape.h"
#include "steps/step_kind.h"
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <map>
#include <set>

namespace lp {
namespace {

/// What a face is, whatever its number: a plane by where it looks, a round one by its axis, and the how-many-th of its
/// like it is from outside. A newer file of the same thing has it again, in another order or a little larger.
std::vector<uint32_t> forms_of(const Tessellation& shape) {
    auto rounded = [](double v) { return std::lround(v * 100); };
    std::vector<Hasher> forms;
    std::vector<double> outward; // the larger, the farther out
    for (const FaceInfo& face : shape.faces) {
        Vec3 way = face.direction;
        const bool flat = face.kind == SurfaceKind::Plane;
        if (!flat && way.sum() < 0) way = -way; // an axis has no side
        Hasher form(uint64_t(face.kind) + 1);
        if (face.kind != SurfaceKind::Sphere && face.kind != SurfaceKind::Other)
            for (int k = 0; k < 3; ++k) form.add(int64_t(rounded(way[k])));
        forms.push_back(form);
        outward.push_back(flat ? face.centre.dot(way) : face.radius_mm);
    }
    std::vector<uint32_t> names;
    for (size_t i = 0; i < forms.size(); ++i) {
        std::set<long> farther; // those as far out share a name, and are told apart by their place
        for (size_t j = 0; j < forms.size(); ++j)
            if (forms[j].value() == forms[i].value() && rounded(outward[j]) > rounded(outward[i]))
                farther.insert(rounded(outward[j]));
        names.push_back(uint32_t(Hasher(forms[i]).add(uint64_t(farther.size())).value()));
    }
    return names;
}

/// `which`: tells the solids of one file apart, whose faces are of the same forms; 0 for the only one.
Body with_names_by_form(const Body& body, uint64_t which, const StepContext& context) {
    const Tessellation& shape = body.tessellation();
    const std::vector<uint32_t> forms = forms_of(shape);
    auto named = std::make_shared<ExactShape>(*body.exact());
    named->tags.Clear();
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(named->shape, TopAbs_FACE, faces);
    for (int i = 1; i <= faces.Extent(); ++i) {
        uint32_t form = size_t(i) <= forms.size() ? forms[size_t(i - 1)] : 0;
        if (which) form = uint32_t(Hasher(form).add(which).value());
        named->tags.Bind(faces(i), TagSet{intern_tag({context.step_id, FaceRole::Imported, form, context.copy, 0})});
    }
    return body.with_names(named);
}

/// Facets of one object have one name: the place tells its faces apart.
Expected<Body> with_name_of_object(const Body& body, size_t object, const StepContext& context) {
    TriMesh mesh = body.mesh();
    mesh.tags.assign(mesh.triangles.size(),
                     intern_tag({context.step_id, FaceRole::Imported, uint64_t(object), context.copy, 0}));
    return Body::from_mesh(std::move(mesh));
}

Expected<StepResult> bring_in_bodies(const std::vector<StepBody>& before,
                                     const std::vector<std::pair<std::string, Body>>& bodies, const Affine& place,
                                     const StepContext& context) {
    StepResult result{before, {}, {}};
    std::map<std::string, uint64_t> alike; // solids may share a name: they are counted
    for (const auto& [name, body] : bodies) {
        auto placed = mapped(body, place);
        if (!placed) return pass_on(placed);
        // One body is the step's own; several keep what they are called in the file.
        const size_t number = result.bodies.size() - before.size();
        std::string called = bodies.size() == 1 ? context.name : name;
        if (bodies.size() > 1 && name.empty()) called = "body " + std::to_string(number + 1);
        const uint64_t which = bodies.size() == 1 ? 0 : Hasher().add(std::string_view(name)).add(++alike[name]).value();
        auto named = placed->is_exact() ? Expected<Body>(with_names_by_form(*placed, which, context))
                                        : with_name_of_object(*placed, number, context);
        if (!named) return pass_on(named);
        result.bodies.push_back({context.step_id, called, *named});
    }
    return result;
}

} // namespace

StepKind bring_in_kind() {
    StepKind kind;
    kind.id = "bring_in";
    kind.title = "Bring in";
    kind.purpose = "Bodies from a file: a mesh, or exact ones.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        {"file", FieldKind::File, "", 0, 0, {}, "name of the file in the project"},
        {"scale", FieldKind::Number, "1", 1e-3, 1e4, {}, "25.4 when the file was drawn in inches, 1000 for metres"},
        {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "moved right by"},
        {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "moved back by"},
        {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "moved up by"}};
    kind.sentence = "Bring in {file}, scale {scale}:1, moved by {at_x}, {at_y}, {at_z}";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"import", "load", "mesh", "STEP"};
    kind.asks_for_file = true;
    kind.offers = {{.when = Chosen::Nothing,
                    .place = 60,
                    .words = "Bring in …",
                    .hint = "A mesh or exact bodies from a file, as a part of its own"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (context.growth_mm != 0)
            return problem(ProblemCode::Geometry, "A brought-in body cannot carry a gap yet.",
                           "Model it by simple solids of its measured sizes, or give this fit a gap of 0 mm.");
        const double scale = context.number("scale");
        const Vec3 at(context.number("at_x"), context.number("at_y"), context.number("at_z"));
        auto bodies = context.import_bodies(context.word("file"));
        if (!bodies) return pass_on(bodies);
        if (!bodies->empty()) {
            Affine place = Affine::Identity();
            place.translate(at);
            place.scale(scale);
            return bring_in_bodies(before, *bodies, place, context);
        }
        auto mesh = context.import_mesh(context.word("file"));
        if (!mesh) return pass_on(mesh);
        for (Vec3& v : mesh->vertices) v = v * scale + at;
        if (mesh->tags.empty())
            mesh->tags.assign(mesh->triangles.size(),
                              intern_tag({context.step_id, FaceRole::Imported, 0, context.copy, 0}));
        StepResult result{before, {}, {}};
        result.bodies.push_back({context.step_id, context.name, Body::from_mesh(welded(*mesh))});
        if (const int pieces = result.bodies.back().body.pieces(); size_t(pieces) > most_bodies_of_a_file)
            result.note = "Its " + std::to_string(pieces) + " pieces are brought in as one body.";
        return result;
    };
    return kind;
}

std::map<std::string, std::string> bring_in_fields(const std::string& file, double lift_mm) {
    return {{"file", file}, {"at_z", format_quantity(lift_mm, QuantityKind::Length, 4)}};
}

} // namespace lp

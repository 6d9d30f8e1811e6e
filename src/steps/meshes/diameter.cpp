// Round faces, pegs or holes, made to a typed diameter; their axis stays.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/edges/face_between_walls.h"
#include "steps/meshes/mesh_faces.h"
#include <algorithm>

namespace lp {
namespace {

struct Round {
    Vec3 axis = Vec3::UnitZ(), at = Vec3::Zero();
    double diameter_mm = 0;
    bool ball = false;
};

std::optional<Round> round_of(const TriMesh& mesh, const Facets& facets, const Task& task) {
    const auto form = form_of(mesh, facets, task);
    if (!form || (form->kind != Feature::Kind::Cylinder && form->kind != Feature::Kind::Sphere)) return std::nullopt;
    return Round{form->axis, form->at, form->diameter_mm, form->kind == Feature::Kind::Sphere};
}

tl::unexpected<Problem> not_round() {
    return problem(ProblemCode::Geometry, "These faces are no cylinder and no ball.",
                   "Choose the round wall of a peg or of a hole.");
}

std::string told(const std::set<std::string>& were) {
    std::string words;
    for (const std::string& one : were) words += (words.empty() ? "" : ", ") + one;
    return words;
}

/// A round wall and where its places go.
struct Widened {
    Facets facets;
    Round round;
    double by_mm = 0; ///< of its radius
    Vec3 out(const Vec3& p) const {
        Vec3 d = p - round.at;
        if (!round.ball) d -= d.dot(round.axis) * round.axis;
        return p + d * (2 * by_mm / round.diameter_mm);
    }
};

/// Walls whose neighbours would fold over are taken out and set in again, wider; one changes the numbers of the
/// others' facets, which are found by names lent to them meanwhile.
Expected<TriMesh> set_in_wider(TriMesh mesh, const std::vector<Widened>& walls, const StepContext& context) {
    constexpr Tag lent = ~Tag(0) - 1'000'000; // beyond all that are handed out
    std::vector<std::pair<size_t, Tag>> own;
    mesh.tags.resize(mesh.triangles.size());
    for (size_t w = 0; w < walls.size(); ++w)
        for (uint32_t f : walls[w].facets) {
            const std::pair key{w, mesh.tags[f]};
            const auto found = std::find(own.begin(), own.end(), key);
            mesh.tags[f] = lent + Tag(found - own.begin());
            if (found == own.end()) own.push_back(key);
        }
    auto wall_of = [&](Tag tag) { return tag >= lent && tag - lent < own.size() ? int(own[tag - lent].first) : -1; };
    for (size_t w = 0; w < walls.size(); ++w) {
        Facets facets;
        for (uint32_t i = 0; i < mesh.tags.size(); ++i)
            if (wall_of(mesh.tags[i]) == int(w)) facets.push_back(i);
        const Round& round = walls[w].round;
        if (!round.ball) facets = with_inner_ends(mesh, facets, round.at, round.axis);
        constexpr double sure_mm = 0.02; // more than rims lie off their planes
        PastRim past;
        if (!round.ball) past = {round.axis, sure_mm, sure_mm + std::fabs(walls[w].by_mm)};
        auto set = set_in_again(
            mesh, facets, [&](const Vec3& p) { return walls[w].out(p); }, closing_tag(context), context.task, past);
        if (!set) return set;
        mesh = std::move(*set);
    }
    for (Tag& tag : mesh.tags)
        if (wall_of(tag) >= 0) tag = own[tag - lent].second;
    return mesh;
}

/// Facets go out from their axis as their distance from it grows; rims stay in their planes.
Expected<StepResult> on_triangles(const std::vector<StepBody>& before, const FoundFaces& found, double wanted,
                                  const StepContext& context) {
    std::vector<Facets> rounds;
    Facets rest; // facets of a coarse round are faces each for itself
    const Body& body = before[found.body].body;
    const TriMesh& mesh = body.mesh();
    for (size_t f : found.faces) {
        Facets facets = facets_of(body, {f});
        if (round_of(mesh, facets, context.task))
            rounds.push_back(std::move(facets));
        else
            rest.insert(rest.end(), facets.begin(), facets.end());
    }
    if (!rest.empty()) rounds.push_back(rest);
    TriMesh now = mesh;
    std::set<std::string> were;
    std::vector<Widened> folding;
    Problem why;
    for (const Facets& facets : rounds) {
        const auto round = round_of(now, facets, context.task);
        if (!round) return not_round();
        were.insert("⌀" + format_quantity(round->diameter_mm, QuantityKind::Length, 3));
        if (wanted == 0) continue;
        const Widened wall{facets, *round, (wanted - round->diameter_mm) / 2};
        auto moved = moved_region(now, facets, moved_by([&](const Vec3& p) { return wall.out(p); }), 0, context.task);
        if (moved) {
            now = std::move(*moved);
            continue;
        }
        if (moved.error().code == ProblemCode::Cancelled) return pass_on(moved);
        folding.push_back(wall);
        why = moved.error();
    }
    if (wanted == 0) return StepResult{before, "Now " + told(were) + ". Type what it should be.", {}, {}};
    if (!folding.empty()) {
        auto set = set_in_wider(std::move(now), folding, context);
        if (!set) return pass_on(set.error().code == ProblemCode::Cancelled ? set.error() : why);
        now = std::move(*set);
    }
    auto result = with_mesh(before, found.body, std::move(now), context);
    if (result && result->note.empty()) result->note = "It was " + told(were) + ".";
    return result;
}

/// An exact wall is pushed by half of what it is to grow.
Expected<StepResult> on_exact(const std::vector<StepBody>& before, double wanted, const StepContext& context) {
    StepResult result{before, {}, {}};
    std::set<std::string> were;
    const std::vector<GeometryItem> items = context.value("faces").geometry();
    for (const GeometryItem& item : items) { // each is found again by its name after the one before
        auto one = find_faces(result.bodies, context, std::vector{item});
        if (!one) return pass_on(one);
        const Body& body = result.bodies[one->body].body;
        const FaceInfo& face = body.tessellation().faces[one->faces[0]];
        if (face.kind != SurfaceKind::Cylinder && face.kind != SurfaceKind::Sphere) return not_round();
        were.insert("⌀" + format_quantity(2 * face.radius_mm, QuantityKind::Length, 3));
        const double by = (wanted / 2 - face.radius_mm) * (is_hollow(body.tessellation(), one->faces[0]) ? -1 : 1);
        if (wanted == 0 || std::fabs(by) < tolerance::same_mm) continue;
        KernelCall call;
        call.what = "push";
        call.numbers = {by};
        const double volume = body.mass().volume_mm3,
                     change = 3 * face.area_mm2 * std::fabs(by) + std::pow(std::fabs(by), 3);
        auto next = on_faces(result.bodies, context, *one, call, "Setting a diameter",
                             by > 0 ? volume : std::max(0.0, volume - change), by > 0 ? volume + change : volume);
        if (!next) return next;
        result.bodies = next->bodies;
    }
    result.note = wanted == 0 ? "Now " + told(were) + ". Type what it should be." : "It was " + told(were) + ".";
    return result;
}

} // namespace

StepKind diameter_kind() {
    StepKind kind;
    kind.id = "diameter";
    kind.title = "Set a diameter";
    kind.purpose = "Makes pegs, holes and balls as wide as typed; their axis stays where it is.";
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "round walls of pegs or holes"}.filled_by(Filler::Faces),
        {"diameter", FieldKind::Length, "0 mm", 0, tolerance::largest_mm, {}, "of each; 0: as it is"}};
    kind.sentence = "Set {faces} to ⌀{diameter}";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"width", "radius", "peg", "hole", "resize", "bore"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Face, .place = 32, .on_mesh = true},
                   {.when = Chosen::Faces, .place = 32, .on_mesh = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        const double wanted = context.number("diameter");
        if (before[found->body].body.is_exact()) return on_exact(before, wanted, context);
        if (auto mesh = chosen_mesh_faces(before, context); !mesh) return pass_on(mesh);
        return on_triangles(before, *found, wanted, context);
    };
    return kind;
}

} // namespace lp

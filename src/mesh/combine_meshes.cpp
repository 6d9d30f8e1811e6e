// The library's booleans on triangles. One of the few places that see CGAL.
#include "base/tolerance.h"
#include "mesh/arrange_meshes.h"
#include "mesh/combine.h"
#include "mesh/mend.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include <CGAL/Exact_predicates_exact_constructions_kernel.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/corefinement.h>
#include <CGAL/Surface_mesh.h>

namespace lp {
namespace {

namespace pmp = CGAL::Polygon_mesh_processing;
using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Exact = CGAL::Exact_predicates_exact_constructions_kernel;
using Mesh = CGAL::Surface_mesh<Kernel::Point_3>;
using ExactPoints = Mesh::Property_map<Mesh::Vertex_index, Exact::Point_3>;
using Tags = Mesh::Property_map<Mesh::Face_index, Tag>;

/// Keeps the tag of the facet every new facet came from.
struct TagVisitor : pmp::Corefinement::Default_visitor<Mesh> {
    Tags* tags_a = nullptr;
    Tags* tags_b = nullptr;
    Tags* tags_out = nullptr;
    const Mesh* a = nullptr;
    const Mesh* b = nullptr;
    Tag current = 0;
    Tags& of(const Mesh& mesh) { return &mesh == a ? *tags_a : &mesh == b ? *tags_b : *tags_out; }
    void before_subface_creations(Mesh::Face_index split, const Mesh& mesh) { current = of(mesh)[split]; }
    void after_subface_created(Mesh::Face_index fresh, const Mesh& mesh) { of(mesh)[fresh] = current; }
    void after_face_copy(Mesh::Face_index from, const Mesh& source, Mesh::Face_index to, const Mesh& target) {
        of(target)[to] = of(source)[from];
    }
};

/// Exact points travel with the vertices, so that flush faces at any angle stay flush while computing.
struct ExactPointMap {
    using key_type = Mesh::Vertex_index;
    using value_type = Exact::Point_3;
    using reference = value_type;
    using category = boost::read_write_property_map_tag;
    ExactPoints points;
    Mesh* mesh = nullptr;
    friend reference get(const ExactPointMap& map, key_type v) { return map.points[v]; }
    friend void put(const ExactPointMap& map, key_type v, const value_type& p) {
        auto& exact = const_cast<ExactPoints&>(map.points);
        exact[v] = p;
        CGAL::Cartesian_converter<Exact, Kernel> round;
        map.mesh->point(v) = round(p);
    }
};

struct Operand {
    Mesh mesh;
    ExactPoints points;
    Tags tags;
    bool usable = false;
    Operand() {
        points = mesh.add_property_map<Mesh::Vertex_index, Exact::Point_3>("v:exact").first;
        tags = mesh.add_property_map<Mesh::Face_index, Tag>("f:tag", 0).first;
    }
    Operand(const Operand&) = delete;
    ExactPointMap map() { return {points, &mesh}; }
};

std::unique_ptr<Operand> to_operand(const TriMesh& source) {
    auto result = std::make_unique<Operand>();
    bool tagged = source.tags.size() == source.triangles.size();
    std::vector<Mesh::Vertex_index> vertices;
    for (const Vec3& v : source.vertices) {
        auto index = result->mesh.add_vertex(Kernel::Point_3(v.x(), v.y(), v.z()));
        result->points[index] = Exact::Point_3(v.x(), v.y(), v.z());
        vertices.push_back(index);
    }
    result->usable = true;
    for (size_t i = 0; i < source.triangles.size(); ++i) {
        const Triangle& t = source.triangles[i];
        auto face = result->mesh.add_face(vertices[t[0]], vertices[t[1]], vertices[t[2]]);
        if (face == Mesh::null_face()) {
            result->usable = false;
            return result;
        }
        if (tagged) result->tags[face] = source.tags[i];
    }
    result->usable = CGAL::is_closed(result->mesh);
    return result;
}

TriMesh from_mesh(const Mesh& mesh, const Tags* tags) {
    TriMesh result;
    std::vector<uint32_t> index(mesh.number_of_vertices() + mesh.number_of_removed_vertices(), ~0u);
    for (auto v : mesh.vertices()) {
        index[v] = uint32_t(result.vertices.size());
        const auto& p = mesh.point(v);
        result.vertices.push_back({p.x(), p.y(), p.z()});
    }
    for (auto f : mesh.faces()) {
        Triangle t{};
        int k = 0;
        for (auto v : CGAL::vertices_around_face(mesh.halfedge(f), mesh))
            if (k < 3) t[k++] = index[v];
        result.triangles.push_back(t);
        if (tags) result.tags.push_back((*tags)[f]);
    }
    return result;
}

/// Rounding may leave facets without area; dropping one of a closed pair would open the mesh, so short edges are
/// collapsed instead.
TriMesh without_slivers(TriMesh mesh) {
    constexpr double short_mm = 1e-6;
    for (int pass = 0; pass < 8; ++pass) {
        std::vector<uint32_t> target(mesh.vertices.size());
        for (uint32_t i = 0; i < target.size(); ++i) target[i] = i;
        bool changed = false;
        std::vector<bool> touched(mesh.vertices.size(), false);
        for (const Triangle& t : mesh.triangles)
            for (int k = 0; k < 3; ++k) {
                uint32_t a = t[k], b = t[(k + 1) % 3];
                if (touched[a] || touched[b] || (mesh.vertices[a] - mesh.vertices[b]).norm() > short_mm) continue;
                touched[a] = touched[b] = true;
                target[b] = a;
                changed = true;
            }
        if (!changed) break;
        TriMesh next;
        next.vertices = mesh.vertices;
        bool tagged = mesh.tags.size() == mesh.triangles.size();
        for (size_t i = 0; i < mesh.triangles.size(); ++i) {
            Triangle t{target[mesh.triangles[i][0]], target[mesh.triangles[i][1]], target[mesh.triangles[i][2]]};
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
            next.triangles.push_back(t);
            if (tagged) next.tags.push_back(mesh.tags[i]);
        }
        mesh = std::move(next);
    }
    return mesh;
}

/// One pair by corefinement; no value when the library refuses.
std::optional<TriMesh> corefine(Operation operation, const TriMesh& first, const TriMesh& second) {
    auto a = to_operand(first), b = to_operand(second);
    if (!a->usable || !b->usable) return std::nullopt;
    Operand out;
    TagVisitor visitor;
    visitor.a = &a->mesh;
    visitor.b = &b->mesh;
    visitor.tags_a = &a->tags;
    visitor.tags_b = &b->tags;
    visitor.tags_out = &out.tags;
    auto pa = pmp::parameters::vertex_point_map(a->map()).visitor(visitor).throw_on_self_intersection(true);
    auto pb = pmp::parameters::vertex_point_map(b->map());
    auto po = pmp::parameters::vertex_point_map(out.map());
    // One call for all three operations: each of the library's own three instantiates the whole of it again.
    std::array<boost::optional<Mesh*>, 4> outputs;
    const size_t which = operation == Operation::Join     ? pmp::Corefinement::UNION
                         : operation == Operation::Common ? pmp::Corefinement::INTERSECTION
                                                          : pmp::Corefinement::TM1_MINUS_TM2;
    outputs[which] = &out.mesh;
    if (!pmp::corefine_and_compute_boolean_operations(a->mesh, b->mesh, outputs, pa, pb,
                                                      std::make_tuple(po, po, po, po))[which])
        return std::nullopt;
    return without_slivers(from_mesh(out.mesh, &out.tags));
}

/// Whether every edge has its partner and every facet an area. The arrangement pairs its facets itself, so that the
/// quick look at its own corners nearly always says so; where it does not, the whole check decides.
bool closed_and_even(const TriMesh& mesh, const Task& task) {
    const auto has_area = [&](size_t i) { // well beyond what the whole check calls degenerate
        const Vec3 &a = mesh.corner(i, 0), &b = mesh.corner(i, 1), &c = mesh.corner(i, 2);
        const double longest = std::max({(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()});
        return mesh.area_vector(i).norm() > 1e-11 * longest;
    };
    size_t i = 0;
    while (i < mesh.triangles.size() && has_area(i)) ++i;
    if (i == mesh.triangles.size() && is_closed(mesh)) return true;
    const Soundness sound = check_soundness(mesh, {.self_intersections = false}, task);
    return sound.closed && !sound.open_edges && !sound.inconsistent_edges && !sound.degenerate;
}

/// The exact arrangement, believed only when its result is closed, even and as large as it may be.
std::optional<TriMesh> by_arrangement(Operation operation, const std::vector<TriMesh>& operands, const Task& task) {
    auto arranged = arrange_meshes(operation, operands, task);
    if (!arranged) return std::nullopt;
    if (arranged->empty()) return operation == Operation::Join ? std::nullopt : std::optional(TriMesh{});
    TriMesh mesh = without_slivers(std::move(*arranged));
    if (!closed_and_even(mesh, task)) return std::nullopt;
    std::vector<double> others;
    for (size_t i = 1; i < operands.size(); ++i) others.push_back(mass_properties(operands[i]).volume_mm3);
    double first = mass_properties(operands[0]).volume_mm3, volume = mass_properties(mesh).volume_mm3;
    if (check_boolean_volume(operation, volume, first, others)) return std::nullopt;
    return mesh;
}

Expected<TriMesh> combine_pair(Operation operation, const TriMesh& first, const TriMesh& second) {
    // Bodies whose boxes stay apart need no arithmetic at all.
    if (!bounding_box(first).intersects(bounding_box(second))) {
        if (operation == Operation::Cut) return first;
        if (operation == Operation::Common) return TriMesh{};
        TriMesh both = first;
        append(both, second);
        return both;
    }
    // Exact, and right also where bodies lie on each other, touch along edges or overlap themselves.
    if (auto arranged = by_arrangement(operation, {first, second}, {})) return *arranged;
    try {
        if (auto result = corefine(operation, first, second)) return *result;
    } catch (const std::exception&) {
    }
    for (const TriMesh* operand : {&first, &second})
        if (!intersecting_pairs(*operand).empty())
            return problem(ProblemCode::Geometry, "One of these meshes passes through itself.",
                           "Mend it first, or change a size a little.");
    return problem(ProblemCode::Geometry, "These meshes could not be combined.",
                   "Mend both first, or move one of them by 0.01 mm.");
}

/// A file's shells may overlap; corefinement wants operands that do not. Apart, they are left as they are.
Expected<TriMesh> unite_shells(Soundness& sound, const Task& task) {
    if (sound.shells < 2) return std::move(sound.kept);
    std::vector<TriMesh> bodies = separate_bodies(sound);
    std::vector<Box3> boxes;
    for (const TriMesh& body : bodies) boxes.push_back(bounding_box(body));
    bool apart = true;
    for (size_t i = 0; i < bodies.size(); ++i)
        for (size_t j = i + 1; j < bodies.size(); ++j) apart = apart && !boxes[i].intersects(boxes[j]);
    if (apart) return std::move(sound.kept);
    TriMesh result = std::move(bodies[0]);
    for (size_t i = 1; i < bodies.size(); ++i) {
        if (task.stopped()) return cancelled();
        auto next = combine_pair(Operation::Join, result, bodies[i]);
        if (!next) return next;
        result = std::move(*next);
    }
    return result;
}

/// Slits without width, of T-joints: closed, but not corner to corner.
void close_slits(Soundness& sound, const Task& task) {
    if (!sound.closed || !sound.open_edges) return;
    if (auto mended = mend(sound.kept, {.debris_mm = 0, .unite = false}, task))
        sound = check_soundness(mended->mesh, {.self_intersections = false}, task);
}

Expected<TriMesh> nothing_left(Operation operation) {
    return problem(ProblemCode::NothingLeft, "Nothing is left after this.",
                   operation == Operation::Common ? "The bodies have no material in common: move one of them."
                                                  : "The cut takes the whole body away: make it smaller.");
}

} // namespace

Expected<TriMesh> united_with_itself(const TriMesh& mesh, const Task& task) {
    auto arranged = arrange_meshes(Operation::Join, {mesh}, task, true);
    if (arranged && !arranged->empty()) {
        TriMesh united = without_slivers(std::move(*arranged));
        if (closed_and_even(united, task)) return united;
    }
    if (task.stopped()) return cancelled();
    const auto failed = problem(ProblemCode::Geometry, "The surface could not be united with itself.", "Rebuild it.");
    Soundness sound = check_soundness(mesh, {.self_intersections = false}, task);
    if (sound.shells < 2) return failed;
    auto joined = unite_shells(sound, task); // one after the other
    if (!joined) return joined;
    if (!closed_and_even(*joined, task)) return failed;
    return joined;
}

Expected<TriMesh> combine_meshes(Operation operation, const std::vector<TriMesh>& operands, const Task& task) {
    std::vector<TriMesh> ready;
    for (size_t i = 0; i < operands.size(); ++i) {
        Soundness sound = check_soundness(operands[i], {.self_intersections = false}, task);
        close_slits(sound, task);
        std::string which = operands.size() > 1 ? "body " + std::to_string(i + 1) : "the body";
        if (!sound.closed)
            return problem(ProblemCode::Open,
                           which + " is not closed: " + std::to_string(sound.open_edges.count) + " open edges in " +
                               std::to_string(sound.holes.count) + " holes.",
                           "Mend it first.");
        if (sound.inconsistent_edges || sound.inside_out)
            return problem(ProblemCode::Open, which + " has facets that face the wrong way.", "Mend it first.");
        auto united = unite_shells(sound, task);
        if (!united) return united;
        ready.push_back(std::move(*united));
    }
    if (ready.empty()) return problem(ProblemCode::Missing, "There is nothing to combine.");
    // Many at once: in one arrangement no order matters, and flush bodies leave no slivers between them.
    if (ready.size() > 3) {
        task.tell("Combining meshes", 0.2);
        if (auto arranged = by_arrangement(operation, ready, task)) {
            if (arranged->empty()) return nothing_left(operation);
            return std::move(*arranged);
        }
        if (task.stopped()) return cancelled();
    }
    TriMesh result = std::move(ready[0]);
    if (operation == Operation::Cut && ready.size() > 2) {
        // Unite the tools first: flush cuts one after the other would grow slivers (architecture.md).
        TriMesh tools = std::move(ready[1]);
        for (size_t i = 2; i < ready.size(); ++i) {
            if (task.stopped()) return cancelled();
            auto next = combine_pair(Operation::Join, tools, ready[i]);
            if (!next) return next;
            tools = std::move(*next);
        }
        ready.resize(2);
        ready[1] = std::move(tools);
    }
    for (size_t i = 1; i < ready.size(); ++i) {
        if (task.stopped()) return cancelled();
        task.tell("Combining meshes", double(i) / double(ready.size()));
        auto next = combine_pair(operation, result, ready[i]);
        if (!next) return next;
        result = std::move(*next);
    }
    if (result.empty()) return nothing_left(operation);
    return result;
}

Expected<CommonPart> common_part(const TriMesh& a, const TriMesh& b) {
    if (!bounding_box(a).intersects(bounding_box(b))) return CommonPart{};
    auto both = combine_pair(Operation::Common, welded(a), welded(b));
    if (!both) return pass_on(both);
    CommonPart common;
    common.volume_mm3 = std::max(0.0, mass_properties(*both).volume_mm3);
    if (both->empty()) return common;
    double largest = -1;
    for (const TriMesh& piece : separate_bodies(check_soundness(*both, {.self_intersections = false}))) {
        const MassProperties mass = mass_properties(piece);
        if (mass.volume_mm3 <= largest || piece.empty()) continue;
        largest = mass.volume_mm3;
        // A bent piece does not hold its own centre: then the place of its skin next to it.
        const DistanceTree skin(piece);
        common.at = skin.inside(mass.centre) ? mass.centre : skin.closest(mass.centre).point;
    }
    return common;
}

} // namespace lp

#include "steps/splitting/parting.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/chains.h"
#include "shape/copies.h"
#include "shape/occt_convert.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/solids/profile_shape.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <algorithm>
#include <gp_Pln.hxx>
#include <map>

namespace lp {
namespace {

/// Faces of an exact body that lie in the plane.
std::vector<TopoDS_Face> section_faces(const Body& body, const Transform& plane) {
    std::vector<TopoDS_Face> found;
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(body.exact()->shape, TopAbs_FACE, faces);
    Vec3 n = plane.linear().col(2);
    for (int i = 1; i <= faces.Extent(); ++i) {
        TopoDS_Face face = TopoDS::Face(faces(i));
        BRepAdaptor_Surface surface(face, false);
        if (surface.GetType() != GeomAbs_Plane) continue;
        gp_Pln p = surface.Plane();
        Vec3 normal = to_direction(p.Axis().Direction());
        if (std::fabs(std::fabs(normal.dot(n)) - 1) < 1e-9 &&
            std::fabs((to_vec(p.Location()) - plane.translation()).dot(n)) < 1e-6)
            found.push_back(face);
    }
    return found;
}

Expected<std::optional<Combined>> widen_exact(const Body& body, const Transform& plane, double apart, TagSource source,
                                              const Task& task) {
    auto space = space_above(plane, body.box(), source);
    if (!space) return pass_on(space);
    auto lower = combine(Operation::Cut, body, {*space}, task),
         upper = combine(Operation::Common, body, {*space}, task);
    for (const auto* half : {&lower, &upper})
        if (!*half) {
            if (half->error().code == ProblemCode::NothingLeft) return std::optional<Combined>();
            return pass_on(*half);
        }
    if (!lower->body.is_exact() || !upper->body.is_exact())
        return problem(ProblemCode::Geometry, "This body cannot be parted there exactly.",
                       "Move the plane by 0.01 mm.");
    Transform move = Transform::Identity();
    move.translation() = apart * plane.linear().col(2);
    auto far = moved(upper->body, move);
    if (!far) return pass_on(far);
    // The wall across: every section face drawn out. Its sides take the names of the walls they lie flush with.
    std::vector<Body> others;
    double area = 0;
    auto bridges = guard_kernel("drawing walls across", [&]() -> Expected<int> {
        uint64_t number = 0;
        for (const TopoDS_Face& face : section_faces(lower->body, plane)) {
            Vec3 way = move.translation();
            BRepPrimAPI_MakePrism prism(face, gp_Vec(way.x(), way.y(), way.z()));
            auto shape = std::make_shared<ExactShape>();
            shape->shape = prism.Shape();
            TopTools_IndexedMapOfShape sides;
            TopExp::MapShapes(shape->shape, TopAbs_FACE, sides);
            for (int i = 1; i <= sides.Extent(); ++i)
                shape->tags.Bind(sides(i), {intern_tag({source.step, FaceRole::Side, ++number, source.copy, 0})});
            auto bridge = Body::from_exact(shape);
            if (!bridge) return pass_on(bridge);
            if (bridge->mass().volume_mm3 < 0) {
                shape->shape.Reverse();
                bridge = Body::from_exact(shape);
            }
            area += bridge->mass().volume_mm3 / apart;
            others.push_back(*bridge);
        }
        return int(number);
    });
    if (!bridges) return pass_on(bridges);
    others.push_back(*far);
    auto whole = combine(Operation::Join, lower->body, others, task);
    if (!whole) return pass_on(whole);
    double want = body.mass().volume_mm3 + area * apart;
    if (std::fabs(whole->body.mass().volume_mm3 - want) > tolerance::boolean_volume * want)
        return problem(ProblemCode::Geometry, "The halves could not be joined across the gap.",
                       "Move the plane by 0.01 mm.");
    return std::optional(*whole);
}

/// On triangles without any boolean: each facet that crosses the plane is parted, and every cut side drawn out.
std::optional<TriMesh> widen_mesh(const TriMesh& mesh, const Transform& plane, double apart) {
    Transform to_plane = plane.inverse();
    Vec3 way = apart * plane.linear().col(2);
    std::vector<double> height;
    bool below = false, above = false;
    for (const Vec3& v : mesh.vertices) {
        double z = (to_plane * v).z();
        if (std::fabs(z) < 1e-9) z = 0; // on the plane counts as above: nothing is cut through a corner
        height.push_back(z);
        below = below || z < 0;
        above = above || z > 0;
    }
    if (!below || !above) return std::nullopt;
    TriMesh out;
    bool tagged = mesh.tags.size() == mesh.triangles.size();
    std::vector<std::array<uint32_t, 2>> place(mesh.vertices.size(), {~0u, ~0u}); // below, above
    auto vertex = [&](uint32_t v, bool up) {
        uint32_t& at = place[v][up];
        if (at == ~0u) {
            at = uint32_t(out.vertices.size());
            out.vertices.push_back(up ? Vec3(mesh.vertices[v] + way) : mesh.vertices[v]);
        }
        return at;
    };
    std::map<std::pair<uint32_t, uint32_t>, std::array<uint32_t, 2>> cuts;
    auto cut = [&](uint32_t a, uint32_t b, bool up) { // a point where an edge meets the plane, once for each half
        auto [it, fresh] = cuts.try_emplace(std::minmax(a, b), std::array<uint32_t, 2>{~0u, ~0u});
        if (it->second[up] == ~0u) {
            auto [p, q] = it->first;
            double t = height[p] / (height[p] - height[q]);
            it->second[up] = uint32_t(out.vertices.size());
            out.vertices.push_back(mesh.vertices[p] + t * (mesh.vertices[q] - mesh.vertices[p]) +
                                   (up ? way : Vec3(0, 0, 0)));
        }
        return it->second[up];
    };
    auto add = [&](std::vector<uint32_t> polygon, Tag tag) {
        polygon.erase(std::unique(polygon.begin(), polygon.end()), polygon.end());
        while (polygon.size() > 1 && polygon.front() == polygon.back()) polygon.pop_back();
        for (size_t k = 1; k + 1 < polygon.size(); ++k) {
            out.triangles.push_back({polygon[0], polygon[k], polygon[k + 1]});
            if (tagged) out.tags.push_back(tag);
        }
    };
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const Triangle& t = mesh.triangles[i];
        Tag tag = tagged ? mesh.tags[i] : 0;
        std::vector<uint32_t> half[2];
        std::vector<std::array<uint32_t, 2>> seam; // (below, above) where the facet's rim goes through the plane
        bool goes_up = false;
        for (int k = 0; k < 3; ++k) {
            uint32_t a = t[size_t(k)], b = t[size_t((k + 1) % 3)];
            bool up_a = height[a] >= 0, up_b = height[b] >= 0;
            half[up_a].push_back(vertex(a, up_a));
            if (up_a == up_b) continue;
            std::array<uint32_t, 2> both;
            if (up_a ? height[a] == 0 : height[b] == 0) { // through a corner on the plane
                uint32_t corner = up_a ? a : b;
                both = {vertex(corner, false), vertex(corner, true)};
                half[false].push_back(both[0]);
            } else {
                both = {cut(a, b, false), cut(a, b, true)};
                half[up_a].push_back(both[up_a]);
                half[up_b].push_back(both[up_b]);
            }
            if (seam.empty()) goes_up = up_b;
            seam.push_back(both);
        }
        for (bool up : {false, true})
            if (half[up].size() >= 3) add(half[up], tag);
        if (seam.size() == 2 && seam[0][0] != seam[1][0]) {
            // The wall between the halves, turned as the facet is.
            auto [first, second] = goes_up ? std::pair(seam[0], seam[1]) : std::pair(seam[1], seam[0]);
            add({second[0], first[0], first[1], second[1]}, tag);
        }
    }
    return out;
}

} // namespace

Expected<std::vector<FlatRegion>> regions_left_of(const PlacedOutline& outline, double reach_mm) {
    const auto longest = longest_open_chain(outline.shape->curves);
    if (!longest) {
        auto inside = chosen_regions(*outline.shape, "all");
        if (!inside) return pass_on(inside);
        return merged_regions(outline.shape->arrangement, *inside);
    }
    std::vector<SourcedCurve> border = longest->curves;
    auto end_way = [](const Curve& c, bool last) {
        double t = last ? c.end() : 0, e = c.end() * 1e-6;
        Vec2 d = last ? Vec2(c.at(t) - c.at(t - e)) : Vec2(c.at(0) - c.at(e));
        return d.normalized();
    };
    Vec2 first = border.front().curve.first(), last = border.back().curve.last();
    Vec2 out_first = first + reach_mm * end_way(border.front().curve, false),
         out_last = last + reach_mm * end_way(border.back().curve, true);
    // Closed round the left side, far away: from the last end counter-clockwise back to the first.
    Vec2 centre = (first + last) / 2;
    auto angle = [&](const Vec2& p) { return std::atan2(p.y() - centre.y(), p.x() - centre.x()); };
    double from = angle(out_last), to = angle(out_first);
    while (to <= from + 1e-9) to += 2 * std::numbers::pi;
    std::vector<Vec2> around{out_last};
    for (int k = 1; k < 8; ++k) {
        double a = from + (to - from) * k / 8;
        around.push_back(centre + 2 * reach_mm * Vec2(std::cos(a), std::sin(a)));
    }
    around.push_back(out_first);
    SourceKey key = 0x5eed000000000000u;
    auto line = [&](const Vec2& a, const Vec2& b) {
        SourcedCurve s;
        s.curve = Curve::line(a, b);
        s.key = ++key;
        border.push_back(s);
    };
    line(last, out_last);
    for (size_t k = 0; k + 1 < around.size(); ++k) line(around[k], around[k + 1]);
    line(out_first, first);
    auto arrangement = arrange(border);
    if (!arrangement) return pass_on(arrangement);
    if (arrangement->regions.size() != 1)
        return problem(ProblemCode::Geometry,
                       "The line's ends, carried on straight, cross it: it does not part anything.",
                       "Let both ends run out of the body.");
    return arrangement->regions;
}

Expected<std::optional<Combined>> widened(const Body& body, const Transform& plane, double apart_mm, TagSource tags,
                                          const Task& task) {
    if (body.is_exact()) {
        auto exact = widen_exact(body, plane, apart_mm, tags, task);
        if (exact || exact.error().code == ProblemCode::Cancelled) return exact;
        auto mesh = widen_mesh(body.mesh(), plane, apart_mm);
        if (!mesh) return std::optional<Combined>();
        return std::optional(
            Combined{Body::from_mesh(std::move(*mesh)),
                     "done on triangles, because the exact way failed; the body is faceted from here"});
    }
    auto mesh = widen_mesh(body.mesh(), plane, apart_mm);
    if (!mesh) return std::optional<Combined>();
    return std::optional(Combined{Body::from_mesh(std::move(*mesh)), {}});
}

double reach_beyond(const Box3& box) {
    return box.isEmpty() ? 1 : 4 * (box.diagonal().norm() + box.center().norm()) + 20;
}

double reach_beyond(const std::vector<StepBody>& bodies) {
    Box3 box;
    for (const StepBody& b : bodies) box.extend(b.body.box());
    return reach_beyond(box);
}

Expected<Body> space_above(const Transform& plane, const Box3& box, TagSource tags) {
    const double reach = reach_beyond(box);
    Transform at = plane;
    at.translate(Vec3(-reach, -reach, 0));
    return make_block({2 * reach, 2 * reach, 2 * reach}, at, tags);
}

Expected<FittedParting> fitted_parting(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.growth_mm != 0)
        return problem(ProblemCode::Geometry, "Parted halves cannot be remade larger by their numbers.", "");
    auto plane = find_plane(before, context, context.value("by"));
    if (!plane) return pass_on(plane);
    plane->translate(Vec3(0, 0, context.number("distance")));
    auto gap = context.fit_gap(context.word("fit"), "");
    if (!gap) return pass_on(gap);
    return FittedParting{*plane, *gap};
}

/// What bends goes with the half its root is in: from the lower one, which has all of it, to the upper one.
static void part_bends(const Transform& plane, StepBody& lower, StepBody& upper) {
    const Transform flat = plane.inverse();
    const auto first = std::stable_partition(lower.bends.begin(), lower.bends.end(),
                                             [&](const Bending& bend) { return (flat * bend.root).z() < 0; });
    upper.bends.assign(first, lower.bends.end());
    lower.bends.erase(first, lower.bends.end());
}

Expected<StepResult> part_in_halves(
    const std::vector<StepBody>& before, const StepContext& context, const Transform& plane,
    const std::function<Expected<std::optional<Halves>>(const Body& body, const std::string& called)>& part) {
    auto chosen = pick_bodies(before, context.word("what"), "split");
    if (!chosen) return pass_on(chosen);
    StepResult result{before, {}, StepPlace{plane, {}, {}}};
    std::vector<StepBody> added;
    for (size_t i : *chosen) {
        if (context.cancelled()) return cancelled();
        const std::string whole = context.name.empty() ? before[i].name : context.name;
        const std::string called = whole.empty() ? "" : whole + " ";
        auto halves = part(before[i].body, called);
        if (!halves) return pass_on(halves);
        if (!*halves) continue;
        result.bodies[i].body = (*halves)->lower;
        StepBody upper{context.step_id, called + "above", (*halves)->upper};
        upper.solids = before[i].solids;
        part_bends(plane, result.bodies[i], upper);
        added.push_back(std::move(upper));
        std::move((*halves)->more.begin(), (*halves)->more.end(), std::back_inserter(added));
    }
    if (added.empty())
        return problem(ProblemCode::Geometry, "The parting misses the body: nothing is split.",
                       "Move it, or turn the plane.");
    std::move(added.begin(), added.end(), std::back_inserter(result.bodies));
    return result;
}

std::vector<StepField> parting_fields(std::vector<StepField> more) {
    const double far = tolerance::largest_mm;
    std::vector<StepField> all{
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
        StepField{"by", FieldKind::Plane, "xy", 0, 0, {}, "plane or face that parts them"}.filled_by(Filler::LastFace),
        {"distance", FieldKind::Length, "0 mm", -far, far, {}, "from that plane or face"}};
    for (StepField& f : more) all.push_back(std::move(f));
    return all;
}

} // namespace lp

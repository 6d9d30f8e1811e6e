#include "shape/face_reference.h"
#include "base/text.h"
#include "base/whole_json.h"
#include "shape/picked_place.h"
#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

namespace lp {

Vec3 place_of(const Body& body, const FaceReference& reference) {
    if (reference.fraction)
        if (auto birth = body.birth(reference.primary)) return point_at(*birth, *reference.fraction);
    return reference.point;
}
namespace {

using nlohmann::json;

tl::unexpected<Problem> lost(const FaceReference& reference, const char* how) {
    Problem p{ProblemCode::Missing,
              "The " + tag_words(reference.primary) + " face " + how + ".",
              "Pick a face again.",
              reference.point,
              {}};
    return pass_on(p);
}

json reference_json(const FaceReference& r) {
    json j{{"tags", r.tags},
           {"primary", r.primary},
           {"point", {r.point.x(), r.point.y(), r.point.z()}},
           {"neighbours", r.neighbours}};
    if (r.fraction) j["fraction"] = {r.fraction->x(), r.fraction->y(), r.fraction->z()};
    return j;
}

FaceReference reference_of(const json& j) {
    FaceReference r;
    auto vec = [](const json& a) {
        auto v = a.get<std::array<double, 3>>();
        return Vec3(v[0], v[1], v[2]);
    };
    r.tags = whole_of<TagSet>(j.at("tags"));
    r.primary = whole_of<Tag>(j.at("primary"));
    r.point = vec(j.at("point"));
    if (j.contains("fraction")) r.fraction = vec(j["fraction"]);
    r.neighbours = whole_of<TagSet>(j.at("neighbours"));
    std::sort(r.tags.begin(), r.tags.end());
    std::sort(r.neighbours.begin(), r.neighbours.end());
    return r;
}

} // namespace

FaceReference make_reference(const Body& body, size_t face, const Vec3& point) {
    const FaceInfo& info = body.tessellation().faces.at(face);
    FaceReference r{info.tags, info.primary(), point, {}, neighbours_of(body.tessellation(), face)};
    // Of a merged face the tag whose birth the clicked point lies in is the primary one.
    double best = 1e300;
    for (Tag tag : info.tags)
        if (auto birth = body.birth(tag)) {
            Vec3 f = fraction_of(*birth, point), out = (f - Vec3(0.5, 0.5, 0)).cwiseAbs() - Vec3(0.5, 0.5, 0);
            if (double off = out.cwiseMax(0).norm(); off < best - 1e-9) best = off, r.primary = tag;
        }
    if (auto birth = body.birth(r.primary)) r.fraction = fraction_of(*birth, point);
    return r;
}

static bool in_one_plane(const FaceInfo& a, const FaceInfo& b) {
    return a.kind == SurfaceKind::Plane && b.kind == SurfaceKind::Plane && a.direction.dot(b.direction) > 1 - 1e-9 &&
           std::fabs((a.centre - b.centre).dot(a.direction)) < 1e-6;
}

static bool in_one_cylinder(const FaceInfo& a, const FaceInfo& b) {
    return a.kind == SurfaceKind::Cylinder && b.kind == SurfaceKind::Cylinder &&
           std::fabs(a.radius_mm - b.radius_mm) < 1e-6 && std::fabs(a.direction.dot(b.direction)) > 1 - 1e-9 &&
           (a.axis_point - b.axis_point).cross(b.direction).norm() < 1e-6;
}

Expected<size_t> resolve_reference(const Body& body, const FaceReference& reference, bool any_in_plane) {
    const Tessellation& t = body.tessellation();
    std::vector<size_t> candidates;
    for (size_t i = 0; i < t.faces.size(); ++i)
        if (has_tag(t.faces[i].tags, reference.primary)) candidates.push_back(i);
    if (candidates.empty()) return lost(reference, "that was picked is gone");
    if (candidates.size() == 1) return candidates[0];
    Vec3 point = place_of(body, reference);
    std::vector<double> likeness, distance;
    std::vector<size_t> holding;
    // Faces of a mesh that came from a file share one name: the place tells them apart, as near as rays find it.
    const bool by_place = !body.is_exact() && !reference.fraction;
    const double holds_mm = by_place ? 0.02 : 1e-3;
    for (size_t face : candidates) {
        likeness.push_back(tag_likeness(neighbours_of(t, face), reference.neighbours));
        distance.push_back(distance_to_face(t, face, point));
        if (distance.back() < holds_mm) holding.push_back(face);
    }
    auto best = size_t(std::max_element(likeness.begin(), likeness.end()) - likeness.begin());
    auto near = size_t(std::min_element(distance.begin(), distance.end()) - distance.begin());
    double second = 0;
    for (size_t i = 0; i < likeness.size(); ++i)
        if (i != best) second = std::max(second, likeness[i]);
    bool clear = likeness[best] > second + 0.1;
    // The place says one piece, and the surroundings do not clearly say another.
    if ((reference.fraction || by_place) && holding.size() == 1 && (!clear || candidates[best] == holding[0]))
        return holding[0];
    if (clear && best == near) return candidates[best];
    const FaceInfo& first = t.faces[candidates[0]];
    const bool same = std::all_of(candidates.begin(), candidates.end(), [&](size_t face) {
        return in_one_plane(t.faces[face], first) || in_one_cylinder(t.faces[face], first);
    });
    if (any_in_plane && same) return candidates[near];
    return lost(reference, "that was picked is in pieces now");
}

EdgeReference make_edge_reference(const Body& body, size_t edge, const Vec3& point) {
    const Tessellation& t = body.tessellation();
    const EdgeInfo& info = t.edges.at(edge);
    EdgeReference r;
    if (info.face_a >= 0) r.a = make_reference(body, size_t(info.face_a), point);
    if (info.face_b >= 0) r.b = make_reference(body, size_t(info.face_b), point);
    std::set<int> met;
    for (const EdgeInfo& other : t.edges)
        for (const Vec3& end : {info.points.front(), info.points.back()})
            for (const Vec3& theirs : {other.points.front(), other.points.back()})
                if ((end - theirs).norm() < 1e-6) met.insert({other.face_a, other.face_b});
    for (int face : met)
        if (face >= 0 && face != info.face_a && face != info.face_b) add_tags(r.ends, t.faces[size_t(face)].tags);
    return r;
}

Expected<size_t> resolve_edge(const Body& body, const EdgeReference& reference) {
    const Tessellation& t = body.tessellation();
    auto carries = [&](int face, Tag tag) { return face >= 0 && has_tag(t.faces[size_t(face)].tags, tag); };
    std::vector<size_t> candidates;
    for (size_t i = 0; i < t.edges.size(); ++i) {
        const EdgeInfo& e = t.edges[i];
        if ((carries(e.face_a, reference.a.primary) && carries(e.face_b, reference.b.primary)) ||
            (carries(e.face_b, reference.a.primary) && carries(e.face_a, reference.b.primary)))
            candidates.push_back(i);
    }
    if (candidates.empty()) return lost(reference.a, "has lost the edge that was picked");
    if (candidates.size() == 1) return candidates[0];
    Vec3 point = (place_of(body, reference.a) + place_of(body, reference.b)) / 2;
    std::vector<double> likeness, distance;
    for (size_t i : candidates) {
        likeness.push_back(tag_likeness(make_edge_reference(body, i, t.edges[i].points.front()).ends, reference.ends));
        distance.push_back(distance_to_edge(t.edges[i], point));
    }
    auto best = size_t(std::max_element(likeness.begin(), likeness.end()) - likeness.begin());
    auto near = size_t(std::min_element(distance.begin(), distance.end()) - distance.begin());
    double second = 0, next = 1e300;
    for (size_t i = 0; i < likeness.size(); ++i) {
        if (i != best) second = std::max(second, likeness[i]);
        if (i != near) next = std::min(next, distance[i]);
    }
    bool clear = likeness[best] > second + 0.1;
    if (clear && best == near) return candidates[best];
    const bool by_place = !body.is_exact() && !reference.a.fraction;
    if (!clear && (reference.a.fraction || by_place) && distance[near] < (by_place ? 0.02 : 1e-3) &&
        next > (by_place ? 0.05 : 0.01))
        return candidates[near];
    return lost(reference.a, "has its picked edge in pieces now");
}

std::string reference_text(const FaceReference& reference) {
    return reference_json(reference).dump();
}

std::string reference_text(const EdgeReference& r) {
    return json{{"a", reference_json(r.a)}, {"b", reference_json(r.b)}, {"ends", r.ends}}.dump();
}

std::optional<FaceReference> face_reference_from(const std::string& text) {
    json j = json::parse(text, nullptr, false);
    if (!j.is_object()) return std::nullopt;
    try {
        return reference_of(j);
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

std::optional<EdgeReference> edge_reference_from(const std::string& text) {
    json j = json::parse(text, nullptr, false);
    if (!j.is_object()) return std::nullopt;
    try {
        EdgeReference r{reference_of(j.at("a")), reference_of(j.at("b")), whole_of<TagSet>(j.at("ends"))};
        std::sort(r.ends.begin(), r.ends.end());
        return r;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

namespace {
TagSet in_copy(const TagSet& tags, uint64_t copy) {
    TagSet changed;
    for (Tag tag : tags) changed.push_back(tag_in_copy(tag, copy));
    std::sort(changed.begin(), changed.end());
    return changed;
}
} // namespace

GeometryItem::GeometryItem(const std::string& text) : text_(trimmed(text)) {
    edges_of_face_ = text_.compare(0, 3, "of ") == 0;
    std::string named = face_words();
    if (named.empty() || named[0] != '{') return;
    if (auto edge = edges_of_face_ ? std::nullopt : edge_reference_from(named))
        picked_ = std::move(*edge);
    else if (auto face = face_reference_from(named))
        picked_ = std::move(*face);
}

std::vector<GeometryItem> geometry_items(const std::string& text) {
    std::vector<GeometryItem> items;
    for (const std::string& one : listed(text)) items.emplace_back(one);
    return items;
}

FaceReference in_copy(FaceReference r, uint64_t copy) {
    if (!copy) return r;
    r.tags = in_copy(r.tags, copy);
    r.primary = tag_in_copy(r.primary, copy);
    r.neighbours = in_copy(r.neighbours, copy);
    return r;
}

EdgeReference in_copy(EdgeReference r, uint64_t copy) {
    if (!copy) return r;
    return {in_copy(r.a, copy), in_copy(r.b, copy), in_copy(r.ends, copy)};
}

std::optional<Transform> face_frame(const Body& body, size_t face, Tag primary) {
    const FaceInfo& info = body.tessellation().faces.at(face);
    if (info.kind != SurfaceKind::Plane) return std::nullopt;
    Transform frame = Transform::Identity();
    Vec3 n = info.direction, x = std::fabs(n.x()) < 0.9 ? Vec3(Vec3::UnitX()) : Vec3(Vec3::UnitY());
    Vec3 origin = Vec3::Zero();
    if (auto birth = body.birth(primary); birth && std::fabs(birth->frame.linear().col(2).dot(n)) > 1 - 1e-6) {
        x = birth->frame.linear().col(0);
        origin = birth->frame.translation();
    }
    x = (x - x.dot(n) * n).normalized();
    frame.linear() << x, n.cross(x), n;
    frame.translation() = origin + (info.centre - origin).dot(n) * n;
    return frame;
}

} // namespace lp

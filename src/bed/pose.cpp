#include "bed/pose.h"
#include "check/standing.h"
#include <algorithm>

namespace lp {
namespace {

TagSet neighbours_of(const Tessellation& t, size_t face) {
    TagSet result;
    for (const EdgeInfo& edge : t.edges) {
        int other = edge.face_a == int(face) ? edge.face_b : edge.face_b == int(face) ? edge.face_a : -1;
        if (other >= 0) add_tags(result, t.faces[size_t(other)].tags);
    }
    return result;
}

} // namespace

FaceReference make_reference(const Tessellation& t, size_t face, const Vec3& point) {
    const FaceInfo& info = t.faces[face];
    return {info.tags, info.primary(), point, neighbours_of(t, face)};
}

Expected<size_t> resolve_reference(const Tessellation& t, const FaceReference& reference) {
    std::vector<size_t> candidates;
    for (size_t i = 0; i < t.faces.size(); ++i)
        if (has_tag(t.faces[i].tags, reference.primary)) candidates.push_back(i);
    if (candidates.empty())
        return problem(ProblemCode::Missing, "The " + tag_words(reference.primary) + " face it lay on is gone.",
                       "Pick a face again.");
    if (candidates.size() == 1) return candidates[0];
    // Several pieces of one face: neighbours must decide clearly, and nearness must agree.
    std::vector<double> likeness, distance;
    for (size_t face : candidates) {
        likeness.push_back(tag_likeness(neighbours_of(t, face), reference.neighbours));
        double nearest = 1e300;
        for (size_t i = 0; i < t.face_of.size(); ++i)
            if (t.face_of[i] == face)
                for (int k = 0; k < 3; ++k) nearest = std::min(nearest, (t.mesh.corner(i, k) - reference.point).norm());
        distance.push_back(nearest);
    }
    auto best = size_t(std::max_element(likeness.begin(), likeness.end()) - likeness.begin());
    auto near = size_t(std::min_element(distance.begin(), distance.end()) - distance.begin());
    double second = 0;
    for (size_t i = 0; i < likeness.size(); ++i)
        if (i != best) second = std::max(second, likeness[i]);
    if (likeness[best] > second + 0.1 && best == near) return candidates[best];
    // Pieces in one plane lay the part the same way: any will do.
    bool same = std::all_of(candidates.begin(), candidates.end(), [&](size_t face) {
        return t.faces[face].kind == SurfaceKind::Plane &&
               t.faces[face].direction.dot(t.faces[candidates[0]].direction) > 1 - 1e-9;
    });
    if (same) return candidates[near];
    return problem(ProblemCode::Missing, "The " + tag_words(reference.primary) + " face it lay on is in pieces now.",
                   "Pick a face again.");
}

Transform pose_transform(const TriMesh& mesh, const Vec3& down, const Vec3& turn_deg) {
    Transform pose = Transform::Identity();
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.z()), Vec3::UnitZ()));
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.y()), Vec3::UnitY()));
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.x()), Vec3::UnitX()));
    pose = pose * turned_up(-down.normalized());
    if (mesh.empty()) return pose;
    Box3 box;
    for (const Triangle& t : mesh.triangles)
        for (uint32_t v : t) box.extend(pose * mesh.vertices[v]);
    Vec3 centre = box.center();
    pose.pretranslate(Vec3(-centre.x(), -centre.y(), -box.min().z()));
    return pose;
}

} // namespace lp

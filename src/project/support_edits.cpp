#include "project/support_edits.h"
#include "project/marked_faces.h"

namespace lp {
namespace {

constexpr double same_place_mm = 0.5;

bool near(const SupportChange& change, const Vec3& at) {
    return (change.at - at).norm() < same_place_mm;
}

/// The face of the other part that lies where this one does.
std::optional<PickedFace> face_at(const PartResult& made, const FaceInfo& like) {
    for (size_t body = 0; body < made.bodies.size(); ++body) {
        const auto& faces = made.bodies[body].body.tessellation().faces;
        for (size_t face = 0; face < faces.size(); ++face)
            if ((faces[face].centre - like.centre).norm() < same_place_mm &&
                std::fabs(faces[face].area_mm2 - like.area_mm2) < 0.01 * like.area_mm2 + 0.01)
                return PickedFace{body, face, faces[face].centre};
    }
    return std::nullopt;
}

} // namespace

SupportSettings with_support(const SupportSettings& settings, const Vec3& at) {
    SupportSettings next = settings;
    next.on = true;
    std::erase_if(next.changes, [&](const SupportChange& c) { return !c.added && near(c, at); });
    next.changes.push_back({at, true});
    return next;
}

SupportSettings without_support(const SupportSettings& settings, const Vec3& at) {
    SupportSettings next = settings;
    if (!std::erase_if(next.changes, [&](const SupportChange& c) { return c.added && near(c, at); }))
        next.changes.push_back({at, false});
    return next;
}

SupportSettings with_moved_support(const SupportSettings& settings, const Vec3& from, const Vec3& to) {
    return with_support(without_support(settings, from), to);
}

std::vector<PartId> siblings_of(const Evaluation& evaluation, PartId id) {
    std::vector<PartId> siblings;
    const PartResult* mine = evaluation.part(id);
    if (!mine || !mine->mesh) return siblings;
    for (const PartResult& other : evaluation.parts) {
        if (other.part == id || other.stand_in || !other.mesh) continue;
        const double size = mine->box.diagonal().norm();
        const bool same = std::fabs(other.mass.volume_mm3 - mine->mass.volume_mm3) <= 1e-3 * mine->mass.volume_mm3 &&
                          (other.box.min() - mine->box.min()).norm() <= 1e-3 * size &&
                          (other.box.max() - mine->box.max()).norm() <= 1e-3 * size &&
                          (other.mass.centre - mine->mass.centre).norm() <= 1e-3 * size;
        if (same) siblings.push_back(other.part);
    }
    return siblings;
}

Expected<Edit> laid_alike(const Evaluation& evaluation, PartId id, const std::vector<PartId>& siblings) {
    const PartPtr part = evaluation.project->part(id);
    const PartResult* made = evaluation.part(id);
    if (!part || !made || siblings.empty())
        return problem(ProblemCode::Missing, "No other printed part has the same shape.",
                       "Double the part on the shelf, or bring it in again.");
    const Transform pose = pose_of_part(*part, *made, evaluation.values);
    const FoundMarks found = find_marks(*part, *made);
    Edit edit;
    for (PartId sibling : siblings) {
        const PartResult* its = evaluation.part(sibling);
        const PartPtr other = evaluation.project->part(sibling);
        if (!its || !other) continue;
        PrintPose lies = part->pose;
        if (lies.face) { // its own face carries other names there: the direction alone
            lies.face.reset();
            lies.down = -(pose.linear().transpose() * Vec3::UnitZ());
            lies.turn = {"0 deg", "0 deg", "0 deg"};
        }
        edit.parts.push_back(SetPose{sibling, lies});
        edit.parts.push_back(SetSupports{sibling, part->supports});
        Part bare = *other;
        bare.marks.clear();
        std::vector<MarkedFace> marks;
        for (const FoundMark& mark : found.faces) {
            const auto face = face_at(*its, made->bodies[mark.body].body.tessellation().faces[mark.face]);
            if (!face) continue;
            const auto one = with_mark(bare, *its, {*face}, mark.mark);
            marks.insert(marks.end(), one.begin(), one.end());
        }
        if (!marks.empty() || !other->marks.empty()) edit.parts.push_back(SetFaceMarks{sibling, marks});
        if (part->brushed != other->brushed) edit.parts.push_back(SetBrushed{sibling, part->brushed});
    }
    edit.sentence =
        "Laid " + std::to_string(siblings.size()) + (siblings.size() == 1 ? " part" : " parts") + " like " + part->name;
    return edit;
}

} // namespace lp

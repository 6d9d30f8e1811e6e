#include "app/single_supports.h"
#include "project/marked_faces.h"
#include "project/support_edits.h"

namespace lp {
namespace {

constexpr double looks_up = 0.2; ///< of an outward normal's share upward

void set(Session& session, const std::function<SupportSettings(const SupportSettings&)>& next, const char* sentence) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    if (!part) return;
    Edit edit = SetSupports{part->id, next(part->supports)};
    edit.sentence = sentence + part->name;
    session.document().edit(edit);
}

} // namespace

std::vector<Vec3> carried_places(const Session& session) {
    std::vector<Vec3> places;
    const PartId id = session.workspace().active_part();
    const PartPtr part = session.project()->part(id);
    const PartAnalysis* known = session.results().analysis() ? session.results().analysis()->part(id) : nullptr;
    if (!part || !known || !part->supports.on || session.workspace().stretch() != Stretch::Bed) return places;
    const Transform back = known->pose.inverse();
    for (const Vec3& at : known->supports.carried) places.push_back(back * at);
    return places;
}

bool is_among(const std::vector<Vec3>& places, const Vec3& place) {
    constexpr double same_mm = 0.5;
    return std::any_of(places.begin(), places.end(), [&](const Vec3& p) { return (p - place).norm() < same_mm; });
}

/// Whether a face looks down or sideways at a place, as the part lies.
static bool can_be_carried(const Tessellation& shape, size_t face, const Vec3& at, const Transform& pose) {
    return (pose.linear() * outward_at(shape, face, at)).z() < looks_up;
}

std::optional<Vec3> place_to_carry(const Session& session, const Pick& pick) {
    const Tessellation* shape = session.results().tessellation_of(pick);
    if (!shape) return std::nullopt;
    const Transform pose = session.results().pose_of(pick.part);
    if (pick.kind == Pick::Kind::Face && can_be_carried(*shape, pick.index, pick.point, pose)) return pick.point;
    if (const EdgeInfo* edge = session.results().edge_of(pick))
        for (int face : {edge->face_a, edge->face_b})
            if (face >= 0 && can_be_carried(*shape, size_t(face), pick.point, pose)) return pick.point;
    return std::nullopt;
}

std::optional<Vec3> picked_place_to_carry(const Session& session) {
    const auto& picks = session.workspace().selection();
    if (session.workspace().stretch() != Stretch::Bed || picks.empty()) return std::nullopt;
    return place_to_carry(session, picks.back());
}

void put_support_in(Session& session, const Vec3& place) {
    set(
        session, [&](const SupportSettings& s) { return with_support(s, place); }, "Put a support under ");
}

void take_support_away(Session& session, const Vec3& place) {
    session.workspace().set_active_support(std::nullopt);
    set(
        session, [&](const SupportSettings& s) { return without_support(s, place); }, "Took a support away from ");
}

void move_support(Session& session, const Vec3& from, const Vec3& to) {
    set(
        session, [&](const SupportSettings& s) { return with_moved_support(s, from, to); }, "Moved a support of ");
    session.workspace().set_active_support(to);
}

void choose_next_support(Session& session) {
    auto places = carried_places(session);
    if (places.empty()) return session.say("There is no support to choose. Put supports in first.", true);
    std::sort(places.begin(), places.end(),
              [](const Vec3& a, const Vec3& b) { return std::make_pair(a.x(), a.y()) < std::make_pair(b.x(), b.y()); });
    const auto now = session.workspace().active_support();
    auto next = places.begin();
    if (now)
        for (auto at = places.begin(); at != places.end(); ++at)
            if ((*at - *now).norm() < 1e-6 && std::next(at) != places.end()) next = std::next(at);
    session.workspace().set_active_support(*next);
}

void forget_single_supports(Session& session) {
    set(
        session,
        [](SupportSettings s) {
            s.changes.clear();
            return s;
        },
        "Dropped what was changed by hand of the supports of ");
}

void lay_siblings_alike(Session& session) {
    if (!session.results().evaluation_is_current()) return session.say("The parts are still being made.", true);
    const Evaluation& evaluation = *session.results().evaluation();
    const PartId id = session.workspace().active_part();
    auto edit = laid_alike(evaluation, id, siblings_of(evaluation, id));
    if (!edit) return session.say(QString::fromStdString(edit.error().text()), true);
    session.document().edit(*edit);
}

} // namespace lp

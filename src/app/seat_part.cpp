#include "app/seat_part.h"
#include "project/seating.h"
#include "steps/find_plane.h"

namespace lp {
namespace {

GeometryItem item_of(const Session& session, const Pick& pick) {
    return GeometryItem(make_reference(*session.results().body_of(pick), pick.index, pick.point));
}

/// A face that was chosen; of a rim the round face it bounds.
std::optional<Pick> chosen_face(const Session& session, Pick pick) {
    const Body* body = session.results().body_of(pick);
    if (!body || session.workspace().wound_back(pick.part)) return std::nullopt;
    if (const EdgeInfo* rim = session.results().edge_of(pick)) {
        const auto& faces = body->tessellation().faces;
        for (int face : {rim->face_a, rim->face_b})
            if (face >= 0 && has_axis(faces[size_t(face)])) {
                pick.kind = Pick::Kind::Face;
                pick.index = size_t(face);
            }
    }
    return session.results().face_of(pick) ? std::optional(pick) : std::nullopt;
}

/// Where the part would stand with these seats.
std::optional<Problem> cannot_stand(const Session& session, const Part& part, const AssemblyPlace& place) {
    Project tried = *session.project();
    for (PartPtr& other : tried.parts)
        if (other->id == part.id) {
            Part seated = part;
            seated.place = place;
            other = std::make_shared<const Part>(std::move(seated));
        }
    auto stands = Seating(tried, *session.results().evaluation()).place_of(*tried.part(part.id));
    return stands ? std::nullopt : std::optional(stands.error());
}

} // namespace

std::optional<Seat> chosen_seat(const Session& session) {
    const auto& picks = session.workspace().selection();
    if (picks.size() != 2 || picks[0].part == picks[1].part) return std::nullopt;
    const auto face = chosen_face(session, picks[0]), on_face = chosen_face(session, picks[1]);
    if (!face || !on_face) return std::nullopt;
    const FaceInfo &own = *session.results().face_of(*face), &theirs = *session.results().face_of(*on_face);
    const bool flat = own.kind == SurfaceKind::Plane && theirs.kind == SurfaceKind::Plane;
    const PartPtr on = session.project()->part(on_face->part);
    const PartPtr part = session.project()->part(face->part);
    if ((!flat && !(has_axis(own) && has_axis(theirs))) || !on || !part) return std::nullopt;
    return Seat{item_of(session, *face), on->name, item_of(session, *on_face)};
}

QString seat_words(const Session& session, const Seat& seat) {
    const PartPtr part = session.project()->part(session.workspace().selection().front().part);
    return QString("Seat %1 on %2")
        .arg(part ? QString::fromStdString(part->name) : QString(), QString::fromStdString(seat.on));
}

std::optional<QString> seat_chosen(Session& session) {
    const auto seat = chosen_seat(session);
    if (!seat) return QString("Choose two flat faces, or two round ones or their rims, of two parts first.");
    const PartPtr part = session.project()->part(session.workspace().selection().front().part);
    AssemblyPlace place = part->place;
    if (place.seats.empty()) place.at = AssemblyPlace().at; // how far it was moved before says nothing any more
    place.seats.push_back(*seat);
    if (auto wrong = cannot_stand(session, *part, place)) return QString::fromStdString(wrong->text());
    if (auto wrong = session.document().edit(SetPlace{part->id, place})) return QString::fromStdString(wrong->text());
    session.workspace().set_active_part(part->id); // the column tells where it stands now
    session.workspace().clear_selection();
    return std::nullopt;
}

} // namespace lp

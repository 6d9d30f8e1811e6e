#include "app/seat_part.h"
#include "project/seating.h"

namespace lp {
namespace {

GeometryItem item_of(const Session& session, const Pick& pick) {
    return GeometryItem(make_reference(*session.results().body_of(pick), pick.index, pick.point));
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
    Seating seating(tried, session.results().values(), [&](const Part& p) -> Expected<std::vector<StepBody>> {
        const auto* bodies = session.results().bodies_of(p.id);
        return bodies ? *bodies : std::vector<StepBody>{};
    });
    auto stands = seating.place_of(*tried.part(part.id));
    return stands ? std::nullopt : std::optional(stands.error());
}

} // namespace

std::optional<Seat> chosen_seat(const Session& session) {
    const auto& picks = session.workspace().selection();
    if (picks.size() != 2 || picks[0].part == picks[1].part) return std::nullopt;
    std::array<bool, 2> flat{};
    for (size_t i = 0; i < 2; ++i) {
        if (session.workspace().wound_back(picks[i].part) || !session.results().body_of(picks[i])) return std::nullopt;
        const FaceInfo* face = session.results().face_of(picks[i]);
        if (!face) return std::nullopt;
        flat[i] = face->kind == SurfaceKind::Plane;
        if (!flat[i] && face->kind != SurfaceKind::Cylinder && face->kind != SurfaceKind::Cone) return std::nullopt;
    }
    const PartPtr on = session.project()->part(picks[1].part);
    if (flat[0] != flat[1] || !on || !session.project()->part(picks[0].part)) return std::nullopt;
    return Seat{item_of(session, picks[0]), on->name, item_of(session, picks[1])};
}

QString seat_words(const Session& session, const Seat& seat) {
    const PartPtr part = session.project()->part(session.workspace().selection().front().part);
    return QString("Seat %1 on %2")
        .arg(part ? QString::fromStdString(part->name) : QString(), QString::fromStdString(seat.on));
}

std::optional<QString> seat_chosen(Session& session) {
    const auto seat = chosen_seat(session);
    if (!seat) return QString("Choose two flat faces, or two round ones, of two parts first.");
    const PartPtr part = session.project()->part(session.workspace().selection().front().part);
    AssemblyPlace place = part->place;
    if (place.seats.empty()) place.at = AssemblyPlace().at; // how far it was moved before says nothing any more
    place.seats.push_back(*seat);
    if (auto wrong = cannot_stand(session, *part, place)) return QString::fromStdString(wrong->text());
    if (auto wrong = session.document().edit(SetPlace{part->id, place})) return QString::fromStdString(wrong->text());
    return std::nullopt;
}

} // namespace lp

#include "app/mark_faces.h"

namespace lp {

std::vector<PickedFace> faces_to_mark(const Session& session) {
    std::vector<PickedFace> faces;
    const auto& picks = session.workspace().selection();
    for (const Pick& pick : picks) {
        if (pick.kind != Pick::Kind::Face || pick.part != picks[0].part) return {};
        faces.push_back({pick.body, pick.index, pick.point});
    }
    const PartPtr part = picks.empty() ? nullptr : session.project()->part(picks[0].part);
    if (!part || part->stand_in || session.workspace().wound_back(part->id)) return {};
    return faces;
}

std::optional<FaceMark> chosen_mark(const Session& session) {
    const auto faces = faces_to_mark(session);
    const Evaluation* evaluation = session.results().evaluation();
    if (faces.empty() || !evaluation) return std::nullopt;
    const PartId id = session.workspace().selection()[0].part;
    const PartResult* made = evaluation->part(id);
    const PartPtr part = session.project()->part(id);
    if (!made || !part) return std::nullopt;
    const FoundMarks marks = find_marks(*part, *made);
    const auto first = mark_of(marks, faces[0].body, faces[0].face);
    for (const PickedFace& face : faces)
        if (mark_of(marks, face.body, face.face) != first) return std::nullopt;
    return first;
}

std::optional<QString> mark_chosen(Session& session, std::optional<FaceMark> mark) {
    const auto faces = faces_to_mark(session);
    if (faces.empty()) return QString("Choose faces of one printed part first.");
    const PartId id = session.workspace().selection()[0].part;
    const PartPtr part = session.project()->part(id);
    const PartResult* made =
        session.results().evaluation_is_current() ? session.results().evaluation()->part(id) : nullptr;
    if (!part || !made) return QString("The part is still being made.");
    if (auto wrong = session.document().edit(SetFaceMarks{id, with_mark(*part, *made, faces, mark)}))
        return QString::fromStdString(wrong->text());
    return std::nullopt;
}

void take_mark_off(Session& session, PartId id, size_t nth) {
    const PartPtr part = session.project()->part(id);
    if (!part || nth >= part->marks.size()) return;
    auto marks = part->marks;
    marks.erase(marks.begin() + std::ptrdiff_t(nth));
    session.document().edit(SetFaceMarks{id, marks});
}

QString about_mark(FaceMark mark) {
    switch (mark) {
    case FaceMark::Seen:
        return "It should not be rough: ways up in which it shows layers or scars cost more.";
    case FaceMark::Mating:
        return "It goes against another part: no support touches it, and it should not be rough.";
    case FaceMark::Never:
        return "No support touches it, and none stands on it.";
    case FaceMark::Supported:
        return "It is carried wherever it looks down, however steep it is.";
    }
    return {};
}

} // namespace lp

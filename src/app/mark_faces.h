// Marking chosen faces: what is wanted of them in print.
#pragma once
#include "app/session.h"
#include "project/marked_faces.h"

namespace lp {

/// The faces chosen, all of one printed part that is shown whole; nothing else chosen. Empty otherwise.
std::vector<PickedFace> faces_to_mark(const Session& session);
/// The mark that all chosen faces have; none where they differ or have none.
std::optional<FaceMark> chosen_mark(const Session& session);
/// The chosen faces take the mark, or lose theirs; why not, in words.
std::optional<QString> mark_chosen(Session& session, std::optional<FaceMark> mark);
/// "seen, top face" is no more.
void take_mark_off(Session& session, PartId part, size_t nth);

/// What a mark does, in a line.
QString about_mark(FaceMark mark);

} // namespace lp

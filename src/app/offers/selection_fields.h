// What is chosen in the view, as texts for fields of steps.
#pragma once
#include "app/session.h"

namespace lp {

/// References of the chosen edges and faces, as fields keep them.
std::vector<std::string> chosen_edges(const Session& session);
std::vector<std::string> chosen_faces(const Session& session);
/// Fields of a kind of step that what is chosen fills in: edges, faces, the plane it is parted or mirrored at.
std::map<std::string, std::string> fields_from_selection(const Session& session, const StepKind& kind);

/// Chooses every face a step made, as the part is shown; says so when none is left.
void choose_faces_of_step(Session& session, uint64_t part, uint64_t step);

} // namespace lp

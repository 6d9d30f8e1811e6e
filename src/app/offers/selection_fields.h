// What is chosen in the view, as texts for fields of steps.
#pragma once
#include "app/session.h"

namespace lp {

/// References of the chosen edges and faces, as fields keep them.
std::vector<std::string> chosen_edges(const Session& session);
std::vector<std::string> chosen_faces(const Session& session);
/// Fields of a kind of step that what is chosen fills in, as they declare it.
std::map<std::string, std::string> fields_from_selection(const Session& session, const StepKind& kind);

/// The offers of kinds of steps for what is chosen, in the order of their places.
std::vector<std::pair<const StepKind*, const StepOffer*>> step_offers(Chosen when, bool folded = false);
/// What an offer of a kind is called on its button and in the line.
QString offer_words(const StepKind& kind, const StepOffer& offer);
/// Fields of a solid that stands on a picked face, or goes into it when `fields` say that it cuts.
std::map<std::string, std::string> fields_on_face(const Session& session, const StepKind& kind, const Pick& pick,
                                                  std::map<std::string, std::string> fields);

/// Chooses every face a step made, as the part is shown; says so when none is left.
void choose_faces_of_step(Session& session, PartId part, StepId step);

} // namespace lp

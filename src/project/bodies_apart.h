// Bodies of a part made a part of their own: another colour, another way up, a file of its own.
#pragma once
#include "project/edit.h"
#include "project/evaluate.h"

namespace lp {

/// The bodies (as steps call them) leave their part and begin a new one, which stands where they stood, in a colour of
/// its own where `colour` gives one. Problems: a part that is not made or has only these.
Expected<Edit> bodies_apart(const Evaluation& made, PartId part, const std::vector<std::string>& bodies,
                            const std::string& name, const std::string& colour = {});

/// The names of all bodies but the largest; none of a part with one.
std::vector<std::string> lesser_bodies(const PartResult& part);

/// One of a few colours of filament that the project's parts do not have yet, else the first that `part` has not.
std::string other_colour(const Project& project, const Part& part);

} // namespace lp

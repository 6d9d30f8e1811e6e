// Parts doubled, and carried from one project into another with what they are made of.
#pragma once
#include "project/edit.h"

namespace lp {

/// A copy of the part beside it, under a free name.
Expected<Edit> double_part(const Project& project, PartId part);

/// The part alone with the numbers, the fits and the files it uses, as the bytes of a small project.
Expected<std::string> carried_part(const Project& project, PartId part);

struct Unpacked {
    Edit edit;
    std::vector<std::string> notes; ///< numbers and fits that are another thing here and keep what they are here
};
/// What brings the parts of such bytes into a project. Other parts they name are those of that name here; a file of the
/// same name with other contents gets another name. Refused: what is no project, and what has no part.
Expected<Unpacked> unpacked_part(const Project& into, const std::string& bytes);

} // namespace lp

// Numbers of the printer card, the material card, the named fits and the supports by one kind of key, and the formulas
// they were typed as. The number stays a plain one where it belongs; the formula stands in Project::formulas under its
// key, follows the project's named numbers and is there again when the number is edited.
//
// Keys: "printer nozzle_mm", "material price_per_kg", "material fit slide", "fit slide", "supports 12 spacing_mm" (12:
// the part's id), "ways height_cm" (what counts when ways up are compared).
#pragma once
#include "project/edit.h"

namespace lp {

struct TypedNumber {
    double value = 0;
    QuantityKind kind = QuantityKind::Length;
};
/// What a number is now; a Problem when the project has none of that key.
Expected<TypedNumber> number_now(const Project& project, const std::string& key);
/// The edit of what holds it that puts the new value in.
Expected<SingleEdit> edit_of_number(const Project& project, const std::string& key, double value);
/// For a person: "the printer card, nozzle", "the supports of Cradle, spacing".
std::string number_words(const Project& project, const std::string& key);
/// What formulas of such numbers may use: the project's named numbers, not the fits, which depend on them.
Expected<ParameterValues> values_for_numbers(const Project& project);

/// A number that its formula moves on.
struct FollowingNumber {
    std::string words; ///< "the printer card, nozzle, wall/5"
    SingleEdit edit;
};
/// The problem, said to be in that number.
Problem in_number(const std::string& words, Problem problem);
/// After an edit: forgets formulas whose number was set otherwise or is gone, and answers what the others move. A
/// Problem, which says where, when one cannot be worked out.
Expected<std::vector<FollowingNumber>> follow_formulas(const Project& before, Project& project);

} // namespace lp

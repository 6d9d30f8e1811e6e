#include "project/bodies_apart.h"
#include "base/text.h"
#include "project/seating.h"
#include <algorithm>

namespace lp {

std::vector<std::string> lesser_bodies(const PartResult& part) {
    std::vector<std::string> names;
    if (part.bodies.size() < 2) return names;
    const auto largest =
        std::max_element(part.bodies.begin(), part.bodies.end(), [](const StepBody& a, const StepBody& b) {
            return a.body.mass().volume_mm3 < b.body.mass().volume_mm3;
        });
    for (auto body = part.bodies.begin(); body != part.bodies.end(); ++body)
        if (body != largest) names.push_back(body->called());
    return names;
}

Expected<Edit> bodies_apart(const Evaluation& made, PartId id, const std::vector<std::string>& bodies,
                            const std::string& name, const std::string& colour) {
    const PartPtr part = made.project->part(id);
    const PartResult* result = made.part(id);
    if (!part || !result || part->steps.empty() || result->bodies.empty())
        return problem(ProblemCode::Missing, "The part is not made yet.", "Wait until it is, then try again.");
    const auto left = size_t(std::count_if(result->bodies.begin(), result->bodies.end(), [&](const StepBody& body) {
        return std::count(bodies.begin(), bodies.end(), body.called()) == 0;
    }));
    if (bodies.empty() || left == result->bodies.size())
        return problem(ProblemCode::Missing, "The part has one body only.", "Let a step stand as a new body first.");
    if (left == 0)
        return problem(ProblemCode::Wording, "Nothing would be left of " + part->name + ".", "Choose fewer bodies.");
    Part piece;
    piece.name = free_part_name(*made.project, name);
    piece.quantity = part->quantity;
    piece.colour = colour.empty() ? part->colour : colour;
    piece.material = part->material;
    piece.place = place_without_seats(*part, result->place);
    const std::string names = joined(bodies);
    piece.steps.push_back(
        step_of_kind("take", {{"from", part->name}, {"what", names}, {"after", to_text(part->steps.back().id)}}));
    Edit edit;
    edit.parts = {AddPart{piece}, AddStep{id, step_of_kind("leave_out", {{"what", names}}), {}}};
    edit.sentence = "Made a part of " + names;
    return edit;
}

std::string other_colour(const Project& project, const Part& part) {
    // Of usual spools: light, red, dark, green, blue.
    static const char* const colours[] = {"#e8e2d2", "#b5483a", "#3d3f42", "#5d7f4a", "#3f6a9a"};
    for (const char* colour : colours)
        if (std::none_of(project.parts.begin(), project.parts.end(),
                         [&](const PartPtr& p) { return p->colour == colour; }))
            return colour;
    return part.colour == colours[0] ? colours[1] : colours[0];
}

} // namespace lp

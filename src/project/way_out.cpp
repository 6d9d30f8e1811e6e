#include "project/way_out.h"
#include "base/text.h"
#include "outline/chains.h"
#include <algorithm>

namespace lp {
namespace {

/// Seen from the front, as the words of assembly_order.h are.
const std::pair<const char*, Vec3> ways[] = {{"up", Vec3::UnitZ()},     {"down", -Vec3::UnitZ()},
                                             {"left", -Vec3::UnitX()},  {"right", Vec3::UnitX()},
                                             {"front", -Vec3::UnitY()}, {"back", Vec3::UnitY()}};
constexpr const char* along = "along";

const Vec3* way_called(const std::string& word) {
    for (const auto& [name, way] : ways)
        if (word == name) return &way;
    return nullptr;
}

/// The drawn line's legs, from the end nearer to the part's middle.
Expected<std::vector<Vec3>> drawn_legs(const std::string& name, const PartResult& made, const Transform& place) {
    const auto drawn = std::find_if(made.outlines.begin(), made.outlines.end(),
                                    [&](const PlacedOutline& one) { return one.name == name; });
    const auto line = drawn == made.outlines.end() ? std::nullopt : longest_open_chain(drawn->shape->curves);
    if (!line)
        return problem(ProblemCode::Missing, "It has no drawn line " + quoted_start(name) + " that is open.",
                       "Draw one in its steps, or say up 12.");
    constexpr double deviation_mm = 0.2;
    std::vector<Vec3> places;
    for (const Vec2& p : flatten(line->plain(), deviation_mm)) places.push_back(drawn->plane * Vec3(p.x(), p.y(), 0));
    Vec3 middle = Vec3::Zero();
    if (made.mesh) middle = bounding_box(*made.mesh).center();
    if ((places.back() - middle).norm() < (places.front() - middle).norm()) std::reverse(places.begin(), places.end());
    std::vector<Vec3> legs;
    for (size_t i = 1; i < places.size(); ++i)
        if (const Vec3 leg = place.linear() * (places[i] - places[i - 1]); leg.norm() > 1e-6) legs.push_back(leg);
    return legs;
}

} // namespace

Expected<TypedLeg> leg_typed(const std::string& text) {
    const std::string whole = trimmed(text);
    const size_t space = whole.find(' ');
    TypedLeg leg{whole.substr(0, space), space == std::string::npos ? "" : trimmed(whole.substr(space))};
    if (leg.by.rfind("by ", 0) == 0) leg.by = trimmed(leg.by.substr(3));
    if (leg.by.empty() || (leg.to != along && !way_called(leg.to)))
        return problem(ProblemCode::Wording, "It is not said which way and how far.",
                       "Say up, down, left, right, front or back, and by how much: up 12; or along a drawn line.");
    return leg;
}

std::string leg_words(const TypedLeg& leg) {
    if (leg.to == along) return leg.to + " " + leg.by;
    const bool plain = leg.by.find_first_not_of("0123456789.") == std::string::npos;
    return leg.to + " by " + leg.by + (plain ? " mm" : "");
}

Expected<std::vector<Vec3>> way_out(const Part& part, const ParameterValues& values, const PartResult* made,
                                    const Transform& place) {
    std::vector<Vec3> legs;
    for (const TypedLeg& typed : part.way_out) {
        if (typed.to == along) {
            if (!made) continue;
            auto drawn = drawn_legs(typed.by, *made, place);
            if (!drawn) return drawn;
            legs.insert(legs.end(), drawn->begin(), drawn->end());
            continue;
        }
        const Vec3* way = way_called(typed.to);
        if (!way) return pass_on(leg_typed(typed.to + " " + typed.by).error());
        const auto by = evaluate_expression(typed.by, QuantityKind::Length, values);
        if (!by) return pass_on(by);
        constexpr double most_mm = 10'000;
        if (!(*by > 0) || *by > most_mm)
            return problem(ProblemCode::Range, "A leg of the way is longer than nothing and up to 10 m.",
                           "Say the other way round for what is below zero.");
        legs.push_back(*by * *way);
    }
    return legs;
}

} // namespace lp

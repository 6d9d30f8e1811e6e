#include "shape/resolve_among.h"
#include "shape/picked_place.h"
#include <algorithm>

namespace lp {
namespace {

/// Of what each body has by itself: how like it is to what was picked, and how far from there.
struct Candidate {
    FoundAmong found;
    double likeness = 0, distance = 0;
};

FoundAmong best_of(const std::vector<Candidate>& all) {
    const auto alike = [](const Candidate& a, const Candidate& b) { return a.likeness < b.likeness; };
    const Candidate& likest = *std::max_element(all.begin(), all.end(), alike);
    const bool clear = std::all_of(all.begin(), all.end(), [&](const Candidate& c) {
        return &c == &likest || likest.likeness > c.likeness + 0.1;
    });
    if (clear) return likest.found;
    constexpr double same_mm = 1e-6;
    const Candidate* nearest = &all.back();
    for (const Candidate& c : all)
        if (c.distance < nearest->distance - same_mm) nearest = &c;
    return nearest->found;
}

template <class Resolve, class Compare>
Expected<FoundAmong> among(const std::vector<const Body*>& bodies, const Resolve& resolve, const Compare& compare) {
    std::vector<Candidate> all;
    std::optional<Problem> why;
    for (size_t i = 0; i < bodies.size(); ++i) {
        const Expected<size_t> index = resolve(*bodies[i]);
        if (index)
            all.push_back({{i, *index}, 0, 0});
        else if (!why)
            why = index.error();
    }
    if (all.empty())
        return tl::unexpected(why.value_or(
            Problem{ProblemCode::Missing, "There is no body yet with that face.", "Put a solid before this step."}));
    if (all.size() > 1)
        for (Candidate& one : all) compare(*bodies[one.found.body], one);
    return all.size() == 1 ? all[0].found : best_of(all);
}

} // namespace

Expected<FoundAmong> resolve_among(const std::vector<const Body*>& bodies, const FaceReference& reference,
                                   bool any_in_plane) {
    return among(
        bodies, [&](const Body& body) { return resolve_reference(body, reference, any_in_plane); },
        [&](const Body& body, Candidate& one) {
            const Tessellation& t = body.tessellation();
            one.likeness = tag_likeness(neighbours_of(t, one.found.index), reference.neighbours);
            one.distance = distance_to_face(t, one.found.index, place_of(body, reference));
        });
}

Expected<FoundAmong> resolve_among(const std::vector<const Body*>& bodies, const EdgeReference& reference) {
    return among(
        bodies, [&](const Body& body) { return resolve_edge(body, reference); },
        [&](const Body& body, Candidate& one) {
            const EdgeInfo& edge = body.tessellation().edges[one.found.index];
            one.likeness =
                tag_likeness(make_edge_reference(body, one.found.index, edge.points.front()).ends, reference.ends);
            one.distance = distance_to_edge(edge, (place_of(body, reference.a) + place_of(body, reference.b)) / 2);
        });
}

} // namespace lp

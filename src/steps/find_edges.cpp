#include "steps/find_edges.h"
#include "base/text.h"
#include "steps/bodies_of.h"
#include "steps/find_plane.h"
#include <algorithm>

namespace lp {
namespace {

tl::unexpected<Problem> no_body() {
    return problem(ProblemCode::Missing, "There is no body yet to work on.", "Put a solid before this step.");
}

bool is_upright(const EdgeInfo& e) {
    Vec3 d = e.points.back() - e.points.front();
    return d.norm() > 1e-9 && d.head<2>().norm() < 1e-6 * d.norm() && std::fabs(e.length_mm - d.norm()) < 1e-6;
}

/// Share of the face's names that come from a step: 1 for its own faces, between for those merged with others'.
double made_by(const FaceInfo& face, StepId step) {
    auto count = std::count_if(face.tags.begin(), face.tags.end(), [&](Tag tag) {
        auto meaning = tag_meaning(tag);
        return meaning && meaning->step == step;
    });
    return face.tags.empty() ? 0 : double(count) / double(face.tags.size());
}

/// The edge that was picked, on the body it is on now.
Expected<FoundEdges> picked_edge(const std::vector<StepBody>& before, const StepContext& context,
                                 const EdgeReference& picked) {
    const auto found = resolve_among(bodies_of(before), in_copy(picked, context.copy));
    if (!found) return pass_on(found);
    return FoundEdges{found->body, {found->index}};
}

} // namespace

Expected<FoundEdges> edges_of_item(const std::vector<StepBody>& before, const StepContext& context,
                                   const GeometryItem& item) {
    if (before.empty()) return no_body();
    if (item.edge()) return picked_edge(before, context, *item.edge());
    const std::string& text = item.text();
    FoundEdges found;
    auto take = [&](auto wanted) {
        const Tessellation& t = before[found.body].body.tessellation();
        for (size_t i = 0; i < t.edges.size(); ++i)
            if (wanted(t, t.edges[i])) found.edges.push_back(i);
    };
    if (text == "all") {
        take([](const Tessellation&, const EdgeInfo&) { return true; });
    } else if (text == "upright") {
        take([](const Tessellation&, const EdgeInfo& e) { return is_upright(e); });
    } else if (item.edges_of_face()) {
        auto face = find_face(before, context, item, true);
        if (!face) return pass_on(face);
        found.body = face->body;
        take([&](const Tessellation&, const EdgeInfo& e) {
            return e.face_a == int(face->face) || e.face_b == int(face->face);
        });
    } else if (text.compare(0, 8, "made by ") == 0 || text.compare(0, 8, "foot of ") == 0) {
        std::string name(text.begin() + 8, text.end());
        bool foot = text[0] == 'f';
        auto step = context.step_named ? context.step_named(name) : std::nullopt;
        if (!step) return problem(ProblemCode::Missing, "There is no step called \"" + name + "\".", "Name another.");
        for (size_t i = 0; i < before.size() && found.edges.empty(); ++i) {
            found.body = i;
            take([&](const Tessellation& t, const EdgeInfo& e) {
                if (e.face_a < 0 || e.face_b < 0) return false;
                double a = made_by(t.faces[size_t(e.face_a)], *step), b = made_by(t.faces[size_t(e.face_b)], *step);
                return foot ? std::max(a, b) == 1 && std::min(a, b) == 0 : std::max(a, b) == 1;
            });
        }
    } else {
        return problem(
            ProblemCode::Wording, std::string("\"").append(text, 0, 60).append("\" names no edges."),
            "Click edges in the view, or write all, upright, of top of NAME, made by NAME, or foot of NAME.");
    }
    if (found.edges.empty())
        return problem(ProblemCode::Missing, "There are no edges \"" + text.substr(0, 60) + "\" here.",
                       "Choose others.");
    return found;
}

Expected<FoundEdges> find_edges(const std::vector<StepBody>& before, const StepContext& context,
                                const FieldValue& value) {
    if (before.empty()) return no_body();
    FoundEdges all;
    bool first = true;
    const auto& items = value.geometry();
    if (items.empty()) return problem(ProblemCode::Missing, "No edge is chosen.", "Click edges in the view.");
    for (const GeometryItem& one : items) {
        auto found = edges_of_item(before, context, one);
        if (!found) return found;
        if (!first && found->body != all.body)
            return problem(ProblemCode::Wording, "These edges are on different bodies.", "Use a step for each body.");
        first = false;
        all.body = found->body;
        for (size_t edge : found->edges)
            if (std::find(all.edges.begin(), all.edges.end(), edge) == all.edges.end()) all.edges.push_back(edge);
    }
    return all;
}

Expected<FoundFaces> find_faces(const std::vector<StepBody>& before, const StepContext& context,
                                const std::vector<GeometryItem>& items) {
    if (before.empty()) return no_body();
    FoundFaces all;
    bool first = true;
    for (const GeometryItem& one : items) {
        auto found = find_face(before, context, one, true);
        if (!found) return pass_on(found);
        if (!first && found->body != all.body)
            return problem(ProblemCode::Wording, "These faces are on different bodies.", "Use a step for each body.");
        first = false;
        all.body = found->body;
        if (std::find(all.faces.begin(), all.faces.end(), found->face) == all.faces.end())
            all.faces.push_back(found->face);
    }
    return all;
}

} // namespace lp

#include "project/printed_contacts.h"
#include "base/quantity.h"
#include "project/layer_heights.h"
#include "shape/mesh_distance.h"
#include <limits>

namespace lp {
namespace {

PrintedPart as_bought(const PartResult& made) {
    PrintedPart all;
    for (const StepBody& body : made.bodies) all.bodies.push_back(transformed(body.body.mesh(), made.place));
    all.above_first = all.bodies;
    return all;
}

TriMesh without_lowest(TriMesh mesh, double top_z) {
    constexpr double same_mm = 1e-6;
    std::erase_if(mesh.triangles, [&](const Triangle& t) {
        return std::all_of(t.begin(), t.end(), [&](uint32_t v) { return mesh.vertices[v].z() < top_z + same_mm; });
    });
    mesh.tags.clear();
    return mesh;
}

Expected<PrintedPart> laid(const Evaluation& evaluation, const PartResult& made, const PartAnalysis& known,
                           const Task& task) {
    const PartPtr part = evaluation.project->part(made.part);
    PracticeOptions options = practice_options(evaluation.project->printer);
    options.lines.heights = layer_heights(evaluation, made.part);
    options.support_gap_mm = support_options(*evaluation.project, *part).gap_mm();
    options.each_body = true;
    std::vector<TriMesh> bodies;
    for (const StepBody& body : made.bodies) bodies.push_back(transformed(body.body.mesh(), known.pose));
    auto print = practice_print(bodies, known.supports.mesh, options, task);
    if (!print) {
        if (print.error().code == ProblemCode::Cancelled) return pass_on(print);
        Problem why = print.error();
        why.sentence = made.name + ": " + why.sentence;
        return pass_on(why);
    }
    const Transform back = made.place * known.pose.inverse();
    const double top_of_first = bounding_box(*known.posed).min().z() + options.lines.heights.first_mm;
    PrintedPart all;
    all.fused = print->fused;
    for (const TriMesh& body : print->bodies) {
        all.bodies.push_back(transformed(body, back));
        all.above_first.push_back(transformed(without_lowest(body, top_of_first), back));
    }
    return all;
}

TriMesh side(const std::vector<TriMesh>& bodies, std::optional<size_t> body) {
    if (body) return *body < bodies.size() ? bodies[*body] : TriMesh{};
    TriMesh all;
    for (const TriMesh& one : bodies) append(all, one);
    return all;
}

/// None when nothing of one of the two is there.
std::optional<double> distance(const TriMesh& a, const TriMesh& b) {
    const DistanceTree one(a), other(b);
    if (one.empty() || other.empty()) return std::nullopt;
    return closest_pair(one, other).distance_mm;
}

std::vector<std::pair<size_t, size_t>> layers_fused(const PrintedPart& printed, size_t a, size_t b) {
    for (const FusedBodies& f : printed.fused)
        if ((f.a == a && f.b == b) || (f.a == b && f.b == a)) return f.layers;
    return {};
}

} // namespace

Expected<PrintedParts> printed_parts(const Evaluation& evaluation, const Analysis& analysis,
                                     const std::set<PartId>& wanted, const Task& task) {
    PrintedParts parts;
    for (const PartId id : wanted) {
        const PartResult* made = evaluation.part(id);
        if (!made || made->bodies.empty()) continue;
        task.tell("Printing " + made->name + " in practice", double(parts.size()) / double(wanted.size()));
        const PartAnalysis* known = analysis.part(id);
        if (made->stand_in || !known) {
            parts[id] = as_bought(*made);
            continue;
        }
        auto printed = laid(evaluation, *made, *known, task);
        if (!printed) return pass_on(printed);
        parts[id] = std::move(*printed);
    }
    return parts;
}

Expected<std::vector<PrintedContact>> printed_contacts(const Evaluation& evaluation, const Analysis& analysis,
                                                       const Task& task) {
    std::set<PartId> wanted;
    for (const ContactResult& c : analysis.contacts) wanted.insert({c.part_a, c.part_b});
    const auto made = printed_parts(evaluation, analysis, wanted, task);
    if (!made) return pass_on(made);
    const PrintedParts& parts = *made;
    std::vector<PrintedContact> found;
    for (const ContactResult& c : analysis.contacts) {
        if (task.stopped()) return cancelled();
        const PartResult *a = evaluation.part(c.part_a), *b = evaluation.part(c.part_b);
        if (!a || !b || (a->stand_in && b->stand_in) || !parts.count(c.part_a) || !parts.count(c.part_b)) continue;
        const PrintedPart &one = parts.at(c.part_a), &other = parts.at(c.part_b);
        PrintedContact contact{c.ref(), 0, 0, {}};
        if (c.part_a == c.part_b && c.body_a && c.body_b) contact.fused = layers_fused(one, *c.body_a, *c.body_b);
        const auto gap = distance(side(one.bodies, c.body_a), side(other.bodies, c.body_b));
        if (!gap) continue; // too thin for a line: nothing of it is there
        contact.gap_mm = contact.fused.empty() ? *gap : 0;
        contact.above_first_mm =
            distance(side(one.above_first, c.body_a), side(other.above_first, c.body_b)).value_or(*gap);
        found.push_back(std::move(contact));
    }
    return found;
}

FitState printed_state(const PrintedContact& printed, const ContactResult& contact, const PrinterCard& card) {
    constexpr double touches_mm = 0.005, close_mm = 0.05; // layers and lines are known no better
    if (printed.gap_mm < touches_mm) return FitState::Touching;
    if (!contact.wanted) return FitState::Unset;
    const double expected = contact.wanted->gap_mm - card.outside_growth_mm - card.hole_shrink_mm;
    return printed.gap_mm < expected - close_mm   ? FitState::Tight
           : printed.gap_mm > expected + close_mm ? FitState::Slack
                                                  : FitState::Right;
}

std::string printed_words(const PrintedContact& contact) {
    constexpr double touches_mm = 0.005;
    auto mm = [](double gap) { return format_quantity(gap, QuantityKind::Length, 2); };
    const bool touches = contact.gap_mm < touches_mm, above = contact.above_first_mm >= touches_mm;
    if (touches && above && contact.first_layer_only())
        return std::string("as printed it ") + (contact.fused.empty() ? "touches" : "fuses") +
               " in the first layer only, " + mm(contact.above_first_mm) + " above";
    if (!contact.fused.empty())
        return "as printed it fuses in layers " + std::to_string(contact.fused.front().first) + " to " +
               std::to_string(contact.fused.back().second);
    return touches ? "as printed it touches" : "as printed " + mm(contact.gap_mm);
}

} // namespace lp

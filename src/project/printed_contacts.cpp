#include "project/printed_contacts.h"
#include "base/quantity.h"
#include "layers/practice_print.h"
#include "shape/mesh_distance.h"
#include <map>
#include <set>

namespace lp {
namespace {

/// The bodies of a part where they stand in the assembly, and which of them fused.
struct Printed {
    std::vector<TriMesh> bodies;
    std::vector<FusedBodies> fused;
};

Printed as_bought(const PartResult& made) {
    Printed all;
    for (const StepBody& body : made.bodies) all.bodies.push_back(transformed(body.body.mesh(), made.place));
    return all;
}

Expected<Printed> laid(const Evaluation& evaluation, const PartResult& made, const PartAnalysis& known,
                       const Task& task) {
    const PartPtr part = evaluation.project->part(made.part);
    PracticeOptions options = practice_options(evaluation.project->printer);
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
    Printed all{{}, print->fused};
    for (const TriMesh& body : print->bodies) all.bodies.push_back(transformed(body, back));
    return all;
}

TriMesh side(const Printed& printed, std::optional<size_t> body) {
    if (body) return *body < printed.bodies.size() ? printed.bodies[*body] : TriMesh{};
    TriMesh all;
    for (const TriMesh& one : printed.bodies) append(all, one);
    return all;
}

bool are_fused(const Printed& printed, size_t a, size_t b) {
    return std::any_of(printed.fused.begin(), printed.fused.end(),
                       [&](const FusedBodies& f) { return (f.a == a && f.b == b) || (f.a == b && f.b == a); });
}

} // namespace

Expected<std::vector<PrintedContact>> printed_contacts(const Evaluation& evaluation, const Analysis& analysis,
                                                       const Task& task) {
    std::set<PartId> wanted;
    for (const ContactResult& c : analysis.contacts) wanted.insert({c.part_a, c.part_b});
    std::map<PartId, Printed> parts;
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
    std::vector<PrintedContact> found;
    for (const ContactResult& c : analysis.contacts) {
        if (task.stopped()) return cancelled();
        const PartResult *a = evaluation.part(c.part_a), *b = evaluation.part(c.part_b);
        if (!a || !b || (a->stand_in && b->stand_in) || !parts.count(c.part_a) || !parts.count(c.part_b)) continue;
        PrintedContact contact{c.ref(), 0, false};
        contact.fused =
            c.part_a == c.part_b && c.body_a && c.body_b && are_fused(parts[c.part_a], *c.body_a, *c.body_b);
        if (!contact.fused) {
            const DistanceTree one(side(parts[c.part_a], c.body_a)), other(side(parts[c.part_b], c.body_b));
            if (one.empty() || other.empty()) continue; // too thin for a line: nothing of it is there
            contact.gap_mm = closest_pair(one, other).distance_mm;
        }
        found.push_back(contact);
    }
    return found;
}

std::string printed_words(const PrintedContact& contact) {
    constexpr double touches_mm = 0.005;
    if (contact.fused) return "as printed it is one piece";
    if (contact.gap_mm < touches_mm) return "as printed it touches";
    return "as printed " + format_quantity(contact.gap_mm, QuantityKind::Length, 2);
}

} // namespace lp

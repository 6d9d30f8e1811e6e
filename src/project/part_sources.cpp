#include "mesh/combine.h"
#include "mesh/grow.h"
#include "project/part_maker.h"
#include "project/seating.h"
#include "shape/copies.h"
#include "steps/fits/envelope.h"
#include <algorithm>

namespace lp {

/// What the contact with a part that goes into `host` is like.
ContactSituation PartMaker::situation(const std::string& name, const Part& host, const std::vector<StepBody>& bodies) {
    PartPtr tool = project_.part_named(name);
    if (!tool) return {};
    auto nominal = part(*tool, 0, 0);
    return contact_situation(project_, host, bodies, *tool, nominal ? nominal->bodies : std::vector<StepBody>{},
                             from_part_to_part(name, host).value_or(Transform::Identity()));
}

/// The steps of a part up to one, made again larger.
Expected<std::vector<StepBody>> PartMaker::remade(const Part& part, const Step& step, double growth, uint64_t copy) {
    Part before = part;
    auto here = std::find_if(before.steps.begin(), before.steps.end(), [&](const Step& s) { return s.id == step.id; });
    before.steps.erase(here, before.steps.end());
    const Making itself = making_.back();
    making_.pop_back();
    auto grown = this->part(before, growth, copy);
    making_.push_back(itself);
    if (!grown) return pass_on(grown);
    for (const StepOutcome& outcome : grown->outcomes)
        if (!outcome.ok && outcome.problem) return pass_on(*outcome.problem);
    return grown->bodies;
}

/// From the design frame of a part to that of another, by where both stand in the assembly.
Expected<Transform> PartMaker::from_part_to_part(const std::string& from, const Part& to) {
    PartPtr source = project_.part_named(from);
    if (!source) return Transform::Identity();
    return Seating(project_, values_, [this](const Part& p) { return bodies_so_far(p); })
        .from_part_to_part(*source, to);
}

/// What a part that is being made is seated by: its faces as they are now.
Expected<std::vector<StepBody>> PartMaker::bodies_so_far(const Part& part) {
    for (const Making& one : making_)
        if (one.part == part.id) return *one.bodies;
    auto made = this->part(part, 0, 0);
    if (!made) return pass_on(made);
    return std::move(made->bodies);
}

std::optional<Problem> PartMaker::add_tool_key(const Part& host, const StepKind& kind, const StepContext& context,
                                               Hasher& key, uint64_t tool_copy) {
    const StepField* fit = kind.field_of(FieldKind::Fit);
    if (fit && !kind.field_of(FieldKind::Part)) {
        auto gap = context.fit_gap(context.word(fit->name.c_str()), "");
        if (!gap) return gap.error();
        key.add(*gap);
    }
    for (const StepField& field : kind.fields) {
        if (field.kind != FieldKind::Part) continue;
        const std::string& name = context.word(field.name.c_str());
        PartPtr tool = project_.part_named(name);
        if (!tool)
            return Problem{ProblemCode::Missing, "There is no part called \"" + name + "\".",
                           "Click it in the sentence and choose another."};
        if (auto wrong =
                field.role == FieldRole::GoesIn
                    ? add_going_in(host, *tool, fit ? context.word(fit->name.c_str()) : "", context, key, tool_copy)
                    : add_source(*tool, kind, context, key))
            return wrong;
    }
    return std::nullopt;
}

/// A part that goes in is made again larger by the gap.
std::optional<Problem> PartMaker::add_going_in(const Part& host, const Part& tool, const std::string& fit,
                                               const StepContext& context, Hasher& key, uint64_t tool_copy) {
    double gap = 0;
    if (!fit.empty()) {
        auto resolved = context.fit_gap(fit, tool.name);
        if (!resolved) return resolved.error();
        gap = *resolved;
        key.add(gap);
    }
    auto grown = part(tool, gap - context.growth_mm, tool_copy);
    if (!grown) return grown.error();
    key.add(grown->key);
    auto way = from_part_to_part(tool.name, host);
    if (!way) return way.error();
    if (!way->isApprox(Transform::Identity(), 0))
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 4; ++j) key.add(way->matrix()(i, j));
    return std::nullopt;
}

/// Bodies of another part, taken as they are there after one of its steps.
std::optional<Problem> PartMaker::add_source(const Part& source, const StepKind& kind, const StepContext& context,
                                             Hasher& key) {
    auto grown = part(source, context.growth_mm, context.copy);
    if (!grown) return grown.error();
    const StepField* after = kind.field_of(FieldKind::StepName);
    auto last = step_of(source, after ? context.word(after->name.c_str()) : "");
    if (!last) return last.error();
    key.add(*last ? grown->key_after[**last] : grown->key);
    return std::nullopt;
}

/// Id of a part's step by name, number or place in the sheet; nothing for an empty text.
Expected<std::optional<StepId>> PartMaker::step_of(const Part& part, const std::string& text) {
    if (text.empty()) return std::optional<StepId>();
    if (const Step* step = step_called(part, text)) return std::optional(step->id);
    return problem(ProblemCode::Missing, part.name + " has no step called \"" + text + "\".", "Name another.");
}

Expected<std::vector<StepBody>> PartMaker::bodies_of(const std::string& name, const std::string& after, double growth,
                                                     uint64_t copy) {
    PartPtr source = project_.part_named(name);
    if (!source) return problem(ProblemCode::Missing, "There is no part called \"" + name + "\".", "Choose another.");
    auto grown = part(*source, growth, copy);
    if (!grown) return pass_on(grown);
    auto last = step_of(*source, after);
    if (!last) return pass_on(last);
    for (const StepOutcome& outcome : grown->outcomes)
        if (!outcome.ok && outcome.problem && grown->bodies.empty()) {
            Problem why = *outcome.problem;
            why.sentence = name + ": " + why.sentence;
            return pass_on(why);
        }
    if (!*last) return grown->bodies;
    auto found = grown->after.find(**last);
    if (found == grown->after.end())
        return problem(ProblemCode::Missing, "That step of " + name + " has not worked.", "Mend it there first.");
    return found->second;
}

Expected<std::vector<Body>> PartMaker::part_as_it_is(const std::string& name, const Part& host) {
    auto bodies = bodies_of(name, {}, 0, 0);
    if (!bodies) return pass_on(bodies);
    auto way = from_part_to_part(name, host);
    if (!way) return pass_on(way);
    std::vector<Body> placed;
    for (const StepBody& body : *bodies) {
        placed.push_back(body.body);
        if (way->isApprox(Transform::Identity(), 0)) continue;
        auto there = moved(body.body, *way);
        if (!there) return pass_on(there);
        placed.back() = *there;
    }
    return placed;
}

Expected<Body> PartMaker::tool_body(const std::string& name, double growth, uint64_t copy) {
    PartPtr tool = project_.part_named(name);
    if (!tool) return problem(ProblemCode::Missing, "There is no part called \"" + name + "\".", "Choose another.");
    auto grown = part(*tool, growth, copy);
    if (!grown) return pass_on(grown);
    for (const StepOutcome& outcome : grown->outcomes)
        if (!outcome.ok && outcome.problem) {
            Problem why = *outcome.problem;
            if (growth != 0) {
                auto envelope = envelope_body(name, growth, copy);
                if (envelope) return envelope;
                if (envelope.error().code == ProblemCode::Open) why = envelope.error();
            }
            if (why.code == ProblemCode::Open) {
                why.code = ProblemCode::Geometry; // mending here would not help
                why.advice = "Put a mend step into " + name + ".";
            }
            why.sentence = name + ": " + why.sentence;
            return pass_on(why);
        }
    if (grown->bodies.empty())
        return problem(ProblemCode::Missing, name + " has no body yet.", "Give it a solid first.");
    if (grown->bodies.size() == 1) return grown->bodies[0].body;
    std::vector<Body> others;
    for (size_t i = 1; i < grown->bodies.size(); ++i) others.push_back(grown->bodies[i].body);
    auto joined = combine(Operation::Join, grown->bodies[0].body, others, task_);
    if (!joined) return pass_on(joined);
    return joined->body;
}

/// What cannot be remade larger by its numbers is offset by the kernel, or grown by its triangles.
Expected<Body> PartMaker::envelope_body(const std::string& name, double growth, uint64_t copy) {
    auto nominal = tool_body(name, 0, 0);
    if (!nominal) return nominal;
    StepContext context;
    context.step_id = StepId(project_.part_named(name)->id.value); // its steps are not told apart
    context.task = task_;
    if (auto exact = exact_envelope(*nominal, growth, context)) return renamed_copy(*exact, context.step_id, copy);
    auto grown = grow_mesh(nominal->mesh(), growth, {}, task_);
    if (!grown) return pass_on(grown);
    grown->mesh.tags.assign(grown->mesh.triangles.size(),
                            intern_tag({StepId(project_.part_named(name)->id.value), FaceRole::Derived, 0, copy, 0}));
    return Body::from_mesh(std::move(grown->mesh));
}

} // namespace lp

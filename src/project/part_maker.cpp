#include "project/part_maker.h"
#include "mesh/soundness.h"
#include "project/read_fields.h"
#include "steps/meshes/bring_in.h"
#include "steps/meshes/mend.h"
#include <algorithm>

namespace lp {

namespace {

bool bounds_nothing(const StepBody& body) {
    if (body.body.is_exact()) return false;
    Soundness sound = check_soundness(body.body.mesh(), {.self_intersections = false});
    return !sound.closed || sound.inconsistent_edges || sound.inside_out;
}

/// A solid that is taken away gets smaller where its part is remade larger.
bool is_taken_away(const StepKind& kind, const StepContext& context) {
    const StepField* does = kind.field_as(FieldRole::Does);
    return does && context.word(does->name.c_str()) == "cut";
}

bool takes_away(const StepKind& kind, const StepResult& result) {
    return kind.makes_contact() || std::any_of(result.tools.begin(), result.tools.end(),
                                               [](const StepTool& tool) { return tool.operation == Operation::Cut; });
}

/// A hole that ends in the surface it opens to would be closed by a skin: its bodies have other faces then.
bool same_openings(const StepResult& result, const MadePart& nominal, StepId step) {
    const auto found = nominal.after.find(step);
    if (found == nominal.after.end() || found->second.size() != result.bodies.size()) return false;
    for (size_t i = 0; i < result.bodies.size(); ++i) {
        const Body &grown = result.bodies[i].body, &as_it_is = found->second[i].body;
        if (!grown.is_exact() || !as_it_is.is_exact()) continue; // their facets are no faces
        if (grown.tessellation().faces.size() != as_it_is.tessellation().faces.size()) return false;
    }
    return true;
}

/// Triangles that a step made of bodies that were closed must be closed again, whoever made them.
std::optional<Problem> left_open(const StepResult& result, const std::vector<StepBody>& before) {
    auto closed = [](const StepBody& body) { return body.body.is_exact() || is_closed(body.body.mesh()); };
    for (const StepBody& body : result.bodies) {
        if (body.body.is_exact()) continue;
        bool there = std::any_of(before.begin(), before.end(), [&](const StepBody& b) {
            return !b.body.is_exact() && b.body.shared_tessellation() == body.body.shared_tessellation();
        });
        if (there || closed(body)) continue;
        if (!std::all_of(before.begin(), before.end(), closed)) continue; // it came open
        return Problem{ProblemCode::Open, "The triangles of the result do not close.",
                       "Change a size a little, or move the body by 0.01 mm."};
    }
    return std::nullopt;
}

/// What does not bound a body here can be mended here; what lacks an outline that failed before names that step.
Problem as_seen_in_the_sheet(Problem why, const Part& part, const Step& step, const MadePart& grown) {
    if (why.code == ProblemCode::Open && std::any_of(grown.bodies.begin(), grown.bodies.end(), bounds_nothing))
        why.cure = mend_before();
    const StepKind* its = find_step_kind(step.kind);
    if (why.code != ProblemCode::Missing || !its || !its->field_of(FieldKind::Outline) || !grown.outlines.empty())
        return why;
    for (size_t i = 0; i < grown.outcomes.size() && i < part.steps.size(); ++i)
        if (const StepKind* drawn = find_step_kind(part.steps[i].kind);
            drawn && drawn->draws() && !grown.outcomes[i].ok) {
            why.sentence = "The outline it is made from did not come out: see step " + std::to_string(i + 1) + ".";
            why.advice = "Mend that step first.";
            break;
        }
    return why;
}

void take_result(const Step& step, uint64_t id, const StepResult& result, MadePart& grown) {
    if (result.place) {
        grown.places[step.id] = *result.place;
        if (result.place->outline) {
            grown.outlines.push_back(*result.place->outline);
            grown.before_outline[step.id] = grown.bodies;
        }
    }
    grown.key = id;
    grown.bodies = result.bodies;
    if (!result.tools.empty()) grown.tools[step.id] = result.tools;
    grown.after[step.id] = grown.bodies;
    grown.key_after[step.id] = id;
}

} // namespace

Expected<MadePart> PartMaker::part(const Part& part, double growth, uint64_t copy) {
    if (std::any_of(making_.begin(), making_.end(), [&](const Making& m) { return m.part == part.id; })) {
        std::string loop;
        for (const Making& one : making_) loop += project_.part(one.part)->name + " → ";
        return problem(ProblemCode::Missing,
                       "These parts are cut with each other in a circle: " + loop + part.name + ".",
                       "Remove one of those steps.");
    }
    MadePart grown;
    making_.push_back({part.id, &grown.bodies});
    // What is remade larger stands and is drawn where the part as it is has it.
    std::optional<MadePart> nominal;
    if (growth != 0 || copy != 0) {
        making_.pop_back();
        auto as_it_is = this->part(part, 0, 0);
        if (!as_it_is) return as_it_is;
        nominal = std::move(*as_it_is);
        making_.push_back({part.id, &nominal->bodies});
    }
    grown.key = Hasher(0x517e).add(growth).add(copy).value();
    for (const Step& step : part.steps) {
        if (task_.stopped()) break;
        grown.outcomes.push_back(run_step(part, step, growth, copy, grown, nominal ? &*nominal : nullptr));
    }
    making_.pop_back();
    if (task_.stopped()) return cancelled();
    return grown;
}

StepOutcome PartMaker::run_step(const Part& part, const Step& step, double growth, uint64_t copy, MadePart& grown,
                                const MadePart* nominal) {
    StepOutcome outcome{step.id, false, step.on, false, {}, {}, {}};
    if (!step.on) {
        outcome.ok = true;
        return outcome;
    }
    auto fail = [&](Problem why) {
        why = as_seen_in_the_sheet(std::move(why), part, step, grown);
        outcome.says = why.text();
        outcome.cure = why.cure;
        outcome.problem = std::move(why);
        return outcome;
    };
    const StepKind* kind = find_step_kind(step.kind);
    if (!kind)
        return fail({ProblemCode::Missing, "This kind of step is not known here: " + step.kind + ".",
                     "Open the project with a later version."});
    StepContext context = context_for(part, step, growth, copy, grown);
    Hasher key(grown.key);
    key.add(kind->id).add(kind->version).add(step.id).add(std::string_view(step.name));
    if (auto wrong = read_fields(project_, values_, part, step, *kind, context, key)) return fail(*wrong);
    if (kind->for_printer)
        key.add(context.line_mm)
            .add(context.overhang_limit_deg)
            .add(context.first_layer_mm)
            .add(context.first_layer_gap_mm)
            .add(context.modulus_mpa)
            .add(context.strain_percent);
    if (nominal)
        if (auto place = nominal->places.find(step.id); place != nominal->places.end()) context.nominal = place->second;
    if (is_taken_away(*kind, context)) context.growth_mm = -growth;
    // What a tool is made of belongs to the key: it is made (or found) first.
    if (auto wrong = add_tool_key(part, *kind, context, key, cut_copy_id(step.id) ^ copy)) return fail(*wrong);
    const uint64_t id = key.value();
    Expected<StepResult> result = found_or_made(*kind, id, context, grown);
    if (!result) return fail(result.error());
    if (growth != 0 && nominal && takes_away(*kind, *result) && !same_openings(*result, *nominal, step.id))
        return fail({ProblemCode::Geometry, "What it takes away opens otherwise when the part is remade larger.",
                     "It is grown as a whole instead."});
    take_result(step, id, *result, grown);
    outcome.ok = true;
    outcome.says = result->note;
    outcome.in_part = result->in_part;
    outcome.cure = result->cure;
    outcome.handles = result->handles;
    return outcome;
}

/// What a step may ask for, its fields not read yet.
StepContext PartMaker::context_for(const Part& part, const Step& step, double growth, uint64_t copy, MadePart& grown) {
    StepContext context;
    context.step_id = step.id;
    context.name = step.name;
    context.copy = copy;
    context.growth_mm = growth;
    context.task = task_;
    context.parameters = values_;
    context.import_mesh = [this](const std::string& file) { return store_.triangles(project_, file); };
    context.import_bodies = [this](const std::string& file) -> Expected<std::vector<std::pair<std::string, Body>>> {
        auto objects = store_.objects(project_, file);
        if (!objects) return pass_on(objects);
        std::vector<std::pair<std::string, Body>> bodies;
        if (objects->size() > most_bodies_of_a_file) return bodies; // as one mesh
        for (const FileObject& object : *objects) bodies.emplace_back(object.name, object.body());
        return bodies;
    };
    context.import_paths = [this](const std::string& file) { return store_.flat(project_, file); };
    context.outlines = grown.outlines;
    context.line_mm = project_.printer.line_mm();
    context.overhang_limit_deg = project_.printer.overhang_limit_deg;
    context.first_layer_mm = project_.printer.first_layer_mm;
    context.first_layer_gap_mm = project_.printer.first_layer_gap_mm();
    context.modulus_mpa = material_of(project_, part).modulus_mpa;
    context.strain_percent = material_of(project_, part).strain_percent;
    const uint64_t tool_copy = cut_copy_id(step.id) ^ copy;
    context.part_body = [this, tool_copy, &part](const std::string& name, double by) -> Expected<Body> {
        auto body = tool_body(name, by, tool_copy);
        if (!body) return body;
        auto way = from_part_to_part(name, part);
        if (!way) return pass_on(way);
        if (way->isApprox(Transform::Identity(), 0)) return body;
        return moved(*body, *way);
    };
    context.part_as_it_is = [this, &part](const std::string& name) { return part_as_it_is(name, part); };
    context.fit_gap = [this, &part, &grown](const std::string& fit, const std::string& tool) -> Expected<double> {
        const PartPtr other = project_.part_named(tool);
        auto resolved =
            resolve_fit_field(project_, fit, situation(tool, part, grown.bodies), values_, {&part, other.get()});
        if (!resolved) return pass_on(resolved);
        return resolved->gap_mm;
    };
    context.remade = [this, &part, &step, tool_copy](double by) { return remade(part, step, by, tool_copy); };
    context.step_named = [&part](const std::string& name) -> std::optional<StepId> {
        const Step* step = step_called(part, name);
        return step ? std::optional(step->id) : std::nullopt;
    };
    context.tools_of = [&grown](StepId id) {
        auto found = grown.tools.find(id);
        return found == grown.tools.end() ? std::vector<StepTool>{} : found->second;
    };
    context.bodies_of = [this, growth, copy](const std::string& name, const std::string& after) {
        return bodies_of(name, after, growth, copy);
    };
    return context;
}

/// From the store, or made; what the kernel's results have still to prove is noted beside them.
Expected<StepResult> PartMaker::found_or_made(const StepKind& kind, uint64_t id, StepContext& context,
                                              const MadePart& grown) {
    if (auto found = store_.find(id, unproved_)) return *found;
    std::shared_ptr<Proof> proof;
    auto make = [&]() -> Expected<StepResult> {
        if (store_.is_checked_at_once(context.step_id)) return kind.evaluate(grown.bodies, context);
        HeldChecks held;
        auto result = kind.evaluate(grown.bodies, context);
        if (!held.checks.empty()) proof = std::make_shared<Proof>(context.step_id, std::move(held.checks));
        return result;
    };
    Expected<StepResult> result = make();
    if (result && kind.group != StepGroup::Meshes)
        if (auto open = left_open(*result, grown.bodies)) result = pass_on(*open);
    // A crash is no result: the same call may work next time.
    bool lasting = result || result.error().code != ProblemCode::Crashed;
    if (!task_.stopped() && lasting) store_.keep(id, result, std::move(proof), unproved_);
    return result;
}

} // namespace lp

#include "project/analysis.h"
#include "base/hash.h"
#include "base/tolerance.h"
#include <algorithm>

namespace lp {
namespace {

uint64_t card_key(const PrinterCard& printer, const MaterialCard& material) {
    nlohmann::json json{printer, material};
    return Hasher().add(std::string_view(json.dump())).value();
}

uint64_t analysis_key(const Project& project, const Part& part, const PartResult& result, const Transform& pose) {
    Hasher key(result.key);
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 4; ++j) key.add(pose.matrix()(i, j));
    const PostOptions& posts = part.supports.posts;
    key.add(part.supports.on).add(posts.contact_gap_mm).add(posts.spacing_mm).add(posts.post_mm).add(posts.tip_mm);
    key.add(card_key(project.printer, project.material));
    return key.value();
}

} // namespace

const PartAnalysis* Analysis::part(uint64_t id) const {
    for (const auto& p : parts)
        if (p->part == id) return p.get();
    return nullptr;
}

Transform pose_of_part(const Part& part, const PartResult& result, const ParameterValues& values, std::string* note) {
    if (!result.mesh) return Transform::Identity();
    Vec3 down = part.pose.down;
    if (part.pose.face) {
        std::string lost;
        bool found = false;
        for (const StepBody& body : result.bodies) {
            auto face = resolve_reference(body.body, *part.pose.face);
            if (face) {
                down = body.body.tessellation().faces[*face].direction;
                found = true;
                break;
            }
            lost = face.error().text();
        }
        if (!found && note) *note = lost;
    }
    Vec3 turn = Vec3::Zero();
    for (int k = 0; k < 3; ++k)
        if (auto angle = evaluate_expression(part.pose.turn[k], QuantityKind::Angle, values)) turn[k] = *angle;
    return pose_transform(*result.mesh, down, turn);
}

LayerOptions layer_options(const Project& project, const Part& part) {
    LayerOptions options;
    options.heights = {project.printer.layer_height_mm, project.printer.first_layer_mm};
    options.walls = project.printer.walls;
    options.infill_percent = project.printer.infill_percent;
    options.line_width_mm = project.printer.nozzle_mm * 1.125; // 0.45 for a 0.4 nozzle
    options.overhang_limit_deg = project.printer.overhang_limit_deg;
    options.support_gap_mm = part.supports.posts.contact_gap_mm;
    options.material = project.material;
    return options;
}

Expected<Measurable> find_measurable(const Evaluation& evaluation, const MeasuredThing& thing) {
    const PartResult* part = evaluation.part(thing.part);
    if (!part || part->bodies.empty())
        return problem(ProblemCode::Missing, "The part that was measured has no body.", "Measure again.");
    Measurable found;
    found.place = part->place;
    if (thing.reference.empty()) {
        found.body = part->bodies.size() == 1 ? part->bodies[0].body : Body::from_mesh(*part->mesh);
        return found;
    }
    auto face = face_reference_from(thing.reference);
    auto edge = edge_reference_from(thing.reference);
    std::optional<Problem> lost;
    for (const StepBody& body : part->bodies) {
        auto index = face   ? resolve_reference(body.body, *face)
                     : edge ? resolve_edge(body.body, *edge)
                            : Expected<size_t>(problem(ProblemCode::Wording, "What was measured cannot be read."));
        if (!index) {
            if (!lost) lost = index.error();
            continue;
        }
        found.body = body.body;
        found.kind = face ? Measurable::Kind::Face : Measurable::Kind::Edge;
        found.index = *index;
        return found;
    }
    return tl::make_unexpected(*lost);
}

namespace {

MeasureResult measured_now(const Evaluation& evaluation, const KeptMeasure& kept) {
    MeasureResult result{kept.id, {}, {}};
    auto a = find_measurable(evaluation, kept.a);
    if (!a) {
        result.lost = a.error().text();
        return result;
    }
    if (kept.b) {
        auto b = find_measurable(evaluation, *kept.b);
        if (b)
            result.found = measure_between(*a, *b);
        else
            result.lost = b.error().text();
        return result;
    }
    auto face = face_reference_from(kept.a.reference);
    if (a->kind != Measurable::Kind::Face || !face) {
        result.lost = "A wall is measured at a place on a face.";
        return result;
    }
    result.found = thickness_at(a->body, a->index, place_of(a->body, *face));
    if (!result.found) {
        result.lost = "There is no wall behind that place.";
        return result;
    }
    result.found->at_a = a->place * result.found->at_a;
    result.found->at_b = a->place * result.found->at_b;
    return result;
}

} // namespace

PartFigures figures_of(const Evaluation& evaluation, uint64_t id, const Task& task) {
    PartFigures figures;
    const PartResult* made = evaluation.part(id);
    PartPtr part = evaluation.project->part(id);
    if (!made || !part || !made->mesh) {
        figures.problem = "There is no body.";
        return figures;
    }
    for (size_t i = 0; i < made->steps.size() && figures.problem.empty(); ++i)
        if (!made->steps[i].ok) figures.problem = "Step " + std::to_string(i + 1) + ": " + made->steps[i].says;
    figures.volume_mm3 = made->mass.volume_mm3;
    figures.size_mm = made->box.sizes();
    TriMesh posed = transformed(*made->mesh, pose_of_part(*part, *made, evaluation.values));
    auto plan = plan_layers(posed, TriMesh{}, layer_options(*evaluation.project, *part), task);
    if (plan) {
        figures.time_s = plan->time_s;
        figures.mass_g = plan->mass_g;
    } else if (figures.problem.empty()) {
        figures.problem = plan.error().text();
    }
    return figures;
}

Expected<Analysis> Analyser::analyse(const Evaluation& evaluation, const Task& task) {
    Analysis result;
    const Project& project = *evaluation.project;
    task.tell("Measuring contacts", 0.1);
    result.contacts = contacts(evaluation, task);
    for (const KeptMeasure& measure : project.measures) {
        if (task.stopped()) return cancelled();
        result.measures.push_back(measured_now(evaluation, measure));
    }
    std::map<uint64_t, std::shared_ptr<const PartAnalysis>> kept;
    for (size_t i = 0; i < project.parts.size(); ++i) {
        const Part& part = *project.parts[i];
        const PartResult& made = evaluation.parts[i];
        if (task.stopped()) return cancelled();
        if (part.stand_in || !made.mesh) continue;
        task.tell("Looking at " + part.name, 0.2 + 0.8 * double(i) / double(project.parts.size()));
        std::string note;
        Transform pose = pose_of_part(part, made, evaluation.values, &note);
        uint64_t key = analysis_key(project, part, made, pose);
        auto found = parts_.find(key);
        std::shared_ptr<const PartAnalysis> analysis;
        if (found != parts_.end() && found->second->part == part.id) {
            analysis = found->second;
        } else {
            auto fresh = std::make_shared<PartAnalysis>();
            fresh->part = part.id;
            fresh->key = key;
            fresh->pose = pose;
            fresh->pose_note = note;
            fresh->posed = std::make_shared<const TriMesh>(transformed(*made.mesh, pose));
            InspectionOptions options;
            options.nozzle_mm = project.printer.nozzle_mm;
            options.overhang_limit_deg = project.printer.overhang_limit_deg;
            options.bed_mm = project.printer.bed_mm;
            options.self_intersections = !made.exact; // exact bodies were verified when they were made
            fresh->inspection = inspect(*fresh->posed, options, task);
            if (part.supports.on) {
                PostOptions posts = part.supports.posts;
                posts.overhang_limit_deg = project.printer.overhang_limit_deg;
                fresh->supports = make_posts(*fresh->posed, posts, task);
                if (!fresh->supports.mesh.empty())
                    fresh->supports_shape = std::make_shared<const Tessellation>(segment_mesh(fresh->supports.mesh));
            }
            auto plan = plan_layers(*fresh->posed, fresh->supports.mesh, layer_options(project, part), task);
            if (task.stopped()) return cancelled();
            if (plan)
                fresh->plan = std::move(*plan);
            else
                fresh->plan_problem = plan.error().text();
            analysis = fresh;
        }
        kept[key] = analysis;
        result.parts.push_back(analysis);
        if (analysis->plan) {
            result.time_s += analysis->plan->time_s * part.quantity;
            result.mass_g += analysis->plan->mass_g * part.quantity;
            result.filament_mm += analysis->plan->filament_mm * part.quantity;
            result.price += analysis->plan->price * part.quantity;
        }
    }
    if (task.stopped()) return cancelled();
    // Keep what recent snapshots used, so that undo is instant; forget the rest now and then.
    if (parts_.size() > 200) parts_.clear();
    parts_.insert(kept.begin(), kept.end());
    return result;
}

} // namespace lp

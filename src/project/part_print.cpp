#include "project/part_print.h"
#include "project/contact_ledger.h"
#include "project/layer_heights.h"
#include "project/marked_faces.h"

namespace lp {

LayerOptions layer_options(const Project& project, const Part& part) {
    LayerOptions options;
    options.heights = layer_heights(project, part);
    options.skirt_loops = project.printer.skirt_loops;
    options.power_w = project.printer.power_w;
    options.price_per_kwh = project.printer.price_per_kwh;
    options.walls = project.printer.walls;
    options.infill_percent = project.printer.infill_percent;
    options.infill = project.printer.infill;
    options.time_factor = time_factor(project.printer.timed, plan_start_s).factor;
    options.line_width_mm = project.printer.line_mm();
    options.overhang_limit_deg = project.printer.overhang_limit_deg;
    SupportOptions supports = part.supports.options;
    supports.heights = options.heights;
    options.support_gap_mm = supports.gap_mm();
    options.raft_layers = part.supports.options.raft_layers;
    options.interface_layers = part.supports.options.interface_layers;
    options.material = material_of(project, part);
    return options;
}

LayerOptions layer_options(const Evaluation& evaluation, const Part& part, const Transform& pose) {
    LayerOptions options = layer_options(*evaluation.project, part);
    const PartResult* made = evaluation.part(part.id);
    for (size_t i = 0; made && i < made->bodies.size(); ++i)
        for (const SolidInside& solid : made->bodies[i].solids)
            options.solids.push_back(
                {std::make_shared<const TriMesh>(transformed(solid.where.mesh(), pose)), solid.around_mm});
    return options;
}

SupportOptions support_options(const Project& project, const Part& part) {
    SupportOptions options = part.supports.options;
    options.overhang_limit_deg = project.printer.overhang_limit_deg;
    // Interfaces are laid in even layers.
    options.heights = {project.printer.layer_height_mm, project.printer.first_layer_mm};
    return options;
}

SupportWishes support_wishes(const Part& part, const PartResult& made, const Transform& pose) {
    SupportWishes wishes{find_marks(part, made).facets, part.supports.changes};
    for (SupportChange& change : wishes.changes) change.at = pose * change.at;
    return wishes;
}

Supports supports_of(const Evaluation& evaluation, const Part& part, const TriMesh& posed, const Task& task) {
    const Project& project = *evaluation.project;
    const PartResult* made = evaluation.part(part.id);
    const SupportWishes wishes =
        made ? support_wishes(part, *made, pose_of_part(part, *made, evaluation.values)) : SupportWishes();
    return supports_and_foot(posed, part.supports.on, support_options(project, part),
                             layer_options(project, part).heights, task, wishes);
}

PartFigures figures_of(const Evaluation& evaluation, PartId id, const Task& task) {
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
    const Transform pose = pose_of_part(*part, *made, evaluation.values);
    TriMesh posed = transformed(*made->mesh, pose);
    const TriMesh supports = supports_of(evaluation, *part, posed, task).everything();
    auto plan = plan_layers(posed, supports, layer_options(evaluation, *part, pose), task);
    if (plan) {
        figures.time_s = plan->time_s;
        figures.mass_g = plan->mass_g;
    } else if (figures.problem.empty()) {
        figures.problem = plan.error().text();
    }
    return figures;
}

} // namespace lp

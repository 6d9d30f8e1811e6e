#include "project/bed_print.h"
#include "bed/raft.h"
#include "layers/bed_lines.h"
#include "layers/skirt.h"

namespace lp {
namespace {

std::vector<const TriMesh*> printed_meshes(const PartAnalysis& known) {
    return {known.posed.get(), &known.supports.mesh, &known.supports.brim, &known.supports.raft};
}

/// What of a part lies on the bed.
Region ground_of(const PartAnalysis& known, const LayerOptions& options, const Transform& stand) {
    Region ground;
    for (const TriMesh* mesh : printed_meshes(known)) {
        if (!mesh || mesh->empty()) continue;
        const TriMesh there = transformed(*mesh, stand);
        ground = unite_regions(ground, slice(there, options.heights, bounding_box(there).min().z(), 1).front());
    }
    return options.raft_layers > 0 ? offset_region(ground, raft_margin_mm) : ground;
}

} // namespace

BedPlan bed_plan_of(const Evaluation& evaluation, const Analysis& analysis) {
    return bed_plan(*evaluation.project, [&](const Part& part, double turn_deg) {
        Box3 box;
        const PartAnalysis* known = analysis.part(part.id);
        if (!known || !known->posed) return box;
        for (const TriMesh* mesh : printed_meshes(*known))
            if (mesh) box.extend(turned_box(*mesh, turn_deg));
        return box;
    });
}

Expected<PartLines> lines_of_bed(const Evaluation& evaluation, const Analysis& analysis, size_t bed, const Task& task) {
    const BedPlan plan = bed_plan_of(evaluation, analysis);
    std::vector<LinesOnBed> copies;
    std::map<PartId, std::shared_ptr<const PartLines>> planned;
    Region ground;
    LayerOptions any;
    for (const BedItem& item : plan.items) {
        if (item.spot.bed != bed) continue;
        const PartPtr part = evaluation.project->part(item.part);
        const PartAnalysis* known = analysis.part(item.part);
        if (!part || !known || !known->posed) continue;
        LayerOptions options = layer_options(evaluation, *part, known->pose);
        any = options;
        options.skirt_loops = 0; // one goes round all of them
        if (any.skirt_loops > 0) ground = unite_regions(ground, ground_of(*known, options, item.stand));
        auto& lines = planned[item.part];
        if (!lines) {
            task.tell("Planning the lines of " + part->name, double(copies.size()) / double(plan.items.size()));
            auto made = part_lines(*known->posed, known->supports.mesh, options, task, known->supports.brim);
            if (!made) {
                Problem why = made.error();
                if (why.code != ProblemCode::Cancelled) why.sentence = part->name + ": " + why.sentence;
                return pass_on(why);
            }
            lines = std::make_shared<const PartLines>(std::move(*made));
        }
        copies.push_back({lines, item.stand});
    }
    if (copies.empty())
        return problem(ProblemCode::Missing, "Nothing stands on this bed.", "Choose a part that is printed.");
    PartLines all = bed_lines(copies);
    if (any.skirt_loops > 0 && !all.layers.empty()) {
        LineOptions lines;
        lines.width_mm = any.line_width_mm;
        put_first(all.layers.front(), skirt_lines(ground, any.skirt_loops, all.tops.front(), lines));
    }
    return all;
}

} // namespace lp

#include "project/deviation_map.h"
#include "base/hash.h"
#include "mesh/refine.h"
#include "shape/mesh_distance.h"
#include "steps/step_kind.h"
#include <algorithm>
#include <cmath>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// The step after which the part is as its file is, only where and as large as it is wanted; nothing where no step
/// shapes it further.
std::optional<StepId> untouched_until(const Part& part) {
    std::optional<StepId> until;
    for (const Step& step : part.steps) {
        const StepKind* kind = find_step_kind(step.kind);
        if (!step.on || !kind) continue;
        const bool first = !until;
        if (first && kind->id != "bring_in") return std::nullopt;
        if (!first && kind->group != StepGroup::Placing) return until;
        until = step.id;
    }
    return std::nullopt;
}

std::optional<Original> design_of(const Evaluation& evaluation, const PartResult& print) {
    for (const PartResult& design : evaluation.parts) {
        if (design.stand_in || !print.stand_in || design.bodies.empty()) continue;
        // "…, practice print 2" is one too.
        if (!print.name.starts_with(practice_name(design.name))) continue;
        Hasher key(design.key);
        for (int i = 0; i < 16; ++i) key.add(design.place.matrix()(i / 4, i % 4));
        Original original{design.name + " as designed", {}, key.value()};
        for (const StepBody& body : design.bodies) original.bodies.emplace_back(body.body, design.place);
        return original;
    }
    return std::nullopt;
}

/// 1, 2 or 5 of a power of ten, not below.
double round_up(double mm) {
    const double power = std::pow(10, std::floor(std::log10(mm)));
    for (double digit : {1.0, 2.0, 5.0})
        if (mm <= digit * power * (1 + 1e-9)) return digit * power;
    return 10 * power;
}

} // namespace

std::string practice_name(const std::string& part) {
    return part + ", practice print";
}

std::optional<Original> original_of(const Evaluation& evaluation, PartId id) {
    const PartPtr part = evaluation.project->part(id);
    const PartResult* made = evaluation.part(id);
    if (!part || !made || made->bodies.empty()) return std::nullopt;
    if (auto design = design_of(evaluation, *made)) return design;
    const auto until = untouched_until(*part);
    const auto found = until ? made->after.find(*until) : made->after.end();
    if (found == made->after.end()) return std::nullopt;
    Original original{"what came from the file", {}, Hasher(made->key).add(*until).value()};
    for (const StepBody& body : found->second) original.bodies.emplace_back(body.body, Transform::Identity());
    return original;
}

std::vector<SurfaceMap> deviation_maps(const PartResult& part, const Original& original, const Task& task) {
    TriMesh whole;
    for (const auto& [body, place] : original.bodies) append(whole, transformed(body.mesh(), place));
    const DistanceTree tree(whole);
    if (tree.empty()) return {};
    const double longest_mm = std::max(1.5, (part.box.max() - part.box.min()).norm() / 100);
    std::vector<SurfaceMap> maps;
    std::vector<float> all;
    for (size_t i = 0; i < part.bodies.size(); ++i) {
        task.tell("Measuring how far it is off", double(i) / double(part.bodies.size()));
        const TriMesh& drawn = part.bodies[i].body.mesh();
        // A large facet is near at its corners and may be far off between them.
        auto finer = refined(
            drawn, [&](const Vec3&, const Vec3&) { return longest_mm; }, task);
        if (task.stopped()) return {};
        auto shape = std::make_shared<Tessellation>(segment_mesh(finer ? std::move(*finer) : drawn));
        std::vector<float> at_corners(shape->mesh.vertices.size());
        tbb::parallel_for(size_t(0), at_corners.size(), [&](size_t v) {
            if (!task.stopped()) at_corners[v] = float(tree.closest(shape->mesh.vertices[v]).distance_mm);
        });
        if (task.stopped()) return {};
        auto values = std::make_shared<std::vector<float>>();
        values->reserve(shape->mesh.triangles.size() * 3);
        for (const auto& triangle : shape->mesh.triangles)
            for (size_t k = 0; k < 3; ++k) values->push_back(at_corners[triangle[k]]);
        all.insert(all.end(), at_corners.begin(), at_corners.end());
        SurfaceMap map;
        map.part = part.part;
        map.body = i;
        map.shape = shape;
        map.values = values;
        map.title = "Off by";
        map.unit = "mm";
        maps.push_back(std::move(map));
    }
    if (all.empty()) return {};
    // A few places that are far off do not take the scale from the rest; they have its last colour.
    const auto nearly_all = all.begin() + std::ptrdiff_t(double(all.size() - 1) * 0.97);
    std::nth_element(all.begin(), nearly_all, all.end());
    const double high = round_up(std::max(0.02, double(*nearly_all)));
    for (SurfaceMap& map : maps) {
        map.high = high;
        map.contour = high / 10;
        map.decimals = high < 0.2 ? 3 : 2;
    }
    return maps;
}

double largest_value(const SurfaceMap& map) {
    float largest = 0;
    for (float value : *map.values) largest = std::max(largest, value);
    return largest;
}

} // namespace lp

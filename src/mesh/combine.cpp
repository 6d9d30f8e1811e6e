#include "mesh/combine.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "mesh/soundness.h"
#include "shape/cavity.h"
#include <cmath>

namespace lp {
namespace {

Expected<Combined> on_meshes(Operation operation, const Body& first, const std::vector<Body>& others, const Task& task,
                             const std::string& note) {
    std::vector<TriMesh> meshes{first.mesh()};
    for (const Body& body : others) meshes.push_back(body.mesh());
    auto mesh = combine_meshes(operation, meshes, task);
    if (!mesh) return pass_on(mesh);
    Body body = Body::from_mesh(std::move(*mesh));
    std::vector<double> volumes;
    for (const Body& other : others) volumes.push_back(mass_properties(other.mesh()).volume_mm3);
    if (auto wrong =
            check_boolean_volume(operation, body.mass().volume_mm3, mass_properties(first.mesh()).volume_mm3, volumes))
        return pass_on(*wrong);
    return Combined{body, note};
}

/// Did the operation leave the first body as it was although the boxes meet? Kernels have been seen to do that.
bool changed_nothing(Operation operation, const Body& result, const Body& first, const std::vector<Body>& others) {
    if (operation == Operation::Common) return false;
    if (std::fabs(result.mass().volume_mm3 - first.mass().volume_mm3) > 1e-6 * first.mass().volume_mm3) return false;
    Box3 box = first.box();
    for (const Body& other : others)
        if (box.intersection(other.box()).volume() > tolerance::overlap_mm3) return true;
    return false;
}

/// What the triangles made of what the kernel refused or left undone; exact after all where every bit of the tools was
/// taken away and every bit of skin is left: then they lie inside and touch the skin at points or along lines.
Combined exact_if_cavities(Operation operation, const Body& first, const std::vector<Body>& tools,
                           Combined on_triangles) {
    if (operation != Operation::Cut) return on_triangles;
    constexpr double alike = 1e-7; // the triangles' own rounding
    const MassProperties whole = mass_properties(first.mesh()), left = on_triangles.body.mass();
    double volume = whole.volume_mm3, area = whole.area_mm2;
    for (const Body& tool : tools) {
        const MassProperties its = mass_properties(tool.mesh());
        volume -= its.volume_mm3;
        area += its.area_mm2;
    }
    if (std::fabs(left.volume_mm3 - volume) > alike * whole.volume_mm3) return on_triangles;
    if (std::fabs(left.area_mm2 - area) > alike * area) return on_triangles;
    auto made = with_cavities(first, tools);
    if (!made || made->check_triangles()) return on_triangles;
    return {*made, "the cut touches the outside without opening it: there the wall has no thickness"};
}

} // namespace

Expected<Combined> combine(Operation operation, const Body& first, const std::vector<Body>& others, const Task& task) {
    if (others.empty()) return Combined{first, {}};
    bool exact = first.is_exact();
    for (const Body& body : others) exact = exact && body.is_exact();
    if (!exact) return on_meshes(operation, first, others, task, {});
    auto result = combine_exact(operation, first, others, task);
    if (result) {
        if (!changed_nothing(operation, *result, first, others)) return Combined{*result, {}};
        // A second opinion from the triangles: did the tool really only touch or miss?
        auto second =
            on_meshes(operation, first, others, task, "done on triangles, because the exact result changed nothing");
        if (!second) return Combined{*result, {}};
        double difference = std::fabs(second->body.mass().volume_mm3 - result->mass().volume_mm3);
        double faceting = tolerance::export_deflection_mm * 2 * (first.mass().area_mm2 + result->mass().area_mm2);
        if (difference <= faceting) return Combined{*result, {}};
        return exact_if_cavities(operation, first, others, std::move(*second));
    }
    if (result.error().code == ProblemCode::NothingLeft || task.stopped()) return pass_on(result);
    auto second = on_meshes(operation, first, others, task,
                            "done on triangles, because the exact way failed; the body is faceted from here");
    if (second) return exact_if_cavities(operation, first, others, std::move(*second));
    return pass_on(result);
}

} // namespace lp

#include "bed/raft.h"
#include "bed/flat_body.h"
#include "mesh/combine.h"

namespace lp {
namespace {

constexpr double pad_mm = 0.6;   ///< how far the pad under a support reaches past its foot
constexpr double apart_mm = 0.3; ///< between a pad and the part

} // namespace

TriMesh make_raft(const TriMesh& posed, const TriMesh& supports, double height_mm, double gap_mm, double layer_mm,
                  const Task& task) {
    if (posed.empty() || !(height_mm > gap_mm) || !(layer_mm > 0)) return {};
    auto foot = [&](const TriMesh& mesh) {
        if (mesh.empty()) return Region();
        std::vector<Region> layers = slice(mesh, {layer_mm, layer_mm}, 0, 1, task);
        return layers.empty() ? Region() : std::move(layers.front());
    };
    const Region part = foot(posed), feet = foot(supports);
    if (task.stopped() || (part.empty() && feet.empty())) return {};
    // Holes of the raft would be narrow ones: they are filled.
    Region outer;
    for (const ClipperLib::Path& path : offset_region(unite_regions(part, feet), raft_margin_mm))
        if (ClipperLib::Orientation(path)) outer.push_back(path);
    TriMesh slab = flat_body(unite_regions(outer, {}), -height_mm, -gap_mm);
    if (feet.empty() || slab.empty() || !(gap_mm > 0)) return slab;
    const Region pads = subtract_regions(offset_region(feet, pad_mm), offset_region(part, apart_mm));
    const TriMesh raised = flat_body(pads, -(height_mm + gap_mm) / 2, 0);
    if (raised.empty()) return slab;
    auto joined = combine_meshes(Operation::Join, {slab, raised}, task);
    if (joined) return std::move(*joined);
    append(slab, raised); // as a shell of its own: the supports stand on it all the same
    return slab;
}

} // namespace lp

// The octree gives a closed surface, thinning out makes it light, and a dense check from both sides says how good it
// is.
#include "mesh/grow.h"
#include "base/quantity.h"
#include "mesh/grown_deviation.h"
#include "mesh/halo_octree.h"
#include "mesh/halo_thin_out.h"
#include "mesh/soundness.h"
#include <deque>
#include <mutex>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double least_mm = 0.02, most_mm = 20;

/// What was grown last. The same thing standing elsewhere is grown once: a screw in two places of a bracket.
class GrownBefore {
  public:
    std::optional<Grown> find(const TriMesh& body, double by_mm, double deviation_mm) {
        std::lock_guard lock(mutex_);
        for (const Entry& e : entries_)
            if (e.by_mm == by_mm && e.deviation_mm == deviation_mm && same(e.body, body)) {
                const Vec3 shift = body.vertices.front() - e.body.vertices.front();
                Grown moved = e.grown;
                for (Vec3& v : moved.mesh.vertices) v += shift;
                moved.worst += shift;
                return moved;
            }
        return std::nullopt;
    }
    void keep(const TriMesh& body, double by_mm, double deviation_mm, const Grown& grown) {
        std::lock_guard lock(mutex_);
        entries_.push_back({body, by_mm, deviation_mm, grown});
        if (entries_.size() > most) entries_.pop_front();
    }

  private:
    static constexpr size_t most = 3;
    struct Entry {
        TriMesh body;
        double by_mm, deviation_mm;
        Grown grown;
    };
    static bool same(const TriMesh& a, const TriMesh& b) {
        constexpr double alike_mm = 1e-9;
        if (a.triangles != b.triangles || a.vertices.size() != b.vertices.size()) return false;
        const Vec3 shift = b.vertices.front() - a.vertices.front();
        for (size_t i = 0; i < a.vertices.size(); ++i)
            if (!((b.vertices[i] - a.vertices[i] - shift).cwiseAbs().maxCoeff() < alike_mm)) return false;
        return true;
    }
    std::mutex mutex_;
    std::deque<Entry> entries_;
};

GrownBefore& grown_before() {
    static GrownBefore before;
    return before;
}

Expected<Grown> grow_anew(const TriMesh& body, double by_mm, const GrowOptions& options, const Task& task);

} // namespace

Expected<Grown> grow_mesh(const TriMesh& body, double by_mm, const GrowOptions& options, const Task& task) {
    constexpr size_t worth_keeping = 2000, too_large = 500'000; // facets
    const bool keep = body.triangles.size() >= worth_keeping && body.triangles.size() <= too_large;
    if (keep)
        if (auto before = grown_before().find(body, by_mm, options.deviation_mm)) return std::move(*before);
    auto grown = grow_anew(body, by_mm, options, task);
    if (keep && grown) grown_before().keep(body, by_mm, options.deviation_mm, *grown);
    return grown;
}

namespace {

Expected<Grown> grow_anew(const TriMesh& body, double by_mm, const GrowOptions& options, const Task& task) {
    if (!(std::fabs(by_mm) >= least_mm && std::fabs(by_mm) <= most_mm))
        return problem(ProblemCode::Range,
                       "A body cannot be grown by " + format_quantity(by_mm, QuantityKind::Length) + ".",
                       "Use 0.02 mm to 20 mm, or as much below 0 to shrink it.");
    SoundnessOptions quick;
    quick.self_intersections = false;
    Soundness sound = check_soundness(body, quick, task);
    if (task.stopped()) return cancelled();
    if (!sound.closed || sound.kept.empty())
        return problem(ProblemCode::Open,
                       "The mesh is open (" + std::to_string(sound.open_edges.count) +
                           " open edges): what is inside cannot be told.",
                       "Mend it first.");
    const double distance = std::fabs(by_mm);
    const TriMesh& kept = sound.kept;
    DistanceField field(kept);
    halo::OctreeOptions finer;
    finer.distance_mm = distance;
    finer.inward = by_mm < 0;
    std::optional<Grown> best;
    // The recipe's limits leave room to 0.02 mm; where the check finds more, once again with half of them.
    for (double scale : {1.0, 0.5}) {
        finer.tolerance_mm = 0.55 * options.deviation_mm * scale;
        finer.finest_mm = std::min(0.008, 0.4 * options.deviation_mm * scale);
        halo::Octree octree(kept, field, finer);
        auto raw = octree.surface(task);
        if (!raw) return pass_on(raw);
        if (raw->empty())
            return problem(ProblemCode::NothingLeft,
                           "Nothing is left: no place of the body is " +
                               format_quantity(distance, QuantityKind::Length) + " inside it.",
                           "Shrink it by less.");
        task.tell("Making it lighter", 0.8);
        const halo::ThinOutOptions thin{distance, by_mm < 0, 0.675 * options.deviation_mm * scale};
        TriMesh light = halo::thin_out(*raw, field, thin, task);
        if (task.stopped()) return cancelled();
        task.tell("Measuring", 0.95);
        const GrownDeviation found = grown_deviation(light, kept, field, octree.seeds(), distance, by_mm < 0, task);
        if (task.stopped()) return cancelled();
        if (!best || found.largest_mm < best->largest_deviation_mm)
            best = Grown{std::move(light), found.largest_mm, found.where};
        if (best->largest_deviation_mm <= options.deviation_mm) break;
    }
    if (task.stopped()) return cancelled();
    return std::move(*best);
}

} // namespace

Expected<Grown> grow_mesh_along(const TriMesh& body, double across_mm, double along_mm, const Vec3& axis,
                                const Task& task) {
    // In a space drawn out along the axis both distances are the same.
    const double stretch = across_mm / along_mm;
    Vec3 a = axis.normalized();
    auto scaled = [&](TriMesh mesh, double by) {
        for (Vec3& v : mesh.vertices) v += a * (a.dot(v) * (by - 1));
        return mesh;
    };
    if (!(along_mm > 0 && across_mm > 0 && stretch < 50 && stretch > 0.02))
        return problem(ProblemCode::Range, "The gaps along and across the axis cannot be drawn together.",
                       "Use gaps above 0 that differ by less than fifty times.");
    GrowOptions options;
    options.deviation_mm *= std::min(1.0, stretch); // squeezing back only makes deviations smaller
    auto grown = grow_mesh(scaled(body, stretch), across_mm, options, task);
    if (!grown) return grown;
    grown->mesh = scaled(std::move(grown->mesh), 1 / stretch);
    grown->largest_deviation_mm *= std::max(1.0, 1 / stretch);
    grown->worst += a * (a.dot(grown->worst) * (1 / stretch - 1));
    return grown;
}

} // namespace lp

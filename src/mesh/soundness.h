// Is a mesh fit to be printed? Counts of everything that is wrong with it, each with a place.
#pragma once
#include "base/task.h"
#include "mesh/topology.h"
#include <optional>

namespace lp {

/// How many, and where the first (or the largest) of them is.
struct Fault {
    size_t count = 0;
    Vec3 where = Vec3::Zero();
    explicit operator bool() const { return count > 0; }
};

/// The rules are cli.md's: vertices welded when bit-identical; non-finite, degenerate and duplicate facets counted and
/// set aside; the rest judged on what remains.
struct Soundness {
    size_t triangles = 0;         ///< facets as read
    size_t vertices = 0;          ///< after welding
    TriMesh kept;                 ///< welded, without what was set aside
    Topology topology;            ///< of `kept`
    std::vector<uint32_t> source; ///< facet number in the mesh as read, of each kept triangle

    Fault nonfinite, degenerate, duplicate;
    Fault open_edges, holes, nonmanifold_edges, nonmanifold_vertices, inconsistent_edges, flipped;
    size_t shells = 0;
    bool closed = false;     ///< no edge has an odd number of facets
    bool inside_out = false; ///< an outer shell encloses a negative volume
    Fault inner_shells;      ///< closed shells with material all round them: hidden faces
    Fault cavities;          ///< closed shells facing inward inside another
    /// Not looked for when empty.
    std::optional<Fault> self_intersecting;  ///< facets that pass through others
    std::optional<Fault> overlapping_shells; ///< shells that pass through another shell
    std::vector<int> depth;                  ///< of each shell: how many others it lies in; -1 for open shells

    /// Nothing at all is wrong.
    bool sound() const;
};

struct SoundnessOptions {
    bool self_intersections = true; ///< the slowest part: about 1.5 s a million facets
};

Soundness check_soundness(const TriMesh& mesh, const SoundnessOptions& options = {}, const Task& task = {});

/// The separate things in a mesh: every shell, with the voids inside it. A ball in a closed socket is two bodies: the
/// socket with its void, and the ball.
std::vector<TriMesh> separate_bodies(const Soundness& sound);

/// Pairs of triangles of a welded mesh that pass through each other or lie on each other; neighbours that only share
/// an edge or a corner do not count. Exact predicates (CGAL).
std::vector<std::pair<uint32_t, uint32_t>> intersecting_pairs(const TriMesh& mesh, const Task& task = {});

} // namespace lp

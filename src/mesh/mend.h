// One-press mending of meshes that came from elsewhere, with an itemised report.
#pragma once
#include "base/problem.h"
#include "mesh/soundness.h"
#include <string>

namespace lp {

/// One of the cures alone. What has no place, no area or is there twice is set aside before any of them.
enum class MendOnly { All, Dropping, Welding, Parting, Turning, Filling, Uniting };

struct MendOptions {
    double tolerance_mm = 0.01; ///< open edges' corners nearer than this are welded; nothing else moves
    double debris_mm = 0.3;     ///< shells no larger than this from corner to corner go; 0: none
    bool unite = true;          ///< what passes through itself, lies against itself or is hidden becomes one surface
    MendOnly only = MendOnly::All;
};

/// One kind of cure and how often it was needed.
struct Cure {
    std::string kind; ///< drop_nonfinite, drop_degenerate, drop_duplicate, weld, close_t_joint,
                      ///< split_nonmanifold, drop_sheet, split_corner, turn, turn_outward,
                      ///< drop_loose, fill_hole, drop_debris, unite, drop_hidden, join_touching, part_crossing
    size_t count = 0;
    std::string says;
};

struct Mended {
    TriMesh mesh;
    std::vector<Cure> cures;    ///< only those that did something, in the order they were done
    double largest_move_mm = 0; ///< of any vertex
    size_t holes_left = 0;      ///< that could not be filled
};

/// Drops non-finite, zero-area and duplicate facets, welds the corners of open edges, parts facets at edges with more
/// than two of them, turns facets to agree and outer shells outward, fills holes, drops debris (never a shell above a
/// hundredth of the largest). What is closed then and still passes through itself, lies on itself or is hidden inside
/// is united by the exact arrangement of arrange_meshes(): material is where the surface goes round at least once, so
/// that cavities stay. A sound mesh comes back as it is; closed, agreeing parts of others keep every vertex and facet
/// where nothing is united. Fails when nothing usable is left or on request.
Expected<Mended> mend(const TriMesh& mesh, const MendOptions& options = {}, const Task& task = {});

/// Triangles that close a loop of points, as indices into it, by the library's optimal hole filling; empty when the
/// loop cannot be filled.
std::vector<Triangle> fill_loop(const std::vector<Vec3>& loop);

} // namespace lp

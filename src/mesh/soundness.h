// Is a mesh fit to be printed? Counts of everything that is wrong with it, each with a place.
#pragma once
#include "base/task.h"
#include "mesh/topology.h"
#include <array>
#include <optional>

namespace lp {

/// How many, where the first (or the largest) of them is, and the first of them as they stand.
struct Fault {
    /// Three corners of a facet, two of an edge (the last twice), one corner three times.
    using Place = std::array<Vec3, 3>;
    static constexpr size_t most_places = 200;
    size_t count = 0;
    Vec3 where = Vec3::Zero();
    std::vector<Place> places = {}; ///< no more than `most_places`
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
    bool closed = false;     ///< no edge has an odd number of facets, but for edges of slits without width
    bool inside_out = false; ///< every outer shell encloses a negative volume; one beside sound ones counts as flipped
    Fault inner_shells;      ///< closed shells with material all round them: hidden faces
    Fault cavities;          ///< closed shells facing inward inside another
    /// Not looked for when empty.
    std::optional<Fault> self_intersecting;  ///< facets that pass through others, or lie on them looking the same way
    std::optional<Fault> overlapping_shells; ///< shells that pass through another shell
    std::optional<Fault> touching;           ///< facets that lie against others, face to face: no fault of its own
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

/// How two triangles meet in more than edges and corners.
enum class Meeting {
    Through, ///< the inside of one meets the inside of the other, or they lie on each other and look the same way
    Against  ///< they lie on each other and look at each other: bodies that touch there
};
struct MeetingPair {
    uint32_t a, b;
    Meeting how;
};
/// Of a welded mesh. What only touches along edges or in corners does not count, nor does an edge laid on a facet; an
/// edge whose two facets stand on either side of one does. Exact predicates (CGAL).
std::vector<MeetingPair> meeting_pairs(const TriMesh& mesh, const Task& task = {});
/// Those that pass through each other.
std::vector<std::pair<uint32_t, uint32_t>> intersecting_pairs(const TriMesh& mesh, const Task& task = {});

} // namespace lp

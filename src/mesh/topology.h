// Who touches whom in a welded mesh: edges with their facets, shells, holes.
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

/// One undirected edge and the half-edges on it, as a range of Topology::half_edges.
struct MeshEdge {
    uint32_t a, b; ///< vertices, a < b
    uint32_t first, count;
};
struct MeshHalfEdge {
    uint32_t triangle;
    bool forward; ///< runs from a to b in its triangle
};

/// Built in n log n from a mesh without degenerate facets.
struct Topology {
    std::vector<MeshEdge> edges;
    std::vector<MeshHalfEdge> half_edges;
    std::vector<uint32_t> shell_of; ///< shell of each triangle: joined by edges
    uint32_t shells = 0;
};
Topology build_topology(const TriMesh& mesh);

/// Boundary loops: each a chain of vertices; closed unless the boundary meets an edge with three or more facets.
std::vector<std::vector<uint32_t>> boundary_loops(const TriMesh& mesh, const Topology& topology);
/// Vertices whose facets fall into more than one fan.
std::vector<uint32_t> pinched_vertices(const TriMesh& mesh, const Topology& topology);
/// For every triangle: true when it must be turned over so that neighbours across two-facet edges agree; per shell
/// the smaller set is chosen. Shells that cannot agree (one-sided) keep their conflicts.
std::vector<bool> turned_against_neighbours(const TriMesh& mesh, const Topology& topology);
/// Each shell as a mesh of its own (vertices renumbered), in one pass.
std::vector<TriMesh> extract_shells(const TriMesh& mesh, const Topology& topology);

} // namespace lp

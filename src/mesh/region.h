// A region of a mesh: facets that are worked on together, whoever made them.
#pragma once
#include "base/problem.h"
#include "mesh/recognise.h"
#include <functional>
#include <optional>

namespace lp {

using Facets = std::vector<uint32_t>; ///< numbers of triangles of a mesh, without repeats

/// The one form that facets stand for together: it holds at least 95 % of their area. Nothing for other shapes.
std::optional<Feature> form_of(const TriMesh& mesh, const Facets& facets, const Task& task = {});

/// Facets as a body of their own. Rims in one plane are closed by one flat face with what lies in it left open (two
/// rims, one in the other, become a ring), others by the least surface that spans them.
struct ClosedPatch {
    TriMesh mesh;             ///< closed, facing outward; facets that close it have the tag that was given
    bool hollow = false;      ///< the facets were those of a hole: the body is what fills it
    size_t first_closing = 0; ///< facets from here on close it
};
Expected<ClosedPatch> closed_patch(const TriMesh& mesh, const Facets& facets, Tag closing, const Task& task = {});

/// The mesh without the facets, closed over in the same way. A flat face that closes it is named after the face it lies
/// in the plane of, where there is one.
Expected<TriMesh> without_region(const TriMesh& mesh, const Facets& facets, Tag closing, const Task& task = {});

/// Where the vertices of a region go: one move for each vertex of the mesh; those outside it are not looked at.
using RegionMove = std::function<std::vector<Vec3>(const TriMesh& mesh, const Facets& facets)>;
RegionMove moved_by(const std::function<Vec3(const Vec3&)>& map);
/// Every facet's plane is moved outward by a distance; at corners the planes meet again.
RegionMove pushed_by(double by_mm);

/// Moves a region; neighbours follow over `reach_mm` along the surface (0: only the facets that touch it stretch).
/// Facets in reach are parted so that they can. Fails where facets beside it would fold over, and on request.
Expected<TriMesh> moved_region(const TriMesh& mesh, const Facets& facets, const RegionMove& move, double reach_mm,
                               const Task& task = {});

/// How far what closes a region reaches past its rims when it is set in again, along an axis and away from the region:
/// a hole that is made wider opens for certain, a peg stands in what carries it.
struct PastRim {
    Vec3 along = Vec3::Zero();       ///< unit; zero: it reaches no further
    double flat_mm = 0, bent_mm = 0; ///< past a rim that lies in a plane, and past others
};

/// Takes a region out, closes the mesh over, and sets it in again where `move` takes it: what stands out is joined on,
/// what goes in is cut out. Right for pegs and holes that are moved along what they stand on, or made wider there.
Expected<TriMesh> set_in_again(const TriMesh& mesh, const Facets& facets, const std::function<Vec3(const Vec3&)>& move,
                               Tag closing, const Task& task = {}, const PastRim& past = {});

/// The facets and what closes them off inwards: beyond a rim whose neighbours go towards the axis (the floor of a hole,
/// the top of a peg) the smooth surface from there.
Facets with_inner_ends(const TriMesh& mesh, const Facets& facets, const Vec3& at, const Vec3& axis);

} // namespace lp

// Finer facets on the same surface.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <functional>
#include <vector>

namespace lp {

/// Parts every edge that is longer than `longest_mm(middle of the edge, along the edge)` at its middle, again and
/// again, so that facets follow a bend closely. Neighbours are parted alike: a closed mesh stays closed, the surface
/// stays where it is. Fails beyond two million triangles, and on request.
Expected<TriMesh> refined(const TriMesh& mesh,
                          const std::function<double(const Vec3& at, const Vec3& along)>& longest_mm,
                          const Task& task = {});

/// The same of edges between marked corners (one mark a vertex; a middle between two of them is marked too).
Expected<TriMesh> refined_between(const TriMesh& mesh, const std::vector<uint8_t>& marked, double longest_mm,
                                  const Task& task = {});

/// Parts edges at their middles until `map` moves no middle further than `within_mm` off what its ends become: off the
/// straight line at a crease, off the plane inside a flat place. Right for maps of second degree over each facet (part
/// facets at kinks first), whose middles tell all. Fails like `refined`.
Expected<TriMesh> refined_for(const TriMesh& mesh, const std::function<Vec3(const Vec3&)>& map, double within_mm,
                              const Task& task = {});

/// Parts every facet that runs across one of the places along an axis (0 x, 1 y, 2 z), so that none does: two facets
/// for each strip between places. A closed mesh stays closed; vertices within a nanometre of a place count as on it.
TriMesh parted_at(const TriMesh& mesh, int axis, std::vector<double> places);
/// The same without the corners that only part a line along a place inside a flat part of the surface.
TriMesh parted_in_strips(const TriMesh& mesh, int axis, const std::vector<double>& places);

} // namespace lp

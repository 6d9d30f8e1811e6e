// What a brush went over on a mesh: facets under its dabs.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <algorithm>
#include <vector>

namespace lp {

/// Where a brush touched a mesh, from outside.
struct Dab {
    Vec3 at = Vec3::Zero(), out = Vec3::UnitZ(); ///< on the surface, and away from it
    double radius_mm = 3;
    bool wipes = false; ///< what was gone over there is gone over no more
    bool operator==(const Dab&) const = default;
};

/// Problem when their numbers make no sense, or when there are more than `most`.
std::optional<Problem> check_dabs(const std::vector<Dab>& dabs, size_t most);

/// For facets `first` up to `first + count`: 1 + the number of the last dab that covers it, 0 for none. A dab covers a
/// facet whose middle lies within it, or that it lies on, and that faces as it did, within 75 degrees, so that a wall
/// keeps its other side. Empty when nothing is covered.
std::vector<uint32_t> last_dabs(const TriMesh& mesh, size_t first, size_t count, const std::vector<Dab>& dabs);

/// Facets under the dabs no longer than `longest_mm`, those round them longer by and by, and parted along the border of
/// what was gone over: the same surface. Fails as refined().
Expected<TriMesh> finer_under(const TriMesh& mesh, const std::vector<Dab>& dabs, double longest_mm,
                              const Task& task = {});

/// Dabs that go on after the others: what they cover wholly is left out. For Dab, and what has its places besides.
template <class D> std::vector<D> with_dabs(std::vector<D> dabs, const std::vector<D>& more) {
    constexpr double as_it_faces = 0.866; // within 30 degrees
    std::erase_if(dabs, [&](const D& old) {
        return std::any_of(more.begin(), more.end(), [&](const D& fresh) {
            return (fresh.at - old.at).norm() + old.radius_mm <= fresh.radius_mm + 1e-9 &&
                   fresh.out.dot(old.out) > as_it_faces * fresh.out.norm() * old.out.norm();
        });
    });
    dabs.insert(dabs.end(), more.begin(), more.end());
    return dabs;
}

} // namespace lp

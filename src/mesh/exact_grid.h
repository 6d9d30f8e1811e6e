// Points on a whole-number grid and the exact points where facets on it meet: predicates that never err. Internal to
// the arrangement of meshes (mesh/arrange_meshes.h).
#pragma once
#include <array>
#include <cstdint>
#include <gmpxx.h>
#include <mutex>
#include <tbb/concurrent_vector.h>
#include <unordered_map>
#include <vector>

namespace lp::arrangement {

using Wide = __int128;
using GridPoint = std::array<double, 3>; ///< whole numbers below 2^26, exact as doubles
using Normal = std::array<int64_t, 3>;

inline int sign_of(Wide v) {
    return v > 0 ? 1 : v < 0 ? -1 : 0;
}

/// All points by number: grid points first, then meeting points in homogeneous whole numbers. Equal points have equal
/// numbers. Grid points are added by one thread; meeting points by any.
class ExactPoints {
  public:
    void reserve(size_t points);
    int add_grid(const GridPoint& point);
    /// x, y, z and the common denominator.
    int add_meeting(mpz_class (&h)[4]);

    size_t grid_count() const { return grid_.size(); }
    size_t count() const { return grid_.size() + meetings_.size(); }
    bool is_grid(int id) const { return id < int(grid_.size()); }
    const GridPoint& grid(int id) const { return grid_[size_t(id)]; }
    /// Rounded coordinates; exact for grid points.
    const double* rounded(int id) const {
        return is_grid(id) ? grid_[size_t(id)].data() : meetings_[size_t(id) - grid_.size()].rounded.data();
    }
    void homogeneous(int id, int axis, mpz_class& out) const; ///< axis 3: the denominator

    /// Side of grid point d as seen from the plane of grid points a, b, c: the sign of the volume.
    int side_of_plane(int a, int b, int c, int d) const;
    /// Turn of a, b, c in the axes u, v: 1 to the left.
    int turn(int a, int b, int c, int u, int v) const;
    int compare(int a, int b, int axis) const;

  private:
    struct Meeting {
        GridPoint rounded;
        mpz_class h[4];
    };
    static uint64_t hash_of(const double* point);
    long find_grid(const double* point) const;

    std::vector<GridPoint> grid_;
    std::vector<int> table_; ///< open addressing over grid points
    size_t mask_ = 0;
    tbb::concurrent_vector<Meeting> meetings_;
    std::mutex locks_[64];
    std::unordered_multimap<uint64_t, int> by_hash_[64];
};

void set_wide(mpz_class& out, Wide value);

} // namespace lp::arrangement

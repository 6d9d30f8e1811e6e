// The surface at a fixed distance from a body, drawn by an octree that is fine only where the surface bends: cubical
// marching squares with feature points on edges, faces and in cells. The recipe and its figures: docs/architecture.md,
// "Halos". Cells work on a lattice of whole numbers, so neighbours of any size agree on every shared edge and face.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/distance_field.h"
#include <array>

namespace lp::halo {

using Lattice = Eigen::Vector3i;

struct OctreeOptions {
    double distance_mm = 0.3;    ///< above 0
    bool inward = false;         ///< the surface inside the body instead of the one round it
    double tolerance_mm = 0.011; ///< chord error above which a cell is split
    double root_mm = 4;          ///< size of the coarsest cells
    double finest_mm = 0.008;    ///< no cell is smaller
};

/// A place, its distance to the body and the side it lies on.
struct Sample {
    double distance = 0;
    bool outside = false; ///< only known to be right at `distance_mm` and beyond
    Vec3 foot = Vec3::Zero();
};

/// Finds numbers by lattice points: open addressing, three coordinates of 21 bits.
class LatticeIndex {
  public:
    LatticeIndex();
    long find(const Lattice& at) const; ///< -1 for none
    /// Adds `number` unless there is one; true when it was added.
    bool add(const Lattice& at, uint32_t number);

  private:
    size_t slot(uint64_t key) const;
    std::vector<uint64_t> keys_;
    std::vector<uint32_t> numbers_;
    size_t count_ = 0, mask_;
};

class Octree {
  public:
    Octree(const TriMesh& body, const DistanceField& field, const OctreeOptions& options);
    /// Closed, 2-manifold, without self-intersections by construction; facets face away from the body (towards the
    /// inside for `inward`). Empty when nothing is that far inside.
    Expected<TriMesh> surface(const Task& task);
    /// Places that lie on the true surface: what a check from the other side starts from.
    const std::vector<Vec3>& seeds() const { return seeds_; }
    /// Places nearer than the distance, or on the other side, are in the halo.
    bool in_halo(const Sample& s) const { return s.distance < options_.distance_mm || !s.outside; }
    bool outside(const Vec3& at) const { return field_.outside(at) != options_.inward; }

  private:
    /// Points on cell edges (number from 0) and on faces (-1 - number), in order round a cell.
    using Loop = std::vector<int>;
    struct Fan {
        Loop loop;
        Vec3 middle;
    };
    struct Cell {
        Lattice origin;
        int size = 0, level = 0;
        Sample centre;
        std::vector<uint32_t> seeds;
        bool empty = false;        ///< proven free of the surface
        bool settled = false;      ///< fans are made
        bool beside_finer = false; ///< a face of it is divided
        uint64_t loops = 0;        ///< fingerprint of the loops the fans were made for
        std::vector<Fan> fans;
    };
    struct EdgePoint {
        Lattice origin;
        int axis, length;
        Vec3 place, normal;
    };
    struct FacePoint {
        Lattice origin;
        int axis, size;
        bool apart = true; ///< with four crossings: the halo's corners are not joined through the middle
        bool has = false;  ///< the surface bends within the face: `place` is on it
        Vec3 place, normal;
        double error = 0;
    };
    struct Crossing {
        long edge;
        bool leaves; ///< the face's rim goes out of the halo here
    };
    struct CellLoops {
        std::vector<Loop> loops;
        double error = 0;
        bool complete = true, beside_finer = false;
    };

    Vec3 place(const Lattice& at) const { return origin_ + at.cast<double>() * unit_; }
    double length(const Cell& cell) const { return cell.size * unit_; }
    Sample sample(const Vec3& at) const;
    Sample sample_near(const Vec3& at, const Vec3& known_at, const Sample& known) const;
    double value(const Sample& s) const;
    double error_at(const Vec3& at) const; ///< of a place that should be on the surface; not above 0.08

    template <class Call> void each_edge(const Lattice& origin, int axis, int length, Call call) const;
    template <class Call> void each_face(const Lattice& origin, int axis, int size, Call call) const;
    template <class Call> void rim(const Lattice& origin, int axis, int size, Call call) const;
    void crossings(const Lattice& origin, int axis, int size, std::vector<Crossing>& found) const;
    bool ends(const Lattice& origin, int axis, int length, bool& first_in, bool& last_in) const;

    void make_seeds(const TriMesh& body, double step_mm);
    void find_crossing(EdgePoint& edge) const;
    void find_bend(FacePoint& face) const;
    CellLoops loops_of(const Cell& cell) const;
    static uint64_t fingerprint(const std::vector<Loop>& loops);
    Vec3 point(int ref) const { return ref >= 0 ? edges_[ref].place : faces_[-ref - 1].place; }
    Vec3 normal(int ref) const { return ref >= 0 ? edges_[ref].normal : faces_[-ref - 1].normal; }
    double fan_error(const Cell& cell, const Loop& loop, const Vec3& middle, double stop) const;
    double find_middle(const Cell& cell, const Loop& loop, Vec3& middle, bool always) const;
    bool hidden_surface(const Cell& cell) const;
    bool seed_missed(const Cell& cell, const Loop& loop, const Vec3& middle, double limit) const;
    /// True when the cell is too coarse; otherwise its fans are made. `last`: it cannot be split.
    bool too_coarse(Cell& cell, bool last, double relax);

    void add_corners(const std::vector<Cell>& cells);
    void add_points(const std::vector<Cell*>& cells);
    void split(const Cell& cell, std::vector<Cell>& parts) const;
    void sample_centres(std::vector<Cell>& cells) const;
    std::vector<Cell> roots();
    Expected<std::vector<Cell>> leaves(const Task& task);
    bool close(std::vector<Cell>& leaves, const Task& task);
    std::vector<uint32_t> neighbours_of(const std::vector<std::pair<Lattice, int>>& divided, const LatticeIndex& index,
                                        const std::vector<char>& gone) const;
    TriMesh triangles(const std::vector<Cell>& leaves) const;

    const DistanceField& field_;
    OctreeOptions options_;
    Box3 box_;
    Vec3 origin_;
    double unit_ = 0;
    int root_size_ = 0, finest_level_ = 0;
    bool level_by_level_ = false; ///< while the tree grows: no neighbour is finer yet
    LatticeIndex corner_index_, edge_index_, face_index_;
    std::vector<Lattice> corner_at_;
    std::vector<Sample> corners_;
    std::vector<EdgePoint> edges_;
    std::vector<FacePoint> faces_;
    std::vector<Vec3> seeds_;
};

} // namespace lp::halo

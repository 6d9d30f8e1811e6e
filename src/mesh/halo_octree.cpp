// Growing the octree: level by level, then passes that close what finer neighbours opened.
#include "mesh/halo_octree.h"
#include <algorithm>
#include <atomic>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp::halo {
namespace {
constexpr double half_diagonal = 0.8661; ///< of a unit cube, rounded up
constexpr int most_passes = 60;
Lattice corner_of(const Lattice& origin, int size, int i) {
    return origin + Lattice(i & 1, i >> 1 & 1, i >> 2) * size;
}
Lattice middle_of(const Lattice& origin, int size) {
    return origin + Lattice::Constant(size / 2);
}
} // namespace

Octree::Octree(const TriMesh& body, const DistanceField& field, const OctreeOptions& options)
    : field_(field), options_(options), box_(bounding_box(body)) {
    // Coarser roots for large bodies: the tree starts with some ten thousand cells.
    while (box_.volume() / std::pow(options_.root_mm, 3) > 60000) options_.root_mm *= 2;
    while (options_.root_mm / (1 << finest_level_) > options_.finest_mm) ++finest_level_;
    root_size_ = 2 << finest_level_;
    unit_ = options_.root_mm / root_size_;
    double reach = options_.inward ? 0 : options_.distance_mm;
    origin_ = box_.min() - Vec3::Constant(reach + 0.37 * options_.root_mm); // off the body's own planes
    make_seeds(body, 0.25);
}

/// Exact places of the true surface over faces, edges and corners: what no cell may miss.
void Octree::make_seeds(const TriMesh& body, double step_mm) {
    const double sign = options_.inward ? -1 : 1, distance = sign * options_.distance_mm;
    std::vector<Vec3> normals(body.triangles.size()), corner_normals(body.vertices.size(), Vec3::Zero()), places;
    struct Sides {
        uint32_t first, second = ~0u;
    };
    std::unordered_map<uint64_t, Sides> edges;
    edges.reserve(body.triangles.size() * 2);
    for (uint32_t i = 0; i < body.triangles.size(); ++i) {
        normals[i] = body.area_vector(i).normalized();
        const Triangle& t = body.triangles[i];
        for (int k = 0; k < 3; ++k) {
            Vec3 a = (body.corner(i, (k + 1) % 3) - body.corner(i, k)).normalized(),
                 b = (body.corner(i, (k + 2) % 3) - body.corner(i, k)).normalized();
            corner_normals[t[k]] += normals[i] * std::acos(std::clamp(a.dot(b), -1.0, 1.0));
            uint64_t low = std::min(t[k], t[(k + 1) % 3]), high = std::max(t[k], t[(k + 1) % 3]);
            auto [found, fresh] = edges.try_emplace(low << 32 | high, Sides{i});
            if (!fresh) found->second.second = i;
        }
        places.push_back((body.corner(i, 0) + body.corner(i, 1) + body.corner(i, 2)) / 3 + normals[i] * distance);
    }
    for (size_t i = 0; i < body.vertices.size(); ++i)
        if (corner_normals[i].norm() > 1e-9)
            places.push_back(body.vertices[i] + corner_normals[i].normalized() * distance);
    constexpr double hardly_bent = 0.995; // cosine of about 6 degrees
    for (const auto& [key, sides] : edges) {
        if (sides.second == ~0u || normals[sides.first].dot(normals[sides.second]) > hardly_bent) continue;
        Vec3 n = normals[sides.first] + normals[sides.second];
        if (n.norm() < 1e-6) continue;
        n.normalize();
        const Vec3 &p = body.vertices[key >> 32], &q = body.vertices[key & 0xffffffff];
        int count = std::clamp(int(std::ceil((q - p).norm() / step_mm)), 1, 4000);
        for (int i = 0; i < count; ++i) places.push_back(p + (q - p) * ((i + 0.5) / count) + n * distance);
    }
    std::vector<char> kept(places.size());
    tbb::parallel_for(size_t(0), places.size(), [&](size_t i) {
        kept[i] = places[i].allFinite() && field_.nearest(places[i]).distance_mm > options_.distance_mm - 2e-4 &&
                  outside(places[i]);
    });
    for (size_t i = 0; i < places.size(); ++i)
        if (kept[i]) seeds_.push_back(places[i]);
}

std::vector<Octree::Cell> Octree::roots() {
    Vec3 reach =
        box_.max() - origin_ + Vec3::Constant((options_.inward ? 0 : options_.distance_mm) + 0.2 * options_.root_mm);
    Lattice count = (reach / options_.root_mm).array().ceil().cast<int>();
    std::vector<Cell> cells;
    for (int x = 0; x < count[0]; ++x)
        for (int y = 0; y < count[1]; ++y)
            for (int z = 0; z < count[2]; ++z) {
                Cell cell;
                cell.origin = Lattice(x, y, z) * root_size_;
                cell.size = root_size_;
                cells.push_back(std::move(cell));
            }
    for (uint32_t i = 0; i < seeds_.size(); ++i) {
        Lattice at = ((seeds_[i] - origin_) / options_.root_mm).array().floor().cast<int>();
        at = at.cwiseMax(Lattice::Zero()).cwiseMin(count - Lattice::Ones());
        cells[(size_t(at[0]) * count[1] + at[1]) * count[2] + at[2]].seeds.push_back(i);
    }
    return cells;
}

void Octree::add_corners(const std::vector<Cell>& cells) {
    std::vector<std::pair<uint32_t, const Cell*>> fresh;
    for (const Cell& cell : cells)
        for (int i = 0; i < 8; ++i) {
            Lattice corner = corner_of(cell.origin, cell.size, i);
            if (!corner_index_.add(corner, uint32_t(corner_at_.size()))) continue;
            fresh.push_back({uint32_t(corner_at_.size()), &cell});
            corner_at_.push_back(corner);
        }
    corners_.resize(corner_at_.size());
    tbb::parallel_for(size_t(0), fresh.size(), [&](size_t i) {
        const Cell& cell = *fresh[i].second;
        corners_[fresh[i].first] =
            sample_near(place(corner_at_[fresh[i].first]), place(middle_of(cell.origin, cell.size)), cell.centre);
    });
}

void Octree::split(const Cell& cell, std::vector<Cell>& parts) const {
    int half = cell.size / 2;
    size_t first = parts.size();
    for (int i = 0; i < 8; ++i) {
        Cell part;
        part.origin = corner_of(cell.origin, half, i);
        part.size = half;
        part.level = cell.level + 1;
        part.centre = cell.centre; // of the parent until it is sampled
        parts.push_back(std::move(part));
    }
    Vec3 middle = place(middle_of(cell.origin, cell.size));
    for (uint32_t s : cell.seeds) {
        const Vec3& p = seeds_[s];
        parts[first + (p[0] >= middle[0] ? 1 : 0) + (p[1] >= middle[1] ? 2 : 0) + (p[2] >= middle[2] ? 4 : 0)]
            .seeds.push_back(s);
    }
}

void Octree::sample_centres(std::vector<Cell>& cells) const {
    tbb::parallel_for(size_t(0), cells.size(), [&](size_t i) {
        Cell& cell = cells[i];
        Vec3 at = place(middle_of(cell.origin, cell.size));
        if (cell.level == 0) {
            cell.centre = sample(at);
            return;
        }
        int parent = cell.size * 2;
        Lattice origin = cell.origin / parent * parent;
        cell.centre = sample_near(at, place(middle_of(origin, parent)), Sample(cell.centre));
    });
}

Expected<std::vector<Octree::Cell>> Octree::leaves(const Task& task) {
    level_by_level_ = true;
    std::vector<Cell> active = roots(), leaves;
    for (int level = 0; level <= finest_level_ && !active.empty(); ++level) {
        if (task.stopped()) return cancelled();
        task.tell("Growing", 0.6 * level / (finest_level_ + 1));
        sample_centres(active);
        add_corners(active);
        std::vector<Cell*> full;
        for (Cell& cell : active) {
            cell.empty = std::fabs(value(cell.centre)) > length(cell) * half_diagonal;
            if (!cell.empty) full.push_back(&cell);
        }
        add_points(full);
        std::vector<char> divide(active.size(), 0);
        if (level < finest_level_)
            tbb::parallel_for(size_t(0), active.size(), [&](size_t i) {
                if (active[i].empty) return;
                divide[i] = too_coarse(active[i], false, 1);
                active[i].settled = !divide[i];
            });
        std::vector<Cell> finer;
        for (size_t i = 0; i < active.size(); ++i) {
            if (divide[i])
                split(active[i], finer);
            else if (!active[i].empty)
                leaves.push_back(std::move(active[i]));
        }
        active = std::move(finer);
    }
    level_by_level_ = false;
    return leaves;
}

/// Leaves round cells that were divided: of half the size, of the same and of larger ones.
std::vector<uint32_t> Octree::neighbours_of(const std::vector<std::pair<Lattice, int>>& divided,
                                            const LatticeIndex& index, const std::vector<char>& gone) const {
    std::vector<char> marked(gone.size(), 0);
    std::vector<uint32_t> found;
    auto take = [&](const Lattice& origin, int size) {
        long i = index.find(middle_of(origin, size));
        if (i < 0 || gone[size_t(i)]) return false;
        if (!marked[size_t(i)]) {
            marked[size_t(i)] = 1;
            found.push_back(uint32_t(i));
        }
        return true;
    };
    for (const auto& [origin, size] : divided)
        for (int i = 0; i < 27; ++i) {
            if (i == 13) continue;
            Lattice beside = origin + Lattice(i % 3 - 1, i / 3 % 3 - 1, i / 9 - 1) * size;
            if (beside.minCoeff() < 0) continue;
            if (size / 2 >= 2)
                for (int k = 0; k < 8; ++k) take(corner_of(beside, size / 2, k), size / 2);
            for (int larger = size; larger <= root_size_; larger *= 2)
                if (take(beside / larger * larger, larger)) break;
        }
    return found;
}

/// Cells beside finer ones see more points on their rims than when they were judged: judge again until none changes.
bool Octree::close(std::vector<Cell>& leaves, const Task& task) {
    LatticeIndex index;
    std::vector<uint32_t> open;
    std::vector<char> gone(leaves.size(), 0);
    for (uint32_t i = 0; i < leaves.size(); ++i) {
        const Cell& cell = leaves[i];
        index.add(middle_of(cell.origin, cell.size), i);
        bool changed = cell.level >= finest_level_ || !cell.settled;
        for (int axis = 0; axis < 3 && !changed; ++axis)
            for (int side = 0; side < 4; ++side) { // a corner in the middle of an edge: a finer neighbour
                Lattice at = cell.origin;
                at[axis] += cell.size / 2;
                if (side & 1) at[(axis + 1) % 3] += cell.size;
                if (side & 2) at[(axis + 2) % 3] += cell.size;
                changed = changed || corner_index_.find(at) >= 0;
            }
        if (changed) open.push_back(i);
    }
    std::atomic<bool> torn{false};
    for (int pass = 0; pass < most_passes && !open.empty(); ++pass) {
        if (task.stopped()) return false;
        task.tell("Closing the surface", 0.6 + 0.2 * pass / most_passes);
        const double relax = pass < 1 ? 1.05 : 1.3; // or splitting spreads without end
        std::vector<Cell*> cells;
        for (uint32_t i : open) cells.push_back(&leaves[i]);
        add_points(cells);
        std::vector<char> divide(open.size(), 0);
        tbb::parallel_for(size_t(0), open.size(), [&](size_t k) {
            Cell& cell = leaves[open[k]];
            CellLoops now = loops_of(cell);
            if (!now.complete) torn = true;
            if (cell.settled && fingerprint(now.loops) == cell.loops) return;
            cell.settled = true;
            bool last = cell.level >= finest_level_ || pass + 1 == most_passes;
            divide[k] = too_coarse(cell, last, relax);
        });
        std::vector<Cell> finer;
        std::vector<std::pair<Lattice, int>> divided;
        for (size_t k = 0; k < open.size(); ++k) {
            if (!divide[k]) continue;
            Cell& cell = leaves[open[k]];
            split(cell, finer);
            gone[open[k]] = 1;
            cell.fans.clear();
            divided.push_back({cell.origin, cell.size});
        }
        open.clear();
        if (finer.empty()) break;
        sample_centres(finer);
        add_corners(finer);
        open = neighbours_of(divided, index, gone);
        for (Cell& cell : finer) {
            auto id = uint32_t(leaves.size());
            index.add(middle_of(cell.origin, cell.size), id);
            leaves.push_back(std::move(cell));
            gone.push_back(0);
            open.push_back(id);
        }
    }
    return !torn;
}

TriMesh Octree::triangles(const std::vector<Cell>& leaves) const {
    TriMesh mesh;
    std::vector<long> edge_vertex(edges_.size(), -1), face_vertex(faces_.size(), -1);
    auto vertex = [&](int ref) {
        long& v = ref >= 0 ? edge_vertex[size_t(ref)] : face_vertex[size_t(-ref - 1)];
        if (v < 0) {
            v = long(mesh.vertices.size());
            mesh.vertices.push_back(point(ref));
        }
        return uint32_t(v);
    };
    auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
        if (options_.inward) std::swap(b, c);
        mesh.triangles.push_back({a, b, c});
    };
    for (const Cell& cell : leaves)
        for (const Fan& fan : cell.fans) {
            const Loop& l = fan.loop;
            if (l.size() == 3 && !cell.beside_finer) {
                add(vertex(l[2]), vertex(l[1]), vertex(l[0]));
                continue;
            }
            if (l.size() == 4 && !cell.beside_finer && *std::min_element(l.begin(), l.end()) >= 0) {
                Vec3 a = point(l[0]), n = (point(l[1]) - a).cross(point(l[3]) - a);
                double size = n.norm();
                if (size > 0 && std::fabs((point(l[2]) - a).dot(n)) < 1e-4 * size &&
                    std::fabs((fan.middle - a).dot(n)) < 1e-4 * size) {
                    add(vertex(l[2]), vertex(l[1]), vertex(l[0]));
                    add(vertex(l[3]), vertex(l[2]), vertex(l[0]));
                    continue;
                }
            }
            auto middle = uint32_t(mesh.vertices.size());
            mesh.vertices.push_back(fan.middle);
            for (size_t i = 0; i < l.size(); ++i) add(middle, vertex(l[(i + 1) % l.size()]), vertex(l[i]));
        }
    return mesh;
}

Expected<TriMesh> Octree::surface(const Task& task) {
    auto cells = leaves(task);
    if (!cells) return pass_on(cells);
    bool whole = close(*cells, task);
    if (task.stopped()) return cancelled();
    if (!whole)
        return problem(ProblemCode::Geometry, "The surface round the body could not be closed.",
                       "Try a slightly different distance.");
    return triangles(*cells);
}

} // namespace lp::halo

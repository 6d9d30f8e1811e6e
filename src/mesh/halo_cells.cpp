// What happens inside one cell of the octree: crossings on edges, bends in faces, loops and their fans.
#include "mesh/halo_octree.h"
#include "shape/mesh_distance.h"
#include <Eigen/Eigenvalues>
#include <algorithm>
#include <optional>
#include <tbb/parallel_for.h>

namespace lp::halo {
namespace {
constexpr double farthest_error = 0.08;  ///< errors above are not told apart
constexpr double on_surface_mm = 1e-4;   ///< near enough to count as found
constexpr double impossible_error = 1e3; ///< forces a split
Lattice middle_of_edge(Lattice at, int axis, int length) {
    at[axis] += length / 2;
    return at;
}
Lattice middle_of_face(Lattice at, int axis, int size) {
    at[(axis + 1) % 3] += size / 2;
    at[(axis + 2) % 3] += size / 2;
    return at;
}
uint64_t key_of(const Lattice& a) {
    return (uint64_t(a[0]) << 42) | (uint64_t(a[1]) << 21) | uint64_t(a[2]);
}
} // namespace

LatticeIndex::LatticeIndex() : mask_((1u << 16) - 1) {
    keys_.assign(mask_ + 1, ~0ull);
    numbers_.resize(mask_ + 1);
}

size_t LatticeIndex::slot(uint64_t key) const {
    uint64_t h = key ^ (key >> 31);
    h *= 0x9E3779B97F4A7C15ull;
    h ^= h >> 29;
    size_t i = ((h * 0xBF58476D1CE4E5B9ull) >> 20) & mask_;
    while (keys_[i] != ~0ull && keys_[i] != key) i = (i + 1) & mask_;
    return i;
}

long LatticeIndex::find(const Lattice& at) const {
    size_t i = slot(key_of(at));
    return keys_[i] == ~0ull ? -1 : long(numbers_[i]);
}

bool LatticeIndex::add(const Lattice& at, uint32_t number) {
    uint64_t key = key_of(at);
    size_t i = slot(key);
    if (keys_[i] == key) return false;
    keys_[i] = key;
    numbers_[i] = number;
    if (++count_ * 2 <= mask_) return true;
    auto keys = std::move(keys_);
    auto numbers = std::move(numbers_);
    mask_ = mask_ * 2 + 1;
    keys_.assign(mask_ + 1, ~0ull);
    numbers_.assign(mask_ + 1, 0);
    for (size_t k = 0; k < keys.size(); ++k)
        if (keys[k] != ~0ull) {
            size_t to = slot(keys[k]);
            keys_[to] = keys[k];
            numbers_[to] = numbers[k];
        }
    return true;
}

/// The shortest edges that make up the edge: where a neighbour is finer, a corner stands in its middle.
template <class Call> void Octree::each_edge(const Lattice& origin, int axis, int length, Call call) const {
    if (!level_by_level_ && length >= 4) {
        Lattice middle = middle_of_edge(origin, axis, length);
        if (corner_index_.find(middle) >= 0) {
            each_edge(origin, axis, length / 2, call);
            each_edge(middle, axis, length / 2, call);
            return;
        }
    }
    call(origin, length);
}

template <class Call> void Octree::each_face(const Lattice& origin, int axis, int size, Call call) const {
    if (!level_by_level_ && size >= 4 && corner_index_.find(middle_of_face(origin, axis, size)) >= 0) {
        for (int i = 0; i < 4; ++i) {
            Lattice quarter = origin;
            if (i & 1) quarter[(axis + 1) % 3] += size / 2;
            if (i & 2) quarter[(axis + 2) % 3] += size / 2;
            each_face(quarter, axis, size / 2, call);
        }
        return;
    }
    call(origin, size);
}

/// The shortest edges round a face, counter-clockwise seen from +axis: call(origin, axis, length, forward).
template <class Call> void Octree::rim(const Lattice& origin, int axis, int size, Call call) const {
    int b = (axis + 1) % 3, c = (axis + 2) % 3;
    auto side = [&](const Lattice& at, int along, bool forward) {
        if (level_by_level_) return call(at, along, size, forward);
        std::vector<std::pair<Lattice, int>> pieces;
        each_edge(at, along, size, [&](const Lattice& e, int length) { pieces.push_back({e, length}); });
        if (!forward) std::reverse(pieces.begin(), pieces.end());
        for (auto& [e, length] : pieces) call(e, along, length, forward);
    };
    Lattice beside = origin, above = origin;
    beside[b] += size;
    above[c] += size;
    side(origin, b, true);
    side(beside, c, true);
    side(above, b, false);
    side(origin, c, false);
}

bool Octree::ends(const Lattice& origin, int axis, int length, bool& first_in, bool& last_in) const {
    Lattice last = origin;
    last[axis] += length;
    first_in = in_halo(corners_[size_t(corner_index_.find(origin))]);
    last_in = in_halo(corners_[size_t(corner_index_.find(last))]);
    return first_in != last_in;
}

void Octree::crossings(const Lattice& origin, int axis, int size, std::vector<Crossing>& found) const {
    found.clear();
    rim(origin, axis, size, [&](const Lattice& e, int along, int length, bool forward) {
        bool first_in, last_in;
        if (!ends(e, along, length, first_in, last_in)) return;
        found.push_back({edge_index_.find(middle_of_edge(e, along, length)), forward ? first_in : last_in});
    });
}

Sample Octree::sample(const Vec3& at) const {
    auto near = field_.nearest(at);
    return {near.distance_mm, near.distance_mm >= options_.distance_mm && outside(at), near.foot};
}

/// From a known sample nearby: its distance bounds this one, and its side holds where the surface is out of reach.
Sample Octree::sample_near(const Vec3& at, const Vec3& known_at, const Sample& known) const {
    double step = (at - known_at).norm();
    auto near = field_.nearest(at, (known.distance + step) * 1.0001 + 1e-5);
    Sample s{near.distance_mm, false, near.foot};
    if (s.distance < options_.distance_mm) return s;
    bool same_side = known.distance > step + 1e-6 && known.distance >= options_.distance_mm;
    s.outside = same_side ? known.outside : outside(at);
    return s;
}

/// Below 0 in the halo.
double Octree::value(const Sample& s) const {
    if (s.distance < options_.distance_mm || s.outside) return s.distance - options_.distance_mm;
    return -s.distance - options_.distance_mm;
}

double Octree::error_at(const Vec3& at) const {
    return std::fabs(field_.nearest(at, options_.distance_mm + farthest_error).distance_mm - options_.distance_mm);
}

void Octree::find_crossing(EdgePoint& edge) const {
    Lattice end = edge.origin;
    end[edge.axis] += edge.length;
    Vec3 from = place(edge.origin), to = place(end);
    Sample low = corners_[size_t(corner_index_.find(edge.origin))], high = corners_[size_t(corner_index_.find(end))];
    if (in_halo(low)) {
        std::swap(from, to);
        std::swap(low, high);
    }
    // Bracketed regula falsi (Illinois), then halving; `low` is out of the halo.
    double size = (to - from).norm(), ta = 0, tb = 1, fa = value(low), fb = value(high), t = 0;
    Sample best = low;
    int last_side = 0;
    for (int round = 0; round < 30; ++round) {
        t = round < 8 ? ta + (tb - ta) * fa / (fa - fb) : 0.5 * (ta + tb);
        t = std::max(t, std::min(ta + fa / size * 0.999, tb)); // the field's slope is at most 1
        best = sample_near(from + (to - from) * t, from + (to - from) * ta, low);
        double f = value(best);
        if (std::fabs(f) < on_surface_mm || (tb - ta) * size < 5e-5) break;
        if (f > 0) {
            ta = t;
            fa = f;
            low = best;
            if (last_side == 1) fb *= 0.5;
            last_side = 1;
        } else {
            tb = t;
            fb = f;
            if (last_side == -1) fa *= 0.5;
            last_side = -1;
        }
    }
    double margin = std::min(0.01, 3e-4 / size);
    edge.place = from + (to - from) * std::clamp(t, margin, 1 - margin);
    edge.normal = (edge.place - best.foot).normalized();
}

void Octree::find_bend(FacePoint& face) const {
    std::vector<Crossing> found;
    crossings(face.origin, face.axis, face.size, found);
    if (found.size() > 2) {
        face.apart = !in_halo(sample(place(middle_of_face(face.origin, face.axis, face.size))));
        return;
    }
    if (found.size() != 2) return;
    const double small = options_.tolerance_mm * 0.35;
    const EdgePoint &a = edges_[size_t(found[0].edge)], &b = edges_[size_t(found[1].edge)];
    Vec3 chord = b.place - a.place;
    if (a.normal.dot(b.normal) > 0.9999)
        face.error = error_at(a.place + chord * 0.5);
    else
        for (double t : {0.5, 0.22, 0.78}) {
            face.error = std::max(face.error, error_at(a.place + chord * t));
            if (face.error > small) break;
        }
    if (face.error <= small) return;

    int u = (face.axis + 1) % 3, v = (face.axis + 2) % 3;
    Lattice far_corner = face.origin;
    far_corner[u] += face.size;
    far_corner[v] += face.size;
    Vec3 low = place(face.origin), high = place(far_corner);
    double margin = 1e-3 * face.size * unit_;
    auto within = [&](Vec3 x) {
        for (int k : {u, v}) x[k] = std::clamp(x[k], low[k] + margin, high[k] - margin);
        x[face.axis] = low[face.axis];
        return x;
    };
    // Where the tangents of both crossings meet, if that is on the surface: a sharp bend.
    std::optional<Vec3> candidate;
    double det = a.normal[u] * b.normal[v] - a.normal[v] * b.normal[u];
    if (std::fabs(det) > 0.02) {
        double ra = a.normal[u] * a.place[u] + a.normal[v] * a.place[v],
               rb = b.normal[u] * b.place[u] + b.normal[v] * b.place[v];
        Vec3 x = a.place;
        x[u] = (ra * b.normal[v] - a.normal[v] * rb) / det;
        x[v] = (a.normal[u] * rb - b.normal[u] * ra) / det;
        if (x[u] > low[u] && x[u] < high[u] && x[v] > low[v] && x[v] < high[v] &&
            error_at(x) < options_.tolerance_mm * 0.5)
            candidate = within(x);
    }
    bool sharp = candidate.has_value();
    if (!sharp) { // otherwise the middle of the chord, moved onto the surface within the face
        Vec3 x = a.place + chord * 0.5;
        for (int round = 0; round < 5; ++round) {
            auto near = field_.nearest(x);
            double f = near.distance_mm - options_.distance_mm;
            Vec3 n = (x - near.foot) / std::max(1e-12, near.distance_mm);
            double flat = n[u] * n[u] + n[v] * n[v];
            if (std::fabs(f) < on_surface_mm || flat < 0.01) break;
            x[u] -= f * n[u] / flat;
            x[v] -= f * n[v] / flat;
            x = within(x);
        }
        candidate = x;
    }
    double error = error_at(*candidate);
    for (double t : {0.5, 0.25, 0.75}) {
        error = std::max(error, error_at(a.place + (*candidate - a.place) * t));
        error = std::max(error, error_at(*candidate + (b.place - *candidate) * t));
        if (!sharp && error > options_.tolerance_mm) break;
    }
    if (error >= face.error) return;
    auto near = field_.nearest(*candidate);
    face.has = true;
    face.error = error;
    face.place = *candidate;
    face.normal = (face.place - near.foot) / std::max(near.distance_mm, 1e-9);
}

Octree::CellLoops Octree::loops_of(const Cell& cell) const {
    struct Piece {
        int from, to, bend;
    };
    CellLoops result;
    std::vector<Piece> pieces;
    std::vector<Crossing> found;
    for (int axis = 0; axis < 3; ++axis)
        for (int side = 0; side < 2; ++side) {
            Lattice origin = cell.origin;
            if (side) origin[axis] += cell.size;
            each_face(origin, axis, cell.size, [&](const Lattice& at, int size) {
                if (size < cell.size) result.beside_finer = true;
                crossings(at, axis, size, found);
                if (found.empty()) return;
                long number = face_index_.find(middle_of_face(at, axis, size));
                if (number < 0) {
                    result.complete = false;
                    return;
                }
                const FacePoint& face = faces_[size_t(number)];
                result.error = std::max(result.error, face.error);
                size_t n = found.size();
                for (size_t i = 0; i < n; ++i) {
                    if (!found[i].leaves) continue;
                    size_t j = n == 2 || !face.apart ? (i + 1) % n : (i + n - 1) % n;
                    int from = int(found[i].edge), to = int(found[j].edge);
                    // A chord along one edge of the cell would lie on its neighbour's.
                    const EdgePoint &a = edges_[size_t(from)], &b = edges_[size_t(to)];
                    int k1 = (a.axis + 1) % 3, k2 = (a.axis + 2) % 3;
                    if (a.axis == b.axis && a.origin[k1] == b.origin[k1] && a.origin[k2] == b.origin[k2])
                        result.error = impossible_error;
                    if (!side) std::swap(from, to);
                    pieces.push_back({from, to, n == 2 && face.has ? -int(number) - 1 : 0});
                }
            });
        }
    std::vector<char> used(pieces.size(), 0);
    for (size_t i = 0; i < pieces.size(); ++i) {
        if (used[i]) continue;
        Loop loop;
        size_t k = i;
        for (;;) {
            used[k] = 1;
            loop.push_back(pieces[k].from);
            if (pieces[k].bend < 0) loop.push_back(pieces[k].bend);
            if (pieces[k].to == pieces[i].from) break;
            size_t next = 0;
            while (next < pieces.size() && (used[next] || pieces[next].from != pieces[k].to)) ++next;
            if (next == pieces.size()) {
                result.complete = false;
                break;
            }
            k = next;
        }
        result.loops.push_back(std::move(loop));
    }
    return result;
}

uint64_t Octree::fingerprint(const std::vector<Loop>& loops) {
    uint64_t h = 1469598103934665603ull;
    for (const Loop& loop : loops) {
        h = h * 1099511628211ull + 77;
        for (int ref : loop) h = (h ^ uint64_t(ref + 1000003)) * 1099511628211ull;
    }
    return h;
}

/// Largest error of the fan's facets at a few places; stops looking above `stop`.
double Octree::fan_error(const Cell& cell, const Loop& loop, const Vec3& middle, double stop) const {
    double error = error_at(middle);
    bool large = length(cell) > 0.8;
    for (size_t i = 0; i < loop.size() && error <= stop; ++i) {
        Vec3 a = point(loop[i]), b = point(loop[(i + 1) % loop.size()]);
        error = std::max(error, error_at((a + b + middle) / 3));
        if (error > stop) break;
        error = std::max(error, error_at((a + middle) * 0.5));
        if (!large || error > stop) continue;
        error = std::max(error, error_at(0.6 * a + 0.25 * b + 0.15 * middle));
        error = std::max(error, error_at(0.25 * a + 0.6 * b + 0.15 * middle));
    }
    return error;
}

/// The middle of a loop's fan, strictly inside the cell: where the tangent planes meet best, or the mean moved onto
/// the surface. Returns the fan's error.
double Octree::find_middle(const Cell& cell, const Loop& loop, Vec3& middle, bool always) const {
    const double tolerance = options_.tolerance_mm;
    Vec3 low = place(cell.origin), high = low + Vec3::Constant(length(cell));
    double margin = 2e-3 * length(cell);
    auto within = [&](Vec3 x) {
        return x.cwiseMax(low.array().matrix() + Vec3::Constant(margin)).cwiseMin(high - Vec3::Constant(margin)).eval();
    };
    Vec3 mean = Vec3::Zero();
    for (int ref : loop) mean += point(ref);
    mean /= double(loop.size());
    double flattest = 1;
    for (size_t i = 0; i < loop.size(); ++i)
        flattest = std::min(flattest, normal(loop[i]).dot(normal(loop[(i + loop.size() / 2) % loop.size()])));
    double best = 1e9;
    if (flattest < 0.985) {
        Eigen::Matrix3d a = Eigen::Matrix3d::Zero();
        Vec3 r = Vec3::Zero();
        for (int ref : loop) {
            Vec3 n = normal(ref);
            a += n * n.transpose();
            r += n * n.dot(point(ref) - mean);
        }
        Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
        solver.computeDirect(a);
        Vec3 x = Vec3::Zero();
        for (int k = 0; k < 3; ++k)
            if (solver.eigenvalues()[k] > 0.06 * solver.eigenvalues()[2])
                x += solver.eigenvectors().col(k) * (solver.eigenvectors().col(k).dot(r) / solver.eigenvalues()[k]);
        Vec3 feature = within(mean + x);
        if (error_at(feature) < tolerance * 0.7) {
            best = fan_error(cell, loop, feature, tolerance);
            middle = feature;
            if (best <= tolerance) return best;
        }
    }
    Vec3 x = within(mean);
    for (int round = 0; round < 6; ++round) {
        auto near = field_.nearest(x);
        double f = near.distance_mm - options_.distance_mm;
        if (std::fabs(f) < on_surface_mm) break;
        x = within(x - f * (x - near.foot) / std::max(near.distance_mm, 1e-12));
    }
    double error = fan_error(cell, loop, x, std::min(best, always ? 1e9 : tolerance));
    if (error < best) {
        best = error;
        middle = x;
    }
    return best;
}

/// A cell without crossings may still hold a thin piece of the surface: the samples' nearest true places say so.
bool Octree::hidden_surface(const Cell& cell) const {
    double size = length(cell), tolerance = options_.tolerance_mm;
    if (std::fabs(value(cell.centre)) > size * 0.8661) return false;
    Vec3 low = place(cell.origin);
    auto inside = [&](const Vec3& x) {
        return ((x - low).array() > tolerance).all() && ((x - low).array() < size - tolerance).all();
    };
    for (uint32_t s : cell.seeds)
        if (inside(seeds_[s])) return true;
    auto probe = [&](const Vec3& at, const Sample& s) {
        if (s.distance < 1e-9) return false;
        Vec3 on = s.foot + (at - s.foot) * (options_.distance_mm / s.distance);
        if (!inside(on)) return false;
        if (s.distance >= options_.distance_mm) return s.outside;
        return sample(on).distance > options_.distance_mm - 1e-5 && outside(on);
    };
    if (probe(low + Vec3::Constant(size / 2), cell.centre)) return true;
    for (int i = 0; i < 8; ++i) {
        Lattice corner = cell.origin + Lattice(i & 1, i >> 1 & 1, i >> 2) * cell.size;
        if (probe(place(corner), corners_[size_t(corner_index_.find(corner))])) return true;
    }
    return false;
}

bool Octree::seed_missed(const Cell& cell, const Loop& loop, const Vec3& middle, double limit) const {
    Vec3 low = place(cell.origin);
    double size = length(cell);
    for (uint32_t s : cell.seeds) {
        Vec3 d = seeds_[s] - low;
        if (std::min(d.minCoeff(), size - d.maxCoeff()) < options_.tolerance_mm) continue;
        double nearest = 1e9;
        for (size_t i = 0; i < loop.size() && nearest >= limit; ++i) {
            Vec3 on = closest_on_triangle(seeds_[s], point(loop[i]), point(loop[(i + 1) % loop.size()]), middle);
            nearest = std::min(nearest, (on - seeds_[s]).norm());
        }
        if (nearest >= limit) return true;
    }
    return false;
}

bool Octree::too_coarse(Cell& cell, bool last, double relax) {
    CellLoops found = loops_of(cell);
    cell.loops = fingerprint(found.loops);
    cell.beside_finer = found.beside_finer;
    cell.fans.clear();
    if (found.loops.empty()) return !last && hidden_surface(cell);
    double limit = options_.tolerance_mm * relax;
    if (!last && (found.loops.size() > 1 || found.error > limit)) return true;
    for (Loop& loop : found.loops) {
        Vec3 middle = Vec3::Zero();
        double error = find_middle(cell, loop, middle, last || relax > 1);
        if (!last && (error > limit || seed_missed(cell, loop, middle, limit))) {
            cell.fans.clear();
            return true;
        }
        cell.fans.push_back({std::move(loop), middle});
    }
    return false;
}

void Octree::add_points(const std::vector<Cell*>& cells) {
    size_t first_edge = edges_.size(), first_face = faces_.size();
    auto add_edge = [&](const Lattice& at, int axis, int length) {
        bool first_in, last_in;
        if (!ends(at, axis, length, first_in, last_in)) return;
        if (edge_index_.add(middle_of_edge(at, axis, length), uint32_t(edges_.size())))
            edges_.push_back({at, axis, length, Vec3::Zero(), Vec3::UnitZ()});
    };
    for (Cell* cell : cells)
        for (int axis = 0; axis < 3; ++axis)
            for (int side = 0; side < 4; ++side) {
                Lattice at = cell->origin;
                if (side & 1) at[(axis + 1) % 3] += cell->size;
                if (side & 2) at[(axis + 2) % 3] += cell->size;
                each_edge(at, axis, cell->size, [&](const Lattice& e, int length) { add_edge(e, axis, length); });
            }
    auto each_side = [&](auto call) {
        for (Cell* cell : cells)
            for (int axis = 0; axis < 3; ++axis)
                for (int side = 0; side < 2; ++side) {
                    Lattice at = cell->origin;
                    if (side) at[axis] += cell->size;
                    each_face(at, axis, cell->size, [&](const Lattice& f, int size) { call(*cell, f, axis, size); });
                }
    };
    each_side([&](const Cell& cell, const Lattice& f, int axis, int size) {
        if (size == cell.size) return;
        rim(f, axis, size, [&](const Lattice& e, int along, int length, bool) { add_edge(e, along, length); });
    });
    tbb::parallel_for(first_edge, edges_.size(), [&](size_t i) { find_crossing(edges_[i]); });
    std::vector<Crossing> found;
    each_side([&](const Cell&, const Lattice& f, int axis, int size) {
        crossings(f, axis, size, found);
        if (found.empty()) return;
        if (face_index_.add(middle_of_face(f, axis, size), uint32_t(faces_.size())))
            faces_.push_back({f, axis, size, true, false, Vec3::Zero(), Vec3::UnitZ(), 0});
    });
    tbb::parallel_for(first_face, faces_.size(), [&](size_t i) { find_bend(faces_[i]); });
}

} // namespace lp::halo

#include "check/walls.h"
#include "check/wall_tree.h"
#include "mesh/refine.h"
#include <cmath>
#include <numbers>
#include <numeric>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr float infinite = std::numeric_limits<float>::infinity();
constexpr float cos_60 = 0.5f, cos_35 = 0.8192f, cos_30 = 0.8660f, cos_15 = 0.9659f, cos_10 = 0.9848f;
constexpr float bites_mm = 0.004f;  ///< how deep a surface may stand in a ball that counts as empty
constexpr float shares_mm = 0.012f; ///< the same where a neighbour's ball vouches for it
constexpr float surely_mm = 1.0f;   ///< thinner walls are always measured themselves
constexpr float near_mm = 0.12f;    ///< neighbours nearer than this take a contact's plane over
constexpr float exact_to_mm = 0.02f;
constexpr size_t run_of_facets = 2048;

/// What the facets round a facet tell.
struct Around {
    std::vector<Vec3f> normal;       ///< smooth, at the middle: a facet's own is off by its size on a round surface
    std::vector<uint32_t> neighbour; ///< over edge k of facet i: [3 i + k]; WallTree::none without
    std::vector<uint8_t> sharp;      ///< bits of WallTree
};

/// Facets round every vertex: of vertex v they stand in the second from start[v] to start[v + 1].
template <class Triangles>
std::pair<std::vector<uint32_t>, std::vector<uint32_t>> facets_round(const Triangles& triangles, size_t vertices) {
    std::vector<uint32_t> start(vertices + 1, 0), of(3 * triangles.size());
    for (const auto& t : triangles)
        for (uint32_t v : t) ++start[v + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    auto next = start;
    for (uint32_t i = 0; i < triangles.size(); ++i)
        for (uint32_t v : triangles[i]) of[next[v]++] = i;
    return {std::move(start), std::move(of)};
}

Around look_around(const WallMesh& mesh) {
    const size_t n = mesh.triangles.size();
    Around around;
    around.normal.resize(n);
    around.neighbour.assign(3 * n, WallTree::none);
    around.sharp.assign(n, 0);
    std::vector<Vec3f> unit(n);
    tbb::parallel_for(size_t(0), n, [&](size_t i) { unit[i] = mesh.area2(i).stableNormalized(); });
    std::vector<std::array<float, 3>> angle(n); // at the corners
    tbb::parallel_for(size_t(0), n, [&](size_t i) {
        for (size_t k = 0; k < 3; ++k) {
            const Vec3f e = mesh.corner(i, (k + 1) % 3) - mesh.corner(i, k),
                        g = mesh.corner(i, (k + 2) % 3) - mesh.corner(i, k);
            angle[i][k] = std::acos(std::clamp(e.stableNormalized().dot(g.stableNormalized()), -1.0f, 1.0f));
        }
    });
    const auto round = facets_round(mesh.triangles, mesh.vertices.size());
    const auto &start = round.first, &of = round.second; // clang 14 does not let lambdas hold parts of a binding
    tbb::parallel_for(size_t(0), n, [&](size_t i) {
        Vec3f sum = Vec3f::Zero();
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t v = mesh.triangles[i][k], w = mesh.triangles[i][(k + 1) % 3];
            Vec3f corner = Vec3f::Zero(); // by the angles of the facets that bend little from this one
            for (uint32_t j = start[v]; j < start[v + 1]; ++j) {
                const uint32_t f = of[j];
                const auto& t = mesh.triangles[f];
                const size_t a = t[0] == v ? 0 : t[1] == v ? 1 : 2;
                const bool bends = unit[f].dot(unit[i]) < cos_35;
                if (t[(a + 2) % 3] == w) {
                    around.neighbour[3 * i + k] = f;
                    const Vec3f beyond = mesh.corner(f, (a + 1) % 3) - mesh.vertices[v];
                    if (bends) around.sharp[i] |= unit[i].dot(beyond) > 0 ? sharp_concave : sharp_convex;
                }
                if (!bends) corner += unit[f] * angle[f][a];
            }
            sum += corner.stableNormalized();
        }
        around.normal[i] = sum.stableNormalized();
    });
    return around;
}

struct Wall {
    float mm = infinite;
    float facing = 0; ///< cosine of what is missing to half a turn between the two contacts, seen from the centre
};

/// An empty ball that was found, with which its neighbours often get by.
struct Ball {
    Vec3f centre, along, contact, at;
    float radius = 0;
    uint32_t facet = WallTree::none; ///< touched opposite
};

/// Measures facet after facet, in the order of the tree.
class Measurer {
  public:
    Measurer(const WallMesh& mesh, const WallTree& tree, const Around& around, float cap)
        : mesh_(mesh), tree_(tree), around_(around), cap_(cap) {}

    Wall measure(uint32_t facet) {
        at_ = mesh_.middle(facet);
        along_ = -around_.normal[facet];
        if (along_.squaredNorm() < 0.5f) return {};
        if (auto shared = from_neighbour()) return *shared;
        return by_balls();
    }

  private:
    float radius_through(const Vec3f& contact) const {
        const Vec3f e = contact - at_;
        return e.squaredNorm() / (2 * e.dot(along_));
    }
    Wall wall(float radius, uint32_t facet, const Vec3f& contact) const {
        const Vec3f e = contact - (at_ + radius * along_);
        float facing = e.dot(along_) / std::max(e.norm(), 1e-9f);
        if (!(around_.sharp[facet] & sharp_concave)) facing = std::min(facing, tree_.normal[facet].dot(along_));
        return {2 * radius, facing};
    }

    /// A ball that touches all along, as in tubes and balls, is its neighbours' too.
    std::optional<Wall> from_neighbour() const {
        for (size_t k = 0; k < std::min(known_, recent_.size()); ++k) {
            const Ball& b = recent_[k];
            if (b.along.dot(along_) < cos_15) continue;
            const bool close = (b.at - at_).squaredNorm() < near_mm * near_mm && b.along.dot(along_) > cos_10;
            if (b.facet == WallTree::none) {
                if (close) return Wall{};
                continue;
            }
            if (close) { // between this place and the plane that the neighbour's ball touches
                const Vec3f& plane = tree_.normal[b.facet];
                const float r = (b.contact - at_).dot(plane) / (1 + along_.dot(plane));
                if (2 * r > surely_mm && along_.dot(plane) > 0.4f && std::fabs(r - b.radius) < 0.25f * b.radius)
                    return Wall{2 * r, along_.dot(plane)};
            }
            const float ahead = (b.contact - at_).dot(along_), r = radius_through(b.contact);
            if (ahead > 0 && r <= cap_ / 2 &&
                r + (at_ + r * along_ - b.centre).norm() <= b.radius + shares_mm - bites_mm)
                return wall(r, b.facet, b.contact);
        }
        return std::nullopt;
    }

    /// Whether a touched point counts: it lies opposite as seen from the centre, and the surface looks the opposite way
    /// there: the facet, or the two facets of a sharp concave edge together. The place alone would not do: small facets
    /// of the next side lie within the cone beside every edge of a cube.
    bool opposed(const Vec3f& centre, const Vec3f& q, uint32_t f) const {
        const Vec3f e = q - centre;
        if (e.dot(along_) < cos_60 * e.norm()) return false;
        if (tree_.normal[f].dot(along_) >= cos_60) return true;
        if (!(around_.sharp[f] & sharp_concave)) return false;
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t g = around_.neighbour[3 * f + k];
            if (g == WallTree::none) continue;
            const Vec3f &a = mesh_.corner(f, k), &b = mesh_.corner(f, (k + 1) % 3), ab = b - a;
            if ((q - a).cross(ab).squaredNorm() > 1e-8f * ab.squaredNorm()) continue; // not on this edge
            const Vec3f third = mesh_.corner(g, 0) + mesh_.corner(g, 1) + mesh_.corner(g, 2) - a - b;
            const bool concave = tree_.normal[f].dot(third - a) > 0,
                       bends = tree_.normal[f].dot(tree_.normal[g]) < cos_35;
            if (bends && concave && (tree_.normal[f] + tree_.normal[g]).stableNormalized().dot(along_) >= cos_60)
                return true;
        }
        return false;
    }
    bool sees(const Vec3f& q) const {
        const Vec3f e = q - at_;
        const float l = e.norm();
        return l < 2e-3f || tree_.ray(at_, e / l, 1e-3f, l - 2e-3f - 1e-3f * l, true).facet == WallTree::none;
    }

    Wall by_balls() {
        float r = cap_ / 2;
        uint32_t facet = WallTree::none;
        Vec3f contact = Vec3f::Zero();
        // A ray bounds the ball; a facet met at a slant is an edge's other side and bounds nothing.
        const auto hit = tree_.ray(at_, along_, 1e-3f, cap_);
        if (hit.facet != WallTree::none && tree_.normal[hit.facet].dot(along_) >= cos_60) {
            r = hit.t / 2;
            facet = hit.facet;
            contact = at_ + hit.t * along_;
        }
        const auto bound = std::tuple(r, facet, contact);
        bool shrunk = false;
        for (size_t k = 0; k < std::min(known_, recent_.size()); ++k) { // a neighbour's contact is a good first guess
            const Ball& b = recent_[k];
            if (b.facet == WallTree::none || b.along.dot(along_) < cos_15) continue;
            const Vec3f e = b.contact - at_;
            const float guess = radius_through(b.contact);
            if (e.dot(along_) > cos_30 * e.norm() && guess < r) {
                std::tie(r, facet, contact) = std::tuple(guess, b.facet, b.contact);
                shrunk = true;
            }
        }
        auto shrink = [&](auto accept) {
            for (int round = 0; round < 12; ++round) {
                const Vec3f centre = at_ + r * along_;
                const auto near =
                    tree_.nearest(centre, r - std::max(bites_mm, 0.002f * r), along_, sharp_concave,
                                  [&](const Vec3f& q, uint32_t f) { return opposed(centre, q, f) && accept(q); });
                if (near.facet == WallTree::none) return;
                const float next = radius_through(near.at);
                if (!(next < r)) return;
                std::tie(r, facet, contact) = std::tuple(next, near.facet, near.at);
                shrunk = true;
                if (r < bites_mm) return;
            }
        };
        shrink([](const Vec3f&) { return true; });
        if (shrunk && !sees(contact)) { // the contacts must see each other through the plastic: rare
            std::tie(r, facet, contact) = bound;
            shrink([this](const Vec3f& q) { return sees(q); });
        }
        recent_[known_++ % recent_.size()] = {at_ + r * along_, along_, contact, at_, r, facet};
        return facet == WallTree::none ? Wall{} : wall(r, facet, contact);
    }

    const WallMesh& mesh_;
    const WallTree& tree_;
    const Around& around_;
    const float cap_;
    Vec3f at_, along_; ///< the place that is measured, and inward from it
    std::array<Ball, 24> recent_;
    size_t known_ = 0;
};

std::vector<Wall> walls_of(const WallMesh& mesh, const WallTree& tree, const Around& around, double cap,
                           const Task& task) {
    std::vector<Wall> walls(mesh.triangles.size());
    const size_t runs = (walls.size() + run_of_facets - 1) / run_of_facets;
    tbb::parallel_for(size_t(0), runs, [&](size_t run) {
        if (task.stopped()) return;
        Measurer measurer(mesh, tree, around, float(cap));
        for (size_t i = run * run_of_facets; i < std::min(walls.size(), (run + 1) * run_of_facets); ++i)
            walls[tree.order[i]] = measurer.measure(tree.order[i]);
    });
    return walls;
}

/// Whether the two contacts look at each other: between the flanks of a corner they do not.
bool counts(const Wall& wall) {
    return std::isfinite(wall.mm) && wall.facing >= cos_30;
}

Vec3 middle_of(const TriMesh& mesh, size_t i) {
    return (mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3;
}

constexpr float touches_mm = 0.01f;

void find_least(const TriMesh& facets, const std::vector<Wall>& walls, Walls& result) {
    float least = infinite;
    for (size_t i = 0; i < walls.size(); ++i) {
        if (!(walls[i].mm < least && counts(walls[i]))) continue;
        least = walls[i].mm;
        result.least_at = middle_of(facets, i);
    }
    if (std::isfinite(least)) result.least_mm = least;
}

/// A mesh with its large facets parted, and all that is asked of it.
struct Prepared {
    TriMesh facets;
    WallMesh single;
    Around around;
    WallTree tree;
    Prepared(TriMesh parted, const Vec3& origin)
        : facets(std::move(parted)), single(wall_mesh(facets, origin)), around(look_around(single)),
          tree(single, around.sharp) {}
};

/// Patches of thin facets joined over edges.
void add_thin_patches(const Prepared& on, const std::vector<Wall>& walls, double thin_mm, Walls& result) {
    // A wall drawn at exactly two lines is none the thinner for how it was measured.
    auto thin = [&](uint32_t i) { return counts(walls[i]) && walls[i].mm < thin_mm - exact_to_mm; };
    std::vector<bool> seen(walls.size());
    double largest = 0;
    for (uint32_t seed = 0; seed < walls.size(); ++seed) {
        if (seen[seed] || !thin(seed)) continue;
        std::vector<uint32_t> patch = {seed};
        seen[seed] = true;
        double area = 0;
        for (size_t at = 0; at < patch.size(); ++at) {
            area += on.facets.area_vector(patch[at]).norm() / 2;
            for (size_t k = 0; k < 3; ++k) {
                const uint32_t g = on.around.neighbour[3 * patch[at] + k];
                if (g == WallTree::none || seen[g] || !thin(g)) continue;
                seen[g] = true;
                patch.push_back(g);
            }
        }
        result.thin_area_mm2 += area;
        ++result.thin_places;
        if (area <= largest) continue;
        largest = area;
        result.thin_at = middle_of(on.facets, patch[0]);
    }
}

Expected<TriMesh> parted(const TriMesh& mesh, double longest_mm, const Task& task) {
    return refined(
        mesh, [longest_mm](const Vec3&, const Vec3&) { return longest_mm; }, task);
}

/// How thick a body is that has no wall within the cap: wider and wider, at fewer places, for wide balls are dear.
void find_least_of_thick(const TriMesh& mesh, double cap, const Box3& box, const Task& task, Walls& result) {
    const double size = box.diagonal().norm();
    auto coarse = parted(mesh, size / 40, task);
    if (!coarse) return;
    const Prepared prepared(std::move(*coarse), box.center());
    while (!result.least_mm && cap < size && !task.stopped()) {
        cap = std::min(4 * cap, size * 1.01);
        find_least(prepared.facets, walls_of(prepared.single, prepared.tree, prepared.around, cap, task), result);
    }
}

enum class Side { Inside, Outside };

/// Marks the corners of facets that may have another opposite within the cap, seen from some place of theirs: one that
/// looks back within 60 degrees or has a sharp edge, and does not lie behind.
std::vector<uint8_t> corners_facing(const Prepared& coarse, float cap) {
    const WallMesh& mesh = coarse.single;
    std::vector<uint8_t> facing(mesh.triangles.size());
    tbb::parallel_for(size_t(0), facing.size(), [&](size_t i) {
        const Vec3f middle = mesh.middle(i), along = -coarse.tree.normal[i];
        float reach = 0;
        for (size_t k = 0; k < 3; ++k) reach = std::max(reach, (mesh.corner(i, k) - middle).norm());
        const auto may_face = [&](const Vec3f&, uint32_t f) {
            float front = -infinite;
            for (size_t k = 0; k < 3; ++k) front = std::max(front, (mesh.corner(f, k) - middle).dot(along));
            return f != i && front > -0.1f * cap; // its surface may be rounder than it is
        };
        facing[i] = coarse.tree.nearest(middle, reach + cap, along, sharp_concave, may_face).facet != WallTree::none;
    });
    std::vector<uint8_t> marked(mesh.vertices.size());
    for (size_t i = 0; i < facing.size(); ++i)
        for (const uint32_t v : mesh.triangles[i]) marked[v] |= facing[i];
    return marked;
}

/// Facets as small as asked where something is opposite within the cap, larger elsewhere: narrow gaps are few. Empty
/// where there is none at all.
Expected<TriMesh> parted_at_gaps(const TriMesh& mesh, double longest_mm, double cap, const Task& task) {
    auto coarse = parted(mesh, 4 * longest_mm, task);
    if (!coarse) return coarse;
    const Prepared prepared(std::move(*coarse), bounding_box(mesh).center());
    const std::vector<uint8_t> marked = corners_facing(prepared, float(cap));
    if (std::find(marked.begin(), marked.end(), 1) == marked.end()) return TriMesh{};
    return refined_between(prepared.facets, marked, longest_mm, task);
}

/// Nothing for what single precision would not do for: more than a kilometre, and no printer either. Nothing where
/// there is no gap.
std::unique_ptr<Prepared> prepared_for(const TriMesh& mesh, const WallOptions& options, Side side, const Task& task) {
    const Box3 box = bounding_box(mesh);
    if (mesh.empty() || !(box.diagonal().norm() < 1e6)) return nullptr;
    // Facets so small that a large part would have hundreds of thousands are no use to anyone.
    double edges = 0;
    for (size_t i = 0; i < mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) edges += (mesh.corner(i, (k + 1) % 3) - mesh.corner(i, k)).norm() / 2;
    const double area = mass_properties(mesh).area_mm2;
    const double longest = std::max(
        {options.longest_facet_mm, std::sqrt(area * 2.5 / 150000), mesh.triangles.size() < 100000 ? edges / 60000 : 0});
    // A mesh that is as fine already is not worth a first look.
    const bool grows = area * 2.5 > 2 * longest * longest * double(mesh.triangles.size());
    auto fine = side == Side::Outside && grows ? parted_at_gaps(mesh, longest, options.cap_mm, task)
                                               : parted(mesh, longest, task);
    if (fine ? fine->empty() : fine.error().code == ProblemCode::Cancelled) return nullptr;
    return std::make_unique<Prepared>(fine ? std::move(*fine) : mesh, box.center()); // what cannot be parted as it is
}

Expected<Walls> measure(const TriMesh& mesh, const WallOptions& options, Side side, const Task& task) {
    Walls result;
    const auto prepared = prepared_for(mesh, options, side, task);
    if (task.stopped()) return cancelled();
    if (!prepared) return result;
    std::vector<Wall> walls = walls_of(prepared->single, prepared->tree, prepared->around, options.cap_mm, task);
    if (side == Side::Outside)
        for (Wall& w : walls)
            if (w.mm < touches_mm) w = {};
    find_least(prepared->facets, walls, result);
    if (!result.least_mm && side == Side::Inside)
        find_least_of_thick(mesh, options.cap_mm, bounding_box(mesh), task, result);
    if (task.stopped()) return cancelled();
    add_thin_patches(*prepared, walls, options.thin_mm, result);
    return result;
}

/// At the corners of every facet the mean of the facets round it that go on smoothly.
std::vector<float> at_corners(const Prepared& on, const std::vector<Wall>& walls) {
    const auto& triangles = on.facets.triangles;
    const auto round = facets_round(triangles, on.facets.vertices.size());
    const auto &start = round.first, &of = round.second;
    std::vector<float> mm(3 * triangles.size(), -1);
    tbb::parallel_for(size_t(0), triangles.size(), [&](size_t i) {
        if (!std::isfinite(walls[i].mm)) return;
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t v = triangles[i][int(k)];
            float sum = 0, count = 0;
            for (uint32_t j = start[v]; j < start[v + 1]; ++j) {
                const uint32_t f = of[j];
                if (!std::isfinite(walls[f].mm) || on.tree.normal[f].dot(on.tree.normal[i]) < cos_35) continue;
                sum += walls[f].mm;
                ++count;
            }
            mm[3 * i + k] = count > 0 ? sum / count : walls[i].mm;
        }
    });
    return mm;
}

} // namespace

Expected<Walls> measure_walls(const TriMesh& mesh, const WallOptions& options, const Task& task) {
    return measure(mesh, options, Side::Inside, task);
}

Expected<WallMap> map_walls(const TriMesh& mesh, const WallOptions& options, const Task& task) {
    WallMap map;
    const auto prepared = prepared_for(mesh, options, Side::Inside, task);
    if (task.stopped()) return cancelled();
    if (!prepared) return map;
    const auto walls = walls_of(prepared->single, prepared->tree, prepared->around, options.cap_mm, task);
    if (task.stopped()) return cancelled();
    map.mm = at_corners(*prepared, walls);
    map.facets = std::move(prepared->facets);
    return map;
}

Expected<Walls> measure_gaps(const TriMesh& mesh, double narrow_mm, const Task& task) {
    TriMesh air = mesh; // turned inside out: what was a gap is a wall
    for (Triangle& t : air.triangles) std::swap(t[1], t[2]);
    return measure(air, {.cap_mm = std::max(1.0, 2 * narrow_mm), .thin_mm = narrow_mm}, Side::Outside, task);
}

} // namespace lp

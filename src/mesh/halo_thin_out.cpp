#include "mesh/halo_thin_out.h"
#include "mesh/collapse_log.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <tbb/parallel_for.h>

namespace lp::halo {
namespace {

constexpr int slabs = 8;
constexpr int most_rounds = 6;
constexpr size_t most_carried = 400; ///< removed vertices that one collapse may have to answer for

/// Half-edge collapses. Every facet remembers the removed vertices nearest to it, so that the surface is judged from
/// both sides: facets against the body's distance, removed vertices against the facets.
class Collapser {
  public:
    Collapser(TriMesh& mesh, const DistanceField& field, const ThinOutOptions& options)
        : mesh_(mesh), field_(field), options_(options), facets_of_(mesh.vertices.size()),
          removed_(mesh.triangles.size()), facet_gone_(mesh.triangles.size(), 0), gone_(mesh.vertices.size(), 0),
          changed_(mesh.vertices.size(), 1), locked_(mesh.vertices.size(), 0), slab_(mesh.vertices.size()) {
        for (uint32_t i = 0; i < mesh.triangles.size(); ++i)
            for (uint32_t v : mesh.triangles[i]) facets_of_[v].push_back(i);
        lock_facing_sheets();
    }

    void run(const Task& task) {
        for (int round = 0; round < most_rounds && !task.stopped(); ++round) {
            const size_t before = log_.collapses();
            cut_into_slabs(round);
            std::vector<std::vector<uint32_t>> members(slabs + 1);
            std::vector<CollapseLog> logs(slabs + 1);
            for (uint32_t v = 0; v < gone_.size(); ++v)
                if (!gone_[v] && changed_[v]) members[slab_[v]].push_back(v);
            tbb::parallel_for(
                size_t(0), members.size(),
                [&](size_t s) {
                    for (uint32_t v : members[s])
                        if (!gone_[v] && !locked_[v] && !task.stopped()) try_remove(v, logs[s]);
                },
                tbb::simple_partitioner());
            for (const CollapseLog& log : logs) log_.append(log);
            if (log_.collapses() - before < gone_.size() / 100) break;
        }
    }

    /// Takes the last `most` collapses back that made each of these facets of the result. False: there were none.
    bool take_back(const std::vector<uint32_t>& facets_of_result, size_t most) {
        std::vector<uint32_t> facets;
        for (uint32_t f : facets_of_result) facets.push_back(number_in_mesh_[f]);
        return log_.take_back(facets, most, mesh_.triangles, facet_gone_) > 0;
    }

    TriMesh result() {
        TriMesh out;
        number_in_mesh_.clear();
        std::vector<long> number(mesh_.vertices.size(), -1);
        for (size_t i = 0; i < mesh_.triangles.size(); ++i) {
            if (facet_gone_[i]) continue;
            Triangle t;
            for (int k = 0; k < 3; ++k) {
                long& n = number[mesh_.triangles[i][k]];
                if (n < 0) {
                    n = long(out.vertices.size());
                    out.vertices.push_back(mesh_.vertices[mesh_.triangles[i][k]]);
                }
                t[k] = uint32_t(n);
            }
            out.triangles.push_back(t);
            number_in_mesh_.push_back(uint32_t(i));
        }
        return out;
    }

  private:
    struct Candidate {
        double cost;
        uint32_t into;
    };

    Vec3 at(uint32_t v) const { return mesh_.vertices[v]; }
    double error_at(const Vec3& p) const {
        return std::fabs(field_.nearest(p, options_.distance_mm + 0.08).distance_mm - options_.distance_mm);
    }

    /// Two sheets a hair apart may pass through each other when one is simplified.
    void lock_facing_sheets() {
        double step = 4 * options_.limit_mm, reach = options_.distance_mm + 0.1;
        tbb::parallel_for(size_t(0), gone_.size(), [&](size_t i) {
            const Vec3& p = mesh_.vertices[i];
            auto near = field_.nearest(p, reach);
            Vec3 n = (p - near.foot) / std::max(near.distance_mm, 1e-12), beyond = p + n * step;
            auto next = field_.nearest(beyond, reach + step);
            Vec3 m = (beyond - next.foot) / std::max(next.distance_mm, 1e-12);
            if (next.distance_mm - options_.distance_mm < 0.9 * step && n.dot(m) < -0.75) locked_[i] = 1;
        });
    }

    void cut_into_slabs(int round) {
        Box3 box = bounding_box(mesh_);
        int axis = 0;
        box.sizes().maxCoeff(&axis);
        axis = (axis + round % 2) % 3;
        std::vector<double> places;
        for (size_t v = 0; v < gone_.size(); ++v)
            if (!gone_[v]) places.push_back(mesh_.vertices[v][axis]);
        std::sort(places.begin(), places.end());
        std::vector<double> cuts; // shifted every other pair of rounds, so that the seams are reached too
        for (int k = 1; k < slabs; ++k)
            if (!places.empty())
                cuts.push_back(places[size_t(double(places.size()) * (k + (round % 4 >= 2 ? 0.5 : 0)) / (slabs + 1))]);
        for (size_t v = 0; v < slab_.size(); ++v)
            slab_[v] = uint8_t(std::upper_bound(cuts.begin(), cuts.end(), mesh_.vertices[v][axis]) - cuts.begin());
    }

    /// Neighbours of v; false when one is in another slab.
    bool ring_of(uint32_t v, std::vector<uint32_t>& ring) const {
        ring.clear();
        bool within = true;
        for (uint32_t f : facets_of_[v])
            for (uint32_t w : mesh_.triangles[f]) {
                if (w == v) continue;
                if (slab_[w] != slab_[v]) within = false;
                if (std::find(ring.begin(), ring.end(), w) == ring.end()) ring.push_back(w);
            }
        return within;
    }

    static bool has(const Triangle& t, uint32_t v) { return t[0] == v || t[1] == v || t[2] == v; }
    static Triangle replaced(Triangle t, uint32_t v, uint32_t w) {
        for (uint32_t& x : t)
            if (x == v) x = w;
        return t;
    }

    void try_remove(uint32_t v, CollapseLog& log) {
        changed_[v] = 0;
        std::vector<uint32_t> ring;
        if (!ring_of(v, ring)) {
            changed_[v] = 1;
            return;
        }
        if (ring.size() != facets_of_[v].size()) return; // not a plain fan
        std::vector<uint32_t> carried{v};
        for (uint32_t f : facets_of_[v]) carried.insert(carried.end(), removed_[f].begin(), removed_[f].end());
        if (carried.size() > most_carried) return;
        std::vector<Candidate> candidates = candidates_for(v, ring);
        for (size_t i = 0; i < candidates.size() && i < 2; ++i)
            if (collapse(v, candidates[i].into, ring, carried, log)) return;
    }

    std::vector<Candidate> candidates_for(uint32_t v, const std::vector<uint32_t>& ring) const {
        std::vector<Candidate> result;
        for (uint32_t w : ring) {
            double farthest = 0, worst = 1;
            bool good = true;
            for (uint32_t f : facets_of_[v]) {
                const Triangle& old = mesh_.triangles[f];
                if (has(old, w)) continue;
                Vec3 before = (at(old[1]) - at(old[0])).cross(at(old[2]) - at(old[0]));
                Triangle t = replaced(old, v, w);
                Vec3 a = at(t[0]), b = at(t[1]), c = at(t[2]), n = (b - a).cross(c - a);
                double area = n.norm();
                double sides = (b - a).squaredNorm() + (c - b).squaredNorm() + (a - c).squaredNorm();
                double quality = 3.46 * area / (sides + 1e-30); // 1 for equal sides
                if (quality < 0.02 || n.dot(before) <= 0.5 * area * before.norm()) {
                    good = false;
                    break;
                }
                worst = std::min(worst, quality);
                farthest = std::max(farthest, std::fabs((at(v) - a).dot(n) / area));
                if (farthest > 3 * options_.limit_mm) {
                    good = false;
                    break;
                }
            }
            if (good) result.push_back({farthest / options_.limit_mm - 0.5 * worst, w});
        }
        std::sort(result.begin(), result.end(), [](const auto& a, const auto& b) { return a.cost < b.cost; });
        return result;
    }

    bool collapse(uint32_t v, uint32_t w, const std::vector<uint32_t>& ring, const std::vector<uint32_t>& carried,
                  CollapseLog& log) {
        std::vector<uint32_t> other;
        if (!ring_of(w, other) || slab_[w] != slab_[v]) return false;
        int common = 0;
        for (uint32_t x : ring)
            if (std::find(other.begin(), other.end(), x) != other.end()) ++common;
        if (common != 2) return false; // the link condition
        std::vector<Triangle> fresh;
        for (uint32_t f : facets_of_[v])
            if (!has(mesh_.triangles[f], w)) fresh.push_back(replaced(mesh_.triangles[f], v, w));
        std::vector<size_t> carrier(carried.size(), 0);
        double farthest = 0;
        for (size_t i = 0; i < carried.size(); ++i) {
            double nearest = 1e9;
            Vec3 p = at(carried[i]);
            for (size_t j = 0; j < fresh.size() && nearest >= 1e-5; ++j) {
                double d = (closest_on_triangle(p, at(fresh[j][0]), at(fresh[j][1]), at(fresh[j][2])) - p).norm();
                if (d < nearest) {
                    nearest = d;
                    carrier[i] = j;
                }
            }
            if (nearest > options_.limit_mm) return false;
            farthest = std::max(farthest, nearest);
        }
        for (const Triangle& t : fresh)
            if (!fits(t, w, farthest)) return false;
        commit(v, w, fresh, carried, carrier, ring, log);
        return true;
    }

    /// Is a facet near enough to the surface, and turned the right way? Looked at more closely where the surface bends.
    bool fits(const Triangle& t, uint32_t w, double bend) const {
        Vec3 a = at(t[0]), b = at(t[1]), c = at(t[2]), n = (b - a).cross(c - a).normalized(), middle = (a + b + c) / 3;
        auto near = field_.nearest(middle);
        if (std::fabs(near.distance_mm - options_.distance_mm) > options_.limit_mm) return false;
        double turned = n.dot(middle - near.foot) * (options_.inward ? -1 : 1);
        if (turned < 0.6 * near.distance_mm) return false;
        if (bend > 1e-3)
            for (int k = 0; k < 3; ++k) {
                uint32_t p = t[k], q = t[(k + 1) % 3];
                if (p != w && q != w) continue;
                Vec3 edge = at(q) - at(p);
                if (error_at(at(p) + edge * 0.5) > options_.limit_mm) return false;
                if (bend > 2e-3 && (error_at(at(p) + edge * 0.25) > options_.limit_mm ||
                                    error_at(at(p) + edge * 0.75) > options_.limit_mm))
                    return false;
            }
        if (bend > 2e-3)
            for (int k = 0; k < 3; ++k)
                if (error_at(0.6 * at(t[k]) + 0.2 * at(t[(k + 1) % 3]) + 0.2 * at(t[(k + 2) % 3])) > options_.limit_mm)
                    return false;
        return true;
    }

    void commit(uint32_t v, uint32_t w, const std::vector<Triangle>& fresh, const std::vector<uint32_t>& carried,
                const std::vector<size_t>& carrier, const std::vector<uint32_t>& ring, CollapseLog& log) {
        log.begin_collapse();
        std::vector<uint32_t> old = facets_of_[v], kept;
        size_t next = 0;
        for (uint32_t f : old) {
            Triangle& t = mesh_.triangles[f];
            log.changes(f, t);
            removed_[f].clear();
            if (has(t, w)) {
                facet_gone_[f] = 1;
                for (uint32_t x : t)
                    if (x != v) std::erase(facets_of_[x], f);
                continue;
            }
            t = fresh[next++];
            facets_of_[w].push_back(f);
            kept.push_back(f);
        }
        for (size_t i = 0; i < carried.size(); ++i) removed_[kept[carrier[i]]].push_back(carried[i]);
        facets_of_[v].clear();
        gone_[v] = 1;
        for (uint32_t x : ring) changed_[x] = 1;
    }

    TriMesh& mesh_;
    const DistanceField& field_;
    const ThinOutOptions options_;
    std::vector<std::vector<uint32_t>> facets_of_, removed_;
    std::vector<char> facet_gone_, gone_, changed_, locked_;
    std::vector<uint8_t> slab_;
    CollapseLog log_;
    std::vector<uint32_t> number_in_mesh_; ///< of the facets of the last result
};

} // namespace

TriMesh thin_out(const TriMesh& surface, const DistanceField& field, const ThinOutOptions& options, const Task& task) {
    TriMesh mesh = surface;
    Collapser collapser(mesh, field, options);
    collapser.run(task);
    constexpr size_t most_taken_back = 4096; // of one facet: all of them, on any surface met so far
    for (size_t most = 1; most <= most_taken_back && !task.stopped(); most *= 2) {
        TriMesh light = collapser.result();
        const auto crossing = intersecting_pairs(light, task);
        if (crossing.empty()) return light;
        std::vector<uint32_t> facets;
        for (auto [s, t] : crossing) facets.insert(facets.end(), {s, t});
        if (!collapser.take_back(facets, most)) break; // the surface itself passes through itself there
    }
    return task.stopped() ? surface : collapser.result();
}

} // namespace lp::halo

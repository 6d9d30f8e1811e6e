#include "bed/tree_contacts.h"
#include "check/overhang.h"
#include <random>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp {
namespace {

constexpr double least_sample_mm2 = 0.25;
constexpr double most_samples = 400000;
constexpr double lowest_mm = 0.3; ///< nothing fits under what is lower
constexpr double apart = 1.6;     ///< contacts at first stand this many reaches apart

/// Places in the cells of a grid, so that only those near another place are looked at.
class NearPlaces {
  public:
    explicit NearPlaces(double reach) : reach_(reach) {}
    void add(const Vec3& p) { cells_[key(cell_of(p))].push_back(p); }
    /// Of those within the reach; infinite when there is none.
    double nearest(const Vec3& p) const {
        double best = std::numeric_limits<double>::infinity();
        const Cell middle = cell_of(p);
        for (int64_t i = -1; i < 2; ++i)
            for (int64_t j = -1; j < 2; ++j)
                for (int64_t k = -1; k < 2; ++k) {
                    auto cell = cells_.find(key({middle[0] + i, middle[1] + j, middle[2] + k}));
                    if (cell == cells_.end()) continue;
                    for (const Vec3& other : cell->second) best = std::min(best, (other - p).squaredNorm());
                }
        return std::sqrt(best);
    }

  private:
    using Cell = std::array<int64_t, 3>;
    Cell cell_of(const Vec3& p) const {
        return {int64_t(std::floor(p.x() / reach_)), int64_t(std::floor(p.y() / reach_)),
                int64_t(std::floor(p.z() / reach_))};
    }
    static uint64_t key(const Cell& c) {
        return (uint64_t(c[0] + 100000) << 42) ^ (uint64_t(c[1] + 100000) << 21) ^ uint64_t(c[2] + 100000);
    }
    double reach_;
    std::unordered_map<uint64_t, std::vector<Vec3>> cells_;
};

class ContactPlanner {
  public:
    ContactPlanner(const TriMesh& mesh, const DistanceTree& tree, const TreeRules& rules, const SupportWishes& wishes)
        : mesh_(mesh), tree_(tree), rules_(rules), wishes_(wishes), near_(rules.reach_steep * 1.7) {
        unit_.resize(mesh.triangles.size());
        for (size_t i = 0; i < unit_.size(); ++i) unit_[i] = mesh.area_vector(i).stableNormalized();
        hangs_.resize(unit_.size());
        for (uint32_t i : facets_to_carry(mesh, rules.limit_deg, wishes.marks))
            hangs_[i] = std::max({mesh.corner(i, 0).z(), mesh.corner(i, 1).z(), mesh.corner(i, 2).z()}) > lowest_mm;
        double all = 0;
        for (size_t i = 0; i < unit_.size(); ++i)
            if (hangs_[i]) all += mesh.area_vector(i).norm() / 2;
        sample_mm2_ = std::max(least_sample_mm2, all / most_samples);
    }

    ContactPlan run(const Task& task) {
        std::vector<Sample> samples = sampled(task);
        put_by_hand();
        lowest_places();
        rims();
        // First as far apart as may be, then wherever something is left out of reach.
        for (double far : {apart, 1.0})
            for (const Sample& s : samples)
                if (near_.nearest(s.at) > far * rules_.reach(hang_angle_deg(unit_[s.facet]))) put(s.at, unit_[s.facet]);
        for (const Sample& s : samples) plan_.hanging.push_back({s.at, hang_angle_deg(unit_[s.facet]), sample_mm2_});
        return std::move(plan_);
    }

  private:
    struct Sample {
        Vec3 at;
        uint32_t facet;
    };

    /// First of all: the others keep away from them.
    void put_by_hand() {
        for (const SupportChange& change : wishes_.changes) {
            if (!change.added) continue;
            const ClosestPoint near = tree_.closest(change.at, change_reach_mm);
            if (near.triangle == ~0u || !(unit_[near.triangle].z() < 0.2)) {
                ++plan_.not_put; // gone, or a place that looks up
                continue;
            }
            plan_.contacts.push_back({near.point, unit_[near.triangle], hang_angle_deg(unit_[near.triangle])});
            near_.add(near.point);
        }
    }

    void put(const Vec3& at, const Vec3& normal) {
        if (wishes_.leaves_out(at, rules_.reach(hang_angle_deg(normal)))) return;
        plan_.contacts.push_back({at, normal, hang_angle_deg(normal)});
        near_.add(at);
    }

    /// Something beside or below is nearer than the roof, as seen from a little below it.
    bool carried_by_wall(const Sample& s) const {
        constexpr double below = 1.2;
        const double own = below * -unit_[s.facet].z();
        return tree_.closest(s.at - Vec3(0, 0, below), own).distance_mm < 0.8 * own;
    }

    /// Hanging surface in pieces of equal area, in no order.
    std::vector<Sample> sampled(const Task& task) {
        std::mt19937 random(7); // by the generator's own numbers: distributions differ from library to library
        auto share = [&] { return double(random()) / 4294967296.0; };
        std::vector<Sample> all;
        double run = 0, next = sample_mm2_ / 2;
        for (uint32_t i = 0; i < unit_.size() && !task.stopped(); ++i) {
            if (!hangs_[i]) continue;
            run += mesh_.area_vector(i).norm() / 2;
            for (; next < run; next += sample_mm2_) {
                const double x = std::sqrt(share()), y = share();
                all.push_back(
                    {(1 - x) * mesh_.corner(i, 0) + x * (1 - y) * mesh_.corner(i, 1) + x * y * mesh_.corner(i, 2), i});
            }
        }
        std::vector<uint8_t> walled(all.size());
        tbb::parallel_for(size_t(0), all.size(), [&](size_t i) { walled[i] = carried_by_wall(all[i]); });
        size_t kept = 0;
        for (size_t i = 0; i < all.size(); ++i)
            if (!walled[i]) all[kept++] = all[i];
        all.resize(kept);
        for (size_t i = all.size(); i > 1; --i) std::swap(all[i - 1], all[random() % i]);
        return all;
    }

    /// Corners with no lower neighbour, where some facet looks down. Flat roofs count as area.
    void lowest_places() {
        constexpr double level = 1e-5;
        const auto& v = mesh_.vertices;
        std::vector<uint8_t> low(v.size(), 1), down(v.size(), 0);
        auto each_edge = [&](auto call) {
            for (size_t i = 0; i < mesh_.triangles.size(); ++i)
                for (int k = 0; k < 3; ++k) call(i, mesh_.triangles[i][k], mesh_.triangles[i][(k + 1) % 3]);
        };
        each_edge([&](size_t i, uint32_t a, uint32_t b) {
            if (v[a].z() > v[b].z() + level) low[a] = 0;
            if (v[b].z() > v[a].z() + level) low[b] = 0;
            if (unit_[i].z() < -1e-3) down[a] = down[b] = 1;
        });
        each_edge([&](size_t, uint32_t a, uint32_t b) { // a plateau with a way down
            if (std::fabs(v[a].z() - v[b].z()) <= level && low[a] != low[b]) low[a] = low[b] = 0;
        });
        each_edge([&](size_t i, uint32_t a, uint32_t) {
            if (unit_[i].z() < -0.998 || wishes_.marks.keeps_tips_off(i)) low[a] = 0;
        });
        for (size_t i = 0; i < v.size(); ++i)
            if (low[i] && down[i] && v[i].z() > lowest_mm && near_.nearest(v[i]) > rules_.reach_flat * apart)
                put(v[i], -Vec3::UnitZ());
    }

    /// Lower rims of what hangs: sharp edges towards a facet that looks sideways or up.
    void rims() {
        std::vector<uint8_t> touched(mesh_.vertices.size(), 0);
        for (size_t i = 0; i < hangs_.size(); ++i)
            if (hangs_[i])
                for (uint32_t v : mesh_.triangles[i]) touched[v] = 1;
        auto edge = [](uint32_t a, uint32_t b) { return uint64_t(a) << 32 | b; };
        std::unordered_map<uint64_t, uint32_t> beside; ///< of facets that do not hang, by their edges
        for (uint32_t i = 0; i < hangs_.size(); ++i)
            for (int k = 0; k < 3 && !hangs_[i]; ++k) {
                const uint32_t a = mesh_.triangles[i][k], b = mesh_.triangles[i][(k + 1) % 3];
                if (touched[a] && touched[b]) beside[edge(a, b)] = i;
            }
        for (uint32_t i = 0; i < hangs_.size(); ++i)
            for (int k = 0; k < 3 && hangs_[i]; ++k) {
                const uint32_t a = mesh_.triangles[i][k], b = mesh_.triangles[i][(k + 1) % 3];
                if (auto other = beside.find(edge(b, a)); other != beside.end()) rim(i, other->second, a, b);
            }
    }

    void rim(uint32_t hanging, uint32_t other, uint32_t a, uint32_t b) {
        auto middle = [&](uint32_t i) -> Vec3 {
            return (mesh_.corner(i, 0) + mesh_.corner(i, 1) + mesh_.corner(i, 2)) / 3;
        };
        const Vec3 p = mesh_.vertices[a], q = mesh_.vertices[b], inner = middle(hanging);
        const bool convex = unit_[other].dot(inner - p) < -1e-6, sharp = unit_[hanging].dot(unit_[other]) < 0.94;
        if (!convex || !sharp) return;
        if (inner.z() < std::max(p.z(), q.z()) - 1e-4 && middle(other).z() < p.z()) return; // an upper rim
        const Vec3 at = (p + q) / 2;
        if (near_.nearest(at) <= apart * rules_.reach(hang_angle_deg(unit_[hanging]))) return;
        put(at + 0.3 * (inner - at).stableNormalized(), unit_[hanging]);
    }

    const TriMesh& mesh_;
    const DistanceTree& tree_;
    const TreeRules& rules_;
    const SupportWishes& wishes_;
    std::vector<Vec3> unit_;
    std::vector<uint8_t> hangs_;
    double sample_mm2_ = least_sample_mm2;
    NearPlaces near_;
    ContactPlan plan_;
};

} // namespace

ContactPlan plan_contacts(const TriMesh& posed, const DistanceTree& tree, const TreeRules& rules, const Task& task,
                          const SupportWishes& wishes) {
    return ContactPlanner(posed, tree, rules, wishes).run(task);
}

double area_out_of_reach(const ContactPlan& plan, const std::vector<Vec3>& carried, const TreeRules& rules) {
    NearPlaces near(rules.reach_steep * 1.7);
    for (const Vec3& p : carried) near.add(p);
    double area = 0;
    for (const HangingPlace& place : plan.hanging)
        if (near.nearest(place.at) > rules.reach(place.hang_deg) + 1e-3) area += place.area_mm2;
    return area;
}

} // namespace lp

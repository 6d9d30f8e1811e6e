#include "bed/tree_growth.h"
#include "bed/tree_tubes.h"
#include <set>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();
using std::numbers::pi;

Vec3 level_way(double angle, double length) {
    return {std::cos(angle) * length, std::sin(angle) * length, 0};
}
Vec3 turned(const Vec3& v, double by) {
    return {std::cos(by) * v.x() - std::sin(by) * v.y(), std::sin(by) * v.x() + std::cos(by) * v.y(), v.z()};
}
Vec3 level(const Vec3& v) {
    return {v.x(), v.y(), 0};
}

class Grower {
  public:
    Grower(const DistanceTree& part, const TreeField& field, const TreeRules& rules, const FacetMarks& marks)
        : part_(part), field_(field), rules_(rules), marks_(marks), lean_(rules.lean()) {}

    Forest run(const ContactPlan& plan, const Task& task) {
        std::vector<int> tips = place_tips(plan);
        std::vector<int> active;
        size_t next = 0;
        for (int k = field_.levels(); k >= 0 && !task.stopped(); --k) {
            task.tell("Growing supports", 1 - double(k) / std::max(1, field_.levels()));
            const double z = k * rules_.level;
            while (next < tips.size() && node(tips[next]).at.z() > z + (k ? 0.4 * rules_.level : 0.3))
                active.push_back(tips[next++]);
            active = grow_level(active, k);
        }
        for (; next < tips.size(); ++next) give_up(tips[next]);
        forest_.roots.insert(forest_.roots.end(), active.begin(), active.end());
        widen_feet(active);
        return std::move(forest_);
    }

  private:
    TreeNode& node(int i) { return forest_.nodes[size_t(i)]; }
    const TreeNode& node(int i) const { return forest_.nodes[size_t(i)]; }
    double gap(const Tube& a, const Tube& b) const { return gap_between(forest_.nodes, a, b); }
    /// How far a branch may lean down to a height.
    double farthest(int i, double z) const { return lean_ * (node(i).at.z() - z); }

    /// The radius below a node at which its branch down to a place leans no more than it may on any side.
    double thinnest_below(int i, const Vec3& to) const {
        return node(i).radius - farthest(i, to.z()) + level(to - node(i).at).norm();
    }

    /// Tips, the highest first.
    std::vector<int> place_tips(const ContactPlan& plan) {
        std::vector<int> tips;
        std::vector<std::optional<Vec3>> places(plan.contacts.size());
        tbb::parallel_for(size_t(0), places.size(), [&](size_t i) { places[i] = tip_under(plan.contacts[i]); });
        for (size_t i = 0; i < places.size(); ++i) {
            if (!places[i]) {
                ++forest_.without_room;
                continue;
            }
            forest_.contacts.push_back(i);
            tips.push_back(int(forest_.nodes.size()));
            forest_.nodes.push_back({*places[i], rules_.tip_radius, 0, 1, {}, false, false});
        }
        std::stable_sort(tips.begin(), tips.end(), [&](int a, int b) { return node(a).at.z() > node(b).at.z(); });
        return tips;
    }

    /// A level disc whose nearest place is the gap from the part: pushed off whatever is too near, a wall beside it
    /// too.
    std::optional<Vec3> tip_under(const TreeContact& c) const {
        constexpr double slack = 0.01, most_off = 0.1, lowest = 0.5;
        const double slope = std::sqrt(std::max(0.0, 1 - c.normal.z() * c.normal.z()));
        Vec3 middle = c.at + c.normal * (rules_.gap + rules_.tip_radius * slope);
        for (int round = 0; round < 8; ++round) {
            double nearest = infinity;
            Vec3 push = Vec3::Zero();
            for (int k = 0; k < 13; ++k) {
                const Vec3 s = k < 12 ? Vec3(middle + level_way(k * pi / 6, rules_.tip_radius)) : middle;
                const ClosestPoint q = part_.closest(s, 2);
                if (q.distance_mm < nearest) nearest = q.distance_mm, push = s - q.point;
            }
            if (nearest >= rules_.gap - slack) {
                if (middle.z() > lowest && nearest < rules_.gap + most_off && !part_.inside(middle)) return middle;
                return std::nullopt;
            }
            if (push.norm() < 1e-5) return std::nullopt;
            middle += push.normalized() * (rules_.gap - nearest + 0.002);
        }
        return std::nullopt;
    }

    /// Least distance to the part along a branch from a node down to a place less what it needs: negative is too near.
    /// Near its tip a branch is a level disc under a roof: there its rim is measured, and needs the gap only.
    double room(const TreeNode& from, const Vec3& to, double radius) const {
        const double length = (from.at - to).norm();
        double worst = infinity;
        for (double t : {0.5, 1.0}) {
            const double path = from.path + t * length, wide = from.radius + (radius - from.radius) * t;
            const Vec3 p = from.at + t * (to - from.at);
            const double need = wide + rules_.clearance;
            double has = std::min(part_.closest(p, need + 1).distance_mm, need + 1) - need;
            if (has < 0 && path < rules_.zone) {
                has = infinity;
                for (int k = 0; k < 12; ++k)
                    has = std::min(has,
                                   part_.closest(p + level_way(k * pi / 6, wide), 2).distance_mm - rules_.gap + 0.02);
            }
            worst = std::min(worst, has);
        }
        return worst;
    }

    /// Near its tip a branch may be where the field, which knows thin branches only, sees no room.
    bool to_bed(const Vec3& p, int level, double path) const {
        return field_.to_bed(p, level) ||
               (path < rules_.zone && (field_.to_bed(p, level - 1) || field_.to_bed(p, level - 2)));
    }

    /// One ring below several. Whatever a ring above sticks out beyond the ring below may not lean more than a branch
    /// either; a wider ring, up to `swell` times what the load needs, may help.
    std::optional<Tube> joined(const std::vector<int>& above, double swell, int k) const {
        const double z = k * rules_.level, high = node(above[0]).at.z(), reach = lean_ * (high - z);
        int tips = 0;
        Vec3 mean = Vec3::Zero();
        Box3 box;
        bool safe = true;
        for (int i : above) {
            const TreeNode& n = node(i);
            if (n.above.empty() || std::fabs(n.at.z() - high) > 1e-4) return std::nullopt;
            tips += n.tips;
            mean += n.tips * n.at;
            box.extend(n.at - Vec3(n.radius, n.radius, 0));
            box.extend(n.at + Vec3(n.radius, n.radius, 0));
            safe = safe && field_.to_bed(n.at, k + 1);
        }
        mean /= tips;
        for (double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
            Vec3 to = mean + share * (box.center() - mean);
            to.z() = z;
            double path = 0, sticks_out = 0, least = 0;
            for (int i : above) {
                const TreeNode& n = node(i);
                const double off = level(n.at - to).norm();
                sticks_out = std::max(sticks_out, off + n.radius - reach);
                path = std::max(path, n.path + std::hypot(std::min(off, reach), high - z));
                least = std::max(least, n.radius - 0.4 * rules_.level);
            }
            double radius = std::max(rules_.radius(tips, path), least);
            if (sticks_out > swell * radius) continue;
            radius = std::max(radius, sticks_out);
            if (safe && !to_bed(to, k, path)) continue;
            double has = infinity;
            for (int i : above) has = std::min(has, room(node(i), to, radius));
            if (has < 0 && radius + has < std::max(rules_.thin_radius, sticks_out)) continue;
            return Tube{above, to, radius + std::min(has, 0.0)};
        }
        return std::nullopt;
    }

    /// All branches from one level to the next below.
    std::vector<int> grow_level(const std::vector<int>& active, int k) {
        std::vector<uint8_t> safe(active.size());
        for (size_t i = 0; i < active.size(); ++i)
            safe[i] = field_.to_bed(node(active[i]).at, k + 1) || to_bed(node(active[i]).at, k, node(active[i]).path);
        std::vector<Tube> tubes;
        std::vector<uint8_t> used(active.size(), 0);
        merge_pairs(active, safe, k, tubes, used);
        const std::vector<Vec3> wanted = ways_wanted(active, safe, k * rules_.level);
        std::vector<size_t> order;
        for (size_t i = 0; i < active.size(); ++i)
            if (!used[i]) order.push_back(i);
        std::stable_sort(order.begin(), order.end(),
                         [&](size_t a, size_t b) { return node(active[a]).tips > node(active[b]).tips; });
        std::vector<int> stranded;
        for (size_t i : order) {
            if (auto tube = single(active[i], safe[i], wanted[i], k, tubes))
                tubes.push_back(*tube);
            else
                stranded.push_back(active[i]);
        }
        settle(tubes, k);
        for (int i : stranded) stand_on_part(i);
        return nodes_of(tubes);
    }

    /// Whom each would join: the nearest it can still meet well above the bed. The lighter comes further.
    std::vector<Vec3> ways_wanted(const std::vector<int>& active, const std::vector<uint8_t>& safe, double z) const {
        std::vector<Vec3> wanted(active.size(), Vec3::Zero());
        tbb::parallel_for(size_t(0), active.size(), [&](size_t i) {
            double best = infinity;
            const TreeNode& a = node(active[i]);
            for (size_t j = 0; j < active.size(); ++j) {
                if (i == j || safe[i] != safe[j]) continue;
                const TreeNode& b = node(active[j]);
                const Vec3 way = level(b.at - a.at);
                const double far = way.norm(), thin = std::min(a.radius, b.radius),
                             thick = std::max(a.radius, b.radius);
                if (far > 0.7 * z || far >= best) continue;
                // Two thick trunks cannot meet: what sticks out would lean too much.
                const double meet = 1.9 * lean_ * rules_.level + 1.2 * thick - 0.2 * thin;
                if (thin > 1.9 && thin + thick + rules_.apart > meet) continue;
                best = far;
                wanted[i] = way * (double(b.tips) / (a.tips + b.tips));
            }
        });
        return wanted;
    }

    /// Who is near enough merges, the nearest first.
    void merge_pairs(const std::vector<int>& active, const std::vector<uint8_t>& safe, int k, std::vector<Tube>& tubes,
                     std::vector<uint8_t>& used) const {
        const double z = k * rules_.level;
        std::vector<std::pair<double, std::array<size_t, 2>>> pairs;
        for (size_t i = 0; i < active.size(); ++i)
            for (size_t j = i + 1; j < active.size(); ++j) {
                const TreeNode &a = node(active[i]), &b = node(active[j]);
                if (safe[i] != safe[j] || a.above.empty() || b.above.empty()) continue;
                const double far = level(a.at - b.at).norm();
                if (far <=
                    0.95 * (farthest(active[i], z) + farthest(active[j], z)) + 0.5 * std::max(a.radius, b.radius))
                    pairs.push_back({far, {i, j}});
            }
        std::sort(pairs.begin(), pairs.end());
        for (const auto& [far, ij] : pairs) {
            const auto [i, j] = ij;
            if (used[i] || used[j]) continue;
            auto tube = joined({active[i], active[j]}, 1.1, k);
            if (!tube || !is_apart(*tube, tubes)) continue;
            auto straight_down = [&](size_t o) {
                const TreeNode& n = node(active[o]);
                return Tube{{active[o]}, Vec3(n.at.x(), n.at.y(), z), n.radius};
            };
            bool blocks = false;
            for (size_t o = 0; o < active.size() && !blocks; ++o)
                blocks = !used[o] && o != i && o != j && level(node(active[o]).at - tube->to).norm() < 8 &&
                         gap(*tube, straight_down(o)) < rules_.apart;
            if (blocks) continue;
            used[i] = used[j] = 1;
            tubes.push_back(*tube);
        }
    }

    bool is_apart(const Tube& tube, const std::vector<Tube>& others, const Tube* but = nullptr) const {
        return std::all_of(others.begin(), others.end(), [&](const Tube& o) {
            return &o == but || o.above.empty() || level(o.to - tube.to).norm() > 12 || gap(tube, o) >= rules_.apart;
        });
    }

    /// Where a branch may go: towards whom it would join, straight down, off the part, anywhere.
    std::vector<Vec3> ways_of(const TreeNode& from, const Vec3& wanted, double farthest) const {
        std::vector<Vec3> ways;
        if (const double far = wanted.norm(); far > 1e-3)
            for (double share : {1.0, 0.5})
                for (double turn : {0.0, 0.5, -0.5, 1.0, -1.0})
                    ways.push_back(turned(wanted / far, turn) * std::min(far, farthest) * share);
        ways.push_back(Vec3::Zero());
        const ClosestPoint near = part_.closest(from.at, 8);
        if (const Vec3 off = near.triangle == ~0u ? Vec3(Vec3::Zero()) : level(from.at - near.point); off.norm() > 1e-4)
            for (double share : {0.35, 0.7, 1.0})
                for (double turn : {0.0, 0.8, -0.8}) ways.push_back(turned(off.normalized(), turn) * farthest * share);
        for (int i = 0; i < 12; ++i) ways.push_back(level_way(i * pi / 6, farthest));
        return ways;
    }

    /// The first way that has room, best without touching others: at its full radius, then as thin as it must be, then
    /// giving up the bed.
    std::optional<Tube> single(int i, bool safe, const Vec3& wanted, int k, const std::vector<Tube>& tubes) const {
        const TreeNode& from = node(i);
        const double z = k * rules_.level;
        const std::vector<Vec3> ways = ways_of(from, wanted, farthest(i, z));
        std::optional<Tube> touching;
        for (int effort = 0; effort < 3 && (effort < 2 || !touching); ++effort)
            for (const Vec3& way : ways) {
                const Vec3 to(from.at.x() + way.x(), from.at.y() + way.y(), z);
                const double path = from.path + (to - from.at).norm();
                if (safe && effort < 2 && !to_bed(to, k, path)) continue;
                // What thins downward leans more on its outside.
                const double thinnest = thinnest_below(i, to);
                double radius = std::max({from.radius - 0.4 * rules_.level, rules_.radius(from.tips, path), thinnest});
                const double has = room(from, to, radius);
                if (has < 0) {
                    if (!effort || radius + has < std::max(0.8 * std::min(radius, rules_.thin_radius), thinnest))
                        continue;
                    radius += has;
                }
                Tube tube{{i}, to, radius};
                if (is_apart(tube, tubes)) return tube;
                if (!touching) touching = tube;
            }
        return touching;
    }

    /// Whoever touches merges as long as all can lean that far; else one gives way or gets thinner; else they are let
    /// through each other, to be united at the end: they mostly merge a level lower. The worst first.
    void settle(std::vector<Tube>& tubes, int k) {
        std::set<std::pair<int, int>> let;
        for (int round = 0; round < 400; ++round) {
            double worst = rules_.apart - 0.03;
            Tube *a = nullptr, *b = nullptr;
            for (size_t i = 0; i < tubes.size(); ++i)
                for (size_t j = i + 1; j < tubes.size(); ++j) {
                    if (tubes[i].above.empty() || tubes[j].above.empty()) continue;
                    if (level(tubes[i].to - tubes[j].to).norm() > 12) continue;
                    if (let.count({tubes[i].above[0], tubes[j].above[0]})) continue;
                    if (const double g = gap(tubes[i], tubes[j]); g < worst) worst = g, a = &tubes[i], b = &tubes[j];
                }
            if (!a) return;
            std::vector<int> all = a->above;
            all.insert(all.end(), b->above.begin(), b->above.end());
            if (auto one = joined(all, 1.5, k)) {
                *a = *one;
                b->above.clear();
            } else if (!gives_way(*b, tubes, k) && !gives_way(*a, tubes, k) && !thinned(*a, *b)) {
                ++forest_.crossing;
                let.insert({a->above[0], b->above[0]});
            }
        }
    }

    /// Another way for a branch that touches another.
    bool gives_way(Tube& mine, const std::vector<Tube>& tubes, int k) const {
        if (mine.above.size() != 1) return false;
        const TreeNode& from = node(mine.above[0]);
        const double far = farthest(mine.above[0], k * rules_.level);
        const bool safe = to_bed(from.at, k + 1, from.path);
        for (double share : {0.4, 0.8, 1.0, 0.0})
            for (int i = 0; i < 12; ++i) {
                Vec3 to = from.at + level_way(i * pi / 6, far * share);
                to.z() = k * rules_.level;
                if (safe && !to_bed(to, k, from.path + (to - from.at).norm())) continue;
                if (mine.radius < thinnest_below(mine.above[0], to) || room(from, to, mine.radius) < 0) continue;
                const Tube tube{mine.above, to, mine.radius};
                if (!is_apart(tube, tubes, &mine)) continue;
                mine = tube;
                return true;
            }
        return false;
    }

    bool thinned(Tube& a, Tube& b) const {
        double over = a.radius + b.radius + rules_.apart - level(a.to - b.to).norm();
        if (over <= 0) return false;
        for (Tube* t : {&a, &b}) {
            if (t->above.size() != 1) continue;
            const double least =
                std::max({0.5 * rules_.thin_radius, 0.7 * t->radius, thinnest_below(t->above[0], t->to)});
            const double now = std::max(std::min(least, t->radius), t->radius - over);
            over -= t->radius - now;
            t->radius = now;
        }
        return gap(a, b) >= rules_.apart - 0.03;
    }

    std::vector<int> nodes_of(const std::vector<Tube>& tubes) {
        std::vector<int> made;
        for (const Tube& tube : tubes) {
            if (tube.above.empty()) continue;
            TreeNode fresh{tube.to, tube.radius, 0, 0, tube.above, false, false};
            for (int i : tube.above) {
                const Vec3 e = node(i).at - tube.to;
                fresh.tips += node(i).tips;
                fresh.path =
                    std::max(fresh.path, node(i).path + std::hypot(std::min(lean_ * e.z(), level(e).norm()), e.z()));
            }
            made.push_back(int(forest_.nodes.size()));
            forest_.nodes.push_back(std::move(fresh));
        }
        return made;
    }

    void give_up(int i) {
        if (node(i).above.empty()) {
            node(i).dropped = true;
            ++forest_.without_foot;
        }
        for (int above : node(i).above) give_up(above);
    }

    /// Straight down to the gap above the part; given up where that is far, or nothing is below.
    void stand_on_part(int i) {
        const TreeNode from = node(i);
        double least = infinity;
        for (int k = 0; k < 9; ++k) {
            const Vec3 o = from.at + (k ? level_way(k * pi / 4, rules_.thin_radius) : Vec3(Vec3::Zero()));
            const ClosestPoint hit = part_.first_hit(o, Vec3(1e-6, 1e-6, -1), 1e-4);
            if (hit.triangle != ~0u && marks_.keeps_feet_off(hit.triangle)) return give_up(i);
            if (hit.triangle != ~0u) least = std::min(least, o.z() - hit.point.z());
        }
        const double down = least - rules_.gap;
        if (down > 3 * rules_.level + from.radius) return give_up(i); // infinite where nothing is below
        if (down < 0.05) {
            if (from.above.empty()) return give_up(i);
            node(i).foot_on_part = true;
            forest_.roots.push_back(i);
            return;
        }
        TreeNode foot{from.at - Vec3(0, 0, down),
                      std::min(from.radius, std::max(1.2 * rules_.thin_radius, 0.5 * from.radius)),
                      from.path + down,
                      from.tips,
                      {i},
                      true,
                      false};
        forest_.roots.push_back(int(forest_.nodes.size()));
        forest_.nodes.push_back(std::move(foot));
    }

    void widen_feet(const std::vector<int>& feet) {
        for (int i : feet) {
            TreeNode& n = node(i);
            const double wide = n.radius + rules_.foot_flare;
            if (part_.closest(n.at, wide + rules_.clearance).triangle != ~0u) continue;
            const bool free = std::all_of(feet.begin(), feet.end(), [&](int j) {
                return j == i || (node(j).at - n.at).norm() >= wide + rules_.foot_flare + node(j).radius + rules_.apart;
            });
            if (free) n.radius = wide;
        }
    }

    const DistanceTree& part_;
    const TreeField& field_;
    const TreeRules rules_;
    const FacetMarks& marks_;
    const double lean_;
    Forest forest_;
};

} // namespace

Forest grow_forest(const ContactPlan& plan, const DistanceTree& part, const TreeField& field, const TreeRules& rules,
                   const Task& task, const FacetMarks& marks) {
    return Grower(part, field, rules, marks).run(plan, task);
}

} // namespace lp

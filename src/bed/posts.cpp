#include "bed/posts.h"
#include "base/union_find.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

namespace lp {
namespace {

constexpr double least_height_mm = 0.4; // a lower post would be two layers of nothing

/// Connected groups of hanging facets.
std::vector<std::vector<uint32_t>> patches(const TriMesh& mesh, const std::vector<uint32_t>& hanging) {
    UnionFind joined(mesh.vertices.size());
    for (uint32_t i : hanging)
        for (int k = 1; k < 3; ++k) joined.join(mesh.triangles[i][0], mesh.triangles[i][k]);
    std::map<uint32_t, std::vector<uint32_t>> groups;
    for (uint32_t i : hanging) groups[joined.find(mesh.triangles[i][0])].push_back(i);
    std::vector<std::vector<uint32_t>> result;
    for (auto& [key, list] : groups) result.push_back(std::move(list));
    return result;
}

class PostMaker {
  public:
    PostMaker(const TriMesh& mesh, const SupportOptions& options, const Task& task, const SupportWishes& wishes)
        : mesh_(mesh), options_(options), task_(task), wishes_(wishes), tree_(mesh) {}

    Supports run() {
        auto groups = patches(mesh_, facets_to_carry(mesh_, options_.overhang_limit_deg, wishes_.marks));
        double done = 0;
        for (const auto& patch : groups) {
            if (task_.stopped()) break;
            task_.tell("Putting supports in", done++ / double(groups.size()));
            if (!support(patch)) ++result_.left_out;
        }
        put_by_hand();
        widen_feet();
        for (const Post& post : result_.posts) append(result_.mesh, post_mesh(post));
        return std::move(result_);
    }

  private:
    void put_by_hand() {
        for (const SupportChange& change : wishes_.changes) {
            if (!change.added || task_.stopped()) continue;
            const ClosestPoint near = tree_.closest(change.at, change_reach_mm);
            const size_t before = result_.posts.size();
            if (near.triangle != ~0u) try_post(near.point, true);
            if (result_.posts.size() == before) ++result_.not_put;
        }
    }

    /// Places on a patch where posts are wanted: grid points over its facets, then the middles of facets, largest
    /// first.
    bool support(const std::vector<uint32_t>& patch) {
        size_t before = result_.posts.size();
        for (uint32_t i : patch) {
            Box3 box;
            for (int k = 0; k < 3; ++k) box.extend(mesh_.corner(i, k));
            double s = options_.spacing_mm;
            for (double x = std::ceil(box.min().x() / s) * s; x <= box.max().x(); x += s)
                for (double y = std::ceil(box.min().y() / s) * s; y <= box.max().y(); y += s) {
                    Vec3 top;
                    if (above(i, x, y, top)) try_post(top);
                }
        }
        std::vector<uint32_t> order = patch;
        std::sort(order.begin(), order.end(),
                  [&](uint32_t a, uint32_t b) { return mesh_.area_vector(a).norm() > mesh_.area_vector(b).norm(); });
        if (order.size() > 200) order.resize(200);
        for (uint32_t i : order) {
            Vec3 middle = (mesh_.corner(i, 0) + mesh_.corner(i, 1) + mesh_.corner(i, 2)) / 3;
            // Along an edge of the grid a large patch can stay bare: fill where no post is near.
            if (!post_near(middle)) try_post(middle);
        }
        return result_.posts.size() > before || carried(patch);
    }

    bool above(uint32_t i, double x, double y, Vec3& top) const {
        const Vec3 &a = mesh_.corner(i, 0), &b = mesh_.corner(i, 1), &c = mesh_.corner(i, 2);
        double det = (b.x() - a.x()) * (c.y() - a.y()) - (c.x() - a.x()) * (b.y() - a.y());
        if (std::fabs(det) < 1e-12) return false;
        double u = ((x - a.x()) * (c.y() - a.y()) - (c.x() - a.x()) * (y - a.y())) / det;
        double v = ((b.x() - a.x()) * (y - a.y()) - (x - a.x()) * (b.y() - a.y())) / det;
        if (u < 0 || v < 0 || u + v > 1) return false;
        top = a + u * (b - a) + v * (c - a);
        return true;
    }

    bool post_near(const Vec3& p) const {
        return std::any_of(result_.posts.begin(), result_.posts.end(), [&](const Post& post) {
            return (post.tip.head<2>() - p.head<2>()).norm() < options_.spacing_mm * 0.75 &&
                   std::fabs(post.tip.z() - p.z()) < options_.spacing_mm;
        });
    }

    /// A patch too small for a post of its own may lie next to one that carries it.
    bool carried(const std::vector<uint32_t>& patch) const {
        return post_near((mesh_.corner(patch[0], 0) + mesh_.corner(patch[0], 1) + mesh_.corner(patch[0], 2)) / 3);
    }

    void try_post(const Vec3& top, bool by_hand = false) {
        const double gap = options_.gap_mm();
        if (!by_hand && wishes_.leaves_out(top, options_.spacing_mm / 2)) return;
        Post post{{top.x(), top.y(), 0},
                  {top.x(), top.y(), top.z() - gap},
                  options_.post_mm,
                  options_.tip_mm,
                  options_.neck_mm};
        ClosestPoint below = tree_.first_hit(top, -Vec3::UnitZ(), 1e-4);
        if (below.triangle != ~0u && below.point.z() > gap) {
            if (wishes_.marks.keeps_feet_off(below.triangle)) return;
            post.foot.z() = below.point.z() + gap;
            post.on_part = true;
        }
        if (post.tip.z() - post.foot.z() < least_height_mm) return;
        for (const Post& other : result_.posts)
            if ((other.foot.head<2>() - post.foot.head<2>()).norm() < (other.post_mm + post.post_mm) / 2 + 0.2 &&
                other.foot.z() < post.tip.z() && post.foot.z() < other.tip.z())
                return;
        double room = clearance(post);
        if (room < options_.tip_mm / 2) return;
        post.post_mm = std::clamp(2 * room, options_.tip_mm, options_.post_mm);
        if (!keeps_gap(post)) return;
        result_.posts.push_back(post);
        result_.carried.push_back(top);
    }

    /// Under a round or a slope the tip's rim, the taper or the shaft come nearer than its middle: the tip is lowered,
    /// the foot raised and the shaft thinned until the whole post keeps the gap. False when no post is left.
    bool keeps_gap(Post& post) const {
        constexpr int most_tries = 12;
        constexpr double slack_mm = 1e-3;
        const double gap = options_.gap_mm(), first_tip = post.tip.z();
        for (int k = 0; k < most_tries; ++k) {
            if (post.tip.z() - post.foot.z() < least_height_mm) return false;
            // A tip that had to go this far down carries nothing.
            if (first_tip - post.tip.z() > 2 * options_.tip_mm + gap) return false;
            ClosestPair near = closest_pair(DistanceTree(post_mesh(post)), tree_, gap + slack_mm);
            const double short_by = gap - near.distance_mm;
            if (!(short_by > slack_mm)) return true;
            const double height = post.tip.z() - post.foot.z(), share = (near.at_a.z() - post.foot.z()) / height;
            if (share > 0.55 || post.tip.z() - near.at_a.z() < neck(post) + slack_mm)
                post.tip.z() -= short_by + slack_mm;
            else if (post.on_part && near.at_a.z() - post.foot.z() < ankle(post) + slack_mm)
                post.foot.z() += short_by + slack_mm;
            else if (post.post_mm - 2 * short_by >= options_.tip_mm)
                post.post_mm -= 2 * short_by + slack_mm;
            else
                return false;
        }
        return false;
    }

    /// Heights over which a post narrows to its tip, and to a foot on the part: from there its walls lean by no more
    /// than 45 degrees.
    static double neck(const Post& post) { return std::min(0.45 * (post.tip.z() - post.foot.z()), post.neck_mm); }
    static double ankle(const Post& post) {
        return std::min(0.45 * (post.tip.z() - post.foot.z()),
                        std::max(post.neck_mm, (post.post_mm - post.tip_mm) / 2));
    }

    /// Feet on the bed as wide as the part and the other posts leave room for.
    void widen_feet() {
        constexpr double least_mm = 0.2, between_mm = 0.2;
        for (Post& post : result_.posts) {
            if (post.on_part || options_.foot_mm < least_mm) continue;
            const double radius = post.post_mm / 2, gap = options_.gap_mm();
            double wider = std::min(options_.foot_mm, 0.45 * post.tip.z());
            // The whole foot lies within the ball round its middle that touches its rim.
            wider = std::min(wider, tree_.closest(post.foot, radius + wider + gap).distance_mm - radius - gap);
            for (const Post& other : result_.posts)
                if (&other != &post && other.foot.z() < options_.foot_mm)
                    wider = std::min(
                        wider,
                        ((other.foot - post.foot).head<2>().norm() - radius - other.post_mm / 2 - between_mm) / 2);
            post.foot_mm = wider < least_mm ? 0 : wider;
        }
    }

    /// Half of the width a post may have along its shaft without coming nearer to the part than the gap.
    double clearance(const Post& post) const {
        const double want = options_.post_mm / 2 + options_.gap_mm();
        // Up there what is carried is nearer than what stands beside.
        const double top = std::min(post.tip.z() - post.foot.z(), std::max(options_.post_mm, options_.neck_mm));
        double room = want;
        double low = post.foot.z() + (post.on_part ? want : 0), high = post.tip.z() - top;
        for (int k = 0; k <= 8; ++k) {
            double z = low + (high - low) * k / 8.0;
            if (z > high || z < post.foot.z()) continue;
            room = std::min(room, tree_.closest({post.foot.x(), post.foot.y(), z}, want).distance_mm);
        }
        return std::min(room, want) - options_.gap_mm();
    }

    /// Twelve-sided shaft, tapered to the tip, and to the foot where it stands on the part.
    TriMesh post_mesh(const Post& post) const {
        constexpr int sides = 12;
        struct Ring {
            double z, radius;
        };
        std::vector<Ring> rings;
        if (post.on_part)
            rings = {{post.foot.z(), post.tip_mm / 2}, {post.foot.z() + ankle(post), post.post_mm / 2}};
        else if (post.foot_mm > 0)
            rings = {{post.foot.z(), post.post_mm / 2 + post.foot_mm},
                     {post.foot.z() + post.foot_mm, post.post_mm / 2}};
        else
            rings = {{post.foot.z(), post.post_mm / 2}};
        rings.push_back({post.tip.z() - neck(post), post.post_mm / 2});
        rings.push_back({post.tip.z(), post.tip_mm / 2});
        TriMesh mesh;
        for (const Ring& ring : rings)
            for (int k = 0; k < sides; ++k) {
                double angle = 2 * std::numbers::pi * k / sides;
                mesh.vertices.push_back({post.foot.x() + ring.radius * std::cos(angle),
                                         post.foot.y() + ring.radius * std::sin(angle), ring.z});
            }
        for (uint32_t r = 0; r + 1 < rings.size(); ++r)
            for (uint32_t k = 0; k < sides; ++k) {
                uint32_t a = r * sides + k, b = r * sides + (k + 1) % sides, c = a + sides, d = b + sides;
                mesh.triangles.push_back({a, b, d});
                mesh.triangles.push_back({a, d, c});
            }
        auto top = uint32_t((rings.size() - 1) * sides);
        for (uint32_t k = 1; k + 1 < sides; ++k) {
            mesh.triangles.push_back({0, k + 1, k});
            mesh.triangles.push_back({top, top + k, top + k + 1});
        }
        return mesh;
    }

    const TriMesh& mesh_;
    SupportOptions options_;
    const Task& task_;
    const SupportWishes& wishes_;
    DistanceTree tree_;
    Supports result_;
};

} // namespace

Supports make_posts(const TriMesh& posed, const SupportOptions& options, const Task& task,
                    const SupportWishes& wishes) {
    if (posed.empty()) return {};
    return PostMaker(posed, options, task, wishes).run();
}

} // namespace lp

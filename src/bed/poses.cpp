#include "bed/poses.h"
#include "base/tolerance.h"
#include "check/footing.h"
#include "check/overhang.h"
#include "check/wall_tree.h"
#include "mesh/convex_hull.h"
#include <algorithm>
#include <map>
#include <numbers>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double lies_cos = 0.9998; ///< facets this flat may lie on the bed
constexpr double nothing_below_mm = 0.02, hull_within_mm = 0.02;

/// A place on the surface that stands for a piece of it.
struct Sample {
    Vec3f at, normal;
    std::optional<FaceMark> mark;
};

/// What marked faces suffer, mm2.
struct Suffering {
    double seen = 0, mating = 0, kept_off = 0;
    /// `down`: cosine of the outward normal to straight down. A slope shows its layers the more the nearer it is to
    /// level, what hangs shows where it was carried, and what is level is smooth.
    void add(FaceMark mark, double area_mm2, double down, bool hangs) {
        const double rough = hangs ? 1 : std::fabs(down) > lies_cos ? 0 : std::fabs(down);
        if (mark == FaceMark::Seen) seen += area_mm2 * rough;
        if (mark == FaceMark::Mating) mating += area_mm2 * rough;
        if (hangs && (mark == FaceMark::Mating || mark == FaceMark::Never)) kept_off += area_mm2;
    }
    double cost(const PoseWeights& w) const {
        return (w.seen_cm2 * seen + w.mating_cm2 * mating + w.never_cm2 * kept_off) / 100;
    }
};

class Poser {
  public:
    Poser(const TriMesh& mesh, const PoseOptions& options)
        : mesh_(mesh), options_(options), origin_(bounding_box(mesh).center()), mass_(mass_properties(mesh)),
          single_(wall_mesh(mesh, origin_)), tree_(single_, std::vector<uint8_t>(mesh.triangles.size(), 0)),
          hull_(outer_hull(mesh.vertices, hull_within_mm)), outside_(outermost()),
          limit_(std::sin(radians(options.overhang_limit_deg))) {
        take_samples();
    }

    std::vector<Vec3> directions_down() const {
        std::vector<Vec3> downs;
        auto add = [&](const Vec3& d) {
            const bool known = std::any_of(downs.begin(), downs.end(),
                                           [&](const Vec3& e) { return e.dot(d) > std::cos(radians(2.0)); });
            if (!known) downs.push_back(d);
        };
        for (const Vec3& d : main_directions(mesh_, 0.004, 60)) add(d);
        for (const Vec3& d : main_directions(hull_, 0, 100)) add(d);
        const size_t spread = options_.candidates > downs.size() ? options_.candidates - downs.size() : 0;
        for (const Vec3& d : even_directions(spread)) downs.push_back(d);
        return downs;
    }

    /// By every nth place of the sample alone: enough to tell which are worth a closer look.
    double rough_cost(const Vec3& down, size_t every) const {
        const Vec3f d = down.cast<float>();
        const Transform turn = turned_up(-down);
        const TriMesh outside = transformed(outside_, turn);
        const Footing standing = check_footing(outside, turn * mass_.centre, options_.bed_mm);
        const auto floor = float((turn * origin_).z() - bounding_box(outside).min().z()); // below the origin
        double support = 0, hanging = 0, lying = 0;
        const double each_mm2 = per_sample_ * double(every);
        Suffering suffering;
        for (size_t i = 0; i < samples_.size(); i += every) {
            const Sample& s = samples_[i];
            const float c = s.normal.dot(d), room = floor - s.at.dot(d);
            if (c > lies_cos && room < nothing_below_mm) {
                lying += each_mm2;
                continue;
            }
            const bool hangs = c > limit_ && room >= nothing_below_mm;
            if (s.mark) suffering.add(*s.mark, each_mm2, c, hangs);
            if (!hangs) continue;
            hanging += each_mm2;
            const auto hit = tree_.ray(s.at, d, 1e-3f, room);
            support += each_mm2 * double(c) * double(hit.facet == WallTree::none ? room : hit.t);
        }
        return cost(support, hanging, standing.height_mm, lying) + refusal(standing.tips_over, standing.fits_bed) +
               suffering.cost(options_.weights) + demands(down);
    }

    /// Facet by facet, as the inspection of the part would tell.
    Pose measured(const Vec3& down) const {
        Pose pose;
        pose.up = -down;
        const Transform turn = turned_up(pose.up);
        const TriMesh posed = transformed(mesh_, turn);
        const Box3 box = bounding_box(posed);
        const Overhang overhang = find_overhang(posed, options_.overhang_limit_deg);
        const Footing standing = check_footing(posed, turn * mass_.centre, options_.bed_mm);
        pose.overhang_area_mm2 = overhang.area_mm2;
        pose.height_mm = box.sizes().z();
        pose.footprint_mm2 = standing.contact_area_mm2;
        pose.tips_over = standing.tips_over;
        pose.fits_bed = standing.fits_bed;
        const Vec3f d = down.cast<float>();
        // Of very many facets every nth is asked how far it stands off; the level area counts of all.
        constexpr size_t enough = 8192;
        const size_t every = std::max<size_t>(1, overhang.triangles.size() / enough);
        double level = 0, asked = 0;
        for (size_t k = 0; k < overhang.triangles.size(); ++k) {
            const uint32_t i = overhang.triangles[k];
            const double flat = -posed.area_vector(i).z() / 2;
            level += flat;
            if (k % every != 0) continue;
            asked += flat;
            const Vec3 middle = (posed.corner(i, 0) + posed.corner(i, 1) + posed.corner(i, 2)) / 3;
            const double room = middle.z() - box.min().z();
            const auto hit = tree_.ray(single_.middle(i), d, 1e-3f, float(room));
            pose.support_volume_mm3 += flat * (hit.facet == WallTree::none ? room : double(hit.t));
        }
        if (asked > 0) pose.support_volume_mm3 *= level / asked;
        const Suffering suffering = suffered(posed, overhang.triangles, box.min().z());
        pose.rough_marked_mm2 = suffering.seen + suffering.mating;
        pose.kept_off_mm2 = suffering.kept_off;
        pose.score = cost(pose.support_volume_mm3, pose.overhang_area_mm2, pose.height_mm, pose.footprint_mm2) +
                     refusal(pose.tips_over, pose.fits_bed) + suffering.cost(options_.weights) + demands(down);
        pose.lying_bores = lying_bores(down);
        pose.joints_hang_mm2 = joints_hang_mm2(down);
        pose.load_across = load_across(down);
        return pose;
    }

  private:
    Suffering suffered(const TriMesh& posed, const std::vector<uint32_t>& hanging, double floor) const {
        Suffering all;
        if (options_.marks.of.empty()) return all;
        std::vector<uint8_t> hangs(posed.triangles.size(), 0);
        for (uint32_t i : hanging) hangs[i] = 1;
        for (size_t i = 0; i < posed.triangles.size(); ++i) {
            const auto mark = options_.marks.at(i);
            const Vec3 area = posed.area_vector(i);
            const double size = area.norm();
            if (!mark || !(size > 0)) continue;
            const double down = -area.z() / size;
            const double top = std::max({posed.corner(i, 0).z(), posed.corner(i, 1).z(), posed.corner(i, 2).z()});
            if (down > lies_cos && top - floor < nothing_below_mm) continue;
            all.add(*mark, size / 2, down, hangs[i]);
        }
        return all;
    }

    /// The hull; of one with many corners (a round part has tens of thousands) those farthest out along many ways.
    TriMesh outermost() const {
        constexpr size_t enough_corners = 2000, ways = 1500;
        if (hull_.empty()) return mesh_;
        if (hull_.vertices.size() <= enough_corners) return hull_;
        std::vector<Vec3> all = even_directions(ways), far(ways);
        tbb::parallel_for(size_t(0), ways, [&](size_t i) {
            far[i] = *std::max_element(hull_.vertices.begin(), hull_.vertices.end(),
                                       [&](const Vec3& a, const Vec3& b) { return a.dot(all[i]) < b.dot(all[i]); });
        });
        TriMesh rough = convex_hull(far);
        return rough.empty() ? hull_ : rough;
    }

    double cost(double support_mm3, double hanging_mm2, double height_mm, double lying_mm2) const {
        const PoseWeights& w = options_.weights;
        return w.support_cm3 * support_mm3 / 1000 + w.overhang_cm2 * hanging_mm2 / 100 + w.height_cm * height_mm / 10 +
               w.no_footing * std::max(0.0, 1 - lying_mm2 / 100);
    }

    size_t lying_bores(const Vec3& down) const {
        static const double level = std::sin(radians(30.0));
        return size_t(std::count_if(options_.bores.begin(), options_.bores.end(), [&](const Vec3& axis) {
            return std::fabs(axis.dot(down)) <= level * axis.norm();
        }));
    }
    double joints_hang_mm2(const Vec3& down) const {
        static const double slack = radians(1.0); // joints are drawn up to the limit itself, and of facets
        const double steepest = std::sin(std::min(std::asin(std::min(limit_, 1.0)) + slack, std::numbers::pi / 2));
        double hanging = 0;
        for (const Vec3& area : options_.joints)
            if (area.dot(down) > steepest * area.norm()) hanging += area.norm();
        return hanging;
    }
    double load_across(const Vec3& down) const {
        return options_.load ? std::fabs(options_.load->normalized().dot(down)) : 0;
    }
    /// What joints and loads want.
    double demands(const Vec3& down) const {
        return options_.weights.lying_bore * double(lying_bores(down)) +
               options_.weights.joint_cm2 * joints_hang_mm2(down) / 100 +
               options_.weights.load_across * load_across(down);
    }

    double refusal(bool tips_over, bool fits_bed) const {
        return (tips_over ? options_.weights.tips : 0) + (fits_bed ? 0 : options_.weights.too_large);
    }

    /// Normals that much area shares (more than `share` of it), the largest first.
    static std::vector<Vec3> main_directions(const TriMesh& mesh, double share, size_t most) {
        std::map<std::array<int, 3>, Vec3> bins;
        double all = 0;
        for (size_t i = 0; i < mesh.triangles.size(); ++i) {
            const Vec3 area = mesh.area_vector(i);
            const double size = area.norm();
            if (!(size > 0)) continue;
            all += size;
            std::array<int, 3> bin{};
            for (int k = 0; k < 3; ++k) bin[size_t(k)] = int(std::lround(area[k] / size * 60));
            bins.try_emplace(bin, Vec3::Zero()).first->second += area;
        }
        std::vector<Vec3> sums;
        for (const auto& [bin, sum] : bins)
            if (sum.norm() > share * all) sums.push_back(sum);
        std::sort(sums.begin(), sums.end(),
                  [](const Vec3& a, const Vec3& b) { return a.squaredNorm() > b.squaredNorm(); });
        if (sums.size() > most) sums.resize(most);
        for (Vec3& sum : sums) sum.normalize();
        return sums;
    }

    /// Places of equal area along the facets in the order of the tree, which spreads them over the surface.
    void take_samples() {
        per_sample_ = mass_.area_mm2 / double(options_.samples);
        double next = per_sample_ / 2, passed = 0;
        for (uint32_t f : tree_.order) {
            const double area = mesh_.area_vector(f).norm() / 2, begin = passed;
            for (passed += area; next < passed && samples_.size() < options_.samples; next += per_sample_) {
                // Along the longest way through the facet, so that a large facet has its places spread.
                const double t = std::sqrt((next - begin) / area);
                const double golden = std::fmod(double(samples_.size()) * 0.6180339887, 1.0);
                const Vec3 &a = mesh_.corner(f, 0), &b = mesh_.corner(f, 1), &c = mesh_.corner(f, 2);
                const Vec3 at = a + t * ((b - a) + golden * (c - b));
                samples_.push_back({(at - origin_).cast<float>(), tree_.normal[f], options_.marks.at(f)});
            }
        }
    }

    const TriMesh& mesh_;
    const PoseOptions& options_;
    const Vec3 origin_;
    const MassProperties mass_;
    const WallMesh single_;
    const WallTree tree_;
    const TriMesh hull_, outside_; ///< the hull; and what is enough of it for a rough look
    const double limit_;
    std::vector<Sample> samples_;
    double per_sample_ = 0; ///< mm2
};

} // namespace

static bool near_one(const std::vector<Vec3>& ways, const Vec3& way, double within_deg) {
    const double least = std::cos(radians(within_deg));
    return std::any_of(ways.begin(), ways.end(), [&](const Vec3& w) { return w.dot(way) > least; });
}

Expected<std::vector<Pose>> best_poses(const TriMesh& mesh, const PoseOptions& options, const Task& task) {
    if (mesh.empty()) return problem(ProblemCode::Geometry, "There is no facet to lay on a bed.");
    const Poser poser(mesh, options);
    const std::vector<Vec3> downs = poser.directions_down();
    // All by an eighth of the places, the better ones by all of them, the best by every facet: the first look costs
    // most of the time, and hardly ever passes over what the second would have chosen.
    std::vector<std::pair<double, size_t>> rough(downs.size());
    for (size_t i = 0; i < downs.size(); ++i) rough[i].second = i;
    auto look_at = [&](size_t first_few, size_t every) {
        tbb::parallel_for(size_t(0), first_few, [&](size_t i) {
            if (!task.stopped()) rough[i].first = poser.rough_cost(downs[rough[i].second], every);
        });
        std::sort(rough.begin(), rough.begin() + std::ptrdiff_t(first_few));
    };
    look_at(downs.size(), 8);
    look_at(std::min(downs.size(), std::max<size_t>(downs.size() / 6, 16 * options.best)), 1);
    if (task.stopped()) return cancelled();
    std::vector<Vec3> apart; // one of each way, so that five ways are found among few
    for (const auto& [cost, which] : rough) {
        if (apart.size() >= std::max<size_t>(12, 2 * options.best)) break;
        if (!near_one(apart, downs[which], 3)) apart.push_back(downs[which]);
    }
    std::vector<Pose> poses(apart.size());
    tbb::parallel_for(size_t(0), apart.size(), [&](size_t i) {
        if (!task.stopped()) poses[i] = poser.measured(apart[i]);
    });
    if (task.stopped()) return cancelled();
    std::stable_sort(poses.begin(), poses.end(), [](const Pose& a, const Pose& b) { return a.score < b.score; });
    std::vector<Pose> best;
    for (const Pose& pose : poses) {
        if (best.size() == options.best) break;
        const bool known = std::any_of(best.begin(), best.end(),
                                       [&](const Pose& b) { return b.up.dot(pose.up) > std::cos(radians(8.0)); });
        if (!known) best.push_back(pose);
    }
    if (options.lies_up) {
        const Vec3 up = options.lies_up->normalized();
        auto same = [&](const Pose& p) { return p.up.dot(up) > std::cos(radians(2.0)); };
        auto found = std::find_if(best.begin(), best.end(), same);
        if (found == best.end()) found = best.insert(best.end(), poser.measured(-up));
        found->as_it_lies = true;
    }
    return best;
}

} // namespace lp

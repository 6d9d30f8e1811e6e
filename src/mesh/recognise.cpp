#include "mesh/recognise.h"
#include "base/tolerance.h"
#include "base/union_find.h"
#include "mesh/topology.h"
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <set>
#include <unordered_map>

namespace lp {
namespace {

/// Coplanar facets.
struct Strip {
    std::vector<uint32_t> facets;
    Vec3 normal = Vec3::Zero(); ///< unit
    Vec3 middle = Vec3::Zero();
    double area_mm2 = 0;
    struct Beside {
        uint32_t strip;
        double edge_mm; ///< how much of an edge they share
    };
    std::vector<Beside> beside; ///< across edges that may be within one round; longest first
};

/// A surface and how well corners and middles of facets lie on it.
struct Fit {
    Feature::Kind kind = Feature::Kind::Plane;
    Vec3 axis = Vec3::UnitZ(), at = Vec3::Zero();
    double radius = 0, half_angle = 0; ///< radians
    double corners_off = std::numeric_limits<double>::infinity();
    double middles_off = std::numeric_limits<double>::infinity();
    bool inside = false;

    double off(const Vec3& p) const {
        const Vec3 d = p - at;
        switch (kind) {
        case Feature::Kind::Cylinder:
            return std::fabs((d - d.dot(axis) * axis).norm() - radius);
        case Feature::Kind::Sphere:
            return std::fabs(d.norm() - radius);
        case Feature::Kind::Cone: {
            const double h = d.dot(axis), r = (d - h * axis).norm();
            return std::fabs(r * std::cos(half_angle) - h * std::sin(half_angle));
        }
        default:
            return std::fabs(d.dot(axis));
        }
    }
    /// Outward of the round, away from its axis or centre.
    Vec3 away(const Vec3& p) const {
        const Vec3 d = p - at;
        if (kind == Feature::Kind::Sphere) return d.stableNormalized();
        const double h = d.dot(axis);
        const Vec3 side = (d - h * axis).stableNormalized();
        if (kind == Feature::Kind::Cylinder) return side;
        return side * std::cos(half_angle) - axis * std::sin(half_angle);
    }
};

class Recogniser {
  public:
    Recogniser(const TriMesh& mesh, const RecogniseOptions& options, const Task& task)
        : mesh_(mesh), options_(options), task_(task) {}

    Expected<std::vector<Feature>> run() {
        make_strips();
        if (task_.stopped()) return cancelled();
        std::vector<uint32_t> order(strips_.size());
        for (uint32_t i = 0; i < order.size(); ++i) order[i] = i;
        std::stable_sort(order.begin(), order.end(),
                         [&](uint32_t a, uint32_t b) { return strips_[a].area_mm2 > strips_[b].area_mm2; });
        taken_.assign(strips_.size(), 0);
        std::vector<Feature> features;
        for (size_t k = 0; k < order.size(); ++k) {
            if (k % 4096 == 0) task_.tell("Recognising", double(k) / double(order.size()));
            if (k % 64 == 0 && task_.stopped()) return cancelled();
            if (taken_[order[k]]) continue;
            if (auto region = grown_from(order[k])) features.push_back(feature_of(region->first, region->second));
        }
        for (const Strip& strip : strips_)
            if (!taken_[size_t(&strip - strips_.data())] && strip.area_mm2 >= options_.least_plane_mm2)
                features.push_back(plane_of(strip));
        std::stable_sort(features.begin(), features.end(),
                         [](const Feature& a, const Feature& b) { return a.area_mm2 > b.area_mm2; });
        return features;
    }

  private:
    void make_strips() {
        const Topology topology = build_topology(mesh_);
        const double flat = std::cos(radians(options_.coplanar_deg)),
                     round = std::cos(radians(options_.largest_step_deg));
        std::vector<Vec3> normal(mesh_.triangles.size());
        for (size_t i = 0; i < normal.size(); ++i) normal[i] = mesh_.area_vector(i).stableNormalized();
        UnionFind groups(normal.size());
        auto pair_of = [&](const MeshEdge& e) {
            return std::pair(topology.half_edges[e.first].triangle, topology.half_edges[e.first + 1].triangle);
        };
        for (const MeshEdge& e : topology.edges)
            if (e.count == 2)
                if (const auto [a, b] = pair_of(e); normal[a].dot(normal[b]) > flat) groups.join(a, b);
        std::unordered_map<size_t, uint32_t> number;
        std::vector<uint32_t> strip_of(normal.size());
        for (uint32_t i = 0; i < normal.size(); ++i) {
            const auto [at, fresh] = number.try_emplace(groups.find(i), uint32_t(strips_.size()));
            if (fresh) strips_.emplace_back();
            Strip& strip = strips_[strip_of[i] = at->second];
            const double area = mesh_.area_vector(i).norm() / 2;
            strip.facets.push_back(i);
            strip.normal += area * normal[i];
            strip.middle += area * (mesh_.corner(i, 0) + mesh_.corner(i, 1) + mesh_.corner(i, 2)) / 3;
            strip.area_mm2 += area;
        }
        for (Strip& strip : strips_) {
            if (strip.area_mm2 > 0) strip.middle /= strip.area_mm2;
            strip.normal.stableNormalize();
        }
        for (const MeshEdge& e : topology.edges) {
            if (e.count != 2) continue;
            const auto [a, b] = pair_of(e);
            const uint32_t s = strip_of[a], t = strip_of[b];
            if (s == t || strips_[s].normal.dot(strips_[t].normal) < round) continue;
            const double length = (mesh_.vertices[e.a] - mesh_.vertices[e.b]).norm();
            for (const auto& [from, to] : {std::pair(s, t), std::pair(t, s)}) {
                auto& beside = strips_[from].beside;
                auto known =
                    std::find_if(beside.begin(), beside.end(), [to = to](const auto& x) { return x.strip == to; });
                if (known == beside.end())
                    beside.push_back({to, length});
                else
                    known->edge_mm += length;
            }
        }
        for (Strip& strip : strips_)
            std::sort(strip.beside.begin(), strip.beside.end(),
                      [](const auto& a, const auto& b) { return a.edge_mm > b.edge_mm; });
    }

    std::vector<Vec3> corners_of(const std::vector<uint32_t>& region, size_t most = 4000) const {
        std::set<uint32_t> corners;
        for (uint32_t s : region) {
            for (uint32_t f : strips_[s].facets)
                for (int k = 0; k < 3; ++k) corners.insert(mesh_.triangles[f][size_t(k)]);
            if (corners.size() > most) break;
        }
        std::vector<Vec3> places;
        for (uint32_t c : corners) places.push_back(mesh_.vertices[c]);
        return places;
    }

    void measure(Fit& fit, const std::vector<uint32_t>& region, const std::vector<Vec3>& corners) const {
        fit.corners_off = fit.middles_off = 0;
        for (const Vec3& p : corners) fit.corners_off = std::max(fit.corners_off, fit.off(p));
        double outward = 0;
        for (uint32_t s : region) {
            fit.middles_off = std::max(fit.middles_off, fit.off(strips_[s].middle));
            outward += strips_[s].area_mm2 * strips_[s].normal.dot(fit.away(strips_[s].middle));
        }
        fit.inside = outward < 0;
    }

    /// The direction that the normals' tips lie level about, and how high they stand above the middle along it.
    std::pair<Vec3, double> level_direction(const std::vector<uint32_t>& region, bool about_middle) const {
        Vec3 mean = Vec3::Zero();
        double all = 0;
        for (uint32_t s : region) mean += strips_[s].area_mm2 * strips_[s].normal, all += strips_[s].area_mm2;
        mean /= std::max(all, 1e-300);
        const Vec3 from = about_middle ? mean : Vec3(0, 0, 0);
        Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
        for (uint32_t s : region) {
            const Vec3 d = strips_[s].normal - from;
            spread += strips_[s].area_mm2 * d * d.transpose();
        }
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solved(spread);
        const Vec3 axis = solved.eigenvectors().col(0);
        return {axis, mean.dot(axis)};
    }

    std::optional<Fit> cylinder(const std::vector<uint32_t>& region, const std::vector<Vec3>& corners) const {
        Fit fit;
        fit.kind = Feature::Kind::Cylinder;
        fit.axis = level_direction(region, false).first;
        const Vec3 u = fit.axis.unitOrthogonal(), v = fit.axis.cross(u), from = corners.front();
        Eigen::MatrixXd m(Eigen::Index(corners.size()), 3);
        Eigen::VectorXd rhs(Eigen::Index(corners.size()));
        for (Eigen::Index i = 0; i < m.rows(); ++i) {
            const Vec3 d = corners[size_t(i)] - from;
            const double x = d.dot(u), y = d.dot(v);
            m.row(i) << x, y, 1;
            rhs[i] = x * x + y * y;
        }
        const Vec3 solved = m.colPivHouseholderQr().solve(rhs);
        const double square = solved[2] + (solved[0] * solved[0] + solved[1] * solved[1]) / 4;
        if (!(square > 1e-6) || !solved.allFinite()) return std::nullopt;
        fit.radius = std::sqrt(square);
        fit.at = from + solved[0] / 2 * u + solved[1] / 2 * v;
        measure(fit, region, corners);
        return fit;
    }

    std::optional<Fit> sphere(const std::vector<uint32_t>& region, const std::vector<Vec3>& corners) const {
        if (corners.size() < 5) return std::nullopt;
        Fit fit;
        fit.kind = Feature::Kind::Sphere;
        const Vec3 from = corners.front();
        Eigen::MatrixXd m(Eigen::Index(corners.size()), 4);
        Eigen::VectorXd rhs(Eigen::Index(corners.size()));
        for (Eigen::Index i = 0; i < m.rows(); ++i) {
            const Vec3 d = corners[size_t(i)] - from;
            m.row(i) << d.x(), d.y(), d.z(), 1;
            rhs[i] = d.squaredNorm();
        }
        const Eigen::Vector4d solved = m.colPivHouseholderQr().solve(rhs);
        const Vec3 centre = solved.head<3>() / 2;
        const double square = solved[3] + centre.squaredNorm();
        if (!(square > 1e-6) || !solved.allFinite()) return std::nullopt;
        fit.radius = std::sqrt(square);
        fit.at = from + centre;
        measure(fit, region, corners);
        return fit;
    }

    /// Facets that are no pieces between two rulings do not pass through the point: by least squares of the corners,
    /// six unknowns, a few steps of Gauss and Newton.
    static void settle(Fit& fit, const std::vector<Vec3>& corners) {
        const auto n = Eigen::Index(corners.size());
        auto moved = [&](const Eigen::Matrix<double, 6, 1>& by) {
            Fit next = fit;
            const Vec3 u = fit.axis.unitOrthogonal(), v = fit.axis.cross(u);
            next.at += by.head<3>();
            next.axis = (fit.axis + by[3] * u + by[4] * v).normalized();
            next.half_angle += by[5];
            return next;
        };
        auto residuals = [&](const Fit& f) {
            Eigen::VectorXd r(n);
            for (Eigen::Index i = 0; i < n; ++i) {
                const Vec3 d = corners[size_t(i)] - f.at;
                const double h = d.dot(f.axis);
                r[i] = (d - h * f.axis).norm() * std::cos(f.half_angle) - h * std::sin(f.half_angle);
            }
            return r;
        };
        double off = residuals(fit).norm();
        for (int step = 0; step < 12 && off > 1e-9; ++step) {
            const Eigen::VectorXd now = residuals(fit);
            Eigen::Matrix<double, Eigen::Dynamic, 6> slope(n, 6);
            constexpr double small = 1e-5;
            for (int k = 0; k < 6; ++k) {
                Eigen::Matrix<double, 6, 1> by = Eigen::Matrix<double, 6, 1>::Zero();
                by[k] = small;
                slope.col(k) = (residuals(moved(by)) - now) / small;
            }
            const Eigen::Matrix<double, 6, 1> by = slope.colPivHouseholderQr().solve(-now);
            if (!by.allFinite()) return;
            const Fit next = moved(by);
            const double left = residuals(next).norm();
            if (!(left < off)) return;
            fit = next;
            off = left;
        }
    }

    std::optional<Fit> cone(const std::vector<uint32_t>& region, const std::vector<Vec3>& corners) const {
        Fit fit;
        fit.kind = Feature::Kind::Cone;
        fit.axis = level_direction(region, true).first;
        // Planes of facets between two rulings pass through the point.
        Eigen::Matrix3d m = Eigen::Matrix3d::Zero();
        Vec3 rhs = Vec3::Zero();
        for (uint32_t s : region) {
            const Vec3& n = strips_[s].normal;
            m += n * n.transpose();
            rhs += n * n.dot(strips_[s].middle);
        }
        fit.at = m.colPivHouseholderQr().solve(rhs);
        if (!fit.at.allFinite()) return std::nullopt;
        double rh = 0, hh = 0;
        Vec3 mean = Vec3::Zero();
        for (const Vec3& p : corners) mean += (p - fit.at) / double(corners.size());
        if (mean.dot(fit.axis) < 0) fit.axis = -fit.axis;
        for (const Vec3& p : corners) {
            const Vec3 d = p - fit.at;
            const double h = d.dot(fit.axis);
            rh += (d - h * fit.axis).norm() * h;
            hh += h * h;
        }
        fit.half_angle = std::atan2(rh, hh);
        if (corners.size() > 6) settle(fit, corners);
        static const double narrow = radians(1.0), wide = radians(88.0);
        if (!(fit.half_angle > narrow && fit.half_angle < wide)) return std::nullopt;
        measure(fit, region, corners);
        return fit;
    }

    bool holds(const std::optional<Fit>& fit) const { return fit && fit->corners_off <= options_.within_mm; }

    /// What strips lie on, if they lie on one round: the simplest of those whose middles lie nearest.
    std::optional<Fit> fit_of(const std::vector<uint32_t>& region) const {
        const std::vector<Vec3> corners = corners_of(region);
        if (corners.size() < 4) return std::nullopt;
        std::optional<Fit> best;
        for (const auto& fit : {cylinder(region, corners), sphere(region, corners), cone(region, corners)})
            if (holds(fit) && (!best || fit->middles_off < 0.8 * best->middles_off)) best = fit;
        if (!best) return best;
        // A round's facets turn as they go: flat ones that only share corners with it do not.
        for (uint32_t s : region)
            if (!faces_as(*best, strips_[s])) return std::nullopt;
        return best;
    }

    bool faces_as(const Fit& fit, const Strip& strip) const {
        static const double turned = std::cos(radians(14.0));
        return strip.normal.dot(fit.away(strip.middle)) * (fit.inside ? -1 : 1) > turned;
    }
    bool lies_on(const Fit& fit, const Strip& strip) const {
        if (!faces_as(fit, strip)) return false;
        for (uint32_t f : strip.facets)
            for (int k = 0; k < 3; ++k)
                if (fit.off(mesh_.corner(f, k)) > options_.within_mm) return false;
        return true;
    }

    std::vector<uint32_t> grow(const Fit& fit, uint32_t seed) const {
        std::vector<uint32_t> region{seed};
        std::set<uint32_t> seen{seed};
        for (size_t i = 0; i < region.size(); ++i)
            for (const Strip::Beside& next : strips_[region[i]].beside) {
                if (taken_[next.strip] || !seen.insert(next.strip).second) continue;
                if (lies_on(fit, strips_[next.strip])) region.push_back(next.strip);
            }
        return region;
    }

    std::optional<std::pair<Fit, std::vector<uint32_t>>> grown_from(uint32_t seed) {
        std::vector<uint32_t> free;
        for (const Strip::Beside& next : strips_[seed].beside)
            if (!taken_[next.strip]) free.push_back(next.strip);
        if (free.size() < 2) return std::nullopt;
        std::vector<std::vector<uint32_t>> seeds{{seed, free[0], free[1]}};
        if (free.size() > 2) {
            free.resize(std::min<size_t>(free.size(), 6));
            seeds.push_back({seed});
            seeds.back().insert(seeds.back().end(), free.begin(), free.end());
        }
        // Of triangles, two rings: three of them have five corners, and a cone six numbers.
        std::vector<uint32_t> rings{seed};
        constexpr size_t enough = 14;
        for (size_t i = 0; i < rings.size() && rings.size() < enough; ++i)
            for (const Strip::Beside& next : strips_[rings[i]].beside)
                if (!taken_[next.strip] && rings.size() < enough &&
                    std::find(rings.begin(), rings.end(), next.strip) == rings.end())
                    rings.push_back(next.strip);
        seeds.push_back(std::move(rings));
        for (const auto& few : seeds) {
            auto fit = fit_of(few);
            if (!fit) continue;
            std::vector<uint32_t> region = grow(*fit, seed);
            for (int again = 0; again < 3; ++again) {
                const auto better = fit_of(region);
                if (!better) break;
                const auto more = grow(*better, seed);
                fit = better;
                if (more.size() <= region.size()) break;
                region = more;
            }
            if (region.size() < least_strips(fit->kind) || turn_of(region) < least_turn_deg) continue;
            const auto last = fit_of(region);
            if (!last) continue;
            for (uint32_t s : region) taken_[s] = 1;
            return std::pair(*last, region);
        }
        return std::nullopt;
    }

    static size_t least_strips(Feature::Kind kind) { return kind == Feature::Kind::Sphere ? 10 : 4; }
    static constexpr double least_turn_deg = 25;
    /// The widest angle between normals of a region's strips and its first one.
    double turn_of(const std::vector<uint32_t>& region) const {
        double least = 1;
        for (uint32_t s : region) least = std::min(least, strips_[region[0]].normal.dot(strips_[s].normal));
        return degrees(std::acos(std::clamp(least, -1.0, 1.0)));
    }

    Feature feature_of(const Fit& fit, const std::vector<uint32_t>& region) const {
        Feature f;
        f.kind = fit.kind;
        f.axis = fit.axis;
        f.at = fit.at;
        f.inside = fit.inside;
        f.diameter_mm = 2 * fit.radius;
        f.half_angle_deg = degrees(fit.half_angle);
        double low = std::numeric_limits<double>::infinity(), high = -low, widest = 0;
        for (uint32_t s : region) {
            f.area_mm2 += strips_[s].area_mm2;
            for (uint32_t t : strips_[s].facets) {
                f.facets.push_back(t);
                for (int k = 0; k < 3; ++k) {
                    const Vec3& p = mesh_.corner(t, k);
                    f.largest_deviation_mm = std::max(f.largest_deviation_mm, fit.off(p));
                    const double h = (p - fit.at).dot(fit.axis);
                    low = std::min(low, h);
                    high = std::max(high, h);
                    widest = std::max(widest, (p - fit.at - h * fit.axis).norm());
                }
            }
        }
        if (fit.kind == Feature::Kind::Cylinder) {
            f.at += (low + high) / 2 * f.axis;
            int most = 0; // the way its longest component points is up: the same mesh gives the same axis
            f.axis.cwiseAbs().maxCoeff(&most);
            if (f.axis[most] < 0) f.axis = -f.axis;
        }
        if (fit.kind == Feature::Kind::Cone) f.diameter_mm = 2 * widest;
        std::sort(f.facets.begin(), f.facets.end());
        return f;
    }

    Feature plane_of(const Strip& strip) const {
        Feature f;
        f.axis = strip.normal;
        f.at = strip.middle;
        f.area_mm2 = strip.area_mm2;
        f.facets = strip.facets;
        for (uint32_t t : strip.facets)
            for (int k = 0; k < 3; ++k)
                f.largest_deviation_mm =
                    std::max(f.largest_deviation_mm, std::fabs((mesh_.corner(t, k) - f.at).dot(f.axis)));
        return f;
    }

    const TriMesh& mesh_;
    const RecogniseOptions& options_;
    const Task& task_;
    std::vector<Strip> strips_;
    std::vector<uint8_t> taken_;
};

} // namespace

const char* word_of(Feature::Kind kind) {
    static constexpr const char* words[] = {"plane", "cylinder", "cone", "sphere"};
    return words[size_t(kind)];
}

Expected<std::vector<Feature>> recognise(const TriMesh& mesh, const RecogniseOptions& options, const Task& task) {
    if (mesh.empty()) return problem(ProblemCode::Geometry, "There is no facet in it.", "Choose another file.");
    return Recogniser(mesh, options, task).run();
}

} // namespace lp

#include "layers/hatching.h"
#include "layers/region_tools.h"
#include <algorithm>
#include <numbers>

namespace lp {
namespace {

constexpr double pi = std::numbers::pi;

/// The rows of one region in the frame that is turned so that they run along x.
class Rows {
  public:
    Rows(const Region& region, const HatchOptions& options)
        : cos_(std::cos(options.angle_rad)), sin_(std::sin(options.angle_rad)), gap_(options.spacing_mm),
          joined_(options.joined) {
        std::vector<Polyline> loops;
        double low = 1e18, high = -1e18;
        for (const ClipperLib::Path& path : region) {
            Polyline& loop = loops.emplace_back();
            for (const auto& q : path) {
                const Vec2 p = place_of(q);
                loop.push_back({cos_ * p.x() + sin_ * p.y(), -sin_ * p.x() + cos_ * p.y()});
                low = std::min(low, loop.back().y());
                high = std::max(high, loop.back().y());
            }
        }
        if (low > high || !(gap_ > 0)) return;
        int rows = 0;
        if (options.spacing == RowSpacing::Fitted) {
            rows = std::max(1, int(std::lround((high - low) / gap_))) + 1;
            const double edge = std::min(0.002, (high - low) / 4);
            y0_ = low + edge;
            gap_ = (high - low - 2 * edge) / std::max(1, rows - 1);
            if (gap_ <= 1e-9) rows = 1, gap_ = 1;
        } else {
            y0_ = std::ceil(low / gap_) * gap_;
            rows = int(std::floor((high - y0_) / gap_)) + 1;
        }
        if (rows > 0) cut(loops, rows);
    }

    std::vector<Polyline> lines() {
        std::vector<Polyline> result;
        for (int row = 0; row < int(ends_.size()); ++row)
            for (size_t i = 0; i < used_[size_t(row)].size(); ++i)
                if (!used_[size_t(row)][i]) result.push_back(line_from(row, i));
        return result;
    }

  private:
    void cut(const std::vector<Polyline>& loops, int rows) {
        ends_.resize(size_t(rows));
        for (const Polyline& loop : loops)
            for (size_t i = 0; i < loop.size(); ++i) {
                Vec2 p = loop[i], q = loop[(i + 1) % loop.size()];
                if (p.y() > q.y()) std::swap(p, q);
                const int from = std::max(0, int(std::ceil((p.y() - y0_) / gap_))),
                          to = std::min(rows - 1, int(std::ceil((q.y() - y0_) / gap_)) - 1);
                for (int k = from; k <= to; ++k)
                    ends_[size_t(k)].push_back(p.x() + (q.x() - p.x()) * (y0_ + k * gap_ - p.y()) / (q.y() - p.y()));
            }
        used_.resize(ends_.size());
        for (size_t k = 0; k < ends_.size(); ++k) {
            std::sort(ends_[k].begin(), ends_[k].end());
            used_[k].assign(ends_[k].size() / 2, 0);
        }
    }
    Vec2 back(double x, double y) const { return {cos_ * x - sin_ * y, sin_ * x + cos_ * y}; }
    Polyline line_from(int row, size_t at) {
        Polyline line;
        for (bool forth = row % 2 == 0;; forth = !forth) {
            const auto& ends = ends_[size_t(row)];
            used_[size_t(row)][at] = 1;
            double a = ends[2 * at], b = ends[2 * at + 1];
            const double y = y0_ + row * gap_;
            if (!forth) std::swap(a, b);
            line.push_back(back(a, y));
            line.push_back(back(b, y));
            if (!joined_ || row + 1 >= int(ends_.size())) return line;
            const auto& next_ends = ends_[size_t(row) + 1];
            size_t next = ~size_t(0);
            for (size_t j = 0; j < used_[size_t(row) + 1].size(); ++j) {
                const double near = forth ? next_ends[2 * j + 1] : next_ends[2 * j];
                if (!used_[size_t(row) + 1][j] && std::fabs(near - b) < 2.5 * gap_) next = j;
            }
            if (next == ~size_t(0)) return line;
            ++row;
            at = next;
        }
    }

    double cos_, sin_, gap_, y0_ = 0;
    bool joined_;
    std::vector<std::vector<double>> ends_; ///< of the stretches of each row, sorted
    std::vector<std::vector<char>> used_;
};

} // namespace

std::vector<Polyline> hatch(const Region& region, const HatchOptions& options) {
    return Rows(region, options).lines();
}

std::vector<Polyline> gyroid(const Region& region, double cell_mm, double z_mm) {
    Eigen::AlignedBox2d box = bounds_of(region);
    if (box.isEmpty() || !(cell_mm > 0)) return {};
    const double k = 2 * pi / cell_mm, cos_z = std::cos(k * z_mm), sin_z = std::sin(k * z_mm);
    Vec2 low = box.min(), high = box.max();
    const bool over_x = std::fabs(cos_z) >= std::fabs(sin_z); // where the curves are graphs over x
    if (!over_x) std::swap(low.x(), low.y()), std::swap(high.x(), high.y());
    ClipperLib::Clipper clipper;
    const double step = cell_mm / 16;
    for (int branch = 0; branch < 2; ++branch)
        for (double shift = std::floor(low.y() / cell_mm) - 1; shift <= high.y() / cell_mm + 1; ++shift) {
            ClipperLib::Path path;
            double last = 0;
            for (double u = low.x() - step; u <= high.x() + step; u += step) {
                // a sin v + b cos v = d; over x: v = y, a = cos z, b = sin x, d = -sin z cos x. Over y the roles turn.
                const double t = k * u, a = over_x ? cos_z : std::cos(t), b = over_x ? std::sin(t) : sin_z,
                             d = over_x ? -sin_z * std::cos(t) : -std::sin(t) * cos_z, m = std::hypot(a, b),
                             base = std::asin(std::clamp(m > 0 ? d / m : 0, -1.0, 1.0)),
                             v = (branch ? pi - base : base) - std::atan2(b, a);
                last = path.empty() ? v - 2 * pi * std::floor(v / (2 * pi))
                                    : v + 2 * pi * std::round((last - v) / (2 * pi)); // stays on its branch
                const double w = shift * cell_mm + last / k;
                path.push_back(grid_place(over_x ? Vec2(u, w) : Vec2(w, u)));
            }
            clipper.AddPath(path, ClipperLib::ptSubject, false);
        }
    clipper.AddPaths(region, ClipperLib::ptClip, true);
    ClipperLib::PolyTree tree;
    clipper.Execute(ClipperLib::ctIntersection, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    Region open;
    ClipperLib::OpenPathsFromPolyTree(tree, open);
    std::vector<Polyline> result;
    for (const auto& path : open) {
        Polyline& line = result.emplace_back();
        for (const auto& p : path) line.push_back(place_of(p));
    }
    return result;
}

BridgeDirection best_bridge(const Region& piece, const Region& below, double spacing_mm) {
    constexpr double bite_mm = 0.3; // a line that reaches so far over what carries it is held
    if (piece.empty()) return {};
    std::vector<double> angles;
    for (int i = 0; i < 36; ++i) angles.push_back(i * pi / 36);
    for (size_t i = 0; i < piece[0].size(); ++i) {
        const Vec2 d = place_of(piece[0][(i + 1) % piece[0].size()]) - place_of(piece[0][i]);
        if (d.norm() > 2) {
            angles.push_back(std::atan2(d.y(), d.x()));
            angles.push_back(angles.back() + pi / 2);
        }
    }
    std::optional<BridgeDirection> best;
    for (double angle : angles) {
        double held = 0, loose = 0, longest = 0;
        const Vec2 along(std::cos(angle), std::sin(angle));
        for (const Polyline& row : hatch(piece, {angle, spacing_mm, false, RowSpacing::Fitted})) {
            const double length = (row[1] - row[0]).norm();
            if (length < 0.02) continue;
            const Vec2 way = (row[1] - row[0]).dot(along) > 0 ? along : Vec2(-along);
            const bool both_ends =
                holds(below, grid_place(row[0] - way * bite_mm)) && holds(below, grid_place(row[1] + way * bite_mm));
            (both_ends ? held : loose) += length;
            if (both_ends) longest = std::max(longest, length);
        }
        const double share = held + loose > 0 ? loose / (held + loose) : 1;
        if (!best || share < best->loose_share - 0.02 ||
            (share < best->loose_share + 0.02 && longest < best->longest_mm - 0.01))
            best = {angle, longest, share};
    }
    return best.value_or(BridgeDirection{});
}

} // namespace lp

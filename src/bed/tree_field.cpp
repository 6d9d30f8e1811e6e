#include "bed/tree_field.h"
#include <array>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double finest_mm = 0.8, margin_mm = 6;
constexpr double most_cells = 3e7;
constexpr float nowhere = 1e9f;

template <class Call> void each(int count, const Call& call) {
    tbb::parallel_for(0, count, call);
}

/// Squared distances along a line of cells, by the lower envelope of parabolas (Felzenszwalb and Huttenlocher, Distance
/// Transforms of Sampled Functions, 2012).
void transform_line(float* f, size_t stride, int n) {
    thread_local std::vector<float> g, from;
    thread_local std::vector<int> lowest;
    g.resize(size_t(n));
    from.resize(size_t(n) + 1);
    lowest.resize(size_t(n));
    int k = -1;
    for (int q = 0; q < n; ++q) {
        g[size_t(q)] = f[size_t(q) * stride];
        if (g[size_t(q)] >= nowhere) continue;
        float s = -INFINITY;
        for (; k >= 0; --k) {
            const int v = lowest[size_t(k)];
            s = ((g[size_t(q)] + float(q) * float(q)) - (g[size_t(v)] + float(v) * float(v))) / float(2 * (q - v));
            if (s > from[size_t(k)]) break;
        }
        if (k < 0) s = -INFINITY;
        lowest[size_t(++k)] = q;
        from[size_t(k)] = s;
    }
    if (k < 0) return;
    from[size_t(k) + 1] = INFINITY;
    for (int q = 0, j = 0; q < n; ++q) {
        while (j < k && from[size_t(j) + 1] < float(q)) ++j;
        const int v = lowest[size_t(j)];
        f[size_t(q) * stride] = float(q - v) * float(q - v) + g[size_t(v)];
    }
}

} // namespace

TreeField::TreeField(const TriMesh& posed, const TreeRules& rules, double top, const Task& task) : rules_(rules) {
    const Box3 box = bounding_box(posed);
    const Vec3 size(box.sizes().x() + 2 * margin_mm, box.sizes().y() + 2 * margin_mm, top);
    cell_ = std::max(finest_mm, std::cbrt(size.prod() / most_cells));
    origin_ = Vec3(box.min().x() - margin_mm, box.min().y() - margin_mm, 0);
    nx_ = int(size.x() / cell_) + 1;
    ny_ = int(size.y() / cell_) + 1;
    nz_ = int(top / cell_) + 3;
    levels_ = int(top / rules_.level) + 1;
    std::vector<uint8_t> solid(size_t(nx_) * size_t(ny_) * size_t(nz_), 0);
    for (size_t i = 0; i < posed.triangles.size() && !task.stopped(); ++i) mark_facet(posed, i, solid);
    fill_inside(posed, solid);
    measure_distances(solid);
    find_ways_down(task);
}

/// Cells that the surface touches.
void TreeField::mark_facet(const TriMesh& mesh, size_t i, std::vector<uint8_t>& solid) const {
    const Vec3 &p = mesh.corner(i, 0), &q = mesh.corner(i, 1), &s = mesh.corner(i, 2);
    const double longest = std::max({(p - q).norm(), (q - s).norm(), (s - p).norm()});
    const int parts = std::clamp(int(std::ceil(longest / (cell_ * 0.7))), 1, 2000);
    for (int u = 0; u <= parts; ++u)
        for (int v = 0; u + v <= parts; ++v) {
            const Vec3 c = (p + (q - p) * (double(u) / parts) + (s - p) * (double(v) / parts) - origin_) / cell_;
            const int x = int(std::floor(c.x())), y = int(std::floor(c.y())), z = int(std::floor(c.z()));
            if (z >= 0 && z < nz_ && x >= 0 && x < nx_ && y >= 0 && y < ny_) solid[at(x, y, z)] = 1;
        }
}

/// Cells between the crossings of the columns' middles with the surface.
void TreeField::fill_inside(const TriMesh& mesh, std::vector<uint8_t>& solid) const {
    struct Crossing {
        float z;
        int way;
        bool operator<(const Crossing& o) const { return z < o.z; }
    };
    std::vector<std::vector<Crossing>> columns(size_t(nx_) * size_t(ny_));
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const Vec3 &p = mesh.corner(i, 0), &q = mesh.corner(i, 1), &s = mesh.corner(i, 2);
        const double det = (q.x() - p.x()) * (s.y() - p.y()) - (s.x() - p.x()) * (q.y() - p.y());
        if (det == 0) continue;
        const Vec3 low = (p.cwiseMin(q).cwiseMin(s) - origin_) / cell_,
                   high = (p.cwiseMax(q).cwiseMax(s) - origin_) / cell_;
        const int x0 = std::max(0, int(std::ceil(low.x() - 0.5))), x1 = std::min(nx_ - 1, int(high.x() - 0.5));
        const int y0 = std::max(0, int(std::ceil(low.y() - 0.5))), y1 = std::min(ny_ - 1, int(high.y() - 0.5));
        for (int x = x0; x <= x1; ++x)
            for (int y = y0; y <= y1; ++y) { // a little beside the middle, where edges seldom run
                const double px = origin_.x() + (x + 0.5) * cell_ + 1.7e-4,
                             py = origin_.y() + (y + 0.5) * cell_ + 2.3e-4;
                const double u = ((px - p.x()) * (s.y() - p.y()) - (s.x() - p.x()) * (py - p.y())) / det;
                const double v = ((q.x() - p.x()) * (py - p.y()) - (px - p.x()) * (q.y() - p.y())) / det;
                if (u >= 0 && v >= 0 && u + v < 1)
                    columns[size_t(y) * size_t(nx_) + size_t(x)].push_back(
                        {float(p.z() + u * (q.z() - p.z()) + v * (s.z() - p.z())), det < 0 ? 1 : -1});
            }
    }
    each(int(columns.size()), [&](int c) {
        auto& crossings = columns[size_t(c)];
        std::sort(crossings.begin(), crossings.end());
        int within = 0;
        for (size_t i = 0; i + 1 < crossings.size(); ++i) {
            within += crossings[i].way;
            if (within <= 0) continue;
            for (int z = std::max(0, int(std::ceil(crossings[i].z / cell_ - 0.5)));
                 z < nz_ && (z + 0.5) * cell_ < crossings[i + 1].z; ++z)
                solid[at(c % nx_, c / nx_, z)] = 1;
        }
    });
}

void TreeField::measure_distances(const std::vector<uint8_t>& solid) {
    distance_.resize(solid.size());
    for (size_t i = 0; i < solid.size(); ++i) distance_[i] = solid[i] ? 0 : nowhere;
    each(ny_ * nz_, [&](int i) { transform_line(&distance_[at(0, i % ny_, i / ny_)], 1, nx_); });
    each(nx_ * nz_, [&](int i) { transform_line(&distance_[at(i % nx_, 0, i / nx_)], size_t(nx_), ny_); });
    each(nx_ * ny_,
         [&](int i) { transform_line(&distance_[at(i % nx_, i / nx_, 0)], size_t(nx_) * size_t(ny_), nz_); });
    for (float& d : distance_) d = std::sqrt(d) * float(cell_);
}

double TreeField::distance(int x, int y, double z) const {
    return distance_[at(x, y, std::clamp(int(z / cell_), 0, nz_ - 1))];
}

/// From the bed upward: a place is open where a thin branch has room and a place it can lean to one level below is
/// open.
void TreeField::find_ways_down(const Task& task) {
    const double need = rules_.thin_radius + rules_.clearance, far = rules_.lean() * rules_.level / cell_;
    std::vector<std::array<int, 2>> ways;
    for (int x = -int(far); x <= int(far); ++x)
        for (int y = -int(far); y <= int(far); ++y)
            if (x * x + y * y <= far * far) ways.push_back({x, y});
    std::sort(ways.begin(), ways.end(),
              [](auto& a, auto& b) { return a[0] * a[0] + a[1] * a[1] < b[0] * b[0] + b[1] * b[1]; });
    open_.assign(size_t(levels_) + 1, std::vector<uint8_t>(size_t(nx_) * size_t(ny_), 0));
    for (int level = 0; level <= levels_ && !task.stopped(); ++level)
        each(nx_ * ny_, [&](int c) {
            const int x = c % nx_, y = c / nx_;
            if (distance(x, y, level * rules_.level) < need) return;
            auto leads_down = [&](const std::array<int, 2>& way) {
                const int to_x = x + way[0], to_y = y + way[1];
                if (to_x < 0 || to_y < 0 || to_x >= nx_ || to_y >= ny_) return false;
                if (!open_[size_t(level) - 1][size_t(to_y) * size_t(nx_) + size_t(to_x)]) return false;
                return distance(x + way[0] / 2, y + way[1] / 2, (level - 0.5) * rules_.level) >= need;
            };
            open_[size_t(level)][size_t(c)] = !level || std::any_of(ways.begin(), ways.end(), leads_down);
        });
}

bool TreeField::to_bed(const Vec3& p, int level) const {
    const double x = std::floor((p.x() - origin_.x()) / cell_), y = std::floor((p.y() - origin_.y()) / cell_);
    if (x < 0 || y < 0 || x >= nx_ || y >= ny_ || level < 0 || level > levels_) return true;
    return open_[size_t(level)][size_t(y) * size_t(nx_) + size_t(x)];
}

} // namespace lp

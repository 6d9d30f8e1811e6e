#include "layers/facing_walls.h"
#include "layers/region_tools.h"
#include <algorithm>

namespace lp {

FacingWalls::FacingWalls(const Region& region) {
    const Eigen::AlignedBox2d box = bounds_of(region);
    if (box.isEmpty()) return;
    for (const ClipperLib::Path& loop : region)
        for (size_t i = 0; i < loop.size(); ++i)
            edges_.push_back({place_of(loop[i]), place_of(loop[(i + 1) % loop.size()])});
    low_ = box.min();
    size_mm_ = std::max(1.0, box.sizes().maxCoeff() / 200);
    columns_ = int(box.sizes().x() / size_mm_) + 1;
    rows_ = int(box.sizes().y() / size_mm_) + 1;
    cells_.resize(size_t(columns_) * size_t(rows_));
    for (uint32_t i = 0; i < edges_.size(); ++i)
        along(edges_[i].a, edges_[i].b, [&](size_t cell) { cells_[cell].push_back(i); });
}

template <class Visit> void FacingWalls::along(const Vec2& a, const Vec2& b, Visit visit) const {
    const int steps = std::max(1, int(std::ceil((b - a).norm() / size_mm_)));
    size_t last = ~size_t(0);
    auto column = [&](double x) { return std::clamp(int((x - low_.x()) / size_mm_), 0, columns_ - 1); };
    auto row = [&](double y) { return std::clamp(int((y - low_.y()) / size_mm_), 0, rows_ - 1); };
    for (int k = 0; k < steps; ++k) {
        const Vec2 p = a + (b - a) * (double(k) / steps), q = a + (b - a) * (double(k + 1) / steps);
        for (int x = column(std::min(p.x(), q.x())); x <= column(std::max(p.x(), q.x())); ++x)
            for (int y = row(std::min(p.y(), q.y())); y <= row(std::max(p.y(), q.y())); ++y) {
                const size_t cell = size_t(y) * size_t(columns_) + size_t(x);
                if (cell != last) visit(cell);
                last = cell;
            }
    }
}

double FacingWalls::distance(const Vec2& from, const Vec2& normal, double reach_mm) const {
    double best = reach_mm;
    if (edges_.empty()) return best;
    along(from, from + normal * reach_mm, [&](size_t cell) {
        for (uint32_t i : cells_[cell]) {
            const Vec2 d = edges_[i].b - edges_[i].a, w = edges_[i].a - from;
            const double det = normal.x() * d.y() - normal.y() * d.x(), length = d.norm();
            constexpr double cos_60 = 0.5;
            if (length == 0 || det < cos_60 * length) continue; // its own inward normal must look back
            const double s = (w.x() * d.y() - w.y() * d.x()) / det, u = (w.x() * normal.y() - w.y() * normal.x()) / det;
            if (s > 1e-6 && s < best && u >= -1e-9 && u <= 1 + 1e-9) best = s;
        }
    });
    return best;
}

double FacingWalls::narrowest(double reach_mm) const {
    double least = reach_mm;
    for (const Edge& edge : edges_) {
        const double length = (edge.b - edge.a).norm();
        if (length < 1e-6) continue;
        const Vec2 normal = inward_normal(edge.a, edge.b);
        const int places = std::max(1, int(std::ceil(length / 0.5)));
        for (int i = 0; i < places; ++i)
            least = std::min(least, distance(edge.a + (edge.b - edge.a) * ((i + 0.5) / places), normal, reach_mm));
    }
    return least;
}

} // namespace lp

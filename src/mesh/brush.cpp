#include "mesh/brush.h"
#include "base/tolerance.h"
#include "mesh/refine.h"
#include "shape/mesh_distance.h"
#include <limits>
#include <unordered_map>

namespace lp {

std::optional<Problem> check_dabs(const std::vector<Dab>& dabs, size_t most) {
    constexpr double farthest_mm = 1e5;
    if (dabs.size() > most)
        return Problem{ProblemCode::Range, "That is more than the brush can keep.", "Use a wider brush."};
    for (const Dab& dab : dabs) {
        const bool placed = dab.at.allFinite() && dab.at.cwiseAbs().maxCoeff() <= farthest_mm && dab.out.allFinite() &&
                            dab.out.norm() > 1e-9;
        if (!placed || !(dab.radius_mm >= 0.1 && dab.radius_mm <= 500))
            return Problem{ProblemCode::Range, "A brush is 0.2 to 1000 mm across.", "Use 6 mm."};
    }
    return std::nullopt;
}

namespace {

/// Dabs by the cells of a grid that they reach into.
class DabGrid {
  public:
    explicit DabGrid(const std::vector<Dab>& dabs) {
        for (const Dab& dab : dabs) cell_ = std::max(cell_, dab.radius_mm);
        for (uint32_t i = 0; i < dabs.size(); ++i) {
            const Vec3 reach = Vec3::Constant(dabs[i].radius_mm);
            const Eigen::Vector3i low = cell_of(dabs[i].at - reach), high = cell_of(dabs[i].at + reach);
            for (int x = low.x(); x <= high.x(); ++x)
                for (int y = low.y(); y <= high.y(); ++y)
                    for (int z = low.z(); z <= high.z(); ++z) cells_[key(x, y, z)].push_back(i);
            box_.extend(dabs[i].at - reach);
            box_.extend(dabs[i].at + reach);
        }
    }
    const Box3& box() const { return box_; }
    double cell_mm() const { return cell_; }
    /// By number, rising.
    const std::vector<uint32_t>* near(const Vec3& place) const {
        const Eigen::Vector3i c = cell_of(place);
        auto found = cells_.find(key(c.x(), c.y(), c.z()));
        return found == cells_.end() ? nullptr : &found->second;
    }

  private:
    Eigen::Vector3i cell_of(const Vec3& p) const { return (p / cell_).array().floor().cast<int>(); }
    static uint64_t key(int x, int y, int z) {
        auto part = [](int v) { return uint64_t(v + (1 << 20)) & 0x1fffff; };
        return part(x) << 42 | part(y) << 21 | part(z);
    }
    double cell_ = 0.1;
    Box3 box_;
    std::unordered_map<uint64_t, std::vector<uint32_t>> cells_;
};

} // namespace

std::vector<uint32_t> last_dabs(const TriMesh& mesh, size_t first, size_t count, const std::vector<Dab>& dabs) {
    std::vector<uint32_t> found;
    if (dabs.empty()) return found;
    const DabGrid grid(dabs);
    const double least_cos = std::cos(radians(75.0));
    const size_t end = std::min(first + count, mesh.triangles.size());
    for (size_t i = first; i < end; ++i) {
        const Vec3 &a = mesh.corner(i, 0), &b = mesh.corner(i, 1), &c = mesh.corner(i, 2);
        Box3 box(a);
        box.extend(b);
        box.extend(c);
        if (!box.intersects(grid.box())) continue;
        const Vec3 area = mesh.area_vector(i), middle = (a + b + c) / 3;
        const double size = area.norm();
        if (!(size > 0)) continue;
        const Dab* last = nullptr;
        auto look = [&](const Dab& dab, bool covers) {
            if (covers && dab.out.dot(area) >= least_cos * size * dab.out.norm() && (!last || &dab > last)) last = &dab;
        };
        if (const auto* near = grid.near(middle))
            for (uint32_t k : *near) look(dabs[k], (dabs[k].at - middle).norm() <= dabs[k].radius_mm);
        constexpr double on_it_mm = 0.05;
        if (box.sizes().maxCoeff() >= grid.cell_mm()) // its middle may lie far from where it was touched
            for (const Dab& dab : dabs)
                if (box.exteriorDistance(dab.at) <= on_it_mm)
                    look(dab, (closest_on_triangle(dab.at, a, b, c) - dab.at).norm() <= on_it_mm);
        if (!last) continue;
        found.resize(end - first, 0);
        found[i - first] = uint32_t(last - dabs.data()) + 1;
    }
    return found;
}

namespace {

/// How far a place lies outside of what was gone over, below 0 within; dabs one after the other.
double outside_mm(const Vec3& p, const std::vector<Dab>& dabs) {
    double outside = std::numeric_limits<double>::infinity();
    for (const Dab& dab : dabs) {
        const double d = (dab.at - p).norm() - dab.radius_mm;
        outside = dab.wipes ? std::max(outside, -d) : std::min(outside, d);
    }
    return outside;
}

/// Facets across the border of the dabs are parted there; vertices nearer to it than `on_mm` count as on it.
TriMesh parted_along_border(const TriMesh& mesh, const std::vector<Dab>& dabs, const Box3& all, double on_mm) {
    TriMesh result;
    result.vertices = mesh.vertices;
    std::vector<double> outside(mesh.vertices.size(), std::numeric_limits<double>::infinity());
    for (size_t v = 0; v < outside.size(); ++v)
        if (all.contains(mesh.vertices[v])) {
            outside[v] = outside_mm(mesh.vertices[v], dabs);
            if (std::fabs(outside[v]) < on_mm) outside[v] = 0;
        }
    std::unordered_map<uint64_t, uint32_t> crossings;
    auto crosses = [&](uint32_t a, uint32_t b) {
        return std::isfinite(outside[a]) && std::isfinite(outside[b]) && outside[a] * outside[b] < 0;
    };
    auto crossing = [&](uint32_t a, uint32_t b) { // both facets of an edge get the same vertex
        if (a > b) std::swap(a, b);
        auto [it, fresh] = crossings.try_emplace(uint64_t(a) << 32 | b, uint32_t(result.vertices.size()));
        if (fresh) {
            Vec3 in = mesh.vertices[a], out = mesh.vertices[b];
            if (outside[a] > 0) std::swap(in, out);
            for (int i = 0; i < 20; ++i) {
                const Vec3 middle = (in + out) / 2;
                (outside_mm(middle, dabs) < 0 ? in : out) = middle;
            }
            result.vertices.push_back(in);
        }
        return it->second;
    };
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
            result.triangles.push_back({a, b, c});
            if (!mesh.tags.empty()) result.tags.push_back(mesh.tags[i]);
        };
        Triangle t = mesh.triangles[i];
        int cut = 0;
        for (size_t k = 0; k < 3; ++k) cut += crosses(t[k], t[(k + 1) % 3]);
        if (cut == 0) {
            add(t[0], t[1], t[2]);
            continue;
        }
        // Turned so that its first side is cut, and of two the third as well: they meet at its first corner.
        while (!crosses(t[0], t[1]) || (cut == 2 && !crosses(t[2], t[0]))) t = {t[1], t[2], t[0]};
        const uint32_t m = crossing(t[0], t[1]);
        if (cut == 1) { // the border runs on through the opposite corner
            add(t[0], m, t[2]);
            add(m, t[1], t[2]);
            continue;
        }
        const uint32_t n = crossing(t[2], t[0]);
        add(t[0], m, n);
        add(m, t[1], t[2]);
        add(m, t[2], n);
    }
    return result;
}

} // namespace

Expected<TriMesh> finer_under(const TriMesh& mesh, const std::vector<Dab>& dabs, double longest_mm, const Task& task) {
    Box3 all;
    for (const Dab& dab : dabs) {
        all.extend(dab.at - Vec3::Constant(dab.radius_mm));
        all.extend(dab.at + Vec3::Constant(dab.radius_mm));
    }
    // As long as they are far from the dabs: then no facet is so large that it holds one none of its edges comes near.
    auto fine = refined(
        mesh,
        [&](const Vec3& at, const Vec3&) {
            double off = all.exteriorDistance(at);
            if (off > 0) return std::max(longest_mm, off);
            off = std::numeric_limits<double>::infinity();
            for (const Dab& dab : dabs) off = std::min(off, (dab.at - at).norm() - dab.radius_mm);
            return std::max(longest_mm, off);
        },
        task);
    if (!fine) return fine;
    constexpr double on_it = 0.08;       // of the facets' length: no slivers along the border
    all.min().array() -= 2 * longest_mm; // as far as edges reach that begin inside
    all.max().array() += 2 * longest_mm;
    return parted_along_border(*fine, dabs, all, on_it * longest_mm);
}

} // namespace lp

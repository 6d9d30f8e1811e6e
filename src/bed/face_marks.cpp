#include "bed/face_marks.h"
#include "base/tolerance.h"
#include "check/overhang.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <unordered_map>

namespace lp {

const char* word_of(FaceMark mark) {
    static constexpr const char* words[face_marks] = {"seen", "mating", "never", "supported"};
    return words[size_t(mark)];
}

const char* words_of(FaceMark mark) {
    return mark == FaceMark::Never ? "never supported" : word_of(mark);
}

std::optional<FaceMark> face_mark_called(const std::string& word) {
    for (int i = 0; i < face_marks; ++i)
        if (word == word_of(FaceMark(i))) return FaceMark(i);
    return std::nullopt;
}

std::optional<Problem> check_dabs(const std::vector<BrushDab>& dabs) {
    constexpr double farthest_mm = 1e5;
    if (dabs.size() > most_dabs)
        return Problem{ProblemCode::Range, "That is more than the brush can keep.", "Use a wider brush."};
    for (const BrushDab& dab : dabs) {
        const bool placed = dab.at.allFinite() && dab.at.cwiseAbs().maxCoeff() <= farthest_mm && dab.out.allFinite() &&
                            dab.out.norm() > 1e-9;
        if (!placed || !(dab.radius_mm >= 0.1 && dab.radius_mm <= 500))
            return Problem{ProblemCode::Range, "A brush is 0.2 to 1000 mm across.", "Use 6 mm."};
    }
    return std::nullopt;
}

std::vector<BrushDab> with_dabs(std::vector<BrushDab> dabs, const std::vector<BrushDab>& more) {
    std::erase_if(dabs, [&](const BrushDab& old) {
        return std::any_of(more.begin(), more.end(), [&](const BrushDab& fresh) {
            return (fresh.at - old.at).norm() + old.radius_mm <= fresh.radius_mm + 1e-9 &&
                   fresh.out.dot(old.out) > std::cos(radians(30.0)) * fresh.out.norm() * old.out.norm();
        });
    });
    dabs.insert(dabs.end(), more.begin(), more.end());
    return dabs;
}

namespace {

/// Dabs by the cells of a grid that they reach into.
class DabGrid {
  public:
    explicit DabGrid(const std::vector<BrushDab>& dabs) {
        for (const BrushDab& dab : dabs) cell_ = std::max(cell_, dab.radius_mm);
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

void brush_facets(const TriMesh& mesh, size_t first, size_t count, const std::vector<BrushDab>& dabs,
                  FacetMarks& marks) {
    if (dabs.empty()) return;
    const DabGrid grid(dabs);
    const double least_cos = std::cos(radians(75.0));
    for (size_t i = first; i < first + count && i < mesh.triangles.size(); ++i) {
        const Vec3 &a = mesh.corner(i, 0), &b = mesh.corner(i, 1), &c = mesh.corner(i, 2);
        Box3 box(a);
        box.extend(b);
        box.extend(c);
        if (!box.intersects(grid.box())) continue;
        const Vec3 area = mesh.area_vector(i), middle = (a + b + c) / 3;
        const double size = area.norm();
        if (!(size > 0)) continue;
        const BrushDab* last = nullptr;
        auto look = [&](const BrushDab& dab, bool covers) {
            if (covers && dab.out.dot(area) >= least_cos * size * dab.out.norm() && (!last || &dab > last)) last = &dab;
        };
        if (const auto* near = grid.near(middle))
            for (uint32_t k : *near) look(dabs[k], (dabs[k].at - middle).norm() <= dabs[k].radius_mm);
        constexpr double on_it_mm = 0.05;
        if (box.sizes().maxCoeff() >= grid.cell_mm()) // its middle may lie far from where it was touched
            for (const BrushDab& dab : dabs)
                if (box.exteriorDistance(dab.at) <= on_it_mm)
                    look(dab, (closest_on_triangle(dab.at, a, b, c) - dab.at).norm() <= on_it_mm);
        if (!last) continue;
        if (marks.of.empty() && !last->mark) continue;
        if (marks.of.empty()) marks.of.resize(mesh.triangles.size(), 0);
        marks.of[i] = last->mark ? uint8_t(1 + int(*last->mark)) : 0;
    }
}

std::vector<uint32_t> facets_to_carry(const TriMesh& posed, double limit_deg, const FacetMarks& marks) {
    std::vector<uint32_t> facets = find_overhang(posed, limit_deg).triangles;
    if (marks.of.empty()) return facets;
    std::erase_if(facets, [&](uint32_t i) { return marks.keeps_tips_off(i); });
    std::vector<uint8_t> taken(posed.triangles.size(), 0);
    for (uint32_t i : facets) taken[i] = 1;
    constexpr double looks_down_deg = 2;
    for (uint32_t i : find_overhang(posed, looks_down_deg).triangles)
        if (!taken[i] && marks.at(i) == FaceMark::Supported) facets.push_back(i);
    return facets;
}

double hanging_kept_off(const TriMesh& posed, double limit_deg, const FacetMarks& marks) {
    double area = 0;
    if (marks.of.empty()) return area;
    for (uint32_t i : find_overhang(posed, limit_deg).triangles)
        if (marks.keeps_tips_off(i)) area += posed.area_vector(i).norm() / 2;
    return area;
}

} // namespace lp

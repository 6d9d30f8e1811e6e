#include "bed/face_marks.h"
#include "check/overhang.h"
#include "mesh/brush.h"

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

static std::vector<Dab> places_of(const std::vector<BrushDab>& dabs) {
    std::vector<Dab> places;
    for (const BrushDab& dab : dabs) places.push_back({dab.at, dab.out, dab.radius_mm, !dab.mark});
    return places;
}

std::optional<Problem> check_dabs(const std::vector<BrushDab>& dabs) {
    return check_dabs(places_of(dabs), most_dabs);
}

std::vector<BrushDab> with_dabs(std::vector<BrushDab> dabs, const std::vector<BrushDab>& more) {
    return with_dabs<BrushDab>(std::move(dabs), more);
}

void brush_facets(const TriMesh& mesh, size_t first, size_t count, const std::vector<BrushDab>& dabs,
                  FacetMarks& marks) {
    const std::vector<uint32_t> last = last_dabs(mesh, first, count, places_of(dabs));
    for (size_t i = 0; i < last.size(); ++i) {
        if (!last[i]) continue;
        const auto mark = dabs[last[i] - 1].mark;
        if (marks.of.empty() && !mark) continue;
        if (marks.of.empty()) marks.of.resize(mesh.triangles.size(), 0);
        marks.of[first + i] = mark ? uint8_t(1 + int(*mark)) : 0;
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

#include "bed/face_marks.h"
#include "check/overhang.h"

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

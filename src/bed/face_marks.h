// What a maker wants of single faces when the part is printed, and what that means for supports.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"
#include <optional>
#include <string>

namespace lp {

enum class FaceMark {
    Seen,     ///< it should not be rough
    Mating,   ///< it goes against another part: neither rough nor touched by a tip
    Never,    ///< no tip touches it
    Supported ///< it is carried wherever it looks down, however steep
};
constexpr int face_marks = 4;

/// As files have it: "seen", "mating", "never", "supported".
const char* word_of(FaceMark mark);
std::optional<FaceMark> face_mark_called(const std::string& word);
/// For a person: "seen", "mating", "never supported", "supported".
const char* words_of(FaceMark mark);

/// Marks of the facets of a mesh.
struct FacetMarks {
    std::vector<uint8_t> of; ///< a facet: 0, or 1 + its mark; empty: none is marked
    std::optional<FaceMark> at(size_t facet) const {
        return facet < of.size() && of[facet] ? std::optional(FaceMark(of[facet] - 1)) : std::nullopt;
    }
    bool keeps_tips_off(size_t facet) const { return at(facet) == FaceMark::Mating || at(facet) == FaceMark::Never; }
    bool keeps_feet_off(size_t facet) const { return keeps_tips_off(facet) || at(facet) == FaceMark::Seen; }
};

/// Where a brush touched a mesh, from outside.
struct BrushDab {
    Vec3 at = Vec3::Zero(), out = Vec3::UnitZ(); ///< on the surface, and away from it
    double radius_mm = 3;
    std::optional<FaceMark> mark; ///< none: what was marked there is no more
    bool operator==(const BrushDab&) const = default;
};
constexpr size_t most_dabs = 20'000;
/// Problem when their numbers make no sense, or when there are more than most_dabs.
std::optional<Problem> check_dabs(const std::vector<BrushDab>& dabs);
/// Dabs that go on after the others: what they cover wholly is left out.
std::vector<BrushDab> with_dabs(std::vector<BrushDab> dabs, const std::vector<BrushDab>& more);
/// Marks facets `first` up to `first + count` where a dab covers them: their middle lies within it, or it lies on them;
/// and they face as it did, within 75 degrees, so that a wall keeps its other side. The last dab holds. `marks` may be
/// empty, and stays so when nothing is covered.
void brush_facets(const TriMesh& mesh, size_t first, size_t count, const std::vector<BrushDab>& dabs,
                  FacetMarks& marks);

/// Facets that supports are made for: those that hang (check/overhang.h) but for where tips are kept off, and those
/// marked Supported that look down.
std::vector<uint32_t> facets_to_carry(const TriMesh& posed, double limit_deg, const FacetMarks& marks);
/// What hangs where tips are kept off, mm2.
double hanging_kept_off(const TriMesh& posed, double limit_deg, const FacetMarks& marks);

} // namespace lp

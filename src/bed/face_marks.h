// What a maker wants of single faces when the part is printed, and what that means for supports.
#pragma once
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

/// Facets that supports are made for: those that hang (check/overhang.h) but for where tips are kept off, and those
/// marked Supported that look down.
std::vector<uint32_t> facets_to_carry(const TriMesh& posed, double limit_deg, const FacetMarks& marks);
/// What hangs where tips are kept off, mm2.
double hanging_kept_off(const TriMesh& posed, double limit_deg, const FacetMarks& marks);

} // namespace lp

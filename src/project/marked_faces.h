// Marked faces of a part found again in its bodies.
#pragma once
#include "project/evaluate.h"
#include <array>

namespace lp {

struct FoundMark {
    size_t nth = 0;            ///< in Part::marks
    size_t body = 0, face = 0; ///< the body's number, and the face's in its tessellation
    FaceMark mark = FaceMark::Seen;
    Vec3 at = Vec3::Zero(); ///< where it was picked, in the design frame
};

struct FoundMarks {
    std::vector<FoundMark> faces;
    std::vector<size_t> lost;                     ///< numbers in Part::marks
    FacetMarks facets;                            ///< of PartResult::mesh; brushed ones too
    FacetMarks brushed;                           ///< what was brushed alone
    std::array<double, face_marks> brushed_mm2{}; ///< area that is brushed so
    bool brush_lost = false;                      ///< there are dabs, and nothing of the part is covered
    uint64_t dabs_key = 0;                        ///< fingerprint of the brush's dabs
    uint64_t key() const;                         ///< fingerprint of which faces are marked as what
};

/// Kept for the last parts asked about: asking again costs nothing while neither marks nor bodies changed.
FoundMarks find_marks(const Part& part, const PartResult& made);
/// A face as it is picked: of which body, and where, in the design frame.
struct PickedFace {
    size_t body = 0, face = 0;
    Vec3 at = Vec3::Zero();
};
/// The part's marks with these faces marked so, or not at all; each face has one mark at most.
std::vector<MarkedFace> with_mark(const Part& part, const PartResult& made, const std::vector<PickedFace>& faces,
                                  std::optional<FaceMark> mark);
/// Away from a face at a place on it.
Vec3 outward_at(const Tessellation& shape, size_t face, const Vec3& at);
/// Whether the part has triangles that a brush can mark: exact bodies have faces instead.
bool can_be_brushed(const PartResult& made);
/// The mark of a face, if it has one.
std::optional<FaceMark> mark_of(const FoundMarks& marks, size_t body, size_t face);
/// "seen, top face"
std::string face_words(const MarkedFace& marked);
/// Why a mark stands on nothing: "The face marked seen (top of lid) is gone." Empty when none is lost.
std::string lost_words(const Part& part, const FoundMarks& marks);

} // namespace lp

// Tags: how a face is named so that references survive edits (docs/architecture.md, "Tags").
// A tag is a 64-bit hash of (persistent step id, role, element, copy); an intern table keeps what it means.
#pragma once
#include "base/geometry.h"
#include "base/ids.h"
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace lp {

using Tag = uint64_t;
using TagSet = std::vector<Tag>; ///< sorted, without repeats

/// Which face of what a step made.
enum class FaceRole : uint8_t { MinX, MaxX, MinY, MaxY, Bottom, Top, Side, Imported, Derived, Orphan, Blend };
/// "top", "left" ... as typed in references; nothing for other words.
std::optional<FaceRole> role_from_word(const std::string& word);

/// What a tag stands for. `parent` is set for copies derived from another face.
struct TagMeaning {
    StepId step;
    FaceRole role = FaceRole::Side;
    uint64_t element = 0; ///< number of a side, or the key of the outline's curve it grew from
    uint64_t copy = 0;
    Tag parent = 0;
};

/// Hash of the meaning, remembered in a process-wide table. Safe from any thread.
Tag intern_tag(const TagMeaning& meaning);
/// The tag of a copy of face `parent` that step `step` made. Safe from any thread.
Tag derive_tag(Tag parent, StepId step, uint64_t copy = 0);
std::optional<TagMeaning> tag_meaning(Tag tag);
/// The tag of the same face in a part remade as copy `copy` (grown for a gap), and back again: its own inverse.
Tag tag_in_copy(Tag tag, uint64_t copy);
/// "top", "side 3", "left": words for a person.
std::string tag_words(Tag tag);

/// Where a face was born: the frame its maker worked in, and the size it had there. References keep points as fractions
/// of it, so that they travel with the face; drawings on a face take its x, y and origin from it.
struct BirthFrame {
    Transform frame = Transform::Identity(); ///< z outward for a flat face
    Vec3 size = Vec3::Zero();                ///< along x, y and z; 0 where it has none
};
using BirthFrames = std::map<Tag, BirthFrame>;
Vec3 fraction_of(const BirthFrame& birth, const Vec3& point);
Vec3 point_at(const BirthFrame& birth, const Vec3& fraction);

void add_tags(TagSet& set, const TagSet& more);
bool has_tag(const TagSet& set, Tag tag);
/// Share of common members, 0 to 1 (Jaccard); 1 for two empty sets.
double tag_likeness(const TagSet& a, const TagSet& b);

} // namespace lp

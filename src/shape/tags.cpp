#include "shape/tags.h"
#include "base/hash.h"
#include <algorithm>
#include <mutex>
#include <shared_mutex>
#include <unordered_map>

namespace lp {
namespace {
struct Table {
    std::shared_mutex mutex;
    std::unordered_map<Tag, TagMeaning> meanings;
};
Table& table() {
    static Table instance;
    return instance;
}
} // namespace

Tag intern_tag(const TagMeaning& m) {
    Tag tag = Hasher(0x9e37).add(m.step).add(m.role).add(m.element).add(m.copy).add(m.parent).value();
    Table& all = table();
    {
        std::shared_lock lock(all.mutex);
        if (all.meanings.count(tag)) return tag;
    }
    std::unique_lock lock(all.mutex);
    all.meanings.emplace(tag, m);
    return tag;
}

Tag derive_tag(Tag parent, StepId step, uint64_t copy) {
    return intern_tag({step, FaceRole::Derived, 0, copy, parent});
}

std::optional<TagMeaning> tag_meaning(Tag tag) {
    Table& all = table();
    std::shared_lock lock(all.mutex);
    auto found = all.meanings.find(tag);
    if (found == all.meanings.end()) return std::nullopt;
    return found->second;
}

Tag tag_in_copy(Tag tag, uint64_t copy) {
    auto meaning = copy ? tag_meaning(tag) : std::nullopt;
    if (!meaning) return tag;
    if (meaning->role == FaceRole::Derived) // its copy counts instances, not remade parts
        meaning->parent = tag_in_copy(meaning->parent, copy);
    else
        meaning->copy ^= copy;
    return intern_tag(*meaning);
}

std::string tag_words(Tag tag) {
    auto meaning = tag_meaning(tag);
    if (!meaning) return "face";
    switch (meaning->role) {
    case FaceRole::MinX:
        return "left";
    case FaceRole::MaxX:
        return "right";
    case FaceRole::MinY:
        return "front";
    case FaceRole::MaxY:
        return "back";
    case FaceRole::Bottom:
        return "bottom";
    case FaceRole::Top:
        return "top";
    case FaceRole::Side:
        return meaning->element && meaning->element < 1000000 ? "side " + std::to_string(meaning->element) : "side";
    case FaceRole::Imported:
        return "mesh face";
    case FaceRole::Derived:
        return tag_words(meaning->parent);
    case FaceRole::Blend:
        return "blend";
    case FaceRole::Orphan:
        return "face";
    }
    return "face";
}

std::optional<FaceRole> role_from_word(const std::string& word) {
    static const std::pair<const char*, FaceRole> words[] = {
        {"left", FaceRole::MinX},     {"right", FaceRole::MaxX}, {"front", FaceRole::MinY}, {"back", FaceRole::MaxY},
        {"bottom", FaceRole::Bottom}, {"top", FaceRole::Top},    {"side", FaceRole::Side}};
    for (auto& [name, role] : words)
        if (word == name) return role;
    return std::nullopt;
}

Vec3 fraction_of(const BirthFrame& birth, const Vec3& point) {
    Vec3 local = birth.frame.inverse() * point;
    for (int k = 0; k < 3; ++k)
        if (birth.size[k] > 1e-9) local[k] /= birth.size[k];
    return local;
}

Vec3 point_at(const BirthFrame& birth, const Vec3& fraction) {
    Vec3 local = fraction;
    for (int k = 0; k < 3; ++k)
        if (birth.size[k] > 1e-9) local[k] *= birth.size[k];
    return birth.frame * local;
}

void add_tags(TagSet& set, const TagSet& more) {
    TagSet merged;
    std::set_union(set.begin(), set.end(), more.begin(), more.end(), std::back_inserter(merged));
    set.swap(merged);
}

bool has_tag(const TagSet& set, Tag tag) {
    return std::binary_search(set.begin(), set.end(), tag);
}

double tag_likeness(const TagSet& a, const TagSet& b) {
    TagSet common, all;
    std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
    std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(all));
    return all.empty() ? 1.0 : double(common.size()) / double(all.size());
}

} // namespace lp

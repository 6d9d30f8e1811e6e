// Remembered faces and edges: enough to find them again after numbers changed (docs/architecture.md, "Tags").
#pragma once
#include "base/problem.h"
#include "shape/body.h"
#include <variant>

namespace lp {

struct FaceReference {
    TagSet tags; ///< of the face when it was picked
    Tag primary = 0;
    Vec3 point = Vec3::Zero();    ///< where it was picked, in the part's design frame
    std::optional<Vec3> fraction; ///< the point as a fraction of the primary tag's birth frame
    TagSet neighbours;            ///< tags of the faces around it
    bool operator==(const FaceReference&) const = default;
};

/// `face` is an index of the body's tessellation.
FaceReference make_reference(const Body& body, size_t face, const Vec3& point);
/// Index of the face meant; a Problem when it is lost: none carries the primary tag, or several do and neither the
/// place, nor the neighbours together with nearness, tell them apart. `any_in_plane`: flat pieces in one plane, and
/// round ones of one cylinder, will all do.
Expected<size_t> resolve_reference(const Body& body, const FaceReference& reference, bool any_in_plane = true);

/// Where the picked point would be now: carried along by the birth frame where one is known.
Vec3 place_of(const Body& body, const FaceReference& reference);

struct EdgeReference {
    FaceReference a, b; ///< the faces it lies between
    TagSet ends;        ///< tags of the faces met at its ends, other than those two
    bool operator==(const EdgeReference&) const = default;
};
EdgeReference make_edge_reference(const Body& body, size_t edge, const Vec3& point);
/// Index into `tessellation().edges`, exact bodies only.
Expected<size_t> resolve_edge(const Body& body, const EdgeReference& reference);

/// As kept in fields of steps: JSON on one line. Also words: "top of lid" is made by the layer that knows steps.
std::string reference_text(const FaceReference& reference);
std::string reference_text(const EdgeReference& reference);
std::optional<FaceReference> face_reference_from(const std::string& text);
std::optional<EdgeReference> edge_reference_from(const std::string& text);

/// One thing of a field that names faces or edges: picked in the view, or words for it. Read once from its text.
class GeometryItem {
  public:
    GeometryItem() = default;
    GeometryItem(const std::string& text); ///< reference_text, or words: "top of lid", "of top of lid", "all"
    GeometryItem(const char* text) : GeometryItem(std::string(text)) {}
    explicit GeometryItem(const FaceReference& face) : text_(reference_text(face)), picked_(face) {}
    explicit GeometryItem(const EdgeReference& edge) : text_(reference_text(edge)), picked_(edge) {}

    bool empty() const { return text_.empty(); }
    const std::string& text() const { return text_; }
    const FaceReference* face() const { return std::get_if<FaceReference>(&picked_); }
    const EdgeReference* edge() const { return std::get_if<EdgeReference>(&picked_); }
    bool is_picked() const { return face() || edge(); }
    /// "of FACE": all edges of that face are meant. The face itself is then face() or, in words, face_words().
    bool edges_of_face() const { return edges_of_face_; }
    std::string face_words() const { return edges_of_face_ ? text_.substr(3) : text_; }
    bool operator==(const GeometryItem& other) const { return text_ == other.text_; }

  private:
    std::string text_;
    std::variant<std::monostate, FaceReference, EdgeReference> picked_;
    bool edges_of_face_ = false;
};
/// The things of a field, by semicolons.
std::vector<GeometryItem> geometry_items(const std::string& text);

/// The same face in a part remade as copy `copy`.
FaceReference in_copy(FaceReference reference, uint64_t copy);
EdgeReference in_copy(EdgeReference reference, uint64_t copy);

/// A frame on a flat face: z outward; x, y and origin from the face's birth, else from the world's axes and origin seen
/// along the normal. Nothing for faces that are not flat.
std::optional<Transform> face_frame(const Body& body, size_t face, Tag primary);

} // namespace lp

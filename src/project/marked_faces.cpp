#include "project/marked_faces.h"
#include "base/hash.h"
#include "base/text.h"

namespace lp {

uint64_t FoundMarks::key() const {
    Hasher hasher(1);
    for (const FoundMark& found : faces) hasher.add(found.body).add(found.face).add(found.mark);
    return hasher.value();
}

FoundMarks find_marks(const Part& part, const PartResult& made) {
    FoundMarks marks;
    for (size_t i = 0; i < part.marks.size(); ++i) {
        const MarkedFace& marked = part.marks[i];
        bool found = false;
        for (size_t body = 0; body < made.bodies.size() && !found; ++body) {
            const auto face = resolve_reference(made.bodies[body].body, marked.face);
            if (!face) continue;
            found = true;
            marks.faces.push_back({i, body, *face, marked.mark, place_of(made.bodies[body].body, marked.face)});
        }
        if (!found) marks.lost.push_back(i);
    }
    if (marks.faces.empty()) return marks;
    for (size_t body = 0; body < made.bodies.size(); ++body) {
        const Tessellation& shape = made.bodies[body].body.tessellation();
        std::vector<uint8_t> of_face(shape.faces.size(), 0);
        for (const FoundMark& found : marks.faces)
            if (found.body == body) of_face[found.face] = uint8_t(1 + int(found.mark));
        for (uint32_t face : shape.face_of) marks.facets.of.push_back(of_face[face]);
    }
    return marks;
}

std::vector<MarkedFace> with_mark(const Part& part, const PartResult& made, const std::vector<PickedFace>& faces,
                                  std::optional<FaceMark> mark) {
    const FoundMarks found = find_marks(part, made);
    auto replaced = [&](size_t nth) {
        for (const FoundMark& known : found.faces)
            for (const PickedFace& picked : faces)
                if (known.nth == nth && known.body == picked.body && known.face == picked.face) return true;
        return false;
    };
    std::vector<MarkedFace> marks;
    for (size_t i = 0; i < part.marks.size(); ++i)
        if (!replaced(i)) marks.push_back(part.marks[i]);
    for (const PickedFace& picked : faces)
        if (mark && picked.body < made.bodies.size())
            marks.push_back({make_reference(made.bodies[picked.body].body, picked.face, picked.at), *mark});
    return marks;
}

std::optional<FaceMark> mark_of(const FoundMarks& marks, size_t body, size_t face) {
    for (const FoundMark& found : marks.faces)
        if (found.body == body && found.face == face) return found.mark;
    return std::nullopt;
}

std::string lost_words(const Part& part, const FoundMarks& marks) {
    if (marks.lost.empty()) return "";
    std::vector<std::string> which;
    for (size_t i : marks.lost) which.push_back(face_words(part.marks[i]));
    return (which.size() == 1 ? "A marked face is gone: " : "Marked faces are gone: ") + joined(which) +
           ". Mark what is there now, or take the marks off in Bed.";
}

std::string face_words(const MarkedFace& marked) {
    return std::string(words_of(marked.mark)) + ", " + tag_words(marked.face.primary) + " face";
}

} // namespace lp

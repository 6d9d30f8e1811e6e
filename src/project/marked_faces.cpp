#include "project/marked_faces.h"
#include "base/hash.h"
#include "base/text.h"
#include "shape/mesh_distance.h"
#include "steps/bodies_of.h"
#include <mutex>

namespace lp {

uint64_t FoundMarks::key() const {
    Hasher hasher(1);
    for (const FoundMark& found : faces) hasher.add(found.body).add(found.face).add(found.mark);
    hasher.add(dabs_key);
    return hasher.value();
}

/// Over the marks of faces.
static void brush(const Part& part, const PartResult& made, FoundMarks& marks) {
    if (part.brushed.empty() || !made.mesh) return;
    Hasher key(1);
    for (const BrushDab& dab : part.brushed) {
        for (double v : {dab.at.x(), dab.at.y(), dab.at.z(), dab.out.x(), dab.out.y(), dab.out.z(), dab.radius_mm})
            key.add(v);
        key.add(dab.mark ? 1 + int(*dab.mark) : 0);
    }
    marks.dabs_key = key.value();
    size_t first = 0;
    FacetMarks brushed;
    for (const StepBody& body : made.bodies) {
        const size_t count = body.body.tessellation().mesh.triangles.size();
        if (!body.body.is_exact()) brush_facets(*made.mesh, first, count, part.brushed, brushed);
        first += count;
    }
    marks.brush_lost = brushed.of.empty() && std::any_of(part.brushed.begin(), part.brushed.end(),
                                                         [](const BrushDab& dab) { return dab.mark.has_value(); });
    for (size_t i = 0; i < brushed.of.size(); ++i)
        if (const auto mark = brushed.at(i)) marks.brushed_mm2[size_t(*mark)] += made.mesh->area_vector(i).norm() / 2;
    if (marks.facets.of.empty())
        marks.facets = brushed;
    else
        for (size_t i = 0; i < brushed.of.size(); ++i)
            if (brushed.of[i]) marks.facets.of[i] = brushed.of[i];
    marks.brushed = std::move(brushed);
}

namespace {

/// What was found last, for each of the last parts asked about.
class Memo {
  public:
    std::optional<FoundMarks> find(const Part& part, const PartResult& made) {
        std::lock_guard lock(mutex_);
        for (const Entry& e : entries_)
            if (e.part == part.id && e.mesh.lock() == made.mesh && e.marks == part.marks && e.brushed == part.brushed)
                return e.found;
        return std::nullopt;
    }
    void keep(const Part& part, const PartResult& made, const FoundMarks& found) {
        std::lock_guard lock(mutex_);
        std::erase_if(entries_, [&](const Entry& e) { return e.part == part.id && e.mesh.lock() == made.mesh; });
        constexpr size_t most = 24;
        if (entries_.size() >= most) entries_.erase(entries_.begin());
        entries_.push_back({part.id, made.mesh, part.marks, part.brushed, found});
    }

  private:
    struct Entry {
        PartId part;
        std::weak_ptr<const TriMesh> mesh;
        std::vector<MarkedFace> marks;
        std::vector<BrushDab> brushed;
        FoundMarks found;
    };
    std::mutex mutex_;
    std::vector<Entry> entries_;
};

FoundMarks look_for_marks(const Part& part, const PartResult& made);

} // namespace

FoundMarks find_marks(const Part& part, const PartResult& made) {
    static Memo memo;
    if ((part.marks.empty() && part.brushed.empty()) || !made.mesh) return look_for_marks(part, made);
    if (auto known = memo.find(part, made)) return *known;
    FoundMarks found = look_for_marks(part, made);
    memo.keep(part, made, found);
    return found;
}

namespace {

FoundMarks look_for_marks(const Part& part, const PartResult& made) {
    FoundMarks marks;
    for (size_t i = 0; i < part.marks.size(); ++i) {
        const MarkedFace& marked = part.marks[i];
        const auto found = resolve_among(bodies_of(made.bodies), marked.face);
        if (found)
            marks.faces.push_back(
                {i, found->body, found->index, marked.mark, place_of(made.bodies[found->body].body, marked.face)});
        else
            marks.lost.push_back(i);
    }
    if (!marks.faces.empty())
        for (size_t body = 0; body < made.bodies.size(); ++body) {
            const Tessellation& shape = made.bodies[body].body.tessellation();
            std::vector<uint8_t> of_face(shape.faces.size(), 0);
            for (const FoundMark& found : marks.faces)
                if (found.body == body) of_face[found.face] = uint8_t(1 + int(found.mark));
            for (uint32_t face : shape.face_of) marks.facets.of.push_back(of_face[face]);
        }
    brush(part, made, marks);
    return marks;
}

} // namespace

Vec3 outward_at(const Tessellation& shape, size_t face, const Vec3& at) {
    double nearest = std::numeric_limits<double>::infinity();
    Vec3 out = Vec3::UnitZ();
    for (size_t i = 0; i < shape.face_of.size(); ++i) {
        if (shape.face_of[i] != face) continue;
        const TriMesh& mesh = shape.mesh;
        const Vec3 on = closest_on_triangle(at, mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2));
        const double distance = (on - at).norm();
        if (distance >= nearest || !(mesh.area_vector(i).norm() > 0)) continue;
        nearest = distance;
        out = mesh.area_vector(i).normalized();
    }
    return out;
}

bool can_be_brushed(const PartResult& made) {
    return std::any_of(made.bodies.begin(), made.bodies.end(), [](const StepBody& b) { return !b.body.is_exact(); });
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
    if (marks.lost.empty() && marks.brush_lost)
        return "What was brushed is gone: no triangle is there any more. Brush what is there now, or wipe it off in "
               "Bed.";
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

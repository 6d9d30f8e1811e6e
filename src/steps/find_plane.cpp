#include "steps/find_plane.h"
#include "base/text.h"
#include "steps/bodies_of.h"
#include <charconv>
#include <sstream>

namespace lp {
namespace {

/// "top of lid", "side 12 of base": the tag it names. The name may have blanks.
std::optional<Tag> tag_from_words(const StepContext& context, const std::string& text) {
    size_t of = text.find(" of ");
    if (of == std::string::npos) return std::nullopt;
    std::istringstream words(text.substr(0, of));
    std::string word, number;
    words >> word >> number;
    auto role = role_from_word(word);
    if (!role) return std::nullopt;
    uint64_t element = 0;
    if (!number.empty() && std::from_chars(number.data(), number.data() + number.size(), element).ec != std::errc())
        return std::nullopt;
    auto step = context.step_named ? context.step_named(text.substr(of + 4)) : std::nullopt;
    if (!step) return std::nullopt;
    return intern_tag({*step, *role, element, context.copy, 0});
}

} // namespace

Expected<FoundFace> find_face(const std::vector<StepBody>& before, const StepContext& context, const FieldValue& value,
                              bool any_in_plane) {
    const auto& items = value.geometry();
    if (items.size() == 1) return find_face(before, context, items.front(), any_in_plane);
    return problem(ProblemCode::Wording, quoted_start(value.text()) + " names no one face.",
                   "Choose one face in the view.");
}

Expected<FoundFace> find_face(const std::vector<StepBody>& before, const StepContext& context, const GeometryItem& item,
                              bool any_in_plane) {
    const std::string text = item.face_words();
    if (item.face()) {
        const FaceReference picked = in_copy(*item.face(), context.copy);
        const auto found = resolve_among(bodies_of(before), picked, any_in_plane);
        if (!found) return pass_on(found);
        return FoundFace{found->body, found->index, picked.primary};
    }
    FaceReference reference;
    if (auto tag = tag_from_words(context, text)) {
        reference.primary = *tag;
        reference.tags = {*tag};
    } else {
        return problem(ProblemCode::Wording, "\"" + text + "\" is no plane and no face of the part.",
                       "Use xy, xz or yz, pick a face, or write top of NAME.");
    }
    Problem why{ProblemCode::Missing, "There is no body yet with that face.", "Put a solid before this step."};
    for (size_t i = before.size(); i-- > 0;) {
        auto face = resolve_reference(before[i].body, reference, any_in_plane);
        if (face) return FoundFace{i, *face, reference.primary};
        why = face.error();
    }
    return pass_on(why);
}

Expected<Transform> find_plane(const std::vector<StepBody>& before, const StepContext& context,
                               const FieldValue& value) {
    const std::string& text = value.text();
    if (context.nominal) return context.nominal->plane;
    Transform plane = Transform::Identity();
    if (text == "xy" || text.empty()) return plane;
    if (text == "xz") {
        plane.linear() << Vec3::UnitX(), Vec3::UnitZ(), -Vec3::UnitY();
        return plane;
    }
    if (text == "yz") {
        plane.linear() << Vec3::UnitY(), Vec3::UnitZ(), Vec3::UnitX();
        return plane;
    }
    auto face = find_face(before, context, value, true);
    if (!face) return pass_on(face);
    auto frame = face_frame(before[face->body].body, face->face, face->primary);
    if (!frame)
        return problem(ProblemCode::Geometry, "The face to stand on is not flat.",
                       "Pick a flat face, or xy, xz or yz.");
    return *frame;
}

Expected<const PlacedOutline*> find_outline(const StepContext& context, const std::string& name) {
    if (context.outlines.empty())
        return problem(ProblemCode::Missing, "There is no outline before this step.", "Draw one first.");
    if (name.empty()) return &context.outlines.back();
    auto id = context.step_named ? context.step_named(name) : std::nullopt;
    for (const PlacedOutline& o : context.outlines)
        if (o.name == name || (id && o.step == *id)) return &o;
    std::string there;
    for (const PlacedOutline& o : context.outlines)
        there += (there.empty() ? "" : ", ") + (o.name.empty() ? to_text(o.step) : o.name);
    return problem(ProblemCode::Missing, "There is no outline called \"" + name + "\" before this step.",
                   "There are: " + there + ".");
}

} // namespace lp

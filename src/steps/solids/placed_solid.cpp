#include "steps/solids/placed_solid.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"

namespace lp {

StepField does_field() {
    return StepField{"does",
                     FieldKind::Choice,
                     "join",
                     0,
                     0,
                     {"join", "cut", "common", "new"},
                     "joined to the part, cut from it, kept where both are, or a body of its own"}
        .as(FieldRole::Does);
}

std::vector<StepField> placing_fields(const Placing& placing) {
    const double far = tolerance::largest_mm;
    std::vector<StepField> fields{
        StepField{
            "on", FieldKind::Plane, "xy", 0, 0, {}, "the plane or face it stands on; its coordinates are counted there"}
            .as(FieldRole::StandsOn),
        StepField{"at_x", FieldKind::Length, "0 mm", -far, far, {}, "left to right"}.as(FieldRole::AtX),
        StepField{"at_y", FieldKind::Length, "0 mm", -far, far, {}, "front to back"}.as(FieldRole::AtY),
        StepField{"at_z", FieldKind::Length, "0 mm", -far, far, {}, "up from the plane or face"}.as(FieldRole::AtZ)};
    if (placing.along)
        fields.push_back(
            StepField{"along", FieldKind::Choice, "z", 0, 0, {"z", "x", "y", "-z", "-x", "-y"}, "which way it points"}
                .as(FieldRole::Along));
    if (!placing.from.empty())
        fields.push_back(
            {"from", FieldKind::Choice, placing.from_standard, 0, 0, placing.from, "what of it stands at that point"});
    fields.push_back(does_field());
    return fields;
}

Expected<StepResult> place_solid(const std::vector<StepBody>& before, const StepContext& context, double drop,
                                 const std::function<Expected<Body>(const Transform& at)>& make,
                                 std::vector<SizeHandle> handles) {
    auto plane = find_plane(before, context, context.value("on"));
    if (!plane) return pass_on(plane);
    Transform at = *plane;
    at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")));
    auto found = context.words.find("along"); // blocks and balls need none
    const std::string along = found == context.words.end() ? "z" : found->second.text();
    // A quarter turn that keeps the other axes in order, so that a block's x and y go where one expects them.
    Eigen::Matrix3d turn = Eigen::Matrix3d::Identity();
    if (along == "x") turn = Eigen::Matrix3d{{0, 0, 1}, {1, 0, 0}, {0, 1, 0}};
    if (along == "y") turn = Eigen::Matrix3d{{0, 1, 0}, {0, 0, 1}, {1, 0, 0}};
    if (along == "-z") turn = Eigen::Matrix3d{{1, 0, 0}, {0, -1, 0}, {0, 0, -1}};
    if (along == "-x") turn = Eigen::Matrix3d{{0, 0, -1}, {1, 0, 0}, {0, -1, 0}};
    if (along == "-y") turn = Eigen::Matrix3d{{0, -1, 0}, {0, 0, -1}, {1, 0, 0}};
    at.linear() = at.linear() * turn;
    at.translate(Vec3(0, 0, -drop));
    auto made = make(at);
    if (!made) return pass_on(made);
    auto result = apply_solid(before, *made, context);
    if (!result) return result;
    result->place = StepPlace{*plane, {}, {}};
    for (SizeHandle& handle : handles) handle.from = at * handle.from, handle.way = at.linear() * handle.way;
    result->handles = std::move(handles);
    return result;
}

SizeHandle size_both_ways(const char* field, const Vec3& middle, const Vec3& way) {
    return {field, SizeHandle::Shape::Arrow, middle, way, 2};
}

SizeHandle size_one_way(const char* field, const Vec3& from, const Vec3& way) {
    return {field, SizeHandle::Shape::Arrow, from, way, 1};
}

SizeHandle height_handle(const StepContext& context, const char* field) {
    auto from = context.words.find("from");
    if (from != context.words.end() && from->second.text() == "centre")
        return size_both_ways(field, Vec3(0, 0, context.number(field) / 2), Vec3::UnitZ());
    return size_one_way(field, Vec3::Zero(), Vec3::UnitZ());
}

SizeHandle diameter_handle(const char* field, double height) {
    return {field, SizeHandle::Shape::Ring, Vec3(0, 0, height), Vec3::UnitZ(), 2};
}

double origin_drop(const StepContext& context, double height) {
    return context.growth_mm + (context.word("from") == "centre" ? height / 2 : 0);
}

Expected<StepResult> apply_solid(const std::vector<StepBody>& before, Body made, const StepContext& context) {
    StepResult result{before, {}, {}};
    const std::string& does = context.word("does");
    if (does == "new" || (before.empty() && does == "join")) {
        result.bodies.push_back({context.step_id, context.name, made});
        result.tools = {{Operation::Join, [made]() -> Expected<Body> { return made; }}};
        return result;
    }
    if (before.empty())
        return problem(ProblemCode::Missing,
                       "There is no body yet to " + std::string(does == "cut" ? "cut from." : "keep a part of."),
                       "Put a solid before this step.");
    Operation operation = does == "cut" ? Operation::Cut : does == "common" ? Operation::Common : Operation::Join;
    auto combined = combine(operation, before.front().body, {made}, context.task);
    if (!combined) return pass_on(combined);
    result.note = combined->note;
    if (operation == Operation::Cut &&
        std::fabs(combined->body.mass().volume_mm3 - before.front().body.mass().volume_mm3) < tolerance::overlap_mm3)
        result.note = "It cuts nothing: it misses the part.";
    result.bodies.front().body = combined->body;
    tell_pieces(result, 0, before.front().body.pieces());
    result.tools = {{operation, [made]() -> Expected<Body> { return made; }}};
    return result;
}

StepField solid_length(const char* name, const char* standard, const char* hint, double low) {
    return {name, FieldKind::Length, standard, low, tolerance::largest_mm, {}, hint};
}

StepKind profile_solid(const char* id, const char* title, const char* purpose, std::vector<StepField> own) {
    StepKind kind;
    kind.id = id;
    kind.title = title;
    kind.purpose = purpose;
    kind.fields = std::move(own);
    for (StepField& field : placing_fields({.from = {}})) kind.fields.push_back(field);
    return kind;
}

} // namespace lp

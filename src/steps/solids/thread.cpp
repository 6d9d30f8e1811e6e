#include "base/quantity.h"
#include "hardware/measured_thread.h"
#include "hardware/thread_size.h"
#include "mesh/thread_mesh.h"
#include "steps/solids/placed_solid.h"

namespace lp {
namespace {

Expected<ThreadShape> shape_of(const StepContext& context) {
    ThreadShape shape;
    shape.major_mm = context.number("diameter");
    shape.pitch_mm = context.number("pitch");
    if (const std::string& size = context.word("size"); !size.empty()) {
        const auto found = thread_size(size);
        if (!found) return pass_on(found);
        shape.major_mm = found->major_mm;
        shape.pitch_mm = found->pitch_mm;
    }
    shape.length_mm = context.number("length");
    shape.profile = thread_profile_called(context.word("profile")).value_or(ThreadProfile::Sharp);
    shape.starts = int(std::lround(context.number("starts")));
    shape.left_hand = context.word("hand") == "left";
    // Cut out of something it is the room for a screw: larger by its gap, and wide at its mouths.
    shape.mouths = context.word("does") == "cut";
    shape.fit_mm = (shape.mouths ? -1 : 1) * context.number("gap");
    shape.growth_mm = context.growth_mm;
    return shape;
}

} // namespace

StepKind thread_kind() {
    StepKind kind;
    kind.id = "thread";
    kind.title = "Thread";
    kind.purpose = "A screw thread, or the room for one.";
    kind.fields = {StepField{"size",
                             FieldKind::Text,
                             "M10",
                             0,
                             0,
                             {},
                             "M10, M10x1.25, UNC-1/4, G1/2, 58x4, or measured: 27.4, 5 in 13.5"}
                       .optional("by numbers"),
                   {"diameter", FieldKind::Length, "10 mm", 0.5, 2000, {}, "across the crests, where no size is named"},
                   {"pitch", FieldKind::Length, "1.5 mm", 0.05, 500, {}, "from crest to crest, where no size is named"},
                   {"length", FieldKind::Length, "20 mm", 0.1, 2000, {}, "along the axis"},
                   {"profile",
                    FieldKind::Choice,
                    "sharp",
                    0,
                    0,
                    {"sharp", "round", "trapezoid", "buttress"},
                    "sharp: of the metric and unified standards; round: prints standing without support"},
                   {"starts", FieldKind::Count, "1", 1, 20, {}, "grooves side by side"},
                   {"hand", FieldKind::Choice, "right", 0, 0, {"right", "left"}, "which way it is turned in"},
                   {"gap",
                    FieldKind::Length,
                    "0.2 mm",
                    0,
                    5,
                    {},
                    "this thread is smaller, or its hole larger, by this all round"}};
    for (StepField& field : placing_fields()) kind.fields.push_back(field);
    kind.sentence =
        "Thread {size}[ {diameter} across][ with a pitch of {pitch}], {length} long[, {profile}][, {starts} "
        "starts][, {hand} hand], gap {gap}, {from} at {at_x}, {at_y}, {at_z}[ on {on}], along {along}, {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"screw", "bolt", "helix", "metric", "threaded", "tap", "nut"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 90},
                   {.when = Chosen::Face,
                    .place = 75,
                    .words = "Threaded rod here",
                    .hint = "A screw thread standing on this face",
                    .fields = {{"does", "join"}, {"length", "12 mm"}},
                    .stands_there = true,
                    .any_body = true,
                    .folded = true},
                   {.when = Chosen::Face,
                    .place = 76,
                    .words = "Threaded hole here",
                    .hint = "Room for a screw, into this face",
                    .fields = {{"does", "cut"}, {"length", "12 mm"}},
                    .stands_there = true,
                    .any_body = true,
                    .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        const auto shape = shape_of(context);
        if (!shape) return pass_on(shape);
        const auto thread = make_thread(*shape);
        if (!thread) return pass_on(thread);
        const double length = context.number("length");
        auto result =
            place_solid(before, context, context.word("from") == "centre" ? length / 2 : 0,
                        [&](const Transform& at) -> Expected<Body> {
                            TriMesh mesh = transformed(thread->mesh, at);
                            mesh.tags.assign(mesh.triangles.size(),
                                             intern_tag({context.step_id, FaceRole::Side, 0, context.copy, 0}));
                            return Body::from_mesh(std::move(mesh));
                        },
                        {height_handle(context, "length")});
        if (const auto measured = measured_thread(context.word("size")); result && measured && result->note.empty())
            result->note = measured_words(*measured, threads_near(Hardware(), *measured));
        if (result && thread->turns < 1.5 && result->note.empty())
            result->note = "Only " + format_number(thread->turns, 1) + " turns: fewer than 1.5 may not hold.";
        return result;
    };
    return kind;
}

} // namespace lp

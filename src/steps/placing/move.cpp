// Shifts bodies by typed distances.
#include "steps/placing/move.h"
#include "base/tolerance.h"
#include "steps/placing/moving.h"

namespace lp {

StepKind move_kind() {
    StepKind kind;
    kind.id = move_kind_id;
    kind.title = "Move";
    kind.purpose = "Shifts bodies by typed distances.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"by_x", FieldKind::Length, "0 mm", -far, far, {}, "to the right"},
                   {"by_y", FieldKind::Length, "0 mm", -far, far, {}, "to the back"},
                   {"by_z", FieldKind::Length, "0 mm", -far, far, {}, "up"}};
    kind.sentence = "Move {what} by {by_x}, {by_y}, {by_z}";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"translate", "shift"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        Transform move = Transform::Identity();
        move.translate(Vec3(context.number("by_x"), context.number("by_y"), context.number("by_z")));
        return move_chosen(before, context, move);
    };
    return kind;
}

bool is_move(const std::string& kind) {
    return kind == move_kind_id;
}

const char* move_field(int axis) {
    static constexpr const char* names[] = {"by_x", "by_y", "by_z"};
    return names[axis];
}

MoveFields move_fields(const std::function<std::string(const char* field)>& text) {
    return {text("what"), {text(move_field(0)), text(move_field(1)), text(move_field(2))}};
}

std::map<std::string, std::string> fields_of_move(const MoveFields& move) {
    std::map<std::string, std::string> fields{{"what", move.what}};
    for (int k = 0; k < 3; ++k)
        if (!move.by[size_t(k)].empty()) fields[move_field(k)] = move.by[size_t(k)];
    return fields;
}

std::map<std::string, std::string> fields_of_repeated_move(const MoveFields& move) {
    std::map<std::string, std::string> fields = fields_of_move(move); // a repeat's distances are called the same
    fields.insert({{"count", "2"}, {"does", "join"}});
    return fields;
}

} // namespace lp

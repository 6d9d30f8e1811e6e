#include "app/offers/nudge.h"
#include "app/sheet/build_sheet.h"
#include "steps/placing/move.h"

namespace lp {
namespace {

/// What a move or turn of one body of several is called in its step; "all" for the whole part.
std::string body_words(const Session& session, PartId part, std::optional<size_t> body) {
    const auto* bodies = session.results().bodies_of(part);
    return body && bodies && bodies->size() > 1 && *body < bodies->size() ? (*bodies)[*body].called() : "all";
}

std::string typed_length(double mm) {
    return format_number(mm, 6) + " mm";
}

/// What a step that moves says.
MoveFields move_of(const Step& step) {
    const StepKind& kind = *find_step_kind(step.kind);
    return move_fields([&](const char* field) { return field_text(step, *kind.field(field)); });
}

/// A number put on top of what is typed; one that is worked out keeps its formula.
std::string added(const std::string& now, double by, QuantityKind kind, const char* unit) {
    auto value = is_plain_number(now) ? evaluate_expression(now, kind, {}) : Expected<double>(0);
    if (is_plain_number(now) && value) return format_number(*value + by, 6) + unit;
    return now + (by < 0 ? " - " : " + ") + format_number(std::fabs(by), 6) + unit;
}

/// The part stands elsewhere in the assembly.
void place_by(Session* session, const Part& part, const Vec3& by_mm) {
    AssemblyPlace place = part.place;
    for (int k = 0; k < 3; ++k)
        if (by_mm[k] != 0) place.at[size_t(k)] = added(place.at[size_t(k)], by_mm[k], QuantityKind::Length, " mm");
    Edit edit = SetPlace{part.id, place};
    edit.sentence = "Moved " + part.name + " by " + typed_length(by_mm.norm()) + " in the assembly";
    session->document().edit(edit);
}

} // namespace

void nudge(Session* session, const Vec3& by_mm) {
    const Pick pick = session->workspace().selection().empty() ? Pick{} : session->workspace().selection().back();
    std::optional<size_t> body;
    if (pick && pick.kind != Pick::Kind::Body) body = pick.body;
    move_by(session, pick ? pick.part : session->workspace().active_part(), body, by_mm);
}

void turn_by(Session* session, PartId id, std::optional<size_t> body, int axis, double angle_deg, const Vec3& centre) {
    PartPtr part = session->project()->part(id);
    if (!part) return;
    if (session->workspace().stretch() == Stretch::Fit) {
        Transform turn = Transform::Identity();
        turn.translate(centre);
        turn.rotate(Eigen::AngleAxisd(radians(angle_deg), Vec3::Unit(axis)));
        turn.translate(-centre);
        const Transform now = turn * session->results().place_of(id);
        Edit edit = SetPlace{id, typed_place(now)};
        if (!part->place.seats.empty()) edit.sentence = "Turned " + part->name + ", which has no seat any more";
        session->document().edit(edit);
        return;
    }
    Vec3 about = session->results().place_of(id).inverse() * centre;
    std::map<std::string, std::string> fields{
        {"what", body_words(*session, id, body)}, {"angle", format_number(angle_deg, 4) + " deg"},
        {"axis", std::string(1, "xyz"[axis])},    {"through_x", typed_length(about.x())},
        {"through_y", typed_length(about.y())},   {"through_z", typed_length(about.z())}};
    session->document().edit(AddStep{id, step_of_kind("turn", fields), {}});
}

void move_by(Session* session, PartId id, std::optional<size_t> body, const Vec3& by_mm) {
    PartPtr part = session->project()->part(id);
    if (!part || part->steps.empty()) return session->say("Choose what is to be moved first.", true);
    if (session->workspace().stretch() == Stretch::Fit) return place_by(session, *part, by_mm);
    std::string what = body_words(*session, id, body);
    const Step& last = part->steps.back();
    bool goes_on = is_move(last.kind) && move_of(last).what == what;
    Edit edit;
    MoveFields fresh{what, {}};
    for (int k = 0; k < 3; ++k) {
        if (by_mm[k] == 0) continue;
        if (goes_on)
            edit.parts.push_back(SetField{id, last.id, move_field(k),
                                          added(move_of(last).by[size_t(k)], by_mm[k], QuantityKind::Length, " mm")});
        else
            fresh.by[size_t(k)] = typed_length(by_mm[k]);
    }
    if (!goes_on) edit.parts.push_back(AddStep{id, step_of_kind(move_kind_id, fields_of_move(fresh)), {}});
    edit.sentence = "Nudged by " + format_number(by_mm.norm(), 3) + " mm";
    session->document().edit(edit);
}

void repeat_once_more(Session* session) {
    PartPtr part = session->project()->part(session->workspace().active_part());
    if (!part || part->steps.empty()) return session->say("There is nothing to repeat yet.", true);
    const Step& last = part->steps.back();
    const StepKind* kind = find_step_kind(last.kind);
    if (const StepField* field = kind ? kind->field_as(FieldRole::Count) : nullptr) {
        std::string now = field_text(last, *field);
        auto count = evaluate_expression(now, QuantityKind::Count, {});
        session->document().edit(
            SetField{part->id, last.id, field->name, count ? format_number(*count + 1) : now + " + 1"});
        return;
    }
    // A move that ends the sheet says how far; the body is copied by it.
    if (is_move(last.kind)) {
        Edit edit;
        edit.parts = {RemoveStep{part->id, last.id},
                      AddStep{part->id, step_of_kind("repeat", fields_of_repeated_move(move_of(last))), {}}};
        edit.sentence = "Repeated with the last move";
        session->document().edit(edit);
        return;
    }
    if (kind && kind->repeatable) {
        add_step(session, part->id, "repeat",
                 {{"steps", last.name.empty() ? to_text(last.id) : last.name}, {"count", "2"}});
        return;
    }
    session->say("The last step makes nothing that could be repeated. Repeat a solid, or a move of one.", true);
}

} // namespace lp

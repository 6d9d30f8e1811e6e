#include "app/offers/nudge.h"
#include "app/sheet/build_sheet.h"

namespace lp {
namespace {

std::string body_name(const StepBody& body) {
    return body.name.empty() ? std::to_string(body.made_by) : body.name;
}

} // namespace

void nudge(Session* session, const Vec3& by_mm) {
    const Pick pick = session->selection().empty() ? Pick{} : session->selection().back();
    uint64_t id = pick ? pick.part : session->active_part();
    PartPtr part = session->project()->part(id);
    if (!part || part->steps.empty()) return session->say("Choose what is to be moved first.", true);
    std::string what = "all";
    const auto* bodies = session->bodies_of(id);
    if (pick && bodies && bodies->size() > 1 && pick.kind != Pick::Kind::Body && pick.body < bodies->size())
        what = body_name((*bodies)[pick.body]);
    const char* names[] = {"by_x", "by_y", "by_z"};
    const Step& last = part->steps.back();
    const StepKind& move = *find_step_kind("move");
    bool goes_on = last.kind == "move" && field_text(last, *move.field("what")) == what;
    Edit edit;
    Step fresh;
    fresh.kind = "move";
    fresh.fields["what"] = what;
    for (int k = 0; k < 3; ++k) {
        if (by_mm[k] == 0) continue;
        std::string text = format_number(by_mm[k], 6) + " mm";
        if (goes_on) { // a number that is worked out keeps its formula
            std::string now = field_text(last, *move.field(names[k]));
            auto value =
                is_plain_number(now) ? evaluate_expression(now, QuantityKind::Length, {}) : Expected<double>(0);
            text = is_plain_number(now) && value
                       ? format_number(*value + by_mm[k], 6) + " mm"
                       : now + (by_mm[k] < 0 ? " - " : " + ") + format_number(std::fabs(by_mm[k]), 6) + " mm";
            edit.parts.push_back(SetField{id, last.id, names[k], text});
        } else {
            fresh.fields[names[k]] = text;
        }
    }
    if (!goes_on) edit.parts.push_back(AddStep{id, fresh, {}});
    edit.sentence = "Nudged by " + format_number(by_mm.norm(), 3) + " mm";
    session->edit(edit);
}

void repeat_once_more(Session* session) {
    PartPtr part = session->project()->part(session->active_part());
    if (!part || part->steps.empty()) return session->say("There is nothing to repeat yet.", true);
    const Step& last = part->steps.back();
    const StepKind* kind = find_step_kind(last.kind);
    if (kind && kind->field("count") && kind->field("drop")) {
        std::string now = field_text(last, *kind->field("count"));
        auto count = evaluate_expression(now, QuantityKind::Count, {});
        session->edit(SetField{part->id, last.id, "count", count ? format_number(*count + 1) : now + " + 1"});
        return;
    }
    // A move that ends the sheet says how far; the body is copied by it.
    if (last.kind == "move") {
        Step repeat;
        repeat.kind = "repeat";
        repeat.fields = {{"count", "2"}, {"does", "join"}};
        for (const char* axis : {"by_x", "by_y", "by_z"}) repeat.fields[axis] = field_text(last, *kind->field(axis));
        repeat.fields["what"] = field_text(last, *kind->field("what"));
        Edit edit;
        edit.parts = {RemoveStep{part->id, last.id}, AddStep{part->id, repeat, {}}};
        edit.sentence = "Repeated with the last move";
        session->edit(edit);
        return;
    }
    if (kind && kind->field("does")) {
        add_step(session, part->id, "repeat",
                 {{"steps", last.name.empty() ? std::to_string(last.id) : last.name}, {"count", "2"}});
        return;
    }
    session->say("The last step makes nothing that could be repeated. Repeat a solid, or a move of one.", true);
}

} // namespace lp

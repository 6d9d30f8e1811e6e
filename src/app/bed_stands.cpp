#include "app/bed_stands.h"

namespace lp {
namespace {

SetStands as_they_stand(const Session& session) {
    SetStands edit;
    for (const PartPtr& part : session.project()->parts) // copies too many to be shown keep theirs
        if (!part->stands.empty()) edit.stands[part->id] = part->stands;
    for (const BedCopy& copy : bed_layout(session).copies) edit.stands[copy.part][copy.copy] = {copy.spot, copy.locked};
    return edit;
}

} // namespace

void put_on_bed(Session& session, PartId part, int copy, const BedStand& stand) {
    SetStands all = as_they_stand(session);
    all.stands[part][copy] = stand;
    Edit edit = all;
    if (PartPtr moved = session.project()->part(part)) edit.sentence = "Put " + moved->name + " elsewhere on the bed";
    session.document().edit(edit);
}

void arrange_everything(Session& session) {
    if (!session.results().evaluation_is_current())
        return session.say("The parts are still being made. Arrange them in a moment.", true);
    struct Printed {
        PartId part;
        std::shared_ptr<const TriMesh> mesh;
        Transform pose;
        std::shared_ptr<const Tessellation> supports;
    };
    std::vector<Printed> printed;
    const Analysis* analysis = session.results().analysis();
    for (const PartPtr& part : session.project()->parts) {
        const PartResult* made = session.results().evaluation()->part(part->id);
        if (part->stand_in || !made || !made->mesh) continue;
        Printed one{part->id, made->mesh, session.results().pose_of(part->id), nullptr};
        const PartAnalysis* known = analysis ? analysis->part(part->id) : nullptr;
        if (part->supports.any() && known) one.supports = known->supports_shape;
        printed.push_back(std::move(one));
    }
    session.worker().start(Lane::Asked, "arrange",
                           [&session, project = session.project(), printed = std::move(printed)](const Task& task) {
                               std::vector<BedThing> things;
                               for (const Printed& one : printed) {
                                   things.push_back({one.part, transformed(*one.mesh, one.pose)});
                                   if (one.supports) append(things.back().posed, one.supports->mesh);
                               }
                               auto edit = arrange_beds(*project, things, task);
                               session.worker().post([&session, edit] {
                                   if (!edit) {
                                       if (edit.error().code != ProblemCode::Cancelled)
                                           session.say(QString::fromStdString(edit.error().text()), true);
                                       return;
                                   }
                                   if (session.document().edit(*edit)) return;
                                   emit session.arranged();
                                   size_t things = 0;
                                   for (const auto& [part, stands] : edit->stands) things += stands.size();
                                   session.say(words_of_beds(things, edit->beds) + ".");
                               });
                           });
}

void back_in_rows(Session& session) {
    SetStands none;
    for (const PartPtr& part : session.project()->parts)
        if (!part->stands.empty()) none.stands[part->id] = {};
    if (none.stands.empty()) return;
    Edit edit = none;
    edit.sentence = "Put everything back in rows";
    if (!session.document().edit(edit)) emit session.arranged();
}

std::optional<BedCopy> copy_in_hand(const Session& session, const BedLayout& layout) {
    std::optional<BedCopy> first;
    for (const BedCopy& copy : layout.copies) {
        if (copy.part != session.workspace().active_part()) continue;
        if (copy.copy == session.workspace().active_copy()) return copy;
        if (!first) first = copy;
    }
    return first;
}

} // namespace lp

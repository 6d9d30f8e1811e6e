#include "app/brushing.h"
#include "app/mark_faces.h"
#include "app/sheet/build_sheet.h"
#include "shape/tags.h"
#include "steps/meshes/brush_face.h"

namespace lp {

static const PartResult* made_of(const Session& session, PartId part) {
    return session.results().evaluation() ? session.results().evaluation()->part(part) : nullptr;
}

bool can_brush(const Session& session) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    const PartResult* made = part ? made_of(session, part->id) : nullptr;
    return made && !part->stand_in && can_be_brushed(*made);
}

std::optional<QString> take_brush(Session& session, std::optional<FaceMark> mark) {
    if (!can_brush(session))
        return QString("The brush marks triangles of meshes; this part has faces: choose them and mark them.");
    session.workspace().set_stretch(Stretch::Bed);
    session.workspace().clear_selection();
    Workspace::Brush brush;
    if (const auto& now = session.workspace().brush()) brush = *now;
    brush.mark = mark;
    session.workspace().take_brush(brush);
    session.say((mark ? QString("Draw over what is %1.").arg(words_of(*mark))
                      : QString("Draw over what is not marked any more.")) +
                " Escape puts the brush away.");
    return std::nullopt;
}

bool can_brush_face(const Session& session) {
    const PartResult* made = made_of(session, session.workspace().active_part());
    return made && can_be_brushed(*made);
}

const Step* brushed_step(const Session& session) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    const Step* step = part ? part->step(session.workspace().active_step()) : nullptr;
    return step && step->kind == "brush_face" ? step : nullptr;
}

std::optional<QString> take_face_brush(Session& session, bool wipes) {
    if (!can_brush_face(session))
        return QString("The brush makes faces of triangles; this part has exact ones: click them.");
    const StepId goes_on = brushed_step(session) ? session.workspace().active_step() : StepId();
    session.workspace().set_stretch(Stretch::Shape);
    session.workspace().clear_selection();
    session.workspace().set_active_step(goes_on);
    Workspace::Brush brush;
    if (const auto& now = session.workspace().brush()) brush = *now;
    brush.mark = wipes ? std::nullopt : std::optional(FaceMark::Seen);
    session.workspace().take_brush(brush);
    choose_brushed(session);
    session.say(QString(wipes ? "Draw over what is not to be of the face."
                              : "Draw over what is to be one face. + and - make the brush wider.") +
                " Escape puts the brush away.");
    return std::nullopt;
}

void choose_brushed(Session& session) {
    const Step* step = brushed_step(session);
    const PartId part = session.workspace().active_part();
    const PartResult* made = made_of(session, part);
    if (!step || !made) return;
    std::vector<Pick> picks;
    for (size_t b = 0; b < made->bodies.size(); ++b) {
        const auto& faces = made->bodies[b].body.tessellation().faces;
        for (size_t f = 0; f < faces.size(); ++f)
            if (const auto meaning = tag_meaning(faces[f].primary()); meaning && meaning->step == step->id)
                picks.push_back({Pick::Kind::Face, part, b, f, faces[f].centre});
    }
    session.workspace().select_all(picks);
}

/// The strokes of one face are kept in one step.
static void brush_face_along(Session& session, const Part& part, const std::vector<Dab>& more) {
    const Step* step = brushed_step(session);
    auto before =
        step ? read_dabs(field_text(*step, *find_step_kind("brush_face")->field("dabs"))) : std::vector<Dab>();
    const std::string dabs = text_of(with_dabs(before.value_or(std::vector<Dab>()), more));
    if (step) {
        if (auto wrong = session.document().edit(SetField{part.id, step->id, "dabs", dabs}))
            session.say(QString::fromStdString(wrong->text()), true);
        return;
    }
    add_step(&session, part.id, "brush_face", {{"dabs", dabs}}, true);
    const PartPtr now = session.project()->part(part.id);
    for (const Step& fresh : now->steps)
        if (!part.step(fresh.id)) session.workspace().set_active_step(fresh.id);
}

std::optional<BrushHandle::Touch> touch_of(const Session& session, const Pick& pick) {
    const PartResult* made = made_of(session, pick.part);
    if (pick.part != session.workspace().active_part() || pick.kind != Pick::Kind::Face || !made ||
        pick.body >= made->bodies.size() || made->bodies[pick.body].body.is_exact())
        return std::nullopt;
    const Tessellation* shape = session.results().tessellation_of(pick);
    if (!shape) return std::nullopt;
    return BrushHandle::Touch{pick.point, outward_at(*shape, pick.index, pick.point)};
}

void brush_along(Session& session, const std::vector<BrushHandle::Touch>& stroke) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    const auto& brush = session.workspace().brush();
    if (!part || !brush) return;
    if (session.workspace().stretch() == Stretch::Shape) {
        std::vector<Dab> dabs;
        for (const BrushHandle::Touch& touch : stroke)
            dabs.push_back({touch.at, touch.out, brush->radius_mm, !brush->mark});
        return brush_face_along(session, *part, dabs);
    }
    std::vector<BrushDab> more;
    for (const BrushHandle::Touch& touch : stroke) more.push_back({touch.at, touch.out, brush->radius_mm, brush->mark});
    if (auto wrong = session.document().edit(SetBrushed{part->id, with_dabs(part->brushed, more)}))
        session.say(QString::fromStdString(wrong->text()), true);
}

void wipe_all(Session& session, PartId part) {
    session.document().edit(SetBrushed{part, {}});
}

} // namespace lp

#include "app/brushing.h"
#include "app/mark_faces.h"

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
    std::vector<BrushDab> more;
    for (const BrushHandle::Touch& touch : stroke) more.push_back({touch.at, touch.out, brush->radius_mm, brush->mark});
    if (auto wrong = session.document().edit(SetBrushed{part->id, with_dabs(part->brushed, more)}))
        session.say(QString::fromStdString(wrong->text()), true);
}

void wipe_all(Session& session, PartId part) {
    session.document().edit(SetBrushed{part, {}});
}

} // namespace lp

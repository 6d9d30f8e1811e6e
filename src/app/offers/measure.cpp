#include "app/offers/offers_bar.h"
#include "app/units.h"
#include "base/quantity.h"
#include "project/contact_words.h"

namespace lp {

QString describe_pick(const Session& session, const Pick& pick) {
    if (const EdgeInfo* edge = session.results().edge_of(pick))
        return as_shown("Edge " + format_fixed(edge->length_mm, 2) + " mm long");
    const FaceInfo* face = session.results().face_of(pick);
    if (!face) {
        PartPtr part = pick ? session.project()->part(pick.part) : nullptr;
        return part ? QString::fromStdString(part->name) : QString();
    }
    QString words = as_shown("Face " + format_number(face->area_mm2, 1) + " mm²");
    QString across = as_shown(format_fixed(face->radius_mm * 2, 2) + " mm");
    if (face->kind == SurfaceKind::Plane) words += " · flat";
    if (face->kind == SurfaceKind::Cylinder) words += " · round, ⌀ " + across;
    if (face->kind == SurfaceKind::Sphere) words += " · ball, ⌀ " + across;
    if (face->kind == SurfaceKind::Cone) words += " · conical";
    return words;
}

QString selection_words(const Session& session) {
    const auto& picks = session.workspace().selection();
    const auto& measured = session.results().selection_measure();
    if (picks.size() == 2) return measured ? as_shown(measure_words(*measured)) : QString("measuring …");
    if (picks.empty()) return {};
    QString words = describe_pick(session, picks[0]);
    if (measured && measured->diameter_mm)
        words += " · round, ⌀ " + as_shown(format_fixed(*measured->diameter_mm, 2) + " mm");
    if (measured && picks[0].kind == Pick::Kind::Face)
        words += " · wall " + as_shown(format_fixed(measured->distance_mm, 2) + " mm");
    return words;
}

} // namespace lp

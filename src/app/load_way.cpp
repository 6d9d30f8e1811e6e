#include "app/load_way.h"

namespace lp {

std::optional<Vec3> chosen_way(const Session& session) {
    const auto& picks = session.workspace().selection();
    if (picks.size() != 1) return std::nullopt;
    const PartPtr part = session.project()->part(picks[0].part);
    if (!part || part->stand_in || session.workspace().wound_back(part->id)) return std::nullopt;
    if (const FaceInfo* face = session.results().face_of(picks[0])) {
        const bool told =
            face->kind == SurfaceKind::Plane || face->kind == SurfaceKind::Cylinder || face->kind == SurfaceKind::Cone;
        return told ? std::optional<Vec3>(face->direction) : std::nullopt;
    }
    const EdgeInfo* edge = session.results().edge_of(picks[0]);
    if (!edge || edge->points.size() < 2) return std::nullopt;
    const Vec3 way = edge->points.back() - edge->points.front();
    for (const Vec3& p : edge->points) // bent ones have no direction
        if ((p - edge->points.front()).cross(way).norm() > 0.01 * way.norm()) return std::nullopt;
    return way.norm() > 1e-6 ? std::optional<Vec3>(way.normalized()) : std::nullopt;
}

std::optional<QString> pull_along_chosen(Session& session) {
    const auto way = chosen_way(session);
    if (!way) return QString("Choose a flat or round face or a straight edge of one printed part first.");
    if (auto wrong = session.document().edit(SetLoad{session.workspace().selection()[0].part, *way}))
        return QString::fromStdString(wrong->text());
    return std::nullopt;
}

} // namespace lp

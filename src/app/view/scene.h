// What the view shows: bodies with colours and states, no widget and no OpenGL in it.
#pragma once
#include "project/surface_map.h"
#include <QColor>
#include <memory>
#include <optional>
#include <vector>

namespace lp {

struct SceneBody {
    PartId part;
    size_t body = 0; ///< index among the part's bodies
    int copy = 0;    ///< on the beds: which of its quantity
    std::shared_ptr<const Tessellation> shape;
    Transform place = Transform::Identity();
    QColor colour;
    bool stand_in = false;
    bool see_through = false;
    bool support = false;
    bool brushed = false; ///< triangles that were brushed, a face a mark: looked at, not picked
    bool veil = false;    ///< a halo: a faint hull, never picked
    bool ghost = false;   ///< of a part that stands round the one that is looked at: faint, never picked
    std::shared_ptr<const SurfaceMap> map; ///< coloured by it
};

/// Its facets are finer than the body's own, or lie over them: they are looked at, not picked.
inline bool measured_map(const SceneBody& body) {
    return body.map && body.map->scale == SurfaceMap::Scale::Even;
}
inline bool only_looked_at(const SceneBody& body) {
    return body.support || body.veil || body.ghost || body.brushed || measured_map(body);
}

/// What a click took.
struct Pick {
    enum class Kind { None, Body, Face, Edge };
    Kind kind = Kind::None;
    PartId part;
    size_t body = 0;
    size_t index = 0;          ///< of the face or edge
    Vec3 point = Vec3::Zero(); ///< in the part's design frame
    explicit operator bool() const { return kind != Kind::None; }
    bool same(const Pick& other) const {
        return kind == other.kind && part == other.part &&
               (kind == Kind::Body || (body == other.body && index == other.index));
    }
};

/// Where the middle of a bed stands in the view: three in a row, the next row behind. The first is the origin.
Vec3 middle_of_bed(size_t number, const Vec3& bed_mm);
/// The bed over which a place is, or the nearest.
size_t bed_nearest_to(const Vec3& place, const Vec3& bed_mm);

/// A face of which something is wanted in print: drawn by a pattern.
struct MarkedFacePick {
    PartId part;
    size_t body = 0, face = 0;
    FaceMark mark = FaceMark::Seen;
    bool operator==(const MarkedFacePick&) const = default;
};

struct Scene {
    std::vector<SceneBody> bodies;
    std::vector<MarkedFacePick> marked;
    std::vector<Pick> selected;
    Pick hovered;
    PartId active_part; ///< its edges are drawn darker
    bool edges = true, edges_only = false;
    Transform print_frame = Transform::Identity(); ///< of the active part: its +z is up when printed
    std::optional<Eigen::Vector4d> section;        ///< n.x >= -d is cut away: keeps n.p + d >= 0 (world)
    Vec3 bed_mm{220, 220, 250};
    Vec2 bed_centre{0, 0};
    double bed_z = 0;
    size_t beds = 1; ///< side by side, in rows

    /// Whether it looks the same: the same triangles, places, colours, choices and cuts.
    bool looks_like(const Scene& other) const;
    Box3 box() const;
    Box3 box_of(const std::vector<Pick>& picks) const;
};

} // namespace lp

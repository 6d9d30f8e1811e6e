// A cylinder or prism as the thing a straight hole is cut with. Included only by shape/drill.cpp.
#pragma once
#include "shape/exact_shape.h"
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <optional>

namespace lp {

using Box2 = Eigen::AlignedBox2d;

/// Faces of a bored stretch, looking into the hole, with the tags of the tool's faces they are like.
struct BoredStretch {
    std::vector<std::pair<TopoDS_Shape, TagSet>> faces;
    TopoDS_Wire low_rim, high_rim;
};

/// Stands along z of a frame.
struct StraightTool {
    double low = 0, high = 0;
    Vec2 centre = Vec2::Zero(); ///< all of the section lies within `reach` of it
    double reach = 0;
    Vec2 inside = Vec2::Zero(); ///< a place within the section
    bool round = false;         ///< one circle
    std::vector<Vec2> outline;  ///< of the section, arcs in short chords
    Box2 box;
    double volume_mm3 = 0;
    BirthFrames births;

    double section_mm2() const { return volume_mm3 / (high - low); }
    bool box_apart(const Box2& other, double by) const {
        return (box.min().array() > other.max().array() + by).any() ||
               (box.max().array() < other.min().array() - by).any();
    }
    /// No place of the straight line a-b is in the section or nearer to it than `by`.
    bool stays_clear_of(const Vec2& a, const Vec2& b, double by) const;
    /// From one height to another, with an end of its own where asked for.
    BoredStretch bored(double from, double to, bool low_end, bool high_end) const;

    TopoDS_Face section; ///< its lower face, in the frame
    TagSet low_tags, high_tags;
    std::vector<std::pair<TopoDS_Shape, TagSet>> sides; ///< edge of the section, tags of the side on it
};

/// Directions along which the body may be a prism: square to two of its flat faces; each once.
std::vector<Vec3> straight_axes(const Body& tool);
/// The tool in the frame; nothing when it is no cylinder or prism along z.
std::optional<StraightTool> straight_tool(const Body& tool, const Transform& frame);

} // namespace lp

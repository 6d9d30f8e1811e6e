#include "shape/straight_tool.h"
#include "shape/occt_convert.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>

namespace lp {
namespace {

double segment_distance(const Vec2& p, const Vec2& a, const Vec2& b) {
    Vec2 d = b - a;
    double l = d.squaredNorm(), t = l > 0 ? std::clamp((p - a).dot(d) / l, 0.0, 1.0) : 0;
    return (a + t * d - p).norm();
}

bool segments_cross(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    auto side = [](const Vec2& p, const Vec2& q, const Vec2& r) {
        return (q.x() - p.x()) * (r.y() - p.y()) - (q.y() - p.y()) * (r.x() - p.x());
    };
    return (side(a, b, c) > 0) != (side(a, b, d) > 0) && (side(c, d, a) > 0) != (side(c, d, b) > 0);
}

bool in_polygon(const Vec2& p, const std::vector<Vec2>& polygon) {
    bool in = false;
    for (size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
        const Vec2 &a = polygon[i], &b = polygon[j];
        if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < (b.x() - a.x()) * (p.y() - a.y()) / (b.y() - a.y()) + a.x())
            in = !in;
    }
    return in;
}

/// Normal of a flat face, out of the body; zero for others.
Vec3 flat_normal(const TopoDS_Face& face) {
    BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return Vec3::Zero();
    gp_Pln plane = surface.Plane();
    Vec3 normal = to_direction(plane.Axis().Direction());
    bool reversed = (face.Orientation() == TopAbs_REVERSED) != !plane.Direct();
    return reversed ? Vec3(-normal) : normal;
}

/// A place within the outline that is not on its border: beside the middle of its longest piece.
Vec2 place_inside(const StraightTool& tool) {
    if (tool.round) return tool.centre;
    size_t longest = 0;
    auto length = [&](size_t i) { return (tool.outline[(i + 1) % tool.outline.size()] - tool.outline[i]).norm(); };
    for (size_t i = 1; i < tool.outline.size(); ++i)
        if (length(i) > length(longest)) longest = i;
    Vec2 a = tool.outline[longest], b = tool.outline[(longest + 1) % tool.outline.size()];
    Vec2 across(a.y() - b.y(), b.x() - a.x());
    for (double step = 0.25; step > 1e-4; step /= 4)
        for (double sign : {step, -step})
            if (Vec2 p = (a + b) / 2 + sign * across; in_polygon(p, tool.outline)) return p;
    return tool.centre;
}

bool read_outline(StraightTool& tool) {
    TopoDS_Wire wire = BRepTools::OuterWire(tool.section);
    int wires = 0, edges = 0;
    for (TopoDS_Iterator it(tool.section); it.More(); it.Next()) ++wires;
    if (wires != 1) return false; // a tube leaves a core standing
    for (BRepTools_WireExplorer it(wire, tool.section); it.More(); it.Next(), ++edges) {
        BRepAdaptor_Curve curve(it.Current());
        bool forward = it.Current().Orientation() != TopAbs_REVERSED;
        double a = forward ? curve.FirstParameter() : curve.LastParameter(),
               b = forward ? curve.LastParameter() : curve.FirstParameter();
        if (curve.GetType() != GeomAbs_Line && curve.GetType() != GeomAbs_Circle) return false;
        if (curve.GetType() == GeomAbs_Circle && std::fabs(std::fabs(b - a) - 2 * std::numbers::pi) < 1e-9) {
            tool.round = true;
            tool.centre = to_vec(curve.Circle().Location()).head<2>();
            tool.reach = curve.Circle().Radius();
        }
        int steps = curve.GetType() == GeomAbs_Line ? 1 : 96;
        for (int k = 0; k < steps; ++k) tool.outline.push_back(to_vec(curve.Value(a + (b - a) * k / steps)).head<2>());
    }
    if (tool.round && edges != 1) return false;
    for (const Vec2& p : tool.outline) tool.box.extend(p);
    if (tool.round) {
        tool.box = Box2(tool.centre.array() - tool.reach, tool.centre.array() + tool.reach);
    } else {
        tool.centre = tool.box.center();
        for (const Vec2& p : tool.outline) tool.reach = std::max(tool.reach, (p - tool.centre).norm());
        tool.reach *= 1.01; // what arcs stand out beyond their chords
        Vec2 wide = Vec2::Constant(0.01 * tool.reach);
        tool.box = Box2(tool.box.min() - wide, tool.box.max() + wide);
    }
    tool.inside = place_inside(tool);
    return true;
}

} // namespace

bool StraightTool::stays_clear_of(const Vec2& a, const Vec2& b, double by) const {
    if (segment_distance(centre, a, b) > reach + by) return true;
    if (round || in_polygon(a, outline)) return false;
    const double sag = 1e-3 * reach; // of the outline's chords
    for (size_t i = 0; i < outline.size(); ++i) {
        const Vec2 &c = outline[i], &d = outline[(i + 1) % outline.size()];
        if (segments_cross(a, b, c, d)) return false;
        double near = std::min(std::min(segment_distance(a, c, d), segment_distance(b, c, d)),
                               std::min(segment_distance(c, a, b), segment_distance(d, a, b)));
        if (near < by + sag) return false;
    }
    return true;
}

BoredStretch StraightTool::bored(double from, double to, bool low_end, bool high_end) const {
    gp_Trsf up;
    up.SetTranslation(gp_Vec(0, 0, from - low));
    // A copy of its own for every stretch: what shares edges would be one shell.
    BRepBuilderAPI_Transform lifted(section, up, true);
    BRepPrimAPI_MakePrism prism(lifted.Shape(), gp_Vec(0, 0, to - from));
    TopTools_IndexedMapOfShape all;
    TopExp::MapShapes(prism.Shape(), TopAbs_FACE, all);
    GProp_GProps volume;
    BRepGProp::VolumeProperties(prism.Shape(), volume);
    bool outward = volume.Mass() > 0;
    auto looking_in = [&](const TopoDS_Shape& face) {
        TopoDS_Shape own = all(all.FindIndex(face));
        return outward ? own.Reversed() : own;
    };
    BoredStretch result;
    for (const auto& [edge, tags] : sides)
        for (const TopoDS_Shape& wall : prism.Generated(lifted.ModifiedShape(edge)))
            result.faces.emplace_back(looking_in(wall), tags);
    if (low_end) result.faces.emplace_back(looking_in(prism.FirstShape()), low_tags);
    if (high_end) result.faces.emplace_back(looking_in(prism.LastShape()), high_tags);
    result.low_rim = BRepTools::OuterWire(TopoDS::Face(prism.FirstShape()));
    result.high_rim = BRepTools::OuterWire(TopoDS::Face(prism.LastShape()));
    return result;
}

std::vector<Vec3> straight_axes(const Body& tool) {
    std::vector<Vec3> axes;
    if (!tool.is_exact()) return axes;
    for (TopExp_Explorer it(tool.exact()->shape, TopAbs_FACE); it.More(); it.Next()) {
        Vec3 n = flat_normal(TopoDS::Face(it.Current()));
        if (n.isZero()) continue;
        int k;
        n.cwiseAbs().maxCoeff(&k);
        if (n[k] < 0) n = -n;
        bool known = std::any_of(axes.begin(), axes.end(), [&](const Vec3& a) { return (a - n).norm() < 1e-9; });
        if (!known && axes.size() < 8) axes.push_back(n);
    }
    // z first: it needs no turning of the body.
    std::stable_sort(axes.begin(), axes.end(), [](const Vec3& a, const Vec3& b) { return a.z() > b.z(); });
    return axes;
}

std::optional<StraightTool> straight_tool(const Body& body, const Transform& frame) {
    if (!body.is_exact() || body.pieces() != 1) return std::nullopt;
    auto flat = located(*body.exact(), frame.inverse());
    StraightTool tool;
    tool.births = flat->births;
    tool.volume_mm3 = body.mass().volume_mm3;
    TopoDS_Face top;
    std::vector<TopoDS_Face> others;
    for (TopExp_Explorer it(flat->shape, TopAbs_FACE); it.More(); it.Next()) {
        TopoDS_Face face = TopoDS::Face(it.Current());
        BRepAdaptor_Surface surface(face, false);
        Vec3 n = flat_normal(face);
        if (n.z() < -1 + 1e-12 && tool.section.IsNull()) {
            tool.section = face;
            tool.low = surface.Plane().Location().Z();
        } else if (n.z() > 1 - 1e-12 && top.IsNull()) {
            top = face;
            tool.high = surface.Plane().Location().Z();
        } else {
            bool along = surface.GetType() == GeomAbs_Cylinder
                             ? std::fabs(surface.Cylinder().Axis().Direction().Z()) > 1 - 1e-12
                             : !n.isZero() && std::fabs(n.z()) < 1e-12;
            if (!along) return std::nullopt;
            others.push_back(face);
        }
    }
    if (tool.section.IsNull() || top.IsNull() || !(tool.high > tool.low) || !read_outline(tool)) return std::nullopt;
    auto tags_of = [&](const TopoDS_Shape& face) {
        const TagSet* tags = flat->tags.Seek(face);
        return tags ? *tags : TagSet();
    };
    tool.low_tags = tags_of(tool.section);
    tool.high_tags = tags_of(top);
    TopTools_IndexedMapOfShape rim;
    TopExp::MapShapes(tool.section, TopAbs_EDGE, rim);
    for (int i = 1; i <= rim.Extent(); ++i)
        for (const TopoDS_Face& side : others) {
            TopTools_IndexedMapOfShape edges;
            TopExp::MapShapes(side, TopAbs_EDGE, edges);
            if (edges.Contains(rim(i))) tool.sides.emplace_back(rim(i), tags_of(side));
        }
    if (tool.sides.size() != others.size() || tool.sides.size() != size_t(rim.Extent())) return std::nullopt;
    return tool;
}

} // namespace lp

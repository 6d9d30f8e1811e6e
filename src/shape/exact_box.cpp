#include "shape/exact_box.h"
#include "shape/occt_convert.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRep_Tool.hxx>
#include <BndLib_Add3dCurve.hxx>
#include <BndLib_AddSurface.hxx>
#include <Bnd_Box.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Torus.hxx>
#include <optional>

namespace lp {

Box3 sampled_box(const TopoDS_Shape& one) {
    constexpr int n = 16;
    Box3 box;
    double stray = 0;
    auto add = [&](const std::vector<Vec3>& row) {
        for (size_t i = 0; i < row.size(); ++i) {
            box.extend(row[i]);
            if (i > 0 && i + 1 < row.size()) stray = std::max(stray, (row[i - 1] - 2 * row[i] + row[i + 1]).norm() / 8);
        }
    };
    if (one.ShapeType() == TopAbs_EDGE) {
        BRepAdaptor_Curve curve(TopoDS::Edge(one));
        double a = curve.FirstParameter(), b = curve.LastParameter();
        std::vector<Vec3> row;
        for (int i = 0; i <= 4 * n; ++i) row.push_back(to_vec(curve.Value(a + (b - a) * i / (4 * n))));
        add(row);
    } else {
        BRepAdaptor_Surface surface(TopoDS::Face(one));
        double u0 = surface.FirstUParameter(), u1 = surface.LastUParameter(), v0 = surface.FirstVParameter(),
               v1 = surface.LastVParameter();
        std::vector<std::vector<Vec3>> columns(n + 1);
        for (int i = 0; i <= n; ++i) {
            std::vector<Vec3> row;
            for (int j = 0; j <= n; ++j) {
                row.push_back(to_vec(surface.Value(u0 + (u1 - u0) * i / n, v0 + (v1 - v0) * j / n)));
                columns[size_t(j)].push_back(row.back());
            }
            add(row);
        }
        for (const auto& column : columns) add(column);
    }
    Vec3 wide = Vec3::Constant(2 * stray);
    return Box3(box.min() - wide, box.max() + wide);
}

namespace {

/// Round a whole ring, of which the face is a part: along each axis the tube's middle circle and the tube's radius.
std::optional<Box3> ring_box(const TopoDS_Shape& one) {
    if (one.ShapeType() != TopAbs_FACE) return std::nullopt;
    BRepAdaptor_Surface surface(TopoDS::Face(one), false);
    if (surface.GetType() != GeomAbs_Torus) return std::nullopt;
    gp_Torus ring = surface.Torus();
    Vec3 centre = to_vec(ring.Location()), axis = to_direction(ring.Axis().Direction());
    Vec3 reach = ring.MajorRadius() * (Vec3::Ones() - axis.cwiseAbs2()).cwiseMax(0.0).cwiseSqrt() +
                 Vec3::Constant(ring.MinorRadius());
    return Box3(centre - reach, centre + reach);
}

} // namespace

Box3 exact_box(const TopoDS_Shape& shape) {
    Bnd_Box sure;
    std::vector<TopoDS_Shape> doubtful;
    auto add = [&](TopAbs_ShapeEnum kind, auto is_simple) {
        TopTools_IndexedMapOfShape all;
        TopExp::MapShapes(shape, kind, all);
        for (int i = 1; i <= all.Extent(); ++i) {
            if (is_simple(all(i)))
                BRepBndLib::AddOptimal(all(i), sure, false, false);
            else
                doubtful.push_back(all(i));
        }
    };
    add(TopAbs_EDGE, [](const TopoDS_Shape& edge) {
        return BRep_Tool::Degenerated(TopoDS::Edge(edge)) ||
               BRepAdaptor_Curve(TopoDS::Edge(edge)).GetType() <= GeomAbs_Ellipse;
    });
    add(TopAbs_FACE, [](const TopoDS_Shape& face) {
        return BRepAdaptor_Surface(TopoDS::Face(face), false).GetType() <= GeomAbs_Sphere;
    });
    auto to_box = [](const Bnd_Box& bounds) {
        if (bounds.IsVoid()) return Box3();
        Bnd_Box tight = bounds;
        tight.SetGap(0);
        Vec3 low, high;
        tight.Get(low.x(), low.y(), low.z(), high.x(), high.y(), high.z());
        return Box3(low, high);
    };
    for (const TopoDS_Shape& one : doubtful) {
        Bnd_Box loose;
        if (one.ShapeType() == TopAbs_EDGE) // by its formula or its poles, without the kernel's tolerance
            BndLib_Add3dCurve::Add(BRepAdaptor_Curve(TopoDS::Edge(one)), 0, loose);
        else
            BndLib_AddSurface::Add(BRepAdaptor_Surface(TopoDS::Face(one)), 0, loose);
        Box3 now = to_box(sure), its = to_box(loose);
        if (now.isEmpty()) now = sampled_box(one); // nothing sure yet: the search decides
        constexpr double slack = 1e-6;             // what touches the box from inside ends on it
        auto within = [&](const Box3& box) {
            return (box.min().array() > now.min().array() - slack).all() &&
                   (box.max().array() < now.max().array() + slack).all();
        };
        auto ring = ring_box(one); // the kernel's own box of a piece of a ring is wider than the whole ring
        if (!sure.IsVoid() && (within(its) || (ring && within(*ring)) || within(sampled_box(one)))) continue;
        BRepBndLib::AddOptimal(one, sure, false, false);
    }
    return to_box(sure);
}

} // namespace lp

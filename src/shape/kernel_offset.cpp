// Offsets of whole bodies: shell, grow, inset.
#include "base/tolerance.h"
#include "shape/kernel_ops.h"
#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepGProp.hxx>
#include <BRepOffset_MakeOffset.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <Geom2d_Curve.hxx>
#include <Geom_OffsetSurface.hxx>
#include <Geom_Surface.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Solid.hxx>

namespace lp {
namespace {

constexpr double offset_tolerance_mm = 1e-4;

/// The round surface that an offset of a round surface is, in the same parameters; nothing where there is none.
Handle(Geom_Surface) plain_surface(const Handle(Geom_OffsetSurface) & offset, const TopoDS_Face& face) {
    Handle(Geom_Surface) plain = offset->Surface();
    if (plain.IsNull() || plain->IsKind(STANDARD_TYPE(Geom_OffsetSurface))) return {};
    double u0, u1, v0, v1;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    for (double u : {u0, (2 * u0 + u1) / 3, u1})
        for (double v : {v0, (2 * v0 + v1) / 3, v1})
            if (offset->Value(u, v).Distance(plain->Value(u, v)) > 1e-9) return {};
    return plain;
}

/// A shell leaves round faces that are told as offsets of others: slower ever after. They get the surface they are.
void make_plain(const TopoDS_Face& face) {
    TopLoc_Location location;
    auto offset = Handle(Geom_OffsetSurface)::DownCast(BRep_Tool::Surface(face, location));
    if (offset.IsNull()) return;
    Handle(Geom_Surface) plain = plain_surface(offset, face);
    if (plain.IsNull()) return;
    BRep_Builder builder;
    TopoDS_Face forward = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    for (TopExp_Explorer it(forward, TopAbs_EDGE); it.More(); it.Next()) {
        TopoDS_Edge edge = TopoDS::Edge(it.Current().Oriented(TopAbs_FORWARD));
        double first, last, tolerance = BRep_Tool::Tolerance(edge);
        Handle(Geom2d_Curve) curve = BRep_Tool::CurveOnSurface(edge, offset, location, first, last);
        if (curve.IsNull()) return; // it has been done, or cannot be
        if (BRep_Tool::IsClosed(edge, offset, location)) {
            Handle(Geom2d_Curve) other =
                BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Reversed()), offset, location, first, last);
            builder.UpdateEdge(edge, curve, other, plain, location, tolerance);
        } else {
            builder.UpdateEdge(edge, curve, plain, location, tolerance);
        }
        builder.Range(edge, plain, location, first, last);
    }
    builder.UpdateFace(face, plain, location, BRep_Tool::Tolerance(face));
    for (TopExp_Explorer it(forward, TopAbs_EDGE); it.More(); it.Next()) // what told them on the old one goes
        builder.UpdateEdge(TopoDS::Edge(it.Current().Oriented(TopAbs_FORWARD)), Handle(Geom2d_Curve)(), offset,
                           location, 0);
}

void make_plain(const TopoDS_Shape& shape) {
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) make_plain(TopoDS::Face(it.Current()));
}

/// Faces of an offset: a face's own copy is made from it; rims are what is left of the removed faces.
void offset_origins(OriginTable& table, BRepOffset_MakeOffset& offset, const TopTools_IndexedMapOfShape& open) {
    for (int i = 1; i <= table.faces(0).Extent(); ++i) {
        const TopoDS_Shape& face = table.faces(0)(i);
        ElementOrigin origin{0, ElementOrigin::Kind::Face, i - 1, false};
        if (open.Contains(face)) {
            table.add_all(offset.Modified(face), origin);
            table.add_all(offset.Generated(face), origin);
            continue;
        }
        table.add(face, origin);
        table.add_all(offset.Modified(face), origin);
        origin.made = true;
        table.add_all(offset.Generated(face), origin);
    }
    table.generated(offset, 0);
}

/// With nothing open: the cavity is made by itself and taken away.
Expected<KernelAnswer> hollow(const KernelCall& call, BRepOffset_MakeOffset& offset, double wall) {
    offset.MakeOffsetShape();
    if (!offset.IsDone()) return refused("make this shell", "Make the wall thinner, or leave a face open.");
    TopoDS_Shape other = as_solid(offset.Shape());
    make_plain(other);
    const TopoDS_Shape& outer = wall > 0 ? call.shapes[0] : other;
    const TopoDS_Shape& inner = wall > 0 ? other : call.shapes[0];
    TopExp_Explorer cavity(inner, TopAbs_SHELL);
    if (!cavity.More()) return refused("make this shell", "Make the wall thinner.");
    BRep_Builder builder;
    TopoDS_Solid result;
    builder.MakeSolid(result);
    for (TopExp_Explorer it(outer, TopAbs_SHELL); it.More(); it.Next()) builder.Add(result, it.Current());
    builder.Add(result, cavity.Current().Reversed());
    OriginTable table(call, result);
    offset_origins(table, offset, {});
    return table.answer(result);
}

} // namespace

Expected<KernelAnswer> shell_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (!before.has_faces(call.picks)) return refused("make this shell", "Choose the open faces again.");
    double wall = call.numbers.at(0);
    BRepOffset_MakeOffset offset;
    offset.Initialize(call.shapes[0], -wall, offset_tolerance_mm, BRepOffset_Skin, false, false, GeomAbs_Intersection);
    TopTools_IndexedMapOfShape open;
    for (int32_t pick : call.picks) {
        TopoDS_Face face = TopoDS::Face(before.faces(0)(pick + 1));
        offset.AddFace(face);
        open.Add(face);
    }
    for (size_t i = 1; i + 1 < call.numbers.size(); i += 2)
        offset.SetOffsetOnFace(TopoDS::Face(before.faces(0)(int(call.numbers[i]) + 1)),
                               std::copysign(call.numbers[i + 1], -wall));
    if (call.picks.empty()) return hollow(call, offset, wall);
    offset.MakeThickSolid();
    if (!offset.IsDone())
        return refused("make this shell", "Make the wall thinner, or fillet after the shell instead of before.");
    TopoDS_Shape result = as_solid(offset.Shape());
    make_plain(result);
    GProp_GProps volume;
    BRepGProp::VolumeProperties(result, volume);
    if (volume.Mass() < 0) result.Reverse();
    OriginTable table(call, result);
    offset_origins(table, offset, open);
    return table.answer(result);
}

Expected<KernelAnswer> grow_call(const KernelCall& call) {
    BRepOffset_MakeOffset offset;
    offset.Initialize(call.shapes[0], call.numbers.at(0), offset_tolerance_mm, BRepOffset_Skin, false, false,
                      GeomAbs_Arc);
    offset.MakeOffsetShape();
    if (!offset.IsDone()) return refused("grow this body", "Use another distance.");
    TopoDS_Shape result = as_solid(offset.Shape());
    make_plain(result);
    OriginTable table(call, result);
    offset_origins(table, offset, {});
    return table.answer(result);
}

Expected<KernelAnswer> inset_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (!before.has_faces(call.picks)) return refused("make this shell", "Choose the open faces again.");
    TopoDS_Shape body = call.shapes[0];
    BRepAlgoAPI_Defeaturing without;
    if (!call.picks.empty()) {
        without.SetShape(body);
        for (int32_t pick : call.picks) without.AddFaceToRemove(before.faces(0)(pick + 1));
        without.Build();
        if (!without.IsDone() || without.HasErrors())
            return refused("make this shell", "A round is smaller than the wall: shell before the fillets.");
        TopExp_Explorer solid(without.Shape(), TopAbs_SOLID);
        if (!solid.More()) return refused("make this shell", "Shell before the fillets.");
        body = solid.Current();
    }
    BRepOffset_MakeOffset offset;
    offset.Initialize(body, -call.numbers.at(0), offset_tolerance_mm, BRepOffset_Skin, false, false,
                      call.numbers.at(1) > 0 ? GeomAbs_Intersection : GeomAbs_Arc);
    offset.MakeOffsetShape();
    if (!offset.IsDone()) return refused("make this shell", "Make the wall thinner, or leave a face open.");
    TopoDS_Shape result = as_solid(offset.Shape());
    make_plain(result);
    OriginTable table(call, result);
    for (int i = 1; i <= table.faces(0).Extent(); ++i) {
        const TopoDS_Shape& face = table.faces(0)(i);
        TopTools_ListOfShape now;
        if (!call.picks.empty()) now = without.Modified(face);
        if (now.IsEmpty()) now.Append(face);
        for (const TopoDS_Shape& its : now)
            table.add_all(offset.Generated(its), {0, ElementOrigin::Kind::Face, i - 1, true});
    }
    return table.answer(result);
}

} // namespace lp

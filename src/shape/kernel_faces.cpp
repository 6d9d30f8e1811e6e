// Work on whole faces: shell, draft, push, remove.
#include "base/tolerance.h"
#include "shape/kernel_ops.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepGProp.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepOffsetAPI_DraftAngle.hxx>
#include <BRepOffset_MakeOffset.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepTools.hxx>
#include <BRepTools_History.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <Geom2d_Curve.hxx>
#include <Geom_OffsetSurface.hxx>
#include <Geom_Surface.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <gp_Pln.hxx>

namespace lp {
namespace {

constexpr double offset_tolerance_mm = 1e-4;

tl::unexpected<Problem> refused(const std::string& what, const char* advice) {
    return problem(ProblemCode::Geometry, "The geometry kernel could not " + what + ".", advice);
}

bool picks_are_faces(const KernelCall& call, const OriginTable& table) {
    for (int32_t pick : call.picks)
        if (pick < 0 || pick >= table.faces(0).Extent()) return false;
    return true;
}

/// A shell turned into a solid that encloses, not excludes.
TopoDS_Shape as_solid(const TopoDS_Shape& shape) {
    if (TopExp_Explorer(shape, TopAbs_SOLID).More()) return shape;
    TopExp_Explorer shell(shape, TopAbs_SHELL);
    if (!shell.More()) return shape;
    TopoDS_Solid solid = BRepBuilderAPI_MakeSolid(TopoDS::Shell(shell.Current())).Solid();
    GProp_GProps volume;
    BRepGProp::VolumeProperties(solid, volume);
    if (volume.Mass() < 0) solid.Reverse();
    return solid;
}

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
    if (!picks_are_faces(call, before)) return refused("make this shell", "Choose the open faces again.");
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

Expected<KernelAnswer> draft_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (!picks_are_faces(call, before)) return refused("lean these faces", "Choose the faces again.");
    const auto& n = call.numbers;
    gp_Pnt point(n.at(0), n.at(1), n.at(2));
    gp_Dir direction(n.at(3), n.at(4), n.at(5));
    BRepOffsetAPI_DraftAngle draft(call.shapes[0]);
    for (int32_t pick : call.picks) {
        TopoDS_Face face = TopoDS::Face(before.faces(0)(pick + 1));
        draft.Add(face, direction, n.at(6), gp_Pln(point, direction));
        if (!draft.AddDone())
            return refused("lean one of these faces",
                           "Only flat, round and conical faces lean; those that run on smoothly from it lean with it.");
    }
    draft.Build();
    if (!draft.IsDone()) return refused("lean these faces", "Make the angle smaller.");
    // Modified() says nothing here: every face has one that it became.
    OriginTable table(call, draft.Shape());
    for (int i = 1; i <= table.faces(0).Extent(); ++i)
        table.add(draft.ModifiedShape(table.faces(0)(i)), {0, ElementOrigin::Kind::Face, i - 1, false});
    return table.answer(draft.Shape());
}

Expected<KernelAnswer> push_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (call.picks.size() != 1 || !picks_are_faces(call, before)) return refused("push this face", "Choose it again.");
    TopoDS_Face face = TopoDS::Face(before.faces(0)(call.picks[0] + 1));
    double by = call.numbers.at(0);
    // The skin between the face and where it goes, as a body: joined on, or cut away.
    TopoDS_Shape skin;
    int32_t far_face = -1;
    BRepAdaptor_Surface surface(face, false);
    TopoDS_Shape last;
    if (surface.GetType() == GeomAbs_Plane) {
        BRepGProp_Face normal_of(face);
        gp_Pnt at;
        gp_Vec normal;
        normal_of.Normal(surface.FirstUParameter(), surface.FirstVParameter(), at, normal);
        BRepPrimAPI_MakePrism prism(face, normal.Normalized() * by);
        skin = prism.Shape();
        last = prism.LastShape();
    } else {
        BRepOffset_MakeOffset thick;
        TopoDS_Shell shell;
        BRep_Builder builder;
        builder.MakeShell(shell);
        builder.Add(shell, face);
        thick.Initialize(shell, by, offset_tolerance_mm, BRepOffset_Skin, false, false, GeomAbs_Arc, true);
        thick.MakeOffsetShape();
        if (!thick.IsDone()) return refused("push this face", "Choose a flat or round face, or a smaller distance.");
        skin = as_solid(thick.Shape());
        if (!thick.Generated(face).IsEmpty()) last = thick.Generated(face).First();
    }
    GProp_GProps volume;
    BRepGProp::VolumeProperties(skin, volume);
    if (volume.Mass() < 0) skin.Reverse();
    KernelCall two{by > 0 ? "join" : "cut", {call.shapes[0], skin}, {}, {}};
    auto answer = combine_call(two);
    if (!answer) return answer;
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(skin, TopAbs_FACE, faces);
    if (!last.IsNull()) far_face = faces.FindIndex(last) - 1;
    // The pushed face keeps its name where it is now; the walls it left are what its neighbours became.
    for (auto& origins : answer->origins) {
        std::vector<ElementOrigin> own;
        for (const ElementOrigin& o : origins) {
            if (o.operand == 0)
                own.push_back(o);
            else
                own.push_back({0, ElementOrigin::Kind::Face, call.picks[0], o.index != far_face});
        }
        // A neighbour that grew is that neighbour, not a wall of the push.
        if (std::any_of(own.begin(), own.end(), [](const ElementOrigin& o) { return !o.made; }))
            std::erase_if(own, [](const ElementOrigin& o) { return o.made; });
        origins = std::move(own);
    }
    return answer;
}

Expected<KernelAnswer> remove_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (call.picks.empty() || !picks_are_faces(call, before))
        return refused("remove these faces", "Choose them again.");
    BRepAlgoAPI_Defeaturing defeature;
    defeature.SetShape(call.shapes[0]);
    for (int32_t pick : call.picks) defeature.AddFaceToRemove(before.faces(0)(pick + 1));
    defeature.Build();
    if (!defeature.IsDone() || defeature.HasErrors())
        return refused("close the body over these faces", "Choose all faces of a hole, boss or fillet together.");
    TopTools_IndexedMapOfShape left;
    TopExp::MapShapes(defeature.Shape(), TopAbs_FACE, left);
    for (int32_t pick : call.picks)
        if (left.Contains(before.faces(0)(pick + 1)))
            return refused("close the body over these faces", "Choose all faces of a hole, boss or fillet together.");
    OriginTable table(call, defeature.Shape());
    table.modified(defeature, 0);
    return table.answer(defeature.Shape());
}

} // namespace lp

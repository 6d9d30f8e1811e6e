// Work on whole faces: draft, push, remove.
#include "base/tolerance.h"
#include "shape/kernel_ops.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepGProp.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepOffsetAPI_DraftAngle.hxx>
#include <BRepOffset_MakeOffset.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRep_Builder.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <gp_Pln.hxx>

namespace lp {

Expected<KernelAnswer> draft_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (!before.has_faces(call.picks)) return refused("lean these faces", "Choose the faces again.");
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

/// The solid between a face and its copy at a distance outward, and that copy.
static bool thickened(const TopoDS_Face& face, double by, TopoDS_Shape& solid, TopoDS_Shape& copy) {
    BRepOffset_MakeOffset thick;
    TopoDS_Shell shell;
    BRep_Builder builder;
    builder.MakeShell(shell);
    builder.Add(shell, face);
    thick.Initialize(shell, by, 1e-4, BRepOffset_Skin, false, false, GeomAbs_Arc, true);
    thick.MakeOffsetShape();
    if (!thick.IsDone()) return false;
    solid = as_solid(thick.Shape());
    if (!thick.Generated(face).IsEmpty()) copy = thick.Generated(face).First();
    return true;
}

Expected<KernelAnswer> thicken_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    TopoDS_Shape solid, copy;
    if (call.picks.size() != 1 || !before.has_faces(call.picks) ||
        !thickened(TopoDS::Face(before.faces(0)(call.picks[0] + 1)), call.numbers.at(0), solid, copy))
        return refused("thicken this face", "Choose another.");
    OriginTable table(call, solid);
    return table.answer(solid);
}

Expected<KernelAnswer> push_call(const KernelCall& call) {
    OriginTable before(call, call.shapes[0]);
    if (call.picks.size() != 1 || !before.has_faces(call.picks)) return refused("push this face", "Choose it again.");
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
        if (!thickened(face, by, skin, last))
            return refused("push this face", "Choose a flat or round face, or a smaller distance.");
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
    if (call.picks.empty() || !before.has_faces(call.picks)) return refused("remove these faces", "Choose them again.");
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

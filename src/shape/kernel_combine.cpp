// Booleans of the kernel, with flush faces merged.
#include "base/tolerance.h"
#include "shape/kernel_ops.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepTools_History.hxx>
#include <BRep_Builder.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_MapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <optional>
#include <vector>

namespace lp {
namespace {

struct HistoryOf {
    Handle(BRepTools_History) history;
    const TopTools_ListOfShape& Modified(const TopoDS_Shape& shape) { return history->Modified(shape); }
};

/// Frame of a cylinder or cone.
std::optional<gp_Ax3> round_frame(const TopoDS_Shape& face) {
    BRepAdaptor_Surface surface(TopoDS::Face(face), false);
    if (surface.GetType() == GeomAbs_Cylinder) return surface.Cylinder().Position();
    if (surface.GetType() == GeomAbs_Cone) return surface.Cone().Position();
    return std::nullopt;
}

/// Flush faces are merged, but for pieces of one cylinder or cone whose frames run against each other: there the
/// kernel's merging (7.6) never ends. A fillet and a prism drawn from its arc make such pieces.
void keep_opposed(ShapeUpgrade_UnifySameDomain& unify, const TopoDS_Shape& shape) {
    TopTools_IndexedDataMapOfShapeListOfShape faces_of;
    TopExp::MapShapesAndAncestors(shape, TopAbs_EDGE, TopAbs_FACE, faces_of);
    for (int i = 1; i <= faces_of.Extent(); ++i) {
        if (faces_of(i).Extent() != 2) continue;
        auto a = round_frame(faces_of(i).First()), b = round_frame(faces_of(i).Last());
        if (a && b && (a->Direct() != b->Direct() || a->Direction().Dot(b->Direction()) < 0))
            unify.KeepShape(faces_of.FindKey(i));
    }
}

tl::unexpected<Problem> refused(const char* words) {
    return problem(ProblemCode::Geometry, std::string("The geometry kernel could not ") + words + " these bodies.",
                   "Move one of them by 0.01 mm, or change a size a little.");
}

void set_up(BRepAlgoAPI_BuilderAlgo& algorithm, const KernelCall& call) {
    algorithm.SetFuzzyValue(tolerance::boolean_fuzzy_mm);
    algorithm.SetNonDestructive(!call.own_copies);
    int faces = 0;
    for (const TopoDS_Shape& shape : call.shapes)
        for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) ++faces;
    algorithm.SetRunParallel(faces > 48); // fewer do not pay for the threads
}

OriginTable origins_of(BRepAlgoAPI_BuilderAlgo& algorithm, const TopoDS_Shape& made, const KernelCall& call) {
    OriginTable table(call, made);
    for (size_t i = 0; i < call.shapes.size(); ++i) table.modified(algorithm, int32_t(i));
    return table;
}

/// What an algorithm that has run made, or a part of it, with flush faces merged.
KernelAnswer with_flush_faces_merged(BRepAlgoAPI_BuilderAlgo& algorithm, const TopoDS_Shape& made,
                                     const KernelCall& call) {
    OriginTable table = origins_of(algorithm, made, call);
    if (!TopExp_Explorer(made, TopAbs_FACE).More()) return table.answer(made);
    ShapeUpgrade_UnifySameDomain unify(made, true, true, false);
    keep_opposed(unify, made);
    unify.Build();
    HistoryOf history{unify.History()};
    table.follow(history, unify.Shape());
    return table.answer(unify.Shape());
}

Expected<KernelAnswer> run(BRepAlgoAPI_BooleanOperation& algorithm, const KernelCall& call, const char* words) {
    TopTools_ListOfShape arguments, tools;
    arguments.Append(call.shapes[0]);
    for (size_t i = 1; i < call.shapes.size(); ++i) tools.Append(call.shapes[i]);
    algorithm.SetArguments(arguments);
    algorithm.SetTools(tools);
    set_up(algorithm, call);
    for (bool merge : {true, false}) {
        algorithm.Build();
        if (!algorithm.IsDone() || algorithm.HasErrors()) return refused(words);
        if (!merge) break;
        try {
            return with_flush_faces_merged(algorithm, algorithm.Shape(), call);
        } catch (const Standard_Failure&) {
            // The kernel's merging gives up on two whole cones end to end, and leaves what it worked on half done: the
            // boolean is made again, with a border more.
        }
    }
    return origins_of(algorithm, algorithm.Shape(), call).answer(algorithm.Shape());
}

/// What became of the solids of an operand.
std::vector<TopoDS_Shape> solids_now(BRepAlgoAPI_BuilderAlgo& algorithm, const TopoDS_Shape& operand) {
    std::vector<TopoDS_Shape> now;
    for (TopExp_Explorer it(operand, TopAbs_SOLID); it.More(); it.Next()) {
        const TopTools_ListOfShape& pieces = algorithm.Modified(it.Current());
        if (pieces.IsEmpty()) now.push_back(it.Current());
        for (const TopoDS_Shape& piece : pieces) now.push_back(piece);
    }
    return now;
}

} // namespace

Expected<KernelAnswer> combine_call(const KernelCall& call) {
    if (call.what == "join") {
        BRepAlgoAPI_Fuse fuse;
        return run(fuse, call, "join");
    }
    if (call.what == "cut") {
        BRepAlgoAPI_Cut cut;
        return run(cut, call, "cut");
    }
    // The kernel's common of groups unites the tools first; keeping what all have means one after the other.
    KernelAnswer so_far;
    so_far.shape = call.shapes[0];
    for (size_t i = 1; i < call.shapes.size(); ++i) {
        KernelCall two{"common", {so_far.shape, call.shapes[i]}, {}, {}};
        BRepAlgoAPI_Common common;
        auto next = run(common, two, "keep the common part of");
        if (!next) return next;
        for (auto& origins : next->origins) {
            std::vector<ElementOrigin> own;
            for (const ElementOrigin& o : origins) {
                if (o.operand == 1)
                    own.push_back({int32_t(i), o.kind, o.index, o.made});
                else if (i == 1)
                    own.push_back(o);
                else
                    own.insert(own.end(), so_far.origins[size_t(o.index)].begin(),
                               so_far.origins[size_t(o.index)].end());
            }
            origins = std::move(own);
        }
        so_far = std::move(*next);
    }
    return so_far;
}

Expected<KernelAnswer> part_call(const KernelCall& call) {
    if (call.shapes.size() != 2) return refused("part");
    BRepAlgoAPI_BuilderAlgo pieces; // of both, where they meet: found and cut once for both halves
    TopTools_ListOfShape both;
    for (const TopoDS_Shape& shape : call.shapes) both.Append(shape);
    pieces.SetArguments(both);
    set_up(pieces, call);
    pieces.Build();
    if (!pieces.IsDone() || pieces.HasErrors()) return refused("part");
    TopTools_MapOfShape of_tool;
    for (const TopoDS_Shape& solid : solids_now(pieces, call.shapes[1])) of_tool.Add(solid);
    TopoDS_Compound inside, outside, all;
    BRep_Builder builder;
    for (TopoDS_Compound* shape : {&inside, &outside, &all}) builder.MakeCompound(*shape);
    for (const TopoDS_Shape& solid : solids_now(pieces, call.shapes[0]))
        builder.Add(of_tool.Contains(solid) ? inside : outside, solid);
    KernelAnswer answer;
    TopTools_IndexedMapOfShape faces; // what both halves share is told once
    for (const TopoDS_Shape& half : {inside, outside}) {
        KernelAnswer its = with_flush_faces_merged(pieces, half, call);
        builder.Add(all, its.shape);
        TopTools_IndexedMapOfShape own;
        TopExp::MapShapes(its.shape, TopAbs_FACE, own);
        for (int i = 1; i <= own.Extent(); ++i)
            if (faces.Add(own(i)) > int(answer.origins.size())) answer.origins.push_back(its.origins[size_t(i - 1)]);
    }
    answer.shape = all;
    return answer;
}

} // namespace lp

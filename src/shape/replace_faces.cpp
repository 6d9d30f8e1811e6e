#include "shape/replace_faces.h"
#include <BRep_Builder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>

namespace lp {

TopoDS_Face opened_face(const TopoDS_Face& face, const std::vector<TopoDS_Wire>& openings) {
    BRep_Builder builder;
    TopoDS_Face opened = TopoDS::Face(face.EmptyCopied().Oriented(TopAbs_FORWARD));
    for (TopoDS_Iterator it(face.Oriented(TopAbs_FORWARD)); it.More(); it.Next()) builder.Add(opened, it.Value());
    for (const TopoDS_Wire& wire : openings) builder.Add(opened, wire);
    return TopoDS::Face(opened.Oriented(face.Orientation()));
}

TopoDS_Compound
with_faces_replaced(const TopoDS_Shape& shape,
                    const std::function<std::vector<TopoDS_Shape>(const TopoDS_Shape& face)>& in_place_of) {
    BRep_Builder builder;
    TopoDS_Compound all;
    builder.MakeCompound(all);
    for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next()) {
        TopoDS_Solid next;
        builder.MakeSolid(next);
        for (TopoDS_Iterator shell(solid.Current()); shell.More(); shell.Next()) {
            TopoDS_Shell made;
            builder.MakeShell(made);
            for (TopoDS_Iterator face(shell.Value()); face.More(); face.Next())
                for (const TopoDS_Shape& now : in_place_of(face.Value())) builder.Add(made, now);
            made.Closed(true);
            builder.Add(next, made);
        }
        builder.Add(all, next);
    }
    return all;
}

} // namespace lp

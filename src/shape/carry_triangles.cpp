#include "shape/carry_triangles.h"
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>

namespace lp {
namespace {

Handle(Poly_Triangulation) triangles_of(const TopoDS_Face& face, TopLoc_Location& at) {
    return BRep_Tool::Triangulation(face, at);
}

/// A face and one that is the same, edge by edge.
void carry(const TopoDS_Face& from, const TopoDS_Face& to) {
    TopLoc_Location there, here;
    Handle(Poly_Triangulation) triangles = triangles_of(from, there);
    if (triangles.IsNull() || !triangles_of(to, here).IsNull()) return;
    BRep_Builder builder;
    builder.UpdateFace(to, triangles);
    triangles_of(to, here);
    TopExp_Explorer old(from.Oriented(TopAbs_FORWARD), TopAbs_EDGE), now(to.Oriented(TopAbs_FORWARD), TopAbs_EDGE);
    for (; old.More() && now.More(); old.Next(), now.Next()) {
        TopoDS_Edge edge = TopoDS::Edge(old.Current().Oriented(TopAbs_FORWARD)), same = TopoDS::Edge(now.Current());
        Handle(Poly_PolygonOnTriangulation) nodes = BRep_Tool::PolygonOnTriangulation(edge, triangles, there);
        if (nodes.IsNull()) continue;
        if (BRep_Tool::IsClosed(edge, triangles, there))
            builder.UpdateEdge(same, nodes,
                               BRep_Tool::PolygonOnTriangulation(TopoDS::Edge(edge.Reversed()), triangles, there),
                               triangles, here);
        else
            builder.UpdateEdge(same, nodes, triangles, here);
    }
}

} // namespace

void carry_triangles(const TopoDS_Shape& from, const TopoDS_Shape& to, const std::vector<int32_t>& kept) {
    TopTools_IndexedMapOfShape old, now;
    TopExp::MapShapes(from, TopAbs_FACE, old);
    TopExp::MapShapes(to, TopAbs_FACE, now);
    for (int i = 1; i <= now.Extent() && size_t(i) <= kept.size(); ++i)
        if (int k = kept[size_t(i - 1)] + 1; k > 0 && k <= old.Extent())
            carry(TopoDS::Face(old(k)), TopoDS::Face(now(i)));
}

TopoDS_Shape faces_without_triangles(const TopoDS_Shape& shape) {
    TopoDS_Compound without;
    BRep_Builder builder;
    builder.MakeCompound(without);
    bool all = true;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
        TopLoc_Location at;
        if (triangles_of(TopoDS::Face(it.Current()), at).IsNull())
            builder.Add(without, it.Current());
        else
            all = false;
    }
    return all ? shape : without;
}

} // namespace lp

#include "shape/edges_match.h"
#include <BRep_Tool.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_DataMapOfShapeInteger.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>

namespace lp {

bool edges_match(const TopoDS_Shape& shape) {
    TopTools_DataMapOfShapeInteger turns;
    for (TopExp_Explorer edge(shape, TopAbs_EDGE); edge.More(); edge.Next()) {
        TopAbs_Orientation side = edge.Current().Orientation();
        if (side != TopAbs_FORWARD && side != TopAbs_REVERSED) continue; // lies within a face
        if (BRep_Tool::Degenerated(TopoDS::Edge(edge.Current()))) continue;
        int way = side == TopAbs_REVERSED ? -1 : 1;
        if (int* there = turns.ChangeSeek(edge.Current()))
            *there += way;
        else
            turns.Bind(edge.Current(), way);
    }
    for (TopTools_DataMapOfShapeInteger::Iterator it(turns); it.More(); it.Next())
        if (it.Value() != 0) return false;
    return true;
}

} // namespace lp

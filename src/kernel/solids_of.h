// The solids of a shape that came out of a file.
#pragma once
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRep_Tool.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>

namespace lp {

/// Calls `add` with each solid and the shape it was in the file: closed shells that were not called solids are made
/// such.
template <class Add> void each_solid(const TopoDS_Shape& all, Add add) {
    if (all.IsNull()) return;
    for (TopExp_Explorer solid(all, TopAbs_SOLID); solid.More(); solid.Next()) add(solid.Current(), solid.Current());
    for (TopExp_Explorer shell(all, TopAbs_SHELL, TopAbs_SOLID); shell.More(); shell.Next())
        if (BRep_Tool::IsClosed(shell.Current()))
            add(BRepBuilderAPI_MakeSolid(TopoDS::Shell(shell.Current())).Solid(), shell.Current());
}

} // namespace lp

#include "kernel/sound_solids.h"
#include <BRepCheck_Analyzer.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRep_Tool.hxx>
#include <Geom_Plane.hxx>
#include <Interface_Static.hxx>
#include <OSD_Parallel.hxx>
#include <Precision.hxx>
#include <Resource_Manager.hxx>
#include <ShapeAnalysis_ShapeTolerance.hxx>
#include <ShapeFix_Shape.hxx>
#include <ShapeFix_Wire.hxx>
#include <ShapeProcess_Context.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>

namespace lp {
namespace {

/// The exchange of curves between programs leaves them out where a surface is simple; the kernel works with them.
/// Not side by side: faces of several solids can share an edge.
void fill_in_curves(const TopoDS_Shape& solid) {
    for (TopExp_Explorer face(solid, TopAbs_FACE); face.More(); face.Next()) {
        const TopoDS_Face one = TopoDS::Face(face.Current().Oriented(TopAbs_FORWARD));
        TopLoc_Location place;
        if (BRep_Tool::Surface(one, place)->IsKind(STANDARD_TYPE(Geom_Plane))) continue;
        for (TopExp_Explorer wire(one, TopAbs_WIRE); wire.More(); wire.Next())
            ShapeFix_Wire(TopoDS::Wire(wire.Current()), one, Precision::Confusion()).FixEdgeCurves();
    }
}

bool is_sound(const TopoDS_Shape& solid) {
    if (!BRepCheck_Analyzer(solid).IsValid()) return false;
    BRepClass3d_SolidClassifier side(solid);
    side.PerformInfinitePoint(Precision::Confusion());
    return side.State() == TopAbs_OUT;
}

} // namespace

void read_without_healing() {
    // A sequence of its own with nothing in it: one that is not known would be the library's usual one. The library
    // keeps this table of operations for as long as it runs.
    Handle(ShapeProcess_Context) context = new ShapeProcess_Context();
    context->LoadResourceManager(Interface_Static::CVal("read.step.resource.name"))
        ->SetResource("as-it-is.exec.op", "");
    Interface_Static::SetCVal("read.step.sequence", "as-it-is");
}

TopoDS_Shape healed(const TopoDS_Shape& shape) {
    if (shape.IsNull()) return shape;
    constexpr double most_mm = 1; // as the library's own reading has it
    ShapeFix_Shape fix(shape);
    // Right after reading, what all edges have in common is the exactness that the file claims.
    fix.SetPrecision(std::max(ShapeAnalysis_ShapeTolerance().Tolerance(shape, 0), Precision::Confusion()));
    fix.SetMaxTolerance(most_mm);
    fix.Perform();
    return fix.Shape();
}

std::vector<TopoDS_Shape> made_sound(const std::vector<TopoDS_Shape>& solids) {
    TopTools_IndexedMapOfShape each; // wherever it stands
    for (const TopoDS_Shape& solid : solids) each.Add(solid.Located({}).Oriented(TopAbs_FORWARD));
    std::vector<TopoDS_Shape> made;
    for (int i = 1; i <= each.Extent(); ++i) {
        fill_in_curves(each(i));
        made.push_back(each(i));
    }
    std::vector<char> sound(made.size(), 0);
    OSD_Parallel::For(0, int(made.size()), [&](int i) {
        try {
            sound[size_t(i)] = is_sound(made[size_t(i)]);
        } catch (const Standard_Failure&) { // what cannot be checked is healed
        }
    });
    for (size_t i = 0; i < made.size(); ++i)
        if (!sound[i]) made[i] = healed(made[i]);
    std::vector<TopoDS_Shape> result;
    for (const TopoDS_Shape& solid : solids) {
        const int i = each.FindIndex(solid.Located({}).Oriented(TopAbs_FORWARD));
        result.push_back(made[size_t(i - 1)].Moved(solid.Location())); // facing outward, whatever the file says
    }
    return result;
}

} // namespace lp

#include "kernel/sound_solids.h"
#include "shape/face_mass.h"
#include <BRepCheck_Analyzer.hxx>
#include <BRepLib.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Curve.hxx>
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
#include <optional>

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

/// On planes the kernel works the flat curves out anew whenever they are asked for, and checking asks often. Here they
/// are kept while a solid is checked.
class FlatCurvesOnPlanes {
  public:
    explicit FlatCurvesOnPlanes(const std::vector<TopoDS_Shape>& solids) {
        for (const TopoDS_Shape& solid : solids)
            for (TopExp_Explorer face(solid, TopAbs_FACE); face.More(); face.Next())
                keep_those_of(TopoDS::Face(face.Current().Oriented(TopAbs_FORWARD)));
    }
    FlatCurvesOnPlanes(const FlatCurvesOnPlanes&) = delete;
    FlatCurvesOnPlanes& operator=(const FlatCurvesOnPlanes&) = delete;
    ~FlatCurvesOnPlanes() {
        for (const auto& [edge, face] : kept_) BRep_Builder().UpdateEdge(edge, Handle(Geom2d_Curve)(), face, 0);
    }

  private:
    void keep_those_of(const TopoDS_Face& face) {
        TopLoc_Location place;
        if (!BRep_Tool::Surface(face, place)->IsKind(STANDARD_TYPE(Geom_Plane))) return;
        for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Current());
            Handle(Geom2d_Curve) curve;
            bool missing = false;
            BRepLib::BuildPCurveForEdgeOnPlane(edge, face, curve, missing);
            if (!missing) continue;
            BRep_Builder().UpdateEdge(edge, curve, face, 0);
            kept_.emplace_back(edge, face);
        }
    }
    std::vector<std::pair<TopoDS_Edge, TopoDS_Face>> kept_;
};

/// Closed, and its material inside: then the cones from anywhere to its faces add up to a volume.
bool is_sound(const TopoDS_Shape& solid) {
    if (!BRepCheck_Analyzer(solid).IsValid()) return false;
    double volume = 0;
    for (TopExp_Explorer face(solid, TopAbs_FACE); face.More(); face.Next())
        volume += face_mass(TopoDS::Face(face.Current()), Vec3::Zero()).volume_mm3;
    return volume > 0;
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
    std::optional<FlatCurvesOnPlanes> kept(std::in_place, made);
    OSD_Parallel::For(0, int(made.size()), [&](int i) {
        try {
            sound[size_t(i)] = is_sound(made[size_t(i)]);
        } catch (const Standard_Failure&) { // what cannot be checked is healed
        }
    });
    kept.reset();
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

// Blends and bevels of edges.
#include "shape/kernel_ops.h"
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <cmath>

namespace lp {
namespace {

tl::unexpected<Problem> blend_refused(const char* what) {
    return refused(std::string("make this ") + what, "Make it smaller, or choose fewer edges.");
}

template <class Algorithm>
Expected<KernelAnswer> finish(Algorithm& algorithm, const KernelCall& call, const char* what) {
    algorithm.Build();
    if (!algorithm.IsDone()) return blend_refused(what);
    OriginTable table(call, algorithm.Shape());
    table.modified(algorithm, 0);
    table.generated(algorithm, 0);
    return table.answer(algorithm.Shape());
}

/// A radius that changes straight along the edge: the kernel's own way between two radii is a curve with level ends.
TColgp_Array1OfPnt2d straight_law(double first, double last) {
    constexpr int places = 9;
    TColgp_Array1OfPnt2d law(1, places);
    for (int k = 0; k < places; ++k) {
        double share = double(k) / (places - 1);
        law.SetValue(k + 1, {share, first + (last - first) * share});
    }
    return law;
}

} // namespace

Expected<KernelAnswer> fillet_call(const KernelCall& call) {
    BRepFilletAPI_MakeFillet fillet(call.shapes[0]);
    OriginTable before(call, call.shapes[0]);
    const bool own = call.numbers.size() == 2 * call.picks.size();
    for (size_t k = 0; k < call.picks.size(); ++k) {
        const int32_t pick = call.picks[k];
        if (pick < 0 || pick >= before.edges(0).Extent()) return blend_refused("fillet");
        TopoDS_Edge edge = TopoDS::Edge(before.edges(0)(pick + 1));
        if (fillet.Contour(edge) > 0) continue; // already in a chain that runs on smoothly
        double first = call.numbers.at(own ? 2 * k : 0), last = call.numbers.at(own ? 2 * k + 1 : 1);
        if (first == last)
            fillet.Add(first, edge);
        else
            fillet.Add(straight_law(first, last), edge);
    }
    if (fillet.NbContours() == 0) return blend_refused("fillet");
    return finish(fillet, call, "fillet");
}

Expected<KernelAnswer> chamfer_call(const KernelCall& call) {
    BRepFilletAPI_MakeChamfer chamfer(call.shapes[0]);
    OriginTable before(call, call.shapes[0]);
    double first = call.numbers.at(0), second = call.numbers.at(1), angle = call.numbers.at(2);
    for (size_t i = 0; i + 1 < call.picks.size(); i += 2) {
        int32_t edge_index = call.picks[i], face_index = call.picks[i + 1];
        if (edge_index < 0 || edge_index >= before.edges(0).Extent() || face_index < 0 ||
            face_index >= before.faces(0).Extent())
            return blend_refused("chamfer");
        TopoDS_Edge edge = TopoDS::Edge(before.edges(0)(edge_index + 1));
        TopoDS_Face face = TopoDS::Face(before.faces(0)(face_index + 1));
        if (chamfer.Contour(edge) > 0) continue;
        if (angle > 0)
            chamfer.AddDA(first, angle, edge, face);
        else if (first == second)
            chamfer.Add(first, edge);
        else
            chamfer.Add(first, second, edge, face);
    }
    if (chamfer.NbContours() == 0) return blend_refused("chamfer");
    return finish(chamfer, call, "chamfer");
}

} // namespace lp

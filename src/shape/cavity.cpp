#include "shape/cavity.h"
#include "base/tolerance.h"
#include "shape/exact_shape.h"
#include <BRep_Builder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Solid.hxx>

namespace lp {
namespace {

/// The one solid of a shape; null when there are none or several.
TopoDS_Shape only_solid(const TopoDS_Shape& shape) {
    TopExp_Explorer solids(shape, TopAbs_SOLID);
    if (!solids.More()) return {};
    TopoDS_Shape solid = solids.Current();
    solids.Next();
    return solids.More() ? TopoDS_Shape() : solid;
}

} // namespace

Expected<Body> with_cavities(const Body& body, const std::vector<Body>& tools) {
    return guard_kernel("making a cavity", [&]() -> Expected<Body> {
        auto made = std::make_shared<ExactShape>();
        BRep_Builder builder;
        TopoDS_Solid solid;
        builder.MakeSolid(solid);
        double volume = body.mass().volume_mm3;
        auto take = [&](const Body& from, bool turned) {
            const ExactShape& shape = *from.exact();
            const TopoDS_Shape its = only_solid(shape.shape);
            if (its.IsNull()) return false;
            for (TopExp_Explorer shells(its, TopAbs_SHELL); shells.More(); shells.Next())
                builder.Add(solid, turned ? shells.Current().Reversed() : shells.Current());
            for (TopExp_Explorer faces(its, TopAbs_FACE); faces.More(); faces.Next())
                if (const TagSet* tags = shape.tags.Seek(faces.Current())) made->tags.Bind(faces.Current(), *tags);
            made->births.insert(shape.births.begin(), shape.births.end());
            return true;
        };
        bool whole = take(body, false);
        for (const Body& tool : tools) {
            whole = whole && take(tool, true);
            volume -= tool.mass().volume_mm3;
        }
        if (!whole) return problem(ProblemCode::Geometry, "A cavity is made of single solids.");
        made->shape = solid;
        auto result = Body::from_exact(made);
        if (result && std::fabs(result->mass().volume_mm3 - volume) > tolerance::boolean_volume * volume)
            return problem(ProblemCode::Geometry, "The cavity does not have the volume of what was cut away.");
        return result;
    });
}

} // namespace lp

#include "shape/occt_convert.h"
#include <BRepBuilderAPI_Transform.hxx>
#include <TopAbs_ShapeEnum.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

namespace lp {

gp_Trsf to_trsf(const Transform& move) {
    gp_Trsf result;
    const auto& m = move.matrix();
    result.SetValues(m(0, 0), m(0, 1), m(0, 2), m(0, 3), m(1, 0), m(1, 1), m(1, 2), m(1, 3), m(2, 0), m(2, 1), m(2, 2),
                     m(2, 3));
    return result;
}

std::shared_ptr<ExactShape> located(const ExactShape& shape, const Transform& move) {
    auto result = std::make_shared<ExactShape>();
    if (move.matrix().isIdentity(1e-14)) {
        *result = shape;
        return result;
    }
    // Geometry is copied: shared locations made from equal moves compare as different (architecture.md).
    BRepBuilderAPI_Transform transform(shape.shape, to_trsf(move), true);
    result->shape = transform.Shape();
    for (FaceTags::Iterator it(shape.tags); it.More(); it.Next())
        result->tags.Bind(transform.ModifiedShape(it.Key()), it.Value());
    result->births = shape.births;
    for (auto& [tag, birth] : result->births) birth.frame = move * birth.frame;
    return result;
}

} // namespace lp

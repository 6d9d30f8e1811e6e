// Triangles handed on to faces that a kernel call left as they were.
#pragma once
#include <TopoDS_Shape.hxx>
#include <cstdint>
#include <vector>

namespace lp {

/// `to` has the faces of `from` where `kept` says which (by number, -1 for none): these get their triangles. Both by
/// the order of TopExp::MapShapes; `to` must be known to this thread alone.
void carry_triangles(const TopoDS_Shape& from, const TopoDS_Shape& to, const std::vector<int32_t>& kept);

/// The faces without triangles, as a compound; the shape itself when it has none at all.
TopoDS_Shape faces_without_triangles(const TopoDS_Shape& shape);

} // namespace lp

// Whether a shape put together by hand closes.
#pragma once
#include <TopoDS_Shape.hxx>

namespace lp {

/// Every edge lies between two faces, or twice on one, once each way round. Linear.
bool edges_match(const TopoDS_Shape& shape);

} // namespace lp

// Solids put together anew with other faces in place of some of theirs, without a boolean.
#pragma once
#include <TopoDS_Compound.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <functional>
#include <vector>

namespace lp {

/// The face with more wires in it, turned as it was.
TopoDS_Face opened_face(const TopoDS_Face& face, const std::vector<TopoDS_Wire>& openings);

/// The solids of a shape, each shell with what stands in place of its faces (the face itself, where it stays). Nothing
/// is checked; see edges_match.h.
TopoDS_Compound
with_faces_replaced(const TopoDS_Shape& shape,
                    const std::function<std::vector<TopoDS_Shape>(const TopoDS_Shape& face)>& in_place_of);

} // namespace lp

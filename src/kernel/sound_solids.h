// Solids as a file describes them, made sound: the library's healing costs more than the rest of reading, so that
// only what its check finds unsound is healed.
#pragma once
#include <TopoDS_Shape.hxx>
#include <vector>

namespace lp {

/// From here on, this process's STEP readers hand out shapes as the file has them, without healing.
void read_without_healing();

/// Fills in the curves that curved faces lack, checks every solid, on all cores, and heals those that the check finds
/// unsound or inside out. Solids that are one and the same in several places stay so. As many as came in, in order.
std::vector<TopoDS_Shape> made_sound(const std::vector<TopoDS_Shape>& solids);

/// The shape, healed by the library as a whole: faces that belong together may become solids.
TopoDS_Shape healed(const TopoDS_Shape& shape);

} // namespace lp

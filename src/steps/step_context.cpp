#include "steps/step_context.h"

namespace lp {

void tell_pieces(StepResult& result, size_t body, int before) {
    int pieces = result.bodies[body].body.pieces();
    if (pieces <= before) return;
    if (!result.note.empty()) result.note += " ";
    result.note += "The body is in " + std::to_string(pieces) + " pieces here.";
    result.cure = FieldCure{"keep", "all", "Keep all pieces as bodies", "pieces"};
}

} // namespace lp

// The way into a hollow body through a face that is left open. Included by steps/edges/shell*.cpp.
#pragma once
#include "base/ids.h"
#include "base/task.h"
#include "shape/body.h"

namespace lp {

/// What is taken away between an open face of a body and the hollow `wall` mm behind it. It goes straight in from the
/// face's own outline, so that a wall ends in a strip as high as it is thick, but leaves a wall beside every sharp edge
/// whose other face stays closed:
/// - an edge where the surface runs on smoothly into a round: from that edge;
/// - a sharp edge that stands out, angle t inside: w / sin t + d cot t from it at depth d, so that the wall is w thick;
/// - a round no larger than the wall has no inside: as if the edge it was made from were there still, but no nearer
///   than where the round begins;
/// - a hollow edge, or one between two open faces: nothing.
/// Trials are in docs/architecture.md, "Shell". Faces are numbers of the body's tessellation. `above` mm of the tool
/// stand out of the face. Sides are named after the faces they run along, by `step`.
/// Flat open faces; walls beside straight edges and circles. A Problem names what is of another kind.
Expected<Body> opening_tool(const Body& body, size_t face, const std::vector<size_t>& open, double wall, double above,
                            StepId step, const Task& task = {});

/// Whether the surface of a face runs on smoothly into another at one of its edges.
bool runs_on_smoothly(const Body& body, size_t face);

/// Faces that are rounds standing out, run on smoothly, and have no inside under a wall of that thickness.
std::vector<size_t> rounds_without_inside(const Body& body, double wall);

} // namespace lp

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
/// Trials are in docs/architecture.md, "Shell". Faces are numbers of the body's tessellation. Sides
/// are named after the faces they run along.
/// Flat and round open faces; walls beside straight edges and circles. A Problem names what is of another kind.
struct Opening {
    size_t face = 0;
    std::vector<size_t> open; ///< all of the shell's
    double wall_mm = 0;
    std::vector<size_t> other; ///< faces with a wall of their own
    double other_mm = 0;
    double above_mm = 0; ///< the tool stands out of the face
    StepId step;         ///< names the sides
};
Expected<Body> opening_tool(const Body& body, const Opening& opening, const Task& task = {});

/// A flat face swept outward: the way in from the hollow's own face, where walls beside it are of other kinds.
Expected<Body> swept_face(const Body& body, size_t face, double by);

/// Whether the surface of a face runs on smoothly into another at one of its edges.
bool runs_on_smoothly(const Body& body, size_t face);

/// Faces that are rounds standing out, run on smoothly, and have no inside under a wall of that thickness.
std::vector<size_t> rounds_without_inside(const Body& body, double wall);

} // namespace lp

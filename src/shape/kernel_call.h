// Calls of the geometry kernel that may throw, crash, hang or lie, as plain values: what goes in, what comes out, and
// where each face of the result came from. They are run by shape/kernel_guard.h, in a process of their own. Included
// only inside shape/ and kernel/.
#pragma once
#include "base/problem.h"
#include <TopoDS_Shape.hxx>
#include <iosfwd>
#include <memory>
#include <string>
#include <vector>

namespace lp {

/// Indices count faces, edges or vertices of one operand from 0, in the order of TopExp::MapShapes.
struct KernelCall {
    /// "join", "cut", "common": first operand against the others (common: what all have).
    /// "part": what of the first operand is inside the second and what is outside: two shapes in one.
    /// "fillet": picks are edges; numbers: radius at the beginning and at the end, of all or of each.
    /// "chamfer": picks are pairs of edge and face the first distance is measured on; numbers: first distance, second
    ///   distance, angle in radians (used instead of the second distance where it is above 0).
    /// "shell": picks are faces left open; numbers: wall (inward positive, outward negative), then pairs of face index
    ///   and its own wall.
    /// "draft": picks are faces; numbers: point and direction of the neutral plane (6), angle in radians.
    /// "push": picks is one face; numbers: distance outward.
    /// "thicken": picks is one face; numbers: distance outward. The solid between the face and its copy there.
    /// "remove": picks are faces taken away, the neighbours closing over them.
    /// "grow": numbers: distance outward in all directions; edges that stand out become round.
    /// "inset": numbers: distance inward (outward negative), 1 where surfaces are to run on until they meet (else round
    ///   where they part); picks are rounds taken off first.
    /// "write step": texts are the shapes' names and, last, the title; numbers their colours (0xRRGGBB). The answer's
    ///   text is the file. In the helper alone.
    /// "read step": text is the file; picks, where there are any: of how many shares of it which one to read, from 0.
    ///   The answer's shape holds its solids, texts their names, numbers their colours, -1 for none, kept their places
    ///   among the solids of the whole file and, last, how many those are; 0 where the file has no shares. In the helper
    ///   alone.
    std::string what;
    std::vector<TopoDS_Shape> shapes;
    std::vector<int32_t> picks;
    std::vector<double> numbers;
    std::vector<std::string> texts = {};
    bool own_copies = false; ///< not sent: the shapes belong to the call alone, which may change their tolerances
};

struct ElementOrigin {
    enum class Kind : uint8_t { Face, Edge, Vertex };
    int32_t operand = 0;
    Kind kind = Kind::Face;
    int32_t index = 0;
    /// Made from it rather than left of it: a blend from an edge, an inner wall from an outer face.
    bool made = false;
};

struct KernelAnswer {
    TopoDS_Shape shape;
    std::vector<std::vector<ElementOrigin>> origins; ///< of each face of the result
    std::vector<int32_t> kept; ///< of each: the face of the first operand that it still is, untouched; -1 for others
    std::vector<std::string> texts = {};
    std::vector<double> numbers = {};
    std::shared_ptr<const void> remains = {}; ///< not sent: what takes long to clear away, once the answer is out
};

/// Runs a call here, in this process; a Problem says what the kernel said. Nothing is verified but that it finished.
Expected<KernelAnswer> perform(const KernelCall& call);

// As bytes, for the other process. Readers refuse what is cut off.
std::string to_bytes(const KernelCall& call);
std::string to_bytes(const Expected<KernelAnswer>& answer);
Expected<KernelCall> call_from_bytes(const std::string& bytes);
Expected<KernelAnswer> answer_from_bytes(const std::string& bytes);

} // namespace lp

// A practice print: bodies on the bed planned, laid by the practice printer, and compared with the design.
#pragma once
#include "base/problem.h"
#include "layers/practice_printer.h"

namespace lp {

struct PracticeOptions {
    LineOptions lines;
    PracticeModel model;
    double support_gap_mm = 0.2; ///< supports so far below still carry
    bool each_body = false;      ///< what became of each is wanted too
};
/// Of a printer's card: its layers, lines and limits.
PracticeOptions practice_options(const PrinterCard& card);

struct PracticePrint {
    TriMesh mesh;                     ///< closed; bodies that fused are one
    std::vector<TriMesh> bodies;      ///< each by itself, in the order given; where that was asked for
    std::vector<double> deviation_mm; ///< at every vertex: from the design, above 0 where material stands out
    double mean_mm = 0, max_mm = 0;   ///< of the deviation without its sign; the mean over the surface
    double most_out_mm = 0, most_in_mm = 0;
    std::vector<FusedBodies> fused;
    std::vector<Droop> droops; ///< of all bodies, deepest first
    double without_line_mm2 = 0;
    std::optional<double> thin_from_z_mm; ///< the lowest layer in which something got no line
    size_t layers = 0;
};

/// Bodies closed, posed; the lowest place of all lies on the bed. `supports` may be empty: they carry, and are broken
/// off before it is measured. Fails without a body, for bodies that take more than 20,000 layers, and on request. Steps
/// of layers alone make a deviation of half a layer on slopes.
Expected<PracticePrint> practice_print(const std::vector<TriMesh>& bodies, const TriMesh& supports,
                                       const PracticeOptions& options, const Task& task = {});

/// What happened to it, a sentence each: how far it is from the design, what fused, drooped, or got no line. `bodies`
/// are the names of what was printed.
std::vector<std::string> practice_words(const std::string& name, const std::vector<std::string>& bodies,
                                        const PracticePrint& print);

/// Distance from a closed design's surface, signed: above 0 outside it. Places at edges and corners take the sign from
/// the facet that sees them most squarely.
std::vector<double> deviation_from(const TriMesh& design, const std::vector<Vec3>& places, const Task& task = {});

} // namespace lp

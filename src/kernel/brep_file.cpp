#include "kernel/brep_file.h"
#include "kernel/solids_of.h"
#include "shape/exact_shape.h"
#include <BRepCheck_Analyzer.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <TopoDS_Compound.hxx>
#include <iostream>
#include <sstream>

namespace lp {
namespace {

/// The library tells the console what it does not like: the programs' output is theirs.
struct Quiet {
    std::streambuf *out = std::cout.rdbuf(nullptr), *err = std::cerr.rdbuf(nullptr);
    ~Quiet() {
        std::cout.rdbuf(out);
        std::cerr.rdbuf(err);
    }
};

Expected<KernelAnswer> read(const KernelCall& call) {
    const Quiet quiet;
    if (call.texts.size() != 1) return problem(ProblemCode::Missing, "There is no file.", "");
    std::istringstream bytes(call.texts[0]);
    TopoDS_Shape all;
    BRepTools::Read(all, bytes, BRep_Builder());
    if (all.IsNull())
        return problem(ProblemCode::File, "It is no BREP file that can be read: it is cut off or damaged.",
                       "Write it again.");
    KernelAnswer answer;
    TopoDS_Compound solids;
    BRep_Builder().MakeCompound(solids);
    bool sound = true;
    each_solid(all, [&](const TopoDS_Shape& solid, const TopoDS_Shape&) {
        sound = sound && BRepCheck_Analyzer(solid).IsValid();
        BRep_Builder().Add(solids, solid);
        answer.texts.emplace_back();
        answer.numbers.push_back(-1);
    });
    if (!sound)
        return problem(ProblemCode::File, "The solids of the BREP file are damaged: their faces do not close.",
                       "Write it again.");
    if (answer.texts.empty())
        return problem(ProblemCode::Geometry, "It holds no solid: only surfaces, curves or nothing at all.",
                       "Export solids from where it was drawn.");
    answer.shape = solids;
    return answer;
}

} // namespace

Expected<KernelAnswer> read_brep(const KernelCall& call) {
    return guard_kernel("a BREP file", [&] { return read(call); });
}

} // namespace lp

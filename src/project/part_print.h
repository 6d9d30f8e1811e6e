// How a part is printed: layers, supports, and what its numbers come to.
#pragma once
#include "layers/layer_plan.h"
#include "project/evaluate.h"

namespace lp {

/// By the printer card and the part; `layer_options` of an evaluation know besides where the part is printed solid as
/// it lies.
LayerOptions layer_options(const Project& project, const Part& part);
LayerOptions layer_options(const Evaluation& evaluation, const Part& part, const Transform& pose);
/// The part's posts as the printer's card limits them.
SupportOptions support_options(const Project& project, const Part& part);

/// What is wanted of a part's supports besides their sizes, in the frame of the part as it lies.
SupportWishes support_wishes(const Part& part, const PartResult& made, const Transform& pose);
/// Supports and brim of a part as it lies, by its own settings and marks. `posed` is the part's mesh, laid.
Supports supports_of(const Evaluation& evaluation, const Part& part, const TriMesh& posed, const Task& task = {});

/// What a part's numbers come to: for comparing variants. As the ledger counts it, supports included.
struct PartFigures {
    double volume_mm3 = 0;
    Vec3 size_mm = Vec3::Zero();
    double time_s = 0, mass_g = 0;
    std::string problem; ///< the first step that failed, or why it cannot be laid in layers
};
PartFigures figures_of(const Evaluation& evaluation, PartId part, const Task& task = {});

} // namespace lp

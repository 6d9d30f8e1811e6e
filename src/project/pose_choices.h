// How a part of a project could lie instead: each way up with its supports, time and plastic, and why the first is
// first.
#pragma once
#include "bed/poses.h"
#include "project/analysis.h"

namespace lp {

struct PoseChoice {
    Pose pose;
    bool marked = false;           ///< faces of the part are marked
    bool bored = false;            ///< it has round holes
    bool jointed = false;          ///< bodies of it move in each other
    bool loaded = false;           ///< the way it is pulled is known
    double supports_mm3 = 0;       ///< of supports as the part would get them, posts or trees
    double time_s = 0, mass_g = 0; ///< of the part with them
    std::string problem;           ///< why it cannot be laid in layers
};

/// What a part's ways up are compared by.
PoseOptions pose_options(const Evaluation& evaluation, const Part& part, const PartResult& made);

/// The best five and how it lies now, the best first. As long as a second or two for a large part. Fails for a part
/// without a body and on request.
Expected<std::vector<PoseChoice>> pose_choices(const Evaluation& evaluation, PartId part, const Task& task = {});

/// A sentence: what the first way up saves against how the part lies now.
std::string why_first(const std::vector<PoseChoice>& choices);

/// To lie so, the given direction of the design up.
PrintPose pose_with_up(const Vec3& up);

} // namespace lp

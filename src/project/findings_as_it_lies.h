// What is found on a part as it lies on the bed that only the document knows of: letters, round holes, joints, corners
// that lift. The inspection of the mesh (check/inspection.h) finds the rest.
#pragma once
#include "project/joint_gaps.h"

namespace lp {

/// Places as posed. `joints` are the part's own.
std::vector<Finding> findings_as_it_lies(const PartResult& made, const Part& part, const Transform& pose,
                                         const TriMesh& posed, const std::vector<JointGap>& joints,
                                         const PrinterCard& card, const Task& task = {});

} // namespace lp

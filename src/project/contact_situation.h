// What the contact of two parts of a project is like: what a fit's gap needs to know.
#pragma once
#include "project/project.h"

namespace lp {

/// What the contact of a part with what goes into it is like; bodies of both as they are drawn, the host's before or
/// after it was opened. `to_host`: from the tool's design frame to the host's.
ContactSituation contact_situation(const Project& project, const Part& host, const std::vector<StepBody>& host_bodies,
                                   const Part& tool, const std::vector<StepBody>& tool_bodies,
                                   const Transform& to_host);

} // namespace lp

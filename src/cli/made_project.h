// A project opened, its numbers set and its parts made: what the commands on projects begin with.
#pragma once
#include "cli/commands.h"
#include "project/evaluate.h"

namespace lp::cli {

/// Whether a file is a project rather than a mesh: by its ending, or by what its bytes begin with.
bool is_project(const std::string& file);

struct MadeProject {
    ProjectPtr project;
    Evaluation evaluation;
};
/// 0 and the project with its parts made; else what was wrong has been said, and the exit status.
int made_project(const ProjectArgs& args, MadeProject& made, const Task& task);

/// Says the first step that failed, if one did; the exit status.
int failed_status(const std::string& file, const MadeProject& made);

} // namespace lp::cli

// From the session to what the view shows: bodies in the design or on the bed, the cut, marks at contacts and findings.
#pragma once
#include "app/session.h"
#include "app/view/view_widget.h"

namespace lp {

Scene build_scene(const Session& session);
std::vector<ViewMark> build_marks(const Session& session);
/// The shipped demo, beside the source or installed; empty when it is not there.
QString demo_project_path();

} // namespace lp

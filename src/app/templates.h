// Projects kept to begin others with: a folder each, with project.json, what it brought in, and a picture. Kept in the
// XDG data folder.
#pragma once
#include "app/recent.h"
#include "app/session.h"

namespace lp {

/// By their names; what cannot be read is left out.
std::vector<Example> kept_templates();

/// In the place of one of that name. On a problem the one there was stays.
std::optional<Problem> keep_template(const Project& project, const QImage& picture);
/// The folder of a project.json that kept_templates() told.
std::optional<Problem> forget_template(const QString& path);

/// The open project, with the picture the view of this window shows; says what happened.
void keep_as_template(Session& session, const QWidget* window);

} // namespace lp

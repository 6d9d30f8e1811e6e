// The last projects, with a picture of each where one was saved. Kept in the XDG state folder.
#pragma once
#include <QImage>
#include <QString>
#include <vector>

namespace lp {

struct RecentProject {
    QString path, name;
    QImage picture; ///< null without one
};
/// Newest first, at most eight; files that are gone are left out. Nothing when the list cannot be read.
std::vector<RecentProject> recent_projects();
/// This one is the newest now; a picture takes the place of the one there was.
void note_recent(const QString& path, const QString& name, const QImage& picture = {});

/// An example that ships: a folder with a project and a picture.
struct Example {
    QString path, name, says;
    QImage picture;
};
std::vector<Example> examples();

} // namespace lp

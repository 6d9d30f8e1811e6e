// The steps of a part that begins with a file, for other files.
#pragma once
#include <QStringList>

namespace lp {

class Session;

/// The file in the place of the one the part in hand begins with; its steps stay.
void replace_file(Session& session, const QString& path);
/// A part with the same steps for each file; when they are made, what came out is told.
void same_steps_for_files(Session& session, const QStringList& paths);

} // namespace lp

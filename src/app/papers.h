// Papers for the workshop: the job sheet, the drawing of a part. Made beside the interface, looked at, written.
#pragma once
#include "app/session.h"
#include "handoff/pdf_writer.h"

namespace lp {

struct PaperWork {
    const char* called;                                     ///< "sheet", for sentences
    std::string file_name;                                  ///< in the folder it goes to
    std::function<Expected<std::string>(const Task&)> make; ///< the bytes of the file
};

/// The sheet of all that is printed; why not now, otherwise.
Expected<PaperWork> sheet_to_make(const Session& session, Paper paper);
/// The drawing of the active part as it lies on the bed, `ending` pdf or svg; why not now, otherwise.
Expected<PaperWork> drawing_to_make(const Session& session, Paper paper, const QString& ending);

/// Made and written to the folder; says where it went, or why not.
void write_paper(Session& session, const Expected<PaperWork>& work, const QString& folder);
/// Made and shown in a window of its own over `parent`, from which it can be written to the folder.
void look_at_paper(Session& session, const Expected<PaperWork>& work, const QString& folder, QWidget* parent);

} // namespace lp

// The printed page that goes to the workshop with the parts: pictures with sizes, what to print and how, what to buy,
// which gaps are wanted, when to stop.
#pragma once
#include "handoff/export_project.h"
#include "handoff/pdf_writer.h"

namespace lp {

struct JobSheetOptions {
    Paper paper = Paper::A4;
    std::string date; ///< as it stands on the sheet; empty: none
};
struct JobSheet {
    std::string pdf;
    int pages = 0;
};

/// Of every printed part that has a body; parts of which none are wanted are left out. Fails where nothing is printed,
/// and on request.
Expected<JobSheet> job_sheet(const Evaluation& evaluation, const Analysis& analysis, const JobSheetOptions& options,
                             const Task& task = {});

} // namespace lp

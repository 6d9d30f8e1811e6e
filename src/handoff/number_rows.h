// A table of numbers: the same project made once for each of its rows, and written.
#pragma once
#include "handoff/export_project.h"
#include "project/edit.h"

namespace lp {

struct NumberRow {
    std::string name;                                         ///< of the folder its files go to
    std::vector<std::pair<std::string, std::string>> numbers; ///< name and expression; empty cells are left out
};

/// A table as spreadsheets write it (CSV, RFC 4180; commas, semicolons or tabs between the cells): the first row names
/// the numbers, the first column the rows. Refused: more than 10 MB, 1000 rows or 200 columns, a row or a number
/// without a name or with one that is there twice, quotes that do not close.
Expected<std::vector<NumberRow>> read_number_rows(const std::string& csv);

/// The project with the numbers of a row; a problem names the row.
Expected<ProjectPtr> with_row(const Project& project, const NumberRow& row);

struct WrittenRow {
    std::string name;
    std::vector<ReadBack> files;
    std::string says; ///< why nothing was written of it; empty when it was
};
/// Each row evaluated and exported into a folder of its own in `options.folder`. A row whose parts cannot be made says
/// so and writes nothing; the others are written all the same. Stops on request between rows, with what is written.
Expected<std::vector<WrittenRow>> export_rows(const Project& project, const std::vector<NumberRow>& rows,
                                              const ExportOptions& options, const Task& task = {});

} // namespace lp

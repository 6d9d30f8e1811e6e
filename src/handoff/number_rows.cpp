#include "handoff/number_rows.h"
#include "base/files.h"
#include "base/text.h"
#include <csv.h>
#include <set>

namespace lp {
namespace {

constexpr size_t most_bytes = 10'000'000, most_rows = 1000, most_columns = 200;

Problem wrong(const std::string& sentence, const std::string& advice) {
    return {ProblemCode::File, sentence, advice};
}

struct Cells {
    std::vector<std::vector<std::string>> rows{{}};
};

/// What stands between the cells of the first line most often.
char separator_of(const std::string& csv) {
    const std::string head = csv.substr(0, csv.find('\n'));
    char best = ',';
    for (char c : {';', '\t'})
        if (std::count(head.begin(), head.end(), c) > std::count(head.begin(), head.end(), best)) best = c;
    return best;
}

Expected<Cells> cells_of(const std::string& csv) {
    Cells cells;
    csv_parser parser;
    if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI | CSV_APPEND_NULL) != 0)
        return pass_on(wrong("The table cannot be read.", "There is too little memory."));
    csv_set_delim(&parser, static_cast<unsigned char>(separator_of(csv)));
    auto cell = [](void* text, size_t size, void* all) {
        auto& rows = static_cast<Cells*>(all)->rows;
        rows.back().emplace_back(trimmed(std::string(static_cast<const char*>(text), size)));
    };
    auto row = [](int, void* all) { static_cast<Cells*>(all)->rows.emplace_back(); };
    const bool read = csv_parse(&parser, csv.data(), csv.size(), cell, row, &cells) == csv.size() &&
                      csv_fini(&parser, cell, row, &cells) == 0;
    csv_free(&parser);
    if (!read)
        return pass_on(
            wrong("Quotes in the table do not close.", "Write it anew from the spreadsheet: comma-separated values."));
    std::erase_if(cells.rows, [](const auto& one) {
        return std::all_of(one.begin(), one.end(), [](const std::string& c) { return c.empty(); });
    });
    return cells;
}

} // namespace

Expected<std::vector<NumberRow>> read_number_rows(const std::string& text) {
    if (text.size() > most_bytes) return pass_on(wrong("The table is larger than 10 MB.", "Part it into several."));
    const std::string csv = text.rfind("\xef\xbb\xbf", 0) == 0 ? text.substr(3) : text; // a mark of spreadsheets
    auto cells = cells_of(csv);
    if (!cells) return pass_on(cells);
    if (cells->rows.size() < 2 || cells->rows.front().size() < 2)
        return pass_on(wrong("The table has no numbers.",
                             "Give a first row with the names of numbers, and a row with a name for each set."));
    const auto& head = cells->rows.front();
    if (cells->rows.size() > most_rows + 1 || head.size() > most_columns + 1)
        return pass_on(wrong("The table has more than 1000 rows or 200 numbers.", "Part it into several."));
    std::set<std::string> seen;
    for (size_t k = 1; k < head.size(); ++k)
        if (head[k].empty() || !seen.insert(head[k]).second)
            return pass_on(wrong("Column " + std::to_string(k + 1) + " of the table has " +
                                     (head[k].empty() ? "no name." : "a name that is there twice: " + head[k] + "."),
                                 "Name each number once in the first row."));
    std::vector<NumberRow> rows;
    seen.clear();
    for (size_t i = 1; i < cells->rows.size(); ++i) {
        const auto& cell = cells->rows[i];
        if (cell[0].empty() || !seen.insert(file_name_of(cell[0])).second)
            return pass_on(wrong("Row " + std::to_string(i + 1) + " of the table has " +
                                     (cell[0].empty() ? "no name." : "a name that is there twice: " + cell[0] + "."),
                                 "Name each row once in the first column: its files go to a folder of that name."));
        NumberRow row{cell[0], {}};
        for (size_t k = 1; k < cell.size(); ++k) {
            if (cell[k].empty()) continue;
            if (k >= head.size())
                return pass_on(wrong("Row " + std::to_string(i + 1) + " of the table is longer than the first.",
                                     "Name the number over it."));
            row.numbers.emplace_back(head[k], cell[k]);
        }
        rows.push_back(std::move(row));
    }
    return rows;
}

Expected<ProjectPtr> with_row(const Project& project, const NumberRow& row) {
    auto next = std::make_shared<const Project>(project);
    for (const auto& [name, expression] : row.numbers) {
        const bool there = std::any_of(project.parameters.begin(), project.parameters.end(),
                                       [&, n = name](const Parameter& p) { return p.name == n; });
        auto edited = there ? apply_edit(*next, SetParameter{name, expression, {}, {}})
                            : problem(ProblemCode::Missing, "There is no number called \"" + name + "\".",
                                      "Name it as the project does.");
        if (!edited) {
            Problem why = edited.error();
            why.sentence = row.name + ": " + why.sentence;
            return pass_on(why);
        }
        next = edited->project;
    }
    return next;
}

Expected<std::vector<WrittenRow>> export_rows(const Project& project, const std::vector<NumberRow>& rows,
                                              const ExportOptions& options, const Task& task) {
    // What names a number that is not there is found before anything is written.
    std::vector<ProjectPtr> projects;
    for (const NumberRow& row : rows) {
        auto next = with_row(project, row);
        if (!next) return pass_on(next);
        projects.push_back(*next);
    }
    Evaluator evaluator;
    std::vector<WrittenRow> written;
    for (size_t i = 0; i < rows.size(); ++i) {
        if (task.stopped()) return cancelled();
        task.tell("Making " + rows[i].name, double(i) / double(rows.size()));
        WrittenRow row{rows[i].name, {}, {}};
        auto made = evaluator.evaluate(projects[i], task);
        if (!made) return pass_on(made);
        for (const PartResult& part : made->parts)
            for (const StepOutcome& step : part.steps)
                if (!step.ok && row.says.empty()) row.says = part.name + ": " + step.says;
        if (row.says.empty()) {
            ExportOptions its = options;
            its.folder = options.folder / file_name_of(rows[i].name);
            auto files = export_project(*made, its, task);
            if (files)
                row.files = std::move(*files);
            else if (files.error().code == ProblemCode::Cancelled)
                return pass_on(files);
            else
                row.says = files.error().text();
        }
        written.push_back(std::move(row));
    }
    return written;
}

} // namespace lp

// sheet: the page that goes to the workshop, as PDF.
#include "base/files.h"
#include "cli/made_project.h"
#include "handoff/job_sheet.h"
#include <ctime>
#include <iostream>

namespace lp::cli {

using nlohmann::json;

namespace {

std::string today() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    char text[16];
    return std::strftime(text, sizeof text, "%Y-%m-%d", &local) ? text : "";
}

} // namespace

int sheet_command(const SheetArgs& args, const Common& common) {
    if (args.paper != "a4" && args.paper != "letter") return usage("--paper is a4 or letter.");
    if (ending_of(args.out) != "pdf") return usage("the output must end in .pdf.");
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project(args, made, task)) return status;
    if (int status = failed_status(args.project, made)) return status;
    auto analysis = Analyser().analyse(made.evaluation, task);
    if (!analysis) return refuse(args.project, analysis.error(), 1);
    JobSheetOptions options;
    options.paper = args.paper == "letter" ? Paper::Letter : Paper::A4;
    options.date = today();
    auto sheet = job_sheet(made.evaluation, *analysis, options, task);
    if (!sheet) return refuse(args.project, sheet.error(), 1);
    if (auto failed = write_file_safely(args.out, sheet->pdf)) return refuse(args.out, *failed, 1);
    if (common.json)
        print_json({{"file", args.out}, {"pages", sheet->pages}});
    else
        std::cout << args.out << ": " << sheet->pages << (sheet->pages == 1 ? " page" : " pages") << "\n";
    return 0;
}

} // namespace lp::cli

// sheet: the page that goes to the workshop, as PDF; the drawing of a part.
#include "base/files.h"
#include "cli/made_project.h"
#include "handoff/job_sheet.h"
#include "handoff/part_drawing.h"
#include <iostream>

namespace lp::cli {

using nlohmann::json;

namespace {

int draw(const SheetArgs& args, Paper paper, const MadeProject& made, const Analysis& analysis, const Common& common,
         const Task& task) {
    auto part = part_to_draw(made.evaluation, analysis, args.part);
    if (!part) return refuse(args.project, part.error(), 1);
    auto bytes = ending_of(args.out) == "svg" ? drawing_svg(*part, paper, task) : drawing_pdf(*part, paper, task);
    if (!bytes) return refuse(args.project, bytes.error(), 1);
    if (auto failed = write_file_safely(args.out, *bytes)) return refuse(args.out, *failed, 1);
    if (!common.json) {
        std::cout << args.out << ": " << args.part << "\n";
        return 0;
    }
    json sizes = json::array();
    for (const SizeToMeasure& size : part->sizes)
        sizes.push_back({{"what", size.what}, {"drawn_mm", size.drawn_mm}, {"expected_mm", size.expected_mm}});
    print_json({{"file", args.out}, {"part", args.part}, {"sizes", sizes}});
    return 0;
}

} // namespace

int sheet_command(const SheetArgs& args, const Common& common) {
    if (args.paper != "a4" && args.paper != "letter") return usage("--paper is a4 or letter.");
    const bool svg = ending_of(args.out) == "svg";
    if (!svg && ending_of(args.out) != "pdf") return usage("the output must end in .pdf; a drawing may end in .svg.");
    if (svg && args.part.empty()) return usage("only the drawing of one --part is written as .svg; use .pdf.");
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project(args, made, task)) return status;
    if (int status = failed_status(args.project, made)) return status;
    auto analysis = Analyser().analyse(made.evaluation, task);
    if (!analysis) return refuse(args.project, analysis.error(), 1);
    const Paper paper = args.paper == "letter" ? Paper::Letter : Paper::A4;
    if (!args.part.empty()) return draw(args, paper, made, *analysis, common, task);
    JobSheetOptions options;
    options.paper = paper;
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

// steps and make: on projects.
#include "base/files.h"
#include "base/quantity.h"
#include "base/text.h"
#include "cli/made_project.h"
#include "handoff/job_sheet.h"
#include "handoff/number_rows.h"
#include "project/hardware_list.h"
#include <iostream>
#include <nlohmann/json.hpp>
#include <regex>

namespace lp::cli {
namespace {

/// Words in two forms, "lug|lugs", in the plural.
std::string as_read(const std::string& sentence) {
    static const std::regex forms(R"((\w+)\|(\w+))");
    return std::regex_replace(sentence, forms, "$2");
}

} // namespace

using nlohmann::json;

int steps_command(const Common& common) {
    json list = json::array();
    for (const StepKind& kind : step_kinds()) {
        json fields = json::array();
        for (const StepField& field : kind.fields) {
            json f{{"name", field.name},
                   {"kind", field_kind_name(field.kind)},
                   {"default", field.standard.empty() ? json(nullptr) : json(field.standard)},
                   {"hint", field.hint}};
            f["unit"] = field.kind == FieldKind::Length || field.kind == FieldKind::Fit ? json("mm")
                        : field.kind == FieldKind::Angle                                ? json("deg")
                                                                                        : json(nullptr);
            bool limited = is_quantity(field.kind) && field.low < field.high;
            f["min"] = limited ? json(field.low) : json(nullptr);
            f["max"] = limited ? json(field.high) : json(nullptr);
            f["choices"] = field.choices.empty() ? json(nullptr) : json(field.choices);
            fields.push_back(std::move(f));
        }
        list.push_back({{"kind", kind.id},
                        {"title", kind.title},
                        {"purpose", kind.purpose},
                        {"sentence", as_read(kind.sentence)},
                        {"fields", fields}});
    }
    if (common.json) {
        print_json({{"steps", list}});
        return 0;
    }
    for (const StepKind& kind : step_kinds()) {
        std::cout << kind.id << ": " << kind.purpose << "\n  \"" << as_read(kind.sentence) << "\"\n";
        for (const StepField& field : kind.fields)
            std::cout << "  " << field.name << " (" << field_kind_name(field.kind)
                      << (field.standard.empty() ? ", must be given" : ", default " + field.standard)
                      << "): " << field.hint << "\n";
    }
    return 0;
}

namespace {

json part_report(const PartResult& part, const Project& project) {
    json steps = json::array();
    const Part& source = *project.part(part.part);
    for (size_t i = 0; i < part.steps.size(); ++i)
        steps.push_back({{"index", i + 1},
                         {"kind", source.steps[i].kind},
                         {"ok", part.steps[i].ok && !part.steps[i].in_part},
                         {"state", !part.steps[i].ok       ? "failed"
                                   : part.steps[i].in_part ? "in_part"
                                                           : "made"},
                         {"says", part.steps[i].says}});
    json result{{"name", part.name}, {"steps", steps}};
    bool body = part.mesh != nullptr;
    result["volume_mm3"] = body ? number_json(part.mass.volume_mm3) : json(nullptr);
    result["area_mm2"] = body ? number_json(part.mass.area_mm2) : json(nullptr);
    result["bbox_min"] = body ? point_json(part.box.min()) : json(nullptr);
    result["bbox_max"] = body ? point_json(part.box.max()) : json(nullptr);
    return result;
}

} // namespace

namespace {

/// `make --table`: a folder a row.
int make_rows(const MakeArgs& args, const Common& common, const MadeProject& made, const Task& task) {
    if (args.to.empty())
        return refuse(args.table, {ProblemCode::Wording, "It is not said where the rows go.", "Give --to a folder."},
                      2);
    const auto bytes = read_file(args.table);
    if (!bytes) return refuse(args.table, bytes.error(), 3);
    const auto rows = read_number_rows(*bytes);
    if (!rows) return refuse(args.table, rows.error(), 3);
    ExportOptions options;
    options.folder = args.to;
    options.in_place = args.in_place;
    options.formats = args.formats.empty() ? std::vector<std::string>{"3mf"} : args.formats;
    const auto written = export_rows(*made.project, *rows, options, task);
    if (!written) return refuse(args.table, written.error(), 1);
    json all = json::array();
    std::string failed;
    for (const WrittenRow& row : *written) {
        json files = json::array();
        for (const ReadBack& back : row.files)
            if (std::find(files.begin(), files.end(), back.file.string()) == files.end())
                files.push_back(back.file.string());
        if (!row.says.empty() && failed.empty()) failed = row.name + ": " + row.says;
        if (!common.json)
            std::cout << row.name << ": " << (row.says.empty() ? counted(files.size(), "file", "files") : row.says)
                      << "\n";
        all.push_back({{"name", row.name},
                       {"files", std::move(files)},
                       {"says", row.says.empty() ? json(nullptr) : json(row.says)}});
    }
    if (common.json) print_json({{"rows", all}});
    return failed.empty() ? 0 : refuse(args.table, {ProblemCode::Geometry, failed, ""}, 1);
}

} // namespace

int make_command(const MakeArgs& args, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project(args, made, task)) return status;
    if (args.sheet && (args.to.empty() || !args.table.empty()))
        return usage("--sheet goes into the folder of --to, of one project and not of a table's rows.");
    if (!args.table.empty()) return make_rows(args, common, made, task);
    std::optional<Analysis> analysis; // the sheet asks for all of it
    const int status = args.as_far_as_it_goes || args.to.empty() ? 0 : failed_status(args.project, made);
    std::vector<ReadBack> written;
    std::optional<Problem> not_written;
    if (!args.to.empty() && status == 0) {
        ExportOptions options;
        options.folder = args.to;
        options.in_place = args.in_place;
        options.formats = args.formats.empty() ? std::vector<std::string>{"3mf"} : args.formats;
        if (args.sheet)
            options.papers.push_back(
                {file_name_of(made.project->name) + "-sheet.pdf", [&](const Task& beside) -> Expected<std::string> {
                     auto all = Analyser().analyse(made.evaluation, beside);
                     if (!all) return pass_on(all);
                     analysis = std::move(*all);
                     auto sheet = job_sheet(made.evaluation, *analysis, {Paper::A4, today()}, beside);
                     if (!sheet) return pass_on(sheet);
                     return std::move(sheet->pdf);
                 }});
        auto back = export_project(made.evaluation, options, task);
        if (back)
            written = *back;
        else
            not_written = back.error();
    }
    const auto contacts = analysis ? analysis->contacts : Analyser().contacts(made.evaluation, task);
    json files = json::array();
    for (const ReadBack& back : written)
        if (std::find(files.begin(), files.end(), back.file.string()) == files.end())
            files.push_back(back.file.string());
    json parts = json::array(), fits = json::array();
    for (const PartResult& part : made.evaluation.parts) parts.push_back(part_report(part, *made.project));
    for (const ContactResult& contact : contacts) fits.push_back(fit_report(contact));
    json hardware = json::array();
    for (const HardwareCount& piece : hardware_list(made.evaluation))
        hardware.push_back({{"name", piece.name}, {"count", piece.count}, {"sure", piece.sure}});
    if (common.json) {
        json out{{"parts", parts}, {"fits", fits}, {"files", files}};
        if (!hardware.empty()) out["hardware"] = hardware; // beside the contract, where there is something to buy
        print_json(out);
    } else {
        for (const PartResult& part : made.evaluation.parts) {
            std::cout << part.name << ": " << format_number(part.mass.volume_mm3 / 1000) << " cm³\n";
            for (size_t i = 0; i < part.steps.size(); ++i)
                if (!part.steps[i].says.empty()) std::cout << "  step " << i + 1 << ": " << part.steps[i].says << "\n";
        }
        for (const ContactResult& c : contacts) print_fit(c);
        for (const ReadBack& back : written)
            std::cout << back.file.string() << ": " << back.name << ", " << back.says << "\n";
    }
    if (status) return status;
    // The step's own reason says more than that nothing is left to write.
    if (int failed = failed_status(args.project, made)) return failed;
    return not_written ? refuse(args.project, *not_written, 1) : 0;
}

} // namespace lp::cli

// steps and make: on projects.
#include "base/quantity.h"
#include "cli/commands.h"
#include "formats/flat_file.h"
#include "handoff/export_project.h"
#include "project/archive.h"
#include "project/edit.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

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
                        {"sentence", kind.sentence},
                        {"fields", fields}});
    }
    if (common.json) {
        print_json({{"steps", list}});
        return 0;
    }
    for (const StepKind& kind : step_kinds()) {
        std::cout << kind.id << ": " << kind.purpose << "\n  \"" << kind.sentence << "\"\n";
        for (const StepField& field : kind.fields)
            std::cout << "  " << field.name << " (" << field_kind_name(field.kind)
                      << (field.standard.empty() ? ", must be given" : ", default " + field.standard)
                      << "): " << field.hint << "\n";
    }
    return 0;
}

namespace {

/// "NAME=EXPR" sets a parameter; "PART/STEP/FIELD=EXPR" a field (step counted from 1).
Expected<ProjectPtr> apply_set(const ProjectPtr& project, const std::string& text) {
    size_t equals = text.find('=');
    if (equals == std::string::npos || equals == 0)
        return problem(ProblemCode::Wording, "--set takes NAME=EXPR, not \"" + text + "\".");
    std::string name = text.substr(0, equals), expression = text.substr(equals + 1);
    size_t last = name.rfind('/'),
           middle = last == std::string::npos || last == 0 ? std::string::npos : name.rfind('/', last - 1);
    Edit edit;
    if (middle != std::string::npos) {
        PartPtr part = project->part_named(name.substr(0, middle));
        long index = std::atol(name.substr(middle + 1, last - middle - 1).c_str());
        if (!part || index < 1 || size_t(index) > part->steps.size())
            return problem(ProblemCode::Missing, "There is no step \"" + name.substr(0, last) + "\".",
                           "Use PART/STEP/FIELD.");
        edit = SetField{part->id, part->steps[size_t(index - 1)].id, name.substr(last + 1), expression};
    } else {
        bool known = false;
        for (const Parameter& p : project->parameters) known = known || p.name == name;
        if (!known) {
            std::string all;
            for (const Parameter& p : project->parameters) all += (all.empty() ? "" : ", ") + p.name;
            return problem(ProblemCode::Missing, "There is no parameter called \"" + name + "\".",
                           all.empty() ? "The project has none." : "There are: " + all + ".");
        }
        edit = SetParameter{name, expression, {}, {}};
    }
    auto edited = apply_edit(*project, edit);
    if (!edited) return pass_on(edited);
    return edited->project;
}

json part_report(const PartResult& part, const Project& project) {
    json steps = json::array();
    const Part& source = *project.part(part.part);
    for (size_t i = 0; i < part.steps.size(); ++i)
        steps.push_back(
            {{"index", i + 1}, {"kind", source.steps[i].kind}, {"ok", part.steps[i].ok}, {"says", part.steps[i].says}});
    json result{{"name", part.name}, {"steps", steps}};
    bool body = part.mesh != nullptr;
    result["volume_mm3"] = body ? number_json(part.mass.volume_mm3) : json(nullptr);
    result["area_mm2"] = body ? number_json(part.mass.area_mm2) : json(nullptr);
    result["bbox_min"] = body ? point_json(part.box.min()) : json(nullptr);
    result["bbox_max"] = body ? point_json(part.box.max()) : json(nullptr);
    return result;
}

json fit_report(const ContactResult& c) {
    json result{{"a", c.a},
                {"b", c.b},
                {"fit", c.fit.empty() ? json(nullptr) : json(c.fit)},
                {"state", fit_state_name(c.state)}};
    result["wanted_mm"] = c.wanted ? json(c.wanted->gap_mm) : json(nullptr);
    result["min_mm"] = c.gap ? number_json(c.gap->min_mm) : json(nullptr);
    result["max_mm"] = c.gap && c.gap->max_mm ? number_json(*c.gap->max_mm) : json(nullptr);
    return result;
}

} // namespace

int make_command(const MakeArgs& args, const Common& common) {
    auto opened = open_project(args.project);
    if (!opened) return refuse(args.project, opened.error(), 3);
    for (const std::string& note : opened->notes)
        std::cerr << "loose-peg-cli: " << args.project << ": " << note << "\n";
    ProjectPtr project = opened->history.now();
    for (const std::string& set : args.set) {
        auto next = apply_set(project, set);
        if (!next) return refuse(args.project, next.error(), 1);
        project = *next;
    }
    Task task = terminal_task();
    Evaluator evaluator;
    auto evaluation = evaluator.evaluate(project, task);
    if (!evaluation) return refuse(args.project, evaluation.error(), 1);
    if (evaluation->parameter_problem) return refuse(args.project, *evaluation->parameter_problem, 1);
    auto contacts = Analyser().contacts(*evaluation, task);
    std::vector<ReadBack> written;
    if (!args.to.empty()) {
        ExportOptions options;
        options.folder = args.to;
        options.formats = args.formats.empty() ? std::vector<std::string>{"3mf"} : args.formats;
        auto back = export_project(*evaluation, options, task);
        if (!back) return refuse(args.project, back.error(), 1);
        written = *back;
    }
    json files = json::array();
    for (const ReadBack& back : written)
        if (std::find(files.begin(), files.end(), back.file.string()) == files.end())
            files.push_back(back.file.string());
    json parts = json::array(), fits = json::array();
    const PartResult* failed = nullptr;
    for (const PartResult& part : evaluation->parts) {
        parts.push_back(part_report(part, *project));
        if (!part.all_ok() && !failed) failed = &part;
    }
    for (const ContactResult& contact : contacts) fits.push_back(fit_report(contact));
    if (common.json)
        print_json({{"parts", parts}, {"fits", fits}, {"files", files}});
    else {
        for (const PartResult& part : evaluation->parts) {
            std::cout << part.name << ": " << format_number(part.mass.volume_mm3 / 1000) << " cm³\n";
            for (size_t i = 0; i < part.steps.size(); ++i)
                if (!part.steps[i].says.empty()) std::cout << "  step " << i + 1 << ": " << part.steps[i].says << "\n";
        }
        for (const ContactResult& c : contacts) {
            std::cout << c.a << " in " << c.b << ": " << fit_state_name(c.state);
            if (c.wanted) std::cout << ", wanted " << format_fixed(c.wanted->gap_mm, 2) << " mm";
            if (c.gap)
                std::cout << ", found " << format_fixed(c.gap->min_mm, 2)
                          << (c.gap->max_mm ? " to " + format_fixed(*c.gap->max_mm, 2) : "") << " mm";
            std::cout << "\n";
        }
        for (const ReadBack& back : written)
            std::cout << back.file.string() << ": " << back.name << ", " << back.says << "\n";
    }
    if (!failed) return 0;
    for (size_t i = 0; i < failed->steps.size(); ++i)
        if (!failed->steps[i].ok)
            return refuse(args.project,
                          {ProblemCode::Geometry,
                           failed->name + ", step " + std::to_string(i + 1) + ": " + failed->steps[i].says, ""},
                          1);
    return 1;
}

} // namespace lp::cli

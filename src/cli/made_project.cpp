#include "cli/made_project.h"
#include "base/files.h"
#include "base/no_such.h"
#include "formats/flat_file.h"
#include "project/archive.h"
#include "project/contact_ledger.h"
#include "project/edit.h"
#include "project/recipe.h"
#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iostream>

namespace lp::cli {
namespace {

/// "PART=FILE": another file in the place of the part's own.
Expected<ProjectPtr> apply_import(const ProjectPtr& project, const std::string& text) {
    const size_t equals = text.find('=');
    if (equals == std::string::npos || equals == 0)
        return problem(ProblemCode::Wording, "--import takes PART=FILE, not \"" + text + "\".");
    const PartPtr part = project->part_named(text.substr(0, equals));
    if (!part)
        return problem(ProblemCode::Missing, "There is no part \"" + text.substr(0, equals) + "\".",
                       "Write a part's name as the project has it.");
    const std::filesystem::path path = text.substr(equals + 1);
    auto bytes = read_file(path);
    if (!bytes) return pass_on(bytes);
    auto edit = replaced_file(*project, part->id,
                              {path.filename().string(), std::make_shared<const std::string>(std::move(*bytes))});
    if (!edit) return pass_on(edit);
    auto edited = apply_edit(*project, *edit);
    if (!edited) return pass_on(edited);
    return edited->project;
}

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
        std::vector<std::string> there;
        for (const Parameter& p : project->parameters) there.push_back(p.name);
        if (std::find(there.begin(), there.end(), name) == there.end())
            return pass_on(no_such("parameter", name, there));
        edit = SetParameter{name, expression, {}, {}};
    }
    auto edited = apply_edit(*project, edit);
    if (!edited) return pass_on(edited);
    return edited->project;
}

/// "PART/NAME", or "NAME" where only one part has a variant of that name.
Expected<ProjectPtr> apply_variant(const ProjectPtr& project, const std::string& text) {
    std::vector<std::pair<PartId, const Variant*>> found;
    std::vector<std::string> there;
    for (const PartPtr& part : project->parts)
        for (const Variant& variant : part->variants) {
            there.push_back(part->name + "/" + variant.name);
            if (text == there.back() || text == variant.name) found.emplace_back(part->id, &variant);
        }
    if (found.size() == 1)
        return std::make_shared<const Project>(with_variant(*project, found[0].first, *found[0].second));
    if (found.empty()) return pass_on(no_such("variant", text, there));
    return problem(ProblemCode::Missing, "Several parts have a variant called \"" + text + "\".", those_there(there));
}

/// A wanted contact names bodies and a fit that there are.
std::optional<Problem> check_contacts(const MadeProject& made) {
    auto known = participants(made.evaluation);
    std::string all;
    for (const Participant& who : known) all += (all.empty() ? "" : ", ") + who.name;
    for (const WantedContact& c : made.project->contacts) {
        for (const std::string& name : {c.a, c.b})
            if (!find_participant(made.evaluation, name) && !made.project->part_named(name))
                return Problem{ProblemCode::Missing, "A contact names \"" + name + "\", and there is no such body.",
                               "There are: " + all + "."};
        auto gap = resolve_fit_field(*made.project, c.fit, {}, made.evaluation.values);
        if (!gap)
            return Problem{gap.error().code, "The contact of " + c.a + " and " + c.b + ": " + gap.error().sentence,
                           gap.error().advice};
    }
    return std::nullopt;
}

} // namespace

bool is_project(const std::string& file) {
    if (std::filesystem::path(file).extension() == ".loosepeg") return true;
    // Only its head: a mesh may be large, and is read by who wants it.
    std::ifstream in(file, std::ios::binary);
    char first = 0;
    return (in >> std::ws >> first) && first == '{';
}

int made_project(const ProjectArgs& args, MadeProject& made, const Task& task) {
    auto opened = open_project(args.project);
    if (!opened) return refuse(args.project, opened.error(), 3);
    for (const std::string& note : opened->notes)
        std::cerr << "loose-peg-cli: " << args.project << ": " << note << "\n";
    made.project = opened->history.now();
    for (auto [list, apply] : {std::pair(&args.variants, &apply_variant), std::pair(&args.set, &apply_set),
                               std::pair(&args.imports, &apply_import)})
        for (const std::string& text : *list) {
            auto next = apply(made.project, text);
            if (!next) return refuse(args.project, next.error(), 1);
            made.project = *next;
        }
    auto evaluation = Evaluator().evaluate(made.project, task);
    if (!evaluation) return refuse(args.project, evaluation.error(), 1);
    made.evaluation = std::move(*evaluation);
    if (made.evaluation.parameter_problem) return refuse(args.project, *made.evaluation.parameter_problem, 1);
    if (auto wrong = check_contacts(made)) return refuse(args.project, *wrong, 1);
    return 0;
}

int failed_status(const std::string& file, const MadeProject& made) {
    for (const PartResult& part : made.evaluation.parts)
        for (size_t i = 0; i < part.steps.size(); ++i)
            if (!part.steps[i].ok || part.steps[i].in_part)
                return refuse(file,
                              {ProblemCode::Geometry,
                               part.name + ", step " + std::to_string(i + 1) +
                                   (part.steps[i].ok ? ", made in part: " : ": ") + part.steps[i].says,
                               ""},
                              1);
    return 0;
}

} // namespace lp::cli

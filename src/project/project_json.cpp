#include "project/project_json.h"
#include "project/part_json.h"
#include "project/references.h"

namespace lp {

using namespace json_fields;

namespace {

void read_pose_weights(const json& from, PoseWeights& weights) {
    object(from, "pose_weights");
    for (const PoseWeightRow& row : pose_weight_rows())
        weights.*row.member = get_or(from, row.key, weights.*row.member, "pose_weights");
    if (auto wrong = check_pose_weights(weights)) throw Refused{*wrong};
}

void read_parameters(const json& from, Project& project) {
    auto add = [&](Parameter p) { project.parameters.push_back(std::move(p)); };
    if (from.is_object()) {
        for (auto& [name, value] : from.items()) {
            const std::string text = text_of(value, "parameter " + name);
            add({name, text, kind_of_expression(text), ""});
        }
        return;
    }
    if (!from.is_array()) refuse("parameters is neither a list nor an object.");
    for (const json& item : from) {
        object(item, "a parameter");
        Parameter p;
        p.name = get_or(item, "name", std::string(), "a parameter");
        if (!item.contains("expression")) refuse("parameter \"" + p.name + "\" has no expression.");
        p.expression = text_of(item["expression"], "parameter " + p.name);
        std::string kind = get_or(item, "kind", std::string("length"), "parameter " + p.name);
        auto found = kind_from_name(kind);
        if (!found)
            refuse("parameter \"" + p.name + "\" is of a kind not known here: \"" + kind + "\".",
                   "Use length, angle, count or number.");
        p.kind = *found;
        p.note = get_or(item, "note", std::string(), "parameter " + p.name);
        p.readings.values = get_or(item, "readings", std::vector<double>(), "parameter " + p.name);
        auto follows = follows_from_name(get_or(item, "follows", std::string("none"), "parameter " + p.name));
        if (!follows)
            refuse("parameter \"" + p.name + "\" follows none of its readings.",
                   "Use mean, largest, smallest or none.");
        p.readings.follows = *follows;
        if (auto wrong = check_readings(p.readings)) refuse(p.name + ": " + wrong->sentence, wrong->advice);
        add(std::move(p));
    }
}

/// Ids that are missing or repeated are given anew, after all that are in use. Steps are told apart within their part:
/// a copied part has the numbers of the one it was copied from.
void give_ids(Project& project, std::vector<Part>& parts) {
    uint64_t highest = 0;
    for (const Part& part : parts) {
        highest = std::max(highest, part.id.value);
        for (const Step& step : part.steps) highest = std::max(highest, step.id.value);
    }
    project.next_id = std::max(project.next_id, highest + 1);
    auto give = [&](std::set<uint64_t>& used, auto& id) {
        if (id && used.insert(id.value).second) return;
        id.value = project.next_id++;
        used.insert(id.value);
    };
    std::set<uint64_t> of_parts;
    for (Part& part : parts) {
        give(of_parts, part.id);
        std::set<uint64_t> of_steps;
        for (Step& step : part.steps) give(of_steps, step.id);
    }
}

MeasuredThing thing_of(const json& from, const std::string& where) {
    object(from, where);
    std::string reference;
    if (from.contains("reference") && !from["reference"].is_null()) reference = text_of(from["reference"], where);
    return {id_of<PartId>(from, "part", where), reference};
}

void read_contacts(const json& from, Project& project) {
    if (from.contains("contacts")) {
        if (!from["contacts"].is_array()) refuse("contacts is not a list.");
        for (const json& c : from["contacts"])
            project.contacts.push_back({get_or(c, "a", std::string(), "a contact"),
                                        get_or(c, "b", std::string(), "a contact"),
                                        c.contains("fit") ? text_of(c["fit"], "a contact") : "slide"});
    }
}

void read_measures(const json& from, Project& project) {
    for (const json& m : from.value("measures", json::array())) {
        object(m, "a measurement");
        KeptMeasure measure{id_of<MeasureId>(m, "id", "a measurement"), {}, {}};
        if (!m.contains("a")) refuse("A measurement does not say what is measured.");
        measure.a = thing_of(m["a"], "an end of a measurement");
        if (m.contains("b") && !m["b"].is_null()) measure.b = thing_of(m["b"], "an end of a measurement");
        project.measures.push_back(std::move(measure));
    }
}

void read_versions(const json& from, Project& project) {
    if (!from.contains("versions")) return;
    if (!from["versions"].is_array() || from["versions"].size() > most_versions)
        refuse("versions is not a list of at most " + std::to_string(most_versions) + ".");
    for (const json& one : from["versions"]) {
        object(one, "A version");
        KeptVersion version;
        version.name = get_or(one, "name", std::string(), "A version");
        version.date = get_or(one, "date", std::string(), "A version");
        version.text = std::make_shared<const std::string>(get_or(one, "project", std::string(), "A version"));
        project.versions.push_back(std::move(version));
    }
}

/// Parts that are not there, or a second time, are let go.
void read_assembly(const json& from, Project& project) {
    if (!from.contains("assembly")) return;
    if (!from["assembly"].is_array()) refuse("assembly is not a list.");
    for (const json& one : from["assembly"]) {
        if (!one.is_number_unsigned()) refuse("assembly holds something that is no number of a part.");
        const PartId id(one.get<uint64_t>());
        if (project.part(id) && std::count(project.assembly.begin(), project.assembly.end(), id) == 0)
            project.assembly.push_back(id);
    }
}

void read_movements(const json& from, Project& project) {
    for (const json& m : from.value("movements", json::array())) {
        const char* where = "a movement";
        object(m, where);
        KeptMovement movement;
        movement.id = id_of<MovementId>(m, "id", where);
        movement.moving = get_or(m, "moving", std::string(), where);
        movement.still = get_or(m, "still", std::string(), where);
        movement.kind = get_or(m, "kind", movement.kind, where);
        if (m.contains("axis") && m["axis"].is_object()) {
            const json& axis = m["axis"];
            if (!axis.contains("reference")) refuse("A movement's axis has no reference.");
            movement.axis = thing_of(axis, where);
        }
        for (auto [key, texts] : {std::pair("point", &movement.point), std::pair("direction", &movement.direction)}) {
            if (!m.contains(key)) continue;
            if (!m[key].is_array() || m[key].size() != 3)
                refuse(std::string("A movement's ") + key + " is not a list of three.");
            for (size_t k = 0; k < 3; ++k) (*texts)[k] = text_of(m[key][k], where);
        }
        for (auto [key, text] : {std::pair("from", &movement.from), std::pair("to", &movement.to),
                                 std::pair("step", &movement.step), std::pair("pitch", &movement.pitch),
                                 std::pair("legs", &movement.legs), std::pair("stands", &movement.stands)})
            if (m.contains(key)) *text = text_of(m[key], where);
        project.movements.push_back(std::move(movement));
    }
}

Project read(const json& from) {
    object(from, "The project");
    if (get_or(from, "format", std::string(), "The project") != "loose-peg")
        refuse("This is no Loose Peg project: \"format\" is not \"loose-peg\".",
               "Open a .loosepeg file or its project.json.");
    int version = get_or(from, "version", 0, "The project");
    if (version > project_version)
        refuse("This project was saved by a later version (format " + std::to_string(version) + ").",
               "Open it with that version.");
    if (version < 1) refuse("The project's version is " + std::to_string(version) + ".", "It must be 1 or more.");
    Project project;
    project.name = get_or(from, "name", project.name, "The project");
    if (from.contains("parameters")) read_parameters(from["parameters"], project);
    for (const Parameter& p : project.parameters)
        if (auto wrong = check_parameter_name(p.name)) throw Refused{*wrong};
    std::vector<Part> parts;
    const json list = from.value("parts", json::array());
    if (!list.is_array()) refuse("parts is not a list.");
    std::set<std::string> names;
    for (size_t i = 0; i < list.size(); ++i) {
        parts.push_back(part_of(list[i], "part " + std::to_string(i + 1)));
        if (!names.insert(parts.back().name).second)
            refuse("Two parts are called \"" + parts.back().name + "\".", "Rename one.");
    }
    read_contacts(from, project);
    read_measures(from, project);
    read_movements(from, project);
    read_versions(from, project);
    try {
        if (from.contains("fits")) project.fits = from["fits"].get<std::vector<NamedFit>>();
        if (from.contains("printer")) project.printer = from["printer"].get<PrinterCard>();
        if (from.contains("material")) project.material = from["material"].get<MaterialCard>();
    } catch (const json::exception&) {
        refuse("The fits, the printer card or the material card cannot be read.",
               "Compare them with docs/file-format.md.");
    }
    if (from.contains("beds")) {
        const json& beds = object(from["beds"], "beds");
        project.beds.spacing_mm = get_or(beds, "spacing_mm", project.beds.spacing_mm, "beds");
        project.beds.colours_apart = get_or(beds, "colours_apart", project.beds.colours_apart, "beds");
        project.beds.one_at_a_time = get_or(beds, "one_at_a_time", project.beds.one_at_a_time, "beds");
        if (!(project.beds.spacing_mm >= 0 && project.beds.spacing_mm <= 100))
            refuse("beds: the way between things is not 0 to 100 mm.");
    }
    if (from.contains("pose_weights")) read_pose_weights(from["pose_weights"], project.pose_weights);
    if (auto wrong = check_card(project.printer)) throw Refused{*wrong};
    if (auto wrong = check_card(project.material)) throw Refused{*wrong};
    for (const NamedFit& fit : project.fits)
        if (!(fit.gap_mm >= -2 && fit.gap_mm <= 20)) refuse("The fit \"" + fit.name + "\" has no gap of -2 to 20 mm.");
    if (from.contains("imports"))
        for (const std::string& file : get_or(from, "imports", std::vector<std::string>(), "The project"))
            project.imports[file] = nullptr;
    project.formulas = get_or(from, "formulas", project.formulas, "The project");
    project.next_id = get_or(from, "next_id", uint64_t(1), "The project");
    for (const KeptMeasure& m : project.measures) project.next_id = std::max(project.next_id, m.id.value + 1);
    for (const KeptMovement& m : project.movements) project.next_id = std::max(project.next_id, m.id.value + 1);
    give_ids(project, parts);
    for (KeptMeasure& m : project.measures)
        if (!m.id) m.id.value = project.next_id++;
    for (KeptMovement& m : project.movements)
        if (!m.id) m.id.value = project.next_id++;
    for (Part& part : parts) project.parts.push_back(std::make_shared<const Part>(std::move(part)));
    read_assembly(from, project);
    // A hand-written project need not list its imports: the steps name them.
    for (const std::string& file : files_named(project)) project.imports.try_emplace(file, nullptr);
    project.extra = rest(from, {"format", "version", "name", "parameters", "parts", "contacts", "fits", "printer",
                                "material", "beds", "imports", "formulas", "next_id", "measures", "movements",
                                "assembly", "versions", "pose_weights"});
    return project;
}

} // namespace

nlohmann::json project_to_json(const Project& project) {
    json parameters = json::array();
    for (const Parameter& p : project.parameters) {
        json item{{"name", p.name}, {"expression", p.expression}, {"kind", kind_name(p.kind)}};
        if (!p.note.empty()) item["note"] = p.note;
        if (!p.readings.values.empty()) {
            item["readings"] = p.readings.values;
            item["follows"] = follows_name(p.readings.follows);
        }
        parameters.push_back(std::move(item));
    }
    json parts = json::array(), contacts = json::array(), imports = json::array();
    for (const PartPtr& part : project.parts) parts.push_back(part_json(*part));
    for (const WantedContact& c : project.contacts) contacts.push_back({{"a", c.a}, {"b", c.b}, {"fit", c.fit}});
    for (const auto& [name, data] : project.imports) imports.push_back(name);
    json result{{"format", "loose-peg"},
                {"version", project_version},
                {"name", project.name},
                {"parameters", parameters},
                {"parts", parts},
                {"contacts", contacts},
                {"fits", project.fits},
                {"printer", project.printer},
                {"material", project.material},
                {"beds",
                 {{"spacing_mm", project.beds.spacing_mm},
                  {"colours_apart", project.beds.colours_apart},
                  {"one_at_a_time", project.beds.one_at_a_time}}},
                {"imports", imports},
                {"next_id", project.next_id}};
    if (project.pose_weights != PoseWeights())
        for (const PoseWeightRow& row : pose_weight_rows())
            result["pose_weights"][row.key] = project.pose_weights.*row.member;
    if (!project.formulas.empty()) result["formulas"] = project.formulas;
    auto thing = [](const MeasuredThing& t) {
        json j{{"part", t.part.value}, {"reference", nullptr}};
        if (t.reference.is_picked())
            j["reference"] = json::parse(t.reference.text());
        else if (!t.reference.empty())
            j["reference"] = t.reference.text();
        return j;
    };
    for (const KeptMeasure& m : project.measures)
        result["measures"].push_back({{"id", m.id.value}, {"a", thing(m.a)}, {"b", m.b ? thing(*m.b) : json(nullptr)}});
    for (const KeptVersion& v : project.versions)
        result["versions"].push_back({{"name", v.name}, {"date", v.date}, {"project", *v.text}});
    for (PartId id : project.assembly) result["assembly"].push_back(id.value);
    for (const KeptMovement& m : project.movements) {
        json j{{"id", m.id.value}, {"moving", m.moving},       {"still", m.still}, {"kind", m.kind},
               {"point", m.point}, {"direction", m.direction}, {"from", m.from},   {"to", m.to},
               {"step", m.step},   {"pitch", m.pitch},         {"legs", m.legs}};
        if (!m.stands.empty()) j["stands"] = m.stands;
        if (m.axis) j["axis"] = thing(*m.axis);
        result["movements"].push_back(std::move(j));
    }
    put_rest(result, project.extra);
    return result;
}

Expected<Project> project_from_json(const nlohmann::json& from) {
    try {
        return read(from);
    } catch (const Refused& refused) {
        return pass_on(refused.problem);
    } catch (const json::exception& error) {
        return problem(ProblemCode::File, "The project cannot be read.", error.what());
    }
}

Expected<Project> project_from_text(const std::string& text) {
    if (text.empty()) return problem(ProblemCode::File, "The project is empty.", "Open another file.");
    try {
        // Depth is bounded here, because the parser's values free themselves recursively.
        int depth = 0;
        auto shallow = [&](int now, json::parse_event_t, json&) {
            depth = std::max(depth, now);
            if (depth > 64)
                throw Refused{
                    Problem{ProblemCode::File, "The project is nested more than 64 deep.", "This is no project file."}};
            return true;
        };
        return project_from_json(json::parse(text, shallow));
    } catch (const Refused& refused) {
        return pass_on(refused.problem);
    } catch (const json::parse_error& error) {
        return problem(ProblemCode::File,
                       "The project cannot be read at byte " + std::to_string(error.byte) + " of " +
                           std::to_string(text.size()) + ".",
                       "The file may be cut off; look for its backup (.loosepeg~).");
    } catch (const json::exception& error) {
        return problem(ProblemCode::File, "The project cannot be read.", error.what());
    }
}

} // namespace lp

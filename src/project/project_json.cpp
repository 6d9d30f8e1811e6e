#include "project/project_json.h"
#include "base/quantity.h"
#include "base/whole_json.h"
#include "project/references.h"
#include "project/way_out.h"
#include <nlohmann/json.hpp>
#include <set>

namespace lp {
namespace {

using nlohmann::json;

struct Refused {
    Problem problem;
};

[[noreturn]] void refuse(const std::string& sentence, const std::string& advice = "Correct it in the file.") {
    throw Refused{Problem{ProblemCode::File, sentence, advice}};
}

const json& object(const json& value, const std::string& where) {
    if (!value.is_object()) refuse(where + " is not an object in braces.");
    return value;
}

std::string text_of(const json& value, const std::string& where) {
    if (value.is_string()) return value.get<std::string>();
    if (value.is_number()) return format_number(value.get<double>(), 9);
    if (value.is_boolean()) return value.get<bool>() ? "true" : "false";
    if (value.is_object()) return value.dump(); // a drawing, a picked face
    if (value.is_array()) {                     // a list of names
        std::string joined;
        for (const json& item : value) joined += (joined.empty() ? "" : ", ") + text_of(item, where);
        return joined;
    }
    refuse(where + " is neither a text nor a number.");
}

template <class T> T get_or(const json& from, const char* key, T standard, const std::string& where) {
    auto found = from.find(key);
    if (found == from.end() || found->is_null()) return standard;
    try {
        return whole_of<T>(*found);
    } catch (const json::exception&) {
        refuse(where + ": \"" + key + "\" is of the wrong type.");
    }
}

/// Fields of later versions, kept as text.
std::string rest(const json& from, const std::set<std::string>& known) {
    json extra;
    for (auto& [key, value] : from.items())
        if (!known.count(key)) extra[key] = value;
    return extra.empty() ? std::string() : extra.dump();
}

void put_rest(json& into, const std::string& text) {
    if (text.empty()) return;
    const json extra = json::parse(text, nullptr, false);
    if (!extra.is_object()) return;
    for (auto& [key, value] : extra.items())
        if (!into.contains(key)) into[key] = value;
}

template <class Id> Id id_of(const json& from, const char* key, const std::string& where) {
    return Id(get_or(from, key, uint64_t(0), where));
}

json vec_json(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}

Vec3 vec_of(const json& value, const std::string& where) {
    try {
        auto a = value.get<std::array<double, 3>>();
        return {a[0], a[1], a[2]};
    } catch (const json::exception&) {
        refuse(where + " is not three numbers.");
    }
}

json pose_json(const PrintPose& pose) {
    json result{{"down", vec_json(pose.down)}, {"turn", pose.turn}, {"face", nullptr}};
    if (pose.face) result["face"] = json::parse(reference_text(*pose.face));
    return result;
}

FaceReference face_of(const json& face, const std::string& where) {
    FaceReference reference;
    reference.tags = get_or(face, "tags", TagSet{}, where);
    reference.primary = get_or(face, "primary", Tag(0), where);
    if (face.contains("point")) reference.point = vec_of(face["point"], where);
    if (face.contains("fraction")) reference.fraction = vec_of(face["fraction"], where);
    reference.neighbours = get_or(face, "neighbours", TagSet{}, where);
    return reference;
}

std::vector<MarkedFace> marks_of(const json& from, const std::string& where) {
    std::vector<MarkedFace> marks;
    if (!from.is_array()) refuse(where + " is not a list.");
    for (const json& item : from) {
        object(item, where);
        const auto word = get_or(item, "mark", std::string(), where);
        const auto mark = face_mark_called(word);
        if (!mark)
            refuse(where + ": \"" + word.substr(0, 40) + "\" is no mark.", "Write seen, mating, never or supported.");
        if (!item.contains("face") || !item["face"].is_object()) refuse(where + ": a mark has no face.");
        marks.push_back({face_of(item["face"], where), *mark});
    }
    return marks;
}

std::vector<BrushDab> dabs_of(const json& from, const std::string& where) {
    std::vector<BrushDab> dabs;
    if (!from.is_array()) refuse(where + " is not a list.");
    for (const json& item : from) {
        object(item, where);
        BrushDab dab;
        dab.radius_mm = get_or(item, "radius_mm", dab.radius_mm, where);
        if (!item.contains("at") || !item.contains("out")) refuse(where + ": a dab has no place.");
        dab.at = vec_of(item["at"], where);
        dab.out = vec_of(item["out"], where);
        if (const auto word = get_or(item, "mark", std::string(), where); !word.empty()) {
            dab.mark = face_mark_called(word);
            if (!dab.mark)
                refuse(where + ": \"" + word.substr(0, 40) + "\" is no mark.",
                       "Write seen, mating, never or supported.");
        }
        dabs.push_back(dab);
    }
    if (auto wrong = check_dabs(dabs)) refuse(where + ": " + wrong->sentence, wrong->advice);
    return dabs;
}

std::vector<SupportChange> changes_of(const json& from, const std::string& where) {
    constexpr size_t most = 10000;
    std::vector<SupportChange> changes;
    if (!from.is_array() || from.size() > most) refuse(where + " is not a list of at most 10000.");
    for (const json& item : from) {
        object(item, where);
        const auto does = get_or(item, "does", std::string(), where);
        if (does != "add" && does != "leave_out")
            refuse(where + ": \"" + does.substr(0, 40) + "\" is not known.", "Write add or leave_out.");
        if (!item.contains("at")) refuse(where + ": a place is missing.");
        changes.push_back({vec_of(item["at"], where), does == "add"});
        if (!changes.back().at.allFinite()) refuse(where + ": a place is no place.");
    }
    return changes;
}

PrintPose pose_of(const json& from, const std::string& where) {
    PrintPose pose;
    object(from, where);
    if (from.contains("down")) pose.down = vec_of(from["down"], where + ", down");
    if (pose.down.norm() < 1e-9 || !pose.down.allFinite()) refuse(where + ", down has no direction.");
    pose.down.normalize();
    if (from.contains("turn")) {
        if (!from["turn"].is_array() || from["turn"].size() != 3) refuse(where + ", turn is not three angles.");
        for (int k = 0; k < 3; ++k) pose.turn[k] = text_of(from["turn"][k], where + ", turn");
    }
    if (from.contains("face") && from["face"].is_object()) pose.face = face_of(from["face"], where);
    return pose;
}

/// Drawings and picked faces are objects in the file, all else is text.
json field_json(const StepField* field, const FieldValue& value) {
    if (field && field->kind == FieldKind::Drawing && value.drawing()) return drawing_json(*value.drawing());
    const std::string& text = value.text();
    bool picked = field && (field->kind == FieldKind::Plane || field->kind == FieldKind::Face);
    if (!picked || text.empty() || text[0] != '{') return text;
    json parsed = json::parse(text, nullptr, false);
    return parsed.is_object() ? parsed : json(text);
}

json part_json(const Part& part) {
    json steps = json::array();
    for (const Step& step : part.steps) {
        json fields = json::object();
        const StepKind* kind = find_step_kind(step.kind);
        for (const auto& [name, value] : step.fields)
            fields[name] = field_json(kind ? kind->field(name) : nullptr, value);
        json s{{"id", step.id.value}, {"kind", step.kind}, {"fields", std::move(fields)}};
        if (!step.name.empty()) s["name"] = step.name;
        if (!step.group.empty()) s["group"] = step.group;
        if (!step.on) s["on"] = false;
        put_rest(s, step.extra);
        steps.push_back(std::move(s));
    }
    const SupportOptions& posts = part.supports.options;
    json place{{"at", part.place.at}, {"turn", part.place.turn}};
    for (const Seat& seat : part.place.seats)
        place["seats"].push_back(
            {{"face", seat.face.text()}, {"on", seat.on}, {"on_face", seat.on_face.text()}, {"gap", seat.gap}});
    json result{{"id", part.id.value},
                {"name", part.name},
                {"stand_in", part.stand_in},
                {"quantity", part.quantity},
                {"colour", part.colour},
                {"visible", part.visible},
                {"see_through", part.see_through},
                {"steps", steps},
                {"pose", pose_json(part.pose)},
                {"place", place},
                {"supports",
                 {{"on", part.supports.on},
                  {"kind", word_of(posts.kind)},
                  {"contact_gap_mm", posts.contact_gap_mm},
                  {"gap_layers", posts.gap_layers},
                  {"spacing_mm", posts.spacing_mm},
                  {"post_mm", posts.post_mm},
                  {"tip_mm", posts.tip_mm},
                  {"neck_mm", posts.neck_mm},
                  {"foot_mm", posts.foot_mm},
                  {"brim_mm", posts.brim_mm},
                  {"brim_place", word_of(posts.brim_place)},
                  {"brim_gap_mm", posts.brim_gap_mm},
                  {"raft_layers", posts.raft_layers},
                  {"interface_layers", posts.interface_layers}}}};
    for (const StopByHand& stop : part.stops) result["stops"].push_back({{"at", stop.at}, {"why", stop.why}});
    for (const TypedBand& band : part.bands)
        result["bands"].push_back({{"from", band.from}, {"to", band.to}, {"layer", band.layer}});
    for (const TypedLeg& leg : part.way_out) result["way_out"].push_back({{"to", leg.to}, {"by", leg.by}});
    if (part.load) result["load"] = vec_json(*part.load);
    if (part.material) result["material"] = *part.material;
    for (const SupportChange& change : part.supports.changes)
        result["supports"]["changes"].push_back(
            {{"at", vec_json(change.at)}, {"does", change.added ? "add" : "leave_out"}});
    if (part.gauge)
        result["gauge"] = {{"contact", part.gauge->contact},
                           {"nominal_mm", part.gauge->nominal_mm},
                           {"from_mm", part.gauge->from_mm},
                           {"to_mm", part.gauge->to_mm},
                           {"count", part.gauge->count}};
    for (const BrushDab& dab : part.brushed) {
        json one{{"at", {dab.at.x(), dab.at.y(), dab.at.z()}},
                 {"out", {dab.out.x(), dab.out.y(), dab.out.z()}},
                 {"radius_mm", dab.radius_mm}};
        if (dab.mark) one["mark"] = word_of(*dab.mark);
        result["brushed"].push_back(std::move(one));
    }
    for (const MarkedFace& marked : part.marks)
        result["marks"].push_back({{"mark", word_of(marked.mark)}, {"face", json::parse(reference_text(marked.face))}});
    for (const auto& [copy, stand] : part.stands)
        result["stands"].push_back({{"copy", copy},
                                    {"bed", stand.spot.bed},
                                    {"at", {stand.spot.at.x(), stand.spot.at.y()}},
                                    {"turn_deg", stand.spot.turn_deg},
                                    {"locked", stand.locked}});
    for (const Variant& v : part.variants) result["variants"].push_back({{"name", v.name}, {"numbers", v.numbers}});
    put_rest(result, part.extra);
    return result;
}

Step step_of(const json& from, const std::string& where) {
    object(from, where);
    Step step;
    step.id = id_of<StepId>(from, "id", where);
    step.kind = get_or(from, "kind", std::string(), where);
    if (step.kind.empty()) refuse(where + " has no kind.");
    const StepKind* kind = find_step_kind(step.kind);
    if (!kind)
        refuse(where + " is of a kind not known here: \"" + step.kind + "\".",
               "loose-peg-cli steps lists the kinds there are.");
    step.kind = kind->id;
    step.name = get_or(from, "name", std::string(), where);
    step.group = get_or(from, "group", std::string(), where);
    step.on = get_or(from, "on", true, where);
    if (from.contains("fields"))
        for (auto& [key, value] : object(from["fields"], where + ", fields").items()) {
            if (!kind->field(key))
                refuse(where + " (" + step.kind + ") has no field \"" + key + "\".",
                       "loose-peg-cli steps lists the fields of each kind.");
            step.fields[key] = text_of(value, where + ", " + key);
        }
    step.extra = rest(from, {"id", "kind", "name", "group", "on", "fields"});
    return step;
}

void read_stands(const json& from, const std::string& where, Part& part) {
    for (const json& s : from.value("stands", json::array())) {
        object(s, where + ", a stand");
        const auto at = get_or(s, "at", std::vector<double>{0, 0}, where + ", a stand");
        if (at.size() != 2) refuse(where + ": the place of a stand is not a list of two.");
        const BedStand stand{{get_or(s, "bed", size_t(0), where + ", a stand"),
                              {at[0], at[1]},
                              get_or(s, "turn_deg", 0.0, where + ", a stand")},
                             get_or(s, "locked", false, where + ", a stand")};
        const int copy = get_or(s, "copy", 0, where + ", a stand");
        if (auto wrong = check_stand(copy, stand)) refuse(where + ": " + wrong->sentence, wrong->advice);
        part.stands[copy] = stand;
    }
}

/// The way it is pulled, and its own plastic.
void read_use(const json& from, const std::string& where, Part& part) {
    if (from.contains("stops")) {
        if (!from["stops"].is_array()) refuse(where + ", stops is not a list.");
        for (const json& stop : from["stops"]) {
            object(stop, where + ", a stop");
            part.stops.push_back({get_or(stop, "at", std::string("0 mm"), where + ", a stop"),
                                  get_or(stop, "why", std::string(), where + ", a stop")});
        }
        if (part.stops.size() > most_stops) refuse(where + " has more stops than a print has layers for.");
    }
    if (from.contains("bands")) {
        if (!from["bands"].is_array()) refuse(where + ", bands is not a list.");
        for (const json& band : from["bands"]) {
            const std::string its = where + ", a band of layers";
            object(band, its);
            part.bands.push_back({get_or(band, "from", std::string("0 mm"), its),
                                  get_or(band, "to", std::string("0 mm"), its),
                                  get_or(band, "layer", std::string("0 mm"), its)});
        }
        if (part.bands.size() > most_bands) refuse(where + " has more bands of layers than are taken.");
    }
    if (from.contains("way_out")) {
        if (!from["way_out"].is_array()) refuse(where + ", way_out is not a list.");
        for (const json& leg : from["way_out"]) {
            const std::string its = where + ", a leg of its way out";
            object(leg, its);
            auto read = leg_typed(get_or(leg, "to", std::string(), its) + " " + get_or(leg, "by", std::string(), its));
            if (!read) refuse(its + ": " + read.error().text());
            part.way_out.push_back(std::move(*read));
        }
        if (part.way_out.size() > most_legs) refuse(where + " has more legs of its way out than are taken.");
    }
    if (from.contains("load")) {
        part.load = vec_of(from["load"], where + ", load");
        if (!part.load->allFinite() || part.load->norm() < 1e-9) refuse(where + ", load has no direction.");
        part.load->normalize();
    }
    if (!from.contains("material")) return;
    try {
        part.material = from["material"].get<MaterialCard>();
    } catch (const json::exception&) {
        refuse(where + ": its material card cannot be read.", "Compare it with docs/file-format.md.");
    }
    if (auto wrong = check_card(*part.material)) throw Refused{*wrong};
}

void read_pose_weights(const json& from, PoseWeights& weights) {
    object(from, "pose_weights");
    for (const PoseWeightRow& row : pose_weight_rows())
        weights.*row.member = get_or(from, row.key, weights.*row.member, "pose_weights");
    if (auto wrong = check_pose_weights(weights)) throw Refused{*wrong};
}

AssemblyPlace place_of(const json& from, const std::string& where) {
    AssemblyPlace place;
    object(from, where + ", place");
    for (auto [key, texts] : {std::pair("at", &place.at), std::pair("turn", &place.turn)}) {
        if (!from.contains(key)) continue;
        if (!from[key].is_array() || from[key].size() != 3)
            refuse(where + ", place, " + key + " is not a list of three.");
        for (size_t k = 0; k < 3; ++k) (*texts)[k] = text_of(from[key][k], where + ", place");
    }
    for (const json& one : from.value("seats", json::array())) {
        const std::string which = where + ", seat " + std::to_string(place.seats.size() + 1);
        Seat seat;
        seat.face = get_or(object(one, which), "face", std::string(), which);
        seat.on = get_or(one, "on", std::string(), which);
        seat.on_face = get_or(one, "on_face", std::string(), which);
        if (one.contains("gap")) seat.gap = text_of(one["gap"], which);
        if (seat.face.empty() || seat.on.empty() || seat.on_face.empty())
            refuse(which + " does not say which face lies on which.", "Write face, on and on_face.");
        place.seats.push_back(seat);
    }
    return place;
}

Part part_of(const json& from, const std::string& where) {
    object(from, where);
    Part part;
    part.id = id_of<PartId>(from, "id", where);
    part.name = get_or(from, "name", std::string(), where);
    if (part.name.empty()) refuse(where + " has no name.");
    part.stand_in = get_or(from, "stand_in", false, where);
    part.quantity = get_or(from, "quantity", 1, where);
    if (part.quantity < 0 || part.quantity > 1000) refuse(where + ": the quantity is not between 0 and 1000.");
    part.colour = get_or(from, "colour", part.colour, where);
    part.visible = get_or(from, "visible", true, where);
    part.see_through = get_or(from, "see_through", false, where);
    const json steps = from.value("steps", json::array());
    if (!steps.is_array()) refuse(where + ": steps is not a list.");
    for (size_t i = 0; i < steps.size(); ++i)
        part.steps.push_back(step_of(steps[i], "part \"" + part.name + "\", step " + std::to_string(i + 1)));
    if (from.contains("pose")) part.pose = pose_of(from["pose"], "part \"" + part.name + "\", pose");
    if (from.contains("supports")) {
        const json& s = object(from["supports"], where + ", supports");
        SupportOptions& posts = part.supports.options;
        part.supports.on = get_or(s, "on", false, where);
        const auto word = get_or(s, "kind", std::string(word_of(posts.kind)), where);
        const auto kind = support_kind_called(word);
        if (!kind)
            refuse(where + ": supports of kind \"" + word.substr(0, 40) + "\" are not known.", "Write post or tree.");
        posts.kind = *kind;
        posts.contact_gap_mm = get_or(s, "contact_gap_mm", posts.contact_gap_mm, where);
        posts.gap_layers = get_or(s, "gap_layers", posts.gap_layers, where);
        posts.spacing_mm = get_or(s, "spacing_mm", posts.spacing_mm, where);
        posts.post_mm = get_or(s, "post_mm", posts.post_mm, where);
        posts.tip_mm = get_or(s, "tip_mm", posts.tip_mm, where);
        posts.neck_mm = get_or(s, "neck_mm", posts.neck_mm, where);
        posts.foot_mm = get_or(s, "foot_mm", posts.foot_mm, where);
        posts.brim_mm = get_or(s, "brim_mm", posts.brim_mm, where);
        posts.brim_gap_mm = get_or(s, "brim_gap_mm", posts.brim_gap_mm, where);
        posts.raft_layers = get_or(s, "raft_layers", posts.raft_layers, where);
        posts.interface_layers = get_or(s, "interface_layers", posts.interface_layers, where);
        const auto brim = get_or(s, "brim_place", std::string(word_of(posts.brim_place)), where);
        const auto place = brim_place_called(brim);
        if (!place)
            refuse(where + ": a brim at the place \"" + brim.substr(0, 40) + "\" is not known.",
                   "Write outside, inside, both or corners.");
        posts.brim_place = *place;
        if (auto wrong = check_supports(posts)) refuse(where + ": " + wrong->sentence, wrong->advice);
        if (s.contains("changes")) part.supports.changes = changes_of(s["changes"], where + ", supports, changes");
    }
    read_stands(from, where, part);
    read_use(from, where, part);
    if (from.contains("marks")) part.marks = marks_of(from["marks"], where + ", marks");
    if (from.contains("brushed")) part.brushed = dabs_of(from["brushed"], where + ", brushed");
    if (from.contains("place")) part.place = place_of(from["place"], where);
    for (const json& v : from.value("variants", json::array())) {
        object(v, where + ", a variant");
        part.variants.push_back({get_or(v, "name", std::string(), where + ", a variant"),
                                 get_or(v, "numbers", std::map<std::string, std::string>(), where + ", a variant")});
        if (part.variants.back().name.empty()) refuse(where + ": a variant has no name.");
    }
    if (from.contains("gauge") && !from["gauge"].is_null()) {
        const json& g = object(from["gauge"], where + ", gauge");
        GaugeLadder ladder;
        ladder.contact = get_or(g, "contact", ladder.contact, where);
        ladder.nominal_mm = get_or(g, "nominal_mm", ladder.nominal_mm, where);
        ladder.from_mm = get_or(g, "from_mm", ladder.from_mm, where);
        ladder.to_mm = get_or(g, "to_mm", ladder.to_mm, where);
        ladder.count = get_or(g, "count", ladder.count, where);
        if (auto wrong = check_ladder(ladder)) throw Refused{*wrong};
        part.gauge = ladder;
    }
    part.extra = rest(from, {"gauge",  "place",   "variants",    "id",    "name", "stand_in", "quantity",
                             "colour", "visible", "see_through", "steps", "pose", "supports", "stands",
                             "marks",  "brushed", "stops",       "bands", "load", "material", "way_out"});
    return part;
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

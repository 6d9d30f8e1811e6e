#include "project/part_json.h"
#include "project/references.h"
#include "project/way_out.h"

namespace lp {

using namespace json_fields;

namespace {

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

json step_json(const Step& step) {
    json fields = json::object();
    const StepKind* kind = find_step_kind(step.kind);
    for (const auto& [name, value] : step.fields) fields[name] = field_json(kind ? kind->field(name) : nullptr, value);
    json result{{"id", step.id.value}, {"kind", step.kind}, {"fields", std::move(fields)}};
    if (!step.name.empty()) result["name"] = step.name;
    if (!step.group.empty()) result["group"] = step.group;
    if (!step.on) result["on"] = false;
    put_rest(result, step.extra);
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

json supports_json(const SupportSettings& supports) {
    const SupportOptions& posts = supports.options;
    json result{{"on", supports.on},
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
                {"interface_layers", posts.interface_layers}};
    for (const SupportChange& change : supports.changes)
        result["changes"].push_back({{"at", vec_json(change.at)}, {"does", change.added ? "add" : "leave_out"}});
    return result;
}

SupportSettings support_settings_of(const json& from, const std::string& where) {
    object(from, where + ", supports");
    SupportSettings supports;
    SupportOptions& posts = supports.options;
    supports.on = get_or(from, "on", false, where);
    const auto word = get_or(from, "kind", std::string(word_of(posts.kind)), where);
    const auto kind = support_kind_called(word);
    if (!kind)
        refuse(where + ": supports of kind \"" + word.substr(0, 40) + "\" are not known.", "Write post or tree.");
    posts.kind = *kind;
    posts.contact_gap_mm = get_or(from, "contact_gap_mm", posts.contact_gap_mm, where);
    posts.gap_layers = get_or(from, "gap_layers", posts.gap_layers, where);
    posts.spacing_mm = get_or(from, "spacing_mm", posts.spacing_mm, where);
    posts.post_mm = get_or(from, "post_mm", posts.post_mm, where);
    posts.tip_mm = get_or(from, "tip_mm", posts.tip_mm, where);
    posts.neck_mm = get_or(from, "neck_mm", posts.neck_mm, where);
    posts.foot_mm = get_or(from, "foot_mm", posts.foot_mm, where);
    posts.brim_mm = get_or(from, "brim_mm", posts.brim_mm, where);
    posts.brim_gap_mm = get_or(from, "brim_gap_mm", posts.brim_gap_mm, where);
    posts.raft_layers = get_or(from, "raft_layers", posts.raft_layers, where);
    posts.interface_layers = get_or(from, "interface_layers", posts.interface_layers, where);
    const auto brim = get_or(from, "brim_place", std::string(word_of(posts.brim_place)), where);
    const auto place = brim_place_called(brim);
    if (!place)
        refuse(where + ": a brim at the place \"" + brim.substr(0, 40) + "\" is not known.",
               "Write outside, inside, both or corners.");
    posts.brim_place = *place;
    if (auto wrong = check_supports(posts)) refuse(where + ": " + wrong->sentence, wrong->advice);
    if (from.contains("changes")) supports.changes = changes_of(from["changes"], where + ", supports, changes");
    return supports;
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

GaugeLadder ladder_of(const json& from, const std::string& where) {
    object(from, where + ", gauge");
    GaugeLadder ladder;
    ladder.contact = get_or(from, "contact", ladder.contact, where);
    ladder.nominal_mm = get_or(from, "nominal_mm", ladder.nominal_mm, where);
    ladder.from_mm = get_or(from, "from_mm", ladder.from_mm, where);
    ladder.to_mm = get_or(from, "to_mm", ladder.to_mm, where);
    ladder.count = get_or(from, "count", ladder.count, where);
    if (auto wrong = check_ladder(ladder)) throw Refused{*wrong};
    return ladder;
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

} // namespace

json part_json(const Part& part) {
    json steps = json::array();
    for (const Step& step : part.steps) steps.push_back(step_json(step));
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
                {"supports", supports_json(part.supports)}};
    for (const StopByHand& stop : part.stops) result["stops"].push_back({{"at", stop.at}, {"why", stop.why}});
    for (const TypedBand& band : part.bands)
        result["bands"].push_back({{"from", band.from}, {"to", band.to}, {"layer", band.layer}});
    for (const TypedLeg& leg : part.way_out) result["way_out"].push_back({{"to", leg.to}, {"by", leg.by}});
    if (part.load) result["load"] = vec_json(*part.load);
    if (part.material) result["material"] = *part.material;
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
    if (from.contains("supports")) part.supports = support_settings_of(from["supports"], where);
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
    if (from.contains("gauge") && !from["gauge"].is_null()) part.gauge = ladder_of(from["gauge"], where);
    part.extra = rest(from, {"gauge",  "place",   "variants",    "id",    "name", "stand_in", "quantity",
                             "colour", "visible", "see_through", "steps", "pose", "supports", "stands",
                             "marks",  "brushed", "stops",       "bands", "load", "material", "way_out"});
    return part;
}

} // namespace lp

// A sample of every kind of step: a part in which it works, for tests that walk all of them.
#pragma once
#include "made_project.h"

namespace lp::test {

struct KindSample {
    json steps;                  ///< of the part; the last step is the sample
    json others = json::array(); ///< parts it uses, each with a name and steps
    std::map<std::string, std::string> files = {};
};

inline json sample_outline(const std::string& name, const json& elements, const json& more = json::object()) {
    json fields{{"drawing", {{"elements", elements}}}};
    fields.update(more);
    return step("outline", fields, name);
}
inline json line(double x0, double y0, double x1, double y1) {
    return {{"kind", "line"}, {"points", {{x0, y0}, {x1, y1}}}};
}
inline json rectangle(double x0, double y0, double x1, double y1) {
    return json::array({line(x0, y0, x1, y0), line(x1, y0, x1, y1), line(x1, y1, x0, y1), line(x0, y1, x0, y0)});
}
inline json circles(double x, double y, double r) {
    return json::array({{{"kind", "circle"}, {"points", {{x, y}}}, {"radius", r}}});
}
/// A tetrahedron in text STL with legs of 10 mm: 1000 / 6 mm3.
inline const char* tetrahedron_stl = "solid t\n"
                                     "facet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 0 10 0\nvertex 10 0 0\n"
                                     "endloop\nendfacet\n"
                                     "facet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 10 0 0\nvertex 0 0 10\n"
                                     "endloop\nendfacet\n"
                                     "facet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 0 0 10\nvertex 0 10 0\n"
                                     "endloop\nendfacet\n"
                                     "facet normal 0 0 0\nouter loop\nvertex 10 0 0\nvertex 0 10 0\nvertex 0 0 10\n"
                                     "endloop\nendfacet\nendsolid t\n";

inline KindSample sample_of(const std::string& kind) {
    const json b = block(40, 30, 20);
    const json second = step("cylinder", {{"diameter", 10}, {"height", 30}, {"at_x", 12}, {"does", "new"}}, "post");
    auto after = [&](const json& first, const json& fields) { return KindSample{{first, step(kind, fields, "it")}}; };
    auto two = [&](const json& fields) { return KindSample{{b, second, step(kind, fields, "it")}}; };
    auto alone = [&](const json& fields) { return KindSample{{step(kind, fields, "it")}}; };
    static const std::map<std::string, json> solids{{"block", {{"size_x", 12}, {"size_y", 10}, {"size_z", 8}}},
                                                    {"cylinder", {{"diameter", 10}, {"height", 12}}},
                                                    {"prism", {{"sides", 6}, {"across", 10}, {"height", 8}}},
                                                    {"cone", {{"diameter", 12}, {"height", 9}}},
                                                    {"sphere", {{"diameter", 12}}},
                                                    {"half_sphere", {{"diameter", 12}}},
                                                    {"wedge", {{"size_x", 12}, {"size_y", 8}, {"size_z", 6}}},
                                                    {"pyramid", {{"sides", 4}, {"across", 10}}},
                                                    {"ring", {{"diameter", 20}, {"thickness", 4}}},
                                                    {"dome", {{"diameter", 20}, {"height", 4}}}};
    if (auto solid = solids.find(kind); solid != solids.end()) return alone(solid->second);
    if (kind == "outline") return {{b, sample_outline("it", rectangle(0, 0, 8, 6))}};
    if (kind == "extrude")
        return {{sample_outline("base", rectangle(0, 0, 20, 10)), step(kind, {{"height", 6}}, "it")}};
    if (kind == "revolve")
        return {
            {sample_outline("base", rectangle(5, 0, 9, 10)), step(kind, {{"axis", "y"}, {"angle", "360 deg"}}, "it")}};
    if (kind == "sweep")
        return {{sample_outline("disc", circles(0, 0, 2)),
                 sample_outline("way", json::array({line(0, 0, 0, 20)}), {{"on", "xz"}}),
                 step(kind, {{"outline", "disc"}, {"path", "way"}}, "it")}};
    if (kind == "loft")
        return {{sample_outline("low", rectangle(-8, -8, 8, 8)),
                 sample_outline("high", rectangle(-5, -5, 5, 5), {{"distance", "10 mm"}}),
                 step(kind, {{"outlines", "low, high"}}, "it")}};
    if (kind == "repeat_path")
        return {{b, step("cylinder", {{"diameter", 3}, {"height", 5}, {"at_z", 19}}, "pin"),
                 sample_outline("way", json::array({line(0, 0, 12, 0)})),
                 step(kind, {{"steps", "pin"}, {"path", "way"}, {"count", 3}}, "it")}};
    if (kind == "inlay")
        return {{step("block", {{"size_x", 40}, {"size_y", 30}, {"size_z", 4}}, "plate"),
                 sample_outline("emblem", circles(0, 0, 5), {{"distance", "4 mm"}}), step(kind, {{"depth", 1}}, "it")}};
    if (kind == "rib")
        return {{step("block", {{"size_x", 40}, {"size_y", 30}, {"size_z", 4}}, "plate"),
                 step("block", {{"size_x", 4}, {"size_y", 30}, {"size_z", 20}, {"at_x", -18}, {"at_z", 4}}, "wall"),
                 sample_outline("slope", json::array({line(-16, 18, 10, 4)}), {{"on", "xz"}}),
                 step(kind, {{"outline", "slope"}, {"thickness", 3}, {"fills", "right"}}, "it")}};
    if (kind == "gusset")
        return {{step("block", {{"size_x", 40}, {"size_y", 30}, {"size_z", 4}}, "plate"),
                 step("block", {{"size_x", 4}, {"size_y", 30}, {"size_z", 20}, {"at_x", -18}, {"at_z", 4}}, "wall"),
                 step(kind, {{"edges", "made by wall"}, {"size", 10}, {"thickness", 3}}, "it")}};
    if (kind == "cut_with")
        return {{b, step(kind, {{"tool", "Peg"}, {"fit", "slide"}}, "it")},
                {{{"name", "Peg"}, {"steps", {step("cylinder", {{"diameter", 6}, {"height", 30}})}}}}};
    if (kind == "take")
        return {{step(kind, {{"from", "Peg"}}, "it")},
                {{{"name", "Peg"}, {"steps", {step("cylinder", {{"diameter", 6}, {"height", 30}}, "stem")}}}}};
    if (kind == "bring_in")
        return {{step(kind, {{"file", "t.stl"}}, "it")}, json::array(), {{"t.stl", tetrahedron_stl}}};
    if (kind == "mend")
        return {{step("bring_in", {{"file", "t.stl"}}, "raw"), step(kind, json::object(), "it")},
                json::array(),
                {{"t.stl", tetrahedron_stl}}};
    if (kind == "move") return after(b, {{"by_x", 5}});
    if (kind == "turn") return after(b, {{"angle", "30 deg"}});
    if (kind == "join") return two({{"what", "all"}});
    if (kind == "cut") return two({{"from", "b"}, {"what", "post"}});
    if (kind == "common") return two({{"what", "b, post"}});
    if (kind == "leave_out") return two({{"what", "post"}});
    if (kind == "align") return two({{"what", "post"}, {"to", "b"}, {"z", "after"}});
    if (kind == "seat") return two({{"face", "bottom of post"}, {"on", "top of b"}});
    if (kind == "meet") return two({{"point", "bottom of post"}, {"goal", "top of b"}});
    if (kind == "halo") return two({{"what", "post"}, {"fit", "0.3 mm"}});
    if (kind == "open_for_halos")
        return {{b, second, step("halo", {{"what", "post"}, {"fit", "0.3 mm"}}), step(kind, {{"what", "b"}}, "it")}};
    if (kind == "fillet") return after(b, {{"edges", "of top of b"}, {"radius", 2}});
    if (kind == "chamfer") return after(b, {{"edges", "of top of b"}, {"distance", 1}});
    if (kind == "shell") return after(b, {{"open", "top of b"}, {"wall", 2}});
    if (kind == "draft") return after(b, {{"faces", "front of b"}, {"angle", "3 deg"}});
    if (kind == "push") return after(b, {{"faces", "top of b"}, {"by", 2}});
    if (kind == "remove_faces")
        return {{b, step("cylinder", {{"diameter", 6}, {"height", 5}, {"at_z", 20}}, "boss"),
                 step(kind, {{"faces", "side of boss; top of boss"}}, "it")}};
    // Faces with words on a body of triangles: skewed by next to nothing.
    const json triangles = step("skew", {{"angle", "0.001 deg"}}, "triangles");
    if (kind == "move_faces") return {{b, triangles, step(kind, {{"faces", "top of b"}, {"z", 2}}, "it")}};
    if (kind == "chamfer_feet")
        return {
            {b,
             step("block", {{"size_x", 10}, {"size_y", 30}, {"size_z", 20}, {"at_x", 40.3}, {"does", "new"}}, "beside"),
             step(kind, json::object(), "it")}};
    if (kind == "interlocked_split") return after(b, {{"distance", "9 mm"}, {"wide", "8 mm"}, {"deep", "5 mm"}});
    if (kind == "snap_hook") return after(b, {{"on", "top of b"}, {"at_x", 20}, {"at_y", 15}, {"length", "12 mm"}});
    if (kind == "rod_clip") return after(b, {{"on", "top of b"}, {"at_x", 20}, {"at_y", 15}, {"rod", "8 mm"}});
    if (kind == "living_hinge") return after(b, {{"on", "top of b"}, {"at_x", 20}, {"at_y", 15}, {"web", "0.6 mm"}});
    if (kind == "pinned_split") return after(b, {{"distance", "9 mm"}, {"across", "5 mm"}, {"deep", "6 mm"}});
    if (kind == "print_solid") return {{b, step(kind, {{"what", "b"}, {"around", "2 mm"}}, "it")}};
    if (kind == "brush_face")
        return {{b, triangles, step(kind, {{"dabs", "0 0 20 0 0 1 3"}, {"finer", "0.5 mm"}}, "it")}};
    if (kind == "set_apart")
        return {
            {b, triangles, step(kind, {{"faces", "top of b"}, {"from", "bottom of b"}, {"distance", "22 mm"}}, "it")}};
    if (kind == "diameter")
        return {{step("cylinder", {{"diameter", 10}, {"height", 12}}, "post"), triangles,
                 step(kind, {{"faces", "side of post"}, {"diameter", "9 mm"}}, "it")}};
    if (kind == "smooth") return {{b, triangles, step(kind, {{"rounds", 3}}, "it")}};
    if (kind == "remesh") return {{b, triangles, step(kind, {{"edge", "4 mm"}}, "it")}};
    if (kind == "faces_body")
        return {{b, step("cylinder", {{"diameter", 6}, {"height", 5}, {"at_z", 20}}, "boss"),
                 step(kind, {{"faces", "side of boss; top of boss"}}, "it")}};
    if (kind == "full_round") return {{block(30, 6, 20), step(kind, {{"face", "top of b"}}, "it")}};
    if (kind == "pointed_roof")
        return {{block(30, 20, 20),
                 step("block", {{"size_x", 30}, {"size_y", 8}, {"size_z", 6}, {"at_z", 5}, {"does", "cut"}}, "slot"),
                 step(kind, {{"face", "top of slot"}}, "it")}};
    if (kind == "simplify" || kind == "rebuild")
        return {{step("bring_in", {{"file", "t.stl"}}, "t"), step(kind, json::object(), "it")},
                json::array(),
                {{"t.stl", tetrahedron_stl}}};
    if (kind == "ridges") return {{b, step("ridges", {{"face", "top of b"}})}};
    if (kind == "closing_layer")
        return {{block(30, 20, 20), step("cylinder", {{"diameter", 4}, {"height", 20}, {"does", "cut"}}, "hole"),
                 step("cylinder", {{"diameter", 9}, {"height", 5}, {"does", "cut"}}, "counterbore"),
                 step(kind, {{"face", "top of counterbore"}}, "it")}};
    if (kind == "bought") return {{step(kind, {{"piece", "M4 x 16 socket head"}}, "it")}};
    if (kind == "hole_for")
        return {{block(30, 20, 10), step(kind, {{"piece", "M3 x 12 countersunk"}, {"on", "top of b"}}, "it")}};
    if (kind == "screw_joint")
        return {
            {block(30, 20, 4),
             step("block", {{"size_x", 30}, {"size_y", 20}, {"size_z", 10}, {"at_z", -10.2}, {"does", "new"}}, "lower"),
             step(kind, {{"screw", "M3 x 12 socket head"}, {"on", "top of b"}}, "it")}};
    if (kind == "scale") return after(b, {{"by", "1.1"}});
    if (kind == "mirror") return after(b, {{"in", "yz"}, {"distance", "30 mm"}});
    if (kind == "repeat") return after(b, {{"count", 3}, {"by_x", 50}});
    if (kind == "repeat_round") return after(b, {{"count", 4}, {"through_x", 60}});
    if (kind == "split") return after(b, {{"by", "xz"}, {"keep", "above"}});
    if (kind == "pieces") return {{b, step("split", {{"by", "yz"}}, "halves"), step(kind, {{"keep", "all"}}, "it")}};
    if (kind == "widen") return after(b, {{"by", "yz"}, {"apart", "5 mm"}});
    if (kind == "bend") return {{block(40, 6, 4), step(kind, {{"angle", "30 deg"}}, "it")}};
    if (kind == "skew") return after(b, {{"angle", "10 deg"}});
    if (kind == "twist") return after(b, {{"angle", "20 deg"}, {"to", "20 mm"}});
    if (kind == "taper") return after(b, {{"by", "0.8"}, {"to", "20 mm"}});
    if (kind == "stretch") return after(b, {{"by", "4 mm"}, {"from", "-4 mm"}, {"to", "4 mm"}});
    if (kind == "lie_on")
        return {{step("cylinder", {{"diameter", 40}, {"height", 40}}, "wall"),
                 step("block", {{"size_x", 12}, {"size_y", 8}, {"size_z", 2}, {"at_x", 60}, {"does", "new"}}, "plate"),
                 step(kind, {{"what", "plate"}, {"on", "side of wall"}, {"height", "20 mm"}}, "it")}};
    if (kind == "lock_groove")
        return after(step("cylinder", {{"diameter", 50}, {"height", 40}}, "pot"),
                     {{"radius", 25}, {"depth", 2}, {"width", 4}, {"at_z", 40}, {"legs", "slide 6, turn 30"}});
    if (kind == "lock_lugs")
        return after(step("cylinder", {{"diameter", 40}, {"height", 40}}, "plug"),
                     {{"radius", 20}, {"depth", 2}, {"width", 4}, {"at_z", 36}});
    if (kind == "crop") return after(b, {{"size_x", 20}, {"size_y", 20}, {"size_z", 50}});
    return alone(json::object()); // hinges and the like stand by their own standards
}

/// The sample in a project: its part is "Tray", the parts it uses stand before it.
inline ProjectPtr sample_project(const std::string& kind) {
    KindSample sample = sample_of(kind);
    json parts = sample.others;
    parts.push_back({{"name", "Tray"}, {"steps", sample.steps}});
    parts.push_back({{"name", "Spare"}, {"steps", json::array()}});
    auto project = project_from_text(
        json{{"format", "loose-peg"}, {"version", 1}, {"parameters", {{"number", "6 mm"}}}, {"parts", parts}}.dump());
    EXPECT_TRUE(project) << kind << ": " << (project ? "" : project.error().text());
    // As a file keeps it: with ids, drawings written our way.
    if (project) project = project_from_text(project_to_json(*project).dump());
    auto own = std::make_shared<Project>(project.value_or(Project{}));
    for (const auto& [name, bytes] : sample.files) own->imports[name] = std::make_shared<const std::string>(bytes);
    return own;
}

} // namespace lp::test

// STEP out and in: volumes in closed form, faces, names, colours and units; what is damaged is refused in a sentence.
#include "formats/formats.h"
#include "handoff/export_project.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "shape/face_reference.h"
#include "shape/kernel_guard.h"
#include "shape/step_file.h"
#include "steps/find_plane.h"
#include "test_meshes.h"
#include <numbers>
#include <random>
#include <regex>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A plate with a round hole and rounded upright edges.
Made plate() {
    return make({block(40, 20, 6), step("cylinder", {{"diameter", 8}, {"height", 6}, {"does", "cut"}}, "hole"),
                 step("fillet", {{"edges", "upright"}, {"radius", 3}})});
}
const double plate_mm3 = 40 * 20 * 6 - pi * 16 * 6 - (4 - pi) * 9 * 6;

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    for (size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size()))
        text.replace(at, from.size(), to);
    return text;
}
std::string written(const Body& body, const std::string& name = "Plate") {
    auto bytes = write_step_file({{name, body, 0x336699}}, "Bench");
    EXPECT_TRUE(bytes) << (bytes ? "" : bytes.error().text());
    return bytes.value_or("");
}

} // namespace

TEST(StepFile, BodiesComeBackAsTheyWere) {
    ASSERT_TRUE(kernel_is_apart());
    const Made made = plate();
    ASSERT_EQ(made.says(), "");
    const Made ball = make(json::array({step("sphere", {{"diameter", 30}, {"at_x", 50}}, "ball")}));
    const auto bytes = write_step_file({{"Plate", made.body(), 0x336699}, {"Ball", ball.body(), 0xff8000}}, "Bench");
    ASSERT_TRUE(bytes) << bytes.error().text();
    EXPECT_EQ(bytes->rfind("ISO-10303-21;", 0), 0u);
    EXPECT_NE(bytes->find("AUTOMOTIVE_DESIGN"), std::string::npos) << "AP 214";
    EXPECT_NE(bytes->find("Loose Peg"), std::string::npos);
    const auto read = read_step_file(*bytes);
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->size(), 2u);
    const StepFileBody &first = (*read)[0], &second = (*read)[1];
    EXPECT_EQ(first.name, "Plate");
    EXPECT_EQ(second.name, "Ball");
    EXPECT_EQ(first.colour, 0x336699u);
    EXPECT_EQ(second.colour, 0xff8000u);
    EXPECT_TRUE(first.body.is_exact());
    EXPECT_NEAR(first.body.mass().volume_mm3, plate_mm3, 1e-3);
    EXPECT_NEAR(second.body.mass().volume_mm3, 4 / 3.0 * pi * 3375, 1e-2);
    EXPECT_NEAR(second.body.mass().area_mm2, 4 * pi * 225, 1e-2);
    EXPECT_NEAR(second.body.mass().centre.x(), 50, 1e-6) << "where it stood";
    EXPECT_EQ(first.body.tessellation().faces.size(), made.body().tessellation().faces.size());
    EXPECT_TRUE(compare_bodies("f", "n", first.body, made.body()).same);
    EXPECT_FALSE(compare_bodies("f", "n", second.body, made.body()).same);
    EXPECT_EQ(bytes->find("CASCADE"), std::string::npos);
    // An assembly by the project's name (ISO 10303-44), the two things in it by theirs; one alone is no assembly.
    EXPECT_NE(bytes->find("PRODUCT('Bench','Bench'"), std::string::npos);
    EXPECT_NE(bytes->find("NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','Plate'"), std::string::npos);
    EXPECT_NE(bytes->find("NEXT_ASSEMBLY_USAGE_OCCURRENCE('2','Ball'"), std::string::npos);
    EXPECT_EQ(written(made.body()).find("NEXT_ASSEMBLY"), std::string::npos);
}

TEST(StepFile, WhatWasMovedOrCameInPiecesKeepsItsName) {
    // A body that a boolean left in two pieces, and stands elsewhere.
    const Made made =
        make({block(40, 10, 10),
              step("block", {{"size_x", 10}, {"size_y", 20}, {"size_z", 20}, {"at_z", -1}, {"does", "cut"}})});
    ASSERT_EQ(made.says(), "");
    ASSERT_EQ(made.body().pieces(), 2);
    Transform away = Transform::Identity();
    away.translate(Vec3(100, 0, 0));
    away.rotate(Eigen::AngleAxisd(0.5, Vec3::UnitZ()));
    const auto placed = moved(made.body(), away);
    ASSERT_TRUE(placed);
    const auto bytes = write_step_file({{"Rail", *placed, 0x102030}, {"Rail 2", *placed, 0x102030}}, "Bench");
    ASSERT_TRUE(bytes) << bytes.error().text();
    const auto read = read_step_file(*bytes);
    ASSERT_TRUE(read);
    ASSERT_EQ(read->size(), 4u);
    for (size_t i = 0; i < 4; ++i) {
        EXPECT_EQ((*read)[i].name, i < 2 ? "Rail" : "Rail 2");
        EXPECT_EQ((*read)[i].colour, 0x102030u);
        EXPECT_NEAR((*read)[i].body.mass().volume_mm3, 1500, 1e-6);
        EXPECT_GT((*read)[i].body.mass().centre.x(), 80);
    }
}

TEST(StepFile, NamesOfEveryKindComeBack) {
    const Made made = make(json::array({block(10, 10, 10)}));
    for (const char* name : {"Bean's pole", "Gießkanne, groß", "a\\b", "№ 7 — 水", "plain", "two \"words\"", "🌱"}) {
        const auto read = read_step_file(written(made.body(), name));
        ASSERT_TRUE(read) << name << ": " << read.error().text();
        EXPECT_EQ(read->front().name, name);
    }
}

TEST(StepFile, UnitsAreTurnedIntoMillimetres) {
    const std::string mm = written(make(json::array({block(10, 20, 30)})).body());
    ASSERT_NE(mm.find("SI_UNIT(.MILLI.,.METRE.)"), std::string::npos);
    const auto metres = read_step_file(replaced(mm, "SI_UNIT(.MILLI.,.METRE.)", "SI_UNIT($,.METRE.)"));
    ASSERT_TRUE(metres) << metres.error().text();
    EXPECT_NEAR(metres->front().body.mass().volume_mm3 / 6000e9, 1, 1e-6);
    const auto centi = read_step_file(replaced(mm, "SI_UNIT(.MILLI.,.METRE.)", "SI_UNIT(.CENTI.,.METRE.)"));
    ASSERT_TRUE(centi);
    EXPECT_NEAR(centi->front().body.mass().volume_mm3, 6000e3, 1);
}

TEST(StepFile, WhatIsDamagedIsRefusedInASentence) {
    const std::string good = written(make(json::array({block(10, 20, 30)})).body());
    std::vector<std::string> bad{"",
                                 "ISO-10303-21;",
                                 "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
                                 std::string(1'600'000, ';'),
                                 good.substr(0, good.size() / 2),
                                 good.substr(0, good.find("DATA;")),
                                 replaced(good, "MANIFOLD_SOLID_BREP", "MANIFEST")};
    for (const std::string& bytes : bad) {
        const auto read = read_step_file(bytes);
        ASSERT_FALSE(read) << bytes.substr(0, 60);
        EXPECT_LT(read.error().text().size(), 500u);
        EXPECT_GT(read.error().text().size(), 10u);
    }
    std::mt19937 random(19);
    for (int n = 0; n < 60; ++n) {
        std::string bytes = good;
        for (int k = 0; k < 3; ++k) bytes[random() % bytes.size()] = char(random());
        if (n % 3 == 0) bytes.erase(random() % bytes.size(), random() % 200);
        const auto read = read_step_file(bytes);
        EXPECT_TRUE(read || !read.error().text().empty());
    }
    EXPECT_TRUE(read_step_file(good)) << "the kernel's process is there again";
    EXPECT_FALSE(write_step_file({}, "t"));
    const auto faceted = write_step_file({{"Gnome", Body::from_mesh(cube(5))}}, "t");
    ASSERT_FALSE(faceted);
    EXPECT_NE(faceted.error().text().find("Gnome is of triangles"), std::string::npos) << faceted.error().text();
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(read_step_file(good, stopped));
}

TEST(StepFile, WhatIsNotSoundIsHealed) {
    const std::string good = written(plate().body());
    EXPECT_EQ(good.find("PCURVE"), std::string::npos) << "planes and cylinders need none";
    auto turned = [](const std::string& text, const char* entity, bool once) {
        const std::regex sense(std::string(entity) + "\\('[^']*',(\\([^)]*\\)|#\\d+),(#\\d+,)?\\.([TF])\\.");
        std::string result;
        auto from = text.cbegin();
        for (std::sregex_iterator i(text.begin(), text.end(), sense), end; i != end; ++i) {
            const auto at = text.cbegin() + i->position(3);
            result.append(from, at).push_back(*at == 'T' ? 'F' : 'T');
            from = at + 1;
            if (once) break;
        }
        return result.append(from, text.cend());
    };
    const std::string loose = std::regex_replace(good, std::regex("MANIFOLD_SOLID_BREP\\('([^']*)',(#\\d+)\\)"),
                                                 "SHELL_BASED_SURFACE_MODEL('$1',($2))");
    std::smatch corner, place;
    ASSERT_TRUE(std::regex_search(good, corner, std::regex("VERTEX_POINT\\('',(#\\d+)\\)")));
    const std::regex its_place(corner[1].str() + " = CARTESIAN_POINT\\('',\\(([^,]*),");
    ASSERT_TRUE(std::regex_search(good, place, its_place));
    std::string off = good;
    off.replace(size_t(place.position(1)), size_t(place.length(1)), std::to_string(std::stod(place[1].str()) + 0.005));
    ASSERT_NE(loose, good);
    const std::map<const char*, std::string> files{
        {"inside out", turned(turned(good, "ADVANCED_FACE", false), "FACE_BOUND", false)},
        {"one face the wrong way round", turned(good, "ADVANCED_FACE", true)},
        {"faces that are no solid", loose},
        {"an open shell that closes", replaced(loose, "CLOSED_SHELL", "OPEN_SHELL")},
        {"a corner beside its edges", off}};
    for (const auto& [what, bytes] : files) {
        EXPECT_NE(bytes, good) << what;
        const auto read = read_step_file(bytes);
        ASSERT_TRUE(read) << what << ": " << read.error().text();
        ASSERT_EQ(read->size(), 1u) << what;
        EXPECT_NEAR(read->front().body.mass().volume_mm3, plate_mm3, plate_mm3 * 1e-4) << what;
        EXPECT_TRUE(check_soundness(read->front().body.tessellation().mesh).closed) << what;
    }
    const std::regex first_of_shell("(CLOSED_SHELL\\('',\\()#\\d+,");
    const auto hole = read_step_file(std::regex_replace(good, first_of_shell, "$1"));
    ASSERT_FALSE(hole) << "a face is missing";
    EXPECT_NE(hole.error().text().find("no solid"), std::string::npos) << hole.error().text();
}

/// Files of another modeller (1998), as the package occt-misc carries them: faces and edges are counted in their text.
TEST(StepFile, PublishedPartsComeInWithAllTheirFaces) {
    for (const char* name : {"screw.step", "linkrods.step"}) {
        const auto bytes = read_file(std::filesystem::path("/usr/share/opencascade/data/step") / name);
        ASSERT_TRUE(bytes) << name;
        const auto read = read_step_file(*bytes);
        ASSERT_TRUE(read) << name << ": " << read.error().text();
        ASSERT_EQ(read->size(), 1u) << name;
        const Tessellation& shape = read->front().body.tessellation();
        size_t faces = 0;
        for (size_t at = bytes->find("ADVANCED_FACE("); at != std::string::npos;
             at = bytes->find("ADVANCED_FACE(", at + 1))
            ++faces;
        EXPECT_EQ(shape.faces.size(), faces) << name;
        EXPECT_TRUE(check_soundness(shape.mesh).closed) << name;
        const double volume = read->front().body.mass().volume_mm3;
        EXPECT_GT(volume, 0) << name;
        EXPECT_NEAR(mass_properties(shape.mesh).volume_mm3, volume, volume * 0.01) << name;
    }
}

TEST(StepFile, ALargeFileIsReadInSharesAndComesBackInOrder) {
    // Drilled blocks of three sizes: each by its closed formula. Copies of one would be less text.
    constexpr int many = 150;
    std::vector<StepFileBody> blocks;
    auto volume = [](int i) { return (5 + i % 3) * 5 * 3 - pi * 0.25 * 3; };
    for (int i = 0; i < many; ++i) {
        Transform at = Transform::Identity();
        at.translate(Vec3(8 * (i % 12), 8 * (i / 12), i * 0.01));
        const auto block = make_block({5.0 + i % 3, 5, 3}, at, {});
        at.translate(Vec3(2.5, 2.5, -1));
        const auto drilled = combine_exact(Operation::Cut, *block, {*make_cylinder(0.5, 5, at, {})});
        ASSERT_TRUE(drilled) << drilled.error().text();
        blocks.push_back({"Block '" + std::to_string(i) + "'; #7", *drilled, uint32_t(i * 1000)});
    }
    const auto bytes = write_step_file(blocks, "Board");
    ASSERT_TRUE(bytes) << bytes.error().text();
    ASSERT_GT(bytes->size(), 1'000'000u) << "small files are read by one process";
    const auto read = read_step_file(*bytes);
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->size(), size_t(many));
    for (int i = 0; i < many; ++i) {
        const StepFileBody& one = (*read)[size_t(i)];
        EXPECT_EQ(one.name, blocks[size_t(i)].name);
        EXPECT_EQ(one.colour, blocks[size_t(i)].colour) << i;
        EXPECT_NEAR(one.body.mass().volume_mm3, volume(i), 1e-6) << i;
        EXPECT_NEAR(one.body.box().min().z(), i * 0.01, 1e-6) << i;
    }

    // Turned about in the text, with a comment before each: the same solids.
    std::string turned = bytes->substr(0, bytes->find("DATA;") + 6);
    const std::string data = bytes->substr(turned.size(), bytes->rfind("ENDSEC") - turned.size());
    std::vector<std::string> instances;
    for (size_t from = 0, end; (end = data.find(";\n", from)) != std::string::npos; from = end + 2)
        instances.push_back(data.substr(from, end + 2 - from));
    for (auto one = instances.rbegin(); one != instances.rend(); ++one) turned += "/* #1 = '; */ " + *one;
    turned += bytes->substr(bytes->rfind("ENDSEC"));
    const auto again = read_step_file(turned);
    ASSERT_TRUE(again) << again.error().text();
    ASSERT_EQ(again->size(), size_t(many));
    std::map<std::string, double> volumes;
    for (const StepFileBody& one : *again) volumes[one.name] = one.body.mass().volume_mm3;
    for (int i = 0; i < many; ++i) EXPECT_NEAR(volumes[blocks[size_t(i)].name], volume(i), 1e-6) << i;

    // Damaged in many places: a sentence, or the solids that are left.
    std::mt19937 random(7);
    for (int n = 0; n < 4; ++n) {
        std::string bad = *bytes;
        for (int k = 0; k < 20; ++k) bad[bad.size() / 4 + random() % (bad.size() / 2)] = "#'(;=,$9"[random() % 8];
        const auto what = read_step_file(bad);
        EXPECT_TRUE(what ? what->size() <= size_t(many) : !what.error().text().empty());
    }
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(read_step_file(*bytes, stopped));
}

TEST(StepFile, TextIsToldApartHoweverItIsSetOut) {
    const std::string good = written(plate().body(), "Plate");
    ASSERT_NE(good.find("'Plate'"), std::string::npos);
    const std::string crammed = std::regex_replace(good, std::regex("\\n *"), "");
    auto volume_of = [](const std::string& bytes) {
        const auto read = read_step_file(bytes);
        EXPECT_TRUE(read) << read.error().text();
        return read ? read->front().body.mass().volume_mm3 : 0;
    };
    const std::map<const char*, std::string> files{
        {"on one line", crammed},
        {"lines of another system", replaced(good, "\n", "\r\n")},
        {"blanks everywhere", replaced(replaced(crammed, ",", " ,\t"), "(", " ( ")},
        {"a comment in every list", replaced(good, "(#", "(/* (#1,'x */#")},
        {"words of other programs",
         replaced(good, "ENDSEC;\nEND", "#99999=A_PROGRAM_S_OWN(1,(2.,'x'),.T.,*);\nENDSEC;\nEND")},
        {"left to the library: small letters", replaced(good, "CARTESIAN_POINT('',(0.,", "CARTESIAN_POINT('',(0.e0,")},
        {"left to the library: a reference to nothing",
         replaced(good, "ENDSEC;\nEND", "#99999=A_PROGRAM_S_OWN(#99998);\nENDSEC;\nEND")}};
    for (const auto& [what, bytes] : files) {
        EXPECT_NE(bytes, good) << what;
        EXPECT_NEAR(volume_of(bytes), plate_mm3, plate_mm3 * 1e-6) << what;
    }
}

TEST(StepFile, IsBroughtInExactAndCut) {
    const std::string bytes = written(plate().body());
    const std::map<std::string, std::string> files{{"plate.step", bytes}};
    const json hole = step("cylinder", {{"diameter", 3}, {"height", 6}, {"at_x", 12}, {"does", "cut"}}, "more");
    const Made made = make({step("bring_in", {{"file", "plate.step"}}, "bought"), hole}, json::object(), files);
    ASSERT_EQ(made.says(), "");
    EXPECT_TRUE(made.body().is_exact());
    EXPECT_NEAR(made.volume(), plate_mm3 - pi * 2.25 * 6, 1e-3);
    // In inches, and moved.
    const Made large =
        make(json::array({step("bring_in", {{"file", "plate.step"}, {"scale", 25.4}, {"at_z", 100}}, "bought")}),
             json::object(), files);
    ASSERT_EQ(large.says(), "");
    EXPECT_NEAR(large.volume() / plate_mm3, std::pow(25.4, 3), 1);
    EXPECT_NEAR(large.part().box.min().z(), 100, 1e-6);
    const Made broken = make(json::array({step("bring_in", {{"file", "plate.step"}}, "bought")}), json::object(),
                             {{"plate.step", bytes.substr(0, bytes.size() / 2)}});
    EXPECT_NE(broken.says(), "");
}

TEST(StepFile, AFaceIsFoundAgainInANewerFile) {
    // A bought plate comes thicker: the face that was picked on its top is its top still, and carries what stands
    // there.
    auto bought = [](double thick) { return written(make(json::array({block(30, 30, thick)})).body()); };
    const std::map<std::string, std::string> before{{"b.step", bought(5)}}, after{{"b.step", bought(7)}};
    const json bring = step("bring_in", {{"file", "b.step"}}, "bought");
    const Made plain = make(json::array({bring}), json::object(), before);
    ASSERT_EQ(plain.says(), "");
    const Tessellation& shape = plain.body().tessellation();
    size_t top = 0;
    while (shape.faces[top].direction.z() < 0.99) ++top;
    const std::string face = GeometryItem(make_reference(plain.body(), top, shape.faces[top].centre)).text();
    for (const auto& [files, volume] : {std::pair(before, 4500 + 900.0), {after, 6300 + 900.0}}) {
        const Made pushed = make({bring, step("push", {{"faces", face}, {"by", 1}})}, json::object(), files);
        ASSERT_EQ(pushed.says(), "");
        EXPECT_NEAR(pushed.volume(), volume, 1e-3);
    }
}

TEST(StepFile, AFaceIsFoundAgainOnItsOwnSolid) {
    // A board with two cans of one name: their faces are all of the same forms. A newer board is thicker, its file in
    // another order.
    auto board = [](double thick, bool turned) {
        std::vector<StepFileBody> bodies{
            {"board", make(json::array({block(30, 20, thick)})).body(), 0x1f7a3d},
            {"can",
             make(json::array(
                      {step("block", {{"size_x", 4}, {"size_y", 4}, {"size_z", 3}, {"at_x", -8}, {"at_z", thick}})}))
                 .body(),
             0x202428},
            {"can",
             make(json::array(
                      {step("block", {{"size_x", 4}, {"size_y", 4}, {"size_z", 3}, {"at_x", 8}, {"at_z", thick}})}))
                 .body(),
             0x202428}};
        if (turned) std::rotate(bodies.begin(), bodies.begin() + 1, bodies.end());
        auto bytes = write_step_file(bodies, "Bench");
        EXPECT_TRUE(bytes) << (bytes ? "" : bytes.error().text());
        return bytes.value_or("");
    };
    const json bring = step("bring_in", {{"file", "b.step"}}, "bought");
    const Made made = make(json::array({bring}), json::object(), {{"b.step", board(2, false)}}),
               newer = make(json::array({bring}), json::object(), {{"b.step", board(3, true)}});
    ASSERT_EQ(made.part().bodies.size(), 3u);
    ASSERT_EQ(newer.part().bodies.size(), 3u);
    EXPECT_EQ(newer.part().bodies[2].name, "board");
    size_t found = 0;
    for (size_t b = 0; b < 3; ++b) {
        const Body& body = made.part().bodies[b].body;
        const auto& faces = body.tessellation().faces;
        for (size_t f = 0; f < faces.size(); ++f) {
            const GeometryItem item(make_reference(body, f, faces[f].centre));
            const auto again = find_face(made.part().bodies, {}, item, true);
            ASSERT_TRUE(again) << again.error().text();
            EXPECT_TRUE(again->body == b && again->face == f) << "face " << f << " of solid " << b;
            const auto later = find_face(newer.part().bodies, {}, item, true);
            ASSERT_TRUE(later) << later.error().text();
            EXPECT_EQ(later->body, (b + 2) % 3);
            const FaceInfo& there = newer.part().bodies[later->body].body.tessellation().faces[later->face];
            EXPECT_GT(there.direction.dot(faces[f].direction), 0.999);
            ++found;
        }
    }
    EXPECT_EQ(found, 18u);
}

TEST(StepFile, AProjectIsExportedAsItStandsAndReadBack) {
    const Made made =
        make_parts({{"Plate", json::array({block(40, 20, 6)})},
                    {"Gnome", json::array({step("bring_in", {{"file", "g.stl"}})})},
                    {"Rod", json::array({step("cylinder", {{"diameter", 10}, {"height", 30}, {"at_x", 60}}, "rod")})}},
                   json::object(), {{"g.stl", *find_format("stl")->write({{.name = "g", .mesh = cube(9)}}, "g", {})}});
    ASSERT_EQ(made.says(), "");
    Folder folder;
    const auto back = export_project(made.evaluation, {folder.path, {"step"}});
    ASSERT_TRUE(back) << back.error().text();
    ASSERT_EQ(back->size(), 3u);
    size_t left_out = 0;
    for (const ReadBack& one : *back) {
        EXPECT_TRUE(one.same) << one.name << ": " << one.says;
        left_out += one.says.find("left out") != std::string::npos;
    }
    EXPECT_EQ(left_out, 1u);
    ASSERT_TRUE(std::filesystem::exists(back->front().file)) << back->front().file;
    const auto read = read_objects("x.step", *read_file(back->front().file));
    ASSERT_TRUE(read);
    ASSERT_EQ(read->objects.size(), 2u);
    EXPECT_EQ(read->objects[1].name, "Rod");
    EXPECT_NEAR(read->objects[1].exact->mass().centre.x(), 60, 1e-6);
    const Made gnome = make(json::array({step("bring_in", {{"file", "g.stl"}})}), json::object(),
                            {{"g.stl", *find_format("stl")->write({{.name = "g", .mesh = cube(9)}}, "g", {})}});
    EXPECT_FALSE(export_project(gnome.evaluation, {folder / "none", {"step"}}));
    EXPECT_FALSE(std::filesystem::exists(folder / "none"));
}

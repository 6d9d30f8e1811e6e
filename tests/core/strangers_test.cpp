// Files from strangers: what other programs write that is not quite as the books say, read right or refused in words.
#include "check/inspection.h"
#include "formats/formats.h"
#include "formats/obj.h"
#include "made_project.h"
#include "mesh/combine.h"
#include "mesh/mend.h"
#include "mesh/soundness.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <zip.h>

using namespace lp;
using namespace lp::test;

namespace {

/// A prism on a polygon as OBJ: its bottom, its top and its sides as polygons.
std::string prism_obj(const std::vector<Vec2>& outline, double height, const char* joint = " ") {
    std::string text;
    for (double z : {0.0, height})
        for (const Vec2& p : outline)
            text += "v " + std::to_string(p.x()) + " " + std::to_string(p.y()) + " " + std::to_string(z) + "\n";
    const size_t n = outline.size();
    text += "f";
    for (size_t k = n; k >= 1; --k) text += joint + std::to_string(k);
    text += "\nf";
    for (size_t k = 1; k <= n; ++k) text += joint + std::to_string(n + k);
    text += "\n";
    for (size_t k = 0; k < n; ++k) {
        const size_t l = (k + 1) % n;
        text += "f " + std::to_string(k + 1) + " " + std::to_string(l + 1) + " " + std::to_string(n + l + 1) + " " +
                std::to_string(n + k + 1) + "\n";
    }
    return text;
}
const std::vector<Vec2> u_shape{{0, 0}, {30, 0}, {30, 20}, {20, 20}, {20, 5}, {10, 5}, {10, 20}, {0, 20}};

/// Area by the shoelace formula.
double area_of(const std::vector<Vec2>& outline) {
    double twice = 0;
    for (size_t k = 0; k < outline.size(); ++k) {
        const Vec2 &a = outline[k], &b = outline[(k + 1) % outline.size()];
        twice += a.x() * b.y() - a.y() * b.x();
    }
    return twice / 2;
}
std::vector<FileObject> read_all(const std::string& name, const std::string& bytes) {
    auto read = read_objects(name, bytes);
    EXPECT_TRUE(read) << (read ? "" : read.error().text());
    return read ? read->objects : std::vector<FileObject>{};
}
std::string refused(const std::string& name, const std::string& bytes) {
    auto read = read_objects(name, bytes);
    return read ? std::string() : read.error().text();
}
} // namespace

TEST(StrangersObj, HollowOutlinesAreFilledAsTheyAreDrawn) {
    std::vector<Vec2> star; // of five points, far from convex
    for (int k = 0; k < 10; ++k) {
        const double r = k % 2 ? 4 : 12, a = k * std::numbers::pi / 5;
        star.emplace_back(r * std::cos(a), r * std::sin(a));
    }
    for (const auto& outline : {u_shape, star}) {
        const auto objects = read_all("x.obj", prism_obj(outline, 5));
        ASSERT_EQ(objects.size(), 1u);
        EXPECT_TRUE(objects[0].notes.empty());
        const Soundness sound = check_soundness(objects[0].mesh);
        EXPECT_TRUE(sound.sound());
        EXPECT_NEAR(mass_properties(sound.kept).volume_mm3, 5 * area_of(outline), 1e-4);
    }
}

TEST(StrangersObj, LinesGoOnAfterABackslash) {
    for (const char* joint : {" \\\n", "\\\n ", " \\\r\n"}) {
        const auto objects = read_all("x.obj", prism_obj(u_shape, 5, joint));
        ASSERT_EQ(objects.size(), 1u) << joint;
        EXPECT_NEAR(mass_properties(objects[0].mesh).volume_mm3, 5 * area_of(u_shape), 1e-4);
    }
    EXPECT_NE(refused("x.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 \\"), "") << "the end of the file is no line";
}

TEST(StrangersObj, ObjectsAndGroupsAreBodiesOfTheirOwn) {
    const std::string two = "o tray big\n" + prism_obj(u_shape, 5) + "o lid\ng inner\nf 1 2 3\nf 3 2 1\n";
    const auto objects = read_all("x.obj", two);
    ASSERT_EQ(objects.size(), 2u) << "groups are parts of objects";
    EXPECT_EQ(objects[0].name, "tray big");
    EXPECT_EQ(objects[1].name, "lid");
    EXPECT_EQ(objects[1].mesh.vertices.size(), 3u) << "its own corners only";
    const auto groups = read_all("x.obj", "g a\n" + prism_obj(u_shape, 5) + "g b\nf 1 2 3\ng a\nf 3 2 1\n");
    ASSERT_EQ(groups.size(), 2u) << "a name that comes again goes on";
    const std::string cross = "v 0 0 0\nv 9 0 0\nv 0 9 0\nv 9 9 0\nv 4 4 9\nf 1 2 3 4\nf 1 2 5\n";
    const auto crossing = read_all("x.obj", cross);
    ASSERT_EQ(crossing.size(), 1u);
    EXPECT_EQ(crossing[0].notes.size(), 1u) << "told";
}

TEST(StrangersStl, WithoutItsLastLineItIsReadAndTold) {
    std::string text = "solid x\n";
    for (const char* corner : {"0 0 0", "1 0 0", "0 1 0"}) {
        text += "facet normal 0 0 1\nouter loop\n";
        for (const char* other : {corner, "5 5 5", "0 0 9"}) text += "vertex " + std::string(other) + "\n";
        text += "endloop\nendfacet\n";
    }
    const auto objects = read_all("x.stl", text);
    ASSERT_EQ(objects.size(), 1u);
    EXPECT_EQ(objects[0].mesh.triangles.size(), 3u);
    ASSERT_EQ(objects[0].notes.size(), 1u);
    EXPECT_NE(objects[0].notes[0].find("endsolid"), std::string::npos);
    EXPECT_TRUE(read_all("x.stl", text + "endsolid x\n")[0].notes.empty());
    EXPECT_NE(refused("x.stl", text.substr(0, text.size() - 20)), "") << "cut off within a facet";
}

TEST(StrangersPly, TextAndBothByteOrdersAreTheSame) {
    const std::string head = "element vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
                             "property uchar red\nproperty uchar green\nproperty uchar blue\nelement face 4\n"
                             "property list uchar int vertex_indices\nend_header\n";
    const float places[4][3] = {{0, 0, 0}, {10, 0, 0}, {0, 10, 0}, {0, 0, 10}};
    const int corners[4][3] = {{0, 2, 1}, {0, 1, 3}, {0, 3, 2}, {1, 2, 3}};
    std::string text = "ply\nformat ascii 1.0\ncomment made up\n" + head;
    for (const auto& p : places)
        text += std::to_string(p[0]) + " " + std::to_string(p[1]) + " " + std::to_string(p[2]) + " 10 200 30\n";
    for (const auto& c : corners)
        text += "3 " + std::to_string(c[0]) + " " + std::to_string(c[1]) + " " + std::to_string(c[2]) + "\n";
    auto binary = [&](bool big) {
        std::string bytes = std::string("ply\nformat binary_") + (big ? "big" : "little") + "_endian 1.0\n" + head;
        auto put = [&](auto value) {
            std::string raw(reinterpret_cast<const char*>(&value), sizeof value);
            if (big) std::reverse(raw.begin(), raw.end());
            bytes += raw;
        };
        for (const auto& p : places) {
            for (float v : p) put(v);
            for (int v : {10, 200, 30}) put(uint8_t(v));
        }
        for (const auto& c : corners) {
            put(uint8_t(3));
            for (int v : c) put(v);
        }
        return bytes;
    };
    for (const std::string& bytes : {text, binary(false), binary(true)}) {
        const auto objects = read_all("x.ply", bytes);
        ASSERT_EQ(objects.size(), 1u);
        EXPECT_NEAR(mass_properties(objects[0].mesh).volume_mm3, 1000.0 / 6, 1e-6);
        EXPECT_TRUE(check_soundness(objects[0].mesh).sound());
        EXPECT_EQ(objects[0].colour, 0x0ac81eu);
    }
    for (const std::string& bytes : {text, binary(false)})
        for (size_t keep : {size_t(3), size_t(40), bytes.size() / 2, bytes.size() - 3})
            EXPECT_NE(refused("x.ply", bytes.substr(0, keep)), "") << keep;
}

TEST(StrangersPly, LyingAndHostileOnesAreRefused) {
    auto with = [](const std::string& head, const std::string& body) {
        return refused("x.ply", "ply\nformat ascii 1.0\n" + head + "end_header\n" + body);
    };
    const std::string xyz = "property float x\nproperty float y\nproperty float z\n";
    EXPECT_NE(with("element vertex 99999999999999\n" + xyz, "0 0 0\n"), "") << "a count that lies";
    EXPECT_NE(with("element vertex 1\nproperty float x\n", "0\n"), "") << "no y";
    EXPECT_NE(with("element vertex 1\n" + xyz + "element face 1\nproperty list int int vertex_indices\n",
                   "0 0 0\n2000000000 0 0 0\n"),
              "")
        << "a list longer than the file";
    EXPECT_NE(with("element vertex 1\n" + xyz + "element face 1\nproperty list uchar int vertex_indices\n",
                   "0 0 0\n3 0 1 7\n"),
              "")
        << "corners that are not there";
    EXPECT_NE(with("element vertex 3\n" + xyz, "0 0 0\n1 0 0\n0 1 0\n"), "") << "no faces";
    EXPECT_NE(with("element vertex x\n", ""), "");
    EXPECT_NE(with("property float x\n", ""), "");
    EXPECT_NE(refused("x.ply", "ply\nformat from_mars 1.0\nend_header\n"), "");
    EXPECT_NE(refused("x.ply", "ply\n" + std::string(100000, 'a')), "");
    EXPECT_NE(refused("x.ply", ""), "");
}

TEST(StrangersPly, WrittenAndReadBackToTheLastDigit) {
    const TriMesh ball = sphere(7.123456789, 12);
    Folder folder;
    ASSERT_FALSE(write_mesh_file(folder / "ball.ply", ball, "ball"));
    const auto back = read_mesh_file(folder / "ball.ply");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->mesh.vertices, ball.vertices);
    EXPECT_EQ(back->mesh.triangles, ball.triangles);
}

TEST(Strangers3mf, NamesThatClimbOutAreRefused) {
    Folder folder;
    FileObject cube{.name = "cube"};
    cube.mesh = test::cube(10);
    ASSERT_FALSE(write_objects(folder / "good.3mf", {cube}, "x"));
    for (const char* name : {"../../evil.txt", "3D/../../evil", "/etc/passwd", "C:\\evil", "a\\..\\..\\b"}) {
        const auto path = folder / "bad.3mf";
        std::filesystem::copy_file(folder / "good.3mf", path, std::filesystem::copy_options::overwrite_existing);
        zip_t* archive = zip_open(path.c_str(), 0, nullptr);
        zip_file_add(archive, name, zip_source_buffer(archive, "x", 1, 0), 0);
        ASSERT_EQ(zip_close(archive), 0);
        EXPECT_NE(refused("bad.3mf", *read_file(path)).find("leads out of it"), std::string::npos) << name;
    }
}

TEST(StrangersSvg, EntitiesOfItsOwnArePutInAndTold) {
    auto svg = [](const std::string& declared, const std::string& body) {
        return "<?xml version=\"1.0\"?><!DOCTYPE svg [" + declared +
               "]><svg xmlns=\"http://www.w3.org/2000/svg\" "
               "width=\"20mm\" height=\"20mm\" viewBox=\"0 0 20 20\">" +
               body + "</svg>";
    };
    const auto read = read_flat("x.svg", svg("<!ENTITY side \"5\"><!ENTITY both '&side;' >",
                                             "<rect x=\"10\" y=\"0\" width=\"&side;\" height=\"&both;\"/>"));
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->findings.size(), 1u);
    EXPECT_EQ(read->findings[0].kind, "entities");
    EXPECT_EQ(read->findings[0].count, 2u);
    ASSERT_EQ(read->paths.size(), 1u);
    std::string laughs = "<!ENTITY l0 \"lol\">";
    for (int k = 1; k < 12; ++k) {
        laughs += "<!ENTITY l" + std::to_string(k) + " \"";
        for (int i = 0; i < 10; ++i) laughs += "&l" + std::to_string(k - 1) + ";";
        laughs += "\">";
    }
    const auto hostile = read_flat("x.svg", svg(laughs, "<text>&l11;</text>"));
    ASSERT_FALSE(hostile);
    EXPECT_NE(hostile.error().sentence.find("too much"), std::string::npos);
    EXPECT_FALSE(read_flat("x.svg", svg("<!ENTITY a \"&a;\">", "<text>&a;</text>"))) << "names itself";
    EXPECT_FALSE(read_flat("x.svg", svg("<!ENTITY a SYSTEM \"file:///etc/passwd\">", "<text>&a;</text>")));
    EXPECT_TRUE(read_flat("x.svg", svg("", "<rect width=\"5\" height=\"5\"/>")));
}

TEST(StrangersMeshes, WhatClosesThroughAJointWithoutWidthIsClosed) {
    TriMesh joint = test::cube(10);
    const Triangle t = joint.triangles[2];
    const auto m = uint32_t(joint.vertices.size());
    joint.vertices.push_back((joint.vertices[t[0]] + joint.vertices[t[1]]) / 2);
    joint.triangles[2] = {t[0], m, t[2]};
    joint.triangles.push_back({m, t[1], t[2]});
    TriMesh sliver = joint;
    sliver.triangles.push_back({t[0], t[1], m});
    for (const TriMesh& mesh : {joint, sliver}) {
        const Soundness s = check_soundness(mesh);
        EXPECT_TRUE(s.closed);
        EXPECT_EQ(s.open_edges.count, 3u) << "as they are counted";
        EXPECT_EQ(s.self_intersecting->count, 0u) << "touching is not crossing";
        EXPECT_FALSE(s.sound());
        const auto mended = mend(mesh);
        ASSERT_TRUE(mended);
        EXPECT_TRUE(check_soundness(mended->mesh).sound());
        EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 1000, 1e-9);
    }
    TriMesh open = test::cube(10);
    open.triangles.pop_back();
    EXPECT_FALSE(check_soundness(open).closed) << "a hole has a width";
}

TEST(StrangersMeshes, TouchingIsNotCrossing) {
    auto crossing = [](TriMesh a, const TriMesh& b) {
        append(a, b);
        return check_soundness(a).self_intersecting->count;
    };
    const TriMesh box = test::cube(10);
    EXPECT_EQ(crossing(box, test::cube(10, {10, 10, 0})), 0u) << "along an edge";
    EXPECT_EQ(crossing(box, test::cube(10, {10, 10, 10})), 0u) << "in a corner";
    EXPECT_EQ(crossing(box, test::cube(10, {10, 0, 0})), 0u) << "face to face";
    EXPECT_EQ(crossing(box, test::cube(4, {3, 3, 10})), 0u) << "standing on it";
    EXPECT_GT(crossing(box, test::cube(4, {3, 3, 9})), 0u);
    EXPECT_GT(crossing(box, test::cube(10, {5, 0, 0})), 0u) << "sides in one plane, but one in the other";
    // A wedge that stands with its edge on the top touches; one whose edge lies there and goes on below crosses.
    auto wedge = [](double apex_z, double base_z) {
        TriMesh mesh;
        mesh.vertices = {{2, 5, apex_z}, {8, 5, apex_z}, {2, 3, base_z},
                         {8, 3, base_z}, {2, 7, base_z}, {8, 7, base_z}};
        mesh.triangles = {{0, 1, 3}, {0, 3, 2}, {1, 0, 4}, {1, 4, 5}, {2, 3, 5}, {2, 5, 4}, {0, 2, 4}, {1, 5, 3}};
        return mass_properties(mesh).volume_mm3 < 0 ? test::inside_out(mesh) : mesh;
    };
    EXPECT_EQ(crossing(box, wedge(10, 14)), 0u);
    EXPECT_GT(crossing(box, wedge(9.5, 14)), 0u);
    // An octahedron whose belt lies in the plane of the top: all its facets only touch that plane, and it crosses.
    TriMesh eight;
    eight.vertices = {{8, 5, 10}, {5, 8, 10}, {2, 5, 10}, {5, 2, 10}, {5, 5, 13}, {5, 5, 7}};
    eight.triangles = {{0, 1, 4}, {1, 2, 4}, {2, 3, 4}, {3, 0, 4}, {1, 0, 5}, {2, 1, 5}, {3, 2, 5}, {0, 3, 5}};
    EXPECT_GT(crossing(box, eight), 0u);
}

TEST(StrangersMeshes, AShellInsideOutBesideASoundOneIsFlipped) {
    TriMesh two = test::cube(10);
    append(two, test::inside_out(test::cube(10, {20, 0, 0})));
    const Soundness s = check_soundness(two);
    EXPECT_EQ(s.flipped.count, 12u);
    EXPECT_FALSE(s.inside_out) << "not the whole";
    const auto mended = mend(two);
    ASSERT_TRUE(mended);
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 2000, 1e-9);
    EXPECT_TRUE(check_soundness(mended->mesh).sound());
}

TEST(StrangersMeshes, ShellsThatShareAFaceAreJoinedByMending) {
    TriMesh two = test::cube(10);
    append(two, test::cube(10, {10, 0, 0}));
    TriMesh small = test::cube(10);
    append(small, test::cube(4, {10, 3, 3}));
    // The same with the other diagonal on the face: neighbours over its rim lie on each other.
    TriMesh other = box_mesh({0, 0, 0}, {10, 10, 10}), beside = box_mesh({10, 0, 0}, {20, 10, 10});
    for (Vec3& v : beside.vertices) v.y() = 10 - v.y();
    append(other, test::inside_out(beside));
    EXPECT_EQ(check_soundness(other).self_intersecting->count, 0u);
    for (const auto& [mesh, volume] : {std::pair(two, 2000.0), std::pair(small, 1064.0), std::pair(other, 2000.0)}) {
        const auto mended = mend(mesh);
        ASSERT_TRUE(mended) << mended.error().text();
        const Soundness s = check_soundness(mended->mesh);
        EXPECT_TRUE(s.sound());
        EXPECT_EQ(s.shells, 1u);
        EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, volume, 0.01);
        // What was refused before works on it.
        const auto cut = combine_meshes(Operation::Cut, {mended->mesh, test::cube(3, {8.5, 3.5, 3.5})});
        ASSERT_TRUE(cut) << cut.error().text();
        EXPECT_NEAR(mass_properties(*cut).volume_mm3, volume - 27, 0.01);
    }
}

TEST(StrangersMeshes, ObjectsOfAFileComeInAsBodiesWithTheirNames) {
    Folder folder;
    FileObject tray{.name = "tray"}, lid{.name = "lid"};
    tray.mesh = test::cube(10);
    lid.mesh = test::cube(4, {20, 0, 0});
    ASSERT_FALSE(write_objects(folder / "two.3mf", {tray, lid}, "x"));
    const Made made = make(json::array({step("bring_in", {{"file", "two.3mf"}}, "box")}), json::object(),
                           {{"two.3mf", *read_file(folder / "two.3mf")}});
    ASSERT_EQ(made.says(), "");
    ASSERT_EQ(made.part().bodies.size(), 2u);
    EXPECT_EQ(made.part().bodies[0].called(), "tray");
    EXPECT_EQ(made.part().bodies[1].called(), "lid");
    EXPECT_NEAR(made.volume(), 1064, 1e-3);
    const Made moved =
        make({step("bring_in", {{"file", "two.3mf"}, {"scale", "2"}}, "box"), step("leave_out", {{"what", "lid"}})},
             json::object(), {{"two.3mf", *read_file(folder / "two.3mf")}});
    EXPECT_EQ(moved.says(), "");
    EXPECT_NEAR(moved.volume(), 8000, 1e-2) << "one of them by its name";
}

TEST(Strangers, EveryFaultTellsItsPlaces) {
    // A cube of 20 without two of its facets: the open edges are theirs, each with both ends.
    TriMesh cracked = cube(20);
    const TriMesh whole = cracked;
    cracked.triangles.erase(cracked.triangles.begin() + 7);
    cracked.triangles.erase(cracked.triangles.begin() + 2);
    const Soundness s = check_soundness(cracked);
    ASSERT_EQ(s.open_edges.places.size(), s.open_edges.count);
    ASSERT_GE(s.open_edges.count, 4u);
    double along = 0;
    for (const auto& [a, b, again] : s.open_edges.places) {
        EXPECT_EQ(b, again);
        along += (a - b).norm();
    }
    // Six edges of 20, 20 and 28.28, less what two facets of one face share.
    const double round = 2 * (40 + 20 * std::sqrt(2));
    EXPECT_NEAR(along, s.open_edges.count == 6 ? round : round - 2 * 20 * std::sqrt(2), 1e-9);
    EXPECT_NEAR((s.open_edges.where - (s.open_edges.places[0][0] + s.open_edges.places[0][1]) / 2).norm(), 0, 1e-12);
    // No more than can be looked through one by one are kept; all are counted.
    TriMesh twice = sphere(10, 40);
    const size_t facets = twice.triangles.size();
    append(twice, sphere(10, 40));
    const Soundness many = check_soundness(twice);
    EXPECT_EQ(many.duplicate.count, facets);
    EXPECT_EQ(many.duplicate.places.size(), Fault::most_places);
    const Inspection told = inspect(cracked, {});
    for (const Finding& f : told.findings)
        if (f.kind == FindingKind::Open) {
            EXPECT_EQ(f.places.size(), f.count);
        }
}

TEST(Strangers, LooseScrapsAreDroppedAndNotGivenABackSide) {
    // A ball with three facets missing, and twenty of its facets once more, each a little beside the surface.
    TriMesh scan = sphere(20, 24);
    const TriMesh whole = scan;
    const double volume = mass_properties(whole).volume_mm3;
    for (size_t i : {900, 500, 100}) scan.triangles.erase(scan.triangles.begin() + std::ptrdiff_t(i));
    for (size_t i = 0; i < 20; ++i) {
        TriMesh scrap;
        for (int k = 0; k < 3; ++k) scrap.vertices.push_back(whole.corner(40 * i + 7, k) + Vec3(0.3, 0.1, 0));
        scrap.triangles.push_back({0, 1, 2});
        append(scan, scrap);
    }
    auto mended = mend(scan);
    ASSERT_TRUE(mended) << mended.error().text();
    const Soundness after = check_soundness(mended->mesh);
    EXPECT_TRUE(after.sound()) << after.duplicate.count << " doubled, " << after.open_edges.count << " open";
    EXPECT_EQ(after.shells, 1u);
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, volume, 0.002 * volume);
    const bool told = std::any_of(mended->cures.begin(), mended->cures.end(),
                                  [](const Cure& c) { return c.kind == "drop_loose" && c.count == 20; });
    EXPECT_TRUE(told);
    // A flat sheet that is all there is is no heap of scraps.
    TriMesh sheet;
    sheet.vertices = {{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}};
    const auto flat = mend(sheet);
    for (const Cure& c : flat ? flat->cures : std::vector<Cure>()) EXPECT_NE(c.kind, "drop_loose");
}

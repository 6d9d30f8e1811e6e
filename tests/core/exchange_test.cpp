#include "base/files.h"
#include "formats/formats.h"
#include "formats/obj.h"
#include "formats/stl.h"
#include "formats/threemf.h"
#include "formats/threemf_model.h"
#include "handoff/export_project.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "outline/outline_shape.h"
#include "packages.h"
#include "project/archive.h"
#include "project/project_json.h"
#include "shape/face_reference.h"
#include "steps/fits/legs.h"
#include "test_meshes.h"
#include <chrono>
#include <cstring>
#include <fstream>
#include <pugixml.hpp>
#include <random>
#include <set>
#include <zip.h>

using namespace lp;
using test::cube;
using test::entry;

namespace {
std::string refusal(const std::string& bytes) {
    auto mesh = read_stl(bytes);
    EXPECT_FALSE(mesh);
    return mesh ? "" : mesh.error().text();
}
} // namespace

// Layout: 80-byte header, uint32 count, 50 bytes a facet; 684 bytes for 12 (tables.md 9).
TEST(Stl, ABinaryCubeIs684BytesAndComesBack) {
    std::string bytes = write_stl_binary(cube(20));
    EXPECT_EQ(bytes.size(), 684u);
    auto back = read_stl(bytes);
    ASSERT_TRUE(back);
    EXPECT_NEAR(mass_properties(*back).volume_mm3, 8000, 1e-3);
}
TEST(Stl, ABinaryFileMayBeginWithSolid) {
    std::string bytes = write_stl_binary(cube(20));
    std::memcpy(bytes.data(), "solid cube", 10);
    auto back = read_stl(bytes);
    ASSERT_TRUE(back);
    EXPECT_EQ(back->triangles.size(), 12u);
}
TEST(Stl, AsciiComesBackWhateverItsCaseAndLineEnds) {
    std::string text = write_stl_ascii(cube(20), "my cube");
    auto back = read_stl(text);
    ASSERT_TRUE(back);
    EXPECT_NEAR(mass_properties(*back).volume_mm3, 8000, 1e-9);
    std::string shouted;
    for (char c : text) shouted += c == '\n' ? std::string("\r\n") : std::string(1, char(std::toupper(c)));
    EXPECT_TRUE(read_stl(shouted));
    EXPECT_TRUE(read_stl(text + text)); // two solids in one file
}
TEST(Stl, HostileFilesAreRefusedInPlainWords) {
    std::string good = write_stl_binary(cube(20)), ascii = write_stl_ascii(cube(20), "c");
    EXPECT_NE(refusal("").find("empty"), std::string::npos);
    EXPECT_NE(refusal("hello, this is a letter").find("no STL"), std::string::npos);
    EXPECT_NE(refusal(good.substr(0, 300)).find("cut off"), std::string::npos);
    EXPECT_NE(refusal(good.substr(0, 40)).find("too short"), std::string::npos);
    std::string wrong = good;
    uint32_t many = 4'000'000'000u;
    std::memcpy(wrong.data() + 80, &many, 4);
    EXPECT_NE(refusal(wrong).find("4000000000 facets"), std::string::npos);
    EXPECT_NE(refusal(good.substr(0, 80) + std::string(4, '\0')).find("no facets"), std::string::npos);
    EXPECT_NE(refusal(ascii.substr(0, ascii.size() / 2)).find("Line"), std::string::npos);
    EXPECT_NE(refusal(ascii.substr(0, ascii.find("endsolid") - 10)), "") << "cut off within a facet";
    refusal("solid x\nendsolid x\n");
    refusal("solid x\nfacet normal 0 0 1\nouter loop\nvertex a b c\n");
    TriMesh nan = cube(20);
    for (Vec3& v : nan.vertices) v.x() = std::nan("");
    EXPECT_NE(refusal(write_stl_binary(nan)).find("no number"), std::string::npos);
}
TEST(Stl, AFewCornersThatAreNoPlaceAreKeptForCounting) {
    TriMesh mesh = test::soup(cube(20));
    mesh.vertices[0].x() = std::nan("");
    mesh.vertices[5].y() = HUGE_VAL;
    auto back = read_stl(write_stl_binary(mesh));
    ASSERT_TRUE(back);
    EXPECT_EQ(check_soundness(*back).nonfinite.count, 2u);
}

TEST(Obj, ComesBackAndPolygonsBecomeFans) {
    TriMesh mesh = cube(20);
    auto back = read_obj(write_obj({{"cube", &mesh}}));
    ASSERT_TRUE(back);
    EXPECT_NEAR(mass_properties(*back).volume_mm3, 8000, 1e-6);
    auto quads = read_obj("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nf 1/1 2/1 3/1 4/1\nf -4 -3 -2\n");
    ASSERT_TRUE(quads);
    EXPECT_EQ(quads->triangles.size(), 3u);
}
TEST(Obj, HostileFilesAreRefusedWithTheLine) {
    for (const char* text : {"", "# nothing", "v 0 0\n", "v 0 0 x\n", "v 0 0 0\nf 1 2 3\n", "v 0 0 0\nf 1 1\n",
                             "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 99999999999999999999\n", "v 0 0 0\nf 0 0 0\n"}) {
        auto mesh = read_obj(text);
        ASSERT_FALSE(mesh) << text;
    }
    EXPECT_NE(read_obj("v 0 0 0\nf 1 2 3\n").error().sentence.find("Line 2"), std::string::npos);
}

// 3MF core facts: tables.md 8.
TEST(Threemf, IsAPackageInMillimetresWithNamedObjectsAndSupports) {
    test::Folder folder;
    auto path = folder / "a.3mf";
    ASSERT_FALSE(write_objects(path,
                               {{.name = "Cradle", .mesh = cube(20), .colour = 0x7f9164},
                                {.name = "Cradle supports", .mesh = cube(3, {30, 0, 0}), .support = true}},
                               "Rain gauge"));
    EXPECT_NE(entry(path, "[Content_Types].xml").find("application/vnd.ms-package.3dmanufacturing-3dmodel+xml"),
              std::string::npos);
    EXPECT_NE(entry(path, "_rels/.rels").find("http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"),
              std::string::npos);
    pugi::xml_document xml;
    ASSERT_TRUE(xml.load_string(entry(path, "3D/3dmodel.model").c_str()));
    auto model = xml.child("model");
    EXPECT_STREQ(model.attribute("unit").value(), "millimeter");
    std::map<std::string, std::string> types;
    for (auto object : model.child("resources").children("object"))
        types[object.attribute("name").value()] = object.attribute("type").value();
    EXPECT_EQ(types["Cradle"], "model");
    EXPECT_EQ(types["Cradle supports"], "support");
    EXPECT_EQ(std::distance(model.child("build").children("item").begin(), model.child("build").children("item").end()),
              2);
    auto back = read_3mf(*read_file(path));
    ASSERT_TRUE(back) << back.error().text();
    ASSERT_EQ(back->size(), 2u);
    EXPECT_EQ((*back)[0].name, "Cradle");
    EXPECT_TRUE((*back)[1].support);
    EXPECT_NEAR(mass_properties((*back)[0].mesh).volume_mm3, 8000, 1e-3);
    EXPECT_NEAR(bounding_box((*back)[1].mesh).min().x(), 30, 1e-4);
}
namespace {
void put_package(const std::filesystem::path& path, const std::string& model) {
    int code = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
    const std::string types =
        R"(<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>)";
    const std::string rels =
        R"(<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>)";
    const std::pair<const char*, const std::string*> entries[] = {
        {"[Content_Types].xml", &types}, {"_rels/.rels", &rels}, {"3D/3dmodel.model", &model}};
    for (auto [name, text] : entries)
        zip_file_add(archive, name, zip_source_buffer(archive, text->data(), text->size(), 0), ZIP_FL_ENC_UTF_8);
    zip_close(archive);
}
const char* tetra_model(const char*) {
    return R"(<?xml version="1.0" encoding="UTF-8"?><model unit="%UNIT%" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh></object><object id="2" type="model"><components><component objectid="1" transform="2 0 0 0 2 0 0 0 2 0 0 0"/></components></object></resources><build><item objectid="2" transform="1 0 0 0 1 0 0 0 1 10 20 30"/></build></model>)";
}
} // namespace
TEST(Threemf, UnitsAndTransformsAreObeyed) {
    test::Folder folder;
    std::string model = tetra_model("");
    model.replace(model.find("%UNIT%"), 6, "inch");
    put_package(folder / "t.3mf", model);
    auto back = read_3mf(*read_file(folder / "t.3mf"));
    ASSERT_TRUE(back) << back.error().text();
    // A unit tetrahedron twice its size in inches; row vectors, translation last.
    EXPECT_NEAR(mass_properties((*back)[0].mesh).volume_mm3, 8.0 / 6 * 25.4 * 25.4 * 25.4, 0.05);
    EXPECT_NEAR((bounding_box((*back)[0].mesh).min() - Vec3(254, 508, 762)).norm(), 0, 1e-3);
}
TEST(Threemf, DamagedPackagesAreRefused) {
    test::Folder folder;
    auto path = folder / "a.3mf";
    ASSERT_FALSE(write_objects(path, {{.name = "c", .mesh = cube(20)}}, "t"));
    std::string whole = *read_file(path);
    for (size_t keep : {size_t(0), size_t(10), whole.size() / 2}) {
        std::ofstream(folder / "cut.3mf", std::ios::binary) << whole.substr(0, keep);
        EXPECT_FALSE(read_3mf(*read_file(folder / "cut.3mf"))) << keep;
    }
    put_package(folder / "bad.3mf", "<model><resources>");
    EXPECT_FALSE(read_3mf(*read_file(folder / "bad.3mf")));
    std::string model = tetra_model("");
    model.replace(model.find("%UNIT%"), 6, "inch");
    model.replace(model.find("v3=\"1\""), 6, "v3=\"9\"");
    put_package(folder / "corner.3mf", model);
    EXPECT_FALSE(read_3mf(*read_file(folder / "corner.3mf")));
    EXPECT_TRUE(write_objects(folder / "none.3mf", {}, "t"));
    EXPECT_TRUE(write_objects("/nonexistent/a.3mf", {{.name = "c", .mesh = cube(20)}}, "t"));
    EXPECT_FALSE(std::filesystem::exists(folder / "none.3mf"));
}

TEST(Threemf, ComponentsInComponentsAreFollowedToADepthAndNoFurther) {
    test::Folder folder;
    // Object 1 is the mesh; object n holds object n - 1.
    auto nested = [&](int depth) {
        std::string model = tetra_model(""), chain;
        model.replace(model.find("%UNIT%"), 6, "millimeter");
        for (int n = 3; n < 3 + depth; ++n)
            chain += "<object id=\"" + std::to_string(n) + "\" type=\"model\"><components><component objectid=\"" +
                     std::to_string(n - 1) + "\"/></components></object>";
        model.insert(model.find("</resources>"), chain);
        size_t item = model.find("<item objectid=\"2\"");
        model.replace(item, 19, "<item objectid=\"" + std::to_string(2 + depth) + "\"");
        put_package(folder / "nested.3mf", model);
        return read_3mf(*read_file(folder / "nested.3mf"));
    };
    auto shallow = nested(3);
    ASSERT_TRUE(shallow) << shallow.error().text();
    EXPECT_NEAR(mass_properties((*shallow)[0].mesh).volume_mm3, 8.0 / 6, 1e-4);
    auto deep = nested(200);
    ASSERT_FALSE(deep);
    EXPECT_FALSE(deep.error().text().empty());
}

// The table of formats.

static Body a_box() {
    return test::make(nlohmann::json::array({test::block(20, 20, 20)})).body();
}

TEST(Formats, EveryRowIsWholeAndReadsWhatItWrites) {
    TriMesh mesh = cube(20, {1, 2, 3});
    std::set<std::string> ids;
    for (const FileFormat& format : file_formats()) {
        SCOPED_TRACE(format.id);
        EXPECT_TRUE(ids.insert(format.id).second);
        EXPECT_EQ(find_format(format.id), &format);
        ASSERT_FALSE(format.endings.empty());
        EXPECT_TRUE(format.read || format.read_flat || format.write) << "a format that does nothing";
        bool flat = format.content == FileFormat::Content::Flat;
        EXPECT_EQ(bool(format.read_flat), flat);
        for (const std::string& ending : format.endings)
            EXPECT_EQ(ending.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789"), std::string::npos) << ending;
        if (!format.write || !format.read) continue;
        EXPECT_EQ(written_format("a." + format.endings[0]), &format);
        const bool exact = format.content == FileFormat::Content::Exact;
        FileObject box{.name = "box", .mesh = mesh};
        if (exact) box = {.name = "box", .mesh = {}, .exact = a_box()};
        auto bytes = format.write({box}, "t", {});
        ASSERT_TRUE(bytes) << bytes.error().text();
        EXPECT_TRUE(!format.looks_like || format.looks_like(*bytes));
        // By its contents, whatever its name says.
        for (const char* name : {"a", "a.bin", "UPPER.STL"}) {
            if (!format.looks_like) continue;
            auto found = format_of(name, *bytes, false);
            ASSERT_TRUE(found) << name;
            EXPECT_EQ(*found, &format) << name;
        }
        auto read = read_objects("box." + format.endings[0], *bytes);
        ASSERT_TRUE(read) << read.error().text();
        ASSERT_EQ(read->objects.size(), 1u);
        EXPECT_NEAR(mass_properties(read->objects[0].triangles()).volume_mm3, 8000, 1e-2);
        EXPECT_EQ(bool(read->objects[0].exact), exact);
        EXPECT_TRUE(exact || compare_meshes("f", "box", read->objects[0].triangles(), mesh).same);
        // Cut off anywhere it is refused or whole, never half.
        for (size_t keep = 0; keep < bytes->size(); keep += std::max<size_t>(1, bytes->size() / 23)) {
            auto cut = read_objects("box." + format.endings[0], bytes->substr(0, keep));
            if (cut) {
                for (const FileObject& object : cut->objects) EXPECT_LE(object.triangles().triangles.size(), 12u);
            } else {
                EXPECT_FALSE(cut.error().text().empty());
            }
        }
        EXPECT_TRUE(write_objects("none." + format.endings[0], {}, "t")) << "nothing to write is said";
        EXPECT_FALSE(std::filesystem::exists("none." + format.endings[0]));
    }
    EXPECT_TRUE(ids.count("stl") && ids.count("obj") && ids.count("3mf") && ids.count("step"));
}
TEST(Formats, UnknownFilesAreToldWhichAreRead) {
    auto none = format_of("notes.txt", "once upon a time", false);
    ASSERT_FALSE(none);
    for (const FileFormat& format : file_formats())
        if (format.read) {
            EXPECT_NE(none.error().text().find(format.title), std::string::npos) << none.error().text();
        }
    EXPECT_EQ(written_format("a.txt"), nullptr);
    EXPECT_EQ(find_format("txt"), nullptr);
    EXPECT_FALSE(read_triangles("a.stl", ""));
    EXPECT_FALSE(read_flat("a.svg", ""));
    EXPECT_FALSE(read_flat("a.dxf", std::string(1000, '\0')));
    EXPECT_TRUE(write_objects("/tmp/a.txt", {{.name = "c", .mesh = cube(20)}}, "t")) << "no such format";
}
TEST(Formats, RandomBytesAreRefusedByEveryReader) {
    std::mt19937 random(7);
    for (const FileFormat& format : file_formats())
        for (int n = 0; n < 40; ++n) {
            std::string bytes(size_t(random() % 3000), ' ');
            for (char& c : bytes) c = char(random());
            if (format.read) {
                auto read = format.read(bytes);
                EXPECT_TRUE(read || !read.error().text().empty());
            }
            if (format.read_flat) {
                auto read = format.read_flat(bytes);
                EXPECT_TRUE(read || !read.error().text().empty());
            }
        }
}
TEST(Formats, WhatWasReadBackIsComparedForReal) {
    TriMesh meant = cube(20);
    EXPECT_TRUE(compare_meshes("f", "n", meant, meant).same);
    TriMesh less = meant;
    less.triangles.pop_back();
    EXPECT_FALSE(compare_meshes("f", "n", less, meant).same);
    EXPECT_FALSE(compare_meshes("f", "n", cube(20.01), meant).same);
    EXPECT_FALSE(compare_meshes("f", "n", test::inside_out(meant), meant).same);
    EXPECT_FALSE(compare_meshes("f", "n", {}, meant).same);
}

TEST(Export, TheDemoGoesOutAndComesBackAsMeant) {
    test::Folder folder;
    auto opened = open_project(std::filesystem::path(SOURCE_DIR) / "data/demo/rain-gauge/project.json");
    ASSERT_TRUE(opened) << opened.error().text();
    Evaluator evaluator;
    auto evaluation = evaluator.evaluate(opened->history.now());
    ASSERT_TRUE(evaluation);
    for (const PartResult& part : evaluation->parts) EXPECT_TRUE(part.all_ok()) << part.name;
    auto back = export_project(*evaluation, {folder.path, {"3mf", "stl", "obj"}, 0.01});
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(back->size(), 21u); // seven printed parts three times; the battery stand-in never
    for (const ReadBack& b : *back) {
        EXPECT_TRUE(b.same) << b.name << " " << b.says;
        EXPECT_NE(b.name, "Battery"); // the stand-in
    }
    EXPECT_FALSE(std::filesystem::exists(folder / "Battery.stl"));
}
TEST(Export, FileNamesAreHarmless) {
    EXPECT_EQ(file_name_of("a/b\\c:d"), "a-b-c-d");
    EXPECT_EQ(file_name_of("../.."), "part");
}

// Readers' guards: what declares more than it can hold.

TEST(Stl, FortyMillionFacetsDeclaredInAFewBytesAreRefusedBeforeMemoryIsTaken) {
    std::string bytes = write_stl_binary(cube(20));
    for (uint32_t declared : {40'000'001u, 0xffffffffu, 13u}) {
        std::memcpy(bytes.data() + 80, &declared, 4);
        auto mesh = read_stl(bytes);
        ASSERT_FALSE(mesh) << declared;
        EXPECT_LT(mesh.error().text().size(), 300u);
    }
}
TEST(ThreeMf, WhatInflatesBeyondTwoGigabytesIsRefusedUnread) {
    // 2.2 GB of one letter weigh 2 MB packed; the reader must not unpack them.
    test::Folder folder;
    const auto path = folder / "bomb.3mf";
    {
        int code = 0;
        zip_t* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
        ASSERT_TRUE(archive);
        struct Zeros {
            uint64_t left = (1ull << 31) + (200ull << 20);
        } zeros;
        auto feed = [](void* state, void* data, zip_uint64_t size, zip_source_cmd_t command) -> zip_int64_t {
            auto* z = static_cast<Zeros*>(state);
            switch (command) {
            case ZIP_SOURCE_OPEN:
            case ZIP_SOURCE_CLOSE:
            case ZIP_SOURCE_FREE:
                return 0;
            case ZIP_SOURCE_READ: {
                const zip_uint64_t n = std::min<zip_uint64_t>(size, z->left);
                std::memset(data, ' ', n);
                z->left -= n;
                return zip_int64_t(n);
            }
            case ZIP_SOURCE_STAT: {
                auto* stat = static_cast<zip_stat_t*>(data);
                zip_stat_init(stat);
                stat->valid = 0;
                return sizeof(zip_stat_t);
            }
            case ZIP_SOURCE_SUPPORTS:
                return zip_source_make_command_bitmap(ZIP_SOURCE_OPEN, ZIP_SOURCE_READ, ZIP_SOURCE_CLOSE,
                                                      ZIP_SOURCE_STAT, ZIP_SOURCE_FREE, ZIP_SOURCE_ERROR, -1);
            default:
                return 0;
            }
        };
        zip_source_t* source = zip_source_function(archive, feed, &zeros);
        const zip_int64_t index = zip_file_add(archive, "3D/3dmodel.model", source, ZIP_FL_OVERWRITE);
        ASSERT_GE(index, 0);
        zip_set_file_compression(archive, zip_uint64_t(index), ZIP_CM_DEFLATE, 1);
        ASSERT_EQ(zip_close(archive), 0);
    }
    ASSERT_LT(std::filesystem::file_size(path), 40u << 20);
    auto read = read_mesh_file(path);
    ASSERT_FALSE(read);
    EXPECT_NE(read.error().text().find("2 GB"), std::string::npos) << read.error().text();
}
namespace {
const std::string core_namespace = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02";
std::string tetra(const std::string& attributes) {
    return "<object " + attributes +
           R"( type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1e0"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh></object>)";
}
std::string model_of(const std::string& resources, const std::string& items, const char* unit = "millimeter") {
    return R"(<?xml version="1.0" encoding="UTF-8"?><model unit=")" + std::string(unit) + R"(" xmlns=")" +
           core_namespace + R"("><resources>)" + resources + "</resources><build>" + items + "</build></model>";
}
} // namespace
TEST(ThreeMf, OurOwnReaderAgreesWithTheLibrary) {
    // Mirrored, turned, scaled and moved, in two levels, in inches.
    const std::string model = model_of(
        tetra(R"(id="1" name="Left &amp; right")") +
            R"(<object id="2" type="support" name="Pair"><components><component objectid="1"/><component objectid="1" transform="-1 0 0 0 2 0 0 0 1 5.5 -6 7"/></components></object>)",
        R"(<item objectid="2" transform="0 1 0 -1 0 0 0 0 1 10 20 30"/><item objectid="1"/>)", "inch");
    test::Folder folder;
    put_package(folder / "m.3mf", model);
    const auto library = read_3mf(*read_file(folder / "m.3mf"));
    const auto own = read_threemf_model(model);
    ASSERT_TRUE(library && own);
    ASSERT_EQ(own->size(), library->size());
    for (size_t i = 0; i < own->size(); ++i) {
        const FileObject &a = (*own)[i], &b = (*library)[i];
        EXPECT_EQ(a.name, b.name);
        EXPECT_EQ(a.support, b.support);
        ASSERT_EQ(a.mesh.vertices.size(), b.mesh.vertices.size());
        for (size_t v = 0; v < a.mesh.vertices.size(); ++v)
            EXPECT_LT((a.mesh.vertices[v] - b.mesh.vertices[v]).norm(), 1e-4) << i << " " << v;
        EXPECT_EQ(a.mesh.triangles, b.mesh.triangles);
    }
}
TEST(ThreeMf, ColoursOfObjectsComeBack) {
    FileObject clay, leaf;
    clay.name = "Clay pot";
    clay.colour = 0xB05030;
    clay.mesh = test::cube(10);
    leaf.name = "Leaf";
    leaf.colour = 0x308040;
    leaf.mesh = test::cube(5, {20, 0, 0});
    const auto bytes = write_3mf({clay, leaf}, "Colours");
    ASSERT_TRUE(bytes);
    const auto read = read_3mf(*bytes);
    ASSERT_TRUE(read);
    ASSERT_EQ(read->size(), 2u);
    EXPECT_EQ((*read)[0].colour, 0xB05030u);
    EXPECT_EQ((*read)[1].colour, 0x308040u);
    // Of a file made elsewhere, as the standard writes them.
    const std::string model = model_of(
        R"(<basematerials id="5"><base name="Clay" displaycolor="#B05030"/><base name="Leaf" displaycolor="#308040FF"/></basematerials>)" +
            tetra(R"(id="1" pid="5" pindex="1")"),
        R"(<item objectid="1"/>)");
    test::Folder folder;
    put_package(folder / "m.3mf", model);
    const auto library = read_3mf(*read_file(folder / "m.3mf"));
    const auto own = read_threemf_model(model);
    ASSERT_TRUE(library && own);
    EXPECT_EQ((*library)[0].colour, 0x308040u);
    EXPECT_EQ((*own)[0].colour, 0x308040u);
}
TEST(ThreeMf, ThousandsOfObjectsOpenWithNamesPlacesAndColours) {
    std::string objects =
        R"(<basematerials id="9001"><base name="Clay" displaycolor="#B05030"/><base name="Leaf" displaycolor="#308040FF"/></basematerials>)";
    std::string items;
    constexpr size_t many = 3000;
    for (size_t i = 1; i <= many; ++i) {
        objects += tetra("id=\"" + std::to_string(i) + "\" name=\"seed " + std::to_string(i) +
                         "\" pid=\"9001\" pindex=\"" + std::to_string(i % 2) + "\"");
        items += "<item objectid=\"" + std::to_string(i) + "\" transform=\"1 0 0 0 1 0 0 0 1 " + std::to_string(2 * i) +
                 " 0 0\"/>";
    }
    const std::string model = model_of(objects, items);
    EXPECT_EQ(count_threemf_objects(model), many);
    test::Folder folder;
    put_package(folder / "many.3mf", model);
    const auto read = read_3mf(*read_file(folder / "many.3mf"));
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->size(), many);
    EXPECT_EQ(read->back().name, "seed 3000");
    EXPECT_EQ((*read)[0].colour, 0x308040u);
    EXPECT_EQ((*read)[1].colour, 0xB05030u);
    EXPECT_NEAR(bounding_box(read->back().mesh).min().x(), 6000, 1e-3);
    for (const FileObject& object : *read) ASSERT_EQ(object.mesh.triangles.size(), 4u);
    // The shells beside each other are told apart without comparing each with all.
    TriMesh all;
    for (const FileObject& object : *read) append(all, object.mesh);
    EXPECT_EQ(check_soundness(all).shells, many);
}
TEST(BringIn, HundredsOfObjectsAreOneBody) {
    auto seeds = [](size_t many) {
        std::string obj;
        for (size_t i = 0; i < many; ++i) {
            const std::string x = std::to_string(3 * i), x2 = std::to_string(3 * i + 2);
            obj += "o seed" + std::to_string(i) + "\nv " + x + " 0 0\nv " + x2 + " 0 0\nv " + x + " 2 0\nv " + x +
                   " 0 2\nf -4 -2 -3\nf -4 -3 -1\nf -4 -1 -2\nf -3 -2 -1\n";
        }
        return test::make(test::json::array({test::step("bring_in", {{"file", "seeds.obj"}})}), test::json::object(),
                          {{"seeds.obj", obj}});
    };
    EXPECT_EQ(seeds(20).part().bodies.size(), 20u);
    const test::Made many = seeds(600);
    ASSERT_EQ(many.says(), "");
    ASSERT_EQ(many.part().bodies.size(), 1u);
    EXPECT_EQ(many.body().pieces(), 600);
    EXPECT_EQ(many.step(0).says, "Its 600 pieces are brought in as one body.");
}
TEST(ThreeMf, OurOwnReaderRefusesInWords) {
    const std::string one = tetra(R"(id="1")"), item = R"(<item objectid="1"/>)";
    auto with = [&](std::string what, const std::string& by, const std::string& in) {
        std::string text = in;
        text.replace(text.find(what), what.size(), by);
        return text;
    };
    const std::string good = model_of(one, item);
    ASSERT_TRUE(read_threemf_model(good));
    std::string circle =
        model_of(R"(<object id="1" type="model"><components><component objectid="1"/></components></object>)", item);
    const std::string bad[] = {"",
                               "<model",
                               good.substr(0, good.size() / 2),
                               "<model/>",
                               model_of(one, ""),
                               model_of("", item),
                               model_of(one, item, "furlong"),
                               with(R"(v1="0")", R"(v1="77")", good),
                               with(R"(v1="0")", R"(v1="-1")", good),
                               with(R"(x="1")", R"(x="nan")", good),
                               with(R"(x="1")", R"(x="1e999")", good),
                               with(R"(x="1")", R"(y2="1")", good),
                               with(R"(objectid="1")", R"(objectid="1" transform="1 0 0")", good),
                               with(R"(objectid="1")", R"(objectid="1" transform="1 0 0 0 1 0 0 0 x 0 0 0")", good),
                               circle};
    for (const std::string& text : bad) {
        const auto read = read_threemf_model(text);
        ASSERT_FALSE(read) << text.substr(0, 300);
        EXPECT_FALSE(read.error().sentence.empty());
    }
    EXPECT_EQ(
        count_threemf_objects("<object id=\"1\"><m:object\tid='2'><component objectid=\"1\"/> an object < object"), 2u);
    EXPECT_EQ(count_threemf_objects(std::string(1'000'000, ':') + "object "), 0u);
}
TEST(ThreeMf, ComponentsThatDoubleAndThatGoInACircleAreRefused) {
    auto package = [](const std::string& objects) {
        test::Folder folder;
        const auto path = folder / "m.3mf";
        int code = 0;
        zip_t* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
        const std::string model =
            R"(<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>)" +
            objects + R"(</resources><build><item objectid="30"/></build></model>)";
        const std::string types =
            R"(<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>)";
        const std::string rels =
            R"(<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="r0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>)";
        for (auto [name, text] : {std::pair("[Content_Types].xml", &types), std::pair("_rels/.rels", &rels),
                                  std::pair("3D/3dmodel.model", &model)})
            zip_file_add(archive, name, zip_source_buffer(archive, text->data(), text->size(), 0), ZIP_FL_OVERWRITE);
        zip_close(archive);
        return read_file(path).value();
    };
    std::string doubled =
        R"(<object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh></object>)";
    for (int i = 2; i <= 30; ++i) {
        const std::string before = std::to_string(i - 1);
        doubled += "<object id=\"" + std::to_string(i) + "\" type=\"model\"><components><component objectid=\"" +
                   before + "\"/><component objectid=\"" + before + "\"/></components></object>";
    }
    const auto start = std::chrono::steady_clock::now();
    for (
        const std::string& bytes :
        {package(doubled),
         package(R"(<object id="30" type="model"><components><component objectid="30"/></components></object>)"),
         package(
             R"(<object id="29"><components><component objectid="30"/></components></object><object id="30"><components><component objectid="29"/></components></object>)")}) {
        auto read = read_objects("m.3mf", bytes);
        ASSERT_FALSE(read);
        EXPECT_LT(read.error().text().size(), 300u);
    }
    EXPECT_LT(std::chrono::steady_clock::now() - start, std::chrono::seconds(10));
}
TEST(ProjectArchive, ADamagedHistoryStillOpensTheProjectOrSaysWhy) {
    test::Folder folder;
    auto project = project_from_text(
        R"({"format":"loose-peg","version":1,"name":"H","parts":[{"name":"P","steps":[{"kind":"block","fields":{}}]}]})");
    ASSERT_TRUE(project);
    const auto path = folder / "h.loosepeg";
    ASSERT_FALSE(save_project(path, History(std::make_shared<const Project>(*project))));
    for (const std::string& damage :
         {std::string("{"), std::string("[1,2,3]"), std::string(R"({"entries": 7})"),
          std::string(R"({"entries":[{"project":{}}],"at":99})"), std::string(100000, '['), std::string()}) {
        std::filesystem::copy_file(path, folder / "d.loosepeg", std::filesystem::copy_options::overwrite_existing);
        int code = 0;
        zip_t* archive = zip_open((folder / "d.loosepeg").c_str(), 0, &code);
        ASSERT_TRUE(archive);
        zip_file_add(archive, "history.json", zip_source_buffer(archive, damage.data(), damage.size(), 0),
                     ZIP_FL_OVERWRITE);
        ASSERT_EQ(zip_close(archive), 0);
        auto opened = open_project(folder / "d.loosepeg");
        if (opened) {
            EXPECT_EQ(opened->history.now()->parts.size(), 1u) << damage.substr(0, 20);
        } else {
            EXPECT_FALSE(opened.error().sentence.empty());
        }
    }
}
TEST(FieldsAsText, HostileRegionsReferencesAndLegsEndInASentence) {
    for (const std::string& text : {std::string("(((((("), std::string("(1,"), std::string("(1e999, 2) 10l"),
                                    std::string("(1,2) 99999999999999999999l"), std::string(";;;;"),
                                    std::string(20000, '('), std::string("(nan, nan)"), std::string("\0\0", 2)}) {
        auto regions = choices_from_text(text, {});
        if (regions) {
            for (const RegionChoice& choice : *regions) EXPECT_TRUE(choice.at.allFinite()) << text;
        }
        auto legs = legs_from_text(text);
        if (!legs) {
            EXPECT_LT(legs.error().text().size(), 600u);
        }
        EXPECT_FALSE(face_reference_from(text));
        EXPECT_FALSE(edge_reference_from(text));
    }
    for (const std::string& text : {std::string("{\"face\":"), std::string("{}"), std::string("{\"tags\":[1,2,3]}"),
                                    "{\"face\":{\"tags\":\"x\"}}" + std::string(5000, '}'), std::string(50000, '{')}) {
        face_reference_from(text); // whatever it is, it comes back
        edge_reference_from(text);
    }
    EXPECT_FALSE(legs_from_text("slide 1e999"));
    EXPECT_FALSE(legs_from_text("jump 4"));
    EXPECT_FALSE(legs_from_text("slide four"));
}

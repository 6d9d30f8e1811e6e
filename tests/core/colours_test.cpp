// Colours that leave with the shape: a map at the corners of a PLY, materials of an OBJ.
#include "handoff/export_project.h"
#include "made_project.h"
#include "project/map_colours.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// A square of two facets, its values rising along x from 0 to 2; one corner of the second facet was not measured.
SurfaceMap rising() {
    auto shape = std::make_shared<Tessellation>();
    shape->mesh.vertices = {{0, 0, 0}, {2, 0, 0}, {2, 2, 0}, {0, 2, 0}};
    shape->mesh.triangles = {{0, 1, 2}, {0, 2, 3}};
    SurfaceMap map;
    map.shape = shape;
    map.values = std::make_shared<const std::vector<float>>(std::vector<float>{0, 2, 2, 0, 2, -1});
    map.low = 0;
    map.high = 2;
    return map;
}

/// Of a PLY as this program writes it: x, y, z as doubles and three bytes a vertex.
struct Corner {
    double at[3];
    int red, green, blue;
};
std::vector<Corner> corners_of(const std::string& bytes, size_t count) {
    std::vector<Corner> corners(count);
    const char* p = bytes.data() + bytes.find("end_header\n") + 11;
    for (Corner& c : corners) {
        std::memcpy(c.at, p, 24);
        c.red = uint8_t(p[24]);
        c.green = uint8_t(p[25]);
        c.blue = uint8_t(p[26]);
        p += 27;
    }
    return corners;
}

} // namespace

TEST(MapColours, AreTheScalesStops) {
    EXPECT_EQ(map_colour_number(0), 0x4d2a52u);
    EXPECT_EQ(map_colour_number(0.5), 0x41948cu);
    EXPECT_EQ(map_colour_number(1), 0xf0e6a0u);
    EXPECT_EQ(map_colour_number(-3), 0x4d2a52u);
    EXPECT_EQ(map_colour_number(7), 0xf0e6a0u);
    EXPECT_EQ(map_colour_number(0.125), 0x4a4668u) << "half way to the next: 0x4d2a52 and 0x46617e";
}

TEST(MapColours, GoOutWithTheShapeAndComeBackAsAMesh) {
    Transform place = Transform::Identity();
    place.translate(Vec3(0, 0, 5));
    const FileObject object = coloured_object(rising(), place, 0x112233, "square");
    ASSERT_EQ(object.mesh.triangles.size(), 2u);
    EXPECT_EQ(object.mesh.vertices.size(), 4u) << "corners of one colour are shared";
    auto bytes = find_format("ply")->write({object}, "square", {});
    ASSERT_TRUE(bytes);
    for (const Corner& c : corners_of(*bytes, 4)) {
        EXPECT_EQ(c.at[2], 5);
        const int colour = c.red << 16 | c.green << 8 | c.blue;
        EXPECT_EQ(colour, c.at[0] == 2 ? 0xf0e6a0 : c.at[1] == 2 ? 0x112233 : 0x4d2a52) << c.at[0] << " " << c.at[1];
    }
    auto back = read_objects("square.ply", *bytes);
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(back->objects[0].mesh.triangles, object.mesh.triangles);
    EXPECT_EQ(back->objects[0].mesh.vertices, object.mesh.vertices);
}

TEST(MapColours, OfADeviationGoOut) {
    const Made m = make(json::array({block(20, 20, 2)}));
    const auto maps = wall_maps(m.part(), 0.4);
    ASSERT_EQ(maps.size(), 1u);
    const FileObject object = coloured_object(maps[0], Transform::Identity(), 0xffffff, "plate");
    EXPECT_EQ(object.vertex_colours.size(), object.mesh.vertices.size());
    EXPECT_NEAR(mass_properties(welded(object.mesh)).volume_mm3, 800, 1e-6);
    EXPECT_EQ(coloured_object(SurfaceMap{}, Transform::Identity(), 0, "nothing").mesh.triangles.size(), 0u);
}

TEST(Materials, OfAnObjLieBesideItWhereItIsExported) {
    Made m = make_parts({{"Hook", json::array({block(20, 10, 5)})}});
    auto own = std::make_shared<Project>(*m.project);
    auto part = std::make_shared<Part>(*own->parts[0]);
    part->colour = "#336699";
    own->parts[0] = part;
    Evaluator evaluator;
    auto evaluation = evaluator.evaluate(own);
    ASSERT_TRUE(evaluation);
    Folder folder;
    auto written = export_project(*evaluation, {folder.path, {"obj"}});
    ASSERT_TRUE(written) << written.error().text();
    auto shape = read_file(folder.path / "Hook.obj"), materials = read_file(folder.path / "Hook.mtl");
    ASSERT_TRUE(shape && materials);
    EXPECT_NE(shape->find("mtllib Hook.mtl\n"), std::string::npos);
    EXPECT_NE(shape->find("usemtl colour_336699\n"), std::string::npos);
    // 0x33 / 255 = 0.2, 0x66 / 255 = 0.4, 0x99 / 255 = 0.6.
    EXPECT_NE(materials->find("newmtl colour_336699\nKd 0.2000 0.4000 0.6000\n"), std::string::npos) << *materials;
    EXPECT_TRUE((*written)[0].same);
    // Written alone it names no file that is not there.
    ASSERT_FALSE(write_objects(folder.path / "alone.obj", {{.name = "cube", .mesh = cube(5)}}, "cube"));
    EXPECT_EQ(read_file(folder.path / "alone.obj")->find("mtllib"), std::string::npos);
    EXPECT_FALSE(std::filesystem::exists(folder.path / "alone.mtl"));
}

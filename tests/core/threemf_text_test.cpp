// 3MF of very many facets: written as text and read without a tree, held against the 3MF library and the tree's reader.
#include "formats/formats.h"
#include "formats/threemf_mesh_text.h"
#include "formats/threemf_model.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <limits>

using namespace lp;
using namespace lp::test;

namespace {

std::string model_with(const std::string& mesh) {
    return "<?xml version=\"1.0\" encoding=\"UTF-8\"?><model unit=\"millimeter\" "
           "xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"><resources><object id=\"1\" "
           "type=\"model\" name=\"it\">" +
           mesh + "</object></resources><build><item objectid=\"1\"/></build></model>";
}

const std::string vertices = "<vertices><vertex x=\"0\" y=\"0\" z=\"0\"/><vertex x=\"10\" y=\"0\" z=\"0\"/>"
                             "<vertex x=\"0\" y=\"10\" z=\"0\"/><vertex x=\"0\" y=\"0\" z=\"1e1\"/></vertices>";
const std::string triangles =
    "<triangles><triangle v1=\"0\" v2=\"2\" v3=\"1\"/><triangle v1=\"0\" v2=\"1\" v3=\"3\"/>"
    "<triangle v1=\"0\" v2=\"3\" v3=\"2\"/><triangle v1=\"1\" v2=\"2\" v3=\"3\"/></triangles>";

double volume_of(const std::string& model) {
    auto read = read_threemf_model(model);
    return read ? mass_properties(read->at(0).mesh).volume_mm3 : -1;
}

} // namespace

TEST(ThreemfText, ALargeFileIsReadByTheLibraryAsItWasMeant) {
    // Two things of 57,000 and 20,000 facets, one of them twice: over the mark from which meshes are written as text;
    // the package stays under the one from which they are read as text, so that the library reads it.
    FileObject ball{.name = "Ball", .mesh = sphere(40, 120), .colour = 0x336699},
        post{.name = "Post", .mesh = sphere(9, 70), .support = true}, again{.name = "Ball 2", .same_as = 0};
    again.place.translate(Vec3(100, 0, 0));
    auto bytes = find_format("3mf")->write({ball, post, again}, "Two & more", {.settings_json = "{}"});
    ASSERT_TRUE(bytes) << bytes.error().text();
    EXPECT_NE(bytes->find("print-settings.json"), std::string::npos) << "the other parts are still there";
    auto read = read_objects("balls.3mf", *bytes);
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->objects.size(), 3u);
    EXPECT_EQ(read->objects[0].name, "Ball");
    EXPECT_EQ(read->objects[0].colour, 0x336699u);
    EXPECT_TRUE(read->objects[1].support);
    ASSERT_EQ(read->objects[0].mesh.triangles, ball.mesh.triangles);
    ASSERT_EQ(read->objects[1].mesh.triangles, post.mesh.triangles);
    for (size_t i = 0; i < ball.mesh.vertices.size(); ++i) {
        const Eigen::Vector3f meant = ball.mesh.vertices[i].cast<float>(),
                              got = read->objects[0].mesh.vertices[i].cast<float>();
        ASSERT_EQ(meant, got) << "to the last digit of single precision";
    }
    EXPECT_NEAR(bounding_box(read->objects[2].mesh).center().x(), 100, 1e-3);
}

TEST(ThreemfText, ReadAsTextItIsTheSame) {
    // Over eight megabytes.
    const FileObject ball{.name = "Ball", .mesh = sphere(40, 220)};
    auto bytes = find_format("3mf")->write({ball}, "Ball", {});
    ASSERT_TRUE(bytes);
    auto read = read_objects("ball.3mf", *bytes);
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->objects[0].mesh.triangles, ball.mesh.triangles);
    EXPECT_NEAR(mass_properties(read->objects[0].mesh).volume_mm3, mass_properties(ball.mesh).volume_mm3, 0.01);
    auto cut = bytes->substr(0, bytes->size() / 2);
    EXPECT_FALSE(read_objects("ball.3mf", cut));
}

TEST(ThreemfText, MeshesAreLiftedOutOfPlainModelsOnly) {
    auto lifted = [](std::string model) { return lift_threemf_meshes(model).size(); };
    const std::string plain = model_with("<mesh>" + vertices + triangles + "</mesh>");
    EXPECT_EQ(lifted(plain), 1u);
    EXPECT_NEAR(volume_of(plain), 1000.0 / 6, 1e-9);
    // As others write it: single quotes, line breaks, two tags, other attributes, another order.
    const std::string other =
        model_with("<mesh>\n <vertices>\n<vertex y='0' x='0' z='0' />\n<vertex x = '10' y='0' z='0'></vertex>"
                   "<vertex x='0' y='10' z='0'/><vertex z='+10.0' x='0' y='0'/>\n</vertices>\n<triangles>"
                   "<triangle pid='2' v1='0' v2='2' v3='1' p1='0'/><triangle v1='0' v2='1' v3='3'/><triangle v1='0' "
                   "v2='3' v3='2'/>"
                   "<triangle v1='1' v2='2' v3='3'/></triangles></mesh>");
    EXPECT_EQ(lifted(other), 1u);
    EXPECT_NEAR(volume_of(other), 1000.0 / 6, 1e-9);
    // What is not plain goes the long way and is read all the same.
    const std::string comment = model_with("<mesh><!-- <mesh></mesh> -->" + vertices + triangles + "</mesh>");
    EXPECT_EQ(lifted(comment), 0u);
    EXPECT_NEAR(volume_of(comment), 1000.0 / 6, 1e-9);
    // A file that uses our mark is not believed.
    EXPECT_EQ(volume_of(model_with("<mesh lifted=\"0\">" + vertices + triangles + "</mesh>")), 1000.0 / 6);
    EXPECT_EQ(volume_of(model_with("<mesh lifted=\"0\"/>")), 0) << "an object without facets";
}

TEST(ThreemfText, DamagedMeshesAreRefused) {
    auto with = [&](const std::string& from, const std::string& to) {
        std::string model = model_with("<mesh>" + vertices + triangles + "</mesh>");
        model.replace(model.find(from), from.size(), to);
        return model;
    };
    EXPECT_EQ(volume_of(with("v3=\"3\"", "v3=\"4\"")), -1) << "a corner that is not there";
    EXPECT_EQ(volume_of(with("v3=\"3\"", "v3=\"-1\"")), -1);
    EXPECT_EQ(volume_of(with("v3=\"3\"", "v3=\"99999999999\"")), -1);
    EXPECT_EQ(volume_of(with("x=\"10\"", "x=\"nan\"")), -1);
    EXPECT_EQ(volume_of(with("x=\"10\"", "x=\"1e300\"")), -1) << "beyond single precision";
    EXPECT_EQ(volume_of(with("x=\"10\"", "x=\"ten\"")), -1);
    EXPECT_EQ(volume_of(with("</vertices>", "")), -1);
    EXPECT_EQ(volume_of(with("<vertex x=\"10\"", "<vertex x=\"10")), -1);
    std::string model = with("<mesh>", "<mesh>");
    for (size_t n = 0; n < model.size(); n += 7) {
        auto read = read_threemf_model(model.substr(0, n));
        EXPECT_FALSE(read) << n;
    }
}

TEST(ThreemfText, NumbersComeBackAsTheyWere) {
    TriMesh mesh;
    const float all[] = {0.1f, -1.0f / 3, 1e-30f, 123456.789f, std::numeric_limits<float>::max(), -0.0f};
    for (float a : all)
        for (float b : all) mesh.vertices.emplace_back(a, b, a);
    mesh.triangles = {{0, 1, 2}, {2, 35, 7}};
    std::string model = model_with(threemf_mesh_text(mesh));
    const auto back = lift_threemf_meshes(model);
    ASSERT_EQ(back.size(), 1u);
    EXPECT_EQ(back[0].vertices, mesh.vertices);
    EXPECT_EQ(back[0].triangles, mesh.triangles);
    EXPECT_NE(model.find("<mesh lifted=\"0\"/>"), std::string::npos);
    std::string none = "<model/>";
    EXPECT_FALSE(replace_threemf_meshes(none, {"<mesh/>"}));
    EXPECT_TRUE(replace_threemf_meshes(none, {}));
}

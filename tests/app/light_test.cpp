// The light stand-in of a large body while the view moves, and its going when the view rests.
#include "app/view/light_mesh.h"
#include "mesh/topology.h"
#include "window_test.h"

using namespace lp;

namespace {

/// Signed volume of a closed mesh, by the divergence theorem.
double volume_of(const TriMesh& mesh) {
    double six = 0;
    for (size_t i = 0; i < mesh.triangles.size(); ++i)
        six += mesh.corner(i, 0).dot(mesh.corner(i, 1).cross(mesh.corner(i, 2)));
    return six / 6;
}

} // namespace

TEST(LightMesh, IsMuchSmallerAndNearlyTheSameToSee) {
    const auto shape = segment_mesh(test::sphere(40, 400));
    ASSERT_GT(shape.mesh.triangles.size(), light_from_facets);
    const LightMesh light = light_mesh(shape);
    EXPECT_LT(light.mesh.triangles.size(), 60000u);
    EXPECT_GT(light.mesh.triangles.size(), 2000u);
    EXPECT_EQ(light.face_of.size(), light.mesh.triangles.size());
    for (uint32_t face : light.face_of) EXPECT_LT(face, shape.faces.size());
    const double cell = 80.0 / 72;
    EXPECT_NEAR(volume_of(light.mesh), 4.0 / 3 * std::numbers::pi * 64000, 0.03 * 268083) << "facets look outward";
    for (const Vec3& v : light.mesh.vertices) EXPECT_NEAR(v.norm(), 40, cell);
}

TEST(LightMesh, OddMeshesAreNoMatter) {
    EXPECT_TRUE(light_mesh(Tessellation()).mesh.triangles.empty());
    Tessellation damaged;
    damaged.mesh.vertices = {{0, 0, 0}, {1, 0, 0}, {std::nan(""), 1, 0}, {0, 0, 5}};
    damaged.mesh.triangles = {{0, 1, 2}, {0, 0, 0}, {0, 1, 3}};
    damaged.face_of = {0, 0, 0};
    for (const Vec3& v : light_mesh(damaged).mesh.vertices) EXPECT_TRUE(v.allFinite());
    Tessellation flat;
    flat.mesh.vertices = {{0, 0, 0}, {0, 0, 0}, {0, 0, 0}};
    flat.mesh.triangles = {{0, 1, 2}};
    flat.face_of = {0};
    EXPECT_TRUE(light_mesh(flat).mesh.triangles.empty());
}

TEST_F(Window, ALargeMeshIsLightWhileTheViewTurnsAndWholeWhenItRests) {
    const std::string file = (folder.path / "dome.stl").string();
    std::ofstream(file, std::ios::binary) << write_stl_binary(test::sphere(40, 300));
    session->bring_in({QString::fromStdString(file)});
    settle();
    ASSERT_GT(window->view()->scene().bodies.front().shape->mesh.triangles.size(), light_from_facets);
    window->view()->repaint();
    const QImage whole = window->view()->picture();
    QTest::qWait(600); // the stand-in is made beside
    ViewWidget* view = window->view();
    view->setFocus();
    press(Qt::Key_Right);
    press(Qt::Key_Left); // the same place, still under way
    view->repaint();
    const QImage moving = view->picture();
    EXPECT_NE(moving, whole);
    for (int i = 0; i < 100 && view->picture() != whole; ++i) QTest::qWait(20);
    EXPECT_EQ(view->picture(), whole) << "at rest it is drawn in full";
}

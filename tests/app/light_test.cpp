// The light stand-in of a large body while the view moves, and its going when the view rests.
#include "app/view/light_mesh.h"
#include "mesh/topology.h"
#include "window_test.h"

using namespace lp;

namespace {

Vec3 place_of(const ShapeVertex& v) {
    return {v.position[0], v.position[1], v.position[2]};
}

/// Signed volume of closed facets, by the divergence theorem.
double volume_of(const ShapeTriangles& t) {
    double six = 0;
    for (size_t i = 0; i < t.indices.size(); i += 3) {
        const Vec3 a = place_of(t.vertices[t.indices[i]]), b = place_of(t.vertices[t.indices[i + 1]]),
                   c = place_of(t.vertices[t.indices[i + 2]]);
        six += a.dot(b.cross(c));
    }
    return six / 6;
}

Tessellation damaged() {
    Tessellation shape;
    shape.mesh.vertices = {{0, 0, 0}, {1, 0, 0}, {std::nan(""), 1, 0}, {0, 0, 5}};
    shape.mesh.triangles = {{0, 1, 2}, {0, 0, 0}, {0, 1, 3}};
    shape.normals.assign(3, {Vec3::UnitZ(), Vec3::UnitZ(), Vec3::UnitZ()});
    shape.face_of = {0, 0, 0};
    return shape;
}

Tessellation without_size() {
    Tessellation shape;
    shape.mesh.vertices = {{0, 0, 0}, {0, 0, 0}, {0, 0, 0}};
    shape.mesh.triangles = {{0, 1, 2}};
    shape.normals.assign(1, {Vec3::UnitZ(), Vec3::UnitZ(), Vec3::UnitZ()});
    shape.face_of = {0};
    return shape;
}

/// Share of the pixels of two pictures that differ in a channel by more than a tenth of its range.
double share_unlike(const QImage& a, const QImage& b) {
    if (a.size() != b.size()) return 1;
    int unlike = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) {
            const QRgb p = a.pixel(x, y), q = b.pixel(x, y);
            unlike += std::abs(qRed(p) - qRed(q)) > 25 || std::abs(qGreen(p) - qGreen(q)) > 25 ||
                      std::abs(qBlue(p) - qBlue(q)) > 25;
        }
    return double(unlike) / double(a.width() * a.height());
}

} // namespace

TEST(ShapeBuffers, CornersThatLookAlikeAreSentOnce) {
    // A cube by its definition: 6 faces of 4 corners, 12 edges; every facet keeps its place in the order.
    const Tessellation cube = segment_mesh(test::cube(20));
    const ShapeTriangles sent = shape_triangles(cube), corners = shape_corners(cube);
    EXPECT_EQ(sent.vertices.size(), 24u);
    ASSERT_EQ(sent.indices.size(), 36u);
    EXPECT_EQ(corners.vertices.size(), 36u);
    for (size_t i = 0; i < 36; ++i) EXPECT_EQ(sent.vertices[sent.indices[i]], corners.vertices[corners.indices[i]]);
    EXPECT_NEAR(volume_of(sent), 8000, 1e-3);
    const ShapeEdges edges = shape_edges(cube);
    EXPECT_EQ(edges.vertices.size(), 12 * 4u);
    EXPECT_EQ(edges.indices.size(), 12 * 6u);
}

TEST(LightMesh, LooksTheSameWithFarFewerFacets) {
    // Volume of a sphere, 4/3 pi r^3, and every corner on it: corners are never moved, only left out.
    const auto shape = segment_mesh(test::sphere(40, 200));
    const LightShape light = light_shape(shape, 0.04);
    EXPECT_LT(light.triangles.indices.size(), shape.mesh.triangles.size()) << "a third of the corners";
    for (const ShapeVertex& v : light.triangles.vertices) {
        EXPECT_NEAR(place_of(v).norm(), 40, 0.01);
        EXPECT_LT(v.face, shape.faces.size());
    }
    const double sphere = 4.0 / 3 * std::numbers::pi * 64000, skin = 4 * std::numbers::pi * 1600;
    EXPECT_NEAR(volume_of(light.triangles), sphere, 0.1 * skin) << "a tenth of a millimetre all round";
}

TEST(LightMesh, EdgesLoseOnlyPointsNearTheRest) {
    Tessellation shape = segment_mesh(test::cube(10));
    EdgeInfo ring;
    for (int i = 0; i <= 720; ++i)
        ring.points.push_back(
            {20 * std::cos(i * std::numbers::pi / 360), 20 * std::sin(i * std::numbers::pi / 360), 0});
    shape.edges = {ring};
    const LightShape light = light_shape(shape, 0.04);
    // The sagitta of n chords round a circle is r (1 - cos(pi / n)): 0.04 of 20 wants at least 50.
    EXPECT_GE(light.edges.vertices.size() / 4, 50u);
    EXPECT_LE(light.edges.vertices.size() / 4, 130u);
}

TEST(LightMesh, ACoarseOneHasAsFewAsAsked) {
    const auto shape = segment_mesh(test::sphere(40, 400));
    ASSERT_GT(shape.mesh.triangles.size(), coarse_from_facets);
    const ShapeTriangles coarse = coarse_triangles(shape);
    EXPECT_LE(coarse.indices.size() / 3, 20000u);
    EXPECT_GT(coarse.indices.size() / 3, 5000u);
    const double sphere = 4.0 / 3 * std::numbers::pi * 64000;
    EXPECT_NEAR(volume_of(coarse), sphere, 0.03 * sphere) << "facets look outward";
}

TEST(LightMesh, OddMeshesAreNoMatter) {
    EXPECT_TRUE(light_shape(Tessellation()).triangles.indices.empty());
    EXPECT_TRUE(coarse_triangles(Tessellation()).indices.empty());
    for (const ShapeTriangles& t : {light_shape(damaged()).triangles, coarse_triangles(damaged())})
        for (const ShapeVertex& v : t.vertices) EXPECT_TRUE(place_of(v).allFinite());
    EXPECT_TRUE(light_shape(without_size()).triangles.indices.empty());
    EXPECT_TRUE(coarse_triangles(without_size()).indices.empty());
}

TEST_F(Window, ALargeMeshIsLightWhileTheViewTurnsAndWholeWhenItRests) {
    const std::string file = (folder.path / "dome.stl").string();
    std::ofstream(file, std::ios::binary) << write_stl_binary(test::sphere(40, 300));
    session->bring_in({QString::fromStdString(file)});
    settle();
    ASSERT_GT(window->view()->scene().bodies.front().shape->mesh.triangles.size(), coarse_from_facets);
    window->view()->repaint();
    const QImage whole = window->view()->picture();
    QTest::qWait(600); // the stand-in is made beside
    ViewWidget* view = window->view();
    view->setFocus();
    press(Qt::Key_Right);
    press(Qt::Key_Left); // the same place, still under way
    view->repaint();
    const QImage moving = view->picture();
    EXPECT_NE(moving, whole) << "coarse";
    for (int i = 0; i < 100 && view->picture() == moving; ++i) QTest::qWait(20);
    EXPECT_NE(view->picture(), moving);
    EXPECT_LT(share_unlike(view->picture(), whole), 0.0003) << "at rest nobody can tell it from the body";
}

TEST_F(Window, AClickOnALargeMeshIsNotLostWhileItsRaysAreMade) {
    const std::string file = (folder.path / "dome.stl").string();
    std::ofstream(file, std::ios::binary) << write_stl_binary(test::sphere(40, 250));
    session->bring_in({QString::fromStdString(file)});
    settle();
    ViewWidget* view = window->view();
    session->workspace().clear_selection();
    QApplication::processEvents();
    view->fit_all();
    const SceneBody& dome = view->scene().bodies.front();
    ASSERT_GT(dome.shape->mesh.triangles.size(), 60000u) << "its rays are made beside";
    // At once: the pointer never rested there before.
    QTest::mouseClick(view, Qt::LeftButton, {},
                      view->project(dome.place * bounding_box(dome.shape->mesh).center()).toPoint());
    EXPECT_TRUE(QTest::qWaitFor([&] { return !session->workspace().selection().empty(); }, 10000));
}

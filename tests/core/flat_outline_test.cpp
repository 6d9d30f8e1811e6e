// Outlines of faces and sections as DXF and SVG: areas by closed formulas, read again by our readers of those formats;
// circles stay circles.
#include "formats/flat_file.h"
#include "formats/write_flat.h"
#include "handoff/flat_outline.h"
#include "made_project.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// 40 x 30 x 10 with a hole of 8 and rounded upright corners of 5.
Made plate() {
    Made made =
        make({block(40, 30, 10), step("cylinder", {{"diameter", 8}, {"height", 60}, {"at_z", -20}, {"does", "cut"}}),
              step("fillet", {{"edges", "upright"}, {"radius", 5}})});
    return made;
}
const double plate_area = 40 * 30 - (4 - pi) * 25 - pi * 16;

double area(const std::vector<std::vector<Curve>>& loops) {
    double sum = 0;
    for (const auto& loop : loops) sum += signed_area(loop);
    return sum;
}
size_t face_up(const Tessellation& shape, const Vec3& way) {
    for (size_t f = 0; f < shape.faces.size(); ++f)
        if (shape.faces[f].kind == SurfaceKind::Plane && shape.faces[f].direction.dot(way) > 0.999) return f;
    ADD_FAILURE();
    return 0;
}
/// By the even-odd rule, of what a reader made of it: the outermost is the largest.
double read_area(const FlatPaths& paths) {
    double largest = 0, sum = 0;
    for (const FlatPath& path : paths.paths)
        for (const auto& contour : path.contours) {
            const double its = std::fabs(signed_area(contour));
            largest = std::max(largest, its);
            sum += its;
        }
    return 2 * largest - sum;
}
size_t times(const std::string& in, const std::string& what) {
    size_t n = 0;
    for (size_t at = in.find(what); at != std::string::npos; at = in.find(what, at + 1)) ++n;
    return n;
}

} // namespace

TEST(FlatOutline, OfAFaceHoldsItsAreaItsCircleAndItsArcs) {
    const Made made = plate();
    ASSERT_EQ(made.says(), "");
    const Tessellation& shape = made.body().tessellation();
    auto outline = face_outline(shape, face_up(shape, Vec3::UnitZ()));
    ASSERT_TRUE(outline) << outline.error().text();
    ASSERT_EQ(outline->loops.size(), 2u);
    EXPECT_NEAR(area(outline->loops), plate_area, 0.1);
    const std::string dxf = dxf_of(outline->loops);
    EXPECT_EQ(times(dxf, "\nCIRCLE\n"), 1u);
    EXPECT_EQ(times(dxf, "\nARC\n"), 4u);
    EXPECT_EQ(times(dxf, "\nLINE\n"), 4u);
    for (const auto& [read, format] :
         {std::pair(read_dxf(dxf), "dxf"), std::pair(read_svg(svg_of(outline->loops)), "svg")}) {
        ASSERT_TRUE(read) << format << read.error().text();
        EXPECT_EQ(read->unit, "mm") << format;
        EXPECT_NEAR(read_area(*read), plate_area, 0.1) << format;
        for (const FlatPath& path : read->paths)
            for (bool closed : path.closed) EXPECT_TRUE(closed) << format;
    }
}

TEST(FlatOutline, OfASideIsUprightAndSeenFromOutside) {
    // A wedge-like block: a notch at the right of its front, so that a mirror would be seen.
    const Made made = make(
        {block(40, 20, 10),
         step("block", {{"size_x", 10}, {"size_y", 60}, {"size_z", 4}, {"at_x", 15}, {"at_z", 6}, {"does", "cut"}})});
    ASSERT_EQ(made.says(), "");
    const Tessellation& shape = made.body().tessellation();
    auto front = face_outline(shape, face_up(shape, -Vec3::UnitY()));
    ASSERT_TRUE(front) << front.error().text();
    EXPECT_NEAR(area(front->loops), 40 * 10 - 10 * 4, 1e-6);
    Box2 high; // what stands above 6.5
    for (const Curve& curve : front->loops[0])
        for (const Vec2& p : {curve.first(), curve.last()})
            if (p.y() > 6.5) high.extend(p);
    EXPECT_NEAR(high.min().x(), -20, 1e-6);
    EXPECT_NEAR(high.max().x(), 10, 1e-6) << "the notch is at the right";
    auto back = face_outline(shape, face_up(shape, Vec3::UnitY()));
    ASSERT_TRUE(back);
    EXPECT_NEAR(area(back->loops), 360, 1e-6);
    EXPECT_GT(signed_area(back->loops[0]), 0) << "seen from behind it runs counter-clockwise too";
}

TEST(FlatOutline, OfASectionIsWhatThePlaneCuts) {
    const Made made = plate();
    auto level = section_outline({*made.part().mesh}, plane_seen(Vec3::UnitZ(), {0, 0, 4}));
    ASSERT_TRUE(level) << level.error().text();
    EXPECT_NEAR(area(level->loops), plate_area, 0.1);
    auto upright = section_outline({*made.part().mesh}, plane_seen(-Vec3::UnitY(), {0, 1e-6, 0}));
    ASSERT_TRUE(upright);
    EXPECT_NEAR(area(upright->loops), (40 - 8) * 10, 0.05);
    // Two bodies, each by itself; nothing where the plane misses.
    auto two = section_outline({cube(10), cube(10, {20, 0, 0})}, plane_seen(Vec3::UnitZ(), {0, 0, 5}));
    ASSERT_TRUE(two);
    EXPECT_EQ(two->loops.size(), 2u);
    EXPECT_NEAR(area(two->loops), 200, 1e-6);
    EXPECT_FALSE(section_outline({cube(10)}, plane_seen(Vec3::UnitZ(), {0, 0, 50})));
    EXPECT_FALSE(section_outline({}, plane_seen(Vec3::UnitZ(), {0, 0, 5})));
}

TEST(FlatOutline, RefusesWhatIsNotFlatAndOtherEndings) {
    const Made made = make(json::array({step("cylinder", {{"diameter", 20}, {"height", 10}})}));
    const Tessellation& shape = made.body().tessellation();
    for (size_t f = 0; f < shape.faces.size(); ++f)
        if (shape.faces[f].kind == SurfaceKind::Cylinder) {
            auto outline = face_outline(shape, f);
            ASSERT_FALSE(outline);
            EXPECT_NE(outline.error().text().find("flat"), std::string::npos) << outline.error().text();
        }
    EXPECT_FALSE(face_outline(shape, 99));
    Folder folder;
    const std::vector<std::vector<Curve>> loops{{Curve::circle({0, 0}, 5)}};
    EXPECT_TRUE(write_flat(folder / "a.stl", loops));
    EXPECT_TRUE(write_flat(folder / "a.dxf", {}));
    EXPECT_FALSE(std::filesystem::exists(folder / "a.dxf"));
    EXPECT_TRUE(write_flat("/nonexistent/a.dxf", loops));
    EXPECT_FALSE(write_flat(folder / "a.svg", loops));
    // A circle alone has no lines; its area comes back.
    auto read = read_svg(read_file(folder / "a.svg").value_or(""));
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_NEAR(read_area(*read), pi * 25, 1e-3);
}

TEST(FlatOutline, ArcsThatRunClockwiseAndOtherCurvesAreKept) {
    // A bay: a half circle let into the right side, clockwise; an ellipse beside it becomes lines.
    const std::vector<Curve> bay{Curve::line({0, 0}, {20, 0}),          Curve::line({20, 0}, {20, 5}),
                                 Curve::arc({20, 10}, 5, -pi / 2, -pi), Curve::line({20, 15}, {20, 20}),
                                 Curve::line({20, 20}, {0, 20}),        Curve::line({0, 20}, {0, 0})};
    const std::vector<Curve> oval{Curve::ellipse({8, 10}, {4, 0}, 2, 0, 2 * pi)};
    const double wanted = 400 - pi * 25 / 2 - pi * 8;
    for (const auto& [read, format] :
         {std::pair(read_dxf(dxf_of({bay, oval})), "dxf"), std::pair(read_svg(svg_of({bay, oval})), "svg")}) {
        ASSERT_TRUE(read) << format << read.error().text();
        EXPECT_NEAR(read_area(*read), wanted, 0.2) << format;
    }
}

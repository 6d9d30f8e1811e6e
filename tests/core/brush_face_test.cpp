// A face made of what a brush went over: its area against the circle's, what it does with later steps, bad texts.
#include "made_project.h"
#include "mesh/soundness.h"
#include "steps/meshes/brush_face.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A plate of 60 x 40 x 4 in triangles: two facets on its top.
json plate_of_triangles() {
    return step("skew", {{"angle", "0.001 deg"}}, "triangles");
}

double brushed_mm2(const PartResult& part) {
    double area = 0;
    for (const FaceInfo& face : part.bodies[0].body.tessellation().faces)
        if (auto meaning = tag_meaning(face.primary()); meaning && meaning->step == part.steps.back().step)
            area += face.area_mm2;
    return area;
}

Made brushed_plate(const char* dabs, const char* finer = "0.4 mm") {
    return make({block(60, 40, 4), plate_of_triangles(), step("brush_face", {{"dabs", dabs}, {"finer", finer}})});
}

} // namespace

TEST(BrushFace, HasTheAreaOfItsDabs) {
    // A circle of 5: pi r^2; parted along it, none longer than 0.4.
    EXPECT_NEAR(brushed_mm2(brushed_plate("3 2 4 0 0 1 5").part()), pi * 25, 0.006 * pi * 25);
    // Two that touch nowhere, and a smaller one wiped out of the first.
    EXPECT_NEAR(brushed_mm2(brushed_plate("-15 0 4 0 0 1 5; 15 0 4 0 0 1 5; 15 0 4 0 0 1 2 off").part()),
                pi * (25 + 25 - 4), 0.01 * pi * 46);
    // The other side of the plate is not gone over by a brush that is wider than it is thick.
    const Made made = brushed_plate("0 0 4 0 0 1 8");
    EXPECT_NEAR(brushed_mm2(made.part()), pi * 64, 0.02 * pi * 64);
    EXPECT_NEAR(made.part().mass.volume_mm3, 60 * 40 * 4, 0.01) << "the surface stays where it is";
    EXPECT_NE(made.part().steps.back().says.find("2.01 cm²"), std::string::npos) << made.part().steps.back().says;
}

TEST(BrushFace, TakesFacetsAsTheyAreWhereNoneIsAskedFor) {
    const Made made = brushed_plate("3 -5 4 0 0 1 5", "0 mm");
    EXPECT_EQ(made.part().mesh->triangles.size(), 12u);
    EXPECT_NEAR(brushed_mm2(made.part()), 60 * 40 / 2.0, 1) << "one of the top's two";
}

TEST(BrushFace, IsMovedAsAnyOther) {
    const json brush = step("brush_face", {{"dabs", "0 0 4 0 0 1 6"}, {"finer", "0.4 mm"}}, "it");
    const Made before = make({block(60, 40, 4), plate_of_triangles(), brush});
    const auto& faces = before.body().tessellation().faces;
    size_t patch = 0;
    while (patch < faces.size() && faces[patch].centre.head<2>().norm() > 0.1) ++patch;
    for (size_t f = patch + 1; f < faces.size(); ++f) // the underside's middle lies there as well
        if (faces[f].area_mm2 < faces[patch].area_mm2) patch = f;
    const std::string picked = reference_text(make_reference(before.body(), patch, faces[patch].centre));
    const Made made =
        make({block(60, 40, 4), plate_of_triangles(), brush, step("move_faces", {{"faces", picked}, {"z", 2}})});
    ASSERT_EQ(made.says(), "");
    // Between a cylinder of the brush's radius and one wider by the facets round it, that slope.
    const double risen = made.part().mass.volume_mm3 - 60 * 40 * 4;
    EXPECT_GT(risen, 2 * pi * 36 * 0.97);
    EXPECT_LT(risen, 2 * pi * 6.6 * 6.6);
}

TEST(BrushFace, DoesNotHinderAHoleBesideIt) {
    // The small facets beside the hole would fold over when it is made wider: it is set in again.
    const json hole =
        step("cylinder", {{"diameter", 6}, {"height", 20}, {"at_x", 15}, {"at_z", -5}, {"does", "cut"}}, "hole");
    const json brush = step("brush_face", {{"dabs", "7 0 4 0 0 1 4"}});
    auto with = [&](double mm) {
        return make({block(60, 40, 4), hole, plate_of_triangles(), brush,
                     step("diameter", {{"faces", "side of hole"}, {"diameter", mm}})});
    };
    const double holes_mm3 = 60 * 40 * 4 - with(6).volume();
    for (double mm : {5.0, 7.5, 9.0}) {
        const Made made = with(mm);
        ASSERT_EQ(made.says(), "") << mm;
        EXPECT_NEAR(60 * 40 * 4 - made.volume(), holes_mm3 * mm * mm / 36, 0.02) << mm; // the area goes by its square
        EXPECT_TRUE(check_soundness(*made.part().mesh).closed);
    }
    // Named as it was: it can be set again.
    const Made twice = make({block(60, 40, 4), hole, plate_of_triangles(), brush,
                             step("diameter", {{"faces", "side of hole"}, {"diameter", 9}}),
                             step("diameter", {{"faces", "side of hole"}, {"diameter", 8}})});
    ASSERT_EQ(twice.says(), "");
    // Its rim has corners on the chords where small facets met it: measured narrower by some thousandths.
    EXPECT_NEAR(60 * 40 * 4 - twice.volume(), holes_mm3 * 64 / 36, 0.3);
}

TEST(BrushFace, NorABlindOneNorAPeg) {
    const json blind =
        step("cylinder", {{"diameter", 6}, {"height", 20}, {"at_x", 15}, {"at_z", 2}, {"does", "cut"}}, "hole");
    const json peg = step("cylinder", {{"diameter", 6}, {"height", 8}, {"at_x", -15}, {"at_z", 4}}, "peg");
    const json brush = step("brush_face", {{"dabs", "8 0 4 0 0 1 3.5; -8 0 4 0 0 1 3.5"}});
    auto with = [&](const char* face, double mm) {
        return make({block(60, 40, 4), blind, peg, plate_of_triangles(), brush,
                     step("diameter", {{"faces", face}, {"diameter", mm}})});
    };
    const double as_it_is = with("side of hole", 6).volume(), hole = pi * 9 * 2, post = pi * 9 * 8;
    const Made wider = with("side of hole", 9), thicker = with("side of peg", 9);
    ASSERT_EQ(wider.says() + thicker.says(), "");
    EXPECT_NEAR(wider.volume(), as_it_is - hole * (81 / 36.0 - 1), 0.003 * hole);
    EXPECT_NEAR(thicker.volume(), as_it_is + post * (81 / 36.0 - 1), 0.003 * post);
    for (const Made* made : {&wider, &thicker}) EXPECT_TRUE(check_soundness(*made->part().mesh).closed);
}

TEST(BrushFace, RefusesWhatIsNoBrush) {
    for (const char* bad : {"1 2 3", "x", "0 0 4 0 0 0 5", "0 0 4 0 0 1 0", "0 0 4 0 0 1 -3", "0 0 4 0 0 1 1e9",
                            "1e300 0 0 0 0 1 5", "nan 0 0 0 0 1 5", "0 0 4 0 0 1 5 on", "0 0 4 0 0 1 5 off 7 8; ;;x"})
        EXPECT_FALSE(read_dabs(bad)) << bad;
    std::string many;
    for (int i = 0; i < 20'001; ++i) many += "0 0 4 0 0 1 5;";
    EXPECT_FALSE(read_dabs(many));
    EXPECT_TRUE(read_dabs("")->empty());
    EXPECT_TRUE(read_dabs(" ; ")->empty());
    const std::vector<Dab> dabs{{Vec3(1.5, -2.25, 3), Vec3(0, 0, 1), 2.5, false},
                                {Vec3(0, 0, 0), Vec3(0, 1, 0), 100, true}};
    EXPECT_EQ(*read_dabs(text_of(dabs)), dabs);
}

TEST(BrushFace, SaysWhenNothingLiesThere) {
    const Made lost = brushed_plate("0 0 50 0 0 1 5");
    EXPECT_FALSE(lost.step(2).ok);
    EXPECT_NE(lost.part().steps.back().says.find("Nothing lies any more where the brush went"), std::string::npos)
        << lost.part().steps.back().says;
    const Made none = brushed_plate("");
    EXPECT_TRUE(none.step(2).ok);
    EXPECT_NE(none.part().steps.back().says.find("Nothing is brushed yet"), std::string::npos);
    // What is of faces has nothing to brush.
    const Made exact = make({block(60, 40, 4), step("brush_face", {{"dabs", "0 0 4 0 0 1 5"}})});
    EXPECT_FALSE(exact.step(1).ok);
    // Too fine for so wide a brush is refused, not tried.
    EXPECT_FALSE(brushed_plate("0 0 4 0 0 1 30", "0.001 mm").step(2).ok);
}

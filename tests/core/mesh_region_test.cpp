// Faces of meshes taken out, closed over, moved, pushed, made to size: against closed formulas of prisms.
#include "made_project.h"
#include "mesh/region.h"
#include "mesh/soundness.h"
#include "shape/body.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

constexpr Tag closing = 77;

/// A plate of 60 x 30 x 4 with two pegs of 5 at 29.87 mm from middle to middle, 6 high, and a hole of 8 between them.
const TriMesh& hanger() {
    static const TriMesh mesh = [] {
        auto peg = [](double x) {
            return step("cylinder", {{"diameter", 5}, {"height", 6}, {"at_x", x}, {"at_z", 4}},
                        x < 0 ? "left" : "right");
        };
        const Made m = make({block(60, 30, 4), peg(-15), peg(14.87),
                             step("cylinder", {{"diameter", 8}, {"height", 4}, {"does", "cut"}}, "hole")});
        EXPECT_EQ(m.says(), "");
        return welded(*m.part().mesh);
    }();
    return mesh;
}

/// Facets for which `wanted` holds of all three corners.
template <class Wanted> Facets facets_where(const TriMesh& mesh, Wanted wanted) {
    Facets facets;
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i)
        if (wanted(mesh.corner(i, 0)) && wanted(mesh.corner(i, 1)) && wanted(mesh.corner(i, 2))) facets.push_back(i);
    return facets;
}
double off_axis(const Vec3& p, double x) {
    return std::hypot(p.x() - x, p.y());
}
Facets peg_at(double x) {
    return facets_where(hanger(), [&](const Vec3& p) { return p.z() > 4 - 1e-6 && off_axis(p, x) < 2.6; });
}
Facets hole_wall() {
    return facets_where(hanger(), [](const Vec3& p) { return std::fabs(off_axis(p, 0) - 4) < 1e-3; });
}
double volume(const TriMesh& mesh) {
    return mass_properties(mesh).volume_mm3;
}
/// What a cylinder of the kernel's facets holds, from its own corners: n/2 r^2 sin(2 pi / n) a mm of height.
double peg_area() {
    const Facets peg = peg_at(-15);
    const Facets top = [&] {
        Facets f;
        for (uint32_t i : peg)
            if (hanger().area_vector(i).normalized().z() > 0.99) f.push_back(i);
        return f;
    }();
    double area = 0;
    for (uint32_t f : top) area += hanger().area_vector(f).norm() / 2;
    EXPECT_NEAR(area, pi * 6.25, 0.2);
    return area;
}
bool sound(const TriMesh& mesh) {
    return check_soundness(mesh).sound();
}

} // namespace

TEST(MeshRegion, APegBecomesABodyClosedFlatAtItsFoot) {
    const auto patch = closed_patch(hanger(), peg_at(-15), closing);
    ASSERT_TRUE(patch) << patch.error().text();
    EXPECT_FALSE(patch->hollow);
    EXPECT_NEAR(volume(patch->mesh), peg_area() * 6, 1e-6);
    EXPECT_TRUE(sound(patch->mesh));
    double closed = 0;
    for (size_t i = 0; i < patch->mesh.triangles.size(); ++i)
        if (patch->mesh.tags[i] == closing) closed += patch->mesh.area_vector(i).norm() / 2;
    EXPECT_NEAR(closed, peg_area(), 1e-6) << "the foot alone is new";
}

TEST(MeshRegion, AHolesWallBecomesWhatFillsIt) {
    const auto patch = closed_patch(hanger(), hole_wall(), closing);
    ASSERT_TRUE(patch) << patch.error().text();
    EXPECT_TRUE(patch->hollow);
    EXPECT_NEAR(volume(patch->mesh), pi * 16 * 4, 2);
    EXPECT_GT(volume(patch->mesh), 0) << "it faces outward";
    EXPECT_TRUE(sound(patch->mesh));
}

TEST(MeshRegion, RimsInOnePlaneAreClosedByARing) {
    // A pipe without its two ends: outside and inside wall, each with two rims.
    const Made m = make({step("cylinder", {{"diameter", 20}, {"height", 10}}),
                         step("cylinder", {{"diameter", 12}, {"height", 10}, {"does", "cut"}}, "bore")});
    const TriMesh pipe = welded(*m.part().mesh);
    Facets walls;
    for (uint32_t i = 0; i < pipe.triangles.size(); ++i)
        if (std::fabs(pipe.area_vector(i).normalized().z()) < 0.1) walls.push_back(i);
    const auto patch = closed_patch(pipe, walls, closing);
    ASSERT_TRUE(patch) << patch.error().text();
    EXPECT_NEAR(volume(patch->mesh), volume(pipe), 1e-6);
    EXPECT_TRUE(sound(patch->mesh));
}

TEST(MeshRegion, WhatIsTakenAwayIsClosedOverInTheFaceAround) {
    Facets both = peg_at(-15);
    for (uint32_t f : peg_at(14.87)) both.push_back(f);
    for (uint32_t f : hole_wall()) both.push_back(f);
    const auto plate = without_region(hanger(), both, closing);
    ASSERT_TRUE(plate) << plate.error().text();
    EXPECT_NEAR(volume(*plate), 60 * 30 * 4, 1e-6);
    EXPECT_TRUE(sound(*plate));
    const Tessellation faces = segment_mesh(*plate);
    EXPECT_EQ(faces.faces.size(), 6u) << "a plain plate again: what closes it belongs to its faces";
}

TEST(MeshRegion, FlatFacesAloneEncloseNothing) {
    const Facets top = facets_where(hanger(), [](const Vec3& p) { return std::fabs(p.z() - 10) < 1e-6; });
    const auto patch = closed_patch(hanger(), top, closing);
    ASSERT_FALSE(patch);
    EXPECT_NE(patch.error().sentence.find("enclose nothing"), std::string::npos);
}

TEST(MeshRegion, APegIsShortenedAndMovedAndItsNeighboursFollow) {
    const Facets top = facets_where(hanger(), [](const Vec3& p) { return std::fabs(p.z() - 10) < 1e-6 && p.x() < 0; });
    const auto shorter =
        moved_region(hanger(), top, moved_by([](const Vec3& p) -> Vec3 { return p - Vec3(0, 0, 1.5); }), 0);
    ASSERT_TRUE(shorter) << shorter.error().text();
    EXPECT_NEAR(volume(hanger()) - volume(*shorter), 1.5 * peg_area(), 1e-6);
    EXPECT_TRUE(sound(*shorter));
    const auto aside =
        moved_region(hanger(), peg_at(-15), moved_by([](const Vec3& p) -> Vec3 { return p + Vec3(-0.13, 0, 0); }), 0);
    ASSERT_TRUE(aside) << aside.error().text();
    EXPECT_NEAR(volume(*aside), volume(hanger()), 1e-6);
    EXPECT_TRUE(sound(*aside));
}

TEST(MeshRegion, WhatWouldFoldIsRefusedAndSetInAgainInstead) {
    auto far = [](const Vec3& p) -> Vec3 { return p + Vec3(22, 0, 0); }; // over the hole, beyond it
    const auto folded = moved_region(hanger(), peg_at(-15), moved_by(far), 0);
    ASSERT_FALSE(folded);
    EXPECT_NE(folded.error().sentence.find("fold over"), std::string::npos);
    EXPECT_TRUE(folded.error().point);
    const auto again = set_in_again(hanger(), peg_at(-15), far, closing);
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_TRUE(sound(*again));
    EXPECT_NEAR(volume(*again), volume(hanger()), 1e-3);
    // The hole, set in elsewhere.
    auto behind = [](const Vec3& p) -> Vec3 { return p + Vec3(0, 9, 0); };
    const auto hole = set_in_again(hanger(), hole_wall(), behind, closing);
    ASSERT_TRUE(hole) << hole.error().text();
    EXPECT_TRUE(sound(*hole));
    EXPECT_NEAR(volume(*hole), volume(hanger()), 1e-3);
}

TEST(MeshRegion, PlanesArePushedAndMeetAgainAtCorners) {
    const TriMesh box = box_mesh({0, 0, 0}, {10, 20, 30});
    Facets all(12);
    for (uint32_t i = 0; i < 12; ++i) all[i] = i;
    for (double by : {1.0, -2.0}) {
        const auto pushed = moved_region(box, all, pushed_by(by), 0);
        ASSERT_TRUE(pushed);
        EXPECT_NEAR(volume(*pushed), (10 + 2 * by) * (20 + 2 * by) * (30 + 2 * by), 1e-9);
    }
    // A round wall keeps its form: the flats of a prism of n sides stand out by as much.
    const auto wider = moved_region(hanger(), hole_wall(), pushed_by(-0.5), 0);
    ASSERT_TRUE(wider);
    const auto form = form_of(*wider, hole_wall());
    ASSERT_TRUE(form);
    EXPECT_EQ(form->kind, Feature::Kind::Cylinder);
    EXPECT_NEAR(form->diameter_mm, 9, 0.01);
}

TEST(MeshRegion, NeighboursFollowOverAReachAndNoFarther) {
    const Made m = make({block(60, 60, 2), step("cylinder", {{"diameter", 6}, {"height", 1}, {"at_z", 2}}, "button")});
    const TriMesh mesh = welded(*m.part().mesh);
    const Facets button =
        facets_where(mesh, [](const Vec3& p) { return p.z() > 2 - 1e-9 && p.head<2>().norm() < 3.01; });
    const auto lifted =
        moved_region(mesh, button, moved_by([](const Vec3& p) -> Vec3 { return p + Vec3(0, 0, 2); }), 10);
    ASSERT_TRUE(lifted) << lifted.error().text();
    EXPECT_TRUE(sound(*lifted));
    double highest_far = 0, at_half = 0;
    for (const Vec3& v : lifted->vertices) {
        const double r = v.head<2>().norm();
        if (r > 13.5 && v.z() > 1) highest_far = std::max(highest_far, v.z());
        if (std::fabs(r - 8) < 0.6 && v.z() > 1) at_half = std::max(at_half, v.z());
    }
    EXPECT_NEAR(highest_far, 2, 1e-9) << "beyond the reach nothing moves";
    EXPECT_NEAR(at_half, 3, 0.5) << "half way it has half of the move: (1 + cos(pi/2)) / 2";
    // By the integral of a cosine bell round a disc: 2 pi h int_0^R (r0 + s) (1 + cos(pi s / R)) / 2 ds.
    const double r0 = 3, R = 10, h = 2;
    const double bell = 2 * pi * h * (r0 * R / 2 + R * R / 4 - R * R / (pi * pi));
    EXPECT_NEAR(volume(*lifted) - volume(mesh), pi * r0 * r0 * h + bell, 0.08 * bell)
        << "ways along edges are a little longer than straight ones";
}

TEST(MeshRegion, FormsAreToldWithTheirAxes) {
    const auto hole = form_of(hanger(), hole_wall());
    ASSERT_TRUE(hole);
    EXPECT_EQ(hole->kind, Feature::Kind::Cylinder);
    EXPECT_TRUE(hole->inside);
    EXPECT_NEAR(hole->diameter_mm, 8, 1e-3);
    EXPECT_FALSE(form_of(hanger(), peg_at(-15))) << "a side with its top is no one form";
}

namespace {

/// A made part whose faces have words, as triangles: skewed by next to nothing.
json on_triangles(const json& steps, const json& last) {
    json all = steps;
    all.push_back(step("skew", {{"angle", "0.001 deg"}}, "triangles"));
    all.push_back(last);
    return all;
}
json peg(const char* name, double x) {
    return step("cylinder", {{"diameter", 5}, {"height", 6}, {"at_x", x}, {"at_z", 4}}, name);
}

} // namespace

TEST(MeshFaces, ADiameterIsTypedAndTold) {
    auto at = [](const char* text) {
        return make(
            on_triangles({block(60, 30, 4), peg("left", -15), peg("right", 15)},
                         step("diameter", {{"faces", "side of left; side of right"}, {"diameter", text}}, "it")));
    };
    const Made told = at("0 mm");
    EXPECT_EQ(told.says(), "");
    EXPECT_NE(told.part().steps.back().says.find("Now ⌀5 mm"), std::string::npos) << told.part().steps.back().says;
    const Made smaller = at("4.85 mm");
    ASSERT_EQ(smaller.says(), "");
    const double was = told.part().mass.volume_mm3 - 60 * 30 * 4, is = smaller.part().mass.volume_mm3 - 60 * 30 * 4;
    EXPECT_NEAR(is / was, (4.85 * 4.85) / 25, 1e-3) << "as the squares of the diameters";
    // Wider than the plate has room for: the facets beside them would fold over, and they are set in again. Two discs
    // of 40, 30 apart, have 2 r^2 acos(d / 2 r) - d / 2 sqrt(4 r^2 - d^2) in common.
    const Made beyond = at("40 mm");
    ASSERT_EQ(beyond.says(), "");
    const double common = 800 * std::acos(0.75) - 15 * std::sqrt(700.0), high = was / (2 * std::numbers::pi * 6.25);
    EXPECT_NEAR(beyond.part().mass.volume_mm3 - 60 * 30 * 4, (2 * std::numbers::pi * 400 - common) * high,
                0.01 * 2500 * high);
    EXPECT_TRUE(check_soundness(*beyond.part().mesh).closed);
}

TEST(MeshFaces, TheSameOnExactBodiesStaysExact) {
    const Made m = make({block(60, 30, 4), peg("left", -15),
                         step("cylinder", {{"diameter", 8}, {"height", 4}, {"does", "cut"}}, "hole"),
                         step("diameter", {{"faces", "side of hole; side of left"}, {"diameter", "7 mm"}}, "it")});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.part().mass.volume_mm3, 60 * 30 * 4 - pi * 3.5 * 3.5 * 4 + pi * 3.5 * 3.5 * 6, 1e-6);
}

TEST(MeshFaces, PegsAreSetApartMiddleToMiddle) {
    auto at = [](const char* distance) {
        return make(on_triangles(
            {block(60, 30, 4), peg("left", -15), peg("right", 14.87)},
            step("set_apart",
                 {{"faces", "side of left; top of left"}, {"from", "side of right"}, {"distance", distance}}, "it")));
    };
    const Made told = at("0 mm");
    EXPECT_NE(told.part().steps.back().says.find("29.87 mm apart"), std::string::npos) << told.part().steps.back().says;
    const Made m = at("30 mm");
    ASSERT_EQ(m.says(), "");
    double least = 0;
    for (const Vec3& v : m.part().mesh->vertices)
        if (v.z() > 9) least = std::min(least, v.x());
    EXPECT_NEAR(least, 14.87 - 30 - 2.5, 0.01) << "the left one moved";
    EXPECT_NEAR(m.part().mass.volume_mm3, told.part().mass.volume_mm3, 1e-3);
}

TEST(MeshFaces, FarAwayItIsSetInAgainAcrossAnotherHole) {
    const Made m = make(on_triangles(
        {block(60, 30, 4), peg("left", -15),
         step("cylinder", {{"diameter", 8}, {"height", 4}, {"does", "cut"}}, "hole")},
        step("move_faces", {{"faces", "side of left; top of left"}, {"x", "30 mm"}, {"turn", "90 deg"}}, "it")));
    ASSERT_EQ(m.says(), "");
    EXPECT_TRUE(check_soundness(*m.part().mesh).sound());
    double most = 0;
    for (const Vec3& v : m.part().mesh->vertices)
        if (v.z() > 9) most = std::max(most, v.x());
    EXPECT_NEAR(most, 17.5, 0.01);
}

TEST(MeshFaces, ABodyIsMadeOfFacesAndTheRestGoes) {
    const Made m = make({block(60, 30, 4), peg("left", -15),
                         step("faces_body", {{"faces", "side of left; top of left"}, {"rest", "goes"}}, "it")});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.part().mass.volume_mm3, pi * 6.25 * 6, 1);
    const Made flat = make({block(60, 30, 4), step("faces_body", {{"faces", "top of b"}}, "it")});
    EXPECT_NE(flat.says().find("enclose nothing"), std::string::npos) << flat.says();
}

TEST(MeshFaces, PushedAndRemovedOnTrianglesToo) {
    const Made pushed =
        make(on_triangles(json::array({block(60, 30, 4)}), step("push", {{"faces", "top of b"}, {"by", "2 mm"}})));
    ASSERT_EQ(pushed.says(), "");
    EXPECT_NEAR(pushed.part().mass.volume_mm3, 60 * 30 * 6, 0.1);
    const Made gone = make(on_triangles({block(60, 30, 4), peg("left", -15)},
                                        step("remove_faces", {{"faces", "side of left; top of left"}})));
    ASSERT_EQ(gone.says(), "");
    EXPECT_NEAR(gone.part().mass.volume_mm3, 60 * 30 * 4, 0.1);
}

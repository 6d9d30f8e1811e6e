// Flat roofs told apart: bridges with their span by construction, ledges, roofs round a hole; gaps of known width.
#include "check/bridges.h"
#include "check/inspection.h"
#include "mesh/combine.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;

namespace {

TriMesh less(const TriMesh& body, const std::vector<TriMesh>& away) {
    std::vector<TriMesh> operands{body};
    operands.insert(operands.end(), away.begin(), away.end());
    auto made = combine_meshes(Operation::Cut, operands);
    EXPECT_TRUE(made) << (made ? "" : made.error().text());
    return made ? *made : TriMesh{};
}

/// A prism of n sides along z.
TriMesh round(double radius, double z0, double z1, int n = 96, const Vec3& at = Vec3::Zero()) {
    TriMesh mesh;
    for (double z : {z0, z1})
        for (int i = 0; i < n; ++i) {
            const double a = 2 * std::numbers::pi * i / n;
            mesh.vertices.push_back(at + Vec3(radius * std::cos(a), radius * std::sin(a), z));
        }
    const auto m = uint32_t(n);
    for (uint32_t i = 0; i < m; ++i) {
        const uint32_t j = (i + 1) % m;
        mesh.triangles.push_back({i, j, m + j});
        mesh.triangles.push_back({i, m + j, m + i});
        if (i > 0 && j > 0) {
            mesh.triangles.push_back({0, j, i});
            mesh.triangles.push_back({m, m + i, m + j});
        }
    }
    return mesh;
}

/// Two legs and a plate on them: the way between the legs is `span`.
TriMesh table(double span, double wide = 12) {
    return less(box_mesh({0, 0, 0}, {span + 10, wide, 20}), {box_mesh({5, -1, -1}, {5 + span, wide + 1, 16})});
}

std::vector<Finding> of_kind(const Inspection& inspection, FindingKind kind) {
    std::vector<Finding> found;
    for (const Finding& f : inspection.findings)
        if (f.kind == kind) found.push_back(f);
    return found;
}

} // namespace

TEST(Bridges, AnOpenBridgeIsAsWideAsTheWayBetweenItsLegs) {
    for (double span : {4.0, 20.0, 55.5})
        for (double turn : {0.0, 17.0, 45.0, 123.4}) {
            const auto roofs = find_roofs(test::turned(table(span), turn, Vec3::UnitZ()));
            ASSERT_EQ(roofs.size(), 1u) << span;
            EXPECT_NEAR(roofs[0].area_mm2, span * 12, 1e-6);
            ASSERT_TRUE(roofs[0].span_mm) << span << " turned by " << turn;
            EXPECT_NEAR(*roofs[0].span_mm, span, 0.01) << turn;
            const double along =
                std::fabs(roofs[0].along.dot(Vec3(std::cos(radians(turn)), std::sin(radians(turn)), 0)));
            EXPECT_NEAR(along, 1, 1e-6);
            EXPECT_FALSE(roofs[0].held_around);
        }
}

TEST(Bridges, ThePocketOfACeilingSpansItsNarrowWay) {
    // Closed all round: the lines go the short way.
    const TriMesh body = less(box_mesh({0, 0, 0}, {50, 40, 20}), {box_mesh({5, 10, -1}, {45, 28, 12})});
    auto roofs = find_roofs(body);
    ASSERT_EQ(roofs.size(), 1u);
    EXPECT_TRUE(roofs[0].held_around);
    EXPECT_NEAR(*roofs[0].span_mm, 18, 0.01);
    // A blind hole: every way is about the diameter.
    roofs = find_roofs(less(box_mesh({-20, -20, 0}, {20, 20, 20}), {round(7, -1, 12)}));
    ASSERT_EQ(roofs.size(), 1u);
    EXPECT_NEAR(*roofs[0].span_mm, 14, 0.02);
}

TEST(Bridges, LedgesAndRoofsRoundAHoleAreNone) {
    // A ledge is held on one side only.
    TriMesh ledge = less(box_mesh({0, 0, 0}, {30, 20, 20}), {box_mesh({12, -1, -1}, {31, 21, 15})});
    ASSERT_EQ(find_roofs(ledge).size(), 1u);
    EXPECT_FALSE(find_roofs(ledge)[0].span_mm);
    // Under the head of a screw: half of the lines end at the hole.
    TriMesh counterbored = less(box_mesh({-15, -15, 0}, {15, 15, 20}), {round(5, -1, 6), round(2.5, -1, 21)});
    ASSERT_EQ(find_roofs(counterbored).size(), 1u);
    EXPECT_FALSE(find_roofs(counterbored)[0].span_mm);
    // A small hole in a wide bridge leaves it one.
    TriMesh holed = less(table(30, 30), {round(1.5, 10, 21, 48, {20, 15, 0})});
    ASSERT_EQ(find_roofs(holed).size(), 1u);
    ASSERT_TRUE(find_roofs(holed)[0].span_mm);
    EXPECT_NEAR(*find_roofs(holed)[0].span_mm, 30, 0.01);
    EXPECT_TRUE(find_roofs(test::sphere(10, 40)).size() <= 1u);
    EXPECT_TRUE(find_roofs(TriMesh{}).empty());
    EXPECT_TRUE(find_roofs(test::cube(10)).empty()) << "what lies on the bed is no roof";
}

TEST(Bridges, FindingsGoByTheLimitOfTheCard) {
    InspectionOptions options;
    options.bridge_limit_mm = 10;
    Inspection narrow = inspect(table(8), options);
    EXPECT_NEAR(narrow.widest_bridge_mm.value_or(0), 8, 0.01);
    EXPECT_NEAR(narrow.overhang_area_mm2, 8 * 12, 1e-6) << "it hangs, by the contract";
    EXPECT_TRUE(of_kind(narrow, FindingKind::Hanging).empty()) << "but it can be printed";
    EXPECT_TRUE(of_kind(narrow, FindingKind::Bridge).empty());
    Inspection wide = inspect(table(24), options);
    EXPECT_EQ(of_kind(wide, FindingKind::Bridge).size(), 1u);
    EXPECT_NE(of_kind(wide, FindingKind::Bridge)[0].says.find("24 mm"), std::string::npos)
        << of_kind(wide, FindingKind::Bridge)[0].says;
    EXPECT_NEAR(of_kind(wide, FindingKind::Bridge)[0].where.z(), 16, 1e-9);
    EXPECT_TRUE(of_kind(wide, FindingKind::Hanging).empty()) << "told once";
    options.bridge_limit_mm = 30;
    EXPECT_TRUE(inspect(table(24), options).findings.empty());
    // A ledge beside a bridge: what is said keeps them apart.
    TriMesh both = less(table(8), {box_mesh({-1, -1, -1}, {3, 13, 10})});
    Inspection mixed = inspect(both, options);
    ASSERT_EQ(of_kind(mixed, FindingKind::Hanging).size(), 1u);
    EXPECT_NE(of_kind(mixed, FindingKind::Hanging)[0].says.find("96 mm² of it are bridges of up to 8 mm"),
              std::string::npos)
        << of_kind(mixed, FindingKind::Hanging)[0].says;
}

TEST(Gaps, SlotsAreAsNarrowAsTheyWereCut) {
    for (double slot : {0.12, 0.2, 0.45, 0.9}) {
        const TriMesh body = less(box_mesh({0, 0, 0}, {30, 20, 20}), {box_mesh({10, -1, 5}, {10 + slot, 21, 21})});
        auto gaps = measure_gaps(body, 0.3);
        ASSERT_TRUE(gaps);
        ASSERT_TRUE(gaps->least_mm) << slot;
        EXPECT_NEAR(*gaps->least_mm, slot, 0.01);
        EXPECT_NEAR(gaps->thin_area_mm2, slot < 0.3 ? 2 * 20 * 15 : 0, 20 * 2.0) << slot;
    }
    auto none = measure_gaps(test::cube(20), 0.3);
    ASSERT_TRUE(none);
    EXPECT_FALSE(none->least_mm);
    // Two boxes that touch are one piece of plastic.
    TriMesh touching = box_mesh({0, 0, 0}, {10, 10, 10});
    append(touching, box_mesh({10, 0, 0}, {20, 10, 10}));
    auto touch = measure_gaps(touching, 0.3);
    ASSERT_TRUE(touch);
    EXPECT_FALSE(touch->least_mm);
    // Two that stand 0.15 apart.
    TriMesh apart = box_mesh({0, 0, 0}, {10, 10, 10});
    append(apart, box_mesh({10.15, 0, 0}, {20, 10, 10}));
    EXPECT_NEAR(measure_gaps(apart, 0.3)->least_mm.value_or(0), 0.15, 0.005);
    InspectionOptions options;
    options.walls = true;
    options.min_gap_mm = 0.2;
    EXPECT_EQ(of_kind(inspect(apart, options), FindingKind::Narrow).size(), 1u);
    options.min_gap_mm = 0.1;
    EXPECT_TRUE(of_kind(inspect(apart, options), FindingKind::Narrow).empty());
}

/// Only where something is opposite are facets made small: what is narrow is found wherever it hides in a large part.
TEST(Gaps, AreFoundInLargePartsAtSmallPlacesAndBetweenRoundOnes) {
    const TriMesh plate = box_mesh({0, 0, 0}, {120, 80, 6});
    const TriMesh nicked = less(plate, {box_mesh({61.3, 40.1, 4}, {61.5, 42.1, 7})});
    auto nick = measure_gaps(nicked, 0.3);
    ASSERT_TRUE(nick && nick->least_mm);
    EXPECT_NEAR(*nick->least_mm, 0.2, 0.01);
    EXPECT_NEAR(nick->thin_area_mm2, 2 * 2 * 2, 1.5);
    EXPECT_LT((nick->thin_at - Vec3(61.4, 41.1, 5)).norm(), 2) << nick->thin_at.transpose();
    EXPECT_FALSE(measure_gaps(plate, 0.3)->least_mm);
    // A blade of 2 mm over the plate, 0.25 above it.
    TriMesh under = plate;
    append(under, box_mesh({19, 10, 6.25}, {21, 70, 26}));
    auto blade = measure_gaps(under, 0.3);
    ASSERT_TRUE(blade && blade->least_mm);
    EXPECT_NEAR(*blade->least_mm, 0.25, 0.01);
    EXPECT_NEAR(blade->thin_area_mm2, 2 * 2 * 60, 2 * 60.0) << "the plate's facets at its sides count or do not";
    // A ball in a hollow, 0.2 all round: the areas of two spheres (closed formula).
    TriMesh ball = box_mesh({-15, -15, -15}, {15, 15, 15});
    append(ball, test::inside_out(test::sphere(10, 40)));
    append(ball, test::sphere(9.8, 40));
    auto round = measure_gaps(ball, 0.3);
    ASSERT_TRUE(round && round->least_mm);
    EXPECT_NEAR(*round->least_mm, 0.2, 0.02);
    const double area = 4 * std::numbers::pi * (10 * 10 + 9.8 * 9.8);
    EXPECT_NEAR(round->thin_area_mm2, area, 0.02 * area);
}

#include "check/footing.h"
#include "check/inspection.h"
#include "check/overhang.h"
#include "check/unit_guess.h"
#include "fit/contacts.h"
#include "mesh/mend.h"
#include "test_meshes.h"

using namespace lp;
using test::cube;

TEST(Soundness, ACubeIsSound) {
    Soundness s = check_soundness(test::soup(cube(20)));
    EXPECT_EQ(s.triangles, 12u);
    EXPECT_EQ(s.vertices, 8u);
    EXPECT_EQ(s.shells, 1u);
    EXPECT_TRUE(s.sound());
}
TEST(Soundness, AMissingFacetIsOneHoleOfThreeEdges) {
    TriMesh mesh = cube(20);
    mesh.triangles.erase(mesh.triangles.begin() + 4);
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.open_edges.count, 3u);
    EXPECT_EQ(s.holes.count, 1u);
    EXPECT_FALSE(s.closed);
}
TEST(Soundness, TwoHolesThatMeetAtACornerShareOneBoundary) { // as a walk along the surface's rim goes round both
    TriMesh mesh = test::sphere(10, 10);
    // Two facets that share a corner, not an edge.
    size_t first = 40, second = 0;
    for (size_t j = 0; j < mesh.triangles.size() && !second; ++j) {
        int shared = 0;
        for (uint32_t v : mesh.triangles[first])
            for (uint32_t w : mesh.triangles[j]) shared += v == w;
        if (shared == 1) second = j;
    }
    mesh.triangles.erase(mesh.triangles.begin() + long(std::max(first, second)));
    mesh.triangles.erase(mesh.triangles.begin() + long(std::min(first, second)));
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.open_edges.count, 6u);
    EXPECT_EQ(s.holes.count, 1u);
}
TEST(Soundness, OneTurnedFacetIsFlippedOnceAndThreeEdgesDisagree) {
    TriMesh mesh = cube(20);
    std::swap(mesh.triangles[3][1], mesh.triangles[3][2]);
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.flipped.count, 1u);
    EXPECT_EQ(s.inconsistent_edges.count, 3u);
    EXPECT_FALSE(s.inside_out);
    EXPECT_TRUE(s.closed);
}
TEST(Soundness, AWhollyTurnedShellIsInsideOutAndNotFlipped) {
    Soundness s = check_soundness(test::inside_out(cube(20)));
    EXPECT_TRUE(s.inside_out);
    EXPECT_EQ(s.flipped.count, 0u);
}
TEST(Soundness, DoubledFacetsAreSetAside) {
    TriMesh mesh = cube(20);
    mesh.triangles.push_back(mesh.triangles[0]);
    mesh.triangles.push_back(
        {mesh.triangles[1][0], mesh.triangles[1][2], mesh.triangles[1][1]}); // also the other way round
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.duplicate.count, 2u);
    EXPECT_TRUE(s.closed);
    EXPECT_EQ(s.triangles, 14u);
}
TEST(Soundness, FacetsWithoutAreaAndNonFiniteOnesAreSetAside) {
    TriMesh mesh = cube(20);
    auto base = uint32_t(mesh.vertices.size());
    for (double t : {0.0, 5.0, 10.0}) mesh.vertices.push_back({t, t, t}); // in a line
    mesh.triangles.push_back({base, base + 1, base + 2});
    mesh.triangles.push_back({0, 1, 1});
    mesh.vertices.push_back({std::nan(""), 0, 0});
    mesh.triangles.push_back({0, 1, base + 3});
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.degenerate.count, 2u);
    EXPECT_EQ(s.nonfinite.count, 1u);
    EXPECT_TRUE(s.closed);
}
TEST(Soundness, CubesThatShareAnEdgeHaveOneCrowdedEdge) {
    TriMesh mesh = cube(10);
    append(mesh, cube(10, {10, 10, 0}));
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.nonmanifold_edges.count, 1u);
    EXPECT_EQ(s.nonmanifold_vertices.count, 0u);
}
TEST(Soundness, CubesThatShareACornerPinchThere) {
    TriMesh mesh = cube(10);
    append(mesh, cube(10, {10, 10, 10}));
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.nonmanifold_vertices.count, 1u);
    EXPECT_EQ(s.nonmanifold_vertices.where, Vec3(10, 10, 10));
    EXPECT_EQ(s.shells, 2u);
}
TEST(Soundness, ShellsInsideShellsAreVoidsOrHidden) {
    TriMesh hollow = cube(30), filled = cube(30);
    append(hollow, test::inside_out(cube(10, {10, 10, 10})));
    append(filled, cube(10, {10, 10, 10}));
    Soundness h = check_soundness(hollow), f = check_soundness(filled);
    EXPECT_EQ(h.cavities.count, 1u);
    EXPECT_EQ(h.inner_shells.count, 0u);
    EXPECT_EQ(f.inner_shells.count, 1u);
    EXPECT_EQ(f.cavities.count, 0u);
    EXPECT_TRUE(h.sound());
    EXPECT_FALSE(f.sound());
}
TEST(Soundness, AnIslandInAVoidIsNeither) {
    TriMesh mesh = cube(30);
    append(mesh, test::inside_out(cube(20, {5, 5, 5})));
    append(mesh, cube(10, {10, 10, 10}));
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.cavities.count, 1u);
    EXPECT_EQ(s.inner_shells.count, 0u);
}
TEST(Soundness, OverlappingShellsAreBothCounted) {
    TriMesh mesh = cube(10);
    append(mesh, cube(10, {5, 5, 5}));
    append(mesh, cube(10, {50, 0, 0}));
    Soundness s = check_soundness(mesh);
    EXPECT_EQ(s.overlapping_shells->count, 2u);
    EXPECT_GT(s.self_intersecting->count, 0u);
}
TEST(Soundness, CountsDoNotDependOnWhereOrHowItLies) {
    TriMesh mesh = cube(10);
    append(mesh, test::inside_out(cube(4, {3, 3, 3})));
    mesh.triangles.erase(mesh.triangles.begin() + 2);
    Soundness a = check_soundness(mesh),
              b = check_soundness(test::moved_by(test::turned(mesh, 77, {1, 1, 3}), {300, -20, 5}));
    EXPECT_EQ(a.open_edges.count, b.open_edges.count);
    EXPECT_EQ(a.shells, b.shells);
    EXPECT_EQ(a.holes.count, b.holes.count);
}
TEST(Soundness, StopsOnRequest) {
    Task task;
    task.cancel.cancel();
    Soundness s = check_soundness(test::sphere(10, 60), {}, task);
    EXPECT_FALSE(s.self_intersecting);
}

TEST(MassProperties, FollowTheFormulas) {
    MassProperties m = mass_properties(cube(20, {100, -50, 7}));
    EXPECT_NEAR(m.volume_mm3, 8000, 1e-9); // tables.md: signed tetrahedra, cube 20
    EXPECT_NEAR(m.area_mm2, 2400, 1e-9);
    EXPECT_NEAR((m.centre - Vec3(110, -40, 17)).norm(), 0, 1e-9);
}

TEST(Mend, AFlippedPatchIsTurnedBackAndVolumeStays) {
    TriMesh mesh = test::sphere(10, 16);
    double volume = mass_properties(mesh).volume_mm3;
    for (size_t i = 0; i < 60; ++i) std::swap(mesh.triangles[i][1], mesh.triangles[i][2]);
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    EXPECT_TRUE(check_soundness(mended->mesh).sound());
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, volume, 1e-9);
    ASSERT_EQ(mended->cures.size(), 1u);
    EXPECT_EQ(mended->cures[0].kind, "turn");
    EXPECT_EQ(mended->cures[0].count, 60u);
    EXPECT_EQ(mended->largest_move_mm, 0);
}
TEST(Mend, AMissingFacetIsFilledAndTheCubeIsWhole) {
    TriMesh mesh = cube(20);
    mesh.triangles.erase(mesh.triangles.begin());
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    EXPECT_TRUE(check_soundness(mended->mesh).sound());
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 8000, 1e-9);
}
TEST(Mend, ABigRoundHoleIsFilled) {
    TriMesh mesh = test::sphere(10, 24);
    std::erase_if(mesh.triangles, [&](const Triangle& t) {
        return mesh.vertices[t[0]].z() > 5 && mesh.vertices[t[1]].z() > 5 && mesh.vertices[t[2]].z() > 5;
    });
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    EXPECT_TRUE(check_soundness(mended->mesh).closed);
    // What is gone is a cap: V = pi h^2 (3R - h) / 3 (tables.md 10) with the plane where the facets end.
    double top = bounding_box(mended->mesh).max().z(), h = 10 - top;
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3,
                mass_properties(test::sphere(10, 24)).volume_mm3 - std::numbers::pi * h * h * (30 - h) / 3, 10);
}
TEST(Mend, CornersThatLieApartByLessThanTheToleranceAreWelded) {
    TriMesh mesh = test::soup(cube(20));
    for (size_t i = 0; i < mesh.vertices.size(); ++i)
        mesh.vertices[i] += Vec3(0.001 * double(i % 3), 0.001 * double(i % 5), 0);
    EXPECT_FALSE(check_soundness(mesh).closed);
    auto mended = mend(mesh, {0.02});
    ASSERT_TRUE(mended);
    EXPECT_TRUE(check_soundness(mended->mesh).sound());
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 8000, 10);
    EXPECT_LE(mended->largest_move_mm, 0.02);
    EXPECT_GT(mended->largest_move_mm, 0);
}
TEST(Mend, AnInsideOutShellIsTurnedOutwardAndItsVoidStaysAVoid) {
    TriMesh mesh = cube(30);
    append(mesh, test::inside_out(cube(10, {10, 10, 10})));
    auto mended = mend(test::inside_out(mesh));
    ASSERT_TRUE(mended);
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 27000 - 1000, 1e-9);
}
TEST(Mend, CubesThatShareAnEdgeArePartedForGood) {
    TriMesh mesh = cube(10);
    append(mesh, cube(10, {10, 10, 0}));
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    Soundness s = check_soundness(test::soup(mended->mesh)); // as a file would hold it
    EXPECT_EQ(s.nonmanifold_edges.count, 0u);
    EXPECT_TRUE(s.closed);
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 2000, 0.1);
}
TEST(Mend, AnInnerSheetThatBoundsNothingIsDropped) {
    TriMesh mesh = box_mesh({0, 0, 0}, {10, 10, 10});
    append(mesh,
           box_mesh({0, 0, 10}, {10, 10, 20})); // stacked: the plane between them is there twice, facing both ways
    std::erase_if(mesh.triangles, [&](const Triangle& t) { // keep one of the two sheets
        bool between = true;
        for (uint32_t v : t) between = between && mesh.vertices[v].z() == 10;
        return between &&
               (mesh.vertices[t[1]] - mesh.vertices[t[0]]).cross(mesh.vertices[t[2]] - mesh.vertices[t[0]]).z() < 0;
    });
    EXPECT_GT(check_soundness(mesh).nonmanifold_edges.count, 0u);
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    Soundness s = check_soundness(mended->mesh);
    EXPECT_TRUE(s.closed);
    EXPECT_EQ(s.nonmanifold_edges.count, 0u);
    EXPECT_NEAR(std::fabs(mass_properties(mended->mesh).volume_mm3), 2000, 0.5);
}
TEST(Mend, ACornerOnAnEdgeIsSplitIn) {
    // A cube whose top is cut into a finer patch than its walls: T-joints along one edge, closed by a facet without
    // area.
    TriMesh mesh = cube(20);
    std::erase_if(mesh.triangles, [&](const Triangle& t) {
        return mesh.vertices[t[0]].z() == 20 && mesh.vertices[t[1]].z() == 20 && mesh.vertices[t[2]].z() == 20;
    });
    auto base = uint32_t(mesh.vertices.size());
    mesh.vertices.push_back({10, 0, 20});
    mesh.triangles.insert(mesh.triangles.end(), {{4, base, 6}, {base, 5, 7}, {base, 7, 6}});
    mesh.triangles.push_back({4, 5, base}); // no area
    Soundness before = check_soundness(mesh);
    EXPECT_EQ(before.degenerate.count, 1u);
    EXPECT_EQ(before.open_edges.count, 3u);
    auto mended = mend(mesh);
    ASSERT_TRUE(mended);
    EXPECT_TRUE(check_soundness(mended->mesh).sound());
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 8000, 1e-9);
}
TEST(Mend, ASoundMeshIsLeftAlone) {
    auto mended = mend(test::sphere(10, 12));
    ASSERT_TRUE(mended);
    EXPECT_TRUE(mended->cures.empty());
}
TEST(Mend, NothingUsableIsSaid) {
    TriMesh mesh;
    mesh.vertices = {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}};
    mesh.triangles = {{0, 1, 2}};
    EXPECT_FALSE(mend(mesh));
    EXPECT_FALSE(mend({}));
}

// The overhang rule of cli.md; 45 degrees: common practice, no published source.
TEST(Overhang, AWallARoofAndASlope) {
    EXPECT_DOUBLE_EQ(hang_angle_deg({1, 0, 0}), 0);
    EXPECT_DOUBLE_EQ(hang_angle_deg({0, 0, -1}), 90);
    EXPECT_NEAR(hang_angle_deg(Vec3(1, 0, -1).normalized()), 45, 1e-9);
    EXPECT_DOUBLE_EQ(hang_angle_deg({0, 0, 1}), 0);
}
TEST(Overhang, ATableHangsByItsUnderside) {
    TriMesh table = box_mesh({-20, -20, 20}, {20, 20, 25});
    append(table, box_mesh({-2, -2, 0}, {2, 2, 20}));
    EXPECT_NEAR(find_overhang(table, 45).area_mm2, 1600, 1e-9); // the leg's top facet looks up
    EXPECT_NEAR(find_overhang(table, 45).lowest_z, 20, 1e-9);
}
TEST(Overhang, AFaceAtExactlyTheLimitIsPrintable) {
    TriMesh wedge; // a prism whose underside leans 45 degrees
    wedge.vertices = {{0, 0, 0}, {10, 0, 10}, {0, 0, 10}, {0, 10, 0}, {10, 10, 10}, {0, 10, 10}};
    wedge.triangles = {{0, 1, 2}, {3, 5, 4}, {0, 3, 4}, {0, 4, 1}, {1, 4, 5}, {1, 5, 2}, {0, 2, 5}, {0, 5, 3}};
    ASSERT_GT(mass_properties(wedge).volume_mm3, 0);
    EXPECT_EQ(find_overhang(wedge, 45).area_mm2, 0);
    EXPECT_NEAR(find_overhang(wedge, 44.9).area_mm2, 10 * std::sqrt(200), 1e-9);
}
TEST(Footing, ATallPartWithItsWeightOutsideItsFootTips) {
    TriMesh lean = box_mesh({0, 0, 0}, {10, 10, 50});
    append(lean, box_mesh({10, 0, 40}, {60, 10, 50}));
    MassProperties mass = mass_properties(lean);
    Footing s = check_footing(lean, mass.centre, {220, 220, 250});
    EXPECT_TRUE(s.tips_over);
    EXPECT_NEAR(s.contact_area_mm2, 100, 1e-9);
    EXPECT_FALSE(check_footing(cube(10), {5, 5, 5}, {220, 220, 250}).tips_over);
    EXPECT_TRUE(check_footing(test::sphere(10, 12), {0, 0, 0}, {220, 220, 250}).tips_over); // on a point
}
TEST(Footing, TheBedHasAWidthADepthAndAHeight) {
    EXPECT_TRUE(check_footing(cube(220), {0, 0, 0}, {220, 220, 250}).fits_bed);
    EXPECT_FALSE(check_footing(cube(221), {0, 0, 0}, {220, 220, 250}).fits_bed);
    EXPECT_TRUE(
        check_footing(box_mesh({0, 0, 0}, {100, 200, 5}), {0, 0, 0}, {210, 110, 250}).fits_bed); // turned by 90 degrees
}
TEST(Inspection, UpTurnsThePartAndNotItsCounts) {
    TriMesh table = box_mesh({-20, -20, 20}, {20, 20, 25});
    append(table, box_mesh({-2, -2, 0}, {2, 2, 20}));
    InspectionOptions upside;
    upside.up = {0, 0, -1};
    EXPECT_NEAR(inspect(table, upside).overhang_area_mm2, 16,
                1e-6); // only the leg's own end, hidden against the top, looks down
    EXPECT_NEAR(inspect(table, upside).bed_contact_area_mm2, 1600, 1e-6);
}
TEST(Inspection, UnitsAreGuessedBySizeAndByWhatComesOutRound) {
    auto cube_of = [](double side) { return guess_unit(Vec3::Constant(side)); };
    EXPECT_EQ(cube_of(20), "mm");
    EXPECT_EQ(cube_of(0.78), "inch");
    EXPECT_EQ(cube_of(0.02), "m");
    EXPECT_EQ(cube_of(0), "");
    EXPECT_EQ(cube_of(10 / 25.4), "inch") << "a cube of 10 mm drawn in inches";
    EXPECT_EQ(guess_unit({0.084, 0.052, 0.031}), "m");
    EXPECT_EQ(guess_unit({0.25, 0.375, 0.0625}), "inch") << "sixteenths";
    EXPECT_EQ(guess_unit({84, 52, 31}), "mm");
    EXPECT_EQ(unit_factor("inch"), 25.4);
    EXPECT_EQ(unit_factor("mm"), 1);
}

TEST(Gap, CoaxialCylindersAndParallelPlanesGiveTheirClearance) {
    MeasuredBody a(cube(10)), b(cube(10, {10.3, 0, 0}));
    auto gap = measure_gap(a, b, 1);
    ASSERT_TRUE(gap);
    EXPECT_NEAR(gap->min_mm, 0.3, 1e-12);
    EXPECT_FALSE(measure_gap(a, b, 0.2));
}
TEST(Gap, AnOverlapIsMeasuredInCubicMillimetres) {
    auto gap = measure_gap(MeasuredBody(cube(10)), MeasuredBody(cube(10, {9, 0.5, 0.5})), 1);
    ASSERT_TRUE(gap);
    EXPECT_TRUE(gap->touching);
    EXPECT_NEAR(gap->overlap_mm3, 1 * 9.5 * 9.5, 1e-6);
    EXPECT_EQ(judge_gap(*gap, 0.25), FitState::Overlapping);
}
TEST(Gap, ABodyWhollyInsideAnotherOverlapsIt) {
    auto gap = measure_gap(MeasuredBody(cube(30)), MeasuredBody(cube(10, {10, 10, 10})), 1);
    ASSERT_TRUE(gap);
    EXPECT_NEAR(gap->overlap_mm3, 1000, 1e-6);
    EXPECT_EQ(gap->min_mm, 0);
}
TEST(Gap, ABallInAClosedSocketIsABodyOfItsOwn) {
    TriMesh mesh = cube(40, {-20, -20, -20});
    append(mesh, test::inside_out(test::sphere(10, 40)));
    append(mesh, test::sphere(9.6, 40));
    auto bodies = separate_bodies(check_soundness(mesh));
    ASSERT_EQ(bodies.size(), 2u);
    auto gap = measure_gap(MeasuredBody(bodies[0]), MeasuredBody(bodies[1]), 1);
    ASSERT_TRUE(gap);
    EXPECT_NEAR(gap->min_mm, 0.4, 0.01); // concentric spheres: the difference of their radii
    EXPECT_EQ(gap->overlap_mm3, 0);
}
TEST(Gap, TouchingIsNotOverlapping) {
    auto gap = measure_gap(MeasuredBody(cube(10)), MeasuredBody(cube(10, {10, 0, 0})), 1);
    ASSERT_TRUE(gap);
    EXPECT_TRUE(gap->touching);
    EXPECT_EQ(gap->overlap_mm3, 0);
    EXPECT_EQ(judge_gap(*gap, 0.25), FitState::Touching);
}
TEST(Gap, TheStateFollowsTheWantedGap) {
    GapMeasure m;
    m.min_mm = 0.25;
    EXPECT_EQ(judge_gap(m, 0.25), FitState::Right);
    EXPECT_EQ(judge_gap(m, 0.40), FitState::Tight);
    EXPECT_EQ(judge_gap(m, 0.10), FitState::Slack);
    EXPECT_EQ(judge_gap(m, std::nullopt), FitState::Unset);
}

namespace {

size_t count_of(const Mended& mended, const std::string& kind) {
    for (const Cure& cure : mended.cures)
        if (cure.kind == kind) return cure.count;
    return 0;
}

} // namespace

TEST(Mend, ShellsThatPassThroughEachOtherBecomeOne) {
    // Inclusion and exclusion: 2 x 10^3 less the common 10 x 10 x 4.
    TriMesh two = test::cube(10);
    append(two, test::cube(10, {6, 0, 0}));
    for (const TriMesh& mesh : {two, test::turned(two, 33, {1, 2, 3})}) {
        const auto mended = mend(mesh);
        ASSERT_TRUE(mended) << mended.error().text();
        EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 2000 - 400, 0.01);
        EXPECT_EQ(count_of(*mended, "unite"), 2u);
        const Soundness after = check_soundness(mended->mesh);
        EXPECT_TRUE(after.sound()) << after.self_intersecting->count << " crossing, " << after.degenerate.count
                                   << " degenerate, " << after.open_edges.count << " open";
        EXPECT_EQ(after.shells, 1u);
    }
}

TEST(Mend, AHiddenShellGoesAndACavityStays) {
    TriMesh hidden = test::cube(20);
    append(hidden, test::cube(5, {7, 7, 7}));
    const auto without = mend(hidden);
    ASSERT_TRUE(without);
    EXPECT_NEAR(mass_properties(without->mesh).volume_mm3, 8000, 1e-3);
    EXPECT_EQ(count_of(*without, "drop_hidden"), 1u);
    EXPECT_TRUE(check_soundness(without->mesh).sound());
    TriMesh cavity = test::cube(20);
    append(cavity, test::inside_out(test::cube(5, {7, 7, 7})));
    const auto kept = mend(cavity);
    ASSERT_TRUE(kept);
    EXPECT_TRUE(kept->cures.empty());
    EXPECT_NEAR(mass_properties(kept->mesh).volume_mm3, 8000 - 125, 1e-9);
}

TEST(Mend, EverythingAtOnceInOnePress) {
    // Two overlapping boxes, one with a hidden shell, a flipped patch and a missing facet; and a crumb beside them.
    TriMesh all = test::sphere(10, 40);
    append(all, test::sphere(10, 40, {12, 0, 0}));
    append(all, test::cube(4, {-2, -2, -2}));
    const double whole = mass_properties(test::sphere(10, 40)).volume_mm3;
    for (size_t i = 100; i < 140; ++i) std::swap(all.triangles[i][1], all.triangles[i][2]);
    all.triangles.erase(all.triangles.begin() + 700);
    append(all, test::cube(0.1, {30, 0, 0}));
    const auto mended = mend(all);
    ASSERT_TRUE(mended) << mended.error().text();
    const Soundness after = check_soundness(mended->mesh);
    EXPECT_TRUE(after.sound());
    EXPECT_EQ(after.shells, 1u);
    // The lens two balls share: pi (4 r + d) (2 r - d)^2 / 12, of the true ball; facets hold a little less.
    const double d = 12, r = 10, lens = std::numbers::pi * (4 * r + d) * (2 * r - d) * (2 * r - d) / 12;
    EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, 2 * whole - lens, 0.02 * lens);
    for (const char* kind : {"turn", "fill_hole", "drop_debris", "unite", "drop_hidden"})
        EXPECT_GT(count_of(*mended, kind), 0u) << kind;
}

TEST(Mend, ASurfaceThatPassesThroughItselfIsParted) {
    // A square tube bent back through itself: one shell, its two ends in each other.
    TriMesh tube = box_mesh({0, 0, 0}, {40, 4, 4});
    append(tube, box_mesh({36, 0, 0}, {40, 30, 4}));
    TriMesh one =
        *combine_meshes(Operation::Join, {box_mesh({0, 0, 0}, {40, 4, 4}), box_mesh({36, 2, 0}, {40, 30, 4})});
    const double before = mass_properties(one).volume_mm3;
    for (Vec3& v : one.vertices) // the far leg is laid back over the near one
        if (v.y() > 20) v += Vec3(-30, -28, 1.5);
    ASSERT_GT(check_soundness(one).self_intersecting->count, 0u);
    const auto mended = mend(one);
    ASSERT_TRUE(mended);
    const Soundness after = check_soundness(mended->mesh);
    EXPECT_TRUE(after.sound()) << after.self_intersecting->count;
    EXPECT_GT(count_of(*mended, "part_crossing"), 0u);
    EXPECT_LT(mass_properties(mended->mesh).volume_mm3, before * 3);
}

TEST(Mend, ASoundMeshComesBackBitByBit) {
    const TriMesh ball = test::sphere(7, 30);
    const auto mended = mend(ball);
    ASSERT_TRUE(mended);
    EXPECT_EQ(mended->mesh.vertices, ball.vertices);
    EXPECT_EQ(mended->mesh.triangles, ball.triangles);
    EXPECT_TRUE(mended->cures.empty());
}

TEST(Mend, WhatIsSmallBesideNothingIsNoDebris) {
    const auto mended = mend(test::cube(0.05)); // a model in metres
    ASSERT_TRUE(mended);
    EXPECT_EQ(mended->mesh.triangles.size(), 12u);
}

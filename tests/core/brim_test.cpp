// Brims: areas by closed formulas, closed bodies beside the part, in the strip, the estimate, the export and the
// finding.
#include "bed/brim.h"
#include "bed/supports.h"
#include "handoff/export_project.h"
#include "made_project.h"
#include "mesh/flat_triangulation.h"
#include "mesh/soundness.h"
#include "project/cures.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

TriMesh rod(double radius, double height, int n = 256) {
    TriMesh mesh;
    for (double z : {0.0, height})
        for (int k = 0; k < n; ++k)
            mesh.vertices.push_back({radius * std::cos(2 * pi * k / n), radius * std::sin(2 * pi * k / n), z});
    const auto m = uint32_t(n);
    for (uint32_t k = 0; k < m; ++k) {
        const uint32_t j = (k + 1) % m;
        mesh.triangles.push_back({k, j, m + j});
        mesh.triangles.push_back({k, m + j, m + k});
        if (k > 0 && k + 1 < m) {
            mesh.triangles.push_back({0, k + 1, k});
            mesh.triangles.push_back({m, m + k, m + k + 1});
        }
    }
    return mesh;
}

} // namespace

TEST(Brim, IsARingRoundARodAndARoundedFrameRoundABlock) {
    const double h = 0.2;
    // pi ((r + w)^2 - r^2), by elementary geometry; 256 sides are 1e-4 less.
    TriMesh ring = make_brim(rod(5, 30), {6}, h);
    EXPECT_NEAR(mass_properties(ring).volume_mm3, pi * (121 - 25) * h, 2e-3 * pi * 96 * h);
    EXPECT_TRUE(check_soundness(ring).sound());
    EXPECT_NEAR(bounding_box(ring).max().z(), h, 1e-9);
    EXPECT_NEAR(bounding_box(ring).max().x(), 11, 0.01);
    // Four sides and four quarter discs (Steiner).
    TriMesh frame = make_brim(box_mesh({0, 0, 3}, {40, 20, 9}), {5}, h);
    EXPECT_NEAR(mass_properties(frame).volume_mm3, (2 * (40 + 20) * 5 + pi * 25) * h, 0.01 * 650 * h);
    EXPECT_TRUE(check_soundness(frame).sound());
    EXPECT_NEAR(bounding_box(frame).min().z(), 0, 1e-9) << "on the bed, wherever the mesh stands";
}

TEST(Brim, LeavesHolesFreeAndJoinsBetweenNeighbours) {
    // A frame round a hole of 20 x 20: inside nothing is laid.
    TriMesh ring = box_mesh({0, 0, 0}, {30, 5, 5});
    append(ring, box_mesh({0, 25, 0}, {30, 30, 5}));
    append(ring, box_mesh({0, 4, 0}, {5, 26, 5}));
    append(ring, box_mesh({25, 4, 0}, {30, 26, 5}));
    TriMesh whole = make_brim(box_mesh({0, 0, 0}, {30, 30, 5}), {4}, 0.2);
    TriMesh two = box_mesh({0, 0, 0}, {30, 30, 5});
    append(two, box_mesh({34, 0, 0}, {64, 30, 5}));
    TriMesh joined = make_brim(two, {4}, 0.2);
    EXPECT_TRUE(check_soundness(joined).sound());
    // Twice the frame less what both would lay: the 4 mm between (30 long) are laid once, and so are parts of the
    // corners.
    const double one = mass_properties(whole).volume_mm3 / 0.2, both = mass_properties(joined).volume_mm3 / 0.2;
    EXPECT_LT(both, 2 * one - 4 * 30);
    EXPECT_GT(both, 2 * one - 4 * 30 - 2 * 16);
    EXPECT_NEAR(mass_properties(make_brim(ring, {4}, 0.2)).volume_mm3, one * 0.2, 1e-6);
    EXPECT_TRUE(make_brim({}, {3}, 0.2).empty());
    EXPECT_TRUE(make_brim(two, {0}, 0.2).empty());
    EXPECT_TRUE(make_brim(two, {-4}, 0.2).empty());
}

TEST(Brim, ATowerIsOfferedOneAndItCountsEverywhere) {
    // A stake of 4 x 4 x 120: 120 > 20 x 4.
    Made m = make(json::array({block(4, 4, 120)}));
    auto slender = [](const Made& made) -> std::optional<PartFinding> {
        auto analysis = Analyser().analyse(made.evaluation);
        for (const PartFinding& f : findings_of_part(made.evaluation, &*analysis, made.part().part))
            if (f.ref.kind == FindingKind::Slender) return f;
        return std::nullopt;
    };
    const auto finding = slender(m);
    ASSERT_TRUE(finding);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, m.evaluation, *finding);
    ASSERT_TRUE(cures && cures->size() == 2);
    EXPECT_EQ(cures->front().cure.words, "Brim of 6 mm");
    EXPECT_EQ(cures->front().says, "Its height falls from 30 to 7.5 times its foot.");
    const double before_g = Analyser().analyse(m.evaluation)->mass_g;
    Made with;
    with.project = apply_edit(*m.project, cures->front().cure.edit)->project;
    with.evaluation = *Evaluator().evaluate(with.project);
    EXPECT_FALSE(slender(with));
    auto analysis = Analyser().analyse(with.evaluation);
    const PartAnalysis& known = *analysis->parts.front();
    EXPECT_GT(known.plan->layers.front().support_area_mm2, 4 * 4 * 6) << "in the strip";
    EXPECT_EQ(known.plan->layers.back().support_area_mm2, 0);
    EXPECT_GT(analysis->mass_g, before_g) << "in the estimate";
    // In the export a body of its own that touches the part and nothing more.
    auto items = export_items(with.evaluation, 0.01);
    ASSERT_TRUE(items);
    ASSERT_EQ(items->size(), 1u);
    EXPECT_TRUE(items->front().supports.empty());
    EXPECT_NEAR(mass_properties(items->front().brim).volume_mm3,
                (4 * 4 * 6 + pi * 36) * with.project->printer.first_layer_mm, 0.02 * 200 * 0.2);
    // Saved and read it is the same.
    auto read = project_from_text(project_to_json(*with.project).dump());
    ASSERT_TRUE(read);
    EXPECT_EQ(read->parts[0]->supports.options.brim_mm, 6);
}

TEST(Brim, WidthsThatMakeNoSenseAreRefused) {
    SupportOptions options;
    for (double wide : {-1.0, 51.0, std::nan("")}) {
        options.brim_mm = wide;
        EXPECT_TRUE(check_supports(options)) << wide;
    }
}

TEST(FlatTriangulation, FillsByTheEvenOddRule) {
    const std::vector<Vec2> outer{{0, 0}, {10, 0}, {10, 10}, {0, 10}}, hole{{2, 2}, {2, 8}, {8, 8}, {8, 2}},
        island{{4, 4}, {6, 4}, {6, 6}, {4, 6}}, touching{{10, 10}, {14, 10}, {14, 14}, {10, 14}};
    const auto fill = filled({outer, hole, island, touching});
    ASSERT_TRUE(fill);
    std::vector<Vec2> all;
    for (const auto& line : {outer, hole, island, touching}) all.insert(all.end(), line.begin(), line.end());
    double area = 0;
    for (const Triangle& t : fill->triangles) {
        const Vec2 a = all[t[1]] - all[t[0]], b = all[t[2]] - all[t[0]];
        area += (a.x() * b.y() - a.y() * b.x()) / 2;
    }
    EXPECT_NEAR(area, 100 - 36 + 4 + 16, 1e-9);
    EXPECT_EQ(fill->first_at[12], 2u) << "where two lines touch one place stands for both";
    EXPECT_FALSE(filled({outer, {{5, 5}, {15, 5}, {15, 8}}})) << "lines that cross";
    EXPECT_FALSE(filled({}));
}

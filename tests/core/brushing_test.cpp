// The brush on meshes: what a dab covers against areas that are known, kept, laid over marks of faces, told when lost.
#include "bed/poses.h"
#include "check/overhang.h"
#include "formats/stl.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "project/marked_faces.h"
#include "project/support_edits.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A plate of squares of `cell`, two facets each, from -30 to 30 in x and y, at z = 0 below and `thick` above.
TriMesh tiled_plate(double thick, double cell) {
    TriMesh mesh;
    const int n = int(std::lround(60 / cell));
    auto corner = [&](int i, int j, bool top) { return uint32_t((top ? (n + 1) * (n + 1) : 0) + j * (n + 1) + i); };
    for (bool top : {false, true})
        for (int j = 0; j <= n; ++j)
            for (int i = 0; i <= n; ++i) mesh.vertices.push_back({-30 + i * cell, -30 + j * cell, top ? thick : 0});
    auto quad = [&](uint32_t a, uint32_t b, uint32_t c, uint32_t d) {
        mesh.triangles.push_back({a, b, c});
        mesh.triangles.push_back({a, c, d});
    };
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            quad(corner(i, j, true), corner(i + 1, j, true), corner(i + 1, j + 1, true), corner(i, j + 1, true));
            quad(corner(i, j, false), corner(i, j + 1, false), corner(i + 1, j + 1, false), corner(i + 1, j, false));
        }
    for (int i = 0; i < n; ++i) {
        quad(corner(i, 0, false), corner(i + 1, 0, false), corner(i + 1, 0, true), corner(i, 0, true));
        quad(corner(i + 1, n, false), corner(i, n, false), corner(i, n, true), corner(i + 1, n, true));
        quad(corner(0, i + 1, false), corner(0, i, false), corner(0, i, true), corner(0, i + 1, true));
        quad(corner(n, i, false), corner(n, i + 1, false), corner(n, i + 1, true), corner(n, i, true));
    }
    return mesh;
}

double marked_mm2(const TriMesh& mesh, const FacetMarks& marks, FaceMark mark) {
    double area = 0;
    for (size_t i = 0; i < marks.of.size(); ++i)
        if (marks.at(i) == mark) area += mesh.area_vector(i).norm() / 2;
    return area;
}

FacetMarks brushed(const TriMesh& mesh, const std::vector<BrushDab>& dabs) {
    FacetMarks marks;
    brush_facets(mesh, 0, mesh.triangles.size(), dabs, marks);
    return marks;
}

Made edited(const Made& m, const Edit& edit) {
    auto next = apply_edit(*m.project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    Made made{next ? next->project : m.project, {}};
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}

Made of_mesh(const TriMesh& mesh) {
    return make(json::array({step("bring_in", {{"file", "thing.stl"}})}), json::object(),
                {{"thing.stl", write_stl_binary(mesh)}});
}

} // namespace

TEST(Brushing, ADabCoversADiscOfOneSideAlone) {
    const TriMesh plate = tiled_plate(1, 0.5);
    ASSERT_NEAR(mass_properties(plate).volume_mm3, 3600, 1e-6);
    // Thinner than the brush: the other side is within reach and keeps clean.
    const FacetMarks marks = brushed(plate, {{{0, 0, 1}, {0, 0, 1}, 10, FaceMark::Seen}});
    EXPECT_NEAR(marked_mm2(plate, marks, FaceMark::Seen), pi * 100, 4) << "by facets of an eighth of a mm²";
    for (size_t i = 0; i < marks.of.size(); ++i)
        if (marks.of[i]) {
            EXPECT_GT(plate.area_vector(i).z(), 0);
        }
    // The later over the earlier, and wiped off in the middle: rings by their radii.
    const FacetMarks rings = brushed(plate, {{{0, 0, 1}, {0, 0, 1}, 12, FaceMark::Seen},
                                             {{0, 0, 1}, {0, 0, 1}, 8, FaceMark::Never},
                                             {{0, 0, 1}, {0, 0, 1}, 4, std::nullopt}});
    EXPECT_NEAR(marked_mm2(plate, rings, FaceMark::Seen), pi * (144 - 64), 5);
    EXPECT_NEAR(marked_mm2(plate, rings, FaceMark::Never), pi * (64 - 16), 5);
}

TEST(Brushing, ACoarseFacetIsMarkedWhereItIsTouched) {
    const TriMesh box = box_mesh({0, 0, 0}, {40, 30, 20});
    // A small brush far from the middle of both facets of the top.
    const FacetMarks marks = brushed(box, {{{39, 1, 20}, {0, 0, 1}, 1, FaceMark::Mating}});
    EXPECT_NEAR(marked_mm2(box, marks, FaceMark::Mating), 600, 1e-9) << "one of the two facets of 40 x 30";
    EXPECT_TRUE(brushed(box, {{{39, 1, 25}, {0, 0, 1}, 1, FaceMark::Mating}}).of.empty()) << "beside it";
    EXPECT_TRUE(brushed(box, {{{39, 1, 20}, {0, 0, -1}, 1, FaceMark::Mating}}).of.empty()) << "from inside";
    EXPECT_TRUE(brushed(box, {{{39, 1, 20}, {0, 0, 1}, 1, std::nullopt}}).of.empty()) << "nothing was there to wipe";
}

TEST(Brushing, WhatIsGoneOverWhollyIsKeptOnce) {
    const BrushDab small{{0, 0, 1}, {0, 0, 1}, 2, FaceMark::Seen}, aside{{5, 0, 1}, {0, 0, 1}, 2, FaceMark::Seen},
        large{{0, 0, 1}, {0, 0, 1}, 4, FaceMark::Never}, below{{0, 0, 0}, {0, 0, -1}, 2, FaceMark::Seen};
    const auto left = with_dabs({small, aside, below}, {large});
    EXPECT_EQ(left, (std::vector<BrushDab>{aside, below, large}))
        << "what it covers half, and what looks the other way";
    EXPECT_TRUE(check_dabs({{{0, 0, 0}, {0, 0, 0}, 2, {}}})) << "away from nothing";
    EXPECT_TRUE(check_dabs({{{0, 0, 0}, {0, 0, 1}, 0, {}}}));
    EXPECT_TRUE(check_dabs({{{0, std::nan(""), 0}, {0, 0, 1}, 2, {}}}));
    EXPECT_TRUE(check_dabs(std::vector<BrushDab>(most_dabs + 1, small)));
    EXPECT_FALSE(check_dabs({small}));
}

TEST(Brushing, SupportsAndWaysUpGoByIt) {
    // A plate 10 above a foot: what hangs is 60 x 60 less the foot of 20 x 20.
    TriMesh table = tiled_plate(4, 1);
    for (Vec3& v : table.vertices) v.z() += 10;
    append(table, box_mesh({-10, -10, 0}, {10, 10, 10}));
    const FacetMarks marks = brushed(table, {{{20, 20, 10}, {0, 0, -1}, 6, FaceMark::Never}});
    const double kept_off = hanging_kept_off(table, 45, marks);
    EXPECT_NEAR(kept_off, pi * 36, 3);
    SupportWishes wishes{marks, {}};
    const Supports supports = make_supports(table, {}, {}, wishes);
    ASSERT_GT(supports.posts.size(), 10u);
    for (const Vec3& tip : supports.carried) EXPECT_GT((tip.head<2>() - Vec2(20, 20)).norm(), 5.2);
    EXPECT_NEAR(supports.kept_off_mm2, kept_off, 1e-6);
}

TEST(Brushing, IsKeptInTheFileUndoneAndToldWhenNothingIsLeft) {
    Made m = of_mesh(tiled_plate(2, 1));
    ASSERT_EQ(m.says(), "");
    ASSERT_TRUE(can_be_brushed(m.part()));
    EXPECT_FALSE(can_be_brushed(make(json::array({block(10, 10, 10)})).part())) << "exact bodies have faces";
    const PartId part = m.project->parts[0]->id;
    Box3 box = m.part().box;
    const Vec3 top(box.center().x(), box.center().y(), box.max().z());
    m = edited(m, SetBrushed{part, {{top, {0, 0, 1}, 10, FaceMark::Seen}}});
    FoundMarks found = find_marks(*m.project->parts[0], m.part());
    EXPECT_NEAR(found.brushed_mm2[size_t(FaceMark::Seen)], pi * 100, 12) << "by facets of half a mm²";
    EXPECT_FALSE(found.brush_lost);
    EXPECT_NE(found.key(), find_marks(*edited(m, SetBrushed{part, {}}).project->parts[0], m.part()).key());
    // Read back it is the same; a face marked beneath keeps its mark where the brush did not go.
    auto again = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(again->parts[0]->brushed, m.project->parts[0]->brushed);
    const Tessellation& shape = m.body().tessellation();
    size_t face = 0;
    while (face < shape.faces.size() && shape.faces[face].direction.z() < 0.99) ++face;
    ASSERT_LT(face, shape.faces.size());
    m = edited(m, SetFaceMarks{part, with_mark(*m.project->parts[0], m.part(), {{0, face, top}}, FaceMark::Mating)});
    found = find_marks(*m.project->parts[0], m.part());
    EXPECT_EQ(found.faces.size(), 1u) << lost_words(*m.project->parts[0], found) << face << " of " << shape.faces.size()
                                      << " " << shape.faces[face].area_mm2;
    EXPECT_NEAR(marked_mm2(*m.part().mesh, found.facets, FaceMark::Mating), 3600 - pi * 100, 12);
    EXPECT_NEAR(marked_mm2(*m.part().mesh, found.facets, FaceMark::Seen), pi * 100, 12);
    // Moved away from under it.
    Made lost = edited(m, SetBrushed{part, {{top + Vec3(0, 0, 40), {0, 0, 1}, 10, FaceMark::Seen}}});
    lost = edited(lost, SetFaceMarks{part, {}});
    EXPECT_TRUE(find_marks(*lost.project->parts[0], lost.part()).brush_lost);
    auto analysis = Analyser().analyse(lost.evaluation);
    bool told = false;
    for (const PartFinding& f : all_findings(lost.evaluation, &*analysis))
        told = told ||
               (f.finding.kind == FindingKind::LostMark && f.finding.says.find("brushed is gone") != std::string::npos);
    EXPECT_TRUE(told);
}

TEST(Brushing, HostileFilesAreRefused) {
    const Made m = of_mesh(tiled_plate(2, 5));
    json text = project_to_json(*m.project);
    for (const char* dabs :
         {R"(7)", R"([7])", R"([{}])", R"([{"at":[0,0,0]}])", R"([{"at":[0,0],"out":[0,0,1]}])",
          R"([{"at":[0,0,0],"out":[0,0,1],"radius_mm":-1}])", R"([{"at":[0,0,0],"out":[0,0,1],"mark":"pretty"}])",
          R"([{"at":[0,0,1e300],"out":[0,0,1]}])", R"([{"at":"x","out":[0,0,1]}])"}) {
        json wrong = text;
        wrong["parts"][0]["brushed"] = json::parse(dabs);
        auto read = project_from_text(wrong.dump());
        ASSERT_FALSE(read) << dabs;
        EXPECT_FALSE(read.error().sentence.empty());
    }
}

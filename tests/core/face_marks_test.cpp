// Marked faces: what supports and ways up make of them, and that they are kept, found again and told when lost.
#include "bed/face_marks.h"
#include "bed/poses.h"
#include "bed/supports.h"
#include "check/overhang.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "project/history.h"
#include "project/marked_faces.h"
#include "project/pose_choices.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// Marks every facet whose normal is the given one.
FacetMarks marked_towards(const TriMesh& mesh, const Vec3& normal, FaceMark mark) {
    FacetMarks marks;
    for (size_t i = 0; i < mesh.triangles.size(); ++i)
        marks.of.push_back(mesh.area_vector(i).normalized().dot(normal) > 0.999 ? uint8_t(1 + int(mark)) : uint8_t(0));
    return marks;
}

/// Two shelves on a wall of 10 x 30, 30 high: the lower at z 10, the upper at z 25, both 4 thick and 30 deep.
TriMesh shelves() {
    TriMesh mesh = box_mesh({0, 0, 0}, {10, 30, 40});
    append(mesh, box_mesh({10, 0, 10}, {40, 30, 14}));
    append(mesh, box_mesh({10, 0, 25}, {40, 30, 29}));
    return mesh;
}

/// A block whose front leans out by `deg` from upright, 20 high, 20 wide, on a foot 20 deep.
TriMesh leaning(double deg) {
    const double out = 20 * std::tan(radians(deg));
    TriMesh mesh = box_mesh({0, 0, 0}, {20, 20, 20});
    for (Vec3& v : mesh.vertices)
        if (v.x() > 10 && v.z() > 10) v.x() += out;
    return mesh;
}

SupportOptions of_kind(SupportKind kind) {
    SupportOptions options;
    options.kind = kind;
    return options;
}

/// The part with one face marked: the one that looks this way and is largest.
Made marked(Made made, const Vec3& normal, FaceMark mark) {
    const Tessellation& shape = made.body().tessellation();
    size_t best = shape.faces.size();
    for (size_t i = 0; i < shape.faces.size(); ++i)
        if (shape.faces[i].direction.dot(normal) > 0.99 &&
            (best == shape.faces.size() || shape.faces[i].area_mm2 > shape.faces[best].area_mm2))
            best = i;
    EXPECT_LT(best, shape.faces.size());
    const auto marks = with_mark(*made.project->parts[0], made.part(), {{0, best, shape.faces[best].centre}}, mark);
    auto edited = apply_edit(*made.project, SetFaceMarks{made.project->parts[0]->id, marks});
    EXPECT_TRUE(edited);
    made.project = edited->project;
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}

/// A block of 40 x 30 x 20 with its upper edges broken by 2: a top of 36 x 26.
Made broken_block() {
    return make({step("block", {{"size_x", "40"}, {"size_y", "30"}, {"size_z", "20"}}, "b"),
                 step("chamfer", {{"edges", "of top of b"}, {"distance", "2"}})});
}

} // namespace

TEST(FaceMarks, HaveTheSameWordsBothWays) {
    for (int i = 0; i < face_marks; ++i) EXPECT_EQ(face_mark_called(word_of(FaceMark(i))), FaceMark(i));
    EXPECT_FALSE(face_mark_called("shiny"));
    EXPECT_STREQ(words_of(FaceMark::Never), "never supported");
    EXPECT_FALSE(FacetMarks().at(3));
}

TEST(FaceMarks, NoTipTouchesWhatIsNeverSupported) {
    const TriMesh mesh = shelves();
    FacetMarks marks;
    for (size_t i = 0; i < mesh.triangles.size(); ++i) { // the upper shelf's underside
        const bool under = mesh.area_vector(i).z() < -1 && std::fabs(mesh.corner(i, 0).z() - 25) < 1e-9;
        marks.of.push_back(under ? uint8_t(1 + int(FaceMark::Never)) : uint8_t(0));
    }
    for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees}) {
        const Supports all = make_supports(mesh, of_kind(kind));
        const Supports kept = make_supports(mesh, of_kind(kind), {}, {marks, {}});
        EXPECT_EQ(all.kept_off_mm2, 0);
        EXPECT_NEAR(kept.kept_off_mm2, 30 * 30, 1e-9);
        EXPECT_GT(all.count(), 0u);
        EXPECT_GT(kept.count(), 0u) << "the lower shelf is carried as before";
        EXPECT_GT(bounding_box(all.mesh).max().z(), 24);
        EXPECT_LT(bounding_box(kept.mesh).max().z(), 10) << word_of(kind);
    }
}

TEST(FaceMarks, NoFootStandsOnWhatIsSeenOrNeverSupported) {
    const TriMesh mesh = shelves();
    for (FaceMark mark : {FaceMark::Seen, FaceMark::Mating, FaceMark::Never})
        for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees}) {
            const Supports kept =
                make_supports(mesh, of_kind(kind), {}, {marked_towards(mesh, Vec3::UnitZ(), mark), {}});
            const auto on_part = [](const auto& all) {
                return std::count_if(all.begin(), all.end(), [](const auto& one) { return one.on_part; });
            };
            EXPECT_EQ(on_part(kept.posts) + on_part(kept.trees), 0) << word_of(kind);
        }
    const Supports free = make_supports(mesh, of_kind(SupportKind::Posts));
    EXPECT_TRUE(std::any_of(free.posts.begin(), free.posts.end(), [](const Post& p) { return p.on_part; }))
        << "they stand there without the mark";
}

TEST(FaceMarks, WhatIsMarkedSupportedIsCarriedHoweverSteep) {
    const TriMesh mesh = leaning(30);
    const Vec3 front = Vec3(20, 0, -20 * std::tan(radians(30.0))).normalized();
    const FacetMarks marks = marked_towards(mesh, front, FaceMark::Supported);
    ASSERT_EQ(std::count(marks.of.begin(), marks.of.end(), uint8_t(1 + int(FaceMark::Supported))), 2);
    for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees}) {
        EXPECT_EQ(make_supports(mesh, of_kind(kind)).count(), 0u) << "30 degrees need none";
        EXPECT_GT(make_supports(mesh, of_kind(kind), {}, {marks, {}}).count(), 0u) << word_of(kind);
    }
}

TEST(FaceMarks, RoughOnWhatIsSeenIsAreaTimesSlope) {
    // A block 20 x 20 x 20, its front leaning out by 30 degrees: 20 x 20 / cos 30 mm2, sin 30 of it rough as it stands.
    const TriMesh mesh = leaning(30);
    const Vec3 front = Vec3(20, 0, -20 * std::tan(radians(30.0))).normalized();
    PoseOptions options;
    options.marks = marked_towards(mesh, front, FaceMark::Seen);
    options.lies_up = Vec3::UnitZ();
    options.best = 5;
    auto poses = best_poses(mesh, options);
    ASSERT_TRUE(poses);
    const auto as_it_lies = std::find_if(poses->begin(), poses->end(), [](const Pose& p) { return p.as_it_lies; });
    ASSERT_NE(as_it_lies, poses->end());
    EXPECT_NEAR(as_it_lies->rough_marked_mm2, 400 / std::cos(radians(30.0)) * std::sin(radians(30.0)), 1e-6);
    options.marks = {};
    auto without = best_poses(mesh, options);
    ASSERT_TRUE(without);
    EXPECT_EQ(without->front().rough_marked_mm2, 0);
}

TEST(FaceMarks, AMarkChangesWhichWayUpIsBest) {
    // A wedge 40 x 30, 20 high at one end: it lies best on its slope, the largest face, until its foot of 40 x 30 is
    // seen: that face would then lean by atan(20 / 40).
    Made m = make(json::array({step("wedge", {{"size_x", "40"}, {"size_y", "30"}, {"size_z", "20"}})}));
    ASSERT_EQ(m.says(), "");
    auto plain = pose_choices(m.evaluation, m.part().part);
    ASSERT_TRUE(plain);
    const Vec3 on_slope = plain->front().pose.up;
    EXPECT_NEAR(on_slope.z(), -2 / std::sqrt(5.0), 1e-6);
    EXPECT_FALSE(plain->front().marked);
    m = marked(std::move(m), -Vec3::UnitZ(), FaceMark::Seen);
    ASSERT_EQ(find_marks(*m.project->parts[0], m.part()).faces.size(), 1u);
    auto choices = pose_choices(m.evaluation, m.part().part);
    ASSERT_TRUE(choices);
    EXPECT_TRUE(choices->front().marked);
    EXPECT_TRUE(choices->front().pose.as_it_lies) << why_first(*choices);
    EXPECT_EQ(choices->front().pose.rough_marked_mm2, 0) << "it lies on it";
    for (const PoseChoice& c : *choices)
        if (c.pose.up.dot(on_slope) > 0.9999) {
            EXPECT_NEAR(c.pose.rough_marked_mm2, 40 * 30 * 2 / std::sqrt(5.0), 1e-3) << "area times slope";
        }
    EXPECT_LT(choices->front().pose.score, plain->front().pose.score + 1);
}

TEST(FaceMarks, WhatHangsWhereNoSupportMayStandCostsMost) {
    // A plate of 60 x 40 x 3 between knobs of 30 x 30 and 26 x 26: its underside is never supported.
    Made m = make({step("block", {{"size_x", "60"}, {"size_y", "40"}, {"size_z", "3"}, {"at_z", "6"}}, "plate"),
                   step("block", {{"size_x", "30"}, {"size_y", "30"}, {"size_z", "6"}}, "under"),
                   step("block", {{"size_x", "26"}, {"size_y", "26"}, {"size_z", "6"}, {"at_z", "9"}}, "over")});
    ASSERT_EQ(m.says(), "");
    m = marked(std::move(m), -Vec3::UnitZ(), FaceMark::Never);
    auto choices = pose_choices(m.evaluation, m.part().part);
    ASSERT_TRUE(choices);
    EXPECT_LT(choices->front().pose.kept_off_mm2, 1);
    const auto now =
        std::find_if(choices->begin(), choices->end(), [](const PoseChoice& c) { return c.pose.as_it_lies; });
    ASSERT_NE(now, choices->end());
    EXPECT_NEAR(now->pose.kept_off_mm2, 60 * 40 - 30 * 30, 1e-6);
    EXPECT_NE(why_first(*choices).find("nothing hangs where no support may stand"), std::string::npos)
        << why_first(*choices);
}

TEST(FaceMarks, AreKeptInTheFileAndFollowTheirFace) {
    Made m = marked(broken_block(), Vec3::UnitZ(), FaceMark::Seen);
    auto read = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->parts[0]->marks, m.project->parts[0]->marks);
    // Another height: the same face.
    const Part& part = *m.project->parts[0];
    auto higher = apply_edit(*m.project, SetField{part.id, part.steps[0].id, "size_z", "35"});
    ASSERT_TRUE(higher);
    const Evaluation made = *Evaluator().evaluate(higher->project);
    const FoundMarks found = find_marks(*higher->project->parts[0], made.parts[0]);
    ASSERT_EQ(found.faces.size(), 1u);
    const FaceInfo& face = made.parts[0].bodies[0].body.tessellation().faces[found.faces[0].face];
    EXPECT_NEAR(face.centre.z(), 35, 1e-6);
    EXPECT_NEAR(face.area_mm2, 36 * 26, 1e-6);
    double area = 0;
    for (size_t i = 0; i < made.parts[0].mesh->triangles.size(); ++i)
        if (found.facets.at(i) == FaceMark::Seen) area += made.parts[0].mesh->area_vector(i).norm() / 2;
    EXPECT_NEAR(area, 36 * 26, 1e-6);
}

TEST(FaceMarks, AFaceHasOneMarkAndLosesIt) {
    Made m = marked(marked(broken_block(), Vec3::UnitZ(), FaceMark::Seen), Vec3::UnitZ(), FaceMark::Mating);
    ASSERT_EQ(m.project->parts[0]->marks.size(), 1u);
    EXPECT_EQ(m.project->parts[0]->marks[0].mark, FaceMark::Mating);
    const FoundMarks found = find_marks(*m.project->parts[0], m.part());
    ASSERT_EQ(found.faces.size(), 1u);
    EXPECT_TRUE(
        with_mark(*m.project->parts[0], m.part(), {{0, found.faces[0].face, found.faces[0].at}}, std::nullopt).empty());
}

TEST(FaceMarks, ALostFaceIsToldAndNothingElseIs) {
    Made m = marked(broken_block(), Vec3::UnitZ(), FaceMark::Seen);
    const Part& part = *m.project->parts[0];
    auto told = [](const Made& made) {
        Analyser analyser;
        auto analysis = analyser.analyse(made.evaluation);
        EXPECT_TRUE(analysis);
        std::vector<std::string> says;
        for (const PartFinding& f : findings_of_part(made.evaluation, &*analysis, made.part().part))
            if (f.finding.kind == FindingKind::LostMark) says.push_back(f.finding.says);
        return says;
    };
    EXPECT_TRUE(told(m).empty());
    // A cylinder in place of the block has a top of its own.
    Made other = make(json::array({step("cylinder", {{"diameter", "30"}, {"height", "10"}}, "c")}));
    auto edited = apply_edit(*other.project, SetFaceMarks{other.project->parts[0]->id, part.marks});
    ASSERT_TRUE(edited);
    std::vector<MarkedFace> lost = part.marks;
    lost[0].face.primary ^= 0x5a5a5a5a;
    lost[0].face.tags = {lost[0].face.primary};
    edited = apply_edit(*other.project, SetFaceMarks{other.project->parts[0]->id, lost});
    other.project = edited->project;
    other.evaluation = *Evaluator().evaluate(other.project);
    const auto says = told(other);
    ASSERT_EQ(says.size(), 1u);
    EXPECT_NE(says[0].find("A marked face is gone: seen"), std::string::npos) << says[0];
}

TEST(FaceMarks, DamagedOnesInAFileAreRefusedInWords) {
    Made m = marked(broken_block(), Vec3::UnitZ(), FaceMark::Seen);
    const auto text = project_to_json(*m.project).dump();
    for (auto [mark, says] : {std::pair<json, const char*>{{{"mark", "shiny"}, {"face", json::object()}}, "is no mark"},
                              {{{"mark", "seen"}}, "has no face"},
                              {json("seen"), "marks"},
                              {{{"mark", 7}, {"face", json::object()}}, "mark"}}) {
        json whole = json::parse(text);
        whole["parts"][0]["marks"] = json::array({mark});
        auto read = project_from_text(whole.dump());
        ASSERT_FALSE(read) << mark.dump();
        EXPECT_NE(read.error().text().find(says), std::string::npos) << read.error().text();
    }
    json whole = json::parse(text);
    whole["parts"][0]["marks"] = "all";
    EXPECT_FALSE(project_from_text(whole.dump()));
}

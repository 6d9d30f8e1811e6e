// The examples that ship: each opens, is made whole, is checked, and measures what its numbers say.
#include "made_project.h"
#include "mesh/soundness.h"
#include "project/analysis.h"
#include "project/archive.h"

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

struct Example {
    ProjectPtr project;
    Evaluation evaluation;
    Analysis analysis;
    const PartResult& part(const char* name) const { return *evaluation.part(project->part_named(name)->id); }
};

Example open_example(const char* folder) {
    Example opened;
    auto read = open_project(std::filesystem::path(SOURCE_DIR) / "data/examples" / folder / "project.json");
    EXPECT_TRUE(read) << (read ? "" : read.error().text());
    if (!read) return opened;
    opened.project = read->history.now();
    Evaluator evaluator;
    auto made = evaluator.evaluate(opened.project);
    EXPECT_TRUE(made);
    if (!made) return opened;
    opened.evaluation = *made;
    for (const PartResult& part : opened.evaluation.parts) {
        for (const StepOutcome& step : part.steps) EXPECT_TRUE(step.ok) << part.name << ": " << step.says;
        EXPECT_TRUE(part.mesh && check_soundness(*part.mesh).closed) << part.name;
    }
    Analyser analyser;
    if (auto analysis = analyser.analyse(opened.evaluation)) opened.analysis = *analysis;
    for (const ContactResult& contact : opened.analysis.contacts)
        EXPECT_EQ(contact.state, FitState::Right) << contact.a << " " << contact.b;
    EXPECT_TRUE(std::filesystem::exists(std::filesystem::path(SOURCE_DIR) / "data/examples" / folder / "picture.png"));
    return opened;
}

} // namespace

TEST(Examples, TheSeedBoxHasItsWallsAndItsLidTheGap) {
    Example box = open_example("seed-box");
    auto section = [](double a, double b, double r) { return a * b - (4 - pi) * r * r; };
    EXPECT_NEAR(box.part("Box").mass.volume_mm3, section(84, 52, 4) * 31 - section(80, 48, 2) * 29, 1e-3);
    ASSERT_EQ(box.analysis.contacts.size(), 1u);
    EXPECT_NEAR(box.analysis.contacts[0].gap->min_mm, 0.25, 2e-3);
    // The plate less the word, and the lip a gap within the walls.
    const double whole = section(84, 52, 4) * 2.75 + section(79.5, 47.5, 1.75) * 4.25;
    EXPECT_LT(box.part("Lid").mass.volume_mm3, whole - 20);
    EXPECT_GT(box.part("Lid").mass.volume_mm3, whole - 400);
}

TEST(Examples, TheVentFlapComesOffTheBedJoinedAndTurns) {
    Example flap = open_example("vent-flap");
    EXPECT_EQ(flap.part("Flap").bodies.size(), 2u);
    EXPECT_NEAR(flap.part("Flap").box.sizes().y(), 40, 0.01) << "its axis is as long as its number";
    ASSERT_EQ(flap.analysis.contacts.size(), 1u);
    EXPECT_GE(flap.analysis.contacts[0].gap->min_mm, flap.project->printer.smallest_open_gap_mm);
}

TEST(Examples, ThePullHasSixLinksAPitchApart) {
    Example pull = open_example("pull-of-links");
    const auto& bodies = pull.part("Pull").bodies;
    ASSERT_EQ(bodies.size(), 6u);
    EXPECT_EQ(pull.analysis.contacts.size(), 5u);
    for (size_t i = 2; i + 1 < bodies.size(); ++i) // the ends are cut clean: those between are alike
        EXPECT_NEAR((bodies[i].body.mass().centre - bodies[i - 1].body.mass().centre).norm(), 18, 1e-6);
}

TEST(Examples, TheLeafGuardIsMended) {
    Example guard = open_example("leaf-guard");
    const PartResult& part = guard.part("Leaf guard");
    ASSERT_EQ(part.steps.size(), 2u);
    EXPECT_NE(part.steps[1].says.find("After: sound"), std::string::npos) << part.steps[1].says;
    EXPECT_GT(part.mass.volume_mm3, 3000);
}

TEST(Examples, ThePipePlugHasItsThread) {
    Example plug = open_example("pipe-plug");
    const PartResult& part = plug.part("Plug");
    // ISO 228-1: G1/2 is 20.955 outside; less 0.2 all round.
    const Box3 box = part.box;
    EXPECT_NEAR(box.max().z(), 9 + 2 + 13, 1e-6);
    double widest = 0;
    for (const Vec3& v : part.mesh->vertices)
        if (v.z() > 12) widest = std::max(widest, v.head<2>().norm());
    EXPECT_NEAR(2 * widest, 20.955 - 0.4, 0.02);
}

TEST(Examples, ThePoleClipHasAHoleForItsScrew) {
    Example clip = open_example("pole-clip");
    const PartResult& part = clip.part("Clip");
    EXPECT_NE(part.steps.back().says.find("countersunk"), std::string::npos) << part.steps.back().says;
    // As a clearance hole of ISO 273 for M4 has it: 4.5 across.
    bool found = false;
    for (const FaceInfo& face : part.bodies[0].body.tessellation().faces)
        found = found || (face.kind == SurfaceKind::Cylinder && std::fabs(2 * face.radius_mm - 4.5) < 1e-6);
    EXPECT_TRUE(found);
}

TEST(Examples, ThePlantLabelReads) {
    Example label = open_example("plant-label");
    const PartAnalysis* part = label.analysis.part(label.project->part_named("Label")->id);
    ASSERT_TRUE(part);
    for (const Finding& f : part->inspection.findings) EXPECT_NE(f.kind, FindingKind::FineStroke) << f.says;
}

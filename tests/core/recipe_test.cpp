// One part's steps for other files: where they stand, what of the steps holds, what is refused.
#include "formats/stl.h"
#include "kind_samples.h"
#include "project/recipe.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

NamedFile box_file(const std::string& name, const Vec3& low, const Vec3& high) {
    auto bytes = find_format("stl")->write({FileObject{.name = name, .mesh = box_mesh(low, high)}}, name, {});
    EXPECT_TRUE(bytes);
    return {name, std::make_shared<const std::string>(*bytes)};
}
/// A foot of 40 x 40 x 12 from a file, its middle bored by 10 from above, on a plate cut off at 10.
Made foot() {
    const NamedFile file = box_file("foot.stl", {100, 0, 5}, {140, 40, 17});
    return make(
        json::array({step("bring_in",
                          {{"file", "foot.stl"}, {"at_x", "-120 mm"}, {"at_y", "0 mm - lift * 4"}, {"at_z", "-lift"}}),
                     step("cylinder", {{"diameter", 10}, {"height", 20}, {"does", "cut"}})}),
        {{"lift", "5 mm"}}, {{"foot.stl", *file.bytes}});
}
Evaluation evaluated(const Project& project, const Edit& edit) {
    auto next = apply_edit(project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    Evaluator evaluator;
    auto made = evaluator.evaluate(next->project);
    EXPECT_TRUE(made);
    return *made;
}
/// What a cylinder of the kernel takes out of a block: pi r^2 h, within its facets.
double bored(double x, double y, double z) {
    return x * y * z - std::numbers::pi * 25 * z;
}

} // namespace

TEST(Recipe, AnotherFileStandsWhereTheOldOneStoodAndTheStepsHold) {
    const Made it = foot();
    ASSERT_EQ(it.says(), "");
    EXPECT_NEAR(it.volume(), bored(40, 40, 12), 3);
    // Larger, drawn elsewhere.
    auto edit = replaced_file(*it.project, it.project->parts[0]->id, box_file("foot.stl", {-7, -9, -3}, {53, 41, 13}));
    ASSERT_TRUE(edit) << edit.error().text();
    const Evaluation after = evaluated(*it.project, *edit);
    EXPECT_NEAR(after.parts[0].mass.volume_mm3, bored(60, 50, 16), 4);
    const Box3 box = after.parts[0].bodies[0].body.box();
    EXPECT_NEAR(box.center().x(), 0, 1e-4);
    EXPECT_NEAR(box.center().y(), 0, 1e-4);
    EXPECT_NEAR(box.min().z(), 0, 1e-4);
    const Project& project = *after.project;
    EXPECT_EQ(project.imports.size(), 2u) << "the old file is kept: it can be undone";
    const Step* step = import_step(*project.parts[0]);
    EXPECT_EQ(step->fields.at("file").text(), "2-foot.stl");
    EXPECT_TRUE(step->fields.at("at_z").text().find("lift") != std::string::npos) << "what was typed stays in it";
}

TEST(Recipe, FourSiblingsInOneGo) {
    const Made it = foot();
    std::vector<NamedFile> files;
    for (int i = 1; i <= 4; ++i)
        files.push_back(box_file("foot-" + std::to_string(i) + ".stl", {0, 0, 0}, {40.0 + i, 40.0 + 2 * i, 12.0 + i}));
    files.push_back({"broken.stl", std::make_shared<const std::string>("solid nothing")});
    auto made = same_steps_for(*it.project, it.project->parts[0]->id, files);
    ASSERT_TRUE(made) << made.error().text();
    EXPECT_EQ(made->parts, (std::vector<std::string>{"foot 1", "foot 2", "foot 3", "foot 4"}));
    ASSERT_EQ(made->left_out.size(), 1u);
    EXPECT_TRUE(made->left_out[0].find("broken.stl") != std::string::npos) << made->left_out[0];
    const Evaluation after = evaluated(*it.project, made->edit);
    ASSERT_EQ(after.parts.size(), 5u);
    for (int i = 1; i <= 4; ++i) {
        const PartResult& part = after.parts[size_t(i)];
        EXPECT_NEAR(part.mass.volume_mm3, bored(40.0 + i, 40.0 + 2 * i, 12.0 + i), 4) << i;
        EXPECT_NEAR(part.bodies[0].body.box().center().x(), 0, 1e-4);
        EXPECT_NEAR(part.bodies[0].body.box().min().z(), 0, 1e-4);
    }
    EXPECT_NEAR(after.parts[0].mass.volume_mm3, it.volume(), 1e-9) << "the first is as it was";
}

TEST(Recipe, TwoFilesOfOneNameAreBothKept) {
    const Made it = foot();
    auto made =
        same_steps_for(*it.project, it.project->parts[0]->id,
                       {box_file("foot.stl", {0, 0, 0}, {50, 50, 10}), box_file("foot.stl", {0, 0, 0}, {60, 60, 10})});
    ASSERT_TRUE(made);
    const Evaluation after = evaluated(*it.project, made->edit);
    ASSERT_EQ(after.parts.size(), 3u);
    EXPECT_NEAR(after.parts[1].mass.volume_mm3, bored(50, 50, 10), 4);
    EXPECT_NEAR(after.parts[2].mass.volume_mm3, bored(60, 60, 10), 4);
    EXPECT_EQ(after.project->imports.size(), 3u);
}

TEST(Recipe, PartsWithoutAFileAndFilesWithoutABodyAreRefused) {
    const Made plain = make(json::array({block(10, 10, 10)}));
    EXPECT_FALSE(replaced_file(*plain.project, plain.project->parts[0]->id, box_file("a.stl", {0, 0, 0}, {1, 1, 1})));
    EXPECT_FALSE(same_steps_for(*plain.project, plain.project->parts[0]->id, {}));
    const Made it = foot();
    for (const char* bytes : {"", "solid x\nendsolid x\n", "no mesh at all"}) {
        auto edit = replaced_file(*it.project, it.project->parts[0]->id,
                                  {"wrong.stl", std::make_shared<const std::string>(bytes)});
        ASSERT_FALSE(edit) << bytes;
        EXPECT_TRUE(edit.error().sentence.find("wrong.stl") != std::string::npos);
    }
    EXPECT_FALSE(replaced_file(*it.project, PartId(77), box_file("a.stl", {0, 0, 0}, {1, 1, 1})));
}

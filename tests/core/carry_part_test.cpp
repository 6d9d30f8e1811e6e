// Parts doubled, and carried into another project with the numbers and files they are made of.
#include "formats/stl.h"
#include "made_project.h"
#include "project/archive.h"
#include "project/carry_part.h"
#include "project/references.h"
#include "test_meshes.h"
#include <random>

namespace lp {
namespace {

using test::block;
using test::json;
using test::make_parts;
using test::step;

test::Made seed_tray() {
    const json numbers{{"wall", "2 mm"}, {"wide", "wall * 20"}, {"unused", "7 mm"}};
    return make_parts(
        {{"Tray",
          {block(40, 30, 20, "base"), step("fillet", {{"edges", "upright"}, {"radius", "wall"}}, "round"),
           step("shell", {{"open", "top of base"}, {"wall", "wall"}}),
           step("cut_with", {{"tool", "Pin"}, {"fit", "slide"}})}},
         {"Pin", json::array({step("cylinder", {{"diameter", "6 mm"}, {"height", "wide"}, {"at_z", "-5 mm"}})})}},
        numbers);
}

ProjectPtr applied(const Project& project, const Edit& edit) {
    auto edited = apply_edit(project, edit);
    EXPECT_TRUE(edited) << (edited ? "" : edited.error().text());
    return edited ? edited->project : std::make_shared<const Project>(project);
}

double volume(const ProjectPtr& project, const char* name) {
    Evaluator evaluator;
    auto evaluation = evaluator.evaluate(project);
    EXPECT_TRUE(evaluation);
    PartPtr part = project->part_named(name);
    EXPECT_TRUE(part) << name;
    const PartResult* made = part && evaluation ? evaluation->part(part->id) : nullptr;
    for (size_t i = 0; made && i < made->steps.size(); ++i) EXPECT_TRUE(made->steps[i].ok) << made->steps[i].says;
    return made ? made->mass.volume_mm3 : -1;
}

TEST(CarryPart, ADoubleIsThePartAgainAndGoesItsOwnWay) {
    const test::Made m = seed_tray();
    ASSERT_EQ(m.says(), "");
    auto edit = double_part(*m.project, m.project->parts[0]->id);
    ASSERT_TRUE(edit);
    ProjectPtr two = applied(*m.project, *edit);
    ASSERT_EQ(two->parts.size(), 3u);
    EXPECT_EQ(two->parts.back()->name, "Tray 2");
    EXPECT_NE(two->parts.back()->id, two->parts.front()->id);
    EXPECT_NEAR(volume(two, "Tray 2"), volume(two, "Tray"), 1e-9);
    // Another number in the double reaches the double only; a new step gets a number of its own.
    const Part copy = *two->parts.back();
    two = applied(*two, SetField{copy.id, copy.steps[0].id, "size_x", "60 mm"});
    EXPECT_GT(volume(two, "Tray 2"), volume(two, "Tray") + 100);
    two = applied(*two, AddStep{copy.id, step_of_kind("block", {{"at_z", "40 mm"}}), {}});
    std::set<uint64_t> ids;
    for (const Step& s : two->parts.back()->steps) EXPECT_TRUE(ids.insert(s.id.value).second);
}

TEST(CarryPart, ADoubleWithPickedFacesIsTheSameAfterSavingAndOpening) {
    // A face that was picked is kept by the names of its step: the double's must be found again as well.
    const test::Made m = seed_tray();
    ProjectPtr two = applied(*m.project, *double_part(*m.project, m.project->parts[0]->id));
    const double before = volume(two, "Tray 2");
    auto again = project_from_text(project_to_json(*two).dump());
    ASSERT_TRUE(again);
    auto same = std::make_shared<const Project>(*again);
    EXPECT_EQ(project_to_json(*same), project_to_json(*two)) << "no number of a step is given anew";
    EXPECT_NEAR(volume(same, "Tray 2"), before, 1e-9);
}

TEST(CarryPart, IntoAnotherProjectWithItsNumbers) {
    const test::Made m = seed_tray();
    auto bytes = carried_part(*m.project, m.project->parts[1]->id);
    ASSERT_TRUE(bytes) << bytes.error().text();
    auto there = unpacked_part(Project(), *bytes);
    ASSERT_TRUE(there) << there.error().text();
    ProjectPtr other = applied(Project(), there->edit);
    EXPECT_EQ(other->parameters.size(), 2u) << "wall and what is worked out from it, not the unused one";
    EXPECT_NEAR(volume(other, "Pin"), std::numbers::pi * 9 * 40, 1e-6);
    EXPECT_TRUE(there->notes.empty());
    // Where wall is another number, it stays what it is there, and that is said.
    ProjectPtr thick = applied(Project(), SetParameter{"wall", "3 mm", {}, {}});
    auto second = unpacked_part(*thick, *bytes);
    ASSERT_TRUE(second);
    ASSERT_EQ(second->notes.size(), 1u);
    EXPECT_NE(second->notes[0].find("wall is 3 mm here, it was 2 mm"), std::string::npos);
    EXPECT_NEAR(volume(applied(*thick, second->edit), "Pin"), std::numbers::pi * 9 * 60, 1e-6);
    // A part that needs another finds it by its name, and says what it lacks where it is not.
    auto tray = unpacked_part(*other, *carried_part(*m.project, m.project->parts[0]->id));
    ASSERT_TRUE(tray);
    EXPECT_NEAR(volume(applied(*other, tray->edit), "Tray"), m.volume(0), 1e-6);
    auto twice = unpacked_part(*other, *bytes);
    EXPECT_TRUE(applied(*other, twice->edit)->part_named("Pin 2"));
}

TEST(CarryPart, FilesGoAlongUnderAFreeName) {
    const auto with_mesh = [](double size) {
        const std::string stl = write_stl_binary(test::cube(size));
        return test::make_parts({{"Stone", json::array({step("bring_in", {{"file", "stone.stl"}})})}}, json::object(),
                                {{"stone.stl", stl}});
    };
    const test::Made small = with_mesh(10), large = with_mesh(20);
    auto put = unpacked_part(*large.project, *carried_part(*small.project, small.project->parts[0]->id));
    ASSERT_TRUE(put);
    ProjectPtr both = applied(*large.project, put->edit);
    EXPECT_EQ(both->imports.size(), 2u) << "another stone of the same name";
    EXPECT_NEAR(volume(both, "Stone"), 8000, 0.1);
    EXPECT_NEAR(volume(both, "Stone 2"), 1000, 0.1);
}

TEST(CarryPart, AStandInIsMadeOfAMeshAndBack) {
    const test::Made m = seed_tray();
    const PartId pin = m.project->parts[1]->id;
    ProjectPtr bought = applied(*m.project, SetStandIn{pin, true});
    EXPECT_TRUE(bought->part(pin)->stand_in);
    EXPECT_FALSE(applied(*bought, SetStandIn{pin, false})->part(pin)->stand_in);
    EXPECT_FALSE(apply_edit(*m.project, SetStandIn{PartId(999), true}));
}

TEST(CarryPart, WhatIsNoCopiedPartIsRefused) {
    const test::Made m = seed_tray();
    EXPECT_FALSE(double_part(*m.project, PartId(999)));
    EXPECT_FALSE(carried_part(*m.project, PartId(999)));
    for (const char* bytes : {"", "PK", "hello", "{\"format\":\"loose-peg\"}", "PK\x03\x04garbage"})
        EXPECT_FALSE(unpacked_part(Project(), bytes)) << bytes;
    EXPECT_FALSE(unpacked_part(Project(), *project_to_bytes(Project()))) << "a project without a part";
    const std::string whole = *carried_part(*m.project, m.project->parts[0]->id);
    std::mt19937 random(11); // a fixed seed: the same damage every time
    for (int i = 0; i < 300; ++i) {
        std::string damaged = whole;
        if (i % 2) damaged.resize(random() % damaged.size());
        if (!damaged.empty()) damaged[random() % damaged.size()] ^= char(1 + random() % 255);
        if (auto put = unpacked_part(*m.project, damaged))
            apply_edit(*m.project, put->edit); // whatever it says: no crash
        else
            EXPECT_FALSE(put.error().sentence.empty());
    }
}

} // namespace
} // namespace lp

// Every kind of edit: what it changes and nothing else, what it refuses, that it is saved, and that undo takes it back
// to the very same document.
#include "formats/stl.h"
#include "made_project.h"
#include "project/archive.h"
#include "project/history.h"
#include "test_meshes.h"
#include <random>

using namespace lp;
using namespace lp::test;

namespace {

class EveryEdit : public ::testing::Test {
  protected:
    void SetUp() override {
        json whole{
            {"format", "loose-peg"},
            {"version", 1},
            {"name", "Bench"},
            {"parameters", {{"wall", "2 mm"}, {"wide", "wall * 20"}}},
            {"parts",
             json::array({{{"name", "Box"},
                           {"steps", json::array({block(40, 30, 20, "base"),
                                                  step("fillet", {{"edges", "upright"}, {"radius", "wall"}}, "round"),
                                                  step("cut_with", {{"tool", "Pin"}, {"fit", "slide"}})})}},
                          {{"name", "Pin"},
                           {"steps", json::array({step("cylinder", {{"diameter", 6}, {"height", "wide"}})})}}})}};
        auto project = project_from_text(whole.dump());
        ASSERT_TRUE(project) << project.error().text();
        now = std::make_shared<const Project>(*project);
    }
    PartId box() const { return now->parts[0]->id; }
    PartId pin() const { return now->parts[1]->id; }
    StepId step_of_box(size_t i) const { return now->parts[0]->steps.at(i).id; }
    /// Does it; checks that it is kept by a file and that undo gives back the very document it was.
    ProjectPtr done(const Edit& edit, const std::string& sentence) {
        auto edited = apply_edit(*now, edit);
        EXPECT_TRUE(edited) << (edited ? "" : edited.error().text());
        if (!edited) return now;
        EXPECT_NE(edited->project, now);
        EXPECT_NE(edited->sentence.find(sentence), std::string::npos) << edited->sentence;
        History history(now);
        history.push(*edited);
        history.undo();
        EXPECT_EQ(history.now(), now);
        history.redo();
        EXPECT_EQ(history.now(), edited->project);
        auto text = project_to_json(*edited->project);
        auto read = project_from_text(text.dump());
        EXPECT_TRUE(read) << (read ? "" : read.error().text());
        EXPECT_TRUE(read && project_to_json(*read) == text) << "saved and read again";
        return edited->project;
    }
    void refused(const Edit& edit, const std::string& because) {
        auto before = project_to_json(*now);
        auto edited = apply_edit(*now, edit);
        ASSERT_FALSE(edited) << "expected: " << because;
        EXPECT_NE(edited.error().text().find(because), std::string::npos) << edited.error().text();
        EXPECT_EQ(project_to_json(*now), before) << "nothing changes";
    }
    ProjectPtr now;
};

} // namespace

TEST_F(EveryEdit, OfNumbersByName) {
    auto more = done(SetParameter{"deep", "wall + 1 mm", QuantityKind::Length, "of the floor"}, "deep");
    ASSERT_EQ(more->parameters.size(), 3u);
    EXPECT_EQ(more->parameters[2].note, "of the floor");
    EXPECT_EQ(more->parts[0], now->parts[0]) << "parts are shared";
    auto other = done(SetParameter{"wall", "3 mm", {}, {}}, "wall");
    EXPECT_EQ(other->parameters[0].expression, "3 mm");
    auto renamed = done(RenameParameter{"wall", "thick"}, "thick");
    EXPECT_EQ(renamed->parts[0]->steps[1].fields.at("radius"), "thick");
    EXPECT_EQ(renamed->parameters[1].expression, "thick * 20");
    refused(RemoveParameter{"wall"}, "in use");
    refused(RemoveParameter{"nothing"}, "nothing");
    refused(RenameParameter{"wall", "wide"}, "wide");
    refused(RenameParameter{"wall", "2nd"}, "2nd");
    refused(RenameParameter{"nothing", "something"}, "nothing");
    refused(SetParameter{"wall", "wide / 10", {}, {}}, "wall"); // a circle
    refused(SetParameter{"wall", "2 deg", {}, {}}, "");
    refused(SetParameter{"mm", "2", {}, {}}, "mm");
    refused(SetParameter{"", "2", {}, {}}, "");
    auto alone = apply_edit(*now, SetParameter{"spare", "1 mm", QuantityKind::Length, {}});
    ASSERT_TRUE(alone);
    now = alone->project;
    EXPECT_EQ(done(RemoveParameter{"spare"}, "spare")->parameters.size(), 2u);
}

TEST_F(EveryEdit, OfSteps) {
    auto set = done(SetField{box(), step_of_box(0), "size_x", "wide + 5"}, "size x");
    EXPECT_EQ(set->parts[0]->steps[0].fields.at("size_x"), "wide + 5");
    EXPECT_EQ(set->parts[1], now->parts[1]);
    refused(SetField{box(), step_of_box(0), "size_x", "-4"}, "");
    refused(SetField{box(), step_of_box(0), "size_x", "nothing_there"}, "nothing_there");
    refused(SetField{box(), step_of_box(0), "no_such_field", "4"}, "no_such_field");
    refused(SetField{box(), StepId(987654321), "size_x", "4"}, "");
    refused(SetField{PartId(987654321), step_of_box(0), "size_x", "4"}, "");
    refused(SetField{box(), step_of_box(0), "from", "somewhere"}, "somewhere");
    auto added = done(AddStep{box(), step_of_kind("cylinder", {{"does", "cut"}}), 1}, "Cylinder");
    ASSERT_EQ(added->parts[0]->steps.size(), 4u);
    EXPECT_EQ(added->parts[0]->steps[1].kind, "cylinder");
    EXPECT_TRUE(added->parts[0]->steps[1].id) << "it has got an id";
    refused(AddStep{box(), step_of_kind("no such kind", {}), {}}, "no such kind");
    auto off = done(SwitchStep{box(), step_of_box(1), false}, "");
    EXPECT_FALSE(off->parts[0]->steps[1].on);
    auto named = done(NameStep{box(), step_of_box(1), "soft"}, "soft");
    EXPECT_EQ(named->parts[0]->steps[1].name, "soft");
    auto removed = done(RemoveStep{box(), step_of_box(2)}, "");
    EXPECT_EQ(removed->parts[0]->steps.size(), 2u);
    auto moved = done(MoveStep{box(), step_of_box(2), 1}, "");
    EXPECT_EQ(moved->parts[0]->steps[1].id, step_of_box(2));
    auto grouped = done(GroupSteps{box(), {step_of_box(1), step_of_box(2)}, "ends"}, "ends");
    EXPECT_EQ(grouped->parts[0]->steps[2].group, "ends");
    auto copied = done(CopyStep{box(), step_of_box(0), pin(), {}}, "");
    ASSERT_EQ(copied->parts[1]->steps.size(), 2u);
    EXPECT_NE(copied->parts[1]->steps[1].id, step_of_box(0));
    EXPECT_EQ(copied->parts[1]->steps[1].fields.at("size_x"), now->parts[0]->steps[0].fields.at("size_x"));
}

TEST_F(EveryEdit, OfParts) {
    Part fresh;
    fresh.name = "Lid";
    auto added = done(AddPart{fresh}, "Lid");
    ASSERT_EQ(added->parts.size(), 3u);
    EXPECT_TRUE(added->parts[2]->id && added->parts[2]->id != box() && added->parts[2]->id != pin());
    fresh.name = "Pin";
    auto twice = apply_edit(*now, AddPart{fresh});
    EXPECT_TRUE(!twice || twice->project->parts[2]->name != "Pin") << "no two parts of one name";
    refused(RemovePart{pin()}, "Box");
    EXPECT_EQ(done(RemovePart{box()}, "Box")->parts.size(), 1u);
    auto renamed = done(RenamePart{pin(), "Peg"}, "Peg");
    EXPECT_EQ(renamed->parts[0]->steps[2].fields.at("tool"), "Peg");
    refused(RenamePart{pin(), "Box"}, "Box");
    refused(RenamePart{pin(), ""}, "");
    EXPECT_EQ(done(SetQuantity{pin(), 4}, "4")->parts[1]->quantity, 4);
    refused(SetQuantity{pin(), -1}, "");
    EXPECT_FALSE(done(SetVisible{pin(), false}, "")->parts[1]->visible);
    EXPECT_TRUE(done(SetSeeThrough{pin(), true}, "")->parts[1]->see_through);
    AssemblyPlace place;
    place.at[2] = "wall * 3";
    auto placed = done(SetPlace{pin(), place}, "");
    EXPECT_EQ(placed->parts[1]->place.at[2], "wall * 3");
    place.at[2] = "nothing_there";
    refused(SetPlace{pin(), place}, "nothing_there");
    auto renamed_number = apply_edit(*placed, RenameParameter{"wall", "thick"});
    ASSERT_TRUE(renamed_number);
    EXPECT_EQ(renamed_number->project->parts[1]->place.at[2], "thick * 3") << "places follow too";
}

TEST_F(EveryEdit, OfVariants) {
    auto kept = done(KeepVariant{box(), "low"}, "low");
    ASSERT_EQ(kept->parts[0]->variants.size(), 1u);
    now = kept;
    auto higher = apply_edit(*now, SetField{box(), step_of_box(0), "size_z", "50"});
    ASSERT_TRUE(higher);
    now = higher->project;
    auto used = done(UseVariant{box(), "low"}, "low");
    EXPECT_EQ(used->parts[0]->steps[0].fields.at("size_z"), "20");
    refused(UseVariant{box(), "no such"}, "no such");
    refused(RemoveVariant{box(), "no such"}, "no such");
    EXPECT_TRUE(done(RemoveVariant{box(), "low"}, "low")->parts[0]->variants.empty());
    refused(KeepVariant{box(), ""}, "");
}

TEST_F(EveryEdit, OfContactsMovementsAndFits) {
    auto wished = done(SetContact{"Pin", "Box", "loose"}, "loose");
    ASSERT_EQ(wished->contacts.size(), 1u);
    now = wished;
    EXPECT_TRUE(done(SetContact{"Pin", "Box", ""}, "")->contacts.empty());
    refused(SetContact{"Pin", "Box", "no such fit"}, "no such fit");
    auto renamed = apply_edit(*now, RenamePart{pin(), "Peg"});
    ASSERT_TRUE(renamed);
    EXPECT_EQ(renamed->project->contacts[0].a, "Peg");
    KeptMovement movement;
    movement.moving = "Pin";
    movement.kind = "slide";
    movement.direction = {"0", "0", "1"};
    movement.to = "wall * 4";
    movement.step = "1 mm";
    auto moving = done(AddMovement{movement}, "Pin");
    ASSERT_EQ(moving->movements.size(), 1u);
    now = moving;
    movement = moving->movements[0];
    movement.to = "nothing_there";
    refused(SetMovement{movement}, "nothing_there");
    movement.to = "12 mm";
    EXPECT_EQ(done(SetMovement{movement}, "")->movements[0].to, "12 mm");
    EXPECT_TRUE(done(RemoveMovement{movement.id}, "")->movements.empty());
    refused(RemoveMovement{MovementId(987654321)}, "");
    auto wider = done(SetFitGap{"slide", 0.33}, "slide");
    EXPECT_DOUBLE_EQ(find_fit(wider->fits, "slide")->gap_mm, 0.33);
    refused(SetFitGap{"no such fit", 0.3}, "no such fit");
    refused(SetFitGap{"slide", 90}, "");
}

TEST_F(EveryEdit, OfCardsSupportsAndTheProject) {
    PrinterCard card = now->printer;
    card.hole_shrink_mm = 0.22;
    EXPECT_DOUBLE_EQ(done(SetPrinter{card}, "")->printer.hole_shrink_mm, 0.22);
    card.layer_height_mm = -1;
    refused(SetPrinter{card}, "");
    card = now->printer;
    card.nozzle_mm = std::nan("");
    refused(SetPrinter{card}, "");
    MaterialCard material = now->material;
    material.name = "PETG";
    EXPECT_EQ(done(SetMaterial{material}, "material")->material.name, "PETG");
    SupportSettings supports = now->parts[0]->supports;
    supports.on = true;
    EXPECT_TRUE(done(SetSupports{box(), supports}, "")->parts[0]->supports.on);
    supports.options.tip_mm = 9;
    refused(SetSupports{box(), supports}, "support");
    EXPECT_EQ(done(SetProjectName{"Shed"}, "Shed")->name, "Shed");
    refused(SetProjectName{""}, "");
    auto file = std::make_shared<const std::string>(write_stl_binary(cube(3)));
    EXPECT_EQ(done(AddImport{"knob.stl", file}, "knob")->imports.count("knob.stl"), 1u);
}

TEST_F(EveryEdit, ANameThatNeverWasIsNotCalledGoneAndTheOthersAreNamed) {
    struct Case {
        Edit edit;
        const char *named, *among;
    };
    const Case cases[] = {
        {RemoveParameter{"depth"}, "no number called \"depth\"", "wall, wide"},
        {RenameParameter{"depth", "deep"}, "no number called \"depth\"", "wall, wide"},
        {UseVariant{box(), "flat"}, "no variant of Box called \"flat\"", "There is none"},
        {SetFitGap{"wobbly", 0.3}, "no fit called \"wobbly\"", "slide"},
        {SetField{box(), step_of_box(0), "length", "4"}, "no field of a block called \"length\"", "size_x"},
        {SetContact{"Pin", "Lamp", ""}, "\"Lamp\"", ""}};
    for (const Case& one : cases) {
        auto edited = apply_edit(*now, one.edit);
        ASSERT_FALSE(edited) << one.named;
        EXPECT_EQ(edited.error().code, ProblemCode::Missing);
        const std::string text = edited.error().text();
        EXPECT_NE(text.find(one.named), std::string::npos) << text;
        EXPECT_NE(text.find(one.among), std::string::npos) << text;
        EXPECT_EQ(text.find("any more"), std::string::npos) << text;
        EXPECT_LT(text.size(), 500u) << text;
    }
    // What was there and is not: of that "any more" is true.
    auto without = apply_edit(*now, RemoveStep{box(), step_of_box(2)});
    ASSERT_TRUE(without);
    auto again = apply_edit(*without->project, RemoveStep{box(), step_of_box(2)});
    ASSERT_FALSE(again);
    EXPECT_NE(again.error().text().find("not there any more"), std::string::npos) << again.error().text();
    // A long name is cut, not read out.
    auto long_name = apply_edit(*now, RemoveParameter{std::string(4000, 'x')});
    ASSERT_FALSE(long_name);
    EXPECT_LT(long_name.error().text().size(), 500u);
}

TEST_F(EveryEdit, SeveralInOneAreAllOrNothing) {
    Edit both;
    both.parts = {SetParameter{"wall", "4 mm", {}, {}}, SetField{box(), step_of_box(0), "size_x", "nothing_there"}};
    refused(both, "nothing_there");
    both.parts[1] = SetField{box(), step_of_box(0), "size_x", "wall * 9"};
    both.sentence = "Made it wider";
    auto made = done(both, "Made it wider");
    EXPECT_EQ(made->parameters[0].expression, "4 mm");
    EXPECT_EQ(made->parts[0]->steps[0].fields.at("size_x"), "wall * 9");
}

TEST_F(EveryEdit, AThousandAtRandomNeverLeaveADocumentThatCannotBeReadOrTakenBack) {
    std::mt19937 random(77); // fixed
    auto any = [&](int n) { return int(random() % unsigned(n)); };
    const char* texts[] = {"5", "wall", "wide / 4", "-3",      "nothing_there", "12 mm",
                           "",  "1e9",  "all",      "upright", "Pin",           "xz"};
    History history(now);
    size_t done_ones = 0, refused_ones = 0;
    for (int round = 0; round < 1000; ++round) {
        const Project& p = *history.now();
        const PartPtr part = p.parts.empty() ? nullptr : p.parts[size_t(any(int(p.parts.size())))];
        const PartId id = part ? part->id : PartId(1);
        const Step* one = part && !part->steps.empty() ? &part->steps[size_t(any(int(part->steps.size())))] : nullptr;
        const StepId of = one ? one->id : StepId(1);
        const std::string text = texts[any(12)];
        std::vector<Edit> ways{
            SetParameter{"n" + std::to_string(any(4)), text, {}, {}},
            RemoveParameter{"n" + std::to_string(any(4))},
            RenameParameter{"n" + std::to_string(any(4)), "n" + std::to_string(any(4))},
            SwitchStep{id, of, any(2) == 0},
            NameStep{id, of, text},
            MoveStep{id, of, size_t(any(5))},
            RemoveStep{id, of},
            RenamePart{id, text},
            CopyStep{id, of, p.parts.empty() ? id : p.parts[size_t(any(int(p.parts.size())))]->id, {}},
            AddStep{id, step_of_kind(step_kinds()[size_t(any(int(step_kinds().size())))].id, {}), {}},
            KeepVariant{id, text},
            UseVariant{id, text},
            SetContact{"Pin", text, "slide"},
            SetQuantity{id, any(5) - 1}};
        if (one)
            if (const StepKind* kind = find_step_kind(one->kind); kind && !kind->fields.empty())
                ways.push_back(SetField{id, of, kind->fields[size_t(any(int(kind->fields.size())))].name, text});
        if (any(10) == 0) ways = {Edit(RemovePart{id})};
        if (any(12) == 0) {
            Part fresh;
            fresh.name = free_part_name(p, "New");
            ways = {Edit(AddPart{fresh})};
        }
        auto edited = apply_edit(p, ways[size_t(any(int(ways.size())))]);
        edited ? ++done_ones : ++refused_ones;
        if (edited) {
            // Without a sentence nothing was done, and nothing is to be taken back.
            if (edited->sentence.empty()) {
                EXPECT_EQ(project_to_json(*edited->project), project_to_json(p));
            }
            const size_t before = history.position();
            history.push(*edited);
            EXPECT_TRUE(history.position() > before || edited->sentence.empty() || before + 1 >= History::longest);
        } else {
            EXPECT_FALSE(edited.error().sentence.empty());
        }
        if (any(20) == 0) history.undo();
        if (round % 25 == 0) {
            auto text_now = project_to_json(*history.now());
            auto read = project_from_text(text_now.dump());
            ASSERT_TRUE(read) << round << ": " << read.error().text();
            EXPECT_EQ(project_to_json(*read), text_now) << round;
        }
    }
    EXPECT_GT(done_ones, 200u);
    EXPECT_GT(refused_ones, 100u);
    while (history.can_undo()) history.undo();
    auto first = History::longest > done_ones ? project_to_json(*now) : project_to_json(*history.now());
    EXPECT_EQ(project_to_json(*history.now()), first);
}

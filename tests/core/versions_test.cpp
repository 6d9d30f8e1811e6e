// Versions kept by a name: numbers that changed, bodies compared by inclusion and exclusion, a number taken back.
#include "made_project.h"
#include "project/archive.h"
#include "project/versions.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

Made edited(const Made& m, const Edit& edit) {
    auto next = apply_edit(*m.project, edit);
    EXPECT_TRUE(next) << next.error().text();
    Made made;
    made.project = next ? next->project : m.project;
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}

/// A plate with a hole; its first version is kept, then the plate gets longer and the hole wider.
Made changed_plate() {
    const Made first = make({step("block", {{"size_x", "long"}, {"size_y", 20}, {"size_z", 5}}),
                             step("cylinder", {{"diameter", 6}, {"height", 5}, {"does", "cut"}}, "hole")},
                            {{"long", "40 mm"}});
    const Made kept = edited(first, KeepVersion{"first print", "2026-11-30"});
    const Made longer = edited(kept, SetParameter{"long", "50 mm", {}, {}});
    return edited(longer, SetField{longer.part().part, longer.project->parts[0]->steps[1].id, "diameter", "8 mm"});
}

} // namespace

TEST(Versions, TellWhatNumbersHaveChangedAndTakeOneBack) {
    Made made = changed_plate();
    auto before = version_of(*made.project, "first print");
    ASSERT_TRUE(before) << before.error().text();
    EXPECT_TRUE((*before)->versions.empty());
    auto all = number_differences(**before, *made.project);
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0].words, "long");
    EXPECT_EQ(all[0].before, "40 mm");
    EXPECT_EQ(all[0].now, "50 mm");
    EXPECT_EQ(all[1].words, "P, step 2, diameter");
    EXPECT_EQ(all[1].now, "8 mm");
    const Made back = edited(made, TakeFromVersion{"first print", all[1].key});
    EXPECT_NEAR(back.volume(), 50 * 20 * 5 - pi * 9 * 5, 1e-6) << "the hole as it was, the plate as it is";
    EXPECT_EQ(number_differences(**before, *back.project).size(), 1u);
    // Cards, fits and quantities too.
    Made other = edited(made, SetNumber{"printer nozzle_mm", "0.6"});
    other = edited(other, SetNumber{"fit slide", "0.4 mm"});
    other = edited(other, SetQuantity{other.part().part, 4});
    for (const char* key : {"printer nozzle_mm", "fit slide"}) {
        const auto now = number_differences(**before, *other.project);
        EXPECT_TRUE(std::any_of(now.begin(), now.end(), [&](const auto& d) { return d.key == key; })) << key;
        other = edited(other, TakeFromVersion{"first print", key});
    }
    EXPECT_EQ(other.project->printer.nozzle_mm, 0.4);
    other = edited(other, TakeFromVersion{"first print", std::to_string(other.part().part.value) + ".quantity"});
    EXPECT_EQ(other.project->parts[0]->quantity, 1);
    // What is not there in both cannot be taken; what is no difference neither.
    const Made more = edited(made, SetParameter{"wide", "3 mm", QuantityKind::Length, {}});
    EXPECT_FALSE(apply_edit(*more.project, TakeFromVersion{"first print", "wide"}));
    EXPECT_FALSE(apply_edit(*more.project, TakeFromVersion{"first print", "printer nozzle_mm"}));
    EXPECT_FALSE(apply_edit(*more.project, TakeFromVersion{"second print", "long"}));
    EXPECT_FALSE(apply_edit(*more.project, TakeFromVersion{"first print", ""}));
}

TEST(Versions, NumbersAreToldWithTheirUnitsAndWhatFormulasComeTo) {
    Made made = changed_plate();
    const StepId plate = made.project->parts[0]->steps[0].id;
    made = edited(made, SetField{made.part().part, plate, "size_y", "30"});
    made = edited(made, SetField{made.part().part, plate, "size_z", "long / 10"});
    made = edited(made, SetNumber{"printer nozzle_mm", "0.6"});
    made = edited(made, SetQuantity{made.part().part, 4});
    std::map<std::string, std::string> told;
    for (const NumberDifference& d : number_differences(**version_of(*made.project, "first print"), *made.project))
        told[d.words] = d.before_told + " -> " + d.now_told;
    EXPECT_EQ(told["long"], "40 mm -> 50 mm");
    EXPECT_EQ(told["P, step 1, size y"], "20 mm -> 30 mm") << "typed without a unit";
    EXPECT_EQ(told["P, step 1, size z"], "5 mm -> long / 10 = 5 mm") << "by today's numbers";
    EXPECT_EQ(told["printer card, nozzle"], "0.4 mm -> 0.6 mm");
    EXPECT_EQ(told["P, pieces"], "1 -> 4");
}

TEST(Versions, CompareBodiesByWhatWasAddedAndTakenAway) {
    Made made = changed_plate();
    Evaluator evaluator;
    auto before = version_of(*made.project, "first print");
    auto all = part_differences(evaluator, *before, made.project);
    ASSERT_TRUE(all) << all.error().text();
    ASSERT_EQ(all->size(), 1u);
    const PartDifference& plate = all->front();
    // Ten longer: five at either end. The ring between the holes is gone (facets: a chord's worth less).
    ASSERT_TRUE(plate.added_mm3 && plate.removed_mm3);
    EXPECT_NEAR(*plate.added_mm3, 10 * 20 * 5, 1e-6);
    EXPECT_NEAR(*plate.removed_mm3, pi * (16 - 9) * 5, 1);
    EXPECT_NEAR(plate.now->volume_mm3 - plate.before->volume_mm3, *plate.added_mm3 - *plate.removed_mm3, 1);
    EXPECT_NE(plate.says().find("1.00 added, 0.1"), std::string::npos) << plate.says();
    EXPECT_FALSE(plate.same());
    // Nothing changed; a part that is new and one that is gone.
    auto same = part_differences(evaluator, made.project, made.project);
    EXPECT_TRUE(same->front().same());
    EXPECT_EQ(same->front().says(), "as it was");
    auto emptied = std::make_shared<Project>(*made.project);
    emptied->parts.clear();
    EXPECT_EQ(part_differences(evaluator, emptied, made.project)->front().says().rfind("new: ", 0), 0u);
    EXPECT_EQ(part_differences(evaluator, made.project, emptied)->front().says().rfind("no more there: ", 0), 0u);
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(part_differences(evaluator, *before, made.project, stopped));
}

TEST(Versions, AreSavedReplacedDroppedAndHeldAgainstBadFiles) {
    Made made = changed_plate();
    EXPECT_EQ(made.project->versions.size(), 1u);
    auto bytes = project_to_bytes(*made.project);
    ASSERT_TRUE(bytes);
    auto again = project_from_bytes(*bytes);
    ASSERT_TRUE(again) << again.error().text();
    ASSERT_EQ(again->versions.size(), 1u);
    EXPECT_EQ(*again->versions[0].text, *made.project->versions[0].text);
    EXPECT_EQ(again->versions[0].date, "2026-11-30");
    // The same name takes its place; a version never holds versions.
    made = edited(made, KeepVersion{"first print", "2026-12-01"});
    made = edited(made, KeepVersion{"second", ""});
    ASSERT_EQ(made.project->versions.size(), 2u);
    EXPECT_EQ(made.project->versions[0].date, "2026-12-01");
    EXPECT_EQ(made.project->versions[1].text->find("first print"), std::string::npos);
    made = edited(made, RemoveVersion{"first print"});
    EXPECT_EQ(made.project->versions.size(), 1u);
    EXPECT_FALSE(apply_edit(*made.project, RemoveVersion{"first print"}));
    EXPECT_FALSE(apply_edit(*made.project, KeepVersion{"", ""}));
    for (int i = 0; i < 49; ++i)
        made.project = apply_edit(*made.project, KeepVersion{"v" + std::to_string(i), ""})->project;
    EXPECT_FALSE(apply_edit(*made.project, KeepVersion{"one more", ""}));
    auto text = [](const char* versions) {
        return std::string(R"({"format":"loose-peg","version":1,"parts":[],"versions":)") + versions + "}";
    };
    EXPECT_FALSE(project_from_text(text("7")));
    EXPECT_FALSE(project_from_text(text("[7]")));
    EXPECT_FALSE(project_from_text(text(R"([{"name":"a","project":{}}])")));
    auto broken = project_from_text(text(R"([{"name":"a","project":"{\"format\":"}])"));
    ASSERT_TRUE(broken) << "the project itself is sound";
    EXPECT_FALSE(version_of(*broken, "a")) << "told when it is asked for";
}

// Formulas typed for numbers of cards, fits and supports.
#include "project/edit.h"
#include "project/project_json.h"
#include "project/references.h"
#include "project/typed_numbers.h"
#include <gtest/gtest.h>

using namespace lp;

namespace {

Project with_wall(const std::string& wall = "2 mm") {
    Project project;
    project.parameters = {{"wall", wall, QuantityKind::Length, {}}};
    auto part = std::make_shared<Part>();
    part->id = PartId(7);
    part->name = "Cradle";
    project.parts = {part};
    project.next_id = 8;
    return project;
}

Project edited(const Project& project, const Edit& edit) {
    auto next = apply_edit(project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    return next ? *next->project : project;
}

} // namespace

TEST(TypedNumbers, EveryKindOfNumberIsSetByItsKey) {
    Project project = with_wall();
    const std::pair<const char*, const char*> all[] = {
        {"printer nozzle_mm", "0.3*2"},         {"printer overhang_limit_deg", "45 deg + 5 deg"},
        {"printer infill_percent", "10*2"},     {"material price_per_kg", "18+2.5"},
        {"material fit slide", "wall/10"},      {"fit slide", "wall/10 + 0.05"},
        {"supports 7 contact_gap_mm", "wall/8"}};
    const double values[] = {0.6, 50, 20, 20.5, 0.2, 0.25, 0.25};
    for (size_t i = 0; i < std::size(all); ++i) {
        project = edited(project, SetNumber{all[i].first, all[i].second});
        EXPECT_NEAR(number_now(project, all[i].first)->value, values[i], 1e-12) << all[i].first;
        EXPECT_EQ(project.formulas[all[i].first], all[i].second);
        EXPECT_FALSE(number_words(project, all[i].first).empty());
    }
    EXPECT_NEAR(project.printer.nozzle_mm, 0.6, 1e-12);
    EXPECT_NEAR(project.part(PartId(7))->supports.options.contact_gap_mm, 0.25, 1e-12);
    // Kept in the file and read again.
    auto again = project_from_json(project_to_json(project));
    ASSERT_TRUE(again);
    EXPECT_EQ(again->formulas, project.formulas);
}

TEST(TypedNumbers, FollowTheNamedNumberAndItsName) {
    Project project = edited(with_wall(), SetNumber{"fit slide", "wall/10 + 0.05"});
    project = edited(project, SetParameter{"wall", "3 mm", {}, {}});
    EXPECT_NEAR(number_now(project, "fit slide")->value, 0.35, 1e-12);
    project = edited(project, RenameParameter{"wall", "thick"});
    EXPECT_EQ(project.formulas["fit slide"], "thick/10 + 0.05");
    auto removed = apply_edit(project, RemoveParameter{"thick"});
    ASSERT_FALSE(removed) << "it is in use";
    EXPECT_NE(removed.error().text().find("fit slide"), std::string::npos) << removed.error().text();
}

TEST(TypedNumbers, AreForgottenWhenTheNumberIsSetOtherwise) {
    Project project = edited(with_wall(), SetNumber{"fit slide", "wall/10 + 0.05"});
    EXPECT_TRUE(edited(project, SetNumber{"fit slide", "0.3"}).formulas.empty()) << "a plain number typed";
    EXPECT_TRUE(edited(project, SetFitGap{"slide", 0.4}).formulas.empty()) << "dragged on the ruler";
    Project tuned = edited(project, SetNumber{"printer outside_growth_mm", "0.05*3"});
    PrinterCard other = tuned.printer;
    other.outside_growth_mm = 0.02;
    tuned = edited(tuned, SetPrinter{other});
    EXPECT_EQ(tuned.formulas.count("printer outside_growth_mm"), 0u) << "another card taken";
    EXPECT_EQ(tuned.formulas.count("fit slide"), 1u);
    EXPECT_TRUE(edited(project, RemovePart{PartId(7)}).formulas.count("fit slide"));
    Project held = edited(with_wall(), SetNumber{"supports 7 tip_mm", "wall/2"});
    EXPECT_TRUE(edited(held, RemovePart{PartId(7)}).formulas.empty()) << "gone with its part";
}

TEST(TypedNumbers, WhatMakesNoSenseIsRefusedAndNothingChanges) {
    const Project project = edited(with_wall(), SetNumber{"printer nozzle_mm", "wall/5"});
    for (const SetNumber& bad :
         {SetNumber{"printer nozzle_mm", "-1"}, SetNumber{"printer nozzle_mm", "no_such/2"},
          SetNumber{"printer nozzle_mm", "1/0"}, SetNumber{"printer bed_mm", "3"}, SetNumber{"printer gauges", "3"},
          SetNumber{"fit none", "1"}, SetNumber{"supports 9 tip_mm", "1"}, SetNumber{"supports x tip_mm", "1"},
          SetNumber{"supports 99999999999999999999 tip_mm", "1"}, SetNumber{"", "1"}, SetNumber{"fit slide", ""},
          SetNumber{"fit slide", "slide+1"}})
        EXPECT_FALSE(apply_edit(project, bad)) << bad.key << " = " << bad.typed;
    // A named number that would make the card senseless says where.
    auto far = apply_edit(project, SetParameter{"wall", "-4 mm", {}, {}});
    ASSERT_FALSE(far);
    EXPECT_NE(far.error().text().find("the printer card, nozzle"), std::string::npos) << far.error().text();
}

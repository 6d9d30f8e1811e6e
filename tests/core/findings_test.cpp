// Findings as a table, gathered from whoever found them; and the list of analyses, wanted ones first.
#include "made_project.h"
#include "project/analysis.h"
#include "project/contact_words.h"
#include "project/findings.h"
#include <set>

using namespace lp;
using namespace lp::test;

namespace {

bool has(const std::vector<PartFinding>& all, FindingKind kind) {
    return std::any_of(all.begin(), all.end(), [&](const PartFinding& f) { return f.finding.kind == kind; });
}
/// A table top on one foot: the top hangs.
json table_on_a_foot() {
    return json::array({block(10, 10, 20, "foot"),
                        step("block", {{"size_x", 60}, {"size_y", 60}, {"size_z", 4}, {"at_z", 20}}, "top")});
}
ProjectPtr edited(const ProjectPtr& project, const Edit& edit) {
    auto next = apply_edit(*project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    return next ? next->project : project;
}

} // namespace

TEST(Findings, EveryKindHasOneRowWithWordsOfItsOwn) {
    std::set<std::string> ids, titles;
    for (const FindingRow& row : finding_rows()) {
        EXPECT_TRUE(ids.insert(row.id).second) << row.id;
        EXPECT_TRUE(titles.insert(row.title).second) << row.title;
        EXPECT_EQ(&row_of(row.kind), &row);
        EXPECT_EQ(std::string(row.id).find_first_not_of("abcdefghijklmnopqrstuvwxyz_"), std::string::npos) << row.id;
    }
    EXPECT_EQ(ids.size(), size_t(FindingKind::Fused) + 1) << "a row for each kind";
}
TEST(Findings, CountIsSaidWhereItCountsThings) {
    Finding open, hanging, named;
    open.kind = FindingKind::Open, open.count = 12;
    hanging.kind = FindingKind::Hanging, hanging.count = 4711;
    named = open;
    EXPECT_NE(open.title_and_count().find("12"), std::string::npos);
    EXPECT_EQ(hanging.title_and_count().find("4711"), std::string::npos) << "facets are no things a maker counts";
    named.title = "Open rim";
    EXPECT_EQ(named.title_and_count().rfind("Open rim", 0), 0u);
}
TEST(Findings, AFailedStepIsFoundBeforeAnythingWasAnalysed) {
    Made m = make({block(20, 20, 10), step("fillet", {{"edges", "of top of b"}, {"radius", 40}})});
    ASSERT_NE(m.says(), "");
    auto all = all_findings(m.evaluation, nullptr);
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0].finding.kind, FindingKind::FailedStep);
    EXPECT_EQ(all[0].finding.step, m.project->parts[0]->steps[1].id);
    EXPECT_EQ(all[0].ref.part, m.part().part);
    EXPECT_EQ(open_findings(m.evaluation, nullptr, FindingStage::Shape), 1u);
    EXPECT_EQ(open_findings(m.evaluation, nullptr, FindingStage::Bed), 0u);
}
TEST(Findings, WhatHangsIsOpenUntilSupportsStandUnderIt) {
    Made m = make(table_on_a_foot());
    auto analysis = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(analysis);
    PartId part = m.part().part;
    EXPECT_TRUE(has(findings_of_part(m.evaluation, &*analysis, part), FindingKind::Hanging));
    size_t open = open_findings(m.evaluation, &*analysis, row_of(FindingKind::Hanging).stage);
    EXPECT_GE(open, 1u);
    SupportSettings supports;
    supports.on = true;
    m.project = edited(m.project, SetSupports{part, supports});
    m.evaluation = *Evaluator().evaluate(m.project);
    auto with = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(with);
    EXPECT_GT(with->part(part)->supports.posts.size(), 0u);
    EXPECT_TRUE(has(findings_of_part(m.evaluation, &*with, part), FindingKind::Hanging)) << "it still hangs";
    EXPECT_LT(open_findings(m.evaluation, &*with, row_of(FindingKind::Hanging).stage), open) << "but is no open matter";
    // The same by turning it over: nothing hangs.
    PrintPose over;
    over.down = {0, 0, 1};
    m.project = edited(edited(m.project, SetSupports{part, {}}), SetPose{part, over});
    m.evaluation = *Evaluator().evaluate(m.project);
    auto turned = Analyser().analyse(m.evaluation);
    EXPECT_FALSE(has(findings_of_part(m.evaluation, &*turned, part), FindingKind::Hanging));
}
TEST(Findings, ReferencesTellFindingsOfOneKindApart) {
    // Two lumps float in the air beside a post.
    Made m = make(
        {block(10, 10, 10),
         step("block", {{"size_x", 6}, {"size_y", 6}, {"size_z", 6}, {"at_x", 30}, {"at_z", 20}, {"does", "new"}}),
         step("block", {{"size_x", 6}, {"size_y", 6}, {"size_z", 6}, {"at_x", -30}, {"at_z", 20}, {"does", "new"}})});
    auto analysis = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(analysis);
    auto all = all_findings(m.evaluation, &*analysis);
    EXPECT_TRUE(has(all, FindingKind::MidAir));
    for (size_t i = 0; i < all.size(); ++i)
        for (size_t j = 0; j < i; ++j) EXPECT_FALSE(all[i].ref == all[j].ref) << all[i].finding.says;
    // Asked again, the references are the same.
    auto anew = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(anew);
    auto again = all_findings(m.evaluation, &*anew);
    ASSERT_EQ(again.size(), all.size());
    for (size_t i = 0; i < all.size(); ++i) EXPECT_TRUE(all[i].ref == again[i].ref);
}
TEST(Findings, APartLargerThanTheBedIsFoundByTheCard) {
    Made m = make(json::array({block(60, 60, 10)}));
    PrinterCard card = m.project->printer;
    card.bed_mm = {50, 50, 50};
    m.project = edited(m.project, SetPrinter{card});
    m.evaluation = *Evaluator().evaluate(m.project);
    auto analysis = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(analysis);
    auto all = all_findings(m.evaluation, &*analysis);
    ASSERT_TRUE(has(all, FindingKind::TooBig));
    EXPECT_GE(open_findings(m.evaluation, &*analysis, row_of(FindingKind::TooBig).stage), 1u);
}
TEST(Findings, AMeshWithAHoleWantsMendingAndAfterMendingDoesNot) {
    // Four facets of a box of twelve are missing: two sides are open.
    TriMesh mesh = box_mesh({0, 0, 0}, {10, 10, 10});
    mesh.triangles.resize(8);
    auto bytes = find_format("stl")->write({{.name = "box", .mesh = mesh}}, "box", {});
    ASSERT_TRUE(bytes);
    json steps = json::array({step("bring_in", {{"file", "box.stl"}})});
    Made raw = make(steps, json::object(), {{"box.stl", *bytes}});
    auto analysis = Analyser().analyse(raw.evaluation);
    ASSERT_TRUE(analysis);
    EXPECT_TRUE(wants_mending(raw.evaluation, *analysis, raw.part().part));
    EXPECT_TRUE(has(all_findings(raw.evaluation, &*analysis), FindingKind::Open));
    steps.push_back(step("mend", json::object()));
    Made mended = make(steps, json::object(), {{"box.stl", *bytes}});
    ASSERT_EQ(mended.says(), "");
    auto after = Analyser().analyse(mended.evaluation);
    EXPECT_FALSE(wants_mending(mended.evaluation, *after, mended.part().part));
    EXPECT_NEAR(mended.volume(), 1000, 1e-6);
}

// The list of analyses.

TEST(Analyses, EveryRowIsShownSomewhereAndHasItsShare) {
    std::set<AnalysisKind> kinds;
    for (const AnalysisRow& row : analyses()) {
        EXPECT_TRUE(kinds.insert(row.kind).second);
        EXPECT_FALSE(row.shown_at.empty()) << row.doing;
        EXPECT_GT(row.cost, 0) << row.doing;
        EXPECT_GT(std::string(row.doing).size(), 5u);
    }
    EXPECT_EQ(kinds.size(), size_t(AnalysisKind::Beds) + 1);
}
TEST(Analyses, AThinWallIsFoundAndGoesWhenItIsMadeThicker) {
    Made m = make_parts({{"Fin", json::array({block(30, 0.3, 20)})}, {"Cube", json::array({block(8, 8, 8)})}});
    Analyser analyser;
    auto thin_ones = [&](const Analysis& analysis) {
        std::vector<PartFinding> found;
        for (PartFinding& f : all_findings(m.evaluation, &analysis))
            if (f.finding.kind == FindingKind::Thin) found.push_back(std::move(f));
        return found;
    };
    auto analysis = analyser.analyse(m.evaluation);
    ASSERT_TRUE(analysis);
    auto found = thin_ones(*analysis);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].ref.part, m.part(0).part);
    EXPECT_NE(found[0].finding.says.find("0.3 mm"), std::string::npos) << found[0].finding.says;
    EXPECT_NEAR(*analysis->part(m.part(0).part)->inspection.walls->least_mm, 0.3, 0.001);
    // While it is worked out anew, what was known stays.
    m.project = edited(m.project, SetField{m.part(0).part, m.project->parts[0]->steps[0].id, "size_y", "2 mm"});
    m.evaluation = *Evaluator().evaluate(m.project);
    size_t told = 0;
    auto after =
        analyser.analyse(m.evaluation, {}, {Stretch::Shape, m.part(0).part}, // told, so kept true elsewhere too
                         [&](const Analysis& first) { told = thin_ones(first).size(); });
    ASSERT_TRUE(after);
    EXPECT_EQ(told, 1u);
    EXPECT_TRUE(thin_ones(*after).empty());
    EXPECT_NEAR(*after->part(m.part(0).part)->inspection.walls->least_mm, 2, 0.001);
}
TEST(Analyses, OneEditWorksOutOnlyWhatHangsOnIt) {
    Made m = make_parts(
        {{"A", table_on_a_foot()}, {"B", json::array({block(30, 10, 5)})}, {"C", json::array({block(8, 8, 8)})}});
    Analyser analyser;
    ASSERT_TRUE(analyser.analyse(m.evaluation));
    size_t all = analyser.last_counts().made;
    EXPECT_GE(all, 6u) << "inspection and plan of three parts";
    ASSERT_TRUE(analyser.analyse(m.evaluation));
    EXPECT_EQ(analyser.last_counts().made, 0u) << "nothing changed";
    m.project = edited(m.project, SetField{m.part(1).part, m.project->parts[1]->steps[0].id, "size_z", "6 mm"});
    m.evaluation = *Evaluator().evaluate(m.project);
    ASSERT_TRUE(analyser.analyse(m.evaluation));
    EXPECT_GT(analyser.last_counts().made, 0u);
    EXPECT_LE(analyser.last_counts().made, all / 3 + 2) << "one part of three, and what is of the project";
    m.project = edited(m.project, RenamePart{m.part(2).part, "Other"});
    m.evaluation = *Evaluator().evaluate(m.project);
    ASSERT_TRUE(analyser.analyse(m.evaluation));
    EXPECT_LE(analyser.last_counts().made, 2u) << "a name changes no body";
}
TEST(Analyses, WhatIsWantedFirstIsThereFirst) {
    Made m = make_parts({{"A", table_on_a_foot()}, {"B", table_on_a_foot()}});
    for (Stretch stretch : {Stretch::Check, Stretch::Bed}) {
        Analyser analyser;
        int called = 0;
        auto whole = analyser.analyse(m.evaluation, {}, {stretch, m.part(1).part}, [&](const Analysis& first) {
            ++called;
            const PartAnalysis* b = first.part(m.part(1).part);
            ASSERT_NE(b, nullptr);
            EXPECT_TRUE(stretch == Stretch::Bed ? b->plan.has_value() : !b->hanging.empty()) << "of the part looked at";
        });
        ASSERT_TRUE(whole);
        EXPECT_EQ(called, 1);
        for (const auto& part : whole->parts) EXPECT_TRUE(part->plan);
    }
}
TEST(Analyses, SumsAreOverPartsTimesQuantity) {
    Made m = make_parts({{"A", json::array({block(20, 20, 10)})}, {"B", json::array({block(20, 20, 10)})}});
    auto one = Analyser().analyse(m.evaluation);
    m.project = edited(m.project, SetQuantity{m.part(1).part, 3});
    m.evaluation = *Evaluator().evaluate(m.project);
    auto four = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(one && four);
    EXPECT_NEAR(four->mass_g, 2 * one->mass_g, 1e-9 * one->mass_g);
    EXPECT_NEAR(four->time_s, 2 * one->time_s, 1e-9 * one->time_s);
    EXPECT_NEAR(four->price, 2 * one->price, 1e-9);
    EXPECT_NEAR(four->filament_mm, 2 * one->filament_mm, 1e-6);
}
TEST(Analyses, StoppedTheyGiveNothingAndTheNextTimeEverything) {
    Made m = make(table_on_a_foot());
    Analyser analyser;
    for (double share : {0.0, 0.2, 0.5, 0.8}) {
        Task task;
        task.progress = [token = task.cancel, share](const std::string&, double now) {
            if (now >= share) token.cancel();
        };
        auto none = analyser.analyse(m.evaluation, task);
        EXPECT_TRUE(none || none.error().code == ProblemCode::Cancelled);
        EXPECT_FALSE(none && share == 0);
    }
    auto whole = analyser.analyse(m.evaluation);
    ASSERT_TRUE(whole);
    EXPECT_TRUE(whole->parts.at(0)->plan);
}
TEST(Analyses, FiguresOfAVariantCountSupports) {
    Made m = make(table_on_a_foot());
    PartFigures bare = figures_of(m.evaluation, m.part().part);
    EXPECT_EQ(bare.problem, "");
    EXPECT_NEAR(bare.volume_mm3, 2000 + 60 * 60 * 4, 1e-6);
    EXPECT_NEAR(bare.size_mm.z(), 24, 1e-9);
    SupportSettings supports;
    supports.on = true;
    m.project = edited(m.project, SetSupports{m.part().part, supports});
    m.evaluation = *Evaluator().evaluate(m.project);
    PartFigures with = figures_of(m.evaluation, m.part().part);
    EXPECT_GT(with.mass_g, bare.mass_g);
    auto ledger = Analyser().analyse(m.evaluation);
    EXPECT_NEAR(with.mass_g, ledger->mass_g, 1e-6) << "as the ledger counts it";
    EXPECT_NEAR(with.time_s, ledger->time_s, 1e-3);
}

// Contacts in words.

TEST(ContactWords, SayWhatTheWindowAndTheCommandLineSay) {
    Made m = make_parts(
        {{"Peg", json::array({step("cylinder", {{"diameter", 6}, {"height", 30}, {"from", "centre"}})})},
         {"Plate", json::array({step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 10}, {"from", "centre"}}),
                                step("cut_with", {{"tool", "Peg"}, {"fit", "loose"}})})}});
    ASSERT_EQ(m.says(), "");
    auto contacts = Analyser().contacts(m.evaluation);
    ASSERT_EQ(contacts.size(), 1u);
    const ContactResult& contact = contacts[0];
    EXPECT_EQ(contact_title(contact), "Peg in Plate");
    EXPECT_EQ(wanted_words(*m.project, contact), "loose 0.40 mm");
    EXPECT_NE(found_words(contact).find("0.4"), std::string::npos) << found_words(contact);
    EXPECT_EQ(fit_state_words(contact.state), "as wanted");
    std::string words = contact_words(*m.project, contact);
    for (const char* part : {"loose", "wanted 0.40", "found", "mm"})
        EXPECT_NE(words.find(part), std::string::npos) << words;
    EXPECT_EQ(contact_warning(contact), "");
    std::set<std::string> states;
    for (FitState state : {FitState::Right, FitState::Tight, FitState::Slack, FitState::Touching, FitState::Overlapping,
                           FitState::Unset})
        EXPECT_TRUE(states.insert(fit_state_words(state)).second) << "states that sound alike";
}
TEST(ContactWords, WhatNobodyAskedForIsBesideTheOtherAndABoughtThingIsOneToUs) {
    // A board with two things soldered on, over a tray.
    const json board = json::array(
        {block(30, 20, 2, "board"),
         step("block", {{"size_x", 5}, {"size_y", 5}, {"size_z", 3}, {"at_z", 2}, {"does", "new"}}, "plug"),
         step("block", {{"size_x", 5}, {"size_y", 5}, {"size_z", 3}, {"at_x", 9}, {"at_z", 2}, {"does", "new"}},
              "can")});
    const Made m = make_parts(
        {{"Board", board},
         {"Tray", json::array({step("block", {{"size_x", 40}, {"size_y", 30}, {"size_z", 3}, {"at_z", -3.5}})})}});
    ASSERT_EQ(m.says(), "");
    auto told = [](const ProjectPtr& project) {
        std::vector<std::string> all;
        for (const ContactResult& c : Analyser().contacts(*Evaluator().evaluate(project)))
            all.push_back(contact_title(c) + ": " + contact_words(*project, c));
        std::sort(all.begin(), all.end());
        return all;
    };
    EXPECT_EQ(told(m.project).size(), 3u) << "printed, its bodies grow together";
    const ProjectPtr bought = edited(m.project, SetStandIn{m.project->parts[0]->id, true});
    ASSERT_EQ(told(bought).size(), 1u);
    EXPECT_TRUE(told(bought)[0].starts_with("Board/board and Tray: not set · found 0.50")) << told(bought)[0];
}
TEST(ContactWords, MeasuresNameTheirUnits) {
    Measured measured;
    measured.distance_mm = 12.4;
    EXPECT_NE(measure_words(measured).find("12.40 mm"), std::string::npos) << measure_words(measured);
}

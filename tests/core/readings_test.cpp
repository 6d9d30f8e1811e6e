// Readings of a number: what follows from them, how they are kept, what is refused.
#include "made_project.h"
#include "project/project_json.h"
#include <gtest/gtest.h>
#include <limits>

namespace lp {
namespace {

ProjectPtr with_rod() {
    auto made = apply_edit(Project(), SetParameter{"rod_d", "6 mm", {}, {}});
    return made->project;
}
const Parameter& rod(const Project& project) {
    return project.parameters.front();
}

TEST(Readings, TheNumberFollowsTheMeanTheLargestOrTheSmallest) {
    // Worked by hand: (6.02 + 6.00 + 6.07) / 3 = 6.03; 6.07 - 6.00 = 0.07.
    Readings r{{6.02, 6.00, 6.07}, Follows::Mean};
    EXPECT_NEAR(mean_of(r), 6.03, 1e-12);
    EXPECT_NEAR(spread_of(r), 0.07, 1e-12);
    for (auto [follows, expected] : {std::pair(Follows::Mean, "6.03 mm"), std::pair(Follows::Largest, "6.07 mm"),
                                     std::pair(Follows::Smallest, "6 mm")}) {
        r.follows = follows;
        auto edited = apply_edit(*with_rod(), SetReadings{"rod_d", r});
        ASSERT_TRUE(edited) << edited.error().text();
        EXPECT_EQ(rod(*edited->project).expression, expected);
        EXPECT_NE(edited->sentence.find("3 readings"), std::string::npos) << edited->sentence;
    }
    r.follows = Follows::None;
    EXPECT_EQ(rod(*apply_edit(*with_rod(), SetReadings{"rod_d", r})->project).expression, "6 mm") << "as typed";
}

TEST(Readings, ATypedNumberNoLongerFollowsAndKeepsWhatWasRead) {
    auto read = apply_edit(*with_rod(), SetReadings{"rod_d", {{6.1, 6.2}, Follows::Largest}});
    auto typed = apply_edit(*read->project, SetParameter{"rod_d", "6.5 mm", {}, {}});
    ASSERT_TRUE(typed);
    EXPECT_EQ(rod(*typed->project).readings.follows, Follows::None);
    EXPECT_EQ(rod(*typed->project).readings.values.size(), 2u);
    auto noted = apply_edit(*read->project, SetParameter{"rod_d", "6.2 mm", {}, "the old rod"});
    EXPECT_EQ(rod(*noted->project).readings.follows, Follows::Largest) << "a note changes no number";
}

TEST(Readings, SaveAndLoadAndGoAlongWithARename) {
    auto read = apply_edit(*with_rod(), SetReadings{"rod_d", {{6.1, 6.2}, Follows::Largest}});
    auto renamed = apply_edit(*read->project, RenameParameter{"rod_d", "pin_d"});
    ASSERT_TRUE(renamed);
    auto again = project_from_text(project_to_json(*renamed->project).dump());
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(rod(*again), rod(*renamed->project));
    EXPECT_EQ(rod(*again).readings.values, (std::vector<double>{6.1, 6.2}));
}

TEST(Readings, WhatIsNoReadingIsRefused) {
    auto refused = [](const Readings& r, const char* name = "rod_d") {
        return !apply_edit(*with_rod(), SetReadings{name, r});
    };
    EXPECT_TRUE(refused({{std::numeric_limits<double>::quiet_NaN()}, Follows::Mean}));
    EXPECT_TRUE(refused({{1e9}, Follows::Mean}));
    EXPECT_TRUE(refused({std::vector<double>(101, 6.0), Follows::Mean}));
    EXPECT_FALSE(refused({std::vector<double>(100, 6.0), Follows::Mean}));
    EXPECT_TRUE(refused({{6}, Follows::Mean}, "nobody"));
    auto counted = apply_edit(*with_rod(), SetParameter{"n", "3", QuantityKind::Count, {}});
    EXPECT_FALSE(apply_edit(*counted->project, SetReadings{"n", {{3}, Follows::Mean}})) << "a count is not measured";
    const char* files[] = {R"({"name":"r","expression":"6 mm","readings":"6"})",
                           R"({"name":"r","expression":"6 mm","readings":[6,"x"]})",
                           R"({"name":"r","expression":"6 mm","readings":[6],"follows":"luck"})",
                           R"({"name":"r","expression":"6 mm","readings":[1e300],"follows":"mean"})"};
    for (const char* parameter : files)
        EXPECT_FALSE(project_from_text(std::string(R"({"format":"loose-peg","version":1,"parameters":[)") + parameter +
                                       "],\"parts\":[]}"))
            << parameter;
}

} // namespace
} // namespace lp

// What belongs together, as scripts ask for it: the order of assembly, a bed's lines, rows of a table, the sheet.
#include "cli_run.h"
#include <numbers>

using namespace lp;
using namespace lp::test;

namespace {

class Together : public Cli {
  protected:
    json answer(const std::string& line) {
        Ran ran = run(line + " --json");
        EXPECT_EQ(ran.status, 0) << line << ": " << ran.err;
        return ran.parsed();
    }
    /// Pages end with a form feed.
    std::string words_of(const char* pdf) {
        const std::string command =
            "pdftotext -layout '" + (folder / pdf).string() + "' '" + (folder / "words.txt").string() + "'";
        EXPECT_EQ(std::system(command.c_str()), 0);
        std::ifstream in(folder / "words.txt");
        return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
    }
    static json slab(double x, double z, double at_z, const char* does = "join") {
        return {{"kind", "block"},
                {"fields", {{"size_x", x}, {"size_y", x}, {"size_z", z}, {"at_z", at_z}, {"does", does}}}};
    }
    /// A lid over a brick in a tray, told from the top.
    static json box() {
        return {{"format", "loose-peg"},
                {"version", 1},
                {"name", "Seed box"},
                {"parameters", {{"side", "40 mm"}}},
                {"parts",
                 {{{"name", "Lid"}, {"steps", json::array({slab(40, 3, 20)})}},
                  {{"name", "Brick"}, {"quantity", 2}, {"steps", json::array({slab(20, 10, 3)})}},
                  {{"name", "Tray"}, {"steps", json::array({slab(40, 20, 0), slab(30, 20, 3, "cut")})}}}}};
    }
};

} // namespace

TEST_F(Together, CheckTellsInWhichOrder) {
    put("box.json", box().dump());
    const json all = answer("check box.json --assembly")["assembly"];
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0]["part"], "Tray");
    EXPECT_TRUE(all[0]["from"].is_null());
    EXPECT_EQ(all[1]["part"], "Brick");
    EXPECT_EQ(all[2]["part"], "Lid");
    EXPECT_EQ(all[2]["from"], (json{0.0, 0.0, 1.0}));
    for (const json& move : all) EXPECT_TRUE(move["in_the_way"].empty());
    const Ran words = run("check box.json --assembly");
    EXPECT_NE(words.out.find("put in Brick: from above"), std::string::npos) << words.out;
}

TEST_F(Together, TheSheetShowsEveryMoveAndWhatToMeasure) {
    put("box.json", box().dump());
    answer("sheet box.json box.pdf");
    const std::string text = words_of("box.pdf");
    for (const char* wanted :
         {"Put together", "1. Brick", "To Tray.", "2. Lid", "Comes from above", "To measure when", "40.2 mm", "kWh"})
        EXPECT_NE(text.find(wanted), std::string::npos) << wanted << " in\n" << text;
}

TEST_F(Together, NoHeadingOfTheSheetStandsAloneAtTheFootOfAPage) {
    // However full the pages before are.
    for (const char* paper : {"a4", "letter"})
        for (int more = 0; more < 4; ++more) {
            json whole = box();
            for (int i = 0; i < more; ++i)
                whole["parts"].push_back(
                    {{"name", "Marker " + std::to_string(i + 1)}, {"steps", json::array({slab(10, 4, 100 + 20 * i)})}});
            put("box.json", whole.dump());
            answer(std::string("sheet box.json box.pdf --paper ") + paper);
            const std::string text = words_of("box.pdf");
            for (const auto& [heading, below] : {std::pair("Put together", "1. Brick"), std::pair("To print", "Tray"),
                                                 std::pair("Settings", "Nozzle"), std::pair("Beds", "1 x Tray")}) {
                const size_t at = text.find(heading), first = text.find(below, at);
                ASSERT_TRUE(at != std::string::npos && first != std::string::npos) << heading << " in\n" << text;
                EXPECT_EQ(text.substr(at, first - at).find('\f'), std::string::npos)
                    << heading << ", " << paper << ", " << more << " more";
            }
        }
}

TEST_F(Together, ABedIsWrittenAsOnePlan) {
    put("box.json", box().dump());
    std::filesystem::create_directory(folder / "plans");
    const json made = answer("layers box.json --gcode plans");
    ASSERT_EQ(made["beds"].size(), 1u);
    EXPECT_EQ(made["beds"][0]["layers"], 100) << "as many as the tallest: 20 mm";
    EXPECT_GT(made["energy_kwh"].get<double>(), 0);
    const json bed = answer("gcode " + made["beds"][0]["gcode"].get<std::string>());
    EXPECT_EQ(bed["layers"], 100);
    double filament = 0;
    for (const json& part : made["parts"])
        filament += part["quantity"].get<int>() *
                    answer("gcode " + part["gcode"].get<std::string>())["filament_mm"].get<double>();
    EXPECT_NEAR(bed["filament_mm"].get<double>(), filament, filament * 1e-3) << "that of all copies";
    EXPECT_GT(bed["bbox_max"][0].get<double>() - bed["bbox_min"][0].get<double>(), 80) << "they stand side by side";
}

TEST_F(Together, BandsOfAPartAreLaidAndBadOnesRefused) {
    json tower = box();
    tower["parts"] = {{{"name", "Tower"},
                       {"bands", {{{"from", "2"}, {"to", "4 mm"}, {"layer", "0.1"}}}},
                       {"steps", json::array({slab(20, 12, 0)})}}};
    put("tower.json", tower.dump());
    EXPECT_EQ(answer("layers tower.json")["layers"], 70) << "ten of 0.2 are twenty of 0.1";
    tower["parts"][0]["bands"] = "fine";
    put("bad.json", tower.dump());
    const Ran bad = run("layers bad.json");
    EXPECT_EQ(bad.status, 3);
    EXPECT_NE(bad.err.find("bands is not a list"), std::string::npos) << bad.err;
}

TEST_F(Together, ATableIsMadeRowByRow) {
    json peg = box();
    peg["parts"] = {{{"name", "Peg"},
                     {"steps", json::array({{{"kind", "block"},
                                             {"fields", {{"size_x", "side"}, {"size_y", 10}, {"size_z", 5}}}}})}}};
    put("peg.json", peg.dump());
    put("sizes.csv", std::string("name;side\nshort;12,5 mm\nlong;side_wide\n"));
    EXPECT_EQ(run("make peg.json --table sizes.csv").status, 2) << "not said where to";
    EXPECT_NE(run("make peg.json --table sizes.csv --to rows").status, 0) << "no such number";
    EXPECT_FALSE(there("rows"));
    put("sizes.csv", std::string("name;side\nshort;12,5 mm\nlong;2 * 30 mm\n"));
    const json rows = answer("make peg.json --table sizes.csv --to rows --format stl")["rows"];
    ASSERT_EQ(rows.size(), 2u);
    EXPECT_NEAR(answer("inspect " + rows[0]["files"][0].get<std::string>())["volume_mm3"], 12.5 * 10 * 5, 1e-3);
    EXPECT_NEAR(answer("inspect " + rows[1]["files"][0].get<std::string>())["volume_mm3"], 60 * 10 * 5, 1e-3);
    EXPECT_EQ(run("make peg.json --table none.csv --to rows").status, 3);
    put("odd.csv", std::string("name,side\n\"a,5\n"));
    EXPECT_EQ(run("make peg.json --table odd.csv --to rows").status, 3);
}

TEST_F(Together, AMovementIsLedAsPrinted) {
    json knob = box();
    knob["movements"] = {
        {{"moving", "Knob/knob pin"}, {"kind", "turn"}, {"from", "0 deg"}, {"to", "90 deg"}, {"step", "45 deg"}}};
    auto touches = [&](const char* foot, const char* how) {
        knob["parts"] = {
            {{"name", "Knob"},
             {"steps", json::array({{{"kind", "captive_pin"}, {"name", "knob"}, {"fields", {{"foot", foot}}}}})}}};
        put("knob.json", knob.dump());
        return !answer(std::string("move knob.json 1 ") + how)["first_contact"].is_null();
    };
    EXPECT_FALSE(touches("plain", ""));
    EXPECT_TRUE(touches("plain", "--printed")) << "the first layer makes it one piece";
    EXPECT_FALSE(touches("chamfered", "--printed"));
}

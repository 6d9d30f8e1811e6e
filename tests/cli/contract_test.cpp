// Every subcommand by the contract of docs/cli.md: what all of them share, the keys of their answers, and what they
// refuse. The sets of keys are written down here a second time on purpose.
#include "cli_run.h"
#include "mesh/combine.h"
#include <set>
#include <sstream>

using namespace lp;
using namespace lp::test;

namespace {

const char* a_project = R"({"format":"loose-peg","version":1,"name":"Try","parameters":{"high":"12 mm"},"parts":[
  {"name":"Plate","steps":[{"kind":"block","fields":{"size_x":40,"size_y":30,"size_z":"high"}},
                           {"kind":"cut_with","fields":{"tool":"Pin","fit":"slide"}}]},
  {"name":"Pin","steps":[{"kind":"cylinder","fields":{"diameter":6,"height":30,"at_z":-5}}]}],
  "movements":[{"moving":"Pin","kind":"slide","direction":["0","0","1"],"to":"4 mm","step":"1 mm"}]})";

class Contract : public Cli {
  protected:
    void SetUp() override {
        put("a.stl", cube(20));
        put("b.stl", cube(10, {5, 5, 15}));
        TriMesh table = box_mesh({0, 0, 8}, {30, 10, 10}); // a table on one leg
        append(table, box_mesh({13, 3, 0}, {17, 7, 8}));
        put("table.stl", table);
        put("d.svg", R"(<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">)"
                     R"(<rect x="2" y="3" width="20" height="10"/></svg>)");
        put("p.json", a_project);
        put("g.gcode", std::string("M83\nG0 X0 Y0 Z0.2 F6000\nG1 X20 E0.8 F2400\nG1 Y20 E0.8\n"));
        put("torn.stl", write_stl_binary(cube(20)).substr(0, 300));
    }
    /// Subcommands with arguments that work, their input first.
    const std::vector<std::pair<std::string, std::string>> working{
        {"inspect", "a.stl"},
        {"mend", "a.stl out.stl"},
        {"simplify", "a.stl out.stl --deviation 0.01"},
        {"combine", "join out.stl a.stl b.stl"},
        {"split", "a.stl out.stl out2.stl --plane 0,0,1,10"},
        {"convert", "a.stl out.obj"},
        {"layers", "a.stl"},
        {"gcode", "g.gcode"},
        {"practice", "a.stl out.stl"},
        {"section", "a.stl out.dxf --plane 0,0,1,10"},
        {"sheet", "p.json out.pdf"},
        {"features", "a.stl"},
        {"gaps", "a.stl b.stl"},
        {"grow", "a.stl out.stl --by 0.5"},
        {"gauge", "out.stl --contact peg --from 0.1 --to 0.5 --count 5"},
        {"hardware", "m4 nut"},
        {"thread", "out.stl --size 20x3 --length 6"},
        {"supports", "table.stl out.stl"},
        {"poses", "table.stl"},
        {"arrange", "out a.stl*3 b.stl"},
        {"outline", "d.svg"},
        {"make", "p.json"},
        {"check", "p.json"},
        {"move", "p.json 1"},
        {"steps", ""}};
};

bool one_object(const std::string& text) {
    json parsed = json::parse(text, nullptr, false);
    return parsed.is_object();
}

} // namespace

TEST_F(Contract, EverySubcommandOfTheHelpIsTriedHere) {
    std::set<std::string> listed, tried;
    std::istringstream help(run("--help").out);
    bool within = false;
    for (std::string line; std::getline(help, line);) {
        if (line.rfind("Subcommands:", 0) == 0) {
            within = true;
            continue;
        }
        std::istringstream words(line);
        if (std::string name; within && words >> name) listed.insert(name);
    }
    for (const auto& [name, arguments] : working) tried.insert(name);
    EXPECT_EQ(listed, tried) << "a new subcommand belongs into this list";
}

TEST_F(Contract, EachAnswersOneJsonObjectAndNothingElse) {
    for (const auto& [name, arguments] : working) {
        Ran ran = run(name + " " + arguments + " --json");
        EXPECT_EQ(ran.status, 0) << name << ": " << ran.err;
        EXPECT_TRUE(one_object(ran.out)) << name << ": " << ran.out.substr(0, 200);
        EXPECT_EQ(ran.err, "") << name << ": progress is only for terminals";
    }
}

TEST_F(Contract, EachHasAShortReportForPeopleToo) {
    for (const auto& [name, arguments] : working) {
        Ran ran = run(name + " " + arguments);
        EXPECT_EQ(ran.status, 0) << name << ": " << ran.err;
        EXPECT_FALSE(ran.out.empty()) << name;
        EXPECT_FALSE(one_object(ran.out)) << name;
        EXPECT_TRUE(name == "steps" || std::count(ran.out.begin(), ran.out.end(), '\n') < 60) << name;
    }
}

TEST_F(Contract, EachExplainsItselfAndRefusesWhatItDoesNotKnow) {
    for (const auto& [name, arguments] : working) {
        Ran help = run(name + " --help");
        EXPECT_EQ(help.status, 0) << name;
        EXPECT_NE(help.out.find("--json"), std::string::npos) << name;
        EXPECT_EQ(run(name + " " + arguments + " --no-such-option 3").status, 2) << name;
        EXPECT_EQ(run(name).status, name == "steps" ? 0 : 2) << name << ": what it needs is missing";
    }
    EXPECT_EQ(run("").status, 2);
    EXPECT_EQ(run("--version").status, 0);
}

TEST_F(Contract, AnInputThatIsNotThereEmptyTornOrOfAnotherKindGivesThreeAndOneLine) {
    put("empty.stl", std::string());
    put("empty.json", std::string());
    put("words.stl", std::string("these are only words\n"));
    put("words.json", std::string("these are only words\n"));
    put("empty.svg", std::string());
    std::filesystem::create_directory(folder / "folder.stl");
    for (const auto& [name, arguments] : working) {
        if (name == "steps" || name == "gauge" || name == "hardware" || name == "thread") continue; // they read nothing
        std::string input = arguments.substr(0, arguments.find(' '));
        if (name == "combine" || name == "arrange") input = "a.stl";
        const std::string ending = input.substr(input.find('.'));
        std::vector<std::string> bad{"nowhere" + ending, "empty" + ending};
        if (ending == ".stl") bad.insert(bad.end(), {"torn.stl", "words.stl", "folder.stl"});
        if (ending == ".json") bad.push_back("words.json");
        for (const std::string& file : bad) {
            std::string with = arguments;
            with.replace(with.find(input), input.size(), file);
            Ran ran = run(name + " " + with + " --json");
            EXPECT_EQ(ran.status, 3) << name << " " << with << ": " << ran.err;
            EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << name << " " << with << ": " << ran.err;
            EXPECT_EQ(ran.err.rfind("loose-peg-cli: " + file + ": ", 0), 0u) << name << " " << with << ": " << ran.err;
            EXPECT_LT(ran.err.size(), 500u);
            for (const char* out : {"out.stl", "out2.stl", "out.obj", "out-1.3mf"})
                EXPECT_FALSE(there(out)) << name << " " << with;
        }
    }
}

TEST_F(Contract, AnOutputThatCannotBeWrittenIsRefusedAndLeavesNothing) {
    for (const auto& [name, arguments] : working) {
        const size_t at = arguments.find("out.");
        if (at == std::string::npos) continue;
        std::string nowhere = arguments, unknown = arguments;
        nowhere.replace(at, 4, "no/such/folder/out.");
        Ran ran = run(name + " " + nowhere);
        EXPECT_TRUE(ran.status == 1 || ran.status == 3) << name << ": " << ran.status;
        EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << name << ": " << ran.err;
        EXPECT_FALSE(there("no"));
        unknown.replace(at, 7, "out.xyz");
        Ran other = run(name + " " + unknown);
        EXPECT_NE(other.status, 0) << name;
        EXPECT_FALSE(there("out.xyz")) << name;
    }
}

TEST_F(Contract, LeftOversOfAWriteAreNeverSeen) {
    for (const auto& [name, arguments] : working) run(name + " " + arguments);
    for (const auto& entry : std::filesystem::directory_iterator(folder.path)) {
        const std::string file = entry.path().filename().string();
        EXPECT_TRUE(file.find("tmp") == std::string::npos && file.find("part") == std::string::npos) << file;
    }
}

TEST_F(Contract, KeysOfAnswers) {
    auto answer = [&](const std::string& line) { return run(line + " --json").parsed(); };
    using Keys = std::set<std::string>;
    Keys with_deviation = inspect_keys;
    with_deviation.insert("largest_deviation_mm");
    EXPECT_EQ(keys_of(answer("grow a.stl out.stl --by 0.5")), with_deviation);
    EXPECT_EQ(keys_of(answer("simplify a.stl out.stl")), with_deviation);
    json mended = answer("mend a.stl out.stl");
    EXPECT_EQ(keys_of(mended), (Keys{"before", "after", "cures", "volume_change_mm3", "largest_move_mm"}));
    EXPECT_EQ(keys_of(mended["before"]), inspect_keys);
    EXPECT_EQ(keys_of(mended["after"]), inspect_keys);
    json gaps = answer("gaps a.stl b.stl");
    ASSERT_EQ(gaps["pairs"].size(), 1u);
    EXPECT_EQ(keys_of(gaps["pairs"][0]), (Keys{"a", "b", "min_mm", "at_a", "at_b", "touching", "overlap_mm3"}));
    json supports = answer("supports table.stl out.stl");
    EXPECT_EQ(keys_of(supports),
              (Keys{"supports", "touching", "standing_on_part", "volume_mm3", "unsupported_area_mm2"}));
    json poses = answer("poses table.stl");
    EXPECT_EQ(keys_of(poses), (Keys{"poses"}));
    ASSERT_FALSE(poses["poses"].empty());
    EXPECT_EQ(keys_of(poses["poses"][0]), (Keys{"up", "support_volume_mm3", "overhang_area_mm2", "height_mm",
                                                "footprint_mm2", "tips_over", "score"}));
    EXPECT_EQ(answer("poses a.stl --top 2")["poses"].size(), 2u);
    json beds = answer("arrange kit a.stl*3 b.stl --bed 60x60 --spacing 4");
    EXPECT_EQ(keys_of(beds), (Keys{"beds", "left_out"}));
    ASSERT_EQ(beds["beds"].size(), 1u);
    EXPECT_EQ(beds["beds"][0]["items"].size(), 4u);
    EXPECT_NEAR(beds["beds"][0]["used_share"], (3 * 400 + 100) / 3600.0, 0.01);
    for (const char* key : {"file", "at", "turn_deg"}) EXPECT_TRUE(beds["beds"][0]["items"][0].contains(key)) << key;
    EXPECT_TRUE(there("kit-1.3mf") && !there("kit-2.3mf"));
    json of_parts = answer("poses p.json");
    EXPECT_TRUE(of_parts["parts"][0].contains("name"));
    EXPECT_FALSE(of_parts["parts"][0]["poses"].empty());
    json layers = answer("layers a.stl");
    for (const char* key :
         {"layers", "height_mm", "time_s", "filament_mm", "mass_g", "first_layer_area_mm2", "islands", "pauses"})
        EXPECT_TRUE(layers.contains(key)) << key;
    EXPECT_GT(layers["time_motion_s"].get<double>(), layers["time_motion_parts_s"]["laying"].get<double>());
    Keys practised = inspect_keys;
    practised.insert({"deviation_mean_mm", "deviation_max_mm", "deviation_out_mm", "deviation_in_mm", "fused", "droops",
                      "layers", "without_line_mm2", "assumes"});
    EXPECT_EQ(keys_of(answer("practice a.stl out.stl")), practised);
    json outline = answer("outline d.svg");
    for (const char* key :
         {"file", "unit", "area_mm2", "bbox_min", "bbox_max", "closed_contours", "open_paths", "regions", "findings"})
        EXPECT_TRUE(outline.contains(key)) << key;
    json made = answer("make p.json");
    EXPECT_EQ(keys_of(made), (Keys{"parts", "fits", "files"}));
    for (const char* key : {"name", "volume_mm3", "area_mm2", "bbox_min", "bbox_max", "steps"})
        EXPECT_TRUE(made["parts"][0].contains(key)) << key;
    for (const char* key : {"index", "kind", "ok", "says"})
        EXPECT_TRUE(made["parts"][0]["steps"][0].contains(key)) << key;
    for (const char* key : {"a", "b", "fit", "wanted_mm", "min_mm", "max_mm", "state"})
        EXPECT_TRUE(made["fits"][0].contains(key)) << key;
    json checked = answer("check p.json");
    EXPECT_EQ(keys_of(checked), (Keys{"parts", "contacts"}));
    EXPECT_TRUE(checked["contacts"][0].contains("fused_layers"));
    json move = answer("move p.json 1");
    for (const char* key : {"positions", "first_contact", "play_mm", "play_deg"})
        EXPECT_TRUE(move.contains(key)) << key;
}

TEST_F(Contract, NumbersAreWrittenForMachines) {
    // No thousands' signs, no commas, nothing that is no number: whatever the language of the machine.
    put("big.stl", cube(1234.5));
    json j = json::parse(run("inspect big.stl --json").out);
    EXPECT_NEAR(j["volume_mm3"].get<double>(), std::pow(1234.5, 3), 1e3);
    setenv("LC_ALL", "de_DE.UTF-8", 1);
    Ran there = run("inspect big.stl --json");
    unsetenv("LC_ALL");
    EXPECT_EQ(json::parse(there.out), j);
}

TEST_F(Contract, WrongNumbersOfOptionsGiveTwoAndSayWhich) {
    struct Case {
        const char *line, *word;
    };
    const Case cases[] = {{"inspect a.stl --up 0,0,0", "up"},
                          {"inspect a.stl --up 1,2", "up"},
                          {"inspect a.stl --bed 0x10x10", "bed"},
                          {"inspect a.stl --overhang-limit 95", "overhang"},
                          {"poses a.stl --overhang-limit 95", "limit"},
                          {"poses a.stl --top 0", "poses"},
                          {"arrange o a.stl*0", "a.stl*0"},
                          {"arrange o a.stl --bed 0x10", "bed"},
                          {"arrange o a.stl --spacing -3", "spacing"},
                          {"inspect a.stl --nozzle -1", "nozzle"},
                          {"layers a.stl --layer-height -0.2", "layer height"},
                          {"layers a.stl --infill 150", "infill"},
                          {"layers a.stl --walls -1", "walls"},
                          {"layers a.stl --raft-layers -2", "raft"},
                          {"simplify a.stl o.stl --deviation 0", "deviation"},
                          {"practice a.stl o.stl --growth 9", "growth"},
                          {"practice a.stl o.stl --layer-height 0", "layer"},
                          {"sheet p.json o.pdf --paper a9", "paper"},
                          {"sheet p.json o.txt", "pdf"},
                          {"sheet p.json o.svg", "part"},
                          {"split a.stl o.stl q.stl --plane 0,0,0,5", "plane"},
                          {"split a.stl o.stl q.stl --plane x", "plane"},
                          {"section a.stl o.dxf --plane 0,0,0,1", "plane"},
                          {"section a.stl o.stl --plane 0,0,1,1", "dxf"},
                          {"grow a.stl o.stl --by nan", "by"},
                          {"gauge o.stl --contact nothing --from 0.1 --to 0.5 --count 5", "contact"},
                          {"gauge o.stl --contact peg --from 0.5 --to 0.1 --count 5", "from"},
                          {"gauge o.stl --contact peg --from 0.1 --to 0.5 --count 0", "0 steps"},
                          {"combine melt o.stl a.stl b.stl", "melt"},
                          {"supports table.stl o.stl --contact-gap -1", "gap"},
                          {"outline d.svg --fill sometimes", "fill"}};
    for (const Case& one : cases) {
        Ran ran = run(one.line);
        EXPECT_EQ(ran.status, 2) << one.line << ": " << ran.err;
        EXPECT_NE(ran.err.find(one.word), std::string::npos) << one.line << ": " << ran.err;
        EXPECT_FALSE(there("o.stl")) << one.line;
    }
    // A number that the project does not have, or that cannot be, is the project's to refuse.
    for (const char* line :
         {"make p.json --set nothing_there=3", "make p.json --set high", "make p.json --set high=1/0",
          "make p.json --set high=2deg", "check p.json --set nothing_there=3"}) {
        Ran ran = run(line);
        EXPECT_EQ(ran.status, 1) << line << ": " << ran.err;
        EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << line << ": " << ran.err;
    }
}

TEST_F(Contract, BedsAreWrittenAsTheyWereSaid) {
    // Two plates of 90 x 90 a bed, measured in the files: apart from each other, within the bed, one a bed left over.
    put("plate.stl", box_mesh({-45, 10, 5}, {45, 100, 8}));
    put("long.stl", box_mesh({0, 0, 0}, {400, 5, 5}));
    json j = json::parse(run("arrange out.3mf plate.stl*3 long.stl --bed 200x100 --spacing 5 --json").out);
    ASSERT_EQ(j["beds"].size(), 2u);
    EXPECT_EQ(j["left_out"], json::array({"long.stl"}));
    for (int bed : {1, 2}) {
        auto read = read_mesh_file(folder / ("out-" + std::to_string(bed) + ".3mf"));
        ASSERT_TRUE(read) << bed;
        EXPECT_EQ(read->objects, bed == 1 ? 2u : 1u);
        const Box3 box = bounding_box(read->mesh);
        EXPECT_GE(box.min().minCoeff(), -1e-6);
        EXPECT_LE(box.max().x(), 200);
        EXPECT_LE(box.max().y(), 100);
        EXPECT_NEAR(box.sizes().x(), bed == 1 ? 185 : 90, 0.6);
        EXPECT_NEAR(box.center().x(), 100, 1e-3);
        EXPECT_NEAR(box.center().y(), 50, 1e-3);
    }
    // Nothing fits: refused, and nothing is written. A file that cannot be written leaves no other behind.
    Ran none = run("arrange lost long.stl --json");
    EXPECT_EQ(none.status, 1);
    EXPECT_FALSE(there("lost-1.3mf"));
    std::filesystem::create_directory(folder / "half-2.3mf");
    Ran half = run("arrange half plate.stl*3 --bed 200x100 --spacing 5");
    EXPECT_EQ(half.status, 3) << half.err;
    EXPECT_FALSE(there("half-1.3mf"));
    EXPECT_EQ(run("arrange x no-such.stl").status, 3);
    EXPECT_EQ(run("arrange x torn.stl").status, 3);
}

TEST_F(Contract, BridgesAndGapsAreMeasured) {
    // Legs 5 wide with 24 between them under a plate, and a slot of 0.15 in the plate.
    TriMesh body =
        *combine_meshes(Operation::Cut, {box_mesh({0, 0, 0}, {34, 20, 20}), box_mesh({5, -1, -1}, {29, 21, 15}),
                                         box_mesh({2, -1, 17}, {2.15, 21, 21})});
    put("bridge.stl", body);
    json j = json::parse(run("inspect bridge.stl --json").out);
    EXPECT_NEAR(j["bridge_max_span_mm"], 24, 0.01);
    EXPECT_NEAR(j["min_gap_mm"], 0.15, 0.01);
    auto kinds = [&](const json& of) {
        std::set<std::string> found;
        for (const json& f : of["findings"]) found.insert(f["kind"]);
        return found;
    };
    EXPECT_TRUE(kinds(j).contains("bridge") && kinds(j).contains("narrow"));
    EXPECT_FALSE(kinds(json::parse(run("inspect bridge.stl --min-gap 0.1 --json").out)).contains("narrow"));
    json cube = json::parse(run("inspect a.stl --json").out);
    EXPECT_TRUE(cube["bridge_max_span_mm"].is_null());
    EXPECT_TRUE(cube["min_gap_mm"].is_null());
}

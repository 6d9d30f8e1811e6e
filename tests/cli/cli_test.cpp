// The command line as scripts see it: exit codes, JSON keys, files. Runs the built program.
#include "cli_run.h"

using namespace lp;
using namespace lp::test;
using test::cube;

TEST_F(Cli, InspectHasEveryKeyOfTheContractAndNoOther) {
    put("cube.stl", cube(20));
    Ran ran = run("inspect cube.stl --json");
    EXPECT_EQ(ran.status, 0) << ran.err;
    json j = ran.parsed();
    EXPECT_EQ(keys_of(j), inspect_keys);
    EXPECT_NEAR(j["volume_mm3"].get<double>(), 8000, 1e-3);
    EXPECT_EQ(j["triangles"], 12);
    EXPECT_EQ(j["vertices"], 8);
    EXPECT_EQ(j["closed"], true);
    EXPECT_EQ(j["unit_guess"], "mm");
    EXPECT_EQ(j["islands"], 0);
    EXPECT_NEAR(j["bed_contact_area_mm2"].get<double>(), 400, 1e-3);
    EXPECT_EQ(j["min_gap_mm"], nullptr);
}
TEST_F(Cli, AnOpenMeshHasNoVolumeAndThatIsNoFailure) {
    TriMesh open = cube(20);
    open.triangles.pop_back();
    put("open.stl", open);
    Ran ran = run("inspect open.stl --json");
    EXPECT_EQ(ran.status, 0);
    json j = ran.parsed();
    EXPECT_EQ(j["volume_mm3"], nullptr);
    EXPECT_EQ(j["tips_over"], nullptr);
    EXPECT_EQ(j["open_edges"], 3);
    EXPECT_EQ(j["holes"], 1);
    EXPECT_FALSE(j["findings"].empty());
    for (const char* key : {"kind", "count", "where", "says"}) EXPECT_TRUE(j["findings"][0].contains(key));
}
TEST_F(Cli, OptionsOfInspectCount) {
    TriMesh table = box_mesh({-20, -20, 20}, {20, 20, 25});
    append(table, box_mesh({-2, -2, 0}, {2, 2, 20}));
    put("table.stl", table);
    EXPECT_NEAR(run("inspect table.stl --json").parsed()["overhang_area_mm2"].get<double>(), 1600, 0.01);
    EXPECT_NEAR(run("inspect table.stl --up 0,0,-1 --json").parsed()["bed_contact_area_mm2"].get<double>(), 1600, 0.01);
    EXPECT_EQ(run("inspect table.stl --bed 30x30x100 --json").parsed()["fits_bed"], false);
    EXPECT_EQ(run("inspect table.stl --overhang-limit 90 --json").parsed()["overhang_area_mm2"].get<double>(), 0);
    EXPECT_EQ(run("inspect table.stl --up 0,0").status, 2);
    EXPECT_EQ(run("inspect table.stl --bed nonsense").status, 2);
}
TEST_F(Cli, InputsThatAreRefusedGiveThreeAndOneLine) {
    put("empty.stl", std::string());
    put("text.stl", std::string("a letter to a friend\n"));
    put("short.stl", write_stl_binary(cube(20)).substr(0, 200));
    for (const char* file : {"empty.stl", "text.stl", "short.stl", "missing.stl", "."}) {
        Ran ran = run(std::string("inspect ") + file + " --json");
        EXPECT_EQ(ran.status, 3) << file;
        EXPECT_EQ(ran.err.rfind(std::string("loose-peg-cli: ") + file + ": ", 0), 0u) << ran.err;
        EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << ran.err;
        EXPECT_TRUE(ran.out.empty());
    }
}
TEST_F(Cli, WrongUsageGivesTwo) {
    for (const char* line : {"", "inspect", "fly", "inspect a.stl --nozzle -1", "combine weld a b c",
                             "mend a.stl out.xyz", "simplify a b", "make p.json --format dwg"})
        EXPECT_EQ(run(line).status, 2) << line;
    EXPECT_EQ(run("--help").status, 0);
    EXPECT_EQ(run("--help").out.find("fly"), std::string::npos); // what does not exist is not listed
}
TEST_F(Cli, MendTellsBeforeAfterAndCures) {
    TriMesh mesh = cube(20);
    std::swap(mesh.triangles[2][0], mesh.triangles[2][1]);
    mesh.triangles.push_back(mesh.triangles[5]);
    mesh.triangles.erase(mesh.triangles.begin() + 8);
    put("bad.stl", mesh);
    Ran ran = run("mend bad.stl good.stl --json");
    EXPECT_EQ(ran.status, 0) << ran.err;
    json j = ran.parsed();
    EXPECT_EQ(j["before"]["closed"], false);
    EXPECT_EQ(j["after"]["closed"], true);
    EXPECT_NEAR(j["after"]["volume_mm3"].get<double>(), 8000, 1e-3);
    EXPECT_EQ(j["volume_change_mm3"], nullptr); // the open one had none
    EXPECT_EQ(j["largest_move_mm"], 0.0);
    std::map<std::string, int> cures;
    for (const json& cure : j["cures"]) cures[cure["kind"]] = cure["count"];
    EXPECT_EQ(cures["drop_duplicate"], 1);
    EXPECT_EQ(cures["turn"], 1);
    EXPECT_EQ(cures["fill_hole"], 1);
    EXPECT_TRUE(there("good.stl"));
}
TEST_F(Cli, SplitPartsAMeshIntoTwoClosedOnes) {
    put("cube.stl", cube(10));
    Ran ran = run("split cube.stl a.stl b.3mf --plane 0,0,2,3 --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json answer = ran.parsed();
    EXPECT_NEAR(answer["a"]["volume_mm3"], 700, 1e-3);
    EXPECT_NEAR(answer["b"]["volume_mm3"], 300, 1e-3);
    EXPECT_TRUE(answer["a"]["closed"] && answer["b"]["closed"]);
    Ran slanted = run("split cube.stl c.stl d.stl --plane 1,1,1,8.6602540378 --json"); // through the middle
    ASSERT_EQ(slanted.status, 0) << slanted.err;
    EXPECT_NEAR(slanted.parsed()["a"]["volume_mm3"], 500, 1e-3);
    EXPECT_EQ(run("split cube.stl e.stl f.stl --plane 0,0,1,30").status, 1);
    EXPECT_FALSE(there("e.stl") || there("f.stl"));
    EXPECT_EQ(run("split cube.stl e.stl f.stl --plane 0,0,0,3").status, 2);
    EXPECT_EQ(run("split cube.stl e.stl f.stl --plane up").status, 2);
    EXPECT_EQ(run("split nothing.stl e.stl f.stl --plane 0,0,1,3").status, 3);
    EXPECT_FALSE(there("e.stl") || there("f.stl"));
}

TEST_F(Cli, CombineWritesAndRefusesWithoutLeavingFiles) {
    put("a.stl", cube(20));
    put("b.stl", cube(10, {15, 5, 5}));
    Ran join = run("combine join j.stl a.stl b.stl --json");
    EXPECT_EQ(join.status, 0) << join.err;
    EXPECT_NEAR(join.parsed()["volume_mm3"].get<double>(), 8000 + 500, 1e-2);
    EXPECT_NEAR(run("combine cut c.obj a.stl b.stl --json").parsed()["volume_mm3"].get<double>(), 7500, 1e-2);
    EXPECT_NEAR(run("combine common k.3mf a.stl b.stl --json").parsed()["volume_mm3"].get<double>(), 500, 1e-2);
    put("far.stl", cube(5, {100, 0, 0}));
    Ran none = run("combine common n.stl a.stl far.stl");
    EXPECT_EQ(none.status, 1);
    EXPECT_FALSE(there("n.stl"));
    EXPECT_NE(none.err.find("Nothing is left"), std::string::npos);
    TriMesh open = cube(20);
    open.triangles.pop_back();
    put("open.stl", open);
    EXPECT_EQ(run("combine join o.stl a.stl open.stl").status, 1);
    EXPECT_FALSE(there("o.stl"));
}
TEST_F(Cli, ConvertGoesRoundTheFormats) {
    put("a.stl", cube(20));
    EXPECT_EQ(run("convert a.stl a.3mf").status, 0);
    EXPECT_EQ(run("convert a.3mf a.obj").status, 0);
    EXPECT_EQ(run("convert a.obj b.stl").status, 0);
    EXPECT_NEAR(run("inspect b.stl --json").parsed()["volume_mm3"].get<double>(), 8000, 1e-3);
    EXPECT_EQ(run("inspect a.3mf --json").parsed()["format"], "3mf");
    TriMesh bad = test::soup(cube(20));
    bad.vertices[0].x() = std::nan("");
    put("nan.stl", bad);
    EXPECT_EQ(run("convert nan.stl n.3mf").status, 1);
    EXPECT_FALSE(there("n.3mf"));
}
TEST_F(Cli, LayersCountIslandsMassAndRaft) {
    TriMesh two = cube(10);
    append(two, cube(5, {20, 0, 8}));
    put("two.stl", two);
    json j = run("layers two.stl --json --infill 100").parsed();
    EXPECT_EQ(j["layers"], 65); // the block ends at 13 mm
    ASSERT_EQ(j["islands"].size(), 1u);
    EXPECT_EQ(j["islands"][0]["layer"], 41);
    EXPECT_NEAR(j["islands"][0]["z_mm"].get<double>(), 8, 1e-9);
    EXPECT_NEAR(j["islands"][0]["area_mm2"].get<double>(), 25, 1e-3);
    EXPECT_NEAR(j["mass_g"].get<double>(), 1.125 * 1.24, 1e-3);
    EXPECT_NEAR(j["first_layer_area_mm2"].get<double>(), 100, 1e-3);
    EXPECT_TRUE(j["pauses"].empty());
    json raft = run("layers two.stl --json --raft-layers 3").parsed();
    EXPECT_EQ(raft["layers"], 68);
    EXPECT_EQ(raft["islands"][0]["layer"], 44); // a raft's layers shift the count
    EXPECT_EQ(run("layers two.stl --layer-height 0").status, 2);
}
TEST_F(Cli, LayersWriteThePlanAndReadItBack) {
    put("cube.stl", cube(10));
    json told = run("layers cube.stl --json --gcode plan.gcode --raft-layers 5").parsed();
    ASSERT_TRUE(there("plan.gcode"));
    json read = run("gcode plan.gcode --json").parsed();
    EXPECT_EQ(read["layers"], told["layers"]);
    EXPECT_EQ(read["layers"], 55);
    EXPECT_NEAR(read["bbox_max"][2].get<double>(), 11, 1e-3) << "the raft lies below it";
    const double straight = run("layers cube.stl --json --gcode a.gcode").parsed()["time_motion_s"];
    const double waves = run("layers cube.stl --json --fill gyroid").parsed()["time_motion_s"];
    EXPECT_GT(waves, straight) << "the waves of a gyroid are longer and turn more";
    EXPECT_EQ(run("layers cube.stl --fill honey").status, 2);
    EXPECT_EQ(run("layers cube.stl --gcode no/such/folder/plan.gcode").status, 1);
}
TEST_F(Cli, GapsTakeEveryShellAsABody) {
    TriMesh two = cube(10);
    append(two, cube(10, {10.4, 0, 0}));
    put("two.stl", two);
    put("third.stl", cube(10, {0, 10.1, 0}));
    json pairs = run("gaps two.stl third.stl --json").parsed()["pairs"];
    ASSERT_EQ(pairs.size(), 3u);
    double least = 9;
    for (const json& p : pairs) {
        for (const char* key : {"a", "b", "min_mm", "at_a", "at_b", "touching", "overlap_mm3"})
            EXPECT_TRUE(p.contains(key));
        least = std::min(least, p["min_mm"].get<double>());
    }
    EXPECT_NEAR(least, 0.1, 1e-5);
    EXPECT_EQ(run("gaps two.stl third.stl --below 0.2 --json").parsed()["pairs"].size(), 1u);
}
TEST_F(Cli, StepsListEveryFieldWithItsLimits) {
    json steps = run("steps --json").parsed()["steps"];
    ASSERT_GE(steps.size(), 13u);
    for (const json& step : steps)
        for (const json& field : step["fields"])
            for (const char* key : {"name", "kind", "default", "hint", "unit", "min", "max", "choices"})
                EXPECT_TRUE(field.contains(key)) << step["kind"] << key;
}
TEST_F(Cli, MakeTakesAProjectWrittenByHand) {
    put("p.json", std::string(R"({"format":"loose-peg","version":1,"name":"T","parameters":{"peg_d":"6 mm"},"parts":[
      {"name":"Peg","steps":[{"kind":"cylinder","fields":{"diameter":"peg_d","height":30,"along":"x","from":"centre"}}]},
      {"name":"Plate","steps":[{"kind":"block","fields":{"size_x":10,"size_y":20,"size_z":20,"from":"centre"}},{"kind":"cut_with","fields":{"tool":"Peg","fit":"slide"}}]}]})"));
    Ran ran = run("make p.json --json --to out --format stl --format 3mf");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json j = ran.parsed();
    EXPECT_EQ(j["parts"].size(), 2u);
    EXPECT_NEAR(j["parts"][0]["volume_mm3"].get<double>(), std::numbers::pi * 9 * 30, 1e-6);
    EXPECT_NEAR(j["parts"][0]["bbox_max"][1].get<double>(), 3, 1e-6);
    EXPECT_EQ(j["parts"][1]["steps"][1]["ok"], true);
    ASSERT_EQ(j["fits"].size(), 1u);
    EXPECT_EQ(j["fits"][0]["a"], "Peg");
    EXPECT_EQ(j["fits"][0]["b"], "Plate");
    EXPECT_EQ(j["fits"][0]["fit"], "slide");
    EXPECT_EQ(j["fits"][0]["state"], "right");
    EXPECT_NEAR(j["fits"][0]["wanted_mm"].get<double>(), 0.25, 1e-12);
    EXPECT_EQ(j["files"].size(), 3u);
    for (const json& file : j["files"]) EXPECT_TRUE(there(file.get<std::string>())) << file;
    EXPECT_EQ(run("inspect out/Plate.stl --json").parsed()["closed"], true);
    EXPECT_NEAR(run("make p.json --set peg_d=8 --json").parsed()["parts"][0]["volume_mm3"].get<double>(),
                std::numbers::pi * 16 * 30, 1e-6);
    EXPECT_NEAR(run("make p.json --set Plate/1/size_z='1 in' --json").parsed()["parts"][1]["bbox_max"][2].get<double>(),
                12.7, 1e-6);
    EXPECT_EQ(run("make p.json --set nothing=8").status, 1);
    EXPECT_EQ(run("make p.json --set peg_d=peg_d").status, 1);
    EXPECT_EQ(run("make missing.json").status, 3);
}
TEST_F(Cli, AFailedStepGivesOneAndStillReports) {
    put("p.json",
        std::string(
            R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"block"},{"kind":"cylinder","fields":{"diameter":-5}}]}]})"));
    Ran ran = run("make p.json --json");
    EXPECT_EQ(ran.status, 1);
    EXPECT_EQ(ran.parsed()["parts"][0]["steps"][1]["ok"], false);
    EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << ran.err;
}

TEST_F(Cli, OutlineTellsAreasContoursAndWhatCannotBeUsed) {
    put("ring.svg", std::string(R"x(<svg xmlns="http://www.w3.org/2000/svg" width="2in" height="2in" viewBox="0 0 2 2">
      <path fill-rule="evenodd" d="M0 0H1V1H0Z M.25 .25H.75V.75H.25Z"/><path d="M0 1.5L1 1.5"/><text>x</text></svg>)x"));
    Ran ran = run("outline ring.svg --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json answer = ran.parsed();
    for (const char* key :
         {"file", "unit", "area_mm2", "bbox_min", "bbox_max", "closed_contours", "open_paths", "regions", "findings"})
        EXPECT_TRUE(answer.contains(key)) << key;
    EXPECT_NEAR(answer["area_mm2"].get<double>(), 0.75 * 25.4 * 25.4, 1e-6);
    EXPECT_EQ(answer["unit"], "in");
    EXPECT_EQ(answer["closed_contours"], 2);
    EXPECT_EQ(answer["open_paths"], 1);
    EXPECT_EQ(answer["regions"], 1);
    EXPECT_NEAR(answer["bbox_max"][0].get<double>(), 25.4, 1e-9);
    EXPECT_NEAR(run("outline ring.svg --fill nonzero --json").parsed()["area_mm2"].get<double>(), 25.4 * 25.4, 1e-6);
    EXPECT_EQ(run("outline ring.svg --fill odd").status, 2);
    put("ring.svg", std::string("<svg"));
    Ran broken = run("outline ring.svg --json");
    EXPECT_EQ(broken.status, 3);
    EXPECT_EQ(broken.out, "");
    EXPECT_NE(broken.err.find("loose-peg-cli: ring.svg:"), std::string::npos) << broken.err;
    EXPECT_EQ(run("outline /nowhere/at/all.dxf").status, 3);
}

TEST_F(Cli, GrowAnswersTheGrownMeshWithItsDeviation) {
    put("cube.stl", cube(10));
    Ran ran = run("grow cube.stl out.stl --by 0.5 --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json j = ran.parsed();
    // Steiner's formula for a cube of 10 and 0.5.
    double want = 1000 + 600 * 0.5 + std::numbers::pi * 30 * 0.25 + 4 * std::numbers::pi / 3 * 0.125;
    EXPECT_NEAR(j["volume_mm3"].get<double>(), want, 8);
    EXPECT_LE(j["largest_deviation_mm"].get<double>(), 0.02);
    EXPECT_TRUE(j["closed"].get<bool>());
    EXPECT_EQ(j["self_intersecting_faces"], 0);
    EXPECT_TRUE(there("out.stl"));
    EXPECT_NEAR(run("grow cube.stl smaller.obj --by=-1 --json").parsed()["volume_mm3"].get<double>(), 512, 5);
    EXPECT_EQ(run("grow cube.stl gone.stl --by=-6").status, 1);
    EXPECT_FALSE(there("gone.stl"));
    EXPECT_EQ(run("grow cube.stl zero.stl --by 0").status, 2);
    EXPECT_EQ(run("grow cube.stl x.txt --by 1").status, 2);
    TriMesh open = cube(10);
    open.triangles.pop_back();
    put("open.stl", open);
    Ran refused = run("grow open.stl no.stl --by 0.3");
    EXPECT_EQ(refused.status, 1);
    EXPECT_NE(refused.err.find("loose-peg-cli: open.stl: "), std::string::npos);
    EXPECT_FALSE(there("no.stl"));
    put("cut.stl", write_stl_binary(cube(10)).substr(0, 300));
    EXPECT_EQ(run("grow cut.stl no.stl --by 0.3").status, 3);
}

TEST_F(Cli, GaugeWritesACouponWithItsLadder) {
    Ran ran = run("gauge g.stl --contact peg --from 0.1 --to 0.5 --count 5 --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json j = ran.parsed();
    EXPECT_EQ(j["gaps_mm"].size(), 5u);
    EXPECT_NEAR(j["gaps_mm"][2].get<double>(), 0.3, 1e-12);
    EXPECT_EQ(j["shells"], 2);
    EXPECT_TRUE(j["closed"].get<bool>());
    EXPECT_LT(j["time_s"].get<double>(), 1800);
    EXPECT_EQ(run("gauge bad.stl --contact snap").status, 2);
    EXPECT_EQ(run("gauge g.stl --contact peg --from 0.5 --to 0.1").status, 2);
    EXPECT_EQ(run("gauge bad.stl --contact peg --count 1000000").status, 2);
    EXPECT_FALSE(there("bad.stl"));
}

TEST_F(Cli, GapsTellsTheBodiesOfAProjectApart) {
    put("p.json",
        R"({"format":"loose-peg","version":1,"parts":[{"name":"Chain","steps":[{"kind":"chain","fields":{"links":3}}]}]})");
    Ran ran = run("gaps p.json --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json pairs = ran.parsed()["pairs"];
    ASSERT_EQ(pairs.size(), 2u);
    EXPECT_EQ(pairs[0]["a"], "Chain/link 1");
    EXPECT_NEAR(pairs[0]["min_mm"].get<double>(), 0.35, 0.015);
    EXPECT_FALSE(pairs[0]["touching"].get<bool>());
    json fits = run("make p.json --json").parsed()["fits"];
    ASSERT_EQ(fits.size(), 2u);
    EXPECT_EQ(fits[0]["state"], "right");
    EXPECT_EQ(fits[0]["fit"], "in-place");
}

// Projects: what the window does with them.

namespace {

/// A shelf and a peg in it, a variant, a wanted contact and a movement.
json shelf_project() {
    return json::parse(R"({"format": "loose-peg", "version": 1, "name": "Shelf",
  "parameters": {"bore": "8.6 mm"},
  "parts": [
    {"name": "Peg", "quantity": 3, "steps": [{"kind": "cylinder", "name": "stem", "fields": {"diameter": 8, "height": 30}}]},
    {"name": "Shelf", "steps": [
      {"kind": "block", "name": "b", "fields": {"size_x": 40, "size_y": 30, "size_z": 10, "at_z": 10}},
      {"kind": "cylinder", "name": "hole", "fields": {"diameter": "bore", "height": 30, "does": "cut"}}],
     "variants": [{"name": "wide", "numbers": {"bore": "9 mm"}}]}],
  "contacts": [{"a": "Peg", "b": "Shelf", "fit": "0.3"}],
  "movements": [{"id": 900, "moving": "Peg", "still": "Shelf", "kind": "slide", "direction": ["0", "0", "1"],
                 "from": "0 mm", "to": "20 mm", "step": "2 mm"}]})");
}

} // namespace

TEST_F(Cli, CheckTellsFindingsAndContacts) {
    put("p.json", shelf_project().dump());
    Ran ran = run("check p.json --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json all = ran.parsed();
    ASSERT_EQ(all["parts"].size(), 2u);
    EXPECT_EQ(all["parts"][0]["name"], "Peg");
    for (const json& finding : all["parts"][0]["findings"])
        for (const char* key : {"kind", "count", "where", "says", "layers"}) EXPECT_TRUE(finding.contains(key)) << key;
    ASSERT_EQ(all["contacts"].size(), 1u);
    EXPECT_EQ(all["contacts"][0]["state"], "right");
    EXPECT_NEAR(all["contacts"][0]["min_mm"].get<double>(), 0.3, 0.01);
    EXPECT_TRUE(all["contacts"][0]["fused_layers"].is_null());
    EXPECT_EQ(run("check p.json --set bore=8.1 --json").parsed()["contacts"][0]["state"], "tight");
}
TEST_F(Cli, MoveLeadsABodyAlong) {
    put("p.json", shelf_project().dump());
    for (const char* which : {"1", "Peg"}) {
        Ran ran = run(std::string("move p.json ") + which + " --json");
        ASSERT_EQ(ran.status, 0) << ran.err;
        json all = ran.parsed();
        EXPECT_GE(all["positions"].size(), 11u);
        for (const json& at : all["positions"]) EXPECT_NEAR(at["min_mm"].get<double>(), 0.3, 0.02);
        EXPECT_TRUE(all["first_contact"].is_null());
        EXPECT_NEAR(all["play_mm"].get<double>(), 10, 1) << "along the hole it is free for five each way";
    }
    Ran none = run("move p.json 7");
    EXPECT_EQ(none.status, 1);
    EXPECT_NE(none.err.find("There are: 1 (Peg)"), std::string::npos) << none.err;
}
TEST_F(Cli, MakeTakesVariantsAndStandsPartsInPlace) {
    put("p.json", shelf_project().dump());
    auto shelf = [&](const std::string& more) {
        Ran ran = run("make p.json --json" + more);
        EXPECT_EQ(ran.status, 0) << ran.err;
        return ran.parsed()["parts"][1]["volume_mm3"].get<double>();
    };
    EXPECT_NEAR(shelf(""), 40 * 30 * 10 - M_PI * 4.3 * 4.3 * 10, 1e-3);
    EXPECT_NEAR(shelf(" --variant Shelf/wide"), 40 * 30 * 10 - M_PI * 4.5 * 4.5 * 10, 1e-3);
    EXPECT_NEAR(shelf(" --variant wide --set bore=5"), 40 * 30 * 10 - M_PI * 2.5 * 2.5 * 10, 1e-3)
        << "--set comes last";
    Ran gone = run("make p.json --variant thin");
    EXPECT_EQ(gone.status, 1);
    EXPECT_NE(gone.err.find("Shelf/wide"), std::string::npos) << gone.err;
    ASSERT_EQ(run("make p.json --in-place --to placed --format stl").status, 0);
    Ran inside = run("inspect placed/Shelf.stl --json");
    EXPECT_NEAR(inside.parsed()["bbox_min"][2].get<double>(), 10, 1e-3) << "it hangs where it is in the design";
}
TEST_F(Cli, LayersAndSupportsTakeAProject) {
    put("p.json", shelf_project().dump());
    Ran ran = run("layers p.json --json");
    ASSERT_EQ(ran.status, 0) << ran.err;
    json all = ran.parsed();
    ASSERT_EQ(all["parts"].size(), 2u);
    EXPECT_EQ(all["parts"][0]["quantity"], 3);
    double sum = 0;
    for (const json& part : all["parts"]) sum += part["mass_g"].get<double>() * part["quantity"].get<int>();
    EXPECT_NEAR(all["mass_g"].get<double>(), sum, 1e-6 * sum);
    EXPECT_EQ(all["layers"], 150) << "30 mm in layers of 0.2";
    EXPECT_EQ(run("layers p.json --gcode plans").status, 1) << "a folder that is not there";
    std::filesystem::create_directory(folder / "plans");
    json written = run("layers p.json --gcode plans --json").parsed();
    for (const json& part : written["parts"]) EXPECT_TRUE(there(part["gcode"].get<std::string>())) << part["gcode"];
    EXPECT_EQ(run("supports p.json out.stl").status, 1) << "nothing hangs";
    EXPECT_FALSE(there("out.stl"));
}
TEST_F(Cli, AStepsOwnReasonIsSaidAndNothingIsWritten) {
    json bad = shelf_project();
    bad["parts"][1]["steps"][0]["fields"]["size_x"] = "-3";
    put("bad.json", bad.dump());
    Ran ran = run("make bad.json --to out --json");
    EXPECT_EQ(ran.status, 1);
    EXPECT_TRUE(ran.parsed().is_object()) << "the object is there all the same";
    EXPECT_NE(ran.err.find("Shelf, step 1"), std::string::npos) << ran.err;
    EXPECT_FALSE(there("out"));
    Ran as_far = run("make bad.json --to out --as-far-as-it-goes");
    EXPECT_EQ(as_far.status, 1);
    EXPECT_TRUE(there("out/Shelf.3mf"));
}
TEST_F(Cli, AContactThatNamesNobodyIsRefusedByName) {
    for (auto [key, value, says] : {std::tuple("b", "Shelff", "Shelff"), std::tuple("fit", "snugly", "snugly")}) {
        json bad = shelf_project();
        bad["contacts"][0][key] = value;
        put("bad.json", bad.dump());
        Ran ran = run("make bad.json --json");
        EXPECT_EQ(ran.status, 1) << value;
        EXPECT_NE(ran.err.find(says), std::string::npos) << ran.err;
    }
}
TEST_F(Cli, AFilletMadeInPartIsNotOk) {
    json p = {
        {"format", "loose-peg"},
        {"version", 1},
        {"parts",
         json::array(
             {{{"name", "S"},
               {"steps",
                json::array(
                    {{{"kind", "block"}, {"name", "b"}, {"fields", {{"size_x", 20}, {"size_y", 20}, {"size_z", 10}}}},
                     {{"kind", "block"},
                      {"name", "w"},
                      {"fields", {{"size_x", 4}, {"size_y", 4}, {"size_z", 30}, {"at_x", 8}, {"at_y", 8}}}},
                     {{"kind", "fillet"}, {"fields", {{"edges", "upright"}, {"radius", "3 mm"}}}}})}}})}};
    put("p.json", p.dump());
    Ran ran = run("make p.json --to out --json");
    json step = ran.parsed()["parts"][0]["steps"][2];
    EXPECT_FALSE(step["ok"]) << step.dump();
    EXPECT_EQ(ran.status, 1);
    EXPECT_FALSE(there("out"));
    EXPECT_EQ(step["state"],
              step["says"].get<std::string>().find("stay sharp") != std::string::npos ? "in_part" : "failed");
}
TEST_F(Cli, AllFilesAreWrittenOrNone) {
    json p = shelf_project();
    p["parts"][1]["name"] = std::string(300, 'x');
    p["contacts"] = json::array();
    p["movements"] = json::array();
    put("p.json", p.dump());
    Ran ran = run("make p.json --to out --format stl");
    EXPECT_EQ(ran.status, 1);
    EXPECT_FALSE(there("out")) << "the peg's file went too, and the folder";
    EXPECT_LT(ran.err.size(), 520u);
    // More than goes on one bed goes on the next.
    json many = shelf_project();
    many["parts"][1]["quantity"] = 60;
    put("many.json", many.dump());
    json files = run("make many.json --to beds --json").parsed()["files"];
    ASSERT_GE(files.size(), 2u);
    for (const json& file : files) {
        json box = run("inspect " + file.get<std::string>() + " --json").parsed();
        EXPECT_LE(box["bbox_max"][1].get<double>() - box["bbox_min"][1].get<double>(), 220);
    }
}
TEST_F(Cli, WhatIsNoSubcommandIsAnsweredWithThoseThereAre) {
    Ran ran = run("frobnicate --json");
    EXPECT_EQ(ran.status, 2);
    EXPECT_NE(ran.err.find("frobnicate"), std::string::npos);
    EXPECT_NE(ran.err.find("inspect"), std::string::npos);
}
TEST_F(Cli, RefusalsAreOneLineOfCleanText) {
    put("a\x01b\xff.stl", "no mesh");
    Ran ran = run("inspect 'a\x01b\xff.stl'");
    EXPECT_EQ(ran.status, 3);
    EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1);
    for (char c : ran.err) EXPECT_TRUE(c == '\n' || static_cast<unsigned char>(c) >= 0x20);
    EXPECT_FALSE(json(ran.err).dump().empty()) << "dump() throws on what is no UTF-8";
    Ran wide = run("inspect " + std::string(3000, 'n') + ".stl");
    EXPECT_LT(wide.err.size(), 520u);
}
TEST_F(Cli, BodiesThatTouchStayApartInTheFiles) {
    // Two blocks side by side as bodies of their own: one mesh of both would have edges with four facets.
    json p = {{"format", "loose-peg"},
              {"version", 1},
              {"name", "Pair"},
              {"parts",
               json::array(
                   {{{"name", "Pair"},
                     {"steps",
                      json::array(
                          {{{"kind", "block"},
                            {"name", "left"},
                            {"fields", {{"size_x", 10}, {"size_y", 10}, {"size_z", 10}}}},
                           {{"kind", "block"},
                            {"name", "right"},
                            {"fields",
                             {{"size_x", 10}, {"size_y", 10}, {"size_z", 10}, {"at_x", 10}, {"does", "new"}}}}})}}})}};
    put("p.json", p.dump());
    json stl = run("make p.json --to out --format stl --json").parsed()["files"];
    ASSERT_EQ(stl.size(), 2u);
    for (const json& file : stl) {
        json seen = run("inspect '" + file.get<std::string>() + "' --json").parsed();
        EXPECT_TRUE(seen["closed"]);
        EXPECT_EQ(seen["nonmanifold_edges"], 0);
        EXPECT_NEAR(seen["volume_mm3"].get<double>(), 1000, 1e-3);
    }
    json whole = run("make p.json --to out --json").parsed()["files"];
    ASSERT_EQ(whole.size(), 1u);
}

// STEP files, rebuilt meshes and interfaces of supports as scripts ask for them.
#include "cli_run.h"
#include <numbers>

using namespace lp;
using namespace lp::test;

namespace {

class WorkshopCli : public Cli {
  protected:
    json answer(const std::string& line) {
        Ran ran = run(line + " --json");
        EXPECT_EQ(ran.status, 0) << line << ": " << ran.err;
        return ran.parsed();
    }
};

const char* a_bench = R"({"format":"loose-peg","version":1,"name":"Seed bench","parameters":{"bore":"8 mm"},"parts":[
  {"name":"Plate","quantity":2,"colour":"#336699","steps":[{"kind":"block","fields":{"size_x":40,"size_y":20,"size_z":6}},
    {"kind":"cylinder","fields":{"diameter":"bore","height":6,"does":"cut"}}]},
  {"name":"Peg / long","steps":[{"kind":"cylinder","fields":{"diameter":7,"height":30,"at_x":50}}]}]})";

} // namespace

TEST_F(WorkshopCli, AProjectGoesOutAsStepAndComesIn) {
    put("bench.json", std::string(a_bench));
    const json made = answer("make bench.json --set bore=10 --to out --format step");
    ASSERT_EQ(made["files"].size(), 1u);
    const std::string file = made["files"][0];
    EXPECT_EQ(file, "out/Seed-bench.step");
    const double plate = 40 * 20 * 6 - std::numbers::pi * 25 * 6, peg = std::numbers::pi * 3.5 * 3.5 * 30;
    EXPECT_NEAR(made["parts"][0]["volume_mm3"], plate, 1e-3);
    const json inspected = answer("inspect " + file);
    EXPECT_EQ(inspected["format"], "step");
    EXPECT_EQ(inspected["shells"], 2);
    EXPECT_TRUE(inspected["closed"].get<bool>());
    EXPECT_NEAR(inspected["volume_mm3"], plate + peg, 2) << "by facets";
    EXPECT_NEAR(inspected["bbox_max"][0], 53.5, 1e-3) << "as it stands in the design";
    const json converted = answer("convert " + file + " again.stp");
    EXPECT_EQ(converted["shells"], 2);
    const json faceted = answer("convert " + file + " meshes.stl");
    EXPECT_EQ(faceted["triangles"], inspected["triangles"]);
    Ran back = run("convert meshes.stl none.step");
    EXPECT_EQ(back.status, 1);
    EXPECT_NE(back.err.find("is of triangles"), std::string::npos) << back.err;
    EXPECT_FALSE(there("none.step"));
}

TEST_F(WorkshopCli, BrokenStepFilesAreRefused) {
    put("empty.step", std::string());
    put("cut.step", std::string("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(0.,0.,0.));"));
    put("bare.step", std::string("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(0.,0.,0.));\nENDSEC;"
                                 "\nEND-ISO-10303-21;\n"));
    for (const char* file : {"empty.step", "cut.step", "bare.step"}) {
        Ran ran = run(std::string("inspect ") + file);
        EXPECT_EQ(ran.status, 3) << file;
        EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << ran.err;
        EXPECT_TRUE(ran.out.empty()) << ran.out;
    }
}

TEST_F(WorkshopCli, ABrokenMeshIsRebuilt) {
    // A cube without a side, a second one through it.
    TriMesh broken = box_mesh({0, 0, 0}, {20, 20, 20});
    broken.triangles.resize(broken.triangles.size() - 2);
    append(broken, box_mesh({10, 10, 10}, {30, 30, 30}));
    put("broken.stl", broken);
    const json j = answer("mend broken.stl out.stl --rebuild");
    EXPECT_TRUE(j["after"]["closed"].get<bool>());
    EXPECT_EQ(j["after"]["self_intersecting_faces"], 0);
    EXPECT_EQ(j["after"]["overlapping_shells"], 0);
    EXPECT_NEAR(j["after"]["volume_mm3"], 15000, 300);
    EXPECT_EQ(j["cures"].back()["kind"], "rebuild");
    EXPECT_NEAR(j["rebuilt_within_mm"], 30 * std::sqrt(3.0) / 100, 1e-6);
    // The two are united first: what the skin leaves in the notch between them is less than what it bridges.
    EXPECT_LT(j["largest_move_mm"], j["rebuilt_within_mm"].get<double>());
    const json coarse = answer("mend broken.stl out.stl --rebuild --tolerance 0.5");
    EXPECT_EQ(coarse["rebuilt_within_mm"], 0.5);
    EXPECT_FALSE(answer("mend broken.stl out.stl").contains("rebuilt_within_mm"));
    put("sheet.stl", TriMesh{{{0, 0, 0}, {30, 0, 0}, {0, 30, 0}}, {{0, 1, 2}}, {}});
    Ran nothing = run("mend sheet.stl none.stl --rebuild");
    EXPECT_EQ(nothing.status, 1) << nothing.err;
    EXPECT_FALSE(there("none.stl"));
}

TEST_F(WorkshopCli, SupportsGetAnInterface) {
    put("table.json", std::string(R"({"format":"loose-peg","version":1,"parts":[{"name":"Table","steps":[
      {"kind":"block","fields":{"size_x":10,"size_y":10,"size_z":20}},
      {"kind":"block","fields":{"size_x":40,"size_y":40,"size_z":4,"at_z":20}}]}]})"));
    answer("make table.json --to . --format stl");
    std::filesystem::rename(folder / "Table.stl", folder / "table.stl");
    const json bare = answer("supports table.stl bare.stl"),
               floor = answer("supports table.stl floor.stl --interface-layers 3");
    EXPECT_EQ(floor["touching"], floor["supports"]);
    EXPECT_GT(floor["volume_mm3"].get<double>(), bare["volume_mm3"].get<double>() + 0.5 * 0.6 * 1500);
    EXPECT_TRUE(answer("inspect floor.stl")["closed"].get<bool>());
    auto nearest = [&](const char* file) {
        return answer(std::string("gaps table.stl ") + file + " --below 1")["pairs"][0]["min_mm"].get<double>();
    };
    EXPECT_GE(nearest("floor.stl"), nearest("bare.stl") - 1e-3) << "the floor comes no nearer than the posts";
    EXPECT_EQ(run("supports table.stl x.stl --interface-layers 99").status, 2);
    EXPECT_EQ(run("supports table.stl x.stl --neck 0").status, 2);
    EXPECT_EQ(run("supports table.json x.3mf --tip 9").status, 2);
    EXPECT_GT(answer("supports table.stl foot.stl --foot 1.5 --spacing 8")["volume_mm3"].get<double>(),
              answer("supports table.stl foot.stl --foot 0 --spacing 8")["volume_mm3"].get<double>());
    answer("supports table.stl low.stl --gap-layers 2");
    EXPECT_NEAR(nearest("low.stl"), 0.4, 1e-3);
    EXPECT_EQ(answer("supports table.json p.3mf --interface-layers 3")["supports"], floor["supports"]);
}

// practice, pauses and sheet as scripts run them.
#include "cli_run.h"
#include "packages.h"

using namespace lp;
using namespace lp::test;

namespace {

class Practice : public Cli {
  protected:
    json answer(const std::string& line) {
        Ran ran = run(line + " --json");
        EXPECT_EQ(ran.status, 0) << line << ": " << ran.err;
        return ran.parsed();
    }
    std::string text_of(const std::string& pdf) {
        const std::string command =
            "pdftotext -layout '" + (folder / pdf).string() + "' '" + (folder / "t.txt").string() + "'";
        EXPECT_EQ(std::system(command.c_str()), 0);
        return read_file(folder / "t.txt").value_or("");
    }
};

const char* a_holder =
    R"({"format":"loose-peg","version":1,"name":"Bean pole clamp","parameters":{"room":"4.2 mm"},"parts":[
  {"name":"Holder","quantity":3,"steps":[
    {"kind":"block","name":"b","fields":{"size_x":20,"size_y":20,"size_z":12}},
    {"kind":"block","name":"r","fields":{"size_x":8.5,"size_y":8.5,"size_z":"room","at_z":3,"does":"cut"}},
    {"kind":"cut_with","fields":{"tool":"Pin","fit":"slide"}}]},
  {"name":"Pin","steps":[{"kind":"cylinder","fields":{"diameter":4,"height":30,"at_x":7,"at_y":7,"at_z":-5}}]},
  {"name":"M5 nut","stand_in":true,"steps":[{"kind":"block","fields":{"size_x":8,"size_y":8,"size_z":4,"at_z":3}}]}]})";

} // namespace

TEST_F(Practice, ShellsOfAMeshFuseWhereTheirGapIsTooNarrow) {
    // Two plates beside each other, each gap a side as told: growth 0.1 at both and 0.05 that closes by itself.
    for (const auto& [gap, fuses] : {std::pair{0.15, true}, {0.24, true}, {0.27, false}, {0.4, false}}) {
        TriMesh plates = box_mesh({0, 0, 0}, {10, 20, 2});
        append(plates, box_mesh({10 + gap, 0, 0}, {20, 20, 2}));
        put("plates.stl", plates);
        const json j = answer("practice plates.stl out.stl --flare 0.1");
        EXPECT_EQ(!j["fused"].empty(), fuses) << gap;
        EXPECT_EQ(j["shells"], fuses && gap < 0.2 ? 1 : 2) << gap;
        EXPECT_TRUE(j["closed"].get<bool>()) << gap;
        if (fuses) {
            EXPECT_EQ(j["fused"][0]["layers"], json::array({1, 10}));
        }
    }
    put("plates.stl", cube(20));
    const json grown = answer("practice plates.stl out.stl --growth 0.2 --flare 0.2 --layer-height 0.3");
    EXPECT_NEAR(grown["bbox_max"][0].get<double>() - grown["bbox_min"][0].get<double>(), 20.4, 0.02);
    EXPECT_NEAR(grown["deviation_max_mm"], 0.2, 0.02);
    EXPECT_EQ(grown["layers"], 67) << "one of 0.2 and 66 of 0.3";
}

TEST_F(Practice, AProjectPracticesItsPartsAndOpenMeshesAreRefused) {
    put("p.json", std::string(a_holder));
    const json j = answer("practice p.json out.3mf");
    EXPECT_GE(j["shells"], 3) << "holder with its void, pin; and air between lines that sag over the void";
    EXPECT_TRUE(j["fused"].empty()) << "each is printed for itself";
    TriMesh open = cube(20);
    open.triangles.pop_back();
    put("open.stl", open);
    Ran ran = run("practice open.stl o.stl");
    EXPECT_EQ(ran.status, 1);
    EXPECT_NE(ran.err.find("not closed"), std::string::npos) << ran.err;
    EXPECT_FALSE(there("o.stl"));
    put("foil.stl", box_mesh({0, 0, 0}, {0.1, 30, 10}));
    EXPECT_EQ(run("practice foil.stl o.stl").status, 1) << "too thin for a line";
}

TEST_F(Practice, LayersOfAProjectTellPauses) {
    put("p.json", std::string(a_holder));
    json j = answer("layers p.json");
    ASSERT_EQ(j["pauses"].size(), 1u);
    EXPECT_EQ(j["pauses"][0]["layer"], 37);
    EXPECT_EQ(j["pauses"][0]["layer_with_raft"], 37);
    EXPECT_NEAR(j["pauses"][0]["z_mm"], 7.2, 1e-9);
    EXPECT_EQ(j["pauses"][0]["part"], "Holder");
    EXPECT_GT(j["time_motion_s"], 0);
    j = answer("layers p.json --set 'room=4.8 mm'");
    EXPECT_EQ(j["pauses"][0]["layer"], 40) << "0.6 higher: three layers";
}

TEST_F(Practice, A3mfSaysWhereToStopAndWhatItWasMadeFor) {
    put("p.json", std::string(a_holder));
    answer("make p.json --to made --format 3mf");
    const std::string text = entry(folder / "made" / "Bean-pole-clamp.3mf", "3D/3dmodel.model");
    // 3MF core specification 1.2, 3.4.1: "Description" is one of the names that need no name space.
    const size_t at = text.find("name=\"Description\"");
    ASSERT_NE(at, std::string::npos) << text;
    for (const char* words : {"nozzle 0.4 mm", "layers of 0.2 mm", "Holder: of PLA.",
                              "Stop in Holder: M5 nut goes in "
                              "after layer 36, at 7.2 mm"})
        EXPECT_NE(text.find(words, at), std::string::npos) << words << "\n" << text;
    EXPECT_NE(text.find("Pin: of PLA."), std::string::npos);
    // As the design stands nothing is printed, and nothing is said of it.
    answer("make p.json --to placed --format 3mf --in-place");
    const std::string placed = entry(folder / "placed" / "Bean-pole-clamp.3mf", "3D/3dmodel.model");
    EXPECT_NE(placed.find("<build"), std::string::npos);
    EXPECT_EQ(placed.find("name=\"Description\""), std::string::npos);
    EXPECT_EQ(entry(folder / "placed" / "Bean-pole-clamp.3mf", "Metadata/print-settings.json"), "");
}

TEST_F(Practice, ASheetHoldsEveryPartCountAndNumber) {
    put("p.json", std::string(a_holder));
    const json j = answer("sheet p.json out.pdf");
    EXPECT_GE(j["pages"], 2);
    const std::string text = text_of("out.pdf");
    for (const char* word : {"Bean pole clamp", "Holder", "Pin", "20 x 20 x 12 mm", "4 x 4 x 30 mm", "slide", "M5 nut",
                             "Stop before these layers", "room", "4.2 mm", "0.45 mm", "Layer height", "PLA"})
        EXPECT_NE(text.find(word), std::string::npos) << word << "\n" << text;
    // Page sizes: ISO 216 A4 is 210 x 297 mm = 595.3 x 841.9 points, Letter 612 x 792.
    auto size = [&](const std::string& file) {
        const std::string command =
            "pdfinfo '" + (folder / file).string() + "' > '" + (folder / "i.txt").string() + "'";
        EXPECT_EQ(std::system(command.c_str()), 0);
        return read_file(folder / "i.txt").value_or("");
    };
    EXPECT_NE(size("out.pdf").find("595.276 x 841.89"), std::string::npos) << size("out.pdf");
    answer("sheet p.json letter.pdf --paper letter");
    EXPECT_NE(size("letter.pdf").find("612 x 792"), std::string::npos);
    // A name with letters of other scripts and a control sign is no obstacle.
    put("odd.json", std::string(R"({"format":"loose-peg","version":1,"name":"Gießkanne \u00e9 \u0416","parts":[
      {"name":"Tülle","steps":[{"kind":"block","fields":{"size_x":5,"size_y":5,"size_z":5}}]}]})"));
    answer("sheet odd.json odd.pdf");
    EXPECT_NE(text_of("odd.pdf").find("Tülle"), std::string::npos);
    // It goes out with the files.
    const json whole = answer("make p.json --to out --format 3mf --format stl --sheet");
    EXPECT_EQ(whole["files"].back(), "out/Bean-pole-clamp-sheet.pdf") << whole["files"];
    EXPECT_FALSE(whole["fits"].empty());
    EXPECT_NE(text_of("out/Bean-pole-clamp-sheet.pdf").find("Stop before these layers"), std::string::npos);
    EXPECT_TRUE(there("out/Bean-pole-clamp.3mf"));
    EXPECT_EQ(run("make p.json --sheet").status, 2) << "into which folder?";
    put("none.json", std::string(R"({"format":"loose-peg","version":1,"parts":[]})"));
    EXPECT_EQ(run("sheet none.json none.pdf").status, 1);
    EXPECT_FALSE(there("none.pdf"));
}

TEST_F(Practice, ADrawingOfAPartHoldsItsSizesAndWhatToMeasure) {
    put("p.json", std::string(a_holder));
    const json j = answer("sheet p.json holder.pdf --part Holder");
    EXPECT_EQ(j["part"], "Holder");
    EXPECT_EQ(j["sizes"][0]["drawn_mm"], 20);
    const std::string text = text_of("holder.pdf");
    for (const char* word : {"Holder", "Bean pole clamp", "from above", "from the right", "cut A–A", "2 : 1",
                             "To measure when it is printed", "20.2 mm", "Found"})
        EXPECT_NE(text.find(word), std::string::npos) << word << "\n" << text;
    answer("sheet p.json holder.svg --part Holder --paper letter");
    EXPECT_NE(read_file(folder / "holder.svg").value_or("").find(">from in front</text>"), std::string::npos);
    const Ran none = run("sheet p.json none.pdf --part Roof");
    EXPECT_EQ(none.status, 1);
    EXPECT_NE(none.err.find("Roof"), std::string::npos) << none.err;
    EXPECT_FALSE(there("none.pdf"));
    EXPECT_EQ(run("sheet p.json all.svg").status, 2) << "the whole sheet is pages";
}

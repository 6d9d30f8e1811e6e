// hardware and thread by the contract: values of the reference tables (from memory), pairs measured by `gaps`.
#include "cli_run.h"

using namespace lp;
using namespace lp::test;

namespace {

class HardwareCommands : public Cli {
  protected:
    json answer(const std::string& line) {
        Ran ran = run(line + " --json");
        EXPECT_EQ(ran.status, 0) << line << ": " << ran.err;
        return ran.parsed();
    }
};

} // namespace

TEST_F(HardwareCommands, RowsCarrySizesWordsSourceAndSureness) {
    const json nuts = answer("hardware m4 nut");
    ASSERT_FALSE(nuts["rows"].empty());
    const json& first = nuts["rows"][0];
    for (const char* key : {"id", "standard", "name", "sizes", "source", "sure"})
        EXPECT_TRUE(first.contains(key)) << key;
    EXPECT_EQ(first["standard"], "ISO 4032");
    EXPECT_EQ(first["sizes"]["s"], 7);
    EXPECT_EQ(first["sizes"]["m"], 3.2);
    EXPECT_EQ(first["words"]["s"], "across flats");
    EXPECT_EQ(first["sure"], true);
    EXPECT_EQ(answer("hardware \"countersunk m3 12\"")["rows"][0]["sizes"]["l"], 12);
    EXPECT_NEAR(answer("hardware 1/4-20")["rows"][0]["sizes"]["d"].get<double>(), 6.35, 1e-9);
    EXPECT_NE(run("hardware m4 nut").out.find("ISO 4032"), std::string::npos);
}

TEST_F(HardwareCommands, WhatIsNotThereIsOneLineAndStatusOne) {
    const Ran ran = run("hardware m4.5 nut");
    EXPECT_EQ(ran.status, 1);
    EXPECT_TRUE(ran.out.empty());
    EXPECT_NE(ran.err.find("M4, M5"), std::string::npos) << ran.err;
    EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1);
    EXPECT_EQ(run("hardware").status, 2);
}

TEST_F(HardwareCommands, TheMakersOwnFileIsReadAndABadOneIsToldAndPassedOver) {
    std::filesystem::create_directories(folder / "config/loose-peg");
    const std::string with = "XDG_CONFIG_HOME=$PWD/config ";
    auto run_with = [&](const std::string& arguments) { // the folder is given before the program
        const std::string script = "#!/bin/sh\n" + with + CLI + " \"$@\"\n";
        put("own.sh", script);
        return std::system(
            ("cd " + folder.path.string() + " && sh own.sh " + arguments + " >out.txt 2>err.txt").c_str());
    };
    put("config/loose-peg/hardware.json",
        R"({"tables": [{"id": "cane", "name": "bean pole", "letters": {"d": "across"}, "rows": {"thin": [8.4]}}]})");
    EXPECT_EQ(run_with("hardware bean pole --json"), 0);
    EXPECT_EQ(json::parse(*read_file(folder / "out.txt"))["rows"][0]["sizes"]["d"], 8.4);
    put("config/loose-peg/hardware.json", "{ half of");
    EXPECT_EQ(run_with("hardware m4 nut"), 0);
    EXPECT_NE(read_file(folder / "err.txt")->find("passed over"), std::string::npos);
}

TEST_F(HardwareCommands, APairOfThreadsKeepsItsGap) {
    for (const char* profile : {"sharp", "round"}) {
        const std::string size = " --size 24x3 --length 9 --profile " + std::string(profile);
        const json bolt = answer("thread bolt.stl" + size + " --fit 0.2"),
                   nut = answer("thread nut.stl" + size + " --side inside --fit 0.2 --wall 2");
        for (const char* key :
             {"major_mm", "minor_mm", "pitch_mm", "starts", "turns", "volume_mm3", "largest_overhang_deg", "finish"})
            EXPECT_TRUE(bolt.contains(key)) << key;
        EXPECT_NEAR(bolt["major_mm"].get<double>(), 23.6, 1e-3);
        EXPECT_NEAR(nut["major_mm"].get<double>(), 24.4, 1e-3);
        EXPECT_EQ(bolt["turns"], 3);
        EXPECT_GT(bolt["finish"]["lead_in"], 0.5);
        const json gaps = answer("gaps bolt.stl nut.stl --below 2");
        ASSERT_EQ(gaps["pairs"].size(), 1u) << profile;
        EXPECT_NEAR(gaps["pairs"][0]["min_mm"].get<double>(), 0.4, 0.02) << profile;
        EXPECT_NEAR(answer("inspect bolt.stl")["volume_mm3"].get<double>() / bolt["volume_mm3"].get<double>(), 1, 1e-4);
        EXPECT_EQ(answer("inspect nut.stl")["closed"], true);
    }
}

TEST_F(HardwareCommands, ThreadsThatMakeNoSenseLeaveNoFile) {
    EXPECT_EQ(run("thread t.stl --size 10x9").status, 1) << "deeper than the rod";
    EXPECT_EQ(run("thread t.stl --size M10 --length 0").status, 1);
    EXPECT_EQ(run("thread t.stl --size M10 --length nan").status, 1);
    EXPECT_EQ(run("thread t.stl --size M10 --starts 0").status, 1);
    for (const char* wrong : {"--size M11", "--size nut", "--size M10 --side up", "--size M10 --hand both",
                              "--size M10 --profile square", ""})
        EXPECT_EQ(run(std::string("thread t.stl ") + wrong).status, 2) << wrong;
    EXPECT_EQ(run("thread t.txt --size M10").status, 2);
    EXPECT_EQ(run("thread nowhere/t.stl --size M10").status, 1);
    EXPECT_FALSE(there("t.stl"));
}

// Tables of numbers: read as RFC 4180 has them, made row by row, written.
#include "formats/formats.h"
#include "handoff/number_rows.h"
#include "made_project.h"
#include "test_meshes.h"
#include <filesystem>

using namespace lp;
using namespace lp::test;

namespace {

Made peg() {
    return make(json::array({step("cylinder", {{"diameter", "d"}, {"height", "h"}})}), {{"d", "8 mm"}, {"h", "20 mm"}});
}

} // namespace

TEST(NumberRows, AreReadAsSpreadsheetsWriteThem) {
    auto rows = read_number_rows("name,d,h\r\nsmall,6 mm,10\r\n\"wide, low\",20 mm,\"h \"\"x\"\"\"\r\n\r\nlast,,7\r\n");
    ASSERT_TRUE(rows) << rows.error().text();
    ASSERT_EQ(rows->size(), 3u);
    EXPECT_EQ((*rows)[0].name, "small");
    EXPECT_EQ((*rows)[0].numbers, (std::vector<std::pair<std::string, std::string>>{{"d", "6 mm"}, {"h", "10"}}));
    EXPECT_EQ((*rows)[1].name, "wide, low");
    EXPECT_EQ((*rows)[1].numbers[1].second, "h \"x\"") << "quotes doubled within quotes";
    EXPECT_EQ((*rows)[2].numbers.size(), 1u) << "an empty cell leaves the number as it is";
    // Semicolons and decimal commas, a byte order mark, no last line end.
    rows = read_number_rows("\xef\xbb\xbfname;d\nsmall;6,5 mm");
    ASSERT_TRUE(rows);
    EXPECT_EQ((*rows)[0].numbers[0], (std::pair<std::string, std::string>{"d", "6,5 mm"}));
    EXPECT_EQ(read_number_rows("name\td\na\t5")->front().numbers[0].second, "5");
}

TEST(NumberRows, BadTablesAreRefusedInWords) {
    auto said = [](const std::string& csv) {
        auto rows = read_number_rows(csv);
        EXPECT_FALSE(rows) << csv.substr(0, 40);
        return rows ? std::string() : rows.error().text();
    };
    EXPECT_NE(said("").find("no numbers"), std::string::npos);
    EXPECT_NE(said("name,d\n").find("no numbers"), std::string::npos);
    EXPECT_NE(said("name,d\n\"a,5\n").find("do not close"), std::string::npos);
    EXPECT_NE(said("name,d,d\na,5,6\n").find("twice: d"), std::string::npos);
    EXPECT_NE(said("name,d,\na,5,6\n").find("no name"), std::string::npos);
    EXPECT_NE(said("name,d\na,5\na,6\n").find("twice: a"), std::string::npos);
    EXPECT_NE(said("name,d\n,5\n").find("no name"), std::string::npos);
    EXPECT_NE(said("name,d\na,5,6\n").find("longer than the first"), std::string::npos);
    std::string many = "name,d\n";
    for (int i = 0; i < 1001; ++i) many += "r" + std::to_string(i) + ",5\n";
    EXPECT_NE(said(many).find("1000 rows"), std::string::npos);
    said(std::string(1000, '\0'));
    said(std::string(20'000'000, 'x'));
}

TEST(NumberRows, AreMadeAndWrittenEachToItsFolder) {
    const Folder folder;
    const auto rows = read_number_rows("name,d,h\nsmall,6 mm,10 mm\nlarge,2 * h,\n");
    ASSERT_TRUE(rows);
    const auto written = export_rows(*peg().project, *rows, {folder.path, {"stl"}});
    ASSERT_TRUE(written) << written.error().text();
    ASSERT_EQ(written->size(), 2u);
    auto volume = [&](size_t i) {
        EXPECT_EQ((*written)[i].says, "");
        EXPECT_EQ((*written)[i].files.size(), 1u);
        EXPECT_TRUE((*written)[i].files[0].same);
        return (*written)[i].files[0].volume_mm3;
    };
    EXPECT_NEAR(volume(0), 3.14159265 * 9 * 10, 1);
    EXPECT_NEAR(volume(1), 3.14159265 * 400 * 20, 60) << "twice the height across";
    EXPECT_TRUE(std::filesystem::exists(folder.path / "small"));
    EXPECT_TRUE(std::filesystem::exists(folder.path / "large"));
}

TEST(NumberRows, SayWhichRowDoesNotCome) {
    const Folder folder;
    auto exported = [&](const char* csv) {
        return export_rows(*peg().project, *read_number_rows(csv), {folder.path, {"stl"}});
    };
    auto missing = exported("name,depth\na,5\n");
    ASSERT_FALSE(missing);
    EXPECT_NE(missing.error().text().find("a: There is no number called \"depth\""), std::string::npos)
        << missing.error().text();
    EXPECT_TRUE(std::filesystem::is_empty(folder.path)) << "nothing is written";
    EXPECT_FALSE(exported("name,d\na,5 kilo\n"));
    const auto mixed = exported("name,d\nflat,0 mm\nfine,5 mm\n");
    ASSERT_TRUE(mixed) << mixed.error().text();
    EXPECT_NE((*mixed)[0].says.find("P: "), std::string::npos) << (*mixed)[0].says;
    EXPECT_EQ((*mixed)[1].says, "") << "the others are written all the same";
    EXPECT_FALSE(std::filesystem::exists(folder.path / "flat"));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(export_rows(*peg().project, *read_number_rows("name,d\na,5\n"), {folder.path, {"stl"}}, stopped));
}

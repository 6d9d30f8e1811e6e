// Packages in memory: small parts and those large enough to be packed block by block, as another program reads them.
#include "formats/formats.h"
#include "formats/zip_package.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <random>
#include <zip.h>

using namespace lp;

namespace {

std::string lines(size_t bytes) {
    std::mt19937 random(5);
    std::string text;
    while (text.size() < bytes) text += "<vertex x=\"" + std::to_string(random()) + "\"/>\n";
    text.resize(bytes);
    return text;
}

/// What libzip itself says of a part: how it is packed, and its check sum.
zip_stat_t said_of(const std::string& package, const char* name) {
    const ZipArchive archive = zip_archive(package, true);
    zip_stat_t stat;
    zip_stat_init(&stat);
    if (archive) zip_stat(archive.get(), name, 0, &stat);
    return stat;
}

} // namespace

TEST(ZipPackage, PartsComeBackWhateverTheirSize) {
    const size_t block = size_t(1) << 20;
    ZipParts parts{{"none", ""}, {"small.txt", "beans"}};
    for (size_t size : {4 * block - 1, 4 * block, 4 * block + 1, 9 * block + 12345})
        parts.emplace_back("large-" + std::to_string(size), lines(size));
    parts.emplace_back("zeros", std::string(5 * block, '\0'));
    std::mt19937 random(9);
    std::string noise(6 * block, ' ');
    for (char& c : noise) c = char(random());
    parts.emplace_back("noise", noise);
    for (bool quickly : {false, true}) {
        const auto package = pack_zip(parts, quickly);
        ASSERT_TRUE(package);
        EXPECT_EQ(*package, *pack_zip(parts, quickly)) << "the same parts, the same bytes";
        const auto back = unpack_own_zip(*package); // libzip holds it against the check sums
        ASSERT_TRUE(back);
        ASSERT_EQ(back->size(), parts.size());
        for (size_t i = 0; i < parts.size(); ++i) {
            EXPECT_EQ((*back)[i].first, parts[i].first);
            EXPECT_TRUE((*back)[i].second == parts[i].second) << parts[i].first << ' ' << quickly;
        }
    }
}

TEST(ZipPackage, ALargePartIsPackedWithTheCheckSumOfTheWhole) {
    // The check value of CRC-32 ("123456789" gives cbf43926: ISO 3309, ITU-T V.42), and one for a million of them
    // by Python's binascii.
    EXPECT_EQ(said_of(*pack_zip({{"a", "123456789"}}, true), "a").crc, 0xcbf43926u);
    std::string many;
    for (int i = 0; i < 1'000'000; ++i) many += "123456789";
    const zip_stat_t stat = said_of(*pack_zip({{"a", many}}, true), "a");
    EXPECT_EQ(stat.size, 9'000'000u);
    EXPECT_EQ(stat.comp_method, ZIP_CM_DEFLATE);
    EXPECT_EQ(stat.crc, 0x1b815c98u);
    EXPECT_LT(stat.comp_size, 100'000u);
}

TEST(ZipPackage, WhatIsNoneIsNotOpened) {
    EXPECT_FALSE(zip_archive(""));
    EXPECT_FALSE(zip_archive("PK"));
    const std::string whole = *pack_zip({{"a", lines(9 << 20)}}, true);
    EXPECT_FALSE(zip_archive(whole.substr(0, whole.size() / 2)));
    std::string damaged = whole;
    for (size_t i = 0; i < 64; ++i) damaged[damaged.size() / 2 + i] ^= 0x55;
    EXPECT_FALSE(unpack_own_zip(damaged));
}

TEST(ZipPackage, ALargeModelThatIsDamagedIsRefused) {
    const auto whole = find_format("3mf")->write({{.name = "ball", .mesh = test::sphere(40, 200)}}, "ball", {});
    ASSERT_TRUE(whole);
    ASSERT_TRUE(read_objects("ball.3mf", *whole));
    // In its numbers, where text stays text: only the check sum tells.
    size_t refused = 0;
    for (size_t k = 1; k < 8; ++k) {
        std::string damaged = *whole;
        damaged[k * damaged.size() / 8] ^= 0x11;
        const auto read = read_objects("ball.3mf", damaged);
        refused += !read;
        if (!read) {
            EXPECT_NE(read.error().text().find("damaged"), std::string::npos) << read.error().text();
        }
    }
    EXPECT_EQ(refused, 7u);
}

// Bought hardware by name. Values: ISO 4032, DIN 934, ISO 10642, ISO 7089, ISO 273, ISO 724, ASME B1.1 as the reference
// tables have them (from memory); thread diameters against the factors of ISO 68-1.
#include "hardware/hardware.h"
#include "hardware/measured_thread.h"
#include "hardware/thread_size.h"
#include <cmath>
#include <gtest/gtest.h>
#include <map>

using namespace lp;

namespace {

std::vector<HardwareRow> rows(const char* words) {
    static const Hardware hardware{std::string(R"({"tables": []})")};
    auto found = hardware.find(words);
    EXPECT_TRUE(found) << words << ": " << (found ? "" : found.error().text());
    return found.value_or(std::vector<HardwareRow>{});
}
HardwareRow row(const char* words, const std::string& standard) {
    for (const HardwareRow& r : rows(words))
        if (r.standard == standard) return r;
    ADD_FAILURE() << standard << " is not found by " << words;
    return {};
}
double size(const HardwareRow& row, const char* letter) {
    const double* value = row.size_of(letter);
    EXPECT_NE(value, nullptr) << row.id << " " << letter;
    return value ? *value : -1;
}
std::string refusal(const char* words) {
    const auto found = Hardware(R"({"tables": []})").find(words);
    EXPECT_FALSE(found) << words;
    return found ? "" : found.error().text();
}

} // namespace

TEST(Hardware, NutsOfTwoStandardsAreToldApart) {
    const HardwareRow m5 = row("m5 nut", "ISO 4032"), old = row("M5 nuts", "DIN 934");
    EXPECT_EQ(size(m5, "m"), 4.7);
    EXPECT_EQ(size(old, "m"), 4.0);
    EXPECT_EQ(size(m5, "s"), 8);
    EXPECT_EQ(size(row("m10 nut", "ISO 4032"), "s"), 16);
    EXPECT_EQ(size(row("m10 nut", "DIN 934"), "s"), 17);
    EXPECT_EQ(m5.id, "iso4032-m5");
    EXPECT_TRUE(m5.sure);
    EXPECT_NE(m5.source.find("from memory"), std::string::npos);
    EXPECT_EQ(rows("m4 thin nut").front().standard, "ISO 4035");
    EXPECT_EQ(size(row("square nut m4", "DIN 562"), "m"), 2.2);
    EXPECT_FALSE(row("square nut m4", "DIN 562").sure);
    for (const HardwareRow& r : rows("m4 nut")) EXPECT_EQ(r.size, "M4");
    EXPECT_EQ(rows("iso 4032 m8").size(), 1u);
    EXPECT_EQ(rows("din 934").size(), 6u) << "all sizes of a table";
}

TEST(Hardware, AScrewTakesItsLengthHoweverItIsWritten) {
    for (const char* words : {"countersunk m3 12", "m3 x 12 countersunk", "M3x12 countersunk",
                              "m3×12 countersunk screw", "countersunk screw m3 x 12 mm"}) {
        const HardwareRow r = row(words, "ISO 10642");
        EXPECT_EQ(r.id, "iso10642-m3x12") << words;
        EXPECT_EQ(size(r, "dk"), 6.72);
        EXPECT_EQ(size(r, "k"), 1.86);
        EXPECT_EQ(size(r, "s"), 2);
        EXPECT_EQ(size(r, "l"), 12);
    }
    EXPECT_EQ(row("m3 countersunk", "ISO 10642").size_of("l"), nullptr);
    EXPECT_EQ(size(row("m4 socket cap", "ISO 4762"), "dk"), 7);
    EXPECT_EQ(size(row("grub m5 6", "ISO 4026"), "l"), 6);
    EXPECT_NE(refusal("m4 nut 12"), "") << "a nut has no length";
}

TEST(Hardware, ThreadsCarryTheDiametersOfTheirProfile) {
    // ISO 724: d2 = d - 0.649519 P, d1 = d - 1.082532 P; d3 = d - 1.226869 P.
    const std::map<const char*, std::array<double, 5>> metric{{"M3 thread", {3, 0.5, 2.675, 2.459, 2.387}},
                                                              {"m6 coarse", {6, 1, 5.350, 4.917, 4.773}},
                                                              {"M10 coarse thread", {10, 1.5, 9.026, 8.376, 8.160}},
                                                              {"m12 coarse", {12, 1.75, 10.863, 10.106, 9.853}}};
    for (const auto& [words, v] : metric) {
        const HardwareRow r = row(words, "ISO 261");
        const char* letters[] = {"d", "P", "d2", "d1", "d3"};
        for (size_t i = 0; i < 5; ++i) EXPECT_NEAR(size(r, letters[i]), v[i], 0.0006) << words << letters[i];
    }
    const HardwareRow quarter = row("1/4-20", "ASME B1.1");
    EXPECT_NEAR(size(quarter, "d"), 6.35, 1e-9);
    EXPECT_NEAR(size(quarter, "d2"), 0.2175 * 25.4, 0.002);
    EXPECT_NEAR(size(quarter, "d1"), 0.1959 * 25.4, 0.002);
    EXPECT_EQ(rows("1/4-20").size(), 1u);
    EXPECT_EQ(rows("1/4 thread").size(), 2u) << "coarse and fine";
    EXPECT_NEAR(size(row("3/8-16", "ASME B1.1"), "d1"), 7.806, 0.002);
    EXPECT_EQ(rows("m10x1.25").front().size, "M10x1.25");
    EXPECT_NEAR(size(row("g1/2 pipe thread", "ISO 228-1"), "d1"), 18.631, 0.002); // ISO 228-1, from memory
}

TEST(Hardware, OtherThingsByTheirWords) {
    EXPECT_EQ(size(row("m8 washer", "ISO 7089"), "d2"), 16);
    EXPECT_EQ(size(row("clearance hole m4", "ISO 273"), "medium"), 4.5);
    EXPECT_EQ(size(row("iso 273 m10", "ISO 273"), "coarse"), 12);
    EXPECT_EQ(size(row("608 bearing", "ISO 15"), "D"), 22);
    EXPECT_EQ(rows("magnet 7x2").size(), 1u);
    EXPECT_EQ(size(row("7 x 2 mm magnet", "common practice"), "h"), 2);
    EXPECT_EQ(size(row("dowel pin 4 x 20", "ISO 8734"), "l"), 20);
    EXPECT_EQ(size(row("aa cell", "IEC 60086-2"), "d"), 14.5);
    EXPECT_EQ(rows("aa cell").size(), 1u);
    EXPECT_EQ(size(row("m3 insert", "common practice"), "hole"), 4);
    EXPECT_EQ(size(row("15 mm tube", "EN 1057"), "D"), 15) << "15 is no standard here";
    EXPECT_EQ(size(row("iso4032 m5 nut pocket", "ISO 4032"), "m"), 4.7);
    EXPECT_EQ(size(row("iso 15 608", "ISO 15"), "D"), 22);
    EXPECT_EQ(rows("6 mm magnet").size(), 2u) << "of two thicknesses";
    EXPECT_EQ(rows("M8 thread").front().size, "M8");
    EXPECT_GT(rows("m4").size(), 8u) << "everything of that size";
}

TEST(Hardware, WhatNoTableKnowsNamesTheNearest) {
    EXPECT_NE(refusal("m4.5 nut").find("The nearest sizes are M4, M5"), std::string::npos) << refusal("m4.5 nut");
    EXPECT_NE(refusal("m100 washer").find("M12"), std::string::npos);
    EXPECT_NE(refusal("flying carpet").find("Say a size and a thing"), std::string::npos);
    for (const char* empty : {"", "   ", "of the", ","}) EXPECT_NE(refusal(empty), "") << empty;
    EXPECT_NE(refusal(std::string(100000, '7').c_str()), "");
    EXPECT_NE(refusal("m4 nut \xff\xfe\x01"), "");
}

TEST(Hardware, TheMakersOwnRowsStandInFrontAndReplace) {
    const Hardware own(R"({"tables": [
        {"id": "iso4032", "standard": "ISO 4032", "name": "nut", "letters": {"s": "across flats", "m": "height"},
         "source": "measured on 3 of them", "rows": {"M5": [7.9, 4.6]}},
        {"id": "pole", "name": "bean pole", "words": ["cane"], "letters": {"d": "across"}, "rows": {"thick": [14.2]}}]})");
    EXPECT_EQ(own.passed_over(), "");
    size_t of_standard = 0;
    const auto nuts = own.find("m5 nut");
    for (const HardwareRow& r : *nuts) of_standard += r.standard == "ISO 4032";
    EXPECT_EQ(of_standard, 1u);
    EXPECT_EQ(*own.find("m5 nut")->front().size_of("s"), 7.9);
    EXPECT_EQ(*own.find("cane")->front().size_of("d"), 14.2);
    EXPECT_TRUE(own.find("m6 nut")) << "the others are still there";
    for (const char* bad :
         {"", "{", "[]", "7", R"({"tables": 3})", R"({"tables": [{"id": "x"}]})",
          R"({"tables": [{"id": "x", "name": "n", "letters": {"d": "w"}, "rows": {"M1": [1, 2]}}]})",
          R"({"tables": [{"id": "x", "name": "n", "letters": {"d": "w"}, "rows": {"": [1]}}]})",
          R"({"tables": [{"id": "x", "name": "n", "letters": {"d": "w"}, "rows": {"M1": ["a"]}}]})"}) {
        const Hardware hurt{std::string(bad)};
        EXPECT_NE(hurt.passed_over(), "") << bad;
        EXPECT_TRUE(hurt.find("m5 nut")) << "the shipped ones are there";
    }
}

TEST(MeasuredThread, IsToldByItsPitchAndTheNearestStandards) {
    // A neck of 27.4, five turns in 13.5: 2.7, 25.4 / 2.7 = 9.407 turns an inch; no metric, unified or pipe thread.
    const auto neck = measured_thread("27.4, 5 crests in 13.5 mm");
    ASSERT_TRUE(neck);
    EXPECT_NEAR(neck->pitch_mm, 2.7, 1e-12);
    EXPECT_NEAR(neck->turns_per_inch(), 9.4074, 1e-4);
    const Hardware tables;
    const auto near = threads_near(tables, *neck);
    ASSERT_FALSE(near.empty());
    EXPECT_EQ(near[0].row.size, "M27") << "the nearest, and its pitch is another";
    EXPECT_NEAR(near[0].pitch_off_mm, 0.3, 1e-9);
    EXPECT_NE(measured_words(*neck, {}).find("9.41 turns an inch"), std::string::npos);
    // A bolt as calipers find it: 9.85 outside, ten turns in 15: M10. And an inch one: 6.3, ten in 12.7: 1/4-20.
    const auto bolt = threads_near(tables, *measured_thread("9.85 10 in 15"));
    ASSERT_FALSE(bolt.empty());
    EXPECT_EQ(bolt[0].row.size, "M10");
    const auto inch = threads_near(tables, *measured_thread("thread 6.3, 10 turns over 12.7"));
    ASSERT_FALSE(inch.empty());
    EXPECT_EQ(inch[0].row.size, "1/4-20");
    // A pipe: G1/2 is 20.955 outside and has 14 turns an inch.
    const auto pipe = threads_near(tables, *measured_thread("20.8, 14 in 25.4"));
    ASSERT_FALSE(pipe.empty());
    EXPECT_EQ(pipe[0].row.size, "G1/2");
    // The answer makes the thread.
    const auto size = thread_size("27.4, 5 in 13.5");
    ASSERT_TRUE(size);
    EXPECT_NEAR(size->major_mm, 27.4, 1e-12);
    EXPECT_NEAR(size->pitch_mm, 2.7, 1e-12);
    for (const char* text : {"", "27.4", "27.4, 0 in 13.5", "27.4, 5 in 0", "0, 5 in 13.5", "M10", "58x4", "5 in 13.5",
                             "a, 5 in 13.5", "27.4, 5000 in 3"})
        EXPECT_FALSE(measured_thread(text)) << text;
}

// Inches for who reads and types them: 25.4 mm exactly (ISO 31-1; the international inch of 1959).
#include "base/inches.h"
#include <gtest/gtest.h>

namespace lp {
namespace {

TEST(Inches, AreToldToAThousandthOrATenthOfOne) {
    EXPECT_EQ(format_inches(25.4), "1 in");
    EXPECT_EQ(format_inches(6), "0.2362 in");
    EXPECT_EQ(format_inches(220), "8.661 in");
    EXPECT_EQ(format_inches(0), "0 in");
    EXPECT_EQ(format_inches(-0.25), "-0.0098 in");
    EXPECT_EQ(format_inches(0.0005), "0.00002 in") << "what is not nothing never reads as nothing";
}

TEST(Inches, SentencesTellEveryLengthAreaAndVolume) {
    const std::pair<const char*, const char*> told[] = {
        {"Edge 12.70 mm long", "Edge 0.5 in long"},
        {"18 x 30 x 25.4 mm", "0.7087 x 1.181 x 1 in"},
        {"first at 0, -12.7, 2.54 mm.", "first at 0, -0.5, 0.1 in."},
        {"Use 0.02 mm to 20 mm.", "Use 0.0008 in to 0.7874 in."},
        {"Use 0.05 to 5 mm.", "Use 0.002 to 0.1969 in."},
        {"Face 645.16 mm² · flat", "Face 1 in² · flat"},
        {"both fill 16387.064 mm³", "both fill 1 in³"},
        {"standing on 6.4516 cm²", "standing on 1 in²"},
        {"slide 0.25 mm - 0.10 mm = 0.15 mm a face", "slide 0.0098 in - 0.0039 in = 0.0059 in a face"},
        {"layer 12, z 2.54 mm", "layer 12, z 0.1 in"},
        {"0.25 of 0.30 mm · tight", "0.0098 of 0.0118 in · tight"},
        {"found 0.50 … 0.63 mm", "found 0.0197 … 0.0248 in"},
        {"⌀ 25.4 mm", "⌀ 1 in"}};
    for (auto [mm, inches] : told) EXPECT_EQ(told_in_inches(mm), inches) << mm;
}

TEST(Inches, WhatIsNoLengthStays) {
    for (const char* same : {"Use mm, cm or in.", "Units are mm, cm, m, in and deg", "moves at 60 mm/s", "3 edges",
                             "12 g · 4 min · 45°", "Peg6mm", "", "step 3 failed", "type wall = 6 mmx"})
        EXPECT_EQ(told_in_inches(same), same);
}

double meant(const std::string& typed, QuantityKind kind = QuantityKind::Length) {
    const ParameterValues values{
        {"wall", {2.54, QuantityKind::Length}}, {"lean", {30, QuantityKind::Angle}}, {"n", {3, QuantityKind::Count}}};
    auto value = evaluate_expression(typed_in_inches(typed, kind, values), kind, values);
    EXPECT_TRUE(value) << typed << ": " << (value ? "" : value.error().text());
    return value.value_or(-1);
}

TEST(Inches, ABareNumberIsOneOfInchesWhereLengthsAreMeant) {
    EXPECT_DOUBLE_EQ(meant("1"), 25.4);
    EXPECT_DOUBLE_EQ(meant("-.5"), -12.7);
    EXPECT_DOUBLE_EQ(meant("1/4"), 6.35);
    EXPECT_DOUBLE_EQ(meant("1 1/2"), 38.1);
    EXPECT_DOUBLE_EQ(meant("0,25"), 6.35) << "a comma for decimals";
    EXPECT_DOUBLE_EQ(meant("6 mm"), 6) << "a unit that is typed holds";
    EXPECT_DOUBLE_EQ(meant("1 in"), 25.4);
    EXPECT_DOUBLE_EQ(meant("wall"), 2.54);
    EXPECT_DOUBLE_EQ(meant("wall + 0.5"), 2.54 + 12.7);
    EXPECT_DOUBLE_EQ(meant("2 * wall"), 5.08) << "a factor has no unit";
    EXPECT_DOUBLE_EQ(meant("2 * (wall + 0.1)"), 2 * (2.54 + 2.54));
    EXPECT_DOUBLE_EQ(meant("wall / 2 - 1/100"), 1.27 - 0.01) << "a quotient within a sum is left as it is told: mm";
    EXPECT_DOUBLE_EQ(meant("max(wall, 0.5)"), 12.7);
    EXPECT_DOUBLE_EQ(meant("2 + 3"), 5 * 25.4);
    EXPECT_DOUBLE_EQ(meant("30", QuantityKind::Angle), 30) << "angles have no inches";
    EXPECT_DOUBLE_EQ(meant("4", QuantityKind::Count), 4);
}

TEST(Inches, WhatCannotBeReadIsRefusedInItsOwnWords) {
    for (const char* wrong : {"", "   ", "six", "1 +", "((", "2 apples", "45 deg", "1e999999"})
        EXPECT_EQ(typed_in_inches(wrong, QuantityKind::Length, {}), wrong);
}

TEST(Inches, AnEditedNumberLosesNothing) {
    for (double mm : {6.0, 0.001, 84.0, 123.456, 1e5, -3.175}) {
        const std::string shown = edited_in_inches(format_number(mm, 6) + " mm");
        auto back = evaluate_expression(shown, QuantityKind::Length, {});
        ASSERT_TRUE(back) << shown;
        EXPECT_NEAR(*back, mm, 2e-8 * 25.4) << shown;
    }
    EXPECT_EQ(edited_in_inches("2 * wall + 1 mm"), "2 * wall + 1 mm") << "a formula is edited as it was told";
    EXPECT_EQ(edited_in_inches("slide"), "slide");
}

} // namespace
} // namespace lp

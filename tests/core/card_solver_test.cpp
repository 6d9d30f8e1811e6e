// Sizes measured on prints teach the printer card, alone and beside gauges.
#include "fit/card_solver.h"
#include "fit/gauge.h"
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

using namespace lp;

namespace {

Expected<PrinterCard> learn(const PrinterCard& card, const MeasuredSize& size) {
    return learn_from_measured(card, standard_fits(), {}, size);
}

} // namespace

TEST(MeasuredSizes, OutsideGivesGrowthAndAHoleShrink) {
    // 60 drawn, 60.30 found: 0.15 a face. By hand.
    auto card = learn({}, {"Foot, left to right", "2026-11-30", 60, 60.3});
    ASSERT_TRUE(card) << card.error().text();
    EXPECT_NEAR(card->outside_growth_mm, 0.15, 1e-3);
    EXPECT_NEAR(card->measured.at(0).spread_mm, 0, 1e-3);
    EXPECT_NE(card->source_of("outside_growth_mm").find("2026-11-30"), std::string::npos);
    EXPECT_EQ(card->source_of("hole_shrink_mm").find("measured"), std::string::npos) << "nothing was measured of holes";
    // A hole of 8 found as 7.60: 0.2 a face; the growth stays.
    auto both = learn(*card, {"Foot, hole of 8.00 mm", "2026-11-30", 8, 7.6, true, true});
    ASSERT_TRUE(both) << both.error().text();
    EXPECT_NEAR(both->outside_growth_mm, 0.15, 2e-3);
    EXPECT_NEAR(both->hole_shrink_at(8), 0.2, 2e-3);
    // Found again the same day it takes the older one's place.
    auto again = learn(*both, {"Foot, left to right", "2026-11-30", 60, 60.2});
    ASSERT_TRUE(again);
    EXPECT_EQ(again->measured.size(), 2u);
    EXPECT_NEAR(again->outside_growth_mm, 0.1, 2e-3);
}

TEST(MeasuredSizes, AndAGaugeAreOneAnswer) {
    // The gauge knows only the sum of both: 0.15 more than usual. The measured outside tells them apart.
    auto felt = learn_from_gauge({}, standard_fits(), {}, {"2026-11-25", "pin", 6, 0.2, 0.6, 5, {{"slide", 3}}, 0});
    ASSERT_TRUE(felt);
    auto card = learn(*felt, {"Foot, left to right", "2026-11-30", 60, 60.22});
    ASSERT_TRUE(card) << card.error().text();
    EXPECT_NEAR(card->outside_growth_mm, 0.11, 2e-3);
    EXPECT_NEAR(card->hole_shrink_mm, 0.24, 2e-3) << "0.35 together";
    // Everything forgotten: the usual numbers.
    PrinterCard empty = *card;
    empty.gauges.clear();
    empty.measured.clear();
    empty = solved_card(empty, standard_fits(), {});
    EXPECT_EQ(empty.outside_growth_mm, PrinterCard{}.outside_growth_mm);
    EXPECT_EQ(empty.hole_shrink_mm, PrinterCard{}.hole_shrink_mm);
}

TEST(MeasuredSizes, WhatCannotBeIsRefused) {
    EXPECT_FALSE(learn({}, {"a", "", 60, 6.03})) << "another unit, or another place";
    EXPECT_FALSE(learn({}, {"a", "", 60, 0}));
    EXPECT_FALSE(learn({}, {"a", "", 60, -60}));
    EXPECT_FALSE(learn({}, {"a", "", 60, std::nan("")}));
    EXPECT_FALSE(learn({}, {"a", "", 60, 1e9}));
    auto first = learn({}, {"a", "x", 60, 60.2});
    ASSERT_TRUE(first);
    auto against = learn(*first, {"b", "x", 40, 41.4});
    ASSERT_FALSE(against);
    EXPECT_NE(against.error().sentence.find("contradicts"), std::string::npos);
}

TEST(MeasuredSizes, AreKeptInTheCardsFile) {
    auto card = learn({}, {"Foot, hole of 8.00 mm", "2026-11-30", 8, 7.7, true, true});
    ASSERT_TRUE(card);
    const nlohmann::json saved = *card;
    EXPECT_EQ(saved.get<PrinterCard>(), *card);
    nlohmann::json hostile = saved;
    hostile["measured"][0]["found_mm"] = 1e300;
    EXPECT_TRUE(hostile.get<PrinterCard>().measured.empty()) << "passed over";
    MaterialCard soft;
    soft.strain_percent = 40;
    soft.modulus_mpa = 60;
    EXPECT_EQ(nlohmann::json(soft).get<MaterialCard>(), soft);
    soft.modulus_mpa = 0;
    EXPECT_TRUE(check_card(soft));
    soft.modulus_mpa = 60;
    soft.strain_percent = std::nan("");
    EXPECT_TRUE(check_card(soft));
}

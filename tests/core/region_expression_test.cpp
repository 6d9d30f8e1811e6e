// Flat regions by areas that are known, and arithmetic with units against plain double arithmetic on random formulas.
#include "base/dimensions.h"
#include "base/expression.h"
#include "bed/slicing.h"
#include "layers/layer_plan.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <random>

using namespace lp;
using std::numbers::pi;

namespace {

Region square(double x0, double y0, double x1, double y1) {
    auto at = [](double x, double y) {
        return ClipperLib::IntPoint(ClipperLib::cInt(std::llround(x * clipper_grid)),
                                    ClipperLib::cInt(std::llround(y * clipper_grid)));
    };
    return {{at(x0, y0), at(x1, y0), at(x1, y1), at(x0, y1)}};
}

double valued(const std::string& text, QuantityKind kind = QuantityKind::Length, const ParameterValues& values = {}) {
    auto value = evaluate_expression(text, kind, values);
    EXPECT_TRUE(value) << text << ": " << (value ? "" : value.error().text());
    return value.value_or(std::nan(""));
}

/// A random formula of lengths as text, with its value worked out beside it by plain arithmetic.
struct Formula {
    std::string text;
    double value;
};
Formula random_length(std::mt19937& random, int depth) {
    auto any = [&](int n) { return int(random() % unsigned(n)); };
    const double number = (1 + any(4000)) / 100.0;
    char plain[32];
    std::snprintf(plain, sizeof plain, "%.2f", number);
    if (depth == 0) switch (any(4)) {
        case 0:
            return {plain, number};
        case 1:
            return {std::string(plain) + " mm", number};
        case 2:
            return {std::string(plain) + " in", number * 25.4};
        default:
            return {std::string(plain) + "cm", number * 10};
        }
    Formula a = random_length(random, depth - 1), b = random_length(random, depth - 1);
    switch (any(6)) {
    case 0:
        return {"(" + a.text + " + " + b.text + ")", a.value + b.value};
    case 1:
        return {"(" + a.text + " - " + b.text + ")", a.value - b.value};
    case 2:
        return {"2.5 * (" + a.text + ")", 2.5 * a.value};
    case 3:
        return {"max(" + a.text + ", " + b.text + ")", std::max(a.value, b.value)};
    case 4:
        return {"-(" + a.text + ")", -a.value};
    default:
        return {"(" + a.text + ") / 4", a.value / 4};
    }
}

} // namespace

TEST(Regions, UnionsDifferencesAndCommonPartsByInclusionAndExclusion) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> u(0, 20);
    for (int round = 0; round < 30; ++round) {
        const double x0 = u(random), y0 = u(random), x1 = x0 + 1 + u(random), y1 = y0 + 1 + u(random);
        const double p0 = u(random), q0 = u(random), p1 = p0 + 1 + u(random), q1 = q0 + 1 + u(random);
        Region a = square(x0, y0, x1, y1), b = square(p0, q0, p1, q1);
        const double common =
            std::max(0.0, std::min(x1, p1) - std::max(x0, p0)) * std::max(0.0, std::min(y1, q1) - std::max(y0, q0));
        const double wa = (x1 - x0) * (y1 - y0), wb = (p1 - p0) * (q1 - q0);
        EXPECT_NEAR(region_area_mm2(intersect_regions(a, b)), common, 1e-3) << round;
        EXPECT_NEAR(region_area_mm2(unite_regions(a, b)), wa + wb - common, 1e-3) << round;
        EXPECT_NEAR(region_area_mm2(subtract_regions(a, b)), wa - common, 1e-3) << round;
        EXPECT_NEAR(region_area_mm2(subtract_regions(b, a)), wb - common, 1e-3) << round;
        EXPECT_LE(pieces_of(unite_regions(a, b)).size(), 2u);
    }
}

TEST(Regions, OffsetsFollowSteinersFormulaInThePlane) {
    // Area of a convex figure grown by d: A + U d + pi d^2; shrunk rectangles stay rectangles.
    // Rounds are chords within a hundredth: two thirds of it times their length are missing.
    auto round_off = [](double d) { return 0.01 * 2 / 3 * 2 * pi * d + 0.01; };
    for (double d : {0.1, 0.45, 2.0, 7.0}) {
        Region r = square(0, 0, 30, 18);
        EXPECT_NEAR(region_area_mm2(offset_region(r, d)), 30 * 18 + 2 * 48 * d + pi * d * d, round_off(d)) << d;
        EXPECT_NEAR(region_area_mm2(offset_region(r, -d)), (30 - 2 * d) * (18 - 2 * d), 0.01) << d;
    }
    EXPECT_NEAR(region_area_mm2(offset_region(square(0, 0, 30, 18), -9.1)), 0, 1e-9) << "nothing is left";
    // A frame: outwards its hole closes as well.
    Region frame = subtract_regions(square(0, 0, 40, 40), square(10, 10, 30, 30));
    EXPECT_NEAR(region_area_mm2(frame), 1200, 1e-3);
    EXPECT_NEAR(region_area_mm2(offset_region(frame, 1)), 1600 + 160 + pi - 18 * 18, round_off(1));
    EXPECT_EQ(pieces_of(frame).size(), 1u);
    EXPECT_LT((region_centre(frame) - Vec2(20, 20)).norm(), 1e-6);
    // An L: its middle by parts.
    Region l = unite_regions(square(0, 0, 30, 10), square(0, 0, 10, 40));
    const Vec2 middle = (300 * Vec2(15, 5) + 300 * Vec2(5, 25)) / 600;
    EXPECT_LT((region_centre(l) - middle).norm(), 1e-4);
}

TEST(Regions, ManyIslandsAreToldApart) {
    Region all;
    for (int i = 0; i < 12; ++i)
        for (int j = 0; j < 9; ++j) all = unite_regions(all, square(10 * i, 10 * j, 10 * i + 6, 10 * j + 6));
    EXPECT_EQ(pieces_of(all).size(), 108u);
    EXPECT_NEAR(region_area_mm2(all), 108 * 36, 0.01);
    EXPECT_EQ(pieces_of(offset_region(all, 2.1)).size(), 1u) << "grown into one another";
}

TEST(Slicing, SectionsOfAConeAddUpToItsVolume) {
    // Layers half-way up are the midpoint rule: exact to h^2 for a cone's squares.
    for (double layer : {0.1, 0.2, 0.35}) {
        const double r = 15, h = 21;
        TriMesh cone;
        const int n = 720;
        cone.vertices.push_back({0, 0, h});
        cone.vertices.push_back({0, 0, 0});
        for (int k = 0; k < n; ++k)
            cone.vertices.push_back({r * std::cos(2 * pi * k / n), r * std::sin(2 * pi * k / n), 0});
        for (int k = 0; k < n; ++k) {
            const uint32_t a = uint32_t(2 + k), b = uint32_t(2 + (k + 1) % n);
            cone.triangles.push_back({0, a, b});
            cone.triangles.push_back({1, b, a});
        }
        LayerHeights heights{layer, layer};
        const size_t layers = heights.count(h);
        double volume = 0;
        auto sections = slice(cone, heights, 0, layers);
        for (size_t i = 0; i < layers; ++i) {
            volume += region_area_mm2(sections[i]) * layer;
            const double z = heights.bottom(i) + layer / 2, at = r * std::max(0.0, 1 - z / h);
            EXPECT_NEAR(region_area_mm2(sections[i]), pi * at * at, 0.001 * pi * at * at + 0.01) << layer << " " << i;
        }
        EXPECT_NEAR(volume, pi * r * r * h / 3, 0.002 * pi * r * r * h / 3) << layer;
    }
}

TEST(LayerPlan, HeightsAddUpAndAreasAreTheSections) {
    for (double first : {0.2, 0.3})
        for (double layer : {0.12, 0.2}) {
            LayerOptions options;
            options.heights = {layer, first};
            auto plan = plan_layers(box_mesh({0, 0, 0}, {20, 10, 7.5}), {}, options);
            ASSERT_TRUE(plan);
            double top = 0;
            for (const Layer& one : plan->layers) {
                EXPECT_NEAR(one.z_mm, top, 1e-9);
                EXPECT_NEAR(one.area_mm2, 200, 1e-2);
                EXPECT_EQ(one.unsupported_mm2, 0);
                top += one.thickness_mm;
            }
            EXPECT_GE(top, 7.5 - 1e-9);
            EXPECT_LT(top, 7.5 + layer);
            EXPECT_EQ(plan->layers.size(), 1 + size_t(std::ceil((7.5 - first) / layer - 1e-9)));
        }
}

TEST(LayerPlan, WhatLeansIsCarriedByTheLayerBelowAsFarAsTheLimitSays) {
    // A block sheared by an angle: each layer reaches beyond the one below by h tan(angle); carried up to the limit.
    for (double limit : {30.0, 45.0, 60.0})
        for (double off : {-4.0, 4.0}) {
            TriMesh lean = test::cube(20);
            const double by = std::tan(radians(limit + off));
            for (Vec3& v : lean.vertices) v.x() += by * v.z();
            LayerOptions options;
            options.overhang_limit_deg = limit;
            auto plan = plan_layers(lean, {}, options);
            ASSERT_TRUE(plan);
            const double unsupported = plan->layers[50].unsupported_mm2;
            if (off < 0) {
                EXPECT_EQ(unsupported, 0) << limit;
            } else {
                EXPECT_NEAR(unsupported, 20 * 0.2 * (by - std::tan(radians(limit))), 0.25) << limit;
            }
        }
}

TEST(Expression, RandomFormulasAreWorthWhatPlainArithmeticSays) {
    std::mt19937 random(12); // fixed
    for (int round = 0; round < 400; ++round) {
        Formula f = random_length(random, 1 + round % 4);
        if (f.text.size() > 480) continue;
        EXPECT_NEAR(valued(f.text), f.value, 1e-9 * std::max(1.0, std::fabs(f.value))) << f.text;
        // The same formula of a named number in place of a typed one.
        ParameterValues values{{"base", {f.value, QuantityKind::Length}}};
        EXPECT_NEAR(valued("base * 2 - base", QuantityKind::Length, values), f.value,
                    1e-9 * std::max(1.0, std::fabs(f.value)));
    }
}

TEST(Expression, SpacesSignsAndCaseOfUnitsDoNotMatterAndPrecedenceIsTheUsual) {
    EXPECT_DOUBLE_EQ(valued("2+3*4"), 14);
    EXPECT_DOUBLE_EQ(valued("(2+3)*4"), 20);
    EXPECT_DOUBLE_EQ(valued("  2 +3* 4  "), 14);
    EXPECT_DOUBLE_EQ(valued("-3 + 5"), 2);
    EXPECT_DOUBLE_EQ(valued("10 - 4 - 3"), 3) << "from the left";
    EXPECT_DOUBLE_EQ(valued("2 * 3 ^ 2"), 18);
    EXPECT_DOUBLE_EQ(valued("24 / 4 / 2"), 3);
    EXPECT_DOUBLE_EQ(valued("1 in - 25.4 mm + 1 mm"), 1);
    EXPECT_DOUBLE_EQ(valued("0.5 m"), 500);
    EXPECT_DOUBLE_EQ(valued("12 mm / 4 mm * 3 mm"), 9);
    EXPECT_DOUBLE_EQ(valued("sqrt(9) * 2"), 6);
    EXPECT_NEAR(valued("30 mm * sin(30 deg)"), 15, 1e-12);
    EXPECT_NEAR(valued("atan2(3 mm, 3 mm)", QuantityKind::Angle), 45, 1e-12);
    for (const char* bad : {"2 +", "* 3", "(2", "2)", "2 mm 3", "mm", "2 mm + 3 deg", "sqrt()", "sqrt(-1)", "1 / 0",
                            "0/0", "2 ** 3", "wall", "1e400", "a=b", "2;3", "\"2\""})
        EXPECT_FALSE(evaluate_expression(bad, QuantityKind::Length, {})) << bad;
}

TEST(Dimensions, FollowTheRulesOfPhysics) {
    auto word = [](const std::string& w, bool) -> std::optional<Dimensions> {
        if (w == "mm" || w == "a" || w == "b") return Dimensions{1, 0, false};
        if (w == "deg" || w == "t") return Dimensions{0, 1, false};
        if (w == "n") return Dimensions{0, 0, false};
        return std::nullopt;
    };
    auto of = [&](const std::string& text) { return dimensions_of(text, word); };
    struct Case {
        const char* text;
        double length, angle;
    };
    for (const Case& c : {Case{"a + b", 1, 0},
                          {"a * b", 2, 0},
                          {"a * b / b", 1, 0},
                          {"a / b", 0, 0},
                          {"n * a", 1, 0},
                          {"a ^ 2 / b", 1, 0},
                          {"t * 2", 0, 1},
                          {"a + 3 mm", 1, 0},
                          {"a + 3", 1, 0},
                          {"sqrt(a * b)", 1, 0}}) {
        auto d = of(c.text);
        ASSERT_TRUE(d) << c.text;
        EXPECT_DOUBLE_EQ(d->length, c.length) << c.text;
        EXPECT_DOUBLE_EQ(d->angle, c.angle) << c.text;
    }
    for (const char* wrong : {"a + t", "a + a * b", "unknown", "a + 3 deg", "a +", "(a"})
        EXPECT_FALSE(of(wrong)) << wrong;
}

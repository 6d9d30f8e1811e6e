// Pictures of strokes: covered area against closed forms, who lies over whom, what is left out.
#include "app/strip/lines_picture.h"
#include <gtest/gtest.h>
#include <numbers>
#include <random>

using namespace lp;

namespace {

constexpr QRgb white = qRgb(255, 255, 255), black = qRgb(0, 0, 0), red = qRgb(255, 0, 0);

/// Pixels that are dark, by how dark they are.
double covered(const QImage& image) {
    double sum = 0;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) sum += 1 - qRed(image.pixel(x, y)) / 255.0;
    return sum;
}
QImage one(float ax, float ay, float bx, float by, float half) {
    return picture_of({{ax, ay, bx, by, half, black}}, {200, 150}, white);
}

} // namespace

TEST(Strokes, AStrokeCoversItsLengthAndItsRoundEnds) {
    using std::numbers::pi;
    for (double turn : {0.0, 0.1, 0.7, pi / 4, pi / 2, 2.2, 3.0})
        for (double half : {0.8, 2.0, 7.5}) {
            const auto dx = float(40 * std::cos(turn)), dy = float(40 * std::sin(turn));
            const double area = 80 * 2 * half + pi * half * half;
            EXPECT_NEAR(covered(one(100 - dx, 75 - dy, 100 + dx, 75 + dy, float(half))), area, 0.035 * area + 0.5)
                << turn << " " << half;
        }
    EXPECT_NEAR(covered(one(50, 50, 50, 50, 10)), 100 * pi, 3) << "a dot";
    // Finer than a pixel: paler, not gone.
    EXPECT_NEAR(covered(one(20, 20.5F, 120, 20.5F, 0.25F)), 50, 8);
}

TEST(Strokes, IsCutAtThePicturesBordersAndFinishesWithTheWorstNumbers) {
    EXPECT_NEAR(covered(one(-1000, 75, 2000, 75, 5)), 200 * 10, 1);
    EXPECT_NEAR(covered(one(-1e6F, -1e6F, 1e6F, 1e6F, 3)), covered(one(0, 0, 150, 150, 3)), 60);
    EXPECT_EQ(covered(one(-50, 20, -10, 20, 5)), 0);
    EXPECT_EQ(covered(one(10, 500, 100, 500, 5)), 0);
    const float nothing = std::numeric_limits<float>::quiet_NaN(), endless = std::numeric_limits<float>::infinity();
    EXPECT_EQ(covered(one(nothing, 20, 30, 20, 5)), 0);
    EXPECT_EQ(covered(one(10, 20, endless, 20, 5)), 0);
    EXPECT_EQ(covered(one(10, 20, 30, 20, endless)), 0);
    EXPECT_EQ(covered(one(10, 20, 30, 20, -1)), 0);
    EXPECT_TRUE(picture_of(std::vector<Stroke>{}, QSize(0, 10), white).isNull());
}

TEST(Strokes, ALaterOneLiesOverAnEarlierOne) {
    const Stroke level{20, 75, 180, 75, 6, black}, upright{100, 20, 100, 130, 6, red};
    const QImage red_over = picture_of({level, upright}, {200, 150}, white),
                 black_over = picture_of({upright, level}, {200, 150}, white);
    EXPECT_EQ(red_over.pixel(100, 75), red);
    EXPECT_EQ(black_over.pixel(100, 75), black);
    EXPECT_EQ(red_over.pixel(40, 75), black);
    EXPECT_EQ(black_over.pixel(100, 30), red);
    EXPECT_EQ(red_over.pixel(5, 5), white);
}

/// Each pixel looks at every stroke, from the lowest up: what masks and groups of rows must not change.
TEST(Strokes, WhatIsLeftOutUnderOthersIsNotMissed) {
    std::mt19937 made(7);
    auto any = [&](float from, float to) { return std::uniform_real_distribution<float>(from, to)(made); };
    std::vector<Stroke> strokes;
    for (int i = 0; i < 500; ++i) {
        const float x = any(-10, 130), y = any(-10, 100), reach = i % 5 ? 8.0F : 150.0F;
        const float level = i % 7 ? 1.0F : 0.0F;
        strokes.push_back({x, y, x + any(-reach, reach), y + level * any(-reach, reach), any(0.3F, 4),
                           qRgb(int(any(0, 255)), int(any(0, 255)), int(any(0, 255)))});
    }
    const QImage image = picture_of(strokes, {120, 90}, white);
    int worst = 0;
    for (int y = 0; y < 90; ++y)
        for (int x = 0; x < 120; ++x) {
            std::array<double, 3> colour{255, 255, 255};
            for (const Stroke& s : strokes) {
                const double dx = double(s.bx) - s.ax, dy = double(s.by) - s.ay, px = x + 0.5 - s.ax,
                             py = y + 0.5 - s.ay;
                const double t = std::clamp((px * dx + py * dy) / std::max(1e-9, dx * dx + dy * dy), 0.0, 1.0);
                const double share =
                    std::clamp(s.half + 0.5 - std::sqrt((px - t * dx) * (px - t * dx) + (py - t * dy) * (py - t * dy)),
                               0.0, std::min(1.0, 2.0 * s.half));
                const std::array<int, 3> its{qRed(s.colour), qGreen(s.colour), qBlue(s.colour)};
                for (size_t k = 0; k < 3; ++k) colour[k] += share * (its[k] - colour[k]);
            }
            const QRgb seen = image.pixel(x, y);
            const std::array<int, 3> its{qRed(seen), qGreen(seen), qBlue(seen)};
            for (size_t k = 0; k < 3; ++k) worst = std::max(worst, int(std::lround(std::abs(its[k] - colour[k]))));
        }
    EXPECT_LE(worst, 26) << "a pixel counts as covered from nine tenths on";
    EXPECT_GT(worst, 0);
}

/// Infill of a pile of layers lies on the same lines again, longer and shorter, wider and finer, to and fro.
TEST(Strokes, OnTheSameLineOnlyWhatLiesWithinAnotherIsLeftOut) {
    std::mt19937 made(11);
    auto any = [&](float from, float to) { return std::uniform_real_distribution<float>(from, to)(made); };
    std::vector<Stroke> strokes;
    for (int i = 0; i < 400; ++i) {
        const int line = i % 23;
        const float turn = line % 2 ? 0.6F : -0.9F, ux = std::cos(turn), uy = std::sin(turn);
        const float x = 60 + 9 * float(line - 11) * -uy, y = 45 + 9 * float(line - 11) * ux;
        float a = any(-70, 0), b = any(0, 70);
        if (i % 3 == 0) std::swap(a, b);
        if (i % 5 == 0) a = b + any(-30, 30);
        strokes.push_back({x + a * ux, y + a * uy, x + b * ux, y + b * uy, i % 4 ? 2.0F : any(0.3F, 3.5F),
                           qRgb(int(any(0, 255)), int(any(0, 255)), int(any(0, 255)))});
    }
    const QImage image = picture_of(strokes, {120, 90}, white);
    int looked_at = 0;
    for (int y = 0; y < 90; ++y)
        for (int x = 0; x < 120; ++x) {
            QRgb top = white;
            bool clear = true; // no edge passes through the pixel
            for (const Stroke& s : strokes) {
                const double dx = double(s.bx) - s.ax, dy = double(s.by) - s.ay, px = x + 0.5 - s.ax,
                             py = y + 0.5 - s.ay;
                const double t = std::clamp((px * dx + py * dy) / std::max(1e-9, dx * dx + dy * dy), 0.0, 1.0);
                const double off = std::hypot(px - t * dx, py - t * dy);
                if (off < s.half - 0.8)
                    top = s.colour;
                else if (off < s.half + 0.8)
                    clear = false;
            }
            if (!clear) continue;
            ++looked_at;
            EXPECT_EQ(image.pixel(x, y), top) << x << " " << y;
        }
    EXPECT_GT(looked_at, 500);
}

TEST(Strokes, OfLayersTheUpperOnesComeLastAndOnlyWhatIsLaid) {
    auto lines = std::make_shared<PartLines>();
    for (int k = 0; k < 5; ++k) {
        LayerLines layer;
        layer.places = {{-10, double(k)}, {10, double(k)}, {-10, 5.0 + k}, {10, 5.0 + k}};
        for (uint32_t i : {0U, 2U}) layer.lines.push_back({i, 2, 0.4F, 0.2F, 20, LineKind::Sparse, false, false});
        lines->layers.push_back(layer);
        lines->loose.emplace_back();
    }
    LinesShown shown(lines, QColor("#b9aa8f"));
    shown.size = {400, 300};
    shown.scale = 8;
    shown.layer = 3;
    EXPECT_EQ(strokes_of(shown).size(), 2u);
    shown.below = 2;
    const auto three = strokes_of(shown);
    ASSERT_EQ(three.size(), 6u);
    EXPECT_NEAR(three[0].ay, shown.to_pixel({0, 1}).y(), 1e-3) << "layer 1 is the lowest of three";
    EXPECT_NEAR(three[5].ay, shown.to_pixel({0, 8}).y(), 1e-3);
    EXPECT_NE(three[0].colour, three[5].colour) << "those below are paler";
    shown.below = 1'000'000;
    EXPECT_EQ(strokes_of(shown).size(), 8u);
    // 20 mm at 20 mm/s: one and a half lines in 1.5 s.
    shown.below = 0;
    shown.laid_s = 1.5;
    const auto laid = strokes_of(shown);
    ASSERT_EQ(laid.size(), 2u);
    EXPECT_NEAR(laid[1].bx, shown.to_pixel({0, 8}).x(), 1e-2) << "half of the second";
    shown.laid_s = 0;
    EXPECT_TRUE(strokes_of(shown).empty());
    shown.layer = 9;
    EXPECT_TRUE(strokes_of(shown).empty()) << "no such layer";
}

// Traces of made-up pictures against the areas of what is in them: closed formulas. Thresholds against Otsu's criterion
// by brute force.
#include "formats/flat_file.h"
#include "outline/alter.h"
#include "outline/outline_shape.h"
#include "outline/picture_trace.h"
#include <gtest/gtest.h>
#include <numbers>
#include <random>

using namespace lp;
using std::numbers::pi;

namespace {

/// A picture of so many pixels a side; `ink` tells how dark a place is, 0 to 1, at each of sixteen places of a pixel.
std::string picture(int side, const std::function<double(double x, double y)>& ink, int black = 20, int white = 230) {
    std::string pgm = "P5\n# made up\n" + std::to_string(side) + " " + std::to_string(side) + "\n255\n";
    for (int row = 0; row < side; ++row)
        for (int x = 0; x < side; ++x) {
            double sum = 0;
            for (int a = 0; a < 4; ++a)
                for (int b = 0; b < 4; ++b) sum += ink(x + (a + 0.5) / 4, side - (row + (b + 0.5) / 4));
            pgm += char(uint8_t(std::lround(white + (black - white) * sum / 16)));
        }
    return pgm;
}
double disc(double x, double y, double cx, double cy, double r) {
    return std::hypot(x - cx, y - cy) < r ? 1 : 0;
}
/// Area of what is filled, and the outline, in mm at the picture's scale.
OutlineShape outline_of(const std::string& pgm, std::map<std::string, std::string> texts = {}) {
    Drawing drawing;
    const DrawingId id = drawing.add(ElementKind::Import, {origin_id});
    texts["file"] = "emblem.pgm";
    drawing.element(id)->texts = texts;
    OutlineInputs inputs;
    inputs.import_paths = [&](const std::string&) { return read_picture(pgm); };
    auto shape = make_outline(drawing, inputs);
    EXPECT_TRUE(shape) << (shape ? "" : shape.error().text());
    return shape ? *shape : OutlineShape();
}
double filled_mm2(const OutlineShape& shape) {
    double area = 0;
    for (size_t i = 0; i < shape.filled.size(); ++i)
        if (shape.filled[i]) area += shape.arrangement.regions[i].area_mm2;
    return area;
}
constexpr double px = picture_pixel_mm;

} // namespace

TEST(PictureTrace, AreasOfADiscARingAndASquare) {
    const auto full = picture(300, [](double x, double y) { return disc(x, y, 150, 140, 100); });
    EXPECT_NEAR(filled_mm2(outline_of(full)), pi * 1e4 * px * px, 0.004 * pi * 1e4 * px * px);
    const auto ring =
        picture(300, [](double x, double y) { return disc(x, y, 150, 140, 100) - disc(x, y, 150, 140, 60); });
    EXPECT_NEAR(filled_mm2(outline_of(ring)), pi * 6400 * px * px, 0.006 * pi * 6400 * px * px);
    const auto square =
        picture(300, [](double x, double y) { return x > 40 && x < 240 && y > 60 && y < 220 ? 1.0 : 0.0; });
    const OutlineShape shape = outline_of(square);
    EXPECT_NEAR(filled_mm2(shape), 200 * 160 * px * px, 0.003 * 200 * 160 * px * px);
    Box2 box;
    for (const SourcedCurve& c : shape.curves) box.extend(c.curve.tight_box());
    EXPECT_NEAR(box.min().x(), 40 * px, px) << "it stands where it is in the picture, y up";
    EXPECT_NEAR(box.min().y(), 60 * px, px);
    EXPECT_NEAR(box.max().y(), 220 * px, px);
}

TEST(PictureTrace, SpecksAndNoiseAreLeftOut) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(0, 1);
    auto noisy = picture(400, [&](double x, double y) { return disc(x, y, 200, 200, 120); });
    const size_t first = noisy.size() - 400 * 400;
    for (int i = 0; i < 600; ++i)
        noisy[first + size_t(any(random) * (400 * 400 - 1))] = char(any(random) < 0.5 ? 0 : 255);
    EXPECT_NEAR(filled_mm2(outline_of(noisy)), pi * 14400 * px * px, 0.01 * pi * 14400 * px * px);
}

TEST(PictureTrace, TheBrightnessIsFoundAsOtsuSaysAndCanBeTyped) {
    std::mt19937 random(3);
    std::normal_distribution<double> dark(70, 12), light(180, 20);
    GreyPicture made;
    made.width = made.height = 100;
    for (int i = 0; i < 10000; ++i)
        made.grey.push_back(uint8_t(std::clamp(i % 4 ? light(random) : dark(random), 0.0, 255.0)));
    // By brute force: the least sum of the two sorts' own variances is the largest variance between them.
    double best = 1e300;
    int found = 0;
    for (int t = 0; t < 255; ++t) {
        double n[2]{}, sum[2]{}, squares[2]{};
        for (uint8_t g : made.grey) {
            const int k = g > t;
            n[k] += 1, sum[k] += g, squares[k] += double(g) * g;
        }
        if (n[0] == 0 || n[1] == 0) continue;
        const double within = squares[0] - sum[0] * sum[0] / n[0] + squares[1] - sum[1] * sum[1] / n[1];
        if (within < best - 1e-6) best = within, found = t;
    }
    EXPECT_NEAR(parting_brightness(made), found, 1);
    // Three tones: typed brightness decides which of them are ink.
    const auto three = picture(
        300, [](double x, double y) { return disc(x, y, 80, 150, 60) + 0.5 * disc(x, y, 220, 150, 60); }, 0, 240);
    const double one = pi * 3600 * px * px;
    EXPECT_NEAR(filled_mm2(outline_of(three, {{"dark", "20 %"}})), one, 0.02 * one);
    EXPECT_NEAR(filled_mm2(outline_of(three, {{"dark", "80"}})), 2 * one, 0.02 * one);
    EXPECT_NEAR(filled_mm2(outline_of(three, {{"dark", "80 %"}, {"ink", "light"}})), 9e4 * px * px - 2 * one,
                0.02 * one);
}

TEST(PictureTrace, WhatPartsNothingIsSaid) {
    for (const char* dark : {"0", "100", "-4", "many", "50 mm", "nan"})
        EXPECT_FALSE(trace_options("dark", dark)) << dark;
    EXPECT_FALSE(trace_options("red", "auto"));
    EXPECT_TRUE(trace_options("light", "35 %"));
    GreyPicture blank;
    blank.width = blank.height = 40;
    blank.grey.assign(1600, 200);
    EXPECT_FALSE(traced_picture(blank)) << "nothing stands out";
    // Noise alone: too much to trace, or only specks; never a crash.
    std::mt19937 random(1);
    GreyPicture noise;
    noise.width = noise.height = 500;
    for (int i = 0; i < 250'000; ++i) noise.grey.push_back(uint8_t(random()));
    auto traced = traced_picture(noise);
    EXPECT_TRUE(traced || !traced.error().sentence.empty());
}

TEST(PictureTrace, RefusesWhatIsNoPicture) {
    const auto good = picture(60, [](double x, double y) { return disc(x, y, 30, 30, 20); });
    EXPECT_TRUE(read_picture(good));
    auto refused = [](const std::string& bytes) {
        auto read = read_picture(bytes);
        return !read && !read.error().sentence.empty();
    };
    EXPECT_TRUE(refused(""));
    EXPECT_TRUE(refused("P5"));
    EXPECT_TRUE(refused("P6\n2 2\n255\nabcdefghijkl"));
    EXPECT_TRUE(refused("P5\n60\n"));
    EXPECT_TRUE(refused("P5\n# only a remark"));
    EXPECT_TRUE(refused("P5\n0 10\n255\n"));
    EXPECT_TRUE(refused("P5\n10 10\n0\n" + std::string(100, 'a')));
    EXPECT_TRUE(refused("P5\n10 10\n70000\n" + std::string(400, 'a')));
    EXPECT_TRUE(refused("P5\n100000 100000\n255\nabc")) << "claims more than it holds";
    EXPECT_TRUE(refused("P5\n99999999999 3\n255\nabc"));
    EXPECT_TRUE(refused("P5\n8000 8000\n255\nabc"));
    for (size_t cut = 0; cut < good.size(); cut += 97) EXPECT_TRUE(refused(good.substr(0, cut))) << cut;
    // Two bytes a pixel, the higher first.
    std::string deep = "P5 60 60 65535\n";
    for (size_t i = good.size() - 3600; i < good.size(); ++i) deep += good[i], deep += good[i];
    auto one = read_picture(good), two = read_picture(deep);
    ASSERT_TRUE(one && two);
    EXPECT_EQ(one->picture->grey, two->picture->grey);
}

TEST(PictureTrace, ATraceShrinksAndGrowsByAsMuchAsItsBorderIsLong) {
    // A can with a round handle and a spout; its traced curves wave by less than the distance.
    std::mt19937 random(5);
    std::normal_distribution<double> noise(0, 0.08);
    const auto can = picture(400, [&](double x, double y) {
        const bool pot = y > 60 && y < 220 && std::fabs(x - 170) < 80 + (y - 60) / 8;
        const double round = std::hypot((x - 170) / 70, (y - 220) / 80);
        const bool handle = y >= 220 && round < 1 && round > 0.72;
        const bool spout = x > 240 && x < 360 && std::fabs(y - (100 + (x - 240))) < 16;
        return std::clamp((pot || handle || spout ? 0.93 : 0.05) + noise(random), 0.0, 1.0);
    });
    const OutlineShape shape = outline_of(can);
    std::vector<FlatRegion> regions;
    for (size_t i = 0; i < shape.filled.size(); ++i)
        if (shape.filled[i]) regions.push_back(shape.arrangement.regions[i]);
    ASSERT_EQ(regions.size(), 1u);
    double area = regions[0].area_mm2, border = 0;
    for (const SourcedCurve& c : shape.curves) border += c.curve.length();
    for (double by : {-0.6, -0.3, -0.2, -0.1, -0.05, -0.02, 0.05, 0.1, 0.3}) {
        auto moved = grown_regions(regions, by);
        ASSERT_TRUE(moved) << by << moved.error().text();
        double now = 0;
        for (const FlatRegion& r : *moved) now += r.area_mm2;
        EXPECT_NEAR(now, area + by * border, 0.08 * std::fabs(by) * border + 0.05) << by;
    }
}

TEST(TrueLength, TwoPlacesComeAsFarApartAsInTruth) {
    Drawing drawing;
    const DrawingId id = drawing.add(ElementKind::Import, {drawing.add_point({-10, 4})});
    drawing.element(id)->texts = {{"file", "emblem.pgm"}, {"scale", "0.5"}};
    auto next = set_true_length(drawing, id, {2, 3}, {14, 19}, "40 mm", {});
    ASSERT_TRUE(next);
    EXPECT_EQ(element_text(*next->element(id), "scale"), "1") << "20 apart, 40 in truth: twice 0.5";
    const Vec2 origin = next->points.at(next->element(id)->points[0]);
    EXPECT_NEAR(origin.x(), 2 + 2 * (-10 - 2), 1e-9) << "the first place stays";
    EXPECT_NEAR(origin.y(), 3 + 2 * (4 - 3), 1e-9);
    auto inches = set_true_length(drawing, id, {0, 0}, {0, 25.4}, "2 in", {});
    ASSERT_TRUE(inches);
    EXPECT_EQ(element_text(*inches->element(id), "scale"), "1");
    for (const char* wrong : {"0", "-3 mm", "forty", ""})
        EXPECT_FALSE(set_true_length(drawing, id, {0, 0}, {1, 0}, wrong, {}));
    EXPECT_FALSE(set_true_length(drawing, id, {1, 1}, {1, 1}, "40 mm", {}));
    EXPECT_FALSE(set_true_length(drawing, id + 9, {0, 0}, {1, 1}, "40 mm", {}));
}

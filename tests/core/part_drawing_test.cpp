// Drawings of parts: edges seen and hidden against the lengths of a cube's and a drilled plate's, scales of ISO 5455,
// what stands on the page.
#include "handoff/edge_view.h"
#include "handoff/part_drawing.h"
#include "handoff/part_picture.h"
#include "made_project.h"
#include "test_meshes.h"
#include <pugixml.hpp>

using namespace lp;
using namespace lp::test;

namespace {

const ViewAxes front{Vec3::UnitX(), Vec3::UnitZ()}, above{Vec3::UnitX(), Vec3::UnitY()};

double length(const std::vector<std::vector<Vec2>>& lines) {
    double sum = 0;
    for (const auto& line : lines)
        for (size_t i = 1; i < line.size(); ++i) sum += (line[i] - line[i - 1]).norm();
    return sum;
}

struct Drawn {
    Made made;
    Analysis analysis;
    DrawnPart part;
};
Drawn drawn(const json& steps) {
    Drawn d{make(steps), {}, {}};
    EXPECT_EQ(d.made.says(), "");
    auto analysis = Analyser().analyse(d.made.evaluation);
    EXPECT_TRUE(analysis);
    d.analysis = std::move(*analysis);
    auto part = part_to_draw(d.made.evaluation, d.analysis, "P");
    EXPECT_TRUE(part) << (part ? "" : part.error().text());
    if (part) d.part = std::move(*part);
    return d;
}
json foot() {
    return {
        block(40, 30, 6), step("cylinder", {{"diameter", 16}, {"height", 20}}),
        step("cylinder", {{"diameter", 5}, {"height", 60}, {"at_z", -20}, {"does", "cut"}}),
        step("cylinder", {{"diameter", 3}, {"height", 60}, {"at_x", 15}, {"at_y", 10}, {"at_z", -20}, {"does", "cut"}}),
        step("cylinder",
             {{"diameter", 3}, {"height", 60}, {"at_x", -15}, {"at_y", 10}, {"at_z", -20}, {"does", "cut"}})};
}
bool tells(const PageDrawing& page, const std::string& words) {
    return std::any_of(page.texts.begin(), page.texts.end(), [&](const PageText& t) { return t.words == words; });
}

} // namespace

TEST(EdgeView, OfACubeTheFrontIsSeenAndTheBackHidden) {
    const EdgeView view = edge_view(cube(20), front);
    EXPECT_NEAR(length(view.seen), 80, 1e-9) << "four edges in front; four run away from the eye";
    EXPECT_EQ(length(view.hidden), 0) << "those behind lie where these do";
    EXPECT_NEAR(view.box.sizes().x(), 20, 1e-12);
    // On its corner all nine edges that face the eye are seen, three are hidden: each is 20 times the root of 2/3.
    const Vec3 toward = Vec3(1, -1, 1).normalized(), right = Vec3::UnitZ().cross(toward).normalized();
    const EdgeView corner = edge_view(cube(20), {right, toward.cross(right)});
    EXPECT_NEAR(length(corner.seen), 9 * 20 * std::sqrt(2.0 / 3), 0.5);
    EXPECT_NEAR(length(corner.hidden), 3 * 20 * std::sqrt(2.0 / 3), 0.5);
    EXPECT_TRUE(edge_view({}, front).seen.empty());
}

TEST(EdgeView, ADrilledHoleIsACircleFromAboveAndHiddenFromInFront) {
    const Made made =
        make({block(40, 30, 10), step("cylinder", {{"diameter", 8}, {"height", 6}, {"at_z", 4}, {"does", "cut"}})});
    ASSERT_EQ(made.says(), "");
    const EdgeView top = edge_view(*made.part().mesh, above);
    EXPECT_NEAR(length(top.seen), 2 * (40 + 30) + std::numbers::pi * 8, 0.3) << "its floor's rim lies under the other";
    const EdgeView side = edge_view(*made.part().mesh, front);
    double upright = 0;
    for (const auto& line : side.hidden)
        if (std::fabs(line.front().x()) < 4.01) upright += std::fabs(line.back().y() - line.front().y());
    EXPECT_NEAR(upright, 2 * 6, 0.3) << "how deep it is: twice";
}

TEST(EdgeView, WhatStandsBeforeAnEdgeHidesSoMuchOfIt) {
    // A block of 10 before the lower left corner of one of 30.
    TriMesh two = cube(30, {0, 40, 0});
    append(two, cube(10, {-3, 0, -3}));
    const EdgeView view = edge_view(two, front);
    EXPECT_NEAR(length(view.seen), 40 + 120 - 2 * 7, 0.7);
    EXPECT_NEAR(length(view.hidden), 2 * 7, 0.7);
}

TEST(PartDrawing, TellsSizesDiametersAndTheCut) {
    const Drawn d = drawn(foot());
    const PageDrawing page = draw_views(d.part, {520, 700});
    for (const char* words : {"40", "30", "20", "\u230016", "\u23005 hole", "2 \u00d7 \u23003 hole", "from above",
                              "from in front", "from the right", "cut A\u2013A", "P"})
        EXPECT_TRUE(tells(page, words)) << words;
    EXPECT_LE(page.size.x(), 520);
    for (const PageLine& line : page.lines)
        for (const Vec2& p : line.points) {
            EXPECT_GE(std::min(p.x(), p.y()), 0);
            EXPECT_LE((p - page.size).maxCoeff(), 1e-6) << "nothing stands out of the page";
        }
    // No two words lie over each other.
    std::vector<Eigen::AlignedBox2d> boxes;
    for (const PageText& text : page.texts) {
        const double wide = 4.2 * double(text.words.size()), left = text.align == PageText::Align::Left     ? 0
                                                                    : text.align == PageText::Align::Middle ? wide / 2
                                                                                                            : wide;
        const Vec2 corner = text.at - Vec2(left, 4);
        const Eigen::AlignedBox2d box(corner, corner + Vec2(wide, 8));
        for (const auto& other : boxes) EXPECT_TRUE(box.intersection(other).isEmpty()) << text.words;
        boxes.push_back(box);
    }
}

TEST(PartDrawing, TheCutIsHatchedAsLongAsItsAreaSays) {
    const Drawn d = drawn(json::array({block(40, 30, 12)}));
    const PageDrawing page = draw_views(d.part, {520, 700});
    const double scale = drawing_scale(d.part, {520, 700}), point_mm = 25.4 / 72;
    double hatched = 0;
    for (const PageLine& line : page.lines)
        if (line.thick == 0.3 && line.style == PageLine::Style::Whole)
            hatched += (line.points[1] - line.points[0]).norm();
    // Lines 5 points apart cover an area of length times 5.
    const double area = 40 * 12 * scale * scale / (point_mm * point_mm);
    EXPECT_NEAR(hatched * 5, area, 0.05 * area);
}

// ISO 5455, recommended scales (from memory): 50:1 to 2:1 by 5, 2; 1:1; 1:2, 1:5, 1:10 ...
TEST(PartDrawing, TheScaleIsTheLargestStandardOneThatFits) {
    EXPECT_EQ(scale_words(2), "2 : 1");
    EXPECT_EQ(scale_words(1 / 5.0), "1 : 5");
    TriMesh mesh;
    double before = 1e9;
    for (double size : {3.0, 12.0, 40.0, 90.0, 400.0, 2000.0}) {
        mesh = cube(size);
        const double scale = drawing_scale({"P", "", &mesh, {}}, {520, 700});
        EXPECT_LE(scale, before) << size;
        EXPECT_GT(scale, 0);
        before = scale;
    }
    EXPECT_EQ(before, 1 / 50.0) << "two of 2 m side by side on 183 mm of paper: at 1 : 20 they are 200 mm";
    mesh = cube(1e6);
    EXPECT_EQ(drawing_scale({"P", "", &mesh, {}}, {520, 700}), 0);
    EXPECT_FALSE(drawing_pdf({"P", "", &mesh, {}}, Paper::A4));
    EXPECT_FALSE(drawing_svg({"P", "", &mesh, {}}, Paper::Letter));
}

TEST(PartDrawing, TheSvgIsInItsTrueSizeAndItsWordsAreWords) {
    Drawn d = drawn(foot());
    d.part.name = "Peg <left> & \xff";
    auto svg = drawing_svg(d.part, Paper::A4);
    ASSERT_TRUE(svg) << svg.error().text();
    pugi::xml_document document;
    ASSERT_TRUE(document.load_string(svg->c_str()));
    const pugi::xml_node root = document.child("svg");
    const double wide_mm = std::stod(root.attribute("width").value()); // "170.1mm"
    EXPECT_LT(wide_mm, 210) << "ISO 216";
    std::istringstream box(root.attribute("viewBox").value());
    double x = 0, y = 0, wide = 0;
    box >> x >> y >> wide;
    EXPECT_NEAR(wide_mm, wide * 25.4 / 72, 0.01) << "points are 1/72 inch";
    bool named = false;
    for (const pugi::xml_node& text : root.children("text"))
        named |= std::string(text.text().get()).starts_with("Peg <left> & ");
    EXPECT_TRUE(named);
}

TEST(PartDrawing, SaysWhatCannotBeDrawn) {
    const Drawn d = drawn(json::array({block(10, 10, 10)}));
    for (const char* name : {"", "Q", "P "}) {
        auto part = part_to_draw(d.made.evaluation, d.analysis, name);
        ASSERT_FALSE(part) << name;
        EXPECT_NE(part.error().text().find(name), std::string::npos);
    }
    Task stopped;
    stopped.cancel.cancel();
    const auto pdf = drawing_pdf(d.part, Paper::A4, stopped);
    ASSERT_FALSE(pdf);
    EXPECT_EQ(pdf.error().code, ProblemCode::Cancelled);
}

// The renderer of the job sheet: what it covers against the area of the projected facet, whichever way its sides lie.
TEST(PartPicture, CoversTheFacetHoweverLevelItsSidesAre) {
    // Seen from there (isometric view of the sheet): to the right, and up.
    const Vec3 toward = Vec3(1, -1.35, 1.05).normalized(), right = Vec3::UnitZ().cross(toward).normalized(),
               up = toward.cross(right);
    for (double tilt : {0.0, 1e-14, -1e-14, 1e-12, 1e-10, -1e-9, 1e-7, 1e-3, 0.4, -2.0})
        for (double turn : {0.0, 0.7, 1.5707963267948966}) {
            const Vec3 along = std::cos(turn) * right + std::sin(turn) * up,
                       across = -std::sin(turn) * right + std::cos(turn) * up;
            TriMesh one;
            one.vertices = {Vec3(3, 4, 5), 3.0 * toward + 40 * along + tilt * across, 7 * along + 25 * across};
            one.triangles = {{0, 1, 2}};
            const PartPicture picture = draw_part(one, 300, 200, 20, {});
            const Vec2 a = picture.at(one.vertices[0]), b = picture.at(one.vertices[1]),
                       c = picture.at(one.vertices[2]);
            const double area = std::fabs((b - a).x() * (c - a).y() - (b - a).y() * (c - a).x()) / 2;
            double covered = 0; // edges are drawn dark beside it too: a pixel all round at most
            for (uint32_t pixel : picture.pixels) covered += pixel != 0xffffffff;
            const double round = (b - a).norm() + (c - b).norm() + (a - c).norm();
            EXPECT_GT(covered, area - round / 2) << tilt << " " << turn;
            EXPECT_LT(covered, area + 1.5 * round) << tilt << " " << turn;
        }
    // Nearer facets hide farther ones, and no place at all is no picture.
    TriMesh two;
    two.vertices = {-10 * right - 10 * up, 10 * right - 10 * up, 10 * up};
    for (int i = 0; i < 3; ++i) two.vertices.push_back(two.vertices[size_t(i)] + 5 * toward);
    two.triangles = {{3, 4, 5}, {0, 1, 2}};
    const std::vector<uint32_t> colours{0xff0000, 0x00ff00};
    const PartPicture picture = draw_part(two, 300, 200, 20, colours);
    const Vec2 middle = picture.at(5 * toward);
    const uint32_t pixel = picture.pixels[size_t(middle.y()) * 300 + size_t(middle.x())];
    EXPECT_GT(pixel >> 16 & 0xff, 100u) << std::hex << pixel;
    EXPECT_EQ(pixel >> 8 & 0xff, 0u) << "the green one lies behind: " << std::hex << pixel;
    for (uint32_t white : draw_part({}, 30, 20, 2, {}).pixels) ASSERT_EQ(white, 0xffffffff);
}

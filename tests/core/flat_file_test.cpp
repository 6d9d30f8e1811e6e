// SVG and DXF against the published rules for units, transforms and fill, and files that are broken on purpose.
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "formats/nurbs_curve.h"
#include "formats/svg_path.h"
#include "outline/outline_shape.h"

using namespace lp;
using std::numbers::pi;

namespace {

/// Filled area of a file, mm2; with the rule for all paths together when one is given.
double area_of(const std::string& bytes, const std::string& name = "a.svg", const std::string& fill = {}) {
    auto paths = read_flat(name, bytes);
    EXPECT_TRUE(paths) << (paths ? "" : paths.error().text());
    if (!paths) return -1;
    Drawing d;
    d.add(ElementKind::Import, {origin_id});
    d.elements[0].texts = {{"file", name}, {"fill", fill}};
    OutlineInputs in;
    in.import_paths = [&](const std::string&) -> Expected<FlatPaths> { return *paths; };
    auto shape = make_outline(d, in);
    EXPECT_TRUE(shape) << (shape ? "" : shape.error().text());
    double sum = 0;
    for (size_t i = 0; shape && i < shape->filled.size(); ++i)
        if (shape->filled[i]) sum += shape->arrangement.regions[i].area_mm2;
    return sum;
}
std::string svg(const std::string& body,
                const std::string& head = R"x(width="100mm" height="100mm" viewBox="0 0 100 100")x") {
    return R"x(<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" )x" + head + ">" +
           body + "</svg>";
}
std::string dxf(const std::string& entities, int unit = 4, const std::string& blocks = {}) {
    return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n" + std::to_string(unit) + "\n0\nENDSEC\n" +
           (blocks.empty() ? "" : "0\nSECTION\n2\nBLOCKS\n" + blocks + "0\nENDSEC\n") + "0\nSECTION\n2\nENTITIES\n" +
           entities + "0\nENDSEC\n0\nEOF\n";
}
std::string line(double x, double y, double u, double v) {
    auto n = [](double a) { return std::to_string(a); };
    return "0\nLINE\n8\n0\n10\n" + n(x) + "\n20\n" + n(y) + "\n30\n0\n11\n" + n(u) + "\n21\n" + n(v) + "\n31\n0\n";
}
std::string circle(double x, double y, double r) {
    auto n = [](double a) { return std::to_string(a); };
    return "0\nCIRCLE\n8\n0\n10\n" + n(x) + "\n20\n" + n(y) + "\n30\n0\n40\n" + n(r) + "\n";
}
std::string square(double x, double y, double s) {
    return line(x, y, x + s, y) + line(x + s, y, x + s, y + s) + line(x + s, y + s, x, y + s) + line(x, y + s, x, y);
}
} // namespace

TEST(Svg, UnitsFollowTheRecommendation) {
    // SVG 1.1, 7.10, and CSS 2.1: 1 in = 25.4 mm = 96 px = 72 pt = 6 pc. A square inch each.
    for (const char* size :
         {R"x(width="1in" height="1in" viewBox="0 0 1 1")x", R"x(width="25.4mm" height="25.4mm" viewBox="0 0 1 1")x",
          R"x(width="2.54cm" height="2.54cm" viewBox="0 0 1 1")x", R"x(width="72pt" height="72pt" viewBox="0 0 1 1")x",
          R"x(width="6pc" height="6pc" viewBox="0 0 1 1")x", R"x(width="96" height="96px" viewBox="0 0 1 1")x"})
        EXPECT_NEAR(area_of(svg(R"x(<rect width="1" height="1"/>)x", size)), 25.4 * 25.4, 1e-9) << size;
    // Without a view box a unit is a pixel; units inside count as they are.
    EXPECT_NEAR(area_of(svg(R"x(<rect width="96" height="1in"/>)x", R"x(width="300" height="300")x")), 25.4 * 25.4,
                1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<rect width="50%" height="50%"/>)x")), 2500, 1e-9);
}
TEST(Svg, ViewBoxAndAspectRatioAreKept) {
    // 7.8: the whole box is shown, as large as it fits, unless the file says "none".
    EXPECT_NEAR(
        area_of(svg(R"x(<rect width="10" height="10"/>)x", R"x(width="40mm" height="20mm" viewBox="0 0 10 10")x")), 400,
        1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<rect width="10" height="10"/>)x",
                            R"x(width="40mm" height="20mm" viewBox="0 0 10 10" preserveAspectRatio="none")x")),
                800, 1e-9);
    auto moved = read_svg(svg(R"x(<rect x="-5" y="-5" width="10" height="10"/>)x",
                              R"x(width="20mm" height="20mm" viewBox="-10 -10 20 20")x"));
    ASSERT_TRUE(moved);
    EXPECT_NEAR((moved->paths[0].contours[0][0].first() - Vec2(5, 5)).norm(), 0, 1e-9);
}
TEST(Svg, TransformsAreAppliedInnermostFirst) {
    EXPECT_NEAR(
        area_of(svg(
            R"x(<g transform="scale(2) rotate(30)"><rect width="5" height="4" transform="translate(10 3) skewX(20)"/></g>)x")),
        80, 1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<circle r="3" transform="matrix(2 0 0 1 20 20)"/>)x")), pi * 18, 1e-6); // an ellipse
    auto p = read_svg(
        svg(R"x(<g transform="translate(10,0)"><line x1="1" y1="2" x2="5" y2="2" transform="rotate(90 1 2)"/></g>)x"));
    ASSERT_TRUE(p);
    EXPECT_NEAR((p->paths[0].contours[0][0].last() - Vec2(11, 6)).norm(), 0, 1e-9);
}
TEST(Svg, FillRulesAreTheFilesOwn) {
    // 11.3: a ring of two squares the same way round is filled through by nonzero, empty within by evenodd.
    std::string same = R"x(M0 0H20V20H0Z M5 5H15V15H5Z)x", opposite = R"x(M0 0H20V20H0Z M5 5V15H15V5Z)x";
    EXPECT_NEAR(area_of(svg("<path d=\"" + same + "\"/>")), 400, 1e-9);
    EXPECT_NEAR(area_of(svg("<path fill-rule=\"evenodd\" d=\"" + same + "\"/>")), 300, 1e-9);
    EXPECT_NEAR(area_of(svg("<path d=\"" + opposite + "\"/>")), 300, 1e-9);
    EXPECT_NEAR(area_of(svg("<g style=\"fill-rule:evenodd\"><path d=\"" + same + "\"/></g>")), 300, 1e-9);
    EXPECT_NEAR(area_of(svg("<style>.r{fill-rule:evenodd}</style><path class=\"r\" d=\"" + same + "\"/>")), 300, 1e-9);
    EXPECT_NEAR(area_of(svg("<path d=\"" + same + "\"/>"), "a.svg", "evenodd"), 300, 1e-9);
    EXPECT_NEAR(area_of(svg("<path fill-rule=\"evenodd\" d=\"" + same + "\"/>"), "a.svg", "nonzero"), 400, 1e-9);
    // Two shapes of their own, one over the other: the union.
    EXPECT_NEAR(area_of(svg(R"x(<rect width="20" height="20"/><rect x="10" width="20" height="20"/>)x")), 600, 1e-9);
    // A pentagram in a circle of radius R, by both rules. Its star has 10 sides: area 5 R^2 sin 36 sin(18)/sin(126)
    // (plane trigonometry).
    double r = 20, star = 10 * 0.5 * r * r * std::sin(pi / 5) * std::sin(pi / 10) / std::sin(pi * 126 / 180);
    double inner = r * std::sin(pi / 10) / std::sin(pi * 126 / 180),
           pentagon = 2.5 * inner * inner * std::sin(2 * pi / 5);
    std::string points;
    for (int k = 0; k < 5; ++k)
        points += std::to_string(50 + r * std::sin(4 * pi * k / 5)) + "," +
                  std::to_string(50 - r * std::cos(4 * pi * k / 5)) + " ";
    EXPECT_NEAR(area_of(svg("<polygon points=\"" + points + "\"/>")), star, 1e-3);
    EXPECT_NEAR(area_of(svg("<polygon fill-rule=\"evenodd\" points=\"" + points + "\"/>")), star - pentagon, 1e-3);
}
TEST(Svg, EveryPathCommandDrawsWhatItSays) {
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10,10 h30 v20 h-30z"/>)x")), 600, 1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<path d="m10 10 30 0 0 20-30 0z"/>)x")), 600, 1e-9); // implicit lines, no blanks
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10 50A20 20 0 1 1 50 50A20 20 0 1110 50"/>)x")), pi * 400,
                1e-6); // flags without blanks
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10 50A20 10 0 0 1 50 50Z"/>)x")), pi * 200 / 2, 1e-6);
    EXPECT_NEAR(area_of(svg(R"x(<path d="M0 50A1 1 0 0 1 40 50Z"/>)x")), pi * 400 / 2,
                1e-6); // radii too small grow (F.6.6)
    // Parabola by Q: a segment of base 30 and apex height 10 has 2/3 b h.
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10 50Q25 30 40 50Z"/>)x")), 2.0 / 3 * 30 * 10, 1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10 50Q25 30 40 50T70 50"/>)x")), 0, 1e-9); // open
    EXPECT_NEAR(area_of(svg(R"x(<path d="M10 50q15-20 30 0t30 0z"/>)x")), 2 * 200,
                1e-6); // T mirrors the control: a wave, both lobes
    EXPECT_NEAR(area_of(svg(R"x(<path d="M0 0C0 10 10 10 10 0S20 -10 20 0Z"/>)x")),
                area_of(svg(R"x(<path d="M0 0C0 10 10 10 10 0C10 -10 20 -10 20 0Z"/>)x")), 1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<rect x="1" y="1" width="20" height="10" rx="3"/>)x")), 200 - (4 - pi) * 9, 1e-6);
    EXPECT_NEAR(area_of(svg(R"x(<ellipse cx="30" cy="30" rx="4" ry="9"/>)x")), pi * 36, 1e-6);
}
TEST(Svg, UsesAreFollowedAndLoopsRefused) {
    EXPECT_NEAR(
        area_of(svg(
            R"x(<defs><rect id="a" width="5" height="5"/></defs><use xlink:href="#a" x="10"/><use href="#a" y="20" transform="scale(2)"/>)x")),
        25 + 100, 1e-9);
    EXPECT_NEAR(area_of(svg(R"x(<symbol id="s"><rect width="5" height="5"/></symbol><use href="#s"/>)x")), 25, 1e-9);
    EXPECT_FALSE(read_svg(svg(R"x(<g id="a"><use href="#a"/><rect width="1" height="1"/></g>)x")));
    EXPECT_FALSE(read_svg(svg(R"x(<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>)x")));
}
TEST(Svg, WhatCannotBeUsedIsNamed) {
    auto p = read_svg(svg(
        R"x(<text>hi</text><image href="x.png"/><rect width="4" height="4"/><path d="M0 0L5 5"/><path d="M0 0 L9 0 x"/><rect width="3" height="3" display="none"/>)x"));
    ASSERT_TRUE(p);
    std::set<std::string> kinds;
    for (const FlatFinding& f : p->findings) kinds.insert(f.kind);
    for (const char* kind : {"text", "image", "open_path", "path"}) EXPECT_TRUE(kinds.count(kind)) << kind;
    EXPECT_EQ(p->paths.size(), 3u);
}
TEST(Svg, BrokenFilesAreRefusedInWords) {
    for (const std::string& bytes :
         {std::string(), std::string("hello"), std::string("<svg"), std::string("<html></html>"),
          svg("<g>").substr(0, 90), svg("", R"x(width="-5mm" height="4mm")x"),
          svg("", R"x(width="1e9mm" height="4mm")x"), std::string("\x00\x01\x02", 3)}) {
        auto p = read_flat("a.svg", bytes);
        ASSERT_FALSE(p) << bytes;
        EXPECT_FALSE(p.error().sentence.empty());
    }
    std::string deep;
    for (int k = 0; k < 5000; ++k) deep += "<g>";
    EXPECT_FALSE(read_svg(svg(deep)));
    // Hostile numbers draw nothing and say so.
    auto far = read_svg(svg(R"x(<rect width="1e300" height="5"/><circle r="nan"/><path d="M0 0L1e999 5"/>)x"));
    ASSERT_TRUE(far);
    EXPECT_TRUE(far->paths.empty());
}

TEST(Dxf, UnitsBulgesAndHoles) {
    EXPECT_NEAR(area_of(dxf(square(0, 0, 10)), "a.dxf"), 100, 1e-9);
    EXPECT_NEAR(area_of(dxf(square(0, 0, 1), 1), "a.dxf"), 25.4 * 25.4, 1e-9);
    EXPECT_NEAR(area_of(dxf(square(0, 0, 1), 5), "a.dxf"), 100, 1e-9);
    EXPECT_NEAR(area_of(dxf(square(0, 0, 20) + circle(10, 10, 3)), "a.dxf"), 400 - 9 * pi, 1e-9);
    // A bulge is the tangent of a quarter of the arc's angle: 1 is a half circle; two of them a circle of diameter 10.
    EXPECT_NEAR(area_of(dxf("0\nLWPOLYLINE\n8\n0\n90\n2\n70\n1\n10\n0\n20\n0\n42\n1\n10\n10\n20\n0\n42\n1\n"), "a.dxf"),
                25 * pi, 1e-9);
    // Counter-clockwise for positive: the half disc lies below the chord that runs to the right.
    auto p = read_dxf(dxf("0\nLWPOLYLINE\n8\n0\n90\n2\n70\n1\n10\n0\n20\n0\n42\n1\n10\n10\n20\n0\n42\n0\n"));
    ASSERT_TRUE(p);
    EXPECT_NEAR(p->paths[0].contours[0][0].at(0.5).y(), -5, 1e-9);
    EXPECT_NEAR(
        area_of(
            dxf("0\nELLIPSE\n8\n0\n10\n0\n20\n0\n30\n0\n11\n8\n21\n0\n31\n0\n40\n0.5\n41\n0\n42\n6.283185307179586\n"),
            "a.dxf"),
        32 * pi, 1e-6);
    EXPECT_NEAR(
        area_of(dxf("0\nARC\n8\n0\n10\n0\n20\n0\n30\n0\n40\n5\n50\n270\n51\n90\n" + line(0, 5, 0, -5)), "a.dxf"),
        12.5 * pi, 1e-6);
}
TEST(Dxf, BlocksArePlacedScaledTurnedAndRepeated) {
    std::string block = "0\nBLOCK\n8\n0\n2\nB\n70\n0\n10\n1\n20\n1\n30\n0\n" + square(1, 1, 2) + "0\nENDBLK\n8\n0\n";
    std::string insert =
        "0\nINSERT\n8\n0\n2\nB\n10\n50\n20\n40\n30\n0\n41\n2\n42\n3\n50\n90\n70\n2\n71\n3\n44\n30\n45\n30\n";
    EXPECT_NEAR(area_of(dxf(insert, 4, block), "a.dxf"), 6 * 24, 1e-6);
    std::string loop = "0\nBLOCK\n8\n0\n2\nB\n70\n0\n10\n0\n20\n0\n30\n0\n" + line(0, 0, 1, 0) +
                       "0\nINSERT\n8\n0\n2\nB\n10\n5\n20\n0\n30\n0\n0\nENDBLK\n8\n0\n";
    auto p = read_dxf(dxf("0\nINSERT\n8\n0\n2\nB\n10\n0\n20\n0\n30\n0\n", 4, loop));
    ASSERT_FALSE(p);
    EXPECT_NE(p.error().text().find("holds itself"), std::string::npos);
}
TEST(Dxf, SplinesAreExactUpToTheThirdDegree) {
    // A clamped cubic with one span is its Bezier curve; a rational quadratic quarter circle keeps its radius within
    // 1e-3.
    auto bezier = nurbs_curve(3, {0, 0, 0, 0, 1, 1, 1, 1}, {{0, 0}, {1, 2}, {3, 3}, {4, 0}}, {1, 1, 1, 1});
    ASSERT_TRUE(bezier);
    Curve same = Curve::cubic({0, 0}, {1, 2}, {3, 3}, {4, 0});
    for (double t = 0; t <= 1; t += 0.1) EXPECT_NEAR((bezier->at(t) - same.at(t)).norm(), 0, 1e-12);
    auto quarter = nurbs_curve(2, {0, 0, 0, 1, 1, 1}, {{10, 0}, {10, 10}, {0, 10}}, {1, std::sqrt(0.5), 1});
    ASSERT_TRUE(quarter);
    for (double t = 0; t <= quarter->end(); t += 0.2) EXPECT_NEAR(quarter->at(t).norm(), 10, 1e-3);
    EXPECT_FALSE(nurbs_curve(3, {0, 0, 0, 1, 1, 1}, {{0, 0}, {1, 2}, {3, 3}, {4, 0}}, {1, 1, 1, 1}));
    EXPECT_FALSE(nurbs_curve(99, {}, {}, {}));
}
TEST(Dxf, SeparateLinesAreJoinedAndGapsNamed) {
    auto p = read_dxf(dxf(line(0, 0, 10, 0) + line(10.005, 0, 10, 10) + line(10, 10, 0, 0)));
    ASSERT_TRUE(p);
    ASSERT_EQ(p->paths.size(), 1u);
    EXPECT_TRUE(p->paths[0].closed[0]);
    auto open = read_dxf(dxf(line(0, 0, 10, 0) + line(10, 0, 10, 10) + line(10, 10, 0, 0.5)));
    ASSERT_TRUE(open);
    EXPECT_FALSE(open->paths[0].closed[0]);
    ASSERT_EQ(open->findings.size(), 1u);
    EXPECT_NE(open->findings[0].says.find("0.5 mm apart"), std::string::npos) << open->findings[0].says;
    auto unit = read_dxf(dxf(circle(0, 0, 1), 0));
    ASSERT_TRUE(unit);
    EXPECT_EQ(unit->findings[0].kind, "unit");
    EXPECT_EQ(unit->unit, "mm");
}
TEST(Dxf, BrokenFilesAreRefusedInWords) {
    std::string good = dxf(square(0, 0, 10));
    for (size_t cut : {size_t(1), size_t(30), good.size() / 2, good.size() - 8})
        EXPECT_FALSE(read_dxf(good.substr(0, cut))) << cut;
    for (const std::string& bytes :
         {std::string("hello"), std::string("Binary DXF\r\n\x1a\0\0\0SECTION", 22),
          std::string("0\nSECTION\nfoo\nbar\n"), dxf("0\nLWPOLYLINE\n8\n0\n90\n2000000000\n70\n1\n10\n0\n20\n0\n"),
          dxf("0\nSPLINE\n8\n0\n71\n3\n72\n1999999999\n73\n5\n")})
        EXPECT_FALSE(read_dxf(bytes)) << bytes.substr(0, 60);
    EXPECT_FALSE(read_dxf(dxf("0\nCIRCLE\n8\n0\n10\nnan\n20\n0\n30\n0\n40\n5\n")));
    auto odd = read_dxf(dxf(circle(1e8, 0, 5) + circle(0, 0, -4) + circle(0, 0, 2)));
    ASSERT_TRUE(odd) << odd.error().text();
    EXPECT_EQ(odd->paths.size(), 1u);
}

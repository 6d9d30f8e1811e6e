// Strokes of letters: widths of figures that are known, and letters that scale.
#include "made_project.h"
#include "outline/outline_shape.h"
#include "outline/stroke_width.h"
#include "project/analysis.h"
#include "project/cures.h"
#include "project/fine_strokes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

FlatRegion region_of(const std::vector<Curve>& curves) {
    std::vector<SourcedCurve> sourced;
    for (const Curve& c : curves) sourced.push_back({c, sourced.size() + 1});
    auto drawn = arrange(sourced);
    EXPECT_TRUE(drawn && !drawn->regions.empty());
    if (!drawn) return {};
    for (const FlatRegion& region : drawn->regions)
        if (!region.holes.empty()) return region; // the ring, not what it leaves out
    return drawn->regions.front();
}
std::vector<Curve> polygon(const std::vector<Vec2>& corners) {
    std::vector<Curve> curves;
    for (size_t i = 0; i < corners.size(); ++i)
        curves.push_back(Curve::line(corners[i], corners[(i + 1) % corners.size()]));
    return curves;
}
json word(const char* text, const char* size, const char* thicken = nullptr) {
    json element{{"id", 20}, {"kind", "text"}, {"points", json::array({0})}, {"text", text}, {"size", size}};
    if (thicken) element["thicken"] = thicken;
    return step("outline", {{"on", "xy"}, {"drawing", {{"elements", json::array({element})}}}}, "word");
}
Made raised(const char* text, const char* size, const char* thicken = nullptr) {
    return make({word(text, size, thicken), step("extrude", {{"height", "1 mm"}})});
}

} // namespace

TEST(StrokeWidth, OfABarIsItsWidthAndOfARingItsWall) {
    for (double wide : {0.2, 0.45, 3.0}) {
        auto bar = finest_stroke(region_of(polygon({{0, 0}, {20, 0}, {20, wide}, {0, wide}})));
        ASSERT_TRUE(bar);
        EXPECT_NEAR(*bar, wide, 1e-3 * wide + 1e-4);
        // A ring's largest circle between its rims touches both: as wide as its wall.
        auto ring = finest_stroke(region_of({Curve::circle({0, 0}, 8), Curve::circle({0, 0}, 8 - wide)}));
        ASSERT_TRUE(ring);
        EXPECT_NEAR(*ring, wide, 0.01 * wide);
    }
    // A disc faces itself all round: it is as wide as it is.
    auto disc = finest_stroke(region_of({Curve::circle({0, 0}, 5)}));
    ASSERT_TRUE(disc);
    EXPECT_NEAR(*disc, 10, 0.05);
    // An L of arms 1 and 0.4 wide: the finer arm.
    auto arms = finest_stroke(region_of(polygon({{0, 0}, {10, 0}, {10, 0.4}, {1, 0.4}, {1, 10}, {0, 10}})));
    ASSERT_TRUE(arms);
    EXPECT_NEAR(*arms, 0.4, 0.01);
}

TEST(StrokeWidth, LettersAreToldByTheirTextAndThickened) {
    const double line = PrinterCard{}.line_mm();
    const Made large = raised("BEANS", "12 mm");
    ASSERT_EQ(large.says(), "");
    EXPECT_TRUE(fine_strokes(large.part(), line).empty());
    const Made small = raised("BEANS", "2 mm");
    ASSERT_EQ(small.says(), "");
    const auto fine = fine_strokes(small.part(), line);
    ASSERT_EQ(fine.size(), 1u);
    EXPECT_EQ(fine[0].text, "BEANS");
    // A sixth of the size has a sixth of the stroke.
    const auto as_large = fine_strokes(large.part(), 100);
    ASSERT_EQ(as_large.size(), 1u);
    EXPECT_NEAR(as_large[0].finest_mm / fine[0].finest_mm, 6, 0.1);
    auto finding = fine_stroke_finding(small.part(), Transform::Identity(), line);
    ASSERT_TRUE(finding);
    EXPECT_EQ(finding->kind, FindingKind::FineStroke);
    EXPECT_NE(finding->says.find("\"BEANS\""), std::string::npos) << finding->says;
    // Every stroke wider by a length a side is wider by twice that.
    const Made thick = raised("BEANS", "12 mm", "0.3 mm");
    ASSERT_EQ(thick.says(), "");
    const auto now = fine_strokes(thick.part(), 100);
    ASSERT_EQ(now.size(), 1u);
    EXPECT_NEAR(now[0].finest_mm, as_large[0].finest_mm + 0.6, 0.06);
    EXPECT_GT(thick.volume(), large.volume());
}

TEST(StrokeWidth, ThickenedLettersKeepTheirHoles) {
    // A ring's area grows by its rims times the way: O has two, and both move.
    const Made o = raised("O", "20 mm"), thick = raised("O", "20 mm", "0.5 mm");
    ASSERT_EQ(o.says() + thick.says(), "");
    size_t loops = 0;
    for (const PlacedOutline& outline : thick.part().outlines)
        for (size_t i = 0; i < outline.shape->arrangement.regions.size(); ++i)
            if (outline.shape->filled[i]) loops += 1 + outline.shape->arrangement.regions[i].holes.size();
    EXPECT_EQ(loops, 2u);
    // Steiner's formula for offsets of both rims: outer L1 d + pi d², inner L2 d - pi d².
    double rims = 0;
    for (const SourcedCurve& c : o.part().outlines[0].shape->curves) rims += c.curve.length();
    EXPECT_NEAR(thick.volume() - o.volume(), rims * 0.5, 0.02 * rims * 0.5);
    const Made wrong = raised("O", "20 mm", "40 mm");
    EXPECT_NE(wrong.says().find("thickened by at most"), std::string::npos) << wrong.says();
}

TEST(StrokeWidth, TheCureThickensWhatIsTooFine) {
    const Made small = raised("PEAS", "2.4 mm");
    auto analysis = Analyser().analyse(small.evaluation);
    ASSERT_TRUE(analysis);
    std::optional<PartFinding> fine;
    for (const PartFinding& f : findings_of_part(small.evaluation, &*analysis, small.part().part))
        if (f.ref.kind == FindingKind::FineStroke) fine = f;
    ASSERT_TRUE(fine);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, small.evaluation, *fine);
    ASSERT_TRUE(cures && cures->size() == 1u);
    EXPECT_EQ(cures->front().cure.words, "Thicken the letters");
    EXPECT_EQ(cures->front().says, "Texts too fine fall from 1 to 0.");
    auto cured = apply_edit(*small.project, cures->front().cure.edit);
    ASSERT_TRUE(cured);
    auto made = Evaluator().evaluate(cured->project);
    ASSERT_TRUE(made);
    EXPECT_TRUE(fine_strokes(made->parts[0], small.project->printer.line_mm()).empty());
}

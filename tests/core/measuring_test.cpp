// Area and volume measured along edges, on shapes drawn with splines: against the sampled curve by the shoelace
// formula, Pappus, the kernel's careful quadrature and the facets.
#include "made_project.h"
#include "outline/curve.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// Corners of a closed spline round a place, no two alike.
std::vector<Vec2> wobbly(std::mt19937& random, const Vec2& middle, double size) {
    auto share = [&] { return double(random() % 10000) / 10000; };
    const size_t n = 4 + random() % 9;
    std::vector<Vec2> points;
    for (size_t i = 0; i < n; ++i) {
        double angle = 2 * pi * (double(i) + 0.4 * share()) / double(n), reach = size * (0.7 + 0.5 * share());
        points.push_back(middle + reach * Vec2(std::cos(angle), std::sin(angle)));
    }
    return points;
}
json spline(const std::vector<Vec2>& points) {
    json list = json::array();
    for (const Vec2& p : points) list.push_back({p.x(), p.y()});
    return {{"elements", json::array({{{"kind", "spline"}, {"points", list}, {"closed", true}}})}};
}
/// Area and middle of what the curve encloses, by the shoelace formula on 20,000 chords.
std::pair<double, Vec2> enclosed(const std::vector<Vec2>& points) {
    const Curve curve = Curve::spline(points, true);
    const size_t spans = points.size(), chords = 20000;
    auto at = [&](size_t k) { return curve.at(double(spans) * double(k % chords) / double(chords)); };
    double area = 0;
    Vec2 moment = Vec2::Zero();
    for (size_t k = 0; k < chords; ++k) {
        Vec2 a = at(k), b = at(k + 1);
        double twice = a.x() * b.y() - a.y() * b.x();
        area += twice / 2;
        moment += (a + b) * twice / 6;
    }
    return {area, moment / area};
}
json outline(const std::vector<Vec2>& points, const json& more = json::object()) {
    json fields{{"drawing", spline(points)}};
    fields.update(more);
    return step("outline", fields, "o");
}
/// The whole against its own facets. (The kernel's quadrature, the careful one too, is up to 5 % off on faces
/// swept along closed splines: it is no judge here.)
void check_measures(const Made& m, const std::string& what) {
    ASSERT_EQ(m.says(), "") << what;
    ASSERT_TRUE(m.body().is_exact()) << what;
    const MassProperties seen = mass_properties(m.body().mesh()), known = m.body().mass();
    EXPECT_NEAR(seen.volume_mm3, known.volume_mm3, 0.012 * known.area_mm2) << what;
    EXPECT_NEAR(seen.area_mm2, known.area_mm2, 4e-3 * known.area_mm2) << what;
    EXPECT_LT((seen.centre - known.centre).norm(), 0.02) << what;
}

} // namespace

TEST(ClosedSplines, RaisedHaveAreaTimesHeight) {
    std::mt19937 random(3);
    for (int round = 0; round < 12; ++round) {
        auto points = wobbly(random, {0, 0}, 12);
        Made m = make({outline(points), step("extrude", {{"height", "9 mm"}})});
        check_measures(m, "raised " + std::to_string(round));
        EXPECT_NEAR(m.volume(), enclosed(points).first * 9, 2e-4 * 9) << round;
    }
}
TEST(ClosedSplines, TurnedFollowPappus) {
    std::mt19937 random(5);
    for (int round = 0; round < 4; ++round) {
        auto points = wobbly(random, {30, 5}, 10);
        const double angle = round % 2 ? 360 : 140;
        Made m = make({outline(points, {{"on", "xz"}}), step("revolve", {{"angle", angle}})});
        check_measures(m, "turned " + std::to_string(round));
        auto [area, middle] = enclosed(points);
        EXPECT_NEAR(m.volume(), area * middle.x() * radians(angle), 1e-6 * m.volume()) << round;
    }
}
TEST(ClosedSplines, SweptAndLofted) {
    std::mt19937 random(11);
    for (int round = 0; round < 4; ++round) {
        auto points = wobbly(random, {0, 0}, 6);
        json path = {{"elements", json::array({{{"kind", "line"}, {"points", {{0, 0}, {0, 40}}}}})}};
        Made swept = make({outline(points), step("outline", {{"drawing", path}, {"on", "xz"}}, "way"),
                           step("sweep", {{"outline", "o"}, {"path", "way"}})});
        check_measures(swept, "swept " + std::to_string(round));
        EXPECT_NEAR(swept.volume(), enclosed(points).first * 40, 1e-5 * swept.volume()) << "area times way";
        // Between an outline and the same one 20 mm above it: a prism again.
        Made lofted = make({outline(points), step("outline", {{"drawing", spline(points)}, {"distance", 20}}, "p"),
                            step("loft", {{"outlines", "o, p"}})});
        check_measures(lofted, "lofted " + std::to_string(round));
        EXPECT_NEAR(lofted.volume(), enclosed(points).first * 20, 1e-5 * lofted.volume());
    }
}
TEST(ClosedSplines, ARoundTubesVolumeIsItsSectionTimesItsWayRound) {
    // Pappus for a spline through eight places of a circle, turned: the same two numbers, worked out from the curve.
    std::vector<Vec2> points;
    for (int i = 0; i < 8; ++i) points.emplace_back(25 + 4 * std::cos(pi * i / 4), 4 * std::sin(pi * i / 4));
    Made m = make({outline(points, {{"on", "xz"}}), step("revolve", json::object())});
    check_measures(m, "tube");
    EXPECT_NEAR(m.volume(), 2 * pi * 25 * enclosed(points).first, 1e-3);
    EXPECT_NEAR(m.part().mass.centre.norm(), 0, 1e-6);
}
TEST(Fillets, AChangingRadiusIsStraightBetweenItsEnds) {
    // The round touches a side at its radius from the corner: 1 at the foot, 4 at the top, 1.75 at a quarter.
    Made m = make({block(30, 30, 20), step("fillet", {{"edges", "upright"}, {"radius", 1}, {"end_radius", 4}})});
    ASSERT_EQ(m.says(), "");
    int seen = 0;
    for (const EdgeInfo& e : m.body().tessellation().edges)
        for (const Vec3& p : e.points) {
            if (std::fabs(p.z() - 5) > 0.6 && std::fabs(p.z() - 15) > 0.6) continue;
            double from_corner = 15 - std::min(std::fabs(p.x()), std::fabs(p.y()));
            double up = 1 + 3 * p.z() / 20, down = 4 - 3 * p.z() / 20;
            EXPECT_LT(std::min(std::fabs(from_corner - up), std::fabs(from_corner - down)), 0.02) << p.transpose();
            ++seen;
        }
    auto fine = tessellate(m.body(), 0.001);
    ASSERT_TRUE(fine);
    for (const EdgeInfo& e : fine->edges)
        for (const Vec3& p : e.points)
            if (p.z() > 0.5 && p.z() < 19.5) {
                double from_corner = 15 - std::min(std::fabs(p.x()), std::fabs(p.y()));
                EXPECT_LT(
                    std::min(std::fabs(from_corner - 1 - 3 * p.z() / 20), std::fabs(from_corner - 4 + 3 * p.z() / 20)),
                    0.02);
                ++seen;
            }
    EXPECT_GT(seen, 8);
}

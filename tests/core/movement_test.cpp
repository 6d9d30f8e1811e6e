// Bodies led past others, and the gaps of plain shapes by their formulas.
#include "bed/fused_layers.h"
#include "fit/facing.h"
#include "fit/movement.h"
#include "shape/edge_circle.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numbers>
#include <random>

using namespace lp;

namespace {
std::shared_ptr<const MeasuredBody> body(TriMesh mesh) {
    return std::make_shared<const MeasuredBody>(std::move(mesh));
}
MovementPath turn(double to, double step = 1) {
    MovementPath path;
    path.to = to;
    path.step = step;
    return path;
}
} // namespace

TEST(Movement, ABarMeetsAWallAtTheAngleOfItsCorner) {
    // A bar from the axis along x, half as wide as w, turned towards a wall at y = d: its corner (L, w) is at height
    // L sin t + w cos t, which is d at t = asin(d / R) - atan2(w, L), R = hypot(L, w).
    const double length = 20, w = 2, d = 12;
    MeasuredBody bar(box_mesh({-2, -w, 0}, {length, w, 4}));
    auto wall = body(box_mesh({-30, d, -5}, {30, d + 3, 9}));
    auto result = check_movement(bar, {wall}, turn(90));
    ASSERT_TRUE(result) << result.error().text();
    double want = degrees(std::asin(d / std::hypot(length, w)) - std::atan2(w, length));
    ASSERT_TRUE(result->first_contact);
    EXPECT_NEAR(*result->first_contact, want, 0.03);
    ASSERT_EQ(result->interferences.size(), 1u);
    EXPECT_NEAR(result->interferences[0].at.y(), d, 0.02);
    // Before that the gap is d less the corner's height.
    for (const MovementSample& s : result->curve)
        if (s.position < want - 1 && s.gap_mm) {
            double t = radians(s.position);
            EXPECT_NEAR(*s.gap_mm, d - length * std::sin(t) - w * std::cos(t), 1e-6) << s.position;
        }
}

TEST(Movement, ASliderGoesUntilItsStop) {
    MeasuredBody slider(box_mesh({0, 0, 0}, {5, 5, 5}));
    MovementPath path;
    path.kind = MovementPath::Kind::Slide;
    path.axis = Vec3::UnitX();
    path.to = 20;
    path.step = 0.7;
    auto result = check_movement(slider, {body(box_mesh({17, -5, -5}, {20, 10, 10}))}, path);
    ASSERT_TRUE(result);
    ASSERT_TRUE(result->first_contact);
    EXPECT_NEAR(*result->first_contact, 12, 0.003);
}

TEST(Movement, LegsAndScrewsAreFollowed) {
    MovementPath screw;
    screw.kind = MovementPath::Kind::Screw;
    screw.pitch_mm = 2;
    Vec3 p = screw.at(90) * Vec3(1, 0, 0);
    EXPECT_LT((p - Vec3(0, 1, 0.5)).norm(), 1e-12);
    auto legs = legs_from_text("slide 6, turn 30, slide -3");
    ASSERT_TRUE(legs);
    MovementPath path;
    path.kind = MovementPath::Kind::Legs;
    path.legs = *legs;
    EXPECT_LT((path.at(1.5) * Vec3(1, 0, 0) - Vec3(std::cos(radians(15)), std::sin(radians(15)), 6)).norm(), 1e-12);
    EXPECT_LT((path.at(3) * Vec3(0, 0, 0) - Vec3(0, 0, 3)).norm(), 1e-12);
    EXPECT_FALSE(legs_from_text("slide six"));
    EXPECT_FALSE(legs_from_text("jump 4"));
}

TEST(Movement, APegInItsHoleHasThePlayOfItsGap) {
    // A square peg of 6 in a square tube of 7: half a millimetre each way across, free along.
    MeasuredBody peg(box_mesh({-3, -3, 0}, {3, 3, 10}));
    TriMesh walls = box_mesh({3.5, -5, 0}, {5, 5, 10});
    append(walls, box_mesh({-5, -5, 0}, {-3.5, 5, 10}));
    append(walls, box_mesh({-3.5, 3.5, 0}, {3.5, 5, 10}));
    append(walls, box_mesh({-3.5, -5, 0}, {3.5, -3.5, 10}));
    auto play = measure_play(peg, {body(walls)}, Vec3::UnitZ());
    ASSERT_TRUE(play) << play.error().text();
    EXPECT_GE(play->shifts[0].plus, 4.99); // free along the axis
    for (size_t k : {1u, 2u}) {
        EXPECT_NEAR(play->shifts[k].plus, 0.5, 0.005);
        EXPECT_NEAR(play->shifts[k].minus, 0.5, 0.005);
    }
    // Tilted about an axis across: the edge at half the height meets the wall, 3 cos t + 5 sin t = 3.5.
    double want = degrees(std::asin(3.5 / std::hypot(3, 5)) - std::atan2(3, 5));
    EXPECT_NEAR(play->tilts[1].plus, want, 0.05);
}

TEST(Movement, BadPathsAreSaid) {
    MeasuredBody a(box_mesh({0, 0, 0}, {1, 1, 1}));
    auto b = body(box_mesh({5, 0, 0}, {6, 1, 1}));
    MovementPath none = turn(90);
    none.axis.setZero();
    EXPECT_FALSE(check_movement(a, {b}, none));
    EXPECT_FALSE(check_movement(a, {b}, turn(0)));
    EXPECT_FALSE(check_movement(a, {b}, turn(90, 1e-9)));
    EXPECT_FALSE(check_movement(a, {}, turn(90)));
    Task task;
    task.cancel.cancel();
    EXPECT_EQ(check_movement(a, {b}, turn(90), {}, task).error().code, ProblemCode::Cancelled);
}

TEST(Gap, TiltedPlanesAndBallsHaveTheGapOfTheFormula) {
    // A block over another, tilted by 5 degrees about y through a corner edge 0.3 above it.
    Transform tilt = Transform::Identity();
    tilt.translate(Vec3(0, 0, 10.3));
    tilt.rotate(Eigen::AngleAxisd(-radians(5), Vec3::UnitY()));
    MeasuredBody low(box_mesh({0, 0, 0}, {20, 10, 10})), high(transformed(box_mesh({0, 0, 0}, {20, 10, 5}), tilt));
    auto gap = measure_gap(high, low, 1);
    ASSERT_TRUE(gap);
    EXPECT_NEAR(gap->min_mm, 0.3, 1e-9);
    auto samples = facing_samples(low, {}, high, {.reach_mm = 1.0});
    auto figures = facing_figures(samples, 0.5);
    ASSERT_TRUE(figures);
    // Nearer than 0.475 (0.5 less the tolerance) as far as x = (0.475 cos 5 - 0.3 ...) along the wedge: the distance
    // from the lower face to the tilted one is (0.3 + x tan 5) cos 5.
    double t = radians(5), to_tight = (0.475 / std::cos(t) - 0.3) / std::tan(t),
           to_reach = (1.0 / std::cos(t) - 0.3) / std::tan(t);
    EXPECT_NEAR(figures->tight_share, to_tight / to_reach, 0.05);
    EXPECT_NEAR(figures->mean_mm, (0.3 * std::cos(t) + 1.0) / 2, 0.03);
}

TEST(Gap, LayersNearerThanTheSmallestOpenGapFuse) {
    // Two walls side by side, 0.2 apart below z = 3 and 0.5 above: a printer that keeps 0.25 open fuses 15 layers.
    TriMesh left = box_mesh({0, 0, 0}, {5, 10, 3});
    append(left, box_mesh({0, 0, 3}, {4.7, 10, 6}));
    MeasuredBody a(left), b(box_mesh({5.2, 0, 0}, {10, 10, 6}));
    PrinterCard card;
    auto samples = facing_samples(b, {}, a, {.reach_mm = 1.0, .spacing_mm = 0.1});
    auto fused = fused_layers(samples, Transform::Identity(), card);
    ASSERT_TRUE(fused);
    EXPECT_EQ(fused->first(), 1);
    EXPECT_NEAR(fused->last(), 15, 1);
    // The same by the sections of the layers: exactly the fifteen.
    auto sections = fused_sections(a.mesh, b.mesh, {card.layer_height_mm, card.first_layer_mm}, card);
    ASSERT_TRUE(sections);
    EXPECT_EQ(sections->layers.size(), 15u);
    EXPECT_EQ(sections->last(), 15);
    EXPECT_NEAR(sections->from_z_mm, 0.1, 1e-9);
    EXPECT_NEAR(sections->to_z_mm, 2.9, 1e-9);
    card.smallest_open_gap_mm = 0.15;
    EXPECT_FALSE(fused_layers(samples, Transform::Identity(), card));
    EXPECT_FALSE(fused_sections(a.mesh, b.mesh, {card.layer_height_mm, card.first_layer_mm}, card));
}

TEST(Gap, ASpikeBetweenTheSamplesStillFuses) {
    // A blade 0.02 wide whose tip comes within 0.2: no sample of either wall need lie there, its layers do.
    TriMesh wall = box_mesh({0, 0, 0}, {5, 40, 8}), blade = box_mesh({6, 0, 0}, {10, 40, 8});
    append(blade, box_mesh({5.2, 20, 4.05}, {6.5, 20.02, 4.75}));
    PrinterCard card;
    auto fused = fused_sections(wall, blade, {card.layer_height_mm, card.first_layer_mm}, card);
    ASSERT_TRUE(fused);
    // Middles of layers of 0.2 between 4.05 and 4.75: 4.1 to 4.7.
    EXPECT_EQ(fused->first(), 21);
    EXPECT_EQ(fused->last(), 24);
    EXPECT_NEAR(fused->where.y(), 20.01, 0.02);
    FusedLayers lying;
    lying.layers = {3};
    lying.from_z_mm = lying.to_z_mm = 0.5;
    auto both = united(lying, fused);
    EXPECT_EQ(both->layers, (std::set<int>{3, 21, 22, 23, 24}));
    EXPECT_EQ(both->from_z_mm, 0.5);
    EXPECT_FALSE(united({}, {}));
}

TEST(Movement, ARimLeadsAboutItsMiddleHoweverItsPointsAreSpread) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(0, 1);
    for (int round = 0; round < 300; ++round) {
        const double radius = std::exp(4 * any(random) - 1);
        const bool whole = round % 2 == 0;
        const Vec3 middle = 50 * Vec3(any(random), any(random), any(random));
        const Transform turned(Eigen::AngleAxisd(6 * any(random), Vec3(any(random), any(random), 1).normalized()));
        const int n = 5 + int(40 * any(random));
        std::vector<double> angles{0};
        for (int i = 1; i < n; ++i) angles.push_back(angles.back() + 0.1 + any(random));
        const double each = (whole ? 1.9 : 0.2 + any(random)) * std::numbers::pi / angles.back();
        for (double& angle : angles) angle *= each;
        std::vector<Vec3> points;
        for (double angle : angles)
            points.push_back(middle + turned * Vec3(radius * std::cos(angle), radius * std::sin(angle), 0));
        if (whole) points.push_back(points.front());
        const auto circle = circle_of(points);
        ASSERT_TRUE(circle) << round;
        EXPECT_LT((circle->centre - middle).norm(), 1e-6 * (1 + radius)) << round;
        EXPECT_NEAR(circle->radius_mm, radius, 1e-6 * (1 + radius));
        EXPECT_LT((circle->normal - turned * Vec3::UnitZ()).norm(), 1e-6) << "as they run";
        points[points.size() / 2] += 0.1 * radius * (turned * Vec3::UnitZ());
        if (points.size() > 5) {
            EXPECT_FALSE(circle_of(points)) << "one is off it";
        }
    }
    EXPECT_FALSE(circle_of({}));
    EXPECT_FALSE(circle_of({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {3, 0, 0}, {4, 0, 0}})) << "straight";
    EXPECT_FALSE(circle_of({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}})) << "too few of an arc";
}

// Work on drawings: trim, extend, split, corners, mirror, repeat, figures drawn in one go. Judged by areas of closed
// formulas and by what is free.
#include "outline/alter.h"
#include "outline/outline_shape.h"
#include "outline/shapes.h"

using namespace lp;
using std::numbers::pi;

namespace {
OutlineShape made(const Drawing& d) {
    auto shape = make_outline(d, {});
    EXPECT_TRUE(shape) << (shape ? "" : shape.error().text());
    return shape.value_or(OutlineShape{});
}
double area(const Drawing& d) {
    double sum = 0;
    OutlineShape s = made(d);
    for (const FlatRegion& r : s.arrangement.regions) sum += r.area_mm2;
    return sum;
}
std::set<DrawingId> all_of(const Drawing& d) {
    std::set<DrawingId> ids;
    for (const Element& e : d.elements) ids.insert(e.id);
    return ids;
}
} // namespace

TEST(Shapes, FiguresHaveTheirAreasAndTheFreedomOneExpects) {
    Drawing r;
    add_rounded_rectangle(r, {0, 0}, {30, 20}, 4);
    EXPECT_NEAR(area(r), 600 - (4 - pi) * 16, 1e-6);
    EXPECT_EQ(freedom(made(r).drawing, {}).total, 5); // place, two sizes, one radius
    Drawing s;
    add_slot(s, {0, 0}, {20, 0}, 3);
    EXPECT_NEAR(area(s), 20 * 6 + pi * 9, 1e-6);
    EXPECT_EQ(freedom(made(s).drawing, {}).total, 5); // two centres, one radius
    Drawing c;
    add_centred_rectangle(c, {5, 5}, {15, 9});
    EXPECT_NEAR(area(c), 20 * 8, 1e-6);
    for (int sides : {3, 5, 6, 9}) {
        Drawing corners, flats;
        add_polygon(corners, {1, 2}, {11, 2}, sides, false);
        add_polygon(flats, {1, 2}, {11, 2}, sides, true);
        EXPECT_NEAR(area(corners), sides / 2.0 * 100 * std::sin(2 * pi / sides), 1e-6) << sides;
        EXPECT_NEAR(area(flats), sides * 100 * std::tan(pi / sides), 1e-6) << sides;
        EXPECT_EQ(freedom(made(corners).drawing, {}).total, 4) << sides; // place, size, turn
    }
}
TEST(Alter, TrimTakesTheStretchBetweenCrossings) {
    Drawing d;
    DrawingId line = d.add(ElementKind::Line, {d.add_point({-10, 0}), d.add_point({10, 0})});
    DrawingId circle = d.add(ElementKind::Circle, {d.add_point({0, 0})}, 5);
    auto open = trim(d, line, {0, 0.1}); // the middle goes: two pieces stay
    ASSERT_TRUE(open) << open.error().text();
    EXPECT_EQ(open->elements.size(), 3u);
    EXPECT_NEAR(area(*open), 25 * pi, 1e-6);
    auto half = trim(d, circle, {0, 5}); // the upper half of the circle
    ASSERT_TRUE(half);
    EXPECT_EQ(half->element(circle)->kind, ElementKind::Arc);
    EXPECT_NEAR(area(*half), 12.5 * pi, 1e-6);
    auto end = trim(d, line, {8, 0});
    ASSERT_TRUE(end);
    EXPECT_NEAR(end->points.at(end->element(line)->points[1]).x(), 5, 1e-9);
    Drawing alone;
    DrawingId only = alone.add(ElementKind::Line, {alone.add_point({0, 0}), alone.add_point({1, 0})});
    auto gone = trim(alone, only, {0.5, 0});
    ASSERT_TRUE(gone);
    EXPECT_TRUE(gone->elements.empty());
    EXPECT_FALSE(trim(alone, 999, {0, 0}));
}
TEST(Alter, ExtendReachesTheNextElementAndSplitParts) {
    Drawing d;
    DrawingId line = d.add(ElementKind::Line, {d.add_point({0, 0}), d.add_point({5, 0})});
    d.add(ElementKind::Line, {d.add_point({12, -5}), d.add_point({12, 5})});
    auto longer = extend(d, line, {5, 0});
    ASSERT_TRUE(longer) << longer.error().text();
    EXPECT_NEAR((longer->points.at(longer->element(line)->points[1]) - Vec2(12, 0)).norm(), 0, 1e-9);
    EXPECT_EQ(longer->constraints.size(), 1u); // it stays on what it met
    EXPECT_FALSE(extend(d, line, {0, 0}));     // nothing lies behind
    auto parted = split(d, line, {2, 0});
    ASSERT_TRUE(parted);
    EXPECT_EQ(parted->elements.size(), 3u);
    EXPECT_FALSE(split(d, line, {0, 0}));
}
TEST(Alter, CornersAreRoundedAndBevelledAndFollowTheirNumbers) {
    Drawing d;
    auto lines = add_rectangle(d, {0, 0}, {40, 20});
    DrawingId corner = d.element(lines[0])->points[1];
    auto rounded = round_corner(d, corner, "r", {{"r", {5, QuantityKind::Length}}});
    ASSERT_TRUE(rounded) << rounded.error().text();
    for (double r : {5.0, 8.0}) {
        OutlineInputs in;
        in.parameters = {{"r", {r, QuantityKind::Length}}};
        auto shape = make_outline(*rounded, in);
        ASSERT_TRUE(shape) << shape.error().text();
        ASSERT_EQ(shape->arrangement.regions.size(), 1u);
        double w = 0, h = 0;
        Box2 box;
        for (const BoundaryCurve& c : shape->arrangement.regions[0].outer) box.extend(c.curve.tight_box());
        w = box.sizes().x(), h = box.sizes().y();
        EXPECT_NEAR(shape->arrangement.regions[0].area_mm2, w * h - (1 - pi / 4) * r * r, 1e-6);
    }
    auto bevelled = bevel_corner(d, corner, "4 mm", {});
    ASSERT_TRUE(bevelled) << bevelled.error().text();
    EXPECT_NEAR(area(*bevelled), 800 - 8, 1e-6);
    EXPECT_FALSE(round_corner(d, corner, "30 mm", {})); // longer than the lines
    EXPECT_FALSE(round_corner(d, corner, "0", {}));
    EXPECT_FALSE(round_corner(d, 12345, "1 mm", {}));
}
TEST(Alter, MirroredThingsStaySymmetric) {
    Drawing d;
    DrawingId axis = d.add(ElementKind::Line, {d.add_point({0, -10}), d.add_point({0, 10})});
    d.element(axis)->construction = true;
    d.add(ConstraintKind::Fixed, {axis});
    DrawingId a = d.add_point({0, 0}), b = d.add_point({8, 1}), c = d.add_point({0, 6});
    DrawingId ab = d.add(ElementKind::Line, {a, b}), bc = d.add(ElementKind::Line, {b, c});
    for (DrawingId end : {a, c}) d.add(ConstraintKind::Fixed, {end});
    auto both = mirror(d, {ab, bc}, axis);
    ASSERT_TRUE(both) << both.error().text();
    EXPECT_NEAR(area(*both), 2 * 0.5 * 6 * 8, 1e-6);
    // Pull one side: the other follows.
    Drag drag(*both, {}, b, {8, 1});
    EXPECT_NEAR(area(drag.move({11, 1})), 6 * 11, 1e-3);
    EXPECT_FALSE(mirror(d, {axis}, axis));
}
TEST(Alter, RepeatsStandEvenly) {
    Drawing d;
    add_slot(d, {12, 0}, {16, 0}, 1);
    auto round = repeat_round(d, all_of(d), {0, 0}, 360, 6);
    ASSERT_TRUE(round);
    OutlineShape s = made(*round);
    ASSERT_EQ(s.arrangement.regions.size(), 6u);
    for (const FlatRegion& r : s.arrangement.regions) EXPECT_NEAR(r.area_mm2, 8 + pi, 1e-6);
    Drawing e;
    e.add(ElementKind::Circle, {e.add_point({0, 0})}, 2);
    auto row = repeat_along(e, all_of(e), {5, 1}, 4);
    ASSERT_TRUE(row);
    EXPECT_EQ(made(*row).arrangement.regions.size(), 4u);
    EXPECT_NEAR(area(*row), 16 * pi, 1e-6);
    EXPECT_FALSE(repeat_along(e, all_of(e), {0, 0}, 4));
    EXPECT_FALSE(repeat_along(e, all_of(e), {1, 0}, 1));
    EXPECT_FALSE(repeat_round(e, all_of(e), {0, 0}, 0, 4));
}
TEST(Alter, CopiesTakeTheirOwnConstraintsAlong) {
    Drawing d, other;
    add_rectangle(d, {0, 0}, {10, 5});
    std::vector<DrawingId> added;
    Drawing both = copied_into(other, d, all_of(d), {20, 0}, &added);
    EXPECT_EQ(added.size(), 4u);
    EXPECT_EQ(both.constraints.size(), 4u);
    EXPECT_NEAR(area(both), 50, 1e-6);
}

// Drawings: solving, regions, offsets, letters and formulas, against closed formulas and a general polygon library.
#include "base/hash.h"
#include "outline/offset.h"
#include "outline/outline_shape.h"
#include "outline/text_curves.h"
#include <polyclipping/clipper.hpp>
#include <random>

using namespace lp;
using std::numbers::pi;

namespace {

OutlineShape made(const Drawing& d, const ParameterValues& parameters = {}) {
    OutlineInputs in;
    in.parameters = parameters;
    auto shape = make_outline(d, in);
    EXPECT_TRUE(shape) << (shape ? "" : shape.error().text());
    return shape.value_or(OutlineShape{});
}
std::string refusal(const Drawing& d, const ParameterValues& parameters = {}) {
    OutlineInputs in;
    in.parameters = parameters;
    auto shape = make_outline(d, in);
    return shape ? "" : shape.error().text();
}

/// A rectangle with its corner at (x, y): ids of its lines, bottom first, counter-clockwise.
std::vector<DrawingId> rectangle(Drawing& d, double x, double y, double w, double h) {
    DrawingId p[4] = {d.add_point({x, y}), 0, 0, 0};
    p[1] = d.add_point({x + w, y});
    p[2] = d.add_point({x + w, y + h});
    p[3] = d.add_point({x, y + h});
    std::vector<DrawingId> lines;
    for (int k = 0; k < 4; ++k) lines.push_back(d.add(ElementKind::Line, {p[k], p[(k + 1) % 4]}));
    for (int k = 0; k < 4; ++k)
        d.add(k % 2 ? ConstraintKind::Vertical : ConstraintKind::Horizontal, {lines[size_t(k)]});
    return lines;
}
DrawingId offset_of(Drawing& d, std::vector<DrawingId> of, const std::string& by,
                    const std::string& corners = "sharp") {
    DrawingId id = d.add(ElementKind::Offset, {});
    d.element(id)->of = std::move(of);
    d.element(id)->texts = {{"distance", by}, {"corners", corners}};
    return id;
}
} // namespace

TEST(Curves, SharesOfAreaAndLengthFollowTheFormulas) {
    EXPECT_NEAR(signed_area({Curve::circle({100, -40}, 7)}), pi * 49, 1e-9);
    EXPECT_NEAR(Curve::circle({3, 4}, 7).length(), 14 * pi, 1e-9);
    EXPECT_NEAR(signed_area({Curve::ellipse({5, 5}, {0, 9}, 4, 0.3, 2 * pi)}), pi * 36, 1e-9);
    // A quarter disc of radius 2 minus nothing: pi r^2 / 4, from an arc and two lines.
    Curve arc = Curve::arc_between({0, 0}, {2, 0}, {0, 2}, true);
    EXPECT_NEAR(signed_area({Curve::line({0, 0}, {2, 0}), arc, Curve::line({0, 2}, {0, 0})}), pi, 1e-12);
    // Area under the cubic y = x^3, 0 to 1: 1/4, as a Bezier curve (exact).
    Curve cubic = Curve::cubic({0, 0}, {1.0 / 3, 0}, {2.0 / 3, 0}, {1, 1});
    EXPECT_NEAR(signed_area({Curve::line({0, 0}, {1, 0}), Curve::line({1, 0}, {1, 1}), cubic.reversed()}), 0.25, 1e-12);
}
TEST(Curves, PartsAndMapsKeepThePoints) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> u(-10, 10), share(0.05, 0.95);
    for (int round = 0; round < 200; ++round) {
        std::vector<Curve> curves{Curve::arc({u(random), u(random)}, 5 + u(random) / 3, u(random), u(random) / 2),
                                  Curve::ellipse({u(random), u(random)}, {8, u(random)}, 3, u(random), 3),
                                  Curve::cubic({u(random), u(random)}, {u(random), u(random)}, {u(random), u(random)},
                                               {u(random), u(random)})};
        Eigen::Affine2d map = Eigen::Affine2d::Identity();
        map.rotate(u(random));
        map.translate(Vec2(u(random), u(random)));
        map.scale(Vec2(1 + share(random), round % 2 ? -1.3 : 0.7));
        for (const Curve& c : curves) {
            double s = share(random), a = 0.2 * c.end(), b = 0.9 * c.end();
            EXPECT_NEAR((c.part(a, b).at(s) - c.at(a + s * (b - a))).norm(), 0, 1e-9);
            EXPECT_NEAR((c.reversed().at(s) - c.at(c.end() - s)).norm(), 0, 1e-9);
            // A mapped curve runs through the same mapped points.
            Curve m = c.mapped(map);
            EXPECT_NEAR((m.at(m.nearest(map * c.at(s))) - map * c.at(s)).norm(), 0, 2e-6);
            EXPECT_NEAR((m.first() - map * c.first()).norm(), 0, 1e-9);
            EXPECT_NEAR((m.last() - map * c.last()).norm(), 0, 1e-9);
        }
    }
}

TEST(Regions, ALineOfNoLengthChangesNothing) {
    std::vector<SourcedCurve> square;
    const Vec2 corners[] = {{0, 0}, {4, 0}, {4, 4}, {4, 4}, {0, 4}}; // one of them twice
    for (size_t i = 0; i < 5; ++i) square.push_back({Curve::line(corners[i], corners[(i + 1) % 5]), i + 1, 0, -1});
    auto a = arrange(square);
    ASSERT_TRUE(a);
    ASSERT_EQ(a->regions.size(), 1u);
    EXPECT_NEAR(a->regions[0].area_mm2, 16, 1e-9);
}

TEST(Regions, TwoDiscsGiveTheLensOfTheFormula) {
    // Area common to two discs of radius r at distance d: 2 r^2 acos(d / 2r) - d/2 sqrt(4 r^2 - d^2) (textbook
    // formula).
    double r = 5, d = 6, lens = 2 * r * r * std::acos(d / (2 * r)) - d / 2 * std::sqrt(4 * r * r - d * d);
    auto a = arrange({{Curve::circle({0, 0}, r), 1, 0, -1}, {Curve::circle({d, 0}, r), 2, 0, -1}});
    ASSERT_TRUE(a);
    ASSERT_EQ(a->regions.size(), 3u);
    EXPECT_NEAR(a->regions[2].area_mm2, lens, 1e-9);
    EXPECT_NEAR(a->regions[0].area_mm2, pi * r * r - lens, 1e-9);
    EXPECT_EQ(a->crossings.size(), 2u);
}
TEST(Regions, NestedFiguresAreHolesByTurns) {
    std::vector<SourcedCurve> rings;
    for (int k = 1; k <= 4; ++k) rings.push_back({Curve::circle({0, 0}, k), SourceKey(k), 0, -1});
    auto a = arrange(rings);
    ASSERT_TRUE(a);
    ASSERT_EQ(a->regions.size(), 4u);
    for (const FlatRegion& region : a->regions) {
        double outer = region.outer[0].curve.radius;
        EXPECT_NEAR(region.area_mm2, pi * (outer * outer - (outer - 1) * (outer - 1)), 1e-9);
        EXPECT_EQ(region.depth, int(4 - outer));
        EXPECT_NEAR(region.inside.norm(), outer - 0.5, 0.5);
    }
}
TEST(Regions, TouchingCirclesAndTangentLinesMakeNoSlivers) {
    // Three circles in a row between two tangent lines, ends closed: touching only.
    std::vector<SourcedCurve> c;
    for (int k = 0; k < 3; ++k) c.push_back({Curve::circle({10.0 * k, 5}, 5), SourceKey(k + 1), 0, -1});
    c.push_back({Curve::line({-8, 0}, {28, 0}), 10, 0, -1});
    c.push_back({Curve::line({28, 0}, {28, 10}), 11, 0, -1});
    c.push_back({Curve::line({28, 10}, {-8, 10}), 12, 0, -1});
    c.push_back({Curve::line({-8, 10}, {-8, 0}), 13, 0, -1});
    auto a = arrange(c);
    ASSERT_TRUE(a);
    // 3 discs, 4 gaps between them (upper and lower, two each), and the two ends.
    EXPECT_EQ(a->regions.size(), 9u);
    double sum = 0;
    for (const FlatRegion& r : a->regions) sum += r.area_mm2;
    EXPECT_NEAR(sum, 360, 1e-6);
}
TEST(Regions, RandomCurvesShareOutTheirAreaWithoutLoss) {
    // All faces of random overlapping discs and boxes together are their union: by Clipper, a general polygon library.
    std::mt19937 random(11);
    std::uniform_real_distribution<double> u(0, 60), size(2, 14);
    for (int round = 0; round < 12; ++round) {
        std::vector<SourcedCurve> curves;
        ClipperLib::Clipper clipper;
        const double grid = 1e5;
        SourceKey key = 1;
        for (int k = 0; k < 30; ++k) {
            std::vector<Curve> loop;
            Vec2 c(u(random), u(random));
            if (k % 3 == 0) {
                loop = {Curve::circle(c, size(random))};
            } else {
                double w = size(random), h = size(random);
                // Half of the boxes on a grid of whole millimetres: their sides fall on each other.
                if (k % 2) c = Vec2(std::round(c.x()), std::round(c.y())), w = std::round(w), h = std::round(h);
                Vec2 p[4] = {c, c + Vec2(w, 0), c + Vec2(w, h), c + Vec2(0, h)};
                for (int i = 0; i < 4; ++i) loop.push_back(Curve::line(p[i], p[(i + 1) % 4]));
            }
            ClipperLib::Path path;
            for (const Vec2& p : flatten(loop, 1e-5))
                path.emplace_back(std::llround(p.x() * grid), std::llround(p.y() * grid));
            clipper.AddPath(path, ClipperLib::ptSubject, true);
            for (const Curve& piece : loop) curves.push_back({piece, key++, 0, k});
        }
        auto a = arrange(curves);
        ASSERT_TRUE(a);
        double sum = 0, painted = 0;
        std::vector<FillRule> rules(30, FillRule::NonZero);
        for (const FlatRegion& r : a->regions) {
            sum += r.area_mm2;
            if (is_painted(r, rules)) painted += r.area_mm2;
        }
        ClipperLib::Paths united;
        clipper.Execute(ClipperLib::ctUnion, united, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
        double want = 0, outer = 0;
        for (const auto& path : united) {
            double area = ClipperLib::Area(path) / grid / grid;
            want += area;
            if (area > 0) outer += area;
        }
        EXPECT_NEAR(painted, want, 2e-3 * want) << round;
        EXPECT_NEAR(painted, want, 0.2) << round;
        EXPECT_GE(sum, painted - 1e-6);
        EXPECT_LE(sum, outer + 0.2);
    }
}
TEST(Regions, SmallGapsAreClosedAndLargeOnesShown) {
    Drawing d;
    DrawingId a = d.add_point({0, 0}), b = d.add_point({20, 0}), c = d.add_point({20, 10}),
              e = d.add_point({0.006, 0.003});
    d.add(ElementKind::Line, {a, b});
    d.add(ElementKind::Line, {b, c});
    d.add(ElementKind::Line, {c, e});
    OutlineShape closed = made(d);
    ASSERT_EQ(closed.arrangement.regions.size(), 1u);
    EXPECT_NEAR(closed.arrangement.regions[0].area_mm2, 100, 0.1);
    ASSERT_EQ(closed.notes.size(), 1u);
    EXPECT_NE(closed.notes[0].find("1 gap under 0.01 mm closed"), std::string::npos) << closed.notes[0];
    d.points[e] = {-0.4, 0.3};
    OutlineShape open = made(d);
    EXPECT_TRUE(open.arrangement.regions.empty());
    auto chosen = chosen_regions(open, "all");
    ASSERT_FALSE(chosen);
    EXPECT_NE(chosen.error().text().find("gap of 0.443 mm at"), std::string::npos) << chosen.error().text();
    ASSERT_TRUE(chosen.error().point);
}
TEST(Regions, ASelfCrossingOutlineGivesItsLobes) {
    Drawing d;
    std::vector<DrawingId> p;
    for (Vec2 v : {Vec2(0, 0), Vec2(10, 10), Vec2(10, 0), Vec2(0, 10)}) p.push_back(d.add_point(v));
    for (int k = 0; k < 4; ++k) d.add(ElementKind::Line, {p[size_t(k)], p[size_t((k + 1) % 4)]});
    OutlineShape s = made(d);
    ASSERT_EQ(s.arrangement.regions.size(), 2u);
    EXPECT_NEAR(s.arrangement.regions[0].area_mm2, 25, 1e-9);
    ASSERT_EQ(s.arrangement.crossings.size(), 1u);
    EXPECT_NEAR((s.arrangement.crossings[0] - Vec2(5, 5)).norm(), 0, 1e-9);
}
TEST(Regions, OnlyALineThatCrossesItselfIsTold) {
    Drawing bow;
    DrawingId a = bow.add_point({0, 0}), b = bow.add_point({10, 10}), c = bow.add_point({10, 0}),
              e = bow.add_point({0, 10});
    for (auto [p, q] : {std::pair(a, b), std::pair(b, c), std::pair(c, e), std::pair(e, a)})
        bow.add(ElementKind::Line, {p, q});
    auto s = make_outline(bow, {});
    ASSERT_TRUE(s);
    ASSERT_EQ(s->own_crossings.size(), 1u);
    EXPECT_NEAR((s->own_crossings[0] - Vec2(5, 5)).norm(), 0, 1e-9);
    ASSERT_EQ(s->notes.size(), 1u);
    EXPECT_NE(s->notes[0].find("crosses itself at 5, 5 mm"), std::string::npos) << s->notes[0];
    Drawing two; // two figures over each other are meant
    two.add(ElementKind::Circle, {two.add_point({0, 0})}, 5);
    two.add(ElementKind::Circle, {two.add_point({6, 0})}, 5);
    auto t = make_outline(two, {});
    ASSERT_TRUE(t);
    EXPECT_EQ(t->arrangement.crossings.size(), 2u);
    EXPECT_TRUE(t->own_crossings.empty());
}

TEST(Regions, ChoicesAreFoundAgainAfterNumbersChange) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 40, 20);
    DrawingId length = d.add(ConstraintKind::Length, {lines[0]}, "w");
    (void)length;
    d.add(ConstraintKind::Length, {lines[1]}, "20 mm");
    d.add(ConstraintKind::Coincident, {d.element(lines[0])->points[0], origin_id});
    DrawingId low = d.add_point({15, 0}), high = d.add_point({15, 20});
    DrawingId wall = d.add(ElementKind::Line, {low, high});
    d.add(ConstraintKind::Vertical, {wall});
    d.add(ConstraintKind::On, {low, lines[0]});
    d.add(ConstraintKind::On, {high, lines[2]});
    d.add(ConstraintKind::DistanceX, {origin_id, low}, "w / 4");
    OutlineShape before = made(d, {{"w", {40, QuantityKind::Length}}});
    ASSERT_EQ(before.arrangement.regions.size(), 2u);
    std::string left = choices_text({choice_of(before.arrangement.regions[1])});
    EXPECT_NEAR(before.arrangement.regions[1].area_mm2, 200, 1e-6);
    // So wide now that the old place lies in the other region: the sides decide.
    for (double w : {8.0, 60.0, 400.0}) {
        OutlineShape after = made(d, {{"w", {w, QuantityKind::Length}}});
        auto found = chosen_regions(after, left);
        ASSERT_TRUE(found) << found.error().text();
        EXPECT_NEAR(after.arrangement.regions[found->at(0)].area_mm2, w / 4 * 20, 1e-6);
    }
}

TEST(Offsets, ARectangleGrowsByTheFormulas) {
    for (auto [by, corners, area] :
         {std::tuple(-2.0, Corners::Sharp, 16.0 * 6), std::tuple(2.0, Corners::Sharp, 24.0 * 14),
          std::tuple(2.0, Corners::Round, 200 + 60 * 2 + pi * 4)}) {
        Drawing d;
        rectangle(d, 3, 4, 20, 10);
        OutlineShape s = made(d);
        auto moved = offset_curves(s.curves, {by, corners, false, 5});
        ASSERT_TRUE(moved) << moved.error().text();
        auto chains = chains_of(*moved);
        ASSERT_EQ(chains.size(), 1u);
        EXPECT_TRUE(chains[0].closed);
        EXPECT_NEAR(std::fabs(signed_area(chains[0].plain())), area, 1e-6);
        EXPECT_EQ(chains[0].curves.size(), corners == Corners::Round ? 8u : 4u);
    }
}
TEST(Offsets, RandomLoopsAgreeWithAGeneralPolygonLibrary) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> u(0, 1);
    const double grid = 1e5;
    for (int round = 0; round < 40; ++round) {
        // A star-shaped loop of lines and arcs.
        std::vector<Vec2> p;
        int n = 5 + int(u(random) * 9);
        for (int k = 0; k < n; ++k)
            p.push_back((8 + 14 * u(random)) * Vec2(std::cos(2 * pi * k / n), std::sin(2 * pi * k / n)));
        std::vector<SourcedCurve> loop;
        for (int k = 0; k < n; ++k) {
            Vec2 a = p[size_t(k)], b = p[size_t((k + 1) % n)],
                 mid = (a + b) / 2 +
                       (b - a).norm() * 0.15 * (u(random) - 0.3) * Vec2(b.y() - a.y(), a.x() - b.x()).normalized();
            loop.push_back({k % 3 == 0 ? Curve::arc_through(a, mid, b) : Curve::line(a, b), SourceKey(k + 10), 0, -1});
        }
        std::vector<Curve> plain;
        for (const SourcedCurve& c : loop) plain.push_back(c.curve);
        double by = (u(random) - 0.5) * 6;
        ClipperLib::Path path;
        for (const Vec2& q : flatten(plain, 1e-4))
            path.emplace_back(std::llround(q.x() * grid), std::llround(q.y() * grid));
        ClipperLib::Paths simple, grown;
        ClipperLib::SimplifyPolygon(path, simple, ClipperLib::pftNonZero);
        if (simple.size() != 1) continue; // crosses itself
        ClipperLib::ClipperOffset offsetter(2, 1e-4 * grid);
        offsetter.AddPaths(simple, ClipperLib::jtRound, ClipperLib::etClosedPolygon);
        offsetter.Execute(grown, by * grid);
        double want = 0;
        for (const auto& g : grown) want += ClipperLib::Area(g) / grid / grid;
        auto moved = offset_curves(loop, {by, Corners::Round, false, 5});
        if (!moved) {
            EXPECT_LT(want, 0.05) << round << " " << by;
            continue;
        }
        double got = 0;
        auto arranged = arrange(*moved);
        ASSERT_TRUE(arranged);
        for (const FlatRegion& r : arranged->regions) got += r.depth % 2 ? 0 : r.area_mm2;
        EXPECT_NEAR(got, want, 0.02 + 1e-3 * want) << round << " " << by;
    }
}
TEST(Offsets, TooLargeAnInwardOffsetSaysSo) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 20, 10);
    offset_of(d, lines, "-6 mm");
    EXPECT_NE(refusal(d).find("leaves nothing"), std::string::npos) << refusal(d);
}
TEST(Offsets, AnOpenChainGetsAWallOfEvenWidth) {
    Drawing d;
    DrawingId a = d.add_point({20, 0}), b = d.add_point({20, 15}), c = d.add_point({6, 30});
    DrawingId l1 = d.add(ElementKind::Line, {a, b}), l2 = d.add(ElementKind::Line, {b, c});
    DrawingId wall = offset_of(d, {l1, l2}, "1.6 mm");
    d.element(wall)->texts["ends"] = "closed";
    OutlineShape s = made(d);
    ASSERT_EQ(s.arrangement.regions.size(), 1u);
    // Band of width w beside a bent line on its inner side: w (L1 + L2) - w^2 tan(turn / 2).
    double turn = std::acos(Vec2(0, 1).dot(Vec2(-14, 15).normalized())), l = 15 + std::hypot(14, 15);
    EXPECT_NEAR(s.arrangement.regions[0].area_mm2, 1.6 * l - 1.6 * 1.6 * std::tan(turn / 2), 1e-6);
}

TEST(Solver, DimensionsMoveTheRectangleAndKeepItSquare) {
    Drawing d;
    auto lines = rectangle(d, 1, 2, 50, 30);
    d.add(ConstraintKind::Coincident, {d.element(lines[0])->points[0], origin_id});
    d.add(ConstraintKind::Length, {lines[0]}, "w");
    d.add(ConstraintKind::Length, {lines[1]}, "w / 2");
    for (double w : {58.0, 71.0, 2.0, 3000.0}) {
        OutlineShape s = made(d, {{"w", {w, QuantityKind::Length}}});
        ASSERT_EQ(s.arrangement.regions.size(), 1u) << w;
        EXPECT_NEAR(s.arrangement.regions[0].area_mm2, w * w / 2, 1e-6 * w * w);
        EXPECT_GT(s.arrangement.regions[0].inside.x(), 0); // not turned over
        EXPECT_GT(s.arrangement.regions[0].inside.y(), 0);
    }
    EXPECT_EQ(freedom(made(d, {{"w", {58, QuantityKind::Length}}}).drawing, {{1, 0}}).total, 0);
}
TEST(Solver, TheIncircleOfA345TriangleHasRadiusOne) {
    // r = (a + b - c) / 2 for a right triangle (Euclid IV.4 gives the construction): (3 + 4 - 5) / 2 = 1, centre (1,
    // 1).
    Drawing d;
    DrawingId a = d.add_point({0, 0}), b = d.add_point({4, 0}), c = d.add_point({0, 3}), m = d.add_point({1.4, 0.7});
    DrawingId ab = d.add(ElementKind::Line, {a, b}), bc = d.add(ElementKind::Line, {b, c}),
              ca = d.add(ElementKind::Line, {c, a});
    for (DrawingId p : {a, b, c}) d.add(ConstraintKind::Fixed, {p});
    DrawingId circle = d.add(ElementKind::Circle, {m}, 0.4);
    for (DrawingId l : {ab, bc, ca}) d.add(ConstraintKind::Tangent, {l, circle});
    auto s = solve(d, {});
    ASSERT_TRUE(s) << s.error().text();
    EXPECT_NEAR(s->element(circle)->radius, 1, 1e-8);
    EXPECT_NEAR((s->points.at(m) - Vec2(1, 1)).norm(), 0, 1e-8);
}
TEST(Solver, ALineTouchesAnEllipseWhereTheFormulaSays) {
    // y = m x + c touches x2/a2 + y2/b2 = 1 when c2 = a2 m2 + b2 (analytic geometry, closed form).
    Drawing d;
    DrawingId tip = d.add_point({5, 0}), a = d.add_point({-8, 2}), b = d.add_point({8, 9});
    DrawingId ellipse = d.add(ElementKind::Ellipse, {origin_id, tip}, 3), line = d.add(ElementKind::Line, {a, b});
    d.add(ConstraintKind::Fixed, {ellipse});
    d.add(ConstraintKind::Fixed, {a});
    d.add(ConstraintKind::Length, {line}, "20 mm");
    d.add(ConstraintKind::Tangent, {line, ellipse});
    auto s = solve(d, *dimension_values(d, {}));
    ASSERT_TRUE(s) << s.error().text();
    Vec2 p = s->points.at(a), q = s->points.at(b);
    double m = (q.y() - p.y()) / (q.x() - p.x()), c = p.y() - m * p.x();
    EXPECT_NEAR(c * c, 25 * m * m + 9, 1e-6);
    // A circle as an ellipse: the tangent from a place at distance 10 to a radius of 6 is 8 long, and its end, held on
    // the curve, is where it touches.
    Drawing r;
    DrawingId rim = r.add_point({6, 0}), from = r.add_point({-10, 0}), to = r.add_point({-2, 5});
    DrawingId round = r.add(ElementKind::Ellipse, {origin_id, rim}, 6), leg = r.add(ElementKind::Line, {from, to});
    r.add(ConstraintKind::Fixed, {round});
    r.add(ConstraintKind::Fixed, {from});
    r.add(ConstraintKind::On, {to, round});
    r.add(ConstraintKind::Tangent, {leg, round});
    auto t = solve(r, {});
    ASSERT_TRUE(t) << t.error().text();
    EXPECT_NEAR((t->points.at(to) - t->points.at(from)).norm(), 8, 1e-6);
}

TEST(Solver, ASplineGoesOnFromALineAndAnArcWithoutACorner) {
    for (bool arc : {false, true}) {
        Drawing d;
        DrawingId a = d.add_point({0, arc ? 10 : 0}), b = d.add_point({10, 0}), c = d.add_point({16, 6}),
                  e = d.add_point({25, 4}), m = d.add_point({10, 10});
        DrawingId first = arc ? d.add(ElementKind::Arc, {m, a, b}) : d.add(ElementKind::Line, {a, b});
        DrawingId spline = d.add(ElementKind::Spline, {b, c, e});
        d.add(ConstraintKind::Fixed, {first});
        d.add(ConstraintKind::Fixed, {e});
        auto said = constrain(d, {0, ConstraintKind::Tangent, {spline, first}, {}, {}}, {});
        ASSERT_TRUE(said) << said.error().text();
        auto curves = element_curves(*said, *said->element(spline), {});
        ASSERT_TRUE(curves);
        Vec2 way = (curves->front().curve.at(1e-4) - curves->front().curve.at(0)).normalized();
        auto before = element_curves(*said, *said->element(first), {});
        const Curve& f = before->front().curve;
        Vec2 came = (f.at(f.end()) - f.at(f.end() - 1e-4)).normalized();
        EXPECT_NEAR(std::fabs(cross2(came, way)), 0, 1e-3) << arc;
    }
    Drawing apart; // no end in common: nothing to be tangent at
    DrawingId p = apart.add_point({0, 0}), q = apart.add_point({10, 0}), u = apart.add_point({0, 5}),
              v = apart.add_point({5, 8});
    DrawingId l = apart.add(ElementKind::Line, {p, q}), s = apart.add(ElementKind::Spline, {u, v});
    auto refused = constrain(apart, {0, ConstraintKind::Tangent, {s, l}, {}, {}}, {});
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().sentence.find("tangent"), std::string::npos);
}

TEST(Solver, ApolloniusCircleTouchesThreeOthers) {
    // Three circles of radius 1 about an equilateral triangle of side 2 touch each other; the circle inside has radius
    // 2 / sqrt 3 - 1, the one round them 2 / sqrt 3 + 1 (Descartes' circle theorem).
    for (bool inner : {true, false}) {
        Drawing d;
        std::vector<DrawingId> circles;
        for (Vec2 p : {Vec2(-1, 0), Vec2(1, 0), Vec2(0, std::sqrt(3))}) {
            circles.push_back(d.add(ElementKind::Circle, {d.add_point(p)}, 1));
            d.add(ConstraintKind::Fixed, {circles.back()});
        }
        DrawingId m = d.add_point({0.1, 0.5}), fourth = d.add(ElementKind::Circle, {m}, inner ? 0.2 : 2.5);
        for (DrawingId c : circles) d.add(ConstraintKind::Tangent, {c, fourth});
        auto s = solve(d, {});
        ASSERT_TRUE(s) << s.error().text();
        EXPECT_NEAR(s->element(fourth)->radius, 2 / std::sqrt(3) + (inner ? -1 : 1), 1e-8);
        EXPECT_NEAR((s->points.at(m) - Vec2(0, 1 / std::sqrt(3))).norm(), 0, 1e-8);
    }
}
TEST(Solver, AFourBarLinkageGoesWhereTheClosedFormSays) {
    // Freudenstein's equation for the rocker angle; ground 10, crank 3, coupler 9, rocker 6.
    double g = 10, a = 3, b = 9, c = 6;
    Drawing d;
    DrawingId p = d.add_point({3, 0.2}), q = d.add_point({8, 5}), o = d.add_point({10, 0});
    d.add(ConstraintKind::Fixed, {o});
    DrawingId crank = d.add(ElementKind::Line, {origin_id, p}), coupler = d.add(ElementKind::Line, {p, q}),
              rocker = d.add(ElementKind::Line, {o, q});
    d.add(ConstraintKind::Length, {crank}, "3 mm");
    d.add(ConstraintKind::Length, {coupler}, "9 mm");
    d.add(ConstraintKind::Length, {rocker}, "6 mm");
    d.add(ConstraintKind::Angle, {crank}, "t");
    for (double t = 10; t < 180; t += 17) {
        auto values = dimension_values(d, {{"t", {t, QuantityKind::Angle}}});
        ASSERT_TRUE(values);
        auto s = solve(d, *values);
        ASSERT_TRUE(s) << s.error().text();
        Vec2 pin(a * std::cos(radians(t)), a * std::sin(radians(t))), ground(g, 0), w = ground - pin;
        double e = w.norm(), x = (e * e + b * b - c * c) / (2 * e), h = std::sqrt(b * b - x * x);
        Vec2 upper = pin + x * w / e + h * Vec2(-w.y(), w.x()) / e;
        EXPECT_NEAR((s->points.at(q) - upper).norm(), 0, 1e-7) << t;
    }
}
TEST(Solver, FreedomIsCountedElementByElement) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 40, 20);
    DrawingId loose = d.add(ElementKind::Circle, {d.add_point({10, 10})}, 4);
    Freedom free = freedom(d, {});
    EXPECT_EQ(free.total, 4 + 3); // place and two sizes; a circle has three
    EXPECT_EQ(free.of.at(loose), 3);
    EXPECT_EQ(free.of.at(lines[0]), 3);
    d.add(ConstraintKind::Coincident, {d.element(lines[0])->points[0], origin_id});
    d.add(ConstraintKind::Length, {lines[0]}, "40 mm");
    auto values = *dimension_values(d, {});
    free = freedom(d, values);
    EXPECT_EQ(free.of.at(lines[0]), 0);
    EXPECT_EQ(free.of.at(lines[1]), 1);
    EXPECT_EQ(free.total, 1 + 3);
}
TEST(Solver, ARedundancyAndAContradictionNameTheConstraintsInThem) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 40, 20);
    d.add(ConstraintKind::Length, {lines[0]}, "40 mm");
    auto again = constrain(d, {0, ConstraintKind::Length, {lines[2]}, "40 mm", {}}, {});
    ASSERT_FALSE(again);
    EXPECT_NE(again.error().text().find("only says again"), std::string::npos) << again.error().text();
    EXPECT_NE(again.error().text().find("length 40 mm of line " + std::to_string(lines[0])), std::string::npos)
        << again.error().text();
    auto against = constrain(d, {0, ConstraintKind::Length, {lines[2]}, "41 mm", {}}, {});
    ASSERT_FALSE(against);
    EXPECT_NE(against.error().text().find("contradicts"), std::string::npos) << against.error().text();
    EXPECT_NE(against.error().text().find("length 40 mm"), std::string::npos) << against.error().text();
    // A triangle that cannot close.
    Drawing t;
    DrawingId a = t.add_point({0, 0}), b = t.add_point({10, 0}), c = t.add_point({4, 3});
    DrawingId ab = t.add(ElementKind::Line, {a, b}), bc = t.add(ElementKind::Line, {b, c}),
              ca = t.add(ElementKind::Line, {c, a});
    t.add(ConstraintKind::Length, {ab}, "10 mm");
    t.add(ConstraintKind::Length, {bc}, "4 mm");
    auto open = constrain(t, {0, ConstraintKind::Length, {ca}, "3 mm", {}}, {});
    ASSERT_FALSE(open);
    for (const char* size : {"10 mm", "4 mm", "3 mm"})
        EXPECT_NE(open.error().text().find(size), std::string::npos) << open.error().text();
}
TEST(Solver, ADragMovesWhatIsFreeAndKeepsTheRest) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 40, 20);
    d.add(ConstraintKind::Coincident, {d.element(lines[0])->points[0], origin_id});
    d.add(ConstraintKind::Length, {lines[0]}, "40 mm");
    DrawingId corner = d.element(lines[1])->points[1];
    Drag drag(d, *dimension_values(d, {}), corner, {40, 20});
    Drawing moved = drag.move({55, 31});
    EXPECT_NEAR(moved.points.at(corner).x(), 40, 1e-7); // the length holds
    EXPECT_NEAR(moved.points.at(corner).y(), 31, 1e-3); // the height is free
    EXPECT_NEAR(moved.points.at(d.element(lines[3])->points[0]).y(), moved.points.at(corner).y(), 1e-7);
}
TEST(Solver, EveryConstraintKindHoldsAfterSolving) {
    // Residuals by plain geometry, not by the solver's own equations.
    Drawing d;
    DrawingId a = d.add_point({0, 0}), b = d.add_point({10, 1}), c = d.add_point({12, 7}), e = d.add_point({1, 6}),
              m = d.add_point({4, 2});
    DrawingId ab = d.add(ElementKind::Line, {a, b}), bc = d.add(ElementKind::Line, {b, c}),
              ce = d.add(ElementKind::Line, {c, e});
    DrawingId o = d.add_point({20, 0}), p = d.add_point({24, 0}), q = d.add_point({20, 4.2});
    DrawingId arc = d.add(ElementKind::Arc, {o, p, q});
    DrawingId circle = d.add(ElementKind::Circle, {d.add_point({21, 1})}, 2);
    d.add(ConstraintKind::Midpoint, {m, ab});
    d.add(ConstraintKind::Perpendicular, {ab, bc});
    d.add(ConstraintKind::Parallel, {ab, ce});
    d.add(ConstraintKind::Equal, {ab, ce});
    d.add(ConstraintKind::Concentric, {arc, circle});
    d.add(ConstraintKind::ArcLength, {arc}, "7 mm");
    d.add(ConstraintKind::Diameter, {circle}, "5 mm");
    d.add(ConstraintKind::Distance, {o, ab}, "3 mm");
    d.add(ConstraintKind::Angle, {ab}, "12 deg");
    auto s = solve(d, *dimension_values(d, {}));
    ASSERT_TRUE(s) << s.error().text();
    auto at = [&](DrawingId id) { return s->points.at(id); };
    Vec2 u = at(b) - at(a), v = at(c) - at(b), w = at(e) - at(c);
    EXPECT_NEAR((at(m) - (at(a) + at(b)) / 2).norm(), 0, 1e-8);
    EXPECT_NEAR(u.dot(v), 0, 1e-7);
    EXPECT_NEAR(cross2(u, w), 0, 1e-6);
    EXPECT_NEAR(u.norm(), w.norm(), 1e-8);
    EXPECT_NEAR(degrees(std::atan2(u.y(), u.x())), 12, 1e-7);
    EXPECT_NEAR(std::fabs(cross2(u.normalized(), at(o) - at(a))), 3, 1e-8);
    EXPECT_NEAR(s->element(circle)->radius, 2.5, 1e-9);
    Curve round = Curve::arc_between(at(o), at(p), at(q), true);
    EXPECT_NEAR(round.length(), 7, 1e-7);
    EXPECT_NEAR((at(p) - at(o)).norm(), (at(q) - at(o)).norm(), 1e-8);
}
TEST(Solver, BadDimensionsAreRefusedInWords) {
    Drawing d;
    auto lines = rectangle(d, 0, 0, 40, 20);
    DrawingId id = d.add(ConstraintKind::Length, {lines[0]}, "40 mm");
    for (const char* value : {"0", "-3 mm", "1e9", "0/0", "wall", "", "nan"}) {
        for (Constraint& c : d.constraints)
            if (c.id == id) c.value = value;
        EXPECT_NE(refusal(d), "") << value;
    }
}

TEST(Letters, MirroredTheyStandWhereTheyStoodReadFromBehind) {
    auto points_of = [](const TextLayout& layout) {
        std::vector<Vec2> points;
        auto letters = text_letters(layout);
        EXPECT_TRUE(letters);
        for (const TextLetter& l : *letters)
            for (const auto& contour : l.contours)
                for (const Vec2& p : flatten(contour, 1e-3)) points.push_back(p);
        return points;
    };
    TextLayout straight{"Fig", "Manrope Bold", 8, 0.5, 20, {3, 4}, {}};
    TextLayout round = straight;
    round.circle = TextLayout::Circle{{5, 5}, 20, false};
    for (TextLayout layout : {straight, round}) {
        const auto plain = points_of(layout);
        layout.mirrored = true;
        const auto behind = points_of(layout);
        ASSERT_EQ(plain.size(), behind.size());
        // Point by point the picture in one line: the middle of the writing, or the circle's radius to it.
        const double turn = radians(layout.angle_deg);
        const Vec2 across(std::cos(turn), std::sin(turn)), up(-across.y(), across.x());
        const double axis = (plain[0] + behind[0]).dot(across) / 2;
        for (size_t i = 0; i < plain.size(); ++i) {
            EXPECT_NEAR((plain[i] + behind[i]).dot(across) / 2, axis, 1e-6);
            EXPECT_NEAR((plain[i] - behind[i]).dot(up), 0, 1e-6);
        }
        if (layout.circle) {
            EXPECT_NEAR(axis, layout.circle->centre.dot(across), 1e-6);
        }
    }
}

TEST(Letters, HaveTheHeightAskedForAndFollowACircle) {
    TextLayout layout{"HI", "Manrope Bold", 8, 0, 0, {0, 0}, {}};
    auto letters = text_letters(layout);
    ASSERT_TRUE(letters) << letters.error().text();
    ASSERT_EQ(letters->size(), 2u);
    Box2 box;
    for (const auto& contour : (*letters)[0].contours)
        for (const Curve& c : contour) box.extend(c.box());
    EXPECT_NEAR(box.sizes().y(), 8, 1e-6);
    // Round a circle of 20 mm every letter keeps its size, and its foot stands on the circle.
    layout.circle = TextLayout::Circle{{5, 5}, 20, false};
    layout.text = "IIII";
    layout.spacing_mm = 2;
    letters = text_letters(layout);
    ASSERT_TRUE(letters);
    for (const TextLetter& l : *letters) {
        double nearest = 1e9, farthest = 0;
        for (const Vec2& p : flatten(l.contours[0], 1e-3)) {
            nearest = std::min(nearest, (p - Vec2(5, 5)).norm());
            farthest = std::max(farthest, (p - Vec2(5, 5)).norm());
        }
        EXPECT_NEAR(nearest, 20, 0.05);
        EXPECT_NEAR(farthest, 28, 0.1);
    }
    // The four letters stand even about the top.
    Vec2 first = (*letters)[0].contours[0][0].first(), last = (*letters)[3].contours[0][0].first();
    EXPECT_LT(first.x(), last.x());
}
TEST(Letters, AFontThatLacksAScriptNamesTheLetter) {
    auto letters = text_letters({"Peg 木", "Manrope Bold", 8, 0, 0, {0, 0}, {}});
    ASSERT_FALSE(letters);
    EXPECT_NE(letters.error().text().find("木"), std::string::npos) << letters.error().text();
    EXPECT_FALSE(text_letters({"Peg", "No Such Font", 8, 0, 0, {0, 0}, {}}));
    EXPECT_FALSE(text_letters({"  ", "Manrope Bold", 8, 0, 0, {0, 0}, {}}));
    EXPECT_FALSE(text_letters({"Peg", "Manrope Bold", -8, 0, 0, {0, 0}, {}}));
    EXPECT_FALSE(text_letters({"\xff\xfe", "Manrope Bold", 8, 0, 0, {0, 0}, {}}));
}
TEST(Letters, AnInstalledFontCanBeUsed) {
    // fonts-dejavu-core is part of every Debian with a font; skipped where it is not.
    auto letters = text_letters({"Peg", "DejaVu Sans", 8, 0, 0, {0, 0}, {}});
    if (!letters) GTEST_SKIP() << letters.error().text();
    EXPECT_EQ(letters->size(), 3u);
}

TEST(Formulas, AParabolaHasItsArea) {
    Drawing d;
    DrawingId f = d.add(ElementKind::Formula, {origin_id});
    d.element(f)->texts = {{"axis", "x of y"}, {"expression", "a + b * h^2"}, {"from", "0"}, {"to", "30 mm"}};
    DrawingId foot = d.add_point({0, 30});
    DrawingId rim = d.add_point({4 + 0.01 * 900, 30}), base = d.add_point({4, 0});
    d.add(ElementKind::Line, {origin_id, base});
    d.add(ElementKind::Line, {origin_id, foot});
    d.add(ElementKind::Line, {foot, rim});
    OutlineShape s = made(d, {{"a", {4, QuantityKind::Length}}, {"b", {0.01, QuantityKind::Number}}});
    ASSERT_EQ(s.arrangement.regions.size(), 1u);
    EXPECT_NEAR(s.arrangement.regions[0].area_mm2, 4 * 30 + 0.01 * 27000 / 3, 1e-3); // integral of a + b h^2
}
TEST(Formulas, WhatCannotBeDrawnIsSaidWithThePlace) {
    Drawing d;
    DrawingId f = d.add(ElementKind::Formula, {origin_id});
    auto with = [&](const std::string& expression, const std::string& to) {
        d.element(f)->texts = {{"axis", "x of y"}, {"expression", expression}, {"from", "0"}, {"to", to}};
        return refusal(d);
    };
    EXPECT_NE(with("1 / (h - 15)", "30 mm"), "");
    EXPECT_NE(with("sqrt(10 - h)", "30 mm").find("At height"), std::string::npos);
    EXPECT_NE(with("floor(h / 10)", "30 mm").find("jumps"), std::string::npos);
    EXPECT_NE(with("6", "0"), "");
    EXPECT_NE(with("6 + lost", "10"), "");
}
TEST(Drawings, AreWrittenAndReadBackAlike) {
    Drawing d;
    auto lines = rectangle(d, 0.123456789, 0, 40, 20);
    d.add(ConstraintKind::Length, {lines[0]}, "wall * 2");
    d.add(ElementKind::Circle, {d.add_point({3, 3})}, 2.5);
    d.elements.back().construction = true;
    offset_of(d, lines, "-wall");
    auto back = drawing_from_text(drawing_text(d));
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(*back, d);
}
TEST(Drawings, HostileOnesAreRefused) {
    for (const char* text :
         {"[", "[]", R"({"points":3})", R"({"points":{"x":[0,0]}})", R"({"points":{"10":[0]}})",
          R"({"points":{"10":[0,1e9]}})", R"({"elements":[{"kind":"line","points":[10,11]}]})",
          R"({"elements":[{"kind":"blob"}]})", R"({"elements":[{"kind":"line","points":[[0,0]]}]})",
          R"({"elements":[{"kind":"circle","points":[[0,0]]}]})", R"({"elements":7})",
          R"({"points":{"10":[0,0]},"elements":[{"id":10,"kind":"point","points":[10]}]})",
          R"({"constraints":[{"kind":"fixed","of":[99]}]})", R"({"constraints":[{"kind":"radius","of":[0]}]})",
          R"({"elements":[{"id":1,"kind":"circle","points":[[0,0]],"radius":3}]})"})
        EXPECT_FALSE(drawing_from_text(text)) << text;
    // Of the wrong kind: refused when it is solved.
    auto d = drawing_from_text(
        R"({"elements":[{"id":10,"kind":"circle","points":[[0,0]],"radius":3}],"constraints":[{"kind":"horizontal","of":[10]}]})");
    ASSERT_TRUE(d);
    EXPECT_NE(refusal(*d).find("horizontal"), std::string::npos);
}

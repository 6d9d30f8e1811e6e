// Every solid with random sizes, as it is and grown for a fit, and what placing does to it, by closed formulas
// (volumes and areas of prisms, frustums, rings by Pappus, paraboloids by their integral; grown faces meet in mitres,
// so that a grown solid is the same kind of solid with other sizes).
#include "made_project.h"
#include <numbers>
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

struct Figures {
    double volume, area;
};

Figures frustum(double r1, double r2, double h) {
    return {pi * h / 3 * (r1 * r1 + r1 * r2 + r2 * r2),
            pi * (r1 * r1 + r2 * r2) + pi * (r1 + r2) * std::hypot(h, r1 - r2)};
}

/// Over a regular polygon, by its width across flats.
Figures polygon_frustum(int n, double low, double high, double h) {
    const double f = n * std::tan(pi / n) / 4; // area = f * across^2
    const double a = f * low * low, b = f * high * high, slant = std::hypot(h, (low - high) / 2);
    return {h / 3 * (a + b + std::sqrt(a * b)), a + b + n * std::tan(pi / n) * (low + high) / 2 * slant};
}

class Numbers {
  public:
    explicit Numbers(unsigned seed) : random_(seed) {}
    /// To a hundredth, as a person types it.
    double between(double low, double high) {
        return std::round(std::uniform_real_distribution<double>(low, high)(random_) * 100) / 100;
    }
    int count(int low, int high) { return std::uniform_int_distribution<int>(low, high)(random_); }

  private:
    std::mt19937 random_;
};

/// The solid of a kind with these fields as it is, against its formula.
void expect(const std::string& kind, const json& fields, const Figures& want, const std::string& at) {
    Made m = make(json::array({step(kind, fields)}));
    ASSERT_TRUE(m.part().all_ok()) << at << ": " << m.says();
    EXPECT_NEAR(m.volume(), want.volume, 1e-6 * want.volume) << at;
    EXPECT_NEAR(m.part().mass.area_mm2, want.area, 1e-6 * want.area) << at;
    EXPECT_EQ(m.body().pieces(), 1) << at;
    EXPECT_TRUE(m.body().is_exact()) << at;
    // What the triangles enclose is no further from it than their deviation over the whole surface.
    EXPECT_NEAR(mass_properties(m.body().mesh()).volume_mm3, want.volume, 0.012 * want.area) << at;
}

/// The volume that a tool with these fields, grown by a gap, takes out of a block all round it.
double taken(const std::string& kind, json fields, double gap, const std::string& at) {
    Made m = make_parts(
        {{"Tool", json::array({step(kind, fields)})},
         {"Host", json::array({step("block", {{"size_x", 200}, {"size_y", 200}, {"size_z", 200}, {"from", "centre"}}),
                               step("cut_with", {{"tool", "Tool"}, {"fit", format_number(gap) + " mm"}})})}});
    EXPECT_EQ(m.says(), "") << at;
    return 200.0 * 200 * 200 - m.volume(1);
}

} // namespace

TEST(SolidFormulas, BlocksCylindersAndPrisms) {
    Numbers number(1);
    for (int round = 0; round < 6; ++round) {
        const double a = number.between(2, 60), b = number.between(2, 60), c = number.between(2, 60);
        const double d = number.between(1, 50), h = number.between(1, 70), gap = number.between(0.05, 0.9);
        const int n = number.count(3, 9);
        const std::string at = std::to_string(round);
        expect("block", {{"size_x", a}, {"size_y", b}, {"size_z", c}}, {a * b * c, 2 * (a * b + b * c + c * a)}, at);
        expect("cylinder", {{"diameter", d}, {"height", h}}, frustum(d / 2, d / 2, h), at);
        expect("prism", {{"sides", n}, {"across", d}, {"height", h}}, polygon_frustum(n, d, d, h), at);
        const double over_flats = d * std::cos(pi / n);
        expect("prism", {{"sides", n}, {"across", d}, {"measured", "corners"}, {"height", h}},
               n % 2 ? polygon_frustum(n, d * std::cos(pi / n), d * std::cos(pi / n), h)
                     : polygon_frustum(n, over_flats, over_flats, h),
               at);
        const double block = (a + 2 * gap) * (b + 2 * gap) * (c + 2 * gap);
        EXPECT_NEAR(taken("block", {{"size_x", a}, {"size_y", b}, {"size_z", c}}, gap, at), block, 1e-3) << at;
        const double pin = frustum(d / 2 + gap, d / 2 + gap, h + 2 * gap).volume;
        EXPECT_NEAR(taken("cylinder", {{"diameter", d}, {"height", h}}, gap, at), pin, 1e-3) << at;
        const double nut = polygon_frustum(n, d + 2 * gap, d + 2 * gap, h + 2 * gap).volume;
        EXPECT_NEAR(taken("prism", {{"sides", n}, {"across", d}, {"height", h}}, gap, at), nut, 1e-3) << at;
    }
}

TEST(SolidFormulas, ConesAndPyramids) {
    Numbers number(2);
    for (int round = 0; round < 6; ++round) {
        const double low = number.between(8, 50), high = number.between(1, 7), h = number.between(4, 60);
        const double gap = number.between(0.05, 0.8);
        const int n = number.count(3, 8);
        const std::string at = std::to_string(round);
        expect("cone", {{"diameter", low}, {"height", h}}, frustum(low / 2, 0, h), at);
        expect("cone", {{"diameter", low}, {"top_diameter", high}, {"height", h}}, frustum(low / 2, high / 2, h), at);
        expect("cone", {{"diameter", high}, {"top_diameter", low}, {"height", h}}, frustum(low / 2, high / 2, h), at);
        expect("pyramid", {{"sides", n}, {"across", low}, {"height", h}}, polygon_frustum(n, low, 0, h), at);
        expect("pyramid", {{"sides", n}, {"across", low}, {"top_across", high}, {"height", h}},
               polygon_frustum(n, low, high, h), at);
        // Grown: the wall moves out square to itself, foot and top along the axis, and they run on to meet.
        const double lean = (low - high) / 2 / h, out = gap * std::hypot(1, lean);
        const double r1 = low / 2 + out + gap * lean, r2 = high / 2 + out - gap * lean;
        EXPECT_NEAR(taken("cone", {{"diameter", low}, {"top_diameter", high}, {"height", h}}, gap, at),
                    frustum(r1, r2, h + 2 * gap).volume, 1e-3)
            << at;
        EXPECT_NEAR(taken("pyramid", {{"sides", n}, {"across", low}, {"top_across", high}, {"height", h}}, gap, at),
                    polygon_frustum(n, 2 * r1, 2 * r2, h + 2 * gap).volume, 1e-3)
            << at;
    }
}

TEST(SolidFormulas, SpheresDomesAndRings) {
    Numbers number(3);
    for (int round = 0; round < 6; ++round) {
        const double d = number.between(6, 60), t = number.between(1, 2.9), h = number.between(1, d / 2 - 0.1);
        const double gap = number.between(0.05, 0.8), r = d / 2;
        const std::string at = std::to_string(round);
        expect("sphere", {{"diameter", d}}, {pi * d * d * d / 6, pi * d * d}, at);
        expect("half_sphere", {{"diameter", d}}, {pi * d * d * d / 12, 3 * pi * r * r}, at);
        // A paraboloid: half of its cylinder; its round by the integral of 2 pi x ds.
        expect("dome", {{"diameter", d}, {"height", h}},
               {pi * r * r * h / 2, pi * r / (6 * h * h) * (std::pow(r * r + 4 * h * h, 1.5) - r * r * r) + pi * r * r},
               at);
        // Pappus: the section's area and outline times the way of its middle.
        const double way = pi * (d - t);
        expect("ring", {{"diameter", d}, {"thickness", t}}, {way * pi * t * t / 4, way * pi * t}, at);
        expect("ring", {{"diameter", d}, {"thickness", t}, {"section", "square"}, {"height", h}},
               {way * t * h, way * 2 * (t + h)}, at);
        EXPECT_NEAR(taken("sphere", {{"diameter", d}}, gap, at), pi * std::pow(d + 2 * gap, 3) / 6, 1e-3) << at;
        EXPECT_NEAR(taken("ring", {{"diameter", d}, {"thickness", t}}, gap, at),
                    way * pi * std::pow(t + 2 * gap, 2) / 4, 1e-3)
            << at;
        EXPECT_NEAR(taken("ring", {{"diameter", d}, {"thickness", t}, {"section", "square"}, {"height", h}}, gap, at),
                    way * (t + 2 * gap) * (h + 2 * gap), 1e-3)
            << at;
    }
}

TEST(SolidFormulas, WedgesByTheirSections) {
    Numbers number(4);
    for (int round = 0; round < 6; ++round) {
        const double x = number.between(8, 40), y = number.between(3, 30), z = number.between(3, 30);
        const double top = number.between(1, x - 2);
        const std::string at = std::to_string(round);
        // A prism over a right trapezium.
        const double section = (x + top) / 2 * z, slope = std::hypot(z, x - top);
        expect("wedge", {{"size_x", x}, {"size_y", y}, {"size_z", z}, {"top_x", top}},
               {section * y, 2 * section + y * (x + top + z + slope)}, at);
        expect("wedge", {{"size_x", x}, {"size_y", y}, {"size_z", z}},
               {x * z / 2 * y, x * z + y * (x + z + std::hypot(x, z))}, at);
    }
}

TEST(SolidFormulas, WhereASolidStandsChangesNeitherVolumeNorArea) {
    Numbers number(5);
    const std::map<std::string, json> solids{{"cylinder", {{"diameter", 9}, {"height", 17}}},
                                             {"cone", {{"diameter", 14}, {"top_diameter", 4}, {"height", 9}}},
                                             {"wedge", {{"size_x", 12}, {"size_y", 7}, {"size_z", 5}, {"top_x", 3}}},
                                             {"prism", {{"sides", 5}, {"across", 9}, {"height", 6}}},
                                             {"dome", {{"diameter", 20}, {"height", 6}}}};
    for (const auto& [kind, fields] : solids) {
        Made plain = make(json::array({step(kind, fields)}));
        for (const char* way : {"z", "x", "y", "-z", "-x", "-y"}) {
            json there = fields;
            const Vec3 to(number.between(-80, 80), number.between(-80, 80), number.between(-80, 80));
            there.update({{"along", way}, {"at_x", to.x()}, {"at_y", to.y()}, {"at_z", to.z()}});
            Made m = make(json::array({step(kind, there)}));
            ASSERT_TRUE(m.part().all_ok()) << kind << " " << way << m.says();
            EXPECT_NEAR(m.volume(), plain.volume(), 1e-6) << kind << " " << way;
            EXPECT_NEAR(m.part().mass.area_mm2, plain.part().mass.area_mm2, 1e-6) << kind << " " << way;
            // Its middle keeps its distance from the foot, along the axis it points to.
            const double up = way[0] == '-' ? -1 : 1;
            const int axis = way[strlen(way) - 1] - 'x';
            EXPECT_NEAR(m.part().mass.centre[axis] - to[axis], up * plain.part().mass.centre.z(), 1e-6) << kind << way;
        }
    }
}

TEST(SolidFormulas, MovesTurnsMirrorsAndScales) {
    Numbers number(6);
    for (int round = 0; round < 8; ++round) {
        const double a = number.between(4, 30), b = number.between(4, 30), c = number.between(4, 30);
        const json solid = step("block", {{"size_x", a}, {"size_y", b}, {"size_z", c}, {"from", "corner"}});
        const Vec3 by(number.between(-40, 40), number.between(-40, 40), number.between(-40, 40));
        const double angle = number.between(-180, 180), k = number.between(0.3, 3);
        const Vec3 middle(a / 2, b / 2, c / 2);
        auto centre = [&](const json& more) {
            Made m = make(json::array({solid, more}));
            EXPECT_TRUE(m.part().all_ok()) << m.says();
            return std::pair(m.part().mass.centre, m.volume());
        };
        auto [moved, v1] = centre(step("move", {{"by_x", by.x()}, {"by_y", by.y()}, {"by_z", by.z()}}));
        EXPECT_LT((moved - middle - by).norm(), 1e-6) << round;
        EXPECT_NEAR(v1, a * b * c, 1e-6);
        auto [turned, v2] = centre(step(
            "turn",
            {{"angle", format_number(angle) + " deg"}, {"axis", "y"}, {"through_x", by.x()}, {"through_z", by.z()}}));
        const Vec3 through(by.x(), 0, by.z());
        const Vec3 want = through + Eigen::AngleAxisd(radians(angle), Vec3::UnitY()) * (middle - through);
        EXPECT_LT((turned - want).norm(), 1e-6) << round << ": counter-clockwise seen against the axis";
        EXPECT_NEAR(v2, a * b * c, 1e-6);
        auto [mirrored, v3] = centre(step("mirror", {{"in", "yz"}, {"distance", by.x()}, {"does", "instead"}}));
        EXPECT_LT((mirrored - Vec3(2 * by.x() - a / 2, b / 2, c / 2)).norm(), 1e-6) << round;
        EXPECT_NEAR(v3, a * b * c, 1e-6);
        auto [scaled, v4] =
            centre(step("scale", {{"by", k}, {"about_x", by.x()}, {"about_y", by.y()}, {"about_z", by.z()}}));
        EXPECT_LT((scaled - by - k * (middle - by)).norm(), 1e-6) << round;
        EXPECT_NEAR(v4, k * k * k * a * b * c, 1e-6 * v4) << round;
    }
}

TEST(SolidFormulas, RepeatsCountTheirCopies) {
    Numbers number(7);
    for (int round = 0; round < 4; ++round) {
        const int count = number.count(2, 7), rows = number.count(1, 4);
        const double d = number.between(2, 6), h = number.between(3, 9);
        const double one = pi * d * d / 4 * h;
        const json pin = step("cylinder", {{"diameter", d}, {"height", h}, {"at_x", 40}}, "pin");
        Made row = make(json::array(
            {pin, step("repeat", {{"count", count}, {"by_x", 8}, {"rows", rows}, {"row_y", 8}, {"does", "new"}})}));
        ASSERT_TRUE(row.part().all_ok()) << row.says();
        EXPECT_EQ(row.part().bodies.size(), size_t(count * rows));
        EXPECT_NEAR(row.volume(), one * count * rows, 1e-6 * row.volume());
        // Standing apart all round, their common middle is the axis.
        Made round_axis = make(json::array({pin, step("repeat_round", {{"count", count}, {"does", "new"}})}));
        ASSERT_TRUE(round_axis.part().all_ok()) << round_axis.says();
        EXPECT_NEAR(round_axis.volume(), one * count, 1e-6 * round_axis.volume());
        EXPECT_LT(round_axis.part().mass.centre.head<2>().norm(), 1e-6);
        // Left out by number.
        Made dropped =
            make(json::array({pin, step("repeat", {{"count", 7}, {"by_x", 8}, {"drop", "2, 5"}, {"does", "new"}})}));
        EXPECT_EQ(dropped.part().bodies.size(), 5u) << dropped.says();
        // Copies that run into one another are one body, by inclusion and exclusion of boxes.
        Made joined = make(json::array({step("block", {{"size_x", 10}, {"size_y", 6}, {"size_z", h}}),
                                        step("repeat", {{"count", count}, {"by_x", 7}})}));
        ASSERT_TRUE(joined.part().all_ok()) << joined.says();
        EXPECT_NEAR(joined.volume(), (10 + 7 * (count - 1)) * 6 * h, 1e-6 * joined.volume());
    }
}

TEST(SolidFormulas, EdgesOfABlock) {
    Numbers number(8);
    for (int round = 0; round < 5; ++round) {
        const double a = number.between(20, 50), b = number.between(20, 50), c = number.between(12, 40);
        const double r = number.between(0.5, 4), other = number.between(0.5, 4);
        auto rest = [&](const json& more) {
            Made m = make(json::array({block(a, b, c), more}));
            EXPECT_TRUE(m.part().all_ok()) << m.says();
            return a * b * c - m.volume();
        };
        EXPECT_NEAR(rest(step("fillet", {{"edges", "upright"}, {"radius", r}})), (4 - pi) * r * r * c, 1e-5) << round;
        EXPECT_NEAR(rest(step("chamfer", {{"edges", "upright"}, {"distance", r}})), 2 * r * r * c, 1e-5) << round;
        // Unequal legs on the four edges of the top: frustum-like corners; by Steiner's thinking, four prisms less the
        // corners counted twice: at each the common part of two wedges, r^2 * other / 3.
        const double chamfered = rest(step("chamfer", {{"edges", "of top of b"}, {"distance", r}, {"other", other}}));
        EXPECT_NEAR(chamfered, (2 * a + 2 * b) * r * other / 2 - 4 * r * r * other / 3, 1e-5) << round;
        // All twelve edges: the rounded box of Steiner's formula.
        const double x = a - 2 * r, y = b - 2 * r, z = c - 2 * r;
        const double rounded =
            x * y * z + 2 * (x * y + y * z + z * x) * r + pi * (x + y + z) * r * r + 4 * pi / 3 * r * r * r;
        EXPECT_NEAR(rest(step("fillet", {{"edges", "all"}, {"radius", r}})), a * b * c - rounded, 1e-4) << round;
    }
}

TEST(SolidFormulas, CutsThatMissEmptyAndTouch) {
    const json host = block(20, 20, 20);
    Made missed =
        make(json::array({host, step("cylinder", {{"diameter", 4}, {"height", 5}, {"at_x", 60}, {"does", "cut"}})}));
    EXPECT_NEAR(missed.volume(), 8000, 1e-6);
    EXPECT_FALSE(missed.step(1).says.empty()) << "that it misses is said";
    Made gone = make(json::array(
        {host, step("block", {{"size_x", 30}, {"size_y", 30}, {"size_z", 60}, {"at_z", -10}, {"does", "cut"}})}));
    EXPECT_FALSE(gone.step(1).ok);
    EXPECT_EQ(gone.step(1).problem->code, ProblemCode::NothingLeft);
    EXPECT_NEAR(gone.volume(), 8000, 1e-6) << "as it was before that step";
    Made touched = make(json::array(
        {host, step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 5}, {"at_z", 20}, {"does", "cut"}})}));
    EXPECT_NEAR(touched.volume(), 8000, 1e-6);
    Made on_top =
        make(json::array({host, step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 5}, {"at_z", 20}})}));
    EXPECT_NEAR(on_top.volume(), 10000, 1e-6);
    EXPECT_EQ(on_top.body().tessellation().faces.size(), 6u) << "flush faces are one";
}

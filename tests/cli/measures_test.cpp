// Figures of the command line against closed formulas: areas and volumes of solids, Steiner's formula for growing,
// inclusion and exclusion, print times that follow what is printed.
#include "cli_run.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

class Measures : public Cli {
  protected:
    json answer(const std::string& line) {
        Ran ran = run(line + " --json");
        EXPECT_EQ(ran.status, 0) << line << ": " << ran.err;
        return ran.parsed();
    }
    json inspected(const TriMesh& mesh, const std::string& options = "") {
        put("m.stl", mesh);
        return answer("inspect m.stl " + options);
    }
    double mesh_volume(const std::string& file) {
        auto mesh = read_stl(*read_file(folder / file));
        EXPECT_TRUE(mesh) << file;
        return mesh ? mass_properties(*mesh).volume_mm3 : 0;
    }
};

/// A prism over a regular polygon of n corners on a circle, from z = 0: its area and volume by formula.
TriMesh prism(int n, double radius, double height) {
    TriMesh mesh;
    for (double z : {0.0, height})
        for (int k = 0; k < n; ++k)
            mesh.vertices.push_back({radius * std::cos(2 * pi * k / n), radius * std::sin(2 * pi * k / n), z});
    auto low = [&](int k) { return uint32_t(k % n); };
    auto high = [&](int k) { return uint32_t(n + k % n); };
    for (int k = 0; k < n; ++k) {
        mesh.triangles.push_back({low(k), low(k + 1), high(k + 1)});
        mesh.triangles.push_back({low(k), high(k + 1), high(k)});
    }
    for (int k = 1; k + 1 < n; ++k) {
        mesh.triangles.push_back({low(0), low(k + 1), low(k)});
        mesh.triangles.push_back({high(0), high(k), high(k + 1)});
    }
    return mesh;
}

/// A pyramid over a square, tip up.
TriMesh pyramid(double side, double height) {
    TriMesh mesh;
    const double h = side / 2;
    mesh.vertices = {{-h, -h, 0}, {h, -h, 0}, {h, h, 0}, {-h, h, 0}, {0, 0, height}};
    mesh.triangles = {{0, 2, 1}, {0, 3, 2}, {0, 1, 4}, {1, 2, 4}, {2, 3, 4}, {3, 0, 4}};
    return mesh;
}

} // namespace

TEST_F(Measures, PrismsAndPyramidsByFormula) {
    for (int n : {3, 4, 6, 17}) {
        const double r = 11, h = 23, base = n * r * r * std::sin(2 * pi / n) / 2, side = 2 * r * std::sin(pi / n);
        json j = inspected(prism(n, r, h));
        EXPECT_NEAR(j["volume_mm3"], base * h, 1e-3 * base) << n;
        EXPECT_NEAR(j["area_mm2"], 2 * base + n * side * h, 1e-3 * base) << n;
        EXPECT_NEAR(j["bed_contact_area_mm2"], base, 1e-3 * base) << n;
        EXPECT_NEAR(j["centre_of_mass"][2], h / 2, 1e-4) << n;
        EXPECT_EQ(j["overhang_area_mm2"], 0) << n;
        EXPECT_EQ(j["tips_over"], false) << n;
    }
    const double a = 30, h = 40;
    json j = inspected(pyramid(a, h));
    EXPECT_NEAR(j["volume_mm3"], a * a * h / 3, 1e-2);
    EXPECT_NEAR(j["area_mm2"], a * a + 2 * a * std::hypot(h, a / 2), 1e-2);
    EXPECT_NEAR(j["centre_of_mass"][2], h / 4, 1e-4) << "a quarter of the height";
}

TEST_F(Measures, WhatHangsIsCountedByAngleOnEitherSideOfTheLimit) {
    // Upside down every wall of the pyramid hangs by atan((a/2) / h) from vertical.
    for (double h : {10.0, 20.0, 40.0}) {
        const double a = 30, hang = degrees(std::atan2(a / 2, h)), walls = 2 * a * std::hypot(h, a / 2);
        put("m.stl", turned(pyramid(a, h), 180, Vec3::UnitX()));
        json below = answer("inspect m.stl --overhang-limit " + std::to_string(hang - 0.5)),
             above = answer("inspect m.stl --overhang-limit " + std::to_string(hang + 0.5));
        EXPECT_NEAR(below["overhang_area_mm2"], walls, 1e-3 * walls) << h;
        EXPECT_NEAR(above["overhang_area_mm2"].get<double>(), 0, 1e-9) << h;
        // Standing on its tip it falls over; the other way up it does not. The direction is an option.
        EXPECT_EQ(below["tips_over"], true) << h;
        EXPECT_EQ(answer("inspect m.stl --up 0,0,-1")["tips_over"], false) << h;
        EXPECT_NEAR(answer("inspect m.stl --up 0,0,-1")["bed_contact_area_mm2"], a * a, 1e-3) << h;
    }
}

TEST_F(Measures, ItTipsOverWhereTheMiddleLeavesTheFoot) {
    // An L of two boxes: the foot from 0 to 10, the arm reaches out to x. Its middle leaves the foot where
    // 10 * 10 * 5 * 5 + (x - 10) * 10 * 5 * (x + 10) / 2 = 10 * volume / ... : solved for the arm, x = 10 + sqrt(200).
    const double edge =
        10 * (1 + std::sqrt(2.0)); // both boxes as high and wide as one another: middles at 5 and (10+x)/2
    for (double reach : {edge - 0.5, edge + 0.5}) {
        TriMesh l = box_mesh({0, 0, 0}, {10, 10, 5});
        append(l, box_mesh({0, 0, 5}, {reach, 10, 10}));
        put("l.stl", l);
        const double v1 = 10 * 10 * 5, v2 = reach * 10 * 5, middle = (v1 * 5 + v2 * reach / 2) / (v1 + v2);
        EXPECT_EQ(answer("inspect l.stl")["tips_over"].get<bool>(), middle > 10) << reach << " " << middle;
    }
}

TEST_F(Measures, GrowingABoxIsSteinersFormula) {
    // Area and volume of a body grown by a ball: V + A d + pi (a+b+c) d^2 + 4/3 pi d^3 for a box (Steiner 1840).
    const double a = 20, b = 14, c = 9;
    put("box.stl", box_mesh({0, 0, 0}, {a, b, c}));
    for (double d : {0.2, 0.5, 1.5}) {
        json j = answer("grow box.stl g.stl --by " + std::to_string(d));
        const double want =
            a * b * c + 2 * (a * b + b * c + c * a) * d + pi * (a + b + c) * d * d + 4 * pi / 3 * d * d * d;
        EXPECT_NEAR(j["volume_mm3"], want, 0.02 * 2 * (a * b + b * c + c * a)) << d << ": within its deviation";
        EXPECT_LE(j["largest_deviation_mm"].get<double>(), 0.02) << d;
        EXPECT_NEAR(j["bbox_max"][0], a + d, 0.02) << d;
        EXPECT_EQ(j["closed"], true);
        EXPECT_EQ(j["self_intersecting_faces"], 0);
    }
    for (double d : {0.3, 2.0}) {
        json j = answer("grow box.stl s.stl --by -" + std::to_string(d));
        EXPECT_NEAR(j["volume_mm3"], (a - 2 * d) * (b - 2 * d) * (c - 2 * d), 0.02 * 2 * (a * b + b * c + c * a)) << d;
    }
    EXPECT_EQ(run("grow box.stl none.stl --by -4.6").status, 1) << "nothing would be left";
    EXPECT_FALSE(there("none.stl"));
}

TEST_F(Measures, RandomBoxesByInclusionAndExclusion) {
    std::mt19937 random(5); // fixed
    std::uniform_real_distribution<double> at(0, 12), size(4, 15);
    for (int round = 0; round < 6; ++round) {
        Box3 boxes[2];
        for (int i = 0; i < 2; ++i) {
            Vec3 low(at(random), at(random), at(random)), far(size(random), size(random), size(random));
            boxes[i] = Box3(low.cast<float>().cast<double>(), (low + far).cast<float>().cast<double>());
            put(i ? "b.stl" : "a.stl", box_mesh(boxes[i].min(), boxes[i].max()));
        }
        const double va = boxes[0].volume(), vb = boxes[1].volume();
        Box3 both = boxes[0].intersection(boxes[1]);
        const double common = both.isEmpty() ? 0 : both.volume();
        EXPECT_EQ(run("combine join j.stl a.stl b.stl").status, 0);
        EXPECT_NEAR(mesh_volume("j.stl"), va + vb - common, 1e-2) << round;
        if (common > 0) {
            EXPECT_EQ(run("combine common c.stl a.stl b.stl").status, 0);
            EXPECT_NEAR(mesh_volume("c.stl"), common, 1e-2) << round;
        } else {
            EXPECT_EQ(run("combine common c.stl a.stl b.stl").status, 1) << round;
        }
        if (va - common > 1e-3) {
            EXPECT_EQ(run("combine cut k.stl a.stl b.stl").status, 0);
            EXPECT_NEAR(mesh_volume("k.stl"), va - common, 1e-2) << round;
        }
        for (const char* file : {"j.stl", "c.stl", "k.stl"}) std::filesystem::remove(folder / file);
        // Smallest gaps of the same pairs: zero where they overlap, the distance of two boxes otherwise.
        Vec3 apart = (boxes[1].min() - boxes[0].max()).cwiseMax(boxes[0].min() - boxes[1].max()).cwiseMax(0.0);
        json pair = answer("gaps a.stl b.stl --below 100")["pairs"][0];
        EXPECT_NEAR(pair["min_mm"], apart.norm(), 1e-4) << round;
        EXPECT_NEAR(pair["overlap_mm3"], common, 1e-2) << round;
    }
}

TEST_F(Measures, SplitPiecesAddUpWhateverThePlane) {
    put("m.stl", prism(17, 12, 30));
    const double whole = mesh_volume("m.stl");
    for (const char* plane : {"0,0,1,15", "1,0,0,0", "1,2,3,14", "-1,1,0,2", "0.1,0,1,7"}) {
        ASSERT_EQ(run(std::string("split m.stl a.stl b.stl --plane ") + plane).status, 0) << plane;
        const double a = mesh_volume("a.stl"), b = mesh_volume("b.stl");
        EXPECT_NEAR(a + b, whole, 1e-3 * whole) << plane;
        EXPECT_GT(std::min(a, b), 1) << plane;
        for (const char* half : {"a.stl", "b.stl"}) {
            json j = answer(std::string("inspect ") + half);
            EXPECT_EQ(j["closed"], true) << plane;
            EXPECT_EQ(j["self_intersecting_faces"], 0) << plane;
        }
    }
}

TEST_F(Measures, LayersFollowHeightsAndWhatIsPrinted) {
    put("m.stl", box_mesh({0, 0, 0}, {30, 20, 10}));
    json fine = answer("layers m.stl --layer-height 0.1 --first-layer 0.2"),
         coarse = answer("layers m.stl --layer-height 0.3");
    EXPECT_EQ(fine["layers"], 1 + 98);
    EXPECT_EQ(coarse["layers"], 1 + 33) << "0.2, then 9.8 by 0.3 rounded up";
    EXPECT_NEAR(fine["height_mm"], 10, 0.1);
    EXPECT_GT(fine["time_s"].get<double>(), coarse["time_s"].get<double>());
    EXPECT_NEAR(fine["first_layer_area_mm2"], 600, 0.5);
    // More infill, more walls: more filament, and never more than the solid.
    double before = 0;
    for (int infill : {0, 15, 40, 100}) {
        json j = answer("layers m.stl --infill " + std::to_string(infill));
        EXPECT_GT(j["mass_g"].get<double>(), before) << infill;
        before = j["mass_g"];
    }
    EXPECT_NEAR(before, 6 * 1.24, 0.01) << "full: volume by the density of the material";
    EXPECT_GT(answer("layers m.stl --walls 5")["mass_g"].get<double>(),
              answer("layers m.stl --walls 2")["mass_g"].get<double>());
    // Filament length by its cross-section: 1.75 mm across.
    json full = answer("layers m.stl --infill 100");
    EXPECT_NEAR(full["filament_mm"].get<double>() * pi * 1.75 * 1.75 / 4, 6000, 10);
    // Twice the part on the bed: twice the mass, area and about the time.
    TriMesh two = box_mesh({0, 0, 0}, {30, 20, 10});
    append(two, box_mesh({40, 0, 0}, {70, 20, 10}));
    put("two.stl", two);
    json pair = answer("layers two.stl --infill 100");
    EXPECT_NEAR(pair["mass_g"], 2 * before, 1e-3);
    EXPECT_NEAR(pair["first_layer_area_mm2"], 1200, 1);
    EXPECT_NEAR(pair["time_s"].get<double>() / full["time_s"].get<double>(), 2, 0.15);
}

TEST_F(Measures, PostsCarryATableAndTellWhatHangsStill) {
    TriMesh table = box_mesh({-30, -20, 12}, {30, 20, 14});
    auto whole = [&](const TriMesh& leg) {
        put("top.stl", table);
        put("leg.stl", leg);
        EXPECT_EQ(run("combine join table.stl top.stl leg.stl").status, 0);
    };
    whole(box_mesh({-3, -3, 0}, {3, 3, 12}));
    json j = answer("supports table.stl posts.stl");
    const size_t posts = j["supports"];
    EXPECT_GT(posts, 80u) << "60 x 40 by a grid of 4";
    EXPECT_LT(posts, 250u);
    EXPECT_EQ(j["touching"], posts);
    EXPECT_EQ(j["standing_on_part"], 0);
    EXPECT_LT(j["unsupported_area_mm2"].get<double>(), 0.05 * (60 * 40 - 36));
    EXPECT_NEAR(j["volume_mm3"], mesh_volume("posts.stl"), 1e-3 * mesh_volume("posts.stl"));
    // They keep their distance to the part, by a measure of its own.
    json gaps = answer("gaps table.stl posts.stl --below 1")["pairs"];
    double least = 9;
    for (const json& pair : gaps)
        if (pair["a"].get<std::string>().substr(0, 5) != pair["b"].get<std::string>().substr(0, 5))
            least = std::min(least, pair["min_mm"].get<double>());
    EXPECT_NEAR(least, 0.2, 0.02);
    // A wider gap is kept too; a limit beyond flat carries nothing.
    json wide = answer("supports table.stl posts.stl --contact-gap 0.35");
    EXPECT_EQ(wide["touching"], wide["supports"]);
    EXPECT_EQ(run("supports table.stl none.stl --overhang-limit 90").status, 1);
    EXPECT_FALSE(there("none.stl"));
    // Over a foot as wide as the table posts stand on the part.
    whole(box_mesh({-29, -19, 0}, {29, 19, 3}));
    TriMesh column = box_mesh({-3, -3, 3}, {3, 3, 12});
    put("table2.stl", table);
    put("foot.stl", box_mesh({-29, -19, 0}, {29, 19, 3}));
    put("column.stl", column);
    EXPECT_EQ(run("combine join high.stl table2.stl foot.stl column.stl").status, 0);
    json on_part = answer("supports high.stl posts.stl");
    EXPECT_GT(on_part["standing_on_part"].get<size_t>(), on_part["supports"].get<size_t>() / 2);
}

TEST_F(Measures, TreesCarryATableOnFewerFeetAndLessPlastic) {
    put("top.stl", box_mesh({-30, -20, 22}, {30, 20, 24}));
    put("leg.stl", box_mesh({-3, -3, 0}, {3, 3, 22}));
    ASSERT_EQ(run("combine join table.stl top.stl leg.stl").status, 0);
    const json posts = answer("supports table.stl posts.stl --kind post"),
               trees = answer("supports table.stl trees.stl --kind tree");
    EXPECT_LT(trees["supports"].get<size_t>(), posts["supports"].get<size_t>() / 3);
    EXPECT_EQ(trees["touching"], trees["supports"]);
    EXPECT_EQ(trees["standing_on_part"], 0);
    EXPECT_LT(trees["volume_mm3"].get<double>(), 0.5 * posts["volume_mm3"].get<double>());
    EXPECT_NEAR(trees["volume_mm3"], mesh_volume("trees.stl"), 1e-3 * mesh_volume("trees.stl"));
    EXPECT_LT(trees["unsupported_area_mm2"].get<double>(), 0.02 * (60 * 40 - 36));
    json sound = answer("inspect trees.stl");
    EXPECT_EQ(sound["closed"], true);
    EXPECT_EQ(sound["self_intersecting_faces"], 0);
    EXPECT_EQ(sound["shells"], trees["supports"]);
    // They keep their distance to the part, by a measure of its own.
    double least = 9;
    const json gaps = answer("gaps table.stl trees.stl --below 1")["pairs"];
    for (const json& pair : gaps)
        if (pair["a"].get<std::string>().substr(0, 5) != pair["b"].get<std::string>().substr(0, 5))
            least = std::min(least, pair["min_mm"].get<double>());
    EXPECT_NEAR(least, 0.2, 0.03);
    EXPECT_EQ(run("supports table.stl o.stl --kind bush").status, 2);
}

TEST_F(Measures, ConvertingKeepsSizesInEveryFormat) {
    put("m.stl", prism(6, 8, 25));
    const double volume = mesh_volume("m.stl");
    for (const char* to : {"m.obj", "m.3mf", "m2.stl"}) {
        ASSERT_EQ(run(std::string("convert m.stl ") + to).status, 0) << to;
        ASSERT_EQ(run(std::string("convert ") + to + " back.stl").status, 0) << to;
        EXPECT_NEAR(mesh_volume("back.stl"), volume, 1e-3) << to;
        json j = answer(std::string("inspect ") + to);
        EXPECT_EQ(j["closed"], true) << to;
        EXPECT_NEAR(j["bbox_max"][2], 25, 1e-5) << to;
    }
}

TEST_F(Measures, AProjectFollowsItsNumbers) {
    put("p.json",
        std::string(R"({"format":"loose-peg","version":1,"name":"P","parameters":{"d":"8 mm","gap":"0.3 mm"},"parts":[
      {"name":"Pin","steps":[{"kind":"cylinder","fields":{"diameter":"d","height":40,"at_z":-10}}]},
      {"name":"Ring","steps":[{"kind":"cylinder","fields":{"diameter":"d * 2","height":10}},
                              {"kind":"cut_with","fields":{"tool":"Pin","fit":"gap"}}]}]})"));
    for (double d : {5.0, 8.0, 13.7})
        for (double gap : {0.1, 0.45}) {
            json j = answer("make p.json --set d=" + std::to_string(d) + " --set gap=" + std::to_string(gap));
            const double hole = d / 2 + gap;
            EXPECT_NEAR(j["parts"][0]["volume_mm3"], pi * d * d / 4 * 40, 1e-6);
            EXPECT_NEAR(j["parts"][1]["volume_mm3"], (pi * d * d - pi * hole * hole) * 10, 1e-6) << d << " " << gap;
            ASSERT_EQ(j["fits"].size(), 1u);
            EXPECT_NEAR(j["fits"][0]["wanted_mm"], gap, 1e-9);
            EXPECT_NEAR(j["fits"][0]["min_mm"], gap, 0.012) << "measured on triangles of 0.01 mm";
            EXPECT_EQ(j["fits"][0]["state"], "right") << d << " " << gap;
        }
    EXPECT_EQ(run("make p.json --set d=0").status, 1) << "no such cylinder";
}

// How far a part is off what it was made of, against distances that are known: a lid laid on a cube, a print that grew.
#include "formats/stl.h"
#include "made_project.h"
#include "project/deviation_map.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

json from_file(const char* file) {
    return step("bring_in", {{"file", file}});
}
/// A cube of 20 from a file and what is done with it.
Made cube_and(const json& steps) {
    json all = json::array({from_file("cube.stl")});
    for (const json& s : steps) all.push_back(s);
    return make(all, json::object(), {{"cube.stl", write_stl_binary(cube(20))}});
}
std::optional<Original> original(const Made& made, size_t part = 0) {
    return original_of(made.evaluation, made.part(part).part);
}
/// The value at the corner nearest to a place.
double value_at(const SurfaceMap& map, const Vec3& at) {
    double nearest = 1e9, value = -1;
    for (size_t t = 0; t < map.shape->mesh.triangles.size(); ++t)
        for (size_t k = 0; k < 3; ++k) {
            const double off = (map.shape->mesh.corner(t, int(k)) - at).norm();
            if (off < nearest) nearest = off, value = (*map.values)[3 * t + k];
        }
    EXPECT_LT(nearest, 1.5);
    return value;
}

} // namespace

TEST(Deviation, IsTheDistanceToWhatCameFromTheFile) {
    const Made made = cube_and(
        {step("move", {{"by_x", 7}}),
         step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 3}, {"at_x", 17}, {"at_y", 10}, {"at_z", 20}})});
    ASSERT_EQ(made.says(), "");
    const auto from = original(made);
    ASSERT_TRUE(from);
    EXPECT_EQ(from->words, "what came from the file");
    const auto maps = deviation_maps(made.part(), *from);
    ASSERT_EQ(maps.size(), 1u);
    EXPECT_EQ(maps[0].values->size(), 3 * maps[0].shape->mesh.triangles.size());
    // The lid's top lies 3 above the cube's wherever it is looked at, the cube's own faces lie where they were.
    const Vec3 low = made.part().box.min(), high = made.part().box.max(), middle = (low + high) / 2;
    EXPECT_NEAR(high.z() - low.z(), 23, 1e-9);
    EXPECT_NEAR(value_at(maps[0], {middle.x(), middle.y(), high.z()}), 3, 1e-5);
    EXPECT_NEAR(value_at(maps[0], {middle.x(), low.y(), low.z() + 10}), 0, 1e-5);
    EXPECT_NEAR(value_at(maps[0], {middle.x(), middle.y(), low.z()}), 0, 1e-5);
    EXPECT_NEAR(largest_value(maps[0]), 3, 1e-5);
    EXPECT_NEAR(maps[0].high, 5, 1e-9) << "the scale ends at a round number";
    EXPECT_GT(maps[0].shape->mesh.triangles.size(), 500u) << "facets are fine enough to show what lies between corners";
}

TEST(Deviation, ARebuiltSkinStaysWithinItsDistance) {
    const Made made = cube_and(json::array({step("rebuild", {{"within", 0.5}})}));
    ASSERT_EQ(made.says(), "");
    const auto from = original(made);
    ASSERT_TRUE(from);
    const auto maps = deviation_maps(made.part(), *from);
    ASSERT_EQ(maps.size(), 1u);
    EXPECT_GT(largest_value(maps[0]), 0.001);
    EXPECT_LE(largest_value(maps[0]), 0.5 + 1e-6);
}

TEST(Deviation, NothingToMeasureAgainst) {
    EXPECT_FALSE(original(make(json::array({block(10, 10, 10)})))) << "it comes from no file";
    EXPECT_FALSE(original(cube_and(json::array()))) << "nothing was done with it";
    EXPECT_FALSE(original(cube_and(json::array({step("move", {{"by_x", 7}})})))) << "it only stands elsewhere";
    const Made gone = cube_and(json::array({step("block", {{"size_x", 5}})}));
    EXPECT_FALSE(original_of(gone.evaluation, PartId{9999}));
    EXPECT_TRUE(deviation_maps(gone.part(), Original{"nothing", {}, 1}).empty());
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_TRUE(deviation_maps(gone.part(), *original(gone), stopped).empty());
}

TEST(Deviation, APracticePrintAgainstTheDesign) {
    // Grown by 0.1 all round, and put down 30 beside it.
    TriMesh grown = transformed(cube(20.2), Transform(Eigen::Translation3d(cube(20).vertices[0] - Vec3::Constant(0.1) -
                                                                           cube(20.2).vertices[0])));
    json design{{"name", "Hook"}, {"steps", json::array({from_file("cube.stl"), block(1, 1, 1)})}};
    json print{{"name", practice_name("Hook")},
               {"stand_in", true},
               {"place", {{"at", {"30 mm", "0 mm", "0 mm"}}}},
               {"steps", json::array({from_file("print.stl")})}};
    auto project = project_from_text(json{{"format", "loose-peg"}, {"version", 1}, {"parts", {design, print}}}.dump());
    ASSERT_TRUE(project);
    auto own = std::make_shared<Project>(*project);
    own->imports["cube.stl"] = std::make_shared<const std::string>(write_stl_binary(cube(20)));
    own->imports["print.stl"] = std::make_shared<const std::string>(write_stl_binary(grown));
    Made made{own, *Evaluator().evaluate(own)};
    const auto from = original(made, 1);
    ASSERT_TRUE(from);
    EXPECT_EQ(from->words, "Hook as designed");
    // The design put elsewhere in the assembly is another one to measure against.
    Made elsewhere = made;
    elsewhere.evaluation.parts[0].place.translate(Vec3(5, 0, 0));
    EXPECT_NE(original(elsewhere, 1)->key, from->key);
    EXPECT_EQ(original(made, 1)->key, from->key);
    const auto maps = deviation_maps(made.part(1), *from);
    ASSERT_EQ(maps.size(), 1u);
    EXPECT_NEAR(largest_value(maps[0]), 0.1 * std::sqrt(3), 1e-4) << "at its corners";
    const Vec3 top = made.part(1).box.center() + Vec3(0, 0, 10.1);
    EXPECT_NEAR(value_at(maps[0], top), 0.1, 1e-4);
}

// Handles of sizes: where a number is drawn out by hand, its end lies on what was made with it.
#include "kind_samples.h"
#include "made_project.h"
#include "shape/mesh_distance.h"
#include <gtest/gtest.h>

namespace lp {
namespace {

using test::block;
using test::json;
using test::Made;
using test::make;
using test::step;

/// The end of an arrow, and points of a ring.
std::vector<Vec3> ends_of(const SizeHandle& handle, double value) {
    if (handle.shape == SizeHandle::Shape::Arrow) return {handle.from + handle.way * value / handle.gain};
    std::vector<Vec3> ends;
    const Vec3 x = handle.way.unitOrthogonal(), y = handle.way.cross(x);
    for (int k = 0; k < 8; ++k) {
        const double a = k * std::numbers::pi / 4;
        ends.push_back(handle.from + value / handle.gain * (std::cos(a) * x + std::sin(a) * y));
    }
    return ends;
}

void expect_on_surface(const Made& made, size_t step_index, size_t expected) {
    const auto& handles = made.step(step_index).handles;
    ASSERT_EQ(handles.size(), expected) << made.says();
    const DistanceTree surface(*made.part().mesh);
    const Step& its = made.project->parts.front()->steps.at(step_index);
    for (const SizeHandle& handle : handles) {
        const StepField& field = *find_step_kind(its.kind)->field(handle.field);
        const double value = *evaluate_expression(field_text(its, field), quantity_of(field.kind), {});
        EXPECT_NEAR(handle.way.norm(), 1, 1e-12);
        double least = 1e300; // of an angular solid only some of the ring's points
        double most = 0;
        for (const Vec3& end : ends_of(handle, value)) { // facets of round faces stand off by their chord
            const double off = surface.closest(end).distance_mm;
            least = std::min(least, off), most = std::max(most, off);
        }
        const bool angular = its.kind == "prism" || its.kind == "pyramid";
        EXPECT_LT(angular ? least : most, 0.06) << its.kind << " " << handle.field;
    }
}

TEST(Handles, EveryEndOfASolidLiesOnIt) {
    const json placed{{"at_x", "7 mm"}, {"at_y", "-3 mm"}, {"at_z", "2 mm"}};
    auto solid = [&](const char* kind, json fields) {
        fields.update(placed);
        return make(json::array({step(kind, fields)}));
    };
    expect_on_surface(solid("block", {{"size_x", "30 mm"}, {"size_y", "20 mm"}, {"size_z", "9 mm"}}), 0, 3);
    expect_on_surface(solid("block", {{"from", "corner"}, {"size_x", "30 mm"}, {"size_z", "9 mm"}}), 0, 3);
    expect_on_surface(solid("block", {{"from", "centre"}, {"size_y", "11 mm"}}), 0, 3);
    for (const char* along : {"z", "x", "-y"})
        for (const char* from : {"foot", "centre"})
            expect_on_surface(solid("cylinder", {{"along", along}, {"from", from}, {"diameter", "14 mm"}}), 0, 2);
    expect_on_surface(solid("sphere", {{"diameter", "22 mm"}}), 0, 1);
    expect_on_surface(solid("cone", {{"diameter", "22 mm"}, {"top_diameter", "8 mm"}}), 0, 3);
    expect_on_surface(solid("dome", json::object()), 0, 2);
    expect_on_surface(solid("half_sphere", json::object()), 0, 1);
    expect_on_surface(solid("ring", {{"section", "square"}}), 0, 2);
    expect_on_surface(solid("ring", {{"section", "round"}}), 0, 1);
    expect_on_surface(solid("prism", {{"sides", "6"}, {"across", "20 mm"}, {"measured", "corners"}}), 0, 2);
    expect_on_surface(solid("pyramid", {{"top_across", "6 mm"}}), 0, 2);
    expect_on_surface(solid("wedge", {{"top_x", "5 mm"}}), 0, 3);
}

TEST(Handles, OfARoundACutOffAndAPushLieOnTheNewFace) {
    // Outer and inner corners: a block with a notch has both.
    const json notch = step("block", {{"size_x", "20 mm"},
                                      {"size_y", "50 mm"},
                                      {"size_z", "10 mm"},
                                      {"at_x", "15 mm"},
                                      {"at_z", "10 mm"},
                                      {"does", "cut"}});
    for (const char* edges : {"upright", "of bottom of b", "all"}) {
        const Made round = make({block(40, 30, 20), step("fillet", {{"edges", edges}, {"radius", "3 mm"}})});
        if (std::string(edges) != "all") expect_on_surface(round, 1, 1);
        const Made flat = make({block(40, 30, 20), step("chamfer", {{"edges", edges}, {"distance", "3 mm"}})});
        if (std::string(edges) != "all") expect_on_surface(flat, 1, 1);
    }
    expect_on_surface(make({block(40, 30, 20), notch, step("push", {{"faces", "top of b"}, {"by", "4 mm"}})}), 2, 1);
}

TEST(Handles, ATurnHasADialAboutItsAxisAndAFailedStepHasNone) {
    const Made turned = make({block(10, 10, 40), step("turn", {{"angle", "30 deg"}, {"axis", "x"}})});
    ASSERT_EQ(turned.step(1).handles.size(), 1u);
    EXPECT_EQ(turned.step(1).handles[0].shape, SizeHandle::Shape::Dial);
    EXPECT_TRUE(turned.step(1).handles[0].way.isApprox(Vec3::UnitX()));
    const Made failed = make({block(10, 10, 40), step("fillet", {{"edges", "all"}, {"radius", "300 mm"}})});
    EXPECT_TRUE(failed.step(1).handles.empty());
}

} // namespace
} // namespace lp

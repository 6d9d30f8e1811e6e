// Feet of joints against the arithmetic of the printer card (both sides flare, and what is left stays open as
// elsewhere), against sections by the slicer, and against a practice print.
#include "bed/slicing.h"
#include "made_project.h"
#include "mesh/cross_section.h"
#include "project/cures.h"
#include "project/printed_contacts.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// Of the usual card: a flare of 0.2 on both sides, and 0.05 that is closed beyond the growth of both.
constexpr double apart_mm = 0.45;

/// The smallest distance between the sections of two bodies at a height, by offsetting one until they meet.
double distance_at(const Body& a, const Body& b, double z) {
    auto section = [&](const Body& body) {
        const LayerHeights thin{0.002, 0.002};
        return slice(body.mesh(), thin, z - 0.001, 1).front();
    };
    const Region one = section(a), other = section(b);
    double low = 0, high = 3;
    for (int k = 0; k < 20; ++k) {
        const double middle = (low + high) / 2;
        const bool meet = !intersect_regions(offset_region(one, middle, 0.001), other).empty();
        (meet ? high : low) = middle;
    }
    return low;
}

std::vector<PartFinding> closed(const Made& m) {
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    std::vector<PartFinding> found;
    for (const PartFinding& f : all_findings(m.evaluation, &*analysis))
        if (f.ref.kind == FindingKind::ClosedAtBed) found.push_back(f);
    return found;
}

Made edited(const Made& m, const Edit& edit) {
    auto next = apply_edit(*m.project, edit);
    EXPECT_TRUE(next) << next.error().text();
    Made made;
    made.project = next->project;
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}

} // namespace

TEST(ChamferedFeet, KeepEveryJointOpenInTheFirstLayer) {
    for (auto [kind, fields] :
         {std::pair("hinge", json{{"length", 36}, {"knuckles", 3}}),
          std::pair("hinge", json{{"bumps", "cone"}, {"knuckles", 4}, {"length", 44}, {"turn", 30}, {"at_z", 3}}),
          std::pair("chain", json{{"links", 4}}), std::pair("captive_pin", json::object()),
          std::pair("swivel_cap", json::object()), std::pair("captive_slider", json::object())}) {
        json plain = fields;
        plain["foot"] = "plain";
        const Made with = make(json::array({step(kind, fields)})), without = make(json::array({step(kind, plain)}));
        ASSERT_EQ(with.says() + without.says(), "") << kind;
        const size_t n = with.part().bodies.size();
        const double ground = with.part().box.min().z();
        bool narrow = false;
        for (size_t i = 0; i + 1 < n; ++i) {
            // Links lie in a row: each meets the next.
            const Body &one = with.part().bodies[i].body, &other = with.part().bodies[i + 1].body;
            EXPECT_GE(distance_at(one, other, ground + 0.1), apart_mm - 0.005) << kind << " " << i;
            narrow = narrow || distance_at(without.part().bodies[i].body, without.part().bodies[i + 1].body,
                                           ground + 0.1) < apart_mm - 0.05;
            EXPECT_NEAR(distance_at(one, other, ground + 1.2),
                        distance_at(without.part().bodies[i].body, without.part().bodies[i + 1].body, ground + 1.2),
                        0.01)
                << kind << ": above the foot nothing is changed";
            EXPECT_TRUE(one.is_exact()) << kind;
        }
        EXPECT_LT(without.volume() - with.volume(), without.volume() * 0.01) << kind << ": next to nothing is taken";
        EXPECT_EQ(narrow, with.volume() < without.volume() - 1e-3) << kind << ": only where it is needed";
        EXPECT_TRUE(closed(with).empty()) << kind;
        EXPECT_EQ(!closed(without).empty(), narrow) << kind;
    }
}

TEST(ChamferedFeet, OfAPinAreWhatTheFormulaSays) {
    // Pin of radius 4 in a hole of 4.35, the in-place gap. Apart: 0.45, and 0.04 as chords of round walls stand
    // into the gap: half of what is missing is taken from either side, so that half way up the first layer the pin has
    // 4.35 - (0.49 + 0.35) / 2, and the hole is 0.49 away from that.
    const Made made = make(json::array({step("captive_pin", json::object())}));
    ASSERT_EQ(made.says(), "");
    auto area = [&](size_t body) {
        return region_area_mm2(slice(made.part().bodies[body].body.mesh(), {0.2, 0.2}, 0, 1).front());
    };
    const double pin = 4.35 - (0.49 + 0.35) / 2;
    EXPECT_NEAR(area(0), pi * pin * pin, 0.1);
    EXPECT_NEAR(area(1), pi * (100 - (pin + 0.49) * (pin + 0.49)), 0.3) << "a collar 20 across";
}

TEST(ChamferedFeet, PrintFreeInPractice) {
    // The practice printer knows nothing of them: it lays beads and looks which meet.
    for (const char* foot : {"chamfered", "plain"}) {
        const Made made = make(json::array({step("captive_pin", {{"foot", foot}})}));
        Analyser analyser;
        auto analysis = analyser.analyse(made.evaluation);
        auto printed = printed_contacts(made.evaluation, *analysis);
        ASSERT_TRUE(printed) << printed.error().text();
        ASSERT_EQ(printed->size(), 1u);
        if (std::string(foot) == "plain") {
            EXPECT_TRUE(printed->front().first_layer_only());
            EXPECT_FALSE(printed->front().fused.empty()) << "the flare of 0.2 fuses it";
        } else {
            EXPECT_TRUE(printed->front().fused.empty()) << printed_words(printed->front());
            EXPECT_GT(printed->front().gap_mm, 0.02);
        }
    }
}

TEST(ChamferedFeet, GoByTheCard) {
    auto volume = [](double flare_mm) {
        const Made made = make(json::array({step("captive_pin", json::object())}));
        auto project = std::make_shared<Project>(*made.project);
        project->printer.first_layer_flare_mm = flare_mm;
        Made now;
        now.project = project;
        now.evaluation = *Evaluator().evaluate(project);
        return now.volume();
    };
    const double plain = make(json::array({step("captive_pin", {{"foot", "plain"}})})).volume();
    EXPECT_NEAR(volume(0), plain, 1e-6) << "a first layer that stands out by nothing needs none";
    EXPECT_LT(volume(0.2), plain - 0.1);
    EXPECT_LT(volume(0.4), volume(0.2) - 0.1);
}

TEST(ChamferedFeet, AreOfferedWhereAJointHasNone) {
    Evaluator evaluator;
    const Made joint = make(json::array({step("hinge", {{"foot", "plain"}}, "flap")}));
    const auto found = closed(joint);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NE(found[0].finding.says.find("closed by the first layer only"), std::string::npos) << found[0].finding.says;
    auto cures = tried_cures(evaluator, joint.evaluation, found[0]);
    ASSERT_TRUE(cures && !cures->empty());
    EXPECT_EQ(cures->front().says, "Gaps closed by the first layer fall from 1 to 0.");
    const Made cured = edited(joint, cures->front().cure.edit);
    EXPECT_TRUE(closed(cured).empty());
    EXPECT_EQ(cured.project->parts[0]->steps.size(), 1u) << "the joint itself is asked for them";
    // Bodies that are no joint of ours: a peg printed in the plate that its halo opens.
    const Made own =
        make({block(24, 24, 10, "plate"), step("cylinder", {{"diameter", 8}, {"height", 10}, {"does", "new"}}, "peg"),
              step("halo", {{"what", "peg"}, {"fit", "0.35 mm"}}), step("open_for_halos", {{"what", "plate"}})});
    const auto told = closed(own);
    ASSERT_EQ(told.size(), 1u);
    cures = tried_cures(evaluator, own.evaluation, told[0]);
    ASSERT_TRUE(cures && cures->size() == 1);
    const Made helped = edited(own, cures->front().cure.edit);
    EXPECT_EQ(helped.says(), "");
    EXPECT_TRUE(closed(helped).empty());
    EXPECT_EQ(helped.project->parts[0]->steps.back().kind, "chamfer_feet");
    EXPECT_GE(distance_at(helped.body(0), helped.part().bodies[1].body, 0.1), apart_mm - 0.005);
    // What was found for one card is not told of another.
    Analyser one;
    EXPECT_TRUE(one.analyse(own.evaluation)->contacts[0].closed_at_bed);
    const Made flat = edited(own, SetNumber{"printer first_layer_flare_mm", "0"});
    EXPECT_FALSE(one.analyse(flat.evaluation)->contacts[0].closed_at_bed);
    EXPECT_TRUE(one.analyse(own.evaluation)->contacts[0].closed_at_bed);
    // A flare of nothing closes nothing; a printer that fuses it everywhere says so as before.
    EXPECT_TRUE(closed(edited(own, SetNumber{"printer first_layer_flare_mm", "0"})).empty());
    EXPECT_TRUE(closed(edited(own, SetNumber{"printer smallest_open_gap_mm", "0.4"})).empty());
}

TEST(ChamferedFeet, StandOnAnyFaceAndRefuseWhatHasNone) {
    // On its side: the bodies stand on the plane x = 0.
    const json beside = step("block", {{"size_x", 20}, {"size_y", 10}, {"size_z", 8}, {"at_z", 10.3}, {"does", "new"}}),
               foot = step("chamfer_feet", {{"on", "yz"}});
    json first = block(20, 10, 10);
    first["fields"]["at_x"] = 10;
    json second = beside;
    second["fields"]["at_x"] = 10;
    const Made made = make({first, second, foot});
    ASSERT_EQ(made.says(), "");
    EXPECT_NE(made.step(2).says.find("0.45 mm apart"), std::string::npos) << made.step(2).says;
    const Transform upright = Transform(Eigen::AngleAxisd(-pi / 2, Vec3::UnitY()));
    auto stood = [&](size_t i) { return Body::from_mesh(transformed(made.part().bodies[i].body.mesh(), upright)); };
    EXPECT_NEAR(distance_at(stood(0), stood(1), 0.1), 0.49, 0.005);
    EXPECT_NEAR(distance_at(stood(0), stood(1), 2), 0.3, 1e-4);
    EXPECT_NE(make({block(20, 10, 10), step("chamfer_feet", json::object())}).says().find("only one body"),
              std::string::npos);
    // Bodies of triangles as well: the same sections.
    json far = second;
    far["fields"]["at_z"] = 12;
    const Made apart = make({first, far, foot});
    EXPECT_NE(apart.step(2).says.find("No two of them"), std::string::npos) << apart.step(2).says;
}

TEST(CrossSections, AreClosedPolygonsWithMaterialOnTheLeft) {
    const Made made = make({block(20, 10, 6), step("cylinder", {{"diameter", 4}, {"height", 9}, {"does", "cut"}})});
    Transform plane = Transform::Identity();
    plane.translate(Vec3(0, 0, 3));
    auto loops = cross_section(made.body().mesh(), plane);
    ASSERT_EQ(loops.size(), 2u);
    auto area = [](const std::vector<Vec2>& loop) {
        double sum = 0;
        for (size_t i = 0; i < loop.size(); ++i) sum += cross2(loop[i], loop[(i + 1) % loop.size()]) / 2;
        return sum;
    };
    std::sort(loops.begin(), loops.end(), [&](const auto& a, const auto& b) { return area(a) > area(b); });
    EXPECT_NEAR(area(loops[0]), 200, 1e-9);
    EXPECT_NEAR(area(loops[1]), -pi * 4, 0.05) << "a hole runs the other way round";
    plane.translate(Vec3(0, 0, 50));
    EXPECT_TRUE(cross_section(made.body().mesh(), plane).empty());
    EXPECT_TRUE(cross_section({}, plane).empty());
}

// What a part needs of its print besides its pose: brims where they are wanted, rafts, plastics that shrink, loads and
// what counts. Against areas and volumes by elementary geometry.
#include "bed/raft.h"
#include "handoff/export_project.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "project/cures.h"
#include "project/findings.h"
#include "project/flared_rims.h"
#include "project/pose_choices.h"
#include "project/split_comparison.h"
#include "project/typed_numbers.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

double volume(const TriMesh& mesh) {
    return mesh.empty() ? 0 : mass_properties(mesh).volume_mm3;
}
/// A plate of 40 x 40 x 3 with a hole of 20 x 20.
Made frame() {
    return make(
        {block(40, 40, 3),
         step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 9}, {"at_z", -3}, {"does", "cut"}}, "hole")});
}
const TriMesh& mesh_of(const Made& m) {
    return *m.part().mesh;
}
Made edited(const Made& m, const Edit& edit) {
    auto next = apply_edit(*m.project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    Made made{next ? next->project : m.project, {}};
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}
Made with_options(const Made& m, const std::function<void(SupportSettings&)>& change) {
    SupportSettings settings = m.project->parts[0]->supports;
    change(settings);
    return edited(m, SetSupports{m.project->parts[0]->id, settings});
}
std::optional<PartFinding> finding(const Made& m, FindingKind kind) {
    auto analysis = Analyser().analyse(m.evaluation);
    for (const PartFinding& f : findings_of_part(m.evaluation, &*analysis, m.part().part))
        if (f.ref.kind == kind) return f;
    return std::nullopt;
}

} // namespace

TEST(Brim, LiesWhereItIsWanted) {
    const Made m = frame();
    const double h = 0.2, w = 4;
    auto area = [&](BrimPlace place, double gap = 0) {
        const TriMesh brim = make_brim(mesh_of(m), {w, place, gap}, h);
        EXPECT_TRUE(check_soundness(brim).sound()) << word_of(place) << gap;
        return volume(brim) / h;
    };
    const double outside = 4 * 40 * w + pi * w * w, inside = 20 * 20 - 12 * 12; // Steiner; a square in a square
    EXPECT_NEAR(area(BrimPlace::Outside), outside, 1);
    EXPECT_NEAR(area(BrimPlace::Inside), inside, 0.01);
    EXPECT_NEAR(area(BrimPlace::Both), outside + inside, 1);
    // Three quarters of a disc at each of four corners; 48 sides are 0.3 % less.
    EXPECT_NEAR(area(BrimPlace::Corners), 3 * pi * w * w, 0.5);
    // Half a millimetre off the part: between two offsets.
    EXPECT_NEAR(area(BrimPlace::Outside, 0.5), 4 * 40 * w + pi * (4.5 * 4.5 - 0.25), 1);
    EXPECT_NEAR(area(BrimPlace::Inside, 0.5), 19 * 19 - 11 * 11, 0.1);
    for (BrimPlace place : {BrimPlace::Outside, BrimPlace::Inside, BrimPlace::Both, BrimPlace::Corners})
        EXPECT_EQ(brim_place_called(word_of(place)), place);
    EXPECT_FALSE(brim_place_called("everywhere"));
    EXPECT_TRUE(make_brim(box_mesh({0, 0, 0}, {9, 9, 9}), {w, BrimPlace::Inside}, h).empty()) << "it has no holes";
}

TEST(Brim, ARoundThingHasNoCornersAndASmallRoundingIsOneStill) {
    Made rod = make(json::array({step("cylinder", {{"diameter", 30}, {"height", 5}})}));
    EXPECT_TRUE(sharp_corners(mesh_of(rod), 0.2).empty());
    EXPECT_EQ(sharp_corners(mesh_of(frame()), 0.2).size(), 4u);
    Made rounded = make({block(40, 30, 5), step("fillet", {{"edges", "upright"}, {"radius", 0.3}})});
    EXPECT_EQ(rounded.says(), "");
    EXPECT_EQ(sharp_corners(mesh_of(rounded), 0.2).size(), 4u);
    Made round = make({block(40, 30, 5), step("fillet", {{"edges", "upright"}, {"radius", 4}})});
    EXPECT_EQ(round.says(), "");
    EXPECT_TRUE(sharp_corners(mesh_of(round), 0.2).empty());
}

TEST(Raft, IsASlabUnderThePartWithAirBetween) {
    const TriMesh cube = box_mesh({0, 0, 0}, {20, 10, 8});
    const TriMesh raft = make_raft(cube, {}, 0.8, 0.2, 0.2);
    const double area = 20 * 10 + 2 * 30 * raft_margin_mm + pi * raft_margin_mm * raft_margin_mm; // Steiner
    EXPECT_NEAR(volume(raft), area * 0.6, 0.5);
    EXPECT_TRUE(check_soundness(raft).sound());
    EXPECT_NEAR(bounding_box(raft).min().z(), -0.8, 1e-9);
    EXPECT_NEAR(bounding_box(raft).max().z(), -0.2, 1e-9);
    EXPECT_TRUE(make_raft({}, {}, 0.8, 0.2, 0.2).empty());
    EXPECT_TRUE(make_raft(cube, {}, 0.1, 0.2, 0.2).empty()) << "lower than its gap";
}

TEST(Raft, ReachesUpToTheFeetOfSupportsAndNotToThePart) {
    const TriMesh cube = box_mesh({0, 0, 0}, {20, 10, 8}), post = box_mesh({30, 4, 0}, {32, 6, 8});
    const TriMesh raft = make_raft(cube, post, 0.8, 0.2, 0.2);
    EXPECT_TRUE(check_soundness(raft).sound());
    EXPECT_NEAR(bounding_box(raft).max().z(), 0, 1e-9);
    const double pad = 4 + 4 * 2 * 0.6 + pi * 0.36; // as wide as the foot and 0.6 round it
    double top = 0;                                 // what reaches z = 0
    for (size_t i = 0; i < raft.triangles.size(); ++i)
        if (raft.corner(i, 0).z() > -1e-9 && raft.corner(i, 1).z() > -1e-9 && raft.corner(i, 2).z() > -1e-9)
            top += raft.area_vector(i).z() / 2;
    EXPECT_NEAR(top, pad, 0.1);
}

TEST(Raft, LiftsThePartCountsAndIsExportedAsAnObjectOfItsOwn) {
    const Made m = with_options(make(json::array({block(20, 10, 8)})), [](SupportSettings& s) {
        s.options.raft_layers = 3;
        s.options.brim_mm = 6; // the raft takes its place
    });
    auto analysis = Analyser().analyse(m.evaluation);
    const PartAnalysis& known = *analysis->parts.front();
    EXPECT_TRUE(known.supports.brim.empty());
    EXPECT_NEAR(known.supports.raft_mm, 3 * 0.2 + 0.2, 1e-9);
    EXPECT_EQ(known.plan->raft_layers, 3);
    EXPECT_GT(analysis->mass_g, Analyser().analyse(make(json::array({block(20, 10, 8)})).evaluation)->mass_g);
    auto items = export_items(m.evaluation, 0.01);
    ASSERT_TRUE(items);
    EXPECT_NEAR(bounding_box(items->front().mesh).min().z(), 0.8, 1e-6);
    EXPECT_NEAR(bounding_box(items->front().raft).min().z(), 0, 1e-6);
    // As one file a bed, and read back.
    Folder folder;
    auto back = export_project(m.evaluation, {.folder = folder.path, .formats = {"3mf", "stl"}});
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(back->size(), 4u);
    for (const ReadBack& one : *back) EXPECT_TRUE(one.same) << one.name << one.says;
    // Saved and read.
    auto read = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(read);
    EXPECT_EQ(read->parts[0]->supports, m.project->parts[0]->supports);
    // On the bed plan it stands on its raft.
    auto box = [&](const Part&, double turn) {
        Box3 all = turned_box(*known.posed, turn);
        return all.extend(turned_box(known.supports.raft, turn));
    };
    EXPECT_NEAR(bed_plan(*m.project, box).items[0].stand.translation().z(), 0.8, 1e-9);
}

TEST(Raft, IsOfferedToATowerAndTypedAsANumber) {
    const Made tower = make(json::array({block(5, 5, 120)}));
    const auto slender = finding(tower, FindingKind::Slender);
    ASSERT_TRUE(slender);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, tower.evaluation, *slender);
    ASSERT_TRUE(cures && cures->size() == 2);
    EXPECT_EQ(cures->back().cure.words, "Raft of 3 layers");
    const Made on = edited(tower, cures->back().cure.edit);
    EXPECT_FALSE(finding(on, FindingKind::Slender));
    const std::string key = "supports " + std::to_string(tower.project->parts[0]->id.value) + " raft_layers";
    EXPECT_EQ(edited(on, SetNumber{key, "2"}).project->parts[0]->supports.options.raft_layers, 2);
    EXPECT_EQ(edited(on, SetNumber{key, "1 + 3"}).project->parts[0]->supports.options.raft_layers, 4);
    for (const char* wrong : {"-1", "21", "1e9", "many"}) EXPECT_FALSE(apply_edit(*on.project, SetNumber{key, wrong}));
}

TEST(Lifting, SharpCornersOfALargeBottomAreToldAndGetABrim) {
    EXPECT_FALSE(finding(make(json::array({block(90, 90, 3)})), FindingKind::Lifting)) << "not large";
    EXPECT_FALSE(finding(make({block(160, 90, 3), step("fillet", {{"edges", "upright"}, {"radius", 8}})}),
                         FindingKind::Lifting));
    const Made plate = make(json::array({block(160, 90, 3)}));
    const auto found = finding(plate, FindingKind::Lifting);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->finding.count, 4u);
    EXPECT_NE(found->finding.says.find("160 mm with 4 sharp corners"), std::string::npos) << found->finding.says;
    Evaluator evaluator;
    const auto cures = cures_of(plate.evaluation, *found);
    ASSERT_EQ(cures.size(), 1u);
    const Made cured = edited(plate, cures[0].edit);
    EXPECT_EQ(cured.project->parts[0]->supports.options.brim_place, BrimPlace::Corners);
    EXPECT_FALSE(finding(cured, FindingKind::Lifting));
}

TEST(PartMaterial, ShrinkageIsMadeUpForInTheFileAlone) {
    MaterialCard nylon;
    nylon.name = "Nylon";
    nylon.density_g_cm3 = 1.12;
    nylon.shrink_percent = 1.5;
    nylon.shrink_up_percent = 0.5;
    const Made plain = make(json::array({block(40, 20, 10)}));
    const PartId id = plain.project->parts[0]->id;
    const Made m = edited(plain, SetPartMaterial{id, nylon});
    auto items = export_items(m.evaluation, 0.01);
    ASSERT_TRUE(items);
    // What shrinks by 1.5 % to 40 mm was 40 / 0.985.
    const Vec3 size = bounding_box(items->front().mesh).sizes();
    EXPECT_NEAR(size.x(), 40 / 0.985, 1e-6);
    EXPECT_NEAR(size.y(), 20 / 0.985, 1e-6);
    EXPECT_NEAR(size.z(), 10 / 0.995, 1e-6);
    EXPECT_NEAR(m.volume(), 8000, 1e-6) << "the design stays";
    auto heavy = Analyser().analyse(plain.evaluation), light = Analyser().analyse(m.evaluation);
    EXPECT_NEAR(light->mass_g / heavy->mass_g, 1.12 / 1.24, 1e-9);
    EXPECT_EQ(material_words(*m.project), "Nylon");
    // It stays with the part, is undone by none, and is read again.
    auto read = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(read);
    EXPECT_EQ(read->parts[0]->material, nylon);
    EXPECT_FALSE(edited(m, SetPartMaterial{id, std::nullopt}).project->parts[0]->material);
    nylon.shrink_percent = 60;
    EXPECT_FALSE(apply_edit(*m.project, SetPartMaterial{id, nylon}));
    EXPECT_FALSE(apply_edit(*m.project, SetNumber{"material shrink_percent", "-30"}));
}

TEST(PartMaterial, TwoPlasticsShareNoBed) {
    Made m = make_parts({{"A", json::array({block(20, 20, 5)})}, {"B", json::array({block(20, 20, 5)})}});
    auto beds = [](const Made& made) {
        std::vector<BedThing> things;
        for (const PartResult& part : made.evaluation.parts) things.push_back({part.part, *part.mesh});
        return arrange_beds(*made.project, things)->beds;
    };
    EXPECT_EQ(beds(m), 1u);
    MaterialCard petg;
    petg.name = "PETG";
    m = edited(m, SetPartMaterial{m.project->parts[1]->id, petg});
    EXPECT_EQ(beds(m), 2u);
    EXPECT_EQ(material_words(*m.project), "PLA and PETG");
}

TEST(PartMaterial, FitsTakeTheWiderGapOfBothPlastics) {
    Made m = make_parts({{"Plate", {block(40, 40, 10), step("cut_with", {{"tool", "Peg"}, {"fit", "slide"}})}},
                         {"Peg", json::array({step("cylinder", {{"diameter", 8}, {"height", 30}, {"at_z", -5}})})}});
    ASSERT_EQ(m.says(), "");
    auto gap = [&](const Made& made) {
        const auto contacts = ContactLedger().contacts(made.evaluation);
        EXPECT_EQ(contacts.size(), 1u);
        EXPECT_EQ(contacts[0].state, FitState::Right);
        return contacts[0].wanted->gap_mm;
    };
    const double usual = gap(m);
    MaterialCard soft;
    soft.name = "Soft";
    soft.fits["slide"] = usual + 0.2;
    // Of the one that goes in, or of the one it goes into: both turn in the same gap.
    for (size_t which : {0, 1}) {
        const Made other = edited(m, SetPartMaterial{m.project->parts[which]->id, soft});
        EXPECT_NEAR(gap(other), usual + 0.2, 1e-9);
        EXPECT_NEAR(m.volume() - other.volume(), pi * (std::pow(4 + usual + 0.2, 2) - std::pow(4 + usual, 2)) * 10,
                    0.05);
    }
    soft.fits["slide"] = usual - 0.1; // narrower: the other plastic needs more
    EXPECT_NEAR(gap(edited(m, SetPartMaterial{m.project->parts[1]->id, soft})), usual, 1e-9);
    // A bought thing has no plastic of its own.
    Made stand_in = edited(m, SetStandIn{m.project->parts[1]->id, true});
    const double bought = gap(stand_in);
    soft.fits["slide"] = usual + 0.2;
    EXPECT_NEAR(gap(edited(stand_in, SetPartMaterial{m.project->parts[1]->id, soft})), bought, 1e-9);
}

TEST(PoseDemands, ALoadAndHolesTurnTheOrder) {
    // A bar with a square foot: without a load it lies; how it is pulled decides between lying and standing.
    Made bar = make(json::array({block(14, 14, 60)}));
    const PartId id = bar.part().part;
    auto first_up = [&](const Made& m) { return pose_choices(m.evaluation, id)->front().pose.up; };
    bar = edited(bar, SetLoad{id, Vec3(0, 0, 3)});
    EXPECT_EQ(bar.project->parts[0]->load, Vec3(0, 0, 1)) << "a direction alone";
    EXPECT_NEAR(std::fabs(first_up(bar).z()), 0, 1e-6) << "layers along the pull";
    auto choices = pose_choices(bar.evaluation, id);
    for (const PoseChoice& c : *choices) {
        EXPECT_TRUE(c.loaded);
        EXPECT_NEAR(c.pose.load_across, std::fabs(c.pose.up.z()), 1e-9);
        if (c.pose.as_it_lies) {
            EXPECT_NEAR(c.pose.load_across, 1, 1e-9);
        }
    }
    EXPECT_NE(why_first(*choices).find("the load runs along the layers"), std::string::npos) << why_first(*choices);
    EXPECT_FALSE(apply_edit(*bar.project, SetLoad{id, Vec3(0, 0, 0)}));
    EXPECT_FALSE(apply_edit(*bar.project, SetLoad{id, Vec3(0, 0, std::nan(""))}));
    EXPECT_EQ(project_from_text(project_to_json(*bar.project).dump())->parts[0]->load, Vec3(0, 0, 1));
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"parts":[{"name":"P","load":[0,0,0]}]})"));

    // A cube with a hole through it: it stands where holes count, and its three ways are alike where they do not.
    Made cube =
        make({block(30, 30, 30),
              step("cylinder",
                   {{"diameter", 12}, {"height", 50}, {"along", "x"}, {"at_x", -25}, {"at_z", 15}, {"does", "cut"}},
                   "bore")});
    ASSERT_EQ(cube.says(), "");
    EXPECT_NEAR(std::fabs(first_up(cube).x()), 1, 1e-6);
    auto lies = pose_choices(cube.evaluation, cube.part().part);
    EXPECT_EQ(lies->front().pose.lying_bores, 0u);
    EXPECT_TRUE(lies->front().bored);
    for (const PoseChoice& c : *lies)
        if (c.pose.as_it_lies) {
            EXPECT_EQ(c.pose.lying_bores, 1u);
        }
}

TEST(PoseDemands, WhatCountsIsTypedKeptAndRefused) {
    Made m = make(json::array({block(14, 14, 60)}));
    const PartId id = m.part().part;
    // Height alone counts a thousand points a centimetre: the lowest way is first; footing alone: the same block lies.
    m = edited(m, SetNumber{"ways height_cm", "10 * 100"});
    EXPECT_EQ(m.project->pose_weights.height_cm, 1000);
    EXPECT_NEAR(pose_choices(m.evaluation, id)->front().pose.height_mm, 14, 0.01);
    auto read = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(read);
    EXPECT_EQ(read->pose_weights, m.project->pose_weights);
    for (const char* wrong : {"-1", "1e7", "nonsense"})
        EXPECT_FALSE(apply_edit(*m.project, SetNumber{"ways height_cm", wrong})) << wrong;
    EXPECT_FALSE(apply_edit(*m.project, SetNumber{"ways colour", "1"}));
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"parts":[],"pose_weights":{"tips":-4}})"));
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"parts":[],"pose_weights":7})"));
}

TEST(SplitComparison, APostWithTwoPlatesIsBetterInTwo) {
    // An H on its side: a plate, a post, a plate. Whole, one plate hangs; parted in the middle each lies on its plate.
    const json spool{block(50, 50, 3, "low"),
                     step("block", {{"size_x", 10}, {"size_y", 10}, {"size_z", 30}, {"at_z", 3}}, "post"),
                     step("block", {{"size_x", 50}, {"size_y", 50}, {"size_z", 3}, {"at_z", 33}}, "high"),
                     step("split", {{"distance", 18}})};
    Made m = make(spool);
    ASSERT_EQ(m.says(), "");
    ASSERT_EQ(m.part().bodies.size(), 2u);
    const auto compared = compare_split(m.evaluation, m.part().part);
    ASSERT_TRUE(compared);
    EXPECT_EQ(compared->whole.pieces, 1u);
    EXPECT_EQ(compared->split.pieces, 2u);
    EXPECT_GT(compared->whole.supports_mm3, 100);
    EXPECT_EQ(compared->split.supports_mm3, 0);
    EXPECT_GT(compared->whole.mass_g, compared->split.mass_g);
    const std::string words = split_words(*compared);
    EXPECT_NE(words.find("One piece with supports: "), std::string::npos) << words;
    EXPECT_NE(words.find("; two pieces without supports: "), std::string::npos) << words;
    json off = spool;
    off[3]["on"] = false;
    EXPECT_FALSE(compare_split(make(off).evaluation, m.part().part)) << "it is not split";
    EXPECT_FALSE(compare_split(m.evaluation, PartId(99)));
}

TEST(Flared, AHoleOnTheBedThatAFitGoesThroughIsToldAndChamfered) {
    // A plate with a hole for a peg, gap 0.1 a wall; the peg is another part. The card's flare is 0.2.
    auto plate_and_peg = [](json more = json::array()) {
        json plate{block(30, 30, 6),
                   step("cylinder", {{"diameter", 8.2}, {"height", 20}, {"at_z", -5}, {"does", "cut"}}, "hole")};
        for (json& s : more) plate.push_back(std::move(s));
        Made m =
            make_parts({{"Plate", plate}, {"Peg", json::array({step("cylinder", {{"diameter", 8}, {"height", 12}})})}});
        EXPECT_EQ(m.says(), "");
        return edited(m, SetContact{"Plate", "Peg", "0.1 mm"});
    };
    const Made m = plate_and_peg();
    const auto rims = flared_rims(m.part(), Transform::Identity());
    ASSERT_EQ(rims.size(), 1u);
    EXPECT_TRUE(rims[0].hole);
    EXPECT_NEAR(rims[0].diameter_mm, 8.2, 1e-9);
    const auto found = finding(m, FindingKind::Flared);
    ASSERT_TRUE(found);
    EXPECT_NE(found->finding.says.find("⌀ 8.2 mm, closes by 0.2 mm a wall on the bed; the fit's gap is 0.10 mm"),
              std::string::npos)
        << found->finding.says;
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, m.evaluation, *found);
    ASSERT_TRUE(cures && cures->size() == 1);
    EXPECT_EQ(cures->front().cure.words, "Chamfer at the foot");
    const Made cured = edited(m, cures->front().cure.edit);
    EXPECT_EQ(cured.says(), "");
    EXPECT_FALSE(finding(cured, FindingKind::Flared));
    // A cone ring of 0.3 by 0.3 round a hole of radius 4.1 (Pappus: its centroid is a third of it out).
    EXPECT_NEAR(m.volume() - cured.volume(), 2 * pi * (4.1 + 0.1) * 0.3 * 0.3 / 2, 1e-3);
    // A wider gap takes the flare; so does a printer without one.
    EXPECT_FALSE(finding(edited(m, SetContact{"Plate", "Peg", "0.3 mm"}), FindingKind::Flared));
    EXPECT_FALSE(finding(edited(m, SetNumber{"printer first_layer_flare_mm", "0"}), FindingKind::Flared));
    EXPECT_FALSE(finding(edited(m, SetContact{"Plate", "Peg", ""}), FindingKind::Flared)) << "no fit is wanted";
}

TEST(Cures, TheBestWayUpIsOfferedBehindStepsOfThePart) {
    // A table: laid on its top nothing hangs.
    const Made m =
        make({block(8, 8, 20), step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 4}, {"at_z", 20}})});
    const auto hangs = finding(m, FindingKind::Hanging);
    ASSERT_TRUE(hangs);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, m.evaluation, *hangs);
    ASSERT_TRUE(cures && !cures->empty());
    const auto turn =
        std::find_if(cures->begin(), cures->end(), [](const TriedCure& c) { return c.cure.words == "Best way up"; });
    ASSERT_NE(turn, cures->end());
    for (auto c = turn; c != cures->end(); ++c) EXPECT_TRUE(c->cure.aside) << c->cure.words;
    EXPECT_EQ(turn->says, "What hangs falls from 2336 to 0 mm²."); // 60 x 40 less the leg's 64
    EXPECT_FALSE(finding(edited(m, turn->cure.edit), FindingKind::Hanging));
}

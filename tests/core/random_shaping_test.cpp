// Random solids and random edits: what must hold whatever the numbers are.
#include "made_project.h"
#include "shape/exact_solids.h"
#include <random>
#include <set>

using namespace lp;
using namespace lp::test;

namespace {

Body random_solid(std::mt19937& random) {
    auto u = [&](double low, double high) { return low + (high - low) * double(random() % 10000) / 10000; };
    Transform at = Transform::Identity();
    at.translate(Vec3(u(-8, 8), u(-8, 8), u(-8, 8)));
    at.rotate(Eigen::AngleAxisd(u(0, 6), Vec3(u(-1, 1), u(-1, 1), u(0.1, 1)).normalized()));
    switch (random() % 3) {
    case 0:
        return make_block({u(5, 20), u(5, 20), u(5, 20)}, at, {random(), 0}).value();
    case 1:
        return make_cylinder(u(3, 9), u(5, 20), at, {random(), 0}).value();
    default:
        return make_prism(3 + int(random() % 6), u(3, 9), u(5, 20), at, {random(), 0}).value();
    }
}

double volume_of(Operation operation, const Body& first, const std::vector<Body>& others) {
    auto result = combine(operation, first, others);
    if (!result) return 0; // nothing left
    return result->body.mass().volume_mm3;
}

} // namespace

TEST(RandomBooleans, VolumesAddUpAndTheOrderDoesNotMatter) {
    // Inclusion and exclusion: V(A or B) + V(A and B) = V(A) + V(B); a cut leaves V(A) - V(A and B).
    std::mt19937 random(7);
    for (int round = 0; round < 25; ++round) {
        Body a = random_solid(random), b = random_solid(random), c = random_solid(random);
        double va = a.mass().volume_mm3, vb = b.mass().volume_mm3;
        double both = volume_of(Operation::Common, a, {b}), either = volume_of(Operation::Join, a, {b});
        double slack = 1e-4 * (va + vb);
        EXPECT_NEAR(either + both, va + vb, slack) << round;
        if (both < va * 0.999) {
            EXPECT_NEAR(volume_of(Operation::Cut, a, {b}), va - both, slack) << round;
        }
        double abc = volume_of(Operation::Join, a, {b, c});
        EXPECT_NEAR(volume_of(Operation::Join, c, {a, b}), abc, slack) << round;
        EXPECT_NEAR(volume_of(Operation::Join, b, {c, a}), abc, slack) << round;
        EXPECT_NEAR(volume_of(Operation::Cut, a, {b, c}), volume_of(Operation::Cut, a, {c, b}), slack) << round;
    }
}

TEST(RandomBooleans, PartingIsACutAndACommonPartInOne) {
    // One call for both halves gives what the two booleans give, by volume, area, pieces and the names of all faces.
    std::mt19937 random(23);
    auto names = [](const Body& body) {
        std::set<Tag> all;
        for (const FaceInfo& face : body.tessellation().faces) all.insert(face.tags.begin(), face.tags.end());
        return all;
    };
    int parted_rounds = 0;
    for (int round = 0; round < 25; ++round) {
        Body a = random_solid(random), b = random_solid(random);
        auto inside = combine_exact(Operation::Common, a, {b}), outside = combine_exact(Operation::Cut, a, {b});
        auto parted = part_exact(a, b);
        if (!inside || !outside) {
            EXPECT_FALSE(parted) << round;
            continue;
        }
        ASSERT_TRUE(parted) << round << parted.error().text();
        ++parted_rounds;
        for (auto [one, two] : {std::pair{&parted->inside, &*inside}, {&parted->outside, &*outside}}) {
            EXPECT_NEAR(one->mass().volume_mm3, two->mass().volume_mm3, 1e-6 * a.mass().volume_mm3) << round;
            EXPECT_NEAR(one->mass().area_mm2, two->mass().area_mm2, 1e-5 * a.mass().area_mm2) << round;
            EXPECT_EQ(one->pieces(), two->pieces()) << round;
            EXPECT_EQ(names(*one), names(*two)) << round;
            EXPECT_FALSE(one->check_triangles()) << round;
        }
    }
    EXPECT_GT(parted_rounds, 10);
}

TEST(RandomBooleans, TheSecondKernelAgrees) {
    std::mt19937 random(11);
    for (int round = 0; round < 12; ++round) {
        Body a = random_solid(random), b = random_solid(random);
        for (Operation operation : {Operation::Join, Operation::Cut, Operation::Common}) {
            auto exact = combine_exact(operation, a, {b});
            auto mesh = combine_meshes(operation, {a.mesh(), b.mesh()});
            if (!exact || !mesh) {
                EXPECT_EQ(bool(exact), bool(mesh) && mesh->triangles.size() > 0) << round;
                continue;
            }
            double facets = 0.02 * (a.mass().area_mm2 + b.mass().area_mm2);
            EXPECT_NEAR(exact->mass().volume_mm3, mass_properties(*mesh).volume_mm3, facets) << round;
        }
    }
}

/// Eight walks of 125 edits, so that they can run side by side.
class RandomEdits : public ::testing::TestWithParam<int> {};

TEST_P(RandomEdits, OnAPartEndWithoutACrashAndWithTheSameMeaning) {
    json drawing{{"elements", json::array({{{"kind", "circle"}, {"points", json::array({{8, 3}})}, {"radius", 4}}})}};
    Made start = make(
        {step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 12}}, "b"),
         step("fillet", {{"edges", "upright"}, {"radius", 4}}),
         step("outline", {{"on", "top of b"}, {"drawing", drawing}}, "ring"),
         step("extrude", {{"outline", "ring"}, {"height", 5}}, "boss"),
         step("cylinder",
              {{"diameter", 3}, {"height", 30}, {"at_x", -20}, {"at_y", -10}, {"at_z", -5}, {"does", "cut"}}, "hole"),
         step("repeat", {{"steps", "hole"}, {"count", 3}, {"by_x", "9 mm"}}),
         step("chamfer", {{"edges", "of top of boss"}, {"distance", 0.8}})});
    ASSERT_EQ(start.says(), "");
    double volume = start.volume();
    std::mt19937 random(static_cast<unsigned>(GetParam()));
    ProjectPtr now = start.project;
    Evaluator evaluator;
    size_t accepted = 0, failed_steps = 0;
    for (int round = 0; round < 125; ++round) {
        const Part& part = *now->parts[0];
        const Step& target = part.steps[random() % part.steps.size()];
        const StepKind& kind = *find_step_kind(target.kind);
        Edit edit = SwitchStep{part.id, target.id, !target.on};
        if (random() % 8) {
            std::vector<const StepField*> numbers;
            for (const StepField& f : kind.fields)
                if (is_quantity(f.kind)) numbers.push_back(&f);
            if (numbers.empty()) continue;
            const StepField& field = *numbers[random() % numbers.size()];
            static const double odd[] = {0, -1, 1e9, 1e-6};
            double value = random() % 12 ? double(random() % 400) / 10 : odd[random() % 4];
            if (field.kind == FieldKind::Count) value = std::floor(value / 6);
            edit = SetField{part.id, target.id, field.name, std::to_string(value)};
        } else if (random() % 3 == 0) {
            edit = MoveStep{part.id, target.id, random() % part.steps.size()};
        }
        auto edited = apply_edit(*now, edit);
        if (!edited) {
            EXPECT_FALSE(edited.error().sentence.empty());
            continue;
        }
        ++accepted;
        // Only some are worked out: a person types faster than that, too.
        if (round % 16 == 4) {
            auto evaluation = evaluator.evaluate(edited->project);
            ASSERT_TRUE(evaluation) << round;
            for (const StepOutcome& s : evaluation->parts[0].steps)
                if (!s.ok) {
                    ++failed_steps;
                    EXPECT_FALSE(s.says.empty()) << round;
                }
            for (const StepBody& b : evaluation->parts[0].bodies) {
                EXPECT_GT(b.body.mass().volume_mm3, 0) << round;
                EXPECT_FALSE(b.body.check_triangles()) << round;
            }
        }
        // Every tenth edit starts again from the part as it was: otherwise it ends in ruins.
        now = round % 10 == 9 ? start.project : edited->project;
    }
    EXPECT_GT(accepted, 75u);
    auto again = evaluator.evaluate(start.project);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->parts[0].mass.volume_mm3, volume) << "the same document means the same";
    std::printf("random edits: %zu accepted, %zu failed steps explained\n", accepted, failed_steps);
}

INSTANTIATE_TEST_SUITE_P(Seeds, RandomEdits, ::testing::Range(3, 11));

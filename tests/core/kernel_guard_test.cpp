// The kernel in a process of its own: what happens when it crashes, hangs, lies or is stopped.
#include "mesh/combine.h"
#include "shape/carry_triangles.h"
#include "shape/exact_boolean.h"
#include "shape/exact_shape.h"
#include "shape/exact_solids.h"
#include "shape/face_mass.h"
#include "shape/kernel_guard.h"
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <gtest/gtest.h>
#include <numbers>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace lp;

namespace {

Body solid_block(double size, const Vec3& at = Vec3::Zero()) {
    Transform place = Transform::Identity();
    place.translate(at);
    return make_block({size, size, size}, place, {1, 0}).value();
}

KernelCall cut_call() {
    return {"cut", {solid_block(10).exact()->shape, solid_block(10, {5, 5, 5}).exact()->shape}, {}, {}};
}

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

} // namespace

TEST(KernelGuard, AnswersFromAnotherProcessAreThoseOfThisOne) {
    ASSERT_TRUE(kernel_is_apart()) << "loose-peg-kernel is not beside the tests";
    auto apart = run_guarded(cut_call(), {}), here = perform(cut_call());
    ASSERT_TRUE(apart && here);
    ASSERT_EQ(apart->origins.size(), here->origins.size());
    for (size_t i = 0; i < here->origins.size(); ++i) {
        ASSERT_EQ(apart->origins[i].size(), here->origins[i].size()) << i;
        for (size_t k = 0; k < here->origins[i].size(); ++k) {
            EXPECT_EQ(apart->origins[i][k].operand, here->origins[i][k].operand);
            EXPECT_EQ(apart->origins[i][k].index, here->origins[i][k].index);
        }
    }
    ExactShape shape;
    shape.shape = apart->shape;
    EXPECT_NEAR(Body::from_exact(std::make_shared<ExactShape>(shape))->mass().volume_mm3, 875, 1e-9);
}

TEST(KernelGuard, FacesLeftAloneAreToldAndKeepTheirTriangles) {
    // A fillet on one edge of a block: the two faces at it and the two at its ends change, the other two do not.
    Body body = solid_block(10);
    ASSERT_FALSE(body.tessellation().faces.empty());
    TopoDS_Shape before = body.exact()->with_triangles();
    auto answer = run_guarded({"fillet", {before}, {0}, {2, 2}}, {});
    ASSERT_TRUE(answer) << answer.error().text();
    TopTools_IndexedMapOfShape old, now;
    TopExp::MapShapes(before, TopAbs_FACE, old);
    TopExp::MapShapes(answer->shape, TopAbs_FACE, now);
    ASSERT_EQ(now.Extent(), 7);
    ASSERT_EQ(answer->kept.size(), 7u);
    int kept = 0;
    for (int i = 1; i <= 7; ++i) {
        if (answer->kept[size_t(i - 1)] < 0) continue;
        ++kept;
        FaceMass a = face_mass(TopoDS::Face(now(i)), Vec3::Zero()),
                 b = face_mass(TopoDS::Face(old(answer->kept[size_t(i - 1)] + 1)), Vec3::Zero());
        EXPECT_NEAR(a.area_mm2, b.area_mm2, 1e-9);
        EXPECT_LT((a.moment - b.moment).norm(), 1e-9) << "the same face in the same place";
    }
    EXPECT_EQ(kept, 2);
    carry_triangles(before, answer->shape, answer->kept);
    int without = 0;
    for (TopExp_Explorer it(faces_without_triangles(answer->shape), TopAbs_FACE); it.More(); it.Next()) ++without;
    EXPECT_EQ(without, 5);
    // And the whole closes round its volume: by the formula of a rounded edge.
    auto shape = std::make_shared<ExactShape>();
    shape->shape = answer->shape;
    Body filleted = Body::from_exact(shape).value();
    EXPECT_FALSE(filleted.check_triangles());
    EXPECT_NEAR(filleted.mass().volume_mm3, 1000 - (4 - std::numbers::pi) * 10, 1e-6);
    // Numbers that fit nothing are passed over.
    carry_triangles(before, answer->shape, {-1, 99, -5});
}

TEST(KernelGuard, CopiesElsewhereDoNotBringTrianglesFromWhereTheyWere) {
    Body body = solid_block(10);
    EXPECT_TRUE(body.exact()->with_triangles().IsSame(body.exact()->shape)) << "none are made yet";
    ASSERT_FALSE(body.tessellation().faces.empty());
    EXPECT_FALSE(body.exact()->with_triangles().IsSame(body.exact()->shape));
    ExactShape copy = *body.exact();
    EXPECT_TRUE(copy.with_triangles().IsSame(copy.shape));
    Transform far = Transform::Identity();
    far.translate(Vec3(50, 0, 0));
    Body there = moved(body, far).value();
    ASSERT_FALSE(there.tessellation().faces.empty());
    auto answer = run_guarded({"fillet", {there.exact()->with_triangles()}, {0}, {2, 2}}, {});
    ASSERT_TRUE(answer);
    auto shape = std::make_shared<ExactShape>();
    shape->shape = answer->shape;
    EXPECT_NEAR(Body::from_exact(shape)->box().center().x(), there.box().center().x(), 1e-9);
}

TEST(KernelGuard, ACrashIsToldAndTheNextCallWorks) {
    kernel_stand_in("crash");
    auto crashed = run_guarded(cut_call(), {});
    ASSERT_FALSE(crashed);
    EXPECT_NE(crashed.error().sentence.find("crashed"), std::string::npos) << crashed.error().text();
    EXPECT_NE(crashed.error().sentence.find("cutting"), std::string::npos) << crashed.error().text();
    EXPECT_TRUE(run_guarded(cut_call(), {}));
}

TEST(KernelGuard, AHangEndsWithItsBudget) {
    kernel_stand_in("hang");
    auto start = std::chrono::steady_clock::now();
    auto late = run_guarded(cut_call(), {}, 0.3);
    ASSERT_FALSE(late);
    EXPECT_NE(late.error().sentence.find("did not come back"), std::string::npos) << late.error().text();
    EXPECT_LT(seconds_since(start), 5);
    EXPECT_TRUE(run_guarded(cut_call(), {}));
}

TEST(KernelGuard, AHangingCallIsStoppedOnRequest) {
    kernel_stand_in("hang");
    Task task;
    std::thread stopper([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(150));
        task.cancel.cancel();
    });
    auto start = std::chrono::steady_clock::now();
    auto stopped = run_guarded(cut_call(), task);
    stopper.join();
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
    EXPECT_LT(seconds_since(start), 5);
    EXPECT_TRUE(run_guarded(cut_call(), {}));
}

TEST(KernelGuard, AHelperOutlivesTheThreadThatBeganIt) {
    // Each round a thread asks, and with that may begin a helper, and ends; the next one takes what is idle.
    for (int round = 0; round < 40; ++round) {
        std::vector<char> good(2, 0);
        std::thread first([&] { good[0] = run_guarded(cut_call(), {}).has_value(); });
        std::thread second([&] { good[1] = run_guarded(cut_call(), {}).has_value(); });
        first.join();
        const auto mine = run_guarded(cut_call(), {});
        second.join();
        ASSERT_TRUE(mine) << "round " << round << ": " << mine.error().text();
        ASSERT_TRUE(good[0] && good[1]) << "round " << round;
    }
}

TEST(KernelGuard, AHelperEndsWithTheProgramAlsoWhileItHangs) {
    for (const char* busy : {"", "hang "}) {
        int pair[2];
        ASSERT_EQ(socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, pair), 0);
        const std::string program =
            (std::filesystem::read_symlink("/proc/self/exe").parent_path() / "loose-peg-kernel").string();
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, pair[1], 3);
        std::string name = program;
        char* arguments[] = {name.data(), nullptr};
        pid_t helper = 0;
        ASSERT_EQ(posix_spawn(&helper, program.c_str(), &actions, nullptr, arguments, environ), 0);
        posix_spawn_file_actions_destroy(&actions);
        close(pair[1]);
        KernelCall call = cut_call();
        call.what = busy + call.what;
        const std::string question = to_bytes(call);
        const uint64_t size = question.size();
        ASSERT_EQ(write(pair[0], &size, sizeof size), ssize_t(sizeof size));
        ASSERT_EQ(write(pair[0], question.data(), question.size()), ssize_t(question.size()));
        close(pair[0]); // as the system does for a program that is gone
        int status = 0;
        const auto start = std::chrono::steady_clock::now();
        pid_t ended = 0;
        while ((ended = waitpid(helper, &status, WNOHANG)) == 0 && seconds_since(start) < 20) usleep(2000);
        EXPECT_EQ(ended, helper) << busy;
        if (ended == 0) kill(helper, SIGKILL);
    }
}

TEST(KernelGuard, ALieIsFoundOutAndTheSecondWayTaken) {
    kernel_stand_in("lie");
    auto refused = combine_exact(Operation::Cut, solid_block(10), {solid_block(10, {5, 5, 5})});
    EXPECT_FALSE(refused);
    kernel_stand_in("lie");
    auto second = combine(Operation::Cut, solid_block(10), {solid_block(10, {5, 5, 5})});
    ASSERT_TRUE(second) << second.error().text();
    EXPECT_FALSE(second->body.is_exact());
    EXPECT_NEAR(second->body.mass().volume_mm3, 875, 1e-6);
    EXPECT_NE(second->note.find("triangles"), std::string::npos);
}

TEST(KernelGuard, CutOffOrMixedUpBytesAreRefused) {
    std::string call = to_bytes(cut_call());
    ASSERT_TRUE(call_from_bytes(call));
    EXPECT_FALSE(call_from_bytes(call.substr(0, 3)));
    EXPECT_FALSE(call_from_bytes({}));
    EXPECT_FALSE(answer_from_bytes({}));
    EXPECT_FALSE(answer_from_bytes(std::string(1, '\1')));
    auto nothing = perform({"no such thing", {solid_block(1).exact()->shape}, {}, {}});
    EXPECT_FALSE(nothing);
    EXPECT_FALSE(perform({"cut", {}, {}, {}}));
}

TEST(KernelGuard, SeveralCallersDoNotWaitForEachOther) {
    // One of seven hangs until it is stopped, and that is only after the others are done: behind it, this would not
    // end.
    kernel_stand_in("hang");
    std::array<Task, 7> tasks;
    std::atomic<int> good{0}, stopped{0};
    std::vector<std::thread> threads;
    for (Task& task : tasks) threads.emplace_back([&] { run_guarded(cut_call(), task) ? ++good : ++stopped; });
    while (good < 6 && stopped == 0) std::this_thread::yield();
    EXPECT_EQ(stopped, 0) << "nothing was stopped yet";
    for (Task& task : tasks) task.cancel.cancel();
    for (std::thread& t : threads) t.join();
    EXPECT_EQ(good, 6);
    EXPECT_EQ(stopped, 1);
}

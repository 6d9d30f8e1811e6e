// Lanes of work beside the window: what goes first, what takes whose place, what is never dropped.
#include "app/worker.h"
#include "app/workspace.h"
#include <QCoreApplication>
#include <QtTest/QSignalSpy>
#include <QtTest/QTest>
#include <atomic>
#include <gtest/gtest.h>
#include <thread>

using namespace lp;

namespace {

/// Opens once; whoever waits goes on.
class Gate {
  public:
    void open() {
        std::lock_guard lock(mutex_);
        open_ = true;
        wake_.notify_all();
    }
    void wait() {
        std::unique_lock lock(mutex_);
        wake_.wait(lock, [this] { return open_; });
    }
    bool is_open() {
        std::lock_guard lock(mutex_);
        return open_;
    }

  private:
    std::mutex mutex_;
    std::condition_variable wake_;
    bool open_ = false;
};
/// What was done, in order, from any thread.
class Diary {
  public:
    void write(const std::string& line) {
        std::lock_guard lock(mutex_);
        lines_.push_back(line);
    }
    std::vector<std::string> lines() {
        std::lock_guard lock(mutex_);
        return lines_;
    }

  private:
    std::mutex mutex_;
    std::vector<std::string> lines_;
};
bool idle(Worker& worker) {
    return QTest::qWaitFor([&] { return worker.idle(); }, 10000);
}

} // namespace

TEST(WorkerLanes, EarlierLanesGoFirst) {
    Worker worker;
    Diary diary;
    Gate begun, go;
    worker.start(Lane::Rest, "first", [&](const Task&) {
        begun.open();
        go.wait();
    });
    begun.wait();
    worker.start(Lane::Rest, "rest", [&](const Task&) { diary.write("rest"); });
    worker.start(Lane::Shown, "shown", [&](const Task&) { diary.write("shown"); });
    worker.start(Lane::Rest, "rest 2", [&](const Task&) { diary.write("rest 2"); });
    worker.start(Lane::Shown, "shown 2", [&](const Task&) { diary.write("shown 2"); });
    go.open();
    ASSERT_TRUE(idle(worker));
    EXPECT_EQ(diary.lines(), (std::vector<std::string>{"shown", "shown 2", "rest", "rest 2"}));
}
TEST(WorkerLanes, ANewerSnapshotTakesThePlaceOfAllThatIsOlder) {
    Worker worker;
    Diary diary;
    Gate begun;
    worker.start(Lane::Snapshot, "make", [&](const Task& task) {
        begun.open();
        while (!task.stopped()) std::this_thread::yield();
        diary.write("stopped");
    });
    begun.wait();
    worker.start(Lane::Shown, "analyse", [&](const Task&) { diary.write("analysed the old one"); });
    for (int i = 0; i < 5; ++i)
        worker.start(Lane::Snapshot, "make", [&, i](const Task&) { diary.write("made " + std::to_string(i)); });
    ASSERT_TRUE(idle(worker));
    EXPECT_EQ(diary.lines().front(), "stopped");
    EXPECT_EQ(diary.lines().back(), "made 4");
    for (const std::string& line : diary.lines()) EXPECT_NE(line, "analysed the old one");
}
TEST(WorkerLanes, OfTheSameThingTheNewerIsDone) {
    Worker worker;
    Diary diary;
    Gate begun, go;
    worker.start(Lane::Shown, "other", [&](const Task&) {
        begun.open();
        go.wait();
    });
    begun.wait();
    worker.start(Lane::Rest, "map", [&](const Task&) { diary.write("old map"); });
    worker.start(Lane::Rest, "measure", [&](const Task&) { diary.write("measure"); });
    worker.start(Lane::Rest, "map", [&](const Task&) { diary.write("new map"); });
    go.open();
    ASSERT_TRUE(idle(worker));
    EXPECT_EQ(diary.lines(), (std::vector<std::string>{"measure", "new map"}));
}
TEST(WorkerLanes, AnEditIsNotMadeBehindLongWorkThatWasAskedFor) {
    Worker worker;
    Diary diary;
    Gate begun, made;
    worker.start(Lane::Asked, "export", [&](const Task& task) {
        begun.open();
        made.wait(); // ends only after the edit was made: behind it, this would never end
        EXPECT_FALSE(task.stopped()) << "held and let go on, not stopped";
        diary.write("export");
    });
    begun.wait();
    worker.start(Lane::Snapshot, "make", [&](const Task&) {
        diary.write("make");
        made.open();
    });
    ASSERT_TRUE(idle(worker));
    EXPECT_EQ(diary.lines(), (std::vector<std::string>{"make", "export"}));
}
TEST(WorkerLanes, AskedWorkStandsStillWhileAnEditIsMade) {
    Worker worker;
    Gate begun, making, go;
    std::atomic<int> looks{0};
    std::atomic<bool> end{false};
    worker.start(Lane::Asked, "lead along", [&](const Task& task) {
        begun.open();
        while (!end && !task.stopped()) ++looks;
    });
    begun.wait();
    worker.start(Lane::Snapshot, "make", [&](const Task&) {
        making.open();
        go.wait();
    });
    making.wait();
    // It may be between two looks: after one more it stands.
    int before = -1;
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            int now = looks;
            bool still = now == before;
            before = now;
            return still;
        },
        5000));
    int stands = looks;
    for (int i = 0; i < 2000; ++i) std::this_thread::yield();
    EXPECT_LE(looks, stands + 1) << "the look it was at may still have been counted";
    go.open();
    EXPECT_TRUE(QTest::qWaitFor([&] { return looks > stands; }, 5000)) << "and goes on after";
    end = true;
    ASSERT_TRUE(idle(worker));
}
TEST(WorkerLanes, StopLetsGoOfEverythingButFiles) {
    Worker worker;
    Diary diary;
    Gate begun, saving, go;
    worker.start(Lane::Save, "save", [&](const Task& task) {
        saving.open();
        go.wait();
        diary.write(task.stopped() ? "stopped saving" : "saved");
    });
    worker.start(Lane::Save, "save",
                 [&](const Task& task) { diary.write(task.stopped() ? "stopped" : "saved again"); });
    worker.start(Lane::Snapshot, "make", [&](const Task& task) {
        begun.open();
        while (!task.stopped()) std::this_thread::yield();
    });
    worker.start(Lane::Asked, "export", [&](const Task& task) {
        while (!task.stopped()) std::this_thread::yield();
    });
    worker.start(Lane::Rest, "rest", [&](const Task&) { diary.write("rest"); });
    begun.wait();
    saving.wait();
    worker.stop();
    go.open();
    worker.finish_saving();
    EXPECT_EQ(diary.lines(), (std::vector<std::string>{"saved", "saved again"})) << "one after the other, both";
    ASSERT_TRUE(idle(worker));
}
TEST(WorkerLanes, AnEndedWorkerHasWrittenItsFiles) {
    Diary diary;
    Gate held;
    {
        Worker worker;
        for (int i = 0; i < 3; ++i) worker.start(Lane::Save, "save", [&](const Task&) { diary.write("saved"); });
        worker.start(Lane::Asked, "export", [&](const Task& task) {
            held.open();
            while (!task.stopped()) std::this_thread::yield();
        });
        held.wait();
    }
    EXPECT_EQ(diary.lines().size(), 3u);
}
TEST(WorkerLanes, WhatIsPostedIsCalledOnThisThread) {
    Worker worker;
    std::thread::id called;
    worker.start(Lane::Rest, "tell", [&](const Task&) { worker.post([&] { called = std::this_thread::get_id(); }); });
    ASSERT_TRUE(QTest::qWaitFor([&] { return called != std::thread::id(); }, 5000));
    EXPECT_EQ(called, std::this_thread::get_id());
}
TEST(WorkerLanes, IsBusyUntilItIsNot) {
    Worker worker;
    QSignalSpy busy(&worker, &Worker::busy);
    worker.start(Lane::Rest, "nothing much", [](const Task&) {});
    EXPECT_FALSE(worker.idle());
    ASSERT_TRUE(idle(worker));
    ASSERT_FALSE(busy.empty());
    EXPECT_EQ(busy.back().at(0).toString(), "");
}

// The place of work: one signal a fact, none for what did not change.

namespace {
struct Watched {
    Workspace place;
    QSignalSpy part{&place, &Workspace::active_part_changed}, chosen{&place, &Workspace::selection_changed},
        stretch{&place, &Workspace::stretch_changed}, contact{&place, &Workspace::contact_changed},
        finding{&place, &Workspace::finding_changed}, cut{&place, &Workspace::cut_changed},
        wound{&place, &Workspace::wound_changed};
};
Pick pick_of(uint64_t part, uint32_t index) {
    Pick pick;
    pick.kind = Pick::Kind::Face;
    pick.part = PartId{part};
    pick.index = index;
    return pick;
}
} // namespace

TEST(WorkspaceFacts, TellOnlyWhatChanged) {
    Watched w;
    w.place.set_stretch(Stretch::Fit);
    w.place.set_stretch(Stretch::Fit);
    EXPECT_EQ(w.stretch.size(), 1);
    w.place.set_active_part(PartId{4});
    w.place.set_active_part(PartId{4});
    EXPECT_EQ(w.part.size(), 1);
    w.place.set_cut_height(3.0);
    w.place.set_cut_height(3.0);
    EXPECT_EQ(w.cut.size(), 1);
    w.place.wind_back(PartId{4}, StepId{9});
    w.place.wind_back(PartId{4}, StepId{9});
    EXPECT_EQ(w.wound.size(), 1);
    EXPECT_EQ(w.place.wound_back(PartId{4}), StepId{9});
    EXPECT_EQ(w.place.wound_back(PartId{5}), StepId{});
    EXPECT_EQ(w.chosen.size() + w.contact.size() + w.finding.size(), 0);
}
TEST(WorkspaceFacts, PicksAreAddedTakenBackAndLetGo) {
    Watched w;
    w.place.select(pick_of(1, 0), false);
    w.place.select(pick_of(1, 1), true);
    EXPECT_EQ(w.place.selection().size(), 2u);
    w.place.select(pick_of(1, 1), true); // the same again takes it out
    ASSERT_EQ(w.place.selection().size(), 1u);
    w.place.select(pick_of(2, 7), false);
    ASSERT_EQ(w.place.selection().size(), 1u);
    EXPECT_EQ(w.place.selection()[0].part, PartId{2});
    int told = w.chosen.size();
    w.place.follow_picks([](const Pick& pick) { return std::optional(pick); });
    EXPECT_EQ(w.chosen.size(), told) << "all are the same: nothing to tell";
    w.place.follow_picks([](Pick pick) {
        pick.index = 9;
        return std::optional(pick);
    });
    EXPECT_EQ(w.place.selection()[0].index, 9u);
    EXPECT_EQ(w.chosen.size(), ++told) << "it has another number";
    w.place.follow_picks([](const Pick&) { return std::optional<Pick>(); });
    EXPECT_TRUE(w.place.selection().empty());
    EXPECT_EQ(w.chosen.size(), told + 1);
    w.place.clear_selection();
    EXPECT_EQ(w.chosen.size(), told + 1);
}
TEST(WorkspaceFacts, AnotherProjectBeginsAnew) {
    Watched w;
    w.place.set_stretch(Stretch::Bed);
    w.place.select(pick_of(1, 0), false);
    w.place.set_section(Eigen::Vector4d(1, 0, 0, -5));
    w.place.isolate(PartId{1});
    w.place.wind_back(PartId{1}, StepId{2});
    w.place.set_active_finding(FindingRef{PartId{1}, FindingKind::Open, {}, 0});
    w.place.begin(PartId{8});
    EXPECT_EQ(w.place.active_part(), PartId{8});
    EXPECT_TRUE(w.place.selection().empty());
    EXPECT_FALSE(w.place.section());
    EXPECT_FALSE(w.place.cut_height());
    EXPECT_FALSE(w.place.active_finding());
    EXPECT_EQ(w.place.isolated(), PartId{});
    EXPECT_TRUE(w.place.all_wound_back().empty());
}

// A finding that counts several things: each of its places is come to in turn, by pointer and key, and drawn.
#include "drop_file.h"
#include "test_meshes.h"
#include <QLabel>

using namespace lp;

namespace {

class FindingPlaces : public Window {
  protected:
    /// A file dropped on the window: a cube of 20 without one facet of its top and one of its bottom, six open edges.
    void bring_in_cracked_cube() {
        TriMesh cube = test::cube(20);
        std::vector<Triangle> kept;
        bool top = false, bottom = false;
        for (size_t i = 0; i < cube.triangles.size(); ++i) {
            const double up = cube.area_vector(i).normalized().z();
            if (up > 0.9 && !std::exchange(top, true)) continue;
            if (up < -0.9 && !std::exchange(bottom, true)) continue;
            kept.push_back(cube.triangles[i]);
        }
        cube.triangles = kept;
        std::ofstream(folder / "cracked.stl", std::ios::binary) << write_stl_binary(cube);
        drop_file(*window.get(), folder / "cracked.stl");
        ASSERT_TRUE(QTest::qWaitFor([&] { return part("cracked") != nullptr; }, 20'000));
        settle();
        go(Stretch::Check);
        settle();
    }
    CheckPanel* panel() { return window->check_panel(); }
    MarkRow* row(const QString& title) {
        for (MarkRow* row : panel()->finding_rows())
            if (row->title().startsWith(title)) return row;
        ADD_FAILURE() << "no finding " << title.toStdString();
        return nullptr;
    }
    bool says(const QString& words) {
        for (QLabel* label : panel()->findChildren<QLabel*>())
            if (label->isVisible() && label->text() == words) return true;
        return false;
    }
    /// Where the label of the finding stands in the picture.
    Vec3 looked_at() { return window->view()->marks().empty() ? Vec3(0, 0, 0) : window->view()->marks().front().at; }
};

} // namespace

TEST_F(FindingPlaces, TheBedIsSeenWholeWhateverWasLookedAtBefore) {
    open_part("Shelf",
              nlohmann::json::array({block(10, 60, 120), block(60, 60, 4, {{"at_x", 35}, {"at_z", 100}}),
                                     block(40, 40, 4, {{"at_x", -25}, {"at_z", 60}})}),
              Stretch::Check);
    ASSERT_FALSE(panel()->finding_rows().empty());
    QTest::mouseClick(panel()->finding_rows().front(), Qt::LeftButton);
    settle();
    Pick shelf;
    shelf.kind = Pick::Kind::Body;
    shelf.part = part("Shelf")->id;
    const auto whole = [&] { return window->view()->scene().box_of({shelf}); };
    ASSERT_TRUE(session->workspace().active_finding());
    EXPECT_FALSE(window->view()->sees(whole())) << "the place is looked at from near";
    go(Stretch::Bed);
    settle();
    EXPECT_TRUE(session->workspace().active_finding()) << "it is there still where one comes back";
    EXPECT_TRUE(window->view()->sees(whole()));
}

TEST_F(FindingPlaces, AreComeToInTurn) {
    bring_in_cracked_cube();
    MarkRow* open = row("Open edges");
    ASSERT_NE(open, nullptr);
    EXPECT_EQ(open->title(), "Open edges · 6");
    EXPECT_EQ(panel()->place_after(), nullptr) << "nothing is looked at yet";
    QTest::mouseClick(open, Qt::LeftButton);
    settle();
    ASSERT_NE(panel()->place_after(), nullptr);
    EXPECT_TRUE(says("Place 1 of 6"));
    ASSERT_EQ(window->view()->marks().front().outlines.size(), 6u) << "all of them are drawn";
    EXPECT_TRUE(window->view()->marks().front().title.endsWith("place 1"));
    std::vector<Vec3> seen;
    for (int n = 1; n <= 6; ++n) {
        EXPECT_TRUE(says(QString("Place %1 of 6").arg(n)));
        // Every one of another edge, and in the picture.
        for (const Vec3& before : seen) EXPECT_GT((looked_at() - before).norm(), 1e-6);
        seen.push_back(looked_at());
        if (n == 1)
            panel()->place_after()->setFocus();
        else
            EXPECT_TRUE(QTest::qWaitFor([&] { return panel()->place_after()->hasFocus(); })) << "keys go on there";
        QTest::keyClick(panel()->place_after(), Qt::Key_Space);
        settle();
    }
    EXPECT_TRUE(says("Place 1 of 6")) << "round again";
    QTest::mouseClick(panel()->place_before(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(says("Place 6 of 6"));
    EXPECT_LT((looked_at() - seen.back()).norm(), 1e-9);
    const QPoint at = window->view()->project(looked_at()).toPoint();
    EXPECT_TRUE(window->view()->rect().adjusted(20, 20, -20, -20).contains(at)) << "it was brought into sight";
    // Another part, or mending: nothing of it is left.
    QTest::mouseClick(panel()->mend_button(), Qt::LeftButton);
    settle();
    EXPECT_EQ(panel()->place_after(), nullptr);
    for (const ViewMark& mark : window->view()->marks()) EXPECT_TRUE(mark.outlines.empty());
}

TEST_F(FindingPlaces, ACureIsSeenInPlaceBeforeItIsTaken) {
    bring_in_cracked_cube();
    QTest::mouseClick(row("Open edges"), Qt::LeftButton);
    settle();
    auto fill = [&]() -> QPushButton* {
        for (QPushButton* cure : panel()->cure_buttons())
            if (cure->text().startsWith("Fill the holes")) return cure;
        return nullptr;
    };
    ASSERT_TRUE(QTest::qWaitFor([&] { return fill() != nullptr; }, 20'000));
    auto facets = [&] { return window->view()->scene().bodies.front().shape->mesh.triangles.size(); };
    ASSERT_EQ(facets(), 10u);
    const size_t steps = part("cracked")->steps.size();
    QPushButton* cure = fill();
    const QPointF on = cure->rect().center();
    QMouseEvent move(QEvent::MouseMove, on, cure->mapToGlobal(on), Qt::NoButton, Qt::NoButton, Qt::NoModifier);
    QApplication::sendEvent(cure, &move);
    EXPECT_TRUE(QTest::qWaitFor([&] { return facets() == 12; }, 10'000)) << "what comes is seen";
    EXPECT_EQ(part("cracked")->steps.size(), steps) << "and nothing is done";
    EXPECT_EQ(fill(), cure) << "the button stays under the pointer";
    EXPECT_EQ(window->view()->marks().front().outlines.size(), 6u) << "what goes is drawn";
    QEvent leave(QEvent::Leave);
    QApplication::sendEvent(cure, &leave);
    EXPECT_TRUE(QTest::qWaitFor([&] { return facets() == 10; }, 10'000)) << "as it was";
    settle();
    ASSERT_NE(fill(), nullptr) << "still offered, without being tried again";
    QTest::mouseClick(fill(), Qt::LeftButton);
    settle();
    EXPECT_EQ(part("cracked")->steps.size(), steps + 1);
    EXPECT_EQ(facets(), 12u);
    for (MarkRow* left : panel()->finding_rows()) EXPECT_FALSE(left->title().startsWith("Open edges"));
    press(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(facets(), 10u) << "undone";
    // Pressed while it is shown: done, and told anew.
    ASSERT_TRUE(QTest::qWaitFor([&] { return fill() != nullptr; }, 20'000));
    cure = fill();
    QApplication::sendEvent(cure, &move);
    EXPECT_TRUE(QTest::qWaitFor([&] { return facets() == 12; }, 10'000));
    QTest::mouseClick(cure, Qt::LeftButton);
    settle();
    EXPECT_EQ(part("cracked")->steps.size(), steps + 1);
    EXPECT_TRUE(QTest::qWaitFor([&] { return panel()->cure_buttons().empty(); }, 5000)) << "nothing is shown any more";
    EXPECT_FALSE(session->results().is_previewing());
}

// Parts doubled and carried by the shelf's keys, and the sides of the open box that look along the axes.
#include "app/view/look_net.h"
#include "window_test.h"
#include <QClipboard>

using namespace lp;

TEST_F(Window, APartIsDoubledByAKeyAndOneUndoTakesItBack) {
    open_demo();
    const size_t before = session->project()->parts.size();
    choose("Cradle");
    window->shelf()->setFocus();
    press(Qt::Key_D, Qt::ControlModifier);
    settle();
    ASSERT_EQ(session->project()->parts.size(), before + 1);
    EXPECT_NEAR(volume("Cradle 2"), volume("Cradle"), 1e-6);
    EXPECT_EQ(session->workspace().active_part(), part("Cradle 2")->id);
    undo();
    EXPECT_EQ(session->project()->parts.size(), before);
}

TEST_F(Window, APartGoesIntoAnotherProjectWithItsNumbers) {
    open_demo();
    choose("See-saw bucket");
    const double was = volume("See-saw bucket");
    window->shelf()->setFocus();
    press(Qt::Key_C, Qt::ControlModifier);
    EXPECT_TRUE(said.contains("Copied See-saw bucket")) << said.toStdString();
    press(Qt::Key_N, Qt::ControlModifier);
    ASSERT_TRUE(session->project()->parts.empty());
    for (int i = 0; i < 5; ++i) QApplication::processEvents();
    window->shelf()->setFocus();
    press(Qt::Key_V, Qt::ControlModifier);
    settle();
    ASSERT_TRUE(part("See-saw bucket"));
    EXPECT_NEAR(volume("See-saw bucket"), was, 1e-6);
    EXPECT_FALSE(session->project()->parameters.empty());
    undo();
    EXPECT_TRUE(session->project()->parts.empty());
    EXPECT_TRUE(session->project()->parameters.empty()) << "one act, one undo";
    QApplication::clipboard()->setText("no part");
    press(Qt::Key_V, Qt::ControlModifier);
    EXPECT_TRUE(said_wrong) << "what is no part is refused in words";
}

TEST_F(Window, EachSideOfTheOpenBoxLooksAlongItsAxis) {
    open_demo();
    auto* net = window->findChild<LookNet*>();
    ASSERT_TRUE(net && net->isVisible());
    for (size_t side = 0; side < LookNet::sides().size(); ++side) {
        QTest::mouseClick(net, Qt::LeftButton, {}, net->rect_of(side).center());
        QApplication::processEvents();
        const Vec3 forward = window->view()->camera().forward();
        EXPECT_GT(-LookNet::sides()[side].outward.dot(forward), 0.99) << LookNet::sides()[side].name;
        EXPECT_EQ(net->facing(), side);
    }
    net->setFocus(); // by keys: from the last one, below, up to the front and on to the right
    press(Qt::Key_Up);
    press(Qt::Key_Right);
    press(Qt::Key_Return);
    EXPECT_STREQ(LookNet::sides()[net->facing()].name, "right");
}

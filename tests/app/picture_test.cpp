// Pictures are drawn beside the interface: nobody waits for one, the newest is shown, marks stand where it has them.
#include "app/view/picture_maker.h"
#include "window_test.h"
#include <QSignalSpy>

using namespace lp;

namespace {

PictureOrder order_of(int wide) {
    SceneBody body;
    body.shape = std::make_shared<const Tessellation>(segment_mesh(test::cube(20)));
    body.colour = Qt::red;
    PictureOrder order;
    order.scene.bodies = {body};
    order.camera.fit(order.scene.box(), QSize(wide, 100));
    order.pixels = QSize(wide, 100);
    return order;
}

/// As on a maker's screen: the interface does not wait for pictures. Tests otherwise do.
class Drawn : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        qApp->setProperty("still", false);
    }
    void TearDown() override {
        qApp->setProperty("still", true);
        Window::TearDown();
    }
};

} // namespace

TEST(PictureMaker, TheNewestOrderIsWhatComesOut) {
    PictureMaker maker;
    EXPECT_FALSE(maker.busy());
    EXPECT_FALSE(maker.take());
    for (int wide = 50; wide <= 300; wide += 10) maker.order(order_of(wide));
    maker.wait();
    EXPECT_FALSE(maker.busy());
    EXPECT_TRUE(maker.problem().isEmpty()) << maker.problem().toStdString();
    const auto picture = maker.take();
    ASSERT_TRUE(picture);
    EXPECT_EQ(picture->image.size(), QSize(300, 100));
    EXPECT_EQ(picture->camera.half_height, order_of(300).camera.half_height);
    EXPECT_FALSE(maker.take()) << "once";
}

TEST(PictureMaker, ReadyIsToldOnTheInterfacesThread) {
    PictureMaker maker;
    bool here = false;
    QObject::connect(&maker, &PictureMaker::ready, &maker, [&] { here = QThread::currentThread() == qApp->thread(); });
    QSignalSpy ready(&maker, &PictureMaker::ready);
    maker.order(order_of(80));
    EXPECT_TRUE(ready.wait());
    EXPECT_TRUE(here);
    EXPECT_TRUE(maker.take());
}

TEST(PictureMaker, EndsWhileItDrawsAndTakesEmptyOrders) {
    for (int i = 0; i < 5; ++i) {
        PictureMaker maker;
        maker.order(order_of(200));
    }
    PictureMaker maker;
    maker.order(order_of(0));
    maker.wait();
    const auto picture = maker.take();
    ASSERT_TRUE(picture);
    EXPECT_TRUE(picture->image.isNull());
}

TEST_F(Drawn, TheViewTurnsByAKeyWithoutWaiting) {
    open_demo();
    ViewWidget* view = window->view();
    view->setFocus();
    const QImage before = view->picture();
    QSignalSpy drawn(view, &ViewWidget::drawn);
    QTest::keyClick(view, Qt::Key_Right);
    EXPECT_EQ(drawn.count(), 0) << "the key has returned, the picture is under way";
    ASSERT_TRUE(drawn.wait());
    QApplication::processEvents();
    EXPECT_NE(view->grab().toImage(), before);
    EXPECT_NE(view->picture(), before);
    // What is on the screen is the picture of where the camera rests.
    for (int i = 0; i < 6; ++i) QTest::keyClick(view, Qt::Key_Left);
    QTest::keyClick(view, Qt::Key_Right); // 5 back in all
    while (drawn.wait(300)) {
    }
    const QImage shown = view->grab().toImage();
    view->picture(); // drawn for certain
    EXPECT_EQ(view->grab().toImage(), shown);
    QTest::keyClick(view, Qt::Key_Home);
    ASSERT_TRUE(drawn.wait());
}

TEST_F(Drawn, AWiderWindowGetsItsPicture) {
    open_demo();
    ViewWidget* view = window->view();
    view->picture();
    QSignalSpy drawn(view, &ViewWidget::drawn);
    window->resize(window->width() - 120, window->height() - 60);
    while (drawn.wait(300)) {
    }
    EXPECT_EQ(view->picture().size(), view->size() * view->devicePixelRatioF());
}

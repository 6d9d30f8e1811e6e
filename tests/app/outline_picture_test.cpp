// A photo in an outline: brought in, seen, scaled by two places, traced, raised.
#include "app/outline/outline_editor.h"
#include "dialog_answer.h"
#include "window_test.h"
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QTimer>

using namespace lp;

namespace {

class PictureWindow : public Window {
  protected:
    OutlineEditor& editor() { return *window->outline(); }
    /// A coloured photo of a disc of 200 pixels across with a white bar through it, on light ground.
    QString photo(const char* name) {
        QImage image(800, 600, QImage::Format_ARGB32);
        image.fill(QColor("#dfe4d0"));
        QPainter p(&image);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor("#6a2f2f"));
        p.drawEllipse(QPointF(400, 300), 200, 200);
        p.end();
        const QString file = QString::fromStdString((folder.path / name).string());
        EXPECT_TRUE(image.save(file));
        return file;
    }
    void click(double x, double y) {
        const QPoint at = editor().to_view({x, y}).toPoint();
        QTest::mouseMove(window->view(), at);
        QTest::mouseClick(window->view(), Qt::LeftButton, {}, at);
        QApplication::processEvents();
    }
    const Element& picture() { return editor().drawing().elements.front(); }
    double filled() {
        double area = 0;
        const OutlineShape& shape = *editor().shape();
        for (size_t i = 0; i < shape.filled.size(); ++i)
            if (shape.filled[i]) area += shape.arrangement.regions[i].area_mm2;
        return area;
    }
    bool offered(const QString& words) {
        for (const Offer& offer : window->offers()->offers())
            if (offer.words.startsWith(words)) return true;
        return false;
    }
};

} // namespace

TEST_F(PictureWindow, APhotoIsScaledByTwoPlacesTracedAndRaised) {
    take("Outline");
    ASSERT_TRUE(editor().active());
    QImage before = window->view()->grab().toImage();
    editor().bring_in(photo("emblem.png"));
    settle();
    ASSERT_EQ(editor().drawing().elements.size(), 1u);
    EXPECT_NE(window->view()->grab().toImage(), before) << "it is seen";
    // 800 pixels are 100 mm: the disc is 50 across.
    EXPECT_NEAR(filled(), std::numbers::pi * 625, 25);
    ASSERT_TRUE(offered("True length"));
    ASSERT_TRUE(offered("Dark auto"));
    take("True length");
    const Vec2 corner = editor().drawing().points.at(picture().points[0]), middle = corner + Vec2(50, 37.5);
    click(middle.x() - 25, middle.y());
    click(middle.x() + 25, middle.y());
    ASSERT_NE(editor().box(), nullptr);
    QTest::keyClicks(editor().box(), "40");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(filled(), std::numbers::pi * 400, 20) << "40 across in truth";
    // Another brightness, a wrong one, and back.
    take("Dark");
    ASSERT_NE(editor().box(), nullptr);
    editor().box()->selectAll();
    QTest::keyClicks(editor().box(), "900");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    EXPECT_EQ(element_text(picture(), "dark"), "auto");
    editor().select(picture().id, false);
    take("Dark");
    editor().box()->selectAll();
    QTest::keyClicks(editor().box(), "50 %");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    EXPECT_EQ(element_text(picture(), "dark"), "50 %");
    EXPECT_NEAR(filled(), std::numbers::pi * 400, 20);
    undo();
    undo();
    EXPECT_NEAR(filled(), std::numbers::pi * 625, 25);
    redo();
    // Kept in the file, and a body comes of it.
    const QString file = QString::fromStdString((folder.path / "emblem.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    QTest::keyClick(window->view(), Qt::Key_Escape);
    take("Extrude");
    settle();
    EXPECT_NEAR(session->results().evaluation()->parts.at(0).mass.volume_mm3, std::numbers::pi * 400 * 10, 200);
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(session->project()->imports.size(), 1u);
}

TEST_F(PictureWindow, AFileIsChosenThroughTheMenuAndItsDialog) {
    take("Outline");
    const QString file = photo("emblem.jpg");
    take("More …");
    QMenu* list = menu();
    ASSERT_NE(list, nullptr);
    QAction* bring_in = nullptr;
    for (QAction* action : list->actions())
        if (action->text().startsWith("Bring in")) bring_in = action;
    ASSERT_NE(bring_in, nullptr);
    DialogAnswer answer(file);
    QTest::mouseClick(list, Qt::LeftButton, {}, list->actionGeometry(bring_in).center());
    EXPECT_TRUE(QTest::qWaitFor([&] { return editor().drawing().elements.size() == 1; }, 20000)) << answer.said();
    settle();
    EXPECT_NEAR(filled(), std::numbers::pi * 625, 25);
}

TEST_F(PictureWindow, WhatIsNoPictureIsRefusedInWordsAndNothingIsLost) {
    take("Outline");
    const QString file = QString::fromStdString((folder.path / "broken.jpg").string());
    QFile broken(file);
    ASSERT_TRUE(broken.open(QIODevice::WriteOnly));
    broken.write("\xff\xd8\xff\xe0 no picture");
    broken.close();
    editor().bring_in(file);
    settle();
    EXPECT_TRUE(editor().drawing().elements.empty());
    EXPECT_TRUE(said_wrong && said.contains("no picture")) << said.toStdString();
    // Without a picture there is nothing to scale.
    say("true length");
    EXPECT_EQ(editor().tool(), DrawTool::Select);
}

// Things that bend and halves that hold each other, by pointer and keys: what they tell below their sentence, and the
// length that would do on a button.
#include "window_test.h"
#include <QLabel>
#include <QPushButton>

using namespace lp;

namespace {

class JointsByHand : public lp::Window {
  protected:
    void click_top() {
        const StepBody& body = session->results().evaluation()->parts.at(0).bodies.at(0);
        const Box3 box = body.body.box();
        const Vec3 on(box.center().x() + 4, box.center().y() + 3, box.max().z());
        QTest::mouseClick(window->view(), Qt::LeftButton, {}, window->view()->project(on).toPoint());
        QApplication::processEvents();
        ASSERT_EQ(session->workspace().selection().size(), 1u);
    }
    const StepOutcome& outcome(size_t i) { return session->results().evaluation()->parts.at(0).steps.at(i); }
    /// All that stands in a row of the sheet.
    QString words(size_t row) {
        QStringList all;
        for (QLabel* label : window->sheet()->rows().at(row)->findChildren<QLabel*>())
            if (label->isVisible()) all << label->text();
        return all.join("\n");
    }
    QPushButton* button(size_t row, const QString& begins) {
        for (QPushButton* b : window->sheet()->rows().at(row)->findChildren<QPushButton*>())
            if (b->text().startsWith(begins) && b->isVisible()) return b;
        return nullptr;
    }
};

} // namespace

TEST_F(JointsByHand, AHookThatWouldBreakIsMadeLongerByItsButton) {
    open_part("Lid", nlohmann::json::array({block(60, 40, 4)}), Stretch::Shape);
    click_top();
    say("snap hook here");
    settle();
    ASSERT_TRUE(outcome(1).ok) << outcome(1).says;
    EXPECT_TRUE(words(1).contains("push it in")) << words(1).toStdString();
    EXPECT_EQ(button(1, "Make it"), nullptr) << "the usual one holds";
    type(1, "length", "9 mm");
    settle();
    EXPECT_TRUE(words(1).contains("it breaks")) << words(1).toStdString();
    QPushButton* longer = button(1, "Make it");
    ASSERT_NE(longer, nullptr);
    QTest::mouseClick(longer, Qt::LeftButton);
    settle();
    EXPECT_FALSE(words(1).contains("it breaks")) << words(1).toStdString();
    EXPECT_FALSE(outcome(1).cure);
    undo();
    EXPECT_TRUE(words(1).contains("it breaks"));
    // Another material stands it; its card is asked.
    go(Stretch::Fit);
    type_into(window->findChild<FitPanel*>()->cards()->field("strain_percent"), "12");
    settle();
    go(Stretch::Shape);
    settle();
    EXPECT_FALSE(words(1).contains("it breaks")) << words(1).toStdString();
}

TEST_F(JointsByHand, ALivingHingeIsCutIntoTheChosenFace) {
    open_part("Cover", nlohmann::json::array({block(60, 40, 2)}), Stretch::Shape);
    const double before = volume("Cover");
    click_top();
    say("living hinge here");
    settle();
    ASSERT_TRUE(outcome(1).ok) << outcome(1).says;
    EXPECT_NEAR(before - volume("Cover"), 60 * 6 * 1.6, 1e-6);
    EXPECT_TRUE(words(1).contains("strained by")) << words(1).toStdString();
    type(1, "web", "2 mm");
    settle();
    EXPECT_FALSE(outcome(1).ok);
    EXPECT_TRUE(words(1).contains("no web is left")) << words(1).toStdString();
    undo();
    EXPECT_NEAR(before - volume("Cover"), 60 * 6 * 1.6, 1e-6);
}

TEST_F(JointsByHand, HalvesWithADovetail) {
    open_part("Beam", nlohmann::json::array({block(60, 24, 40)}), Stretch::Shape);
    say("split, interlocked");
    settle();
    type(1, "distance", "20 mm");
    settle();
    ASSERT_TRUE(outcome(1).ok) << outcome(1).says;
    EXPECT_EQ(session->results().evaluation()->parts.at(0).bodies.size(), 2u);
    EXPECT_TRUE(words(1).contains("A dovetail, 12")) << words(1).toStdString();
    type(1, "joint", "lap");
    settle();
    EXPECT_TRUE(words(1).contains("The halves lap by 6")) << words(1).toStdString();
    type(1, "wide", "300 mm");
    settle();
    EXPECT_TRUE(outcome(1).ok) << "a lap has no width";
    type(1, "joint", "tongue");
    settle();
    EXPECT_FALSE(outcome(1).ok);
    EXPECT_TRUE(words(1).contains("no wall left")) << words(1).toStdString();
}

// Supports as their numbers are typed in the column Bed: sizes, the gap in layers, the interface.
#include "window_test.h"
#include <QLabel>
#include <QPushButton>

using namespace lp;

namespace {

class SupportSizesWindow : public Window {
  protected:
    /// A table of 40 x 10 on one leg, supports put in.
    void open_table() {
        open_part("Table", {block(10, 10, 20), block(40, 10, 3, {{"at_z", 20}})}, Stretch::Bed);
        for (QPushButton* button : window->bed_panel()->findChildren<QPushButton*>())
            if (button->text() == "Put supports in") {
                QTest::mouseClick(button, Qt::LeftButton);
                settle();
                return;
            }
        FAIL() << "no button puts supports in";
    }
    ValueField* field(const QString& name) {
        for (ValueField* f : window->bed_panel()->findChildren<ValueField*>())
            if (f->accessibleName().startsWith(name) && f->isVisibleTo(window->bed_panel())) return f;
        return nullptr;
    }
    void type(const QString& name, const QString& text) {
        ASSERT_NE(field(name), nullptr) << name.toStdString();
        type_into(field(name), text.toUtf8());
        settle();
    }
    const SupportOptions& options() { return part("Table")->supports.options; }
    const Supports& made() { return session->results().analysis()->part(part("Table")->id)->supports; }
    QString told() {
        QString all;
        for (QLabel* label : window->bed_panel()->findChildren<QLabel*>()) all += label->text() + "\n";
        return all;
    }
};

} // namespace

TEST_F(SupportSizesWindow, NeckFootAndTheGapInLayersAreTypedAndTheSupportsFollow) {
    open_table();
    ASSERT_FALSE(made().posts.empty());
    type("Foot, wider by", "0.6");
    EXPECT_EQ(options().foot_mm, 0.6);
    EXPECT_NEAR(made().posts[0].foot_mm, 0.6, 1e-9);
    type("Neck", "5");
    EXPECT_NEAR(made().posts[0].neck_mm, 5, 1e-9);
    EXPECT_NEAR(made().posts[0].tip.z(), 19.8, 1e-6);
    type("Gap, layers", "2");
    EXPECT_NEAR(made().posts[0].tip.z(), 19.6, 1e-6) << "two layers of 0.2";
    EXPECT_EQ(field("Gap under the part"), nullptr) << "one gap stands there, not two";
    EXPECT_TRUE(field("Gap, layers")->toolTip().contains("0.4 mm of air under what is carried"))
        << field("Gap, layers")->toolTip().toStdString();
    type("Gap, layers", "11");
    EXPECT_EQ(options().gap_layers, 2) << "eleven layers make no sense";
    press(Qt::Key_Escape);
    undo();
    EXPECT_EQ(options().gap_layers, 0);
    settle();
    EXPECT_NE(field("Gap under the part"), nullptr);
    redo();
    const QString file = QString::fromStdString((folder.path / "table.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(options().gap_layers, 2);
    EXPECT_EQ(options().neck_mm, 5);
    EXPECT_EQ(options().foot_mm, 0.6);
}

TEST_F(SupportSizesWindow, TabGoesOnToTheNextNumberAndWhatIsTypedThereIsTaken) {
    open_table();
    QTest::mouseClick(field("Neck"), Qt::LeftButton, {}, field("Neck")->rect().center());
    ASSERT_NE(field("Neck")->editor(), nullptr);
    field("Neck")->editor()->selectAll();
    QTest::keyClicks(field("Neck")->editor(), "5");
    QTest::keyClick(field("Neck")->editor(), Qt::Key_Tab);
    settle();
    EXPECT_TRUE(QTest::qWaitFor([&] { return field("Foot, wider by") && field("Foot, wider by")->hasFocus(); }, 3000));
    EXPECT_EQ(options().neck_mm, 5);
    QTest::keyClicks(QApplication::focusWidget(), "0");
    QTest::keyClicks(QApplication::focusWidget(), ".5");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    settle();
    EXPECT_EQ(options().foot_mm, 0.5);
    EXPECT_TRUE(QTest::qWaitFor([&] { return field("Foot, wider by")->hasFocus(); }, 3000)) << "the hand stays there";
}

TEST_F(SupportSizesWindow, AnInterfaceIsTypedFilledAndKept) {
    open_table();
    type("Interface, layers", "2");
    EXPECT_EQ(options().interface_layers, 2);
    EXPECT_TRUE(told().contains("lie over a closed floor")) << told().toStdString();
    type("Interface, layers", "-1");
    EXPECT_EQ(options().interface_layers, 2);
    press(Qt::Key_Escape);
    undo();
    EXPECT_EQ(options().interface_layers, 0);
    redo();
    EXPECT_EQ(options().interface_layers, 2);
}

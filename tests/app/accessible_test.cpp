// What assistive programs are told: everything that takes the keys has a name, painted widgets have a role and a value,
// and the keys go through the window in the order it is read.
#include "app/accessible.h"
#include "window_test.h"
#include <QAbstractButton>
#include <QAccessible>
#include <QLabel>

using namespace lp;

class Heard : public Window {
  protected:
    /// What is said of a widget.
    static QString name_of(QWidget* w) {
        QAccessibleInterface* heard = QAccessible::queryAccessibleInterface(w);
        return heard ? heard->text(QAccessible::Name) : QString();
    }
    QList<QWidget*> takes_keys() {
        QList<QWidget*> all;
        for (QWidget* w : window->findChildren<QWidget*>())
            if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus)) all << w;
        return all;
    }
};

TEST_F(Heard, WhateverTakesTheKeysHasAName) {
    open_demo();
    for (Stretch stretch : {Stretch::Shape, Stretch::Fit, Stretch::Check, Stretch::Bed, Stretch::Export}) {
        go(stretch);
        press(Qt::Key_L, Qt::ControlModifier);
        settle();
        EXPECT_GT(takes_keys().size(), 8);
        for (QWidget* w : takes_keys())
            EXPECT_FALSE(name_of(w).isEmpty())
                << int(stretch) << ": " << w->metaObject()->className() << " " << w->objectName().toStdString();
    }
}

TEST_F(Heard, PaintedWidgetsSayWhatTheyAre) {
    open_demo();
    auto role = [](QWidget* w) { return QAccessible::queryAccessibleInterface(w)->role(); };
    EXPECT_EQ(role(window->tape()), QAccessible::PageTabList);
    EXPECT_EQ(role(window->shelf()), QAccessible::List);
    EXPECT_EQ(role(window->strip()), QAccessible::Slider);
    EXPECT_EQ(role(window->view()), QAccessible::Canvas);
    StepRow* row = window->sheet()->rows().front();
    EXPECT_EQ(role(row), QAccessible::ListItem);
    EXPECT_TRUE(name_of(row).startsWith("Step 1: ")) << name_of(row).toStdString();
    ValueField* field = row->field(row->stops().front());
    EXPECT_EQ(role(field), QAccessible::SpinBox);
    EXPECT_TRUE(QAccessible::queryAccessibleInterface(field)->text(QAccessible::Value).contains("mm"));
}

TEST_F(Heard, TheKeysGoThroughASentenceInTheOrderItIsRead) {
    open_demo();
    StepRow* row = window->sheet()->rows().front();
    QPoint before(-1, -1);
    for (const std::string& name : row->stops()) {
        const QPoint at = row->field(name)->mapTo(row, QPoint(0, 0));
        EXPECT_TRUE(at.y() > before.y() || (at.y() == before.y() && at.x() > before.x())) << name;
        before = at;
    }
}

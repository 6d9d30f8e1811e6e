// The hand on its way: a step that was added is typed into at once, the tabulator goes on, what is chosen stays what it
// is, and everything there is can be found by looking.
#include "app/outline/outline_editor.h"
#include "window_test.h"
#include <QListView>
#include <QListWidget>
#include <QRegularExpression>

using namespace lp;

class Typing : public Window {
  protected:
    PartPtr active() { return session->project()->part(session->workspace().active_part()); }
    std::string field(size_t step, const char* name) {
        const Step& s = active()->steps.at(step);
        return field_text(s, *find_step_kind(s.kind)->field(name));
    }
    double size(const char* name, size_t step = 0) { return session_value(field(step, name)); }
    static double session_value(const std::string& text) {
        return evaluate_expression(text, QuantityKind::Length, {}).value_or(-1);
    }
    /// The line that has the keys; null when it is something else.
    QLineEdit* open_line() { return qobject_cast<QLineEdit*>(QApplication::focusWidget()); }
    void type_here(const char* text) {
        ASSERT_NE(open_line(), nullptr) << "no number is open";
        QTest::keyClicks(open_line(), text);
    }
    void key_in_view(Qt::Key key) {
        ASSERT_TRUE(window->view()->hasFocus());
        press(key);
        settle();
    }
    /// A click where a place of the active part is seen.
    void click(const Vec3& at, Qt::KeyboardModifiers with = {}) {
        QTest::mouseClick(window->view(), Qt::LeftButton, with, window->view()->project(at).toPoint());
        settle();
    }
    void begin_with_a_block(const char* x = "40", const char* y = "30", const char* z = "20") {
        window->view()->setFocus();
        key_in_view(Qt::Key_1);
        for (const char* number : {x, y, z}) {
            type_here(number);
            press(number == z ? Qt::Key_Return : Qt::Key_Tab);
        }
        settle();
    }
    const std::vector<Pick>& chosen() { return session->workspace().selection(); }
};

TEST_F(Typing, AStepThatWasAddedIsTypedIntoAndTheTabulatorGoesOn) {
    window->view()->setFocus();
    key_in_view(Qt::Key_1); // Block
    ASSERT_NE(open_line(), nullptr) << "its first number stands open";
    EXPECT_EQ(open_line()->selectedText(), open_line()->text()) << "its text is chosen";
    type_here("84");
    press(Qt::Key_Tab);
    settle(); // what is made anew takes nothing from under the fingers
    type_here("52");
    press(Qt::Key_Tab);
    type_here("31");
    press(Qt::Key_Backtab);
    ASSERT_NE(open_line(), nullptr);
    EXPECT_EQ(open_line()->text(), "52") << "back in the sentence, what was typed was kept";
    type_here("50");
    press(Qt::Key_Return);
    settle();
    EXPECT_EQ(size("size_x"), 84);
    EXPECT_EQ(size("size_y"), 50);
    EXPECT_EQ(size("size_z"), 31);
    EXPECT_TRUE(window->view()->hasFocus()) << "Enter gives the view the keys";
    undo();
    EXPECT_EQ(size("size_y"), 52) << "each was an act of its own";
}

TEST_F(Typing, WhatCannotBeReadStaysOpenAndEscapePutsTheOldBack) {
    begin_with_a_block();
    key_in_view(Qt::Key_1);
    type_here("12 parrots");
    press(Qt::Key_Tab);
    ASSERT_NE(open_line(), nullptr);
    EXPECT_EQ(open_line()->text(), "12 parrots") << "nothing is lost, and the hand is where it was";
    press(Qt::Key_Escape);
    EXPECT_EQ(open_line(), nullptr);
    const double before = size("size_x", 1);
    settle();
    EXPECT_EQ(size("size_x", 1), before);
}

TEST_F(Typing, ANumberIsShownWhileItIsTypedKeptByEnterAndDroppedByEscape) {
    begin_with_a_block();
    auto tall = [&] { return session->results().evaluation()->parts[0].box.sizes().z(); };
    auto shows = [&](double height) {
        for (int i = 0; i < 400 && std::fabs(tall() - height) > 1e-9; ++i) QTest::qWait(10);
        return tall();
    };
    ValueField* z = window->sheet()->rows()[0]->field("size_z");
    QTest::mouseClick(z, Qt::LeftButton);
    type_here("35");
    EXPECT_EQ(shows(35), 35);
    EXPECT_EQ(size("size_z"), 20) << "it is nobody's yet";
    EXPECT_TRUE(session->document().history().undo_sentence().find("35") == std::string::npos);
    ASSERT_NE(open_line(), nullptr) << "and the hand goes on typing";
    EXPECT_EQ(open_line()->text(), "35");
    press(Qt::Key_Escape);
    EXPECT_EQ(shows(20), 20) << "as it was";
    QTest::mouseClick(z, Qt::LeftButton);
    type_here("50");
    EXPECT_EQ(shows(50), 50);
    press(Qt::Key_Return);
    settle();
    EXPECT_EQ(size("size_z"), 50);
    EXPECT_EQ(tall(), 50);
    undo();
    EXPECT_EQ(tall(), 20);
}

TEST_F(Typing, TakingBackRightAfterAddingTakesTheStepBack) {
    begin_with_a_block();
    key_in_view(Qt::Key_2);
    ASSERT_NE(open_line(), nullptr);
    undo();
    EXPECT_EQ(active()->steps.size(), 1u);
    redo();
    EXPECT_EQ(active()->steps.size(), 2u);
}

TEST_F(Typing, TheLastFieldLeadsToTheNextSentenceAndTheLastSentenceToWhatIsNext) {
    begin_with_a_block();
    key_in_view(Qt::Key_2);
    press(Qt::Key_Return);
    QTest::mouseClick(window->sheet()->rows()[0]->field("size_z"), Qt::LeftButton);
    for (int i = 0; i < 12 && !window->sheet()->rows()[1]->isAncestorOf(QApplication::focusWidget()); ++i)
        press(Qt::Key_Tab);
    EXPECT_TRUE(window->sheet()->rows()[1]->isAncestorOf(QApplication::focusWidget()));
    QWidget* next = window->sheet()->next_step();
    for (int i = 0; i < 16 && QApplication::focusWidget() != next; ++i) press(Qt::Key_Tab);
    EXPECT_EQ(QApplication::focusWidget(), next);
    EXPECT_EQ(active()->steps.size(), 2u) << "nothing was changed on the way";
}

TEST_F(Typing, AFilletByItsDigitIsTypedAtOnce) {
    begin_with_a_block();
    click({20, -15, 10}); // the upright edge at the front right
    ASSERT_EQ(chosen().size(), 1u);
    ASSERT_EQ(chosen()[0].kind, Pick::Kind::Edge);
    ASSERT_EQ(window->offers()->offers()[0].words, "Fillet");
    key_in_view(Qt::Key_1);
    type_here("5");
    press(Qt::Key_Return);
    settle();
    EXPECT_EQ(size("radius", 1), 5);
    EXPECT_NEAR(volume("Part"), 40 * 30 * 20 - (1 - std::numbers::pi / 4) * 25 * 20, 1e-6);
    EXPECT_TRUE(chosen().empty()) << "that edge is a round now: nothing else is chosen in its place";
}

TEST_F(Typing, WhatIsChosenIsTheSameAfterTheShapeHasChanged) {
    begin_with_a_block();
    click({20, -15, 10});
    ASSERT_EQ(chosen().size(), 1u);
    type(0, "size_x", "60");
    settle();
    ASSERT_EQ(chosen().size(), 1u) << "it is still there";
    const EdgeInfo* edge = session->results().edge_of(chosen()[0]);
    ASSERT_NE(edge, nullptr);
    for (const Vec3& p : edge->points) EXPECT_NEAR((p.head<2>() - Vec2(30, -15)).norm(), 0, 1e-6) << p.transpose();
    // A hole beside it numbers faces and edges anew.
    say("cylinder 6 60 cut");
    settle();
    ASSERT_EQ(chosen().size(), 1u);
    edge = session->results().edge_of(chosen()[0]);
    ASSERT_NE(edge, nullptr);
    for (const Vec3& p : edge->points) EXPECT_NEAR((p.head<2>() - Vec2(30, -15)).norm(), 0, 1e-6) << p.transpose();
    undo();
    EXPECT_EQ(chosen().size(), 1u);
}

TEST_F(Typing, EachOfTheseIsFoundByLooking) {
    begin_with_a_block();
    struct Wanted {
        const char *group, *entry;
    };
    for (const Wanted& w : {Wanted{"Take away", "Hole here"},
                            {"Fits and joints", "Hinge"},
                            {"Place and repeat", "Repeat round"},
                            {"Letters and emblems", "Letters round a circle"},
                            {"Split and bend", "Split"},
                            {"Meshes", "Mend"}}) {
        window->view()->setFocus();
        press(Qt::Key_Slash);
        ActPanel* panel = window->offers()->panel();
        ASSERT_TRUE(panel->isVisible());
        EXPECT_TRUE(panel->line()->hasFocus());
        auto rows = panel->groups()->findItems(w.group, Qt::MatchExactly);
        ASSERT_EQ(rows.size(), 1) << w.group;
        QTest::mouseClick(panel->groups()->viewport(), Qt::LeftButton, {},
                          panel->groups()->visualItemRect(rows[0]).center());
        QApplication::processEvents();
        int at = -1;
        for (size_t i = 0; i < panel->listed().size(); ++i)
            if (panel->listed()[i]->words == w.entry) at = int(i);
        ASSERT_GE(at, 0) << w.entry;
        const Act& act = *panel->listed()[size_t(at)];
        EXPECT_GT(act.line.size(), 10) << "a line says what happens to the plastic";
        press(Qt::Key_Escape);
        EXPECT_FALSE(panel->isVisible());
        EXPECT_TRUE(window->view()->hasFocus());
    }
}

TEST_F(Typing, ThePanelIsWorkedByWordsArrowsAndNumbers) {
    begin_with_a_block();
    auto words_of_listed = [&] {
        QStringList words;
        for (const Act* act : window->offers()->panel()->listed()) words << act->words;
        return words;
    };
    press(Qt::Key_Slash);
    type_here("bevel");
    EXPECT_EQ(words_of_listed().value(0), "Chamfer") << "by a synonym of the trade";
    press(Qt::Key_Escape);
    press(Qt::Key_Slash);
    type_here("pattern round");
    EXPECT_EQ(words_of_listed().value(0), "Repeat round");
    press(Qt::Key_Escape);
    // Numbers after the words fill the fields; the arrows choose what is meant.
    press(Qt::Key_Slash);
    type_here("cyl 6 25");
    int row = words_of_listed().indexOf("Cylinder");
    ASSERT_GE(row, 0);
    for (int i = 0; i < row; ++i) press(Qt::Key_Down);
    press(Qt::Key_Return);
    settle();
    ASSERT_EQ(active()->steps.size(), 2u);
    EXPECT_EQ(size("diameter", 1), 6);
    EXPECT_EQ(size("height", 1), 25);
    EXPECT_FALSE(window->offers()->panel()->isVisible());
    EXPECT_TRUE(window->view()->hasFocus()) << "its numbers were typed: the view has the keys";
}

TEST_F(Typing, AnEntryThatDoesNotFitBeginsWithWhatItCan) {
    begin_with_a_block();
    click({20, -15, 10}); // an edge: no plane to draw on
    ASSERT_EQ(chosen()[0].kind, Pick::Kind::Edge);
    say("outline here");
    EXPECT_TRUE(window->outline()->active());
    EXPECT_EQ(field(1, "on"), "xy") << "the ground, not a face that has the edge's number";
}

TEST_F(Typing, NextStepOpensThePanelAndWhatIsChosenComesFirst) {
    begin_with_a_block();
    QTest::mouseClick(window->sheet()->next_step(), Qt::LeftButton);
    ActPanel* panel = window->offers()->panel();
    ASSERT_TRUE(panel->isVisible());
    EXPECT_TRUE(window->view()->rect().contains(panel->geometry())) << "nothing is cut off";
    press(Qt::Key_Escape);
    click({0, 0, 20}); // the top
    ASSERT_EQ(chosen().size(), 1u);
    press(Qt::Key_Slash);
    ASSERT_FALSE(panel->listed().empty());
    bool shell = false;
    for (const Act* act : panel->listed()) {
        EXPECT_TRUE(act->fits()) << act->words.toStdString() << " " << act->needs.toStdString();
        shell = shell || act->words.contains("Shell");
    }
    EXPECT_TRUE(shell);
    auto edges = panel->groups()->findItems("Edges and faces", Qt::MatchExactly);
    panel->groups()->setFocus();
    while (panel->groups()->currentItem() != edges.value(0)) press(Qt::Key_Down);
    bool told = false;
    for (const Act* act : panel->listed())
        if (act->words == "Gusset") told = act->needs == "choose an edge";
    EXPECT_TRUE(told) << "what does not fit says what it needs";
}

TEST_F(Typing, AMenuWhereThePointerIsHasWhatFitsTheFaceUnderIt) {
    begin_with_a_block();
    const QPoint top = window->view()->project({0, 0, 20}).toPoint();
    QTest::mouseClick(window->view(), Qt::RightButton, {}, top);
    settle();
    ASSERT_EQ(chosen().size(), 1u) << "what lies there is chosen";
    ASSERT_NE(menu(), nullptr);
    QStringList words;
    for (QAction* action : menu()->actions()) words << action->text();
    for (const char* fits :
         {"Outline here", "Push", "Shell, open here", "Hole here", "Draft", "Split", "On the bed", "The whole part"})
        EXPECT_TRUE(words.contains(fits)) << fits << " is not among " << words.join(", ").toStdString();
    for (const char* other : {"Fillet", "Fillet their edges", "Gusset", "Block", "Move"})
        EXPECT_FALSE(words.contains(other)) << other;
    EXPECT_LT(menu()->height(), window->height()) << words.size() << " entries";
    take_from_menu("Push");
    settle();
    type_here("3");
    press(Qt::Key_Return);
    settle();
    EXPECT_NEAR(volume("Part"), 40 * 30 * 23, 1e-6);
    // A drag with that button pans: no menu.
    const Camera before = window->view()->camera();
    QTest::mousePress(window->view(), Qt::RightButton, {}, top);
    QMouseEvent move(QEvent::MouseMove, top + QPoint(60, 0), window->view()->mapToGlobal(top + QPoint(60, 0)),
                     Qt::NoButton, Qt::RightButton, {});
    QApplication::sendEvent(window->view(), &move);
    QTest::mouseRelease(window->view(), Qt::RightButton, {}, top + QPoint(60, 0));
    EXPECT_EQ(menu(), nullptr);
    EXPECT_GT((window->view()->camera().centre - before.centre).norm(), 1);
}

TEST_F(Typing, WhatIsAddedAfterANewPartGoesIntoIt) {
    begin_with_a_block();
    click({0, 0, 20});
    ASSERT_EQ(chosen().size(), 1u);
    say("new part");
    EXPECT_TRUE(chosen().empty());
    say("block 10 10 10 0 0 20");
    ASSERT_EQ(session->project()->parts.size(), 2u);
    EXPECT_EQ(session->project()->parts[0]->steps.size(), 1u);
    EXPECT_EQ(session->project()->parts[1]->steps.size(), 1u);
}

TEST_F(Typing, OnTheBedLiesWhatIsPrintedInItsNumberAndNoStandIn) {
    begin_with_a_block("100", "90", "10");
    say("new stand-in");
    say("cylinder 6 30");
    choose("Part");
    window->shelf()->setFocus();
    for (int i = 0; i < 4; ++i) QTest::keyClick(window->shelf(), Qt::Key_Plus);
    settle();
    ASSERT_EQ(session->project()->parts[0]->quantity, 5);
    for (Stretch stretch : {Stretch::Bed, Stretch::Export}) {
        go(stretch);
        settle();
        size_t copies = 0;
        std::vector<Box3> boxes;
        for (const SceneBody& b : window->view()->scene().bodies) {
            EXPECT_FALSE(b.stand_in);
            if (b.part != session->project()->parts[0]->id) continue;
            ++copies;
            Box3 box;
            for (const Vec3& v : b.shape->mesh.vertices) box.extend(b.place * v);
            EXPECT_NEAR(box.min().z(), 0, 1e-6) << "it stands on the bed";
            for (const Box3& other : boxes) EXPECT_TRUE(box.intersection(other).isEmpty());
            boxes.push_back(box);
        }
        EXPECT_EQ(copies, 5u);
        // 220 mm take two of 106 mm in a row and two rows of 96: four on the first bed.
        EXPECT_EQ(window->view()->scene().beds, 2u);
    }
    go(Stretch::Shape);
    settle();
    EXPECT_EQ(window->view()->scene().bodies.size(), 2u);
}

TEST(Sentences, EveryKindReadsAsOneWithEveryChoiceAndCount) {
    // Printed to be read: LOOSE_PEG_PRINT=1.
    const bool print = std::getenv("LOOSE_PEG_PRINT");
    auto check = [&](const StepKind& kind, const Step& step) {
        const QString words = sentence_of(Project(), PartId{1}, step, {});
        if (print) std::printf("%s\n", words.toUtf8().constData());
        static const QRegularExpression bad(
            R"(\b1 (times|lugs|rows|links|sides|knuckles)\b|\b[02-9]\d* (time|lug|row|link|side|knuckle)\b|[{}|\[\]]| [,.:]|,,| s\b|^[a-z]|\ba [aeiou])");
        auto found = bad.match(words);
        EXPECT_FALSE(found.hasMatch()) << kind.id << ": " << words.toStdString() << " -- "
                                       << found.captured().toStdString();
    };
    for (const StepKind& kind : step_kinds()) {
        Step step;
        step.kind = kind.id;
        check(kind, step);
        for (const StepField& field : kind.fields) {
            if (field.kind == FieldKind::Choice)
                for (const std::string& choice : field.choices) {
                    Step with = step;
                    with.fields[field.name] = choice;
                    check(kind, with);
                }
            if (field.kind == FieldKind::Count)
                for (double count : {1.0, 2.0, 5.0})
                    if (count >= field.low) {
                        Step with = step;
                        with.fields[field.name] = format_number(count);
                        check(kind, with);
                    }
        }
    }
}

TEST_F(Window, ATemplateIsKeptAndANewProjectBeginsWithIt) {
    qputenv("XDG_DATA_HOME", QByteArray::fromStdString((folder.path / "data").string()));
    auto button = [&](const QString& name) -> QPushButton* {
        for (auto* b : window->findChildren<QPushButton*>())
            if (b->isVisible() && b->accessibleName() == name &&
                window->findChild<QWidget*>("start-page")->isAncestorOf(b))
                return b;
        return nullptr;
    };
    const auto file = folder.path / "part.json";
    std::ofstream(file) << R"({"format":"loose-peg","version":1,"name":"Label stake","parameters":{"long":"60 mm"},
        "parts":[{"name":"Stake","steps":[{"kind":"block","fields":{"size_x":"long","size_y":8,"size_z":3}}]}]})";
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    settle();
    say("keep as a template");
    settle();
    EXPECT_TRUE(said.contains("Kept as the template “Label stake”")) << said.toStdString();
    say("keep as a template"); // again: one of that name
    settle();
    press(Qt::Key_N, Qt::ControlModifier);
    settle();
    ASSERT_TRUE(session->project()->parts.empty());
    QPushButton* kept = button("Label stake");
    ASSERT_NE(kept, nullptr);
    EXPECT_TRUE(kept->accessibleDescription().contains("1 number to set: long"))
        << kept->accessibleDescription().toStdString();
    kept->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Space);
    settle();
    EXPECT_EQ(session->project()->name, "Label stake");
    EXPECT_EQ(session->document().path(), "") << "saving asks where: the template stays as it is";
    auto* numbers = window->findChild<NumbersTable*>();
    ASSERT_TRUE(numbers && numbers->isVisible()) << "what there is to set";
    type_cell(numbers->table(), 0, 1, "75");
    settle();
    EXPECT_NEAR(session->results().evaluation()->parts.at(0).mass.volume_mm3, 75 * 8 * 3, 1e-6);
    // Another new one: the template has its number still, and goes by Delete.
    numbers->close();
    session->document().start_new(); // a set-up: what was made is let go
    settle();
    kept = button("Label stake");
    ASSERT_NE(kept, nullptr);
    kept->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Delete);
    settle();
    EXPECT_EQ(button("Label stake"), nullptr);
    EXPECT_FALSE(std::filesystem::exists(folder.path / "data/loose-peg/templates/Label-stake"));
    qunsetenv("XDG_DATA_HOME");
}

TEST_F(Window, TheStartPageHasExamplesAndTheLastProjects) {
    auto buttons = [&] {
        QStringList names;
        for (QPushButton* b : window->findChildren<QPushButton*>())
            if (b->isVisible() && window->findChild<QWidget*>("start-page")->isAncestorOf(b))
                names << (b->text().isEmpty() ? b->accessibleName() : b->text());
        return names;
    };
    auto press_button = [&](const QString& name) {
        for (QPushButton* b : window->findChildren<QPushButton*>())
            if (b->isVisible() && (b->text() == name || b->accessibleName() == name))
                return QTest::mouseClick(b, Qt::LeftButton);
        ADD_FAILURE() << name.toStdString();
    };
    for (const char* name : {"Start with a block", "Seed box", "Vent flap", "Pull of links", "Leaf guard"})
        EXPECT_TRUE(buttons().contains(name)) << buttons().join(", ").toStdString();
    press_button("Seed box");
    settle();
    ASSERT_EQ(session->project()->parts.size(), 2u);
    EXPECT_TRUE(buttons().isEmpty()) << "it steps aside";
    EXPECT_TRUE(window->view()->hasFocus());
    // Saved under a name of its own, it is found among the last ones, with its picture; an example stays as it is.
    ASSERT_TRUE(window->save_to(QString::fromStdString((folder / "my seeds.loosepeg").string())));
    settle();
    session->document().start_new();
    settle();
    EXPECT_TRUE(buttons().contains("Seed box"));
    EXPECT_EQ(buttons().count("Seed box"), 2) << "the example and the saved one";
    std::filesystem::remove(folder / "my seeds.loosepeg");
    session->document().start_new();
    TearDown();
    SetUp();
    EXPECT_EQ(buttons().count("Seed box"), 1) << "a file that is gone is not offered";
    // A list that somebody damaged counts as empty.
    std::ofstream(Autosave::state_directory() / "recent.json") << "{\"not\": [a list";
    TearDown();
    SetUp();
    EXPECT_TRUE(buttons().contains("Start with a block"));
}

// What the maker chooses about the program: inches everywhere, the night bench, pointer habits; and the help.
#include "app/help/help_pages.h"
#include "app/help/help_panel.h"
#include "app/outline/outline_editor.h"
#include "app/panels/mark_row.h"
#include "app/panels/readings_line.h"
#include "app/panels/settings_dialog.h"
#include "app/view/pointer_habits.h"
#include "check/finding.h"
#include "window_test.h"
#include <QAbstractButton>
#include <QLabel>
#include <QNativeGestureEvent>
#include <QPointingDevice>
#include <QRegularExpression>
#include <QTextBrowser>
#include <QWheelEvent>
#include <nlohmann/json.hpp>

using namespace lp;

class Choosing : public Window {
  protected:
    void choose_setting(const QString& words) {
        press(Qt::Key_Comma, Qt::ControlModifier);
        SettingsDialog* dialog = window->settings_dialog();
        ASSERT_TRUE(dialog && QTest::qWaitForWindowExposed(dialog, 5000));
        QAbstractButton* choice = dialog->choice(words);
        ASSERT_NE(choice, nullptr) << words.toStdString();
        QTest::mouseClick(choice, Qt::LeftButton);
        rest();
        ASSERT_NE(window->settings_dialog(), nullptr) << "it stays open";
        QTest::keyClick(window->settings_dialog(), Qt::Key_Escape);
        ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
        window->view()->setFocus();
        rest();
    }
    /// Also of a project with nothing in it, of which nothing is made.
    void rest() {
        if (!session->project()->parts.empty()) return settle();
        for (int i = 0; i < 10; ++i) QApplication::processEvents();
    }
    /// Every text on the screen that a person can read or point at.
    QStringList all_texts() {
        QStringList all;
        for (QWidget* w : window->findChildren<QWidget*>()) {
            if (!w->isVisible()) continue;
            all << w->toolTip() << w->accessibleDescription();
            if (auto* label = qobject_cast<QLabel*>(w)) all << label->text();
            if (auto* button = qobject_cast<QAbstractButton*>(w)) all << button->text();
            if (auto* field = qobject_cast<ValueField*>(w)) all << field->shown();
            if (auto* table = qobject_cast<QTableWidget*>(w))
                for (int r = 0; r < table->rowCount(); ++r)
                    for (int c = 0; c < table->columnCount(); ++c)
                        if (QTableWidgetItem* item = table->item(r, c)) all << item->text() << item->toolTip();
        }
        return all;
    }
    std::string first_field() {
        const Step& s = session->project()->parts.front()->steps.front();
        return field_text(s, find_step_kind(s.kind)->fields.front());
    }
    void drag(Qt::MouseButton button, Qt::KeyboardModifiers with = {}) {
        ViewWidget* view = window->view();
        // Beside everything that could be taken hold of.
        const QPoint from(view->width() - 60, view->height() - 60), to = from - QPoint(90, 40);
        QTest::mousePress(view, button, with, from);
        for (int i = 1; i <= 5; ++i) {
            const QPointF at = from + (to - from) * i / 5.0;
            QMouseEvent move(QEvent::MouseMove, at, view->mapToGlobal(at), button, button, with);
            QApplication::sendEvent(view, &move);
        }
        QTest::mouseRelease(view, button, with, to);
        QApplication::processEvents();
    }
    void turn_wheel(const QPoint& pixels, const QPoint& angle, Qt::KeyboardModifiers with = {}) {
        ViewWidget* view = window->view();
        const QPointF at(view->width() / 2.0, view->height() / 2.0);
        QWheelEvent wheel(at, view->mapToGlobal(at), pixels, angle, Qt::NoButton, with, Qt::NoScrollPhase, false);
        QApplication::sendEvent(view, &wheel);
    }
    /// How the view changed: "turned", "moved", "zoomed", or nothing.
    std::string change_by(const std::function<void()>& act) {
        const Camera before = window->view()->camera();
        act();
        const Camera after = window->view()->camera();
        if (after.yaw_deg != before.yaw_deg || after.pitch_deg != before.pitch_deg) return "turned";
        if (after.half_height != before.half_height) return "zoomed";
        return after.centre == before.centre ? "" : "moved";
    }
};

TEST_F(Choosing, InchesAreShownEverywhereAndFilesStayInMillimetres) {
    open_demo();
    const std::string as_it_was = project_to_json(*session->project()).dump();
    choose_setting("Inches");
    static const QRegularExpression millimetres("\\d\\s?mm[²³]?(?![a-z/])");
    for (Stretch stretch : {Stretch::Shape, Stretch::Fit, Stretch::Check, Stretch::Bed, Stretch::Export}) {
        go(stretch);
        press(Qt::Key_L, Qt::ControlModifier); // with the ledger and without
        settle();
        bool inches = false;
        for (const QString& text : all_texts()) {
            if (text.contains(QRegularExpression("\\w_\\w.* mm"))) continue; // a formula stays as it was typed
            EXPECT_FALSE(text.contains(millimetres)) << int(stretch) << ": " << text.toStdString();
            inches = inches || text.contains(QRegularExpression("\\d in\\b"));
        }
        EXPECT_TRUE(inches) << int(stretch);
    }
    EXPECT_EQ(project_to_json(*session->project()).dump(), as_it_was) << "looking changes nothing";
    EXPECT_FALSE(session->document().changed());
    choose_setting("Millimetres");
    go(Stretch::Shape);
    EXPECT_TRUE(all_texts().join('\n').contains(millimetres));
}

TEST_F(Choosing, ATypedInchIsOneAndAnUntouchedNumberStaysToTheDigit) {
    choose_setting("Inches");
    say("block 1 0.5 6 mm");
    EXPECT_NEAR(session->results().evaluation()->parts[0].mass.volume_mm3, 25.4 * 12.7 * 6, 1e-6);
    ValueField* width = window->sheet()->rows()[0]->field("size_x");
    EXPECT_EQ(width->shown(), "1 in");
    type(0, "size_x", "2");
    settle();
    EXPECT_NEAR(session->results().evaluation()->parts[0].mass.volume_mm3, 50.8 * 12.7 * 6, 1e-6);
    type(0, "size_z", "6.1 mm");
    settle();
    const std::string kept = first_field();
    ValueField* height = window->sheet()->rows()[0]->field("size_z");
    EXPECT_EQ(height->shown(), "0.2402 in");
    QTest::mouseClick(height, Qt::LeftButton);
    EXPECT_TRUE(height->editor()->text().endsWith(" in"));
    QTest::keyClick(height->editor(), Qt::Key_Return);
    settle();
    EXPECT_EQ(field_text(session->project()->parts[0]->steps[0], *find_step_kind("block")->field("size_z")), "6.1 mm");
    EXPECT_EQ(first_field(), kept);
    QTest::mouseClick(height, Qt::LeftButton);
    QTest::keyClick(height->editor(), Qt::Key_Up); // a step is a twentieth of an inch
    settle();
    EXPECT_NEAR(session->results().evaluation()->parts[0].mass.volume_mm3, 50.8 * 12.7 * (6.1 + 1.27), 1e-4);
    undo();
    // The ruler, the nudge and what is typed behind a slash mean inches too.
    go(Stretch::Fit);
    unfold("fold-fits");
    type_into(window->fit_panel()->fit_field("slide"), "0.01");
    settle();
    EXPECT_NEAR(find_fit(session->project()->fits, "slide")->gap_mm, 0.254, 1e-9);
}

TEST_F(Choosing, ADrawingIsDrawnAndMeasuredInInches) {
    choose_setting("Inches");
    say("outline");
    ASSERT_TRUE(window->outline()->active());
    say("rectangle 0 0 2 1");
    settle();
    press(Qt::Key_Escape);
    say("Extrude");
    settle();
    ASSERT_FALSE(session->project()->parts.empty());
    EXPECT_NEAR(session->results().evaluation()->parts[0].mass.volume_mm3, 50.8 * 25.4 * 10, 1e-3) << "10 mm to begin";
}

TEST_F(Choosing, TheNightBenchKeepsWhatIsOpenChosenAndLookedAt) {
    open_demo();
    go(Stretch::Fit);
    settle();
    window->view()->camera().orbit(20, 5);
    const Camera looked = window->view()->camera();
    const PartId active = session->workspace().active_part();
    const QRect place = window->geometry();
    choose_setting("Night bench");
    EXPECT_TRUE(theme::is_night_bench());
    EXPECT_LT(window->palette().color(QPalette::Window).lightness(), 80);
    EXPECT_EQ(session->workspace().stretch(), Stretch::Fit);
    EXPECT_EQ(session->workspace().active_part(), active);
    EXPECT_EQ(window->geometry(), place);
    EXPECT_DOUBLE_EQ(window->view()->camera().yaw_deg, looked.yaw_deg);
    EXPECT_DOUBLE_EQ(window->view()->camera().half_height, looked.half_height);
    EXPECT_FALSE(window->view()->scene().bodies.empty()) << "the parts are there at once";
    EXPECT_FALSE(window->fit_panel()->findChildren<MarkRow*>().isEmpty()) << "the column is filled";
    // The picture itself is dark where nothing stands.
    const QImage picture = window->view()->picture();
    EXPECT_LT(QColor(picture.pixel(4, 4)).lightness(), 90);
    choose_setting("Paper");
    EXPECT_GT(window->palette().color(QPalette::Window).lightness(), 200);
}

TEST_F(Choosing, EveryHabitTurnsMovesZoomsAndBoxes) {
    open_demo();
    using B = Qt::MouseButton;
    auto with = [&](B button, Qt::KeyboardModifiers keys = {}) { return change_by([&] { drag(button, keys); }); };
    auto wheel = [&](Qt::KeyboardModifiers keys) { return change_by([&] { turn_wheel({}, {0, 120}, keys); }); };
    EXPECT_EQ(with(Qt::LeftButton), "turned");
    EXPECT_EQ(with(Qt::LeftButton, Qt::ShiftModifier), "moved");
    EXPECT_EQ(with(Qt::RightButton), "moved");
    EXPECT_EQ(wheel({}), "zoomed");
    choose_setting("Wheel turns");
    EXPECT_EQ(with(Qt::MiddleButton), "turned");
    EXPECT_EQ(with(Qt::MiddleButton, Qt::ShiftModifier), "moved");
    EXPECT_EQ(with(Qt::RightButton), "moved");
    EXPECT_EQ(with(Qt::LeftButton), "") << "it draws a box";
    EXPECT_EQ(wheel({}), "zoomed");
    choose_setting("Touchpad");
    EXPECT_EQ(with(Qt::LeftButton), "turned");
    EXPECT_EQ(wheel({}), "moved");
    EXPECT_EQ(wheel(Qt::ControlModifier), "zoomed");
    EXPECT_EQ(change_by([&] { turn_wheel({30, 10}, {0, 0}); }), "moved") << "two fingers, in pixels";
    EXPECT_EQ(change_by([&] {
                  ViewWidget* view = window->view();
                  const QPointF at(200, 200);
                  QNativeGestureEvent pinch(Qt::ZoomNativeGesture, QPointingDevice::primaryPointingDevice(), 2, at, at,
                                            view->mapToGlobal(at), 0.1, {}, 1);
                  QApplication::sendEvent(view, &pinch);
              }),
              "zoomed");
}

TEST_F(Choosing, ZoomingKeepsThePlaceUnderThePointer) {
    open_demo();
    ViewWidget* view = window->view();
    const QPointF at(view->width() * 0.3, view->height() * 0.6);
    const Camera::Ray before = view->camera().ray(at, view->size());
    QWheelEvent wheel(at, view->mapToGlobal(at), {}, {0, 240}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(view, &wheel);
    const Camera::Ray after = view->camera().ray(at, view->size());
    const Vec3 off = after.origin - before.origin;
    EXPECT_LT((off - off.dot(before.direction.normalized()) * before.direction.normalized()).norm(), 1e-6);
}

TEST_F(Choosing, WhatIsChosenIsKeptAndADamagedFileIsAsAtTheBeginning) {
    choose_setting("Inches");
    choose_setting("after 30 s");
    SettingsFile::only().read();
    EXPECT_EQ(settings().unit, Settings::Unit::Inch);
    EXPECT_EQ(settings().autosave_s, 30);
    for (const char* text : {"", "{", "[]", "7", R"({"unit":"parsec","look":3,"autosave_s":-1,"size_percent":5000})",
                             R"({"unit":null,"pointer":"\u0000","autosave_s":1e300})"}) {
        std::ofstream(SettingsFile::path().toStdString()) << text;
        SettingsFile::only().read();
        EXPECT_EQ(settings(), Settings()) << text;
    }
    std::ofstream(SettingsFile::path().toStdString()) << R"({"unit":"in","look":"unknown","size_percent":150})";
    SettingsFile::only().read();
    EXPECT_EQ(settings().unit, Settings::Unit::Inch) << "what can be read holds";
    EXPECT_EQ(settings().look, Settings::Look::Paper);
    EXPECT_EQ(settings().size_percent, 150);
}

TEST_F(Choosing, AFolderThatCannotBeWrittenIsSaidAndTheChoiceHoldsUntilTheEnd) {
    std::filesystem::remove_all(folder.path / "config");
    std::ofstream(folder.path / "config") << "a file where the folder should be";
    press(Qt::Key_Comma, Qt::ControlModifier);
    ASSERT_TRUE(QTest::qWaitForWindowExposed(window->settings_dialog(), 5000));
    QTest::mouseClick(window->settings_dialog()->choice("after 2 min"), Qt::LeftButton);
    QStringList said;
    for (QLabel* label : window->settings_dialog()->findChildren<QLabel*>())
        if (label->isVisible()) said << label->text();
    EXPECT_TRUE(said.join(' ').contains("until the program ends")) << said.join(" | ").toStdString();
    EXPECT_EQ(settings().autosave_s, 120);
}

TEST_F(Choosing, ASizeOfTextWaitsForTheNextStartAndOffersIt) {
    press(Qt::Key_Comma, Qt::ControlModifier);
    SettingsDialog* dialog = window->settings_dialog();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(dialog, 5000));
    auto* again = dialog->findChild<QPushButton*>("begin-again");
    EXPECT_FALSE(again->isVisible());
    QTest::mouseClick(dialog->choice("150 %"), Qt::LeftButton);
    EXPECT_TRUE(again->isVisible());
    bool wanted = false;
    QObject::connect(window.keeper.get(), &WindowKeeper::restart_wanted, [&] { wanted = true; });
    QTest::mouseClick(again, Qt::LeftButton);
    EXPECT_TRUE(wanted);
    QTest::mouseClick(dialog->choice("100 %"), Qt::LeftButton);
    EXPECT_FALSE(again->isVisible());
}

TEST_F(Choosing, HelpOpensAtThePageOfWhatIsAtHand) {
    press(Qt::Key_F1);
    HelpPanel* help = window->help();
    ASSERT_TRUE(help && help->isVisible());
    EXPECT_EQ(help->page(), "index");
    EXPECT_TRUE(help->text().contains("stretches"));
    press(Qt::Key_Escape);
    EXPECT_FALSE(help->isVisible());
    EXPECT_TRUE(window->view()->hasFocus()) << "the keys come back";
    open_demo();
    const std::pair<Stretch, const char*> pages[] = {{Stretch::Shape, "shape"},
                                                     {Stretch::Fit, "fit"},
                                                     {Stretch::Check, "check"},
                                                     {Stretch::Bed, "bed"},
                                                     {Stretch::Export, "export"}};
    for (auto [stretch, page] : pages) {
        go(stretch);
        window->view()->setFocus();
        press(Qt::Key_F1);
        EXPECT_EQ(help->page(), page);
    }
    go(Stretch::Shape);
    ValueField* field = nullptr;
    for (StepRow* row : window->sheet()->rows())
        if (row->shown().kind == "block" || row->shown().kind == "cylinder")
            if (!field) field = row->field(row->all_fields().front());
    ASSERT_NE(field, nullptr);
    field->setFocus();
    press(Qt::Key_F1);
    EXPECT_TRUE(help->page().startsWith("step:")) << help->page().toStdString();
    EXPECT_TRUE(help->text().contains("to begin with"));
    from_step_menu(1, "What is this?");
    EXPECT_EQ(help->page(), "step:" + QString::fromStdString(window->sheet()->rows()[1]->shown().kind));
}

TEST_F(Choosing, WhatAFindingAndAFitAreIsAskedWhereTheyStand) {
    open_part("Rail", {block(60, 40, 40), block(16, 40, 15, {{"does", "cut"}})}, Stretch::Check);
    auto ask = [&](QWidget* there, const QPoint& at, QContextMenuEvent::Reason by) {
        QContextMenuEvent wanted(by, at, there->mapToGlobal(at));
        QApplication::sendEvent(there, &wanted);
        take_from_menu("What is this?");
        QApplication::processEvents();
    };
    ASSERT_EQ(window->check_panel()->finding_rows().size(), 1u);
    MarkRow* row = window->check_panel()->finding_rows().front();
    ask(row, row->rect().center(), QContextMenuEvent::Mouse);
    EXPECT_EQ(window->help()->page(), "finding:bridge");
    EXPECT_TRUE(window->help()->text().contains("printed as a bridge"));
    open_demo();
    go(Stretch::Fit);
    GapRuler* ruler = window->fit_panel()->ruler();
    ask(ruler, ruler->notch_rect("loose").center().toPoint(), QContextMenuEvent::Mouse);
    EXPECT_EQ(window->help()->page(), "fit:loose");
    ASSERT_FALSE(window->fit_panel()->contact_rows().empty());
    ContactRow* contact = window->fit_panel()->contact_rows().front();
    ask(contact, contact->rect().center(), QContextMenuEvent::Keyboard);
    EXPECT_TRUE(window->help()->page().startsWith("fit")) << window->help()->page().toStdString();
    EXPECT_TRUE(window->help()->text().contains("gap"));
}

TEST_F(Choosing, PagesLeadToOthersAndBack) {
    press(Qt::Key_F1);
    HelpPanel* help = window->help();
    press(Qt::Key_Tab); // to the first link
    press(Qt::Key_Return);
    EXPECT_EQ(help->page(), "lidded-box");
    help->open("nowhere.md");
    EXPECT_EQ(help->page(), "lidded-box") << "a name of nothing leads nowhere";
    for (QPushButton* b : help->findChildren<QPushButton*>())
        if (b->text() == "Back") QTest::mouseClick(b, Qt::LeftButton);
    EXPECT_EQ(help->page(), "index");
    press(Qt::Key_F1, Qt::ShiftModifier);
    EXPECT_EQ(help->page(), "keys");
    EXPECT_TRUE(help->text().contains("Left button turns"));
}

TEST_F(Choosing, ThereIsAPageForEverything) {
    for (const auto& [name, title] : guide_pages()) {
        const QString page = help_page(name, *session);
        EXPECT_GT(page.size(), 200) << name.toStdString();
        static const QRegularExpression link("\\]\\(([^)#]+)");
        for (auto it = link.globalMatch(page); it.hasNext();) {
            const QString to = it.next().captured(1);
            if (to.startsWith("http") || to.endsWith(".png")) continue;
            EXPECT_FALSE(help_page(QString(to).remove(".md"), *session).isEmpty())
                << name.toStdString() << " -> " << to.toStdString();
        }
    }
    for (const StepKind& kind : step_kinds())
        EXPECT_GT(help_page("step:" + QString::fromStdString(kind.id), *session).size(), 80) << kind.id;
    for (const FindingRow& row : finding_rows())
        EXPECT_GT(help_page(QString("finding:") + row.id, *session).size(), 80) << row.id;
    for (const NamedFit& fit : session->project()->fits)
        EXPECT_TRUE(help_page("fit:" + QString::fromStdString(fit.name), *session).contains("a face"));
    for (const char* none : {"", "step:", "step:nothing", "finding:", "fit:nobody", "../../etc/passwd"})
        EXPECT_TRUE(help_page(none, *session).isEmpty()) << none;
}

class Measuring : public Choosing {
  protected:
    void open_numbers() {
        press(Qt::Key_B, Qt::ControlModifier);
        ASSERT_TRUE(QTest::qWaitForWindowActive(window->numbers(), 5000));
        window->numbers()->readings()->line()->setFocus();
    }
    QLineEdit* line() { return window->numbers()->readings()->line(); }
    /// As a caliper does: the value and Enter.
    void read(const char* text) {
        QTest::keyClicks(line(), text);
        QTest::keyClick(line(), Qt::Key_Return);
        QApplication::processEvents();
    }
    const Parameter& number(const char* name) {
        for (const Parameter& p : session->project()->parameters)
            if (p.name == name) return p;
        ADD_FAILURE() << name;
        static Parameter none;
        return none;
    }
};

TEST_F(Measuring, ThreeReadingsOfARodAreItsNumber) {
    open_numbers();
    read("rod_d");
    for (const char* reading : {"6.02", "6.00 mm", "+006.07"}) read(reading);
    EXPECT_EQ(number("rod_d").expression, "6.03 mm") << "their mean, by hand: 18.09 / 3";
    const QString says = window->numbers()->readings()->says();
    EXPECT_TRUE(says.contains("3 readings, mean 6.030 mm, spread 0.070 mm")) << says.toStdString();
    EXPECT_FALSE(says.contains("wider"));
    QTest::mouseClick(window->numbers()->readings()->follow_button(Follows::Largest), Qt::LeftButton);
    EXPECT_EQ(number("rod_d").expression, "6.07 mm");
    EXPECT_TRUE(line()->hasFocus()) << "the next reading can come";
    read("6,21");
    EXPECT_EQ(number("rod_d").expression, "6.21 mm");
    EXPECT_TRUE(window->numbers()->readings()->says().contains("wider than 0.1 mm"));
    QTest::keyClick(line(), Qt::Key_Backspace);
    EXPECT_EQ(number("rod_d").expression, "6.07 mm") << "the last one is dropped";
    read("nonsense here");
    EXPECT_EQ(number("rod_d").readings.values.size(), 3u);
    EXPECT_FALSE(window->numbers()->readings()->says().isEmpty());
    line()->clear();
    read("45 deg");
    EXPECT_EQ(number("rod_d").readings.values.size(), 3u) << "an angle is no reading of a length";
}

TEST_F(Measuring, NineNumbersOfABoughtThingAreEnteredInOneRun) {
    open_numbers();
    // Only keys from here on: names first, then a reading and Enter, Enter alone for the next.
    const char* names[] = {"tap_d", "tap_l", "nut_w", "nut_h", "thread_d", "thread_l", "flange_d", "flange_t", "bore"};
    for (const char* name : names) read(name);
    QTest::keyClick(line(), Qt::Key_Return); // from the last to the first
    for (int i = 0; i < 9; ++i) {
        ASSERT_EQ(window->numbers()->readings()->number(), names[i]);
        read(std::to_string(10 + i).append(".10").c_str());
        read(std::to_string(10 + i).append(".14").c_str());
        QTest::keyClick(line(), Qt::Key_Return);
    }
    for (int i = 0; i < 9; ++i) {
        EXPECT_EQ(number(names[i]).readings.values.size(), 2u);
        EXPECT_EQ(number(names[i]).expression, std::to_string(10 + i) + ".12 mm");
    }
    EXPECT_EQ(session->project()->parameters.size(), 9u);
}

TEST_F(Measuring, ReadingsInInchesAreInchesAndUndoTakesThemBack) {
    choose_setting("Inches");
    open_numbers();
    read("rod_d");
    read("0.25");
    read("0.252");
    EXPECT_EQ(number("rod_d").expression, "6.3754 mm") << "0.251 in";
    EXPECT_TRUE(window->numbers()->readings()->says().contains("0.251 in"))
        << window->numbers()->readings()->says().toStdString();
    QTest::keyClick(window->numbers(), Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(number("rod_d").readings.values.size(), 1u);
}

namespace {

/// WCAG 2.1, relative luminance and contrast ratio.
double luminance(const QColor& colour) {
    auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * part(colour.redF()) + 0.7152 * part(colour.greenF()) + 0.0722 * part(colour.blueF());
}
double contrast(const QColor& a, const QColor& b) {
    const double la = luminance(a), lb = luminance(b);
    return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

} // namespace

TEST(Contrast, WordsAndSignsAreReadOnPaperAndOnTheNightBench) {
    using theme::Role;
    using R = Role;
    EXPECT_NEAR(contrast(Qt::white, Qt::black), 21, 1e-9) << "WCAG 2.1, 1.4.3";
    const std::vector<R> grounds{R::Paper, R::Card, R::LedgerGround, R::Field, R::Wash, R::Key};
    for (bool night : {false, true}) {
        theme::use_night_bench(night);
        auto least = [&](R ink, R ground, double wanted) {
            EXPECT_GE(contrast(theme::colour(ink), theme::colour(ground)), wanted)
                << (night ? "night " : "paper ") << int(ink) << " on " << int(ground);
        };
        for (R ground : grounds)
            for (R ink : {R::Ink, R::SoftInk, R::Accent, R::Brass, R::Wrong}) least(ink, ground, 4.5); // AA, text
        for (auto [ink, ground] :
             {std::pair(R::OnAccent, R::Accent), std::pair(R::TapeInk, R::Tape), std::pair(R::OnAccent, R::Ink),
              std::pair(R::MatInk, R::Mat), std::pair(R::Ink, R::ViewTop), std::pair(R::Ink, R::ViewBottom)})
            least(ink, ground, 4.5);
        for (R ground : {R::Card, R::Paper, R::Wash}) // AA, signs and graphics
            for (R sign : {R::Hanging, R::Slack, R::GlassEdge}) least(sign, ground, 3);
        EXPECT_EQ(theme::all_roles().size(), size_t(R::ChosenEdge) + 1);
        for (size_t i = 0; i < theme::all_roles().size(); ++i) EXPECT_EQ(size_t(theme::all_roles()[i]), i);
    }
    theme::use_night_bench(false);
}

TEST(Contrast, WhatIsChosenOrHoveredIsSeenOnEveryFilament) {
    // A light and a dark line side by side: one of them stands out from any colour, and they from each other.
    const QColor light = QColor::fromRgbF(1.0f, 0.97f, 0.88f);
    for (bool night : {false, true}) {
        theme::use_night_bench(night);
        const QColor dark = theme::colour(theme::Role::ChosenEdge);
        EXPECT_GE(contrast(light, dark), 4.5);
        for (const auto& [name, value] : filament_colours())
            for (int shade : {60, 100, 125}) { // in shadow, as it is, in the light
                const QColor plastic = QColor(value).lighter(shade);
                EXPECT_GE(std::max(contrast(plastic, light), contrast(plastic, dark)), 3) << name << " " << shade;
            }
    }
    theme::use_night_bench(false);
}

// A real window under test, and the hands that work it.
#pragma once
#include "app/ledger/ledger.h"
#include "app/offers/act_panel.h"
#include "app/offers/offers_bar.h"
#include "app/panels/bed_panel.h"
#include "app/panels/check_panel.h"
#include "app/panels/export_panel.h"
#include "app/panels/fit_panel.h"
#include "app/panels/numbers_table.h"
#include "app/scene_builder.h"
#include "app/sheet/build_sheet.h"
#include "app/sheet/shelf.h"
#include "app/sheet/step_words.h"
#include "app/strip/layer_strip.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include "app/widgets/tape.h"
#include "app/window_keeper.h"
#include "formats/stl.h"
#include "formats/threemf.h"
#include "project/archive.h"
#include "project/project_json.h"
#include "test_meshes.h"
#include <QApplication>
#include <QComboBox>
#include <QDropEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QTableWidget>
#include <QtTest/QTest>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace lp {

/// The window a keeper has just now: another one after the look or the unit has changed.
struct KeptWindow {
    std::unique_ptr<WindowKeeper> keeper;
    MainWindow* get() const { return keeper ? keeper->window() : nullptr; }
    MainWindow* operator->() const { return get(); }
    void reset() { keeper.reset(); }
};

class Window : public ::testing::Test {
  protected:
    void SetUp() override {
        qputenv("XDG_STATE_HOME", QByteArray::fromStdString(folder.path.string()));
        qputenv("XDG_CONFIG_HOME", QByteArray::fromStdString((folder.path / "config").string()));
        SettingsFile::only().read();
        theme::apply(*qApp);
        session = std::make_unique<Session>();
        window.keeper = std::make_unique<WindowKeeper>(session.get());
        window->show();
        window->activateWindow();
        ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
        QObject::connect(&session->document(), &Document::said, [this](const QString& message, bool wrong) {
            said = message;
            said_wrong = wrong;
        });
    }
    void TearDown() override {
        if (session) session->document().close_in_peace();
        window.reset();
        session.reset();
    }
    void open_demo() {
        ASSERT_TRUE(session->document().open(QString(SOURCE_DIR) + "/data/demo/rain-gauge/project.json"));
        ASSERT_TRUE(session->wait_until_done());
    }
    /// A project of one part by its steps, at a stretch of the work.
    void open_part(const char* name, const nlohmann::json& steps, Stretch stretch) {
        const auto file = folder.path / "part.json";
        std::ofstream(file) << nlohmann::json{
            {"format", "loose-peg"}, {"version", 1}, {"parts", {{{"name", name}, {"steps", steps}}}}};
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
        go(stretch);
        settle();
    }
    static nlohmann::json block(double x, double y, double z, nlohmann::json more = nlohmann::json::object()) {
        more.update({{"size_x", x}, {"size_y", y}, {"size_z", z}});
        return {{"kind", "block"}, {"fields", more}};
    }
    void settle() {
        ASSERT_TRUE(session->wait_until_done());
        for (int i = 0; i < 5; ++i) QApplication::processEvents();
    }
    /// A line typed after a slash, as a person does.
    void say(const char* line) {
        QTest::keyClick(window->view(), Qt::Key_Slash);
        QLineEdit* edit = window->offers()->panel()->line();
        ASSERT_TRUE(edit && edit->isVisible());
        edit->clear();
        QTest::keyClicks(edit, line);
        QTest::keyClick(edit, Qt::Key_Return);
        settle();
    }
    /// Takes the offer that begins with these words.
    void take(const QString& words) {
        for (size_t i = 0; i < window->offers()->offers().size(); ++i)
            if (window->offers()->offers()[i].words.startsWith(words)) {
                window->offers()->take(int(i) + 1);
                return settle();
            }
        ADD_FAILURE() << "no offer " << words.toStdString();
    }
    PartPtr part(const char* name) { return session->project()->part_named(name); }
    double volume(const char* name) { return session->results().evaluation()->part(part(name)->id)->mass.volume_mm3; }
    void choose(const char* name) {
        const auto& parts = session->project()->parts;
        for (size_t i = 0; i < parts.size(); ++i)
            if (parts[i]->name == name)
                QTest::mouseClick(window->shelf(), Qt::LeftButton, {},
                                  window->shelf()->row_rect(i).center() - QPoint(60, 0));
        QApplication::processEvents();
    }
    void go(Stretch stretch) {
        QTest::mouseClick(window->tape(), Qt::LeftButton, {}, window->tape()->stretch_rect(stretch).center().toPoint());
    }
    /// A key goes where the hand is: to what has the focus.
    void press(Qt::Key key, Qt::KeyboardModifiers with = {}) {
        QWidget* focus = QApplication::focusWidget();
        QTest::keyClick(focus ? focus : window.get(), key, with);
        QApplication::processEvents();
    }
    void undo() {
        press(Qt::Key_Z, Qt::ControlModifier);
        settle();
    }
    void redo() {
        press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        settle();
    }
    /// The menu that is open, or null.
    static QMenu* menu() { return qobject_cast<QMenu*>(QApplication::activePopupWidget()); }
    /// Clicks the entry of the open menu that begins with these words.
    void take_from_menu(const QString& words) {
        QMenu* open = menu();
        ASSERT_NE(open, nullptr) << "no menu for " << words.toStdString();
        QStringList all;
        for (QAction* action : open->actions()) {
            all << action->text();
            if (!action->isEnabled() || !action->text().startsWith(words)) continue;
            QTest::mouseClick(open, Qt::LeftButton, {}, open->actionGeometry(action).center());
            QApplication::processEvents();
            return;
        }
        open->close();
        ADD_FAILURE() << words.toStdString() << " is not in the menu: " << all.join(", ").toStdString();
    }
    /// Types into the editor that is open in a field.
    void type_into(ValueField* f, const char* text) {
        ASSERT_NE(f, nullptr);
        if (!f->editing()) QTest::mouseClick(f, Qt::LeftButton, {}, f->rect().center());
        ASSERT_TRUE(f->editing());
        f->editor()->selectAll();
        if (!*text) QTest::keyClick(f->editor(), Qt::Key_Delete);
        QTest::keyClicks(f->editor(), text);
        QTest::keyClick(f->editor(), Qt::Key_Return);
    }
    /// Gives a field of the active part's sheet a value the way a person does: a click and a typed text, or the entry
    /// of the list that opens, or what that list has for typing.
    void type(size_t row, const char* field, const char* text) {
        ASSERT_LT(row, window->sheet()->rows().size());
        ValueField* f = window->sheet()->rows()[row]->field(field);
        ASSERT_NE(f, nullptr) << field;
        if (!f->isVisible()) say_all_of(row);
        QTest::mouseClick(f, Qt::LeftButton, {}, f->rect().center());
        QMenu* list = menu();
        if (!list) return type_into(f, text);
        const QString words = choice_words(text);
        for (QAction* action : list->actions())
            if (action->text() == words || action->text().startsWith(words + "   ")) return take_from_menu(words);
        for (QAction* action : list->actions())
            if (action->text() == "Type it …" || action->text() == "A gap of its own …") {
                take_from_menu(action->text());
                return type_into(f, text);
            }
        QString offered;
        for (QAction* action : list->actions()) offered += "\n  " + action->text();
        list->close();
        ADD_FAILURE() << field << " cannot be given " << text << ", but:" << offered.toStdString();
    }
    /// Opens a table that is folded away.
    void unfold(const char* name) {
        auto all = window->findChildren<QPushButton*>(name);
        ASSERT_FALSE(all.isEmpty()) << name;
        QTest::mouseClick(all.last(), Qt::LeftButton);
        QApplication::processEvents();
    }
    /// An entry of a step's own menu.
    void from_step_menu(size_t row, const QString& words) {
        for (QPushButton* more : window->sheet()->rows().at(row)->findChildren<QPushButton*>())
            if (more->accessibleName().startsWith("What can be done")) {
                QTest::mouseClick(more, Qt::LeftButton);
                break;
            }
        QApplication::processEvents();
        take_from_menu(words);
        QApplication::processEvents();
    }
    /// What was asked for in place is typed there.
    void answer(const char* text) {
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        ASSERT_NE(editor, nullptr) << "nothing to type into";
        editor->selectAll();
        QTest::keyClicks(editor, text);
        QTest::keyClick(editor, Qt::Key_Return);
        settle();
    }
    /// Shows the fields of a sentence that are as usual and so not said.
    void say_all_of(size_t row) { from_step_menu(row, "Show every number of this step"); }
    /// Types into a cell of a table: a click, F2, the text, Enter.
    void type_cell(QTableWidget* table, int row, int column, const QString& text) {
        ASSERT_NE(table->item(row, column), nullptr);
        // A window's focus goes to and fro for a moment after another was closed.
        for (int i = 0; i < 200 && (i < 3 || QApplication::activeWindow() != table->window()); ++i) QTest::qWait(5);
        const QPoint at = table->visualItemRect(table->item(row, column)).center();
        QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, at);
        if (!qobject_cast<QLineEdit*>(QApplication::focusWidget())) QTest::keyClick(table, Qt::Key_F2);
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        ASSERT_NE(editor, nullptr) << "the cell is not open";
        ASSERT_TRUE(editor->parentWidget()->geometry().intersects(table->viewport()->rect()));
        ASSERT_EQ(editor->text(), table->item(row, column)->text()) << "another cell is open";
        editor->selectAll();
        QTest::keyClicks(editor, text);
        QTest::keyClick(editor, Qt::Key_Return);
        QApplication::processEvents();
    }
    /// A number by name: in the table of numbers a new row, or another expression in its own.
    void set_number(const QString& name, const QString& expression, const char* unit = nullptr) {
        press(Qt::Key_B, Qt::ControlModifier);
        NumbersTable* numbers = window->numbers();
        ASSERT_TRUE(numbers && QTest::qWaitForWindowActive(numbers, 5000));
        QTableWidget* table = numbers->table();
        auto row_of = [&] {
            for (int r = 0; r < table->rowCount(); ++r)
                if (table->item(r, 0)->text() == name) return r;
            return -1;
        };
        auto button = [&](const QString& words) {
            for (QPushButton* b : numbers->findChildren<QPushButton*>())
                if (b->text() == words) QTest::mouseClick(b, Qt::LeftButton);
            QApplication::processEvents();
        };
        if (row_of() < 0) {
            button("Add a number");
            type_cell(table, table->rowCount() - 1, 0, name);
            ASSERT_GE(row_of(), 0);
        }
        if (unit) {
            auto* units = qobject_cast<QComboBox*>(table->cellWidget(row_of(), 3));
            ASSERT_NE(units, nullptr);
            units->setFocus();
            QTest::keyClicks(units, unit); // a list is walked by first letters
            QApplication::processEvents();
        }
        type_cell(table, row_of(), 1, expression);
        button("Close");
        ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000)) << "the keys come back";
        settle();
    }
    /// A new part, or a stand-in, by the line.
    void new_part(bool stand_in = false) {
        session->workspace().clear_selection();
        QApplication::processEvents();
        say(stand_in ? "New stand-in" : "New part");
    }
    /// Gives the active part's shelf row another name.
    void rename(const QString& name) {
        window->shelf()->setFocus();
        press(Qt::Key_F2);
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        ASSERT_NE(editor, nullptr);
        editor->selectAll();
        QTest::keyClicks(editor, name);
        QTest::keyClick(editor, Qt::Key_Return);
        settle();
    }
    /// Sets up what a test begins with, as a file that is opened: what is open now and a whole part or a movement more.
    PartId set_up(const char* name, bool stand_in, const std::vector<Step>& steps) {
        Part fresh;
        fresh.name = name;
        fresh.stand_in = stand_in;
        fresh.steps = steps;
        open_with(AddPart{fresh});
        return session->project()->parts.back()->id;
    }
    void set_up(const KeptMovement& movement) { open_with(AddMovement{movement}); }
    void open_with(const Edit& more) {
        const PartId active = session->workspace().active_part();
        const Stretch stretch = session->workspace().stretch();
        auto next = apply_edit(*session->project(), more);
        ASSERT_TRUE(next) << next.error().text();
        const auto file = folder.path / "set-up.loosepeg";
        ASSERT_FALSE(save_project(file, History(next->project), {}));
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
        const PartPtr was = session->project()->part(active);
        if (was && session->workspace().active_part() != active) choose(was->name.c_str());
        if (session->workspace().stretch() != stretch) go(stretch);
        settle();
    }
    const ContactResult& contact(const char* a, const char* b) {
        for (const ContactResult& c : session->results().analysis()->contacts)
            if (c.a == a && c.b == b) return c;
        ADD_FAILURE() << "no contact " << a << " in " << b;
        static ContactResult none;
        return none;
    }
    test::Folder folder;
    std::unique_ptr<Session> session;
    KeptWindow window;
    QString said;
    bool said_wrong = false;
};

} // namespace lp

// A real window under test, and the hands that work it.
#pragma once
#include "app/ledger/ledger.h"
#include "app/main_window.h"
#include "app/offers/offers_bar.h"
#include "app/panels/bed_panel.h"
#include "app/panels/check_panel.h"
#include "app/scene_builder.h"
#include "app/sheet/build_sheet.h"
#include "app/sheet/shelf.h"
#include "app/strip/layer_strip.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include "app/widgets/tape.h"
#include "formats/stl.h"
#include "formats/threemf.h"
#include "project/project_json.h"
#include "test_meshes.h"
#include <QApplication>
#include <QDropEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QTableWidget>
#include <QtTest/QTest>
#include <fstream>
#include <gtest/gtest.h>

namespace lp {

class Window : public ::testing::Test {
  protected:
    void SetUp() override {
        qputenv("XDG_STATE_HOME", QByteArray::fromStdString(folder.path.string()));
        session = std::make_unique<Session>();
        window = std::make_unique<MainWindow>(session.get());
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
    void settle() {
        ASSERT_TRUE(session->wait_until_done());
        for (int i = 0; i < 5; ++i) QApplication::processEvents();
    }
    /// A line typed after a slash, as a person does.
    void say(const char* line) {
        QTest::keyClick(window->view(), Qt::Key_Slash);
        auto* edit = window->offers()->findChild<QLineEdit*>();
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
    /// Types into a field of the active part's sheet the way a person does: click, text, Enter.
    void type(size_t row, const char* field, const char* text) {
        ValueField* f = window->sheet()->rows().at(row)->field(field);
        ASSERT_NE(f, nullptr);
        QTest::mouseClick(f, Qt::LeftButton, {}, f->rect().center());
        ASSERT_TRUE(f->editing());
        f->editor()->selectAll();
        QTest::keyClicks(f->editor(), text);
        QTest::keyClick(f->editor(), Qt::Key_Return);
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
    std::unique_ptr<MainWindow> window;
    QString said;
    bool said_wrong = false;
};

} // namespace lp

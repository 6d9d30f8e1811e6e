// What goes to the workshop: the sheet, stops in the print, the practice print; by buttons, the line and keys.
#include "app/panels/paper_preview.h"
#include "drop_file.h"
#include <QAbstractButton>
#include <QCheckBox>
#include <QLabel>
#include <QPdfView>
#include <QScrollBar>

using namespace lp;

namespace {

class Workshop : public Window {
  protected:
    /// A holder whose pocket closes over a bought nut.
    void open_holder() {
        const auto file = folder.path / "holder.json";
        std::ofstream(file) << R"({"format":"loose-peg","version":1,"name":"Bean clamp","parts":[
          {"name":"Holder","steps":[{"kind":"block","fields":{"size_x":20,"size_y":20,"size_z":12}},
            {"kind":"block","name":"room","fields":{"size_x":8.5,"size_y":8.5,"size_z":4.2,"at_z":3,"does":"cut"}}]},
          {"name":"M5 nut","stand_in":true,"steps":[{"kind":"block","fields":{"size_x":8,"size_y":8,"size_z":4,"at_z":3}}]}]})";
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
        go(Stretch::Export);
        settle();
    }
    /// All that is written in the column.
    QString column() {
        QStringList words;
        for (QLabel* label : window->export_panel()->findChildren<QLabel*>())
            if (label->isVisibleTo(window->export_panel())) words << label->text();
        return words.join("\n");
    }
};

} // namespace

TEST_F(Workshop, StopsAreToldInTheColumnAndFollowTheirPocket) {
    open_holder();
    EXPECT_TRUE(column().contains("Stops in the print")) << column().toStdString();
    EXPECT_TRUE(column().contains("Holder: M5 nut goes in after layer 36, at 7.2 mm")) << column().toStdString();
    go(Stretch::Shape);
    type(1, "size_z", "4.8");
    settle();
    go(Stretch::Export);
    settle();
    EXPECT_TRUE(column().contains("after layer 39, at 7.8 mm")) << "0.6 higher: three layers later";
    undo();
    EXPECT_TRUE(column().contains("after layer 36, at 7.2 mm"));
}

TEST_F(Workshop, TheSheetIsWrittenByItsButton) {
    open_holder();
    const auto out = folder.path / "for the bench";
    window->export_panel()->set_folder(QString::fromStdString(out.string()));
    settle();
    QPushButton* button = window->export_panel()->sheet_button();
    ASSERT_NE(button, nullptr);
    button->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Space);
    settle();
    EXPECT_FALSE(said_wrong) << said.toStdString();
    EXPECT_TRUE(said.contains("Wrote the sheet")) << said.toStdString();
    auto bytes = read_file(out / "Bean-clamp-sheet.pdf");
    ASSERT_TRUE(bytes);
    EXPECT_EQ(bytes->substr(0, 5), "%PDF-");
    // Where a file stands in the way it is said, and nothing else is lost.
    std::ofstream(folder.path / "no folder") << "x";
    window->export_panel()->set_folder(QString::fromStdString((folder.path / "no folder").string()));
    settle();
    QTest::mouseClick(window->export_panel()->sheet_button(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(said_wrong) << said.toStdString();
}

TEST_F(Workshop, TheSheetIsLookedAtPageByPageAndThenWritten) {
    open_holder();
    const auto out = folder.path / "for the bench";
    window->export_panel()->set_folder(QString::fromStdString(out.string()));
    settle();
    auto preview = [] { return qobject_cast<PaperPreview*>(QApplication::activeModalWidget()); };
    auto open_it = [&] {
        window->export_panel()->look_button()->setFocus(Qt::TabFocusReason);
        press(Qt::Key_Space);
        EXPECT_TRUE(QTest::qWaitFor([&] { return preview() && preview()->isVisible(); }, 60'000)) << said.toStdString();
    };
    open_it();
    ASSERT_NE(preview(), nullptr);
    EXPECT_GE(preview()->page_count(), 1);
    // The page is drawn: paper with ink on it, as wide as the window.
    auto inked = [&] {
        const QImage seen = preview()->pages()->grab().toImage();
        size_t paper = 0, ink = 0;
        for (int y = 0; y < seen.height(); y += 2)
            for (int x = 0; x < seen.width(); x += 2) {
                const int grey = qGray(seen.pixel(x, y));
                paper += grey > 250;
                ink += grey < 90;
            }
        return paper > 10 * ink && ink > 200;
    };
    EXPECT_TRUE(QTest::qWaitFor(inked, 20'000));
    QScrollBar* bar = preview()->pages()->verticalScrollBar();
    QTest::keyClick(preview()->pages(), Qt::Key_PageDown);
    EXPECT_GT(bar->value(), 0);
    QTest::keyClick(preview()->pages(), Qt::Key_Home);
    EXPECT_EQ(bar->value(), 0);
    QTest::keyClick(preview(), Qt::Key_Escape);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !preview(); }));
    EXPECT_FALSE(std::filesystem::exists(out)) << "looking writes nothing";
    EXPECT_TRUE(QTest::qWaitFor([&] { return window->view()->window()->isActiveWindow(); })) << "the keys are back";
    open_it();
    ASSERT_NE(preview(), nullptr);
    QTest::mouseClick(preview()->write_button(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(said.contains("Wrote the sheet")) << said.toStdString();
    EXPECT_TRUE(std::filesystem::exists(out / "Bean-clamp-sheet.pdf"));
}

TEST_F(Workshop, ADrawingOfTheActivePartIsWrittenByItsButton) {
    open_holder();
    const auto out = folder.path / "for the bench";
    window->export_panel()->set_folder(QString::fromStdString(out.string()));
    settle();
    QPushButton* button = window->export_panel()->drawing_button();
    ASSERT_NE(button, nullptr);
    const QString part = button->text().mid(QString("Draw ").size());
    button->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Space);
    settle();
    EXPECT_TRUE(said.contains("Wrote the drawing")) << said.toStdString();
    auto pdf = read_file(out / (part.toStdString() + "-drawing.pdf"));
    ASSERT_TRUE(pdf) << part.toStdString();
    EXPECT_EQ(pdf->substr(0, 5), "%PDF-");
    // Tab goes on to the same lines as SVG.
    window->export_panel()->drawing_button()->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Tab);
    press(Qt::Key_Space);
    settle();
    auto svg = read_file(out / (part.toStdString() + "-drawing.svg"));
    ASSERT_TRUE(svg) << said.toStdString();
    EXPECT_NE(svg->find("cut A"), std::string::npos);
}

TEST_F(Workshop, APracticePrintStandsBesideTheDesignAndGoesByUndo) {
    open_holder();
    choose("Holder");
    settle();
    QTest::mouseClick(window->export_panel()->practice_button(), Qt::LeftButton);
    settle();
    settle();
    const PartPtr printed = part("Holder, practice print");
    ASSERT_NE(printed, nullptr) << said.toStdString();
    EXPECT_TRUE(printed->stand_in);
    EXPECT_TRUE(column().contains("comes out")) << column().toStdString();
    EXPECT_TRUE(column().contains("None of this has been compared with a real print"));
    // It stands beside the design, where it fouls nothing: a grown block of 20.
    for (const ContactResult& contact : session->results().analysis()->contacts)
        EXPECT_TRUE(contact.part_a != printed->id && contact.part_b != printed->id);
    const Box3 box = session->results().evaluation()->part(printed->id)->box;
    EXPECT_NEAR(box.sizes().x(), 20.4, 0.05);
    EXPECT_NEAR(box.center().x(), 0, 0.05);
    EXPECT_NEAR(box.min().z(), 0, 0.01);
    choose("Holder, practice print");
    settle();
    EXPECT_FALSE(window->export_panel()->practice_button()->isEnabled()) << "a stand-in is not printed";
    undo();
    EXPECT_EQ(part("Holder, practice print"), nullptr);
    redo();
    EXPECT_NE(part("Holder, practice print"), nullptr);
    choose("Holder");
    say("print in practice");
    settle();
    EXPECT_EQ(session->project()->parts.size(), 4u) << "once more, by the line";
}

TEST_F(Workshop, ThePracticePrintOfNothingIsRefused) {
    open_part("Foil", nlohmann::json::array({block(0.1, 30, 10)}), Stretch::Export);
    QTest::mouseClick(window->export_panel()->practice_button(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(said_wrong);
    EXPECT_TRUE(said.contains("too thin for a line")) << said.toStdString();
    EXPECT_EQ(session->project()->parts.size(), 1u);
}

TEST_F(Workshop, StepGoesOutByItsBoxAndComesInExact) {
    open_part("Bench plate", {block(40, 20, 6), block(8, 8, 20, {{"does", "new"}, {"at_x", 40}})}, Stretch::Export);
    const auto out = folder.path / "exact";
    window->export_panel()->set_folder(QString::fromStdString(out.string()));
    settle();
    for (QCheckBox* box : window->export_panel()->findChildren<QCheckBox*>())
        if (box->isChecked() != box->text().startsWith("STEP"))
            QTest::mouseClick(box, Qt::LeftButton, {}, {8, box->height() / 2});
    for (QPushButton* button : window->export_panel()->findChildren<QPushButton*>())
        if (button->text() == "Export and read back") {
            QTest::mouseClick(button, Qt::LeftButton);
            break;
        }
    settle();
    EXPECT_FALSE(said_wrong) << said.toStdString();
    EXPECT_TRUE(column().contains("2 of 2 as meant")) << column().toStdString();
    QStringList files;
    for (const auto& entry : std::filesystem::directory_iterator(out))
        files << QString::fromStdString(entry.path().string());
    ASSERT_EQ(files.size(), 1);
    EXPECT_TRUE(files[0].endsWith(".step")) << files[0].toStdString();
    // Dropped onto the window it is a part of exact bodies.
    drop_file(*window.get(), files[0].toStdString());
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->project()->parts.size() == 2; }, 20'000)) << said.toStdString();
    settle();
    const PartResult& brought = session->results().evaluation()->parts[1];
    EXPECT_TRUE(brought.exact);
    EXPECT_EQ(brought.bodies.size(), 2u);
    EXPECT_NEAR(brought.mass.volume_mm3, 40 * 20 * 6 + 8 * 8 * 20, 1e-6);
    undo();
    EXPECT_EQ(session->project()->parts.size(), 1u);
}

// The window driven through its real widgets: the acts of the thinnest whole slice, one test each.
#include "drop_file.h"
#include <nlohmann/json.hpp>

using namespace lp;

TEST_F(Window, ANewProjectTeachesAndAPressOfOneMakesABlock) {
    EXPECT_TRUE(session->project()->parts.empty());
    QTest::keyClick(window->view(), Qt::Key_1);
    settle();
    ASSERT_EQ(session->project()->parts.size(), 1u);
    EXPECT_NEAR(session->results().evaluation()->parts[0].mass.volume_mm3, 8000, 1e-6);
    EXPECT_FALSE(window->view()->picture().isNull());
}

TEST_F(Window, TheDemoStandsInEveryRegion) {
    open_demo();
    settle();
    EXPECT_EQ(session->project()->parts.size(), 8u);
    EXPECT_EQ(window->sheet()->rows().size(), 6u); // the bucket's sentences
    EXPECT_GT(window->strip()->handle_z(), 30);
    EXPECT_TRUE(window->ledger()->line().contains("6 contacts right")) << window->ledger()->line().toStdString();
    std::string findings;
    for (const PartFinding& f : all_findings(*session->results().evaluation(), session->results().analysis()))
        findings += f.finding.title_and_count() + ": " + f.finding.says + "\n";
    EXPECT_EQ(window->tape()->open_at(Stretch::Check), 3) << findings; // the leaf guard: doubled, open, flipped
    EXPECT_FALSE(window->offers()->offers().empty());
    // The picture is no empty ground: many different colours.
    QImage picture = window->view()->picture();
    std::set<QRgb> colours;
    for (int x = 0; x < picture.width(); x += 7)
        for (int y = 0; y < picture.height(); y += 7) colours.insert(picture.pixel(x, y));
    EXPECT_GT(colours.size(), 60u);
}

TEST_F(Window, TypingPegPlusATwentiethMovesPegAndHoleAndUndoes) {
    open_demo();
    double peg_before = volume("See-saw bucket"), hole_before = volume("Cradle");
    type(5, "diameter", "peg_d + 0.2");
    settle();
    // Two pegs of 7 mm stand out of the bucket; the hole in two cheeks of 5 mm follows: closed formulas of cylinders.
    const double pi = std::numbers::pi;
    EXPECT_NEAR(volume("Cradle"), hole_before - 2 * 5 * pi * (std::pow(3.35, 2) - std::pow(3.25, 2)), 1e-3);
    EXPECT_GT(volume("See-saw bucket"), peg_before);
    EXPECT_EQ(window->sheet()->rows()[5]->field("diameter")->shown().toStdString(), "6.2 mm");
    QTest::mouseClick(window->undo_button(), Qt::LeftButton);
    settle();
    EXPECT_NEAR(volume("Cradle"), hole_before, 1e-9);
    QTest::mouseClick(window->redo_button(), Qt::LeftButton);
    settle();
    EXPECT_LT(volume("Cradle"), hole_before);
    EXPECT_EQ(session->results().evaluation()->part(part("See-saw bucket")->id)->all_ok(), true);
}

TEST_F(Window, NumbersAreReadAsPeopleWriteThem) {
    open_demo();
    auto shown = [&] { return window->sheet()->rows()[5]->field("diameter")->shown().toStdString(); };
    type(5, "diameter", "6,2 mm");
    settle();
    EXPECT_EQ(shown(), "6.2 mm");
    type(5, "diameter", "¼ in");
    settle();
    EXPECT_EQ(shown(), "6.35 mm");
    // What can be read in two ways stays open, with the reason.
    type(5, "diameter", "1,200");
    EXPECT_TRUE(window->sheet()->rows()[5]->field("diameter")->editing());
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
    EXPECT_EQ(shown(), "6.35 mm");
}

TEST_F(Window, AWrongNumberIsRefusedInPlaceAndNothingIsLost) {
    open_demo();
    auto before = session->project();
    for (const char* wrong : {"peg_x + 1", "-3", "0", "2 deg", "", "1e12"}) {
        type(5, "diameter", wrong);
        ValueField* field = window->sheet()->rows()[5]->field("diameter");
        EXPECT_TRUE(field->editing()) << wrong; // stays open, with the reason below
        QTest::keyClick(field->editor(), Qt::Key_Escape);
        EXPECT_FALSE(field->editing());
        EXPECT_EQ(session->project(), before) << wrong;
    }
}

TEST_F(Window, TheSheetIsWorkedByKeyboardAlone) {
    open_demo();
    ValueField* field = window->sheet()->rows()[4]->field("diameter"); // the hub, 12 mm
    field->setFocus();
    QTest::keyClick(field, Qt::Key_Up);
    settle();
    EXPECT_EQ(part("See-saw bucket")->steps[4].fields.at("diameter"), "13 mm");
    field = window->sheet()->rows()[4]->field("diameter");
    EXPECT_TRUE(field->hasFocus()); // the focus comes back to the same number
    QTest::keyClick(field, Qt::Key_Down, Qt::ShiftModifier);
    settle();
    EXPECT_EQ(part("See-saw bucket")->steps[4].fields.at("diameter"), "12.9 mm");
    field = window->sheet()->rows()[4]->field("diameter");
    QTest::keyClick(field, Qt::Key_Return);
    ASSERT_TRUE(field->editing());
    QTest::keyClicks(field->editor(), "hub_d = 1/2 in");
    QTest::keyClick(field->editor(), Qt::Key_Return);
    settle();
    EXPECT_EQ(part("See-saw bucket")->steps[4].fields.at("diameter"), "hub_d");
    EXPECT_NEAR(session->results().evaluation()->values.at("hub_d").value, 12.7, 1e-9);
}

TEST_F(Window, FromSlideToLooseTheHoleOpensByTheDifference) {
    open_demo();
    double before = volume("Cradle");
    EXPECT_NEAR(contact("See-saw bucket", "Cradle").gap->min_mm, 0.25, 0.011);
    go(Stretch::Fit);
    ASSERT_FALSE(window->fit_panel()->contact_rows().empty());
    QTest::mouseClick(window->fit_panel()->contact_rows()[0], Qt::LeftButton);
    QApplication::processEvents();
    ASSERT_EQ(session->workspace().active_contact(), session->results().analysis()->contacts.at(0).ref());
    int loose = 0;
    for (size_t i = 0; i < window->offers()->offers().size(); ++i)
        if (window->offers()->offers()[i].words.startsWith("loose")) loose = int(i) + 1;
    ASSERT_GT(loose, 0);
    QTest::keyClick(window->view(), Qt::Key(Qt::Key_0 + loose)); // the digit takes the offer
    settle();
    const ContactResult& now = contact("See-saw bucket", "Cradle");
    EXPECT_NEAR(now.wanted->gap_mm, 0.40, 1e-12);
    EXPECT_NEAR(now.gap->min_mm, 0.40, 0.011);
    EXPECT_EQ(now.state, FitState::Right);
    EXPECT_NEAR(before - volume("Cradle"), 2 * 5 * std::numbers::pi * (std::pow(3.40, 2) - std::pow(3.25, 2)), 1e-3);
    window->ledger()->set_open(true);
    EXPECT_EQ(window->ledger()->table()->item(0, 1)->text().toStdString(), "loose 0.40 mm");
    EXPECT_TRUE(window->ledger()->table()->item(0, 2)->text().startsWith("0.4") ||
                window->ledger()->table()->item(0, 2)->text().startsWith("0.39"));
}

TEST_F(Window, TheFitTableAndThePrinterCardReachEveryContact) {
    open_demo();
    go(Stretch::Fit);
    unfold("fold-fits");
    ValueField* slide = window->fit_panel()->fit_field("slide");
    ASSERT_NE(slide, nullptr);
    QTest::mouseClick(slide, Qt::LeftButton, {}, slide->rect().center());
    slide->editor()->selectAll();
    QTest::keyClicks(slide->editor(), "0.3");
    QTest::keyClick(slide->editor(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(contact("See-saw bucket", "Cradle").gap->min_mm, 0.30, 0.011);
    type_into(window->findChild<FitPanel*>()->cards()->field("hole_shrink_mm"), "0.15");
    settle();
    EXPECT_NEAR(contact("See-saw bucket", "Cradle").gap->min_mm, 0.35, 0.011);
    EXPECT_NEAR(contact("Battery", "Battery tray").wanted->gap_mm, 0.55, 1e-12);
}

TEST_F(Window, AFaceIsPickedAndLaidOnTheBedAndTheStripShowsTheLayers) {
    open_demo();
    choose("Cradle");
    window->view()->fit_all();
    settle();
    // Rays through many facets are made ready beside the window.
    QPointF middle(window->view()->width() / 2.0, window->view()->height() / 2.0);
    for (int i = 0; i < 100 && window->view()->candidates_at(middle).empty(); ++i) QTest::qWait(20);
    // A click on the middle of a visible flat face of the cradle takes that face.
    Pick picked;
    const PartResult* cradle = session->results().evaluation()->part(part("Cradle")->id);
    const Tessellation& t = cradle->bodies[0].body.tessellation();
    for (size_t f = 0; f < t.faces.size() && !picked; ++f) {
        if (t.faces[f].kind != SurfaceKind::Plane || t.faces[f].direction.y() > -0.9 || t.faces[f].area_mm2 < 100)
            continue;
        QTest::mouseClick(window->view(), Qt::LeftButton, {},
                          window->view()->project(t.faces[f].centre + Vec3(3, 0, 6)).toPoint());
        if (!session->workspace().selection().empty() && session->workspace().selection()[0].kind == Pick::Kind::Face &&
            session->workspace().selection()[0].part == cradle->part)
            picked = session->workspace().selection()[0];
    }
    ASSERT_TRUE(picked);
    EXPECT_TRUE(window->offers()->description().contains("flat"));
    ASSERT_EQ(window->offers()->offers()[0].words, "Lay on the bed");
    Vec3 normal = session->results().face_of(picked)->direction;
    QTest::keyClick(window->view(), Qt::Key_1);
    settle();
    EXPECT_EQ(session->workspace().stretch(), Stretch::Bed);
    EXPECT_TRUE(part("Cradle")->pose.face.has_value());
    Transform pose = session->results().pose_of(part("Cradle")->id);
    EXPECT_NEAR((pose.linear() * normal - Vec3(0, 0, -1)).norm(), 0, 1e-9);
    const PartAnalysis* analysis = session->results().analysis()->part(part("Cradle")->id);
    EXPECT_NEAR(bounding_box(*analysis->posed).min().z(), 0, 1e-6);
    ASSERT_TRUE(analysis->plan);
    double hanging = 0;
    for (const Layer& layer : analysis->plan->layers) hanging += layer.unsupported_mm2;
    EXPECT_GT(hanging, 0); // on its side something hangs
    // Dragging the handle cuts the view.
    LayerStrip* strip = window->strip();
    QTest::mousePress(strip, Qt::LeftButton, {}, QPoint(40, int(strip->y_of(strip->handle_z()))));
    QTest::mouseMove(strip, QPoint(40, int(strip->y_of(10))));
    QTest::mouseRelease(strip, Qt::LeftButton, {}, QPoint(40, int(strip->y_of(10))));
    ASSERT_TRUE(session->workspace().cut_height());
    EXPECT_NEAR(*session->workspace().cut_height(), 10, 0.6);
    QApplication::processEvents();
    EXPECT_TRUE(window->view()->scene().section);
    QImage cut = window->view()->grab().toImage();
    QTest::keyClick(strip, Qt::Key_Escape);
    EXPECT_FALSE(session->workspace().cut_height());
    QApplication::processEvents();
    EXPECT_NE(cut, window->view()->grab().toImage());
    // Typed turns.
    ValueField* turn = window->bed_panel()->turn_field(0);
    QTest::mouseClick(turn, Qt::LeftButton, {}, turn->rect().center());
    turn->editor()->selectAll();
    QTest::keyClicks(turn->editor(), "90 deg");
    QTest::keyClick(turn->editor(), Qt::Key_Return);
    settle();
    EXPECT_EQ(part("Cradle")->pose.turn[0], "90 deg");
}

TEST_F(Window, TheLeafGuardShowsItsFindingsAndOnePressMendsIt) {
    open_demo();
    go(Stretch::Check);
    choose("Leaf guard");
    settle();
    auto titles = [&] {
        QStringList list;
        for (MarkRow* row : window->check_panel()->finding_rows()) list << row->title();
        return list.join("; ");
    };
    EXPECT_TRUE(titles().contains("Open edges")) << titles().toStdString();
    EXPECT_TRUE(titles().contains("Flipped"));
    EXPECT_TRUE(titles().contains("Twice there"));
    QTest::mouseClick(window->check_panel()->finding_rows()[0], Qt::LeftButton);
    QApplication::processEvents();
    const auto found = findings_of_part(*session->results().evaluation(), session->results().analysis(),
                                        session->workspace().active_part());
    EXPECT_EQ(session->workspace().active_finding(), found.at(0).ref); // and the view looks at its place
    ASSERT_NE(window->check_panel()->mend_button(), nullptr);
    QTest::mouseClick(window->check_panel()->mend_button(), Qt::LeftButton);
    settle();
    EXPECT_EQ(window->check_panel()->mend_button(), nullptr);
    EXPECT_TRUE(session->results().analysis()->part(part("Leaf guard")->id)->inspection.soundness.sound());
    EXPECT_EQ(window->tape()->open_at(Stretch::Check), 0);
    window->ledger()->set_open(true);
    bool report = false;
    for (int r = 0; r < window->ledger()->table()->rowCount(); ++r) {
        QString says = window->ledger()->table()->item(r, 3)->text();
        report = report || (says.contains("Before: 17 open edges") && says.contains("After: sound"));
    }
    EXPECT_TRUE(report);
}

TEST_F(Window, SupportsStandUnderWhatHangsAndCount) {
    open_demo();
    go(Stretch::Bed);
    settle();
    double before = session->results().analysis()->mass_g;
    ASSERT_NE(window->bed_panel()->supports_button(), nullptr);
    QTest::mouseClick(window->bed_panel()->supports_button(), Qt::LeftButton);
    settle();
    const PartAnalysis* bucket = session->results().analysis()->part(part("See-saw bucket")->id);
    EXPECT_GT(bucket->supports.posts.size(), 20u);
    EXPECT_GT(session->results().analysis()->mass_g, before);
    bool in_view = false;
    for (const SceneBody& body : window->view()->scene().bodies) in_view = in_view || body.support;
    EXPECT_TRUE(in_view);
    double support_area = 0;
    for (const Layer& layer : bucket->plan->layers) support_area += layer.support_area_mm2;
    EXPECT_GT(support_area, 0);
    // Trees in their place: by the keyboard, less plastic; saved, opened again and undone.
    const double posts_g = session->results().analysis()->mass_g;
    QRadioButton* trees = window->bed_panel()->kind_button(SupportKind::Trees);
    ASSERT_TRUE(trees && window->bed_panel()->kind_button(SupportKind::Posts)->isChecked());
    trees->setFocus();
    press(Qt::Key_Space);
    settle();
    auto bucket_now = [&] { return session->results().analysis()->part(part("See-saw bucket")->id); };
    EXPECT_TRUE(window->bed_panel()->kind_button(SupportKind::Trees)->isChecked());
    EXPECT_GT(bucket_now()->supports.trees.size(), 0u);
    EXPECT_TRUE(bucket_now()->supports.posts.empty());
    EXPECT_LT(session->results().analysis()->mass_g, posts_g);
    const QString kept = QString::fromStdString((folder / "trees.json").string());
    ASSERT_TRUE(window->save_to(kept));
    session->document().open(kept);
    settle();
    EXPECT_GT(bucket_now()->supports.trees.size(), 0u);
    EXPECT_EQ(part("See-saw bucket")->supports.options.kind, SupportKind::Trees);
    go(Stretch::Bed);
    QTest::mouseClick(window->bed_panel()->supports_button(), Qt::LeftButton);
    settle();
    EXPECT_EQ(bucket_now()->supports.count(), 0u);
    undo();
    EXPECT_GT(bucket_now()->supports.trees.size(), 0u);
}

TEST_F(Window, ExportWritesNamedObjectsAndReadsThemBack) {
    open_demo();
    say("supports"); // for the bucket, which is chosen
    ASSERT_TRUE(part("See-saw bucket")->supports.on);
    go(Stretch::Export);
    window->export_panel()->set_folder(QString::fromStdString((folder / "out").string()));
    QTest::mouseClick(window->export_panel()->export_button(), Qt::LeftButton);
    settle();
    ASSERT_FALSE(session->last_export().empty()) << said.toStdString();
    std::set<std::string> names;
    for (const ReadBack& back : session->last_export()) {
        EXPECT_TRUE(back.same) << back.name << ": " << back.says;
        names.insert(back.name);
    }
    EXPECT_TRUE(names.count("See-saw bucket supports"));
    EXPECT_FALSE(names.count("Battery"));
    auto objects = read_3mf(*read_file(folder / "out/Rain-gauge.3mf"));
    ASSERT_TRUE(objects);
    EXPECT_EQ(objects->size(), 8u); // seven parts and one set of supports
    EXPECT_TRUE(std::filesystem::exists(folder / "out/Cradle.stl"));
    EXPECT_FALSE(std::filesystem::exists(folder / "out/Rain-gauge-sheet.pdf"));
    // With the page for the workshop, by the keyboard.
    QCheckBox* sheet = nullptr;
    for (QCheckBox* box : window->export_panel()->findChildren<QCheckBox*>())
        if (box->text().startsWith("Job sheet")) sheet = box;
    ASSERT_NE(sheet, nullptr);
    sheet->setFocus();
    QTest::keyClick(sheet, Qt::Key_Space);
    const size_t files = session->last_export().size();
    QTest::mouseClick(window->export_panel()->export_button(), Qt::LeftButton);
    settle();
    EXPECT_EQ(session->last_export().size(), files + 1) << said.toStdString();
    EXPECT_EQ(session->last_export().back().name, "Rain-gauge-sheet");
    EXPECT_EQ(read_file(folder / "out/Rain-gauge-sheet.pdf").value_or("").substr(0, 5), "%PDF-");
    // Where nothing could be written, nothing is told to have been read back.
    window->export_panel()->set_folder(QString::fromStdString((folder / "out/Cradle.stl").string()));
    QTest::mouseClick(window->export_panel()->export_button(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(said_wrong) << said.toStdString();
    EXPECT_TRUE(session->last_export().empty());
    for (const QLabel* label : window->export_panel()->findChildren<QLabel*>())
        EXPECT_FALSE(label->isVisible() && label->text().contains("as meant")) << label->text().toStdString();
}

TEST_F(Window, SavedClosedAndReopenedEverythingIsAsItWas) {
    open_demo();
    type(5, "diameter", "peg_d + 0.2");
    settle();
    set_number("wall", "2.4 mm");
    auto before = project_to_json(*session->project());
    double bucket = volume("See-saw bucket");
    QString path = QString::fromStdString((folder / "mine.loosepeg").string());
    ASSERT_TRUE(window->save_to(path));
    EXPECT_FALSE(session->document().changed());
    TearDown();
    SetUp();
    ASSERT_TRUE(session->document().open(path));
    settle();
    EXPECT_EQ(project_to_json(*session->project()), before);
    EXPECT_NEAR(volume("See-saw bucket"), bucket, 1e-6);
    // The history of numbers came along.
    EXPECT_EQ(session->document().history().undo_sentence(), "wall = 2.4 mm");
    QTest::mouseClick(window->undo_button(), Qt::LeftButton);
    QTest::mouseClick(window->undo_button(), Qt::LeftButton);
    settle();
    EXPECT_EQ(part("See-saw bucket")->steps[5].fields.at("diameter"), "peg_d");
}

TEST_F(Window, ADroppedMeshBecomesAPartAndADamagedFileAMessage) {
    open_demo();
    std::ofstream(folder / "lid.stl", std::ios::binary) << write_stl_binary(test::cube(12));
    std::ofstream(folder / "torn.stl", std::ios::binary) << write_stl_binary(test::cube(12)).substr(0, 333);
    auto drop = [&](const char* name) {
        drop_file(*window.get(), folder / name);
        for (int i = 0; i < 200 && (said.isEmpty() || !said.contains(QString(name).section('.', 0, 0))); ++i)
            QTest::qWait(10);
        settle();
    };
    drop("lid.stl");
    ASSERT_NE(part("lid"), nullptr);
    EXPECT_NEAR(volume("lid"), 1728, 1e-3);
    EXPECT_EQ(session->project()->part(session->workspace().active_part())->name, "lid");
    said.clear();
    auto before = session->project();
    drop("torn.stl");
    EXPECT_TRUE(said_wrong);
    EXPECT_TRUE(said.contains("cut off")) << said.toStdString();
    EXPECT_EQ(session->project(), before);
}

TEST_F(Window, TheTypedLineMakesWhatItSays) {
    open_demo();
    size_t steps = part("See-saw bucket")->steps.size();
    QTest::keyClick(window->view(), Qt::Key_Slash);
    QLineEdit* line = window->offers()->panel()->line();
    ASSERT_TRUE(line->isVisible());
    QTest::keyClicks(line, "cylinder 4 30 cut y");
    QTest::keyClick(line, Qt::Key_Return);
    settle();
    ASSERT_EQ(part("See-saw bucket")->steps.size(), steps + 1);
    const Step& made = part("See-saw bucket")->steps.back();
    EXPECT_EQ(made.fields.at("diameter"), "4");
    EXPECT_EQ(made.fields.at("height"), "30");
    EXPECT_EQ(made.fields.at("does"), "cut");
    EXPECT_EQ(made.fields.at("along"), "y");
    say("make me a sandwich");
    EXPECT_TRUE(window->offers()->panel()->isVisible()) << "it stays open and says why not";
    EXPECT_TRUE(window->offers()->panel()->says().contains("sandwich"));
    press(Qt::Key_Escape);
    EXPECT_EQ(part("See-saw bucket")->steps.size(), steps + 1);
    say("undo");
    EXPECT_EQ(part("See-saw bucket")->steps.size(), steps);
}

TEST_F(Window, TwoPickedThingsShowTheirDistance) {
    open_demo();
    // The two cheeks' inner faces stand bucket_w + 3 mm apart.
    const PartResult* cradle = session->results().evaluation()->part(part("Cradle")->id);
    const Tessellation& t = cradle->bodies[0].body.tessellation();
    Pick low, high;
    for (size_t f = 0; f < t.faces.size(); ++f) {
        if (t.faces[f].kind != SurfaceKind::Plane || std::fabs(std::fabs(t.faces[f].centre.y()) - 19.5) > 0.01)
            continue;
        Pick pick;
        pick.kind = Pick::Kind::Face;
        pick.part = cradle->part;
        pick.index = f;
        (t.faces[f].centre.y() < 0 ? low : high) = pick;
    }
    ASSERT_TRUE(low && high);
    session->workspace().select(low, false);
    session->workspace().select(high, true);
    settle();
    EXPECT_EQ(window->offers()->description().toStdString(), "39.00 mm apart · parallel");
}

TEST_F(Window, AFailingStepSaysWhyUnderItsLineAndTheRestStays) {
    open_demo();
    choose("Battery tray");
    settle();
    // The notch grows over the whole tray: nothing would be left.
    type(2, "size_x", "400");
    type(2, "size_y", "400");
    type(2, "at_z", "-5");
    settle();
    EXPECT_EQ(window->tape()->open_at(Stretch::Shape), 1);
    bool said_so = false;
    for (QLabel* label : window->sheet()->rows()[2]->findChildren<QLabel*>())
        said_so = said_so || label->text().contains("Nothing is left");
    EXPECT_TRUE(said_so);
    EXPECT_GT(volume("Battery tray"), 5000); // as it was before that step
}

TEST_F(Window, WhatWasNotSavedIsOfferedAfterACrash) {
    open_demo();
    set_number("wall", "3 mm");
    Autosave dead(Autosave::state_directory());
    ASSERT_FALSE(dead.write(session->document().history(), ""));
    std::filesystem::rename(dead.file(), dead.file().parent_path() / "autosave-99999999.loosepeg"); // no such process
    TearDown();
    SetUp();
    window->offer_recovery();
    auto* bar = window->findChild<QWidget*>("recovery");
    ASSERT_NE(bar, nullptr);
    QTest::mouseClick(bar->findChild<QPushButton*>(), Qt::LeftButton);
    settle();
    EXPECT_EQ(session->project()->parameters[1].expression, "3 mm");
    EXPECT_TRUE(session->document().changed());
    EXPECT_TRUE(session->document().left_behind().empty());
}

TEST_F(Window, LongWorkIsStoppedAndTheLastGoodResultStays) {
    open_demo();
    double before = volume("Cradle");
    type(5, "diameter", "peg_d = 6.4 mm");
    session->stop();
    for (int i = 0; i < 40; ++i) QTest::qWait(5);
    EXPECT_TRUE(volume("Cradle") == before || session->results().evaluation_is_current()); // never half a result
    type(5, "diameter", "peg_d = 6.5 mm");
    settle();
    EXPECT_LT(volume("Cradle"), before);
}

TEST_F(Window, EveryRegionIsReachedByKeyAndHasAName) {
    open_demo();
    window->activateWindow();
    std::set<QWidget*> reached;
    window->view()->setFocus();
    for (int i = 0; i < 8; ++i) {
        QTest::keyClick(window.get(), Qt::Key_F6);
        QApplication::processEvents();
        if (QWidget* focus = QApplication::focusWidget()) reached.insert(focus);
    }
    EXPECT_GE(reached.size(), 5u);
    for (QWidget* widget : window->findChildren<QWidget*>())
        if (widget->isVisible() && widget->focusPolicy() == Qt::StrongFocus &&
            !qobject_cast<QAbstractButton*>(widget) && widget->accessibleName().isEmpty()) {
            ADD_FAILURE() << widget->metaObject()->className() << " has no accessible name";
        }
}

TEST_F(Window, TheProjectAndAPartAreRenamedByTheSameKeyWhereItIsPressed) {
    open_demo();
    auto name_line = [&]() -> QLineEdit* { // the one that is seen; those before are deleted later
        for (QLineEdit* line : window->findChildren<QLineEdit*>("project-name"))
            if (line->isVisible()) return line;
        return nullptr;
    };
    window->view()->setFocus();
    QTest::keyClick(window->view(), Qt::Key_F2);
    QLineEdit* name = name_line();
    ASSERT_NE(name, nullptr);
    EXPECT_TRUE(name->hasFocus());
    QTest::keyClicks(name, "Water butt");
    QTest::keyClick(name, Qt::Key_Return);
    settle();
    EXPECT_EQ(session->project()->name, "Water butt");
    EXPECT_TRUE(window->windowTitle().contains("Water butt"));
    EXPECT_TRUE(window->view()->hasFocus()) << "and the hand is back in the view";
    QTest::keyClick(window->view(), Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(session->project()->name, "Rain gauge");
    // Given up with Escape, nothing is renamed.
    QTest::keyClick(window->view(), Qt::Key_F2);
    name = name_line();
    ASSERT_NE(name, nullptr);
    QTest::keyClicks(name, "Nothing");
    QTest::keyClick(name, Qt::Key_Escape);
    settle();
    EXPECT_EQ(session->project()->name, "Rain gauge");
    // On the shelf the same key is for the part.
    choose("Cradle");
    window->shelf()->setFocus();
    QTest::keyClick(window->shelf(), Qt::Key_F2);
    EXPECT_EQ(name_line(), nullptr);
    auto* editor = window->shelf()->findChild<QLineEdit*>();
    ASSERT_TRUE(editor && editor->isVisible());
    editor->selectAll();
    QTest::keyClicks(editor, "Frame");
    QTest::keyClick(editor, Qt::Key_Return);
    settle();
    EXPECT_NE(session->project()->part_named("Frame"), nullptr);
    EXPECT_EQ(session->project()->name, "Rain gauge");
}

// Inlays as parts of their own, and the steps of a part for other files, through the window.
#include "app/outline/outline_editor.h"
#include "dialog_answer.h"
#include "drop_file.h"
#include "formats/formats.h"
#include "test_meshes.h"
#include "window_test.h"

using namespace lp;
using std::numbers::pi;

namespace {

class ManyFiles : public Window {
  protected:
    QString file(const char* name, const Vec3& size) {
        const auto path = folder.path / name;
        EXPECT_FALSE(write_mesh_file(path, box_mesh(Vec3::Zero(), size), name));
        return QString::fromStdString(path.string());
    }
    /// Takes an act that asks for files, and types them into its dialog.
    void say_with(const char* words, const QString& files) {
        const DialogAnswer answer(files);
        say(words);
        settle();
        window->activateWindow(); // as a window manager does once the dialog is gone
        ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
        window->view()->setFocus();
    }
    double volume_of(size_t part) { return session->results().evaluation()->parts.at(part).mass.volume_mm3; }
};

} // namespace

TEST_F(ManyFiles, ANewerFileTakesThePlaceAndSiblingsGetTheSameSteps) {
    drop_file(*window.get(), file("foot.stl", {40, 40, 12}).toStdString());
    settle();
    ASSERT_EQ(session->project()->parts.size(), 1u);
    say("simplify");
    ASSERT_EQ(session->project()->parts[0]->steps.size(), 2u);
    EXPECT_NEAR(volume_of(0), 40 * 40 * 12, 1e-3);
    say_with("replace the file", file("foot2.stl", {50, 44, 15}));
    EXPECT_NEAR(volume_of(0), 50 * 44 * 15, 1e-3);
    EXPECT_EQ(session->project()->parts[0]->steps.size(), 2u) << "the step stays";
    undo();
    EXPECT_NEAR(volume_of(0), 40 * 40 * 12, 1e-3);
    // Two siblings and a file that is none.
    const QString wrong = QString::fromStdString((folder.path / "wrong.stl").string());
    QFile broken(wrong);
    ASSERT_TRUE(broken.open(QIODevice::WriteOnly));
    broken.write("nothing");
    broken.close();
    say_with("same steps for other files",
             QString("\"%1\" \"%2\" \"%3\"").arg(file("low.stl", {30, 30, 5}), wrong, file("high.stl", {30, 30, 50})));
    ASSERT_EQ(session->project()->parts.size(), 3u);
    EXPECT_NEAR(volume_of(1), 30 * 30 * 5, 1e-3);
    EXPECT_NEAR(volume_of(2), 30 * 30 * 50, 1e-3);
    EXPECT_TRUE(said_wrong && said.contains("wrong.stl") && said.contains("2 of 3 came out")) << said.toStdString();
    undo();
    EXPECT_EQ(session->project()->parts.size(), 1u) << "one act, taken back at once";
}

TEST_F(ManyFiles, AFileComesIntoTheEmptyStandInInHand) {
    open_part("Tray", nlohmann::json::array({block(10, 10, 10)}), Stretch::Shape);
    say("new stand-in");
    ASSERT_EQ(session->project()->parts.size(), 2u);
    EXPECT_EQ(session->project()->parts[1]->name, "Bought thing");
    drop_file(*window.get(), file("logger-board.stl", {60, 40, 2}).toStdString());
    settle();
    ASSERT_EQ(session->project()->parts.size(), 2u) << "no part beside it";
    EXPECT_TRUE(session->project()->parts[1]->stand_in);
    EXPECT_EQ(session->project()->parts[1]->name, "logger board") << "by its file, while it has no name of its own";
    EXPECT_NEAR(volume_of(1), 60 * 40 * 2, 1e-3);
    undo();
    EXPECT_TRUE(session->project()->parts[1]->steps.empty());
    EXPECT_EQ(session->project()->parts[1]->name, "Bought thing") << "one act, taken back at once";
    redo();
    // The next file finds it filled.
    drop_file(*window.get(), file("plug.stl", {8, 9, 3}).toStdString());
    settle();
    ASSERT_EQ(session->project()->parts.size(), 3u);
    EXPECT_FALSE(session->project()->parts[2]->stand_in);
    // What tells a colour gives it to its part: of several things the largest.
    std::vector<FileObject> things{{.name = "can", .mesh = box_mesh(Vec3::Zero(), {4, 4, 8}), .colour = 0x202428},
                                   {.name = "board", .mesh = box_mesh({0, 0, -2}, {50, 30, 0}), .colour = 0x1f7a3d}};
    const auto bytes = find_format("3mf")->write(things, "board", {});
    ASSERT_TRUE(bytes);
    ASSERT_FALSE(write_file_safely(folder.path / "board.3mf", *bytes));
    drop_file(*window.get(), folder.path / "board.3mf");
    settle();
    ASSERT_EQ(session->project()->parts.size(), 4u);
    EXPECT_EQ(session->project()->parts[3]->colour, "#1f7a3d");
}

TEST_F(ManyFiles, APartWithoutAFileSaysSo) {
    open_part("Block", nlohmann::json::array({block(10, 10, 10)}), Stretch::Shape);
    say_with("replace the file", file("foot.stl", {4, 4, 4}));
    EXPECT_TRUE(said_wrong && said.contains("does not begin with a file")) << said.toStdString();
    say("part of its own");
    EXPECT_TRUE(said_wrong && said.contains("one body only")) << said.toStdString();
    EXPECT_EQ(session->project()->parts.size(), 1u);
}

TEST_F(ManyFiles, AnEmblemIsLetInAndItsPlugBecomesAPartOfAnotherColour) {
    const nlohmann::json circle = {{"kind", "circle"}, {"points", {{0, 0}}}, {"radius", 6}};
    open_part("Sign",
              {block(40, 30, 4),
               {{"kind", "outline"}, {"fields", {{"distance", "4 mm"}, {"drawing", {{"elements", {circle}}}}}}}},
              Stretch::Shape);
    session->draw_outline(part("Sign")->id, part("Sign")->steps[1].id);
    settle();
    say("inlay");
    ASSERT_EQ(part("Sign")->steps.size(), 3u) << said.toStdString();
    EXPECT_NEAR(volume("Sign"), 40 * 30 * 4 - pi * 36 * 1.2 + pi * 5.9 * 5.9 * 1.1, 1e-2) << "plate and plug";
    type(2, "depth", "2");
    settle();
    EXPECT_NEAR(volume("Sign"), 40 * 30 * 4 - pi * 36 * 2 + pi * 5.9 * 5.9 * 1.9, 1e-2);
    say("part of its own");
    ASSERT_EQ(session->project()->parts.size(), 2u) << said.toStdString();
    settle();
    EXPECT_NEAR(volume("Sign"), 40 * 30 * 4 - pi * 36 * 2, 1e-2);
    EXPECT_NEAR(volume("Sign plug"), pi * 5.9 * 5.9 * 1.9, 1e-2);
    EXPECT_NE(part("Sign plug")->colour, part("Sign")->colour);
    EXPECT_EQ(session->workspace().active_part(), part("Sign plug")->id) << "it is in hand";
    undo();
    EXPECT_EQ(session->project()->parts.size(), 1u);
    redo();
    // Deeper still: the plug follows.
    choose("Sign");
    type(2, "depth", "3");
    settle();
    EXPECT_NEAR(volume("Sign plug"), pi * 5.9 * 5.9 * 2.9, 1e-2);
}

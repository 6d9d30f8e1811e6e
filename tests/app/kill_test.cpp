// The program is killed in the middle of steady work, again and again: what was not saved is found again but for the
// last moments. The program that is killed is this test itself, started once more with an argument: a real window in
// which a number is stepped over and over.
#include "window_test.h"
#include <csignal>
#include <fcntl.h>
#include <random>
#include <spawn.h>
#include <sys/wait.h>

extern char** environ;

using namespace lp;

namespace {

constexpr int autosave_ms = 60;                                            ///< in place of four seconds
constexpr int allowed_ms = autosave_ms + 1000 * autosave_ms / 4000 + 1800; ///< a machine under load writes late

struct Working {
    pid_t process = 0;
    int told = -1; ///< it writes a byte after each edit
};

Working start(const std::filesystem::path& folder) {
    int pipe_ends[2];
    EXPECT_EQ(pipe2(pipe_ends, O_CLOEXEC), 0);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, pipe_ends[1], 3);
    std::string self = std::filesystem::read_symlink("/proc/self/exe"), where = folder.string();
    setenv("XDG_STATE_HOME", where.c_str(), 1);
    setenv("LOOSE_PEG_AUTOSAVE_MS", std::to_string(autosave_ms).c_str(), 1);
    char* arguments[] = {self.data(), const_cast<char*>("--edit-until-killed"), nullptr};
    Working working;
    EXPECT_EQ(posix_spawn(&working.process, self.c_str(), &actions, nullptr, arguments, environ), 0);
    unsetenv("LOOSE_PEG_AUTOSAVE_MS");
    posix_spawn_file_actions_destroy(&actions);
    close(pipe_ends[1]);
    working.told = pipe_ends[0];
    return working;
}

/// Numbers of edits told so far, each with when it was heard of.
struct Heard {
    std::vector<std::chrono::steady_clock::time_point> at;
};

void listen_for(const Working& working, Heard& heard, std::chrono::milliseconds time) {
    const auto end = std::chrono::steady_clock::now() + time;
    fcntl(working.told, F_SETFL, O_NONBLOCK);
    while (std::chrono::steady_clock::now() < end) {
        char bytes[64];
        ssize_t n = read(working.told, bytes, sizeof bytes);
        for (ssize_t i = 0; i < n; ++i) heard.at.push_back(std::chrono::steady_clock::now());
        if (n <= 0) std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
}

} // namespace

/// What is killed: a window in which a block is made and then longer by a millimetre, steadily, with the arrow key.
int edit_until_killed() {
    Session session;
    MainWindow window(&session);
    window.show();
    QTest::keyClick(window.view(), Qt::Key_1);
    for (;;) {
        for (int i = 0; i < 4; ++i) {
            QApplication::processEvents();
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        }
        if (window.sheet()->rows().empty()) continue;
        ValueField* length = window.sheet()->rows()[0]->field("size_x");
        length->setFocus();
        QTest::keyClick(length, Qt::Key_Up);
        if (write(3, "n", 1) != 1) return 1;
    }
}

TEST(SuddenEnd, NothingButTheLastMomentsIsLost) {
    // LOOSE_PEG_CASES=50 is the whole run.
    const char* cases = getenv("LOOSE_PEG_CASES");
    const int kills = cases ? std::atoi(cases) : 6;
    std::mt19937 random(std::random_device{}());
    for (int round = 0; round < kills; ++round) {
        test::Folder folder;
        Working working = start(folder.path);
        Heard heard;
        while (heard.at.empty()) listen_for(working, heard, std::chrono::milliseconds(20)); // until it works
        listen_for(working, heard, std::chrono::milliseconds(allowed_ms + int(random() % 300)));
        const auto killed = std::chrono::steady_clock::now();
        kill(working.process, SIGKILL);
        waitpid(working.process, nullptr, 0);
        close(working.told);
        setenv("XDG_STATE_HOME", folder.path.c_str(), 1);
        Autosave next(Autosave::state_directory());
        auto left = next.left_behind();
        ASSERT_EQ(left.size(), 1u) << "round " << round << ", after " << heard.at.size() << " edits";
        auto opened = open_project(left[0].file);
        ASSERT_TRUE(opened) << opened.error().text();
        ASSERT_EQ(opened->history.now()->parts.size(), 1u);
        const Step& block = opened->history.now()->parts[0]->steps.at(0);
        const size_t kept = size_t(std::stoul(block.fields.at("size_x"))) - 20; // "27 mm": seven edits
        // All edits heard of longer ago than allowed are in it.
        size_t due = 0;
        for (const auto& at : heard.at) due += killed - at > std::chrono::milliseconds(allowed_ms);
        EXPECT_GE(kept, due) << "round " << round << " of " << heard.at.size() << " edits";
        EXPECT_LE(kept, heard.at.size() + 2);
        for (const auto& entry : std::filesystem::directory_iterator(left[0].file.parent_path()))
            EXPECT_EQ(entry.path().filename().string().find(".part"), std::string::npos)
                << "cut short, and still there";
    }
}

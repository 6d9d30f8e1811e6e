// How the program starts where nothing can be shown.
#include <array>
#include <cstdio>
#include <gtest/gtest.h>
#include <string>
#include <sys/wait.h>

namespace {

struct Ran {
    int status = -1;
    std::string says;
};

/// The program without a display, as over a plain remote shell.
Ran without_display(const std::string& arguments) {
    Ran ran;
    const std::string line =
        "env -u DISPLAY -u WAYLAND_DISPLAY -u QT_QPA_PLATFORM " + std::string(APP) + " " + arguments + " 2>&1";
    FILE* pipe = popen(line.c_str(), "r");
    if (!pipe) return ran;
    std::array<char, 4096> bytes;
    while (size_t n = fread(bytes.data(), 1, bytes.size(), pipe)) ran.says.append(bytes.data(), n);
    const int ended = pclose(pipe);
    ran.status = WIFEXITED(ended) ? WEXITSTATUS(ended) : -1; // not by a signal
    return ran;
}

} // namespace

TEST(Start, HelpAndVersionNeedNoDisplay) {
    const Ran help = without_display("--help");
    EXPECT_EQ(help.status, 0) << help.says;
    EXPECT_NE(help.says.find("--shot"), std::string::npos) << help.says;
    EXPECT_EQ(without_display("-h").status, 0);
    const Ran version = without_display("--version");
    EXPECT_EQ(version.status, 0) << version.says;
    EXPECT_EQ(version.says, "Loose Peg " APP_VERSION "\n");
}

TEST(Start, WithoutADisplayItSaysSoInOneLine) {
    for (const char* arguments : {"", "somewhere.json", "--nonsense"}) {
        const Ran ran = without_display(arguments);
        EXPECT_EQ(ran.status, 1) << arguments;
        EXPECT_NE(ran.says.find("no display"), std::string::npos) << ran.says;
        EXPECT_EQ(ran.says.find('\n'), ran.says.size() - 1) << ran.says;
    }
}

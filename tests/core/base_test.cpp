#include "base/expression.h"
#include "base/files.h"
#include "base/task.h"
#include "base/text.h"
#include "test_meshes.h"
#include <atomic>
#include <fstream>
#include <gtest/gtest.h>
#include <limits>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace lp;

namespace {
double value(const std::string& text, QuantityKind kind = QuantityKind::Length, const ParameterValues& values = {}) {
    auto v = evaluate_expression(text, kind, values);
    EXPECT_TRUE(v) << text << ": " << (v ? "" : v.error().text());
    return v.value_or(std::numeric_limits<double>::quiet_NaN());
}
std::string refusal(const std::string& text, QuantityKind kind = QuantityKind::Length,
                    const ParameterValues& values = {}) {
    auto v = evaluate_expression(text, kind, values);
    EXPECT_FALSE(v) << text;
    return v ? "" : v.error().text();
}
} // namespace

TEST(Expression, ABareNumberIsInMillimetres) {
    EXPECT_DOUBLE_EQ(value("6"), 6);
}
TEST(Expression, AnInchIs254MillimetresExactly) {
    EXPECT_DOUBLE_EQ(value("1/4 in"), 6.35);
} // international inch, 1959
TEST(Expression, FractionsOfAnInchAreTakenTogether) {
    EXPECT_DOUBLE_EQ(value("2 * 3/8 in"), 19.05);
    EXPECT_DOUBLE_EQ(value("10 mm + 1/2in"), 22.7);
    EXPECT_DOUBLE_EQ(value("10 mm / 4 mm"), 2.5);
    EXPECT_DOUBLE_EQ(value("(8 - 2)/4 mm"), 1.5);
}
TEST(Expression, NumbersAreReadAsPeopleWriteThem) {
    EXPECT_DOUBLE_EQ(value("6,2 mm"), 6.2);
    EXPECT_DOUBLE_EQ(value("2 * (1,5 + 0,25)"), 3.5);
    EXPECT_DOUBLE_EQ(value("0,125 in"), 3.175); // 1/8 inch
    EXPECT_DOUBLE_EQ(value("1 1/2 in"), 38.1);
    EXPECT_DOUBLE_EQ(value("1½\""), 38.1);
    EXPECT_DOUBLE_EQ(value("2 * 1 1/4 in"), 63.5);
    EXPECT_DOUBLE_EQ(value("-1 1/4 in"), -31.75);
    EXPECT_DOUBLE_EQ(value("¾ in + 1 mm"), 20.05);
    EXPECT_DOUBLE_EQ(value("6\u00a0mm"), 6);
    EXPECT_DOUBLE_EQ(value("2,5°", QuantityKind::Angle), 2.5);
    EXPECT_TRUE(is_plain_number("6,2 mm"));
    // Among the arguments of a function a comma parts them, also within brackets there.
    EXPECT_DOUBLE_EQ(value("max(6,2)"), 6);
    EXPECT_DOUBLE_EQ(value("min(4, 2.5) + 1,5"), 4);
    EXPECT_NE(refusal("max((6,2), 1)"), "");
    // Thousands and decimals look alike: nothing is guessed.
    EXPECT_NE(refusal("1,200 mm").find("two ways"), std::string::npos);
    EXPECT_NE(refusal("12,345,678").find("two ways"), std::string::npos);
    EXPECT_NE(refusal("2 * (1,200 + 5)").find("two ways"), std::string::npos) << "in brackets too";
    EXPECT_DOUBLE_EQ(value("(6,2)"), 6.2);
    EXPECT_DOUBLE_EQ(value("0,200 + 1,2345"), 1.4345);
    EXPECT_DOUBLE_EQ(value("max(1,200)"), 200);
    EXPECT_NE(refusal("6, 2"), "");
    EXPECT_NE(refusal("6,2,1"), "");
    EXPECT_NE(refusal("6,"), "");
    EXPECT_NE(refusal(",5,"), "");
    EXPECT_NE(refusal("1 1/0 in"), "");
}
TEST(Expression, ASignOfADiameterIsLeftToWhoAsks) {
    EXPECT_DOUBLE_EQ(value("⌀6"), 6); // ISO 129-1: the sign before the number
    EXPECT_DOUBLE_EQ(value(" Ø 6,5 mm"), 6.5);
    EXPECT_TRUE(is_told_as_diameter("⌀6"));
    EXPECT_TRUE(is_told_as_diameter(" ø 1/4 in"));
    EXPECT_FALSE(is_told_as_diameter("6"));
    EXPECT_FALSE(is_told_as_diameter(""));
    EXPECT_TRUE(is_plain_number("⌀6 mm"));
    EXPECT_NE(refusal("6⌀"), "");
    EXPECT_NE(refusal("⌀"), "");
    EXPECT_NE(refusal("⌀30", QuantityKind::Angle).find("no length"), std::string::npos);
    EXPECT_EQ(names_in_expression("⌀ (peg + 1)"), std::vector<std::string>{"peg"});
    EXPECT_EQ(rename_in_expression("⌀ peg", "peg", "pin"), "⌀ pin");
}
TEST(Expression, APlainNumberIsTheSameWithAndWithoutTheParser) {
    // A sum with nothing goes through the parser; the number alone does not.
    for (const char* text : {"0", "12", "-3.25", ".5", "1e3", "0.1 mm", "2cm", "1 in", "0.001 m", " 7 mm ", "-0"})
        EXPECT_DOUBLE_EQ(value(text), value(std::string("0 + (") + text + ")")) << text;
    EXPECT_DOUBLE_EQ(value("30 deg", QuantityKind::Angle), 30);
    EXPECT_NE(refusal("30 deg"), "") << "no length";
    EXPECT_NE(refusal("2 mm", QuantityKind::Angle), "");
    EXPECT_NE(refusal("2.5", QuantityKind::Count), "");
    EXPECT_DOUBLE_EQ(value("3", QuantityKind::Count), 3);
    EXPECT_NE(refusal("5 parrots"), "");
    EXPECT_NE(refusal("1.2.3"), "");
}
TEST(Expression, UnitsMayStandWithoutASpaceAndMix) {
    EXPECT_DOUBLE_EQ(value("2cm + 3mm - 0.001 m"), 22);
}
TEST(Expression, AnInchMarkIsAnInch) {
    EXPECT_DOUBLE_EQ(value("2\""), 50.8);
}
TEST(Expression, TrigonometryTakesAndGivesDegrees) {
    EXPECT_NEAR(value("10 * sin(30 deg)"), 5, 1e-12);
    EXPECT_NEAR(value("atan(3/4)", QuantityKind::Angle), 36.86989764584402, 1e-12); // the 3-4-5 triangle
}
TEST(Expression, ParametersTakePart) {
    EXPECT_DOUBLE_EQ(value("peg_d + 0.2", QuantityKind::Length, {{"peg_d", {6, QuantityKind::Length}}}), 6.2);
}
TEST(Expression, AnUnknownNameIsNamed) {
    EXPECT_NE(refusal("peg + 1").find("\"peg\""), std::string::npos);
}
TEST(Expression, AnAngleInALengthIsRefused) {
    EXPECT_NE(refusal("5 deg").find("this is a length"), std::string::npos);
}
TEST(Expression, ALengthInAnAngleIsRefused) {
    EXPECT_NE(refusal("5 mm", QuantityKind::Angle).find("this is an angle"), std::string::npos);
}
TEST(Expression, DivisionByZeroIsNoNumber) {
    EXPECT_NE(refusal("1/0").find("no number"), std::string::npos);
}
TEST(Expression, ACountIsWhole) {
    EXPECT_NE(refusal("2.5", QuantityKind::Count).find("whole"), std::string::npos);
    EXPECT_DOUBLE_EQ(value("7", QuantityKind::Count), 7);
}
TEST(Expression, HostileTextIsRefusedNotObeyed) {
    for (const char* text :
         {"", "   ", "(", "1 +", "1,2,3", "a = 3", "6 mmm", "--", "sin(", ")", "1e999999", "6 mm mm 7"})
        refusal(text, QuantityKind::Length, {{"a", {1, QuantityKind::Length}}});
    refusal(std::string(100000, '('));
    refusal(std::string(499, '-') + "x");
}
TEST(Expression, RenamingTouchesNamesAndNothingElse) {
    EXPECT_EQ(rename_in_expression("d + 2 * d_out + max(d, 3 mm)", "d", "peg"), "peg + 2 * d_out + max(peg, 3 mm)");
}
TEST(Expression, PlainNumbersAreToldFromFormulas) {
    EXPECT_TRUE(is_plain_number("6 mm"));
    EXPECT_TRUE(is_plain_number("-0.25in"));
    EXPECT_FALSE(is_plain_number("peg_d"));
    EXPECT_FALSE(is_plain_number("2 * 3"));
}

TEST(Parameters, FollowEachOtherInAnyOrder) {
    auto v = evaluate_parameters({{"b", "a * 2", QuantityKind::Length, ""}, {"a", "3 mm", QuantityKind::Length, ""}});
    ASSERT_TRUE(v);
    EXPECT_DOUBLE_EQ(v->at("b").value, 6);
}
TEST(Parameters, ACycleIsRefusedWithTheNamesInTheLoop) {
    auto v = evaluate_parameters({{"a", "b", QuantityKind::Length, ""},
                                  {"b", "c + 1", QuantityKind::Length, ""},
                                  {"c", "a", QuantityKind::Length, ""},
                                  {"d", "1", QuantityKind::Length, ""}});
    ASSERT_FALSE(v);
    EXPECT_NE(v.error().sentence.find("a → b → c → a"), std::string::npos) << v.error().sentence;
}
TEST(Parameters, ANameTwiceOrAUnitsNameIsRefused) {
    EXPECT_FALSE(evaluate_parameters({{"a", "1", QuantityKind::Length, ""}, {"a", "2", QuantityKind::Length, ""}}));
    EXPECT_TRUE(check_parameter_name("mm"));
    EXPECT_TRUE(check_parameter_name("2d"));
    EXPECT_FALSE(check_parameter_name("peg_d"));
}

TEST(Quantity, NumbersAreWrittenShortAndNeverMinusNought) {
    EXPECT_EQ(format_number(6.2), "6.2");
    EXPECT_EQ(format_number(-0.0001), "0");
    EXPECT_EQ(format_quantity(45, QuantityKind::Angle), "45°");
    EXPECT_EQ(format_duration(6720), "1 h 52 min");
}

// Texts.

TEST(Text, ListsAreTrimmedAndJoined) {
    EXPECT_EQ(trimmed("  a b\t\n"), "a b");
    EXPECT_EQ(trimmed(" \n "), "");
    EXPECT_EQ(listed("a; b ;;c; "), (std::vector<std::string>{"a", "b", "c"}));
    EXPECT_EQ(listed("a, b", ','), (std::vector<std::string>{"a", "b"}));
    EXPECT_TRUE(listed(" ;; ").empty());
    EXPECT_EQ(joined({"a", "b"}), "a, b");
    EXPECT_EQ(joined({}), "");
    EXPECT_EQ(listed(joined({"x", "y", "z"}, "; ")), (std::vector<std::string>{"x", "y", "z"}));
    EXPECT_EQ(counted(1, "edge", "edges"), "1 edge");
    EXPECT_EQ(counted(0, "edge", "edges"), "0 edges");
    EXPECT_EQ(as_words("size_x"), "size x");
    EXPECT_EQ(in_lower_case("Mend IT"), "mend it");
}
TEST(Text, WholeNumbersAreOnlyThose) {
    EXPECT_EQ(whole_number("12"), 12);
    EXPECT_EQ(whole_number("0"), 0);
    for (const char* other : {"", "-1", "+1", "1.5", "12a", " 12", "99999999999999999999", "0x1"})
        EXPECT_EQ(whole_number(other), -1) << other;
}

// Files.

TEST(Files, AreReadWholeAndWrittenWholeOrNotAtAll) {
    test::Folder folder;
    std::string bytes("a\0b\r\n\xff", 6);
    ASSERT_FALSE(write_file_safely(folder / "x.bin", bytes));
    EXPECT_EQ(*read_file(folder / "x.bin"), bytes);
    ASSERT_FALSE(write_file_safely(folder / "x.bin", "anew"));
    EXPECT_EQ(*read_file(folder / "x.bin"), "anew");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path), std::filesystem::directory_iterator()), 1)
        << "nothing is left beside it";
    EXPECT_FALSE(read_file(folder / "none"));
    EXPECT_FALSE(read_file(folder.path)) << "a folder is no file";
    EXPECT_TRUE(write_file_safely(folder / "no/such/folder/x", "a"));
    std::filesystem::create_directory(folder / "taken");
    EXPECT_TRUE(write_file_safely(folder / "taken", "a")) << "a folder is not overwritten";
    EXPECT_TRUE(std::filesystem::is_directory(folder / "taken"));
    // Larger than anything taken into memory: refused by its size, before reading. Sparse: takes no room.
    std::ofstream(folder / "huge") << "x";
    std::filesystem::resize_file(folder / "huge", largest_file_bytes + 1);
    EXPECT_FALSE(read_file(folder / "huge"));
}
TEST(Files, WhatAWriteCutShortLeftIsTakenAwayByTheNextOne) {
    test::Folder folder;
    // A process that is surely gone: one that was waited for.
    pid_t gone = fork();
    if (gone == 0) _exit(0);
    waitpid(gone, nullptr, 0);
    const std::string dead = ".part" + std::to_string(gone), mine = ".part" + std::to_string(getpid() == 1 ? 2 : 1);
    auto there = [&](const std::string& name) { return std::filesystem::exists(folder / name); };
    for (const std::string& name :
         {"a.txt" + dead, "b.txt" + dead, "a.txt" + mine, std::string("a.partial"), std::string("a.txt.part")})
        std::ofstream(folder / name) << "half";
    ASSERT_FALSE(write_file_safely(folder / "a.txt", "whole"));
    EXPECT_EQ(*read_file(folder / "a.txt"), "whole");
    EXPECT_FALSE(there("a.txt" + dead));
    EXPECT_TRUE(there("b.txt" + dead)) << "another file's is not its business";
    EXPECT_TRUE(there("a.txt" + mine)) << "process 1 runs, and may be writing";
    EXPECT_TRUE(there("a.partial") && there("a.txt.part")) << "only looks like it";
    remove_cut_short(folder.path);
    EXPECT_FALSE(there("b.txt" + dead));
    EXPECT_TRUE(there("a.txt") && there("a.partial"));
}
TEST(Files, NamesAreHarmless) {
    for (const char* name : {"Rain gauge, 2", "../../etc/passwd", "a/b", "con:", "", "...", "\n", "Größe"}) {
        std::string file = file_name_of(name);
        EXPECT_FALSE(file.empty()) << name;
        EXPECT_EQ(file.find('/'), std::string::npos) << name;
        EXPECT_NE(file[0], '.') << name;
    }
    EXPECT_EQ(ending_of("a/b.STL"), "stl");
    EXPECT_EQ(ending_of("a.b/c"), "");
}

// Stopping and holding.

TEST(Task, HeldWorkWaitsOnItsOwnThreadOnly) {
    Task task;
    std::atomic<int> looks{0};
    std::atomic<bool> begun{false}, end{false};
    std::thread worker([&] {
        task.cancel.runs_here();
        begun = true;
        while (!end && !task.stopped()) ++looks;
    });
    while (!begun) std::this_thread::yield();
    task.cancel.hold(true);
    EXPECT_FALSE(task.stopped()) << "a thread that only helps does not wait";
    task.cancel.hold(false);
    int now = looks;
    while (looks == now) std::this_thread::yield(); // it goes on: else this would not end
    task.cancel.hold(true);
    task.cancel.cancel(); // stopping lets go of what is held
    worker.join();
    EXPECT_TRUE(task.stopped());
    end = true;
}

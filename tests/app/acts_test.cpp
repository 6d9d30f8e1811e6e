// Whole things made by hand, with the acts counted: clicks, and keys that confirm. Digits and words typed do not count.
#include "app/outline/outline_editor.h"
#include "app/panels/bed_panel.h"
#include "window_test.h"

using namespace lp;
using std::numbers::pi;

namespace {

class Acts : public lp::Window {
  protected:
    int acts = 0;
    void key(Qt::Key which, Qt::KeyboardModifiers with = {}) {
        ++acts;
        press(which, with);
        settle();
    }
    void write(const char* text) {
        QWidget* focus = QApplication::focusWidget();
        ASSERT_NE(focus, nullptr);
        QTest::keyClicks(focus, text);
        QApplication::processEvents();
    }
    void click_at(QWidget* widget, const QPoint& at) {
        ++acts;
        QTest::mouseClick(widget, Qt::LeftButton, {}, at);
        settle();
    }
    void click_on(const Vec3& place) { click_at(window->view(), window->view()->project(place).toPoint()); }
    void do_by_line(const char* line) {
        key(Qt::Key_Slash);
        write(line);
        key(Qt::Key_Return);
    }
    /// By the list that a click on a word of the sentence opens.
    void choose_in_sentence(size_t row, const char* field, const QString& words) {
        ValueField* f = window->sheet()->rows().at(row)->field(field);
        ASSERT_NE(f, nullptr);
        click_at(f, f->rect().center());
        ++acts;
        take_from_menu(words);
        settle();
    }
    /// By keys: Shift+Tab back to the word, Enter opens its list, Down goes to the entry.
    void choose_by_keys(const char* field, const QString& words, bool forward = false) {
        for (int i = 0; i < 12; ++i) {
            auto* focus = QApplication::focusWidget();
            if (focus && focus->accessibleName().endsWith(QString(field))) break;
            forward ? key(Qt::Key_Tab) : key(Qt::Key_Backtab, Qt::ShiftModifier);
        }
        key(Qt::Key_Return);
        ASSERT_NE(menu(), nullptr) << field;
        for (int i = 0; i < 20 && !(menu()->activeAction() && menu()->activeAction()->text().startsWith(words)); ++i) {
            ++acts;
            QTest::keyClick(menu(), Qt::Key_Down);
        }
        ASSERT_TRUE(menu()->activeAction() && menu()->activeAction()->text().startsWith(words)) << words.toStdString();
        ++acts;
        QTest::keyClick(menu(), Qt::Key_Return);
        settle();
    }
    int digit_of(const QString& words) {
        const auto& offers = window->offers()->offers();
        for (size_t i = 0; i < offers.size() && i < 9; ++i)
            if (offers[i].words.startsWith(words)) return int(i) + 1;
        ADD_FAILURE() << "not offered: " << words.toStdString();
        return 0;
    }
    void take_digit(const QString& words) {
        if (int digit = digit_of(words)) key(Qt::Key(Qt::Key_0 + digit));
    }
    /// The box with its lid as it must come out, whoever made it and how.
    void expect_seed_box() {
        ASSERT_EQ(session->project()->parts.size(), 2u);
        for (const PartResult& p : session->results().evaluation()->parts)
            for (const StepOutcome& s : p.steps) EXPECT_TRUE(s.ok) << p.name << ": " << s.says;
        const PartResult &box = session->results().evaluation()->parts[0],
                         &lid = session->results().evaluation()->parts[1];
        auto section = [](double a, double b, double r) { return a * b - (4 - pi) * r * r; };
        const double outside = section(84, 52, 4), inside = section(80, 48, 2), gap = 0.25;
        EXPECT_NEAR(box.mass.volume_mm3, outside * 31 - inside * 29, 1e-3);
        // The plate over the box's rim, and the lip within its walls, a gap away from both.
        const double lip = section(80 - 2 * gap, 48 - 2 * gap, 2 - gap);
        const double whole = outside * (3 - gap) + lip * (4 + gap);
        EXPECT_LT(lid.mass.volume_mm3, whole - 20) << "a word is sunk into it";
        EXPECT_GT(lid.mass.volume_mm3, whole - 400);
        ASSERT_EQ(session->results().analysis()->contacts.size(), 1u);
        EXPECT_EQ(session->results().analysis()->contacts[0].state, FitState::Right);
        EXPECT_EQ(session->results().analysis()->contacts[0].fit, "slide");
        ASSERT_EQ(session->last_export().size(), 4u) << "two parts in one file, and each in one of its own";
        for (const ReadBack& back : session->last_export()) EXPECT_TRUE(back.same) << back.says;
    }
};

} // namespace

TEST_F(Acts, ASeedBoxWithItsLidInAtMostSixtyActs) {
    const QString folder_name = QString::fromStdString((folder / "out").string());
    window->export_panel()->set_folder(folder_name);
    for (QPushButton* way : window->findChildren<QPushButton*>())
        if (way->text() == "Start with a block" && way->isVisible()) click_at(way, way->rect().center());
    write("84"), key(Qt::Key_Tab), write("52"), key(Qt::Key_Tab), write("31"), key(Qt::Key_Return);
    do_by_line("fillet 4");
    choose_in_sentence(1, "edges", "upright edges");
    click_on({0, 0, 31});
    take_digit("Shell");
    write("2"), key(Qt::Key_Return);
    do_by_line("new part");
    do_by_line("block 84 52 7 0 0 27");
    do_by_line("fillet 4");
    choose_in_sentence(1, "edges", "upright edges");
    do_by_line("cut with a fit");
    choose_in_sentence(2, "tool", "Part");
    click_on({0, 0, 34});
    do_by_line("letters");
    ASSERT_TRUE(window->outline()->active());
    click_at(window->view(), window->outline()->to_view({20, 20}).toPoint());
    write("SEEDS"), key(Qt::Key_Return);
    do_by_line("cut in");
    write("0.8"), key(Qt::Key_Return);
    key(Qt::Key_5, Qt::AltModifier);
    ASSERT_NE(window->export_panel()->export_button(), nullptr);
    click_at(window->export_panel()->export_button(), window->export_panel()->export_button()->rect().center());
    expect_seed_box();
    std::printf("by pointer and keys: %d acts\n", acts);
    EXPECT_LE(acts, 60);
}

TEST_F(Acts, TheSameBoxByKeyboardAlone) {
    window->export_panel()->set_folder(QString::fromStdString((folder / "out").string()));
    ASSERT_TRUE(window->view()->hasFocus());
    key(Qt::Key_1);
    write("84"), key(Qt::Key_Tab), write("52"), key(Qt::Key_Tab), write("31"), key(Qt::Key_Return);
    auto round_upright_edges = [&] {
        do_by_line("fillet");
        write("4");
        choose_by_keys("edges", "upright edges");
        key(Qt::Key_F6); // from the column to the view
    };
    round_upright_edges();
    do_by_line("shell");
    write("2");
    choose_by_keys("open", "The top face", true);
    key(Qt::Key_F6);
    do_by_line("new part");
    do_by_line("block 84 52 7 0 0 27");
    round_upright_edges();
    do_by_line("cut with a fit"); // with the one other part there is
    key(Qt::Key_F6);
    do_by_line("outline 34");
    ASSERT_TRUE(window->outline()->active());
    do_by_line("text -15 -5");
    write("SEEDS"), key(Qt::Key_Return);
    do_by_line("cut in");
    write("0.8"), key(Qt::Key_Return);
    key(Qt::Key_5, Qt::AltModifier);
    take_digit("Export");
    expect_seed_box();
    std::printf("by keyboard alone: %d acts\n", acts);
    EXPECT_LE(acts, 90);
}

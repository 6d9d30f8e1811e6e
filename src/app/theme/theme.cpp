#include "app/theme/theme.h"
#include "app/settings.h"
#include "project/map_colours.h"
#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>
#include <QWidget>
#include <algorithm>
#include <cmath>
#include <utility>

namespace lp::theme {

QColor map_colour(double t) {
    return QColor::fromRgb(map_colour_number(t));
}

bool glides() {
    return !qApp->property("still").toBool();
}

QString css(Role role) {
    return colour(role).name();
}

void give_ground(QWidget* widget, Role role) {
    QPalette palette = widget->palette();
    palette.setColor(QPalette::Window, colour(role));
    widget->setPalette(palette);
    widget->setAutoFillBackground(true);
}

QFont words(double px, QFont::Weight weight) {
    QFont font("Manrope");
    font.setPixelSize(qRound(px));
    font.setWeight(weight);
    return font;
}

QFont numbers(double px, bool bold) {
    QFont font("B612");
    font.setPixelSize(qRound(px));
    font.setBold(bold);
    return font;
}

namespace {
void add_fonts() {
    for (const char* file : {"Manrope-Regular.ttf", "Manrope-Medium.ttf", "Manrope-SemiBold.ttf", "Manrope-Bold.ttf",
                             "Manrope-ExtraBold.ttf", "B612-Regular.otf", "B612-Bold.otf"})
        QFontDatabase::addApplicationFont(QString(":/loose-peg/fonts/") + file);
}
} // namespace

void apply(QApplication& app) {
    static const bool desktop_is_dark = app.palette().color(QPalette::Window).lightness() < 128; // before ours is set
    const Settings::Look look = settings().look;
    use_night_bench(look == Settings::Look::NightBench || (look == Settings::Look::AsDesktop && desktop_is_dark));
    static bool fonts_are_there = false;
    if (!std::exchange(fonts_are_there, true)) add_fonts();
    app.setStyle(QStyleFactory::create("Fusion"));
    app.setFont(words());
    QPalette palette;
    palette.setColor(QPalette::Window, colour(Role::Paper));
    palette.setColor(QPalette::Base, colour(Role::Field));
    palette.setColor(QPalette::AlternateBase, colour(Role::Card));
    palette.setColor(QPalette::Button, colour(Role::Field));
    for (auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        palette.setColor(role, colour(Role::Ink));
    palette.setColor(QPalette::PlaceholderText, colour(Role::SoftInk));
    palette.setColor(QPalette::Highlight, colour(Role::Accent));
    palette.setColor(QPalette::HighlightedText, colour(Role::OnAccent));
    palette.setColor(QPalette::ToolTipBase, colour(Role::Card));
    palette.setColor(QPalette::Link, colour(Role::Accent));
    app.setPalette(palette);
    QString sheet = R"(
QToolTip { background: @card; color: @ink; border: 1px solid @line; padding: 4px 6px; }
QPushButton { background: @field; color: @ink; border: 1px solid @line; border-radius: 4px; padding: 5px 10px; font-weight: 600; }
QPushButton:hover { border-color: @accent; background: @wash; }
QPushButton:focus { border: 2px solid @accent; padding: 4px 9px; outline: none; }
QPushButton:pressed { background: @wash; }
QPushButton:disabled { color: @soft; background: @card; }
QPushButton::menu-indicator { width: 0; height: 0; }
QPushButton[flat="true"] { background: transparent; border-color: transparent; }
QPushButton[primary="true"] { background: @accent; color: @onaccent; border-color: @accent; }
QPushButton[primary="true"]:hover { background: @selected; }
QPushButton:checked { background: @accent; color: @onaccent; border-color: @accent; }
QLineEdit, QPlainTextEdit { background: @field; color: @ink; border: 1px solid @line; border-radius: 4px; padding: 2px 6px; selection-background-color: @accent; }
QLineEdit:focus { border: 1px solid @accent; }
QFrame#act-panel { background: @card; border: 1px solid @line; border-radius: 6px; }
QFrame#act-panel QListView { background: @card; border: none; outline: none; }
QListWidget#act-groups::item { padding: 3px 8px; border-radius: 3px; color: @ink; }
QListWidget#act-groups::item:selected { background: @wash; color: @ink; font-weight: 700; }
QMenu { background: @card; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 5px 18px 5px 12px; border-radius: 3px; }
QMenu::item:selected { background: @wash; color: @ink; }
QMenu::separator { height: 1px; background: @line; margin: 4px 6px; }
QScrollArea, QAbstractScrollArea { border: none; background: transparent; }
QScrollBar:vertical { background: transparent; width: 9px; margin: 0; }
QScrollBar::handle:vertical { background: @line; border-radius: 4px; min-height: 30px; }
QScrollBar::handle:vertical:hover { background: @soft; }
QScrollBar:horizontal { background: transparent; height: 9px; margin: 0; }
QScrollBar::handle:horizontal { background: @line; border-radius: 4px; min-width: 30px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QHeaderView::section { background: @ledger; color: @soft; border: none; border-bottom: 1px solid @line; padding: 4px 8px; font-weight: 600; }
QTableWidget { background: @card; gridline-color: transparent; border: none; selection-background-color: @wash; selection-color: @ink; }
QTableWidget::item { padding: 2px 8px; border-bottom: 1px solid @paper; }
QTableWidget::item:focus { border: 1px solid @accent; }
QProgressBar { border: 1px solid @line; border-radius: 3px; background: @field; max-height: 6px; min-height: 6px; }
QProgressBar::chunk { background: @accent; border-radius: 2px; }
)";
    const std::pair<const char*, Role> roles[] = {
        {"@card", Role::Card},           {"@ink", Role::Ink},           {"@line", Role::Line},
        {"@field", Role::Field},         {"@accent", Role::Accent},     {"@wash", Role::Wash},
        {"@soft", Role::SoftInk},        {"@onaccent", Role::OnAccent}, {"@selected", Role::Selected},
        {"@ledger", Role::LedgerGround}, {"@paper", Role::Paper}};
    for (const auto& [name, role] : roles) sheet.replace(name, css(role));
    app.setStyleSheet(sheet);
}

} // namespace lp::theme

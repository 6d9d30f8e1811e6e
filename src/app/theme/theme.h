// Every colour, font and measure of the window, by role. Nothing else names a colour.
#pragma once
#include <QColor>
#include <QFont>
#include <QString>
#include <vector>

class QApplication;
class QWidget;

namespace lp::theme {

enum class Role {
    Paper,
    Card,
    LedgerGround,
    Line,
    Ink,
    SoftInk,
    Accent,
    OnAccent,
    Wash,
    Brass,
    BrassRule,
    Tape,
    TapeTick,
    TapeInk,
    Mat,
    MatGrid,
    MatInk,
    Glass,
    GlassBody,
    GlassEdge,
    Hanging,
    HangingHatch,
    Wrong,
    Slack,
    Layer,
    LayerSupport,
    ViewTop,
    ViewBottom,
    Field,
    Key,
    Selected,
    Hover,
    Section,
    BodyEdge,  ///< lines of bodies, on any filament's colour
    ChosenEdge ///< the dark one of the two lines of what is chosen
};
/// On paper, or on the night bench.
QColor colour(Role role);
std::vector<Role> all_roles();
void use_night_bench(bool on);
bool is_night_bench();
/// Whether things glide instead of jumping: not where the application says "still" (people who mind motion, tests).
bool glides();
/// Of maps, t from 0 to 1: evenly lighter from dark to light, so that it reads in grey as well.
QColor map_colour(double t);

// Type: words and numbers. Sizes in pixels at scale 1.
QFont words(double px = 13.5, QFont::Weight weight = QFont::Medium);
QFont numbers(double px = 13, bool bold = false);

// Measures in pixels.
inline constexpr int tape_height = 56; ///< the top bar; the tape itself is 38
inline constexpr int left_width = 344;
inline constexpr int strip_width = 92;
inline constexpr int offers_height = 52;
inline constexpr int ledger_height = 40;
inline constexpr int row_height = 27;
inline constexpr int margin = 14;
inline constexpr int radius = 4;

/// Loads the shipped fonts and sets palette, font and style sheet, as the settings say. May be called again.
void apply(QApplication& app);
/// Colour as "#rrggbb" for style sheets and rich text.
QString css(Role role);
/// Fills a widget's ground with a colour.
void give_ground(QWidget* widget, Role role);

} // namespace lp::theme
